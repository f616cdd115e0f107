//! The changes of a script, made with the tools of the pen.

use sturdy_quilt::edit::{Condition, Fill, Flood, Motif, SoftBrush};
use sturdy_quilt::plane::ValueKind;
use sturdy_quilt::{CellSet, EditError, Marker, MarkerPlace, Pen, Quilt};

use crate::script::{Change, Join, Mark, Shape};

/// Does something with the type of the values of a kind.
macro_rules! by_kind {
    ($kind:expr, $value:ident => $done:expr) => {
        match $kind {
            ValueKind::U32 => {
                type $value = u32;
                $done
            }
            ValueKind::I32 => {
                type $value = i32;
                $done
            }
            ValueKind::F32 => {
                type $value = f32;
                $done
            }
        }
    };
}

/// What a script has selected and copied so far.
pub(super) struct Tools {
    seed: u64,
    /// None: all cells of the map.
    selected: Option<CellSet>,
    copied: Option<Motif>,
}

impl Tools {
    pub(super) const fn new(seed: u64) -> Tools {
        Tools { seed, selected: None, copied: None }
    }

    /// Makes one change.
    pub(super) fn make(&mut self, pen: &mut Pen<'_>, change: &Change) -> Result<(), EditError> {
        let seed = self.seed;
        match change {
            Change::Put { layer, cell, tile } => {
                pen.fill_varied(layer, sturdy_quilt::CellRect::of_cell(*cell), &**tile, seed)
            }
            Change::Erase { layer, cell } => pen.erase(layer, *cell).map(drop),
            Change::Fill { layer, rect, tile } => pen.fill_varied(layer, *rect, &**tile, seed),
            Change::Shape { layer, shape, tile } => {
                let cells = cells_of(pen.quilt(), shape)?;
                lay(pen, &[layer], &cells, &[(tile.clone(), 1)], seed)
            }
            Change::Vary { layer, rect } => pen.vary(layer, *rect, seed),
            Change::Mark { name, place } => mark(pen, name, place),
            Change::Unmark { name } => pen.remove_marker(name).map(drop),
            Change::Select { join, shape } => {
                let (held, cells) = (self.cells(pen.quilt())?, cells_of(pen.quilt(), shape)?);
                self.selected = Some(match join {
                    Join::Only => cells,
                    Join::Add => &held | &cells,
                    Join::Less => &held - &cells,
                    Join::Within => &held & &cells,
                });
                Ok(())
            }
            Change::Grow(steps) => self.select(pen, |held| held.grow(*steps, Default::default())),
            Change::Shrink(steps) => {
                self.select(pen, |held| held.shrink(*steps, Default::default()))
            }
            Change::Outline => self.select(pen, |held| held.outline(Default::default())),
            Change::Lay { layers, tiles } => {
                let cells = self.cells(pen.quilt())?;
                lay(pen, &names(layers), &cells, tiles, seed)
            }
            Change::Replace { layers, old, tiles } => {
                let cells = self.cells(pen.quilt())?;
                for layer in layers {
                    let own = pen.quilt().cells_where(layer, &cells, shows(pen.quilt(), old)?)?;
                    lay(pen, &[layer], &own, tiles, seed)?;
                }
                Ok(())
            }
            Change::Shift { layers, by } => {
                let cells = self.cells(pen.quilt())?;
                pen.shift(&names(layers)[..], &cells, *by)?;
                self.selected = Some(cells.moved(*by));
                Ok(())
            }
            Change::Turn { layers, turn } => {
                let cells = self.cells(pen.quilt())?;
                pen.turn(&names(layers)[..], &cells, *turn).map(drop)
            }
            Change::Copy { layers } => {
                let cells = self.cells(pen.quilt())?;
                self.copied = Some(Motif::of(pen.quilt(), &names(layers)[..], &cells)?);
                Ok(())
            }
            Change::Paste { corner, turn } => {
                let nothing = || EditError::Refused("nothing was copied before".to_owned());
                let motif = self.copied.clone().ok_or_else(nothing)?;
                pen.paste(&motif.turned(*turn), *corner).map(drop)
            }
            Change::Set { layer, number } => {
                let (cells, kind) = (self.cells(pen.quilt())?, kind_for(pen, layer, &[*number])?);
                by_kind!(kind, V => pen.set_values(layer, &cells, *number as V)).map(drop)
            }
            Change::Increase { layer, number } => {
                let (cells, kind) = (self.cells(pen.quilt())?, kind_for(pen, layer, &[])?);
                by_kind!(kind, V => pen.add_to_values::<V>(layer, &cells, *number)).map(drop)
            }
            Change::Clamp { layer, least, most } => {
                let cells = self.cells(pen.quilt())?;
                let kind = kind_for(pen, layer, &[*least, *most])?;
                by_kind!(kind, V => pen.clamp_values(layer, &cells, *least as V, *most as V))
                    .map(drop)
            }
            Change::Brush { layer, center, radius_world, number } => {
                let brush = SoftBrush::new(pen.quilt().lattice().center(*center), *radius_world);
                let kind = kind_for(pen, layer, &[])?;
                by_kind!(kind, V => pen.brush_values::<V>(layer, &brush, *number)).map(drop)
            }
        }
    }

