//! A contact sheet of a tile set: every tile with its name, place, ground and animation.

use sturdy_quilt::tile::{CellShape, Tile, TileSource};
use sturdy_quilt::units::{PixelRect, PixelSize, ScreenRect};
use sturdy_quilt::{Color, Frame, Lattice, Overlay, Painter, Picture, ScreenSize, TileSet, View};

/// The width of the picture.
const WIDTH: u32 = 1280;
/// Pixels that each side of a tile may take.
const ART: u32 = 64;
/// The width of a card with one tile, and the pixels between cards.
const CARD: u32 = 206;
const GAP: u32 = 6;
/// The height of a line of text, and how many letters a card is wide.
const LINE: u32 = 20;
const LETTERS: usize = 16;
/// The most frames of an animation that are shown beside their tile.
const FRAMES: usize = 3;

const BACKGROUND: Color = Color::rgb(20, 24, 28);
const CARD_COLOR: Color = Color::rgb(34, 40, 46);
const NAME: Color = Color::rgb(240, 244, 248);
const PLACE: Color = Color::rgb(150, 162, 174);
const GROUND: Color = Color::rgb(255, 200, 90);
const MOTION: Color = Color::rgb(120, 210, 255);
const SHAPE: Color = Color::rgb(255, 120, 60);
/// The most variants of a tile that are named.
const VARIANTS: usize = 3;

/// The picture of all tiles of a set.
pub(crate) fn picture(set: &TileSet) -> anyhow::Result<Picture> {
    let cards: Vec<Card<'_>> = set.tiles().iter().map(|tile| Card::of(set, tile)).collect();
    let art = cards.iter().map(Card::art_height).max().unwrap_or(ART);
    let lines = cards.iter().map(|card| card.lines.len() as u32).max().unwrap_or(1);
    let height = art + lines * LINE + 14;
    let columns = (WIDTH - GAP) / (CARD + GAP);
    let rows = (cards.len() as u32).div_ceil(columns);
    let size = ScreenSize::new(WIDTH, LINE * 2 + rows * (height + GAP) + GAP);
    if u64::from(size.width) * u64::from(size.height) > 1 << 26 {
        anyhow::bail!("tile set `{}` has too many tiles for one picture", set.name());
    }
    let (mut frame, mut overlay) = (Frame::new(size), Overlay::new());
    overlay.begin(&View::new(size), &Lattice::default());
    let title = title(set);
    overlay.text(GAP as i32 + 2, 12, &title, NAME);
    let corner = |number: u32| {
        (GAP + number % columns * (CARD + GAP), LINE * 2 + number / columns * (height + GAP))
    };
    for (card, number) in cards.iter().zip(0..) {
        let (x, y) = corner(number);
        card.write(&mut overlay, (x as i32, y as i32), art, height);
    }
    frame.clear(BACKGROUND);
    Painter::new().paint_overlay(&overlay, &mut frame);
    let mut picture = frame.to_picture();
    for (card, number) in cards.iter().zip(0..) {
        card.show(&mut picture, corner(number));
    }
    Ok(picture)
}

fn title(set: &TileSet) -> String {
    let tiles = set.tiles().len();
    let sheet = match (set.picture_file(), set.sheet()) {
        (Some(file), Some(cut)) => {
            format!(", {file} cut into {} × {} px", cut.tile.width, cut.tile.height)
        }
        (Some(file), None) => format!(", from {file}"),
        _ => String::new(),
    };
    format!("{}: {tiles} tiles{sheet}", set.name())
}

/// One tile as it is shown.
struct Card<'s> {
    set: &'s TileSet,
    tile: &'s Tile,
    zoom: u32,
    lines: Vec<(String, Color)>,
}

