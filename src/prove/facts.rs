//! Facts about numbers: what bits alone do not say. One counts up and the other down; one counts in ticks and the other in
//! milliseconds; what does not run stands at zero; a count never passes its preset. And what is never so all at once.

use super::computed::Computed;
use super::cube::Cube;
use super::system::System;
use crate::circuit::{Algebra, Bit, Word, add, equal, less, mul};

/// A register and a value of it.
pub(super) type Is = (usize, i64);

/// Where a fact holds: in all states, or where registers have these values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Guard {
    Always,
    Where(Is),
    Both(Is, Is),
}

impl Guard {
    /// What must be so.
    pub(super) fn all(self) -> impl Iterator<Item = Is> {
        let (a, b) = match self {
            Guard::Always => (None, None),
            Guard::Where(a) => (Some(a), None),
            Guard::Both(a, b) => (Some(a), Some(b)),
        };
        [a, b].into_iter().flatten()
    }

    /// Whether it holds, over the bits of each register.
    pub(super) fn bit(self, g: &mut impl Algebra<Bit = Bit>, system: &System, bits: &[Vec<Bit>]) -> Bit {
        self.all().fold(Bit::TRUE, |holds, (register, at)| {
            let is_so = equal(g, word(system, bits, register), whole(&constant(at, 64)));
            g.and(holds, is_so)
        })
    }
}

/// A register, or the cap if that is smaller: a count that stops at its preset beside one that runs on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct Term {
    pub(super) register: usize,
    /// `i64::MAX` for none.
    pub(super) cap: i64,
}

/// A register, or one bit of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct Held {
    pub(super) register: usize,
    pub(super) bit: Option<u8>,
}

impl Held {
    /// What it is where the register is this.
    pub(super) fn of(self, value: i64) -> i64 {
        self.bit.map_or(value, |at| value >> at & 1)
    }

    fn renumbered(self, to: &[usize]) -> Held {
        Held { register: to[self.register], ..self }
    }

    fn word<'b>(self, system: &System, bits: &'b [Vec<Bit>]) -> Word<'b, Bit> {
        let all = word(system, bits, self.register);
        self.bit.map_or(all, |at| Word {
            bits: &bits[self.register][usize::from(at)..=usize::from(at)],
            signed: false,
            zero: Bit::FALSE,
        })
    }
}

/// What holds. Registers are numbers into the plan; values are counted in their units.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Claim {
    /// `ku * u + kv * v = c`.
    Line { u: Term, ku: i64, v: Term, kv: i64, c: i64 },
    /// `u = c`.
    Constant { u: usize, c: i64 },
    /// `u <= c`.
    AtMost { u: usize, c: i64 },
    /// All of this is never so at once.
    Never(Cube),
    /// Numbers, each so many times, are so much together, or no more than that.
    Sum { terms: Vec<(usize, i64)>, c: i64, is_most: bool },
    /// Two places hold the same.
    Alike(Held, Held),
    /// What is computed of registers alone is the same, or the opposite, in two ways.
    Same { one: Computed, other: Computed, is_opposite: bool },
}

/// A fact about numbers.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Fact {
    pub(super) guard: Guard,
    pub(super) claim: Claim,
}

impl Fact {
    /// Whether it holds of values.
    pub(super) fn holds(&self, value: impl Fn(usize) -> i64) -> bool {
        if self.guard.all().any(|(register, at)| value(register) != at) {
            return true;
        }
        match &self.claim {
            Claim::Line { u, ku, v, kv, c } => {
                let times = |k: i64, t: &Term| i128::from(k) * i128::from(value(t.register).min(t.cap));
                times(*ku, u) + times(*kv, v) == i128::from(*c)
            }
            Claim::Constant { u, c } => value(*u) == *c,
            Claim::AtMost { u, c } => value(*u) <= *c,
            Claim::Never(cube) => !cube.holds(value),
            Claim::Sum { terms, c, is_most } => {
                let sum: i128 = terms.iter().map(|(register, k)| i128::from(*k) * i128::from(value(*register))).sum();
                if *is_most { sum <= i128::from(*c) } else { sum == i128::from(*c) }
            }
            Claim::Alike(one, other) => one.of(value(one.register)) == other.of(value(other.register)),
            Claim::Same { one, other, is_opposite } => one.shows(&value) ^ other.shows(&value) == *is_opposite,
        }
    }

