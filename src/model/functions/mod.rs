//! The standard functions: their names, a row for each of what is to be known of it ([`Row`]), and their values.
//!
//! Source: IEC 61131-3, third edition, tables of standard functions. Angles are in radians. Functions of TIME and
//! numbers convert TIME in whole milliseconds and LTIME in whole nanoseconds.

mod row;
mod value;

pub use row::{Faults, Gives, Parameters, Row, Selector, SideEffect, Takes, TypeRule};
pub(crate) use value::time_unit;
pub use value::{convert, real, shift};
pub(crate) use value::{from_bcd, to_bcd, truncate};

use super::Elem;
use super::ops::BinaryOp;

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
        let digits = |name: &str| Elem::from_name(name).filter(|e| e.is_bits() && *e != Elem::Bool);
        let number = |name: &str| Elem::from_name(name).filter(|e| e.is_integer());
        if let Some(to) = upper.strip_prefix("TO_") {
            return Some(Function::Convert(None, Elem::from_name(to)?));
        }
        if let Some((from, to)) = upper.split_once("_TRUNC_") {
            let to = Elem::from_name(to).filter(|to| to.is_integer())?;
            return Some(Function::Truncate(Some(Elem::from_name(from)?), to));
        }
        if let Some((from, to)) = upper.split_once("_BCD_TO_") {
            return Some(Function::FromBcd(digits(from)?, number(to)?));
        }
        if let Some((from, to)) = upper.split_once("_TO_BCD_") {
            return Some(Function::ToBcd(number(from)?, digits(to)?));
        }
        let (from, to) = upper.split_once("_TO_")?;
        Some(Function::Convert(Some(Elem::from_name(from)?), Elem::from_name(to)?))
    }

    /// The name, as [`Function::from_name`] takes it.
    #[must_use]
    pub fn name(self) -> String {
        if let Some((name, _)) = NAMED.iter().find(|(_, function)| *function == self) {
            return (*name).to_string();
        }
        let from = |from: Option<Elem>| from.map_or(String::new(), |from| format!("{}_", from.name()));
        match self {
            Function::Operator(op) => op.function().to_string(),
            Function::Convert(of, to) => format!("{}TO_{}", from(of), to.name()),
            Function::Truncate(of, to) => format!("{}TRUNC_{}", from(of), to.name()),
            Function::FromBcd(of, to) => format!("{}_BCD_TO_{}", of.name(), to.name()),
            Function::ToBcd(of, to) => format!("{}_TO_BCD_{}", of.name(), to.name()),
            Function::Real(_)
            | Function::Abs
            | Function::Shift(_)
            | Function::Sel
            | Function::Mux
            | Function::Max
            | Function::Min
            | Function::Limit
            | Function::Move
            | Function::Not
            | Function::Since
            | Function::Restart
            | Function::FirstScan
            | Function::Ticks
            | Function::ScanTime => String::new(),
        }
    }

    /// Every name of [`Function::from_name`] that is not a conversion, for suggestions.
    pub fn names() -> impl Iterator<Item = &'static str> {
        NAMED.iter().map(|(n, _)| *n).chain(BinaryOp::ALL.into_iter().map(BinaryOp::function))
    }
}
