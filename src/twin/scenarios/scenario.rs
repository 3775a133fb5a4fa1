//! A scenario: what happens from outside, as acts with waits between them.

use crate::model::{Duration, Value};
use crate::scan::{Event, PointId, PointType, Power, Stimulus};
use crate::twin::Twin;
use serde::{Deserialize, Serialize};

/// One input that changes. The value is a slot of the left version's point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Change {
    /// Number of the pair in [`crate::twin::Pairing::inputs`].
    pub input: usize,
    /// The new value, as it sits in memory.
    pub value: i64,
}

/// One thing that happens, or time that passes.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Act {
    /// An input changes; seen by the next scan.
    Set(Change),
    /// Something happens to the controllers, before the next scan.
    Power(Power),
    /// So many scans go by.
    Wait(u64),
    /// All of it so many times.
    Repeat(u64, Vec<Act>),
}

/// Acts in order. What no wait follows is never seen.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Scenario {
    /// What happens.
    pub acts: Vec<Act>,
}

/// Scans and single things of a scenario that was written down, at most: more than any search keeps.
const LONGEST: u64 = 100_000_000;
const MOST_HAPPENINGS: u64 = 10_000_000;

/// What happens in one scan: power, and inputs with their values.
type Happening = (u64, Option<Power>, Vec<(usize, i64)>);

/// An act without repetition.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Leaf {
    /// An input changes.
    Set(Change),
    /// Something happens to the controllers.
    Power(Power),
    /// Scans go by.
    Wait(u64),
}

