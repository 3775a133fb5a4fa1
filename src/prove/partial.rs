//! What is proved of versions that do not agree, or not provably, in everything: of some of the outputs, always or under
//! conditions.
//!
//! All conditions are assumed first; what is not needed is dropped, and what is left is made as weak as it can be. A
//! condition under which an output stands still that moves without it would prove nothing that anybody asked.

use super::proviso::{Proviso, multiples, switches};
use super::system::System;
use super::{Certificate, Means, Stage, attempt};
use crate::twin::{ProvedPart, Stimuli, Twin, without_rules};
use std::collections::BTreeSet;

/// Inputs that are on or off at most, for conditions about them to be sought.
const MOST_SWITCHES: usize = 8;

/// Limits of numbers that are tried, at most.
const MOST_LIMITS: usize = 12;

/// Numbers of pairs of outputs.
type Outputs = BTreeSet<usize>;

/// What is proved, the most of it last, and a certificate of that. `always` are the outputs that are proved without any
/// condition.
pub(super) fn partial(
    twin: &Twin<'_>,
    means: &Means,
    always: &Outputs,
    go_on: &mut (impl FnMut(Stage) -> bool + Send),
) -> (Vec<ProvedPart>, Option<Certificate>) {
    let open: Outputs = (0..twin.pairing.outputs.len()).filter(|o| !always.contains(o)).collect();
    let mut parts = Vec::new();
    let mut found = None;
    let part = |outputs: &Outputs, provisos: &[Proviso]| {
        let name = |o: usize| twin.pairing.outputs[o].name.clone();
        ProvedPart {
            outputs: outputs.iter().copied().map(name).collect(),
            others: (0..twin.pairing.outputs.len()).filter(|o| !outputs.contains(o)).map(name).collect(),
            conditions: provisos.iter().map(|p| p.words(twin)).collect(),
        }
    };
    let mut most = (always.clone(), Vec::new());
    if !always.is_empty() {
        parts.push(part(always, &[]));
    }
    if let Some((proved, provisos)) = conditional(&only(twin, &open), means, go_on) {
        let open: Vec<usize> = open.into_iter().collect();
        most = (always.iter().copied().chain(proved.into_iter().map(|o| open[o])).collect(), provisos);
        parts.push(part(&most.0, &most.1));
    }
    if let Some(last) = parts.last() {
        let (outputs, provisos) = &most;
        let twin = only(twin, outputs);
        found =
            attempt(&twin, means, provisos, go_on).ok().map(|found| found.certificate(&twin, provisos, &last.others));
    }
    // What cannot be proved once more is not said.
    if found.is_none() {
        parts.pop();
    }
    (parts, found)
}

/// The twin that compares only some of the outputs.
fn only<'v>(twin: &Twin<'v>, outputs: &Outputs) -> Twin<'v> {
    let mut twin = without_rules(twin, twin.right);
    let mut number = 0..;
    twin.pairing.outputs.retain(|_| number.next().is_some_and(|n| outputs.contains(&n)));
    twin
}

/// Attempts under conditions.
struct Trials<'t, 'v, F> {
    twin: &'t Twin<'v>,
    means: &'t Means,
    go_on: F,
    /// Outputs that move, without conditions.
    moving: Outputs,
}

impl<F: FnMut(Stage) -> bool + Send> Trials<'_, '_, F> {
    /// The outputs that stand still under conditions though they move without.
    fn stalled(&self, provisos: &[Proviso]) -> Option<Outputs> {
        let moving = moving(self.twin, provisos)?;
        Some(self.moving.difference(&moving).copied().collect())
    }

    /// The outputs that are proved under conditions, and are not still by them.
    fn proved(&mut self, provisos: &[Proviso]) -> Outputs {
        let Some(stalled) = (self.go_on)(Stage::Conditions).then(|| self.stalled(provisos)).flatten() else {
            return Outputs::new();
        };
        let all: Outputs = (0..self.twin.pairing.outputs.len()).collect();
        let proved = match attempt(self.twin, self.means, provisos, &mut self.go_on) {
            Ok(_) => all,
            Err(missing) => missing.proved,
        };
        proved.difference(&stalled).copied().collect()
    }
}

/// The outputs that move under conditions.
fn moving(twin: &Twin<'_>, provisos: &[Proviso]) -> Option<Outputs> {
    let system = System::new(twin, provisos).ok()?;
    let moves = system.moves(&Stimuli::new(&super::proviso::pinned(twin, provisos)));
    Some((0..moves.len()).filter(|o| moves[*o]).collect())
}

