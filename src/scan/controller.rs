//! The machine while it runs: images, memory, time, forces, a fault.

use super::journal::Journal;
use super::run::{self, Closely, State, Unwatched};
use super::{Direction, LOOP_LIMIT, Machine, Point, PointId, PointType, Power, Seen};
use crate::model::ops::FaultKind;
use crate::model::{Elem, Instant, ScanNumber, Value, Wire};
use crate::source::Span;
use std::collections::HashMap;
use std::sync::Arc;

/// A fault: what, where, when.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, schemars::JsonSchema)]
pub struct Fault {
    /// What happened.
    pub kind: FaultKind,
    /// The statement or instruction.
    pub span: Span,
    /// The scan it happened in.
    pub scan: ScanNumber,
}

/// Why a value could not be given or read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PointError {
    /// There is no such name.
    #[error("there is no variable `{0}`")]
    Unknown(String),
    /// The value does not fit the type.
    #[error("{value} is not a value of `{name}`")]
    Value {
        /// The point.
        name: String,
        /// What was given.
        value: String,
    },
}

/// A controller that runs one project.
pub struct Controller {
    pub(super) machine: Machine,
    pub(super) state: State,
    /// Outputs as the outside sees them, in the order of their points: those of the last whole scan.
    published: Vec<i64>,
    /// Where outputs lie in memory: first slot and how many, in the order of their points.
    shown: Arc<[(u32, u32)]>,
    /// Number of the first output among the points.
    first_output: u32,
    scan: u64,
    /// When power came on, on the time axis of the scenario.
    powered: Instant,
    last_start: Option<i64>,
    pub(super) due: Vec<i64>,
    stopped: bool,
    fault: Option<Fault>,
    closely: Option<Closely>,
    seen: Option<Seen>,
    pub(super) journal: Option<Journal>,
    loop_limit: u64,
}

impl std::fmt::Debug for Controller {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Controller")
            .field("scan", &self.scan)
            .field("powered", &self.powered)
            .field("stopped", &self.stopped)
            .field("fault", &self.fault)
            .finish_non_exhaustive()
    }
}

/// A controller's state at some moment.
pub(crate) struct Saved {
    state: State,
    published: Vec<i64>,
    scan: u64,
    last_start: Option<i64>,
    due: Vec<i64>,
    fault: Option<Fault>,
}

impl Controller {
    /// A controller that has just been powered up.
    #[must_use]
    pub fn new(machine: &Machine) -> Controller {
        let texts = machine.tape.texts.iter().cloned().collect();
        let state = State {
            memory: machine.tape.image.clone(),
            texts,
            now: 0,
            since_last: 0,
            first_scan: true,
            rounds: LOOP_LIMIT,
        };
        let inputs = machine.points_of(Direction::Input).count() as u32;
        let shown = together(machine.points_of(Direction::Output).map(|(_, point)| point.slot));
        let mut controller = Controller {
            due: vec![0; machine.tape.entries.len()],
            machine: machine.clone(),
            state,
            published: vec![0; shown.iter().map(|(_, count)| *count as usize).sum()],
            shown: shown.into(),
            first_output: inputs,
            scan: 0,
            powered: Instant::default(),
            last_start: None,
            stopped: false,
            fault: None,
            closely: None,
            seen: None,
            journal: None,
            loop_limit: LOOP_LIMIT,
        };
        controller.publish();
        controller
    }

    /// The same machine once more, as it stands, to go on by itself; what watches this one does not watch it.
    #[must_use]
    pub fn fork(&self) -> Controller {
        Controller {
            machine: self.machine.clone(),
            state: self.state.clone(),
            published: self.published.clone(),
            shown: Arc::clone(&self.shown),
            due: self.due.clone(),
            closely: self.closely.clone(),
            seen: None,
            journal: None,
            ..*self
        }
    }

    /// Goes on with a machine of the same project that differs in what it can be asked. False, and nothing is changed, if a
    /// probe has strings and others have been made since power-up.
    pub(crate) fn adopt(&mut self, machine: &Machine) -> bool {
        let (tape, known) = (machine.tape(), self.machine.tape().texts.len());
        let mut texts = self.state.texts.clone();
        let fits = (known..tape.texts.len()).all(|at| texts.insert_full(tape.texts[at].clone()).0 == at);
        if !fits {
            return false;
        }
        self.state.texts = texts;
        let from = self.state.memory.len().min(tape.image.len());
        self.state.memory.truncate(from);
        self.state.memory.extend_from_slice(&tape.image[from..]);
        self.machine = machine.clone();
        true
    }

