//! Expressions written as the other side might have them: another comparison, another constant, the opposite of an input, a
//! division that goes down, a number that is limited.

use super::devices::{Devices, Known};
use super::slice::{self, Flow, Scope, Slice, asks_current};
use super::{Side, Undone};
use crate::check::Checked;
use crate::check::sites::{self, Pass, Site};
use crate::check::typed::Root::{Global, Local};
use crate::check::typed::{Code, PathStep, Place, TExpr, TInstr, TInstrKind, TKind, TStmt, TStmtKind, Ty, Var};
use crate::check::walk::{each_statement, walk, walk_block, walk_list};
use crate::model::functions::Function;
use crate::model::ops::{BinaryOp, UnaryOp};
use crate::model::sheet::{DoneWhen, Role};
use crate::model::{Duration, Elem, Family, format_duration};
use std::collections::HashSet;

/// What is changed in an expression.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Edit {
    /// Equal, at least, more than.
    Comparison,
    /// A time or a preset in another unit.
    Constant,
    /// An input that is asked for the opposite.
    Contact,
    /// What becomes of negative numbers, and of what is no whole number.
    Division,
    /// What a program reads of a timer or a counter.
    Device,
}

/// One way to change an expression.
struct Way {
    kind: TKind,
    trap: u8,
    words: String,
}

/// Units in which a preset may have been meant, as multiples of the unit in which it is written.
const UNITS: [i64; 6] = [10, 100, 1_000, 60, 3_600, 60_000];

/// Where counts end: four decimal digits, a register with and without a sign.
const LIMITS: [i64; 4] = [9_999, 10_000, 32_767, 65_535];

/// The version with change number `wanted` of a kind; `None` if there are not so many.
pub(super) fn nth(side: &Side<'_>, edit: Edit, wanted: usize) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let (mut seen, mut done) = (0, None);
    let globals = checked.globals.clone();
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let vars = unit.vars.clone();
        let scope = Scope { vars: &vars, globals: &globals };
        sites::unit(unit, &mut |pass, site| {
            let (Pass::Down, Site::Expr(expr), None) = (pass, site, &done) else { return };
            if !side.slice.covers(expr.span) {
                return;
            }
            let mut ways = ways(expr, side, scope, edit);
            if wanted < seen + ways.len() {
                let way = ways.swap_remove(wanted - seen);
                done = Some((way.trap, format!("{} in {}", way.words, side.place(expr.span))));
                expr.kind = way.kind;
            }
            seen += ways.len();
        });
    }
    let (trap, words) = done?;
    Some(Undone { checked, trap, words })
}

fn ways(expr: &TExpr, side: &Side<'_>, scope: Scope<'_>, edit: Edit) -> Vec<Way> {
    match edit {
        Edit::Comparison => comparison(expr, side, scope),
        Edit::Constant => constant(expr, side),
        Edit::Contact => contact(expr, scope),
        Edit::Division => division(expr),
        Edit::Device => device(expr, side, scope),
    }
}

fn comparison(expr: &TExpr, side: &Side<'_>, scope: Scope<'_>) -> Vec<Way> {
    let TKind::Binary(op, typing, left, right) = &expr.kind else { return Vec::new() };
    let at_limit = |e: &TExpr| matches!(e.kind, TKind::Const(n) if LIMITS.contains(&n));
    let counts = *op == BinaryOp::Eq || is_counted(expr, side, scope);
    let trap = match (counts, at_limit(left) || at_limit(right)) {
        (true, true) => 8,
        (true, false) => 9,
        (false, _) => 20,
    };
    let way = |new: &BinaryOp| Way {
        kind: TKind::Binary(*new, *typing, left.clone(), right.clone()),
        trap,
        words: format!("with `{}` in place of `{}`", new.symbol(), op.symbol()),
    };
    op.mistaken_for().iter().map(way).collect()
}

/// Whether what is compared is a count: it grows by a step, or a counter or a timer keeps it.
fn is_counted(expr: &TExpr, side: &Side<'_>, scope: Scope<'_>) -> bool {
    let mut found = false;
    walk(expr, &mut |e| {
        if let TKind::Read(place) = &e.kind {
            found |= side.counted.contains(&scope.name(place)) || of_device(place, &side.devices, scope).is_some();
        }
    });
    found
}

