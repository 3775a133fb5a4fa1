//! A device beside its twin: what polling has seen of its inputs is given to the twin, and its outputs are held against what the
//! twin's could have been.
//!
//! Polling does not see when an input changed, only between which polls. So several copies of the twin run, each with its own
//! moments for what changed in between: as early as can be, as late as can be, and in between by chance. An output is
//! explained if one of them had its value within the window that scan, transmission and polling leave open. Where the copies part
//! from each other, polling was too slow to tell, and the verdict is undecided, never the same.

use super::codec::value;
use super::numbers::{Number, Numbers, Table};
use crate::lang::statement_at;
use crate::model::{Duration, Instant, ScanNumber, Value, format_duration};
use crate::scan::{Controller, Direction, PointId, Seen, Trace};
use crate::twin::{Coverage, Version};
use fastrand::Rng;
use serde::Serialize;
use std::collections::{HashMap, VecDeque};

/// Copies of the twin that run.
const COPIES: usize = 8;

/// Most polls that are kept to be written down.
const MOST_KEPT: usize = 200_000;

/// What can be read of a device.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Poll {
    /// The table.
    pub table: Table,
    /// The first number.
    pub first: u16,
    /// How many.
    pub count: u16,
}

/// What a poll has read, in the order of [`Shadow::polls`]: words, or bits as words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Sample {
    /// When the reading was done, on the caller's clock.
    pub at: Duration,
    /// How long it took.
    pub took: Duration,
    /// What was read.
    pub words: Vec<Vec<u16>>,
}

/// Why a device cannot be shadowed.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ShadowError {
    /// Nothing to hold against the twin.
    #[error("the program has no output that the protocol could show")]
    NoOutputs,
    /// An input that nobody could read.
    #[error("input `{0}` is a string, which the protocol does not show")]
    Unread(String),
}

/// An output that nothing the twin does explains.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Apart {
    /// The output.
    pub output: String,
    /// When, since the first poll.
    pub at: String,
    /// The poll, counted from 0.
    pub poll: usize,
    /// What the device showed.
    pub device: String,
    /// What the twin had in the window around it.
    pub twin: Vec<String>,
    /// The statement of the twin that wrote its value last, and its place.
    pub statement: Option<[String; 2]>,
}

/// What came of shadowing.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Shadowed {
    /// How many polls were judged.
    pub polls: usize,
    /// How long that was.
    pub span: String,
    /// Connections that were lost, and for how long nothing was seen.
    pub gaps: Vec<String>,
    /// Within which window outputs had to agree.
    pub window: String,
    /// The first thing that nothing explains, if that is sure.
    pub apart: Option<Apart>,
    /// Why it is undecided; nothing if it is not.
    pub unsure: Vec<String>,
    /// Inputs that never changed, so that what they do was not seen.
    pub still: Vec<String>,
    /// What was seen of the twin's logic.
    pub coverage: Coverage,
}

impl Shadowed {
    /// True if everything that was seen was explained, and polling could tell.
    #[must_use]
    pub fn is_same(&self) -> bool {
        self.apart.is_none() && self.unsure.is_empty() && self.polls > 0
    }
}

/// A copy of the twin with its own moments.
struct Copy {
    controller: Controller,
    /// Since when each output has had which value, the latest last.
    history: Vec<VecDeque<(Duration, Value)>>,
}

/// A device beside its twin.
pub struct Shadow<'v> {
    version: &'v Version,
    time: Duration,
    /// How far apart changes may be beside what polling leaves open.
    within: Duration,
    polls: Vec<Poll>,
    inputs: Vec<Number>,
    outputs: Vec<Number>,
    numbers: &'v Numbers,
    copies: Vec<Copy>,
    rng: Rng,
    scans: i64,
    last: Option<(Duration, Vec<Value>)>,
    /// What was read, to be judged once the twin has run beyond it.
    due: VecDeque<(usize, Duration, Vec<Value>)>,
    kept: Vec<(Duration, Vec<Value>, Vec<Value>)>,
    longest: Duration,
    slowest: Duration,
    judged: usize,
    gaps: Vec<String>,
    apart: Option<Apart>,
    unsure: Vec<String>,
    changed: Vec<bool>,
    /// Of each input whether it changed at the last poll.
    restless: Vec<bool>,
    /// Whether the time to the next poll is that of a gap.
    long: bool,
    /// After a gap or where copies have parted nothing that differs is sure.
    blurred: bool,
    began: Duration,
}

