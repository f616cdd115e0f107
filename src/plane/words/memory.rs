//! The memory that a plane takes.

use triomphe::Arc;

use super::Words;
use super::chunk::{ChunkForm, counted_bytes};
use super::table::{Below, CHUNKS, Held, Node, Tract};

/// The chunks of one form.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct FormMemory {
    /// How many there are. Uniform chunks of the default value do not count.
    pub chunks: u64,
    /// What their cells take. Places in the page table do not count.
    pub bytes: u64,
}

/// The memory that a plane takes: see [`Plane::memory`](crate::plane::Plane::memory).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct PlaneMemory {
    forms: [FormMemory; ChunkForm::ALL.len()],
    lone_cells: u64,
    tracts: u64,
    table_bytes: u64,
    shared_bytes: u64,
}

impl PlaneMemory {
    /// Returns the chunks of a form.
    pub const fn form(&self, form: ChunkForm) -> FormMemory {
        self.forms[form as usize]
    }

    /// Returns the cells that are kept one by one in the page table, in tracts with few cells.
    pub const fn lone_cells(&self) -> u64 {
        self.lone_cells
    }

    /// Returns the tracts that have a table of their chunks. A tract that holds one value
    /// throughout, or lone cells, needs none.
    pub const fn tracts(&self) -> u64 {
        self.tracts
    }

    /// Returns the bytes of the page table, with its stamps and lone cells.
    pub const fn table_bytes(&self) -> u64 {
        self.table_bytes
    }

    /// Returns the bytes of the cells of all chunks.
    pub fn chunk_bytes(&self) -> u64 {
        self.forms.iter().map(|form| form.bytes).sum()
    }

    /// Returns the bytes of the whole plane, without what the allocator adds.
    pub fn bytes(&self) -> u64 {
        self.table_bytes + self.chunk_bytes()
    }

    /// Returns how many of these bytes clones have in common with it: those of this plane's parts
    /// that would live on without it.
    pub const fn shared_bytes(&self) -> u64 {
        self.shared_bytes
    }

    /// Returns the sum of two, as for all layers of a map.
    #[must_use]
    pub fn plus(mut self, other: &PlaneMemory) -> PlaneMemory {
        for (own, others) in self.forms.iter_mut().zip(other.forms) {
            own.chunks += others.chunks;
            own.bytes += others.bytes;
        }
        self.lone_cells += other.lone_cells;
        self.tracts += other.tracts;
        self.table_bytes += other.table_bytes;
        self.shared_bytes += other.shared_bytes;
        self
    }

    fn count_node(&mut self, node: &Arc<Node>, is_shared: bool) {
        let is_shared = is_shared || Arc::count(node) > 1;
        self.table(counted_bytes::<Node>(), is_shared);
        match node.below() {
            Below::Nodes(children) => {
                children.iter().for_each(|child| self.count_node(child, is_shared));
            }
            Below::Leaf(leaf) => {
                self.table(leaf.list_bytes(), is_shared);
                for entry in leaf.entries() {
                    match &entry.held {
                        Held::Lone(value, _) => self.lone_cells += u64::from(*value != 0),
                        Held::Uniform(value, _) => {
                            let used = if *value == 0 { 0 } else { CHUNKS };
                            self.forms[ChunkForm::Uniform as usize].chunks += used as u64;
                        }
                        Held::Absent(..) => {
                            self.forms[ChunkForm::Absent as usize].chunks += CHUNKS as u64;
                        }
                        Held::Chunks(tract) => self.count_tract(tract, is_shared),
                    }
                }
            }
        }
    }

    fn count_tract(&mut self, tract: &Arc<Tract>, is_shared: bool) {
        let is_shared = is_shared || Arc::count(tract) > 1;
        self.tracts += 1;
        self.table(counted_bytes::<Tract>(), is_shared);
        for chunk in tract.chunks().iter().filter(|chunk| !chunk.is_default()) {
            let (bytes, holders) = chunk.held_bytes();
            let form = &mut self.forms[chunk.form() as usize];
            form.chunks += 1;
            form.bytes += bytes as u64;
            if is_shared || holders > 1 {
                self.shared_bytes += bytes as u64;
            }
        }
    }

    fn table(&mut self, bytes: usize, is_shared: bool) {
        self.table_bytes += bytes as u64;
        if is_shared {
            self.shared_bytes += bytes as u64;
        }
    }
}

impl Words {
    /// How much memory it takes, by what for. Costs a look at each chunk in use.
    pub(crate) fn memory(&self) -> PlaneMemory {
        let mut memory = PlaneMemory::default();
        memory.count_node(&self.root, false);
        memory
    }
}
