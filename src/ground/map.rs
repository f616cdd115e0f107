//! The ground of every cell, kept up to date by stamps.

use rustc_hash::{FxHashMap, FxHashSet};

use super::decide::{Speaker, classes_of_tiles, speakers};
use crate::lattice::Lattice;
use crate::plane::{Absence, Presence, RunValues, SeenStamps, Stamp};
use crate::quilt::{GroundClass, LayerId, MoverId, Outside, Quilt, Treatment};
use crate::tile::Cell;
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos};

/// The ground of every cell of a map, and how its movers take it.
///
/// Made once from a map and brought up to date by [`GroundMap::refresh`]; between two calls it
/// answers from the state that it has seen. It may follow any clone of any map: after a refresh it
/// equals one made anew.
///
/// ```
/// use sturdy_quilt::{Cell, CellPos, GroundMap};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let mut ground = GroundMap::of(&quilt);
/// let walker = quilt.mover("walker")?;
/// assert!(ground.blocked(walker, CellPos::new(2, 0)));
///
/// let grass = quilt.tile("garden/grass")?;
/// quilt.edit("take the wall down", |pen| pen.put("soil", CellPos::new(2, 0), grass))?;
/// ground.refresh(&quilt);
/// assert!(!ground.blocked(walker, CellPos::new(2, 0)));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct GroundMap {
    chunks: FxHashMap<ChunkPos, ClassChunk>,
    movers: Vec<MoverTable>,
    bounds: CellRect,
    seen: Seen,
}

/// From what the map was derived.
#[derive(Clone, Debug)]
struct Seen {
    lattice: Lattice,
    tiles: Stamp,
    rules: Stamp,
    speakers: Vec<(LayerId, CellOffset)>,
    cells: Vec<SeenStamps>,
    bounds_of: BoundsOf,
}

/// What the bounds of a map follow from: all layers, also those that give no ground.
#[derive(Clone, Debug, PartialEq)]
struct BoundsOf {
    stated: Option<CellRect>,
    layers: Stamp,
    cells: Vec<Stamp>,
}

impl BoundsOf {
    fn of(quilt: &Quilt) -> BoundsOf {
        BoundsOf {
            stated: quilt.stated_bounds(),
            layers: quilt.stamps().layers,
            cells: quilt.layers().iter().map(|layer| layer.cells().stamp()).collect(),
        }
    }
}

/// A byte for each cell: the number of a class, or one of the codes above those.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum ClassChunk {
    Uniform(u8),
    Each(Box<[u8]>),
}

impl ClassChunk {
    pub(super) fn code(&self, index: usize) -> u8 {
        match self {
            ClassChunk::Uniform(code) => *code,
            ClassChunk::Each(codes) => codes[index],
        }
    }
}

pub(super) const SILENT: u8 = 255;
const NOT_HERE: u8 = 254;
const DAMAGED: u8 = 253;

#[derive(Clone, Debug, PartialEq)]
pub(super) struct MoverTable {
    by_class: Vec<Treatment>,
    /// A bit for each class that blocks.
    blocking: u64,
    pub(super) outside: Outside,
    unloaded: Treatment,
}

impl MoverTable {
    /// Whether a place with this code cannot be entered.
    pub(super) fn blocks(&self, code: u8) -> bool {
        match code {
            SILENT => false,
            NOT_HERE | DAMAGED => self.unloaded.blocks(),
            class => self.blocking >> class & 1 == 1,
        }
    }
}

impl GroundMap {
    /// The ground of a map. Costs a look at every chunk in use.
    pub fn of(quilt: &Quilt) -> GroundMap {
        GroundMap::built(quilt).0
    }

