//! One scan looked at closely: what each statement, instruction and element read and found when it was executed.
//!
//! After a scan memory says what variables hold then. What a contact conducted is another question: its variable may have
//! been written again further down.

use super::journal::Journal;
use super::op::{Op, Slot};
use super::{Controller, PointId};
use crate::model::{ContactForm, Instant, Wire};
use crate::source::Span;
use std::collections::HashMap;

/// What one scan did, by places in the sources.
#[derive(Clone, Debug, Default)]
pub struct Moment {
    places: HashMap<Span, Place>,
    /// Of each slot that was written the place that did it last.
    writers: HashMap<Slot, Span>,
}

/// What was done at a place when it was executed last.
#[derive(Clone, Debug, Default)]
struct Place {
    /// What was read, and what it held; of a slot that is read twice the first.
    reads: Vec<(Slot, i64)>,
    /// The outcome of the last comparison.
    compared: Option<bool>,
}

impl Moment {
    fn of(journal: &Journal, scan: u64, controller: &Controller) -> Moment {
        let tape = controller.machine.tape();
        let mut places: HashMap<Span, Place> = HashMap::new();
        let mut writers = HashMap::new();
        let mut last: Option<(u32, Span)> = None;
        for ran in journal.of_scan(scan) {
            let span = tape.spans[ran.at as usize];
            // A place that is come to once more, in a loop or behind a jump back, begins anew.
            let begins = last.is_none_or(|(at, before)| before != span || ran.at <= at);
            last = Some((ran.at, span));
            let place = places.entry(span).or_default();
            if begins {
                *place = Place::default();
            }
            for (slot, value) in ran.reads() {
                if place.reads.iter().all(|(known, _)| *known != slot) {
                    place.reads.push((slot, value));
                }
            }
            writers.extend(ran.written().map(|slot| (slot, span)));
            if compares(tape.code[ran.at as usize])
                && let Some(value) = ran.result()
            {
                place.compared = Some(value != 0);
            }
        }
        Moment { places, writers }
    }

    /// Whether anything was executed at a place.
    #[must_use]
    pub fn ran(&self, place: Span) -> bool {
        self.places.contains_key(&place)
    }

    /// The outcome of the comparison at a place.
    pub(crate) fn compared(&self, place: Span) -> Option<bool> {
        self.places.get(&place)?.compared
    }

    fn read(&self, place: Span, slot: Slot) -> Option<i64> {
        self.places.get(&place)?.reads.iter().find(|(known, _)| *known == slot).map(|(_, value)| *value)
    }
}

/// Whether an operation compares two values.
fn compares(op: Op) -> bool {
    match op {
        Op::Eq { .. }
        | Op::Ne { .. }
        | Op::Lt { .. }
        | Op::Le { .. }
        | Op::LtUnsigned { .. }
        | Op::LeUnsigned { .. }
        | Op::Text { .. } => true,
        Op::Real { op, .. } => op.is_comparison(),
        Op::Move { .. }
        | Op::MoveIf { .. }
        | Op::NotBool { .. }
        | Op::And { .. }
        | Op::Or { .. }
        | Op::Xor { .. }
        | Op::AndNot { .. }
        | Op::OrNot { .. }
        | Op::Add { .. }
        | Op::Sub { .. }
        | Op::Mul { .. }
        | Op::Div { .. }
        | Op::Mod { .. }
        | Op::Min { .. }
        | Op::Max { .. }
        | Op::ScaleTime { .. }
        | Op::Shift { .. }
        | Op::One { .. }
        | Op::Bound { .. }
        | Op::Index { .. }
        | Op::Load { .. }
        | Op::Store { .. }
        | Op::Copy { .. }
        | Op::LoadBlock { .. }
        | Op::StoreBlock { .. }
        | Op::Restart { .. }
        | Op::RestartAt { .. }
        | Op::Since { .. }
        | Op::FirstScan { .. }
        | Op::ScanTime { .. }
        | Op::Ticks { .. }
        | Op::Cut { .. }
        | Op::Jump { .. }
        | Op::JumpIf { .. }
        | Op::JumpUnless { .. }
        | Op::Back { .. }
        | Op::End => false,
    }
}

impl Controller {
    /// Runs one scan as [`Controller::scan`] does, and tells what happened where in it. A stopped or faulted controller
    /// executes nothing.
    pub fn scan_closely(&mut self, at: Instant) -> Moment {
        let number = self.scans();
        self.keep_journal();
        self.scan(at);
        let journal = self.journal.take();
        journal.map_or_else(Moment::default, |journal| Moment::of(&journal, number, self))
    }

    /// Whether a contact at a place conducted when it was executed, whatever power came to it; `None` if it was not.
    pub(crate) fn contact(&self, moment: &Moment, place: Span, form: ContactForm, operand: PointId) -> Option<bool> {
        let now = self.read_at(moment, place, operand)? != 0;
        let before = || moment.read(place, *self.machine.edges.get(&place)?).map(|value| value != 0);
        Some(match form {
            ContactForm::Open => now,
            ContactForm::Closed => !now,
            ContactForm::Rising => now && !before()?,
            ContactForm::Falling => !now && before()?,
        })
    }

    /// What a point held when the operations of a place read it.
    pub(crate) fn read_at(&self, moment: &Moment, place: Span, point: PointId) -> Option<i64> {
        moment.read(place, self.machine.point(point).slot)
    }

    /// The place that wrote a point last in the scan.
    #[must_use]
    pub fn wrote_at(&self, moment: &Moment, point: PointId) -> Option<Span> {
        moment.writers.get(&self.machine.point(point).slot).copied()
    }

    /// The power that came to an element at a place when it was executed; `network` counts from 0.
    pub(crate) fn power_at(
        &self,
        moment: &Moment,
        place: Span,
        program: &str,
        network: usize,
        wire: Wire,
    ) -> Option<bool> {
        if wire == Wire::RAIL {
            return moment.ran(place).then_some(true);
        }
        moment.read(place, self.machine.wire_slot(program, network, wire)?).map(|value| value != 0)
    }
}
