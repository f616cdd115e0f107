use super::CELLS;

/// When to look whether a narrower form would do for a chunk.
///
/// After as many written cells as it has; after twice as many each time it was narrowed, so that what
/// is written anew all the time is not remade all the time.
#[derive(Clone, Copy, Debug)]
pub(super) struct Wear {
    written: u16,
    patience: u16,
}

impl Wear {
    pub(super) const NONE: Wear = Wear { written: 0, patience: CELLS as u16 };

    /// Counts cells as written, and says whether it is time to look.
    #[inline]
    pub(super) fn add(&mut self, cells: usize) -> bool {
        self.written = self.written.saturating_add(cells as u16);
        let is_time = self.written >= self.patience;
        if is_time {
            self.written = 0;
        }
        is_time
    }

    /// Of a chunk that was just narrowed.
    #[must_use]
    pub(super) const fn narrowed(self) -> Wear {
        const MOST: u16 = 8 * CELLS as u16;
        let patience = if self.patience < MOST { self.patience * 2 } else { MOST };
        Wear { written: 0, patience }
    }
}
