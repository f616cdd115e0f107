//! What a map shows, found by a walk over every cell, and painted pixel by pixel.

use sturdy_quilt::draw::{DrawKey, DrawKind, Quad};
use sturdy_quilt::quilt::{Blend, Parallax, Wrap};
use sturdy_quilt::tile::{Coverage, Fit, TileArt};
use sturdy_quilt::units::{CellOffset, PanePoint, PaneRect, PixelRect, PixelSize, ScreenRect};
use sturdy_quilt::view::{Facing, Projection, ProjectionKind};
use sturdy_quilt::{
    Cell, CellPos, Clock, Color, DrawList, Layer, LayerSettings, Quilt, ScreenSize, Sprite, TileId,
    Turn, View, WorldPoint, WorldRect, WorldVec,
};

use crate::projection::turned;

/// What is known of a quad without the library's own list.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct NaiveQuad {
    pub(crate) key: DrawKey,
    pub(crate) target: ScreenRect,
    pub(crate) source: PixelRect,
    pub(crate) turn: Turn,
    pub(crate) color: Color,
    pub(crate) blend: Blend,
    /// Whether it is a diamond in one colour.
    pub(crate) is_diamond: bool,
}

impl From<&Quad> for NaiveQuad {
    fn from(quad: &Quad) -> NaiveQuad {
        let Quad { key, target, source, turn, color, blend, .. } = *quad;
        NaiveQuad { key, target, source, turn, color, blend, is_diamond: false }
    }
}

pub(crate) fn is_on_screen(target: ScreenRect, size: ScreenSize) -> bool {
    let (width, height) = (size.width as i32, size.height as i32);
    target.left.max(0) < target.right.min(width) && target.top.max(0) < target.bottom.min(height)
}

fn is_size_of_cell(art: TileArt, bounds: WorldRect) -> bool {
    let size = art.source.size;
    (f64::from(size.width), f64::from(size.height)) == (bounds.width(), bounds.height())
}

/// The rectangle of a picture in its own size whose anchor lies at a place.
fn standing(place: WorldPoint, art: TileArt, turn: Turn) -> WorldRect {
    let Fit::Placed(placement) = art.fit else { panic!("{art:?}") };
    let (width, height) = turned_size(art, turn);
    let (x, y) = placement.anchor.unwrap_or((0.5, 1.0));
    let left = place.x - width * x + placement.offset.x;
    let top = place.y - height * y + placement.offset.y;
    WorldRect::between(WorldPoint::new(left, top), WorldPoint::new(left + width, top + height))
}

fn turned_size(art: TileArt, turn: Turn) -> (f64, f64) {
    let (width, height) = (f64::from(art.source.size.width), f64::from(art.source.size.height));
    if turn.steps() % 2 == 1 { (height, width) } else { (width, height) }
}

/// What a colour multiplied by others comes to, rounded after each.
fn times(a: Color, b: Color) -> Color {
    let channel = |a: u8, b: u8| (f64::from(a) * f64::from(b) / 255.0).round() as u8;
    Color::rgba(channel(a.r, b.r), channel(a.g, b.g), channel(a.b, b.b), channel(a.a, b.a))
}

fn color_of(settings: &LayerSettings) -> Color {
    let alpha = (f32::from(settings.tint.a) * settings.opacity).round() as u8;
    Color { a: alpha, ..settings.tint }
}

fn tint_of(quilt: &Quilt, slot: u8) -> Color {
    let palette = usize::from(slot).checked_sub(1).and_then(|slot| quilt.palettes().get(slot));
    palette.map_or(Color::WHITE, |palette| palette.tint())
}

