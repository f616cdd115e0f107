//! The faults of a set as problems of its document, each where it is spelled.

use std::collections::HashSet;

use crate::document::input::file_problem;
use crate::document::problem::Problem;
use crate::document::syntax::{Fields, Node, Reader, Span};
use crate::draw::Diamond;
use crate::lattice::Lattice;
use crate::name_error::{did_you_mean, near_names};
use crate::tile::{
    ArtPage, ArtPlacementFault, Fit, GroundMaskFault, Tile, TileFault, TileSet, TileSetError,
};
use crate::units::{PixelRect, PixelSize};
use crate::view::Projection;

/// Notes a fault of a set. `spots` are where its tiles are stated, `mask` the label of the picture
/// of its ground mask.
pub(super) fn report_fault(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    spots: &[Node<'_>],
    mask: Option<&str>,
    fault: &TileSetError,
) {
    let (node, message, hint) = match fault {
        TileSetError::Name(cause) => (fields.get("name"), cause.to_string(), None),
        TileSetError::Sheet { source, .. } => {
            let hint = "tile is the size of one tile in pixels, margin the pixels around all tiles, gap those between two";
            (fields.get("sheet"), source.to_string(), Some(hint))
        }
        TileSetError::Empty(set) => {
            let hint = "name its tiles under `tiles`, or give it a `sheet`";
            (None, format!("tile set `{set}` has no tiles"), Some(hint))
        }
        TileSetError::ArtPlacement { fault, .. } => {
            let key = match fault {
                ArtPlacementFault::Density(_) => "density",
                ArtPlacementFault::Anchor(..) => "anchor",
                ArtPlacementFault::CellAnchor(..) => "cell_anchor",
                ArtPlacementFault::Offset(..) => "offset",
            };
            (fields.get(key), fault.to_string().replacen("have", "the pictures have", 1), None)
        }
        TileSetError::GroundTile { tile, .. } => {
            let lists = fields.get("ground").and_then(|node| node.entries()).unwrap_or_default();
            let mut items = lists.iter().flat_map(|list| list.value.items().unwrap_or_default());
            let spelled = items.find(|item| item.text().as_deref() == Some(tile));
            let hint = unknown_hint(fields, spots, tile);
            let node = spelled.or(fields.get("ground")).unwrap_or(fields.node);
            reader.error_with_hint(node.spot(), fault.to_string(), hint);
            return;
        }
        TileSetError::PatternName { .. } => (fields.get("names"), fault.to_string(), None),
        TileSetError::Mask { fault, .. } => {
            report_mask_fault(reader, fields, mask.unwrap_or_default(), fault);
            return;
        }
        TileSetError::Tile { index, fault: TileFault::UnknownTile(name), .. } => {
            let tile = spots.get(*index).copied().unwrap_or(fields.node);
            let (span, what) = spelled_tile(tile, name);
            let tile = match &*tile_words(tile) {
                "tile" => "a tile".to_owned(),
                named => named.to_owned(),
            };
            let message = format!("{what} of {tile} names no tile of the set");
            let hint = unknown_hint(fields, spots, name);
            reader.error_with_hint(span, format!("{message}: `{name}`"), hint);
            return;
        }
        TileSetError::Tile { index, fault: fault @ TileFault::OutsideSheet { .. }, .. } => {
            let tile = spots.get(*index).copied().unwrap_or(fields.node);
            let at = tile.get("at").unwrap_or(tile);
            let TileFault::OutsideSheet { columns, rows, .. } = fault else { return };
            let hint = format!(
                "columns run from 0 to {}, rows from 0 to {}",
                columns.saturating_sub(1),
                rows.saturating_sub(1)
            );
            let message = format!("{}: {fault}", tile_words(tile));
            reader.error_with_hint(at.span(), message, Some(hint));
            return;
        }
        TileSetError::Tile { index, fault, .. } => {
            let node = spots.get(*index).copied();
            let spelled = node.and_then(|node| {
                let entries = node.entries()?;
                let keys = keys_of(fault);
                entries.into_iter().find(|entry| keys.contains(&entry.key)).map(|e| e.value)
            });
            let words = node.map_or("tile".to_owned(), tile_words);
            (spelled.or(node), format!("{words}: {fault}"), None)
        }
    };
    reader.error_with_hint(node.unwrap_or(fields.node).spot(), message, hint);
}

/// A stated tile in words: by its name if it has one.
fn tile_words(tile: Node<'_>) -> String {
    let name = tile.text().or_else(|| tile.get("name")?.text());
    name.map_or("tile".to_owned(), |name| format!("tile `{name}`"))
}

/// Where a tile names another one, and as what.
fn spelled_tile(tile: Node<'_>, name: &str) -> (Span, &'static str) {
    let frames = tile.get("animation").and_then(|node| node.get("frames"));
    let frames = frames.and_then(Node::items).unwrap_or_default();
    if let Some(frame) = frames.iter().find(|frame| frame.text().as_deref() == Some(name)) {
        return (frame.span(), "a frame");
    }
    let facings = tile.get("facings").and_then(Node::items).unwrap_or_default();
    if let Some(facing) = facings.iter().find(|facing| facing.text().as_deref() == Some(name)) {
        return (facing.span(), "a facing");
    }
    let variants = tile.get("variants").and_then(Node::entries).unwrap_or_default();
    match variants.iter().find(|variant| variant.key == name) {
        Some(variant) => (variant.key_span(), "a variant"),
        None => (tile.start(), "a frame, facing or variant"),
    }
}

/// Which tile of the set may be meant by a name, or where tiles lie in the sheet.
fn unknown_hint(fields: &Fields<'_>, spots: &[Node<'_>], name: &str) -> Option<String> {
    let stated = spots.iter().filter_map(|tile| {
        let name = tile.text().or_else(|| tile.get("name")?.text())?;
        Some(name.into_owned())
    });
    let near = did_you_mean(&near_names(name, stated));
    let places = || {
        let sheet = fields.get("sheet")?;
        let count = |key: &str| sheet.get(key)?.integer();
        let (columns, rows) = (count("columns")?, count("rows")?);
        Some(format!("places in the sheet run from 0:0 to {}:{}", columns - 1, rows - 1))
    };
    near.or_else(places)
}

