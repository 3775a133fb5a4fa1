//! Which input belongs to which, and which output: by name, whatever the case of the letters, or as said.

use super::alone::{Alone, LEFT_OUT};
use crate::model::Duration;
use crate::scan::{Direction, Machine, Point, PointId, PointType};
use crate::twin::reading::{self, Mapping};
use crate::twin::terminals::Moved;
use crate::twin::{PairError, Version};
use serde::Serialize;
use std::collections::HashMap;

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

/// A point of the left version and its partner on the right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Pair {
    /// The name on the left.
    pub name: String,
    pub(crate) left: PointId,
    pub(crate) right: PointId,
    /// What becomes of a value on its way to the right.
    pub mapping: Mapping,
    /// Of outputs: how exactly they must agree.
    pub tolerance: Tolerance,
    /// Of inputs: what they are at rest, if that is not their initial value; as it sits in memory on the left.
    pub rest: Option<i64>,
    /// Of inputs: the values they are given at most, as they sit in memory on the left.
    pub range: Option<(i64, i64)>,
    /// True if nothing on the right stands at its terminal: an input is given to the left alone, an output is held against
    /// nothing, which shows 0.
    pub(crate) unwired: bool,
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
            unwired: false,
        }
    }

    /// The point on the left.
    #[must_use]
    pub fn left(&self) -> PointId {
        self.left
    }

    /// The point on the right.
    #[must_use]
    pub fn right(&self) -> PointId {
        self.right
    }

    /// The right value that belongs to a left one, both as they sit in memory; `None` if the right type does not hold it.
    pub(crate) fn right_of(&self, machines: [&Machine; 2], left: i64) -> Option<i64> {
        if self.mapping == Mapping::Same { Some(left) } else { self.mapping.right(self.types(machines), left) }
    }

    /// The types of both points.
    pub(crate) fn types<'m>(&self, [left, right]: [&'m Machine; 2]) -> [&'m PointType; 2] {
        [&left.point(self.left).ty, &right.point(self.right).ty]
    }
}

/// Everything that is paired, and what is not.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Pairing {
    /// Inputs that both versions are given.
    pub(crate) inputs: Vec<Pair>,
    /// Outputs that are compared.
    pub(crate) outputs: Vec<Pair>,
    /// Inputs and outputs without a partner, or with one of a type that may be read in several ways.
    pub(crate) alone: Vec<Alone>,
    /// Names that are at other terminals in the other version, of the same dialect.
    pub(crate) moved: Vec<Moved>,
    /// Located memory that a version reads and no program writes, in words.
    pub(crate) held: Vec<String>,
    /// True if someone has agreed that nothing is driven: neither version has an input.
    pub(crate) closed: bool,
    /// True of one version by itself: its inputs are driven, and nothing is compared.
    pub(crate) single: bool,
    /// Differences that are known and agreed to.
    pub(crate) known: Vec<crate::twin::Known>,
}

/// What is agreed to where no version has an input; no variable can have that name.
pub const NO_INPUTS: &str = "no-inputs";

impl Pairing {
    /// Pairs inputs with inputs and outputs with outputs by name, where both types have one reading.
    #[must_use]
    pub(crate) fn by_name(left: &Version, right: &Version) -> Pairing {
        let mut pairing = Pairing::default();
        for direction in [Direction::Input, Direction::Output] {
            let names = by_names(right, direction);
            for (id, point) in left.machine.points_of(direction) {
                if let Some((other, p)) = names.get(&point.name.to_ascii_lowercase()).copied()
                    && let Ok(mapping) = reading::only(&point.ty, &p.ty)
                {
                    let pair = Pair { mapping, ..Pair::new(point.name.clone(), id, other) };
                    pairing.list(direction).push(pair);
                }
            }
        }
        pairing.held = [left, right].into_iter().flat_map(held).collect();
        pairing.find_moved(left, right);
        pairing.find_alone(left, right);
        pairing
    }

