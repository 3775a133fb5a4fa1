//! What was seen of the versions, and what was not.

use super::count;
use crate::twin::{Coverage, CoveragePlace, Share, Tested};

/// How something is counted of coverage.
type Counts = fn(&Coverage) -> Share;

/// What is counted of coverage, with its words.
const COVERED: &[(&str, Counts)] = &[
    ("statements run", Coverage::statements),
    ("conditions decided", Coverage::conditions),
    ("branches both ways", Coverage::branches),
    ("inside blocks", Coverage::blocks),
];

/// What was seen of each version.
pub(in crate::show) struct Covered {
    pub(in crate::show) versions: Vec<String>,
    /// A word, and a share for each version.
    pub(in crate::show) rows: Vec<(&'static str, Vec<Share>)>,
    /// What was not seen: version, place, text, what is missing.
    pub(in crate::show) unmet: Vec<[String; 4]>,
    /// The same as lines, the first few of each version in full.
    pub(in crate::show) lines: Vec<String>,
}

/// Lines of a kind that are shown before the rest is only counted.
pub(super) const SHOWN: usize = 6;

pub(super) fn covered(t: &Tested) -> Covered {
    let sides = || t.versions.iter().zip(&t.coverage).take(t.pairing.versions());
    let row = |(word, of): &(&'static str, Counts)| (*word, sides().map(|(_, coverage)| of(coverage)).collect());
    let unmet = |(version, coverage): (&String, &Coverage)| -> Vec<[String; 4]> {
        let cells = |p: &CoveragePlace| [version.clone(), p.place.clone(), p.text.clone(), p.missing().to_string()];
        coverage.unmet().map(cells).collect()
    };
    Covered {
        versions: sides().map(|(version, _)| version.clone()).collect(),
        rows: COVERED.iter().map(row).collect(),
        unmet: sides().flat_map(unmet).collect(),
        lines: sides().flat_map(|(version, coverage)| lines(version, coverage)).collect(),
    }
}

fn lines(version: &str, coverage: &Coverage) -> Vec<String> {
    let outside: Vec<&CoveragePlace> = coverage.unmet().filter(|place| !place.inside).collect();
    let inside = coverage.unmet().count() - outside.len();
    let first = outside.iter().take(SHOWN).map(|p| format!("{}: {} {}", p.place, p.text, p.missing()));
    let more = outside.len().checked_sub(SHOWN).filter(|more| *more > 0).map(|more| format!("{more} more"));
    let inside = (inside > 0).then(|| format!("{} inside blocks", count(inside as u64, "outcome")));
    first.chain(more).chain(inside).map(|line| format!("not seen in {version}: {line}")).collect()
}
