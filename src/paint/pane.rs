//! Paints the cells of a map that is seen at a slant.
//!
//! The pane is divided into places of half a diamond, see [`Pieces`], and those into blocks. What each
//! place of a block shows is found once, without what is covered, and kept as long as the lists of the
//! chunks are the same whose cells reach into it. A picture of the pane is shown by one table of
//! columns and one of rows, which tell for each pixel of the screen the pixel of the pane under its
//! centre.
//!
//! Sprites part only the places that they touch: there, what comes before each is painted, then it, and
//! then what comes after it.

use rustc_hash::FxHashMap;

use super::blit::{self, lay};
use super::canvas::Canvas;
use super::cell_row::{PlaceRow, PlacedStack, Target};
use super::pieces::Pieces;
use super::swatch::{CellTable, Look};
use super::vector;
use crate::draw::{
    Alignment, Diamond, DrawList, Group, PaneCells, RankSpan, Scene, StackEntry, rank,
};
use crate::plane::Stamp;
use crate::quilt::Blend;
use crate::tile::Coverage;
use crate::units::{CellOffset, CellPos, ChunkPos, ScreenRect};

/// What is kept to paint maps at a slant.
#[derive(Clone, Debug, Default)]
pub(super) struct PanePainter {
    pieces: Pieces,
    /// The pictures of cells that are not animated, in pieces.
    cells: CellTable,
    blocks: FxHashMap<BlockKey, Block>,
    scene: Stamp,
    uses: u64,
    uses_vectors: bool,
    scratch: Scratch,
}

/// Places on a side of a block.
const SIDE: i64 = 16;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
struct BlockKey {
    alignment: usize,
    levels: (u16, u16),
    column: i64,
    row: i64,
}

/// What the places of a block show.
#[derive(Clone, Debug, Default)]
struct Block {
    /// The lists of which it was made: of which chunk, how far that is moved, and when it was found.
    lists: Vec<(ChunkPos, CellOffset, Stamp)>,
    is_animated: bool,
    /// Row by row.
    places: Vec<Place>,
    /// Place by place, from the lowest: the pieces, and where each lies in the order.
    numbers: Vec<u32>,
    orders: Vec<u64>,
    used: u64,
}

/// What a place shows.
#[derive(Clone, Copy, Debug, Default)]
struct Place {
    /// Its pieces among those of the block.
    first: u32,
    count: u32,
    /// Whether they leave nothing of what is below.
    is_whole: bool,
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
struct Scratch {
    /// The order of each entry, its picture, and the place of its cell.
    entries: Vec<(u64, u32, i64, i64)>,
    /// Which place shows which piece, in order.
    found: Vec<(u16, u64, u32)>,
    sorted: Vec<(u16, u64, u32)>,
    orders: Vec<u64>,
    numbers: Vec<u32>,
    covered: Vec<u64>,
    /// Places of a row that only need to be put together.
    row: Vec<PlacedStack>,
    /// The pixels of one place.
    whole: Vec<[u8; 4]>,
    columns: Table,
    rows: Table,
    /// Which sprites lie in which places, by place.
    sprites: Vec<((i64, i64), u32)>,
    line: Vec<[u8; 4]>,
    through: Vec<[u8; 4]>,
}

/// Which pixels of the pane the columns or rows of the screen show.
#[derive(Clone, Debug, Default)]
struct Table {
    /// By column or row of the canvas: the pixel within its place.
    within: Vec<u16>,
    /// The places, each with its first column or row and the one behind its last.
    runs: Vec<(i64, i32, i32)>,
    /// Whether each pixel of the screen shows the pixel of the pane behind that of the one before it.
    is_natural: bool,
}

impl Table {
    /// Finds it for pixels whose number on the pane is told.
    fn find(&mut self, count: u32, side: i64, pixel: impl Fn(i32) -> i64) {
        self.within.clear();
        self.runs.clear();
        // Not by the zoom: at an edge between two pixels, rounding may show one twice.
        self.is_natural = true;
        let mut before = None;
        for at in 0..count as i32 {
            let pixel = pixel(at);
            self.is_natural &= before.replace(pixel).is_none_or(|before| pixel == before + 1);
            let place = pixel.div_euclid(side);
            self.within.push(pixel.rem_euclid(side) as u16);
            match self.runs.last_mut() {
                Some((last, _, end)) if *last == place => *end = at + 1,
                _ => self.runs.push((place, at, at + 1)),
            }
        }
    }

