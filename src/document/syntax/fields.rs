//! The fields of a table of comma-separated values (RFC 4180), one by one: of a table of one row, too,
//! nothing is kept but the field at hand.

use csv_core::{ReadFieldResult, Reader};

/// A field of a table.
pub(crate) struct Field<'f> {
    pub(crate) text: &'f str,
    /// Counts the bytes of the table before the field.
    pub(crate) start: usize,
    /// Tells whether the field is the last of its row.
    pub(crate) ends_row: bool,
}

/// Why the fields of a table cannot be told apart.
pub(crate) enum FieldError {
    /// A quote is never closed; where it stands.
    OpenQuote(usize),
    /// No more fields were wanted.
    Ended,
}

/// Gives each field of a table, until no more are wanted. Blank lines are passed over.
pub(crate) fn each_field(
    text: &str,
    mut used: impl FnMut(Field<'_>) -> Option<()>,
) -> Result<(), FieldError> {
    if !text.contains('"') {
        return each_plain_field(text, used);
    }
    if let Some(start) = unclosed_quote(text) {
        return Err(FieldError::OpenQuote(start));
    }
    let (input, mut reader) = (text.as_bytes(), Reader::new());
    let (mut field, mut length) = (vec![0; 256], 0);
    let (mut at, mut start, mut begins_row) = (0, 0, true);
    loop {
        if begins_row && length == 0 {
            start = at + blanks(&input[at..]);
        }
        let (result, read, written) = reader.read_field(&input[at..], &mut field[length..]);
        at += read;
        length += written;
        match result {
            ReadFieldResult::InputEmpty => begins_row = false,
            ReadFieldResult::OutputFull => {
                begins_row = false;
                field.resize(field.len() * 2, 0);
            }
            ReadFieldResult::Field { record_end } => {
                // Whole fields of a text are text.
                let text = std::str::from_utf8(&field[..length]).unwrap_or_default();
                used(Field { text, start, ends_row: record_end }).ok_or(FieldError::Ended)?;
                (length, start, begins_row) = (0, at, record_end);
            }
            ReadFieldResult::End => return Ok(()),
        }
    }
}

/// Gives each field of a table without quotes, of which commas and ends of lines part the fields.
fn each_plain_field(
    text: &str,
    mut used: impl FnMut(Field<'_>) -> Option<()>,
) -> Result<(), FieldError> {
    let (mut start, mut begins_row) = (0, true);
    let mut part = |start: usize, end: usize, ends_row: bool| {
        used(Field { text: &text[start..end], start, ends_row }).ok_or(FieldError::Ended)
    };
    for (at, byte) in text.bytes().enumerate() {
        let ends_row = match byte {
            b',' => false,
            b'\n' | b'\r' => true,
            _ => continue,
        };
        let is_blank = begins_row && ends_row && at == start;
        if !is_blank {
            part(start, at, ends_row)?;
            begins_row = ends_row;
        }
        start = at + 1;
    }
    if begins_row && start == text.len() { Ok(()) } else { part(start, text.len(), true) }
}

/// How many ends of lines a text begins with.
fn blanks(text: &[u8]) -> usize {
    text.iter().take_while(|byte| matches!(byte, b'\n' | b'\r')).count()
}

/// Where the quote stands that is never closed, if there is one (RFC 4180, 2.5 to 2.7). A quote
/// within a field that does not begin with one is a character like others.
fn unclosed_quote(text: &str) -> Option<usize> {
    let (mut open, mut begins) = (None, true);
    let mut bytes = text.bytes().enumerate().peekable();
    while let Some((at, byte)) = bytes.next() {
        match byte {
            b'"' if open.is_some() => match bytes.peek() {
                Some((_, b'"')) => drop(bytes.next()),
                _ => open = None,
            },
            b'"' if begins => open = Some(at),
            _ => {}
        }
        begins = matches!(byte, b',' | b'\n' | b'\r');
    }
    open
}
