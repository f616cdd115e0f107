//! Any script of edits, undone, done again, failed and copied, against a map of cells.
#![no_main]

use std::collections::BTreeMap;

use arbitrary::Arbitrary;
use libfuzzer_sys::fuzz_target;
use sturdy_quilt::edit::Condition;
use sturdy_quilt::{
    Cell, CellPos, CellRect, Changeset, EditError, Lattice, LayerSettings, Pen, Presence, Quilt,
    TileId, TileSet, Turn,
};

const LAYERS: [&str; 2] = ["low", "high"];

/// What lies where, by layer.
type Model = BTreeMap<(usize, i32, i32), Cell>;

#[derive(Arbitrary, Debug)]
enum Step {
    Edit(Vec<Change>),
    /// An edit that fails at last.
    Fail(Vec<Change>),
    Undo,
    Redo,
    /// Goes on with a clone and drops the map, or keeps the clone to compare it at the end.
    Clone,
    Keep,
}

#[derive(Arbitrary, Debug)]
enum Change {
    Put(bool, Place, Content),
    Fill(bool, Place, (u8, u8), Content),
    PutIf(bool, Place, Wanted, Content),
    Each(bool, Place, (u8, u8), [Content; 3]),
}

#[derive(Arbitrary, Clone, Copy, Debug)]
struct Place {
    near: (i8, i8),
    far: Option<(i32, i32)>,
}

#[derive(Arbitrary, Clone, Copy, Debug)]
struct Content {
    tile: u8,
    turn: u8,
    raise: bool,
    palette: u8,
}

#[derive(Arbitrary, Debug)]
enum Wanted {
    Empty,
    NotEmpty,
    Cell(Content),
}

impl Place {
    fn cell(self) -> CellPos {
        let (x, y) = self.far.unwrap_or((0, 0));
        let limits = CellRect::EVERYWHERE;
        let within = |at: i32, near: i8, low: i32, high: i32| {
            at.saturating_add(near.into()).clamp(low, high)
        };
        CellPos::new(
            within(x, self.near.0, limits.left(), limits.right() - 1),
            within(y, self.near.1, limits.top(), limits.bottom() - 1),
        )
    }

    fn rect(self, (width, height): (u8, u8)) -> CellRect {
        CellRect::new(self.cell(), width.into(), height.into())
    }
}

impl Content {
    fn cell(self, tiles: &[TileId]) -> Cell {
        match tiles.get(usize::from(self.tile)) {
            None => Cell::EMPTY,
            Some(tile) => Cell::of(*tile)
                .with_turn(Turn::SQUARE[usize::from(self.turn) % 8])
                .with_raised(self.raise)
                .with_slot(self.palette % 128)
                .unwrap(),
        }
    }
}

fn set(model: &mut Model, layer: usize, at: CellPos, cell: Cell) {
    match cell.is_empty() {
        true => model.remove(&(layer, at.x(), at.y())),
        false => model.insert((layer, at.x(), at.y()), cell),
    };
}

/// Makes a change here and there.
fn make(
    pen: &mut Pen<'_>,
    model: &mut Model,
    tiles: &[TileId],
    change: &Change,
) -> Result<(), EditError> {
    match change {
        Change::Put(high, place, content) => {
            let (layer, at, cell) = (usize::from(*high), place.cell(), content.cell(tiles));
            let before = pen.put(LAYERS[layer], at, cell)?;
            assert_eq!(before, model.get(&(layer, at.x(), at.y())).copied().unwrap_or(Cell::EMPTY));
            set(model, layer, at, cell);
        }
        Change::Fill(high, place, size, content) => {
            let (layer, rect, cell) = (usize::from(*high), place.rect(*size), content.cell(tiles));
            pen.fill(LAYERS[layer], rect, cell)?;
            rect.cells().for_each(|at| set(model, layer, at, cell));
        }
        Change::PutIf(high, place, wanted, content) => {
            let (layer, at, cell) = (usize::from(*high), place.cell(), content.cell(tiles));
            let now = model.get(&(layer, at.x(), at.y())).copied().unwrap_or(Cell::EMPTY);
            let (condition, holds): (Condition, bool) = match wanted {
                Wanted::Empty => (Condition::Empty, now.is_empty()),
                Wanted::NotEmpty => (Condition::NotEmpty, !now.is_empty()),
                Wanted::Cell(content) => (content.cell(tiles).into(), now == content.cell(tiles)),
            };
            assert_eq!(pen.put_if(LAYERS[layer], at, condition, cell)?, holds);
            if holds {
                set(model, layer, at, cell);
            }
        }
        Change::Each(high, place, size, contents) => {
            let (layer, rect) = (usize::from(*high), place.rect(*size));
            let cell = |at: CellPos| contents[(at.x() ^ at.y()).rem_euclid(3) as usize].cell(tiles);
            pen.put_each(LAYERS[layer], rect, cell)?;
            rect.cells().for_each(|at| set(model, layer, at, cell(at)));
        }
    }
    Ok(())
}

