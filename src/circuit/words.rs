//! Numbers of bits: each step of a plan, over any algebra of bits.

use super::algebra::Algebra;
use super::plan::{Act, Logic, Place, Plan, Step};
use crate::model::IntShape;
use crate::model::functions::Shift;

// What is done for each bit is laid out in line where it stands. (A closure would not always be, and so be compiled for the narrowest
// registers, and be called for each bit.)

/// Goes over some bits of a number: first those that it has, then its last one.
macro_rules! each {
    ($a:expr, $some:expr, |$at:ident, $x:ident| $do:expr) => {{
        let (a, some): (Word<'_, A::Bit>, std::ops::Range<usize>) = ($a, $some);
        let own = some.end.min(a.bits.len()).max(some.start);
        if some.start < own {
            for ($at, &$x) in (some.start..own).zip(&a.bits[some.start..own]) {
                $do;
            }
        }
        let $x = a.last();
        for $at in own..some.end {
            $do;
        }
    }};
}
pub(super) use each;

/// Goes over so many bits of two numbers: first those that both have, then those of the longer one, then their ends. So nothing is
/// asked at each bit.
macro_rules! each_pair {
    ($count:expr, $a:expr, $b:expr, |$at:ident, $x:ident, $y:ident| $do:expr) => {{
        let (count, a, b): (usize, Word<'_, A::Bit>, Word<'_, A::Bit>) = ($count, $a, $b);
        let (of_a, of_b) = (count.min(a.bits.len()), count.min(b.bits.len()));
        let both = of_a.min(of_b);
        for (($at, &$x), &$y) in (0..both).zip(&a.bits[..both]).zip(&b.bits[..both]) {
            $do;
        }
        {
            let $y = b.last();
            for ($at, &$x) in (both..of_a).zip(&a.bits[both..of_a]) {
                $do;
            }
        }
        let $x = a.last();
        for ($at, &$y) in (both..of_b).zip(&b.bits[both..of_b]) {
            $do;
        }
        let $y = b.last();
        for $at in of_a.max(of_b)..count {
            $do;
        }
    }};
}

/// A number in two's complement; beyond its bits go on its sign, or zeros.
#[derive(Clone, Copy)]
pub(crate) struct Word<'a, B> {
    pub(crate) bits: &'a [B],
    pub(crate) signed: bool,
    pub(crate) zero: B,
}

impl Step {
    /// What it may read, and what it writes.
    #[inline(always)]
    pub(super) fn parted<'b, B>(&self, bits: &'b mut [B]) -> (&'b [B], &'b mut [B]) {
        let (before, after) = bits.split_at_mut(self.d.at as usize);
        (before, &mut after[..usize::from(self.d.width)])
    }
}

