//! Texts that are not JSON: what is wrong with them, in the words of those who typed them, and a text
//! in which it is mended, so that the rest can be read and checked too.
//!
//! Everything stays in its place: what is mended takes as many bytes as what it mends. A comma takes
//! the place of a blank, a comment becomes blanks. Where that cannot be done, the reading ends.

use super::tree::Span;
/// What is wrong at a place of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Fault {
    pub(super) span: Span,
    pub(super) message: String,
    pub(super) hint: Option<String>,
}

/// A text that was no JSON.
pub(super) struct Mended {
    /// Whatever was found, in order.
    pub(super) faults: Vec<Fault>,
    /// The text without its faults, where all could be mended.
    pub(super) text: Option<String>,
}

/// The most faults that are mended.
const MAX: usize = 50;

/// Finds what is wrong with a text that is not JSON.
pub(super) fn mend(text: &str) -> Mended {
    let mut mender = Mender {
        text,
        out: text.as_bytes().to_vec(),
        at: 0,
        open: Vec::new(),
        faults: Vec::new(),
        value: Span { start: 0, len: 0 },
        suspect: None,
        is_unsure: false,
    };
    let is_whole = mender.document().is_some();
    let Mender { out, faults, .. } = mender;
    let text = String::from_utf8(out).ok().filter(|_| is_whole && !faults.is_empty());
    Mended { faults, text }
}

/// A list or an object that is not closed yet.
#[derive(Clone, Copy)]
struct Open {
    at: usize,
    is_object: bool,
}

impl Open {
    const fn end(self) -> char {
        if self.is_object { '}' } else { ']' }
    }

    const fn word(self) -> &'static str {
        if self.is_object { "object" } else { "list" }
    }
}

/// The document is read up to here, and no further.
type Step = Option<()>;

struct Mender<'t> {
    text: &'t str,
    out: Vec<u8>,
    at: usize,
    open: Vec<Open>,
    faults: Vec<Fault>,
    /// The text or the number that was read last.
    value: Span,
    /// The first list or object that ends on a line which is indented less than that on which it
    /// begins: most likely the one that is not closed.
    suspect: Option<Open>,
    /// A list or an object was closed by the sign of the other: what looks wrong from there on may
    /// follow from that.
    is_unsure: bool,
}

