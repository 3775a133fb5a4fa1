//! Expressions.

use super::{Compiler, Target};
use crate::check::typed::{TExpr, TInstrKind, TKind, Ty};
use crate::model::functions::Function;
use crate::model::ops::{BinaryOp, Precision, Typing, UnaryOp};
use crate::model::{Elem, IntShape};
use crate::scan::op::{One, Op, Slot};
use crate::source::Span;

/// MIN or MAX.
#[derive(Clone, Copy)]
enum Extreme {
    Least,
    Most,
}

impl Compiler<'_> {
    /// Computes a value; the slot may be a variable's own.
    pub(super) fn expr(&mut self, expr: &TExpr) -> Slot {
        match &expr.kind {
            TKind::Const(value) => self.constant(*value),
            // Every literal has a type by now; an open one can only stand in code that has problems.
            TKind::LitInt(value) => self.constant(*value as i64),
            TKind::LitReal(value) => self.constant(value.to_bits() as i64),
            TKind::Text(text) => {
                let id = self.memory.text(text);
                let slot = self.constant(id);
                self.cut(slot, text.chars().count() as u16, &expr.ty)
            }
            TKind::Read(place) if place.part().is_some() => {
                let target = self.target(place);
                let word = self.read(target);
                place.part().map_or(word, |part| self.taken(word, part))
            }
            TKind::Read(place) => match self.target(place) {
                Target::Fixed(slot) => self.cut(slot, text_length(&place.ty), &expr.ty),
                Target::Moved { base, off, reach } => {
                    let d = self.temp();
                    self.emit_moved(Op::Load { d, base, off }, reach);
                    self.cut(d, text_length(&place.ty), &expr.ty)
                }
            },
            TKind::Current => self.frame.current.last().copied().unwrap_or(0),
            TKind::Bound(inner) => {
                let a = self.expr(inner);
                self.bound(a, &expr.ty);
                a
            }
            TKind::Call(call) => {
                let value = self.call(call);
                let d = self.temp();
                self.emit(Op::Move { d, a: value });
                d
            }
            TKind::List(list) => {
                let d = self.temp();
                self.frame.current.push(d);
                for instr in list {
                    if !matches!(instr.kind, TInstrKind::Nop) {
                        self.instruction(instr);
                    }
                }
                self.frame.current.pop();
                d
            }
            TKind::Unary(..) | TKind::Binary(..) | TKind::Function(..) | TKind::Widen(_) => {
                let d = self.temp();
                self.compute(expr, d);
                d
            }
        }
    }

    /// Computes a value into a slot. `d` may be an operand of it: it is written last.
    pub(super) fn expr_into(&mut self, expr: &TExpr, d: Slot) {
        let direct = matches!(expr.kind, TKind::Unary(..) | TKind::Binary(..) | TKind::Widen(_));
        if direct {
            self.compute(expr, d);
        } else {
            let a = self.expr(expr);
            if a != d {
                self.ask(expr.span, expr.ty == Ty::BOOL && matches!(expr.kind, TKind::Read(_)));
                self.emit(Op::Move { d, a });
            }
        }
    }

    fn cut(&mut self, slot: Slot, from: u16, to: &Ty) -> Slot {
        let Ty::Text(length) = to else { return slot };
        if from <= *length {
            return slot;
        }
        let d = self.temp();
        self.emit(Op::Cut { d, a: slot, length: u32::from(*length) });
        d
    }

    fn bound(&mut self, a: Slot, ty: &Ty) {
        if let Ty::Range(_, low, high) = ty {
            self.ranges.push((*low, *high));
            let range = self.ranges.len() as u32 - 1;
            self.emit(Op::Bound { a, range });
        }
    }

    fn compute(&mut self, expr: &TExpr, d: Slot) {
        match &expr.kind {
            TKind::Unary(op, inner) => self.unary(*op, inner, d, expr.span),
            TKind::Binary(op, typing, left, right) => self.binary(*op, *typing, (left, right), d, expr.span),
            TKind::Widen(inner) => {
                let a = self.expr(inner);
                let (from, to) = (elem(&inner.ty), elem(&expr.ty));
                let same = from.shape().is_some() == to.shape().is_some() || (from.is_real() && to == Elem::Lreal);
                // A wider integer holds the same slot; so does a wider real.
                self.emit(if same { Op::Move { d, a } } else { Op::One { f: One::Convert(from, to), d, a } });
            }
            TKind::Function(function, args) => self.function(*function, args, &expr.ty, d),
            TKind::Const(_)
            | TKind::LitInt(_)
            | TKind::LitReal(_)
            | TKind::Text(_)
            | TKind::Read(_)
            | TKind::Bound(_)
            | TKind::Call(_)
            | TKind::Current
            | TKind::List(_) => {
                let a = self.expr(expr);
                self.emit(Op::Move { d, a });
            }
        }
    }

    fn unary(&mut self, op: UnaryOp, inner: &TExpr, d: Slot, span: Span) {
        let a = self.expr(inner);
        let of = elem(&inner.ty);
        self.ask(span, of == Elem::Bool);
        self.emit(match (op, of.shape()) {
            (UnaryOp::Not, _) if of == Elem::Bool => Op::NotBool { d, a },
            (UnaryOp::Not, Some(shape)) => Op::One { f: One::Not(shape), d, a },
            _ => Op::One { f: One::Negate(of), d, a },
        });
    }

    fn binary(&mut self, op: BinaryOp, typing: Typing, (left, right): (&TExpr, &TExpr), d: Slot, span: Span) {
        // `a AND NOT b` is one operation.
        if typing.left == Elem::Bool
            && let TKind::Unary(UnaryOp::Not, inner) = &right.kind
            && matches!(op, BinaryOp::And | BinaryOp::Or)
        {
            let (a, b) = self.pair(left, inner);
            self.ask(span, true);
            self.emit(if op == BinaryOp::And { Op::AndNot { d, a, b } } else { Op::OrNot { d, a, b } });
            return;
        }
        let (a, b) = self.pair(left, right);
        self.ask(span, typing.left == Elem::Bool || op.is_comparison());
        if matches!(left.ty, Ty::Text(_)) {
            self.emit(Op::Text { op, d, a, b });
            return;
        }
        if typing.left.is_time() && typing.right == Elem::Lreal {
            self.emit(Op::ScaleTime { op, d, a, b });
            return;
        }
        let Some(s) = typing.left.shape() else {
            self.emit(Op::Real { op, precision: Precision::of(typing.result), d, a, b });
            return;
        };
        self.emit(integer(op, s, d, a, b));
    }

    /// Two operands; the left one is saved if computing the right one could change it.
    fn pair(&mut self, left: &TExpr, right: &TExpr) -> (Slot, Slot) {
        let mut a = self.expr(left);
        if has_effects(right) {
            let saved = self.temp();
            self.emit(Op::Move { d: saved, a });
            a = saved;
        }
        (a, self.expr(right))
    }

    /// Operands in order, each saved if a later one could change it.
    fn operands(&mut self, args: &[TExpr]) -> Vec<Slot> {
        let saved = args.iter().any(has_effects);
        args.iter()
            .map(|arg| {
                let a = self.expr(arg);
                if !saved {
                    return a;
                }
                let d = self.temp();
                self.emit(Op::Move { d, a });
                d
            })
            .collect()
    }

    fn function(&mut self, function: Function, args: &[TExpr], ty: &Ty, d: Slot) {
        let a = self.operands(args);
        let of = args.first().map_or(Elem::Bool, |x| elem(&x.ty));
        match function {
            Function::Sel => {
                self.emit(Op::Move { d, a: a[1] });
                self.emit(Op::MoveIf { d, c: a[0], a: a[2] });
            }
            Function::Mux => self.mux(&a, d),
            Function::Min | Function::Max => {
                self.emit(Op::Move { d, a: a[0] });
                for &b in &a[1..] {
                    self.extreme(if function == Function::Min { Extreme::Least } else { Extreme::Most }, ty, d, d, b);
                }
            }
            Function::Limit => {
                let t = self.temp();
                self.extreme(Extreme::Most, ty, t, a[1], a[0]);
                self.extreme(Extreme::Least, ty, d, t, a[2]);
            }
            Function::Shift(k) => {
                if let Some(s) = of.shape() {
                    let unsigned_count = args.get(1).is_some_and(|n| elem(&n.ty) == Elem::Ulint);
                    let b = if unsigned_count { self.clamped(a[1]) } else { a[1] };
                    self.emit(Op::Shift { k, s, d, a: a[0], b });
                }
            }
            Function::Move => {
                self.emit(Op::Move { d, a: a[0] });
            }
            Function::Since => {
                self.emit(Op::Since { d, a: a[0] });
            }
            Function::FirstScan => {
                self.emit(Op::FirstScan { d });
            }
            Function::ScanTime => {
                self.emit(Op::ScanTime { d });
            }
            Function::Ticks => {
                self.emit(Op::Ticks { d, a: a[0] });
            }
            Function::Real(f) => {
                self.emit(Op::One { f: One::Real(f, Precision::of(elem(ty))), d, a: a[0] });
            }
            Function::Abs => {
                self.emit(Op::One { f: One::Abs(of), d, a: a[0] });
            }
            Function::Convert(_, to) => {
                self.emit(Op::One { f: One::Convert(of, to), d, a: a[0] });
            }
            Function::Truncate(_, to) => {
                self.emit(Op::One { f: One::Truncate(to), d, a: a[0] });
            }
            Function::FromBcd(_, to) => {
                self.emit(Op::One { f: One::FromBcd(to), d, a: a[0] });
            }
            Function::ToBcd(_, to) => {
                self.emit(Op::One { f: One::ToBcd(of, to), d, a: a[0] });
            }
            // The checker makes operators and statements of these; nothing is run of what would stand for them here.
            Function::Operator(_) | Function::Not | Function::Restart => self.unknown = Some(function),
        }
    }

    /// A count of ULINT beyond the signed range shifts everything out.
    fn clamped(&mut self, a: Slot) -> Slot {
        let (zero, much) = (self.constant(0), self.constant(i64::MAX));
        let (d, c) = (self.temp(), self.temp());
        self.emit(Op::Lt { d: c, a, b: zero });
        self.emit(Op::Move { d, a });
        self.emit(Op::MoveIf { d, c, a: much });
        d
    }

    fn extreme(&mut self, which: Extreme, ty: &Ty, d: Slot, a: Slot, b: Slot) {
        let of = elem(ty);
        match of.shape() {
            Some(s) if !s.is_unsigned_64() => {
                self.emit(match which {
                    Extreme::Least => Op::Min { d, a, b },
                    Extreme::Most => Op::Max { d, a, b },
                });
            }
            shape => {
                let c = self.temp();
                let op = match which {
                    Extreme::Least => BinaryOp::Lt,
                    Extreme::Most => BinaryOp::Gt,
                };
                self.emit(match shape {
                    Some(s) => integer(op, s, c, b, a),
                    None => Op::Real { op, precision: Precision::Double, d: c, a: b, b: a },
                });
                if d != a {
                    self.emit(Op::Move { d, a });
                }
                self.emit(Op::MoveIf { d, c, a: b });
            }
        }
    }

    fn mux(&mut self, a: &[Slot], d: Slot) {
        self.ranges.push((0, a.len() as i64 - 2));
        let range = self.ranges.len() as u32 - 1;
        self.emit(Op::Bound { a: a[0], range });
        let value = self.temp();
        let c = self.temp();
        // Within its bounds K selects one of them: the first, if it is no later one.
        self.emit(Op::Move { d: value, a: a[1] });
        for (number, &choice) in a[1..].iter().enumerate().skip(1) {
            let n = self.constant(number as i64);
            self.emit(Op::Eq { d: c, a: a[0], b: n });
            self.emit(Op::MoveIf { d: value, c, a: choice });
        }
        self.emit(Op::Move { d, a: value });
    }
}

