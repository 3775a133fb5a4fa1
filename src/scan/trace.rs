//! What was seen, scan by scan: trace CSV.

use super::stimulus::{CONTROLLER, FORCE, Force, WRITE, force_text, write_text};
use super::{Controller, Direction, Machine, Moment, Point, PointId, ScanTime, Stimulus};
use crate::model::{Duration, Instant, ScanNumber, Value};
use crate::source::cells;
use std::collections::{BTreeSet, HashMap};

/// The values of some points after every scan. What stays as it is takes no room: of 10,000 points over an hour of scans those
/// are kept that change.
#[derive(Clone, Debug, PartialEq)]
pub struct Trace {
    /// Names of the columns.
    pub names: Vec<String>,
    /// Each row's scan, and when that began.
    scans: Vec<(ScanNumber, Instant)>,
    /// Of each column its values, each with the row from which it holds.
    columns: Vec<Vec<(usize, Value)>>,
    /// What happened to the controller before a scan, with the number of its row.
    pub powers: Vec<(usize, super::Power)>,
    /// What was forced before a scan, or no more, as the column `@force` says it, with the number of its row.
    pub forces: Vec<(usize, String)>,
    /// What was written before a scan, as the column `@write` says it, with the number of its row.
    pub writes: Vec<(usize, String)>,
}

impl Trace {
    /// Most rows of a trace that is recorded.
    pub const MOST_SCANS: usize = 10_000_000;

    /// Most values of one, some 2 GB; a value that stays as it was is held once.
    pub const MOST_VALUES: usize = 40_000_000;

    /// A trace without rows.
    #[must_use]
    pub fn of(names: Vec<String>) -> Trace {
        let columns = vec![Vec::new(); names.len()];
        Trace { names, scans: Vec::new(), columns, powers: Vec::new(), forces: Vec::new(), writes: Vec::new() }
    }

    /// Takes a row with the values in the order of the names, one for each, and says how many of them are not as they were.
    pub fn push(&mut self, scan: ScanNumber, at: Instant, values: impl IntoIterator<Item = Value>) -> usize {
        let row = self.scans.len();
        self.scans.push((scan, at));
        let mut changed = 0;
        for (column, value) in self.columns.iter_mut().zip(values) {
            if column.last().is_none_or(|(_, before)| !is_as(before, &value)) {
                column.push((row, value));
                changed += 1;
            }
        }
        changed
    }

    /// Each row's scan, and when that began.
    #[must_use]
    pub fn scans(&self) -> &[(ScanNumber, Instant)] {
        &self.scans
    }

    /// The values of a column, each with the row from which it holds; nothing if there is no such column.
    #[must_use]
    pub fn turns(&self, column: usize) -> &[(usize, Value)] {
        self.columns.get(column).map_or(&[], Vec::as_slice)
    }

    /// The value of a column in a row; `None` if the trace has no such place.
    #[must_use]
    pub fn at(&self, row: usize, column: usize) -> Option<&Value> {
        let turns = self.columns.get(column).filter(|_| row < self.scans.len())?;
        let later = turns.partition_point(|(from, _)| *from <= row);
        later.checked_sub(1).map(|turn| &turns[turn].1)
    }

    /// The values of a column, row by row; nothing if there is no such column.
    pub fn column(&self, column: usize) -> impl Iterator<Item = &Value> {
        let turns = self.turns(column);
        turns.iter().enumerate().flat_map(move |(number, (from, value))| {
            let end = turns.get(number + 1).map_or(self.scans.len(), |(next, _)| *next);
            std::iter::repeat_n(value, end - from)
        })
    }

    /// The rows: scan, its beginning, and the values in the order of the names.
    pub fn rows(&self) -> impl Iterator<Item = (ScanNumber, Instant, Vec<&Value>)> {
        let mut turns = vec![0; self.columns.len()];
        self.scans.iter().enumerate().map(move |(row, (scan, at))| {
            let values = self.columns.iter().zip(&mut turns).filter_map(|(column, turn)| {
                if column.get(*turn + 1).is_some_and(|(from, _)| *from == row) {
                    *turn += 1;
                }
                column.get(*turn).map(|(_, value)| value)
            });
            (*scan, *at, values.collect())
        })
    }

