//! Values as words: how many a type takes, and in which order.

use crate::model::sheet::WordOrder;
use crate::model::{Duration, Elem, Family, Value};
use crate::scan::PointType;

/// How a type stands in the tables.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Coded {
    /// One bit.
    Bit,
    /// So many words.
    Words(u16),
}

/// How a type stands in the tables; `None` of a string.
pub(super) fn coded(ty: &PointType) -> Option<Coded> {
    match ty {
        PointType::Enum(_) => Some(Coded::Words(1)),
        PointType::Text => None,
        PointType::Elem(elem) | PointType::Range(elem, ..) => Some(match elem.family() {
            Family::Bool => Coded::Bit,
            Family::Time => Coded::Words(2),
            Family::Real => Coded::Words(if *elem == Elem::Real { 2 } else { 4 }),
            Family::Bits | Family::Int => {
                Coded::Words(elem.shape().map_or(1, |shape| u16::from(shape.bits).div_ceil(16)))
            }
            Family::Text => return None,
        }),
    }
}

/// The words of a value. A time is a whole number of milliseconds in 32 bits with its sign, what is longer the longest
/// there is.
pub(super) fn words(value: &Value, ty: &PointType, order: WordOrder) -> Vec<u16> {
    let count = match coded(ty) {
        Some(Coded::Words(count)) => count,
        Some(Coded::Bit) | None => 1,
    };
    let bits: u64 = match value {
        Value::Bool(on) => u64::from(*on),
        Value::Int(number) => *number as u64,
        Value::Enum(number, _) => *number as u64,
        Value::Real(real) if ty.elem() == Some(Elem::Real) => u64::from((*real as f32).to_bits()),
        Value::Real(real) => real.to_bits(),
        Value::Time(time) => (time.nanos() / 1_000_000).clamp(i64::from(i32::MIN), i64::from(i32::MAX)) as u64,
        Value::Text(_) => 0,
    };
    // The highest word first.
    let mut out: Vec<u16> = (0..count).rev().map(|at| (bits >> (16 * at)) as u16).collect();
    if order == WordOrder::LowFirst {
        out.reverse();
    }
    out
}

/// The value of some words; `None` if the type has no such value.
pub(super) fn value(words: &[u16], ty: &PointType, order: WordOrder) -> Option<Value> {
    let highest_first: Vec<u16> = match order {
        WordOrder::HighFirst => words.to_vec(),
        WordOrder::LowFirst => words.iter().rev().copied().collect(),
    };
    let bits = highest_first.iter().fold(0u64, |bits, word| (bits << 16) | u64::from(*word));
    let value = match ty {
        PointType::Enum(values) => {
            let number = i64::from(bits as u16 as i16);
            let (name, _) = values.iter().find(|(_, value)| *value == number)?;
            Value::Enum(number, Some(name.clone()))
        }
        PointType::Text => return None,
        PointType::Elem(elem) | PointType::Range(elem, ..) => match elem.family() {
            Family::Bool => Value::Bool(bits & 1 == 1),
            Family::Time => Value::Time(Duration::from_millis(i64::from(bits as u32 as i32))),
            Family::Real if *elem == Elem::Real => Value::Real(f64::from(f32::from_bits(bits as u32))),
            Family::Real => Value::Real(f64::from_bits(bits)),
            Family::Bits | Family::Int => {
                let shape = elem.shape()?;
                // Of a type of 8 bits the whole word must fit it.
                let held = 16 * words.len() as u32;
                let signed = shape.range().0 < 0;
                let number = if signed && held < 64 {
                    i128::from((bits << (64 - held)) as i64 >> (64 - held))
                } else if signed {
                    i128::from(bits as i64)
                } else {
                    i128::from(bits)
                };
                Value::Int(number)
            }
            Family::Text => return None,
        },
    };
    ty.slot(&value, |_| None).map(|_| value)
}

/// The line of a scenario by which an input becomes a value.
pub(super) fn set_line(name: &str, value: &Value) -> String {
    match value {
        Value::Bool(on) => format!("set {name} {}\n", if *on { "on" } else { "off" }),
        Value::Int(_) | Value::Real(_) | Value::Time(_) | Value::Enum(..) | Value::Text(_) => {
            format!("set {name} to {}\n", value.said())
        }
    }
}
