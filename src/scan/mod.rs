//! The scan engine: a controller with an input image, an output image, memory and virtual time.
//!
//! A checked project is compiled once to a tape; a [`Controller`] runs it scan by scan. Nothing here reads a
//! clock: the caller says when each scan begins.

mod acts;
mod cells;
mod clock;
mod compile;
mod controller;
#[cfg(test)]
mod flaws;
mod fused;
mod journal;
mod layout;
mod logic;
mod measure;
mod moment;
mod op;
mod plants;
mod points;
mod run;
mod seen;
mod spread;
mod stimulus;
mod tape;
mod trace;
mod values;
mod verify;
mod waves;

pub(crate) use cells::{Cell, cells};
pub use clock::{Clock, ScanTime};
pub use compile::BuildError;
pub use controller::{Controller, Fault, PointError};
pub(crate) use journal::{Link, Read};
pub use measure::{Measure, Measuring, Spread, measures};
pub use moment::Moment;
pub(crate) use op::{One, Op};
pub use plants::Wired;
pub use points::{Direction, Point, PointId, PointType};
pub(crate) use seen::Seen;
pub use seen::Want;
pub(crate) use spread::{Bits, Seeds, spread};
pub use stimulus::{Event, Force, Power, Stimulus, StimulusError};
pub(crate) use tape::{Dimension, Reach, Tape};
pub(crate) use trace::table_cell;
pub use trace::{Recorder, Trace, run_stimulus, run_up_to};

use crate::check::{Checked, Probe};
use crate::model::Wire;
use crate::source::Span;
use std::collections::HashMap;
use std::sync::Arc;

/// Rounds of loops that one scan may take before it is a fault.
pub const LOOP_LIMIT: u64 = 100_000;

/// A compiled project, ready to be run by any number of controllers.
#[derive(Clone, Debug)]
pub struct Machine {
    tape: Arc<Tape>,
    points: Arc<Vec<Point>>,
    names: Arc<HashMap<String, PointId>>,
    wires: Arc<HashMap<String, u32>>,
    plants: Arc<Vec<Wired>>,
    /// Memories of edge contacts and coils, by the places of their elements.
    edges: Arc<HashMap<Span, u32>>,
}

impl Machine {
    /// Compiles a checked project.
    ///
    /// # Errors
    /// [`BuildError`] if it has no program or is too large.
    pub fn new(checked: &Checked) -> Result<Machine, BuildError> {
        Machine::with_probes(checked, &[])
    }

    /// Compiles a checked project, and expressions that [`Controller::ask`] computes between scans, by their numbers.
    ///
    /// # Errors
    /// [`BuildError`] if it has no program or is too large.
    pub fn with_probes(checked: &Checked, probes: &[Probe]) -> Result<Machine, BuildError> {
        let compiled = compile::compile(checked, probes)?;
        debug_assert_eq!(compiled.tape.verify(), Ok(()), "an invariant of the tape");
        let points = compiled.points;
        debug_assert!(points.is_sorted_by_key(|point| point.direction), "an invariant of points");
        let written = compiled.tape.written();
        if let Some(point) = points.iter().find(|p| p.direction == Direction::Input && written[p.slot as usize]) {
            return Err(BuildError::InputWritten(point.name.clone()));
        }
        let names = points::names(&points);
        let (wires, edges) = points::hidden(checked, &compiled.programs);
        Ok(Machine {
            tape: Arc::new(compiled.tape),
            points: Arc::new(points),
            names: Arc::new(names),
            wires: Arc::new(wires),
            plants: Arc::new(compiled.plants),
            edges: Arc::new(edges),
        })
    }

    /// The plants that answer it, as they are wired.
    #[must_use]
    pub fn plants(&self) -> &[Wired] {
        &self.plants
    }

    /// Everything that can be reached from outside: inputs, then outputs, then the rest.
    #[must_use]
    pub fn points(&self) -> &[Point] {
        &self.points
    }

    /// The points of one direction, in order of declaration.
    pub fn points_of(&self, direction: Direction) -> impl Iterator<Item = (PointId, &Point)> {
        // They stand in the order of their directions, and most of a large program's are neither input nor output.
        let before = |p: &Point| p.direction < direction;
        let first = self.points.partition_point(before);
        let count = self.points[first..].partition_point(|p| p.direction == direction);
        (first..).zip(&self.points[first..first + count]).map(|(i, p)| (PointId(i as u32), p))
    }

    /// The point of a name or, if nothing is called so, of an address, whatever the case of its letters.
    #[must_use]
    pub fn find(&self, name: &str) -> Option<PointId> {
        self.names.get(&name.to_uppercase()).copied()
    }

    /// The points that a name stands for: one of that name or address, all of a whole instance, array or structure, or with
    /// `*` all there are.
    #[must_use]
    pub fn find_all(&self, name: &str) -> Vec<PointId> {
        if name == "*" {
            return (0..self.points.len() as u32).map(PointId).collect();
        }
        if let Some(point) = self.find(name) {
            return vec![point];
        }
        let is_part = |own: &str| {
            let (head, rest) = (own.get(..name.len()), own.get(name.len()..).unwrap_or(""));
            head.is_some_and(|head| head.eq_ignore_ascii_case(name)) && rest.starts_with(['.', '['])
        };
        let is_meant = |point: &Point| is_part(&point.name) || point.address.as_deref().is_some_and(is_part);
        let numbered = self.points.iter().enumerate().filter(|(_, point)| is_meant(point));
        numbered.map(|(number, _)| PointId(number as u32)).collect()
    }

    /// A point by its number.
    #[must_use]
    pub fn point(&self, id: PointId) -> &Point {
        &self.points[id.0 as usize]
    }

    /// Where a BOOL wire of a program that is drawn lies; `network` counts from 0.
    fn wire_slot(&self, program: &str, network: usize, wire: Wire) -> Option<u32> {
        let name = format!("{} {}", program.to_uppercase(), crate::check::wire_name(network, wire));
        self.wires.get(&name).copied()
    }

    /// How many expressions it can be asked.
    pub(crate) fn probes(&self) -> usize {
        self.tape.probes.len()
    }

    /// The tape.
    pub(crate) fn tape(&self) -> &Tape {
        &self.tape
    }

    /// What a point holds at power-up.
    pub(crate) fn initial(&self, point: &Point) -> i64 {
        self.tape.image[point.slot as usize]
    }

    /// The same, where an input holds another value at power-up.
    pub(crate) fn beginning_with(&self, input: PointId, value: i64) -> Machine {
        let mut tape = Tape::clone(&self.tape);
        tape.image[self.point(input).slot as usize] = value;
        Machine { tape: Arc::new(tape), ..self.clone() }
    }

    /// Slots that hold 0 or 1 and nothing else, by their type.
    pub(crate) fn bool_slots(&self) -> impl Iterator<Item = u32> {
        let bools = self.points.iter().filter(|p| p.ty == PointType::Elem(crate::model::Elem::Bool)).map(|p| p.slot);
        bools.chain(self.wires.values().copied())
    }

    /// Whether any operation may read a point.
    pub(crate) fn reads(&self, id: PointId) -> bool {
        self.tape.read().contains(&self.point(id).slot)
    }

    /// Tells points that some operation may read and none writes.
    pub(crate) fn unwritten(&self) -> impl Fn(&Point) -> bool {
        let (read, written) = (self.tape.read(), self.tape.written());
        move |point| read.contains(&point.slot) && !written[point.slot as usize]
    }

    /// How many operations the tape has.
    #[must_use]
    pub fn operations(&self) -> usize {
        self.tape.code.len()
    }
}
