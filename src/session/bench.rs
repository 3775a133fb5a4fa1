//! The machines on the bench: driven scan by scan, with all that is needed to go back.

use super::carry::Kept;
use super::frames::{Before, Frame, Frames};
use super::log::{Entry, Happening, Position, held};
use super::parted::{Parted, parted};
use super::questions::Questions;
use super::seen::Seen;
use crate::model::Instant;
use crate::scan::ScanTime;
use crate::scan::{Controller, Direction, Moment, Power};
use crate::twin::script::Lapse;
use crate::twin::script::perform::{Goes, Stage};
use crate::twin::{Halt, Pace, Timing, Twin};
use std::sync::Arc;

/// Most scans of a session, and of one act.
const MOST_SCANS: u64 = 100_000_000;
pub(super) const MOST_OF_AN_ACT: u64 = 10_000_000;

pub(super) struct Bench {
    /// All programs that have run, in the order in which they were read.
    programs: Vec<Arc<Twin<'static>>>,
    program: usize,
    pub(super) questions: Questions,
    pub(super) controllers: Vec<Controller>,
    pub(super) pace: Pace,
    scan: u64,
    now: Option<Instant>,
    pub(super) log: Vec<Entry>,
    /// How many entries of the log have happened.
    happened: usize,
    frames: Frames,
    pub(super) seen: Seen,
    before: Before,
    /// Whether paired outputs differ after the last scan.
    pub(super) apart: bool,
    /// Where they began to differ, until that was told.
    pub(super) parted: Option<Parted>,
    /// Whether the next scan is looked at closely.
    pub(super) closely: bool,
    /// Whether journals are kept, which looking closely would end.
    pub(super) journals: bool,
    /// What the last scan did on each side, if it was looked at.
    pub(super) moments: Option<Vec<Moment>>,
    pub(super) halt: Halt,
    /// Scans that the act at hand may still take.
    pub(super) left: u64,
}

impl Bench {
    pub(super) fn new(twin: Twin<'static>) -> Bench {
        let time = time_of(&twin);
        let halt = twin.halt.clone();
        let twin = Arc::new(twin);
        let questions = Questions::new(&twin);
        let mut bench = Bench {
            controllers: questions.controllers(),
            programs: vec![twin],
            program: 0,
            questions,
            pace: Pace::of(&time),
            scan: 0,
            now: None,
            log: Vec::new(),
            happened: 0,
            frames: Frames::default(),
            seen: Seen::default(),
            before: Before::default(),
            apart: false,
            parted: None,
            closely: false,
            journals: false,
            moments: None,
            halt,
            left: MOST_OF_AN_ACT,
        };
        bench.rest();
        bench.note_points();
        bench
    }

    /// The same once more, to go on by itself.
    pub(super) fn fork(&self) -> Bench {
        Bench {
            programs: self.programs.clone(),
            questions: self.questions.clone(),
            controllers: self.controllers.iter().map(Controller::fork).collect(),
            pace: self.pace.clone(),
            log: self.log.clone(),
            frames: self.frames.fork(),
            seen: self.seen.clone(),
            before: self.before.clone(),
            parted: self.parted.clone(),
            moments: self.moments.clone(),
            halt: Halt::default(),
            ..*self
        }
    }

