//! From the tape to the net: every path of a scan at once, joined where paths meet.
//!
//! The tape is followed once. At a conditional jump the path divides: what jumps waits, with its condition and its
//! memory, at the place it jumps to, and is joined there. Loops are followed round by round for as long as a round
//! may begin. A fault is a jump to the end of the scan.

use super::branch::{Branches, Way};
use super::effects::Onward;
use super::memory::Memory;
use super::net::{Gate, Net, Node, RegId, Role};
use crate::model::IntShape;
use crate::model::ops::FaultKind;
use crate::scan::{Direction, LOOP_LIMIT, Machine, Point, PointType, Tape};
use std::collections::{BTreeMap, HashMap};

/// Why a program has no circuit.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum Unfit {
    /// It works on strings.
    #[error("strings are not part of the circuit")]
    Text,
    /// It would be larger than two million gates.
    #[error("the circuit would have more than two million gates")]
    Size,
    /// It writes a variable that is given from outside.
    #[error("the program writes its own input")]
    WritesInput,
    /// It counts ticks of a base that is not a constant.
    #[error("the base of TICKS is not a constant")]
    Base,
    /// The bell rang while it was laid out.
    #[error("it was stopped before the circuit was laid out")]
    Stopped,
}

/// Gates of a net at most.
pub(super) const MOST_GATES: usize = 2_000_000;

/// Rounds of one loop that are laid out where it cannot be told whether they happen.
const MOST_ROUNDS: u32 = 64;

/// How time passes from scan to scan, in nanoseconds.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Passing {
    /// Since the start of the previous scan, in all scans but the very first.
    pub(crate) dt: Node,
    /// That the controller stands still before its first scan; none where it never does.
    pub(crate) standing: Option<Standing>,
}

/// How long a controller stands still.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Standing {
    /// Between power-up and the first scan.
    pub(crate) since_power: Node,
    /// Before the first scan of all: power may be lost in that time, so it may be longer.
    pub(crate) at_all: Node,
}

impl From<Node> for Passing {
    fn from(dt: Node) -> Passing {
        Passing { dt, standing: None }
    }
}

/// Time as a scan sees it.
#[derive(Clone, Copy)]
pub(super) struct Now {
    /// Since the start of the previous scan; 0 in the first after power-up.
    pub(super) since_last: Node,
    /// By how much stopwatches advance that lose power: as that, and in the first scan by what passed since power-up.
    advance: Node,
    /// By how much those advance that a power cycle does not touch.
    running: Node,
    pub(super) first_scan: Node,
}

/// What a scan of one version leaves.
#[derive(Clone, Debug)]
pub(crate) struct Scanned {
    /// Outputs as the outside sees them, in the order of their points.
    pub(crate) outputs: Vec<Node>,
    /// Whether a whole scan has run since power-up.
    pub(crate) has_run: Node,
    /// The kind of the fault that stopped the program, counted from 1; 0 for none.
    pub(crate) fault: Node,
    /// Whether this scan did what the circuit does not hold: more rounds of a loop than are laid out.
    pub(crate) beyond: Node,
    /// What each probe of the machine gives after the scan; none where that has no circuit.
    pub(crate) probes: Vec<Option<Probed>>,
}

/// What a probe gives.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Probed {
    pub(crate) value: Node,
    /// Whether it can be computed.
    pub(crate) has_value: Node,
}

/// Registers that are not read in the first scan after power-up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Unread {
    /// All are read.
    #[default]
    None,
    /// Those that lose power.
    Lost,
    /// All, as power is never lost.
    All,
}

/// A path that has come to an end, or waits to be joined.
struct Path {
    way: Way,
    memory: Memory,
}

pub(super) struct Builder<'n> {
    pub(super) net: &'n mut Net,
    pub(super) tape: &'n Tape,
    side: usize,
    pub(super) now: Now,
    /// What slots hold when the scan begins, where that was asked.
    begin: HashMap<u32, Node>,
    registers: Vec<(u32, RegId)>,
    given: HashMap<u32, Node>,
    bools: Vec<bool>,
    written: Vec<bool>,
    watches: Vec<bool>,
    unread: Unread,
    /// Phases of tick bases: ticks that fell in this scan.
    ticks: HashMap<i64, Node>,
    pub(super) memory: Memory,
    way: Way,
    branches: Branches,
    waiting: BTreeMap<u32, Vec<Path>>,
    faults: Vec<(FaultKind, Path)>,
    beyond: Node,
    /// Rounds of loops that any path may have gone in this scan, at most; how many each has is in memory, behind the last
    /// slot.
    most_rounds: u64,
}