impl std::fmt::Debug for Shadow<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Shadow").field("judged", &self.judged).field("apart", &self.apart).finish_non_exhaustive()
    }
}

impl<'v> Shadow<'v> {
    /// A twin at power-up beside a device, whose scans take `time`; its outputs may be `within` so much of the twin's, beside
    /// what polling itself leaves open.
    ///
    /// # Errors
    /// [`ShadowError`] if there is nothing that could be read.
    pub fn new(
        version: &'v Version,
        numbers: &'v Numbers,
        time: Duration,
        within: Duration,
    ) -> Result<Self, ShadowError> {
        let machine = version.machine();
        let of = |direction: Direction| -> Vec<Number> {
            let is = |number: &&Number| machine.point(number.point).direction == direction;
            numbers.list().iter().filter(is).cloned().collect()
        };
        let (inputs, outputs) = (of(Direction::Input), of(Direction::Output));
        if outputs.is_empty() {
            return Err(ShadowError::NoOutputs);
        }
        let read = |point: PointId| inputs.iter().any(|number| number.point == point);
        if let Some((_, point)) = machine.points_of(Direction::Input).find(|(id, _)| !read(*id) && machine.reads(*id)) {
            return Err(ShadowError::Unread(point.name.clone()));
        }
        let copies = (0..COPIES)
            .map(|copy| {
                let mut controller = Controller::new(machine);
                match copy {
                    0 => controller.look(Seen::new(machine.operations())),
                    1 => controller.note_writers(),
                    _ => {}
                }
                Copy { controller, history: vec![VecDeque::new(); outputs.len()] }
            })
            .collect();
        let changed = vec![false; inputs.len()];
        Ok(Shadow {
            polls: requests(inputs.iter().chain(&outputs)),
            version,
            time,
            within,
            restless: changed.clone(),
            changed,
            inputs,
            outputs,
            numbers,
            copies,
            rng: Rng::with_seed(1),
            scans: 0,
            last: None,
            due: VecDeque::new(),
            kept: Vec::new(),
            longest: Duration::ZERO,
            slowest: Duration::ZERO,
            judged: 0,
            gaps: Vec::new(),
            apart: None,
            unsure: Vec::new(),
            blurred: false,
            long: false,
            began: Duration::ZERO,
        })
    }

    /// What is to be read in each poll, in this order.
    #[must_use]
    pub fn polls(&self) -> &[Poll] {
        &self.polls
    }

    /// How many polls were judged so far.
    #[must_use]
    pub fn judged(&self) -> usize {
        self.judged
    }

    /// Whether something is known to differ.
    #[must_use]
    pub fn apart(&self) -> Option<&Apart> {
        self.apart.as_ref()
    }

    /// Nothing was seen for so long that whatever happened meanwhile is not known.
    pub fn gap(&mut self, why: &str, lasted: Duration) {
        self.gaps.push(format!("{why}, {}", format_duration(lasted)));
        // What lasts no longer than a few polls only makes the window wider.
        let usual = self.within.max(self.time);
        if lasted.nanos() > usual.nanos().saturating_mul(5) {
            self.blurred = true;
            self.long = true;
        }
    }

    /// Takes in what a poll has read.
    pub fn poll(&mut self, sample: &Sample) {
        let (inputs, outputs) = (self.values(sample, &self.inputs), self.values(sample, &self.outputs));
        self.slowest = self.slowest.max(sample.took);
        if self.kept.len() < MOST_KEPT {
            self.kept.push((sample.at, inputs.clone(), outputs.clone()));
        }
        match self.last.take() {
            None => {
                self.began = sample.at;
                for copy in &mut self.copies {
                    give(&mut copy.controller, &self.inputs, &inputs);
                }
            }
            Some((before, given)) => {
                if !std::mem::take(&mut self.long) {
                    self.longest = self.longest.max(sample.at.minus(before));
                }
                self.note_changes(&given, &inputs);
                self.run(sample.at, &given, &inputs);
            }
        }
        let number = self.judged + self.due.len();
        self.due.push_back((number, sample.at, outputs));
        self.last = Some((sample.at, inputs));
        self.judge(false);
    }

