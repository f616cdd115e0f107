//! Explanations why a cell does not show.

use std::fmt;

use rustc_hash::FxHashSet;

use crate::draw::{
    Alignment, CellFacts, DrawKind, DrawList, LayerLevels, Limit, MapFacts, Motion, Placement,
    RankSpan, Scene, SlantedView, size_on_pane,
};
use crate::plane::Presence;
use crate::quilt::{Layer, Quilt};
use crate::tile::{Cell, TileTable};
use crate::units::{CellOffset, CellPos, CellRect, ScreenRect};
use crate::view::{Facing, Projection, View};

/// The reason why a cell of a layer shows or does not.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub enum Visibility<'a> {
    /// It shows, or parts of it do.
    Shown,
    /// No set has its tile, so a placeholder shows: the set, its sheet or the tile is missing.
    Placeholder,
    /// Nothing lies there.
    Empty,
    /// No tile lies there, and the layer's backdrop shows.
    Backdrop {
        /// The backdrop.
        cell: Cell,
    },
    /// Its tile has no pixels to show.
    Clear,
    /// Another cell covers it wholly.
    Covered {
        /// What covers it.
        by: Cell,
        /// The layer of that.
        layer: &'a Layer,
    },
    /// It lies beyond the edge of the view.
    OutOfView,
    /// It is so small that it has no pixel.
    TooSmall,
    /// Its layer is hidden.
    LayerHidden,
    /// Its layer is never drawn.
    LayerNotDrawn,
    /// Its layer has opacity 0.
    LayerClear,
    /// Its chunk is not loaded, so a plain placeholder shows.
    NotLoaded,
}

/// The cell of a layer at a place, as [`Quilt::explain_cell`] gives it. Its text says whether and
/// why not it shows.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct CellVisibility<'a> {
    /// The layer.
    pub layer: &'a Layer,
    /// The layer's own cell, which differs from the cell of the map where the layer has an offset,
    /// has a parallax or repeats itself.
    pub at: CellPos,
    /// What lies there; empty where it is not loaded.
    pub cell: Cell,
    /// Whether it shows.
    pub visibility: Visibility<'a>,
    tiles: &'a TileTable,
}

/// The part of a layer that a view shows, as [`Quilt::explain_view`] gives it. Its text says so, or
/// why nothing shows.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct LayerVisibility<'a> {
    /// The layer.
    pub layer: &'a Layer,
    /// Its cells that hold something, in view and out of it.
    pub bounds: CellRect,
    /// Its cells in view that hold something.
    pub in_view: usize,
    /// Those that show.
    pub shown: usize,
    /// Those that show a placeholder, because their tile is missing; they are among the shown.
    pub placeholders: usize,
    /// Those whose tile has no pixels to show.
    pub clear: usize,
    /// Those that others cover wholly.
    pub covered: usize,
    /// Those that are so small, or of which so little is in view, that they have no pixel.
    pub too_small: usize,
    /// Whether its backdrop shows; it may be covered all the same by cells that do not move with
    /// it.
    pub backdrop: bool,
}

/// The part of a map that a view shows, layer by layer from the top. Its text, some lines, says why
/// the view is empty where it is.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct ViewVisibility<'a> {
    /// The cells of the map that the view looks at.
    pub looks_at: CellRect,
    /// The cells that the map spans.
    pub bounds: CellRect,
    /// How the map is seen.
    pub seen_by: Projection,
    /// How the map is meant to be seen.
    pub meant: Projection,
    /// Whether the projection of the view is made for the cells of the map; else nothing shows.
    pub fits: bool,
    /// Its layers, the topmost first.
    pub layers: Vec<LayerVisibility<'a>>,
}

