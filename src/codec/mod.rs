//! How things are written as bytes: records with a check sum, whole numbers, names of tiles, chunks.
//!
//! docs/format.md tells it to the byte. Nothing in here knows what a record is about.

// `bytes` writes and reads single things, `frame` puts a check sum around them, `names` says which tiles are
// meant, and `chunk` writes and reads the values of cells.

mod bytes;
mod chunk;
mod frame;
mod names;

pub use bytes::BytesFault;
pub(crate) use bytes::{Bytes, Out};
pub(crate) use chunk::{
    WordIn, WordOut, put_chunk, put_content, put_places, put_values, take_chunk, take_content,
    take_places, take_values,
};
#[cfg(all(feature = "fs", feature = "threads"))]
pub(crate) use frame::Stored;
pub(crate) use frame::{Frame, framed};
pub(crate) use names::{NamesIn, NamesOut};
