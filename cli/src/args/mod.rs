//! The arguments of the tool.

mod change;
mod parse;

use std::path::PathBuf;

use clap::{CommandFactory, Parser, Subcommand, ValueEnum};
use sturdy_quilt::{CellPos, CellRect, Color, ScreenSize, WorldPoint};

pub(crate) use change::ChangeArgs;
pub(crate) use parse::{Scale, nearest, parse_area, parse_cell, parse_size, two};
use parse::{parse_box_size, parse_point, parse_scale, parse_zoom};

/// Checks tile maps, looks at them and changes them.
#[derive(Debug, Parser)]
#[command(name = "sturdy-quilt", version, propagate_version = true)]
#[command(
    after_help = "A MAP is a NAME.quilt.json, a zip archive with one (or the path of one through it), or a bare grid of\ncells: NAME.txt, NAME.csv or NAME.png.\n\nExit codes: 0 all is well, 1 something is wrong, 2 the command was not understood,\n130 the command was interrupted."
)]
pub(crate) struct Args {
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Write the demo map and walk through a day's work on it
    #[command(after_help = "Example: sturdy-quilt demo cloudstep")]
    Demo(DemoArgs),
    /// Say what a map holds
    #[command(
        after_help = "Examples:\n  sturdy-quilt info demo/terrace.quilt.json --rows soil\n  sturdy-quilt info demo/terrace.quilt.json --memory"
    )]
    Info(InfoArgs),
    /// Find everything that is wrong with maps
    #[command(
        after_help = "Example: sturdy-quilt check demo/terrace.quilt.json --expects demo/terrace.expects.json\n\nExits with 1 when a map has an error; with --strict, also when it has a warning."
    )]
    Check(CheckArgs),
    /// Draw a map, or a part of it, as a PNG picture
    #[command(
        after_help = "Examples:\n  sturdy-quilt draw demo/terrace.quilt.json -o terrace.png --zoom 3\n  sturdy-quilt draw demo/terrace.quilt.json -o tree.png --size 640x400 --cell 16,13 --zoom 4\n  sturdy-quilt draw demo/terrace.quilt.json -o ground.png --fit --overlay ground,lattice,coordinates\n  sturdy-quilt draw demo/terrace.quilt.json -o night.png --palette night --time 400\n  sturdy-quilt draw demo/terrace.quilt.json -o minimap.png --minimap 4 --overlay markers --size 320x200 --cell 16,13"
    )]
    Draw(DrawArgs),
    /// Say what is at a cell, a place in the world or on the screen
    #[command(
        after_help = "Examples:\n  sturdy-quilt at demo/terrace.quilt.json cell 27,16\n  sturdy-quilt at demo/terrace.quilt.json screen 640,400 --size 1280x800 --fit"
    )]
    At(AtArgs),
    /// Say how far a body gets, and what stops it
    #[command(
        after_help = "Examples:\n  sturdy-quilt move demo/terrace.quilt.json cart --from 400,260 --size 12x10 --by 80,20\n  sturdy-quilt move demo/terrace.quilt.json picker --from 400,260 --size 8x6 --by 0,-60 --straight\n  sturdy-quilt move demo/hoist.quilt.json picker --from 100,304 --size 10x14 --by 120,4 --slopes --climb 16"
    )]
    Move(MoveArgs),
    /// Say what a straight line goes through, and what stops it
    #[command(
        after_help = "Example: sturdy-quilt ray demo/terrace.quilt.json sight --from 400,260 --by 200,-90 -o ray.png"
    )]
    Ray(RayArgs),
    /// Say which cells are seen from a cell
    #[command(
        after_help = "Examples:\n  sturdy-quilt sight demo/terrace.quilt.json sight --from 27,17 --radius 12 -o sight.png\n  sturdy-quilt sight demo/terrace.quilt.json sight --from 27,17 --to 30,9"
    )]
    Sight(SightArgs),
    /// Say which cells a body can get to, and which it cannot
    #[command(
        after_help = "Examples:\n  sturdy-quilt reach demo/terrace.quilt.json cart --from 61,21 -o reach.png\n  sturdy-quilt reach demo/terrace.quilt.json picker --from 61,21 --size 10x8 --to 27,17\n\nOne step leads to a cell beside it, not across a corner. With --size the body goes from the middle of a\ncell to that of the next, and passes beside what does not fill its cell."
    )]
    Reach(ReachArgs),
    /// Write what stops a mover as polygons, for physics engines and other tools
    #[command(
        after_help = "Examples:\n  sturdy-quilt outline demo/terrace.quilt.json --mover cart -o walls.svg\n  sturdy-quilt outline demo/hoist.quilt.json --mover picker --pieces -o walls.geojson\n\nCoordinates are in world units: x to the right, y down."
    )]
    Outline(OutlineArgs),
    /// Change cells, values and markers, and save the result
    #[command(after_help = edit_help())]
    Edit(EditArgs),
    /// Say what differs between two maps
    #[command(
        after_help = "Examples:\n  sturdy-quilt diff demo/terrace.quilt.json out/terrace.quilt.json\n  sturdy-quilt diff demo/terrace.quilt.json out/terrace.quilt.json -o day.changes\n  sturdy-quilt diff demo/terrace.quilt.json out/terrace.quilt.json -o day.png\n\nExits with 1 when the maps differ."
    )]
    Diff(DiffArgs),
    /// Bring changes onto a map: those of a file that `diff` wrote, or of a journal
    #[command(
        after_help = "Examples:\n  sturdy-quilt apply day.changes demo/terrace.quilt.json -o out/terrace.quilt.json\n  sturdy-quilt apply day.changes out/terrace.quilt.json -o out/again.quilt.json --inverse\n\nThe map must hold what the changes expect, or nothing is written and what is in the way is listed; --keep\nleaves that as the map has it, --take as the changes have it."
    )]
    Apply(ApplyArgs),
    /// List the changes of a journal
    #[command(after_help = "Example: sturdy-quilt log terrace.journal")]
    Log(LogArgs),
    /// Undo the last changes of a journal, by appending what takes them back
    #[command(after_help = "Example: sturdy-quilt undo 2 terrace.journal")]
    Undo(UndoArgs),
    /// Write a map in another form: other encodings, one archive, one layer, a tile set
    #[command(
        after_help = "Examples:\n  sturdy-quilt convert demo/terrace.quilt.json estate.zip\n  sturdy-quilt convert demo/terrace.quilt.json out/terrace.quilt.json --cells packed\n  sturdy-quilt convert demo/terrace.quilt.json soil.csv --layer soil\n  sturdy-quilt convert soil.csv soil.quilt.json --tiles demo/terrace.tiles.json\n\nA map is written to NAME.quilt.json or NAME.zip, a layer to NAME.txt, NAME.csv or NAME.png, a tile set\nto NAME.tiles.json. What the file cannot hold is said."
    )]
    Convert(ConvertArgs),
    /// Print the JSON Schema of a kind of document, for editors that complete and check
    #[command(after_help = "Example: sturdy-quilt schema map > map.schema.json")]
    Schema {
        /// The kind of document
        kind: SchemaKind,
    },
    /// Print the completions for a shell
    #[command(
        after_help = "Example: sturdy-quilt completions bash > ~/.local/share/bash-completion/completions/sturdy-quilt"
    )]
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },
}

