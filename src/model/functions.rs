//! The standard functions: their names, parameters and effects.
//!
//! Source: IEC 61131-3, third edition, tables of standard functions. Angles are in radians. Functions of TIME and
//! numbers convert TIME in whole milliseconds and LTIME in whole nanoseconds.

use super::ops::{self, BinaryOp, FaultKind};
use super::{Elem, IntShape};

/// A standard function.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Function {
    /// A function of one real number.
    Real(RealFunction),
    /// `ABS`
    Abs,
    /// `SHL`, `SHR`, `ROL`, `ROR`
    Shift(Shift),
    /// `SEL(G, IN0, IN1)`
    Sel,
    /// `MUX(K, IN0, ...)`
    Mux,
    /// `MAX(IN1, ...)`
    Max,
    /// `MIN(IN1, ...)`
    Min,
    /// `LIMIT(MN, IN, MX)`, which is `MIN(MAX(IN, MN), MX)` also when MN is above MX.
    Limit,
    /// `MOVE(IN)`
    Move,
    /// `NOT(IN)`
    Not,
    /// The function of an operator, `ADD(IN1, ...)`.
    Operator(BinaryOp),
    /// `INT_TO_REAL`, or `TO_REAL` with the source type left open.
    Convert(Option<Elem>, Elem),
    /// `TRUNC` (to DINT), `REAL_TRUNC_INT`, ...
    Truncate(Option<Elem>, Elem),
    /// `WORD_BCD_TO_UINT`: decimal digits of four bits each to a number.
    FromBcd(Elem, Elem),
    /// `UINT_TO_BCD_WORD`: a number to decimal digits of four bits each.
    ToBcd(Elem, Elem),
    /// Kernel: `SINCE(watch)`, the time since the stopwatch was restarted.
    Since,
    /// Kernel: `RESTART(watch)`; has no value.
    Restart,
    /// Kernel: `FIRST_SCAN()`, TRUE in the first scan after power-up.
    FirstScan,
    /// Kernel: `TICKS(base)`, how many ticks of a base fell since the start of the previous scan, as DINT. The ticks run
    /// on from power-up whatever the scans do; none fell before the first scan, and a base of zero or less has none.
    Ticks,
    /// Kernel: `SCAN_TIME()`, time since the start of the previous scan; 0 in the first.
    ScanTime,
}

/// A function of one real number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum RealFunction {
    Sqrt,
    Ln,
    Log,
    Exp,
    Sin,
    Cos,
    Tan,
    Asin,
    Acos,
    Atan,
}

/// A shift or rotation.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[allow(missing_docs, reason = "the names are the standard's own")]
pub enum Shift {
    Shl,
    Shr,
    Rol,
    Ror,
}

/// Names of a function's parameters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Parameters {
    /// Exactly these.
    Fixed(&'static [&'static str]),
    /// These, then one or more numbered from the given number: `K, IN0, IN1, ...`.
    Extensible(&'static [&'static str], u32),
}

const NAMED: &[(&str, Function)] = &[
    ("ABS", Function::Abs),
    ("SQRT", Function::Real(RealFunction::Sqrt)),
    ("LN", Function::Real(RealFunction::Ln)),
    ("LOG", Function::Real(RealFunction::Log)),
    ("EXP", Function::Real(RealFunction::Exp)),
    ("SIN", Function::Real(RealFunction::Sin)),
    ("COS", Function::Real(RealFunction::Cos)),
    ("TAN", Function::Real(RealFunction::Tan)),
    ("ASIN", Function::Real(RealFunction::Asin)),
    ("ACOS", Function::Real(RealFunction::Acos)),
    ("ATAN", Function::Real(RealFunction::Atan)),
    ("SHL", Function::Shift(Shift::Shl)),
    ("SHR", Function::Shift(Shift::Shr)),
    ("ROL", Function::Shift(Shift::Rol)),
    ("ROR", Function::Shift(Shift::Ror)),
    ("SEL", Function::Sel),
    ("MUX", Function::Mux),
    ("MAX", Function::Max),
    ("MIN", Function::Min),
    ("LIMIT", Function::Limit),
    ("MOVE", Function::Move),
    ("NOT", Function::Not),
    ("TRUNC", Function::Truncate(None, Elem::Dint)),
    ("ADD_TIME", Function::Operator(BinaryOp::Add)),
    ("SUB_TIME", Function::Operator(BinaryOp::Sub)),
    ("MUL_TIME", Function::Operator(BinaryOp::Mul)),
    ("DIV_TIME", Function::Operator(BinaryOp::Div)),
    ("SINCE", Function::Since),
    ("RESTART", Function::Restart),
    ("FIRST_SCAN", Function::FirstScan),
    ("SCAN_TIME", Function::ScanTime),
    ("TICKS", Function::Ticks),
];

