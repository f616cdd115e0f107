//! How packed blocks are compressed.

use std::io::Read;

/// How a packed block is compressed, in formats that any language can read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Compression {
    None,
    /// RFC 1950.
    Zlib,
    /// The LZ4 frame format.
    Lz4,
}

/// Why a block cannot be unpacked.
#[derive(Debug, thiserror::Error)]
pub(super) enum UnpackError {
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
    /// The names that documents use.
    pub(super) const NAMED: [(&str, Compression); 3] =
        [("none", Compression::None), ("zlib", Compression::Zlib), ("lz4", Compression::Lz4)];

    /// Unpacks a block of exactly `wanted` bytes; no more than that is ever asked for.
    pub(super) fn unpack(self, packed: &[u8], wanted: u64) -> Result<Vec<u8>, UnpackError> {
        match self {
            Compression::None => read_exactly(packed, wanted),
            Compression::Zlib => read_exactly(flate2::bufread::ZlibDecoder::new(packed), wanted),
            Compression::Lz4 => {
                let mut frame = lz4_flex::frame::FrameDecoder::new(Asked::of(packed));
                let bytes = read_exactly(&mut frame, wanted)?;
                // A frame without its end mark is taken for whole by the decoder.
                if frame.get_ref().beyond_end { Err(UnpackError::NoEnd) } else { Ok(bytes) }
            }
        }
    }

    /// Packs a block.
    pub(super) fn pack(self, bytes: &[u8]) -> std::io::Result<Vec<u8>> {
        use std::io::Write;
        match self {
            Compression::None => Ok(bytes.to_vec()),
            Compression::Zlib => {
                let level = flate2::Compression::default();
                let mut encoder = flate2::write::ZlibEncoder::new(Vec::new(), level);
                encoder.write_all(bytes)?;
                encoder.finish()
            }
            Compression::Lz4 => {
                let info = lz4_flex::frame::FrameInfo::new()
                    .block_size(lz4_flex::frame::BlockSize::Max1MB)
                    .content_checksum(true);
                let mut encoder = lz4_flex::frame::FrameEncoder::with_frame_info(info, Vec::new());
                encoder.write_all(bytes)?;
                encoder.finish().map_err(std::io::Error::other)
            }
        }
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

fn read_exactly(mut reader: impl Read, wanted: u64) -> Result<Vec<u8>, UnpackError> {
    // What a stranger states is believed only as far as the bytes bear it out.
    let mut bytes = Vec::with_capacity(usize::try_from(wanted.min(1 << 20)).unwrap_or(0));
    reader.by_ref().take(wanted).read_to_end(&mut bytes).map_err(UnpackError::Damaged)?;
    if (bytes.len() as u64) < wanted {
        return Err(UnpackError::Short(bytes.len() as u64));
    }
    // Reading on tells whether there is more, and lets the decoder check its sums.
    match reader.read(&mut [0]) {
        Ok(0) => Ok(bytes),
        Ok(_) => Err(UnpackError::Long),
        Err(error) => Err(UnpackError::Damaged(error)),
    }
}
