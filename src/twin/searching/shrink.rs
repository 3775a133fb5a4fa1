//! From a long scenario that shows something to the shortest one that still does.

use crate::model::Family;
use crate::scan::PointType;
use crate::twin::run::Waits;
use crate::twin::scenario::{Act, Change, tidy};
use crate::twin::{Effort, Scenario, Twin};
use std::collections::BTreeSet;

/// Replays that shrinking may take, so that it ends on the slowest of programs too.
const REPLAYS: usize = 3_000;

/// Scans that the replays may take together: a scenario of minutes is not worth minutes of shrinking.
const SCANS: u64 = 3_000_000;

/// Operations of the tapes that the replays of one scenario may take together, so that a program of thousands of rungs does not take
/// minutes either.
const WORK: u64 = 1_000_000_000;

/// Changes from which on it is asked first which inputs matter at all: of few changes each is asked for itself sooner.
const MANY: u64 = 200;

/// In which scan a scenario shows it, if it does.
pub(in crate::twin) type Shows<'s> = dyn Fn(&Scenario, Waits) -> Option<u64> + Sync + 's;

struct Shrinker<'s> {
    twin: &'s Twin<'s>,
    shows: &'s Shows<'s>,
    replays: usize,
    /// Scans of all replays so far.
    replayed: u64,
    /// Scans that they may take.
    scans: u64,
    best: Scenario,
}

/// Shrinks to the fewest happenings and scans that still show it. Long waits are leapt over on the way; what comes out
/// was run whole.
pub(in crate::twin) fn shrink(twin: &Twin<'_>, scenario: Scenario, shows: &Shows<'_>) -> Scenario {
    let original = scenario.clone();
    let scans = SCANS.min(WORK / Effort::scan_cost(twin));
    let mut shrinker = Shrinker { twin, shows, replays: 0, replayed: 0, scans, best: scenario };
    shrinker.accept(original.clone());
    if original.happenings() >= MANY {
        shrinker.inputs();
    }
    loop {
        let before = shrinker.best.clone();
        shrinker.fewer();
        shrinker.rounds();
        shrinker.sooner();
        shrinker.simpler();
        if before == shrinker.best || shrinker.is_spent() {
            break;
        }
    }
    let best = shrinker.best;
    match shows(&best, Waits::Whole) {
        Some(scan) => best.cut(scan + 1),
        None => original,
    }
}

/// A node of the tree of acts: the positions that lead to it.
type Path = Vec<usize>;

fn paths(acts: &[Act], before: &[usize], out: &mut Vec<Path>) {
    for (number, act) in acts.iter().enumerate() {
        let mut path = before.to_vec();
        path.push(number);
        if let Act::Repeat(_, body) = act {
            paths(body, &path, out);
        }
        out.push(path);
    }
}

/// Adds the inputs that acts change.
fn changed(acts: &[Act], out: &mut BTreeSet<usize>) {
    for act in acts {
        match act {
            Act::Set(change) => drop(out.insert(change.input)),
            Act::Repeat(_, body) => changed(body, out),
            Act::Wait(_) | Act::Power(_) => {}
        }
    }
}

/// Acts without changes of some inputs.
fn without(acts: &[Act], inputs: &[usize]) -> Vec<Act> {
    let left = |act: &Act| match act {
        Act::Set(change) => (!inputs.contains(&change.input)).then(|| act.clone()),
        Act::Repeat(times, body) => Some(Act::Repeat(*times, without(body, inputs))),
        Act::Wait(_) | Act::Power(_) => Some(act.clone()),
    };
    acts.iter().filter_map(left).collect()
}

/// The list that holds a node.
fn list<'a>(acts: &'a mut Vec<Act>, path: &[usize]) -> Option<&'a mut Vec<Act>> {
    match path {
        [] => None,
        [_] => Some(acts),
        [first, rest @ ..] => {
            if let Act::Repeat(_, body) = acts.get_mut(*first)? {
                list(body, rest)
            } else {
                None
            }
        }
    }
}

