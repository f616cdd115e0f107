//! What a user would write or pick instead. Written once, as well as the idea allows, and left
//! alone since.

pub(crate) mod cells;
pub(crate) mod drawing;
pub(crate) mod edits;
pub(crate) mod ground;
