//! Facts of a map that are found before its cells are looked at: the order in which its layers are
//! drawn, and how its tiles look.

use super::order::DrawKey;
use super::pages::Pages;
use super::slant::{Diamond, PaneCells};
use super::sprite::Sprite;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::quilt::{Blend, Layer, LayerSettings, Quilt};
use crate::tile::{Animation, ArtPage, Cell, Coverage, Fit, TileArt, TileId, TileTable, Turn};
use crate::units::{CellPos, PixelRect, PixelSize, WorldRect, WorldVec};
use crate::view::{Facing, Projection};

/// What must be known of a map before its cells are looked at.
#[derive(Clone, Debug)]
pub(crate) struct MapFacts {
    /// How the map is seen.
    pub(crate) projection: Projection,
    /// The diamond of a cell, where it is seen at a slant.
    pub(crate) diamond: Option<Diamond>,
    /// Says that cells are drawn as they lie: the map is seen from above and not turned.
    is_upright: bool,
    /// The cells as the map is laid out.
    lattice: Lattice,
    /// The layers in the order of drawing.
    pub(crate) levels: Vec<Level>,
    /// By layer, raise and standing: the levels.
    level_numbers: LevelNumbers,
    /// By the number of the tile: how it stands, where any tile does.
    standings: Vec<u8>,
    /// By level.
    covers_plainly: Vec<bool>,
    /// By the number of the tile.
    tiles: Vec<TileFacts>,
    /// The same by the number of the tile, but only what decides whether a cell is listed.
    facts: Vec<CellFacts>,
    /// Of tiles that look otherwise from another side: the same in a cell of each turn.
    side_facts: Vec<[CellFacts; 4]>,
    animations: Vec<Animated>,
    /// The tiles that show others from several sides, as their pages and pictures.
    facings: Vec<Vec<Side>>,
    /// By slot: what a palette does to all colours.
    palettes: Vec<Color>,
    pub(super) pages: Pages,
    pub(crate) reach: Reach,
    /// At a slant, the pixels that any picture has, from the top corner of its cell on.
    pub(crate) frame: PaneCells,
}

/// A layer, or the raised cells of one, in the order of drawing.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Level {
    /// The place of the layer in the map.
    pub(crate) layer: u32,
    pub(super) priority: i32,
    pub(crate) elevation: f64,
    /// At a slant, how much higher it is seen than the ground, in picture pixels.
    pub(crate) lifted_px: i64,
    /// At a slant, how near the feet of what stands in its cells are, from the rank of the cell on.
    pub(super) nearness: Option<f64>,
    pub(crate) raised: bool,
    pub(crate) sort_rows: bool,
    /// What is drawn in it; a backdrop comes before the cells of its layer.
    pub(crate) backdrop: Option<Cell>,
    /// What all of it is multiplied by.
    pub(super) color: Color,
    pub(super) blend: Blend,
    /// The palette of the layer.
    pub(super) palette: u8,
}

/// The picture of a tile from one side.
#[derive(Clone, Copy, Debug)]
struct Side {
    page: u32,
    art: TileArt,
    turn: Turn,
}

/// What is known of each tile before any cell is looked at.
#[derive(Clone, Copy, Debug)]
struct TileFacts {
    page: u32,
    art: TileArt,
    /// Its place among the animations.
    animation: Option<u32>,
    /// Its place among those that are shown from several sides.
    facings: Option<u32>,
    /// Its place among those that look otherwise from another side.
    sides: Option<u32>,
    /// The colour that its pixels are multiplied by.
    color: Color,
}

/// What decides how a cell is listed, in as few bytes as can be: it is looked at for each cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct CellFacts(u8);

impl CellFacts {
    pub(super) const OPAQUE: CellFacts = CellFacts(1);
    pub(crate) const CLEAR: CellFacts = CellFacts(2);
    pub(crate) const OVERSIZE: CellFacts = CellFacts(4);
    /// Its tile is raised everywhere.
    pub(crate) const RAISED: CellFacts = CellFacts(8);
    pub(crate) const ANIMATED: CellFacts = CellFacts(16);
    /// At a slant, it has pixels beyond the diamond of its cell.
    pub(super) const JUTS: CellFacts = CellFacts(32);
    /// At a slant, it stands in its cell.
    pub(super) const STANDS: CellFacts = CellFacts(64);
    /// Looks otherwise from another side.
    const SIDED: CellFacts = CellFacts(128);

