//! A machine that is served: it runs scan by scan, answers in between, and keeps what it was told.

use super::codec::{set_line, value, words};
use super::numbers::{MIRROR, Number, Numbers, Table};
use super::pdu::{Exception, Tables, answer};
use crate::model::{Duration, Instant, Value, format_duration};
use crate::scan::{Controller, Direction, Fault, PointId};
use crate::twin::Version;
use std::collections::HashMap;

/// What clients may write.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Writable {
    /// Coils.
    pub coils: bool,
    /// Holding registers.
    pub registers: bool,
    /// Inputs, in their mirrors from [`MIRROR`] on.
    pub inputs: bool,
}

/// A value that a client has written.
#[derive(Clone, Debug, PartialEq)]
pub struct Arrived {
    /// The scan before which it came.
    pub scan: u64,
    /// The point.
    pub point: PointId,
    /// What it became.
    pub value: Value,
}

/// Most values that are kept to be replayed.
const MOST_ARRIVED: usize = 1_000_000;

/// The holding register that makes the machine run so many scans, where it is stepped from outside.
const STEPS: u16 = u16::MAX;

/// A machine that is served.
#[derive(Debug)]
pub struct Served {
    controller: Controller,
    numbers: Numbers,
    writable: Writable,
    stepped: bool,
    /// What was written where the program has no point.
    loose: HashMap<(Table, u16), u16>,
    arrived: Vec<Arrived>,
    forgotten: u64,
    time: Duration,
    /// Scans that a client asked for and that have not run.
    due: u16,
}

impl Served {
    /// A machine at power-up that scans every `time`.
    #[must_use]
    pub fn new(version: &Version, numbers: Numbers, writable: Writable, time: Duration) -> Served {
        Served {
            controller: Controller::new(version.machine()),
            numbers,
            writable,
            stepped: false,
            loose: HashMap::new(),
            arrived: Vec::new(),
            forgotten: 0,
            time,
            due: 0,
        }
    }

    /// The same, stepped from outside: who writes a number to holding register 65535 wants so many scans run, and reads there
    /// how many have not run yet.
    #[must_use]
    pub fn stepped(self) -> Served {
        Served { stepped: true, ..self }
    }

    /// The machine.
    #[must_use]
    pub fn controller(&self) -> &Controller {
        &self.controller
    }

    /// Where its points are.
    #[must_use]
    pub fn numbers(&self) -> &Numbers {
        &self.numbers
    }

    /// Runs the next scan; when it began, on the machine's own time.
    pub fn scan(&mut self) -> Instant {
        let at = Instant(Duration::from_nanos(self.time.nanos().saturating_mul(self.controller.scans() as i64)));
        self.controller.scan(at);
        self.due = self.due.saturating_sub(1);
        at
    }

    /// Scans that a client asked for and that have not run yet.
    #[must_use]
    pub fn due(&self) -> u16 {
        self.due
    }

    /// The fault that stopped it, if one did.
    #[must_use]
    pub fn fault(&self) -> Option<Fault> {
        self.controller.fault()
    }

    /// What a request is answered; what it writes is seen from the next scan on.
    pub fn answer(&mut self, request: &[u8]) -> Vec<u8> {
        answer(request, self)
    }

    /// What clients have written so far.
    #[must_use]
    pub fn arrived(&self) -> &[Arrived] {
        &self.arrived
    }

    /// What clients have written, as a scenario that replays it; `None` if more arrived than is kept.
    #[must_use]
    pub fn scenario(&self) -> Option<String> {
        if self.forgotten > 0 {
            return None;
        }
        let mut out = String::new();
        let mut scan = 0;
        let wait = |scans: u64| {
            let time = Duration::from_nanos(self.time.nanos().saturating_mul(scans as i64));
            format!("wait {}\n", format_duration(time))
        };
        for arrived in &self.arrived {
            if arrived.scan > scan {
                out.push_str(&wait(arrived.scan - scan));
                scan = arrived.scan;
                out.push_str(&format!("# scan {scan}\n"));
            }
            let point = self.controller.machine().point(arrived.point);
            out.push_str(&match point.direction {
                Direction::Input => set_line(&point.name, &arrived.value),
                Direction::Output | Direction::Internal => {
                    format!("write {} to {}\n", point.name, arrived.value.said())
                }
            });
        }
        if self.controller.scans() > scan {
            out.push_str(&wait(self.controller.scans() - scan));
        }
        Some(out)
    }

