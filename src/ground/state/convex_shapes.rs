//! The convex shapes of the tiles of a map, by tile and turn.

use rustc_hash::FxHashMap;

use crate::ground::shape::ConvexShape;
use crate::quilt::Quilt;
use crate::tile::{Cell, CellShape, Turn};

/// The number of a convex shape; 0 is that of a whole cell.
pub(super) type ConvexNumber = u16;

/// The convex shapes that the tiles of a map have.
#[derive(Clone, Debug)]
pub(super) struct ConvexShapes {
    /// The first is that of a whole cell.
    list: Vec<ConvexShape>,
    /// By tile, which of `turned` holds its convex shapes, from 1; 0 for whole ones. Empty where all tiles
    /// are whole.
    by_tile: Vec<u16>,
    turned: Vec<[ConvexNumber; TURNS]>,
}

const TURNS: usize = 8;

const fn place_of(turn: Turn) -> usize {
    (turn.steps() % 4) as usize + if turn.is_mirrored() { 4 } else { 0 }
}

impl ConvexShapes {
    /// The convex shapes of the tiles of a map. Those beyond the 65,535th count as whole.
    pub(super) fn of(quilt: &Quilt) -> ConvexShapes {
        let (tiles, lattice) = (quilt.tiles(), quilt.lattice());
        let whole = CellShape::whole(lattice.shape());
        let mut convexes = ConvexShapes {
            list: vec![ConvexShape::new(whole, lattice)],
            by_tile: Vec::new(),
            turned: Vec::new(),
        };
        let mut numbers: FxHashMap<Vec<(u64, u64)>, ConvexNumber> = FxHashMap::default();
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
                let next = ConvexNumber::try_from(convexes.list.len()).unwrap_or_default();
                let number = *numbers.entry(key(&shape)).or_insert(next);
                if number == next && next != 0 {
                    convexes.list.push(ConvexShape::new(shape, lattice));
                }
                turned[place_of(turn)] = number;
            }
            let Ok(place) = u16::try_from(convexes.turned.len() + 1) else { break };
            convexes.turned.push(turned);
            convexes.by_tile.resize(id.index() + 1, 0);
            convexes.by_tile[id.index()] = place;
        }
        convexes
    }

    /// Whether any cell may be other than whole.
    pub(super) fn are_any(&self) -> bool {
        !self.by_tile.is_empty()
    }

    /// The number of the convex shape of a cell.
    #[inline]
    pub(super) fn of_cell(&self, cell: Cell) -> ConvexNumber {
        let Some(tile) = cell.number() else { return 0 };
        let place = self.by_tile.get(tile.index()).copied().unwrap_or_default();
        let turned = usize::from(place).checked_sub(1).and_then(|at| self.turned.get(at));
        turned.map_or(0, |turned| turned[place_of(cell.turn())])
    }

    pub(super) fn get(&self, number: ConvexNumber) -> &ConvexShape {
        // The whole one is always there.
        self.list.get(usize::from(number)).unwrap_or(&self.list[0])
    }
}
