//! The pictures of a map, packed on few pages.

use std::io::Write;
use std::path::{Path, PathBuf};

use sturdy_quilt::draw::Atlas;
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Frame, Quilt, ScreenSize};

use super::put;
use crate::Outcome;
use crate::args::DrawArgs;
use crate::output::Output;

/// Pixels around each picture that repeat its edge.
const BORDER_PX: u32 = 1;

pub(super) fn run(
    quilt: &Quilt,
    page: ScreenSize,
    args: &DrawArgs,
    mut output: Output,
    out: &mut dyn Write,
) -> anyhow::Result<Outcome> {
    let atlas = Atlas::of(quilt, PixelSize::new(page.width, page.height), BORDER_PX)?;
    let mut first: Option<PathBuf> = None;
    for (page, number) in atlas.pages().iter().zip(1..) {
        let size = page.size();
        let mut frame = Frame::new(ScreenSize::new(size.width, size.height));
        frame.pixels_mut().copy_from_slice(page.pixels());
        let path = match &first {
            None => put(&mut output, args, &frame.to_picture())?,
            Some(first) => {
                let path = numbered(first, number);
                output.put_default_picture(&path, &frame.to_picture())?;
                path
            }
        };
        output.say(format!("{}: {size}", path.display()));
        first.get_or_insert(path);
    }
    let (sets, pages) = (quilt.tiles().sets().len(), atlas.pages().len());
    output.say(format!("{sets} tile sets on {pages} pages, {BORDER_PX} px around each picture"));
    output.write(out)?;
    Ok(Outcome::Fine)
}

/// The path of a page after the first: `NAME-2.png` and so on.
fn numbered(path: &Path, number: usize) -> PathBuf {
    let (stem, end) = (path.file_stem().unwrap_or_default(), path.extension().unwrap_or_default());
    let (stem, end) = (stem.to_string_lossy(), end.to_string_lossy());
    path.with_file_name(format!("{stem}-{number}.{end}"))
}
