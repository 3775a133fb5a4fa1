//! The statements, with the target's devices in the place of the source's.

use super::Work;
use super::devices::Instance;
use super::expr::{binary, not, word};
use super::facts::{Combine, Native};
use super::timer::convert;
use crate::model::ops::BinaryOp;
use crate::model::sheet::{Counting, Device, Past, Role};
use crate::model::{
    Arg, Body, Call, Expr, ExprKind, Item, Mention, Name, Notes, Operand, Stmt, StmtKind, TypeSpec, Walk,
};
use crate::translate::Grade;
use crate::translate::ledger::RENAMED;
use indexmap::IndexMap;
use std::collections::HashMap;

impl Work {
    /// Rewrites all bodies, then the declarations.
    pub(super) fn rewrite(&mut self) {
        let mut items = std::mem::take(&mut self.items);
        for item in &mut items {
            let Item::Unit(unit) = item else { continue };
            let name = unit.name.text.clone();
            let Body::Statements(list) = &mut unit.body else { continue };
            let shadows: Vec<String> = unit
                .sections
                .iter()
                .flat_map(|s| &s.vars)
                .flat_map(|v| &v.names)
                .map(|n| n.text.to_uppercase())
                .collect();
            let here: Vec<&Instance> = self
                .names
                .iter()
                .filter(|i| i.native.is_some())
                .filter(|i| i.unit == name || (i.unit.is_empty() && !shadows.contains(&i.name.to_uppercase())))
                .collect();
            let rewriter = Rewriter { work: self, here };
            rewriter.list(list);
        }
        self.items = items;
        self.declare();
        self.addresses_in_bodies();
    }

    /// Addresses that bodies of the standard's own conventions mention directly.
    fn addresses_in_bodies(&mut self) {
        let (from, to, rows) = (self.from.clone(), self.to.clone(), self.map.rows.clone());
        for item in &mut self.items {
            let Item::Unit(unit) = item else { continue };
            let Body::Statements(list) = &mut unit.body else { continue };
            for stmt in list {
                stmt.walk_mut(&mut |e, _| {
                    if let ExprKind::Address(name) = &mut e.kind
                        && let Some(at) = from.locate(&name.text)
                    {
                        let old = from.written(at);
                        if let Some(row) = rows.iter().find(|r| r.old.eq_ignore_ascii_case(&old)) {
                            match to.sheet().locate(&row.new) {
                                Ok(at) => name.text = to.address(at),
                                Err(_) => e.kind = ExprKind::Name(word(&row.symbol)),
                            }
                        }
                    }
                    Walk::Into
                });
            }
        }
    }

    /// Names that the target would read as addresses get another one.
    pub(super) fn rename(&mut self) {
        let to = self.to.clone();
        let clashes = |n: &str| !to.is_standard && to.sheet().address_length(n) == Some(n.len());
        let mut found: Vec<(String, String)> = Vec::new();
        self.each_declaration(|unit, _, decl| {
            let own = decl.address.as_ref().and_then(|a| to.locate(&a.text)).map(|at| to.written(at));
            for name in &decl.names {
                let is_own = own.as_ref().is_some_and(|o| crate::dialect::name_of(o).eq_ignore_ascii_case(&name.text));
                if clashes(&name.text) && !is_own {
                    found.push((unit.to_string(), name.text.clone()));
                }
            }
        });
        for (unit, old) in found {
            let new = format!("old_{old}");
            let reason = format!("`{old}` is called `{new}`, because `{old}` is an address of {}", to.sheet().name);
            self.entry(RENAMED, Grade::Exact, &unit, Some(&new), reason, Some(16));
            self.each_declaration(|of, _, decl| {
                if of == unit {
                    decl.names.iter_mut().filter(|n| n.is(&old)).for_each(|n| n.text.clone_from(&new));
                }
            });
            for item in &mut self.items {
                let Item::Unit(of) = item else { continue };
                let Body::Statements(list) = &mut of.body else { continue };
                if unit.is_empty() || of.name.text == unit {
                    rename_in(list, &old, &new);
                }
            }
            self.map.rows.iter_mut().filter(|r| r.symbol == old).for_each(|r| r.symbol.clone_from(&new));
        }
    }

