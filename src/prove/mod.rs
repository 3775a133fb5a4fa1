//! Proof: that two versions agree for every input sequence of any length.
//!
//! One scan of both is laid out as a graph over shared inputs and scan time. Facts about what the versions remember are
//! sought in states that occur ([`induct`](self)), and kept only if they hold at power-up and if every scan, and every loss
//! of power, keeps them. Under the facts each pair of outputs is put before a solver. Nothing is taken for different
//! that the scan engine has not shown.

#[cfg(test)]
mod broken;
mod certificate;
mod facts;
mod induct;
mod layout;
mod proviso;
mod solve;
mod sweep;
mod system;

use crate::twin::{
    Effort, Proved, Stimuli, Strength, Tolerance, Twin, Verdict, compare_twin, describe_pair, faulty, without_rules,
};
pub use certificate::Certificate;
use induct::{Induction, induct};
use proviso::{Proviso, conditional};
use sweep::Same;
use system::{System, What, time_words};

/// How far a proof is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Looking for a scenario in which the versions part.
    Searching,
    /// Asking which of so many facts every scan keeps.
    Facts(usize),
    /// Asking whether the outputs agree under the facts: so many are done.
    Outputs(usize),
    /// Looking for conditions under which they agree, as they do not, or not provably, under all.
    Conditions,
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
pub fn prove(twin: &Twin<'_>, means: &Means, go_on: impl FnMut(Stage) -> bool) -> Verdict {
    prove_certified(twin, means, go_on).0
}

/// As [`prove`]; what is proved, be it under conditions, comes with a certificate that others can check.
pub fn prove_certified(
    twin: &Twin<'_>,
    means: &Means,
    mut go_on: impl FnMut(Stage) -> bool,
) -> (Verdict, Option<Certificate>) {
    go_on(Stage::Searching);
    let most = &means.effort;
    let first =
        Effort { scenarios: most.scenarios.min(256), scans: most.scans.min(300_000), faults: 0, ..most.clone() };
    let mut verdict = compare_twin(twin, &first, |_| {});
    if let Verdict::Tested(tested) = verdict {
        let reason = match attempt(twin, means, &[], &mut go_on) {
            Ok(found) => {
                let proved = Proved { rules: tested.rules, ..found.proved(twin) };
                let certificate = found.certificate(twin, &[]);
                return (Verdict::Proved(Box::new(proved)), Some(certificate));
            }
            Err(reason) => reason,
        };
        go_on(Stage::Searching);
        verdict = match compare_twin(twin, &Effort { faults: 0, ..means.effort.clone() }, |_| {}) {
            Verdict::Tested(_) => Verdict::Undecided { reason, proved_if: Vec::new() },
            other => other,
        };
    }
    let conditions = match &mut verdict {
        Verdict::Different(difference) => &mut difference.proved_if,
        Verdict::Undecided { proved_if, .. } => proved_if,
        _ => return (verdict, None),
    };
    let Some((provisos, found)) = conditional(twin, means, &mut go_on) else { return (verdict, None) };
    *conditions = provisos.iter().map(|p| p.words()).collect();
    (verdict, Some(found.certificate(twin, &provisos)))
}

/// Proves of seeded faults that were not found that they make no difference, where that can be proved.
pub fn settle(twin: &Twin<'_>, strength: &mut Strength, means: &Means) {
    for fault in strength.faults.iter_mut().filter(|f| !f.caught) {
        let Some(right) = faulty(twin, fault) else { continue };
        fault.harmless = attempt(&without_rules(twin, &right), means, &[], &mut |_| true).is_ok();
    }
}

/// What a proof rests on.
struct Found {
    system: System,
    induction: Induction,
}

impl Found {
    /// Of a circuit that is laid out anew: what the prover did to its own does not get into it.
    fn certificate(self, twin: &Twin<'_>, provisos: &[Proviso]) -> Certificate {
        let system = System::new(twin, provisos).unwrap_or(self.system);
        let mut assumed = assumptions(twin, &system);
        assumed.extend(provisos.iter().map(|p| p.words()));
        Certificate::new(&system, &self.induction, &assumed)
    }