    /// Brings the ground up to date with a map: the one it was made from, a clone, or another.
    /// Gives the number of chunks that were derived anew.
    ///
    /// Costs nothing but a look at each layer when nothing has changed, and else a look at the
    /// chunks that have.
    pub fn refresh(&mut self, quilt: &Quilt) -> usize {
        let stamps = quilt.stamps();
        let speakers = speakers(quilt);
        let same_rules = self.seen.tiles == stamps.tiles
            && self.seen.rules == stamps.rules
            && self.seen.lattice == *quilt.lattice()
            && speakers.iter().map(Speaker::identity).eq(self.seen.speakers.iter().copied());
        if !same_rules {
            let (new, count) = GroundMap::built(quilt);
            *self = new;
            return count;
        }
        let count = self.derive_changed(quilt, &speakers);
        let bounds_of = BoundsOf::of(quilt);
        if self.seen.bounds_of != bounds_of {
            self.seen.bounds_of = bounds_of;
            self.bounds = quilt.bounds();
        }
        count
    }

    /// The class of a cell, or `None` where no layer says anything.
    pub fn class_at(&self, cell: CellPos) -> Presence<Option<GroundClass>> {
        match self.code(cell) {
            SILENT => Presence::Here(None),
            NOT_HERE => Presence::NotHere,
            DAMAGED => Presence::Damaged,
            class => Presence::Here(GroundClass::from_index(class.into())),
        }
    }

    /// How a mover takes a cell. Ground of which no layer says anything is passed; a handle of
    /// another map is blocked everywhere. Constant time.
    pub fn treatment(&self, mover: MoverId, cell: CellPos) -> Treatment {
        let Some(table) = self.table(mover) else { return Treatment::Block };
        match table.outside {
            Outside::Treated(treatment) if !self.bounds.contains(cell) => return treatment,
            Outside::Wrapped if self.bounds.is_empty() => return Treatment::Block,
            _ => {}
        }
        match self.code(self.repeated(cell)) {
            SILENT => Treatment::Pass,
            NOT_HERE | DAMAGED => table.unloaded,
            class => table.by_class.get(usize::from(class)).copied().unwrap_or_default(),
        }
    }

    /// Whether a mover cannot be in a cell.
    pub fn blocked(&self, mover: MoverId, cell: CellPos) -> bool {
        self.treatment(mover, cell).blocks()
    }

    /// The bounds of the map as last seen; beyond them lies the outside.
    pub const fn bounds(&self) -> CellRect {
        self.bounds
    }

    fn code(&self, cell: CellPos) -> u8 {
        self.chunk(cell.chunk()).map_or(SILENT, |chunk| chunk.code(cell.index_in_chunk()))
    }

    /// The cell inside the bounds that a cell beyond them repeats for those to whom the map goes on
    /// from its other side; without bounds, the cell itself.
    pub(super) fn repeated(&self, cell: CellPos) -> CellPos {
        if self.bounds.contains(cell) || self.bounds.is_empty() {
            return cell;
        }
        wrapped(cell.x().into(), cell.y().into(), self.bounds)
    }

    /// The codes of a chunk; `None` where no layer says anything in it.
    pub(super) fn chunk(&self, pos: ChunkPos) -> Option<&ClassChunk> {
        self.chunks.get(&pos)
    }

    /// How a mover takes each code; `None` for a handle of another map.
    pub(super) fn table(&self, mover: MoverId) -> Option<&MoverTable> {
        self.movers.get(mover.index())
    }

    /// The lattice of the map as last seen.
    pub const fn lattice(&self) -> &Lattice {
        &self.seen.lattice
    }

    /// The ground of a map, and the number of chunks that were derived.
    fn built(quilt: &Quilt) -> (GroundMap, usize) {
        let speakers = speakers(quilt);
        let seen = Seen {
            lattice: *quilt.lattice(),
            tiles: quilt.stamps().tiles,
            rules: quilt.stamps().rules,
            speakers: speakers.iter().map(Speaker::identity).collect(),
            cells: vec![SeenStamps::default(); speakers.len()],
            bounds_of: BoundsOf::of(quilt),
        };
        let (movers, bounds) = (mover_tables(quilt), quilt.bounds());
        let mut map = GroundMap { chunks: FxHashMap::default(), movers, bounds, seen };
        let count = map.derive_changed(quilt, &speakers);
        (map, count)
    }

