//! Drawings: coils that drive devices become boxes.

use super::Resolver;
use crate::dialect::walk::{self, Leaves, Want};
use crate::model::{Block, CoilForm, Element, ElementKind, Feed, InPin, Name, Network, Wire};
use crate::source::codes;

/// A rung at the very end that only ends the program needs none.
pub(super) fn without_end(list: &mut Vec<Network>) {
    let ends = |n: &Network| {
        let alone = matches!(n.elements.as_slice(), [Element { kind: ElementKind::Return { from: Wire::RAIL }, .. }]);
        alone && n.label.is_none() && n.notes.leading.is_empty() && n.notes.trailing.is_empty()
    };
    if list.last().is_some_and(ends) {
        list.pop();
    }
}

impl Resolver<'_> {
    pub(super) fn network(&mut self, network: &mut Network) {
        for element in &mut network.elements {
            let span = element.span;
            match &mut element.kind {
                ElementKind::Contact { operand, .. } => walk::expr(self, operand, Want::Bit),
                ElementKind::Compare { left, right, .. } => {
                    walk::expr(self, left, Want::Word);
                    walk::expr(self, right, Want::Word);
                }
                ElementKind::Coil { form, target, from, .. } => {
                    if self.called(target).is_some() {
                        let operator = match form {
                            CoilForm::Plain => "ST",
                            CoilForm::Set => "S",
                            CoilForm::Reset => "R",
                            CoilForm::Negated | CoilForm::Rising | CoilForm::Falling => "",
                        };
                        let own = self.sheet.word_for(operator).unwrap_or(operator).to_string();
                        let block = Block {
                            name: Name { text: own, span },
                            instance: Some(target.clone()),
                            inputs: vec![InPin { name: None, negated: false, feed: Feed::Wire(*from) }],
                            outputs: Vec::new(),
                        };
                        if let Some(block) = self.driven(block) {
                            element.kind = ElementKind::Block(block);
                        }
                    } else {
                        walk::target(self, target);
                    }
                }
                ElementKind::Block(block) => {
                    if block.instance.is_some()
                        && !block.inputs.is_empty()
                        && block.inputs.iter().all(|p| p.name.is_none())
                    {
                        if let Some(driven) = self.driven(block.clone()) {
                            *block = driven;
                        }
                    } else {
                        walk::block(self, block);
                    }
                }
                ElementKind::Source { value, .. } => walk::expr(self, value, Want::Word),
                ElementKind::Sink { target, .. } => walk::target(self, target),
                ElementKind::Jump { .. } | ElementKind::Return { .. } => {}
            }
        }
    }

    /// A coil with its operands, as a box of the device's block.
    fn driven(&mut self, block: Block) -> Option<Block> {
        let mut instance = block.instance?;
        let (device, op) = self.operation(&block.name, &instance)?;
        let pins: Vec<&String> = op.power.iter().chain(&op.operands).collect();
        if pins.len() != block.inputs.len() {
            let wants = if op.operands.is_empty() { "no value" } else { "a value" };
            let message = format!("this coil takes {wants} below it ({})", op.operands.join(", "));
            self.error(codes::DIALECT, block.name.span, message);
            return None;
        }
        self.instance(&mut instance);
        let name = Name { text: self.device(device).block.clone(), span: block.name.span };
        let mut inputs = block.inputs;
        for (pin, name) in inputs.iter_mut().zip(pins) {
            pin.name = Some(Name { text: name.clone(), span: block.name.span });
            if let Feed::Value(value) = &mut pin.feed {
                walk::expr(self, value, Want::Word);
            }
        }
        Some(Block { name, instance: Some(instance), inputs, outputs: Vec::new() })
    }
}