impl Quilt {
    /// Explains for each layer, the topmost first, what it has in a cell of the map, and whether
    /// that shows in a view or else why not.
    ///
    /// Layers that have a parallax, a speed (at time 0), repeat themselves, or whose offset is not a whole
    /// number of cells, are looked at where the view shows the middle of the cell.
    ///
    /// ```
    /// use sturdy_quilt::inspect::Visibility;
    /// use sturdy_quilt::{CellPos, LayerSettings, ScreenSize, View};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// quilt.edit("a floor", |pen| {
    ///     pen.add_layer("floor", LayerSettings::default().with_priority(1))?;
    ///     pen.put("floor", CellPos::new(2, 0), pen.tile("garden/grass")?)
    /// })?;
    /// let view = View::new(ScreenSize::new(640, 400));
    /// let found = quilt.explain_cell(CellPos::new(2, 0), &view);
    /// assert!(matches!(found[0].visibility, Visibility::Shown));
    /// assert_eq!(found[1].to_string(), "covered by garden/grass of layer floor");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn explain_cell(&self, cell: CellPos, view: &View) -> Vec<CellVisibility<'_>> {
        Explainer::of(self, view).cell(cell)
    }

    /// Explains what a view shows of each layer, and why it shows nothing where it does.
    ///
    /// For diagnosis: costs a look at each cell in view, and at each quad.
    ///
    /// ```
    /// use sturdy_quilt::{ScreenSize, View, WorldPoint};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let far = View::new(ScreenSize::new(160, 80)).centered_on(WorldPoint::new(9000.0, 0.0));
    /// let text = quilt.explain_view(&far).to_string();
    /// assert_eq!(text.lines().next(), Some("nothing shows: the view looks at 11 × 6 cells at 557,-3, and the map spans 4 × 3 cells at 0,0"));
    /// ```
    pub fn explain_view(&self, view: &View) -> ViewVisibility<'_> {
        let mut list = DrawList::new();
        list.rebuild(self, view);
        let (mut drawn, mut small) = (FxHashSet::default(), FxHashSet::default());
        let mut backdrops = FxHashSet::default();
        for quad in list.quads() {
            let screen = ScreenRect::of_size(list.upright().size());
            let empty = quad.target.intersection(screen).is_empty();
            if quad.key.kind == DrawKind::Cell {
                let held = if empty { &mut small } else { &mut drawn };
                held.insert((quad.key.layer, quad.key.place));
            } else if quad.key.kind == DrawKind::Backdrop && !empty {
                backdrops.insert(quad.key.layer);
            }
        }
        let looks_at = view.visible_cells(self.lattice());
        let mut layers = Vec::new();
        for (number, layer) in from_the_top(self) {
            let (settings, number) = (layer.settings(), number as u32);
            let backdrop = backdrops.contains(&number);
            let mut visibility = LayerVisibility { backdrop, ..LayerVisibility::of(layer) };
            let mut scratch = Vec::new();
            for LookedAt { cells, by, facing, span } in list.looked_at(self, number) {
                let cells = cells.intersection(visibility.bounds);
                layer.cells().read_blocks(cells, &mut scratch, |run| {
                    let in_view = |own: CellPos| {
                        let shown = facing.turn_cell(own.saturating_add(by));
                        span.is_none_or(|span| span.contains(shown))
                    };
                    let held = run.each().filter(|(_, cell)| !cell.is_empty());
                    for (own, cell) in held.filter(|(own, _)| in_view(*own)) {
                        let place = (number, own.saturating_add(by));
                        let is_drawn = (drawn.contains(&place), small.contains(&place));
                        visibility.count(cell, self.tiles(), settings.shows().then_some(is_drawn));
                    }
                });
            }
            layers.push(visibility);
        }
        let (seen_by, meant) = (*view.projection(), *self.projection());
        let fits = seen_by.fits(self.lattice());
        ViewVisibility { looks_at, bounds: self.bounds(), seen_by, meant, fits, layers }
    }
}

/// What there is to know of a map and a view to explain many cells.
pub(super) struct Explainer<'a> {
    quilt: &'a Quilt,
    upright: View,
    scene: Scene,
    /// By layer: its levels, where it is drawn.
    levels: Vec<Option<LayerLevels>>,
}

impl<'a> Explainer<'a> {
    pub(super) fn of(quilt: &'a Quilt, view: &View) -> Explainer<'a> {
        let (scene, alignments) = Scene::of(quilt, view, &Limit::default());
        let mut levels = vec![None; quilt.layers().len()];
        for member in alignments.iter().flat_map(|alignment| &alignment.members) {
            levels[member.layer as usize] = Some(member.levels);
        }
        Explainer { quilt, upright: view.upright(), scene, levels }
    }

    /// What each layer has in a cell of the map, the topmost first.
    pub(super) fn cell(&self, cell: CellPos) -> Vec<CellVisibility<'a>> {
        let quilt = self.quilt;
        let held: Vec<LayerCell<'a>> = from_the_top(quilt)
            .into_iter()
            .map(|(number, layer)| {
                let (shown, at, placement) = Motion::over(quilt, number, cell, (&self.upright, 0));
                let (held, levels) = (layer.cells().get(at), self.levels[number]);
                LayerCell { layer, number, shown, at, placement, held, levels }
            })
            .collect();
        let found = held.iter().map(|own| CellVisibility {
            layer: own.layer,
            at: own.at,
            cell: own.cell(),
            visibility: own.visibility(&held, &self.scene, self.unseen(own)),
            tiles: quilt.tiles(),
        });
        found.collect()
    }

