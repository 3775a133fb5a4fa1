//! What was seen, scan by scan: trace CSV.

use super::{Controller, Direction, Machine, Point, PointId, Power, ScanTime, Stimulus};
use crate::model::{Duration, Instant, ScanNumber, Value};

/// The values of some points after every scan.
#[derive(Clone, Debug, PartialEq)]
pub struct Trace {
    /// Names of the columns.
    pub names: Vec<String>,
    /// Scan, its beginning, and the values in the order of the names.
    pub rows: Vec<(ScanNumber, Instant, Vec<Value>)>,
}

impl Trace {
    /// Trace CSV: header `scan,time_ms,NAME,...`, one row for every scan.
    #[must_use]
    pub fn write(&self) -> String {
        let mut rows = vec![["scan", "time_ms"].iter().map(ToString::to_string).chain(self.names.clone()).collect()];
        for (scan, at, values) in &self.rows {
            let mut row = vec![scan.0.to_string(), at.0.milliseconds_text()];
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
        Recorder { points, trace: Trace { names, rows: Vec::new() } }
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
pub(crate) fn happen(controller: &mut Controller, stimulus: &Stimulus, next: &mut usize, at: Instant) {
    while let Some(event) = stimulus.events.get(*next).filter(|e| e.at <= at.0) {
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
        happen(controller, stimulus, &mut next, at);
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
