//! Ladder and function block diagram: each network becomes straight code, element by element in the order in which
//! they run. A wire is a variable without a name that text could write; so are the memories of edge contacts.

mod hidden;

pub(crate) use hidden::wire_name;

use crate::check::env::{Env, key};
use crate::check::expr::Access;
use crate::check::typed::{TExpr, TInstr, TInstrKind, TKind, Ty};
use crate::model::functions::{Function, TypeRule};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Arg, Block, Call, CoilForm, ContactForm, Edge, Element, ElementKind, Expr, ExprKind, Feed, InPin, Name, Network,
    Operand, OutPin, UnitKind, When, Wire,
};
use crate::source::{Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

impl Env<'_> {
    /// Checks the networks of a unit.
    pub(super) fn networks(&mut self, list: &[Network]) -> Vec<TInstr> {
        let mut labels: HashMap<String, Span> = HashMap::new();
        for label in list.iter().filter_map(|n| n.label.as_ref()) {
            if let Some(first) = labels.insert(key(&label.text), label.span) {
                self.duplicate(label, first);
            }
        }
        let leaves = |e: &Element| matches!(e.kind, ElementKind::Jump { .. } | ElementKind::Return { .. });
        // With jumps about, no write is known to happen in every scan.
        let jumps = list.iter().any(|n| n.elements.iter().any(leaves));
        self.guards += u32::from(jumps);
        self.problems.extend(crate::check::reach::networks(list));
        let mut out = Vec::new();
        for (number, network) in list.iter().enumerate() {
            if let Some(label) = &network.label {
                out.push(TInstr { label: Some(key(&label.text)), kind: TInstrKind::Nop, span: label.span });
            }
            let mut users = HashSet::new();
            network.elements.iter().for_each(|e| {
                e.kind.inputs(&mut |w| {
                    users.insert(w);
                })
            });
            let mut lowering = Lowering {
                env: self,
                network,
                number,
                labels: &labels,
                out: Vec::new(),
                wires: HashMap::new(),
                fed: HashSet::new(),
                users,
                hidden: 0,
                literals: HashMap::new(),
            };
            for element in &network.elements {
                lowering.element(element);
            }
            out.extend(lowering.out);
        }
        self.guards -= u32::from(jumps);
        out
    }
}

struct Lowering<'e, 'p, 'n> {
    env: &'e mut Env<'p>,
    network: &'n Network,
    number: usize,
    labels: &'n HashMap<String, Span>,
    out: Vec<TInstr>,
    /// The variable of each wire.
    wires: HashMap<Wire, u32>,
    /// Wires that something has fed already in this evaluation.
    fed: HashSet<Wire>,
    /// Wires that something takes.
    users: HashSet<Wire>,
    hidden: u32,
    /// Wires that carry a literal: it takes the type of each place it goes to.
    literals: HashMap<Wire, Expr>,
}

