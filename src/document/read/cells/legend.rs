//! Legends: what characters and colours stand for.

use std::cell::OnceCell;

use rustc_hash::FxHashMap;

use super::grid::{CellSource, LegendKind, Spelled};
use crate::document::syntax::{Node, Reader, parsed};
use crate::picture::Color;

/// What the characters of rows, the colours of pictures and the fields of tables stand for, in the order of the document.
#[derive(Clone, Debug)]
pub(crate) struct Legend<V> {
    pub(crate) characters: Vec<(char, V)>,
    pub(crate) colors: Vec<(Color, V)>,
    pub(crate) fields: FxHashMap<String, V>,
}

impl<V> Default for Legend<V> {
    fn default() -> Legend<V> {
        Legend { characters: Vec::new(), colors: Vec::new(), fields: FxHashMap::default() }
    }
}

/// Reads a legend that stands in the document, or in a file of its own that it names.
pub(crate) fn read<'a, S: Spelled>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    source: &mut CellSource<'_, '_>,
    kind: LegendKind,
    spelled: &mut S,
) -> Option<Legend<S::Value>> {
    if !node.is_text() {
        return read_entries(reader, node, kind, spelled);
    }
    let (label, text) = source.text_file(reader, node)?;
    let mended = OnceCell::new();
    let tree = parsed(&text, &mended, &label, reader.problems())?;
    let mut reader = Reader::of_text(&text, &label, reader.problems());
    let root = tree.root();
    read_entries(&mut reader, root, kind, spelled)
}

/// Reads the entries of a legend. A faulty one is noted; its character or colour is known all the
/// same.
fn read_entries<'a, S: Spelled>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    kind: LegendKind,
    spelled: &mut S,
) -> Option<Legend<S::Value>> {
    let mut legend = Legend::default();
    for entry in reader.entries(node, "the legend")? {
        if kind == LegendKind::Fields {
            let value = spelled.entry(reader, entry.value).unwrap_or_default();
            legend.fields.insert(entry.key.trim().to_owned(), value);
            continue;
        }
        let mut characters = entry.key.chars();
        let single = characters.next().filter(|_| characters.next().is_none());
        let color = entry.key.parse::<Color>();
        if single.is_none() && color.is_err() {
            let message = format!(
                "the legend has `{}`, which is neither one character nor a colour",
                entry.key
            );
            let hint = "each key of a legend is a character of the rows, or a colour of the picture written #rrggbb or #rrggbbaa";
            reader.error_with_hint(entry.key_span(), message, Some(hint));
            continue;
        }
        let value = spelled.entry(reader, entry.value).unwrap_or_default();
        match (single, color) {
            (Some(character), _) => legend.characters.push((character, value)),
            (None, Ok(color)) => legend.colors.push((color, value)),
            (None, Err(_)) => {}
        }
    }
    Some(legend)
}
