//! The pictures of a map, packed on few pages.

use std::io::Write;
use std::path::{Path, PathBuf};

use sturdy_quilt::{Atlas, Frame, PixelSize, Quilt, ScreenSize};

use super::write_png;
use crate::Outcome;

/// Pixels around each picture that repeat its edge.
const BORDER_PX: u32 = 1;

pub(super) fn run(
    quilt: &Quilt,
    page: ScreenSize,
    output: &Path,
    out: &mut dyn Write,
) -> anyhow::Result<Outcome> {
    let atlas = Atlas::of(quilt, PixelSize::new(page.width, page.height), BORDER_PX)?;
    for (page, number) in atlas.pages().iter().zip(1..) {
        let path = numbered(output, number);
        let size = page.size();
        let mut frame = Frame::new(ScreenSize::new(size.width, size.height));
        frame.pixels_mut().copy_from_slice(page.pixels());
        write_png(&frame.to_picture(), &path)?;
        writeln!(out, "{}: {size}", path.display())?;
    }
    let (sets, pages) = (quilt.tiles().sets().len(), atlas.pages().len());
    writeln!(out, "{sets} tile sets on {pages} pages, {BORDER_PX} px around each picture")?;
    Ok(Outcome::Fine)
}

/// The path of a page: the first is as it was asked for, then come `NAME-2.png` and so on.
fn numbered(path: &Path, number: usize) -> PathBuf {
    if number == 1 {
        return path.to_owned();
    }
    let (stem, end) = (path.file_stem().unwrap_or_default(), path.extension().unwrap_or_default());
    let (stem, end) = (stem.to_string_lossy(), end.to_string_lossy());
    path.with_file_name(format!("{stem}-{number}.{end}"))
}
