//! Solids that are seen at a slant, for the pictures of diamonds.
//!
//! Places are in cells along the ground (u to the lower right, v to the lower left) and in pixels
//! above it. A pixel sees along (1, 1, 32): of all solids on that line the one that is farthest along
//! is seen. So nothing has to be sorted, and a scene is painted from four sides by turning it.

use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Color, Picture};

use crate::canvas::{noise, ramp};

/// Half the width and half the height of a diamond.
pub(crate) const HALF: (f64, f64) = (32.0, 16.0);
/// Pixels that a cell is long, for what is round.
const CELL_PX: f64 = 42.0;

/// A place: u and v in cells, z in pixels.
pub(crate) type Place = [f64; 3];

/// What a solid is.
#[derive(Clone, Copy)]
pub(crate) enum Shape {
    /// From its least to its greatest corner.
    Block(Place, Place),
    /// Round its middle: its radius in cells, and in pixels upwards.
    Ball(Place, f64, f64),
    /// Upright, from the middle of its lower end: radii in cells below and above, and its height.
    Drum(Place, (f64, f64), f64),
    /// A sheet: a corner and two sides.
    Sheet(Place, Place, Place),
}

/// How a surface is painted.
#[derive(Clone, Copy)]
pub(crate) enum Grain {
    /// Evenly, with a little noise.
    Plain,
    /// In boards, that lie along the first of its two directions.
    Boards,
    /// In stones, laid in courses.
    Stones,
    /// Woven.
    Woven,
    /// Leaves, or crumbs.
    Leaves,
    /// In stripes along its first direction, every second one in these shades.
    Stripes(&'static [u32]),
    /// In courses of tiles, that overlap downwards.
    Shingles,
}

/// A solid with its colours, from dark to light.
#[derive(Clone, Copy)]
pub(crate) struct Solid {
    pub(crate) shape: Shape,
    pub(crate) shades: &'static [u32],
    pub(crate) grain: Grain,
}

/// Where a line meets a surface.
struct Hit {
    /// How far along.
    at: f64,
    /// Which way it faces: u, v and z.
    normal: Place,
    /// Its place on the surface, in pixels.
    on: (f64, f64),
}

/// Things that are painted together on some columns and rows of cells.
pub(crate) struct Scene {
    pub(crate) cells: (u32, u32),
    pub(crate) solids: Vec<Solid>,
}

impl Scene {
    pub(crate) fn new(columns: u32, rows: u32) -> Scene {
        Scene { cells: (columns, rows), solids: Vec::new() }
    }

    pub(crate) fn add(&mut self, shades: &'static [u32], grain: Grain, shape: Shape) {
        self.solids.push(Solid { shape, shades, grain });
    }