    fn proved(&self, twin: &Twin<'_>) -> Proved {
        let Found { system, induction } = self;
        Proved {
            versions: system.versions.clone(),
            pairing: twin.pairing.clone(),
            facts: induction.groups.facts() + induction.facts.len(),
            rounds: induction.rounds,
            questions: induction.asked,
            bits: system.bits.len(),
            gates: induction.round.sweep.graph.len(),
            rules: Vec::new(),
            assumptions: assumptions(twin, system),
        }
    }
}

/// A proof, or what is missing.
fn attempt(
    twin: &Twin<'_>,
    means: &Means,
    provisos: &[Proviso],
    go_on: &mut impl FnMut(Stage) -> bool,
) -> Result<Found, String> {
    if twin.pairing.outputs.iter().any(|p| p.tolerance != Tolerance::Exact) {
        return Err("outputs that need not agree in every scan are tested, not proved".to_string());
    }
    let system = System::new(twin, provisos)?;
    let states = system.states(&Stimuli::new(twin));
    // Bits that are the same are soon found, and mostly enough; facts about numbers take longer.
    let mut found = None;
    let mut open = Vec::new();
    for numbers in [false, true] {
        let conflicts = if numbers { means.conflicts / 10 } else { means.conflicts };
        let facts = induct(&system, states.clone(), conflicts, numbers, |facts| go_on(Stage::Facts(facts)));
        let Some(mut facts) = facts else { break };
        open = open_goals(&system, &mut facts, go_on)?;
        found = Some(facts);
        if open.is_empty() {
            break;
        }
    }
    let Some(found) = found else { return Err("it was stopped before the facts were settled".to_string()) };
    if !open.is_empty() {
        return Err(missing(twin, &system, &found, &open));
    }
    Ok(Found { system, induction: found })
}

/// What is missing, in words, with a state that shows it.
fn missing(twin: &Twin<'_>, system: &System, found: &Induction, open: &[(What, Option<usize>)]) -> String {
    let mut names = Vec::new();
    for (what, _) in open {
        match what {
            What::Rounds => {
                return "a loop may run more rounds than are laid out (64 where their number is not known)".to_string();
            }
            What::Faults => names.push("that both stop with the same fault".to_string()),
            What::Output(number) => names.push(twin.pairing.outputs[*number].name.clone()),
        }
    }
    let all = twin.pairing.outputs.len();
    let not = open.iter().filter(|(what, _)| matches!(what, What::Output(_))).count();
    let slow = match found.too_long {
        0 => String::new(),
        count => format!("; {count} questions took the solver too long"),
    };
    let state = open.iter().find_map(|(_, state)| *state);
    let suspicious = state.map_or(String::new(), |state| {
        let words = system.words(|bit| found.round.before(bit, state));
        format!("\nIt would take a state like this, which may never occur: {words}")
    });
    format!(
        "{} of {all} outputs are proved; no facts were found that prove {}{slow}{suspicious}",
        all - not,
        names.join(", ")
    )
}

/// The goals that are not proved, each with a state in which the facts hold and it does not.
fn open_goals(
    system: &System,
    found: &mut Induction,
    go_on: &mut impl FnMut(Stage) -> bool,
) -> Result<Vec<(What, Option<usize>)>, String> {
    let round = &mut found.round;
    let mut open = Vec::new();
    for (done, goal) in system.goals.iter().enumerate() {
        if !go_on(Stage::Outputs(done.saturating_sub(2))) {
            return Err(format!("it was stopped; {} of {} goals are proved", done - open.len(), system.goals.len()));
        }
        match round.sweep.never(&[round.bit(system, goal.node).not()]) {
            Same::Yes => {}
            Same::No(state) => open.push((goal.what, Some(state))),
            Same::Unknown => open.push((goal.what, None)),
        }
    }
    Ok(open)
}

fn assumptions(twin: &Twin<'_>, system: &System) -> Vec<String> {
    let mut out = vec![
        format!("both versions scan in lockstep; {}", time_words(system.times)),
        "from power-up, with power off and on at any moment; not stopped and started again".to_string(),
    ];
    if system.plan.has_whole() {
        out.push("an operation on REAL or LREAL is taken as the same unknown function on both sides".to_string());
    }
    for pair in twin.pairing.inputs.iter().chain(&twin.pairing.outputs) {
        out.extend(describe_pair(twin, pair));
    }
    out
}
