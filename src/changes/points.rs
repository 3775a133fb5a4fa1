//! What the outside gives and sees, and where the open protocol has it. Addresses are told with declarations.

use super::units::HeldNames;
use super::{Both, Cause, Group, Kind};
use crate::model::Outside;
use crate::protocol::Numbers;
use crate::scan::Machine;
use std::collections::{BTreeMap, HashMap};

impl HeldNames {
    /// The name on the left of a variable or point of the right, in capitals: each part of it by itself.
    pub(super) fn old(&self, name: &str) -> String {
        let key = name.to_uppercase();
        let whole = self.shared.names.get(&key).or_else(|| self.own.values().find_map(|names| names.get(&key)));
        if let Some(old) = whole {
            return old.clone();
        }
        // `Program.Variable`, `Instance.Part`.
        match key.split_once('.') {
            Some((head, rest)) => {
                let part = self.shared.parts.get(rest).cloned().unwrap_or_else(|| self.old(rest));
                format!("{}.{part}", self.old(head))
            }
            None => key,
        }
    }
}

/// What differs of what the outside gives and sees, and of numbers.
pub(super) fn told(both: &mut Both<'_>, names: &HeldNames) {
    outside(both, names);
    numbers(both, names);
}

fn outside(both: &mut Both<'_>, names: &HeldNames) {
    let [left, right] = both.sides.map(|checked| checked.said_outside().to_vec());
    let word = |what: Option<Outside>| match what {
        Some(Outside::Given) => "given from outside",
        Some(Outside::Shown) => "shown outside",
        None => "neither given nor shown",
    };
    let old: BTreeMap<String, Outside> = left.iter().map(|(name, what)| (name.to_uppercase(), *what)).collect();
    let new: BTreeMap<String, (Outside, &String)> =
        right.iter().map(|(name, what)| (names.old(name), (*what, name))).collect();
    let mut all: Vec<&String> = old.keys().chain(new.keys()).collect();
    all.sort_unstable();
    all.dedup();
    for name in all {
        let (a, b) = (old.get(name).copied(), new.get(name).map(|(what, _)| *what));
        if a != b {
            let own = new.get(name).map_or_else(|| name.clone(), |(_, own)| (*own).clone());
            let told = both.tell((Group::Points, Kind::Outside), None, name);
            told.note(format!("{} became {}", word(a), word(b)));
            told.cause(Cause::Variable([None, None], [Some(name.clone()), Some(own)]));
        }
    }
}

/// Numbers that sheets and cards give; those that have no address get any that is free, which says nothing.
fn numbers(both: &mut Both<'_>, names: &HeldNames) {
    let [Some(left), Some(right)] = &both.machines else { return };
    // Only what has an address has a number that says something.
    let is_located = |machine: &Machine| machine.points().iter().any(|point| point.address.is_some());
    if !is_located(left) || !is_located(right) {
        return;
    }
    let [Ok(left), Ok(right)] =
        [(0, left), (1, right)].map(|(side, machine)| Numbers::of(both.sides[side], machine, &[]))
    else {
        return;
    };
    // Where the address is another one, the number follows it.
    let moved: Vec<String> = both
        .found
        .iter()
        .filter(|found| found.change.kind == Kind::Address)
        .map(|found| found.change.subject.to_uppercase())
        .collect();
    let there: HashMap<String, _> =
        right.list().iter().filter(|n| !n.placed).map(|n| (names.old(&n.name), n)).collect();
    for old in left.list().iter().filter(|number| !number.placed) {
        let key = old.name.to_uppercase();
        let Some(new) = there.get(&key).filter(|new| (new.table, new.number) != (old.table, old.number)) else {
            continue;
        };
        let last = key.rsplit('.').next().unwrap_or(&key);
        if !moved.iter().any(|name| name == last) {
            let note = format!("{} {} became {} {}", old.table, old.number, new.table, new.number);
            both.tell((Group::Points, Kind::Protocol), None, &old.name).note(note);
        }
    }
}
