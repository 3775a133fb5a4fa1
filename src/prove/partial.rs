//! What is proved of versions that do not agree, or not provably, in everything: of some of the outputs, always or under
//! conditions.
//!
//! All conditions are assumed first; what is not needed is dropped, and what is left is made as weak as it can be. A
//! condition under which an output stands still that moves without it would prove nothing that anybody asked.

use super::occurring::Watched;
use super::proviso::{Proviso, multiples, pinned, switches};
use super::system::System;
use super::{Certificate, Found, GoOn, Means, Stage, attempt};
use crate::twin::{Assumption, ProvedPart, Stimuli, Twin, is_whole, without_rules};
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
    go_on: &mut GoOn<'_>,
) -> (Vec<ProvedPart>, Option<Certificate>) {
    let open: Outputs = (0..twin.pairing.outputs.len()).filter(|o| !always.contains(o)).collect();
    let mut parts = Vec::new();
    let mut found = None;
    let part = |outputs: &Outputs, provisos: &[Proviso]| {
        let name = |o: usize| twin.pairing.outputs[o].name.clone();
        ProvedPart {
            outputs: outputs.iter().copied().map(name).collect(),
            others: (0..twin.pairing.outputs.len()).filter(|o| !outputs.contains(o)).map(name).collect(),
            conditions: conditions(twin, provisos),
        }
    };
    let mut most = (always.clone(), Vec::new(), None);
    if !always.is_empty() {
        parts.push(part(always, &[]));
    }
    if let Some((proved, provisos, last)) = conditional(&only(twin, &open), means, Proviso::Rest, go_on) {
        let numbers: Vec<usize> = open.iter().copied().collect();
        let proved: Outputs = proved.into_iter().map(|o| numbers[o]).collect();
        // What is not the same from rest may be if nothing is at rest.
        let others: Vec<usize> = open.difference(&proved).copied().collect();
        let further = (provisos.contains(&Proviso::Rest) && !others.is_empty())
            .then(|| conditional(&only(twin, &others.iter().copied().collect()), means, Proviso::Opposite, go_on))
            .flatten();
        if let Some((further, provisos, _)) = further {
            let all = always.iter().copied().chain(further.into_iter().map(|o| others[o])).collect();
            parts.push(part(&all, &provisos));
        }
        let all = always.iter().copied().chain(proved).collect();
        most = (all, provisos, last.filter(|_| always.is_empty()));
        parts.push(part(&most.0, &most.1));
    }
    if let Some(last) = parts.last() {
        let (outputs, provisos, known) = most;
        let twin = only(twin, &outputs);
        let proof = known.or_else(|| attempt(&twin, means, &provisos, go_on).ok());
        found = proof.map(|found| found.certificate(&twin, &provisos, &last.others));
    }
    // What cannot be proved once more is not said.
    if found.is_none() {
        parts.pop();
    }
    (parts, found)
}

/// What is proved of versions that only a STOP parts: all of it, as long as none is given.
pub(super) fn but_for_stops(twin: &Twin<'_>, found: Found) -> (Vec<ProvedPart>, Option<Certificate>) {
    let outputs = twin.pairing.outputs.iter().map(|pair| pair.name.clone()).collect();
    let all = ProvedPart { outputs, others: Vec::new(), conditions: conditions(twin, &[]) };
    (vec![all], Some(found.certificate(twin, &[], &[])))
}

/// What a proof takes, in words: what is assumed anyhow, and what was found.
fn conditions(twin: &Twin<'_>, provisos: &[Proviso]) -> Vec<String> {
    let mut out: Vec<String> = twin.assumed().iter().map(Assumption::words).collect();
    out.extend(twin.pairing.known().iter().map(ToString::to_string));
    for words in provisos.iter().map(|proviso| proviso.words(twin)) {
        if !out.contains(&words) {
            out.push(words);
        }
    }
    out
}

/// The twin that compares only some of the outputs.
pub(super) fn only<'t>(twin: &'t Twin<'_>, outputs: &Outputs) -> Twin<'t> {
    let mut twin = without_rules(twin, &twin.right);
    let mut number = 0..;
    twin.pairing.outputs.retain(|_| number.next().is_some_and(|n| outputs.contains(&n)));
    twin
}

/// Attempts under conditions.
struct Trials<'t, 'v, 'g> {
    twin: &'t Twin<'v>,
    means: &'t Means,
    go_on: &'t mut GoOn<'g>,
    /// Outputs that move, without conditions.
    moving: Outputs,
    /// The last proof of all that was worth one, and its conditions.
    last: Option<(Vec<Proviso>, Found)>,
}

