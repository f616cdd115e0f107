//! Reading one document: typed access to its nodes, every fault noted with its place.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::collections::HashSet;
use std::ops::RangeInclusive;

use super::mend::{Fault, mend};
use super::tree::{Entry, Node, Span, Tree, too_many};
use crate::document::problem::{Problem, Problems, Severity, TextPlace};
use crate::name_error::{did_you_mean, near_names};
use crate::picture::{Color, ColorError};
use crate::quilt::PartError;
use crate::units::CellPos;

/// One document that is being read.
pub(crate) struct Reader<'a, 'p> {
    text: &'a str,
    label: &'a str,
    problems: &'p mut Problems,
}

/// The entries of an object of which the keys are known.
#[derive(Debug)]
pub(crate) struct Fields<'a> {
    pub(crate) node: Node<'a>,
    what: String,
    entries: Vec<Entry<'a>>,
    /// The keys that unknown ones, which were told, are near to.
    meant: Vec<String>,
}

impl<'a> Fields<'a> {
    pub(crate) fn get(&self, key: &str) -> Option<Node<'a>> {
        self.entries.iter().find(|entry| entry.key == key).map(|entry| entry.value)
    }

    /// Whether one of some keys is stated, but misspelled; that was told.
    pub(crate) fn is_misspelled(&self, keys: &[&str]) -> bool {
        self.meant.iter().any(|meant| keys.contains(&&**meant) && self.get(meant).is_none())
    }

    /// Puts what a key states in the place of a value, where it is stated and can be read.
    pub(crate) fn put<T>(
        &self,
        key: &str,
        value: &mut T,
        read: impl FnOnce(Node<'a>) -> Option<T>,
    ) {
        if let Some(stated) = self.get(key).and_then(read) {
            *value = stated;
        }
    }
}

/// What a node states, where there is one: `None` where it cannot be read.
pub(crate) fn optional<'a, T>(
    node: Option<Node<'a>>,
    read: impl FnOnce(Node<'a>) -> Option<T>,
) -> Option<Option<T>> {
    node.map_or(Some(None), |node| read(node).map(Some))
}

/// A text as JSON. Of one that is none, everything that is wrong is noted, and where it could be
/// mended, what is meant is read: so that the rest can be checked too. `mended` keeps that text.
pub(crate) fn parsed<'a>(
    text: &'a str,
    mended: &'a OnceCell<String>,
    label: &str,
    problems: &mut Problems,
) -> Option<Tree<'a>> {
    let most = problems.json_values;
    let error = match Tree::of(text, most) {
        Ok(tree) => return Some(tree),
        Err(error) => error,
    };
    let is_refused = error.to_string().contains("recursion limit")
        || error.to_string().starts_with(&too_many(most));
    if !is_refused {
        let found = mend(text);
        for Fault { span, message, hint } in &found.faults {
            let mut reader = Reader::of_text(text, label, problems);
            reader.error_with_hint(*span, message.clone(), hint.clone());
        }
        if let Some(whole) = found.text {
            return Tree::of(mended.get_or_init(|| whole), most).ok();
        }
        if !found.faults.is_empty() {
            return None;
        }
    }
    unparsed(text, label, problems, &error);
    None
}

/// Notes why a text is not JSON, as the parser tells it.
fn unparsed(text: &str, label: &str, problems: &mut Problems, error: &serde_json::Error) {
    let lines = text.split_inclusive('\n').take(error.line().saturating_sub(1));
    let line_start: usize = lines.map(str::len).sum();
    // A fault that shows only at the start of a line is counted as column 0.
    let span = Span { start: line_start + error.column().saturating_sub(1), len: 1 };
    let whole = error.to_string();
    let message = match whole.rsplit_once(" at line").map_or(&*whole, |(what, _)| what) {
        "recursion limit exceeded" => "the document is nested too deep from here on".to_owned(),
        message if message == too_many(problems.json_values) => message.to_owned(),
        message => format!("this is not valid JSON: {message}"),
    };
    Reader::of_text(text, label, problems).error(span, message);
}

/// A text as a message shows it: of a very long one the beginning.
pub(super) fn shortened(text: &str) -> std::borrow::Cow<'_, str> {
    const MAX: usize = 200;
    match text.char_indices().nth(MAX) {
        Some((end, _)) => format!("{}…", &text[..end]).into(),
        None => text.into(),
    }
}

impl<'a, 'p> Reader<'a, 'p> {
    /// For noting the problems of a text.
    pub(crate) fn of_text(
        text: &'a str,
        label: &'a str,
        problems: &'p mut Problems,
    ) -> Reader<'a, 'p> {
        Reader { text, label, problems }
    }

