use crate::quilt::GroundClass;
use crate::tile::{Cell, TileId};

/// What must be true of a cell for it to be changed.
///
/// A [`Cell`] stands for "is exactly this", a [`TileId`] for "shows this tile, however turned".
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Condition {
    /// The layer holds exactly this here.
    Is(Cell),
    /// The layer shows one of these tiles here, however turned, raised or coloured.
    OneOf(Vec<TileId>),
    /// The layer is empty here.
    Empty,
    /// The layer is not empty here.
    NotEmpty,
    /// The ground of the cell has this class.
    Ground(GroundClass),
}

impl Condition {
    /// Whether the layer holds what is wanted; `None` where only the ground can tell.
    pub(super) fn of_cell(&self, held: Cell) -> Option<bool> {
        match self {
            Condition::Is(cell) => Some(held == *cell),
            Condition::OneOf(tiles) => Some(held.tile().is_some_and(|tile| tiles.contains(&tile))),
            Condition::Empty => Some(held.is_empty()),
            Condition::NotEmpty => Some(!held.is_empty()),
            Condition::Ground(_) => None,
        }
    }
}

impl From<Cell> for Condition {
    fn from(cell: Cell) -> Condition {
        Condition::Is(cell)
    }
}

impl From<TileId> for Condition {
    fn from(tile: TileId) -> Condition {
        Condition::OneOf(vec![tile])
    }
}

impl From<GroundClass> for Condition {
    fn from(class: GroundClass) -> Condition {
        Condition::Ground(class)
    }
}
