//! What a difference looks like is tried before it is said: something is undone on one side, or taken out of the scenarios,
//! and both are run again. Where they agree then, in the scenario that showed the difference and in others that are drawn,
//! that is what made it.

mod acts;
mod calls;
mod devices;
mod edits;
mod order;
mod slice;

use crate::check::Checked;
use crate::check::typed::{Code, TCall, TInit, TInstrKind, TStmtKind, Var};
use crate::check::walk::each_statement;
use crate::lang::statement_at;
use crate::model::Retain;
use crate::model::sheet::{DoneAt, Past, PowerUp, Role, Trigger};
use crate::scan::Machine;
use crate::source::Span;
use crate::twin::effort::A_VERSION;
use crate::twin::generate::{Generator, Manner};
use crate::twin::run::{Finding, Run, Waits, parts};
use crate::twin::scenario::{Act, Leaf, Scenario};
use crate::twin::vocabulary::Vocabulary;
use crate::twin::{Timing, Twin, Version, What};
use acts::Without;
use devices::{Devices, Known};
use edits::Edit;
use fastrand::Rng;
use slice::{Slice, slice};
use std::borrow::Cow;
use std::collections::HashSet;

/// Scenarios that are drawn beside the one that showed the difference.
const DRAWN: u64 = 24;

/// Scans of each.
const DRAWN_SCANS: u64 = 600;

/// Changed versions that are tried at most.
const MOST_TRIED: usize = 240;

/// Operations of the tape that all of it may take.
const MOST_WORK: u64 = 400_000_000;

/// Characters of a statement that are quoted.
const MOST_TEXT: usize = 40;

/// What a version with something undone is.
struct Undone {
    checked: Checked,
    trap: u8,
    words: String,
}

/// One side of a difference.
struct Side<'v> {
    version: &'v Version,
    slice: Slice,
    devices: Devices,
    /// Where presets of timers stand.
    presets: Vec<Span>,
    /// Variables in which something is counted.
    counted: HashSet<String>,
    /// Times of the other side.
    other_times: Vec<i64>,
    /// What has elapsed, or a count, is asked for on the other side as well.
    reads_numbers: bool,
    /// A timer starts itself over, here or on the other side.
    restarts: bool,
}

impl<'v> Side<'v> {
    fn new(version: &'v Version, output: &str) -> Side<'v> {
        let devices = Devices::of(&version.checked);
        Side {
            slice: slice(&version.checked, output),
            presets: presets(&version.checked, &devices),
            counted: edits::counted(&version.checked),
            devices,
            version,
            other_times: Vec::new(),
            reads_numbers: false,
            restarts: false,
        }
    }

    /// Both sides of a difference in an output, by its names.
    fn both(versions: [&'v Version; 2], outputs: [&str; 2]) -> [Side<'v>; 2] {
        let mut out = [0, 1].map(|side: usize| Side::new(versions[side], outputs[side]));
        let numbers = out.each_ref().map(edits::reads_numbers);
        let restarts = out.iter().any(order::restarts_itself);
        for (side, other) in [(0, 1), (1, 0)] {
            out[side].other_times = Vocabulary::of([versions[other], versions[other]]).times;
            out[side].reads_numbers = numbers[other];
            out[side].restarts = restarts;
        }
        out
    }

    fn checked(&self) -> &'v Checked {
        &self.version.checked
    }

    fn name(&self) -> &str {
        &self.version.name
    }

    fn place(&self, span: Span) -> String {
        self.version.checked.project().place(span)
    }

    /// What stands at a place, cut to what is known again, and where.
    fn text(&self, span: Span) -> String {
        let text = statement_at(self.checked().project(), span);
        let short: String = text.chars().take(MOST_TEXT).collect();
        let more = if short.len() < text.len() { "..." } else { "" };
        format!("`{short}{more}` ({})", self.place(span))
    }

    /// The variables on which the difference hangs.
    fn vars(&self) -> impl Iterator<Item = &'v Var> {
        let own = self.checked().units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        own.chain(&self.checked().globals).filter(|v| v.global.is_none() && self.slice.has(&v.name))
    }

    /// Initial values of what the difference hangs on, where they are not those of the type.
    fn first_values(&self) -> Vec<String> {
        let given = self.vars().filter(|v| v.init != TInit::Default && !v.constant && !v.is_input());
        let mut out: Vec<String> = given.map(|v| format!("{:?}", v.init)).collect();
        out.sort();
        out
    }

