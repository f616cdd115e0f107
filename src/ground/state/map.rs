//! The ground of every cell, kept up to date by stamps.

use rustc_hash::FxHashMap;
use triomphe::Arc;

use super::chunk::{ChunkParts, ClassChunk, Inputs, Zone};
use super::codes;
use super::codes::{UNSTATED, is_class};
use super::convex_shapes::ConvexShapes;
use super::parts::{CellParts, PartsTable, Pattern, SolidPart};
use super::precedence::{Source, codes_of_tiles, ground_markers, sources};
use super::stop_grid::{Filling, StopChunk, StopGrid, Stops};
use crate::ground::shape::from_corner;
use crate::lattice::Lattice;
use crate::plane::{Presence, SeenStamps, Stamp};
use crate::quilt::{GroundClass, LayerId, Mover, MoverId, Outside, Quilt, Treatment};
use crate::tile::CellShape;
use crate::units::{CellOffset, CellPos, CellRect, ChunkPos, Side, WorldPoint, WorldVec};

/// The ground of every cell of a map, and how its movers take it.
///
/// Made once from a map and brought up to date by [`GroundMap::refresh`]; between two calls it
/// answers from the state that it has seen. It may follow any clone of any map: after a refresh it
/// equals one made anew. It needs no pictures, may be made from a snapshot on another thread, and be
/// read by many threads at once; a clone shares what is large, and is copied where it is refreshed.
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
    /// One for all movers that are stopped by the same.
    grids: Vec<StopGrid>,
    movers: Vec<MoverTable>,
    /// What cells are made of whose ground is not the same everywhere.
    parts: Arc<PartsTable>,
    bounds: CellRect,
    seen: Seen,
}

/// A part of the ground of a cell, see [`GroundMap::parts_at`].
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct GroundPart {
    /// The class, or `None` where nobody says anything.
    pub class: Presence<Option<GroundClass>>,
    /// The part of the cell for which that holds, except where a part above lies over it.
    pub shape: CellShape,
}

/// From what the map was derived.
#[derive(Clone, Debug)]
struct Seen {
    lattice: Lattice,
    tiles: Stamp,
    rules: Stamp,
    /// Those of the map, by their codes.
    classes: Vec<GroundClass>,
    sources: Vec<Option<(LayerId, CellOffset)>>,
    cells: Vec<SeenStamps>,
    codes_of_tiles: Vec<u8>,
    convexes: Arc<ConvexShapes>,
    markers: Stamp,
    zones: Vec<Zone>,
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
        // Where they are stated, nothing else counts.
        let stated = quilt.stated_bounds();
        let layers = if stated.is_some() { &[] } else { quilt.layers() };
        BoundsOf {
            stated,
            layers: quilt.stamps().layers,
            cells: layers.iter().map(|layer| layer.cells().stamp()).collect(),
        }
    }
}

#[derive(Clone, Debug)]
pub(crate) struct MoverTable {
    /// Of the mover, by which its handles are known.
    birth: Stamp,
    by_class: Vec<Treatment>,
    pub(crate) outside: Outside,
    pub(crate) beyond: Beyond,
    empty: Treatment,
    unloaded: Treatment,
    /// Its grids. Mostly they are all the same.
    pub(crate) grids: StopGridPlaces,
    /// Whether what it cannot be in, and what it cannot come into by a side, is not all the same.
    pub(crate) is_one_way: bool,
    /// What stops it, among the patterns of all movers.
    pattern: usize,
}

/// What lies beyond the bounds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Beyond {
    Free,
    Stops,
    /// The map again, from its other side.
    Map,
}

impl Beyond {
    pub(crate) fn of(outside: Outside) -> Beyond {
        match outside {
            Outside::Treated(treatment) if !treatment.blocks() => Beyond::Free,
            Outside::Treated(_) => Beyond::Stops,
            Outside::Wrapped => Beyond::Map,
        }
    }
}

/// The places of the grids of a mover.
#[derive(Clone, Copy, Debug)]
pub(crate) struct StopGridPlaces {
    /// Of what it cannot be in.
    pub(crate) within: usize,
    /// Of that, the cells that are solid as a whole.
    pub(crate) whole: usize,
    /// The whole cells that it cannot come into by a side.
    pub(crate) by_side: [usize; 4],
    /// What it cannot come into by any of the sides.
    pub(crate) by_any: usize,
    /// Of that, the cells of which a part is solid; none in maps where all are whole.
    pub(crate) parts: Option<usize>,
}

