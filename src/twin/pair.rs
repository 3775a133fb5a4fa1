//! Which input belongs to which, and which output: by name, whatever the case of the letters, or as said.

use super::Version;
use crate::model::{Duration, Elem};
use crate::scan::{Direction, Point, PointId, PointType};
use serde::Serialize;

/// How exactly two outputs must agree (SEMANTICS section 6).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Tolerance {
    /// Equal at the end of every scan.
    #[default]
    Exact,
    /// The same sequence of values, each change at most so much away from its counterpart.
    Within(Duration),
}

/// What becomes of a value on its way from the left to the right.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Mapping {
    /// The same value.
    #[default]
    Same,
    /// TRUE for FALSE: the device is wired the other way round.
    Inverted,
    /// The right value is so many times the left one, and divided by the second number: ticks and milliseconds.
    Scaled(i64, i64),
}

impl Mapping {
    /// The right value that belongs to a left one; `None` if there is none.
    #[must_use]
    pub fn right(self, left: i64) -> Option<i64> {
        match self {
            Mapping::Same => Some(left),
            Mapping::Inverted => Some(left ^ 1),
            Mapping::Scaled(by, over) => {
                let product = i128::from(left) * i128::from(by);
                i64::try_from(product / i128::from(over)).ok()
            }
        }
    }
}

/// A point of the left version and its partner on the right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Pair {
    /// The name on the left.
    pub name: String,
    /// The point on the left.
    pub left: PointId,
    /// The point on the right.
    pub right: PointId,
    /// What becomes of a value on its way to the right.
    pub mapping: Mapping,
    /// Of outputs: how exactly they must agree.
    pub tolerance: Tolerance,
    /// Of inputs: what they are at rest, if that is not their initial value; as it sits in memory on the left.
    pub rest: Option<i64>,
    /// Of inputs: the values they are given at most, as they sit in memory on the left.
    pub range: Option<(i64, i64)>,
}

impl Pair {
    /// A pair of the same values, to be met exactly.
    #[must_use]
    pub fn new(name: impl Into<String>, left: PointId, right: PointId) -> Pair {
        Pair {
            name: name.into(),
            left,
            right,
            mapping: Mapping::Same,
            tolerance: Tolerance::Exact,
            rest: None,
            range: None,
        }
    }
}

/// Everything that is paired, and what is not.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
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
                if let Some((other, p)) = partner
                    && same_type(point, p)
                {
                    let pair = Pair::new(point.name.clone(), id, other);
                    let list = if direction == Direction::Input { &mut pairing.inputs } else { &mut pairing.outputs };
                    list.push(pair);
                }
            }
        }
        pairing.find_alone(left, right);
        pairing
    }

    /// Pairs two points by their names, whatever paired them before.
    ///
    /// # Errors
    /// In one sentence, if there is no such point or the two do not go together.
    pub fn pair(
        &mut self,
        [left, right]: [&Version; 2],
        [a, b]: [&str; 2],
        mapping: Mapping,
    ) -> Result<&mut Pair, String> {
        let find = |version: &Version, name: &str| {
            version.machine.find(name).ok_or_else(|| format!("{} has no `{name}`", version.name))
        };
        let (a, b) = (find(left, a)?, find(right, b)?);
        let (p, q) = (left.machine.point(a), right.machine.point(b));
        if p.direction != q.direction || p.direction == Direction::Internal {
            return Err(format!("`{}` and `{}` are not both inputs or both outputs", p.name, q.name));
        }
        let fits = match mapping {
            Mapping::Same => same_type(p, q),
            Mapping::Inverted => p.ty == PointType::Elem(Elem::Bool) && same_type(p, q),
            Mapping::Scaled(_, over) => is_whole(&p.ty) && is_whole(&q.ty) && over != 0,
        };
        if !fits {
            return Err(format!("the types of `{}` and `{}` do not go together so", p.name, q.name));
        }
        let list = if p.direction == Direction::Input { &mut self.inputs } else { &mut self.outputs };
        list.retain(|old| old.left != a && old.right != b);
        list.push(Pair { mapping, ..Pair::new(p.name.clone(), a, b) });
        list.sort_by_key(|pair| pair.left);
        self.find_alone(left, right);
        let list = if p.direction == Direction::Input { &mut self.inputs } else { &mut self.outputs };
        list.iter_mut().find(|pair| pair.left == a).ok_or_else(|| "no pair".to_string())
    }

    /// Says what has no partner.
    fn find_alone(&mut self, left: &Version, right: &Version) {
        self.alone.clear();
        for direction in [Direction::Input, Direction::Output] {
            let pairs = if direction == Direction::Input { &self.inputs } else { &self.outputs };
            for (id, point) in left.machine.points_of(direction) {
                if pairs.iter().any(|p| p.left == id) {
                    continue;
                }
                let same_name =
                    |(_, p): &(PointId, &Point)| p.name.eq_ignore_ascii_case(&point.name) && !same_type(point, p);
                let why = match right.machine.points_of(direction).find(same_name) {
                    Some(_) => "the types differ".to_string(),
                    None => format!("only in {}", left.name),
                };
                self.alone.push(format!("{} {}: {why}", word(direction), point.name));
            }
            for (id, point) in right.machine.points_of(direction) {
                let told = self.alone.contains(&format!("{} {}: the types differ", word(direction), point.name));
                if !told && !pairs.iter().any(|p| p.right == id) {
                    self.alone.push(format!("{} {}: only in {}", word(direction), point.name, right.name));
                }
            }
        }
    }
}

fn word(direction: Direction) -> &'static str {
    if direction == Direction::Input { "input" } else { "output" }
}

fn is_whole(ty: &PointType) -> bool {
    matches!(ty, PointType::Elem(e) | PointType::Range(e, ..) if !e.is_real() && *e != Elem::Bool)
}

fn same_type(a: &Point, b: &Point) -> bool {
    match (&a.ty, &b.ty) {
        (PointType::Enum(x), PointType::Enum(y)) => x.iter().map(|(_, v)| v).eq(y.iter().map(|(_, v)| v)),
        (x, y) => x == y,
    }
}
