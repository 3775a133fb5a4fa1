//! Instruction lists: words that drive devices become stores to inputs and a call.

use super::expr::field;
use super::{At, Holding, Resolver};
use crate::dialect::walk::{self, Leaves, Want};
use crate::model::ops::BinaryOp;
use crate::model::sheet::{Holds, Operation};
use crate::model::{Arg, Body, Call, Expr, ExprKind, Instr, InstrKind, Item, Name, Notes, Operand, UnitKind, When};
use crate::source::{Diagnostic, Span, codes};

impl Resolver<'_> {
    /// Finds the devices that stand in registers, wherever a list drives one, and sees that none lies over another.
    pub(super) fn find_runs(&mut self, items: &[Item]) {
        for item in items {
            let Item::Unit(unit) = item else { continue };
            match &unit.body {
                Body::Instructions(list) => self.runs_in(list),
                Body::Ladder(networks) | Body::Blocks(networks) => {
                    for element in networks.iter().flat_map(|n| &n.elements) {
                        if let crate::model::ElementKind::Block(block) = &element.kind
                            && let Some(Expr { kind: ExprKind::Address(address), .. }) = &block.instance
                        {
                            self.run(&block.name, address);
                        }
                    }
                }
                Body::Statements(_) => {}
            }
        }
        let all: Vec<(At, (usize, Span))> = self.runs.iter().map(|(at, run)| (*at, *run)).collect();
        for pair in all.windows(2) {
            let ((first, (device, span)), (second, (_, other))) = (pair[0], pair[1]);
            let length = self.device(device).registers.len() as u32;
            if first.0 == second.0 && first.1 + length > second.1 {
                let write = |at: u32| self.sheet.areas[first.0].parsed.write(at).unwrap_or_default();
                let message = format!(
                    "this block takes {} to {}, and the block at {} lies over it",
                    write(first.1),
                    write(first.1 + length - 1),
                    write(second.1)
                );
                self.problems.push(
                    Diagnostic::error(codes::ADDRESS, other, message).related(span, "the first block is driven here"),
                );
            }
        }
    }

    fn runs_in(&mut self, list: &[Instr]) {
        for instr in list {
            match &instr.kind {
                InstrKind::Worded { word, operands, .. } => {
                    if let Some(ExprKind::Address(address)) = operands.first().map(|o| &o.kind) {
                        self.run(word, address);
                    }
                }
                InstrKind::Op(_, _, Operand::List(list)) => self.runs_in(list),
                InstrKind::Empty
                | InstrKind::Load(..)
                | InstrKind::Store(..)
                | InstrKind::Set(_)
                | InstrKind::Reset(_)
                | InstrKind::Not
                | InstrKind::Op(..)
                | InstrKind::Jump(..)
                | InstrKind::Call(..)
                | InstrKind::Return(_)
                | InstrKind::Function(..)
                | InstrKind::Pin(..) => {}
            }
        }
    }

    /// Notes a device in registers: one that a word drives, or a box of its block stands for.
    fn run(&mut self, word: &Name, address: &Name) {
        let Ok(at) = self.sheet.locate(&address.text) else { return };
        if self.sheet.areas[at.0].holds != Holds::Word {
            return;
        }
        let drives = |d: &crate::model::sheet::Device| d.ops.iter().any(|op| word.is(&op.word)) || word.is(&d.block);
        let Some(device) = self.sheet.devices.iter().position(drives) else { return };
        match self.runs.get(&at).copied() {
            None => {
                self.runs.insert(at, (device, address.span));
            }
            Some((other, first)) if other != device => {
                let message =
                    format!("the block at `{}` is {} already", address.text, self.device(other).kind.a_word());
                self.problems
                    .push(Diagnostic::error(codes::ADDRESS, address.span, message).related(first, "driven here"));
            }
            Some(_) => {}
        }
    }

    /// A program in list form ends with its marker: what stands at the very end needs no jump there.
    pub(super) fn ends(&mut self, kind: UnitKind, span: Span, list: &mut Vec<Instr>) {
        let Some(end) = self.sheet.scan.end.as_ref().filter(|_| kind == UnitKind::Program) else { return };
        let is_end = |i: &Instr| matches!(i.kind, InstrKind::Return(When::Always));
        if !list.iter().any(is_end) {
            let message =
                format!("the list has no `{end}`; the controller would refuse it, or run into what stands behind");
            self.problems.push(
                Diagnostic::error(codes::DIALECT, span, message)
                    .help(format!("write `{end}` below the last instruction")),
            );
        }
        if let Some(last) = list.last_mut().filter(|i| is_end(i)) {
            if last.label.is_none() && last.notes.leading.is_empty() && last.notes.trailing.is_empty() {
                list.pop();
            } else {
                last.kind = InstrKind::Empty;
            }
        }
    }

    /// The device that a name stands for.
    pub(super) fn device_named(&self, expr: &Expr) -> Option<usize> {
        if let ExprKind::Name(name) = &expr.kind {
            if let Holding::Device(device) = self.kind(&name.text) { Some(device) } else { None }
        } else {
            None
        }
    }

    /// `R RinseTime`: an operator of the standard that drives a device by its name.
    pub(super) fn drive_plain(&mut self, instr: Instr, out: &mut Vec<Instr>) {
        let (operator, target) = match instr.kind {
            InstrKind::Store(false, target) => ("ST", target),
            InstrKind::Set(target) => ("S", target),
            InstrKind::Reset(target) => ("R", target),
            InstrKind::Empty
            | InstrKind::Load(..)
            | InstrKind::Store(..)
            | InstrKind::Not
            | InstrKind::Op(..)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => {
                self.error(codes::DIALECT, instr.span, "a device does not take the opposite of the current result");
                return;
            }
        };
        let text = self.sheet.word_for(operator).unwrap_or(operator).to_string();
        let word = Name { text, span: instr.span };
        let placed = Placed { label: instr.label, notes: instr.notes, span: instr.span };
        self.drive(&word, vec![target], placed, out);
    }

    /// An instruction in the dialect's own words.
    pub(super) fn worded(&mut self, instr: Instr, out: &mut Vec<Instr>) {
        let placed = Placed { label: instr.label, notes: instr.notes, span: instr.span };
        let InstrKind::Worded { word, operands, .. } = instr.kind else { return };
        match self.sheet.word(&word.text).and_then(crate::lang::il::last_results) {
            Some(op) => self.join_last(op, &word, placed, out),
            None => self.drive(&word, operands, placed, out),
        }
    }

    /// A word that joins the two results loaded last: the second of them becomes a parenthesis.
    fn join_last(&mut self, op: BinaryOp, word: &Name, placed: Placed, out: &mut Vec<Instr>) {
        let first = out.iter().rposition(|i| matches!(i.kind, InstrKind::Load(..))).unwrap_or(0);
        let is_value = |i: &Instr| {
            i.label.is_none()
                && matches!(i.kind, InstrKind::Load(..) | InstrKind::Op(..) | InstrKind::Not | InstrKind::Function(..))
        };
        // What stands in front of the second result leaves the first one.
        if first == 0 || !out[first..].iter().all(is_value) {
            let message =
                format!("`{}` joins two results that are loaded one after the other, and here are none", word.text);
            self.error(codes::DIALECT, word.span, message);
            return;
        }
        let second = out.split_off(first);
        let kind = InstrKind::Op(op, false, Operand::List(second));
        out.push(Instr { label: placed.label, kind, span: placed.span, notes: placed.notes });
    }

    /// A word that drives a device: its conditions are the values loaded last.
    fn drive(&mut self, word: &Name, mut operands: Vec<Expr>, placed: Placed, out: &mut Vec<Instr>) {
        let span = placed.span;
        let mut target = operands.remove(0);
        let Some((_, op)) = self.operation(word, &target) else { return };
        if operands.len() != op.operands.len() {
            let what = if op.operands.is_empty() {
                "nothing behind the device".to_string()
            } else {
                format!("{} behind the device", op.operands.join(", "))
            };
            self.error(codes::DIALECT, span, format!("`{}` takes {what}", word.text));
            return;
        }
        operands.iter_mut().for_each(|o| walk::expr(self, o, Want::Word));
        self.instance(&mut target);
        let Some(groups) = loads(out, op.power.len()) else {
            let message = format!("`{}` takes {} conditions, loaded one after the other", word.text, op.power.len());
            self.error(codes::DIALECT, span, message);
            return;
        };
        let instr = |kind: InstrKind| Instr { label: None, kind, span, notes: Notes::default() };
        let pin = |name: &str| Expr { kind: field(target.kind.clone(), name, span), span };
        // Each condition goes to its input where the next one begins, the last one here.
        for (group, power) in op.power.iter().enumerate().rev() {
            let store = instr(InstrKind::Store(false, pin(power)));
            match groups.get(group) {
                Some(at) => out.insert(*at, store),
                None => out.push(store),
            }
        }
        let args = op
            .operands
            .iter()
            .zip(operands)
            .map(|(name, value)| Arg::Input(Name { text: name.clone(), span }, Operand::Expr(value)));
        let call = Call { callee: target.clone(), args: args.collect(), span };
        out.push(instr(InstrKind::Call(When::Always, call)));
        if let Some(result) = &op.result {
            out.push(instr(InstrKind::Load(false, pin(result))));
        }
        let first = out.len() - 2 - usize::from(op.result.is_some());
        if let Some(last) = out.get_mut(first) {
            last.notes = placed.notes;
            last.label = placed.label;
        }
    }

    /// The device behind a word, and what the word does with it.
    pub(super) fn operation(&mut self, word: &Name, target: &Expr) -> Option<(usize, Operation)> {
        let found = if let ExprKind::Address(name) = &target.kind {
            let at = self.locate(name)?;
            self.device_of(at)
        } else {
            self.device_named(target)
        };
        let Some(device) = found else {
            self.error(codes::DIALECT, target.span, format!("`{}` drives a device, and this is none", word.text));
            return None;
        };
        let op = self.device(device).ops.iter().find(|op| word.is(&op.word)).cloned();
        if op.is_none() {
            let all: Vec<String> = self.device(device).ops.iter().map(|op| format!("`{}`", op.word)).collect();
            let kind = self.device(device).kind.a_word();
            let message = format!("`{}` does not drive {kind}; {} does", word.text, all.join(" or "));
            self.error(codes::DIALECT, word.span, message);
        }
        Some((device, op?))
    }
}

/// Where an instruction stood.
struct Placed {
    label: Option<Name>,
    notes: Notes,
    span: Span,
}

/// Where the second of the last `count` loads begins, and the third, and so on; `None` if there are not so many.
fn loads(list: &[Instr], count: usize) -> Option<Vec<usize>> {
    let mut starts: Vec<usize> = Vec::new();
    for (at, instr) in list.iter().enumerate().rev() {
        if starts.len() == count {
            break;
        }
        match instr.kind {
            InstrKind::Load(..) => starts.push(at),
            InstrKind::Op(..) | InstrKind::Not | InstrKind::Empty => {}
            // What else there is lies between the groups of another instruction, or takes the one condition there is.
            _ if count == 1 => return Some(Vec::new()),
            InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => return None,
        }
    }
    if starts.len() < count {
        return None;
    }
    starts.reverse();
    Some(starts.split_off(1))
}
