use std::sync::Arc;

use super::{Quilt, ValueLayer};
use crate::plane::{PlaneMemory, for_each_kind};

impl Quilt {
    /// How much memory the cells of all layers and value layers take; see
    /// [`Plane::memory`](crate::Plane::memory).
    ///
    /// ```
    /// # let quilt = sturdy_quilt::doc_quilt();
    /// assert!(quilt.memory().bytes() < 8 << 10);
    /// ```
    pub fn memory(&self) -> PlaneMemory {
        let cells = self.layers().iter().map(|layer| layer.cells().memory());
        let values = self.value_layers().iter().map(ValueLayer::memory);
        cells.chain(values).fold(PlaneMemory::default(), |all, memory| all.plus(&memory))
    }

    /// Brings the cells of all layers and value layers into their smallest form; see
    /// [`Plane::compact`](crate::Plane::compact). For idle time, as after a map was built in code; a
    /// map that was loaded has it already. Changes nothing that can be seen, and no stamp.
    pub fn compact(&mut self) {
        for layer in Arc::make_mut(&mut self.layers).iter_mut() {
            layer.cells.compact();
        }
        for layer in Arc::make_mut(&mut self.values) {
            for_each_kind!(&mut layer.plane, plane => plane.compact());
        }
    }
}
