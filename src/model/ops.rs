//! Each operator once: its word, how tightly it binds, its type rule and its effect.
//!
//! A value is a 64-bit slot: integers, bit strings and BOOL as numbers of their [`IntShape`], TIME in
//! nanoseconds, REAL and LREAL as the bits of an `f64` (a REAL is rounded to `f32` after every operation, which
//! for these operations gives the same as computing in `f32`).

use super::{Elem, Family, IntShape};
use serde::Serialize;
use std::fmt;

/// An operator with one operand.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum UnaryOp {
    /// `-`
    Negate,
    /// `NOT`
    Not,
}

/// An operator with two operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum BinaryOp {
    Or,
    Xor,
    And,
    Eq,
    Ne,
    Lt,
    Le,
    Gt,
    Ge,
    Add,
    Sub,
    Mul,
    Div,
    Mod,
    Power,
}

/// What stops a scan.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, schemars::JsonSchema)]
pub enum FaultKind {
    /// `x / 0` on integers or TIME.
    DivisionByZero,
    /// An array index outside its bounds.
    Index,
    /// A value outside a subrange, a selection or the type it is converted to.
    OutOfRange,
    /// More loop rounds in one scan than the limit.
    LoopLimit,
}

impl fmt::Display for FaultKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            FaultKind::DivisionByZero => "division by zero",
            FaultKind::Index => "index out of bounds",
            FaultKind::OutOfRange => "value out of range",
            FaultKind::LoopLimit => "loop limit reached",
        })
    }
}

impl BinaryOp {
    /// Every operator.
    pub const ALL: [BinaryOp; 15] = [
        BinaryOp::Or,
        BinaryOp::Xor,
        BinaryOp::And,
        BinaryOp::Eq,
        BinaryOp::Ne,
        BinaryOp::Lt,
        BinaryOp::Le,
        BinaryOp::Gt,
        BinaryOp::Ge,
        BinaryOp::Add,
        BinaryOp::Sub,
        BinaryOp::Mul,
        BinaryOp::Div,
        BinaryOp::Mod,
        BinaryOp::Power,
    ];

