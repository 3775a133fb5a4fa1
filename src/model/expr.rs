//! What is asked of expressions everywhere.

use super::{Arg, Expr, ExprKind, Literal, LiteralValue, Operand};
use crate::source::Span;

impl Expr {
    /// TRUE or FALSE.
    #[must_use]
    pub fn truth(value: bool, span: Span) -> Expr {
        let text = if value { "TRUE" } else { "FALSE" };
        let literal = Literal { text: text.to_string(), typed: None, value: LiteralValue::Bool(value) };
        Expr { kind: ExprKind::Literal(literal), span }
    }

    /// Calls `found` with the name of every variable it looks at; where it is a part of a variable, that one first.
    pub fn roots(&self, found: &mut impl FnMut(&str)) {
        match &self.kind {
            ExprKind::Literal(_) => {}
            ExprKind::Name(name) | ExprKind::Address(name) => found(&name.text),
            ExprKind::Field(base, _) => base.roots(found),
            ExprKind::Index(base, indices) => {
                base.roots(found);
                indices.iter().for_each(|i| i.roots(found));
            }
            ExprKind::Unary(_, inner) => inner.roots(found),
            ExprKind::Binary(_, left, right) => {
                left.roots(found);
                right.roots(found);
            }
            ExprKind::Call(call) => {
                for arg in &call.args {
                    match arg {
                        Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) => value.roots(found),
                        Arg::Output { target, .. } => target.roots(found),
                        Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => {}
                    }
                }
            }
        }
    }
}
