use super::EditError;
use crate::quilt::{GroundClass, Quilt};
use crate::tile::{Cell, TileId};

/// A condition that a cell must fulfil to be changed.
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
    /// Checks that the handles are those of a map.
    pub(super) fn check(&self, quilt: &Quilt) -> Result<(), EditError> {
        let is_known = match self {
            Condition::OneOf(tiles) => tiles.iter().all(|tile| quilt.tiles().name(*tile).is_some()),
            Condition::Ground(class) => quilt.ground_rules().class_name(*class).is_some(),
            _ => true,
        };
        if is_known { Ok(()) } else { Err(EditError::OtherMap) }
    }

    /// Whether the layer holds what is wanted; `None` where only the ground can tell.
    pub(super) fn of_cell(&self, held: Cell) -> Option<bool> {
        match self {
            Condition::Is(cell) => Some(held == *cell),
            Condition::OneOf(tiles) => {
                let index = held.tile_index();
                Some(tiles.iter().any(|tile| Some(tile.index()) == index))
            }
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
