//! The cells of a layer in each of the forms that documents have.

use super::layout::cell_value;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;

use super::error::SaveError;
use super::forms::{CellForm, Content, Entries, FormWriter, Piece, entry};
use super::layout::Laid;
use super::options::Options;
use super::spelling::{MAX_TEXT_CELLS, each_row, extent, text_extent};
use crate::document::limits::Limits;
use crate::quilt::{CellLegend, Layer, LayerKey, Quilt};
use crate::units::{CellPos, CellRect};

/// The most cells of a layer that are readable.
const MAX_READABLE_CELLS: u64 = 1 << 20;
/// The most different cells of a layer that are readable.
const MAX_READABLE_VALUES: usize = 1000;
/// A layer that spans no more cells is written as one piece, however few of them it has.
const MAX_SMALL_CELLS: u64 = 1 << 16;
/// How many times the cells that its chunks span a layer may span and still be one piece.
const MAX_SPARSE: u64 = 8;

/// The cells of one layer as a file of their own, as [`Quilt::layer_file`] gives them.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct LayerFile {
    /// The cells that the file spans.
    pub rect: CellRect,
    /// The ending that a file of this kind has: `txt`, `csv`, `png`, `json` or `lz4`.
    pub extension: &'static str,
    /// The bytes of the file.
    pub bytes: Vec<u8>,
    /// What must be known to read it: what stands beside the file's name in `cells` of a map, for
    /// example its `legend`.
    pub beside: serde_json::Map<String, serde_json::Value>,
}

impl Quilt {
    /// Returns the cells of a layer as a file of their own, in any form ([`CellForm::Readable`]
    /// means rows).
    ///
    /// # Errors
    /// A layer that is not there or not loaded as a whole, or that the form cannot hold.
    ///
    /// ```
    /// use sturdy_quilt::CellForm;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let table = quilt.layer_file("soil", CellForm::Table)?;
    /// assert!(table.bytes.starts_with(b"garden/grass,garden/grass,garden/wall,garden/grass\n"));
    /// let rows = quilt.layer_file("soil", CellForm::Rows)?;
    /// assert_eq!((rows.extension, &*rows.bytes), ("txt", &b"ggwg\ngggg\ngggg\n"[..]));
    /// assert_eq!(rows.beside["legend"]["w"], "garden/wall");
    /// # Ok::<(), sturdy_quilt::SaveError>(())
    /// ```
    pub fn layer_file(&self, layer: impl LayerKey, form: CellForm) -> Result<LayerFile, SaveError> {
        let layer = self.layer(layer)?;
        let rect = text_extent(layer)?;
        let most_bytes = Limits::DEFAULT.file_bytes;
        let mut form = FormWriter::new(form, layer, self.tiles(), most_bytes);
        let Piece { before, content, after, .. } = form.piece(layer, rect)?;
        let (extension, bytes) = match content {
            Content::Lines(lines) => form.file(&lines),
            Content::Picture(bytes) => ("png", bytes),
            Content::Block(bytes) => ("lz4", bytes),
        };
        let beside = form.shared().into_iter().chain(before).chain(after);
        let beside = beside.map(|(key, laid)| (key, laid.into_value())).collect();
        Ok(LayerFile { rect, extension, bytes, beside })
    }
}

/// Writes the cells of all layers of a map.
pub(super) struct CellWriter<'w, 'q> {
    map: &'w Options<'q>,
    /// The map's own file, and then those that were made so far.
    files: &'w mut Vec<(String, Vec<u8>)>,
    /// The cells of the layers that are written already.
    cells: u64,
    /// The pixels of the pictures of the map.
    pixels: u64,
}

impl<'w, 'q> CellWriter<'w, 'q> {
    pub(super) fn new(
        map: &'w Options<'q>,
        files: &'w mut Vec<(String, Vec<u8>)>,
    ) -> CellWriter<'w, 'q> {
        let sets = map.quilt.tiles().sets().filter(|set| set.picture_file().is_some());
        let pixels = sets.map(|set| set.page().size().area()).sum();
        CellWriter { map, files, cells: 0, pixels }
    }

    /// The first cell of a layer, and its `cells`.
    pub(super) fn layer(&mut self, layer: &Layer) -> Result<(CellPos, Laid), SaveError> {
        let pieces = pieces(layer);
        let form = match self.map.form {
            CellForm::Readable => readable_form(layer, &pieces)?,
            // A picture has pixels, and numbers are those of a set.
            CellForm::Picture if extent(layer).is_empty() => CellForm::Rows,
            CellForm::Numbers if self.map.quilt.tiles().sets().len() == 0 => CellForm::Rows,
            stated => stated,
        };
        let count: u64 = pieces.iter().map(|piece| piece.cell_count()).sum();
        let is_text = !matches!(form, CellForm::Packed | CellForm::Picture);
        if is_text && count > MAX_TEXT_CELLS {
            let rect = extent(layer);
            return Err(SaveError::TooLargeForText { layer: layer.name().to_owned(), rect });
        }
        self.admit(layer, form, &pieces, count)?;
        let limits = self.map.limits;
        let mut form = FormWriter::new(form, layer, self.map.quilt.tiles(), limits.file_bytes);
        if let [piece] = *pieces {
            let own = self.piece(&mut form, layer, piece, "")?;
            let mut entries = form.shared();
            entries.extend(own);
            return Ok((piece.corner(), Laid::Object(entries)));
        }
        let mut written = Vec::with_capacity(pieces.len());
        for (&piece, number) in pieces.iter().zip(1..) {
            let mut entries = vec![entry("at", cell_value(piece.corner()))];
            entries.extend(self.piece(&mut form, layer, piece, &format!("-{number}"))?);
            written.push(Laid::Object(entries));
        }
        let mut entries = form.shared();
        entries.push(entry("pieces", Laid::List(written)));
        Ok((CellPos::ORIGIN, Laid::Object(entries)))
    }