    /// The picture of the scene after so many quarter turns, as wide as its cells, with so many pixels
    /// above the ground's uppermost corner and so many below its lowest.
    pub(crate) fn picture(&self, quarters: i32, above: i32, below: i32) -> Picture {
        let (columns, rows) = (f64::from(self.cells.0), f64::from(self.cells.1));
        let turned = if quarters % 2 == 0 { (columns, rows) } else { (rows, columns) };
        let width = ((turned.0 + turned.1) * HALF.0) as i32;
        let height = ((turned.0 + turned.1) * HALF.1) as i32 + above + below;
        let size = PixelSize::new(width as u32, height as u32);
        let mut picture = Picture::filled(size, Color::CLEAR);
        for (x, y) in (0..height).flat_map(|y| (0..width).map(move |x| (x, y))) {
            // Where the line meets the ground.
            let t = (f64::from(x) + 0.5) / HALF.0 - turned.1;
            let s = (f64::from(y - above) + 0.5) / HALF.1;
            let start = turned_back([(s + t) / 2.0, (s - t) / 2.0], turned, quarters);
            let along = turned_way([1.0, 1.0], quarters);
            let ray = ([start[0], start[1], 0.0], [along[0], along[1], 2.0 * HALF.1]);
            let hits = self.solids.iter().filter_map(|solid| Some((solid.meets(ray)?, solid)));
            let nearest = hits.max_by(|a, b| a.0.at.total_cmp(&b.0.at));
            if let Some((hit, solid)) = nearest {
                let normal = turned_forth(hit.normal, quarters);
                if let Some(color) = solid.color(&hit, normal, (x, y)) {
                    picture.set(x as u32, y as u32, color);
                }
            }
        }
        picture
    }
}

/// A place of the turned scene as it was before, for cells of the turned size.
fn turned_back([u, v]: [f64; 2], (columns, rows): (f64, f64), quarters: i32) -> [f64; 2] {
    match quarters.rem_euclid(4) {
        0 => [u, v],
        1 => [v, columns - u],
        2 => [columns - u, rows - v],
        _ => [rows - v, u],
    }
}

fn turned_way([u, v]: [f64; 2], quarters: i32) -> [f64; 2] {
    match quarters.rem_euclid(4) {
        0 => [u, v],
        1 => [v, -u],
        2 => [-u, -v],
        _ => [-v, u],
    }
}

fn turned_forth([u, v, z]: Place, quarters: i32) -> Place {
    let [u, v] = turned_way([u, v], -quarters);
    [u, v, z]
}

type Ray = (Place, Place);

fn point((from, way): Ray, at: f64) -> Place {
    [from[0] + way[0] * at, from[1] + way[1] * at, from[2] + way[2] * at]
}

/// A place in pixels in all directions.
fn in_px([u, v, z]: Place) -> Place {
    [u * CELL_PX, v * CELL_PX, z]
}

fn cross(a: Place, b: Place) -> Place {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

fn dot(a: Place, b: Place) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn minus(a: Place, b: Place) -> Place {
    [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}

impl Solid {
    /// The farthest place along a line where it meets the solid.
    fn meets(&self, ray: Ray) -> Option<Hit> {
        match self.shape {
            Shape::Block(min, max) => meets_block(ray, min, max),
            Shape::Ball(middle, radius, high) => {
                let (from, way) = (in_px(minus(ray.0, middle)), in_px(ray.1));
                let radii = [radius * CELL_PX, radius * CELL_PX, high];
                let scaled = |p: Place| [p[0] / radii[0], p[1] / radii[1], p[2] / radii[2]];
                let (from, way) = (scaled(from), scaled(way));
                let (a, b, c) = (dot(way, way), dot(from, way), dot(from, from) - 1.0);
                let root = (b * b - a * c).max(-1.0);
                let at = (root >= 0.0).then(|| (root.sqrt() - b) / a)?;
                let p = point((from, way), at);
                Some(Hit { at, normal: scaled(p), on: (p[0] * radii[0], p[2] * radii[2]) })
            }
            Shape::Drum(foot, radii, height) => meets_drum(ray, foot, radii, height),
            Shape::Sheet(corner, a, b) => {
                let (a_px, b_px) = (in_px(a), in_px(b));
                let normal = cross(a_px, b_px);
                let (from, way) = (in_px(minus(ray.0, corner)), in_px(ray.1));
                let at = -dot(from, normal) / dot(way, normal);
                let p = point((from, way), at);
                // Along both sides, which stand upright on each other.
                let part = |side: Place| dot(p, side) / dot(side, side);
                let (x, y) = (part(a_px), part(b_px));
                if !(0.0..=1.0).contains(&x) || !(0.0..=1.0).contains(&y) {
                    return None;
                }
                let normal = if normal[2] < 0.0 { normal.map(|n| -n) } else { normal };
                let on = (x * dot(a_px, a_px).sqrt(), y * dot(b_px, b_px).sqrt());
                Some(Hit { at, normal, on })
            }
        }
    }

    fn color(&self, hit: &Hit, normal: Place, (x, y): (i32, i32)) -> Option<Color> {
        let length = dot(normal, normal).sqrt().max(1e-9);
        let part = |axis: usize| (normal[axis] / length).max(0.0).powi(2);
        // From above most, from the left more than from the right.
        let light = (0.86 * part(2) + 0.52 * part(1) + 0.26 * part(0)) as f32;
        let (a, b) = (hit.on.0.floor() as i32, hit.on.1.floor() as i32);
        let soft = noise(x, y, 301) * 0.1 - 0.05;
        let mut shades = self.shades;
        let level = match self.grain {
            Grain::Plain => light + soft,
            Grain::Boards => {
                let gap = b.rem_euclid(7) == 0;
                light - if gap { 0.28 } else { 0.0 } + noise(a / 9, b.div_euclid(7), 302) * 0.16
                    - 0.08
            }
            Grain::Stones => {
                let (course, joint) = (b.div_euclid(8), b.rem_euclid(8) == 0);
                let along = a + course * 7;
                let gap = joint || along.rem_euclid(14) == 0;
                let own = noise(along.div_euclid(14), course, 303) * 0.22 - 0.11;
                light + own - if gap { 0.26 } else { 0.0 } + soft
            }
            Grain::Woven => {
                let over = (a.div_euclid(4) + b.div_euclid(3)).rem_euclid(2) == 0;
                light + if over { 0.08 } else { -0.14 } + soft
            }
            Grain::Leaves => light + noise(a / 2, b / 2, 304) * 0.5 - 0.3 + soft,
            Grain::Stripes(others) => {
                if b.div_euclid(8).rem_euclid(2) == 0 {
                    shades = others;
                }
                light + soft
            }
            Grain::Shingles => {
                let (course, within) = (b.div_euclid(6), b.rem_euclid(6));
                let joint = (a + course * 4).rem_euclid(8) == 0;
                let own = noise((a + course * 4).div_euclid(8), course, 305) * 0.16 - 0.08;
                light + own + within as f32 * 0.03 - if within == 0 || joint { 0.22 } else { 0.05 }
            }
        };
        ramp(shades, level, x, y, 306)
    }
}

fn meets_block(ray: Ray, min: Place, max: Place) -> Option<Hit> {
    let (mut first, mut last, mut axis) = (f64::NEG_INFINITY, f64::INFINITY, 0);
    for side in 0..3 {
        let (from, way) = (ray.0[side], ray.1[side]);
        let (a, b) = ((min[side] - from) / way, (max[side] - from) / way);
        first = first.max(a.min(b));
        if a.max(b) < last {
            (last, axis) = (a.max(b), side);
        }
    }
    if first >= last {
        return None;
    }
    let p = point(ray, last);
    let [u, v, z] = in_px(p);
    let mut normal = [0.0; 3];
    normal[axis] = ray.1[axis].signum();
    let on = match axis {
        0 => (v, z),
        1 => (u, z),
        _ => (u, v),
    };
    Some(Hit { at: last, normal, on })
}

fn meets_drum(ray: Ray, foot: Place, (below, above): (f64, f64), height: f64) -> Option<Hit> {
    let (from, way) = (minus(ray.0, foot), ray.1);
    // Its lid first, which is seen from above.
    let at = (height - from[2]) / way[2];
    let p = point((from, way), at);
    if p[0].hypot(p[1]) <= above {
        let [u, v, _] = in_px(p);
        return Some(Hit { at, normal: [0.0, 0.0, 1.0], on: (u, v) });
    }
    // |p.uv| = below + slope · z, along the line.
    let slope = (above - below) / height;
    let radius = (below + slope * from[2], slope * way[2]);
    let a = way[0] * way[0] + way[1] * way[1] - radius.1 * radius.1;
    let b = from[0] * way[0] + from[1] * way[1] - radius.0 * radius.1;
    let c = from[0] * from[0] + from[1] * from[1] - radius.0 * radius.0;
    let root = b * b - a * c;
    if root < 0.0 || a <= 0.0 {
        return None;
    }
    let at = (root.sqrt() - b) / a;
    let p = point((from, way), at);
    if !(0.0..=height).contains(&p[2]) {
        return None;
    }
    let around = p[1].atan2(p[0]) * below.max(above) * CELL_PX;
    let normal = [p[0], p[1], -slope * CELL_PX / height * p[0].hypot(p[1])];
    Some(Hit { at, normal, on: (around, p[2]) })
}
