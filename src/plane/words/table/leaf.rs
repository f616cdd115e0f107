//! A short list of tracts, found by their hash.

use std::borrow::Cow;

use triomphe::Arc;

use super::entry::{Entry, Held, MAX_LONE};
use super::hash::Hash;
use super::tract::Tract;
use crate::plane::words::chunk::Chunk;
use crate::plane::words::chunk::{Presence, Word};
use crate::stamp::Stamp;
use crate::units::{CellPos, ChunkPos, TractPos};

/// Entries in the order in which they came, and a hash table of their numbers with open addressing
/// (Knuth, "The Art of Computer Programming", volume 3, 6.4): so an entry takes its own size and
/// not that of the free room that a hash table needs.
#[derive(Clone, Debug)]
#[repr(C)]
pub(crate) struct Leaf {
    entries: Vec<Entry>,
    /// How often a hash was asked for a child on the way here.
    depth: u32,
    /// The number of an entry plus one, or 0.
    slots: [u8; SLOTS],
}

/// Twice as many as entries, so that free ones are never far.
pub(super) const SLOTS: usize = 128;
const SLOT_BITS: u32 = SLOTS.trailing_zeros();

/// The most entries of a leaf that is not to become a node. A map of 4096 × 4096 cells has 64 tracts,
/// and is found with one look less where they are all in one leaf. Deeper, more would take longer to
/// copy when one of them is written to; fewer would leave most leaves nearly empty.
pub(super) const fn most_entries(depth: u32) -> usize {
    if depth == 0 { 64 } else { 48 }
}

// Make and read.
impl Leaf {
    pub(super) const fn new(depth: u32) -> Leaf {
        Leaf { entries: Vec::new(), depth, slots: [0; SLOTS] }
    }

    pub(super) const fn depth(&self) -> u32 {
        self.depth
    }

    pub(crate) fn entries(&self) -> &[Entry] {
        &self.entries
    }

