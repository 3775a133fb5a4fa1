//! One scan of both versions as a plain graph: nothing is merged but what reads the same, so that nobody has to trust
//! what the prover found on its way.

use super::facts::Fact;
use super::induct::Groups;
use super::part::Proof;
use super::system::System;
use crate::circuit::{self, Algebra, Bit, Graph, Whole, Word};

/// A graph that is only written down.
struct Plain<'c> {
    graph: Graph,
    /// Of each call of an unknown function, the first one with the same operands, as the prover found.
    same: &'c [usize],
    calls: Vec<([Vec<Bit>; 2], Vec<Bit>)>,
}

/// One scan, written down.
pub(super) struct Layout {
    pub(super) graph: Graph,
    /// The bits of the registers, each stored so that it is FALSE at power-up; and, where something is assumed of numbers,
    /// whether that was broken before.
    pub(super) latches: Vec<Bit>,
    /// What is free in every scan: the bits of the inputs, whether power is lost instead of the scan, and what unknown
    /// functions give.
    pub(super) free: Vec<Bit>,
    /// What is stored next.
    pub(super) next: Vec<Bit>,
    /// Of each goal whether it fails.
    pub(super) bad: Vec<Bit>,
    /// What holds of unknown functions: where operands are the same, so is the result. Then what is assumed of what is given.
    pub(super) constraints: Vec<Bit>,
    /// Of each fact whether it fails: before the scan, at power-up, and after it.
    pub(super) fails: Vec<Bit>,
    pub(super) fails_at_power_up: Vec<Bit>,
    pub(super) fails_after: Vec<Bit>,
}

impl Layout {
    /// Lays out a scan. `merged`: bits of a group are one bit, as in a state in which the facts hold.
    pub(super) fn new(system: &System, found: &Proof, merged: bool) -> Layout {
        let plan = &system.plan;
        let mut g = Plain { graph: Graph::new(), same: &found.calls, calls: Vec::new() };
        let mut latches: Vec<Bit> = system.bits.iter().map(|_| g.graph.input()).collect();
        let initial: Vec<bool> = (0..latches.len()).map(|bit| system.initial(bit)).collect();
        let mut now: Vec<Bit> = latches.iter().zip(&initial).map(|(bit, init)| bit.flip(*init)).collect();
        if merged {
            merge(&found.groups, &mut now);
        }
        let mut bits = vec![Bit::FALSE; plan.bits];
        circuit::begin(&mut g, plan, &mut bits);
        for ((register, at), bit) in system.bits.iter().zip(&now) {
            bits[plan.registers[*register].place.at as usize + usize::from(*at)] = *bit;
        }
        let mut free = Vec::new();
        for (place, range, count) in system.given() {
            let own: Vec<Bit> = (0..count).map(|_| g.graph.input()).collect();
            let (at, width) = (place.at as usize, usize::from(place.width));
            circuit::within(&mut g, &own, range, &mut bits[at..at + width]);
            free.extend(own);
        }
        let power = g.graph.input();
        free.push(power);
        circuit::run_all(&mut g, plan, &mut bits);
        for (_, result) in &g.calls {
            free.extend(result);
        }
        let after: Vec<Bit> = system.after(&bits).collect();
        let mut next = Vec::new();
        let mut then = Vec::new();
        for bit in 0..now.len() {
            let lost = if system.is_retained(bit) { now[bit] } else { Bit::FALSE.flip(initial[bit]) };
            let value = g.mux(power, lost, after[bit]);
            next.push(value.flip(initial[bit]));
            then.push(value);
        }
        let mut bad: Vec<Bit> = system.goals.iter().map(|g| g.at.map_or(Bit::TRUE, |at| bits[at].not())).collect();
        let mut constraints = g.constraints();
        constraints.extend(system.assumed.iter().map(|(_, at)| bits[*at]));
        constraints.extend(system.lasting.then(|| power.not()));
        let first: Vec<Bit> = initial.iter().map(|init| Bit::FALSE.flip(*init)).collect();
        let all = [&now, &first, &then].map(|b| fails(&mut g, system, found, b));
        let [mut fails, fails_at_power_up, mut fails_after] = all;
        if system.most.is_some() {
            // What is assumed of numbers is no constraint, which others would have to believe: it is remembered whether it
            // was broken, and nothing is claimed from then on.
            let broken = if merged { Bit::FALSE } else { g.graph.input() };
            let [before, behind] = [&now, &after].map(|bits| system.numbers_within(&mut g, &system.words_of(bits)));
            let good = g.and(broken.not(), before);
            let seen = g.and(good, behind);
            let counts = g.or(power, behind);
            let stays = g.and(good, counts);
            bad.iter_mut().for_each(|bit| *bit = g.and(seen, *bit));
            fails.iter_mut().for_each(|bit| *bit = g.and(broken.not(), *bit));
            fails_after.iter_mut().for_each(|bit| *bit = g.and(stays, *bit));
            if !merged {
                latches.push(broken);
                next.push(stays.not());
            }
        }
        Layout { graph: g.graph, latches, free, next, bad, constraints, fails, fails_at_power_up, fails_after }
    }
}

