//! Values as the outside sees them: inputs given, outputs read, constants of a program.

use super::{Duration, Elem, Family, ops};
use std::fmt;

/// A value of an elementary type, an enumeration or a string.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// BOOL.
    Bool(bool),
    /// An integer or bit string; the number fits its type.
    Int(i128),
    /// REAL or LREAL.
    Real(f64),
    /// TIME or LTIME.
    Time(Duration),
    /// An enumeration's value with its name, if the number has one.
    Enum(i64, Option<String>),
    /// STRING.
    Text(String),
}

impl Value {
    /// The value a slot of an elementary type holds.
    #[must_use]
    pub fn from_slot(elem: Elem, slot: i64) -> Value {
        match elem.family() {
            Family::Bool => Value::Bool(slot != 0),
            Family::Real => Value::Real(f64::from_bits(slot as u64)),
            Family::Time => Value::Time(Duration::from_nanos(slot)),
            Family::Bits | Family::Int => Value::Int(elem.shape().map_or(0, |s| s.number(slot))),
            Family::Text => Value::Text(String::new()),
        }
    }

    /// The slot of an elementary type that holds this value; `None` if it does not fit.
    #[must_use]
    #[inline]
    pub fn to_slot(&self, elem: Elem) -> Option<i64> {
        let real = |number: f64| ops::round(ops::Precision::of(elem), number).to_bits() as i64;
        match self {
            Value::Bool(b) => (elem == Elem::Bool).then_some(i64::from(*b)),
            Value::Int(i) => match elem.family() {
                Family::Bool | Family::Bits | Family::Int => {
                    let shape = elem.shape()?;
                    let slot = shape.wrap(*i as i64);
                    (shape.number(slot) == *i).then_some(slot)
                }
                Family::Real => Some(real(*i as f64)),
                Family::Time | Family::Text => None,
            },
            Value::Real(r) => (elem.family() == Family::Real).then(|| real(*r)),
            Value::Time(t) => (elem.family() == Family::Time).then_some(t.nanos()),
            Value::Enum(..) | Value::Text(_) => None,
        }
    }

    /// Reads a cell of a stimulus: BOOL as 0, 1, TRUE or FALSE, integers in decimal, TIME in whole milliseconds.
    #[must_use]
    pub fn parse(elem: Elem, text: &str) -> Option<Value> {
        let text = text.trim();
        let value = match elem.family() {
            Family::Bool => match text {
                "0" => Value::Bool(false),
                "1" => Value::Bool(true),
                _ if text.eq_ignore_ascii_case("true") => Value::Bool(true),
                _ if text.eq_ignore_ascii_case("false") => Value::Bool(false),
                _ => return None,
            },
            Family::Real => Value::Real(text.parse().ok()?),
            Family::Time => Value::Time(Duration::read_milliseconds(text)?),
            Family::Bits | Family::Int => Value::Int(text.parse().ok()?),
            Family::Text => return None,
        };
        value.to_slot(elem).map(|_| value)
    }
}

impl Value {
    /// For people: TRUE and FALSE, times with their units.
    #[must_use]
    pub fn readable(&self) -> String {
        match self {
            Value::Bool(b) => if *b { "TRUE" } else { "FALSE" }.to_string(),
            Value::Time(time) => format!("T#{}", format_duration(*time)),
            other @ (Value::Int(_) | Value::Real(_) | Value::Enum(..) | Value::Text(_)) => other.to_string(),
        }
    }

    /// As it is said beside a name: a time with its units and no prefix.
    #[must_use]
    pub fn said(&self) -> String {
        match self {
            Value::Time(time) => format_duration(*time),
            other @ (Value::Bool(_) | Value::Int(_) | Value::Real(_) | Value::Enum(..) | Value::Text(_)) => {
                other.to_string()
            }
        }
    }

    /// As a number to be held against others of the same type; of BOOL, strings and what is no number nothing.
    #[must_use]
    pub(crate) fn number(&self) -> Option<f64> {
        match self {
            Value::Int(i) => Some(*i as f64),
            Value::Real(r) => Some(*r).filter(|r| !r.is_nan()),
            Value::Time(t) => Some(t.nanos() as f64),
            Value::Enum(n, _) => Some(*n as f64),
            Value::Bool(_) | Value::Text(_) => None,
        }
    }

    /// As a stimulus or a scenario says it, so that it is read as the same: like [`fmt::Display`], but of TIME all digits.
    #[must_use]
    pub fn cell(&self) -> String {
        match self {
            Value::Time(time) => time.milliseconds_text(),
            Value::Bool(_) | Value::Int(_) | Value::Real(_) | Value::Enum(..) | Value::Text(_) => self.to_string(),
        }
    }
}

/// As in stimulus and trace: BOOL as 0 or 1, integers in decimal, TIME in whole milliseconds (truncated).
impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Value::Bool(b) => write!(f, "{}", u8::from(*b)),
            Value::Int(i) => write!(f, "{i}"),
            Value::Real(r) => write!(f, "{r}"),
            Value::Time(t) => write!(f, "{}", t.millis()),
            Value::Enum(_, Some(name)) => f.write_str(name),
            Value::Enum(n, None) => write!(f, "{n}"),
            Value::Text(s) => f.write_str(s),
        }
    }
}

/// A duration as the standard writes it, without its prefix: `20s`, `1m30s`, `80ms`, `1h`, `0s`.
#[must_use]
pub fn format_duration(duration: Duration) -> String {
    let mut rest = duration.nanos().unsigned_abs();
    if rest == 0 {
        return "0s".to_string();
    }
    let mut text = String::new();
    if duration.nanos() < 0 {
        text.push('-');
    }
    let units = [
        (86_400_000_000_000, "d"),
        (3_600_000_000_000, "h"),
        (60_000_000_000, "m"),
        (1_000_000_000, "s"),
        (1_000_000, "ms"),
        (1_000, "us"),
        (1, "ns"),
    ];
    for (size, unit) in units {
        if rest >= size {
            text.push_str(&format!("{}{unit}", rest / size));
            rest %= size;
        }
    }
    text
}
