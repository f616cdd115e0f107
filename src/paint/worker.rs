//! Paints a list, or a part of it: what one thread does, and keeps.

use super::canvas::Canvas;
use super::cells::{CellPainter, MAX_UNIT_PX, Shortcuts};
use super::pane::PanePainter;
use super::resolved::{Resolved, ResolvedChunks};
use super::runs;
use super::stamp::{ScaledRow, stamp, stamp_from};
use super::swatch::{Look, Swatch, Swatches};
use crate::draw::{
    CellArt, DrawList, LooseItem, Overlay, OverlayPart, Pass, PixelEdges, Quad, Scene, StackChunk,
    StackEntry, StackPass, Step,
};
use crate::lattice::Lattice;
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::{Fit, Turn};
use crate::units::{CellPos, CellRect, ScreenRect};

/// Paints, in one thread.
#[derive(Clone, Debug, Default)]
pub(crate) struct Worker {
    swatches: Swatches,
    /// Those of overlays.
    glyphs: Swatches,
    cells: CellPainter,
    resolved: ResolvedChunks,
    /// What paints maps that are seen at a slant.
    pane: PanePainter,
    /// Memory to work with: the pixel edges of columns, the swatches of one cell.
    columns: Vec<i32>,
    numbers: Vec<u32>,
    lines: ScaledRow,
    /// The pixel edges of the columns and rows of cells in view.
    edges: PixelEdges,
    shortcuts: Shortcuts,
}

/// What of the upright picture is painted.
#[derive(Clone, Copy, Debug)]
pub(super) enum Portion {
    All,
    /// The part of the picture that is painted in each picture.
    Band(ScreenRect),
    /// What has changed.
    Part(ScreenRect),
}

impl Portion {
    /// The pixels, where they are not all.
    fn area(self) -> Option<ScreenRect> {
        match self {
            Portion::All => None,
            Portion::Band(area) | Portion::Part(area) => Some(area),
        }
    }

    /// The first column and row of pixels.
    pub(super) fn corner(self) -> (i32, i32) {
        self.area().map_or((0, 0), |area| (area.left, area.top))
    }

    /// Whether the next picture will be of the same part.
    fn is_steady(self) -> bool {
        !matches!(self, Portion::Part(_))
    }
}

impl Worker {
    pub(super) fn with_shortcuts(shortcuts: Shortcuts) -> Worker {
        Worker { shortcuts, swatches: Swatches::classed(shortcuts.classes), ..Worker::default() }
    }

    /// One who paints by the same means.
    #[cfg(feature = "threads")]
    pub(super) fn alike(&self) -> Worker {
        Worker::with_shortcuts(self.shortcuts)
    }

    /// Paints a portion of a list, on a canvas whose top left pixel is that of the portion.
    pub(super) fn paint(&mut self, list: &DrawList, portion: Portion, canvas: &mut Canvas<'_>) {
        let Some(scene) = &list.scene else { return };
        let keeps = self.swatches.begin(canvas.order(), scene.made);
        self.resolved.begin(keeps);
        if scene.map_facts.diamond.is_some() {
            self.paint_slanted(list, scene, portion, canvas);
        }
        let is_slanted = scene.map_facts.diamond.is_some();
        for pass in list.merged_passes().take_while(|_| !is_slanted) {
            match pass {
                Pass::Stack(pass) => self.paint_stack(list, scene, &pass, portion, canvas),
                Pass::Loose(items) => {
                    let shows = |item: &&LooseItem| {
                        let target = item.quad.target;
                        portion.area().is_none_or(|area| !target.intersection(area).is_empty())
                    };
                    for item in items.iter().filter(shows) {
                        lay_item(
                            (list, item),
                            portion.corner(),
                            &mut self.swatches,
                            canvas,
                            &mut self.lines,
                        );
                    }
                }
            }
        }
        let keeps = self.swatches.end();
        self.resolved.end(keeps, portion.is_steady());
    }

    /// Paints a portion of a list of a map that is seen at a slant.
    fn paint_slanted(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        portion: Portion,
        canvas: &mut Canvas<'_>,
    ) {
        let Some(diamond) = &scene.map_facts.diamond else { return };
        let Worker { pane, swatches, lines, .. } = self;
        let corner = portion.corner();
        pane.begin(scene, diamond, canvas, self.shortcuts.vectors);
        for step in &list.steps {
            match step {
                Step::Loose(first, end) => {
                    for item in &list.loose[*first..*end] {
                        lay_item((list, item), corner, swatches, canvas, lines);
                    }
                }
                Step::Group(group) => {
                    let map = (list, scene, diamond);
                    pane.paint(map, group, corner, canvas, |number, corner, part| {
                        let item = &list.loose[number as usize];
                        lay_item((list, item), corner, swatches, part, lines);
                    });
                }
            }
        }
        pane.end(portion.is_steady());
    }