    /// Sets how many rounds of loops one scan may take.
    pub fn set_loop_limit(&mut self, rounds: u64) {
        self.loop_limit = rounds;
    }

    /// Gives an input (or any variable) a value; seen from the next scan on.
    ///
    /// # Errors
    /// [`PointError::Value`] if it does not fit.
    #[inline]
    pub fn set(&mut self, point: PointId, value: &Value) -> Result<(), PointError> {
        let Point { slot: at, ty, .. } = self.machine.point(point);
        // Most points are BOOL or INT, and values are given in every scan.
        let quick = match (ty, value, &self.closely) {
            (PointType::Elem(Elem::Bool), Value::Bool(is_on), None) => Some(i64::from(*is_on)),
            (PointType::Elem(Elem::Int), Value::Int(number), None) => i16::try_from(*number).ok().map(i64::from),
            _ => None,
        };
        let Some(slot) = quick else { return self.set_any(point, value) };
        self.state.memory[*at as usize] = slot;
        Ok(())
    }

    #[inline(never)]
    fn set_any(&mut self, point: PointId, value: &Value) -> Result<(), PointError> {
        let slot = self.slot_value(point, value)?;
        self.set_slot(point, slot);
        Ok(())
    }

    /// Why a point does not take a value.
    #[cold]
    fn misfit(&self, point: PointId, value: &Value) -> PointError {
        PointError::Value { name: self.machine.point(point).name.clone(), value: value.to_string() }
    }

    /// As [`Controller::set`], by name.
    ///
    /// # Errors
    /// [`PointError`] if there is no such name or the value does not fit.
    pub fn set_named(&mut self, name: &str, value: &Value) -> Result<(), PointError> {
        let point = self.machine.find(name).ok_or_else(|| PointError::Unknown(name.to_string()))?;
        self.set(point, value)
    }

    #[inline]
    pub(crate) fn set_slot(&mut self, point: PointId, slot: i64) {
        let at = self.machine.point(point).slot;
        self.state.memory[at as usize] = slot;
        if let Some(closely) = &mut self.closely {
            if let Some((_, given)) = closely.given.iter_mut().find(|(forced, _)| *forced == at) {
                *given = slot;
            }
            self.hold_forced();
        }
    }

    #[inline]
    pub(crate) fn slot_value(&mut self, point: PointId, value: &Value) -> Result<i64, PointError> {
        let texts = &mut self.state.texts;
        let slot = self.machine.point(point).ty.slot(value, |text| Some(texts.insert_full(text.to_string()).0 as i64));
        slot.ok_or_else(|| self.misfit(point, value))
    }

    /// The value of a point: of an output as the outside sees it, of all else as it is now.
    #[must_use]
    pub fn get(&self, point: PointId) -> Value {
        self.value_of(point, self.get_slot(point))
    }

    /// As [`Controller::get`], by name.
    ///
    /// # Errors
    /// [`PointError::Unknown`] if there is no such name.
    pub fn get_named(&self, name: &str) -> Result<Value, PointError> {
        self.machine.find(name).map(|p| self.get(p)).ok_or_else(|| PointError::Unknown(name.to_string()))
    }

    /// Whether a BOOL wire of a program that is drawn was TRUE when it was computed last; `network` counts from 0.
    /// `None` if there is no such wire.
    #[must_use]
    pub fn wire(&self, program: &str, network: usize, wire: Wire) -> Option<bool> {
        if wire == Wire::RAIL {
            return Some(true);
        }
        self.machine.wire_slot(program, network, wire).map(|slot| self.state.memory[slot as usize] != 0)
    }

    pub(crate) fn get_slot(&self, point: PointId) -> i64 {
        // Points are inputs, then outputs, then the rest, so an output's number tells its place.
        let output = point.0.checked_sub(self.first_output).and_then(|n| self.published.get(n as usize));
        match output {
            Some(value) => *value,
            None => self.state.memory[self.machine.point(point).slot as usize],
        }
    }

