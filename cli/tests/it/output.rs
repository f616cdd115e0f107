//! What the tool writes: of the right kind, nothing that is not its own replaced, all or nothing.

use super::*;

/// All files and folders below a folder, with what the files hold.
fn everything(folder: &Path) -> Vec<(PathBuf, Option<Vec<u8>>)> {
    let mut found = Vec::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            found.extend(everything(&path));
        }
        let is_file = path.is_file();
        found.push((path.clone(), is_file.then(|| fs::read(path).unwrap())));
    }
    found.sort();
    found
}

impl Folder {
    /// Runs lines that must fail with these words, and leave everything as it is.
    fn refuses(&self, lines: &[(&str, &str)]) {
        let before = everything(self.0.path());
        for (line, words) in lines {
            let said = self.fail(line, 1);
            assert!(said.contains(words), "{line}: {said}");
            assert!(everything(self.0.path()) == before, "{line} has changed something");
        }
    }

    /// A folder with the demo in it.
    fn with_demo() -> Folder {
        let folder = Folder::new();
        folder.say("demo d");
        folder
    }
}

#[test]
fn an_archive_that_is_edited_stays_one_and_loses_nothing() {
    let folder = Folder::new();
    folder.say(&format!("convert {TERRACE} a.zip"));
    folder.say("edit a.zip -o a.zip --put soil 3,4 terrace/mud");
    folder.say("check --strict a.zip");
    folder.say("draw a.zip -o a.png");
    folder.say("edit a.zip/terrace.quilt.json -o a.zip --put soil 4,4 terrace/mud");
    folder.say("convert a.zip out/m.quilt.json");
    let (before, after) = (demo_map(), folder.map("out/m.quilt.json"));
    let cells = |quilt: &Quilt| -> Vec<_> {
        let soil = quilt.layer("soil").unwrap().cells().occupied();
        soil.map(|(at, cell)| (at, quilt.tiles().notation(cell))).collect()
    };
    let changed = cells(&before).into_iter().zip(cells(&after)).filter(|(a, b)| a != b).count();
    assert_eq!(changed, 2);
    // Another name for an archive is an archive too.
    folder.say("edit out/m.quilt.json -o b.zip --put soil 5,4 terrace/mud");
    folder.say("check --strict b.zip");
}

#[test]
fn an_archive_of_several_maps_keeps_the_others() {
    let folder = Folder::new();
    let file = |text: &str| text.as_bytes().to_vec();
    let map = |table: &str| {
        format!(
            r#"{{ "format": "sturdy-quilt/map", "version": 1, "lattice": {{ "cell": [8, 8] }},
            "tiles": [{{ "name": "yard", "tiles": ["sand"] }}],
            "layers": [{{ "name": "soil", "cells": {{ "table": "{table}" }} }}] }}"#
        )
    };
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, bytes) in [
        ("a.quilt.json", map("cells.csv").into_bytes()),
        ("b.quilt.json", map("cells.csv").into_bytes()),
        ("cells.csv", file("yard/sand,\n,yard/sand\n")),
        ("notes.txt", file("for the next one who edits this")),
    ] {
        zip.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        std::io::Write::write_all(&mut zip, &bytes).unwrap();
    }
    folder.write("two.zip", zip.finish().unwrap().into_inner());
    let line = "edit two.zip/a.quilt.json -o two.zip --erase soil 0,0";
    folder.refuses(&[(line, "others read `cells.csv` as well, which would change with it")]);
    folder.say(&format!("{line} --take-in soil"));
    let zip =
        sturdy_quilt::document::ZipSource::new(fs::read(folder.path("two.zip")).unwrap()).unwrap();
    let names: Vec<&str> = zip.paths().collect();
    assert_eq!(names, ["a.quilt.json", "b.quilt.json", "cells.csv", "notes.txt"]);
    for (map, count) in [("a.quilt.json", 1), ("b.quilt.json", 2)] {
        let quilt = Quilt::load(&zip, map).unwrap();
        assert_eq!(quilt.layers()[0].cells().occupied().count(), count, "{map}");
    }
    folder.refuses(&[(
        "edit two.zip/a.quilt.json -o two.zip/a.quilt.json --erase soil 1,1",
        "write to the archive itself, `two.zip`",
    )]);
}

