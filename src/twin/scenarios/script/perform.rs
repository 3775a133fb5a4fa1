//! Doing what the lines of a scenario say, on whatever stage: versions that a comparison plays it on, or those of a session.

use super::{Deed, Lapse, Line, ScriptError, When};
use crate::model::{Duration, Instant};
use crate::scan::{Controller, Power};

/// Whether time goes on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Goes {
    /// It does.
    On,
    /// Something has happened that ends what is under way.
    NoFurther,
}

/// One or several versions that the same things happen to.
pub(crate) trait Stage {
    /// When the next scan begins.
    fn upcoming(&mut self) -> Instant;
    /// When the last scan began.
    fn now(&self) -> Instant;
    /// How many scans there have been.
    fn scans(&self) -> u64;
    /// One scan on every version.
    fn tick(&mut self) -> Result<Goes, String>;
    /// Why it will not let so much time pass, where that is certain before the first scan of it.
    fn refuses(&self, lapse: Lapse) -> Option<String>;
    /// How many versions there are.
    fn versions(&self) -> usize;
    /// A version's controller.
    fn controller(&self, version: usize) -> &Controller;
    /// An input has a value from now on.
    fn set(&mut self, name: &str, text: &str) -> Result<(), String>;
    /// A variable is given a value once.
    fn write(&mut self, name: &str, text: &str) -> Result<(), String>;
    /// A variable is held at a value, or no more.
    fn force(&mut self, name: &str, text: Option<&str>) -> Result<(), String>;
    /// Something happens to the controllers.
    fn power(&mut self, power: Power) -> Result<(), String>;
    /// What an expression has as its value on a version.
    fn ask(&mut self, version: usize, text: &str) -> Result<Option<i64>, String>;
}

/// An expectation that was not met.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Miss {
    /// The line.
    pub(crate) line: usize,
    /// The number of the version.
    pub(crate) version: usize,
    /// The scan after which it was clear.
    pub(crate) scan: u64,
    /// When that scan began.
    pub(crate) at: Instant,
    /// The expression.
    pub(crate) expected: String,
    /// What was expected and what was seen.
    pub(crate) what: String,
}

/// Who does it.
#[derive(Debug, Default)]
pub(crate) struct Performer {
    /// Expectations that were not met, in order.
    pub(crate) misses: Vec<Miss>,
    /// How many were asked, of all versions together.
    pub(crate) asked: usize,
    /// What was set, or otherwise changed (an empty name), since the last scan: no scan has seen it yet.
    fresh: Vec<String>,
    /// Whether something has ended it.
    ended: bool,
    /// Lines that were followed, and repetitions begun.
    steps: u64,
}

/// Lines that are followed and repetitions that are begun in one scenario at most.
const MOST_STEPS: u64 = 10_000_000;

type Done = Result<(), ScriptError>;

impl Performer {
    /// Goes on where these names have been set since the last scan (an empty one: something else has happened).
    pub(crate) fn after(fresh: Vec<String>) -> Performer {
        Performer { fresh, ..Performer::default() }
    }

    /// Does what lines say, until something ends it.
    pub(crate) fn block(&mut self, stage: &mut impl Stage, lines: &[Line]) -> Done {
        for line in lines {
            if self.ended {
                break;
            }
            self.deed(stage, line)?;
        }
        Ok(())
    }

    /// Counts a line that is followed.
    fn step(&mut self, line: usize) -> Done {
        self.steps += 1;
        match self.steps <= MOST_STEPS {
            true => Ok(()),
            false => Err(ScriptError { line, what: format!("the scenario does more than {MOST_STEPS} things") }),
        }
    }

    /// One scan.
    pub(crate) fn tick(&mut self, stage: &mut impl Stage, line: usize) -> Result<Goes, ScriptError> {
        let goes = stage.tick().map_err(|what| ScriptError { line, what })?;
        self.fresh.clear();
        self.ended |= goes == Goes::NoFurther;
        Ok(goes)
    }

    /// Lets time pass until `each`, which is asked after every scan, says that it has seen enough.
    fn until<S: Stage>(
        &mut self,
        stage: &mut S,
        lapse: Lapse,
        line: usize,
        mut each: impl FnMut(&mut Self, &mut S) -> Result<bool, ScriptError>,
    ) -> Done {
        let start = stage.upcoming();
        let mut gone = 0;
        loop {
            let more = match lapse {
                Lapse::Scans(scans) => gone < scans,
                Lapse::Time(time) => stage.upcoming() < start.after(time),
            };
            if !more || self.tick(stage, line)? == Goes::NoFurther {
                return Ok(());
            }
            gone += 1;
            if !each(self, stage)? {
                return Ok(());
            }
        }
    }

    /// Lets time pass whatever `each` sees after every scan: what the stage cannot take to its end is not begun.
    fn pass<S: Stage>(
        &mut self,
        stage: &mut S,
        lapse: Lapse,
        line: usize,
        mut each: impl FnMut(&mut Self, &mut S) -> Done,
    ) -> Done {
        may_pass(stage, lapse, line)?;
        self.until(stage, lapse, line, |performer, stage| each(performer, stage).map(|()| true))
    }

