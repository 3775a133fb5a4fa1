//! What is no error, but what a careful colleague would ask.

use super::env::Env;
use super::typed::{Root, TInit, Ty, Var};
use crate::model::{Section, UnitKind};
use crate::source::{Diagnostic, Severity, codes};

pub(super) fn check(env: &mut Env<'_>) {
    super::recursion::calls(env);
    // While there are errors, what is used and what is not cannot be told.
    if env.problems.iter().any(|p| p.severity == Severity::Error) {
        return;
    }
    let mut hints = Vec::new();
    let flag = env.sheet().and_then(crate::model::sheet::Sheet::first_scan_address);
    let by_controller = |var: &Var| flag.is_some() && var.address == flag;
    for (index, unit) in env.units.iter().enumerate() {
        if unit.built_in {
            continue;
        }
        for (number, var) in unit.vars.iter().enumerate() {
            let root = var.global.map_or(Root::Local(number as u32), Root::Global);
            let of = if var.global.is_some() { u32::MAX } else { index as u32 };
            let used = env.uses.get(&(of, root)).copied().unwrap_or_default();
            // What stands beside an edge input is nothing that the user wrote.
            if var.global.is_some() || var.is_hidden() {
                continue;
            }
            variable(&mut hints, unit.kind, number, var, used, by_controller(var));
        }
    }
    for (number, var) in env.globals.iter().enumerate().filter(|(_, var)| !env.is_of_plant(var)) {
        let used = env.uses.get(&(u32::MAX, Root::Global(number as u32))).copied().unwrap_or_default();
        variable(&mut hints, UnitKind::Program, number, var, used, by_controller(var));
    }
    env.problems.extend(hints);
}

fn variable(hints: &mut Vec<Diagnostic>, kind: UnitKind, number: usize, var: &Var, used: super::env::Use, given: bool) {
    let is_value = kind == UnitKind::Function && number == 0;
    let outside =
        var.is_input() || var.is_output() || matches!(var.section, Section::InOut | Section::External) || given;
    let holds_code = matches!(var.ty, Ty::Block(_));
    if is_value && !used.written {
        let message = format!("function `{}` never gets its value", var.name);
        hints.push(Diagnostic::warning(codes::NEVER_WRITTEN, var.span, message));
    } else if !used.read && !used.written && (is_value || !var.is_output()) {
        let message = format!("`{}` is never used", var.name);
        hints.push(Diagnostic::warning(codes::UNUSED, var.span, message));
    } else if !used.written && !var.constant && var.is_output() {
        let message = format!("output `{}` is never written", var.name);
        hints.push(Diagnostic::warning(codes::NEVER_WRITTEN, var.span, message));
    } else if used.read && !used.written && !outside && holds_code {
        let message = format!("`{}` is read but never called: its outputs stay at their initial values", var.name);
        hints.push(Diagnostic::warning(codes::NEVER_WRITTEN, var.span, message));
    } else if used.read && !used.written && !outside && !var.constant {
        let message = format!("`{}` is read but never written: it stays at its initial value", var.name);
        hints.push(Diagnostic::warning(codes::NEVER_WRITTEN, var.span, message));
    } else if !used.written && !used.read && var.is_output() {
        let message = format!("output `{}` is never written", var.name);
        hints.push(Diagnostic::warning(codes::NEVER_WRITTEN, var.span, message));
    }
    let rests_on = var.ty == Ty::BOOL && matches!(var.init, TInit::Slot(1));
    if var.is_input() && rests_on && kind == UnitKind::Program && used.reads > 0 && used.reads == used.inverted {
        hints.push(
            Diagnostic::warning(
                codes::INVERTED_TWICE,
                var.span,
                format!("`{}` is TRUE at rest, as wired normally closed, and is read only inverted", var.name),
            )
            .help("the wiring inverts it already; with a closed contact on top it acts at rest (trap 14)"),
        );
    }
    if var.is_output()
        && kind != UnitKind::Function
        && let (Some(first), Some(second)) = (used.first_write, used.second_write)
    {
        hints.push(
            Diagnostic::warning(codes::TWO_WRITES, second, format!("output `{}` is written in two places", var.name))
                .related(first, "first written here")
                .help("in every scan the last write wins (trap 13)"),
        );
    }
}