    /// As written in structured text.
    #[must_use]
    pub const fn symbol(self) -> &'static str {
        match self {
            BinaryOp::Or => "OR",
            BinaryOp::Xor => "XOR",
            BinaryOp::And => "AND",
            BinaryOp::Eq => "=",
            BinaryOp::Ne => "<>",
            BinaryOp::Lt => "<",
            BinaryOp::Le => "<=",
            BinaryOp::Gt => ">",
            BinaryOp::Ge => ">=",
            BinaryOp::Add => "+",
            BinaryOp::Sub => "-",
            BinaryOp::Mul => "*",
            BinaryOp::Div => "/",
            BinaryOp::Mod => "MOD",
            BinaryOp::Power => "**",
        }
    }

    /// The function of the same effect; also the word of instruction list (which has no EXPT operator).
    #[must_use]
    pub const fn function(self) -> &'static str {
        match self {
            BinaryOp::Or => "OR",
            BinaryOp::Xor => "XOR",
            BinaryOp::And => "AND",
            BinaryOp::Eq => "EQ",
            BinaryOp::Ne => "NE",
            BinaryOp::Lt => "LT",
            BinaryOp::Le => "LE",
            BinaryOp::Gt => "GT",
            BinaryOp::Ge => "GE",
            BinaryOp::Add => "ADD",
            BinaryOp::Sub => "SUB",
            BinaryOp::Mul => "MUL",
            BinaryOp::Div => "DIV",
            BinaryOp::Mod => "MOD",
            BinaryOp::Power => "EXPT",
        }
    }

    /// How tightly it binds, from 1 (OR) to 7 (`**`); unary operators stand at 8.
    #[must_use]
    pub const fn binding(self) -> u8 {
        match self {
            BinaryOp::Or => 1,
            BinaryOp::Xor => 2,
            BinaryOp::And => 3,
            BinaryOp::Eq | BinaryOp::Ne => 4,
            BinaryOp::Lt | BinaryOp::Le | BinaryOp::Gt | BinaryOp::Ge => 5,
            BinaryOp::Add | BinaryOp::Sub => 6,
            BinaryOp::Mul | BinaryOp::Div | BinaryOp::Mod => 7,
            BinaryOp::Power => 8,
        }
    }

    /// `=` to `>=`.
    #[must_use]
    pub const fn is_comparison(self) -> bool {
        matches!(self, BinaryOp::Eq | BinaryOp::Ne | BinaryOp::Lt | BinaryOp::Le | BinaryOp::Gt | BinaryOp::Ge)
    }

    /// Whether a comparison is TRUE of two values in that order. What is no comparison is never TRUE.
    #[must_use]
    pub const fn holds(self, order: std::cmp::Ordering) -> bool {
        match self {
            BinaryOp::Eq => order.is_eq(),
            BinaryOp::Ne => order.is_ne(),
            BinaryOp::Lt => order.is_lt(),
            BinaryOp::Le => order.is_le(),
            BinaryOp::Gt => order.is_gt(),
            BinaryOp::Ge => order.is_ge(),
            BinaryOp::Or
            | BinaryOp::Xor
            | BinaryOp::And
            | BinaryOp::Add
            | BinaryOp::Sub
            | BinaryOp::Mul
            | BinaryOp::Div
            | BinaryOp::Mod
            | BinaryOp::Power => false,
        }
    }

    /// AND, OR and XOR.
    #[must_use]
    pub const fn is_logic(self) -> bool {
        matches!(self, BinaryOp::And | BinaryOp::Or | BinaryOp::Xor)
    }

    /// The comparison that is TRUE exactly where this one is FALSE (numbers that are not NaN).
    #[must_use]
    pub const fn inverse(self) -> Option<BinaryOp> {
        Some(match self {
            BinaryOp::Eq => BinaryOp::Ne,
            BinaryOp::Ne => BinaryOp::Eq,
            BinaryOp::Lt => BinaryOp::Ge,
            BinaryOp::Ge => BinaryOp::Lt,
            BinaryOp::Gt => BinaryOp::Le,
            BinaryOp::Le => BinaryOp::Gt,
            BinaryOp::Or
            | BinaryOp::Xor
            | BinaryOp::And
            | BinaryOp::Add
            | BinaryOp::Sub
            | BinaryOp::Mul
            | BinaryOp::Div
            | BinaryOp::Mod
            | BinaryOp::Power => return None,
        })
    }

    /// The comparisons that one is mistaken for, the likeliest first: with or without equality; equal, and at least or at most.
    #[must_use]
    pub(crate) const fn mistaken_for(self) -> &'static [BinaryOp] {
        match self {
            BinaryOp::Eq => &[BinaryOp::Ge, BinaryOp::Le],
            BinaryOp::Gt => &[BinaryOp::Ge],
            BinaryOp::Ge => &[BinaryOp::Gt],
            BinaryOp::Lt => &[BinaryOp::Le],
            BinaryOp::Le => &[BinaryOp::Lt],
            BinaryOp::Ne
            | BinaryOp::Or
            | BinaryOp::Xor
            | BinaryOp::And
            | BinaryOp::Add
            | BinaryOp::Sub
            | BinaryOp::Mul
            | BinaryOp::Div
            | BinaryOp::Mod
            | BinaryOp::Power => &[],
        }
    }

    /// The types both operands are brought to, and the type of the result; `None` if the operator does not take
    /// such operands.
    #[must_use]
    pub fn typing(self, left: Elem, right: Elem) -> Option<Typing> {
        use BinaryOp::*;
        use Family::{Int, Real, Time};
        let same = |result: Option<Elem>| {
            let joined = left.join(right)?;
            Some(Typing { left: joined, right: joined, result: result.unwrap_or(joined) })
        };
        let ok = |test: fn(Elem) -> bool| test(left) && test(right);
        match (self, left.family(), right.family()) {
            (And | Or | Xor, ..) => same(None).filter(|_| ok(Elem::is_bits)),
            (Eq | Ne | Lt | Le | Gt | Ge, ..) => same(Some(Elem::Bool)),
            (Add | Sub, Time, Time) => same(None),
            (Mul | Div, Time, Int) if right != Elem::Ulint => Some(Typing { left, right: Elem::Lint, result: left }),
            (Mul | Div, Time, Real) => Some(Typing { left, right: Elem::Lreal, result: left }),
            (Add | Sub | Mul | Div, ..) => same(None).filter(|_| ok(Elem::is_number)),
            (Mod, ..) => same(None).filter(|_| ok(Elem::is_integer)),
            (Power, Real, Int | Real) if !matches!(right, Elem::Lint | Elem::Ulint) => {
                Some(Typing { left: Elem::Lreal, right: Elem::Lreal, result: left })
            }
            (Power, ..) => None,
        }
    }
}

