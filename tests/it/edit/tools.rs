//! The tools of the pen against a plain map of cells.

use std::collections::{BTreeMap, BTreeSet, HashSet};

use proptest::prelude::*;
use sturdy_quilt::cell_set::{FloodError, Neighbors};
use sturdy_quilt::edit::{Alike, Condition, EditRules, Fill, Flood, Motif, SoftBrush};
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::units::CellOffset;
use sturdy_quilt::{
    Cell, CellPos, CellRect, CellSet, EditError, Lattice, LayerSettings, Mover, Quilt, TileSet,
    TileSpec, Turn, WorldPoint, doc_quilt,
};

const LAYERS: [&str; 2] = ["soil", "works"];
const TILES: [&str; 3] = ["t/grass", "t/wall", "t/water"];

fn new_map(sets_first: &[&str]) -> Quilt {
    Quilt::build(Lattice::square(16.0, 16.0).unwrap(), |pen| {
        pen.add_ground_classes(["open", "stone"])?;
        pen.put_mover(Mover::new("cart").block("stone"))?;
        for set in sets_first {
            pen.put_tiles(TileSet::flat(*set, ["one", "two"])?)?;
        }
        let tiles = TileSet::builder("t")
            .tile(TileSpec::named("grass").with_ground("open"))
            .tile(TileSpec::named("wall").with_ground("stone"))
            .tile(TileSpec::named("water"));
        pen.put_tiles(tiles.build()?)?;
        for layer in LAYERS {
            pen.add_layer(layer, LayerSettings::default())?;
        }
        pen.add_value_layer("height", ValueKind::I32)
    })
    .unwrap()
}

/// What a layer holds, in words, as a plain map: vast rectangles in the order in which they were filled,
/// and single cells on top.
#[derive(Clone, Debug, Default)]
struct Plain {
    filled: Vec<(CellRect, Cell)>,
    cells: BTreeMap<CellPos, Cell>,
}

impl Plain {
    fn get(&self, at: CellPos) -> Cell {
        let filled = || self.filled.iter().rev().find(|(rect, _)| rect.contains(at));
        let own = self.cells.get(&at).copied();
        own.or_else(|| filled().map(|(_, cell)| *cell)).unwrap_or(Cell::EMPTY)
    }

    fn put(&mut self, at: CellPos, cell: Cell) -> bool {
        let is_other = self.get(at) != cell;
        self.cells.insert(at, cell);
        is_other
    }

    fn fill(&mut self, rect: CellRect, cell: Cell) {
        self.cells.retain(|at, _| !rect.contains(*at));
        self.filled.push((rect, cell));
    }
}

#[derive(Clone, Debug)]
enum Step {
    Lay(usize, Area, usize),
    Weighted(usize, Area, u64),
    Stroke(usize, Vec<CellPos>, usize),
    /// Each cell gets what lies to its left.
    Left(usize, Area),
    Copy(usize, usize, Area, (i32, i32)),
    Replace(usize, Area, usize, usize),
    Shift(usize, Area, (i32, i32)),
    Turn(usize, Area, usize),
    Paste(Area, CellPos, usize),
    Giant(usize, CellRect, usize),
    Flood(usize, CellPos, usize, bool),
    Clone,
    Switch(usize),
}

/// A way to make a set of cells.
#[derive(Clone, Debug)]
enum Area {
    Rect(CellRect),
    Ellipse(CellRect),
    Stroke(Vec<CellPos>),
    Ring(CellRect),
}

impl Area {
    fn set(&self) -> CellSet {
        match self {
            Area::Rect(rect) => CellSet::rect(*rect).unwrap(),
            Area::Ellipse(rect) => CellSet::ellipse(*rect).unwrap(),
            Area::Stroke(cells) => CellSet::stroke(cells.iter().copied()).unwrap(),
            Area::Ring(rect) => CellSet::rect(*rect).unwrap().outline(Neighbors::Sides),
        }
    }
}

fn near() -> impl Strategy<Value = CellPos> {
    (-70..70_i32, -40..70_i32).prop_map(|(x, y)| CellPos::new(x, y))
}

