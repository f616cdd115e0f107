//! Inputs that are large in one way each, for those who count what it costs to read them.

use sturdy_quilt::document::GridFile;
use sturdy_quilt::{LoadError, Loader, MemorySource};

/// An input that is large in one way.
pub(crate) struct Large {
    source: MemorySource,
    /// The file that is loaded, a map or else a grid.
    file: &'static str,
    /// How many bytes its files have.
    pub(crate) bytes: usize,
    /// Whether it is one text, row or table, which is read in parts, and not many entries of a
    /// document.
    pub(crate) is_bulk: bool,
}

/// The path of a map.
const MAP: &str = "m.quilt.json";

impl Large {
    fn of(name: &'static str, files: Vec<(&'static str, Vec<u8>)>) -> Large {
        let mut source = MemorySource::default();
        let (file, bytes) = (files[0].0, files.iter().map(|(_, bytes)| bytes.len()).sum());
        let is_small = files[0].1.len() < 1000;
        let is_bulk = file != MAP || is_small || name.starts_with("a wide row");
        files.into_iter().for_each(|(path, bytes)| source.add(path, bytes));
        Large { source, file, bytes, is_bulk }
    }

    /// Loads it.
    #[inline(never)]
    pub(crate) fn load(&self) -> Result<sturdy_quilt::Loaded, LoadError> {
        if self.file == MAP {
            return Loader::new().load(&self.source, MAP);
        }
        Loader::new().load_grid(&self.source, &GridFile::new(self.file))
    }
}

/// A map around the cells of one layer, and what stands beside them.
fn around(beside: &str, cells: &str) -> String {
    around_set(r#"["a", "b"]"#, beside, cells)
}

fn around_set(tiles: &str, beside: &str, cells: &str) -> String {
    format!(
        r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [16, 16] }},
        "tiles": [{{ "name": "s", "tiles": {tiles} }}], {beside}
        "layers": [{{ "name": "l", "cells": {cells} }}] }}"#
    )
}

const ROWS: &str = r#"{ "legend": { ".": "s/a" }, "rows": ["."] }"#;

fn many(count: usize, item: impl Fn(usize) -> String) -> String {
    (0..count).map(item).collect::<Vec<_>>().join(",")
}

/// One of a million different characters.
fn character(n: usize) -> char {
    char::from_u32(0x1_0000 + n as u32).expect("it is a character")
}

#[cfg(feature = "png")]
fn color(n: usize) -> [u8; 3] {
    let [_, _, _, _, _, r, g, b] = (n as u64).to_be_bytes();
    [r, g, b]
}

/// All kinds of inputs.
pub(crate) const NAMES: [&str; 28] = [
    "movers",
    "classes",
    "classes of a mover",
    "a legend",
    "a legend of unknown tiles",
    "unknown characters",
    "one key many times",
    "unknown keys",
    "long unknown keys",
    "markers outside",
    "palettes",
    "data",
    "values",
    "a wide row",
    "a wide row of longer characters",
    "numbers",
    "tiles",
    "classes of tiles",
    "colours of a set",
    "rows in a file",
    "blank lines in a file",
    "a table of commas",
    "a table of different texts",
    "a bare text",
    "a bare table",
    "a bare table of sets",
    "a bare picture of colours",
    "a picture of colours with a tolerance",
];

