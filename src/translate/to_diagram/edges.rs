//! Edge contacts and coils: `v AND NOT before` with `before := v` behind it is a contact that asks for the edge itself,
//! and needs no variable to remember by.

use super::DiagramWriter;
use super::logic::spine;
use crate::check::typed::{TInit, Ty};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Arg, CoilForm, ContactForm, Expr, ExprKind, Operand, Retain, Section, Stmt, StmtKind, UnitKind, each_statement,
};
use crate::translate::ledger::{EDGE_MEMORY, Grade};
use crate::translate::literals::is_simple;
use std::collections::HashMap;

/// What a memory stands for in a condition.
#[derive(Clone)]
pub(super) enum Edge {
    Contact(ContactForm, Expr),
    /// The coil of the statement asks for the edge of its power.
    Coil(CoilForm),
}

/// How often statements mention each name, in capitals.
pub(super) fn mentioned(list: &[Stmt]) -> HashMap<String, usize> {
    let mut out = HashMap::new();
    each_statement(list, &mut |stmt| {
        stmt.own(&mut |expr, _| expr.roots(&mut |r| *out.entry(r.to_ascii_uppercase()).or_default() += 1));
    });
    out
}

/// Where the statements of a list write what, leave it, or call code of unknown reach: numbers of statements, rising.
#[derive(Default)]
struct Writes {
    names: HashMap<String, Vec<usize>>,
    anything: Vec<usize>,
    leave: Vec<usize>,
}

/// True if one of these numbers, which rise, lies from `first` on and before `end`.
fn has_one(numbers: &[usize], first: usize, end: usize) -> bool {
    numbers.get(numbers.partition_point(|n| *n < first)).is_some_and(|n| *n < end)
}

