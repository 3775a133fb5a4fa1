//! Trying to find seeded faults, all at once where there is a circuit, each by itself elsewhere, within the work of the effort.

use super::many::{self, LANES, Many, Ran};
use super::weave::{Woven, weave};
use super::{Mutation, SeededFault, Strength, choose, seed, shows, with_fault, with_seeded};
use crate::circuit::{Algebra, NONE, Planes, bit, set_bit};
use crate::lang::Elements;
use crate::source::Span;
use crate::twin::effort::A_VERSION;
use crate::twin::run::Waits;
use crate::twin::{Activity, Effort, Progress, Scenario, Search, Twin};
use rayon::prelude::*;
use std::collections::BTreeSet;

/// Scenarios that are tried side by side before it is looked which faults are still open, and scans that each is run for at least.
const ROUND: u64 = 16;
const SHORTEST: u64 = 64;

/// Scans of a scenario that are run one by one; longer waits are leapt over, by the tape.
const SHORT: u64 = 40_000;

/// Longer scenarios that a fault is tried with which no circuit has found, of so many that are drawn.
const MOST_FAR: usize = 24;
const FAR_DRAWN: u64 = 1_000;

/// A fault, and what became of it.
struct Fault {
    kind: Mutation,
    site: usize,
    span: Span,
    /// The outputs that it has to do with, if it is known.
    outputs: Option<BTreeSet<usize>>,
    is_tried: bool,
    is_caught: bool,
}

/// What tries to find faults.
pub(super) struct Trials<'a, P: FnMut(Progress)> {
    twin: &'a Twin<'a>,
    effort: &'a Effort,
    kept: &'a [Scenario],
    progress: P,
    faults: Vec<Fault>,
    /// Operations of the tape that are left, and how many there were.
    work: u64,
    all: u64,
}

impl<'a, P: FnMut(Progress)> Trials<'a, P> {
    /// With as many faults as the effort asks for.
    pub(super) fn new(twin: &'a Twin<'a>, effort: &'a Effort, kept: &'a [Scenario], progress: P) -> Self {
        let all = effort.work / 2;
        let sites = seed::sites(&twin.right.checked, twin.timing.longest());
        let fault = |(kind, site, span)| Fault { kind, site, span, outputs: None, is_tried: false, is_caught: false };
        let faults = choose(&sites, effort.faults).into_iter().map(fault).collect();
        Trials { twin, effort, kept, progress, faults, work: all, all }
    }

    /// Tries all of them.
    pub(super) fn run(mut self) -> Strength {
        let mut search = Search::new(self.twin, &Effort { faults: 0, ..self.effort.clone() });
        search.breed_from(self.kept);
        for first in (0..self.faults.len()).step_by(LANES) {
            self.tell();
            self.all_at_once(first, &search);
        }
        self.one_by_one(&search);
        let project = self.twin.right.checked.project();
        let elements = Elements::of(project);
        let untried = self.faults.iter().filter(|f| !f.is_tried).count();
        let tried = self.faults.into_iter().filter(|f| f.is_tried);
        let faults = tried.map(|fault| SeededFault {
            kind: fault.kind,
            place: project.place(fault.span),
            text: match elements.element(fault.span) {
                Some(element) => element.to_string(),
                None => crate::dialect::excerpt(project, fault.span),
            },
            caught: fault.is_caught,
            harmless: false,
            site: fault.site,
            outputs: fault.outputs,
        });
        Strength { faults: faults.collect(), untried }
    }

    fn tell(&mut self) {
        let of = self.faults.len() as u64;
        let used = (self.all - self.work).saturating_mul(of) / self.all.max(1);
        let settled = self.faults.iter().filter(|f| f.is_caught).count() as u64;
        (self.progress)(Progress { step: Activity::Faults, done: used.max(settled).min(of), of });
    }

    fn pay(&mut self, operations: u64) {
        self.work = self.work.saturating_sub(operations);
    }

