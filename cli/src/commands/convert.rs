//! `convert`: a map in another form.

use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::bail;
use sturdy_quilt::{
    CellForm, CellRect, FileSource, FolderSource, GridFile, Layer, LayerFile, Loader, Quilt,
    SourceError,
};

use crate::args::{CellFormArg, ConvertArgs};
use crate::{Outcome, map, problems};

/// What is written, by the ending of its file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Target {
    Map,
    Archive,
    Tiles,
    Text,
    Table,
    Picture,
}

pub(crate) fn run(args: &ConvertArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let target = target_of(&args.output)?;
    if target == Target::Tiles {
        return bake(args, out);
    }
    let opened = open(args)?;
    let (quilt, output) = (&opened.quilt, &args.output);
    let writer = quilt.document().cells(args.cells.into()).apart(args.apart);
    match target {
        Target::Map => {
            let name = file_name(output);
            let mut files = writer.to_files(&name)?;
            let named = opened.loaded.named(&opened.name);
            map::copy_files(&*opened.source, output, &named, out)?;
            // The map last: it names the others.
            files.rotate_left(1);
            for (name, bytes) in &files {
                write(&map::folder_of(output).join(name), bytes, out)?;
            }
        }
        Target::Archive => {
            let name = match GridFile::is_one(&opened.name) {
                true => format!("{}.quilt.json", stem(&opened.name)),
                false => opened.name.clone(),
            };
            let named = opened.loaded.named(&opened.name);
            write(output, &writer.to_zip(&name, &*opened.source, &named)?, out)?;
        }
        _ => write_layer(quilt, args, target, out)?,
    }
    Ok(Outcome::Fine)
}

fn target_of(path: &Path) -> anyhow::Result<Target> {
    let name = file_name(path).to_lowercase();
    let endings = [
        (".quilt.json", Target::Map),
        (".zip", Target::Archive),
        (".tiles.json", Target::Tiles),
        (".txt", Target::Text),
        (".csv", Target::Table),
        (".png", Target::Picture),
    ];
    match endings.into_iter().find(|(ending, _)| name.ends_with(ending)) {
        Some((_, target)) => Ok(target),
        None => bail!(
            "`{}` could be anything: write a map to NAME.quilt.json or NAME.zip, a layer to NAME.txt, NAME.csv or NAME.png, a tile set to NAME.tiles.json",
            path.display()
        ),
    }
}

fn file_name(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}

fn stem(name: &str) -> &str {
    let file = name.rsplit('/').next().unwrap_or(name);
    file.split('.').next().unwrap_or(file)
}

/// The map that is to be converted, or the one around a grid of cells.
fn open(args: &ConvertArgs) -> anyhow::Result<map::Opened> {
    if !GridFile::is_one(&file_name(&args.input)) {
        if !args.tiles.is_empty() || args.legend.is_some() || args.set.is_some() {
            bail!("--tiles, --legend and --set are for a bare text, table or picture");
        }
        return map::open(&args.input);
    }
    let mut grid = GridFile::new(file_name(&args.input)).cell(args.cell.0, args.cell.1);
    for tiles in &args.tiles {
        grid = grid.tiles(file_name(tiles));
    }
    if let Some(legend) = &args.legend {
        grid = grid.legend(file_name(legend));
    }
    if let Some(set) = &args.set {
        grid = grid.numbered(set, args.base, args.empty);
    }
    let named = args.tiles.iter().chain(&args.legend);
    let source = Folders::of(std::iter::once(&args.input).chain(named));
    let loaded = Loader::new().load_grid(&source, &grid)?;
    problems::show_warnings(&loaded.warnings);
    Ok(map::Opened::new(loaded, Arc::new(source), file_name(&args.input)))
}

/// The files of several folders as if they lay in one, beside each other.
struct Folders(Vec<FolderSource>);

impl Folders {
    fn of<'p>(files: impl Iterator<Item = &'p PathBuf>) -> Folders {
        let mut folders: Vec<PathBuf> = Vec::new();
        for file in files {
            let folder = map::folder_of(file);
            if !folders.contains(&folder) {
                folders.push(folder);
            }
        }
        Folders(folders.into_iter().map(FolderSource::new).collect())
    }
}

impl FileSource for Folders {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        let mut found: Option<Vec<u8>> = None;
        for folder in &self.0 {
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
        self.0.iter().flat_map(|source| source.names(folder)).collect()
    }

    fn label(&self, path: &str) -> String {
        let holds = |source: &&FolderSource| source.read(path, u64::MAX).is_ok();
        let first = self.0.iter().find(holds).or(self.0.first());
        first.map_or_else(|| path.to_owned(), |source| source.label(path))
    }
}

fn write(path: &Path, bytes: &[u8], out: &mut dyn Write) -> anyhow::Result<()> {
    map::write(path, bytes)?;
    writeln!(out, "{}: {} bytes", path.display(), bytes.len())?;
    Ok(())
}

/// Writes one layer, and says what such a file cannot hold.
fn write_layer(
    quilt: &Quilt,
    args: &ConvertArgs,
    target: Target,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let layer = chosen_layer(quilt, args)?;
    let form = match target {
        Target::Text => CellForm::Rows,
        Target::Table => CellForm::Table,
        _ => CellForm::Picture,
    };
    let LayerFile { rect, bytes, mut beside, .. } = quilt.layer_file(layer.id(), form)?;
    write(&args.output, &bytes, out)?;
    if let Some(legend) = beside.remove("legend") {
        let name = format!("{}.legend.json", stem(&file_name(&args.output)));
        let text = serde_json::to_string_pretty(&legend)? + "\n";
        write(&map::folder_of(&args.output).join(name), text.as_bytes(), out)?;
    }
    let lost = lost(quilt, layer, rect);
    if !lost.is_empty() {
        writeln!(out, "holds layer {} only; not {}", layer.name(), lost.join(", "))?;
    }
    Ok(())
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
    let (source, name) = map::located(&args.input)?;
    if !name.ends_with(".tiles.json") {
        bail!("a tile set is made from a tile set: name a NAME.tiles.json");
    }
    let (set, warnings) = Loader::new().load_tiles(&*source, &name)?;
    problems::show_warnings(&warnings);
    write(&args.output, set.to_json()?.as_bytes(), out)?;
    let grounds = set.tiles().iter().filter(|tile| tile.ground().is_some()).count();
    writeln!(out, "{grounds} of {} tiles state their ground", set.tiles().len())?;
    let same = map::folder_of(&args.input).canonicalize().ok()
        == map::folder_of(&args.output).canonicalize().ok();
    if !same && set.picture_file().is_some() {
        writeln!(out, "its pictures are named from there as they were: bring them along")?;
    }
    Ok(Outcome::Fine)
}

impl From<CellFormArg> for CellForm {
    fn from(form: CellFormArg) -> CellForm {
        match form {
            CellFormArg::Readable => CellForm::Readable,
            CellFormArg::Rows => CellForm::Rows,
            CellFormArg::Numbers => CellForm::Numbers,
            CellFormArg::Table => CellForm::Table,
            CellFormArg::Picture => CellForm::Picture,
            CellFormArg::Packed => CellForm::Packed,
        }
    }
}
