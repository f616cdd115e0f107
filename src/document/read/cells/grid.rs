//! A grid of values in a document: its encoding, its size, and where its files come from.

use crate::document::input::{Files, decoded};
use crate::document::syntax::{Entry, Fields, Node, Reader, Span};
use crate::units::{CellPos, CellRect, GridCells};

/// The files of cells of a map, and how many cells it may still have.
pub(crate) struct CellSource<'f, 's> {
    pub(crate) files: &'f mut Files<'s>,
    /// The file of the map, which names the others.
    pub(crate) map: &'f str,
    /// Whether a tile set could not be read, so that its tiles are not known.
    pub(crate) lost_sets: bool,
    /// How many cells the map may still have.
    pub(crate) cells_left: u64,
}

impl CellSource<'_, '_> {
    /// The path and the bytes of a file of cells that the map names.
    pub(crate) fn file<'a>(
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
    pub(super) fn text_file<'a>(
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

/// The encodings of cells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Encoding {
    Rows,
    Table,
    Numbers,
    Picture,
    Packed,
}

impl Encoding {
    pub(crate) const ALL: [Encoding; 5] =
        [Encoding::Rows, Encoding::Table, Encoding::Numbers, Encoding::Picture, Encoding::Packed];

    /// The key that each encoding has.
    pub(crate) const fn key(self) -> &'static str {
        match self {
            Encoding::Rows => "rows",
            Encoding::Table => "table",
            Encoding::Numbers => "numbers",
            Encoding::Picture => "picture",
            Encoding::Packed => "packed",
        }
    }

    /// The other keys that may stand beside it.
    pub(crate) const fn beside(self) -> &'static [&'static str] {
        match self {
            Encoding::Rows => &["legend", "size", "marks", "shifted"],
            Encoding::Table => {
                &["legend", "set", "columns", "base", "empty", "sets", "size", "marks", "shifted"]
            }
            Encoding::Numbers => {
                &["size", "order", "set", "columns", "base", "empty", "sets", "marks", "shifted"]
            }
            Encoding::Picture => &["legend", "tolerance", "size", "marks", "shifted"],
            Encoding::Packed => &["size", "tiles", "set", "columns", "base", "empty", "sets"],
        }
    }

    /// The keys of its legend; none where it has no legend.
    pub(crate) const fn legend(self) -> Option<LegendKind> {
        match self {
            Encoding::Rows | Encoding::Picture => Some(LegendKind::Signs),
            Encoding::Table => Some(LegendKind::Fields),
            Encoding::Numbers | Encoding::Packed => None,
        }
    }

    /// The encodings in which an object is, each as its key.
    pub(crate) fn stated<'e>(entries: &'e [Entry<'_>]) -> impl Iterator<Item = Encoding> + 'e {
        Encoding::ALL
            .into_iter()
            .filter(|encoding| entries.iter().any(|entry| entry.key == encoding.key()))
    }
}

/// The kind of keys that a legend has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum LegendKind {
    /// Characters of rows and colours of pictures.
    Signs,
    /// Texts of the fields of a table.
    Fields,
}

/// How the values of a grid are spelled.
pub(crate) trait Spelled {
    /// The value of a cell of the grid; the default stands for an empty one.
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
pub(super) type Sink<'k, V> = dyn FnMut(CellPos, &[V]) -> Option<()> + 'k;

/// Turns spelled values into what they mean. Maps have long stretches of one value, so that it is
/// asked for each stretch what most often one look tells. `meaning` gets a value, its place, and how
/// many of it there are from there on.
pub(super) fn translate<T: Copy + PartialEq, V: Copy>(
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

/// A grid of cells that is being read.
pub(crate) struct Grid<'g, 'a, 'f, 's> {
    /// Its name in error texts.
    pub(crate) what: &'g str,
    pub(crate) encoding: Encoding,
    pub(crate) fields: &'g Fields<'a>,
    /// The fields that `sections` share.
    pub(crate) shared: Option<&'g Fields<'a>>,
    /// The cells that its columns and rows name.
    pub(crate) cells: GridCells,
    pub(crate) source: &'g mut CellSource<'f, 's>,
}

impl<'a> Grid<'_, 'a, '_, '_> {
    pub(crate) fn get(&self, key: &str) -> Option<Node<'a>> {
        self.fields.get(key).or_else(|| self.shared?.get(key))
    }

    /// Takes the cells of a rectangle from those that the map may still have, and checks that it
    /// lies within the limits of cells and has the size that is stated.
    pub(crate) fn admit(
        &mut self,
        reader: &mut Reader<'a, '_>,
        (width, height): (u64, u64),
    ) -> Option<CellRect> {
        let what = self.what;
        let node = self.fields.get(self.encoding.key()).unwrap_or(self.fields.node);
        let span = node.start();
        let errors = reader.errors();
        if let Some((node, stated)) = self.stated_size(reader)
            && stated != (width, height)
        {
            let message = format!(
                "{what} states a size of {} × {}, but its `{}` has {width} × {height} cells",
                stated.0,
                stated.1,
                self.encoding.key()
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
        let corner = self.cells.corner();
        let last = CellPos::checked(
            last(corner.x(), width).unwrap_or(i64::MAX),
            last(corner.y(), height).unwrap_or(i64::MAX),
        );
        // Cells lie between those at the corners, but for half a cell.
        let last = last.filter(|last| {
            let corners = [(corner.x(), last.y()), (last.x(), corner.y()), (last.x(), last.y())];
            let mut grown = corners.into_iter().flat_map(|(x, y)| [(x, y), (x, y - 1), (x - 1, y)]);
            grown.all(|(x, y)| {
                let place = CellPos::checked(x.into(), y.into());
                place.is_some_and(|place| self.cells.checked_cell(place).is_some())
            }) || self.cells.is_straight()
        });
        if last.is_none() {
            reader.error(span, format!("{what} reaches beyond the limits of cells"));
        }
        let last = last.filter(|_| reader.errors() == errors)?;
        Some(CellRect::between(corner, last))
    }

    /// The size that is stated, with its place.
    pub(super) fn stated_size(
        &self,
        reader: &mut Reader<'a, '_>,
    ) -> Option<(Node<'a>, (u64, u64))> {
        let node = self.fields.get("size")?;
        let what = format!("the size of {}", self.what);
        let (width, height) = reader.integers(node, &what, 0..=1_i64 << 31)?;
        Some((node, (width.unsigned_abs(), height.unsigned_abs())))
    }
}

/// The keys that may stand beside `sections` and hold for each of them.
pub(crate) const SHARED: [&str; 9] =
    ["sections", "legend", "tolerance", "set", "columns", "base", "empty", "sets", "tiles"];
