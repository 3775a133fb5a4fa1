//! Parts of a system: some of the goals with all that has to do with them, to be proved by themselves and side by side.
//!
//! What parts have in common, such as whether a scan is the first, is in each of them. A part is a proof of its own, so
//! all of them together are one.

use super::facts::Fact;
use super::induct::{Groups, Induction};
use super::system::{Goal, System};
use crate::circuit::Cone;
use std::sync::Arc;

/// Register bits that are enough for a part.
const ENOUGH: usize = 160;

/// Some of the goals, as a system.
pub(super) struct Part {
    pub(super) system: System,
    /// Of each of its registers, register bits, free bits, and calls of unknown functions the number in the whole.
    registers: Vec<usize>,
    bits: Vec<usize>,
    free: Vec<usize>,
    calls: Vec<usize>,
}

/// What is proved of the whole.
pub(super) struct Proof {
    pub(super) groups: Groups,
    pub(super) facts: Vec<Fact>,
    /// Of each call of an unknown function the first one with the same operands.
    pub(super) calls: Vec<usize>,
    pub(super) rounds: u32,
    pub(super) asked: u64,
    pub(super) gates: usize,
}

impl System {
    /// The parts, as many as pays.
    pub(super) fn parts(&self) -> Vec<Part> {
        let asked: Vec<Option<usize>> = self.goals.iter().map(|goal| goal.at).collect();
        self.plan.cones(&asked, ENOUGH).iter().map(|cone| self.part(cone)).collect()
    }

    fn part(&self, cone: &Cone) -> Part {
        let Cone { goals, inputs, registers, steps } = cone;
        let goals: Vec<Goal> = goals.iter().map(|number| self.goals[*number]).collect();
        let asked: Vec<usize> = goals.iter().filter_map(|goal| goal.at).collect();
        let (plan, moved) = self.plan.piece([inputs, registers, steps], &asked);
        let at = |goal: &Goal| goal.at.and_then(|at| moved.bit(at as u32)).map(|at| at as usize);
        let goals = goals.iter().map(|goal| Goal { at: at(goal), ..*goal }).collect();
        let mut bits = Vec::new();
        let mut first = vec![0; self.plan.registers.len()];
        for (number, (register, at)) in self.bits.iter().enumerate().rev() {
            if *at == 0 {
                first[*register] = number;
            }
        }
        for register in registers {
            let width = usize::from(self.plan.registers[*register].place.width);
            bits.extend(first[*register]..first[*register] + width);
        }
        let mut free = Vec::new();
        let mut next = self.bits.len();
        for (number, (.., count)) in self.given().enumerate() {
            if inputs.binary_search(&number).is_ok() {
                free.extend(next..next + count);
            }
            next += count;
        }
        let mut call = 0;
        let mut calls = Vec::new();
        for (number, step) in self.plan.steps.iter().enumerate() {
            if step.is_whole() {
                if steps.binary_search(&number).is_ok() {
                    calls.push(call);
                }
                call += 1;
            }
        }
        let system = self.only(Arc::new(plan), goals, inputs, registers);
        Part { system, registers: registers.clone(), bits, free, calls }
    }

    /// All of it as one part.
    #[cfg(test)]
    pub(super) fn all(&self) -> Part {
        // What no goal has to do with is there as well, so that numbers are those of the whole.
        self.part(&Cone {
            goals: (0..self.goals.len()).collect(),
            inputs: (0..self.plan.inputs.len()).collect(),
            registers: (0..self.plan.registers.len()).collect(),
            steps: (0..self.plan.steps.len()).collect(),
        })
    }

    /// All parts' proofs as one.
    pub(super) fn joined(&self, parts: &[(Part, Induction)]) -> Proof {
        let calls = self.plan.steps.iter().filter(|step| step.is_whole()).count();
        let mut out = Proof {
            groups: Groups::none(self),
            facts: Vec::new(),
            calls: (0..calls).collect(),
            rounds: 0,
            asked: 0,
            gates: 0,
        };
        for (part, found) in parts {
            out.groups.add(&found.groups, &part.bits);
            for fact in found.facts.iter().map(|fact| fact.renumbered(&part.registers)) {
                if !out.facts.contains(&fact) {
                    out.facts.push(fact);
                }
            }
            out.rounds = out.rounds.max(found.rounds);
            out.asked += found.asked;
            let Some(round) = &found.round else { continue };
            for (own, first) in round.sweep.calls.iter().enumerate() {
                out.calls[part.calls[own]] = part.calls[*first].min(out.calls[part.calls[own]]);
            }
            out.gates += round.sweep.graph.len();
        }
        out
    }
}

impl Part {
    /// Its rows of the states of the whole.
    pub(super) fn states(&self, whole: &[Vec<u64>]) -> Vec<Vec<u64>> {
        self.bits.iter().chain(&self.free).map(|row| whole[*row].clone()).collect()
    }
}
