//! Lockstep comparison and its verdict.

use super::difference::{self, Difference, What};
use super::generate::Generator;
use super::scenario::Scenario;
use super::{Pairing, Version, shrink};
use crate::model::{Duration, Instant, format_duration};
use crate::scan::{Controller, PointType, Power, ScanTime};
use serde::Serialize;

/// How much to try.
#[derive(Clone, Debug)]
pub struct Effort {
    /// How many scenarios.
    pub scenarios: u64,
    /// No new scenario begins once this many scans have been run on each side.
    pub scans: u64,
    /// What the drawing starts from; the same seed tries the same.
    pub seed: u64,
    /// The scan time of both sides.
    pub time: ScanTime,
}

impl Default for Effort {
    /// 4,000 scenarios, at most ten million scans, 10 ms a scan.
    fn default() -> Self {
        Effort { scenarios: 4_000, scans: 10_000_000, seed: 1, time: ScanTime::Fixed(Duration::from_millis(10)) }
    }
}

/// How far a comparison is.
#[derive(Clone, Copy, Debug)]
pub struct Progress {
    /// Scenarios done.
    pub done: u64,
    /// Scenarios to do.
    pub of: u64,
}

/// What a comparison found out.
#[derive(Clone, Debug, Serialize)]
#[serde(rename_all = "lowercase", tag = "verdict")]
#[non_exhaustive]
pub enum Verdict {
    /// No difference was found; how much was tried. This is no proof.
    Tested(Box<Tested>),
    /// They differ; a replayed scenario shows it.
    Different(Box<Difference>),
    /// Nothing can be said.
    Undecided {
        /// Why.
        reason: String,
    },
}

/// What [`Verdict::Tested`] rests on.
#[derive(Clone, Debug, Serialize)]
pub struct Tested {
    /// What was compared.
    pub pairing: Pairing,
    /// Scenarios run.
    pub scenarios: u64,
    /// Scans run on each side.
    pub scans: u64,
    /// Power cycles among them.
    pub power_cycles: u64,
    /// The seed the scenarios were drawn from.
    pub seed: u64,
    /// Statements or instructions run, and how many there are: left, then right.
    pub statements: [(usize, usize); 2],
    /// Places that never ran, left then right, as `file:line: text`.
    pub never_ran: [Vec<String>; 2],
    /// Paired outputs that never changed in any scenario: nothing was learnt about them.
    pub never_changed: Vec<String>,
    /// Scenarios in which both sides stopped with the same fault.
    pub faults: u64,
    /// What is assumed.
    pub assumptions: Vec<String>,
}

/// The first scan in which two versions part.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Finding {
    pub(super) scan: u64,
    pub(super) what: What,
}

/// Two controllers side by side.
pub(super) struct Rig<'v> {
    pub(super) left: &'v Version,
    pub(super) right: &'v Version,
    pub(super) pairing: &'v Pairing,
    pub(super) time: &'v ScanTime,
}