impl<'a, B> Word<'a, B> {
    /// The number at a place.
    #[inline(always)]
    pub(super) fn at(bits: &'a [B], place: Place, zero: B) -> Word<'a, B> {
        let bits = &bits[place.at as usize..place.at as usize + usize::from(place.width)];
        Word { bits, signed: place.signed, zero }
    }
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

    /// The number that it is, where a bit is TRUE or not as `shows` says.
    pub(crate) fn number(&self, shows: impl Fn(B) -> bool) -> i64 {
        let above = if shows(self.last()) { -1 } else { 0 };
        let each = self.bits.iter().enumerate();
        each.fold(above, |value, (at, bit)| value & !(1 << at) | i64::from(shows(*bit)) << at)
    }

    /// All its bits and the one that goes on for ever, which is not repeated: the same for numbers that are the same.
    pub(crate) fn canonical(&self) -> Vec<B>
    where
        B: PartialEq,
    {
        let mut out: Vec<B> = self.bits.iter().copied().chain([self.last()]).collect();
        while out.len() > 1 && out[out.len() - 1] == out[out.len() - 2] {
            out.pop();
        }
        out
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

/// How steps are done that are no logic of single bits. (A closure would not always be laid out in line, and so be compiled for the
/// narrowest registers.)
pub(super) trait Steps<A: Algebra> {
    /// Does the step of a number.
    fn step(&self, g: &mut A, number: usize, step: &Step, bits: &mut [A::Bit]);
}

/// As they stand.
struct Plainly;

impl<A: Algebra> Steps<A> for Plainly {
    #[inline(always)]
    fn step(&self, g: &mut A, _: usize, step: &Step, bits: &mut [A::Bit]) {
        run(g, step, bits);
    }
}

/// Runs steps in their order.
#[inline(always)]
pub(crate) fn run_all<A: Algebra>(g: &mut A, plan: &Plan, bits: &mut [A::Bit]) {
    run_each(g, plan, bits, &Plainly);
}

/// As [`run_all`], as long as it goes on; false if it was ended before all steps were run.
pub(crate) fn run_while<A: Algebra>(g: &mut A, plan: &Plan, bits: &mut [A::Bit], goes_on: impl Fn(&A) -> bool) -> bool {
    plan.steps.iter().all(|step| {
        let runs = goes_on(g);
        if runs {
            run(g, step, bits);
        }
        runs
    })
}

/// As [`run_all`], with a way of doing what is no logic of single bits.
#[inline(always)]
pub(super) fn run_each<A: Algebra>(g: &mut A, plan: &Plan, bits: &mut [A::Bit], others: &impl Steps<A>) {
    for run in &plan.runs {
        let steps = &plan.steps[run.steps.clone()];
        // Most of a program is BOOL; of one kind many steps stand together.
        macro_rules! bools {
            ($step:ident => $value:expr) => {{
                for $step in steps {
                    bits[$step.d.at as usize] = $value;
                }
            }};
        }
        match run.logic {
            Some(Logic::And) => bools!(s => g.and(bits[s.a.at as usize], bits[s.b.at as usize])),
            Some(Logic::Or) => bools!(s => g.or(bits[s.a.at as usize], bits[s.b.at as usize])),
            Some(Logic::Xor) => bools!(s => g.xor(bits[s.a.at as usize], bits[s.b.at as usize])),
            Some(Logic::Mux) => {
                bools!(s => g.mux(bits[s.c.at as usize], bits[s.a.at as usize], bits[s.b.at as usize]));
            }
            // In one place, as all of it is laid out in line.
            None => {
                for (number, step) in run.steps.clone().zip(steps) {
                    others.step(g, number, step, bits);
                }
            }
        }
    }
}

/// Runs one step.
#[inline(always)]
pub(crate) fn run<A: Algebra>(g: &mut A, step: &Step, bits: &mut [A::Bit]) {
    let zero = g.constant(false);
    let (before, d) = step.parted(bits);
    let word = |place: Place| Word::at(before, place, zero);
    let (a, b) = (word(step.a), word(step.b));
    match step.act {
        Act::And => each_pair!(d.len(), a, b, |at, x, y| d[at] = g.and(x, y)),
        Act::Or => each_pair!(d.len(), a, b, |at, x, y| d[at] = g.or(x, y)),
        Act::Xor => each_pair!(d.len(), a, b, |at, x, y| d[at] = g.xor(x, y)),
        Act::Copy => each!(a, 0..d.len(), |at, x| d[at] = x),
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
            each_pair!(d.len(), a, b, |at, x, y| d[at] = g.mux(c, x, y));
        }
        Act::Min => {
            let c = less(g, a, b);
            each_pair!(d.len(), a, b, |at, x, y| d[at] = g.mux(c, x, y));
        }
        Act::Max => {
            let c = less(g, a, b);
            each_pair!(d.len(), b, a, |at, x, y| d[at] = g.mux(c, x, y));
        }
        Act::Shift(k, s) => shift(g, k, s, a, b, d),
        Act::Whole(f) => g.whole(f, false, a, b, d),
        Act::Fails(f) => g.whole(f, true, a, b, d),
    }
}

#[inline(always)]
pub(crate) fn add<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, carry: A::Bit, d: &mut [A::Bit]) {
    let mut carry = carry;
    each_pair!(d.len(), a, b, |at, x, y| {
        let half = g.xor(x, y);
        d[at] = g.xor(half, carry);
        carry = g.mux(half, carry, x);
    });
}

#[inline(always)]
fn sub<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let mut borrow = g.constant(false);
    each_pair!(d.len(), a, b, |at, x, y| {
        let half = g.xor(x, y);
        d[at] = g.xor(half, borrow);
        borrow = g.mux(half, y, borrow);
    });
}

#[inline(always)]
pub(crate) fn mul<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    d.fill(zero);
    for at in 0..d.len() {
        // The sign goes on for ever, so a negative factor is added at every place.
        if at >= b.width() && !b.signed {
            break;
        }
        let by = b.bit(at);
        if g.is_constant(by, false) {
            continue;
        }
        add_onto(g, a, by, &mut d[at..]);
    }
}

/// Adds a number to what is there, if `by`.
#[inline(always)]
pub(super) fn add_onto<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, by: A::Bit, d: &mut [A::Bit]) {
    let mut carry = g.constant(false);
    each!(a, 0..d.len(), |at, x| {
        let (x, y) = (d[at], g.and(x, by));
        let half = g.xor(x, y);
        d[at] = g.xor(half, carry);
        carry = g.mux(half, carry, x);
    });
}