    /// The rows in which something happened or a value is another than in the row before, the first and the last of all.
    #[must_use]
    pub fn changes(&self) -> Trace {
        let happened = self.powers.iter().map(|(row, _)| *row).chain(self.texts().map(|(row, _)| *row));
        let turned = self.columns.iter().flatten().map(|(row, _)| *row);
        let ends = [0, self.scans.len().saturating_sub(1)];
        let seen: BTreeSet<usize> = turned.chain(happened).chain(ends).filter(|row| *row < self.scans.len()).collect();
        let kept: Vec<usize> = seen.into_iter().collect();
        let new = |row: &usize| kept.binary_search(row).unwrap_or(kept.len());
        let moved = |list: &[(usize, String)]| list.iter().map(|(row, text)| (new(row), text.clone())).collect();
        let column = |list: &Vec<(usize, Value)>| list.iter().map(|(row, value)| (new(row), value.clone())).collect();
        Trace {
            names: self.names.clone(),
            scans: kept.iter().map(|row| self.scans[*row]).collect(),
            columns: self.columns.iter().map(column).collect(),
            powers: self.powers.iter().map(|(row, power)| (new(row), *power)).collect(),
            forces: moved(&self.forces),
            writes: moved(&self.writes),
        }
    }

    fn texts(&self) -> impl Iterator<Item = &(usize, String)> {
        self.forces.iter().chain(&self.writes)
    }

    /// Trace CSV: header `scan,time_ms,NAME,...`, one row for every scan. Where something happened to the controller, was
    /// forced or written there are columns `@controller`, `@force` and `@write`, as in a stimulus: a trace can be replayed.
    #[must_use]
    pub fn write(&self) -> String {
        let mut out = Vec::new();
        // Writing to memory does not fail.
        let _ = self.write_to(&mut out);
        String::from_utf8(out).unwrap_or_default()
    }

    /// The same row by row, for a trace whose text is long: it has all values, the trace those that change.
    ///
    /// # Errors
    /// What the writer cannot.
    pub fn write_to(&self, out: &mut dyn std::io::Write) -> std::io::Result<()> {
        let [powers, forces, writes] = [!self.powers.is_empty(), !self.forces.is_empty(), !self.writes.is_empty()];
        let own = ["scan", "time_ms"].into_iter().chain(powers.then_some(CONTROLLER));
        let own = own.chain(forces.then_some(FORCE)).chain(writes.then_some(WRITE));
        let mut writer = csv::Writer::from_writer(out);
        // All rows have the header's length.
        writer.write_record(own.chain(self.names.iter().map(String::as_str)))?;
        let mut powers_of = by_row(self.powers.iter().map(|(row, power)| (*row, power.word())), " ");
        let texts_of = |list: &[(usize, String)]| by_row(list.iter().map(|(row, text)| (*row, text.as_str())), ";");
        let [mut forces_of, mut writes_of] = [texts_of(&self.forces), texts_of(&self.writes)];
        // Of each column the next turn, and the cell of the one before it.
        let mut cells = vec![(0, String::new()); self.columns.len()];
        for (row, (scan, at)) in self.scans.iter().enumerate() {
            writer.write_field(scan.0.to_string())?;
            writer.write_field(at.0.milliseconds_text())?;
            for (is_there, of) in [(powers, &mut powers_of), (forces, &mut forces_of), (writes, &mut writes_of)] {
                if is_there {
                    writer.write_field(of.remove(&row).unwrap_or_default())?;
                }
            }
            for ((turn, cell), column) in cells.iter_mut().zip(&self.columns) {
                if let Some((_, value)) = column.get(*turn).filter(|(from, _)| *from == row) {
                    *cell = table_cell(value, value.to_string());
                    *turn += 1;
                }
                writer.write_field(&*cell)?;
            }
            writer.write_record(None::<&[u8]>)?;
        }
        writer.flush()
    }
}

/// What happened in each row, in one text.
fn by_row<'t>(list: impl Iterator<Item = (usize, &'t str)>, between: &str) -> HashMap<usize, String> {
    let mut out: HashMap<usize, String> = HashMap::new();
    for (row, text) in list {
        let own = out.entry(row).or_default();
        if !own.is_empty() {
            own.push_str(between);
        }
        own.push_str(text);
    }
    out
}

/// Whether two values are the same to the bit: a NaN is as itself, and the two zeros of REAL are not alike.
fn is_as(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::Real(a), Value::Real(b)) => a.to_bits() == b.to_bits(),
        _ => a == b,
    }
}

/// A value as a cell, in the words it has there: what a string says is nothing to run.
pub(crate) fn table_cell(value: &Value, words: String) -> String {
    match value {
        Value::Text(_) => cells::guarded(&words).into_owned(),
        Value::Bool(_) | Value::Int(_) | Value::Real(_) | Value::Time(_) | Value::Enum(..) => words,
    }
}

/// Rows as CSV text; cells are quoted where they must be.
pub(super) fn csv_text(rows: &[Vec<String>]) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    for row in rows {
        // Writing to memory does not fail, and all rows have the header's length.
        let _ = writer.write_record(row);
    }
    writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Collects a trace from a controller.
