//! `check`: everything that is wrong with maps.

use std::io::Write;

use serde_json::json;
use sturdy_quilt::Loader;
use sturdy_quilt::document::{Expects, Problem, Severity};

use crate::args::CheckArgs;
use crate::{Outcome, map, problems};

pub(crate) fn run(args: &CheckArgs, out: &mut dyn Write) -> anyhow::Result<Outcome> {
    let expects = match &args.expects {
        Some(file) => map::expectations(file)?,
        None => Expects::default(),
    };
    let (mut outcome, mut reports) = (Outcome::Fine, Vec::new());
    for path in &args.maps {
        let place = map::located(path)?;
        let checked = match map::is_tile_set(&place.name) {
            true => Loader::new().load_tiles(&*place.source, &place.name).map(|(_, w)| (w, 0)),
            false => map::load(&*place.source, &place.name, &expects)
                .map(|loaded| (loaded.warnings, loaded.not_listed)),
        };
        let (problems, not_listed) =
            checked.unwrap_or_else(|error| (error.problems().to_vec(), error.not_listed()));
        let of = |severity: Severity| problems.iter().filter(|p| p.severity == severity).count();
        // Errors are listed before warnings: beyond a list with a warning there are only warnings.
        let (errors, warnings) = (of(Severity::Error), of(Severity::Warning));
        let (errors, warnings) = match warnings {
            0 => (errors + not_listed, 0),
            _ => (errors, warnings + not_listed),
        };
        if errors > 0 || args.strict && warnings > 0 {
            outcome = Outcome::Found;
        }
        let name = path.display().to_string();
        if args.json {
            reports.push(json!({
                "map": name,
                "errors": errors,
                "warnings": warnings,
                "problems": problems,
                "not_listed": not_listed,
            }));
        } else {
            show(&name, &problems, not_listed, problems::counted(errors, warnings), out)?;
        }
    }
    if args.json {
        writeln!(out, "{}", serde_json::to_string_pretty(&reports)?)?;
    }
    Ok(outcome)
}

fn show(
    name: &str,
    problems: &[Problem],
    not_listed: usize,
    counted: String,
    out: &mut dyn Write,
) -> anyhow::Result<()> {
    for problem in problems {
        writeln!(out, "{}\n", problems::rendered(problem))?;
    }
    if not_listed > 0 {
        writeln!(out, "and {not_listed} more problems that are not listed\n")?;
    }
    writeln!(out, "{name}: {counted}")?;
    Ok(())
}