    /// The inputs of one version that is not compared with another.
    #[must_use]
    pub(in crate::twin) fn single(version: &Version) -> Pairing {
        let inputs = version.machine.points_of(Direction::Input);
        Pairing {
            inputs: inputs.map(|(id, point)| Pair::new(point.name.clone(), id, id)).collect(),
            held: held(version),
            single: true,
            ..Pairing::default()
        }
    }

    /// True of one version by itself: its inputs are driven, and nothing is compared.
    #[must_use]
    pub fn is_single(&self) -> bool {
        self.single
    }

    /// Differences that are known and agreed to.
    #[must_use]
    pub fn known(&self) -> &[crate::twin::Known] {
        &self.known
    }

    /// Whether an output is held against nothing, as nothing on the right stands at its terminal.
    pub(crate) fn is_unwired(&self, output: &str) -> bool {
        self.outputs.iter().any(|pair| pair.unwired && pair.name == output)
    }

    /// How many versions take part.
    pub(crate) fn versions(&self) -> usize {
        if self.single { 1 } else { 2 }
    }

    /// Inputs that both versions are given.
    #[must_use]
    pub fn inputs(&self) -> &[Pair] {
        &self.inputs
    }

    /// Outputs that are compared.
    #[must_use]
    pub fn outputs(&self) -> &[Pair] {
        &self.outputs
    }

    /// Inputs and outputs without a partner, or with one of a type that may be read in several ways.
    #[must_use]
    pub fn alone(&self) -> &[Alone] {
        &self.alone
    }

    /// Names that are at other terminals in the other version, of the same dialect.
    #[must_use]
    pub fn moved(&self) -> &[Moved] {
        &self.moved
    }

    /// Lets an output, or all of them, agree within a tolerance only.
    ///
    /// # Errors
    /// If there is no such output that is compared.
    pub fn tolerate(&mut self, output: Option<&str>, tolerance: Tolerance) -> Result<(), PairError> {
        let is_meant = |pair: &&mut Pair| output.is_none_or(|name| pair.name.eq_ignore_ascii_case(name));
        let meant = self.outputs.iter_mut().filter(is_meant).map(|pair| pair.tolerance = tolerance).count();
        match output {
            Some(name) if meant == 0 => Err(PairError::NotCompared(name.to_string())),
            _ => Ok(()),
        }
    }

    pub(in crate::twin) fn list(&mut self, direction: Direction) -> &mut Vec<Pair> {
        if direction == Direction::Input { &mut self.inputs } else { &mut self.outputs }
    }

    /// Pairs two points by their names, whatever paired them before. [`Mapping::Same`] takes the one reading that their
    /// types have.
    ///
    /// # Errors
    /// In one sentence, if there is no such point or the two do not go together.
    pub fn pair(
        &mut self,
        versions: [&Version; 2],
        names: [&str; 2],
        mapping: Mapping,
    ) -> Result<&mut Pair, PairError> {
        let (direction, left) = self.join(versions, names, mapping)?;
        self.find_alone(versions[0], versions[1]);
        let pair = self.list(direction).iter_mut().find(|pair| pair.left == left);
        pair.ok_or_else(|| PairError::NotPaired(names[0].to_string()))
    }

