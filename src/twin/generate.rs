//! Scenarios as a person at the machine would try them, thousands of times: presses, long holds, presses as often
//! as a count wants and once more, two things at once, power off and on; times and values around the constants of
//! the programs.

use super::scenario::{Change, Scenario, Step};
use super::vocabulary::Vocabulary;
use super::{Pairing, Version};
use crate::model::{Duration, Elem};
use crate::scan::{PointType, Power};
use fastrand::Rng;

/// Longest scenario, in scans; longer presets are reported as not reached.
const LONGEST: u64 = 20_000;

/// What an input can be given.
#[derive(Clone, Debug)]
enum Input {
    Bool,
    /// Values worth trying, then the smallest and largest for drawing at random.
    Number {
        good: Vec<i64>,
        low: i64,
        high: i64,
    },
    /// Strings and the like stay as they are.
    Fixed,
}

/// Makes scenarios for a pairing.
pub(super) struct Generator {
    inputs: Vec<Input>,
    /// Hold times in scans: those of the presets, one less and one more, and short ones.
    holds: Vec<u64>,
    /// How often a button may want to be pressed.
    counts: Vec<u64>,
    /// Presets that no scenario is long enough for, in nanoseconds.
    pub(super) unreached: Vec<i64>,
}

impl Generator {
    pub(super) fn new(left: &Version, right: &Version, pairing: &Pairing, scan: Duration) -> Generator {
        let found = Vocabulary::of([left, right]);
        let scan = scan.nanos().max(1);
        let mut holds = Vec::new();
        let mut unreached = Vec::new();
        for &time in found.times.iter().filter(|t| **t > 0) {
            let scans = (time as u64).div_ceil(scan as u64);
            if scans + 2 > LONGEST / 2 {
                unreached.push(time);
                continue;
            }
            holds.extend([scans.saturating_sub(1), scans, scans + 1, scans + 2].into_iter().filter(|h| *h > 0));
        }
        holds.sort_unstable();
        holds.dedup();
        let mut counts: Vec<u64> = found
            .numbers
            .iter()
            .filter(|n| (1..=60).contains(*n))
            .flat_map(|n| [*n as u64, *n as u64 + 1, (*n as u64).saturating_sub(1).max(1)])
            .collect();
        counts.sort_unstable();
        counts.dedup();
        let inputs = pairing.inputs.iter().map(|pair| input(&left.machine.point(pair.left).ty, &found)).collect();
        Generator { inputs, holds, counts, unreached }
    }

    /// The scenario of a number; the same number and seed give the same scenario.
    pub(super) fn scenario(&self, seed: u64, number: u64) -> Scenario {
        let mut rng = Rng::with_seed(seed ^ number.wrapping_mul(0x9E37_79B9_7F4A_7C15));
        // Most scenarios are short, so that many are tried; some are as long as the longest preset wants.
        let longest = (3 * self.holds.last().copied().unwrap_or(0) + 200).min(LONGEST);
        let share = rng.f64().powi(3);
        let room = (40.0 * (longest as f64 / 40.0).powf(share)) as u64;
        let on = vec![false; self.inputs.len()];
        let mut script = Script { of: self, rng, at: 0, room, steps: Vec::new(), on };
        script.begin();
        match number % 4 {
            // Everything changes all the time, each input at a pace of its own.
            0 => script.restless(),
            _ => script.deliberate(),
        }
        Scenario { scans: script.at + 1, steps: script.steps }
    }
}

fn input(ty: &PointType, found: &Vocabulary) -> Input {
    let (elem, low, high) = match ty {
        PointType::Elem(Elem::Bool) => return Input::Bool,
        PointType::Elem(elem) => {
            let (low, high) = elem.shape().map_or((0, 0), |s| s.range());
            (*elem, low.max(i128::from(i64::MIN)) as i64, high.min(i128::from(i64::MAX)) as i64)
        }
        PointType::Range(elem, low, high) => (*elem, *low, *high),
        PointType::Enum(values) => {
            let good: Vec<i64> = values.iter().map(|(_, v)| *v).collect();
            let (low, high) = (good.iter().min().copied().unwrap_or(0), good.iter().max().copied().unwrap_or(0));
            return Input::Number { good, low, high };
        }
        PointType::Text => return Input::Fixed,
    };
    if elem.is_real() {
        let mut good: Vec<i64> = Vec::new();
        for value in found.reals.iter().copied().chain(found.numbers.iter().map(|n| *n as f64)).chain([0.0, 1.0]) {
            for near in [value, value - 0.5, value + 0.5, -value] {
                good.push(f64::from(near as f32).to_bits() as i64);
            }
        }
        return Input::Number { good, low: 0, high: 0 };
    }
    let constants = if elem.is_time() { &found.times } else { &found.numbers };
    let step = if elem.is_time() { 1_000_000 } else { 1 };
    let mut good: Vec<i64> = constants
        .iter()
        .flat_map(|c| [c.wrapping_sub(step), *c, c.wrapping_add(step)])
        .chain([0, step, low, high])
        .filter(|v| (low..=high).contains(v))
        .collect();
    good.sort_unstable();
    good.dedup();
    Input::Number { good, low, high }
}