impl DiagramWriter<'_> {
    /// A list without the memories of edges, and with the edges in place of the conditions that looked at them.
    pub(super) fn without_memories(&mut self, list: &[Stmt]) -> Vec<Stmt> {
        if !(self.is_ladder() || self.has_rise()) || self.context.unit.kind == UnitKind::Function {
            return list.to_vec();
        }
        let memories = self.memories(list);
        if memories.is_empty() {
            return list.to_vec();
        }
        let writes = self.all_writes(list);
        // Statements above which nothing is said: a memory is only taken away from among those.
        let own = |s: &Stmt| !s.notes.blank_before && s.notes.leading.is_empty() && s.notes.trailing.is_empty();
        let parted: Vec<usize> = (0..list.len()).filter(|at| !own(&list[*at])).collect();
        let mut gone = vec![false; list.len()];
        let mut out = Vec::new();
        for (at, stmt) in list.iter().enumerate() {
            if gone[at] {
                continue;
            }
            let mut stmt = stmt.clone();
            let mut near: Vec<usize> = mentioned(std::slice::from_ref(&stmt))
                .keys()
                .filter_map(|name| memories.get(name).copied())
                .filter(|later| *later > at && !gone[*later] && !has_one(&parted, at + 1, later + 1))
                .collect();
            near.sort_unstable();
            for later in near {
                if self.changes(&writes, [at + 1, later], &list[later]) {
                    continue;
                }
                if let Some(edge) = self.edge(&stmt, &list[later]) {
                    stmt = edge;
                    gone[later] = true;
                }
            }
            out.push(stmt);
        }
        out
    }

    /// The statements of a list that may write a memory, by its name in capitals: it is mentioned once more, elsewhere.
    fn memories(&self, list: &[Stmt]) -> HashMap<String, usize> {
        let written = list.iter().enumerate().filter_map(|(at, stmt)| {
            let StmtKind::Assign(target, _) = &stmt.kind else { return None };
            let ExprKind::Name(name) = &target.kind else { return None };
            let name = name.text.to_ascii_uppercase();
            (self.mentioned.get(&name) == Some(&2)).then_some((name, at))
        });
        written.collect()
    }

    fn all_writes(&self, list: &[Stmt]) -> Writes {
        let mut out = Writes::default();
        for (at, stmt) in list.iter().enumerate() {
            let stmt = std::slice::from_ref(stmt);
            let written = self.written(stmt);
            written.names.iter().for_each(|name| out.names.entry(name.to_ascii_uppercase()).or_default().push(at));
            out.anything.extend(written.anything.then_some(at));
            out.leave.extend(leaves(stmt).then_some(at));
        }
        out
    }

    /// True if statements, from one on and before another, write what a memory will remember.
    fn changes(&self, writes: &Writes, [first, end]: [usize; 2], memory: &Stmt) -> bool {
        let StmtKind::Assign(_, value) = &memory.kind else { return true };
        let mut hit = has_one(&writes.leave, first, end)
            || !self.context.checked.globals.is_empty() && has_one(&writes.anything, first, end);
        value.roots(&mut |root| {
            let at = writes.names.get(&root.to_ascii_uppercase());
            hit |= at.is_some_and(|at| has_one(at, first, end));
        });
        hit
    }

    /// The statement without its memory, if it and the write to the memory are an edge.
    fn edge(&mut self, stmt: &Stmt, next: &Stmt) -> Option<Stmt> {
        let StmtKind::Assign(memory, value) = &next.kind else { return None };
        let ExprKind::Name(name) = &memory.kind else { return None };
        // A statement that leaves would leave the memory as it was; the contact has looked already.
        if leaves(std::slice::from_ref(stmt))
            || !self.is_memory(&name.text, stmt)
            || self.writes_to(std::slice::from_ref(stmt), value)
        {
            return None;
        }
        let mut out = stmt.clone();
        let in_ladder = self.is_ladder();
        let can_ask = |form| if in_ladder { is_simple(value) } else { form == ContactForm::Rising };
        let at = |expr: &mut Expr| match contact(expr, &name.text, value) {
            Some((rewritten, form)) if can_ask(form) && !mentions_twice(&rewritten, &name.text) => {
                *expr = rewritten;
                Some(Edge::Contact(form, value.clone()))
            }
            _ => None,
        };
        let edge = match &mut out.kind {
            StmtKind::Assign(_, condition) if self.is_bool(condition) => at(condition).or_else(|| {
                let form = whole(condition, &name.text, value).filter(|_| in_ladder)?;
                *condition = value.clone();
                Some(Edge::Coil(form))
            }),
            StmtKind::If(branches, None) if branches.len() == 1 && self.is_flat(stmt) => at(&mut branches[0].0),
            StmtKind::Call(call) => call.args.iter_mut().find_map(|arg| {
                if let Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value)) = arg {
                    at(value)
                } else {
                    None
                }
            }),
            StmtKind::Empty
            | StmtKind::Assign(..)
            | StmtKind::If(..)
            | StmtKind::Case(..)
            | StmtKind::For(..)
            | StmtKind::While(..)
            | StmtKind::Repeat(..)
            | StmtKind::Exit
            | StmtKind::Continue
            | StmtKind::Return => None,
        }?;
        self.removed.push(name.text.clone());
        let what = if in_ladder { "an edge contact or coil" } else { "an edge block" };
        let reason = format!("`{}` is gone: {what} remembers by itself", name.text);
        self.ledger.push(self.context.entry(EDGE_MEMORY, Grade::Exact, next.span, None, reason));
        match edge {
            Edge::Coil(form) => self.coil_edge = Some(form),
            contact => {
                self.edges.insert(name.text.to_uppercase(), contact);
            }
        }
        Some(out)
    }

    /// A variable that only remembers: it starts FALSE, nobody outside sees it, and beside the write to it only one
    /// statement mentions it.
    fn is_memory(&self, name: &str, stmt: &Stmt) -> bool {
        let var = self.context.variable(name);
        let fits = var.is_some_and(|v| {
            v.section == Section::Local
                && v.ty == Ty::BOOL
                && v.init == TInit::Default
                && v.retain != Retain::Retain
                && v.address.is_none()
                && v.global.is_none()
        });
        // The write to it is the other mention.
        fits && mentioned(std::slice::from_ref(stmt)).get(&name.to_ascii_uppercase()) == Some(&1)
    }
}

