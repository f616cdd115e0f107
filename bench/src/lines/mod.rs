//! The lines of the bench, a module for each part of the library.

pub(crate) mod cells;
pub(crate) mod drawing;
pub(crate) mod edits;
pub(crate) mod files;
pub(crate) mod forms;
pub(crate) mod ground;
pub(crate) mod minimap;
pub(crate) mod tools;
