//! Playing a scenario on one or several versions at once: inputs are the same for all, expectations are asked of each.

use super::perform::{Goes, Performer, Stage};
use super::{Deed, Lapse, Line, Script, ScriptError};
use crate::check::probe;
use crate::lang::read_duration;
use crate::model::{Duration, Family, Instant, ScanNumber, Value};
use crate::scan::{Controller, Direction, Machine, PointId, Power, Recorder, ScanTime, Trace};
use crate::twin::Version;
use serde::Serialize;
use std::collections::HashMap;

/// An expectation that a version does not meet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Failure {
    /// The scenario.
    pub scenario: String,
    /// Its line.
    pub line: usize,
    /// The version.
    pub version: String,
    /// The scan after which it was clear.
    pub scan: ScanNumber,
    /// When that scan began.
    pub at: Instant,
    /// The expression that was expected to be TRUE, or to stay as it was.
    pub expected: String,
    /// What was expected and what was seen.
    pub what: String,
}

/// What came of playing a scenario.
#[derive(Clone, Debug)]
pub struct Played {
    /// Expectations that were not met, in order.
    pub failures: Vec<Failure>,
    /// How many were asked, of all versions together.
    pub asked: usize,
    /// What each version did.
    pub traces: Vec<Trace>,
    /// What was given to the first version, as a stimulus.
    pub stimulus: crate::scan::Stimulus,
    /// True if points were forced or written that are no inputs: a scenario of a comparison does not say that.
    pub forced: bool,
}

struct Actor {
    name: String,
    controller: Controller,
    recorder: Recorder,
    probes: HashMap<String, usize>,
}

/// Plays a scenario on versions in lockstep, from power-up.
///
/// # Errors
/// The first line that the first version cannot follow: a name it has not, a value that does not fit. Names that a
/// further version has not are passed over there; expressions must be known to all.
pub fn play(script: &Script, versions: &[&Version], time: &ScanTime) -> Result<Played, ScriptError> {
    let mut expressions = Vec::new();
    expressions_of(&script.lines, &mut expressions);
    let mut actors = Vec::new();
    for version in versions {
        let mut probes = Vec::new();
        let mut numbers = HashMap::new();
        for (line, text, is_question) in &expressions {
            let wrong = |why: String| ScriptError { line: *line, what: format!("{}: {why}", version.name) };
            let found = probe(&version.checked, text).map_err(|e| wrong(e.to_string()))?;
            if *is_question && !found.is_bool() {
                return Err(wrong(format!("`{text}` is not BOOL, so it cannot be expected")));
            }
            if numbers.contains_key(text) {
                continue;
            }
            numbers.insert(text.clone(), probes.len());
            probes.push(found);
        }
        let machine = Machine::with_probes(&version.checked, &probes)
            .map_err(|e| ScriptError { line: 1, what: format!("{}: {e}", version.name) })?;
        actors.push(Actor {
            name: version.name.clone(),
            controller: Controller::new(&machine),
            recorder: Recorder::new(&machine, &[]),
            probes: numbers,
        });
    }
    let mut theatre = Theatre {
        actors,
        clock: time.clock(),
        longest: time.longest(),
        now: Instant::default(),
        next: None,
        scan: 0,
        events: Vec::new(),
        forced: false,
    };
    let mut performer = Performer::default();
    performer.block(&mut theatre, &script.lines)?;
    if theatre.scan == 0 {
        performer.tick(&mut theatre, 1)?;
    }
    let names: Vec<String> = theatre.actors.iter().map(|actor| actor.name.clone()).collect();
    let failures = performer.misses.into_iter().map(|miss| Failure {
        scenario: script.name.clone(),
        line: miss.line,
        version: names[miss.version].clone(),
        scan: ScanNumber(miss.scan),
        at: miss.at,
        expected: miss.expected,
        what: miss.what,
    });
    Ok(Played {
        failures: failures.collect(),
        asked: performer.asked,
        traces: theatre.actors.into_iter().map(|a| a.recorder.finish()).collect(),
        stimulus: crate::scan::Stimulus { events: theatre.events },
        forced: theatre.forced,
    })
}