    /// The runs of the places that a block has in one direction.
    fn of_block(&self, block: i64) -> &[(i64, i32, i32)] {
        let from = self.runs.partition_point(|run| run.0 < block * SIDE);
        let end = self.runs.partition_point(|run| run.0 < (block + 1) * SIDE);
        &self.runs[from..end]
    }

    /// The runs that have some columns or rows of the canvas.
    fn touching(&self, from: i32, to: i32) -> &[(i64, i32, i32)] {
        let first = self.runs.partition_point(|run| run.2 <= from);
        let end = self.runs.partition_point(|run| run.1 < to);
        &self.runs[first..end.max(first)]
    }
}

/// Those of some sprites, which are in the order of places, that lie in one.
fn sprites_at(sprites: &[((i64, i64), u32)], place: (i64, i64)) -> &[((i64, i64), u32)] {
    if sprites.is_empty() {
        return &[];
    }
    let first = sprites.partition_point(|(other, _)| *other < place);
    let count = sprites[first..].iter().take_while(|(other, _)| *other == place).count();
    &sprites[first..first + count]
}

impl PanePainter {
    /// Begins a picture of a scene.
    pub(super) fn begin(
        &mut self,
        scene: &Scene,
        diamond: &Diamond,
        canvas: &Canvas<'_>,
        uses_vectors: bool,
    ) {
        self.uses_vectors = uses_vectors;
        let holds = self.pieces.begin(diamond, canvas.order());
        if !holds || self.scene != scene.made {
            self.blocks.clear();
            self.cells.clear();
        }
        self.cells.begin(scene.made);
        self.scene = scene.made;
        self.uses += 1;
    }

    /// Ends it: what a whole picture did not need is forgotten, once that is as much as what it needed. A
    /// camera that moves to and fro finds what it has just left.
    pub(super) fn end(&mut self, is_whole: bool) {
        const MANY: usize = 4096;
        let used = || self.blocks.values().filter(|block| block.used == self.uses).count();
        if is_whole && self.blocks.len() > 2 * used() || self.blocks.len() > MANY {
            self.blocks.retain(|_, block| block.used == self.uses);
        }
    }

