//! The things of the game that are drawn among the cells.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::map_facts::CellArt;
use super::motion::lifted_px;
use super::order::{DrawKey, DrawKind};
use super::pass::LooseItem;
use super::scene::Scene;
use super::slant::rank;
use crate::lattice::Lattice;
use crate::picture::{Color, Picture};
use crate::plane::Stamp;
use crate::quilt::{Blend, Quilt};
use crate::tile::{ArtPage, ArtPlacement, Cell, Coverage, Fit, IntoCell, OwnedCell, TileArt, Turn};
use crate::units::{
    CellOffset, CellPos, CellRect, PanePoint, PaneRect, PaneVec, PixelRect, WorldPoint, WorldRect,
    WorldVec,
};
use crate::view::{Projection, View};

/// A thing of the game that stands on the map and is drawn in one order with its cells: a picker, a
/// cart, a bee.
///
/// It shows a tile in the palette of its [`Cell`], or a picture of the game's own, and stands with
/// its anchor (see [`ArtPlacement`]), which is the middle of its lower edge if nothing else is stated, on
/// its foot. Among what has its priority it lies over all that is not sorted by row;
/// between what is, the foot decides: who stands further down covers who stands behind. A raised
/// one lies over all unraised things of its priority.
///
/// ```
/// use sturdy_quilt::{Clock, DrawList, ScreenSize, Sprite, View, WorldPoint};
/// # let quilt = sturdy_quilt::doc_quilt();
///
/// let walker = Sprite::new(7, quilt.tile("garden/wall")?, WorldPoint::new(24.0, 30.0)).with_priority(2);
/// let view = View::new(ScreenSize::new(96, 64)).centered_on(WorldPoint::new(32.0, 24.0));
/// let mut list = DrawList::new();
/// list.rebuild_with(&quilt, &view, &Clock::new(), &[walker]);
/// let front = list.pick(view.to_screen(WorldPoint::new(24.0, 22.0))).next();
/// assert_eq!(front.and_then(|picked| picked.key.sprite), Some(7));
/// # Ok::<(), sturdy_quilt::NameError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Sprite {
    /// The game's own key. It comes back in [`DrawKey::sprite`], and decides between two sprites
    /// of which nothing else does.
    pub key: u64,
    /// Its tile and palette. The empty cell shows nothing.
    pub cell: Cell,
    /// What it shows instead of a tile. Default nothing.
    pub picture: Option<SpritePicture>,
    /// How that is turned. Default as the cell it was made with.
    pub turn: Turn,
    /// Whether it is in front of the unraised things of its priority. Default as the cell it was
    /// made with; that a tile is always raised counts for cells alone.
    pub raised: bool,
    /// Where it stands on the ground. One that is not finite is nowhere.
    pub foot: WorldPoint,
    /// The priority, as a layer has one. Default 0.
    pub priority: i32,
    /// How high it is above its foot, in world units: drawn higher, as the projection lifts it, sorted by
    /// its foot all the same. Default 0.
    pub elevation: f64,
    /// The area of the ground that it takes up, such as the box of its body. At a slant it is sorted by
    /// the nearest of the cells that this touches of which the face is not above it. Default nothing:
    /// it is sorted by the cell in which its foot is.
    pub ground_box: Option<WorldRect>,
    /// What its colours are multiplied by; alpha makes it let through what is below. Default white.
    pub tint: Color,
    /// How its colours are laid on what is below. Default [`Blend::Normal`].
    pub blend: Blend,
    /// Of which map the tile is that it was made with, where its handle has told.
    descent: Option<Stamp>,
}

/// A picture of the game's own for sprites. Cheap to clone; clones are the same picture to a
/// renderer.
///
/// ```
/// use sturdy_quilt::draw::SpritePicture;
/// use sturdy_quilt::tile::ArtPlacement;
/// use sturdy_quilt::units::PixelSize;
/// use sturdy_quilt::{Color, Picture, Sprite, WorldPoint};
///
/// let lamp = Picture::filled(PixelSize::new(4, 6), Color::rgb(255, 230, 140));
/// let lamp = SpritePicture::new(&lamp, ArtPlacement::default());
/// let sprites = [10.0, 40.0].map(|x| Sprite::of_picture(1, lamp.clone(), WorldPoint::new(x, 8.0)));
/// assert_eq!(sprites[0].picture, sprites[1].picture);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct SpritePicture {
    page: Arc<ArtPage>,
    art: TileArt,
}

