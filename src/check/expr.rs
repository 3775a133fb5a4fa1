//! Expressions and places.

use super::env::{Env, key};
use super::typed::{Part, PathStep, Place, Root, TExpr, TKind, Ty};
use crate::model::ops::{BinaryOp, Typing, UnaryOp};
use crate::model::{Duration, Elem, Expr, ExprKind, Literal, LiteralValue, Name, Section, Value};
use crate::source::{Span, codes};

/// What is about to happen to a variable.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Access {
    Read,
    Write,
    /// Both, through VAR_IN_OUT.
    Share,
}

impl Env<'_> {
    pub(super) fn unknown_expr(&self, span: Span) -> TExpr {
        TExpr { kind: TKind::Const(0), ty: Ty::Unknown(None), span }
    }

    /// Types an expression; constants without a type stay open.
    pub(super) fn expr(&mut self, expr: &Expr) -> TExpr {
        let span = expr.span;
        match &expr.kind {
            ExprKind::Literal(literal) => self.literal_expr(literal, span),
            ExprKind::Name(name) => match self.enum_value(name, None) {
                Some(value) => value,
                None => self.read(expr),
            },
            ExprKind::Address(_) | ExprKind::Field(..) | ExprKind::Index(..) => self.read(expr),
            ExprKind::Unary(op, inner) => {
                let inner = self.expr(inner);
                self.unary(*op, inner, span)
            }
            ExprKind::Binary(op, left, right) => {
                let left = self.expr(left);
                let right = self.expr(right);
                self.binary(*op, left, right, span)
            }
            ExprKind::Call(call) => self.function_call(call, None),
        }
    }

    /// An expression of a given type.
    pub(super) fn expr_of(&mut self, expr: &Expr, want: &Ty) -> TExpr {
        let typed = self.expr(expr);
        self.coerce(typed, want)
    }

    fn read(&mut self, expr: &Expr) -> TExpr {
        match self.place(expr, Access::Read) {
            Some(place) => TExpr { ty: place.ty.clone(), span: expr.span, kind: TKind::Read(place) },
            None => {
                let ty = self.unknown_type(expr);
                TExpr { kind: TKind::Const(0), ty, span: expr.span }
            }
        }
    }

    /// The type of a place that could not be resolved: what is known of an undeclared name.
    pub(super) fn unknown_type(&mut self, expr: &Expr) -> Ty {
        let ExprKind::Name(name) = &expr.kind else { return Ty::Unknown(None) };
        let unit = self.current.0;
        let at = self.guesses.iter().position(|g| g.unit == unit && g.name == *name);
        Ty::Unknown(at.map(|a| a as u32))
    }

    pub(super) fn unary(&mut self, op: UnaryOp, inner: TExpr, span: Span) -> TExpr {
        if let (TKind::LitInt(value), UnaryOp::Negate) = (&inner.kind, op) {
            return TExpr { kind: TKind::LitInt(-value), ty: Ty::LitInt, span };
        }
        if let (TKind::LitReal(value), UnaryOp::Negate) = (&inner.kind, op) {
            return TExpr { kind: TKind::LitReal(-value), ty: Ty::LitReal, span };
        }
        if op == UnaryOp::Not {
            self.learn(&inner.ty, &Ty::BOOL);
            if let TKind::Read(place) = &inner.kind {
                self.inverted(place.root);
            }
        }
        let fits = match (op, inner.ty.elem()) {
            _ if inner.ty.is_unknown() => return self.unknown_expr(span),
            (UnaryOp::Negate, None) => inner.ty.is_untyped(),
            (UnaryOp::Negate, Some(elem)) => elem.is_signed_integer() || elem.is_real() || elem.is_time(),
            (UnaryOp::Not, Some(elem)) => elem.is_bits(),
            (UnaryOp::Not, None) => inner.ty == Ty::LitInt,
        };
        if !fits {
            let word = if op == UnaryOp::Not { "NOT" } else { "-" };
            let message = format!("`{word}` does not take {}", self.show(&inner.ty));
            self.error(codes::TYPE, span, message);
            return self.unknown_expr(span);
        }
        let ty = inner.ty.elem().map_or(inner.ty.clone(), Ty::Elem);
        TExpr { kind: TKind::Unary(op, Box::new(inner)), ty, span }
    }

    pub(super) fn binary(&mut self, op: BinaryOp, left: TExpr, right: TExpr, span: Span) -> TExpr {
        let same_kind = match (&left.ty, &right.ty) {
            (Ty::Enum(a), Ty::Enum(b)) => a == b && matches!(op, BinaryOp::Eq | BinaryOp::Ne),
            (Ty::Text(_), Ty::Text(_)) => op.is_comparison(),
            _ => false,
        };
        if same_kind {
            let typing = Typing { left: Elem::Lint, right: Elem::Lint, result: Elem::Bool };
            let kind = TKind::Binary(op, typing, Box::new(left), Box::new(right));
            return TExpr { kind, ty: Ty::BOOL, span };
        }
        let arithmetic = matches!(op, BinaryOp::Add | BinaryOp::Sub | BinaryOp::Mul | BinaryOp::Div | BinaryOp::Mod);
        if left.ty.is_untyped() && right.ty.is_untyped() && arithmetic {
            let ty = if left.ty == right.ty { left.ty.clone() } else { Ty::LitReal };
            let open = Typing { left: Elem::Lint, right: Elem::Lint, result: Elem::Lint };
            return TExpr { kind: TKind::Binary(op, open, Box::new(left), Box::new(right)), ty, span };
        }
        let (a, b) = (left.ty.clone(), right.ty.clone());
        match self.operands(op, left, right) {
            Some((left, right, typing)) => {
                let kind = TKind::Binary(op, typing, Box::new(left), Box::new(right));
                TExpr { kind, ty: Ty::Elem(typing.result), span }
            }
            // What the value would be is still known where the operator or the other side says so.
            None if op.is_comparison() => TExpr { kind: TKind::Const(0), ty: Ty::BOOL, span },
            None if !a.is_unknown() && !b.is_unknown() => self.unknown_expr(span),
            None => {
                let known = [a, b].into_iter().find(|t| t.elem().is_some());
                let ty = known.and_then(|t| t.elem()).map_or(Ty::Unknown(None), Ty::Elem);
                TExpr { kind: TKind::Const(0), ty, span }
            }
        }
    }

    fn literal_expr(&mut self, literal: &Literal, span: Span) -> TExpr {
        if let Some(typed) = &literal.typed {
            return self.typed_literal(typed, &literal.value, span);
        }
        let (kind, ty) = match &literal.value {
            LiteralValue::Bool(b) => (TKind::Const(i64::from(*b)), Ty::BOOL),
            LiteralValue::Int(value) => (TKind::LitInt(*value), Ty::LitInt),
            LiteralValue::Real(value) => (TKind::LitReal(*value), Ty::LitReal),
            LiteralValue::Time(nanos, long) => {
                (TKind::Const(*nanos), Ty::Elem(if *long { Elem::Ltime } else { Elem::Time }))
            }
            LiteralValue::Text(text) => {
                let length = text.chars().count().clamp(1, 10_000) as u16;
                (TKind::Text(text.clone()), Ty::Text(length))
            }
        };
        TExpr { kind, ty, span }
    }

    fn typed_literal(&mut self, typed: &Name, value: &LiteralValue, span: Span) -> TExpr {
        if typed.text.eq_ignore_ascii_case("STRING")
            && let LiteralValue::Text(text) = value
        {
            let length = text.chars().count().clamp(1, 10_000) as u16;
            return TExpr { kind: TKind::Text(text.clone()), ty: Ty::Text(length), span };
        }
        if let Some(elem) = Elem::from_name(&typed.text) {
            let value = match value {
                LiteralValue::Bool(b) if elem == Elem::Bool => Value::Bool(*b),
                LiteralValue::Int(i @ (0 | 1)) if elem == Elem::Bool => Value::Bool(*i == 1),
                // `WORD#-1` and `BYTE#300` are caught by the range of the type.
                LiteralValue::Int(i) => Value::Int(*i),
                LiteralValue::Real(r) => Value::Real(*r),
                LiteralValue::Time(nanos, _) => Value::Time(Duration::from_nanos(*nanos)),
                LiteralValue::Bool(b) => Value::Bool(*b),
                LiteralValue::Text(text) => Value::Text(text.clone()),
            };
            let slot = self.literal_slot(&value, elem, span);
            return TExpr { kind: TKind::Const(slot), ty: Ty::Elem(elem), span };
        }
        let found = self.named_type(&key(&typed.text));
        match (found, value) {
            (Some((Ty::Enum(id), _)), LiteralValue::Text(name)) => {
                let name = Name { text: name.clone(), span };
                self.enum_value(&name, Some(id)).unwrap_or_else(|| {
                    let known: Vec<String> = self.enums[id as usize].values.iter().map(|(n, _)| n.clone()).collect();
                    self.no_field(&name, known.iter().map(String::as_str));
                    self.unknown_expr(span)
                })
            }
            (Some((ty @ Ty::Range(..), _)), LiteralValue::Int(value)) => {
                let literal = TExpr { kind: TKind::LitInt(*value), ty: Ty::LitInt, span };
                self.coerce(literal, &ty)
            }
            _ => {
                self.error(codes::UNKNOWN_TYPE, typed.span, format!("there is no type `{}` for a literal", typed.text));
                self.unknown_expr(span)
            }
        }
    }

    /// An enumeration value by its name; `of` if the enumeration is written in front.
    fn enum_value(&mut self, name: &Name, of: Option<u32>) -> Option<TExpr> {
        if of.is_none() && self.variable(&name.text).is_some() {
            return None;
        }
        let found = self.enum_values.get(&key(&name.text))?;
        let chosen = match of {
            Some(id) => found.iter().find(|(e, _)| *e == id).copied()?,
            None => {
                if found.len() > 1 {
                    let message =
                        format!("`{}` is a value of several enumerations; write Type#{}", name.text, name.text);
                    self.error(codes::UNKNOWN_NAME, name.span, message);
                    return Some(self.unknown_expr(name.span));
                }
                found[0]
            }
        };
        Some(TExpr { kind: TKind::Const(chosen.1), ty: Ty::Enum(chosen.0), span: name.span })
    }

    /// Resolves a variable or a part of one, and whether it may be used so. Problems are reported; `None` then.
    pub(super) fn place(&mut self, expr: &Expr, access: Access) -> Option<Place> {
        let place = self.resolve(expr, access)?;
        let whole = place.steps.is_empty();
        // Part of a variable is written: the rest of it keeps its value, so it counts as read too.
        let noted = if access == Access::Write && !whole { Access::Share } else { access };
        self.used(place.root, noted, expr.span);
        if access == Access::Share && place.part().is_some() {
            self.error(
                codes::TYPE,
                expr.span,
                "a part of a bit string is no variable by itself; a copy of it can stand here",
            );
            return None;
        }
        if access != Access::Read {
            self.may_write(&place);
        }
        Some(place)
    }

    fn resolve(&mut self, expr: &Expr, access: Access) -> Option<Place> {
        match &expr.kind {
            ExprKind::Name(name) => {
                let Some((root, var)) = self.variable(&name.text) else {
                    return self.no_variable(name, access);
                };
                Some(Place { root, steps: Vec::new(), ty: var.ty.clone(), span: expr.span })
            }
            ExprKind::Address(name) => self.address(name),
            ExprKind::Field(base, name) => self.field(base, name, expr.span),
            ExprKind::Index(base, indices) => self.index(base, indices, access, expr.span),
            ExprKind::Literal(_) | ExprKind::Unary(..) | ExprKind::Binary(..) | ExprKind::Call(_) => {
                self.error(codes::WRITE, expr.span, "a variable is needed here");
                None
            }
        }
    }

    /// Constants and inputs cannot be written; of a block only the inputs can, from outside.
    fn may_write(&mut self, place: &Place) {
        let var = match place.root {
            Root::Global(u32::MAX) => return,
            Root::Local(n) => &self.units[self.current.0 as usize].vars[n as usize],
            Root::Global(n) => &self.globals[n as usize],
        };
        let (name, constant, is_input) = (var.name.clone(), var.constant, var.is_input());
        let mut ty = var.ty.clone();
        for step in &place.steps {
            ty = match (&ty, step) {
                (Ty::Struct(id), PathStep::Field(at)) => self.structs[*id as usize].fields[*at as usize].ty.clone(),
                (Ty::Array(array), PathStep::Index(_)) => array.of.clone(),
                (_, PathStep::Part(_)) => ty,
                (Ty::Block(unit), PathStep::Field(at)) => {
                    let field = &self.units[unit.0 as usize].vars[*at as usize];
                    if field.section != Section::Input {
                        let message = format!("`{}` is an output of the block and cannot be written", field.name);
                        self.error(codes::WRITE, place.span, message);
                    }
                    return;
                }
                _ => return,
            };
        }
        if constant {
            self.error(codes::WRITE, place.span, format!("`{name}` is a constant and cannot be written"));
        } else if is_input && !matches!(ty, Ty::Block(_)) {
            self.problems.push(
                crate::source::Diagnostic::error(
                    codes::WRITE,
                    place.span,
                    format!("`{name}` is an input and cannot be written here"),
                )
                .help("copy it to a variable of its own, or declare it VAR_IN_OUT"),
            );
        }
    }

    fn no_variable(&mut self, name: &Name, access: Access) -> Option<Place> {
        if let Some(&unit) = self.unit_names.get(&key(&name.text)) {
            let message = format!("`{}` is a {}, not a variable", name.text, self.units[unit.0 as usize].kind.word());
            self.error(codes::UNKNOWN_NAME, name.span, message);
            return None;
        }
        let ty = self.unknown(name);
        if !ty.is_unknown() {
            // A type assumed by an earlier pass: read it as a variable that is not there.
            return Some(Place { root: Root::Global(u32::MAX), steps: Vec::new(), ty, span: name.span });
        }
        if access != Access::Read
            && let Ty::Unknown(Some(at)) = ty
        {
            self.guesses[at as usize].written = true;
        }
        None
    }

    /// Some bits of a bit string: `%X3`, and `%B1`, `%W0`, `%D1` of those that are wider.
    fn part(&mut self, base: &Expr, name: &Name, span: Span) -> Option<Place> {
        let mut place = self.resolve(base, Access::Read)?;
        let width = match place.ty.elem().filter(|e| e.is_bits() && *e != Elem::Bool).and_then(Elem::shape) {
            Some(shape) => u32::from(shape.bits),
            None if place.ty.is_unknown() => return None,
            None => {
                let message = format!("{} has no parts; BYTE, WORD, DWORD and LWORD have", self.show(&place.ty));
                self.error(codes::TYPE, name.span, message);
                return None;
            }
        };
        let letter = name.text.chars().nth(1).map(|c| c.to_ascii_uppercase());
        let elem = match letter {
            Some('X') => Elem::Bool,
            Some('B') => Elem::Byte,
            Some('W') => Elem::Word,
            Some('D') => Elem::Dword,
            _ => Elem::Lword,
        };
        let bits = elem.shape().map_or(64, |s| if elem == Elem::Bool { 1 } else { u32::from(s.bits) });
        let number = name.text.get(2..).and_then(|digits| digits.parse::<u32>().ok());
        let fits = number.filter(|n| bits < width && n.saturating_add(1).saturating_mul(bits) <= width);
        let Some(number) = fits else {
            let last = |bits: u32| width / bits - 1;
            let wider = [("B", 8), ("W", 16), ("D", 32)].into_iter().filter(|(_, bits)| *bits < width);
            let others: String = wider.map(|(l, bits)| format!(", %{l}0 to %{l}{}", last(bits))).collect();
            let message = format!("{} has the parts %X0 to %X{}{others}", self.show(&place.ty), last(1));
            self.error(codes::RANGE, name.span, message);
            return None;
        };
        place.steps.push(PathStep::Part(Part { shift: (number * bits) as u8, bits: bits as u8 }));
        place.ty = Ty::Elem(elem);
        place.span = span;
        Some(place)
    }

    fn field(&mut self, base: &Expr, name: &Name, span: Span) -> Option<Place> {
        if name.text.starts_with('%') {
            return self.part(base, name, span);
        }
        let Some(mut place) = self.resolve(base, Access::Read) else {
            let ty = self.unknown_type(base);
            if let Ty::Unknown(Some(at)) = ty {
                self.guesses[at as usize].pins.push(key(&name.text));
            }
            return None;
        };
        let (known, is_block): (Vec<(String, Ty, Section)>, bool) = match &place.ty {
            Ty::Struct(id) => (
                self.structs[*id as usize].fields.iter().map(|f| (f.name.clone(), f.ty.clone(), f.section)).collect(),
                false,
            ),
            Ty::Block(unit) => (
                self.units[unit.0 as usize].vars.iter().map(|f| (f.name.clone(), f.ty.clone(), f.section)).collect(),
                true,
            ),
            Ty::Unknown(_) => return None,
            other @ (Ty::Elem(_)
            | Ty::Text(_)
            | Ty::Range(..)
            | Ty::Enum(_)
            | Ty::Array(_)
            | Ty::Watch
            | Ty::LitInt
            | Ty::LitReal) => {
                let message = format!("{} has no fields", self.show(other));
                self.error(codes::TYPE, name.span, message);
                return None;
            }
        };
        let visible =
            |section: Section| !is_block || !matches!(section, Section::Local | Section::Temp | Section::External);
        let Some(at) = known.iter().position(|(n, _, s)| n.eq_ignore_ascii_case(&name.text) && visible(*s)) else {
            let names: Vec<&str> = known.iter().filter(|(_, _, s)| visible(*s)).map(|(n, ..)| n.as_str()).collect();
            self.no_field(name, names.iter().copied());
            return None;
        };
        place.steps.push(PathStep::Field(at as u32));
        place.ty = known[at].1.clone();
        place.span = span;
        Some(place)
    }

    fn index(&mut self, base: &Expr, indices: &[Expr], access: Access, span: Span) -> Option<Place> {
        let place = self.resolve(base, access);
        let typed: Vec<TExpr> = indices.iter().map(|i| self.expr(i)).collect();
        let mut place = place?;
        let Ty::Array(array) = place.ty.clone() else {
            if !place.ty.is_unknown() {
                let message = format!("{} is not an array", self.show(&place.ty));
                self.error(codes::TYPE, base.span, message);
            }
            return None;
        };
        if typed.len() != array.bounds.len() {
            let dimensions = match array.bounds.len() {
                1 => "1 dimension".to_string(),
                n => format!("{n} dimensions"),
            };
            let indices = match typed.len() {
                1 => "1 index is".to_string(),
                n => format!("{n} indices are"),
            };
            let message = format!("this array has {dimensions}, but {indices} given");
            self.error(codes::TYPE, span, message);
            return None;
        }
        let mut steps = Vec::new();
        for (index, (low, high)) in typed.into_iter().zip(&array.bounds) {
            let index = self.settled(index);
            let is_index = index.ty.elem().is_some_and(Elem::is_integer) || matches!(index.ty, Ty::Enum(_));
            if !is_index && !index.ty.is_unknown() {
                let message = format!("an index is an integer, not {}", self.show(&index.ty));
                self.error(codes::TYPE, index.span, message);
            }
            if let Some(value) = self.int_value(&index)
                && !(i128::from(*low)..=i128::from(*high)).contains(&value)
            {
                self.error(codes::RANGE, index.span, format!("index {value} is outside {low}..{high}"));
            }
            steps.push(index);
        }
        place.steps.push(PathStep::Index(steps));
        place.ty = array.of.clone();
        place.span = span;
        Some(place)
    }
}
