use std::fmt;
use std::str::FromStr;
use std::sync::Arc;

/// The stable identity of a tile: the name of its set, and its own name or, where it has none,
/// its place in the sheet.
///
/// Written `set/name` or `set/column:row`. Cutting a sheet anew, or adding and reordering sets,
/// does not change it.
///
/// ```
/// use sturdy_quilt::tile::{TileKey, TileName};
///
/// let name: TileName = "terrace/3:2".parse()?;
/// assert_eq!(name.set(), "terrace");
/// assert_eq!(name.key(), &TileKey::Place { column: 3, row: 2 });
/// # Ok::<(), sturdy_quilt::tile::TileNameError>(())
/// ```
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct TileName {
    set: Arc<str>,
    key: TileKey,
}

/// The identity of a tile within its set: its name, or its place in the sheet.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum TileKey {
    /// Its name.
    Name(Arc<str>),
    /// Its place in the sheet, counted from 0, for tiles without a name.
    Place {
        /// The column from the left.
        column: u32,
        /// The row from the top.
        row: u32,
    },
}

/// The error of a text that cannot name a tile or a tile set.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TileNameError {
    /// There is no `/` between set and tile.
    #[error("`{0}` does not name a tile; write set/tile, for example terrace/grass")]
    NoSet(String),
    /// A name is empty, begins or ends with a space, or has a character with another meaning.
    #[error(
        "`{0}` cannot be a name: it must not be empty, nor hold / + : or control characters, nor begin or end with a space"
    )]
    Malformed(String),
}

/// Whether a text can name a set or a tile.
pub(crate) fn check_name(text: &str) -> Result<(), TileNameError> {
    let wrong = text.is_empty()
        || text.trim() != text
        || text.contains(|c: char| matches!(c, '/' | '+' | ':') || c.is_control());
    if wrong { Err(TileNameError::Malformed(text.to_owned())) } else { Ok(()) }
}

impl TileName {
    /// The name of the tile `key` in the set `set`.
    pub(crate) fn new(set: Arc<str>, key: TileKey) -> TileName {
        TileName { set, key }
    }

    /// Returns the name of the set.
    pub fn set(&self) -> &str {
        &self.set
    }

    /// Returns what tells the tile from the others of its set.
    pub const fn key(&self) -> &TileKey {
        &self.key
    }
}

impl FromStr for TileName {
    type Err = TileNameError;

    fn from_str(text: &str) -> Result<TileName, TileNameError> {
        let (set, tile) =
            text.split_once('/').ok_or_else(|| TileNameError::NoSet(text.to_owned()))?;
        check_name(set)?;
        Ok(TileName { set: set.into(), key: tile.parse()? })
    }
}

impl FromStr for TileKey {
    type Err = TileNameError;

    fn from_str(text: &str) -> Result<TileKey, TileNameError> {
        if let Some((column, row)) = text.split_once(':') {
            let number = |digits: &str| -> Option<u32> {
                let value: u32 = digits.parse().ok()?;
                // One spelling a place: no sign, no leading zeros.
                (value.to_string() == digits).then_some(value)
            };
            return match (number(column), number(row)) {
                (Some(column), Some(row)) => Ok(TileKey::Place { column, row }),
                _ => Err(TileNameError::Malformed(text.to_owned())),
            };
        }
        check_name(text)?;
        Ok(TileKey::Name(text.into()))
    }
}

impl fmt::Display for TileKey {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            TileKey::Name(name) => f.write_str(name),
            TileKey::Place { column, row } => write!(f, "{column}:{row}"),
        }
    }
}

impl fmt::Display for TileName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}/{}", self.set, self.key)
    }
}

impl fmt::Debug for TileName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "TileName({self})")
    }
}
