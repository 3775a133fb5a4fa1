//! Playing a scenario on one or several versions at once: inputs are the same for all, expectations are asked of each.

use super::{Deed, Lapse, Line, Script, ScriptError, When};
use crate::check::probe;
use crate::model::{Duration, Family, Instant, ScanNumber, Value};
use crate::scan::{Controller, Direction, Machine, PointId, Power, Recorder, ScanTime, Trace};
use crate::twin::Version;
use crate::twin::explain::readable;
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
    /// True if points were forced: a scenario of a comparison does not say that.
    pub forced: bool,
}

/// Most scans of one scenario.
const MOST_SCANS: u64 = 10_000_000;

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
    collect(&script.lines, &mut expressions);
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
    let mut player = Player {
        name: &script.name,
        actors,
        clock: time.clock(),
        now: Instant::default(),
        next: None,
        scan: 0,
        failures: Vec::new(),
        asked: 0,
        events: Vec::new(),
        forced: false,
        fresh: Vec::new(),
    };
    player.block(&script.lines)?;
    if player.scan == 0 {
        player.tick(1)?;
    }
    Ok(Played {
        failures: player.failures,
        asked: player.asked,
        traces: player.actors.into_iter().map(|a| a.recorder.finish()).collect(),
        stimulus: crate::scan::Stimulus { events: player.events },
        forced: player.forced,
    })
}

/// Expressions with their lines, and whether they are asked as questions.
fn collect(lines: &[Line], out: &mut Vec<(usize, String, bool)>) {
    for line in lines {
        match &line.deed {
            Deed::Until(text, _) | Deed::Expect(text, _) | Deed::Row { expected: Some(text), .. } => {
                out.push((line.number, text.clone(), true));
            }
            Deed::Unchanged(text, _) => out.push((line.number, text.clone(), false)),
            Deed::Repeat(_, body) => collect(body, out),
            Deed::Set(..)
            | Deed::Press { .. }
            | Deed::Wait(_)
            | Deed::Row { .. }
            | Deed::Ramp { .. }
            | Deed::Force(..)
            | Deed::Release(_)
            | Deed::Power(_)
            | Deed::Off(_) => {}
        }
    }
}

struct Player<'s> {
    name: &'s str,
    actors: Vec<Actor>,
    clock: crate::scan::Clock<'s>,
    /// When the last scan began.
    now: Instant,
    /// When the next one begins, if that was asked for already.
    next: Option<Instant>,
    scan: u64,
    failures: Vec<Failure>,
    asked: usize,
    events: Vec<crate::scan::Event>,
    forced: bool,
    /// What was set, or otherwise changed (an empty name), since the last scan: no scan has seen it yet.
    fresh: Vec<String>,
}

