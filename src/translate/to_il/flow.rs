//! Branches and loops as labels and jumps.

use super::expr::compare;
use super::{ListWriter, LoopLabels};
use crate::check::typed::{TStmtKind, Ty};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    CaseBranch, CaseLabel, Expr, ExprKind, ForHead, Instr, InstrKind, Notes, Operand, Stmt, StmtKind, TypeSpec, When,
};
use crate::source::Span;
use crate::translate::literals::{is_simple, number};

impl ListWriter<'_> {
    /// Jumps to a label unless the condition holds.
    fn jump_unless(&mut self, condition: &Expr, to: &str, span: Span) {
        if let ExprKind::Unary(UnaryOp::Not, inner) = &condition.kind {
            self.load(inner);
            self.jump(When::IfTrue, to, span);
        } else {
            self.load(condition);
            self.jump(When::IfFalse, to, span);
        }
    }

    pub(super) fn conditional(&mut self, branches: &[(Expr, Vec<Stmt>)], otherwise: Option<&[Stmt]>, span: Span) {
        // Where the first branch does nothing it is the other that is jumped over.
        if let ([(condition, then)], Some(rest)) = (branches, otherwise)
            && then.iter().all(|s| s.kind == StmtKind::Empty && s.notes == Notes::default())
        {
            let not = ExprKind::Unary(UnaryOp::Not, Box::new(condition.clone()));
            let opposite = Expr { kind: not, span: condition.span };
            return self.conditional(&[(opposite, rest.to_vec())], None, span);
        }
        let end = self.namer.fresh("EndIf");
        self.branches(branches.len(), otherwise, [&end, "Else"], span, |writer, index, next| {
            let (condition, body) = &branches[index];
            writer.jump_unless(condition, next, condition.span);
            writer.statements(body);
        });
    }

    /// Branches one under another: each decides for itself whether it jumps to the next, and ends with a jump behind
    /// all of them. `labels` are that place and the base of the names in between.
    fn branches(
        &mut self,
        count: usize,
        otherwise: Option<&[Stmt]>,
        [end, base]: [&str; 2],
        span: Span,
        mut branch: impl FnMut(&mut Self, usize, &str),
    ) {
        for index in 0..count {
            let is_last = index + 1 == count && otherwise.is_none();
            let next = if is_last { end.to_string() } else { self.namer.fresh(base) };
            branch(self, index, &next);
            if !is_last {
                self.jump(When::Always, end, span);
                self.place_label(next, span);
            }
        }
        if let Some(body) = otherwise {
            self.statements(body);
        }
        self.place_label(end.to_string(), span);
    }

    pub(super) fn case(&mut self, selector: &Expr, branches: &[CaseBranch], otherwise: Option<&[Stmt]>, span: Span) {
        let typed = self.typed.get(&span).copied();
        let Some(TStmtKind::Case(typed_selector, arms, _)) = typed.map(|t| &t.kind) else { return };
        let ty = typed_selector.ty.clone();
        let selector = if is_simple(selector) && !matches!(selector.kind, ExprKind::Index(..)) {
            selector.clone()
        } else {
            let spec = self.context.spec(&ty, selector.span);
            let held = self.added(
                "Selector",
                spec,
                "the value that CASE selects by is compared more than once",
                selector.span,
            );
            self.load(selector);
            self.emit(InstrKind::Store(false, held.clone()), selector.span);
            held
        };
        let end = self.namer.fresh("EndCase");
        self.branches(branches.len(), otherwise, [&end, "Next"], span, |writer, index, next| {
            let branch = &branches[index];
            writer.take_notes(&branch.notes);
            writer.matches(&selector, &branch.labels, &arms[index].0, &ty);
            writer.jump(When::IfFalse, next, span);
            writer.statements(&branch.body);
        });
    }

    /// Loads whether the selector matches one of the labels.
    fn matches(&mut self, selector: &Expr, labels: &[CaseLabel], values: &[(i64, i64)], ty: &Ty) {
        let mut first = true;
        for (label, (low, high)) in labels.iter().zip(values) {
            let lists: Vec<Vec<Instr>> = match (label, ty) {
                // Enumerations have no order: a range of them is each of its values.
                (CaseLabel::Range(..), Ty::Enum(id)) => self.context.checked.enums[*id as usize]
                    .values
                    .iter()
                    .filter(|(_, v)| (low..=high).contains(&v))
                    .map(|(n, _)| compare(selector, BinaryOp::Eq, Operand::Expr(Expr::variable(n, selector.span))))
                    .collect(),
                (CaseLabel::Range(a, b), _) => {
                    let above = compare(selector, BinaryOp::Ge, self.argument(a));
                    let below = compare(selector, BinaryOp::Le, self.argument(b));
                    let span = selector.span;
                    let and = InstrKind::Op(BinaryOp::And, false, Operand::List(below));
                    let and = Instr { label: None, kind: and, span, notes: Notes::default() };
                    vec![above.into_iter().chain([and]).collect()]
                }
                (CaseLabel::One(value), _) => vec![compare(selector, BinaryOp::Eq, self.argument(value))],
            };
            for list in lists {
                let span = selector.span;
                if std::mem::take(&mut first) {
                    for instr in list {
                        self.emit(instr.kind, span);
                    }
                } else {
                    self.emit(InstrKind::Op(BinaryOp::Or, false, Operand::List(list)), span);
                }
            }
        }
    }

    /// Statements inside a loop with its labels.
    fn looped(&mut self, body: &[Stmt], exit: &str, next: &str) -> bool {
        self.loops.push(LoopLabels { exit: exit.to_string(), next: next.to_string(), next_used: false });
        self.statements(body);
        self.loops.pop().is_some_and(|l| l.next_used)
    }

    pub(super) fn while_loop(&mut self, condition: &Expr, body: &[Stmt], span: Span) {
        let (top, end) = (self.namer.fresh("While"), self.namer.fresh("EndWhile"));
        self.place_label(top.clone(), span);
        self.jump_unless(condition, &end, condition.span);
        self.looped(body, &end, &top);
        self.jump(When::Always, &top, span);
        self.place_label(end, span);
    }

    pub(super) fn repeat_loop(&mut self, body: &[Stmt], condition: &Expr, span: Span) {
        let (top, end) = (self.namer.fresh("Repeat"), self.namer.fresh("EndRepeat"));
        let until = self.namer.fresh("Until");
        self.place_label(top.clone(), span);
        if self.looped(body, &end, &until) {
            self.place_label(until, span);
        }
        self.jump_unless(condition, &top, condition.span);
        self.place_label(end, span);
        self.drop_unused_label();
    }

    /// A label that nothing jumps to would only puzzle.
    fn drop_unused_label(&mut self) {
        let Some((label, _)) = self.labels.last() else { return };
        let used = self.out.iter().any(|i| matches!(&i.kind, InstrKind::Jump(_, to) if to.text == *label));
        if !used {
            self.labels.pop();
        }
    }

    pub(super) fn for_loop(&mut self, head: &ForHead, body: &[Stmt], span: Span) {
        let typed = self.typed.get(&span).copied();
        let Some(TStmtKind::For(typed)) = typed.map(|t| &t.kind) else { return };
        let spec = TypeSpec::Elem(typed.elem, span);
        let (top, end) = (self.namer.fresh("For"), self.namer.fresh("EndFor"));
        let next = self.namer.fresh("Step");
        let fixed_step = typed.constant_by;
        // The limit is read once, after the control variable got its first value; where it does not look at that
        // variable, the limit comes first, so that the loop's head stays together.
        let limit_first = !mentions_or_calls(&head.to, &head.var);
        let mut limit = head.to.clone();
        if limit_first {
            limit = self.held_limit(head, body, spec.clone());
        }
        self.load(&head.from);
        self.emit(InstrKind::Store(false, head.var.clone()), span);
        if !limit_first {
            limit = self.held_limit(head, body, spec.clone());
        }
        let step = match (&head.by, fixed_step) {
            (None, _) => number("1", 1, span),
            (Some(by), Some(_)) if is_simple(by) => by.clone(),
            (Some(by), _) => {
                let held = self.added("StepWidth", spec, "the step of the loop is read once", by.span);
                self.load(by);
                self.emit(InstrKind::Store(false, held.clone()), by.span);
                held
            }
        };
        self.place_label(top.clone(), span);
        self.passed(&head.var, &limit, &step, fixed_step, span);
        self.jump(When::IfTrue, &end, span);
        if self.looped(body, &end, &next) {
            self.place_label(next, span);
        }
        self.emit(InstrKind::Load(false, head.var.clone()), span);
        self.emit(InstrKind::Op(BinaryOp::Add, false, Operand::Expr(step)), span);
        self.emit(InstrKind::Store(false, head.var.clone()), span);
        self.jump(When::Always, &top, span);
        self.place_label(end, span);
    }

    /// The limit itself if nothing in the loop can change it, or a variable that holds it.
    fn held_limit(&mut self, head: &ForHead, body: &[Stmt], spec: TypeSpec) -> Expr {
        let stays = if let ExprKind::Name(n) = &head.to.kind {
            let constant = |vars: &[crate::check::typed::Var]| {
                vars.iter().any(|v| v.name.eq_ignore_ascii_case(&n.text) && v.constant)
            };
            constant(&self.context.typed.vars) || constant(&self.context.checked.globals) || body.is_empty()
        } else {
            is_simple(&head.to)
                && !matches!(head.to.kind, ExprKind::Field(..) | ExprKind::Index(..) | ExprKind::Address(_))
        };
        if stays {
            return head.to.clone();
        }
        let held = self.added("Limit", spec, "the limit of the loop is read once", head.to.span);
        self.load(&head.to);
        self.emit(InstrKind::Store(false, held.clone()), head.to.span);
        held
    }

    /// Loads whether the control variable has passed the limit.
    fn passed(&mut self, var: &Expr, limit: &Expr, step: &Expr, fixed: Option<i64>, span: Span) {
        if let Some(fixed) = fixed {
            let op = if fixed < 0 { BinaryOp::Lt } else { BinaryOp::Gt };
            self.emit(InstrKind::Load(false, var.clone()), span);
            self.emit(InstrKind::Op(op, false, Operand::Expr(limit.clone())), span);
            return;
        }
        let zero = || Operand::Expr(number("0", 0, span));
        let half = |sign: BinaryOp, past: BinaryOp| {
            let mut list = compare(step, sign, zero());
            let inner = Operand::List(compare(var, past, Operand::Expr(limit.clone())));
            let kind = InstrKind::Op(BinaryOp::And, false, inner);
            list.push(Instr { label: None, kind, span, notes: Notes::default() });
            list
        };
        for instr in half(BinaryOp::Ge, BinaryOp::Gt) {
            self.emit(instr.kind, span);
        }
        let down = Operand::List(half(BinaryOp::Lt, BinaryOp::Lt));
        self.emit(InstrKind::Op(BinaryOp::Or, false, down), span);
    }
}

/// True if an expression looks at a variable or calls something that might.
fn mentions_or_calls(expr: &Expr, var: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(_) | ExprKind::Address(_) => false,
        ExprKind::Name(_) => expr == var,
        ExprKind::Field(..) | ExprKind::Index(..) | ExprKind::Call(_) => true,
        ExprKind::Unary(_, inner) => mentions_or_calls(inner, var),
        ExprKind::Binary(_, a, b) => mentions_or_calls(a, var) || mentions_or_calls(b, var),
    }
}
