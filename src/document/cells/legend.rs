//! Legends: what characters and colours stand for.

use super::Spelled;
use crate::document::reader::Reader;
use crate::document::tree::Node;
use crate::picture::Color;

/// What the characters of rows and the colours of pictures stand for, in the order of the document.
#[derive(Clone, Debug)]
pub(super) struct Legend<V> {
    pub(super) characters: Vec<(char, V)>,
    pub(super) colors: Vec<(Color, V)>,
}

impl<V> Default for Legend<V> {
    fn default() -> Legend<V> {
        Legend { characters: Vec::new(), colors: Vec::new() }
    }
}

/// Reads a legend. A faulty entry is noted; its character or colour is known all the same.
pub(super) fn read<'a, S: Spelled>(
    reader: &mut Reader<'a, '_>,
    node: Node<'a>,
    spelled: &mut S,
) -> Option<Legend<S::Value>> {
    let mut legend = Legend::default();
    for entry in reader.entries(node, "the legend")? {
        let mut characters = entry.key.chars();
        let single = characters.next().filter(|_| characters.next().is_none());
        let color = entry.key.parse::<Color>();
        if single.is_none() && color.is_err() {
            let span = reader.key_span(&entry);
            let message = format!(
                "the legend has `{}`, which is neither one character nor a colour",
                entry.key
            );
            let hint = "each key of a legend is a character of the rows, or a colour of the picture written #rrggbb or #rrggbbaa";
            reader.error_with_hint(span, message, Some(hint.to_owned()));
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