/// Faults in the order of their numbers.
pub(crate) const FAULTS: [FaultKind; 4] =
    [FaultKind::DivisionByZero, FaultKind::Index, FaultKind::OutOfRange, FaultKind::LoopLimit];

/// Adds one scan of a version to a net. `inputs` are in the order of its points. What is `unread` is not read in the first
/// scan after power-up; what it holds then is a constant of its own.
pub(crate) fn add_version(
    net: &mut Net,
    side: usize,
    machine: &Machine,
    inputs: &[Node],
    passing: impl Into<Passing>,
    unread: Unread,
) -> Result<Scanned, Unfit> {
    let tape = machine.tape();
    let is_given = |p: &Point| p.ty == PointType::Text && p.direction != Direction::Internal;
    if net.unknown.is_none() && machine.points().iter().any(is_given) {
        return Err(Unfit::Text);
    }
    let (first, first_scan) = net.register(1, false, true);
    let (began, has_begun) = net.register(0, true, true);
    let zero = net.constant(0);
    let Passing { dt, standing } = passing.into();
    let since_last = net.mux(first_scan, zero, dt);
    let advance = standing.map_or(since_last, |standing| net.mux(first_scan, standing.since_power, dt));
    let running = net.mux(has_begun, dt, standing.map_or(zero, |standing| standing.at_all));
    let always = net.bool(true);
    net.registers[began.0 as usize].next = always;
    net.registers[first.0 as usize].role = Role::FirstScan;
    net.registers[began.0 as usize].role = Role::HasBegun;
    let given = machine.points_of(Direction::Input).zip(inputs).map(|((_, p), node)| (p.slot, *node)).collect();
    let mut bools = vec![false; tape.image.len()];
    machine.bool_slots().for_each(|slot| bools[slot as usize] = true);
    let mut watches = vec![false; tape.image.len()];
    tape.watches.iter().for_each(|slot| watches[*slot as usize] = true);
    let mut builder = Builder {
        tape,
        side,
        now: Now { since_last, advance, running, first_scan },
        begin: HashMap::new(),
        registers: Vec::new(),
        given,
        bools,
        written: tape.written(),
        watches,
        unread,
        ticks: HashMap::new(),
        memory: Memory::new(tape.image.len() + 1),
        way: Way::new(always),
        branches: Branches::default(),
        waiting: BTreeMap::new(),
        faults: Vec::new(),
        beyond: zero,
        most_rounds: 0,
        net,
    };
    builder.memory.set(builder.rounds(), zero);
    for entry in &tape.entries {
        builder.entry(entry.start, entry.interval)?;
    }
    builder.finish(machine, first)
}