#[test]
fn a_name_of_another_kind_is_refused() {
    let folder = Folder::with_demo();
    let edit = "edit d/terrace.quilt.json --erase soil 0,0 -o";
    let asked = "d/terrace.quilt.json sight --from 400,260 --by 20,0 -o";
    let end = |name: &str, ending: &str| {
        format!("`{name}` cannot be written: its name must end in {ending}")
    };
    let lines = [
        (format!("{edit} x.png"), end("x.png", ".quilt.json or .zip")),
        (format!("{edit} x.tiles.json"), end("x.tiles.json", ".quilt.json or .zip")),
        (format!("{edit} x"), end("x", ".quilt.json or .zip")),
        ("draw d/terrace.quilt.json -o x.jpg".into(), end("x.jpg", ".png")),
        ("draw d/trees.tiles.json -o x.json".into(), end("x.json", ".png")),
        (format!("ray {asked} x.svg"), end("x.svg", ".png")),
        ("sight d/terrace.quilt.json sight --from 2,2 -o x.txt".into(), end("x.txt", ".png")),
        (
            "outline d/terrace.quilt.json --mover cart -o x.png".into(),
            end("x.png", ".svg or .geojson"),
        ),
        (
            "convert d/terrace.quilt.json x.svg".into(),
            end("x.svg", ".quilt.json or .zip or .tiles.json"),
        ),
    ];
    let lines: Vec<(&str, &str)> = lines.iter().map(|(line, words)| (&**line, &**words)).collect();
    folder.refuses(&lines);
    // A plain .json can be a map or what GeoJSON is, and the map itself has whatever name it has.
    folder.say(&format!("{edit} plain.json"));
    fs::copy(folder.path("plain.json"), folder.path("d/plain")).unwrap();
    folder.say("edit d/plain -o d/plain --erase soil 1,0");
    folder.say("outline d/terrace.quilt.json --mover cart -o walls.json");
}

#[test]
fn no_file_of_the_map_is_replaced_but_by_the_command_that_changes_it() {
    let folder = Folder::with_demo();
    folder.say("convert d/terrace.quilt.json apart/m.quilt.json --cells table --apart");
    let own = "is one of the files that the map is made of";
    folder.refuses(&[
        ("draw d/terrace.quilt.json -o d/terrace.png", own),
        ("draw d/terrace.quilt.json -o d/../d/trees.png", own),
        ("draw d/trees.tiles.json -o d/trees.png", own),
        ("ray d/terrace.quilt.json sight --from 400,260 --by 20,0 -o d/folk.png", own),
        ("outline d/plain.json --mover cart -o d/plain.json", "there is no such file"),
        ("convert apart/m.quilt.json apart/m-soil.csv --layer soil", own),
        ("convert d/trees.tiles.json d/trees.tiles.json", own),
        ("edit apart/m.quilt.json -o apart/terrace.tiles.json --erase soil 0,0", "must end in"),
    ]);
    fs::copy(folder.path("d/terrace.quilt.json"), folder.path("d/plain.json")).unwrap();
    folder.refuses(&[("outline d/plain.json --mover cart -o d/plain.json", own)]);
    folder.say(&format!("convert {TERRACE} whole.zip"));
    folder.refuses(&[
        ("convert whole.zip/terrace.tiles.json whole.zip", "this is a tile set"),
        ("draw whole.zip -o whole.zip", "must end in .png"),
    ]);
    // A map in place, with its cells in files: all of it is written anew.
    folder.say("convert apart/m.quilt.json apart/m.quilt.json --cells table --apart");
    folder.say("edit apart/m.quilt.json -o apart/m.quilt.json --erase soil 0,0");
}