    /// How a picture looks on a lattice.
    fn of(art: TileArt, lattice: &Lattice) -> CellFacts {
        match art.coverage {
            Coverage::Clear => CellFacts::CLEAR,
            _ if is_oversize(&art, lattice) => CellFacts::OVERSIZE,
            Coverage::Opaque => CellFacts::OPAQUE,
            Coverage::Holed | Coverage::Soft => CellFacts(0),
        }
    }

    /// How a picture, mirrored or not, looks on a diamond. Opaque is what covers all of it.
    fn of_slanted(
        (art, turn): (TileArt, Turn),
        page: Option<&ArtPage>,
        diamond: &Diamond,
        rows: &[(i64, i64)],
    ) -> CellFacts {
        let frame = diamond.frame(&art);
        let is_wide = frame.left < -diamond.half_width || frame.right > diamond.half_width;
        let (covers, juts) = match (art.fit, page) {
            (Fit::Stretched, _) => (art.coverage == Coverage::Opaque, false),
            (_, Some(page)) if !is_wide => diamond.covering((art, turn), page, rows),
            _ => (false, true),
        };
        match art.coverage {
            Coverage::Clear => CellFacts::CLEAR,
            _ => CellFacts(0)
                .with(CellFacts::OVERSIZE, is_wide)
                .with(CellFacts::OPAQUE, covers)
                .with(CellFacts::JUTS, juts),
        }
    }

    /// How a tile looks that may look like either.
    fn or(self, other: CellFacts) -> CellFacts {
        let some = CellFacts::OVERSIZE.0 | CellFacts::JUTS.0;
        let either = CellFacts((self.0 | other.0) & some);
        if self == other { self } else { either }
    }

    /// What may be true of a tile that looks like either.
    fn or_any(self, other: CellFacts) -> CellFacts {
        CellFacts(self.0 | other.0)
    }

    /// With one more of them, where that holds.
    fn with(self, fact: CellFacts, holds: bool) -> CellFacts {
        if holds { CellFacts(self.0 | fact.0) } else { self }
    }

    pub(crate) const fn has(self, fact: CellFacts) -> bool {
        self.0 & fact.0 != 0
    }

    /// Whether it is nothing but opaque or not.
    pub(super) const fn is_plain(self) -> bool {
        self.0 & !CellFacts::OPAQUE.0 == 0
    }
}

/// A tile with several frames.
#[derive(Clone, Debug)]
struct Animated {
    animation: Animation,
    frames: Vec<TileId>,
}

pub(crate) fn is_oversize(art: &TileArt, lattice: &Lattice) -> bool {
    let Fit::Placed(placement) = &art.fit else { return false };
    // Of the size of the cell, a picture lies on it whatever point they have in common.
    let cell = (lattice.cell_width(), lattice.cell_height());
    placement.size(art.source.size) != cell || placement.offset != WorldVec::ZERO
}

/// Which levels the cells of a layer go to: the place of the first in the table of all.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct LayerLevels(u32);

/// By layer: the levels of unraised cells, then those of raised ones; in either, one for each way to
/// stand.
#[derive(Clone, Debug)]
pub(crate) struct LevelNumbers {
    numbers: Vec<u16>,
    standings: usize,
}

impl LevelNumbers {
    /// A table for so many layers and ways to stand.
    pub(super) fn new(layers: usize, standings: usize) -> LevelNumbers {
        LevelNumbers { numbers: vec![u16::MAX; layers * 2 * standings], standings }
    }

    pub(super) fn of_layer(&self, layer: usize) -> Option<LayerLevels> {
        let first = layer * 2 * self.standings;
        (self.numbers[first] != u16::MAX).then_some(LayerLevels(first as u32))
    }

    pub(super) fn set(&mut self, layer: usize, raised: bool, standing: usize, level: u16) {
        let place = (layer * 2 + usize::from(raised)) * self.standings + standing;
        self.numbers[place] = level;
    }

    #[inline]
    pub(super) fn get(&self, levels: LayerLevels, raised: bool, standing: usize) -> u16 {
        self.numbers[levels.0 as usize + usize::from(raised) * self.standings + standing]
    }

    /// All levels of a layer.
    pub(super) fn all(&self, levels: LayerLevels) -> &[u16] {
        &self.numbers[levels.0 as usize..][..2 * self.standings]
    }
}

