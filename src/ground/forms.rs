//! The outlines of the solid parts of cells, in world units and ready to be asked.

use rustc_hash::FxHashMap;

use super::minkowski::Sum;
use crate::lattice::Lattice;
use crate::quilt::Quilt;
use crate::tile::{Cell, CellShape, Turn};
use crate::units::{WorldPoint, WorldVec};

/// The number of a form; 0 is that of a whole cell.
pub(super) type FormNumber = u16;

/// A convex outline: corners clockwise as they are seen, from the upper left corner of its cell.
#[derive(Clone, Debug)]
pub(super) struct Form {
    shape: CellShape,
    corners: [WorldVec; CellShape::MOST_CORNERS],
    /// Of the edge behind each corner, outwards and one unit long.
    normals: [WorldVec; CellShape::MOST_CORNERS],
    count: usize,
    /// The sum with a body that is a point with a radius.
    sum_of_point: Sum,
}

impl Form {
    pub(super) fn new(shape: CellShape, lattice: &Lattice) -> Form {
        let (width, height) = (lattice.cell_width(), lattice.cell_height());
        let count = shape.corners().len();
        let mut corners = [WorldVec::ZERO; CellShape::MOST_CORNERS];
        for (held, (x, y)) in corners.iter_mut().zip(shape.corners()) {
            *held = WorldVec::new(x * width, y * height);
        }
        let mut normals = [WorldVec::ZERO; CellShape::MOST_CORNERS];
        for at in 0..count {
            normals[at] = (corners[(at + 1) % count] - corners[at]).outwards();
        }
        let sum_of_point = Sum::of_point(&corners[..count], &normals[..count]);
        Form { shape, corners, normals, count, sum_of_point }
    }

    pub(super) const fn sum_of_point(&self) -> &Sum {
        &self.sum_of_point
    }

    pub(super) const fn shape(&self) -> &CellShape {
        &self.shape
    }

    pub(super) fn corners(&self) -> &[WorldVec] {
        &self.corners[..self.count]
    }

    pub(super) fn normals(&self) -> &[WorldVec] {
        &self.normals[..self.count]
    }

    /// The ends of the edge behind a corner.
    pub(super) fn edge(&self, at: usize) -> (WorldVec, WorldVec) {
        (self.corners[at], self.corners[(at + 1) % self.count])
    }

    /// Whether a point lies in it, from the upper left corner of its cell. One on an edge does if
    /// the edge looks to the left, or up.
    pub(super) fn contains(&self, place: WorldVec) -> bool {
        let is_behind = |(corner, normal): (&WorldVec, &WorldVec)| {
            let distance = normal.dot(place - *corner);
            distance < 0.0 || (distance == 0.0 && (normal.x, normal.y) < (0.0, 0.0))
        };
        self.corners().iter().zip(self.normals()).all(is_behind)
    }

    /// Where a ray from a point goes into it, if it does: the part of the ray until then, and the
    /// edge; `None` for the edge where it begins within. Touching is not going in.
    ///
    /// By clipping the ray with each edge (M. Cyrus and J. Beck, "Generalized Two- and
    /// Three-Dimensional Clipping", Computers & Graphics 3, 1978).
    pub(super) fn enter(&self, from: WorldVec, motion: WorldVec) -> Option<(f64, Option<usize>)> {
        let (mut enter, mut leave, mut by) = (0.0, f64::INFINITY, None);
        for (at, (corner, normal)) in self.corners().iter().zip(self.normals()).enumerate() {
            let (distance, speed) = (normal.dot(from - *corner), normal.dot(motion));
            if speed < 0.0 {
                let time = distance / -speed;
                if time > enter || (time == enter && distance >= 0.0) {
                    (enter, by) = (time, Some(at));
                }
            } else if distance >= 0.0 {
                return None;
            } else if speed > 0.0 {
                leave = f64::min(leave, -distance / speed);
            }
        }
        (enter < leave && enter < 1.0).then_some((enter, by))
    }

    /// From where to where a line lies in it, in parts of the line and within that.
    pub(super) fn span(&self, from: WorldVec, motion: WorldVec) -> Option<[f64; 2]> {
        let (enter, _) = self.enter(from, motion)?;
        let (back, _) = self.enter(from + motion, -motion)?;
        Some([enter, 1.0 - back])
    }
}

/// The forms that the tiles of a map have.
#[derive(Clone, Debug)]
pub(super) struct Forms {
    /// The first is that of a whole cell.
    list: Vec<Form>,
    /// By tile, which of `turned` holds its forms, from 1; 0 for whole ones. Empty where all tiles
    /// are whole.
    by_tile: Vec<u16>,
    turned: Vec<[FormNumber; TURNS]>,
}

const TURNS: usize = 8;

const fn place_of(turn: Turn) -> usize {
    (turn.steps() % 4) as usize + if turn.is_mirrored() { 4 } else { 0 }
}

impl Forms {
    /// The forms of the tiles of a map. Those beyond the 65,535th count as whole.
    pub(super) fn of(quilt: &Quilt) -> Forms {
        let (tiles, lattice) = (quilt.tiles(), quilt.lattice());
        let whole = CellShape::whole(lattice.shape());
        let mut forms = Forms {
            list: vec![Form::new(whole, lattice)],
            by_tile: Vec::new(),
            turned: Vec::new(),
        };
        let mut numbers: FxHashMap<Vec<(u64, u64)>, FormNumber> = FxHashMap::default();
        let key = |shape: &CellShape| -> Vec<(u64, u64)> {
            shape.corners().iter().map(|(x, y)| (x.to_bits(), y.to_bits())).collect()
        };
        numbers.insert(key(&whole), 0);
        for id in tiles.ids() {
            let tile = tiles.tile(id).filter(|tile| tile.ground().is_some());
            let Some(shape) = tile.and_then(|tile| tile.shape()).filter(|shape| **shape != whole)
            else {
                continue;
            };
            let mut turned = [0; TURNS];
            for turn in Turn::SQUARE {
                let shape = shape.turned(turn);
                let next = FormNumber::try_from(forms.list.len()).unwrap_or_default();
                let number = *numbers.entry(key(&shape)).or_insert(next);
                if number == next && next != 0 {
                    forms.list.push(Form::new(shape, lattice));
                }
                turned[place_of(turn)] = number;
            }
            let Ok(place) = u16::try_from(forms.turned.len() + 1) else { break };
            forms.turned.push(turned);
            forms.by_tile.resize(id.index() + 1, 0);
            forms.by_tile[id.index()] = place;
        }
        forms
    }

    /// Whether any cell may be other than whole.
    pub(super) fn are_any(&self) -> bool {
        !self.by_tile.is_empty()
    }

    /// The form that a cell has.
    #[inline]
    pub(super) fn of_cell(&self, cell: Cell) -> FormNumber {
        let Some(tile) = cell.number() else { return 0 };
        let place = self.by_tile.get(tile.index()).copied().unwrap_or_default();
        let turned = usize::from(place).checked_sub(1).and_then(|at| self.turned.get(at));
        turned.map_or(0, |turned| turned[place_of(cell.turn())])
    }

    pub(super) fn get(&self, number: FormNumber) -> &Form {
        // The whole one is always there.
        self.list.get(usize::from(number)).unwrap_or(&self.list[0])
    }
}

/// The place of a point from the upper left corner of a cell.
pub(super) fn from_corner(lattice: &Lattice, column: i64, row: i64, place: WorldPoint) -> WorldVec {
    place - WorldPoint::new(lattice.columns().edge(column), lattice.rows().edge(row))
}
