//! What a user would write by hand: strokes, fills and floods on flat grids.

use std::collections::{HashSet, VecDeque};

/// A flat grid of cells with a log of what was overwritten.
pub(crate) struct FlatGrid {
    pub(crate) side: usize,
    pub(crate) cells: Vec<u32>,
}

impl FlatGrid {
    /// Draws straight lines from point to point, and returns what they have overwritten.
    pub(crate) fn stroke(&mut self, points: &[(i32, i32)], value: u32) -> Vec<(u32, u32)> {
        let mut log = Vec::new();
        for ends in points.windows(2) {
            let ((mut x, mut y), (to_x, to_y)) = (ends[0], ends[1]);
            let (width, height) = ((to_x - x).abs(), -(to_y - y).abs());
            let (step_x, step_y) = ((to_x - x).signum(), (to_y - y).signum());
            let mut error = width + height;
            loop {
                let index = y as usize * self.side + x as usize;
                let held = self.cells[index];
                if held != value {
                    log.push((index as u32, held));
                    self.cells[index] = value;
                }
                if (x, y) == (to_x, to_y) {
                    break;
                }
                let twice = 2 * error;
                if twice >= height {
                    error += height;
                    x += step_x;
                }
                if twice <= width {
                    error += width;
                    y += step_y;
                }
            }
        }
        log
    }
}

/// A flat grid of bytes.
pub(crate) struct ByteGrid {
    pub(crate) side: usize,
    pub(crate) cells: Vec<u8>,
}

impl ByteGrid {
    /// Fills the area around a cell that holds the same, run by run (A. R. Smith, "Tint fill", SIGGRAPH
    /// 1979), and returns how many cells it has.
    pub(crate) fn fill_by_spans(&mut self, start: (usize, usize), value: u8) -> u64 {
        let (side, mut count) = (self.side, 0);
        let held = self.cells[start.1 * side + start.0];
        if held == value {
            return 0;
        }
        let mut seeds = vec![start];
        while let Some((x, y)) = seeds.pop() {
            let row = &mut self.cells[y * side..(y + 1) * side];
            if row[x] != held {
                continue;
            }
            let (mut left, mut right) = (x, x + 1);
            while left > 0 && row[left - 1] == held {
                left -= 1;
            }
            while right < side && row[right] == held {
                right += 1;
            }
            row[left..right].fill(value);
            count += (right - left) as u64;
            let others = [y.checked_sub(1), (y + 1 < side).then_some(y + 1)];
            for other in others.into_iter().flatten() {
                let row = &self.cells[other * side..(other + 1) * side];
                let mut x = left;
                while x < right {
                    if row[x] == held {
                        seeds.push((x, other));
                        while x < right && row[x] == held {
                            x += 1;
                        }
                    }
                    x += 1;
                }
            }
        }
        count
    }

    /// Fills the same area cell by cell, with a queue and a set of those that were seen.
    pub(crate) fn fill_by_queue(&mut self, start: (usize, usize), value: u8) -> u64 {
        let side = self.side as i32;
        let held = self.cells[start.1 * self.side + start.0];
        let start = (start.0 as i32, start.1 as i32);
        let mut seen = HashSet::from([start]);
        let mut queue = VecDeque::from([start]);
        while let Some((x, y)) = queue.pop_front() {
            for (x, y) in [(x - 1, y), (x + 1, y), (x, y - 1), (x, y + 1)] {
                let is_inside = (0..side).contains(&x) && (0..side).contains(&y);
                if is_inside && self.cells[(y * side + x) as usize] == held && seen.insert((x, y)) {
                    queue.push_back((x, y));
                }
            }
        }
        for (x, y) in &seen {
            self.cells[(y * side + x) as usize] = value;
        }
        seen.len() as u64
    }
}

/// Changed cells one by one, each with its place and its value, packed as a whole.
pub(crate) struct ChangeList;

impl ChangeList {
    pub(crate) fn to_bytes(list: &[(i32, i32, u32)]) -> Vec<u8> {
        let mut bytes = Vec::with_capacity(list.len() * 12);
        for (x, y, value) in list {
            bytes.extend(x.to_le_bytes());
            bytes.extend(y.to_le_bytes());
            bytes.extend(value.to_le_bytes());
        }
        lz4_flex::compress_prepend_size(&bytes)
    }

    pub(crate) fn from_bytes(bytes: &[u8]) -> Vec<(i32, i32, u32)> {
        let bytes = lz4_flex::decompress_size_prepended(bytes).expect("the bytes are sound");
        let (numbers, _) = bytes.as_chunks::<4>();
        let number = |at: usize| u32::from_le_bytes(numbers[at]);
        (0..numbers.len() / 3)
            .map(|at| (number(at * 3) as i32, number(at * 3 + 1) as i32, number(at * 3 + 2)))
            .collect()
    }
}
