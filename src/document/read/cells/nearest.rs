//! The nearest of many colours, by the channel that differs the most.
//!
//! A k-d tree (J. L. Bentley, "Multidimensional Binary Search Trees Used for Associative Searching",
//! Communications of the ACM 18, 1975) in one array: the middle of a part is its root, and what lies
//! before and behind it are the parts below.

/// Colours with their numbers.
#[derive(Clone, Debug)]
pub(super) struct Nearest {
    colors: Vec<([u8; 4], u32)>,
}

impl Nearest {
    /// The colours by their bytes; each is numbered by its place.
    pub(super) fn of(colors: impl Iterator<Item = [u8; 4]>) -> Nearest {
        let mut colors: Vec<([u8; 4], u32)> = colors.zip(0..).collect();
        arrange(&mut colors, 0);
        Nearest { colors }
    }

    /// The number of the nearest colour that is no further off than stated in any channel; of several
    /// as near, the first.
    pub(super) fn find(&self, color: [u8; 4], most: u8) -> Option<usize> {
        let mut best = (most, u32::MAX);
        look(&self.colors, 0, color, &mut best);
        (best.1 != u32::MAX).then_some(best.1 as usize)
    }
}

/// The greatest difference in a channel.
pub(super) fn distance(a: [u8; 4], b: [u8; 4]) -> u8 {
    a.iter().zip(b).map(|(&a, b)| a.abs_diff(b)).max().unwrap_or(0)
}

fn arrange(part: &mut [([u8; 4], u32)], channel: usize) {
    if part.len() < 2 {
        return;
    }
    let middle = part.len() / 2;
    part.select_nth_unstable_by_key(middle, |(color, _)| color[channel]);
    let (before, behind) = part.split_at_mut(middle);
    arrange(before, (channel + 1) % 4);
    arrange(&mut behind[1..], (channel + 1) % 4);
}

fn look(part: &[([u8; 4], u32)], channel: usize, wanted: [u8; 4], best: &mut (u8, u32)) {
    let middle = part.len() / 2;
    let Some(&(color, number)) = part.get(middle) else { return };
    *best = (*best).min((distance(color, wanted), number));
    let (before, behind) = (&part[..middle], &part[middle + 1..]);
    let is_before = wanted[channel] < color[channel];
    let (near, far) = if is_before { (before, behind) } else { (behind, before) };
    look(near, (channel + 1) % 4, wanted, best);
    if wanted[channel].abs_diff(color[channel]) <= best.0 {
        look(far, (channel + 1) % 4, wanted, best);
    }
}