    fn values(&self, sample: &Sample, numbers: &[Number]) -> Vec<Value> {
        let mut words: HashMap<(Table, u16), u16> = HashMap::new();
        for (poll, read) in self.polls.iter().zip(&sample.words) {
            words.extend((poll.first..).zip(read).map(|(number, word)| ((poll.table, number), *word)));
        }
        let read = |number: &Number| {
            let own: Vec<u16> = number.run().filter_map(|n| words.get(&(number.table, n)).copied()).collect();
            let ty = &self.version.machine().point(number.point).ty;
            // A value that the type has not is shown as what it is nearest to: nothing.
            value(&own, ty, self.numbers.order).unwrap_or_else(|| Value::Text(format!("{own:?}")))
        };
        numbers.iter().map(read).collect()
    }

    /// An input that changes at every poll changes faster than that, perhaps.
    fn note_changes(&mut self, before: &[Value], now: &[Value]) {
        for at in 0..now.len() {
            let changes = before[at] != now[at];
            let is_bool = matches!(now[at], Value::Bool(_));
            if changes && self.restless[at] && is_bool && !self.blurred {
                self.blurred = true;
                let name = &self.inputs[at].name;
                self.unsure
                    .push(format!("{name} changes from poll to poll, and may change faster than is seen: poll faster"));
            }
            self.changed[at] |= changes;
            self.restless[at] = changes;
        }
    }

