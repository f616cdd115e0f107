//! Runs two ways of doing the same work by turns, and prints how they compare.

use std::time::{Duration, Instant};

/// How long one sample lasts at least: long enough for the clock, short enough that both ways see
/// the same noise of a shared machine.
const SAMPLE: Duration = Duration::from_millis(4);
const SAMPLES: usize = 25;
/// With what the names of lines begin.
const GROUPS: [&str; 5] = ["cells", "draw", "edit", "ground", "files"];

/// What a line must come to.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Mark {
    /// Ours may take at most so many times what the other takes.
    AtMost(f64),
    /// Ours may take at most so many nanoseconds a piece: for what is stated as a rate. Believe it
    /// on a quiet machine only.
    Nanoseconds(f64),
    /// For orientation only; it cannot be missed.
    None,
}

/// The lines whose names contain the filter.
pub(crate) struct Versus {
    filter: String,
    missed: usize,
}

impl Versus {
    pub(crate) fn new(filter: Option<String>) -> Versus {
        Versus { filter: filter.unwrap_or_default(), missed: 0 }
    }

    /// Whether any line of a group is asked for: a group sets up its scene only then.
    pub(crate) fn wants(&self, group: &str) -> bool {
        let of_a_group = GROUPS.iter().any(|group| self.filter.starts_with(group));
        !of_a_group || group.starts_with(&self.filter) || self.filter.starts_with(group)
    }

    /// Whether a line is asked for.
    pub(crate) fn asks(&self, name: &str) -> bool {
        name.contains(&self.filter)
    }

    pub(crate) const fn missed(&self) -> usize {
        self.missed
    }

    /// Runs two ways by turns. Each does `count` pieces of the same work a call and gives a sum of
    /// what it found, by which the two are compared where `same` says so.
    pub(crate) fn line(
        &mut self,
        name: &str,
        count: u64,
        mark: Mark,
        same: bool,
        mut ours: impl FnMut() -> u64,
        mut other: impl FnMut() -> u64,
    ) {
        if !self.asks(name) {
            return;
        }
        let (found, expected) = (ours(), other());
        assert!(!same || found == expected, "{name}: {found} and {expected} differ");
        let repeat = |run: &mut dyn FnMut() -> u64| {
            let mut calls = 1_u32;
            loop {
                let begin = Instant::now();
                for _ in 0..calls {
                    std::hint::black_box(run());
                }
                let took = begin.elapsed();
                if took >= SAMPLE || calls >= 1 << 24 {
                    return calls;
                }
                let more = SAMPLE.as_secs_f64() / took.as_secs_f64().max(1e-9);
                calls = (f64::from(calls) * more.clamp(1.5, 16.0)).ceil() as u32;
            }
        };
        let calls = (repeat(&mut ours), repeat(&mut other));
        let time = |run: &mut dyn FnMut() -> u64, calls: u32| {
            let begin = Instant::now();
            for _ in 0..calls {
                std::hint::black_box(run());
            }
            begin.elapsed().as_secs_f64() * 1e9 / f64::from(calls) / count as f64
        };
        let (mut our_times, mut other_times) = (Vec::new(), Vec::new());
        // A pair of slow ways need not be measured as often.
        let samples = if calls == (1, 1) { SAMPLES / 3 } else { SAMPLES };
        for _ in 0..samples {
            our_times.push(time(&mut ours, calls.0));
            other_times.push(time(&mut other, calls.1));
        }
        let (ours, other) = (sorted(our_times), sorted(other_times));
        let (our_median, other_median) = (ours[ours.len() / 2], other[other.len() / 2]);
        let ratio = our_median / other_median;
        let (mark, verdict) = match mark {
            Mark::None => ("-".to_owned(), "ok"),
            Mark::Nanoseconds(most) => {
                (format!("{most:.2}ns"), if our_median <= most { "ok" } else { "miss" })
            }
            Mark::AtMost(most) => (format!("{most}"), if ratio <= most { "ok" } else { "miss" }),
        };
        self.missed += usize::from(verdict == "miss");
        println!(
            "{name} {our_median:.2} {other_median:.2} {ratio:.3} {mark} {verdict}   (minima {:.2} {:.2} {:.3})",
            ours[0],
            other[0],
            ours[0] / other[0]
        );
    }
}

impl Versus {
    /// Compares what two ways keep in memory, in MiB, of which ours may take at most so many.
    pub(crate) fn mebibytes(&mut self, name: &str, ours: u64, other: u64, most: f64) {
        if !self.asks(name) {
            return;
        }
        let mebibytes = |bytes: u64| bytes as f64 / f64::from(1 << 20);
        let verdict = if mebibytes(ours) <= most { "ok" } else { "miss" };
        self.missed += usize::from(verdict == "miss");
        println!(
            "{name} {:.4}MiB {:.2}MiB {:.5} {most}MiB {verdict}",
            mebibytes(ours),
            mebibytes(other),
            ours as f64 / other as f64
        );
    }
}

fn sorted(mut times: Vec<f64>) -> Vec<f64> {
    times.sort_by(f64::total_cmp);
    times
}
