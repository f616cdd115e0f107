/// The form in which a plane keeps a chunk: the smallest that has room for what is written to it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum ChunkForm {
    /// One value in all cells; takes nothing beside its place in the page table.
    Uniform,
    /// At most 2 values, a bit a cell.
    Bits1,
    /// At most 4 values, two bits a cell.
    Bits2,
    /// At most 16 values, four bits a cell.
    Bits4,
    /// At most 256 values, a byte a cell.
    Bits8,
    /// Any values, four bytes a cell.
    Full,
    /// Not loaded, or damaged.
    Absent,
}

impl ChunkForm {
    /// Every form, those that take less memory first.
    pub const ALL: [ChunkForm; 7] = [
        ChunkForm::Uniform,
        ChunkForm::Bits1,
        ChunkForm::Bits2,
        ChunkForm::Bits4,
        ChunkForm::Bits8,
        ChunkForm::Full,
        ChunkForm::Absent,
    ];

    /// Returns the word for it in reports.
    pub const fn name(self) -> &'static str {
        match self {
            ChunkForm::Uniform => "uniform",
            ChunkForm::Bits1 => "1 bit",
            ChunkForm::Bits2 => "2 bits",
            ChunkForm::Bits4 => "4 bits",
            ChunkForm::Bits8 => "8 bits",
            ChunkForm::Full => "full",
            ChunkForm::Absent => "absent",
        }
    }
}

/// What a value takes behind a counted pointer: itself and the counter.
pub(crate) const fn counted_bytes<T>() -> usize {
    size_of::<(usize, T)>()
}
