//! Stamps: numbers that mark the state of a thing from which another was derived.

use std::sync::atomic::{AtomicU64, Ordering};

/// A number that marks a change.
///
/// No two changes in a process have the same stamp, also not in different clones of a map, so what
/// was derived from a thing is up to date exactly when the thing still has the same stamp. Compare
/// by equality; later changes have greater stamps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Stamp(u64);

impl std::fmt::Display for Stamp {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.fmt(f)
    }
}

/// When a thing that handles point to was added: what tells it from all others, also from those of
/// other maps and clones. Two things are compared without it.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Birth(pub(crate) Stamp);

impl Birth {
    /// That of a thing that is added now.
    pub(crate) fn now() -> Birth {
        Birth(Stamp::next())
    }
}

impl PartialEq for Birth {
    fn eq(&self, _other: &Birth) -> bool {
        true
    }
}

/// Where a handle found its thing first. Handles are compared and hashed without it: the thing may have moved
/// in its list since.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Hint(pub(crate) u16);

impl PartialEq for Hint {
    fn eq(&self, _other: &Hint) -> bool {
        true
    }
}

impl Eq for Hint {}

impl PartialOrd for Hint {
    fn partial_cmp(&self, other: &Hint) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Hint {
    fn cmp(&self, _other: &Hint) -> std::cmp::Ordering {
        std::cmp::Ordering::Equal
    }
}

impl std::hash::Hash for Hint {
    fn hash<H: std::hash::Hasher>(&self, _state: &mut H) {}
}

impl Stamp {
    /// The stamp of what was never changed.
    pub const NONE: Stamp = Stamp(0);

    /// A stamp that nothing has had before.
    pub(crate) fn next() -> Stamp {
        // The only global of the library. Only uniqueness matters, so no ordering is needed; a
        // u64 does not run out.
        static LAST: AtomicU64 = AtomicU64::new(0);
        Stamp(LAST.fetch_add(1, Ordering::Relaxed) + 1)
    }
}