/// Bits as a number without sign.
fn positive<B>(bits: &[B], zero: B) -> Word<'_, B> {
    Word { bits, signed: false, zero }
}

#[inline(always)]
pub(crate) fn equal<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>) -> A::Bit {
    let width = a.width().max(b.width()) + usize::from(a.signed != b.signed);
    let mut differs = g.constant(false);
    each_pair!(width, a, b, |_at, x, y| {
        let bit = g.xor(x, y);
        differs = g.or(differs, bit);
    });
    g.not(differs)
}

#[inline(always)]
pub(crate) fn less<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>) -> A::Bit {
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
#[inline(always)]
fn below<A: Algebra>(g: &mut A, a: Word<'_, A::Bit>, b: Word<'_, A::Bit>, width: usize) -> A::Bit {
    let mut borrow = g.constant(false);
    each_pair!(width, a, b, |_at, x, y| {
        let half = g.xor(x, y);
        borrow = g.mux(half, y, borrow);
    });
    borrow
}

/// A number from free bits that lies in a range whatever they are.
pub(crate) fn within<A: Algebra>(g: &mut A, free: &[A::Bit], (low, high): (i64, i64), d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let constant =
        |g: &mut A, value: i64| -> Vec<A::Bit> { (0..64).map(|i| g.constant(value >> i & 1 == 1)).collect() };
    let (most, low) = (constant(g, high.wrapping_sub(low)), constant(g, low));
    let (free, most) = (positive(free, zero), positive(&most, zero));
    let above = below(g, most, free, 64);
    let kept: Vec<A::Bit> = (0..64).map(|i| g.mux(above, most.bit(i), free.bit(i))).collect();
    add(g, positive(&kept, zero), positive(&low, zero), zero, d);
}

/// Quotient or remainder, bit by bit from the top.
#[inline(always)]
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
    let mut less = vec![zero; wy + 2];
    let mut result = vec![zero; wx];
    let divisor = positive(&y, zero);
    // As many bits as are less than the divisor for sure need not be looked at one by one.
    let sure = y.iter().rposition(|bit| g.is_constant(*bit, true)).unwrap_or(0).min(wx);
    rest[..sure].copy_from_slice(&x[wx - sure..]);
    for at in (0..wx - sure).rev() {
        rest.rotate_right(1);
        rest[0] = x[at];
        sub(g, positive(&rest, zero), divisor, &mut less);
        let too_small = less[wy + 1];
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
        for bit in &y {
            any = g.or(any, *bit);
        }
        for bit in &mut rest {
            *bit = g.and(*bit, any);
        }
        signed(g, &rest, minus_a, d);
    }
}

/// A number without its sign, and the sign.
#[inline(always)]
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
#[inline(always)]
fn signed<A: Algebra>(g: &mut A, a: &[A::Bit], minus: A::Bit, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let mut carry = minus;
    each!(positive(a, zero), 0..d.len(), |at, x| {
        let flipped = g.xor(x, minus);
        d[at] = g.xor(flipped, carry);
        carry = g.and(flipped, carry);
    });
}

/// Shifts by a number that is not negative, stage by stage.
#[inline(always)]
fn shift<A: Algebra>(g: &mut A, k: Shift, s: IntShape, a: Word<'_, A::Bit>, n: Word<'_, A::Bit>, d: &mut [A::Bit]) {
    let zero = g.constant(false);
    let rotates = matches!(k, Shift::Rol | Shift::Ror);
    // A shift to the right brings down what stands above the width as well.
    let width = if rotates { usize::from(s.bits) } else { 64 };
    let mut now: Vec<A::Bit> = (0..width).map(|i| a.bit(i)).collect();
    let mut next = now.clone();
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
        for i in 0..width {
            let moved = from(i).map_or(zero, |at| now[at]);
            next[i] = g.mux(c, moved, now[i]);
        }
        std::mem::swap(&mut now, &mut next);
    }
    if !rotates {
        let mut too_far = zero;
        for stage in stages..n.width() {
            too_far = g.or(too_far, n.bit(stage));
        }
        let stays = g.not(too_far);
        for bit in &mut now {
            *bit = g.and(*bit, stays);
        }
    }
    // Beyond its width a shape goes on with its sign or with zeros.
    let top = if s.signed { now[usize::from(s.bits) - 1] } else { zero };
    d.iter_mut().enumerate().for_each(|(i, d)| *d = if i < usize::from(s.bits) { now[i] } else { top });
}
