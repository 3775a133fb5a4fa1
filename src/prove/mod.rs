//! Proof: that two versions agree for every input sequence of any length.
//!
//! One scan of both is laid out as a graph over shared inputs and scan time. Facts about what the versions remember are
//! sought in states that occur ([`sought`](self)), and kept only if they hold at power-up and if every scan, and every loss
//! of power, keeps them. Under the facts each pair of outputs is put before a solver. Nothing is taken for different
//! that the scan engine has not shown.

mod affine;
mod ahead;
#[cfg(test)]
mod broken;
mod certificate;
mod computed;
mod cube;
mod directed;
mod facts;
mod forward;
mod guard;
mod induct;
#[cfg(test)]
mod invariants;
mod layout;
mod missing;
mod occurring;
mod part;
mod partial;
mod placed;
mod proviso;
mod relations;
#[cfg(test)]
mod rewrites;
mod seek;
mod settled;
mod solve;
mod sweep;
mod system;

use crate::circuit::Bit;
use crate::scan::Controller;
use crate::twin::{
    self, Difference, Effort, Halt, Proved, RuleResult, Scenario, Stimuli, Stops, Twin, Verdict, describe_pair,
    searched,
};
pub use ahead::{compare_solving, finish_solving};
pub use certificate::Certificate;
use directed::{Directed, directed};
use forward::{Ahead, Start, Step, forward, told};
use induct::{Depth, Induction, settle, sought};
use missing::{Missing, disagreement, missing};
use part::{Part, Proof};
use partial::{but_for_stops, only, partial};
use proviso::{Proviso, may_stop, pinned, reach};
use rayon::prelude::*;
pub use settled::settle_faults;
use solve::Budget;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering::Relaxed};
use sweep::Same;
use system::{Goal, STOPPED, System, What, time_words};

/// How far a proof is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Looking for a scenario in which the versions part.
    Searching,
    /// Asking which of so many facts every scan keeps.
    Facts(usize),
    /// Following back from states that would break so many goals, which the facts do not prove.
    Directed(usize),
    /// Asking what follows from the facts: so many goals are done. Each output is one, and two are about loops and faults.
    Goals(usize),
    /// Looking for conditions under which they agree, as they do not, or not provably, under all.
    Conditions,
}

/// Told how far it is; `false` ends it. Not a type parameter, or every caller would have a prover of its own.
type GoOn<'g> = dyn FnMut(Stage) -> bool + Send + 'g;

/// How much to try.
#[derive(Clone, Debug)]
pub struct Means {
    /// Conflicts that one question to the solver may take.
    pub conflicts: u64,
    /// Work that a proof may take, in steps of the solver, each part of the versions its share of that; none where there is no limit.
    pub work: Option<u64>,
    /// The search for a difference: first a part of it, then, if there is no proof, all.
    pub effort: Effort,
    /// Whether, where they are not proved the same, conditions are sought under which they are. That takes many proofs.
    pub conditions: bool,
    /// Whether more is done where facts do not prove a goal: relations of two and three numbers are sought, and it is followed back
    /// how the goal could be broken, to a proof or to a way there.
    pub directed: bool,
}

impl Default for Means {
    /// 20,000 conflicts, the usual effort, and all of the rest.
    fn default() -> Self {
        Means { conflicts: 20_000, work: None, effort: Effort::default(), conditions: true, directed: true }
    }
}

/// Proves or refutes that two versions agree. `go_on` is told how far it is, and ends it by `false`: then it is
/// undecided.
pub fn prove(twin: &Twin<'_>, means: &Means, go_on: impl FnMut(Stage) -> bool + Send) -> Verdict {
    prove_certified(twin, means, go_on).0
}

/// As [`prove`]; what is proved, be it under conditions, comes with a certificate that others can check.
pub fn prove_certified(
    twin: &Twin<'_>,
    means: &Means,
    mut go_on: impl FnMut(Stage) -> bool + Send,
) -> (Verdict, Option<Certificate>) {
    decide(twin, means, &mut go_on)
}

