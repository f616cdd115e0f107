//! PNG (ISO/IEC 15948) in and out, through the `png` crate.

use std::io::Cursor;

use super::Picture;
use crate::units::PixelSize;

/// The error of bytes that are not a PNG picture, or of a picture that cannot be written as one.
///
/// The texts of `Decoding` and `Encoding` do not say why: that is in
/// [`source`](std::error::Error::source), the error of the decoder or encoder.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PngError {
    /// The bytes are no PNG, or a damaged one.
    #[error("the bytes are not a readable PNG")]
    Decoding(#[source] png::DecodingError),
    /// The picture has more pixels than allowed; nothing was decoded.
    #[error("a picture of {size} has more than the {limit} pixels allowed")]
    TooLarge {
        /// The size that the picture states.
        size: PixelSize,
        /// The most pixels allowed.
        limit: u64,
    },
    /// The picture could not be encoded, for example because it has no pixels.
    #[error("the picture cannot be written as PNG")]
    Encoding(#[source] png::EncodingError),
}

impl Picture {
    /// Decodes a PNG of any colour type and depth to RGBA with 8 bits a channel.
    ///
    /// # Errors
    /// Bytes that are no readable PNG, or a picture of more than `max_pixels` pixels, which is
    /// found before its memory is asked for.
    pub fn from_png(bytes: &[u8], max_pixels: u64) -> Result<Picture, PngError> {
        let Opened { mut reader, size } = Opened::of(bytes, max_pixels)?;
        let count = size.area() as usize;
        let mut raw = vec![0; reader.output_buffer_size().unwrap_or(count * 4)];
        let info = reader.next_frame(&mut raw).map_err(PngError::Decoding)?;
        reader.finish().map_err(PngError::Decoding)?;
        raw.truncate(info.buffer_size());
        let bytes = match info.color_type {
            png::ColorType::GrayscaleAlpha => {
                raw.as_chunks::<2>().0.iter().flat_map(|&[gray, a]| [gray, gray, gray, a]).collect()
            }
            _ => raw,
        };
        debug_assert_eq!(bytes.len(), count * 4);
        Ok(Picture { size, bytes })
    }

    /// Encodes the picture as an RGBA PNG. The same picture always gives the same bytes.
    ///
    /// # Errors
    /// A picture without pixels: PNG has none.
    pub fn to_png(&self) -> Result<Vec<u8>, PngError> {
        let mut bytes = Vec::new();
        let mut encoder = png::Encoder::new(&mut bytes, self.size.width, self.size.height);
        encoder.set_color(png::ColorType::Rgba);
        encoder.set_depth(png::BitDepth::Eight);
        let mut writer = encoder.write_header().map_err(PngError::Encoding)?;
        writer.write_image_data(&self.bytes).map_err(PngError::Encoding)?;
        writer.finish().map_err(PngError::Encoding)?;
        Ok(bytes)
    }
}

/// A PNG whose header was read and found to be within limits.
struct Opened<'b> {
    reader: png::Reader<Cursor<&'b [u8]>>,
    size: PixelSize,
}

impl<'b> Opened<'b> {
    fn of(bytes: &'b [u8], max_pixels: u64) -> Result<Opened<'b>, PngError> {
        let mut options = png::DecodeOptions::default();
        // By default the decoder passes over a wrong sum of the compressed pixels.
        options.set_ignore_adler32(false);
        let mut decoder = png::Decoder::new_with_options(Cursor::new(bytes), options);
        decoder.set_transformations(png::Transformations::ALPHA | png::Transformations::STRIP_16);
        let header = decoder.read_header_info().map_err(PngError::Decoding)?;
        let size = PixelSize::new(header.width, header.height);
        if size.area() > max_pixels {
            return Err(PngError::TooLarge { size, limit: max_pixels });
        }
        let reader = decoder.read_info().map_err(PngError::Decoding)?;
        Ok(Opened { reader, size })
    }
}

/// The rows of a PNG one by one, as RGBA with 8 bits a channel: for one who keeps none of them.
pub(crate) struct PngRows<'b> {
    source: RowSource<'b>,
    size: PixelSize,
    row: Vec<[u8; 4]>,
}

enum RowSource<'b> {
    Rows(Box<Opened<'b>>),
    /// An interlaced picture has no whole row before its end.
    Whole {
        picture: Picture,
        next: usize,
    },
}

impl<'b> PngRows<'b> {
    pub(crate) fn of(bytes: &'b [u8], max_pixels: u64) -> Result<PngRows<'b>, PngError> {
        let opened = Opened::of(bytes, max_pixels)?;
        let size = opened.size;
        let source = match opened.reader.info().interlaced {
            true => RowSource::Whole { picture: Picture::from_png(bytes, max_pixels)?, next: 0 },
            false => RowSource::Rows(Box::new(opened)),
        };
        Ok(PngRows { source, size, row: Vec::new() })
    }

    pub(crate) const fn size(&self) -> PixelSize {
        self.size
    }

    /// The next row; an empty one after the last, when all of the file is known to be whole.
    pub(crate) fn next_row(&mut self) -> Result<&[[u8; 4]], PngError> {
        let width = self.size.width as usize;
        match &mut self.source {
            RowSource::Rows(opened) => {
                let (color, _) = opened.reader.output_color_type();
                let read = opened.reader.next_row().map_err(PngError::Decoding)?;
                let Some(row) = read else {
                    // The sum of the compressed pixels stands behind them.
                    opened.reader.finish().map_err(PngError::Decoding)?;
                    self.row.clear();
                    return Ok(&self.row);
                };
                let bytes = row.data();
                if color != png::ColorType::GrayscaleAlpha {
                    self.row.clear();
                    self.row.extend_from_slice(bytes.as_chunks::<4>().0);
                    return Ok(&self.row);
                }
                let gray = bytes.as_chunks::<2>().0.iter();
                self.row.clear();
                self.row.extend(gray.map(|&[gray, alpha]| [gray, gray, gray, alpha]));
                Ok(&self.row)
            }
            RowSource::Whole { picture, next } => {
                let pixels = picture.bytes().as_chunks::<4>().0;
                let start = (*next * width).min(pixels.len());
                *next += 1;
                Ok(&pixels[start..(start + width).min(pixels.len())])
            }
        }
    }
}
