//! A check of a certificate that knows nothing of the prover: it reads the graph, and puts the three claims of a proof by
//! induction before a solver of its own.
//!
//! What it reads is the circuit of both versions with the facts as its outputs. It derives the claims itself: that the
//! facts hold at power-up, that every step keeps them, that no bad state satisfies them. It shares no code with the
//! rooms that made the certificate. What it cannot know is whether the circuit is that of the programs.

mod alike;
mod assumed;
mod read;
mod solve;

use alike::Alike;
use read::Aig;
use serde::Serialize;
use solve::{Lit, Questions};

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
    /// Constraints by which an unknown function gives the same for the same.
    pub constraints: usize,
    /// What is assumed of what is given, without being checked, in words. No other constraint is accepted.
    pub assumed: Vec<String>,
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
    let sequential = graph(MITER, miter)?;
    let combinational = graph(CERTIFICATE, certificate)?;
    if sequential.bad.is_empty() {
        return Err(Doubt::Unfit { file: MITER, why: "it has no bad states that would have to be ruled out" });
    }
    if !combinational.latches.is_empty() || !combinational.constraints.is_empty() {
        return Err(Doubt::Unfit { file: CERTIFICATE, why: "it has latches or constraints" });
    }
    let (facts, goals) = (sequential.outputs.len(), sequential.bad.len());
    if combinational.outputs.len() != 2 * facts + goals {
        return Err(Doubt::Unfit { file: CERTIFICATE, why: "its outputs are not those of the facts and goals" });
    }
    let mut said = Vec::new();
    for (number, constraint) in sequential.constraints.iter().enumerate() {
        match assumed::words(&sequential, number) {
            Some(words) if assumed::is_of_the_outside(&sequential, *constraint) => said.push(words),
            Some(_) => {
                let why = "what it assumes speaks of more than what is given";
                return Err(Doubt::Unfit { file: MITER, why });
            }
            None if congruence(&sequential, *constraint) => {}
            None => {
                let why = "it has a constraint that does not say of two results of an unknown function that they are the same";
                return Err(Doubt::Unfit { file: MITER, why });
            }
        }
    }
    assumed::leave_something(&sequential)?;
    at_power_up(&sequential)?;
    kept_and_sufficient(&sequential)?;
    all_false(&combinational)?;
    Ok(Recheck {
        latches: sequential.latches.len(),
        inputs: sequential.inputs,
        gates: sequential.gates.len(),
        facts,
        goals: (0..goals).map(|n| claim(&sequential, 'b', n)).collect(),
        constraints: sequential.constraints.len() - said.len(),
        assumed: said,
        outputs: combinational.outputs.len(),
    })
}

fn graph(file: &'static str, bytes: &[u8]) -> Result<Aig, Doubt> {
    read::read(bytes).map_err(|why| Doubt::Unreadable { file, why })
}

/// What a symbol of the miter claims.
fn claim(aig: &Aig, kind: char, number: usize) -> String {
    let symbol = aig.symbol(kind, number);
    symbol.strip_prefix("not so: ").unwrap_or(&symbol).to_string()
}

/// Whether a constraint says of two bits that unknown functions give, and of nothing else, that they are the same, be it
/// where something holds. Whatever else it may be, it can be met in every state: by the same results everywhere.
fn congruence(aig: &Aig, constraint: u32) -> bool {
    let reads = |literal: u32| aig.gates.get(((literal >> 1) as usize).checked_sub(aig.first_gate())?).copied();
    let unknown = |literal: u32| {
        let number = (literal >> 1) as usize;
        (1..=aig.inputs).contains(&number) && aig.symbol('i', number - 1).starts_with("unknown ")
    };
    // They are the same where neither is TRUE without the other.
    let same = |literal: u32| -> bool {
        let (Some([x, y]), 0) = (reads(literal), literal & 1) else { return false };
        let (1, 1, Some([a, b]), Some([c, d])) = (x & 1, y & 1, reads(x), reads(y)) else { return false };
        let crossed = (a == c ^ 1 && b == d ^ 1) || (a == d ^ 1 && b == c ^ 1);
        // One of the two is read inverted: else it would say that they are opposite.
        crossed && (a & 1) != (b & 1) && a >> 1 != b >> 1 && unknown(a) && unknown(b)
    };
    let unless = |literal: u32| match (literal & 1, reads(literal)) {
        (1, Some([x, y])) => same(x ^ 1) || same(y ^ 1),
        _ => false,
    };
    same(constraint) || unless(constraint)
}

/// Facts are about latches alone, and none fails where all latches are 0.
fn at_power_up(aig: &Aig) -> Result<(), Doubt> {
    let first_gate = aig.first_gate();
    // Of each variable its value where latches are 0, and whether an input has a part in it.
    let mut value = vec![false; first_gate];
    let mut free: Vec<bool> = (0..first_gate).map(|v| v > 0 && v <= aig.inputs).collect();
    let of = |value: &[bool], literal: u32| value[(literal >> 1) as usize] ^ (literal & 1 == 1);
    for gate in &aig.gates {
        let [a, b] = *gate;
        let (both, any) = (of(&value, a) && of(&value, b), free[(a >> 1) as usize] || free[(b >> 1) as usize]);
        value.push(both);
        free.push(any);
    }
    for (number, output) in aig.outputs.iter().enumerate() {
        if free[(output >> 1) as usize] {
            return Err(Doubt::Unfit { file: MITER, why: "a fact is about an input" });
        }
        if of(&value, *output) {
            return Err(Doubt::AtPowerUp(claim(aig, 'o', number)));
        }
    }
    Ok(())
}

/// From any state in which no fact fails none fails after a step, and nothing bad is seen.
fn kept_and_sufficient(aig: &Aig) -> Result<(), Doubt> {
    let mut questions = Questions::new();
    // Only states in which the facts hold are looked at, so what they say is the same is one literal from the start.
    let latches = Alike::new(aig).literals(&mut questions);
    let now = questions.copy(aig, &latches, false);
    for output in &aig.outputs {
        questions.holds(now.literal(*output).not());
    }
    for constraint in &aig.constraints {
        questions.holds(now.literal(*constraint));
    }
    if !questions.is_possible() {
        return Err(Doubt::Contradiction);
    }
    let next: Vec<Lit> = aig.latches.iter().map(|next| now.literal(*next)).collect();
    let then = questions.copy(aig, &next, true);
    for (number, output) in aig.outputs.iter().enumerate() {
        if questions.can_be(then.literal(*output)) {
            return Err(Doubt::NotKept(claim(aig, 'o', number)));
        }
    }
    for (number, bad) in aig.bad.iter().enumerate() {
        if questions.can_be(now.literal(*bad)) {
            return Err(Doubt::DoesNotFollow(claim(aig, 'b', number)));
        }
    }
    Ok(())
}

fn all_false(aig: &Aig) -> Result<(), Doubt> {
    let mut questions = Questions::new();
    let now = questions.copy(aig, &[], false);
    for (number, output) in aig.outputs.iter().enumerate() {
        if questions.can_be(now.literal(*output)) {
            return Err(Doubt::Output(claim(aig, 'o', number)));
        }
    }
    Ok(())
}
