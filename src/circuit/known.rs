//! Steps with a constant for an operand: what its bits are is known beforehand, so that each bit of the other one needs one
//! operation or two in place of four or six. A graph sees that by itself; planes of bits do not.

use super::algebra::Algebra;
use super::plan::{Act, Place, Plan, Step};
use super::words::{self, Steps, Word};

/// Which operand is a constant, and its value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Known {
    Left(i64),
    Right(i64),
}

impl Known {
    /// Of each step of a plan, in their order; none where neither is one.
    pub(super) fn of_all(plan: &Plan) -> Vec<Option<Known>> {
        let value = |place: Place| {
            let bits = plan.constants.get(place.at as usize..place.at as usize + usize::from(place.width))?;
            Some(Word { bits, signed: place.signed, zero: false }.number(|bit| bit))
        };
        let of = |step: &Step| match (value(step.a), value(step.b)) {
            (_, Some(right)) => Some(Known::Right(right)),
            (Some(left), None) => Some(Known::Left(left)),
            (None, None) => None,
        };
        plan.steps.iter().map(of).collect()
    }
}

impl<A: Algebra> Steps<A> for &[Option<Known>] {
    #[inline(always)]
    fn step(&self, g: &mut A, number: usize, step: &Step, bits: &mut [A::Bit]) {
        if !self[number].is_some_and(|known| run(g, known, step, bits)) {
            words::run(g, step, bits);
        }
    }
}

/// As [`words::run`], with an operand that is known; false, and nothing is done, where that is of no use.
#[inline(always)]
fn run<A: Algebra>(g: &mut A, known: Known, step: &Step, bits: &mut [A::Bit]) -> bool {
    let zero = g.constant(false);
    let (before, d) = step.parted(bits);
    let word = |place: Place| Word::at(before, place, zero);
    let (a, b) = (word(step.a), word(step.b));
    match (step.act, known) {
        (Act::Add, Known::Right(value)) => add(g, a, value, d),
        (Act::Add, Known::Left(value)) => add(g, b, value, d),
        (Act::Sub, Known::Right(value)) => add(g, a, value.wrapping_neg(), d),
        (Act::Mul, Known::Right(value @ 0..)) => mul(g, a, value, d),
        (Act::Mul, Known::Left(value @ 0..)) => mul(g, b, value, d),
        (Act::Eq, Known::Right(value)) => d[0] = equal(g, a, value, b),
        (Act::Eq, Known::Left(value)) => d[0] = equal(g, b, value, a),
        (Act::Less, known) => d[0] = less(g, known, a, b),
        (Act::Min, known) => {
            let is_less = less(g, known, a, b);
            choose(g, is_less, known, a, b, d);
        }
        (Act::Max, Known::Left(value)) => {
            let is_less = less(g, known, a, b);
            choose(g, is_less, Known::Right(value), b, a, d);
        }
        (Act::Max, Known::Right(value)) => {
            let is_less = less(g, known, a, b);
            choose(g, is_less, Known::Left(value), b, a, d);
        }
        (Act::Mux, known) => {
            let condition = word(step.c).bit(0);
            choose(g, condition, known, a, b, d);
        }
        (
            Act::And
            | Act::Or
            | Act::Xor
            | Act::Sub
            | Act::Mul
            | Act::Div(_)
            | Act::Mod(_)
            | Act::Copy
            | Act::Below
            | Act::Shift(..)
            | Act::Whole(_)
            | Act::Fails(_),
            _,
        ) => return false,
    }
    true
}

/// Goes over so many bits of a number and of a constant, whose sign goes on for ever.
#[inline(always)]
fn walk<B: Copy>(count: usize, a: Word<'_, B>, value: i64, mut f: impl FnMut(usize, B, bool)) {
    let own = &a.bits[..count.min(a.bits.len())];
    let mut rest = value;
    for (at, x) in own.iter().enumerate() {
        f(at, *x, rest & 1 == 1);
        rest >>= 1;
    }
    let last = a.last();
    for at in own.len()..count {
        f(at, last, rest & 1 == 1);
        rest >>= 1;
    }
}

#[inline(always)]
fn add<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, d: &mut [A::Bit]) {
    let mut carry = g.constant(false);
    walk(d.len(), a, value, |at, x, y| {
        let sum = g.xor(x, carry);
        if y {
            d[at] = g.not(sum);
            carry = g.or(x, carry);
        } else {
            d[at] = sum;
            carry = g.and(x, carry);
        }
    });
}

#[inline(always)]
fn mul<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    d.fill(zero);
    let mut first = true;
    for at in (0..d.len().min(63)).filter(|at| value >> at & 1 == 1) {
        let d = &mut d[at..];
        if std::mem::take(&mut first) {
            walk(d.len(), a, 0, |i, x, _| d[i] = x);
            continue;
        }
        words::add_onto(g, a, d, |_, x| x);
    }
}

#[inline(always)]
fn equal<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, other: Word<'_, A::Bit>) -> A::Bit {
    let width = a.bits.len().max(other.bits.len()) + usize::from(a.signed != other.signed);
    let mut differs = g.constant(false);
    walk(width, a, value, |_, x, y| {
        let apart = if y { g.not(x) } else { x };
        differs = g.or(differs, apart);
    });
    g.not(differs)
}

/// Whether the left is less than the right, as far as lower bits tell, with one more bit of each.
#[inline(always)]
fn left_known<A: Algebra>(g: &mut A, borrow: A::Bit, x: bool, y: A::Bit) -> A::Bit {
    if x { g.and(borrow, y) } else { g.or(borrow, y) }
}

#[inline(always)]
fn right_known<A: Algebra>(g: &mut A, borrow: A::Bit, x: A::Bit, y: bool) -> A::Bit {
    let not = g.not(x);
    if y { g.or(borrow, not) } else { g.and(borrow, not) }
}

#[inline(always)]
fn less<A: Algebra>(g: &mut A, known: Known, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>) -> A::Bit {
    let width = a.bits.len().max(b.bits.len()) + usize::from(a.signed != b.signed);
    let signed = (a.signed || b.signed) && width > 0;
    let below = width - usize::from(signed);
    let mut borrow = g.constant(false);
    // Signs are compared the other way round; beyond its bits a constant has its own.
    match known {
        Known::Left(value) => {
            walk(below, b, value, |_, y, x| borrow = left_known(g, borrow, x, y));
            if signed { right_known(g, borrow, b.bit(below), value >> below.min(63) & 1 == 1) } else { borrow }
        }
        Known::Right(value) => {
            walk(below, a, value, |_, x, y| borrow = right_known(g, borrow, x, y));
            if signed { left_known(g, borrow, value >> below.min(63) & 1 == 1, a.bit(below)) } else { borrow }
        }
    }
}

/// The first if `c`, else the second.
#[inline(always)]
fn choose<A: Algebra>(g: &mut A, c: A::Bit, known: Known, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let not = g.not(c);
    match known {
        Known::Left(value) => {
            walk(d.len(), b, value, |at, y, x| d[at] = if x { g.or(c, y) } else { g.and(not, y) });
        }
        Known::Right(value) => {
            walk(d.len(), a, value, |at, x, y| d[at] = if y { g.or(not, x) } else { g.and(c, x) });
        }
    }
}
