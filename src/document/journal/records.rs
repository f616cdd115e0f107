//! What is sound in the bytes of a journal.

use std::ops::Range;

use super::header::Header;
use crate::codec::{Bytes, BytesFault, Frame, Stored};
use crate::document::changes::{ChangesError, FORWARD, MAGIC};
use crate::document::limits::Limits;
use crate::edit::Changeset;
use crate::quilt::Quilt;

/// The records of a journal, as far as they are sound.
///
/// For programs that look at a journal; one that goes on with it [opens](crate::document::Journal::open) it.
///
/// ```
/// use sturdy_quilt::document::{Journal, JournalRecords, Limits};
/// use sturdy_quilt::CellPos;
/// # let folder = tempfile::tempdir()?;
/// # let save = folder.path().join("garden.quilt.json");
/// # let path = folder.path().join("garden.journal");
/// # let mut quilt = sturdy_quilt::doc_quilt();
/// # quilt.save(&save)?;
///
/// let (journal, _) = Journal::open(&path, &save)?.replay(&mut quilt, &Limits::default())?;
/// let dug = quilt.edit("dig", |pen| pen.erase("soil", CellPos::new(0, 0)))?;
/// journal.append(&dug.changes);
/// journal.flush()?;
///
/// let bytes = std::fs::read(&path)?;
/// let records = JournalRecords::read(&bytes)?;
/// let labels: Vec<String> = records.each().filter_map(|record| record.label().ok()).collect();
/// assert_eq!((records.save(), labels), ("garden.quilt.json", vec!["dig".to_owned()]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct JournalRecords<'a> {
    bytes: &'a [u8],
    found: Found,
}

/// A record of a journal.
#[derive(Clone, Copy, Debug)]
pub struct JournalRecord<'a> {
    at: u64,
    bytes: &'a [u8],
}

impl<'a> JournalRecords<'a> {
    /// Finds the records in the bytes of a journal.
    ///
    /// # Errors
    /// Bytes that do not begin as a journal does, or that were written by a later version of the library.
    pub fn read(bytes: &'a [u8]) -> Result<JournalRecords<'a>, BytesFault> {
        let found = Found::in_bytes(bytes)?;
        Ok(JournalRecords { bytes, found })
    }

    /// Returns the name of the file of the save that the records lead on from.
    pub fn save(&self) -> &str {
        &self.found.header.file
    }

    /// Returns the sound records, in the order in which they were appended.
    pub fn each(&self) -> impl ExactSizeIterator<Item = JournalRecord<'a>> {
        self.found.each(self.bytes)
    }

    /// Returns where the first record begins that is not sound, and what is wrong with it. What follows it is
    /// not read.
    pub const fn fault(&self) -> Option<(u64, &BytesFault)> {
        match &self.found.fault {
            Some((at, fault)) => Some((*at as u64, fault)),
            None => None,
        }
    }
}

impl JournalRecord<'_> {
    /// Returns at which byte of the journal the record begins.
    pub const fn at(&self) -> u64 {
        self.at
    }

    /// Returns its bytes, as [`Changeset::to_bytes`] wrote them.
    pub const fn bytes(&self) -> &[u8] {
        self.bytes
    }

    /// Returns the label of the changes.
    ///
    /// # Errors
    /// A record that cannot be unpacked within the default [`Limits`], or has no label.
    pub fn label(&self) -> Result<String, BytesFault> {
        let frame = Frame::read(self.bytes, MAGIC, FORWARD, Limits::DEFAULT.unpacked_bytes)?;
        Ok(Bytes::new(&frame.body).text()?.to_owned())
    }

    /// Reads the changes, as changes of a map.
    ///
    /// # Errors
    /// See [`Changeset::from_bytes`].
    pub fn changes(&self, quilt: &Quilt, limits: &Limits) -> Result<Changeset, ChangesError> {
        Changeset::from_bytes(self.bytes, quilt, limits)
    }
}

/// Where the records of a journal lie.
#[derive(Clone, Debug)]
pub(super) struct Found {
    pub(super) header: Header,
    pub(super) header_len: usize,
    records: Vec<Range<usize>>,
    /// The first byte of what is not sound, and why.
    pub(super) fault: Option<(usize, BytesFault)>,
}

impl Found {
    /// A journal that has nothing but its header.
    pub(super) const fn begun(header: Header, header_len: usize) -> Found {
        Found { header, header_len, records: Vec::new(), fault: None }
    }

    pub(super) fn in_bytes(bytes: &[u8]) -> Result<Found, BytesFault> {
        let (header, header_len) = Header::read(bytes)?;
        let (mut records, mut at, mut fault) = (Vec::new(), header_len, None);
        while at < bytes.len() {
            match Stored::read(&bytes[at..], MAGIC) {
                Ok(record) => {
                    records.push(at..at + record.len);
                    at += record.len;
                }
                Err(found) => {
                    fault = Some((at, found));
                    break;
                }
            }
        }
        Ok(Found { header, header_len, records, fault })
    }

    pub(super) fn each<'a>(
        &self,
        bytes: &'a [u8],
    ) -> impl ExactSizeIterator<Item = JournalRecord<'a>> + use<'a, '_> {
        let record = |range: &Range<usize>| JournalRecord {
            at: range.start as u64,
            bytes: &bytes[range.clone()],
        };
        self.records.iter().map(record)
    }

    /// Where the last sound record ends.
    pub(super) fn end(&self) -> usize {
        self.records.last().map_or(self.header_len, |last| last.end)
    }
}