impl Mender<'_> {
    fn rest(&self) -> &str {
        self.text.get(self.at..).unwrap_or_default()
    }

    fn next(&self) -> Option<char> {
        self.rest().chars().next()
    }

    /// Notes a fault that was mended.
    fn fault(&mut self, span: Span, message: impl Into<String>, hint: impl Into<String>) -> Step {
        let (message, hint) = (message.into(), Some(hint.into()).filter(|hint| !hint.is_empty()));
        self.faults.push(Fault { span, message, hint });
        (self.faults.len() < MAX).then_some(())
    }

    /// Notes one that ends the reading.
    fn end(&mut self, span: Span, message: impl Into<String>, hint: impl Into<String>) -> Step {
        if !self.is_unsure {
            self.fault(span, message, hint);
        }
        None
    }

    fn line_of(&self, at: usize) -> usize {
        self.text[..at].matches('\n').count() + 1
    }

    /// The end of the line on which a place lies, without blanks.
    fn line_end(&self, at: usize) -> usize {
        let line = self.text[at..].split('\n').next().unwrap_or_default();
        at + line.trim_end().len()
    }

    fn one(&self, at: usize) -> Span {
        let len = self.text[at..].chars().next().map_or(1, char::len_utf8);
        Span { start: at, len }
    }

    /// Passes over blanks and comments.
    fn blanks(&mut self) -> Step {
        loop {
            let rest = self.rest();
            self.at +=
                rest.len() - rest.trim_start_matches([' ', '\t', '\n', '\r', '\u{feff}']).len();
            let rest = self.rest();
            let len = if rest.starts_with("//") || rest.starts_with('#') {
                self.line_end(self.at) - self.at
            } else if rest.starts_with("/*") {
                rest.find("*/").map_or(rest.len(), |end| end + 2)
            } else {
                return Some(());
            };
            for byte in &mut self.out[self.at..self.at + len] {
                *byte = if *byte == b'\n' { b'\n' } else { b' ' };
            }
            let shown = self.line_end(self.at).min(self.at + len) - self.at;
            let span = Span { start: self.at, len: shown.max(1) };
            self.at += len;
            self.fault(span, "JSON has no comments", "take it out; notes can stand under `data`")?;
        }
    }

    fn document(&mut self) -> Step {
        self.blanks()?;
        self.any_value()?;
        loop {
            self.blanks()?;
            let Some(open) = self.open.last().copied() else {
                let at = self.at;
                return match self.next() {
                    None => Some(()),
                    Some('}' | ']') => self.end(
                        self.one(at),
                        "this closes nothing: the document has ended before",
                        "take it out, or look for one too many above",
                    ),
                    Some(_) => self.end(
                        self.one(at),
                        "the document has ended before this",
                        "take it out, or look for a sign above that closes too much",
                    ),
                };
            };
            self.after_value(open)?;
        }
    }

    /// What comes behind a value in a list or an object: a comma and the next one, or the end.
    fn after_value(&mut self, open: Open) -> Step {
        let at = self.at;
        match self.next() {
            Some(',') => {
                self.at += 1;
                self.next_item(open, at)
            }
            Some(';') => {
                self.out[at] = b',';
                self.at += 1;
                self.fault(self.one(at), "a semicolon stands where a comma belongs", "write `,`")?;
                self.next_item(open, at)
            }
            Some(sign @ ('}' | ']' | ')')) => {
                self.at += 1;
                let is_told = sign == ')' && self.text.as_bytes()[open.at] == b'(';
                if sign != open.end() {
                    self.out[at] = open.end() as u8;
                }
                if sign != open.end() && !is_told {
                    if std::mem::replace(&mut self.is_unsure, true) {
                        return None;
                    }
                    let message = format!(
                        "`{sign}` stands where `{}` closes the {} of line {}",
                        open.end(),
                        open.word(),
                        self.line_of(open.at)
                    );
                    let hint = format!(
                        "write `{}` here or before it, or take out what closes too much",
                        open.end()
                    );
                    self.fault(self.one(at), message, hint)?;
                }
                let (begin, end) = (self.indent(open.at), self.indent(at));
                let starts_line = self.text[..at].trim_end_matches([' ', '\t']).ends_with('\n');
                if starts_line && end < begin {
                    self.suspect.get_or_insert(open);
                }
                self.open.pop();
                self.value = self.one(at);
                Some(())
            }
            None => self.unclosed(open),
            Some(_) => self.missing_comma(open),
        }
    }

    /// How far the line is indented on which a place lies.
    fn indent(&self, at: usize) -> usize {
        let start = self.text[..at].rfind('\n').map_or(0, |end| end + 1);
        let line = &self.text[start..];
        line.len() - line.trim_start_matches([' ', '\t']).len()
    }

    /// The end of the text within a list or an object.
    fn unclosed(&mut self, open: Open) -> Step {
        if let Some(suspect) = self.suspect {
            let message = format!("the {} that begins here is not closed", suspect.word());
            let hint =
                format!("write `{}` where it ends: its lines are indented so", suspect.end());
            return self.end(self.one(suspect.at), message, hint);
        }
        let message = format!("the {} that begins here is never closed", open.word());
        let hint = format!("write `{}` where it ends", open.end());
        let ends: Vec<u8> = self.open.iter().rev().map(|open| open.end() as u8).collect();
        // Behind everything else there is room.
        self.out.extend(ends);
        self.open.clear();
        self.fault(self.one(open.at), message, hint)
    }

    fn missing_comma(&mut self, open: Open) -> Step {
        let behind = self.value.start + self.value.len;
        if self.runs_on(self.value) {
            return self.runaway(self.value);
        }
        // A blank becomes the comma.
        let gap = behind..self.at;
        let blank = self.out[gap].iter().position(|byte| matches!(byte, b' ' | b'\t'));
        let last = self.text[..behind].char_indices().next_back().map_or(0, |(at, _)| at);
        let (span, message) = (self.one(last), "a comma is missing behind this");
        let is_text = self.text[..behind].ends_with('"');
        let hint = match is_text && behind == self.at {
            true => "write `,` between two values, or `\\\"` for a quote within a text",
            false => "write `,` between two values",
        };
        match blank {
            Some(blank) => {
                self.out[behind + blank] = b',';
                self.fault(span, message, hint)?;
                self.item(open)
            }
            None => self.end(span, message, hint),
        }
    }

    /// Whether a text has run on, since its closing quote is missing: what is in it looks like more
    /// than one value, and what comes behind it like no JSON.
    fn runs_on(&self, text: Span) -> bool {
        let inner = self.text.get(text.start..text.start + text.len).unwrap_or_default();
        inner.starts_with('"')
            && inner.contains([',', ':', '{', '['])
            && !self.rest().starts_with(['"', '{', '['])
    }

    fn runaway(&mut self, text: Span) -> Step {
        let message = "a closing quote is missing in this text: it runs on to the next quote";
        self.end(text, message, "write `\"` where the text ends")
    }

    /// What comes behind a comma.
    fn next_item(&mut self, open: Open, comma: usize) -> Step {
        self.blanks()?;
        match self.next() {
            Some('}' | ']') => {
                self.out[comma] = b' ';
                let hint = "take it out, or write one more value";
                self.fault(self.one(comma), "nothing comes behind this comma", hint)
            }
            Some(',') => {
                let at = self.at;
                self.out[at] = b' ';
                self.at += 1;
                self.fault(self.one(at), "there is nothing between two commas", "take one out")?;
                self.next_item(open, comma)
            }
            None => self.unclosed(open),
            Some(_) => self.item(open),
        }
    }

    /// A value of a list, or a key and its value.
    fn item(&mut self, open: Open) -> Step {
        if !open.is_object {
            return self.any_value();
        }
        let at = self.at;
        match self.next() {
            Some('"' | '\'' | '“' | '”' | '„' | '‘' | '’' | '«') => self.quoted()?,
            Some('0'..='9') if self.text[..at].ends_with(',') => {
                return self.decimal_comma();
            }
            _ => {
                let word = self.word();
                let span = Span { start: at, len: word.len().max(1) };
                let hint = match word.is_empty() {
                    true => {
                        "an object has keys in quotes, each with a colon and a value".to_owned()
                    }
                    false => format!("write \"{word}\""),
                };
                return self.end(span, "a key in quotes is missing here", hint);
            }
        }
        let key = self.value;
        self.blanks()?;
        let at = self.at;
        match self.next() {
            Some(':') => self.at += 1,
            Some('=') => {
                self.out[at] = b':';
                self.at += 1;
                self.fault(self.one(at), "`=` stands where a colon belongs", "write `:`")?;
            }
            _ if self.runs_on(key) => return self.runaway(key),
            Some(',' | '}') => {
                let message = "this key has no value, or this text no place in an object";
                return self.end(key, message, "write `\"key\": value`");
            }
            _ => {
                let behind = key.start + key.len;
                let (message, hint) = ("a colon is missing behind this key", "write `:`");
                match self.out[behind..at].iter().position(|byte| matches!(byte, b' ' | b'\t')) {
                    Some(blank) => {
                        self.out[behind + blank] = b':';
                        self.fault(key, message, hint)?;
                    }
                    None => return self.end(key, message, hint),
                }
            }
        }
        self.blanks()?;
        self.any_value()
    }

    /// A number in an object that goes on behind a comma.
    fn decimal_comma(&mut self) -> Step {
        let comma = self.at - 1;
        let word = self.word();
        let whole = Span { start: self.value.start, len: self.at + word.len() - self.value.start };
        let number = format!("{}.{word}", &self.text[whole.start..comma]);
        if self.value.start + self.value.len != comma || number.parse::<f64>().is_err() {
            let message = "a key in quotes is missing here";
            return self.end(Span { start: self.at, len: word.len() }, message, "write a key");
        }
        self.out[comma] = b'.';
        self.at += word.len();
        self.value = whole;
        self.fault(whole, "a comma stands in this number", format!("write {number}"))
    }

    /// The letters and digits that come next.
    fn word(&self) -> String {
        let is_part = |c: &char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '+' | '/');
        self.rest().chars().take_while(is_part).collect()
    }

    fn any_value(&mut self) -> Step {
        let at = self.at;
        match self.next() {
            Some(sign @ ('{' | '[' | '(')) => {
                self.at += 1;
                let open = Open { at, is_object: sign == '{' };
                if self.open.len() > 120 {
                    return None;
                }
                self.open.push(open);
                if sign == '(' {
                    self.out[at] = b'[';
                    let hint = "write `[` and `]` around a list";
                    self.fault(self.one(at), "`(` is not a JSON value", hint)?;
                }
                self.blanks()?;
                match self.next() {
                    Some('}' | ']' | ')') => Some(()),
                    None => self.unclosed(open),
                    Some(_) => self.item(open),
                }
            }
            Some('"' | '\'' | '“' | '”' | '„' | '‘' | '’' | '«') => self.quoted(),
            None => match self.open.last().copied() {
                Some(open) => self.unclosed(open),
                None => self.end(Span { start: at, len: 1 }, "the document is empty", ""),
            },
            Some(sign @ (',' | '}' | ']')) => {
                let message = format!("a value is missing before `{sign}`");
                self.end(self.one(at), message, "write it, or take the key out")
            }
            Some(_) => self.plain(),
        }
    }

    /// A number, `true`, `false` or `null`.
    fn plain(&mut self) -> Step {
        let (at, word) = (self.at, self.word());
        let span = Span { start: at, len: word.len().max(1) };
        self.value = span;
        let meant = match &*word {
            "true" | "false" | "null" => None,
            "True" | "TRUE" => Some("true"),
            "False" | "FALSE" => Some("false"),
            "None" | "NULL" | "Null" => Some("null"),
            _ if serde_json::from_str::<serde_json::Number>(&word).is_ok() => None,
            _ => {
                let number = word.trim_start_matches('+').parse::<f64>().ok();
                let number = number.filter(|number| number.is_finite());
                let (meant, hint) = match number {
                    _ if word.is_empty() => (None, "a text stands in quotes".to_owned()),
                    Some(number) => (Some(number.to_string()), format!("write {number}")),
                    None => (None, format!("write \"{word}\" if it is a text")),
                };
                let shown =
                    if word.is_empty() { self.rest().chars().take(1).collect() } else { word };
                let message = format!("`{shown}` is not a JSON value");
                // It is mended where there is room.
                let Some(meant) = meant.filter(|meant| meant.len() <= shown.len()) else {
                    return self.end(span, message, hint);
                };
                self.at += shown.len();
                self.out[at..self.at].fill(b' ');
                self.out[at..at + meant.len()].copy_from_slice(meant.as_bytes());
                return self.fault(span, message, hint);
            }
        };
        self.at += word.len();
        let Some(meant) = meant else { return Some(()) };
        self.out[at..at + word.len()].copy_from_slice(meant.as_bytes());
        self.fault(span, format!("`{word}` is not a JSON value"), format!("write {meant}"))
    }

    /// A text in quotes of any kind.
    fn quoted(&mut self) -> Step {
        let start = self.at;
        let quote = self.next().unwrap_or('"');
        let ends: &[char] = match quote {
            '"' => &['"'],
            '\'' => &['\''],
            '‘' | '’' => &['’', '‘'],
            '«' => &['»'],
            _ => &['”', '“', '"'],
        };
        let inner = start + quote.len_utf8();
        let rest = &self.text[inner..];
        let (mut is_escaped, mut end, mut wrong) = (false, None, Vec::new());
        for (at, character) in rest.char_indices() {
            match character {
                '\n' => break,
                _ if std::mem::take(&mut is_escaped) => {
                    let known = ['"', '\\', '/', 'b', 'f', 'n', 'r', 't', 'u'];
                    wrong.extend(
                        (!known.contains(&character)).then_some((inner + at - 1, character)),
                    );
                }
                '\\' => is_escaped = true,
                '\t' => wrong.push((inner + at, character)),
                _ if ends.contains(&character) => {
                    end = Some((inner + at, character));
                    break;
                }
                _ => {}
            }
        }
        let Some((end, closing)) = end else {
            return self.unclosed_text(start, self.line_end(start));
        };
        let behind = end + closing.len_utf8();
        self.value = Span { start, len: behind - start };
        self.at = behind;
        for (at, character) in wrong {
            let is_tab = character == '\t';
            self.out[at] = if is_tab { b' ' } else { b'/' };
            let message = match is_tab {
                true => "a tab stands in this text".to_owned(),
                false => format!("`\\{character}` is not a JSON escape"),
            };
            let hint = match is_tab {
                true => "write `\\t`, or blanks",
                false => "write `\\\\` for a backslash; paths have `/`",
            };
            self.fault(self.one(at), message, hint)?;
        }
        if quote != '"' {
            // A quote of three bytes leaves two blanks outside of the text.
            self.out[start..inner].fill(b' ');
            self.out[inner - 1] = b'"';
            self.out[end..behind].fill(b' ');
            self.out[end] = b'"';
            let kind = if quote == '\'' { "single" } else { "curly" };
            let hint = format!("write \"{}\"", &self.text[inner..end]);
            return self.fault(self.value, format!("JSON has no {kind} quotes"), hint);
        }
        Some(())
    }

    /// A text that is not closed on its line.
    fn unclosed_text(&mut self, start: usize, line_end: usize) -> Step {
        let span = Span { start, len: (line_end - start).max(1) };
        let (message, hint) =
            ("a closing quote is missing in this line", "write `\"` where the text ends");
        // The comma behind it becomes the quote, and a blank the comma.
        let is_comma = self.text[start..line_end].ends_with(',');
        let next = self.text[line_end..].find(|c: char| !c.is_whitespace());
        let gap = line_end..next.map_or(line_end, |next| line_end + next);
        let blank = self.out[gap].iter().position(|byte| matches!(byte, b' ' | b'\t'));
        match blank {
            Some(blank) if is_comma && self.text[start..line_end].starts_with('"') => {
                self.out[line_end - 1] = b'"';
                self.out[line_end + blank] = b',';
                self.value = Span { start, len: line_end - start };
                self.at = line_end + next.unwrap_or_default();
                self.fault(span, message, hint)?;
                let open = self.open.last().copied()?;
                self.item(open)
            }
            _ => self.end(span, message, hint),
        }
    }
}