    /// What is selected.
    fn cells(&self, quilt: &Quilt) -> Result<CellSet, EditError> {
        match &self.selected {
            Some(cells) => Ok(cells.clone()),
            None => Ok(CellSet::rect(quilt.bounds())?),
        }
    }

    fn select(
        &mut self,
        pen: &Pen<'_>,
        change: impl FnOnce(&CellSet) -> CellSet,
    ) -> Result<(), EditError> {
        self.selected = Some(change(&self.cells(pen.quilt())?));
        Ok(())
    }
}

fn names(layers: &[String]) -> Vec<&str> {
    layers.iter().map(String::as_str).collect()
}

/// The cells of a shape.
fn cells_of(quilt: &Quilt, shape: &Shape) -> Result<CellSet, EditError> {
    Ok(match shape {
        Shape::All => CellSet::rect(quilt.bounds())?,
        Shape::Rect(rect) => CellSet::rect(*rect)?,
        Shape::Line(cells) => CellSet::stroke(cells.iter().copied())?,
        Shape::Ellipse(rect) => CellSet::ellipse(*rect)?,
        Shape::Polygon(cells) => {
            let corners: Vec<_> = cells.iter().map(|cell| quilt.lattice().center(*cell)).collect();
            // The corners are those of cells, which belong to it.
            let edge = CellSet::stroke(cells.iter().chain(cells.first()).copied())?;
            &CellSet::polygon(quilt.lattice(), &corners)? | &edge
        }
        Shape::Flood { layer, cell, alike, neighbors } => {
            let flood = Flood::new(*alike).with_neighbors(*neighbors).with_bounds(quilt.bounds());
            quilt.flood(layer, *cell, flood)?
        }
        Shape::Like { layer, tile } => {
            let all = CellSet::rect(quilt.bounds())?;
            quilt.cells_where(layer, &all, shows(quilt, tile)?)?
        }
    })
}

/// Where a layer shows a tile, however it is turned, or nothing.
fn shows(quilt: &Quilt, tile: &str) -> Result<Condition, EditError> {
    match tile {
        "empty" => Ok(Condition::Empty),
        _ => Ok(quilt.tile(tile)?.into()),
    }
}

/// Lays tiles into cells: of one tile the variants that places and seed choose, of several one by weight.
fn lay(
    pen: &mut Pen<'_>,
    layers: &[&str],
    cells: &CellSet,
    tiles: &[(String, u32)],
    seed: u64,
) -> Result<(), EditError> {
    if let [(tile, _)] = tiles {
        for layer in layers {
            for run in cells.runs() {
                pen.fill_varied(*layer, run, &**tile, seed)?;
            }
        }
        return Ok(());
    }
    let choices = tiles.iter().map(|(tile, weight)| (&**tile, *weight));
    pen.lay(layers, cells, Fill::weighted(choices, seed)).map(drop)
}

/// The kind of a value layer, which must be able to hold some numbers.
fn kind_for(pen: &Pen<'_>, layer: &str, numbers: &[f64]) -> Result<ValueKind, EditError> {
    let kind = pen.quilt().value_layer(layer)?.kind();
    let range = match kind {
        ValueKind::U32 => 0.0..=f64::from(u32::MAX),
        ValueKind::I32 => f64::from(i32::MIN)..=f64::from(i32::MAX),
        ValueKind::F32 => f64::from(f32::MIN)..=f64::from(f32::MAX),
    };
    let fits = |number: &&f64| {
        range.contains(*number) && (kind == ValueKind::F32 || number.fract() == 0.0)
    };
    match numbers.iter().find(|number| !fits(number)) {
        None => Ok(kind),
        Some(other) => {
            let message = format!("value layer `{layer}` holds {} and not {other}", kind.name());
            Err(EditError::Refused(message))
        }
    }
}

fn mark(pen: &mut Pen<'_>, name: &str, place: &Mark) -> Result<(), EditError> {
    let place = match place {
        Mark::Cell(cell) => MarkerPlace::Cell(*cell),
        Mark::Area(area) => MarkerPlace::Area(*area),
    };
    let held = pen.quilt().markers().find(|marker| marker.name() == name);
    let mut marker = Marker::new(name, place);
    if let Some(held) = held {
        marker = marker.with_data(held.data().clone());
        if let Some(kind) = held.kind() {
            marker = marker.with_kind(kind);
        }
        if let Some(class) = held.marker().ground() {
            marker = marker.with_ground(class);
        }
    }
    pen.put_marker(marker)
}
