//! The settings of a layer.

use serde_json::Value;

use crate::lattice::Lattice;
use crate::picture::Color;
use crate::tile::{Cell, PaletteId};
use crate::units::{CellOffset, CellPos, CellRect, WorldPoint, WorldVec};

/// The settings of a layer: how it is drawn, and what it counts for.
///
/// They hold whatever is stated. An edit that gives them to a layer checks them, and refuses an
/// opacity beyond 0 and 1, numbers that are not finite, and two bands that begin with the same row.
///
/// ```
/// use sturdy_quilt::quilt::{Parallax, Wrap};
/// use sturdy_quilt::{LayerSettings, WorldVec};
///
/// let crowns = LayerSettings::default().with_priority(20).with_sort_rows(true);
/// assert_eq!((crowns.priority, crowns.opacity), (20, 1.0));
/// // Clouds that are far away, pass by themselves, and never end.
/// let clouds = LayerSettings::default()
///     .with_parallax(Parallax::both(0.25))
///     .with_speed(WorldVec::new(6.0, 0.0))
///     .with_wrap(Wrap::X);
/// assert!(!clouds.is_still());
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct LayerSettings {
    /// What is drawn first: lower priorities lie below higher ones. Default 0.
    pub priority: i32,
    /// Whether it is shown at all. Default true.
    pub visible: bool,
    /// How solid it is drawn, from 0 (clear) to 1. Default 1.
    pub opacity: f32,
    /// What its colours are multiplied by; its alpha counts like the opacity. Default white.
    pub tint: Color,
    /// How its colours are laid on what is below. Default [`Blend::Normal`].
    pub blend: Blend,
    /// A [`Palette`](super::Palette) for all of it. Cells with a palette of their own take the colours
    /// of that, and the tint of both: at night, too, ripe leaves are ripe. Default none.
    pub palette: Option<PaletteId>,
    /// How far it is moved from its cells, in world units. Default no way.
    pub offset: WorldVec,
    /// How high it stands above the ground, in world units: it is seen as much higher as the
    /// [`Projection`](crate::view::Projection) lifts it. Default 0.
    pub elevation: f64,
    /// How far it follows the camera. Default with the world.
    pub parallax: Parallax,
    /// Where a camera stands that sees a layer with a parallax in its place. Default the origin.
    pub parallax_from: WorldPoint,
    /// How fast it moves by itself, in world units a second. Default not at all.
    pub speed: WorldVec,
    /// Rows with a parallax of their own, in the order of their rows; those before the first one do
    /// as the layer does. Default none.
    pub bands: Vec<ParallaxBand>,
    /// In which directions it is repeated without end. Default in none.
    pub wrap: Wrap,
    /// The cells that are repeated; `None` is the smallest rectangle around those that are not
    /// empty. Default `None`.
    pub wrap_area: Option<CellRect>,
    /// A tile whose picture lies behind its cells, with its anchor on the origin of the world, and
    /// is repeated in its own size where the layer wraps. Default none.
    pub backdrop: Option<Cell>,
    /// Whether its cells are sorted by row with those of other such layers and with sprites, so
    /// that what stands further down covers what stands behind. Default false.
    pub sort_rows: bool,
    /// Whether it is ever drawn; a layer that only marks ground is not. Default true.
    pub draws: bool,
    /// Whether its tiles say what the ground is. Default in their turn. Those of layers that are
    /// not still never do, see [`LayerSettings::is_still`].
    pub grounds: Grounds,
    /// What the game keeps with the layer: any JSON value. Default `null`.
    pub data: Value,
}

/// The rule by which the tiles of a layer state the ground of their cells.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Grounds {
    /// They say nothing.
    Never,
    /// They speak in their turn: layers are asked from the top down, by priority and then by
    /// their order.
    #[default]
    InTurn,
    /// They speak before all markers and all other layers: a patch over what the rest says.
    First,
}

impl From<bool> for Grounds {
    /// In their turn, or never.
    fn from(grounds: bool) -> Grounds {
        if grounds { Grounds::InTurn } else { Grounds::Never }
    }
}

/// The way in which the colours of a layer are laid on what is below.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Blend {
    /// Over it, as paint.
    #[default]
    Normal,
    /// Added to it, as light, up to white.
    Add,
}

impl Blend {
    /// All of them with the words that name them in files.
    pub(crate) const WORDS: [(&str, Blend); 2] = [("normal", Blend::Normal), ("add", Blend::Add)];
}

/// The directions in which a layer is repeated.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Wrap {
    /// In none.
    #[default]
    No,
    /// To the left and the right.
    X,
    /// Up and down.
    Y,
    /// In all four.
    Both,
}

impl Wrap {
    /// All of them with the words that name them in files.
    pub(crate) const WORDS: [(&str, Wrap); 4] =
        [("no", Wrap::No), ("x", Wrap::X), ("y", Wrap::Y), ("both", Wrap::Both)];

