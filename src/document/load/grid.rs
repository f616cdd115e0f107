//! Grids of cells that no map names: a text file, a table or a picture, as it lies there.

use std::collections::{BTreeSet, HashMap};

use indexmap::IndexMap;
use serde_json::{Map, Value, json};

use super::loader::{Loaded, Loader};
use crate::document::formats::{MAP_FORMAT, VERSION};
use crate::document::input::{Files, LoadCache, decoded, decoded_picture, file_problem};
use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problem, Problems, Severity, relabel};
use crate::document::source::{FileSource, SourceError, resolved};
use crate::document::syntax::{Field, each_field};
use crate::tile::{CellNotation, TileSet, check_name};

/// A grid of cells in a file that no map names: rows of characters (`.txt`), a table of
/// comma-separated values (`.csv`) or a picture with a pixel for each cell (`.png`).
///
/// Without a legend, each different value gets a placeholder tile: its name is the value, and its
/// colour that of the picture, or one by its name. So whatever there is can be seen at once, and
/// real tiles named later.
///
/// ```
/// use sturdy_quilt::document::GridFile;
/// use sturdy_quilt::{Loader, MemorySource};
///
/// let mut files = MemorySource::default();
/// files.add("yard.txt", "#####\n#...#\n#####\n");
/// let yard = GridFile::new("yard.txt");
/// let values = yard.values(&files, &Default::default())?;
/// assert_eq!(values.size, (5, 3));
/// assert_eq!(values.counts, [("#".to_owned(), 12), (".".to_owned(), 3)]);
///
/// let quilt = Loader::new().load_grid(&files, &yard)?.quilt;
/// assert_eq!(quilt.layer("yard")?.cells().find(quilt.cell("yard/.")?).count(), 3);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct GridFile {
    path: String,
    cell: (f64, f64),
    tiles: Vec<String>,
    legend: Option<String>,
    set: Option<(String, i64, i64)>,
}

/// The different values of a grid.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct GridValues {
    /// Columns and rows; of rows that differ in length, the longest.
    pub size: (usize, usize),
    /// Each value with how often it comes, the most frequent first: a character, what a field of a
    /// table says, or a colour written `#rrggbb` or `#rrggbbaa`. Empty fields and clear pixels are
    /// none.
    pub counts: Vec<(String, u64)>,
}

/// The number that most often stands for nothing in tables of numbers.
const NOTHING: &str = "-1";

/// What kind of file holds a grid.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    Rows,
    Table,
    Picture,
}

impl GridFile {
    /// Returns the grid in a file of a source.
    pub fn new(path: impl Into<String>) -> GridFile {
        let (path, cell) = (path.into(), (16.0, 16.0));
        GridFile { path, cell, tiles: Vec::new(), legend: None, set: None }
    }

    /// Returns whether a path is that of such a file, by its ending.
    pub fn is_one(path: &str) -> bool {
        kind_of(path).is_some()
    }

    /// Returns this grid with cells of this size in world units. Default 16 × 16.
    #[must_use]
    pub const fn with_cell(mut self, width: f64, height: f64) -> GridFile {
        self.cell = (width, height);
        self
    }

    /// Returns this grid with a tile set, by the path of its file from that of the grid.
    #[must_use]
    pub fn with_tiles(mut self, path: impl Into<String>) -> GridFile {
        self.tiles.push(path.into());
        self
    }

    setters! {
        /// Returns this grid with a legend: the path, from that of the grid, of a JSON file with an
        /// object of values, each with the cell that it means in its notation, or `null`.
        with_legend(legend: some into String);
    }

    /// Returns this grid, the numbers of whose table count the tiles of a set; see
    /// [`TileNumbers`](crate::tile::TileNumbers).
    #[must_use]
    pub fn with_numbers(mut self, set: impl Into<String>, base: i64, empty: i64) -> GridFile {
        self.set = Some((set.into(), base, empty));
        self
    }

    /// Returns the different values of the grid.
    ///
    /// # Errors
    /// A file that is not there or cannot be read as what its ending says.
    pub fn values(
        &self,
        source: &dyn FileSource,
        limits: &Limits,
    ) -> Result<GridValues, LoadError> {
        let mut problems = Problems::new(limits);
        let mut files = Files::new(source, limits);
        let label = source.label(&self.path);
        let values = self.read_values(&mut files, &label, &mut problems);
        let problems = files.all_arrived(problems)?;
        values.ok_or_else(|| problems.into_error())
    }

