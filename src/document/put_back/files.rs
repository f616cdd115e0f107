//! Changes of a map put back into the files that it was loaded from, so that they stay those of
//! their author: what has not changed stays as it was typed, and cells stay in the tables, pictures
//! and texts that they came from.
//!
//! The map as it was and as it is are written as plain values and compared; each value that
//! differs is changed in the text of the document. Cells go back in the encoding of their layer, see
//! [`put_back`](super::cells::put_back). In the end the files are loaded once more and must give the
//! map as it is: so nothing is lost by a document that was understood wrongly.

use super::cells::{MapFiles, put_back};
use super::patch::Patcher;
use crate::document::load::Loader;
use crate::document::read::cells::packed;
use crate::document::source::{FileSource, SourceError, resolved};
use crate::document::syntax::{Node, Tree};
use crate::document::write::{Laid, MapWriter, SaveError};
use crate::quilt::{Layer, Quilt};
use crate::units::CellPos;

/// The files that must be written so that a map is saved where it came from, as
/// [`MapWriter::back_into`] gives them.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct PutBack {
    /// The changed files, each with its path in the source: the document first, if it has changed.
    pub files: Vec<(String, Vec<u8>)>,
    /// The layers whose cells no longer go back to where they came from: they stand in the document
    /// now.
    pub inlined: Vec<InlinedLayer>,
}

/// A layer whose changed cells cannot be put back into the encoding that they came from.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct InlinedLayer {
    /// The layer.
    pub layer: String,
    /// Why, in words that go on from "since".
    pub why: String,
}

