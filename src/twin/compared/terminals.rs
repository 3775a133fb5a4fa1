//! Terminals: within one dialect a point is where it is wired, whatever it is called. One name at two addresses is two
//! terminals, so it is compared by the terminal, or asked about, until someone says that the wires move with the program.

use crate::scan::{Direction, PointId};
use crate::twin::Version;
use crate::twin::pair::{Pair, Pairing};
use crate::twin::reading;
use serde::Serialize;
use std::collections::{HashMap, HashSet};
use std::fmt;

/// A name that is at another terminal in the other version, though both are of one dialect.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Moved {
    /// The name on the left.
    pub name: String,
    /// `input` or `output`.
    pub kind: String,
    /// Its addresses, left and right.
    pub addresses: [String; 2],
    /// What is at its terminal on the right, if that is only exchanged: it is compared with that. Else nothing is decided.
    pub with: Option<String>,
    /// True if someone has agreed that the wire moves along: it is compared by its name.
    pub agreed: bool,
    /// True if nothing on the right stands at its terminal: what that shows is a difference.
    #[serde(skip)]
    pub(in crate::twin) is_free: bool,
    /// The pair of that name.
    #[serde(skip)]
    by_name: Pair,
}

impl fmt::Display for Moved {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [left, right] = &self.addresses;
        write!(f, "{} {}: at {left} on the left and at {right} on the right", self.kind, self.name)?;
        match (&self.with, self.agreed) {
            (_, true) => write!(f, "; its wire moves along, as was agreed"),
            (Some(other), false) => write!(f, ", so it is compared by its terminal, with {other}"),
            (None, false) => write!(f, "; if its wire moves along, agree to it"),
        }
    }
}

impl Pairing {
    /// Finds what is at other terminals within one dialect, and compares what is exchanged by terminal.
    pub(in crate::twin) fn find_moved(&mut self, left: &Version, right: &Version) {
        let dialect = |version: &Version| version.checked.project().library.as_ref().map(|l| l.sheet.name.clone());
        if dialect(left) != dialect(right) {
            return;
        }
        for direction in [Direction::Input, Direction::Output] {
            let mut moved: Vec<Moved> = Vec::new();
            let pairs = if direction == Direction::Input { &self.inputs } else { &self.outputs };
            for pair in pairs {
                let points = [left.machine.point(pair.left), right.machine.point(pair.right)];
                let [Some(a), Some(b)] = points.map(|point| point.address.clone()) else { continue };
                if !a.eq_ignore_ascii_case(&b) {
                    let kind = if direction == Direction::Input { "input" } else { "output" }.to_string();
                    let (name, by_name) = (pair.name.clone(), pair.clone());
                    moved.push(Moved {
                        name,
                        kind,
                        addresses: [a, b],
                        with: None,
                        agreed: false,
                        is_free: false,
                        by_name,
                    });
                }
            }
            self.exchange(&mut moved, [left, right], direction);
            self.unwire(&mut moved, right, direction);
            self.moved.extend(moved);
        }
    }

    /// Pairs by terminal what only changes places among itself.
    fn exchange(&mut self, moved: &mut [Moved], [left, right]: [&Version; 2], direction: Direction) {
        // Who stands on the right at the terminal that a name has on the left.
        let right_at: HashMap<String, usize> =
            moved.iter().enumerate().map(|(n, m)| (m.addresses[1].to_uppercase(), n)).collect();
        let next: Vec<Option<usize>> =
            moved.iter().map(|m| right_at.get(&m.addresses[0].to_uppercase()).copied()).collect();
        let cycle = in_cycles(&next);
        let there = |n: usize| next[n].map(|other| moved[other].by_name.right);
        let pairs: Option<Vec<(usize, PointId, reading::Mapping)>> = cycle
            .iter()
            .map(|n| {
                let other = there(*n)?;
                let types = [&left.machine.point(moved[*n].by_name.left).ty, &right.machine.point(other).ty];
                Some((*n, other, reading::only(types[0], types[1]).ok()?))
            })
            .collect();
        for (n, other, mapping) in pairs.unwrap_or_default() {
            moved[n].with = Some(right.machine.point(other).name.clone());
            let at = moved[n].by_name.left;
            for pair in self.list(direction).iter_mut().filter(|pair| pair.left == at) {
                *pair = Pair { mapping, ..Pair::new(pair.name.clone(), at, other) };
            }
        }
    }

    /// What stands at a terminal of its own on the left, where the right has nothing, is held against nothing.
    fn unwire(&mut self, moved: &mut [Moved], right: &Version, direction: Direction) {
        let points = right.machine.points().iter();
        let taken: HashSet<String> = points.filter_map(|point| Some(point.address.as_ref()?.to_uppercase())).collect();
        for moved in moved.iter_mut().filter(|moved| moved.with.is_none()) {
            moved.is_free = !taken.contains(&moved.addresses[0].to_uppercase());
            let left = moved.by_name.left;
            let is_free = moved.is_free;
            self.list(direction).iter_mut().filter(|pair| pair.left == left).for_each(|pair| pair.unwired = is_free);
        }
    }

    /// What is at other terminals and nobody has agreed to, where nothing can be compared by terminal.
    pub(in crate::twin) fn unsettled(&self) -> impl Iterator<Item = &Moved> {
        self.moved.iter().filter(|moved| !moved.agreed && moved.with.is_none())
    }

    /// Agrees that wires move along with a name; false if that is at one terminal. What was exchanged with it is compared
    /// by name as well.
    pub(in crate::twin) fn agree_moved(&mut self, name: &str) -> bool {
        let Some(first) = self.moved.iter().position(|moved| moved.name.eq_ignore_ascii_case(name)) else {
            return false;
        };
        let mut due = vec![first];
        while let Some(n) = due.pop() {
            if std::mem::replace(&mut self.moved[n].agreed, true) {
                continue;
            }
            let moved = self.moved[n].clone();
            let is_input = moved.kind == "input";
            let list = if is_input { &mut self.inputs } else { &mut self.outputs };
            list.iter_mut()
                .filter(|pair| pair.left == moved.by_name.left)
                .for_each(|pair| *pair = moved.by_name.clone());
            if moved.with.is_some() {
                let along = |m: &Moved| m.kind == moved.kind && m.with.is_some() && shares(m, &moved);
                due.extend((0..self.moved.len()).filter(|n| along(&self.moved[*n])));
            }
        }
        true
    }
}

/// The places from which following leads back to themselves.
fn in_cycles(next: &[Option<usize>]) -> Vec<usize> {
    // 0 for places that no walk has met, else the number of the walk that met them first.
    let mut met = vec![0; next.len()];
    let mut out = Vec::new();
    for first in 0..next.len() {
        let mut at = Some(first);
        while let Some(place) = at.filter(|place| met[*place] == 0) {
            met[place] = first + 1;
            at = next[place];
        }
        // The walk has run into itself: from there on it is a cycle.
        let Some(entry) = at.filter(|place| met[*place] == first + 1) else { continue };
        let mut place = entry;
        loop {
            out.push(place);
            match next[place] {
                Some(following) if following != entry => place = following,
                _ => break,
            }
        }
    }
    out
}

impl Moved {
    /// Whether a pair of points that someone has named settles it.
    pub(in crate::twin) fn is_of(&self, left: PointId, right: PointId) -> bool {
        self.by_name.left == left || self.by_name.right == right
    }
}

/// Whether two exchanged names have a terminal in common.
fn shares(one: &Moved, other: &Moved) -> bool {
    one.addresses.iter().any(|a| other.addresses.iter().any(|b| a.eq_ignore_ascii_case(b)))
}
