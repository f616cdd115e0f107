//! Runs the library against what a user would write or pick instead.
//!
//! `versus [FILTER]` prints a line for each comparison whose name contains the filter:
//! `NAME ours_ns other_ns ratio mark ok|miss`, medians of samples taken by turns, and behind them
//! the minima. `count [FILTER]` counts instructions of what must not depend on the size of a map.

mod count;
mod harness;
mod lines;
mod rivals;
mod scenes;

use std::process::ExitCode;

use clap::{Parser, Subcommand};
use harness::Versus;

/// Runs the library against what a user would write or pick instead.
#[derive(Debug, Parser)]
struct Args {
    #[command(subcommand)]
    command: Command,
    /// Fail when a mark is missed
    #[arg(long, global = true)]
    strict: bool,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Time ours against others, by turns: NAME ours_ns other_ns ratio mark ok|miss
    Versus {
        /// Only lines whose names contain this
        filter: Option<String>,
    },
    /// Count instructions on a large and a small map (needs valgrind)
    Count {
        /// Only cases whose names contain this
        filter: Option<String>,
    },
    /// One case, for counting
    #[command(hide = true)]
    Case {
        /// Which
        name: String,
        /// Cells in a row of the map
        side: u32,
        /// How often
        times: u32,
    },
}

fn main() -> Result<ExitCode, Box<dyn std::error::Error>> {
    let args = Args::parse();
    let missed = match args.command {
        Command::Versus { filter } => {
            let mut versus = Versus::new(filter);
            lines::cells::run(&mut versus);
            lines::edits::run(&mut versus);
            lines::tools::run(&mut versus);
            lines::drawing::run(&mut versus);
            lines::minimap::run(&mut versus);
            lines::ground::run(&mut versus);
            lines::files::run(&mut versus);
            lines::forms::run(&mut versus);
            versus.missed()
        }
        Command::Count { filter } => count::run(&filter.unwrap_or_default())?,
        Command::Case { name, side, times } => {
            count::case(&name, side, times)?;
            0
        }
    };
    Ok(if missed > 0 && args.strict { ExitCode::FAILURE } else { ExitCode::SUCCESS })
}