impl SpritePicture {
    /// Returns a picture, and how it stands on the foot of a sprite.
    pub fn new(picture: &Picture, placement: ArtPlacement) -> SpritePicture {
        let page = ArtPage::from_picture(picture);
        let source = PixelRect::new(0, 0, picture.size());
        let coverage = page.coverage(source);
        let art = TileArt { source, coverage, fit: Fit::Placed(placement) };
        SpritePicture { page: Arc::new(page), art }
    }
}

/// The pictures of the sprites of a list, with the numbers of their pages.
#[derive(Clone, Debug, Default)]
pub(super) struct SpritePictures {
    first: u32,
    pages: Vec<Arc<ArtPage>>,
    numbers: FxHashMap<Stamp, u32>,
}

impl SpritePictures {
    /// Forgets all; the next picture gets the number `first`.
    pub(super) fn begin(&mut self, first: u32) {
        self.first = first;
        self.pages.clear();
        self.numbers.clear();
    }

    fn number(&mut self, page: &Arc<ArtPage>) -> u32 {
        let next = self.first + self.pages.len() as u32;
        *self.numbers.entry(page.stamp()).or_insert_with(|| {
            self.pages.push(Arc::clone(page));
            next
        })
    }

    pub(super) fn get(&self, number: u32) -> Option<&ArtPage> {
        let at = number.checked_sub(self.first)?;
        self.pages.get(at as usize).map(|page| &**page)
    }
}

/// The sprites of a list as things to draw, and the order among them.
#[derive(Clone, Debug, Default)]
pub(super) struct SpriteItems {
    pub(super) found: Vec<LooseItem>,
    /// What decides between most of them, and their places among those that were found.
    order: Vec<(u128, u32)>,
}

/// Sprites that follow each other in the order of drawing.
#[derive(Clone, Copy, Debug)]
pub(super) struct OrderedSprites<'a> {
    found: &'a [LooseItem],
    order: &'a [(u128, u32)],
}

impl<'a> OrderedSprites<'a> {
    /// Takes off the first ones, as long as something holds that holds for none after it.
    pub(super) fn split_first(
        &mut self,
        is_first: impl Fn(&LooseItem) -> bool,
    ) -> OrderedSprites<'a> {
        let found = self.found;
        self.split(|(_, place)| is_first(&found[*place as usize]))
    }

    /// Takes off those that come before a key.
    pub(super) fn split_before(&mut self, key: &DrawKey) -> OrderedSprites<'a> {
        let (found, coarse) = (self.found, key.coarse());
        self.split(|&(own, place)| {
            own < coarse || own == coarse && found[place as usize].quad.key < *key
        })
    }

    /// Takes off the first ones, for which a condition holds and for none after them.
    fn split(&mut self, is_first: impl Fn(&(u128, u32)) -> bool) -> OrderedSprites<'a> {
        let (first, rest) = self.order.split_at(self.order.partition_point(is_first));
        self.order = rest;
        OrderedSprites { found: self.found, order: first }
    }

    pub(super) const fn is_empty(&self) -> bool {
        self.order.is_empty()
    }

    pub(super) fn iter(&self) -> impl Iterator<Item = &'a LooseItem> + use<'a> {
        let found = self.found;
        self.order.iter().map(move |(_, place)| &found[*place as usize])
    }
}

impl SpriteItems {
    /// All of them in the order of drawing; those of the same key in the same place keep the order
    /// of the game.
    pub(super) fn in_order(&mut self) -> OrderedSprites<'_> {
        let SpriteItems { found, order } = self;
        // From the order of the last frame, which is seldom far from that of this one.
        if order.len() != found.len() {
            order.clear();
            order.extend((0..found.len() as u32).map(|place| (0, place)));
        }
        for (coarse, place) in order.iter_mut() {
            *coarse = found[*place as usize].quad.key.coarse();
        }
        order.sort_unstable_by(|a, b| {
            let key = |place: u32| &found[place as usize].quad.key;
            a.0.cmp(&b.0).then_with(|| key(a.1).cmp(key(b.1))).then(a.1.cmp(&b.1))
        });
        OrderedSprites { found, order }
    }
}

