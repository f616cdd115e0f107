//! Numbers and counts as people read them; programs get them in full with `--json`.

use sturdy_quilt::{WorldPoint, WorldVec};

/// A number with at most two decimals.
pub(crate) fn rounded(number: f64) -> f64 {
    let rounded = (number * 100.0).round() / 100.0;
    // A number that is not 0 does not look like it.
    if rounded == 0.0 && number != 0.0 { number } else { rounded + 0.0 }
}

pub(crate) fn rounded_point(point: WorldPoint) -> String {
    format!("{},{}", rounded(point.x), rounded(point.y))
}

pub(crate) fn rounded_way(way: WorldVec) -> String {
    format!("{},{}", rounded(way.x), rounded(way.y))
}

/// A count with its word: "1 tile", "2 tiles".
pub(crate) fn counted(count: usize, word: &str) -> String {
    let s = if count == 1 { "" } else { "s" };
    format!("{count} {word}{s}")
}