/// The camera of a row of a layer, and how far its cells are moved in the world.
pub(crate) fn seat(
    settings: &LayerSettings,
    row: i32,
    view: &View,
    now_ms: u64,
) -> (View, WorldVec) {
    let projection = *view.projection();
    // Bands are rows of the screen.
    let is_plain = !projection.is_slanted() && projection.facing() == Facing::UNTURNED;
    let band = settings.bands.iter().rev().find(|band| band.from_row <= row && is_plain);
    let parallax =
        Parallax { x: band.map_or(settings.parallax.x, |band| band.parallax), ..settings.parallax };
    let speed = band.map_or(settings.speed.x, |band| band.speed);
    let (from, center) = (projection.to_pane(settings.parallax_from, 0.0), view.pane_center());
    // A layer without a parallax does not depend on where it would be seen in its place.
    let seen = |from: f64, center: f64, factor: f64| {
        // A view of whole pixels stands on one, whatever it is centred on.
        let pixel = (center * view.zoom() - 0.5).ceil() / view.zoom();
        match (parallax == Parallax::WORLD, view.is_snapped()) {
            (true, _) => center,
            (false, true) => from + (pixel - from) * factor,
            (false, false) => from + (center - from) * factor,
        }
    };
    let center =
        PanePoint::new(seen(from.x, center.x, parallax.x), seen(from.y, center.y, parallax.y));
    let seconds = now_ms as f64 / 1000.0;
    let offset = settings.offset;
    let offset = WorldVec::new(offset.x + speed * seconds, offset.y + settings.speed.y * seconds);
    let is_same = parallax == Parallax::WORLD;
    (if is_same { *view } else { view.pane_centered_on(center) }, offset)
}

/// The numbers across and down of the copies of something that is repeated, as many as may be in
/// view, and some more.
fn copies(
    wrap: Wrap,
    (width, height): (f64, f64),
    of: WorldRect,
    seen: WorldRect,
) -> Vec<(i32, i32)> {
    let line = |wraps: bool, period: f64, (from, to): (f64, f64), (low, high): (f64, f64)| {
        if !wraps {
            return 0..=0;
        }
        ((low - to) / period).floor() as i32 - 6..=((high - from) / period).ceil() as i32 + 6
    };
    let (min, max) = (seen.min(), seen.max());
    let across = line(wrap.across(), width, (of.min().x, of.max().x), (min.x, max.x));
    let down = line(wrap.down(), height, (of.min().y, of.max().y), (min.y, max.y));
    down.flat_map(|y| across.clone().map(move |x| (x, y))).collect()
}

/// The width and height of a cell on the pane, or of the rectangle around it.
fn cell_on_pane(quilt: &Quilt, view: &View) -> (f64, f64) {
    let rect = view.projection().around(quilt.lattice().bounds(CellPos::ORIGIN), 0.0);
    (rect.width(), rect.height())
}

/// The colour in which a flat tile is drawn.
fn flat_color(quilt: &Quilt, cell: Cell) -> Color {
    let (page, art) = quilt.tiles().art(quilt.tiles().tile_of(cell).unwrap());
    let page = quilt.tiles().page(page).unwrap();
    let at = art.source.y * page.size().width + art.source.x;
    Color::from_bytes(page.pixels()[at as usize])
}

/// A layer that is seen at a slant.
struct Slanted<'a> {
    camera: &'a View,
    offset: WorldVec,
    settings: &'a LayerSettings,
    /// Half of a diamond.
    half: (i64, i64),
}