    pub(super) fn twin(&self) -> &Arc<Twin<'static>> {
        &self.programs[self.program]
    }

    pub(super) fn position(&self) -> Position {
        Position { scan: self.scan, log: self.happened }
    }

    /// What has happened so far.
    pub(super) fn happened(&self) -> &[Entry] {
        &self.log[..self.happened]
    }

    /// The inputs that were set since the last scan, and an empty name for all else that has happened.
    pub(super) fn unseen(&self) -> Vec<String> {
        let own = self.happened().iter().rev().take_while(|entry| entry.scan == self.scan);
        own.map(|entry| if let Happening::Set(name, _) = &entry.what { name.clone() } else { String::new() }).collect()
    }

    /// When a scan began, of those before the next.
    pub(super) fn began(&self) -> Option<Instant> {
        self.now
    }

    /// Inputs with a value at rest that is not their initial one.
    fn rest(&mut self) {
        let twin = Arc::clone(self.twin());
        if let [only] = self.controllers.as_mut_slice() {
            let rests = twin.pairing.inputs().iter().filter_map(|pair| Some((pair.left(), pair.rest?)));
            rests.for_each(|(point, value)| only.set_slot(point, value));
        }
        let Ok(both) = <&mut [Controller; 2]>::try_from(self.controllers.as_mut_slice()) else { return };
        for (input, pair) in twin.pairing.inputs().iter().enumerate() {
            let value = pair.rest.unwrap_or_else(|| both[0].get_slot(pair.left()));
            crate::twin::sets(&twin, both, input, value);
        }
    }

    /// Notes the inputs and outputs of all versions; of the second what the first has under the same name as well.
    fn note_points(&mut self) {
        for (side, controller) in self.controllers.iter().enumerate() {
            for direction in [Direction::Input, Direction::Output] {
                for (point, of) in controller.machine().points_of(direction) {
                    self.seen.note(side, &of.name, point, controller);
                }
            }
        }
    }

    /// Runs some scans, the last one looked at closely; fewer if something ends it.
    pub(super) fn pass(&mut self, scans: u64) -> Result<u64, String> {
        for gone in 0..scans {
            self.closely = gone + 1 == scans;
            let goes = self.tick();
            self.closely = false;
            if goes? == Goes::NoFurther {
                return Ok(gone + 1);
            }
        }
        Ok(scans)
    }

    /// Does something, and notes it in the log. What was beyond this moment never happens.
    pub(super) fn happen(&mut self, what: Happening) -> Result<(), String> {
        self.cut();
        self.apply(&what)?;
        self.enter(what);
        Ok(())
    }

    /// What has just happened enters the log.
    fn enter(&mut self, what: Happening) {
        self.log.push(Entry { scan: self.scan, what });
        self.happened = self.log.len();
        self.moments = None;
    }

    /// What lies beyond this moment never happened.
    pub(super) fn cut(&mut self) {
        let here = self.position();
        if self.happened < self.log.len() || self.seen.until > self.scan {
            self.log.truncate(self.happened);
            self.frames.forget(here);
            self.seen.forget(self.scan);
        }
    }

    fn apply(&mut self, what: &Happening) -> Result<(), String> {
        let twin = Arc::clone(self.twin());
        let now = self.upcoming_at();
        match what {
            Happening::Set(name, text) => super::give::set(&twin, &mut self.controllers, name, text),
            Happening::Write(name, text) => super::give::write(&twin, &mut self.controllers, name, text),
            Happening::Force(name, text) => super::give::force(&twin, &mut self.controllers, name, text),
            Happening::Release(name) => {
                super::give::release(&twin, &mut self.controllers, name);
                Ok(())
            }
            Happening::Change(name, text) => {
                let was = super::give::slots(&twin, &self.controllers, name);
                super::give::force(&twin, &mut self.controllers, name, text)?;
                self.before.entry(name.clone()).or_insert(was);
                Ok(())
            }
            Happening::PutBack(name) => {
                super::give::release(&twin, &mut self.controllers, name);
                if let Some(was) = self.before.remove(name) {
                    super::give::restore(&twin, &mut self.controllers, name, &was);
                }
                Ok(())
            }
            Happening::Power(power) => {
                self.controllers.iter_mut().for_each(|controller| controller.power(*power, now));
                Ok(())
            }
            Happening::Program(number) => self.swap(*number).map(drop),
        }
    }

    /// The programs of another number take over, with the memory of those that run; gives for each version what was kept.
    fn swap(&mut self, number: usize) -> Result<Vec<Kept>, String> {
        let from = Arc::clone(self.twin());
        let to = Arc::clone(&self.programs[number]);
        let questions = Questions::new(&to);
        let controllers = questions.controllers();
        let (mut carried, mut all_kept) = (Vec::new(), Vec::new());
        for (side, fresh) in controllers.into_iter().enumerate() {
            let (controller, kept) = super::carry::carry(&from, &to, side, &self.controllers[side], fresh)?;
            carried.push(controller);
            all_kept.push(kept);
        }
        self.controllers = carried;
        self.questions = questions;
        self.program = number;
        for held in held(&self.log[..self.happened]) {
            // What the new program does not have cannot be held.
            let _ = super::give::force(&to, &mut self.controllers, &held.name, &held.value);
        }
        self.seen.find(&self.controllers);
        self.note_points();
        Ok(all_kept)
    }

    /// Programs that were read anew take over; gives for each version what was kept of its memory.
    pub(super) fn reread(&mut self, twin: Twin<'static>) -> Result<Vec<Kept>, String> {
        if twin.is_single() != self.twin().is_single() {
            return Err("as many versions are read again as there were".to_string());
        }
        self.cut();
        let number = self.programs.len();
        self.programs.push(Arc::new(twin));
        let kept = self.swap(number);
        match &kept {
            Ok(_) => self.enter(Happening::Program(number)),
            Err(_) => drop(self.programs.pop()),
        }
        kept
    }

    /// Goes to a moment, by a kept state and the log.
    pub(super) fn go(&mut self, to: Position) -> Result<(), String> {
        let here = self.position();
        if here == to {
            return Ok(());
        }
        let forward = here <= to && here.log <= to.log;
        let frame = self.frames.before(to);
        // From here it may be nearer than from any state that was kept.
        let nearer = frame.is_none_or(|frame| frame.position.scan < here.scan);
        if !(forward && nearer) {
            self.restore(to);
        }
        self.replay(to)
    }

    /// On to a moment that lies ahead and was come to before.
    pub(super) fn replay(&mut self, to: Position) -> Result<(), String> {
        while self.position() != to {
            let due = self.log.get(self.happened).filter(|entry| entry.scan == self.scan && self.happened < to.log);
            if let Some(entry) = due {
                let what = entry.what.clone();
                self.happened += 1;
                self.apply(&what)?;
                continue;
            }
            if self.scan >= to.scan {
                break;
            }
            self.closely = self.scan + 1 == to.scan;
            self.step();
            self.closely = false;
        }
        self.parted = None;
        Ok(())
    }

    /// Back to the last kept state that is not beyond a moment, or to power-up.
    fn restore(&mut self, to: Position) {
        self.moments = None;
        let program = self.program;
        match self.frames.before(to) {
            Some(frame) => {
                self.controllers = frame.controllers.iter().map(Controller::fork).collect();
                self.pace = frame.pace.clone();
                (self.scan, self.happened) = (frame.position.scan, frame.position.log);
                (self.now, self.program, self.apart) = (frame.now, frame.program, frame.apart);
                self.before = frame.before.clone();
            }
            None => {
                self.program = 0;
                self.questions = Questions::new(&self.programs[0]);
                self.controllers = self.questions.controllers();
                self.pace = Pace::of(&time_of(&self.programs[0]));
                (self.scan, self.happened, self.now, self.apart) = (0, 0, None, false);
                self.before = Before::default();
                self.rest();
                self.seen.stand(&self.controllers);
            }
        }
        if self.program != program {
            self.questions = Questions::new(&self.programs[self.program]);
            self.seen.find(&self.controllers);
        }
    }

    /// Controllers as they stood so many scans ago, before what happened then, and how to go on from there.
    pub(super) fn earlier(&mut self, scans: u64, mut each: impl FnMut(&mut Bench)) -> Result<(), String> {
        let here = self.position();
        let from = here.scan.saturating_sub(scans);
        let log = self.log.partition_point(|entry| entry.scan < from);
        self.go(Position { scan: from, log })?;
        each(self);
        self.go(here)
    }

    /// One scan on every version, whatever comes of it.
    fn step(&mut self) {
        let here = self.position();
        if self.frames.wants(here) {
            self.frames.keep(Frame {
                position: here,
                now: self.now,
                program: self.program,
                controllers: self.controllers.iter().map(Controller::fork).collect(),
                pace: self.pace.clone(),
                before: self.before.clone(),
                apart: self.apart,
            });
        }
        let at = self.upcoming_at();
        self.pace.tick();
        self.moments = if self.closely && !self.journals {
            Some(self.controllers.iter_mut().map(|controller| controller.scan_closely(at)).collect())
        } else {
            self.controllers.iter_mut().for_each(|controller| controller.scan(at));
            None
        };
        self.now = Some(at);
        self.seen.look(&self.controllers, self.scan, at);
        self.scan += 1;
        let twin = Arc::clone(self.twin());
        let differs = parted(&twin, &mut self.controllers, self.scan - 1, at);
        if !self.apart {
            self.parted.clone_from(&differs);
        }
        self.apart = differs.is_some();
    }

    fn upcoming_at(&self) -> Instant {
        Instant(crate::model::Duration::from_nanos(self.pace.now()))
    }

    /// The last scan once more, looked at closely, unless that was done.
    pub(super) fn look(&mut self) -> Result<(), String> {
        if self.moments.is_some() || self.scan == 0 {
            return Ok(());
        }
        let here = self.position();
        let log = self.log.partition_point(|entry| entry.scan < here.scan);
        // What has happened since the last scan comes after it.
        let after = Position { scan: here.scan, log: log.min(here.log) };
        let mut moments = None;
        self.earlier(1, |bench| {
            if bench.go(after).is_ok() {
                moments = bench.moments.take();
            }
        })?;
        self.moments = moments;
        Ok(())
    }
}

