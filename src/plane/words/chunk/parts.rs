//! Cells that lie one behind the other, cut by the words of a packed chunk they lie in.

use std::ops::Range;

/// The cells before the first whole word, the numbers of the whole words, and the cells behind the
/// last.
pub(super) struct Parts {
    pub(super) before: Range<usize>,
    pub(super) words: Range<usize>,
    pub(super) behind: Range<usize>,
}

impl Parts {
    #[inline]
    pub(super) fn of(cells: Range<usize>, in_word: usize) -> Parts {
        let first = cells.start.next_multiple_of(in_word).min(cells.end);
        let last = (cells.end / in_word * in_word).max(first);
        let words = first / in_word..last / in_word;
        Parts { before: cells.start..first, words, behind: last..cells.end }
    }

    /// The parts of as many cells as there are values, with the values of each.
    #[inline]
    pub(super) fn of_values(start: usize, values: &[u32], in_word: usize) -> (Parts, [&[u32]; 3]) {
        let parts = Parts::of(start..start + values.len(), in_word);
        let (before, rest) = values.split_at(parts.before.len());
        let (words, behind) = rest.split_at(parts.words.len() * in_word);
        (parts, [before, words, behind])
    }
}
