//! The times and numbers that matter to two programs: their own constants, and one to each side of them.

use super::Version;
use crate::check::typed::{Code, Place, Step, TCall, TExpr, TInit, TInstr, TInstrKind, TKind, TStmt, TStmtKind, Ty};
use crate::model::Elem;

/// Constants found in both versions.
#[derive(Clone, Debug, Default)]
pub(super) struct Vocabulary {
    /// Durations in nanoseconds, rising.
    pub(super) times: Vec<i64>,
    /// Integers, rising.
    pub(super) numbers: Vec<i64>,
    /// Real numbers.
    pub(super) reals: Vec<f64>,
}

impl Vocabulary {
    pub(super) fn of(versions: [&Version; 2]) -> Vocabulary {
        let mut found = Vocabulary::default();
        for version in versions {
            for unit in version.checked.units.iter().filter(|u| !u.built_in) {
                for var in &unit.vars {
                    found.init(&var.init, &var.ty);
                }
                match &unit.code {
                    Code::Block(list) => found.block(list),
                    Code::List(list) => found.list(list),
                }
            }
            for var in &version.checked.globals {
                found.init(&var.init, &var.ty);
            }
        }
        found.times.sort_unstable();
        found.times.dedup();
        found.numbers.sort_unstable();
        found.numbers.dedup();
        found
    }

    fn constant(&mut self, ty: &Ty, slot: i64) {
        match ty.elem() {
            Some(elem) if elem.is_time() => self.times.push(slot),
            Some(Elem::Bool) | None => {}
            Some(Elem::Real | Elem::Lreal) => self.reals.push(f64::from_bits(slot as u64)),
            Some(_) => self.numbers.push(slot),
        }
    }

    fn init(&mut self, init: &TInit, ty: &Ty) {
        match (init, ty) {
            (TInit::Slot(slot), _) => self.constant(ty, *slot),
            (TInit::Array(values), Ty::Array(array)) => values.iter().for_each(|v| self.init(v, &array.of)),
            _ => {}
        }
    }

    fn block(&mut self, list: &[TStmt]) {
        for stmt in list {
            match &stmt.kind {
                TStmtKind::Assign(place, value) => {
                    self.place(place);
                    self.expr(value);
                }
                TStmtKind::Call(call) => self.call(call),
                TStmtKind::If(branches, otherwise) => {
                    for (condition, body) in branches {
                        self.expr(condition);
                        self.block(body);
                    }
                    self.block(otherwise);
                }
                TStmtKind::Case(selector, arms, otherwise) => {
                    self.expr(selector);
                    for (labels, body) in arms {
                        labels.iter().for_each(|(low, high)| self.numbers.extend([*low, *high]));
                        self.block(body);
                    }
                    self.block(otherwise);
                }
                TStmtKind::For(head) => {
                    self.expr(&head.to);
                    self.block(&head.body);
                }
                TStmtKind::While(condition, body) | TStmtKind::Repeat(body, condition) => {
                    self.expr(condition);
                    self.block(body);
                }
                TStmtKind::Restart(_) | TStmtKind::Exit | TStmtKind::Continue | TStmtKind::Return => {}
            }
        }
    }

    fn list(&mut self, list: &[TInstr]) {
        for instr in list {
            match &instr.kind {
                TInstrKind::Compute(value) => self.expr(value),
                TInstrKind::Store(place, value) => {
                    self.place(place);
                    self.expr(value);
                }
                TInstrKind::Call(_, call) => self.call(call),
                _ => {}
            }
        }
    }

    fn place(&mut self, place: &Place) {
        for step in &place.steps {
            if let Step::Index(indices) = step {
                indices.iter().for_each(|i| self.expr(i));
            }
        }
    }

    fn call(&mut self, call: &TCall) {
        call.inputs.iter().for_each(|(_, value)| self.expr(value));
    }

    fn expr(&mut self, expr: &TExpr) {
        match &expr.kind {
            TKind::Const(slot) => self.constant(&expr.ty, *slot),
            TKind::Read(place) => self.place(place),
            TKind::Unary(_, inner) | TKind::Widen(inner) | TKind::Bound(inner) => self.expr(inner),
            TKind::Binary(_, _, left, right) => {
                self.expr(left);
                self.expr(right);
            }
            TKind::Function(_, args) => args.iter().for_each(|a| self.expr(a)),
            TKind::Call(call) => self.call(call),
            TKind::List(list) => self.list(list),
            TKind::LitInt(_) | TKind::LitReal(_) | TKind::Text(_) | TKind::Current => {}
        }
    }
}
