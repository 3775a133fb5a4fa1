//! Rungs that decide between alternatives are a chain of ELSIFs, and rungs that ask for values of one variable a CASE:
//! statements that stand one under another, of whose conditions only one can hold.
//!
//! That is the same only while nothing that an earlier one does changes what a later one asks.

use super::simplify::{may_fault, mentions, negate, root};
use crate::check::typed::Ty;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Expr, ExprKind, Literal, LiteralValue, Operand, Stmt, StmtKind};
use crate::translate::Context;

/// Joins what can be joined.
pub(super) fn join(list: Vec<Stmt>, context: &Context<'_>) -> Vec<Stmt> {
    let mut out: Vec<Stmt> = Vec::new();
    for stmt in list {
        let alone = stmt.notes.leading.is_empty() && stmt.notes.trailing.is_empty();
        let merged = match (out.last_mut(), alone) {
            (Some(above), true) => extend(above, &stmt, context),
            _ => false,
        };
        if !merged {
            out.push(stmt);
        }
    }
    out
}

/// Makes `stmt` a further branch of the IF above, if it is one.
fn extend(above: &mut Stmt, stmt: &Stmt, context: &Context<'_>) -> bool {
    let StmtKind::If(branches, otherwise @ None) = &mut above.kind else { return false };
    let StmtKind::If(more, None) = &stmt.kind else { return false };
    let [(condition, body)] = more.as_slice() else { return false };
    let asked = branches.iter().map(|(c, _)| c).chain([condition]);
    let bodies: Vec<&[Stmt]> = branches.iter().map(|(_, b)| b.as_slice()).collect();
    if asked.clone().any(may_fault) || !leaves_alone(&bodies, &asked.collect::<Vec<_>>(), context) {
        return false;
    }
    let mut rest: Vec<Expr> = Vec::new();
    terms(condition, &mut rest);
    let negated = branches.iter().all(|(earlier, _)| take_opposite(&mut rest, earlier, context));
    if negated && rest.is_empty() {
        *otherwise = Some(body.clone());
        return true;
    }
    let condition = if negated {
        rest.into_iter().reduce(and)
    } else {
        // Values of one variable: together they are a CASE.
        let all: Vec<&Expr> = branches.iter().map(|(c, _)| c).chain([condition]).collect();
        are_labels(&all, context).then(|| condition.clone())
    };
    let Some(condition) = condition else { return false };
    branches.push((condition, body.clone()));
    true
}

/// Takes from terms those that say the opposite of an earlier condition: in a chain they say nothing new.
fn take_opposite(rest: &mut Vec<Expr>, earlier: &Expr, context: &Context<'_>) -> bool {
    let mut opposite = Vec::new();
    terms(&inwards(earlier, true, context), &mut opposite);
    opposite.iter().all(|wanted| {
        let found = rest.iter().position(|term| inwards(term, false, context) == *wanted);
        found.map(|at| rest.remove(at)).is_some()
    })
}

/// True if all conditions ask whether one variable has certain values, and no two ask for the same.
fn are_labels(conditions: &[&Expr], context: &Context<'_>) -> bool {
    let Some(subject) = conditions.first().and_then(|c| subject(c)) else { return false };
    let mut ranges: Vec<(i128, i128)> = Vec::new();
    for condition in conditions {
        if !labels(condition, subject, context, &mut ranges) {
            return false;
        }
    }
    ranges.sort_unstable();
    ranges.windows(2).all(|pair| pair[0].1 < pair[1].0)
}

/// What the first comparison of a condition compares.
fn subject(expr: &Expr) -> Option<&Expr> {
    match &expr.kind {
        ExprKind::Binary(op, left, _) if op.is_comparison() => Some(left),
        ExprKind::Binary(BinaryOp::And | BinaryOp::Or, left, _) => subject(left),
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => None,
    }
}

/// The values that a condition asks for; false if it is no list of values and ranges.
fn labels(expr: &Expr, of: &Expr, context: &Context<'_>, out: &mut Vec<(i128, i128)>) -> bool {
    let value = |e: &Expr, wanted: BinaryOp| {
        if let ExprKind::Binary(op, left, right) = &e.kind
            && *op == wanted
            && **left == *of
        {
            whole_number(right, context)
        } else {
            None
        }
    };
    match &expr.kind {
        ExprKind::Binary(BinaryOp::Or, left, right) => {
            labels(left, of, context, out) && labels(right, of, context, out)
        }
        ExprKind::Binary(BinaryOp::And, low, high) => {
            let range = value(low, BinaryOp::Ge).zip(value(high, BinaryOp::Le));
            out.extend(range);
            range.is_some()
        }
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => {
            let one = value(expr, BinaryOp::Eq);
            out.extend(one.map(|v| (v, v)));
            one.is_some()
        }
    }
}

