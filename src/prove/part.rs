//! Parts of a system: some of the goals with all that has to do with them, to be proved by themselves and side by side.
//!
//! What parts have in common, such as whether a scan is the first, is in each of them. A part is a proof of its own, so
//! all of them together are one.

use super::facts::Fact;
use super::induct::{Groups, Induction};
use super::system::{Goal, System};
use crate::circuit::{Act, Place, Plan};
use std::collections::BTreeSet;
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

/// What gives a bit of a plan.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Giver {
    Given,
    Input(usize),
    Register(usize),
    Step(usize),
}

/// Who gives which bits.
struct Givers<'p> {
    plan: &'p Plan,
    of: Vec<Giver>,
}

impl Givers<'_> {
    fn new(plan: &Plan) -> Givers<'_> {
        let mut of = vec![Giver::Given; plan.bits];
        let mut put = |place: Place, giver: Giver| {
            of[place.at as usize..place.at as usize + usize::from(place.width)].fill(giver);
        };
        plan.inputs.iter().enumerate().for_each(|(n, (_, place))| put(*place, Giver::Input(n)));
        plan.registers.iter().enumerate().for_each(|(n, kept)| put(kept.place, Giver::Register(n)));
        plan.steps.iter().enumerate().for_each(|(n, step)| put(step.d, Giver::Step(n)));
        Givers { plan, of }
    }

    /// Adds to `seen` all that has to do with a bit, in this scan or a later one.
    fn follow(&self, at: usize, seen: &mut BTreeSet<Giver>) {
        let mut list = vec![self.of[at]];
        while let Some(giver) = list.pop() {
            if giver == Giver::Given || !seen.insert(giver) {
                continue;
            }
            let mut read = |place: Place| {
                if place.width > 0 {
                    list.push(self.of[place.at as usize]);
                }
            };
            match giver {
                Giver::Register(n) => read(self.plan.registers[n].next),
                Giver::Step(n) => {
                    let step = &self.plan.steps[n];
                    [step.a, step.b, step.c].into_iter().for_each(&mut read);
                }
                Giver::Given | Giver::Input(_) => {}
            }
        }
    }
}

impl System {
    /// The parts, as many as pays.
    pub(super) fn parts(&self) -> Vec<Part> {
        let givers = Givers::new(&self.plan);
        let width = |giver: &Giver| {
            if let Giver::Register(n) = giver { usize::from(self.plan.registers[*n].place.width) } else { 0 }
        };
        let mut out: Vec<(Vec<Goal>, BTreeSet<Giver>)> = Vec::new();
        let (mut total, mut followed) = (0, 0);
        for goal in &self.goals {
            let mut seen = BTreeSet::new();
            if let Some(at) = goal.at {
                givers.follow(at, &mut seen);
            }
            followed += seen.len();
            match out.last_mut().filter(|(_, all)| all.iter().map(width).sum::<usize>() < ENOUGH) {
                Some((goals, all)) => {
                    goals.push(*goal);
                    all.extend(seen);
                }
                None => out.push((vec![*goal], seen)),
            }
            if followed > 4 * (self.plan.steps.len() + self.bits.len()) {
                total = usize::MAX;
                break;
            }
        }
        if total == 0 {
            total = out.iter().flat_map(|(_, all)| all.iter().map(width)).sum();
        }
        // Goals that all have to do with the same are one part.
        if total > self.bits.len() * 3 / 2 {
            let mut all = BTreeSet::new();
            self.goals.iter().filter_map(|g| g.at).for_each(|at| givers.follow(at, &mut all));
            out = vec![(self.goals.clone(), all)];
        }
        out.into_iter().map(|(goals, all)| self.part(goals, &all)).collect()
    }

    fn part(&self, goals: Vec<Goal>, all: &BTreeSet<Giver>) -> Part {
        let pick = |f: fn(&Giver) -> Option<usize>| all.iter().filter_map(f).collect::<Vec<usize>>();
        let inputs = pick(|g| if let Giver::Input(n) = g { Some(*n) } else { None });
        let registers = pick(|g| if let Giver::Register(n) = g { Some(*n) } else { None });
        let steps = pick(|g| if let Giver::Step(n) = g { Some(*n) } else { None });
        let asked: Vec<usize> = goals.iter().filter_map(|goal| goal.at).collect();
        let (plan, moved) = self.plan.piece([&inputs, &registers, &steps], &asked);
        let at = |goal: &Goal| goal.at.and_then(|at| moved.bit(at as u32)).map(|at| at as usize);
        let goals = goals.iter().map(|goal| Goal { at: at(goal), ..*goal }).collect();
        let mut bits = Vec::new();
        let mut first = vec![0; self.plan.registers.len()];
        for (number, (register, at)) in self.bits.iter().enumerate().rev() {
            if *at == 0 {
                first[*register] = number;
            }
        }
        for register in &registers {
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
            if matches!(step.act, Act::Whole(_) | Act::Fails(_)) {
                if steps.binary_search(&number).is_ok() {
                    calls.push(call);
                }
                call += 1;
            }
        }
        let system = self.only(Arc::new(plan), goals, &inputs, &registers);
        Part { system, registers, bits, free, calls }
    }

    /// All of it as one part.
    #[cfg(test)]
    pub(super) fn all(&self) -> Part {
        let givers = Givers::new(&self.plan);
        let mut all = BTreeSet::new();
        self.goals.iter().filter_map(|g| g.at).for_each(|at| givers.follow(at, &mut all));
        // What no goal has to do with is there as well, so that numbers are those of the whole.
        all.extend((0..self.plan.registers.len()).map(Giver::Register));
        all.extend((0..self.plan.inputs.len()).map(Giver::Input));
        all.extend((0..self.plan.steps.len()).map(Giver::Step));
        self.part(self.goals.clone(), &all)
    }

    /// All parts' proofs as one.
    pub(super) fn joined(&self, parts: &[(Part, Induction)]) -> Proof {
        let is_call = |act: &Act| matches!(act, Act::Whole(_) | Act::Fails(_));
        let calls = self.plan.steps.iter().filter(|s| is_call(&s.act)).count();
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
            for (own, first) in found.round.sweep.calls.iter().enumerate() {
                out.calls[part.calls[own]] = part.calls[*first].min(out.calls[part.calls[own]]);
            }
            out.rounds = out.rounds.max(found.rounds);
            out.asked += found.asked;
            out.gates += found.round.sweep.graph.len();
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
