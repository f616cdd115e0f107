//! Compression of packed blocks.

use std::io::{BufRead, Read, Write};

/// How a packed block is compressed, in formats that any language can read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Compression {
    Plain,
    /// RFC 1950.
    Zlib,
    /// The LZ4 frame format.
    Lz4,
}

/// Why a block cannot be unpacked.
#[derive(Debug, thiserror::Error)]
pub(crate) enum UnpackError {
    #[error("it is damaged or cut short: {0}")]
    Damaged(std::io::Error),
    #[error("it ends after {0} bytes")]
    Short(u64),
    #[error("it is cut short: its end mark is missing")]
    NoEnd,
    #[error("it goes on after the last cell")]
    Long,
}

impl Compression {
    /// The keys of documents.
    pub(crate) const NAMED: [(&str, Compression); 3] =
        [("plain", Compression::Plain), ("zlib", Compression::Zlib), ("lz4", Compression::Lz4)];

    /// Begins to unpack a block. No more memory is asked for than a part of it takes, whatever a
    /// stranger says of its size.
    pub(crate) fn open(self, packed: &[u8]) -> Unpacking<'_> {
        let reader = match self {
            Compression::Plain => BlockReader::Plain(packed),
            Compression::Zlib => {
                BlockReader::Zlib(Box::new(flate2::bufread::ZlibDecoder::new(packed)))
            }
            Compression::Lz4 => {
                BlockReader::Lz4(Box::new(lz4_flex::frame::FrameDecoder::new(Asked::of(packed))))
            }
        };
        Unpacking { reader, done: 0 }
    }
}

/// A block that is being packed as an LZ4 frame, part by part.
pub(crate) struct Packing(lz4_flex::frame::FrameEncoder<Vec<u8>>);

impl Packing {
    pub(crate) fn new() -> Packing {
        // Blocks that stay in the cache of the processor are unpacked the fastest.
        let info = lz4_flex::frame::FrameInfo::new()
            .block_size(lz4_flex::frame::BlockSize::Max256KB)
            .content_checksum(true);
        Packing(lz4_flex::frame::FrameEncoder::with_frame_info(info, Vec::new()))
    }

    pub(crate) fn add(&mut self, bytes: &[u8]) -> std::io::Result<()> {
        self.0.write_all(bytes)
    }

    pub(crate) fn end(self) -> std::io::Result<Vec<u8>> {
        self.0.finish().map_err(std::io::Error::other)
    }
}

/// A block that is being unpacked.
pub(crate) struct Unpacking<'b> {
    reader: BlockReader<'b>,
    done: u64,
}

enum BlockReader<'b> {
    Plain(&'b [u8]),
    Zlib(Box<flate2::bufread::ZlibDecoder<&'b [u8]>>),
    Lz4(Box<lz4_flex::frame::FrameDecoder<Asked<'b>>>),
}

impl Unpacking<'_> {
    /// Uses the next bytes, so many. They lie where the decoder has them, or else in `scratch`.
    pub(crate) fn take<R>(
        &mut self,
        count: usize,
        scratch: &mut Vec<u8>,
        used: impl FnOnce(&[u8]) -> R,
    ) -> Result<R, UnpackError> {
        if let BlockReader::Lz4(frame) = &mut self.reader {
            let here = frame.fill_buf().map_err(UnpackError::Damaged)?;
            if let Some(bytes) = here.get(..count) {
                let result = used(bytes);
                frame.consume(count);
                self.done += count as u64;
                return Ok(result);
            }
        }
        scratch.resize(count, 0);
        let mut filled = 0;
        while filled < count {
            match self.read(&mut scratch[filled..])? {
                0 => return Err(UnpackError::Short(self.done)),
                more => {
                    self.done += more as u64;
                    filled += more;
                }
            }
        }
        Ok(used(scratch))
    }

    /// Checks that this was all, which lets the decoder check its sums.
    pub(crate) fn end(mut self) -> Result<(), UnpackError> {
        if self.read(&mut [0])? > 0 {
            return Err(UnpackError::Long);
        }
        match self.reader {
            // A frame without its end mark is taken for whole by the decoder.
            BlockReader::Lz4(frame) if frame.get_ref().beyond_end => Err(UnpackError::NoEnd),
            _ => Ok(()),
        }
    }

    fn read(&mut self, bytes: &mut [u8]) -> Result<usize, UnpackError> {
        let read = match &mut self.reader {
            BlockReader::Plain(plain) => plain.read(bytes),
            BlockReader::Zlib(zlib) => zlib.read(bytes),
            BlockReader::Lz4(lz4) => lz4.read(bytes),
        };
        read.map_err(UnpackError::Damaged)
    }
}

/// Bytes that remember whether more were asked for than there are.
struct Asked<'b> {
    bytes: &'b [u8],
    beyond_end: bool,
}

impl<'b> Asked<'b> {
    const fn of(bytes: &'b [u8]) -> Asked<'b> {
        Asked { bytes, beyond_end: false }
    }
}

impl Read for Asked<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        self.beyond_end |= self.bytes.is_empty();
        self.bytes.read(into)
    }
}
