//! A device beside its twin: what polling has seen of its inputs is given to the twin, and its outputs are held against what the
//! twin's could have been.
//!
//! Polling does not see when an input changed, only between which polls. So several copies of the twin run, each with its own
//! moments for what changed in between: as early as can be, as late as can be, and in between by chance. An output is
//! explained by a copy that had its value within the window that scan, transmission and polling leave open; a copy that does not
//! explain what was seen goes on as one that does. Where none is left, what went before is run again in many other ways. Only
//! if none of them explains it, and inputs were still around then, the device is different. Where what copies remember stays
//! apart, or an input may have changed faster than it was seen, the verdict is undecided, never the same.

mod copy;
mod judge;

use super::codec::{set_line, value};
use super::numbers::{Number, Numbers, Table};
use crate::model::{Duration, ScanNumber, Value, format_duration};
use crate::scan::{Controller, Direction, PointId, Seen, Trace};
use crate::twin::{Coverage, Version};
use copy::{Copy, Ground, Moment, Stretch};
use fastrand::Rng;
use judge::{Due, Hidden, Mark};
use serde::Serialize;
use std::collections::{HashMap, VecDeque};

/// Copies of the twin that run. The first notes what was seen of its logic, the second which statement wrote what.
const COPIES: usize = 16;

/// A time of so many polls in which nothing is seen is one between two polls; a longer one is not.
const SHORT: i64 = 5;

/// A BOOL input that keeps a value for fewer polls may have had another in between.
const LEAST_HELD: i64 = 3;

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

/// What is known of the device when shadowing begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Begin {
    /// It has just been switched on, with the inputs of the first poll: what it remembers is known.
    PowerUp,
    /// It has been running: an output is judged from when it agreed for the first time, and one that differs then may do so
    /// because the device remembered something else.
    Running,
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
    /// In how many ways inputs were moved between the polls, none of which gives what the device showed.
    pub ways: u64,
}

/// What came of shadowing.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Shadowed {
    /// What was known of the device at the beginning.
    pub begin: Begin,
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
    /// The polls around that: the names, then the values of each.
    pub around: Vec<Vec<String>>,
    /// Why it is undecided; nothing if it is not.
    pub unsure: Vec<String>,
    /// Inputs that never changed, so that what they do was not seen.
    pub still: Vec<String>,
    /// Points that no address gives a number: where they were looked for was chosen here.
    pub chosen: Vec<String>,
    /// What was seen of the twin's logic.
    pub coverage: Coverage,
}

impl Apart {
    /// That it differs, or what else may be.
    fn or(&self, doubt: &str) -> String {
        let Apart { output, at, device, twin, .. } = self;
        format!("{output} was {device} after {at}, where the twin had {}: it differs, or {doubt}", twin.join(" or "))
    }
}

impl Shadowed {
    /// True if everything that was seen was explained, and polling could tell.
    #[must_use]
    pub fn is_same(&self) -> bool {
        self.apart.is_none() && self.unsure.is_empty() && self.polls > 0
    }
}

/// What a poll has seen.
struct Kept {
    at: Duration,
    inputs: Vec<Value>,
    outputs: Vec<Value>,
}

/// A device beside its twin.
pub struct Shadow<'v> {
    version: &'v Version,
    numbers: &'v Numbers,
    begin: Begin,
    ground: Ground,
    /// How far apart changes may be beside what polling leaves open.
    within: Duration,
    polls: Vec<Poll>,
    copies: Vec<Copy>,
    rng: Rng,
    /// The next scan of the copies.
    scan: i64,
    kept: Vec<Kept>,
    /// Polls that were not kept, as there were too many.
    dropped: u64,
    /// What was read, to be judged once the twin has run beyond it.
    due: VecDeque<Due>,
    /// Copies as they were some polls ago, the oldest first.
    marks: VecDeque<Mark>,
    hidden: Hidden,
    /// Of each output whether it has agreed so far.
    in_step: Vec<bool>,
    longest: Duration,
    slowest: Duration,
    judged: usize,
    gaps: Vec<String>,
    apart: Option<Apart>,
    unsure: Vec<String>,
    /// When an input changed last: the polls before and behind.
    moved: VecDeque<[Duration; 2]>,
    changed: Vec<bool>,
    /// Of each input when it changed last.
    moved_at: Vec<Option<Duration>>,
    /// What nothing explains, while inputs moved.
    doubted: Option<Apart>,
    /// Whether the time to the next poll is that of a gap.
    long: bool,
    /// What went before was not seen whole, so that nothing that differs is sure.
    blurred: bool,
    rescues: u32,
}