    /// A number as requests say it, with the table it is really in.
    fn meant(&self, table: Table, number: u16) -> (Table, u16) {
        let mirrored = match table {
            Table::Coils => Some(Table::DiscreteInputs),
            Table::HoldingRegisters => Some(Table::InputRegisters),
            Table::DiscreteInputs | Table::InputRegisters => None,
        };
        match (mirrored, number.checked_sub(MIRROR)) {
            (Some(inputs), Some(number)) if self.writable.inputs => (inputs, number),
            _ => (table, number),
        }
    }

    fn words_of(&self, number: &Number) -> Vec<u16> {
        let machine = self.controller.machine();
        words(&self.controller.get(number.point), &machine.point(number.point).ty, self.numbers.order)
    }

    fn read(&self, table: Table, number: u16) -> Result<u16, Exception> {
        if self.stepped && (table, number) == (Table::HoldingRegisters, STEPS) {
            return Ok(self.due);
        }
        let (table, number) = self.meant(table, number);
        if let Some(point) = self.numbers.at(table, number) {
            let words = self.words_of(point);
            return words.get(usize::from(number - point.number)).copied().ok_or(Exception::Address);
        }
        match self.numbers.is_unused(table, number) {
            true => Ok(self.loose.get(&(table, number)).copied().unwrap_or_default()),
            false => Err(Exception::Address),
        }
    }

    /// Whether clients may write a table at a number.
    fn allowed(&self, table: Table, number: u16) -> Result<(), Exception> {
        let may = match self.meant(table, number).0 {
            Table::Coils => self.writable.coils,
            Table::HoldingRegisters => self.writable.registers,
            Table::DiscreteInputs | Table::InputRegisters => true,
        };
        if may { Ok(()) } else { Err(Exception::Function) }
    }

    /// Writes words (or bits, as words) from a number on: all, or none if one cannot be.
    fn write(&mut self, table: Table, first: u16, values: &[u16]) -> Result<(), Exception> {
        let last = usize::from(first) + values.len() - 1;
        if last > usize::from(u16::MAX) {
            return Err(Exception::Address);
        }
        if self.stepped && (table, first, values.len()) == (Table::HoldingRegisters, STEPS, 1) {
            self.due = values[0];
            return Ok(());
        }
        let mut points: Vec<(usize, Vec<u16>)> = Vec::new();
        let mut loose = Vec::new();
        for (number, value) in (first..=last as u16).zip(values) {
            self.allowed(table, number)?;
            let (table, number) = self.meant(table, number);
            match self.numbers.at(table, number) {
                // What a plant gives nobody else does.
                Some(of) if of.plant.is_some() => return Err(Exception::Function),
                Some(of) => {
                    let id = of.point.0 as usize;
                    if points.last().is_none_or(|(last, _)| *last != id) {
                        points.push((id, self.words_of(of)));
                    }
                    if let Some((_, words)) = points.last_mut() {
                        words[usize::from(number - of.number)] = *value;
                    }
                }
                None if self.numbers.is_unused(table, number) => loose.push(((table, number), *value)),
                None => return Err(Exception::Address),
            }
        }
        let mut written = Vec::new();
        for (id, words) in points {
            let point = PointId(id as u32);
            let ty = &self.controller.machine().point(point).ty;
            written.push((point, value(&words, ty, self.numbers.order).ok_or(Exception::Value)?));
        }
        self.loose.extend(loose);
        for (point, value) in written {
            self.controller.set(point, &value).map_err(|_| Exception::Value)?;
            match self.arrived.len() < MOST_ARRIVED {
                true => self.arrived.push(Arrived { scan: self.controller.scans(), point, value }),
                false => self.forgotten += 1,
            }
        }
        Ok(())
    }
}

impl Tables for Served {
    fn bit(&self, table: Table, number: u16) -> Result<bool, Exception> {
        self.read(table, number).map(|word| word != 0)
    }

    fn word(&self, table: Table, number: u16) -> Result<u16, Exception> {
        self.read(table, number)
    }

    fn write_bits(&mut self, first: u16, values: &[bool]) -> Result<(), Exception> {
        let words: Vec<u16> = values.iter().map(|on| u16::from(*on)).collect();
        self.write(Table::Coils, first, &words)
    }

    fn write_words(&mut self, first: u16, values: &[u16]) -> Result<(), Exception> {
        self.write(Table::HoldingRegisters, first, values)
    }
}