fn any_area() -> impl Strategy<Value = Area> {
    let rect = || (near(), 1..50_u32, 1..50_u32).prop_map(|(at, w, h)| CellRect::new(at, w, h));
    prop_oneof![
        2 => rect().prop_map(Area::Rect),
        1 => rect().prop_map(Area::Ellipse),
        2 => prop::collection::vec(near(), 1..4).prop_map(Area::Stroke),
        1 => rect().prop_map(Area::Ring),
    ]
}

fn any_step() -> impl Strategy<Value = Step> {
    let layer = || 0..LAYERS.len();
    let tile = || 0..TILES.len() + 1;
    let way = || (-60..60_i32, -60..60_i32);
    let giant = (-600..100_i32, -600..100_i32, 400..1300_u32, 400..1300_u32)
        .prop_map(|(x, y, w, h)| CellRect::new(CellPos::new(x, y), w, h));
    prop_oneof![
        4 => (layer(), any_area(), tile()).prop_map(|(l, a, t)| Step::Lay(l, a, t)),
        3 => (layer(), prop::collection::vec(near(), 0..6), tile()).prop_map(|(l, c, t)| Step::Stroke(l, c, t)),
        1 => (layer(), any_area(), any::<u64>()).prop_map(|(l, a, s)| Step::Weighted(l, a, s)),
        1 => (layer(), any_area()).prop_map(|(l, a)| Step::Left(l, a)),
        1 => (layer(), layer(), any_area(), way()).prop_map(|(l, m, a, w)| Step::Copy(l, m, a, w)),
        1 => (layer(), any_area(), tile(), tile()).prop_map(|(l, a, t, u)| Step::Replace(l, a, t, u)),
        2 => (layer(), any_area(), way()).prop_map(|(l, a, w)| Step::Shift(l, a, w)),
        2 => (layer(), any_area(), 0..8_usize).prop_map(|(l, a, t)| Step::Turn(l, a, t)),
        2 => (any_area(), near(), 0..8_usize).prop_map(|(a, c, t)| Step::Paste(a, c, t)),
        2 => (layer(), giant, tile()).prop_map(|(l, r, t)| Step::Giant(l, r, t)),
        2 => (layer(), near(), tile(), any::<bool>()).prop_map(|(l, c, t, k)| Step::Flood(l, c, t, k)),
        1 => Just(Step::Clone),
        1 => any::<usize>().prop_map(Step::Switch),
    ]
}

fn cell_of(quilt: &Quilt, tile: usize) -> Cell {
    TILES.get(tile).map_or(Cell::EMPTY, |name| quilt.cell(name).unwrap())
}

/// Where a cell of an area comes to lie when the area is turned about its upper left corner.
fn turned(bounds: CellRect, cell: CellPos, turn: Turn) -> CellPos {
    let (mut x, y) = (cell.x() - bounds.left(), cell.y() - bounds.top());
    let (w, h) = (bounds.width() as i32, bounds.height() as i32);
    if turn.is_mirrored() {
        x = w - 1 - x;
    }
    let (mut at, mut size) = ((x, y), (w, h));
    for _ in 0..turn.steps() {
        // A quarter clockwise: rows become columns, from the right.
        at = (size.1 - 1 - at.1, at.0);
        size = (size.1, size.0);
    }
    CellPos::new(bounds.left() + at.0, bounds.top() + at.1)
}

type Twin = (Quilt, [Plain; 2], Vec<sturdy_quilt::Changeset>, Quilt);

