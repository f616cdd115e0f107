//! What a game allows an edit.

use std::borrow::Cow;
use std::sync::Arc;

use super::{Changeset, EditError};
use crate::cell_set::CellSet;
use crate::quilt::Quilt;
use crate::units::CellRect;

/// The rules under which [`Quilt::edit_under`] changes a map: bounds, areas that are locked, what an edit
/// costs, and whether the game permits it.
///
/// Tools that take a [`CellSet`] leave cells alone that are locked or out of bounds. All else that would
/// change one is refused, and the edit with it.
///
/// ```
/// use sturdy_quilt::edit::EditRules;
/// use sturdy_quilt::{CellPos, CellRect, CellSet, EditError};
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let bed = CellSet::rect(CellRect::new(CellPos::new(0, 0), 2, 2))?;
/// let rules = EditRules::new()
///     .with_editor("ida")
///     .with_lock(bed, "otto")
///     .with_cost(|changes, _| 3 * changes.area().len())
///     .with_budget(10);
///
/// let row = CellSet::line(CellPos::new(0, 0), CellPos::new(3, 0))?;
/// let edit = quilt.edit_under(&rules, "a wall", |pen| pen.lay("soil", &row, "garden/wall"))?;
/// // Two cells are locked, and one is a wall already.
/// assert_eq!((edit.result.len(), edit.cost), (1, 3));
///
/// let refused = quilt.edit_under(&rules, "dig", |pen| pen.erase("soil", CellPos::new(1, 1)));
/// assert_eq!(refused.unwrap_err().to_string(), "cell 1,1 is locked by `otto`");
/// # Ok::<(), EditError>(())
/// ```
#[derive(Clone, Default)]
pub struct EditRules<'a> {
    editor: Option<Arc<str>>,
    bounds: Option<CellRect>,
    locks: Vec<(CellSet, Arc<str>)>,
    cost: Option<Arc<Cost<'a>>>,
    budget: Option<u64>,
    permission: Option<Arc<Permission<'a>>>,
}

type Cost<'a> = dyn Fn(&Changeset, &Quilt) -> u64 + Send + Sync + 'a;
type Permission<'a> = dyn Fn(&Changeset, &Quilt) -> Result<(), String> + Send + Sync + 'a;

impl<'a> EditRules<'a> {
    /// Returns rules that allow everything.
    pub fn new() -> EditRules<'a> {
        EditRules::default()
    }

    setters! {
        /// Returns these rules for an edit by somebody: what they have locked themselves is open to them.
        with_editor(editor: some into Arc<str>);
        /// Returns these rules with bounds for the cells and values that an edit may change.
        with_bounds(bounds: some CellRect);
        /// Returns these rules with the most that an edit may cost.
        with_budget(budget: some u64);
    }

    /// Returns these rules with an area whose cells and values nobody but its owner may change.
    #[must_use]
    pub fn with_lock(mut self, area: CellSet, owner: impl Into<Arc<str>>) -> EditRules<'a> {
        self.locks.push((area, owner.into()));
        self
    }

    /// Returns these rules with what an edit costs. The map that is passed is the one after the edit.
    #[must_use]
    pub fn with_cost(
        mut self,
        cost: impl Fn(&Changeset, &Quilt) -> u64 + Send + Sync + 'a,
    ) -> EditRules<'a> {
        self.cost = Some(Arc::new(cost));
        self
    }

    /// Returns these rules with a permission: an edit for which it returns an error is refused in its
    /// words. The map that is passed is the one after the edit.
    #[must_use]
    pub fn with_permission(
        mut self,
        permission: impl Fn(&Changeset, &Quilt) -> Result<(), String> + Send + Sync + 'a,
    ) -> EditRules<'a> {
        self.permission = Some(Arc::new(permission));
        self
    }

    /// The areas that others have locked.
    fn foreign_locks(&self) -> impl Iterator<Item = &(CellSet, Arc<str>)> {
        self.locks.iter().filter(|(_, owner)| Some(owner) != self.editor.as_ref())
    }

    /// Those of some cells that may be changed.
    pub(super) fn allowed<'c>(&self, cells: &'c CellSet) -> Cow<'c, CellSet> {
        let mut allowed = Cow::Borrowed(cells);
        if let Some(bounds) = self.bounds.filter(|bounds| !bounds.contains_rect(cells.bounds())) {
            allowed = Cow::Owned(allowed.within(bounds));
        }
        for (area, _) in self.foreign_locks() {
            allowed = Cow::Owned(&*allowed - area);
        }
        allowed
    }

    /// Checks an edit that was made, and returns what it costs.
    pub(super) fn check(&self, changes: &Changeset, quilt: &Quilt) -> Result<u64, EditError> {
        if self.bounds.is_some() || self.foreign_locks().next().is_some() {
            let area = changes.area();
            if let Some(bounds) = self.bounds
                && let Some(cell) = (&area - &area.within(bounds)).iter().next()
            {
                return Err(EditError::BeyondBounds { cell, bounds });
            }
            for (locked, owner) in self.foreign_locks() {
                if let Some(cell) = (&area & locked).iter().next() {
                    return Err(EditError::Locked { cell, owner: owner.to_string() });
                }
            }
        }
        let cost = self.cost.as_ref().map_or(0, |cost| cost(changes, quilt));
        if let Some(budget) = self.budget.filter(|budget| cost > *budget) {
            return Err(EditError::TooCostly { cost, budget });
        }
        if let Some(permission) = &self.permission {
            permission(changes, quilt).map_err(EditError::Refused)?;
        }
        Ok(cost)
    }
}

impl std::fmt::Debug for EditRules<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("EditRules")
            .field("editor", &self.editor)
            .field("bounds", &self.bounds)
            .field("locks", &self.locks)
            .field("budget", &self.budget)
            .finish_non_exhaustive()
    }
}
