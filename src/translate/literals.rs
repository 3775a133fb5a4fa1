//! What translators must know of literals and of the values that stand for themselves.

use crate::model::ops::UnaryOp;
use crate::model::{Arg, Call, Elem, Expr, ExprKind, Literal, LiteralValue, Name, Operand};
use crate::source::Span;

/// A choice between literals only, with the type written in front of each: in a list nothing behind it could tell.
pub(super) fn with_types(call: &Call, elem: Elem) -> Option<Call> {
    let open = |arg: &Arg| {
        if let Arg::Plain(Operand::Expr(e)) | Arg::Input(_, Operand::Expr(e)) = arg { is_open(e) } else { false }
    };
    let is_selector = |at: usize, arg: &Arg| {
        if let Arg::Input(name, _) = arg {
            name.text.eq_ignore_ascii_case("G") || name.text.eq_ignore_ascii_case("K")
        } else {
            at == 0
        }
    };
    let choices = || call.args.iter().enumerate().filter(|(at, arg)| !is_selector(*at, arg));
    if elem == Elem::Bool || !choices().all(|(_, arg)| open(arg)) {
        return None;
    }
    let mut typed = call.clone();
    for (at, arg) in typed.args.iter_mut().enumerate() {
        if !is_selector(at, arg)
            && let Arg::Plain(Operand::Expr(e)) | Arg::Input(_, Operand::Expr(e)) = arg
        {
            write_type(e, elem);
        }
    }
    Some(typed)
}

/// True for an expression of literals without a type.
pub(super) fn is_open(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(l) => l.typed.is_none() && matches!(l.value, LiteralValue::Int(_) | LiteralValue::Real(_)),
        ExprKind::Unary(UnaryOp::Negate, inner) => is_open(inner),
        ExprKind::Binary(_, left, right) => is_open(left) && is_open(right),
        ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Unary(..)
        | ExprKind::Call(_) => false,
    }
}

pub(super) fn write_type(expr: &mut Expr, elem: Elem) {
    let span = expr.span;
    let typed = |text: &str, value: LiteralValue| {
        let text = format!("{}#{text}", elem.name());
        ExprKind::Literal(Literal { text, typed: Some(Name::new(elem.name(), span)), value })
    };
    match &mut expr.kind {
        ExprKind::Literal(l) => expr.kind = typed(&l.text, l.value.clone()),
        ExprKind::Unary(_, inner) => match &inner.kind {
            ExprKind::Literal(Literal { text, value: LiteralValue::Int(i), .. }) => {
                expr.kind = typed(&format!("-{text}"), LiteralValue::Int(-i));
            }
            ExprKind::Literal(Literal { text, value: LiteralValue::Real(r), .. }) => {
                expr.kind = typed(&format!("-{text}"), LiteralValue::Real(-r));
            }
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => write_type(inner, elem),
        },
        ExprKind::Binary(_, left, right) => {
            write_type(left, elem);
            write_type(right, elem);
        }
        ExprKind::Name(_) | ExprKind::Address(_) | ExprKind::Field(..) | ExprKind::Index(..) | ExprKind::Call(_) => {}
    }
}

/// True for what may stand behind an operator: a literal, with its sign, or a variable.
pub(super) fn is_simple(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) | ExprKind::Field(..) | ExprKind::Index(..) => {
            true
        }
        ExprKind::Unary(UnaryOp::Negate, inner) => matches!(
            &inner.kind,
            ExprKind::Literal(Literal { typed: None, value: LiteralValue::Int(_) | LiteralValue::Real(_), .. })
        ),
        ExprKind::Unary(..) | ExprKind::Binary(..) | ExprKind::Call(_) => false,
    }
}

/// An untyped integer.
pub(super) fn number(text: &str, value: i128, span: Span) -> Expr {
    let literal = Literal { text: text.to_string(), typed: None, value: LiteralValue::Int(value) };
    Expr { kind: ExprKind::Literal(literal), span }
}