    pub(crate) fn errors(&self) -> usize {
        self.problems.errors()
    }

    /// Whether a problem would be listed, and not only counted: else what is costly to say of it need
    /// not be found.
    pub(crate) fn lists(&self, severity: Severity) -> bool {
        self.problems.lists(severity)
    }

    pub(crate) fn problems(&mut self) -> &mut Problems {
        self.problems
    }

    pub(crate) fn error(&mut self, span: Span, message: impl Into<String>) {
        self.report(Severity::Error, span, None, message.into(), None);
    }

    pub(crate) fn error_with_hint(
        &mut self,
        span: Span,
        message: impl Into<String>,
        hint: Option<impl Into<String>>,
    ) {
        self.report(Severity::Error, span, None, message.into(), hint.map(Into::into));
    }

    /// An error that is about one cell of a layer.
    pub(crate) fn error_at_cell(
        &mut self,
        span: Span,
        cell: CellPos,
        message: String,
        hint: impl Into<String>,
    ) {
        self.report(Severity::Error, span, Some(cell), message, Some(hint.into()));
    }

    pub(crate) fn warning(
        &mut self,
        span: Span,
        message: impl Into<String>,
        hint: Option<impl Into<String>>,
    ) {
        self.report(Severity::Warning, span, None, message.into(), hint.map(Into::into));
    }

    fn report(
        &mut self,
        severity: Severity,
        span: Span,
        cell: Option<CellPos>,
        message: String,
        hint: Option<String>,
    ) {
        if self.problems.counted_only(severity) {
            return;
        }
        let place = Some(TextPlace::find(self.text, span.start, span.len));
        self.problems.push(Problem {
            severity,
            file: self.label.to_owned(),
            place,
            pixel: None,
            cell,
            message,
            hint,
        });
    }

    /// Notes that a value has the wrong type; gives `None` for convenience.
    pub(crate) fn mistyped<T>(&mut self, node: Node<'_>, what: &str, wanted: &str) -> Option<T> {
        let found = node.number().map_or_else(|| node.kind().to_owned(), |n| n.to_string());
        self.error(node.span(), format!("{what} must be {wanted}, not {found}"));
        None
    }

