//! The command-line tool of sturdy-quilt.

mod args;
mod commands;
mod map;
mod output;
mod problems;
mod script;

use std::io::Write;
use std::process::ExitCode;

use clap::Parser;

use args::{Args, Command};

/// What a command ends with when nothing kept it from its work.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Outcome {
    /// All is well.
    Fine,
    /// Something was found to be wrong, and has been said.
    Found,
}

fn main() -> ExitCode {
    output::end_on_interrupt();
    let args = match Args::try_parse() {
        Ok(args) => args,
        Err(error) => args::show_misunderstood(error),
    };
    let mut out = anstream::stdout().lock();
    let done = run(args.command, &mut out).and_then(|outcome| {
        out.flush()?;
        Ok(outcome)
    });
    match done {
        Ok(Outcome::Fine) => ExitCode::SUCCESS,
        Ok(Outcome::Found) => ExitCode::FAILURE,
        Err(error) => output::unsaid(error).unwrap_or_else(|error| {
            problems::show_failure(&error);
            ExitCode::FAILURE
        }),
    }
}

fn run(command: Command, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    match command {
        Command::Demo(args) => commands::demo::run(&args, out),
        Command::Info(args) => commands::info::run(&args, out),
        Command::Check(args) => commands::check::run(&args, out),
        Command::Draw(args) => commands::draw::run(&args, out),
        Command::At(args) => commands::at::run(&args, out),
        Command::Move(args) => commands::move_box::run(&args, out),
        Command::Ray(args) => commands::ray::run(&args, out),
        Command::Sight(args) => commands::sight::run(&args, out),
        Command::Reach(args) => commands::reach::run(&args, out),
        Command::Outline(args) => commands::outline::run(&args, out),
        Command::Edit(args) => commands::edit::run(&args, out),
        Command::Diff(args) => commands::diff::run(&args, out),
        Command::Apply(args) => commands::apply::run(&args, out),
        Command::Log(args) => commands::journal::log(&args, out),
        Command::Undo(args) => commands::journal::undo(&args, out),
        Command::Convert(args) => commands::convert::run(&args, out),
        Command::Schema { kind } => commands::schema::run(kind, out),
        Command::Completions { shell } => {
            out.write_all(&args::completions(shell))?;
            Ok(Outcome::Fine)
        }
    }
}
