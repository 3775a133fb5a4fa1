//! What a value hangs on by the text of a program: the names nearest to it, and where they are written.

use crate::check::Checked;
use crate::check::typed::{
    Callee, Code, Place, Root, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, TUnit, Var,
};
use crate::check::walk::walk;
use crate::model::When;
use crate::source::Span;
use std::collections::HashSet;

/// Names that are followed at most, the nearest to the value first: what is undone for a hint lies near.
const MOST_NAMES: usize = 40;

/// The part of a program that a value hangs on.
#[derive(Clone, Debug, Default)]
pub(super) struct Slice {
    /// Variables, in capitals.
    pub(super) names: HashSet<String>,
    /// Values and conditions of the statements and instructions that write them.
    pub(super) spans: Vec<Span>,
}

impl Slice {
    /// Whether a place in the text is a part of it.
    pub(super) fn covers(&self, span: Span) -> bool {
        self.spans.iter().any(|own| own.file == span.file && own.start <= span.start && span.end <= own.end)
    }

    /// Whether it has a variable.
    pub(super) fn has(&self, name: &str) -> bool {
        self.names.contains(&name.to_uppercase())
    }
}

/// What one statement or instruction writes, and from what.
#[derive(Clone, Debug, Default)]
pub(super) struct Flow {
    /// Variables that are written, in capitals.
    pub(super) writes: Vec<String>,
    /// Variables that are read.
    pub(super) reads: Vec<String>,
    /// Where what is read stands.
    spans: Vec<Span>,
}

impl Flow {
    fn expr(&mut self, expr: &TExpr, scope: Scope<'_>) {
        walk(expr, &mut |e| {
            // In a drawing a contact does not stand within what its wire is made of.
            self.spans.push(e.span);
            if let TKind::Read(place) = &e.kind {
                self.reads.push(scope.name(place));
            }
        });
    }

    fn call(&mut self, call: &TCall, scope: Scope<'_>) {
        if let Callee::Block(instance) = &call.callee {
            self.writes.push(scope.name(instance));
        }
        call.inputs.iter().map(|(_, value)| value).chain(&call.en).for_each(|e| self.expr(e, scope));
        self.reads.extend(call.in_outs.iter().map(|(_, place)| scope.name(place)));
        let written = call.outputs.iter().map(|t| &t.target).chain(&call.eno);
        self.writes.extend(written.chain(call.in_outs.iter().map(|(_, place)| place)).map(|p| scope.name(p)));
    }

    fn add(&mut self, other: &Flow) {
        self.reads.extend(other.reads.iter().cloned());
        self.spans.extend(&other.spans);
    }
}

/// Where names are looked up.
#[derive(Clone, Copy)]
pub(super) struct Scope<'c> {
    pub(super) vars: &'c [Var],
    pub(super) globals: &'c [Var],
}

impl Scope<'_> {
    /// The variable in which a place lies, in capitals.
    pub(super) fn name(self, place: &Place) -> String {
        self.var(place.root).map_or(String::new(), |var| var.name.to_uppercase())
    }

    /// The variable at a root.
    pub(super) fn var(&self, root: Root) -> Option<&Var> {
        match root {
            Root::Local(number) => self.vars.get(number as usize),
            Root::Global(number) => self.globals.get(number as usize),
        }
    }
}

/// What an output of a version hangs on.
pub(super) fn slice(checked: &Checked, output: &str) -> Slice {
    let mut flows = Vec::new();
    for unit in checked.units.iter().filter(|u| !u.built_in) {
        unit_flows(unit, &checked.globals, &mut flows);
    }
    let mut out = Slice::default();
    let mut due: Vec<String> = output.to_uppercase().split(['.', '[']).map(str::to_string).collect();
    let mut at = 0;
    while at < due.len() && out.names.len() < MOST_NAMES {
        let name = due[at].clone();
        at += 1;
        if name.is_empty() || !out.names.insert(name.clone()) {
            continue;
        }
        for flow in flows.iter().filter(|flow| flow.writes.contains(&name)) {
            due.extend(flow.reads.iter().cloned());
            out.spans.extend(&flow.spans);
        }
    }
    out
}

