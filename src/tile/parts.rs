//! The parts of tiles that stand on several cells, as tiles of their set.

use super::builder::{Planned, by_key};
use super::footprint::{Part, split_facing};
use super::{
    Footprint, SheetGrid, TileFault, TileKey, TileSetBuilder, TileSetError, TileSource, TileSpec,
    Turn,
};
use crate::picture::Color;
use crate::units::PixelSize;

impl TileSetBuilder {
    /// Adds the parts of tiles that stand on several cells.
    pub(super) fn add_parts(
        &self,
        grid: Option<&SheetGrid>,
        plan: &mut Vec<Planned>,
        faults: &mut Vec<TileSetError>,
    ) {
        let has_footprint = |planned: &Planned| planned.spec.footprint.is_some();
        if !plan.iter().any(has_footprint) {
            return;
        }
        let keys = by_key(plan);
        let footprint_of = |tile: &str| {
            let at = *keys.get(&split_facing(tile).0.parse().ok()?)? as usize;
            plan[at].spec.footprint
        };
        // Lists may name a tile by its place; its parts are named by its name.
        let key_of = |tile: &str| {
            let at = tile.parse().ok().and_then(|key| keys.get(&key));
            at.map_or_else(|| tile.to_owned(), |at| plan[*at as usize].key.to_string())
        };
        let mut parts = Vec::new();
        for (planned, whole) in plan.iter().zip(0..) {
            let Some(footprint) = planned.spec.footprint else { continue };
            let mut faulty = |fault| faults.push(self.named_wrongly(planned, fault));
            let TileKey::Name(name) = &planned.key else {
                faulty(TileFault::UnnamedFootprint);
                continue;
            };
            let width = self.source_size(planned, grid).map_or(0, |size| size.width);
            let halves = footprint.halves();
            if !width.is_multiple_of(halves) {
                faulty(TileFault::FootprintWidth { width, halves });
            }
            for (tile, wanted) in shown_by(&planned.spec, footprint) {
                // One that is not there is told elsewhere.
                let is_there = tile.parse().is_ok_and(|key| keys.contains_key(&key));
                if is_there && footprint_of(tile) != Some(wanted) {
                    let (columns, rows) = (wanted.columns(), wanted.rows());
                    faulty(TileFault::OtherFootprint { tile: tile.to_owned(), columns, rows });
                }
            }
            for at in footprint.cells() {
                let part_name = Footprint::part_name(name, at);
                let key = TileKey::Name(part_name.as_str().into());
                if keys.contains_key(&key) {
                    faulty(TileFault::RepeatedName(part_name.clone()));
                }
                let spec = part_spec(&planned.spec, (footprint, at), name, &key_of);
                let spec = TileSpec { name: Some(part_name), ..spec };
                let (index, part) = (planned.index, Some(Part { whole, at }));
                parts.push(Planned { key, spec, place: None, index, part });
            }
        }
        plan.append(&mut parts);
    }

    /// The size of the picture of a tile; `None` where it has none.
    fn source_size(&self, planned: &Planned, grid: Option<&SheetGrid>) -> Option<PixelSize> {
        match &planned.spec.source {
            TileSource::Place(column, row) => Some(grid?.tile(*column, *row)?.size),
            TileSource::Pixels(pixels) => Some(pixels.size),
            TileSource::Picture(path) => {
                let held = self.pictures.iter().find(|(held, _)| held == path);
                held.map(|(_, page)| page.size())
            }
            TileSource::Flat => None,
        }
    }
}

/// The tiles that one with a footprint shows, and the footprint that each must have.
fn shown_by(spec: &TileSpec, footprint: Footprint) -> impl Iterator<Item = (&str, Footprint)> {
    let frames = spec.animation.iter().flat_map(|animation| animation.frames());
    let frames = frames.map(move |(tile, _)| (tile, footprint));
    let sides = spec.facings.iter().zip(0..).map(move |(tile, quarters)| {
        let (tile, turn) = split_facing(tile);
        // Mirrored, columns and rows change places.
        (tile, footprint.turned(quarters + u8::from(turn.is_mirrored())))
    });
    frames.chain(sides)
}

/// What a cell of a footprint shows, as a tile of its own.
fn part_spec(
    spec: &TileSpec,
    (footprint, at): (Footprint, (u8, u8)),
    name: &str,
    key_of: &impl Fn(&str) -> String,
) -> TileSpec {
    let part_name = |tile: &str, at| Footprint::part_name(&key_of(tile), at);
    let side = |quarters: u8| {
        let turned = footprint.turned_cell(at, quarters);
        let is_across = footprint.columns() != footprint.rows() && quarters % 2 == 1;
        let stated = match spec.facings.len() {
            0 if is_across => (name, Turn::MIRROR),
            0 => (name, Turn::NONE),
            count => split_facing(&spec.facings[usize::from(quarters) % count]),
        };
        match stated {
            (tile, Turn::MIRROR) => {
                format!("{}+mirror", part_name(tile, (turned.1, turned.0)))
            }
            (tile, _) => part_name(tile, turned),
        }
    };
    let animation = spec
        .animation
        .as_deref()
        .map(|animation| Box::new(animation.with_tiles(|tile| part_name(tile, at))));
    TileSpec {
        facings: (0..4).map(side).collect(),
        animation,
        footprint: None,
        variants: Vec::new(),
        color: Some(spec.color.unwrap_or_else(|| Color::of_name(name))),
        ..spec.clone()
    }
}
