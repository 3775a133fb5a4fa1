//! What the screen shows, and what keys do to it.

use super::entry::Entry;
use super::keys::{self, Does};
use crate::args::Try;
use crate::commands::trying::answered;
use honest_twin::model::{Item, Value};
use honest_twin::scan::{Direction, ScanTime};
use honest_twin::session::{Session, Told};
use honest_twin::show::{self, Which};
use honest_twin::twin::{Halt, Timing};
use ratatui::crossterm::event::{KeyCode, KeyEvent};
use std::time::{Duration, Instant};

/// Whether to go on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Flow {
    On,
    Quit,
}

/// Which part the arrow keys move in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Focus {
    Inputs,
    Values,
    Rungs,
}

/// How fast time goes against the clock.
const SPEEDS: &[(u64, u64)] = &[
    (1, 10),
    (1, 5),
    (1, 2),
    (1, 1),
    (2, 1),
    (5, 1),
    (10, 1),
    (20, 1),
    (50, 1),
    (100, 1),
    (200, 1),
    (500, 1),
    (1000, 1),
];

/// Scans of the strip, at first ten seconds of 10 ms.
const STRIP: u64 = 1_000;

/// How long a search for the next change may take, by the clock.
const PATIENCE: Duration = Duration::from_millis(400);

/// How long an act may take, by the clock.
const LONGEST: Duration = Duration::from_secs(5);

/// Lines of an answer that stand below the rungs; longer ones lie over the screen until a key is pressed.
pub(crate) const ANSWER: usize = 2;

pub(crate) struct App<'a> {
    pub(crate) session: Session,
    args: &'a Try,
    pub(crate) focus: Focus,
    /// The chosen input, and how far the values are scrolled.
    pub(crate) chosen: usize,
    pub(crate) values: usize,
    /// The first network that is shown, from 0, and of which version and unit.
    pub(crate) top: usize,
    pub(crate) side: usize,
    unit: usize,
    naming: Option<String>,
    pub(crate) entry: Option<Entry>,
    history: Vec<String>,
    pub(crate) answer: Vec<String>,
    /// How far a long answer is scrolled; none if none lies over the screen.
    pub(crate) over: Option<usize>,
    running: bool,
    speed: usize,
    /// Machine time that is owed to the clock, in nanoseconds.
    owed: u64,
    pub(crate) strip: u64,
    found: bool,
}