impl Sprite {
    /// Returns a sprite of priority 0 on the ground that shows a tile. One that was made with a
    /// tile of another map than the list shows is not drawn.
    pub fn new(key: u64, cell: impl IntoCell, foot: WorldPoint) -> Sprite {
        let OwnedCell { cell, descent } = cell.into_cell();
        Sprite {
            descent,
            key,
            cell,
            picture: None,
            turn: cell.turn(),
            raised: cell.is_raised(),
            foot,
            priority: 0,
            elevation: 0.0,
            ground_box: None,
            tint: Color::WHITE,
            blend: Blend::Normal,
        }
    }

    /// Returns a sprite of priority 0 on the ground that shows a picture.
    pub fn of_picture(key: u64, picture: SpritePicture, foot: WorldPoint) -> Sprite {
        Sprite { picture: Some(picture), ..Sprite::new(key, Cell::EMPTY, foot) }
    }

    setters! {
        /// Returns this sprite with another priority.
        with_priority(priority: i32);

        /// Returns this sprite, lifted above its foot by an elevation in world units. A sprite whose
        /// numbers are not finite is not drawn.
        with_elevation(elevation: f64);

        /// Returns this sprite, taking up an area of the ground: at a slant it stands before all cells that
        /// the area touches, up to 64 columns and rows around its foot, but for those whose faces are
        /// above it.
        with_ground_box(ground_box: some WorldRect);

        /// Returns this sprite, in front of the unraised things of its priority or not.
        with_raised(raised: bool);

        /// Returns this sprite with another turn.
        with_turn(turn: Turn);

        /// Returns this sprite with another tint.
        with_tint(tint: Color);

        /// Returns this sprite, laid in another way on what is below.
        with_blend(blend: Blend);
    }

    /// Returns its place in the order of drawing, over cells of a lattice that are seen by a projection,
    /// of which no face is above it.
    pub fn draw_key(&self, lattice: &Lattice, projection: &Projection) -> DrawKey {
        let seen = projection.to_pane(self.foot, 0.0);
        self.draw_key_below(lattice, (projection, seen), |_| false)
    }

    /// Gives the key where the foot is seen in a place of the pane, and some cells have faces above the
    /// sprite.
    #[inline]
    fn draw_key_below(
        &self,
        lattice: &Lattice,
        (projection, seen): (&Projection, PanePoint),
        is_above: impl Fn(CellPos) -> bool,
    ) -> DrawKey {
        let (place, depth, nearness) = match projection.half_diamond() {
            None => (lattice.cell_at(self.foot), seen.y, f64::NEG_INFINITY),
            Some((_, height)) => {
                let place = match self.ground_box {
                    Some(area) => self.nearest_cell(area, lattice, projection, is_above),
                    None => lattice.cell_at(self.foot),
                };
                let turned = projection.facing().turn_cell(place);
                (place, f64::from(rank(turned)), seen.y / f64::from(height))
            }
        };
        let key = DrawKey::of_cell(self.priority, self.raised, Some(depth), u32::MAX, place);
        let (elevation, sprite) = (self.elevation, Some(self.key));
        DrawKey { elevation, nearness, kind: DrawKind::Sprite, sprite, ..key }.seen_by(projection)
    }

    /// The nearest of the cells that its area touches of which the face is not above it.
    fn nearest_cell(
        &self,
        area: WorldRect,
        lattice: &Lattice,
        projection: &Projection,
        is_above: impl Fn(CellPos) -> bool,
    ) -> CellPos {
        /// So far around the foot cells count, so that an area without end costs little.
        const REACH: i32 = 32;
        let own = lattice.cell_at(self.foot);
        let reach = CellOffset::new(REACH, REACH);
        let around =
            CellRect::between(own.saturating_add(reach.reversed()), own.saturating_add(reach));
        let near =
            lattice.cells_in(area).intersection(around).cells().filter(|cell| !is_above(*cell));
        let order = |cell: &CellPos| {
            let turned = projection.facing().turn_cell(*cell);
            (rank(turned), turned.y())
        };
        near.max_by_key(order).unwrap_or(own)
    }

