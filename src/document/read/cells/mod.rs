//! Reading the cells of a layer, in any of the encodings in which a document can have them.
//!
//! Each encoding gives rows of values from the top; what a value is (a cell, or the marks of one) is
//! for a [`Spelled`] to say, so that rows, tables and pictures read both.

pub(crate) mod cell;
pub(crate) mod grid;
pub(crate) mod legend;
pub(crate) mod marks;
mod nearest;
pub(crate) mod numbers;
pub(crate) mod packed;
pub(crate) mod picture;
pub(crate) mod rows;
pub(crate) mod table;
mod wholes;

use rustc_hash::FxHashSet;

use self::cell::CellSpelling;
use self::grid::{Encoding, Grid, LegendKind, SHARED};
use self::legend::Legend;
use self::marks::MarkGrid;
use crate::document::input::Watch;
use crate::document::syntax::{Fields, Node, Reader};
use crate::quilt::{CellLegend, Layer, Quilt};
use crate::tile::Cell;
use crate::units::{Addressing, CellPos, CellRect, GridCells};

pub(super) use cell::{read_cell, read_palette};
pub(super) use wholes::lay_wholes;

/// Reads `cells` into a layer whose first cell is `corner`.
pub(super) fn read_cells<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    corner: CellPos,
    layer: &mut Layer,
    quilt: &mut Quilt,
    source: &mut CellSource<'_, '_>,
) -> Option<()> {
    let what = format!("`cells` of layer `{}`", layer.name());
    let Some(sections) =
        node.entries().and_then(|all| Some(all.iter().find(|e| e.key == "sections")?.value))
    else {
        let (encoding, fields) = form_of(reader, node, &what, false)?;
        let cells = read_addressing(reader, &fields, corner)?;
        let mut grid = Grid { what: &what, encoding, fields: &fields, shared: None, cells, source };
        return read_section(reader, &mut grid, layer, quilt, &mut SharedLegends::default());
    };
    let shared = reader.fields(node, &what, &SHARED)?;
    let mut legends = SharedLegends::default();
    for (section, number) in reader.items(sections, "`sections`")?.into_iter().zip(1..) {
        let what = format!("section {number} of layer `{}`", layer.name());
        let Some((encoding, fields)) = form_of(reader, section, &what, true) else { continue };
        let Some(corner) = section_corner(reader, &fields, &what, corner) else { continue };
        let shared = Some(&shared);
        let Some(cells) = read_addressing(reader, &fields, corner) else { continue };
        let mut grid = Grid { what: &what, encoding, fields: &fields, shared, cells, source };
        // What is wrong with one is told, and the others are read all the same.
        read_section(reader, &mut grid, layer, quilt, &mut legends);
    }
    Some(())
}

/// Which encoding an object has, and its fields.
pub(crate) fn form_of<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
    is_section: bool,
) -> Option<(Encoding, Fields<'a>)> {
    let entries = reader.entries(node, what)?;
    let mut stated = Encoding::stated(&entries);
    let (Some(encoding), None) = (stated.next(), stated.next()) else {
        let encodings = if is_section { "" } else { ", or a list of `sections`" };
        let message = format!(
            "{what} must have one of `rows`, `table`, `numbers`, `picture` and `packed`{encodings}"
        );
        let near: Vec<&str> = entries.iter().map(|entry| entry.key).collect();
        let hint = (!near.is_empty()).then(|| format!("it has {}", near.join(", ")));
        reader.error_with_hint(node.start(), message, hint);
        return None;
    };
    let mut known = vec![encoding.key()];
    known.extend(encoding.beside());
    known.extend(is_section.then_some("at"));
    Some((encoding, reader.fields(node, what, &known)?))
}

/// The first cell of a section, which is counted from that of its layer.
pub(crate) fn section_corner<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    what: &str,
    layer: CellPos,
) -> Option<CellPos> {
    let Some(at) = fields.get("at") else { return Some(layer) };
    let reach = i64::from(CellPos::MAX) - i64::from(CellPos::MIN);
    let (x, y) = reader.integers(at, &format!("the place of {what}"), -reach..=reach)?;
    let corner = CellPos::checked(i64::from(layer.x()) + x, i64::from(layer.y()) + y);
    if corner.is_none() {
        reader.error(at.span(), format!("{what} lies beyond the limits of cells"));
    }
    corner
}