#[derive(Debug)]
pub struct Recorder {
    points: Vec<PointId>,
    trace: Trace,
    /// How many values the trace holds.
    held: usize,
}

impl Recorder {
    /// Records inputs, outputs, and then the points of `watch`.
    #[must_use]
    pub fn new(machine: &Machine, watch: &[PointId]) -> Recorder {
        let mut points: Vec<PointId> = machine.points_of(Direction::Input).map(|(id, _)| id).collect();
        points.extend(machine.points_of(Direction::Output).map(|(id, _)| id));
        for id in watch {
            if !points.contains(id) {
                points.push(*id);
            }
        }
        let names = points.iter().map(|p| -> &Point { machine.point(*p) }).map(|p| p.name.clone()).collect();
        Recorder { points, trace: Trace::of(names), held: 0 }
    }

    /// Something happens to the controller before the next scan.
    pub fn power(&mut self, power: super::Power) {
        self.trace.powers.push((self.trace.scans.len(), power));
    }

    /// Something is forced before the next scan, or no more.
    pub fn force(&mut self, machine: &Machine, force: &Force) {
        self.trace.forces.push((self.trace.scans.len(), force_text(std::slice::from_ref(force), machine)));
    }

    /// A variable is written once before the next scan.
    pub fn write(&mut self, machine: &Machine, written: &(PointId, Value)) {
        self.trace.writes.push((self.trace.scans.len(), write_text(std::slice::from_ref(written), machine)));
    }

    /// Takes a row after a scan.
    pub fn row(&mut self, controller: &Controller, scan: ScanNumber, at: Instant) {
        self.held += self.trace.push(scan, at, self.points.iter().map(|p| controller.get(*p)));
    }

    /// True if the trace has [`Trace::MOST_SCANS`] rows or holds [`Trace::MOST_VALUES`] values, so that no more should be taken.
    #[must_use]
    pub fn is_full(&self) -> bool {
        self.held >= Trace::MOST_VALUES || self.trace.scans.len() >= Trace::MOST_SCANS
    }

    /// The trace so far.
    #[must_use]
    pub fn finish(self) -> Trace {
        self.trace
    }
}

/// Lets what a stimulus says for the time up to `at` happen; `next` is the first event that has not.
fn happen(controller: &mut Controller, recorder: &mut Recorder, stimulus: &Stimulus, next: &mut usize, at: Instant) {
    let machine = controller.machine().clone();
    while let Some(event) = stimulus.events.get(*next).filter(|e| e.at <= at.0) {
        event.power.into_iter().for_each(|power| recorder.power(power));
        event.force.iter().for_each(|force| recorder.force(&machine, force));
        event.write.iter().for_each(|written| recorder.write(&machine, written));
        event.power.into_iter().for_each(|power| controller.power(power, at));
        for (point, value) in event.set.iter().chain(&event.write) {
            // The values were checked when the stimulus was made.
            let _ = controller.set(*point, value);
        }
        for (point, value) in &event.force {
            match value {
                Some(value) => drop(controller.force(*point, value)),
                None => controller.release(*point),
            }
        }
        *next += 1;
    }
}

/// Runs a stimulus for a number of scans and records it. The trace has fewer rows if it is full before ([`Recorder::is_full`]).
#[must_use]
pub fn run_stimulus(
    controller: &mut Controller,
    stimulus: &Stimulus,
    time: &ScanTime,
    scans: u64,
    watch: &[PointId],
) -> Trace {
    let mut recorder = Recorder::new(&controller.machine().clone(), watch);
    let mut next = 0;
    for (scan, at) in (0..scans).zip(time.clock()) {
        if recorder.is_full() {
            break;
        }
        happen(controller, &mut recorder, stimulus, &mut next, at);
        controller.scan(at);
        recorder.row(controller, ScanNumber(scan), at);
    }
    recorder.finish()
}

/// Runs a stimulus up to and with a scan, counted from 0, and tells what that one did: nothing, if the
/// controller was stopped or faulted before.
pub fn run_up_to(controller: &mut Controller, stimulus: &Stimulus, time: &ScanTime, scan: u64) -> Moment {
    let mut recorder = Recorder::new(&controller.machine().clone(), &[]);
    let (mut next, mut moment) = (0, Moment::default());
    for (number, at) in (0..=scan).zip(time.clock()) {
        happen(controller, &mut recorder, stimulus, &mut next, at);
        if number < scan {
            controller.scan(at);
        } else {
            moment = controller.scan_closely(at);
        }
    }
    moment
}

impl Stimulus {
    /// When its last event happens.
    #[must_use]
    pub fn length(&self) -> Duration {
        self.events.last().map_or(Duration::ZERO, |e| e.at)
    }
}
