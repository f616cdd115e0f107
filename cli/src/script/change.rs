//! What a line can change, and how it is written.

use sturdy_quilt::cell_set::Neighbors;
use sturdy_quilt::edit::Alike;
use sturdy_quilt::tile::Turn;
use sturdy_quilt::units::CellOffset;
use sturdy_quilt::{CellPos, CellRect};

/// One change of an edit.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Change {
    Put {
        layer: String,
        cell: CellPos,
        tile: String,
    },
    Erase {
        layer: String,
        cell: CellPos,
    },
    Fill {
        layer: String,
        rect: CellRect,
        tile: String,
    },
    /// Lays a tile into a shape.
    Shape {
        layer: String,
        shape: Shape,
        tile: String,
    },
    Vary {
        layer: String,
        rect: CellRect,
    },
    Mark {
        name: String,
        place: Mark,
    },
    Unmark {
        name: String,
    },
    Select {
        join: Join,
        shape: Shape,
    },
    Grow(u32),
    Shrink(u32),
    Outline,
    /// Lays tiles by weight into the selected cells.
    Lay {
        layers: Vec<String>,
        tiles: Vec<(String, u32)>,
    },
    Replace {
        layers: Vec<String>,
        old: String,
        tiles: Vec<(String, u32)>,
    },
    Shift {
        layers: Vec<String>,
        by: CellOffset,
    },
    Turn {
        layers: Vec<String>,
        turn: Turn,
    },
    Copy {
        layers: Vec<String>,
    },
    Paste {
        corner: CellPos,
        turn: Turn,
    },
    Set {
        layer: String,
        number: f64,
    },
    Increase {
        layer: String,
        number: f64,
    },
    Clamp {
        layer: String,
        least: f64,
        most: f64,
    },
    Brush {
        layer: String,
        center: CellPos,
        radius_world: f64,
        number: f64,
    },
}

/// Where a marker is set.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Mark {
    Cell(CellPos),
    Area(CellRect),
}

/// How a shape changes what is selected.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Join {
    Only,
    Add,
    Less,
    Within,
}

/// Some cells.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Shape {
    All,
    Rect(CellRect),
    Line(Vec<CellPos>),
    Ellipse(CellRect),
    Polygon(Vec<CellPos>),
    Flood { layer: String, cell: CellPos, alike: Alike, neighbors: Neighbors },
    Like { layer: String, tile: String },
}

/// A command of the language.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Command {
    pub(crate) name: &'static str,
    /// The words that follow it; an ending `...` stands for several.
    pub(crate) words: &'static [&'static str],
    pub(crate) help: &'static str,
    /// Whether it is an option of the command line by itself.
    pub(crate) is_option: bool,
}

const fn option(name: &'static str, words: &'static [&'static str], help: &'static str) -> Command {
    Command { name, words, help, is_option: true }
}

const fn line(name: &'static str, words: &'static [&'static str], help: &'static str) -> Command {
    Command { name, words, help, is_option: false }
}

/// All commands, as they are listed.
pub(crate) const COMMANDS: [Command; 26] = [
    option(
        "put",
        &["LAYER", "X,Y", "TILE"],
        "Put a tile into a cell, for example terrace/eaves+90+raise; of a tile with variants, the one that its place and the seed choose",
    ),
    option("erase", &["LAYER", "X,Y"], "Empty a cell"),
    option(
        "fill",
        &["LAYER", "X,Y", "WxH", "TILE"],
        "Put a tile, or its variants, into every cell of a rectangle; `empty` empties it",
    ),
    option("line", &["LAYER", "X,Y", "X,Y", "TILE"], "Put a tile into the cells of a line"),
    option(
        "ellipse",
        &["LAYER", "X,Y", "WxH", "TILE"],
        "Put a tile into the cells of an ellipse that fills a rectangle",
    ),
    option(
        "flood",
        &["LAYER", "X,Y", "TILE"],
        "Put a tile into a cell and all that are reached from it over cells that hold the same",
    ),
    option(
        "vary",
        &["LAYER", "X,Y", "WxH"],
        "Choose the variants of the tiles anew that lie in a rectangle",
    ),
    option(
        "mark",
        &["NAME", "PLACE"],
        "Set a marker to a cell, X,Y, or an area of cells, X,Y,WxH; one that is there keeps its kind, ground and data",
    ),
    option("unmark", &["NAME"], "Remove a marker"),
    line("select", &["SHAPE..."], "Select the cells of a shape, and no others"),
    line("add", &["SHAPE..."], "Select the cells of a shape too"),
    line("less", &["SHAPE..."], "Select the cells of a shape no longer"),
    line("within", &["SHAPE..."], "Select only those that are in a shape too"),
    line("grow", &["N"], "Select what is up to N steps away too"),
    line("shrink", &["N"], "Select no longer what is less than N steps from the edge"),
    line("outline", &[], "Select only the edge of what is selected"),
    line(
        "lay",
        &["LAYERS", "TILE..."],
        "Lay tiles into the selected cells, by weight: grass*3 flowers",
    ),
    line(
        "replace",
        &["LAYERS", "OLD", "TILE..."],
        "Lay tiles where the selected cells show another one",
    ),
    line("shift", &["LAYERS", "X,Y"], "Move what the selected cells hold so many columns and rows"),
    line("turn", &["LAYERS", "TURN"], "Turn what they hold: 90, 180, 270 or mirror"),
    line("copy", &["LAYERS"], "Take up what they hold"),
    line("paste", &["X,Y", "[TURN]"], "Put down what was copied, from a cell on"),
    line("set", &["VALUES", "NUMBER"], "Set the values of the selected cells"),
    line("increase", &["VALUES", "NUMBER"], "Add to their values"),
    line("clamp", &["VALUES", "LEAST", "MOST"], "Bring their values into a range"),
    line(
        "brush",
        &["VALUES", "X,Y", "RADIUS", "NUMBER"],
        "Add to the values around a cell, with a soft edge; RADIUS in world units",
    ),
];

/// How shapes are written.
pub(crate) const SHAPES: [(&str, &str); 7] = [
    ("all", ""),
    ("rect", "X,Y WxH"),
    ("line", "X,Y X,Y..."),
    ("ellipse", "X,Y WxH"),
    ("polygon", "X,Y X,Y X,Y..."),
    ("flood", "LAYER X,Y [tile|ground] [corners]"),
    ("like", "LAYER TILE"),
];

impl Command {
    pub(crate) fn find(name: &str) -> Option<&'static Command> {
        COMMANDS.iter().find(|command| command.name == name)
    }

    /// How it is written.
    pub(crate) fn form(&self) -> String {
        [&[self.name], self.words].concat().join(" ")
    }
}
