//! Structured text to networks. Ladder: conditions become contacts in series and parallel ([`logic`]), assignments
//! coils, values boxes with EN ([`value`]); branches become enabling conditions where that is the same, and labels and
//! jumps where it is not ([`flow`]). A function block diagram says the same with boxes only.

mod edges;
mod flow;
mod idle;
mod latch;
mod logic;
mod value;

use super::ledger::Entry;
use super::names::Namer;
use super::{Context, Translated};
use crate::check::typed::{Code, TStmt, TStmtKind, Ty, UnitId};
use crate::check::walk::walk_block;
use crate::lang::{DrawnStyle, Language};
use crate::model::{
    Body, CoilForm, Comment, Element, ElementKind, Expr, ExprKind, Feed, LiteralValue, Name, Network, Notes, OutPin,
    Stmt, StmtKind, TypeSpec, Wire,
};
use crate::source::{FileId, Span};
use std::collections::HashMap;

/// Translates the statements of a unit.
pub(super) fn body(context: &Context<'_>, namer: Namer, list: &[Stmt], to: Language) -> Translated {
    let style = if to == Language::Ld { DrawnStyle::Ladder } else { DrawnStyle::Blocks };
    let mut typed = HashMap::new();
    let mut types = HashMap::new();
    if let Code::Block(block) = &context.typed.code {
        super::index(block, &mut typed);
        // Outer ones first: where a widening stands at the same place, the value itself has the last word.
        walk_block(block, &mut |expr| {
            types.insert(expr.span, expr.ty.clone());
        });
    }
    let mut writer = DiagramWriter {
        context,
        namer,
        style,
        callees: super::callees(&typed),
        typed,
        types,
        out: Vec::new(),
        open: None,
        labels: Vec::new(),
        notes: Notes::default(),
        loops: Vec::new(),
        added: Vec::new(),
        kept: Vec::new(),
        removed: Vec::new(),
        edges: HashMap::new(),
        mentioned: edges::mentioned(list),
        writers: latch::writers(list),
        coil_edge: None,
        ledger: Vec::new(),
    };
    writer.statements(list);
    writer.finish();
    let networks = std::mem::take(&mut writer.out);
    let body = if style == DrawnStyle::Ladder { Body::Ladder(networks) } else { Body::Blocks(networks) };
    let DiagramWriter { added, kept, removed, ledger, .. } = writer;
    Translated { body, added, kept, removed, ledger }
}

/// The labels of a loop around the code at hand.
struct LoopLabels {
    exit: String,
    next: String,
    next_used: bool,
}

/// A network that is being drawn.
#[derive(Default)]
struct Open {
    elements: Vec<Element>,
    wires: u32,
    /// Conditions drawn from the rail on: where they begin, what they ask, and the wire behind them.
    known: Vec<(Wire, Expr, Wire)>,
    /// Blocks called in this network, by their element.
    called: Vec<(Expr, usize)>,
    label: Option<Name>,
    notes: Notes,
    span: Option<Span>,
}

struct DiagramWriter<'c> {
    context: &'c Context<'c>,
    namer: Namer,
    style: DrawnStyle,
    typed: HashMap<Span, &'c TStmt>,
    callees: HashMap<(FileId, u32), UnitId>,
    types: HashMap<Span, Ty>,
    out: Vec<Network>,
    open: Option<Open>,
    /// Labels that wait for the next network.
    labels: Vec<(String, Span)>,
    /// Comments that wait for the next network.
    notes: Notes,
    loops: Vec<LoopLabels>,
    added: Vec<(String, TypeSpec)>,
    /// Instances that are needed, which keep what they are.
    kept: Vec<(String, TypeSpec)>,
    /// Variables that are needed no more.
    removed: Vec<String>,
    /// Memories that stand for edge contacts.
    edges: HashMap<String, edges::Edge>,
    /// How often the unit mentions each name, in capitals.
    mentioned: HashMap<String, usize>,
    /// In how many places the unit may write each name, in capitals.
    writers: HashMap<String, usize>,
    /// The coil drawn next asks for an edge.
    coil_edge: Option<CoilForm>,
    ledger: Vec<Entry>,
}

