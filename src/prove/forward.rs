//! A search forward, from power-up or from a state that was reached: a few scans laid out one behind the other, and put before
//! the solver. What it answers is a scenario, which the scan engine has to show.
//!
//! A search by chance opens no door that one number in four thousand million opens; the solver does. It sees a few scans
//! only: what takes long is found by scenarios that are drawn.

use super::solve::{Answer, Budget, Question, Variables};
use super::system::{Outside, System, What};
use crate::circuit::{self, Algebra, Bit, Graph, Word};
use crate::model::Duration;
use crate::scan::{Power, ScanTime};
use crate::twin::{Act, Change, Scenario, Timing, Twin, Verdict, shown};

/// Scans at most, from power-up.
const MOST_SCANS: usize = 12;

/// Where a search begins.
pub(super) struct Start {
    /// What leads there; nothing for power-up.
    pub(super) before: Scenario,
    /// What both versions remember there.
    pub(super) bits: Vec<bool>,
    /// Scans that are laid out, at most.
    pub(super) scans: usize,
}

impl Start {
    /// Power-up.
    pub(super) fn power_up(system: &System) -> Start {
        let bits = (0..system.bits.len()).map(|bit| system.initial(bit)).collect();
        Start { before: Scenario::default(), bits, scans: MOST_SCANS }
    }

    /// Whether it is power-up.
    pub(super) fn is_power_up(&self) -> bool {
        self.before.acts.is_empty()
    }
}

/// What came of a search.
pub(super) enum Ahead {
    /// Replayed and told: a difference, or of one version a rule that it breaks.
    Found(Verdict),
    /// There is none in so many scans.
    Nothing(usize),
    /// The solver gave up in a scan, or what it said does not replay.
    Open,
}

/// Nodes at most, so that a question stays small.
const MOST_NODES: usize = 400_000;

/// One of the scans, in a graph of all of them. What an unknown function gives is free: a replay tells whether it can be
/// so.
struct Frame {
    /// Whether power is switched off and on before it.
    power: Bit,
    /// The bits of each input.
    inputs: Vec<Vec<Bit>>,
    /// Whether an output or a fault differs, and nothing is beyond what the circuit holds.
    differs: Bit,
    /// What is stored for the next one.
    next: Vec<Bit>,
}

/// What some scan of the first few can show, and how much work that took, in nodes of the graph and steps of the solver. Where the work
/// of the budget is spent it stays open.
pub(super) fn forward(twin: &Twin<'_>, system: &System, start: &Start, budget: &Budget) -> (Ahead, u64) {
    let mut g = Graph::new();
    let initial: Vec<Bit> = (0..system.bits.len()).map(|bit| Bit::FALSE.flip(system.initial(bit))).collect();
    let mut now: Vec<Bit> = start.bits.iter().map(|bit| Bit::FALSE.flip(*bit)).collect();
    let mut frames: Vec<Frame> = Vec::new();
    let mut vars = Variables::default();
    let (mut is_open, mut work) = (false, 0);
    while frames.len() < start.scans && g.len() < MOST_NODES && !budget.halt.has_rung() {
        let left = budget.after(work);
        if left.is_spent() {
            return (Ahead::Open, work);
        }
        let before = g.len();
        let frame = frame(&mut g, (twin, system), &now, &initial, start.is_power_up() && frames.is_empty());
        work += (g.len() - before) as u64;
        now.clone_from(&frame.next);
        frames.push(frame);
        let differs = frames.last().map_or(Bit::FALSE, |f| f.differs);
        let mut question = Question::new(&g, &mut vars, &[&[differs]]);
        question.look_at(usize::MAX);
        let answer = question.answer(&left);
        work += question.work();
        drop(question);
        match answer {
            Answer::Yes(values) => {
                let mut nodes = vec![false; g.len()];
                values.iter().for_each(|(node, value)| nodes[*node] = *value);
                let value = |bit: Bit| nodes[bit.node()] ^ bit.is_inverted();
                let (twin, scenario) = told((twin, system), &start.before, &steps(system, &frames, value));
                // What an unknown function gives was free: it may be so in a later scan.
                match shown(&twin, &scenario) {
                    Some(verdict) => return (Ahead::Found(verdict), work),
                    None => is_open = true,
                }
            }
            Answer::No => {}
            // What follows takes longer still.
            Answer::Unknown => return (Ahead::Open, work),
        }
    }
    (if is_open { Ahead::Open } else { Ahead::Nothing(frames.len()) }, work)
}

