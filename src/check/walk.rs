//! Going over what was checked: expressions of statements and instructions, and the lists of statements in statements.

use super::typed::{Callee, PathStep, Place, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind};

impl TStmt {
    /// Calls `found` with each list of statements in it, in order.
    pub(crate) fn bodies<'t>(&'t self, found: &mut dyn FnMut(&'t [TStmt])) {
        match &self.kind {
            TStmtKind::Assign(..)
            | TStmtKind::Call(_)
            | TStmtKind::Restart(_)
            | TStmtKind::Exit
            | TStmtKind::Continue
            | TStmtKind::Return => {}
            TStmtKind::If(branches, otherwise) => {
                branches.iter().for_each(|(_, body)| found(body));
                found(otherwise);
            }
            TStmtKind::Case(_, arms, otherwise) => {
                arms.iter().for_each(|(_, body)| found(body));
                found(otherwise);
            }
            TStmtKind::For(head) => found(&head.body),
            TStmtKind::While(_, body) | TStmtKind::Repeat(body, _) => found(body),
        }
    }
}

/// Calls `found` with every statement of a block and of those in it, outermost first.
pub(crate) fn each_statement<'t>(list: &'t [TStmt], found: &mut dyn FnMut(&'t TStmt)) {
    for stmt in list {
        found(stmt);
        stmt.bodies(&mut |body| each_statement(body, found));
    }
}

/// Calls `found` with every expression of a block, outer ones first; those of a statement before those of statements in it.
pub(crate) fn walk_block(list: &[TStmt], found: &mut impl FnMut(&TExpr)) {
    each_statement(list, &mut |stmt| match &stmt.kind {
        TStmtKind::Assign(place, value) => {
            walk_place(place, found);
            walk(value, found);
        }
        TStmtKind::Call(call) => walk_call(call, found),
        TStmtKind::Restart(place) => walk_place(place, found),
        TStmtKind::If(branches, _) => branches.iter().for_each(|(condition, _)| walk(condition, found)),
        TStmtKind::Case(selector, ..) => walk(selector, found),
        TStmtKind::For(head) => {
            walk_place(&head.var, found);
            [&head.from, &head.to, &head.by].into_iter().for_each(|e| walk(e, found));
        }
        TStmtKind::While(condition, _) | TStmtKind::Repeat(_, condition) => walk(condition, found),
        TStmtKind::Exit | TStmtKind::Continue | TStmtKind::Return => {}
    });
}

/// Calls `found` with every expression of a list, outer ones first.
pub(crate) fn walk_list(list: &[TInstr], found: &mut impl FnMut(&TExpr)) {
    for instr in list {
        match &instr.kind {
            TInstrKind::Compute(value) => walk(value, found),
            TInstrKind::Store(place, value) => {
                walk_place(place, found);
                walk(value, found);
            }
            TInstrKind::Call(_, call) => walk_call(call, found),
            TInstrKind::Set(place) | TInstrKind::Reset(place) | TInstrKind::Restart(place) => walk_place(place, found),
            TInstrKind::Nop | TInstrKind::Jump(..) | TInstrKind::Return(_) => {}
        }
    }
}

fn walk_place(place: &Place, found: &mut impl FnMut(&TExpr)) {
    for step in &place.steps {
        if let PathStep::Index(indices) = step {
            indices.iter().for_each(|i| walk(i, found));
        }
    }
}

fn walk_call(call: &TCall, found: &mut impl FnMut(&TExpr)) {
    if let Callee::Block(instance) = &call.callee {
        walk_place(instance, found);
    }
    call.en.iter().chain(call.inputs.iter().map(|(_, value)| value)).for_each(|e| walk(e, found));
    call.in_outs
        .iter()
        .map(|(_, place)| place)
        .chain(call.outputs.iter().map(|t| &t.target))
        .chain(&call.eno)
        .for_each(|p| walk_place(p, found));
}

/// Calls `found` with an expression and all that is in it, outermost first.
pub(crate) fn walk(expr: &TExpr, found: &mut impl FnMut(&TExpr)) {
    found(expr);
    match &expr.kind {
        TKind::Read(place) => walk_place(place, found),
        TKind::Unary(_, inner) | TKind::Widen(inner) | TKind::Bound(inner) => walk(inner, found),
        TKind::Binary(_, _, left, right) => {
            walk(left, found);
            walk(right, found);
        }
        TKind::Function(_, args) => args.iter().for_each(|a| walk(a, found)),
        TKind::Call(call) => walk_call(call, found),
        TKind::List(list) => walk_list(list, found),
        TKind::Const(_) | TKind::LitInt(_) | TKind::LitReal(_) | TKind::Text(_) | TKind::Current => {}
    }
}
