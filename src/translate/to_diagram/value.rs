//! Values: boxes for operators, functions and calls, joined by wires.

use super::DiagramWriter;
use super::logic::spine;
use crate::check::typed::{Ty, UnitId};
use crate::model::functions::{Function, Parameters};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::{
    Arg, Block, Call, CoilForm, Elem, ElementKind, Expr, ExprKind, Feed, InPin, Name, Operand, OutPin, Section, Wire,
};
use crate::source::Span;
use crate::translate::ledger::{Grade, NEGATION};
use crate::translate::literals::{is_open, is_simple, number, with_types, write_type};

/// A box takes no more inputs than this; longer chains take several boxes.
const MOST_INPUTS: usize = 8;

/// Puts EN in front of a box's inputs, and ENO in front of its outputs.
pub(super) fn with_enable(block: &mut Block, power: Wire, span: Span) {
    let pin = InPin { name: Some(Name::new("EN", span)), negated: false, feed: Feed::Wire(power) };
    block.inputs.insert(0, pin);
    let pin = OutPin { name: Some(Name::new("ENO", span)), negated: false, to: None, target: None };
    block.outputs.insert(0, pin);
}

fn plain(value: Expr) -> InPin {
    InPin { name: None, negated: false, feed: Feed::Value(value) }
}

