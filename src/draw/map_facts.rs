//! Facts of a map that are found before its cells are looked at: the order in which its layers are
//! drawn, and how its tiles look.

use super::order::DrawKey;
use super::pages::Pages;
use crate::lattice::Lattice;
use crate::picture::Color;
use crate::quilt::{Blend, Quilt};
use crate::tile::{Animation, Cell, Coverage, Fit, TileArt, TileId, TileTable};
use crate::units::{CellPos, WorldRect, WorldVec};

/// What must be known of a map before its cells are looked at.
#[derive(Clone, Debug)]
pub(crate) struct MapFacts {
    /// The layers in the order of drawing.
    pub(crate) levels: Vec<Level>,
    /// By level.
    covers_plainly: Vec<bool>,
    /// By the number of the tile.
    tiles: Vec<TileFacts>,
    /// The same by the number of the tile, but only what decides whether a cell is listed.
    facts: Vec<CellFacts>,
    animations: Vec<Animated>,
    /// By slot: what a palette does to all colours.
    palettes: Vec<Color>,
    pub(super) pages: Pages,
    pub(crate) reach: Reach,
}

/// A layer, or the raised cells of one, in the order of drawing.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Level {
    /// The place of the layer in the map.
    pub(crate) layer: u32,
    pub(super) priority: i32,
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

/// What is known of each tile before any cell is looked at.
#[derive(Clone, Copy, Debug)]
struct TileFacts {
    page: u32,
    art: TileArt,
    /// Its place among the animations.
    animation: Option<u32>,
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

    /// How a picture looks on a lattice.
    fn of(art: TileArt, lattice: &Lattice) -> CellFacts {
        match art.coverage {
            Coverage::Clear => CellFacts::CLEAR,
            _ if is_oversize(art, lattice) => CellFacts::OVERSIZE,
            Coverage::Opaque => CellFacts::OPAQUE,
            Coverage::Holed | Coverage::Soft => CellFacts(0),
        }
    }

    /// How a tile looks that may look like either.
    fn or(self, other: CellFacts) -> CellFacts {
        let either = CellFacts((self.0 | other.0) & CellFacts::OVERSIZE.0);
        if self == other { self } else { either }
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

pub(crate) fn is_oversize(art: TileArt, lattice: &Lattice) -> bool {
    let Fit::Placed(placement) = art.fit else { return false };
    // Of the size of the cell, a picture lies on it whatever point they have in common.
    let cell = (lattice.cell_width(), lattice.cell_height());
    placement.size(art.source.size) != cell || placement.offset != WorldVec::ZERO
}

/// Which levels the unraised and the raised cells of a layer go to.
pub(crate) type LayerLevels = (u16, u16);

/// The pixels that a cell shows, and what they are multiplied by.
#[derive(Clone, Copy, Debug)]
pub(crate) struct CellArt {
    pub(crate) page: u32,
    pub(crate) art: TileArt,
    pub(crate) color: Color,
}

/// How far pictures reach beyond their cells, in world units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Reach {
    pub(super) left: f64,
    pub(super) right: f64,
    pub(super) up: f64,
    pub(super) down: f64,
}

impl MapFacts {
    pub(super) fn of(quilt: &Quilt, levels: Vec<Level>) -> MapFacts {
        let (tiles, lattice) = (quilt.tiles(), quilt.lattice());
        let mut animations = Vec::new();
        let mut facts = Vec::with_capacity(tiles.len());
        let facts_of_tile = |id: TileId| {
            let ((page, art), tile) = (tiles.art(id), tiles.tile(id));
            let mut look = CellFacts::of(art, lattice);
            let animation = tile.and_then(|tile| tile.animation()).map(|animation| {
                let frames = tiles.frames(id, animation);
                let facts = frames.iter().map(|frame| CellFacts::of(tiles.art(*frame).1, lattice));
                look = facts.reduce(CellFacts::or).unwrap_or(look);
                animations.push(Animated { animation: animation.clone(), frames });
                animations.len() as u32 - 1
            });
            let is_raised = tile.is_some_and(|tile| tile.raise());
            let look = look.with(CellFacts::RAISED, is_raised);
            facts.push(look.with(CellFacts::ANIMATED, animation.is_some()));
            TileFacts { page, art, animation }
        };
        let tiles: Vec<TileFacts> = tiles.ids().map(facts_of_tile).collect();
        MapFacts {
            covers_plainly: levels.iter().map(Level::covers_plainly).collect(),
            levels,
            reach: Reach::of(quilt.tiles(), lattice),
            tiles,
            facts,
            animations,
            palettes: std::iter::once(Color::WHITE)
                .chain(quilt.palettes().iter().map(|palette| palette.tint()))
                .collect(),
            pages: Pages::of(quilt),
        }
    }

    /// What is known of a cell before it is drawn; what is not loaded looks solid.
    #[inline]
    pub(crate) fn facts_of(&self, cell: Cell) -> CellFacts {
        let tile = cell.number().and_then(|tile| self.facts.get(tile.index()));
        tile.copied().unwrap_or(CellFacts::OPAQUE)
    }

    /// Whether any tile is larger than its cell.
    pub(crate) fn has_oversize(&self) -> bool {
        self.facts.iter().any(|facts| facts.has(CellFacts::OVERSIZE))
    }

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

    /// The pixels of a cell in a level; an empty cell stands for what is not loaded.
    pub(super) fn cell_art(&self, cell: Cell, level: &Level) -> CellArt {
        self.cell_art_in(cell, level.palette, level.color)
    }

    /// The pixels of a cell in the tint of a palette and its own; in the colours of the first if it
    /// has no palette itself. All in a colour besides that.
    pub(super) fn cell_art_in(&self, cell: Cell, palette: u8, color: Color) -> CellArt {
        let Some(facts) = self.facts(cell) else {
            return CellArt { page: 0, art: TileTable::UNLOADED_ART, color };
        };
        let own = cell.palette();
        if palette == 0 && own == 0 {
            return CellArt { page: facts.page, art: facts.art, color };
        }
        let replacing = if own == 0 { palette } else { own };
        CellArt {
            page: self.pages.in_palette(facts.page, replacing),
            art: facts.art,
            color: color.times(self.tint(palette)).times(self.tint(own)),
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

    pub(super) fn mixes_with(&self, other: &Level) -> bool {
        self.sort_rows
            && other.sort_rows
            && (self.priority, self.raised) == (other.priority, other.raised)
    }

    pub(crate) fn key(&self, lattice: &Lattice, offset: WorldVec, at: CellPos) -> DrawKey {
        let foot = self.sort_rows.then(|| lattice.foot(at).y + offset.y);
        DrawKey::of_cell(self.priority, self.raised, foot, self.layer, at)
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
        tiles.ids().fold(Reach::default(), |reach, id| {
            let art = tiles.art(id).1;
            let Fit::Placed(placement) = art.fit else { return reach };
            // Turned, width and height change places; reach for both.
            let (width, height) = placement.size(art.source.size);
            let longest = width.max(height);
            let (wider, higher) = (longest - lattice.cell_width(), longest - lattice.cell_height());
            let ((x, y), offset) = (placement.anchor, placement.offset);
            Reach {
                left: reach.left.max(x * wider - offset.x),
                right: reach.right.max((1.0 - x) * wider + offset.x),
                up: reach.up.max(y * higher - offset.y),
                down: reach.down.max((1.0 - y) * higher + offset.y),
            }
        })
    }
}