/// An input by its name, `parts` of 64 of its full size of a few megabytes. Those with pictures need the
/// feature `png`.
pub(crate) fn input(name: &'static str, parts: usize) -> Large {
    let of = |full: usize| full * parts / 64;
    let map = |name, beside: String, cells: &str| {
        Large::of(name, vec![(MAP, around(&beside, cells).into_bytes())])
    };
    let of_set = |name, tiles: String| {
        Large::of(name, vec![(MAP, around_set(&tiles, "", ROWS).into_bytes())])
    };
    let of_rows =
        |rows: &str| format!(r#"{{ "legend": {{ ".": "s/a", "é": "s/b" }}, "rows": {rows} }}"#);
    let legend = |entries: String, rows: &str| {
        format!(r#"{{ "legend": {{ {entries} }}, "rows": ["{rows}"] }}"#)
    };
    let beside = |name, cells: &str, file, text: String| {
        Large::of(name, vec![(MAP, around("", cells).into_bytes()), (file, text.into_bytes())])
    };
    let grid = |name, file, text: String| Large::of(name, vec![(file, text.into_bytes())]);
    let bulk = of(4 << 20);
    match name {
        "movers" => map(
            name,
            format!(r#""movers": {{ {} }},"#, many(of(40_000), |n| format!(r#""m{n}": {{}}"#))),
            ROWS,
        ),
        "classes" => map(
            name,
            format!(r#""ground": [{}],"#, many(of(80_000), |n| format!(r#""c{n}""#))),
            ROWS,
        ),
        "classes of a mover" => map(
            name,
            format!(
                r#""movers": {{ "m": {{ {} }} }},"#,
                many(of(80_000), |n| format!(r#""c{n}": "pass""#))
            ),
            ROWS,
        ),
        "a legend" => map(
            name,
            String::new(),
            &legend(
                many(of(300_000), |n| format!(r#""{}": "s/a""#, character(n))),
                &character(7).to_string(),
            ),
        ),
        "a legend of unknown tiles" => map(
            name,
            String::new(),
            &legend(
                many(of(100_000), |n| format!(r#""{}": "s/x{n}""#, character(n))),
                &character(7).to_string(),
            ),
        ),
        "unknown characters" => map(
            name,
            String::new(),
            &legend(String::new(), &(0..of(200_000)).map(character).collect::<String>()),
        ),
        "one key many times" => {
            map(name, String::new(), &legend(many(of(60_000), |_| r#"".": "s/a""#.to_owned()), "."))
        }
        "unknown keys" => map(name, many(of(60_000), |n| format!(r#""key{n}": 1"#)) + ",", ROWS),
        "long unknown keys" => {
            map(name, many(4, |n| format!(r#""{n}{}": 1"#, "k".repeat(of(1 << 20)))) + ",", ROWS)
        }
        "markers outside" => map(
            name,
            format!(
                r#""markers": [{}],"#,
                many(of(100_000), |n| format!(r#"{{ "name": "m{n}", "cell": [{n}, 99] }}"#))
            ),
            ROWS,
        ),
        "palettes" => map(
            name,
            format!(
                r#""palettes": {{ {} }},"#,
                many(100, |n| format!(
                    r#""p{n}": {{ "colors": {{ {} }} }}"#,
                    many(of(400), |n| format!(r##""c{n}": "#00ff00""##))
                ))
            ),
            ROWS,
        ),
        "data" => map(
            name,
            format!(r#""data": [{}],"#, many(of(400_000), |n| format!(r#"[{n}, true]"#))),
            ROWS,
        ),
        "values" => map(
            name,
            format!(
                r#""values": [{{ "name": "v", "type": "u32", "rows": ["{}"] }}],"#,
                "x ".repeat(of(500_000))
            ),
            ROWS,
        ),
        "a wide row" => map(name, String::new(), &of_rows(&format!(r#"["{}"]"#, ".".repeat(bulk)))),
        "a wide row of longer characters" => {
            map(name, String::new(), &of_rows(&format!(r#"["{}"]"#, "é".repeat(bulk / 2))))
        }
        "numbers" => map(
            name,
            String::new(),
            &format!(
                r#"{{ "set": "s", "size": [{}, 1000], "numbers": [{}] }}"#,
                of(2048),
                many(of(2_048_000), |n| (n % 3 % 2).to_string())
            ),
        ),
        "tiles" => of_set(name, format!("[{}]", many(of(1_100_000), |n| format!(r#""t{n}""#)))),
        "classes of tiles" => of_set(
            name,
            format!(
                "[{}]",
                many(of(60_000), |n| format!(r#"{{ "name": "t{n}", "ground": "g{n}" }}"#))
            ),
        ),
        "colours of a set" => of_set(
            name,
            format!(
                r##"["a", "b"], "palette": {{ {} }}"##,
                many(of(100_000), |n| format!(r##""c{n}": "#00ff00""##))
            ),
        ),
        "rows in a file" => beside(name, &of_rows(r#""rows.txt""#), "rows.txt", ".".repeat(bulk)),
        "blank lines in a file" => {
            beside(name, &of_rows(r#""rows.txt""#), "rows.txt", "\n".repeat(bulk))
        }
        "a table of commas" => beside(name, r#"{ "table": "t.csv" }"#, "t.csv", ",".repeat(bulk)),
        "a table of different texts" => beside(
            name,
            r#"{ "table": "t.csv" }"#,
            "t.csv",
            many(of(200_000), |n| format!("s/x{n}")),
        ),
        "a bare text" => grid(name, "text.txt", (0..of(200_000)).map(character).collect()),
        "a bare table" => grid(name, "table.csv", many(of(200_000), |n| n.to_string())),
        "a bare table of sets" => grid(name, "sets.csv", many(of(100_000), |n| format!("s{n}/t"))),
        #[cfg(feature = "png")]
        "a bare picture of colours" => Large::of(name, vec![("p.png", picture(of(160_000)))]),
        #[cfg(feature = "png")]
        "a picture of colours with a tolerance" => {
            let entry = |n: usize| {
                let [r, g, b] = color(n * 251);
                format!(r##""#{r:02x}{g:02x}{b:02x}": "s/a""##)
            };
            let cells = format!(
                r#"{{ "picture": "p.png", "tolerance": 3, "legend": {{ {} }} }}"#,
                many(of(60_000), entry)
            );
            let map = around("", &cells).into_bytes();
            Large::of(name, vec![(MAP, map), ("p.png", picture(of(160_000)))])
        }
        _ => panic!("there is no input `{name}`"),
    }
}

/// A picture of so many different colours.
#[cfg(feature = "png")]
fn picture(count: usize) -> Vec<u8> {
    let (width, height) = (count / 40, 40);
    let mut bytes = Vec::new();
    for n in 0..width * height {
        bytes.extend(color(n));
        bytes.push(255);
    }
    let size = sturdy_quilt::units::PixelSize::new(width as u32, height as u32);
    let picture = sturdy_quilt::Picture::from_bytes(size, bytes).expect("it is whole");
    picture.to_png().expect("it can be written")
}
