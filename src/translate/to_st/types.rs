//! What the checker found out about current results.

use crate::check::typed::{Code, TInstr, TInstrKind, TKind, Ty};
use crate::check::walk::walk_list;
use crate::model::When;
use crate::source::Span;
use std::collections::HashMap;

/// Types that the checker found, by the place of the instruction.
#[derive(Default)]
pub(super) struct Types {
    /// Of the current result behind an instruction.
    pub(super) results: HashMap<Span, Ty>,
    /// Stores that change the value's type on the way.
    pub(super) widening: HashMap<Span, bool>,
    /// Of the current result at a label.
    pub(super) labels: HashMap<String, Ty>,
}

impl Types {
    /// Those of a body. Structured text has no current results.
    pub(super) fn of(code: &Code) -> Types {
        let mut types = Types::default();
        match code {
            Code::List(list) => types.collect(list),
            Code::Block(_) => {}
        }
        types
    }

    fn collect(&mut self, list: &[TInstr]) {
        for instr in list {
            match &instr.kind {
                TInstrKind::Compute(value) => {
                    self.results.insert(instr.span, value.ty.clone());
                }
                TInstrKind::Store(_, value) => {
                    self.widening.insert(instr.span, !matches!(value.kind, TKind::Current));
                }
                TInstrKind::Nop
                | TInstrKind::Set(_)
                | TInstrKind::Reset(_)
                | TInstrKind::Jump(..)
                | TInstrKind::Call(..)
                | TInstrKind::Restart(_)
                | TInstrKind::Return(_) => {}
            }
        }
        // The walk goes into inner lists itself; only their own instructions are left to collect.
        walk_list(list, &mut |expr| {
            let TKind::List(inner) = &expr.kind else { return };
            for instr in inner {
                if let TInstrKind::Compute(value) = &instr.kind {
                    self.results.insert(instr.span, value.ty.clone());
                }
            }
        });
        self.collect_labels(list);
    }

    /// The type a current result has at a label: that of the first look at it.
    fn collect_labels(&mut self, list: &[TInstr]) {
        let mut open: Vec<&String> = Vec::new();
        for instr in list {
            open.extend(&instr.label);
            let mut seen = None;
            walk_list(std::slice::from_ref(instr), &mut |expr| {
                if matches!(expr.kind, TKind::Current) && seen.is_none() {
                    seen = Some(expr.ty.clone());
                }
            });
            let decides = |when: &When| *when != When::Always;
            match &instr.kind {
                TInstrKind::Set(_) | TInstrKind::Reset(_) => seen = Some(Ty::BOOL),
                TInstrKind::Jump(when, _) | TInstrKind::Return(when) if decides(when) => seen = Some(Ty::BOOL),
                TInstrKind::Call(when, _) if decides(when) => seen = Some(Ty::BOOL),
                TInstrKind::Nop
                | TInstrKind::Compute(_)
                | TInstrKind::Store(..)
                | TInstrKind::Jump(..)
                | TInstrKind::Call(..)
                | TInstrKind::Restart(_)
                | TInstrKind::Return(_) => {}
            }
            let replaced = matches!(instr.kind, TInstrKind::Compute(_));
            if seen.is_some() || replaced {
                for label in open.drain(..) {
                    self.labels.extend(seen.clone().map(|ty| (label.clone(), ty)));
                }
            }
        }
    }
}
