//! Statements of structured text.

use super::expr::integer;
use super::{Compiler, Loop, Target};
use crate::check::typed::{CaseArm, Place, TExpr, TFor, TKind, TStmt, TStmtKind, Ty};
use crate::model::ops::BinaryOp;
use crate::scan::op::Op;

impl Compiler<'_> {
    pub(super) fn block(&mut self, list: &[TStmt]) {
        for stmt in list {
            self.at(stmt.span);
            // Intermediate values do not outlive their statement; those of an enclosing one stay.
            let used = self.temps_used;
            self.statement(stmt);
            self.temps_used = used;
        }
    }

    fn statement(&mut self, stmt: &TStmt) {
        match &stmt.kind {
            TStmtKind::Assign(place, value) => self.assign(place, value),
            TStmtKind::Call(call) => {
                self.call(call);
            }
            TStmtKind::Restart(place) => self.restart(place),
            TStmtKind::If(branches, otherwise) => self.conditional(branches, otherwise),
            TStmtKind::Case(selector, arms, otherwise) => self.case(selector, arms, otherwise),
            TStmtKind::For(head) => self.for_loop(head),
            TStmtKind::While(condition, body) => {
                let top = self.here();
                let c = self.expr(condition);
                self.ask(condition.span, true);
                let out = self.emit(Op::JumpUnless { c, to: 0 });
                self.looped(body);
                self.end_loop(top, stmt.span, Some(out));
            }
            TStmtKind::Repeat(body, condition) => {
                let top = self.here();
                self.frame.loops.push(Loop::default());
                self.block(body);
                let ended = self.frame.loops.pop().unwrap_or_default();
                self.land_all(ended.continues);
                self.at(stmt.span);
                let c = self.expr(condition);
                self.ask(condition.span, true);
                let out = self.emit(Op::JumpIf { c, to: 0 });
                self.emit(Op::Back { to: top });
                self.land(out);
                self.land_all(ended.exits);
            }
            TStmtKind::Exit => {
                let jump = self.emit(Op::Jump { to: 0 });
                if let Some(inner) = self.frame.loops.last_mut() {
                    inner.exits.push(jump);
                }
            }
            TStmtKind::Continue => {
                let jump = self.emit(Op::Jump { to: 0 });
                if let Some(inner) = self.frame.loops.last_mut() {
                    inner.continues.push(jump);
                }
            }
            TStmtKind::Return => {
                let jump = self.emit(Op::Jump { to: 0 });
                self.frame.returns.push(jump);
            }
        }
    }

    pub(super) fn assign(&mut self, place: &Place, value: &TExpr) {
        if matches!(place.ty, Ty::Array(_) | Ty::Struct(_)) {
            let TKind::Read(from) = &value.kind else { return };
            let size = self.layout.size(&place.ty) as u32;
            // By way of a copy, for the two may overlap only if they are the same; then nothing changes.
            let from = self.target(from);
            let to = self.target(place);
            match from {
                Target::Fixed(a) => self.put(a, to, size),
                Target::Moved { .. } => {
                    let scratch = self.memory.grow(size);
                    self.fetch(from, scratch, size);
                    self.put(scratch, to, size);
                }
            }
            return;
        }
        if place.part().is_some() {
            let a = self.expr(value);
            return self.write(place, a);
        }
        let bounded = matches!(value.kind, TKind::Bound(_));
        match self.target(place) {
            Target::Fixed(d) if !bounded => self.expr_into(value, d),
            target @ (Target::Fixed(_) | Target::Moved { .. }) => {
                let a = self.expr(value);
                self.store(target, a);
            }
        }
    }

    pub(super) fn restart(&mut self, place: &Place) {
        match self.target(place) {
            Target::Fixed(d) => self.emit(Op::Restart { d }),
            Target::Moved { base, off, reach } => self.emit_moved(Op::RestartAt { base, off }, reach),
        };
    }

    fn conditional(&mut self, branches: &[(TExpr, Vec<TStmt>)], otherwise: &[TStmt]) {
        let mut ends = Vec::new();
        let span = self.span;
        for (index, (condition, body)) in branches.iter().enumerate() {
            self.at(span);
            // Nothing is left of a condition where the next one is asked: as many as there are branches would be joined at the end.
            let used = self.temps_used;
            let c = self.expr(condition);
            self.ask(condition.span, true);
            let over = self.emit(Op::JumpUnless { c, to: 0 });
            self.temps_used = used;
            self.block(body);
            if index + 1 < branches.len() || !otherwise.is_empty() {
                ends.push(self.emit(Op::Jump { to: 0 }));
            }
            self.land(over);
        }
        self.block(otherwise);
        self.land_all(ends);
    }

    fn case(&mut self, selector: &TExpr, arms: &[CaseArm], otherwise: &[TStmt]) {
        let a = self.expr(selector);
        if matches!(selector.kind, TKind::Read(_)) {
            self.selectors.push(a);
        }
        // A branch may write the selector's variable, but labels are compared before any branch runs.
        let shape = selector.ty.elem().and_then(crate::model::Elem::shape);
        let s = shape.unwrap_or(crate::model::IntShape::LONG);
        let mut entries: Vec<Vec<usize>> = Vec::new();
        let (c, c2) = (self.temp(), self.temp());
        for (labels, _) in arms {
            let mut jumps = Vec::new();
            for (low, high) in labels {
                let b = self.constant(*low);
                if low == high {
                    self.emit(Op::Eq { d: c, a, b });
                } else {
                    let top = self.constant(*high);
                    self.emit(integer(BinaryOp::Ge, s, c, a, b));
                    self.emit(integer(BinaryOp::Le, s, c2, a, top));
                    self.emit(Op::And { d: c, a: c, b: c2 });
                }
                self.ask(selector.span, true);
                jumps.push(self.emit(Op::JumpIf { c, to: 0 }));
            }
            entries.push(jumps);
        }
        let mut ends = Vec::new();
        self.block(otherwise);
        ends.push(self.emit(Op::Jump { to: 0 }));
        for ((_, body), jumps) in arms.iter().zip(entries) {
            self.land_all(jumps);
            self.block(body);
            ends.push(self.emit(Op::Jump { to: 0 }));
        }
        self.land_all(ends);
    }

    fn looped(&mut self, body: &[TStmt]) {
        self.frame.loops.push(Loop::default());
        self.block(body);
    }

    fn end_loop(&mut self, top: u32, span: crate::source::Span, out: Option<usize>) {
        let ended = self.frame.loops.pop().unwrap_or_default();
        self.land_all(ended.continues);
        self.at(span);
        self.emit(Op::Back { to: top });
        if let Some(out) = out {
            self.land(out);
        }
        self.land_all(ended.exits);
    }

    /// The loop one would write by hand: test, body, increment with the wrapping of the type.
    fn for_loop(&mut self, head: &TFor) {
        let span = self.span;
        let Some(s) = head.elem.shape() else { return };
        let from = self.expr(&head.from);
        let target = self.target(&head.var);
        self.store(target, from);
        let (to, by) = (self.temp(), self.temp());
        self.expr_into(&head.to, to);
        self.expr_into(&head.by, by);
        let top = self.here();
        let value = self.read(target);
        let out = self.passed(head, value, to, by);
        self.looped(&head.body);
        let ended = self.frame.loops.pop().unwrap_or_default();
        self.land_all(ended.continues);
        self.at(span);
        let value = self.read(target);
        let next = self.temp();
        self.emit(Op::Add { s, d: next, a: value, b: by });
        self.store(target, next);
        self.emit(Op::Back { to: top });
        self.land_all(out);
        self.land_all(ended.exits);
    }

    pub(super) fn read(&mut self, target: Target) -> u32 {
        match target {
            Target::Fixed(slot) => slot,
            Target::Moved { base, off, reach } => {
                let d = self.temp();
                self.emit_moved(Op::Load { d, base, off }, reach);
                d
            }
        }
    }

    /// Jumps taken when the control variable has passed its limit.
    fn passed(&mut self, head: &TFor, value: u32, to: u32, by: u32) -> Vec<usize> {
        let Some(s) = head.elem.shape() else { return Vec::new() };
        let c = self.temp();
        match head.constant_by {
            Some(step) => {
                let op = if step < 0 && s.signed { BinaryOp::Lt } else { BinaryOp::Gt };
                self.emit(integer(op, s, c, value, to));
                vec![self.emit(Op::JumpIf { c, to: 0 })]
            }
            None => {
                // The sign of the step decides, once it is known.
                let (zero, down) = (self.constant(0), self.temp());
                self.emit(integer(BinaryOp::Lt, s, down, by, zero));
                let upwards = self.emit(Op::JumpUnless { c: down, to: 0 });
                self.emit(integer(BinaryOp::Lt, s, c, value, to));
                let first = self.emit(Op::JumpIf { c, to: 0 });
                let skip = self.emit(Op::Jump { to: 0 });
                self.land(upwards);
                self.emit(integer(BinaryOp::Gt, s, c, value, to));
                let second = self.emit(Op::JumpIf { c, to: 0 });
                self.land(skip);
                vec![first, second]
            }
        }
    }
}
