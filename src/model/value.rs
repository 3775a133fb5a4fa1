//! Values as the outside sees them: inputs given, outputs read, constants of a program.

use super::{Duration, Elem};
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
        match elem {
            Elem::Bool => Value::Bool(slot != 0),
            Elem::Real | Elem::Lreal => Value::Real(f64::from_bits(slot as u64)),
            Elem::Time | Elem::Ltime => Value::Time(Duration::from_nanos(slot)),
            _ => Value::Int(elem.shape().map_or(0, |s| s.number(slot))),
        }
    }

    /// The slot of an elementary type that holds this value; `None` if it does not fit.
    #[must_use]
    pub fn to_slot(&self, elem: Elem) -> Option<i64> {
        match (self, elem) {
            (Value::Bool(b), Elem::Bool) => Some(i64::from(*b)),
            (Value::Real(r), Elem::Real) => Some(f64::from(*r as f32).to_bits() as i64),
            (Value::Real(r), Elem::Lreal) => Some(r.to_bits() as i64),
            (Value::Int(i), Elem::Real | Elem::Lreal) => Value::Real(*i as f64).to_slot(elem),
            (Value::Time(t), Elem::Time | Elem::Ltime) => Some(t.nanos()),
            (Value::Int(i), _) if !elem.is_time() => {
                let (low, high) = elem.shape()?.range();
                (low..=high).contains(i).then_some(*i as i64)
            }
            _ => None,
        }
    }

    /// Reads a cell of a stimulus: BOOL as 0, 1, TRUE or FALSE, integers in decimal, TIME in whole milliseconds.
    #[must_use]
    pub fn parse(elem: Elem, text: &str) -> Option<Value> {
        let text = text.trim();
        let value = match elem {
            Elem::Bool => match text {
                "0" => Value::Bool(false),
                "1" => Value::Bool(true),
                _ if text.eq_ignore_ascii_case("true") => Value::Bool(true),
                _ if text.eq_ignore_ascii_case("false") => Value::Bool(false),
                _ => return None,
            },
            Elem::Real | Elem::Lreal => Value::Real(text.parse().ok()?),
            Elem::Time | Elem::Ltime => Value::Time(Duration::read_milliseconds(text)?),
            _ => Value::Int(text.parse().ok()?),
        };
        value.to_slot(elem).map(|_| value)
    }
}

impl Value {
    /// As a stimulus or a scenario says it, so that it is read as the same: like [`fmt::Display`], but of TIME all digits.
    #[must_use]
    pub fn cell(&self) -> String {
        match self {
            Value::Time(time) => time.milliseconds_text(),
            other => other.to_string(),
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
