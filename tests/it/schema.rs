//! The published JSON Schemas against the code: what is written fits them, what they list is what
//! the reader knows.

use std::collections::BTreeSet;

use serde_json::Value;
use sturdy_quilt::document::{EXPECTS_SCHEMA, Limits, MAP_SCHEMA, TILES_SCHEMA};
use sturdy_quilt::{MemorySource, Quilt};

fn schema(text: &str) -> (Value, jsonschema::Validator) {
    let value: Value = serde_json::from_str(text).unwrap();
    jsonschema::meta::validate(&value).unwrap();
    let validator = jsonschema::validator_for(&value).unwrap();
    (value, validator)
}

fn document(path: &str) -> Value {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join(path);
    let text = std::fs::read_to_string(path).unwrap();
    serde_json::from_str(&text).unwrap()
}

#[track_caller]
fn fits(validator: &jsonschema::Validator, document: &Value) {
    let errors: Vec<String> = validator
        .iter_errors(document)
        .map(|error| format!("{}: {error}", error.instance_path()))
        .collect();
    assert!(errors.is_empty(), "{errors:#?}");
}

#[test]
fn the_documents_of_the_demo_fit_their_schemas() {
    let (_, map) = schema(MAP_SCHEMA);
    for path in [
        "demo/terrace.quilt.json",
        "demo/hoist.quilt.json",
        "tests/fixtures/version-1/yard.quilt.json",
    ] {
        fits(&map, &document(path));
    }
    let (_, tiles) = schema(TILES_SCHEMA);
    for name in ["terrace", "trees", "folk", "hoist"] {
        fits(&tiles, &document(&format!("demo/{name}.tiles.json")));
    }
    fits(&schema(EXPECTS_SCHEMA).1, &document("demo/terrace.expects.json"));
}

/// Broken inputs whose fault lies in their form, not in what they name.
#[test]
fn documents_of_the_wrong_form_do_not_fit() {
    let (_, map) = schema(MAP_SCHEMA);
    for name in [
        "cells-of-no-encoding",
        "document-is-a-list",
        "format-missing",
        "format-of-a-tile-set",
        "ground-class-is-a-number",
        "lattice-cell-of-one-number",
        "lattice-cell-without-height",
        "layer-opacity-beyond-one",
        "layer-priority-is-a-text",
        "layer-visible-is-a-number",
        "layer-without-name",
        "layers-missing",
        "legend-cell-unknown-key",
        "legend-key-of-two-characters",
        "legend-turn-of-45-degrees",
        "map-unknown-key",
        "marker-cell-beyond-limits",
        "marker-cell-is-a-fraction",
        "marker-path-of-one-point",
        "marker-polygon-point-malformed",
        "marker-with-two-places",
        "marker-without-name",
        "markers-are-an-object",
        "mover-class-treated-oddly",
        "mover-outside-treated-oddly",
        "numbers-in-an-unknown-order",
        "numbers-with-a-fraction",
        "numbers-without-size",
        "packed-unknown-compression",
        "picture-without-legend",
        "section-of-no-encoding",
        "rows-row-is-a-number",
        "tile-color-malformed",
        "tile-name-with-a-slash",
        "tile-set-name-with-a-plus",
        "values-of-unknown-type",
        "values-without-name",
        "version-too-new",
        "version-zero",
    ] {
        let broken = document(&format!("tests/broken/{name}.quilt.json"));
        assert!(!map.is_valid(&broken), "{name} fits");
    }
    let (_, tiles) = schema(TILES_SCHEMA);
    for name in [
        "anchor-beyond-the-picture",
        "animation-of-no-time",
        "animation-start-unknown",
        "animation-without-frames",
        "density-of-zero",
        "sheet-tile-without-width",
        "sheet-without-picture",
    ] {
        let broken = document(&format!("tests/broken/parts/{name}.tiles.json"));
        assert!(!tiles.is_valid(&broken), "{name} fits");
    }
}