    /// What the devices are on which the difference hangs.
    fn known(&self) -> Vec<&Known> {
        self.vars().filter_map(|v| self.devices.of_type(&v.ty)).collect()
    }
}

/// Every call of a version's own text.
fn each_call(checked: &Checked, found: &mut dyn FnMut(&TCall)) {
    for unit in checked.units.iter().filter(|unit| !unit.built_in) {
        match &unit.code {
            Code::Block(list) => each_statement(list, &mut |stmt| {
                if let TStmtKind::Call(call) = &stmt.kind {
                    found(call);
                }
            }),
            Code::List(list) => {
                for instr in list {
                    if let TInstrKind::Call(_, call) = &instr.kind {
                        found(call);
                    }
                }
            }
        }
    }
}

fn presets(checked: &Checked, devices: &Devices) -> Vec<Span> {
    let mut out = Vec::new();
    each_call(checked, &mut |call| {
        let Some(known) = devices.get(call.unit).filter(|known| known.kind.is_timer()) else { return };
        let given = call.inputs.iter().filter(|(input, _)| known.role(*input) == Some(Role::Preset));
        out.extend(given.map(|(_, value)| value.span));
    });
    out
}

/// A trap that was found to make the difference.
#[derive(Clone, Debug)]
pub(super) struct Confirmed {
    pub(super) trap: u8,
    /// What was undone, in words: "with ...".
    pub(super) words: String,
    /// True if a version was changed, false if scenarios were.
    pub(super) in_program: bool,
}

/// What is known once all was tried.
#[derive(Default)]
pub(super) struct Findings {
    /// The likeliest first.
    pub(super) confirmed: Vec<Confirmed>,
    /// Traps that the sheets of both sides give reason for, with the reason.
    pub(super) facts: Vec<(u8, &'static str)>,
    /// A timer among the causes starts itself over, on one side or on both.
    pub(super) restarts: bool,
    /// One side does the same a scan later.
    pub(super) late: bool,
    /// There is a timer among the causes.
    pub(super) timers: bool,
    /// What the difference hangs on begins with other values on one side.
    pub(super) begins: bool,
}

/// A twin that compares the one output that differs, and what is tried on it.
struct Bench<'t> {
    twin: &'t Twin<'t>,
    sides: [Side<'t>; 2],
    given: Scenario,
    /// Others in which the versions part.
    telling: Vec<Scenario>,
    /// Others in which they do not.
    silent: Vec<Scenario>,
    tried: usize,
    work: u64,
}

/// Tries what may have made a difference.
pub(super) fn findings(twin: &Twin<'_>, scenario: &Scenario, found: &Finding) -> Findings {
    let What::Output(index) = found.what else { return Findings::default() };
    let pair = &twin.pairing.outputs[index];
    if pair.unwired || twin.is_single() {
        return Findings::default();
    }
    // Other outputs may differ for reasons of their own.
    let mut only = twin.clone();
    only.pairing.outputs = vec![pair.clone()];
    let (twin, pair) = (&only, &only.pairing.outputs[0]);
    let points = [pair.left, pair.right];
    let names = [0, 1].map(|side: usize| twin.versions()[side].machine.point(points[side]).name.as_str());
    let sides = Side::both(twin.versions(), names);
    let mut given = scenario.clone();
    given.acts.push(Act::Wait(acts::TAIL + scenario.scans()));
    let generator = Generator::new(twin, DRAWN_SCANS);
    let manner = |number: u64| if number % 3 == 2 { Manner::Restless } else { Manner::Deliberate };
    let draw = |number: u64| generator.draw(Rng::with_seed(number.wrapping_mul(0x9E37_79B9)), manner(number));
    let drawn = (0..DRAWN).map(|n| draw(n).cut(DRAWN_SCANS));
    let others = acts::beside(twin, scenario).into_iter().chain(drawn).filter(|s| twin.allows(s));
    let (telling, silent) = others.partition(|s| parts(twin, s, Waits::Leaping).is_some());
    let mut bench = Bench { twin, sides, given, telling, silent, tried: 0, work: 0 };
    let restarts = bench.sides[0].restarts;
    let facts = facts(&bench.sides);
    let begins = bench.sides[0].first_values() != bench.sides[1].first_values();
    let confirmed = bench.all();
    let timers = bench.sides.iter().flat_map(Side::known).any(|known| known.kind.is_timer());
    let late = bench.is_late();
    Findings { confirmed, facts, restarts, late, timers, begins }
}

impl Bench<'_> {
    /// Tries all there is to try, as long as there is work left.
    fn all(&mut self) -> Vec<Confirmed> {
        let mut out = Vec::new();
        if let Timing::Free(times) = &self.twin.timing {
            let mut twin = self.twin.clone();
            twin.timing = Timing::Free([times[0].clone(), times[0].clone()]);
            if self.agrees(&twin, None) {
                let words = "with the scan time of the left on both sides".to_string();
                out.push(Confirmed { trap: 26, words, in_program: true });
            }
            return out;
        }
        for side in 0..2 {
            for undo in [order::unended, order::hoisted, order::unchained, order::kept, retained, unretained] {
                self.one(side, undo(&self.sides[side]), &mut out);
            }
            let initial = initial(&self.sides[side], &self.sides[1 - side]);
            self.one(side, initial, &mut out);
        }
        self.both_hoisted(&mut out);
        for edit in [Edit::Comparison, Edit::Device] {
            self.each(&mut out, |side, wanted| edits::nth(side, edit, wanted));
        }
        self.each(&mut out, |side, wanted| if wanted < 2 { edits::windows(side, wanted == 0) } else { None });
        self.each(&mut out, calls::nth);
        self.each(&mut out, |side, wanted| edits::nth(side, Edit::Division, wanted));
        self.each(&mut out, order::nth);
        if self.sides[0].other_times != self.sides[1].other_times {
            self.each(&mut out, |side, wanted| edits::nth(side, Edit::Constant, wanted));
        }
        (0..2).for_each(|side| self.swaps(side, &mut out));
        self.each(&mut out, |side, wanted| edits::nth(side, Edit::Contact, wanted));
        self.scenarios(&mut out);
        out
    }

