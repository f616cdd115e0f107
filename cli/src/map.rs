//! Loading maps, and what several commands do with them.

use std::io::Write;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context, bail};
use sturdy_quilt::{
    Expects, FileSource, FolderSource, GridFile, Limits, LoadError, Loaded, Loader, Quilt,
    ScreenSize, View, WorldRect, ZipSource,
};

use crate::args::ViewArgs;
use crate::problems;

/// A map with where it came from.
pub(crate) struct Opened {
    pub(crate) quilt: Quilt,
    pub(crate) loaded: Files,
    pub(crate) source: Arc<dyn FileSource>,
    /// Its path in the source.
    pub(crate) name: String,
}

/// The files of a map that was opened: all, and those of cells.
pub(crate) struct Files {
    all: Vec<String>,
    cells: Vec<String>,
}

impl Files {
    /// Those that the map names and a saved one will name too: its tile sets and their pictures.
    pub(crate) fn named(&self, map: &str) -> Vec<String> {
        let is_named = |file: &&String| *file != map && !self.cells.contains(file);
        self.all.iter().filter(is_named).cloned().collect()
    }
}

impl Opened {
    pub(crate) fn new(loaded: Loaded, source: Arc<dyn FileSource>, name: String) -> Opened {
        let Loaded { quilt, files, cell_files, .. } = loaded;
        Opened { quilt, loaded: Files { all: files, cells: cell_files }, source, name }
    }
}

/// Loads a map; warnings go to the standard error.
pub(crate) fn open(path: &Path) -> anyhow::Result<Opened> {
    let (source, name) = located(path)?;
    let loaded = load(&*source, &name, &Expects::default())?;
    problems::show_warnings(&loaded.warnings);
    Ok(Opened::new(loaded, source, name))
}

/// Loads a map, an archive with one, or a grid of cells by itself.
pub(crate) fn load(
    source: &dyn FileSource,
    name: &str,
    expects: &Expects,
) -> Result<Loaded, LoadError> {
    let loader = Loader::new().expecting(expects.clone());
    match GridFile::is_one(name) {
        true => loader.load_grid(source, &GridFile::new(name)),
        false => loader.load(source, name),
    }
}

/// Where a file lies: in its folder, or in a zip archive that its path leads through. An archive
/// itself stands for the only map in it.
pub(crate) fn located(path: &Path) -> anyhow::Result<(Arc<dyn FileSource>, String)> {
    let is_zip = |part: &Path| part.extension().is_some_and(|end| end.eq_ignore_ascii_case("zip"));
    let archive = path.ancestors().find(|part| is_zip(part) && part.is_file());
    let Some(archive) = archive else {
        let (folder, name) = FolderSource::of_file(path);
        return Ok((Arc::new(folder), name));
    };
    let shown = archive.display();
    let bytes = std::fs::read(archive).with_context(|| format!("`{shown}` cannot be read"))?;
    let zip = ZipSource::new(bytes).with_context(|| format!("`{shown}`"))?;
    let zip = zip.labeled(shown.to_string());
    let inner = path.strip_prefix(archive).unwrap_or(Path::new(""));
    if !inner.as_os_str().is_empty() {
        let parts = inner.components().map(|part| part.as_os_str().to_string_lossy());
        let name = parts.collect::<Vec<_>>().join("/");
        return Ok((Arc::new(zip), name));
    }
    let maps: Vec<String> = zip.maps().map(str::to_owned).collect();
    match &*maps {
        [map] => Ok((Arc::new(zip), map.clone())),
        [] => bail!("`{shown}` holds no map (NAME.quilt.json)"),
        several => {
            let paths: Vec<String> = several.iter().map(|map| format!("{shown}/{map}")).collect();
            bail!("`{shown}` holds several maps; name one: {}", paths.join(", "))
        }
    }
}

/// Reads what a game expects of a map.
pub(crate) fn expectations(path: &Path) -> Result<Expects, LoadError> {
    let (folder, name) = FolderSource::of_file(path);
    Expects::load(&folder, &name, &Limits::default())
}

/// Copies the files that a map names from its source to the folder of the saved map. Files that
/// are there already must be the same; none is overwritten.
pub(crate) fn copy_files(
    source: &dyn FileSource,
    output: &Path,
    files: &[String],
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    let folder = folder_of(output);
    std::fs::create_dir_all(&folder)
        .with_context(|| format!("`{}` cannot be made", folder.display()))?;
    let mut wanted = Vec::new();
    for file in files {
        // The loader lets no path leave the folder; be sure all the same before writing.
        if Path::new(file).components().any(|part| !matches!(part, Component::Normal(_))) {
            bail!("`{file}` cannot be copied beside the saved map");
        }
        let target = folder.join(file);
        let bytes = source
            .read(file, u64::MAX)
            .with_context(|| format!("`{}` cannot be read", source.label(file)))?;
        match std::fs::read(&target) {
            Ok(there) if there == bytes => {}
            Ok(_) => bail!(
                "`{}` is there already and differs from `{}`; save into another folder",
                target.display(),
                source.label(file)
            ),
            Err(_) => wanted.push((target, bytes)),
        }
    }
    for (target, bytes) in wanted {
        write(&target, &bytes)?;
        writeln!(out, "copied {}, which the map names", target.display())?;
    }
    Ok(())
}

/// Writes a file, with the folders that it lies in: beside it first, so that one which was there is
/// whole or as it was. Of a link, it is the file that it leads to; what is no file is written to as
/// it is.
pub(crate) fn write(path: &Path, bytes: &[u8]) -> anyhow::Result<()> {
    let cannot = || format!("`{}` cannot be written", path.display());
    if path.metadata().is_ok_and(|held| !held.is_file()) {
        return std::fs::write(path, bytes).with_context(cannot);
    }
    let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
    let name = target.file_name().unwrap_or_default().to_string_lossy();
    let beside = target.with_file_name(format!(".writing-{name}"));
    std::fs::create_dir_all(folder_of(&target))
        .and_then(|()| std::fs::write(&beside, bytes))
        .and_then(|()| std::fs::rename(&beside, &target))
        .inspect_err(|_| drop(std::fs::remove_file(&beside)))
        .with_context(cannot)
}

pub(crate) fn folder_of(path: &Path) -> PathBuf {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder.to_owned(),
        _ => Path::new(".").to_owned(),
    }
}

/// The rectangle of the whole map in the world.
pub(crate) fn extent(quilt: &Quilt) -> WorldRect {
    quilt.lattice().rect_bounds(quilt.bounds())
}

/// The view that was asked for.
pub(crate) fn view(quilt: &Quilt, args: &ViewArgs) -> anyhow::Result<View> {
    // The most pixels of a picture: 8192 × 8192, as when a picture is read.
    const MOST_PIXELS: u64 = 1 << 26;
    let extent = extent(quilt);
    let zoom = args.zoom.unwrap_or(1.0);
    let size = args.size.unwrap_or_else(|| {
        if args.fit {
            return ScreenSize::new(1280, 800);
        }
        let pixels = |units: f64| ((units * zoom).round() as u32).max(1);
        ScreenSize::new(pixels(extent.width()), pixels(extent.height()))
    });
    if u64::from(size.width) * u64::from(size.height) > MOST_PIXELS {
        bail!(
            "a picture of {size} is too large; give a --size, and perhaps --fit or a smaller --zoom"
        );
    }
    let mut view = View::new(size).zoomed(zoom).centered_on(extent.center());
    if args.fit {
        view = view.fitted_to(extent);
    }
    Ok(args.center.map_or(view, |center| view.centered_on(center)))
}
