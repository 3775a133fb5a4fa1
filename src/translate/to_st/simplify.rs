//! Small things about expressions: negation without double NOTs, what an expression looks at, what can fault.

use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Expr, ExprKind, Literal, LiteralValue, Operand};

/// NOT of a condition, put the way a person would. Comparisons are turned round only where `exact` says that
/// their operands are never NaN.
pub(super) fn negate(expr: &Expr) -> Expr {
    let span = expr.span;
    let make = |kind| Expr { kind, span };
    match &expr.kind {
        ExprKind::Unary(UnaryOp::Not, inner) => (**inner).clone(),
        ExprKind::Literal(Literal { value: LiteralValue::Bool(b), typed: None, .. }) => {
            let text = if *b { "FALSE" } else { "TRUE" };
            make(ExprKind::Literal(Literal { text: text.to_string(), typed: None, value: LiteralValue::Bool(!b) }))
        }
        // De Morgan, where it takes NOTs away.
        ExprKind::Binary(op @ (BinaryOp::And | BinaryOp::Or), left, right) if is_not(left) && is_not(right) => {
            let other = if *op == BinaryOp::And { BinaryOp::Or } else { BinaryOp::And };
            make(ExprKind::Binary(other, Box::new(negate(left)), Box::new(negate(right))))
        }
        ExprKind::Literal(_)
        | ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => make(ExprKind::Unary(UnaryOp::Not, Box::new(expr.clone()))),
    }
}

fn is_not(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Unary(UnaryOp::Not, _) => true,
        ExprKind::Binary(BinaryOp::And | BinaryOp::Or, left, right) => is_not(left) && is_not(right),
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

/// True if an expression looks at the variable `name`.
pub(in crate::translate) fn mentions(expr: &Expr, name: &str) -> bool {
    let mut hit = false;
    expr.roots(&mut |root| hit |= root.eq_ignore_ascii_case(name));
    hit
}

/// The name a place begins with.
pub(in crate::translate) fn root(expr: &Expr) -> Option<&str> {
    match &expr.kind {
        ExprKind::Name(name) | ExprKind::Address(name) => Some(&name.text),
        ExprKind::Field(base, _) | ExprKind::Index(base, _) => root(base),
        ExprKind::Literal(_) | ExprKind::Unary(..) | ExprKind::Binary(..) | ExprKind::Call(_) => None,
    }
}

/// True if computing an expression may stop the scan.
pub(super) fn may_fault(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => false,
        ExprKind::Field(base, _) => may_fault(base),
        ExprKind::Index(..) | ExprKind::Call(_) | ExprKind::Binary(BinaryOp::Div, ..) => true,
        ExprKind::Unary(_, inner) => may_fault(inner),
        ExprKind::Binary(_, left, right) => may_fault(left) || may_fault(right),
    }
}

/// How many parts an expression has, counted up to a few dozen.
pub(super) fn size(expr: &Expr) -> usize {
    match &expr.kind {
        ExprKind::Unary(_, inner) | ExprKind::Field(inner, _) => 1 + size(inner),
        ExprKind::Binary(_, left, right) => 1 + size(left) + size(right),
        ExprKind::Index(base, indices) => 1 + size(base) + indices.iter().map(size).sum::<usize>(),
        ExprKind::Call(call) => 2 + call.args.len() * 3,
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => 1,
    }
}

/// How deep an expression nests.
pub(super) fn depth(expr: &Expr) -> usize {
    match &expr.kind {
        ExprKind::Unary(_, inner) | ExprKind::Field(inner, _) => 1 + depth(inner),
        ExprKind::Binary(_, left, right) => 1 + depth(left).max(depth(right)),
        ExprKind::Call(call) => {
            let args = call.args.iter().map(|arg| {
                if let Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) = arg {
                    depth(value)
                } else {
                    1
                }
            });
            1 + args.max().unwrap_or(0)
        }
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) | ExprKind::Index(..) => 1,
    }
}