/// The pixels that a cell shows, and what they are multiplied by.
#[derive(Clone, Copy, Debug)]
pub(crate) struct CellArt<'a> {
    pub(crate) page: u32,
    pub(crate) art: &'a TileArt,
    /// How the pixels are turned.
    pub(crate) turn: Turn,
    pub(crate) color: Color,
}

/// How far pictures reach beyond their cells, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Reach {
    pub(crate) left: f64,
    pub(crate) right: f64,
    pub(crate) up: f64,
    pub(crate) down: f64,
}

/// The ways in which tiles stand in their cells at a slant: how near their feet are, from the rank of
/// the cell on. The first stands for faces. By tile, which of them it is.
pub(super) fn standings(
    tiles: &TileTable,
    diamond: Option<&Diamond>,
) -> (Vec<Option<f64>>, Vec<u8>) {
    /// The most ways that a map can sensibly have; others count as the last one.
    const MAX: usize = 64;
    let mut ways = vec![None];
    if diamond.is_none() {
        return (ways, Vec::new());
    }
    let own = |id: TileId| Diamond::nearness(tiles.art(id).1);
    let mut near: Vec<f64> = tiles.ids().filter_map(own).collect();
    near.sort_unstable_by(f64::total_cmp);
    near.dedup();
    near.truncate(MAX);
    ways.extend(near.iter().copied().map(Some));
    let number = |id: TileId| match own(id) {
        None => 0,
        Some(nearness) => near.partition_point(|other| *other < nearness).min(near.len() - 1) + 1,
    };
    let of_tiles =
        if near.is_empty() { Vec::new() } else { tiles.ids().map(|id| number(id) as u8).collect() };
    (ways, of_tiles)
}

/// The picture of a tile from one side: of one that is mirrored, the place is as well.
fn side_art(tiles: &TileTable, (id, turn): (TileId, Turn)) -> (u32, TileArt) {
    let (page, art) = tiles.art(id);
    (page, if turn.is_mirrored() { art.mirrored() } else { art })
}

/// How a tile of a map that is meant to be seen at a slant looks from above: its cell in the mean colour
/// of its picture; `None` for one without a picture that shows.
fn schematic(tiles: &TileTable, id: TileId, page: u32) -> Option<(TileFacts, CellFacts)> {
    let (_, own) = tiles.art(id);
    if own.fit == Fit::Stretched {
        return None;
    }
    let color = tiles.mean_color(id)?;
    let source = PixelRect::new(0, 0, PixelSize::new(1, 1));
    let art = TileArt { source, coverage: Coverage::Opaque, fit: Fit::Stretched };
    let facts = TileFacts { page, art, animation: None, facings: None, sides: None, color };
    let is_raised = tiles.tile(id).is_some_and(|tile| tile.raise());
    Some((facts, CellFacts::OPAQUE.with(CellFacts::RAISED, is_raised)))
}

