//! Sets of slots of the order of drawing.

use std::ops::Range;

/// Slots, a bit for each. A map has up to some ten thousand of them, mostly a few.
#[derive(Clone, Debug, Default)]
pub(super) struct SlotSet {
    words: Vec<u64>,
}

impl SlotSet {
    const IN_WORD: usize = u64::BITS as usize;

    pub(super) fn clear(&mut self) {
        self.words.clear();
    }

    #[inline]
    pub(super) fn insert(&mut self, slot: u16) {
        let (word, bit) = (usize::from(slot) / Self::IN_WORD, usize::from(slot) % Self::IN_WORD);
        if word >= self.words.len() {
            self.words.resize(word + 1, 0);
        }
        self.words[word] |= 1 << bit;
    }

    /// Adds all slots of another set.
    pub(super) fn add(&mut self, other: &SlotSet) {
        self.words.resize(self.words.len().max(other.words.len()), 0);
        for (own, others) in self.words.iter_mut().zip(&other.words) {
            *own |= others;
        }
    }

    /// Becomes a copy of another set, and keeps its memory.
    pub(super) fn copy(&mut self, other: &SlotSet) {
        self.words.clone_from(&other.words);
    }

    /// Whether there is a slot from the first up to, but not with, the second.
    pub(super) fn has_any(&self, slots: Range<u16>) -> bool {
        let (from, to) = (usize::from(slots.start), usize::from(slots.end));
        let words = self.words.iter().enumerate().skip(from / Self::IN_WORD);
        words.take_while(|(at, _)| at * Self::IN_WORD < to).any(|(at, word)| {
            let first = from.saturating_sub(at * Self::IN_WORD);
            let behind = (to - at * Self::IN_WORD).min(Self::IN_WORD);
            // Neither shift is by a whole word: `first` lies in the word, and `behind` is over 0.
            let wanted = (u64::MAX << first) & (u64::MAX >> (Self::IN_WORD - behind));
            first < behind && word & wanted != 0
        })
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_set_of_slots_is_a_set_of_numbers(
            slots in prop::collection::vec(0_u16..400, 0..6),
            more in prop::collection::vec(0_u16..400, 0..6),
            ranges in prop::collection::vec((0_u16..400, 0_u16..400), 20),
        ) {
            let set_of = |slots: &[u16]| {
                let mut set = SlotSet::default();
                slots.iter().for_each(|slot| set.insert(*slot));
                set
            };
            let (mut set, mut model) = (SlotSet::default(), BTreeSet::new());
            set.copy(&set_of(&slots));
            set.add(&set_of(&more));
            model.extend(slots.iter().chain(&more));
            for (from, to) in ranges {
                let there = model.iter().any(|slot| (from..to).contains(slot));
                prop_assert_eq!(set.has_any(from..to), there, "{}..{}", from, to);
            }
            set.clear();
            prop_assert!(!set.has_any(0..u16::MAX));
        }
    }
}
