//! What an edit would change, drawn before it is done.

use std::collections::HashMap;

use super::op::Op;
use super::{Changeset, EditError};
use crate::cell_set::CellSet;
use crate::plane::Word;
use crate::quilt::Quilt;
use crate::tile::Cell;
use crate::units::CellPos;

/// What an edit would change, to be drawn: the map with translucent cells where it would lay something, and
/// the cells that it would empty.
///
/// ```
/// use sturdy_quilt::{CellPos, CellSet, Color, DrawList, Overlay, ScreenSize, View};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let line = CellSet::line(CellPos::new(0, 0), CellPos::new(3, 2))?;
/// let asked = quilt.preview("a wall", |pen| pen.lay("soil", &line, "garden/wall"))?;
/// let ghost = asked.changes.ghost(&quilt, 0.6)?;
///
/// let view = View::new(ScreenSize::new(320, 200));
/// let mut list = DrawList::new();
/// list.rebuild(&ghost.map, &view);
/// let mut overlay = Overlay::new();
/// overlay.begin(&view, quilt.lattice());
/// overlay.hatch(&ghost.erased, Color::rgb(220, 60, 50));
/// assert!(ghost.erased.is_empty() && !ghost.map.same_as(&quilt));
/// # Ok::<(), sturdy_quilt::EditError>(())
/// ```
#[derive(Clone, Debug)]
pub struct Ghost {
    /// A clone of the map. Above each layer that would be changed lies another one, of its settings and less
    /// opaque, with what would be laid.
    pub map: Quilt,
    /// The cells that would be emptied in one of the layers.
    pub erased: CellSet,
}

impl Changeset {
    /// Returns what these changes would look like if they were made to a map: those of a
    /// [`Quilt::preview`] to it. The ghost is as opaque as `opacity` says, from 0 to 1, times the opacity of
    /// its layer. Cells of layers that the changes add or remove are not shown.
    ///
    /// # Errors
    /// Changes of another map; an opacity that is not from 0 to 1; a map with as many layers as it can have.
    ///
    /// Costs a look at each changed cell.
    pub fn ghost(&self, quilt: &Quilt, opacity: f32) -> Result<Ghost, EditError> {
        if !self.tiles.are_of(quilt.tiles()) {
            return Err(EditError::OtherMap);
        }
        let mut map = quilt.clone();
        map.catch_up_tiles();
        let mut erased = CellSet::new();
        // The last change of a cell counts.
        let mut after: HashMap<&str, HashMap<CellPos, Cell>> = HashMap::new();
        for op in &self.ops {
            let Op::Cells { layer, changes } = op else { continue };
            let own = after.entry(layer).or_default();
            own.extend(changes.each().map(|change| (change.cell, Cell::of_word(change.after))));
        }
        map.edit("ghost", |pen| {
            for (layer, cells) in after {
                let Ok(held) = pen.quilt().layer(layer) else { continue };
                let settings = held.settings().clone();
                let opacity = settings.opacity * opacity;
                let settings = settings.with_opacity(opacity).with_backdrop(None);
                let place = pen.quilt().layer_at(layer)?;
                let name = free_name(pen.quilt(), layer);
                pen.add_layer(&name, settings)?;
                pen.move_layer(&name, place + 1)?;
                erased.extend(cells.iter().filter(|(_, cell)| cell.is_empty()).map(|(at, _)| *at));
                for (at, cell) in cells.into_iter().filter(|(_, cell)| !cell.is_empty()) {
                    pen.put(&name, at, cell)?;
                }
            }
            Ok(())
        })?;
        Ok(Ghost { map, erased })
    }
}

/// A name for a ghost of a layer that no layer has.
fn free_name(quilt: &Quilt, layer: &str) -> String {
    let mut name = format!("{layer} (ghost)");
    while quilt.has_layer(&name) {
        name.push('\'');
    }
    name
}
