//! A record as a whole: what it is, how long it is, and whether it is sound.

use std::borrow::Cow;

use super::bytes::{Bytes, BytesFault, Out};

/// A record that was read.
#[derive(Debug)]
pub(crate) struct Frame<'a> {
    pub(crate) flags: u8,
    pub(crate) body: Cow<'a, [u8]>,
    /// How many bytes it takes as a whole.
    pub(crate) len: usize,
}

/// The newest version that is known, and the one that is written.
const VERSION: u8 = 1;

/// The flag of a body that is packed.
const PACKED: u8 = 0x80;

/// A body that is smaller is not worth packing.
const LEAST_PACKED: usize = 512;

/// Of a body that is larger, so much is packed first, to see whether it is worth it.
const SAMPLE: usize = 1 << 14;

/// A body as it is when packed, where that is worth the time: a small one must become smaller at all, of a large
/// one a sample from its middle by a quarter.
fn packed(body: &[u8]) -> Option<Vec<u8>> {
    if body.len() < LEAST_PACKED {
        return None;
    }
    if body.len() > 2 * SAMPLE {
        let sample = &body[body.len() / 2..][..SAMPLE];
        if lz4_flex::block::compress(sample).len() > SAMPLE / 4 * 3 {
            return None;
        }
    }
    let packed = lz4_flex::block::compress(body);
    Some(packed).filter(|packed| packed.len() < body.len() - body.len() / 16)
}

/// A record of a body.
pub(crate) fn framed(magic: [u8; 4], flags: u8, body: &[u8]) -> Vec<u8> {
    let packed = packed(body);
    let mut out = Out(Vec::with_capacity(packed.as_ref().map_or(body.len(), Vec::len) + 24));
    out.bytes(&magic);
    out.byte(VERSION);
    out.byte(flags | if packed.is_some() { PACKED } else { 0 });
    match packed {
        Some(packed) => {
            out.number(packed.len() as u64);
            out.number(body.len() as u64);
            out.bytes(&packed);
        }
        None => {
            out.number(body.len() as u64);
            out.bytes(body);
        }
    }
    let sum = crc32fast::hash(&out.0);
    out.bytes(&sum.to_le_bytes());
    out.0
}

/// A record that is sound, before its body is unpacked.
#[derive(Debug)]
pub(crate) struct Stored<'a> {
    flags: u8,
    body: &'a [u8],
    /// How many bytes the body has after unpacking, where it is packed.
    unpacked: Option<u64>,
    /// How many bytes it takes as a whole.
    pub(crate) len: usize,
}

impl<'a> Stored<'a> {
    /// Finds the record with which bytes begin, and compares its check sum.
    pub(crate) fn read(
        bytes: &'a [u8],
        (magic, expected): ([u8; 4], &'static str),
    ) -> Result<Stored<'a>, BytesFault> {
        let mut read = Bytes::new(bytes);
        if read.take(4).map_err(|_| BytesFault::Other { expected })? != magic {
            return Err(BytesFault::Other { expected });
        }
        let version = read.byte()?;
        let flags = read.byte()?;
        let stored = usize::try_from(read.number()?).unwrap_or(usize::MAX);
        let unpacked = if flags & PACKED > 0 { Some(read.number()?) } else { None };
        let body = read.take(stored)?;
        let end = read.at();
        let sum = crc32fast::hash(&bytes[..end]).to_le_bytes();
        if read.take(4)? != sum {
            return Err(BytesFault::Sum);
        }
        // Records of all versions have this form, so that damage is not taken for a later version.
        match version {
            0 => Err(BytesFault::Other { expected }),
            VERSION => Ok(Stored { flags: flags & !PACKED, body, unpacked, len: read.at() }),
            found => Err(BytesFault::Version { found, known: VERSION }),
        }
    }
}

impl<'a> Frame<'a> {
    /// Reads the record with which bytes begin. `flags` are those that it may have.
    pub(crate) fn read(
        bytes: &'a [u8],
        (magic, expected): ([u8; 4], &'static str),
        flags: u8,
        most_unpacked: u64,
    ) -> Result<Frame<'a>, BytesFault> {
        let Stored { flags: stated, body, unpacked, len } = Stored::read(bytes, (magic, expected))?;
        if stated & !flags > 0 {
            return Err(BytesFault::Other { expected });
        }
        let body = match unpacked {
            None => Cow::Borrowed(body),
            Some(count) => Cow::Owned(unpack(body, count, most_unpacked)?),
        };
        Ok(Frame { flags: stated, body, len })
    }
}

fn unpack(packed: &[u8], count: u64, most: u64) -> Result<Vec<u8>, BytesFault> {
    // A byte stands for 255 at most.
    let possible = (packed.len() as u64 + 16).saturating_mul(255);
    if count > most {
        return Err(BytesFault::TooMany { what: "bytes after unpacking", most });
    }
    let wrong = BytesFault::Wrong { at: 0, what: "the packed bytes cannot be unpacked" };
    if count > possible {
        return Err(wrong);
    }
    let unpacked = lz4_flex::block::decompress(packed, count as usize);
    unpacked.ok().filter(|unpacked| unpacked.len() as u64 == count).ok_or(wrong)
}
