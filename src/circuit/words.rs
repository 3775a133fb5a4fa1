//! Numbers of bits: each step of a plan, over any algebra of bits.

use super::algebra::Algebra;
use super::plan::{Act, Place, Plan, Step};
use crate::model::IntShape;
use crate::model::functions::Shift;

/// A number in two's complement; beyond its bits go on its sign, or zeros.
#[derive(Clone, Copy)]
pub(crate) struct Word<'a, B> {
    pub(crate) bits: &'a [B],
    pub(crate) signed: bool,
    pub(crate) zero: B,
}

impl<B: Copy> Word<'_, B> {
    #[inline(always)]
    pub(crate) fn bit(&self, at: usize) -> B {
        match self.bits.get(at) {
            Some(bit) => *bit,
            None => self.last(),
        }
    }

    /// The bit that goes on for ever.
    pub(crate) fn last(&self) -> B {
        match self.bits.last() {
            Some(bit) if self.signed => *bit,
            _ => self.zero,
        }
    }

    fn width(&self) -> usize {
        self.bits.len()
    }
}

/// Gives constants their bits.
pub(crate) fn begin<A: Algebra>(algebra: &mut A, plan: &Plan, bits: &mut [A::Bit]) {
    for (bit, value) in bits.iter_mut().zip(&plan.constants) {
        *bit = algebra.constant(*value);
    }
}

/// Runs one step.
#[inline]
pub(crate) fn run<A: Algebra>(g: &mut A, step: &Step, bits: &mut [A::Bit]) {
    let zero = g.constant(false);
    let (before, after) = bits.split_at_mut(step.d.at as usize);
    let word =
        |p: Place| Word { bits: &before[p.at as usize..p.at as usize + p.width as usize], signed: p.signed, zero };
    let (a, b) = (word(step.a), word(step.b));
    let d = &mut after[..step.d.width as usize];
    match step.act {
        Act::And => each(d, |i| g.and(a.bit(i), b.bit(i))),
        Act::Or => each(d, |i| g.or(a.bit(i), b.bit(i))),
        Act::Xor => each(d, |i| g.xor(a.bit(i), b.bit(i))),
        Act::Copy => each(d, |i| a.bit(i)),
        Act::Add => add(g, a, b, zero, d),
        Act::Sub => sub(g, a, b, d),
        Act::Mul => mul(g, a, b, d),
        Act::Div(s) => divide(g, s, a, b, d, true),
        Act::Mod(s) => divide(g, s, a, b, d, false),
        Act::Eq => d[0] = equal(g, a, b),
        Act::Less => d[0] = less(g, a, b),
        Act::Below => d[0] = below(g, a, b, 64),
        Act::Mux => {
            let c = word(step.c).bit(0);
            each(d, |i| g.mux(c, a.bit(i), b.bit(i)));
        }
        Act::Min => {
            let c = less(g, a, b);
            each(d, |i| g.mux(c, a.bit(i), b.bit(i)));
        }
        Act::Max => {
            let c = less(g, a, b);
            each(d, |i| g.mux(c, b.bit(i), a.bit(i)));
        }
        Act::Shift(k, s) => shift(g, k, s, a, b, d),
        Act::Whole(f) => g.whole(f, false, a, b, d),
        Act::Fails(f) => g.whole(f, true, a, b, d),
    }
}

#[inline(always)]
fn each<B>(d: &mut [B], mut f: impl FnMut(usize) -> B) {
    for (i, d) in d.iter_mut().enumerate() {
        *d = f(i);
    }
}

#[inline]
fn add<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, carry: A::Bit, d: &mut [A::Bit]) {
    let mut carry = carry;
    let last = d.len().wrapping_sub(1);
    for (i, d) in d.iter_mut().enumerate() {
        let (x, y) = (a.bit(i), b.bit(i));
        let half = g.xor(x, y);
        *d = g.xor(half, carry);
        if i != last {
            carry = g.mux(half, carry, x);
        }
    }
}

#[inline]
fn sub<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let mut borrow = g.constant(false);
    let last = d.len().wrapping_sub(1);
    for (i, d) in d.iter_mut().enumerate() {
        let (x, y) = (a.bit(i), b.bit(i));
        let half = g.xor(x, y);
        *d = g.xor(half, borrow);
        if i != last {
            borrow = g.mux(half, y, borrow);
        }
    }
}

fn mul<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let mut sum = vec![zero; d.len()];
    for at in 0..d.len() {
        // The sign goes on for ever, so a negative factor is added at every place.
        if at >= b.width() && !b.signed {
            break;
        }
        let by = b.bit(at);
        let part: Vec<A::Bit> = (0..d.len() - at).map(|i| g.and(a.bit(i), by)).collect();
        let rest = sum[at..].to_vec();
        add(g, positive(&rest, zero), positive(&part, zero), zero, &mut sum[at..]);
    }
    d.copy_from_slice(&sum);
}

/// Bits as a number without sign.
fn positive<B>(bits: &[B], zero: B) -> Word<'_, B> {
    Word { bits, signed: false, zero }
}