#[test]
fn a_default_name_replaces_only_what_the_tool_has_drawn() {
    let folder = Folder::with_demo();
    let draw = "draw d/terrace.quilt.json --size 64x64";
    folder.say(draw);
    folder.say(&format!("{draw} --zoom 2"));
    assert_eq!(folder.picture("map.png").size().width, 64);
    let foreign = Picture::filled(sturdy_quilt::units::PixelSize::new(4, 4), Color::rgb(1, 2, 3));
    folder.write("map.png", foreign.to_png().unwrap());
    let words = "`map.png` is there already and was not drawn by this tool";
    folder.refuses(&[
        (draw, words),
        ("draw d/terrace.quilt.json --minimap cells", words),
        ("draw d/terrace.quilt.json --atlas 128x128", words),
        ("draw d/trees.tiles.json", words),
        ("draw map.png", words),
    ]);
    folder.say(&format!("{draw} -o map.png"));
    // Further pages of an atlas have names of the tool's too.
    folder.write("page-2.png", foreign.to_png().unwrap());
    let pages = "`page-2.png` is there already and was not drawn";
    folder.refuses(&[("draw d/terrace.quilt.json --atlas 128x128 -o page.png", pages)]);
    // So have legends, the files of cells, and all files of the demo.
    folder.write("soil.txt.legend.json", "{}");
    folder.write("n-soil.csv", "mine");
    folder.write("d/hoist.quilt.json", "changed by hand");
    folder.refuses(&[
        ("convert d/terrace.quilt.json soil.txt --layer soil", "`soil.txt.legend.json` is there"),
        (
            "convert d/terrace.quilt.json n.quilt.json --cells table --apart",
            "`n-soil.csv` is there",
        ),
        ("demo d", "`d/hoist.quilt.json` is there already and differs"),
    ]);
}

#[test]
fn a_text_and_a_picture_of_one_layer_have_legends_of_their_own() {
    let folder = Folder::new();
    for file in ["soil.txt", "soil.png"] {
        folder.say(&format!("convert {TERRACE} {file} --layer soil"));
    }
    for file in ["soil.txt", "soil.png"] {
        folder.say(&format!(
            "convert {file} back.quilt.json --tiles demo/terrace.tiles.json --legend {file}.legend.json"
        ));
        // With the file that the user names, its legend is written anew.
        folder.say(&format!("edit {TERRACE} -o m.quilt.json --fill soil 0,0 9x9 terrace/mud"));
        folder.say(&format!("convert m.quilt.json {file} --layer soil"));
    }
}

#[cfg(unix)]
#[test]
fn what_fails_leaves_nothing_behind() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::with_demo();
    folder.write("d/kept.quilt.json", "a read-only file");
    let kept = folder.path("d/kept.quilt.json");
    fs::set_permissions(&kept, fs::Permissions::from_mode(0o444)).unwrap();
    fs::create_dir_all(folder.path("taken.quilt.json")).unwrap();
    let edit = "edit d/terrace.quilt.json --erase soil 0,0 -o";
    let lines = [
        (format!("{edit} taken.quilt.json"), "it is a folder"),
        (format!("{edit} new/deep/taken.quilt.json/"), "it is a folder"),
        (format!("{edit} d/kept.quilt.json"), "it is read-only"),
        (format!("{edit} /dev/full"), "No space left"),
        (format!("{edit} d/terrace.png/m.quilt.json"), "cannot be written: Not a directory"),
        ("draw d/terrace.quilt.json -o /dev/full".into(), "`/dev/full` cannot be written"),
        ("draw d/terrace.quilt.json -o new/sub.png/".into(), "it is a folder"),
        (
            "convert d/terrace.quilt.json new/../d/hoist.png/x.csv --layer soil".into(),
            "cannot be written",
        ),
    ];
    let lines: Vec<(&str, &str)> = lines.iter().map(|(line, words)| (&**line, *words)).collect();
    folder.refuses(&lines);
}

