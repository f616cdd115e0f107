//! The Pen: the way to change a map.

use std::borrow::Cow;
use std::sync::Arc;

use super::change::{Changeset, revert};
use super::error::ApplyError;
use super::notes::{Notes, notes_of};
use super::op::Op;
use super::{Condition, EditError, EditRules};
use crate::cell_set::{CellSet, MAX_CHUNKS};
use crate::lattice::Lattice;
use crate::plane::{AbsentError, Presence, Stamp, Word, Words};
use crate::quilt::{CellKey, LayerKey, Quilt};
use crate::tile::{Cell, Footprint, WholeFault};
use crate::units::{CellPos, CellRect};

/// The result of [`Quilt::edit`]: what the closure returned, and what it changed.
#[derive(Clone, Debug)]
pub struct Edit<T> {
    /// What the closure returned.
    pub result: T,
    /// What was changed: to undo it, to send it to others, or to look at.
    pub changes: Changeset,
    /// What the [rules](EditRules) of the edit say that it costs; 0 without rules.
    pub cost: u64,
}

/// Changes a map within [`Quilt::edit`].
///
/// Each call is seen by the next ones. When one of them fails and the edit ends with its error,
/// everything is as before.
pub struct Pen<'q> {
    pub(super) quilt: &'q mut Quilt,
    /// By the place of the layer.
    notes: Vec<(usize, Notes)>,
    /// By the place of the value layer.
    pub(super) value_notes: Vec<(usize, Notes)>,
    ops: Vec<Op>,
    kept: bool,
    rules: Option<&'q EditRules<'q>>,
}

impl Quilt {
    /// Returns a new map, as a first edit makes it; that one is not to be undone, so it leaves no
    /// Changeset.
    ///
    /// # Errors
    /// The error with which `make` ends.
    ///
    /// ```
    /// use sturdy_quilt::{CellPos, Lattice, LayerSettings, Quilt, TileSet};
    ///
    /// let yard = Quilt::build(Lattice::square(16.0, 16.0)?, |pen| {
    ///     pen.put_tiles(TileSet::flat("yard", ["sand", "wall", "door"])?)?;
    ///     pen.add_layer("soil", LayerSettings::default())?;
    ///     let legend = [('.', "yard/sand"), ('#', "yard/wall"), ('+', "yard/door+90")];
    ///     pen.put_rows("soil", CellPos::new(-3, -2), &legend, &[
    ///         "#######",
    ///         "#.....#",
    ///         "#.....+",
    ///         "#######",
    ///     ])
    /// })?;
    /// assert_eq!(yard.bounds().to_string(), "7 × 4 cells at -3,-2");
    /// assert_eq!(yard.get("soil", CellPos::new(3, 0))?.here(), Some(yard.cell("yard/door+90")?));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn build(
        lattice: Lattice,
        make: impl FnOnce(&mut Pen<'_>) -> Result<(), EditError>,
    ) -> Result<Quilt, EditError> {
        let mut quilt = Quilt::new(lattice);
        quilt.edit("build", make)?;
        Ok(quilt)
    }

