//! What a plane holds in a tract: taken, compared and brought back as a whole.

use std::borrow::Cow;

use triomphe::Arc;

use super::table::{CHUNKS, Held, Tract};
use super::{Absence, Chunk, Stamp, Words};
use crate::units::{CellPos, ChunkPos, TractPos};

/// What is held in a tract, shared with the plane it was taken from.
#[derive(Clone, Debug)]
pub(crate) struct TractContent(Content);

#[derive(Clone, Debug)]
enum Content {
    Uniform(u32),
    Absent(Absence),
    Chunks(Arc<Tract>),
    /// Single cells; all others are 0.
    Lone(Vec<(CellPos, u32)>),
}

impl TractContent {
    /// A chunk of it.
    pub(crate) fn chunk(&self, pos: ChunkPos) -> Cow<'_, Chunk> {
        match &self.0 {
            Content::Uniform(value) => Cow::Owned(Chunk::Uniform(*value)),
            Content::Absent(why) => Cow::Owned(Chunk::Absent(*why)),
            Content::Chunks(tract) => Cow::Borrowed(tract.chunk(pos.place_in_tract())),
            Content::Lone(cells) => {
                let mut chunk = Chunk::default();
                for (cell, value) in cells.iter().filter(|(cell, _)| cell.chunk() == pos) {
                    chunk.set(cell.index_in_chunk(), *value);
                }
                Cow::Owned(chunk)
            }
        }
    }

    /// What all of its chunks are, where they hold one value or none, in whatever form.
    pub(crate) fn one(&self) -> Option<Chunk> {
        match &self.0 {
            Content::Uniform(value) => Some(Chunk::Uniform(*value)),
            Content::Absent(why) => Some(Chunk::Absent(*why)),
            Content::Chunks(tract) => {
                let one = match tract.chunk(0) {
                    Chunk::Absent(why) => Chunk::Absent(*why),
                    chunk => Chunk::Uniform(chunk.get(0).here()?),
                };
                tract.chunks().iter().all(|chunk| chunk.same(&one)).then_some(one)
            }
            Content::Lone(cells) => {
                cells.iter().all(|(_, value)| *value == 0).then_some(Chunk::Uniform(0))
            }
        }
    }

    /// A tract in which all chunks hold one value, or none.
    pub(crate) fn of_one(chunk: Chunk) -> TractContent {
        TractContent(match chunk {
            Chunk::Uniform(value) => Content::Uniform(value),
            Chunk::Absent(why) => Content::Absent(why),
            other => Content::Chunks(Arc::new(Tract::uniform(&other, Stamp::NONE))),
        })
    }

    /// A tract of chunks, row by row; those that are not given hold 0.
    pub(crate) fn of_chunks(mut chunks: Vec<Chunk>) -> TractContent {
        chunks.resize_with(CHUNKS, Chunk::default);
        let tract = Tract::of_chunks(|place| std::mem::take(&mut chunks[place]), Stamp::NONE);
        TractContent(Content::Chunks(Arc::new(tract)))
    }

    /// What it takes where no plane shares it.
    pub(crate) fn bytes(&self) -> usize {
        match &self.0 {
            Content::Uniform(_) | Content::Absent(_) => 0,
            Content::Chunks(tract) => {
                let chunks = tract.chunks().iter().map(|chunk| chunk.held_bytes().0);
                size_of::<Tract>() + chunks.sum::<usize>()
            }
            Content::Lone(cells) => size_of_val(&cells[..]),
        }
    }

    /// Puts another chunk in the place of one.
    pub(crate) fn put_chunk(&mut self, at: TractPos, pos: ChunkPos, chunk: Chunk) {
        let mut tract = match &self.0 {
            Content::Chunks(tract) => Tract::clone(tract),
            _ => Tract::of_chunks(|place| self.chunk(at.chunk_at(place)).into_owned(), Stamp::NONE),
        };
        tract.put_form(pos.place_in_tract(), chunk);
        self.0 = Content::Chunks(Arc::new(tract));
    }

    /// The same with other values: `value` gives another one for each.
    fn mapped(&self, at: TractPos, value: &impl Fn(u32) -> u32) -> TractContent {
        TractContent(match &self.0 {
            Content::Uniform(held) => Content::Uniform(value(*held)),
            Content::Absent(why) => Content::Absent(*why),
            Content::Chunks(tract) => {
                let chunk = |place| tract.chunk(place).mapped(value);
                Content::Chunks(Arc::new(Tract::of_chunks(chunk, Stamp::NONE)))
            }
            Content::Lone(_) if value(0) != 0 => {
                let chunk = |place| self.chunk(at.chunk_at(place)).mapped(value);
                Content::Chunks(Arc::new(Tract::of_chunks(chunk, Stamp::NONE)))
            }
            Content::Lone(cells) => {
                Content::Lone(cells.iter().map(|(cell, held)| (*cell, value(*held))).collect())
            }
        })
    }

    /// The first chunk in which two differ.
    pub(crate) fn difference(&self, other: &TractContent, at: TractPos) -> Option<ChunkPos> {
        match (&self.0, &other.0) {
            (Content::Uniform(a), Content::Uniform(b)) if a == b => None,
            (Content::Absent(a), Content::Absent(b)) if a == b => None,
            (Content::Chunks(a), Content::Chunks(b)) if Arc::ptr_eq(a, b) => None,
            _ => {
                let mut chunks = (0..CHUNKS).map(|place| at.chunk_at(place));
                chunks.find(|pos| !self.chunk(*pos).same(&other.chunk(*pos)))
            }
        }
    }
}

