//! Which cells stop a mover.

use std::ops::{Range, RangeInclusive};

use super::GroundMap;
use super::map::{ClassChunk, MoverTable, SILENT, wrapped};
use crate::quilt::{MoverId, Outside};
use crate::units::{CellPos, CellRect, ChunkPos};

/// Which cells stop a mover, with the chunk that was looked at last.
pub(super) struct Solid<'a> {
    ground: &'a GroundMap,
    /// How the mover takes each code; a handle of another map can enter nothing.
    table: Option<&'a MoverTable>,
    columns: Range<i64>,
    rows: Range<i64>,
    looked_at: Option<(ChunkPos, Option<&'a ClassChunk>)>,
}

impl<'a> Solid<'a> {
    pub(super) fn new(ground: &'a GroundMap, mover: MoverId) -> Solid<'a> {
        let bounds = ground.bounds();
        Solid {
            ground,
            table: ground.table(mover),
            columns: bounds.left().into()..bounds.right().into(),
            rows: bounds.top().into()..bounds.bottom().into(),
            looked_at: None,
        }
    }

    /// The cells beyond which all are known to be free, where that is known.
    pub(super) fn free_beyond(&self) -> Option<CellRect> {
        match self.table?.outside {
            Outside::Treated(treatment) if !treatment.blocks() => Some(self.ground.bounds()),
            Outside::Treated(_) => None,
            // Where the map repeats itself, it does so up to the last cell there is.
            Outside::Wrapped => Some(CellRect::EVERYWHERE),
        }
    }

    /// Whether all of a few cells are free, as those around a short motion mostly are: then no edge
    /// need be followed. Of more than a few it says no.
    pub(super) fn is_free(
        &mut self,
        columns: RangeInclusive<i64>,
        rows: RangeInclusive<i64>,
    ) -> bool {
        const MOST_LINES: i64 = 4;
        let few = |lines: &RangeInclusive<i64>| lines.end() - lines.start() < MOST_LINES;
        if !few(&columns) || !few(&rows) {
            return false;
        }
        self.is_free_in_chunk(&columns, &rows).unwrap_or_else(|| {
            rows.into_iter().all(|row| columns.clone().all(|column| !self.blocks(column, row)))
        })
    }

    /// The same for cells within the bounds that lie in one chunk, as a few mostly do: that is
    /// found once for all.
    fn is_free_in_chunk(
        &mut self,
        columns: &RangeInclusive<i64>,
        rows: &RangeInclusive<i64>,
    ) -> Option<bool> {
        let holds = |lines: &Range<i64>, some: &RangeInclusive<i64>| {
            lines.contains(some.start()) && lines.contains(some.end())
        };
        if !holds(&self.columns, columns) || !holds(&self.rows, rows) {
            return None;
        }
        let table = self.table?;
        let first = CellPos::within_limits(*columns.start() as i32, *rows.start() as i32);
        let last = CellPos::within_limits(*columns.end() as i32, *rows.end() as i32);
        if first.chunk() != last.chunk() {
            return None;
        }
        let codes = match self.chunk(first.chunk()) {
            None => return Some(!table.blocks(SILENT)),
            Some(ClassChunk::Uniform(code)) => return Some(!table.blocks(*code)),
            Some(ClassChunk::Each(codes)) => codes,
        };
        let (begin, end) = (first.index_in_chunk(), last.index_in_chunk() + 1);
        let width = (last.x() - first.x()) as usize + 1;
        let side = ChunkPos::SIDE as usize;
        let mut rows = (begin / side..end.div_ceil(side)).map(|row| row * side + begin % side);
        Some(rows.all(|at| codes[at..at + width].iter().all(|code| !table.blocks(*code))))
    }

    #[inline]
    pub(super) fn blocks(&mut self, column: i64, row: i64) -> bool {
        let Some(table) = self.table else { return true };
        let cell = if self.columns.contains(&column) && self.rows.contains(&row) {
            CellPos::within_limits(column as i32, row as i32)
        } else {
            match table.outside {
                Outside::Treated(treatment) => return treatment.blocks(),
                Outside::Wrapped if self.columns.is_empty() => return true,
                Outside::Wrapped => wrapped(column, row, self.ground.bounds()),
            }
        };
        let chunk = self.chunk(cell.chunk());
        table.blocks(chunk.map_or(SILENT, |chunk| chunk.code(cell.index_in_chunk())))
    }

    #[inline]
    fn chunk(&mut self, pos: ChunkPos) -> Option<&'a ClassChunk> {
        match self.looked_at {
            Some((held, chunk)) if held == pos => chunk,
            _ => {
                let chunk = self.ground.chunk(pos);
                self.looked_at = Some((pos, chunk));
                chunk
            }
        }
    }
}