    /// Paints a group of cells, with sprites among them. The canvas begins with a pixel of the screen;
    /// `sprite` paints one of the loose items of the list on a part of it.
    pub(super) fn paint(
        &mut self,
        (list, scene, diamond): (&DrawList, &Scene, &Diamond),
        group: &Group,
        (x, y): (i32, i32),
        canvas: &mut Canvas<'_>,
        mut sprite: impl FnMut(u32, (i32, i32), &mut Canvas<'_>),
    ) {
        let alignment = &list.alignments[group.alignment];
        let Some(slanted) = alignment.slanted else { return };
        let view = &alignment.placement.view;
        let mut scratch = std::mem::take(&mut self.scratch);
        let size = canvas.size();
        let Scratch { columns, rows, sprites, .. } = &mut scratch;
        columns
            .find(size.width, diamond.half_width, |at| view.pane_column(at + x) - slanted.corner.0);
        rows.find(size.height, diamond.half_height, |at| view.pane_row(at + y) - slanted.corner.1);
        sprites.clear();
        for number in group.sprites.0..group.sprites.1 {
            let target = list.loose[number].quad.target.moved(-x, -y);
            for (row, ..) in rows.touching(target.top, target.bottom) {
                for (column, ..) in columns.touching(target.left, target.right) {
                    sprites.push(((*column, *row), number as u32));
                }
            }
        }
        sprites.sort_unstable();
        let is_natural = scratch.columns.is_natural && scratch.rows.is_natural;
        let ends = |table: &Table| Some((table.runs.first()?.0, table.runs.last()?.0));
        let (Some((left, right)), Some((top, bottom))) =
            (ends(&scratch.columns), ends(&scratch.rows))
        else {
            self.scratch = scratch;
            return;
        };
        for row in top.div_euclid(SIDE)..=bottom.div_euclid(SIDE) {
            for column in left.div_euclid(SIDE)..=right.div_euclid(SIDE) {
                let key =
                    BlockKey { alignment: group.alignment, levels: group.levels(), column, row };
                let block = self.block((list, scene, diamond), group, key, &mut scratch);
                let Scratch { columns, rows, sprites, row: placed, whole, line, through, .. } =
                    &mut scratch;
                let mut painting = Painting {
                    pieces: &self.pieces,
                    block: &block,
                    columns,
                    rows,
                    is_natural,
                    uses_vectors: self.uses_vectors,
                    placed,
                    whole,
                    line,
                    through,
                    canvas,
                };
                for &(j, top, bottom) in painting.rows.of_block(row) {
                    for &(i, left, right) in painting.columns.of_block(column) {
                        let at = (j - row * SIDE) * SIDE + i - column * SIDE;
                        let place = painting.block.places[at as usize];
                        let rect = ScreenRect { left, top, right, bottom };
                        match sprites_at(sprites, (i, j)) {
                            [] => painting.place(place, rect),
                            among => {
                                let among = among.iter().map(|(_, number)| {
                                    let key = &list.loose[*number as usize].quad.key;
                                    (list.order_of(scene, group, key), *number)
                                });
                                painting.parted(place, rect, among, |number, part| {
                                    sprite(number, (x + left, y + top), part);
                                });
                            }
                        }
                    }
                    painting.flush(top);
                }
                self.blocks.insert(key, block);
            }
        }
        self.scratch = scratch;
    }

    /// Takes out what is known of a block, found anew where it is out of date.
    fn block(
        &mut self,
        (list, scene, diamond): (&DrawList, &Scene, &Diamond),
        group: &Group,
        key: BlockKey,
        scratch: &mut Scratch,
    ) -> Block {
        let alignment = &list.alignments[group.alignment];
        let corner = (key.column * SIDE, key.row * SIDE);
        let area = PaneCells {
            left: corner.0 * diamond.half_width,
            top: corner.1 * diamond.half_height,
            right: (corner.0 + SIDE) * diamond.half_width,
            bottom: (corner.1 + SIDE) * diamond.half_height,
        };
        let span = RankSpan::in_area(area, scene.map_facts.frame, diamond);
        let lists = || {
            let near = alignment
                .parts()
                .filter(|(patch, stack)| span.touches(patch.shown(stack.pos.cells())));
            near.map(|(patch, stack)| (stack.pos, patch.by, stack.built))
        };
        let mut block = self.blocks.remove(&key).unwrap_or_default();
        let is_right =
            block.used > 0 && !block.is_animated && lists().eq(block.lists.iter().copied());
        block.used = self.uses;
        if !is_right {
            block.lists.clear();
            block.lists.extend(lists());
            self.resolve((list, scene, diamond), group, (corner, &span), &mut block, scratch);
        }
        block
    }

    /// Finds what the places of a block show.
    fn resolve(
        &mut self,
        (list, scene, diamond): (&DrawList, &Scene, &Diamond),
        group: &Group,
        ((left, top), span): ((i64, i64), &RankSpan),
        block: &mut Block,
        scratch: &mut Scratch,
    ) {
        let alignment: &Alignment = &list.alignments[group.alignment];
        let Scratch { entries, found, sorted, orders, numbers, covered, .. } = scratch;
        entries.clear();
        block.is_animated = false;
        let first_row = i64::from(span.bounds().top());
        alignment.each_entry(span, group.levels(), |own, shown, entry| {
            block.is_animated |= scene.map_facts.is_animated(entry.cell);
            let Some(cut) = self.cut((list, scene, diamond), own, entry) else { return };
            let (x, y) = (i64::from(shown.x()), i64::from(shown.y()));
            // Of one rank and level, from the top.
            let within = ((y - first_row) as u64).min(1023);
            let order = group.order(rank(shown), entry.level, within);
            entries.push((order, cut, x - y, x + y));
        });
        entries.sort_unstable();
        found.clear();
        for (order, cut, t, s) in entries.iter() {
            for (dx, dy, piece) in &self.pieces.cut(*cut).pieces {
                let (i, j) = (t + i64::from(*dx) - left, s + i64::from(*dy) - top);
                if (0..SIDE).contains(&i) && (0..SIDE).contains(&j) {
                    found.push(((j * SIDE + i) as u16, *order, *piece));
                }
            }
        }
        // By counting, so that the pieces of a place keep their order.
        let mut starts = [0_usize; (SIDE * SIDE) as usize + 1];
        found.iter().for_each(|(place, ..)| starts[usize::from(*place) + 1] += 1);
        (1..starts.len()).for_each(|at| starts[at] += starts[at - 1]);
        sorted.clear();
        sorted.resize(found.len(), (0, 0, 0));
        for piece in found.iter() {
            let start = &mut starts[usize::from(piece.0)];
            sorted[*start] = *piece;
            *start += 1;
        }
        block.places.clear();
        block.places.resize((SIDE * SIDE) as usize, Place::default());
        block.numbers.clear();
        block.orders.clear();
        for of_place in sorted.chunk_by(|a, b| a.0 == b.0) {
            orders.clear();
            numbers.clear();
            orders.extend(of_place.iter().map(|(_, order, _)| *order));
            numbers.extend(of_place.iter().map(|(.., piece)| *piece));
            let is_whole = self.pieces.remove_covered((orders, numbers), covered);
            let (first, count) = (block.numbers.len() as u32, numbers.len() as u32);
            block.places[usize::from(of_place[0].0)] = Place { first, count, is_whole };
            block.numbers.extend_from_slice(numbers);
            block.orders.extend_from_slice(orders);
        }
    }

    /// The number of the picture of an entry, in pieces.
    fn cut(
        &mut self,
        (list, scene, diamond): (&DrawList, &Scene, &Diamond),
        own: CellPos,
        entry: StackEntry,
    ) -> Option<u32> {
        if let Some(number) = self.cells.get(entry.cell, entry.level) {
            return Some(number);
        }
        let (_, cell_art, blend) = scene.cell_art(&list.clock, own, entry);
        let look = Look {
            page: list.page(cell_art.page)?,
            source: cell_art.art.source,
            turn: cell_art.turn,
            color: cell_art.color,
            blend,
            stretched: None,
        };
        let frame = scene.map_facts.frame_of(diamond, cell_art.art, entry.level);
        let number = self.pieces.number(look, frame);
        if !scene.map_facts.is_animated(entry.cell) {
            self.cells.put(entry.cell, entry.level, number);
        }
        Some(number)
    }
}

/// A block that is being painted.
struct Painting<'a, 'c> {
    pieces: &'a Pieces,
    block: &'a Block,
    columns: &'a Table,
    rows: &'a Table,
    /// Whether the pixels of the pane are those of the screen.
    is_natural: bool,
    uses_vectors: bool,
    placed: &'a mut Vec<PlacedStack>,
    whole: &'a mut Vec<[u8; 4]>,
    line: &'a mut Vec<[u8; 4]>,
    through: &'a mut Vec<[u8; 4]>,
    canvas: &'a mut Canvas<'c>,
}

impl Painting<'_, '_> {
    /// Paints a place, or notes that it is to be painted with its row.
    fn place(&mut self, place: Place, rect: ScreenRect) {
        if place.count == 0 {
            return;
        }
        let numbers = place.first as usize..(place.first + place.count) as usize;
        if !place.is_whole {
            numbers.for_each(|at| self.piece(self.block.numbers[at], rect));
            return;
        }
        let (width, height) = self.pieces.size();
        let is_full =
            rect.left.abs_diff(rect.right) == width && rect.top.abs_diff(rect.bottom) == height;
        if self.is_natural && is_full {
            let (first, count) = (place.first, place.count);
            self.placed.push(PlacedStack { left: rect.left, first, count });
            return;
        }
        let numbers = &self.block.numbers[numbers];
        self.whole.resize(width as usize * height as usize, [0; 4]);
        let (swatches, target) = (self.pieces.swatches(), (&mut self.whole[..], width as usize));
        blit::stack(swatches, numbers, 0..height as usize, target);
        let whole = std::mem::take(self.whole);
        self.show((&whole, &[]), (Coverage::Opaque, Blend::Normal), rect);
        *self.whole = whole;
    }

