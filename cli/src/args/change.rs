//! The changes of an edit, which are given as options in any order.

use sturdy_quilt::{CellPos, CellRect, ScreenSize};

use super::parse::{parse_cell, parse_size};

/// The changes of an edit, in the order in which they were given.
#[derive(Debug)]
pub(crate) struct ChangeArgs(pub(crate) Vec<Change>);

/// One change of an edit.
#[derive(Debug, PartialEq)]
pub(crate) enum Change {
    Put { layer: String, cell: CellPos, tile: String },
    Erase { layer: String, cell: CellPos },
    Fill { layer: String, rect: CellRect, tile: String },
}

impl clap::Args for ChangeArgs {
    fn augment_args(command: clap::Command) -> clap::Command {
        let change = |id: &'static str, names: &[&'static str]| {
            let action = clap::ArgAction::Append;
            let values = names.len();
            clap::Arg::new(id)
                .long(id)
                .num_args(values)
                .value_names(names.to_vec())
                .action(action)
                .allow_hyphen_values(true)
        };
        command
            .arg(
                change("put", &["LAYER", "X,Y", "TILE"])
                    .help("Put a tile into a cell, for example terrace/eaves+90+raise"),
            )
            .arg(change("erase", &["LAYER", "X,Y"]).help("Empty a cell"))
            .arg(
                change("fill", &["LAYER", "X,Y", "WxH", "TILE"])
                    .help("Put a tile into every cell of a rectangle; `empty` empties it"),
            )
            .group(
                clap::ArgGroup::new("changes")
                    .args(["put", "erase", "fill"])
                    .multiple(true)
                    .required(true),
            )
    }

    fn augment_args_for_update(command: clap::Command) -> clap::Command {
        ChangeArgs::augment_args(command)
    }
}

impl clap::FromArgMatches for ChangeArgs {
    fn from_arg_matches(matches: &clap::ArgMatches) -> Result<ChangeArgs, clap::Error> {
        let mut found: Vec<(usize, Change)> = Vec::new();
        for kind in ["put", "erase", "fill"] {
            let indices = matches.indices_of(kind).into_iter().flatten();
            let values = matches.get_occurrences::<String>(kind).into_iter().flatten();
            let values: Vec<Vec<&String>> = values.map(Iterator::collect).collect();
            let width = values.first().map_or(1, Vec::len);
            for (index, values) in indices.step_by(width).zip(&values) {
                let change = parse_change(kind, values).map_err(|message| {
                    clap::Error::raw(
                        clap::error::ErrorKind::ValueValidation,
                        format!("--{kind}: {message}\n"),
                    )
                })?;
                found.push((index, change));
            }
        }
        found.sort_by_key(|(index, _)| *index);
        Ok(ChangeArgs(found.into_iter().map(|(_, change)| change).collect()))
    }

    fn update_from_arg_matches(&mut self, matches: &clap::ArgMatches) -> Result<(), clap::Error> {
        *self = ChangeArgs::from_arg_matches(matches)?;
        Ok(())
    }
}

fn parse_change(kind: &str, values: &[&String]) -> Result<Change, String> {
    let layer = values[0].clone();
    let cell = parse_cell(values[1])?;
    Ok(match kind {
        "put" => Change::Put { layer, cell, tile: values[2].clone() },
        "erase" => Change::Erase { layer, cell },
        _ => {
            let ScreenSize { width, height } = parse_size(values[2])?;
            Change::Fill {
                layer,
                rect: CellRect::new(cell, width, height),
                tile: values[3].clone(),
            }
        }
    })
}