    /// Why the place of a cell has no pixels, where it has none.
    fn unseen(&self, held: &LayerCell<'_>) -> Option<Visibility<'a>> {
        let bounds = self.quilt.lattice().bounds(held.shown).moved(held.placement.offset);
        let Placement { view, .. } = held.placement;
        let elevation = held.layer.settings().elevation;
        let pixels = view.pixels(view.projection().around(bounds, elevation));
        if pixels.is_empty() {
            return Some(Visibility::TooSmall);
        }
        let shown = pixels.intersection(ScreenRect::of_size(self.upright.size()));
        shown.is_empty().then_some(Visibility::OutOfView)
    }
}

/// The layers of a map with their numbers, the topmost first.
pub(super) fn from_the_top(quilt: &Quilt) -> Vec<(usize, &Layer)> {
    let mut layers: Vec<(usize, &Layer)> = quilt.layers().iter().enumerate().collect();
    layers.sort_by_key(|(_, layer)| layer.settings().priority);
    layers.reverse();
    layers
}

impl DrawList {
    /// The cells of a layer that the view looks at, in pieces, and how far from there they show.
    fn looked_at(&self, quilt: &Quilt, layer: u32) -> Vec<LookedAt> {
        let mut pieces = Vec::new();
        let facing = self.view().projection().facing();
        let own = facing.reversed();
        for alignment in &self.alignments {
            for member in alignment.members.iter().filter(|member| member.layer == layer) {
                let span = self.cells_on_screen(alignment);
                pieces.extend(alignment.patches.iter().map(|patch| {
                    let cells = own.turn_cells(alignment.on_screen(patch));
                    let cells = member.rows_of(cells);
                    LookedAt { cells, by: own.turn_offset(patch.by), facing, span }
                }));
            }
        }
        if pieces.is_empty() {
            // Of a layer that is not drawn, those that would be in view if it did not move.
            let offset = quilt.layers()[layer as usize].settings().offset;
            let area = self.upright().visible().moved(offset * -1.0);
            let (cells, by) = (quilt.lattice().cells_in(area), CellOffset::new(0, 0));
            pieces.push(LookedAt { cells, by, facing, span: None });
        }
        pieces
    }

    /// At a slant, the cells that are on the screen themselves, not only their pictures.
    fn cells_on_screen(&self, alignment: &Alignment) -> Option<RankSpan> {
        let diamond = self.scene.as_ref()?.map_facts.diamond?;
        let SlantedView { area, corner, .. } = alignment.slanted?;
        let area = area.moved(-corner.0, -corner.1);
        Some(RankSpan::in_area(area, diamond.own_frame(), &diamond))
    }
}

/// Cells of a layer that a view looks at.
struct LookedAt {
    cells: CellRect,
    /// How far from there they show.
    by: CellOffset,
    /// How the map is turned, and which of its cells then are on the screen, where not all are.
    facing: Facing,
    span: Option<RankSpan>,
}

/// What one layer holds at a place.
struct LayerCell<'a> {
    layer: &'a Layer,
    /// Its place among the layers.
    number: usize,
    /// Where it shows.
    shown: CellPos,
    /// The layer's own cell.
    at: CellPos,
    placement: Placement,
    held: Presence<Cell>,
    /// `None` where the layer is not drawn at all.
    levels: Option<LayerLevels>,
}

impl<'a> LayerCell<'a> {
    /// What it holds, or nothing where that is not loaded.
    fn cell(&self) -> Cell {
        self.held.here().unwrap_or_default()
    }

    /// The level in which its cell is drawn.
    fn level(&self, map_facts: &MapFacts) -> Option<u16> {
        self.levels.map(|levels| map_facts.level_of(levels, self.cell()))
    }

