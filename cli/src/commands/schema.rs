//! `schema`: the JSON Schema of a kind of document.

use std::io::Write;

use crate::Outcome;
use crate::args::SchemaKind;

pub(crate) fn run(kind: SchemaKind, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let text = match kind {
        SchemaKind::Map => sturdy_quilt::document::MAP_SCHEMA,
        SchemaKind::Tiles => sturdy_quilt::document::TILES_SCHEMA,
        SchemaKind::Expects => sturdy_quilt::document::EXPECTS_SCHEMA,
    };
    out.write_all(text.as_bytes())?;
    Ok(Outcome::Fine)
}