    /// Changes the map: all of what `change` does, or nothing when it fails.
    ///
    /// # Errors
    /// The error with which `change` ends; everything it did is undone then.
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos, EditError};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let wall = quilt.tile("garden/wall")?;
    /// let (here, there) = (CellPos::new(-4, -2), CellPos::new(5, 0));
    /// let edit = quilt.edit("build where nothing is", |pen| {
    ///     let built = pen.put_if("soil", here, Cell::EMPTY, wall)?;
    ///     let again = pen.put_if("soil", here, Cell::EMPTY, wall)?;
    ///     Ok((built, again))
    /// })?;
    /// assert_eq!(edit.result, (true, false));
    ///
    /// let failed = quilt.edit("only on grass", |pen| {
    ///     pen.erase("soil", here)?;
    ///     pen.require("soil", there, pen.quilt().tile("garden/grass")?)
    /// });
    /// assert!(matches!(failed, Err(EditError::Required { .. })));
    /// assert_eq!(quilt.get("soil", here)?.here(), Some(Cell::of(wall)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn edit<T>(
        &mut self,
        label: &str,
        change: impl FnOnce(&mut Pen<'_>) -> Result<T, EditError>,
    ) -> Result<Edit<T>, EditError> {
        Pen::of(self, None).edit(label, change)
    }

    /// Changes the map as [`Quilt::edit`] does, under the rules of the game: areas that are locked, bounds,
    /// a cost, a permission.
    ///
    /// # Errors
    /// As [`Quilt::edit`]; and an edit that the rules refuse, of which nothing remains.
    pub fn edit_under<T>(
        &mut self,
        rules: &EditRules<'_>,
        label: &str,
        change: impl FnOnce(&mut Pen<'_>) -> Result<T, EditError>,
    ) -> Result<Edit<T>, EditError> {
        Pen::of(self, Some(rules)).edit(label, change)
    }

    /// Returns what an edit would change, and leaves the map as it is.
    ///
    /// # Errors
    /// As [`Quilt::edit`].
    ///
    /// Costs a snapshot of the map besides the edit itself.
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos, CellSet};
    /// # let quilt = sturdy_quilt::doc_quilt();
    ///
    /// let line = CellSet::line(CellPos::new(0, 0), CellPos::new(3, 2))?;
    /// let asked = quilt.preview("a wall", |pen| pen.lay("soil", &line, "garden/wall"))?;
    /// let first = asked.changes.cells().next().expect("four cells change");
    /// assert_eq!((first.cell, first.before), (CellPos::new(0, 0), quilt.cell("garden/grass")?));
    /// assert_eq!(quilt.get("soil", first.cell)?.here(), Some(first.before));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn preview<T>(
        &self,
        label: &str,
        change: impl FnOnce(&mut Pen<'_>) -> Result<T, EditError>,
    ) -> Result<Edit<T>, EditError> {
        self.clone().edit(label, change)
    }
}

impl<'q> Pen<'q> {
    fn of(quilt: &'q mut Quilt, rules: Option<&'q EditRules<'q>>) -> Pen<'q> {
        Pen {
            quilt,
            notes: Vec::new(),
            value_notes: Vec::new(),
            ops: Vec::new(),
            kept: false,
            rules,
        }
    }

    /// Makes an edit, if nothing stands in the way. One that fails, or panics, is undone when the pen is
    /// dropped.
    fn edit<T>(
        mut self,
        label: &str,
        change: impl FnOnce(&mut Pen<'_>) -> Result<T, EditError>,
    ) -> Result<Edit<T>, EditError> {
        let result = change(&mut self)?;
        let changes = self.changes(label);
        let cost = self.rules.map_or(Ok(0), |rules| rules.check(&changes, self.quilt));
        match cost {
            Ok(cost) => {
                self.kept = true;
                Ok(Edit { result, changes, cost })
            }
            Err(refused) => {
                self.ops = changes.ops;
                Err(refused)
            }
        }
    }

    /// Whether the edit has rules.
    pub(super) const fn is_ruled(&self) -> bool {
        self.rules.is_some()
    }

    /// Those of some cells that the rules of the edit let it change.
    pub(super) fn allowed<'c>(&self, cells: &'c CellSet) -> Cow<'c, CellSet> {
        self.rules.map_or(Cow::Borrowed(cells), |rules| rules.allowed(cells))
    }
}

// Look.
impl Pen<'_> {
    /// Returns the map as it is now, with what this edit has changed so far.
    pub fn quilt(&self) -> &Quilt {
        self.quilt
    }

    /// Returns what lies in a cell of a layer now.
    ///
    /// # Errors
    /// A layer that is not there, or a cell that is not loaded.
    pub fn get(&self, layer: impl LayerKey, cell: CellPos) -> Result<Cell, EditError> {
        let layer = self.quilt.layer(layer)?;
        let held = layer.cells().get(cell).or_absent(cell.chunk());
        held.map_err(|source| EditError::Absent { layer: layer.name().to_owned(), source })
    }

    fn holds(&self, at: usize, cell: CellPos, wanted: &Condition) -> Result<bool, EditError> {
        let held = self.get(self.quilt.layers()[at].id(), cell)?;
        wanted.check(self.quilt)?;
        let Condition::Ground(class) = wanted else {
            return Ok(wanted.of_cell(held).unwrap_or(false));
        };
        let found = self.quilt.ground_at(cell);
        Ok(matches!(found, Presence::Here(Some(ground)) if ground.class == *class))
    }
}

