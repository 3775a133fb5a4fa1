//! What comes of a network where several conditions meet on a wire that nothing takes: they hang together by nothing, as a form that only
//! tells who takes what would read them. Each part is drawn as the network that it is.

use crate::model::{Element, Network, Notes, Wire};
use std::collections::{HashMap, HashSet};

/// The networks that a network is; one at least. The first keeps label and comments.
pub(super) fn parts(mut network: Network) -> Vec<Network> {
    let (fed, taken) = network.usage();
    let meets =
        |(wire, feeders): (&Wire, &Vec<usize>)| (feeders.len() > 1 && !taken.contains_key(wire)).then_some(*wire);
    let meeting: HashSet<Wire> = fed.iter().filter_map(meets).collect();
    if meeting.is_empty() {
        return vec![network.tidied()];
    }
    // From now on each has a wire of its own.
    let mut next = fed.keys().chain(taken.keys()).map(|wire| wire.0 + 1).max().unwrap_or_default();
    for element in &mut network.elements {
        element.kind.wires_mut(&mut |wire| {
            if meeting.contains(wire) {
                *wire = Wire(next);
                next += 1;
            }
        });
    }
    let mut rest = groups(std::mem::take(&mut network.elements)).into_iter();
    let first = Network { elements: rest.next().unwrap_or_default(), ..network.clone() };
    let blank = || Notes { blank_before: true, ..Notes::default() };
    let rest = rest.map(|elements| Network { label: None, elements, span: network.span, notes: blank() });
    std::iter::once(first).chain(rest).map(Network::tidied).collect()
}

/// Elements that hang together by wires, other than the rail, in the order in which they stand.
fn groups(elements: Vec<Element>) -> Vec<Vec<Element>> {
    let mut groups: Vec<Vec<(usize, Element)>> = Vec::new();
    // The group of each wire; a group that was joined to another one is empty.
    let mut owner: HashMap<Wire, usize> = HashMap::new();
    for (at, element) in elements.into_iter().enumerate() {
        let mut wires = Vec::new();
        element.kind.inputs(&mut |wire| wires.push(wire));
        element.kind.outputs(&mut |wire| wires.push(wire));
        wires.retain(|wire| *wire != Wire::RAIL);
        let mut own: Vec<usize> = wires.iter().filter_map(|wire| owner.get(wire).copied()).collect();
        own.sort_unstable();
        own.dedup();
        let to = own.first().copied().unwrap_or(groups.len());
        if to == groups.len() {
            groups.push(Vec::new());
        }
        for other in own.into_iter().skip(1) {
            let moved = std::mem::take(&mut groups[other]);
            groups[to].extend(moved);
            owner.values_mut().filter(|group| **group == other).for_each(|group| *group = to);
        }
        owner.extend(wires.into_iter().map(|wire| (wire, to)));
        groups[to].push((at, element));
    }
    let in_order = |mut group: Vec<(usize, Element)>| {
        group.sort_by_key(|(at, _)| *at);
        group.into_iter().map(|(_, element)| element).collect()
    };
    groups.into_iter().filter(|group| !group.is_empty()).map(in_order).collect()
}
