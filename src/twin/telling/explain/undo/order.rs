//! The same statements in another order, or under other conditions: what is written above where it is read, decisions as
//! several, a device called in every scan, what stands below the end marker.

use super::devices::Devices;
use super::slice::{self, Flow, Scope};
use super::{Side, Undone};
use crate::check::sites::{self, Pass, Site};
use crate::check::typed::{Callee, Code, TCall, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, Var};
use crate::check::walk::{each_statement, walk};
use crate::model::When;
use crate::model::sheet::Role;
use crate::source::Span;
use std::collections::HashMap;
use std::ops::Range;

/// Statements, or the instructions that belong together, with what they do.
struct Item {
    at: Range<usize>,
    flow: Flow,
    span: Span,
    /// It only gives a variable a constant: from then on it is another one than to begin with.
    begins: bool,
}

/// A pair of items whose order matters, and what a change of it would be.
struct Change {
    upper: Range<usize>,
    lower: Range<usize>,
    /// They change places; otherwise the lower one goes in front of the upper one.
    swaps: bool,
    trap: u8,
    spans: [Span; 2],
}

/// Pairs that are tried in a list at most.
const MOST_CHANGES: usize = 60;

/// The version with change number `wanted` of the order; `None` if there are not so many.
pub(super) fn nth(side: &Side<'_>, wanted: usize) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let globals = checked.globals.clone();
    let (mut seen, mut done) = (0, None);
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let vars = unit.vars.clone();
        let scope = Scope { vars: &vars, globals: &globals };
        sites::unit(unit, &mut |pass, site| {
            if pass == Pass::Up || done.is_some() {
                return;
            }
            done = match site {
                Site::Statements(list) => {
                    let all = changes(&of_statements(list, scope), side, scope, &calls_of(list));
                    applied(list, all, wanted, &mut seen)
                }
                Site::Instructions(list) => {
                    let all = changes(&of_instructions(list, scope), side, scope, &calls_in(list));
                    applied(list, all, wanted, &mut seen)
                }
                Site::Expr(_) => None,
            };
        });
    }
    let Change { trap, swaps, spans: [upper, lower], .. } = done?;
    let [upper, lower] = [upper, lower].map(|span| side.text(span));
    let words = match swaps {
        true => format!("with {upper} and {lower} in the other order"),
        false => format!("with {lower} in front of {upper}"),
    };
    Some(Undone { checked, trap, words })
}

/// Does the change of that number to a list, if it is one of this list's.
fn applied<T>(list: &mut [T], mut changes: Vec<Change>, wanted: usize, seen: &mut usize) -> Option<Change> {
    let before = *seen;
    *seen += changes.len();
    if wanted >= *seen {
        return None;
    }
    let change = changes.swap_remove(wanted - before);
    let (upper, lower) = (&change.upper, &change.lower);
    let region = &mut list[upper.start..lower.end];
    region.rotate_right(lower.len());
    if change.swaps {
        // The upper one goes to the end, over what lies between them.
        region[lower.len()..].rotate_left(upper.len());
    }
    Some(change)
}

fn of_statements(list: &[TStmt], scope: Scope<'_>) -> Vec<Item> {
    let item = |(at, stmt): (usize, &TStmt)| Item {
        at: at..at + 1,
        flow: slice::whole(stmt, scope),
        span: stmt.span,
        begins: matches!(&stmt.kind, TStmtKind::Assign(_, value) if matches!(value.kind, TKind::Const(_))),
    };
    list.iter().enumerate().map(item).collect()
}

/// Runs of instructions that hand nothing on to the next run, neither a current result nor a wire. A list with jumps or labels
/// is left as it is.
fn of_instructions(list: &[TInstr], scope: Scope<'_>) -> Vec<Item> {
    let mut out: Vec<Item> = Vec::new();
    let (mut current, mut from) = (Flow::default(), 0);
    let mut flow = Flow::default();
    let ends = ends(list, scope);
    for (at, instr) in list.iter().enumerate() {
        let own = slice::instruction(instr, scope, &mut current);
        flow.reads.extend(own.reads);
        flow.writes.extend(own.writes);
        if ends[at] {
            out.push(Item { at: from..at + 1, flow: std::mem::take(&mut flow), span: instr.span, begins: false });
            from = at + 1;
        }
    }
    let jumps = |item: &Item| {
        list[item.at.clone()]
            .iter()
            .any(|i| i.label.is_some() || matches!(i.kind, TInstrKind::Jump(..) | TInstrKind::Return(_)))
    };
    if out.iter().any(jumps) { Vec::new() } else { out }
}