impl MoverTable {
    pub(crate) fn treatment(&self, code: u8) -> Treatment {
        if is_class(code) {
            self.by_class.get(usize::from(code)).copied().unwrap_or_default()
        } else if code == UNSTATED {
            self.empty
        } else {
            self.unloaded
        }
    }
}

// Make and refresh.
impl GroundMap {
    /// Returns the ground of a map. Costs a look at every cell in use.
    pub fn of(quilt: &Quilt) -> GroundMap {
        GroundMap::built(quilt).0
    }

    /// Brings the ground up to date with a map: the one it was made from, a clone, or another.
    /// Gives the number of chunks in which something was derived anew.
    ///
    /// Costs nothing but a look at each layer when nothing has changed, and else a look at the
    /// chunks that have; of a few changed cells in a chunk only those are derived.
    pub fn refresh(&mut self, quilt: &Quilt) -> usize {
        let stamps = quilt.stamps();
        let sources = sources(quilt);
        let same_rules = self.seen.tiles == stamps.tiles
            && self.seen.rules == stamps.rules
            && self.seen.lattice == *quilt.lattice()
            && sources.iter().map(Source::identity).eq(self.seen.sources.iter().copied());
        if !same_rules {
            let (new, count) = GroundMap::built(quilt);
            *self = new;
            return count;
        }
        let count = self.derive_changed(quilt, &sources);
        let bounds_of = BoundsOf::of(quilt);
        if self.seen.bounds_of != bounds_of {
            self.seen.bounds_of = bounds_of;
            self.bounds = quilt.bounds();
        }
        count
    }

    /// The ground of a map, and the number of chunks that were derived.
    fn built(quilt: &Quilt) -> (GroundMap, usize) {
        let sources = sources(quilt);
        let seen = Seen {
            lattice: *quilt.lattice(),
            tiles: quilt.stamps().tiles,
            rules: quilt.stamps().rules,
            classes: quilt.ground_rules().handles().collect(),
            sources: sources.iter().map(Source::identity).collect(),
            cells: vec![SeenStamps::default(); sources.len()],
            codes_of_tiles: codes_of_tiles(quilt),
            convexes: Arc::new(ConvexShapes::of(quilt)),
            markers: Stamp::default(),
            zones: Vec::new(),
            bounds_of: BoundsOf::of(quilt),
        };
        let (movers, grids, patterns) = mover_tables(quilt, seen.convexes.are_any());
        let parts = Arc::new(PartsTable::new(*quilt.lattice(), patterns));
        let (chunks, bounds) = (FxHashMap::default(), quilt.bounds());
        let mut map = GroundMap { chunks, grids, movers, parts, bounds, seen };
        let count = map.derive_changed(quilt, &sources);
        (map, count)
    }

