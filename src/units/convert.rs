//! Conversions to and from the points and vectors of `glam` and `mint`, behind features of their
//! names. Cells saturate at their limits, as [`CellPos::new`] does.

use super::{CellOffset, CellPos, ScreenPoint, ScreenSize, ScreenVec, WorldPoint, WorldVec};

/// Conversions in both directions: how ours is made of two numbers, and which two it has.
macro_rules! both_ways {
    ($ours:ty, $theirs:ty, $make:expr, $numbers:expr) => {
        impl From<$theirs> for $ours {
            fn from(value: $theirs) -> $ours {
                $make(value.x, value.y)
            }
        }

        impl From<$ours> for $theirs {
            fn from(value: $ours) -> $theirs {
                let numbers = $numbers;
                <$theirs>::from(numbers(value))
            }
        }
    };
}

macro_rules! all_both_ways {
    ($world:ty, $world_way:ty, $screen:ty, $screen_way:ty, $size:ty, $cell:ty, $cell_way:ty) => {
        both_ways!(WorldPoint, $world, WorldPoint::new, |p: WorldPoint| [p.x, p.y]);
        both_ways!(WorldVec, $world_way, WorldVec::new, |v: WorldVec| [v.x, v.y]);
        both_ways!(ScreenPoint, $screen, ScreenPoint::new, |p: ScreenPoint| [p.x, p.y]);
        both_ways!(ScreenVec, $screen_way, |x, y| ScreenVec { x, y }, |v: ScreenVec| [v.x, v.y]);
        both_ways!(ScreenSize, $size, ScreenSize::new, |s: ScreenSize| [s.width, s.height]);
        both_ways!(CellPos, $cell, CellPos::new, |c: CellPos| [c.x(), c.y()]);
        both_ways!(CellOffset, $cell_way, CellOffset::new, |o: CellOffset| [o.x, o.y]);
    };
}

#[cfg(feature = "glam")]
all_both_ways!(
    glam::DVec2,
    glam::DVec2,
    glam::Vec2,
    glam::Vec2,
    glam::UVec2,
    glam::IVec2,
    glam::IVec2
);

#[cfg(feature = "mint")]
all_both_ways!(
    mint::Point2<f64>,
    mint::Vector2<f64>,
    mint::Point2<f32>,
    mint::Vector2<f32>,
    mint::Vector2<u32>,
    mint::Point2<i32>,
    mint::Vector2<i32>
);
