//! Handles of another map: an error where there is a `Result`, and never another thing.

use proptest::prelude::*;
use sturdy_quilt::edit::{Condition, Extraction};
use sturdy_quilt::quilt::{CellTextError, MoverId, Palette, PartError, Treatment};
use sturdy_quilt::tile::{PaletteId, TileValues};
use sturdy_quilt::{
    Body, Cell, CellPos, CellRect, Clock, DrawList, EditError, GroundMap, Lattice, LayerSettings,
    Mover, Pen, Quilt, ScreenSize, Sprite, TileId, TileSet, TileSpec, View, WorldPoint, WorldRect,
    WorldVec,
};

/// A map with as many of each as another one has, under other names.
fn map(name: &str) -> Quilt {
    let named = |end: &str| format!("{name}-{end}");
    Quilt::build(Lattice::default(), |pen| {
        let (class, mover) = (named("class"), named("mover"));
        pen.add_ground_classes([&*class])?;
        pen.put_mover(Mover::new(mover))?;
        pen.put_tiles(
            TileSet::builder(name).tile(TileSpec::named("t").with_ground(class)).build()?,
        )?;
        pen.put_palette(Palette::new(named("palette")))?;
        pen.add_layer("soil", LayerSettings::default())?;
        pen.put("soil", CellPos::ORIGIN, &*format!("{name}/t")).map(drop)
    })
    .unwrap()
}

struct Handles {
    tile: TileId,
    mover: MoverId,
    class: sturdy_quilt::quilt::GroundClass,
    palette: PaletteId,
}

fn handles(quilt: &Quilt, name: &str) -> Handles {
    Handles {
        tile: quilt.tile(&format!("{name}/t")).unwrap(),
        mover: quilt.mover(&format!("{name}-mover")).unwrap(),
        class: quilt.ground_rules().class(&format!("{name}-class")).unwrap(),
        palette: quilt.palette(&format!("{name}-palette")).unwrap(),
    }
}

