//! Facts about numbers: what bits alone do not say. One counts up and the other down; one counts in ticks and the other in
//! milliseconds; what does not run stands at zero; a count never passes its preset.
//!
//! They are read off states that occur and may be wrong; induction keeps those that every scan keeps.

use super::system::System;
use crate::circuit::{Algebra, Bit, Word, add, equal, less, mul};
use std::collections::{HashMap, HashSet};

/// Where a fact holds: in all states, or where a register has a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Guard {
    Always,
    Where(usize, i64),
}

/// A register, or the cap if that is smaller: a count that stops at its preset beside one that runs on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct Term {
    pub(super) register: usize,
    /// `i64::MAX` for none.
    pub(super) cap: i64,
}

/// What holds. Registers are numbers into the plan; values are counted in their units.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Claim {
    /// `ku * u + kv * v = c`.
    Line { u: Term, ku: i64, v: Term, kv: i64, c: i64 },
    /// `u = c`.
    Constant { u: usize, c: i64 },
    /// `u <= c`.
    AtMost { u: usize, c: i64 },
}

/// A fact about numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct Fact {
    pub(super) guard: Guard,
    pub(super) claim: Claim,
}

/// Facts sought at most.
const MOST: usize = 150;

/// Registers of so many bits or fewer may say where a fact holds.
const GUARD_BITS: u8 = 3;

/// States in which a guard must hold for a fact to be read off them.
const ENOUGH: usize = 6;

impl Fact {
    /// Whether it holds of values.
    pub(super) fn holds(self, value: impl Fn(usize) -> i64) -> bool {
        if let Guard::Where(register, at) = self.guard
            && value(register) != at
        {
            return true;
        }
        match self.claim {
            Claim::Line { u, ku, v, kv, c } => {
                let of = |t: Term| value(t.register).min(t.cap);
                ku.wrapping_mul(of(u)).wrapping_add(kv.wrapping_mul(of(v))) == c
            }
            Claim::Constant { u, c } => value(u) == c,
            Claim::AtMost { u, c } => value(u) <= c,
        }
    }

    /// The same of registers that have other numbers.
    pub(super) fn renumbered(self, to: &[usize]) -> Fact {
        let term = |t: Term| Term { register: to[t.register], ..t };
        let guard = match self.guard {
            Guard::Always => Guard::Always,
            Guard::Where(register, at) => Guard::Where(to[register], at),
        };
        let claim = match self.claim {
            Claim::Line { u, ku, v, kv, c } => Claim::Line { u: term(u), ku, v: term(v), kv, c },
            Claim::Constant { u, c } => Claim::Constant { u: to[u], c },
            Claim::AtMost { u, c } => Claim::AtMost { u: to[u], c },
        };
        Fact { guard, claim }
    }

    fn registers(self) -> impl Iterator<Item = usize> {
        let (a, b) = match self.claim {
            Claim::Line { u, v, .. } => (u.register, Some(v.register)),
            Claim::Constant { u, .. } | Claim::AtMost { u, .. } => (u, None),
        };
        let guard = if let Guard::Where(register, _) = self.guard { Some(register) } else { None };
        [Some(a), b, guard].into_iter().flatten()
    }

    /// The fact as a bit, over the bits of each register.
    pub(super) fn bit(self, g: &mut impl Algebra<Bit = Bit>, system: &System, bits: &[Vec<Bit>]) -> Bit {
        let word = |register: usize| Word {
            bits: &bits[register],
            signed: system.plan.registers[register].place.signed,
            zero: Bit::FALSE,
        };
        let claim = match self.claim {
            // Nothing is multiplied by what is negative: that would be an adder for each bit.
            Claim::Line { u, ku, v, kv, c } => {
                let (ku, kv, c) = if ku < 0 { (-ku, -kv, -c) } else { (ku, kv, c) };
                let (left, right) = (capped(g, word(u.register), u.cap), capped(g, word(v.register), v.cap));
                let (left, right) = (times(g, &left, ku), times(g, &right, kv.abs()));
                match (kv < 0, c) {
                    (true, 0) => equal(g, whole(&left), whole(&right)),
                    (true, 1..) => {
                        let right = plus(g, &right, &constant(c, 64));
                        equal(g, whole(&left), whole(&right))
                    }
                    (true, _) => {
                        let left = plus(g, &left, &constant(-c, 64));
                        equal(g, whole(&left), whole(&right))
                    }
                    (false, _) => {
                        let sum = plus(g, &left, &right);
                        equal(g, whole(&sum), whole(&constant(c, 64)))
                    }
                }
            }
            Claim::Constant { u, c } => equal(g, word(u), whole(&constant(c, 64))),
            Claim::AtMost { u, c } => less(g, whole(&constant(c, 64)), word(u)).not(),
        };
        match self.guard {
            Guard::Always => claim,
            Guard::Where(register, at) => {
                let applies = equal(g, word(register), whole(&constant(at, 64)));
                g.and(applies, claim.not()).not()
            }
        }
    }
}

