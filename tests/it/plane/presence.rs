//! Chunks and tracts that are not here. A paged world brings them about.

use sturdy_quilt::plane::{Absence, ChunkForm, Plane, RunValues, SeenStamps, Stamp};
use sturdy_quilt::units::TractPos;
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

#[test]
fn what_is_not_here_is_not_empty() {
    let mut plane: Plane<u32> = Plane::new();
    plane.set(CellPos::new(3, 3), 5).unwrap();
    let (near, far) = (ChunkPos::new(0, 0), ChunkPos::new(1, 0));
    plane.set_absent(near, Absence::NotHere);
    plane.set_absent(far, Absence::Damaged);
    assert_eq!(plane.get(CellPos::new(3, 3)), Presence::NotHere);
    assert_eq!(plane.get(CellPos::new(64, 0)), Presence::Damaged);
    let error = plane.set(CellPos::new(3, 3), 1).unwrap_err();
    assert_eq!(error.to_string(), "chunk 0,0 is not loaded");
    let wide = CellRect::between(CellPos::new(-70, 0), CellPos::new(70, 0));
    let stamp = plane.stamp();
    assert!(plane.fill(wide, 9).is_err());
    assert!(plane.write_row(CellPos::new(-1, 0), &[1, 2, 3]).is_err());
    assert_eq!(plane.stamp(), stamp, "nothing was changed");
    let mut absent = 0;
    plane.read_runs(wide, &mut Vec::new(), |run| {
        absent += u32::from(matches!(run.values, RunValues::Absent(_))) * run.cells.width();
    });
    assert_eq!(absent, 64 + 7);
    assert_eq!(plane.bounds(), near.cells().union(far.cells()), "they may hold something");
    plane.admit(near);
    plane.set(CellPos::new(3, 3), 6).unwrap();
    assert_eq!(plane.get(CellPos::new(3, 3)), Presence::Here(6));
    assert_ne!(plane.chunk_stamp(near), Stamp::NONE);
}

#[test]
fn a_whole_tract_may_be_absent() {
    let mut plane: Plane<u32> = Plane::new();
    let tract = TractPos::new(-1, 2);
    let inside = CellPos::new(-1, 1024);
    plane.set(inside, 5).unwrap();
    let (before, mut seen) = (plane.clone(), SeenStamps::default());
    seen.update(&plane);
    plane.set_tract_absent(tract, Absence::Damaged);
    let chunks: Vec<ChunkPos> = tract.cells().chunks().collect();
    assert_eq!(seen.update(&plane), chunks);
    assert_eq!(plane.get(inside), Presence::Damaged);
    assert_eq!(plane.cursor().get(inside), Presence::Damaged);
    assert_eq!(plane.bounds(), tract.cells());
    assert_eq!(plane.memory().form(ChunkForm::Absent).chunks, 64);
    assert_eq!(plane.differences(&before), chunks, "what is not here is not empty");
    assert_eq!(plane.occupied().count(), 0);
    let error = plane.set(inside, 1).unwrap_err();
    assert_eq!(error.to_string(), "chunk -1,16 is damaged");
    assert!(plane.writer().set(inside, 1).is_err());
    let mut many = Vec::new();
    plane.get_many(&[inside, CellPos::ORIGIN], &mut many);
    assert_eq!(many, [Presence::Damaged, Presence::Here(0)]);
    // One chunk of it can come, and be written to.
    plane.admit(inside.chunk());
    plane.set(inside, 6).unwrap();
    assert_eq!(plane.get(inside), Presence::Here(6));
    assert_eq!(plane.get(CellPos::new(-65, 1024)), Presence::Damaged);
    plane.admit_tract(tract);
    assert_eq!(plane.get(CellPos::new(-65, 1024)), Presence::Here(0));
    assert_eq!(plane.get(inside), Presence::Here(6), "what is here stays");
    // All of it at once.
    plane.set_tract_absent(tract, Absence::NotHere);
    let stamp = plane.tract_stamp(tract);
    assert_ne!(stamp, Stamp::NONE);
    plane.admit_tract(tract);
    assert!(plane.tract_stamp(tract) > stamp);
    plane.compact();
    assert_eq!(plane.memory().tracts(), 0);
    assert_eq!(plane, Plane::new());
}

#[test]
fn nothing_is_copied_or_written_over_what_is_not_here() {
    let mut plane: Plane<u32> = Plane::new();
    let area = CellRect::new(CellPos::new(-10, -10), 200, 100);
    plane.fill(area, 3).unwrap();
    let whole = plane.clone();
    plane.set_absent(ChunkPos::new(1, 0), Absence::NotHere);
    let mut other: Plane<u32> = Plane::new();
    other.set(CellPos::new(5, 5), 8).unwrap();
    let before = other.clone();
    assert!(other.copy_from(&plane, area, CellPos::ORIGIN).is_err(), "the source is not here");
    assert!(plane.copy_from(&other, area, CellPos::ORIGIN).is_err(), "the target is not here");
    assert!(plane.write_rect(area, &vec![9; 20_000]).is_err());
    assert_eq!(other, before);
    assert_eq!(plane.get(CellPos::ORIGIN), Presence::Here(3), "nothing was changed");
    let mut values = Vec::new();
    let error = plane.read_rect(area, &mut values).unwrap_err();
    assert_eq!((error.chunk, error.why), (ChunkPos::new(1, 0), Absence::NotHere));
    let expected = area.cells().map(|cell| {
        let is_absent = cell.chunk() == ChunkPos::new(1, 0);
        if is_absent { 0 } else { 3 }
    });
    assert!(values.iter().copied().eq(expected));
    assert!(!plane.same_in(area, &whole));
    assert!(plane.same_in(CellRect::new(CellPos::new(-10, -10), 74, 70), &whole));
    assert!(plane.same_in(area, &plane.clone()));
}

#[test]
fn what_is_not_here_is_found_in_however_large_a_rectangle() {
    let mut plane: Plane<u32> = Plane::new();
    plane.set(CellPos::new(-1_000_000, 8), 5).unwrap();
    plane.set_absent(ChunkPos::new(7, -70_000), Absence::NotHere);
    let error = plane.fill(CellRect::EVERYWHERE, 0).unwrap_err();
    assert_eq!(error.chunk, ChunkPos::new(7, -70_000));
    plane.admit(error.chunk);
    // What has been copied, compared and emptied everywhere costs what there is.
    let mut other: Plane<u32> = Plane::new();
    other.set(CellPos::new(77, 77), 3).unwrap();
    assert!(!other.same_in(CellRect::EVERYWHERE, &plane));
    other.copy_from(&plane, CellRect::EVERYWHERE, CellRect::EVERYWHERE.corner()).unwrap();
    assert_eq!(other, plane);
    assert!(other.same_in(CellRect::EVERYWHERE, &plane));
    let half = CellRect::between(CellPos::new(CellPos::MIN, 0), CellPos::new(-1, CellPos::MAX));
    other.copy_from(&plane, half, CellPos::new(CellPos::MIN + 3, 70)).unwrap();
    assert_eq!(other.get(CellPos::new(-999_997, 78)), Presence::Here(5));
    plane.fill(CellRect::EVERYWHERE, 0).unwrap();
    assert_eq!(plane, Plane::new());
}