    /// Derives every chunk over which cells lie that differ from what was seen of them.
    fn derive_changed(&mut self, quilt: &Quilt, speakers: &[Speaker<'_>]) -> usize {
        let mut stale = FxHashSet::default();
        for (speaker, seen) in speakers.iter().zip(&mut self.seen.cells) {
            for own in seen.update(speaker.layer.cells()) {
                stale.extend(own.cells().moved(speaker.offset).chunks());
            }
        }
        if !stale.is_empty() {
            let classes = classes_of_tiles(quilt);
            let mut scratch = Vec::new();
            for &pos in &stale {
                self.derive(pos, speakers, &classes, &mut scratch);
            }
        }
        stale.len()
    }

    fn derive(
        &mut self,
        pos: ChunkPos,
        speakers: &[Speaker<'_>],
        classes: &[Option<GroundClass>],
        scratch: &mut Vec<Cell>,
    ) {
        match class_chunk(pos, speakers, classes, scratch) {
            ClassChunk::Uniform(SILENT) => self.chunks.remove(&pos),
            chunk => self.chunks.insert(pos, chunk),
        };
    }
}

impl Speaker<'_> {
    fn identity(&self) -> (LayerId, CellOffset) {
        (self.layer.id(), self.offset)
    }
}

/// The classes of one chunk of the map: layer by layer from the top, each speaking for the cells
/// that are still undecided.
fn class_chunk(
    pos: ChunkPos,
    speakers: &[Speaker<'_>],
    classes: &[Option<GroundClass>],
    scratch: &mut Vec<Cell>,
) -> ClassChunk {
    let code_of = |cell: Cell| {
        let class = cell.tile().and_then(|tile| classes.get(tile.index()).copied().flatten());
        class.map_or(SILENT, |class| class.index() as u8)
    };
    let mut codes: Option<Box<[u8]>> = None;
    for speaker in speakers {
        let back = speaker.offset.reversed();
        let own = pos.cells().moved(back);
        speaker.layer.cells().read_blocks(own, scratch, |run| {
            let uniform = match run.values {
                RunValues::Uniform(cell) => Some(code_of(cell)),
                RunValues::Absent(Absence::NotHere) => Some(NOT_HERE),
                RunValues::Absent(Absence::Damaged) => Some(DAMAGED),
                RunValues::Slice(_) => None,
            };
            if uniform == Some(SILENT) {
                return;
            }
            let codes = codes.get_or_insert_with(|| vec![SILENT; CELLS].into());
            let mut speak = |own: CellPos, code: u8| {
                let cell = own.saturating_add(speaker.offset);
                let held = &mut codes[cell.index_in_chunk()];
                if *held == SILENT {
                    *held = code;
                }
            };
            match uniform {
                Some(code) => run.cells.cells().for_each(|own| speak(own, code)),
                None => run.each().for_each(|(own, cell)| speak(own, code_of(cell))),
            }
        });
    }
    match codes {
        None => ClassChunk::Uniform(SILENT),
        Some(codes) if codes.iter().all(|code| *code == codes[0]) => ClassChunk::Uniform(codes[0]),
        Some(codes) => ClassChunk::Each(codes),
    }
}

const CELLS: usize = (ChunkPos::SIDE * ChunkPos::SIDE) as usize;

fn mover_tables(quilt: &Quilt) -> Vec<MoverTable> {
    let rules = quilt.ground_rules();
    let table = |mover: &crate::quilt::Mover| {
        let by_class: Vec<Treatment> =
            rules.classes().map(|class| mover.treatment(class)).collect();
        let blocked = by_class.iter().enumerate().filter(|(_, treatment)| treatment.blocks());
        MoverTable {
            blocking: blocked.fold(0, |bits, (class, _)| bits | 1 << class),
            by_class,
            outside: mover.outside_rule(),
            unloaded: mover.unloaded_rule(),
        }
    };
    rules.movers().iter().map(table).collect()
}

/// The cell inside the bounds that a place beyond them repeats; the bounds must not be empty.
pub(super) fn wrapped(x: i64, y: i64, bounds: CellRect) -> CellPos {
    let around = |at: i64, from: i32, length: u32| {
        let way = (at - i64::from(from)).rem_euclid(i64::from(length));
        // Between two edges of the bounds, and so within the limits of cells.
        from + way as i32
    };
    CellPos::new(around(x, bounds.left(), bounds.width()), around(y, bounds.top(), bounds.height()))
}
