//! A walk over everything in a program that a fault can be seeded into.

use crate::check::typed::{Code, PathStep, Place, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, TUnit};

/// Something a fault can be seeded into.
pub(super) enum Site<'a> {
    Expr(&'a mut TExpr),
    Statements(&'a mut Vec<TStmt>),
    Instructions(&'a mut Vec<TInstr>),
}

type Visit<'v> = dyn FnMut(Site<'_>) + 'v;

/// Visits a unit: lists before what is in them, expressions outer ones first.
pub(super) fn unit(unit: &mut TUnit, visit: &mut Visit<'_>) {
    match &mut unit.code {
        Code::Block(list) => block(list, visit),
        Code::List(list) => instructions(list, visit),
    }
}

fn block(list: &mut Vec<TStmt>, visit: &mut Visit<'_>) {
    visit(Site::Statements(list));
    for stmt in list {
        match &mut stmt.kind {
            TStmtKind::Assign(target, value) => {
                place(target, visit);
                expr(value, visit);
            }
            TStmtKind::Call(inner) => call(inner, visit),
            TStmtKind::If(branches, otherwise) => {
                for (condition, body) in branches {
                    expr(condition, visit);
                    block(body, visit);
                }
                block(otherwise, visit);
            }
            TStmtKind::Case(selector, arms, otherwise) => {
                expr(selector, visit);
                arms.iter_mut().for_each(|(_, body)| block(body, visit));
                block(otherwise, visit);
            }
            TStmtKind::For(head) => {
                [&mut head.from, &mut head.to].into_iter().for_each(|e| expr(e, visit));
                block(&mut head.body, visit);
            }
            TStmtKind::While(condition, body) | TStmtKind::Repeat(body, condition) => {
                expr(condition, visit);
                block(body, visit);
            }
            TStmtKind::Restart(_) | TStmtKind::Exit | TStmtKind::Continue | TStmtKind::Return => {}
        }
    }
}

fn instructions(list: &mut Vec<TInstr>, visit: &mut Visit<'_>) {
    visit(Site::Instructions(list));
    for instr in list {
        match &mut instr.kind {
            TInstrKind::Compute(value) => expr(value, visit),
            TInstrKind::Store(target, value) => {
                place(target, visit);
                expr(value, visit);
            }
            TInstrKind::Call(_, inner) => call(inner, visit),
            TInstrKind::Nop
            | TInstrKind::Set(_)
            | TInstrKind::Reset(_)
            | TInstrKind::Jump(..)
            | TInstrKind::Restart(_)
            | TInstrKind::Return(_) => {}
        }
    }
}

fn place(place: &mut Place, visit: &mut Visit<'_>) {
    for step in &mut place.steps {
        if let PathStep::Index(indices) = step {
            indices.iter_mut().for_each(|i| expr(i, visit));
        }
    }
}

fn call(call: &mut TCall, visit: &mut Visit<'_>) {
    call.en.iter_mut().for_each(|e| expr(e, visit));
    call.inputs.iter_mut().for_each(|(_, e)| expr(e, visit));
}

fn expr(value: &mut TExpr, visit: &mut Visit<'_>) {
    visit(Site::Expr(value));
    match &mut value.kind {
        TKind::Read(read) => place(read, visit),
        TKind::Unary(_, inner) | TKind::Widen(inner) | TKind::Bound(inner) => expr(inner, visit),
        TKind::Binary(_, _, left, right) => {
            expr(left, visit);
            expr(right, visit);
        }
        TKind::Function(_, args) => args.iter_mut().for_each(|a| expr(a, visit)),
        TKind::Call(inner) => call(inner, visit),
        TKind::List(list) => instructions(list, visit),
        TKind::Const(_) | TKind::LitInt(_) | TKind::LitReal(_) | TKind::Text(_) | TKind::Current => {}
    }
}