/// Of each instruction whether nothing behind it takes what it and those before it have left.
fn ends(list: &[TInstr], scope: Scope<'_>) -> Vec<bool> {
    // From the end: whether the current result is taken from here on, and where each wire is read last.
    let (mut asked, mut last) = (vec![false; list.len() + 1], HashMap::new());
    for (at, instr) in list.iter().enumerate().rev() {
        let mut takes = false;
        let mut look = |value: &TExpr| {
            walk(value, &mut |e| match &e.kind {
                TKind::Current => takes = true,
                TKind::Read(place) => {
                    if scope.var(place.root).is_some_and(Var::is_hidden) {
                        last.entry(place.root).or_insert(at);
                    }
                }
                TKind::Const(_)
                | TKind::LitInt(_)
                | TKind::LitReal(_)
                | TKind::Text(_)
                | TKind::Unary(..)
                | TKind::Binary(..)
                | TKind::Function(..)
                | TKind::Widen(_)
                | TKind::Bound(_)
                | TKind::Call(_)
                | TKind::List(_) => {}
            });
        };
        match &instr.kind {
            TInstrKind::Compute(value) | TInstrKind::Store(_, value) => look(value),
            TInstrKind::Call(_, call) => call.inputs.iter().map(|(_, e)| e).chain(&call.en).for_each(look),
            TInstrKind::Set(_) | TInstrKind::Reset(_) => takes = true,
            TInstrKind::Nop | TInstrKind::Jump(..) | TInstrKind::Restart(_) | TInstrKind::Return(_) => {}
        }
        let is_fresh = matches!(instr.kind, TInstrKind::Compute(_));
        asked[at] = takes || (!is_fresh && asked[at + 1]);
    }
    let mut open = 0;
    let end = |(at, instr): (usize, &TInstr)| {
        if let TInstrKind::Store(place, _) = &instr.kind {
            open = open.max(last.get(&place.root).copied().unwrap_or(0));
        }
        open <= at && !asked[at + 1]
    };
    list.iter().enumerate().map(end).collect()
}

fn calls_of(list: &[TStmt]) -> Vec<Option<&TCall>> {
    list.iter().map(|s| if let TStmtKind::Call(call) = &s.kind { Some(call) } else { None }).collect()
}

fn calls_in(list: &[TInstr]) -> Vec<Option<&TCall>> {
    list.iter().map(|i| if let TInstrKind::Call(_, call) = &i.kind { Some(call) } else { None }).collect()
}

fn changes(items: &[Item], side: &Side<'_>, scope: Scope<'_>, calls: &[Option<&TCall>]) -> Vec<Change> {
    let mut out = Vec::new();
    for (number, lower) in items.iter().enumerate() {
        if !lower.flow.writes.iter().any(|name| side.slice.has(name)) {
            continue;
        }
        for upper in items[..number].iter().rev() {
            if out.len() >= MOST_CHANGES {
                return out;
            }
            let read = lower
                .flow
                .writes
                .iter()
                .find(|name| upper.flow.reads.contains(name) || upper.flow.writes.contains(name));
            let both = lower.flow.writes.iter().find(|name| upper.flow.writes.contains(name));
            let spans = [upper.span, lower.span];
            let change = |swaps, trap| {
                let (upper, lower) = (upper.at.clone(), lower.at.clone());
                Change { upper, lower, swaps, trap, spans }
            };
            if let Some(name) = read {
                out.push(change(false, moved(name, upper, lower, side, scope, calls)));
            }
            if both.is_some() {
                out.push(change(true, 13));
            }
        }
    }
    out
}

