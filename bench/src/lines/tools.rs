//! The tools of the pen, with what undoes them, against what a user would write on flat grids.

use std::cell::RefCell;

use sturdy_quilt::edit::Flood;
use sturdy_quilt::inspect::MinimapScale;
use sturdy_quilt::paint::KeptFrame;
use sturdy_quilt::{
    Cell, CellPos, CellRect, CellSet, Changeset, Color, DrawList, GroundMap, Lattice,
    LayerSettings, Minimap, Painter, Quilt, ScreenSize, TileSet, View,
};

use crate::harness::{Mark, Versus};
use crate::rivals::edits::{ByteGrid, ChangeList, FlatGrid};
use crate::scenes::Numbers;

pub(crate) fn run(versus: &mut Versus) {
    if versus.wants("edit.stroke") {
        strokes(versus);
    }
    if versus.wants("edit.fill") {
        fills(versus);
    }
    if versus.wants("edit.flood") {
        floods(versus);
    }
    if versus.wants("edit.follow") {
        follows(versus);
    }
    if versus.wants("edit.bytes") {
        bytes(versus);
    }
}

fn map_of(side: u32, mut kind: impl FnMut(CellPos) -> u8) -> (Quilt, Vec<Cell>) {
    let names = ('a'..='p').map(String::from);
    let mut tiles = Vec::new();
    let quilt = Quilt::build(Lattice::default(), |pen| {
        pen.put_tiles(TileSet::flat("s", names)?)?;
        pen.add_layer("l", LayerSettings::default())?;
        tiles = pen.quilt().tiles().ids().map(Cell::of).collect();
        let all = CellRect::new(CellPos::ORIGIN, side, side);
        pen.put_each("l", all, |cell| tiles[usize::from(kind(cell))])
    });
    (quilt.expect("the map is well made"), tiles)
}

/// Strokes of the pointer, its samples up to a dozen cells apart, one cell wide.
fn strokes(versus: &mut Versus) {
    const SIDE: u32 = 1024;
    let mut numbers = Numbers::new(0x57f0);
    let (quilt, tiles) = map_of(SIDE, |_| numbers.below(9) as u8);
    let flat = quilt.layer("l").expect("the layer was made").cells();
    let mut cells = Vec::new();
    flat.read_rect(CellRect::new(CellPos::ORIGIN, SIDE, SIDE), &mut cells).expect("all is here");
    let cells = cells.iter().map(|cell| cell.to_bits()).collect();
    let flat = RefCell::new(FlatGrid { side: SIDE as usize, cells });
    let quilt = RefCell::new(quilt);
    // A hand that goes on in one direction, which changes a little.
    let (mut at, mut angle) = ((500.0_f64, 500.0_f64), 0.3_f64);
    let mut points = vec![(500, 500)];
    while points.len() < 160 {
        angle += numbers.below(100) as f64 / 100.0 - 0.5;
        let length = 3.0 + numbers.below(9) as f64;
        at.0 = (at.0 + length * angle.cos()).clamp(2.0, 1020.0);
        at.1 = (at.1 + length * angle.sin()).clamp(2.0, 1020.0);
        points.push((at.0 as i32, at.1 as i32));
    }
    let stroke: Vec<CellPos> = points.iter().map(|(x, y)| CellPos::new(*x, *y)).collect();
    let count = CellSet::stroke(stroke.iter().copied()).expect("a short stroke").len();
    let mut turn = 0;
    let ours = || {
        turn += 1;
        let tile = tiles[10 + turn % 2];
        let mut quilt = quilt.borrow_mut();
        let edit = quilt.edit("stroke", |pen| pen.stroke("l", &stroke, tile));
        u64::from(!edit.expect("the stroke is well made").changes.is_empty())
    };
    let mut other_turn = 0;
    let theirs = || {
        other_turn += 1;
        let value = tiles[10 + other_turn % 2].to_bits();
        u64::from(!flat.borrow_mut().stroke(&points, value).is_empty())
    };
    versus.line("edit.stroke.vec-log", count, Mark::AtMost(3.0), true, ours, theirs);
}

