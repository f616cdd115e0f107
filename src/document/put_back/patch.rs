//! Changes of single values of a JSON text; all else of it stays as it was typed.

use std::collections::BTreeMap;

use serde_json::Value;

use crate::document::syntax::{Entry, Node, Span};
use crate::document::write::Laid;
/// Why changes cannot be put back, in words that go on from "since".
pub(super) type Why = String;

/// Changes of a text: by the place where each begins, what is taken out there and what is put in.
#[derive(Clone, Debug, Default)]
pub(super) struct Patches(BTreeMap<(usize, usize), String>);

impl Patches {
    /// Puts a text in the place of a part.
    pub(crate) fn replace(&mut self, span: Span, text: String) {
        self.0.insert((span.start, span.start + span.len), text);
    }

    /// The text that was put in the place of a part.
    fn put_in(&self, span: Span) -> Option<&str> {
        self.0.get(&(span.start, span.start + span.len)).map(String::as_str)
    }

    /// Puts a text before what is there, behind what was put there before.
    pub(crate) fn insert(&mut self, at: usize, text: &str) {
        self.0.entry((at, at)).or_default().push_str(text);
    }

    /// The text with all changes.
    pub(crate) fn applied(&self, text: &str) -> String {
        let mut out = String::with_capacity(text.len());
        let mut at = 0;
        for ((start, end), new) in &self.0 {
            out.push_str(text.get(at..*start).unwrap_or_default());
            out.push_str(new);
            at = *end;
        }
        out.push_str(text.get(at..).unwrap_or_default());
        out
    }
}

/// A text that is changed.
pub(super) struct Patcher<'t> {
    pub(crate) text: &'t str,
    pub(crate) patches: Patches,
}

impl<'t> Patcher<'t> {
    pub(crate) fn new(text: &'t str) -> Patcher<'t> {
        Patcher { text, patches: Patches::default() }
    }

    /// The blanks at the beginning of the line on which a place lies.
    fn indent(&self, at: usize) -> &'t str {
        let start = self.text[..at].rfind('\n').map_or(0, |end| end + 1);
        let line = &self.text[start..];
        &line[..line.len() - line.trim_start_matches([' ', '\t']).len()]
    }

    /// Gives the space between two values of a list or object, by where one of them begins: the end
    /// of the line and its indent where it is the first on its line, else a blank.
    fn gap(&self, at: usize) -> String {
        let start = self.text[..at].rfind('\n').map_or(0, |end| end + 1);
        if !self.text[start..at].trim().is_empty() || start == 0 {
            return " ".to_owned();
        }
        let end = if self.text[..start].ends_with("\r\n") { "\r\n" } else { "\n" };
        format!("{end}{}", self.indent(at))
    }

    /// A value as it is laid out at a place of the text.
    fn laid(&self, laid: &Laid, key: &str, at: usize) -> String {
        laid.text_at(key, self.indent(at).chars().count())
    }

    /// Puts a value in the place of another.
    pub(crate) fn set(&mut self, node: Node<'_>, key: &str, new: &Laid) {
        let span = node.span();
        self.patches.replace(span, self.laid(new, key, span.start));
    }

    /// Adds an entry behind the last of an object.
    pub(super) fn add_entry(&mut self, object: Node<'_>, key: &str, new: &Laid) {
        let quoted = Value::from(key).to_string();
        let entries = object.entries().unwrap_or_default();
        match entries.last() {
            Some(last) => {
                let (at, end) = (last.key_span().start, end_of(last.value));
                let entry = format!(",{}{quoted}: {}", self.gap(at), self.laid(new, key, at));
                self.patches.insert(end, &entry);
            }
            None => {
                let span = object.span();
                let entry = format!("{quoted}: {} }}", self.laid(new, key, span.start));
                match self.patches.put_in(span).and_then(|put| put.strip_suffix(" }")) {
                    // Behind those that were added before.
                    Some(first) => self.patches.replace(span, format!("{first}, {entry}")),
                    None => self.patches.replace(span, format!("{{ {entry}")),
                }
            }
        }
    }

    /// Adds an entry before another.
    pub(super) fn add_entry_before(&mut self, next: &Entry<'_>, key: &str, new: &Laid) {
        let at = next.key_span().start;
        let entry = format!("{}: {},{}", Value::from(key), self.laid(new, key, at), self.gap(at));
        self.patches.insert(at, &entry);
    }

