//! What happens from outside, and when: stimulus CSV.
//!
//! Header `time_ms,NAME,...`; a row sets inputs from that time on; an empty cell keeps the value. One more column,
//! `@controller`, may hold `power-cycle`, `cold-start`, `stop` or `run` for what happens to the controller itself at that time, and
//! another, `@force`, what is forced from then on: `Alarm=1;Level=12`, and a name alone, `Alarm`, where that ends. A third,
//! `@write`, is written as `@force` is: what variables are given once, before the next scan.

use super::{Direction, Machine, PointId};
use crate::model::{Duration, Value};

/// What happens to the controller itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Power {
    /// Power off and on.
    Cycle,
    /// Power off and on, and what is retained is lost as well.
    Cold,
    /// STOP.
    Stop,
    /// RUN.
    Run,
}

impl Power {
    /// As it stands in the `@controller` column.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Power::Cycle => "power-cycle",
            Power::Cold => "cold-start",
            Power::Stop => "stop",
            Power::Run => "run",
        }
    }
}

/// The name of the column for what happens to the controller.
pub(super) const CONTROLLER: &str = "@controller";

/// The name of the column for what is forced.
pub(super) const FORCE: &str = "@force";

/// The name of the column for what is written once.
pub(super) const WRITE: &str = "@write";

/// A variable that is held at a value whatever writes it, or, with none, held no more.
pub type Force = (PointId, Option<Value>);

/// One row of a stimulus.
#[derive(Clone, Debug, PartialEq)]
pub struct Event {
    /// When; seen by the first scan that begins then or later.
    pub at: Duration,
    /// Inputs that change.
    pub set: Vec<(PointId, Value)>,
    /// What happens to the controller, before the inputs are read.
    pub power: Option<Power>,
    /// What is forced from then on, or no more.
    pub force: Vec<Force>,
    /// Variables that are written once, before the scan.
    pub write: Vec<(PointId, Value)>,
}

impl Event {
    /// A moment at which nothing happens yet.
    #[must_use]
    pub fn at(at: Duration) -> Event {
        Event { at, set: Vec::new(), power: None, force: Vec::new(), write: Vec::new() }
    }
}

/// What a column of a stimulus is about.
enum Column {
    Input(PointId),
    Controller,
    Force,
    Write,
}

/// Events in order of time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Stimulus {
    /// The rows.
    pub events: Vec<Event>,
}

/// Why nothing can be forced.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ForceError {
    /// There is no such variable.
    #[error("there is no variable `{0}` to force")]
    NoVariable(String),
    /// The variable has no such value.
    #[error("`{value}` is not a value of `{name}`")]
    NoValue {
        /// The variable.
        name: String,
        /// What it should be.
        value: String,
    },
}

/// What is wrong with a stimulus, and in which row (the header is row 1).
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("row {row}: {what}")]
pub struct StimulusError {
    /// Row, from 1.
    pub row: u64,
    /// What is wrong.
    pub what: String,
}

