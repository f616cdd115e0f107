use std::cmp::Ordering;

use crate::units::CellPos;

/// The place of one thing in the order of drawing. What compares less is drawn first.
///
/// The order is total: priority, then raise, depth, elevation, layer, backdrop before cells before
/// sprites, and last the drawing order of the lattice. Two lists of the same scene are therefore identical.
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
    /// The y of the foot on the ground in world units; −∞ for what is not sorted by row.
    pub depth: f64,
    /// How far the foot is lifted above the ground, in world units.
    pub elevation: f64,
    /// The place of the layer in the order of the map; `u32::MAX` for sprites, which so come
    /// behind all cells of the same depth.
    pub layer: u32,
    /// What it is: of one layer, the backdrop comes before the cells.
    pub kind: DrawKind,
    /// The cell, in the lattice's own order: row by row on square cells. Of a layer that repeats
    /// itself, where the copy lies, which is beyond the layer's own cells. For a sprite the one in
    /// which it stands; for a backdrop the number of the copy.
    pub place: CellPos,
    /// The key of the sprite; `None` for a cell.
    pub sprite: Option<u64>,
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
    /// Returns the key of a cell; `foot` is the y of its foot where its layer sorts by row.
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
            layer,
            kind: DrawKind::Cell,
            place,
            sprite: None,
        }
    }

    /// Priority, raise and depth as one number: what decides between most keys, cheap to compare.
    pub(super) fn coarse(&self) -> u128 {
        // Whole numbers from the lowest; of a float, in its total order (IEEE 754).
        let priority = self.priority.cast_unsigned() ^ 1 << 31;
        let bits = self.depth.to_bits();
        let depth = bits ^ if self.depth.is_sign_negative() { u64::MAX } else { 1 << 63 };
        u128::from(priority) << 65 | u128::from(self.raised) << 64 | u128::from(depth)
    }
}

impl Ord for DrawKey {
    fn cmp(&self, other: &DrawKey) -> Ordering {
        (self.priority.cmp(&other.priority))
            .then_with(|| self.raised.cmp(&other.raised))
            .then_with(|| self.depth.total_cmp(&other.depth))
            .then_with(|| self.elevation.total_cmp(&other.elevation))
            .then_with(|| self.layer.cmp(&other.layer))
            .then_with(|| self.kind.cmp(&other.kind))
            .then_with(|| self.place.cmp(&other.place))
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