    fn paint_stack(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        pass: &StackPass<'_>,
        portion: Portion,
        canvas: &mut Canvas<'_>,
    ) {
        self.edges.look(pass);
        let whole = unit_of(&scene.lattice);
        let unit = self.cells.begin(whole, self.shortcuts);
        let shown = portion.area().map_or(pass.cells(), |area| self.edges.cells_in(pass, area));
        let (x, y) = portion.corner();
        for chunk in pass.chunks_of(shown) {
            let on_screen = chunk.on_screen();
            let known = self.resolved.take(chunk.stamp(), chunk.levels());
            // What changes with time is found anew in each picture; where only few cells are
            // painted, only they are looked at.
            let is_much = on_screen.cell_count() * 4 > chunk.pos().cells().cell_count();
            let is_kept = self.shortcuts.chunks
                && !chunk.is_animated()
                && (known.is_some() || portion.is_steady() || is_much);
            let needed = if is_kept { chunk.pos().cells() } else { on_screen };
            let resolved =
                known.unwrap_or_else(|| self.resolve(list, scene, &chunk, needed, (whole, unit)));
            let (corner, first) = (chunk.pos().cells().corner(), on_screen.corner());
            self.columns.clear();
            self.columns.extend(
                (on_screen.left()..=on_screen.right())
                    .map(|column| self.edges.column(pass, column + chunk.moved_by().x) - x),
            );
            for row in on_screen.top()..on_screen.bottom() {
                let shown = row + chunk.moved_by().y;
                self.cells.paint_row(
                    (&resolved, (row - corner.y()) as usize),
                    (first.x() - corner.x(), &self.columns),
                    (self.edges.row(pass, shown) - y, self.edges.row(pass, shown + 1) - y),
                    self.swatches.all(),
                    canvas,
                    &mut self.lines,
                );
            }
            if is_kept {
                self.resolved.put(chunk.stamp(), chunk.levels(), resolved);
            } else {
                self.resolved.give_back(resolved);
            }
        }
    }

    /// Finds what some cells of a chunk are painted with.
    fn resolve(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        chunk: &StackChunk<'_>,
        cells: CellRect,
        (whole, unit): (Option<(u32, u32)>, (u32, u32)),
    ) -> Resolved {
        let mut resolved = self.resolved.memory();
        let mut numbers = std::mem::take(&mut self.numbers);
        let levels = chunk.levels();
        for y in cells.top()..cells.bottom() {
            for of_cell in chunk.row_within(y, cells).chunk_by(|a, b| a.index == b.index) {
                let (row, column) = (of_cell[0].row().into(), of_cell[0].column());
                let own = chunk.pos().cell_at_index(of_cell[0].index.into());
                numbers.clear();
                for entry in
                    of_cell.iter().filter(|entry| (levels.0..levels.1).contains(&entry.level))
                {
                    numbers.extend(self.swatch_of(list, scene, own, *entry, whole));
                }
                let is_unit = |number: &u32| {
                    let swatch = self.swatches.get(*number);
                    (swatch.width, swatch.height) == unit
                };
                let lowest = numbers.first().map(|number| self.swatches.get(*number));
                let is_whole = self.shortcuts.stacks
                    && lowest.is_some_and(Swatch::is_solid)
                    && numbers.iter().all(is_unit);
                if !numbers.is_empty() {
                    resolved.add(row, column, is_whole, &numbers);
                }
            }
        }
        self.numbers = numbers;
        resolved
    }

    /// The number of what an entry shows.
    #[inline]
    fn swatch_of(
        &mut self,
        list: &DrawList,
        scene: &Scene,
        own: CellPos,
        entry: StackEntry,
        unit: Option<(u32, u32)>,
    ) -> Option<u32> {
        if let Some(number) = self.swatches.known_cell(entry.cell, entry.level) {
            return Some(number);
        }
        let (_, CellArt { page, art, turn, color }, blend) =
            scene.cell_art(&list.clock, own, entry);
        let look = Look {
            page: list.page(page)?,
            source: art.source,
            turn,
            color,
            blend,
            stretched: unit.filter(|_| art.fit == Fit::Stretched),
        };
        let number = self.swatches.number(look);
        if !scene.map_facts.is_animated(entry.cell) {
            self.swatches.keep_cell(entry.cell, entry.level, number);
        }
        Some(number)
    }

    /// Paints an overlay.
    pub(super) fn lay_overlay(&mut self, overlay: &Overlay, canvas: &mut Canvas<'_>) {
        self.glyphs.begin(canvas.order(), Stamp::NONE);
        for part in overlay.parts() {
            match part {
                OverlayPart::Quads(quads) => {
                    for quad in quads {
                        let look = Look {
                            page: Overlay::page(),
                            source: quad.source,
                            turn: Turn::NONE,
                            color: quad.color,
                            blend: Blend::Normal,
                            stretched: None,
                        };
                        stamp(self.glyphs.of(look), quad.target, canvas, &mut self.lines);
                    }
                }
                OverlayPart::Area { corners, color } => runs::lay_area(corners, color, canvas),
                OverlayPart::Line { from, to, thickness_px, color } => {
                    runs::lay_line((from, to), thickness_px, color, canvas);
                }
            }
        }
        self.glyphs.end();
    }
}

/// Paints a thing by itself, on a canvas that begins with a pixel of the screen.
fn lay_item(
    (list, item): (&DrawList, &LooseItem),
    (x, y): (i32, i32),
    swatches: &mut Swatches,
    canvas: &mut Canvas<'_>,
    lines: &mut ScaledRow,
) {
    let Quad { page, source, turn, color, blend, target, on_pane, .. } = item.quad;
    let Some(page) = list.page(page) else { return };
    let target = target.moved(-x, -y);
    if target.intersection(ScreenRect::of_size(canvas.size())).is_empty() {
        return;
    }
    let swatch = swatches.of(Look { page, source, turn, color, blend, stretched: None });
    match on_pane {
        None => stamp(swatch, target, canvas, lines),
        Some(on_pane) => {
            let step = 1.0 / list.upright().zoom();
            stamp_from(swatch, target, (on_pane, step), canvas, lines);
        }
    }
}

/// Pixels of a cell where a pixel is a world unit, if it has a whole number of them and cells so
/// large are put together: flat colours are stretched to them.
fn unit_of(lattice: &Lattice) -> Option<(u32, u32)> {
    let is_small = |side: f64| side <= f64::from(MAX_UNIT_PX);
    let whole = |side: f64| (side.fract() == 0.0 && is_small(side)).then_some(side as u32);
    whole(lattice.cell_width()).zip(whole(lattice.cell_height()))
}
