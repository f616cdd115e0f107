//! A module uses only those below it, and so does a folder within a module, as docs/decisions.md
//! lists them; no circle of files goes through more than one folder.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Each layer may use those before it. Layers with the same number may not use each other.
const LAYERS: [(&str, u32); 19] = [
    ("name_error", 0),
    ("stamp", 0),
    ("prefetch", 0),
    ("setters", 0),
    ("units", 0),
    ("picture", 1),
    ("lattice", 1),
    ("view", 2),
    ("tile", 3),
    ("plane", 4),
    ("codec", 5),
    ("cell_set", 5),
    ("quilt", 6),
    ("ground", 7),
    ("draw", 8),
    ("paint", 9),
    ("inspect", 10),
    ("edit", 11),
    ("document", 12),
];

/// The folders within a folder, each of which may use those before it. The files that lie in the
/// folder itself are called `.`; where they are not listed, they are nothing but the face of it.
const FOLDERS: [(&str, &[&str]); 6] = [
    ("plane", &["words", "."]),
    ("plane/words", &["chunk", "table", "."]),
    ("ground", &["shape", "state", "query", "export"]),
    ("inspect", &[".", "overlay", "minimap"]),
    (
        "document",
        &[
            ".", "source", "syntax", "input", "read", "load", "write", "put_back", "changes",
            "journal",
        ],
    ),
    ("document/read", &["cells", "tiles", "."]),
];

#[test]
fn modules_use_only_those_below_them() {
    let source = Source::read();
    let height = |module: &str| LAYERS.iter().find(|(name, _)| *name == module).map(|(_, h)| *h);
    let mut checked = 0;
    for (file, used) in source.arrows() {
        let (own, theirs) = (file[0].as_str(), used[0].as_str());
        let (high, low) = (height(own), height(theirs));
        assert!(high.is_some() && low.is_some(), "`{own}` or `{theirs}` has no place in the order");
        checked += 1;
        assert!(own == theirs || low < high, "{}: `{own}` must not use `{theirs}`", file.join("/"));
    }
    assert!(checked > 500, "only {checked} uses were found: is the search still right?");
}

#[test]
fn folders_within_a_module_use_only_those_below_them() {
    let source = Source::read();
    let mut checked = 0;
    for (file, used) in source.arrows().filter(|(file, used)| file[0] == used[0]) {
        let (own, theirs) = (source.folder(file), source.folder(used));
        let shared = own.iter().zip(&theirs).take_while(|(a, b)| a == b).count();
        if own == theirs {
            continue;
        }
        let parent = own[..shared].join("/");
        let Some((_, folders)) = FOLDERS.iter().find(|(folder, _)| *folder == parent) else {
            panic!("{}: the folders within {parent} have no order", file.join("/"));
        };
        let height = |folder: &[String]| {
            let inner = folder.get(shared).map_or(".", String::as_str);
            folders.iter().position(|held| *held == inner)
        };
        checked += 1;
        assert!(
            height(&theirs).is_some() && height(&theirs) < height(&own),
            "{} must not use {}",
            file.join("/"),
            used.join("/")
        );
    }
    assert!(checked > 200, "only {checked} uses were found: is the search still right?");
}

