//! A JSON document as a tree whose every node knows its place in the text.
//!
//! `serde_json` gives no places for values, but it can lend a value as the very slice of text that
//! spells it. A node is such a slice: its place is the distance of the two pointers, and its inner
//! nodes are read when they are asked for. So a long list of numbers costs no tree.

use std::borrow::Cow;
use std::fmt;

use serde::de::{Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

/// One value of a document.
#[derive(Clone, Copy, Debug)]
pub(super) struct Node<'a> {
    raw: &'a str,
}

/// One entry of an object.
#[derive(Clone, Debug)]
pub(super) struct Entry<'a> {
    pub(super) key: Cow<'a, str>,
    pub(super) value: Node<'a>,
}

/// A part of a text in bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Span {
    pub(super) start: usize,
    pub(super) len: usize,
}

impl<'a> Node<'a> {
    /// The root of a text, once the whole of it is known to be JSON.
    pub(super) fn root(text: &'a str) -> Result<Node<'a>, serde_json::Error> {
        serde_json::from_str::<&RawValue>(text).map(Node::of)
    }

    fn of(raw: &'a RawValue) -> Node<'a> {
        Node { raw: raw.get() }
    }

    /// The part of the text that spells it.
    pub(super) fn span(self, text: &str) -> Span {
        span_of(text, self.raw)
    }

    /// What kind of value it is, in words.
    pub(super) fn kind(self) -> &'static str {
        match self.raw.as_bytes().first() {
            Some(b'{') => "an object",
            Some(b'[') => "a list",
            Some(b'"') => "a text",
            Some(b't' | b'f') => "true or false",
            Some(b'n') => "null",
            _ => "a number",
        }
    }

    pub(super) fn is_null(self) -> bool {
        self.raw == "null"
    }

    pub(super) fn is_text(self) -> bool {
        self.raw.starts_with('"')
    }

    /// The entries of an object in their order, repeated keys included.
    pub(super) fn entries(self) -> Option<Vec<Entry<'a>>> {
        if !self.raw.starts_with('{') {
            return None;
        }
        let mut deserializer = serde_json::Deserializer::from_str(self.raw);
        deserializer.deserialize_map(EntriesVisitor).ok()
    }

    /// The items of a list.
    pub(super) fn items(self) -> Option<Vec<Node<'a>>> {
        let items: Vec<&RawValue> = serde_json::from_str(self.raw).ok()?;
        Some(items.into_iter().map(Node::of).collect())
    }

    pub(super) fn text(self) -> Option<Cow<'a, str>> {
        serde_json::from_str::<Text<'_>>(self.raw).ok().map(|text| text.0)
    }

    pub(super) fn number(self) -> Option<f64> {
        serde_json::from_str(self.raw).ok()
    }

    pub(super) fn integer(self) -> Option<i64> {
        serde_json::from_str(self.raw).ok()
    }

    /// A list of whole numbers and nothing else.
    pub(super) fn whole_numbers(self) -> Option<Vec<i64>> {
        serde_json::from_str(self.raw).ok()
    }

    pub(super) fn boolean(self) -> Option<bool> {
        serde_json::from_str(self.raw).ok()
    }

    /// How deep lists and objects are nested in it: 0 for a value that is neither.
    pub(super) fn depth(self) -> usize {
        let (mut depth, mut deepest, mut in_text, mut escaped) = (0_usize, 0, false, false);
        for byte in self.raw.bytes() {
            match byte {
                _ if escaped => escaped = false,
                b'\\' if in_text => escaped = true,
                b'"' => in_text = !in_text,
                b'[' | b'{' if !in_text => {
                    depth += 1;
                    deepest = deepest.max(depth);
                }
                b']' | b'}' if !in_text => depth = depth.saturating_sub(1),
                _ => {}
            }
        }
        deepest
    }

    /// The value as such; fails only where it is nested too deep.
    pub(super) fn value(self) -> Option<serde_json::Value> {
        serde_json::from_str(self.raw).ok()
    }
}

impl Entry<'_> {
    /// The part of the text that spells the key, or its value where the key is spelled with
    /// escapes.
    pub(super) fn key_span(&self, text: &str) -> Span {
        match self.key {
            Cow::Borrowed(key) => {
                let inner = span_of(text, key);
                Span { start: inner.start.saturating_sub(1), len: inner.len + 2 }
            }
            Cow::Owned(_) => self.value.span(text),
        }
    }
}

fn span_of(text: &str, part: &str) -> Span {
    let start = (part.as_ptr() as usize).saturating_sub(text.as_ptr() as usize);
    Span { start: start.min(text.len()), len: part.len() }
}

/// A text that is borrowed where it has no escapes.
struct Text<'a>(Cow<'a, str>);

impl<'de: 'a, 'a> serde::Deserialize<'de> for Text<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct TextVisitor;
        impl<'de> Visitor<'de> for TextVisitor {
            type Value = Text<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a text")
            }

            fn visit_borrowed_str<E>(self, text: &'de str) -> Result<Text<'de>, E> {
                Ok(Text(Cow::Borrowed(text)))
            }

            fn visit_str<E>(self, text: &str) -> Result<Text<'de>, E> {
                Ok(Text(Cow::Owned(text.to_owned())))
            }
        }
        deserializer.deserialize_str(TextVisitor)
    }
}

struct EntriesVisitor;

impl<'de> Visitor<'de> for EntriesVisitor {
    type Value = Vec<Entry<'de>>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("an object")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Self::Value, A::Error> {
        let mut entries = Vec::new();
        while let Some((Text(key), value)) = map.next_entry::<Text<'de>, &'de RawValue>()? {
            entries.push(Entry { key, value: Node::of(value) });
        }
        Ok(entries)
    }
}
