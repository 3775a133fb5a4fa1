//! What comes of a network where nothing takes a condition that was drawn: contacts that only feed it have no effect and go, and what is
//! left may hang together by nothing. Then each part of it is a network, as it will be when it is read.

use crate::model::{ContactForm, Element, ElementKind, Network, Notes, OutPin, Wire};
use crate::translate::to_st::may_fault;
use std::collections::HashMap;

/// The networks that a network is without what has no effect; one at least. The first keeps label and comments.
pub(super) fn parts(mut network: Network) -> Vec<Network> {
    let before = network.elements.len();
    while drop_idle(&mut network) {}
    if network.elements.len() == before && !has_meeting(&network) {
        return vec![network.tidied()];
    }
    leave_idle(&mut network);
    let groups = groups(std::mem::take(&mut network.elements));
    let mut rest = groups.into_iter();
    let first = Network { elements: rest.next().unwrap_or_default(), ..network.clone() };
    let blank = || Notes { blank_before: true, ..Notes::default() };
    let rest = rest.map(|elements| Network { label: None, elements, span: network.span, notes: blank() });
    std::iter::once(first).chain(rest).map(Network::tidied).collect()
}

/// True if a wire that nothing takes is fed by several: what is drawn as one would be read as two in a form that only tells who takes.
fn has_meeting(network: &Network) -> bool {
    let (fed, taken) = network.usage();
    fed.iter().any(|(wire, feeders)| feeders.len() > 1 && !taken.contains_key(wire))
}

/// Takes out contacts and comparisons whose power nothing takes, and that remember nothing and cannot be a fault.
fn drop_idle(network: &mut Network) -> bool {
    let (_, taken) = network.usage();
    let before = network.elements.len();
    network.elements.retain(|element| match &element.kind {
        ElementKind::Contact { form: ContactForm::Open | ContactForm::Closed, operand, to, .. } => {
            taken.contains_key(to) || may_fault(operand)
        }
        ElementKind::Compare { left, right, to, .. } => taken.contains_key(to) || may_fault(left) || may_fault(right),
        ElementKind::Contact { form: ContactForm::Rising | ContactForm::Falling, .. }
        | ElementKind::Coil { .. }
        | ElementKind::Block(_)
        | ElementKind::Source { .. }
        | ElementKind::Sink { .. }
        | ElementKind::Jump { .. }
        | ElementKind::Return { .. } => true,
    });
    network.elements.len() < before
}

/// Outputs that nothing takes have no wire.
fn leave_idle(network: &mut Network) {
    let (_, taken) = network.usage();
    for element in &mut network.elements {
        if let ElementKind::Block(block) = &mut element.kind {
            let idle = |pin: &&mut OutPin| pin.to.is_some_and(|wire| !taken.contains_key(&wire));
            block.outputs.iter_mut().filter(idle).for_each(|pin| pin.to = None);
        }
    }
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
