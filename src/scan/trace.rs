//! What was seen, scan by scan: trace CSV.

use super::stimulus::{CONTROLLER, FORCE, Force, WRITE, force_text, write_text};
use super::{Controller, Direction, Machine, Moment, Point, PointId, ScanTime, Stimulus};
use crate::model::{Duration, Instant, ScanNumber, Value};
use crate::source::cells;

/// The values of some points after every scan.
#[derive(Clone, Debug, PartialEq)]
pub struct Trace {
    /// Names of the columns.
    pub names: Vec<String>,
    /// Scan, its beginning, and the values in the order of the names.
    pub rows: Vec<(ScanNumber, Instant, Vec<Value>)>,
    /// What happened to the controller before a scan, with the number of its row.
    pub powers: Vec<(usize, super::Power)>,
    /// What was forced before a scan, or no more, as the column `@force` says it, with the number of its row.
    pub forces: Vec<(usize, String)>,
    /// What was written before a scan, as the column `@write` says it, with the number of its row.
    pub writes: Vec<(usize, String)>,
}

impl Trace {
    /// A trace without rows.
    #[must_use]
    pub fn of(names: Vec<String>) -> Trace {
        Trace { names, rows: Vec::new(), powers: Vec::new(), forces: Vec::new(), writes: Vec::new() }
    }

    /// The rows in which something happened or a value is another than in the row before, the first and the last of all.
    #[must_use]
    pub fn changes(&self) -> Trace {
        let happened: std::collections::HashSet<usize> =
            self.powers.iter().map(|(row, _)| *row).chain(self.texts().map(|(row, _)| *row)).collect();
        let differs = |row: usize| row.checked_sub(1).is_none_or(|before| self.rows[before].2 != self.rows[row].2);
        let kept: Vec<usize> = (0..self.rows.len())
            .filter(|row| differs(*row) || happened.contains(row) || row + 1 == self.rows.len())
            .collect();
        let new = |row: &usize| kept.binary_search(row).unwrap_or(kept.len());
        let moved = |list: &[(usize, String)]| list.iter().map(|(row, text)| (new(row), text.clone())).collect();
        Trace {
            names: self.names.clone(),
            rows: kept.iter().map(|row| self.rows[*row].clone()).collect(),
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
        let [powers, forces, writes] = [!self.powers.is_empty(), !self.forces.is_empty(), !self.writes.is_empty()];
        let own = ["scan", "time_ms"].into_iter().chain(powers.then_some(CONTROLLER));
        let own = own.chain(forces.then_some(FORCE)).chain(writes.then_some(WRITE));
        let mut rows = vec![own.map(ToString::to_string).chain(self.names.clone()).collect()];
        for (number, (scan, at, values)) in self.rows.iter().enumerate() {
            let mut row = vec![scan.0.to_string(), at.0.milliseconds_text()];
            let powers_of = || self.powers.iter().filter(|(row, _)| *row == number).map(|(_, power)| power.word());
            let texts_of = |list: &[(usize, String)]| {
                let own = list.iter().filter(|(row, _)| *row == number).map(|(_, text)| text.as_str());
                own.collect::<Vec<_>>().join(";")
            };
            row.extend(powers.then(|| powers_of().collect::<Vec<_>>().join(" ")));
            row.extend(forces.then(|| texts_of(&self.forces)));
            row.extend(writes.then(|| texts_of(&self.writes)));
            row.extend(values.iter().map(|value| table_cell(value, value.to_string())));
            rows.push(row);
        }
        csv_text(&rows)
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
        Recorder { points, trace: Trace::of(names) }
    }

    /// Something happens to the controller before the next scan.
    pub fn power(&mut self, power: super::Power) {
        self.trace.powers.push((self.trace.rows.len(), power));
    }

    /// Something is forced before the next scan, or no more.
    pub fn force(&mut self, machine: &Machine, force: &Force) {
        self.trace.forces.push((self.trace.rows.len(), force_text(std::slice::from_ref(force), machine)));
    }

    /// A variable is written once before the next scan.
    pub fn write(&mut self, machine: &Machine, written: &(PointId, Value)) {
        self.trace.writes.push((self.trace.rows.len(), write_text(std::slice::from_ref(written), machine)));
    }

    /// Takes a row after a scan.
    pub fn row(&mut self, controller: &Controller, scan: ScanNumber, at: Instant) {
        let values = self.points.iter().map(|p| controller.get(*p)).collect();
        self.trace.rows.push((scan, at, values));
    }

    /// How many values each scan records.
    #[must_use]
    pub fn signals(&self) -> usize {
        self.points.len()
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

/// Runs a stimulus for a number of scans and records it.
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