/// Does a step with the tools and plainly, and checks that the tools tell what they have changed.
fn apply(step: &Step, (quilt, plain, made, _): &mut Twin) {
    let before = plain.clone();
    let map = quilt.clone();
    let edit = quilt.edit("step", |pen| match step.clone() {
        Step::Lay(layer, area, tile) => {
            let (set, value) = (area.set(), cell_of(&map, tile));
            set.iter().for_each(|at| {
                plain[layer].put(at, value);
            });
            pen.lay(LAYERS[layer], &set, value)
        }
        Step::Stroke(layer, cells, tile) => {
            let (set, value) =
                (CellSet::stroke(cells.iter().copied()).unwrap(), cell_of(&map, tile));
            let changed = set.iter().filter(|at| plain[layer].put(*at, value)).count();
            // The same once more, on a map that shares everything.
            let laid = map.preview("lay", |pen| pen.lay(LAYERS[layer], &set, value))?;
            assert_eq!(laid.result.len(), changed as u64);
            assert_eq!(pen.stroke(LAYERS[layer], &cells, value)?, changed as u64);
            Ok(laid.result)
        }
        Step::Weighted(layer, area, seed) => {
            let set = area.set();
            let changed =
                pen.lay(LAYERS[layer], &set, Fill::weighted(TILES.map(|t| (t, 2)), seed))?;
            let known: HashSet<Cell> = TILES.iter().map(|t| map.cell(t).unwrap()).collect();
            for at in set.iter() {
                let laid = pen.get(LAYERS[layer], at)?;
                assert!(known.contains(&laid));
                plain[layer].put(at, laid);
            }
            // The same once more, cell by cell.
            for at in set.iter().take(40) {
                let fill = Fill::weighted(TILES.map(|t| (t, 2)), seed);
                assert!(pen.lay(LAYERS[layer], &at.into(), fill)?.is_empty());
            }
            Ok(changed)
        }
        Step::Left(layer, area) => {
            let set = area.set();
            let left = |at: CellPos| CellPos::new(at.x() - 1, at.y());
            for at in set.iter() {
                plain[layer].put(at, before[layer].get(left(at)));
            }
            let rule = |map: &Quilt, at: CellPos| {
                map.get(LAYERS[layer], left(at)).unwrap().here().unwrap()
            };
            pen.lay(LAYERS[layer], &set, Fill::by(rule))
        }
        Step::Copy(to, from, area, (x, y)) => {
            let set = area.set();
            for at in set.iter() {
                let source = CellPos::new(at.x() - x, at.y() - y);
                plain[to].put(at, before[from].get(source));
            }
            let fill = Fill::copied(pen.quilt(), LAYERS[from], CellOffset::new(x, y))?;
            pen.lay(LAYERS[to], &set, fill)
        }
        Step::Replace(layer, area, tile, by) => {
            let (set, old, new) = (area.set(), cell_of(&map, tile), cell_of(&map, by));
            let is_old = |held: Cell| held.tile_index() == old.tile_index();
            for at in set.iter().filter(|at| is_old(before[layer].get(*at))) {
                plain[layer].put(at, new);
            }
            let condition = match map.tiles().tile_of(old) {
                Some(tile) => Condition::from(tile),
                None => Condition::Empty,
            };
            pen.replace(LAYERS[layer], &set, condition, new)
        }
        Step::Shift(layer, area, (x, y)) => {
            let set = area.set();
            set.iter().for_each(|at| {
                plain[layer].put(at, Cell::EMPTY);
            });
            for at in set.iter() {
                plain[layer].put(CellPos::new(at.x() + x, at.y() + y), before[layer].get(at));
            }
            pen.shift(LAYERS[layer], &set, CellOffset::new(x, y))
        }
        Step::Turn(layer, area, turn) => {
            let (set, turn) = (area.set(), Turn::SQUARE[turn]);
            set.iter().for_each(|at| {
                plain[layer].put(at, Cell::EMPTY);
            });
            for at in set.iter() {
                let held = before[layer].get(at);
                let held = held.with_turn(held.turn().then(turn));
                plain[layer].put(turned(set.bounds(), at, turn), held);
            }
            pen.turn(LAYERS[layer], &set, turn)
        }
        Step::Paste(area, corner, turn) => {
            let (set, turn) = (area.set(), Turn::SQUARE[turn]);
            let motif = Motif::of(pen.quilt(), LAYERS, &set)?.turned(turn);
            let text = motif.to_text().unwrap();
            let motif = Motif::from_text(&text).unwrap_or_else(|error| panic!("{error}: {text}"));
            let by = corner - set.bounds().corner();
            for (plain, before) in plain.iter_mut().zip(&before) {
                for at in set.iter() {
                    let held = before.get(at);
                    let to = turned(set.bounds(), at, turn).checked_add(by).unwrap();
                    plain.put(to, held.with_turn(held.turn().then(turn)));
                }
            }
            pen.paste(&motif, corner)
        }
        Step::Giant(layer, rect, tile) => {
            let value = cell_of(&map, tile);
            plain[layer].fill(rect, value);
            if tile % 2 == 0 {
                return pen.fill(LAYERS[layer], rect, value).map(|()| CellSet::new());
            }
            let changed = pen.lay(LAYERS[layer], &CellSet::rect(rect)?, value)?;
            for at in rect.cells().step_by(997) {
                assert_eq!(changed.contains(at), before[layer].get(at) != value, "at {at}");
            }
            Ok(CellSet::new())
        }
        Step::Flood(layer, start, tile, corners) => {
            let neighbors = if corners { Neighbors::Corners } else { Neighbors::Sides };
            let bounds = CellRect::new(CellPos::new(-66, -30), 150, 120);
            let flood = Flood::default().with_neighbors(neighbors).with_bounds(bounds);
            let found = pen.quilt().flood(LAYERS[layer], start, flood)?;
            let like = before[layer].get(start);
            let mut slow = BTreeSet::new();
            let mut queue = vec![start];
            while let Some(at) = queue.pop() {
                if bounds.contains(at) && before[layer].get(at) == like && slow.insert(at) {
                    for (x, y) in [(-1, 0), (1, 0), (0, -1), (0, 1)] {
                        queue.push(CellPos::new(at.x() + x, at.y() + y));
                    }
                    if corners {
                        for (x, y) in [(-1, -1), (1, -1), (-1, 1), (1, 1)] {
                            queue.push(CellPos::new(at.x() + x, at.y() + y));
                        }
                    }
                }
            }
            assert_eq!(found.iter().collect::<BTreeSet<_>>(), slow);
            let value = cell_of(&map, tile);
            slow.iter().for_each(|at| {
                plain[layer].put(*at, value);
            });
            pen.lay(LAYERS[layer], &found, value)
        }
        Step::Clone | Step::Switch(_) => Ok(CellSet::new()),
    });
    let edit = edit.unwrap();
    if !matches!(step, Step::Giant(..) | Step::Clone | Step::Switch(_)) {
        let all = plain.iter().flat_map(|plain| plain.cells.keys());
        let differing =
            |at: &CellPos| plain.iter().zip(&before).any(|(a, b)| a.get(*at) != b.get(*at));
        let expected: BTreeSet<CellPos> = all.copied().filter(differing).collect();
        assert_eq!(edit.result.iter().collect::<BTreeSet<_>>(), expected, "{step:?}");
        let told: BTreeSet<CellPos> = edit.changes.cells().map(|change| change.cell).collect();
        assert_eq!(told, expected, "{step:?}");
        assert_eq!(edit.changes.area(), edit.result);
    }
    made.push(edit.changes);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn tools_do_what_plain_code_does(steps in prop::collection::vec(any_step(), 1..9)) {
        let first = new_map(&[]);
        let mut twins: Vec<Twin> = vec![(first.clone(), Default::default(), Vec::new(), first)];
        let mut current = 0;
        for step in &steps {
            match step {
                Step::Clone => {
                    let (quilt, plain, ..) = twins[current].clone();
                    twins.push((quilt.clone(), plain, Vec::new(), quilt));
                    current = twins.len() - 1;
                }
                Step::Switch(to) => current = to % twins.len(),
                step => apply(step, &mut twins[current]),
            }
        }
        for (quilt, plain, made, first) in &mut twins {
            for (layer, plain) in LAYERS.iter().zip(&*plain) {
                let held = quilt.layer(*layer).unwrap().cells();
                let around = CellRect::new(CellPos::new(-140, -110), 300, 260);
                let sparse = CellRect::new(CellPos::new(-700, -700), 2200, 2200);
                for at in around.cells().chain(sparse.cells().step_by(1009)) {
                    prop_assert_eq!(held.get(at).here(), Some(plain.get(at)), "{} at {}", layer, at);
                }
            }
            let last = quilt.clone();
            for changes in made.iter().rev() {
                quilt.apply(&changes.inverse()).unwrap();
            }
            prop_assert!(quilt.same_as(first), "all undone");
            for changes in &*made {
                quilt.apply(changes).unwrap();
            }
            prop_assert!(quilt.same_as(&last), "all done again");
        }
    }

    #[test]
    fn values_change_as_plain_numbers_do(
        steps in prop::collection::vec((any_area(), 0..4_u8, -40..40_i32), 1..6),
        seed in any::<i32>(),
    ) {
        let mut quilt = new_map(&[]);
        let mut plain: BTreeMap<CellPos, i64> = BTreeMap::new();
        let mut made = Vec::new();
        let first = quilt.clone();
        for (area, kind, amount) in &steps {
            let set = area.set();
            let before = plain.clone();
            let center = WorldPoint::new(f64::from(amount * 3), f64::from(*amount));
            let brush = SoftBrush::new(center, 90.0).with_core(20.0);
            let edit = quilt.edit("values", |pen| match kind {
                0 => pen.set_values("height", &set, *amount),
                1 => pen.add_to_values::<i32>("height", &set, f64::from(*amount) * 1e8),
                2 => pen.clamp_values("height", &set, amount - 20, *amount),
                _ => pen.brush_values::<i32>("height", &brush, f64::from(seed)),
            }).unwrap();
            let cells: Vec<CellPos> = match kind {
                3 => CellRect::new(CellPos::new(-20, -20), 40, 40).cells().collect(),
                _ => set.iter().collect(),
            };
            for at in cells {
                let held = plain.get(&at).copied().unwrap_or(0);
                let (low, high) = (i64::from(i32::MIN), i64::from(i32::MAX));
                let new = match kind {
                    0 => i64::from(*amount),
                    1 => (held + i64::from(*amount) * 100_000_000).clamp(low, high),
                    2 => held.clamp(i64::from(amount - 20), i64::from(*amount)),
                    _ => {
                        let place = WorldPoint::new(f64::from(at.x()) * 16.0 + 8.0, f64::from(at.y()) * 16.0 + 8.0);
                        let far = ((place.x - center.x).powi(2) + (place.y - center.y).powi(2)).sqrt();
                        let t = ((far - 20.0) / 70.0).clamp(0.0, 1.0);
                        let strength = 1.0 - 3.0 * t * t + 2.0 * t * t * t;
                        let exact = held as f64 + f64::from(seed) * strength;
                        let found = quilt.values::<i32>("height").unwrap().get(at).here().unwrap();
                        prop_assert!((exact.clamp(low as f64, high as f64) - f64::from(found)).abs() <= 0.51);
                        i64::from(found)
                    }
                };
                plain.insert(at, new);
            }
            let value = |of: &BTreeMap<CellPos, i64>, at: &CellPos| of.get(at).copied().unwrap_or(0);
            let changed: BTreeSet<CellPos> =
                plain.keys().filter(|at| value(&plain, at) != value(&before, at)).copied().collect();
            prop_assert_eq!(edit.result.iter().collect::<BTreeSet<_>>(), changed);
            made.push(edit.changes);
        }
        let held = quilt.values::<i32>("height").unwrap();
        for (at, value) in &plain {
            prop_assert_eq!(held.get(*at).here().map(i64::from), Some(*value));
        }
        made.iter().rev().for_each(|changes| quilt.apply(&changes.inverse()).unwrap());
        prop_assert!(quilt.same_as(&first));
    }

    #[test]
    fn motifs_travel_between_maps_by_the_names_of_tiles(
        area in any_area(), turn in 0..8_usize, marks in any::<u64>(),
    ) {
        let mut ours = new_map(&[]);
        let mut theirs = new_map(&["first", "second"]);
        let set = area.set();
        let cell = |map: &Quilt, at: CellPos| {
            let number = marks.rotate_left((at.x() * 7 + at.y() * 13).rem_euclid(64) as u32);
            let turn = Turn::SQUARE[(number >> 8) as usize % 8];
            cell_of(map, (number % 4) as usize).with_turn(turn).with_raised(number & 64 != 0)
        };
        ours.edit("lay", |pen| pen.lay("soil", &set, Fill::by(cell))).unwrap();
        let motif = Motif::of(&ours, "soil", &set).unwrap();
        let turn = Turn::SQUARE[turn];
        prop_assert_eq!(&motif.clone().turned(turn).turned(turn.inverse()), &motif);
        let read = Motif::from_text(&motif.to_text().unwrap()).unwrap();
        prop_assert_eq!(&read, &motif);
        let renamed = read.with_layer_renamed("soil", "works").unwrap();
        let corner = set.bounds().corner();
        theirs.edit("paste", |pen| pen.paste(&renamed, corner)).unwrap();
        for at in set.iter() {
            let ours = ours.tiles().notation(cell(&ours, at)).to_string();
            let found = theirs.get("works", at).unwrap().here().unwrap();
            prop_assert_eq!(theirs.tiles().notation(found).to_string(), ours);
        }
        // The same by a fill that copies.
        let fill = Fill::copied(&ours, "soil", CellOffset::new(0, 0)).unwrap();
        let again = theirs.edit("copy", |pen| pen.lay("works", &set, fill)).unwrap();
        prop_assert!(again.result.is_empty());
        let bare = motif.without_empty();
        let laid = set.iter().filter(|at| !cell(&ours, *at).is_empty()).count();
        prop_assert_eq!(bare.cells().len(), laid as u64);
    }

    #[test]
    fn text_that_is_damaged_gives_an_error_or_a_motif(
        at in any::<prop::sample::Index>(), byte in any::<u8>(),
    ) {
        let quilt = doc_quilt();
        let set = CellSet::rect(CellRect::new(CellPos::ORIGIN, 4, 3)).unwrap();
        let text = Motif::of(&quilt, "soil", &set).unwrap().to_text().unwrap();
        let mut bytes = text.into_bytes();
        // Without its last line break a text is whole.
        let at = at.index(bytes.len() - 1);
        bytes[at] = byte;
        if let Ok(text) = String::from_utf8(bytes.clone()) {
            let _ = Motif::from_text(&text);
        }
        bytes.truncate(at);
        prop_assert!(Motif::from_text(&String::from_utf8_lossy(&bytes)).is_err());
    }
}