    /// The same on a map that is turned by a quarter, or not.
    pub(crate) const fn swapped(self, swaps: bool) -> Wrap {
        match self {
            Wrap::X if swaps => Wrap::Y,
            Wrap::Y if swaps => Wrap::X,
            other => other,
        }
    }

    /// Returns whether it repeats to the left and the right.
    pub const fn across(self) -> bool {
        matches!(self, Wrap::X | Wrap::Both)
    }

    /// Returns whether it repeats up and down.
    pub const fn down(self) -> bool {
        matches!(self, Wrap::Y | Wrap::Both)
    }
}

/// The part by which a layer moves on the screen when the camera moves, as a part of how far the
/// world does: 1 with the world, 0 not at all. Less than 1 looks far away, more than 1 nearer than
/// the world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Parallax {
    /// To the sides.
    pub x: f64,
    /// Up and down.
    pub y: f64,
}

impl Parallax {
    /// The parallax of the world: 1 in both directions.
    pub const WORLD: Parallax = Parallax { x: 1.0, y: 1.0 };

    /// Returns a parallax that is the same in both directions.
    pub const fn both(factor: f64) -> Parallax {
        Parallax { x: factor, y: factor }
    }
}

impl Default for Parallax {
    fn default() -> Parallax {
        Parallax::WORLD
    }
}

/// Rows of a layer that move to the sides in their own way, so that one layer looks like several
/// planes, one behind the other.
///
/// It begins with a row and ends where the next one begins. Up and down all of them move as the
/// layer does: so there is neither a gap between two nor a row twice.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ParallaxBand {
    /// Its first row, as a row of cells.
    pub from_row: i32,
    /// How far it follows the camera to the sides.
    pub parallax: f64,
    /// How fast it moves to the right by itself, in world units a second.
    pub speed: f64,
}

impl ParallaxBand {
    /// Returns a band that does not move by itself.
    pub const fn new(from_row: i32, parallax: f64) -> ParallaxBand {
        ParallaxBand { from_row, parallax, speed: 0.0 }
    }

    setters! {
        /// Returns this band with a speed to the right, in world units per second.
        const with_speed(speed: f64);
    }
}

impl Default for LayerSettings {
    fn default() -> LayerSettings {
        LayerSettings {
            priority: 0,
            visible: true,
            opacity: 1.0,
            tint: Color::WHITE,
            blend: Blend::Normal,
            palette: None,
            offset: WorldVec::ZERO,
            elevation: 0.0,
            parallax: Parallax::WORLD,
            parallax_from: WorldPoint::new(0.0, 0.0),
            speed: WorldVec::ZERO,
            bands: Vec::new(),
            wrap: Wrap::No,
            wrap_area: None,
            backdrop: None,
            sort_rows: false,
            draws: true,
            grounds: Grounds::InTurn,
            data: Value::Null,
        }
    }
}

// Other settings, one by one.
impl LayerSettings {
    setters! {
        /// Returns these settings with another priority.
        with_priority(priority: i32);

        /// Returns these settings, shown or not.
        with_visible(visible: bool);

        /// Returns these settings with another opacity, from 0 (clear) to 1.
        with_opacity(opacity: f32);

        /// Returns these settings with another tint.
        with_tint(tint: Color);

        /// Returns these settings, blended in another way.
        with_blend(blend: Blend);

        /// Returns these settings with another palette.
        with_palette(palette: into Option<PaletteId>);

        /// Returns these settings with another offset.
        with_offset(offset: WorldVec);

        /// Returns these settings, standing so many world units above the ground.
        with_elevation(elevation: f64);

        /// Returns these settings with another parallax.
        with_parallax(parallax: Parallax);

        /// Returns these settings, seen in its place by a camera that stands elsewhere.
        with_parallax_from(parallax_from: WorldPoint);

        /// Returns these settings with another speed, in world units per second.
        with_speed(speed: WorldVec);
    }

    /// Returns these settings with other bands, put in the order of their rows.
    #[must_use]
    pub fn with_bands(mut self, bands: impl IntoIterator<Item = ParallaxBand>) -> LayerSettings {
        self.bands = bands.into_iter().collect();
        self.bands.sort_unstable_by_key(|band| band.from_row);
        self
    }

    setters! {
        /// Returns these settings, repeated without end.
        with_wrap(wrap: Wrap);

        /// Returns these settings with another area that is repeated; it must not be empty.
        with_wrap_area(wrap_area: into Option<CellRect>);

        /// Returns these settings with another picture behind the cells; it must not be the empty cell.
        with_backdrop(backdrop: into Option<Cell>);

        /// Returns these settings, sorted by row or not.
        with_sort_rows(sort_rows: bool);

        /// Returns these settings, drawn or not.
        with_draws(draws: bool);

        /// Returns these settings, saying what the ground is: in their turn (`true`), never (`false`),
        /// or before all others ([`Grounds::First`]).
        with_grounds(grounds: into Grounds);

        /// Returns these settings with other data.
        with_data(data: Value);
    }
}