fn and(a: Expr, b: Expr) -> Expr {
    let span = a.span.to(b.span);
    Expr { kind: ExprKind::Binary(BinaryOp::And, Box::new(a), Box::new(b)), span }
}

fn terms(expr: &Expr, out: &mut Vec<Expr>) {
    if let ExprKind::Binary(BinaryOp::And, left, right) = &expr.kind {
        terms(left, out);
        terms(right, out);
    } else {
        out.push(expr.clone())
    }
}

/// True if statements write nothing that conditions look at.
fn leaves_alone(bodies: &[&[Stmt]], asked: &[&Expr], context: &Context<'_>) -> bool {
    let quiet = |target: &Expr| root(target).is_some_and(|name| !asked.iter().any(|c| mentions(c, name)));
    bodies.iter().flat_map(|b| b.iter()).all(|stmt| match &stmt.kind {
        StmtKind::Assign(target, _) => quiet(target),
        StmtKind::Call(call) => {
            let shipped = if let ExprKind::Name(name) = &call.callee.kind {
                match context.variable_type(&name.text) {
                    Some(Ty::Block(unit)) => context.checked.unit(*unit).built_in,
                    _ => false,
                }
            } else {
                false
            };
            shipped
                && quiet(&call.callee)
                && call.args.iter().all(|arg| match arg {
                    Arg::Output { target, .. } => quiet(target),
                    Arg::Plain(Operand::Expr(_)) | Arg::Input(_, Operand::Expr(_)) => true,
                    Arg::Plain(_) | Arg::Input(..) => false,
                })
        }
        StmtKind::Empty => true,
        StmtKind::If(..)
        | StmtKind::Case(..)
        | StmtKind::For(..)
        | StmtKind::While(..)
        | StmtKind::Repeat(..)
        | StmtKind::Exit
        | StmtKind::Continue
        | StmtKind::Return => false,
    })
}

/// NOT pushed to the variables and comparisons, where no NaN can be.
fn inwards(expr: &Expr, negated: bool, context: &Context<'_>) -> Expr {
    let make = |kind| Expr { kind, span: expr.span };
    match &expr.kind {
        ExprKind::Unary(UnaryOp::Not, inner) => inwards(inner, !negated, context),
        ExprKind::Binary(op @ (BinaryOp::And | BinaryOp::Or), left, right) => {
            let op = match (*op, negated) {
                (BinaryOp::And, true) => BinaryOp::Or,
                (BinaryOp::Or, true) => BinaryOp::And,
                (op, _) => op,
            };
            let (left, right) = (inwards(left, negated, context), inwards(right, negated, context));
            make(ExprKind::Binary(op, Box::new(left), Box::new(right)))
        }
        ExprKind::Binary(op, left, right) if negated && (is_whole(left, context) || is_whole(right, context)) => {
            match op.inverse() {
                Some(op) => make(ExprKind::Binary(op, left.clone(), right.clone())),
                None => negate(expr),
            }
        }
        _ if negated => negate(expr),
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => expr.clone(),
    }
}

/// True for a value that is surely no real number.
fn is_whole(expr: &Expr, context: &Context<'_>) -> bool {
    match &expr.kind {
        ExprKind::Name(name) => match context.variable_type(&name.text) {
            Some(Ty::Enum(_)) => true,
            Some(ty) => ty.elem().is_some_and(|e| !e.is_real()),
            None => false,
        },
        ExprKind::Literal(Literal { typed: None, value, .. }) => matches!(value, LiteralValue::Time(..)),
        ExprKind::Literal(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => false,
    }
}

fn whole_number(expr: &Expr, context: &Context<'_>) -> Option<i128> {
    match &expr.kind {
        ExprKind::Literal(Literal { value: LiteralValue::Int(value), .. }) => Some(*value),
        ExprKind::Unary(UnaryOp::Negate, inner) => whole_number(inner, context).map(|v| -v),
        // The value of an enumeration, if only one has it.
        ExprKind::Name(name) if context.variable_type(&name.text).is_none() => {
            let all = context.checked.enums.iter().flat_map(|e| &e.values);
            let mut found = all.filter(|(n, _)| n.eq_ignore_ascii_case(&name.text)).map(|(_, v)| i128::from(*v));
            found.next().filter(|_| found.next().is_none())
        }
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => None,
    }
}