    /// Paints the places of a row that only need to be put together.
    fn flush(&mut self, top: i32) {
        if self.placed.is_empty() {
            return;
        }
        let (pixels, stride) = self.canvas.rest_mut(0, top as u32);
        let (numbers, height) = (&self.block.numbers[..], self.pieces.size().1 as usize);
        let row = PlaceRow { numbers, places: self.placed, height };
        let mut target = Target { pixels, stride };
        vector::paint_places(row, self.pieces.swatches(), &mut target, self.uses_vectors);
        self.placed.clear();
    }

    /// Paints a place with sprites among its pieces, each with the order before which it comes.
    fn parted(
        &mut self,
        place: Place,
        rect: ScreenRect,
        sprites: impl Iterator<Item = (u64, u32)>,
        mut sprite: impl FnMut(u32, &mut Canvas<'_>),
    ) {
        let (mut next, end) = (place.first as usize, (place.first + place.count) as usize);
        for (before, number) in sprites {
            while next < end && self.block.orders[next] < before {
                self.piece(self.block.numbers[next], rect);
                next += 1;
            }
            sprite(number, &mut self.canvas.part(rect));
        }
        (next..end).for_each(|at| self.piece(self.block.numbers[at], rect));
    }

    /// Paints one piece.
    fn piece(&mut self, number: u32, rect: ScreenRect) {
        let swatch = &self.pieces.swatches()[number as usize];
        let look = (swatch.coverage, swatch.blend);
        self.show((&swatch.pixels, &swatch.through), look, rect);
    }

    /// Shows the pixels of a place by the tables.
    fn show(
        &mut self,
        (own, own_through): (&[[u8; 4]], &[[u8; 4]]),
        (coverage, blend): (Coverage, Blend),
        ScreenRect { left, top, right, bottom }: ScreenRect,
    ) {
        let columns = &self.columns.within[left as usize..right as usize];
        let rows = &self.rows.within[top as usize..bottom as usize];
        let width = self.pieces.size().0 as usize;
        let Some(first) = columns.first().map(|x| usize::from(*x)) else { return };
        let is_solid = (coverage, blend) == (Coverage::Opaque, Blend::Normal);
        let mut held = None;
        for (y, row) in (top..bottom).zip(rows) {
            let pixels = self.canvas.row_mut(y as u32, left as u32, right as u32);
            let start = usize::from(*row) * width;
            if self.is_natural {
                let part = start + first..start + first + columns.len();
                match is_solid {
                    true => pixels.copy_from_slice(&own[part]),
                    false => lay(pixels, (&own[part.clone()], &own_through[part]), coverage, blend),
                }
                continue;
            }
            if held != Some(row) {
                held = Some(row);
                let taken = |from: &[[u8; 4]], line: &mut Vec<[u8; 4]>| {
                    let from = &from[start..start + width];
                    line.clear();
                    line.extend(columns.iter().map(|x| from[usize::from(*x)]));
                };
                taken(own, self.line);
                if !is_solid {
                    taken(own_through, self.through);
                }
            }
            match is_solid {
                true => pixels.copy_from_slice(self.line),
                false => lay(pixels, (self.line, self.through), coverage, blend),
            }
        }
    }
}