struct Script<'g> {
    of: &'g Generator,
    rng: Rng,
    at: u64,
    /// Scans it may take.
    room: u64,
    steps: Vec<Step>,
    on: Vec<bool>,
}

impl Script<'_> {
    fn step(&mut self) -> &mut Step {
        if self.steps.last().is_none_or(|s| s.scan != self.at) {
            self.steps.push(Step { scan: self.at, changes: Vec::new(), power: None });
        }
        let last = self.steps.len() - 1;
        &mut self.steps[last]
    }

    fn give(&mut self, input: usize, value: i64) {
        self.on[input] = value != 0;
        let changes = &mut self.step().changes;
        changes.retain(|c| c.input != input);
        changes.push(Change { input, value });
    }

    fn value(&mut self, input: usize) -> i64 {
        match &self.of.inputs[input] {
            Input::Bool => i64::from(self.rng.bool()),
            Input::Number { good, low, high } => {
                if good.is_empty() || (*low < *high && self.rng.u8(0..8) == 0) {
                    self.rng.i64(*low..=*high)
                } else {
                    good[self.rng.usize(0..good.len())]
                }
            }
            Input::Fixed => 0,
        }
    }

    fn any(&mut self) -> Option<usize> {
        let usable: Vec<usize> =
            (0..self.of.inputs.len()).filter(|i| !matches!(self.of.inputs[*i], Input::Fixed)).collect();
        (!usable.is_empty()).then(|| usable[self.rng.usize(0..usable.len())])
    }

    /// Half of the scenarios begin at rest, the others anyhow.
    fn begin(&mut self) {
        if self.rng.bool() {
            return;
        }
        for input in 0..self.of.inputs.len() {
            if !matches!(self.of.inputs[input], Input::Fixed) && self.rng.bool() {
                let value = self.value(input);
                self.give(input, value);
            }
        }
    }

    fn hold(&mut self) -> u64 {
        let left = self.room.saturating_sub(self.at);
        let fitting = self.of.holds.partition_point(|h| *h <= left);
        if fitting > 0 && self.rng.u8(0..3) > 0 {
            self.of.holds[self.rng.usize(0..fitting)]
        } else {
            self.rng.u64(1..8)
        }
    }

    fn restless(&mut self) {
        let scans = self.room.min(240);
        let paces: Vec<u8> = (0..self.of.inputs.len()).map(|_| 1 << self.rng.u8(0..7)).collect();
        while self.at < scans {
            for (input, pace) in paces.iter().enumerate() {
                if !matches!(self.of.inputs[input], Input::Fixed) && self.rng.u8(0..*pace) == 0 {
                    let value = self.value(input);
                    self.give(input, value);
                }
            }
            self.maybe_power(120);
            self.at += 1;
        }
    }

    fn maybe_power(&mut self, seldom: u32) {
        if self.rng.u32(0..seldom) == 0 {
            self.step().power = Some(Power::Cycle);
        }
    }

    fn deliberate(&mut self) {
        let actions = self.rng.u64(2..40);
        for _ in 0..actions {
            if self.at >= self.room {
                return;
            }
            let Some(input) = self.any() else {
                self.at += self.hold();
                continue;
            };
            match (&self.of.inputs[input], self.rng.u8(0..10)) {
                (Input::Bool, 0..=3) => self.press(input, 1),
                (Input::Bool, 4 | 5) => {
                    let presses = match self.of.counts.len() {
                        0 => self.rng.u64(2..6),
                        n => self.of.counts[self.rng.usize(0..n)],
                    };
                    self.press(input, presses);
                }
                (Input::Bool, 6) => {
                    // Held until something else ends it, or nothing does.
                    let value = i64::from(!self.on[input]);
                    self.give(input, value);
                }
                (_, 7) => self.together(),
                (_, 8) => self.maybe_power(2),
                _ => {
                    let value = self.value(input);
                    self.give(input, value);
                }
            }
            self.at += self.hold();
        }
    }

    /// Presses and releases, each for a hold time.
    fn press(&mut self, input: usize, times: u64) {
        let (down, up) = if times > 1 { (self.rng.u64(1..4), self.rng.u64(1..4)) } else { (self.hold(), 1) };
        let rest = i64::from(self.on[input]);
        for _ in 0..times {
            self.give(input, 1 - rest);
            self.at += down;
            self.give(input, rest);
            self.at += up;
        }
    }

    /// Several inputs change in the same scan.
    fn together(&mut self) {
        let several = self.rng.usize(2..5);
        for _ in 0..several {
            if let Some(input) = self.any() {
                let value = match self.of.inputs[input] {
                    Input::Bool => i64::from(!self.on[input]),
                    _ => self.value(input),
                };
                self.give(input, value);
            }
        }
    }
}
