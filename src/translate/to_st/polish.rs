//! The last touch: ELSE with one IF in it is ELSIF, a chain that asks for values of one variable is a CASE, and an IF that does
//! nothing is left out.

use super::simplify::{may_fault, mentions};
use crate::check::typed::Ty;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Arg, CaseBranch, CaseLabel, Elem, Expr, ExprKind, LiteralValue, Name, Notes, Operand, Stmt, StmtKind,
};
use crate::translate::Context;

pub(super) fn list(list: Vec<Stmt>, context: &Context<'_>) -> Vec<Stmt> {
    let mut out: Vec<Stmt> = Vec::new();
    for stmt in list {
        let stmt = statement(stmt, context);
        if does_nothing(&stmt) {
            continue;
        }
        out.push(stmt);
        gather_inputs(&mut out, context);
    }
    out
}

/// An IF whose branches are empty, whose conditions cannot stop the scan, and that carries no comment.
fn does_nothing(stmt: &Stmt) -> bool {
    let StmtKind::If(branches, None) = &stmt.kind else { return false };
    let notes = &stmt.notes;
    notes.leading.is_empty()
        && notes.trailing.is_empty()
        && branches.iter().all(|(condition, body)| body.is_empty() && !may_fault(condition))
}

/// `T.IN := a; T.PT := b; T();` is `T(IN := a, PT := b);`, as long as `a` and `b` do not look at `T`.
fn gather_inputs(out: &mut Vec<Stmt>, context: &Context<'_>) {
    let Some((Stmt { kind: StmtKind::Call(call), .. }, before)) = out.split_last() else { return };
    let ExprKind::Name(instance) = &call.callee.kind else { return };
    // What the call itself gives is given after the assignments, so it must not look at what they change.
    let is_plain = |a: &Arg| matches!(a, Arg::Input(_, Operand::Expr(value)) if !mentions(value, &instance.text));
    if !call.args.iter().all(is_plain) || !matches!(context.variable_type(&instance.text), Some(Ty::Block(_))) {
        return;
    }
    let given = |pin: &Name| call.args.iter().any(|a| matches!(a, Arg::Input(n, _) if n == pin));
    let mut args: Vec<Arg> = Vec::new();
    for stmt in before.iter().rev() {
        let Some((pin, value)) = input_of(stmt, &instance.text) else { break };
        let twice = args.iter().any(|a| matches!(a, Arg::Input(n, _) if n == pin));
        // Only comments above the first of them keep their place.
        let first = args.len();
        let last_moved = first > 0 && !before[before.len() - first].notes.leading.is_empty();
        if twice || given(pin) || last_moved || mentions(value, &instance.text) {
            break;
        }
        args.push(Arg::Input(pin.clone(), Operand::Expr(value.clone())));
    }
    let Some(Stmt { kind: StmtKind::Call(mut call), span, notes }) = out.pop() else { return };
    if args.is_empty() || !notes.leading.is_empty() {
        out.push(Stmt { kind: StmtKind::Call(call), span, notes });
        return;
    }
    let gathered = out.split_off(out.len() - args.len());
    args.reverse();
    args.append(&mut call.args);
    call.args = args;
    let mut notes = Notes { trailing: notes.trailing, ..Notes::default() };
    for (index, stmt) in gathered.into_iter().enumerate() {
        notes.blank_before |= index == 0 && stmt.notes.blank_before;
        notes.leading.extend(stmt.notes.leading);
        notes.leading.extend(stmt.notes.trailing);
    }
    out.push(Stmt { kind: StmtKind::Call(call), span, notes });
}

/// The input and the value of `instance.PIN := value;`.
fn input_of<'s>(stmt: &'s Stmt, instance: &str) -> Option<(&'s Name, &'s Expr)> {
    let StmtKind::Assign(target, value) = &stmt.kind else { return None };
    let ExprKind::Field(base, pin) = &target.kind else { return None };
    let ExprKind::Name(name) = &base.kind else { return None };
    name.text.eq_ignore_ascii_case(instance).then_some((pin, value))
}

