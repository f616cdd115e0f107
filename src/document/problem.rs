use std::fmt;

use serde::Serialize;

use super::limits::Limits;
use crate::quilt::MAX_DATA_DEPTH;
use crate::units::CellPos;

/// A fault of an input: where, what, and what to do.
///
/// Its `Display` is one line: `file:line:column: error: what; hint`.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[non_exhaustive]
pub struct Problem {
    /// Whether the map can be loaded all the same.
    pub severity: Severity,
    /// The file, as its source calls it.
    pub file: String,
    /// The place in the text of the file, where there is one.
    pub place: Option<TextPlace>,
    /// The pixel, column and row from 0, where the file is a picture.
    pub pixel: Option<(u32, u32)>,
    /// The cell of the layer that the message names, where it is about one.
    pub cell: Option<CellPos>,
    /// What is wrong, in one clause.
    pub message: String,
    /// What to do about it.
    pub hint: Option<String>,
}

/// The severity of a [`Problem`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The map cannot be loaded.
    Error,
    /// The map can be loaded, but is probably not as it was meant.
    Warning,
}

/// A place in the text of a file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct TextPlace {
    /// The line, counted from 1.
    pub line: usize,
    /// The column in characters, counted from 1.
    pub column: usize,
    /// The number of characters that are meant, at least 1; never beyond the end of the line.
    pub length: usize,
    /// The text of the line, for showing it with a caret; of a long line the part around the column,
    /// with `…` where it is cut.
    pub excerpt: String,
    /// The column in the excerpt, counted from 1.
    pub excerpt_column: usize,
}

impl TextPlace {
    /// The place of `len` bytes from `start` on, in a text. Places within a character move back
    /// to its start.
    pub(super) fn find(text: &str, start: usize, len: usize) -> TextPlace {
        let floor = |at: usize| {
            (0..=at.min(text.len())).rev().find(|&at| text.is_char_boundary(at)).unwrap_or(0)
        };
        let (start, end) = (floor(start), floor(start.saturating_add(len)));
        let line_start = text[..start].rfind('\n').map_or(0, |at| at + 1);
        let line_end = text[start..].find('\n').map_or(text.len(), |at| start + at);
        let characters = text[start..end.clamp(start, line_end)].trim_end().chars().count();
        let (excerpt, excerpt_column) =
            excerpt(text[line_start..line_end].trim_end(), start - line_start);
        TextPlace {
            line: text.as_bytes()[..start].iter().filter(|byte| **byte == b'\n').count() + 1,
            column: text[line_start..start].chars().count() + 1,
            length: characters.max(1),
            excerpt,
            excerpt_column,
        }
    }
}

/// A line as it is shown with a caret at a byte, and the column of the caret.
fn excerpt(line: &str, at: usize) -> (String, usize) {
    /// Shorter lines are shown as they are.
    const MAX_BYTES: usize = 400;
    /// So much of a longer one before the caret, and behind it.
    const BEFORE: usize = 80;
    const BEHIND: usize = 160;
    let column = |text: &str| text.chars().count() + 1;
    if line.len() <= MAX_BYTES {
        return (line.to_owned(), column(&line[..at.min(line.len())]));
    }
    let floor = |at: usize| {
        (0..=at.min(line.len())).rev().find(|&at| line.is_char_boundary(at)).unwrap_or(0)
    };
    let at = floor(at);
    let (from, to) = (floor(at.saturating_sub(BEFORE)), floor(at + BEHIND));
    let (cut_before, cut_behind) =
        (if from > 0 { "…" } else { "" }, if to < line.len() { "…" } else { "" });
    let before = column(&line[from..at]) + cut_before.chars().count();
    (format!("{cut_before}{}{cut_behind}", &line[from..to]), before)
}

impl fmt::Display for Severity {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Severity::Error => "error",
            Severity::Warning => "warning",
        })
    }
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Problem { severity, file, place, pixel, message, hint, .. } = self;
        f.write_str(file)?;
        if let Some((x, y)) = pixel {
            write!(f, ": pixel {x},{y}")?;
        }
        if let Some(place) = place {
            write!(f, ":{}:{}", place.line, place.column)?;
        }
        write!(f, ": {severity}: {message}")?;
        match hint {
            Some(hint) => write!(f, "; {hint}"),
            None => Ok(()),
        }
    }
}

/// The error of a map that could not be loaded: everything that is wrong with it, ordered by
/// severity, file and place.
///
/// Its text, also that of `Debug`, is a list with a line for each problem.
#[derive(Clone, PartialEq, Eq)]
pub struct LoadError {
    pub(super) problems: Vec<Problem>,
    pub(super) not_listed: usize,
    pub(super) awaited: Vec<String>,
    pub(super) is_cancelled: bool,
}

impl LoadError {
    pub(super) const fn cancelled() -> LoadError {
        let problems = Vec::new();
        LoadError { problems, not_listed: 0, awaited: Vec::new(), is_cancelled: true }
    }

    /// Returns the problems: errors first, then warnings.
    pub fn problems(&self) -> &[Problem] {
        &self.problems
    }

    /// Returns the files that are needed but have not arrived ([`FileSource::is_coming`]), by their
    /// paths in the source. Load again once they have; the problems listed until then may not be
    /// all.
    ///
    /// [`FileSource::is_coming`]: crate::document::FileSource::is_coming
    pub fn awaited(&self) -> &[String] {
        &self.awaited
    }

