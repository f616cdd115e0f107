//! Every example runs, and leaves what it says.

use std::path::{Path, PathBuf};
use std::process::Command;

/// The program of an example, which `cargo test` builds beside the tests.
fn program(name: &str) -> PathBuf {
    let test = std::env::current_exe().unwrap();
    let folder = test.parent().and_then(Path::parent).unwrap().join("examples");
    folder.join(format!("{name}{}", std::env::consts::EXE_SUFFIX))
}

#[test]
fn first_map_draws_asks_and_builds() {
    let folder = tempfile::tempdir().unwrap();
    let output = Command::new(program("first_map")).arg(folder.path()).output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let said = String::from_utf8(output.stdout).unwrap();
    assert!(said.contains("before: a cart at 6,4 is blocked: true"), "{said}");
    assert!(said.contains("after 2 cells: blocked: false"), "{said}");
    let picture = |name: &str| {
        let bytes = std::fs::read(folder.path().join(name)).unwrap();
        sturdy_quilt::Picture::from_png(&bytes, 1 << 20).unwrap()
    };
    let (before, after) = (picture("before.png"), picture("after.png"));
    assert_ne!(before.get(300, 220), after.get(300, 220), "the boards are there");
    assert_eq!(before.get(100, 100), after.get(100, 100), "and nothing else has changed");
}
