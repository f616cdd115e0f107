//! The formats of our documents: their names, their version and their schemas.

/// The JSON Schema of maps, `NAME.quilt.json`: editors complete and check by it what people type.
pub const MAP_SCHEMA: &str = include_str!("../../docs/schema/map.schema.json");
/// The JSON Schema of tile sets, `NAME.tiles.json`.
pub const TILES_SCHEMA: &str = include_str!("../../docs/schema/tiles.schema.json");
/// The JSON Schema of what a game expects of a map, `NAME.expects.json`.
pub const EXPECTS_SCHEMA: &str = include_str!("../../docs/schema/expects.schema.json");

/// The format that a map document states.
pub(super) const MAP_FORMAT: &str = "sturdy-quilt/map";
/// The format that a tile set document states.
pub(super) const TILES_FORMAT: &str = "sturdy-quilt/tiles";
/// The format that a document of expectations states.
pub(super) const EXPECTS_FORMAT: &str = "sturdy-quilt/expects";
/// The version of all that is written, and the newest that is read.
pub(super) const VERSION: i64 = 1;