    /// The numbers of the entries of a tract, in the order in which the hash finds them.
    #[inline]
    fn numbers(&self, at: TractPos, hash: Hash) -> impl Iterator<Item = usize> + '_ {
        let mut slot = hash.top_bits(SLOT_BITS);
        std::iter::from_fn(move || {
            loop {
                let number = usize::from(self.slots[slot % SLOTS]).checked_sub(1)?;
                slot += 1;
                if self.entries.get(number)?.tract() == at {
                    return Some(number);
                }
            }
        })
    }

    /// The entry of a tract, or the first of its lone cells.
    #[inline]
    pub(crate) fn first(&self, at: TractPos, hash: Hash) -> Option<&Entry> {
        self.first_at(at.corner(), hash)
    }

    /// The entry of the tract of a cell, or the first of its lone cells.
    #[inline]
    fn first_at(&self, cell: CellPos, hash: Hash) -> Option<&Entry> {
        let mut slot = hash.top_bits(SLOT_BITS);
        loop {
            let number = usize::from(self.slots[slot % SLOTS]).wrapping_sub(1);
            // No number stands for a free slot, and is no number of an entry.
            let entry = self.entries.get(number)?;
            if entry.cell.is_in_tract_of(cell) {
                return Some(entry);
            }
            slot += 1;
        }
    }

    /// All entries of a tract.
    pub(crate) fn of_tract(&self, at: TractPos, hash: Hash) -> impl Iterator<Item = &Entry> + '_ {
        self.numbers(at, hash).map(|number| &self.entries[number])
    }

    /// The value of a cell.
    #[inline]
    pub(crate) fn get<V: Word>(&self, cell: CellPos, hash: Hash) -> Presence<V> {
        match self.first_at(cell, hash) {
            Some(Entry { held: Held::Chunks(tract), .. }) => {
                tract.chunk(cell.chunk().place_in_tract()).get_as(cell.index_in_chunk())
            }
            Some(entry) => self.get_without_chunks(entry, cell, hash),
            None => Presence::Here(V::of_word(0)),
        }
    }

    /// The chunk of a cell, where its tract has a table of them.
    #[inline]
    pub(crate) fn kept_chunk(&self, cell: CellPos, hash: Hash) -> Option<&Chunk> {
        match &self.first_at(cell, hash)?.held {
            Held::Chunks(tract) => Some(tract.chunk(cell.chunk().place_in_tract())),
            _ => None,
        }
    }

    /// The value of a cell of a tract that has no table of chunks, by its first entry.
    #[inline(never)]
    fn get_without_chunks<V: Word>(&self, first: &Entry, cell: CellPos, hash: Hash) -> Presence<V> {
        match &first.held {
            Held::Uniform(value, _) => Presence::Here(V::of_word(*value)),
            Held::Absent(why, _) => (*why).into(),
            Held::Lone(..) | Held::Chunks(_) => {
                if first.cell == cell
                    && let Held::Lone(value, _) = first.held
                {
                    return Presence::Here(V::of_word(value));
                }
                let own = self.of_tract(cell.tract(), hash).find(|entry| entry.cell == cell);
                Presence::Here(V::of_word(match own.map(|entry| &entry.held) {
                    Some(Held::Lone(value, _)) => *value,
                    _ => 0,
                }))
            }
        }
    }

    /// A chunk of a tract whose first entry is known; made up where the tract does not keep it
    /// as such.
    #[inline]
    pub(crate) fn chunk<'a>(
        &'a self,
        first: Option<&'a Entry>,
        pos: ChunkPos,
        hash: Hash,
    ) -> Cow<'a, Chunk> {
        match first.map(|entry| &entry.held) {
            Some(Held::Chunks(tract)) => Cow::Borrowed(tract.chunk(pos.place_in_tract())),
            None => Cow::Owned(Chunk::default()),
            Some(Held::Uniform(value, _)) => Cow::Owned(Chunk::Uniform(*value)),
            Some(Held::Absent(why, _)) => Cow::Owned(Chunk::Absent(*why)),
            Some(Held::Lone(..)) => {
                let mut chunk = Chunk::default();
                for (cell, value, _) in self.lone_in(pos, hash) {
                    chunk.set(cell.index_in_chunk(), value);
                }
                Cow::Owned(chunk)
            }
        }
    }

    /// What the list of entries takes.
    pub(crate) fn list_bytes(&self) -> usize {
        self.entries.capacity() * size_of::<Entry>()
    }

    /// The lone cells of a chunk.
    pub(crate) fn lone_in(
        &self,
        pos: ChunkPos,
        hash: Hash,
    ) -> impl Iterator<Item = (CellPos, u32, Stamp)> + '_ {
        let own = self.of_tract(pos.tract(), hash).filter(move |e| e.cell.chunk() == pos);
        own.filter_map(|entry| match entry.held {
            Held::Lone(value, stamp) => Some((entry.cell, value, stamp)),
            _ => None,
        })
    }
}

// Change.
impl Leaf {
    /// Adds an entry; there must be room for it.
    pub(crate) fn push(&mut self, entry: Entry) {
        // Memory is asked for in small steps: most leaves are as full as they will ever be.
        const STEP: usize = 16;
        if self.entries.len() == self.entries.capacity() {
            self.entries.reserve_exact(STEP);
        }
        self.index(entry.tract(), self.entries.len());
        self.entries.push(entry);
    }

    /// Notes the number of an entry in a slot.
    fn index(&mut self, at: TractPos, number: usize) {
        let mut slot = Hash::of(at).below(self.depth).top_bits(SLOT_BITS);
        while self.slots[slot] != 0 {
            slot = (slot + 1) % SLOTS;
        }
        self.slots[slot] = number as u8 + 1;
    }

    /// Keeps the entries that fulfil a condition.
    fn retain(&mut self, wanted: impl Fn(&Entry) -> bool) {
        let before = self.entries.len();
        self.entries.retain(wanted);
        if self.entries.len() < before {
            self.slots = [0; SLOTS];
            for number in 0..self.entries.len() {
                self.index(self.entries[number].tract(), number);
            }
        }
    }

    /// Forgets a tract.
    pub(crate) fn remove(&mut self, at: TractPos) {
        self.retain(|entry| entry.tract() != at);
    }

    /// All entries, of a leaf that is given up.
    pub(super) fn take_entries(&mut self) -> Vec<Entry> {
        std::mem::take(&mut self.entries)
    }

