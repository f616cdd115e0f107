//! Sets of levels of the order of drawing.

use std::ops::Range;

/// Levels, a bit for each. A map has up to some ten thousand of them, mostly a few.
#[derive(Clone, Debug, Default)]
pub(super) struct LevelSet {
    words: Vec<u64>,
}

impl LevelSet {
    const IN_WORD: usize = u64::BITS as usize;

    pub(super) fn clear(&mut self) {
        self.words.clear();
    }

    #[inline]
    pub(super) fn insert(&mut self, level: u16) {
        let (word, bit) = (usize::from(level) / Self::IN_WORD, usize::from(level) % Self::IN_WORD);
        if word >= self.words.len() {
            self.words.resize(word + 1, 0);
        }
        self.words[word] |= 1 << bit;
    }

    /// Adds all levels of another set.
    pub(super) fn add(&mut self, other: &LevelSet) {
        self.words.resize(self.words.len().max(other.words.len()), 0);
        for (own, others) in self.words.iter_mut().zip(&other.words) {
            *own |= others;
        }
    }

    /// Becomes a copy of another set, and keeps its memory.
    pub(super) fn copy(&mut self, other: &LevelSet) {
        self.words.clone_from(&other.words);
    }

    /// Whether there is a level from the first up to, but not with, the second.
    pub(super) fn has_any(&self, levels: Range<u16>) -> bool {
        let (from, to) = (usize::from(levels.start), usize::from(levels.end));
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
        fn a_set_of_levels_is_a_set_of_numbers(
            levels in prop::collection::vec(0_u16..400, 0..6),
            more in prop::collection::vec(0_u16..400, 0..6),
            ranges in prop::collection::vec((0_u16..400, 0_u16..400), 20),
        ) {
            let set_of = |levels: &[u16]| {
                let mut set = LevelSet::default();
                levels.iter().for_each(|level| set.insert(*level));
                set
            };
            let (mut set, mut model) = (LevelSet::default(), BTreeSet::new());
            set.copy(&set_of(&levels));
            set.add(&set_of(&more));
            model.extend(levels.iter().chain(&more));
            for (from, to) in ranges {
                let there = model.iter().any(|level| (from..to).contains(level));
                prop_assert_eq!(set.has_any(from..to), there, "{}..{}", from, to);
            }
            set.clear();
            prop_assert!(!set.has_any(0..u16::MAX));
        }
    }
}