    /// The same without asking who is left alone: whoever pairs thousands asks once, by [`Pairing::find_alone`]. Gives the pair's
    /// direction and its left point.
    pub(crate) fn join(
        &mut self,
        [left, right]: [&Version; 2],
        [a, b]: [&str; 2],
        mapping: Mapping,
    ) -> Result<(Direction, PointId), PairError> {
        let find = |version: &Version, name: &str| {
            let none = || PairError::NoPoint { version: version.name.clone(), name: name.to_string() };
            version.machine.find(name).ok_or_else(none)
        };
        let (a, b) = (find(left, a)?, find(right, b)?);
        let (p, q) = (left.machine.point(a), right.machine.point(b));
        if p.direction != q.direction || p.direction == Direction::Internal {
            return Err(PairError::Direction(p.name.clone(), q.name.clone()));
        }
        let mapping = match mapping {
            Mapping::Same => reading::only(&p.ty, &q.ty).map_err(|possible| PairError::Reading {
                names: [p, q].map(|point| point.name.clone()),
                types: [p, q].map(|point| point.ty.to_string()),
                asks: asks(&possible),
            })?,
            other if other.fits([&p.ty, &q.ty]) => other,
            Mapping::Inverted | Mapping::Scaled(..) | Mapping::Number | Mapping::Bits | Mapping::Name => {
                return Err(PairError::Types {
                    names: [p, q].map(|point| point.name.clone()),
                    types: [p, q].map(|point| point.ty.to_string()),
                });
            }
        };
        let (direction, name) = (p.direction, p.name.clone());
        let list = self.list(direction);
        list.retain(|old| old.left != a && old.right != b);
        self.moved.retain(|moved| !moved.is_of(a, b));
        let list = self.list(direction);
        list.push(Pair { mapping, ..Pair::new(name, a, b) });
        list.sort_by_key(|pair| pair.left);
        Ok((direction, a))
    }

    /// Agrees that a point has no partner: an input keeps its value at rest, an output is not compared; or that the wire of
    /// a point that is at another terminal moves along with its name. [`NO_INPUTS`] agrees that neither version has an
    /// input.
    ///
    /// # Errors
    /// In one sentence, if there is no such point without a partner.
    pub fn agree(&mut self, name: &str) -> Result<(), PairError> {
        if name.eq_ignore_ascii_case(NO_INPUTS) {
            self.closed = true;
            return Ok(());
        }
        let mut any = self.agree_moved(name);
        for alone in self.alone.iter_mut().filter(|alone| alone.name.eq_ignore_ascii_case(name)) {
            (alone.agreed, any) = (true, true);
        }
        if any {
            return Ok(());
        }
        let names: Vec<&str> =
            self.alone.iter().map(|a| a.name.as_str()).chain(self.moved.iter().map(|m| m.name.as_str())).collect();
        let there_is = if names.is_empty() { "none is".to_string() } else { names.join(", ") };
        Err(PairError::NotAlone { name: name.to_string(), there_is })
    }

    /// Leaves a pair out, which is agreed to by saying so.
    ///
    /// # Errors
    /// If there is no such pair.
    pub fn leave(&mut self, name: &str) -> Result<(), PairError> {
        for (kind, list) in [("input", &mut self.inputs), ("output", &mut self.outputs)] {
            if let Some(at) = list.iter().position(|pair| pair.name.eq_ignore_ascii_case(name)) {
                let pair = list.remove(at);
                let (why, hint) = (LEFT_OUT.to_string(), String::new());
                let kind = kind.to_string();
                self.alone.push(Alone { name: pair.name, kind, why, hint, matters: true, agreed: true });
                return Ok(());
            }
        }
        Err(PairError::NotPaired(name.to_string()))
    }

    /// Why nothing can be said of what is paired so; `None` if all that matters is paired or agreed to.
    #[must_use]
    pub fn objection(&self) -> Option<String> {
        // Where no output has a partner it matters of each.
        let matters = |a: &&Alone| a.matters || (a.kind == "output" && self.outputs.is_empty());
        let open: Vec<String> =
            self.alone.iter().filter(matters).filter(|a| !a.agreed).map(ToString::to_string).collect();
        let pair = "Pair it in a twin file ([[pair]]), or agree to it (--agree NAME, or agree = [...] in a twin file)";
        if !open.is_empty() {
            return Some(format!("what the verdict hangs on has no partner. {}\n{}", pair, listed(&open)));
        }
        // Where a terminal is free on the right a difference may be found there; that nothing differs is never said.
        if self.unsettled().any(|moved| !moved.is_free) {
            return self.unsettled_objection();
        }
        if self.outputs.is_empty() && !self.single {
            return Some("nothing is compared: no output of one version has a partner in the other".to_string());
        }
        if self.inputs.is_empty() && !self.closed && !self.alone.iter().any(|a| a.kind == "input" && a.agreed) {
            let why =
                if self.single { "it has no input" } else { "no input of one version has a partner in the other" };
            return Some(format!(
                "nothing is driven: {why}. Where there is none, \
                 agree to it: --agree {NO_INPUTS}, or agree = [\"{NO_INPUTS}\"] in a twin file"
            ));
        }
        None
    }

