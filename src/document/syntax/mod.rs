//! The texts of documents as trees and tables whose every part can tell its place.

mod compression;
mod fields;
mod mend;
mod reader;
mod tree;
pub(in crate::document) use compression::{Compression, Packing, UnpackError};
pub(in crate::document) use fields::{Field, FieldError, each_field};
pub(in crate::document) use reader::{Fields, Reader, optional, parsed};
pub(in crate::document) use tree::{Entry, Node, Span, Tree, WholeNumbers};
