//! Reading a script.

use std::io::Read;
use std::path::Path;

use anyhow::{Context, bail};

use super::change::Change;
use super::line::parse_line;

/// The most faults of a script that are listed.
const MOST_FAULTS: usize = 20;

/// Reads a script, `-` from the standard input; gives each change with its place.
pub(crate) fn read_script(path: &Path) -> anyhow::Result<Vec<(String, Change)>> {
    let is_input = path == Path::new("-");
    let name = if is_input { "standard input".to_owned() } else { path.display().to_string() };
    let text = if is_input {
        let mut text = String::new();
        std::io::stdin().read_to_string(&mut text).map(|_| text)
    } else {
        std::fs::read_to_string(path)
    };
    let text = text.with_context(|| format!("`{name}` cannot be read"))?;
    let (mut changes, mut faults) = (Vec::new(), Vec::new());
    for (line, number) in text.lines().zip(1..) {
        match parse_line(line) {
            Ok(change) => changes.extend(change.map(|change| (format!("{name}:{number}"), change))),
            Err(fault) => {
                faults.push(format!("{name}:{number}:{}: {}", fault.at + 1, fault.message))
            }
        }
    }
    if faults.is_empty() {
        return Ok(changes);
    }
    let more = faults.len().saturating_sub(MOST_FAULTS);
    faults.truncate(MOST_FAULTS);
    if more > 0 {
        faults.push(format!("and {more} more"));
    }
    bail!("the script cannot be read:\n  {}", faults.join("\n  "))
}