/// Of each fact whether it fails, of those about bits first.
fn fails(g: &mut Plain<'_>, system: &System, found: &Proof, bits: &[Bit]) -> Vec<Bit> {
    let mut out = Vec::new();
    for (a, b) in found.groups.claims() {
        let other = b.map_or(Bit::FALSE, |b| bits[b.0].flip(b.1));
        out.push(g.xor(bits[a.0].flip(a.1), other));
    }
    let words = system.words_of(bits);
    out.extend(found.facts.iter().map(|fact: &Fact| fact.bit(g, system, &words).not()));
    out
}

fn merge(groups: &Groups, now: &mut [Bit]) {
    for (a, b) in groups.claims() {
        now[a.0] = b.map_or(Bit::FALSE, |b| now[b.0].flip(b.1)).flip(a.1);
    }
}

impl Plain<'_> {
    /// The result of each call that was found to be as an earlier one is its own here, or else the same.
    fn constraints(&mut self) -> Vec<Bit> {
        let mut out = Vec::new();
        for number in 0..self.calls.len() {
            let first = self.same[number];
            if first == number {
                continue;
            }
            let ((a, x), (b, y)) = (self.calls[first].clone(), self.calls[number].clone());
            let mut apart = Bit::FALSE;
            for (a, b) in a.iter().zip(&b) {
                // What is shorter goes on with its last bit.
                let at = |word: &[Bit], n: usize| word.get(n).or(word.last()).copied().unwrap_or(Bit::FALSE);
                for n in 0..a.len().max(b.len()) {
                    let differs = self.xor(at(a, n), at(b, n));
                    apart = self.or(apart, differs);
                }
            }
            for (x, y) in x.iter().zip(&y) {
                let differs = self.xor(*x, *y);
                out.push(self.or(apart, differs.not()));
            }
        }
        out.retain(|bit| *bit != Bit::TRUE);
        out
    }
}

impl Algebra for Plain<'_> {
    type Bit = Bit;

    fn constant(&mut self, value: bool) -> Bit {
        self.graph.constant(value)
    }

    fn is_constant(&self, a: Bit, value: bool) -> bool {
        self.graph.is_constant(a, value)
    }

    fn not(&mut self, a: Bit) -> Bit {
        a.not()
    }

    fn and(&mut self, a: Bit, b: Bit) -> Bit {
        self.graph.and(a, b)
    }

    fn whole(&mut self, f: Whole, fails: bool, a: Word<'_, Bit>, b: Word<'_, Bit>, d: &mut [Bit]) {
        self.graph.whole(f, fails, a, b, d);
        self.calls.push(([a.canonical(), b.canonical()], d.to_vec()));
    }
}
