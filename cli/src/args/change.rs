//! The changes of an edit, which are given as options in any order.

use sturdy_quilt::{CellPos, CellRect, ScreenSize};

use super::parse::{parse_area, parse_cell, parse_size};

/// The changes of an edit, in the order in which they were given.
#[derive(Debug)]
pub(crate) struct ChangeArgs(pub(crate) Vec<Change>);

/// One change of an edit.
#[derive(Debug, PartialEq)]
pub(crate) enum Change {
    Put { layer: String, cell: CellPos, tile: String },
    Erase { layer: String, cell: CellPos },
    Fill { layer: String, rect: CellRect, tile: String },
    Vary { layer: String, rect: CellRect },
    Mark { name: String, place: Mark },
    Unmark { name: String },
}

/// Where a marker is set.
#[derive(Debug, PartialEq)]
pub(crate) enum Mark {
    Cell(CellPos),
    Area(CellRect),
}

/// The options, with the names of their values and what they do.
const OPTIONS: [(&str, &[&str], &str); 6] = [
    (
        "put",
        &["LAYER", "X,Y", "TILE"],
        "Put a tile into a cell, for example terrace/eaves+90+raise; of a tile with variants, the one that its place and the seed choose",
    ),
    ("erase", &["LAYER", "X,Y"], "Empty a cell"),
    (
        "fill",
        &["LAYER", "X,Y", "WxH", "TILE"],
        "Put a tile, or its variants, into every cell of a rectangle; `empty` empties it",
    ),
    (
        "vary",
        &["LAYER", "X,Y", "WxH"],
        "Choose the variants of the tiles anew that lie in a rectangle",
    ),
    (
        "mark",
        &["NAME", "PLACE"],
        "Set a marker to a cell, X,Y, or an area of cells, X,Y,WxH; one that is there keeps its kind, ground and data",
    ),
    ("unmark", &["NAME"], "Remove a marker"),
];

impl clap::Args for ChangeArgs {
    fn augment_args(command: clap::Command) -> clap::Command {
        let command = OPTIONS.into_iter().fold(command, |command, (id, names, help)| {
            let option = clap::Arg::new(id)
                .long(id)
                .num_args(names.len())
                .value_names(names.to_vec())
                .action(clap::ArgAction::Append)
                .allow_hyphen_values(true)
                .help(help);
            command.arg(option)
        });
        let all = OPTIONS.map(|(id, ..)| id);
        command.group(clap::ArgGroup::new("changes").args(all).multiple(true).required(true))
    }

    fn augment_args_for_update(command: clap::Command) -> clap::Command {
        ChangeArgs::augment_args(command)
    }
}

impl clap::FromArgMatches for ChangeArgs {
    fn from_arg_matches(matches: &clap::ArgMatches) -> Result<ChangeArgs, clap::Error> {
        let mut found: Vec<(usize, Change)> = Vec::new();
        for (kind, names, _) in OPTIONS {
            let indices = matches.indices_of(kind).into_iter().flatten();
            let values = matches.get_occurrences::<String>(kind).into_iter().flatten();
            let values: Vec<Vec<&String>> = values.map(Iterator::collect).collect();
            for (index, values) in indices.step_by(names.len()).zip(&values) {
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
    let name = values[0].clone();
    let cell = || parse_cell(values[1]);
    let rect = || {
        let ScreenSize { width, height } = parse_size(values[2])?;
        Ok::<CellRect, String>(CellRect::new(cell()?, width, height))
    };
    Ok(match kind {
        "put" => Change::Put { layer: name, cell: cell()?, tile: values[2].clone() },
        "erase" => Change::Erase { layer: name, cell: cell()? },
        "fill" => Change::Fill { layer: name, rect: rect()?, tile: values[3].clone() },
        "vary" => Change::Vary { layer: name, rect: rect()? },
        "mark" => {
            let place = match values[1].contains('x') {
                true => Mark::Area(parse_area(values[1])?),
                false => Mark::Cell(cell()?),
            };
            Change::Mark { name, place }
        }
        _ => Change::Unmark { name },
    })
}