impl Slanted<'_> {
    /// The place of a cell in the order, and the pixels of its picture on the screen. `base` is that of
    /// the tile that lies there, which tells how it stands.
    fn place(
        &self,
        (key, at): (DrawKey, CellPos),
        bounds: WorldRect,
        (art, base): (TileArt, TileArt),
    ) -> (DrawKey, ScreenRect) {
        let projection = self.camera.projection();
        let _ = at;
        let around = projection.around(bounds, 0.0);
        let rank = around.min().y / self.half.1 as f64;
        let stands = match base.fit {
            Fit::Placed(placement) => {
                placement.anchor.map(|anchor| placement.cell_anchor.unwrap_or(anchor))
            }
            Fit::Stretched => None,
        };
        let key = DrawKey {
            depth: if self.settings.sort_rows { rank } else { f64::NEG_INFINITY },
            elevation: self.settings.elevation,
            nearness: stands
                .filter(|_| self.settings.sort_rows)
                .map_or(f64::NEG_INFINITY, |(_, y)| rank + 2.0 * y),
            ..key.seen_by(projection)
        };
        let (width, height) = (around.width(), around.height());
        let (own, shift) = match art.fit {
            Fit::Stretched => ((width, height), (0.0, 0.0)),
            Fit::Placed(placement) => {
                let size = art.source.size;
                let own = (f64::from(size.width), f64::from(size.height));
                let (x, y) = placement.anchor.unwrap_or((0.5, 0.0));
                let (cell_x, cell_y) = placement.cell_anchor.unwrap_or((x, y));
                let left = cell_x * width - x * own.0 + placement.offset.x;
                (own, (left, cell_y * height - y * own.1 + placement.offset.y))
            }
        };
        let way = projection.way_to_pane(self.offset);
        let lifted = (projection.lift() * self.settings.elevation).round();
        let left = around.min().x + shift.0.round() + way.x.round();
        let top = around.min().y + shift.1.round() + way.y.round() - lifted;
        // The pixels of the screen, one by one.
        let first = |edge: f64, shown: &dyn Fn(i32) -> i64| {
            (-900..900).find(|at| shown(*at) as f64 >= edge).unwrap_or(900)
        };
        let (column, row) = (|x| self.camera.pane_column(x), |y| self.camera.pane_row(y));
        let target = ScreenRect {
            left: first(left, &column),
            top: first(top, &row),
            right: first(left + own.0, &column),
            bottom: first(top + own.1, &row),
        };
        (key, target)
    }
}

/// What every cell and backdrop of every layer draws.
pub(crate) fn naive_quads(quilt: &Quilt, view: &View, clock: &Clock) -> Vec<NaiveQuad> {
    let mut quads = Vec::new();
    for (place, layer) in quilt.layers().iter().enumerate() {
        let settings = layer.settings();
        if !settings.visible || !settings.draws || color_of(settings).a == 0 {
            continue;
        }
        quads.extend(backdrops(quilt, place as u32, settings, view, clock));
        for (own, cell) in layer.cells().occupied() {
            quads.extend(cell_quads(quilt, place as u32, layer, (own, cell), view, clock));
        }
    }
    quads
}

fn backdrops(
    quilt: &Quilt,
    layer: u32,
    settings: &LayerSettings,
    view: &View,
    clock: &Clock,
) -> Vec<NaiveQuad> {
    let Some(cell) = settings.backdrop else { return Vec::new() };
    let tiles = quilt.tiles();
    let shown = tiles.frame_at(tiles.tile_of(cell).unwrap(), clock.now_ms(), CellPos::ORIGIN);
    let (_, art) = tiles.art(shown);
    let unbanded = settings.clone().with_bands([]);
    let (camera, offset) = seat(&unbanded, 0, view, clock.now_ms());
    let (width, height) = match art.fit {
        Fit::Stretched => cell_on_pane(quilt, view),
        Fit::Placed(_) => turned_size(art, cell.turn()),
    };
    // It hangs on the pane, and is neither turned nor slanted.
    let projection = camera.projection();
    let corner = projection.to_pane(WorldPoint::new(offset.x, offset.y), settings.elevation);
    let at = |x: i32, y: i32| {
        PanePoint::new(corner.x + f64::from(x) * width, corner.y + f64::from(y) * height)
    };
    let rect = |(x, y)| PaneRect::between(at(x, y), at(x + 1, y + 1));
    let as_world = |rect: PaneRect| {
        let point = |at: PanePoint| WorldPoint::new(at.x, at.y);
        WorldRect::between(point(rect.min()), point(rect.max()))
    };
    let seen = as_world(camera.visible_pane());
    let copies = copies(settings.wrap, (width, height), as_world(rect((0, 0))), seen);
    let quad = |(x, y)| {
        let cell_pos = CellPos::new(x, y);
        let key = DrawKey::of_cell(settings.priority, cell.is_raised(), None, layer, cell_pos);
        NaiveQuad {
            key: DrawKey {
                kind: DrawKind::Backdrop,
                elevation: settings.elevation,
                ..key.seen_by(projection)
            },
            target: camera.pixels(rect((x, y))),
            source: art.source,
            turn: cell.turn(),
            color: times(
                color_of(settings),
                tint_of(quilt, settings.palette.map_or(0, |palette| palette.slot())),
            ),
            blend: settings.blend,
            is_diamond: false,
        }
    };
    copies.into_iter().map(quad).collect()
}

