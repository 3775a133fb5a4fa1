//! Steps with a constant for an operand: what its bits are is known beforehand, so that each bit of the other one needs one
//! operation or two in place of four or six. A graph sees that by itself; planes of bits do not.

use super::algebra::Algebra;
use super::plan::{Act, Place, Plan, Step};
use super::words::{self, Steps, Word, each};

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
        let is_done = match self[number] {
            Some(known) => run(g, known, step, bits),
            None => false,
        };
        if !is_done {
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
        (
            Act::And
            | Act::Or
            | Act::Xor
            | Act::Sub
            | Act::Mul
            | Act::Div(_)
            | Act::Mod(_)
            | Act::Copy
            | Act::Less
            | Act::Below
            | Act::Mux
            | Act::Min
            | Act::Max
            | Act::Shift(..)
            | Act::Whole(_)
            | Act::Fails(_),
            _,
        ) => return false,
    }
    true
}

/// Goes over so many bits of a number and of a constant, whose sign goes on for ever: `$one` is done where the constant has a one, `$zero`
/// where it has none. Such bits mostly stand together, so nothing is asked at each.
macro_rules! walk {
    ($count:expr, $a:expr, $value:expr, |$at:ident, $x:ident| 1 => $one:expr, 0 => $zero:expr) => {{
        let (count, a): (usize, Word<'_, A::Bit>) = ($count, $a);
        let (mut begin, mut rest): (usize, i64) = (0, $value);
        while begin < count {
            let is_one = rest & 1 == 1;
            let alike = if is_one { rest.trailing_ones() } else { rest.trailing_zeros() };
            // What is shifted out was seen; behind the last bit goes on the sign.
            rest >>= alike.min(63);
            let goes_on = rest == if is_one { -1 } else { 0 };
            let end = if goes_on { count } else { count.min(begin + alike as usize) };
            if is_one {
                each!(a, begin..end, |$at, $x| $one);
            } else {
                each!(a, begin..end, |$at, $x| $zero);
            }
            begin = end;
        }
    }};
}

#[inline(always)]
fn add<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, d: &mut [A::Bit]) {
    let mut carry = g.constant(false);
    walk!(d.len(), a, value, |at, x|
        1 => {
            let sum = g.xor(x, carry);
            d[at] = g.not(sum);
            carry = g.or(x, carry);
        },
        0 => {
            d[at] = g.xor(x, carry);
            carry = g.and(x, carry);
        }
    );
}

/// The number once for each one of the constant, moved up to it.
#[inline(always)]
fn mul<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, d: &mut [A::Bit]) {
    let (zero, ones) = (g.constant(false), g.constant(true));
    let first = d.len().min(value.trailing_zeros() as usize);
    d[..first].fill(zero);
    let mut places = (first + 1..d.len().min(63)).filter(|at| value >> at & 1 == 1).peekable();
    // The first two are added at once; a number that is moved by all its bits has but its sign there.
    if let Some(second) = places.next_if(|second| second - first < a.bits.len()) {
        let (alone, both) = d[first..].split_at_mut(second - first);
        alone.copy_from_slice(&a.bits[..second - first]);
        words::add(g, Word { bits: &a.bits[second - first..], ..a }, a, zero, both);
    } else {
        let moved = &mut d[first..];
        each!(a, 0..moved.len(), |at, x| moved[at] = x);
    }
    for at in places {
        words::add_onto(g, a, ones, &mut d[at..]);
    }
}

#[inline(always)]
fn equal<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, value: i64, other: Word<'_, A::Bit>) -> A::Bit {
    let width = a.bits.len().max(other.bits.len()) + usize::from(a.signed != other.signed);
    let mut differs = g.constant(false);
    walk!(width, a, value, |_at, x|
        1 => {
            let apart = g.not(x);
            differs = g.or(differs, apart);
        },
        0 => differs = g.or(differs, x)
    );
    g.not(differs)
}