impl Words {
    /// The same plane with other values: `value` gives another one for each, and 0 for 0.
    pub(crate) fn mapped(&self, value: impl Fn(u32) -> u32) -> Words {
        let (mut mapped, stamp) = (Words::new(), Stamp::next());
        for at in self.all_tracts() {
            mapped.put_content(at, &self.tract_content(at).mapped(at, &value), stamp);
        }
        mapped
    }

    /// What a tract holds.
    pub(crate) fn tract_content(&self, at: TractPos) -> TractContent {
        let (leaf, hash) = self.root.leaf(at);
        TractContent(match leaf.first(at, hash).map(|entry| &entry.held) {
            None => Content::Uniform(0),
            Some(Held::Uniform(value, _)) => Content::Uniform(*value),
            Some(Held::Absent(why, _)) => Content::Absent(*why),
            Some(Held::Chunks(tract)) => Content::Chunks(Arc::clone(tract)),
            Some(Held::Lone(..)) => Content::Lone(
                leaf.of_tract(at, hash)
                    .filter_map(|entry| match entry.held {
                        Held::Lone(value, _) => Some((entry.cell, value)),
                        _ => None,
                    })
                    .collect(),
            ),
        })
    }

    /// Makes a tract hold something else. Chunks that hold it already keep their stamp.
    pub(crate) fn put_content(&mut self, at: TractPos, content: &TractContent, stamp: Stamp) {
        match &content.0 {
            Content::Uniform(value) => self.fill_tract(at, *value, stamp),
            Content::Absent(why) => self.set_tract_absent(at, *why),
            _ => {
                let mut tract =
                    Tract::of_chunks(|place| content.chunk(at.chunk_at(place)).into_owned(), stamp);
                for place in 0..CHUNKS {
                    let pos = at.chunk_at(place);
                    if self.chunk(pos).same(tract.chunk(place)) {
                        tract.put_stamp(place, self.chunk_stamp(pos));
                    }
                }
                self.may_be_absent |=
                    tract.chunks().iter().any(|chunk| matches!(chunk, Chunk::Absent(_)));
                self.replace_tract(at, |_| Held::Chunks(Arc::new(tract)), stamp);
            }
        }
    }
}
