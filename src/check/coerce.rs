//! Bringing a value to the type its place wants: literals take it, narrower types widen, the rest is an error.

use super::constant::default_type;
use super::env::Env;
use super::typed::{TExpr, TKind, Ty};
use crate::model::ops::{Typing, UnaryOp};
use crate::model::{Elem, Value};
use crate::source::{Diagnostic, codes};

impl Env<'_> {
    /// Brings `expr` to `want`, or reports why that cannot be.
    pub(super) fn coerce(&mut self, expr: TExpr, want: &Ty) -> TExpr {
        self.learn(&expr.ty, want);
        if expr.ty.is_unknown() || want.is_unknown() || (expr.ty == *want && !expr.ty.is_untyped()) {
            return expr;
        }
        match (&expr.ty, want) {
            (Ty::LitInt | Ty::LitReal, Ty::Elem(elem)) => self.literal(expr, *elem),
            (_, Ty::Range(elem, low, high)) => {
                let inner = self.coerce(expr, &Ty::Elem(*elem));
                if let Some(value) = self.int_value(&inner)
                    && !(i128::from(*low)..=i128::from(*high)).contains(&value)
                {
                    let message = format!("{value} does not fit {low}..{high}");
                    self.error(codes::RANGE, inner.span, message);
                }
                TExpr { ty: want.clone(), span: inner.span, kind: TKind::Bound(Box::new(inner)) }
            }
            (Ty::Range(elem, ..), Ty::Elem(to)) if elem == to => TExpr { ty: want.clone(), ..expr },
            (Ty::Elem(from) | Ty::Range(from, ..), Ty::Elem(to)) if from.widens_to(*to) => {
                TExpr { ty: want.clone(), span: expr.span, kind: TKind::Widen(Box::new(expr)) }
            }
            (Ty::Text(_), Ty::Text(_)) => TExpr { ty: want.clone(), ..expr },
            _ => {
                let message = format!("this is {}, but {} is needed", self.show(&expr.ty), self.show(want));
                let mut problem = Diagnostic::error(codes::TYPE, expr.span, message);
                if let (Some(from), Some(to)) = (expr.ty.elem(), want.elem()) {
                    problem.help = Some(format!("convert it: {}_TO_{}(...)", from.name(), to.name()));
                }
                problem.help = self.outputs_of(&expr.ty).or(problem.help);
                self.problems.push(problem);
                TExpr { ty: Ty::Unknown(None), ..expr }
            }
        }
    }

    /// Gives an untyped constant expression a type, all the way down.
    fn literal(&mut self, expr: TExpr, elem: Elem) -> TExpr {
        let ty = Ty::Elem(elem);
        let span = expr.span;
        let kind = match expr.kind {
            TKind::LitInt(value) => {
                let slot = if elem.is_real() { Value::Real(value as f64) } else { Value::Int(value) };
                let fits = match (elem, value) {
                    (Elem::Bool, 0 | 1) => Some(value as i64),
                    _ => slot.to_slot(elem),
                };
                TKind::Const(fits.unwrap_or_else(|| self.does_not_fit(&value.to_string(), elem, span)))
            }
            TKind::LitReal(value) => {
                let slot = Value::Real(value).to_slot(elem);
                TKind::Const(slot.unwrap_or_else(|| self.does_not_fit(&value.to_string(), elem, span)))
            }
            TKind::Unary(UnaryOp::Not, _) if !elem.is_bits() => {
                self.error(codes::TYPE, span, format!("`NOT` does not take {}", elem.name()));
                return TExpr { kind: TKind::Const(0), ty: Ty::Unknown(None), span };
            }
            TKind::Unary(op, inner) => TKind::Unary(op, Box::new(self.literal(*inner, elem))),
            TKind::Binary(op, _, left, right) => {
                let Some(typing) = op.typing(elem, elem) else {
                    let message = format!("`{}` does not work on {}", op.symbol(), elem.name());
                    self.error(codes::TYPE, span, message);
                    return TExpr { kind: TKind::Const(0), ty: Ty::Unknown(None), span };
                };
                let left = self.literal(*left, elem);
                TKind::Binary(op, typing, Box::new(left), Box::new(self.literal(*right, elem)))
            }
            TKind::Function(function, args) => {
                let want = Ty::Elem(elem);
                // What selects among choices has a type of its own.
                let from = function.row().rule.alike_from().unwrap_or(0);
                let typed = |(at, arg)| if at < from { arg } else { self.coerce(arg, &want) };
                TKind::Function(function, args.into_iter().enumerate().map(typed).collect())
            }
            other @ (TKind::Const(_)
            | TKind::Text(_)
            | TKind::Read(_)
            | TKind::Widen(_)
            | TKind::Bound(_)
            | TKind::Call(_)
            | TKind::Current
            | TKind::List(_)) => other,
        };
        TExpr { kind, ty, span }
    }

    fn does_not_fit(&mut self, value: &str, elem: Elem, span: crate::source::Span) -> i64 {
        if elem.shape().is_some() && !elem.is_time() && !value.contains('.') {
            let (low, high) = elem.shape().map_or((0, 0), |s| s.range());
            let message = format!("{value} does not fit {}, which holds {low} to {high}", elem.name());
            self.error(codes::RANGE, span, message);
        } else {
            let mut problem =
                Diagnostic::error(codes::TYPE, span, format!("{value} is not a value of {}", elem.name()));
            if elem.is_time() {
                problem.help = Some(format!("a duration is written with its unit, T#{value}ms or T#{value}s"));
            }
            self.problems.push(problem);
        }
        0
    }

    /// Gives an untyped expression its default type; leaves others as they are.
    pub(super) fn settled(&mut self, expr: TExpr) -> TExpr {
        if !expr.ty.is_untyped() {
            return expr;
        }
        let elem = default_type(&expr);
        self.literal(expr, elem)
    }

    /// Brings two operands together and finds the operator's types; reports what does not go.
    pub(super) fn operands(
        &mut self,
        op: crate::model::ops::BinaryOp,
        left: TExpr,
        right: TExpr,
    ) -> Option<(TExpr, TExpr, Typing)> {
        let (mut left, mut right) = (left, right);
        if op.is_logic() && (left.ty.is_unknown() || right.ty.is_unknown()) {
            let other = if left.ty.is_unknown() { &right.ty } else { &left.ty };
            let guess = if other.is_unknown() { Ty::BOOL } else { other.clone() };
            self.learn(&left.ty, &guess);
            self.learn(&right.ty, &guess);
        }
        if left.ty.is_unknown() || right.ty.is_unknown() {
            let (a, b) = (left.ty.clone(), right.ty.clone());
            self.learn(&a, &b);
            self.learn(&b, &a);
            // A bare number beside AND could be of any bit string.
            if !op.is_logic() && b.is_untyped() {
                self.learn(&a, &guessed(&right));
            }
            if !op.is_logic() && a.is_untyped() {
                self.learn(&b, &guessed(&left));
            }
            return None;
        }
        if left.ty.is_untyped() && right.ty.is_untyped() {
            let elem = if left.ty == Ty::LitReal || right.ty == Ty::LitReal {
                Elem::Lreal
            } else {
                let a = default_type(&left);
                a.join(default_type(&right)).unwrap_or(a)
            };
            left = self.literal(left, elem);
            right = self.literal(right, elem);
        } else if left.ty.is_untyped() {
            left = self.literal_beside(left, &right, op, true);
        } else if right.ty.is_untyped() {
            right = self.literal_beside(right, &left, op, false);
        }
        let Some(typing) = left.ty.elem().zip(right.ty.elem()).and_then(|(a, b)| op.typing(a, b)) else {
            self.no_operator(op, &left, &right);
            return None;
        };
        left = self.coerce(left, &Ty::Elem(typing.left));
        right = self.coerce(right, &Ty::Elem(typing.right));
        Some((left, right, typing))
    }

    /// A literal takes the type of its neighbour; beside a TIME, a factor stays a number.
    fn literal_beside(
        &mut self,
        literal: TExpr,
        other: &TExpr,
        op: crate::model::ops::BinaryOp,
        literal_is_left: bool,
    ) -> TExpr {
        use crate::model::ops::BinaryOp;
        let Some(elem) = other.ty.elem() else { return self.settled(literal) };
        let factor = elem.is_time() && !literal_is_left && matches!(op, BinaryOp::Mul | BinaryOp::Div);
        if factor || op == BinaryOp::Power {
            return self.settled(literal);
        }
        if literal.ty == Ty::LitReal && !elem.is_real() {
            return self.literal(literal, Elem::Lreal);
        }
        self.literal(literal, elem)
    }

    /// A function block has no value of its own; this says what can be read of it.
    fn outputs_of(&self, ty: &Ty) -> Option<String> {
        let Ty::Block(unit) = ty else { return None };
        let vars = self.units[unit.0 as usize].vars.iter().filter(|v| v.section == crate::model::Section::Output);
        let names: Vec<&str> = vars.map(|v| v.name.as_str()).collect();
        Some(format!("a function block has no value; read one of its outputs: {}", names.join(", ")))
    }

    fn no_operator(&mut self, op: crate::model::ops::BinaryOp, left: &TExpr, right: &TExpr) {
        let span = left.span.to(right.span);
        let (a, b) = (self.show(&left.ty), self.show(&right.ty));
        let message = format!("`{}` does not take {a} and {b}", op.symbol());
        let mut problem = Diagnostic::error(codes::TYPE, span, message);
        if let (Some(from), Some(to)) = (right.ty.elem(), left.ty.elem())
            && from != to
        {
            problem.help =
                Some(format!("bring both to one type, for instance with {}_TO_{}(...)", from.name(), to.name()));
        }
        problem.help = self.outputs_of(&left.ty).or_else(|| self.outputs_of(&right.ty)).or(problem.help);
        self.problems.push(problem);
    }
}

/// The type a person would declare for a variable that is used with this literal.
pub(super) fn guessed(literal: &TExpr) -> Ty {
    Ty::Elem(if literal.ty == Ty::LitReal { Elem::Real } else { default_type(literal) })
}
