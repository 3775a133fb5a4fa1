//! The search for a difference: scenarios in rounds, on all cores; what covers something new is kept and bred from.

mod told;

use crate::circuit::LANES;
use crate::scan::Seen;
use crate::twin::generate::{Generator, Manner};
use crate::twin::rules::Broken;
use crate::twin::run::{Waits, parts};
use crate::twin::shrink::shrink;
use crate::twin::trial::{Trial, trial};
use crate::twin::wide::{Batch, Wide};
use crate::twin::{
    Activity, Effort, Ended, Guidance, Progress, ResumeError, Scenario, Spread, Timing, Tolerance, Twin, Verdict,
    Version, difference,
};
use fastrand::Rng;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::OnceLock;

/// So many rounds of loops take as long as a scan.
const ROUNDS_A_SCAN: u64 = 200;

/// One scenario in so many holds an input for long and leaves some as they are; what the others find is found the later by no more than that.
const REST_EVERY: u64 = 8;

/// Batches of 256 scenarios by the circuit, beside a round.
const BATCHES: u64 = 2;

/// Scans by the circuit at most, for each scan of the effort.
const WIDE_SHARE: u64 = 5;

/// Scans below which a batch is not worth running.
const SHORTEST: u64 = 16;

/// Scans of a scenario that may be run whole without a thought.
const SHORT: u64 = 40_000;

/// Guesses of leaping that did not come true, after which long waits are left out.
const MOST_MIRAGES: u32 = 1;

/// What has been tried so far. It can be written down, and a search goes on from it.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub struct SearchState {
    /// Scenarios begun.
    next: u64,
    scenarios: u64,
    scans: u64,
    /// Scans by the circuit, many scenarios at a time; on top of the others.
    #[serde(default)]
    wide: u64,
    /// Those of them that tell nothing, as a loop ran more rounds than the circuit holds.
    #[serde(default)]
    lost: u64,
    machine_time: i64,
    power_cycles: u64,
    faults: u64,
    seen: [Seen; 2],
    /// Rounds of loops in the scans.
    #[serde(default)]
    rounds: u64,
    /// Changes of step variables: side, number, from, to.
    transitions: BTreeSet<(u8, u32, i64, i64)>,
    changed: Vec<bool>,
    kept: Vec<Scenario>,
    spreads: Vec<Spread>,
    /// The first scenario that broke a rule, left and right.
    broken: Vec<[Option<(Broken, Scenario)>; 2]>,
    mirages: u32,
    /// Differences that the circuit saw and the tape did not: there must be none.
    #[serde(default)]
    unconfirmed: u64,
    /// The shortest scenario in which the versions part, once one was found.
    found: Option<Scenario>,
}

impl SearchState {
    /// Scenarios that were run.
    #[must_use]
    pub fn scenarios(&self) -> u64 {
        self.scenarios
    }

    /// All scenarios in it.
    fn held(&self) -> impl Iterator<Item = &Scenario> {
        let broken = self.broken.iter().flatten().flatten().map(|(_, scenario)| scenario);
        self.kept.iter().chain(&self.found).chain(broken)
    }

    /// Adds what another part has tried.
    fn join(&mut self, other: SearchState) {
        self.scenarios = self.scenarios.saturating_add(other.scenarios);
        self.scans = self.scans.saturating_add(other.scans);
        self.wide = self.wide.saturating_add(other.wide);
        self.lost = self.lost.saturating_add(other.lost);
        self.rounds = self.rounds.saturating_add(other.rounds);
        self.machine_time = self.machine_time.saturating_add(other.machine_time);
        self.power_cycles = self.power_cycles.saturating_add(other.power_cycles);
        self.faults = self.faults.saturating_add(other.faults);
        self.seen.iter_mut().zip(&other.seen).for_each(|(a, b)| {
            a.learn(b);
        });
        self.transitions.extend(other.transitions);
        self.changed.iter_mut().zip(&other.changed).for_each(|(a, b)| *a |= b);
        self.kept.extend(other.kept);
        self.spreads.resize(self.spreads.len().max(other.spreads.len()), Spread::default());
        self.spreads.iter_mut().zip(&other.spreads).for_each(|(a, b)| a.join(b));
        for (mine, theirs) in self.broken.iter_mut().flatten().zip(other.broken.into_iter().flatten()) {
            *mine = mine.take().or(theirs);
        }
        self.mirages += other.mirages;
        self.unconfirmed += other.unconfirmed;
        self.found = self.found.take().or(other.found);
    }