impl Stimulus {
    /// Reads a stimulus for a project.
    ///
    /// # Errors
    /// The first row that is wrong.
    pub fn read(text: &str, machine: &Machine) -> Result<Stimulus, StimulusError> {
        let mut reader = csv::ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
        let wrong = |row: u64, what: String| StimulusError { row, what };
        let header = reader.headers().map_err(|e| wrong(1, e.to_string()))?.clone();
        if !header.get(0).is_some_and(|h| h.eq_ignore_ascii_case("time_ms")) {
            return Err(wrong(1, "the first column is `time_ms`".to_string()));
        }
        let mut columns = Vec::new();
        for name in header.iter().skip(1) {
            columns.push(column(name, machine).map_err(|what| wrong(1, what))?);
        }
        let mut events: Vec<Event> = Vec::new();
        for (index, record) in reader.records().enumerate() {
            let row = index as u64 + 2;
            let record = record.map_err(|e| wrong(row, e.to_string()))?;
            if record.len() > header.len() {
                return Err(wrong(row, format!("{} cells, but the header has {}", record.len(), header.len())));
            }
            let at = milliseconds(record.get(0).unwrap_or("")).ok_or_else(|| {
                wrong(row, format!("`{}` is not a time in milliseconds", record.get(0).unwrap_or("")))
            })?;
            if events.last().is_some_and(|last| last.at > at) {
                return Err(wrong(row, "times must not fall".to_string()));
            }
            let mut event = Event::at(at);
            for (cell, column) in record.iter().skip(1).zip(&columns).filter(|(cell, _)| !cell.is_empty()) {
                match column {
                    // Several things may happen before one scan; the last of them goes with the inputs.
                    Column::Controller => {
                        for word in cell.split_whitespace() {
                            let power = power(word).map_err(|what| wrong(row, what))?;
                            if let Some(earlier) = event.power.replace(power) {
                                events.push(Event { power: Some(earlier), ..Event::at(at) });
                            }
                        }
                    }
                    Column::Force => event.force = forces(cell, machine).map_err(|e| wrong(row, e.to_string()))?,
                    Column::Write => {
                        let written = forces(cell, machine).map_err(|e| wrong(row, e.to_string()))?;
                        let whole: Option<Vec<_>> = written.into_iter().map(|(p, v)| Some((p, v?))).collect();
                        let missing = || wrong(row, format!("`{cell}`: what is written is NAME=VALUE"));
                        event.write = whole.ok_or_else(missing)?;
                    }
                    Column::Input(point) => {
                        let value = machine.parse(*point, cell).ok_or_else(|| {
                            wrong(row, format!("`{cell}` is not a value of `{}`", machine.point(*point).name))
                        })?;
                        event.set.push((*point, value));
                    }
                }
            }
            events.push(event);
        }
        Ok(Stimulus { events })
    }

    /// The stimulus that a trace holds: what the inputs were in each scan.
    ///
    /// # Errors
    /// The first row that is wrong.
    pub fn from_trace(text: &str, machine: &Machine) -> Result<Stimulus, StimulusError> {
        let mut reader = csv::ReaderBuilder::new().flexible(true).has_headers(false).from_reader(text.as_bytes());
        let mut kept: Option<Vec<usize>> = None;
        let mut rows = csv::Writer::from_writer(Vec::new());
        for (index, record) in reader.records().enumerate() {
            let wrong = |what: String| StimulusError { row: index as u64 + 1, what };
            let record = record.map_err(|e| wrong(e.to_string()))?;
            let is_input =
                |name: &str| machine.find(name).is_some_and(|p| machine.point(p).direction == Direction::Input);
            let kept = kept.get_or_insert_with(|| {
                let stays = |n: &str| matches!(n, "time_ms" | CONTROLLER | FORCE | WRITE) || is_input(n);
                (0..record.len()).filter(|c| record.get(*c).is_some_and(stays)).collect()
            });
            let row = kept.iter().map(|c| record.get(*c).unwrap_or(""));
            rows.write_record(row).map_err(|e| wrong(e.to_string()))?;
        }
        let text = rows.into_inner().map(|bytes| String::from_utf8_lossy(&bytes).to_string()).unwrap_or_default();
        Stimulus::read(&text, machine)
    }

    /// Writes it as CSV: the inputs it sets, in order of declaration.
    #[must_use]
    pub fn write(&self, machine: &Machine) -> String {
        let mut points: Vec<PointId> = self.events.iter().flat_map(|e| e.set.iter().map(|(p, _)| *p)).collect();
        points.sort_unstable();
        points.dedup();
        let with_power = self.events.iter().any(|e| e.power.is_some());
        let with_force = self.events.iter().any(|e| !e.force.is_empty());
        let with_write = self.events.iter().any(|e| !e.write.is_empty());
        let mut rows = vec![
            std::iter::once("time_ms".to_string())
                .chain(with_power.then(|| CONTROLLER.to_string()))
                .chain(with_force.then(|| FORCE.to_string()))
                .chain(with_write.then(|| WRITE.to_string()))
                .chain(points.iter().map(|p| machine.point(*p).name.clone()))
                .collect::<Vec<_>>(),
        ];
        for event in &self.events {
            let mut row = vec![event.at.milliseconds_text()];
            if with_power {
                row.push(event.power.map_or(String::new(), |p| p.word().to_string()));
            }
            if with_force {
                row.push(force_text(&event.force, machine));
            }
            if with_write {
                row.push(write_text(&event.write, machine));
            }
            for point in &points {
                let value = event.set.iter().rev().find(|(p, _)| p == point);
                row.push(value.map_or(String::new(), |(_, v)| super::trace::table_cell(v, v.cell())));
            }
            rows.push(row);
        }
        super::trace::csv_text(&rows)
    }
}

