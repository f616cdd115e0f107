//! The names that a game will ask a map for.

use std::cell::OnceCell;

use crate::document::formats::EXPECTS_FORMAT;
use crate::document::input::{Files, check_format, file_problem};
use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problem, Problems};
use crate::document::source::FileSource;
use crate::document::syntax::{Reader, parsed};
use crate::name_error::{NameError, did_you_mean};
use crate::quilt::Quilt;

/// The names that the code of a game will ask a map for. A load that is given them checks them with
/// everything else, so that no name is missing only when it is needed.
///
/// ```
/// use sturdy_quilt::document::Expects;
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let expects = Expects::default().with_layers(["soil"]).with_tiles(["garden/wal"]).with_markers(["gate"]);
/// let missing = expects.missing_in(&quilt);
/// assert_eq!(missing.len(), 1);
/// assert_eq!(missing[0].near, ["garden/wall"]);
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Expects {
    /// Layers.
    pub layers: Vec<String>,
    /// Tiles by their full names.
    pub tiles: Vec<String>,
    /// Markers.
    pub markers: Vec<String>,
    /// Movers.
    pub movers: Vec<String>,
    /// Ground classes.
    pub ground: Vec<String>,
}

/// The keys of a document of expectations, with what each lists.
const LISTS: [&str; 5] = ["layers", "tiles", "markers", "movers", "ground"];

fn owned<N: Into<String>>(names: impl IntoIterator<Item = N>) -> impl Iterator<Item = String> {
    names.into_iter().map(Into::into)
}

impl Expects {
    /// Adds layers that must be there.
    #[must_use]
    pub fn with_layers<N: Into<String>>(mut self, names: impl IntoIterator<Item = N>) -> Expects {
        self.layers.extend(owned(names));
        self
    }

    /// Adds tiles that must be there.
    #[must_use]
    pub fn with_tiles<N: Into<String>>(mut self, names: impl IntoIterator<Item = N>) -> Expects {
        self.tiles.extend(owned(names));
        self
    }

    /// Adds markers that must be there.
    #[must_use]
    pub fn with_markers<N: Into<String>>(mut self, names: impl IntoIterator<Item = N>) -> Expects {
        self.markers.extend(owned(names));
        self
    }

    /// Adds movers that must be there.
    #[must_use]
    pub fn with_movers<N: Into<String>>(mut self, names: impl IntoIterator<Item = N>) -> Expects {
        self.movers.extend(owned(names));
        self
    }

    /// Adds ground classes that must be there.
    #[must_use]
    pub fn with_ground<N: Into<String>>(mut self, names: impl IntoIterator<Item = N>) -> Expects {
        self.ground.extend(owned(names));
        self
    }

    /// Returns every name that a map does not have, with what may be meant.
    pub fn missing_in(&self, quilt: &Quilt) -> Vec<NameError> {
        let layers = self.layers.iter().filter_map(|name| quilt.layer(name).err());
        let tiles = self.tiles.iter().filter_map(|name| match quilt.tile(name) {
            // One that is only named by cells, and that no set has, is missing all the same.
            Ok(id) if quilt.tiles().is_missing(id) => {
                Some(NameError { what: "tile", name: name.clone(), near: quilt.tiles().near(name) })
            }
            found => found.err(),
        });
        let markers = self.markers.iter().filter_map(|name| quilt.marker(name).err());
        let movers = self.movers.iter().filter_map(|name| quilt.mover(name).err());
        let ground = self.ground.iter().filter_map(|name| quilt.ground_rules().class(name).err());
        layers.chain(tiles).chain(markers).chain(movers).chain(ground).collect()
    }

    /// Reads expectations from a document, see `docs/format.md`.
    ///
    /// # Errors
    /// Everything that is wrong with it.
    pub fn load(
        source: &dyn FileSource,
        path: &str,
        limits: &Limits,
    ) -> Result<Expects, LoadError> {
        let mut problems = Problems::new(limits);
        let label = source.label(path);
        let mut files = Files::new(source, limits);
        let expects = files
            .text_asked_for(path, &mut problems)
            .and_then(|text| read(&text, &label, &mut problems));
        files.all_arrived(problems)?.finish().map(|_| expects.unwrap_or_default())
    }

    /// Notes what is missing in a map as problems of its file.
    pub(super) fn check(&self, quilt: &Quilt, label: &str, problems: &mut Problems) {
        for NameError { what, name, near } in self.missing_in(quilt) {
            let message = format!("the map has no {what} `{name}`, which the game expects");
            problems.push(Problem { ..file_problem(label, message, did_you_mean(&near)) });
        }
    }
}

fn read(text: &str, label: &str, problems: &mut Problems) -> Option<Expects> {
    let mended = OnceCell::new();
    let tree = parsed(text, &mended, label, problems)?;
    let (mut reader, root) = (Reader::of_text(text, label, problems), tree.root());
    check_format(&mut reader, root, EXPECTS_FORMAT)?;
    let known: Vec<&str> = ["$schema", "format", "version"].into_iter().chain(LISTS).collect();
    let fields = reader.fields(root, "the document", &known)?;
    let [layers, tiles, markers, movers, ground] = LISTS.map(|key| {
        let Some(node) = fields.get(key) else { return Vec::new() };
        let items = reader.items(node, &format!("`{key}`")).unwrap_or_default();
        let what = format!("a name of `{key}`");
        let names = items.into_iter().filter_map(|item| reader.text(item, &what));
        names.map(|name| name.into_owned()).collect()
    });
    Some(Expects { layers, tiles, markers, movers, ground })
}
