//! The files of a map: reading them, and knowing what they are.

use std::sync::Arc;

use super::cache::LoadCache;
use super::watch::{LoadStage, Watch};
use crate::document::formats::{MAP_FORMAT, TILES_FORMAT, VERSION};
use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problem, Problems, Severity, TextPlace};
use crate::document::source::{FileSource, SourceError, resolved};
use crate::document::syntax::{Node, Reader, Span};
use crate::name_error::{did_you_mean, near_names};
use crate::picture::Picture;
#[cfg(feature = "png")]
use crate::picture::PngRows;
use crate::tile::ArtPage;
use crate::units::PixelSize;

/// The files that a load may read, and those it has read.
pub(crate) struct Files<'s> {
    pub(crate) source: &'s dyn FileSource,
    pub(crate) limits: &'s Limits,
    pub(crate) read: Vec<String>,
    /// Those of them that hold only cells.
    pub(crate) cell_files: Vec<String>,
    /// Those that have not arrived.
    pub(super) awaited: Vec<String>,
    /// Whether the pictures of sheets and tiles are wanted.
    pub(crate) decodes: bool,
    /// How many pixels may still be decoded.
    pub(crate) pixels_left: u64,
    pub(crate) cache: Option<&'s LoadCache>,
    pub(crate) watch: Option<&'s Watch>,
}

/// In words why a file could not be read, and what to do; nothing where it is just not there yet.
pub(super) type Unreadable = Option<(String, Option<String>)>;

impl<'s> Files<'s> {
    pub(crate) fn new(source: &'s dyn FileSource, limits: &'s Limits) -> Files<'s> {
        Files {
            source,
            limits,
            read: Vec::new(),
            cell_files: Vec::new(),
            awaited: Vec::new(),
            decodes: true,
            pixels_left: limits.pixels,
            cache: None,
            watch: None,
        }
    }

    /// Begins a stage with so many things to do.
    pub(crate) fn enter(&self, stage: LoadStage, total: u64) {
        if let Some(watch) = self.watch {
            watch.enter(stage, total);
        }
    }

    /// One of the things of a stage is done.
    pub(crate) fn step(&self) {
        if let Some(watch) = self.watch {
            watch.step();
        }
    }

    /// Whether the load is no longer wanted.
    pub(crate) fn is_cancelled(&self) -> bool {
        self.watch.is_some_and(Watch::is_cancelled)
    }

    /// The bytes of a file that a document names, with its path in the source; else a problem at
    /// the place where it is named.
    pub(crate) fn named(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        naming_file: &str,
        named: &str,
    ) -> Option<(String, Vec<u8>)> {
        let path = match resolved(naming_file, named) {
            Ok(path) => path,
            Err(why) => {
                let path = if named.is_empty() { String::new() } else { format!("`{named}`: ") };
                reader.error(span, format!("{path}{why}"));
                return None;
            }
        };
        match self.read(&path) {
            Ok(bytes) => Some((path, bytes)),
            Err(Some((message, hint))) => {
                reader.error_with_hint(span, message, hint);
                None
            }
            Err(None) => None,
        }
    }

    /// The pixels of a picture that a document names, ready to be drawn.
    pub(crate) fn page(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        naming_file: &str,
        named: &str,
    ) -> Option<Arc<ArtPage>> {
        let path = resolved(naming_file, named).ok();
        if let Some(path) = &path
            && let Some(cache) = self.cache
            && let Some(page) = cache.page(&self.source.label(path))
            && self.take_pixels(page.size().area())
        {
            self.note_read(path);
            return Some(page);
        }
        let (path, picture) = self.picture(reader, span, naming_file, named)?;
        let page = Arc::new(ArtPage::from_picture(&picture));
        if let Some(cache) = self.cache {
            cache.keep_page(&self.source.label(&path), &page);
        }
        Some(page)
    }

    /// The names of the pictures in a folder that a document names, in their order.
    pub(crate) fn pictures_in(
        &self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        naming_file: &str,
        named: &str,
    ) -> Option<Vec<String>> {
        let folder = match resolved(naming_file, named) {
            Ok(folder) => folder,
            Err(why) => {
                reader.error(span, format!("`{named}`: {why}"));
                return None;
            }
        };
        let mut names = self.source.names(&folder);
        names.retain(|name| name.to_ascii_lowercase().ends_with(".png"));
        names.sort_unstable();
        if names.is_empty() {
            let label = self.source.label(&folder);
            reader.error(span, format!("there is no PNG picture in the folder `{label}`"));
            return None;
        }
        Some(names)
    }

    /// The picture that a document names, with its path in the source.
    pub(crate) fn picture(
        &mut self,
        reader: &mut Reader<'_, '_>,
        span: Span,
        naming_file: &str,
        named: &str,
    ) -> Option<(String, Picture)> {
        let (path, bytes) = self.named(reader, span, naming_file, named)?;
        match decoded_picture(&bytes, self.pixels_left) {
            Ok(picture) => {
                self.take_pixels(picture.size().area());
                Some((path, picture))
            }
            Err(why) => {
                reader.error(span, format!("picture `{named}`: {why}"));
                None
            }
        }
    }

    /// Remembers that a file holds only cells: they are in the map once it is loaded.
    pub(crate) fn note_cell_file(&mut self, path: &str) {
        if !self.cell_files.iter().any(|held| held == path) {
            self.cell_files.push(path.to_owned());
        }
    }

    /// The bytes of a file.
    pub(super) fn read(&mut self, path: &str) -> Result<Vec<u8>, Unreadable> {
        let is_known = self.read.iter().any(|read| read == path);
        if !is_known && self.read.len() as u64 >= self.limits.files {
            let message =
                format!("file `{path}`: a map may read at most {} files", self.limits.files);
            return Err(Some((message, None)));
        }
        match self.source.read(path, self.limits.file_bytes) {
            Ok(bytes) => {
                self.note_read(path);
                Ok(bytes)
            }
            Err(SourceError::NotFound) if self.source.is_coming(path) => {
                if !self.awaited.iter().any(|held| held == path) {
                    self.awaited.push(path.to_owned());
                }
                Err(None)
            }
            Err(error) => Err(Some(unreadable(self.source, path, &error))),
        }
    }

    /// The bytes of the file that a load was asked for; else a problem of that file.
    pub(crate) fn asked_for(&mut self, path: &str, problems: &mut Problems) -> Option<Vec<u8>> {
        match self.read(path) {
            Ok(bytes) => Some(bytes),
            Err(Some((message, hint))) => {
                problems.push(file_problem(&self.source.label(path), message, hint));
                None
            }
            Err(None) => None,
        }
    }

    /// The text of the file that a load was asked for; else a problem of that file.
    pub(crate) fn text_asked_for(&mut self, path: &str, problems: &mut Problems) -> Option<String> {
        let bytes = self.asked_for(path, problems)?;
        decoded(bytes, &self.source.label(path), problems)
    }

    /// The problems again where every file has arrived, else the error that says which have not.
    pub(crate) fn all_arrived(&mut self, problems: Problems) -> Result<Problems, LoadError> {
        if self.awaited.is_empty() {
            return Ok(problems);
        }
        let awaited = std::mem::take(&mut self.awaited);
        Err(LoadError { awaited, ..problems.into_error() })
    }

    /// Remembers that a file is one of the map.
    pub(crate) fn note_read(&mut self, path: &str) {
        if !self.read.iter().any(|read| read == path) {
            self.read.push(path.to_owned());
        }
    }

    /// Counts pixels that are in memory for the map.
    pub(crate) fn take_pixels(&mut self, pixels: u64) -> bool {
        let left = self.pixels_left.checked_sub(pixels);
        self.pixels_left = left.unwrap_or(0);
        left.is_some()
    }
}