impl Stimulus {
    /// Whether something is forced in it, or written that is no input.
    #[must_use]
    pub fn is_forced(&self) -> bool {
        self.events.iter().any(|event| !event.force.is_empty() || !event.write.is_empty())
    }
}

/// What a cell of the column `@force` says.
fn forces(cell: &str, machine: &Machine) -> Result<Vec<Force>, ForceError> {
    let each = cell.split(';').map(str::trim).filter(|part| !part.is_empty());
    each.map(|part| machine.force(part)).collect()
}

/// As [`forces`] reads it.
pub(super) fn force_text(forces: &[Force], machine: &Machine) -> String {
    let one = |(point, value): &Force| {
        let name = &machine.point(*point).name;
        value.as_ref().map_or_else(|| name.clone(), |value| format!("{name}={}", value.cell()))
    };
    forces.iter().map(one).collect::<Vec<_>>().join(";")
}

/// What a cell of the column `@write` says.
pub(super) fn write_text(written: &[(PointId, Value)], machine: &Machine) -> String {
    let one = |(point, value): &(PointId, Value)| format!("{}={}", machine.point(*point).name, value.cell());
    written.iter().map(one).collect::<Vec<_>>().join(";")
}

/// What a column is about.
fn column(name: &str, machine: &Machine) -> Result<Column, String> {
    if name.eq_ignore_ascii_case(CONTROLLER) {
        return Ok(Column::Controller);
    }
    if name.eq_ignore_ascii_case(FORCE) {
        return Ok(Column::Force);
    }
    if name.eq_ignore_ascii_case(WRITE) {
        return Ok(Column::Write);
    }
    match machine.find(name) {
        Some(point) if machine.point(point).direction == Direction::Input => Ok(Column::Input(point)),
        Some(_) => Err(format!("`{name}` is not an input")),
        None => {
            let inputs: Vec<&str> = machine.points_of(Direction::Input).map(|(_, p)| p.name.as_str()).collect();
            Err(format!("there is no input `{name}`; the inputs are {}", inputs.join(", ")))
        }
    }
}

fn power(cell: &str) -> Result<Power, String> {
    [Power::Cycle, Power::Cold, Power::Stop, Power::Run]
        .into_iter()
        .find(|p| p.word().eq_ignore_ascii_case(cell))
        .ok_or_else(|| format!("`{cell}` is none of power-cycle, cold-start, stop and run"))
}

/// A moment: whole milliseconds, or with a fraction down to a nanosecond.
fn milliseconds(text: &str) -> Option<Duration> {
    Duration::read_milliseconds(text).filter(|time| *time >= Duration::ZERO)
}

impl Machine {
    /// Reads what is forced: `NAME=VALUE`, or a name alone where that ends.
    ///
    /// # Errors
    /// If there is no such variable or the value is none of it.
    pub fn force(&self, text: &str) -> Result<Force, ForceError> {
        let (name, value) = text.split_once('=').map_or((text, None), |(name, value)| (name, Some(value)));
        let (name, value) = (name.trim(), value.map(str::trim));
        let point = self.find(name).ok_or_else(|| ForceError::NoVariable(name.to_string()))?;
        let wrong = |value: &str| ForceError::NoValue { name: name.to_string(), value: value.to_string() };
        let parsed = |value: &str| self.parse(point, value).ok_or_else(|| wrong(value));
        Ok((point, value.map(parsed).transpose()?))
    }

    /// Reads a cell of CSV as a value of a point.
    #[must_use]
    pub fn parse(&self, point: PointId, cell: &str) -> Option<Value> {
        self.point(point).ty.parse(cell)
    }
}
