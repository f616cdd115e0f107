//! The shortest way out of what a body is buried in.

use super::bodies::spans_more;
use super::body::Body;
use super::solid::Solid;
use crate::ground::shape::{Core, from_corner};
use crate::ground::state::GroundMap;
use crate::lattice::Axis;
use crate::quilt::MoverId;
use crate::units::{CellPos, WorldRect, WorldVec};

impl GroundMap {
    /// The most cells, by their shorter side, that count as the reach of [`GroundMap::push_out`],
    /// and a body that spans more counts there as the box around it, among whole cells.
    pub const MAX_PUSH_CELLS: u32 = 64;

    /// Returns the shortest way by which a body comes out of all that blocks a mover, such as a
    /// wall that was built over it: none where it lies in nothing, and `None` where nothing free is
    /// as near as `reach` world units.
    ///
    /// Exact: straight away from an edge or a corner, or to where the edges of two meet. Costs a
    /// look at the cells around, up to the square of those that are as near as it ends.
    ///
    /// ```
    /// use sturdy_quilt::{GroundMap, WorldPoint, WorldRect, WorldVec};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let body = WorldRect::between(WorldPoint::new(25.0, 2.0), WorldPoint::new(35.0, 12.0));
    /// assert_eq!(ground.push_out(walker, body, 32.0), Some(WorldVec::new(-3.0, 0.0)));
    /// assert_eq!(ground.push_out(walker, body, 2.0), None);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn push_out<B: Body>(&self, mover: MoverId, body: B, reach: f64) -> Option<WorldVec> {
        match body.as_box() {
            Some(body) => of_box(self, mover, body, reach),
            None => of_body(self, mover, &body, reach),
        }
    }

    /// The shortest of the ways out that `ways` finds within a distance, looking ever further.
    fn shortest_way_out(
        &self,
        reach: f64,
        mut ways: impl FnMut(f64) -> Vec<WorldVec>,
        mut is_free: impl FnMut(WorldVec) -> bool,
    ) -> Option<WorldVec> {
        if is_free(WorldVec::ZERO) {
            return Some(WorldVec::ZERO);
        }
        let side = self.lattice().cell_width().min(self.lattice().cell_height());
        let reach = reach.min(f64::from(Self::MAX_PUSH_CELLS) * side);
        // What is near is looked at first: further away there is nothing shorter.
        let (mut tried, mut within) = (0.0, side);
        loop {
            within = within.min(reach);
            // Of those that are alike, the one to the left, and then the one up.
            let mut ways: Vec<(f64, WorldVec)> =
                ways(within).into_iter().map(|way| (way.length(), way)).collect();
            ways.retain(|(length, _)| *length <= within && *length > tried);
            ways.sort_unstable_by(|(a, v), (b, w)| {
                a.total_cmp(b).then(v.x.total_cmp(&w.x)).then(v.y.total_cmp(&w.y))
            });
            // Curves that end where the next ones begin lead to the same places.
            ways.dedup_by_key(|(_, way)| *way);
            let found = ways.into_iter().find(|(_, way)| is_free(*way));
            if let Some((_, way)) = found {
                return Some(way);
            }
            if within >= reach || reach.is_nan() {
                return None;
            }
            (tried, within) = (within, within * 2.0);
        }
    }
}

/// The same for a box.
pub(super) fn of_box(
    ground: &GroundMap,
    mover: MoverId,
    body: WorldRect,
    reach: f64,
) -> Option<WorldVec> {
    if ground.has_parts() && !spans_more(ground, body, GroundMap::MAX_PUSH_CELLS) {
        return of_body(ground, mover, &body, reach);
    }
    let mut solid = Solid::new(ground, mover);
    let is_free = |way| !solid.any_in(ground.lines_under(body.moved(way)));
    let lattice = ground.lattice();
    let ways = |within: f64| {
        let x = ways_to_edges(lattice.columns(), (body.min().x, body.max().x), within);
        let y = ways_to_edges(lattice.rows(), (body.min().y, body.max().y), within);
        x.iter().flat_map(|x| y.iter().map(|y| WorldVec::new(*x, *y))).collect()
    };
    ground.shortest_way_out(reach, ways, is_free)
}

/// How far it is to where either end of a box lies on an edge, within reach; and no way.
fn ways_to_edges(lines: Axis, (from, to): (f64, f64), reach: f64) -> Vec<f64> {
    let mut ways = vec![0.0];
    for end in [from, to] {
        let edges = lines.at(end - reach)..=lines.at(end + reach) + 1;
        let to_edges = edges.map(|line| lines.edge(line) - end);
        ways.extend(to_edges.filter(|way| way.abs() <= reach));
    }
    ways.sort_unstable_by(f64::total_cmp);
    ways.dedup();
    ways
}

