use super::words::Word;
use crate::tile::Cell;

/// A 32-bit value that a [`Plane`](super::Plane) can hold: [`Cell`], `u32`, `i32` or `f32`.
///
/// Sealed: nothing else can be one.
pub trait PlaneValue: Copy + Default + std::fmt::Debug + Send + Sync + 'static + Word {
    /// The 32 bits of the value.
    fn to_bits(self) -> u32;

    /// The value of 32 bits, or `None` where they are none.
    fn from_bits(bits: u32) -> Option<Self>;

    /// Whether two values are the same bit for bit; so a NaN is the same as itself.
    fn same(self, other: Self) -> bool {
        self.to_bits() == other.to_bits()
    }

    /// Whether this is the value of cells never written to.
    fn is_default(self) -> bool {
        self.same(Self::default())
    }
}

impl PlaneValue for Cell {
    fn to_bits(self) -> u32 {
        Cell::to_bits(self)
    }

    fn from_bits(bits: u32) -> Option<Cell> {
        Cell::from_bits(bits)
    }
}

impl PlaneValue for u32 {
    fn to_bits(self) -> u32 {
        self
    }

    fn from_bits(bits: u32) -> Option<u32> {
        Some(bits)
    }
}

impl PlaneValue for i32 {
    fn to_bits(self) -> u32 {
        self.cast_unsigned()
    }

    fn from_bits(bits: u32) -> Option<i32> {
        Some(bits.cast_signed())
    }
}

impl PlaneValue for f32 {
    fn to_bits(self) -> u32 {
        f32::to_bits(self)
    }

    fn from_bits(bits: u32) -> Option<f32> {
        Some(f32::from_bits(bits))
    }
}