    fn one(&mut self, side: usize, undone: Option<Undone>, out: &mut Vec<Confirmed>) {
        let Some(undone) = undone.filter(|_| out.is_empty()) else { return };
        let Some(twin) = self.with(self.twin, side, undone.checked) else { return };
        if self.agrees(&twin, None) {
            out.push(Confirmed { trap: undone.trap, words: undone.words, in_program: true });
        }
    }

    /// Every way to undo something of a kind, on each side, until one makes both agree.
    fn each(&mut self, out: &mut Vec<Confirmed>, undo: impl Fn(&Side<'_>, usize) -> Option<Undone>) {
        for side in 0..2 {
            for wanted in 0.. {
                if self.is_spent() || !out.is_empty() {
                    break;
                }
                let Some(undone) = undo(&self.sides[side], wanted) else { break };
                self.one(side, Some(undone), out);
            }
        }
    }

    fn both_hoisted(&mut self, out: &mut Vec<Confirmed>) {
        let [Some(left), Some(right)] = [0, 1].map(|side: usize| order::hoisted(&self.sides[side])) else { return };
        let Some(twin) = self.with(self.twin, 0, left.checked) else { return };
        let Some(twin) = self.with(&twin, 1, right.checked) else { return };
        if out.is_empty() && self.agrees(&twin, None) {
            out.push(Confirmed { trap: left.trap, words: format!("{} on both sides", left.words), in_program: true });
        }
    }

    /// Variables with addresses, each taken for another one.
    fn swaps(&mut self, side: usize, out: &mut Vec<Confirmed>) {
        let names = |of: &Side<'_>| -> Vec<(String, crate::check::typed::Ty)> {
            edits::addressed(of.checked(), &of.slice).iter().map(|v| (v.name.clone(), v.ty.clone())).collect()
        };
        let [own, other] = [names(&self.sides[side]), names(&self.sides[1 - side])];
        for (a, ty) in own.iter().take(8) {
            for (b, _) in other.iter().filter(|(b, other)| b != a && other == ty).take(8) {
                if self.is_spent() {
                    return;
                }
                let undone = edits::swapped(&self.sides[side], a, b);
                self.one(side, undone, out);
            }
        }
    }