    fn wait(&mut self, stage: &mut impl Stage, lapse: Lapse, line: usize) -> Done {
        self.pass(stage, lapse, line, |_, _| Ok(()))
    }

    fn deed<S: Stage>(&mut self, stage: &mut S, line: &Line) -> Done {
        let number = line.number;
        let wrong = |what: String| ScriptError { line: number, what };
        self.step(number)?;
        match &line.deed {
            Deed::Set(name, value) => self.set(stage, number, name, value),
            Deed::Toggle(name) => {
                let point = stage.controller(0).get_named(name).map_err(|e| wrong(e.to_string()))?;
                let crate::model::Value::Bool(is_on) = point else {
                    return Err(wrong(format!("`{name}` is no BOOL: say `set {name} to VALUE`")));
                };
                self.set(stage, number, name, if is_on { "0" } else { "1" })
            }
            Deed::Press { name, times, on, off } => {
                // A key that was just let go is seen so before it is pressed again.
                if self.fresh.iter().any(|set| set.eq_ignore_ascii_case(name)) {
                    self.tick(stage, number)?;
                }
                for round in 0..*times {
                    if self.ended {
                        break;
                    }
                    self.set(stage, number, name, "1")?;
                    self.wait(stage, *on, number)?;
                    // Where time stands still the key is still pressed.
                    if self.ended {
                        break;
                    }
                    self.set(stage, number, name, "0")?;
                    if round + 1 < *times || *times > 1 {
                        self.wait(stage, *off, number)?;
                    }
                }
                Ok(())
            }
            Deed::Wait(lapse) => self.wait(stage, *lapse, number),
            Deed::Row { expected, from, until } => self.row(stage, number, expected.as_deref(), *from, *until),
            Deed::Until(text, most) => self.expect(stage, number, text, When::Within(*most)),
            Deed::Ramp { name, from, to, over } => self.ramp(stage, number, name, (from, to), *over),
            Deed::Force(name, value) => {
                self.fresh.push(String::new());
                stage.force(name, Some(value)).map_err(wrong)
            }
            Deed::Release(name) => {
                self.fresh.push(String::new());
                stage.force(name, None).map_err(wrong)
            }
            Deed::Write(name, value) => {
                self.fresh.push(String::new());
                stage.write(name, value).map_err(wrong)
            }
            Deed::Power(power) => self.power(stage, number, *power),
            Deed::Off(lapse) => {
                // Without power nothing runs; a stimulus says that as STOP.
                self.power(stage, number, Power::Stop)?;
                self.wait(stage, *lapse, number)?;
                self.power(stage, number, Power::Run)?;
                self.power(stage, number, Power::Cycle)
            }
            Deed::Expect(text, when) => self.expect(stage, number, text, *when),
            Deed::Unchanged(text, lapse) => self.unchanged(stage, number, text, *lapse),
            Deed::Repeat(times, body) => {
                for _ in 0..*times {
                    if self.ended {
                        break;
                    }
                    self.step(number)?;
                    self.block(stage, body)?;
                }
                Ok(())
            }
        }
    }

    fn power(&mut self, stage: &mut impl Stage, line: usize, power: Power) -> Done {
        self.fresh.push(String::new());
        stage.power(power).map_err(|what| ScriptError { line, what })
    }

    fn set(&mut self, stage: &mut impl Stage, line: usize, name: &str, text: &str) -> Done {
        self.fresh.push(name.to_string());
        stage.set(name, text).map_err(|what| ScriptError { line, what })
    }

    /// A number in even steps, one a scan.
    fn ramp(&mut self, stage: &mut impl Stage, line: usize, name: &str, ends: (&str, &str), over: Lapse) -> Done {
        let wrong = |what: String| ScriptError { line, what };
        let number = |text: &str| text.parse::<f64>().map_err(|_| wrong(format!("`{text}` is no number")));
        let (first, last) = (number(ends.0)?, number(ends.1)?);
        may_pass(stage, over, line)?;
        let machine = stage.controller(0).machine();
        let is_real = machine.find(name).is_some_and(|p| machine.point(p).ty.family() == crate::model::Family::Real);
        let start = stage.upcoming();
        let mut gone = 0u64;
        loop {
            let share = match over {
                Lapse::Scans(scans) => gone as f64 / scans.max(1) as f64,
                Lapse::Time(time) => (stage.upcoming().0.nanos() - start.0.nanos()) as f64 / time.nanos().max(1) as f64,
            };
            let value = first + (last - first) * share.min(1.0);
            let text = if is_real { format!("{value}") } else { format!("{}", value.round() as i64) };
            self.set(stage, line, name, &text)?;
            let goes = self.tick(stage, line)?;
            gone += 1;
            if share >= 1.0 || goes == Goes::NoFurther {
                return Ok(());
            }
        }
    }

    /// What is expected is judged when a scan has seen what was changed before.
    fn settle(&mut self, stage: &mut impl Stage, line: usize) -> Done {
        if stage.scans() == 0 || !self.fresh.is_empty() { self.tick(stage, line).map(drop) } else { Ok(()) }
    }