    /// Checks that the map can be loaded again with the cells of a layer.
    fn admit(
        &mut self,
        layer: &Layer,
        form: CellForm,
        pieces: &[CellRect],
        count: u64,
    ) -> Result<(), SaveError> {
        let limits = self.map.limits;
        self.cells = self.cells.saturating_add(count);
        if self.cells > limits.cells {
            let (layer, count) = (layer.name().to_owned(), self.cells);
            return Err(SaveError::TooManyCells { layer, count, most: limits.cells });
        }
        if form == CellForm::Picture {
            self.pixels += count;
        }
        let block = pieces.iter().map(|piece| piece.cell_count() * 4).max().unwrap_or(0);
        let packed = if form == CellForm::Packed { block } else { 0 };
        let counted = [
            ("pixels in its pictures", self.pixels, limits.pixels),
            ("bytes in a packed block", packed, limits.unpacked_bytes),
        ];
        match counted.into_iter().find(|(_, count, most)| count > most) {
            Some((what, count, most)) => Err(SaveError::TooMany { what, count, most }),
            None => Ok(()),
        }
    }

    /// What is written for one piece, in the document or in a file that it names.
    fn piece(
        &mut self,
        form: &mut FormWriter<'_>,
        layer: &Layer,
        piece: CellRect,
        number: &str,
    ) -> Result<Entries, SaveError> {
        let Piece { before, key, content, after } = form.piece(layer, piece)?;
        let mut entries = before;
        entries.push(match content {
            Content::Lines(lines) if !self.map.apart => entry(key, Laid::Lines(lines)),
            Content::Lines(lines) => {
                let (extension, bytes) = form.file(&lines);
                entry(key, self.file(layer, number, extension, bytes))
            }
            Content::Picture(bytes) => entry(key, self.file(layer, number, "png", bytes)),
            Content::Block(bytes) => {
                let block = if self.map.apart {
                    let name = self.file(layer, number, "lz4", bytes);
                    Laid::Object(vec![entry("file", name)])
                } else {
                    STANDARD.encode(bytes).into()
                };
                entry(key, Laid::Object(vec![entry("lz4", block)]))
            }
        });
        entries.extend(after);
        Ok(entries)
    }

    /// Adds a file beside the map; gives its name.
    fn file(&mut self, layer: &Layer, number: &str, extension: &str, bytes: Vec<u8>) -> String {
        let plain = |c: char| if c.is_alphanumeric() || matches!(c, '-' | '_') { c } else { '_' };
        let layer: String = layer.name().chars().map(plain).collect();
        let stem = self.files.first().map_or("map", |(stem, _)| stem);
        let base = format!("{stem}-{layer}{number}");
        let is_taken = |name: &String| self.files.iter().any(|(held, _)| held == name);
        let name = (1..)
            .map(|n| match n {
                1 => format!("{base}.{extension}"),
                _ => format!("{base}_{n}.{extension}"),
            })
            .find(|name| !is_taken(name))
            .unwrap_or_default();
        self.files.push((name.clone(), bytes));
        name
    }
}

/// The rectangles in which a layer is written: those that its rows had when it was loaded, else
/// one around everything, else one a chunk where that would be large and mostly empty.
fn pieces(layer: &Layer) -> Vec<CellRect> {
    let plane = layer.cells();
    let chunks = plane.chunks_in_use().into_iter();
    let mut used: Vec<CellRect> = chunks.map(|pos| plane.chunk(pos).bounds(pos)).collect();
    used.retain(|rect| !rect.is_empty());
    let area = |rects: &[CellRect]| -> u64 { rects.iter().map(|rect| rect.cell_count()).sum() };
    let known = layer.legend().map(CellLegend::rects).unwrap_or_default();
    if known.len() > 1 {
        let is_covered = |rect: &CellRect| {
            let inside: Vec<CellRect> = known.iter().map(|k| k.intersection(*rect)).collect();
            area(&inside) >= rect.cell_count()
        };
        if used.iter().all(is_covered) {
            return known.to_vec();
        }
    }
    let whole = extent(layer);
    let most = area(&used).saturating_mul(MAX_SPARSE).max(MAX_SMALL_CELLS);
    let is_dense = whole.cell_count() <= most;
    if is_dense || used.len() < 2 { vec![whole] } else { used }
}

/// The form that is most readable for a layer.
fn readable_form(layer: &Layer, pieces: &[CellRect]) -> Result<CellForm, SaveError> {
    let count: u64 = pieces.iter().map(|piece| piece.cell_count()).sum();
    if layer.legend().is_some() && count <= MAX_TEXT_CELLS {
        return Ok(CellForm::Rows);
    }
    let mut different = rustc_hash::FxHashSet::default();
    if count <= MAX_READABLE_CELLS {
        for &piece in pieces {
            each_row(layer, piece, |row| different.extend(row.iter().copied()))?;
        }
    }
    let is_readable = count <= MAX_READABLE_CELLS && different.len() <= MAX_READABLE_VALUES;
    Ok(if is_readable { CellForm::Rows } else { CellForm::Packed })
}
