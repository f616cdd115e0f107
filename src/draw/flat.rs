//! Cells of a stack as quads, in the total order.
//!
//! A stack has its cells chunk by chunk, each with all its layers; the order of quads is layer by
//! layer, each row by row over all chunks. The layers come apart by counting, so that nothing is
//! compared.

use super::clock::Clock;
use super::edges::PixelEdges;
use super::pass::{Quad, StackChunk, StackPass};
use super::row::StackEntry;
use super::scene::Scene;
use crate::units::{CellOffset, CellPos};

/// A cell to draw: where it shows, and what it is.
type Placed = (CellPos, CellPos, StackEntry);

/// Adds the cells of a pass.
pub(super) fn add_stack(
    (scene, clock): (&Scene, &Clock),
    pass: &StackPass<'_>,
    quads: &mut Vec<Quad>,
) {
    let first = quads.len();
    let placed = by_level(pass);
    let mut edges = PixelEdges::default();
    edges.look(pass);
    for of_level in placed.chunk_by(|(.., a), (.., b)| a.level == b.level) {
        let level = &scene.map_facts.levels[usize::from(of_level[0].2.level)];
        let offset = pass.alignment.placement.offset;
        quads.extend(of_level.iter().map(|&(own, shown, entry)| {
            let cell_art = scene.map_facts.cell_art(scene.frame_at(entry, own, clock), level);
            let key = scene.key(level, offset, shown);
            Quad::new(key, (cell_art, level.blend), edges.pixels(pass, shown))
        }));
    }
    // Layers that are sorted by row mix; copies of a layer come patch by patch.
    let (from, end) = pass.levels;
    let levels = &scene.map_facts.levels[usize::from(from)..usize::from(end)];
    let mixes = levels.windows(2).any(|pair| pair[0].mixes_with(&pair[1], false));
    if mixes || pass.alignment.patches.len() > 1 {
        quads[first..].sort_by_key(|quad| quad.key);
    }
}

/// The cells of a pass layer by layer, each row by row.
fn by_level(pass: &StackPass<'_>) -> Vec<Placed> {
    let (from, end) = pass.levels;
    let mut places = vec![0_usize; usize::from(end - from) + 1];
    let levels = from..end;
    each_row(pass, |_, _, entries| {
        for entry in entries.iter().filter(|entry| levels.contains(&entry.level)) {
            places[usize::from(entry.level - from) + 1] += 1;
        }
    });
    for level in 1..places.len() {
        places[level] += places[level - 1];
    }
    let all = places.last().copied().unwrap_or(0);
    let nothing = (CellPos::ORIGIN, CellPos::ORIGIN, StackEntry::NONE);
    let mut placed = vec![nothing; all];
    each_row(pass, |first, by, entries| {
        let is_moved = by != CellOffset::new(0, 0);
        for &entry in entries.iter().filter(|entry| levels.contains(&entry.level)) {
            let own = CellPos::new(first.x() + i32::from(entry.column()), first.y());
            let place = &mut places[usize::from(entry.level - from)];
            let shown = if is_moved { own.saturating_add(by) } else { own };
            placed[*place] = (own, shown, entry);
            *place += 1;
        }
    });
    placed
}

/// Visits the entries of all cells on the screen, row by row over all chunks of a patch: with the
/// first cell of their row in the chunk, and how far from there they show.
fn each_row(pass: &StackPass<'_>, mut visit: impl FnMut(CellPos, CellOffset, &[StackEntry])) {
    let chunks: Vec<StackChunk<'_>> = pass.chunks().collect();
    let is_beside = |a: &StackChunk<'_>, b: &StackChunk<'_>| {
        (a.pos().y(), a.moved_by()) == (b.pos().y(), b.moved_by())
    };
    for beside in chunks.chunk_by(is_beside) {
        let rows = beside[0].on_screen();
        for y in rows.top()..rows.bottom() {
            for chunk in beside {
                let first = CellPos::new(chunk.pos().corner().x(), y);
                visit(first, chunk.moved_by(), chunk.row_within(y, chunk.on_screen()));
            }
        }
    }
}
