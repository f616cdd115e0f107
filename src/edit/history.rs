//! The list of what can be undone and done again.

use std::collections::VecDeque;

use super::{ApplyError, Changeset, Conflict, Resolve};
use crate::quilt::Quilt;

/// The edits of a map in their order, to undo them and do them again.
///
/// Each changeset that is added is a step; those of one press of the pointer are [joined](History::join) to
/// one. A new step drops those that were undone. Steps are kept up to so many bytes, the oldest go first.
///
/// ```
/// use sturdy_quilt::edit::History;
/// use sturdy_quilt::CellPos;
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// let mut history = History::new();
/// for x in 0..3 {
///     let put = quilt.edit("build", |pen| pen.put("soil", CellPos::new(x, 2), "garden/wall"))?;
///     history.join(put.changes);
/// }
/// history.end_step();
/// let dug = quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(0, 0)))?;
/// history.add(dug.changes);
///
/// assert_eq!(history.next_undo(), Some("dig"));
/// history.undo(&mut quilt)?;
/// let undone = history.undo(&mut quilt)?.expect("there is a step");
/// assert_eq!((undone.label(), undone.cells().count()), ("build", 3));
/// assert!(quilt.same_as(&sturdy_quilt::doc_quilt()));
/// history.redo(&mut quilt)?;
/// assert_eq!(history.next_redo(), Some("dig"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct History {
    steps: VecDeque<Step>,
    /// How many of the steps are done; the others were undone.
    done: usize,
    /// Whether the last step may be joined.
    is_open: bool,
    most_bytes: usize,
    bytes: usize,
    /// How many steps were dropped for want of room.
    dropped: u64,
    /// How many steps were done when the map was saved, the dropped ones counted in.
    saved: Option<u64>,
}

/// A step that was undone, or done again, while others changed the map.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Undone {
    /// The changes that were made to the map, under the label of the step.
    pub changes: Changeset,
    /// What others have changed since, so that it stayed as it was.
    pub conflicts: Vec<Conflict>,
}

#[derive(Clone, Debug)]
struct Step {
    changes: Changeset,
    bytes: usize,
}

impl History {
    /// How many bytes a history keeps unless it is told otherwise: 64 MiB.
    pub const MOST_BYTES: usize = 64 << 20;

    /// Returns a history without steps, of a map that is as it was saved.
    pub fn new() -> History {
        History {
            steps: VecDeque::new(),
            done: 0,
            is_open: false,
            most_bytes: History::MOST_BYTES,
            bytes: 0,
            dropped: 0,
            saved: Some(0),
        }
    }

    /// Returns this history with another limit of bytes. The last step is kept even if it is larger.
    #[must_use]
    pub fn with_most_bytes(mut self, most_bytes: usize) -> History {
        self.most_bytes = most_bytes;
        self.drop_oldest();
        self
    }

    /// Adds a step, drops those that were undone, and returns how many of the oldest had to go for want of
    /// room. Changes of nothing are no step.
    pub fn add(&mut self, changes: Changeset) -> usize {
        if changes.is_empty() {
            return 0;
        }
        self.drop_undone();
        let bytes = changes.bytes();
        self.bytes += bytes;
        self.steps.push_back(Step { changes, bytes });
        self.done += 1;
        self.is_open = false;
        self.drop_oldest()
    }

    /// Adds changes to the last step, if that was begun by this method and has not ended, or else as a new
    /// step; as [`History::add`]. For what one press of the pointer does, frame by frame.
    pub fn join(&mut self, changes: Changeset) -> usize {
        if changes.is_empty() {
            return 0;
        }
        if self.is_open
            && let Some(last) = self.steps.back_mut()
            && last.changes.same_map(&changes)
        {
            let bytes = changes.bytes();
            self.bytes += bytes;
            last.bytes += bytes;
            last.changes.extend(changes);
            // What was saved lies in the midst of the step now.
            if self.saved == Some(self.position()) {
                self.saved = None;
            }
            return self.drop_oldest();
        }
        let dropped = self.add(changes);
        self.is_open = true;
        dropped
    }

    /// Ends the step to which changes are joined.
    pub const fn end_step(&mut self) {
        self.is_open = false;
    }

    /// Undoes the last step that is done, and returns what that did to the map, under the label of the step;
    /// `None` when there is none. Like those of an edit, these changes go to whoever follows the map: clients,
    /// a journal.
    ///
    /// # Errors
    /// A map that does not hold what the step has left, or would lack something without it; see
    /// [`Quilt::apply`]. The map and the history stay as they are.
    pub fn undo(&mut self, quilt: &mut Quilt) -> Result<Option<Changeset>, ApplyError> {
        self.is_open = false;
        let Some(at) = self.done.checked_sub(1) else { return Ok(None) };
        let changes = self.steps[at].changes.inverse();
        quilt.apply(&changes)?;
        self.done = at;
        Ok(Some(changes))
    }

