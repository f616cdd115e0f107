//! Shapes of what stops a mover, kept chunk by chunk for those who hold copies of them.

use std::collections::BTreeMap;

use super::outline::Outline;
use super::pieces::ConvexPiece;
use crate::ground::state::{ChunkState, GroundMap};
use crate::quilt::MoverId;
use crate::units::{CellRect, ChunkPos};

/// The number of a shape that is kept; none is given twice.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ShapeId(u64);

/// A shape that can be kept: [`ConvexPiece`] or [`Outline`].
pub trait GroundShape: hidden::GroundShape + Clone + PartialEq {}

impl GroundShape for ConvexPiece {}
impl GroundShape for Outline {}

/// How shapes are found.
pub(super) mod hidden {
    use super::{CellRect, GroundMap, MoverId};

    pub trait GroundShape: Sized {
        fn all(ground: &GroundMap, mover: MoverId, cells: CellRect) -> Vec<Self>;
    }
}

impl hidden::GroundShape for ConvexPiece {
    fn all(ground: &GroundMap, mover: MoverId, cells: CellRect) -> Vec<ConvexPiece> {
        ground.pieces(mover, cells)
    }
}

impl hidden::GroundShape for Outline {
    fn all(ground: &GroundMap, mover: MoverId, cells: CellRect) -> Vec<Outline> {
        ground.outlines(mover, cells)
    }
}

/// The shapes of what stops a mover, chunk by chunk, and what of them changes: for physics engines
/// and others who hold copies.
///
/// Only what lies within the bounds of the map is among them. Shapes end at the edges of chunks, so
/// that an edit changes those of its chunk alone.
///
/// ```
/// use sturdy_quilt::ground::{ConvexPiece, KeptShapes};
/// use sturdy_quilt::{CellPos, GroundMap};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let (mut ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
/// let mut kept = KeptShapes::<ConvexPiece>::new(walker);
/// let changes = kept.update(&ground);
/// assert_eq!((changes.gone.len(), changes.new.len()), (0, 1));
///
/// let wall = quilt.tile("garden/wall")?;
/// quilt.edit("a wall", |pen| pen.put("soil", CellPos::new(0, 2), wall))?;
/// ground.refresh(&quilt);
/// let changes = kept.update(&ground);
/// assert_eq!((changes.gone.len(), changes.new.len()), (0, 1));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct KeptShapes<S> {
    mover: MoverId,
    chunks: BTreeMap<ChunkPos, KeptChunk<S>>,
    bounds: CellRect,
    next: u64,
}

/// The changes of the shapes that are kept.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct ShapeChanges<S> {
    /// Those that are no more.
    pub gone: Vec<ShapeId>,
    /// Those that are new, chunk by chunk.
    pub new: Vec<(ShapeId, S)>,
}

#[derive(Clone, Debug)]
struct KeptChunk<S> {
    state: ChunkState,
    shapes: Vec<(ShapeId, S)>,
}

impl<S: GroundShape> KeptShapes<S> {
    /// Returns an empty store for the shapes of what stops a mover.
    pub fn new(mover: MoverId) -> KeptShapes<S> {
        KeptShapes { mover, chunks: BTreeMap::new(), bounds: CellRect::EMPTY, next: 0 }
    }

    /// Brings the shapes up to date with a map, and returns what has changed. Shapes that have not
    /// changed keep their number.
    ///
    /// Costs a look at each chunk in which anything stops the mover, and makes anew what has
    /// changed.
    pub fn update(&mut self, ground: &GroundMap) -> ShapeChanges<S> {
        let mut changes = ShapeChanges { gone: Vec::new(), new: Vec::new() };
        let same_bounds = std::mem::replace(&mut self.bounds, ground.bounds()) == self.bounds;
        let mut before = std::mem::take(&mut self.chunks);
        for pos in ground.stopping_chunks(self.mover) {
            let held = before.remove(&pos);
            let state = ground.chunk_state(self.mover, pos);
            let kept = match held {
                Some(held) if same_bounds && held.state == state => held,
                held => {
                    let old = held.map(|held| held.shapes).unwrap_or_default();
                    let cells = pos.cells().intersection(ground.bounds());
                    let shapes = S::all(ground, self.mover, cells);
                    KeptChunk { state, shapes: self.renewed(old, shapes, &mut changes) }
                }
            };
            self.chunks.insert(pos, kept);
        }
        let gone = before.into_values().flat_map(|held| held.shapes);
        changes.gone.extend(gone.map(|(id, _)| id));
        changes
    }

    /// The shapes of a chunk, those with their numbers that were there before.
    fn renewed(
        &mut self,
        mut old: Vec<(ShapeId, S)>,
        shapes: Vec<S>,
        changes: &mut ShapeChanges<S>,
    ) -> Vec<(ShapeId, S)> {
        let kept: Vec<(ShapeId, S)> = shapes
            .into_iter()
            .map(|shape| match old.iter().position(|(_, held)| *held == shape) {
                Some(at) => old.swap_remove(at),
                None => {
                    let id = ShapeId(self.next);
                    self.next += 1;
                    changes.new.push((id, shape.clone()));
                    (id, shape)
                }
            })
            .collect();
        changes.gone.extend(old.into_iter().map(|(id, _)| id));
        kept
    }

    /// Returns all shapes, chunk by chunk.
    pub fn iter(&self) -> impl Iterator<Item = (ShapeId, &S)> {
        self.chunks.values().flat_map(|chunk| &chunk.shapes).map(|(id, shape)| (*id, shape))
    }
}