#[derive(Debug, clap::Args)]
pub(crate) struct DemoArgs {
    /// The folder for the map and the pictures
    #[arg(default_value = "cloudstep")]
    pub(crate) folder: PathBuf,
}

#[derive(Debug, clap::Args)]
pub(crate) struct InfoArgs {
    /// The map, or a tile set
    pub(crate) map: PathBuf,
    /// Print one layer as rows of characters with their legend
    #[arg(long, value_name = "LAYER")]
    pub(crate) rows: Option<String>,
    /// Print how much memory the cells of each layer take, and in which form they are kept
    #[arg(long, conflicts_with = "rows")]
    pub(crate) memory: bool,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct CheckArgs {
    /// The maps and tile sets
    #[arg(required = true, value_name = "MAP")]
    pub(crate) maps: Vec<PathBuf>,
    /// Also check that everything is there which this file expects: layers, tiles, markers, movers
    #[arg(long, value_name = "FILE")]
    pub(crate) expects: Option<PathBuf>,
    /// Let warnings fail too
    #[arg(long)]
    pub(crate) strict: bool,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct DrawArgs {
    /// The map, or a tile set, of which a contact sheet is drawn
    pub(crate) map: PathBuf,
    /// The picture to write; map.png if not given, unless that is there and was not drawn by
    /// this tool
    #[arg(short, long, value_name = "PNG")]
    pub(crate) output: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) view: ViewArgs,
    /// Centre on the middle of this cell
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true, conflicts_with = "center")]
    pub(crate) cell: Option<CellPos>,
    /// What shows where the map is empty
    #[arg(long, value_name = "COLOR", default_value = "#14181c")]
    pub(crate) background: Color,
    /// Lay this over the map; several with commas between them
    #[arg(long, value_name = "WHAT", value_delimiter = ',')]
    pub(crate) overlay: Vec<OverlayKind>,
    /// The time in milliseconds: what frame animations show, and how far layers with a speed are
    #[arg(long, value_name = "MS", default_value_t = 0)]
    pub(crate) time: u64,
    /// Turn the picture clockwise by so many degrees
    #[arg(long, value_name = "DEGREES", allow_negative_numbers = true)]
    pub(crate) turn: Option<f64>,
    /// Move by whole pixels only
    #[arg(long)]
    pub(crate) snap: bool,
    /// Show all layers in this palette
    #[arg(long, value_name = "NAME")]
    pub(crate) palette: Option<String>,
    /// Draw a minimap instead, one pixel for each cell or for so many world units (2 to 64), at a
    /// slant for half a diamond or so many picture pixels; a view that is asked for is framed on it
    #[arg(long, value_name = "cells|UNITS", value_parser = parse_scale)]
    pub(crate) minimap: Option<Scale>,
    /// Enlarge the minimap so many times; if not given, one that is small is enlarged until it can
    /// be seen
    #[arg(long, value_name = "TIMES", requires = "minimap", value_parser = clap::value_parser!(u32).range(1..=64))]
    pub(crate) enlarge: Option<u32>,
    /// In a minimap: the pixel in the middle, not the mean
    #[arg(long, requires = "minimap")]
    pub(crate) nearest: bool,
    /// Draw the pictures of all tiles packed on pages of this size instead
    #[arg(long, value_name = "WxH", value_parser = parse_size, conflicts_with = "minimap")]
    pub(crate) atlas: Option<ScreenSize>,
    /// Say beside this cell why what lies there shows or not
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true)]
    pub(crate) why: Option<CellPos>,
    /// Draw the edges at which this mover is stopped
    #[arg(long, value_name = "MOVER")]
    pub(crate) edges: Option<String>,
    /// Colour the cells that this mover cannot enter
    #[arg(long, value_name = "MOVER")]
    pub(crate) blocked: Option<String>,
    /// Draw a contact sheet of this tile set instead: names, places, ground, animation
    #[arg(long, value_name = "SET")]
    pub(crate) sheet: Option<String>,
    /// Colour the cells of the map by this value layer: dark blue where it is lowest, bright yellow
    /// where it is highest, with a legend of the numbers
    #[arg(long, value_name = "LAYER")]
    pub(crate) values: Option<String>,
    /// Draw these layers alone, also hidden ones; several with commas between them
    #[arg(long, value_name = "LAYER", value_delimiter = ',')]
    pub(crate) layers: Vec<String>,
}