impl DiagramWriter<'_> {
    /// The output of a block called in this network that a field stands for: element and output name.
    pub(super) fn output_of(&self, field: &Expr) -> Option<(usize, Name)> {
        let ExprKind::Field(base, pin) = &field.kind else { return None };
        let open = self.open.as_ref()?;
        let (_, element) = open.called.iter().find(|(instance, _)| *instance == **base)?;
        let ElementKind::Block(block) = &open.elements.get(*element)?.kind else { return None };
        let there = block.outputs.iter().any(|p| p.name.as_ref() == Some(pin) && p.target.is_none());
        there.then(|| (*element, pin.clone()))
    }

    /// The wire of an output of a block called in this network.
    pub(super) fn output_wire(&mut self, (element, pin): (usize, Name)) -> Wire {
        let next = Wire(self.net().wires);
        let mut made = false;
        let open = self.net();
        let wire = match open.elements.get_mut(element).map(|e| &mut e.kind) {
            Some(ElementKind::Block(block)) => {
                let found = block.outputs.iter_mut().find(|p| p.name.as_ref() == Some(&pin));
                found.map_or(next, |p| {
                    *p.to.get_or_insert_with(|| {
                        made = true;
                        next
                    })
                })
            }
            _ => next,
        };
        if made {
            self.net().wires += 1;
        }
        wire
    }

    /// An input that takes an expression.
    pub(super) fn pin(&mut self, pin: Option<Name>, expr: &Expr) -> InPin {
        if let Some(output) = self.output_of(expr) {
            let wire = self.output_wire(output);
            return InPin { name: pin, negated: false, feed: Feed::Wire(wire) };
        }
        if let Some(edge) = self.edge_pin(pin.clone(), expr) {
            return edge;
        }
        if is_simple(expr) {
            return InPin { name: pin, negated: false, feed: Feed::Value(expr.clone()) };
        }
        let is_bool = self.is_bool(expr);
        if is_bool && self.is_ladder() {
            let wire = self.condition(expr, Wire::RAIL);
            return InPin { name: pin, negated: false, feed: Feed::Wire(wire) };
        }
        if let ExprKind::Unary(UnaryOp::Not, inner) = &expr.kind
            && is_bool
        {
            let inner = self.pin(None, inner);
            return InPin { name: pin, negated: !inner.negated, feed: inner.feed };
        }
        let wire = self.value_wire(expr);
        InPin { name: pin, negated: false, feed: Feed::Wire(wire) }
    }

    /// A box whose output is the value, on a wire.
    fn value_wire(&mut self, expr: &Expr) -> Wire {
        let block = self.block_of(expr, false);
        let to = self.new_wire();
        let mut block = block;
        block.outputs.push(OutPin { name: None, negated: false, to: Some(to), target: None });
        self.element(ElementKind::Block(block), expr.span);
        to
    }

    /// The box of an expression's outermost operation, its inputs drawn; `assigned` if its value goes to a variable,
    /// which then says the type of literals.
    pub(super) fn block_of(&mut self, expr: &Expr, assigned: bool) -> Block {
        let span = expr.span;
        let make = |function: &str, inputs| Block {
            name: Name::new(function, span),
            instance: None,
            inputs,
            outputs: Vec::new(),
        };
        // On a wire nothing behind it tells what type a literal has.
        let elem = self.type_of(expr).and_then(Ty::elem).filter(|_| !assigned);
        let mut typed = expr.clone();
        match (&expr.kind, elem) {
            (ExprKind::Call(call), Some(elem)) => {
                if let Some(call) = literals_typed(call, elem) {
                    typed.kind = ExprKind::Call(Box::new(call));
                }
            }
            (_, Some(elem)) if elem != Elem::Bool && is_open(expr) => write_type(&mut typed, elem),
            _ => {}
        }
        match &typed.kind {
            ExprKind::Unary(UnaryOp::Not, inner) => {
                let pin = self.pin(None, inner);
                make("NOT", vec![pin])
            }
            ExprKind::Unary(UnaryOp::Negate, inner) if !is_simple(&typed) => {
                let reason = "a drawing has no minus sign for a value: it is multiplied by -1".to_string();
                self.ledger.push(self.context.entry(NEGATION, Grade::Exact, span, None, reason));
                let pin = self.pin(None, inner);
                let one = ExprKind::Unary(UnaryOp::Negate, Box::new(number("1", 1, span)));
                make("MUL", vec![pin, plain(Expr { kind: one, span })])
            }
            ExprKind::Binary(op, left, right) => {
                let chain = matches!(op, BinaryOp::And | BinaryOp::Or | BinaryOp::Xor | BinaryOp::Add | BinaryOp::Mul);
                let mut terms = if chain { spine(&typed, *op) } else { vec![&**left, &**right] };
                if terms.len() > MOST_INPUTS {
                    terms = vec![&**left, &**right];
                }
                let inputs = terms.into_iter().map(|term| self.pin(None, term)).collect();
                make(op.function(), inputs)
            }
            ExprKind::Call(call) => self.function_block(call),
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..) => {
                let pin = self.pin(None, &typed);
                make("MOVE", vec![pin])
            }
        }
    }

    /// The box of a function call, without its value.
    fn function_block(&mut self, call: &Call) -> Block {
        let span = call.span;
        let text = if let ExprKind::Name(n) = &call.callee.kind { n.text.clone() } else { String::new() };
        let user = self.context.checked.units.iter().position(|u| u.name.eq_ignore_ascii_case(&text));
        let function = if user.is_some() { None } else { Function::from_name(&text) };
        let names: Vec<Option<String>> = (0..call.args.len())
            .map(|at| match (user, function.map(|f| f.row().parameters)) {
                (Some(unit), _) => self.parameter_names(UnitId(unit as u32)).get(at).cloned(),
                (None, Some(Parameters::Fixed(names))) if names.len() > 1 => names.get(at).map(|n| (*n).to_string()),
                (None, Some(parameters @ Parameters::Extensible(names, _))) if !names.is_empty() => parameters.name(at),
                _ => None,
            })
            .collect();
        let (inputs, outputs) = self.pins(&call.args, &names, span);
        if user.is_some() && !self.context.is_closed(&text) {
            self.wrote_anything();
        }
        Block { name: Name::new(text, span), instance: None, inputs, outputs }
    }

    fn parameter_names(&self, unit: UnitId) -> Vec<String> {
        let vars = self.context.checked.unit(unit).vars.iter();
        vars.filter(|v| matches!(v.section, Section::Input | Section::InOut)).map(|v| v.name.clone()).collect()
    }

    fn pins(&mut self, args: &[Arg], names: &[Option<String>], span: Span) -> (Vec<InPin>, Vec<OutPin>) {
        let (mut inputs, mut outputs) = (Vec::new(), Vec::new());
        for (at, arg) in args.iter().enumerate() {
            match arg {
                Arg::Plain(Operand::Expr(value)) => {
                    let pin = names.get(at).cloned().flatten().map(|n| Name::new(n, span));
                    inputs.push(self.pin(pin, value));
                }
                Arg::Input(pin, Operand::Expr(value)) => inputs.push(self.pin(Some(pin.clone()), value)),
                Arg::Output { name, negated, target } => outputs.push(OutPin {
                    name: Some(name.clone()),
                    negated: *negated,
                    to: None,
                    target: Some(target.clone()),
                }),
                Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => {}
            }
        }
        (inputs, outputs)
    }

    /// A call as a statement: of a block, or of a function for its effect.
    pub(super) fn call(&mut self, call: &Call, power: Option<Wire>) {
        let span = call.span;
        let is_function = if let ExprKind::Name(n) = &call.callee.kind {
            self.context.variable_type(&n.text).is_none()
        } else {
            false
        };
        if is_function {
            let mut block = self.function_block(call);
            if let Some(power) = power.or(self.is_ladder().then_some(Wire::RAIL)) {
                with_enable(&mut block, power, span);
            }
            self.element(ElementKind::Block(block), span);
            return;
        }
        let Some(unit) = self.callee_unit(&call.callee) else { return };
        let typed = self.context.checked.unit(unit).clone();
        let names: Vec<Option<String>> = self.parameter_names(unit).into_iter().map(Some).collect();
        // What a pin is fed by is drawn in the order in which it is written; pins stand in the order of the block.
        let (given, taken) = self.pins(&call.args, &names, span);
        let mut inputs = Vec::new();
        let mut outputs = Vec::new();
        let named = |pin: &Option<Name>, what: &str| pin.as_ref().is_some_and(|n| n.text.eq_ignore_ascii_case(what));
        inputs.extend(given.iter().filter(|p| named(&p.name, "EN")).cloned());
        outputs.extend(taken.iter().filter(|p| named(&p.name, "ENO")).cloned());
        for var in &typed.vars {
            let pin = Some(Name::new(var.name.clone(), span));
            match var.section {
                Section::Input | Section::InOut => {
                    let found = given.iter().find(|p| named(&p.name, &var.name)).cloned();
                    let found = found.unwrap_or(InPin { name: pin, negated: false, feed: Feed::Open });
                    inputs.push(self.as_power(found, &var.ty));
                }
                Section::Output => {
                    let found = taken.iter().find(|p| named(&p.name, &var.name)).cloned();
                    outputs.push(found.unwrap_or(OutPin { name: pin, negated: false, to: None, target: None }));
                }
                Section::Local | Section::Temp | Section::External | Section::Global => {}
            }
        }
        let instance = Some(call.callee.clone());
        let mut block = Block { name: Name::new(typed.name.clone(), span), instance, inputs, outputs };
        if let Some(power) = power {
            with_enable(&mut block, power, span);
        }
        self.wrote(&call.callee);
        for target in taken.iter().filter_map(|p| p.target.as_ref()) {
            self.wrote(target);
        }
        if !self.context.is_closed(&typed.name) {
            self.wrote_anything();
        }
        // In a ladder a BOOL goes to a coil.
        let mut coils = Vec::new();
        if self.is_ladder() && power.is_none() {
            let is_bool =
                |pin: &Name| typed.vars.iter().any(|v| v.name.eq_ignore_ascii_case(&pin.text) && v.ty == Ty::BOOL);
            for pin in &mut block.outputs {
                let asks = pin.to.is_none() && pin.name.as_ref().is_some_and(is_bool);
                if let Some(target) = pin.target.take_if(|_| asks) {
                    let wire = self.new_wire();
                    pin.to = Some(wire);
                    coils.push((target, wire));
                }
            }
        }
        self.element(ElementKind::Block(block), span);
        let at = self.net().elements.len() - 1;
        for (target, from) in coils {
            let form = CoilForm::Plain;
            self.element(ElementKind::Coil { form, target, from, drive: None }, span);
        }
        // While it is not enabled it keeps its outputs, so they can be taken in any case.
        self.net().called.push((call.callee.clone(), at));
    }

    /// In a ladder, a BOOL variable at an input is a contact.
    fn as_power(&mut self, pin: InPin, ty: &Ty) -> InPin {
        if let Feed::Value(value) = &pin.feed
            && self.is_ladder()
            && *ty == Ty::BOOL
            && super::literal_bool(value).is_none()
        {
            let wire = self.condition(&value.clone(), Wire::RAIL);
            InPin { feed: Feed::Wire(wire), ..pin }
        } else {
            pin
        }
    }

    /// The block that a statement calls.
    fn callee_unit(&self, callee: &Expr) -> Option<UnitId> {
        self.callees.get(&(callee.span.file, callee.span.start)).copied()
    }
}

/// A choice among literals only, with the type written in front of each.
fn literals_typed(call: &Call, elem: Elem) -> Option<Call> {
    let ExprKind::Name(name) = &call.callee.kind else { return None };
    if elem == Elem::Bool {
        return None;
    }
    if Function::from_name(&name.text)?.row().rule.alike_from()? > 0 {
        return with_types(call, elem);
    }
    let mut typed = call.clone();
    for arg in &mut typed.args {
        let (Arg::Plain(Operand::Expr(value)) | Arg::Input(_, Operand::Expr(value))) = arg else { return None };
        if !is_open(value) {
            return None;
        }
        write_type(value, elem);
    }
    Some(typed)
}
