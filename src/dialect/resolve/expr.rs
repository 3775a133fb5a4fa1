//! Mentions: addresses become names, bare mentions of devices become their outputs.

use super::{At, Holding, Resolver};
use crate::dialect::walk::{self, Leaves, Want, bare_pin, pin_wants};
use crate::model::sheet::{Device, Holds};
use crate::model::{Expr, ExprKind, Instr, InstrKind, Name};
use crate::source::{Span, codes};

impl Leaves for Resolver<'_> {
    fn value(&mut self, expr: &mut Expr, want: Want) {
        let span = expr.span;
        match &mut expr.kind {
            ExprKind::Address(name) => {
                let name = name.clone();
                if let Some(kind) = self.mention(&name, Some(want)) {
                    expr.kind = kind;
                }
            }
            ExprKind::Name(name) => {
                if let Holding::Device(device) = self.kind(&name.text) {
                    let name = name.clone();
                    if let Some(pin) = bare_pin(self.device(device), want) {
                        expr.kind = field(ExprKind::Name(name), &pin, span);
                    }
                }
            }
            ExprKind::Field(base, _) => self.instance(base),
            ExprKind::Literal(_)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => {}
        }
    }

    fn target(&mut self, expr: &mut Expr) {
        let is_device = if let ExprKind::Address(name) = &expr.kind {
            self.sheet.locate(&name.text).is_ok_and(|at| self.device_of(at).is_some() || self.in_run(at).is_some())
        } else {
            false
        };
        if is_device {
            let message = "a device is not written like a variable; call it, or use the words that drive it";
            self.error(codes::DIALECT, expr.span, message);
            return;
        }
        if let ExprKind::Address(name) = &expr.kind
            && self.sheet.first_scan().is_some()
            && self.sheet.locate(&name.text).ok() == self.sheet.first_scan()
        {
            let message =
                format!("`{}` is TRUE in the first scan; the controller writes it, a program does not", name.text);
            self.error(codes::DIALECT, expr.span, message);
        }
        if !matches!(expr.kind, ExprKind::Name(_)) {
            self.value(expr, Want::Word);
        }
    }

    fn instance(&mut self, expr: &mut Expr) {
        match &mut expr.kind {
            ExprKind::Address(name) => {
                let name = name.clone();
                if let Some(kind) = self.mention(&name, None) {
                    expr.kind = kind;
                }
            }
            ExprKind::Name(_) => {}
            ExprKind::Literal(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => walk::expr(self, expr, Want::Word),
        }
    }

    fn wanted_by(&self, target: &Expr) -> Want {
        let kind = match &target.kind {
            ExprKind::Address(name) => {
                let holds = self.sheet.locate(&name.text).ok().map(|(area, _)| self.sheet.areas[area].holds);
                if holds == Some(Holds::Word) { Holding::Word } else { Holding::Bit }
            }
            ExprKind::Name(name) => self.kind(&name.text),
            ExprKind::Field(base, pin) => return self.called(base).map_or(Want::Bit, |d| pin_wants(d, pin)),
            ExprKind::Literal(_)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => Holding::Bit,
        };
        if matches!(kind, Holding::Word | Holding::Other) { Want::Word } else { Want::Bit }
    }

    fn called(&self, callee: &Expr) -> Option<&Device> {
        let number = match &callee.kind {
            ExprKind::Name(name) => {
                if let Holding::Device(device) = self.kind(&name.text) {
                    Some(device)
                } else {
                    None
                }
            }
            ExprKind::Address(name) => self.sheet.locate(&name.text).ok().and_then(|at| self.device_of(at)),
            ExprKind::Literal(_)
            | ExprKind::Field(..)
            | ExprKind::Index(..)
            | ExprKind::Unary(..)
            | ExprKind::Binary(..)
            | ExprKind::Call(_) => None,
        };
        number.map(|n| self.device(n))
    }

    fn list(&mut self, list: &mut Vec<Instr>, want: Want) {
        let mut out: Vec<Instr> = Vec::new();
        let taken = std::mem::take(list);
        for (at, instr) in taken.iter().enumerate() {
            let mut instr = instr.clone();
            match &mut instr.kind {
                InstrKind::Store(_, target) | InstrKind::Set(target) | InstrKind::Reset(target)
                    if self.device_named(target).is_some() =>
                {
                    self.drive_plain(instr, &mut out);
                }
                InstrKind::Worded { .. } => self.worded(instr, &mut out),
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
                | InstrKind::Pin(..) => {
                    walk::instruction(self, &mut instr, &taken[at + 1..], want);
                    out.push(instr);
                }
            }
        }
        *list = out;
    }
}

impl Resolver<'_> {
    /// What stands for an address. Without a `want`, the device itself is meant.
    fn mention(&mut self, name: &Name, want: Option<Want>) -> Option<ExprKind> {
        let at = self.locate(name)?;
        if let Some((base, device, pin)) = self.in_run(at).filter(|(base, ..)| *base != at) {
            let instance = self.variable(base, Some(device), name.span);
            return Some(field(named(instance, name.span), &pin, name.span));
        }
        let device = self.device_of(at);
        if device.is_none() && self.sheet.areas[at.0].holds == Holds::Device {
            let message = format!("`{}` is no device: the sheet has none of this number", name.text);
            self.error(codes::ADDRESS, name.span, message);
            return None;
        }
        let variable = named(self.variable(at, device, name.span), name.span);
        let (Some(device), Some(want)) = (device, want) else { return Some(variable) };
        match bare_pin(self.device(device), want) {
            Some(pin) => Some(field(variable, &pin, name.span)),
            None => {
                let message = format!("`{}` alone means nothing; name what of it is meant", name.text);
                self.error(codes::DIALECT, name.span, message);
                None
            }
        }
    }

    /// The device over a register: its first register, the device, and the output that this register shows.
    pub(super) fn in_run(&self, at: At) -> Option<(At, usize, String)> {
        let (base, (device, _)) = self.runs.range((at.0, 0)..=at).next_back()?;
        let pin = self.device(*device).registers.get((at.1 - base.1) as usize)?;
        Some((*base, *device, pin.clone()))
    }
}

pub(super) fn named(text: String, span: Span) -> ExprKind {
    ExprKind::Name(Name { text, span })
}

pub(super) fn field(base: ExprKind, pin: &str, span: Span) -> ExprKind {
    ExprKind::Field(Box::new(Expr { kind: base, span }), Name { text: pin.to_string(), span })
}