    /// Why nothing is the same while points are at other terminals; `None` if none is, or all are agreed to.
    #[must_use]
    pub fn unsettled_objection(&self) -> Option<String> {
        let moved: Vec<String> = self.unsettled().map(ToString::to_string).collect();
        let how = "Pair it in a twin file ([[pair]]), or agree to it (--agree NAME, or agree = [...] in a twin file)";
        let why = format!("points are at other terminals, though both are of one dialect. {how}\n{}", listed(&moved));
        (!moved.is_empty()).then_some(why)
    }

    /// What limits a verdict over these pairs, a line each: points that were agreed to have no partner, outputs of one
    /// version only, points at other terminals, memory that keeps its initial value, and that nothing is driven.
    #[must_use]
    pub fn limits(&self) -> Vec<String> {
        let alone = self.alone.iter().filter(|alone| alone.agreed || alone.kind == "output").map(ToString::to_string);
        let moved = self.moved.iter().map(ToString::to_string);
        let closed = self.closed && self.inputs.is_empty();
        let nothing = closed.then(|| "nothing is driven, as was agreed".to_string());
        let known = self.known.iter().map(ToString::to_string);
        alone.chain(moved).chain(known).chain(self.held.iter().cloned()).chain(nothing).collect()
    }
}

/// Lines of an objection that are told, at most.
const MOST_TOLD: usize = 50;

/// The first lines, and how many more there are.
fn listed(lines: &[String]) -> String {
    let told = lines[..lines.len().min(MOST_TOLD)].join("\n");
    let more = lines.len().saturating_sub(MOST_TOLD);
    if more == 0 { told } else { format!("{told}\nand {more} more") }
}

/// Memory that may be a panel's or the plant's: it is located and read, and no program writes it.
fn held(version: &Version) -> Vec<String> {
    let machine = &version.machine;
    let unwritten = machine.unwritten();
    let points = machine.points_of(Direction::Internal).filter(|(_, point)| !point.is_part && unwritten(point));
    points
        .filter_map(|(_, point)| {
            let address = point.address.as_ref()?;
            let what = format!("{} ({address}) in {}: no program writes it", point.name, version.name);
            Some(format!("{what}, so it keeps its initial value; if a panel or the plant does, say that it is given"))
        })
        .collect()
}

/// Points of a version by their names, in one case of letters; of two that differ in case the first.
pub(super) fn by_names(version: &Version, direction: Direction) -> HashMap<String, (PointId, &Point)> {
    let mut out = HashMap::new();
    for (id, point) in version.machine.points_of(direction) {
        out.entry(point.name.to_ascii_lowercase()).or_insert((id, point));
    }
    out
}

/// What a user is asked where types may be read in several ways, or in none.
pub(super) fn asks(possible: &[Mapping]) -> String {
    let words: Vec<&str> = possible.iter().filter_map(|m| reading_word(*m)).collect();
    match words.as_slice() {
        [] => "no reading is known; scale it, or pair it with another one".to_string(),
        [one] => format!("say in a twin file whether that is meant: reading = \"{one}\""),
        several => {
            let list: Vec<String> = several.iter().map(|w| format!("\"{w}\"")).collect();
            format!("say in a twin file how it is meant: reading = {}", list.join(" or "))
        }
    }
}

/// What a twin file calls a reading.
pub(in crate::twin) fn reading_word(mapping: Mapping) -> Option<&'static str> {
    match mapping {
        Mapping::Number => Some("number"),
        Mapping::Bits => Some("bits"),
        Mapping::Name => Some("name"),
        Mapping::Same | Mapping::Inverted | Mapping::Scaled(..) => None,
    }
}
