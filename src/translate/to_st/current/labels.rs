//! Where ways meet: the current result that several of them bring to one label.

use super::super::{Line, live};
use super::{Current, Reader};
use crate::model::{Expr, ExprKind, Instr, InstrKind, Name, StmtKind, When};
use crate::source::Span;

impl Reader<'_> {
    pub(super) fn label(&mut self, label: &Name, needed: bool, list: &[Instr]) {
        let key = label.text.to_uppercase();
        let reached = live::reached(list);
        let jumped_to =
            list.iter().zip(&reached).any(|(i, r)| *r && matches!(&i.kind, InstrKind::Jump(_, to) if *to == *label));
        if !jumped_to {
            return;
        }
        if needed {
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

    /// Hands the current result to a label.
    /// With the comments at hand, if what follows needs none.
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

    /// The variable that the instruction at a label stores the result to, if that is all it is for: then every way
    /// can store it there itself. Ways that may not be taken would store too early.
    pub(super) fn stored_at(&self, label: &Name, list: &[Instr], live: &[bool]) -> Option<Expr> {
        let at = list.iter().position(|i| i.label.as_ref() == Some(label))?;
        let next = (at..list.len()).find(|i| !matches!(list[*i].kind, InstrKind::Empty))?;
        let InstrKind::Store(false, target) = &list[next].kind else { return None };
        let plain = matches!(target.kind, ExprKind::Name(_)) && !live[next + 1];
        let certain = list.iter().all(|i| match &i.kind {
            InstrKind::Jump(when, to) if to == label => *when == When::Always,
            _ => true,
        });
        let alone = list[at + 1..=next].iter().all(|i| i.label.is_none());
        (plain && certain && alone).then(|| target.clone())
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