/// Does one thing for each setting.
macro_rules! for_each_setting {
    ($visit:ident) => {
        $visit!(
            priority,
            visible,
            opacity,
            tint,
            blend,
            palette,
            offset,
            elevation,
            parallax,
            parallax_from,
            speed,
            bands,
            wrap,
            wrap_area,
            backdrop,
            sort_rows,
            draws,
            grounds,
            data
        )
    };
}

macro_rules! names {
    ($($setting:ident),+) => { [$(stringify!($setting)),+] };
}

// One by one.
impl LayerSettings {
    /// The names of all settings.
    pub(crate) const NAMES: [&str; 19] = for_each_setting!(names);

    /// The names of the settings in which two differ.
    pub(crate) fn differing(&self, other: &LayerSettings) -> Vec<&'static str> {
        let mut names = Vec::new();
        macro_rules! compare {
            ($($setting:ident),+) => {
                // None is left out.
                let LayerSettings { $($setting: _),+ } = self;
                $(if self.$setting != other.$setting {
                    names.push(stringify!($setting));
                })+
            };
        }
        for_each_setting!(compare);
        names
    }

    /// Makes one setting what it is in other settings.
    pub(crate) fn take(&mut self, name: &str, other: &LayerSettings) {
        macro_rules! take {
            ($($setting:ident),+) => {
                match name {
                    $(own if own == stringify!($setting) => self.$setting = other.$setting.clone(),)+
                    _ => debug_assert!(false, "there is no setting {name}"),
                }
            };
        }
        for_each_setting!(take);
    }
}

// What follows from them.
impl LayerSettings {
    /// What is wrong with them, in words.
    pub(crate) fn fault(&self) -> Option<String> {
        let range = CellPos::MIN..=CellPos::MAX;
        let are_ordered = self.bands.is_sorted_by(|a, b| a.from_row < b.from_row);
        let finite = [
            ("offset", self.offset.is_finite()),
            ("elevation", self.elevation.is_finite()),
            ("parallax", self.parallax.x.is_finite() && self.parallax.y.is_finite()),
            ("parallax_from", self.parallax_from.is_finite()),
            ("speed", self.speed.is_finite()),
            ("bands", self.bands.iter().all(|b| b.parallax.is_finite() && b.speed.is_finite())),
        ];
        if !(0.0..=1.0).contains(&self.opacity) {
            Some(format!("its opacity must lie between 0 and 1, not {}", self.opacity))
        } else if let Some((name, _)) = finite.iter().find(|(_, is_finite)| !is_finite) {
            Some(format!("the numbers of its {name} must be finite"))
        } else if !are_ordered {
            Some("its bands must be in the order of their rows, each with a row of its own".into())
        } else if let Some(band) = self.bands.iter().find(|band| !range.contains(&band.from_row)) {
            Some(format!("a band begins with row {}, beyond the limits of cells", band.from_row))
        } else if self.wrap_area.is_some_and(CellRect::is_empty) {
            Some("its wrap area must not be empty".into())
        } else if self.backdrop.is_some_and(Cell::is_empty) {
            Some("its backdrop must not be the empty cell".into())
        } else {
            None
        }
    }

    /// Returns whether it moves exactly as the world does: it has no parallax, no bands and no
    /// speed, and is not repeated. Only then its cells lie over a fixed place and may give ground.
    pub fn is_still(&self) -> bool {
        self.parallax == Parallax::WORLD
            && self.speed == WorldVec::ZERO
            && self.bands.is_empty()
            && self.wrap == Wrap::No
    }

    /// Returns the offset in whole cells, or `None` where it is not a whole number of them, or the
    /// layer is not still: such a layer cannot give ground.
    pub fn offset_cells(&self, lattice: &Lattice) -> Option<CellOffset> {
        let whole = |offset: f64, side: f64| {
            let count = (offset / side).round();
            let exact = count * side == offset && count.abs() <= f64::from(CellPos::MAX);
            exact.then_some(count as i32)
        };
        let x = whole(self.offset.x, lattice.cell_width())?;
        let y = whole(self.offset.y, lattice.cell_height())?;
        self.is_still().then(|| CellOffset::new(x, y))
    }

    /// The slot of its palette, 0 for none.
    pub(crate) fn palette_slot(&self) -> u8 {
        self.palette.map_or(0, PaletteId::slot)
    }

    /// Whether there is anything of it to draw.
    pub(crate) fn shows(&self) -> bool {
        self.visible && self.draws && self.color().a > 0
    }

    /// Tint and opacity as one colour: what every pixel is multiplied by.
    pub(crate) fn color(&self) -> Color {
        let alpha = f32::from(self.tint.a) * self.opacity.clamp(0.0, 1.0);
        Color { a: alpha.round() as u8, ..self.tint }
    }
}