/// The keys of a tile that a fault is about.
fn keys_of(fault: &TileFault) -> &'static [&'static str] {
    match fault {
        TileFault::Name(_) | TileFault::RepeatedName(_) => &["name"],
        TileFault::PixelsWithoutSheet | TileFault::OutsidePicture { .. } => &["pixels"],
        TileFault::NoPicture(_) => &["picture"],
        TileFault::ArtPlacement(ArtPlacementFault::Offset(..)) => &["offset"],
        TileFault::ArtPlacement(ArtPlacementFault::CellAnchor(..)) => &["cell_anchor"],
        TileFault::ArtPlacement(_) => &["anchor"],
        TileFault::NoFrames | TileFault::FrameTime(_) => &["animation"],
        TileFault::Facings(_) => &["facings"],
        TileFault::UnnamedFootprint
        | TileFault::FootprintWidth { .. }
        | TileFault::OtherFootprint { .. } => &["footprint"],
        TileFault::NoWeight => &["variants"],
        _ => &["at"],
    }
}

/// A fault of a mask is one of its picture.
fn report_mask_fault(
    reader: &mut Reader<'_, '_>,
    fields: &Fields<'_>,
    label: &str,
    fault: &GroundMaskFault,
) {
    let (pixel, hint) = match fault {
        GroundMaskFault::UnknownColor { x, y, color, near, .. } => {
            let near = near.map(|(held, distance)| {
                format!(", or state a `tolerance` of {distance} to take it for {held}")
            });
            let near = near.unwrap_or_default();
            (Some((*x, *y)), format!("add \"{color}\" to the legend of the mask{near}"))
        }
        GroundMaskFault::InPart { at, .. } => {
            (Some(*at), "paint more than half of the tile, or nothing of it".to_owned())
        }
        _ => (None, "a mask is painted over the picture of the sheet, pixel by pixel".to_owned()),
    };
    if pixel.is_none() {
        let node = fields.get("ground_mask").unwrap_or(fields.node);
        reader.error_with_hint(node.start(), fault.to_string(), Some(hint));
        return;
    }
    let problem = Problem { pixel, ..file_problem(label, fault.to_string(), Some(hint)) };
    reader.problems().push(problem);
}

/// Warns of shapes that mean nothing, since their tiles give no ground.
pub(super) fn warn_of_idle_shapes(reader: &mut Reader<'_, '_>, fields: &Fields<'_>, set: &TileSet) {
    let is_idle = |tile: &&Tile| tile.shape().is_some() && tile.ground().is_none();
    let Some(tile) = set.tiles().iter().find(is_idle) else { return };
    let message = format!(
        "the shape of tile `{}/{}` has no effect, since the tile gives no ground",
        set.name(),
        tile.key()
    );
    let hint = "state the `ground` that holds for that part of its cell";
    reader.warning(fields.get("tiles").unwrap_or(fields.node).start(), message, Some(hint));
}

/// Warns of pictures that do not fit their cells, where nothing says that this is meant.
pub(crate) fn warn_of_misfitting_art(
    reader: &mut Reader<'_, '_>,
    span: Span,
    set: &TileSet,
    (lattice, projection): (&Lattice, &Projection),
    backdrops: &HashSet<String>,
) {
    let diamond = Diamond::of(projection);
    let is_asked = |tile: &&Tile| {
        let spec = tile.spec();
        !backdrops.contains(&format!("{}/{}", set.name(), tile.key()))
            // What a tile states holds for it alone, and for all of the set what that states.
            && set.stated_placement().says_no_place()
            && (spec.anchor, spec.cell_anchor, spec.offset) == (None, None, None)
    };
    let misfit = |tile: &Tile| {
        let Fit::Placed(placement) = tile.art().fit else { return None };
        let outline = set.page().outline(tile.art().source)?;
        let fault = match &diamond {
            Some(diamond) => diamond_misfit(set.page(), tile, outline, diamond)?,
            None => {
                let (width, height) = placement.size(outline.size);
                let cell = (lattice.cell_width(), lattice.cell_height());
                let fits = width <= cell.0 && height <= cell.1;
                (!fits && set.stated_placement().density.is_none())
                    .then_some(Misfit::LargerThanCell(cell))?
            }
        };
        Some((tile.key().clone(), outline.size, fault))
    };
    let mut misfits = set.whole_tiles().iter().filter(is_asked).filter_map(misfit);
    let Some((key, size, fault)) = misfits.next() else { return };
    let more = match misfits.count() {
        0 => String::new(),
        more => format!(" (and {more} more of the set)"),
    };
    let message = format!(
        "what is not clear of tile `{}/{key}` measures {size}{more}, but {fault}",
        set.name()
    );
    reader.warning(span, message, Some(fault.hint()));
}

