//! Loading maps, and what several commands do with them.

use std::path::Path;

use anyhow::bail;
use sturdy_quilt::{
    Expects, FolderSource, Limits, LoadError, Loaded, Loader, Quilt, ScreenSize, View, WorldRect,
};

use crate::args::ViewArgs;
use crate::problems;

/// Loads a map; warnings go to the standard error.
pub(crate) fn open(path: &Path) -> anyhow::Result<Loaded> {
    let loaded = try_open(path, &Expects::default())?;
    problems::show_warnings(&loaded.warnings);
    Ok(loaded)
}

/// Loads a map of which something is expected.
pub(crate) fn try_open(path: &Path, expects: &Expects) -> Result<Loaded, LoadError> {
    let (folder, name) = FolderSource::of_file(path);
    Loader::new().expecting(expects.clone()).load(&folder, &name)
}

/// Reads what a game expects of a map.
pub(crate) fn expectations(path: &Path) -> Result<Expects, LoadError> {
    let (folder, name) = FolderSource::of_file(path);
    Expects::load(&folder, &name, &Limits::default())
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