    fn scenarios(&mut self, out: &mut Vec<Confirmed>) {
        let known: Vec<Known> = self.sides.iter().flat_map(Side::known).cloned().collect();
        let counters = known.iter().any(|k| k.kind.is_counter()) || self.sides.iter().any(Side::counts);
        let directions =
            [0, 1].map(|side: usize| self.sides[side].known().iter().any(|k| k.field(Role::Direction).is_some()));
        let latches = known.iter().any(|k| k.latch.is_some());
        let edges = known.iter().any(|k| k.edge.is_some());
        let resets = known.iter().any(|k| k.kind.is_counter() && k.field(Role::Reset).is_some());
        let mut tries = vec![(Without::FirstScan, 29, "with nothing done in the first scan")];
        if known.iter().any(|k| k.edge.is_some() || k.counter.is_some()) {
            tries.push((Without::Rest, 29, "with all inputs on in the first scan"));
        }
        if counters {
            tries.push((Without::Holds, 7, "with inputs that are on for no more than a scan"));
        }
        let trap = match (directions[0] != directions[1], resets, latches, edges) {
            (true, ..) => Some(11),
            (_, true, ..) => Some(10),
            (_, _, true, _) => Some(13),
            (.., true) => Some(15),
            (false, false, false, false) => None,
        };
        tries.extend(trap.map(|trap| (Without::Company, trap, "with only one input on at a time")));
        tries.push((Without::Power, 18, "without loss of power"));
        for (what, trap, words) in tries {
            if !out.is_empty() {
                return;
            }
            let twin = self.twin.clone();
            if self.agrees(&twin, Some(what)) {
                out.push(Confirmed { trap, words: words.to_string(), in_program: false });
            }
        }
    }

    fn is_spent(&self) -> bool {
        self.tried >= MOST_TRIED || self.work >= MOST_WORK || self.twin.halt.has_rung()
    }

    /// The twin with another version on a side; `None` if it cannot be compiled, or takes other points.
    fn with<'a>(&self, twin: &Twin<'a>, side: usize, checked: Checked) -> Option<Twin<'a>> {
        let version = twin.versions()[side];
        let machine = Machine::with_probes(&checked, &version.probes).ok()?;
        let changed = Version { machine, checked: std::sync::Arc::new(checked), ..version.clone() };
        let mut out = twin.clone();
        if side == 0 {
            out.left = Cow::Owned(changed);
        } else {
            out.right = Cow::Owned(changed);
        }
        Some(out)
    }

    /// Whether a changed twin agrees, or this one without something in the scenarios: in the scenario that showed the difference,
    /// in those beside it that show it too, and in those that were drawn. What never moves proves nothing.
    fn agrees(&mut self, twin: &Twin<'_>, without: Option<Without>) -> bool {
        if self.is_spent() {
            return false;
        }
        self.tried += 1;
        let plain = |scenario: &Scenario| match without {
            None => Some(scenario.clone()),
            Some(what) => acts::without(what, twin, scenario).filter(|s| twin.allows(s)),
        };
        self.work += A_VERSION * twin.left.machine.operations() as u64;
        let cost = twin.versions().iter().map(|v| v.machine.operations() as u64).sum::<u64>();
        let mut values = HashSet::new();
        let (mut asked, mut work) = (0, 0);
        let told = std::iter::once(&self.given).chain(&self.telling).map(|s| (true, s));
        for (tells, scenario) in told.chain(self.silent.iter().map(|s| (false, s))) {
            // A scenario in which there was nothing to take out says nothing.
            let Some(scenario) = plain(scenario) else { continue };
            work += cost * scenario.scans().min(20_000);
            let pair = &twin.pairing.outputs[0];
            let found = Run::new(twin, Waits::Leaping).play(&scenario, |controllers, _, _| {
                if tells && values.len() < 2 {
                    values.insert(controllers[0].get_slot(pair.left));
                }
            });
            if found.is_some() {
                self.work += work;
                return false;
            }
            asked += usize::from(tells);
        }
        self.work += work;
        asked > 1 && values.len() > 1
    }

    /// Whether one side shows what the other showed a scan before, all along.
    fn is_late(&self) -> bool {
        let pair = &self.twin.pairing.outputs[0];
        if !matches!(self.twin.timing, Timing::Lockstep(_)) || self.given.scans() > 20_000 {
            return false;
        }
        let mut run = Run::new(self.twin, Waits::Whole);
        let mut seen: [Vec<i64>; 2] = Default::default();
        for leaf in self.given.leaves() {
            match leaf {
                Leaf::Set(change) => run.set(change),
                Leaf::Power(power) => run.power(power),
                Leaf::Wait(scans) => {
                    for _ in 0..scans {
                        run.wait(1, &mut |controllers, _, _| {
                            seen[0].push(controllers[0].get_slot(pair.left));
                            seen[1].push(controllers[1].get_slot(pair.right));
                        });
                    }
                }
            }
        }
        let follows = |late: &[i64], early: &[i64]| late.len() > 1 && late[1..] == early[..early.len() - 1];
        follows(&seen[0], &seen[1]) || follows(&seen[1], &seen[0])
    }
}