/// Whether a side asks what has elapsed, or for a count.
pub(super) fn reads_numbers(side: &Side<'_>) -> bool {
    let mut found = false;
    for unit in side.checked().units.iter().filter(|unit| !unit.built_in) {
        let scope = Scope { vars: &unit.vars, globals: &side.checked().globals };
        let mut look = |expr: &TExpr| {
            if let (TKind::Read(place), true) = (&expr.kind, side.slice.covers(expr.span)) {
                let role = of_device(place, &side.devices, scope).map(|(.., role)| role);
                found |= matches!(role, Some(Role::Elapsed | Role::Value));
            }
        };
        match &unit.code {
            Code::Block(list) => walk_block(list, &mut look),
            Code::List(list) => walk_list(list, &mut look),
        }
    }
    found
}

/// All strict comparisons of a side that ask for no count made inclusive, or the other way round.
pub(super) fn windows(side: &Side<'_>, strict: bool) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let globals = checked.globals.clone();
    let mut changed = 0;
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let vars = unit.vars.clone();
        let scope = Scope { vars: &vars, globals: &globals };
        sites::unit(unit, &mut |pass, site| {
            let (Pass::Down, Site::Expr(expr)) = (pass, site) else { return };
            if !side.slice.covers(expr.span) || is_counted(expr, side, scope) {
                return;
            }
            let TKind::Binary(op, ..) = &mut expr.kind else { return };
            let is_strict = matches!(op, BinaryOp::Gt | BinaryOp::Lt);
            if let ([other], true) = (op.mistaken_for(), is_strict == strict) {
                *op = *other;
                changed += 1;
            }
        });
    }
    let words = if strict { "with each strict comparison inclusive" } else { "with each inclusive comparison strict" };
    (changed > 1).then(|| Undone { checked, trap: 20, words: format!("{words} in {}", side.name()) })
}

fn constant(expr: &TExpr, side: &Side<'_>) -> Vec<Way> {
    let TKind::Const(value) = expr.kind else { return Vec::new() };
    let is_time = expr.ty.elem().is_some_and(Elem::is_time);
    let is_preset =
        side.presets.iter().any(|s| s.file == expr.span.file && s.start <= expr.span.start && expr.span.end <= s.end);
    if value <= 0 || !(is_time || is_preset) {
        return Vec::new();
    }
    let word = |value: i64| {
        if is_time { format!("T#{}", format_duration(Duration::from_nanos(value))) } else { value.to_string() }
    };
    let longer = UNITS.iter().map(|by| value.saturating_mul(*by));
    let shorter = UNITS.iter().filter(|by| value % *by == 0).map(|by| value / *by);
    let way = |new: i64| Way {
        kind: TKind::Const(new),
        trap: 1,
        words: format!("with {} in place of {}", word(new), word(value)),
    };
    let fits = |new: &i64| !is_time || side.other_times.contains(new);
    longer.chain(shorter).filter(fits).map(way).collect()
}

fn contact(expr: &TExpr, scope: Scope<'_>) -> Vec<Way> {
    let TKind::Read(place) = &expr.kind else { return Vec::new() };
    let is_input = place.steps.is_empty() && scope.var(place.root).is_some_and(Var::is_input);
    if !is_input || expr.ty != Ty::BOOL {
        return Vec::new();
    }
    vec![Way {
        kind: TKind::Unary(UnaryOp::Not, Box::new(expr.clone())),
        trap: 14,
        words: format!("with {} asked for the opposite", scope.var(place.root).map_or("", |var| var.name.as_str())),
    }]
}

