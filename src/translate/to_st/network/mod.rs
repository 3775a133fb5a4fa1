//! Networks of ladder and function block diagrams as straight code: what a wire carries becomes an expression that is
//! written where it is taken, as long as nothing it looks at is written before.

mod boxes;
mod ways;

use ways::{Carried, Term, all, parallel};

use super::simplify::{may_fault, negate, root, size};
use super::types::Types;
use super::{Additions, Line};
use crate::model::ops::BinaryOp;
use crate::model::{
    CoilForm, ContactForm, Edge, Element, ElementKind, Expr, ExprKind, Feed, Literal, LiteralValue, Name, Network,
    Notes, Stmt, StmtKind, TypeSpec, Wire,
};
use crate::source::Span;
use crate::translate::ledger::{Grade, KEPT_FOR_FAULT};
use std::collections::{BTreeMap, HashMap, HashSet};

/// An expression that several elements take is put into a variable when it has more parts than this.
const WORTH_A_VARIABLE: usize = 16;

pub(super) fn lines<'c>(additions: Additions<'c>, list: &[Network]) -> (Vec<Line>, Additions<'c>) {
    let types = Types::of(&additions.context.typed.code);
    let mut walker =
        Walker { additions, types, out: Vec::new(), notes: Notes::default(), number: 0, net: Net::default() };
    for (number, network) in list.iter().enumerate() {
        walker.network(number, network);
    }
    (walker.out, walker.additions)
}

/// The network at hand.
#[derive(Default)]
struct Net {
    wires: BTreeMap<Wire, Carried>,
    users: HashMap<Wire, Vec<usize>>,
    /// The conditional statement written last, and the power it stands for.
    open: Option<Wire>,
    /// What edge contacts must remember at the end: the memory, and what it remembers.
    memories: Vec<(Expr, Expr)>,
    /// Wires that lead back, with the variables that carry their values from scan to scan.
    back: HashMap<Wire, Expr>,
    /// Wires whose power only decides whether something runs: all of it becomes one IF.
    enabling: HashSet<Wire>,
    at: usize,
}

struct Walker<'c> {
    additions: Additions<'c>,
    /// Of what boxes compute that nothing takes.
    types: Types,
    out: Vec<Line>,
    notes: Notes,
    number: usize,
    net: Net,
}

fn is_true(expr: &Expr) -> bool {
    matches!(&expr.kind, ExprKind::Literal(Literal { value: LiteralValue::Bool(true), typed: None, .. }))
}