impl Builder<'_> {
    /// Follows a program from its start to its end, in the scans in which it is released.
    fn entry(&mut self, start: u32, interval: i64) -> Result<(), Unfit> {
        let idle = (interval > 0).then(|| {
            let first = self.now.first_scan;
            let ticks = self.ticks_of(interval);
            let zero = self.net.constant(0);
            let fell = self.net.add(Gate::Less(zero, ticks));
            let released = self.net.or(first, fell);
            let [runs, rests] = self.split(released);
            self.way = runs;
            Path { way: rests, memory: self.memory.clone() }
        });
        self.follow(start)?;
        if let Some(idle) = idle {
            self.join(idle);
        }
        Ok(())
    }

    /// Follows the tape until all paths have ended; what ended well is at hand after it.
    fn follow(&mut self, start: u32) -> Result<(), Unfit> {
        let mut at = start;
        let mut ended: Vec<Path> = Vec::new();
        let mut rounds: HashMap<u32, u32> = HashMap::new();
        loop {
            // What left last is the other way of the branch that was come to last.
            for path in self.waiting.remove(&at).unwrap_or_default().into_iter().rev() {
                self.join(path);
            }
            if self.way.is_never(self.net) {
                let Some(next) = self.waiting.keys().next() else { break };
                at = *next;
                continue;
            }
            if self.net.gates.len() > MOST_GATES {
                return Err(Unfit::Size);
            }
            match self.effect(at)? {
                Onward::On => {}
                Onward::End => {
                    let nothing = self.nothing();
                    let way = std::mem::replace(&mut self.way, nothing);
                    ended.push(Path { way, memory: self.memory.clone() });
                }
                Onward::Jump { when, to } => {
                    let [jumps, stays] = self.split(when);
                    if !jumps.is_never(self.net) {
                        let path = Path { way: jumps, memory: self.memory.clone() };
                        self.waiting.entry(to).or_default().push(path);
                    }
                    self.way = stays;
                }
                Onward::Back { to } => {
                    self.count_round();
                    let round = rounds.entry(at).or_default();
                    let sure = self.net.as_constant(self.way.when) == Some(1);
                    *round += u32::from(!sure);
                    if *round > MOST_ROUNDS {
                        self.beyond = self.net.or(self.beyond, self.way.when);
                        self.way = self.nothing();
                    } else {
                        at = to;
                        continue;
                    }
                }
            }
            at += 1;
        }
        for path in ended.into_iter().rev() {
            self.join(path);
        }
        Ok(())
    }

    /// Where memory holds how many rounds of loops the path at hand has gone.
    fn rounds(&self) -> u32 {
        self.tape.image.len() as u32
    }

    /// One more round of a loop; a fault where none is left.
    fn count_round(&mut self) {
        let before = self.read(self.rounds());
        if self.most_rounds >= LOOP_LIMIT {
            let limit = self.net.constant(LOOP_LIMIT as i64);
            let is_left = self.net.add(Gate::Less(before, limit));
            let spent = self.net.not(is_left);
            self.fault_if(FaultKind::LoopLimit, spent);
        }
        self.most_rounds += 1;
        let one = self.net.constant(1);
        let after = self.net.add(Gate::Add(IntShape::LONG, before, one));
        self.memory.set(self.rounds(), after);
    }

    /// A path that is never taken.
    fn nothing(&mut self) -> Way {
        Way::new(self.net.bool(false))
    }

    /// The path at hand as two: where this holds, and where it does not.
    fn split(&mut self, asked: Node) -> [Way; 2] {
        self.branches.split(self.net, &self.way, asked)
    }

    /// What is on this path faults if `when`; what follows is on the path that does not.
    pub(super) fn fault_if(&mut self, kind: FaultKind, when: Node) {
        let [fails, goes_on] = self.split(when);
        if !fails.is_never(self.net) {
            self.faults.push((kind, Path { way: fails, memory: self.memory.clone() }));
        }
        self.way = goes_on;
    }

    /// Joins a path with the one at hand.
    fn join(&mut self, path: Path) {
        if path.way.is_never(self.net) {
            return;
        }
        if self.way.is_never(self.net) {
            (self.way, self.memory) = (path.way, path.memory);
            return;
        }
        let is_theirs = self.branches.asked(&path.way, &self.way).unwrap_or(path.way.when);
        for (slot, mine, theirs) in self.memory.apart(&path.memory) {
            let mine = mine.unwrap_or_else(|| self.at_begin(slot));
            let theirs = theirs.unwrap_or_else(|| self.at_begin(slot));
            let node = self.net.mux(is_theirs, theirs, mine);
            self.memory.set(slot, node);
        }
        self.way = self.branches.join(self.net, &self.way, &path.way);
    }

    pub(super) fn read(&mut self, slot: u32) -> Node {
        match self.memory.get(slot) {
            Some(node) => node,
            None => self.at_begin(slot),
        }
    }

    /// What a slot holds when the scan begins.
    fn at_begin(&mut self, slot: u32) -> Node {
        if let Some(node) = self.begin.get(&slot).or_else(|| self.given.get(&slot)) {
            return *node;
        }
        let image = self.tape.image[slot as usize];
        // A temporary is written before it is read; what it held does not matter.
        let fixed = !self.written[slot as usize] || self.tape.temporaries.contains(&slot);
        let node = if fixed && !self.watches[slot as usize] {
            self.net.constant(image)
        } else {
            let retained = self.tape.retained[slot as usize];
            let (id, node) = self.net.register(image, retained, self.bools[slot as usize]);
            self.net.registers[id.0 as usize].slot = Some((self.side, slot));
            self.registers.push((slot, id));
            if self.watches[slot as usize] {
                self.net.registers[id.0 as usize].stopwatch = true;
                let time = if retained { self.now.running } else { self.now.advance };
                self.net.add(Gate::Advance(node, time))
            } else if self.unread == Unread::All || (self.unread == Unread::Lost && !retained) {
                self.net.registers[id.0 as usize].unread = true;
                let image = self.net.constant(image);
                self.net.mux(self.now.first_scan, image, node)
            } else {
                node
            }
        };
        self.begin.insert(slot, node);
        node
    }

    /// Ticks of a base that fell since the start of the previous scan.
    pub(super) fn ticks_of(&mut self, base: i64) -> Node {
        if let Some(node) = self.ticks.get(&base) {
            return *node;
        }
        // The part of a tick that has passed runs on from scan to scan.
        let (id, phase) = self.net.register(0, false, false);
        let sum = self.net.add(Gate::Advance(phase, self.now.advance));
        let by = self.net.constant(base);
        let mut ticks = self.net.add(Gate::Div(IntShape::LONG, sum, by));
        if self.now.advance != self.now.since_last {
            // No scan came before the first one, so none fell since then.
            let zero = self.net.constant(0);
            ticks = self.net.mux(self.now.first_scan, zero, ticks);
        }
        self.net.registers[id.0 as usize].next = self.net.add(Gate::Mod(IntShape::LONG, sum, by));
        self.ticks.insert(base, ticks);
        ticks
    }

    /// After all programs: faults, what the outside sees, and what registers hold next.
    fn finish(mut self, machine: &Machine, first: RegId) -> Result<Scanned, Unfit> {
        let zero = self.net.constant(0);
        let mut code = zero;
        for (kind, path) in std::mem::take(&mut self.faults) {
            let number = FAULTS.iter().position(|k| *k == kind).unwrap_or_default() as i64 + 1;
            let number = self.net.constant(number);
            code = self.net.mux(path.way.when, number, code);
            self.join(path);
        }
        let stops = (code != zero).then(|| self.net.register(0, false, false));
        // What a stopped program would have done does not count.
        let stopped = match stops {
            Some((_, before)) => {
                let runs = self.net.equal(before, zero);
                self.net.not(runs)
            }
            None => zero,
        };
        let fault = match stops {
            Some((id, before)) => {
                let fault = self.net.mux(stopped, before, code);
                self.net.registers[id.0 as usize].next = fault;
                self.net.registers[id.0 as usize].role = Role::Fault;
                fault
            }
            None => zero,
        };
        let whole = self.net.equal(fault, zero);
        let was_first = self.now.first_scan;
        self.net.registers[first.0 as usize].next = self.net.mux(whole, zero, was_first);
        let has_run = if stops.is_some() {
            let before = self.net.not(was_first);
            self.net.or(before, whole)
        } else {
            whole
        };
        let mut outputs = Vec::new();
        for (_, point) in machine.points_of(Direction::Output) {
            let written = self.read(point.slot);
            outputs.push(match stops {
                None => written,
                Some(_) => {
                    let image = self.tape.image[point.slot as usize];
                    let (id, held) = self.net.register(image, false, self.bools[point.slot as usize]);
                    let seen = self.net.mux(whole, written, held);
                    self.net.registers[id.0 as usize].next = seen;
                    self.net.registers[id.0 as usize].role = Role::Held;
                    seen
                }
            });
        }
        let probes = (0..self.tape.probes.len()).map(|number| self.probe(number)).collect();
        self.registers_next(stopped);
        for slot in self.given.keys() {
            if self.memory.get(*slot).is_some_and(|node| node != self.given[slot]) {
                return Err(Unfit::WritesInput);
            }
        }
        Ok(Scanned { outputs, has_run, fault, beyond: self.beyond, probes })
    }

    /// Anything that a slot can hold, where that is allowed in place of a string or of what is computed from one.
    pub(super) fn unknown(&mut self, slot: u32) -> Result<Node, Unfit> {
        let range = if self.bools[slot as usize] { (0, 1) } else { (i64::MIN, i64::MAX) };
        let node = self.net.input(range, 1);
        let gate = self.net.gate(node);
        let unknown = self.net.unknown.as_mut().ok_or(Unfit::Text)?;
        if let Gate::Input(id) = gate {
            unknown.push(id);
        }
        Ok(node)
    }

    /// Follows a probe on what is remembered now; that stays as it is.
    fn probe(&mut self, number: usize) -> Option<Probed> {
        let (start, slot) = self.tape.probes[number];
        let always = self.net.bool(true);
        let way = std::mem::replace(&mut self.way, Way::new(always));
        let memory = self.memory.clone();
        // Whoever asks has all rounds left.
        let zero = self.net.constant(0);
        self.memory.set(self.rounds(), zero);
        let rounds = std::mem::take(&mut self.most_rounds);
        let followed = self.follow(start);
        let probed = Probed { value: self.read(slot), has_value: self.way.when };
        self.faults.clear();
        self.waiting.clear();
        (self.way, self.memory, self.most_rounds) = (way, memory, rounds);
        followed.ok().map(|()| probed)
    }

    /// Says what registers hold after the scan. That may need further registers, and so on.
    fn registers_next(&mut self, stopped: Node) {
        let mut done = 0;
        while done < self.registers.len() {
            let (slot, id) = self.registers[done];
            let begin = self.begin[&slot];
            let end = self.read(slot);
            self.net.registers[id.0 as usize].next = self.net.mux(stopped, begin, end);
            done += 1;
        }
    }
}