impl Rig<'_> {
    /// Runs a scenario on both sides until they part; `each` sees both controllers after every scan.
    pub(super) fn run(
        &self,
        controllers: &mut [Controller; 2],
        scenario: &Scenario,
        mut each: impl FnMut(&[Controller; 2], u64, Instant),
    ) -> Option<Finding> {
        let mut steps = scenario.steps.iter().peekable();
        for (scan, at) in (0..scenario.scans).zip(self.time.clock()) {
            if let Some(step) = steps.next_if(|s| s.scan == scan) {
                for (side, controller) in controllers.iter_mut().enumerate() {
                    match step.power {
                        Some(Power::Cycle) => controller.power_cycle(at),
                        Some(Power::Stop) => controller.stop(),
                        Some(Power::Run) => controller.run(),
                        None => {}
                    }
                    for change in &step.changes {
                        let pair = &self.pairing.inputs[change.input];
                        controller.set_slot(if side == 0 { pair.left } else { pair.right }, change.value);
                    }
                }
            }
            controllers.iter_mut().for_each(|c| c.scan(at));
            each(controllers, scan, at);
            if let Some(what) = self.parted(controllers) {
                return Some(Finding { scan, what });
            }
        }
        None
    }

    /// How two controllers differ now, if they do.
    pub(super) fn parted(&self, controllers: &[Controller; 2]) -> Option<What> {
        let [left, right] = controllers;
        let faults = [left.fault(), right.fault()];
        if faults[0].map(|f| f.kind) != faults[1].map(|f| f.kind) {
            return Some(What::Fault(faults));
        }
        self.pairing.outputs.iter().position(|pair| self.differs(controllers, pair)).map(What::Output)
    }

    fn differs(&self, [left, right]: &[Controller; 2], pair: &super::Pair) -> bool {
        match self.left.machine.point(pair.left).ty {
            PointType::Text => left.get(pair.left) != right.get(pair.right),
            PointType::Elem(elem) if elem.is_real() => {
                // The same number, or both no number.
                let (a, b) = (
                    f64::from_bits(left.get_slot(pair.left) as u64),
                    f64::from_bits(right.get_slot(pair.right) as u64),
                );
                !(a == b || (a.is_nan() && b.is_nan()))
            }
            _ => left.get_slot(pair.left) != right.get_slot(pair.right),
        }
    }

    pub(super) fn fresh(&self) -> [Controller; 2] {
        [Controller::new(&self.left.machine), Controller::new(&self.right.machine)]
    }
}

/// Compares two versions in lockstep on generated scenarios; a difference is shrunk and replayed.
pub fn compare(left: &Version, right: &Version, effort: &Effort, mut progress: impl FnMut(Progress)) -> Verdict {
    let pairing = Pairing::by_name(left, right);
    if pairing.outputs.is_empty() {
        let reason = "no output of one version has a partner of the same name and type in the other".to_string();
        return Verdict::Undecided { reason };
    }
    if effort.time.longest().nanos() <= 0 {
        return Verdict::Undecided { reason: "the scan time must be above zero".to_string() };
    }
    let rig = Rig { left, right, pairing: &pairing, time: &effort.time };
    let generator = Generator::new(left, right, &pairing, effort.time.longest());
    let mut tally = Tally::new(&rig);
    for number in 0..effort.scenarios {
        if tally.scans >= effort.scans {
            break;
        }
        progress(Progress { done: number, of: effort.scenarios });
        let scenario = generator.scenario(effort.seed, number);
        if tally.run(&rig, &scenario).is_some() {
            let scenario = shortest(&rig, &generator, effort, number, scenario);
            return match difference::describe(&rig, &scenario, tally.scenarios, tally.scans) {
                Some(difference) => Verdict::Different(Box::new(difference)),
                None => Verdict::Undecided {
                    reason: "a difference was seen, but its scenario does not replay; please report this".to_string(),
                },
            };
        }
    }
    Verdict::Tested(Box::new(tally.tested(&rig, effort, &generator)))
}

/// Scenarios looked at behind the first that shows a difference, for one that says it more shortly.
const LOOK_FURTHER: u64 = 400;

/// Shrinks the first scenario that shows a difference, and a few that follow; gives the shortest.
fn shortest(rig: &Rig<'_>, generator: &Generator, effort: &Effort, number: u64, first: Scenario) -> Scenario {
    let weight = |s: &Scenario| s.scans + 3 * s.happenings() as u64;
    let mut candidates = vec![first];
    for later in number + 1..number + LOOK_FURTHER {
        let scenario = generator.scenario(effort.seed, later);
        // Long ones cost more to look at than they are likely to save.
        if scenario.scans <= candidates[0].scans.max(100)
            && rig.run(&mut rig.fresh(), &scenario, |_, _, _| {}).is_some()
        {
            candidates.push(scenario);
        }
        if candidates.len() == 8 {
            break;
        }
    }
    let mut best: Option<Scenario> = None;
    for scenario in candidates {
        let shrunk = shrink::shrink(rig, scenario);
        if best.as_ref().is_none_or(|b| weight(&shrunk) < weight(b)) {
            best = Some(shrunk);
        }
    }
    best.unwrap_or(Scenario { scans: 0, steps: Vec::new() })
}