/// A map with a hole in it, into which a key is put that no one knows.
fn known_keys(map: &str) -> BTreeSet<String> {
    let mut files = MemorySource::default();
    files.add("map.quilt.json", map.replace('@', r#""qqqqqqqqqqqqqqqq": 0"#));
    let error = Quilt::load(&files, "map.quilt.json").unwrap_err();
    let hint = error.problems().iter().find(|p| p.message.contains("qqqqqqqqqqqqqqqq"));
    let hint = hint.unwrap_or_else(|| panic!("{error}")).hint.clone().unwrap();
    let keys = hint.strip_prefix("known keys are ").unwrap_or_else(|| panic!("{hint}"));
    keys.split(", ").map(str::to_owned).collect()
}

/// The keys of the object in a schema that a pointer leads to.
fn listed_keys(schema: &Value, pointer: &str) -> BTreeSet<String> {
    let object = schema.pointer(pointer).unwrap_or_else(|| panic!("no {pointer}"));
    object["properties"]
        .as_object()
        .unwrap_or_else(|| panic!("{pointer}"))
        .keys()
        .cloned()
        .collect()
}

/// The branch of a definition that holds where its key is there, after so many others.
fn branch(definition: &str, number: usize) -> String {
    format!("/$defs/{definition}{}/then", "/else".repeat(number))
}

/// A validator names the mistake, and not all that something could have been.
#[test]
fn one_mistake_is_one_error_where_it_is() {
    let (_, map) = schema(MAP_SCHEMA);
    let errors = |layer: &str, marker: &str| -> Vec<(String, String)> {
        let text = format!(
            r##"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
            "ground": ["mud"], "movers": {{ "cart": {{ "mud": 0.5 }} }},
            "tiles": [{{ "name": "yard", "tiles": ["sand", {{ "name": "wall" }}] }}],
            "layers": [{{ "name": "soil", {layer} }}], "markers": [{{ "name": "m", {marker} }}] }}"##
        );
        let document: Value = serde_json::from_str(&text).unwrap();
        let errors = map.iter_errors(&document);
        errors.map(|error| (error.instance_path().to_string(), error.to_string())).collect()
    };
    let rows = r##""cells": { "legend": { "#": "yard/wall" }, "rows": ["#"] }"##;
    assert_eq!(errors(rows, r##""cell": [1, 2]"##), []);
    let one = |layer: &str, marker: &str, path: &str, words: &str| {
        let found = errors(layer, marker);
        let [(at, error)] = &found[..] else { panic!("{found:#?}") };
        assert!(at == path && error.contains(words), "{at}: {error}");
    };
    let cells = |inner: &str| format!(r##""cells": {{ {inner} }}"##);
    let here = r##""cell": [1, 2]"##;
    one(
        &cells(r##""rows": ["#"], "sise": [1, 1]"##),
        here,
        "/layers/0/cells",
        "'sise' was unexpected",
    );
    one(&cells(r##""table": 5"##), here, "/layers/0/cells/table", "5 is not of type \"array\"");
    one(&cells(r##""numbers": [1]"##), here, "/layers/0/cells", "\"size\" is a required property");
    let legend = |cell: &str| cells(&format!(r##""legend": {{ "#": {cell} }}, "rows": ["#"]"##));
    one(&legend("\"wall\""), here, "/layers/0/cells/legend/#", "does not match");
    one(
        &legend("{ \"tile\": \"yard/wall\", \"turn\": 45 }"),
        here,
        "/layers/0/cells/legend/#/turn",
        "45",
    );
    one(rows, r##""cell": [1]"##, "/markers/0/cell", "has less than 2 items");
    one(rows, r##""cell": [1, 2], "point": [3, 4]"##, "/markers/0/point", "False schema");
}

#[test]
fn the_schemas_list_the_keys_that_the_reader_knows() {
    let (map, _) = schema(MAP_SCHEMA);
    let around = |inner: &str| {
        format!(
            r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }}, {inner} }}"#
        )
    };
    let layer = |inner: &str| around(&format!(r#""layers": [{{ "name": "l", {inner} }}]"#));
    let cells = |inner: &str| layer(&format!(r#""cells": {{ {inner} }}"#));
    let set =
        |inner: &str| around(&format!(r#""layers": [], "tiles": [{{ "name": "s", {inner} }}]"#));
    let same = |document: String, pointer: &str| {
        assert_eq!(known_keys(&document), listed_keys(&map, pointer), "{pointer}");
    };
    same(around("@"), "");
    same(around("\"layers\": []").replace("[16, 16]", "[16, 16], @"), "/properties/lattice");
    same(layer("@"), "/$defs/layer");
    same(around(r#""layers": [], "markers": [{ @ }]"#), "/$defs/marker");
    same(around(r#""layers": [], "values": [{ @ }]"#), "/$defs/values");
    same(around(r#""layers": [], "bounds": { @ }"#), "/$defs/area");
    for (form, number) in ["rows", "table", "numbers", "picture", "packed"].iter().zip(0..) {
        let keys = format!(r#""{form}": [], @"#);
        same(cells(&keys), &branch("cells", number));
        same(cells(&format!(r#""sections": [{{ {keys} }}]"#)), &branch("section", number));
    }
    same(cells(r#""sections": [], @"#), &branch("cells", 5));
    for (form, number) in ["rows", "table", "picture"].iter().zip(0..) {
        let marks = format!(r#""rows": [], "marks": {{ "{form}": [], @ }}"#);
        same(cells(&marks), &branch("marks", number));
    }
    same(cells(r#""rows": [], "legend": { ".": { @ } }"#), "/$defs/cell/else/else");
    same(around(r#""layers": [], "ground": [{ @ }]"#), "/properties/ground/items/else");
    let numbers = r#""numbers": [], "size": [0, 0], "#;
    same(
        cells(&format!(r#"{numbers} "order": {{ @ }}"#)),
        &format!("{}/properties/order", branch("cells", 2)),
    );
    same(
        cells(&format!(r#"{numbers} "sets": [{{ @ }}]"#)),
        &format!("{}/properties/sets/items", branch("cells", 2)),
    );
    let one = r#""tiles": [{ "name": "s", "tiles": ["t"] }]"#;
    same(
        around(&format!(
            r#"{one}, "layers": [{{ "name": "l", "cells": {{ "size": [1, 1], "tiles": ["s/t"], "packed": {{ "plain": "", @ }} }} }}]"#
        )),
        "/$defs/packed",
    );
    same(set("@"), "/$defs/set");
    same(set(r#""sheet": { @ }"#), "/$defs/sheet");
    same(set(r#""ground_mask": { @ }"#), "/$defs/set/properties/ground_mask");
    same(set(r#""tiles": [{ @ }]"#), "/$defs/tile/else");
    same(set(r#""tiles": [{ "pixels": { @ } }]"#), "/$defs/pixels");
    same(set(r#""tiles": [{ "name": "a", "animation": { @ } }]"#), "/$defs/animation");

    // A set in a file of its own, and what a game expects.
    let (tiles, _) = schema(TILES_SCHEMA);
    for part in ["color", "pixels", "anchor", "offset", "animation", "tile", "sheet"] {
        assert_eq!(tiles["$defs"][part], map["$defs"][part], "{part}");
    }
    let mut inline = listed_keys(&map, "/$defs/set");
    inline.extend(["$schema", "format", "version"].map(str::to_owned));
    assert_eq!(listed_keys(&tiles, ""), inline);
    let mut files = MemorySource::default();
    files.add(
        "g.expects.json",
        r#"{ "format": "sturdy-quilt/expects", "version": 1, "qqqqqqqqqqqqqqqq": 0 }"#,
    );
    let error = sturdy_quilt::document::Expects::load(&files, "g.expects.json", &Limits::default())
        .unwrap_err();
    let hint = error.problems()[0].hint.clone().unwrap();
    let keys: BTreeSet<String> =
        hint.trim_start_matches("known keys are ").split(", ").map(str::to_owned).collect();
    assert_eq!(keys, listed_keys(&schema(EXPECTS_SCHEMA).0, ""));
}

#[cfg(feature = "png")]
mod with_pictures {
    use proptest::prelude::*;
    use sturdy_quilt::document::CellEncoding;

    use super::*;
    use crate::scene;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]

        #[test]
        fn every_map_that_is_written_fits_its_schema(quilt in scene::any_quilt(40), apart: bool) {
            let (_, map) = schema(MAP_SCHEMA);
            let (_, tiles) = schema(TILES_SCHEMA);
            for form in [CellEncoding::Readable, CellEncoding::Numbers, CellEncoding::Table, CellEncoding::Picture, CellEncoding::Packed] {
                let Ok(written) = quilt.document().with_encoding(form).with_cells_apart(apart).to_files("map.quilt.json") else {
                    continue;
                };
                fits(&map, &serde_json::from_slice(&written[0].1).unwrap());
            }
            for set in quilt.tiles().sets() {
                fits(&tiles, &serde_json::from_str(&set.to_json().unwrap()).unwrap());
            }
        }
    }
}