/// How the picture of a tile does not fit its cell.
enum Misfit {
    /// Larger than the cell, which has this width and height.
    LargerThanCell((f64, f64)),
    /// Wider than the diamond, which has this size.
    Wide(PixelSize),
    /// Pixels beside the upper edges of the diamond, which has this size.
    Beyond(PixelSize),
    /// A diamond of this size that is nearly covered: so many pixels are left open.
    Open(PixelSize, usize),
    /// Strips of so many pixels, where half a diamond has so many.
    Strips(u32, i64),
}

impl Misfit {
    fn hint(&self) -> &'static str {
        match self {
            Misfit::LargerThanCell(_) => {
                "state an `anchor` in the set if it is meant to stand out of its cell, or `density` if it is drawn larger"
            }
            Misfit::Wide(_) => {
                "state its `footprint` if it stands on several cells, or an `anchor` if it stands in one and reaches beyond"
            }
            Misfit::Beyond(_) | Misfit::Open(..) => {
                "draw the top face as large as the diamond, or state an `anchor` if the picture stands in its cell"
            }
            Misfit::Strips(..) => {
                "draw it as many half diamonds wide as its footprint has columns and rows together"
            }
        }
    }
}

impl std::fmt::Display for Misfit {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Misfit::LargerThanCell((width, height)) => {
                write!(f, "a cell {width} × {height} units")
            }
            Misfit::Wide(diamond) => write!(f, "a diamond {diamond}"),
            Misfit::Beyond(diamond) => {
                write!(f, "a diamond {diamond}: it reaches beyond the upper edges of that")
            }
            Misfit::Open(diamond, count) => {
                let pixels = if *count == 1 { "1 pixel" } else { "pixels" };
                let count = if *count == 1 { String::new() } else { format!("{count} ") };
                write!(
                    f,
                    "a diamond {diamond}: it leaves {count}{pixels} of that open, so that seams show"
                )
            }
            Misfit::Strips(px, half) => {
                write!(f, "is cut into strips of {px} pixels, where half a diamond has {half}")
            }
        }
    }
}

/// Compares a picture that is laid on its cell as a face with the diamond.
fn diamond_misfit(
    page: &ArtPage,
    tile: &Tile,
    outline: PixelRect,
    diamond: &Diamond,
) -> Option<Misfit> {
    /// From so much on, a picture is meant to cover its diamond: nine parts of ten.
    const MEANT: (usize, usize) = (9, 10);
    let (source, frame) = (tile.art().source, diamond.frame(&tile.art()));
    let is_natural = frame.width() == i64::from(source.size.width);
    if let Some(footprint) = tile.spec().footprint {
        let strip_px = source.size.width / footprint.halves();
        let fits = !is_natural || i64::from(strip_px) == diamond.half_width;
        return (!fits).then_some(Misfit::Strips(strip_px, diamond.half_width));
    }
    if !is_natural {
        return None;
    }
    let size = PixelSize::new(2 * diamond.half_width as u32, 2 * diamond.half_height as u32);
    if outline.size.width > size.width {
        return Some(Misfit::Wide(size));
    }
    // From the left corner of the diamond and its top on.
    let is_seen = |x: i64, y: i64| {
        let (x, y) = (x - diamond.half_width - frame.left, y - frame.top);
        let inside =
            0 <= x && x < source.size.width.into() && 0 <= y && y < source.size.height.into();
        inside && page.row(source, y as u32)[x as usize][3] > 0
    };
    let places =
        (0..i64::from(size.height)).flat_map(|y| (0..i64::from(size.width)).map(move |x| (x, y)));
    let (own, beside): (Vec<_>, Vec<_>) = places.partition(|(x, y)| diamond.holds(*x, *y));
    if beside.iter().any(|(x, y)| *y < diamond.half_height && is_seen(*x, *y)) {
        return Some(Misfit::Beyond(size));
    }
    let open = own.iter().filter(|(x, y)| !is_seen(*x, *y)).count();
    let is_meant = (own.len() - open) * MEANT.1 >= own.len() * MEANT.0;
    (open > 0 && is_meant).then_some(Misfit::Open(size, open))
}