    /// Returns whether the load ended because it was cancelled.
    pub const fn is_cancelled(&self) -> bool {
        self.is_cancelled
    }

    /// Returns the number of problems that are not listed.
    pub const fn not_listed(&self) -> usize {
        self.not_listed
    }
}

impl fmt::Display for LoadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.is_cancelled {
            return f.write_str("loading the map was cancelled");
        }
        if !self.awaited.is_empty() {
            let awaited = self.awaited.join("`, `");
            write!(f, "the map cannot be loaded yet: `{awaited}` has not arrived")?;
            return self.write_list(f);
        }
        let errors = self.problems.iter().filter(|p| p.severity == Severity::Error).count();
        // Beyond a list that has a warning there are only warnings.
        let is_all = errors < self.problems.len();
        let count = if is_all { errors } else { errors + self.not_listed };
        let s = if count == 1 { "" } else { "s" };
        write!(f, "the map cannot be loaded: {count} error{s}")?;
        self.write_list(f)
    }
}

impl LoadError {
    /// The same error, in which what is wrong with a document that nobody has written is told of
    /// another file.
    pub(super) fn relabeled(mut self, from: &str, to: &str) -> LoadError {
        relabel(&mut self.problems, from, to);
        self
    }

    fn write_list(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for problem in &self.problems {
            write!(f, "\n  {problem}")?;
        }
        if self.not_listed > 0 {
            write!(f, "\n  and {} more that are not listed", self.not_listed)?;
        }
        Ok(())
    }
}

impl fmt::Debug for LoadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        fmt::Display::fmt(self, f)
    }
}

impl std::error::Error for LoadError {}

/// The problems found so far.
#[derive(Debug)]
pub(super) struct Problems {
    /// How deep values of the game's own may be nested.
    pub(super) depth: usize,
    /// Limits the values of one file, see [`Limits::json_values`].
    pub(super) json_values: u64,
    listed: Vec<Problem>,
    most: usize,
    listed_warnings: usize,
    not_listed: usize,
    errors: usize,
}

impl Problems {
    pub(super) fn new(limits: &Limits) -> Problems {
        let Limits { problems: most, depth, json_values, .. } = *limits;
        Problems {
            depth: depth.min(MAX_DATA_DEPTH),
            json_values,
            listed: Vec::new(),
            most,
            listed_warnings: 0,
            not_listed: 0,
            errors: 0,
        }
    }

    pub(super) fn push(&mut self, problem: Problem) {
        if self.counted_only(problem.severity) {
            return;
        }
        let is_error = problem.severity == Severity::Error;
        if self.listed.len() >= self.most
            && let Some(least) =
                self.listed.iter().rposition(|held| held.severity == Severity::Warning)
        {
            // What keeps the map from being loaded is worth more than what may be meant.
            self.listed.remove(least);
            self.listed_warnings -= 1;
            self.not_listed += 1;
        }
        self.errors += usize::from(is_error);
        self.listed_warnings += usize::from(!is_error);
        self.listed.push(problem);
    }

    /// Counts a problem instead of listing it, when the list is full: finding its place costs a
    /// walk through the text, and a text can have millions of faults.
    pub(super) fn counted_only(&mut self, severity: Severity) -> bool {
        let is_error = severity == Severity::Error;
        let is_full = !self.lists(severity);
        if is_full {
            self.errors += usize::from(is_error);
            self.not_listed += 1;
        }
        is_full
    }

    /// Whether there is room for a problem in the list.
    pub(super) fn lists(&self, severity: Severity) -> bool {
        let is_error = severity == Severity::Error;
        self.listed.len() < self.most || is_error && self.listed_warnings > 0
    }

    pub(super) const fn errors(&self) -> usize {
        self.errors
    }

    /// The warnings and how many more there are, or everything as an error where there is one.
    pub(super) fn finish(mut self) -> Result<(Vec<Problem>, usize), LoadError> {
        self.listed.sort_by(|a, b| {
            let place = |p: &Problem| {
                let in_text = p.place.as_ref().map(|place| (place.line, place.column));
                (in_text, p.pixel.map(|(x, y)| (y, x)))
            };
            (a.severity, &a.file, place(a)).cmp(&(b.severity, &b.file, place(b)))
        });
        if self.errors == 0 { Ok((self.listed, self.not_listed)) } else { Err(self.into_error()) }
    }

    /// Everything as an error.
    pub(super) fn into_error(self) -> LoadError {
        let Problems { listed: problems, not_listed, .. } = self;
        LoadError { problems, not_listed, awaited: Vec::new(), is_cancelled: false }
    }

    /// The warnings that were listed since there were so many problems.
    pub(super) fn warnings_since(&self, count: usize) -> Vec<Problem> {
        let since = self.listed.get(count..).unwrap_or_default().iter();
        since.filter(|problem| problem.severity == Severity::Warning).cloned().collect()
    }

    /// How many problems are listed.
    pub(super) fn count(&self) -> usize {
        self.listed.len()
    }
}

/// Tells what is wrong with one document of another file, without a place.
pub(super) fn relabel(problems: &mut [Problem], from: &str, to: &str) {
    for problem in problems.iter_mut().filter(|problem| problem.file == from) {
        problem.file = to.to_owned();
        problem.place = None;
    }
}
