//! A comparison that asks the solver as well: where scenarios have found nothing, a few scans are laid out from power-up and
//! from states that the scenarios reached, and the solver is asked for inputs with which the versions part. So a sum that must
//! equal one number, or a code of several digits, is solved and not guessed. What is proved the same whatever happens need not be
//! asked from one state after another.

use super::forward::{Ahead, Start, forward};
use super::part::Part;
use super::solve::Budget;
use super::system::{System, What};
use super::{Means, attempt, only, with_rules};
use crate::circuit::{LANES, Plane, Simulator, bit, set_bit};
use crate::scan::Power;
use crate::twin::{Activity, Effort, Leaf, Progress, Scenario, Search, Solved, Twin, Verdict, at_rest};
use rayon::prelude::*;
use std::collections::{BTreeSet, HashSet};
use std::sync::Arc;

/// States that the default effort asks from, besides power-up.
const STATES: u64 = 24;

/// Scans that are laid out from a state.
const SCANS: usize = 8;

/// Scans of a scenario that leads to a state.
const LONGEST: u64 = 4_000;

/// Steps of the plan that the default effort runs to reach states, as [`crate::circuit::Plan::work`] counts them, and scans that any does.
const STEPS: u64 = 400_000_000;
const SHORTEST: u64 = 8;

/// Scenarios that are drawn to reach states, besides those that were kept.
const DRAWN: u64 = 32;

/// Operations of both tapes beyond which no circuit is laid out.
const MOST_OPERATIONS: usize = 400_000;

/// Operations of both tapes beyond which the solver is asked from power-up alone, of each part of the circuit by itself.
const MOST_AT_ONCE: usize = 60_000;

/// Parts, and states, that are asked side by side before it is looked what they have found; of what is left each part may take one of so
/// many shares, each state its own.
const ROUND: usize = 16;
const SHARES: u64 = 4;
const SOME_STATES: usize = 8;

/// What the default effort spends on asking, as [`forward`] counts it.
const WORK: u64 = 30_000_000;

/// Work that it spends on a proof of what need not be asked further, as [`Means::work`] counts it.
const PROOF: u64 = 20_000_000;

/// Bits of a scan, of all states together, that the default effort lays out.
const BITS: u64 = 4_000_000;

/// Conflicts that one question may take.
const CONFLICTS: u64 = 4_000;

/// Compares as [`crate::twin::compare_twin`] does; where scenarios find no difference the solver is asked from power-up and from
/// states that they reached. What it finds is replayed before it counts; what it was asked stands in [`crate::twin::Tested::solver`].
pub fn compare_solving(twin: &Twin<'_>, effort: &Effort, mut progress: impl FnMut(Progress)) -> Verdict {
    let mut search = Search::new(twin, effort);
    while search.step() {
        progress(search.progress());
    }
    finish_solving(search, twin, effort, progress)
}

/// The verdict of a search that has come to its end, when the solver was asked as well.
pub fn finish_solving(
    search: Search<'_>,
    twin: &Twin<'_>,
    effort: &Effort,
    mut progress: impl FnMut(Progress),
) -> Verdict {
    if !matches!(search.verdict(), Verdict::Tested(_)) || !is_asked(twin) {
        return search.finish(progress);
    }
    let rules = search.verdict().rules().to_vec();
    let (found, solved) = look_ahead(twin, effort, &search, &mut progress);
    match found {
        Some(found) => with_rules(found, rules),
        None => {
            let mut verdict = search.finish(progress);
            if let Verdict::Tested(tested) = &mut verdict {
                tested.solver = solved;
            }
            verdict
        }
    }
}

/// Whether there is something to ask: a circuit of both in lockstep, and not too large.
pub(super) fn is_asked(twin: &Twin<'_>) -> bool {
    operations(twin) <= MOST_OPERATIONS && twin.pairing.unsettled_objection().is_none() && !twin.is_only_given()
}

fn operations(twin: &Twin<'_>) -> usize {
    twin.versions().map(|v| v.machine().operations()).iter().sum()
}

