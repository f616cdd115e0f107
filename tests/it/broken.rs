//! Broken inputs: for each file of `tests/broken`, exactly what is said about it.

use std::fs;
use std::path::Path;

use sturdy_quilt::{Loader, MemorySource};

/// All files of a folder and those below it, by their paths from it.
fn files_of(folder: &Path, at: &str, files: &mut MemorySource) -> Vec<String> {
    let mut names = Vec::new();
    for entry in fs::read_dir(folder.join(at)).unwrap() {
        let name = entry.unwrap().file_name().into_string().unwrap();
        let path = if at.is_empty() { name } else { format!("{at}/{name}") };
        if folder.join(&path).is_dir() {
            names.extend(files_of(folder, &path, files));
        } else {
            files.add(path.clone(), fs::read(folder.join(&path)).unwrap());
            names.push(path);
        }
    }
    names
}

#[test]
fn everything_that_is_said_of_broken_inputs() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/broken");
    let mut files = MemorySource::default();
    let mut names = files_of(&folder, "", &mut files);
    names.retain(|name| name.ends_with(".quilt.json"));
    names.sort_unstable();
    assert!(names.len() >= 60, "there are {} broken inputs", names.len());
    let mut settings = insta::Settings::clone_current();
    settings.set_snapshot_path(folder.join("expected"));
    settings.set_prepend_module_to_snapshot(false);
    settings.set_omit_expression(true);
    settings.bind(|| {
        for name in &names {
            let (outcome, problems) = match Loader::new().load(&files, name) {
                Ok(loaded) => ("loaded", loaded.warnings),
                Err(error) => ("refused", error.problems().to_vec()),
            };
            assert!(!problems.is_empty(), "{name} is not broken");
            let said: Vec<String> = problems.iter().map(ToString::to_string).collect();
            let text = format!("{outcome}\n{}", said.join("\n"));
            insta::assert_snapshot!(name.trim_end_matches(".quilt.json"), text);
        }
    });
}