    /// From now on notes outcomes, on top of those given.
    pub(crate) fn look(&mut self, seen: Seen) {
        self.seen = Some(seen);
    }

    /// What was seen; ends noting.
    pub(crate) fn seen(&mut self) -> Seen {
        self.seen.take().unwrap_or_default()
    }

    /// From now on keeps a journal of what is written.
    pub(crate) fn keep_journal(&mut self) {
        let forced = self.closely.as_ref().map_or(Vec::new(), |c| c.forced.clone());
        self.journal = Some(Journal::new(&forced));
    }

    /// Keeps no journal any more.
    pub(crate) fn leave_journal(&mut self) {
        self.journal = None;
    }

    /// The journal, if one is kept.
    pub(crate) fn journal(&self) -> Option<&Journal> {
        self.journal.as_ref()
    }

    /// Rounds of loops that the last scan has gone.
    pub(crate) fn rounds(&self) -> u64 {
        self.loop_limit.saturating_sub(self.state.rounds)
    }

    /// True once a whole scan has run since power-up.
    pub(crate) fn has_run(&self) -> bool {
        !self.state.first_scan
    }

    /// All of memory.
    pub(crate) fn memory(&self) -> &[i64] {
        &self.state.memory
    }

    /// Puts a controller that runs into a state: what slots hold, and when the last scan began, since power-up.
    pub(crate) fn put(&mut self, slots: &[(u32, i64)], last_start: i64) {
        slots.iter().for_each(|(slot, value)| self.state.memory[*slot as usize] = *value);
        self.state.first_scan = false;
        self.last_start = Some(last_start);
        self.publish();
    }

    /// What a scan may change, as numbers: memory, when each task is due, when the last scan began.
    pub(crate) fn numbers(&self) -> Vec<i64> {
        let last = self.last_start.unwrap_or_default();
        self.state.memory.iter().chain(&self.due).copied().chain([last]).collect()
    }

    /// Adds to each of those so much, so many times.
    pub(crate) fn shift(&mut self, by: &[i64], times: i64) {
        let last = self.last_start.as_mut();
        let numbers = self.state.memory.iter_mut().chain(&mut self.due).chain(last);
        numbers.zip(by).for_each(|(number, by)| *number = number.wrapping_add(by.wrapping_mul(times)));
        self.publish();
    }

    /// Everything that a scan may change, but for what watches it.
    pub(crate) fn save(&self) -> Saved {
        Saved {
            state: self.state.clone(),
            published: self.published.clone(),
            scan: self.scan,
            last_start: self.last_start,
            due: self.due.clone(),
            fault: self.fault,
        }
    }

    /// Back to where it was saved.
    pub(crate) fn restore(&mut self, saved: &Saved) {
        self.state.clone_from(&saved.state);
        self.published.clone_from(&saved.published);
        self.scan = saved.scan;
        self.last_start = saved.last_start;
        self.due.clone_from(&saved.due);
        self.fault = saved.fault;
    }

    /// What a slot holds now.
    pub(crate) fn slot(&self, slot: u32) -> i64 {
        self.state.memory[slot as usize]
    }

    /// Computes a probe of [`Machine::with_probes`] on the memory as it is now. `None` if it has no value, because it
    /// divides by zero, say; or if there is no such probe.
    pub fn ask(&mut self, probe: usize) -> Option<i64> {
        let tape = Arc::clone(&self.machine.tape);
        let (start, slot) = *tape.probes.get(probe)?;
        self.state.rounds = self.loop_limit;
        run::run(&tape, &mut self.state, start, &mut Unwatched).ok()?;
        Some(self.state.memory[slot as usize])
    }

