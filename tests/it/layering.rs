//! A module uses only what stands below it, as docs/decisions.md lists it.

use std::path::{Path, PathBuf};

/// Each layer may use those before it. Layers with the same number may not use each other, but
/// for the exceptions below.
const LAYERS: [(&str, u32); 14] = [
    ("near", 0),
    ("stamp", 0),
    ("prefetch", 0),
    ("units", 0),
    ("picture", 1),
    ("lattice", 1),
    ("view", 2),
    ("tile", 3),
    ("plane", 4),
    ("quilt", 5),
    ("ground", 6),
    ("draw", 6),
    ("edit", 7),
    ("document", 8),
];

#[test]
fn modules_use_only_those_below_them() {
    let src = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut checked = 0;
    for file in rust_files(&src) {
        let inside = file.strip_prefix(&src).unwrap();
        let module = inside.iter().next().unwrap().to_str().unwrap().trim_end_matches(".rs");
        if matches!(module, "lib" | "absence_tests") {
            continue;
        }
        let own = height(module).unwrap_or_else(|| panic!("`{module}` has no place in the order"));
        let text = std::fs::read_to_string(&file).unwrap();
        let code = text.lines().filter(|line| !line.trim_start().starts_with("//"));
        for line in code {
            for used in
                line.match_indices("crate::").filter_map(|(at, _)| first_word(&line[at + 7..]))
            {
                let Some(theirs) = height(used) else { continue };
                checked += 1;
                // Overlays show the ground.
                if used == "ground" && inside.starts_with("draw/overlay") {
                    continue;
                }
                assert!(
                    used == module || theirs < own,
                    "{}: `{module}` must not use `{used}`: {line}",
                    inside.display()
                );
            }
        }
    }
    assert!(checked > 100, "only {checked} uses were found: is the search still right?");
}

#[test]
fn the_library_knows_nothing_of_its_users() {
    let src = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    for file in rust_files(&src) {
        let text = std::fs::read_to_string(&file).unwrap();
        for word in ["println!", "std::env::args", "clap::", "winit::", "wgpu::"] {
            assert!(!text.contains(word), "{} has `{word}`", file.display());
        }
    }
}

fn height(module: &str) -> Option<u32> {
    LAYERS.iter().find(|(name, _)| *name == module).map(|(_, height)| *height)
}

fn first_word(text: &str) -> Option<&str> {
    text.split(|c: char| !c.is_alphanumeric() && c != '_').next().filter(|word| !word.is_empty())
}

fn rust_files(folder: &Path) -> Vec<PathBuf> {
    let mut files = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files.extend(rust_files(&path));
        } else if path.extension().is_some_and(|extension| extension == "rs") {
            files.push(path);
        }
    }
    files
}
