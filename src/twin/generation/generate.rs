//! Scenarios as a person at the machine would try them, thousands of times: presses, long holds, presses as often
//! as a count wants and once more, two things at once, power off and on; times and values around the constants of
//! the programs.

use crate::model::ops::Precision;
use crate::model::{Elem, Family, ops};
use crate::scan::{PointType, Power};
use crate::twin::both::range;
use crate::twin::scenario::{Act, Change, Scenario};
use crate::twin::vocabulary::Vocabulary;
use crate::twin::{Pair, Timing, Twin};
use fastrand::Rng;

/// Longest scenario that is run scan by scan, in scans.
const LONGEST: u64 = 20_000;

/// Longest wait, in scans; what is beyond [`LONGEST`] is leapt over, and run whole when something is found.
const FARTHEST: u64 = 10_000_000;

/// Most presses of one button in a row.
const MOST_PRESSES: u64 = 70_000;

/// What an input can be given.
#[derive(Clone, Debug)]
pub(in crate::twin) enum Input {
    Bool,
    /// Values worth trying, then the smallest and largest for drawing at random.
    Number {
        good: Vec<i64>,
        low: i64,
        high: i64,
    },
    /// As a number, of which those that are drawn lie between two real ones. At the edges sums and products round, cancel, or
    /// are beyond what the type holds.
    Real {
        good: Vec<i64>,
        edges: Vec<i64>,
        low: f64,
        high: f64,
        precision: Precision,
    },
}

/// What a scenario is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::twin) enum Manner {
    /// Everything changes all the time, each input at a pace of its own.
    Restless,
    /// One thing after another, as a person would.
    Deliberate,
    /// So, but one input is held for long at first and some are left as they are: what takes a minute is not seen where each of them hides
    /// or ends it sooner. A quarter of these are powered up in STOP.
    SomeAtRest,
}

/// Makes scenarios for a pairing.
pub(in crate::twin) struct Generator {
    pub(in crate::twin) inputs: Vec<Input>,
    /// What each input is before anything happens.
    rest: Vec<i64>,
    /// Hold times in scans: those of the presets, one less and one more, and short ones.
    pub(in crate::twin) holds: Vec<u64>,
    /// Hold times so long that they are leapt over.
    pub(in crate::twin) far: Vec<u64>,
    /// How often a button may want to be pressed.
    pub(in crate::twin) counts: Vec<u64>,
    /// The same, where it takes more than a minute of pressing.
    pub(in crate::twin) many: Vec<u64>,
    /// Presets that no scenario is long enough for, in nanoseconds.
    pub(in crate::twin) unreached: Vec<i64>,
    /// How often a button is pressed to carry a counter past where it stops or turns over, and which one; or about half of
    /// them together, where there are many: what counts is pressed then and what resets is not, for some counters each time.
    trains: Vec<(Option<usize>, u64)>,
    /// Whether scenarios may begin in STOP.
    may_stand_still: bool,
}

/// One scenario in so many carries a counter past its limit.
const TRAIN_EVERY: u64 = 16;

/// Of so many scans one may be spent on that.
const TRAIN_SHARE: u64 = 5;

/// Times that each of them is tried, with other inputs at rest or anyhow.
const TRAINS_EACH: usize = 4;

/// Buttons that are tried one by one, at most.
const FEW_BUTTONS: usize = 8;

/// Most products of a time and a count.
const MOST_PRODUCTS: usize = 60;

/// Counts that a time may be multiplied by.
fn numbers_of(found: &Vocabulary) -> impl Iterator<Item = u64> {
    found.numbers.iter().filter(|n| (2..=1_000).contains(*n)).flat_map(|n| [*n as u64, *n as u64 + 1])
}

/// What stands beside a preset or a count.
fn around(values: impl Iterator<Item = u64>, by: &[i64]) -> Vec<u64> {
    let mut out: Vec<u64> =
        values.flat_map(|v| by.iter().map(move |b| v.saturating_add_signed(*b))).filter(|v| *v > 0).collect();
    out.sort_unstable();
    out.dedup();
    out
}

