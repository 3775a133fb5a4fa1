//! Registers that hold a quotient hold its dividend instead, and what reads them divides.
//!
//! Where one version keeps a time and the other the ticks in it, both then keep the same number, and that is a fact
//! that is easily found and proved.

use super::net::{Gate, Net, Node, RegId};
use super::range::{Ranges, ranges};
use crate::model::IntShape;
use std::collections::{HashMap, HashSet};

/// Values that a register chooses from, at most.
const MOST_LEAVES: usize = 200;

/// The net in which registers hold dividends, and of each gate the one that is the same there; `None` if no register
/// holds a quotient.
pub(crate) fn undivided(net: &Net) -> Option<(Net, Vec<Node>)> {
    let ranges = ranges(net);
    let ids = (0..net.registers.len() as u32).map(RegId);
    let divisors: Vec<Option<i64>> = ids.map(|id| divisor(net, &ranges, id)).collect();
    divisors.iter().flatten().next()?;
    let mut out = Net::default();
    (out.registers, out.inputs) = (net.registers.clone(), net.inputs.clone());
    out.unknown.clone_from(&net.unknown);
    let mut same: Vec<Node> = Vec::with_capacity(net.gates.len());
    for gate in &net.gates {
        let node = out.add(gate.over(|n| same[n.0 as usize]));
        let by = if let Gate::Reg(id) = gate { divisors[id.0 as usize] } else { None };
        same.push(by.map_or(node, |by| {
            let by = out.constant(by);
            out.add(Gate::Div(IntShape::LONG, node, by))
        }));
    }
    for (number, (register, by)) in net.registers.iter().zip(&divisors).enumerate() {
        let next = same[register.next.0 as usize];
        let next = by.map_or(next, |by| dividend(net, &mut out, &same, &mut HashMap::new(), register.next, by));
        let own = &mut out.registers[number];
        own.next = next;
        own.init *= by.unwrap_or(1);
        own.per = by.unwrap_or(1);
    }
    Some((out, same))
}

/// The one divisor of all that a register may hold next but constants and what it holds already.
fn divisor(net: &Net, ranges: &Ranges, id: RegId) -> Option<i64> {
    let register = &net.registers[id.0 as usize];
    if register.bool || register.stopwatch || register.init < 0 {
        return None;
    }
    let (mut divisor, mut most) = (None, register.init);
    let mut seen = HashSet::new();
    let mut list = vec![register.next];
    while let Some(node) = list.pop() {
        if !seen.insert(node) {
            continue;
        }
        match net.gate(node) {
            _ if seen.len() > MOST_LEAVES => return None,
            Gate::Mux(_, a, b) => list.extend([a, b]),
            Gate::Reg(own) if own == id => {}
            Gate::Const(value) if value >= 0 => most = most.max(value),
            Gate::Wrap(s, a) if ranges.fits(a, s) => list.push(a),
            Gate::Div(s, x, by) if !s.is_unsigned_64() && ranges.of(x).0 >= 0 => {
                let by = net.as_constant(by).filter(|by| *by > 1)?;
                if *divisor.get_or_insert(by) != by {
                    return None;
                }
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
            | Gate::Eq(..)
            | Gate::Less(..)
            | Gate::Below(..)
            | Gate::Min(..)
            | Gate::Max(..)
            | Gate::Shift(..)
            | Gate::Whole(..)
            | Gate::Fails(..) => return None,
        }
    }
    divisor.filter(|by| most.checked_mul(*by).is_some())
}

/// What stands above the divisor in what a register holds next; `known` is what was found of gates on the way, as paths
/// meet again.
fn dividend(net: &Net, out: &mut Net, same: &[Node], known: &mut HashMap<Node, Node>, node: Node, by: i64) -> Node {
    if let Some(known) = known.get(&node) {
        return *known;
    }
    let found = match net.gate(node) {
        Gate::Mux(c, a, b) => {
            let [a, b] = [a, b].map(|way| dividend(net, out, same, known, way, by));
            out.mux(same[c.0 as usize], a, b)
        }
        Gate::Wrap(_, a) => dividend(net, out, same, known, a, by),
        Gate::Div(_, x, _) => same[x.0 as usize],
        Gate::Const(value) => out.constant(value * by),
        other @ (Gate::Input(_)
        | Gate::Reg(_)
        | Gate::And(..)
        | Gate::Or(..)
        | Gate::Xor(..)
        | Gate::Add(..)
        | Gate::Sub(..)
        | Gate::Mul(..)
        | Gate::Mod(..)
        | Gate::Advance(..)
        | Gate::Eq(..)
        | Gate::Less(..)
        | Gate::Below(..)
        | Gate::Min(..)
        | Gate::Max(..)
        | Gate::Shift(..)
        | Gate::Whole(..)
        | Gate::Fails(..)) => out.add(other),
    };
    known.insert(node, found);
    found
}