    fn miss(&mut self, stage: &impl Stage, line: usize, version: usize, text: &str, how: &str) {
        let found = found(stage.controller(version), text);
        self.misses.push(Miss {
            line,
            version,
            scan: stage.scans().saturating_sub(1),
            at: stage.now(),
            expected: text.to_string(),
            what: format!("expected {text}{how}{found}"),
        });
    }

    fn expect<S: Stage>(&mut self, stage: &mut S, line: usize, text: &str, when: When) -> Done {
        let all: Vec<usize> = (0..stage.versions()).collect();
        self.asked += all.len();
        self.settle(stage, line)?;
        match when {
            When::Now => {
                for version in all {
                    if !holds(stage, line, version, text)? {
                        self.miss(stage, line, version, text, "");
                    }
                }
            }
            When::Within(lapse) => {
                let mut open = Vec::new();
                for version in all {
                    if !holds(stage, line, version, text)? {
                        open.push(version);
                    }
                }
                if !open.is_empty() {
                    self.until(stage, lapse, line, |_, stage| {
                        let mut left = Vec::new();
                        for version in std::mem::take(&mut open) {
                            if !holds(stage, line, version, text)? {
                                left.push(version);
                            }
                        }
                        open = left;
                        Ok(!open.is_empty())
                    })?;
                }
                for version in open {
                    self.miss(stage, line, version, text, " by now");
                }
            }
            When::For(lapse) => {
                let mut wrong: Vec<usize> = Vec::new();
                let mut look = |performer: &mut Self, stage: &mut S| {
                    performer.look(stage, line, text, " all the time", &mut wrong)
                };
                look(self, stage)?;
                self.pass(stage, lapse, line, look)?;
            }
        }
        Ok(())
    }

    /// Notes versions on which an expression does not hold now, each once.
    fn look(&mut self, stage: &mut impl Stage, line: usize, text: &str, how: &str, wrong: &mut Vec<usize>) -> Done {
        for version in 0..stage.versions() {
            if !wrong.contains(&version) && !holds(stage, line, version, text)? {
                wrong.push(version);
                self.miss(stage, line, version, text, how);
            }
        }
        Ok(())
    }

    /// A row of a table: time passes until its end, and from a moment on something is expected in every scan.
    fn row<S: Stage>(
        &mut self,
        stage: &mut S,
        line: usize,
        expected: Option<&str>,
        from: Duration,
        until: Duration,
    ) -> Done {
        self.asked += if expected.is_some() { stage.versions() } else { 0 };
        let mut wrong: Vec<usize> = Vec::new();
        let left = until.minus(stage.upcoming().0);
        may_pass(stage, Lapse::Time(left), line)?;
        while stage.upcoming().0 < until {
            if self.tick(stage, line)? == Goes::NoFurther {
                break;
            }
            if let Some(text) = expected.filter(|_| stage.now().0 >= from) {
                self.look(stage, line, text, " all the time", &mut wrong)?;
            }
        }
        Ok(())
    }

    fn unchanged<S: Stage>(&mut self, stage: &mut S, line: usize, text: &str, lapse: Lapse) -> Done {
        self.settle(stage, line)?;
        let ask = |stage: &mut S, version: usize| stage.ask(version, text).map_err(|what| ScriptError { line, what });
        let all = 0..stage.versions();
        self.asked += all.len();
        let first = all.map(|version| ask(stage, version)).collect::<Result<Vec<_>, _>>()?;
        let mut wrong: Vec<usize> = Vec::new();
        self.pass(stage, lapse, line, |performer, stage| {
            for (version, first) in first.iter().enumerate() {
                if !wrong.contains(&version) && ask(stage, version)? != *first {
                    wrong.push(version);
                    performer.miss(stage, line, version, text, " to stay as it was");
                }
            }
            Ok(())
        })
    }
}

fn may_pass(stage: &impl Stage, lapse: Lapse, line: usize) -> Done {
    stage.refuses(lapse).map_or(Ok(()), |what| Err(ScriptError { line, what }))
}

fn holds(stage: &mut impl Stage, line: usize, version: usize, text: &str) -> Result<bool, ScriptError> {
    let value = stage.ask(version, text).map_err(|what| ScriptError { line, what })?;
    Ok(value.is_some_and(|v| v != 0))
}

/// What the variables of an expression hold, in words.
fn found(controller: &Controller, text: &str) -> String {
    let is_part = |c: char| c.is_alphanumeric() || "_.[]".contains(c);
    let mut names: Vec<&str> = text.split(|c| !is_part(c)).filter(|name| !name.is_empty()).collect();
    names.dedup();
    let values = names.iter().filter_map(|name| {
        let point = controller.machine().find(name)?;
        Some(format!("{} = {}", controller.machine().point(point).name, controller.get(point).readable()))
    });
    let values: Vec<String> = values.take(4).collect();
    if values.is_empty() { String::new() } else { format!("; found {}", values.join(", ")) }
}