    /// Takes entries, or items, out of their object or list; `spans` are those of all.
    fn remove(&mut self, spans: &[(usize, usize)], is_gone: impl Fn(usize) -> bool) {
        let first_kept = (0..spans.len()).find(|at| !is_gone(*at)).unwrap_or(spans.len());
        let mut take = |from: usize, to: usize| {
            self.patches.replace(Span { start: from, len: to - from }, String::new());
        };
        if let (Some(first), true) = (spans.first(), first_kept > 0) {
            // With the comma before the first that is kept.
            let to = spans.get(first_kept).map_or(spans[spans.len() - 1].1, |kept| kept.0);
            take(first.0, to);
        }
        // Others with the comma before them.
        for at in (first_kept + 1..spans.len()).filter(|at| is_gone(*at)) {
            take(spans[at - 1].1, spans[at].1);
        }
    }

    /// Adds an item behind one of a list, or to an empty list.
    pub(super) fn add_item(&mut self, list: Node<'_>, after: Option<usize>, new: &Laid) {
        let items = list.items().unwrap_or_default();
        match after.and_then(|after| items.get(after)).or(items.first()) {
            None => self.set(list, "", &Laid::List(vec![new.clone()])),
            Some(item) => {
                let at = item.span().start;
                let (text, gap) = (self.laid(new, "", at), self.gap(at));
                match after {
                    Some(_) => self.patches.insert(end_of(*item), &format!(",{gap}{text}")),
                    None => self.patches.insert(at, &format!("{text},{gap}")),
                }
            }
        }
    }

    /// Changes the text so that a value which meant `before` means `after`; what is alike stays as
    /// it was typed.
    pub(crate) fn change(&mut self, node: Node<'_>, key: &str, before: &Value, after: &Value) {
        if before == after {
            return;
        }
        match (before, after) {
            (Value::Object(old), Value::Object(new)) if node.is_object() => {
                let entries = node.entries().unwrap_or_default();
                let find = |key: &str| entries.iter().find(|entry| entry.key == key);
                for (key, value) in new {
                    match (find(key), old.get(key)) {
                        (Some(entry), Some(held)) => self.change(entry.value, key, held, value),
                        // What had its default, and was stated all the same or was not.
                        (Some(entry), None) => self.set(entry.value, key, &value.clone().into()),
                        (None, Some(held)) if held == value => {}
                        (None, _) => self.add_entry(node, key, &value.clone().into()),
                    }
                }
                let spans: Vec<(usize, usize)> = entries
                    .iter()
                    .map(|entry| (entry.key_span().start, end_of(entry.value)))
                    .collect();
                let gone =
                    |entry: &Entry<'_>| old.contains_key(entry.key) && !new.contains_key(entry.key);
                self.remove(&spans, |at| gone(&entries[at]));
            }
            (Value::Array(old), Value::Array(new)) => {
                let items = node.items().unwrap_or_default();
                if items.len() != old.len() {
                    return self.set(node, key, &after.clone().into());
                }
                if old.len() == new.len() && named(old).is_none() {
                    for ((item, old), new) in items.into_iter().zip(old).zip(new) {
                        self.change(item, "", old, new);
                    }
                } else if let (Some(old_names), Some(new_names)) = (named(old), named(new)) {
                    self.change_named(node, (old, &old_names), (new, &new_names));
                } else {
                    self.set(node, key, &after.clone().into());
                }
            }
            _ => self.set(node, key, &after.clone().into()),
        }
    }

    /// Changes a list of objects with names; each is found by its name.
    fn change_named(
        &mut self,
        node: Node<'_>,
        (old, old_names): (&[Value], &[&str]),
        (new, new_names): (&[Value], &[&str]),
    ) {
        let items = node.items().unwrap_or_default();
        let kept: Vec<&str> =
            old_names.iter().copied().filter(|name| new_names.contains(name)).collect();
        let same_order = new_names.iter().filter(|name| kept.contains(name)).eq(kept.iter());
        if !same_order || kept.is_empty() && !old.is_empty() {
            return self.set(node, "", &Value::from(new.to_vec()).into());
        }
        let spans: Vec<(usize, usize)> =
            items.iter().map(|item| (item.span().start, end_of(*item))).collect();
        let place = |name: &str| old_names.iter().position(|held| *held == name);
        self.remove(&spans, |at| !kept.contains(&old_names[at]));
        let mut after = None;
        for (name, value) in new_names.iter().zip(new) {
            match place(name) {
                Some(at) => {
                    self.change(items[at], "", &old[at], value);
                    after = Some(at);
                }
                None => self.add_item(node, after, &value.clone().into()),
            }
        }
    }
}

/// The names of objects that all have one, each its own.
fn named(items: &[Value]) -> Option<Vec<&str>> {
    let names: Vec<&str> =
        items.iter().map(|item| item.get("name")?.as_str()).collect::<Option<_>>()?;
    let mut sorted = names.clone();
    sorted.sort_unstable();
    sorted.dedup();
    (sorted.len() == names.len()).then_some(names)
}

fn end_of(node: Node<'_>) -> usize {
    let span = node.span();
    span.start + span.len
}