impl Function {
    /// The function of that name, whatever the case of its letters.
    #[must_use]
    pub fn from_name(name: &str) -> Option<Function> {
        if let Some((_, f)) = NAMED.iter().find(|(n, _)| n.eq_ignore_ascii_case(name)) {
            return Some(*f);
        }
        if let Some(op) = BinaryOp::ALL.into_iter().find(|op| op.function().eq_ignore_ascii_case(name)) {
            return Some(Function::Operator(op));
        }
        let upper = name.to_ascii_uppercase();
        if let Some(to) = upper.strip_prefix("TO_") {
            return Some(Function::Convert(None, Elem::from_name(to)?));
        }
        if let Some((from, to)) = upper.split_once("_TRUNC_") {
            return Some(Function::Truncate(Some(Elem::from_name(from)?), Elem::from_name(to)?));
        }
        if let Some((from, to)) = upper.split_once("_BCD_TO_") {
            return Some(Function::FromBcd(Elem::from_name(from)?, Elem::from_name(to)?));
        }
        if let Some((from, to)) = upper.split_once("_TO_BCD_") {
            return Some(Function::ToBcd(Elem::from_name(from)?, Elem::from_name(to)?));
        }
        let (from, to) = upper.split_once("_TO_")?;
        Some(Function::Convert(Some(Elem::from_name(from)?), Elem::from_name(to)?))
    }

    /// The names its arguments may be given by.
    #[must_use]
    pub const fn parameters(self) -> Parameters {
        use Parameters::{Extensible, Fixed};
        match self {
            Function::Real(_)
            | Function::Abs
            | Function::Move
            | Function::Not
            | Function::Convert(..)
            | Function::Truncate(..)
            | Function::FromBcd(..)
            | Function::ToBcd(..) => Fixed(&["IN"]),
            Function::Since | Function::Restart => Fixed(&["WATCH"]),
            Function::FirstScan | Function::ScanTime => Fixed(&[]),
            Function::Ticks => Fixed(&["BASE"]),
            Function::Shift(_) => Fixed(&["IN", "N"]),
            Function::Sel => Fixed(&["G", "IN0", "IN1"]),
            Function::Limit => Fixed(&["MN", "IN", "MX"]),
            Function::Mux => Extensible(&["K"], 0),
            Function::Max | Function::Min => Extensible(&[], 1),
            Function::Operator(op) => match op {
                BinaryOp::Sub | BinaryOp::Div | BinaryOp::Mod | BinaryOp::Power | BinaryOp::Ne => {
                    Fixed(&["IN1", "IN2"])
                }
                _ => Extensible(&[], 1),
            },
        }
    }

    /// Every name of [`Function::from_name`] that is not a conversion, for suggestions.
    pub fn names() -> impl Iterator<Item = &'static str> {
        NAMED.iter().map(|(n, _)| *n).chain(BinaryOp::ALL.into_iter().map(BinaryOp::function))
    }
}

impl Parameters {
    /// The name of parameter `index`, if there can be one.
    #[must_use]
    pub fn name(self, index: usize) -> Option<String> {
        match self {
            Parameters::Fixed(names) => names.get(index).map(ToString::to_string),
            Parameters::Extensible(names, first) => Some(match names.get(index) {
                Some(name) => (*name).to_string(),
                None => format!("IN{}", index - names.len() + first as usize),
            }),
        }
    }

    /// The position of a parameter by its name.
    #[must_use]
    pub fn position(self, name: &str) -> Option<usize> {
        let fixed = match self {
            Parameters::Fixed(names) | Parameters::Extensible(names, _) => names,
        };
        if let Some(at) = fixed.iter().position(|n| n.eq_ignore_ascii_case(name)) {
            return Some(at);
        }
        let Parameters::Extensible(_, first) = self else { return None };
        let number: u32 =
            name.get(..2).filter(|p| p.eq_ignore_ascii_case("IN")).and_then(|_| name[2..].parse().ok())?;
        (number >= first && number < 4096).then(|| fixed.len() + (number - first) as usize)
    }
}

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
    match (from.shape(), to.shape()) {
        (None, None) => Ok(ops::round(to == Elem::Real, f64::from_bits(a as u64)).to_bits() as i64),
        (None, Some(_)) => from_real(libm::rint(f64::from_bits(a as u64) * time_unit(to) as f64), to),
        (Some(shape), None) => {
            let number = shape.number(a) as f64 / time_unit(from) as f64;
            Ok(ops::round(to == Elem::Real, number).to_bits() as i64)
        }
        (Some(of), Some(shape)) => match (from.is_time(), to.is_time()) {
            (true, true) => Ok(a),
            (true, false) => Ok(shape.wrap(a / time_unit(from))),
            (false, true) => {
                let time = of.number(a) * i128::from(time_unit(to));
                i64::try_from(time).map_err(|_| FaultKind::OutOfRange)
            }
            (false, false) => Ok(shape.wrap(a)),
        },
    }
}

/// Drops the fraction of a real.
///
/// # Errors
/// [`FaultKind::OutOfRange`] if it does not fit.
pub fn truncate(to: Elem, a: i64) -> Result<i64, FaultKind> {
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
pub fn from_bcd(to: Elem, a: i64) -> Result<i64, FaultKind> {
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
pub fn to_bcd(from: Elem, to: Elem, a: i64) -> Result<i64, FaultKind> {
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
