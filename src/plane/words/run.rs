//! Rectangles of cells that are read in one go.

use super::chunk::Absence;
use crate::units::{CellPos, CellRect};

/// A rectangle of cells that was read in one go: a part of a row from [`Plane::read_runs`](crate::plane::Plane::read_runs), or
/// the part of one chunk from [`Plane::read_blocks`](crate::plane::Plane::read_blocks) or [`Plane::read_chunks`](crate::plane::Plane::read_chunks).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Run<'a, V> {
    /// Which cells.
    pub cells: CellRect,
    /// What they hold.
    pub values: RunValues<'a, V>,
}

/// The values of a [`Run`].
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum RunValues<'a, V> {
    /// The same value in all cells.
    Uniform(V),
    /// A value for each cell, row by row.
    Slice(&'a [V]),
    /// The chunk is not here, or damaged.
    Absent(Absence),
}

impl<V: Copy> Run<'_, V> {
    /// Returns each cell with its value, row by row; none where the chunk is not here.
    pub fn each(&self) -> impl Iterator<Item = (CellPos, V)> + '_ {
        let values = self.values;
        self.cells.cells().enumerate().filter_map(move |(index, cell)| match values {
            RunValues::Uniform(value) => Some((cell, value)),
            RunValues::Slice(values) => values.get(index).map(|&value| (cell, value)),
            RunValues::Absent(_) => None,
        })
    }
}
