use crate::codec::BytesFault;
use crate::document::problem::LoadError;
use crate::edit::ApplyError;

/// The error of bytes that are no changes, or none of this map.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ChangesError {
    /// The bytes are damaged, or something else.
    #[error("these bytes are no changes of a map")]
    Bytes(#[from] BytesFault),
    /// A part of a map that they hold cannot be one of this map.
    #[error("{part} in the changes cannot be one of this map")]
    Part {
        /// The part, for example "marker `gate`".
        part: String,
        /// The problems of the part.
        #[source]
        source: LoadError,
    },
    /// The changes say only what is after, and the map does not have what they change.
    #[error("the map does not have what the changes lead on from")]
    Forward(#[from] ApplyError),
}
