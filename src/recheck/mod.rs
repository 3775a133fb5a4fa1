//! A check of a certificate that knows nothing of the prover: it reads the graph, and puts the three claims of a proof by
//! induction before a solver of its own.
//!
//! What it reads is the circuit of both versions with the facts as its outputs. It derives the claims itself: that the
//! facts hold at power-up, that every step keeps them, that no bad state satisfies them. It shares no code with the
//! rooms that made the certificate. What it cannot know is whether the circuit is that of the programs.

mod solve;

use flussab_aiger::aig::{OrderedAig, SymbolTarget};
use flussab_aiger::binary::{Config, Parser};
use serde::Serialize;
use solve::{Clauses, Lit};

/// What was checked.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Recheck {
    /// Bits that last from scan to scan.
    pub latches: usize,
    /// Bits that are free in every scan.
    pub inputs: usize,
    /// Gates of one scan.
    pub gates: usize,
    /// Facts that hold at power-up and that every step keeps.
    pub facts: usize,
    /// What follows from them.
    pub goals: Vec<String>,
    /// What is assumed in every step without being checked: that an unknown function gives the same for the same.
    pub constraints: usize,
    /// Outputs of the combinational certificate that are never TRUE.
    pub outputs: usize,
}

/// Why a certificate proves nothing.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum Doubt {
    /// A file is no graph.
    #[error("{file} cannot be read: {why}")]
    Unreadable {
        /// Which file.
        file: &'static str,
        /// Why.
        why: String,
    },
    /// A file says nothing that could be checked, or something that has no place there.
    #[error("{file} is no part of a certificate: {why}")]
    Unfit {
        /// Which file.
        file: &'static str,
        /// Why.
        why: &'static str,
    },
    /// A fact fails at power-up.
    #[error("at power-up it does not hold: {0}")]
    AtPowerUp(String),
    /// A fact is not kept.
    #[error("a step from a state in which all facts hold leads to one in which this one fails: {0}")]
    NotKept(String),
    /// A goal does not follow.
    #[error("the facts do not suffice: {0}")]
    DoesNotFollow(String),
    /// Nothing satisfies the facts and the constraints, so that anything would follow.
    #[error("the facts and constraints contradict each other")]
    Contradiction,
    /// An output of the combinational certificate can be TRUE.
    #[error("certificate.aig has an output that can be TRUE: {0}")]
    Output(String),
}

const MITER: &str = "miter.aig";
const CERTIFICATE: &str = "certificate.aig";

/// Checks a certificate: the bytes of `miter.aig` and of `certificate.aig`.
///
/// # Errors
/// [`Doubt`]: what was found wanting first.
pub fn recheck(miter: &[u8], certificate: &[u8]) -> Result<Recheck, Doubt> {
    let sequential = read(MITER, miter)?;
    let combinational = read(CERTIFICATE, certificate)?;
    if sequential.bad_state_properties.is_empty() {
        return Err(Doubt::Unfit { file: MITER, why: "it has no bad states that would have to be ruled out" });
    }
    if !combinational.latches.is_empty() || !combinational.invariant_constraints.is_empty() {
        return Err(Doubt::Unfit { file: CERTIFICATE, why: "it has latches or constraints" });
    }
    let (facts, goals) = (sequential.outputs.len(), sequential.bad_state_properties.len());
    if combinational.outputs.len() != 2 * facts + goals {
        return Err(Doubt::Unfit { file: CERTIFICATE, why: "its outputs are not those of the facts and goals" });
    }
    at_power_up(&sequential)?;
    kept_and_sufficient(&sequential)?;
    all_false(&combinational)?;
    Ok(Recheck {
        latches: sequential.latches.len(),
        inputs: sequential.input_count,
        gates: sequential.and_gates.len(),
        facts,
        goals: (0..goals).map(|n| claim(&sequential, SymbolTarget::BadStateProperty(n))).collect(),
        constraints: sequential.invariant_constraints.len(),
        outputs: combinational.outputs.len(),
    })
}

fn read(file: &'static str, bytes: &[u8]) -> Result<OrderedAig<u32>, Doubt> {
    let unreadable = |why: String| Doubt::Unreadable { file, why };
    let parser = Parser::<u32>::from_read(bytes, Config::default()).map_err(|e| unreadable(e.to_string()))?;
    // Each of them takes a byte of the file at least, so that no number asks for more room than the file has.
    let h = parser.header();
    let counts = [h.latch_count, h.output_count, h.and_gate_count, h.bad_state_property_count];
    let more = [h.invariant_constraint_count, h.justice_property_count, h.fairness_constraint_count];
    if counts.iter().chain(&more).any(|count| *count > bytes.len()) || h.input_count > 10_000_000 {
        return Err(unreadable("its first line promises more than the file has".to_string()));
    }
    let aig = parser.parse().map_err(|e| unreadable(e.to_string()))?;
    if !aig.justice_properties.is_empty() || !aig.fairness_constraints.is_empty() {
        return Err(Doubt::Unfit { file, why: "it has properties about what happens in the end" });
    }
    if aig.latches.iter().any(|latch| latch.initialization != Some(false)) {
        return Err(Doubt::Unfit { file, why: "it has a latch that does not begin with 0" });
    }
    if !is_in_order(&aig) {
        return Err(unreadable("something reads what is not there before it".to_string()));
    }
    Ok(aig)
}