fn constant(value: i64, width: usize) -> Vec<Bit> {
    (0..width).map(|at| Bit::FALSE.flip(value >> at & 1 == 1)).collect()
}

fn whole(bits: &[Bit]) -> Word<'_, Bit> {
    Word { bits, signed: true, zero: Bit::FALSE }
}

/// A number so many times, as many bits as that needs.
fn times(g: &mut impl Algebra<Bit = Bit>, word: &[Bit], by: i64) -> Vec<Bit> {
    if by == 1 {
        return word.to_vec();
    }
    let more = 64 - by.leading_zeros() as usize;
    let mut out = vec![Bit::FALSE; word.len() + more];
    mul(g, whole(word), whole(&constant(by, more + 1)), &mut out);
    out
}

fn plus(g: &mut impl Algebra<Bit = Bit>, a: &[Bit], b: &[Bit]) -> Vec<Bit> {
    let mut out = vec![Bit::FALSE; a.len().max(b.len()) + 1];
    add(g, whole(a), whole(b), Bit::FALSE, &mut out);
    out
}

/// A number, or the cap if that is smaller.
fn capped(g: &mut impl Algebra<Bit = Bit>, word: Word<'_, Bit>, cap: i64) -> Vec<Bit> {
    let own: Vec<Bit> = (0..=word.bits.len()).map(|at| word.bit(at)).collect();
    if cap == i64::MAX {
        return own;
    }
    let cap = constant(cap, 64);
    let above = less(g, whole(&cap), word);
    own.iter().zip(&cap).map(|(bit, cap)| g.mux(above, *cap, *bit)).collect()
}

/// Values of all registers in the states.
struct Values {
    of: Vec<Vec<i64>>,
    states: usize,
}

impl Values {
    fn new(system: &System, states: &[Vec<u64>]) -> Values {
        let count = states.first().map_or(0, |w| w.len() * 64);
        let mut of = vec![vec![0i64; count]; system.plan.registers.len()];
        for ((register, at), words) in system.bits.iter().zip(states) {
            let place = system.plan.registers[*register].place;
            let weight = if place.signed && *at + 1 == place.width { -1i64 << at } else { 1i64 << at };
            for (state, value) in of[*register].iter_mut().enumerate() {
                if words[state / 64] >> (state % 64) & 1 == 1 {
                    *value |= weight;
                }
            }
        }
        Values { of, states: count }
    }
}