/// Reads how a grid names cells, of which the first is told.
pub(crate) fn read_addressing<'a>(
    reader: &mut Reader<'a, '_>,
    fields: &Fields<'a>,
    first: CellPos,
) -> Option<GridCells> {
    let addressing = match fields.get("shifted") {
        Some(node) => reader.choice(node, "`shifted`", &Addressing::WORDS)?,
        None => Addressing::Straight,
    };
    Some(GridCells::new(addressing, first))
}

/// Reads one encoding into a layer. The legend that sections share is read once.
fn read_section<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
    layer: &mut Layer,
    quilt: &mut Quilt,
    shared: &mut SharedLegends,
) -> Option<()> {
    let errors = reader.errors();
    let marks = marks::read(reader, grid)?;
    let numbers = numbers::read_meaning(reader, grid, quilt)?;
    let mut spelling = CellSpelling::new(quilt, numbers, grid.source.lost_sets);
    let (plane, cells) = (layer.cells_mut().1, grid.cells);
    let mut held = Vec::new();
    let watch = grid.source.files.watch;
    let mut marked = marks.as_ref().map(MarkGrid::over);
    let mut sink = |first: CellPos, row: &[Cell]| {
        let row = match &mut marked {
            Some(marked) => {
                held.clear();
                held.extend_from_slice(row);
                marked.apply(first, &mut held);
                &held
            }
            None => row,
        };
        // A plane that was just made is here as a whole.
        if cells.is_straight() {
            plane.write_row(first, row).ok()?;
        } else {
            for (cell, x) in row.iter().zip(first.x()..) {
                let at = cells.cell(CellPos::new(x, first.y()));
                plane.write_row(at, std::slice::from_ref(cell)).ok()?;
            }
        }
        (!watch.is_some_and(Watch::is_cancelled)).then_some(())
    };
    let none = Legend::default();
    let own;
    let legend = match (grid.encoding.legend(), grid.fields.get("legend"), grid.get("legend")) {
        (Some(kind), Some(node), _) => {
            own = legend::read(reader, node, grid.source, kind, &mut spelling);
            own.as_ref()
        }
        (Some(kind), None, Some(node)) => shared
            .of(kind)
            .get_or_insert_with(|| legend::read(reader, node, grid.source, kind, &mut spelling))
            .as_ref(),
        (Some(_), None, None) if grid.encoding == Encoding::Picture => {
            reader.required(grid.fields, "legend");
            None
        }
        _ => Some(&none),
    };
    let legend = legend?;
    let rect = match grid.encoding {
        Encoding::Rows => {
            let rect = rows::read(reader, grid, legend, &mut sink);
            if let Some(rect) = rect {
                let rect = Some(rect).filter(|_| cells.is_straight());
                keep_spelling(layer.legend_mut(), legend, rect);
            }
            rect
        }
        Encoding::Picture => picture::read(reader, grid, legend, &mut sink),
        Encoding::Table => table::read(reader, grid, legend, &mut spelling, &mut sink),
        Encoding::Numbers => numbers::read(reader, grid, &mut spelling, &mut sink),
        Encoding::Packed => packed::read(reader, grid, &mut spelling, &mut sink),
    };
    if let (Some(rect), Some(marks), Some(marked)) = (rect, &marks, marked) {
        marks.check(reader, (grid.what, cells), rect, marked);
    }
    if let Some(rect) = rect.filter(|_| !cells.is_straight()) {
        layer.keep_shifted(cells, rect);
    }
    (rect.is_some() && reader.errors() == errors).then_some(())
}

/// The legend that sections share, by the kind of its keys, once it was read: with nothing in it if
/// that failed.
#[derive(Default)]
struct SharedLegends {
    signs: Option<Option<Legend<Cell>>>,
    fields: Option<Option<Legend<Cell>>>,
}

impl SharedLegends {
    fn of(&mut self, kind: LegendKind) -> &mut Option<Option<Legend<Cell>>> {
        match kind {
            LegendKind::Signs => &mut self.signs,
            LegendKind::Fields => &mut self.fields,
        }
    }
}

/// Keeps how a layer is spelled, so that it is saved like that.
fn keep_spelling(kept: &mut CellLegend, legend: &Legend<Cell>, rect: Option<CellRect>) {
    // Pieces mostly share one legend.
    if !legend.characters.is_empty() && !kept.entries.starts_with(&legend.characters) {
        let mut known: FxHashSet<char> = kept.entries.iter().map(|(held, _)| *held).collect();
        let new = legend.characters.iter().filter(|(character, _)| known.insert(*character));
        kept.entries.extend(new);
    }
    kept.rects.extend(rect);
}
pub(crate) use grid::CellSource;
