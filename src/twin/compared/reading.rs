//! How a value of one side is read on the other: the same, by its number, by its bits, by its name, inverted or scaled.

use crate::model::{Elem, Family, IntShape};
use crate::scan::PointType;
use serde::Serialize;

/// What becomes of a value on its way from the left to the right.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Mapping {
    /// The same value of the same type.
    #[default]
    Same,
    /// TRUE for FALSE: the device is wired the other way round.
    Inverted,
    /// The right value is so many times the left one, and divided by the second number, cut towards zero: ticks and
    /// milliseconds.
    Scaled(i64, i64),
    /// The same number, in another type.
    Number,
    /// The same bits, in another type of the same width.
    Bits,
    /// The value of the same name, in another enumeration.
    Name,
}

impl Mapping {
    /// The right value that belongs to a left one, both as they sit in memory; `None` if there is none: the right type
    /// does not hold it.
    #[must_use]
    pub fn right(self, [from, to]: [&PointType; 2], left: i64) -> Option<i64> {
        match self {
            Mapping::Same => Some(left),
            Mapping::Inverted => Some(left ^ 1),
            Mapping::Scaled(by, over) => slot(to, number(from, left) * i128::from(by) / i128::from(over)),
            Mapping::Number => slot(to, number(from, left)),
            Mapping::Bits => shape(to).map(|shape| shape.wrap(left)),
            Mapping::Name => {
                let (PointType::Enum(from), PointType::Enum(to)) = (from, to) else { return None };
                let (name, _) = from.iter().find(|(_, v)| *v == left)?;
                to.iter().find(|(n, _)| n.eq_ignore_ascii_case(name)).map(|(_, v)| *v)
            }
        }
    }

    /// The left values, from the least to the largest, that the right type holds too and that lie within `limits`; both
    /// ends as they sit in memory. `None` if there is none. Of 64 bits without a sign only what is below 2^63, where the
    /// types are not the same.
    #[must_use]
    pub(crate) fn domain(self, types: [&PointType; 2], limits: (i64, i64)) -> Option<(i64, i64)> {
        let (low, high) = limits;
        match self {
            Mapping::Same | Mapping::Inverted | Mapping::Bits | Mapping::Name => Some(limits),
            Mapping::Scaled(..) | Mapping::Number => {
                let unsigned = types.iter().any(|ty| shape(ty).is_some_and(IntShape::is_unsigned_64));
                let low = if unsigned { low.max(0) } else { low };
                let high = if unsigned && high < 0 { i64::MAX } else { high };
                if low > high {
                    return None;
                }
                let held = |value: i64| self.right(types, value).is_some();
                // What the right type holds is a range: a value of it is 0, or an end, or what becomes an end of the right.
                let (least, most) = range(types[1]);
                let (by, over) = if let Mapping::Scaled(by, over) = self { (by, over) } else { (1, 1) };
                let ends =
                    [least, most].map(|end| (end * i128::from(over) / i128::from(by)).clamp(low.into(), high.into()));
                let near = ends.into_iter().flat_map(|end| (-1..=1).map(move |by| end + by));
                let near = near.filter(|n| (i128::from(low)..=i128::from(high)).contains(n)).map(|n| n as i64);
                let middle =
                    [0, low, high].into_iter().chain(near).filter(|v| (low..=high).contains(v)).find(|v| held(*v))?;
                Some((farthest(middle, low, held), farthest(middle, high, held)))
            }
        }
    }

    /// Whether it goes with two types.
    pub(in crate::twin) fn fits(self, [from, to]: [&PointType; 2]) -> bool {
        let bool = |ty: &PointType| *ty == PointType::Elem(Elem::Bool);
        match self {
            Mapping::Same => same(from, to),
            Mapping::Inverted => bool(from) && bool(to),
            Mapping::Scaled(_, over) => is_whole(from) && is_whole(to) && over != 0,
            Mapping::Number => (is_whole(from) && is_whole(to)) || widens(from, to) || both_enums(from, to),
            Mapping::Bits => match (shape(from), shape(to)) {
                (Some(a), Some(b)) => {
                    let all = |ty: &PointType| matches!(ty, PointType::Elem(_)) && is_whole(ty);
                    a.bits == b.bits && all(from) && all(to)
                }
                (None, _) | (_, None) => false,
            },
            Mapping::Name => both_enums(from, to),
        }
    }
}

