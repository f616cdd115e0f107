//! Loading maps, and what several commands do with them.

use std::io::Write;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, bail};
use sturdy_quilt::document::{
    Expects, FileSource, GridFile, InlinedLayer, Limits, PutBack, ZipSource,
};
use sturdy_quilt::view::Projection;
use sturdy_quilt::{
    FolderSource, LoadError, Loaded, Loader, MapWriter, Picture, Quilt, ScreenSize, View, WorldRect,
};

use crate::args::ViewArgs;
use crate::output::{Kind, Output, is_archive};
use crate::problems;

/// Where a map or a tile set lies.
pub(crate) struct Place {
    pub(crate) source: Arc<dyn FileSource>,
    /// Its path in the source.
    pub(crate) name: String,
    /// The folders of the source; none where it is an archive.
    pub(crate) folders: Vec<PathBuf>,
    archive: Option<Archive>,
}

/// What changes of a file.
pub(crate) struct FileChange {
    pub(crate) path: PathBuf,
    pub(crate) before: Vec<u8>,
    pub(crate) after: Vec<u8>,
}

/// An archive that a map was read from.
struct Archive {
    path: PathBuf,
    /// All files in it.
    files: Vec<String>,
}

/// A map with where it came from.
pub(crate) struct Opened {
    pub(crate) quilt: Quilt,
    place: Place,
    /// All files that were read.
    files: Vec<String>,
    /// Those of them that hold only cells.
    cell_files: Vec<String>,
}

impl Place {
    /// The real files behind some of the source.
    fn real<'a>(&'a self, files: &'a [String]) -> impl Iterator<Item = PathBuf> + 'a {
        let in_folders = self.folders.iter().flat_map(move |folder| {
            files.iter().map(move |file| folder.join(file)).filter(|path| path.exists())
        });
        in_folders.chain(self.archive.iter().map(|archive| archive.path.clone()))
    }
}

impl Opened {
    pub(crate) fn new(loaded: Loaded, place: Place) -> Opened {
        let Loaded { quilt, files, cell_files, .. } = loaded;
        Opened { quilt, place, files, cell_files }
    }

    /// The files of a command that makes something from the map: none replaces one of the files
    /// that the map is made of.
    pub(crate) fn output(&self) -> Output {
        Output::beside(self.place.real(&self.files))
    }

    /// Writes one picture made from the map.
    pub(crate) fn write_picture(
        &self,
        path: &Path,
        picture: &Picture,
        out: &mut dyn Write,
    ) -> anyhow::Result<()> {
        Kind::of(path, &[Kind::Picture])?;
        let mut output = self.output();
        output.put_picture(Some(path), "", picture)?;
        output.write(out)
    }

    /// Whether a path is that of the map itself, or of the archive that it came from.
    pub(crate) fn is_at(&self, path: &Path) -> bool {
        let Ok(path) = path.canonicalize() else { return false };
        let own = match &self.place.archive {
            Some(archive) => vec![archive.path.clone()],
            None => self.place.real(std::slice::from_ref(&self.place.name)).collect(),
        };
        own.iter().any(|own| own.canonicalize().is_ok_and(|own| own == path))
    }

    /// The kind of file that the map is saved as to a path.
    pub(crate) fn kind_at(&self, path: &Path) -> anyhow::Result<Kind> {
        match self.is_at(path) && !GridFile::is_one(&self.place.name) {
            // Itself, whatever its name.
            true if self.place.archive.is_some() => Ok(Kind::Archive),
            true => Ok(Kind::Map),
            false => Kind::of(path, &[Kind::Map, Kind::Archive]),
        }
    }

    /// The files that the map names and a saved one will name too: its tile sets and their
    /// pictures.
    fn named(&self) -> impl Iterator<Item = &String> {
        let is_named =
            |file: &&String| **file != self.place.name && !self.cell_files.contains(file);
        self.files.iter().filter(is_named)
    }

