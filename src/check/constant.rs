//! Constant expressions: what can be known before anything runs.

use super::env::Env;
use super::typed::{Root, TExpr, TInit, TKind, Ty};
use crate::model::functions;
use crate::model::ops::{self, BinaryOp, UnaryOp};
use crate::model::{Elem, Expr};

impl Env<'_> {
    /// The value of a constant integer expression.
    pub(super) fn constant_int(&mut self, expr: &Expr) -> Option<i128> {
        let typed = self.expr(expr);
        self.int_value(&typed)
    }

    /// The number a typed constant expression stands for.
    pub(super) fn int_value(&self, expr: &TExpr) -> Option<i128> {
        if expr.ty.is_untyped() {
            return untyped_int(expr);
        }
        let slot = self.fold(expr)?;
        let shape = match &expr.ty {
            Ty::Enum(id) => self.enums[*id as usize].base.shape()?,
            other @ (Ty::Elem(_)
            | Ty::Text(_)
            | Ty::Range(..)
            | Ty::Array(_)
            | Ty::Struct(_)
            | Ty::Block(_)
            | Ty::Watch
            | Ty::LitInt
            | Ty::LitReal
            | Ty::Unknown(_)) => other.elem()?.shape()?,
        };
        Some(shape.number(slot))
    }

    /// The slot of a typed constant expression; constants of declarations included.
    pub(super) fn fold(&self, expr: &TExpr) -> Option<i64> {
        match &expr.kind {
            TKind::Const(slot) => Some(*slot),
            TKind::Read(place) if place.steps.is_empty() => {
                let var = match place.root {
                    Root::Local(n) => self.units[self.current.0 as usize].vars.get(n as usize)?,
                    // A name whose type is only assumed has no variable behind it.
                    Root::Global(n) => self.globals.get(n as usize)?,
                };
                match (&var.init, var.constant) {
                    (TInit::Slot(slot), true) => Some(*slot),
                    (TInit::Default, true) => Some(0),
                    _ => None,
                }
            }
            TKind::Unary(op, inner) => {
                let value = self.fold(inner)?;
                let elem = inner.ty.elem()?;
                Some(match op {
                    UnaryOp::Negate => ops::negate(elem, value),
                    UnaryOp::Not => ops::not(elem.shape()?, value),
                })
            }
            TKind::Binary(op, typing, left, right) => {
                ops::apply(*op, *typing, self.fold(left)?, self.fold(right)?).ok()
            }
            TKind::Widen(inner) => functions::convert(inner.ty.elem()?, expr.ty.elem()?, self.fold(inner)?).ok(),
            TKind::Function(functions::Function::Convert(_, to), args) => {
                functions::convert(args[0].ty.elem()?, *to, self.fold(&args[0])?).ok()
            }
            TKind::Bound(inner) => self.fold(inner),
            TKind::LitInt(_)
            | TKind::LitReal(_)
            | TKind::Text(_)
            | TKind::Read(_)
            | TKind::Function(..)
            | TKind::Call(_)
            | TKind::Current
            | TKind::List(_) => None,
        }
    }
}

/// The value of an integer expression that has no type yet.
pub(super) fn untyped_int(expr: &TExpr) -> Option<i128> {
    match &expr.kind {
        TKind::LitInt(value) => Some(*value),
        TKind::Unary(UnaryOp::Negate, inner) => Some(-untyped_int(inner)?),
        TKind::Binary(op, _, left, right) => {
            let (a, b) = (untyped_int(left)?, untyped_int(right)?);
            match op {
                BinaryOp::Add => a.checked_add(b),
                BinaryOp::Sub => a.checked_sub(b),
                BinaryOp::Mul => a.checked_mul(b),
                BinaryOp::Div => a.checked_div(b),
                BinaryOp::Mod => Some(if b == 0 { 0 } else { a % b }),
                BinaryOp::Or
                | BinaryOp::Xor
                | BinaryOp::And
                | BinaryOp::Eq
                | BinaryOp::Ne
                | BinaryOp::Lt
                | BinaryOp::Le
                | BinaryOp::Gt
                | BinaryOp::Ge
                | BinaryOp::Power => None,
            }
        }
        TKind::Const(_)
        | TKind::LitReal(_)
        | TKind::Text(_)
        | TKind::Read(_)
        | TKind::Unary(..)
        | TKind::Function(..)
        | TKind::Widen(_)
        | TKind::Bound(_)
        | TKind::Call(_)
        | TKind::Current
        | TKind::List(_) => None,
    }
}

/// The type an untyped expression gets where nothing wants one: INT if it fits, or the next larger.
pub(super) fn default_type(expr: &TExpr) -> Elem {
    if expr.ty == Ty::LitReal {
        return Elem::Lreal;
    }
    let fits = |elem: Elem| largest(expr, elem);
    [Elem::Int, Elem::Dint, Elem::Lint].into_iter().find(|e| fits(*e)).unwrap_or(Elem::Ulint)
}

/// True for an expression made of literals only.
pub(super) fn is_constant(expr: &TExpr) -> bool {
    match &expr.kind {
        TKind::LitInt(_) | TKind::LitReal(_) | TKind::Const(_) => true,
        TKind::Unary(_, inner) => is_constant(inner),
        TKind::Binary(_, _, left, right) => is_constant(left) && is_constant(right),
        TKind::Function(_, args) => args.iter().all(is_constant),
        TKind::Text(_)
        | TKind::Read(_)
        | TKind::Widen(_)
        | TKind::Bound(_)
        | TKind::Call(_)
        | TKind::Current
        | TKind::List(_) => false,
    }
}

/// True if every literal in it fits the type.
fn largest(expr: &TExpr, elem: Elem) -> bool {
    match &expr.kind {
        TKind::LitInt(value) => elem.shape().is_some_and(|s| (s.range().0..=s.range().1).contains(value)),
        TKind::Unary(_, inner) => largest(inner, elem),
        TKind::Binary(_, _, left, right) => largest(left, elem) && largest(right, elem),
        TKind::Function(_, args) => args.iter().all(|a| largest(a, elem)),
        TKind::Const(_)
        | TKind::LitReal(_)
        | TKind::Text(_)
        | TKind::Read(_)
        | TKind::Widen(_)
        | TKind::Bound(_)
        | TKind::Call(_)
        | TKind::Current
        | TKind::List(_) => true,
    }
}
