//! What was seen, scan by scan: trace CSV.

use super::stimulus::{CONTROLLER, FORCE, Force, force_text};
use super::{Controller, Direction, Machine, Point, PointId, Power, ScanTime, Stimulus};
use crate::model::{Duration, Instant, ScanNumber, Value};

/// The values of some points after every scan.
#[derive(Clone, Debug, PartialEq)]
pub struct Trace {
    /// Names of the columns.
    pub names: Vec<String>,
    /// Scan, its beginning, and the values in the order of the names.
    pub rows: Vec<(ScanNumber, Instant, Vec<Value>)>,
    /// What happened to the controller before a scan, with the number of its row.
    pub powers: Vec<(usize, Power)>,
    /// What was forced before a scan, or no more, as the column `@force` says it, with the number of its row.
    pub forces: Vec<(usize, String)>,
}

impl Trace {
    /// A trace without rows.
    #[must_use]
    pub fn of(names: Vec<String>) -> Trace {
        Trace { names, rows: Vec::new(), powers: Vec::new(), forces: Vec::new() }
    }

    /// Trace CSV: header `scan,time_ms,NAME,...`, one row for every scan. Where something happened to the controller or was
    /// forced there are columns `@controller` and `@force`, as in a stimulus: a trace can be replayed.
    #[must_use]
    pub fn write(&self) -> String {
        let [powers, forces] = [!self.powers.is_empty(), !self.forces.is_empty()];
        let own = ["scan", "time_ms"].into_iter().chain(powers.then_some(CONTROLLER)).chain(forces.then_some(FORCE));
        let mut rows = vec![own.map(ToString::to_string).chain(self.names.clone()).collect()];
        for (number, (scan, at, values)) in self.rows.iter().enumerate() {
            let mut row = vec![scan.0.to_string(), at.0.milliseconds_text()];
            let powers_of = || self.powers.iter().filter(|(row, _)| *row == number).map(|(_, power)| power.word());
            let forces_of = || self.forces.iter().filter(|(row, _)| *row == number).map(|(_, text)| text.as_str());
            row.extend(powers.then(|| powers_of().collect::<Vec<_>>().join(" ")));
            row.extend(forces.then(|| forces_of().collect::<Vec<_>>().join(";")));
            row.extend(values.iter().map(ToString::to_string));
            rows.push(row);
        }
        csv_text(&rows)
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
    pub fn power(&mut self, power: Power) {
        self.trace.powers.push((self.trace.rows.len(), power));
    }

    /// Something is forced before the next scan, or no more.
    pub fn force(&mut self, machine: &Machine, force: &Force) {
        self.trace.forces.push((self.trace.rows.len(), force_text(std::slice::from_ref(force), machine)));
    }

    /// Takes a row after a scan.
    pub fn row(&mut self, controller: &Controller, scan: ScanNumber, at: Instant) {
        let values = self.points.iter().map(|p| controller.get(*p)).collect();
        self.trace.rows.push((scan, at, values));
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
        match event.power {
            Some(Power::Cycle) => controller.power_cycle(at),
            Some(Power::Stop) => controller.stop(),
            Some(Power::Run) => controller.run(),
            None => {}
        }
        for (point, value) in &event.set {
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

impl Stimulus {
    /// When its last event happens.
    #[must_use]
    pub fn length(&self) -> Duration {
        self.events.last().map_or(Duration::ZERO, |e| e.at)
    }
}
