//! Walking over what programs say, with what is wanted at each place: a bit or a word. Reading and writing a dialect
//! walk the same way, so that a bare mention of a device means the same in both directions.

use crate::model::functions::{Function, TypeRule};
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::sheet::{Device, Role};
use crate::model::{
    Arg, Block, Call, Expr, ExprKind, Feed, InPin, Instr, InstrKind, Name, Operand, Stmt, StmtKind, When,
};

/// What is wanted of a mention.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Want {
    Bit,
    Word,
}

/// What is done at the leaves.
pub(super) trait Leaves {
    /// A value: a literal, a name, an address, or a field of one of them. Indices have been walked.
    fn value(&mut self, expr: &mut Expr, want: Want);
    /// A variable that is written.
    fn target(&mut self, expr: &mut Expr);
    /// An instance that is called, or the base of an index.
    fn instance(&mut self, expr: &mut Expr);
    /// What is wanted of a value that goes to a target; asked before the target is walked.
    fn wanted_by(&self, target: &Expr) -> Want;
    /// The device that is called; asked before the callee is walked.
    fn called(&self, callee: &Expr) -> Option<&Device>;
    /// A parenthesised list, or the body of a unit.
    fn list(&mut self, list: &mut Vec<Instr>, want: Want);
}

/// What the operands of an operator are.
pub(super) const fn operands_of(op: BinaryOp, want: Want) -> Want {
    if op.is_comparison() {
        return Want::Word;
    }
    if let BinaryOp::And | BinaryOp::Or | BinaryOp::Xor = op { want } else { Want::Word }
}

pub(super) fn statements(leaves: &mut dyn Leaves, list: &mut [Stmt]) {
    for stmt in list {
        statement(leaves, stmt);
    }
}

fn statement(leaves: &mut dyn Leaves, stmt: &mut Stmt) {
    match &mut stmt.kind {
        StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
        StmtKind::Assign(to, value) => {
            let want = leaves.wanted_by(to);
            target(leaves, to);
            expr(leaves, value, want);
        }
        StmtKind::Call(c) => call(leaves, c),
        StmtKind::If(branches, otherwise) => {
            for (condition, body) in branches {
                expr(leaves, condition, Want::Bit);
                statements(leaves, body);
            }
            otherwise.iter_mut().for_each(|b| statements(leaves, b));
        }
        StmtKind::Case(selector, branches, otherwise) => {
            expr(leaves, selector, Want::Word);
            branches.iter_mut().for_each(|b| statements(leaves, &mut b.body));
            otherwise.iter_mut().for_each(|b| statements(leaves, b));
        }
        StmtKind::For(head, body) => {
            target(leaves, &mut head.var);
            for value in [&mut head.from, &mut head.to].into_iter().chain(&mut head.by) {
                expr(leaves, value, Want::Word);
            }
            statements(leaves, body);
        }
        StmtKind::While(condition, body) | StmtKind::Repeat(body, condition) => {
            expr(leaves, condition, Want::Bit);
            statements(leaves, body);
        }
    }
}

/// A value.
pub(super) fn expr(leaves: &mut dyn Leaves, of: &mut Expr, want: Want) {
    match &mut of.kind {
        ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Address(_) => leaves.value(of, want),
        ExprKind::Field(base, _) => {
            if !matches!(base.kind, ExprKind::Name(_) | ExprKind::Address(_)) {
                expr(leaves, base, Want::Word);
            }
            leaves.value(of, want);
        }
        ExprKind::Index(base, indices) => {
            leaves.instance(base);
            indices.iter_mut().for_each(|i| expr(leaves, i, Want::Word));
        }
        ExprKind::Unary(op, inner) => expr(leaves, inner, if *op == UnaryOp::Not { want } else { Want::Word }),
        ExprKind::Binary(op, left, right) => {
            let want = operands_of(*op, want);
            expr(leaves, left, want);
            expr(leaves, right, want);
        }
        ExprKind::Call(c) => call(leaves, c),
    }
}

/// What is written to.
pub(super) fn target(leaves: &mut dyn Leaves, of: &mut Expr) {
    if let ExprKind::Index(..) = &mut of.kind { expr(leaves, of, Want::Word) } else { leaves.target(of) }
}