/// The outputs that are proved under as few conditions as are found, and the conditions.
fn conditional(
    twin: &Twin<'_>,
    means: &Means,
    go_on: &mut (impl FnMut(Stage) -> bool + Send),
) -> Option<(Outputs, Vec<Proviso>)> {
    let plain = System::new(twin, &[]).ok()?;
    let ticks: Vec<i64> =
        plain.ticks.iter().copied().filter(|t| multiples((plain.times.0, plain.times.1), *t).is_some()).collect();
    let limits = limits(&plain);
    let mut trials = Trials { twin, means, go_on, moving: moving(twin, &[])? };
    let mut base = vec![Proviso::Power, Proviso::Rest];
    base.extend(ticks.last().filter(|_| plain.times.0 < plain.times.1).map(|tick| Proviso::Multiple(*tick)));
    let mut bounds = limits.iter().map(|limit| [base.as_slice(), &[Proviso::Numbers(*limit)]].concat());
    if plain.numbers().next().is_some()
        && let Some(bound) = bounds.find(|b| trials.stalled(b).is_some_and(|stalled| stalled.is_empty()))
    {
        base = bound;
    }
    let (mut provisos, proved) = best(&mut trials, &base, &switches(twin, &plain))?;
    let twin = only(twin, &proved);
    let Trials { go_on, .. } = trials;
    let mut trials = Trials { twin: &twin, means, go_on, moving: moving(&twin, &[])? };
    let mut is_enough = |provisos: &[Proviso]| !provisos.is_empty() && trials.proved(provisos).len() == proved.len();
    drop_needless(&mut provisos, &mut is_enough);
    weaken(&mut provisos, &ticks, &limits, &mut is_enough);
    Some((proved, provisos))
}

/// What whole numbers may be at most, the lowest first: the constants of both programs, and one less.
fn limits(system: &System) -> Vec<i64> {
    let marks = system.marks.iter().copied().filter(|m| (2..=40_000).contains(m));
    let all: BTreeSet<i64> = marks.flat_map(|m| [m - 1, m]).collect();
    let all: Vec<i64> = all.into_iter().collect();
    let few = MOST_LIMITS / 3;
    match all.len() {
        0..=MOST_LIMITS => all,
        many => [&all[..few], &all[many - (MOST_LIMITS - few)..]].concat(),
    }
}

/// The conditions under which most outputs are proved, and those outputs: the base, or more about inputs that are on or off.
fn best<F: FnMut(Stage) -> bool + Send>(
    trials: &mut Trials<'_, '_, F>,
    base: &[Proviso],
    switches: &[usize],
) -> Option<(Vec<Proviso>, Outputs)> {
    let mut further = vec![Vec::new()];
    if switches.len() <= MOST_SWITCHES {
        let pairs = switches.iter().enumerate().flat_map(|(n, b)| switches[..n].iter().map(|a| Proviso::Apart(*a, *b)));
        further.push(pairs.collect());
        further.extend(switches.iter().flat_map(|s| [false, true].map(|on| vec![Proviso::Always(*s, on)])));
    }
    let mut best = (base.to_vec(), Outputs::new());
    for more in further {
        if best.1.len() == trials.twin.pairing.outputs.len() {
            break;
        }
        let provisos = [base, &more].concat();
        let proved = trials.proved(&provisos);
        if proved.len() > best.1.len() {
            best = (provisos, proved);
        }
    }
    (!best.1.is_empty()).then_some(best)
}

/// Drops conditions that are not needed, many at a time and then one by one.
fn drop_needless(provisos: &mut Vec<Proviso>, is_enough: &mut impl FnMut(&[Proviso]) -> bool) {
    let mut size = provisos.len() / 2;
    while size > 0 {
        let mut at = 0;
        while at < provisos.len() {
            let mut fewer = provisos.clone();
            fewer.drain(at..(at + size).min(provisos.len()));
            if is_enough(&fewer) {
                *provisos = fewer;
            } else {
                at += size;
            }
        }
        size /= 2;
    }
}

/// Makes what is left as weak as it can be: the finest tick, the highest limit.
fn weaken(provisos: &mut Vec<Proviso>, ticks: &[i64], limits: &[i64], is_enough: &mut impl FnMut(&[Proviso]) -> bool) {
    for at in 0..provisos.len() {
        let weaker: Vec<Proviso> = match provisos[at] {
            Proviso::Multiple(of) => ticks.iter().filter(|t| **t < of).map(|t| Proviso::Multiple(*t)).collect(),
            Proviso::Numbers(most) => {
                limits.iter().rev().filter(|l| **l > most).map(|l| Proviso::Numbers(*l)).collect()
            }
            _ => Vec::new(),
        };
        for proviso in weaker {
            let mut other = provisos.clone();
            other[at] = proviso;
            if is_enough(&other) {
                *provisos = other;
                break;
            }
        }
    }
}
