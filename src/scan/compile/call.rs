//! Calls, laid out in line.

use super::{Compiler, Target};
use crate::check::typed::{Callee, TCall, Taken, Ty};
use crate::model::Section;
use crate::scan::op::{Op, Slot};
use std::collections::HashMap;

impl Compiler<'_> {
    /// Lays out a call; the slot holds a function's value.
    pub(super) fn call(&mut self, call: &TCall) -> Slot {
        let enabled = match &call.en {
            Some(en) => {
                let c = self.expr(en);
                self.saved(c)
            }
            None => self.constant(1),
        };
        if let Some(eno) = &call.eno {
            self.write(eno, enabled);
        }
        let skip = call.en.is_some().then(|| self.emit(Op::JumpUnless { c: enabled, to: 0 }));
        let value = match &call.callee {
            Callee::Function => self.function_call(call),
            Callee::Block(place) => {
                let target = self.target(place);
                self.block_call(call, target);
                0
            }
        };
        if let Some(skip) = skip {
            self.land(skip);
        }
        value
    }

    fn saved(&mut self, a: Slot) -> Slot {
        let d = self.temp();
        self.emit(Op::Move { d, a });
        d
    }

    fn function_call(&mut self, call: &TCall) -> Slot {
        let size = self.layout.unit_size(call.unit) as u32;
        let base = match self.functions.get(&call.unit) {
            Some(&base) => base,
            None => {
                let base = self.memory.grow(size);
                self.layout.init_unit(&mut self.memory, call.unit, base, false);
                self.functions.insert(call.unit, base);
                base
            }
        };
        // All arguments are computed before any is passed: one of them may call the same function.
        let shared = self.shared(call);
        let values = self.arguments(call);
        let typed = self.checked.unit(call.unit);
        for (number, var) in typed.vars.iter().enumerate() {
            let given = values.iter().any(|(at, ..)| *at == number as u32);
            if !given && var.section != Section::InOut && var.global.is_none() && !var.constant {
                self.reset(call.unit, number as u32, base);
            }
        }
        self.pass(call, values, Target::Fixed(base));
        self.unit_body(call.unit, base, shared);
        self.hand_on(&call.outputs, call, base);
        base
    }

    fn block_call(&mut self, call: &TCall, target: Target) {
        let shared = self.shared(call);
        let values = self.arguments(call);
        match target {
            Target::Fixed(base) => {
                self.pass(call, values, target);
                self.unit_body(call.unit, base, shared);
                self.hand_on(&call.outputs, call, base);
            }
            Target::Moved { .. } => {
                // An element of an array of blocks: it runs on a copy, which is then put back.
                let size = self.layout.unit_size(call.unit) as u32;
                let base = self.memory.grow(size);
                self.fetch(target, base, size);
                self.pass(call, values, Target::Fixed(base));
                self.unit_body(call.unit, base, shared);
                self.put(base, target, size);
                self.hand_on(&call.outputs, call, base);
            }
        }
    }

    fn shared(&mut self, call: &TCall) -> HashMap<u32, Target> {
        call.in_outs.iter().map(|(at, place)| (*at, self.target(place))).collect()
    }

    /// Values of the inputs that are given: the input, the slot, and for structures and arrays where they lie.
    fn arguments(&mut self, call: &TCall) -> Vec<(u32, Slot)> {
        let several = call.inputs.len() > 1 && call.inputs.iter().any(|(_, v)| super::expr::has_effects(v));
        let mut out = Vec::new();
        for (at, value) in &call.inputs {
            if let crate::check::typed::TKind::Read(place) = &value.kind
                && matches!(value.ty, Ty::Array(_) | Ty::Struct(_))
            {
                let size = self.layout.size(&value.ty) as u32;
                let scratch = self.memory.grow(size);
                let from = self.target(place);
                self.fetch(from, scratch, size);
                out.push((*at, scratch));
                continue;
            }
            let slot = self.expr(value);
            out.push((*at, if several { self.saved(slot) } else { slot }));
        }
        out
    }

    fn pass(&mut self, call: &TCall, values: Vec<(u32, Slot)>, target: Target) {
        let Target::Fixed(base) = target else { return };
        // An input may be computed from another input of the same instance; those are read before any is passed.
        let own = base..base + self.layout.unit_size(call.unit) as u32;
        let values: Vec<(u32, Slot)> = values
            .into_iter()
            .map(|(at, slot)| if own.contains(&slot) { (at, self.saved(slot)) } else { (at, slot) })
            .collect();
        for (at, a) in values {
            let d = base + self.layout.offset(call.unit, at);
            let ty = self.checked.unit(call.unit).vars[at as usize].ty.clone();
            if matches!(ty, Ty::Array(_) | Ty::Struct(_)) {
                let n = self.layout.size(&ty) as u32;
                self.emit(Op::Copy { d, a, n });
            } else {
                self.emit(Op::Move { d, a });
            }
        }
    }

    fn hand_on(&mut self, outputs: &[Taken], call: &TCall, base: Slot) {
        for taken in outputs {
            let slot = base + self.layout.offset(call.unit, taken.output);
            if matches!(taken.target.ty, Ty::Array(_) | Ty::Struct(_)) {
                let size = self.layout.size(&taken.target.ty) as u32;
                let target = self.target(&taken.target);
                self.put(slot, target, size);
                continue;
            }
            self.frame.current.push(slot);
            let value = self.expr(&taken.value);
            self.frame.current.pop();
            self.write(&taken.target, value);
        }
    }
}