/// True if all that is read is there, and gates read only what is there before them.
fn is_in_order(aig: &OrderedAig<u32>) -> bool {
    let first_gate = 1 + aig.input_count + aig.latches.len();
    let there = (first_gate + aig.and_gates.len()) as u64;
    let read = [&aig.outputs, &aig.bad_state_properties, &aig.invariant_constraints].into_iter().flatten();
    let mut read = read.copied().chain(aig.latches.iter().map(|latch| latch.next_state));
    read.all(|literal| u64::from(literal >> 1) < there)
        && aig.and_gates.iter().enumerate().all(|(number, gate)| {
            gate.inputs.iter().all(|literal| ((literal >> 1) as usize) < first_gate + number)
        })
}

/// What a symbol claims, or its number.
fn claim(aig: &OrderedAig<u32>, target: SymbolTarget) -> String {
    match aig.symbols.iter().find(|s| s.target == target) {
        Some(symbol) => symbol.name.strip_prefix("not so: ").unwrap_or(&symbol.name).to_string(),
        None => format!("{target:?}"),
    }
}

fn fact(aig: &OrderedAig<u32>, number: usize) -> String {
    claim(aig, SymbolTarget::Output(number))
}

/// Facts are about latches alone, and none fails where all latches are 0.
fn at_power_up(aig: &OrderedAig<u32>) -> Result<(), Doubt> {
    let first_gate = 1 + aig.input_count + aig.latches.len();
    // Of each variable its value where latches are 0, and whether an input has a part in it.
    let mut value = vec![false; first_gate];
    let mut free: Vec<bool> = (0..first_gate).map(|v| v > 0 && v <= aig.input_count).collect();
    let of = |value: &[bool], literal: u32| value[(literal >> 1) as usize] ^ (literal & 1 == 1);
    for gate in &aig.and_gates {
        let [a, b] = gate.inputs;
        let (both, any) = (of(&value, a) && of(&value, b), free[(a >> 1) as usize] || free[(b >> 1) as usize]);
        value.push(both);
        free.push(any);
    }
    for (number, output) in aig.outputs.iter().enumerate() {
        if free[(output >> 1) as usize] {
            return Err(Doubt::Unfit { file: MITER, why: "a fact is about an input" });
        }
        if of(&value, *output) {
            return Err(Doubt::AtPowerUp(fact(aig, number)));
        }
    }
    Ok(())
}

/// From any state in which no fact fails none fails after a step, and nothing bad is seen.
fn kept_and_sufficient(aig: &OrderedAig<u32>) -> Result<(), Doubt> {
    let mut clauses = Clauses::new();
    let now = clauses.copy(aig, None);
    for output in &aig.outputs {
        clauses.holds(&[now.literal(*output).not()]);
    }
    for constraint in &aig.invariant_constraints {
        clauses.holds(&[now.literal(*constraint)]);
    }
    if !clauses.can_be(&[]) {
        return Err(Doubt::Contradiction);
    }
    let next: Vec<Lit> = aig.latches.iter().map(|latch| now.literal(latch.next_state)).collect();
    let then = clauses.copy(aig, Some(&next));
    for (number, output) in aig.outputs.iter().enumerate() {
        if clauses.can_be(&[then.literal(*output)]) {
            return Err(Doubt::NotKept(fact(aig, number)));
        }
    }
    for (number, bad) in aig.bad_state_properties.iter().enumerate() {
        if clauses.can_be(&[now.literal(*bad)]) {
            return Err(Doubt::DoesNotFollow(claim(aig, SymbolTarget::BadStateProperty(number))));
        }
    }
    Ok(())
}

fn all_false(aig: &OrderedAig<u32>) -> Result<(), Doubt> {
    let mut clauses = Clauses::new();
    let now = clauses.copy(aig, None);
    for (number, output) in aig.outputs.iter().enumerate() {
        if clauses.can_be(&[now.literal(*output)]) {
            return Err(Doubt::Output(fact(aig, number)));
        }
    }
    Ok(())
}
