//! Kinds of value that are known only at run time.

use super::value::PlaneValue;

/// The kinds of value that a value layer can hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ValueKind {
    /// `u32`.
    U32,
    /// `i32`.
    I32,
    /// `f32`.
    F32,
}

impl ValueKind {
    /// Returns the word for it in files.
    pub const fn name(self) -> &'static str {
        match self {
            ValueKind::U32 => "u32",
            ValueKind::I32 => "i32",
            ValueKind::F32 => "f32",
        }
    }
}

/// A value of the game's own that a value layer can hold: `u32`, `i32` or `f32`.
///
/// Sealed, as [`PlaneValue`] is.
pub trait OwnValue: PlaneValue + PartialOrd {
    /// Which kind it is.
    const KIND: ValueKind;

    /// Returns this value with a number added to it, which may be negative: rounded to the nearest whole
    /// number where the kind has only those, and held within its limits.
    #[must_use]
    fn plus(self, amount: f64) -> Self;
}

impl OwnValue for u32 {
    const KIND: ValueKind = ValueKind::U32;

    fn plus(self, amount: f64) -> u32 {
        (f64::from(self) + amount).round() as u32
    }
}

impl OwnValue for i32 {
    const KIND: ValueKind = ValueKind::I32;

    fn plus(self, amount: f64) -> i32 {
        (f64::from(self) + amount).round() as i32
    }
}

impl OwnValue for f32 {
    const KIND: ValueKind = ValueKind::F32;

    fn plus(self, amount: f64) -> f32 {
        (f64::from(self) + amount) as f32
    }
}
