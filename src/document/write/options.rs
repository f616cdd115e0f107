//! The options with which a map is written.

use super::encode::CellEncoding;
use crate::document::limits::Limits;
use crate::quilt::Quilt;

/// A map, and how it is to be written.
#[derive(Clone, Copy, Debug)]
pub(super) struct Options<'q> {
    pub(super) quilt: &'q Quilt,
    pub(super) encoding: CellEncoding,
    /// Whether cells go to files of their own.
    pub(super) apart: bool,
    pub(super) limits: Limits,
}