impl std::fmt::Debug for Shadow<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Shadow").field("judged", &self.judged).field("apart", &self.apart).finish_non_exhaustive()
    }
}

impl<'v> Shadow<'v> {
    /// A twin at power-up beside a device, whose scans take `time`; its outputs may be `within` so much of the twin's, beside
    /// what polling itself leaves open. What is known of the device at the beginning decides what can be claimed.
    ///
    /// # Errors
    /// [`ShadowError`] if there is nothing that could be read.
    pub fn new(
        version: &'v Version,
        numbers: &'v Numbers,
        begin: Begin,
        [time, within]: [Duration; 2],
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
            numbers,
            begin,
            in_step: vec![begin == Begin::PowerUp; outputs.len()],
            within,
            moved_at: vec![None; inputs.len()],
            doubted: None,
            changed,
            ground: Ground { inputs, outputs, time, began: Duration::ZERO },
            copies,
            rng: Rng::with_seed(1),
            scan: 0,
            kept: Vec::new(),
            dropped: 0,
            due: VecDeque::new(),
            marks: VecDeque::new(),
            hidden: Hidden::of(machine),
            longest: Duration::ZERO,
            slowest: Duration::ZERO,
            judged: 0,
            gaps: Vec::new(),
            apart: None,
            unsure: Vec::new(),
            moved: VecDeque::new(),
            long: false,
            blurred: false,
            rescues: 0,
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

    /// For some time nothing was seen. If it was longer than a few polls, what happened meanwhile is not known.
    pub fn gap(&mut self, why: &str, lasted: Duration) {
        self.gaps.push(format!("{why}, {}", whole(lasted)));
        self.long = true;
        let usual = self.longest.max(self.ground.time);
        self.blurred |= lasted.nanos() > usual.nanos().saturating_mul(SHORT);
    }

    /// Takes in what a poll has read.
    pub fn poll(&mut self, sample: &Sample) {
        let inputs = self.values(sample, &self.ground.inputs);
        let outputs = self.values(sample, &self.ground.outputs);
        let at = sample.at;
        self.slowest = self.slowest.max(sample.took);
        let before = self.kept.last().map(|kept| (kept.at, kept.inputs.clone()));
        match before {
            None => {
                self.ground.began = at;
                self.copies.iter_mut().for_each(|copy| copy.give(&self.ground, &inputs));
            }
            Some((since, given)) => {
                if !std::mem::take(&mut self.long) {
                    self.longest = self.longest.max(at.minus(since));
                }
                self.note_changes([since, at], &given, &inputs);
                self.run(at, &given, &inputs);
            }
        }
        self.due.push_back(Due { poll: self.judged + self.due.len(), at });
        // What is beyond any way back is kept only to be written down.
        if self.kept.len() >= MOST_KEPT {
            self.kept.drain(..MOST_KEPT / 2);
            self.dropped += MOST_KEPT as u64 / 2;
            self.marks.clear();
        }
        self.kept.push(Kept { at, inputs, outputs });
        self.judge();
        self.mark();
    }

    fn values(&self, sample: &Sample, numbers: &[Number]) -> Vec<Value> {
        let mut words: HashMap<(Table, u16), u16> = HashMap::new();
        for (poll, read) in self.polls.iter().zip(&sample.words) {
            words.extend((poll.first..).zip(read).map(|(number, word)| ((poll.table, number), *word)));
        }
        let read = |number: &Number| {
            let own: Vec<u16> = number.run().filter_map(|n| words.get(&(number.table, n)).copied()).collect();
            let ty = &self.version.machine().point(number.point).ty;
            // What the type has not is shown as the words it was, which is no value of the twin.
            value(&own, ty, self.numbers.order).unwrap_or_else(|| Value::Text(format!("{own:?}")))
        };
        numbers.iter().map(read).collect()
    }

    /// Notes when inputs moved. A BOOL that keeps its values for few polls has others in between, perhaps.
    fn note_changes(&mut self, between: [Duration; 2], before: &[Value], now: &[Value]) {
        for at in 0..now.len() {
            let changes = before[at] != now[at];
            if !changes {
                continue;
            }
            let held = self.moved_at[at].replace(between[1]).map(|since| between[1].minus(since));
            let least = Duration::from_nanos(self.longest.nanos().saturating_mul(LEAST_HELD));
            if matches!(now[at], Value::Bool(_)) && held.is_some_and(|held| held < least) && !self.blurred {
                self.blurred = true;
                let name = &self.ground.inputs[at].name;
                self.unsure.push(format!("{name} moves nearly as fast as it is polled, or faster: poll faster"));
            }
            self.changed[at] = true;
        }
        if before != now {
            self.moved.push_back(between);
            while self.moved.len() > 64 {
                self.moved.pop_front();
            }
        }
    }

    /// Runs the copies up to a moment, each with its own moments for what has changed.
    fn run(&mut self, until: Duration, before: &[Value], now: &[Value]) {
        let oldest = self.due.front().map_or(until, |due| due.at);
        let keep = self.kept_for(oldest, until);
        let stretch = Stretch { before, now, until, scan: self.scan, keep };
        for (number, copy) in self.copies.iter_mut().enumerate() {
            let mut own = self.rng.fork();
            copy.run(&self.ground, stretch, |value| Moment::of_copy(number, value, &mut own), &mut self.rng);
        }
        self.scan = self.ground.scan_after(until);
    }

    /// For how long what an output was counts, while a poll is to be judged: after a gap that was long ago.
    fn kept_for(&self, oldest: Duration, until: Duration) -> Duration {
        self.window().plus(self.window()).plus(until.minus(oldest))
    }

    /// How far apart the device's outputs and the twin's may be: a scan of each, what a poll takes, the time between two polls,
    /// and what was allowed.
    fn window(&self) -> Duration {
        self.ground.time.plus(self.ground.time).plus(self.slowest).plus(self.longest).plus(self.within)
    }

    /// What was read, as a trace: inputs as scenarios take them, and the device's outputs.
    #[must_use]
    pub fn trace(&self) -> Trace {
        let names = self.ground.inputs.iter().chain(&self.ground.outputs).map(|number| number.name.clone()).collect();
        let mut trace = Trace::of(names);
        for (number, kept) in self.kept.iter().enumerate() {
            let at = crate::model::Instant(kept.at.minus(self.ground.began));
            let number = ScanNumber(self.dropped + number as u64);
            trace.push(number, at, kept.inputs.iter().chain(&kept.outputs).cloned());
        }
        trace
    }

    /// What the inputs were seen to do, as a scenario: they change when the poll behind saw it. `None` if there were too many
    /// polls to keep.
    #[must_use]
    pub fn scenario(&self) -> Option<String> {
        let first = self.kept.first().filter(|_| self.dropped == 0)?;
        let mut out = String::new();
        let set = |(number, value): (&Number, &Value)| set_line(&number.name, value);
        out.extend(self.ground.inputs.iter().zip(&first.inputs).map(set));
        let mut since = first.at;
        for two in self.kept.windows(2).filter(|two| two[0].inputs != two[1].inputs) {
            out.push_str(&format!("wait {}\n", whole(two[1].at.minus(since))));
            since = two[1].at;
            let now = self.ground.inputs.iter().zip(&two[1].inputs);
            out.extend(now.zip(&two[0].inputs).filter(|((_, now), before)| now != before).map(|(now, _)| set(now)));
        }
        // As long as a poll more, so that what changed last does something.
        let last = self.kept.last().map_or(since, |kept| kept.at);
        out.push_str(&format!("wait {}\n", whole(last.minus(since).plus(self.longest))));
        Some(out)
    }

    /// The polls around what nothing explains; of many points those that moved there.
    fn around(&self, apart: &Apart) -> Vec<Vec<String>> {
        // Of what was doubted long ago the polls are not kept any more.
        let Some(at) = apart.poll.checked_sub(self.dropped as usize) else { return Vec::new() };
        let polls = &self.kept[at.saturating_sub(5)..(at + 3).min(self.kept.len())];
        let all = |kept: &Kept| -> Vec<Value> { kept.inputs.iter().chain(&kept.outputs).cloned().collect() };
        let rows: Vec<Vec<Value>> = polls.iter().map(all).collect();
        let names: Vec<&str> =
            self.ground.inputs.iter().chain(&self.ground.outputs).map(|number| number.name.as_str()).collect();
        let moves = |point: &usize| rows.iter().any(|row| row[*point] != rows[0][*point]);
        let shown: Vec<usize> = (0..names.len())
            .filter(|point| names.len() <= 8 || moves(point) || names[*point] == apart.output)
            .collect();
        let head = std::iter::once("after").chain(shown.iter().map(|point| names[*point]));
        let mut out = vec![head.map(str::to_string).collect::<Vec<_>>()];
        for (kept, row) in polls.iter().zip(&rows) {
            let time = std::iter::once(whole(kept.at.minus(self.ground.began)));
            out.push(time.chain(shown.iter().map(|point| row[*point].readable())).collect());
        }
        out
    }

    /// The verdict on what was seen.
    #[must_use]
    pub fn finish(mut self) -> Shadowed {
        // The twin runs on a little, so that the last polls can be judged as well.
        if let Some((at, given)) = self.kept.last().map(|kept| (kept.at, kept.inputs.clone())) {
            self.run(at.plus(self.window()), &given, &given);
        }
        self.judge();
        let seen = self.copies[0].controller.seen();
        if let (Some(doubted), None) = (self.doubted.take(), &self.apart) {
            self.unsure.push(doubted.or("inputs moved faster than was seen"));
        }
        for (number, _) in self.ground.outputs.iter().zip(&self.in_step).filter(|(_, in_step)| !**in_step) {
            self.unsure.push(format!("{} never agreed", number.name));
        }
        if self.judged == 0 {
            self.unsure.push("nothing was read".to_string());
        }
        let around = self.apart.as_ref().map_or(Vec::new(), |apart| self.around(apart));
        let all = self.ground.inputs.iter().chain(&self.ground.outputs);
        let chosen = all.filter(|number| number.placed).map(|number| number.name.clone()).collect();
        let still = self.ground.inputs.iter().zip(&self.changed).filter(|(_, changed)| !**changed);
        Shadowed {
            begin: self.begin,
            polls: self.judged,
            span: whole(self.kept.last().map_or(Duration::ZERO, |kept| kept.at.minus(self.ground.began))),
            window: whole(self.window()),
            still: still.map(|(number, _)| number.name.clone()).collect(),
            coverage: Coverage::of(self.version, &seen, 0),
            chosen,
            around,
            gaps: self.gaps,
            apart: self.apart,
            unsure: self.unsure,
        }
    }
}

/// A time in whole milliseconds: more than that nobody has measured.
fn whole(time: Duration) -> String {
    format_duration(Duration::from_millis(time.millis()))
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
