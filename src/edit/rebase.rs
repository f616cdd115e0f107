//! Changes of one map, made to another that has changed meanwhile.

use std::sync::Arc;

use super::change::Changeset;
use super::conflict::{Conflict, Resolve};
use super::error::ApplyError;
use super::op::{Op, Swap, name_conflict, of_part};
use super::part::{Part, Placed, Rebased as Of};
use super::plane_changes::PlaneChanges;
use crate::cell_set::CellSet;
use crate::plane::{Stamp, Words};
use crate::quilt::{LayerSettings, Quilt};

/// Changes that were brought onto another map, see [`Changeset::rebase`].
#[derive(Clone, Debug)]
pub struct Rebased {
    /// The changes as that map takes them: [`Quilt::apply`] makes them.
    pub changes: Changeset,
    /// Where the map holds something else than the changes expect, in the order of the operations: what it
    /// keeps, and what the rule took all the same.
    pub conflicts: Vec<Conflict>,
}

impl Changeset {
    /// Brings changes onto a map of the same descent that has changed since they were made.
    ///
    /// What the map holds as the changes expect it, they change. What it holds as they leave it already, is
    /// left out. About everything else, a [`Conflict`], the rule decides, which is asked once for each layer
    /// with all its cells; [`Resolve::Keep`] leaves it as the map has it. Settings of a layer, markers, movers
    /// and so on count one by one.
    ///
    /// # Errors
    /// Changes of another map; a part of the map that is not loaded.
    ///
    /// Costs a snapshot of the map, and for each changed cell what [`Quilt::apply`] costs.
    ///
    /// ```
    /// use sturdy_quilt::edit::{Conflict, Resolve};
    /// use sturdy_quilt::{Cell, CellPos, CellSet};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// // Two people build at once, on clones of one map.
    /// let (a, b, c) = (CellPos::new(0, 0), CellPos::new(1, 0), CellPos::new(2, 1));
    /// let mine = quilt.clone().edit("wall", |pen| pen.lay("soil", &CellSet::from_iter([a, b]), "garden/wall"))?;
    /// quilt.edit("dig", |pen| pen.erase("soil", b))?;
    /// quilt.edit("build", |pen| pen.put("soil", c, "garden/wall"))?;
    ///
    /// let rebased = mine.changes.rebase(&quilt, |_| Resolve::Keep)?;
    /// assert_eq!(
    ///     rebased.conflicts,
    ///     [Conflict::Cells { layer: "soil".into(), cells: CellSet::from_iter([b]) }]
    /// );
    /// quilt.apply(&rebased.changes)?;
    /// assert_eq!(quilt.get("soil", a)?.here(), Some(quilt.cell("garden/wall")?));
    /// assert_eq!(quilt.get("soil", b)?.here(), Some(Cell::EMPTY));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn rebase(
        &self,
        onto: &Quilt,
        mut rule: impl FnMut(&Conflict) -> Resolve,
    ) -> Result<Rebased, ApplyError> {
        if !self.tiles.are_of(onto.tiles()) {
            return Err(ApplyError::OtherMap);
        }
        let mut map = onto.clone();
        map.catch_up_tiles();
        let (stamp, mut conflicts, mut ops) = (Stamp::next(), Vec::new(), Vec::new());
        for op in &self.ops {
            let mut ask = |conflict: Conflict| {
                let resolved = rule(&conflict);
                conflicts.push(conflict);
                resolved
            };
            let Some(op) = op.rebased(&map, &mut ask)? else { continue };
            op.apply(&mut map, stamp)?;
            let lacking = if op.is_table() { map.lacking() } else { op.left_without(&map) };
            if lacking.is_some() {
                // What others have added needs it, or it needs what they have removed.
                op.inverse().apply(&mut map, stamp)?;
                conflicts.push(op.conflict());
            } else {
                ops.push(op);
            }
        }
        Ok(Rebased { changes: self.with_ops(ops), conflicts })
    }

    /// Lists what a map holds otherwise than the changes expect and than they leave it, in the order of the
    /// operations.
    ///
    /// # Errors
    /// As [`Changeset::rebase`].
    ///
    /// Costs as [`Changeset::rebase`].
    pub fn conflicts(&self, quilt: &Quilt) -> Result<Vec<Conflict>, ApplyError> {
        Ok(self.rebase(quilt, |_| Resolve::Keep)?.conflicts)
    }
}

type Ask<'a> = dyn FnMut(Conflict) -> Resolve + 'a;