// Cells.
impl Pen<'_> {
    /// The most chunks that one fill may touch: those of 65,536 × 65,536 cells.
    pub const MAX_CHUNKS: u64 = MAX_CHUNKS;

    /// Puts a tile, by its handle or its name, or [`Cell::EMPTY`] into a cell of a layer, and returns
    /// what lay there. A name is looked up each time.
    ///
    /// # Errors
    /// A layer or tile that is not there, or a cell that is not loaded.
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let wall = quilt.tile("garden/wall")?;
    /// quilt.edit("a gate", |pen| {
    ///     pen.put("soil", CellPos::new(0, 4), wall)?;
    ///     pen.put("soil", CellPos::new(1, 4), "garden/wall+mirror")?;
    ///     pen.put("soil", CellPos::new(2, 4), Cell::EMPTY)
    /// })?;
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put(
        &mut self,
        layer: impl LayerKey,
        cell: CellPos,
        value: impl CellKey,
    ) -> Result<Cell, EditError> {
        let at = self.quilt.layer_at(layer)?;
        let value = self.meant(&value)?;
        self.put_at(at, cell, value)
    }

    /// Empties a cell of a layer, and returns what lay there.
    ///
    /// # Errors
    /// A layer that is not there, or a cell that is not loaded.
    pub fn erase(&mut self, layer: impl LayerKey, cell: CellPos) -> Result<Cell, EditError> {
        self.put(layer, cell, Cell::EMPTY)
    }

    /// Puts the same into every cell of a rectangle; [`Cell::EMPTY`] empties it.
    ///
    /// # Errors
    /// A layer or tile that is not there, a cell that is not loaded, or a rectangle that touches
    /// more than [`Pen::MAX_CHUNKS`] chunks.
    ///
    /// Whole chunks cost no look at their cells, neither here nor when it is undone.
    ///
    /// ```
    /// use sturdy_quilt::{Cell, CellPos, CellRect};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let wall = quilt.tile("garden/wall")?;
    /// let yard = CellRect::between(CellPos::new(-2, -2), CellPos::new(5, 4));
    /// let edit = quilt.edit("wall in", |pen| {
    ///     pen.fill("soil", yard, wall)?;
    ///     pen.fill("soil", CellRect::new(CellPos::new(-1, -1), 6, 5), Cell::EMPTY)
    /// })?;
    /// assert_eq!(quilt.bounds(), yard);
    /// assert_eq!(quilt.layer("soil")?.cells().occupied().count(), 8 * 7 - 6 * 5);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn fill(
        &mut self,
        layer: impl LayerKey,
        rect: CellRect,
        value: impl CellKey,
    ) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let value = self.meant(&value)?;
        let (notes, (name, cells)) = self.open(at);
        notes.fill(name, cells, rect, value.to_bits())
    }

    /// Puts a tile into a cell if the condition holds there, and says whether it did.
    ///
    /// # Errors
    /// As [`Pen::put`]; a condition that does not hold is no error.
    pub fn put_if(
        &mut self,
        layer: impl LayerKey,
        cell: CellPos,
        condition: impl Into<Condition>,
        value: impl CellKey,
    ) -> Result<bool, EditError> {
        let at = self.quilt.layer_at(layer)?;
        let value = self.meant(&value)?;
        let holds = self.holds(at, cell, &condition.into())?;
        if holds {
            self.put_at(at, cell, value)?;
        }
        Ok(holds)
    }

    /// Puts a tile that stands on several cells, with its first cell at `first`, in place of what lies in
    /// all of its cells; a tile that stands in a single one as [`Pen::put`] does. Turned by quarters,
    /// it stands on as many columns as it has rows.
    ///
    /// # Errors
    /// A tile that is mirrored; cells beyond the limits of cells; and as [`Pen::put`].
    ///
    /// ```
    /// use sturdy_quilt::tile::Footprint;
    /// use sturdy_quilt::{CellPos, TileSet, TileSpec};
    /// # let mut quilt = sturdy_quilt::doc_quilt();
    ///
    /// let house = TileSpec::named("house")
    ///     .with_footprint(Footprint::new(2, 3).expect("a size from 1 to 16"));
    /// quilt.edit("a house", |pen| {
    ///     pen.put_tiles(TileSet::builder("town").tile(house).build()?)?;
    ///     pen.put_whole("soil", CellPos::new(5, 5), "town/house")
    /// })?;
    /// let part = quilt.get("soil", CellPos::new(6, 7))?.here();
    /// assert_eq!(part, Some(quilt.cell("town/house 1,2")?));
    /// quilt.edit("no house", |pen| pen.erase_whole("soil", CellPos::new(6, 7)))?;
    /// assert!(quilt.get("soil", CellPos::new(5, 5))?.here().is_some_and(|cell| cell.is_empty()));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn put_whole(
        &mut self,
        layer: impl LayerKey,
        first: CellPos,
        value: impl CellKey,
    ) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        let value = value.cell_in(self.quilt)?;
        self.quilt.check_cells(&[value])?;
        let refused = |fault: WholeFault| EditError::Refused(fault.to_string());
        let parts = self.quilt.tiles().parts_of(value).map_err(refused)?;
        if parts.is_empty() {
            return self.put_at(at, first, value).map(drop);
        }
        for (offset, part) in parts {
            let Some(cell) = first.checked_add(offset) else {
                let (width, height) = self
                    .footprint_of(value)
                    .map_or((1, 1), |own| (u32::from(own.columns()), u32::from(own.rows())));
                return Err(EditError::RectBeyondCells { corner: first, width, height });
            };
            self.put_at(at, cell, part)?;
        }
        Ok(())
    }

    /// Empties the cells of the tile that stands on several cells and covers this one, as far as they
    /// show its parts, or else this cell alone. Returns how many cells were emptied.
    ///
    /// # Errors
    /// As [`Pen::erase`].
    pub fn erase_whole(&mut self, layer: impl LayerKey, cell: CellPos) -> Result<u32, EditError> {
        let at = self.quilt.layer_at(layer)?;
        let held = |pen: &Pen<'_>, cell| pen.quilt.layers()[at].cells().get(cell).here();
        let own = held(self, cell).unwrap_or_default();
        let whole = self.quilt.tiles().whole_of(own);
        let whole = whole.and_then(|(whole, way)| Some((whole, cell.checked_add(way)?)));
        let Some((whole, first)) = whole else {
            return self.put_at(at, cell, Cell::EMPTY).map(|before| u32::from(!before.is_empty()));
        };
        let mut count = 0;
        for (offset, part) in self.quilt.tiles().parts_of(whole).unwrap_or_default() {
            let cell = first.checked_add(offset).filter(|cell| held(self, *cell) == Some(part));
            if let Some(cell) = cell {
                self.put_at(at, cell, Cell::EMPTY)?;
                count += 1;
            }
        }
        Ok(count)
    }

    /// Makes the whole edit fail unless the condition holds.
    ///
    /// # Errors
    /// [`EditError::Required`] where it does not hold; a layer that is not there, or a cell that
    /// is not loaded.
    pub fn require(
        &self,
        layer: impl LayerKey,
        cell: CellPos,
        condition: impl Into<Condition>,
    ) -> Result<(), EditError> {
        let at = self.quilt.layer_at(layer)?;
        if self.holds(at, cell, &condition.into())? {
            return Ok(());
        }
        let layer = &self.quilt.layers()[at];
        let held = layer.cells().get(cell).here().unwrap_or_default();
        let found = self.quilt.tiles().notation(held).to_string();
        Err(EditError::Required { layer: layer.name().to_owned(), cell, found })
    }

    pub(super) fn put_at(
        &mut self,
        at: usize,
        cell: CellPos,
        value: Cell,
    ) -> Result<Cell, EditError> {
        let (notes, (name, cells)) = self.open(at);
        notes.put(name, cells, cell, value.to_bits()).map(Cell::of_word)
    }

    /// Puts cells of this map into a rectangle within the limits of cells, row by row.
    pub(super) fn put_rect_at(
        &mut self,
        at: usize,
        rect: CellRect,
        values: &[Cell],
    ) -> Result<(), EditError> {
        let (notes, (name, cells)) = self.open(at);
        notes.put_rect(name, cells, rect, Cell::words(values))
    }

    /// The error of a cell of a layer that is not here.
    pub(super) fn absent(&self, at: usize, source: AbsentError) -> EditError {
        EditError::Absent { layer: self.quilt.layers()[at].name().to_owned(), source }
    }

    /// The cell that is meant, if the map has its tile.
    pub(super) fn meant(&mut self, key: &impl CellKey) -> Result<Cell, EditError> {
        let cell = key.cell_in(self.quilt)?;
        self.known(cell)
    }

    /// The cell, if the map has its tile.
    pub(super) fn known(&mut self, cell: Cell) -> Result<Cell, EditError> {
        self.known_all(&[cell])?;
        Ok(cell)
    }

    /// Whether the map has the tiles of all cells, and each stands in a single one.
    pub(super) fn known_all(&mut self, cells: &[Cell]) -> Result<(), EditError> {
        self.quilt.check_cells(cells)?;
        if !self.quilt.tiles().has_footprints() {
            return Ok(());
        }
        let mut runs = cells.chunk_by(|a, b| a == b);
        runs.try_for_each(|run| match self.footprint_of(run[0]) {
            None => Ok(()),
            Some(footprint) => {
                let (columns, rows) = (footprint.columns(), footprint.rows());
                let tile = self.quilt.tiles().notation(run[0]).to_string();
                Err(EditError::Footprint { tile, columns, rows })
            }
        })
    }

    fn footprint_of(&self, cell: Cell) -> Option<Footprint> {
        let tiles = self.quilt.tiles();
        tiles.footprint(tiles.tile_of(cell)?)
    }

    /// A layer to write to, with the notes of what it held.
    pub(super) fn open(&mut self, at: usize) -> (&mut Notes, (&Arc<str>, &mut Words)) {
        let (name, cells) = self.quilt.cells_mut(at);
        (notes_of(&mut self.notes, at), (name, cells.words_mut()))
    }
}