impl Generator {
    /// `most` is the number of scans that a scenario may last, waits that are leapt over included.
    pub(in crate::twin) fn new(twin: &Twin<'_>, most: u64) -> Generator {
        let found = Vocabulary::of_twin(twin);
        let scan = twin.timing.longest().nanos().max(1) as u64;
        let leaps = matches!(twin.timing, Timing::Lockstep(_))
            && twin.pairing.outputs.iter().all(|p| p.tolerance == crate::twin::Tolerance::Exact);
        let times = || found.times.iter().filter(|t| **t > 0).map(|t| (*t as u64).div_ceil(scan));
        let far = |scans: &u64| leaps && (LONGEST / 2..=FARTHEST.min(most)).contains(scans);
        let unreached =
            found.times.iter().copied().filter(|t| *t > 0 && (*t as u64).div_ceil(scan) >= LONGEST / 2).filter(|t| {
                let scans = (*t as u64).div_ceil(scan);
                !far(&scans)
            });
        // Something that repeats itself so often: a timer that resets itself, and a count of it.
        let counted: Vec<u64> = times().flat_map(|t| numbers_of(&found).map(move |n| t.saturating_mul(n))).collect();
        let numbers = || found.numbers.iter().filter(|n| **n > 0).map(|n| *n as u64);
        let inputs: Vec<Input> = twin.pairing.inputs.iter().map(|p| input(twin, p, &found)).collect();
        Generator {
            trains: trains(&inputs, &found.limits, most / TRAIN_SHARE),
            inputs,
            rest: twin.pairing.inputs.iter().map(|p| p.rest.unwrap_or(0)).collect(),
            holds: around(
                times().chain(counted.iter().copied().take(MOST_PRODUCTS)).filter(|t| *t < LONGEST / 2),
                &[-1, 0, 1, 2],
            ),
            far: around(times().filter(far), &[-1, 1, 2])
                .into_iter()
                .chain(counted.iter().copied().filter(far).take(MOST_PRODUCTS))
                .collect(),
            counts: around(numbers().filter(|n| *n <= 60), &[-1, 0, 1]),
            many: around(numbers().filter(|n| (61..=MOST_PRESSES).contains(n)), &[0, 1]),
            unreached: unreached.collect(),
            may_stand_still: !twin.rules.iter().any(|rule| rule.law.is_timed()),
        }
    }

    /// A scenario with its own source of chance: what two programs and their constants make worth trying.
    pub(in crate::twin) fn draw(&self, rng: Rng, manner: Manner) -> Scenario {
        let mut script = self.script(rng);
        script.begin();
        match manner {
            Manner::Restless => script.restless(),
            Manner::Deliberate => script.deliberate(),
            Manner::SomeAtRest => {
                script.stand_still();
                script.leave_some();
                script.deliberate();
            }
        }
        script.finish()
    }

    /// Where the scenario of a number is one that carries a counter past its limit.
    pub(in crate::twin) fn train(&self, rng: &Rng, number: u64) -> Option<Scenario> {
        let at = (number % TRAIN_EVERY == TRAIN_EVERY - 1).then_some((number / TRAIN_EVERY) as usize)?;
        let (button, presses) = *self.trains.get(at)?;
        let mut script = self.script(rng.clone());
        script.begin();
        let all = (0..self.inputs.len()).filter(|i| matches!(self.inputs[*i], Input::Bool));
        let buttons: Vec<usize> = match button {
            Some(button) => vec![button],
            None => all.filter(|_| script.rng.bool()).collect(),
        };
        script.press(&buttons, presses);
        script.some(3);
        Some(script.finish())
    }

    /// Every input anything in every scan: what tests without a thought would do. For comparison only.
    pub(in crate::twin) fn blind(&self, rng: Rng) -> Scenario {
        let mut script = self.script(rng);
        let scans = script.rng.u64(20..400);
        for _ in 0..scans {
            for input in 0..self.inputs.len() {
                let value = match &self.inputs[input] {
                    Input::Bool => i64::from(script.rng.bool()),
                    Input::Number { low, high, good } if low < high || good.is_empty() => script.rng.i64(*low..=*high),
                    Input::Number { good, .. } => good[script.rng.usize(0..good.len())],
                    Input::Real { .. } => self.value(&mut script.rng, input),
                };
                script.give(input, value);
            }
            script.maybe_power(100);
            script.wait(1);
        }
        script.finish()
    }