#[cfg(unix)]
#[test]
fn a_file_keeps_its_permissions_and_leftovers_go() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::new();
    let edit = format!("edit {TERRACE} -o m.quilt.json --erase soil");
    folder.say(&format!("{edit} 0,0"));
    let map = folder.path("m.quilt.json");
    for mode in [0o600, 0o666, 0o640] {
        fs::set_permissions(&map, fs::Permissions::from_mode(mode)).unwrap();
        folder.say(&format!("{edit} 1,0"));
        assert_eq!(fs::metadata(&map).unwrap().permissions().mode() & 0o777, mode);
    }
    // One left by a writer that was killed, one of a writer at work, one that is another's.
    let [dead, live, other] =
        [".sturdy-quilt-saving-Ab3dEf9h", ".sturdy-quilt-saving-aaaaaaaa", ".sturdy-quilt-saving"];
    for name in [dead, live, other] {
        folder.write(name, "half");
    }
    let lock = fs::File::open(folder.path(live)).unwrap();
    lock.lock().unwrap();
    folder.say(&format!("{edit} 2,0"));
    assert!(
        !folder.path(dead).exists() && folder.path(live).exists() && folder.path(other).exists()
    );
    drop(lock);
}

#[cfg(target_os = "linux")]
#[test]
fn a_name_that_is_no_text_is_read_and_written() {
    use std::os::unix::ffi::OsStrExt;
    let folder = Folder::new();
    let name = std::ffi::OsStr::from_bytes(b"\xff.quilt.json");
    let demo = demo_file("terrace.quilt.json");
    let run = |words: &[&std::ffi::OsStr]| {
        let mut tool = Command::cargo_bin("sturdy-quilt").unwrap();
        tool.current_dir(folder.0.path()).args(words).assert().success();
    };
    let word = std::ffi::OsStr::new;
    run(&[
        word("edit"),
        demo.as_os_str(),
        word("--erase"),
        word("soil"),
        word("0,0"),
        word("-o"),
        name,
    ]);
    run(&[word("check"), name]);
    run(&[word("edit"), name, word("--erase"), word("soil"), word("1,0"), word("-o"), name]);
}

#[test]
fn a_path_that_means_a_folder_is_no_file() {
    let folder = Folder::with("in.txt", "##\n");
    folder.refuses(&[
        ("info in.txt/", "Not a directory"),
        ("check ./", "it is not a regular file, but a folder"),
    ]);
}