#[test]
fn floods_tell_when_they_do_not_end() {
    let quilt = new_map(&[]);
    let at = CellPos::new(3, 4);
    let error = quilt.flood("soil", at, Flood::default()).unwrap_err();
    assert_eq!(
        error.to_string(),
        "the flood runs away at 0,0: beyond what the map holds, nothing stops it; state bounds"
    );
    let bounds = CellRect::new(CellPos::new(-10, -10), 40, 40);
    let few = Flood::default().with_bounds(bounds).with_most(1599);
    let error = quilt.flood("soil", at, few).unwrap_err();
    assert_eq!(
        error.to_string(),
        "the flood has found more than 1599 cells: state bounds, or allow more"
    );
    assert_eq!(quilt.flood("soil", at, few.with_most(1600)).unwrap().len(), 1600);
    let outside = CellPos::new(-11, 0);
    assert!(quilt.flood("soil", outside, few).unwrap().is_empty());
    let rule = quilt.flood_where(at, Flood::default().with_most(9000), |_| true);
    assert_eq!(rule, Err(FloodError::TooMany { most: 9000 }));
    let error = quilt.flood("soill", at, Flood::default()).unwrap_err();
    assert!(error.to_string().ends_with("did you mean `soil`?"), "{error}");
}

#[test]
fn floods_go_by_tile_and_by_ground() {
    let mut quilt = new_map(&[]);
    let rows = ["#####", "#.~.#", "#.~.#", "#####"];
    let legend = [('#', "t/wall"), ('.', "t/grass"), ('~', "t/grass+90+raise")];
    quilt.edit("yard", |pen| pen.put_rows("soil", CellPos::ORIGIN, &legend, &rows)).unwrap();
    let found = |alike| quilt.flood("soil", CellPos::new(1, 1), Flood::new(alike)).unwrap().len();
    assert_eq!((found(Alike::Cell), found(Alike::Tile), found(Alike::Ground)), (2, 6, 6));
    let all = |alike| quilt.cells_like("soil", CellPos::new(1, 1), alike, None).unwrap().len();
    assert_eq!((all(Alike::Cell), all(Alike::Tile), all(Alike::Ground)), (4, 6, 6));
    let empty = quilt.cells_like("soil", CellPos::new(9, 9), Alike::Tile, None).unwrap_err();
    assert!(matches!(empty, EditError::Flood(FloodError::Unbounded { .. })), "{empty}");
}

