//! Calls of devices as the other side's devices would take them: the other side of a latch dominant, a count that a reset
//! holds, elapsed time that falls back with its input.

use super::devices::Known;
use super::slice::Scope;
use super::{Side, Undone};
use crate::check::sites::{self, Pass, Site};
use crate::check::typed::{Callee, TCall, TExpr, TInstrKind, TKind, TStmtKind, Ty};
use crate::model::Elem;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::sheet::{DeviceKind, Role};

/// One way to change a call.
struct Way {
    call: TCall,
    trap: u8,
    words: String,
}

/// The version with change number `wanted` in a call of a device; `None` if there are not so many.
pub(super) fn nth(side: &Side<'_>, wanted: usize) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let globals = checked.globals.clone();
    let (mut seen, mut done) = (0, None);
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let vars = unit.vars.clone();
        let scope = Scope { vars: &vars, globals: &globals };
        let mut change = |call: &mut TCall| {
            let mut ways = ways(call, side, scope);
            if done.is_none() && wanted < seen + ways.len() {
                let way = ways.swap_remove(wanted - seen);
                done = Some((way.trap, format!("{} in {}", way.words, side.place(call.span))));
                *call = way.call;
            }
            seen += ways.len();
        };
        sites::unit(unit, &mut |pass, site| match (pass, site) {
            (Pass::Down, Site::Statements(list)) => {
                for stmt in list {
                    if let TStmtKind::Call(call) = &mut stmt.kind {
                        change(call);
                    }
                }
            }
            (Pass::Down, Site::Instructions(list)) => {
                for instr in list {
                    if let TInstrKind::Call(_, call) = &mut instr.kind {
                        change(call);
                    }
                }
            }
            (Pass::Down, Site::Expr(_)) | (Pass::Up, Site::Expr(_) | Site::Statements(_) | Site::Instructions(_)) => {}
        });
    }
    let (trap, words) = done?;
    Some(Undone { checked, trap, words })
}

fn ways(call: &TCall, side: &Side<'_>, scope: Scope<'_>) -> Vec<Way> {
    let Callee::Block(instance) = &call.callee else { return Vec::new() };
    let (Some(known), true) = (side.devices.get(call.unit), side.slice.has(&scope.name(instance))) else {
        return Vec::new();
    };
    let name = scope.var(instance.root).map_or("", |var| var.name.as_str()).to_string();
    let mut out = Vec::new();
    let mut held = |held: Role, by: Role, trap: u8, words: String| {
        if let Some(call) = kept_off(call, known, held, by) {
            out.push(Way { call, trap, words });
        }
    };
    if known.kind == DeviceKind::Latch {
        held(Role::Set, Role::Reset, 13, format!("with {name} reset where both are on"));
        held(Role::Reset, Role::Set, 13, format!("with {name} set where both are on"));
    }
    if known.kind.is_counter() {
        held(Role::Count, Role::Reset, 10, format!("with no count of {name} while it is reset"));
        held(Role::Reset, Role::Count, 10, format!("with no reset of {name} while it counts"));
    }
    if known.kind == DeviceKind::Retentive {
        out.extend(falls_back(call, known, &name));
    }
    out
}

fn negated(of: &TExpr) -> TExpr {
    TExpr { kind: TKind::Unary(UnaryOp::Not, Box::new(of.clone())), ty: Ty::BOOL, span: of.span }
}

fn joined(op: BinaryOp, left: &TExpr, right: &TExpr) -> Option<TExpr> {
    let typing = op.typing(Elem::Bool, Elem::Bool)?;
    let kind = TKind::Binary(op, typing, Box::new(left.clone()), Box::new(right.clone()));
    Some(TExpr { kind, ty: Ty::BOOL, span: left.span })
}

/// The call with one input kept off while another is on.
fn kept_off(call: &TCall, known: &Known, held: Role, by: Role) -> Option<TCall> {
    let [held, by] = [known.field(held)?, known.field(by)?];
    let given = |field: u32| call.inputs.iter().position(|(input, _)| *input == field);
    let (at, other) = (given(held)?, &call.inputs[given(by)?].1);
    let mut out = call.clone();
    out.inputs[at].1 = joined(BinaryOp::And, &call.inputs[at].1, &negated(other))?;
    Some(out)
}

/// The call of a timer that keeps its time, reset while its input is off.
fn falls_back(call: &TCall, known: &Known, name: &str) -> Option<Way> {
    let [run, reset] = [known.field(Role::Run)?, known.field(Role::Reset)?];
    let given = |field: u32| call.inputs.iter().position(|(input, _)| *input == field);
    let off = negated(&call.inputs[given(run)?].1);
    let mut out = call.clone();
    match given(reset) {
        Some(at) => out.inputs[at].1 = joined(BinaryOp::Or, &call.inputs[at].1, &off)?,
        None => out.inputs.push((reset, off)),
    }
    Some(Way { call: out, trap: 3, words: format!("with {name} reset while its input is off") })
}
