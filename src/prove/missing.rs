//! Why there is no proof, and what is proved nevertheless.

use super::Open;
use super::induct::Induction;
use super::part::Part;
use super::system::What;
use crate::twin::{Scenario, Timing, Twin};
use std::collections::BTreeSet;

/// Why there is no proof.
pub(super) struct Missing {
    pub(super) words: String,
    /// The outputs that are proved nevertheless, by the numbers of their pairs.
    pub(super) proved: BTreeSet<usize>,
    /// The rules that are, each with the side it is proved on.
    pub(super) rules: BTreeSet<(usize, usize)>,
    /// Whether it is that circuit and engine do not say the same: then nothing is claimed.
    pub(super) is_disagreement: bool,
    /// Ways from power-up to broken goals, as far as the circuit tells, each with its scan times.
    pub(super) ways: Vec<(Timing, Scenario)>,
    /// Work that it has taken.
    pub(super) work: u64,
}

/// What the circuit and the engine do not say the same of, as a reason why nothing is claimed.
pub(super) fn disagreement(what: &str) -> Missing {
    let words = format!(
        "the prover's circuit and the scan engine do not agree, so nothing is claimed; please report this: {what}"
    );
    Missing { is_disagreement: true, ..Missing::from(words) }
}

impl From<String> for Missing {
    fn from(words: String) -> Missing {
        let (proved, rules) = (BTreeSet::new(), BTreeSet::new());
        Missing { words, proved, rules, is_disagreement: false, ways: Vec::new(), work: 0 }
    }
}

/// What is missing, in words, with a state that shows it; `unasked` is what hangs on strings.
pub(super) fn missing(twin: &Twin<'_>, parts: &[(Part, Induction, Open)], unasked: &[What]) -> Missing {
    let not_proved: Vec<What> = parts.iter().flat_map(|(.., open)| open.iter().map(|(what, _)| *what)).collect();
    let open: Vec<What> = not_proved.iter().chain(unasked).copied().collect();
    if open.contains(&What::Rounds) {
        let words = match is_spent(parts) {
            true => "the work that a proof may take was used up before it was settled how many rounds a loop runs",
            false => "a loop may run more rounds than are laid out (64 where their number is not known)",
        };
        return words.to_string().into();
    }
    let words = words(twin, parts, &not_proved, unasked);
    // Where a fault may part them no output is sure.
    let is_proved = |output: &usize| !open.contains(&What::Faults) && !open.contains(&What::Output(*output));
    let rules = parts.iter().flat_map(|(part, ..)| &part.system.goals).filter_map(|goal| match goal.what {
        What::Rule(number, side) => (!open.contains(&goal.what)).then_some((number, side)),
        What::Rounds | What::Faults | What::Output(_) => None,
    });
    let rules = rules.collect();
    Missing { proved: (0..twin.pairing.outputs.len()).filter(is_proved).collect(), rules, ..Missing::from(words) }
}

/// Whether of some part nothing was settled, as its work was used up.
fn is_spent(parts: &[(Part, Induction, Open)]) -> bool {
    parts.iter().any(|(_, found, _)| found.round.is_none())
}

fn words(twin: &Twin<'_>, parts: &[(Part, Induction, Open)], not_proved: &[What], unasked: &[What]) -> String {
    let name = |what: &What| match what {
        What::Faults => Some("that both stop with the same fault"),
        What::Output(number) => Some(twin.pairing.outputs[*number].name.as_str()),
        What::Rule(number, _) => twin.is_single().then(|| twin.rules[*number].name.as_str()),
        What::Rounds => None,
    };
    let counts = |what: &&What| match what {
        What::Output(_) => true,
        What::Rule(..) => twin.is_single(),
        What::Rounds | What::Faults => false,
    };
    let not = not_proved.iter().chain(unasked).filter(counts).count();
    let (all, of_what) = match twin.is_single() {
        true => (twin.rules.len(), "rules"),
        false => (twin.pairing.outputs.len(), "outputs"),
    };
    let mut reasons = Vec::new();
    let names: Vec<&str> = not_proved.iter().filter_map(name).collect();
    if !names.is_empty() {
        reasons.push(format!("no facts were found that prove {}", names.join(", ")));
    }
    let names: Vec<&str> = unasked.iter().filter_map(name).collect();
    if !names.is_empty() {
        reasons.push(format!("strings are not part of the circuit, so nothing is proved of {}", names.join(", ")));
    }
    if is_spent(parts) {
        reasons.push("the work that a proof may take was used up".to_string());
    }
    match parts.iter().map(|(_, found, _)| found.too_long).sum::<u64>() {
        0 => {}
        count => reasons.push(format!("{count} questions took the solver too long")),
    }
    let state = parts.iter().find_map(|(part, found, open)| {
        let (state, round) = (open.iter().find_map(|(_, state)| *state)?, found.round.as_ref()?);
        Some(part.system.words(|bit| round.before(bit, state)))
    });
    let state = state.map_or(String::new(), |words| match words.as_str() {
        "" => {
            "\nIt would take a state in which only what has no name differs, as a stopwatch; it may never occur".into()
        }
        _ => format!("\nIt would take a state like this, which may never occur: {words}"),
    });
    format!("{} of {all} {of_what} are proved; {}{state}", all - not, reasons.join("; "))
}
