//! What each standard function gives.

use super::{RealFunction, Shift};
use crate::model::ops::{self, FaultKind};
use crate::model::{Elem, Family, IntShape};

/// The value of a function of one real number.
#[must_use]
pub fn real(function: RealFunction, x: f64) -> f64 {
    match function {
        RealFunction::Sqrt => libm::sqrt(x),
        RealFunction::Ln => libm::log(x),
        RealFunction::Log => libm::log10(x),
        RealFunction::Exp => libm::exp(x),
        RealFunction::Sin => libm::sin(x),
        RealFunction::Cos => libm::cos(x),
        RealFunction::Tan => libm::tan(x),
        RealFunction::Asin => libm::asin(x),
        RealFunction::Acos => libm::acos(x),
        RealFunction::Atan => libm::atan(x),
    }
}

/// Shifts or rotates within the width. Shifting by the width or more gives 0.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if `n` is negative.
pub fn shift(shift: Shift, shape: IntShape, a: i64, n: i64) -> Result<i64, FaultKind> {
    if n < 0 {
        return Err(FaultKind::OutOfRange);
    }
    let bits = i64::from(shape.bits);
    let a = a as u64;
    let left = |k: i64| if k >= 64 { 0 } else { a << k };
    let right = |k: i64| if k >= 64 { 0 } else { a >> k };
    let value = match shift {
        Shift::Shl => left(n),
        Shift::Shr => right(n),
        Shift::Rol => left(n % bits) | right(bits - n % bits),
        Shift::Ror => right(n % bits) | left(bits - n % bits),
    };
    Ok(shape.wrap(value as i64))
}

/// Converts between elementary types: integers keep the low bits, a real rounds half to even.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if a real does not fit the integer, or a TIME the 64 bits.
pub fn convert(from: Elem, to: Elem, a: i64) -> Result<i64, FaultKind> {
    if from == to {
        return Ok(a);
    }
    use Family::{Real, Time};
    let double = f64::from_bits(a as u64);
    match (from.family(), from.shape(), to.family(), to.shape()) {
        (Real, _, Real, _) => Ok(ops::round(ops::Precision::of(to), double).to_bits() as i64),
        (_, None, _, _) => from_real(libm::rint(double * time_unit(to) as f64), to),
        (_, Some(of), _, None) => {
            let number = of.number(a) as f64 / time_unit(from) as f64;
            Ok(ops::round(ops::Precision::of(to), number).to_bits() as i64)
        }
        (Time, _, Time, _) => Ok(a),
        (Time, _, _, Some(shape)) => Ok(shape.wrap(a / time_unit(from))),
        (_, Some(of), Time, _) => {
            let time = of.number(a) * i128::from(time_unit(to));
            i64::try_from(time).map_err(|_| FaultKind::OutOfRange)
        }
        (_, Some(_), _, Some(shape)) => Ok(shape.wrap(a)),
    }
}

/// Drops the fraction of a real.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if it does not fit.
pub(crate) fn truncate(to: Elem, a: i64) -> Result<i64, FaultKind> {
    from_real(libm::trunc(f64::from_bits(a as u64)), to)
}

/// Nanoseconds in the unit that TIME (milliseconds) or LTIME (nanoseconds) converts in; 1 for other types.
pub(crate) const fn time_unit(elem: Elem) -> i64 {
    if matches!(elem, Elem::Time) { 1_000_000 } else { 1 }
}

fn from_real(value: f64, to: Elem) -> Result<i64, FaultKind> {
    let (low, high) = to.shape().map_or((0, 0), IntShape::range);
    // Both limits plus one are powers of two, so they are exact as doubles.
    if value >= low as f64 && value < (high + 1) as f64 { Ok(value as i128 as i64) } else { Err(FaultKind::OutOfRange) }
}

/// Decimal digits of four bits each to a number.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if a digit is above nine or the number does not fit `to`.
pub(crate) fn from_bcd(to: Elem, a: i64) -> Result<i64, FaultKind> {
    let mut number: i128 = 0;
    for digit in (0..16).rev() {
        let value = (a as u64 >> (4 * digit)) & 15;
        if value > 9 {
            return Err(FaultKind::OutOfRange);
        }
        number = number * 10 + i128::from(value);
    }
    let (low, high) = to.shape().map_or((0, 0), IntShape::range);
    if (low..=high).contains(&number) { Ok(number as i64) } else { Err(FaultKind::OutOfRange) }
}

/// A number to decimal digits of four bits each.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if it is negative or needs more digits than `to` has.
pub(crate) fn to_bcd(from: Elem, to: Elem, a: i64) -> Result<i64, FaultKind> {
    let mut number = from.shape().map_or(0, |s| s.number(a));
    let digits = to.shape().map_or(0, |s| u32::from(s.bits) / 4);
    if number < 0 || number >= 10i128.pow(digits) {
        return Err(FaultKind::OutOfRange);
    }
    let mut value = 0u64;
    for digit in 0..digits {
        value |= ((number % 10) as u64) << (4 * digit);
        number /= 10;
    }
    Ok(value as i64)
}
