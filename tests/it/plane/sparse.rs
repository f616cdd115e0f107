//! Lone cells, and worlds of many tracts: the page table against maps of cells.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use sturdy_quilt::plane::{Plane, SeenStamps, Stamp};
use sturdy_quilt::units::TractPos;
use sturdy_quilt::{CellPos, CellRect, ChunkPos, Presence};

/// Cells of which some lie beside each other, some in one tract, and most anywhere at all.
fn any_cell() -> impl Strategy<Value = CellPos> {
    let anywhere = || CellPos::MIN..=CellPos::MAX;
    let near = || -600..600_i32;
    prop_oneof![
        3 => (anywhere(), anywhere()).prop_map(|(x, y)| CellPos::new(x, y)),
        1 => (near(), near()).prop_map(|(x, y)| CellPos::new(x, y)),
        1 => (near(), near()).prop_map(|(x, y)| CellPos::new(x * 512, y * 512)),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn lone_cells_anywhere_are_a_map_of_cells(
        cells in prop::collection::vec((any_cell(), 0..4_u32), 1..1500),
        clone_at in 0..1500_usize,
        emptied in prop::collection::vec(any::<prop::sample::Index>(), 0..60),
    ) {
        let (mut plane, mut model) = (Plane::new(), BTreeMap::new());
        let mut snapshot = (plane.clone(), model.clone());
        let (mut seen, mut stamps) = (SeenStamps::default(), BTreeMap::new());
        let emptied = emptied.iter().map(|index| (index.get(&cells).0, 0));
        for (turn, (cell, value)) in cells.iter().copied().chain(emptied).enumerate() {
            if turn == clone_at {
                snapshot = (plane.clone(), model.clone());
                prop_assert!(seen.update(&plane).into_iter().eq(stamps.keys().copied()));
                stamps.clear();
            }
            let before = model.insert(cell, value).unwrap_or(0);
            prop_assert_eq!(plane.set(cell, value).unwrap(), before);
            if before != value {
                stamps.insert(cell.chunk(), plane.stamp());
                prop_assert_eq!(plane.chunk_stamp(cell.chunk()), plane.stamp());
            }
        }
        for (plane, model) in [&snapshot, &(plane.clone(), model.clone())] {
            let mut used = model.clone();
            used.retain(|_, value| *value != 0);
            let found: BTreeMap<CellPos, u32> = plane.occupied().collect();
            prop_assert_eq!(&found, &used);
            let bounds = used.keys().map(|cell| CellRect::of_cell(*cell));
            prop_assert_eq!(plane.bounds(), bounds.fold(CellRect::EMPTY, CellRect::union));
            let asked: Vec<CellPos> = model.keys().copied().collect();
            let mut many = Vec::new();
            plane.get_many(&asked, &mut many);
            for ((cell, value), found) in model.iter().zip(many) {
                prop_assert_eq!(plane.get(*cell), Presence::Here(*value));
                prop_assert_eq!(found, Presence::Here(*value));
            }
        }
        // Stamps say what has changed since the snapshot, and differences what is different.
        prop_assert!(seen.update(&plane).into_iter().eq(stamps.keys().copied()));
        prop_assert!(stamps.iter().all(|(chunk, stamp)| plane.chunk_stamp(*chunk) == *stamp));
        let changed: BTreeSet<ChunkPos> = plane.changed_since(snapshot.0.stamp()).collect();
        if clone_at < cells.len() {
            prop_assert!(changed.iter().eq(stamps.keys()));
        }
        let get = |model: &BTreeMap<CellPos, u32>, cell| model.get(cell).copied().unwrap_or(0);
        let differ = model.keys().filter(|cell| get(&model, cell) != get(&snapshot.1, cell));
        let differing: BTreeSet<ChunkPos> = differ.map(|cell| cell.chunk()).collect();
        prop_assert!(plane.differences(&snapshot.0).into_iter().eq(differing.iter().copied()));
        prop_assert!(snapshot.0.differences(&plane).into_iter().eq(differing));
        // And back again, by the older clone.
        prop_assert!(seen.update(&snapshot.0).into_iter().eq(stamps.keys().copied()));
        let mut small = plane.clone();
        small.compact();
        prop_assert_eq!(&small, &plane);
        prop_assert!(stamps.iter().all(|(chunk, stamp)| small.chunk_stamp(*chunk) == *stamp));
        prop_assert_eq!(small.bounds(), plane.bounds());
    }

    #[test]
    fn clones_that_grow_apart_stay_themselves(
        tracts in prop::collection::vec((-40..40_i32, -40..40_i32, 0..3_usize), 1..240),
    ) {
        // Page tables of different depths: each clone grows by itself.
        let mut planes: [Plane<u32>; 3] = Default::default();
        let mut models: [BTreeMap<TractPos, u32>; 3] = Default::default();
        let mut seen = SeenStamps::default();
        for (turn, (x, y, which)) in tracts.into_iter().enumerate() {
            let tract = TractPos::new(x, y);
            let value = turn as u32 + 1;
            planes[which].fill(tract.cells(), value).unwrap();
            models[which].insert(tract, value);
            if turn % 50 == 20 {
                planes[(which + 1) % 3] = planes[which].clone();
                models[(which + 1) % 3] = models[which].clone();
            }
            // Whichever comes, what differs from the last is named, and nothing is twice.
            let named = seen.update(&planes[which]);
            prop_assert!(named.is_sorted_by(|a, b| a < b));
            prop_assert!(seen.update(&planes[which]).is_empty());
        }
        for (plane, model) in planes.iter().zip(&models) {
            for (tract, value) in model {
                prop_assert_eq!(plane.get(tract.corner()), Presence::Here(*value));
                prop_assert_ne!(plane.tract_stamp(*tract), Stamp::NONE);
            }
            prop_assert_eq!(plane.memory().tracts(), 0);
            for (other, others) in planes.iter().zip(&models) {
                let all: BTreeSet<&TractPos> = model.keys().chain(others.keys()).collect();
                let differ = all.into_iter().filter(|at| model.get(at) != others.get(at));
                let mut expected: Vec<ChunkPos> =
                    differ.flat_map(|at| at.cells().chunks()).collect();
                expected.sort_unstable();
                prop_assert_eq!(plane.differences(other), expected);
                // Also where page tables of different depths are compared by their stamps.
                let mut seen = SeenStamps::default();
                seen.update(plane);
                let named: BTreeSet<ChunkPos> = seen.update(other).into_iter().collect();
                prop_assert!(plane.differences(other).iter().all(|pos| named.contains(pos)));
            }
        }
    }
}

#[test]
fn a_few_cells_of_a_tract_are_kept_one_by_one() {
    let mut plane: Plane<u32> = Plane::new();
    for n in 0..8 {
        plane.set(CellPos::new(n * 64, 7), 1).unwrap();
    }
    assert_eq!((plane.memory().lone_cells(), plane.memory().tracts()), (8, 0));
    plane.set(CellPos::new(9, 400), 1).unwrap();
    assert_eq!((plane.memory().lone_cells(), plane.memory().tracts()), (0, 1));
    let stamps: Vec<Stamp> = (0..8).map(|x| plane.chunk_stamp(ChunkPos::new(x, 0))).collect();
    plane.set(CellPos::new(9, 400), 0).unwrap();
    plane.set(CellPos::new(0, 7), 0).unwrap();
    plane.compact();
    // Nine chunks have a stamp, two of them because they were emptied: too many to be lone.
    assert_eq!(plane.memory().tracts(), 1);
    assert!((1..8).all(|x| plane.chunk_stamp(ChunkPos::new(x, 0)) == stamps[x as usize]));
}

#[test]
fn a_cell_that_wanders_takes_no_more_and_more_memory() {
    let mut plane: Plane<u32> = Plane::new();
    let way = |n: i32| CellPos::new(n * 5, n / 3);
    for n in 0..400 {
        plane.set(way(n), 1).unwrap();
        plane.set(way(n - 1), 0).unwrap();
    }
    assert_eq!(plane.occupied().count(), 1);
    assert_eq!(plane.bounds(), CellRect::of_cell(way(399)));
    let memory = plane.memory();
    assert!(memory.bytes() < 40 << 10, "{memory:?}");
}
