//! The first record of a journal, which names the save that the others lead on from.

use std::path::Path;

use crate::codec::{Bytes, BytesFault, Frame, Out, framed};

/// With which a journal begins, and what it is called.
const MAGIC: ([u8; 4], &str) = (*b"SQjn", "a journal");

/// The most bytes of a body; it is never packed.
const MOST_BYTES: u64 = 1 << 10;

/// The name of a save: the file, how many bytes it has, and their CRC-32.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Header {
    /// The name of the file, without its folder. It tells people where to look, and is not compared.
    pub(super) file: String,
    len: u64,
    sum: u32,
}

impl Header {
    pub(super) fn of(path: &Path, save: &[u8]) -> Header {
        let mut file = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        // As long as file names are on most systems.
        while file.len() > 255 {
            file.pop();
        }
        Header { file, len: save.len() as u64, sum: crc32fast::hash(save) }
    }

    /// Returns whether both are of the same bytes.
    pub(super) const fn fits(&self, save: &Header) -> bool {
        self.len == save.len && self.sum == save.sum
    }

    pub(super) fn to_bytes(&self) -> Vec<u8> {
        let mut out = Out::default();
        out.text(&self.file);
        out.number(self.len);
        out.bytes(&self.sum.to_le_bytes());
        framed(MAGIC.0, 0, &out.0)
    }

    /// Reads the header with which bytes begin, and returns how many bytes it takes.
    pub(super) fn read(bytes: &[u8]) -> Result<(Header, usize), BytesFault> {
        let frame = Frame::read(bytes, MAGIC, 0, MOST_BYTES)?;
        let mut body = Bytes::new(&frame.body);
        let file = body.text()?.to_owned();
        let len = body.number()?;
        let mut sum = [0; 4];
        sum.copy_from_slice(body.take(4)?);
        if !body.is_end() {
            return Err(body.wrong("more bytes follow"));
        }
        Ok((Header { file, len, sum: u32::from_le_bytes(sum) }, frame.len))
    }
}