    /// Units that are called like a block of the target get another name.
    pub(super) fn rename_units(&mut self) {
        let taken = |name: &Name| self.to.library.items.iter().any(|i| matches!(i, Item::Unit(u) if u.name == *name));
        let own = self.items.iter().filter_map(|i| if let Item::Unit(u) = i { Some(&u.name) } else { None });
        let clashes: Vec<String> = own.filter(|n| taken(n)).map(|n| n.text.clone()).collect();
        for old in clashes {
            let carried = self.source_block(&old).is_some();
            if carried && self.to.sheet().name == self.from.sheet().name {
                continue;
            }
            let new = format!("old_{old}");
            let reason =
                format!("`{old}` is called `{new}`, because {} has a block of that name", self.to.sheet().name);
            self.entry(RENAMED, Grade::Exact, &old, Some(&new), reason, None);
            self.rename_unit(&old, &new);
        }
    }

    fn rename_unit(&mut self, old: &str, new: &str) {
        let natives: Vec<(String, String)> =
            self.names.iter().filter(|i| i.native.is_some()).map(|i| (i.unit.clone(), i.name.clone())).collect();
        self.each_declaration(|unit, _, decl| {
            // A device of the target has the target's block, whatever the project has of that name.
            let is_native = natives.iter().any(|(u, n)| u == unit && decl.names.iter().any(|d| d.is(n)));
            if let TypeSpec::Named(block) = &mut decl.spec
                && block.is(old)
                && !is_native
            {
                block.text = new.to_string();
            }
        });
        for item in &mut self.items {
            match item {
                Item::Unit(unit) => {
                    if unit.name.is(old) {
                        unit.name.text = new.to_string();
                    }
                    let Body::Statements(list) = &mut unit.body else { continue };
                    rename_in(list, old, new);
                }
                Item::Configuration(c) => {
                    c.programs.iter_mut().filter(|p| p.unit.is(old)).for_each(|p| p.unit.text = new.to_string());
                }
                Item::Type(_) | Item::Globals(_) | Item::Envelope(_) => {}
            }
        }
    }
}

/// Gives a name another text wherever statements mention it.
fn rename_in(list: &mut [Stmt], old: &str, new: &str) {
    for stmt in list {
        stmt.walk_mut(&mut |e, _| {
            if let ExprKind::Name(name) = &mut e.kind
                && name.is(old)
            {
                name.text = new.to_string();
            }
            Walk::Into
        });
    }
}

struct Rewriter<'w> {
    work: &'w Work,
    here: Vec<&'w Instance>,
}