#[test]
fn rules_bound_lock_charge_and_refuse() {
    let mut quilt = new_map(&[]);
    let first = quilt.clone();
    let area = CellSet::rect(CellRect::new(CellPos::new(0, 0), 10, 10)).unwrap();
    let lock = CellSet::rect(CellRect::new(CellPos::new(0, 0), 10, 2)).unwrap();
    let rules = EditRules::new()
        .with_editor("ida")
        .with_lock(lock.clone(), "otto")
        .with_lock(area.clone(), "ida")
        .with_bounds(CellRect::new(CellPos::new(0, 0), 5, 100));
    let laid = quilt.edit_under(&rules, "lay", |pen| pen.lay(LAYERS, &area, "t/wall")).unwrap();
    assert_eq!(laid.result.bounds(), CellRect::new(CellPos::new(0, 2), 5, 8));
    assert_eq!(laid.cost, 0);
    let refused = |rules: &EditRules<'_>, at: CellPos| {
        let mut quilt = quilt.clone();
        let before = quilt.clone();
        let error = quilt.edit_under(rules, "put", |pen| pen.put("works", at, "t/grass"));
        let words = error.unwrap_err().to_string();
        assert!(quilt.same_as(&before));
        words
    };
    assert_eq!(refused(&rules, CellPos::new(1, 1)), "cell 1,1 is locked by `otto`");
    assert_eq!(
        refused(&rules, CellPos::new(7, 7)),
        "cell 7,7 lies beyond the 5 × 100 cells at 0,0 to which edits are bound"
    );
    let dear = rules.clone().with_cost(|changes, _| 7 * changes.area().len()).with_budget(6);
    assert_eq!(refused(&dear, CellPos::new(2, 2)), "the edit costs 7, and 6 are left");
    let forbidden = rules.clone().with_permission(|_, map| {
        let ground = map.ground_at(CellPos::new(2, 2)).here().flatten();
        ground.map(|_| ()).ok_or("no ground".to_owned())?;
        Err("not on a feast day".into())
    });
    assert_eq!(refused(&forbidden, CellPos::new(2, 2)), "not on a feast day");
    // What is shifted must not get lost at a lock.
    let row = CellSet::line(CellPos::new(0, 3), CellPos::new(4, 3)).unwrap();
    let up = CellOffset::new(0, -2);
    let error = quilt.edit_under(&rules, "shift", |pen| pen.shift("works", &row, up)).unwrap_err();
    assert_eq!(error.to_string(), "cell 0,1 is locked by `otto`");
    // Values are cells of the map too.
    let error =
        quilt.edit_under(&rules, "values", |pen| pen.put_value("height", CellPos::ORIGIN, 3));
    assert_eq!(error.unwrap_err().to_string(), "cell 0,0 is locked by `otto`");
    let set = quilt.edit_under(&rules, "values", |pen| pen.set_values("height", &area, 3)).unwrap();
    assert_eq!(set.result, laid.result);
    quilt.apply(&set.changes.inverse()).unwrap();
    quilt.apply(&laid.changes.inverse()).unwrap();
    assert!(quilt.same_as(&first));
}

