//! The texts of documents as trees and tables whose every part can tell its place.

mod compression;
mod fields;
mod mend;
mod reader;
mod tree;
pub(crate) use compression::{Compression, Packing, UnpackError};
pub(crate) use fields::{Field, FieldError, each_field};
pub(crate) use reader::{Fields, Reader, optional, parsed};
pub(crate) use tree::{Entry, Node, Span, Tree, WholeNumbers};