impl<'s> Card<'s> {
    fn of(set: &'s TileSet, tile: &'s Tile) -> Card<'s> {
        let source = tile.art().source;
        let zoom = zoom_of(source.size);
        let mut lines = vec![(shortened(&tile.key().to_string()), NAME)];
        let size = format!("{}×{}", source.size.width, source.size.height);
        lines.push(match &tile.spec().source {
            TileSource::Place(column, row) => {
                (shortened(&format!("{column}:{row} at {},{}", source.x, source.y)), PLACE)
            }
            TileSource::Pixels(rect) => {
                (shortened(&format!("{size} at {},{}", rect.x, rect.y)), PLACE)
            }
            TileSource::Picture(file) => {
                (shortened(file.rsplit('/').next().unwrap_or(file)), PLACE)
            }
            _ => ("flat colour".to_owned(), PLACE),
        });
        if let Some(class) = tile.ground() {
            lines.push((shortened(class), GROUND));
        }
        if let Some(animation) = tile.animation() {
            let (frames, ms) = (animation.frames().len(), animation.duration_ms());
            lines.push((shortened(&format!("{frames} frames {ms} ms")), MOTION));
        }
        if let Some(shape) = tile.shape() {
            lines.push((shortened(&shape_line(shape)), SHAPE));
        }
        let variants = &tile.spec().variants;
        for (name, weight) in variants.iter().take(VARIANTS) {
            lines.push((shortened(&format!("or {name} ×{weight}")), MOTION));
        }
        if variants.len() > VARIANTS {
            lines.push((format!("… {} more", variants.len() - VARIANTS), MOTION));
        }
        Card { set, tile, zoom, lines }
    }

    fn art_height(&self) -> u32 {
        self.tile.art().source.size.height.min(ART * 4) * self.zoom
    }

    /// The plate and the lines of text.
    fn write(&self, overlay: &mut Overlay, (left, top): (i32, i32), art: u32, height: u32) {
        let (right, bottom) = (left + CARD as i32, top + height as i32);
        overlay.rect(ScreenRect { left, top, right, bottom }, CARD_COLOR);
        for ((line, color), number) in self.lines.iter().zip(0..) {
            let y = top + 8 + art as i32 + number * LINE as i32;
            overlay.text(left + 6, y, line, *color);
        }
    }

    /// The tile over a check pattern, and the first frames of its animation, smaller.
    fn show(&self, picture: &mut Picture, (x, y): (u32, u32)) {
        let source = self.tile.art().source;
        self.stamp(picture, (x + 6, y + 6), source, self.zoom);
        // Of one that stands out of its cell, the set does not say where the cell is.
        let fills_cell = self.set.sheet().is_some_and(|cut| cut.tile == source.size);
        if let Some(shape) = self.tile.shape().filter(|_| fills_cell) {
            let size = (source.size.width * self.zoom, source.size.height * self.zoom);
            outline(picture, (x + 6, y + 6), size, shape);
        }
        let Some(animation) = self.tile.animation() else { return };
        let zoom = (self.zoom / 2).max(1);
        let mut left = x + 12 + source.size.width * self.zoom;
        for (frame, _) in animation.frames().take(FRAMES) {
            let Some(shown) = self.set.find(frame).map(|tile| tile.art().source) else { continue };
            if left + shown.size.width * zoom > x + CARD {
                break;
            }
            self.stamp(picture, (left, y + 6), shown, zoom);
            left += shown.size.width * zoom + 4;
        }
    }

    fn stamp(&self, picture: &mut Picture, (x, y): (u32, u32), source: PixelRect, zoom: u32) {
        let page = self.set.page();
        let stride = page.size().width as usize;
        let (width, height) = (source.size.width.min(CARD), source.size.height.min(ART * 4));
        for (down, across) in
            (0..height * zoom).flat_map(|y| (0..width * zoom).map(move |x| (y, x)))
        {
            let at =
                (source.y + down / zoom) as usize * stride + (source.x + across / zoom) as usize;
            let [r, g, b, a] = page.pixels().get(at).copied().unwrap_or_default();
            let check = if (across / 8 + down / 8) % 2 == 0 { 70 } else { 92 };
            // Alpha is multiplied in already.
            let over =
                |channel: u8| channel.saturating_add((check * (255 - u32::from(a)) / 255) as u8);
            picture.set(x + across, y + down, Color::rgb(over(r), over(g), over(b)));
        }
    }
}

/// The outline of the part of a cell that gives ground, over its picture.
fn outline(picture: &mut Picture, (x, y): (u32, u32), size: (u32, u32), shape: &CellShape) {
    let corners = shape.corners();
    let next = corners.iter().cycle().skip(1);
    let inner = |part: f64, length: u32| part * f64::from(length.saturating_sub(1));
    for (from, to) in corners.iter().zip(next) {
        let (a, b) = (
            (inner(from.0, size.0), inner(from.1, size.1)),
            (inner(to.0, size.0), inner(to.1, size.1)),
        );
        let steps = (b.0 - a.0).abs().max((b.1 - a.1).abs()).ceil().max(1.0);
        for step in 0..=steps as u32 {
            let part = f64::from(step) / steps;
            let at = |a: f64, b: f64| (a + (b - a) * part).round() as u32;
            picture.set(x + at(a.0, b.0), y + at(a.1, b.1), SHAPE);
        }
    }
}

/// A shape in a few letters.
fn shape_line(shape: &CellShape) -> String {
    if let Some((left, right)) = shape.as_floor() {
        format!("floor {left} {right}")
    } else if let Some((left, right)) = shape.as_ceiling() {
        format!("ceiling {left} {right}")
    } else if shape.as_area().is_some() {
        "area".to_owned()
    } else {
        format!("{} corners", shape.corners().len())
    }
}

/// How large a tile is shown: in whole steps, within the room for it.
fn zoom_of(size: PixelSize) -> u32 {
    if size == PixelSize::new(1, 1) {
        return ART / 2;
    }
    (ART / size.width.max(size.height).max(1)).max(1)
}

/// A text that fits a card.
fn shortened(text: &str) -> String {
    if text.chars().count() <= LETTERS {
        return text.to_owned();
    }
    text.chars().take(LETTERS - 1).chain(['…']).collect()
}