impl DrawArgs {
    /// What shows where the map is empty if nothing is said.
    pub(crate) const BACKGROUND: Color = Color::rgb(0x14, 0x18, 0x1c);
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OverlayKind {
    /// The edges of cells
    Lattice,
    /// The column and row of cells
    Coordinates,
    /// The edges of chunks
    Chunks,
    /// When each chunk was changed last
    Stamps,
    /// The names of tiles
    Names,
    /// The numbers of tiles
    Numbers,
    /// Cells with tiles that are covered or clear
    Unseen,
    /// The order of what is sorted by row
    Rows,
    /// A colour for each ground class
    Ground,
    /// Raised cells
    Raised,
    /// The palette slots of cells
    Palettes,
    /// A colour for each layer
    Layers,
    /// Markers with their names
    Markers,
    /// A box with the figures
    Figures,
}

/// Which part of a map is seen, and how large.
#[derive(Debug, clap::Args)]
pub(crate) struct ViewArgs {
    /// The size of the picture in pixels; the whole map at the zoom if not given
    #[arg(long, value_name = "WxH", value_parser = parse_size)]
    pub(crate) size: Option<ScreenSize>,
    /// Centre on this place in the world; the middle of the map if not given
    #[arg(long, value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) center: Option<WorldPoint>,
    /// Pixels a world unit
    #[arg(long, value_name = "FACTOR", value_parser = parse_zoom, conflicts_with = "fit")]
    pub(crate) zoom: Option<f64>,
    /// Zoom so that the whole map just fits the size, which is 1280x800 if not given
    #[arg(long)]
    pub(crate) fit: bool,
    /// Turn the map by so many quarters, clockwise, before it is looked at
    #[arg(long, value_name = "QUARTERS", default_value_t = 0, value_parser = clap::value_parser!(u8).range(0..4))]
    pub(crate) facing: u8,
    /// Look from straight above, whatever the map states
    #[arg(long)]
    pub(crate) flat: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct AtArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// What kind of position follows
    pub(crate) kind: PositionKind,
    /// The position: column and row, world units, or pixels from the top left
    #[arg(value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) position: WorldPoint,
    #[command(flatten)]
    pub(crate) view: ViewArgs,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum PositionKind {
    /// A cell by column and row
    Cell,
    /// A place in the world
    World,
    /// A pixel of the picture that `draw` makes with the same size, center, zoom and fit
    #[value(alias = "pixel")]
    Screen,
}

#[derive(Debug, clap::Args)]
pub(crate) struct MoveArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// The mover: how the body takes each ground class
    pub(crate) mover: String,
    /// The top left corner of the body's box in the world
    #[arg(long, value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) from: WorldPoint,
    /// The size of the box in world units
    #[arg(long, value_name = "WxH", value_parser = parse_box_size)]
    pub(crate) size: (f64, f64),
    /// The motion in world units: to the right and down
    #[arg(long, value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) by: WorldPoint,
    /// Stop at the first contact and do not slide along it
    #[arg(long, conflicts_with_all = ["climb", "follow", "corner"])]
    pub(crate) straight: bool,
    /// Draw the way as a PNG picture
    #[arg(short, long, value_name = "PNG")]
    pub(crate) output: Option<PathBuf>,
    /// Climb what is not higher than so many world units, where the body stands on something
    #[arg(long, value_name = "HEIGHT", default_value_t = 0.0)]
    pub(crate) climb: f64,
    /// Follow steps down that are not higher than so many world units
    #[arg(long, value_name = "HEIGHT", default_value_t = 0.0)]
    pub(crate) follow: f64,
    /// Make the body as round as its size lets it be: a disc, or a capsule
    #[arg(long)]
    pub(crate) round: bool,
    /// Take slopes as floors: stand on them, and walk along them at full speed
    #[arg(long)]
    pub(crate) slopes: bool,
    /// Give way to the corner of what is above, if it is caught by so many world units
    #[arg(long, value_name = "UNITS", default_value_t = 0.0)]
    pub(crate) corner: f64,
    /// Give way to corners on all sides
    #[arg(long, requires = "corner")]
    pub(crate) all_corners: bool,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct RayArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// The mover: what stops the ray, and what has a number to it
    pub(crate) mover: String,
    /// Where it begins in the world
    #[arg(long, value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) from: WorldPoint,
    /// How far it goes in world units: to the right and down
    #[arg(long, value_name = "X,Y", value_parser = parse_point, allow_hyphen_values = true)]
    pub(crate) by: WorldPoint,
    /// Draw it as a PNG picture
    #[arg(short, long, value_name = "PNG")]
    pub(crate) output: Option<PathBuf>,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct SightArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// The mover: what blocks it blocks the view
    pub(crate) mover: String,
    /// The cell from which is seen
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true)]
    pub(crate) from: CellPos,
    /// Ask for this cell alone
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true)]
    pub(crate) to: Option<CellPos>,
    /// How many cells are seen in each direction
    #[arg(long, value_name = "CELLS", default_value_t = 10, value_parser = clap::value_parser!(u32).range(0..=64))]
    pub(crate) radius: u32,
    /// Draw what is seen as a PNG picture
    #[arg(short, long, value_name = "PNG")]
    pub(crate) output: Option<PathBuf>,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct ReachArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// The mover: how the body takes each ground class
    pub(crate) mover: String,
    /// The cell in which it begins
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true)]
    pub(crate) from: CellPos,
    /// Ask for this cell alone
    #[arg(long, value_name = "X,Y", value_parser = parse_cell, allow_hyphen_values = true)]
    pub(crate) to: Option<CellPos>,
    /// The size of the body's box in world units; if not given, any cell of which a part blocks it
    /// is closed
    #[arg(long, value_name = "WxH", value_parser = parse_box_size)]
    pub(crate) size: Option<(f64, f64)>,
    /// Draw the whole map with what is reached as a PNG picture
    #[arg(short, long, value_name = "PNG")]
    pub(crate) output: Option<PathBuf>,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct OutlineArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// The mover: what blocks it is solid
    #[arg(long, value_name = "NAME")]
    pub(crate) mover: String,
    /// The file to write: NAME.svg or NAME.geojson
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: PathBuf,
    /// Write convex pieces, and not outlines with holes
    #[arg(long)]
    pub(crate) pieces: bool,
    /// Only these cells: corner and size, as in 10,4,20x12
    #[arg(long, value_name = "X,Y,WxH", value_parser = parse_area, allow_hyphen_values = true)]
    pub(crate) area: Option<CellRect>,
    /// Print JSON for programs
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct ConvertArgs {
    /// A map (NAME.quilt.json, NAME.zip), a grid of cells (.txt, .csv, .png) or a tile set
    pub(crate) input: PathBuf,
    /// The file to write; its ending says what
    pub(crate) output: PathBuf,
    /// In a map: the encoding of cells
    #[arg(long, value_name = "ENCODING", default_value = "readable")]
    pub(crate) cells: CellEncodingArg,
    /// In a map: the cells of each layer in a file of their own
    #[arg(long)]
    pub(crate) apart: bool,
    /// To a text, table or picture: this layer
    #[arg(long, value_name = "NAME")]
    pub(crate) layer: Option<String>,
    /// From a text, table or picture: a tile set that it uses; may be given again
    #[arg(long, value_name = "FILE")]
    pub(crate) tiles: Vec<PathBuf>,
    /// From a text, table or picture: a JSON object of values and the cells that they mean
    #[arg(long, value_name = "FILE")]
    pub(crate) legend: Option<PathBuf>,
    /// From a text, table or picture: the size of a cell in world units
    #[arg(long, value_name = "WxH", value_parser = parse_box_size, default_value = "16x16")]
    pub(crate) cell: (f64, f64),
    /// From a table: its numbers count the tiles of this set
    #[arg(long, value_name = "NAME")]
    pub(crate) set: Option<String>,
    /// From a table: the number of the first tile
    #[arg(
        long,
        value_name = "N",
        default_value_t = 0,
        allow_negative_numbers = true,
        requires = "set"
    )]
    pub(crate) base: i64,
    /// From a table: the number that means an empty cell
    #[arg(long, value_name = "N", default_value_t = -1, allow_negative_numbers = true, requires = "set")]
    pub(crate) empty: i64,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CellEncodingArg {
    /// Rows, or packed for layers too large to read
    Readable,
    /// Rows of characters with a legend
    Rows,
    /// A flat list of numbers
    Numbers,
    /// Comma-separated values
    Table,
    /// A picture with a pixel for each cell
    Picture,
    /// Compressed 32-bit values
    Packed,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SchemaKind {
    /// NAME.quilt.json
    Map,
    /// NAME.tiles.json
    Tiles,
    /// NAME.expects.json
    Expects,
}

#[derive(Debug, clap::Args)]
pub(crate) struct EditArgs {
    /// The map
    pub(crate) map: PathBuf,
    /// Where to save the result; may be the map itself
    #[arg(short, long, value_name = "OUT", required_unless_present_any = ["dry_run", "journal"])]
    pub(crate) output: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) changes: ChangeArgs,
    /// Say how much would change, in which files and lines, and write no map
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Draw the map before and after side by side, with what changes marked
    #[arg(long, value_name = "PNG")]
    pub(crate) picture: Option<PathBuf>,
    /// Append the changes to this journal of the map, and leave the map as it is
    #[arg(long, value_name = "JOURNAL", conflicts_with = "output")]
    pub(crate) journal: Option<PathBuf>,
    /// What the changes are called in a journal; `edit` unless it is given
    #[arg(long, value_name = "TEXT")]
    pub(crate) label: Option<String>,
    /// Take the cells of these layers into the document where the file or encoding that they came from
    /// cannot hold the changes; several with commas between them
    #[arg(long, value_name = "LAYER", value_delimiter = ',')]
    pub(crate) take_in: Vec<String>,
    /// Choose other variants of tiles
    #[arg(long, value_name = "NUMBER", default_value_t = 0)]
    pub(crate) seed: u64,
}

