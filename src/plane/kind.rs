//! Planes of the game's own values, whose kind is known only at run time.

use super::{Plane, Value};

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
    /// The word for it in files.
    pub const fn name(self) -> &'static str {
        match self {
            ValueKind::U32 => "u32",
            ValueKind::I32 => "i32",
            ValueKind::F32 => "f32",
        }
    }
}

/// Something that is another type for each kind of value: a plane, the changes of one.
pub(crate) trait Family {
    type Of<V: Value>;
}

/// One thing of a family, of any kind.
pub(crate) enum PerKind<F: Family> {
    U32(F::Of<u32>),
    I32(F::Of<i32>),
    F32(F::Of<f32>),
}

/// Does the same with a [`PerKind`] of whichever kind.
macro_rules! for_each_kind {
    ($any:expr, $held:ident => $done:expr) => {
        match $any {
            $crate::plane::PerKind::U32($held) => $done,
            $crate::plane::PerKind::I32($held) => $done,
            $crate::plane::PerKind::F32($held) => $done,
        }
    };
}
pub(crate) use for_each_kind;

impl<F: Family> PerKind<F> {
    pub(crate) const fn kind(&self) -> ValueKind {
        match self {
            PerKind::U32(_) => ValueKind::U32,
            PerKind::I32(_) => ValueKind::I32,
            PerKind::F32(_) => ValueKind::F32,
        }
    }
}

/// Planes.
#[derive(Debug)]
pub(crate) struct Planes;

impl Family for Planes {
    type Of<V: Value> = Plane<V>;
}

impl Clone for PerKind<Planes> {
    fn clone(&self) -> PerKind<Planes> {
        match self {
            PerKind::U32(plane) => PerKind::U32(plane.clone()),
            PerKind::I32(plane) => PerKind::I32(plane.clone()),
            PerKind::F32(plane) => PerKind::F32(plane.clone()),
        }
    }
}

impl PartialEq for PerKind<Planes> {
    fn eq(&self, other: &PerKind<Planes>) -> bool {
        match (self, other) {
            (PerKind::U32(a), PerKind::U32(b)) => a == b,
            (PerKind::I32(a), PerKind::I32(b)) => a == b,
            (PerKind::F32(a), PerKind::F32(b)) => a == b,
            _ => false,
        }
    }
}

impl PerKind<Planes> {
    pub(crate) fn empty(kind: ValueKind) -> PerKind<Planes> {
        match kind {
            ValueKind::U32 => PerKind::U32(Plane::new()),
            ValueKind::I32 => PerKind::I32(Plane::new()),
            ValueKind::F32 => PerKind::F32(Plane::new()),
        }
    }
}

/// A value of the game's own that a value layer can hold: `u32`, `i32` or `f32`.
///
/// Sealed, as [`Value`] is.
pub trait OwnValue: Value + sealed::Pick {
    /// Which kind it is.
    const KIND: ValueKind;
}

mod sealed {
    use super::{Family, PerKind, Value};

    /// The one of its own kind among things of any kind.
    #[allow(private_bounds, private_interfaces, reason = "sealed: nobody outside can name it")]
    pub trait Pick: Value {
        fn pick<F: Family>(any: &PerKind<F>) -> Option<&F::Of<Self>>;
        fn pick_mut<F: Family>(any: &mut PerKind<F>) -> Option<&mut F::Of<Self>>;
        fn wrap<F: Family>(held: F::Of<Self>) -> PerKind<F>;
    }
}

macro_rules! own_value {
    ($value:ty, $kind:ident) => {
        impl OwnValue for $value {
            const KIND: ValueKind = ValueKind::$kind;
        }

        #[allow(private_bounds, private_interfaces, reason = "sealed: nobody outside can name it")]
        impl sealed::Pick for $value {
            fn pick<F: Family>(any: &PerKind<F>) -> Option<&F::Of<$value>> {
                match any {
                    PerKind::$kind(held) => Some(held),
                    _ => None,
                }
            }

            fn pick_mut<F: Family>(any: &mut PerKind<F>) -> Option<&mut F::Of<$value>> {
                match any {
                    PerKind::$kind(held) => Some(held),
                    _ => None,
                }
            }

            fn wrap<F: Family>(held: F::Of<$value>) -> PerKind<F> {
                PerKind::$kind(held)
            }
        }
    };
}

own_value!(u32, U32);
own_value!(i32, I32);
own_value!(f32, F32);
