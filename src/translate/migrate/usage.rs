//! What a unit does with a device.

use crate::model::sheet::{Device, Role};
use crate::model::{Arg, Body, Call, Expr, ExprKind, Item, Mention, Operand, Section, Stmt, StmtKind, Unit, Walk};
use std::collections::BTreeSet;

/// What the program does with one device.
#[derive(Clone, Debug, Default)]
pub(super) struct Usage {
    /// What is given to its preset.
    pub(super) presets: Vec<Expr>,
    /// Inputs that are given somewhere.
    pub(super) given: BTreeSet<String>,
    /// For each call, the inputs it gives.
    pub(super) calls: Vec<BTreeSet<String>>,
    /// Outputs that are read.
    pub(super) read: BTreeSet<String>,
    /// Inputs that are read, pins that are unknown, or a mention of the whole instance: nothing to be said natively.
    pub(super) opaque: bool,
}

impl Usage {
    pub(super) fn gives(&self, device: &Device, role: Role) -> bool {
        device.pins.get(&role).is_some_and(|pin| self.given.contains(&pin.to_uppercase()))
    }

    pub(super) fn reads(&self, device: &Device, role: Role) -> bool {
        device.pins.get(&role).is_some_and(|pin| self.read.contains(&pin.to_uppercase()))
    }

    /// True if an input is read.
    pub(super) fn reads_inputs(&self, device: &Device) -> bool {
        device.pins.iter().any(|(role, pin)| role.is_input() && self.read.contains(&pin.to_uppercase()))
    }

    /// True if some call gives the one input without the other.
    pub(super) fn apart(&self, device: &Device, one: Role, other: Role) -> bool {
        let has = |call: &BTreeSet<String>, role| {
            device.pins.get(&role).is_some_and(|p: &String| call.contains(&p.to_uppercase()))
        };
        self.calls.iter().any(|c| has(c, one) != has(c, other))
    }
}

/// What the units that can name an instance do with it.
pub(super) fn of(items: &[Item], owner: &str, name: &str, device: &Device, block: Option<&Unit>) -> Usage {
    let mut usage = Usage::default();
    let inputs: Vec<String> = block.map_or(Vec::new(), inputs_of);
    for item in items {
        let Item::Unit(unit) = item else { continue };
        let Body::Statements(list) = &unit.body else { continue };
        let own = owner.is_empty() || unit.name.text == owner;
        let shadowed = unit.sections.iter().flat_map(|s| &s.vars).flat_map(|v| &v.names).any(|n| n.is(name));
        if !own || (owner.is_empty() && shadowed) {
            continue;
        }
        let mut finder = Finder { name, device, inputs: &inputs, usage: &mut usage };
        finder.list(list);
    }
    usage
}

/// Names of the inputs of a block, in order.
pub(super) fn inputs_of(block: &Unit) -> Vec<String> {
    let sections = block.sections.iter().filter(|s| s.section == Section::Input);
    sections.flat_map(|s| &s.vars).flat_map(|v| &v.names).map(|n| n.text.clone()).collect()
}

struct Finder<'f> {
    name: &'f str,
    device: &'f Device,
    inputs: &'f [String],
    usage: &'f mut Usage,
}

impl Finder<'_> {
    fn is_it(&self, expr: &Expr) -> bool {
        matches!(&expr.kind, ExprKind::Name(n) if n.is(self.name))
    }

    fn list(&mut self, list: &[Stmt]) {
        for stmt in list {
            self.statement(stmt);
        }
    }

    fn statement(&mut self, stmt: &Stmt) {
        match &stmt.kind {
            StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
            StmtKind::Assign(target, value) => {
                if let ExprKind::Field(base, pin) = &target.kind
                    && self.is_it(base)
                {
                    self.given(&pin.text, value)
                } else {
                    self.reads(target)
                }
                self.reads(value);
            }
            StmtKind::Call(call) if self.is_it(&call.callee) => self.call(call),
            StmtKind::Call(_)
            | StmtKind::If(..)
            | StmtKind::Case(..)
            | StmtKind::For(..)
            | StmtKind::While(..)
            | StmtKind::Repeat(..) => stmt.own(&mut |expr, _| self.reads(expr)),
        }
        stmt.bodies(&mut |body| self.list(body));
    }

    fn given(&mut self, pin: &str, value: &Expr) {
        self.usage.given.insert(pin.to_uppercase());
        let role = self.device.pins.iter().find(|(_, p)| p.eq_ignore_ascii_case(pin)).map(|(role, _)| *role);
        match role {
            Some(Role::Preset) => self.usage.presets.push(value.clone()),
            Some(role) if role.is_input() => {}
            _ => self.usage.opaque = true,
        }
    }

    fn call(&mut self, call: &Call) {
        let mut pins = BTreeSet::new();
        for (position, arg) in call.args.iter().enumerate() {
            match arg {
                Arg::Plain(Operand::Expr(value)) => {
                    let Some(pin) = self.inputs.get(position) else { continue };
                    pins.insert(pin.to_uppercase());
                    self.given(&pin.clone(), value);
                    self.reads(value);
                }
                Arg::Input(pin, Operand::Expr(value)) => {
                    pins.insert(pin.text.to_uppercase());
                    self.given(&pin.text, value);
                    self.reads(value);
                }
                Arg::Output { name, target, .. } => {
                    self.usage.read.insert(name.text.to_uppercase());
                    self.reads(target);
                }
                Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => self.usage.opaque = true,
            }
        }
        self.usage.calls.push(pins);
    }

    fn reads(&mut self, expr: &Expr) {
        let name = self.name;
        let device = self.device;
        let usage = &mut self.usage;
        expr.walk(Mention::Read, &mut |e, _| {
            match &e.kind {
                ExprKind::Field(base, pin) if matches!(&base.kind, ExprKind::Name(n) if n.is(name)) => {
                    usage.read.insert(pin.text.to_uppercase());
                    // A preset that is read back would have to be reckoned in the old unit.
                    let known = device.pins.iter().any(|(role, p)| pin.is(p) && *role != Role::Preset);
                    usage.opaque |= !known;
                    return Walk::Past;
                }
                ExprKind::Name(n) if n.is(name) => usage.opaque = true,
                ExprKind::Literal(_)
                | ExprKind::Name(_)
                | ExprKind::Address(_)
                | ExprKind::Field(..)
                | ExprKind::Index(..)
                | ExprKind::Unary(..)
                | ExprKind::Binary(..)
                | ExprKind::Call(_) => {}
            }
            Walk::Into
        });
    }
}