    fn read_values(
        &self,
        files: &mut Files<'_>,
        label: &str,
        problems: &mut Problems,
    ) -> Option<GridValues> {
        let Some(kind) = kind_of(&self.path) else {
            let hint =
                "rows of characters are read from .txt, tables from .csv, pictures from .png";
            let message = "this is not a grid of cells that can be read".to_owned();
            problems.push(file_problem(label, message, Some(hint.to_owned())));
            return None;
        };
        let bytes = files.asked_for(&self.path, problems)?;
        let mut counts: HashMap<String, u64> = HashMap::new();
        let size = match kind {
            Kind::Rows => {
                let text = decoded(bytes, label, problems)?;
                let mut signs: HashMap<char, u64> = HashMap::new();
                for character in text.lines().flat_map(str::chars).filter(|c| *c != ' ') {
                    *signs.entry(character).or_default() += 1;
                }
                counts.extend(signs.into_iter().map(|(sign, count)| (sign.to_string(), count)));
                let widths = text.lines().map(|line| line.chars().count());
                (widths.max().unwrap_or(0), text.lines().count())
            }
            Kind::Table => {
                let text = decoded(bytes, label, problems)?;
                count_fields(&text, &mut counts)
            }
            Kind::Picture => {
                let picture = match decoded_picture(&bytes, files.pixels_left) {
                    Ok(picture) => picture,
                    Err(why) => {
                        problems.push(file_problem(label, why, None));
                        return None;
                    }
                };
                let mut colors: HashMap<[u8; 4], u64> = HashMap::new();
                for &pixel in picture.bytes().as_chunks::<4>().0.iter().filter(|p| p[3] > 0) {
                    *colors.entry(pixel).or_default() += 1;
                }
                let named = colors.into_iter();
                counts.extend(
                    named.map(|(c, n)| (crate::picture::Color::from_bytes(c).to_string(), n)),
                );
                (picture.size().width as usize, picture.size().height as usize)
            }
        };
        let mut counts: Vec<(String, u64)> = counts.into_iter().collect();
        counts.sort_unstable_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(&b.0)));
        Some(GridValues { size, counts })
    }

    /// The name of its layer: that of its file up to the first dot.
    fn name(&self) -> &str {
        let file = self.path.rsplit('/').next().unwrap_or(&self.path);
        file.split('.').next().filter(|name| check_name(name).is_ok()).unwrap_or("grid")
    }

    /// The ground classes that its tile sets name: the map around it states them all. A set that
    /// cannot be read names none; why not is said when the map is loaded.
    fn ground_classes(&self, loader: &Loader, source: &dyn FileSource) -> BTreeSet<String> {
        let paths = self.tiles.iter().filter_map(|named| resolved(&self.path, named).ok());
        let sets = paths.filter_map(|path| loader.load_tiles(source, &path).ok());
        let classes = |set: TileSet| {
            let tiles = set.tiles().iter();
            tiles.filter_map(|tile| tile.ground().map(str::to_owned)).collect::<Vec<_>>()
        };
        sets.flat_map(|(set, _)| classes(set)).collect()
    }

    /// Makes the document of a map around the grid, or says in words why it cannot.
    fn document(
        &self,
        values: &GridValues,
        classes: &BTreeSet<String>,
        limits: &Limits,
    ) -> Result<Value, String> {
        let mut tiles: Vec<Value> = self.tiles.iter().map(|path| path.as_str().into()).collect();
        let file = self.path.rsplit('/').next().unwrap_or(&self.path);
        let mut cells = Map::new();
        let key = match kind_of(&self.path) {
            Some(Kind::Table) => "table",
            Some(Kind::Picture) => "picture",
            _ => "rows",
        };
        cells.insert(key.into(), file.into());
        match (&self.legend, &self.set) {
            (Some(path), _) => drop(cells.insert("legend".into(), path.as_str().into())),
            (None, Some(_)) => {}
            // The names in a table are those of the given sets.
            (None, None) if key == "table" && !self.tiles.is_empty() => {}
            (None, None) => {
                let (sets, legend) = placeholders(self.name(), values, limits)?;
                cells.insert("legend".into(), legend.into());
                tiles.extend(sets);
            }
        }
        if let Some((set, base, empty)) = &self.set {
            cells.insert("set".into(), set.as_str().into());
            cells.insert("base".into(), (*base).into());
            cells.insert("empty".into(), (*empty).into());
        }
        Ok(json!({
            "format": MAP_FORMAT,
            "version": VERSION,
            "lattice": { "cell": [self.cell.0, self.cell.1] },
            "tiles": tiles,
            "ground": classes,
            "layers": [{ "name": self.name(), "cells": cells }],
        }))
    }
}

impl Loader {
    /// Loads a map of one layer from a grid that no map names.
    ///
    /// # Errors
    /// As [`Loader::load`].
    pub fn load_grid(&self, source: &dyn FileSource, grid: &GridFile) -> Result<Loaded, LoadError> {
        let values = grid.values(source, self.stated_limits())?;
        let folder = grid.path.rsplit_once('/').map_or("", |(folder, _)| folder);
        let path = match folder {
            "" => "(the map around the grid)".to_owned(),
            folder => format!("{folder}/(the map around the grid)"),
        };
        let loader = match self.is_sharing() {
            true => self.clone(),
            false => self.clone().with_cache(&LoadCache::default()),
        };
        let classes = grid.ground_classes(&loader, source);
        let limits = self.stated_limits();
        let document = grid.document(&values, &classes, limits).map_err(|why| {
            let mut problems = Problems::new(limits);
            problems.push(file_problem(&source.label(&grid.path), why, None));
            problems.into_error()
        })?;
        let document = document.to_string().into_bytes();
        let around = Around { source, path: &path, document };
        let label = source.label(&path);
        let mut loaded = loader
            .load(&around, &path)
            .map_err(|error| error.relabeled(&label, &source.label(&grid.path)))?;
        relabel(&mut loaded.warnings, &label, &source.label(&grid.path));
        loaded.files.retain(|file| *file != path);
        let dropped = values.counts.iter().find(|(value, _)| *value == NOTHING);
        if let Some((_, count)) = dropped.filter(|_| grid.legend.is_none() && grid.set.is_none()) {
            let message = match count {
                1 => "1 field with -1 is taken for an empty cell".to_owned(),
                _ => format!("{count} fields with -1 are taken for empty cells"),
            };
            let hint = "say what -1 is in a legend, or which number is empty with the tile set that the numbers count";
            let problem = file_problem(&source.label(&grid.path), message, Some(hint.to_owned()));
            loaded.warnings.push(Problem { severity: Severity::Warning, ..problem });
            loaded.warnings.sort_by(|a, b| a.file.cmp(&b.file));
        }
        Ok(loaded)
    }
}

