//! Reading the cells of a layer, in any of the forms in which a document can have them.
//!
//! Each form gives rows of values from the top; what a value is (a cell, or the marks of one) is
//! for a [`Spelled`] to say, so that rows, tables and pictures read both.

mod back;
mod cell;
pub(super) mod fields;
mod legend;
mod marks;
mod nearest;
mod numbers;
mod packed;
mod picture;
mod rows;
mod table;

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::files::{Files, decoded};
use super::reader::{Fields, Reader};
use super::tree::{Entry, Node, Span};
use super::watch::Watch;
use crate::quilt::{CellLegend, Layer, Quilt};
use crate::tile::Cell;
use crate::units::{CellPos, CellRect};

pub(super) use back::{HeldFiles, put_back};
use cell::CellSpelling;
pub(super) use cell::{read_cell, read_palette};
use legend::{Legend, LegendKind};
use marks::MarkGrid;

/// What is known while the cells of a map are read.
pub(super) struct CellSource<'f, 's> {
    pub(super) files: &'f mut Files<'s>,
    /// The file of the map, which names the others.
    pub(super) map: &'f str,
    /// Whether a tile set could not be read, so that its tiles are not known.
    pub(super) lost_sets: bool,
    /// How many cells the map may still have.
    pub(super) cells_left: u64,
}

impl CellSource<'_, '_> {
    /// The path and the bytes of a file of cells that the map names.
    fn file<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
        what: &str,
    ) -> Option<(String, Vec<u8>)> {
        let named = reader.text(node, what)?;
        let (path, bytes) = self.files.named(reader, node.span(), self.map, &named)?;
        self.files.note_cell_file(&path);
        Some((path, bytes))
    }

    /// The label and the text of a file of cells that the map names.
    fn text_file<'a>(
        &mut self,
        reader: &mut Reader<'a, '_>,
        node: Node<'a>,
    ) -> Option<(String, String)> {
        let (path, bytes) = self.file(reader, node, "the path of a file")?;
        let label = self.files.source.label(&path);
        let text = decoded(bytes, &label, reader.problems())?;
        Some((label, text))
    }
}

/// The forms of cells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Rows,
    Table,
    Numbers,
    Picture,
    Packed,
}

impl Form {
    const ALL: [Form; 5] = [Form::Rows, Form::Table, Form::Numbers, Form::Picture, Form::Packed];

    /// The key that each form has.
    const fn key(self) -> &'static str {
        match self {
            Form::Rows => "rows",
            Form::Table => "table",
            Form::Numbers => "numbers",
            Form::Picture => "picture",
            Form::Packed => "packed",
        }
    }

    /// The other keys that may stand beside it.
    const fn beside(self) -> &'static [&'static str] {
        match self {
            Form::Rows => &["legend", "size", "marks"],
            Form::Table => &["legend", "set", "columns", "base", "empty", "sets", "size", "marks"],
            Form::Numbers => &["size", "order", "set", "columns", "base", "empty", "sets", "marks"],
            Form::Picture => &["legend", "tolerance", "size", "marks"],
            Form::Packed => &["size", "tiles", "set", "columns", "base", "empty", "sets"],
        }
    }

    /// The keys of its legend; none where it has no legend.
    const fn legend(self) -> Option<LegendKind> {
        match self {
            Form::Rows | Form::Picture => Some(LegendKind::Signs),
            Form::Table => Some(LegendKind::Fields),
            Form::Numbers | Form::Packed => None,
        }
    }

    /// The forms in which an object is, each as its key.
    fn stated<'e>(entries: &'e [Entry<'_>]) -> impl Iterator<Item = Form> + 'e {
        Form::ALL.into_iter().filter(|form| entries.iter().any(|entry| entry.key == form.key()))
    }
}

/// What may stand beside `pieces` and holds for each of them.
const SHARED: [&str; 9] =
    ["pieces", "legend", "tolerance", "set", "columns", "base", "empty", "sets", "tiles"];

/// How the values of a grid are spelled.
trait Spelled {
    /// What a place of the grid holds; the default is nothing.
    type Value: Copy + Default;

    /// The value of an entry of a legend.
    fn entry<'a>(&mut self, reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<Self::Value>;

