//! The cells of a layer in each of the encodings that documents have.

use super::layout::cell_value;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;

use super::encode::{CellEncoder, CellEncoding, Content, Entries, Section, entry};
use super::error::SaveError;
use super::layout::Laid;
use super::options::Options;
use super::spelling::{MAX_TEXT_CELLS, WrittenRect, each_row, extent, text_extent};
use crate::document::limits::Limits;
use crate::quilt::{CellLegend, Layer, LayerKey, Quilt};
use crate::tile::TileTable;
use crate::units::{CellPos, CellRect};

/// The most cells of a layer that are readable.
const MAX_READABLE_CELLS: u64 = 1 << 20;
/// The most different cells of a layer that are readable.
const MAX_READABLE_VALUES: usize = 1000;
/// A layer that spans no more cells is written as one section, however few of them it has.
const MAX_SMALL_CELLS: u64 = 1 << 16;
/// How many times the cells that its chunks span a layer may span and still be one section.
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
    /// Returns the cells of a layer as a file of their own, in any encoding ([`CellEncoding::Readable`]
    /// means rows).
    ///
    /// # Errors
    /// A layer that is not there or not loaded as a whole, or that the encoding cannot hold.
    ///
    /// ```
    /// use sturdy_quilt::document::CellEncoding;
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let table = quilt.layer_file("soil", CellEncoding::Table)?;
    /// assert!(table.bytes.starts_with(b"garden/grass,garden/grass,garden/wall,garden/grass\n"));
    /// let rows = quilt.layer_file("soil", CellEncoding::Rows)?;
    /// assert_eq!((rows.extension, &*rows.bytes), ("txt", &b"ggwg\ngggg\ngggg\n"[..]));
    /// assert_eq!(rows.beside["legend"]["w"], "garden/wall");
    /// # Ok::<(), sturdy_quilt::document::SaveError>(())
    /// ```
    pub fn layer_file(
        &self,
        layer: impl LayerKey,
        encoding: CellEncoding,
    ) -> Result<LayerFile, SaveError> {
        let layer = self.layer(layer)?;
        let rect = text_extent(layer)?;
        let most_bytes = Limits::DEFAULT.file_bytes;
        let mut encoding = CellEncoder::new(encoding, layer, self.tiles(), most_bytes);
        let Section { before, content, after, .. } = encoding.section(layer, rect)?;
        let (extension, bytes) = match content {
            Content::Lines(lines) => encoding.file(&lines),
            Content::Picture(bytes) => ("png", bytes),
            Content::Block(bytes) => ("lz4", bytes),
        };
        let beside = encoding.shared().into_iter().chain(before).chain(after);
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
        let shifted = WrittenRect::shifted(layer).map(|own| vec![own]);
        let mut sections = shifted.unwrap_or_else(|| straight_sections(layer));
        let encoding = match self.map.encoding {
            CellEncoding::Readable => readable_encoding(layer, self.map.quilt.tiles(), &sections)?,
            // A picture has pixels, and numbers are those of a set.
            CellEncoding::Picture if extent(layer).is_empty() => CellEncoding::Rows,
            CellEncoding::Numbers if self.map.quilt.tiles().sets().len() == 0 => CellEncoding::Rows,
            stated => stated,
        };
        if encoding == CellEncoding::Packed {
            // Nobody reads a block: that it is shifted would mean nothing.
            sections = straight_sections(layer);
        }
        let count: u64 = sections.iter().map(|section| section.rect.cell_count()).sum();
        let is_text = !matches!(encoding, CellEncoding::Packed | CellEncoding::Picture);
        if is_text && count > MAX_TEXT_CELLS {
            let rect = extent(layer);
            return Err(SaveError::TooLargeForText { layer: layer.name().to_owned(), rect });
        }
        self.admit(layer, encoding, &sections, count)?;
        let limits = self.map.limits;
        let mut encoding =
            CellEncoder::new(encoding, layer, self.map.quilt.tiles(), limits.file_bytes);
        if let [section] = *sections {
            let own = self.section(&mut encoding, layer, section, "")?;
            let mut entries = encoding.shared();
            let words = section.cells.addressing().words();
            entries.extend(words.map(|words| entry("shifted", words)));
            entries.extend(own);
            return Ok((section.corner(), Laid::Object(entries)));
        }
        let mut written = Vec::with_capacity(sections.len());
        for (&section, number) in sections.iter().zip(1..) {
            let mut entries = vec![entry("at", cell_value(section.corner()))];
            entries.extend(self.section(&mut encoding, layer, section, &format!("-{number}"))?);
            written.push(Laid::Object(entries));
        }
        let mut entries = encoding.shared();
        entries.push(entry("sections", Laid::List(written)));
        Ok((CellPos::ORIGIN, Laid::Object(entries)))
    }

    /// Checks that the map can be loaded again with the cells of a layer.
    fn admit(
        &mut self,
        layer: &Layer,
        encoding: CellEncoding,
        sections: &[WrittenRect],
        count: u64,
    ) -> Result<(), SaveError> {
        let limits = self.map.limits;
        self.cells = self.cells.saturating_add(count);
        if self.cells > limits.cells {
            let (layer, count) = (layer.name().to_owned(), self.cells);
            return Err(SaveError::TooManyCells { layer, count, most: limits.cells });
        }
        if encoding == CellEncoding::Picture {
            self.pixels += count;
        }
        let block = sections.iter().map(|section| section.rect.cell_count() * 4).max().unwrap_or(0);
        let packed = if encoding == CellEncoding::Packed { block } else { 0 };
        let counted = [
            ("pixels in its pictures", self.pixels, limits.pixels),
            ("bytes in a packed block", packed, limits.unpacked_bytes),
        ];
        match counted.into_iter().find(|(_, count, most)| count > most) {
            Some((what, count, most)) => Err(SaveError::TooMany { what, count, most }),
            None => Ok(()),
        }
    }

    /// Writes one section, in the document or in a file that it names.
    fn section(
        &mut self,
        encoding: &mut CellEncoder<'_>,
        layer: &Layer,
        section: WrittenRect,
        number: &str,
    ) -> Result<Entries, SaveError> {
        let Section { before, key, content, after } = encoding.section(layer, section)?;
        let mut entries = before;
        entries.push(match content {
            Content::Lines(lines) if !self.map.apart => entry(key, Laid::Lines(lines)),
            Content::Lines(lines) => {
                let (extension, bytes) = encoding.file(&lines);
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
fn straight_sections(layer: &Layer) -> Vec<WrittenRect> {
    rects(layer).into_iter().map(WrittenRect::from).collect()
}

fn rects(layer: &Layer) -> Vec<CellRect> {
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

/// The encoding that is most readable for a layer.
fn readable_encoding(
    layer: &Layer,
    tiles: &TileTable,
    sections: &[WrittenRect],
) -> Result<CellEncoding, SaveError> {
    let count: u64 = sections.iter().map(|section| section.rect.cell_count()).sum();
    if layer.legend().is_some() && count <= MAX_TEXT_CELLS {
        return Ok(CellEncoding::Rows);
    }
    let mut different = rustc_hash::FxHashSet::default();
    if count <= MAX_READABLE_CELLS {
        for &section in sections {
            each_row(layer, tiles, section, |row| different.extend(row.iter().copied()))?;
        }
    }
    let is_readable = count <= MAX_READABLE_CELLS && different.len() <= MAX_READABLE_VALUES;
    Ok(if is_readable { CellEncoding::Rows } else { CellEncoding::Packed })
}
