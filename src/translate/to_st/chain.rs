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
    let mut rest: Vec<&Expr> = Vec::new();
    terms(condition, &mut rest);
    let mut all_negated = true;
    for (earlier, _) in branches.iter() {
        // The opposite of an earlier condition says nothing new in a chain.
        let opposite = rest.iter().position(|term| is_opposite(term, earlier, context));
        match opposite {
            Some(at) => {
                rest.remove(at);
            }
            None if excludes(earlier, condition, context) => all_negated = false,
            None => return false,
        }
    }
    if rest.is_empty() && all_negated {
        *otherwise = Some(body.clone());
        return true;
    }
    let condition = if all_negated { rest.into_iter().cloned().reduce(and) } else { Some(condition.clone()) };
    branches.extend(condition.map(|c| (c, body.clone())));
    true
}

fn and(a: Expr, b: Expr) -> Expr {
    let span = a.span.to(b.span);
    Expr { kind: ExprKind::Binary(BinaryOp::And, Box::new(a), Box::new(b)), span }
}

fn terms<'e>(expr: &'e Expr, out: &mut Vec<&'e Expr>) {
    match &expr.kind {
        ExprKind::Binary(BinaryOp::And, left, right) => {
            terms(left, out);
            terms(right, out);
        }
        _ => out.push(expr),
    }
}

/// True if statements write nothing that conditions look at.
fn leaves_alone(bodies: &[&[Stmt]], asked: &[&Expr], context: &Context<'_>) -> bool {
    let quiet = |target: &Expr| root(target).is_some_and(|name| !asked.iter().any(|c| mentions(c, name)));
    bodies.iter().flat_map(|b| b.iter()).all(|stmt| match &stmt.kind {
        StmtKind::Assign(target, _) => quiet(target),
        StmtKind::Call(call) => {
            let shipped = match &call.callee.kind {
                ExprKind::Name(name) => match context.variable_type(&name.text) {
                    Some(Ty::Block(unit)) => context.checked.unit(*unit).built_in,
                    _ => false,
                },
                _ => false,
            };
            shipped
                && quiet(&call.callee)
                && call.args.iter().all(|arg| match arg {
                    Arg::Output { target, .. } => quiet(target),
                    Arg::Plain(Operand::Expr(_)) | Arg::Input(_, Operand::Expr(_)) => true,
                    _ => false,
                })
        }
        StmtKind::Empty => true,
        _ => false,
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
        _ => expr.clone(),
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
        _ => false,
    }
}

fn is_opposite(term: &Expr, of: &Expr, context: &Context<'_>) -> bool {
    inwards(term, false, context) == inwards(of, true, context)
}

/// True if two conditions can never both hold: a term of one is the opposite of a term of the other, or they want
/// one variable in different ranges.
fn excludes(a: &Expr, b: &Expr, context: &Context<'_>) -> bool {
    let (mut left, mut right) = (Vec::new(), Vec::new());
    terms(a, &mut left);
    terms(b, &mut right);
    let opposite = left.iter().any(|x| right.iter().any(|y| is_opposite(x, y, context)));
    let subjects = left.iter().filter_map(|t| match &t.kind {
        ExprKind::Binary(op, subject, _) if op.is_comparison() => Some(&**subject),
        _ => None,
    });
    opposite
        || subjects.into_iter().any(|s| {
            let (x, y) = (range(&left, s, context), range(&right, s, context));
            x.0 > y.1 || y.0 > x.1
        })
}

/// The range that terms leave a variable, both ends included.
fn range(terms: &[&Expr], subject: &Expr, context: &Context<'_>) -> (i128, i128) {
    let (mut low, mut high) = (i128::MIN, i128::MAX);
    for term in terms {
        let ExprKind::Binary(op, left, right) = &term.kind else { continue };
        let Some(value) = whole_number(right, context).filter(|_| **left == *subject) else { continue };
        match op {
            BinaryOp::Eq => (low, high) = (low.max(value), high.min(value)),
            BinaryOp::Ge => low = low.max(value),
            BinaryOp::Gt => low = low.max(value + 1),
            BinaryOp::Le => high = high.min(value),
            BinaryOp::Lt => high = high.min(value - 1),
            _ => {}
        }
    }
    (low, high)
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
        _ => None,
    }
}