impl MapWriter<'_> {
    /// Puts the map back into the files at `path` of a source from which it was loaded: cells go
    /// into the rows, tables, pictures, lists and blocks that they came from, in the document or in
    /// files, and nothing is written anew that has not changed. The layout of the document stays,
    /// and so do the characters and colours of legends; new ones are added.
    ///
    /// `before` is the map as it was loaded, and this map must be of its descent: a clone that was
    /// edited. The encoding of cells that was chosen does not count. Where an encoding cannot hold a change
    /// (a tile that has no number, marks beside it, a cell outside of a list of numbers), the cells
    /// of the layer are taken into the document, and [`PutBack::inlined`] says so: whoever keeps
    /// those files should be asked. The same is done where a file would change that other cells are
    /// read from as well, those of another layer, or, as `shared` tells, of another map.
    ///
    /// # Errors
    /// Files that cannot be read again, or have changed since; as [`MapWriter::to_files`].
    ///
    /// Takes the time of two loads of the map.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Loader, MemorySource};
    ///
    /// let mut files = MemorySource::default();
    /// files.add("yard.quilt.json", r#"{ "format": "sturdy-quilt/map", "version": 1,
    ///     "lattice": { "cell": [16, 16] }, "tiles": [{ "name": "yard", "tiles": ["sand", "wall"] }],
    ///     "layers": [{ "name": "soil", "cells": { "table": "soil.csv", "set": "yard" } }] }"#);
    /// files.add("soil.csv", "0,0,1\n0,1,1\n");
    /// let mut quilt = Loader::new().load(&files, "yard.quilt.json")?.quilt;
    /// let before = quilt.clone();
    /// quilt.edit("a wall", |pen| pen.put("soil", CellPos::new(1, 0), "yard/wall"))?;
    /// let back = quilt.document().back_into(&before, &files, "yard.quilt.json", &[])?;
    /// assert_eq!(back.files, [("soil.csv".to_owned(), b"0,1,1\n0,1,1\n".to_vec())]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn back_into(
        &self,
        before: &Quilt,
        source: &dyn FileSource,
        path: &str,
        shared: &[String],
    ) -> Result<PutBack, SaveError> {
        let (quilt, limits) = self.parts();
        let unreadable = |why: String| SaveError::Source { path: source.label(path), why };
        let bytes =
            source.read(path, limits.file_bytes).map_err(|error| unreadable(error.to_string()))?;
        let whole =
            String::from_utf8(bytes).map_err(|_| unreadable("it is not text".to_owned()))?;
        let text = whole.strip_prefix('\u{feff}').unwrap_or(&whole);
        let tree =
            Tree::of(text, limits.json_values).map_err(|error| unreadable(error.to_string()))?;
        let root = tree.root();
        let mut patcher = Patcher::new(text);
        let old = before.document().with_limits(*limits).without_cells()?;
        let new = self.without_cells()?;
        patcher.change(root, "", &old, &new);
        let layers = root.get("layers").and_then(Node::items).unwrap_or_default();
        let mut shared = shared.to_vec();
        shared.extend(read_more_than_once(&layers, path));
        let changed = std::collections::BTreeMap::new();
        let mut files = MapFiles { source, map: path, limits, changed, shared };
        let (mut inlined, mut last) = (Vec::new(), None);
        for after in quilt.layers() {
            let place = before.layers().iter().position(|layer| layer.id() == after.id());
            // Layers that have changed places are no change of single values.
            let place = place.filter(|place| last.is_none_or(|last| *place > last));
            last = place.or(last);
            let Some((layer, node)) =
                place.and_then(|at| Some((&before.layers()[at], *layers.get(at)?)))
            else {
                return Err(SaveError::LayersDiffer { layer: after.name().to_owned() });
            };
            if layer.cells() == after.cells() {
                continue;
            }
            // Of a layer that fails nothing is kept.
            let (patches, changed) = (patcher.patches.clone(), files.changed.clone());
            if let Err(why) = put_back(&mut patcher, &mut files, node, (layer, after), quilt) {
                (patcher.patches, files.changed) = (patches, changed);
                self.take_in(&mut patcher, node, after)?;
                if node.get("cells").is_some() {
                    inlined.push(InlinedLayer { layer: after.name().to_owned(), why });
                }
            }
        }
        let changed = patcher.patches.applied(text);
        let mut all: Vec<(String, Vec<u8>)> = Vec::new();
        if changed != text {
            let mark = &whole[..whole.len() - text.len()];
            all.push((path.to_owned(), format!("{mark}{changed}").into_bytes()));
        }
        all.extend(files.changed);
        self.check_back(source, path, &all)?;
        Ok(PutBack { files: all, inlined })
    }

    /// States the cells of a layer in the document.
    fn take_in(
        &self,
        patcher: &mut Patcher<'_>,
        node: Node<'_>,
        layer: &Layer,
    ) -> Result<(), SaveError> {
        let (corner, cells) = self.layer_cells(layer)?;
        let at: Laid = serde_json::json!([corner.x(), corner.y()]).into();
        match node.get("at") {
            Some(held) => patcher.set(held, "at", &at),
            None if corner != CellPos::ORIGIN => patcher.add_entry(node, "at", &at),
            None => {}
        }
        match node.get("cells") {
            Some(held) => patcher.set(held, "cells", &cells),
            None => patcher.add_entry(node, "cells", &cells),
        }
        Ok(())
    }

    /// Loads the files as they will be, and compares the map.
    fn check_back(
        &self,
        source: &dyn FileSource,
        path: &str,
        files: &[(String, Vec<u8>)],
    ) -> Result<(), SaveError> {
        let (quilt, limits) = self.parts();
        let changed = Changed { source, files };
        let loaded = Loader::new().with_limits(*limits).load(&changed, path);
        match loaded {
            Ok(loaded) if loaded.quilt.same_as(quilt) => Ok(()),
            Ok(_) => Err(SaveError::NotTheSame { path: source.label(path) }),
            Err(error) => {
                Err(SaveError::Source { path: source.label(path), why: error.to_string() })
            }
        }
    }
}

/// A source of which some files have changed.
struct Changed<'s> {
    source: &'s dyn FileSource,
    files: &'s [(String, Vec<u8>)],
}

impl FileSource for Changed<'_> {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        match self.files.iter().find(|(held, _)| held == path) {
            Some((_, bytes)) => Ok(bytes.clone()),
            None => self.source.read(path, max_bytes),
        }
    }

    fn names(&self, folder: &str) -> Vec<String> {
        self.source.names(folder)
    }

    fn label(&self, path: &str) -> String {
        self.source.label(path)
    }
}

/// The files that several grids of cells name.
fn read_more_than_once(layers: &[Node<'_>], map: &str) -> Vec<String> {
    let mut named: Vec<String> = Vec::new();
    let mut collect = |cells: Node<'_>| {
        let packed = cells.get("packed").and_then(packed::file_named);
        let keys = ["rows", "table", "numbers", "picture", "legend"];
        let texts = keys.into_iter().filter_map(|key| cells.get(key)).chain(packed);
        let paths = texts.filter_map(Node::text).filter_map(|text| resolved(map, &text).ok());
        named.extend(paths);
    };
    for cells in layers.iter().filter_map(|layer| layer.get("cells")) {
        collect(cells);
        let sections = cells.get("sections").and_then(Node::items).unwrap_or_default();
        sections.into_iter().for_each(&mut collect);
    }
    named.sort_unstable();
    let twice = named.windows(2).filter(|pair| pair[0] == pair[1]);
    twice.map(|pair| pair[0].clone()).collect()
}