    /// Whether the cells of two layers lie on the same edges here.
    fn moves_with(&self, other: &LayerCell<'_>, projection: &Projection) -> bool {
        let strip = |held: &LayerCell<'_>| {
            let strips = Motion::strips(held.number, held.layer.settings(), projection).into_iter();
            let row = held.shown.y();
            { strips }.find(|strip| (strip.rows.0..strip.rows.1).contains(&row)).map(|s| s.motion)
        };
        strip(self) == strip(other)
    }

    /// `unseen` is why its place in the view has no pixels, where it has none.
    fn visibility(
        &self,
        all: &[LayerCell<'a>],
        scene: &Scene,
        unseen: Option<Visibility<'a>>,
    ) -> Visibility<'a> {
        let settings = self.layer.settings();
        if !settings.visible {
            return Visibility::LayerHidden;
        }
        if !settings.draws {
            return Visibility::LayerNotDrawn;
        }
        let Some(cell) = self.held.here() else { return Visibility::NotLoaded };
        if cell.is_empty() {
            return self.backdrop(all, scene, unseen);
        }
        let map_facts = &scene.map_facts;
        let Some(level) = self.level(map_facts) else { return Visibility::LayerClear };
        let facts = map_facts.facts_of(cell);
        if facts.has(CellFacts::CLEAR) {
            return Visibility::Clear;
        }
        // A tile that is larger than its cell can reach into the view from beyond it.
        let is_oversize = facts.has(CellFacts::OVERSIZE);
        if let Some(unseen) = unseen.filter(|_| !is_oversize) {
            return unseen;
        }
        let turned = map_facts.projection.facing().turn_cell(self.at);
        let key = |level: u16| {
            scene.key(&map_facts.levels[usize::from(level)], self.placement.offset, turned)
        };
        let covers = |other: &&LayerCell<'a>| {
            self.moves_with(other, &map_facts.projection)
                && other.at == self.at
                && other.held != Presence::Here(Cell::EMPTY)
                && other
                    .level(map_facts)
                    .is_some_and(|its| map_facts.covers(other.cell(), its) && key(its) > key(level))
        };
        let covering = all.iter().filter(covers);
        match covering.max_by_key(|other| other.level(map_facts).map(key)) {
            Some(other) if !is_oversize => {
                Visibility::Covered { by: other.cell(), layer: other.layer }
            }
            _ if scene.tiles.tile_of(cell).is_some_and(|id| scene.tiles.is_missing(id)) => {
                Visibility::Placeholder
            }
            _ => Visibility::Shown,
        }
    }
}

impl<'a> LayerCell<'a> {
    /// What shows of the layer where no tile of it lies.
    fn backdrop(
        &self,
        all: &[LayerCell<'a>],
        scene: &Scene,
        unseen: Option<Visibility<'a>>,
    ) -> Visibility<'a> {
        let Some(cell) = self.layer.settings().backdrop else { return Visibility::Empty };
        if self.levels.is_none() {
            return Visibility::LayerClear;
        }
        if scene.map_facts.facts_of(cell).has(CellFacts::CLEAR) {
            return Visibility::Clear;
        }
        if !self.backdrop_covers(cell, scene) {
            return Visibility::Empty;
        }
        if let Some(unseen) = unseen {
            return unseen;
        }
        // From the top down, those before it lie above it.
        let above = all.iter().take_while(|other| other.number != self.number);
        let covers = |other: &&LayerCell<'a>| {
            let facts = scene.map_facts.facts_of(other.cell());
            !other.cell().is_empty()
                && !facts.has(CellFacts::OVERSIZE)
                && other
                    .level(&scene.map_facts)
                    .is_some_and(|its| scene.map_facts.covers(other.cell(), its))
                && other.layer.settings().offset_cells(&scene.lattice).is_some()
        };
        match above.into_iter().find(covers) {
            Some(other) => Visibility::Covered { by: other.cell(), layer: other.layer },
            None => Visibility::Backdrop { cell },
        }
    }
}

impl LayerCell<'_> {
    /// Whether a backdrop lies over the middle of the cell: it begins in the origin of the layer,
    /// and ends where the layer does not repeat it.
    fn backdrop_covers(&self, backdrop: Cell, scene: &Scene) -> bool {
        let art = scene.tiles.tile_of(backdrop).map(|id| scene.tiles.art(id).1);
        let Some(art) = art else { return false };
        let (width, height) = size_on_pane(&art, backdrop.turn(), scene.map_facts.cell_size());
        let (middle, wrap) = (scene.lattice.center(self.shown), self.layer.settings().wrap);
        (wrap.across() || (0.0..width).contains(&middle.x))
            && (wrap.down() || (0.0..height).contains(&middle.y))
    }
}

