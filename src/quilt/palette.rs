//! Palettes: other colours for the same tiles.

use std::sync::Arc;

use indexmap::{IndexMap, IndexSet};

use crate::name_error::NameError;
use crate::picture::Color;
use crate::stamp::Birth;
use crate::tile::{Cell, TileSet};

/// Other colours for tiles: night, ripe, dry.
///
/// It replaces colours that tile sets name in their base palette, see
/// [`TileSetBuilder::palette`](crate::tile::TileSetBuilder::palette), and then multiplies everything by
/// a tint. The palettes of a map have slots from 1 up; a cell picks one of them with
/// [`Cell::with_palette`], a layer one for all its cells.
///
/// ```
/// use sturdy_quilt::quilt::Palette;
/// use sturdy_quilt::Color;
/// # let mut quilt = sturdy_quilt::doc_quilt();
///
/// quilt.edit("dusk", |pen| pen.put_palette(Palette::new("dusk").with_tint(Color::rgb(150, 120, 190))))?;
/// let dusk = quilt.palette("dusk")?;
/// assert_eq!(dusk.slot(), 1);
/// quilt.edit("it gets dark", |pen| pen.set_layer("soil", |soil| soil.with_palette(dusk)))?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Palette {
    name: Arc<str>,
    colors: IndexMap<String, Color>,
    tint: Color,
    birth: Birth,
}

/// The error of a palette that cannot be added.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PaletteError {
    /// There are no more slots.
    #[error("a map can have at most {} palettes", Cell::PALETTES - 1)]
    TooMany,
    /// It replaces a colour that no set names.
    #[error("palette `{palette}` replaces a colour that no tile set has")]
    Color {
        /// The palette.
        palette: String,
        /// Which colour.
        #[source]
        source: NameError,
    },
}

impl Palette {
    /// Returns a palette that changes nothing yet.
    pub fn new(name: impl Into<Arc<str>>) -> Palette {
        Palette {
            name: name.into(),
            colors: IndexMap::new(),
            tint: Color::WHITE,
            birth: Birth::default(),
        }
    }

    /// The same palette, added to a map at this time.
    pub(crate) fn born(mut self, birth: Birth) -> Palette {
        self.birth = birth;
        self
    }

    /// The same palette, added to a map now.
    pub(crate) fn born_now(self) -> Palette {
        self.born(Birth::now())
    }

    pub(crate) const fn birth(&self) -> Birth {
        self.birth
    }

    /// Returns this palette with another colour for one that tile sets name so.
    #[must_use]
    pub fn with_color(mut self, name: impl Into<String>, color: Color) -> Palette {
        self.colors.insert(name.into(), color);
        self
    }

    setters! {
        /// Returns this palette with another tint, by which all colours are multiplied; its alpha makes
        /// tiles let through what lies below.
        const with_tint(tint: Color);
    }

    /// Returns its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns the colours that it replaces by name, in the order in which they were stated.
    pub fn colors(&self) -> impl ExactSizeIterator<Item = (&str, Color)> {
        self.colors.iter().map(|(name, color)| (&**name, *color))
    }

    /// The colour that replaces the one of this name.
    pub(crate) fn color_for(&self, name: &str) -> Option<Color> {
        self.colors.get(name).copied()
    }

    /// Returns the colour by which all others are multiplied.
    pub const fn tint(&self) -> Color {
        self.tint
    }

    /// The first colour whose name is not among those of tile sets.
    pub(crate) fn unknown_color(&self, known: &IndexSet<&str>) -> Option<NameError> {
        let unknown = self.colors.keys().find(|name| !known.contains(&***name))?;
        Some(NameError::new("colour", unknown, known.iter().copied()))
    }
}

/// The names of the colours of tile sets.
pub(crate) fn color_names<'a>(sets: impl Iterator<Item = &'a TileSet>) -> IndexSet<&'a str> {
    sets.flat_map(|set| set.palette().iter().map(|(name, _)| &**name)).collect()
}