impl Scenario {
    /// Acts in order, repetitions unrolled.
    #[must_use]
    pub fn leaves(&self) -> Leaves<'_> {
        Leaves { stack: vec![(&self.acts, 0, 1)] }
    }

    /// How many scans it lasts.
    #[must_use]
    pub fn scans(&self) -> u64 {
        total(&self.acts, &|act| if let Act::Wait(n) = act { *n } else { 0 })
    }

    /// Whether it gives only inputs that there are, and values that they hold, and ends: what was written down may be anything.
    pub(in crate::twin) fn can_be_run(&self, twin: &Twin<'_>) -> bool {
        fn each(acts: &[Act], holds: &impl Fn(&Change) -> bool) -> bool {
            acts.iter().all(|act| match act {
                Act::Set(change) => holds(change),
                Act::Repeat(_, body) => each(body, holds),
                Act::Power(_) | Act::Wait(_) => true,
            })
        }
        let holds = |change: &Change| {
            let pair = twin.pairing.inputs.get(change.input);
            pair.is_some_and(|pair| {
                let (low, high) = twin.left.machine.point(pair.left).ty.limits().unwrap_or((i64::MIN, i64::MAX));
                (low..=high).contains(&change.value)
            })
        };
        each(&self.acts, &holds) && self.scans() <= LONGEST && self.happenings() <= MOST_HAPPENINGS
    }

    /// How many single things happen.
    #[must_use]
    pub fn happenings(&self) -> u64 {
        total(&self.acts, &|act| u64::from(matches!(act, Act::Set(_) | Act::Power(_))))
    }

    /// Whether the controllers are stopped in it.
    #[must_use]
    pub fn is_stopped(&self) -> bool {
        total(&self.acts, &|act| u64::from(matches!(act, Act::Power(Power::Stop)))) > 0
    }

    /// How many power cycles are in it.
    #[must_use]
    pub fn power_cycles(&self) -> u64 {
        total(&self.acts, &|act| u64::from(matches!(act, Act::Power(Power::Cycle | Power::Cold))))
    }

    /// How much there is to read in it: a repetition counts once.
    #[must_use]
    pub fn weight(&self) -> u64 {
        fn of(acts: &[Act]) -> u64 {
            let one = |act: &Act| match act {
                Act::Wait(n) => 1 + n.min(&200) / 4,
                Act::Repeat(_, body) => 8 + of(body),
                Act::Set(_) | Act::Power(_) => 3,
            };
            acts.iter().map(one).sum()
        }
        of(&self.acts)
    }

    /// This one, in the words of another if that says the same.
    #[must_use]
    pub(in crate::twin) fn folded(self, other: &Scenario) -> Scenario {
        if self.events() == other.events() { other.clone() } else { self }
    }

    /// What happens in which scan, whatever the order within one.
    fn events(&self) -> Vec<Happening> {
        let mut out: Vec<Happening> = Vec::new();
        let mut scan = 0;
        for leaf in self.leaves() {
            if let Leaf::Wait(scans) = leaf {
                scan += scans;
                continue;
            }
            if out.last().is_none_or(|(s, ..)| *s != scan) {
                out.push((scan, None, Vec::new()));
            }
            match (out.last_mut(), leaf) {
                (Some((_, power, _)), Leaf::Power(what)) => *power = Some(what),
                (Some((_, _, sets)), Leaf::Set(change)) => {
                    sets.retain(|(input, _)| *input != change.input);
                    sets.push((change.input, change.value));
                    sets.sort_unstable();
                }
                _ => {}
            }
        }
        out
    }

    /// What happens in its first scans, and no more.
    #[must_use]
    pub fn cut(&self, scans: u64) -> Scenario {
        let mut left = scans;
        let mut acts = cut(&self.acts, &mut left);
        tidy(&mut acts);
        Scenario { acts }
    }

    /// As a stimulus for the left version; times are those at which the scans begin.
    #[must_use]
    pub fn stimulus(&self, twin: &Twin<'_>) -> Stimulus {
        let mut clock = twin.timing.pace();
        let mut events: Vec<Event> = Vec::new();
        for leaf in self.leaves() {
            let at = Duration::from_nanos(clock.now());
            match leaf {
                Leaf::Wait(scans) => clock.skip(scans),
                leaf @ (Leaf::Set(_) | Leaf::Power(_)) => {
                    if events.last().is_none_or(|e| e.at != at || leaf_is_late(e, leaf)) {
                        events.push(Event::at(at));
                    }
                    let Some(event) = events.last_mut() else { continue };
                    match leaf {
                        Leaf::Power(power) => event.power = Some(power),
                        Leaf::Set(change) => {
                            let point = twin.pairing.inputs[change.input].left;
                            event.set.retain(|(p, _)| *p != point);
                            event.set.push((point, value(twin, point, change.value)));
                        }
                        Leaf::Wait(_) => {}
                    }
                }
            }
        }
        Stimulus { events }
    }

    /// The scenario that a stimulus for the left version says, for so many scans.
    #[must_use]
    pub fn of_stimulus(stimulus: &Stimulus, twin: &Twin<'_>, scans: u64) -> Scenario {
        let mut clock = twin.timing.pace();
        let mut acts = Vec::new();
        let mut gone = 0;
        for event in &stimulus.events {
            let before = gone;
            while clock.now() < event.at.nanos() && gone < scans {
                let far = clock.scans_until(event.at.nanos()).min(scans - gone).max(1);
                clock.skip(far);
                gone += far;
            }
            if gone > before {
                acts.push(Act::Wait(gone - before));
            }
            acts.extend(event.power.map(Act::Power));
            for (point, given) in &event.set {
                let input = twin.pairing.inputs.iter().position(|p| p.left == *point);
                let ty = &twin.left.machine.point(*point).ty;
                let value = ty.slot(given, |text| Some(twin.texts.number(text)));
                if let (Some(input), Some(value)) = (input, value) {
                    acts.push(Act::Set(Change { input, value }));
                }
            }
        }
        if gone < scans {
            acts.push(Act::Wait(scans - gone));
        }
        Scenario { acts }
    }
}

/// A row has room for one thing that happens to the controllers. Whether that comes before the inputs of its scan or
/// after them makes no difference.
fn leaf_is_late(event: &Event, leaf: Leaf) -> bool {
    matches!(leaf, Leaf::Power(_)) && event.power.is_some()
}