    /// The entries of an object; keys that are not known, or come twice, are noted.
    pub(crate) fn fields(
        &mut self,
        node: Node<'a>,
        what: &str,
        known: &[&str],
    ) -> Option<Fields<'a>> {
        let entries = self.entries(node, what)?;
        let mut meant = Vec::new();
        for entry in entries.iter().filter(|entry| !known.contains(&entry.key)) {
            if self.problems.counted_only(Severity::Error) {
                continue;
            }
            let near = near_names(entry.key, known.iter().copied());
            let hint = did_you_mean(&near)
                .unwrap_or_else(|| format!("known keys are {}", known.join(", ")));
            let message = format!("{what} has an unknown key `{}`", shortened(entry.key));
            self.error_with_hint(entry.key_span(), message, Some(hint));
            meant.extend(near);
        }
        Some(Fields { node, what: what.to_owned(), entries, meant })
    }

    /// The entries of an object with keys of any name; keys that come twice are noted.
    pub(crate) fn entries(&mut self, node: Node<'a>, what: &str) -> Option<Vec<Entry<'a>>> {
        let Some(entries) = node.entries() else {
            return self.mistyped(node, what, "an object");
        };
        let mut seen = HashSet::new();
        for entry in &entries {
            if !seen.insert(entry.key) && !self.problems.counted_only(Severity::Error) {
                let message = format!("{what} has the key `{}` twice", shortened(entry.key));
                self.error(entry.key_span(), message);
            }
        }
        Some(entries)
    }

    /// A value that must be there. Of one whose key is misspelled no more is told than that.
    pub(crate) fn required(&mut self, fields: &Fields<'a>, key: &str) -> Option<Node<'a>> {
        let found = fields.get(key);
        if found.is_none() && !fields.is_misspelled(&[key]) {
            self.error(fields.node.start(), format!("{} has no `{key}`", fields.what));
        }
        found
    }

    pub(crate) fn items(&mut self, node: Node<'a>, what: &str) -> Option<Vec<Node<'a>>> {
        node.items().or_else(|| self.mistyped(node, what, "a list"))
    }

    pub(crate) fn text(&mut self, node: Node<'a>, what: &str) -> Option<Cow<'a, str>> {
        node.text().or_else(|| self.mistyped(node, what, "a text"))
    }

    pub(crate) fn boolean(&mut self, node: Node<'a>, what: &str) -> Option<bool> {
        node.boolean().or_else(|| self.mistyped(node, what, "true or false"))
    }

    pub(crate) fn number(&mut self, node: Node<'a>, what: &str) -> Option<f64> {
        node.number().or_else(|| self.mistyped(node, what, "a number"))
    }

    /// A whole number within some limits.
    pub(crate) fn integer<T: Copy + Into<i64> + TryFrom<i64>>(
        &mut self,
        node: Node<'a>,
        what: &str,
        limits: RangeInclusive<T>,
    ) -> Option<T> {
        let (from, to): (i64, i64) = ((*limits.start()).into(), (*limits.end()).into());
        let Some(value) = node.integer() else {
            return self.mistyped(node, what, "a whole number");
        };
        if !(from..=to).contains(&value) {
            let message = format!("{what} must lie between {from} and {to}, not {value}");
            self.error(node.span(), message);
            return None;
        }
        T::try_from(value).ok()
    }

    /// One of a few words.
    pub(crate) fn choice<T: Copy>(
        &mut self,
        node: Node<'a>,
        what: &str,
        choices: &[(&str, T)],
    ) -> Option<T> {
        let text = self.text(node, what)?;
        let found = choices.iter().find(|(word, _)| *word == text);
        if found.is_none() {
            let words: Vec<&str> = choices.iter().map(|(word, _)| *word).collect();
            let near = did_you_mean(&near_names(&text, words.iter().copied()));
            let hint = near.unwrap_or_else(|| format!("it is one of {}", words.join(", ")));
            self.error_with_hint(node.span(), format!("{what} cannot be `{text}`"), Some(hint));
        }
        found.map(|(_, value)| *value)
    }

    /// A colour, as [`Color`] is written.
    pub(crate) fn color(&mut self, node: Node<'a>, what: &str) -> Option<Color> {
        let text = self.text(node, what)?;
        text.parse()
            .map_err(|error: ColorError| {
                self.error(node.span(), error.to_string());
            })
            .ok()
    }

    /// A list of exactly two values.
    pub(super) fn pair(&mut self, node: Node<'a>, what: &str) -> Option<[Node<'a>; 2]> {
        if let Some(number) = node.number() {
            let hint = Some(format!("write [{number}, {number}]"));
            self.error_with_hint(node.span(), format!("{what} must be a list of two values"), hint);
            return None;
        }
        let items = self.items(node, what)?;
        let count = items.len();
        items.try_into().ok().or_else(|| {
            self.error(node.span(), format!("{what} must be a list of two values, not of {count}"));
            None
        })
    }

    /// A list of two whole numbers within some limits.
    pub(crate) fn integers<T: Copy + Into<i64> + TryFrom<i64>>(
        &mut self,
        node: Node<'a>,
        what: &str,
        limits: RangeInclusive<T>,
    ) -> Option<(T, T)> {
        let [a, b] = self.pair(node, what)?;
        let (a, b) = (self.integer(a, what, limits.clone()), self.integer(b, what, limits));
        Some((a?, b?))
    }

    /// A list of texts, of which each is something.
    pub(crate) fn texts(&mut self, node: Node<'a>, what: &str, each: &str) -> Option<Vec<String>> {
        let items = self.items(node, what)?.into_iter();
        items.map(|item| Some(self.text(item, each)?.into_owned())).collect()
    }

    /// A list of two numbers.
    pub(crate) fn numbers(&mut self, node: Node<'a>, what: &str) -> Option<(f64, f64)> {
        let [a, b] = self.pair(node, what)?;
        let (a, b) = (self.number(a, what), self.number(b, what));
        Some((a?, b?))
    }

    /// Notes why a part cannot be in the map, at a node.
    pub(crate) fn check<T>(&mut self, node: Node<'a>, checked: Result<T, PartError>) -> Option<T> {
        self.check_at(node.start(), checked)
    }

    /// Notes why a part cannot be in the map, at a place of the text.
    pub(crate) fn check_at<T>(&mut self, span: Span, checked: Result<T, PartError>) -> Option<T> {
        checked.map_err(|error| self.part_error(span, &error)).ok()
    }

    /// Notes why a part cannot be in the map.
    pub(crate) fn part_error(&mut self, span: Span, error: &PartError) {
        let why = std::error::Error::source(error).map(ToString::to_string);
        self.error_with_hint(span, error.to_string(), why);
    }

    /// A value of the game's own.
    pub(crate) fn data(&mut self, node: Node<'a>, what: &str) -> Option<serde_json::Value> {
        let (most, most_values) = (self.problems.depth, self.problems.json_values);
        let message = if node.depth() > most {
            format!("{what} is nested too deep: {most} levels are allowed")
        } else if node.count() > most_values {
            format!("{what}: {}", too_many(most_values))
        } else {
            return Some(node.value());
        };
        self.error(node.start(), message);
        None
    }
}
