//! What is assumed in the circuit: inputs are made to keep to it, and that they were given so is told as well, so that a
//! certificate can hold it as constraints.

use crate::circuit::{Net, Node, RegId, Role};
use crate::twin::both::{Begin, Outset};

/// Inputs in a scan.
pub(crate) struct Given {
    /// What each of them is.
    pub(crate) nodes: Vec<Node>,
    /// What is assumed, in words, and whether the inputs that are free keep to it. Where all of them do, `nodes` are those.
    pub(crate) assumed: Vec<(String, Node)>,
}

/// Makes free inputs keep to what is assumed. `names` and `rest` are those of each, `switches` tells which of them are BOOL.
pub(crate) fn given(net: &mut Net, outset: &Outset, free: &[Node], names: &[&str], begin: &[Node]) -> Given {
    let mut assumed = Vec::new();
    let needs_first = outset.begin != Begin::Any || outset.one_change;
    let first = needs_first.then(|| first_scan(net));
    for (a, b) in &outset.apart {
        let both = net.and(free[*a], free[*b]);
        assumed.push((format!("{} and {} are never on together", names[*a], names[*b]), net.not(both)));
    }
    let start: Vec<Node> = match outset.begin {
        Begin::Any => free.to_vec(),
        Begin::Rest | Begin::Opposite => begin.to_vec(),
    };
    if let (Some(first), true) = (first, outset.begin != Begin::Any) {
        let mut all = net.bool(true);
        for (free, begin) in free.iter().zip(begin) {
            let same = net.equal(*free, *begin);
            all = net.and(all, same);
        }
        let later = net.not(first);
        assumed.push((outset.begin.words().to_string(), net.or(later, all)));
    }
    let start = apart(net, outset, &start);
    let Some(first) = first else { return Given { nodes: start, assumed } };
    let (later, before) = match outset.one_change {
        true => one_change(net, outset, (first, free), begin, &mut assumed),
        false => (apart(net, outset, free), Vec::new()),
    };
    let nodes: Vec<Node> = start.iter().zip(&later).map(|(start, later)| net.mux(first, *start, *later)).collect();
    for (register, node) in before.into_iter().zip(&nodes) {
        net.registers[register.0 as usize].next = *node;
    }
    Given { nodes, assumed }
}

/// Of inputs that are never on together the later one is off.
fn apart(net: &mut Net, outset: &Outset, list: &[Node]) -> Vec<Node> {
    let mut out: Vec<Node> = Vec::new();
    for (number, node) in list.iter().enumerate() {
        let mut node = *node;
        for (earlier, _) in outset.apart.iter().filter(|(_, later)| *later == number) {
            let not = net.not(out[*earlier]);
            node = net.and(node, not);
        }
        out.push(node);
    }
    out
}

/// Only the first input that is to change does; registers hold what inputs were.
fn one_change(
    net: &mut Net,
    outset: &Outset,
    (first, free): (Node, &[Node]),
    rest: &[Node],
    assumed: &mut Vec<(String, Node)>,
) -> (Vec<Node>, Vec<RegId>) {
    let registers: Vec<(RegId, Node)> = (0..free.len())
        .map(|number| {
            let init = net.as_constant(rest[number]).unwrap_or_default();
            let (id, node) = net.register(init, false, false);
            net.registers[id.0 as usize].role = Role::Given(number as u32);
            (id, node)
        })
        .collect();
    let before = |number: usize| registers[number].1;
    let (mut taken, mut seen, mut two) = (net.bool(false), net.bool(false), net.bool(false));
    let mut nodes = Vec::new();
    for (number, node) in free.iter().enumerate() {
        let same = net.equal(*node, before(number));
        let differs = net.not(same);
        let again = net.and(seen, differs);
        (two, seen) = (net.or(two, again), net.or(seen, differs));
        let others = outset.apart.iter().filter_map(|(a, b)| match number {
            number if number == *a => Some(*b),
            number if number == *b => Some(*a),
            _ => None,
        });
        let mut may = net.not(taken);
        for other in others {
            let both = net.and(*node, before(other));
            let not = net.not(both);
            may = net.and(may, not);
        }
        let changes = net.and(differs, may);
        taken = net.or(taken, changes);
        nodes.push(net.mux(changes, *node, before(number)));
    }
    let at_most_one = net.not(two);
    let words = "at most one input changes from one scan to the next".to_string();
    assumed.push((words, net.or(first, at_most_one)));
    (nodes, registers.into_iter().map(|(id, _)| id).collect())
}

/// Whether a scan is the first after power-up.
fn first_scan(net: &mut Net) -> Node {
    let (id, node) = net.register(1, false, true);
    let register = &mut net.registers[id.0 as usize];
    register.role = Role::AfterPower;
    net.registers[id.0 as usize].next = net.bool(false);
    node
}
