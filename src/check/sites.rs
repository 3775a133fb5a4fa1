//! A walk over everything in a program that can be changed: for seeded faults, and for what is undone to explain a difference.

use super::typed::{Code, PathStep, Place, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, TUnit};

/// Something that can be changed.
pub(crate) enum Site<'a> {
    Expr(&'a mut TExpr),
    Statements(&'a mut Vec<TStmt>),
    Instructions(&'a mut Vec<TInstr>),
}

/// Whether what is in a site is still to be visited, or has been.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Pass {
    Down,
    Up,
}

type Visit<'v> = dyn FnMut(Pass, Site<'_>) + 'v;

/// Visits a unit: each site before what is in it, and once more behind that. On the way down nothing may be put in its place
/// that has other sites in it.
pub(crate) fn unit(unit: &mut TUnit, visit: &mut Visit<'_>) {
    match &mut unit.code {
        Code::Block(list) => block(list, visit),
        Code::List(list) => instructions(list, visit),
    }
}

fn block(list: &mut Vec<TStmt>, visit: &mut Visit<'_>) {
    visit(Pass::Down, Site::Statements(list));
    for stmt in list.iter_mut() {
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
    visit(Pass::Up, Site::Statements(list));
}

fn instructions(list: &mut Vec<TInstr>, visit: &mut Visit<'_>) {
    visit(Pass::Down, Site::Instructions(list));
    for instr in list.iter_mut() {
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
    visit(Pass::Up, Site::Instructions(list));
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
    visit(Pass::Down, Site::Expr(value));
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
    visit(Pass::Up, Site::Expr(value));
}