fn decide(twin: &Twin<'_>, means: &Means, go_on: &mut GoOn<'_>) -> (Verdict, Option<Certificate>) {
    go_on(Stage::Searching);
    let verdict = searched(twin, &first_effort(twin, &means.effort));
    if !matches!(verdict, Verdict::Tested(_) | Verdict::Different(_) | Verdict::Broken(_)) {
        return (verdict, None);
    }
    // While points are at other terminals a difference counts, and nothing is proved: the right has terminals that nobody drives.
    if twin.pairing.unsettled_objection().is_some() {
        return (verdict, None);
    }
    // Where a difference is known it is only asked what is proved beside it.
    let directed = means.directed && matches!(verdict, Verdict::Tested(_));
    let means = &Means { directed, ..means.clone() };
    let (missing, verdict) = match (attempt(twin, means, &[], go_on), verdict) {
        (Err(Missing { is_disagreement: true, words, .. }), Verdict::Tested(tested)) => {
            return (Verdict::undecided(twin, words, tested.rules), None);
        }
        (Ok(found), Verdict::Tested(tested)) => {
            let (found, provisos) = with_stops(twin, means, found, go_on);
            let proved = found.proved(twin, &provisos, tested.rules);
            return (Verdict::Proved(Box::new(proved)), Some(found.certificate(twin, &provisos, &[])));
        }
        (Ok(found), Verdict::Different(mut difference)) if means.conditions && difference.scenario.is_stopped() => {
            let certificate;
            (difference.proved, certificate) = but_for_stops(twin, found);
            return (Verdict::Different(difference), certificate);
        }
        // What was replayed counts, whatever else is said.
        (Ok(_), other) | (Err(Missing { is_disagreement: true, .. }), other) => return (other, None),
        (Err(missing), verdict) => (missing, verdict),
    };
    let mut verdict = match verdict {
        Verdict::Tested(tested) => undecided_yet(twin, means, &missing, tested.rules, go_on),
        other @ (Verdict::Proved(_) | Verdict::Different(_) | Verdict::Broken(_) | Verdict::Undecided { .. }) => other,
    };
    for (number, rule) in verdict.rules_mut().iter_mut().enumerate() {
        rule.proved = [0, 1].map(|side| missing.rules.contains(&(number, side)));
    }
    // Where a replay has shown that an output differs nobody proves it the same.
    let always = missing.proved;
    if let Verdict::Different(difference) = &verdict
        && let twin::What::Output(number) = difference.what
        && always.contains(&number)
        && !difference.scenario.is_stopped()
    {
        return (verdict, None);
    }
    if !means.conditions || twin.halt.has_rung() {
        return (verdict, None);
    }
    let certificate;
    let proved = match &mut verdict {
        Verdict::Different(difference) => &mut difference.proved,
        Verdict::Undecided { proved, .. } => proved,
        Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Broken(_) => return (verdict, None),
    };
    (*proved, certificate) = partial(twin, means, &always, go_on);
    (verdict, certificate)
}

/// Gates of a scan of both beyond which it is not asked what STOP and RUN do: that is another proof.
const MOST_FOR_STOPS: usize = 400_000;

/// The same proof, of what STOP and RUN do as well, if there is one; else as it is. With what is assumed, or not any more.
fn with_stops(twin: &Twin<'_>, means: &Means, found: Found, go_on: &mut GoOn<'_>) -> (Found, Vec<Proviso>) {
    if found.proof.gates > MOST_FOR_STOPS || !may_stop(twin) {
        return (found, Vec::new());
    }
    for stops in [Proviso::Stops, Proviso::StopsLater].map(|stops| vec![stops]) {
        match System::new(twin, &stops) {
            // Where nothing depends on time it is the same proof.
            Ok(system) if !system.is_timed() => return (found, stops),
            Ok(_) => {
                if let Ok(further) = attempt(twin, means, &stops, go_on) {
                    return (further, stops);
                }
            }
            Err(_) => {}
        }
    }
    (found, Vec::new())
}

/// What is found where there is no proof and a short search has found nothing: by the solver in the first scans, else by
/// all of the search.
fn undecided_yet(
    twin: &Twin<'_>,
    means: &Means,
    missing: &Missing,
    rules: Vec<RuleResult>,
    go_on: &mut GoOn<'_>,
) -> Verdict {
    go_on(Stage::Searching);
    let shown = missing.ways.iter().find_map(|(timing, way)| {
        let mut timed = twin.clone();
        timed.timing = timing.clone();
        twin::shown(&timed, way)
    });
    if let Some(found) = shown {
        return with_rules(found, rules);
    }
    let budget = Budget { conflicts: means.conflicts, halt: twin.halt.clone(), ..Budget::default() };
    // A circuit is not laid out any more when the bell has rung.
    let system = if twin.halt.has_rung() { None } else { System::new(twin, &[]).ok() };
    match system.map(|system| forward(twin, &system, &Start::power_up(&system), &budget).0) {
        Some(Ahead::Found(found)) => return with_rules(found, rules),
        Some(Ahead::Nothing(_) | Ahead::Open) | None => {}
    }
    match searched(twin, &Effort { faults: 0, ..means.effort.clone() }) {
        Verdict::Tested(tested) => Verdict::undecided(twin, missing.words.clone(), tested.rules),
        other @ (Verdict::Proved(_) | Verdict::Different(_) | Verdict::Broken(_) | Verdict::Undecided { .. }) => other,
    }
}