fn division(expr: &TExpr) -> Vec<Way> {
    let way = |kind: TKind, words: &str| vec![Way { kind, trap: 28, words: words.to_string() }];
    match &expr.kind {
        TKind::Binary(op @ (BinaryOp::Div | BinaryOp::Mod), typing, a, b) if typing.result.family() == Family::Int => {
            let one = |op, left: &TExpr, right: &TExpr| {
                let kind = TKind::Binary(op, *typing, Box::new(left.clone()), Box::new(right.clone()));
                TExpr { kind, ty: expr.ty.clone(), span: expr.span }
            };
            let remainder = one(BinaryOp::Mod, &one(BinaryOp::Add, &one(BinaryOp::Mod, a, b), b), b);
            if *op == BinaryOp::Mod {
                return way(remainder.kind, "with a remainder that is never negative");
            }
            let down = one(BinaryOp::Div, &one(BinaryOp::Sub, a, &remainder), b);
            way(down.kind, "with a division that goes down")
        }
        TKind::Function(Function::Convert(from, to), args)
            if args[0].ty.elem().is_some_and(|e| e.family() == Family::Real) && to.is_integer() =>
        {
            way(
                TKind::Function(Function::Truncate(*from, *to), args.clone()),
                "with what lies behind the point cut off",
            )
        }
        TKind::Function(Function::Truncate(from, to), args) => {
            way(TKind::Function(Function::Convert(*from, *to), args.clone()), "with the nearest whole number")
        }
        TKind::Const(_)
        | TKind::LitInt(_)
        | TKind::LitReal(_)
        | TKind::Text(_)
        | TKind::Read(_)
        | TKind::Unary(..)
        | TKind::Binary(..)
        | TKind::Function(..)
        | TKind::Widen(_)
        | TKind::Bound(_)
        | TKind::Call(_)
        | TKind::Current
        | TKind::List(_) => Vec::new(),
    }
}

/// The instance of which a place is a pin, what it is, and which pin.
fn of_device<'d>(place: &Place, devices: &'d Devices, scope: Scope<'_>) -> Option<(Place, &'d Known, Role)> {
    let [PathStep::Field(field)] = place.steps.as_slice() else { return None };
    let ty = scope.var(place.root)?.ty.clone();
    let known = devices.of_type(&ty)?;
    let instance = Place { steps: Vec::new(), ty, ..place.clone() };
    Some((instance, known, known.role(*field)?))
}

fn device(expr: &TExpr, side: &Side<'_>, scope: Scope<'_>) -> Vec<Way> {
    let TKind::Read(place) = &expr.kind else { return Vec::new() };
    let Some((instance, known, role)) = of_device(place, &side.devices, scope) else { return Vec::new() };
    let name = scope.var(place.root).map_or("", |var| var.name.as_str());
    let Some(preset) = known.read(&instance, Role::Preset) else { return Vec::new() };
    let binary = |op: BinaryOp, left: TExpr, right: TExpr| {
        let typing = op.typing(left.ty.elem()?, right.ty.elem()?)?;
        Some(TKind::Binary(op, typing, Box::new(left), Box::new(right)))
    };
    let same = preset.ty == expr.ty && side.reads_numbers;
    match role {
        Role::Elapsed | Role::Value if same => {
            let is_timer = role == Role::Elapsed;
            let limited = Way {
                kind: TKind::Function(Function::Min, vec![expr.clone(), preset.clone()]),
                trap: if is_timer { 4 } else { 8 },
                words: format!(
                    "with {} of {name} no more than its preset",
                    if is_timer { "what has elapsed" } else { "the count" }
                ),
            };
            let left = binary(BinaryOp::Sub, preset, expr.clone()).filter(|_| is_timer).map(|kind| Way {
                kind,
                trap: 2,
                words: format!("with preset minus elapsed of {name}"),
            });
            std::iter::once(limited).chain(left).collect()
        }
        Role::Done if known.counter.as_ref().is_some_and(|facts| facts.done == DoneWhen::Equal) => {
            let at_least = known.read(&instance, Role::Value).and_then(|value| binary(BinaryOp::Ge, value, preset));
            let way = |kind| Way { kind, trap: 9, words: format!("with {name} done at its preset and beyond") };
            at_least.map(way).into_iter().collect()
        }
        Role::Run
        | Role::Preset
        | Role::Reset
        | Role::Count
        | Role::Down
        | Role::Direction
        | Role::Load
        | Role::Set
        | Role::Done
        | Role::AtZero
        | Role::Elapsed
        | Role::Value
        | Role::Timing
        | Role::Enabled
        | Role::Overflowed => Vec::new(),
    }
}

