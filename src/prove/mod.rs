//! Proof: that two versions agree for every input sequence of any length.
//!
//! One scan of both is laid out as a graph over shared inputs and scan time. Facts about what the versions remember are
//! sought in states that occur ([`induct`](self)), and kept only if they hold at power-up and if every scan, and every loss
//! of power, keeps them. Under the facts each pair of outputs is put before a solver. Nothing is taken for different
//! that the scan engine has not shown.

mod facts;
mod induct;
mod solve;
mod sweep;
mod system;

use crate::twin::{
    Effort, Proved, Stimuli, Strength, Tolerance, Twin, Verdict, compare_twin, describe_pair, faulty, without_rules,
};
use induct::{Induction, induct};
use sweep::Same;
use system::{System, scan_times, time_words};

/// How far a proof is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Looking for a scenario in which the versions part.
    Searching,
    /// Asking which of so many facts every scan keeps.
    Facts(usize),
    /// Asking whether the outputs agree under the facts: so many are done.
    Outputs(usize),
}

/// How much to try.
#[derive(Clone, Debug)]
pub struct Means {
    /// Conflicts that one question to the solver may take.
    pub conflicts: u64,
    /// The search for a difference: first a part of it, then, if there is no proof, all.
    pub effort: Effort,
}

impl Default for Means {
    /// 20,000 conflicts, and the usual effort.
    fn default() -> Self {
        Means { conflicts: 20_000, effort: Effort::default() }
    }
}

/// Proves or refutes that two versions agree. `go_on` is told how far it is, and ends it by `false`: then it is
/// undecided.
pub fn prove(twin: &Twin<'_>, means: &Means, mut go_on: impl FnMut(Stage) -> bool) -> Verdict {
    go_on(Stage::Searching);
    let most = &means.effort;
    let first =
        Effort { scenarios: most.scenarios.min(256), scans: most.scans.min(300_000), faults: 0, ..most.clone() };
    let rules = match compare_twin(twin, &first, |_| {}) {
        Verdict::Tested(tested) => tested.rules,
        other => return other,
    };
    let reason = match attempt(twin, means, &mut go_on) {
        Ok(proved) => return Verdict::Proved(Box::new(Proved { rules, ..proved })),
        Err(reason) => reason,
    };
    go_on(Stage::Searching);
    match compare_twin(twin, &Effort { faults: 0, ..means.effort.clone() }, |_| {}) {
        Verdict::Tested(_) => Verdict::Undecided { reason },
        other => other,
    }
}

/// Proves of seeded faults that were not found that they make no difference, where that can be proved.
pub fn settle(twin: &Twin<'_>, strength: &mut Strength, means: &Means) {
    for fault in strength.faults.iter_mut().filter(|f| !f.caught) {
        let Some(right) = faulty(twin, fault) else { continue };
        fault.harmless = attempt(&without_rules(twin, &right), means, &mut |_| true).is_ok();
    }
}

/// A proof, or what is missing.
fn attempt(twin: &Twin<'_>, means: &Means, go_on: &mut impl FnMut(Stage) -> bool) -> Result<Proved, String> {
    if twin.pairing.outputs.iter().any(|p| p.tolerance != Tolerance::Exact) {
        return Err("outputs that need not agree in every scan are tested, not proved".to_string());
    }
    let system = System::new(twin)?;
    let states = system.states(&Stimuli::new(twin));
    // Bits that are the same are soon found, and mostly enough; facts about numbers take longer.
    let mut found = None;
    let mut open = Vec::new();
    for numbers in [false, true] {
        let conflicts = if numbers { means.conflicts / 10 } else { means.conflicts };
        let facts = induct(&system, states.clone(), conflicts, numbers, |facts| go_on(Stage::Facts(facts)));
        let Some(mut facts) = facts else { break };
        open = outputs(twin, &system, &mut facts, go_on)?;
        found = Some(facts);
        if open.is_empty() {
            break;
        }
    }
    let Some(found) = found else { return Err("it was stopped before the facts were settled".to_string()) };
    if let Some((_, state)) = open.first() {
        let suspicious = state.map_or(String::new(), |state| {
            let words = system.words([&twin.left.name, &twin.right.name], |bit| found.round.before(bit, state));
            format!("\nIt would take a state like this, which may never occur: {words}")
        });
        let names: Vec<&str> = open.iter().map(|(n, _)| twin.pairing.outputs[*n].name.as_str()).collect();
        let proved = twin.pairing.outputs.len() - open.len();
        let slow = match found.too_long {
            0 => String::new(),
            count => format!("; {count} questions took the solver too long"),
        };
        return Err(format!(
            "{proved} of {} outputs are proved; no facts were found that prove {}{slow}{suspicious}",
            twin.pairing.outputs.len(),
            names.join(", ")
        ));
    }
    Ok(Proved {
        versions: [twin.left.name.clone(), twin.right.name.clone()],
        pairing: twin.pairing.clone(),
        facts: found.groups.facts() + found.facts.len(),
        rounds: found.rounds,
        questions: found.asked,
        bits: system.bits.len(),
        gates: found.round.sweep.graph.len(),
        rules: Vec::new(),
        assumptions: assumptions(twin, system.plan.has_whole())?,
    })
}

/// The outputs that are not proved to agree, each with a state in which the facts hold and it does not.
fn outputs(
    twin: &Twin<'_>,
    system: &System,
    found: &mut Induction,
    go_on: &mut impl FnMut(Stage) -> bool,
) -> Result<Vec<(usize, Option<usize>)>, String> {
    let round = &mut found.round;
    let bit = |round: &induct::Round, node| {
        system.plan.place(node).map_or(crate::circuit::Bit::FALSE, |p| {
            if p.width == 0 { crate::circuit::Bit::FALSE } else { round.bits[p.at as usize] }
        })
    };
    let beyond = bit(round, system.beyond);
    if round.sweep.never(&[beyond]) != Same::Yes {
        return Err("a loop may run more rounds than are laid out (64 where their number is not known)".to_string());
    }
    let same_fault = bit(round, system.same_fault);
    if round.sweep.never(&[same_fault.not()]) != Same::Yes {
        return Err("it is not proved that both stop with the same fault".to_string());
    }
    let running = bit(round, system.running);
    let mut open = Vec::new();
    for (number, agree) in system.agree.iter().enumerate() {
        if !go_on(Stage::Outputs(number)) {
            return Err(format!(
                "it was stopped; {} of {} outputs are proved",
                number - open.len(),
                twin.pairing.outputs.len()
            ));
        }
        let agree = bit(round, *agree);
        match round.sweep.never(&[running, agree.not()]) {
            Same::Yes => {}
            Same::No(state) => open.push((number, Some(state))),
            Same::Unknown => open.push((number, None)),
        }
    }
    Ok(open)
}

fn assumptions(twin: &Twin<'_>, has_whole: bool) -> Result<Vec<String>, String> {
    let mut out = vec![
        format!("both versions scan in lockstep; {}", time_words(scan_times(&twin.timing)?)),
        "from power-up, with power off and on at any moment; not stopped and started again".to_string(),
    ];
    if has_whole {
        out.push("an operation on REAL or LREAL is taken as the same unknown function on both sides".to_string());
    }
    for pair in twin.pairing.inputs.iter().chain(&twin.pairing.outputs) {
        out.extend(describe_pair(twin, pair));
    }
    Ok(out)
}