    /// Does the step again that was undone last, and returns its changes; `None` when there is none.
    ///
    /// # Errors
    /// As [`History::undo`].
    pub fn redo(&mut self, quilt: &mut Quilt) -> Result<Option<Changeset>, ApplyError> {
        self.is_open = false;
        let Some(step) = self.steps.get(self.done) else { return Ok(None) };
        quilt.apply(&step.changes)?;
        self.done += 1;
        Ok(Some(step.changes.clone()))
    }

    /// Undoes the last step that is done, as far as nobody has changed since what it left; `None` when there
    /// is none. For a map that several people change, each with a history of their own.
    ///
    /// The step is [rebased](Changeset::rebase): what others have changed stays, and is listed. Doing it again
    /// does what was undone.
    ///
    /// # Errors
    /// A part of the map that is not loaded. The map and the history stay as they are.
    ///
    /// ```
    /// use sturdy_quilt::edit::History;
    /// use sturdy_quilt::{CellPos, CellRect, Marker};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let mut history = History::new();
    /// let row = CellRect::new(CellPos::new(0, 2), 3, 1);
    /// let mine = quilt.edit("a wall", |pen| pen.fill("soil", row, "garden/wall"))?;
    /// history.add(mine.changes);
    /// // Somebody else digs a hole.
    /// quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(1, 2)))?;
    ///
    /// let undone = history.undo_own(&mut quilt)?.expect("there is a step");
    /// assert_eq!(undone.changes.cells().count(), 2);
    /// assert_eq!(undone.conflicts[0].to_string(), "cell 1,2 of layer `soil`");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn undo_own(&mut self, quilt: &mut Quilt) -> Result<Option<Undone>, ApplyError> {
        let Some(at) = self.done.checked_sub(1) else { return Ok(None) };
        let undone = rebased(quilt, &self.steps[at].changes.inverse())?;
        self.replace(at, undone.changes.inverse());
        self.done = at;
        Ok(Some(undone))
    }

    /// Does the step again that was undone last, as [`History::undo_own`] undoes one.
    ///
    /// # Errors
    /// As [`History::undo_own`].
    pub fn redo_own(&mut self, quilt: &mut Quilt) -> Result<Option<Undone>, ApplyError> {
        let Some(step) = self.steps.get(self.done) else { return Ok(None) };
        let undone = rebased(quilt, &step.changes)?;
        self.replace(self.done, undone.changes.clone());
        self.done += 1;
        Ok(Some(undone))
    }

    /// Puts other changes in the place of those of a step.
    fn replace(&mut self, at: usize, changes: Changeset) {
        self.is_open = false;
        let step = &mut self.steps[at];
        self.bytes -= step.bytes;
        step.bytes = changes.bytes();
        self.bytes += step.bytes;
        step.changes = changes;
    }

    /// Returns the label of the step that [`History::undo`] would undo.
    pub fn next_undo(&self) -> Option<&str> {
        self.steps.get(self.done.checked_sub(1)?).map(|step| step.changes.label())
    }

    /// Returns the label of the step that [`History::redo`] would do again.
    pub fn next_redo(&self) -> Option<&str> {
        self.steps.get(self.done).map(|step| step.changes.label())
    }

    /// Returns the steps, the oldest first, each with whether it is done or was undone.
    pub fn steps(&self) -> impl ExactSizeIterator<Item = (&Changeset, bool)> {
        self.steps.iter().enumerate().map(|(at, step)| (&step.changes, at < self.done))
    }

    /// Returns about how many bytes the steps take, counting what the map shares with them.
    pub const fn bytes(&self) -> usize {
        self.bytes
    }

    /// Returns how many of the oldest steps were dropped for want of room.
    pub const fn dropped(&self) -> u64 {
        self.dropped
    }

    /// Notes that the map was saved as it is now.
    pub fn mark_saved(&mut self) {
        self.saved = Some(self.position());
        self.is_open = false;
    }

    /// Returns whether the map is as it was saved, as far as the steps tell.
    pub fn is_saved(&self) -> bool {
        self.saved == Some(self.position())
    }

    fn position(&self) -> u64 {
        self.dropped + self.done as u64
    }

    fn drop_undone(&mut self) {
        let position = self.position();
        // What was saved after them will not come again.
        self.saved = self.saved.filter(|saved| *saved <= position);
        for step in self.steps.drain(self.done..) {
            self.bytes -= step.bytes;
        }
    }

    /// Drops steps until the others have room, but never the last one that is done, and none that was
    /// undone.
    fn drop_oldest(&mut self) -> usize {
        let mut count = 0;
        while self.bytes > self.most_bytes && self.done > 1 {
            let Some(step) = self.steps.pop_front() else { break };
            self.bytes -= step.bytes;
            self.done -= 1;
            self.dropped += 1;
            count += 1;
        }
        self.saved = self.saved.filter(|saved| *saved >= self.dropped);
        count
    }
}

/// Makes changes to a map, as far as it holds what they expect.
fn rebased(quilt: &mut Quilt, changes: &Changeset) -> Result<Undone, ApplyError> {
    let rebased = changes.rebase(quilt, |_| Resolve::Keep)?;
    quilt.apply(&rebased.changes)?;
    Ok(Undone { changes: rebased.changes, conflicts: rebased.conflicts })
}

impl Default for History {
    fn default() -> History {
        History::new()
    }
}