#[test]
fn ghosts_show_what_would_be_laid_and_erased() {
    let mut quilt = new_map(&[]);
    let area = CellSet::rect(CellRect::new(CellPos::ORIGIN, 3, 1)).unwrap();
    quilt.edit("grass", |pen| pen.lay("soil", &area, "t/grass")).unwrap();
    let asked = quilt.preview("asked", |pen| {
        pen.erase("soil", CellPos::ORIGIN)?;
        pen.put("works", CellPos::new(5, 5), "t/wall")
    });
    let ghost = asked.unwrap().changes.ghost(&quilt, 0.5).unwrap();
    assert_eq!(ghost.erased, CellSet::from(CellPos::ORIGIN));
    let names: Vec<&str> = ghost.map.layers().iter().map(|layer| layer.name()).collect();
    assert_eq!(names, ["soil", "soil (ghost)", "works", "works (ghost)"]);
    let shown = ghost.map.layer("works (ghost)").unwrap();
    assert_eq!(shown.settings().opacity, 0.5);
    let cells: Vec<CellPos> = shown.cells().occupied().map(|(at, _)| at).collect();
    assert_eq!(cells, [CellPos::new(5, 5)]);
    assert_eq!(ghost.map.layer("soil").unwrap().cells(), quilt.layer("soil").unwrap().cells());
}

