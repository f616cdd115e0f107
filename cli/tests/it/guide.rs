//! The guide for people who do not program, followed command by command.

use super::*;

/// A block of the page: a file to be written, commands, or what the last of them says.
enum Block {
    File(String, String),
    Commands(Vec<String>),
    Said(String),
}

fn blocks(page: &str) -> Vec<Block> {
    let mut blocks = Vec::new();
    let mut lines = page.lines();
    let mut before = String::new();
    while let Some(line) = lines.next() {
        let Some(kind) = line.strip_prefix("```") else {
            if !line.is_empty() {
                before = line.to_owned();
            }
            continue;
        };
        let inner: Vec<&str> = lines.by_ref().take_while(|line| *line != "```").collect();
        let text = inner.join("\n") + "\n";
        let named = before.rsplit_once("File `").map(|(_, rest)| rest.trim_end_matches("`:"));
        match (kind, named) {
            ("sh", _) => {
                blocks.push(Block::Commands(inner.iter().map(|l| (*l).to_owned()).collect()))
            }
            ("json" | "csv", Some(name)) => blocks.push(Block::File(name.to_owned(), text)),
            // A part of a file, as an example.
            ("text", _) if text.starts_with('"') => {}
            ("text", _) => blocks.push(Block::Said(text)),
            _ => panic!("a block of kind {kind} behind {before}"),
        }
    }
    blocks
}

#[test]
fn the_guide_without_programming_says_what_happens() {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs/guide/without-programming.md");
    let page = fs::read_to_string(page).unwrap();
    let folder = Folder::new();
    let (mut said, mut commands) = (String::new(), 0);
    for block in blocks(&page) {
        match block {
            Block::File(name, text) => folder.write(&name, text),
            Block::Said(text) => assert_eq!(said, text),
            Block::Commands(lines) => {
                for line in lines {
                    let line =
                        line.strip_prefix("sturdy-quilt ").unwrap_or_else(|| panic!("{line}"));
                    // Warnings would be on the standard error.
                    said = all_said(&folder.run(line).success());
                    commands += 1;
                }
            }
        }
    }
    assert!(commands > 15, "{commands} commands");
    let table = folder.read("cloudstep/stones.csv");
    assert_eq!(table.lines().nth(3), Some(",,,,,,,,14,,,"));
    // What was not changed is as it was typed.
    let map = folder.read("cloudstep/yard.quilt.json");
    assert!(map.contains("    \"boat\":   { \"open\": \"block\", \"mud\": \"block\","), "{map}");
    for picture in ["sheet", "yard", "ground", "night", "soil", "boat", "move"] {
        assert!(folder.picture(&format!("{picture}.png")).size().width > 10, "{picture}");
    }
}
