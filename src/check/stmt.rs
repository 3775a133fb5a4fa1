//! Statements.

use super::env::{Env, Use};
use super::expr::Access;
use super::typed::{CaseArm, Root, TExpr, TFor, TKind, TStmt, TStmtKind, Ty};
use crate::model::{CaseBranch, CaseLabel, Elem, Expr, ExprKind, ForHead, Stmt, StmtKind, UnitKind};
use crate::source::{Diagnostic, Span, codes};
use std::collections::BTreeMap;

impl Env<'_> {
    pub(super) fn block(&mut self, list: &[Stmt]) -> Vec<TStmt> {
        let mut out = Vec::new();
        let mut ended: Option<Span> = None;
        for stmt in list {
            if matches!(stmt.kind, StmtKind::Empty) {
                continue;
            }
            if let Some(end) = ended.take() {
                self.problems.push(
                    Diagnostic::warning(codes::UNREACHABLE, stmt.span, "no scan reaches this statement")
                        .related(end, "the list ends here"),
                );
            }
            if let Some(kind) = self.statement(stmt) {
                if matches!(kind, TStmtKind::Exit | TStmtKind::Continue | TStmtKind::Return) {
                    ended = Some(stmt.span);
                }
                out.push(TStmt { kind, span: stmt.span });
            }
        }
        out
    }

    /// A list that does not run in every scan.
    fn guarded(&mut self, list: &[Stmt]) -> Vec<TStmt> {
        self.guards += 1;
        let block = self.block(list);
        self.guards -= 1;
        block
    }

    fn statement(&mut self, stmt: &Stmt) -> Option<TStmtKind> {
        Some(match &stmt.kind {
            StmtKind::Empty => return None,
            StmtKind::Assign(target, value) => return self.assign(target, value),
            StmtKind::Call(call) => {
                if let Some(restarted) = self.restart(call) {
                    return restarted.map(TStmtKind::Restart);
                }
                if let ExprKind::Name(name) = &call.callee.kind
                    && let Some(&unit) = self.unit_names.get(&super::env::key(&name.text))
                    && self.units[unit.0 as usize].kind == UnitKind::Function
                    && self.variable(&name.text).is_none()
                {
                    let TKind::Call(call) = self.function_call(call, None).kind else { return None };
                    return Some(TStmtKind::Call(*call));
                }
                return self.block_call(call).map(TStmtKind::Call);
            }
            StmtKind::If(branches, otherwise) => {
                let mut typed = Vec::new();
                for (condition, body) in branches {
                    let condition = self.expr_of(condition, &Ty::BOOL);
                    let body = self.guarded(body);
                    self.resets_if(&condition, &body);
                    typed.push((condition, body));
                }
                TStmtKind::If(typed, otherwise.as_ref().map_or(Vec::new(), |b| self.guarded(b)))
            }
            StmtKind::Case(selector, branches, otherwise) => {
                return Some(self.case(selector, branches, otherwise.as_deref()));
            }
            StmtKind::For(head, body) => return self.for_loop(head, body),
            StmtKind::While(condition, body) => {
                let condition = self.expr_of(condition, &Ty::BOOL);
                TStmtKind::While(condition, self.looped(body))
            }
            StmtKind::Repeat(body, condition) => {
                let body = self.looped(body);
                TStmtKind::Repeat(body, self.expr_of(condition, &Ty::BOOL))
            }
            StmtKind::Exit => return self.in_loop(TStmtKind::Exit, stmt.span),
            StmtKind::Continue => return self.in_loop(TStmtKind::Continue, stmt.span),
            StmtKind::Return => TStmtKind::Return,
        })
    }

    fn in_loop(&mut self, kind: TStmtKind, span: Span) -> Option<TStmtKind> {
        if self.loops > 0 {
            return Some(kind);
        }
        let word = if matches!(kind, TStmtKind::Exit) { "EXIT" } else { "CONTINUE" };
        self.error(codes::LOOP, span, format!("{word} stands outside every loop"));
        None
    }

    fn looped(&mut self, body: &[Stmt]) -> Vec<TStmt> {
        self.loops += 1;
        let block = self.guarded(body);
        self.loops -= 1;
        block
    }

    fn assign(&mut self, target: &Expr, value: &Expr) -> Option<TStmtKind> {
        let value = self.expr(value);
        let Some(place) = self.place(target, Access::Write) else {
            let unknown = self.unknown_type(target);
            let known = if value.ty.is_untyped() { super::coerce::guessed(&value) } else { value.ty.clone() };
            self.learn(&unknown, &known);
            return None;
        };
        if matches!(place.ty, Ty::Block(_) | Ty::Watch) {
            let message = format!("{} cannot be assigned", self.show(&place.ty));
            self.error(codes::TYPE, target.span, message);
            return None;
        }
        let want = place.ty.clone();
        let value = self.coerce(value, &want);
        Some(TStmtKind::Assign(place, value))
    }

    fn case(&mut self, selector: &Expr, branches: &[CaseBranch], otherwise: Option<&[Stmt]>) -> TStmtKind {
        let selector = self.expr(selector);
        let selector = self.settled(selector);
        let is_int = selector.ty.elem().is_some_and(|e| e.is_integer() || (e.is_bits() && e != Elem::Bool));
        if !is_int && !matches!(selector.ty, Ty::Enum(_)) && !selector.ty.is_unknown() {
            let message = format!("CASE selects by an integer or an enumeration, not by {}", self.show(&selector.ty));
            self.error(codes::TYPE, selector.span, message);
        }
        let mut arms: Vec<CaseArm> = Vec::new();
        let mut taken = Ranges::default();
        for branch in branches {
            let mut labels = Vec::new();
            for label in &branch.labels {
                let (low, high, span) = match label {
                    CaseLabel::One(value) => (value, value, value.span),
                    CaseLabel::Range(low, high) => (low, high, low.span.to(high.span)),
                };
                let Some(range) = self.label(low, high, &selector.ty, span) else { continue };
                if range.0 > range.1 {
                    self.error(codes::RANGE, span, format!("the range {}..{} is empty", range.0, range.1));
                } else if taken.take(range) {
                    self.problems.push(
                        Diagnostic::warning(codes::CASE_LABEL, span, "an earlier branch takes a value of this label")
                            .help("the first branch that matches wins (trap 21)"),
                    );
                }
                labels.push(range);
            }
            arms.push((labels, self.guarded(&branch.body)));
        }
        TStmtKind::Case(selector, arms, otherwise.map_or(Vec::new(), |b| self.guarded(b)))
    }

    fn label(&mut self, low: &Expr, high: &Expr, ty: &Ty, span: Span) -> Option<(i64, i64)> {
        let a = self.expr_of(low, ty);
        let b = self.expr_of(high, ty);
        if a.ty.is_unknown() || b.ty.is_unknown() {
            return None;
        }
        let values = self.fold(&a).zip(self.fold(&b));
        if values.is_none() {
            self.error(codes::TYPE, span, "a label of a CASE is constant");
        }
        values
    }

    fn for_loop(&mut self, head: &ForHead, body: &[Stmt]) -> Option<TStmtKind> {
        let from = self.expr(&head.from);
        let to = self.expr(&head.to);
        let by = head.by.as_ref().map(|by| self.expr(by));
        let Some(var) = self.place(&head.var, Access::Share) else {
            let unknown = self.unknown_type(&head.var);
            self.learn(&unknown, &Ty::Elem(Elem::Int));
            self.looped(body);
            return None;
        };
        let Some(elem) = var.ty.elem().filter(|e| e.is_integer()) else {
            if !var.ty.is_unknown() {
                let message = format!("FOR counts in an integer variable, not in {}", self.show(&var.ty));
                self.error(codes::TYPE, head.var.span, message);
            }
            self.looped(body);
            return None;
        };
        let ty = Ty::Elem(elem);
        let from = self.coerce(from, &ty);
        let to = self.coerce(to, &ty);
        let one = TExpr { kind: TKind::LitInt(1), ty: Ty::LitInt, span: head.var.span };
        let by = self.coerce(by.unwrap_or(one), &ty);
        let constant_by = self.fold(&by);
        let limit = self.int_value(&to);
        let most = elem.shape().map_or(0, |s| s.range().1);
        if constant_by == Some(0) || (constant_by.is_some_and(|b| b > 0) && limit == Some(most)) {
            self.problems.push(
                Diagnostic::warning(codes::ENDLESS, head.var.span, "this loop ends only at the loop limit").help(
                    format!("no value of {} is above its limit; use a wider variable or another limit", elem.name()),
                ),
            );
        }
        let body = self.looped(body);
        Some(TStmtKind::For(Box::new(TFor { var, elem, from, to, by, constant_by, body })))
    }

    /// Notes that a read was inverted, for hints.
    pub(super) fn inverted(&mut self, root: Root) {
        let unit = if matches!(root, Root::Local(_)) { self.current.0 } else { u32::MAX };
        self.uses.entry((unit, root)).or_default().inverted += 1;
    }

    /// Takes that back: the opposite is what is wanted there.
    pub(super) fn not_inverted(&mut self, root: Root) {
        let unit = if matches!(root, Root::Local(_)) { self.current.0 } else { u32::MAX };
        let used = self.uses.entry((unit, root)).or_default();
        used.inverted = used.inverted.saturating_sub(1);
    }

    /// Notes a read or a write, for hints.
    pub(super) fn used(&mut self, root: Root, access: Access, span: Span) {
        let unit = match root {
            Root::Local(_) => self.current.0,
            Root::Global(_) => u32::MAX,
        };
        let guards = self.guards;
        let entry: &mut Use = self.uses.entry((unit, root)).or_default();
        entry.reads += u32::from(access != Access::Write);
        entry.read |= access != Access::Write;
        entry.written |= access != Access::Read;
        if access == Access::Write && guards == 0 {
            match entry.first_write {
                None => entry.first_write = Some(span),
                Some(_) if entry.second_write.is_none() => entry.second_write = Some(span),
                Some(_) => {}
            }
        }
    }
}

/// Whole numbers that labels of a CASE have taken: ranges that do not meet, by their lowest number.
#[derive(Default)]
struct Ranges(BTreeMap<i64, i64>);

impl Ranges {
    /// Takes a range, and says whether a part of it was taken before.
    fn take(&mut self, (mut low, mut high): (i64, i64)) -> bool {
        let mut before = false;
        while let Some((&start, &end)) = self.0.range(..=high).next_back()
            && end >= low
        {
            before = true;
            self.0.remove(&start);
            (low, high) = (low.min(start), high.max(end));
        }
        self.0.insert(low, high);
        before
    }
}