impl<'a> App<'a> {
    pub(crate) fn new(session: Session, args: &'a Try) -> App<'a> {
        App {
            session,
            args,
            focus: Focus::Inputs,
            chosen: 0,
            values: 0,
            top: 0,
            side: 0,
            unit: 0,
            naming: None,
            entry: None,
            history: Vec::new(),
            answer: vec!["? shows the keys; Enter takes an act; time stands still until s, n or g".to_string()],
            over: None,
            running: false,
            speed: 3,
            owed: 0,
            strip: STRIP,
            found: false,
        }
    }

    pub(crate) fn is_running(&self) -> bool {
        self.running
    }

    /// Whether something was seen that ends with another exit status.
    pub(crate) fn has_found(&self) -> bool {
        self.found
    }

    /// How fast time goes, in words.
    pub(crate) fn pace(&self) -> String {
        let speed = match SPEEDS[self.speed] {
            (over, 1) => format!("x{over}"),
            (over, under) => format!("x{over}/{under}"),
        };
        if self.running { format!("goes {speed}") } else { format!("paused {speed}") }
    }

    /// The names of the inputs, of the first version's before those that only the second one has.
    pub(crate) fn inputs(&self) -> Vec<String> {
        let mut out: Vec<String> = Vec::new();
        for side in 0..self.session.versions().count() {
            for (_, point) in self.session.controller(side).machine().points_of(Direction::Input) {
                if !out.iter().any(|known| known.eq_ignore_ascii_case(&point.name)) {
                    out.push(point.name.clone());
                }
            }
        }
        out
    }

    fn input(&self) -> Option<String> {
        self.inputs().get(self.chosen).cloned()
    }

    /// What an input holds, and whether it is forced: on the first version that has it.
    pub(crate) fn standing(&self, name: &str) -> Option<(Value, bool, Option<String>)> {
        (0..self.session.versions().count()).find_map(|side| {
            let controller = self.session.controller(side);
            let point = controller.machine().find(name)?;
            let address = controller.machine().point(point).address.clone();
            Some((controller.get(point), controller.is_forced(point), address))
        })
    }

    /// What of a version's project is drawn: programs first, then what else has rungs.
    pub(crate) fn which(&self, side: usize) -> Which {
        let units = self.units(side);
        let unit = units.get(self.unit % units.len().max(1)).cloned();
        Which { unit, networks: None, naming: self.naming.clone() }
    }

    fn units(&self, side: usize) -> Vec<String> {
        let Some(version) = self.session.versions().nth(side) else { return Vec::new() };
        let units = |programs: bool| {
            let items = version.checked().project().items.iter();
            items.filter_map(move |item| match item {
                Item::Unit(unit) if (unit.kind == honest_twin::model::UnitKind::Program) == programs => {
                    Some(unit.name.text.clone())
                }
                _ => None,
            })
        };
        units(true).chain(units(false)).collect()
    }

    /// Lets the machine go on as long as the clock did.
    pub(crate) fn elapse(&mut self, time: Duration) {
        if !self.running {
            return;
        }
        let (over, under) = SPEEDS[self.speed];
        // A picture that took long is not made up for at once.
        let time = time.min(Duration::from_millis(100));
        self.owed += time.as_nanos() as u64 * over / under;
        let scan = self.scan_time();
        let scans = self.owed / scan;
        self.owed %= scan;
        if scans > 0 {
            let told = self.session.pass(scans);
            self.say(told.map_err(|e| e.to_string()), false);
        }
    }

    /// A typical scan, in nanoseconds.
    fn scan_time(&self) -> u64 {
        let time = match &self.session.twin().timing {
            Timing::Lockstep(time) | Timing::Free([time, _]) => time,
        };
        let nanos = match time {
            ScanTime::Fixed(time) => time.nanos(),
            ScanTime::Range { low, high, .. } => (low.nanos() + high.nanos()) / 2,
            ScanTime::Given(times) => times.first().map_or(10_000_000, |time| time.nanos()),
        };
        nanos.max(1) as u64
    }

    /// Takes a key.
    pub(crate) fn key(&mut self, key: KeyEvent) -> Flow {
        if keys::is_end(&key) {
            return Flow::Quit;
        }
        if self.over.is_some() {
            self.over_key(key);
            return Flow::On;
        }
        if self.entry.is_some() {
            return self.entry_key(key);
        }
        match keys::does(&key) {
            Some(does) => self.does(does),
            None => Flow::On,
        }
    }

    fn over_key(&mut self, key: KeyEvent) {
        let last = self.answer.len().saturating_sub(1);
        self.over = match (key.code, self.over) {
            (KeyCode::Up, Some(at)) => Some(at.saturating_sub(1)),
            (KeyCode::Down, Some(at)) => Some((at + 1).min(last)),
            (KeyCode::PageUp, Some(at)) => Some(at.saturating_sub(10)),
            (KeyCode::PageDown, Some(at)) => Some((at + 10).min(last)),
            _ => None,
        };
        if self.over.is_none() {
            self.answer.clear();
        }
    }

    fn entry_key(&mut self, key: KeyEvent) -> Flow {
        let Some(entry) = &mut self.entry else { return Flow::On };
        match key.code {
            KeyCode::Esc => self.entry = None,
            KeyCode::Enter => {
                let line = entry.text();
                self.entry = None;
                return self.line(&line);
            }
            KeyCode::Backspace => entry.backspace(),
            KeyCode::Delete => entry.delete(),
            KeyCode::Left => entry.left(),
            KeyCode::Right => entry.right(),
            KeyCode::Home => entry.home(),
            KeyCode::End => entry.end(),
            KeyCode::Up => entry.earlier(&self.history),
            KeyCode::Down => entry.later(&self.history),
            KeyCode::Tab => self.complete(),
            KeyCode::Char(c) => entry.insert(c),
            _ => {}
        }
        Flow::On
    }

    fn complete(&mut self) {
        let words: Vec<&str> = honest_twin::session::words().collect();
        let names: Vec<String> =
            self.session.versions().flat_map(|v| v.machine().points().iter().map(|p| p.name.clone())).collect();
        let names: Vec<&str> = names.iter().map(String::as_str).collect();
        let Some(entry) = &mut self.entry else { return };
        let open = entry.complete(&words, &names);
        if !open.is_empty() {
            let more = if open.len() > 12 { format!(" and {} more", open.len() - 12) } else { String::new() };
            let first: Vec<&str> = open.iter().take(12).copied().collect();
            self.answer = vec![format!("{}{more}", first.join(" "))];
        }
    }

    /// Does what a line says.
    fn line(&mut self, line: &str) -> Flow {
        if line.trim().is_empty() {
            return Flow::On;
        }
        self.history.push(line.to_string());
        if line.trim() == "show" || line.trim() == "show all" {
            (self.naming, self.top) = (None, 0);
            return Flow::On;
        }
        if let Some(name) = line.strip_prefix("show ").map(str::trim) {
            // On the screen what is shown are the rungs that are there anyway.
            return self.show(name);
        }
        self.act(line)
    }

    fn show(&mut self, name: &str) -> Flow {
        if let Ok(network) = name.parse::<usize>() {
            self.top = network.saturating_sub(1);
            return Flow::On;
        }
        let units = self.units(self.side);
        if let Some(unit) = units.iter().position(|unit| unit.eq_ignore_ascii_case(name)) {
            (self.unit, self.naming, self.top) = (unit, None, 0);
            return Flow::On;
        }
        match self.session.line(&format!("show {name}")) {
            Ok(Told::Show(list)) => {
                (self.naming, self.top) = (list.first().and_then(|selection| selection.naming.clone()), 0);
                self.answer = vec![format!("only rungs with {name}; `show all` ends that")];
            }
            Ok(_) => {}
            Err(why) => self.answer = vec![why.to_string()],
        }
        Flow::On
    }

    fn act(&mut self, line: &str) -> Flow {
        let halt = Halt::default();
        self.session.halt_by(halt.clone());
        let (done, over) = std::sync::mpsc::channel::<()>();
        std::thread::spawn(move || {
            // Whoever waits for keys is not kept waiting.
            if over.recv_timeout(LONGEST).is_err_and(|e| e == std::sync::mpsc::RecvTimeoutError::Timeout) {
                halt.ring();
            }
        });
        let told = self.session.line(line).map_err(|e| e.to_string());
        let told = told.and_then(|told| answered(&mut self.session, self.args, told));
        drop(done);
        self.session.halt_by(Halt::default());
        let ends = matches!(told, Ok(Told::Quit));
        self.say(told, true);
        if ends { Flow::Quit } else { Flow::On }
    }

    /// Says what came of something; of time that goes by itself only what ends it.
    fn say(&mut self, told: Result<Told, String>, by_hand: bool) {
        let told = match told {
            Ok(told) => told,
            Err(what) => {
                (self.running, self.answer) = (false, vec![what]);
                return;
            }
        };
        let mut ends = false;
        if let Told::Ran(ran) = &told {
            ends = !ran.faults.is_empty() || ran.parted.is_some();
            self.found |= ends || !ran.missed.is_empty();
        }
        if ends {
            self.running = false;
        }
        if !by_hand && !ends {
            return;
        }
        let text = show::told(&mut self.session, &told);
        self.answer = text.lines().map(|line| line.strip_prefix("  ").unwrap_or(line).to_string()).collect();
        // What was seen anyway need not lie over the screen.
        let is_plain = matches!(&told, Told::Ran(ran) if ran.parted.is_none() && ran.missed.is_empty() && ran.faults.is_empty())
            || matches!(told, Told::Went(_) | Told::Nothing);
        self.over = (self.answer.len() > ANSWER && !is_plain).then_some(0);
    }

    fn on_input(&mut self, act: impl FnOnce(&str) -> String) -> Flow {
        match self.input() {
            Some(name) => self.act(&act(&name)),
            None => {
                self.answer = vec!["there is no input".to_string()];
                Flow::On
            }
        }
    }

    fn does(&mut self, does: Does) -> Flow {
        match does {
            Does::Quit => return Flow::Quit,
            Does::Toggle => return self.on_input(|name| format!("toggle {name}")),
            Does::Press => return self.on_input(|name| format!("press {name} for 100ms")),
            Does::Hold => return self.on_input(|name| format!("hold {name}")),
            Does::Drop => return self.on_input(|name| format!("drop {name}")),
            Does::Force => return self.force(),
            Does::Value => {
                let name = self.input().unwrap_or_default();
                self.entry = Some(Entry::with(&format!("set {name} to ")));
            }
            Does::Scan => return self.act("scan"),
            Does::ManyScans => return self.act("scan 10"),
            Does::UntilChange => self.until_change(),
            Does::Go => {
                (self.running, self.owed) = (!self.running, 0);
                if self.running && self.session.is_back() {
                    self.answer = vec!["on from here; what lay ahead is another time now".to_string()];
                }
            }
            Does::Faster => self.speed = (self.speed + 1).min(SPEEDS.len() - 1),
            Does::Slower => self.speed = self.speed.saturating_sub(1),
            Does::BackScan => return self.travel("back 1 scans"),
            Does::ForwardScan => return self.travel("forward 1 scans"),
            Does::BackAct => return self.travel("back"),
            Does::ForwardAct => return self.travel("forward"),
            Does::Start => return self.travel("back to start"),
            Does::End => return self.travel("forward to end"),
            Does::Focus => {
                self.focus = match self.focus {
                    Focus::Inputs => Focus::Values,
                    Focus::Values => Focus::Rungs,
                    Focus::Rungs => Focus::Inputs,
                };
            }
            Does::Up => self.step(false),
            Does::Down => self.step(true),
            Does::PageUp => self.top = self.top.saturating_sub(3),
            Does::PageDown => self.top += 3,
            Does::Unit => (self.unit, self.top) = (self.unit + 1, 0),
            Does::Other => self.side = (self.side + 1) % self.session.versions().count().max(1),
            Does::Show => self.entry = Some(Entry::with("show ")),
            Does::Watch => self.entry = Some(Entry::with("watch ")),
            Does::Line => self.entry = Some(Entry::default()),
            Does::Longer => self.strip = (self.strip * 2).min(1_000_000),
            Does::Shorter => self.strip = (self.strip / 2).max(10),
            Does::Help => {
                let line = |(_, _, name, does): &(_, _, &str, &str)| format!("{name:<6} {does}");
                let half = keys::KEYS.len().div_ceil(2);
                let (left, right) = keys::KEYS.split_at(half);
                let pair = |at: usize| format!("{:<36}{}", line(&left[at]), right.get(at).map_or(String::new(), line));
                self.answer = (0..half).map(|at| pair(at).trim_end().to_string()).collect();
                self.over = Some(0);
            }
        }
        Flow::On
    }

    fn travel(&mut self, act: &str) -> Flow {
        self.running = false;
        self.act(act)
    }

    fn step(&mut self, down: bool) {
        let moved = |at: usize, last: usize| if down { (at + 1).min(last) } else { at.saturating_sub(1) };
        match self.focus {
            Focus::Inputs => self.chosen = moved(self.chosen, self.inputs().len().saturating_sub(1)),
            Focus::Values => self.values = moved(self.values, usize::MAX / 2),
            Focus::Rungs => self.top = moved(self.top, usize::MAX / 2),
        }
    }

    /// Not forced, on, off, and not forced again; of what is no BOOL the value that it has.
    fn force(&mut self) -> Flow {
        let Some(name) = self.input() else { return Flow::On };
        let act = match self.standing(&name) {
            Some((Value::Bool(_), false, _)) => format!("force {name} to on"),
            Some((Value::Bool(true), true, _)) => format!("force {name} to off"),
            Some((value, false, _)) => format!("force {name} to {}", value.cell()),
            Some((_, true, _)) | None => format!("release {name}"),
        };
        self.act(&act)
    }

    /// Scans go by until an output changes, or patience ends.
    fn until_change(&mut self) {
        let begin = Instant::now();
        let outputs = |app: &App<'_>| -> Vec<Value> {
            let mut out = Vec::new();
            for side in 0..app.session.versions().count() {
                let controller = app.session.controller(side);
                out.extend(controller.machine().points_of(Direction::Output).map(|(point, _)| controller.get(point)));
            }
            out
        };
        let before = outputs(self);
        let mut gone = 0;
        while begin.elapsed() < PATIENCE {
            let told = self.session.pass(1);
            gone += 1;
            let ends = match &told {
                Ok(Told::Ran(ran)) => ran.parted.is_some() || !ran.faults.is_empty(),
                Ok(_) => false,
                Err(_) => true,
            };
            if ends || outputs(self) != before {
                self.say(told.map_err(|e| e.to_string()), true);
                return;
            }
        }
        self.answer = vec![format!("no output has changed in {gone} scans; n goes on")];
    }
}
