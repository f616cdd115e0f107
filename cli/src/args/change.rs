//! The changes of an edit, which are given as options in any order.

use std::path::PathBuf;

use crate::script::{COMMANDS, Change, parse_line, parse_words, read_script};

/// The changes of an edit, in the order in which they were given.
#[derive(Debug)]
pub(crate) struct ChangeArgs(Vec<Given>);

/// One of them.
#[derive(Debug)]
enum Given {
    /// With how it was written.
    Change(String, Change),
    Script(PathBuf),
}

const DO: &str = "do";
const SCRIPT: &str = "script";

impl ChangeArgs {
    /// All changes in their order, each with where it was given.
    pub(crate) fn read(&self) -> anyhow::Result<Vec<(String, Change)>> {
        let mut changes = Vec::new();
        for given in &self.0 {
            match given {
                Given::Change(place, change) => changes.push((place.clone(), change.clone())),
                Given::Script(path) => changes.extend(read_script(path)?),
            }
        }
        Ok(changes)
    }
}

/// The options that take so many words, with their help.
fn options() -> impl Iterator<Item = (&'static str, &'static [&'static str], &'static str)> {
    let own = COMMANDS.iter().filter(|command| command.is_option);
    let own = own.map(|command| (command.name, command.words, command.help));
    let lines: [(_, &'static [&'static str], _); 2] = [
        (
            DO,
            &["LINE"],
            "Make a change that is written as a line of a script, as `--do \"grow 2\"`",
        ),
        (
            SCRIPT,
            &["FILE"],
            "Make the changes of a script, one a line; `-` reads the standard input",
        ),
    ];
    own.chain(lines)
}

impl clap::Args for ChangeArgs {
    fn augment_args(command: clap::Command) -> clap::Command {
        let command = options().fold(command, |command, (id, names, help)| {
            let option = clap::Arg::new(id)
                .long(id)
                .num_args(names.len())
                .value_names(names.to_vec())
                .action(clap::ArgAction::Append)
                .allow_hyphen_values(true)
                .help(help);
            command.arg(option)
        });
        let all = options().map(|(id, ..)| id);
        command.group(clap::ArgGroup::new("changes").args(all).multiple(true).required(true))
    }

    fn augment_args_for_update(command: clap::Command) -> clap::Command {
        ChangeArgs::augment_args(command)
    }
}

impl clap::FromArgMatches for ChangeArgs {
    fn from_arg_matches(matches: &clap::ArgMatches) -> Result<ChangeArgs, clap::Error> {
        let mut found: Vec<(usize, Given)> = Vec::new();
        for (id, names, _) in options() {
            let indices = matches.indices_of(id).into_iter().flatten();
            let values = matches.get_occurrences::<String>(id).into_iter().flatten();
            let values: Vec<Vec<&String>> = values.map(Iterator::collect).collect();
            for (index, values) in indices.step_by(names.len()).zip(&values) {
                let given = given(id, values).map_err(|message| {
                    clap::Error::raw(
                        clap::error::ErrorKind::ValueValidation,
                        format!("--{id}: {message}\n"),
                    )
                })?;
                found.extend(given.map(|given| (index, given)));
            }
        }
        found.sort_by_key(|(index, _)| *index);
        Ok(ChangeArgs(found.into_iter().map(|(_, given)| given).collect()))
    }

    fn update_from_arg_matches(&mut self, matches: &clap::ArgMatches) -> Result<(), clap::Error> {
        *self = ChangeArgs::from_arg_matches(matches)?;
        Ok(())
    }
}

/// Reads an option; `None` for a line without words.
fn given(id: &str, values: &[&String]) -> Result<Option<Given>, String> {
    let words: Vec<&str> = values.iter().map(|word| word.as_str()).collect();
    let place = format!("--{id} {}", words.join(" "));
    match COMMANDS.iter().find(|command| command.name == id) {
        Some(command) => {
            parse_words(command, values).map(|change| Some(Given::Change(place, change)))
        }
        None if id == SCRIPT => Ok(Some(Given::Script(values[0].into()))),
        None => {
            let change = parse_line(values[0]).map_err(|fault| fault.message)?;
            Ok(change.map(|change| Given::Change(place, change)))
        }
    }
}