/// Scan times in lockstep; where each version has its own, those of the first.
pub(super) fn time_of(twin: &Twin<'_>) -> ScanTime {
    match &twin.timing {
        Timing::Lockstep(time) | Timing::Free([time, _]) => time.clone(),
    }
}

impl Stage for Bench {
    fn upcoming(&mut self) -> Instant {
        self.upcoming_at()
    }

    fn now(&self) -> Instant {
        self.now.unwrap_or_default()
    }

    fn scans(&self) -> u64 {
        self.scan
    }

    fn tick(&mut self) -> Result<Goes, String> {
        if self.scan >= MOST_SCANS {
            return Err(format!("a session lasts {MOST_SCANS} scans at most"));
        }
        if self.left == 0 {
            return Err(format!("an act lasts {MOST_OF_AN_ACT} scans at most; what was done until then stands"));
        }
        self.left -= 1;
        self.cut();
        let faults = |bench: &Bench| bench.controllers.iter().filter(|c| c.fault().is_some()).count();
        let before = faults(self);
        self.step();
        let ends = self.parted.is_some() || faults(self) > before || self.halt.has_rung();
        Ok(if ends { Goes::NoFurther } else { Goes::On })
    }

    /// Nothing: a session does what it can, and tells what stands.
    fn refuses(&self, _lapse: Lapse) -> Option<String> {
        None
    }

    fn versions(&self) -> usize {
        self.controllers.len()
    }

    fn controller(&self, version: usize) -> &Controller {
        &self.controllers[version]
    }

    fn set(&mut self, name: &str, text: &str) -> Result<(), String> {
        let name = super::give::input_name(self.twin(), name);
        self.happen(Happening::Set(name, text.to_string()))
    }

    fn write(&mut self, name: &str, text: &str) -> Result<(), String> {
        let name = super::give::variable_name(self.twin(), name)?;
        self.happen(Happening::Write(name, text.to_string()))
    }

    fn force(&mut self, name: &str, text: Option<&str>) -> Result<(), String> {
        let name = super::give::variable_name(self.twin(), name)?;
        self.happen(match text {
            Some(text) => Happening::Force(name, text.to_string()),
            None => Happening::Release(name),
        })
    }

    fn power(&mut self, power: Power) -> Result<(), String> {
        self.happen(Happening::Power(power))
    }

    fn ask(&mut self, version: usize, text: &str) -> Result<Option<i64>, String> {
        let twin = Arc::clone(self.twin());
        self.questions.ask(&twin, &mut self.controllers, version, text)
    }
}
