//! Instruction list: one slot holds the current result.

use super::Compiler;
use crate::check::typed::{TInstr, TInstrKind};
use crate::model::When;
use crate::scan::op::Op;
use std::collections::HashMap;

impl Compiler<'_> {
    /// Lays out the instructions of a unit.
    pub(super) fn body_list(&mut self, list: &[TInstr]) {
        let current = self.temp();
        self.frame.current.push(current);
        let mut labels: HashMap<&str, u32> = HashMap::new();
        let mut open: Vec<(usize, &str)> = Vec::new();
        for instr in list {
            if let Some(label) = &instr.label {
                labels.insert(label, self.here());
            }
            self.at(instr.span);
            let used = self.temps_used;
            match &instr.kind {
                TInstrKind::Jump(when, label) => match labels.get(label.as_str()) {
                    Some(&to) => self.jump_back(*when, current, to),
                    None => {
                        self.ask(instr.span, *when != When::Always);
                        let jump = self.emit(jump(*when, current));
                        open.push((jump, label));
                    }
                },
                TInstrKind::Return(when) => {
                    let jump = self.emit(jump(*when, current));
                    self.frame.returns.push(jump);
                }
                TInstrKind::Nop
                | TInstrKind::Compute(_)
                | TInstrKind::Store(..)
                | TInstrKind::Set(_)
                | TInstrKind::Reset(_)
                | TInstrKind::Call(..)
                | TInstrKind::Restart(_) => self.instruction(instr),
            }
            self.temps_used = used;
        }
        for (jump, label) in open {
            if let (Some(&target), Some(Op::Jump { to } | Op::JumpIf { to, .. } | Op::JumpUnless { to, .. })) =
                (labels.get(label), self.code.get_mut(jump))
            {
                *to = target;
            }
        }
        self.frame.current.pop();
    }

    fn jump_back(&mut self, when: When, c: u32, to: u32) {
        let over = match when {
            When::Always => None,
            When::IfTrue => Some(self.emit(Op::JumpUnless { c, to: 0 })),
            When::IfFalse => Some(self.emit(Op::JumpIf { c, to: 0 })),
        };
        self.emit(Op::Back { to });
        if let Some(over) = over {
            self.land(over);
        }
    }

    /// An instruction that neither jumps nor returns.
    pub(super) fn instruction(&mut self, instr: &TInstr) {
        self.at(instr.span);
        let Some(&current) = self.frame.current.last() else { return };
        match &instr.kind {
            TInstrKind::Nop | TInstrKind::Jump(..) | TInstrKind::Return(_) => {}
            TInstrKind::Compute(value) => self.expr_into(value, current),
            TInstrKind::Store(place, value) => self.assign(place, value),
            TInstrKind::Set(place) | TInstrKind::Reset(place) => {
                let set = matches!(instr.kind, TInstrKind::Set(_));
                self.ask(instr.span, true);
                let over = self.emit(Op::JumpUnless { c: current, to: 0 });
                let value = self.constant(i64::from(set));
                self.write(place, value);
                self.land(over);
            }
            TInstrKind::Restart(place) => self.restart(place),
            TInstrKind::Call(when, call) => {
                let over = match when {
                    When::Always => None,
                    When::IfTrue => Some(self.emit(Op::JumpUnless { c: current, to: 0 })),
                    When::IfFalse => Some(self.emit(Op::JumpIf { c: current, to: 0 })),
                };
                self.call(call);
                if let Some(over) = over {
                    self.land(over);
                }
            }
        }
    }
}

/// A jump whose target is not known yet.
fn jump(when: When, c: u32) -> Op {
    match when {
        When::Always => Op::Jump { to: 0 },
        When::IfTrue => Op::JumpIf { c, to: 0 },
        When::IfFalse => Op::JumpUnless { c, to: 0 },
    }
}