    /// As a thing to draw; `None` where it shows nothing, or nothing in the visible part of the
    /// world.
    #[inline]
    pub(super) fn item(
        &self,
        scene: &Scene,
        (quilt, projection): (&Quilt, &Projection),
        (view, visible): (&View, PaneRect),
        now_ms: u64,
        pictures: &mut SpritePictures,
    ) -> Option<LooseItem> {
        // Frames do not hang on the place: a sprite moves, and would skip some.
        let cell = scene.map_facts.frame(self.cell, CellPos::ORIGIN, now_ms, None);
        let cell_art = match &self.picture {
            Some(SpritePicture { page, art }) => {
                let (page, turn) = (pictures.number(page), self.turn);
                CellArt { page, art, turn, color: self.tint }
            }
            None => {
                let is_foreign = self.descent.is_some_and(|own| own != scene.tiles.descent());
                cell.number().filter(|_| !is_foreign)?;
                scene.map_facts.cell_art_in(cell, 0, self.tint)
            }
        };
        let CellArt { art, color, .. } = cell_art;
        if art.coverage == Coverage::Clear || color.a == 0 || !self.foot.is_finite() {
            return None;
        }
        let seen = projection.to_pane(self.foot, 0.0);
        let foot = seen - PaneVec::new(0.0, lifted_px(self.elevation, projection));
        if !self.elevation.is_finite() || !foot.x.is_finite() || !foot.y.is_finite() {
            return None;
        }
        let cell_size = scene.map_facts.cell_size();
        let rect = rect_at_foot(foot, art, self.turn, cell_size);
        if !rect.overlaps(visible) {
            return None;
        }
        let is_above = |cell| scene.map_facts.has_face_above(quilt, cell, self);
        let key = self.draw_key_below(quilt.lattice(), (projection, seen), is_above);
        let look = (CellArt { turn: self.turn, ..cell_art }, self.blend);
        let cell = self.cell.with_turn(self.turn).with_raised(self.raised);
        Some(LooseItem::new(key, cell, look, (rect, view)))
    }
}

/// The rectangle on the pane of a tile that stands on a cell of its own, seen from above.
pub(super) fn rect_on_cell(bounds: PaneRect, art: &TileArt, turn: Turn) -> PaneRect {
    let (_, (x, y)) = placement(art).points();
    let (width, height) = (bounds.width(), bounds.height());
    let place = bounds.min() + PaneVec::new(width * x, height * y);
    rect_at_foot(place, art, turn, (width, height))
}

/// The rectangle of a tile whose anchor lies at a place of the pane; what is stretched over a cell has
/// the size of that.
#[inline]
fn rect_at_foot(place: PanePoint, art: &TileArt, turn: Turn, cell_size: (f64, f64)) -> PaneRect {
    let placement = placement(art);
    let (width, height) = size_on_pane(art, turn, cell_size);
    let ((x, y), _) = placement.points();
    let corner = place - PaneVec::new(width * x, height * y)
        + PaneVec::new(placement.offset.x, placement.offset.y);
    PaneRect::between(corner, corner + PaneVec::new(width, height))
}

/// Width and height of a picture in picture pixels at zoom 1, turned; where its pixels are stretched
/// over a cell, of that.
#[inline]
pub(crate) fn size_on_pane(art: &TileArt, turn: Turn, cell_size: (f64, f64)) -> (f64, f64) {
    match &art.fit {
        Fit::Stretched => cell_size,
        Fit::Placed(placement) => {
            let (width, height) = placement.size(art.source.size);
            let upright = turn.steps().is_multiple_of(2);
            if upright { (width, height) } else { (height, width) }
        }
    }
}

#[inline]
fn placement(art: &TileArt) -> &ArtPlacement {
    const ON_CELL: ArtPlacement =
        ArtPlacement { density: 1.0, anchor: None, cell_anchor: None, offset: WorldVec::ZERO };
    match &art.fit {
        Fit::Stretched => &ON_CELL,
        Fit::Placed(placement) => placement,
    }
}
