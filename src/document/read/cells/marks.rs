//! Marks beside the cells of a layer: turn, raise and palette in a grid of their own, for encodings
//! whose values name tiles only.

use super::grid::{Encoding, Grid, Spelled};
use super::legend::Legend;
use super::{legend, picture, rows, table};
use crate::document::syntax::{Node, Reader, Span};
use crate::tile::{Cell, CellMarks, CellNotation};
use crate::units::{CellPos, CellRect, GridCells};

/// How marks are spelled: as in the notation of cells, but without a tile.
struct MarkSpelling;

impl MarkSpelling {
    fn marks(reader: &mut Reader<'_, '_>, span: Span, text: &str) -> Option<CellMarks> {
        match text.parse() {
            Ok(marks) => Some(marks),
            Err(error) => {
                let message = format!("`{text}` does not state marks of a cell");
                let error = crate::tile::CellNotationError::to_string(&error);
                let hint = if error.contains(CellNotation::MARKS) {
                    format!("{}, for example +90+raise", CellNotation::MARKS)
                } else {
                    error
                };
                reader.error_with_hint(span, message, Some(hint));
                None
            }
        }
    }
}

impl Spelled for MarkSpelling {
    type Value = CellMarks;

    fn entry<'a>(&mut self, reader: &mut Reader<'a, '_>, node: Node<'a>) -> Option<CellMarks> {
        if node.is_null() {
            return Some(CellMarks::default());
        }
        let text = reader.text(node, "the marks of a cell")?;
        MarkSpelling::marks(reader, node.span(), &text)
    }

    fn field(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        _at: CellPos,
        text: &str,
    ) -> Option<CellMarks> {
        MarkSpelling::marks(reader, span, text)
    }
}

/// The marks of a rectangle of cells, row by row.
pub(crate) struct MarkGrid<'a> {
    node: Node<'a>,
    rect: CellRect,
    marks: Vec<CellMarks>,
}

/// Reads the marks that stand beside an encoding: `None` after a problem.
pub(crate) fn read<'a>(
    reader: &mut Reader<'a, '_>,
    grid: &mut Grid<'_, 'a, '_, '_>,
) -> Option<Option<MarkGrid<'a>>> {
    let Some(node) = grid.fields.get("marks") else { return Some(None) };
    let what = format!("`marks` of {}", grid.what.trim_start_matches("`cells` of "));
    let entries = reader.entries(node, &what)?;
    let encoding = Encoding::stated(&entries).find(|encoding| encoding.legend().is_some());
    let Some(encoding) = encoding else {
        reader
            .error(node.start(), format!("{what} must have one of `rows`, `table` and `picture`"));
        return None;
    };
    let known: &[&str] = match encoding {
        Encoding::Picture => &["picture", "legend", "tolerance"],
        encoding => &[encoding.key(), "legend"],
    };
    let fields = reader.fields(node, &what, known)?;
    let mut own = Grid {
        what: &what,
        encoding,
        fields: &fields,
        shared: None,
        cells: grid.cells,
        source: grid.source,
    };
    let mut marks = Vec::new();
    let mut sink = |_: CellPos, row: &[CellMarks]| {
        marks.extend_from_slice(row);
        Some(())
    };
    let legend = match (encoding.legend(), fields.get("legend")) {
        (Some(kind), Some(node)) => {
            legend::read(reader, node, own.source, kind, &mut MarkSpelling)?
        }
        _ if encoding == Encoding::Table => Legend::default(),
        _ => {
            reader.required(&fields, "legend");
            return None;
        }
    };
    let rect = match encoding {
        Encoding::Table => table::read(reader, &mut own, &legend, &mut MarkSpelling, &mut sink),
        Encoding::Picture => picture::read(reader, &mut own, &legend, &mut sink),
        _ => rows::read(reader, &mut own, &legend, &mut sink),
    }?;
    Some(Some(MarkGrid { node, rect, marks }))
}

impl MarkGrid<'_> {
    pub(super) fn over(&self) -> Marked<'_> {
        Marked { grid: self, on_empty: 0, first_on_empty: None }
    }

    /// Notes marks of another size than the cells, and those that mark nothing.
    pub(super) fn check(
        &self,
        reader: &mut Reader<'_, '_>,
        (what, places): (&str, GridCells),
        cells: CellRect,
        marked: Marked<'_>,
    ) {
        let span = self.node.start();
        if self.rect != cells {
            let size = |rect: CellRect| format!("{} × {}", rect.width(), rect.height());
            let (marks, cells) = (size(self.rect), size(cells));
            reader.error(span, format!("{what} has {cells} cells, but its `marks` are {marks}"));
        } else if let Some(place) = marked.first_on_empty {
            let cell = places.cell(place);
            let more = match marked.on_empty {
                1 => String::new(),
                count => format!(" and {} more", count - 1),
            };
            let message = format!("{what} has marks on the empty cell {cell}{more}");
            let hint = "marks turn, raise or recolour a tile; on an empty cell they do nothing";
            reader.warning(span, message, Some(hint));
        }
    }
}

/// Marks while they are laid over cells.
pub(super) struct Marked<'m> {
    grid: &'m MarkGrid<'m>,
    on_empty: usize,
    first_on_empty: Option<CellPos>,
}

impl Marked<'_> {
    /// Adds the marks of a part of a row to its cells.
    pub(super) fn apply(&mut self, first: CellPos, row: &mut [Cell]) {
        let rect = self.grid.rect;
        let (line, column) = (
            i64::from(first.y()) - i64::from(rect.top()),
            first.x().abs_diff(rect.left()).min(rect.width()) as usize,
        );
        let width = rect.width() as usize;
        let start = usize::try_from(line).ok().map(|line| line * width);
        let marks = start.and_then(|start| self.grid.marks.get(start..)).unwrap_or_default();
        let marks = marks.get(column..width.min(marks.len())).unwrap_or_default();
        for ((cell, &marks), x) in row.iter_mut().zip(marks).zip(first.x()..) {
            if cell.is_empty() && marks != CellMarks::default() {
                self.on_empty += 1;
                self.first_on_empty.get_or_insert(CellPos::new(x, first.y()));
            }
            *cell = marks.on(*cell);
        }
    }
}
