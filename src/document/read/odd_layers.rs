//! Warnings for layers whose size looks like a mistake: all empty, or one unlike all others.

use crate::document::syntax::{Node, Reader};
use crate::quilt::Quilt;
use crate::units::CellRect;

/// How many times as wide or as high as all others together a layer is odd.
const ODD: u64 = 8;

/// Warns of a map without a cell, and of a layer whose width and height seem to be swapped or that
/// spans far more than all others.
pub(super) fn warn_of_odd_layers(reader: &mut Reader<'_, '_>, layers: Node<'_>, quilt: &Quilt) {
    let extents: Vec<CellRect> =
        quilt.layers().iter().map(|layer| layer.cells().bounds()).collect();
    if extents.iter().all(|extent| extent.is_empty()) && quilt.value_layers().is_empty() {
        let message = match extents.len() {
            0 => "the map is empty: it has no layers",
            _ => "the map is empty: no layer has a cell",
        };
        let hint = "give a layer `cells`, for example rows of characters with a legend";
        reader.warning(layers.start(), message, Some(hint));
        return;
    }
    let items = layers.items().unwrap_or_default();
    for ((layer, &extent), item) in quilt.layers().iter().zip(&extents).zip(items) {
        let others = extents.iter().filter(|other| **other != extent);
        let others = others.fold(CellRect::EMPTY, |all, other| all.union(*other));
        if extent.is_empty() || others.is_empty() {
            continue;
        }
        let (width, height) = (u64::from(extent.width()), u64::from(extent.height()));
        let (across, down) = (u64::from(others.width()), u64::from(others.height()));
        let is_turned = (width, height) == (down, across) && width != height;
        // A few cells in one corner make no other layer odd.
        let is_vast = across.min(down) >= ODD && (width > ODD * across || height > ODD * down);
        if !is_turned && !is_vast {
            continue;
        }
        let message =
            format!("layer `{}` spans {extent}, but the other layers {others}", layer.name());
        let hint = if is_turned {
            "its width and height are perhaps swapped"
        } else {
            "its width and height are perhaps swapped, or a cell lies far away by mistake"
        };
        reader.warning(item.start(), message, Some(hint));
    }
}