    pub(in crate::twin) fn script(&self, mut rng: Rng) -> Script<'_> {
        // Most scenarios are short, so that many are tried; some are as long as the longest preset wants.
        let longest = (3 * self.holds.last().copied().unwrap_or(0) + 200).min(LONGEST);
        let share = rng.f64().powi(3);
        let room = (40.0 * (longest as f64 / 40.0).powf(share)) as u64;
        let moved = (0..self.inputs.len()).collect();
        Script { of: self, rng, at: 0, room, acts: Vec::new(), now: self.rest.clone(), moved }
    }

    /// What an input may be given, beside what it has.
    pub(in crate::twin) fn value(&self, rng: &mut Rng, input: usize) -> i64 {
        match &self.inputs[input] {
            Input::Bool => i64::from(rng.bool()),
            Input::Number { good, low, high } => {
                if good.is_empty() || (*low < *high && rng.u8(0..8) == 0) {
                    rng.i64(*low..=*high)
                } else {
                    good[rng.usize(0..good.len())]
                }
            }
            Input::Real { edges, .. } if !edges.is_empty() && rng.u8(0..8) == 0 => edges[rng.usize(0..edges.len())],
            Input::Real { good, low, high, precision, .. } => {
                if good.is_empty() || rng.u8(0..4) == 0 {
                    ops::round(*precision, low + (high - low) * rng.f64()).to_bits() as i64
                } else {
                    good[rng.usize(0..good.len())]
                }
            }
        }
    }

    pub(in crate::twin) fn any_input(&self, rng: &mut Rng) -> Option<usize> {
        (!self.inputs.is_empty()).then(|| rng.usize(0..self.inputs.len()))
    }
}

/// Each limit with each button, the least first, then all of it again, as far as it takes no more scans than given.
fn trains(inputs: &[Input], limits: &[u64], scans: u64) -> Vec<(Option<usize>, u64)> {
    let buttons = (0..inputs.len()).filter(|i| matches!(inputs[*i], Input::Bool)).map(Some);
    let mut buttons: Vec<Option<usize>> = buttons.collect();
    if buttons.len() > FEW_BUTTONS {
        buttons = vec![None; FEW_BUTTONS];
    }
    let each = |limit: &u64| buttons.iter().map(|button| (*button, limit + 2)).collect::<Vec<_>>();
    let once: Vec<(Option<usize>, u64)> = limits.iter().flat_map(each).collect();
    let again = (0..TRAINS_EACH).flat_map(|_| once.iter().copied());
    let spent = again.scan(0, |sum, (button, presses)| {
        *sum += 2 * presses;
        Some((*sum, (button, presses)))
    });
    spent.take_while(|(sum, _)| *sum <= scans).map(|(_, train)| train).collect()
}

fn input(twin: &Twin<'_>, pair: &Pair, found: &Vocabulary) -> Input {
    let ty = &twin.left.machine.point(pair.left).ty;
    let elem = match ty {
        PointType::Elem(Elem::Bool) => match pair.range {
            Some((low, high)) if low == high => return Input::Number { good: vec![low], low, high },
            _ => return Input::Bool,
        },
        PointType::Elem(elem) | PointType::Range(elem, ..) => *elem,
        PointType::Enum(values) => {
            let good: Vec<i64> = values.iter().map(|(_, v)| *v).collect();
            return Input::Number { good, low: 0, high: 0 };
        }
        PointType::Text => {
            return Input::Number { good: (0..twin.texts.len() as i64).collect(), low: 0, high: 0 };
        }
    };
    let (constants, step) = match elem.family() {
        Family::Real => return real_input(pair, Precision::of(elem), found),
        Family::Time => (&found.times, 1_000_000),
        Family::Bool | Family::Bits | Family::Int | Family::Text => (&found.numbers, 1),
    };
    // What both types hold; of 64 bits without a sign the upper half looks negative.
    let (low, high) = range(twin, pair);
    let mut good: Vec<i64> = constants
        .iter()
        .flat_map(|c| [c.wrapping_sub(step), *c, c.wrapping_add(step)])
        .chain([0, step, low, high, -1])
        .filter(|v| (low..=high).contains(v))
        .collect();
    good.sort_unstable();
    good.dedup();
    Input::Number { good, low, high }
}