/// The operation of an operator on integers, bit strings, BOOL or TIME.
pub(super) fn integer(op: BinaryOp, s: IntShape, d: Slot, a: Slot, b: Slot) -> Op {
    let unsigned = s.is_unsigned_64();
    match op {
        BinaryOp::And => Op::And { d, a, b },
        BinaryOp::Or => Op::Or { d, a, b },
        BinaryOp::Xor => Op::Xor { d, a, b },
        BinaryOp::Add => Op::Add { s, d, a, b },
        BinaryOp::Sub => Op::Sub { s, d, a, b },
        BinaryOp::Mul => Op::Mul { s, d, a, b },
        BinaryOp::Div => Op::Div { s, d, a, b },
        BinaryOp::Mod => Op::Mod { s, d, a, b },
        BinaryOp::Eq => Op::Eq { d, a, b },
        BinaryOp::Ne => Op::Ne { d, a, b },
        BinaryOp::Lt if unsigned => Op::LtUnsigned { d, a, b },
        BinaryOp::Le if unsigned => Op::LeUnsigned { d, a, b },
        BinaryOp::Gt if unsigned => Op::LtUnsigned { d, a: b, b: a },
        BinaryOp::Ge if unsigned => Op::LeUnsigned { d, a: b, b: a },
        BinaryOp::Lt => Op::Lt { d, a, b },
        BinaryOp::Le => Op::Le { d, a, b },
        BinaryOp::Gt => Op::Lt { d, a: b, b: a },
        BinaryOp::Ge => Op::Le { d, a: b, b: a },
        // The checker brings both sides of a power to LREAL.
        BinaryOp::Power => Op::Real { op, precision: Precision::Double, d, a, b },
    }
}

/// True if computing it may write variables.
pub(super) fn has_effects(expr: &TExpr) -> bool {
    match &expr.kind {
        TKind::Call(_) | TKind::List(_) => true,
        TKind::Unary(_, inner) | TKind::Widen(inner) | TKind::Bound(inner) => has_effects(inner),
        TKind::Binary(_, _, left, right) => has_effects(left) || has_effects(right),
        TKind::Function(_, args) => args.iter().any(has_effects),
        TKind::Const(_) | TKind::LitInt(_) | TKind::LitReal(_) | TKind::Text(_) | TKind::Read(_) | TKind::Current => {
            false
        }
    }
}

fn elem(ty: &Ty) -> Elem {
    ty.elem().unwrap_or(Elem::Lint)
}

fn text_length(ty: &Ty) -> u16 {
    if let Ty::Text(length) = ty { *length } else { 0 }
}