/// A call of a function or a block.
pub(super) fn call(leaves: &mut dyn Leaves, call: &mut Call) {
    let want = wanted_by(call);
    let presets: Option<Vec<String>> = leaves.called(&call.callee).map(|device| {
        device.pins.iter().filter(|(role, _)| **role == Role::Preset).map(|(_, pin)| pin.clone()).collect()
    });
    leaves.instance(&mut call.callee);
    for arg in &mut call.args {
        match arg {
            Arg::Plain(value) => operand(leaves, value, want),
            Arg::Input(pin, value) => {
                // The presets of a device are numbers, its other inputs are bits.
                let want = match &presets {
                    Some(presets) if presets.iter().any(|p| pin.is(p)) => Want::Word,
                    Some(_) => Want::Bit,
                    None => want,
                };
                operand(leaves, value, want);
            }
            Arg::Output { target: to, .. } => target(leaves, to),
        }
    }
}

/// A box. What a block of no device takes is not known; a bit is most likely.
pub(super) fn block(leaves: &mut dyn Leaves, block: &mut Block) {
    let device = block.instance.as_ref().and_then(|i| leaves.called(i));
    let want = |pin: &InPin| match (device, &pin.name) {
        (Some(device), Some(name)) => pin_wants(device, name),
        _ if block.instance.is_some() => Want::Bit,
        _ => Want::Word,
    };
    let wants: Vec<Want> = block.inputs.iter().map(want).collect();
    if let Some(instance) = &mut block.instance {
        leaves.instance(instance);
    }
    for (pin, want) in block.inputs.iter_mut().zip(wants) {
        if let Feed::Value(value) = &mut pin.feed {
            expr(leaves, value, want);
        }
    }
    for to in block.outputs.iter_mut().filter_map(|p| p.target.as_mut()) {
        target(leaves, to);
    }
}

/// The output that a bare mention of a device means.
pub(super) fn bare_pin(device: &Device, want: Want) -> Option<String> {
    match want {
        Want::Bit => device.bit.clone(),
        Want::Word => device.word.clone().or_else(|| device.bit.clone()),
    }
}

/// What an input of a device takes: its presets are numbers, the rest are bits.
pub(super) fn pin_wants(device: &Device, pin: &Name) -> Want {
    let preset = device.pins.get(&Role::Preset);
    if preset.is_some_and(|p| pin.is(p)) { Want::Word } else { Want::Bit }
}

/// What a call wants of its arguments.
fn wanted_by(call: &Call) -> Want {
    let ExprKind::Name(name) = &call.callee.kind else { return Want::Word };
    match Function::from_name(&name.text).map(|function| function.row().rule) {
        Some(TypeRule::Operator(op)) => operands_of(op, Want::Bit),
        Some(TypeRule::Not) => Want::Bit,
        Some(TypeRule::Same | TypeRule::Ordered | TypeRule::Choice(_) | TypeRule::Each(..)) | None => Want::Word,
    }
}

pub(super) fn operand(leaves: &mut dyn Leaves, operand: &mut Operand, want: Want) {
    match operand {
        Operand::Expr(of) => expr(leaves, of, want),
        Operand::List(list) => leaves.list(list, want),
    }
}

/// An instruction; `rest` are those behind it, `otherwise` is what is wanted of the list's value.
pub(super) fn instruction(leaves: &mut dyn Leaves, instr: &mut Instr, rest: &[Instr], otherwise: Want) {
    match &mut instr.kind {
        InstrKind::Load(_, value) => {
            let want = load_wants(leaves, rest, otherwise);
            expr(leaves, value, want);
        }
        InstrKind::Store(_, to) | InstrKind::Set(to) | InstrKind::Reset(to) => target(leaves, to),
        InstrKind::Op(op, _, value) => operand(leaves, value, operands_of(*op, Want::Bit)),
        InstrKind::Call(_, c) | InstrKind::Function(c, _) => call(leaves, c),
        InstrKind::Pin(_, instance) => leaves.instance(instance),
        InstrKind::Empty | InstrKind::Not | InstrKind::Jump(..) | InstrKind::Return(_) | InstrKind::Worded { .. } => {}
    }
}

/// What is wanted of a loaded value, by what follows until it is used up.
fn load_wants(leaves: &dyn Leaves, rest: &[Instr], otherwise: Want) -> Want {
    for instr in rest {
        match &instr.kind {
            InstrKind::Op(op, ..) => return operands_of(*op, Want::Bit),
            InstrKind::Function(call, _) => {
                return wanted_by(call);
            }
            InstrKind::Store(_, to) => return leaves.wanted_by(to),
            InstrKind::Empty | InstrKind::Call(When::Always, _) => {}
            InstrKind::Load(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Not
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => return Want::Bit,
        }
    }
    otherwise
}
