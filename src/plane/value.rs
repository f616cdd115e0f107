use crate::tile::Cell;

/// A 32-bit value that a [`Plane`](super::Plane) can hold: [`Cell`], `u32`, `i32` or `f32`.
///
/// Sealed: nothing else can be one.
pub trait Value: Copy + Default + std::fmt::Debug + Send + Sync + 'static + sealed::Word {
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

/// Values and words take each other's place in memory.
pub(crate) mod sealed {
    use bytemuck::TransparentWrapper;
    use bytemuck::allocation::{TransparentWrapperAlloc, cast_vec};

    use crate::tile::Cell;

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
}

impl Value for Cell {
    fn to_bits(self) -> u32 {
        Cell::to_bits(self)
    }

    fn from_bits(bits: u32) -> Option<Cell> {
        Cell::from_bits(bits)
    }
}

impl Value for u32 {
    fn to_bits(self) -> u32 {
        self
    }

    fn from_bits(bits: u32) -> Option<u32> {
        Some(bits)
    }
}

impl Value for i32 {
    fn to_bits(self) -> u32 {
        self.cast_unsigned()
    }

    fn from_bits(bits: u32) -> Option<i32> {
        Some(bits.cast_signed())
    }
}

impl Value for f32 {
    fn to_bits(self) -> u32 {
        f32::to_bits(self)
    }

    fn from_bits(bits: u32) -> Option<f32> {
        Some(f32::from_bits(bits))
    }
}