    /// By circuit: scenarios that were kept, the younger ones first since they cover more, then others as they are drawn.
    fn all_at_once(&mut self, first: usize, search: &Search<'_>) {
        let faults: Vec<(Mutation, usize)> =
            self.faults[first..].iter().take(LANES).map(|f| (f.kind, f.site)).collect();
        let cost = Effort::circuit_cost(self.twin);
        // Where laying it out leaves little to run it with, the tape goes further.
        if cost > self.work / 4 * 3 {
            return;
        }
        self.pay(cost);
        let Some((many, lanes)) = circuit(self.twin, &faults) else { return };
        for (lane, fault) in lanes.iter().enumerate() {
            self.faults[first + fault].outputs = many.outputs(lane);
        }
        // What is behind no selector has its share of the work, and so have the faults of the next circuit.
        let rest = (self.faults.len() - first - lanes.len()) as u64;
        let reserve = self.work / (rest + lanes.len() as u64).max(1) * rest;
        let mut open = many::lanes(lanes.len());
        let mut lost = NONE;
        let kept = self.kept.iter().rev().filter(|s| many::is_for_circuit(s) && s.scans() <= SHORT).cloned();
        let drawn = (0..self.effort.scenarios).map(|number| search.scenario(number)).filter(many::is_for_circuit);
        let mut scenarios = kept.chain(drawn);
        while Planes.and(open, Planes.not(lost)) != NONE && self.work > reserve && !self.twin.halt.has_rung() {
            let affordable = (self.work - reserve) / many.scan_cost(open);
            let count = (affordable / SHORTEST).clamp(1, ROUND);
            let round: Vec<Scenario> = scenarios.by_ref().take(count as usize).collect();
            if round.is_empty() {
                break;
            }
            let most = (affordable / count).clamp(SHORTEST, SHORT);
            let ran: Vec<Ran> = round.par_iter().map(|s| many.run(s, open, most)).collect();
            self.pay(ran.iter().map(|ran| ran.work).sum());
            lost = ran.iter().fold(lost, |lost, ran| Planes.or(lost, ran.beyond));
            lanes.iter().for_each(|fault| self.faults[first + fault].is_tried = true);
            for (lane, fault) in lanes.iter().enumerate() {
                for (scenario, ran) in round.iter().zip(&ran).filter(|(_, ran)| bit(&ran.found, lane)) {
                    if !bit(&open, lane) {
                        continue;
                    }
                    self.pay(ran.scans * Effort::scan_cost(self.twin));
                    if many.shows(lane, scenario) {
                        self.faults[first + fault].is_caught = true;
                        set_bit(&mut open, lane, false);
                    }
                }
            }
            self.tell();
        }
        // What the circuit has lost is left to the tape.
        let left = Planes.and(open, lost);
        for (_, fault) in lanes.iter().enumerate().filter(|(lane, _)| bit(&left, *lane)) {
            self.faults[first + fault].is_tried = false;
        }
    }

    /// By tape: what the circuit has not found, in the scenarios that it has not run; what no circuit holds, by a search as well.
    fn one_by_one(&mut self, search: &Search<'_>) {
        // Those that no circuit runs, as they would take it too long.
        let far = (0..self.effort.scenarios.min(FAR_DRAWN)).map(|number| search.scenario(number));
        let far: Vec<Scenario> = far.filter(|s| s.scans() > SHORT).take(MOST_FAR).collect();
        for number in 0..self.faults.len() {
            self.tell();
            if self.twin.halt.has_rung() || self.work == 0 {
                return;
            }
            if self.faults[number].is_caught {
                continue;
            }
            let open = self.faults[number..].iter().filter(|f| !f.is_caught).count().max(1) as u64;
            // What cannot be asked the rules is no fault that they could find.
            let Some((is_caught, spent)) = self.by_itself(&self.faults[number], &far, self.work / open) else {
                continue;
            };
            self.pay(spent);
            let fault = &mut self.faults[number];
            (fault.is_tried, fault.is_caught) = (true, is_caught);
        }
    }

    /// Whether a fault is found by the tape with a share of the work, and how much that took.
    fn by_itself(&self, fault: &Fault, far: &[Scenario], share: u64) -> Option<(bool, u64)> {
        let compiling = A_VERSION * self.twin.right.machine.operations() as u64;
        let version = with_seeded(self.twin, fault.kind, fault.site)?;
        let faulty = with_fault(self.twin, &version)?;
        let cost = Effort::scan_cost(self.twin);
        let affordable = (share / cost).max(1);
        let is_new = |s: &&Scenario| !fault.is_tried || s.scans() > SHORT || !many::is_for_circuit(s);
        // Half is for scenarios that were kept, as many as that pays for, and half for others.
        let mut scans = 0;
        let pays_for = |s: &&Scenario| {
            let with = scans + s.scans().min(SHORT);
            let is_worth = with <= affordable / 2;
            scans = if is_worth { with } else { scans };
            is_worth
        };
        let others = far.iter().filter(|_| fault.is_tried);
        let kept: Vec<&Scenario> = self.kept.iter().rev().filter(is_new).chain(others).filter(pays_for).collect();
        // To run all of a long one takes more than to leap over it: only as far as the whole of the work goes.
        let most = self.work / 4;
        let is_paid = |s: &Scenario| s.scans().saturating_mul(cost) <= most;
        let found = |s: &&Scenario| {
            shows(&faulty, s, Waits::Leaping) && (s.scans() < SHORT || (is_paid(s) && shows(&faulty, s, Waits::Whole)))
        };
        if let Some(shown) = kept.par_iter().find_first(|s| found(s)) {
            return Some((true, compiling + (scans + shown.scans()) * cost));
        }
        let left = share.saturating_sub(scans * cost);
        if fault.is_tried || left == 0 {
            return Some((false, compiling + share - left));
        }
        let search = Search::new(&faulty, &Effort { work: left, faults: 0, ..self.effort.clone() });
        // A round is run whole, whatever is left.
        let (is_caught, spent) = search.tells_apart();
        Some((is_caught, compiling + share.max(share - left + spent)))
    }
}

/// The circuit with these faults in it, and of each lane the number of its fault.
pub(super) fn circuit<'t>(twin: &'t Twin<'_>, faults: &[(Mutation, usize)]) -> Option<(Many<'t>, Vec<usize>)> {
    let woven: Woven = weave(&twin.right.checked, faults, twin.timing.longest());
    let lanes: Vec<usize> = (0..faults.len()).filter(|at| woven.selectors[*at].is_some()).collect();
    Some((Many::new(twin, woven).ok()?, lanes))
}