impl Player<'_> {
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

    /// One scan on every version.
    fn tick(&mut self, line: usize) -> Result<(), ScriptError> {
        if self.scan >= MOST_SCANS {
            let what = format!("the scenario lasts longer than {MOST_SCANS} scans");
            return Err(ScriptError { line, what });
        }
        let at = self.upcoming();
        self.next = None;
        for actor in &mut self.actors {
            actor.controller.scan(at);
            actor.recorder.row(&actor.controller, ScanNumber(self.scan), at);
        }
        self.now = at;
        self.scan += 1;
        self.fresh.clear();
        Ok(())
    }

    /// Lets time pass; `each` is asked after every scan whether to go on.
    fn pass(&mut self, lapse: Lapse, line: usize, mut each: impl FnMut(&mut Self) -> bool) -> Result<(), ScriptError> {
        let start = self.upcoming();
        let mut gone = 0;
        loop {
            let more = match lapse {
                Lapse::Scans(scans) => gone < scans,
                Lapse::Time(time) => self.upcoming() < start.after(time),
            };
            if !more {
                return Ok(());
            }
            self.tick(line)?;
            gone += 1;
            if !each(self) {
                return Ok(());
            }
        }
    }

    fn block(&mut self, lines: &[Line]) -> Result<(), ScriptError> {
        for line in lines {
            self.deed(line)?;
        }
        Ok(())
    }

    fn deed(&mut self, line: &Line) -> Result<(), ScriptError> {
        let number = line.number;
        let keep = |_: &mut Self| true;
        match &line.deed {
            Deed::Set(name, value) => self.set(number, name, value),
            Deed::Press { name, times, on, off } => {
                // A key that was just let go is seen so before it is pressed again.
                if self.fresh.iter().any(|set| set.eq_ignore_ascii_case(name)) {
                    self.tick(number)?;
                }
                for round in 0..*times {
                    self.set(number, name, "1")?;
                    self.pass(*on, number, keep)?;
                    self.set(number, name, "0")?;
                    if round + 1 < *times || *times > 1 {
                        self.pass(*off, number, keep)?;
                    }
                }
                Ok(())
            }
            Deed::Wait(lapse) => self.pass(*lapse, number, keep),
            Deed::Row { expected, from, until } => self.row(number, expected.as_deref(), *from, *until),
            Deed::Until(text, most) => self.expect(number, text, When::Within(*most)),
            Deed::Ramp { name, from, to, over } => self.ramp(number, name, (from, to), *over),
            Deed::Force(name, value) => self.force(number, name, Some(value)),
            Deed::Release(name) => self.force(number, name, None),
            Deed::Power(power) => {
                self.power(*power);
                Ok(())
            }
            Deed::Off(lapse) => {
                // Without power nothing runs; a stimulus says that as STOP.
                self.power(Power::Stop);
                self.pass(*lapse, number, keep)?;
                self.power(Power::Run);
                self.power(Power::Cycle);
                Ok(())
            }
            Deed::Expect(text, when) => self.expect(number, text, *when),
            Deed::Unchanged(text, lapse) => self.unchanged(number, text, *lapse),
            Deed::Repeat(times, body) => (0..*times).try_for_each(|_| self.block(body)),
        }
    }

    fn event(&mut self) -> &mut crate::scan::Event {
        let at = self.upcoming().0;
        self.events.push(crate::scan::Event::at(at));
        let last = self.events.len() - 1;
        &mut self.events[last]
    }

    fn power(&mut self, power: Power) {
        let at = self.upcoming();
        self.fresh.push(String::new());
        for actor in &mut self.actors {
            actor.recorder.power(power);
            match power {
                Power::Cycle => actor.controller.power_cycle(at),
                Power::Stop => actor.controller.stop(),
                Power::Run => actor.controller.run(),
            }
        }
        self.event().power = Some(power);
    }

    fn set(&mut self, line: usize, name: &str, text: &str) -> Result<(), ScriptError> {
        self.fresh.push(name.to_string());
        for index in 0..self.actors.len() {
            match input(self.actors[index].controller.machine(), name, text) {
                Ok((point, value)) => {
                    let set = self.actors[index].controller.set(point, &value);
                    set.map_err(|e| ScriptError { line, what: e.to_string() })?;
                    if index == 0 {
                        self.event().set.push((point, value));
                    }
                }
                Err(what) if index == 0 => return Err(ScriptError { line, what }),
                Err(_) => {}
            }
        }
        Ok(())
    }

    fn force(&mut self, line: usize, name: &str, text: Option<&String>) -> Result<(), ScriptError> {
        self.forced = true;
        let mut first = None;
        self.fresh.push(String::new());
        for (index, actor) in self.actors.iter_mut().enumerate() {
            let machine = actor.controller.machine().clone();
            let Some(point) = machine.find(name) else {
                if index == 0 {
                    return Err(ScriptError { line, what: format!("there is no variable `{name}`") });
                }
                continue;
            };
            let mut value = None;
            match text {
                None => actor.controller.release(point),
                Some(text) => {
                    value = machine.parse(point, text);
                    let forced = value.as_ref().map(|v| actor.controller.force(point, v));
                    if !matches!(forced, Some(Ok(()))) {
                        return Err(ScriptError { line, what: format!("`{text}` is not a value of `{name}`") });
                    }
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

    /// A number in even steps, one a scan.
    fn ramp(&mut self, line: usize, name: &str, (from, to): (&str, &str), over: Lapse) -> Result<(), ScriptError> {
        let number =
            |text: &str| text.parse::<f64>().map_err(|_| ScriptError { line, what: format!("`{text}` is no number") });
        let (first, last) = (number(from)?, number(to)?);
        let machine = self.actors.first().map(|a| a.controller.machine().clone());
        let point = machine.as_ref().and_then(|m| m.find(name).map(|p| m.point(p).ty.clone()));
        let is_real = point.is_some_and(|ty| ty.family() == Family::Real);
        let start = self.upcoming();
        let mut gone = 0u64;
        loop {
            let share = match over {
                Lapse::Scans(scans) => gone as f64 / scans.max(1) as f64,
                Lapse::Time(time) => (self.upcoming().0.nanos() - start.0.nanos()) as f64 / time.nanos().max(1) as f64,
            };
            let value = first + (last - first) * share.min(1.0);
            let text = if is_real { format!("{value}") } else { format!("{}", value.round() as i64) };
            self.set(line, name, &text)?;
            self.tick(line)?;
            gone += 1;
            if share >= 1.0 {
                return Ok(());
            }
        }
    }

    fn holds(&mut self, actor: usize, text: &str) -> Option<i64> {
        let actor = &mut self.actors[actor];
        let probe = *actor.probes.get(text)?;
        actor.controller.ask(probe)
    }

    /// What is expected is judged when a scan has seen what was changed before.
    fn settle(&mut self, line: usize) -> Result<(), ScriptError> {
        if self.scan == 0 || !self.fresh.is_empty() { self.tick(line) } else { Ok(()) }
    }

    fn fail(&mut self, line: usize, actor: usize, text: &str, how: &str) {
        let found = found(&self.actors[actor].controller, text);
        let what = format!("expected {text}{how}{found}");
        self.failures.push(Failure {
            scenario: self.name.to_string(),
            line,
            version: self.actors[actor].name.clone(),
            scan: ScanNumber(self.scan.saturating_sub(1)),
            at: self.now,
            expected: text.to_string(),
            what,
        });
    }

    fn expect(&mut self, line: usize, text: &str, when: When) -> Result<(), ScriptError> {
        let all: Vec<usize> = (0..self.actors.len()).collect();
        self.asked += all.len();
        self.settle(line)?;
        let is = |player: &mut Self, actor: usize| player.holds(actor, text).is_some_and(|v| v != 0);
        match when {
            When::Now => {
                for actor in all {
                    if !is(self, actor) {
                        self.fail(line, actor, text, "");
                    }
                }
            }
            When::Within(lapse) => {
                let mut open: Vec<usize> = all.into_iter().filter(|a| !is(self, *a)).collect();
                if !open.is_empty() {
                    self.pass(lapse, line, |player| {
                        open.retain(|a| !is(player, *a));
                        !open.is_empty()
                    })?;
                }
                for actor in open {
                    self.fail(line, actor, text, " by now");
                }
            }
            When::For(lapse) => {
                let mut wrong: Vec<usize> = Vec::new();
                let mut look = |player: &mut Self| {
                    for actor in 0..player.actors.len() {
                        if !wrong.contains(&actor) && !is(player, actor) {
                            wrong.push(actor);
                            player.fail(line, actor, text, " all the time");
                        }
                    }
                    true
                };
                look(self);
                self.pass(lapse, line, look)?;
            }
        }
        Ok(())
    }

    /// A row of a table: time passes until its end, and from a moment on something is expected in every scan.
    fn row(&mut self, line: usize, expected: Option<&str>, from: Duration, until: Duration) -> Result<(), ScriptError> {
        self.asked += if expected.is_some() { self.actors.len() } else { 0 };
        let mut wrong: Vec<usize> = Vec::new();
        while self.upcoming().0 < until {
            self.tick(line)?;
            let Some(text) = expected.filter(|_| self.now.0 >= from) else { continue };
            for actor in 0..self.actors.len() {
                if !wrong.contains(&actor) && self.holds(actor, text).is_none_or(|v| v == 0) {
                    wrong.push(actor);
                    self.fail(line, actor, text, " all the time");
                }
            }
        }
        Ok(())
    }

    fn unchanged(&mut self, line: usize, text: &str, lapse: Lapse) -> Result<(), ScriptError> {
        self.settle(line)?;
        let all: Vec<usize> = (0..self.actors.len()).collect();
        self.asked += all.len();
        let first: Vec<Option<i64>> = all.iter().map(|a| self.holds(*a, text)).collect();
        let mut wrong: Vec<usize> = Vec::new();
        self.pass(lapse, line, |player| {
            for (actor, first) in first.iter().enumerate() {
                if !wrong.contains(&actor) && player.holds(actor, text) != *first {
                    wrong.push(actor);
                    player.fail(line, actor, text, " to stay as it was");
                }
            }
            true
        })
    }
}

/// What the variables of an expression hold, in words.
fn found(controller: &Controller, text: &str) -> String {
    let is_part = |c: char| c.is_alphanumeric() || "_.[]".contains(c);
    let mut names: Vec<&str> = text.split(|c| !is_part(c)).filter(|name| !name.is_empty()).collect();
    names.dedup();
    let values = names.iter().filter_map(|name| {
        let point = controller.machine().find(name)?;
        Some(format!("{} = {}", controller.machine().point(point).name, readable(&controller.get(point))))
    });
    let values: Vec<String> = values.take(4).collect();
    if values.is_empty() { String::new() } else { format!("; found {}", values.join(", ")) }
}

fn input(machine: &Machine, name: &str, text: &str) -> Result<(PointId, Value), String> {
    let point = machine.find(name).filter(|p| machine.point(*p).direction == Direction::Input);
    let Some(point) = point else {
        let inputs: Vec<&str> = machine.points_of(Direction::Input).map(|(_, p)| p.name.as_str()).collect();
        return Err(format!("there is no input `{name}`; the inputs are {}", inputs.join(", ")));
    };
    let value = machine.parse(point, text).ok_or_else(|| format!("`{text}` is not a value of `{name}`"))?;
    Ok((point, value))
}

impl Played {
    /// How long it took, in scans.
    #[must_use]
    pub fn scans(&self) -> u64 {
        self.traces.first().map_or(0, |t| t.rows.len() as u64)
    }

    /// How long it took.
    #[must_use]
    pub fn time(&self) -> Duration {
        self.traces.first().and_then(|t| t.rows.last()).map_or(Duration::ZERO, |(_, at, _)| at.0)
    }
}
