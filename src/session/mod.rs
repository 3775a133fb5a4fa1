//! Hands on: one version or two that are driven act by act, watched, and taken back and forward in time.
//!
//! A [`Session`] takes lines: those of scenarios ([`crate::twin::script`]) and acts of its own, which look, go back, measure,
//! change and save. What comes of a line is a value, [`Told`], which the room `show` says in words. Time is virtual, so the
//! same lines always give the same; whatever was done is kept in a log, which is what going back replays. Two versions are
//! given the same, and time stops in the first scan after which paired outputs differ.
//!
//! ```
//! use honest_twin::session::{Session, Told};
//! use honest_twin::twin::Twin;
//! use honest_twin::{Language, Source, Version, check, read_project};
//!
//! let text = "PROGRAM Oxygen VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR VAR Late : TON; END_VAR
//!             Late(IN := Low, PT := T#3s); Alarm := Late.Q; END_PROGRAM";
//! let (project, _) = read_project(vec![(Source::new("oxygen.st", text), Language::St)]);
//! let version = Version::new("oxygen", check(project).unwrap()).unwrap();
//! let mut session = Session::new(Twin::single(&version)).unwrap();
//! session.line("hold Low").unwrap();
//! let told = session.line("wait until Alarm at most 5s").unwrap();
//! let Told::Ran(ran) = told else { panic!("time went by") };
//! assert_eq!(ran.scans, 301);
//! session.line("back to 1s").unwrap();
//! assert_eq!(session.controller(0).get_named("Late.ET").unwrap().to_string(), "1000");
//! ```

mod acts;
mod bench;
mod carry;
mod devices;
mod frames;
mod give;
mod log;
mod look;
mod parted;
mod questions;
mod save;
mod seen;
mod told;
mod travel;

pub use carry::Kept;
pub use devices::{Device, Shown};
pub use parted::Parted;
pub use told::{Moved, Ran, Reason, Searched, Selection, Standing, Stands, Told, Went};

use crate::model::Instant;
use crate::scan::{Controller, Moment};
use crate::twin::script::Script;
use crate::twin::script::perform::{Performer, Stage};
use crate::twin::script::play::expressions_of;
use crate::twin::{Halt, Tolerance, Twin, Version};
use acts::Act;
use bench::Bench;
use log::{Happening, Position};

/// Why a line was not done.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{what}")]
pub struct ActError {
    /// What is wrong, and what would do.
    pub what: String,
}

impl From<String> for ActError {
    fn from(what: String) -> ActError {
        ActError { what }
    }
}

/// Something that was done, from one moment to another.
#[derive(Clone, Debug)]
struct Past {
    line: String,
    from: Position,
    to: Position,
}

/// One version or two, under the hands of whoever tries them.
pub struct Session {
    bench: Bench,
    devices: Vec<Device>,
    /// What is watched, by the numbers of its points among those that are noted.
    watched: Vec<(String, Vec<usize>)>,
    /// Lines of a repetition that is not ended yet, and how many ends it lacks.
    open: Vec<String>,
    depth: usize,
    past: Vec<Past>,
    /// How many of them lie before this moment.
    done: usize,
    /// Where the furthest moment is that was come to.
    end: Position,
}

impl std::fmt::Debug for Session {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Session")
            .field("at", &self.bench.position())
            .field("past", &self.past.len())
            .finish_non_exhaustive()
    }
}

impl Session {
    /// Puts versions on the bench, just powered up.
    ///
    /// # Errors
    /// If the versions scan each on their own, which cannot be driven by hand.
    pub fn new(twin: Twin<'_>) -> Result<Session, ActError> {
        if let crate::twin::Timing::Free(times) = &twin.timing
            && times[0] != times[1]
        {
            return Err("both versions are tried in lockstep: give them one scan time".to_string().into());
        }
        let bench = Bench::new(twin.into_owned());
        let devices = devices::devices(bench.twin(), &bench.controllers);
        Ok(Session {
            devices,
            bench,
            watched: Vec::new(),
            open: Vec::new(),
            depth: 0,
            past: Vec::new(),
            done: 0,
            end: Position::default(),
        })
    }