/// What the solver has found, with what the search has come to about the rules.
fn with_rules(found: Verdict, rules: Vec<RuleResult>) -> Verdict {
    match found {
        Verdict::Different(difference) => Verdict::Different(Box::new(Difference { rules, ..*difference })),
        other @ (Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Broken(_) | Verdict::Undecided { .. }) => other,
    }
}

/// A part of the search, so short that a proof need not wait for it.
fn first_effort(twin: &Twin<'_>, all: &Effort) -> Effort {
    let places = twin.versions().map(|version| version.machine.goals().len()).into_iter().max().unwrap_or(0);
    let scans = (40_000_000 / places.max(1) as u64).min(300_000);
    let scenarios = (scans / 1_000).clamp(8, 256).min(all.scenarios);
    Effort { scenarios, scans: scans.min(all.scans), faults: 0, ..all.clone() }
}

/// What a proof rests on.
struct Found {
    system: System,
    /// What the system was laid out with.
    provisos: Vec<Proviso>,
    proof: Proof,
    /// Rules that are not proved.
    open: Vec<What>,
    /// Work that it has taken.
    work: u64,
}

impl Found {
    /// Of a circuit that is laid out anew: what the prover did to its own does not get into it.
    fn certificate(self, twin: &Twin<'_>, provisos: &[Proviso], not_compared: &[String]) -> Certificate {
        // What is proved is written down, even where the bell rings now.
        let mut unhurried = twin.clone();
        unhurried.halt = Halt::default();
        let mut system = System::new(&unhurried, &self.provisos).unwrap_or(self.system);
        system.goals.retain(|goal| !self.open.contains(&goal.what));
        let mut assumed = assumptions(twin, &system, provisos);
        if !not_compared.is_empty() {
            assumed.push(format!("not compared, as it is not proved the same: {}", not_compared.join(", ")));
        }
        assumed.extend(twin.pairing.limits().iter().map(|limit| format!("limited: {limit}")));
        Certificate::new(&system, &self.proof, &assumed)
    }

    fn proved(&self, twin: &Twin<'_>, provisos: &[Proviso], mut rules: Vec<RuleResult>) -> Proved {
        let Found { system, proof, open, .. } = self;
        let is_proved = |what: What| system.goals.iter().any(|goal| goal.what == what) && !open.contains(&what);
        for (number, rule) in rules.iter_mut().enumerate() {
            rule.proved = [0, 1].map(|side| is_proved(What::Rule(number, side)));
        }
        Proved {
            versions: system.versions.clone(),
            pairing: twin.pairing.clone(),
            facts: proof.groups.facts() + proof.facts.len(),
            rounds: proof.rounds,
            questions: proof.asked,
            bits: system.bits.len(),
            gates: proof.gates,
            rules,
            stops: reach(provisos),
            assumptions: assumptions(twin, system, provisos),
        }
    }
}