impl<'a> LayerVisibility<'a> {
    fn of(layer: &'a Layer) -> LayerVisibility<'a> {
        LayerVisibility {
            layer,
            bounds: layer.cells().bounds(),
            in_view: 0,
            shown: 0,
            placeholders: 0,
            clear: 0,
            covered: 0,
            too_small: 0,
            backdrop: false,
        }
    }

    /// Counts a cell in view: whether it is drawn, and whether so small that it has no pixel;
    /// `None` where its layer is not drawn.
    fn count(&mut self, cell: Cell, tiles: &TileTable, drawn: Option<(bool, bool)>) {
        self.in_view += 1;
        let Some((is_drawn, is_small)) = drawn else { return };
        let is_missing = tiles.tile_of(cell).is_some_and(|id| tiles.is_missing(id));
        let art = tiles.tile_of(cell).map(|id| tiles.art(id).1);
        if art.is_some_and(|art| art.coverage == crate::tile::Coverage::Clear) {
            self.clear += 1;
        } else if is_drawn {
            self.shown += 1;
            self.placeholders += usize::from(is_missing);
        } else if is_small {
            self.too_small += 1;
        } else {
            self.covered += 1;
        }
    }
}

impl ViewVisibility<'_> {
    /// Returns whether the view shows nothing of the map.
    pub fn is_empty(&self) -> bool {
        self.layers.iter().all(|layer| layer.shown == 0 && !layer.backdrop)
    }
}

impl fmt::Display for CellVisibility<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let tile = self.tiles.notation(self.cell);
        match self.visibility {
            Visibility::Shown => f.write_str("shown"),
            Visibility::Placeholder => {
                write!(f, "a placeholder is shown: no set has the tile {tile}")
            }
            Visibility::Empty => f.write_str("empty"),
            Visibility::Backdrop { cell } => {
                write!(f, "its backdrop shows: {}", self.tiles.notation(cell))
            }
            Visibility::Clear => f.write_str("clear: its tile has no pixels"),
            Visibility::Covered { by, layer } => {
                write!(f, "covered by {} of layer {}", self.tiles.notation(by), layer.name())
            }
            Visibility::OutOfView => f.write_str("out of view"),
            Visibility::TooSmall => f.write_str("too small for a pixel"),
            Visibility::LayerHidden => f.write_str("its layer is hidden"),
            Visibility::LayerNotDrawn => f.write_str("its layer is never drawn"),
            Visibility::LayerClear => f.write_str("its layer has opacity 0"),
            Visibility::NotLoaded => f.write_str("not loaded"),
        }
    }
}

impl fmt::Display for LayerVisibility<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (settings, LayerVisibility { in_view, shown, .. }) = (self.layer.settings(), self);
        write!(f, "layer {}: ", self.layer.name())?;
        if !settings.visible {
            return f.write_str("hidden");
        }
        if !settings.draws {
            return f.write_str("never drawn");
        }
        if settings.color().a == 0 {
            return f.write_str("has opacity 0");
        }
        if self.backdrop {
            f.write_str("its backdrop shows")?;
            if *in_view == 0 {
                return Ok(());
            }
            f.write_str("; ")?;
        }
        if self.bounds.is_empty() {
            return f.write_str("empty");
        }
        if *in_view == 0 {
            return write!(f, "nothing in view; it lies in {}", self.bounds);
        }
        let parts = [
            (*shown, "shown"),
            (self.placeholders, "of them as placeholders, since their tiles are missing"),
            (self.clear, "clear"),
            (self.covered, "covered by others"),
            (self.too_small, "too small for a pixel"),
        ];
        let parts = parts.into_iter().filter(|(count, _)| *count > 0);
        let parts: Vec<String> = parts.map(|(count, what)| format!("{count} {what}")).collect();
        write!(f, "of {in_view} tiles in view {}", parts.join(", "))
    }
}

impl fmt::Display for ViewVisibility<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let ViewVisibility { looks_at, bounds, seen_by, meant, fits, layers } = self;
        if layers.is_empty() {
            return f.write_str("nothing shows: the map has no layers");
        }
        if self.is_empty() {
            f.write_str("nothing shows: ")?;
            if !fits {
                f.write_str("the projection of the view is made for cells of another size")?;
            } else if bounds.is_empty() {
                f.write_str("the map is empty")?;
            } else if looks_at.intersection(*bounds).is_empty() {
                write!(f, "the view looks at {looks_at}, and the map spans {bounds}")?;
            } else {
                f.write_str("no layer has anything to show there")?;
            }
        } else {
            write!(f, "the view looks at {looks_at}; the map spans {bounds}")?;
        }
        if seen_by.kind() != meant.kind() {
            write!(f, "\n  seen {seen_by}, though the map is meant to be seen {meant}")?;
        }
        for layer in layers {
            write!(f, "\n  {layer}")?;
        }
        Ok(())
    }
}
