use crate::units::ChunkPos;

/// The result of a read: a value, or that the chunk is not in memory, or that it is damaged.
///
/// Not here is not empty: what lies in an unloaded chunk is unknown. A map that is not paged never
/// gives the last two.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Presence<T> {
    /// The value.
    Here(T),
    /// The chunk has not been loaded.
    NotHere,
    /// The chunk was found damaged when it was to be loaded.
    Damaged,
}

/// The reason why a chunk holds no values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Absence {
    /// It has not been loaded.
    NotHere,
    /// It was found damaged when it was to be loaded.
    Damaged,
}

/// A chunk that is needed is not here.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{chunk} is {}", match why { Absence::NotHere => "not loaded", Absence::Damaged => "damaged" })]
pub struct AbsentError {
    /// Which chunk.
    pub chunk: ChunkPos,
    /// Why it is not here.
    pub why: Absence,
}

impl<T> Presence<T> {
    /// Returns the value, or `None` where it is not here or damaged.
    ///
    /// ```
    /// use sturdy_quilt::Presence;
    ///
    /// assert_eq!(Presence::Here(3).here(), Some(3));
    /// assert_eq!(Presence::<i32>::NotHere.here(), None);
    /// ```
    #[inline]
    pub fn here(self) -> Option<T> {
        match self {
            Presence::Here(value) => Some(value),
            Presence::NotHere | Presence::Damaged => None,
        }
    }

    /// Applies a function to the value, if it is here.
    #[inline]
    pub fn map<U>(self, change: impl FnOnce(T) -> U) -> Presence<U> {
        match self {
            Presence::Here(value) => Presence::Here(change(value)),
            Presence::NotHere => Presence::NotHere,
            Presence::Damaged => Presence::Damaged,
        }
    }

    pub(crate) fn or_absent(self, chunk: ChunkPos) -> Result<T, AbsentError> {
        match self {
            Presence::Here(value) => Ok(value),
            Presence::NotHere => Err(AbsentError { chunk, why: Absence::NotHere }),
            Presence::Damaged => Err(AbsentError { chunk, why: Absence::Damaged }),
        }
    }
}

impl<T> From<Absence> for Presence<T> {
    fn from(why: Absence) -> Presence<T> {
        match why {
            Absence::NotHere => Presence::NotHere,
            Absence::Damaged => Presence::Damaged,
        }
    }
}