/// A fill of 4096 × 4096 cells that hold different things, and its undoing.
fn fills(versus: &mut Versus) {
    const SIDE: u32 = 4096;
    let mut numbers = Numbers::new(0xf111);
    let mut held = 0;
    let (quilt, tiles) = map_of(SIDE, |_| {
        if numbers.below(5) == 0 {
            held = numbers.below(7) as u8;
        }
        held
    });
    let all = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
    let first = quilt.clone();
    let quilt = RefCell::new(quilt);
    let flat = RefCell::new(vec![7_u32; (SIDE * SIDE) as usize]);
    let mut turn = 0;
    let mut fill = || -> Changeset {
        turn += 1;
        let tile = tiles[10 + turn % 2];
        let mut quilt = quilt.borrow_mut();
        quilt.edit("fill", |pen| pen.fill("l", all, tile)).expect("a fill").changes
    };
    let mut kept = None;
    let ours = || {
        kept = Some(fill());
        1
    };
    let mut other_turn = 0;
    let mut saved = None;
    let theirs = || {
        other_turn += 1;
        let mut flat = flat.borrow_mut();
        saved = Some(flat.clone());
        flat.fill(other_turn);
        1
    };
    versus.line("edit.fill.flat-copy", 1, Mark::AtMost(0.01), true, ours, theirs);
    drop((kept, saved));
    // Undone and done again, of the map as it was made.
    *quilt.borrow_mut() = first;
    let done = fill();
    let undone = done.inverse();
    let mut is_done = true;
    let ours = || {
        let changes = if is_done { &undone } else { &done };
        is_done = !is_done;
        quilt.borrow_mut().apply(changes).expect("the map holds what is expected");
        1
    };
    let copy = flat.borrow().clone();
    let theirs = || {
        flat.borrow_mut().copy_from_slice(&copy);
        1
    };
    versus.line("edit.fill-undo.copy-back", 1, Mark::Nanoseconds(1e6), true, ours, theirs);
}

/// A flood through a cave of over a million cells, between walls of several kinds.
fn floods(versus: &mut Versus) {
    const SIDE: usize = 1600;
    let mut numbers = Numbers::new(0xcafe);
    let mut walls: Vec<bool> = (0..SIDE * SIDE).map(|_| numbers.below(100) < 42).collect();
    // A few steps of the rule that a cell is a wall where most around it are.
    for _ in 0..3 {
        let before = walls.clone();
        for y in 0..SIDE {
            for x in 0..SIDE {
                let around = (-1..=1_isize).flat_map(|dy| (-1..=1_isize).map(move |dx| (dx, dy)));
                let count = around.filter(|(dx, dy)| {
                    let at = (x.checked_add_signed(*dx), y.checked_add_signed(*dy));
                    let (Some(x), Some(y)) = at else { return true };
                    x >= SIDE || y >= SIDE || before[y * SIDE + x]
                });
                walls[y * SIDE + x] = count.count() >= 5;
            }
        }
    }
    let mut grid = ByteGrid {
        side: SIDE,
        cells: walls
            .iter()
            .map(|wall| if *wall { 1 + numbers.below(6) as u8 } else { 0 })
            .collect(),
    };
    // The largest cave begins where a flood finds the most.
    let starts = (0..SIDE).step_by(37).map(|at| (at, SIDE / 2));
    let open = |start: &(usize, usize)| grid.cells[start.1 * SIDE + start.0] == 0;
    let starts: Vec<(usize, usize)> = starts.filter(open).collect();
    let size = |start: &&(usize, usize)| {
        let mut copy = ByteGrid { side: SIDE, cells: grid.cells.clone() };
        copy.fill_by_spans(**start, 9)
    };
    let start = *starts.iter().max_by_key(size).expect("there is a cave");
    let (quilt, tiles) =
        map_of(SIDE as u32, |cell| grid.cells[cell.y() as usize * SIDE + cell.x() as usize]);
    let count = grid.fill_by_spans(start, 8);
    let grid = RefCell::new(grid);
    let quilt = RefCell::new(quilt);
    let at = CellPos::new(start.0 as i32, start.1 as i32);
    let mut turn = 0;
    let mut ours = || {
        turn += 1;
        let tile = tiles[8 + turn % 2];
        let mut quilt = quilt.borrow_mut();
        let edit = quilt.edit("flood", |pen| {
            let cells = pen.quilt().flood("l", at, Flood::default())?;
            pen.lay("l", &cells, tile)
        });
        edit.expect("the flood ends").result.len()
    };
    let other_turn = RefCell::new(0_u8);
    let next = || {
        *other_turn.borrow_mut() += 1;
        10 + *other_turn.borrow() % 2
    };
    let spans = || grid.borrow_mut().fill_by_spans(start, next());
    versus.line("edit.flood.spans", count, Mark::AtMost(1.5), true, &mut ours, spans);
    let queue = || grid.borrow_mut().fill_by_queue(start, next());
    versus.line("edit.flood.queue-and-set", count, Mark::AtMost(0.2), true, ours, queue);
}

