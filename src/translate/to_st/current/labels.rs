//! Where ways meet: the current result that several of them bring to one label.

use super::super::Line;
use super::{Current, CurrentReader};
use crate::model::{Expr, ExprKind, Instr, InstrKind, Name, StmtKind, When};
use crate::source::Span;
use std::collections::HashMap;

/// What is known of a label.
#[derive(Clone, Copy)]
pub(super) struct Fact {
    /// The instruction it stands at.
    at: usize,
    /// The current result that stands before it is needed behind it.
    pub(super) needed: bool,
    /// A jump that can be reached leads to it.
    jumped_to: bool,
    /// Whatever jumps to it does so in any case.
    certain: bool,
}

/// Collects what is known of the labels of a list.
pub(super) fn facts(list: &[Instr], live: &[bool], reached: &[bool]) -> HashMap<String, Fact> {
    let mut facts = HashMap::new();
    for (at, instr) in list.iter().enumerate() {
        if let Some(label) = &instr.label {
            let fact = Fact { at, needed: live[at], jumped_to: false, certain: true };
            facts.insert(label.text.to_uppercase(), fact);
        }
    }
    for (instr, reached) in list.iter().zip(reached) {
        if let InstrKind::Jump(when, to) = &instr.kind
            && let Some(fact) = facts.get_mut(&to.text.to_uppercase())
        {
            fact.jumped_to |= *reached;
            fact.certain &= *when == When::Always;
        }
    }
    facts
}

/// The variable that the instruction at a label stores the result to, if that is all it is for: then every way can
/// store it there itself. Ways that may not be taken would store too early.
pub(super) fn stored_at(fact: &Fact, list: &[Instr], live: &[bool]) -> Option<Expr> {
    let next = (fact.at..list.len()).find(|i| !matches!(list[*i].kind, InstrKind::Empty))?;
    let InstrKind::Store(false, target) = &list[next].kind else { return None };
    let plain = matches!(target.kind, ExprKind::Name(_)) && !live[next + 1];
    let alone = list[fact.at + 1..=next].iter().all(|i| i.label.is_none());
    (plain && fact.certain && alone).then(|| target.clone())
}

impl CurrentReader<'_> {
    pub(super) fn label(&mut self, label: &Name) {
        let key = label.text.to_uppercase();
        let Some(fact) = self.facts.get(&key).copied().filter(|f| f.jumped_to) else { return };
        if fact.needed {
            let reachable = self.current.is_some();
            if reachable {
                self.carry(&key, false);
            }
            let held = self.result_of(&key, label.span);
            self.loose_notes();
            self.out.push(Line::Label(key));
            self.current = Some(Current { expr: held, at: label.span, used: true });
        } else {
            self.drop_current();
            self.loose_notes();
            self.out.push(Line::Label(key));
        }
    }

    /// Hands the current result to a label; with the comments at hand, if what follows needs none.
    pub(super) fn carry(&mut self, key: &str, with_notes: bool) {
        let Some(current) = self.current.clone() else { return };
        let held = self.result_of(key, current.at);
        if current.expr != held {
            let assignment = StmtKind::Assign(held, current.expr);
            if with_notes {
                self.emit(assignment, current.at);
            } else {
                self.emit_before(assignment, current.at);
            }
        }
        if let Some(current) = &mut self.current {
            current.used = true;
        }
    }

    fn result_of(&mut self, key: &str, at: Span) -> Expr {
        if let Some(held) = self.results.get(key) {
            return held.clone();
        }
        let at = self.current.as_ref().map_or(at, |c| c.at);
        let spec = match self.types.labels.get(key) {
            Some(ty) => self.additions.context.spec(ty, at),
            None => self.type_at(at),
        };
        let held = self.added("Result", spec, at, "several ways bring a current result to one label");
        self.results.insert(key.to_string(), held.clone());
        held
    }
}