    /// Derives what lies below cells that differ from what was seen of them.
    fn derive_changed(&mut self, quilt: &Quilt, sources: &[Source<'_>]) -> usize {
        // With each chunk, whether all of it is to be derived anew.
        let mut stale: Vec<(ChunkPos, bool)> = Vec::new();
        for (source, seen) in sources.iter().zip(&mut self.seen.cells) {
            let Source::Layer { layer, offset } = source else { continue };
            for own in seen.update(layer.cells()) {
                let lies_on = own.cells().moved(*offset);
                let in_one = source.own_chunk(own).is_some();
                stale.extend(lies_on.chunks().map(|pos| (pos, !in_one)));
            }
        }
        self.find_changed_zones(quilt, &mut stale);
        stale.sort_unstable_by_key(|&(pos, whole)| (pos, !whole));
        stale.dedup_by_key(|(pos, _)| *pos);
        let (mut scratch, mut changed) = (Vec::new(), Vec::new());
        let inputs = Inputs {
            sources,
            zones: &self.seen.zones,
            lattice: &self.seen.lattice,
            codes_of_tiles: &self.seen.codes_of_tiles,
            convexes: &self.seen.convexes,
        };
        for &(pos, whole) in &stale {
            if !whole
                && let Some(chunk) = self.chunks.get_mut(&pos)
                && chunk.update(pos, inputs, &mut self.parts, &mut changed).is_some()
            {
                if !changed.is_empty() {
                    for grid in &mut self.grids {
                        grid.put_cells(pos, &changed, chunk, &self.parts);
                    }
                }
                if chunk.is_blank() {
                    self.chunks.remove(&pos);
                }
                continue;
            }
            let chunk = ClassChunk::derived(pos, inputs, &mut self.parts, &mut scratch);
            for grid in &mut self.grids {
                grid.put(pos, &chunk, &self.parts);
            }
            if chunk.is_blank() {
                self.chunks.remove(&pos);
            } else {
                self.chunks.insert(pos, chunk);
            }
        }
        stale.len()
    }

    /// Takes the markers that state ground, and adds the chunks of those that have changed.
    fn find_changed_zones(&mut self, quilt: &Quilt, stale: &mut Vec<(ChunkPos, bool)>) {
        let stamp = quilt.stamps().markers;
        if std::mem::replace(&mut self.seen.markers, stamp) == stamp {
            return;
        }
        let markers = ground_markers(quilt).into_iter();
        let zones: Vec<Zone> = markers
            .map(|(marker, class)| Zone::new(&marker, codes::code_of(Some(class))))
            .collect();
        let before = std::mem::replace(&mut self.seen.zones, zones);
        let zones = &self.seen.zones;
        // From the first that differs to the last: between them, one may lie over another.
        let same_begin = before.iter().zip(zones).take_while(|(a, b)| a == b).count();
        let both_reversed = before[same_begin..].iter().rev().zip(zones[same_begin..].iter().rev());
        let same_end = both_reversed.take_while(|(a, b)| a == b).count();
        let changed = [&before[..], zones].into_iter();
        let changed = changed.flat_map(|zones| &zones[same_begin..zones.len() - same_end]);
        stale.extend(changed.flat_map(|zone| zone.cells.chunks()).map(|pos| (pos, true)));
    }
}

/// From what the shapes of a chunk were made.
#[derive(Clone, Debug)]
pub(crate) struct ChunkState {
    pub(crate) stops: StopChunk,
    pub(crate) parts: ChunkParts,
    /// What the numbers of the parts mean.
    pub(crate) table: Arc<PartsTable>,
}

impl PartialEq for ChunkState {
    fn eq(&self, other: &ChunkState) -> bool {
        let same_parts = match (&self.parts, &other.parts) {
            (None, None) => true,
            (Some(own), Some(others)) if Arc::ptr_eq(&self.table, &other.table) => own == others,
            (Some(own), Some(others)) => own.iter().zip(others.iter()).all(|(own, others)| {
                // The numbers of two maps may differ.
                self.table.get(*own) == other.table.get(*others)
            }),
            _ => false,
        };
        self.stops == other.stops && same_parts && self.table.is_like(&other.table)
    }
}

// What holds for all bodies.
impl GroundMap {
    /// The depth up to which a body inside a cell counts as touching it, as a part of the cell's
    /// side.
    ///
    /// A body that was moved away from a wall by other means, or whose place was rounded, may lie
    /// a little inside. Up to this much it is taken as touching: what it lies in neither holds it
    /// nor lets it fall, and it may pass a gap that is narrower than it by twice as much. A body
    /// that is thinner than four of these moves as if it were so wide around its middle.
    pub const SKIN: f64 = 1.0 / 1024.0;

    /// The cost of a step over ground that does not slow a mover, in the unit of
    /// [`GroundMap::steps`].
    pub const STEP_COST: u32 = 1000;

    /// A body that spans more cells than this in either direction counts as the box around it.
    pub const MAX_BODY_CELLS: u32 = 256;

    /// The skin in both directions, in world units.
    pub(crate) fn skin(&self) -> WorldVec {
        let lattice = self.lattice();
        WorldVec::new(lattice.cell_width(), lattice.cell_height()) * GroundMap::SKIN
    }

    /// The lesser of the two.
    pub(crate) fn thin(&self) -> f64 {
        let skin = self.skin();
        skin.x.min(skin.y)
    }

    /// As wide is a body made that is thinner: between two long cells, one thinner than two of
    /// their skins would lie in neither.
    pub(crate) fn least_width(&self) -> f64 {
        let skin = self.skin();
        (4.0 * self.thin()).max(2.5 * skin.x.max(skin.y))
    }
}

// Read.
impl GroundMap {
    /// Returns the class of a cell, or `None` where nobody says anything; of a cell with several
    /// parts that of the uppermost. Constant time.
    pub fn class_at(&self, cell: CellPos) -> Presence<Option<GroundClass>> {
        codes::class_of(self.code(cell), &self.seen.classes)
    }

