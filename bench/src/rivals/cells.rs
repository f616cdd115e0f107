//! Cells in a hash map of chunks, the first thing people write when a flat array is too large.

use std::collections::HashMap;

/// Full chunks of 64 × 64 by place.
#[derive(Debug, Default)]
pub(crate) struct ChunkMap {
    chunks: HashMap<(i32, i32), Box<[u32; 4096]>>,
}

impl ChunkMap {
    pub(crate) fn set(&mut self, x: i32, y: i32, value: u32) {
        let chunk = self.chunks.entry((x >> 6, y >> 6)).or_insert_with(|| Box::new([0; 4096]));
        chunk[((y & 63) << 6 | x & 63) as usize] = value;
    }

    pub(crate) fn get(&self, x: i32, y: i32) -> u32 {
        let chunk = self.chunks.get(&(x >> 6, y >> 6));
        chunk.map_or(0, |chunk| chunk[((y & 63) << 6 | x & 63) as usize])
    }
}