    /// The value of a field of a table, which is not empty.
    fn field(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        at: CellPos,
        text: &str,
    ) -> Option<Self::Value>;
}

/// Where the rows of a grid go: the first cell of a row, and its values. `None` means that no more
/// are wanted.
type Sink<'k, V> = dyn FnMut(CellPos, &[V]) -> Option<()> + 'k;

/// Turns spelled values into what they mean. Maps have long stretches of one value, so that it is
/// asked for each stretch what most often one look tells. `meaning` gets a value, its place, and how
/// many of it there are from there on.
fn translate<T: Copy + PartialEq, V: Copy>(
    spelled: &[T],
    values: &mut Vec<V>,
    mut meaning: impl FnMut(T, usize, usize) -> V,
) {
    const STRETCH: usize = 64;
    values.clear();
    values.reserve(spelled.len());
    for (stretch, number) in spelled.chunks(STRETCH).zip(0..) {
        let (start, first) = (number * STRETCH, stretch[0]);
        if stretch.iter().fold(true, |all, value| all & (*value == first)) {
            let value = meaning(first, start, stretch.len());
            values.extend(std::iter::repeat_n(value, stretch.len()));
        } else {
            values.extend(stretch.iter().zip(start..).map(|(&value, at)| meaning(value, at, 1)));
        }
    }
}

/// What a form is read with.
struct Grid<'g, 'a, 'f, 's> {
    /// What it is, in words.
    what: &'g str,
    form: Form,
    fields: &'g Fields<'a>,
    /// The fields that `pieces` share.
    shared: Option<&'g Fields<'a>>,
    corner: CellPos,
    source: &'g mut CellSource<'f, 's>,
}

impl<'a> Grid<'_, 'a, '_, '_> {
    fn get(&self, key: &str) -> Option<Node<'a>> {
        self.fields.get(key).or_else(|| self.shared?.get(key))
    }

    /// Takes the cells of a rectangle from those that the map may still have, and checks that it
    /// lies within the limits of cells and has the size that is stated.
    fn admit(
        &mut self,
        reader: &mut Reader<'a, '_>,
        (width, height): (u64, u64),
    ) -> Option<CellRect> {
        let what = self.what;
        let node = self.fields.get(self.form.key()).unwrap_or(self.fields.node);
        let span = node.start();
        let errors = reader.errors();
        if let Some((node, stated)) = self.stated_size(reader)
            && stated != (width, height)
        {
            let message = format!(
                "{what} states a size of {} × {}, but its `{}` has {width} × {height} cells",
                stated.0,
                stated.1,
                self.form.key()
            );
            reader.error(node.span(), message);
        }
        let Some(left) =
            width.checked_mul(height).and_then(|n| self.source.cells_left.checked_sub(n))
        else {
            reader.error(span, format!("{what} brings the map beyond the limit of cells"));
            return None;
        };
        self.source.cells_left = left;
        if width == 0 || height == 0 {
            return (reader.errors() == errors).then_some(CellRect::EMPTY);
        }
        let last =
            |from: i32, count: u64| i64::try_from(count).ok()?.checked_add(i64::from(from) - 1);
        let last = CellPos::checked(
            last(self.corner.x(), width).unwrap_or(i64::MAX),
            last(self.corner.y(), height).unwrap_or(i64::MAX),
        );
        if last.is_none() {
            reader.error(span, format!("{what} reaches beyond the limits of cells"));
        }
        let last = last.filter(|_| reader.errors() == errors)?;
        Some(CellRect::between(self.corner, last))
    }

    /// The size that is stated, with its place.
    fn stated_size(&self, reader: &mut Reader<'a, '_>) -> Option<(Node<'a>, (u64, u64))> {
        let node = self.fields.get("size")?;
        let what = format!("the size of {}", self.what);
        let (width, height) = reader.integers(node, &what, 0..=1_i64 << 31)?;
        Some((node, (width.unsigned_abs(), height.unsigned_abs())))
    }
}

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
    let Some(pieces) =
        node.entries().and_then(|all| Some(all.iter().find(|e| e.key == "pieces")?.value))
    else {
        let (form, fields) = form_of(reader, node, &what, false)?;
        let mut grid = Grid { what: &what, form, fields: &fields, shared: None, corner, source };
        return read_piece(reader, &mut grid, layer, quilt, &mut SharedLegends::default());
    };
    let shared = reader.fields(node, &what, &SHARED)?;
    let mut legends = SharedLegends::default();
    for (piece, number) in reader.items(pieces, "`pieces`")?.into_iter().zip(1..) {
        let what = format!("piece {number} of layer `{}`", layer.name());
        let Some((form, fields)) = form_of(reader, piece, &what, true) else { continue };
        let Some(corner) = piece_corner(reader, &fields, &what, corner) else { continue };
        let shared = Some(&shared);
        let mut grid = Grid { what: &what, form, fields: &fields, shared, corner, source };
        // What is wrong with one is told, and the others are read all the same.
        read_piece(reader, &mut grid, layer, quilt, &mut legends);
    }
    Some(())
}