impl Side<'_> {
    /// Whether something is counted without a counter.
    fn counts(&self) -> bool {
        self.counted.iter().any(|name| self.slice.has(name))
    }
}

/// What the facts of the devices of both sides give reason for.
fn facts(sides: &[Side<'_>; 2]) -> Vec<(u8, &'static str)> {
    let [left, right] = [sides[0].known(), sides[1].known()];
    let mut out: Vec<(u8, &'static str)> = Vec::new();
    let mut note = |trap: u8, why: &'static str, differs: bool| {
        if differs && !out.contains(&(trap, why)) {
            out.push((trap, why));
        }
    };
    for a in &left {
        for b in &right {
            if let (Some(a), Some(b)) = (&a.timer, &b.timer) {
                note(
                    5,
                    "one timer is done when it executes, the other a scan later",
                    differ(a.done, b.done, DoneAt::NextScan),
                );
                note(4, "one timer stops at its preset, the other runs on", differ(a.past, b.past, Past::RunsOn));
                note(2, "one timer counts up, the other down", a.counts != b.counts);
            }
            if let (Some(a), Some(b)) = (&a.counter, &b.counter) {
                note(7, "one counter counts rises, the other scans", differ(a.trigger, b.trigger, Trigger::EveryScan));
                note(
                    8,
                    "the counters end at different numbers",
                    (a.limit, a.least, a.most) != (b.limit, b.least, b.most),
                );
                note(9, "one counter is done at its preset only, the other beyond it as well", a.done != b.done);
                note(
                    29,
                    "the counters take an input that is on at power-up differently",
                    differ(a.power_up, b.power_up, PowerUp::Counts),
                );
            }
            if let (Some(a), Some(b)) = (&a.latch, &b.latch) {
                note(13, "one latch is set dominant, the other reset dominant", a.wins != b.wins);
            }
            if let (Some(a), Some(b)) = (&a.edge, &b.edge) {
                note(29, "the edges answer differently in their first call", a.first != b.first);
            }
        }
    }
    out
}

/// True if just one of two is a certain value.
fn differ<T: PartialEq>(a: T, b: T, one: T) -> bool {
    (a == one) != (b == one)
}

/// The version with all that a difference hangs on retained.
fn retained(side: &Side<'_>) -> Option<Undone> {
    retention(side, Retain::Retain, "with all of it retained")
}

/// The version with nothing that a difference hangs on retained.
fn unretained(side: &Side<'_>) -> Option<Undone> {
    retention(side, Retain::NonRetain, "with nothing of it retained")
}

fn retention(side: &Side<'_>, retain: Retain, words: &str) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let mut changed = false;
    let own = checked.units.iter_mut().filter(|u| !u.built_in).flat_map(|u| &mut u.vars);
    for var in own.chain(&mut checked.globals).filter(|v| !v.constant && side.slice.has(&v.name)) {
        let is_kept = |retain| matches!(retain, Retain::Retain);
        changed |= is_kept(var.retain) != is_kept(retain);
        var.retain = retain;
    }
    changed.then(|| Undone { checked, trap: 18, words: format!("{words} in {}", side.name()) })
}

/// The version with the initial values of the other one, by name.
fn initial(side: &Side<'_>, other: &Side<'_>) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let theirs: Vec<_> = other.checked().units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars).collect();
    let mut changed = None;
    for var in checked.units.iter_mut().filter(|u| !u.built_in).flat_map(|u| &mut u.vars) {
        let same = |v: &&&Var| v.name.eq_ignore_ascii_case(&var.name) && v.ty == var.ty;
        if let (Some(found), true) = (theirs.iter().find(same), side.slice.has(&var.name))
            && found.init != var.init
        {
            var.init = found.init.clone();
            changed.get_or_insert_with(|| var.name.clone());
        }
    }
    let name = changed?;
    Some(Undone { checked, trap: 29, words: format!("with {name} as it is in {} to begin with", other.name()) })
}
