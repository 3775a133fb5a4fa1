//! The type of a point, its values and the slots that hold them: the one place that leads from one to the other.

use super::points::PointType;
use crate::model::{Elem, Family, Value};
use crate::source::cells;
use std::fmt;

impl PointType {
    /// What kind of value it is; an enumeration is an integer with names.
    #[must_use]
    pub fn family(&self) -> Family {
        match self {
            PointType::Elem(elem) | PointType::Range(elem, ..) => elem.family(),
            PointType::Enum(_) => Family::Int,
            PointType::Text => Family::Text,
        }
    }

    /// The elementary type, of a subrange that of its numbers; none of an enumeration or a string.
    #[must_use]
    pub fn elem(&self) -> Option<Elem> {
        match self {
            PointType::Elem(elem) | PointType::Range(elem, ..) => Some(*elem),
            PointType::Enum(_) | PointType::Text => None,
        }
    }

    /// The value that a slot holds; `text` gives the string of a number.
    pub(crate) fn value(&self, slot: i64, text: impl FnOnce(i64) -> String) -> Value {
        match self {
            PointType::Elem(elem) | PointType::Range(elem, ..) => Value::from_slot(*elem, slot),
            PointType::Enum(values) => {
                Value::Enum(slot, values.iter().find(|(_, v)| *v == slot).map(|(n, _)| n.clone()))
            }
            PointType::Text => Value::Text(text(slot)),
        }
    }

    /// The slot that holds a value, if it is one of this type; `text` gives the number of a string. An enumeration takes
    /// numbers without a name.
    #[inline]
    pub(crate) fn slot(&self, value: &Value, text: impl FnOnce(&str) -> Option<i64>) -> Option<i64> {
        match self {
            PointType::Elem(elem) => value.to_slot(*elem),
            PointType::Range(elem, low, high) => value.to_slot(*elem).filter(|s| (*low..=*high).contains(s)),
            PointType::Enum(_) => {
                if let Value::Enum(number, _) = value {
                    Some(*number)
                } else {
                    None
                }
            }
            PointType::Text => {
                if let Value::Text(string) = value {
                    text(string)
                } else {
                    None
                }
            }
        }
    }

    /// Reads a cell of a stimulus or a table: as [`Value::parse`], of an enumeration a name or its number.
    #[must_use]
    pub fn parse(&self, cell: &str) -> Option<Value> {
        let value = match self {
            PointType::Elem(elem) | PointType::Range(elem, ..) => Value::parse(*elem, cell)?,
            PointType::Enum(values) => {
                let number = cell.parse::<i64>().ok();
                let (name, number) = values.iter().find(|(n, v)| n.eq_ignore_ascii_case(cell) || Some(*v) == number)?;
                Value::Enum(*number, Some(name.clone()))
            }
            PointType::Text => return Some(Value::Text(cells::plain(cell).to_string())),
        };
        self.slot(&value, |_| None).map(|_| value)
    }

    /// The smallest and the largest value, as slots hold them; of reals and strings no limit is known.
    pub(crate) fn limits(&self) -> Option<(i64, i64)> {
        match self {
            PointType::Elem(elem) => {
                let shape = elem.shape()?;
                let (low, high) = shape.range();
                Some(if shape.bits == 64 { (i64::MIN, i64::MAX) } else { (low as i64, high as i64) })
            }
            PointType::Range(_, low, high) => Some((*low, *high)),
            PointType::Enum(values) => {
                let numbers = values.iter().map(|(_, number)| *number);
                Some((numbers.clone().min().unwrap_or(0), numbers.max().unwrap_or(0)))
            }
            PointType::Text => None,
        }
    }
}

/// As it is declared.
impl fmt::Display for PointType {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PointType::Elem(elem) => f.write_str(elem.name()),
            PointType::Range(elem, low, high) => write!(f, "{} ({low}..{high})", elem.name()),
            PointType::Enum(values) => {
                let names: Vec<&str> = values.iter().map(|(n, _)| n.as_str()).collect();
                write!(f, "({})", names.join(", "))
            }
            PointType::Text => f.write_str("STRING"),
        }
    }
}
