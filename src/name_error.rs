//! Names that someone may have meant, and the error for a name that is not there.

/// A name was asked for that the map does not have.
///
/// ```
/// # let quilt = sturdy_quilt::doc_quilt();
/// let error = quilt.tile("garden/gras").unwrap_err();
/// assert_eq!(error.to_string(), "no tile `garden/gras` in this map; did you mean `garden/grass`?");
/// ```
#[derive(Clone, PartialEq, Eq, thiserror::Error)]
#[error("no {what} `{name}` in this map{}", hint(near))]
pub struct NameError {
    /// What was asked for: a tile, a layer, a marker …
    pub what: &'static str,
    /// The name that is not there.
    pub name: String,
    /// Names that are there and look alike, the nearest first.
    pub near: Vec<String>,
}

impl NameError {
    pub(crate) fn new<N: Into<String>>(
        what: &'static str,
        name: &str,
        there: impl IntoIterator<Item = N>,
    ) -> NameError {
        NameError { what, name: name.to_owned(), near: near_names(name, there) }
    }
}

impl std::fmt::Debug for NameError {
    /// As readable as the text for people, since it is what `unwrap` shows.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        std::fmt::Display::fmt(self, f)
    }
}

fn hint(near: &[String]) -> String {
    did_you_mean(near).map(|hint| format!("; {hint}")).unwrap_or_default()
}

/// "did you mean …?" for the nearest names, or `None` where none is near.
pub(crate) fn did_you_mean(near: &[String]) -> Option<String> {
    match near {
        [] => None,
        [one] => Some(format!("did you mean `{one}`?")),
        [one, two, ..] => Some(format!("did you mean `{one}` or `{two}`?")),
    }
}

/// The longest name, in bytes, for which near ones are looked for: comparing takes time by the product
/// of two lengths.
const LONGEST: usize = 128;
/// Of so many names the near ones are found: a hint is worth no more.
const MAX_NAMES: usize = 1 << 13;

/// At most three names that look like `wanted`, the nearest first; none for a very long one.
pub(crate) fn near_names<N: Into<String>>(
    wanted: &str,
    there: impl IntoIterator<Item = N>,
) -> Vec<String> {
    near_of(wanted, &mut there.into_iter().map(N::into))
}

/// As [`near_names`], compiled once.
fn near_of(wanted: &str, there: &mut dyn Iterator<Item = String>) -> Vec<String> {
    // Below this likeness (1 is equal) a guess misleads more often than it helps.
    const LIKENESS: f64 = 0.7;
    if wanted.len() > LONGEST {
        return Vec::new();
    }
    let mut found: Vec<(f64, String)> = there
        .take(MAX_NAMES)
        .filter(|name| name.len() <= LONGEST)
        .map(|name| {
            let score = strsim::normalized_damerau_levenshtein(wanted, &name);
            let score = score.max(likeness_of_last(wanted, &name));
            (if is_one_slip(wanted, &name) { score.max(LIKENESS) } else { score }, name)
        })
        .filter(|(score, _)| *score >= LIKENESS)
        .collect();
    found.sort_unstable_by(|a, b| b.0.total_cmp(&a.0).then_with(|| a.1.cmp(&b.1)));
    found.dedup_by(|a, b| a.1 == b.1);
    // Next to a good guess, a poor one only confuses.
    let best = found.first().map_or(0.0, |(score, _)| *score);
    let good = found.into_iter().filter(|(score, _)| best - score < 0.1);
    good.take(3).map(|(_, name)| name).collect()
}

/// Whether two short names differ by one slip of the finger: likeness is too strict with them.
fn is_one_slip(wanted: &str, name: &str) -> bool {
    let last = name.rsplit('/').next().unwrap_or(name);
    last.chars().count() >= 3 && strsim::damerau_levenshtein(wanted, name) == 1
}

/// How alike two names are but for the set before the slash, which people leave out.
fn likeness_of_last(wanted: &str, name: &str) -> f64 {
    match (wanted.contains('/'), name.rsplit_once('/')) {
        (false, Some((_, last))) => strsim::normalized_damerau_levenshtein(wanted, last) * 0.95,
        _ => 0.0,
    }
}