/// That none of the handles means anything in the map.
fn are_foreign(quilt: &mut Quilt, Handles { tile, mover, class, palette }: Handles) {
    let (before, at) = (quilt.clone(), CellPos::ORIGIN);
    let other = "the handle belongs to another map: look up its name in this one";
    type Change<'c> = &'c dyn Fn(&mut Pen<'_>) -> Result<(), EditError>;
    let changes: [Change<'_>; 9] = [
        &|pen| pen.put("soil", at, tile).map(drop),
        &|pen| pen.fill("soil", CellRect::of_cell(at), tile),
        &|pen| pen.put_if("soil", at, tile, Cell::EMPTY).map(drop),
        &|pen| pen.put_if("soil", at, Condition::OneOf(vec![tile]), Cell::EMPTY).map(drop),
        &|pen| pen.put_rows("soil", at, &[('x', tile)], &["x"]),
        &|pen| pen.put_if("soil", at, class, Cell::EMPTY).map(drop),
        &|pen| pen.require("soil", at, class),
        &|pen| pen.extract("soil", &Extraction::tiles([tile])).map(drop),
        &|pen| pen.set_layer("soil", |soil| soil.with_palette(palette)),
    ];
    for (change, number) in changes.into_iter().zip(0..) {
        let error = quilt.edit("foreign", change).unwrap_err();
        assert_eq!(error.to_string(), other, "change {number}");
        let is_other = matches!(
            error,
            EditError::OtherMap
                | EditError::Part(PartError::OtherMap)
                | EditError::Cell(CellTextError::OtherMap)
        );
        assert!(is_other && quilt.same_as(&before));
    }
    let own = quilt.tiles().ids().next().unwrap();
    let left = quilt
        .edit("left", |pen| pen.extract("soil", &Extraction::tiles([own]).with_replacement(tile)));
    assert_eq!(left.unwrap_err().to_string(), other);

    let tiles = quilt.tiles();
    assert!(tiles.name(tile).is_none() && tiles.tile(tile).is_none() && tiles.is_missing(tile));
    assert_eq!(tiles.art(tile).0, 0, "the placeholder");
    assert_eq!(tiles.variant_at(tile, at, 0), tile);
    assert_eq!(tiles.frame_at(tile, 0, at), tile);
    let names = tiles.ids().map(|id| (tiles.name(id).unwrap().to_string(), 1));
    let mut values = TileValues::by_name(tiles, names).unwrap();
    assert!(values.get(tile).is_none() && !values.put(tile, 2) && values.get(own) == Some(&1));

    let view = View::new(ScreenSize::new(32, 32)).centered_on(WorldPoint::new(8.0, 8.0));
    let drawn = |tile: TileId| {
        let mut list = DrawList::new();
        list.rebuild_with(
            quilt,
            &view,
            &Clock::new(),
            &[Sprite::new(1, tile, WorldPoint::new(8.0, 8.0))],
        );
        list.quads().len()
    };
    assert_eq!((drawn(own), drawn(tile)), (2, 1));

    let rules = quilt.ground_rules();
    assert!(rules.class_name(class).is_none() && rules.mover(mover).is_none());
    let ground = GroundMap::of(quilt);
    let body = WorldRect::between(WorldPoint::new(1.0, 1.0), WorldPoint::new(2.0, 2.0));
    assert!(ground.blocked(mover, at) && ground.treatment(mover, at).blocks());
    assert_eq!(ground.speed_at(mover, body.min()), 0.0);
    // It is one that can be nowhere.
    let mut walled = quilt.clone();
    let wall = Mover::new("wall").with_empty(Treatment::Block);
    let wall = quilt.ground_rules().classes().fold(wall, |wall, class| wall.block(class));
    walled.edit("wall", |pen| pen.put_mover(wall)).unwrap();
    let (walls, wall) = (GroundMap::of(&walled), walled.mover("wall").unwrap());
    let area = |ground: &GroundMap, mover| -> f64 {
        ground.pieces(mover, quilt.bounds()).iter().map(|piece| piece.area()).sum()
    };
    assert_eq!(area(&walls, wall), area(&ground, mover));
    for way in [(3.0, 0.0), (40.0, 0.0), (-40.0, 9.0)].map(|(x, y)| WorldVec::new(x, y)) {
        let [own, foreign] = [(&walls, wall), (&ground, mover)].map(|(g, m)| g.slide(m, body, way));
        assert_eq!(own.end.bounds(), foreign.end.bounds());
        let [own, foreign] =
            [(&walls, wall), (&ground, mover)].map(|(g, m)| g.ray(m, body.min(), way));
        assert_eq!(own.map(|hit| hit.point), foreign.map(|hit| hit.point));
    }
    assert_ne!(Some(class), ground.class_at(at).here().flatten());
}

#[test]
fn handles_of_another_map_mean_nothing() {
    let (mut here, there) = (map("here"), map("there"));
    let foreign = handles(&there, "there");
    let own = handles(&here, "here");
    // They have the same places in both.
    assert_eq!(own.tile.index(), foreign.tile.index());
    assert_eq!(own.class.index(), foreign.class.index());
    assert_eq!(own.palette.slot(), foreign.palette.slot());
    assert_ne!((own.tile, own.mover), (foreign.tile, foreign.mover));
    are_foreign(&mut here, foreign);
}

#[test]
fn handles_of_another_load_of_the_same_map_mean_nothing() {
    let saved = map("yard").to_json().unwrap();
    let load = || {
        let mut files = sturdy_quilt::MemorySource::default();
        files.add("m.quilt.json", saved.clone());
        Quilt::load(&files, "m.quilt.json").unwrap()
    };
    let (mut here, there) = (load(), load());
    are_foreign(&mut here, handles(&there, "yard"));
    assert!(here.same_as(&there));
}

#[test]
fn clones_that_go_different_ways_do_not_mix_movers_classes_and_palettes() {
    let mut here = map("yard");
    let mut there = here.clone();
    let add = |quilt: &mut Quilt, name: &str| {
        let named = |end: &str| format!("{name}-{end}");
        let edit = quilt.edit("add", |pen| {
            pen.add_ground_classes([&*named("class")])?;
            pen.put_mover(Mover::new(named("mover")))?;
            pen.put_tiles(TileSet::flat(name, ["t"])?)?;
            pen.put_palette(Palette::new(named("palette")))
        });
        edit.unwrap().changes
    };
    let theirs = add(&mut there, "theirs");
    let foreign = handles(&there, "theirs");
    let undo = add(&mut here, "ours").inverse();
    let own = handles(&here, "ours");
    assert_eq!(own.class.index(), foreign.class.index());
    assert_eq!(here.ground_rules().class_name(foreign.class), None);
    assert!(here.ground_rules().mover(foreign.mover).is_none());
    assert!(GroundMap::of(&here).blocked(foreign.mover, CellPos::ORIGIN));
    let dressed =
        here.edit("p", |pen| pen.set_layer("soil", |soil| soil.with_palette(foreign.palette)));
    assert!(matches!(dressed, Err(EditError::Part(PartError::OtherMap))));
    // Tiles have one register, so that theirs is known, and shown by a placeholder.
    let put = here.edit("t", |pen| pen.put("soil", CellPos::new(1, 0), foreign.tile)).unwrap();
    assert!(here.tiles().is_missing(foreign.tile));
    here.apply(&put.changes.inverse()).unwrap();
    // With their changes, their handles mean the same here.
    here.apply(&undo).unwrap();
    here.apply(&theirs).unwrap();
    assert_eq!(here.ground_rules().class_name(foreign.class), Some("theirs-class"));
    assert!(!GroundMap::of(&here).blocked(foreign.mover, CellPos::ORIGIN));
    here.edit("p", |pen| pen.set_layer("soil", |soil| soil.with_palette(foreign.palette))).unwrap();
    assert!(!GroundMap::of(&here).blocked(handles(&here, "yard").mover, CellPos::ORIGIN));
}

proptest! {
    /// What takes the place of a thing with its name has its handle, through undo and redo too.
    #[test]
    fn handles_stay_with_their_names(steps in prop::collection::vec((0..3_usize, any::<bool>()), 1..20)) {
        let mut quilt = map("yard");
        let names = ["a", "b", "yard"];
        let (mut known, mut made) = (std::collections::BTreeMap::new(), Vec::new());
        for (which, undo) in steps {
            if undo {
                if let Some(changes) = made.pop() {
                    quilt.apply(&sturdy_quilt::Changeset::inverse(&changes)).unwrap();
                }
            } else {
                let name = format!("{}-mover", names[which]);
                let slow = 0.125 * (made.len() % 5 + 1) as f64;
                let edit = quilt.edit("put", |pen| pen.put_mover(Mover::new(name).slow("yard-class", slow)));
                made.push(edit.unwrap().changes);
            }
            for mover in quilt.ground_rules().movers() {
                let handle = quilt.mover(mover.name()).unwrap();
                known.entry(mover.name().to_owned()).or_insert_with(Vec::new).push(handle);
                prop_assert_eq!(quilt.ground_rules().mover(handle), Some(mover));
            }
            for (name, handles) in &known {
                for handle in handles {
                    if let Some(mover) = quilt.ground_rules().mover(*handle) {
                        prop_assert_eq!(mover.name(), name);
                    }
                }
            }
        }
    }
}