    /// The same session once more, as it stands, to go on by itself.
    #[must_use]
    pub fn fork(&self) -> Session {
        Session {
            bench: self.bench.fork(),
            devices: self.devices.clone(),
            watched: self.watched.clone(),
            open: self.open.clone(),
            past: self.past.clone(),
            ..*self
        }
    }

    /// The versions.
    pub fn versions(&self) -> impl Iterator<Item = &Version> {
        questions::sides(self.bench.twin())
    }

    /// What is driven.
    #[must_use]
    pub fn twin(&self) -> &Twin<'static> {
        self.bench.twin()
    }

    /// A version's controller as it stands.
    #[must_use]
    pub fn controller(&self, version: usize) -> &Controller {
        self.bench.controller(version)
    }

    /// How many scans have run at this moment.
    #[must_use]
    pub fn scans(&self) -> u64 {
        self.bench.position().scan
    }

    /// When the last scan began; none before the first.
    #[must_use]
    pub fn at(&self) -> Option<Instant> {
        self.bench.began()
    }

    /// True if there is a way forward that was gone before.
    #[must_use]
    pub fn is_back(&self) -> bool {
        self.bench.position() < self.end
    }

    /// From now on this ends what goes on, rung from another thread; what was done until then stands. Once it has rung no time
    /// goes by any more, so each act wants another.
    pub fn halt_by(&mut self, halt: Halt) {
        self.bench.halt = halt;
    }

    /// True while lines of a repetition are gathered, up to its `end`.
    #[must_use]
    pub fn is_open(&self) -> bool {
        self.depth > 0
    }

    /// What the last scan did on each version, looked at closely; none before the first.
    ///
    /// # Errors
    /// If that scan cannot be run again, which would be a mistake of ours.
    pub fn moments(&mut self) -> Result<Option<&[Moment]>, ActError> {
        self.bench.look()?;
        Ok(self.bench.moments.as_deref())
    }

    /// Does what a line says.
    ///
    /// # Errors
    /// What is wrong with it, and what would do. Nothing has happened then, but for a line that fails on its way: what it
    /// has done by then stands.
    pub fn line(&mut self, line: &str) -> Result<Told, ActError> {
        let bare = line.split('#').next().unwrap_or("").trim();
        let words: Vec<&str> = bare.split_whitespace().collect();
        match words.as_slice() {
            [] => return Ok(Told::Nothing),
            [word, ..] if self.depth > 0 && acts::FORMS.iter().any(|(own, ..)| own == word) => {
                return Err(
                    format!("`{word}` is not repeated: between `repeat` and `end` stand lines of scenarios").into()
                );
            }
            ["repeat", ..] => self.depth += 1,
            ["end"] if self.depth > 0 => self.depth -= 1,
            _ => {}
        }
        if self.depth > 0 {
            self.open.push(bare.to_string());
            return Ok(Told::Nothing);
        }
        if !self.open.is_empty() {
            self.open.push(bare.to_string());
            let text = std::mem::take(&mut self.open).join("\n");
            return self.perform(&text);
        }
        match acts::act(bare)? {
            Some(act) => self.act(act, bare),
            None if !crate::twin::script::words().any(|word| words.first() == Some(&word)) && words != ["end"] => {
                Err(acts::unknown(bare).into())
            }
            None => self.perform(bare),
        }
    }

    /// Leaves lines of a repetition that were gathered.
    pub fn leave_open(&mut self) {
        self.open.clear();
        self.depth = 0;
    }

    /// Lets scans go by, the last of them looked at closely.
    ///
    /// # Errors
    /// If the session has lasted too long.
    pub fn pass(&mut self, scans: u64) -> Result<Told, ActError> {
        let line = if scans == 1 { "scan".to_string() } else { format!("scan {scans}") };
        self.doing(&line, |bench| bench.pass(scans).map(|_| Performer::default()))
    }

    /// Does lines of a scenario.
    fn perform(&mut self, text: &str) -> Result<Told, ActError> {
        let script = Script::read("", text).map_err(|e| e.what)?;
        let mut asked = Vec::new();
        expressions_of(&script.lines, &mut asked);
        for (_, text, is_question) in &asked {
            let twin = std::sync::Arc::clone(self.bench.twin());
            self.bench.questions.add(&twin, text, *is_question)?;
        }
        self.doing(text, |bench| {
            let mut performer = Performer::after(bench.unseen());
            performer.block(bench, &script.lines).map_err(|e| e.what)?;
            Ok(performer)
        })
    }

    /// Does something that is kept as an act, and tells what came of it.
    fn doing(
        &mut self,
        line: &str,
        does: impl FnOnce(&mut Bench) -> Result<Performer, String>,
    ) -> Result<Told, ActError> {
        let from = self.bench.position();
        let before = self.snapshot();
        self.bench.left = bench::MOST_OF_AN_ACT;
        let done = does(&mut self.bench);
        let to = self.bench.position();
        if to != from {
            self.past.truncate(self.done);
            self.end = to;
            match self.past.last_mut().filter(|last| last.line.starts_with("scan") && line.starts_with("scan")) {
                // Scans that are let go by one after another are one act to go back.
                Some(last) if last.to == from => last.to = to,
                _ => self.past.push(Past { line: line.to_string(), from, to }),
            }
            self.done = self.past.len();
        }
        let performer = done?;
        if let Some(parted) = self.bench.parted.take() {
            self.bench.look()?;
            self.bench.parted = Some(parted);
        }
        Ok(Told::Ran(Box::new(self.ran(&before, &performer))))
    }

    fn act(&mut self, act: Act, line: &str) -> Result<Told, ActError> {
        match act {
            Act::Scan(scans) => self.pass(scans),
            Act::Watch(names) => self.watch(&names),
            Act::Unwatch(names) => self.unwatch(&names),
            Act::Show(words) => self.select(&words).map(Told::Show),
            Act::Now => Ok(Told::Stands(Box::new(self.stands()))),
            Act::Back(way) => self.back(way),
            Act::Forward(way) => self.forward(way),
            Act::Measure(names) => self.measure(&names).map(Told::Measured),
            Act::Why(name) => self.why(&name).map(Told::Why),
            Act::Change(name, value) => self.change(&name, &value, line),
            Act::PutBack(name) => self.put_back(name.as_deref(), line),
            Act::Again => Ok(Told::ReadAgain),
            Act::Save(path) => self.save(&path),
            Act::Search => self.search(),
            Act::Help(what) => help(what.as_deref()),
            Act::Quit => Ok(Told::Quit),
        }
    }

    /// A preset or a constant is held at another value.
    fn change(&mut self, name: &str, value: &str, line: &str) -> Result<Told, ActError> {
        let name = give::variable_name(self.bench.twin(), name)?;
        let machine = self.bench.controllers[0].machine();
        let direction = machine.find(&name).map(|point| machine.point(point).direction);
        match direction {
            Some(crate::scan::Direction::Input) => {
                return Err(format!("`{name}` is an input: say `set {name} to {value}`").into());
            }
            Some(crate::scan::Direction::Output) => {
                return Err(format!("`{name}` is an output: say `force {name} to {value}`").into());
            }
            Some(crate::scan::Direction::Internal) | None => {}
        }
        self.doing(line, |bench| {
            bench.happen(Happening::Change(name, value.to_string())).map(|()| Performer::default())
        })
    }

    fn put_back(&mut self, name: Option<&str>, line: &str) -> Result<Told, ActError> {
        let changed: Vec<String> =
            log::held(self.bench.happened()).into_iter().filter(|held| held.is_change).map(|held| held.name).collect();
        let names = match name {
            None => changed,
            Some(name) => {
                let name = give::variable_name(self.bench.twin(), name)?;
                if !changed.contains(&name) {
                    let list = if changed.is_empty() { "nothing".to_string() } else { changed.join(", ") };
                    return Err(format!("`{name}` was not changed; {list} was").into());
                }
                vec![name]
            }
        };
        if names.is_empty() {
            return Ok(Told::Said("nothing was changed".to_string()));
        }
        self.doing(line, |bench| {
            for name in names {
                bench.happen(Happening::PutBack(name))?;
            }
            Ok(Performer::default())
        })
    }

    /// The programs as they were read anew, with the memory of those that run.
    ///
    /// # Errors
    /// If they cannot take over.
    pub fn reread(&mut self, twin: Twin<'_>) -> Result<Told, ActError> {
        let from = self.bench.position();
        let kept = self.bench.reread(twin.into_owned())?;
        self.devices = devices::devices(self.bench.twin(), &self.bench.controllers);
        let to = self.bench.position();
        self.past.truncate(self.done);
        self.past.push(Past { line: "read again".to_string(), from, to });
        (self.done, self.end) = (self.past.len(), to);
        Ok(Told::Reread(kept))
    }

    fn save(&mut self, path: &str) -> Result<Told, ActError> {
        let lower = path.to_ascii_lowercase();
        let marks: Vec<u64> = self.past[..self.done].iter().map(|past| past.to.scan).collect();
        let (what, text) = if lower.ends_with(".scenario") {
            ("scenario", save::scenario(&self.bench))
        } else if lower.ends_with(".table.csv") {
            ("sequence table", save::table(&self.bench, &marks)?)
        } else if lower.ends_with(".csv") {
            ("stimulus", save::stimulus(&self.bench)?)
        } else {
            return Err(
                "a name that ends in .scenario, .csv (a stimulus) or .table.csv (a sequence table) says what to save"
                    .to_string()
                    .into(),
            );
        };
        Ok(Told::Save { path: path.to_string(), what, text })
    }

    /// The shortest way on from here in which two versions differ.
    fn search(&mut self) -> Result<Told, ActError> {
        let twin = std::sync::Arc::clone(self.bench.twin());
        if twin.is_single() {
            return Err("one version is tried; a search needs another beside it (`--beside`)".to_string().into());
        }
        if twin.pairing.outputs().iter().any(|pair| pair.tolerance != Tolerance::Exact) {
            return Err("a search from here needs outputs that must agree in every scan".to_string().into());
        }
        if self.bench.apart {
            return Ok(Told::Said("the versions differ here already".to_string()));
        }
        let Ok(controllers) = <&[Controller; 2]>::try_from(self.bench.controllers.as_slice()) else {
            return Err("a search needs two versions".to_string().into());
        };
        let inputs = twin.pairing.inputs().iter().map(|pair| controllers[0].get_slot(pair.left())).collect();
        let now = crate::twin::Now { controllers, pace: &self.bench.pace, inputs };
        let operations: usize = controllers.iter().map(|controller| controller.machine().operations()).sum();
        let most = (SEARCHED / (operations as u64 + 100)).clamp(2_000, MOST_SEARCHED);
        let found = crate::twin::onward(&twin, &now, &self.bench.halt, most);
        let lines = found.scenario.as_ref().map(|scenario| crate::twin::script::lines(&twin, scenario));
        Ok(Told::Searched(Searched { lines, tried: found.tried, scans: found.scans }))
    }
}

/// The words that acts begin with: those of scenarios, then those of a session.
pub fn words() -> impl Iterator<Item = &'static str> {
    crate::twin::script::words().chain(acts::FORMS.iter().map(|(word, ..)| *word))
}

/// Operations that a search from here may take, some ten seconds, and scans at most.
const SEARCHED: u64 = 1_000_000_000;
const MOST_SEARCHED: u64 = 1_000_000;

/// The forms of all acts, or of one.
fn help(what: Option<&str>) -> Result<Told, ActError> {
    let own = acts::FORMS.iter().map(|(word, form, does)| (*word, [(*form).to_string(), (*does).to_string()]));
    let of_scenarios = crate::twin::script::forms().map(|(word, form)| (word, [form.to_string(), String::new()]));
    let all: Vec<(&str, [String; 2])> = of_scenarios.chain(own).collect();
    let found: Vec<[String; 2]> =
        all.iter().filter(|(word, _)| what.is_none_or(|what| what == *word)).map(|(_, form)| form.clone()).collect();
    if found.is_empty() { Err(acts::unknown(what.unwrap_or("")).into()) } else { Ok(Told::Help(found)) }
}
