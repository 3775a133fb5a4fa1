//! A copy of the twin that runs with its own moments for what has changed between two polls.

use crate::model::{Duration, Instant, Value};
use crate::protocol::Number;
use crate::scan::Controller;
use fastrand::Rng;
use std::collections::VecDeque;

/// A copy of the twin.
pub(super) struct Copy {
    pub(super) controller: Controller,
    /// Since when each output has had which value, the latest last.
    pub(super) history: Vec<VecDeque<(Duration, Value)>>,
}

/// What all copies share.
pub(super) struct Ground {
    pub(super) inputs: Vec<Number>,
    pub(super) outputs: Vec<Number>,
    /// Time of a scan.
    pub(super) time: Duration,
    /// When the first poll was.
    pub(super) began: Duration,
}

/// The time between two polls.
#[derive(Clone, Copy)]
pub(super) struct Stretch<'s> {
    /// Inputs as the poll before saw them, and as the one behind did.
    pub(super) before: &'s [Value],
    pub(super) now: &'s [Value],
    pub(super) until: Duration,
    /// The first scan in it.
    pub(super) scan: i64,
    /// For how long what an output was counts.
    pub(super) keep: Duration,
}

impl Ground {
    pub(super) fn began_at(&self, scan: i64) -> Duration {
        self.began.plus(Duration::from_nanos(self.time.nanos().saturating_mul(scan)))
    }

    /// The first scan after a moment.
    pub(super) fn scan_after(&self, moment: Duration) -> i64 {
        moment.minus(self.began).nanos() / self.time.nanos().max(1) + 1
    }
}

impl Copy {
    pub(super) fn fork(&self) -> Copy {
        Copy { controller: self.controller.fork(), history: self.history.clone() }
    }

    /// Becomes as another is, but for what watches it.
    pub(super) fn become_as(&mut self, other: &Copy) {
        self.controller.restore(&other.controller.save());
        self.history.clone_from(&other.history);
    }

    pub(super) fn give(&mut self, ground: &Ground, values: &[Value]) {
        for (number, value) in ground.inputs.iter().zip(values) {
            // What the type has not cannot be given; the twin keeps what it had.
            let _ = self.controller.set(number.point, value);
        }
    }

    /// Runs up to a poll; each input that has changed does so at a moment of its own.
    pub(super) fn run(
        &mut self,
        ground: &Ground,
        stretch: Stretch<'_>,
        mut moment: impl FnMut(&Value) -> Moment,
        rng: &mut Rng,
    ) {
        let Stretch { before, now, until, scan: first, keep } = stretch;
        let from = ground.began_at(first - 1);
        let length = until.minus(from).nanos().max(1);
        let mut due: Vec<(usize, Duration)> = Vec::new();
        for (at, value) in now.iter().enumerate().filter(|(at, value)| before[*at] != **value) {
            let moment = match moment(value) {
                Moment::Early => from,
                Moment::Late => until,
                Moment::Between => from.plus(Duration::from_nanos(rng.i64(0..length))),
            };
            due.push((at, moment));
        }
        let mut scan = first;
        loop {
            let at = ground.began_at(scan);
            if at > until {
                break;
            }
            due.retain(|(input, moment)| {
                if *moment <= at {
                    let _ = self.controller.set(ground.inputs[*input].point, &now[*input]);
                }
                *moment > at
            });
            self.controller.scan(Instant(at.minus(ground.began)));
            for (output, history) in ground.outputs.iter().zip(&mut self.history) {
                let value = self.controller.get(output.point);
                if history.back().is_none_or(|(_, last)| *last != value) {
                    history.push_back((at, value));
                }
                // Of what is older than any window only the last counts.
                while history.get(1).is_some_and(|(since, _)| since.plus(keep) < at) {
                    history.pop_front();
                }
            }
            scan += 1;
        }
        // Whatever has changed has done so by now.
        self.give(ground, now);
    }

    /// The values that an output had in a window around a moment.
    pub(super) fn within(&self, output: usize, at: Duration, window: Duration) -> Vec<Value> {
        let (from, to) = (at.minus(window), at.plus(window));
        let history = &self.history[output];
        let mut out: Vec<Value> = Vec::new();
        for (number, (since, value)) in history.iter().enumerate() {
            let until = history.get(number + 1).map(|(next, _)| *next);
            if *since <= to && until.is_none_or(|until| until >= from) && !out.contains(value) {
                out.push(value.clone());
            }
        }
        out
    }
}

/// When, between two polls, an input has changed.
#[derive(Clone, Copy)]
pub(super) enum Moment {
    Early,
    Late,
    /// By chance.
    Between,
}

impl Moment {
    /// That of a copy by its number: the first four take the ends, the others chance.
    pub(super) fn of_copy(number: usize, value: &Value, rng: &mut Rng) -> Moment {
        let rises = *value != Value::Bool(false);
        match (number, rises) {
            (0, _) | (2, true) | (3, false) => Moment::Early,
            (1, _) | (2, false) | (3, true) => Moment::Late,
            _ => Moment::by_chance(rng),
        }
    }

    /// The ends as often as all there is between.
    pub(super) fn by_chance(rng: &mut Rng) -> Moment {
        match rng.u8(..4) {
            0 => Moment::Early,
            1 => Moment::Late,
            _ => Moment::Between,
        }
    }
}
