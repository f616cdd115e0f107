//! The ground of each cell as one byte, by chunk.

use triomphe::Arc;

use crate::plane::Presence;
use crate::quilt::GroundClass;
use crate::units::ChunkPos;

/// No source states the ground of the cell.
pub(super) const UNSTATED: u8 = 255;
/// What would state it is not loaded.
pub(super) const NOT_HERE: u8 = 254;
/// What would state it is damaged.
pub(super) const DAMAGED: u8 = 253;

pub(super) const CELLS: usize = (ChunkPos::SIDE * ChunkPos::SIDE) as usize;

/// Whether a code is the number of a class.
pub(super) const fn is_class(code: u8) -> bool {
    (code as usize) < GroundClass::MAX_COUNT
}

/// The code of a class, or of none.
pub(super) fn code_of(class: Option<GroundClass>) -> u8 {
    class.map_or(UNSTATED, |class| class.index() as u8)
}

/// The class of some that a code stands for.
pub(super) fn class_of(code: u8, classes: &[GroundClass]) -> Presence<Option<GroundClass>> {
    match code {
        NOT_HERE => Presence::NotHere,
        DAMAGED => Presence::Damaged,
        class => Presence::Here(classes.get(usize::from(class)).copied()),
    }
}

/// The codes of a chunk: the number of a class for each cell, or one of those above.
#[derive(Clone, Debug)]
pub(super) enum Codes {
    Uniform(u8),
    Each(Arc<[u8; CELLS]>),
}

impl Codes {
    pub(super) fn at(&self, index: usize) -> u8 {
        match self {
            Codes::Uniform(code) => *code,
            Codes::Each(codes) => codes[index],
        }
    }

    /// Puts one code into a cell.
    pub(super) fn set(&mut self, index: usize, code: u8) {
        if self.at(index) == code {
            return;
        }
        match self {
            Codes::Uniform(all) => {
                let mut codes = [*all; CELLS];
                codes[index] = code;
                *self = Codes::Each(Arc::new(codes));
            }
            Codes::Each(codes) => Arc::make_mut(codes)[index] = code,
        }
    }

    /// The same with one code for all where all are alike.
    pub(super) fn evened(self) -> Codes {
        match &self {
            Codes::Each(codes) if all_alike(codes) => Codes::Uniform(codes[0]),
            _ => self,
        }
    }
}

/// Mostly the ends tell; if not, all are looked at without a way out, many at a time.
fn all_alike(codes: &[u8; CELLS]) -> bool {
    let first = codes[0];
    let differs = |code: u8| code ^ first;
    differs(codes[CELLS - 1]) == 0
        && differs(codes[CELLS / 2]) == 0
        && codes.iter().fold(0, |bits, code| bits | differs(*code)) == 0
}
