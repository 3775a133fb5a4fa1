//! Expressions that migration makes.

use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{Arg, Call, Duration, Expr, ExprKind, Literal, LiteralValue, Name, Operand, format_duration};
use crate::source::{FileId, Span};

pub(super) const NOWHERE: Span = Span { file: FileId(0), start: 0, end: 0 };

fn at(kind: ExprKind) -> Expr {
    Expr { kind, span: NOWHERE }
}

pub(super) fn named(name: &str) -> Expr {
    at(ExprKind::Name(word(name)))
}

pub(super) fn word(text: &str) -> Name {
    Name { text: text.to_string(), span: NOWHERE }
}

pub(super) fn field(instance: &str, pin: &str) -> Expr {
    at(ExprKind::Field(Box::new(named(instance)), word(pin)))
}

pub(super) fn int(value: i64) -> Expr {
    let literal = |v: i64| {
        at(ExprKind::Literal(Literal { text: v.to_string(), typed: None, value: LiteralValue::Int(i128::from(v)) }))
    };
    if value < 0 { at(ExprKind::Unary(UnaryOp::Negate, Box::new(literal(-value)))) } else { literal(value) }
}

pub(super) fn duration(nanos: i64) -> Expr {
    let text = format_duration(Duration::from_nanos(nanos));
    let text = if text.to_ascii_uppercase().starts_with("T#") { text } else { format!("T#{text}") };
    at(ExprKind::Literal(Literal { text, typed: None, value: LiteralValue::Time(nanos, false) }))
}

pub(super) fn binary(op: BinaryOp, left: Expr, right: Expr) -> Expr {
    Expr::binary(op, left, right).at(NOWHERE)
}

pub(super) fn not(inner: Expr) -> Expr {
    if let ExprKind::Unary(UnaryOp::Not, _) = inner.kind { inner.inverted() } else { inner.inverted().at(NOWHERE) }
}

pub(super) fn function(name: &str, args: Vec<Expr>) -> Expr {
    let args = args.into_iter().map(|a| Arg::Plain(Operand::Expr(a))).collect();
    at(ExprKind::Call(Box::new(Call { callee: named(name), args, span: NOWHERE })))
}

/// The number of a constant: of an integer itself, of a duration its nanoseconds.
pub(super) fn constant(expr: &Expr) -> Option<i64> {
    match &expr.kind {
        ExprKind::Literal(Literal { value: LiteralValue::Int(v), .. }) => i64::try_from(*v).ok(),
        ExprKind::Literal(Literal { value: LiteralValue::Time(v, _), .. }) => Some(*v),
        ExprKind::Unary(UnaryOp::Negate, inner) => constant(inner).and_then(i64::checked_neg),
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