/// What an operator makes of the types of its operands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Typing {
    /// What the left operand is widened to.
    pub left: Elem,
    /// What the right operand is widened to.
    pub right: Elem,
    /// The type of the value.
    pub result: Elem,
}

/// Integer and TIME addition.
#[inline]
#[must_use]
pub fn add(shape: IntShape, a: i64, b: i64) -> i64 {
    shape.wrap(a.wrapping_add(b))
}

/// Integer and TIME subtraction.
#[inline]
#[must_use]
pub(crate) fn sub(shape: IntShape, a: i64, b: i64) -> i64 {
    shape.wrap(a.wrapping_sub(b))
}

/// Integer multiplication, and TIME by an integer.
#[inline]
#[must_use]
pub(crate) fn mul(shape: IntShape, a: i64, b: i64) -> i64 {
    shape.wrap(a.wrapping_mul(b))
}

/// Integer division, truncating towards zero; the most negative number by -1 wraps to itself.
///
/// # Errors
/// [`FaultKind::DivisionByZero`].
#[inline]
pub(crate) fn div(shape: IntShape, a: i64, b: i64) -> Result<i64, FaultKind> {
    if b == 0 {
        return Err(FaultKind::DivisionByZero);
    }
    if shape.is_unsigned_64() {
        return Ok(((a as u64) / (b as u64)) as i64);
    }
    Ok(shape.wrap(a.wrapping_div(b)))
}

/// Remainder with the sign of `a`; `x MOD 0` is 0.
#[inline]
#[must_use]
pub(crate) fn modulo(shape: IntShape, a: i64, b: i64) -> i64 {
    if b == 0 {
        0
    } else if shape.is_unsigned_64() {
        ((a as u64) % (b as u64)) as i64
    } else {
        a.wrapping_rem(b)
    }
}

/// `a < b` for a shape.
#[inline]
#[must_use]
pub fn less(shape: IntShape, a: i64, b: i64) -> bool {
    if shape.is_unsigned_64() { (a as u64) < (b as u64) } else { a < b }
}

/// The width of a real number (IEC 60559): REAL is `binary32`, LREAL and everything that is worked out on the way `binary64`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Precision {
    /// REAL.
    Single,
    /// LREAL.
    Double,
}

impl Precision {
    /// Of numbers of a type.
    #[must_use]
    pub fn of(elem: Elem) -> Precision {
        if elem == Elem::Real { Precision::Single } else { Precision::Double }
    }
}

