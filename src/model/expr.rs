//! What is asked of expressions everywhere.

use super::ops::{BinaryOp, UnaryOp};
use super::{Expr, ExprKind, Literal, LiteralValue, Mention, Name, Walk};
use crate::source::Span;

impl Expr {
    /// TRUE or FALSE.
    #[must_use]
    pub fn truth(value: bool, span: Span) -> Expr {
        let text = if value { "TRUE" } else { "FALSE" };
        let literal = Literal { text: text.to_string(), typed: None, value: LiteralValue::Bool(value) };
        Expr { kind: ExprKind::Literal(literal), span }
    }

    /// An expression at a place.
    #[must_use]
    pub fn new(kind: ExprKind, span: Span) -> Expr {
        Expr { kind, span }
    }

    /// A variable.
    #[must_use]
    pub fn variable(text: impl Into<String>, span: Span) -> Expr {
        Expr::new(ExprKind::Name(Name::new(text, span)), span)
    }

    /// Two operands and the operator between them; it stands where they do.
    #[must_use]
    pub fn binary(op: BinaryOp, left: Expr, right: Expr) -> Expr {
        let span = left.span.to(right.span);
        Expr::new(ExprKind::Binary(op, Box::new(left), Box::new(right)), span)
    }

    /// NOT of it; of what is a NOT already, what is behind that.
    #[must_use]
    pub fn inverted(self) -> Expr {
        let span = self.span;
        if let ExprKind::Unary(UnaryOp::Not, inner) = self.kind {
            return *inner;
        }
        Expr::new(ExprKind::Unary(UnaryOp::Not, Box::new(self)), span)
    }

    /// The same at another place.
    #[must_use]
    pub fn at(self, span: Span) -> Expr {
        Expr { span, ..self }
    }

    /// Calls `found` with the name of every variable it looks at; where it is a part of a variable, that one first.
    pub(crate) fn roots(&self, found: &mut impl FnMut(&str)) {
        self.walk(Mention::Read, &mut |part, used| {
            if let (
                ExprKind::Name(name) | ExprKind::Address(name),
                Mention::Read | Mention::Written | Mention::Called,
            ) = (&part.kind, used)
            {
                found(&name.text);
            }
            Walk::Into
        });
    }
}