    /// Returns the class of a point: that of the part of its cell in which it lies; `None` where
    /// nobody says anything. Constant time.
    pub fn class_at_point(&self, place: WorldPoint) -> Presence<Option<GroundClass>> {
        let cell = self.lattice().cell_at(place);
        let code = self.parts(cell).map(|parts| parts.code_at(self.within(cell, place)));
        self.class_of(code.unwrap_or_else(|| self.code(cell)))
    }

    /// Returns how a mover takes a cell. A handle of another map is blocked everywhere.
    ///
    /// Of a cell with several parts, see [`GroundMap::parts_at`], the strictest treatment counts:
    /// what blocks before what is one-way, before what slows most, before all else. Constant time.
    pub fn treatment(&self, mover: MoverId, cell: CellPos) -> Treatment {
        match self.met(mover, cell) {
            Err(treatment) => treatment,
            Ok((table, cell)) => match self.parts(cell) {
                None => table.treatment(self.code(cell)),
                Some(parts) => strictest(parts.parts.iter().map(|part| table.treatment(part.code))),
            },
        }
    }

    /// Returns how a mover takes a point: as the part of its cell in which it lies. Constant time.
    ///
    /// ```
    /// use sturdy_quilt::tile::CellShape;
    /// use sturdy_quilt::{CellPos, GroundMap, TileSet, TileSpec, WorldPoint};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let middle = CellShape::area(0.25, 0.25, 0.75, 0.75)?;
    /// let post = TileSpec::named("post").with_ground("stone").with_shape(middle);
    /// quilt.edit("a post", |pen| {
    ///     pen.put_tiles(TileSet::builder("yard").tile(post).build()?)?;
    ///     pen.put("soil", CellPos::new(0, 1), "yard/post")
    /// })?;
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// assert!(ground.treatment_at(walker, WorldPoint::new(8.0, 24.0)).blocks());
    /// assert!(!ground.treatment_at(walker, WorldPoint::new(1.0, 24.0)).blocks());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn treatment_at(&self, mover: MoverId, place: WorldPoint) -> Treatment {
        let cell = self.lattice().cell_at(place);
        match self.met(mover, cell) {
            Err(treatment) => treatment,
            Ok((table, met)) => table.treatment(match self.parts(met) {
                None => self.code(met),
                Some(parts) => parts.code_at(self.within(cell, place)),
            }),
        }
    }

    /// The table of a mover and the cell that it meets in a place, or how it takes what lies beyond
    /// the bounds.
    fn met(&self, mover: MoverId, cell: CellPos) -> Result<(&MoverTable, CellPos), Treatment> {
        let table = self.table(mover).ok_or(Treatment::Block)?;
        match table.outside {
            Outside::Treated(treatment) if !self.bounds.contains(cell) => Err(treatment),
            Outside::Wrapped if self.bounds.is_empty() => Err(Treatment::Block),
            _ => Ok((table, self.repeated(cell))),
        }
    }

    /// A place from the corner of its cell.
    fn within(&self, cell: CellPos, place: WorldPoint) -> WorldVec {
        from_corner(self.lattice(), cell.x().into(), cell.y().into(), place)
    }

