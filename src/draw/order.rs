use std::cmp::Ordering;

use crate::units::CellPos;
use crate::view::{Facing, Projection};

/// The place of one thing in the order of drawing. What compares less is drawn first.
///
/// The order is total: priority, then raise, depth, elevation, nearness, layer, backdrop before cells
/// before sprites, and last the place, from far to near. Two lists of the same scene are therefore
/// identical. At a slant, raise counts only after depth and elevation.
///
/// ```
/// use sturdy_quilt::draw::DrawKey;
/// use sturdy_quilt::CellPos;
///
/// let soil = DrawKey::of_cell(0, false, None, 0, CellPos::new(9, 9));
/// let crown = DrawKey::of_cell(0, true, None, 0, CellPos::new(0, 0));
/// let roof = DrawKey::of_cell(1, false, None, 2, CellPos::new(0, 0));
/// assert!(soil < crown && crown < roof);
/// ```
#[derive(Clone, Copy, Debug)]
pub struct DrawKey {
    /// The priority of the layer.
    pub priority: i32,
    /// Whether it is lifted in front of what is not, within its priority.
    pub raised: bool,
    /// How near it is; −∞ for what is not sorted. From above, the y of its foot on the pane, as if
    /// that stood on the ground. At a slant the rank of its cell, a whole number: the sum of its
    /// column and row, as the map is turned.
    pub depth: f64,
    /// How high it stands above the ground, in world units.
    pub elevation: f64,
    /// At a slant, of what is sorted and stands in its cell, how near its foot is: as the depth, and
    /// exact. −∞ for faces that fill their cell, and for all that is seen from above.
    pub nearness: f64,
    /// The place of the layer in the order of the map; `u32::MAX` for sprites, which so come
    /// behind all cells of the same depth.
    pub layer: u32,
    /// What it is: of one layer, the backdrop comes before the cells.
    pub kind: DrawKind,
    /// The cell. From above, cells are drawn row by row as the map is turned; at a slant rank by rank.
    /// Of a layer that repeats itself, where the copy lies, which is beyond the layer's own cells. For
    /// a sprite the one by which it is sorted; for a backdrop the number of the copy.
    pub place: CellPos,
    /// The key of the sprite; `None` for a cell.
    pub sprite: Option<u64>,
    /// How the map is turned, in which places are ordered. The same for all keys of a list.
    pub facing: Facing,
    /// Whether the map is seen at a slant. The same for all keys of a list.
    pub is_slanted: bool,
}

/// The kind of thing of which a [`DrawKey`] is the key.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum DrawKind {
    /// The backdrop of a layer.
    Backdrop,
    /// A cell of a layer.
    #[default]
    Cell,
    /// A sprite of the game.
    Sprite,
}

impl DrawKey {
    /// Returns the key of a cell on the ground that is seen from above; `foot` is the y of its foot
    /// where its layer sorts by row.
    #[inline]
    pub fn of_cell(
        priority: i32,
        raised: bool,
        foot: Option<f64>,
        layer: u32,
        place: CellPos,
    ) -> DrawKey {
        let depth = foot.unwrap_or(f64::NEG_INFINITY);
        DrawKey {
            priority,
            raised,
            depth,
            elevation: 0.0,
            nearness: f64::NEG_INFINITY,
            layer,
            kind: DrawKind::Cell,
            place,
            sprite: None,
            facing: Facing::UNTURNED,
            is_slanted: false,
        }
    }

    /// Returns this key among others of a map that is seen by a projection: its place counts as that
    /// turns it. Keys of one list are all seen by the same one.
    #[inline]
    #[must_use]
    pub const fn seen_by(mut self, projection: &Projection) -> DrawKey {
        self.facing = projection.facing();
        self.is_slanted = projection.is_slanted();
        self
    }

    /// The place among others, from far to near.
    fn place_in_order(&self) -> (i32, i32) {
        if self.kind == DrawKind::Backdrop {
            // Its copies hang on the pane, and do not turn with the map.
            return (self.place.y(), self.place.x());
        }
        let turned = self.facing.turn_cell(self.place);
        let far = if self.is_slanted { turned.x() + turned.y() } else { turned.y() };
        (far, if self.is_slanted { turned.y() } else { turned.x() })
    }

    /// Whether raise counts before the depth.
    const fn lifts(&self) -> bool {
        self.raised && !self.is_slanted
    }

    /// Priority, raise where it counts first, and depth as one number: what decides between most keys, cheap to compare.
    pub(super) fn coarse(&self) -> u128 {
        // Whole numbers from the lowest; of a float, in its total order (IEEE 754).
        let priority = self.priority.cast_unsigned() ^ 1 << 31;
        let bits = self.depth.to_bits();
        let depth = bits ^ if self.depth.is_sign_negative() { u64::MAX } else { 1 << 63 };
        u128::from(priority) << 65 | u128::from(self.lifts()) << 64 | u128::from(depth)
    }
}

impl Ord for DrawKey {
    #[inline]
    fn cmp(&self, other: &DrawKey) -> Ordering {
        (self.priority.cmp(&other.priority))
            .then_with(|| self.lifts().cmp(&other.lifts()))
            .then_with(|| self.depth.total_cmp(&other.depth))
            .then_with(|| self.elevation.total_cmp(&other.elevation))
            .then_with(|| self.raised.cmp(&other.raised))
            .then_with(|| self.nearness.total_cmp(&other.nearness))
            .then_with(|| self.layer.cmp(&other.layer))
            .then_with(|| self.kind.cmp(&other.kind))
            .then_with(|| self.place_in_order().cmp(&other.place_in_order()))
            .then_with(|| self.sprite.cmp(&other.sprite))
    }
}

impl PartialOrd for DrawKey {
    fn partial_cmp(&self, other: &DrawKey) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for DrawKey {
    fn eq(&self, other: &DrawKey) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for DrawKey {}