impl Trials<'_, '_, '_> {
    /// The outputs that may be the same under conditions, and those that stand still by them: neither is worth a proof.
    fn worth_it(&self, provisos: &[Proviso]) -> Option<(Outputs, Outputs)> {
        let watched = watch(self.twin, provisos)?;
        let all = 0..self.twin.pairing.outputs.len();
        // Of long times nothing is seen to move anyhow; then it must not be inputs that hold it still.
        let holds = |p: &Proviso| matches!(p, Proviso::Always(..) | Proviso::Apart(..));
        let must: Outputs = if provisos.iter().any(holds) { all.clone().collect() } else { self.moving.clone() };
        let stalled: Outputs = must.difference(&watched.moving).copied().collect();
        Some((all.filter(|o| !stalled.contains(o) && !watched.parted.contains(o)).collect(), stalled))
    }

    /// The outputs that are proved under conditions, and are not still by them; none if they cannot be so many.
    fn proved(&mut self, provisos: &[Proviso], at_least: usize) -> Outputs {
        if !(self.go_on)(Stage::Conditions) {
            return Outputs::new();
        }
        let Some((worth_it, _)) = self.worth_it(provisos).filter(|(w, _)| w.len() >= at_least) else {
            return Outputs::new();
        };
        match attempt(&only(self.twin, &worth_it), self.means, provisos, self.go_on) {
            Ok(found) => {
                self.last = Some((provisos.to_vec(), found));
                worth_it
            }
            Err(missing) => {
                let mut number = 0..;
                worth_it.into_iter().filter(|_| number.next().is_some_and(|n| missing.proved.contains(&n))).collect()
            }
        }
    }
}

/// What outputs do under conditions.
fn watch(twin: &Twin<'_>, provisos: &[Proviso]) -> Option<Watched> {
    let system = System::new(twin, provisos).ok()?;
    Some(system.watch(&Stimuli::new(&pinned(twin, provisos))))
}

/// The outputs that are proved under as few conditions as are found, the conditions, and the proof if it is at hand.
fn conditional(
    twin: &Twin<'_>,
    means: &Means,
    begin: Proviso,
    go_on: &mut GoOn<'_>,
) -> Option<(Outputs, Vec<Proviso>, Option<Found>)> {
    let plain = System::new(twin, &[]).ok()?;
    let (low, high, step) = plain.times;
    // Every scan time is a multiple of their step anyway.
    let ticks = plain.ticks.iter().copied().filter(|t| *t > step && multiples((low, high), *t).is_some());
    let ticks: Vec<i64> = ticks.collect();
    let limits = limits(&plain);
    let mut trials = Trials { twin, means, go_on, moving: watch(twin, &[])?.moving, last: None };
    let mut base = vec![Proviso::Power, begin];
    base.extend(ticks.last().filter(|_| low < high).map(|tick| Proviso::Multiple(*tick)));
    let shows_numbers = twin.pairing.outputs.iter().any(|pair| is_whole(&twin.left.machine, pair));
    let bounds: &[i64] = if shows_numbers || plain.remembers_numbers() { &limits } else { &[] };
    let (mut provisos, proved) = best(&mut trials, &base, &switches(twin, &plain), bounds)?;
    let twin = only(twin, &proved);
    let Trials { go_on, .. } = trials;
    let mut trials = Trials { twin: &twin, means, go_on, moving: watch(&twin, &[])?.moving, last: None };
    let mut is_enough =
        |provisos: &[Proviso]| !provisos.is_empty() && trials.proved(provisos, proved.len()).len() == proved.len();
    drop_needless(&mut provisos, &mut is_enough);
    weaken(&mut provisos, &ticks, &limits, &mut is_enough);
    let last = trials.last.filter(|(last, _)| *last == provisos).map(|(_, found)| found);
    Some((proved, provisos, last))
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

/// The conditions under which most outputs are proved, and those outputs: the base alone; with a bound of numbers, the
/// lowest under which nothing stands still that moves otherwise; or with more about inputs that are on or off as well.
fn best(
    trials: &mut Trials<'_, '_, '_>,
    base: &[Proviso],
    switches: &[usize],
    bounds: &[i64],
) -> Option<(Vec<Proviso>, Outputs)> {
    let mut further = vec![Vec::new(), Vec::new()];
    if switches.len() <= MOST_SWITCHES {
        let pairs = switches.iter().enumerate().flat_map(|(n, b)| switches[..n].iter().map(|a| Proviso::Apart(*a, *b)));
        further.push(pairs.collect());
        further.extend(switches.iter().flat_map(|s| [false, true].map(|on| vec![Proviso::Always(*s, on)])));
    }
    let mut best = (base.to_vec(), Outputs::new());
    for (number, more) in further.into_iter().enumerate() {
        if best.1.len() == trials.twin.pairing.outputs.len() {
            break;
        }
        let mut provisos = [base, &more].concat();
        if number > 0 {
            let stalled = |provisos: &[Proviso]| trials.worth_it(provisos).map(|(_, stalled)| stalled);
            let free = stalled(&provisos);
            let mut bounded = bounds.iter().map(|limit| [provisos.as_slice(), &[Proviso::Numbers(*limit)]].concat());
            match bounded.find(|bound| stalled(bound) == free) {
                Some(bound) => provisos = bound,
                None if more.is_empty() => continue,
                None => {}
            }
        }
        let proved = trials.proved(&provisos, best.1.len() + 1);
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
            Proviso::Power
            | Proviso::Rest
            | Proviso::Opposite
            | Proviso::Apart(..)
            | Proviso::Always(..)
            | Proviso::Stops
            | Proviso::StopsLater => Vec::new(),
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