/// The tile that is shown instead of an animated one.
fn shown_tile(quilt: &Quilt, layer: &Layer, own: CellPos, tile: TileId, clock: &Clock) -> TileId {
    let Some(played) = clock.played_ms(layer.id(), own) else {
        return quilt.tiles().frame_at(tile, clock.now_ms(), own);
    };
    // Its frames one after the other, the last one for ever.
    let animation = quilt.tiles().tile(tile).and_then(|tile| tile.animation());
    let frames: Vec<(&str, u32)> =
        animation.into_iter().flat_map(|animation| animation.frames()).collect();
    let mut end = 0;
    let frame = frames.iter().find(|(_, ms)| {
        end += u64::from(*ms);
        played < end
    });
    let name = frame.or_else(|| frames.last()).map(|(name, _)| format!("art/{name}"));
    name.map_or(tile, |name| quilt.tile(&name).unwrap())
}

fn cell_quads(
    quilt: &Quilt,
    number: u32,
    layer: &Layer,
    (own, cell): (CellPos, Cell),
    view: &View,
    clock: &Clock,
) -> Vec<NaiveQuad> {
    let (lattice, tiles, settings) = (quilt.lattice(), quilt.tiles(), layer.settings());
    let tile = tiles.tile(tiles.tile_of(cell).unwrap());
    let (_, art) = tiles.art(shown_tile(quilt, layer, own, tiles.tile_of(cell).unwrap(), clock));
    let is_animated = tile.is_some_and(|tile| tile.animation().is_some());
    if !is_animated && art.coverage == Coverage::Clear {
        return Vec::new();
    }
    let (camera, offset) = seat(settings, own.y(), view, clock.now_ms());
    let (wrap, area) = (settings.wrap, settings.wrap_area.unwrap_or(layer.cells().bounds()));
    let repeats = |wraps: bool, at: i32, first: i32, end: i32| !wraps || (first..end).contains(&at);
    if !repeats(wrap.across(), own.x(), area.left(), area.right())
        || !repeats(wrap.down(), own.y(), area.top(), area.bottom())
    {
        return Vec::new();
    }
    let around = lattice.rect_bounds(area);
    let period = (around.width(), around.height());
    let copies = copies(wrap, period, lattice.bounds(own).moved(offset), camera.visible());
    let color = times(
        color_of(settings),
        tint_of(quilt, settings.palette.map_or(0, |palette| palette.slot())),
    );
    let color = times(color, tint_of(quilt, cell.palette()));
    let quad = |(x, y): (i32, i32)| {
        let way = CellOffset::new(x * area.width() as i32, y * area.height() as i32);
        let at = own.checked_add(way).unwrap();
        let bounds = lattice.bounds(at);
        let rect = match art.fit {
            Fit::Placed(standing_as)
                if !is_size_of_cell(art, bounds) || standing_as.offset != WorldVec::ZERO =>
            {
                let own = standing_as.anchor.unwrap_or((0.5, 1.0));
                let (x, y) = standing_as.cell_anchor.unwrap_or(own);
                let way = WorldVec::new(bounds.width() * x, bounds.height() * y);
                standing(bounds.min() + way, art, cell.turn())
            }
            _ => bounds,
        };
        let raised = cell.is_raised() || tile.is_some_and(|tile| tile.raise());
        let projection = camera.projection();
        if let ProjectionKind::Diamond { width_px, height_px } = projection.kind() {
            let half = (i64::from(width_px) / 2, i64::from(height_px) / 2);
            let slanted = Slanted { camera: &camera, offset, settings, half };
            let key = DrawKey::of_cell(settings.priority, raised, None, number, at);
            let (page, base) = tiles.art(tiles.tile_of(cell).unwrap());
            let _ = page;
            let (key, target) = slanted.place((key, at), bounds, (art, base));
            let mirrored = if cell.turn().is_mirrored() { Turn::MIRROR } else { Turn::NONE };
            let (source, color) = match art.fit {
                Fit::Placed(_) => (art.source, color),
                Fit::Stretched => {
                    let size = PixelSize::new(width_px, height_px);
                    (PixelRect::new(0, 0, size), times(color, flat_color(quilt, cell)))
                }
            };
            let blend = settings.blend;
            let is_diamond = art.fit == Fit::Stretched;
            return NaiveQuad { key, target, source, turn: mirrored, color, blend, is_diamond };
        }
        // On the pane, which is turned with the map; what stands does not turn.
        let is_standing =
            rect != bounds || !is_size_of_cell(art, bounds) && art.fit != Fit::Stretched;
        let on_pane = projection.around(bounds.moved(offset), settings.elevation);
        let rect = match art.fit {
            Fit::Placed(own) if is_standing => {
                let anchor = own.anchor.unwrap_or((0.5, 1.0));
                let (x, y) = own.cell_anchor.unwrap_or(anchor);
                let min = on_pane.min();
                let at = WorldPoint::new(min.x + on_pane.width() * x, min.y + on_pane.height() * y);
                let standing = standing(at, art, cell.turn());
                let point = |at: WorldPoint| PanePoint::new(at.x, at.y);
                PaneRect::between(point(standing.min()), point(standing.max()))
            }
            _ => on_pane,
        };
        let quarters = Turn::square(false, projection.facing().quarters()).unwrap();
        let ground = projection.around(bounds.moved(offset), 0.0);
        let foot = settings.sort_rows.then_some(ground.max().y);
        let key = DrawKey::of_cell(settings.priority, raised, foot, number, at);
        NaiveQuad {
            key: DrawKey { elevation: settings.elevation, ..key.seen_by(projection) },
            target: camera.pixels(rect),
            source: art.source,
            turn: if is_standing { cell.turn() } else { cell.turn().then(quarters) },
            color,
            blend: settings.blend,
            is_diamond: false,
        }
    };
    copies.into_iter().map(quad).collect()
}