    /// The same of registers that have other numbers.
    pub(super) fn renumbered(&self, to: &[usize]) -> Fact {
        let term = |t: Term| Term { register: to[t.register], ..t };
        let guard = match self.guard {
            Guard::Always => Guard::Always,
            Guard::Where((a, at)) => Guard::Where((to[a], at)),
            Guard::Both((a, at), (b, bt)) => Guard::Both((to[a], at), (to[b], bt)),
        };
        let claim = match &self.claim {
            Claim::Line { u, ku, v, kv, c } => Claim::Line { u: term(*u), ku: *ku, v: term(*v), kv: *kv, c: *c },
            Claim::Constant { u, c } => Claim::Constant { u: to[*u], c: *c },
            Claim::AtMost { u, c } => Claim::AtMost { u: to[*u], c: *c },
            Claim::Never(cube) => Claim::Never(cube.renumbered(to)),
            Claim::Sum { terms, c, is_most } => {
                let terms = terms.iter().map(|(register, k)| (to[*register], *k)).collect();
                Claim::Sum { terms, c: *c, is_most: *is_most }
            }
            Claim::Alike(one, other) => Claim::Alike(one.renumbered(to), other.renumbered(to)),
            Claim::Same { one, other, is_opposite } => {
                Claim::Same { one: one.renumbered(to), other: other.renumbered(to), is_opposite: *is_opposite }
            }
        };
        Fact { guard, claim }
    }

    /// Whether it says in all states what one number is at most, or how two go in step.
    pub(super) fn is_plain(&self) -> bool {
        self.guard == Guard::Always
            && match &self.claim {
                Claim::AtMost { .. } => true,
                Claim::Line { u, v, .. } => [u.cap, v.cap] == [i64::MAX; 2],
                Claim::Constant { .. }
                | Claim::Never(_)
                | Claim::Sum { .. }
                | Claim::Alike(..)
                | Claim::Same { .. } => false,
            }
    }

    /// The bits that are the same where the guard holds, if it says of places that they are alike.
    pub(super) fn same_bits(&self, system: &System) -> Vec<[(usize, u8); 2]> {
        let Claim::Alike(one, other) = self.claim else { return Vec::new() };
        let shape = |held: Held| {
            let place = system.plan.registers[held.register].place;
            held.bit.map_or((place.width, place.signed), |_| (1, false))
        };
        let both = |at: u8| [one, other].map(|held| (held.register, held.bit.unwrap_or(at)));
        if shape(one) == shape(other) { (0..shape(one).0).map(both).collect() } else { Vec::new() }
    }

    pub(super) fn registers(&self) -> impl Iterator<Item = usize> {
        let of_claim = match &self.claim {
            Claim::Line { u, v, .. } => vec![u.register, v.register],
            Claim::Constant { u, .. } | Claim::AtMost { u, .. } => vec![*u],
            Claim::Never(cube) => cube.registers().collect(),
            Claim::Sum { terms, .. } => terms.iter().map(|(register, _)| *register).collect(),
            Claim::Alike(one, other) => vec![one.register, other.register],
            Claim::Same { one, other, .. } => one.registers().chain(other.registers()).collect(),
        };
        of_claim.into_iter().chain(self.guard.all().map(|(register, _)| register))
    }

    /// The fact as a bit, over the bits of each register.
    pub(super) fn bit(&self, g: &mut impl Algebra<Bit = Bit>, system: &System, bits: &[Vec<Bit>]) -> Bit {
        let word = |register: usize| word(system, bits, register);
        let claim = match &self.claim {
            // Nothing is multiplied by what is negative: that would be an adder for each bit.
            Claim::Line { u, ku, v, kv, c } => {
                let (ku, kv, c) = if *ku < 0 { (-ku, -kv, -c) } else { (*ku, *kv, *c) };
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
            Claim::Constant { u, c } => equal(g, word(*u), whole(&constant(*c, 64))),
            Claim::AtMost { u, c } => less(g, whole(&constant(*c, 64)), word(*u)).not(),
            Claim::Never(cube) => cube.bit(g, system, bits).not(),
            Claim::Sum { terms, c, is_most } => {
                // What is taken away on one side is added on the other.
                let mut all = |more: i64, sign: i64| {
                    terms.iter().filter(|(_, k)| k.signum() == sign).fold(constant(more, 64), |sum, (register, k)| {
                        let own = capped(g, word(*register), i64::MAX);
                        let own = times(g, &own, k.abs());
                        plus(g, &sum, &own)
                    })
                };
                let (left, right) = (all((-c).max(0), 1), all((*c).max(0), -1));
                if *is_most {
                    less(g, whole(&right), whole(&left)).not()
                } else {
                    equal(g, whole(&left), whole(&right))
                }
            }
            Claim::Alike(one, other) => equal(g, one.word(system, bits), other.word(system, bits)),
            Claim::Same { one, other, is_opposite } => {
                let (one, other) = (one.bit(g, bits), other.bit(g, bits));
                g.xor(one, other).flip(!is_opposite)
            }
        };
        let applies = self.guard.bit(g, system, bits);
        g.and(applies, claim.not()).not()
    }
}

/// The bits of a register as a number.
pub(super) fn word<'b>(system: &System, bits: &'b [Vec<Bit>], register: usize) -> Word<'b, Bit> {
    Word { bits: &bits[register], signed: system.plan.registers[register].place.signed, zero: Bit::FALSE }
}

pub(super) fn constant(value: i64, width: usize) -> Vec<Bit> {
    (0..width).map(|at| Bit::FALSE.flip(value >> at & 1 == 1)).collect()
}

pub(super) fn whole(bits: &[Bit]) -> Word<'_, Bit> {
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
