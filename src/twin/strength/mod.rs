//! Would it have been found? Faults as people make them are seeded into one side, and the same scenarios tried.

mod many;
mod seed;

mod trials;
mod weave;
#[cfg(test)]
mod woven;

use super::run::{Waits, parts};
use super::{Effort, Progress, Scenario, Twin, Version, breach};
use crate::source::Span;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::BTreeSet;

/// What kind of mistake.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Mutation {
    /// A contact of the other type.
    Contact,
    /// Another variable of the same type.
    Name,
    /// A preset that is one more: one scan, or one count.
    Preset,
    /// A time that is ten times as long, as if in another tick.
    Tick,
    /// A comparison with or without equality; equal and at least.
    Comparison,
    /// A latch with the other side dominant.
    Dominance,
    /// The level of a signal in place of its edge.
    Edge,
    /// A branch, a jump or a coil that is gone.
    Dropped,
    /// Two statements in the other order.
    Moved,
    /// A variable that no longer survives loss of power.
    Retention,
}

impl Mutation {
    const ALL: [Mutation; 10] = [
        Mutation::Contact,
        Mutation::Preset,
        Mutation::Comparison,
        Mutation::Dominance,
        Mutation::Edge,
        Mutation::Retention,
        Mutation::Tick,
        Mutation::Name,
        Mutation::Moved,
        Mutation::Dropped,
    ];

    /// In words.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Mutation::Contact => "a contact of the other type",
            Mutation::Name => "another name",
            Mutation::Preset => "a preset one more",
            Mutation::Tick => "a time ten times as long",
            Mutation::Comparison => "a comparison off by one",
            Mutation::Dominance => "the other side dominant",
            Mutation::Edge => "a level in place of an edge",
            Mutation::Dropped => "something left out",
            Mutation::Moved => "the order of two swapped",
            Mutation::Retention => "not retained",
        }
    }
}

/// A seeded fault.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct SeededFault {
    /// What kind of mistake.
    pub kind: Mutation,
    /// `file:line` in the right version.
    pub place: String,
    /// The text there.
    pub text: String,
    /// Whether it was found.
    pub caught: bool,
    /// Whether it was proved to make no difference.
    pub harmless: bool,
    /// Which of the places for such a mistake it is.
    site: usize,
    /// The numbers of the pairs of outputs that it has to do with, if it is known: of all others the faulty version is as the right one.
    #[serde(skip)]
    pub(crate) outputs: Option<BTreeSet<usize>>,
}

/// How many of the seeded faults the same effort has found.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Strength {
    /// All that were tried.
    pub faults: Vec<SeededFault>,
    /// Faults that were asked for and not tried, because the effort was used up or the time was.
    pub untried: usize,
}

impl Strength {
    /// Faults that were found.
    #[must_use]
    pub fn caught(&self) -> usize {
        self.faults.iter().filter(|f| f.caught).count()
    }

    /// Faults that were neither found nor proved harmless: they make no difference, or the scenarios have a hole.
    pub fn survivors(&self) -> impl Iterator<Item = &SeededFault> {
        self.faults.iter().filter(|f| !f.caught && !f.harmless)
    }

    /// Faults that are proved to make no difference.
    #[must_use]
    pub fn harmless(&self) -> usize {
        self.faults.iter().filter(|f| f.harmless).count()
    }
}

/// Seeds faults into the right version, spread over the kinds and the program, and tries to find each: with the
/// scenarios that were kept, then with others that are drawn as in the search, up to half of its work. Where there is a circuit
/// all faults are tried at once; what it finds counts when the tape has shown it.
pub fn strength(twin: &Twin<'_>, effort: &Effort, kept: &[Scenario], progress: impl FnMut(Progress)) -> Strength {
    trials::Trials::new(twin, effort, kept, progress).run()
}

/// The right version with a fault seeded into it again.
pub(crate) fn faulty(twin: &Twin<'_>, fault: &SeededFault) -> Option<Version> {
    with_seeded(twin, fault.kind, fault.site)
}

/// The right version with a fault of this kind at this site, if there is one and it compiles: what does not is no program that anyone
/// would run.
fn with_seeded(twin: &Twin<'_>, kind: Mutation, site: usize) -> Option<Version> {
    let checked = seed::seeded(&twin.right.checked, kind, site, twin.timing.longest())?;
    Version::new(twin.right.name.clone(), checked).ok()
}

pub(crate) fn without_rules<'t>(twin: &Twin<'t>, right: &'t Version) -> Twin<'t> {
    let right = Cow::Borrowed(right);
    let out = Twin { right, rules: Vec::new(), probes: Vec::new(), unasked: Vec::new(), ..twin.clone() };
    // Known differences are asked of that version anew.
    match twin.pairing.known.is_empty() {
        true => out,
        false => out.clone().with_rules(Vec::new()).unwrap_or(out),
    }
}

/// The twin in which the right version is another one; of one version by itself that one, asked the same rules.
fn with_fault<'t>(twin: &Twin<'t>, right: &'t Version) -> Option<Twin<'t>> {
    if !twin.is_single() {
        return Some(without_rules(twin, right));
    }
    let faulty = Twin { left: Cow::Borrowed(right), judged: Vec::new(), ..without_rules(twin, right) };
    faulty.with_rules(twin.rules.clone()).ok()
}

/// Whether a scenario shows a difference, or of one version a broken rule.
fn shows(twin: &Twin<'_>, scenario: &Scenario, waits: Waits) -> bool {
    let broken = || (0..twin.rules.len()).any(|rule| breach::broken(twin, scenario, rule, waits)[0].is_some());
    if twin.is_single() { broken() } else { parts(twin, scenario, waits).is_some() }
}

/// Sites spread over the kinds, and within a kind over the program: of each its kind, its number and where it is.
fn choose(sites: &[(Mutation, Vec<Span>)], most: usize) -> Vec<(Mutation, usize, Span)> {
    let mut shares: Vec<usize> = vec![0; sites.len()];
    let mut left = most;
    while left > 0 {
        let before = left;
        for (share, (_, places)) in shares.iter_mut().zip(sites) {
            if *share < places.len() && left > 0 {
                *share += 1;
                left -= 1;
            }
        }
        if left == before {
            break;
        }
    }
    let of = |((kind, places), share): (&'_ (Mutation, Vec<Span>), &usize)| {
        let site = |n: usize| n * places.len() / share;
        (0..*share).map(|n| (*kind, site(n), places[site(n)])).collect::<Vec<_>>()
    };
    sites.iter().zip(&shares).flat_map(of).collect()
}
