//! Showing what is wrong, as compilers do: the line of the file, a caret, what to do.

use std::io::Write;

use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use sturdy_quilt::LoadError;
use sturdy_quilt::document::{Problem, Severity};

/// A problem as text with colours, which the writer takes out where there are none.
pub(crate) fn rendered(problem: &Problem) -> String {
    let level = match problem.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    let group = Group::with_title(level.primary_title(&*problem.message));
    let mut group = match &problem.place {
        Some(place) => {
            let offset = |column: usize| {
                let places = place.excerpt.char_indices().map(|(at, _)| at);
                places.chain([place.excerpt.len()]).nth(column).unwrap_or(place.excerpt.len())
            };
            let start = offset(place.excerpt_column - 1);
            let end = offset(place.excerpt_column - 1 + place.length).max(start);
            let caret = AnnotationKind::Primary.span(start..end);
            let snippet = Snippet::source(&*place.excerpt).line_start(place.line);
            group.element(snippet.path(&*problem.file).annotation(caret))
        }
        None => {
            let pixel = problem.pixel.map(|(x, y)| format!(", pixel {x},{y}")).unwrap_or_default();
            group.element(annotate_snippets::Origin::path(format!("{}{pixel}", problem.file)))
        }
    };
    if let Some(hint) = &problem.hint {
        group = group.element(Level::HELP.message(&**hint));
    }
    Renderer::styled().render(&[group])
}

/// "2 errors and 1 warning".
pub(crate) fn counted(errors: usize, warnings: usize) -> String {
    let count = |number: usize, word: &str| match number {
        0 => None,
        1 => Some(format!("1 {word}")),
        _ => Some(format!("{number} {word}s")),
    };
    match (count(errors, "error"), count(warnings, "warning")) {
        (None, None) => "no problem".to_owned(),
        (Some(one), None) | (None, Some(one)) => one,
        (Some(errors), Some(warnings)) => format!("{errors} and {warnings}"),
    }
}

/// Shows warnings on the standard error.
pub(crate) fn show_warnings(warnings: &[Problem]) {
    let mut err = anstream::stderr().lock();
    for warning in warnings {
        writeln!(err, "{}\n", rendered(warning)).ok();
    }
}

/// Shows on the standard error why a command could not do its work.
pub(crate) fn show_failure(error: &anyhow::Error) {
    let mut err = anstream::stderr().lock();
    if let Some(load) = error.downcast_ref::<LoadError>() {
        for problem in load.problems() {
            writeln!(err, "{}\n", rendered(problem)).ok();
        }
        if load.not_listed() > 0 {
            writeln!(err, "and {} more problems that are not listed", load.not_listed()).ok();
        }
        return;
    }
    let causes: Vec<String> = error.chain().map(ToString::to_string).collect();
    let group = Group::with_title(Level::ERROR.primary_title(causes.join(": ")));
    writeln!(err, "{}", Renderer::styled().render(&[group])).ok();
}