fn check(quilt: &Quilt, model: &Model) {
    for (layer, name) in LAYERS.iter().enumerate() {
        let plane = quilt.layer(*name).unwrap().cells();
        let mut found: Vec<_> =
            plane.occupied().map(|(at, cell)| ((layer, at.x(), at.y()), cell)).collect();
        found.sort_by_key(|(at, _)| *at);
        let wanted = model.range((layer, i32::MIN, i32::MIN)..(layer + 1, i32::MIN, i32::MIN));
        assert!(found.iter().copied().eq(wanted.map(|(at, cell)| (*at, *cell))));
        for (at, cell) in found.iter().take(64) {
            assert_eq!(plane.get(CellPos::new(at.1, at.2)), Presence::Here(*cell));
        }
        let around = found.iter().map(|(at, _)| CellPos::new(at.1, at.2));
        assert!(around.clone().all(|at| plane.bounds().contains(at)));
        assert_eq!(plane.bounds().is_empty(), found.is_empty());
    }
}

fuzz_target!(|steps: Vec<Step>| {
    let mut quilt = Quilt::new(Lattice::default());
    quilt
        .edit("begin", |pen| {
            pen.put_tiles(TileSet::flat("s", (0..40).map(|n| format!("t{n}")))?)?;
            LAYERS.iter().try_for_each(|name| pen.add_layer(name, LayerSettings::default()))
        })
        .unwrap();
    let tiles: Vec<TileId> = quilt.tiles().ids().collect();
    let mut model = Model::new();
    let mut done: Vec<(Changeset, Model)> = Vec::new();
    let mut undone: Vec<(Changeset, Model)> = Vec::new();
    let mut kept: Vec<(Quilt, Model)> = Vec::new();
    for step in steps.iter().take(64) {
        match step {
            Step::Edit(changes) => {
                let before = model.clone();
                let edit = quilt.edit("edit", |pen| {
                    changes.iter().take(8).try_for_each(|c| make(pen, &mut model, &tiles, c))
                });
                done.push((edit.unwrap().changes, before));
                undone.clear();
            }
            Step::Fail(changes) => {
                let mut scratch = model.clone();
                let failed = quilt.edit("fail", |pen| {
                    changes.iter().take(8).try_for_each(|c| make(pen, &mut scratch, &tiles, c))?;
                    Err::<(), _>(EditError::Refused("no".to_owned()))
                });
                assert!(failed.is_err());
            }
            Step::Undo => {
                let Some((changes, before)) = done.pop() else { continue };
                quilt.apply(&changes.inverse()).unwrap();
                undone.push((changes, std::mem::replace(&mut model, before)));
            }
            Step::Redo => {
                let Some((changes, after)) = undone.pop() else { continue };
                quilt.apply(&changes).unwrap();
                done.push((changes, std::mem::replace(&mut model, after)));
            }
            Step::Clone => quilt = quilt.clone(),
            Step::Keep if kept.len() < 4 => kept.push((quilt.clone(), model.clone())),
            Step::Keep => {}
        }
        check(&quilt, &model);
    }
    kept.iter().for_each(|(quilt, model)| check(quilt, model));
});