impl MapFacts {
    pub(super) fn of(
        quilt: &Quilt,
        projection: Projection,
        (levels, level_numbers, standings): (Vec<Level>, LevelNumbers, Vec<u8>),
    ) -> MapFacts {
        let (tiles, lattice) = (quilt.tiles(), quilt.lattice());
        let diamond = Diamond::of(&projection);
        let (mut animations, mut facings) = (Vec::new(), Vec::new());
        let mut facts = Vec::with_capacity(tiles.len());
        let mut frame = PaneCells::default();
        let rows = diamond.map_or(Vec::new(), |own| own.rows());
        let mut look_of = |(id, turn): (TileId, Turn)| {
            let (page, art) = side_art(tiles, (id, turn));
            let Some(diamond) = &diamond else { return CellFacts::of(art, lattice) };
            if art.coverage != Coverage::Clear {
                frame = frame.union(diamond.frame(&art));
            }
            CellFacts::of_slanted((art, turn), tiles.page(page), diamond, &rows)
        };
        // How it looks in a cell of each turn.
        let mut look_of = |id: TileId| {
            let sides = tiles.facings(id);
            let own = if sides.is_empty() { vec![(id, Turn::NONE)] } else { sides };
            let looks: Vec<CellFacts> = own.into_iter().map(&mut look_of).collect();
            let turned = |steps: u8| usize::from(projection.facing().quarters() + steps);
            [0, 1, 2, 3].map(|steps| looks[turned(steps) % looks.len()])
        };
        let mut side_facts: Vec<[CellFacts; 4]> = Vec::new();
        // Pictures that are meant to be seen at a slant mean nothing from above.
        let is_schematic = diamond.is_none() && quilt.projection().is_slanted();
        let pages = Pages::of(quilt, diamond.as_ref());
        let facts_of_tile = |id: TileId| {
            if is_schematic && let Some((tile, look)) = schematic(tiles, id, pages.plain_number()) {
                facts.push(look);
                return tile;
            }
            let ((page, art), tile) = (tiles.art(id), tiles.tile(id));
            let sides = tiles.facings(id);
            let own_facings = (!sides.is_empty()).then(|| {
                let side = |side: (TileId, Turn)| {
                    let (page, art) = side_art(tiles, side);
                    Side { page, art, turn: side.1 }
                };
                facings.push(sides.into_iter().map(side).collect());
                facings.len() as u32 - 1
            });
            let mut looks = look_of(id);
            let animation = tile.and_then(|tile| tile.animation()).map(|animation| {
                let frames = tiles.frames(id, animation);
                let all: Vec<_> = frames.iter().map(|frame| look_of(*frame)).collect();
                let frames_of = |steps: usize| all.iter().map(move |looks| looks[steps]);
                let either = |steps: usize| frames_of(steps).reduce(CellFacts::or);
                looks = [0, 1, 2, 3].map(|steps| either(steps).unwrap_or(looks[steps]));
                animations.push(Animated { animation: animation.clone(), frames });
                animations.len() as u32 - 1
            });
            let is_raised = tile.is_some_and(|tile| tile.raise());
            let stands = standings.get(id.index()).is_some_and(|number| *number > 0);
            let looks = looks.map(|look| {
                look.with(CellFacts::RAISED, is_raised)
                    .with(CellFacts::STANDS, stands)
                    .with(CellFacts::ANIMATED, animation.is_some())
            });
            let is_sided = looks.iter().any(|look| *look != looks[0]);
            let sides = is_sided.then(|| {
                side_facts.push(looks);
                side_facts.len() as u32 - 1
            });
            let any = looks.into_iter().reduce(CellFacts::or_any).unwrap_or(looks[0]);
            facts.push(any.with(CellFacts::SIDED, is_sided));
            TileFacts { page, art, animation, facings: own_facings, sides, color: Color::WHITE }
        };
        let tiles: Vec<TileFacts> = tiles.ids().map(facts_of_tile).collect();
        if let Some(diamond) = &diamond {
            // What is not loaded, and what is stretched, takes its diamond.
            frame = frame.union(diamond.frame(&TileTable::UNLOADED_ART));
            let lifted = || levels.iter().map(|level| level.lifted_px);
            frame.top -= lifted().max().unwrap_or(0).max(0);
            frame.bottom -= lifted().min().unwrap_or(0).min(0);
        }
        let turned = lattice.swapped(projection.facing().swaps());
        MapFacts {
            projection,
            diamond,
            is_upright: diamond.is_none() && projection.facing() == Facing::UNTURNED,
            lattice: *lattice,
            covers_plainly: levels.iter().map(Level::covers_plainly).collect(),
            levels,
            level_numbers,
            standings,
            reach: if is_schematic { Reach::default() } else { Reach::of(quilt.tiles(), &turned) },
            frame,
            tiles,
            facts,
            side_facts,
            animations,
            facings,
            palettes: std::iter::once(Color::WHITE)
                .chain(quilt.palettes().iter().map(|palette| palette.tint()))
                .collect(),
            pages,
        }
    }

    /// Whether a cell has a face that lies above a sprite and is sorted with it. Only layers that lie on
    /// whole cells count, and all of them do, also those that a limited list leaves out.
    pub(super) fn has_face_above(&self, quilt: &Quilt, at: CellPos, sprite: &Sprite) -> bool {
        let is_above = |layer: &&Layer| {
            let LayerSettings { sort_rows, priority, elevation, .. } = *layer.settings();
            sort_rows
                && priority == sprite.priority
                && elevation > sprite.elevation
                && layer.settings().shows()
        };
        quilt.layers().iter().filter(is_above).any(|layer| {
            let own = layer.settings().offset_cells(quilt.lattice());
            let own = own.and_then(|offset| at.checked_add(offset.reversed()));
            let cell = own.and_then(|own| layer.cells().get(own).here()).unwrap_or_default();
            !cell.is_empty()
                && self.standing(cell) == 0
                && !self.facts_of(cell).has(CellFacts::CLEAR)
        })
    }

