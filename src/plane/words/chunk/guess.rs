/// Where in a table to look for a value first. To look through the table for each of many values
/// costs eight times as much.
pub(super) struct Guesses<const SLOTS: usize> {
    places: [u8; SLOTS],
}

impl<const SLOTS: usize> Guesses<SLOTS> {
    /// Good guesses for the first values of a table; the others are learned as they come.
    pub(super) fn of(table: &[u32]) -> Self {
        const FIRST: usize = 64;
        let mut guesses = Guesses { places: [0; SLOTS] };
        for (place, value) in table.iter().take(FIRST).enumerate() {
            guesses.learn(*value, place);
        }
        guesses
    }

    #[inline]
    pub(super) fn learn(&mut self, value: u32, place: usize) {
        self.places[slot(value, SLOTS)] = place as u8;
    }

    /// The place of a value, if the table has it and no other value has taken its slot.
    #[inline]
    pub(super) fn place(&self, value: u32) -> usize {
        self.places[slot(value, SLOTS)].into()
    }
}

/// The slot of a value in a table of so many, a power of two. Multiplicative hashing (Knuth, "The
/// Art of Computer Programming", volume 3, 6.4).
#[inline]
pub(super) fn slot(value: u32, slots: usize) -> usize {
    let hash = value.wrapping_mul(0x9e37_79b9);
    (hash >> (32 - slots.trailing_zeros())) as usize
}