/// What every sprite draws.
pub(crate) fn naive_sprites(
    quilt: &Quilt,
    view: &View,
    clock: &Clock,
    sprites: &[Sprite],
) -> Vec<NaiveQuad> {
    let shown = sprites.iter().filter_map(|sprite| {
        let tile = quilt.tiles().tile_of(sprite.cell).unwrap();
        let shown = quilt.tiles().frame_at(tile, clock.now_ms(), CellPos::ORIGIN);
        let (_, art) = quilt.tiles().art(shown);
        let color = times(sprite.tint, tint_of(quilt, sprite.cell.palette()));
        if art.coverage == Coverage::Clear || color.a == 0 {
            return None;
        }
        let projection = view.projection();
        let foot = projection.to_pane(sprite.foot, sprite.elevation);
        let foot = WorldPoint::new(foot.x, foot.y);
        let rect = match art.fit {
            Fit::Placed(_) => standing(foot, art, sprite.turn),
            Fit::Stretched => {
                let (width, height) = cell_on_pane(quilt, view);
                WorldRect::between(
                    WorldPoint::new(foot.x - width / 2.0, foot.y - height),
                    WorldPoint::new(foot.x + width / 2.0, foot.y),
                )
            }
        };
        let point = |at: WorldPoint| PanePoint::new(at.x, at.y);
        let target = view.pixels(PaneRect::between(point(rect.min()), point(rect.max())));
        let place = sorted_cell(quilt, projection, sprite);
        let on_ground = projection.to_pane(sprite.foot, 0.0).y;
        let (depth, nearness) = match projection.kind() {
            ProjectionKind::Diamond { height_px, .. } => {
                let half = f64::from(height_px) / 2.0;
                let outline = projection.outline(quilt.lattice().bounds(place), 0.0);
                let top = outline.map(|at| at.y).into_iter().fold(f64::INFINITY, f64::min);
                (top / half, on_ground / half)
            }
            _ => (on_ground, f64::NEG_INFINITY),
        };
        let key = DrawKey {
            priority: sprite.priority,
            raised: sprite.raised,
            depth,
            nearness,
            elevation: sprite.elevation,
            layer: u32::MAX,
            kind: DrawKind::Sprite,
            place,
            sprite: Some(sprite.key),
            ..DrawKey::of_cell(0, false, None, 0, CellPos::ORIGIN).seen_by(projection)
        };
        let (turn, blend) = (sprite.turn, sprite.blend);
        let (source, color) = match (art.fit, projection.kind()) {
            (Fit::Stretched, ProjectionKind::Diamond { width_px, height_px }) => {
                let size = PixelSize::new(width_px, height_px);
                (PixelRect::new(0, 0, size), times(color, flat_color(quilt, sprite.cell)))
            }
            _ => (art.source, color),
        };
        let is_diamond = art.fit == Fit::Stretched && projection.is_slanted();
        Some(NaiveQuad { key, target, source, turn, color, blend, is_diamond })
    });
    shown.collect()
}