fn statement(stmt: Stmt, context: &Context<'_>) -> Stmt {
    let kind = match stmt.kind {
        StmtKind::If(branches, otherwise) => conditional(branches, otherwise, context),
        StmtKind::While(condition, body) => StmtKind::While(turned(condition, context), list(body, context)),
        StmtKind::Repeat(body, condition) => StmtKind::Repeat(list(body, context), turned(condition, context)),
        StmtKind::For(head, body) => StmtKind::For(head, list(body, context)),
        StmtKind::Case(selector, branches, otherwise) => {
            let branches = branches.into_iter().map(|b| CaseBranch { body: list(b.body, context), ..b }).collect();
            StmtKind::Case(selector, branches, otherwise.map(|o| list(o, context)))
        }
        other @ (StmtKind::Empty
        | StmtKind::Assign(..)
        | StmtKind::Call(_)
        | StmtKind::Exit
        | StmtKind::Continue
        | StmtKind::Return) => other,
    };
    Stmt { kind, ..stmt }
}

fn conditional(branches: Vec<(Expr, Vec<Stmt>)>, otherwise: Option<Vec<Stmt>>, context: &Context<'_>) -> StmtKind {
    let mut branches: Vec<(Expr, Vec<Stmt>)> = branches.into_iter().map(|(c, b)| (c, list(b, context))).collect();
    let mut otherwise = otherwise.map(|o| list(o, context));
    // Comments above the inner IF would have no place in front of an ELSIF.
    let single = |list: &[Stmt]| matches!(list, [Stmt { kind: StmtKind::If(..), notes, .. }] if notes.leading.is_empty() && notes.trailing.is_empty());
    if let Some(inner) = otherwise.take_if(|o| single(o)) {
        for stmt in inner {
            if let StmtKind::If(more, rest) = stmt.kind {
                branches.extend(more);
                otherwise = rest;
            }
        }
    }
    // `IF NOT c THEN a ELSE b` reads better the other way round.
    if let ([.., (Expr { kind: ExprKind::Unary(UnaryOp::Not, condition), .. }, then)], Some(rest)) =
        (branches.as_mut_slice(), &mut otherwise)
        && !single(then)
    {
        let condition = (**condition).clone();
        std::mem::swap(then, rest);
        if let Some(last) = branches.last_mut() {
            last.0 = condition;
        }
    }
    let branches = branches.into_iter().map(|(c, b)| (turned(c, context), b)).collect();
    case(branches, otherwise, context)
}

/// `NOT (a < b)` is `a >= b`, unless one of them may be no number.
fn turned(condition: Expr, context: &Context<'_>) -> Expr {
    if let ExprKind::Unary(UnaryOp::Not, inner) = &condition.kind
        && let ExprKind::Binary(op, left, right) = &inner.kind
        && let Some(inverse) = op.inverse()
        && ordered(left, context)
        && ordered(right, context)
    {
        return Expr { kind: ExprKind::Binary(inverse, left.clone(), right.clone()), span: condition.span };
    }
    condition
}

/// True for what is surely not a real.
fn ordered(expr: &Expr, context: &Context<'_>) -> bool {
    match &expr.kind {
        ExprKind::Literal(l) => {
            matches!(l.value, LiteralValue::Int(_) | LiteralValue::Time(..) | LiteralValue::Bool(_))
        }
        ExprKind::Name(name) => match context.variable_type(&name.text) {
            Some(Ty::Enum(_)) => true,
            Some(ty) => ty.elem().is_some_and(|e| !e.is_real()),
            None => false,
        },
        ExprKind::Unary(_, inner) => ordered(inner, context),
        ExprKind::Binary(op, left, right) => {
            *op != BinaryOp::Power && ordered(left, context) && ordered(right, context)
        }
        ExprKind::Address(_) | ExprKind::Field(..) | ExprKind::Index(..) | ExprKind::Call(_) => false,
    }
}