/// The real operations; the result is rounded to the precision.
#[inline]
#[must_use]
pub fn real(op: BinaryOp, precision: Precision, a: i64, b: i64) -> i64 {
    let (x, y) = (f64::from_bits(a as u64), f64::from_bits(b as u64));
    let value = match op {
        BinaryOp::Add => x + y,
        BinaryOp::Sub => x - y,
        BinaryOp::Mul => x * y,
        BinaryOp::Div => x / y,
        BinaryOp::Power => libm::pow(x, y),
        BinaryOp::Eq => return i64::from(x == y),
        BinaryOp::Ne => return i64::from(x != y),
        BinaryOp::Lt => return i64::from(x < y),
        BinaryOp::Le => return i64::from(x <= y),
        BinaryOp::Gt => return i64::from(x > y),
        BinaryOp::Ge => return i64::from(x >= y),
        BinaryOp::And | BinaryOp::Or | BinaryOp::Xor | BinaryOp::Mod => f64::NAN,
    };
    round(precision, value).to_bits() as i64
}

/// Rounds to the precision. What is not a number is always the same one, whatever it came from: processors differ in
/// its sign and its other bits, and a program must not.
#[inline]
#[must_use]
pub fn round(precision: Precision, value: f64) -> f64 {
    match (value.is_nan(), precision) {
        (true, _) => f64::NAN,
        (false, Precision::Single) => f64::from(value as f32),
        (false, Precision::Double) => value,
    }
}

/// TIME multiplied or divided by a real; halves round to even.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if the result is beyond 64 bits of nanoseconds or not a number.
pub(crate) fn scale_time(op: BinaryOp, time: i64, factor: i64) -> Result<i64, FaultKind> {
    let factor = f64::from_bits(factor as u64);
    let value = if op == BinaryOp::Mul { time as f64 * factor } else { time as f64 / factor };
    let value = libm::rint(value);
    // 2^63 is a double, i64::MAX is not.
    let limit = 9_223_372_036_854_775_808.0;
    if value >= -limit && value < limit { Ok(value as i64) } else { Err(FaultKind::OutOfRange) }
}

/// The effect of an operator on operands of the types its [`Typing`] names.
///
/// # Errors
/// The fault it raises, if any.
pub fn apply(op: BinaryOp, typing: Typing, a: i64, b: i64) -> Result<i64, FaultKind> {
    if typing.left.is_time() && typing.right == Elem::Lreal {
        return scale_time(op, a, b);
    }
    let Some(shape) = typing.left.shape() else {
        return Ok(real(op, Precision::of(typing.result), a, b));
    };
    Ok(match op {
        BinaryOp::And => a & b,
        BinaryOp::Or => a | b,
        BinaryOp::Xor => a ^ b,
        BinaryOp::Add => add(shape, a, b),
        BinaryOp::Sub => sub(shape, a, b),
        BinaryOp::Mul => mul(shape, a, b),
        BinaryOp::Div => return div(shape, a, b),
        BinaryOp::Mod => modulo(shape, a, b),
        BinaryOp::Eq => i64::from(a == b),
        BinaryOp::Ne => i64::from(a != b),
        BinaryOp::Lt => i64::from(less(shape, a, b)),
        BinaryOp::Ge => i64::from(!less(shape, a, b)),
        BinaryOp::Gt => i64::from(less(shape, b, a)),
        BinaryOp::Le => i64::from(!less(shape, b, a)),
        BinaryOp::Power => 0,
    })
}

/// `-x`, wrapping.
#[must_use]
pub(crate) fn negate(elem: Elem, a: i64) -> i64 {
    match elem.shape() {
        Some(shape) => shape.wrap(a.wrapping_neg()),
        None => round(Precision::Double, -f64::from_bits(a as u64)).to_bits() as i64,
    }
}

/// `NOT x` within the width.
#[inline]
#[must_use]
pub fn not(shape: IntShape, a: i64) -> i64 {
    shape.wrap(!a)
}

/// The greatest number that divides both; `gcd(0, x)` is `x` without its sign.
pub(crate) fn gcd(a: i64, b: i64) -> i64 {
    let (mut a, mut b) = (a.unsigned_abs(), b.unsigned_abs());
    while b != 0 {
        (a, b) = (b, a % b);
    }
    a.min(i64::MAX as u64) as i64
}