/// A source with one file more.
struct Around<'s> {
    source: &'s dyn FileSource,
    path: &'s str,
    document: Vec<u8>,
}

impl FileSource for Around<'_> {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        if path == self.path {
            Ok(self.document.clone())
        } else {
            self.source.read(path, max_bytes)
        }
    }

    fn names(&self, folder: &str) -> Vec<String> {
        self.source.names(folder)
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        self.source.places_of(name)
    }

    fn is_coming(&self, path: &str) -> bool {
        self.source.is_coming(path)
    }

    fn label(&self, path: &str) -> String {
        self.source.label(path)
    }
}

fn kind_of(path: &str) -> Option<Kind> {
    match path.rsplit_once('.')?.1.to_ascii_lowercase().as_str() {
        "txt" => Some(Kind::Rows),
        "csv" => Some(Kind::Table),
        "png" => Some(Kind::Picture),
        _ => None,
    }
}

/// Counts the fields of a table; gives its columns and rows.
fn count_fields(text: &str, counts: &mut HashMap<String, u64>) -> (usize, usize) {
    let (mut columns, mut count, mut column) = (0, 0, 0);
    // A file that is not a table is reported when it is read as one.
    let _ = each_field(text, |Field { text, ends_row, .. }| {
        column += 1;
        let value = text.trim();
        match counts.get_mut(value) {
            _ if value.is_empty() => {}
            Some(known) => *known += 1,
            None => drop(counts.insert(value.to_owned(), 1)),
        }
        if ends_row {
            (columns, count, column) = (column.max(columns), count + 1, 0);
        }
        Some(())
    });
    (columns, count)
}

/// Makes sets with a placeholder tile for each value, and the legend that names them, or says in words
/// what there is too much of.
fn placeholders(
    grid: &str,
    values: &GridValues,
    limits: &Limits,
) -> Result<(Vec<Value>, Map<String, Value>), String> {
    if values.counts.len() as u64 > limits.tiles {
        let (count, most) = (values.counts.len(), limits.tiles);
        return Err(format!("it has {count} different values, more than the {most} tiles allowed"));
    }
    // Each set with its tiles by name.
    let mut sets: IndexMap<String, IndexMap<String, Value>> = IndexMap::new();
    let mut legend = Map::new();
    for (value, _) in &values.counts {
        // A name of a tile, as tables have them, stays one; −1 is most often nothing.
        let (set, tile, marks) = match value.parse::<CellNotation>() {
            Ok(CellNotation::Empty) => {
                legend.insert(value.clone(), Value::Null);
                continue;
            }
            Ok(CellNotation::Tile { name, .. }) => {
                let marks = value.find('+').map_or("", |at| &value[at..]).to_owned();
                (name.set().to_owned(), name.key().to_string(), marks)
            }
            Err(_) if value == NOTHING => {
                legend.insert(value.clone(), Value::Null);
                continue;
            }
            Err(_) => (grid.to_owned(), placeholder_name(value), String::new()),
        };
        if sets.len() as u64 >= limits.sets && !sets.contains_key(&set) {
            return Err(format!("it names more than the {} tile sets allowed", limits.sets));
        }
        legend.insert(value.clone(), format!("{set}/{tile}{marks}").into());
        sets.entry(set).or_default().entry(tile).or_insert_with_key(|tile| {
            let mut spelled = Map::new();
            spelled.insert("name".into(), tile.as_str().into());
            if value.parse::<crate::picture::Color>().is_ok() {
                spelled.insert("color".into(), value.as_str().into());
            }
            Value::Object(spelled)
        });
    }
    let sets = sets.into_iter().map(
        |(name, tiles)| json!({ "name": name, "tiles": tiles.into_values().collect::<Vec<_>>() }),
    );
    Ok((sets.collect(), legend))
}

/// The value itself, if it can be a name; else its characters by their numbers.
fn placeholder_name(value: &str) -> String {
    if check_name(value).is_ok() {
        return value.to_owned();
    }
    let numbers = value.chars().map(|c| format!("{:x}", u32::from(c)));
    format!("sign {}", numbers.collect::<Vec<_>>().join(" "))
}
