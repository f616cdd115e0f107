//! PNG (ISO/IEC 15948) in and out, through the `png` crate.

use std::io::Cursor;

use super::Picture;
use crate::units::PixelSize;

/// Why bytes cannot be read as a PNG picture, or a picture not be written as one.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PngError {
    /// The bytes are no PNG, or a damaged one.
    #[error("the bytes are no readable PNG")]
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
        let mut decoder = png::Decoder::new(Cursor::new(bytes));
        decoder.set_transformations(png::Transformations::ALPHA | png::Transformations::STRIP_16);
        let header = decoder.read_header_info().map_err(PngError::Decoding)?;
        let size = PixelSize::new(header.width, header.height);
        if size.area() > max_pixels {
            return Err(PngError::TooLarge { size, limit: max_pixels });
        }
        let mut reader = decoder.read_info().map_err(PngError::Decoding)?;
        let count = size.area() as usize;
        let mut raw = vec![0; reader.output_buffer_size().unwrap_or(count * 4)];
        let info = reader.next_frame(&mut raw).map_err(PngError::Decoding)?;
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
