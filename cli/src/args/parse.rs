//! Places, sizes and scales as they are written on the command line.

use sturdy_quilt::inspect::MinimapScale;
use sturdy_quilt::{CellPos, CellRect, ScreenSize, View, WorldPoint};

pub(crate) fn two<T: std::str::FromStr>(text: &str, separator: char) -> Option<(T, T)> {
    let (a, b) = text.split_once(separator)?;
    Some((a.trim().parse().ok()?, b.trim().parse().ok()?))
}

pub(crate) fn parse_cell(text: &str) -> Result<CellPos, String> {
    let (x, y) = two(text, ',').ok_or("write column and row as X,Y, for example 3,-4")?;
    CellPos::checked(x, y)
        .ok_or_else(|| format!("cells run from {} to {}", CellPos::MIN, CellPos::MAX))
}

pub(crate) fn parse_area(text: &str) -> Result<CellRect, String> {
    let parts = || {
        let (corner, size) = text.rsplit_once(',')?;
        let (width, height) = size.split_once('x')?;
        let size = (width.trim().parse().ok()?, height.trim().parse().ok()?);
        Some((parse_cell(corner).ok()?, size))
    };
    let (corner, (width, height)) =
        parts().ok_or("write the corner and the size in cells, as in 10,4,20x12")?;
    Ok(CellRect::new(corner, width, height))
}

pub(super) fn parse_point(text: &str) -> Result<WorldPoint, String> {
    match two::<f64>(text, ',') {
        Some((x, y)) if x.is_finite() && y.is_finite() => Ok(WorldPoint::new(x, y)),
        _ => Err("write two numbers as X,Y, for example 12.5,-40".to_owned()),
    }
}

pub(crate) fn parse_size(text: &str) -> Result<ScreenSize, String> {
    match two(text, 'x') {
        Some((width, height)) if width > 0 && height > 0 => Ok(ScreenSize::new(width, height)),
        _ => Err("write width and height as WxH, for example 1280x800".to_owned()),
    }
}

pub(super) fn parse_box_size(text: &str) -> Result<(f64, f64), String> {
    match two::<f64>(text, 'x') {
        Some((width, height)) if width >= 0.0 && height >= 0.0 && (width + height).is_finite() => {
            Ok((width, height))
        }
        _ => Err("write width and height in world units as WxH, for example 12x9.5".to_owned()),
    }
}

/// How small a minimap is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scale(pub(crate) MinimapScale);

pub(super) fn parse_scale(text: &str) -> Result<Scale, String> {
    let part = || text.parse().ok().filter(|units| (1..=64).contains(units));
    match text {
        "cells" => Ok(Scale(MinimapScale::Cells)),
        _ => part().map(|units| Scale(MinimapScale::Part(units))).ok_or_else(|| {
            "write `cells`, or world units for each pixel as a whole number from 1 to 64".to_owned()
        }),
    }
}

pub(super) fn parse_zoom(text: &str) -> Result<f64, String> {
    let range = View::MIN_ZOOM..=View::MAX_ZOOM;
    let zoom: Option<f64> = text.parse().ok();
    zoom.filter(|zoom| range.contains(zoom))
        .ok_or_else(|| format!("write a number from {} to {}", View::MIN_ZOOM, View::MAX_ZOOM))
}

/// The one of some words that is spelled most like another, where one is like it.
pub(crate) fn nearest<'a>(word: &str, among: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    let near = among.map(|other| (strsim::damerau_levenshtein(word, other), other));
    near.filter(|(steps, other)| *steps <= other.len() / 3 + 1).min().map(|(_, other)| other)
}