/// Runs of cells of sixteen kinds over other runs, written as bytes and read again, and a stroke.
fn bytes(versus: &mut Versus) {
    const SIDE: u32 = 1024;
    let mut numbers = Numbers::new(0xb17e);
    let mut held = 0;
    let mut runs = || {
        if numbers.below(4) == 0 {
            held = numbers.below(16) as u8;
        }
        held
    };
    let (mut quilt, tiles) = map_of(SIDE, |_| runs());
    let all = CellRect::new(CellPos::ORIGIN, SIDE, SIDE);
    let before = quilt.clone();
    let edit = quilt.edit("runs", |pen| pen.put_each("l", all, |_| tiles[usize::from(runs())]));
    let changes = edit.expect("the runs are well made").changes;
    let count = all.cell_count();
    let sent = changes.to_forward_bytes();
    let list: Vec<(i32, i32, u32)> =
        changes.cells().map(|edit| (edit.cell.x(), edit.cell.y(), edit.after.to_bits())).collect();
    let flat = ChangeList::to_bytes(&list);
    let limits = sturdy_quilt::document::Limits::default();
    let write = || u64::from(!changes.to_forward_bytes().is_empty());
    let write_list = || u64::from(!ChangeList::to_bytes(&list).is_empty());
    // A hundred million cells a second.
    versus.line("edit.bytes.write", count, Mark::Nanoseconds(10.0), true, write, write_list);
    let read = || {
        let read = Changeset::from_bytes(&sent, &before, &limits);
        u64::from(!read.expect("the bytes are sound").is_empty())
    };
    let read_list = || u64::from(!ChangeList::from_bytes(&flat).is_empty());
    versus.line("edit.bytes.read", count, Mark::Nanoseconds(10.0), true, read, read_list);
}

/// All that follows a map, brought up to date after an edit of one cell, against making it anew.
struct Followers {
    quilt: Quilt,
    view: View,
    ground: GroundMap,
    list: DrawList,
    minimap: Minimap,
    painter: Painter,
    kept: KeptFrame,
}

impl Followers {
    fn of(quilt: Quilt, view: View) -> Followers {
        let (list, painter) = (DrawList::new(), Painter::new());
        let (minimap, kept) =
            (Minimap::new(MinimapScale::Cells), KeptFrame::new(Color::rgb(0, 0, 0)));
        let ground = GroundMap::of(&quilt);
        let mut followers = Followers { quilt, view, ground, list, minimap, painter, kept };
        followers.follow();
        followers
    }

    fn follow(&mut self) -> u64 {
        self.ground.refresh(&self.quilt);
        self.list.rebuild(&self.quilt, &self.view);
        self.painter.paint_into(&self.list, &mut self.kept);
        self.minimap.refresh(&self.quilt).expect("it is small enough") as u64
    }
}

fn follows(versus: &mut Versus) {
    const SIDE: u32 = 1024;
    let mut numbers = Numbers::new(0xf011);
    let (quilt, tiles) = map_of(SIDE, |_| numbers.below(9) as u8);
    let middle = CellPos::new(SIDE as i32 / 2, SIDE as i32 / 2);
    let view = View::new(ScreenSize::new(640, 400)).centered_on(quilt.lattice().center(middle));
    let anew = quilt.clone();
    let mut followers = Followers::of(quilt, view);
    let mut turn = 0;
    let ours = || {
        turn += 1;
        let edit = followers.quilt.edit("one", |pen| pen.put("l", middle, tiles[10 + turn % 2]));
        edit.expect("the edit is well made");
        followers.follow()
    };
    let theirs = || u64::from(!Followers::of(anew.clone(), view).kept.painted().is_empty());
    versus.line("edit.follow.anew", 1, Mark::Nanoseconds(10_000.0), false, ours, theirs);
}
