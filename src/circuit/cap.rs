//! Stopwatches that stop: beyond the longest time it is ever compared with, a stopwatch may stand still.
//!
//! Only where every use of it is of that kind; one that is added up or shown runs on.

use super::net::{Gate, Net, Node, RegId};
use super::range::Ranges;
use super::unit::Units;
use std::collections::{HashMap, HashSet};

/// Lets stopwatches stop where that is never noticed. `shown` are the gates that are seen from outside.
pub(crate) fn cap_stopwatches(net: &mut Net, ranges: &Ranges, units: &Units, live: &[bool], shown: &[Node]) {
    let mut users: Vec<Vec<Node>> = vec![Vec::new(); net.gates.len()];
    let mut begins: Vec<Option<Node>> = vec![None; net.registers.len()];
    for (at, gate) in net.gates.iter().enumerate().filter(|(at, _)| live[*at]) {
        gate.operands().for_each(|n| users[n.0 as usize].push(Node(at as u32)));
        if let Gate::Reg(id) = gate {
            begins[id.0 as usize] = Some(Node(at as u32));
        }
    }
    let mut kept: HashMap<Node, Vec<RegId>> = HashMap::new();
    for (number, register) in net.registers.iter().enumerate().filter(|(n, _)| begins[*n].is_some()) {
        kept.entry(register.next).or_default().push(RegId(number as u32));
    }
    let shown: HashSet<Node> = shown.iter().copied().collect();
    for (number, start) in begins.into_iter().enumerate() {
        let Some(start) = start.filter(|_| net.registers[number].stopwatch) else { continue };
        let look = Look { net, ranges, users: &users, kept: &kept, shown: &shown, id: RegId(number as u32), start };
        let Some(longest) = look.longest() else { continue };
        let unit = units.of(start);
        let Some(cap) = longest.checked_add(unit).map(|l| l / unit * unit) else { continue };
        let cap = net.constant(cap);
        let next = net.registers[number].next;
        net.registers[number].next = net.add(Gate::Min(next, cap));
    }
}

struct Look<'a> {
    net: &'a Net,
    ranges: &'a Ranges,
    users: &'a [Vec<Node>],
    kept: &'a HashMap<Node, Vec<RegId>>,
    shown: &'a HashSet<Node>,
    id: RegId,
    /// What it shows when a scan begins.
    start: Node,
}

impl Look<'_> {
    /// The longest time it is compared with; `None` if it is used in another way or with no limit.
    fn longest(&self) -> Option<i64> {
        // Gates that show the stopwatch, or so many parts of it.
        let mut list = vec![(self.start, 1i64)];
        let mut seen: HashMap<Node, i64> = HashMap::new();
        let mut longest = 0i64;
        while let Some((node, by)) = list.pop() {
            if seen.get(&node).is_some_and(|k| *k == by) {
                continue;
            }
            if seen.insert(node, by).is_some() || self.shown.contains(&node) {
                return None;
            }
            if self.kept.get(&node).is_some_and(|ids| ids.iter().any(|id| *id != self.id) || by != 1) {
                return None;
            }
            for user in &self.users[node.0 as usize] {
                let beyond = |other: Node| {
                    let most = self.ranges.of(other).1;
                    if most == i64::MAX { None } else { most.max(0).checked_add(2)?.checked_mul(by) }
                };
                match self.net.gate(*user) {
                    Gate::Advance(a, b) if a == node && b != node && self.start == node => {
                        longest = longest.max(self.ranges.of(b).1);
                        list.push((*user, by));
                    }
                    Gate::Mux(c, ..) if c != node => list.push((*user, by)),
                    Gate::Min(a, b) | Gate::Eq(a, b) | Gate::Less(a, b) => {
                        longest = longest.max(beyond(if a == node { b } else { a })?);
                    }
                    Gate::Max(a, b) => {
                        longest = longest.max(beyond(if a == node { b } else { a })?);
                        list.push((*user, by));
                    }
                    Gate::Div(s, a, b) if a == node && !s.is_unsigned_64() => {
                        let k = self.net.as_constant(b).filter(|k| *k > 0)?;
                        list.push((*user, by.checked_mul(k)?));
                    }
                    Gate::Const(_)
                    | Gate::Input(_)
                    | Gate::Reg(_)
                    | Gate::And(..)
                    | Gate::Or(..)
                    | Gate::Xor(..)
                    | Gate::Add(..)
                    | Gate::Sub(..)
                    | Gate::Mul(..)
                    | Gate::Div(..)
                    | Gate::Mod(..)
                    | Gate::Advance(..)
                    | Gate::Wrap(..)
                    | Gate::Below(..)
                    | Gate::Mux(..)
                    | Gate::Shift(..)
                    | Gate::Whole(..)
                    | Gate::Fails(..) => return None,
                }
            }
        }
        Some(longest)
    }
}
