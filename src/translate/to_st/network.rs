//! Networks of ladder and function block diagrams as straight code: what a wire carries becomes an expression that is
//! written where it is taken, as long as nothing it looks at is written before.

use super::simplify::{may_fault, negate, root, roots, size};
use super::{Additions, Line};
use crate::model::functions::{Function, Parameters};
use crate::model::ops::BinaryOp;
use crate::model::{
    Arg, Block, Call, CoilForm, ContactForm, Element, ElementKind, Expr, ExprKind, Feed, InPin, Literal, LiteralValue,
    Name, Network, Notes, Operand, OutPin, Stmt, StmtKind, TypeSpec, Wire,
};
use crate::source::Span;
use crate::translate::ledger::{ADDED_VARIABLE, Grade, KEPT_FOR_FAULT};
use crate::translate::names::variable;
use std::collections::{BTreeMap, HashMap};

/// An expression that several elements take is put into a variable when it has more parts than this.
const WORTH_A_VARIABLE: usize = 16;

pub(super) fn lines<'c>(additions: Additions<'c>, list: &[Network]) -> (Vec<Line>, Additions<'c>) {
    let mut walker = Walker { additions, out: Vec::new(), notes: Notes::default(), number: 0, net: Net::default() };
    for (number, network) in list.iter().enumerate() {
        walker.network(number, network);
    }
    (walker.out, walker.additions)
}

/// A condition on the way to a wire: one contact, or what leads from one wire to another on several ways.
#[derive(Clone)]
struct Term {
    /// The ways, each with the number of its first element, which says which stands above which.
    ways: Vec<(usize, Expr)>,
    /// The wire behind it.
    behind: Wire,
}

impl Term {
    fn one(at: usize, expr: Expr, behind: Wire) -> Term {
        Term { ways: vec![(at, expr)], behind }
    }

    fn expr(&self) -> Expr {
        let ways = self.ways.iter().map(|(_, e)| e.clone());
        ways.reduce(|a, b| {
            let span = a.span.to(b.span);
            binary(BinaryOp::Or, a, b, span)
        })
        .unwrap_or_else(|| truth(false, Span { file: crate::source::FileId(0), start: 0, end: 0 }))
    }

    fn first(&self) -> usize {
        self.ways.first().map_or(0, |(at, _)| *at)
    }
}

fn all(terms: &[Term]) -> Option<Expr> {
    terms.iter().map(Term::expr).reduce(|a, b| {
        let span = a.span.to(b.span);
        binary(BinaryOp::And, a, b, span)
    })
}

/// What a wire carries.
struct Carried {
    /// The conditions on the way from the rail, or the one value.
    terms: Vec<Term>,
    /// How many elements have not taken it yet.
    left: usize,
    /// The wire whose power this is: behind EN and ENO it is the same.
    power: Wire,
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
    at: usize,
}

struct Walker<'c> {
    additions: Additions<'c>,
    out: Vec<Line>,
    notes: Notes,
    number: usize,
    net: Net,
}

fn make(kind: ExprKind, span: Span) -> Expr {
    Expr { kind, span }
}

pub(super) fn truth(value: bool, span: Span) -> Expr {
    let text = if value { "TRUE" } else { "FALSE" };
    let literal = Literal { text: text.to_string(), typed: None, value: LiteralValue::Bool(value) };
    make(ExprKind::Literal(literal), span)
}

fn is_true(expr: &Expr) -> bool {
    matches!(&expr.kind, ExprKind::Literal(Literal { value: LiteralValue::Bool(true), typed: None, .. }))
}

fn binary(op: BinaryOp, left: Expr, right: Expr, span: Span) -> Expr {
    make(ExprKind::Binary(op, Box::new(left), Box::new(right)), span)
}