/// Expressions with their lines, and whether they are asked as questions.
pub(crate) fn expressions_of(lines: &[Line], out: &mut Vec<(usize, String, bool)>) {
    for line in lines {
        match &line.deed {
            Deed::Until(text, _) | Deed::Expect(text, _) | Deed::Row { expected: Some(text), .. } => {
                out.push((line.number, text.clone(), true));
            }
            Deed::Unchanged(text, _) => out.push((line.number, text.clone(), false)),
            Deed::Repeat(_, body) => expressions_of(body, out),
            Deed::Set(..)
            | Deed::Toggle(_)
            | Deed::Press { .. }
            | Deed::Wait(_)
            | Deed::Row { .. }
            | Deed::Ramp { .. }
            | Deed::Force(..)
            | Deed::Release(_)
            | Deed::Write(..)
            | Deed::Power(_)
            | Deed::Off(_) => {}
        }
    }
}

/// The versions that a scenario is played on, from power-up to its end.
struct Theatre<'s> {
    actors: Vec<Actor>,
    clock: crate::scan::Clock<'s>,
    /// The longest that a scan may take.
    longest: Duration,
    /// When the last scan began.
    now: Instant,
    /// When the next one begins, if that was asked for already.
    next: Option<Instant>,
    scan: u64,
    events: Vec<crate::scan::Event>,
    forced: bool,
}

impl Theatre<'_> {
    fn event(&mut self) -> &mut crate::scan::Event {
        let at = self.upcoming().0;
        self.events.push(crate::scan::Event::at(at));
        let last = self.events.len() - 1;
        &mut self.events[last]
    }
}

impl Stage for Theatre<'_> {
    fn upcoming(&mut self) -> Instant {
        match self.next {
            Some(at) => at,
            None => {
                let at = self.clock.next().unwrap_or(self.now);
                self.next = Some(at);
                at
            }
        }
    }

    fn now(&self) -> Instant {
        self.now
    }

    fn scans(&self) -> u64 {
        self.scan
    }

    fn tick(&mut self) -> Result<Goes, String> {
        if self.actors.iter().any(|actor| actor.recorder.is_full()) {
            return Err(format!(
                "the scenario is followed for {} scans; of more scans, or of values that change more often, no trace is kept",
                self.scan
            ));
        }
        let at = self.upcoming();
        self.next = None;
        for actor in &mut self.actors {
            actor.controller.scan(at);
            actor.recorder.row(&actor.controller, ScanNumber(self.scan), at);
        }
        self.now = at;
        self.scan += 1;
        Ok(Goes::On)
    }

    fn refuses(&self, lapse: Lapse) -> Option<String> {
        let scans = match lapse {
            Lapse::Scans(scans) => scans,
            Lapse::Time(time) => (time.nanos().max(0) / self.longest.nanos().max(1)) as u64,
        };
        let most = Trace::MOST_SCANS as u64;
        (scans > most.saturating_sub(self.scan)).then(|| {
            format!("this lasts {scans} scans or more, and of more than {most} scans from power-up no trace is kept")
        })
    }

    fn versions(&self) -> usize {
        self.actors.len()
    }

    fn controller(&self, version: usize) -> &Controller {
        &self.actors[version].controller
    }

    fn set(&mut self, name: &str, text: &str) -> Result<(), String> {
        for index in 0..self.actors.len() {
            match input(self.actors[index].controller.machine(), name, text) {
                Ok((point, value)) => {
                    self.actors[index].controller.set(point, &value).map_err(|e| e.to_string())?;
                    if index == 0 {
                        self.event().set.push((point, value));
                    }
                }
                Err(what) if index == 0 => return Err(what),
                Err(_) => {}
            }
        }
        Ok(())
    }

    fn write(&mut self, name: &str, text: &str) -> Result<(), String> {
        self.forced = true;
        for index in 0..self.actors.len() {
            let actor = &mut self.actors[index];
            let machine = actor.controller.machine().clone();
            match variable(&machine, name, text) {
                Ok(written) => {
                    actor.controller.set(written.0, &written.1).map_err(|e| e.to_string())?;
                    actor.recorder.write(&machine, &written);
                    if index == 0 {
                        self.event().write.push(written);
                    }
                }
                Err(what) if index == 0 => return Err(what),
                Err(_) => {}
            }
        }
        Ok(())
    }

    fn force(&mut self, name: &str, text: Option<&str>) -> Result<(), String> {
        self.forced = true;
        let mut first = None;
        for (index, actor) in self.actors.iter_mut().enumerate() {
            let machine = actor.controller.machine().clone();
            let Some(point) = machine.find(name) else {
                if index == 0 {
                    return Err(format!("there is no variable `{name}`"));
                }
                continue;
            };
            let mut value = None;
            match text {
                None => actor.controller.release(point),
                Some(text) => {
                    let (_, parsed) = variable(&machine, name, text)?;
                    actor.controller.force(point, &parsed).map_err(|e| e.to_string())?;
                    value = Some(parsed);
                }
            }
            actor.recorder.force(&machine, &(point, value.clone()));
            if index == 0 {
                first = Some((point, value));
            }
        }
        if let Some(force) = first {
            self.event().force.push(force);
        }
        Ok(())
    }

    fn power(&mut self, power: Power) -> Result<(), String> {
        let at = self.upcoming();
        for actor in &mut self.actors {
            actor.recorder.power(power);
            actor.controller.power(power, at);
        }
        self.event().power = Some(power);
        Ok(())
    }

    fn ask(&mut self, version: usize, text: &str) -> Result<Option<i64>, String> {
        let actor = &mut self.actors[version];
        Ok(actor.probes.get(text).copied().and_then(|probe| actor.controller.ask(probe)))
    }
}