/// Variables that a version counts in: they become what they are, and something.
pub(super) fn counted(checked: &Checked) -> HashSet<String> {
    let mut out = HashSet::new();
    for unit in checked.units.iter().filter(|unit| !unit.built_in) {
        let scope = Scope { vars: &unit.vars, globals: &checked.globals };
        let mut step = |target: &Place, value: &TExpr| {
            let name = scope.name(target);
            let TKind::Binary(BinaryOp::Add | BinaryOp::Sub, _, left, _) = &value.kind else { return };
            let mut same = false;
            walk(left, &mut |e| same |= matches!(&e.kind, TKind::Read(place) if scope.name(place) == name));
            if same {
                out.insert(name);
            }
        };
        match &unit.code {
            Code::Block(list) => each_statement(list, &mut |stmt: &TStmt| {
                if let TStmtKind::Assign(target, value) = &stmt.kind {
                    step(target, value);
                }
            }),
            Code::List(list) => counted_in_list(list, scope, &mut out),
        }
    }
    out
}

fn counted_in_list(list: &[TInstr], scope: Scope<'_>, out: &mut HashSet<String>) {
    let (mut current, mut steps) = (Flow::default(), false);
    for instr in list {
        slice::instruction(instr, scope, &mut current);
        match &instr.kind {
            TInstrKind::Compute(value) => {
                steps &= asks_current(value);
                steps |= matches!(&value.kind, TKind::Binary(BinaryOp::Add | BinaryOp::Sub, ..));
            }
            TInstrKind::Store(target, value) => {
                let name = scope.name(target);
                let mut own = matches!(&value.kind, TKind::Binary(BinaryOp::Add | BinaryOp::Sub, ..));
                walk(value, &mut |e| own &= !matches!(&e.kind, TKind::Current));
                if (steps && current.reads.contains(&name)) || (own && reads(value, scope).contains(&name)) {
                    out.insert(name);
                }
            }
            TInstrKind::Nop
            | TInstrKind::Set(_)
            | TInstrKind::Reset(_)
            | TInstrKind::Jump(..)
            | TInstrKind::Call(..)
            | TInstrKind::Restart(_)
            | TInstrKind::Return(_) => {}
        }
    }
}

fn reads(value: &TExpr, scope: Scope<'_>) -> Vec<String> {
    let mut out = Vec::new();
    walk(value, &mut |e| {
        if let TKind::Read(place) = &e.kind {
            out.push(scope.name(place));
        }
    });
    out
}

/// The reads of two variables that have addresses, each taken for the other, all over a side.
pub(super) fn swapped(side: &Side<'_>, a: &str, b: &str) -> Option<Undone> {
    let mut checked = side.checked().clone();
    let globals = checked.globals.clone();
    let find = |vars: &[Var], name: &str| {
        vars.iter().position(|v| v.name.eq_ignore_ascii_case(name) && v.address.is_some()).map(|n| n as u32)
    };
    let mut changed = 0;
    let is_bit = globals
        .iter()
        .chain(checked.units.iter().flat_map(|u| &u.vars))
        .any(|v| v.name.eq_ignore_ascii_case(a) && v.ty == Ty::BOOL);
    for unit in checked.units.iter_mut().filter(|unit| !unit.built_in) {
        let own = [find(&unit.vars, a), find(&unit.vars, b)];
        let all = [find(&globals, a), find(&globals, b)];
        sites::unit(unit, &mut |pass, site| {
            let (Pass::Up, Site::Expr(TExpr { kind: TKind::Read(place), .. })) = (pass, site) else { return };
            let other = match (place.root, own, all) {
                (Local(n), [Some(a), Some(b)], _) if n == a => Local(b),
                (Local(n), [Some(a), Some(b)], _) if n == b => Local(a),
                (Global(n), _, [Some(a), Some(b)]) if n == a => Global(b),
                (Global(n), _, [Some(a), Some(b)]) if n == b => Global(a),
                _ => return,
            };
            place.root = other;
            changed += 1;
        });
    }
    (changed > 0).then(|| Undone {
        checked,
        trap: if is_bit { 16 } else { 17 },
        words: format!("with {a} and {b} the other way round in {}", side.name()),
    })
}

/// The names of a slice that have an address, with their types.
pub(super) fn addressed<'c>(checked: &'c Checked, slice: &Slice) -> Vec<&'c Var> {
    let vars = checked.globals.iter().chain(checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars));
    vars.filter(|v| v.address.is_some() && v.global.is_none() && slice.has(&v.name)).collect()
}