/// The trap that it is when something is written below where it is read.
fn moved(name: &str, upper: &Item, lower: &Item, side: &Side<'_>, scope: Scope<'_>, calls: &[Option<&TCall>]) -> u8 {
    let vars = || scope.vars.iter().chain(scope.globals);
    if let Some(known) = vars().find(|v| v.name.eq_ignore_ascii_case(name)).and_then(|v| side.devices.of_type(&v.ty)) {
        return match known.kind {
            kind if kind.is_timer() => 5,
            kind if kind.is_counter() => 10,
            _ => 22,
        };
    }
    if upper.flow.writes.iter().any(|w| w.eq_ignore_ascii_case(name)) {
        return 13;
    }
    let as_preset = calls[upper.at.clone()].iter().flatten().any(|call| {
        let preset = side.devices.get(call.unit).and_then(|known| known.field(Role::Preset));
        let given = call.inputs.iter().filter(|(input, _)| Some(*input) == preset);
        given.into_iter().any(|(_, value)| reads(value, name, scope))
    });
    match (as_preset, side.restarts, lower.begins) {
        (true, ..) => 12,
        (_, true, _) => 6,
        (.., true) => 29,
        (false, false, false) => 22,
    }
}

fn reads(value: &TExpr, name: &str, scope: Scope<'_>) -> bool {
    let mut found = false;
    walk(value, &mut |e| {
        found |= matches!(&e.kind, TKind::Read(place) if scope.name(place).eq_ignore_ascii_case(name));
    });
    found
}

/// The version with its decisions that have several branches made several decisions, of which the first is the last to write.
pub(super) fn unchained(side: &Side<'_>) -> Option<Undone> {
    let mut words = None;
    let checked = each_list(side, &mut |list| {
        for at in (0..list.len()).rev() {
            let TStmtKind::If(branches, otherwise) = &list[at].kind else { continue };
            if branches.len() < 2 {
                continue;
            }
            let span = list[at].span;
            words.get_or_insert_with(|| format!("with each branch a decision of its own in {}", side.place(span)));
            let one =
                |branch: &(TExpr, Vec<TStmt>)| TStmt { kind: TStmtKind::If(vec![branch.clone()], Vec::new()), span };
            let several: Vec<TStmt> = otherwise.iter().cloned().chain(branches.iter().map(one)).collect();
            list.splice(at..=at, several);
        }
    });
    Some(Undone { checked, trap: 21, words: words? })
}

/// The version with branches that only clear, when nothing else is decided, left out.
pub(super) fn kept(side: &Side<'_>) -> Option<Undone> {
    let clears =
        |stmt: &TStmt| matches!(&stmt.kind, TStmtKind::Assign(_, value) if matches!(value.kind, TKind::Const(0)));
    let mut words = None;
    let checked = each_list(side, &mut |list| {
        for stmt in list {
            let TStmtKind::If(_, otherwise) = &mut stmt.kind else { continue };
            if !otherwise.is_empty() && otherwise.iter().all(clears) {
                words.get_or_insert_with(|| format!("with what ELSE clears kept in {}", side.place(stmt.span)));
                otherwise.clear();
            }
        }
    });
    Some(Undone { checked, trap: 27, words: words? })
}

fn each_list(side: &Side<'_>, change: &mut dyn FnMut(&mut Vec<TStmt>)) -> crate::check::Checked {
    let mut checked = side.checked().clone();
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        sites::unit(unit, &mut |pass, site| {
            if let (Pass::Up, Site::Statements(list)) = (pass, site) {
                change(list);
            }
        });
    }
    checked
}

/// The version with devices that stand first in a branch, or in what is jumped over, called in every scan.
pub(super) fn hoisted(side: &Side<'_>) -> Option<Undone> {
    let mut found: Option<(u8, String)> = None;
    let mut note = |call: &TCall, devices: &Devices| {
        let Some(known) = devices.get(call.unit) else { return false };
        let is_edge = known.edge.is_some();
        if !(is_edge || known.kind.is_timer()) {
            return false;
        }
        let words = || format!("with {} called in every scan", side.place(call.span));
        let trap = if is_edge { 24 } else { 25 };
        found = Some(found.take().unwrap_or_else(|| (trap, words())));
        true
    };
    let mut checked = side.checked().clone();
    let globals = checked.globals.clone();
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let vars = unit.vars.clone();
        sites::unit(unit, &mut |pass, site| match (pass, site) {
            (Pass::Up, Site::Statements(list)) => hoist(list, &mut |call| note(call, &side.devices)),
            (Pass::Up, Site::Instructions(list)) => {
                lift(list, Scope { vars: &vars, globals: &globals }, &mut |call| note(call, &side.devices));
            }
            (Pass::Up, Site::Expr(_)) | (Pass::Down, _) => {}
        });
    }
    let (trap, words) = found?;
    Some(Undone { checked, trap, words })
}

