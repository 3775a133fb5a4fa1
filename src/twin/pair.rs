//! Which input belongs to which, and which output: by name, whatever the case of the letters.

use super::Version;
use crate::scan::{Direction, Point, PointId, PointType};
use serde::Serialize;

/// A point of the left version and its partner on the right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Pair {
    /// The name on the left.
    pub name: String,
    /// The point on the left.
    pub left: PointId,
    /// The point on the right.
    pub right: PointId,
}

/// Everything that is paired, and what is not.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Pairing {
    /// Inputs that both versions are given.
    pub inputs: Vec<Pair>,
    /// Outputs that are compared.
    pub outputs: Vec<Pair>,
    /// Inputs and outputs without a partner of the same type: they keep their initial values or are not compared.
    pub alone: Vec<String>,
}

impl Pairing {
    /// Pairs inputs with inputs and outputs with outputs by name.
    #[must_use]
    pub fn by_name(left: &Version, right: &Version) -> Pairing {
        let mut pairing = Pairing::default();
        for direction in [Direction::Input, Direction::Output] {
            for (id, point) in left.machine.points_of(direction) {
                let partner =
                    right.machine.points_of(direction).find(|(_, p)| p.name.eq_ignore_ascii_case(&point.name));
                match partner {
                    Some((other, p)) if same_type(point, p) => {
                        let pair = Pair { name: point.name.clone(), left: id, right: other };
                        let list =
                            if direction == Direction::Input { &mut pairing.inputs } else { &mut pairing.outputs };
                        list.push(pair);
                    }
                    Some(_) => {
                        pairing.alone.push(format!("{} {}: the types differ", word(direction), point.name));
                    }
                    None => pairing.alone.push(format!("{} {}: only in {}", word(direction), point.name, left.name)),
                }
            }
            for (_, point) in right.machine.points_of(direction) {
                if !left.machine.points_of(direction).any(|(_, p)| p.name.eq_ignore_ascii_case(&point.name)) {
                    pairing.alone.push(format!("{} {}: only in {}", word(direction), point.name, right.name));
                }
            }
        }
        pairing
    }
}

fn word(direction: Direction) -> &'static str {
    if direction == Direction::Input { "input" } else { "output" }
}

fn same_type(a: &Point, b: &Point) -> bool {
    match (&a.ty, &b.ty) {
        (PointType::Enum(x), PointType::Enum(y)) => x.iter().map(|(_, v)| v).eq(y.iter().map(|(_, v)| v)),
        (x, y) => x == y,
    }
}