/// Facts that hold in all states that were seen and at power-up, and that loss of power keeps.
///
/// `own` says of each register whether it has a bit of its own, not the same as one of another register.
pub(super) fn seek(system: &System, states: &[Vec<u64>], own: &[bool]) -> Vec<Fact> {
    let values = Values::new(system, states);
    let registers = &system.plan.registers;
    let wide: Vec<usize> = (0..registers.len()).filter(|r| registers[*r].place.width > 1 && own[*r]).collect();
    let mut found: Vec<Fact> = Vec::new();
    let all: Vec<usize> = (0..values.states).collect();
    // Groups of bits that are the same say it already.
    let mut same: HashSet<(usize, usize)> = HashSet::new();
    let terms: Vec<Term> = wide.iter().flat_map(|r| caps(system, &values, *r)).collect();
    for fact in lines(&values, &terms, &all, Guard::Always) {
        if let Claim::Line { u, v, .. } = fact.claim {
            same.insert((u.register, v.register));
        }
        found.push(fact);
    }
    for &u in &wide {
        // What was seen, and what is known of its range: a sum of more would wrap round.
        let seen = values.of[u].iter().copied().max().unwrap_or(0);
        for most in [seen, registers[u].most.max(seen)] {
            let fact = Fact { guard: Guard::Always, claim: Claim::AtMost { u, c: most } };
            if most > 0 && (most as u64 + 1).count_ones() > 1 && found.last() != Some(&fact) {
                found.push(fact);
            }
        }
    }
    for guard in guards(&values, system, own) {
        let Guard::Where(register, at) = guard else { continue };
        let chosen: Vec<usize> = all.iter().copied().filter(|s| values.of[register][*s] == at).collect();
        if chosen.len() < ENOUGH {
            continue;
        }
        // Of a step each bit tells something; of a bit only numbers do, or there would be too many.
        let of_step = registers[register].place.width > 1;
        let told = (0..registers.len()).filter(|u| own[*u] && (of_step || registers[*u].place.width > 1));
        for u in told.filter(|u| *u != register) {
            let c = values.of[u][chosen[0]];
            if chosen.iter().all(|s| values.of[u][*s] == c) {
                found.push(Fact { guard, claim: Claim::Constant { u, c } });
            }
        }
        let others: Vec<Term> = terms.iter().copied().filter(|t| t.register != register).collect();
        found.extend(
            lines(&values, &others, &chosen, guard)
                .into_iter()
                .filter(|f| !matches!(f.claim, Claim::Line { u, v, .. } if same.contains(&(u.register, v.register)))),
        );
        if found.len() > MOST {
            break;
        }
    }
    found.truncate(MOST);
    let initial = |register: usize| registers[register].init;
    // Loss of power takes all of them to where they began, or none.
    let alike = |fact: &Fact| {
        let mut kinds = fact.registers().map(|r| registers[r].retained);
        let first = kinds.next();
        kinds.all(|k| Some(k) == first)
    };
    found.retain(|fact| fact.holds(initial) && alike(fact));
    found
}

/// A register as it is, and up to constants of the program that it passes.
fn caps(system: &System, values: &Values, register: usize) -> Vec<Term> {
    /// Caps of one register at most.
    const MOST: usize = 8;
    let most = values.of[register].iter().copied().max().unwrap_or(0);
    let marks = system.counts.iter().copied().filter(|m| (1..most).contains(m));
    let caps = std::iter::once(i64::MAX).chain(marks.take(MOST));
    caps.map(|cap| Term { register, cap }).collect()
}

/// What may say where a fact holds: bits, and numbers of few values. Of those that are the same in all states one.
fn guards(values: &Values, system: &System, own: &[bool]) -> Vec<Guard> {
    let mut seen: HashSet<Vec<bool>> = HashSet::new();
    let mut out = Vec::new();
    for (register, kept) in system.plan.registers.iter().enumerate() {
        if kept.place.width > GUARD_BITS || !own[register] {
            continue;
        }
        let mut shown: Vec<i64> = values.of[register].clone();
        shown.sort_unstable();
        shown.dedup();
        for at in shown {
            let where_so: Vec<bool> = values.of[register].iter().map(|v| *v == at).collect();
            if seen.insert(where_so) {
                out.push(Guard::Where(register, at));
            }
        }
    }
    out
}

/// Numbers that go in step, or against each other, in the states chosen.
fn lines(values: &Values, terms: &[Term], chosen: &[usize], guard: Guard) -> Vec<Fact> {
    let of = |t: Term, s: usize| values.of[t.register][s].min(t.cap);
    let mut alike: HashMap<Vec<i64>, (Term, i64)> = HashMap::new();
    let mut out = Vec::new();
    for &term in terms {
        let first = of(term, chosen[0]);
        let moves: Vec<i64> = chosen.iter().map(|s| of(term, *s).wrapping_sub(first)).collect();
        let step = moves.iter().fold(0, |g, m| crate::circuit::gcd(g, *m));
        if step == 0 {
            continue;
        }
        let way = if moves.iter().find(|m| **m != 0).is_some_and(|m| *m < 0) { -step } else { step };
        let shape: Vec<i64> = moves.iter().map(|m| m / way).collect();
        match alike.get(&shape) {
            None => {
                alike.insert(shape, (term, way));
            }
            Some((other, _)) if other.register == term.register => {}
            // (u - u0) / a = (v - v0) / b.
            Some((other, by)) => {
                let g = crate::circuit::gcd(*by, way);
                let (ku, kv) = (way / g, -by / g);
                let c = ku.wrapping_mul(of(*other, chosen[0])).wrapping_add(kv.wrapping_mul(first));
                out.push(Fact { guard, claim: Claim::Line { u: *other, ku, v: term, kv, c } });
            }
        }
    }
    out
}
