//! The tool as its users meet it: real runs of the real program.

mod convert;
mod designer;
mod draw;
mod edit;
mod guide;
mod info;
mod motion;
mod output;
mod tools;

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use assert_cmd::assert::Assert;
use serde_json::{Value, json};
use sturdy_quilt::units::PixelSize;
use sturdy_quilt::{Cell, Color, GroundMap, Picture, Quilt};
use tempfile::TempDir;

/// The map of the demo, as a line for the tool names it.
const TERRACE: &str = "demo/terrace.quilt.json";

fn demo_file(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo").join(name)
}

fn demo_map() -> Quilt {
    Quilt::open(demo_file("terrace.quilt.json")).unwrap()
}

fn all_said(done: &Assert) -> String {
    let output = done.get_output();
    String::from_utf8([&output.stdout[..], &output.stderr].concat()).unwrap()
}

fn json_of(text: &str) -> Value {
    serde_json::from_str(text).unwrap()
}

/// An empty folder in which the tool runs.
struct Folder(TempDir);

impl Folder {
    fn new() -> Folder {
        Folder(tempfile::tempdir().unwrap())
    }

    /// A folder with a file of this text.
    fn with(name: &str, text: &str) -> Folder {
        let folder = Folder::new();
        folder.write(name, text);
        folder
    }

    /// Runs the tool with the words of a line; those that begin with `demo/` are files of the demo.
    fn run(&self, line: &str) -> Assert {
        let word = |word: &str| match word.strip_prefix("demo/") {
            Some(name) => demo_file(name).into_os_string(),
            None => word.into(),
        };
        let mut tool = Command::cargo_bin("sturdy-quilt").unwrap();
        tool.current_dir(self.0.path()).args(line.split_whitespace().map(word)).assert()
    }

    /// What the tool says.
    fn say(&self, line: &str) -> String {
        String::from_utf8(self.run(line).success().get_output().stdout.clone()).unwrap()
    }

    /// What the tool says when it fails with this code, its errors behind.
    fn fail(&self, line: &str, code: i32) -> String {
        all_said(&self.run(line).code(code))
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap()
    }

    fn write(&self, name: &str, content: impl AsRef<[u8]>) {
        fs::write(self.path(name), content).unwrap();
    }

    fn map(&self, name: &str) -> Quilt {
        Quilt::open(self.path(name)).unwrap()
    }

    fn picture(&self, name: &str) -> Picture {
        picture(&self.path(name))
    }
}

fn picture(path: &Path) -> Picture {
    Picture::from_png(&fs::read(path).unwrap(), 1 << 24).unwrap()
}

#[test]
fn the_demo_walks_the_day_and_writes_what_it_says() {
    let folder = Folder::new();
    let said = folder.say("demo out");
    for line in [
        "the game will ask: no problem; 64 × 40 cells at 0,0",
        "slides to 396,296, stopped by the left side of cell 26,16",
        "channel, says layer soil; a cart is blocked there",
        "6 cells changed, 1 chunk of ground derived anew; a cart is free there",
        "(the map was exactly as before)",
        "loaded that (the same map)",
    ] {
        assert!(said.contains(line), "{said}");
    }
    let named: Vec<&str> =
        said.split_whitespace().filter(|word| word.starts_with("out/")).collect();
    for file in &named {
        assert!(folder.path(file).exists(), "{file}");
    }
    let pictures = named.iter().filter(|file| file.ends_with(".png")).count();
    assert!(pictures >= 8, "{pictures} pictures and a sheet");
    let (first, saved) = (folder.picture("out/1-terrace.png"), folder.picture("out/6-saved.png"));
    let differing: Vec<(u32, u32)> = (0..first.size().height)
        .flat_map(|y| (0..first.size().width).map(move |x| (x, y)))
        .filter(|&(x, y)| first.get(x, y) != saved.get(x, y))
        .collect();
    // The boardwalk lies over cells 26..29 × 16..18, 16 pixels each.
    assert!(differing.iter().all(|(x, y)| (416..464).contains(x) && (256..288).contains(y)));
    assert!(differing.len() > 750);
}

#[test]
fn the_sheet_of_the_demo_is_what_its_program_paints() {
    for (name, painted) in sturdy_quilt_demo::sheets() {
        assert!(
            picture(&demo_file(name)) == painted,
            "paint {name} anew: cargo run -p sturdy-quilt-demo"
        );
    }
}

#[test]
fn the_demo_maps_are_laid_out_as_they_are_saved() {
    for name in ["terrace.quilt.json", "hoist.quilt.json", "market.quilt.json"] {
        let text = fs::read_to_string(demo_file(name)).unwrap();
        assert_eq!(Quilt::open(demo_file(name)).unwrap().to_json().unwrap(), text, "{name}");
    }
}

/// All seven ground classes of the estate can be met, and every layer holds something.
#[test]
fn the_demo_has_something_of_everything() {
    let quilt = demo_map();
    let ground = GroundMap::of(&quilt);
    for class in quilt.ground_rules().classes() {
        let class_of = |at| ground.class_at(at).here().flatten();
        let found = ground.bounds().cells().filter_map(class_of);
        let found = found.filter(|c| quilt.ground_rules().class_name(*c) == Some(class)).count();
        assert!(found >= 2, "{found} cells of {class}");
    }
    assert!(quilt.layers().len() >= 5);
    assert!(quilt.layers().iter().all(|layer| layer.cells().occupied().next().is_some()));
    for object in ["picker", "cart", "bee"] {
        let tiles: Vec<_> =
            quilt.tiles().find_where(|tile| tile.data()["object"] == object).collect();
        let is_one =
            |cell: Cell| quilt.tiles().tile_of(cell).is_some_and(|tile| tiles.contains(&tile));
        let count =
            quilt.layer("folk").unwrap().cells().occupied().filter(|(_, c)| is_one(*c)).count();
        assert!(count >= 3, "{count} of {object}");
    }
}

#[test]
fn help_has_an_example_for_each_command() {
    let folder = Folder::new();
    let commands = "demo info check draw at move ray sight outline edit convert schema completions";
    for command in commands.split(' ') {
        let said = folder.say(&format!("{command} --help"));
        assert!(said.contains(&format!("sturdy-quilt {command} ")), "{said}");
        assert!(said.contains("Example"), "{said}");
    }
    for shell in ["bash", "zsh", "fish"] {
        let said = folder.say(&format!("completions {shell}"));
        assert!(said.contains("sturdy-quilt") && said.contains("check"));
    }
    folder.fail("dance", 2);
    let missing = folder.fail("info no/such.quilt.json", 1);
    assert!(missing.contains("file `such.quilt.json`: there is no such file"));
}