/// What is said below the options of `edit`.
fn edit_help() -> String {
    use crate::script::{COMMANDS, SHAPES};
    let mut help = "Examples:
  sturdy-quilt edit demo/terrace.quilt.json -o out/terrace.quilt.json \\
    --fill boards 26,16 3x2 terrace/boardwalk --erase works 13,18
  sturdy-quilt edit demo/terrace.quilt.json --dry-run --picture pond.png \\
    --do \"select ellipse 20,12 9x6\" --do \"lay soil terrace/mud\"
  sturdy-quilt edit demo/terrace.quilt.json --journal terrace.journal --script pond.script

The changes are made in the order in which they are given: all of them, or none. They go back into the
form and file that a layer came from: only the lines, fields and pixels change that must.

A script has one change a line, with the words of the options above and of these. Double quotes hold a word
with blanks together, and what follows # is a remark. LAYERS and VALUES are layers of cells and of values.
Before anything is selected, all cells of the map are.
"
    .to_owned();
    for command in COMMANDS.iter().filter(|command| !command.is_option) {
        help += &format!("  {:<33} {}\n", command.form(), command.help);
    }
    help += "\nA SHAPE is one of:\n";
    for (name, form) in SHAPES {
        help += format!("  {name} {form}").trim_end();
        help.push('\n');
    }
    help
}