    /// The files to save the map to, as a document with the files that it names beside it, or as
    /// an archive.
    pub(crate) fn saved(
        &self,
        writer: &MapWriter<'_>,
        path: &Path,
        kind: Kind,
    ) -> anyhow::Result<Output> {
        let is_own = self.is_at(path);
        // What holds the cells of the map is written anew with it, or no longer named.
        let kept: Vec<String> = match is_own {
            true => self.named().cloned().collect(),
            false => self.files.clone(),
        };
        if kind == Kind::Archive {
            let mut output = match is_own {
                true => Output::beside([]),
                false => self.output(),
            };
            output.put(path, self.archived(writer, is_own)?)?;
            return Ok(output);
        }
        let mut output = Output::beside(self.place.real(&kept));
        for file in self.named() {
            self.copy(file, path, &mut output)?;
        }
        let name = file_name(path);
        let mut files = writer.to_files(&name)?;
        // The map last: it names the others.
        files.rotate_left(1);
        for (file, bytes) in files {
            match file == name {
                true => output.put(path, bytes)?,
                false => output.put_unnamed(&path.with_file_name(&file), bytes, Some(path))?,
            }
        }
        Ok(output)
    }

    /// Whether the map is a document, and no bare grid of cells.
    pub(crate) fn is_document(&self) -> bool {
        !GridFile::is_one(&self.place.name)
    }

    /// The files to save the changed map to, in the forms and files that its layers came from, and
    /// what changes of each. Layers may only be taken into the document where that is allowed.
    pub(crate) fn put_back(
        &self,
        before: &Quilt,
        path: &Path,
        kind: Kind,
        take_in: &[String],
    ) -> anyhow::Result<(Output, Vec<FileChange>)> {
        let (source, name) = (&self.place.source, &self.place.name);
        let PutBack { files, inlined, .. } =
            self.quilt.document().back_into(before, &**source, name, &self.shared_files())?;
        let refused = inlined.iter().filter(|taken| !take_in.contains(&taken.layer));
        let refused: Vec<&InlinedLayer> = refused.collect();
        if let [first, ..] = refused[..] {
            let each =
                refused.iter().map(|taken| format!("layer `{}`, since {}", taken.layer, taken.why));
            let names: Vec<&str> = refused.iter().map(|taken| &*taken.layer).collect();
            let (each, names) = (each.collect::<Vec<_>>().join("; "), names.join(","));
            let is_one = refused.len() == 1;
            let (what, them) = match is_one {
                true => {
                    (format!("the change of {each}"), format!("the cells of `{}`", first.layer))
                }
                false => (format!("the changes of {each}"), "their cells".to_owned()),
            };
            bail!(
                "{what}: this cannot go back to where the cells came from. Give --take-in {names} to take {them} into the map itself, which no longer reads them from there then"
            );
        }
        let read = |file: &str| {
            source
                .read(file, u64::MAX)
                .with_context(|| format!("`{}` cannot be read", source.label(file)))
        };
        let mut changes = Vec::new();
        for (file, bytes) in &files {
            let shown = match (kind, self.is_at(path)) {
                (Kind::Archive, _) => path.join(file),
                (_, true) if file != name => self.shown(file),
                (_, false) if file != name => path.with_file_name(file),
                _ => path.to_owned(),
            };
            changes.push(FileChange { path: shown, before: read(file)?, after: bytes.clone() });
        }
        let changed = |file: &str| files.iter().find(|(held, _)| held == file).map(|(_, b)| b);
        let is_own = self.is_at(path);
        if kind == Kind::Archive {
            let held = match (&self.place.archive, is_own) {
                (Some(archive), true) => archive.files.clone(),
                _ => self.files.clone(),
            };
            let all = held.into_iter().map(|file| {
                let bytes = changed(&file).cloned().map_or_else(|| read(&file), Ok)?;
                Ok((file, bytes))
            });
            let all: Vec<(String, Vec<u8>)> = all.collect::<anyhow::Result<_>>()?;
            let mut output = if is_own { Output::beside([]) } else { self.output() };
            output.put(path, sturdy_quilt::document::zip_archive(&all)?)?;
            return Ok((output, changes));
        }
        if is_own {
            let mut output = Output::beside([]);
            for (file, bytes) in &files {
                let own = self.place.real(std::slice::from_ref(file)).next();
                output.put(own.as_deref().unwrap_or(path), bytes.clone())?;
            }
            return Ok((output, changes));
        }
        let mut output = self.output();
        for file in self.files.iter().filter(|file| *file != name) {
            match changed(file) {
                None => self.copy(file, path, &mut output)?,
                Some(bytes) => {
                    output.put_unnamed(&path.with_file_name(file), bytes.clone(), Some(path))?;
                }
            }
        }
        let document = changed(name).cloned().map_or_else(|| read(name), Ok)?;
        output.put(path, document)?;
        Ok((output, changes))
    }

