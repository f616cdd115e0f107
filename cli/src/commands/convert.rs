//! `convert`: a map in another form.

use std::io::Write;
use std::path::PathBuf;

use anyhow::bail;
use sturdy_quilt::document::{CellEncoding, FileSource, GridFile, LayerFile, SourceError};
use sturdy_quilt::{CellRect, FolderSource, Layer, Loader, Quilt};

use crate::args::{CellEncodingArg, ConvertArgs};
use crate::output::{Kind, Output};
use crate::{Outcome, map, problems};

pub(crate) fn run(args: &ConvertArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    const KINDS: [Kind; 6] =
        [Kind::Map, Kind::Archive, Kind::Tiles, Kind::Text, Kind::Table, Kind::Picture];
    let kind = Kind::of(&args.output, &KINDS)?;
    if kind == Kind::Tiles {
        return bake(args, out);
    }
    let opened = open(args)?;
    let output = match kind {
        Kind::Map | Kind::Archive => {
            let writer = opened
                .quilt
                .document()
                .with_encoding(args.cells.into())
                .with_cells_apart(args.apart);
            let mut output = opened.saved(&writer, &args.output, kind)?;
            output.say_sizes();
            output
        }
        _ => layer_files(&opened, args, kind)?,
    };
    output.write(out)?;
    Ok(Outcome::Fine)
}

/// The map that is to be converted, or the one around a grid of cells.
fn open(args: &ConvertArgs) -> anyhow::Result<map::Opened> {
    if !GridFile::is_one(&map::file_name(&args.input)) {
        if !args.tiles.is_empty() || args.legend.is_some() || args.set.is_some() {
            bail!("--tiles, --legend and --set are for a bare text, table or picture");
        }
        return map::open(&args.input);
    }
    let mut grid = GridFile::new(map::file_name(&args.input)).with_cell(args.cell.0, args.cell.1);
    for tiles in &args.tiles {
        grid = grid.with_tiles(map::file_name(tiles));
    }
    if let Some(legend) = &args.legend {
        grid = grid.with_legend(map::file_name(legend));
    }
    if let Some(set) = &args.set {
        grid = grid.with_numbers(set, args.base, args.empty);
    }
    let named = args.tiles.iter().chain(&args.legend);
    let source = Folders::of(std::iter::once(&args.input).chain(named));
    let loaded = Loader::new().load_grid(&source, &grid)?;
    problems::show_warnings(&loaded.warnings);
    let folders = source.folders.clone();
    let place = map::Place::in_folders(source, map::file_name(&args.input), folders);
    Ok(map::Opened::new(loaded, place))
}

/// The files of several folders as if they lay in one, beside each other.
struct Folders {
    folders: Vec<PathBuf>,
    sources: Vec<FolderSource>,
}

impl Folders {
    fn of<'p>(files: impl Iterator<Item = &'p PathBuf>) -> Folders {
        let mut folders: Vec<PathBuf> = Vec::new();
        for file in files {
            let folder = map::folder_of(file);
            if !folders.contains(&folder) {
                folders.push(folder);
            }
        }
        let sources = folders.iter().map(FolderSource::new).collect();
        Folders { folders, sources }
    }
}

impl FileSource for Folders {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        let mut found: Option<Vec<u8>> = None;
        for folder in &self.sources {
            match (folder.read(path, max_bytes), &found) {
                (Err(SourceError::NotFound), _) => {}
                (Ok(bytes), Some(held)) if bytes != *held => {
                    let message = "two of the folders have a file of this name, and they differ";
                    return Err(SourceError::Io(std::io::Error::other(message)));
                }
                (Ok(bytes), _) => found = Some(bytes),
                (Err(error), _) => return Err(error),
            }
        }
        found.ok_or(SourceError::NotFound)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        self.sources.iter().flat_map(|source| source.names(folder)).collect()
    }

    fn label(&self, path: &str) -> String {
        let holds = |source: &&FolderSource| source.read(path, u64::MAX).is_ok();
        let first = self.sources.iter().find(holds).or(self.sources.first());
        first.map_or_else(|| path.to_owned(), |source| source.label(path))
    }
}