#[derive(Debug, clap::Args)]
pub(crate) struct DiffArgs {
    /// The first map
    pub(crate) before: PathBuf,
    /// The second map
    pub(crate) after: PathBuf,
    /// Write the changes that lead from the first to the second, to NAME.changes, or a picture of both with
    /// what differs marked, to NAME.png
    #[arg(short, long, value_name = "OUT")]
    pub(crate) output: Option<PathBuf>,
    /// Write changes that say only what is after: smaller, and not to be undone elsewhere
    #[arg(long, requires = "output")]
    pub(crate) forward: bool,
    /// List so many cells and values of each layer
    #[arg(long, value_name = "N", default_value_t = 8)]
    pub(crate) most: usize,
    /// Print all that differs as JSON
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct ApplyArgs {
    /// The changes, or a journal
    pub(crate) changes: PathBuf,
    /// The map
    pub(crate) map: PathBuf,
    /// Where to save the result; may be the map itself
    #[arg(short, long, value_name = "OUT", required_unless_present = "dry_run")]
    pub(crate) output: Option<PathBuf>,
    /// Take the changes back
    #[arg(long)]
    pub(crate) inverse: bool,
    /// Leave what is in the way as the map has it
    #[arg(long)]
    pub(crate) keep: bool,
    /// Change what is in the way, too
    #[arg(long, conflicts_with = "keep")]
    pub(crate) take: bool,
    /// Say what would change, and write nothing
    #[arg(long)]
    pub(crate) dry_run: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct LogArgs {
    /// The journal
    pub(crate) journal: PathBuf,
    /// The map that it belongs to, if it is not the one beside it that the journal names
    #[arg(long, value_name = "MAP")]
    pub(crate) map: Option<PathBuf>,
    /// Print it as JSON
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct UndoArgs {
    /// How many changes to undo
    #[arg(value_parser = clap::value_parser!(u32).range(1..))]
    pub(crate) count: u32,
    /// The journal
    pub(crate) journal: PathBuf,
    /// The map that it belongs to, if it is not the one beside it that the journal names
    #[arg(long, value_name = "MAP")]
    pub(crate) map: Option<PathBuf>,
}

/// Options that people try, and what they are here.
const MEANT: [(&str, &str); 14] = [
    ("--scale", "--zoom"),
    ("--magnify", "--zoom"),
    ("--out", "--output"),
    ("--file", "--output"),
    ("--width", "--size"),
    ("--height", "--size"),
    ("--resolution", "--size"),
    ("--position", "--center"),
    ("--centre", "--center"),
    ("--rotate", "--turn"),
    ("--layer", "--layers"),
    ("--show", "--overlay"),
    ("--grid", "--overlay lattice"),
    ("--set", "--put"),
];

/// Says why the command line was not understood, and which option may be meant; ends the tool.
pub(crate) fn show_misunderstood(mut error: clap::Error) -> ! {
    use clap::error::{ContextKind, ContextValue, ErrorKind};
    let invalid = match error.get(ContextKind::InvalidArg) {
        Some(ContextValue::String(text)) if error.kind() == ErrorKind::UnknownArgument => {
            Some(text.split('=').next().unwrap_or(text).to_owned())
        }
        _ => None,
    };
    // Of the command that was asked for.
    let command = std::env::args().nth(1).unwrap_or_default();
    let command = Args::command().find_subcommand(&command).cloned();
    let has = |meant: &str| {
        let long = meant.trim_start_matches('-').split(' ').next();
        command.iter().any(|command| command.get_arguments().any(|arg| arg.get_long() == long))
    };
    let meant = invalid
        .and_then(|invalid| MEANT.iter().find(|(tried, meant)| *tried == invalid && has(meant)));
    if let Some((_, meant)) = meant {
        let meant = ContextValue::String((*meant).to_owned());
        error.insert(ContextKind::SuggestedArg, meant);
        // It speaks of the option that is spelled alike.
        error.remove(ContextKind::Usage);
    }
    error.exit()
}

pub(crate) fn completions(shell: clap_complete::Shell) -> Vec<u8> {
    let mut text = Vec::new();
    // Into memory, since the generator panics where it cannot write.
    clap_complete::generate(shell, &mut Args::command(), "sturdy-quilt", &mut text);
    text
}
