//! Drawings: mentions of devices and addresses.

use super::SurfaceWriter;
use crate::dialect::walk::{self, Leaves, Want};
use crate::model::sheet::Operation;
use crate::model::{
    Block, CoilForm, ContactForm, Drive, Element, ElementKind, Expr, ExprKind, Feed, Name, Network, OutPin, Wire,
};
use std::collections::BTreeSet;

impl SurfaceWriter<'_> {
    /// Boxes of numbered devices become coils, where an operation does all that the box does. What stands behind such a
    /// box reads the device's contact, in a network of its own.
    pub(super) fn coils(&self, networks: &mut Vec<Network>) {
        let mut out: Vec<Network> = Vec::new();
        for mut network in std::mem::take(networks) {
            self.coils_in_place(&mut network);
            let mut rest = Some(network);
            while let Some(network) = rest.take() {
                match self.split(&network) {
                    Some((first, second)) => {
                        out.push(first);
                        rest = second;
                    }
                    None => out.push(network),
                }
            }
        }
        *networks = out;
    }

    /// A box of which nothing is taken becomes a coil where it stands, if only coils follow: they run in the order in which
    /// they stand, whatever column a box would have had.
    fn coils_in_place(&self, network: &mut Network) {
        for at in (0..network.elements.len()).rev() {
            let (before, behind) = network.elements.split_at_mut(at + 1);
            let Some(element) = before.last_mut() else { continue };
            let ElementKind::Block(block) = &element.kind else {
                if matches!(element.kind, ElementKind::Coil { .. }) {
                    continue;
                }
                return;
            };
            let is_coil = |e: &Element| matches!(e.kind, ElementKind::Coil { .. });
            let taken = block.outputs.iter().any(|pin| pin.to.is_some());
            if taken || !behind.iter().all(is_coil) {
                return;
            }
            let routine = super::routines::coil(block, element.span, &self.routines, self.sheet);
            let driven = || self.coil_operation(block).and_then(|(op, from)| self.coil(block, &op, from));
            match routine.or_else(driven) {
                Some(coil) => element.kind = coil,
                None => return,
            }
        }
    }

    /// The first box that can be a coil: the network up to it, and what is left.
    fn split(&self, network: &Network) -> Option<(Network, Option<Network>)> {
        network.elements.iter().enumerate().find_map(|(at, element)| {
            let ElementKind::Block(block) = &element.kind else { return None };
            let (op, from) = self.coil_operation(block)?;
            let (before, behind) = (&network.elements[..at], &network.elements[at + 1..]);
            let outputs: Vec<&OutPin> = block.outputs.iter().filter(|p| p.to.is_some()).collect();
            let wires: BTreeSet<Wire> = outputs.iter().filter_map(|p| p.to).collect();
            // What is behind must hang on nothing but this box and what comes after it.
            let mut known: BTreeSet<Wire> = wires.clone();
            known.insert(Wire::RAIL);
            known.extend(behind.iter().flat_map(|e| fed(&e.kind)));
            let mut alone = true;
            behind.iter().for_each(|e| e.kind.inputs(&mut |w| alone &= known.contains(&w)));
            if !alone {
                return None;
            }
            let instance = block.instance.clone()?;
            let mut second: Vec<Element> = Vec::new();
            for pin in outputs {
                let span = element.span;
                let field = ExprKind::Field(Box::new(instance.clone()), pin.name.clone()?);
                let operand = Expr { kind: field, span };
                let form = if pin.negated { ContactForm::Closed } else { ContactForm::Open };
                if !self.called(&instance)?.bit.as_ref().is_some_and(|b| pin.name.as_ref().is_some_and(|n| n.is(b))) {
                    return None;
                }
                let kind = ElementKind::Contact { form, operand, from: Wire::RAIL, to: pin.to? };
                second.push(Element { kind, span, at: None, kept: Vec::new() });
            }
            second.extend(behind.iter().cloned());
            let mut first = Network { elements: before.to_vec(), ..network.clone() };
            first.elements.push(Element { kind: self.coil(block, &op, from)?, ..element.clone() });
            let second = (!second.is_empty()).then(|| Network {
                label: None,
                elements: second,
                span: network.span,
                notes: crate::model::Notes { blank_before: true, ..crate::model::Notes::default() },
            });
            Some((first, second))
        })
    }

    fn coil_operation(&self, block: &Block) -> Option<(Operation, Wire)> {
        let device = self.called(block.instance.as_ref()?).filter(|d| d.numbers.is_some())?;
        if block.outputs.iter().any(|p| p.target.is_some()) {
            return None;
        }
        let given: Vec<_> = block.inputs.iter().filter(|p| p.feed != Feed::Open).collect();
        device.ops.iter().find_map(|op| {
            let ([power], None) = (op.power.as_slice(), &op.result) else { return None };
            let pin = |name: &String| given.iter().find(|p| p.name.as_ref().is_some_and(|n| n.is(name)));
            let from = match pin(power) {
                Some(pin) if !pin.negated => {
                    if let Feed::Wire(wire) = pin.feed {
                        wire
                    } else {
                        return None;
                    }
                }
                _ => return None,
            };
            let values =
                op.operands.iter().all(|o| pin(o).is_some_and(|p| matches!(p.feed, Feed::Value(_)) && !p.negated));
            (values && given.len() == 1 + op.operands.len()).then(|| (op.clone(), from))
        })
    }

    fn coil(&self, block: &Block, op: &Operation, from: Wire) -> Option<ElementKind> {
        let target = block.instance.clone()?;
        let span = target.span;
        let is = |operator: &str| op.word.eq_ignore_ascii_case(self.sheet.word_for(operator).unwrap_or(operator));
        let form = if is("R") { CoilForm::Reset } else { CoilForm::Plain };
        if is("R") && op.operands.is_empty() {
            return Some(ElementKind::Coil { form, target, from, drive: None });
        }
        let word = Name { text: if is("ST") { "#".to_string() } else { op.word.clone() }, span };
        let value = op.operands.first().and_then(|o| block.input(o)).map(|p| p.feed.clone());
        let below = match value {
            Some(Feed::Value(value)) => Some(value),
            _ => None,
        };
        Some(ElementKind::Coil { form, target, from, drive: Some(Drive { word, below }) })
    }

    pub(super) fn network(&mut self, network: &mut Network) {
        for element in &mut network.elements {
            match &mut element.kind {
                ElementKind::Contact { operand, .. } => walk::expr(self, operand, Want::Bit),
                ElementKind::Compare { left, right, .. } => {
                    walk::expr(self, left, Want::Word);
                    walk::expr(self, right, Want::Word);
                }
                ElementKind::Coil { target, drive: Some(drive), .. } => {
                    self.instance(target);
                    drive.below.iter_mut().for_each(|b| walk::expr(self, b, Want::Word));
                }
                ElementKind::Coil { target, .. } if self.called(target).is_some() => self.instance(target),
                ElementKind::Coil { target, .. } | ElementKind::Sink { target, .. } => walk::target(self, target),
                ElementKind::Block(block) => walk::block(self, block),
                ElementKind::Source { value, .. } => walk::expr(self, value, Want::Word),
                ElementKind::Jump { .. } | ElementKind::Return { .. } => {}
            }
        }
    }
}

/// The wires that an element feeds.
fn fed(kind: &ElementKind) -> Vec<Wire> {
    match kind {
        ElementKind::Contact { to, .. } | ElementKind::Compare { to, .. } | ElementKind::Source { to, .. } => vec![*to],
        ElementKind::Block(block) => block.outputs.iter().filter_map(|p| p.to).collect(),
        ElementKind::Coil { .. } | ElementKind::Sink { .. } | ElementKind::Jump { .. } | ElementKind::Return { .. } => {
            Vec::new()
        }
    }
}