/// True if statements may leave the list they stand in.
fn leaves(list: &[Stmt]) -> bool {
    let mut found = false;
    each_statement(list, &mut |stmt| {
        found |= matches!(stmt.kind, StmtKind::Exit | StmtKind::Continue | StmtKind::Return);
    });
    found
}

fn mentions_twice(expr: &Expr, name: &str) -> bool {
    let mut n = 0;
    expr.roots(&mut |r| n += usize::from(r.eq_ignore_ascii_case(name)));
    n > 1
}

fn is_name(expr: &Expr, name: &str) -> bool {
    matches!(&expr.kind, ExprKind::Name(n) if n.text.eq_ignore_ascii_case(name))
}

fn inverted(expr: &Expr) -> Option<&Expr> {
    if let ExprKind::Unary(UnaryOp::Not, inner) = &expr.kind { Some(inner) } else { None }
}

/// The form of two conditions that ask for an edge of a value by a memory.
fn form(first: &Expr, second: &Expr, memory: &str, value: &Expr) -> Option<ContactForm> {
    if first == value && inverted(second).is_some_and(|s| is_name(s, memory)) {
        return Some(ContactForm::Rising);
    }
    if is_name(first, memory) && inverted(second) == Some(value) {
        return Some(ContactForm::Falling);
    }
    None
}

/// The condition with the memory's name in place of the two terms, where they stand in series and nothing negates
/// them.
fn contact(expr: &Expr, memory: &str, value: &Expr) -> Option<(Expr, ContactForm)> {
    if let ExprKind::Binary(BinaryOp::Or, left, right) = &expr.kind {
        let join = |left: Expr, right: Expr| Expr {
            kind: ExprKind::Binary(BinaryOp::Or, Box::new(left), Box::new(right)),
            span: expr.span,
        };
        if let Some((left, form)) = contact(left, memory, value) {
            return Some((join(left, (**right).clone()), form));
        }
        return contact(right, memory, value).map(|(right, form)| (join((**left).clone(), right), form));
    }
    let terms = spine(expr, BinaryOp::And);
    let mut out: Vec<Expr> = Vec::new();
    let mut found = None;
    let mut at = 0;
    while at < terms.len() {
        let here = terms.get(at + 1).and_then(|next| form(terms[at], next, memory, value));
        if let (Some(form), None) = (here, found) {
            found = Some(form);
            out.push(Expr::variable(memory, terms[at].span));
            at += 2;
            continue;
        }
        match (found, terms[at].kind.clone()) {
            (None, ExprKind::Binary(BinaryOp::Or, ..)) => match contact(terms[at], memory, value) {
                Some((inner, form)) => {
                    found = Some(form);
                    out.push(inner);
                }
                None => out.push(terms[at].clone()),
            },
            _ => out.push(terms[at].clone()),
        }
        at += 1;
    }
    let whole = out.into_iter().reduce(|a, b| {
        let span = a.span.to(b.span);
        Expr { kind: ExprKind::Binary(BinaryOp::And, Box::new(a), Box::new(b)), span }
    });
    whole.zip(found)
}

/// The form of a coil whose whole condition is the edge of a value.
fn whole(expr: &Expr, memory: &str, value: &Expr) -> Option<CoilForm> {
    let ExprKind::Binary(BinaryOp::And, first, second) = &expr.kind else { return None };
    if let ContactForm::Rising = form(first, second, memory, value)? {
        Some(CoilForm::Rising)
    } else {
        Some(CoilForm::Falling)
    }
}
