//! Where the current result is still needed.

use crate::model::{FunctionForm, Instr, InstrKind, When};
use std::collections::HashMap;

/// For each instruction: is the current result that stands *before* it needed by it or by what follows?
pub(super) fn before(list: &[Instr]) -> Vec<bool> {
    let labels = labels(list);
    let mut live = vec![false; list.len() + 1];
    loop {
        let mut changed = false;
        for (index, instr) in list.iter().enumerate().rev() {
            let target = |label: &str| labels.get(&label.to_uppercase()).is_some_and(|to| live[*to]);
            let after = match &instr.kind {
                InstrKind::Jump(When::Always, to) => target(&to.text),
                InstrKind::Jump(_, to) => target(&to.text) || live[index + 1],
                InstrKind::Return(When::Always) => false,
                InstrKind::Empty
                | InstrKind::Load(..)
                | InstrKind::Store(..)
                | InstrKind::Set(_)
                | InstrKind::Reset(_)
                | InstrKind::Not
                | InstrKind::Op(..)
                | InstrKind::Call(..)
                | InstrKind::Return(_)
                | InstrKind::Function(..)
                | InstrKind::Pin(..)
                | InstrKind::Worded { .. } => live[index + 1],
            };
            let now = uses(&instr.kind) || (!replaces(&instr.kind) && after);
            changed |= std::mem::replace(&mut live[index], now) != now;
        }
        if !changed {
            return live;
        }
    }
}

/// For each instruction: does any way lead to it?
pub(super) fn reached(list: &[Instr]) -> Vec<bool> {
    let labels = labels(list);
    let mut reached = vec![false; list.len()];
    let mut open = vec![0];
    while let Some(at) = open.pop() {
        if at >= list.len() || std::mem::replace(&mut reached[at], true) {
            continue;
        }
        match &list[at].kind {
            InstrKind::Jump(when, to) => {
                open.extend(labels.get(&to.text.to_uppercase()));
                if *when != When::Always {
                    open.push(at + 1);
                }
            }
            InstrKind::Return(When::Always) => {}
            InstrKind::Empty
            | InstrKind::Load(..)
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Not
            | InstrKind::Op(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => open.push(at + 1),
        }
    }
    reached
}

fn labels(list: &[Instr]) -> HashMap<String, usize> {
    list.iter().enumerate().filter_map(|(i, instr)| Some((instr.label.as_ref()?.text.to_uppercase(), i))).collect()
}

/// True if an instruction looks at the current result.
fn uses(kind: &InstrKind) -> bool {
    match kind {
        InstrKind::Store(..)
        | InstrKind::Set(_)
        | InstrKind::Reset(_)
        | InstrKind::Not
        | InstrKind::Op(..)
        | InstrKind::Pin(..)
        | InstrKind::Worded { .. }
        | InstrKind::Function(_, FunctionForm::CurrentResult) => true,
        InstrKind::Jump(when, _) | InstrKind::Call(when, _) | InstrKind::Return(when) => *when != When::Always,
        // `LD counter` may be an input operator; taking it as a use only keeps a value longer.
        InstrKind::Load(..) | InstrKind::Function(_, FunctionForm::Formal) | InstrKind::Empty => false,
    }
}

/// True if an instruction makes a new current result.
fn replaces(kind: &InstrKind) -> bool {
    matches!(kind, InstrKind::Load(..) | InstrKind::Function(..) | InstrKind::Op(..) | InstrKind::Not)
}