/// Every command line that a shell can give ends with the code that the help promises.
#[cfg(unix)]
#[test]
fn exit_codes() {
    let folder = Folder::with_demo();
    folder.write("bad.quilt.json", "{}");
    let map = "d/terrace.quilt.json";
    let table: &[(&str, i32)] = &[
        ("--help", 0),
        ("--version", 0),
        ("", 2),
        ("dance", 2),
        ("info d/terrace.quilt.json", 0),
        ("info nowhere.quilt.json", 1),
        ("info", 2),
        ("info d/terrace.quilt.json --rows nothing", 1),
        ("check d/terrace.quilt.json", 0),
        ("check bad.quilt.json", 1),
        ("check d/terrace.quilt.json bad.quilt.json", 1),
        ("draw d/terrace.quilt.json -o x.png --size 8x8", 0),
        ("draw d/terrace.quilt.json -o x.png --size 0x8", 2),
        ("draw d/terrace.quilt.json -o x.png --palette none", 1),
        ("at d/terrace.quilt.json cell 3,4", 0),
        ("at d/terrace.quilt.json cell 3", 2),
        ("at d/terrace.quilt.json cell 0.5,4", 1),
        ("move d/terrace.quilt.json cart --from 1,1 --size 2x2 --by 1,1", 0),
        ("move d/terrace.quilt.json nobody --from 1,1 --size 2x2 --by 1,1", 1),
        ("ray d/terrace.quilt.json sight --from 1,1 --by 1,1", 0),
        ("ray d/terrace.quilt.json sight --from 1,1", 2),
        ("sight d/terrace.quilt.json sight --from 1,1", 0),
        ("outline d/terrace.quilt.json --mover cart -o x.svg", 0),
        ("outline d/terrace.quilt.json --mover cart -o x.pdf", 1),
        ("edit d/terrace.quilt.json -o x/m.quilt.json --erase soil 0,0", 0),
        ("edit d/terrace.quilt.json -o x/m.quilt.json", 2),
        ("edit d/terrace.quilt.json -o x/m.quilt.json --erase nothing 0,0", 1),
        ("convert d/terrace.quilt.json x.zip", 0),
        ("convert d/terrace.quilt.json x.csv", 1),
        ("schema map", 0),
        ("schema nothing", 2),
        ("completions bash", 0),
        ("completions basic", 2),
    ];
    for (line, code) in table {
        folder.run(line).code(*code);
    }
    // A reader that goes away ends each quietly, a full disk with words.
    let lines = ["schema map", "completions bash", "completions zsh", "--help", "dance --help"]
        .map(str::to_owned)
        .into_iter()
        .chain([format!("info {map}"), format!("info {map} --json"), format!("check {map}")])
        .chain([format!("at {map} cell 3,4"), format!("sight {map} sight --from 3,4")])
        .chain([format!("draw {map} -o y.png"), "demo e".to_owned()]);
    for line in lines {
        let tool = assert_cmd::cargo::cargo_bin("sturdy-quilt");
        let shell = |redirected: &str| {
            let script = format!("\"{}\" {line} {redirected}", tool.display());
            let mut shell = std::process::Command::new("bash");
            let done = shell.args(["-c", &script]).current_dir(folder.0.path()).output().unwrap();
            (done.status.code(), String::from_utf8(done.stderr).unwrap())
        };
        let (code, said) = shell("| true; exit ${PIPESTATUS[0]}");
        assert!(
            matches!(code, Some(0 | 2)) && !said.contains("panicked"),
            "{line}: {code:?} {said}"
        );
        let (code, said) = shell("> /dev/full");
        assert!(!said.contains("panicked"), "{line}: {said}");
        if !line.contains("help") {
            assert_eq!(code, Some(1), "{line}: {said}");
            let words = "the standard output cannot be written: No space left";
            assert!(said.contains(words), "{line}: {said}");
        }
    }
}

#[cfg(unix)]
fn make_pipe(path: &Path) {
    assert!(std::process::Command::new("mkfifo").arg(path).status().unwrap().success());
}

/// Nobody writes to the pipe, so that whoever opens it waits for ever.
#[cfg(unix)]
#[test]
fn pipes_are_no_inputs() {
    let folder = Folder::with_demo();
    make_pipe(&folder.path("p.quilt.json"));
    folder.run("check p.quilt.json").code(1);
    let set = folder.path("d/terrace.tiles.json");
    fs::remove_file(&set).unwrap();
    make_pipe(&set);
    let said = all_said(&folder.run("check d/terrace.quilt.json").code(1));
    assert!(said.contains("terrace.tiles.json"), "{said}");
}

/// An interrupt ends the tool at once where it waits for who reads its output, with the code that
/// the help promises, and leaves nothing beside.
#[cfg(unix)]
#[test]
fn an_interrupt_leaves_nothing_half_done() {
    use std::io::Read;

    let folder = Folder::with_demo();
    let pipe = folder.path("d/big.png");
    make_pipe(&pipe);
    let before = everything(&folder.path("d")).len();
    let mut tool = std::process::Command::new(assert_cmd::cargo::cargo_bin("sturdy-quilt"))
        .args(["draw", "d/terrace.quilt.json", "-o", "d/big.png"])
        .current_dir(folder.0.path())
        .stdout(std::process::Stdio::null())
        .spawn()
        .unwrap();
    // Its first bytes are there, so it is at work; the rest is more than a pipe holds.
    let mut reader = fs::File::open(&pipe).unwrap();
    reader.read_exact(&mut [0; 8]).unwrap();
    let pid = tool.id().to_string();
    assert!(std::process::Command::new("kill").args(["-INT", &pid]).status().unwrap().success());
    assert_eq!(tool.wait().unwrap().code(), Some(130));
    drop(reader);
    assert_eq!(everything(&folder.path("d")).len(), before);
}
