//! Hints about timers and counters: two calls in a scan with two presets, and presets that the device cannot hold.

use super::env::Env;
use super::typed::{Callee, Code, Place, Root, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind};
use crate::dialect;
use crate::lang::read_duration;
use crate::model::sheet::{Device, Library, PresetUnit, Role};
use crate::model::{Duration, Elem, format_duration};
use crate::source::{Diagnostic, Severity, Span, codes};
use std::collections::HashMap;

/// A call of a device in the program's own text.
struct Driven<'e> {
    call: &'e TCall,
    instance: &'e Place,
    /// True where it does not run in every scan.
    guarded: bool,
}

/// Looks at every call of a timer or counter. `library` is that of the dialect; without one devices are the standard's.
pub(super) fn check(env: &mut Env<'_>, library: Option<&Library>) {
    if env.problems.iter().any(|p| p.severity == Severity::Error) {
        return;
    }
    let standard = if library.is_none() { dialect::library("iec") } else { None };
    let Some(library) = library.or(standard.as_deref()) else { return };
    let mut hints = Vec::new();
    for unit in env.units.iter().filter(|unit| !unit.built_in) {
        let mut driven = Vec::new();
        match &unit.code {
            Code::Block(list) => block(list, false, &mut driven),
            Code::List(list) => list_calls(list, &mut driven),
        }
        let mut first: HashMap<(Root, String), (Span, i64)> = HashMap::new();
        for Driven { call, instance, guarded } in driven {
            let Some(block) = env.units.get(call.unit.0 as usize) else { continue };
            let devices: Vec<&Device> =
                library.sheet.devices.iter().filter(|d| d.block.eq_ignore_ascii_case(&block.name)).collect();
            let Some(pin) = devices.iter().find_map(|d| d.pins.get(&Role::Preset)) else { continue };
            let Some(at) = block.vars.iter().position(|var| var.name.eq_ignore_ascii_case(pin)) else { continue };
            let given = call.inputs.iter().find(|(input, _)| *input as usize == at);
            let Some((value, preset)) = given.and_then(|(_, value)| Some((value, constant(value)?))) else { continue };
            let ty = block.vars[at].ty.elem();
            if let Some(why) = unfit(&devices, ty, preset) {
                hints.push(Diagnostic::warning(codes::PRESET, value.span, why));
            }
            if guarded {
                continue;
            }
            match first.insert((instance.root, steps(instance)), (call.span, preset)) {
                Some((before, other)) if other != preset => hints.push(
                    Diagnostic::warning(
                        codes::TWO_PRESETS,
                        call.span,
                        format!("`{}` is driven twice in a scan, with two presets", name(env, unit, instance)),
                    )
                    .related(before, "first driven here")
                    .help("give each of the two a timer or counter of its own"),
                ),
                Some(_) | None => {}
            }
        }
    }
    env.problems.extend(hints);
}

/// Which part of a variable an instance is, if it has no index that is computed.
fn steps(instance: &Place) -> String {
    format!("{:?}", instance.steps)
}

fn name(env: &Env<'_>, unit: &super::typed::TUnit, instance: &Place) -> String {
    // While types are guessed an instance may be a name that stands nowhere.
    match instance.root {
        Root::Local(number) => unit.vars.get(number as usize),
        Root::Global(number) => env.globals.get(number as usize),
    }
    .map_or(String::new(), |var| var.name.clone())
}

/// Why devices cannot hold a preset; `None` if one of them can.
fn unfit(devices: &[&Device], ty: Option<Elem>, preset: i64) -> Option<String> {
    let reasons: Option<Vec<String>> = devices.iter().map(|device| unfit_of(device, ty, preset)).collect();
    reasons?.into_iter().next()
}

fn unfit_of(device: &Device, ty: Option<Elem>, preset: i64) -> Option<String> {
    if let Some(facts) = &device.timer {
        let tick = facts.tick.split_once('#').and_then(|(_, text)| read_duration(text).ok())?;
        let is_time = facts.unit == PresetUnit::Duration && ty.is_some_and(Elem::is_time);
        let of = if is_time { tick.nanos().max(1) } else { 1 };
        let said = |ticks: i64| match is_time {
            true => format!("T#{}", format_duration(Duration::from_nanos(ticks.saturating_mul(of)))),
            false => ticks.to_string(),
        };
        return match preset / of {
            ticks if preset < 0 || ticks > facts.most => {
                Some(format!("a preset of this timer is 0 to {}", said(facts.most)))
            }
            ticks if preset % of != 0 => Some(format!(
                "this preset is no whole number of ticks of {}: it acts as {}",
                format_duration(tick),
                said(ticks)
            )),
            _ => None,
        };
    }
    let facts = device.counter.as_ref()?;
    let beyond = preset < facts.least.min(0) || preset > facts.most_preset;
    beyond.then(|| format!("a preset of this counter is at most {}", facts.most_preset))
}

/// The value of a constant, as it sits in memory.
fn constant(expr: &TExpr) -> Option<i64> {
    match &expr.kind {
        TKind::Const(slot) => Some(*slot),
        TKind::Widen(inner) | TKind::Bound(inner) => constant(inner),
        TKind::LitInt(_)
        | TKind::LitReal(_)
        | TKind::Text(_)
        | TKind::Read(_)
        | TKind::Unary(..)
        | TKind::Binary(..)
        | TKind::Function(..)
        | TKind::Call(_)
        | TKind::Current
        | TKind::List(_) => None,
    }
}

fn block<'e>(list: &'e [TStmt], guarded: bool, out: &mut Vec<Driven<'e>>) {
    for stmt in list {
        if let TStmtKind::Call(call) = &stmt.kind {
            driven(call, guarded, out);
        }
        stmt.bodies(&mut |body| block(body, true, out));
    }
}

fn list_calls<'e>(list: &'e [TInstr], out: &mut Vec<Driven<'e>>) {
    // With jumps about, no call is known to run in every scan.
    let leaves = |instr: &TInstr| matches!(instr.kind, TInstrKind::Jump(..));
    let guarded = list.iter().any(leaves);
    for instr in list {
        match &instr.kind {
            TInstrKind::Call(when, call) => driven(call, guarded || *when != crate::model::When::Always, out),
            TInstrKind::Nop
            | TInstrKind::Compute(_)
            | TInstrKind::Store(..)
            | TInstrKind::Set(_)
            | TInstrKind::Reset(_)
            | TInstrKind::Jump(..)
            | TInstrKind::Restart(_)
            | TInstrKind::Return(_) => {}
        }
    }
}

fn driven<'e>(call: &'e TCall, guarded: bool, out: &mut Vec<Driven<'e>>) {
    if let Callee::Block(instance) = &call.callee {
        out.push(Driven { call, instance, guarded });
    }
}