    /// Scenarios that covered something new, in the order in which they did.
    #[must_use]
    pub fn kept(&self) -> &[Scenario] {
        &self.kept
    }
}

/// A search that goes on step by step.
pub struct Search<'t> {
    twin: &'t Twin<'t>,
    effort: Effort,
    /// Scans that the effort pays for.
    scans: u64,
    generator: Generator,
    /// The circuit of both versions, or why there is none; made when it is asked for first.
    wide: OnceLock<Result<Wide, String>>,
    state: SearchState,
    verdict: Option<Verdict>,
}

impl std::fmt::Debug for Search<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Search")
            .field("effort", &self.effort)
            .field("scenarios", &self.state.scenarios)
            .field("verdict", &self.verdict)
            .finish_non_exhaustive()
    }
}

impl<'t> Search<'t> {
    /// A search from the beginning.
    #[must_use]
    pub fn new(twin: &'t Twin<'t>, effort: &Effort) -> Search<'t> {
        let outputs = twin.pairing.outputs.len();
        let state = SearchState {
            seen: twin.versions().map(|v| Seen::new(v.machine.operations())),
            changed: vec![false; outputs],
            broken: twin.rules.iter().map(|_| [None, None]).collect(),
            ..SearchState::default()
        };
        let scans = effort.affordable(twin);
        let mut search = Search {
            twin,
            effort: effort.clone(),
            scans,
            generator: Generator::new(twin, effort.reach(twin)),
            wide: OnceLock::new(),
            state,
            verdict: None,
        };
        search.verdict = search.objection().map(|reason| Verdict::undecided(twin, reason, Vec::new()));
        search
    }

    /// A search that goes on from what was written down.
    ///
    /// # Errors
    /// If that belongs to other versions.
    pub fn resume(twin: &'t Twin<'t>, effort: &Effort, state: SearchState) -> Result<Search<'t>, ResumeError> {
        let mut search = Search::new(twin, effort);
        let sizes = |s: &SearchState| (s.seen.each_ref().map(|s| s.outcomes.len()), s.changed.len(), s.broken.len());
        if sizes(&state) != sizes(&search.state) {
            return Err(ResumeError::OtherVersions);
        }
        if !state.held().all(|scenario| scenario.can_be_run(twin)) {
            return Err(ResumeError::Scenario);
        }
        search.state = state;
        if let Some(found) = search.state.found.clone() {
            search.verdict = Some(search.described(&found));
        }
        Ok(search)
    }

    /// What several parts of one search have tried, together.
    ///
    /// # Errors
    /// If one of them belongs to other versions, or there is none.
    pub fn merged(twin: &'t Twin<'t>, effort: &Effort, parts: Vec<SearchState>) -> Result<Search<'t>, ResumeError> {
        let mut parts = parts.into_iter();
        let first = parts.next().ok_or(ResumeError::Nothing)?;
        let mut search = Search::resume(twin, effort, first)?;
        for part in parts {
            let other = Search::resume(twin, effort, part)?;
            search.verdict = search.verdict.take().or(other.verdict);
            search.state.join(other.state);
        }
        // All of it was tried; there is nothing to go on with.
        search.state.next = search.effort.scenarios;
        Ok(search)
    }

    /// Why nothing can be compared.
    fn objection(&self) -> Option<String> {
        let times = match &self.twin.timing {
            Timing::Lockstep(time) => vec![time],
            Timing::Free(times) => times.iter().collect(),
        };
        if let Some(objection) = self.twin.pairing.objection() {
            return Some(objection);
        }
        // What stands at a terminal of its own is looked at where every output is compared in every scan.
        let is_exact = matches!(self.twin.timing, Timing::Lockstep(_))
            && self.twin.pairing.outputs.iter().all(|pair| pair.tolerance == Tolerance::Exact);
        if let Some(objection) = self.twin.pairing.unsettled_objection().filter(|_| !is_exact) {
            return Some(objection);
        }
        if let Some(objection) = self.twin.unasked_objection().or_else(|| self.twin.known_objection()) {
            return Some(objection);
        }
        times.iter().any(|t| t.longest().nanos() <= 0).then(|| "the scan time must be above zero".to_string())
    }

    /// What has been tried so far.
    #[must_use]
    pub fn state(&self) -> &SearchState {
        &self.state
    }

    /// How far it is.
    #[must_use]
    pub fn progress(&self) -> Progress {
        // Whatever is used up first ends it.
        let used = |of: u64| self.spent().min(self.scans).saturating_mul(of) / self.scans.max(1);
        let of = self.share();
        Progress { step: Activity::Scenarios, done: self.state.next.max(used(of)), of }
    }

    /// Scenarios of this part.
    fn share(&self) -> u64 {
        if self.twin.is_only_given() {
            return 1;
        }
        let (part, of) = self.effort.shard;
        (self.effort.scenarios + of.max(1) - 1 - part.min(of)) / of.max(1)
    }

    /// Scans that were run; long loops in them count as well.
    fn spent(&self) -> u64 {
        self.state.scans.saturating_add(self.state.rounds / ROUNDS_A_SCAN)
    }

    /// What ended it, or would.
    pub(super) fn ended(&self) -> Ended {
        if self.twin.halt.has_rung() {
            Ended::Halted
        } else if self.state.next >= self.share() {
            Ended::Scenarios
        } else if self.scans < self.effort.scans {
            Ended::Work
        } else {
            Ended::Scans
        }
    }

    /// One round of scenarios; false when there is nothing more to do.
    pub fn step(&mut self) -> bool {
        if self.is_at_end() {
            return false;
        }
        if let Some(first) = self.round() {
            let shortest = self.shortest(first);
            self.verdict = Some(self.described(&shortest));
            self.state.found = Some(shortest);
        } else if self.is_broken() {
            self.verdict = Some(self.broken());
        }
        self.verdict.is_none()
    }

    /// Whether the versions part in some scenario, or a rule is broken, and how many operations of the tape that took; what shows it is
    /// neither shrunk nor described.
    pub(in crate::twin) fn tells_apart(mut self) -> (bool, u64) {
        let mut is_apart = false;
        while !is_apart && !self.is_at_end() {
            is_apart = self.round().is_some() || self.is_broken();
        }
        (is_apart, self.spent().saturating_mul(Effort::scan_cost(self.twin)))
    }

    /// Whether nothing more is to be run.
    fn is_at_end(&self) -> bool {
        self.twin.halt.has_rung()
            || self.verdict.is_some()
            || self.state.next >= self.share()
            || self.spent() >= self.scans
    }

    /// Runs a round; gives the scenario of it in which the versions part, if there is one.
    fn round(&mut self) -> Option<Scenario> {
        let before = self.state.clone();
        let found = self.run();
        // What was cut short tells nothing; whoever goes on does that round anew.
        if found.is_none() && self.twin.halt.has_rung() {
            self.state = before;
        }
        found
    }

    /// Runs the scenarios of a round, and learns what they showed.
    fn run(&mut self) -> Option<Scenario> {
        let from = self.state.next;
        let to = (from + Effort::round(self.twin)).min(self.share());
        self.state.next = to;
        let mut scenarios: Vec<Scenario> = Vec::new();
        if from == 0 {
            scenarios.extend(self.twin.given.iter().cloned().map(|given| self.twin.allowed(given)));
        }
        if !self.twin.is_only_given() {
            scenarios.extend((from..to).map(|number| self.scenario(number)));
        }
        let waits = if self.state.mirages > MOST_MIRAGES { Waits::Whole } else { Waits::Leaping };
        let run_trials = || scenarios.into_par_iter().map(|s| trial(self.twin, s, waits)).collect::<Vec<Trial>>();
        // Most differences show in the first round; only from then on a circuit is worth it, whatever the scenarios show.
        let (trials, batches) = match from {
            0 => (run_trials(), None),
            _ => rayon::join(run_trials, || self.batches(from)),
        };
        for trial in trials {
            if let Some(confirmed) = self.learn(trial).and_then(|scenario| self.confirmed(&scenario)) {
                return Some(confirmed);
            }
        }
        let batches = if from == 0 { self.batches(from) } else { batches };
        self.learn_wide(batches.unwrap_or_default())
    }

    /// Whether one version by itself has broken a rule, or not met what a scenario expects.
    fn is_broken(&self) -> bool {
        let broken = || self.state.broken.iter().any(|sides| sides[0].is_some());
        let unmet = || self.twin.judged.iter().any(|judged| judged.result().broken[0].is_some());
        self.twin.is_single() && (broken() || unmet())
    }

    fn wide(&self) -> &Result<Wide, String> {
        self.wide.get_or_init(|| match self.effort.guidance {
            Guidance::Guided if Effort::circuit_cost(self.twin) > self.effort.work / 2 => {
                Err("laying it out would take more than half of the effort".to_string())
            }
            Guidance::Guided => Wide::new(self.twin),
            Guidance::Random => Err("blind scenarios are run one by one".to_string()),
        })
    }

    /// The batches of the circuit that belong to a round, if there are any.
    fn batches(&self, round: u64) -> Option<Vec<Batch>> {
        if self.twin.is_only_given() || self.state.wide >= self.effort.scans.saturating_mul(WIDE_SHARE) {
            return None;
        }
        let wide = self.wide().as_ref().ok()?;
        // Half of the work is for it, of which no batch takes more than is left.
        let left = (self.effort.work / 2 / wide.scan_cost()).saturating_sub(self.state.wide / LANES as u64);
        let most = left / BATCHES;
        if most < SHORTEST {
            return None;
        }
        let (part, of) = self.effort.shard;
        let seed = |number: u64| {
            let number = (round * of.max(1) + part) * BATCHES + number;
            self.effort.seed.wrapping_add(1) ^ number.wrapping_add(1).wrapping_mul(0xD1B5_4A32_D192_ED03)
        };
        Some((0..BATCHES).into_par_iter().map(|number| wide.batch(&self.generator, seed(number), most)).collect())
    }

    /// Learns what batches showed; a scenario in which the versions part, if one shows it.
    fn learn_wide(&mut self, batches: Vec<Batch>) -> Option<Scenario> {
        self.state.wide += batches.iter().map(|b| b.scans).sum::<u64>();
        self.state.lost = self.state.lost.saturating_add(batches.iter().map(|b| b.lost).sum::<u64>());
        for scenario in batches.into_iter().filter_map(|b| b.found) {
            let scenario = self.twin.allowed(scenario);
            // Only what the tape shows too counts.
            if self.twin.is_single() {
                let trial = trial(self.twin, scenario, Waits::Whole);
                self.state.unconfirmed += u64::from(trial.broken.iter().all(|sides| sides[0].is_none()));
                self.learn(trial);
                return None;
            }
            match self.shown(&scenario) {
                Some(shown) => return Some(shown),
                None => self.state.unconfirmed += 1,
            }
        }
        None
    }

    /// Has scenarios to breed from, as if it had kept them.
    pub(in crate::twin) fn breed_from(&mut self, kept: &[Scenario]) {
        self.state.kept = kept.to_vec();
    }

    /// The scenario of a number; the same number and seed give the same scenario, given what was kept before it.
    pub(crate) fn scenario(&self, number: u64) -> Scenario {
        self.twin.allowed(self.drawn(number))
    }

    /// As it is drawn, whatever is assumed.
    fn drawn(&self, number: u64) -> Scenario {
        let (part, of) = self.effort.shard;
        let number = number * of.max(1) + part;
        let chance = |number: u64| Rng::with_seed(self.effort.seed ^ number.wrapping_mul(0x9E37_79B9_7F4A_7C15));
        match self.effort.guidance {
            Guidance::Random => self.generator.blind(chance(number)),
            Guidance::Guided if number % REST_EVERY == REST_EVERY - 1 => {
                self.generator.draw(chance(!number), Manner::SomeAtRest)
            }
            Guidance::Guided => {
                let number = number - number / REST_EVERY;
                let rng = chance(number);
                if let Some(train) = self.generator.train(&rng, number) {
                    return train;
                }
                match number % 4 {
                    0 => self.generator.draw(rng, Manner::Restless),
                    2 | 3 if !self.state.kept.is_empty() => self.generator.breed(rng, &self.state.kept),
                    _ => self.generator.draw(rng, Manner::Deliberate),
                }
            }
        }
    }

    /// Adds what a scenario showed; gives it back if the versions parted.
    fn learn(&mut self, trial: Trial) -> Option<Scenario> {
        let state = &mut self.state;
        state.scenarios += 1;
        state.scans += trial.scans;
        state.rounds += trial.rounds;
        state.machine_time = state.machine_time.saturating_add(trial.time);
        state.power_cycles += trial.scenario.power_cycles();
        state.faults += u64::from(trial.fault);
        let mut news = false;
        for (mine, theirs) in state.seen.iter_mut().zip(&trial.seen) {
            news |= mine.learn(theirs);
        }
        news |= !trial.transitions.is_subset(&state.transitions);
        state.transitions.extend(trial.transitions);
        state.changed.iter_mut().zip(&trial.changed).for_each(|(a, b)| *a |= b);
        if !trial.spreads.is_empty() {
            state.spreads.resize(trial.spreads.len(), Spread::default());
            state.spreads.iter_mut().zip(&trial.spreads).for_each(|(a, b)| a.join(b));
        }
        for (mine, theirs) in state.broken.iter_mut().zip(&trial.broken) {
            for (mine, theirs) in mine.iter_mut().zip(theirs) {
                if let (None, Some(broken)) = (&mine, theirs) {
                    *mine = Some((*broken, trial.scenario.clone()));
                }
            }
        }
        if trial.found.is_some() {
            return Some(trial.scenario);
        }
        if news {
            state.kept.push(trial.scenario);
        }
        None
    }

    /// A scenario in which the versions parted up to where they do, if that is no mirage of leaping.
    fn confirmed(&mut self, first: &Scenario) -> Option<Scenario> {
        let affordable = first.scans() <= self.effort.reach(self.twin).max(SHORT);
        let shown = affordable.then(|| self.shown(first)).flatten();
        if shown.is_none() {
            self.state.mirages += 1;
            if self.state.mirages > MOST_MIRAGES {
                self.generator.far.clear();
                self.state.kept.retain(|s| s.scans() <= SHORT);
            }
        }
        shown
    }

    /// A scenario up to where the versions part in it, every scan of it run.
    fn shown(&self, scenario: &Scenario) -> Option<Scenario> {
        parts(self.twin, scenario, Waits::Whole).map(|found| scenario.cut(found.scan + 1))
    }

    /// The verdict of the shortest scenario.
    fn described(&self, shortest: &Scenario) -> Verdict {
        match difference::describe(self.twin, shortest, self.state.scenarios, self.state.scans) {
            Some(difference) => {
                Verdict::Different(Box::new(difference::Difference { rules: self.rules(), ..difference }))
            }
            None => {
                let reason = "a difference was seen, but its scenario does not replay; please report this";
                Verdict::undecided(self.twin, reason.to_string(), self.rules())
            }
        }
    }

    /// Shrinks the scenario that shows a difference, and a few others that do too; gives the shortest.
    fn shortest(&self, first: Scenario) -> Scenario {
        let most = first.scans().max(100);
        let mut left = LOOK_FURTHER_WORK / Effort::scan_cost(self.twin);
        let mut is_paid = |s: &Scenario| {
            let rest = left.checked_sub(s.scans());
            left = rest.unwrap_or_default();
            rest.is_some()
        };
        let further: Vec<Scenario> = (self.state.next..self.state.next + LOOK_FURTHER)
            .map(|number| self.scenario(number))
            .filter(|s| s.scans() <= most.min(20_000))
            .take_while(|s| is_paid(s))
            .collect();
        let others: Vec<Scenario> =
            further.into_par_iter().filter(|s| parts(self.twin, s, Waits::Leaping).is_some()).collect();
        let candidates: Vec<Scenario> = std::iter::once(first).chain(others.into_iter().take(7)).collect();
        let shrunk: Vec<Scenario> = candidates
            .into_par_iter()
            .map(|s| shrink(self.twin, s, &|s, waits| parts(self.twin, s, waits).map(|f| f.scan)))
            .collect();
        let cost = |s: &Scenario| s.scans().min(2_000) + 4 * s.weight();
        shrunk.into_iter().min_by_key(cost).unwrap_or_default()
    }
}