/// A variable of a machine, and a value of it.
pub(crate) fn variable(machine: &Machine, name: &str, text: &str) -> Result<(PointId, Value), String> {
    let point = machine.find(name).ok_or_else(|| format!("there is no variable `{name}`"))?;
    let value = value(machine, point, text)?;
    Ok((point, value))
}

/// An input of a machine, and a value of it.
pub(crate) fn input(machine: &Machine, name: &str, text: &str) -> Result<(PointId, Value), String> {
    let point = machine.find(name).filter(|p| machine.point(*p).direction == Direction::Input);
    let Some(point) = point else {
        let inputs: Vec<&str> = machine.points_of(Direction::Input).map(|(_, p)| p.name.as_str()).collect();
        return Err(format!("there is no input `{name}`; the inputs are {}", inputs.join(", ")));
    };
    let value = value(machine, point, text)?;
    Ok((point, value))
}

/// A value as a stimulus says it; of a time also with its unit, as `1m30s` or `T#1m30s`.
fn value(machine: &Machine, point: PointId, text: &str) -> Result<Value, String> {
    let of = machine.point(point);
    let plain = || machine.parse(point, text);
    let with_unit = || {
        let bare = text.split_once('#').map_or(text, |(_, bare)| bare);
        let time = (of.ty.family() == Family::Time).then(|| read_duration(bare).ok()).flatten()?;
        machine.parse(point, &Value::Time(time).cell())
    };
    plain().or_else(with_unit).ok_or_else(|| format!("`{text}` is not a value of `{}`, which is {}", of.name, of.ty))
}

impl Played {
    /// How long it took, in scans.
    #[must_use]
    pub fn scans(&self) -> u64 {
        self.traces.first().map_or(0, |t| t.scans().len() as u64)
    }

    /// How long it took.
    #[must_use]
    pub fn time(&self) -> Duration {
        self.traces.first().and_then(|t| t.scans().last()).map_or(Duration::ZERO, |(_, at)| at.0)
    }
}
