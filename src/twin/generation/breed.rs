//! New scenarios from those that covered something new: a little longer, a scan earlier, once more.

use crate::scan::Power;
use crate::twin::generate::{Generator, Input};
use crate::twin::scenario::{Act, Change, Scenario, tidy};
use fastrand::Rng;

/// Most scans of a bred scenario, waits that are leapt over aside; more is cut off.
const MOST_SCANS: u64 = 150_000;

/// Happenings after which a scenario is seldom bred from: each of its children would be as long.
const MANY: u64 = 10_000;

/// Most acts.
const MOST_ACTS: usize = 400;

impl Generator {
    /// A scenario bred from kept ones; the younger ones are taken more often.
    pub(in crate::twin) fn breed(&self, mut rng: Rng, kept: &[Scenario]) -> Scenario {
        let draw = |rng: &mut Rng| {
            let young = if rng.bool() { kept.len().saturating_sub(24) } else { 0 };
            let mut one = &kept[rng.usize(young..kept.len())];
            for _ in 0..3 {
                if one.happenings() > MANY {
                    one = &kept[rng.usize(0..kept.len())];
                }
            }
            one
        };
        let mut acts = draw(&mut rng).acts.clone();
        for _ in 0..rng.u8(1..5) {
            match rng.u8(0..10) {
                // On from somewhere within.
                0..=2 => {
                    let at = rng.usize(0..=acts.len());
                    acts.truncate(at);
                    let mut script = self.script(rng.fork());
                    script.some(rng.u64(1..6));
                    acts.extend(script.finish().acts);
                }
                3 => self.shift(&mut acts, &mut rng),
                4 => self.wait_otherwise(&mut acts, &mut rng),
                5 => {
                    if !acts.is_empty() {
                        acts.remove(rng.usize(0..acts.len()));
                    }
                }
                6 => self.repeat(&mut acts, &mut rng),
                7 => self.value_otherwise(&mut acts, &mut rng),
                8 => {
                    let at = rng.usize(0..=acts.len());
                    acts.insert(at, Act::Power(Power::Cycle));
                }
                _ => {
                    let other = draw(&mut rng);
                    let from = rng.usize(0..=other.acts.len());
                    let at = rng.usize(0..=acts.len());
                    acts.truncate(at);
                    acts.extend_from_slice(&other.acts[from..]);
                }
            }
        }
        acts.truncate(MOST_ACTS);
        acts.push(Act::Wait(rng.u64(1..4)));
        tidy(&mut acts);
        Scenario { acts }.bounded(MOST_SCANS)
    }

    /// A wait a scan shorter or longer, or split, so that what follows comes elsewhere.
    fn shift(&self, acts: &mut Vec<Act>, rng: &mut Rng) {
        let waits: Vec<usize> = (0..acts.len()).filter(|i| matches!(acts[*i], Act::Wait(_))).collect();
        if waits.is_empty() {
            return;
        }
        let at = waits[rng.usize(0..waits.len())];
        let Act::Wait(scans) = &mut acts[at] else { return };
        match rng.u8(0..3) {
            0 => *scans += 1,
            1 => *scans = scans.saturating_sub(1),
            _ => {
                let first = rng.u64(0..=*scans);
                let rest = *scans - first;
                *scans = first;
                acts.insert(at + 1, Act::Wait(rest));
                let act = match self.any_input(rng) {
                    Some(input) => Act::Set(Change { input, value: self.value(rng, input) }),
                    None => Act::Power(Power::Cycle),
                };
                acts.insert(at + 1, act);
            }
        }
    }

    fn wait_otherwise(&self, acts: &mut [Act], rng: &mut Rng) {
        let waits: Vec<usize> = (0..acts.len()).filter(|i| matches!(acts[*i], Act::Wait(_))).collect();
        if waits.is_empty() {
            return;
        }
        let holds = if !self.far.is_empty() && rng.u8(0..6) == 0 { &self.far } else { &self.holds };
        let scans = if holds.is_empty() { rng.u64(1..30) } else { holds[rng.usize(0..holds.len())] };
        acts[waits[rng.usize(0..waits.len())]] = Act::Wait(scans);
    }

    /// A stretch of it as often as a count wants, or twice as often as it was.
    fn repeat(&self, acts: &mut Vec<Act>, rng: &mut Rng) {
        if acts.is_empty() {
            return;
        }
        let from = rng.usize(0..acts.len());
        if let Act::Repeat(times, _) = &mut acts[from] {
            *times = times.saturating_mul(2).min(70_000) + rng.u64(0..2);
            return;
        }
        let to = (from + rng.usize(1..9)).min(acts.len());
        let body: Vec<Act> = acts.drain(from..to).collect();
        let counts = if !self.many.is_empty() && rng.u8(0..8) == 0 { &self.many } else { &self.counts };
        let times = if counts.is_empty() { rng.u64(2..12) } else { counts[rng.usize(0..counts.len())] };
        acts.insert(from, Act::Repeat(times, body));
    }

    fn value_otherwise(&self, acts: &mut [Act], rng: &mut Rng) {
        let sets: Vec<usize> = (0..acts.len()).filter(|i| matches!(acts[*i], Act::Set(_))).collect();
        if sets.is_empty() {
            return;
        }
        if let Act::Set(change) = &mut acts[sets[rng.usize(0..sets.len())]] {
            change.value = if let Input::Bool = self.inputs[change.input] {
                1 - change.value
            } else {
                self.value(rng, change.input)
            };
        }
    }
}

impl Scenario {
    /// Cut so that it costs no more than so many scans; of a wait that is leapt over only the ends are run.
    fn bounded(self, most: u64) -> Scenario {
        if self.scans() <= most {
            return self;
        }
        let mut cost = 0;
        let mut scans = 0;
        for leaf in self.leaves() {
            if let crate::twin::Leaf::Wait(n) = leaf {
                let dear = if n > 10_000 { 30 } else { n };
                if cost + dear > most || scans > 10_000_000 {
                    break;
                }
                cost += dear;
                scans += n;
            }
        }
        self.cut(scans)
    }
}