/// A real number is worth trying at each constant of both programs, near it, and between it and the next one: where a
/// constant is another on one side, some value lies between the two.
fn real_input(pair: &Pair, precision: Precision, found: &Vocabulary) -> Input {
    let mut marks: Vec<f64> = found.reals.iter().copied().chain(found.numbers.iter().map(|n| *n as f64)).collect();
    marks.extend([0.0, 1.0]);
    marks.extend(marks.clone().iter().map(|mark| -mark));
    marks.retain(|mark| mark.is_finite());
    marks.sort_by(f64::total_cmp);
    marks.dedup();
    let mut good: Vec<f64> = marks.windows(2).map(|two| two[0] + (two[1] - two[0]) / 2.0).collect();
    for mark in &marks {
        good.extend([1.0, 0.999, 1.001, 0.99, 1.01, 0.95, 1.05].map(|by| mark * by));
        good.extend([mark - 0.5, mark + 0.5]);
    }
    let ends = [marks.first(), marks.last()].map(|mark| mark.copied().unwrap_or_default() * 1.5);
    let (low, high) = match pair.range {
        Some((low, high)) => (f64::from_bits(low as u64), f64::from_bits(high as u64)),
        None => (ends[0], ends[1]),
    };
    let mut edges: Vec<f64> = edges(precision).to_vec();
    edges.extend(marks.iter().flat_map(|mark| beside(*mark, precision)));
    if pair.range.is_some() {
        good.retain(|value| (low..=high).contains(value));
        good.extend([low, high]);
        edges.retain(|value| (low..=high).contains(value));
    }
    let [good, edges] = [good, edges].map(|values| {
        let mut values: Vec<i64> =
            values.into_iter().map(|value| ops::round(precision, value).to_bits() as i64).collect();
        values.sort_unstable();
        values.dedup();
        values
    });
    Input::Real { good, edges, low, high, precision }
}

/// Numbers of which sums round or cancel, products are too large, too small or none, whatever the program is.
fn edges(precision: Precision) -> [f64; 16] {
    let (most, least, ulp) = match precision {
        Precision::Single => (f64::from(f32::MAX), f64::from(f32::MIN_POSITIVE), f64::from(f32::EPSILON)),
        Precision::Double => (f64::MAX, f64::MIN_POSITIVE, f64::EPSILON),
    };
    let whole = 2.0 / ulp;
    [
        0.1,
        0.2,
        0.7,
        1.0 / 3.0,
        1.0 + ulp,
        1.0 - ulp / 2.0,
        // From here on not every whole number is held.
        whole,
        whole + 2.0,
        -whole,
        most,
        -most,
        least,
        least / 4.0,
        -0.0,
        f64::INFINITY,
        f64::NAN,
    ]
}

/// The numbers next to one, on both sides.
fn beside(mark: f64, precision: Precision) -> [f64; 2] {
    match precision {
        Precision::Single => [(mark as f32).next_up(), (mark as f32).next_down()].map(f64::from),
        Precision::Double => [mark.next_up(), mark.next_down()],
    }
}

/// A scenario while it is made.
pub(in crate::twin) struct Script<'g> {
    of: &'g Generator,
    pub(in crate::twin) rng: Rng,
    at: u64,
    /// Scans it may take.
    room: u64,
    acts: Vec<Act>,
    now: Vec<i64>,
    /// Inputs that its deliberate actions move.
    moved: Vec<usize>,
}

