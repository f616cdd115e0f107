//! The things of the game that are drawn among the cells.

use super::DrawKey;
use super::pass::LooseItem;
use crate::lattice::Lattice;
use crate::tile::{Cell, Coverage, Fit, Standing, TileArt, TileTable};
use crate::units::{CellPos, WorldPoint, WorldRect, WorldVec};

/// A thing of the game that stands on the map and is drawn in one order with its cells: a picker, a
/// cart, a bee.
///
/// It shows a tile, with turn, raise and palette of its [`Cell`], and stands with its anchor (see
/// [`Standing`]), which is the middle of its lower edge if nothing else is stated, on its foot. Among what has its priority it lies over all that is not sorted by row;
/// between what is, the foot decides: who stands further down covers who stands behind. A raised
/// one lies over all unraised things of its priority.
///
/// ```
/// use sturdy_quilt::{DrawList, ScreenPoint, ScreenSize, Sprite, View, WorldPoint};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let walker = Sprite::new(7, quilt.tile("garden/wall")?, WorldPoint::new(24.0, 30.0)).priority(2);
/// let view = View::new(ScreenSize::new(96, 64)).centered_on(WorldPoint::new(32.0, 24.0));
/// let mut list = DrawList::new();
/// list.rebuild(&quilt, &view, &[walker]);
/// let front = list.pick(view.to_screen(WorldPoint::new(24.0, 22.0))).next();
/// assert_eq!(front.and_then(|picked| picked.key.sprite), Some(7));
/// # Ok::<(), sturdy_quilt::NameError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Sprite {
    /// The game's own key. It comes back in [`DrawKey::sprite`], and decides between two sprites
    /// of which nothing else does.
    pub key: u64,
    /// What it shows. The empty cell shows nothing.
    pub cell: Cell,
    /// Where it stands on the ground. One that is not finite is nowhere.
    pub foot: WorldPoint,
    /// The priority, as a layer has one. Default 0.
    pub priority: i32,
    /// How far it is lifted above its foot, in world units: drawn higher, sorted by its foot all
    /// the same. Default 0.
    pub elevation: f64,
}

impl Sprite {
    /// A sprite of priority 0 on the ground.
    pub fn new(key: u64, cell: impl Into<Cell>, foot: WorldPoint) -> Sprite {
        Sprite { key, cell: cell.into(), foot, priority: 0, elevation: 0.0 }
    }

    /// The same sprite with another priority.
    #[must_use]
    pub const fn priority(mut self, priority: i32) -> Sprite {
        self.priority = priority;
        self
    }

    /// The same sprite, lifted above its foot by so many world units; what is not finite leaves it
    /// as it was.
    #[must_use]
    pub fn elevation(mut self, elevation: f64) -> Sprite {
        if elevation.is_finite() {
            self.elevation = elevation;
        }
        self
    }

    /// The same sprite, in front of the unraised things of its priority or not.
    #[must_use]
    pub const fn raised(mut self, raised: bool) -> Sprite {
        self.cell = self.cell.raised(raised);
        self
    }

    /// Its place in the order of drawing.
    pub fn draw_key(&self, lattice: &Lattice) -> DrawKey {
        DrawKey {
            priority: self.priority,
            raised: self.cell.is_raised(),
            depth: self.foot.y,
            elevation: self.elevation,
            layer: u32::MAX,
            place: lattice.cell_at(self.foot),
            sprite: Some(self.key),
        }
    }

    /// As a thing to draw; `None` where it shows nothing.
    pub(super) fn item(&self, tiles: &TileTable, lattice: &Lattice) -> Option<LooseItem> {
        let (page, art) = tiles.art(self.cell.tile()?);
        let is_somewhere = self.foot.x.is_finite() && self.foot.y.is_finite();
        if art.coverage == Coverage::Clear || !is_somewhere {
            return None;
        }
        let foot = self.foot - WorldVec::new(0.0, self.elevation);
        Some(LooseItem {
            key: self.draw_key(lattice),
            cell: self.cell,
            page,
            source: art.source,
            turn: self.cell.turn(),
            rect: standing_at(foot, art, self.cell, lattice),
            alpha: 255,
        })
    }
}

/// The rectangle of a tile that stands on a cell of its own.
pub(super) fn standing_on(at: CellPos, art: TileArt, cell: Cell, lattice: &Lattice) -> WorldRect {
    let (x, y) = standing(art).anchor;
    let corner = lattice.bounds(at).min();
    let own = WorldVec::new(lattice.cell_width() * x, lattice.cell_height() * y);
    standing_at(corner + own, art, cell, lattice)
}

/// The rectangle of a tile whose anchor lies at a place: of its own size, or of the size of a cell
/// where its pixels are stretched over one.
fn standing_at(place: WorldPoint, art: TileArt, cell: Cell, lattice: &Lattice) -> WorldRect {
    let standing = standing(art);
    let (width, height) = match art.fit {
        Fit::Cell => (lattice.cell_width(), lattice.cell_height()),
        Fit::Standing(standing) => {
            let (width, height) = standing.size(art.source.size);
            let upright = cell.turn().steps().is_multiple_of(2);
            if upright { (width, height) } else { (height, width) }
        }
    };
    let (x, y) = standing.anchor;
    let corner = place - WorldVec::new(width * x, height * y) + standing.offset;
    WorldRect::between(corner, corner + WorldVec::new(width, height))
}

fn standing(art: TileArt) -> Standing {
    match art.fit {
        Fit::Cell => Standing::default(),
        Fit::Standing(standing) => standing,
    }
}
