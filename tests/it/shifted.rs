//! Grids of which every second row or column lies half a cell further along.

use proptest::prelude::*;
use sturdy_quilt::document::CellEncoding;
use sturdy_quilt::units::{Addressing, CellOffset};
use sturdy_quilt::view::Projection;
use sturdy_quilt::{CellPos, EditError, Lattice, Loader, MemorySource, Quilt};

const ALL: [(&str, Addressing); 4] = [
    ("odd rows", Addressing::OddRows),
    ("even rows", Addressing::EvenRows),
    ("odd columns", Addressing::OddColumns),
    ("even columns", Addressing::EvenColumns),
];

proptest! {
    /// On the pane, columns are a whole diamond wide and rows half a diamond high, or the other way
    /// round; and every second one lies half a diamond further along.
    #[test]
    fn shifted_places_make_straight_rows(
        column in -1000..1000_i32, row in -1000..1000_i32, which in 0..4_usize,
    ) {
        let lattice = Lattice::square(16.0, 16.0).unwrap();
        let diamond = Projection::diamond(&lattice, 64, 32).unwrap();
        let addressing = ALL[which].1;
        let CellOffset { x, y } = addressing.cell(column, row);
        prop_assert_eq!(addressing.address(CellOffset::new(x, y)), (column, row));
        let seen = diamond.to_pane(lattice.bounds(CellPos::new(x, y)).min(), 0.0);
        let (c, r) = (f64::from(column), f64::from(row));
        let odd = |number: i32| f64::from(number.rem_euclid(2));
        let expected = match addressing {
            Addressing::OddRows => (64.0 * c + 32.0 * odd(row), 16.0 * r),
            Addressing::EvenRows => (64.0 * c - 32.0 * odd(row), 16.0 * r),
            Addressing::OddColumns => (32.0 * c, 32.0 * r + 16.0 * odd(column)),
            _ => (32.0 * c, 32.0 * r - 16.0 * odd(column)),
        };
        prop_assert_eq!((seen.x, seen.y), expected);
    }

    /// Every cell has one place, and the other way round.
    #[test]
    fn places_and_cells_are_the_inverse_of_each_other(
        x in any::<i16>(), y in any::<i16>(), which in 0..4_usize,
    ) {
        let cell = CellOffset::new(x.into(), y.into());
        let (column, row) = ALL[which].1.address(cell);
        prop_assert_eq!(ALL[which].1.cell(column, row), cell);
    }

    /// A map that was read from a shifted text is saved in every encoding and read again, after edits
    /// inside and outside of the text; and the text keeps its form.
    #[test]
    fn shifted_maps_are_saved_as_they_were_read(
        rows in prop::collection::vec("[ab ]{4}", 1..6), which in 0..4_usize,
        edits in prop::collection::vec((-6..9_i32, -6..9_i32, 0..3_usize), 0..6),
        encoding in 0..4_usize,
    ) {
        let (words, addressing) = ALL[which];
        let first = loaded(words, &rows);
        let quilt = first.quilt;
        for (row, text) in rows.iter().enumerate() {
            for (column, sign) in text.chars().enumerate() {
                let offset = addressing.cell(column as i32, row as i32);
                let at = CellPos::new(3, -2).checked_add(offset).unwrap();
                let held = quilt.get("soil", at).unwrap().here().unwrap();
                let expected = match sign { 'a' => "yard/sand", 'b' => "yard/wall", _ => "empty" };
                prop_assert_eq!(quilt.tiles().notation(held).to_string(), expected);
            }
        }
        let held = rows.iter().flat_map(|row| row.chars()).filter(|sign| *sign != ' ').count();
        prop_assert_eq!(quilt.layer("soil").unwrap().cells().occupied().count(), held);
        let mut changed = quilt.clone();
        changed.edit("change", |pen| {
            for (x, y, tile) in &edits {
                let tile = ["yard/sand", "yard/wall", "empty"][*tile];
                pen.put("soil", CellPos::new(*x, *y), tile)?;
            }
            Ok::<_, EditError>(())
        }).unwrap();
        let encoding = [
            CellEncoding::Rows, CellEncoding::Table, CellEncoding::Numbers, CellEncoding::Picture,
        ][encoding];
        let mut files = MemorySource::default();
        for (name, bytes) in changed.document().with_encoding(encoding).to_files("map.quilt.json").unwrap() {
            let text = String::from_utf8_lossy(&bytes).into_owned();
            if name == "map.quilt.json" && changed.layer("soil").unwrap().cells().occupied().count() > 0 {
                prop_assert!(text.contains(&format!("\"shifted\": \"{words}\"")), "{}", text);
            }
            files.add(name, bytes);
        }
        let again = Loader::new().load(&files, "map.quilt.json").unwrap().quilt;
        prop_assert!(again.same_as(&changed));
        // Back into the document from which it came.
        let mut own = first.files;
        let back = changed.document().back_into(&quilt, &own, "map.quilt.json", &[]).unwrap();
        prop_assert_eq!(&back.inlined, &[]);
        for (name, bytes) in back.files {
            own.add(name, bytes);
        }
        let again = Loader::new().load(&own, "map.quilt.json").unwrap().quilt;
        prop_assert!(again.same_as(&changed));
    }
}

struct First {
    files: MemorySource,
    quilt: Quilt,
}

fn loaded(words: &str, rows: &[String]) -> First {
    let rows = serde_json::to_string(rows).unwrap();
    let mut files = MemorySource::default();
    files.add(
        "map.quilt.json",
        format!(
            r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
  "tiles": [{{ "name": "yard", "tiles": ["sand", "wall"] }}],
  "layers": [{{ "name": "soil", "at": [3, -2], "cells": {{ "shifted": "{words}",
    "legend": {{ "a": "yard/sand", "b": "yard/wall" }}, "rows": {rows} }} }}] }}"#
        ),
    );
    let quilt = Loader::new().load(&files, "map.quilt.json").unwrap().quilt;
    First { files, quilt }
}

/// A shifted text says where its cells are, and knows the limits of cells.
#[test]
fn faults_of_shifted_grids_say_which_cell() {
    let load = |at: &str, cells: &str| {
        let mut files = MemorySource::default();
        files.add(
            "map.quilt.json",
            format!(
                r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
  "tiles": [{{ "name": "yard", "tiles": ["sand"] }}],
  "layers": [{{ "name": "soil", "at": {at}, "cells": {{ {cells} }} }}] }}"#
            ),
        );
        Loader::new().load(&files, "map.quilt.json").unwrap_err().to_string()
    };
    let rows = r#""legend": { "a": "yard/sand" }, "rows": ["aa", "a?"]"#;
    let error = load("[10, 10]", &format!(r#""shifted": "odd rows", {rows}"#));
    assert!(error.contains("does not know `?` at 12,9"), "{error}");
    let error = load("[0, 0]", &format!(r#""shifted": "rows", {rows}"#));
    assert!(error.contains("odd rows"), "{error}");
    let error = load("[0, 0]", r#""shifted": "odd rows", "set": "yard", "table": ["0,0", "0,7"]"#);
    assert!(error.contains("number 7 is not a tile"), "{error}");
    let far = format!("[{}, 0]", CellPos::MAX);
    let error = load(
        &far,
        r#""shifted": "odd rows", "legend": { "a": "yard/sand" }, "rows": ["aa", "aa"]"#,
    );
    assert!(error.contains("beyond the limits of cells"), "{error}");
}