    /// The files of cells that another map beside this one names as well, or may name.
    fn shared_files(&self) -> Vec<String> {
        let folder = self.place.name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let in_folder = |name: String| match folder {
            "" => name,
            folder => format!("{folder}/{name}"),
        };
        let beside: Vec<String> = match &self.place.archive {
            Some(archive) => archive.files.clone(),
            None => self.place.source.names(folder).into_iter().map(in_folder).collect(),
        };
        let is_other = |file: &&String| file.ends_with(".quilt.json") && **file != self.place.name;
        let others: Vec<String> = { beside.iter() }
            .filter(is_other)
            .filter_map(|file| self.place.source.read(file, Limits::default().file_bytes).ok())
            .map(|bytes| String::from_utf8_lossy(&bytes).into_owned())
            .collect();
        let is_named = |file: &&String| {
            let name = file.rsplit('/').next().unwrap_or(file);
            others.iter().any(|text| text.contains(name))
        };
        self.cell_files.iter().filter(is_named).cloned().collect()
    }

    /// A file of the map as it is shown.
    fn shown(&self, file: &str) -> PathBuf {
        match self.place.folders.first() {
            Some(folder) if folder != Path::new(".") => folder.join(file),
            _ => file.into(),
        }
    }

    /// The map as an archive. One that replaces the archive it came from keeps what else that
    /// holds.
    fn archived(&self, writer: &MapWriter<'_>, is_own: bool) -> anyhow::Result<Vec<u8>> {
        let name = match GridFile::is_one(&self.place.name) {
            true => format!("{}.quilt.json", stem(&self.place.name)),
            false => self.place.name.clone(),
        };
        let mut files: Vec<String> = self.named().cloned().collect();
        if let Some(archive) = self.place.archive.as_ref().filter(|_| is_own) {
            let maps = archive.files.iter().filter(|file| file.ends_with(".quilt.json")).count();
            let is_kept = |file: &&String| {
                // Another map may name the same file of cells.
                **file != name && (maps > 1 || !self.cell_files.contains(file))
            };
            files = archive.files.iter().filter(is_kept).cloned().collect();
        }
        Ok(writer.to_zip(&name, &*self.place.source, &files)?)
    }

    /// Copies a file that the map names beside the saved map.
    fn copy(&self, file: &str, map: &Path, output: &mut Output) -> anyhow::Result<()> {
        // The loader lets no path leave the folder; be sure all the same before writing.
        if Path::new(file).components().any(|part| !matches!(part, Component::Normal(_))) {
            bail!("`{file}` cannot be copied beside the saved map");
        }
        let (source, target) = (&self.place.source, map.with_file_name(file));
        let bytes = source
            .read(file, u64::MAX)
            .with_context(|| format!("`{}` cannot be read", source.label(file)))?;
        output.copy(&target, bytes)
    }
}

/// Loads a map; warnings go to the standard error.
pub(crate) fn open(path: &Path) -> anyhow::Result<Opened> {
    let place = located(path)?;
    let loaded = load(&*place.source, &place.name, &Expects::default())?;
    problems::show_warnings(&loaded.warnings);
    Ok(Opened::new(loaded, place))
}

/// Whether a name is that of a tile set.
pub(crate) fn is_tile_set(name: &str) -> bool {
    name.ends_with(".tiles.json")
}

/// Loads a map, an archive with one, or a grid of cells by itself.
pub(crate) fn load(
    source: &dyn FileSource,
    name: &str,
    expects: &Expects,
) -> Result<Loaded, LoadError> {
    let loader = Loader::new().with_expects(expects.clone());
    match GridFile::is_one(name) {
        true => loader.load_grid(source, &GridFile::new(name)),
        false => loader.load(source, name),
    }
}

/// Where a file lies: in its folder, or in a zip archive that its path leads through. An archive
/// itself stands for the only map in it.
pub(crate) fn located(path: &Path) -> anyhow::Result<Place> {
    let Some(archive) = path.ancestors().find(|part| is_archive(part)) else {
        let (folder, name) = FolderSource::of_file(path);
        let folders = vec![folder_of(path)];
        return Ok(Place { source: Arc::new(folder), name, folders, archive: None });
    };
    let shown = archive.display();
    let bytes = std::fs::read(archive).with_context(|| format!("`{shown}` cannot be read"))?;
    let zip = ZipSource::new(bytes).with_context(|| format!("`{shown}`"))?;
    let zip = zip.with_label(shown.to_string());
    let inner = path.strip_prefix(archive).unwrap_or(Path::new(""));
    let maps: Vec<String> = zip.maps().map(str::to_owned).collect();
    let name = if !inner.as_os_str().is_empty() {
        let parts = inner.components().map(|part| part.as_os_str().to_string_lossy());
        parts.collect::<Vec<_>>().join("/")
    } else {
        match &*maps {
            [map] => map.clone(),
            [] => bail!("`{shown}` holds no map (NAME.quilt.json)"),
            several => {
                let paths: Vec<String> =
                    several.iter().map(|map| format!("{shown}/{map}")).collect();
                bail!("`{shown}` holds several maps; name one: {}", paths.join(", "))
            }
        }
    };
    let files = zip.paths().map(str::to_owned).collect();
    let archive = Some(Archive { path: archive.to_owned(), files });
    Ok(Place { source: Arc::new(zip), name, folders: Vec::new(), archive })
}