    /// The level to which a cell of a layer goes.
    pub(crate) fn level_of(&self, levels: LayerLevels, cell: Cell) -> u16 {
        self.level_numbers.get(levels, self.is_raised(cell), self.standing(cell))
    }

    /// The level of the cells of a layer that stand in a way.
    #[inline]
    pub(super) fn level_in(&self, levels: LayerLevels, raised: bool, standing: usize) -> u16 {
        self.level_numbers.get(levels, raised, standing)
    }

    /// How the tile of a cell stands in it; 0 for faces.
    #[inline]
    pub(crate) fn standing(&self, cell: Cell) -> usize {
        let number = cell.number().and_then(|tile| self.standings.get(tile.index()));
        number.copied().unwrap_or(0).into()
    }

    /// The pixels of a picture at a slant, from the top corner of its cell on; lifted as its level is.
    pub(crate) fn frame_of(&self, diamond: &Diamond, art: &TileArt, level: u16) -> PaneCells {
        diamond.frame(art).moved(0, -self.levels[usize::from(level)].lifted_px)
    }

    /// The width and height of a cell on the pane; at a slant, of the rectangle around it.
    pub(crate) fn cell_size(&self) -> (f64, f64) {
        match &self.diamond {
            Some(own) => (2.0 * own.half_width as f64, 2.0 * own.half_height as f64),
            None => {
                let turned = self.lattice.swapped(self.projection.facing().swaps());
                (turned.cell_width(), turned.cell_height())
            }
        }
    }

    /// Whether a picture is larger than its cell, or lies elsewhere.
    pub(crate) fn is_oversize(&self, art: &TileArt) -> bool {
        self.diamond.is_none() && is_oversize(art, &self.lattice)
    }

    /// The picture of a cell as the map is turned, in a colour.
    fn side<'a>(&'a self, cell: Cell, facts: &'a TileFacts, color: Color) -> CellArt<'a> {
        let Some(sides) = facts.facings.map(|number| &self.facings[number as usize]) else {
            let (page, art) = (facts.page, &facts.art);
            return CellArt { page, art, turn: self.turn(cell, art), color };
        };
        let quarters = self.projection.facing().quarters() + cell.turn().steps();
        let Side { page, art, turn } = &sides[usize::from(quarters) % sides.len()];
        let turn = if cell.turn().is_mirrored() { turn.then(Turn::MIRROR) } else { *turn };
        CellArt { page: *page, art, turn, color }
    }

    /// How the pixels of a cell are turned. What lies on its cell turns with the map; what stands
    /// stays upright; at a slant nothing turns.
    fn turn(&self, cell: Cell, art: &TileArt) -> Turn {
        let own = cell.turn();
        if self.diamond.is_some() {
            return if own.is_mirrored() { Turn::MIRROR } else { Turn::NONE };
        }
        let quarters = self.projection.facing().quarters();
        match Turn::square(false, quarters).filter(|_| quarters > 0) {
            Some(map) if !self.is_oversize(art) => own.then(map),
            _ => own,
        }
    }

    /// What is known of a cell before it is drawn; what is not loaded looks solid.
    #[inline]
    pub(crate) fn facts_of(&self, cell: Cell) -> CellFacts {
        let tile = cell.number().and_then(|tile| self.facts.get(tile.index()));
        let facts = tile.copied().unwrap_or(CellFacts::OPAQUE);
        if facts.has(CellFacts::SIDED) { self.side_facts_of(cell) } else { facts }
    }

    /// What is known of a cell whose tile looks otherwise from another side.
    #[cold]
    fn side_facts_of(&self, cell: Cell) -> CellFacts {
        let sides = self.facts(cell).and_then(|facts| facts.sides);
        let looks = sides.and_then(|number| self.side_facts.get(number as usize));
        looks.map_or(CellFacts::OPAQUE, |looks| looks[usize::from(cell.turn().steps())])
    }

    /// Whether any tile is larger than its cell.
    pub(crate) fn has_oversize(&self) -> bool {
        self.facts.iter().any(|facts| facts.has(CellFacts::OVERSIZE))
    }

