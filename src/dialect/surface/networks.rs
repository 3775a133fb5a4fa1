//! Drawings: mentions of devices and addresses.

use super::Writer;
use crate::dialect::walk::{self, Leaves, Want};
use crate::model::{ElementKind, Feed, Network};

impl Writer<'_> {
    pub(super) fn network(&mut self, network: &mut Network) {
        for element in &mut network.elements {
            match &mut element.kind {
                ElementKind::Contact { operand, .. } => walk::expr(self, operand, Want::Bit),
                ElementKind::Compare { left, right, .. } => {
                    walk::expr(self, left, Want::Word);
                    walk::expr(self, right, Want::Word);
                }
                ElementKind::Coil { target, .. } | ElementKind::Sink { target, .. } => walk::target(self, target),
                ElementKind::Block(block) => {
                    let wants: Vec<Want> = block
                        .inputs
                        .iter()
                        .map(|pin| match (block.instance.as_ref().and_then(|i| self.called(i)), &pin.name) {
                            (Some(device), Some(name)) => super::pin_wants(device, name),
                            (Some(_), None) => Want::Bit,
                            (None, _) => Want::Word,
                        })
                        .collect();
                    if let Some(instance) = &mut block.instance {
                        self.instance(instance);
                    }
                    for (pin, want) in block.inputs.iter_mut().zip(wants) {
                        if let Feed::Value(value) = &mut pin.feed {
                            walk::expr(self, value, want);
                        }
                    }
                    for target in block.outputs.iter_mut().filter_map(|p| p.target.as_mut()) {
                        walk::target(self, target);
                    }
                }
                ElementKind::Source { value, .. } => walk::expr(self, value, Want::Word),
                ElementKind::Jump { .. } | ElementKind::Return { .. } => {}
            }
        }
    }
}
