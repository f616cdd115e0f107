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

use super::blit::lay;
use super::canvas::Canvas;
use super::pieces::{Piece, Pieces};
use super::stamp::{ScaledRow, stamp};
use super::swatch::{CellTable, Look};
use crate::draw::{
    Alignment, Diamond, DrawList, Group, PaneCells, RankPlace, RankSpan, Scene, StackEntry, rank,
};
use crate::plane::Stamp;
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
    /// Place by place, from the lowest.
    stacks: Vec<(u64, u32)>,
    used: u64,
}

/// What a place shows.
#[derive(Clone, Copy, Debug, Default)]
struct Place {
    /// Its pieces among those of the block.
    first: u32,
    count: u32,
    /// The piece that shows all of them.
    together: Option<u32>,
}

/// Memory to work with.
#[derive(Clone, Debug, Default)]
struct Scratch {
    /// The order of each entry, its picture, and the place of its cell.
    entries: Vec<(u64, u32, i64, i64)>,
    /// Which place shows which piece, in order.
    found: Vec<(u16, u64, u32)>,
    stack: Vec<(u64, u32)>,
    covered: Vec<u64>,
    numbers: Vec<u32>,
    columns: Table,
    rows: Table,
    /// By place: which sprites lie there.
    sprites: FxHashMap<(i64, i64), Vec<u32>>,
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
}