    /// Returns the cells that a mover may step to from a cell, each with what the step costs: the
    /// form that path finders ask for.
    ///
    /// The cost is the time from middle to middle, where [`GroundMap::STEP_COST`] stands for the
    /// time of a step at full speed; it is never less. Half of the way lies in either cell. A
    /// mover that stands where it cannot be may leave as over free ground. Where the map goes on
    /// from its other side, so do the steps.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, GroundMap};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let (ground, walker) = (GroundMap::of(&quilt), quilt.mover("walker")?);
    /// let steps: Vec<_> = ground.steps(walker, CellPos::new(1, 0)).collect();
    /// assert_eq!(steps, [(CellPos::new(1, 1), 1000), (CellPos::new(0, 0), 1000)]);
    /// # Ok::<(), sturdy_quilt::NameError>(())
    /// ```
    pub fn steps(
        &self,
        mover: MoverId,
        cell: CellPos,
    ) -> impl Iterator<Item = (CellPos, u32)> + use<'_> {
        let here = Some(self.treatment(mover, cell).speed()).filter(|speed| *speed > 0.0);
        let half = |speed: f64| f64::from(Self::STEP_COST) / 2.0 / speed;
        self.lattice().neighbors(cell).filter_map(move |next| {
            let treatment = self.treatment(mover, next);
            if treatment.stops_at(side_between(cell, next)) {
                return None;
            }
            let speed = treatment.speed();
            // Beyond the range of the cost it stays at its highest.
            let cost = (half(here.unwrap_or(1.0)) + half(speed)).round() as u32;
            (speed > 0.0).then_some((self.cell_met(mover, next), cost))
        })
    }

    /// Returns the bounds of the map as last seen; beyond them lies the outside.
    pub const fn bounds(&self) -> CellRect {
        self.bounds
    }

    /// Returns the lattice of the map as last seen.
    pub const fn lattice(&self) -> &Lattice {
        &self.seen.lattice
    }

    /// Returns the bytes of the grids that keep which cells stop movers. Movers that are stopped by
    /// the same share one.
    pub fn stop_grid_bytes(&self) -> usize {
        self.grids.iter().map(StopGrid::bytes).sum()
    }

    /// The class of what a mover has met, where it has one: beyond the bounds none, but for movers
    /// to whom the map goes on there.
    pub(crate) fn class_met(
        &self,
        mover: MoverId,
        cell: CellPos,
        solid: Option<&SolidPart>,
    ) -> Option<GroundClass> {
        let cell = self.cell_met(mover, cell);
        let code = solid.and_then(|solid| solid.code).unwrap_or_else(|| self.code(cell));
        self.class_of(code).here().flatten().filter(|_| self.bounds.contains(cell))
    }

    /// The class that a code stands for.
    pub(crate) fn class_of(&self, code: u8) -> Presence<Option<GroundClass>> {
        codes::class_of(code, &self.seen.classes)
    }

    /// Returns the part of a cell that its class holds for, as it lies there; the outline of the
    /// whole cell where no tile says anything else. Of a cell with several parts it is that of the
    /// uppermost.
    ///
    /// ```
    /// use sturdy_quilt::tile::CellShape;
    /// use sturdy_quilt::{CellPos, GroundMap};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let ground = GroundMap::of(&quilt);
    /// assert_eq!(ground.shape_at(CellPos::new(2, 0)), &CellShape::SQUARE);
    /// ```
    pub fn shape_at(&self, cell: CellPos) -> &CellShape {
        let first = self.parts(cell).and_then(|parts| parts.parts.first());
        first.map_or(self.parts.whole().convex.shape(), |part| &part.shape)
    }

    /// Returns the parts of the ground of a cell, from the top down.
    ///
    /// A tile with a shape states that part of its cell alone, and what lies below states
    /// the rest. So there is one part for each such tile, of at most four, and one with the shape
    /// of the whole cell for what is left, if anything shows of it. A strip that is narrower than
    /// [`CellShape::MIN_WIDTH`] does not count. Constant time.
    pub fn parts_at(&self, cell: CellPos) -> impl Iterator<Item = GroundPart> + use<'_> {
        let parts = self.parts(cell);
        let whole = parts.is_none().then(|| GroundPart {
            class: self.class_at(cell),
            shape: *self.parts.whole().convex.shape(),
        });
        let parts = parts.into_iter().flat_map(|parts| &parts.parts);
        let parts =
            parts.map(|part| GroundPart { class: self.class_of(part.code), shape: part.shape });
        parts.chain(whole)
    }

    /// Returns the convex shapes that together are what stops a mover in a cell, from all sides or
    /// from some; they may overlap. A contact or a hit names one of them by its number in this
    /// order.
    pub fn solids_at(
        &self,
        mover: MoverId,
        cell: CellPos,
    ) -> impl Iterator<Item = &CellShape> + use<'_> {
        let treatment = self.treatment(mover, cell);
        let stops = Side::ALL.iter().any(|side| treatment.stops_at(*side));
        let solids = if stops { self.solids_met(mover, cell) } else { &[] };
        solids.iter().map(|solid| solid.convex.shape())
    }

    fn code(&self, cell: CellPos) -> u8 {
        let chunk = self.chunks.get(&cell.chunk());
        chunk.map_or(UNSTATED, |chunk| chunk.codes.at(cell.index_in_chunk()))
    }

    /// The cell inside the bounds that a cell beyond them repeats for those to whom the map goes on
    /// from its other side; without bounds, the cell itself.
    pub(crate) fn repeated(&self, cell: CellPos) -> CellPos {
        if self.bounds.contains(cell) || self.bounds.is_empty() {
            return cell;
        }
        wrapped(cell.x().into(), cell.y().into(), self.bounds)
    }

    /// The cell that a mover meets in a place, which is another one where the map repeats itself.
    pub(crate) fn cell_met(&self, mover: MoverId, cell: CellPos) -> CellPos {
        let wraps = self.table(mover).is_some_and(|table| table.outside == Outside::Wrapped);
        if wraps { self.repeated(cell) } else { cell }
    }

    /// How a mover takes each code; `None` for a handle of another map.
    #[inline]
    pub(crate) fn table(&self, mover: MoverId) -> Option<&MoverTable> {
        let is_it = |table: &&MoverTable| table.birth == mover.birth();
        let hinted = self.movers.get(mover.hint()).filter(is_it);
        hinted.or_else(|| self.movers.iter().find(is_it))
    }

    #[inline]
    pub(crate) fn grid(&self, place: usize) -> Option<&StopGrid> {
        self.grids.get(place)
    }

    /// The chunks within the bounds in which anything stops a mover.
    pub(crate) fn stopping_chunks(&self, mover: MoverId) -> Vec<ChunkPos> {
        let grid = self.table(mover).and_then(|table| self.grid(table.grids.within));
        grid.map_or(Vec::new(), |grid| grid.stopping_chunks(self.bounds))
    }

    /// What the shapes of a chunk are made from.
    pub(crate) fn chunk_state(&self, mover: MoverId, pos: ChunkPos) -> ChunkState {
        let grid = self.table(mover).and_then(|table| self.grid(table.grids.within));
        ChunkState {
            stops: grid.map_or(StopChunk::Free, |grid| grid.kept_chunk(pos)),
            parts: self.chunks.get(&pos).and_then(|chunk| chunk.parts.clone()),
            table: self.parts.clone(),
        }
    }

    /// Whether any cell may have more than one part.
    #[inline]
    pub(crate) fn has_parts(&self) -> bool {
        self.seen.convexes.are_any()
    }

    /// The parts of a cell; `None` where all of it has one class.
    #[inline]
    pub(crate) fn parts(&self, cell: CellPos) -> Option<&Arc<CellParts>> {
        if !self.has_parts() {
            return None;
        }
        let chunk = self.chunks.get(&cell.chunk())?;
        self.parts.get(chunk.parts_at(cell.index_in_chunk()))
    }

    /// The parts of a cell as a mover meets it; `None` where all of it has one class, and beyond the
    /// bounds but for those to whom the map goes on there.
    pub(crate) fn parts_met(&self, mover: MoverId, cell: CellPos) -> Option<&Arc<CellParts>> {
        let cell = self.cell_met(mover, cell);
        self.parts(cell).filter(|_| self.bounds.contains(cell))
    }

    /// What is solid of a cell without parts.
    pub(crate) fn whole_cell(&self) -> &SolidPart {
        self.parts.whole()
    }

    /// What stops a mover in a cell that does, piece by piece: beyond the bounds all of it, but for
    /// those to whom the map goes on there.
    #[inline]
    pub(crate) fn solids_met(&self, mover: MoverId, cell: CellPos) -> &[SolidPart] {
        let whole = std::slice::from_ref(self.parts.whole());
        if !self.has_parts() {
            return whole;
        }
        let cell = self.cell_met(mover, cell);
        if !self.bounds.contains(cell) {
            return whole;
        }
        let solids = self.parts(cell).zip(self.table(mover));
        solids.and_then(|(parts, table)| parts.solids(table.pattern)).unwrap_or(whole)
    }

    /// The convex shapes that together are what blocks a mover in a cell that does.
    pub(crate) fn blocking_shapes(&self, mover: MoverId, cell: CellPos) -> Vec<CellShape> {
        let solids = self.solids_met(mover, cell).iter();
        let blocking = solids.filter(|solid| self.treatment_of(mover, cell, solid).blocks());
        blocking.map(|solid| *solid.convex.shape()).collect()
    }

    /// How a mover takes a piece of what stops it in a cell.
    pub(crate) fn treatment_of(
        &self,
        mover: MoverId,
        cell: CellPos,
        solid: &SolidPart,
    ) -> Treatment {
        match (solid.code, self.table(mover)) {
            (Some(code), Some(table)) => table.treatment(code),
            _ => self.treatment(mover, cell),
        }
    }
}