// Record.
impl Pen<'_> {
    /// Does an operation and keeps it, behind what was done to cells before.
    pub(super) fn record(&mut self, op: Op) -> Result<(), EditError> {
        self.settle();
        op.apply(self.quilt, Stamp::next()).map_err(|error| match error {
            ApplyError::TableFull(full) => full.into(),
            other => EditError::Refused(other.to_string()),
        })?;
        self.ops.push(op);
        Ok(())
    }

    /// Turns what was noted of cells into operations.
    fn settle(&mut self) {
        for (at, notes) in self.notes.drain(..) {
            let layer = &self.quilt.layers()[at];
            let changes = notes.into_changes(layer.cells().words());
            if !changes.is_empty() {
                self.ops.push(Op::Cells { layer: Arc::clone(layer.shared_name()), changes });
            }
        }
        for (at, notes) in self.value_notes.drain(..) {
            let layer = &self.quilt.value_layers()[at];
            let changes = notes.into_changes(layer.words());
            if !changes.is_empty() {
                let (layer, kind) = (Arc::clone(layer.shared_name()), layer.kind());
                self.ops.push(Op::Values { layer, kind, changes });
            }
        }
    }

    /// All that was changed; the pen forgets it.
    fn changes(&mut self, label: &str) -> Changeset {
        self.settle();
        Changeset::of(label, std::mem::take(&mut self.ops), self.quilt)
    }
}

impl std::fmt::Debug for Pen<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Pen({:?})", self.quilt)
    }
}

impl Drop for Pen<'_> {
    fn drop(&mut self) {
        if !self.kept {
            self.settle();
            revert(self.quilt, &self.ops, Stamp::next());
        }
    }
}