#[test]
fn tools_refuse_what_they_cannot_do() {
    let mut quilt = new_map(&[]);
    let first = quilt.clone();
    let set = CellSet::from(CellPos::ORIGIN);
    let mut refused = |change: &dyn Fn(&mut sturdy_quilt::Pen<'_>) -> Result<(), EditError>| {
        let error = quilt.edit("refused", |pen| change(pen)).unwrap_err();
        assert!(quilt.same_as(&first));
        error.to_string()
    };
    assert_eq!(
        refused(&|pen| pen.lay("soil", &set, Fill::weighted([("t/wall", 0)], 1)).map(drop)),
        "nothing can be chosen: expected at least one cell with a weight above 0"
    );
    assert_eq!(
        refused(&|pen| pen.lay(["soil", "wroks"], &set, "t/wall").map(drop)),
        "no layer `wroks` in this map; did you mean `works`?"
    );
    assert_eq!(
        refused(&|pen| pen.put_rect("soil", CellRect::new(CellPos::ORIGIN, 2, 2), &[Cell::EMPTY])),
        "expected one for each of 2 × 2 cells at 0,0, found 1"
    );
    let motif =
        Motif::of(&first, "soil", &CellSet::line(CellPos::ORIGIN, CellPos::new(3, 0)).unwrap());
    let motif = motif.unwrap();
    let edge = CellPos::new(CellPos::MAX - 1, 0);
    assert_eq!(
        refused(&|pen| pen.paste(&motif, edge).map(drop)),
        "4 × 1 cells from 1073741822,0 on reach beyond the limits of cells"
    );
    let text = |text: &str| Motif::from_text(text).unwrap_err().to_string();
    let with = |legend: &str, rows: &str| {
        text(&format!(
            r#"{{"format":"sturdy-quilt/motif","version":1,"layers":[{{"name":"l","cells":{{"legend":{legend},"rows":{rows}}}}}]}}"#
        ))
    };
    assert_eq!(
        with("{}", r#"["a"]"#),
        "layer `l`: the legend does not know `a` of row 0, column 0"
    );
    assert_eq!(
        with(r#"{"ab":null}"#, "[]"),
        "layer `l`: the legend has `ab`, expected a single character, not a space"
    );
    assert_eq!(with(r#"{"a":"x/y+7"}"#, "[]"), "layer `l`: `a` does not stand for a cell");
    assert_eq!(
        with(r#"{"a":null}"#, r#"["  ","a"]"#),
        "layer `l`: the first row and the first column must each have a cell"
    );
    assert_eq!(
        text(r#"{"format":"x","version":1,"layers":[]}"#),
        "expected the format `sturdy-quilt/motif`, found `x`"
    );
    assert_eq!(
        text(r#"{"format":"sturdy-quilt/motif","version":9,"layers":[]}"#),
        "version 9 of a motif is newer than the newest known one, 1"
    );
}