impl DiagramWriter<'_> {
    fn is_ladder(&self) -> bool {
        self.style == DrawnStyle::Ladder
    }

    // Networks.

    /// Begins a network with the labels and comments that wait.
    fn begin(&mut self, span: Span) {
        self.close();
        let last = self.labels.pop();
        for (text, span) in std::mem::take(&mut self.labels) {
            let label = Some(Name::new(text, span));
            self.out.push(Network { label, elements: Vec::new(), span, notes: Notes::default() });
        }
        let label = last.map(|(text, span)| Name::new(text, span));
        let notes = std::mem::take(&mut self.notes);
        self.open = Some(Open { wires: 1, label, notes, span: Some(span), ..Open::default() });
    }

    fn close(&mut self) {
        let Some(open) = self.open.take() else { return };
        let span = open.span.unwrap_or(self.context.unit.name.span);
        let mut network = Network { label: open.label, elements: open.elements, span, notes: open.notes };
        network.notes.blank_before = true;
        let says = |n: &Network| !n.elements.is_empty() || n.label.is_some() || !n.notes.leading.is_empty();
        self.out.extend(idle::parts(network).into_iter().filter(says));
    }

    fn finish(&mut self) {
        self.close();
        if !self.labels.is_empty() || !self.notes.leading.is_empty() {
            self.begin(self.context.unit.name.span);
            self.close();
        }
    }

    fn net(&mut self) -> &mut Open {
        self.open.get_or_insert_with(|| Open { wires: 1, ..Open::default() })
    }

    fn new_wire(&mut self) -> Wire {
        let open = self.net();
        open.wires += 1;
        Wire(open.wires - 1)
    }

    fn element(&mut self, kind: ElementKind, span: Span) {
        self.net().elements.push(Element { kind, span, at: None, kept: Vec::new() });
    }

    /// Forgets what is known of conditions and blocks that look at a variable that is now written.
    fn wrote(&mut self, target: &Expr) {
        let Some(root) = super::to_st::root(target).map(str::to_string) else { return };
        if let Some(open) = &mut self.open {
            open.known.retain(|(_, term, _)| !super::to_st::mentions(term, &root));
            open.called.retain(|(instance, _)| !super::to_st::mentions(instance, &root));
        }
    }

    /// Forgets all that is known: code ran that may have written anything.
    fn wrote_anything(&mut self) {
        if let Some(open) = &mut self.open {
            open.known.clear();
            open.called.clear();
        }
    }

    fn take_notes(&mut self, notes: &Notes) {
        self.notes.leading.extend(notes.leading.iter().cloned());
        self.notes.leading.extend(notes.trailing.iter().cloned());
    }

    fn add_comments(&mut self, comments: &[Comment]) {
        self.net().notes.leading.extend(comments.iter().cloned());
    }

    fn place_label(&mut self, text: String, span: Span) {
        self.close();
        self.labels.push((text, span));
    }

    /// A variable that holds a value the drawing cannot keep.
    fn added(&mut self, base: &str, spec: TypeSpec, why: &str, span: Span) -> Expr {
        let text = self.namer.fresh(base);
        self.added.push((text.clone(), spec));
        let entry = self.context.added_entry(&text, why, span);
        self.ledger.push(entry);
        Expr::variable(text, span)
    }

    /// An instance of a block of the standard.
    fn instance(&mut self, base: &str, block: &str, why: &str, span: Span) -> Expr {
        let text = self.namer.fresh(base);
        self.kept.push((text.clone(), TypeSpec::Named(Name::new(block, span))));
        let entry = self.context.added_entry(&text, why, span);
        self.ledger.push(entry);
        Expr::variable(text, span)
    }

    // Statements.

    fn statements(&mut self, list: &[Stmt]) {
        let list = self.without_memories(list);
        let mut drawn = None;
        for (at, stmt) in list.iter().enumerate() {
            if drawn == Some(at) {
                continue;
            }
            let fresh = stmt.notes.blank_before || !stmt.notes.leading.is_empty();
            if matches!(stmt.kind, StmtKind::Empty) {
                self.take_notes(&stmt.notes);
                if !self.notes.leading.is_empty() {
                    self.begin(stmt.span);
                    self.close();
                }
                continue;
            }
            if let Some(next) = list.get(at + 1)
                && !self.is_ladder()
            {
                let notes = self.notes.clone();
                self.take_notes(&stmt.notes);
                if self.latched(stmt, next) {
                    drawn = Some(at + 1);
                    continue;
                }
                self.notes = notes;
            }
            let joins = !fresh && self.labels.is_empty() && self.joins(stmt);
            self.take_notes(&stmt.notes);
            if joins {
                let comments = std::mem::take(&mut self.notes.leading);
                self.add_comments(&comments);
            }
            self.statement(stmt, joins);
        }
    }

    /// True if a statement goes on in the network above: it begins with a condition that is drawn there.
    fn joins(&self, stmt: &Stmt) -> bool {
        let Some(open) = &self.open else { return false };
        let first = match &stmt.kind {
            StmtKind::Assign(_, value) if literal_bool(value).is_some() => return false,
            StmtKind::Assign(_, value) if self.is_bool(value) => logic::under_not(value),
            StmtKind::If(branches, None) if branches.len() == 1 && self.is_flat(stmt) => &branches[0].0,
            StmtKind::Assign(_, value) if !self.is_ladder() => value,
            StmtKind::Empty
            | StmtKind::Assign(..)
            | StmtKind::Call(_)
            | StmtKind::If(..)
            | StmtKind::Case(..)
            | StmtKind::For(..)
            | StmtKind::While(..)
            | StmtKind::Repeat(..)
            | StmtKind::Exit
            | StmtKind::Continue
            | StmtKind::Return => return false,
        };
        if self.is_ladder() {
            let first = logic::first_term(first);
            return open.known.iter().any(|(from, term, _)| *from == Wire::RAIL && *term == first)
                || self.output_of(&first).is_some();
        }
        // Code that may write anything would part what is drawn before it from what comes behind.
        if self.calls_open_code(first) {
            return false;
        }
        let mut found = false;
        logic::fields(first, &mut |field| found |= self.output_of(field).is_some());
        found
    }

    /// True if an expression calls a function that may touch more than what it is given.
    fn calls_open_code(&self, expr: &Expr) -> bool {
        let mut found = false;
        logic::calls(expr, &mut |name| found |= self.context.is_unit(name) && !self.context.is_closed(name));
        found
    }

    fn statement(&mut self, stmt: &Stmt, joins: bool) {
        let span = stmt.span;
        match &stmt.kind {
            StmtKind::Empty => {}
            StmtKind::Assign(target, value) => {
                if !joins {
                    self.begin(span);
                }
                self.assign(target, value, None, span);
            }
            StmtKind::Call(call) => {
                self.begin(span);
                self.call(call, None);
            }
            StmtKind::If(branches, otherwise) => {
                self.conditional(stmt, branches, otherwise.as_deref(), joins);
            }
            StmtKind::Case(selector, branches, otherwise) => self.case(selector, branches, otherwise.as_deref(), span),
            StmtKind::For(head, body) => self.for_loop(head, body, span),
            StmtKind::While(condition, body) => self.while_loop(condition, body, span),
            StmtKind::Repeat(body, condition) => self.repeat_loop(body, condition, span),
            StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {
                self.begin(span);
                self.leave(&stmt.kind, Wire::RAIL, span);
            }
        }
    }

    /// EXIT, CONTINUE or RETURN while a wire has power.
    fn leave(&mut self, kind: &StmtKind, power: Wire, span: Span) {
        let to = match (kind, self.loops.last_mut()) {
            (StmtKind::Exit, Some(inner)) => inner.exit.clone(),
            (StmtKind::Continue, Some(inner)) => {
                inner.next_used = true;
                inner.next.clone()
            }
            _ => {
                let from = self.power_source(power, span);
                self.element(ElementKind::Return { from }, span);
                return;
            }
        };
        self.jump(power, &to, span);
    }

    fn jump(&mut self, power: Wire, to: &str, span: Span) {
        let from = self.power_source(power, span);
        self.element(ElementKind::Jump { label: Name::new(to, span), from }, span);
    }

    /// The wire itself; where there is no rail, a TRUE stands for it.
    fn power_source(&mut self, power: Wire, span: Span) -> Wire {
        if power != Wire::RAIL || self.is_ladder() {
            return power;
        }
        let to = self.new_wire();
        self.element(ElementKind::Source { value: Expr::truth(true, span), to }, span);
        to
    }

    /// An assignment, in any case or while a wire has power.
    fn assign(&mut self, target: &Expr, value: &Expr, power: Option<Wire>, span: Span) {
        let is_bool = matches!(self.typed.get(&span).map(|t| &t.kind), Some(TStmtKind::Assign(place, _)) if place.ty == Ty::BOOL)
            || self.is_bool(value);
        let literal = literal_bool(value);
        match (power, literal) {
            (Some(power), Some(set)) if self.is_ladder() => {
                let form = if set { CoilForm::Set } else { CoilForm::Reset };
                self.element(ElementKind::Coil { form, target: target.clone(), from: power, drive: None }, span);
            }
            (None, Some(set)) if self.is_ladder() => {
                let form = if set { CoilForm::Plain } else { CoilForm::Negated };
                self.element(ElementKind::Coil { form, target: target.clone(), from: Wire::RAIL, drive: None }, span);
            }
            (None, _) if self.is_ladder() && is_bool => self.coil(target, value, span),
            (None, _) if !self.is_ladder() => self.drawn_assignment(target, value, span),
            _ => self.boxed_assignment(target, value, power, span),
        }
        self.wrote(target);
    }

    /// A box with EN that writes a variable.
    fn boxed_assignment(&mut self, target: &Expr, value: &Expr, power: Option<Wire>, span: Span) {
        let mut block = self.block_of(value, true);
        let enable = power.or(self.is_ladder().then_some(Wire::RAIL));
        if let Some(enable) = enable {
            value::with_enable(&mut block, enable, span);
        }
        block.outputs.push(OutPin { name: None, negated: false, to: None, target: Some(target.clone()) });
        self.element(ElementKind::Block(block), span);
    }

    /// Function block diagram: the value's box hands its output to the variable.
    fn drawn_assignment(&mut self, target: &Expr, value: &Expr, span: Span) {
        let pin = self.pin(None, value);
        match (pin.feed, pin.negated) {
            (Feed::Value(value), false) => {
                let to = self.new_wire();
                self.element(ElementKind::Source { value, to }, span);
                self.element(ElementKind::Sink { target: target.clone(), from: to }, span);
            }
            (Feed::Wire(from), false) if !self.hand_over(from, target) => {
                self.element(ElementKind::Sink { target: target.clone(), from }, span);
            }
            (Feed::Wire(_), false) | (Feed::Open, _) => {}
            (feed, true) => {
                let input = crate::model::InPin { name: None, negated: false, feed };
                let output = OutPin { name: None, negated: false, to: None, target: Some(target.clone()) };
                let name = Name::new("NOT", span);
                let block = crate::model::Block { name, instance: None, inputs: vec![input], outputs: vec![output] };
                self.element(ElementKind::Block(block), span);
            }
        }
    }

    /// Lets the box drawn last write the variable itself, if its output goes nowhere else.
    fn hand_over(&mut self, wire: Wire, target: &Expr) -> bool {
        let Some(Element { kind: ElementKind::Block(block), .. }) = self.net().elements.last_mut() else {
            return false;
        };
        if block.instance.is_some() {
            return false;
        }
        let Some(pin) = block.outputs.iter_mut().find(|p| p.to == Some(wire)) else { return false };
        pin.to = None;
        pin.target = Some(target.clone());
        true
    }

    /// The type of an expression, as the checker found it.
    fn type_of(&self, expr: &Expr) -> Option<&Ty> {
        self.types.get(&expr.span)
    }

    fn is_bool(&self, expr: &Expr) -> bool {
        match &expr.kind {
            ExprKind::Literal(l) => matches!(l.value, LiteralValue::Bool(_)),
            ExprKind::Binary(op, ..) if op.is_comparison() => true,
            ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => self.type_of(expr) == Some(&Ty::BOOL),
        }
    }
}

fn literal_bool(expr: &Expr) -> Option<bool> {
    if let ExprKind::Literal(l) = &expr.kind
        && l.typed.is_none()
    {
        if let LiteralValue::Bool(value) = l.value { Some(value) } else { None }
    } else {
        None
    }
}