/// The cell by which a sprite is sorted.
fn sorted_cell(quilt: &Quilt, projection: &Projection, sprite: &Sprite) -> CellPos {
    let own = quilt.lattice().cell_at(sprite.foot);
    let Some(area) = sprite.ground_box.filter(|_| projection.is_slanted()) else { return own };
    let is_above = |cell: CellPos| {
        let levels = quilt.layers().iter().filter(|layer| {
            let settings = layer.settings();
            settings.sort_rows
                && settings.visible
                && settings.draws
                && settings.priority == sprite.priority
                && settings.elevation > sprite.elevation
        });
        levels.filter(|layer| layer.settings().opacity > 0.0 && layer.settings().tint.a > 0).any(
            |layer| {
                let Some(offset) = layer.settings().offset_cells(quilt.lattice()) else {
                    return false;
                };
                let Some(at) = cell.checked_add(offset.reversed()) else { return false };
                let held = layer.cells().get(at).here().unwrap_or_default();
                let Some(tile) = quilt.tiles().tile_of(held) else { return false };
                let (_, art) = quilt.tiles().art(tile);
                let stands = matches!(art.fit, Fit::Placed(own) if own.anchor.is_some());
                art.coverage != Coverage::Clear && !stands
            },
        )
    };
    let touched = quilt.lattice().cells_in(area).cells().filter(|cell| !is_above(*cell));
    touched
        .max_by(|a, b| {
            let order = |cell: &CellPos| {
                let at = turned(projection.facing(), *cell);
                (at.x() + at.y(), at.y())
            };
            order(a).cmp(&order(b))
        })
        .unwrap_or(own)
}

/// The naive painter: every quad in order, every pixel by the pixel rule.
pub(crate) fn naively_painted(list: &DrawList, background: Color) -> Vec<[u8; 4]> {
    let size = list.upright().size();
    let mut pixels = vec![background.to_bytes(); size.width as usize * size.height as usize];
    for quad in list.quads() {
        for y in quad.target.top.max(0)..quad.target.bottom.min(size.height as i32) {
            for x in quad.target.left.max(0)..quad.target.right.min(size.width as i32) {
                let above = shown_texel(list, &quad, x, y);
                let pixel = &mut pixels[y as usize * size.width as usize + x as usize];
                lay(pixel, above, quad.blend);
            }
        }
    }
    pixels
}