/// Bytes as text, without a byte-order mark; else a problem where they are none.
pub(crate) fn decoded(bytes: Vec<u8>, label: &str, problems: &mut Problems) -> Option<String> {
    match String::from_utf8(bytes) {
        Ok(text) => Some(text.strip_prefix('\u{feff}').map(str::to_owned).unwrap_or(text)),
        Err(error) => {
            let at = error.utf8_error().valid_up_to();
            let text = String::from_utf8_lossy(error.as_bytes());
            let message = "the file is not UTF-8 text from here on".to_owned();
            let hint = Some("save it as UTF-8".to_owned());
            let place = Some(TextPlace::find(&text, at, 1));
            problems.push(Problem { place, ..file_problem(label, message, hint) });
            None
        }
    }
}

/// In words why a file could not be read, and what may be meant.
fn unreadable(
    source: &dyn FileSource,
    path: &str,
    error: &SourceError,
) -> (String, Option<String>) {
    let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
    let message = match error {
        SourceError::Io(cause) => format!("file `{path}`: {error}: {cause}"),
        _ => format!("file `{path}`: {error}"),
    };
    let hint = match error {
        SourceError::NotFound => {
            let searched = source.label(folder);
            let searched = if searched.is_empty() { ".".to_owned() } else { searched };
            let elsewhere: Vec<String> =
                source.places_of(name).into_iter().map(|place| source.label(&place)).collect();
            let near = match elsewhere.is_empty() {
                true => did_you_mean(&near_names(name, source.names(folder))),
                false => Some(format!("there is `{}`", elsewhere.join("` and `"))),
            };
            let searched = format!("the folder searched is `{searched}`");
            Some(near.map_or(searched.clone(), |near| format!("{searched}; {near}")))
        }
        SourceError::Outside => {
            Some("put it into the folder of the map, or load from a folder above both".to_owned())
        }
        _ => None,
    };
    (message, hint)
}