/// A proof, or what is missing.
fn attempt(twin: &Twin<'_>, means: &Means, provisos: &[Proviso], go_on: &mut GoOn<'_>) -> Result<Found, Missing> {
    if twin.halt.has_rung() {
        return Err(STOPPED.to_string().into());
    }
    let system = System::new(twin, provisos)?;
    let stimuli = Stimuli::new(&pinned(twin, provisos));
    let laid = system.laying_out();
    let Some((states, run)) = system.states_within(&stimuli, means.work.map(|work| work.saturating_sub(laid))) else {
        let words = "versions so large take more than the work that a proof may take".to_string();
        return Err(Missing { work: laid, ..words.into() });
    };
    let before = laid + run;
    if states.iter().any(Vec::is_empty) {
        // It is broken from power-up: nothing would be said of anything.
        return Err("no state was found in which the conditions hold".to_string().into());
    }
    // Under conditions the circuit is given what the engine is not.
    let is_plain = provisos.is_empty();
    if let Some(what) = is_plain.then(|| guard::scenarios(twin, &system, &stimuli)).flatten() {
        return Err(disagreement(&what));
    }
    let parts = system.parts();
    let all: u128 = parts.iter().map(|part| part.system.plan.bits as u128).sum();
    let stage = Reporter { go_on: Mutex::new(go_on), halt: twin.halt.clone(), done: AtomicUsize::new(0) };
    let each = parts.into_par_iter().map(|part| {
        let share =
            |work: u64| (u128::from(work.saturating_sub(before)) * part.system.plan.bits as u128 / all.max(1)) as u64;
        let means = &Means { work: means.work.map(share), ..means.clone() };
        let Settled { found, open, way, work } = prove_part(&part.system, part.states(&states), means, &stage)?;
        let way = way.filter(|_| is_plain).map(|way| {
            let (twin, scenario) = told((twin, &part.system), &Scenario::default(), &way);
            (twin.timing, scenario)
        });
        Some((part, found, open, way, work))
    });
    let each: Option<Vec<_>> = each.collect();
    let Some(each) = each else {
        let (done, all) = (stage.done.load(Relaxed), system.goals.len());
        return Err(format!("{STOPPED}; {done} of {all} goals are proved").into());
    };
    let work = before + each.iter().map(|(.., work)| work).sum::<u64>();
    let begun = twin.machines().map(Controller::new);
    let watched = |part, found| if is_plain { guard::states(twin, &begun, part, found) } else { None };
    if let Some(what) = each.iter().find_map(|(part, found, ..)| watched(part, found)) {
        return Err(disagreement(&what));
    }
    // Beside a comparison rules may stay open; they are all that is asked of one version by itself.
    let may_stay = |what: &What| !twin.is_single() && matches!(what, What::Rule(..));
    let open = each.iter().flat_map(|(_, _, open, ..)| open.iter().map(|(what, _)| *what));
    let open: Vec<What> = open.chain(system.unasked.iter().copied()).collect();
    if !open.iter().all(may_stay) {
        let ways = each.iter().filter_map(|(.., way, _)| way.clone()).collect();
        let parts: Vec<_> = each.into_iter().map(|(part, found, open, ..)| (part, found, open)).collect();
        return Err(Missing { ways, work, ..missing(twin, &parts, &system.unasked) });
    }
    let parts: Vec<(Part, Induction)> = each.into_iter().map(|(part, found, ..)| (part, found)).collect();
    let proof = system.joined(&parts);
    Ok(Found { system, provisos: provisos.to_vec(), proof, open, work })
}

/// How far all parts are.
struct Reporter<'g, 'f> {
    go_on: Mutex<&'g mut GoOn<'f>>,
    halt: Halt,
    /// Goals that are proved.
    done: AtomicUsize,
}

impl Reporter<'_, '_> {
    fn tell(&self, stage: Stage) -> bool {
        // A caller that panicked is told no more.
        let goes_on = !self.halt.has_rung() && self.go_on.lock().is_ok_and(|mut go_on| go_on(stage));
        if !goes_on {
            self.halt.ring();
        }
        goes_on
    }
}

/// Goals that are not proved, each with a state in which the facts hold and it does not.
type Open = Vec<(What, Option<usize>)>;

/// What became of a part.
struct Settled {
    found: Induction,
    /// What the facts do not prove.
    open: Open,
    /// A way from power-up to where one of those is broken, as far as the circuit tells.
    way: Option<Vec<Step>>,
    /// Work that the search for facts has taken.
    work: u64,
}