    #[inline]
    fn facts(&self, cell: Cell) -> Option<&TileFacts> {
        self.tiles.get(cell.number()?.index())
    }

    /// Whether a cell goes to the raised level of its layer.
    pub(crate) fn is_raised(&self, cell: Cell) -> bool {
        cell.is_raised() || self.facts_of(cell).has(CellFacts::RAISED)
    }

    /// Whether what a cell shows changes with time.
    pub(crate) fn is_animated(&self, cell: Cell) -> bool {
        self.facts_of(cell).has(CellFacts::ANIMATED)
    }

    /// The tile that a cell shows at a time, or since it was begun to be played once.
    pub(crate) fn frame(&self, cell: Cell, at: CellPos, now_ms: u64, played: Option<u64>) -> Cell {
        let number = self.facts(cell).and_then(|facts| facts.animation);
        let Some(animated) = number.map(|number| &self.animations[number as usize]) else {
            return cell;
        };
        let frame = match played {
            Some(played_ms) => animated.animation.number_once(played_ms),
            None => animated.animation.number_at(now_ms, at),
        };
        let frame = frame.and_then(|frame| animated.frames.get(frame));
        frame.map_or(cell, |tile| cell.with_tile(*tile))
    }

    /// All that a cell shows one after the other; nothing if it does not change.
    pub(crate) fn frames_of(&self, cell: Cell) -> impl Iterator<Item = Cell> {
        let number = self.facts(cell).and_then(|facts| facts.animation);
        let animated = number.map(|number| &self.animations[number as usize]);
        let frames = animated.into_iter().flat_map(|animated| &animated.frames);
        frames.map(move |tile| cell.with_tile(*tile))
    }

    /// The levels of a layer; `None` where nothing of it is drawn.
    pub(crate) fn levels_of(&self, layer: usize) -> Option<LayerLevels> {
        self.level_numbers.of_layer(layer)
    }

    /// The pixels of a cell in a level; an empty cell stands for what is not loaded.
    #[inline(always)]
    pub(super) fn cell_art(&self, cell: Cell, level: &Level) -> CellArt<'_> {
        self.cell_art_in(cell, level.palette, level.color)
    }

    /// The pixels of a backdrop, which is not seen at a slant.
    pub(super) fn backdrop_art(&self, cell: Cell, level: &Level) -> CellArt<'_> {
        let plain = self.plain_art(cell, level.palette, level.color);
        // It hangs behind the map, and is not turned with that either.
        CellArt { turn: cell.turn(), ..plain }
    }

    /// The pixels of a cell in the tint of a palette and its own; in the colours of the first if it
    /// has no palette itself. All in a colour besides that.
    #[inline(always)]
    pub(crate) fn cell_art_in(&self, cell: Cell, palette: u8, color: Color) -> CellArt<'_> {
        self.projected(self.plain_art(cell, palette, color))
    }

    #[inline(always)]
    fn plain_art(&self, cell: Cell, palette: u8, color: Color) -> CellArt<'_> {
        let Some(facts) = self.facts(cell) else {
            let (page, art, turn) = (0, &TileTable::UNLOADED_ART, Turn::NONE);
            return CellArt { page, art, turn, color };
        };
        let own = cell.palette();
        let plain = match facts.facings {
            None if self.is_upright => {
                CellArt { page: facts.page, art: &facts.art, turn: cell.turn(), color }
            }
            _ => self.side(cell, facts, color),
        };
        if palette == 0 && own == 0 && facts.color == Color::WHITE {
            return plain;
        }
        self.dyed(plain, facts.color, (palette, own))
    }

    /// The pixels of a cell in the colour of its tile and the tint of two palettes, in the colours of
    /// the second if there is one.
    fn dyed<'a>(&self, plain: CellArt<'a>, color: Color, (palette, own): (u8, u8)) -> CellArt<'a> {
        let replacing = if own == 0 { palette } else { own };
        CellArt {
            page: self.pages.in_palette(plain.page, replacing),
            color: plain.color.times(color).times(self.tint(palette)).times(self.tint(own)),
            ..plain
        }
    }

    /// The pixels of a picture as the map is seen: at a slant, what is stretched over its cell becomes
    /// a diamond in its colour.
    #[inline]
    fn projected<'a>(&'a self, plain: CellArt<'a>) -> CellArt<'a> {
        if self.diamond.is_some() && plain.art.fit == Fit::Stretched {
            self.pages.diamond(plain)
        } else {
            plain
        }
    }

    fn tint(&self, palette: u8) -> Color {
        self.palettes.get(usize::from(palette)).copied().unwrap_or(Color::WHITE)
    }

    /// Whether every opaque tile in a level that has no palette hides all that is drawn below it.
    pub(super) fn covers_plainly(&self, level: u16) -> bool {
        self.covers_plainly[usize::from(level)]
    }

    /// Whether a cell hides all that is drawn below it in its place.
    pub(crate) fn covers(&self, cell: Cell, level: u16) -> bool {
        if !self.facts_of(cell).has(CellFacts::OPAQUE) {
            return false;
        }
        let level = &self.levels[usize::from(level)];
        if cell.palette() == 0 && level.palette == 0 {
            return level.covers_plainly();
        }
        let CellArt { page, color, .. } = self.cell_art(cell, level);
        level.blend == Blend::Normal && color.a == 255 && self.pages.keeps_alpha(page)
    }
}