fn frame(g: &mut Graph, (twin, system): (&Twin<'_>, &System), now: &[Bit], initial: &[Bit], is_first: bool) -> Frame {
    let plan = &system.plan;
    let power = if is_first { Bit::FALSE } else { g.input() };
    let mut bits = vec![Bit::FALSE; plan.bits];
    circuit::begin(g, plan, &mut bits);
    for (number, (register, at)) in system.bits.iter().enumerate() {
        let lost = if system.is_retained(number) { now[number] } else { initial[number] };
        let bit = g.mux(power, lost, now[number]);
        bits[plan.registers[*register].place.at as usize + usize::from(*at)] = bit;
    }
    let mut inputs = Vec::new();
    for (place, range, count) in system.given() {
        let free: Vec<Bit> = (0..count).map(|_| g.input()).collect();
        let own = place.at as usize..place.at as usize + usize::from(place.width);
        circuit::within(g, &free, range, &mut bits[own.clone()]);
        inputs.push(bits[own].to_vec());
    }
    circuit::run_all(g, plan, &mut bits);
    let (mut within, mut fine) = (Bit::TRUE, Bit::TRUE);
    for goal in &system.goals {
        let holds = goal.at.map_or(Bit::FALSE, |at| bits[at]);
        match goal.what {
            What::Rounds => within = holds,
            What::Faults | What::Output(_) => fine = g.and(fine, holds),
            // What breaks a rule beside a comparison is told by the search, not here.
            What::Rule(..) if twin.is_single() => fine = g.and(fine, holds),
            What::Rule(..) => {}
        }
    }
    let differs = g.and(within, fine.not());
    let next = system.after(&bits).collect();
    Frame { power, inputs, differs, next }
}

/// A scan of a way from one state to another.
#[derive(Clone, Debug)]
pub(super) struct Step {
    /// Whether power is switched off and on before it.
    pub(super) power: bool,
    /// What each input is given, as its bits count it.
    pub(super) given: Vec<i64>,
}

/// The scans that the solver means.
fn steps(system: &System, frames: &[Frame], value: impl Fn(Bit) -> bool) -> Vec<Step> {
    let step = |frame: &Frame| {
        let number =
            |(bits, given): (&Vec<Bit>, &Outside)| Word { bits, signed: given.signed, zero: Bit::FALSE }.number(&value);
        let given = frame.inputs.iter().zip(&system.outside).map(number).collect();
        Step { power: value(frame.power), given }
    };
    frames.iter().map(step).collect()
}

/// The scenario of a way behind what leads to its begin, and the twin with the scan times that it wants.
pub(super) fn told<'v>(
    (twin, system): (&Twin<'v>, &System),
    before: &Scenario,
    steps: &[Step],
) -> (Twin<'v>, Scenario) {
    let mut acts = before.acts.clone();
    let mut times: Vec<Duration> = Vec::new();
    let mut last: Vec<Option<i64>> = vec![None; twin.pairing.inputs.len()];
    for (scan, step) in steps.iter().enumerate() {
        if step.power {
            acts.push(Act::Power(Power::Cycle));
        }
        for (outside, counted) in system.outside.iter().zip(&step.given) {
            let now = counted.wrapping_mul(outside.unit);
            match outside.pair {
                Some(input) if last[input].replace(now) != Some(now) => {
                    acts.push(Act::Set(Change { input, value: now }))
                }
                Some(_) => {}
                None if scan > 0 => times.push(Duration::from_nanos(now)),
                None => {}
            }
        }
        acts.push(Act::Wait(1));
    }
    let mut twin = twin.clone();
    let (low, high, _) = system.times;
    if low != high {
        times.push(Duration::from_nanos(low));
        twin.timing = Timing::Lockstep(ScanTime::Given(times));
    }
    let scenario = twin.allowed(Scenario { acts });
    (twin, scenario)
}