impl Rewriter<'_> {
    fn find(&self, expr: &Expr) -> Option<(&Instance, &Native)> {
        let ExprKind::Name(name) = &expr.kind else { return None };
        let instance = self.here.iter().find(|i| name.is(&i.name))?;
        Some((instance, instance.native.as_ref()?))
    }

    fn list(&self, list: &mut Vec<Stmt>) {
        let mut out: Vec<Stmt> = Vec::new();
        for mut stmt in std::mem::take(list) {
            stmt.bodies_mut(&mut |body| self.list(body));
            let mut after = Vec::new();
            self.statement(&mut stmt, &mut after);
            let span = stmt.span;
            out.push(stmt);
            join_reset(&mut out, self);
            out.extend(after.into_iter().map(|kind| Stmt { kind, span, notes: Notes::default() }));
        }
        *list = out;
    }

    fn statement(&self, stmt: &mut Stmt, after: &mut Vec<StmtKind>) {
        match &mut stmt.kind {
            StmtKind::Assign(target, value) => {
                self.reads(value);
                if let ExprKind::Field(base, pin) = &mut target.kind
                    && let Some((instance, plan)) = self.find(base)
                {
                    let from = &self.work.from.sheet().devices[instance.device];
                    let role = from.pins.iter().find(|(_, p)| pin.is(p)).map(|(role, _)| *role);
                    let to = &self.work.to.sheet().devices[plan.device];
                    if let Some((role, own)) = role.and_then(|role| Some((role, to.pins.get(&role)?))) {
                        *pin = word(own);
                        if let (Role::Preset, Some(scale)) = (role, plan.scale) {
                            *value = convert(scale, value.clone());
                        }
                    }
                } else {
                    self.reads(target);
                }
            }
            StmtKind::Call(call) if self.find(&call.callee).is_some() => self.call(call, after),
            StmtKind::Call(call) => {
                let mut whole = Expr { kind: ExprKind::Call(Box::new(call.clone())), span: stmt.span };
                self.reads(&mut whole);
                if let ExprKind::Call(read) = whole.kind {
                    *call = *read;
                }
            }
            StmtKind::If(branches, _) => branches.iter_mut().for_each(|(condition, _)| self.reads(condition)),
            StmtKind::Case(selector, ..) => self.reads(selector),
            StmtKind::For(head, _) => {
                for value in [&mut head.from, &mut head.to].into_iter().chain(&mut head.by) {
                    self.reads(value);
                }
            }
            StmtKind::While(condition, _) | StmtKind::Repeat(_, condition) => self.reads(condition),
            StmtKind::Empty | StmtKind::Exit | StmtKind::Continue | StmtKind::Return => {}
        }
    }

    /// Outputs that are read become what the plan says.
    fn reads(&self, expr: &mut Expr) {
        expr.walk_mut(Mention::Read, &mut |e, _| {
            if self.compares(e) {
                return Walk::Past;
            }
            let ExprKind::Field(base, pin) = &e.kind else { return Walk::Into };
            let Some((instance, plan)) = self.find(base) else { return Walk::Into };
            let from = &self.work.from.sheet().devices[instance.device];
            let role = from.pins.iter().find(|(_, p)| pin.is(p)).map(|(role, _)| *role);
            let to = &self.work.to.sheet().devices[plan.device];
            if let Some(own) = role.filter(|r| r.is_input()).and_then(|r| to.pins.get(&r)) {
                *e = super::expr::field(&instance.name, own);
            } else if let Some(read) = role.and_then(|role| plan.outputs.get(&role)) {
                *e = read.clone();
            }
            Walk::Past
        });
    }

    /// `T0.ELAPSED >= 30` of ticks as `T0.ET >= T#3s`.
    fn compares(&self, expr: &mut Expr) -> bool {
        let ExprKind::Binary(op, left, right) = &mut expr.kind else { return false };
        let ExprKind::Field(base, pin) = &left.kind else { return false };
        let Some((instance, plan)) = self.find(base) else { return false };
        let from = &self.work.from.sheet().devices[instance.device];
        let to = &self.work.to.sheet().devices[plan.device];
        let is_elapsed = from.pins.get(&Role::Elapsed).is_some_and(|p| pin.is(p));
        let plain = |d: &Device| d.timer.as_ref().is_some_and(|t| t.counts == Counting::Up && t.past == Past::Stops);
        let own = to.pins.get(&Role::Elapsed);
        let (true, true, Some(own)) = (is_elapsed, plain(from) && plain(to), own) else { return false };
        let Some((as_time, value)) = super::expr::constant(right).and_then(|n| super::timer::compared(plan, *op, n))
        else {
            return false;
        };
        let read = super::expr::field(&instance.name, own);
        *op = as_time;
        **left = read;
        **right = value;
        true
    }

    fn call(&self, call: &mut Call, after: &mut Vec<StmtKind>) {
        let Some((instance, plan)) = self.find(&call.callee) else { return };
        let (instance, plan) = (instance.clone(), plan.clone());
        let from = &self.work.from.sheet().devices[instance.device];
        let to = &self.work.to.sheet().devices[plan.device];
        let inputs = self.work.source_block(&from.block).map_or(Vec::new(), super::usage::inputs_of);
        let role_of = |pin: &str| from.pins.iter().find(|(_, p)| p.eq_ignore_ascii_case(pin)).map(|(role, _)| *role);
        let mut given: IndexMap<Role, Expr> = IndexMap::new();
        for (position, arg) in std::mem::take(&mut call.args).into_iter().enumerate() {
            let (role, mut value) = match arg {
                Arg::Input(pin, Operand::Expr(value)) => (role_of(&pin.text), value),
                Arg::Plain(Operand::Expr(value)) => (inputs.get(position).and_then(|p| role_of(p)), value),
                Arg::Output { name, negated, target } => {
                    let read = role_of(&name.text).and_then(|role| plan.outputs.get(&role).cloned());
                    if let Some(read) = read {
                        after.push(StmtKind::Assign(target, if negated { not(read) } else { read }));
                    }
                    continue;
                }
                Arg::Plain(Operand::List(_)) | Arg::Input(_, Operand::List(_)) => continue,
            };
            self.reads(&mut value);
            if let Some(role) = role {
                given.insert(role, value);
            }
        }
        call.args = arguments(combined(given, plan.combine), to, &plan);
    }
}