    /// Runs one scan that begins at `at`, on the time axis of the scenario (never before the previous one).
    ///
    /// A stopped or faulted controller does nothing but let time pass.
    pub fn scan(&mut self, at: Instant) {
        let number = ScanNumber(self.scan);
        self.scan += 1;
        if self.stopped || self.fault.is_some() {
            return;
        }
        let now = at.0.nanos() - self.powered.0.nanos();
        self.state.now = now;
        self.state.since_last = self.last_start.map_or(0, |last| now - last);
        self.state.rounds = self.loop_limit;
        let tape = &self.machine.tape;
        for (entry_number, (entry, due)) in tape.entries.iter().zip(&mut self.due).enumerate() {
            if entry.interval > 0 {
                if now < *due {
                    continue;
                }
                *due += ((now - *due) / entry.interval + 1) * entry.interval;
            }
            let state = &mut self.state;
            let result = match (&mut self.journal, &mut self.closely, &mut self.seen) {
                (Some(journal), ..) => {
                    journal.scan = number.0;
                    run::run(tape, state, entry.start, journal)
                }
                (None, Some(closely), _) => run::run(tape, state, entry.start, closely),
                (None, None, Some(seen)) => run::run(tape, state, entry.start, seen),
                (None, None, None) => tape.fused().run(tape, state, entry_number),
            };
            if let Err((kind, at)) = result {
                self.fault = Some(Fault { kind, span: tape.spans[at], scan: number });
                return;
            }
        }
        self.state.first_scan = false;
        self.last_start = Some(now);
        self.publish();
    }

    #[inline]
    fn publish(&mut self) {
        let mut published = self.published.as_mut_slice();
        for (first, count) in self.shown.iter() {
            let (own, rest) = published.split_at_mut(*count as usize);
            own.copy_from_slice(&self.state.memory[*first as usize..(first + count) as usize]);
            published = rest;
        }
    }

    /// Switches power off and on at `at`: all but retained variables start anew, and so does time. Inputs keep
    /// what the outside gives.
    pub fn power_cycle(&mut self, at: Instant) {
        self.power_up(at, true);
    }

    /// As [`Controller::power_cycle`], and what is retained starts anew as well.
    pub fn cold_start(&mut self, at: Instant) {
        self.power_up(at, false);
    }

    fn power_up(&mut self, at: Instant, keeps: bool) {
        let tape = Arc::clone(&self.machine.tape);
        let now = at.0.nanos() - self.powered.0.nanos();
        for &watch in &tape.watches {
            // A retained stopwatch goes on from what it showed; time begins at zero again.
            self.state.memory[watch as usize] -= now;
        }
        let inputs: Vec<(u32, i64)> = self
            .machine
            .points_of(Direction::Input)
            .map(|(_, p)| (p.slot, self.state.memory[p.slot as usize]))
            .collect();
        for (slot, initial) in tape.image.iter().enumerate() {
            let lasts = tape.lasting.iter().any(|part| part.contains(&(slot as u32)));
            if !(lasts || keeps && tape.retained[slot]) {
                self.state.memory[slot] = *initial;
            }
        }
        for (slot, value) in inputs {
            self.state.memory[slot as usize] = value;
        }
        self.powered = at;
        self.last_start = None;
        self.due.fill(0);
        self.state.first_scan = true;
        self.fault = None;
        self.hold_forced();
        self.publish();
    }

    /// What a stimulus says of the controller itself.
    pub fn power(&mut self, power: Power, at: Instant) {
        match power {
            Power::Cycle => self.power_cycle(at),
            Power::Cold => self.cold_start(at),
            Power::Stop => self.stop(),
            Power::Run => self.run(),
        }
    }

    /// True after STOP.
    #[must_use]
    pub fn is_stopped(&self) -> bool {
        self.stopped
    }

    /// STOP: memory is kept, the program is frozen, outputs hold.
    pub fn stop(&mut self) {
        self.stopped = true;
    }

    /// RUN: goes on where STOP left off. A fault is not cleared by it.
    pub fn run(&mut self) {
        self.stopped = false;
    }

    /// Forces a variable: it reads this value everywhere until released, whatever writes it.
    ///
    /// # Errors
    /// [`PointError::Value`] if the value does not fit.
    pub fn force(&mut self, point: PointId, value: &Value) -> Result<(), PointError> {
        let value = self.slot_value(point, value)?;
        let Point { slot, direction, .. } = *self.machine.point(point);
        let closely = self.closely.get_or_insert_with(Closely::default);
        if direction == Direction::Input && !closely.forced.iter().any(|(s, _)| *s == slot) {
            closely.given.push((slot, self.state.memory[slot as usize]));
        }
        closely.forced.retain(|(s, _)| *s != slot);
        closely.forced.push((slot, value));
        self.hold_forced();
        self.tell_journal();
        Ok(())
    }

