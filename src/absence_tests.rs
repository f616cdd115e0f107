//! Parts of a map that are not loaded. Only a paged world brings them about, so these tests reach
//! into the layers as its pager does.

use crate::document::SaveError;
use crate::plane::Absence;
use crate::quilt::Treatment;
use crate::{
    Cell, CellPos, CellRect, ChunkPos, Color, DrawList, EditError, GroundMap, Mover, Presence,
    Quilt, ScreenSize, View, WorldPoint, doc_quilt,
};

const CHUNK: ChunkPos = ChunkPos::new(1, 0);

/// The garden with one chunk beside it marked as not here.
fn paged(why: Absence) -> Quilt {
    let mut quilt = doc_quilt();
    quilt
        .edit("movers", |pen| {
            pen.put_mover(Mover::new("careful"))?;
            pen.put_mover(Mover::new("daring").with_unloaded(Treatment::Slow(0.5)))
        })
        .unwrap();
    quilt.cells_mut(0).1.set_absent(CHUNK, why);
    quilt
}

#[test]
fn a_pen_refuses_what_is_not_here() {
    let mut quilt = paged(Absence::NotHere);
    let cell = CHUNK.corner();
    let grass = quilt.tile("garden/grass").unwrap();
    let refused = |result: Result<(), EditError>| {
        let error = result.unwrap_err();
        assert_eq!(error.to_string(), "layer `soil` cannot be changed there");
        let cause = std::error::Error::source(&error).unwrap().to_string();
        assert_eq!(cause, "chunk 1,0 is not loaded");
    };
    let edit = |quilt: &mut Quilt, f: &dyn Fn(&mut crate::Pen<'_>) -> Result<(), EditError>| {
        quilt.edit("try", |pen| f(pen)).map(|_| ())
    };
    let before = quilt.clone();
    refused(edit(&mut quilt, &|pen| pen.put("soil", cell, grass).map(|_| ())));
    refused(edit(&mut quilt, &|pen| pen.put_if("soil", cell, Cell::EMPTY, grass).map(|_| ())));
    refused(edit(&mut quilt, &|pen| pen.require("soil", cell, Cell::EMPTY)));
    let across = CellRect::new(CellPos::new(60, 0), 10, 2);
    refused(edit(&mut quilt, &|pen| pen.fill("soil", across, grass)));
    refused(edit(&mut quilt, &|pen| pen.put_each("soil", across, |_| Cell::EMPTY)));
    assert!(quilt.same_as(&before), "nor the part of the fill that is here");
    quilt.cells_mut(0).1.admit(CHUNK);
    let far = CellPos::new(70, 0);
    quilt.edit("beyond", |pen| pen.put("soil", far, grass)).unwrap();
    quilt.cells_mut(0).1.set_absent(CHUNK, Absence::NotHere);
    let before_vary = quilt.clone();
    refused(edit(&mut quilt, &|pen| {
        pen.vary("soil", CellRect::new(CellPos::new(60, 0), 20, 1), 0)
    }));
    assert!(quilt.same_as(&before_vary));
}

#[test]
fn undo_over_what_is_not_here_says_so() {
    let mut quilt = doc_quilt();
    let wall = quilt.tile("garden/wall").unwrap();
    let one = quilt.edit("one", |pen| pen.put("soil", CHUNK.corner(), wall)).unwrap().changes;
    let all = quilt.edit("all", |pen| pen.fill("soil", CHUNK.cells(), wall)).unwrap().changes;
    let other = quilt.edit("other", |pen| pen.put("soil", CellPos::ORIGIN, wall)).unwrap();
    quilt.cells_mut(0).1.set_absent(CHUNK, Absence::NotHere);
    for (changes, place) in [(all, "chunk 1,0"), (one, "cell 64,0")] {
        let error = quilt.apply(&changes.inverse()).unwrap_err();
        let what = format!("{place} of layer `soil`");
        assert_eq!(error, crate::edit::ApplyError::Absent(what.clone()));
        assert_eq!(
            error.to_string(),
            format!("{what} is not loaded: load it before the changes are applied")
        );
    }
    quilt.apply(&other.changes.inverse()).unwrap();
}

#[test]
fn ground_that_is_not_here_is_treated_as_the_mover_says() {
    let mut quilt = paged(Absence::Damaged);
    let mut ground = GroundMap::of(&quilt);
    let cell = CHUNK.corner();
    assert_eq!(ground.class_at(cell), Presence::Damaged);
    assert!(matches!(quilt.ground_at(cell), Presence::Damaged));
    let treated = |ground: &GroundMap, quilt: &Quilt, mover: &str| {
        ground.treatment(quilt.mover(mover).unwrap(), cell)
    };
    assert_eq!(treated(&ground, &quilt, "careful"), Treatment::Block);
    assert_eq!(treated(&ground, &quilt, "daring"), Treatment::Slow(0.5));
    quilt.cells_mut(0).1.admit(CHUNK);
    assert_eq!(ground.refresh(&quilt), 1, "its arrival is a change");
    assert_eq!(ground.class_at(cell), Presence::Here(None));
}

#[test]
fn what_is_not_here_is_drawn_as_a_plain_placeholder() {
    let quilt = paged(Absence::NotHere);
    let corner = quilt.lattice().bounds(CHUNK.corner()).min();
    let view = View::new(ScreenSize::new(8, 8)).centered_on(WorldPoint::new(corner.x, 8.0));
    let picture = quilt.draw(&view, Color::CLEAR);
    assert_eq!(picture.get(0, 0), Some(Color::CLEAR), "empty");
    assert_eq!(picture.get(7, 0), Some(Color::rgb(96, 96, 96)), "not loaded");
    let mut list = DrawList::new();
    list.rebuild(&quilt, &view);
    assert_eq!(list.quads().len(), 1);
}

#[test]
fn a_map_that_is_not_here_as_a_whole_is_not_saved_as_text() {
    let error = paged(Absence::NotHere).to_json().unwrap_err();
    assert!(matches!(error, SaveError::NotLoaded { layer } if layer == "soil"));
}