/// What has been tried so far.
struct Tally {
    scenarios: u64,
    scans: u64,
    power_cycles: u64,
    faults: u64,
    seen: [Vec<bool>; 2],
    first: Vec<i64>,
    changed: Vec<bool>,
}

impl Tally {
    fn new(rig: &Rig<'_>) -> Tally {
        let start = Controller::new(&rig.left.machine);
        Tally {
            scenarios: 0,
            scans: 0,
            power_cycles: 0,
            faults: 0,
            seen: [vec![false; rig.left.machine.operations()], vec![false; rig.right.machine.operations()]],
            first: rig.pairing.outputs.iter().map(|p| start.get_slot(p.left)).collect(),
            changed: vec![false; rig.pairing.outputs.len()],
        }
    }

    fn run(&mut self, rig: &Rig<'_>, scenario: &Scenario) -> Option<Finding> {
        let mut controllers = rig.fresh();
        for (controller, seen) in controllers.iter_mut().zip(&mut self.seen) {
            controller.mark(std::mem::take(seen));
        }
        let (first, changed) = (&self.first, &mut self.changed);
        let found = rig.run(&mut controllers, scenario, |[left, _], _, _| {
            for (index, pair) in rig.pairing.outputs.iter().enumerate() {
                changed[index] |= left.get_slot(pair.left) != first[index];
            }
        });
        self.scenarios += 1;
        self.scans += found.as_ref().map_or(scenario.scans, |f| f.scan + 1);
        self.power_cycles += scenario.steps.iter().filter(|s| s.power == Some(Power::Cycle)).count() as u64;
        self.faults += u64::from(controllers[0].fault().is_some());
        for (controller, seen) in controllers.iter_mut().zip(&mut self.seen) {
            *seen = controller.marks();
        }
        found
    }

    fn tested(self, rig: &Rig<'_>, effort: &Effort, generator: &Generator) -> Tested {
        let left = rig.left.machine.statements_run(&self.seen[0]);
        let right = rig.right.machine.statements_run(&self.seen[1]);
        let places = |version: &Version, never: &[crate::source::Span]| -> Vec<String> {
            let project = version.checked.project();
            never.iter().map(|span| format!("{}: {}", project.place(*span), project.excerpt(*span))).collect()
        };
        let never_changed = rig.pairing.outputs.iter().zip(&self.changed).filter(|(_, c)| !**c);
        let mut assumptions = vec![
            format!("both versions scan in lockstep, {}", scan_text(&effort.time)),
            "at most 100,000 rounds of loops in one scan".to_string(),
        ];
        if !generator.unreached.is_empty() {
            let list: Vec<String> = generator
                .unreached
                .iter()
                .map(|t| format!("T#{}", format_duration(Duration::from_nanos(*t))))
                .collect();
            assumptions.push(format!("no scenario lasted as long as {}; a longer --scan reaches it", list.join(", ")));
        }
        Tested {
            scenarios: self.scenarios,
            scans: self.scans,
            power_cycles: self.power_cycles,
            seed: effort.seed,
            statements: [(left.0, left.0 + left.1.len()), (right.0, right.0 + right.1.len())],
            never_ran: [places(rig.left, &left.1), places(rig.right, &right.1)],
            never_changed: never_changed.map(|(p, _)| p.name.clone()).collect(),
            faults: self.faults,
            assumptions,
            pairing: rig.pairing.clone(),
        }
    }
}

/// A scan time in words.
pub(super) fn scan_text(time: &ScanTime) -> String {
    match time {
        ScanTime::Fixed(time) => format!("{} a scan", format_duration(*time)),
        ScanTime::Range { low, high, .. } => {
            format!("{} to {} a scan, drawn once", format_duration(*low), format_duration(*high))
        }
        ScanTime::Given(_) => "scan times as given".to_string(),
    }
}
