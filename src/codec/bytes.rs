//! Single things as bytes: whole numbers, texts, lists of bytes.

/// A fault of bytes that were read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum BytesFault {
    /// The bytes are something else.
    #[error("expected {expected}, found other bytes")]
    Other {
        /// The kind of thing that they were read as.
        expected: &'static str,
    },
    /// The bytes were written by a later version of the library.
    #[error("version {found} is newer than the newest known one, {known}")]
    Version {
        /// The version that the bytes state.
        found: u8,
        /// The newest one that can be read.
        known: u8,
    },
    /// The bytes end too early.
    #[error("they end too early: byte {0} is missing")]
    Short(usize),
    /// The check sum is not that of the bytes.
    #[error("they are damaged: the check sum is another one")]
    Sum,
    /// Something in them cannot be.
    #[error("byte {at}: {what}")]
    Wrong {
        /// The place, in bytes, in what the check sum was taken of, unpacked.
        at: usize,
        /// The fault in words.
        what: &'static str,
    },
    /// The bytes ask for more than the limits allow.
    #[error("they hold more than {most} {what}, the most that is allowed")]
    TooMany {
        /// The things that are counted.
        what: &'static str,
        /// The most that is allowed.
        most: u64,
    },
}

/// Bytes that are being written.
#[derive(Debug, Default)]
pub(crate) struct Out(pub(crate) Vec<u8>);

impl Out {
    pub(crate) fn byte(&mut self, byte: u8) {
        self.0.push(byte);
    }

    pub(crate) fn bytes(&mut self, bytes: &[u8]) {
        self.0.extend_from_slice(bytes);
    }

    /// A whole number as LEB128.
    pub(crate) fn number(&mut self, mut number: u64) {
        while number >= 0x80 {
            self.0.push(number as u8 | 0x80);
            number >>= 7;
        }
        self.0.push(number as u8);
    }

    /// A number that may be negative, zigzag.
    pub(crate) fn signed(&mut self, number: i64) {
        self.number(((number << 1) ^ (number >> 63)) as u64);
    }

    pub(crate) fn text(&mut self, text: &str) {
        self.number(text.len() as u64);
        self.bytes(text.as_bytes());
    }
}

/// How many bytes a whole number takes.
pub(super) const fn number_bytes(number: u64) -> usize {
    let bits = u64::BITS - (number | 1).leading_zeros();
    bits.div_ceil(7) as usize
}

/// Bytes that are being read. Whatever they are, reading them ends with a result or a fault.
#[derive(Clone, Debug)]
pub(crate) struct Bytes<'a> {
    all: &'a [u8],
    at: usize,
}

impl<'a> Bytes<'a> {
    pub(crate) const fn new(all: &'a [u8]) -> Bytes<'a> {
        Bytes { all, at: 0 }
    }

    pub(crate) const fn at(&self) -> usize {
        self.at
    }

    /// How many are left.
    pub(crate) const fn left(&self) -> usize {
        self.all.len() - self.at
    }

    pub(crate) const fn is_end(&self) -> bool {
        self.left() == 0
    }

    /// The fault that something that was just read cannot be.
    pub(crate) const fn wrong(&self, what: &'static str) -> BytesFault {
        BytesFault::Wrong { at: self.at, what }
    }

    pub(crate) fn take(&mut self, count: usize) -> Result<&'a [u8], BytesFault> {
        let end = self.at.checked_add(count).filter(|end| *end <= self.all.len());
        let end = end.ok_or(BytesFault::Short(self.all.len()))?;
        let taken = &self.all[self.at..end];
        self.at = end;
        Ok(taken)
    }

    pub(crate) fn byte(&mut self) -> Result<u8, BytesFault> {
        Ok(self.take(1)?[0])
    }

    pub(crate) fn number(&mut self) -> Result<u64, BytesFault> {
        let mut number = 0;
        for shift in (0..u64::BITS).step_by(7) {
            let byte = self.byte()?;
            let part = u64::from(byte & 0x7F);
            if shift == 63 && part > 1 {
                break;
            }
            number |= part << shift;
            if byte < 0x80 {
                return Ok(number);
            }
        }
        Err(self.wrong("a whole number takes more than 64 bits"))
    }

    /// A number within a range of its kind.
    pub(crate) fn up_to(&mut self, most: u64, what: &'static str) -> Result<u64, BytesFault> {
        let number = self.number()?;
        if number <= most { Ok(number) } else { Err(self.wrong(what)) }
    }

    /// How many of something follow, each of which takes at least a byte.
    pub(crate) fn count(&mut self) -> Result<usize, BytesFault> {
        let count = self.number()?;
        let count = usize::try_from(count).ok().filter(|count| *count <= self.left());
        count.ok_or_else(|| self.wrong("there are fewer bytes than things that are said to follow"))
    }

    pub(crate) fn signed(&mut self) -> Result<i64, BytesFault> {
        let number = self.number()?;
        Ok((number >> 1) as i64 ^ -((number & 1) as i64))
    }

    pub(crate) fn word(&mut self) -> Result<u32, BytesFault> {
        Ok(self.up_to(u32::MAX.into(), "a value takes more than 32 bits")? as u32)
    }

    pub(crate) fn text(&mut self) -> Result<&'a str, BytesFault> {
        let count = self.count()?;
        let text = std::str::from_utf8(self.take(count)?);
        text.map_err(|_| self.wrong("a text is not UTF-8"))
    }
}