/// A chain of at least two branches that compare one integer variable with constants is a CASE.
fn case(branches: Vec<(Expr, Vec<Stmt>)>, otherwise: Option<Vec<Stmt>>, context: &Context<'_>) -> StmtKind {
    let mut selector: Option<Expr> = None;
    let mut all_labels = Vec::new();
    for (condition, _) in &branches {
        let mut labels = Vec::new();
        if !labels_of(condition, &mut selector, &mut labels, context) {
            return StmtKind::If(branches, otherwise);
        }
        all_labels.push(labels);
    }
    let fits = selector.as_ref().is_some_and(|s| selects(s, context));
    // What follows may have become a CASE of the same variable already.
    let goes_on = matches!(otherwise.as_deref(),
        Some([Stmt { kind: StmtKind::Case(inner, ..), notes, .. }])
            if Some(inner) == selector.as_ref() && notes.leading.is_empty() && notes.trailing.is_empty());
    let Some(selector) = selector.filter(|_| fits && (branches.len() > 1 || goes_on)) else {
        return StmtKind::If(branches, otherwise);
    };
    let mut branches: Vec<CaseBranch> = branches
        .into_iter()
        .zip(all_labels)
        .map(|((_, body), labels)| CaseBranch { labels, body, notes: Notes::default() })
        .collect();
    let mut otherwise = otherwise;
    if goes_on
        && let Some(Stmt { kind: StmtKind::Case(_, more, rest), .. }) = otherwise.take().and_then(|mut o| o.pop())
    {
        branches.extend(more);
        otherwise = rest;
    }
    StmtKind::Case(selector, branches, otherwise)
}

fn selects(selector: &Expr, context: &Context<'_>) -> bool {
    let ExprKind::Name(name) = &selector.kind else { return false };
    match context.variable_type(&name.text) {
        Some(Ty::Enum(_)) => true,
        Some(ty) => ty.elem().is_some_and(Elem::is_integer),
        None => false,
    }
}

/// Takes `x = 1`, `x >= 2 AND x <= 3` and ORs of them apart into labels of `x`.
fn labels_of(
    condition: &Expr,
    selector: &mut Option<Expr>,
    labels: &mut Vec<CaseLabel>,
    context: &Context<'_>,
) -> bool {
    match &condition.kind {
        ExprKind::Binary(BinaryOp::Or, left, right) => {
            labels_of(left, selector, labels, context) && labels_of(right, selector, labels, context)
        }
        ExprKind::Binary(BinaryOp::Eq, var, value) if is_constant(value, context) && same(selector, var) => {
            labels.push(CaseLabel::One((**value).clone()));
            true
        }
        ExprKind::Binary(BinaryOp::And, left, right) => {
            let (ExprKind::Binary(BinaryOp::Ge, a, low), ExprKind::Binary(BinaryOp::Le, b, high)) =
                (&left.kind, &right.kind)
            else {
                return false;
            };
            let good = a == b && ascending(low, high) && same(selector, a);
            if good {
                labels.push(CaseLabel::Range((**low).clone(), (**high).clone()));
            }
            good
        }
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => false,
    }
}

fn same(selector: &mut Option<Expr>, var: &Expr) -> bool {
    if !matches!(var.kind, ExprKind::Name(_)) {
        return false;
    }
    *selector.get_or_insert_with(|| var.clone()) == *var
}

fn is_constant(value: &Expr, context: &Context<'_>) -> bool {
    let enumeration_value = |name: &Name| {
        let values = context.checked.enums.iter().flat_map(|e| &e.values);
        context.variable_type(&name.text).is_none()
            && values.into_iter().any(|(n, _)| n.eq_ignore_ascii_case(&name.text))
    };
    literal(value).is_some()
        || matches!(&value.kind, ExprKind::Name(name) if enumeration_value(name))
        || matches!(&value.kind, ExprKind::Literal(l) if l.typed.is_some() && matches!(l.value, LiteralValue::Text(_)))
}

fn ascending(low: &Expr, high: &Expr) -> bool {
    literal(low).zip(literal(high)).is_some_and(|(a, b)| a <= b)
}

fn literal(value: &Expr) -> Option<i128> {
    match &value.kind {
        ExprKind::Literal(l) => {
            if let LiteralValue::Int(i) = l.value {
                Some(i)
            } else {
                None
            }
        }
        ExprKind::Unary(UnaryOp::Negate, inner) => literal(inner).map(|v| -v),
        ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => None,
    }
}