fn total(acts: &[Act], of: &impl Fn(&Act) -> u64) -> u64 {
    let one = |act: &Act| match act {
        Act::Repeat(times, body) => times.saturating_mul(total(body, of)),
        act @ (Act::Set(_) | Act::Power(_) | Act::Wait(_)) => of(act),
    };
    acts.iter().fold(0, |sum: u64, act| sum.saturating_add(one(act)))
}

fn cut(acts: &[Act], left: &mut u64) -> Vec<Act> {
    let mut out = Vec::new();
    for act in acts {
        if *left == 0 {
            break;
        }
        match act {
            Act::Wait(scans) => {
                let scans = (*scans).min(*left);
                *left -= scans;
                out.push(Act::Wait(scans));
            }
            Act::Repeat(times, body) => {
                let each = total(body, &|a| if let Act::Wait(n) = a { *n } else { 0 });
                let whole = left.checked_div(each).map_or(*times, |fit| fit.min(*times));
                *left -= whole * each;
                if whole > 0 {
                    out.push(Act::Repeat(whole, body.clone()));
                }
                if whole < *times {
                    out.extend(cut(body, left));
                }
            }
            other @ (Act::Set(_) | Act::Power(_)) => out.push(other.clone()),
        }
    }
    out
}

/// Joins waits, and drops what does nothing: waits of no scan, repetitions of nothing, acts that no wait follows.
pub(in crate::twin) fn tidy(acts: &mut Vec<Act>) {
    let mut out: Vec<Act> = Vec::new();
    for mut act in std::mem::take(acts) {
        if let Act::Repeat(times, body) = &mut act {
            tidy_body(body);
            if total(body, &|a| if let Act::Wait(n) = a { *n } else { 0 }) == 0 {
                // Nothing can be told apart within one scan.
                *times = (*times).min(1);
            }
            if *times == 0 || body.is_empty() {
                continue;
            }
            if *times == 1 {
                out.append(body);
                continue;
            }
        }
        match (out.last_mut(), &act) {
            (_, Act::Wait(0)) => {}
            (Some(Act::Wait(before)), Act::Wait(scans)) => *before += scans,
            _ => out.push(act),
        }
    }
    while matches!(out.last(), Some(Act::Set(_) | Act::Power(_))) {
        out.pop();
    }
    *acts = out;
}

/// As [`tidy`], within a repetition, where the next round follows.
fn tidy_body(body: &mut Vec<Act>) {
    body.push(Act::Wait(1));
    tidy(body);
    match body.pop() {
        Some(Act::Wait(n)) if n > 1 => body.push(Act::Wait(n - 1)),
        Some(Act::Wait(_)) | None => {}
        Some(other) => body.push(other),
    }
}

/// A value of the left version's point.
pub(in crate::twin) fn value(twin: &Twin<'_>, point: PointId, slot: i64) -> Value {
    twin.left.machine.point(point).ty.value(slot, |text| twin.texts.get(text))
}

/// What sits in memory as a value; of a string nothing is known.
pub(in crate::twin) fn value_of(ty: &PointType, slot: i64) -> Value {
    ty.value(slot, |_| String::new())
}

/// Acts in order, repetitions unrolled.
#[derive(Debug)]
pub struct Leaves<'s> {
    /// Lists that are open: acts, the next one, rounds left.
    stack: Vec<(&'s [Act], usize, u64)>,
}

impl Iterator for Leaves<'_> {
    type Item = Leaf;

    fn next(&mut self) -> Option<Leaf> {
        loop {
            let (acts, at, rounds) = self.stack.last_mut()?;
            let acts: &[Act] = acts;
            match acts.get(*at) {
                None if *rounds > 1 && !acts.is_empty() => {
                    *rounds -= 1;
                    *at = 0;
                }
                None => {
                    self.stack.pop();
                }
                Some(act) => {
                    *at += 1;
                    match act {
                        Act::Set(change) => return Some(Leaf::Set(*change)),
                        Act::Power(power) => return Some(Leaf::Power(*power)),
                        Act::Wait(scans) => return Some(Leaf::Wait(*scans)),
                        Act::Repeat(0, _) => {}
                        Act::Repeat(times, body) => self.stack.push((body, 0, *times)),
                    }
                }
            }
        }
    }
}