/// The facts of a part, and what they do not prove; `None` if it was told to stop.
fn prove_part(system: &System, states: Vec<Vec<u64>>, means: &Means, progress: &Reporter<'_, '_>) -> Option<Settled> {
    let budget =
        &Budget { conflicts: means.conflicts, work: means.work, halt: progress.halt.clone(), ..Budget::default() };
    let goals = |number| progress.tell(Stage::Goals(progress.done.load(Relaxed) + number));
    let facts = |facts| progress.tell(Stage::Facts(facts));
    let mut last = None;
    // What looked the same in states that occur and turned out not to be is looked at by itself the next time.
    let mut parted = Vec::new();
    // Bits that are the same are soon found, and mostly enough; other facts take longer. Under conditions many proofs are tried, so
    // that none of them may take as long as one without.
    let is_thorough = means.directed && !system.is_conditional;
    let all = [Depth::Alike, Depth::Numbers, Depth::Placed, Depth::Logic, Depth::Relations, Depth::Computed];
    let depths = all.into_iter().filter(|depth| is_thorough || *depth <= Depth::Logic);
    let mut work = 0;
    for depth in depths {
        let price = if depth == Depth::Placed { placed::price(system, &states) } else { 0 };
        if price > 0 && (system.is_conditional || budget.after(work + price).is_spent()) {
            continue;
        }
        let conflicts = if depth == Depth::Alike { budget.conflicts } else { budget.conflicts / 10 };
        let budget = Budget { conflicts, ..budget.after(work + price) };
        let Some(sought) = sought(system, &states, &budget, depth, &parted) else { continue };
        work += price;
        let mut found = settle(system, states.clone(), &budget, sought, facts)?;
        parted = found.groups.own(system);
        let open = open_goals(system, &mut found, goals)?;
        work += found.work;
        let is_done = open.is_empty() || budget.after(found.work).is_spent();
        last = Some(Settled { found, open, way: None, work });
        if is_done {
            break;
        }
    }
    let mut last = last?;
    if !last.open.is_empty() && is_thorough {
        let open: Vec<Goal> =
            system.goals.iter().filter(|goal| last.open.iter().any(|(what, _)| *what == goal.what)).copied().collect();
        let followed = last
            .found
            .round
            .as_ref()
            .map(|round| directed(system, round, &open, budget, || progress.tell(Stage::Directed(open.len()))));
        match followed.unwrap_or(Directed::Open) {
            Directed::Kept(kept) => {
                let Induction { groups, facts: known, .. } = last.found;
                let known = [known, kept].concat();
                let mut found = settle(system, states, budget, (groups, known), facts)?;
                let open = open_goals(system, &mut found, goals)?;
                last = Settled { work: work + found.work, found, open, way: None };
            }
            Directed::Way(way) => last.way = Some(way),
            Directed::Open => {}
        }
    }
    // Of thousands of parts what they were proved with would fill the memory.
    last.found.round.iter_mut().for_each(|round| round.sweep.close());
    progress.done.fetch_add(system.goals.len() - last.open.len(), Relaxed);
    Some(last)
}

/// The goals of a part that the facts do not prove; `None` if it was told to stop.
fn open_goals(system: &System, found: &mut Induction, mut go_on: impl FnMut(usize) -> bool) -> Option<Open> {
    let Some(round) = &mut found.round else {
        // What is TRUE whatever is computed needs no facts.
        let is_plain = |goal: &&Goal| goal.at.is_some_and(|at| system.plan.constants.get(at) == Some(&true));
        return Some(system.goals.iter().filter(|goal| !is_plain(goal)).map(|goal| (goal.what, None)).collect());
    };
    let (mut open, before) = (Vec::new(), round.sweep.work);
    for (number, goal) in system.goals.iter().enumerate() {
        if !go_on(number) {
            return None;
        }
        match round.sweep.never(goal.at.map_or(Bit::TRUE, |at| round.bits[at].not())) {
            Same::Yes => {}
            Same::No(state) => open.push((goal.what, Some(state))),
            Same::Unknown => open.push((goal.what, None)),
        }
    }
    found.work += round.sweep.work - before;
    Some(open)
}

fn assumptions(twin: &Twin<'_>, system: &System, provisos: &[Proviso]) -> Vec<String> {
    let power = if system.lasting { "" } else { ", with power off and on at any moment" };
    let who = if twin.is_single() { "of one version" } else { "both versions scan in lockstep" };
    let stops = match reach(provisos) {
        Stops::Included | Stops::AfterFirstScan => "",
        Stops::Excluded => "; not stopped and started again",
    };
    let mut out = vec![format!("{who}; {}", time_words(system.times)), format!("from power-up{power}{stops}")];
    if system.plan.has_whole() {
        out.push("an operation on REAL or LREAL is taken as the same unknown function on both sides".to_string());
    }
    out.extend(twin.granted());
    out.extend(provisos.iter().map(|p| p.words(twin)));
    for pair in twin.pairing.inputs.iter().chain(&twin.pairing.outputs) {
        out.extend(describe_pair(twin, pair));
    }
    out
}