/// The inputs by the roles of the target.
fn combined(mut given: IndexMap<Role, Expr>, combine: Combine) -> IndexMap<Role, Expr> {
    let mut take = |role: Role| given.shift_remove(&role);
    match combine {
        Combine::Each => {}
        Combine::GateReset => {
            if let (Some(run), Some(reset)) = (take(Role::Run), take(Role::Reset)) {
                given.insert(Role::Run, binary(BinaryOp::And, run, not(reset)));
            }
        }
        Combine::ToDirection => {
            if let (Some(up), Some(down)) = (take(Role::Count), take(Role::Down)) {
                given.insert(Role::Direction, up.clone());
                given.insert(Role::Count, binary(BinaryOp::Or, up, down));
            }
        }
        Combine::FromDirection => {
            if let (Some(count), Some(up)) = (take(Role::Count), take(Role::Direction)) {
                given.insert(Role::Count, binary(BinaryOp::And, count.clone(), up.clone()));
                given.insert(Role::Down, binary(BinaryOp::And, count, not(up)));
            }
        }
        Combine::SetWins | Combine::ResetWins => {
            if let (Some(set), Some(reset)) = (take(Role::Set), take(Role::Reset)) {
                let (set, reset) = if combine == Combine::SetWins {
                    (set.clone(), binary(BinaryOp::And, reset, not(set)))
                } else {
                    (binary(BinaryOp::And, set, not(reset.clone())), reset)
                };
                given.insert(Role::Set, set);
                given.insert(Role::Reset, reset);
            }
        }
    }
    given
}

/// The inputs as arguments, in the order of the target's sheet.
fn arguments(given: IndexMap<Role, Expr>, to: &Device, plan: &Native) -> Vec<Arg> {
    let order: HashMap<Role, usize> = to.pins.keys().enumerate().map(|(i, r)| (*r, i)).collect();
    let mut all: Vec<(Role, Expr)> = given.into_iter().collect();
    all.sort_by_key(|(role, _)| order.get(role).copied().unwrap_or(usize::MAX));
    let arg = |(role, value): (Role, Expr)| {
        let pin = to.pins.get(&role)?;
        let value = match (role, plan.scale) {
            (Role::Preset, Some(scale)) => convert(scale, value),
            _ => value,
        };
        Some(Arg::Input(word(pin), Operand::Expr(value)))
    };
    all.into_iter().filter_map(arg).collect()
}

/// A reset right before the call it belongs to is one call with it: the block sees the same inputs in the same order.
fn join_reset(out: &mut Vec<Stmt>, rewriter: &Rewriter<'_>) {
    let [.., first, second] = out.as_slice() else { return };
    let (StmtKind::Call(reset), StmtKind::Call(main)) = (&first.kind, &second.kind) else { return };
    let Some((instance, plan)) = rewriter.find(&main.callee).filter(|_| reset.callee == main.callee) else { return };
    let to = &rewriter.work.to.sheet().devices[plan.device];
    let is = |arg: &Arg, role: Role| matches!(arg, Arg::Input(n, _) if to.pins.get(&role).is_some_and(|p| n.is(p)));
    let only_reset = matches!(reset.args.as_slice(), [only] if is(only, Role::Reset));
    let resets = main.args.iter().any(|a| is(a, Role::Reset));
    let mentions = |arg: &Arg| {
        if let Arg::Input(_, Operand::Expr(value)) = arg {
            let mut found = false;
            value.roots(&mut |root| found |= root.eq_ignore_ascii_case(&instance.name));
            found
        } else {
            true
        }
    };
    if !only_reset || resets || main.args.iter().any(mentions) || !second.notes.leading.is_empty() {
        return;
    }
    let Some(second) = out.pop() else { return };
    let Some(first) = out.pop() else { return };
    let (StmtKind::Call(reset), StmtKind::Call(mut main)) = (first.kind, second.kind) else { return };
    let order = |arg: &Arg| to.pins.values().position(|p| matches!(arg, Arg::Input(n, _) if n.is(p)));
    main.args.extend(reset.args);
    main.args.sort_by_key(order);
    let mut notes = first.notes;
    notes.leading.append(&mut notes.trailing);
    notes.trailing = second.notes.trailing;
    out.push(Stmt { kind: StmtKind::Call(main), span: second.span, notes });
}