impl Shrinker<'_> {
    fn is_spent(&self) -> bool {
        self.replays >= REPLAYS || self.replayed >= self.scans || self.twin.halt.has_rung()
    }

    /// Takes a candidate if it still shows it; cuts it off behind the first scan that does.
    fn accept(&mut self, mut candidate: Scenario) -> bool {
        if self.is_spent() {
            return false;
        }
        // What is left may need a little longer to show.
        candidate.acts.push(Act::Wait(3));
        tidy(&mut candidate.acts);
        if !self.twin.allows(&candidate) {
            return false;
        }
        self.replays += 1;
        self.replayed += candidate.scans().min(200_000);
        let Some(scan) = (self.shows)(&candidate, Waits::Leaping) else { return false };
        let shrunk = candidate.cut(scan + 1);
        let is_new = shrunk != self.best;
        self.best = shrunk;
        is_new
    }

    /// Tries the best with a change at one node; false if there is no such node, or it shows nothing any more.
    fn edit(&mut self, path: &[usize], change: impl FnOnce(&mut Vec<Act>, usize)) -> bool {
        let mut candidate = self.best.clone();
        let (Some(list), Some(at)) = (list(&mut candidate.acts, path), path.last()) else { return false };
        if *at >= list.len() {
            return false;
        }
        change(list, *at);
        self.accept(candidate)
    }

    fn nodes(&self) -> Vec<Path> {
        let mut out = Vec::new();
        paths(&self.best.acts, &[], &mut out);
        out
    }

    fn node(&self, path: &[usize]) -> Option<Act> {
        let mut acts = &self.best.acts;
        let (last, before) = path.split_last()?;
        for step in before {
            let Act::Repeat(_, body) = acts.get(*step)? else { return None };
            acts = body;
        }
        acts.get(*last).cloned()
    }

    /// Leaves inputs as they are: half of those that change, then ever fewer, down to single ones.
    fn inputs(&mut self) {
        let mut found = BTreeSet::new();
        changed(&self.best.acts, &mut found);
        let mut open: Vec<usize> = found.into_iter().collect();
        let mut size = open.len().div_ceil(2).max(1);
        loop {
            let mut at = 0;
            while at < open.len() && !self.is_spent() {
                let end = (at + size).min(open.len());
                if self.accept(Scenario { acts: without(&self.best.acts, &open[at..end]) }) {
                    open.drain(at..end);
                } else {
                    at = end;
                }
            }
            if size == 1 {
                break;
            }
            size = size.div_ceil(2);
        }
    }

    /// Drops acts: halves first, then ever smaller runs, down to single ones, and those within repetitions.
    fn fewer(&mut self) {
        let mut size = self.best.acts.len().div_ceil(2).max(1);
        loop {
            let mut at = 0;
            while at < self.best.acts.len() && !self.is_spent() {
                let end = (at + size).min(self.best.acts.len());
                let gone = Scenario { acts: self.best.acts[at..end].to_vec() };
                // First as if nothing happened in that time, then without the time as well.
                let mut quiet = self.best.clone();
                quiet.acts.splice(at..end, [Act::Wait(gone.scans())]);
                let mut shorter = self.best.clone();
                shorter.acts.drain(at..end);
                let happens = gone.happenings() > 0 && gone.scans() > 0;
                let taken = (happens && self.accept(quiet)) || self.accept(shorter);
                if !taken {
                    at += size;
                }
            }
            if size == 1 {
                break;
            }
            size = size.div_ceil(2).min(self.best.acts.len().max(1));
        }
        let mut number = 0;
        while let Some(path) = self.nodes().get(number).cloned() {
            if self.is_spent() || !(path.len() > 1 && self.edit(&path, |list, at| drop(list.remove(at)))) {
                number += 1;
            }
        }
    }

    /// Repeats less often, or once.
    fn rounds(&mut self) {
        let mut number = 0;
        while let Some(path) = self.nodes().get(number).cloned() {
            number += 1;
            let Some(Act::Repeat(times, body)) = self.node(&path) else { continue };
            if times <= 3 {
                let flat: Vec<Act> = (0..times).flat_map(|_| body.clone()).collect();
                self.edit(&path, |list, at| drop(list.splice(at..=at, flat)));
                continue;
            }
            // The least number of rounds that still shows it, as if more were always enough.
            let (mut low, mut high) = (0, times);
            while high - low > 1 && !self.is_spent() {
                let middle = low + (high - low) / 2;
                let shorter = |list: &mut Vec<Act>, at: usize| {
                    if let Act::Repeat(times, _) = &mut list[at] {
                        *times = middle;
                    }
                };
                if self.edit(&path, shorter) {
                    high = match self.node(&path) {
                        Some(Act::Repeat(now, _)) => now,
                        // Cut off behind the difference: the tree is another now.
                        _ => break,
                    };
                } else {
                    low = middle;
                }
            }
        }
    }

    /// Shortens the waits.
    fn sooner(&mut self) {
        let mut number = 0;
        while let Some(path) = self.nodes().get(number).cloned() {
            number += 1;
            let Some(Act::Wait(scans)) = self.node(&path) else { continue };
            let (mut low, mut high) = (0, scans);
            // From no wait at all upwards in halves.
            while high > low && !self.is_spent() {
                let middle = low + (high - low) / 2;
                let wait = |list: &mut Vec<Act>, at: usize| list[at] = Act::Wait(middle);
                if self.edit(&path, wait) {
                    match self.node(&path) {
                        Some(Act::Wait(now)) if now <= middle => high = now,
                        _ => break,
                    }
                } else {
                    low = middle + 1;
                }
            }
        }
    }

    /// Brings values to 0 or 1, or at least closer to 0; BOOL stays as it is.
    fn simpler(&mut self) {
        for path in self.nodes() {
            for divisor in [0i64, 1, 2, 10, 1000] {
                let Some(Act::Set(change)) = self.node(&path) else { break };
                let value = match divisor {
                    0 => 0,
                    1 => 1,
                    by => change.value / by,
                };
                let smaller = value.unsigned_abs() < change.value.unsigned_abs();
                if smaller && change.value != 1 && self.is_valid(change.input, value) {
                    self.edit(&path, |list, at| list[at] = Act::Set(Change { value, ..change }));
                }
            }
        }
    }

    fn is_valid(&self, input: usize, value: i64) -> bool {
        let pair = &self.twin.pairing.inputs[input];
        let within = pair.range.is_none_or(|(low, high)| (low..=high).contains(&value));
        within
            && match &self.twin.left.machine.point(pair.left).ty {
                // A time is said in milliseconds, and no shorter by fractions of one.
                PointType::Elem(elem) => match elem.family() {
                    Family::Time => value % 1_000_000 == 0,
                    Family::Bool | Family::Bits | Family::Int => true,
                    Family::Real | Family::Text => false,
                },
                PointType::Range(_, low, high) => (*low..=*high).contains(&value),
                PointType::Enum(values) => values.iter().any(|(_, v)| *v == value),
                PointType::Text => false,
            }
    }
}
