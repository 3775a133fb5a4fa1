//! What comes of a network where several conditions meet on a wire that nothing takes: they hang together by nothing, as a form that only
//! tells who takes what would read them. Each part is drawn as the network that it is.

use crate::model::{Element, Network, Notes, Wire, joined};
use std::collections::{BTreeMap, HashSet};

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
    let firsts = joined(elements.iter().map(|e| &e.kind), |wire| wire != Wire::RAIL);
    let mut groups: BTreeMap<usize, Vec<Element>> = BTreeMap::new();
    for (first, element) in firsts.into_iter().zip(elements) {
        groups.entry(first).or_default().push(element);
    }
    groups.into_values().collect()
}