/// A problem with a file as a whole.
pub(crate) fn file_problem(label: &str, message: String, hint: Option<String>) -> Problem {
    let (severity, file) = (Severity::Error, label.to_owned());
    Problem { severity, file, place: None, pixel: None, cell: None, message, hint }
}

/// Checks that a document states the format that is wanted, and a version that can be read.
pub(crate) fn check_format<'a>(
    reader: &mut Reader<'a, '_>,
    root: Node<'a>,
    wanted: &str,
) -> Option<()> {
    let Some(entries) = root.entries() else {
        let (span, kind) = (root.span(), root.kind());
        reader.error(span, format!("the document must be an object, not {kind}"));
        return None;
    };
    let find = |key: &str| entries.iter().find(|entry| entry.key == key).map(|entry| entry.value);
    let start = root.start();
    let Some(format) = find("format") else {
        let hint = format!("write \"format\": \"{wanted}\", \"version\": {VERSION}");
        reader.error_with_hint(start, "the document has no `format`", Some(hint));
        return None;
    };
    let stated = reader.text(format, "`format`")?;
    if stated != wanted {
        let hint = match &*stated {
            TILES_FORMAT => "this is a tile set; name it under `tiles` of a map",
            MAP_FORMAT => "this is a map; name a tile set here",
            _ => "only documents of sturdy-quilt can be read",
        };
        let message = format!("the format must be `{wanted}`, not `{stated}`");
        reader.error_with_hint(format.span(), message, Some(hint));
        return None;
    }
    let Some(version) = find("version") else {
        let hint = format!("write \"version\": {VERSION}");
        reader.error_with_hint(start, "the document has no `version`", Some(hint));
        return None;
    };
    let number = reader.integer(version, "`version`", 1..=i64::MAX)?;
    if number > VERSION {
        let message =
            format!("version {number} of the format is newer than {VERSION}, the newest known");
        let hint = "update sturdy-quilt, or save the file with the version that this one knows";
        reader.error_with_hint(version.span(), message, Some(hint));
        return None;
    }
    Some(())
}

/// The picture of a file's bytes, or in words why there is none.
#[cfg(feature = "png")]
pub(crate) fn decoded_picture(bytes: &[u8], max_pixels: u64) -> Result<Picture, String> {
    Picture::from_png(bytes, max_pixels).map_err(|error| in_words(&error))
}

/// The rows of the picture of a file's bytes, one after the other, with the size of the picture and
/// their numbers. Gives whether all were wanted, or in words why there is no picture.
#[cfg(feature = "png")]
pub(crate) fn decoded_rows(
    bytes: &[u8],
    max_pixels: u64,
    mut row: impl FnMut(PixelSize, u32, &[[u8; 4]]) -> Option<()>,
) -> Result<Option<()>, String> {
    let mut rows = PngRows::of(bytes, max_pixels).map_err(|error| in_words(&error))?;
    let size = rows.size();
    for number in 0..size.height {
        let pixels = rows.next_row().map_err(|error| in_words(&error))?;
        if row(size, number, pixels).is_none() {
            return Ok(None);
        }
    }
    rows.next_row().map_err(|error| in_words(&error))?;
    Ok(Some(()))
}

#[cfg(feature = "png")]
fn in_words(error: &crate::picture::PngError) -> String {
    use std::error::Error;
    let cause = error.source().map(|cause| format!(": {cause}")).unwrap_or_default();
    format!("{error}{}", cause.trim_end_matches('.'))
}

#[cfg(not(feature = "png"))]
const NO_DECODER: &str = "this program was built without the feature `png`, and cannot decode it";

/// Without a decoder no picture can be read.
#[cfg(not(feature = "png"))]
pub(crate) fn decoded_picture(_bytes: &[u8], _max_pixels: u64) -> Result<Picture, String> {
    Err(NO_DECODER.to_owned())
}

/// Without a decoder no picture can be read.
#[cfg(not(feature = "png"))]
pub(crate) fn decoded_rows(
    _bytes: &[u8],
    _max_pixels: u64,
    _row: impl FnMut(PixelSize, u32, &[[u8; 4]]) -> Option<()>,
) -> Result<Option<()>, String> {
    Err(NO_DECODER.to_owned())
}