/// A pixel laid on another, with alpha multiplied in.
fn lay(below: &mut [u8; 4], above: [u8; 4], blend: Blend) {
    let through = 1.0 - f64::from(above[3]) / 255.0;
    for channel in 0..4 {
        let (own, under) = (f64::from(above[channel]), f64::from(below[channel]));
        below[channel] = match (blend, channel) {
            (Blend::Add, 3) => below[3],
            (Blend::Add, _) => (own + under).min(255.0) as u8,
            _ => (own + (under * through + 1e-9).round()).min(255.0) as u8,
        };
    }
}

/// What a quad has in a pixel, multiplied by its colour.
pub(crate) fn shown_texel(list: &DrawList, quad: &Quad, x: i32, y: i32) -> [u8; 4] {
    let page = list.page(quad.page).unwrap();
    let (u, v) = match quad.on_pane {
        None => texel(quad, x, y),
        Some(on_pane) => {
            let place = |first: f32, way: i32, count: u32| {
                let place = f64::from(first) + f64::from(way) / list.view().zoom();
                (place.floor() as u32).min(count - 1)
            };
            let size = quad.source.size;
            let u = place(on_pane.first.0, x - quad.target.left, size.width);
            let v = place(on_pane.first.1, y - quad.target.top, size.height);
            let u = if quad.turn.is_mirrored() { size.width - 1 - u } else { u };
            (quad.source.x + u, quad.source.y + v)
        }
    };
    let texel = page.pixels()[(v * page.size().width + u) as usize];
    let Color { r, g, b, a } = quad.color;
    std::array::from_fn(|channel| {
        let tint = f64::from([r, g, b, 255][channel]) * f64::from(a) / 255.0;
        (f64::from(texel[channel]) * tint / 255.0 + 1e-9).round() as u8
    })
}

/// The texel under the centre of a pixel, by geometry in floating point.
pub(crate) fn texel(quad: &Quad, x: i32, y: i32) -> (u32, u32) {
    let across = (f64::from(x - quad.target.left) + 0.5)
        / f64::from(quad.target.right - quad.target.left)
        - 0.5;
    let down = (f64::from(y - quad.target.top) + 0.5)
        / f64::from(quad.target.bottom - quad.target.top)
        - 0.5;
    // Back from the turned picture to the picture itself.
    let (mut across, down) = match quad.turn.steps() {
        0 => (across, down),
        1 => (down, -across),
        2 => (-across, -down),
        _ => (-down, across),
    };
    if quad.turn.is_mirrored() {
        across = -across;
    }
    let place = |way: f64, count: u32| {
        // Exactly on an edge between two texels the later one in the turned picture counts; a
        // hair towards the middle of the pixel's own side keeps the comparison to clear cases.
        (((way + 0.5) * f64::from(count)).floor().max(0.0) as u32).min(count - 1)
    };
    let size = quad.source.size;
    (quad.source.x + place(across, size.width), quad.source.y + place(down, size.height))
}

/// Whether a pixel's centre lies so near to an edge of texels that rounding decides.
pub(crate) fn is_on_an_edge(quad: &Quad, zoom: f64, x: i32, y: i32) -> bool {
    let size = quad.source.size;
    let (w, h) = if quad.turn.steps().is_multiple_of(2) {
        (size.width, size.height)
    } else {
        (size.height, size.width)
    };
    if let Some(on_pane) = quad.on_pane {
        let near = |first: f32, way: i32| {
            let at = f64::from(first) + f64::from(way) / zoom;
            (at - at.round()).abs() < 1e-6
        };
        let ((left, top), target) = (on_pane.first, quad.target);
        return near(left, x - target.left) || near(top, y - target.top);
    }
    let near = |way: i32, length: i32, count: u32| {
        let at = (f64::from(way) + 0.5) / f64::from(length) * f64::from(count);
        (at - at.round()).abs() < 1e-6
    };
    near(x - quad.target.left, quad.target.right - quad.target.left, w)
        || near(y - quad.target.top, quad.target.bottom - quad.target.top, h)
}