/// Asks of each part of a large circuit from power-up. What the solver has found, or how far it has found nothing.
fn in_parts(
    twin: &Twin<'_>,
    effort: &Effort,
    system: &System,
    budget: &Budget,
    progress: &mut impl FnMut(Progress),
) -> (Option<Verdict>, Solved) {
    let mut left = share(effort, WORK);
    // The fewest scans of all parts that were answered, and what those are about that were not.
    let (mut fewest, mut open) = (usize::MAX, Vec::new());
    let parts = system.parts();
    for (round, some) in parts.chunks(ROUND).enumerate() {
        progress(Progress { step: Activity::Solving, done: (round * ROUND) as u64, of: parts.len() as u64 });
        let budget = &Budget { work: Some(left.div_ceil(SHARES)), ..budget.clone() };
        // Of parts that are not asked nothing is said.
        let ask = |part: &Part| match left {
            0 => (Ahead::Open, 0),
            _ => forward(twin, &part.system, &Start::power_up(&part.system), budget),
        };
        let told: Vec<(Ahead, u64)> = some.par_iter().map(ask).collect();
        for (part, (ahead, work)) in some.iter().zip(told) {
            left = left.saturating_sub(work);
            match ahead {
                Ahead::Found(verdict) => return (Some(verdict), Solved::default()),
                Ahead::Nothing(scans) if scans > 0 => fewest = fewest.min(scans),
                Ahead::Nothing(_) | Ahead::Open => open.extend(part.system.goals.iter().map(|goal| goal.what)),
            }
        }
    }
    let is_output = |what: &What| match what {
        What::Output(_) => true,
        What::Rounds | What::Faults | What::Rule(..) => false,
    };
    let unanswered = open.iter().filter(|what| is_output(what)).count();
    // Where a fault or what the circuit does not hold may be behind it, nothing is said of any output.
    let is_sure = !twin.halt.has_rung() && !system.may_go_beyond && system.unasked.is_empty();
    let is_some = fewest < usize::MAX && (unanswered == 0 || unanswered < system.outputs.len());
    let solved = Solved { scans: SCANS, ..Solved::default() };
    match is_sure && is_some && open.iter().all(is_output) {
        true => (None, Solved { from_power_up: fewest, unanswered, open: usize::from(unanswered > 0), ..solved }),
        false => (None, Solved { unanswered: system.outputs.len(), open: 1, ..solved }),
    }
}

/// Of what the default effort spends what this one does.
pub(super) fn share(effort: &Effort, whole: u64) -> u64 {
    let share = u128::from(whole) * u128::from(effort.work) / u128::from(Effort::default().work);
    u64::try_from(share).unwrap_or(u64::MAX)
}

/// The outputs that are proved the same in every scan, STOP and RUN aside, with little effort.
fn proved(twin: &Twin<'_>, effort: &Effort) -> BTreeSet<usize> {
    let work = Some(share(effort, PROOF));
    let means = Means { conflicts: CONFLICTS, work, directed: false, ..Means::default() };
    match attempt(twin, &means, &[], &mut |_| true) {
        Ok(_) => (0..twin.pairing.outputs.len()).collect(),
        Err(missing) => missing.proved,
    }
}

/// Asks from power-up and from states. What the solver has found, or how far it has found nothing.
fn look_ahead(
    twin: &Twin<'_>,
    effort: &Effort,
    search: &Search<'_>,
    progress: &mut impl FnMut(Progress),
) -> (Option<Verdict>, Option<Solved>) {
    let Ok(system) = System::new(twin, &[]) else { return (None, None) };
    let budget = Budget { conflicts: CONFLICTS, halt: twin.halt.clone(), ..Budget::default() };
    if operations(twin) > MOST_AT_ONCE {
        let (found, solved) = in_parts(twin, effort, &system, &budget, progress);
        return (found, Some(solved));
    }
    let mut told = |done: u64, of: u64| progress(Progress { step: Activity::Solving, done, of });
    told(0, 1);
    let mut asking =
        Asking { twin, budget, left: share(effort, WORK), solved: Solved { scans: SCANS, ..Solved::default() } };
    if let Some(found) = asking.ask(&system, &[Start::power_up(&system)]) {
        return (Some(found), None);
    }
    let proved = if twin.is_single() { BTreeSet::new() } else { proved(twin, effort) };
    asking.solved.proved = proved.len();
    let open: BTreeSet<usize> = (0..twin.pairing.outputs.len()).filter(|output| !proved.contains(output)).collect();
    // What it gave up over may be proved by now.
    let is_again = !proved.is_empty() && std::mem::take(&mut asking.solved.open) > 0;
    // Of what is proved nothing more is asked.
    let system = match proved.len() {
        0 => Some(system),
        _ if open.is_empty() => None,
        _ => System::new(&only(twin, &open), &[]).ok(),
    };
    let Some(system) = system else { return (None, Some(asking.solved)) };
    if is_again && let Some(found) = asking.ask(&system, &[Start::power_up(&system)]) {
        return (Some(found), None);
    }
    let bits = system.plan.bits.max(1) as u64;
    let states = share(effort, STATES).min(share(effort, BITS) / bits).min(500) as usize;
    // Where scan times vary a scenario reaches another state each time.
    let starts = match system.times.0 == system.times.1 {
        true => {
            let scans = share(effort, STEPS) / system.plan.work().max(1) as u64;
            unlike(&system, reached(twin, &system, &ways(search, scans.clamp(SHORTEST, LONGEST))), states)
        }
        false => Vec::new(),
    };
    for (number, some) in starts.chunks(SOME_STATES).enumerate() {
        told((number * SOME_STATES) as u64, starts.len() as u64);
        if let Some(found) = asking.ask(&system, some) {
            return (Some(found), None);
        }
    }
    // Where the bell rang first nothing was asked.
    let solved = asking.solved;
    let is_told = solved.from_power_up > 0 || solved.states > 0 || solved.open > 0 || solved.proved > 0;
    (None, is_told.then_some(solved))
}