impl Lowering<'_, '_, '_> {
    fn emit(&mut self, kind: TInstrKind, span: Span) {
        self.out.push(TInstr { label: None, kind, span });
    }

    /// What only a program or function block can have, for it lasts from call to call.
    fn needs_memory(&mut self, what: &str, span: Span) {
        if self.env.units[self.env.current.0 as usize].kind == UnitKind::Function {
            let message = format!("{what} needs a memory, and a function keeps nothing from call to call");
            self.env.error(codes::TYPE, span, message);
        }
    }

    /// The wire as an expression that the rest of the checker understands.
    fn wire(&mut self, wire: Wire, span: Span) -> Expr {
        if wire == Wire::RAIL {
            return Expr::truth(true, span);
        }
        if let Some(literal) = self.literals.get(&wire) {
            return literal.clone();
        }
        let number = match self.wires.get(&wire) {
            Some(number) => *number,
            None => self.leads_back(wire, span),
        };
        self.hidden_name(number, span)
    }

    /// A wire that is taken before it is fed: it needs its type now.
    fn leads_back(&mut self, wire: Wire, span: Span) -> u32 {
        self.needs_memory("a wire that leads back", span);
        let feeds = |e: &&Element| {
            let mut found = false;
            e.kind.outputs(&mut |w| found |= w == wire);
            found
        };
        let ty = match self.network.elements.iter().find(feeds).map(|e| &e.kind) {
            Some(ElementKind::Contact { .. } | ElementKind::Compare { .. }) => Some(Ty::BOOL),
            Some(ElementKind::Block(block)) => self.output_type(block, wire),
            Some(ElementKind::Source { value, .. }) => Some(self.env.expr(value).ty).filter(|t| !t.is_untyped()),
            _ => None,
        };
        if ty.is_none() {
            self.env.problems.push(
                Diagnostic::error(codes::TYPE, span, "the type of this wire, which leads back, cannot be told")
                    .help("hand the value on in a variable: write its name at the output, and at the input"),
            );
        }
        let number = self.hide_wire(wire, ty.unwrap_or(Ty::Unknown(None)), span);
        self.wires.insert(wire, number);
        number
    }

    /// The type of the output that feeds a wire, where it does not hang on the inputs.
    fn output_type(&mut self, block: &Block, wire: Wire) -> Option<Ty> {
        let pin = block.outputs.iter().find(|p| p.to == Some(wire))?;
        if is_named(pin.name.as_ref(), "ENO") {
            return Some(Ty::BOOL);
        }
        let unit = match &block.instance {
            Some(instance) => {
                if let Ty::Block(unit) = self.env.place(instance, Access::Share)?.ty {
                    Some(unit)
                } else {
                    None
                }
            }
            None => self.env.unit_names.get(&key(&block.name.text)).copied(),
        };
        if let Some(unit) = unit {
            let vars = &self.env.units[unit.0 as usize].vars;
            let named = vars.iter().find(|v| is_named(pin.name.as_ref(), &v.name));
            return named.or(vars.first()).map(|v| v.ty.clone());
        }
        let rule = Function::from_name(&block.name.text)?.row().rule;
        // Logic that leads back is taken for power.
        let is_logic = rule == TypeRule::Not || matches!(rule, TypeRule::Operator(op) if op.is_logic());
        if is_logic { Some(Ty::BOOL) } else { rule.result().map(Ty::Elem) }
    }

    /// Power as a BOOL value.
    fn power(&mut self, wire: Wire, span: Span) -> TExpr {
        let expr = self.wire(wire, span);
        self.env.expr_of(&expr, &Ty::BOOL)
    }

    /// A wire gets a value; a second feeder adds to the power of the first.
    fn feed(&mut self, wire: Wire, value: TExpr, span: Span) {
        let value = self.env.settled(value);
        if !self.users.contains(&wire) {
            // It is still computed: that may fault.
            self.emit(TInstrKind::Compute(value), span);
            return;
        }
        let number = match self.wires.get(&wire) {
            Some(number) => *number,
            None => {
                let number = self.hide_wire(wire, value.ty.clone(), span);
                self.wires.insert(wire, number);
                number
            }
        };
        let value = if self.fed.insert(wire) {
            value
        } else {
            let there = self.hidden_read(number, span);
            self.env.binary(BinaryOp::Or, there, value, span)
        };
        let place = self.hidden_place(number, span);
        let value = self.env.coerce(value, &place.ty);
        self.emit(TInstrKind::Store(place, value), span);
    }

    fn element(&mut self, element: &Element) {
        let span = element.span;
        match &element.kind {
            ElementKind::Contact { form, operand, from, to } => self.contact(*form, operand, (*from, *to), span),
            ElementKind::Compare { op, left, right, from, to } => {
                let left = self.env.expr(left);
                let right = self.env.expr(right);
                let value = self.env.binary(*op, left, right, span);
                self.conduct(*from, *to, value, span);
            }
            ElementKind::Coil { form, target, from, .. } => self.coil(*form, target, *from, span),
            ElementKind::Source { value, to } if is_literal(value) => {
                self.literals.insert(*to, value.clone());
            }
            ElementKind::Source { value, to } => {
                let value = self.env.expr(value);
                self.feed(*to, value, span);
            }
            ElementKind::Sink { target, from } => {
                let wire = self.wire(*from, span);
                let value = self.env.expr(&wire);
                self.store(target, value, span);
            }
            ElementKind::Jump { label, from } => {
                let when = self.leave(*from, span);
                if !self.labels.contains_key(&key(&label.text)) {
                    self.no_label(label);
                }
                self.emit(TInstrKind::Jump(when, key(&label.text)), span);
            }
            ElementKind::Return { from } => {
                let when = self.leave(*from, span);
                self.emit(TInstrKind::Return(when), span);
            }
            ElementKind::Block(block) => match &block.instance {
                Some(instance) => self.instance(block, instance, span),
                None => self.function(block, span),
            },
        }
    }

    fn no_label(&mut self, label: &Name) {
        let help = self.env.compared.closest(&label.text, || self.labels.keys());
        let mut problem = Diagnostic::error(codes::LABEL, label.span, format!("there is no label `{}`", label.text));
        problem.help = help.map(|h| format!("did you mean `{h}`?"));
        self.env.problems.push(problem);
    }

    fn leave(&mut self, from: Wire, span: Span) -> When {
        if from == Wire::RAIL {
            return When::Always;
        }
        let power = self.power(from, span);
        self.emit(TInstrKind::Compute(power), span);
        When::IfTrue
    }

    /// `to` has power if `from` has and the value is TRUE.
    fn conduct(&mut self, from: Wire, to: Wire, value: TExpr, span: Span) {
        let value = match from {
            Wire::RAIL => value,
            _ => {
                let power = self.power(from, span);
                self.env.binary(BinaryOp::And, power, value, span)
            }
        };
        self.feed(to, value, span);
    }

    fn contact(&mut self, form: ContactForm, operand: &Expr, (from, to): (Wire, Wire), span: Span) {
        let value = self.env.expr_of(operand, &Ty::BOOL);
        let edge = match form {
            ContactForm::Open => return self.conduct(from, to, value, span),
            ContactForm::Closed => {
                let value = self.env.unary(UnaryOp::Not, value, span);
                return self.conduct(from, to, value, span);
            }
            ContactForm::Rising => Edge::Rising,
            ContactForm::Falling => Edge::Falling,
        };
        self.needs_memory("an edge contact", span);
        let memory = self.hide_edge(span);
        let before = self.hidden_read(memory, span);
        let changed = self.edge(edge, value.clone(), before, span);
        self.conduct(from, to, changed, span);
        let place = self.hidden_place(memory, span);
        self.emit(TInstrKind::Store(place, value), span);
    }

    /// `now AND NOT before` for a rising edge, `NOT now AND before` for a falling one.
    fn edge(&mut self, edge: Edge, now: TExpr, before: TExpr, span: Span) -> TExpr {
        let (high, low) = edge.levels(now, before);
        let low = self.env.unary(UnaryOp::Not, low, span);
        self.env.binary(BinaryOp::And, high, low, span)
    }

    fn store(&mut self, target: &Expr, value: TExpr, span: Span) {
        let Some(place) = self.env.place(target, Access::Write) else {
            let unknown = self.env.unknown_type(target);
            let known = if value.ty.is_untyped() { crate::check::coerce::guessed(&value) } else { value.ty };
            self.env.learn(&unknown, &known);
            return;
        };
        if matches!(place.ty, Ty::Block(_) | Ty::Watch) {
            let message = format!("{} cannot be assigned", self.env.show(&place.ty));
            self.env.error(codes::TYPE, target.span, message);
            return;
        }
        let want = place.ty.clone();
        let value = self.env.coerce(value, &want);
        self.emit(TInstrKind::Store(place, value), span);
    }

    fn edge_coil(&mut self, edge: Edge, target: &Expr, power: TExpr, span: Span) {
        self.needs_memory("an edge coil", span);
        let memory = self.hide_edge(span);
        let before = self.hidden_read(memory, span);
        let changed = self.edge(edge, power.clone(), before, span);
        self.store(target, changed, span);
        let place = self.hidden_place(memory, span);
        self.emit(TInstrKind::Store(place, power), span);
    }

    fn coil(&mut self, form: CoilForm, target: &Expr, from: Wire, span: Span) {
        let power = self.power(from, span);
        match form {
            CoilForm::Plain => self.store(target, power, span),
            CoilForm::Negated => {
                let value = self.env.unary(UnaryOp::Not, power, span);
                self.store(target, value, span);
            }
            CoilForm::Rising => self.edge_coil(Edge::Rising, target, power, span),
            CoilForm::Falling => self.edge_coil(Edge::Falling, target, power, span),
            CoilForm::Set | CoilForm::Reset => {
                if form == CoilForm::Reset {
                    self.env.resets_by_coil(self.network, from);
                }
                self.env.guards += 1;
                let place = self.env.place(target, Access::Write);
                self.env.guards -= 1;
                self.emit(TInstrKind::Compute(power), span);
                match place {
                    Some(place) if place.ty == Ty::BOOL => {
                        let kind =
                            if form == CoilForm::Set { TInstrKind::Set(place) } else { TInstrKind::Reset(place) };
                        self.emit(kind, span);
                    }
                    Some(place) => {
                        let message = format!("a coil acts on BOOL, not on {}", self.env.show(&place.ty));
                        self.env.error(codes::TYPE, target.span, message);
                    }
                    None => {
                        let unknown = self.env.unknown_type(target);
                        self.env.learn(&unknown, &Ty::BOOL);
                    }
                }
            }
        }
    }

    /// What an input takes, as an expression; `None` for an open one.
    fn pin_value(&mut self, pin: &InPin, span: Span) -> Option<Expr> {
        let value = match &pin.feed {
            Feed::Open => return None,
            Feed::Wire(wire) => self.wire(*wire, span),
            Feed::Value(value) => value.clone(),
        };
        let span = value.span;
        let not = |value: Expr| Expr { kind: ExprKind::Unary(UnaryOp::Not, Box::new(value)), span };
        Some(if pin.negated { not(value) } else { value })
    }

    fn inputs(&mut self, block: &Block, span: Span) -> Vec<Arg> {
        let mut args = Vec::new();
        for pin in &block.inputs {
            let Some(value) = self.pin_value(pin, span) else { continue };
            args.push(match &pin.name {
                Some(name) => Arg::Input(name.clone(), Operand::Expr(value)),
                None => Arg::Plain(Operand::Expr(value)),
            });
        }
        args
    }

    /// A call of a function block instance.
    fn instance(&mut self, block: &Block, instance: &Expr, span: Span) {
        let mut args = self.inputs(block, span);
        let enabled = block.input("EN").is_some_and(|p| p.feed != Feed::Open);
        self.env.guards += u32::from(enabled);
        let mut wired: Vec<(&OutPin, Wire)> = Vec::new();
        for pin in &block.outputs {
            let Some(name) = pin.name.clone() else {
                self.env.error(codes::ARGUMENT, block.name.span, "the outputs of a function block have names");
                continue;
            };
            if let Some(target) = &pin.target {
                args.push(Arg::Output { name: name.clone(), negated: pin.negated, target: target.clone() });
            }
            match pin.to {
                Some(wire) if name.is("ENO") => {
                    let number = self.wire_of(wire, Ty::BOOL, span);
                    self.fed.insert(wire);
                    let target = self.hidden_name(number, span);
                    args.push(Arg::Output { name, negated: pin.negated, target });
                }
                Some(wire) => wired.push((pin, wire)),
                None => {}
            }
        }
        let call = Call { callee: instance.clone(), args, span };
        let bound = self.env.block_call(&call);
        self.env.guards -= u32::from(enabled);
        let Some(bound) = bound else { return };
        let unit = &self.env.units[bound.unit.0 as usize];
        if !unit.name.eq_ignore_ascii_case(&block.name.text) {
            let message = format!("the box says `{}`, but this instance is declared as {}", block.name.text, unit.name);
            self.env.error(codes::TYPE, block.name.span, message);
        }
        self.emit(TInstrKind::Call(When::Always, bound), span);
        for (pin, wire) in wired {
            let Some(name) = pin.name.clone() else { continue };
            let field = Expr { kind: ExprKind::Field(Box::new(instance.clone()), name), span };
            let mut value = self.env.expr(&field);
            if pin.negated {
                value = self.env.unary(UnaryOp::Not, value, span);
            }
            self.feed(wire, value, span);
        }
    }

    /// The variable of a wire, made with a type if it is not there.
    fn wire_of(&mut self, wire: Wire, ty: Ty, span: Span) -> u32 {
        if let Some(number) = self.wires.get(&wire) {
            return *number;
        }
        let number = self.hide_wire(wire, ty, span);
        self.wires.insert(wire, number);
        number
    }

    /// A function, with or without EN.
    fn function(&mut self, block: &Block, span: Span) {
        let name = if block.name.text == "&" {
            Name { text: "AND".to_string(), ..block.name.clone() }
        } else {
            block.name.clone()
        };
        if self.env.variable(&name.text).is_some_and(|(_, v)| matches!(v.ty, Ty::Block(_))) {
            let message = format!("`{}` is an instance; its name stands above the box and its type in it", name.text);
            self.env.error(codes::TYPE, name.span, message);
            return;
        }
        let en = block.input("EN").and_then(|pin| self.pin_value(pin, span));
        let mut args = Vec::new();
        for arg in self.inputs(block, span) {
            if !matches!(&arg, Arg::Input(name, _) if name.is("EN")) {
                args.push(arg);
            }
        }
        let (mut values, mut others, mut eno) = (Vec::new(), Vec::new(), Vec::new());
        for pin in &block.outputs {
            match &pin.name {
                Some(n) if n.is("ENO") => eno.push(pin),
                Some(n) if !n.text.eq_ignore_ascii_case("OUT") && *n != name => others.push((pin, n.clone())),
                _ => values.push(pin),
            }
        }
        let skip = en.as_ref().map(|en| self.enable(en, &eno, span));
        if skip.is_none() {
            eno.iter().for_each(|pin| self.hand_on(pin, truth_value(span), span));
        }
        self.env.guards += u32::from(skip.is_some());
        for (pin, name) in others {
            self.other_output(&mut args, pin, name, block, span);
        }
        let callee = Expr { span: name.span, kind: ExprKind::Name(name) };
        let call = Call { callee, args, span };
        let restarted = self.env.restart(&call);
        if let Some(place) = restarted.clone().flatten() {
            self.emit(TInstrKind::Restart(place), span);
        }
        let value = if restarted.is_some() { truth_value(span) } else { self.env.function_call(&call, None) };
        if let [pin] = values.as_slice() {
            self.hand_on(pin, value, span);
        } else if values.is_empty() {
            self.emit(TInstrKind::Compute(value), span);
        } else {
            self.env.error(codes::ARGUMENT, block.name.span, "a function has one value");
        }
        self.env.guards -= u32::from(skip.is_some());
        if let Some(label) = skip {
            self.out.push(TInstr { label: Some(label), kind: TInstrKind::Nop, span });
        }
    }

    /// Jumps over a box that is not enabled; gives the label behind it.
    fn enable(&mut self, en: &Expr, eno: &[&OutPin], span: Span) -> String {
        let value = self.env.expr_of(en, &Ty::BOOL);
        let number = self.hide("enable", Ty::BOOL, span);
        let place = self.hidden_place(number, span);
        self.emit(TInstrKind::Store(place, value), span);
        for pin in eno {
            let value = self.hidden_read(number, span);
            self.hand_on(pin, value, span);
        }
        let value = self.hidden_read(number, span);
        self.emit(TInstrKind::Compute(value), span);
        let label = format!("NETWORK {} BEHIND {number}", self.number + 1);
        self.emit(TInstrKind::Jump(When::IfFalse, label.clone()), span);
        // Its outputs keep their values while it is not enabled: they do not start anew in each evaluation.
        label
    }

    fn hand_on(&mut self, pin: &OutPin, value: TExpr, span: Span) {
        let value = if pin.negated { self.env.unary(UnaryOp::Not, value, span) } else { value };
        match (&pin.target, pin.to) {
            (Some(target), _) => self.store(target, value, span),
            (None, Some(wire)) => self.feed(wire, value, span),
            (None, None) => self.emit(TInstrKind::Compute(value), span),
        }
    }

    /// An output of a function other than its value.
    fn other_output(&mut self, args: &mut Vec<Arg>, pin: &OutPin, name: Name, block: &Block, span: Span) {
        if let Some(target) = &pin.target {
            args.push(Arg::Output { name, negated: pin.negated, target: target.clone() });
            return;
        }
        let Some(wire) = pin.to else { return };
        let unit = self.env.unit_names.get(&key(&block.name.text)).copied();
        let ty = unit.and_then(|unit| {
            let vars = &self.env.units[unit.0 as usize].vars;
            vars.iter().find(|v| v.name.eq_ignore_ascii_case(&name.text)).map(|v| v.ty.clone())
        });
        let number = self.wire_of(wire, ty.unwrap_or(Ty::Unknown(None)), span);
        self.fed.insert(wire);
        let target = self.hidden_name(number, span);
        args.push(Arg::Output { name, negated: pin.negated, target });
    }
}

fn is_named(name: Option<&Name>, what: &str) -> bool {
    name.is_some_and(|n| n.text.eq_ignore_ascii_case(what))
}

fn is_literal(expr: &Expr) -> bool {
    match &expr.kind {
        ExprKind::Literal(_) => true,
        ExprKind::Unary(_, inner) => is_literal(inner),
        ExprKind::Name(_)
        | ExprKind::Address(_)
        | ExprKind::Field(..)
        | ExprKind::Index(..)
        | ExprKind::Binary(..)
        | ExprKind::Call(_) => false,
    }
}

fn truth_value(span: Span) -> TExpr {
    TExpr { kind: TKind::Const(1), ty: Ty::BOOL, span }
}
