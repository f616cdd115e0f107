//! Laying out tiles that stand on several cells.
//!
//! A document names such a tile in the first cell of its footprint, or in all of them. In the map each
//! cell holds its part.

use rustc_hash::FxHashSet;

use crate::document::syntax::{Node, Reader};
use crate::quilt::{Layer, Quilt};
use crate::tile::Cell;
use crate::units::CellPos;

/// Puts the parts of all tiles with a footprint that a layer holds in place of these.
pub(crate) fn lay_wholes<'a>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    layer: &mut Layer,
    quilt: &Quilt,
) {
    let tiles = quilt.tiles();
    let is_whole = |cell: Cell| tiles.tile_of(cell).is_some_and(|id| tiles.footprint(id).is_some());
    let mut wholes: Vec<(CellPos, Cell)> =
        layer.cells().occupied().filter(|(_, cell)| is_whole(*cell)).collect();
    wholes.sort_unstable_by_key(|(at, _)| (at.y(), at.x()));
    let mut laid: FxHashSet<CellPos> = FxHashSet::default();
    for (first, whole) in wholes {
        if laid.contains(&first) {
            continue;
        }
        let words = tiles.notation(whole);
        let parts = match tiles.parts_of(whole) {
            Ok(parts) => parts,
            Err(fault) => {
                let message = format!("{words} at {first} cannot be laid");
                reader.error_at_cell(node.start(), first, message, fault.to_string());
                continue;
            }
        };
        for (offset, part) in parts {
            let Some(at) = first.checked_add(offset) else {
                let message = format!("{words} at {first} reaches beyond the limits of cells");
                let hint = "lay it further inside".to_owned();
                reader.error_at_cell(node.start(), first, message, hint);
                break;
            };
            let held = layer.cells().get(at).here().unwrap_or_default();
            let is_free = held.is_empty() || held == part || held == whole && !laid.contains(&at);
            if !is_free {
                let message = format!(
                    "{words} at {first} needs the cell {at}, where {} lies",
                    tiles.notation(held)
                );
                let hint =
                    "leave the other cells of its footprint empty, or name the same tile in \
                            all of them"
                        .to_owned();
                reader.error_at_cell(node.start(), at, message, hint);
                break;
            }
            laid.insert(at);
            // A plane that was just made is here as a whole.
            let _ = layer.cells_mut().1.write_row(at, &[part]);
        }
    }
}