/// Scenarios looked at behind the first that shows a difference, for one that says it more shortly.
const LOOK_FURTHER: u64 = 400;

/// Operations that this takes at most.
const LOOK_FURTHER_WORK: u64 = 1_000_000_000;

/// Compares two versions paired by name, in lockstep with 10 ms a scan.
pub fn compare(left: &Version, right: &Version, effort: &Effort, progress: impl FnMut(Progress)) -> Verdict {
    compare_twin(&Twin::new(left, right), effort, progress)
}

/// Compares as a twin says; a difference is shrunk and replayed, and faults are seeded if the effort says so.
pub fn compare_twin(twin: &Twin<'_>, effort: &Effort, mut progress: impl FnMut(Progress)) -> Verdict {
    let mut search = Search::new(twin, effort);
    while search.step() {
        progress(search.progress());
    }
    search.finish(progress)
}

/// What is found on the way to something else, such as a proof, which may do without any scenario.
pub(crate) fn searched(twin: &Twin<'_>, effort: &Effort) -> Verdict {
    let mut search = Search::new(twin, effort);
    while search.step() {}
    search.so_far()
}

impl Search<'_> {
    /// The verdict, with the strength of what was tried if the effort asks for it.
    pub fn finish(self, progress: impl FnMut(Progress)) -> Verdict {
        let mut verdict = self.verdict();
        if let Verdict::Tested(tested) = &mut verdict
            && self.effort.faults > 0
            && !self.twin.is_only_given()
        {
            tested.strength = Some(crate::twin::strength(self.twin, &self.effort, self.state.kept(), progress));
        }
        verdict
    }
}
