//! The language of edits: one change a line, the same words as on the command line.

// `change` says what can be changed, `line` reads a line, `file` a script with its places.

mod change;
mod file;
mod line;

pub(crate) use change::{COMMANDS, Change, Join, Mark, SHAPES, Shape};
pub(crate) use file::read_script;
pub(crate) use line::{parse_line, parse_words};