impl Place {
    /// Several files of folders that are read as if they lay in one.
    pub(crate) fn in_folders(
        source: impl FileSource + 'static,
        name: String,
        folders: Vec<PathBuf>,
    ) -> Place {
        Place { source: Arc::new(source), name, folders, archive: None }
    }

    /// The files that are written beside the file itself, which none replaces.
    pub(crate) fn output(&self, files: &[String]) -> Output {
        let own = std::slice::from_ref(&self.name);
        Output::beside(self.real(own).chain(self.real(files)))
    }
}

/// Reads what a game expects of a map.
pub(crate) fn expectations(path: &Path) -> Result<Expects, LoadError> {
    let (folder, name) = FolderSource::of_file(path);
    Expects::load(&folder, &name, &Limits::default())
}

pub(crate) fn folder_of(path: &Path) -> PathBuf {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder.to_owned(),
        _ => Path::new(".").to_owned(),
    }
}

pub(crate) fn file_name(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}

/// A file name up to its first dot.
pub(crate) fn stem(name: &str) -> &str {
    let file = name.rsplit('/').next().unwrap_or(name);
    file.split('.').next().unwrap_or(file)
}

/// The rectangle of the whole map in the world.
pub(crate) fn extent(quilt: &Quilt) -> WorldRect {
    quilt.lattice().rect_bounds(quilt.bounds())
}

/// The most pixels of a picture: 8192 × 8192, as when a picture is read.
pub(crate) const MAX_PIXELS: u64 = 1 << 26;

/// The view that was asked for.
pub(crate) fn view(quilt: &Quilt, args: &ViewArgs) -> anyhow::Result<View> {
    turned_view(quilt, args, 0.0)
}

/// How the map is seen.
pub(crate) fn projection(quilt: &Quilt, args: &ViewArgs) -> Projection {
    let projection = match args.flat {
        // From above, a map of diamonds is a plan, in which nothing is lifted.
        true if quilt.projection().is_slanted() => {
            Projection::FLAT.with_lift(0.0).unwrap_or(Projection::FLAT)
        }
        true => Projection::FLAT,
        false => *quilt.projection(),
    };
    projection.with_facing(projection.facing().turned(args.facing.into()))
}

/// The same, turned clockwise by so many radians.
pub(crate) fn turned_view(quilt: &Quilt, args: &ViewArgs, turn: f64) -> anyhow::Result<View> {
    let projection = projection(quilt, args);
    // At a slant, pictures reach beyond the map as a rule; from above, it ends with its cells.
    let extent = match projection.is_slanted() {
        true => quilt.extent_on_pane(&projection),
        false => projection.around(extent(quilt), 0.0),
    };
    let zoom = args.zoom.unwrap_or(1.0);
    let size = args.size.unwrap_or_else(|| {
        if args.fit {
            return ScreenSize::new(1280, 800);
        }
        // All of the map, as it is turned.
        let (sin, cos) = (turn.sin().abs(), turn.cos().abs());
        let (width, height) = (extent.width(), extent.height());
        let pixels = |units: f64| ((units * zoom).round() as u32).max(1);
        ScreenSize::new(pixels(width * cos + height * sin), pixels(width * sin + height * cos))
    });
    if u64::from(size.width) * u64::from(size.height) > MAX_PIXELS {
        bail!(
            "a picture of {size} is too large; give a --size, and perhaps --fit or a smaller --zoom"
        );
    }
    let view = View::new(size).projected(projection).zoomed(zoom).turned(turn);
    let view = match args.fit {
        true => view.fitted_to_pane(extent),
        false => view.pane_centered_on(extent.center()),
    };
    Ok(args.center.map_or(view, |center| view.centered_on(center)))
}
