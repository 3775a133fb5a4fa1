//! Where a variable is written or read: for each network of a unit, and where else.

use crate::model::{
    Arg, Block, Call, Element, ElementKind, Expr, ExprKind, Feed, Instr, InstrKind, Operand, Stmt, StmtKind,
};
use std::collections::{BTreeMap, BTreeSet};

/// What one network reads and writes: names as they are first written there.
#[derive(Clone, Debug, Default)]
pub(super) struct Uses {
    names: BTreeMap<String, String>,
    reads: BTreeSet<String>,
    writes: BTreeSet<String>,
}

impl Uses {
    fn note(&mut self, name: &str) -> String {
        let key = name.to_uppercase();
        self.names.entry(key.clone()).or_insert_with(|| name.to_string());
        key
    }

    fn read(&mut self, expr: &Expr) {
        match &expr.kind {
            ExprKind::Literal(_) => {}
            ExprKind::Name(name) | ExprKind::Address(name) => {
                let key = self.note(&name.text);
                self.reads.insert(key);
            }
            ExprKind::Field(base, _) => self.read(base),
            ExprKind::Index(base, indices) => {
                self.read(base);
                indices.iter().for_each(|i| self.read(i));
            }
            ExprKind::Unary(_, inner) => self.read(inner),
            ExprKind::Binary(_, a, b) => {
                self.read(a);
                self.read(b);
            }
            ExprKind::Call(call) => self.args(call),
        }
    }

    fn write(&mut self, expr: &Expr) {
        match &expr.kind {
            ExprKind::Name(name) | ExprKind::Address(name) => {
                let key = self.note(&name.text);
                self.writes.insert(key);
            }
            ExprKind::Field(base, _) => self.write(base),
            ExprKind::Index(base, indices) => {
                self.write(base);
                indices.iter().for_each(|i| self.read(i));
            }
            _ => {}
        }
    }

    fn operand(&mut self, operand: &Operand) {
        match operand {
            Operand::Expr(value) => self.read(value),
            Operand::List(list) => list.iter().for_each(|i| self.instruction(i)),
        }
    }

    fn args(&mut self, call: &Call) {
        for arg in &call.args {
            match arg {
                Arg::Plain(value) | Arg::Input(_, value) => self.operand(value),
                Arg::Output { target, .. } => self.write(target),
            }
        }
    }

    pub(super) fn element(&mut self, element: &Element) {
        match &element.kind {
            ElementKind::Contact { operand, .. } => self.read(operand),
            ElementKind::Compare { left, right, .. } => {
                self.read(left);
                self.read(right);
            }
            ElementKind::Coil { target, .. } | ElementKind::Sink { target, .. } => self.write(target),
            ElementKind::Source { value, .. } => self.read(value),
            ElementKind::Jump { .. } | ElementKind::Return { .. } => {}
            ElementKind::Block(block) => self.block(block),
        }
    }

    fn block(&mut self, block: &Block) {
        block.instance.iter().for_each(|i| self.write(i));
        for pin in &block.inputs {
            if let Feed::Value(value) = &pin.feed {
                self.read(value);
            }
        }
        block.outputs.iter().filter_map(|p| p.target.as_ref()).for_each(|t| self.write(t));
    }

    pub(super) fn statement(&mut self, stmt: &Stmt) {
        match &stmt.kind {
            StmtKind::Assign(target, value) => {
                self.write(target);
                self.read(value);
            }
            StmtKind::Call(call) => {
                self.write(&call.callee);
                self.args(call);
            }
            StmtKind::If(branches, otherwise) => {
                for (condition, body) in branches {
                    self.read(condition);
                    body.iter().for_each(|s| self.statement(s));
                }
                otherwise.iter().flatten().for_each(|s| self.statement(s));
            }
            StmtKind::Case(selector, branches, otherwise) => {
                self.read(selector);
                branches.iter().flat_map(|b| &b.body).for_each(|s| self.statement(s));
                otherwise.iter().flatten().for_each(|s| self.statement(s));
            }
            StmtKind::For(head, body) => {
                self.write(&head.var);
                self.read(&head.from);
                self.read(&head.to);
                body.iter().for_each(|s| self.statement(s));
            }
            StmtKind::While(condition, body) | StmtKind::Repeat(body, condition) => {
                self.read(condition);
                body.iter().for_each(|s| self.statement(s));
            }
            StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
        }
    }

    pub(super) fn instruction(&mut self, instr: &Instr) {
        match &instr.kind {
            InstrKind::Load(_, value) => self.read(value),
            InstrKind::Store(_, to) | InstrKind::Set(to) | InstrKind::Reset(to) => self.write(to),
            InstrKind::Op(_, _, value) => self.operand(value),
            InstrKind::Call(_, call) => {
                self.write(&call.callee);
                self.args(call);
            }
            InstrKind::Function(call, _) => self.args(call),
            InstrKind::Pin(_, instance) => self.write(instance),
            InstrKind::Empty
            | InstrKind::Not
            | InstrKind::Jump(..)
            | InstrKind::Return(_)
            | InstrKind::Worded { .. } => {}
        }
    }
}

/// For each network, what its variables do elsewhere: `Alarm: written in 2, read in 5`.
pub(super) fn elsewhere(all: &[Uses]) -> Vec<Vec<String>> {
    let list = |numbers: Vec<usize>| numbers.iter().map(usize::to_string).collect::<Vec<_>>().join(", ");
    let mut out = Vec::new();
    for (here, uses) in all.iter().enumerate() {
        let mut lines = Vec::new();
        for (key, name) in &uses.names {
            let others = |of: fn(&Uses) -> &BTreeSet<String>| -> Vec<usize> {
                (0..all.len()).filter(|n| *n != here && of(&all[*n]).contains(key)).map(|n| n + 1).collect()
            };
            let (written, read) = (others(|u| &u.writes), others(|u| &u.reads));
            let mut said = Vec::new();
            if !written.is_empty() {
                said.push(format!("written in {}", list(written)));
            }
            // Where else it is read matters to who writes it here.
            if !read.is_empty() && uses.writes.contains(key) {
                said.push(format!("read in {}", list(read)));
            }
            if !said.is_empty() {
                lines.push(format!("{name} {}", said.join(", ")));
            }
        }
        out.push(lines);
    }
    out
}
