//! Values and words take each other's place in memory.

use bytemuck::TransparentWrapper;
use bytemuck::allocation::{TransparentWrapperAlloc, cast_vec};

use crate::tile::Cell;

/// A value of 32 bits, of which a plane keeps the bits alone. Public in name only, so that no other
/// crate can add a kind of value.
pub trait Word: Sized {
    /// The value of a word of a plane, which holds none but those of values.
    fn of_word(word: u32) -> Self;
    fn words(values: &[Self]) -> &[u32];
    fn words_mut(values: &mut [Self]) -> &mut [u32];
    fn of_words(words: &[u32]) -> &[Self];
    fn into_words(values: Vec<Self>) -> Vec<u32>;
    fn of_words_vec(words: Vec<u32>) -> Vec<Self>;
}

impl Word for Cell {
    #[inline]
    fn of_word(word: u32) -> Cell {
        Cell::wrap(word)
    }

    #[inline]
    fn words(values: &[Cell]) -> &[u32] {
        Cell::peel_slice(values)
    }

    #[inline]
    fn words_mut(values: &mut [Cell]) -> &mut [u32] {
        Cell::peel_slice_mut(values)
    }

    #[inline]
    fn of_words(words: &[u32]) -> &[Cell] {
        Cell::wrap_slice(words)
    }

    fn into_words(values: Vec<Cell>) -> Vec<u32> {
        Cell::peel_vec(values)
    }

    fn of_words_vec(words: Vec<u32>) -> Vec<Cell> {
        Cell::wrap_vec(words)
    }
}

/// Numbers of which all 32 bits are a value.
macro_rules! number {
    ($value:ty, $of_word:expr) => {
        impl Word for $value {
            #[inline]
            fn of_word(word: u32) -> $value {
                $of_word(word)
            }

            #[inline]
            fn words(values: &[$value]) -> &[u32] {
                bytemuck::cast_slice(values)
            }

            #[inline]
            fn words_mut(values: &mut [$value]) -> &mut [u32] {
                bytemuck::cast_slice_mut(values)
            }

            #[inline]
            fn of_words(words: &[u32]) -> &[$value] {
                bytemuck::cast_slice(words)
            }

            fn into_words(values: Vec<$value>) -> Vec<u32> {
                cast_vec(values)
            }

            fn of_words_vec(words: Vec<u32>) -> Vec<$value> {
                cast_vec(words)
            }
        }
    };
}

number!(u32, |word| word);
number!(i32, u32::cast_signed);
number!(f32, f32::from_bits);
