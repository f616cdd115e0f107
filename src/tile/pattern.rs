use std::fmt;
use std::str::FromStr;

/// A pattern that gives every tile of a cut sheet a name: text with `{column}`, `{row}` and
/// `{number}` (row by row), all counted from 0, and `{sheet}`, the name of the set.
///
/// The full name of a tile begins with that of its set, so `{sheet}/` at the beginning of a
/// pattern says what holds anyway.
///
/// ```
/// use sturdy_quilt::tile::NamePattern;
///
/// let pattern: NamePattern = "{sheet}/{column}-{row}".parse()?;
/// assert_eq!(pattern.name("terrace", 3, 2, 19), "3-2");
/// assert!("{colum}".parse::<NamePattern>().is_err());
/// # Ok::<(), sturdy_quilt::tile::NamePatternError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NamePattern {
    text: String,
}

/// The error of a text that is not a pattern of names.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NamePatternError {
    /// Something in braces that is none of the known words.
    #[error(
        "`{{{0}}}` is not known in a pattern of names; write {{column}}, {{row}}, {{number}} or {{sheet}}"
    )]
    Unknown(String),
    /// A brace without its other half.
    #[error("a brace of the pattern `{0}` is not closed")]
    Unclosed(String),
    /// It gives all tiles the same name.
    #[error(
        "the pattern `{0}` gives all tiles the same name; let it hold {{number}}, or {{column}} and {{row}}"
    )]
    Constant(String),
}

impl NamePattern {
    /// Returns the name of a tile by the pattern.
    pub fn name(&self, set: &str, column: u32, row: u32, number: u32) -> String {
        let text = self.text.strip_prefix("{sheet}/").unwrap_or(&self.text);
        text.replace("{sheet}", set)
            .replace("{column}", &column.to_string())
            .replace("{row}", &row.to_string())
            .replace("{number}", &number.to_string())
    }
}

impl FromStr for NamePattern {
    type Err = NamePatternError;

    fn from_str(text: &str) -> Result<NamePattern, NamePatternError> {
        let mut rest = text;
        let mut varies = false;
        while let Some(start) = rest.find(['{', '}']) {
            let closed = rest[start..].strip_prefix('{').and_then(|inner| inner.split_once('}'));
            let Some((word, after)) = closed else {
                return Err(NamePatternError::Unclosed(text.to_owned()));
            };
            match word {
                "column" | "row" | "number" => varies = true,
                "sheet" => {}
                _ => return Err(NamePatternError::Unknown(word.to_owned())),
            }
            rest = after;
        }
        if !varies {
            return Err(NamePatternError::Constant(text.to_owned()));
        }
        Ok(NamePattern { text: text.to_owned() })
    }
}

impl fmt::Display for NamePattern {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}
