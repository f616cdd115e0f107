//! The writer of maps.

use serde_json::Value;

use super::cells::CellWriter;
use super::check::check_values;
use super::encode::CellEncoding;
use super::error::SaveError;
use super::layout::Laid;
use super::map;
use super::options::Options;
use crate::document::limits::Limits;
use crate::quilt::{Layer, Quilt};
use crate::tile::Tile;
use crate::units::CellPos;
/// A writer of a map as a document, with the files that hold its cells if these are to lie apart.
/// Made by [`Quilt::document`].
///
/// ```
/// use sturdy_quilt::document::CellEncoding;
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let files = quilt.document().with_encoding(CellEncoding::Table).with_cells_apart(true).to_files("garden.quilt.json")?;
/// let names: Vec<&str> = files.iter().map(|(name, _)| name.as_str()).collect();
/// assert_eq!(names, ["garden.quilt.json", "garden-soil.csv"]);
/// # Ok::<(), sturdy_quilt::document::SaveError>(())
/// ```
#[derive(Clone, Copy, Debug)]
pub struct MapWriter<'q>(Options<'q>);

impl<'q> MapWriter<'q> {
    /// Writes the cells in this encoding. Default: [`CellEncoding::Readable`].
    #[must_use]
    pub const fn with_encoding(mut self, encoding: CellEncoding) -> MapWriter<'q> {
        self.0.encoding = encoding;
        self
    }

    /// Writes the cells of each layer to files of their own beside the map, which names them.
    /// Default: they stand in the map, where the encoding can.
    #[must_use]
    pub const fn with_cells_apart(mut self, apart: bool) -> MapWriter<'q> {
        self.0.apart = apart;
        self
    }

    /// Checks what is written against other limits: those with which it will be loaded. Default:
    /// [`Limits::default`].
    #[must_use]
    pub const fn with_limits(mut self, limits: Limits) -> MapWriter<'q> {
        self.0.limits = limits;
        self
    }

    /// The map that is written, and the limits that it is held to.
    pub(crate) const fn parts(&self) -> (&'q Quilt, &Limits) {
        (self.0.quilt, &self.0.limits)
    }

    /// The map as a document without the cells of its layers.
    pub(crate) fn without_cells(&self) -> Result<Value, SaveError> {
        map::without_cells(&self.0)
    }

    /// The cells of one layer as they stand in the document, with the first of them.
    pub(crate) fn layer_cells(&self, layer: &Layer) -> Result<(CellPos, Laid), SaveError> {
        let mut files = vec![(String::new(), Vec::new())];
        let whole = Options { encoding: CellEncoding::Readable, apart: false, ..self.0 };
        CellWriter::new(&whole, &mut files).layer(layer)
    }

    /// Returns the document and the files that it names for its cells, each with its path; the
    /// document itself has the path `name` and is the first.
    ///
    /// # Errors
    /// A tile set that was made in code from a picture and names no file for it; a layer that is
    /// not loaded as a whole, or that the encoding cannot hold; a map that could not be loaded again
    /// with the limits.
    ///
    /// Takes memory of a small multiple of the files.
    pub fn to_files(&self, name: &str) -> Result<Vec<(String, Vec<u8>)>, SaveError> {
        let stem = name.rsplit('/').next().unwrap_or(name);
        let stem = stem.split('.').next().unwrap_or(stem).to_owned();
        let mut files = vec![(stem, Vec::new())];
        let document = map::document(&self.0, &mut files)?;
        let text = document.text();
        let quilt = self.0.quilt;
        let layers = quilt.layers().iter().map(|layer| &layer.settings().data);
        let markers = quilt.markers().map(|placed| placed.marker().data());
        let tiles = quilt.tiles().sets().flat_map(|set| set.tiles()).map(Tile::data);
        let data = [quilt.data()].into_iter().chain(layers).chain(markers).chain(tiles);
        check_values(&text, data, self.0.limits.json_values)?;
        files[0] = (name.to_owned(), text.into_bytes());
        let most = self.0.limits.file_bytes;
        match files.iter().find(|(_, bytes)| bytes.len() as u64 > most) {
            Some((file, _)) => Err(SaveError::TooLargeFile { what: format!("`{file}`"), most }),
            None => Ok(files),
        }
    }
}

impl Quilt {
    /// Returns the map as a document, to be written in an encoding that can be chosen.
    pub const fn document(&self) -> MapWriter<'_> {
        MapWriter(Options {
            quilt: self,
            encoding: CellEncoding::Readable,
            apart: false,
            limits: Limits::DEFAULT,
        })
    }

    /// Returns the map as a document, as it is saved. The same map always gives the same text; a
    /// map that was loaded keeps the characters of its legends and the rectangles of its rows, so
    /// that one changed cell is one changed line.
    ///
    /// # Errors
    /// A tile set that was made in code from a picture and names no file for it; a layer that is
    /// not loaded as a whole; a map that is too large to be loaded again with the default
    /// [`Limits`].
    pub fn to_json(&self) -> Result<String, SaveError> {
        let mut files = self.document().to_files("the map")?;
        // The document is text, and the first.
        Ok(String::from_utf8(std::mem::take(&mut files[0].1)).unwrap_or_default())
    }
}