    /// Runs the copies up to a moment, each with its own moments for what has changed.
    fn run(&mut self, until: Duration, before: &[Value], now: &[Value]) {
        let from = self.last_run();
        let length = until.minus(from).nanos().max(1);
        let keep = self.window().plus(self.window());
        for (number, copy) in self.copies.iter_mut().enumerate() {
            let moments: Vec<Duration> = (0..now.len())
                .map(|_| match number {
                    0 => from,
                    1 => until,
                    _ => from.plus(Duration::from_nanos(self.rng.i64(0..length))),
                })
                .collect();
            let mut scan = self.scans;
            loop {
                let at = self.began.plus(Duration::from_nanos(self.time.nanos().saturating_mul(scan)));
                if at > until {
                    break;
                }
                for (at_input, value) in now.iter().enumerate() {
                    if before[at_input] != *value && moments[at_input] <= at {
                        give(&mut copy.controller, &self.inputs[at_input..=at_input], std::slice::from_ref(value));
                    }
                }
                copy.controller.scan(Instant(at.minus(self.began)));
                for (output, history) in self.outputs.iter().zip(&mut copy.history) {
                    let value = copy.controller.get(output.point);
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
            give(&mut copy.controller, &self.inputs, now);
        }
        self.scans = until.minus(self.began).nanos() / self.time.nanos().max(1) + 1;
    }

    fn last_run(&self) -> Duration {
        self.began.plus(Duration::from_nanos(self.time.nanos().saturating_mul(self.scans - 1).max(0)))
    }

    /// How far apart the device's outputs and the twin's may be: a scan of each, what a poll takes, and what was allowed.
    fn window(&self) -> Duration {
        self.time.plus(self.time).plus(self.slowest).plus(self.within.max(self.longest))
    }

    /// Judges the polls around which the twin has run; at the end all of them.
    fn judge(&mut self, all: bool) {
        let window = self.window();
        while let Some((number, at, _)) = self.due.front() {
            let (number, at) = (*number, *at);
            let is_over = self.last.as_ref().is_some_and(|(now, _)| at.plus(window) <= *now);
            if !(is_over || all) || self.apart.is_some() {
                break;
            }
            let Some((_, _, outputs)) = self.due.pop_front() else { break };
            // Before a scan has run after the first poll nobody knows what the outputs are.
            if at.minus(self.began) > window {
                outputs
                    .iter()
                    .enumerate()
                    .for_each(|(output, value)| self.judge_output(number, at, output, value, window));
            }
            self.judged += 1;
        }
    }

    fn judge_output(&mut self, poll: usize, at: Duration, output: usize, device: &Value, window: Duration) {
        if self.apart.is_some() {
            return;
        }
        let around = |copy: &Copy| within(&copy.history[output], at, window);
        let all: Vec<Vec<Value>> = self.copies.iter().map(around).collect();
        // Two copies that have no value in common in a window are not the same any more, for all that was seen.
        let parted = all.iter().any(|a| all.iter().any(|b| !a.iter().any(|value| b.contains(value))));
        if parted {
            self.blurred = true;
        }
        let name = &self.outputs[output].name;
        if parted && !self.unsure.iter().any(|said| said.starts_with(&format!("{name} after"))) {
            let (name, when) = (&self.outputs[output].name, format_duration(at.minus(self.began)));
            self.unsure
                .push(format!("{name} after {when}: it hangs on when, between two polls, inputs changed: poll faster"));
        }
        if all.iter().flatten().any(|value| value == device) {
            return;
        }
        let mut twin: Vec<String> = all.iter().flatten().map(Value::readable).collect();
        twin.sort();
        twin.dedup();
        let point = self.outputs[output].point;
        let project = self.version.checked().project();
        let statement =
            self.copies[1].controller.writer(point).map(|span| [project.place(span), statement_at(project, span)]);
        let apart = Apart {
            output: self.outputs[output].name.clone(),
            at: format_duration(at.minus(self.began)),
            poll,
            device: device.readable(),
            twin,
            statement,
        };
        if self.blurred {
            let Apart { output, at, device, twin, .. } = &apart;
            let why = format!(
                "{output} was {device} after {at}, where the twin had {}; what went before was not seen whole",
                twin.join(" or ")
            );
            if !self.unsure.iter().any(|said| said.starts_with(&format!("{output} was"))) {
                self.unsure.push(why);
            }
            return;
        }
        self.apart = Some(apart);
    }

    /// What was read, as a trace: inputs as scenarios take them, and the device's outputs.
    #[must_use]
    pub fn trace(&self) -> Trace {
        let names = self.inputs.iter().chain(&self.outputs).map(|number| number.name.clone()).collect();
        let mut trace = Trace::of(names);
        for (number, (at, inputs, outputs)) in self.kept.iter().enumerate() {
            let at = Instant(at.minus(self.began));
            trace.rows.push((ScanNumber(number as u64), at, inputs.iter().chain(outputs).cloned().collect()));
        }
        trace
    }

    /// The verdict on what was seen.
    #[must_use]
    pub fn finish(mut self) -> Shadowed {
        // The twin runs on a little, so that the last polls can be judged as well.
        if let Some((now, given)) = self.last.clone() {
            self.run(now.plus(self.window()), &given, &given);
        }
        self.judge(true);
        let seen = self.copies[0].controller.seen();
        if self.judged == 0 {
            self.unsure.push("nothing was read".to_string());
        }
        let still = self.inputs.iter().zip(&self.changed).filter(|(_, changed)| !**changed);
        Shadowed {
            polls: self.judged,
            span: format_duration(self.last.as_ref().map_or(Duration::ZERO, |(at, _)| at.minus(self.began))),
            window: format_duration(self.window()),
            still: still.map(|(number, _)| number.name.clone()).collect(),
            coverage: Coverage::of(self.version, &seen, 0),
            gaps: self.gaps,
            apart: self.apart,
            unsure: self.unsure,
        }
    }
}

fn give(controller: &mut Controller, numbers: &[Number], values: &[Value]) {
    for (number, value) in numbers.iter().zip(values) {
        // What the type has not cannot be given; the twin keeps what it had.
        let _ = controller.set(number.point, value);
    }
}

/// The values that an output had between two moments around another.
fn within(history: &VecDeque<(Duration, Value)>, at: Duration, window: Duration) -> Vec<Value> {
    let (from, to) = (at.minus(window), at.plus(window));
    let mut out: Vec<Value> = Vec::new();
    for (number, (since, value)) in history.iter().enumerate() {
        let until = history.get(number + 1).map(|(next, _)| *next);
        if *since <= to && until.is_none_or(|until| until >= from) && !out.contains(value) {
            out.push(value.clone());
        }
    }
    out
}

/// As few requests as read some numbers, and nothing else.
fn requests<'n>(numbers: impl Iterator<Item = &'n Number>) -> Vec<Poll> {
    let mut all: Vec<&Number> = numbers.collect();
    all.sort_by_key(|number| (number.table, number.number));
    let mut out: Vec<Poll> = Vec::new();
    for number in all {
        let most = match number.table {
            Table::Coils | Table::DiscreteInputs => 2000,
            Table::HoldingRegisters | Table::InputRegisters => 125,
        };
        match out.last_mut() {
            Some(poll)
                if poll.table == number.table
                    && poll.first + poll.count == number.number
                    && poll.count + number.count <= most =>
            {
                poll.count += number.count;
            }
            _ => out.push(Poll { table: number.table, first: number.number, count: number.count }),
        }
    }
    out
}
