//! The cells that a pixel of a minimap shows, and their colours added up.

/// Adds up pixels in full size, channel by channel.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Sums {
    pub(super) channels: [u64; 4],
    pub(super) count: u64,
}

impl Sums {
    pub(super) fn add(&mut self, other: Sums) {
        self.count += other.count;
        self.channels.iter_mut().zip(other.channels).for_each(|(sum, more)| *sum += more);
    }

    pub(super) fn add_pixels(&mut self, pixels: &[[u8; 4]]) {
        self.count += pixels.len() as u64;
        // As many as fit the sum of a channel in 32 bits.
        for pixels in pixels.chunks(1 << 16) {
            let mut sums = [0_u32; 4];
            for pixel in pixels {
                sums.iter_mut().zip(pixel).for_each(|(sum, &channel)| *sum += u32::from(channel));
            }
            self.channels.iter_mut().zip(sums).for_each(|(sum, more)| *sum += u64::from(more));
        }
    }

    /// The mean of the channels over at least this many pixels.
    pub(super) fn mean(self, count: u64) -> [u8; 4] {
        let count = count.max(self.count).max(1);
        self.channels.map(|sum| ((sum + count / 2) / count) as u8)
    }
}

/// The scale of a [`Minimap`](crate::Minimap).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum MinimapScale {
    /// One pixel for each cell.
    Cells,
    /// One pixel for this many world units in both directions: 2 is half the size, 64 the most.
    Part(u32),
}

/// The way in which pixels of a [`Minimap`](crate::Minimap) are found from those of the map in full
/// size.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Sampling {
    /// The mean of all.
    #[default]
    Average,
    /// The one in the middle.
    Nearest,
}