impl Op {
    /// The same operation on what a map holds; `None` where nothing is left to be done.
    fn rebased(&self, quilt: &Quilt, ask: &mut Ask<'_>) -> Result<Option<Op>, ApplyError> {
        Ok(match self {
            Op::Cells { layer, changes } => {
                let Ok(held) = quilt.layer(&**layer) else {
                    ask(Conflict::Layer(Arc::clone(layer)));
                    return Ok(None);
                };
                let mut ask = |cells| ask(Conflict::Cells { layer: Arc::clone(layer), cells });
                let changes = rebased_plane(changes, held.cells().words(), &mut ask);
                let changes = changes.map_err(|held| held.error("layer", layer))?;
                changes.map(|changes| Op::Cells { layer: Arc::clone(layer), changes })
            }
            Op::Values { layer, kind, changes } => {
                let held = quilt.value_layer(layer).ok().filter(|held| held.kind() == *kind);
                let Some(held) = held else {
                    ask(Conflict::ValueLayer(Arc::clone(layer)));
                    return Ok(None);
                };
                let mut ask = |cells| ask(Conflict::Values { layer: Arc::clone(layer), cells });
                let changes = rebased_plane(changes, held.words(), &mut ask);
                let changes = changes.map_err(|held| held.error("value layer", layer))?;
                let (layer, kind) = (Arc::clone(layer), *kind);
                changes.map(|changes| Op::Values { layer, kind, changes })
            }
            Op::Layer(swap) => part(swap, quilt, ask).map(Op::Layer),
            Op::ValueLayer(swap) => part(swap, quilt, ask).map(Op::ValueLayer),
            Op::Marker(swap) => part(swap, quilt, ask).map(Op::Marker),
            Op::Tiles(swap) => part(swap, quilt, ask).map(Op::Tiles),
            Op::Class(swap) => part(swap, quilt, ask).map(Op::Class),
            Op::Mover(swap) => part(swap, quilt, ask).map(Op::Mover),
            Op::Palette(swap) => part(swap, quilt, ask).map(Op::Palette),
            Op::Order { layer, places } => {
                let Some((held, _)) = quilt.layer_of(layer) else {
                    ask(Conflict::Layer(Arc::clone(layer)));
                    return Ok(None);
                };
                // Others may have moved it, or added layers below: it goes as far as it went.
                let way = places.after as isize - places.before as isize;
                let after = held.saturating_add_signed(way).min(quilt.layer_count() - 1);
                let places = Swap::new(held, after);
                (held != after).then(|| Op::Order { layer: Arc::clone(layer), places })
            }
            Op::Name { of, names } => {
                let conflict = name_conflict(quilt, *of, names);
                match conflict {
                    None => Some(self.clone()),
                    Some(conflict) => {
                        ask(conflict);
                        None
                    }
                }
            }
            Op::Settings { layer, settings } => {
                let Ok(held) = quilt.layer(&**layer) else {
                    ask(Conflict::Layer(Arc::clone(layer)));
                    return Ok(None);
                };
                let mut ask =
                    |setting| ask(Conflict::Setting { layer: Arc::clone(layer), setting });
                let settings = rebased_settings(settings, held.settings(), &mut ask);
                settings.map(|settings| Op::Settings { layer: Arc::clone(layer), settings })
            }
            Op::Bounds(swap) => {
                one(swap, quilt.stated_bounds(), || ask(Conflict::Bounds)).map(Op::Bounds)
            }
            Op::Projection(swap) => {
                one(swap, *quilt.projection(), || ask(Conflict::Projection)).map(Op::Projection)
            }
            Op::Data(swap) => {
                one(swap, Arc::clone(quilt.shared_data()), || ask(Conflict::Data)).map(Op::Data)
            }
        })
    }

    /// What it is about, where something else stands in its way.
    fn conflict(&self) -> Conflict {
        of_part!(self;
            swap => swap.conflict(),
            Op::Cells { layer, changes } => {
                Conflict::Cells { layer: Arc::clone(layer), cells: changes.area() }
            },
            Op::Values { layer, changes, .. } => {
                Conflict::Values { layer: Arc::clone(layer), cells: changes.area() }
            },
            Op::Settings { layer, .. } | Op::Order { layer, .. } => {
                Conflict::Layer(Arc::clone(layer))
            },
            Op::Name { names, .. } => Conflict::Layer(Arc::clone(&names.before)),
            Op::Bounds(_) => Conflict::Bounds,
            Op::Projection(_) => Conflict::Projection,
            Op::Data(_) => Conflict::Data,
        )
    }
}

fn part<T: Part>(
    swap: &Swap<Placed<T>>,
    quilt: &Quilt,
    ask: &mut Ask<'_>,
) -> Option<Swap<Placed<T>>> {
    match swap.rebased(quilt) {
        Of::Same(swap) => Some(swap),
        Of::Done => None,
        Of::Conflict(taken) => {
            let resolved = ask(swap.conflict());
            taken.filter(|_| resolved == Resolve::Take)
        }
    }
}

/// The change of something that a map has once.
fn one<T: Clone + PartialEq>(
    swap: &Swap<T>,
    held: T,
    ask: impl FnOnce() -> Resolve,
) -> Option<Swap<T>> {
    if held == swap.after || held != swap.before && ask() != Resolve::Take {
        return None;
    }
    Some(Swap::new(held, swap.after.clone()))
}

fn rebased_settings(
    settings: &Swap<LayerSettings>,
    held: &LayerSettings,
    ask: &mut dyn FnMut(&'static str) -> Resolve,
) -> Option<Swap<LayerSettings>> {
    let mut after = held.clone();
    let (as_before, as_after) = (held.differing(&settings.before), held.differing(&settings.after));
    for name in settings.before.differing(&settings.after) {
        let is_done = !as_after.contains(&name);
        let is_expected = !as_before.contains(&name);
        if !is_done && (is_expected || ask(name) == Resolve::Take) {
            after.take(name, &settings.after);
        }
    }
    (after != *held).then(|| Swap::new(held.clone(), after))
}

fn rebased_plane(
    changes: &PlaneChanges,
    held: &Words,
    ask: &mut dyn FnMut(CellSet) -> Resolve,
) -> Result<Option<PlaneChanges>, super::plane_changes::Mismatch> {
    let conflicts = changes.conflicts(held)?;
    let mut kept = CellSet::new();
    if !conflicts.is_empty() {
        kept = match ask(conflicts.clone()) {
            Resolve::Keep => conflicts,
            Resolve::Take => kept,
            Resolve::TakeIn(taken) => &conflicts - &taken,
        };
    }
    let changes = changes.rebased(held, &kept);
    Ok(Some(changes).filter(|changes| !changes.is_empty()))
}