    /// Makes one entry stand for a whole tract, whatever stood for it before.
    pub(crate) fn replace(&mut self, at: TractPos, hash: Hash, held: Held) {
        let mut numbers = self.numbers(at, hash);
        match (numbers.next(), numbers.next()) {
            (Some(only), None) => {
                drop(numbers);
                self.entries[only] = Entry::of(at, held);
            }
            _ => {
                drop(numbers);
                self.remove(at);
                self.push(Entry::of(at, held));
            }
        }
    }

    /// The chunks of a tract, which becomes one that has them.
    pub(crate) fn tract_mut(&mut self, at: TractPos, hash: Hash) -> &mut Tract {
        let first = self.numbers(at, hash).next();
        let is_made = first.is_some_and(|n| matches!(self.entries[n].held, Held::Chunks(_)));
        if !is_made {
            let whole = first.and_then(|number| self.entries[number].as_tract());
            let tract = whole.unwrap_or_else(|| self.lone_as_tract(at, hash));
            self.replace(at, hash, Held::Chunks(Arc::new(tract)));
        }
        let number = self.numbers(at, hash).next().unwrap_or_default();
        match &mut self.entries[number].held {
            Held::Chunks(tract) => Arc::make_mut(tract),
            _ => unreachable!("the entry was made to hold chunks above"),
        }
    }

    fn lone_as_tract(&self, at: TractPos, hash: Hash) -> Tract {
        let mut tract = Tract::uniform(&Chunk::default(), Stamp::NONE);
        for entry in self.of_tract(at, hash) {
            if let Held::Lone(value, stamp) = entry.held {
                let pos = entry.cell.chunk();
                tract.change(pos, stamp, |chunk| {
                    chunk.set(entry.cell.index_in_chunk(), value);
                    true
                });
            }
        }
        tract
    }

    /// Gives a cell another value than it has.
    pub(crate) fn set(&mut self, cell: CellPos, hash: Hash, value: u32, stamp: Stamp) {
        let at = cell.tract();
        let set = |chunk: &mut Chunk| chunk.set(cell.index_in_chunk(), value);
        let first = self.numbers(at, hash).next();
        let Some(held) = first.map(|number| &mut self.entries[number].held) else {
            self.push(Entry { cell, held: Held::Lone(value, stamp) });
            return;
        };
        if let Held::Chunks(tract) = held {
            Arc::make_mut(tract).change(cell.chunk(), stamp, set);
        } else if !matches!(held, Held::Lone(..)) || !self.set_lone(cell, hash, value, stamp) {
            self.tract_mut(at, hash).change(cell.chunk(), stamp, set);
        }
    }

    /// Gives a cell of a tract of lone cells a value, if there is room for it among them.
    fn set_lone(&mut self, cell: CellPos, hash: Hash, value: u32, stamp: Stamp) -> bool {
        let numbers: Vec<usize> = self.numbers(cell.tract(), hash).collect();
        let pos = cell.chunk();
        let find = |wanted: &dyn Fn(&Entry) -> bool| {
            numbers.iter().copied().find(|&number| wanted(&self.entries[number]))
        };
        let is_other_of_chunk = |entry: &Entry| entry.cell.chunk() == pos && entry.cell != cell;
        let is_free = |entry: &Entry| match entry.held {
            Held::Lone(value, _) => entry.cell.chunk() == pos && value == 0,
            _ => false,
        };
        let own = find(&|entry| entry.cell == cell);
        let other = find(&is_other_of_chunk);
        if let Some(own) = own {
            // The chunk's stamp is kept by whatever else it holds.
            if value == 0
                && let Some(other) = other
                && let Held::Lone(_, others) = &mut self.entries[other].held
            {
                *others = stamp;
                self.retain(|entry| entry.cell != cell);
            } else {
                self.entries[own].held = Held::Lone(value, stamp);
            }
        } else if let Some(free) = find(&is_free) {
            self.entries[free] = Entry { cell, held: Held::Lone(value, stamp) };
        } else if numbers.len() < MAX_LONE {
            self.push(Entry { cell, held: Held::Lone(value, stamp) });
        } else {
            return false;
        }
        true
    }
}