impl Script<'_> {
    fn give(&mut self, input: usize, value: i64) {
        self.now[input] = value;
        self.acts.push(Act::Set(Change { input, value }));
    }

    fn wait(&mut self, scans: u64) {
        self.at += scans;
        match self.acts.last_mut() {
            Some(Act::Wait(before)) => *before += scans,
            _ => self.acts.push(Act::Wait(scans)),
        }
    }

    pub(in crate::twin) fn finish(mut self) -> Scenario {
        self.wait(1);
        Scenario { acts: self.acts }
    }

    /// Half of the scenarios begin at rest, the others anyhow.
    fn begin(&mut self) {
        if self.rng.bool() {
            return;
        }
        for input in 0..self.of.inputs.len() {
            if self.rng.bool() {
                let value = self.of.value(&mut self.rng, input);
                self.give(input, value);
            }
        }
    }

    fn hold(&mut self) -> u64 {
        if !self.of.far.is_empty() && self.rng.u8(0..40) == 0 {
            let far = self.of.far[self.rng.usize(0..self.of.far.len())];
            // It costs little, so it takes no room.
            self.room += far;
            return far;
        }
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
                if self.rng.u8(0..*pace) == 0 {
                    let value = self.of.value(&mut self.rng, input);
                    self.give(input, value);
                }
            }
            self.maybe_power(120);
            self.wait(1);
        }
    }

    fn maybe_power(&mut self, seldom: u32) {
        if self.rng.u32(0..seldom) == 0 {
            self.acts.push(Act::Power(Power::Cycle));
        }
    }

    /// Now and then STOP, and RUN a hold time later: so a controller begins that was put into STOP before it was switched on.
    fn stand_still(&mut self) {
        if self.rng.u8(0..4) > 0 || !self.of.may_stand_still {
            return;
        }
        self.acts.push(Act::Power(Power::Stop));
        let hold = self.any_hold().unwrap_or(5);
        self.room += hold;
        self.wait(hold);
        self.acts.push(Act::Power(Power::Run));
    }

    /// Some inputs, one at least, are not moved by what follows; one of the others changes and stays so for a hold time, whatever room
    /// there is.
    fn leave_some(&mut self) {
        self.rng.shuffle(&mut self.moved);
        let moving = self.rng.usize(1..self.moved.len().max(2));
        self.moved.truncate(moving);
        let (Some(input), false) = (self.any_moved(), self.of.holds.is_empty()) else { return };
        let value = self.other(input);
        self.give(input, value);
        let Some(hold) = self.any_hold() else { return };
        self.room += hold;
        self.wait(hold);
    }

    /// A value for an input that has another one now, if it is BOOL; else any.
    fn other(&mut self, input: usize) -> i64 {
        if let Input::Bool = self.of.inputs[input] { 1 - self.now[input] } else { self.of.value(&mut self.rng, input) }
    }

    /// One of the times that something is held for, in scans.
    fn any_hold(&mut self) -> Option<u64> {
        (!self.of.holds.is_empty()).then(|| self.of.holds[self.rng.usize(0..self.of.holds.len())])
    }

    fn any_moved(&mut self) -> Option<usize> {
        (!self.moved.is_empty()).then(|| self.moved[self.rng.usize(0..self.moved.len())])
    }

    fn deliberate(&mut self) {
        let actions = self.rng.u64(2..40);
        self.some(actions);
    }

    /// Some deliberate actions.
    pub(in crate::twin) fn some(&mut self, actions: u64) {
        for _ in 0..actions {
            if self.at >= self.room {
                return;
            }
            let Some(input) = self.any_moved() else {
                let hold = self.hold();
                self.maybe_power(6);
                self.wait(hold);
                continue;
            };
            match (&self.of.inputs[input], self.rng.u8(0..10)) {
                (Input::Bool, 0..=3) => self.press(&[input], 1),
                (Input::Bool, 4 | 5) => {
                    let presses = self.presses();
                    self.press(&[input], presses);
                }
                (Input::Bool, 6) => {
                    // Held until something else ends it, or nothing does.
                    let value = 1 - self.now[input];
                    self.give(input, value);
                }
                (_, 7) => self.together(),
                (_, 8) => self.interrupt(),
                _ => {
                    let value = self.of.value(&mut self.rng, input);
                    self.give(input, value);
                }
            }
            let hold = self.hold();
            self.wait(hold);
        }
    }

    fn presses(&mut self) -> u64 {
        if !self.of.many.is_empty() && self.rng.u8(0..40) == 0 {
            return self.of.many[self.rng.usize(0..self.of.many.len())];
        }
        match self.of.counts.len() {
            0 => self.rng.u64(2..6),
            n => self.of.counts[self.rng.usize(0..n)],
        }
    }

    /// Power off and on, or STOP and RUN a little later.
    fn interrupt(&mut self) {
        match self.rng.u8(0..8) {
            0..=3 => self.acts.push(Act::Power(Power::Cycle)),
            4 => {
                self.acts.push(Act::Power(Power::Stop));
                let hold = self.rng.u64(1..6);
                self.wait(hold);
                self.acts.push(Act::Power(Power::Run));
            }
            _ => {}
        }
    }

    /// Presses and releases, all together and each for a hold time.
    pub(in crate::twin) fn press(&mut self, inputs: &[usize], times: u64) {
        let (down, up) = match times {
            1 => (self.hold(), 1),
            2..=60 => (self.rng.u64(1..4), self.rng.u64(1..4)),
            _ => (1, 1),
        };
        let now = &self.now;
        let set = |on: bool| {
            let value = move |rest: i64| if on { i64::from(rest == 0) } else { rest };
            inputs.iter().map(move |input| Act::Set(Change { input: *input, value: value(now[*input]) }))
        };
        let body: Vec<Act> = set(true).chain([Act::Wait(down)]).chain(set(false)).chain([Act::Wait(up)]).collect();
        self.at += times * (down + up);
        if times == 1 {
            self.acts.extend(body);
        } else {
            self.acts.push(Act::Repeat(times, body));
        }
    }

    /// Several inputs change in the same scan.
    fn together(&mut self) {
        let several = self.rng.usize(2..5);
        for _ in 0..several {
            if let Some(input) = self.any_moved() {
                let value = self.other(input);
                self.give(input, value);
            }
        }
    }
}
