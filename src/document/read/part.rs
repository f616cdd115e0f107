//! Reading a part of a map by itself.

use std::cell::OnceCell;

use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problems};
use crate::document::syntax::{Node, Reader, parsed};

/// Reads a text that stands in no document; `label` says what it is, for messages.
pub(crate) fn read_part<T>(
    text: &str,
    label: &str,
    limits: &Limits,
    read: impl for<'a> FnOnce(&mut Reader<'a, '_>, Node<'a>) -> Option<T>,
) -> Result<T, LoadError> {
    let (mut problems, mended) = (Problems::new(limits), OnceCell::new());
    let tree = parsed(text, &mended, label, &mut problems);
    let part = tree.and_then(|tree| {
        let mut reader = Reader::of_text(text, label, &mut problems);
        read(&mut reader, tree.root())
    });
    match part.filter(|_| problems.errors() == 0) {
        Some(part) => Ok(part),
        None => Err(problems.into_error()),
    }
}