impl Table {
    /// Finds it for pixels whose number on the pane is told.
    fn find(&mut self, count: u32, side: i64, pixel: impl Fn(i32) -> i64) {
        self.within.clear();
        self.runs.clear();
        for at in 0..count as i32 {
            let pixel = pixel(at);
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

/// Where a place lies on the canvas, and which of its pixels show there.
struct Shown<'a> {
    rect: ScreenRect,
    columns: &'a [u16],
    rows: &'a [u16],
    /// Whether the pixels of the pane are those of the screen.
    is_natural: bool,
}

impl PanePainter {
    /// Begins a picture of a scene.
    pub(super) fn begin(&mut self, scene: &Scene, diamond: &Diamond, canvas: &Canvas<'_>) {
        let holds = self.pieces.begin(diamond, canvas.order());
        if !holds || self.scene != scene.made {
            self.blocks.clear();
            self.cells.clear();
        }
        self.cells.begin(scene.made);
        self.scene = scene.made;
        self.uses += 1;
    }

    /// Ends it: what the whole picture did not need is forgotten.
    pub(super) fn end(&mut self, is_whole: bool) {
        const MANY: usize = 4096;
        if is_whole || self.blocks.len() > MANY {
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
                    sprites.entry((*column, *row)).or_default().push(number as u32);
                }
            }
        }
        let is_natural = view.zoom() == 1.0;
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
                    BlockKey { alignment: group.alignment, levels: group.levels, column, row };
                let block = self.block((list, scene, diamond), group, key, &mut scratch);
                let Scratch { columns, rows, sprites, line, through, .. } = &mut scratch;
                for &(j, top, bottom) in rows.of_block(row) {
                    for &(i, left, right) in columns.of_block(column) {
                        let at = (j - row * SIDE) * SIDE + i - column * SIDE;
                        let place = block.places[at as usize];
                        let among = match sprites.is_empty() {
                            true => None,
                            false => sprites.get(&(i, j)),
                        };
                        if place.count == 0 && among.is_none() {
                            continue;
                        }
                        let shown = Shown {
                            rect: ScreenRect { left, top, right, bottom },
                            columns: &columns.within[left as usize..right as usize],
                            rows: &rows.within[top as usize..bottom as usize],
                            is_natural,
                        };
                        let first = place.first as usize;
                        let stack = &block.stacks[first..first + place.count as usize];
                        let lines = &mut (&mut *line, &mut *through);
                        match (place.together, among) {
                            (Some(number), None) => {
                                show(self.pieces.get(number), &shown, canvas, lines);
                            }
                            (None, None) => {
                                for (_, number) in stack {
                                    show(self.pieces.get(*number), &shown, canvas, lines);
                                }
                            }
                            (_, Some(among)) => {
                                let mut next = 0;
                                for number in among {
                                    let key = &list.loose[*number as usize].quad.key;
                                    let before = list.rank_place(scene, group, key);
                                    let before = order_before(before);
                                    while next < stack.len() && stack[next].0 < before {
                                        show(self.pieces.get(stack[next].1), &shown, canvas, lines);
                                        next += 1;
                                    }
                                    let mut part = canvas.part(shown.rect);
                                    sprite(*number, (x + left, y + top), &mut part);
                                }
                                for (_, number) in &stack[next..] {
                                    show(self.pieces.get(*number), &shown, canvas, lines);
                                }
                            }
                        }
                    }
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
            let near = alignment.parts().filter(|(patch, stack)| {
                let cells = patch.shown(stack.pos.cells());
                !cells.is_empty() && span.touches(cells)
            });
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
        let Scratch { entries, found, stack, covered, numbers, .. } = scratch;
        entries.clear();
        block.is_animated = false;
        let first_row = i64::from(span.bounds().top());
        alignment.each_entry(span, group.levels, |own, shown, entry| {
            block.is_animated |= scene.map_facts.is_animated(entry.cell);
            let Some(cut) = self.cut((list, scene, diamond), own, entry) else { return };
            let (x, y) = (i64::from(shown.x()), i64::from(shown.y()));
            // Of one rank and level, from the top.
            let within = (y - first_row) as u64 & 0xffff;
            let place = RankPlace { rank: rank(shown), level: entry.level };
            let order = if group.by_rank { order_before(place) } else { order_by_level(place) };
            entries.push((order | within, cut, x - y, x + y));
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
        // Stable, so that pieces of the same picture keep their order.
        found.sort_by_key(|(place, ..)| *place);
        block.places.clear();
        block.places.resize((SIDE * SIDE) as usize, Place::default());
        block.stacks.clear();
        for of_place in found.chunk_by(|a, b| a.0 == b.0) {
            stack.clear();
            stack.extend(of_place.iter().map(|(_, order, piece)| (*order, *piece)));
            self.pieces.remove_covered(stack, covered);
            let together = self.pieces.together(stack, numbers);
            let (first, count) = (block.stacks.len() as u32, stack.len() as u32);
            block.places[usize::from(of_place[0].0)] = Place { first, count, together };
            block.stacks.extend_from_slice(stack);
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

/// The place in the order as one number, rank by rank.
fn order_before(place: RankPlace) -> u64 {
    u64::from(place.rank.cast_unsigned() ^ 1 << 31) << 32 | u64::from(place.level) << 16
}

/// The same, level by level.
fn order_by_level(place: RankPlace) -> u64 {
    u64::from(place.level) << 48 | u64::from(place.rank.cast_unsigned() ^ 1 << 31) << 16
}

/// Shows a piece in its place.
fn show(
    piece: &Piece,
    shown: &Shown<'_>,
    canvas: &mut Canvas<'_>,
    (line, through): &mut (&mut Vec<[u8; 4]>, &mut Vec<[u8; 4]>),
) {
    let swatch = &piece.swatch;
    let ScreenRect { left, top, right, bottom } = shown.rect;
    let (Some(&first_column), Some(&first_row)) = (shown.columns.first(), shown.rows.first())
    else {
        return;
    };
    if shown.is_natural {
        let (left, top) = (left - i32::from(first_column), top - i32::from(first_row));
        let (right, bottom) = (left + swatch.width as i32, top + swatch.height as i32);
        let target = ScreenRect { left, top, right, bottom };
        stamp(swatch, target, canvas, &mut ScaledRow::default());
        return;
    }
    let width = swatch.width as usize;
    let is_opaque = swatch.coverage == Coverage::Opaque;
    let mut held = None;
    for (y, row) in (top..bottom).zip(shown.rows) {
        let pixels = canvas.row_mut(y as u32, left as u32, right as u32);
        let start = usize::from(*row) * width;
        if held != Some(row) {
            held = Some(row);
            let own = &swatch.pixels[start..start + width];
            line.clear();
            line.extend(shown.columns.iter().map(|x| own[usize::from(*x)]));
            if !is_opaque {
                let own = &swatch.through[start..start + width];
                through.clear();
                through.extend(shown.columns.iter().map(|x| own[usize::from(*x)]));
            }
        }
        if is_opaque {
            pixels.copy_from_slice(line);
        } else {
            lay(pixels, (line, through), swatch.coverage, swatch.blend);
        }
    }
}