/// What is asked from one state after another, and what came of it so far.
struct Asking<'t, 'v> {
    twin: &'t Twin<'v>,
    budget: Budget,
    /// Work that is left.
    left: u64,
    solved: Solved,
}

impl Asking<'_, '_> {
    /// Asks from some states side by side, as long as there is work left: what was found.
    fn ask(&mut self, system: &System, starts: &[Start]) -> Option<Verdict> {
        if self.left == 0 || self.budget.halt.has_rung() {
            return None;
        }
        let work = self.left.div_ceil(starts.len().max(1) as u64);
        let budget = Budget { work: Some(work), ..self.budget.clone() };
        let told: Vec<(Ahead, u64)> =
            starts.par_iter().map(|start| forward(self.twin, system, start, &budget)).collect();
        for (start, (ahead, work)) in starts.iter().zip(told) {
            self.left = self.left.saturating_sub(work);
            match ahead {
                Ahead::Found(verdict) => return Some(verdict),
                // Where loops may run more rounds than are laid out, or something hangs on strings, nothing is claimed of that.
                Ahead::Nothing(_) if system.may_go_beyond || !system.unasked.is_empty() => self.solved.open += 1,
                Ahead::Nothing(scans) if start.is_power_up() => self.solved.from_power_up = scans,
                Ahead::Nothing(scans) if scans >= SCANS => self.solved.states += 1,
                Ahead::Nothing(_) | Ahead::Open => self.solved.open += 1,
            }
        }
        None
    }
}

/// Scenarios and how far each is followed: those that were kept, the younger ones first since they lead further, and others as
/// they are drawn; each to several of its scans, none of which is beyond `most`.
fn ways(search: &Search<'_>, most: u64) -> Vec<(Scenario, u64)> {
    let kept = search.state().kept().iter().rev().cloned().map(|s| (s, 8));
    let drawn = (0..DRAWN).map(|number| (search.scenario(number), 4));
    let is_short = |s: &Scenario| !s.is_stopped() && (SHORTEST..=LONGEST).contains(&s.scans());
    let cuts = kept.chain(drawn).filter(|(s, _)| is_short(s)).flat_map(|(scenario, times)| {
        let cut = |scans| (scenario.cut(scans), scans);
        let moments = moments(&scenario.cut(most), times);
        moments.into_iter().map(cut).collect::<Vec<_>>()
    });
    cuts.take(LANES).collect()
}