/// The files of one layer, and what such files cannot hold.
fn layer_files(opened: &map::Opened, args: &ConvertArgs, kind: Kind) -> anyhow::Result<Output> {
    let quilt = &opened.quilt;
    let layer = chosen_layer(quilt, args)?;
    let encoding = match kind {
        Kind::Text => CellEncoding::Rows,
        Kind::Table => CellEncoding::Table,
        _ => CellEncoding::Picture,
    };
    let LayerFile { rect, bytes, mut beside, .. } = quilt.layer_file(layer.id(), encoding)?;
    let mut output = opened.output();
    output.put(&args.output, bytes)?;
    if let Some(legend) = beside.remove("legend") {
        // With the whole name, since a text and a picture of one layer have legends of their own.
        let name = format!("{}.legend.json", map::file_name(&args.output));
        let text = serde_json::to_string_pretty(&legend)? + "\n";
        output.put_unnamed(&args.output.with_file_name(name), text.into(), Some(&args.output))?;
    }
    output.say_sizes();
    let lost = lost(quilt, layer, rect);
    if !lost.is_empty() {
        output.say(format!("holds layer {} only; not {}", layer.name(), lost.join(", ")));
    }
    Ok(output)
}

/// The layer that was named, or the only one with cells.
fn chosen_layer<'q>(quilt: &'q Quilt, args: &ConvertArgs) -> anyhow::Result<&'q Layer> {
    if let Some(name) = &args.layer {
        return Ok(quilt.layer(name)?);
    }
    let mut filled = quilt.layers().iter().filter(|layer| !layer.cells().bounds().is_empty());
    match (filled.next(), filled.next()) {
        (Some(layer), None) => Ok(layer),
        (None, _) => bail!("no layer has a cell"),
        _ => {
            let names: Vec<&str> = quilt.layers().iter().map(|layer| layer.name()).collect();
            bail!(
                "`{}` holds one layer; choose it with --layer: {}",
                args.output.display(),
                names.join(", ")
            )
        }
    }
}

/// What a file with the cells of one layer does not hold, in words.
fn lost(quilt: &Quilt, layer: &Layer, rect: CellRect) -> Vec<String> {
    let counted = [
        (quilt.layers().len() - 1, "other layer", "other layers"),
        (quilt.value_layers().len(), "value layer", "value layers"),
        (quilt.markers().count(), "marker", "markers"),
        (quilt.tiles().sets().len(), "tile set", "tile sets"),
        (quilt.ground_rules().classes().len(), "ground class", "ground classes"),
        (quilt.ground_rules().movers().len(), "mover", "movers"),
    ];
    let in_words = |(count, one, several)| match count {
        0 => None,
        1 => Some(format!("1 {one}")),
        _ => Some(format!("{count} {several}")),
    };
    let mut lost: Vec<String> = counted.into_iter().filter_map(in_words).collect();
    let has_settings = *layer.settings() != sturdy_quilt::LayerSettings::default();
    let others = [
        (!quilt.data().is_null(), "the data of the map"),
        (quilt.stated_bounds().is_some(), "its bounds"),
        (has_settings, "the settings of the layer"),
    ];
    lost.extend(
        others.into_iter().filter(|(is_lost, _)| *is_lost).map(|(_, what)| what.to_owned()),
    );
    if rect.corner() != sturdy_quilt::CellPos::ORIGIN {
        lost.push(format!("its place, {}", rect.corner()));
    }
    lost
}

/// Writes a tile set with the ground class of each tile, so that no mask picture is needed.
fn bake(args: &ConvertArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let place = map::located(&args.input)?;
    if !map::is_tile_set(&place.name) {
        bail!("a tile set is made from a tile set: name a NAME.tiles.json");
    }
    let (set, warnings) = Loader::new().load_tiles(&*place.source, &place.name)?;
    problems::show_warnings(&warnings);
    let mut output =
        place.output(&set.picture_file().map(str::to_owned).into_iter().collect::<Vec<_>>());
    output.put(&args.output, set.to_json()?.into())?;
    output.say_sizes();
    let grounds = set.tiles().iter().filter(|tile| tile.ground().is_some()).count();
    output.say(format!("{grounds} of {} tiles state their ground", set.tiles().len()));
    let same = map::folder_of(&args.input).canonicalize().ok()
        == map::folder_of(&args.output).canonicalize().ok();
    if !same && set.picture_file().is_some() {
        output.say("its pictures are named from there as they were: bring them along".to_owned());
    }
    output.write(out)?;
    Ok(Outcome::Fine)
}

impl From<CellEncodingArg> for CellEncoding {
    fn from(encoding: CellEncodingArg) -> CellEncoding {
        match encoding {
            CellEncodingArg::Readable => CellEncoding::Readable,
            CellEncodingArg::Rows => CellEncoding::Rows,
            CellEncodingArg::Numbers => CellEncoding::Numbers,
            CellEncodingArg::Table => CellEncoding::Table,
            CellEncodingArg::Picture => CellEncoding::Picture,
            CellEncodingArg::Packed => CellEncoding::Packed,
        }
    }
}