impl Walker<'_> {
    fn network(&mut self, number: usize, network: &Network) {
        self.number = number;
        self.net = Net::default();
        for (at, element) in network.elements.iter().enumerate() {
            element.kind.inputs(&mut |w| self.net.users.entry(w).or_default().push(at));
        }
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
        let name = self.additions.namer.fresh("Unused");
        self.additions.added.push((name.clone(), self.wire_spec(wire, span)));
        let reason = format!("`{name}` takes a value that nothing uses, because computing it can stop the scan");
        let entry = self.additions.context.entry(KEPT_FOR_FAULT, Grade::Exact, span, Some(name.clone()), reason);
        self.additions.ledger.push(entry);
        self.push(StmtKind::Assign(variable(name, span), expr), span);
    }

    /// The type of a wire, as the checker found it.
    fn wire_spec(&self, wire: Wire, span: Span) -> TypeSpec {
        let name = crate::check::wire_name(self.number, wire);
        let context = self.additions.context;
        match context.typed.vars.iter().find(|v| v.name == name) {
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
        let reason = format!("`{name}` was added: {why}");
        let entry = self.additions.context.entry(ADDED_VARIABLE, Grade::Exact, span, Some(name.clone()), reason);
        self.additions.ledger.push(entry);
        variable(name, span)
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
        all(&self.take_terms(wire, span)).unwrap_or_else(|| truth(true, span))
    }

    fn take_terms(&mut self, wire: Wire, span: Span) -> Vec<Term> {
        if wire == Wire::RAIL {
            return Vec::new();
        }
        if !self.net.wires.contains_key(&wire) {
            let why = "the wire leads back and carries the value of the scan before";
            let held = self.wire_variable(wire, true, why, span);
            let left = self.net.users.get(&wire).map_or(0, Vec::len);
            let terms = vec![Term::one(self.net.at, held, wire)];
            self.net.wires.insert(wire, Carried { terms, left, power: wire });
        }
        let worth = self.net.wires.get(&wire).is_some_and(|c| {
            let parts: usize = c.terms.iter().flat_map(|t| &t.ways).map(|(_, e)| size(e) + 1).sum();
            c.left > 1 && parts > WORTH_A_VARIABLE
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
            roots(expr, &mut |r| hit |= written.iter().any(|w| w.eq_ignore_ascii_case(r)) || (opaque && !locals(r)));
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
    fn under(&mut self, power: Wire, condition: Expr, list: Vec<StmtKind>, written: &[String], opaque: bool, span: Span) {
        let held = self.out.len();
        self.before_write(written, opaque);
        let mut list: Vec<Stmt> =
            list.into_iter().map(|kind| Stmt { kind, span, notes: Notes::default() }).collect();
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
                    ContactForm::Rising | ContactForm::Falling => {
                        self.edge(*form == ContactForm::Rising, operand.clone(), span)
                    }
                };
                self.conduct(*from, *to, value, span);
            }
            ElementKind::Compare { op, left, right, from, to } => {
                self.conduct(*from, *to, binary(*op, left.clone(), right.clone(), span), span);
            }
            ElementKind::Coil { form, target, from } => self.coil(*form, target, *from, span),
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
    fn edge(&mut self, rising: bool, now: Expr, span: Span) -> Expr {
        let memory = self.memory(&now, span);
        self.net.memories.push((memory.clone(), now.clone()));
        let (high, low) = if rising { (now, memory) } else { (memory, now) };
        binary(BinaryOp::And, high, negate(&low), span)
    }

    fn memory(&mut self, of: &Expr, span: Span) -> Expr {
        let name = self.additions.namer.fresh(&format!("{}Before", root(of).unwrap_or("Edge").trim_start_matches('%').replace('.', "_")));
        self.additions.kept.push((name.clone(), TypeSpec::Elem(crate::model::Elem::Bool, span)));
        let reason = format!("`{name}` was added: it remembers the value of the scan before");
        let entry = self.additions.context.entry(ADDED_VARIABLE, Grade::Exact, span, Some(name.clone()), reason);
        self.additions.ledger.push(entry);
        variable(name, span)
    }

    /// Before control may go elsewhere: all that waits is settled.
    fn leave(&mut self, from: Wire, span: Span) -> Option<Expr> {
        let condition = self.take(from, span);
        let condition = if from == Wire::RAIL { None } else { Some(condition) };
        let pending = !self.net.memories.is_empty();
        let mut condition = condition;
        if pending && let Some(value) = condition.take() {
            // The memories are written before the jump, but the condition may look at them.
            let held = self.wire_variable(from, false, "the condition of the jump is decided before memories are written", span);
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
                let set = StmtKind::Assign(target.clone(), truth(form == CoilForm::Set, span));
                self.under(power, value, vec![set], &written, false, span);
            }
            CoilForm::Rising | CoilForm::Falling => {
                let memory = self.memory(target, span);
                let rising = form == CoilForm::Rising;
                let mut looks = false;
                roots(&value, &mut |r| looks |= r.eq_ignore_ascii_case(&written[0]));
                let mut now = value;
                if looks || size(&now) > WORTH_A_VARIABLE {
                    let held = self.wire_variable(from, false, "the power is looked at twice", span);
                    self.push(StmtKind::Assign(held.clone(), now), span);
                    now = held;
                }
                let (high, low) = if rising { (now.clone(), memory.clone()) } else { (memory.clone(), now.clone()) };
                self.assign(target, binary(BinaryOp::And, high, negate(&low), span), span);
                self.push(StmtKind::Assign(memory, now), span);
            }
        }
    }

    /// What an input takes.
    fn input(&mut self, pin: &InPin, span: Span) -> Option<Expr> {
        let value = match &pin.feed {
            Feed::Open => return None,
            Feed::Wire(wire) => self.take(*wire, span),
            Feed::Value(value) => value.clone(),
        };
        Some(if pin.negated { negate(&value) } else { value })
    }

    /// The condition of EN and the power it stands for, if it is wired.
    fn enable(&mut self, block: &Block, span: Span) -> Option<(Wire, Expr)> {
        let pin = block.input("EN").filter(|p| p.feed != Feed::Open)?.clone();
        let power = match pin.feed {
            Feed::Wire(wire) if !pin.negated => self.power(wire),
            // Nothing else stands under a power of its own.
            _ => Wire(u32::MAX - self.net.at as u32),
        };
        self.input(&pin, span).map(|condition| (power, condition))
    }

    /// ENO carries what EN does.
    fn enabled(&mut self, block: &Block, enable: &Option<(Wire, Expr)>, span: Span) {
        let Some(pin) = block.output("ENO").cloned() else { return };
        let (power, value) = enable.clone().unwrap_or((Wire::RAIL, truth(true, span)));
        let value = if pin.negated { negate(&value) } else { value };
        if let Some(wire) = pin.to {
            self.carry(wire, value, if pin.negated { wire } else { power });
        } else if let Some(target) = &pin.target {
            self.assign(target, value, span);
        }
    }

    fn instance(&mut self, block: &Block, instance: &Expr, span: Span) {
        let enable = self.enable(block, span);
        let mut args = Vec::new();
        let mut written = vec![root(instance).unwrap_or_default().to_string()];
        for pin in block.inputs.iter().filter(|p| !is_named(p.name.as_ref(), "EN")) {
            let Some(value) = self.input(pin, span) else { continue };
            // What is handed on by VAR_IN_OUT is written, for all that can be seen here.
            written.extend(root(&value).map(str::to_string));
            let value = Operand::Expr(value);
            args.push(pin.name.clone().map_or(Arg::Plain(value.clone()), |name| Arg::Input(name, value)));
        }
        let mut later = Vec::new();
        for pin in &block.outputs {
            let Some(name) = pin.name.clone().filter(|n| !is_named(Some(n), "ENO")) else { continue };
            if let Some(target) = &pin.target {
                written.extend(root(target).map(str::to_string));
                args.push(Arg::Output { name: name.clone(), negated: pin.negated, target: target.clone() });
            }
            if let Some(wire) = pin.to {
                later.push((wire, name, pin.negated));
            }
        }
        self.enabled(block, &enable, span);
        let call = StmtKind::Call(Call { callee: instance.clone(), args, span });
        let (power, condition) = enable.unwrap_or((Wire::RAIL, truth(true, span)));
        let opaque = !self.additions.context.is_shipped_block(&block.name.text);
        self.under(power, condition, vec![call], &written, opaque, span);
        for (wire, name, negated) in later {
            let field = make(ExprKind::Field(Box::new(instance.clone()), name), span);
            let field = if negated { negate(&field) } else { field };
            self.carry(wire, field, wire);
        }
    }

    fn function(&mut self, network: &Network, block: &Block, span: Span) {
        let enable = self.enable(block, span);
        let (mut values, mut outputs): (Vec<&OutPin>, Vec<Arg>) = (Vec::new(), Vec::new());
        let mut written = Vec::new();
        for pin in &block.outputs {
            match &pin.name {
                Some(name) if is_named(Some(name), "ENO") => {}
                Some(name) if !is_named(Some(name), "OUT") && *name != block.name => {
                    let target = match (&pin.target, pin.to) {
                        (Some(target), _) => target.clone(),
                        (None, Some(wire)) => {
                            let why = "an output of a function that a wire hands on";
                            let held = self.wire_variable(wire, true, why, span);
                            self.carry(wire, held.clone(), wire);
                            held
                        }
                        (None, None) => continue,
                    };
                    written.extend(root(&target).map(str::to_string));
                    outputs.push(Arg::Output { name: name.clone(), negated: pin.negated, target });
                }
                _ => values.push(pin),
            }
        }
        let mut expr = self.value(block, outputs, span);
        self.enabled(block, &enable, span);
        let pin = values.first().copied();
        if pin.is_some_and(|p| p.negated) {
            expr = negate(&expr);
        }
        let opaque = !is_pure(&block.name.text);
        match (enable, pin.and_then(|p| p.target.clone()), pin.and_then(|p| p.to)) {
            (None, Some(target), _) => {
                written.extend(root(&target).map(str::to_string));
                self.before_write(&written, opaque);
                self.push(StmtKind::Assign(target, expr), span);
            }
            (None, None, Some(wire)) if !opaque => self.carry(wire, expr, wire),
            (None, None, Some(wire)) => {
                self.before_write(&written, true);
                self.carry(wire, expr, wire);
                self.hold(wire, "a function is called where its box stands");
            }
            (Some((power, condition)), Some(target), _) => {
                written.extend(root(&target).map(str::to_string));
                self.under(power, condition, vec![StmtKind::Assign(target, expr)], &written, opaque, span);
            }
            (Some((power, _)), None, Some(wire)) if !opaque && self.all_under(network, wire, power) => {
                self.carry(wire, expr, wire);
            }
            (Some((power, condition)), None, Some(wire)) => {
                let why = "the output of a box keeps its value while the box is not enabled";
                let held = self.wire_variable(wire, true, why, span);
                written.extend(root(&held).map(str::to_string));
                let assign = StmtKind::Assign(held.clone(), expr);
                self.under(power, condition, vec![assign], &written, opaque, span);
                self.carry(wire, held, wire);
            }
            (enable, None, None) => self.without_output(block, expr, enable, opaque, span),
        }
    }

    /// A value that nothing takes.
    fn without_output(&mut self, block: &Block, expr: Expr, enable: Option<(Wire, Expr)>, opaque: bool, span: Span) {
        let (power, condition) = enable.unwrap_or((Wire::RAIL, truth(true, span)));
        match expr.kind {
            ExprKind::Call(call) if opaque => {
                self.under(power, condition, vec![StmtKind::Call(*call)], &[], true, span);
            }
            _ if may_fault(&expr) => {
                let name = self.additions.namer.fresh("Unused");
                let ty = self.additions.context.function_type(&block.name.text);
                self.additions.added.push((name.clone(), ty.unwrap_or(TypeSpec::Elem(crate::model::Elem::Int, span))));
                let assign = StmtKind::Assign(variable(name, span), expr);
                self.under(power, condition, vec![assign], &[], false, span);
            }
            _ => {}
        }
    }

    /// True if everything that takes a wire is a box that runs under the same power: it never sees the value that the
    /// wire keeps while there is none.
    fn all_under(&self, network: &Network, wire: Wire, power: Wire) -> bool {
        if power == Wire::RAIL {
            return true;
        }
        self.net.users.get(&wire).is_some_and(|users| {
            users.iter().all(|user| match &network.elements[*user].kind {
                ElementKind::Block(block) if *user > self.net.at => block
                    .input("EN")
                    .is_some_and(|p| !p.negated && matches!(p.feed, Feed::Wire(w) if self.power(w) == power)),
                _ => false,
            })
        })
    }

    /// The value of a function, written as an operator where there is one.
    fn value(&mut self, block: &Block, outputs: Vec<Arg>, span: Span) -> Expr {
        let mut inputs = Vec::new();
        for pin in block.inputs.iter().filter(|p| !is_named(p.name.as_ref(), "EN")) {
            if let Some(value) = self.input(pin, span) {
                inputs.push((pin.name.clone(), value));
            }
        }
        let name = if block.name.text == "&" { "AND" } else { &block.name.text };
        let function = Function::from_name(name).filter(|_| !self.additions.context.is_unit(name));
        if let Some(function) = function
            && let Some(values) = in_order(function.parameters(), &inputs)
        {
            match function {
                Function::Operator(op) if values.len() == 2 || (values.len() > 2 && !op.is_comparison()) => {
                    let joined = values.into_iter().reduce(|a, b| binary(op, a, b, span));
                    return joined.unwrap_or_else(|| truth(false, span));
                }
                Function::Not if values.len() == 1 => return negate(&values[0]),
                Function::Move if values.len() == 1 => return values[0].clone(),
                _ => {}
            }
            let args = values.into_iter().map(|v| Arg::Plain(Operand::Expr(v))).collect();
            let callee = make(ExprKind::Name(block.name.clone()), block.name.span);
            return make(ExprKind::Call(Box::new(Call { callee, args, span })), span);
        }
        let args = inputs.into_iter().map(|(name, value)| {
            let value = Operand::Expr(value);
            name.map_or(Arg::Plain(value.clone()), |name| Arg::Input(name, value))
        });
        let callee = make(ExprKind::Name(block.name.clone()), block.name.span);
        let args = args.chain(outputs).collect();
        make(ExprKind::Call(Box::new(Call { callee, args, span })), span)
    }
}

/// Two ways to one wire. What they have in common stands once; the rest stands beside each other, the upper first.
fn parallel(a: Vec<Term>, b: Vec<Term>, to: Wire) -> Vec<Term> {
    let joined = |terms: &[Term]| terms.last().is_some_and(|t| t.ways.len() > 1 && t.behind == to);
    let limit = a.len().saturating_sub(1).min(b.len().saturating_sub(1));
    let same = (0..limit).take_while(|at| a[*at].behind == b[*at].behind).count();
    let mut ways: Vec<(usize, Expr)> = Vec::new();
    for terms in [&a[same..], &b[same..]] {
        match terms {
            // Ways that are beside each other already.
            [only] if joined(terms) => ways.extend(only.ways.iter().cloned()),
            _ => ways.extend(all(terms).map(|e| (terms[0].first(), e))),
        }
    }
    ways.sort_by_key(|(at, _)| *at);
    let mut out = a[..same].to_vec();
    out.push(Term { ways, behind: to });
    out
}

/// The values of a standard function's inputs by position, if none is missing.
fn in_order(parameters: Parameters, inputs: &[(Option<Name>, Expr)]) -> Option<Vec<Expr>> {
    let mut out: Vec<Option<Expr>> = vec![None; inputs.len()];
    for (at, (name, value)) in inputs.iter().enumerate() {
        let at = match name {
            Some(name) => parameters.position(&name.text)?,
            None => at,
        };
        *out.get_mut(at)? = Some(value.clone());
    }
    out.into_iter().collect()
}

fn is_named(name: Option<&Name>, what: &str) -> bool {
    name.is_some_and(|n| n.text.eq_ignore_ascii_case(what))
}

/// A standard function touches nothing but its inputs.
fn is_pure(name: &str) -> bool {
    name == "&" || Function::from_name(name).is_some()
}