/// The strictest of the treatments of the parts of a cell, from the top down.
fn strictest(treatments: impl Iterator<Item = Treatment>) -> Treatment {
    let strictness = |treatment: &Treatment| match treatment {
        Treatment::Block => (3, 0.0),
        Treatment::OneWay(_) => (2, 0.0),
        Treatment::Slow(factor) => (1, -factor),
        _ => (0, 0.0),
    };
    let stricter = |held: Treatment, next: Treatment| {
        if strictness(&next) > strictness(&held) { next } else { held }
    };
    treatments.reduce(stricter).unwrap_or_default()
}

/// How each mover takes each code, and a grid for all that are stopped by the same.
fn mover_tables(quilt: &Quilt, has_parts: bool) -> (Vec<MoverTable>, Vec<StopGrid>, Vec<Pattern>) {
    let rules = quilt.ground_rules();
    let mut grids: Vec<StopGrid> = Vec::new();
    let mut patterns: FxHashMap<Pattern, usize> = FxHashMap::default();
    let table = |mover: &Mover| {
        let by_class: Vec<Treatment> =
            rules.classes().map(|class| mover.treatment(class)).collect();
        let pattern = Pattern::new(&by_class, mover.empty(), mover.unloaded());
        let next = patterns.len();
        let pattern = *patterns.entry(pattern).or_insert(next);
        let mut grid_of = |filling: Filling, stops_at: &dyn Fn(Treatment) -> bool| {
            let classes = by_class.iter().enumerate().filter(|(_, held)| stops_at(**held));
            let stops = Stops {
                classes: classes.fold(0, |bits, (class, _)| bits | 1 << class),
                empty: stops_at(mover.empty()),
                unloaded: stops_at(mover.unloaded()),
                filling,
            };
            grids.iter().position(|grid| grid.stops == stops).unwrap_or_else(|| {
                grids.push(StopGrid::new(stops));
                grids.len() - 1
            })
        };
        // Where all cells are whole, one grid does for both.
        let of_whole = if has_parts { Filling::Whole(pattern) } else { Filling::Any };
        let by_any = |held: Treatment| Side::ALL.iter().any(|side| held.stops_at(*side));
        let grids = StopGridPlaces {
            within: grid_of(Filling::Any, &Treatment::blocks),
            whole: grid_of(of_whole, &Treatment::blocks),
            by_side: Side::ALL.map(|side| grid_of(of_whole, &|held| held.stops_at(side))),
            by_any: grid_of(Filling::Any, &by_any),
            parts: has_parts.then(|| grid_of(Filling::Part(pattern), &by_any)),
        };
        MoverTable {
            birth: mover.birth(),
            by_class,
            outside: mover.outside(),
            beyond: Beyond::of(mover.outside()),
            empty: mover.empty(),
            unloaded: mover.unloaded(),
            is_one_way: grids.by_any != grids.within,
            grids,
            pattern,
        }
    };
    let tables = rules.movers().iter().map(table).collect();
    let mut patterns: Vec<(Pattern, usize)> = patterns.into_iter().collect();
    patterns.sort_unstable_by_key(|(_, at)| *at);
    (tables, grids, patterns.into_iter().map(|(pattern, _)| pattern).collect())
}

/// The cell inside the bounds that a place beyond them repeats; the bounds must not be empty.
pub(crate) fn wrapped(x: i64, y: i64, bounds: CellRect) -> CellPos {
    let around = |at: i64, from: i32, length: u32| {
        let way = (at - i64::from(from)).rem_euclid(i64::from(length));
        // Between two edges of the bounds, and so within the limits of cells.
        from + way as i32
    };
    CellPos::new(around(x, bounds.left(), bounds.width()), around(y, bounds.top(), bounds.height()))
}

/// The side by which a cell is come into from the one beside it.
const fn side_between(from: CellPos, to: CellPos) -> Side {
    if to.x() > from.x() {
        Side::Left
    } else if to.x() < from.x() {
        Side::Right
    } else if to.y() > from.y() {
        Side::Top
    } else {
        Side::Bottom
    }
}
