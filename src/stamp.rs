//! Stamps: which state of a thing another thing was derived from.

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