    /// Ends a force; the variable keeps the forced value until something writes it, and an input is again what it is given.
    pub fn release(&mut self, point: PointId) {
        let slot = self.machine.point(point).slot;
        if let Some(closely) = &mut self.closely {
            if let Some(at) = closely.given.iter().position(|(s, _)| *s == slot) {
                self.state.memory[slot as usize] = closely.given.swap_remove(at).1;
            }
            closely.forced.retain(|(s, _)| *s != slot);
            if closely.forced.is_empty() && closely.writers.is_none() {
                self.closely = None;
            }
        }
        self.tell_journal();
    }

    /// A journal holds what is forced, as it takes the place of what does so otherwise.
    fn tell_journal(&mut self) {
        let forced = self.closely.as_ref().map_or(&[][..], |closely| &closely.forced);
        if let Some(journal) = &mut self.journal {
            journal.hold(forced);
        }
    }

    fn hold_forced(&mut self) {
        if let Some(closely) = &self.closely {
            for (slot, value) in &closely.forced {
                self.state.memory[*slot as usize] = *value;
            }
        }
    }

    /// What a slot of a point says as a value.
    pub(crate) fn value_of(&self, point: PointId, slot: i64) -> Value {
        let text = |text: i64| self.state.texts.get_index(text as usize).cloned().unwrap_or_default();
        self.machine.point(point).ty.value(slot, text)
    }

    /// How much memory it has.
    pub(crate) fn slots(&self) -> usize {
        self.state.memory.len()
    }

    /// Whether a point is held at a value.
    #[must_use]
    pub fn is_forced(&self, point: PointId) -> bool {
        let slot = self.machine.point(point).slot;
        self.closely.as_ref().is_some_and(|closely| closely.forced.iter().any(|(forced, _)| *forced == slot))
    }

    /// Goes on as another machine stands, whose slots belong to its own as said: `(own, other, whether it holds a string)`.
    pub(crate) fn carry_over(&mut self, other: &Controller, slots: &[(u32, u32, bool)]) {
        for (own, old, is_text) in slots {
            let mut value = other.state.memory[*old as usize];
            if *is_text {
                let text = other.state.texts.get_index(value as usize).cloned().unwrap_or_default();
                value = self.state.texts.insert_full(text).0 as i64;
            }
            self.state.memory[*own as usize] = value;
        }
        if self.due.len() == other.due.len() {
            self.due.clone_from(&other.due);
        }
        self.state.first_scan = other.state.first_scan;
        (self.scan, self.powered, self.last_start) = (other.scan, other.powered, other.last_start);
        (self.stopped, self.fault) = (other.stopped, other.fault);
        self.publish();
    }

    /// Scans since the controller was made.
    #[must_use]
    pub fn scans(&self) -> u64 {
        self.scan
    }

    /// The fault that stopped the program, if one did.
    #[must_use]
    pub fn fault(&self) -> Option<Fault> {
        self.fault
    }

    /// From now on notes which statement writes which variable; slower.
    pub fn note_writers(&mut self) {
        self.closely.get_or_insert_with(Closely::default).writers.get_or_insert_with(HashMap::new);
    }

    /// The statement or instruction that wrote a point last, if writers are noted and one did.
    #[must_use]
    pub fn writer(&self, point: PointId) -> Option<Span> {
        let writers = self.closely.as_ref()?.writers.as_ref()?;
        let at = writers.get(&self.machine.point(point).slot)?;
        self.machine.tape.spans.get(*at as usize).copied()
    }

    /// The compiled project it runs.
    #[must_use]
    pub fn machine(&self) -> &Machine {
        &self.machine
    }
}

/// Slots in their order, as first ones and how many follow each other.
fn together(slots: impl Iterator<Item = u32>) -> Vec<(u32, u32)> {
    let mut out: Vec<(u32, u32)> = Vec::new();
    for slot in slots {
        match out.last_mut() {
            Some((first, count)) if *first + *count == slot => *count += 1,
            _ => out.push((slot, 1)),
        }
    }
    out
}