fn unit_flows(unit: &TUnit, globals: &[Var], out: &mut Vec<Flow>) {
    let scope = Scope { vars: &unit.vars, globals };
    match &unit.code {
        Code::Block(list) => block(list, scope, &Flow::default(), out),
        Code::List(list) => instructions(list, scope, out),
    }
}

fn block(list: &[TStmt], scope: Scope<'_>, guard: &Flow, out: &mut Vec<Flow>) {
    for stmt in list {
        let mut inner = guard.clone();
        let own = statement(stmt, scope, &mut inner);
        if let Some(mut own) = own {
            own.add(guard);
            out.push(own);
        }
        stmt.bodies(&mut |body| block(body, scope, &inner, out));
    }
}

/// What a statement itself does, and what it asks before those in it.
fn statement(stmt: &TStmt, scope: Scope<'_>, guard: &mut Flow) -> Option<Flow> {
    let mut own = Flow::default();
    match &stmt.kind {
        TStmtKind::Assign(place, value) => {
            own.writes.push(scope.name(place));
            own.expr(value, scope);
        }
        TStmtKind::Call(call) => own.call(call, scope),
        TStmtKind::Restart(place) => own.writes.push(scope.name(place)),
        TStmtKind::If(branches, _) => branches.iter().for_each(|(condition, _)| guard.expr(condition, scope)),
        TStmtKind::Case(selector, ..) => guard.expr(selector, scope),
        TStmtKind::For(head) => [&head.from, &head.to].into_iter().for_each(|e| guard.expr(e, scope)),
        TStmtKind::While(condition, _) | TStmtKind::Repeat(_, condition) => guard.expr(condition, scope),
        TStmtKind::Exit | TStmtKind::Continue | TStmtKind::Return => {}
    }
    (!own.writes.is_empty()).then_some(own)
}

fn instructions(list: &[TInstr], scope: Scope<'_>, out: &mut Vec<Flow>) {
    let (mut current, mut guard) = (Flow::default(), Flow::default());
    for instr in list {
        let mut own = instruction(instr, scope, &mut current);
        if let TInstrKind::Jump(When::IfTrue | When::IfFalse, _) = &instr.kind {
            guard.add(&current);
        }
        if !own.writes.is_empty() {
            own.add(&guard);
            out.push(own);
        }
    }
}

/// What an instruction does, with what the current result rests on.
pub(super) fn instruction(instr: &TInstr, scope: Scope<'_>, current: &mut Flow) -> Flow {
    let mut own = Flow::default();
    match &instr.kind {
        TInstrKind::Compute(value) => {
            let mut fresh = Flow::default();
            fresh.expr(value, scope);
            if !asks_current(value) {
                current.reads.clear();
                current.spans.clear();
            }
            current.add(&fresh);
        }
        TInstrKind::Store(place, value) => {
            own.writes.push(scope.name(place));
            own.expr(value, scope);
            if asks_current(value) {
                own.add(current);
            }
        }
        TInstrKind::Set(place) | TInstrKind::Reset(place) | TInstrKind::Restart(place) => {
            own.writes.push(scope.name(place));
            own.add(current);
        }
        TInstrKind::Call(_, call) => {
            own.call(call, scope);
            own.add(current);
        }
        TInstrKind::Nop | TInstrKind::Jump(..) | TInstrKind::Return(_) => {}
    }
    own
}

/// Whether an expression takes what is the current result.
pub(super) fn asks_current(value: &TExpr) -> bool {
    let mut found = false;
    walk(value, &mut |e| found |= matches!(e.kind, TKind::Current));
    found
}

/// What a statement does with all that is in it.
pub(super) fn whole(stmt: &TStmt, scope: Scope<'_>) -> Flow {
    let mut parts = Vec::new();
    let mut guard = Flow::default();
    parts.extend(statement(stmt, scope, &mut guard));
    stmt.bodies(&mut |body| block(body, scope, &guard, &mut parts));
    let mut out = Flow::default();
    out.add(&guard);
    for part in parts {
        out.writes.extend(part.writes.iter().cloned());
        out.add(&part);
    }
    out
}
