use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// A colour: red, green, blue and alpha (0 clear, 255 solid), 8 bits each, alpha not multiplied
/// in.
///
/// Written as `#rrggbb`, or `#rrggbbaa` where it is not solid.
///
/// ```
/// use sturdy_quilt::Color;
///
/// let leaf: Color = "#4c8f3c".parse()?;
/// assert_eq!(leaf, Color::rgb(0x4c, 0x8f, 0x3c));
/// assert_eq!(leaf.to_string(), "#4c8f3c");
/// # Ok::<(), sturdy_quilt::picture::ColorError>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Color {
    /// Red.
    pub r: u8,
    /// Green.
    pub g: u8,
    /// Blue.
    pub b: u8,
    /// Alpha: 0 is clear, 255 is solid.
    pub a: u8,
}

impl Color {
    /// Nothing at all.
    pub const CLEAR: Color = Color { r: 0, g: 0, b: 0, a: 0 };

    /// Solid white: as a tint, it changes nothing.
    pub const WHITE: Color = Color { r: 255, g: 255, b: 255, a: 255 };

    /// Returns a solid colour.
    pub const fn rgb(r: u8, g: u8, b: u8) -> Color {
        Color { r, g, b, a: 255 }
    }

    /// Returns a colour with alpha.
    pub const fn rgba(r: u8, g: u8, b: u8, a: u8) -> Color {
        Color { r, g, b, a }
    }

    /// Returns a solid colour that a name always gets, the same on every machine and in every
    /// version: for tiles without a picture.
    ///
    /// The hue is taken from the 32-bit FNV-1a hash of the name (Fowler, Noll, Vo), lightness and
    /// saturation vary a little with other bits of it, so that neighbours can be told apart.
    pub fn of_name(name: &str) -> Color {
        let hash = name
            .bytes()
            .fold(0x811c_9dc5_u32, |hash, byte| (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193));
        // The low bits of the hash of short names differ little; fold the high ones in.
        let mixed = hash ^ (hash >> 15);
        let hue = mixed % 360;
        let light = 105 + (mixed >> 20) % 70;
        let spread = 45 + (mixed >> 12) % 40;
        let channel = |shift: u32| {
            // A triangle wave around the colour circle: 0 at the far side, 120 at the own hue.
            let distance = (hue + shift) % 360;
            let wave = 180_u32.abs_diff(distance).min(120);
            (light + wave * spread * 2 / 120 - spread).min(255) as u8
        };
        Color::rgb(channel(180), channel(60), channel(300))
    }

    /// Multiplies each channel by that of another colour, rounded to the nearest level: a tint by
    /// both.
    #[must_use]
    pub const fn times(self, other: Color) -> Color {
        const fn times(a: u8, b: u8) -> u8 {
            ((a as u32 * b as u32 + 127) / 255) as u8
        }
        Color {
            r: times(self.r, other.r),
            g: times(self.g, other.g),
            b: times(self.b, other.b),
            a: times(self.a, other.a),
        }
    }

    /// Returns the four channels as bytes: red, green, blue, alpha.
    pub const fn to_bytes(self) -> [u8; 4] {
        [self.r, self.g, self.b, self.a]
    }

    /// Returns a colour from its four channels.
    pub const fn from_bytes([r, g, b, a]: [u8; 4]) -> Color {
        Color { r, g, b, a }
    }
}

impl fmt::Display for Color {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "#{:02x}{:02x}{:02x}", self.r, self.g, self.b)?;
        if self.a != 255 { write!(f, "{:02x}", self.a) } else { Ok(()) }
    }
}

/// A text is not a colour.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("`{0}` is not a colour; write #rrggbb or #rrggbbaa")]
pub struct ColorError(pub String);

impl FromStr for Color {
    type Err = ColorError;

    fn from_str(text: &str) -> Result<Color, ColorError> {
        let wrong = || ColorError(text.to_owned());
        let digits = text.strip_prefix('#').ok_or_else(wrong)?;
        if !matches!(digits.len(), 6 | 8) || !digits.bytes().all(|b| b.is_ascii_hexdigit()) {
            return Err(wrong());
        }
        let value = u32::from_str_radix(digits, 16).map_err(|_| wrong())?;
        let rgba = if digits.len() == 6 { value << 8 | 0xff } else { value };
        Ok(Color::from_bytes(rgba.to_be_bytes()))
    }
}

impl Serialize for Color {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Color {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        text.parse().map_err(serde::de::Error::custom)
    }
}