impl Walker<'_> {
    fn network(&mut self, number: usize, network: &Network) {
        self.number = number;
        self.net = Net::default();
        for (at, element) in network.elements.iter().enumerate() {
            element.kind.inputs(&mut |w| self.net.users.entry(w).or_default().push(at));
        }
        self.net.enabling = self
            .net
            .users
            .iter()
            .filter(|(w, users)| users.iter().all(|at| enables(&network.elements[*at].kind, **w)))
            .map(|(w, _)| *w)
            .collect();
        self.notes = network.notes.clone();
        self.notes.blank_before = true;
        let trailing = std::mem::take(&mut self.notes.trailing);
        self.notes.leading.extend(trailing);
        if let Some(label) = &network.label {
            self.out.push(Line::Label(label.text.to_uppercase()));
        }
        for (at, element) in network.elements.iter().enumerate() {
            self.net.at = at;
            self.element(network, element);
        }
        self.net.at = network.elements.len();
        self.remember(|_| true, network.span);
        if !self.notes.leading.is_empty() {
            self.statement(StmtKind::Empty, network.span);
        }
    }

    fn push(&mut self, kind: StmtKind, span: Span) {
        self.net.open = None;
        self.statement(kind, span);
    }

    fn statement(&mut self, kind: StmtKind, span: Span) {
        let notes = std::mem::take(&mut self.notes);
        self.out.push(Line::Stmt(Stmt { kind, span, notes }));
    }

    // What wires carry.

    fn carry(&mut self, wire: Wire, expr: Expr, power: Wire) {
        let terms = vec![Term::one(self.net.at, expr, wire)];
        self.carry_terms(wire, terms, power);
    }

    fn carry_terms(&mut self, wire: Wire, terms: Vec<Term>, power: Wire) {
        let Some(users) = self.net.users.get(&wire) else {
            if let Some(expr) = all(&terms).filter(may_fault) {
                self.kept_for_fault(wire, expr);
            }
            return;
        };
        let left = users.len();
        if let Some(held) = self.net.back.get(&wire).cloned() {
            // It was taken already: from now on it carries this, in the next scan too.
            let expr = all(&terms).unwrap_or_else(|| Expr::truth(true, self.additions.context.unit.name.span));
            let span = expr.span;
            let carried = self.net.wires.remove(&wire);
            self.assign(&held, expr, span);
            self.net.wires.extend(carried.map(|c| (wire, c)));
            return;
        }
        match self.net.wires.get_mut(&wire) {
            Some(there) => there.terms = parallel(std::mem::take(&mut there.terms), terms, wire),
            None => {
                self.net.wires.insert(wire, Carried { terms, left, power });
            }
        }
    }

    /// A value that nothing takes is still computed, for that may stop the scan.
    fn kept_for_fault(&mut self, wire: Wire, expr: Expr) {
        let span = expr.span;
        let spec = self.wire_spec(wire, span);
        let unused = self.unused_variable(spec, span);
        self.push(StmtKind::Assign(unused, expr), span);
    }

    /// A new variable for a value that nothing takes.
    fn unused_variable(&mut self, spec: TypeSpec, span: Span) -> Expr {
        let name = self.additions.namer.fresh("Unused");
        self.additions.added.push((name.clone(), spec));
        let reason = format!("`{name}` takes a value that nothing uses, because computing it can stop the scan");
        let entry = self.additions.context.entry(KEPT_FOR_FAULT, Grade::Exact, span, Some(name.clone()), reason);
        self.additions.ledger.push(entry);
        Expr::variable(name, span)
    }

    /// The type of a wire, as the checker found it.
    fn wire_spec(&self, wire: Wire, span: Span) -> TypeSpec {
        let name = crate::check::wire_name(self.number, wire);
        let context = self.additions.context;
        match context.variable(&name) {
            Some(var) => context.spec(&var.ty, span),
            None => TypeSpec::Elem(crate::model::Elem::Bool, span),
        }
    }

    /// A new variable for what a wire carries.
    fn wire_variable(&mut self, wire: Wire, kept: bool, why: &str, span: Span) -> Expr {
        let name = self.additions.namer.fresh("Wire");
        let spec = self.wire_spec(wire, span);
        if kept {
            self.additions.kept.push((name.clone(), spec));
        } else {
            self.additions.added.push((name.clone(), spec));
        }
        let entry = self.additions.context.added_entry(&name, why, span);
        self.additions.ledger.push(entry);
        Expr::variable(name, span)
    }

    /// Puts what a wire carries into a variable.
    fn hold(&mut self, wire: Wire, why: &str) {
        let Some(expr) = self.net.wires.get(&wire).and_then(|c| all(&c.terms)) else { return };
        let span = expr.span;
        let held = self.wire_variable(wire, false, why, span);
        self.push(StmtKind::Assign(held.clone(), expr), span);
        let at = self.net.at;
        if let Some(carried) = self.net.wires.get_mut(&wire) {
            carried.terms = vec![Term::one(at, held, wire)];
        }
    }

    /// What a wire carries, taken by one element.
    fn take(&mut self, wire: Wire, span: Span) -> Expr {
        all(&self.take_terms(wire, span)).unwrap_or_else(|| Expr::truth(true, span))
    }

    fn take_terms(&mut self, wire: Wire, span: Span) -> Vec<Term> {
        if wire == Wire::RAIL {
            return Vec::new();
        }
        if !self.net.wires.contains_key(&wire) {
            let why = "the wire leads back and carries the value of the scan before";
            let held = self.wire_variable(wire, true, why, span);
            let left = self.net.users.get(&wire).map_or(0, Vec::len);
            self.net.back.insert(wire, held.clone());
            let terms = vec![Term::one(self.net.at, held, wire)];
            self.net.wires.insert(wire, Carried { terms, left, power: wire });
        }
        let worth = self.net.wires.get(&wire).is_some_and(|c| {
            let parts: usize = c.terms.iter().flat_map(|t| &t.ways).map(|(_, e)| size(e) + 1).sum();
            c.left > 1 && parts > WORTH_A_VARIABLE && !self.net.enabling.contains(&wire)
        });
        if worth {
            self.hold(wire, "several elements take what this wire carries");
        }
        let Some(carried) = self.net.wires.get_mut(&wire) else { return Vec::new() };
        carried.left = carried.left.saturating_sub(1);
        carried.terms.clone()
    }

    /// The wire whose power a wire has.
    fn power(&self, wire: Wire) -> Wire {
        self.net.wires.get(&wire).map_or(wire, |c| c.power)
    }

    // What a statement disturbs.

    /// Before variables are written: what waits on wires and looks at them is put into variables.
    fn before_write(&mut self, written: &[String], opaque: bool) {
        let span = self.additions.context.unit.name.span;
        let hit = |expr: &Expr, locals: &dyn Fn(&str) -> bool| {
            let mut hit = false;
            expr.roots(&mut |r| hit |= written.iter().any(|w| w.eq_ignore_ascii_case(r)) || (opaque && !locals(r)));
            hit
        };
        let context = self.additions.context;
        let own = |name: &str| {
            context.typed.vars.iter().any(|v| v.name.eq_ignore_ascii_case(name) && v.global.is_none())
                && !context.typed.vars.iter().any(|v| v.section == crate::model::Section::InOut)
        };
        let remembered: Vec<bool> = self.net.memories.iter().map(|(_, of)| hit(of, &own)).collect();
        if remembered.contains(&true) {
            let mut flags = remembered.into_iter();
            self.remember(move |_| flags.next().unwrap_or(false), span);
        }
        let waiting: Vec<Wire> = self
            .net
            .wires
            .iter()
            .filter(|(_, c)| {
                let mut exprs = c.terms.iter().flat_map(|t| &t.ways).map(|(_, e)| e);
                c.left > 0 && exprs.any(|e| hit(e, &own) || may_fault(e))
            })
            .map(|(w, _)| *w)
            .collect();
        for wire in waiting {
            self.hold(wire, "what the wire carries is taken after something it looks at is written");
        }
    }

    /// Writes the memories of edge contacts that `which` picks.
    fn remember(&mut self, mut which: impl FnMut(&Expr) -> bool, span: Span) {
        let (now, later): (Vec<_>, Vec<_>) =
            std::mem::take(&mut self.net.memories).into_iter().partition(|(_, of)| which(of));
        self.net.memories = later;
        for (memory, of) in now {
            let name = root(&memory).unwrap_or_default().to_string();
            self.before_write(&[name], false);
            self.push(StmtKind::Assign(memory, of), span);
        }
    }

    fn assign(&mut self, target: &Expr, value: Expr, span: Span) {
        self.before_write(&[root(target).unwrap_or_default().to_string()], false);
        self.push(StmtKind::Assign(target.clone(), value), span);
    }

    /// Statements that run while a wire has power. What follows under the same power joins them.
    fn under(
        &mut self,
        power: Wire,
        condition: Expr,
        list: Vec<StmtKind>,
        written: &[String],
        opaque: bool,
        span: Span,
    ) {
        let held = self.out.len();
        self.before_write(written, opaque);
        let mut list: Vec<Stmt> = list.into_iter().map(|kind| Stmt { kind, span, notes: Notes::default() }).collect();
        if self.net.open == Some(power)
            && held == self.out.len()
            && let Some(Line::Stmt(Stmt { kind: StmtKind::If(branches, None), .. })) = self.out.last_mut()
            && let [(_, body)] = branches.as_mut_slice()
        {
            body.append(&mut list);
            return;
        }
        if is_true(&condition) {
            list.into_iter().for_each(|s| self.push(s.kind, span));
            return;
        }
        self.push(StmtKind::If(vec![(condition, list)], None), span);
        self.net.open = Some(power);
    }

    // Elements.

    fn element(&mut self, network: &Network, element: &Element) {
        let span = element.span;
        match &element.kind {
            ElementKind::Contact { form, operand, from, to } => {
                let value = match form {
                    ContactForm::Open => operand.clone(),
                    ContactForm::Closed => negate(operand),
                    ContactForm::Rising => self.edge(Edge::Rising, operand.clone(), span),
                    ContactForm::Falling => self.edge(Edge::Falling, operand.clone(), span),
                };
                self.conduct(*from, *to, value, span);
            }
            ElementKind::Compare { op, left, right, from, to } => {
                self.conduct(*from, *to, Expr::binary(*op, left.clone(), right.clone()).at(span), span);
            }
            ElementKind::Coil { form, target, from, .. } => self.coil(*form, target, *from, span),
            ElementKind::Source { value, to } => self.carry(*to, value.clone(), *to),
            ElementKind::Sink { target, from } => {
                let value = self.take(*from, span);
                self.assign(target, value, span);
            }
            ElementKind::Jump { label, from } => {
                let condition = self.leave(*from, span);
                let notes = std::mem::take(&mut self.notes);
                self.out.push(Line::Jump(condition, label.text.to_uppercase(), span, notes));
            }
            ElementKind::Return { from } => {
                let condition = self.leave(*from, span);
                let notes = std::mem::take(&mut self.notes);
                self.out.push(Line::Return(condition, span, notes));
            }
            ElementKind::Block(block) => match &block.instance {
                Some(instance) => self.instance(block, instance, span),
                None => self.function(network, block, span),
            },
        }
    }

    fn conduct(&mut self, from: Wire, to: Wire, value: Expr, span: Span) {
        let mut terms = self.take_terms(from, span);
        terms.push(Term::one(self.net.at, value, to));
        self.carry_terms(to, terms, to);
    }

    /// `now AND NOT before`, with a memory that is written at the end of the network.
    fn edge(&mut self, edge: Edge, now: Expr, span: Span) -> Expr {
        let memory = self.memory(&now, span);
        self.net.memories.push((memory.clone(), now.clone()));
        let (high, low) = edge.levels(now, memory);
        Expr::binary(BinaryOp::And, high, negate(&low)).at(span)
    }

    fn memory(&mut self, of: &Expr, span: Span) -> Expr {
        let name = self
            .additions
            .namer
            .fresh(&format!("{}Before", root(of).unwrap_or("Edge").trim_start_matches('%').replace('.', "_")));
        self.additions.kept.push((name.clone(), TypeSpec::Elem(crate::model::Elem::Bool, span)));
        let entry = self.additions.context.added_entry(&name, "it remembers the value of the scan before", span);
        self.additions.ledger.push(entry);
        Expr::variable(name, span)
    }

    /// Before control may go elsewhere: all that waits is settled.
    fn leave(&mut self, from: Wire, span: Span) -> Option<Expr> {
        let condition = self.take(from, span);
        let condition = if is_true(&condition) { None } else { Some(condition) };
        let pending = !self.net.memories.is_empty();
        let mut condition = condition;
        if pending && let Some(value) = condition.take() {
            // The memories are written before the jump, but the condition may look at them.
            let held = self.wire_variable(
                from,
                false,
                "the condition of the jump is decided before memories are written",
                span,
            );
            self.push(StmtKind::Assign(held.clone(), value), span);
            condition = Some(held);
        }
        self.remember(|_| true, span);
        self.before_write(&[], false);
        self.net.open = None;
        condition
    }

    fn coil(&mut self, form: CoilForm, target: &Expr, from: Wire, span: Span) {
        let power = self.power(from);
        let value = self.take(from, span);
        let written = [root(target).unwrap_or_default().to_string()];
        match form {
            CoilForm::Plain => self.assign(target, value, span),
            CoilForm::Negated => self.assign(target, negate(&value), span),
            CoilForm::Set | CoilForm::Reset => {
                let set = StmtKind::Assign(target.clone(), Expr::truth(form == CoilForm::Set, span));
                self.under(power, value, vec![set], &written, false, span);
            }
            CoilForm::Rising => self.edge_coil(Edge::Rising, target, (from, value), span),
            CoilForm::Falling => self.edge_coil(Edge::Falling, target, (from, value), span),
        }
    }

    /// A coil for the edge of the power that a wire carries.
    fn edge_coil(&mut self, edge: Edge, target: &Expr, (from, mut now): (Wire, Expr), span: Span) {
        let memory = self.memory(target, span);
        let written = root(target).unwrap_or_default();
        let mut looks = false;
        now.roots(&mut |r| looks |= r.eq_ignore_ascii_case(written));
        if looks || size(&now) > WORTH_A_VARIABLE {
            let held = self.wire_variable(from, false, "the power is looked at twice", span);
            self.push(StmtKind::Assign(held.clone(), now), span);
            now = held;
        }
        let (high, low) = edge.levels(now.clone(), memory.clone());
        self.assign(target, Expr::binary(BinaryOp::And, high, negate(&low)).at(span), span);
        self.push(StmtKind::Assign(memory, now), span);
    }
}

/// True if a wire only decides whether an element acts.
fn enables(kind: &ElementKind, wire: Wire) -> bool {
    match kind {
        ElementKind::Coil { form, .. } => matches!(form, CoilForm::Set | CoilForm::Reset),
        ElementKind::Block(block) => {
            block.inputs.iter().all(|p| p.feed != Feed::Wire(wire) || (is_named(p.name.as_ref(), "EN") && !p.negated))
        }
        ElementKind::Contact { .. }
        | ElementKind::Compare { .. }
        | ElementKind::Source { .. }
        | ElementKind::Sink { .. }
        | ElementKind::Jump { .. }
        | ElementKind::Return { .. } => false,
    }
}

fn is_named(name: Option<&Name>, what: &str) -> bool {
    name.is_some_and(|n| n.text.eq_ignore_ascii_case(what))
}