/// So many moments of a scenario, at most: half of them evenly apart, where it has counted so and so far, half at the ends of its
/// longest waits, where timers have run the furthest.
fn moments(scenario: &Scenario, most: u64) -> Vec<u64> {
    let even = most / 2;
    let mut waits = Vec::new();
    let mut gone = 0;
    for leaf in scenario.leaves() {
        if let Leaf::Wait(scans) = leaf {
            gone += scans;
            waits.push((std::cmp::Reverse(scans), gone));
        }
    }
    waits.sort_unstable();
    let long = waits.into_iter().map(|(_, end)| end).take((most - even) as usize);
    let mut out: Vec<u64> = (1..=even).map(|part| gone * part / even).chain(long).collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// So many of these states, each of which is in something unlike those before it: a bit, or a number that is the largest or the
/// smallest of all, as that of a timer that is done.
fn unlike(system: &System, mut states: Vec<Start>, most: usize) -> Vec<Start> {
    let numbers: Vec<Vec<i64>> = states.iter().map(|s| system.holds(|bit| s.bits[bit])).collect();
    let registers = system.plan.registers.len();
    let ends: Vec<[i64; 2]> = (0..registers)
        .map(|register| {
            let all = || numbers.iter().map(|n| n[register]);
            [all().min().unwrap_or(0), all().max().unwrap_or(0)]
        })
        .collect();
    // What a state is like: of each bit which of two, of each number whether it is at an end.
    let features = |bits: &[bool], numbers: &[i64]| -> Vec<usize> {
        let of_bits = bits.iter().enumerate().map(|(at, bit)| 2 * at + usize::from(*bit));
        let at_ends = numbers.iter().zip(&ends).enumerate().flat_map(|(register, (number, ends))| {
            let first = 2 * bits.len() + 2 * register;
            (0..2).filter(|end| ends[*end] == *number).map(move |end| first + end)
        });
        of_bits.chain(at_ends).collect()
    };
    let mut like: Vec<Vec<usize>> = states.iter().zip(&numbers).map(|(s, n)| features(&s.bits, n)).collect();
    let mut seen = vec![false; 2 * (system.bits.len() + registers)];
    let power_up = Start::power_up(system).bits;
    features(&power_up, &system.holds(|bit| power_up[bit])).into_iter().for_each(|f| seen[f] = true);
    let mut out = Vec::new();
    while out.len() < most {
        let news = |features: &Vec<usize>| features.iter().filter(|f| !seen[**f]).count();
        // Of several the first, which is of the younger scenario.
        let best = like.iter().enumerate().map(|(at, f)| (news(f), std::cmp::Reverse(at))).max();
        let Some((new, std::cmp::Reverse(at))) = best else { break };
        if new == 0 {
            // Each thing was met once: those that are left meet it in another company.
            seen.fill(false);
        }
        like.remove(at).into_iter().for_each(|f| seen[f] = true);
        out.push(states.remove(at));
    }
    out
}

/// States that scenarios lead to, each once, in the order of the scenarios: all of them run in lanes of the circuit.
fn reached(twin: &Twin<'_>, system: &System, ways: &[(Scenario, u64)]) -> Vec<Start> {
    let plan = &system.plan;
    let mut simulator = Simulator::new(Arc::clone(plan));
    let give = |simulator: &mut Simulator, lane: usize, input: usize, value: i64| {
        for (given, (_, place)) in system.outside.iter().zip(&plan.inputs) {
            if given.pair == Some(input) {
                simulator.set_number(*place, lane, value / given.unit);
            }
        }
    };
    let rest = at_rest(twin);
    let mut lanes: Vec<_> = ways.iter().map(|(scenario, _)| (scenario.leaves(), 0u64)).collect();
    for lane in 0..ways.len() {
        rest.iter().enumerate().for_each(|(input, value)| give(&mut simulator, lane, input, *value));
    }
    let mut out = vec![Vec::new(); ways.len()];
    let longest = ways.iter().map(|(_, scans)| *scans).max().unwrap_or(0);
    for scan in 0..longest {
        let mut power: Plane = crate::circuit::NONE;
        for (lane, (leaves, wait)) in lanes.iter_mut().enumerate() {
            while *wait == 0 {
                match leaves.next() {
                    Some(Leaf::Set(change)) => give(&mut simulator, lane, change.input, change.value),
                    Some(Leaf::Power(Power::Cycle)) => set_bit(&mut power, lane, scan > 0 && !system.lasting),
                    Some(Leaf::Power(Power::Cold | Power::Stop | Power::Run)) => {}
                    Some(Leaf::Wait(scans)) => *wait = scans,
                    None => break,
                }
            }
            *wait = wait.saturating_sub(1);
        }
        simulator.power_cycle(power);
        simulator.compute();
        simulator.advance();
        for (lane, (scenario, scans)) in ways.iter().enumerate().filter(|(_, (_, scans))| *scans == scan + 1) {
            let held = |(register, at): &(usize, u8)| {
                bit(&simulator.planes(plan.registers[*register].place)[usize::from(*at)], lane)
            };
            out[lane] = system.bits.iter().map(held).collect();
            debug_assert_eq!(scenario.scans(), *scans);
        }
    }
    let mut seen: HashSet<Vec<bool>> = HashSet::new();
    let states = ways.iter().zip(out).filter(|(_, bits)| seen.insert(bits.clone()));
    states.map(|((scenario, _), bits)| Start { before: scenario.clone(), bits, scans: SCANS }).collect()
}
