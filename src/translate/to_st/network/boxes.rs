//! Boxes: calls of blocks, and values of functions, written as operators where there are any.

use super::{Walker, is_named};
use crate::model::functions::{Function, Parameters, SideEffect, TypeRule};
use crate::model::{
    Arg, Block, Call, ElementKind, Expr, ExprKind, Feed, InPin, Name, Network, Operand, OutPin, StmtKind, TypeSpec,
    Wire,
};
use crate::source::Span;
use crate::translate::to_st::simplify::{may_fault, negate, root};

impl Walker<'_> {
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
            Feed::Open | Feed::Wire(_) | Feed::Value(_) => Wire(u32::MAX - self.net.at as u32),
        };
        self.input(&pin, span).map(|condition| (power, condition))
    }

    /// ENO carries what EN does.
    fn enabled(&mut self, block: &Block, enable: &Option<(Wire, Expr)>, span: Span) {
        let Some(pin) = block.output("ENO").cloned() else { return };
        let (power, value) = enable.clone().unwrap_or((Wire::RAIL, Expr::truth(true, span)));
        let value = if pin.negated { negate(&value) } else { value };
        if let Some(wire) = pin.to {
            self.carry(wire, value, if pin.negated { wire } else { power });
        } else if let Some(target) = &pin.target {
            self.assign(target, value, span);
        }
    }

    pub(super) fn instance(&mut self, block: &Block, instance: &Expr, span: Span) {
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
            let Some(name) = pin.name.clone().filter(|n| !n.is("ENO")) else { continue };
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
        let (power, condition) = enable.unwrap_or((Wire::RAIL, Expr::truth(true, span)));
        let opaque = !self.additions.context.is_closed(&block.name.text);
        self.under(power, condition, vec![call], &written, opaque, span);
        for (wire, name, negated) in later {
            let field = Expr::new(ExprKind::Field(Box::new(instance.clone()), name), span);
            let field = if negated { negate(&field) } else { field };
            self.carry(wire, field, wire);
        }
    }

    pub(super) fn function(&mut self, network: &Network, block: &Block, span: Span) {
        let enable = self.enable(block, span);
        let (mut values, mut outputs): (Vec<&OutPin>, Vec<Arg>) = (Vec::new(), Vec::new());
        let mut written = Vec::new();
        for pin in &block.outputs {
            match &pin.name {
                Some(name) if name.is("ENO") => {}
                Some(name) if !name.is("OUT") && *name != block.name => {
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
        let opaque = !is_pure(&block.name.text) && !self.additions.context.is_closed(&block.name.text);
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
        let (power, condition) = enable.unwrap_or((Wire::RAIL, Expr::truth(true, span)));
        match expr.kind {
            ExprKind::Call(call) if opaque => {
                self.under(power, condition, vec![StmtKind::Call(*call)], &[], true, span);
            }
            _ if may_fault(&expr) => {
                let context = self.additions.context;
                let found = self.types.results.get(&span).map(|ty| context.spec(ty, span));
                let spec = found.or_else(|| context.function_type(&block.name.text));
                let unused = self.unused_variable(spec.unwrap_or(TypeSpec::Elem(crate::model::Elem::Int, span)), span);
                let assign = StmtKind::Assign(unused, expr);
                self.under(power, condition, vec![assign], &[], false, span);
            }
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Address(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => {}
        }
    }

    /// True if everything that takes a wire is a box that runs under the same power: it never sees the value that the
    /// wire keeps while there is none.
    fn all_under(&self, network: &Network, wire: Wire, power: Wire) -> bool {
        if power == Wire::RAIL {
            return true;
        }
        self.net.users.get(&wire).is_some_and(|users| {
            users.iter().all(|user| {
                if let ElementKind::Block(block) = &network.elements[*user].kind
                    && *user > self.net.at
                {
                    block
                        .input("EN")
                        .is_some_and(|p| !p.negated && matches!(p.feed, Feed::Wire(w) if self.power(w) == power))
                } else {
                    false
                }
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
            && let Some(values) = in_order(function.row().parameters, &inputs)
        {
            match function.row().rule {
                TypeRule::Operator(op) if values.len() == 2 || (values.len() > 2 && !op.is_comparison()) => {
                    let joined = values.into_iter().reduce(|a, b| Expr::binary(op, a, b).at(span));
                    return joined.unwrap_or_else(|| Expr::truth(false, span));
                }
                TypeRule::Not if values.len() == 1 => return negate(&values[0]),
                TypeRule::Same if values.len() == 1 => return values[0].clone(),
                // What is not given as it should be stays a call, and is told when that is checked.
                TypeRule::Operator(_)
                | TypeRule::Not
                | TypeRule::Same
                | TypeRule::Ordered
                | TypeRule::Choice(_)
                | TypeRule::Each(..) => {}
            }
            let args = values.into_iter().map(|v| Arg::Plain(Operand::Expr(v))).collect();
            let callee = Expr::new(ExprKind::Name(block.name.clone()), block.name.span);
            return Expr::new(ExprKind::Call(Box::new(Call { callee, args, span })), span);
        }
        let args = inputs.into_iter().map(|(name, value)| {
            let value = Operand::Expr(value);
            name.map_or(Arg::Plain(value.clone()), |name| Arg::Input(name, value))
        });
        let callee = Expr::new(ExprKind::Name(block.name.clone()), block.name.span);
        let args = args.chain(outputs).collect();
        Expr::new(ExprKind::Call(Box::new(Call { callee, args, span })), span)
    }
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

/// A standard function touches nothing but its inputs.
fn is_pure(name: &str) -> bool {
    name == "&" || Function::from_name(name).is_some_and(|f| f.row().effect == SideEffect::None)
}