#[test]
fn no_circle_of_files_goes_through_two_folders() {
    let source = Source::read();
    let mut below: BTreeMap<&[String], BTreeSet<&[String]>> = BTreeMap::new();
    for (file, used) in source.arrows() {
        below.entry(file).or_default().insert(used);
    }
    let reached = |from: &[String]| {
        let (mut seen, mut open) = (BTreeSet::new(), vec![from.to_vec()]);
        while let Some(file) = open.pop() {
            for used in below.get(&file[..]).into_iter().flatten() {
                if seen.insert(used.to_vec()) {
                    open.push(used.to_vec());
                }
            }
        }
        seen
    };
    let all: BTreeMap<&[String], BTreeSet<Vec<String>>> =
        below.keys().map(|file| (*file, reached(file))).collect();
    for (file, used) in source.arrows() {
        let returns = all.get(used).is_some_and(|seen| seen.contains(file));
        assert!(
            !returns || source.folder(file) == source.folder(used),
            "{} and {} lie on a circle",
            file.join("/"),
            used.join("/")
        );
    }
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

/// The path of a module, without the crate: `["ground", "query", "ray"]`.
type Module = Vec<String>;

/// The modules of the library, and which of them each one names.
struct Source {
    modules: BTreeMap<Module, PathBuf>,
    /// What a module hands on: the name, and the path that it stands for.
    handed_on: BTreeMap<Module, BTreeMap<String, Module>>,
    uses: BTreeMap<Module, Vec<Module>>,
}

impl Source {
    fn read() -> Source {
        let src = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
        let mut source =
            Source { modules: BTreeMap::new(), handed_on: BTreeMap::new(), uses: BTreeMap::new() };
        for file in rust_files(&src) {
            let inside = file.strip_prefix(&src).unwrap().with_extension("");
            let mut module: Module =
                inside.iter().map(|part| part.to_str().unwrap().to_owned()).collect();
            if module.last().is_some_and(|last| last == "mod") {
                module.pop();
            }
            if !matches!(module[0].as_str(), "lib" | "absence_tests") {
                source.modules.insert(module, file);
            }
        }
        for (module, file) in source.modules.clone() {
            let text = std::fs::read_to_string(&file).unwrap();
            let code: Vec<&str> = text
                .split("#[cfg(test)]\nmod ")
                .next()
                .unwrap()
                .lines()
                .map(|line| line.split("//").next().unwrap_or(line))
                .collect();
            source.add(&module, &code.join("\n"));
        }
        source
    }

    /// Adds what the code of a module hands on and names.
    fn add(&mut self, module: &Module, code: &str) {
        let mut rest = String::new();
        let mut statements = code.split("use ");
        rest.push_str(statements.next().unwrap_or_default());
        for statement in statements {
            let before = rest.trim_end_matches(|c| c != '\n').len();
            let visibility = rest[before..].trim().to_owned();
            let is_use = visibility.is_empty() || visibility.starts_with("pub");
            let Some((body, behind)) = statement.split_once(';').filter(|_| is_use) else {
                rest.push_str(statement);
                continue;
            };
            for path in expanded(body) {
                if visibility.starts_with("pub") {
                    let name = path.last().unwrap().clone();
                    self.handed_on.entry(module.clone()).or_default().insert(name, path);
                } else {
                    self.uses.entry(module.clone()).or_default().push(path);
                }
            }
            rest.push_str(behind);
        }
        // Paths in the code itself.
        for (at, _) in rest.match_indices("crate::").chain(rest.match_indices("super::")) {
            if rest[..at].ends_with("pub(in ") {
                continue;
            }
            let path = rest[at..].split(|c: char| !c.is_alphanumeric() && !matches!(c, '_' | ':'));
            let path = path.into_iter().next().unwrap_or_default();
            let path = path.split("::").filter(|part| !part.is_empty()).map(str::to_owned);
            self.uses.entry(module.clone()).or_default().push(path.collect());
        }
    }

    /// The module in which a path ends that another one names.
    fn resolve(&self, from: &[String], path: &[String], depth: u32) -> Option<Module> {
        let mut at: Module = match path.first()?.as_str() {
            "crate" => Vec::new(),
            "super" | "self" => from.to_vec(),
            child => {
                let mut inner = from.to_vec();
                inner.push(child.to_owned());
                return self
                    .modules
                    .contains_key(&inner)
                    .then_some(())
                    .and_then(|()| self.follow(from.to_vec(), path, depth));
            }
        };
        let mut parts = path;
        while let [first, rest @ ..] = parts
            && matches!(first.as_str(), "crate" | "super" | "self")
        {
            if first == "super" {
                at.pop();
            }
            parts = rest;
        }
        self.follow(at, parts, depth)
    }

    fn follow(&self, mut at: Module, path: &[String], depth: u32) -> Option<Module> {
        for (number, part) in path.iter().enumerate() {
            at.push(part.clone());
            if self.modules.contains_key(&at) {
                continue;
            }
            at.pop();
            let handed_on = self.handed_on.get(&at).and_then(|names| names.get(part));
            if let Some(stands_for) = handed_on.filter(|_| depth < 12) {
                let rest = path[number + 1..].iter();
                let path: Module = stands_for.iter().chain(rest).cloned().collect();
                if let Some(found) = self.resolve(&at, &path, depth + 1) {
                    return Some(found);
                }
            }
            break;
        }
        (!at.is_empty()).then_some(at)
    }

    /// Each module with each other one that it names.
    fn arrows(&self) -> impl Iterator<Item = (&[String], &[String])> {
        self.uses.iter().flat_map(move |(module, paths)| {
            let used: BTreeSet<Module> =
                paths.iter().filter_map(|path| self.resolve(module, path, 0)).collect();
            used.into_iter().filter_map(move |used| {
                let (known, _) = self.modules.get_key_value(&used)?;
                (known != module).then_some((&module[..], &known[..]))
            })
        })
    }

    /// The folder in which the file of a module lies.
    fn folder(&self, module: &[String]) -> Module {
        let is_folder = self.modules[module].ends_with("mod.rs");
        let end = if is_folder { module.len() } else { module.len() - 1 };
        module[..end].to_vec()
    }
}

/// The paths of a `use`, one for each name.
fn expanded(body: &str) -> Vec<Module> {
    let parts = |path: &str| -> Module {
        let path = path.split(" as ").next().unwrap_or_default();
        path.split("::").map(str::trim).filter(|part| !part.is_empty()).map(str::to_owned).collect()
    };
    let Some((before, inside)) = body.split_once('{') else { return vec![parts(body.trim())] };
    let (prefix, inside) = (parts(before.trim()), inside.trim_end().trim_end_matches('}'));
    let (mut depth, mut item, mut found) = (0, String::new(), Vec::new());
    for c in inside.chars().chain([',']) {
        match c {
            '{' => depth += 1,
            '}' => depth -= 1,
            ',' if depth == 0 => {
                let paths = expanded(&item).into_iter().filter(|path| !path.is_empty());
                found.extend(paths.map(|path| {
                    let path = path.into_iter().filter(|part| part != "self");
                    prefix.iter().cloned().chain(path).collect()
                }));
                item.clear();
                continue;
            }
            _ => {}
        }
        item.push(c);
    }
    found
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