/// The value farthest from one that is held towards an end, where all between are held that are nearer.
fn farthest(held: i64, end: i64, is_held: impl Fn(i64) -> bool) -> i64 {
    if is_held(end) {
        return end;
    }
    let (mut near, mut far) = (i128::from(held), i128::from(end));
    while (far - near).abs() > 1 {
        let middle = near + (far - near) / 2;
        if is_held(middle as i64) {
            near = middle;
        } else {
            far = middle;
        }
    }
    near as i64
}

/// The one reading that two types have, if they have just one; else what could be meant.
///
/// Whole numbers of either sign, and times, have one where one type holds all values of the other: the same number. A bit
/// string and an integer of the same width have one: the same bits. What is wider than a bit string may be filled up with
/// a sign or without; two integers of the same width and other signs may mean the number or the bits.
pub(in crate::twin) fn only(from: &PointType, to: &PointType) -> Result<Mapping, Vec<Mapping>> {
    if same(from, to) {
        return Ok(Mapping::Same);
    }
    let all = [Mapping::Number, Mapping::Bits, Mapping::Name];
    let possible = || all.into_iter().filter(|m| m.fits([from, to])).collect::<Vec<_>>();
    let holds = |a: &PointType, b: &PointType| {
        let [(low, high), (least, most)] = [range(a), range(b)];
        least <= low && high <= most
    };
    let (Some(a), Some(b)) = (from.elem(), to.elem()) else { return Err(possible()) };
    let one = match (a.family(), b.family()) {
        (Family::Real, Family::Real) | (Family::Time, Family::Time) | (Family::Bits, Family::Bits) => {
            Some(Mapping::Number)
        }
        (Family::Int, Family::Int) => (holds(from, to) || holds(to, from)).then_some(Mapping::Number),
        (Family::Int, Family::Bits) | (Family::Bits, Family::Int) => Some(Mapping::Bits),
        (Family::Bool | Family::Bits | Family::Int | Family::Real | Family::Time | Family::Text, _) => None,
    };
    one.filter(|m| m.fits([from, to])).ok_or_else(possible)
}

/// The value that a left one with a name has on the right side; of types that are not enumerations nothing.
pub(in crate::twin) fn names(from: &PointType, to: &PointType) -> Vec<(i64, Option<i64>)> {
    let PointType::Enum(values) = from else { return Vec::new() };
    values.iter().map(|(_, v)| (*v, Mapping::Name.right([from, to], *v))).collect()
}

pub(in crate::twin) fn same(a: &PointType, b: &PointType) -> bool {
    match (a, b) {
        (PointType::Enum(x), PointType::Enum(y)) => {
            x.len() == y.len() && x.iter().zip(y.iter()).all(|((n, v), (m, w))| n.eq_ignore_ascii_case(m) && v == w)
        }
        (x, y) => x == y,
    }
}

fn both_enums(a: &PointType, b: &PointType) -> bool {
    matches!((a, b), (PointType::Enum(_), PointType::Enum(_)))
}

fn is_whole(ty: &PointType) -> bool {
    ty.elem().is_some_and(|elem| match elem.family() {
        Family::Bits | Family::Int | Family::Time => true,
        Family::Bool | Family::Real | Family::Text => false,
    })
}

/// REAL to LREAL; the other way a value may be between two that REAL has.
fn widens(from: &PointType, to: &PointType) -> bool {
    (from, to) == (&PointType::Elem(Elem::Real), &PointType::Elem(Elem::Lreal))
}

fn is_real(ty: &PointType) -> bool {
    ty.family() == Family::Real
}

/// The shape of the numbers of a type.
pub(in crate::twin) fn shape(ty: &PointType) -> Option<IntShape> {
    ty.elem()?.shape()
}

/// The least and the largest number of a type.
fn range(ty: &PointType) -> (i128, i128) {
    match ty {
        PointType::Elem(elem) => elem.shape().map_or((0, 0), IntShape::range),
        PointType::Range(..) | PointType::Enum(_) | PointType::Text => {
            let (low, high) = ty.limits().unwrap_or((0, 0));
            (number(ty, low), number(ty, high))
        }
    }
}

/// What sits in memory as a number.
fn number(ty: &PointType, slot: i64) -> i128 {
    shape(ty).map_or(i128::from(slot), |shape| shape.number(slot))
}

/// How a number sits in memory, if the type holds it.
fn slot(ty: &PointType, number: i128) -> Option<i64> {
    if is_real(ty) {
        return Some(number as i64);
    }
    if let PointType::Enum(values) = ty {
        return values.iter().any(|(_, v)| i128::from(*v) == number).then_some(number as i64);
    }
    let (low, high) = range(ty);
    (low..=high).contains(&number).then_some(number as i64)
}