/// The same for any body: its point must come out of all the sums of the body with what is solid.
pub(super) fn of_body<B: Body>(
    ground: &GroundMap,
    mover: MoverId,
    body: &B,
    reach: f64,
) -> Option<WorldVec> {
    if spans_more(ground, body.bounds(), GroundMap::MAX_PUSH_CELLS) {
        return of_box(ground, mover, body.bounds(), reach);
    }
    let core = body.core(ground.least_width());
    let is_free = |way| !ground.overlaps(mover, body.moved(way));
    let ways = |within: f64| {
        let mut curves = curves_around(ground, mover, &core, body.bounds().grown(within));
        // A little more than that, so that rounding leaves none out.
        curves.retain(|curve| curve.distance() <= within * (1.0 + 1e-9));
        let mut ways: Vec<WorldVec> = curves.iter().filter_map(Curve::nearest).collect();
        for (at, a) in curves.iter().enumerate() {
            for b in &curves[..at] {
                a.crossings(b, &mut ways);
            }
        }
        ways
    };
    ground.shortest_way_out(reach, ways, is_free)
}

/// A piece of the outline of a sum, from the point of the body.
enum Curve {
    Line(WorldVec, WorldVec),
    Circle(WorldVec, f64),
}

/// The outlines of all sums with what is solid in some area.
fn curves_around(ground: &GroundMap, mover: MoverId, core: &Core, area: WorldRect) -> Vec<Curve> {
    let mut curves = Vec::new();
    for (column, row) in Solid::new(ground, mover).cells_in(ground.lines_under(area)) {
        let point = from_corner(ground.lattice(), column, row, core.at);
        let cell = CellPos::saturating(column, row);
        for solid in ground.solids_met(mover, cell) {
            if !ground.treatment_of(mover, cell, solid).blocks() {
                continue;
            }
            for (from, to, normal) in solid.convex.sum_with(core).lines() {
                let out = normal * core.radius - point;
                curves.push(Curve::Line(from + out, to + out));
                if core.radius > 0.0 {
                    curves.push(Curve::Circle(from - point, core.radius));
                }
            }
        }
    }
    curves
}

impl Curve {
    /// Its point that is nearest to the origin.
    fn nearest(&self) -> Option<WorldVec> {
        match *self {
            Curve::Line(from, to) => {
                let along = to - from;
                let share = -along.dot(from) / along.dot(along);
                Some(from + along * share.clamp(0.0, 1.0))
            }
            Curve::Circle(center, radius) => {
                let length = center.length();
                (length > 0.0).then(|| center * (1.0 - radius / length))
            }
        }
    }

    /// How far it is from the origin where it is nearest.
    fn distance(&self) -> f64 {
        match self {
            Curve::Circle(center, radius) => (center.length() - radius).abs(),
            Curve::Line(..) => self.nearest().map_or(0.0, WorldVec::length),
        }
    }

    /// Where it crosses another.
    fn crossings(&self, other: &Curve, found: &mut Vec<WorldVec>) {
        match (self, other) {
            (Curve::Line(a, b), Curve::Line(c, d)) => {
                let (way, across) = (*b - *a, *d - *c);
                let area = way.cross(across);
                if area == 0.0 {
                    return;
                }
                let (t, u) = ((*c - *a).cross(across) / area, (*c - *a).cross(way) / area);
                if (0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&u) {
                    found.push(*a + way * t);
                }
            }
            (Curve::Line(a, b), Curve::Circle(center, radius))
            | (Curve::Circle(center, radius), Curve::Line(a, b)) => {
                let (way, from) = (*b - *a, *a - *center);
                let (square, half) = (way.dot(way), from.dot(way));
                let under = half * half - square * (from.dot(from) - radius * radius);
                if under >= 0.0 {
                    let times = [-1.0, 1.0].map(|sign| (-half + sign * under.sqrt()) / square);
                    let within = times.into_iter().filter(|time| (0.0..=1.0).contains(time));
                    found.extend(within.map(|time| *a + way * time));
                }
            }
            (Curve::Circle(a, r), Curve::Circle(b, _)) => {
                // The radius is that of the body, and the same for both.
                let way = *b - *a;
                let length = way.length();
                if length == 0.0 || length > 2.0 * r {
                    return;
                }
                let (middle, half) = (*a + way * 0.5, (r * r - length * length / 4.0).sqrt());
                let across = WorldVec::new(-way.y, way.x) * (half / length);
                found.extend([middle + across, middle - across]);
            }
        }
    }
}
