//! Branches and loops. A branch becomes a condition that enables what stands in it, where that does the same: nothing
//! in it may change what other branches ask, and nothing that is computed in any case may stop the scan. Otherwise,
//! and for loops, labels and jumps.

use super::{DiagramWriter, LoopLabels};
use crate::check::typed::{TStmtKind, Ty};
use crate::model::functions::{Faults, Function};
use crate::model::ops::BinaryOp;
use crate::model::{
    Arg, Call, CaseBranch, CaseLabel, Expr, ExprKind, ForHead, LiteralValue, Operand, Stmt, StmtKind, TypeSpec, Wire,
};
use crate::source::Span;
use crate::translate::literals::{is_simple, number};
use crate::translate::to_st::{mentions, root};

/// A branch with more in it than this is jumped over.
const MOST_STATEMENTS: usize = 12;
/// More branches than this are jumped between.
const MOST_BRANCHES: usize = 6;

fn all(terms: Vec<Expr>, op: BinaryOp) -> Option<Expr> {
    terms.into_iter().reduce(|a, b| Expr::binary(op, a, b))
}

impl DiagramWriter<'_> {
    /// True for an IF whose statements can stand under its condition.
    pub(super) fn is_flat(&self, stmt: &Stmt) -> bool {
        let StmtKind::If(branches, otherwise) = &stmt.kind else { return false };
        let one = branches.len() == 1 && otherwise.is_none();
        let conditions = branches.iter().all(|(c, _)| one || !self.is_risky(c));
        let bodies = branches.iter().map(|(_, b)| b.as_slice()).chain(otherwise.as_deref());
        branches.len() <= MOST_BRANCHES && conditions && bodies.into_iter().all(|b| self.is_flat_list(b, 0))
    }

    fn is_flat_list(&self, list: &[Stmt], depth: usize) -> bool {
        list.len() <= MOST_STATEMENTS
            && list.iter().all(|stmt| match &stmt.kind {
                StmtKind::Empty => true,
                StmtKind::Assign(target, value) => !self.is_risky(target) && !self.is_risky(value),
                StmtKind::Call(call) => self.is_flat_call(call),
                StmtKind::Exit | StmtKind::Continue | StmtKind::Return => true,
                StmtKind::If(branches, None) => {
                    depth < 3
                        && branches.len() == 1
                        && !self.is_risky(&branches[0].0)
                        && self.is_flat_list(&branches[0].1, depth + 1)
                }
                StmtKind::If(..)
                | StmtKind::Case(..)
                | StmtKind::For(..)
                | StmtKind::While(..)
                | StmtKind::Repeat(..) => false,
            })
    }

    fn is_flat_call(&self, call: &Call) -> bool {
        let is_block = if let ExprKind::Name(n) = &call.callee.kind {
            self.context.variable_type(&n.text).is_some()
        } else {
            false
        };
        is_block
            && call.args.iter().all(|arg| match arg {
                Arg::Plain(Operand::Expr(value)) => !self.is_risky(value),
                Arg::Input(name, Operand::Expr(value)) => {
                    !name.text.eq_ignore_ascii_case("EN") && !self.is_risky(value)
                }
                Arg::Output { name, target, .. } => !name.text.eq_ignore_ascii_case("ENO") && !self.is_risky(target),
                Arg::Plain(_) | Arg::Input(..) => false,
            })
    }

    /// True if computing it where it need not be computed could be noticed: it may stop the scan, or it calls code.
    fn is_risky(&self, expr: &Expr) -> bool {
        match &expr.kind {
            ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => false,
            ExprKind::Field(base, _) => self.is_risky(base),
            ExprKind::Index(base, indices) => {
                self.is_risky(base) || !indices.iter().all(|i| matches!(i.kind, ExprKind::Literal(_)))
            }
            ExprKind::Unary(_, inner) => self.is_risky(inner),
            ExprKind::Binary(BinaryOp::Div | BinaryOp::Power, left, right) => {
                let fixed = matches!(&right.kind, ExprKind::Literal(l)
                    if !matches!(l.value, LiteralValue::Int(0)) && !matches!(l.value, LiteralValue::Real(r) if r == 0.0));
                !fixed || self.is_risky(left)
            }
            ExprKind::Binary(_, left, right) => self.is_risky(left) || self.is_risky(right),
            ExprKind::Call(call) => {
                let ExprKind::Name(name) = &call.callee.kind else { return true };
                let total = Function::from_name(&name.text).is_some_and(|f| match f.row().faults {
                    Faults::Never => true,
                    Faults::UnlessWhole => self.is_of_integers(expr, call),
                    Faults::Maybe => false,
                });
                !total
                    || self.context.is_unit(&name.text)
                    || call.args.iter().any(|arg| {
                        if let Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) = arg {
                            self.is_risky(value)
                        } else {
                            true
                        }
                    })
            }
        }
    }

    /// Whether all that takes part in a call is integers and bit strings.
    fn is_of_integers(&self, expr: &Expr, call: &Call) -> bool {
        self.is_whole(expr)
            && call.args.iter().all(|arg| matches!(arg, Arg::Plain(Operand::Expr(value)) if self.is_whole(value)))
    }

    fn is_whole(&self, expr: &Expr) -> bool {
        self.type_of(expr).and_then(Ty::elem).is_some_and(|e| e.is_integer() || e.is_bits())
    }

    // IF.

    pub(super) fn conditional(
        &mut self,
        stmt: &Stmt,
        branches: &[(Expr, Vec<Stmt>)],
        otherwise: Option<&[Stmt]>,
        joins: bool,
    ) {
        if self.is_flat(stmt)
            && (branches.len() + usize::from(otherwise.is_some()) == 1 || self.is_independent(branches, otherwise))
        {
            self.rungs(branches, otherwise, joins, stmt.span);
            return;
        }
        if let ([(condition, body)], None) = (branches, otherwise)
            && let [Stmt { kind: kind @ (StmtKind::Exit | StmtKind::Continue | StmtKind::Return), notes, .. }] =
                body.as_slice()
        {
            self.take_notes(notes);
            self.begin(stmt.span);
            let power = self.condition(condition, Wire::RAIL);
            self.leave(kind, power, stmt.span);
            return;
        }
        let end = self.namer.fresh("EndIf");
        let conditions: Vec<Expr> = branches.iter().map(|(c, _)| c.clone()).collect();
        let bodies: Vec<&[Stmt]> = branches.iter().map(|(_, b)| b.as_slice()).collect();
        self.jumped(&conditions, &bodies, otherwise, [&end, "Else"], stmt.span);
    }

    /// Nothing that a branch writes is asked by a later one.
    fn is_independent(&self, branches: &[(Expr, Vec<Stmt>)], otherwise: Option<&[Stmt]>) -> bool {
        let bodies = branches.iter().map(|(_, b)| b.as_slice()).chain(otherwise);
        let mut written = Written::default();
        bodies.for_each(|b| self.writes(b, &mut written));
        !written.anything
            && branches.iter().all(|(condition, _)| !written.names.iter().any(|name| mentions(condition, name)))
    }

    /// What statements write.
    pub(super) fn written(&self, list: &[Stmt]) -> Written {
        let mut out = Written::default();
        self.writes(list, &mut out);
        out
    }

    fn writes(&self, list: &[Stmt], out: &mut Written) {
        for stmt in list {
            match &stmt.kind {
                StmtKind::Assign(target, _) => out.add(target),
                StmtKind::Call(call) => {
                    out.add(&call.callee);
                    for arg in &call.args {
                        match arg {
                            Arg::Output { target, .. } => out.add(target),
                            _ if self.is_shipped_call(call) => {}
                            // VAR_IN_OUT, for all that can be seen here.
                            Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) => {
                                value.roots(&mut |r| out.names.push(r.to_string()));
                            }
                            Arg::Plain(_) | Arg::Input(..) => {}
                        }
                    }
                    out.anything |= !self.is_shipped_call(call);
                }
                StmtKind::If(branches, otherwise) => {
                    branches.iter().for_each(|(_, b)| self.writes(b, out));
                    otherwise.iter().for_each(|b| self.writes(b, out));
                }
                StmtKind::Empty
                | StmtKind::Case(..)
                | StmtKind::For(..)
                | StmtKind::While(..)
                | StmtKind::Repeat(..)
                | StmtKind::Exit
                | StmtKind::Continue
                | StmtKind::Return => {}
            }
        }
    }

    /// True if statements may write something that an expression looks at.
    pub(super) fn writes_to(&self, list: &[Stmt], value: &Expr) -> bool {
        let written = self.written(list);
        written.anything && !self.context.checked.globals.is_empty() || written.names.iter().any(|n| mentions(value, n))
    }

    fn is_shipped_call(&self, call: &Call) -> bool {
        let ExprKind::Name(name) = &call.callee.kind else { return false };
        match self.context.variable_type(&name.text) {
            Some(Ty::Block(unit)) => self.context.checked.unit(*unit).built_in,
            _ => false,
        }
    }

    /// Each branch is a rung of its own, under the opposite of the conditions above it and its own.
    fn rungs(&mut self, branches: &[(Expr, Vec<Stmt>)], otherwise: Option<&[Stmt]>, joins: bool, span: Span) {
        let mut above: Vec<Expr> = Vec::new();
        let bodies = branches.iter().map(|(c, b)| (Some(c), b.as_slice())).chain(otherwise.map(|b| (None, b)));
        for (index, (condition, body)) in bodies.enumerate() {
            let terms = above.iter().cloned().chain(condition.cloned()).collect();
            above.extend(condition.map(|c| c.clone().inverted()));
            if body.iter().all(|s| matches!(s.kind, StmtKind::Empty)) && index > 0 {
                continue;
            }
            let Some(all) = all(terms, BinaryOp::And) else { continue };
            if !(joins && index == 0) {
                self.begin(span);
            }
            let power = self.condition(&all, Wire::RAIL);
            self.under(body, power);
        }
    }

    /// Statements while a wire has power.
    fn under(&mut self, list: &[Stmt], power: Wire) {
        for stmt in list {
            self.add_comments(&stmt.notes.leading);
            self.add_comments(&stmt.notes.trailing);
            match &stmt.kind {
                StmtKind::Assign(target, value) => self.assign(target, value, Some(power), stmt.span),
                StmtKind::Call(call) => self.call(call, Some(power)),
                StmtKind::If(branches, _) => {
                    for (condition, body) in branches {
                        let inner = self.condition(condition, power);
                        self.under(body, inner);
                    }
                }
                StmtKind::Exit | StmtKind::Continue | StmtKind::Return => self.leave(&stmt.kind, power, stmt.span),
                StmtKind::Empty
                | StmtKind::Case(..)
                | StmtKind::For(..)
                | StmtKind::While(..)
                | StmtKind::Repeat(..) => {}
            }
        }
    }

    /// Branches one under another, jumped between.
    fn jumped(
        &mut self,
        conditions: &[Expr],
        bodies: &[&[Stmt]],
        otherwise: Option<&[Stmt]>,
        [end, base]: [&str; 2],
        span: Span,
    ) {
        for (index, (condition, body)) in conditions.iter().zip(bodies).enumerate() {
            let is_last = index + 1 == bodies.len() && otherwise.is_none();
            let next = if is_last { end.to_string() } else { self.namer.fresh(base) };
            self.jump_unless(condition, &next, condition.span);
            self.statements(body);
            if !is_last {
                self.begin(span);
                self.jump(Wire::RAIL, end, span);
                self.place_label(next, span);
            }
        }
        if let Some(body) = otherwise {
            self.statements(body);
        }
        self.place_label(end.to_string(), span);
    }

    fn jump_unless(&mut self, condition: &Expr, to: &str, span: Span) {
        self.begin(span);
        let power = self.condition(&condition.clone().inverted(), Wire::RAIL);
        self.jump(power, to, span);
        self.close();
    }

    // CASE.

    pub(super) fn case(&mut self, selector: &Expr, branches: &[CaseBranch], otherwise: Option<&[Stmt]>, span: Span) {
        let typed = self.typed.get(&span).copied();
        let Some(TStmtKind::Case(typed_selector, arms, _)) = typed.map(|t| &t.kind) else { return };
        let ty = typed_selector.ty.clone();
        let selector = if is_simple(selector) && !matches!(selector.kind, ExprKind::Index(..)) {
            selector.clone()
        } else {
            let spec = self.context.spec(&ty, selector.span);
            let why = "the value that CASE selects by is compared more than once";
            let held = self.added("Selector", spec, why, selector.span);
            self.begin(span);
            self.assign(&held, selector, None, selector.span);
            self.close();
            held
        };
        let mut conditions = Vec::new();
        for (branch, (values, _)) in branches.iter().zip(arms) {
            conditions.push(self.matches(&selector, &branch.labels, values, &ty));
        }
        let bodies: Vec<&[Stmt]> = branches.iter().map(|b| b.body.as_slice()).collect();
        let listed: Vec<(Expr, Vec<Stmt>)> =
            conditions.iter().cloned().zip(bodies.iter().map(|b| b.to_vec())).collect();
        let mut ranges: Vec<(i64, i64)> = arms.iter().flat_map(|(values, _)| values.clone()).collect();
        ranges.sort_unstable();
        let disjoint = ranges.windows(2).all(|pair| pair[0].1 < pair[1].0);
        let flat = bodies.iter().copied().chain(otherwise).all(|b| self.is_flat_list(b, 0));
        if flat && disjoint && self.is_independent(&listed, otherwise) {
            for (branch, condition) in branches.iter().zip(&conditions) {
                self.take_notes(&branch.notes);
                self.begin(span);
                let power = self.condition(condition, Wire::RAIL);
                self.under(&branch.body, power);
            }
            let none = all(conditions.iter().map(|c| c.clone().inverted()).collect(), BinaryOp::And);
            if let (Some(body), Some(none)) = (otherwise, none) {
                self.begin(span);
                let power = self.condition(&none, Wire::RAIL);
                self.under(body, power);
            }
            return;
        }
        for branch in branches {
            self.take_notes(&branch.notes);
        }
        let end = self.namer.fresh("EndCase");
        self.jumped(&conditions, &bodies, otherwise, [&end, "Next"], span);
    }

    /// Whether the selector matches one of the labels.
    fn matches(&mut self, selector: &Expr, labels: &[CaseLabel], values: &[(i64, i64)], ty: &Ty) -> Expr {
        let span = selector.span;
        let compare =
            |op, value: Expr| Expr { kind: ExprKind::Binary(op, Box::new(selector.clone()), Box::new(value)), span };
        let mut terms = Vec::new();
        for (label, (low, high)) in labels.iter().zip(values) {
            match (label, ty) {
                // Enumerations have no order: a range of them is each of its values.
                (CaseLabel::Range(..), Ty::Enum(id)) => {
                    let all = self.context.checked.enums[*id as usize].values.iter();
                    let within = all.filter(|(_, v)| (low..=high).contains(&v));
                    terms.extend(within.map(|(n, _)| compare(BinaryOp::Eq, Expr::variable(n, span))));
                }
                (CaseLabel::Range(a, b), _) => {
                    terms.push(Expr::binary(
                        BinaryOp::And,
                        compare(BinaryOp::Ge, a.clone()),
                        compare(BinaryOp::Le, b.clone()),
                    ));
                }
                (CaseLabel::One(value), _) => terms.push(compare(BinaryOp::Eq, value.clone())),
            }
        }
        all(terms, BinaryOp::Or).unwrap_or_else(|| Expr::truth(false, span))
    }

    // Loops.

    /// Statements inside a loop with its labels.
    fn looped(&mut self, body: &[Stmt], exit: &str, next: &str) -> bool {
        self.loops.push(LoopLabels { exit: exit.to_string(), next: next.to_string(), next_used: false });
        self.statements(body);
        self.loops.pop().is_some_and(|l| l.next_used)
    }

    fn jump_back(&mut self, to: &str, span: Span) {
        self.begin(span);
        self.jump(Wire::RAIL, to, span);
        self.close();
    }

    pub(super) fn while_loop(&mut self, condition: &Expr, body: &[Stmt], span: Span) {
        let (top, end) = (self.namer.fresh("While"), self.namer.fresh("EndWhile"));
        self.place_label(top.clone(), span);
        self.jump_unless(condition, &end, condition.span);
        self.looped(body, &end, &top);
        self.jump_back(&top, span);
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
    }

    pub(super) fn for_loop(&mut self, head: &ForHead, body: &[Stmt], span: Span) {
        let typed = self.typed.get(&span).copied();
        let Some(TStmtKind::For(typed)) = typed.map(|t| &t.kind) else { return };
        let spec = TypeSpec::Elem(typed.elem, span);
        let (top, end, next) = (self.namer.fresh("For"), self.namer.fresh("EndFor"), self.namer.fresh("Step"));
        let fixed = typed.constant_by;
        self.begin(span);
        self.assign(&head.var, &head.from, None, span);
        self.close();
        let limit = if let ExprKind::Literal(_) = &head.to.kind {
            head.to.clone()
        } else {
            self.held("Limit", &head.to, spec.clone(), "the limit of the loop is read once")
        };
        let step = match (&head.by, fixed) {
            (None, _) => number("1", 1, span),
            (Some(by), Some(_)) if is_simple(by) => by.clone(),
            (Some(by), _) => self.held("StepWidth", by, spec, "the step of the loop is read once"),
        };
        self.place_label(top.clone(), span);
        let past = passed(&head.var, &limit, &step, fixed);
        self.begin(span);
        let power = self.condition(&past, Wire::RAIL);
        self.jump(power, &end, span);
        self.close();
        if self.looped(body, &end, &next) {
            self.place_label(next, span);
        }
        self.begin(span);
        let sum = Expr::binary(BinaryOp::Add, head.var.clone(), step);
        self.boxed_assignment(&head.var, &sum, None, span);
        self.close();
        self.jump_back(&top, span);
        self.place_label(end, span);
    }

    /// A value that is computed once.
    fn held(&mut self, base: &str, value: &Expr, spec: TypeSpec, why: &str) -> Expr {
        let held = self.added(base, spec, why, value.span);
        self.begin(value.span);
        self.boxed_assignment(&held, value, None, value.span);
        self.close();
        held
    }
}

/// What a list of statements writes.
#[derive(Default)]
pub(super) struct Written {
    pub(super) names: Vec<String>,
    /// Code of unknown reach is called.
    pub(super) anything: bool,
}

impl Written {
    fn add(&mut self, target: &Expr) {
        self.names.extend(root(target).map(str::to_string));
    }
}

/// Whether the control variable of a loop is past its limit.
fn passed(var: &Expr, limit: &Expr, step: &Expr, fixed: Option<i64>) -> Expr {
    let past = |op| Expr::binary(op, var.clone(), limit.clone());
    match fixed {
        Some(step) if step < 0 => past(BinaryOp::Lt),
        Some(_) => past(BinaryOp::Gt),
        None => {
            let sign = |op| Expr::binary(op, step.clone(), number("0", 0, step.span));
            let up = Expr::binary(BinaryOp::And, sign(BinaryOp::Ge), past(BinaryOp::Gt));
            let down = Expr::binary(BinaryOp::And, sign(BinaryOp::Lt), past(BinaryOp::Lt));
            Expr::binary(BinaryOp::Or, up, down)
        }
    }
}