fn hoist(list: &mut Vec<TStmt>, is_device: &mut dyn FnMut(&TCall) -> bool) {
    for at in (0..list.len()).rev() {
        let TStmtKind::If(branches, otherwise) = &mut list[at].kind else { continue };
        let mut out = Vec::new();
        for body in branches.iter_mut().map(|(_, body)| body).chain([otherwise]) {
            while let Some(TStmt { kind: TStmtKind::Call(call), .. }) = body.first()
                && is_device(call)
            {
                out.push(body.remove(0));
            }
        }
        list.splice(at..at, out);
    }
}

/// In a list: calls that a jump leaps over go in front of what it asks.
fn lift(list: &mut [TInstr], scope: Scope<'_>, is_device: &mut dyn FnMut(&TCall) -> bool) {
    let (mut at, mut ends) = (0, ends(list, scope));
    while at < list.len() {
        let TInstrKind::Jump(When::IfTrue | When::IfFalse, label) = &list[at].kind else {
            at += 1;
            continue;
        };
        let target = list[at..].iter().position(|i| i.label.as_ref() == Some(label)).map_or(at, |n| at + n);
        let mut to = (0..=at).rev().find(|n| *n == 0 || ends[n - 1]).unwrap_or(0);
        let mut from = at + 1;
        let mut lifted = 0;
        for end in at + 1..target {
            if !ends[end] {
                continue;
            }
            let group = from..end + 1;
            let is_call = |i: &TInstr| matches!(&i.kind, TInstrKind::Call(..)) && i.label.is_none();
            let call = list[group.clone()].iter().find(|i| is_call(i));
            if let Some(TInstr { kind: TInstrKind::Call(_, call), .. }) = call
                && is_device(call)
            {
                list[to..group.end].rotate_right(group.len());
                ends[to..group.end].rotate_right(group.len());
                to += group.len();
                lifted += group.len();
            }
            from = end + 1;
        }
        at += lifted + 1;
    }
}

/// The version without its end marker, if something stands below it.
pub(super) fn unended(side: &Side<'_>) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let mut found = None;
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        match &mut unit.code {
            Code::Block(list) => {
                if let Some(at) = list.iter().position(|s| matches!(s.kind, TStmtKind::Return))
                    && at + 1 < list.len()
                {
                    found = Some(list.remove(at).span);
                }
            }
            Code::List(list) => {
                let count = list.len();
                for (at, instr) in list.iter_mut().enumerate().take(count.saturating_sub(1)) {
                    if matches!(instr.kind, TInstrKind::Return(When::Always)) && found.is_none() && at + 1 < count {
                        found = Some(instr.span);
                        instr.kind = TInstrKind::Nop;
                    }
                }
            }
        }
    }
    Some(Undone { checked, trap: 23, words: format!("without the end in {}", side.place(found?)) })
}

/// Whether a call of a timer asks for the timer's own done bit.
pub(super) fn restarts_itself(side: &Side<'_>) -> bool {
    let own = |call: &TCall, given: &Flow, scope: Scope<'_>| {
        let Callee::Block(instance) = &call.callee else { return false };
        let name = scope.name(instance);
        let is_timer = side.devices.get(call.unit).is_some_and(|known| known.kind.is_timer());
        let asks = given.reads.contains(&name) || call.inputs.iter().any(|(_, e)| reads(e, &name, scope));
        is_timer && side.slice.has(&name) && asks
    };
    side.checked().units.iter().filter(|unit| !unit.built_in).any(|unit| {
        let scope = Scope { vars: &unit.vars, globals: &side.checked().globals };
        let mut found = false;
        match &unit.code {
            Code::Block(list) => each_statement(list, &mut |stmt| {
                found |= matches!(&stmt.kind, TStmtKind::Call(call) if own(call, &Flow::default(), scope));
            }),
            Code::List(list) => {
                // What a call is given may stand in the current result.
                let mut current = Flow::default();
                for instr in list {
                    found |= matches!(&instr.kind, TInstrKind::Call(_, call) if own(call, &current, scope));
                    slice::instruction(instr, scope, &mut current);
                }
            }
        }
        found
    })
}