/// Which form an object has, and its fields.
fn form_of<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    what: &str,
    is_piece: bool,
) -> Option<(Form, Fields<'a>)> {
    let entries = reader.entries(node, what)?;
    let mut stated = Form::stated(&entries);
    let (Some(form), None) = (stated.next(), stated.next()) else {
        let forms = if is_piece { "" } else { ", or a list of `pieces`" };
        let message = format!(
            "{what} must have one of `rows`, `table`, `numbers`, `picture` and `packed`{forms}"
        );
        let near: Vec<&str> = entries.iter().map(|entry| entry.key).collect();
        let hint = (!near.is_empty()).then(|| format!("it has {}", near.join(", ")));
        reader.error_with_hint(node.start(), message, hint);
        return None;
    };
    let mut known = vec![form.key()];
    known.extend(form.beside());
    known.extend(is_piece.then_some("at"));
    Some((form, reader.fields(node, what, &known)?))
}

/// The first cell of a piece, which is counted from that of its layer.
fn piece_corner<'a>(
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

/// Reads one form into a layer. The legend that pieces share is read once.
fn read_piece<'a>(
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
    let plane = &mut layer.cells;
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
        plane.write_row(first, row).ok()?;
        (!watch.is_some_and(Watch::is_cancelled)).then_some(())
    };
    let none = Legend::default();
    let own;
    let legend = match (grid.form.legend(), grid.fields.get("legend"), grid.get("legend")) {
        (Some(kind), Some(node), _) => {
            own = legend::read(reader, node, grid.source, kind, &mut spelling);
            own.as_ref()
        }
        (Some(kind), None, Some(node)) => shared
            .of(kind)
            .get_or_insert_with(|| legend::read(reader, node, grid.source, kind, &mut spelling))
            .as_ref(),
        (Some(_), None, None) if grid.form == Form::Picture => {
            reader.required(grid.fields, "legend");
            None
        }
        _ => Some(&none),
    };
    let legend = legend?;
    let rect = match grid.form {
        Form::Rows => {
            let rect = rows::read(reader, grid, legend, &mut sink);
            if let Some(rect) = rect {
                keep_spelling(&mut layer.spelling, legend, rect);
            }
            rect
        }
        Form::Picture => picture::read(reader, grid, legend, &mut sink),
        Form::Table => table::read(reader, grid, legend, &mut spelling, &mut sink),
        Form::Numbers => numbers::read(reader, grid, &mut spelling, &mut sink),
        Form::Packed => packed::read(reader, grid, &mut spelling, &mut sink),
    };
    if let (Some(rect), Some(marks), Some(marked)) = (rect, &marks, marked) {
        marks.check(reader, grid.what, rect, marked);
    }
    (rect.is_some() && reader.errors() == errors).then_some(())
}

/// The legend that pieces share, by the kind of its keys, once it was read: with nothing in it if
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
fn keep_spelling(spelling: &mut Option<Arc<CellLegend>>, legend: &Legend<Cell>, rect: CellRect) {
    let kept = Arc::make_mut(spelling.get_or_insert_default());
    // Pieces mostly share one legend.
    if !legend.characters.is_empty() && !kept.entries.starts_with(&legend.characters) {
        let mut known: FxHashSet<char> = kept.entries.iter().map(|(held, _)| *held).collect();
        let new = legend.characters.iter().filter(|(character, _)| known.insert(*character));
        kept.entries.extend(new);
    }
    kept.rects.push(rect);
}
