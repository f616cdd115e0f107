//! Lines from point to point: the paths of markers.

use crate::units::{WorldPoint, WorldRect};

fn segments(path: &[WorldPoint]) -> impl Iterator<Item = (WorldPoint, WorldPoint)> {
    path.windows(2).map(|ends| (ends[0], ends[1]))
}

/// Whether a path has a point in a rectangle, each piece clipped to it in turn (Y.-D. Liang and
/// B. A. Barsky, "A New Concept and Method for Line Clipping", ACM ToG 1984). The right and lower
/// edges of the rectangle do not belong to it.
pub(super) fn crosses(path: &[WorldPoint], rect: WorldRect) -> bool {
    let within = |from: f64, to: f64, low: f64, high: f64| {
        let way = to - from;
        if way == 0.0 {
            return if low <= from && from < high { (0.0, 1.0) } else { (1.0, 0.0) };
        }
        let (a, b) = ((low - from) / way, (high - from) / way);
        (a.min(b).max(0.0), a.max(b).min(1.0))
    };
    path.first().is_some_and(|point| rect.contains(*point))
        || segments(path).any(|(a, b)| {
            let (begin_x, end_x) = within(a.x, b.x, rect.min().x, rect.max().x);
            let (begin_y, end_y) = within(a.y, b.y, rect.min().y, rect.max().y);
            let (begin, end) = (begin_x.max(begin_y), end_x.min(end_y));
            // A piece that only touches a corner or runs along a far edge has no length inside.
            begin < end || rect.contains(b)
        })
}

/// The length of a path.
pub(super) fn length(path: &[WorldPoint]) -> f64 {
    segments(path).map(|(a, b)| (b - a).length()).sum()
}

/// The point so many units along a path, held between its ends.
pub(super) fn along(path: &[WorldPoint], way: f64) -> WorldPoint {
    let mut left = way.max(0.0);
    for (a, b) in segments(path) {
        let length = (b - a).length();
        if left < length {
            return a + (b - a) * (left / length);
        }
        left -= length;
    }
    path.last().copied().unwrap_or_default()
}