fn equal<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>) -> A::Bit {
    let width = a.width().max(b.width()) + usize::from(a.signed != b.signed);
    let mut differs = g.constant(false);
    for i in 0..width {
        let bit = g.xor(a.bit(i), b.bit(i));
        differs = g.or(differs, bit);
    }
    g.not(differs)
}

#[inline]
fn less<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>) -> A::Bit {
    let width = a.width().max(b.width()) + usize::from(a.signed != b.signed);
    if !(a.signed || b.signed) {
        return below(g, a, b, width);
    }
    // The signs are compared the other way round.
    let borrow = below(g, a, b, width - 1);
    let (x, y) = (b.bit(width - 1), a.bit(width - 1));
    let half = g.xor(x, y);
    g.mux(half, y, borrow)
}

/// Whether `a` is less than `b`, as so many bits without sign.
#[inline]
fn below<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, width: usize) -> A::Bit {
    let mut borrow = g.constant(false);
    for i in 0..width {
        let (x, y) = (a.bit(i), b.bit(i));
        let half = g.xor(x, y);
        borrow = g.mux(half, y, borrow);
    }
    borrow
}

/// Quotient or remainder, bit by bit from the top.
fn divide<A: Algebra>(
    g: &mut A,
    s: IntShape,
    a: Word<'_, A::Bit>,
    b: Word<'_, A::Bit>,
    d: &mut [A::Bit],
    quotient: bool,
) {
    let zero = g.constant(false);
    let plain = s.is_unsigned_64();
    let (x, minus_a) = magnitude(g, a, plain);
    let (y, minus_b) = magnitude(g, b, plain);
    let (wx, wy) = (x.len(), y.len());
    let mut rest = vec![zero; wy + 1];
    let mut result = vec![zero; wx];
    let divisor = positive(&y, zero);
    for at in (0..wx).rev() {
        rest.rotate_right(1);
        rest[0] = x[at];
        let too_small = below(g, positive(&rest, zero), divisor, wy + 1);
        let mut less = vec![zero; wy + 1];
        sub(g, positive(&rest, zero), divisor, &mut less);
        for (r, l) in rest.iter_mut().zip(&less) {
            *r = g.mux(too_small, *r, *l);
        }
        result[at] = g.not(too_small);
    }
    if quotient {
        let minus = g.xor(minus_a, minus_b);
        signed(g, &result, minus, d);
    } else {
        // The remainder by 0 is 0.
        let mut any = zero;
        y.iter().for_each(|bit| any = g.or(any, *bit));
        rest.iter_mut().for_each(|bit| *bit = g.and(*bit, any));
        signed(g, &rest, minus_a, d);
    }
}

/// A number without its sign, and the sign.
fn magnitude<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, plain: bool) -> (Vec<A::Bit>, A::Bit) {
    let zero = g.constant(false);
    if plain {
        let width = if a.signed { 64 } else { a.width() };
        return ((0..width).map(|i| a.bit(i)).collect(), zero);
    }
    if !a.signed {
        return (a.bits.to_vec(), zero);
    }
    let minus = a.last();
    let mut out = vec![zero; a.width()];
    signed(g, a.bits, minus, &mut out);
    (out, minus)
}

/// The number, or its negative if `minus`.
fn signed<A: Algebra>(g: &mut A, a: &[A::Bit], minus: A::Bit, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let mut carry = minus;
    for (i, d) in d.iter_mut().enumerate() {
        let bit = a.get(i).copied().unwrap_or(zero);
        let flipped = g.xor(bit, minus);
        *d = g.xor(flipped, carry);
        carry = g.and(flipped, carry);
    }
}

/// Shifts by a number that is not negative, stage by stage.
fn shift<A: Algebra>(g: &mut A, k: Shift, s: IntShape, a: Word<'_, A::Bit>, n: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let rotates = matches!(k, Shift::Rol | Shift::Ror);
    // A shift to the right brings down what stands above the width as well.
    let width = if rotates { usize::from(s.bits) } else { 64 };
    let mut now: Vec<A::Bit> = (0..width).map(|i| a.bit(i)).collect();
    let stages = width.trailing_zeros() as usize;
    for stage in 0..stages {
        let by = 1usize << stage;
        let c = n.bit(stage);
        let from = |i: usize| match k {
            Shift::Shl => i.checked_sub(by),
            Shift::Shr => Some(i + by).filter(|at| *at < width),
            Shift::Rol => Some((i + width - by) % width),
            Shift::Ror => Some((i + by) % width),
        };
        let next: Vec<A::Bit> = (0..width).map(|i| g.mux(c, from(i).map_or(zero, |at| now[at]), now[i])).collect();
        now = next;
    }
    if !rotates {
        let mut too_far = zero;
        for stage in stages..n.width() {
            too_far = g.or(too_far, n.bit(stage));
        }
        let stays = g.not(too_far);
        now.iter_mut().for_each(|bit| *bit = g.and(*bit, stays));
    }
    // Beyond its width a shape goes on with its sign or with zeros.
    let top = if s.signed { now[usize::from(s.bits) - 1] } else { zero };
    each(d, |i| if i < usize::from(s.bits) { now[i] } else { top });
}
