/// The most that a map may ask for when it is loaded. Checked before memory is used, so that maps
/// from strangers can be opened. What is saved is held to them too, so that it can be loaded again.
///
/// ```
/// use sturdy_quilt::document::Limits;
///
/// let small = Limits { cells: 10_000, ..Limits::default() };
/// assert_eq!(small.layers, 1_000);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Bytes of one file. Default 256 MiB.
    pub file_bytes: u64,
    /// Cells of all layers together, empty ones in their rows included. Default 2²⁸.
    pub cells: u64,
    /// Pixels of all pictures together. Default 2²⁶, which is one of 8192 × 8192.
    pub pixels: u64,
    /// Tiles of all sets together. Default 2²⁰−1, the most that a map can have.
    pub tiles: u64,
    /// Layers. Default 1,000.
    pub layers: u64,
    /// Tile sets. Default 1,000.
    pub sets: u64,
    /// Files, the map itself included. Default 10,000.
    pub files: u64,
    /// JSON values of one file: lists, objects, texts, numbers and so on. Whole numbers in a list of
    /// nothing else do not count there, but in values of the game's own (`data`), of which each may
    /// have as many. Default 2²².
    pub json_values: u64,
    /// How deep values of the game's own (`data`) may be nested, at most 100. Default 100.
    pub depth: usize,
    /// Bytes of one packed block after it is unpacked. Default 1 GiB.
    pub unpacked_bytes: u64,
    /// Problems that are listed; those beyond are counted. Default 200.
    pub problems: usize,
}

impl Limits {
    /// The limits where no others are stated.
    pub(crate) const DEFAULT: Limits = Limits {
        file_bytes: 256 << 20,
        cells: 1 << 28,
        pixels: 1 << 26,
        tiles: crate::tile::TileId::MAX_COUNT as u64,
        layers: 1_000,
        sets: 1_000,
        files: 10_000,
        json_values: 1 << 22,
        depth: crate::quilt::MAX_DATA_DEPTH,
        unpacked_bytes: 1 << 30,
        problems: 200,
    };
}

impl Default for Limits {
    fn default() -> Limits {
        Limits::DEFAULT
    }
}
