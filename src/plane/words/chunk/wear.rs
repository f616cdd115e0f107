use super::CELLS;
use super::narrow::Room;

/// When to look whether a narrower form would do for a chunk.
///
/// Whenever as many cells were written as it has, for one value in all of them: rows that give it
/// one are done with it then. For another table after four times as many, and after twice as many
/// each time it was narrowed: so what is written anew all the time is not remade all the time.
#[derive(Clone, Copy, Debug)]
pub(super) struct Wear {
    written: u16,
    patience: u16,
}

impl Wear {
    pub(super) const NONE: Wear = Wear { written: 0, patience: 4 * CELLS as u16 };

    /// Counts cells as written, and says for what it is time to look.
    #[inline]
    pub(super) fn add(&mut self, cells: usize) -> Option<Room> {
        let before = self.written;
        self.written = before.saturating_add(cells as u16);
        if usize::from(before) / CELLS == usize::from(self.written) / CELLS {
            return None;
        }
        if self.written < self.patience {
            return Some(Room::ForNothing);
        }
        self.written = 0;
        Some(Room::ForMore)
    }

    /// Of a chunk that was just narrowed.
    #[must_use]
    pub(super) const fn narrowed(self) -> Wear {
        const MAX: u16 = 8 * CELLS as u16;
        let patience = if self.patience < MAX { self.patience * 2 } else { MAX };
        Wear { written: 0, patience }
    }
}