impl Level {
    fn covers_plainly(&self) -> bool {
        self.palette == 0 && self.blend == Blend::Normal && self.color.a == 255
    }

    pub(super) const fn priority(&self) -> i32 {
        self.priority
    }

    /// Says whether the cells of two levels lie among each other, row by row or rank by rank.
    pub(super) fn mixes_with(&self, other: &Level, is_slanted: bool) -> bool {
        self.sort_rows
            && other.sort_rows
            && self.priority == other.priority
            && (is_slanted || self.raised == other.raised)
    }

    /// The key of a cell of a map that is turned as it is seen.
    #[inline]
    pub(crate) fn key(
        &self,
        lattice: &Lattice,
        (offset, projection): (WorldVec, &Projection),
        at: CellPos,
    ) -> DrawKey {
        let rank = || f64::from(super::slant::rank(at));
        let foot = self.sort_rows.then(|| match projection.is_slanted() {
            true => rank(),
            false => lattice.foot_y(at.y()) + offset.y,
        });
        let place = projection.facing().reversed().turn_cell(at);
        let key = DrawKey::of_cell(self.priority, self.raised, foot, self.layer, place);
        let nearness = self.nearness.map_or(f64::NEG_INFINITY, |nearness| rank() + nearness);
        DrawKey { elevation: self.elevation, nearness, ..key }.seen_by(projection)
    }
}

impl Reach {
    /// The most cells that a picture reaches in any direction.
    pub(crate) fn in_cells(&self, lattice: &Lattice) -> u32 {
        let across = self.left.max(self.right) / lattice.cell_width();
        let down = self.up.max(self.down) / lattice.cell_height();
        across.max(down).ceil() as u32
    }

    /// Where the cells lie whose pictures may reach into an area: what reaches to the right comes
    /// into it from the left, and so on.
    pub(crate) fn around(&self, area: WorldRect) -> WorldRect {
        WorldRect::between(
            area.min() - WorldVec::new(self.right, self.down),
            area.max() + WorldVec::new(self.left, self.up),
        )
    }

    pub(crate) fn of(tiles: &TileTable, lattice: &Lattice) -> Reach {
        let sides = tiles.ids().flat_map(|id| tiles.facings(id));
        let own = tiles.ids().map(|id| (id, Turn::NONE));
        own.chain(sides).fold(Reach::default(), |reach, side| {
            let art = side_art(tiles, side).1;
            let Fit::Placed(placement) = art.fit else { return reach };
            // Turned, width and height change places; reach for both.
            let (width, height) = placement.size(art.source.size);
            let longest = width.max(height);
            let (wider, higher) = (longest - lattice.cell_width(), longest - lattice.cell_height());
            // How far it lies from where the two points would have the same parts.
            let (((x, y), (cell_x, cell_y)), offset) = (placement.points(), placement.offset);
            let across = offset.x + (cell_x - x) * lattice.cell_width();
            let down = offset.y + (cell_y - y) * lattice.cell_height();
            Reach {
                left: reach.left.max(x * wider - across),
                right: reach.right.max((1.0 - x) * wider + across),
                up: reach.up.max(y * higher - down),
                down: reach.down.max((1.0 - y) * higher + down),
            }
        })
    }
}
