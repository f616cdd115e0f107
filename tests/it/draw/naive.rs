//! What a map shows, found by a walk over every cell, and painted pixel by pixel.

use sturdy_quilt::draw::{DrawKey, DrawKind, Quad};
use sturdy_quilt::quilt::{Blend, Parallax, Wrap};
use sturdy_quilt::tile::{Coverage, Fit, TileArt};
use sturdy_quilt::units::{CellOffset, PixelRect, ScreenRect};
use sturdy_quilt::{
    Cell, CellPos, Clock, Color, DrawList, Layer, LayerSettings, Quilt, ScreenSize, Sprite, TileId,
    Turn, View, WorldPoint, WorldRect, WorldVec,
};

/// What is known of a quad without the library's own list.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct NaiveQuad {
    pub(crate) key: DrawKey,
    pub(crate) target: ScreenRect,
    pub(crate) source: PixelRect,
    pub(crate) turn: Turn,
    pub(crate) color: Color,
    pub(crate) blend: Blend,
}

impl From<&Quad> for NaiveQuad {
    fn from(quad: &Quad) -> NaiveQuad {
        let Quad { key, target, source, turn, color, blend, .. } = *quad;
        NaiveQuad { key, target, source, turn, color, blend }
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
    let band = settings.bands.iter().rev().find(|band| band.from_row <= row);
    let parallax =
        Parallax { x: band.map_or(settings.parallax.x, |band| band.parallax), ..settings.parallax };
    let speed = band.map_or(settings.speed.x, |band| band.speed);
    let (from, center) = (settings.parallax_from, view.center());
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
        WorldPoint::new(seen(from.x, center.x, parallax.x), seen(from.y, center.y, parallax.y));
    let seconds = now_ms as f64 / 1000.0;
    let offset = settings.offset;
    let offset = WorldVec::new(offset.x + speed * seconds, offset.y + settings.speed.y * seconds);
    (view.centered_on(center), offset)
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
        Fit::Stretched => (quilt.lattice().cell_width(), quilt.lattice().cell_height()),
        Fit::Placed(_) => turned_size(art, cell.turn()),
    };
    let at = |x: i32, y: i32| {
        WorldPoint::new(offset.x + f64::from(x) * width, offset.y + f64::from(y) * height)
    };
    let rect = |(x, y)| WorldRect::between(at(x, y), at(x + 1, y + 1));
    let copies = copies(settings.wrap, (width, height), rect((0, 0)), camera.visible());
    let quad = |(x, y)| {
        let cell_pos = CellPos::new(x, y);
        let key = DrawKey::of_cell(settings.priority, cell.is_raised(), None, layer, cell_pos);
        NaiveQuad {
            key: DrawKey { kind: DrawKind::Backdrop, ..key },
            target: camera.pixels_around(rect((x, y))),
            source: art.source,
            turn: cell.turn(),
            color: times(
                color_of(settings),
                tint_of(quilt, settings.palette.map_or(0, |palette| palette.slot())),
            ),
            blend: settings.blend,
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
        let foot = settings.sort_rows.then_some(bounds.max().y + offset.y);
        let raised = cell.is_raised() || tile.is_some_and(|tile| tile.raise());
        NaiveQuad {
            key: DrawKey::of_cell(settings.priority, raised, foot, number, at),
            target: camera.pixels_around(rect.moved(offset)),
            source: art.source,
            turn: cell.turn(),
            color,
            blend: settings.blend,
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
        let foot = WorldPoint::new(sprite.foot.x, sprite.foot.y - sprite.elevation);
        let rect = match art.fit {
            Fit::Placed(_) => standing(foot, art, sprite.turn),
            Fit::Stretched => WorldRect::between(
                WorldPoint::new(foot.x - 4.0, foot.y - 6.0),
                WorldPoint::new(foot.x + 4.0, foot.y),
            ),
        };
        let key = DrawKey {
            priority: sprite.priority,
            raised: sprite.raised,
            depth: sprite.foot.y,
            elevation: sprite.elevation,
            layer: u32::MAX,
            kind: DrawKind::Sprite,
            place: quilt.lattice().cell_at(sprite.foot),
            sprite: Some(sprite.key),
            ..DrawKey::of_cell(0, false, None, 0, CellPos::ORIGIN)
        };
        let (source, turn, blend) = (art.source, sprite.turn, sprite.blend);
        Some(NaiveQuad { key, target: view.pixels_around(rect), source, turn, color, blend })
    });
    shown.collect()
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
    let (u, v) = texel(quad, x, y);
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
pub(crate) fn is_on_an_edge(quad: &Quad, x: i32, y: i32) -> bool {
    let size = quad.source.size;
    let (w, h) = if quad.turn.steps().is_multiple_of(2) {
        (size.width, size.height)
    } else {
        (size.height, size.width)
    };
    let near = |way: i32, length: i32, count: u32| {
        let at = (f64::from(way) + 0.5) / f64::from(length) * f64::from(count);
        (at - at.round()).abs() < 1e-6
    };
    near(x - quad.target.left, quad.target.right - quad.target.left, w)
        || near(y - quad.target.top, quad.target.bottom - quad.target.top, h)
}
