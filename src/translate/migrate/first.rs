//! The bit that is TRUE in the first scan: the target's own, or two statements that make it.

use super::{MapRow, Work};
use crate::model::ops::UnaryOp;
use crate::model::{
    Body, Expr, ExprKind, Item, Mention, Name, Notes, Retain, Section, Stmt, StmtKind, Unit, UnitKind, VarDecl,
};
use crate::source::Span;
use crate::translate::Grade;
use crate::translate::ledger::FIRST_SCAN;

/// A flag that is declared: the unit (empty: global), and its name.
struct Flag {
    unit: String,
    name: Name,
}

impl Work {
    /// Gives the flag its place in the target. Without one there it becomes a variable, which the first statement of a program
    /// writes from a second one that is FALSE until then.
    pub(super) fn first_scan(&mut self) {
        self.made_before();
        let Some(old) = self.from.sheet().first_scan() else { return };
        let from = self.from.clone();
        let mut flags = Vec::new();
        let place = self.to.sheet().first_scan();
        let address = place.map(|at| self.to.address(at));
        self.each_declaration(|unit, _, decl| {
            let is_flag = decl.address.as_ref().and_then(|a| from.locate(&a.text)) == Some(old);
            if let (true, [name]) = (is_flag, decl.names.as_slice()) {
                flags.push(Flag { unit: unit.to_string(), name: name.clone() });
                decl.address = address.clone().map(|text| Name { text, span: name.span });
            }
        });
        let old = self.from.written(old);
        for flag in flags {
            let name = flag.name.text.clone();
            let new = place.map(|at| self.to.written(at)).unwrap_or_default();
            let (reason, why) = match place {
                Some(_) => {
                    (format!("`{name}` at {old} is TRUE in the first scan; here that is {new}"), "the first-scan flag")
                }
                None => {
                    let reason = format!(
                        "{old} is TRUE in the first scan; here `{name}` is a variable that the first statement writes, from `{name}Before`"
                    );
                    (reason, "made by a statement")
                }
            };
            let grade = if place.is_some() || self.is_exact(&flag) { Grade::Exact } else { Grade::Conditional };
            self.entry(FIRST_SCAN, grade, &flag.unit, Some(&name), reason, Some(29));
            let (old, why) = (old.clone(), why.to_string());
            self.map.rows.push(MapRow { old, symbol: name, comment: String::new(), new, why });
            if place.is_none() {
                self.make(&flag);
            }
        }
    }

    /// Two statements at the head of the only program that make such a flag are the target's own flag, if it has one.
    fn made_before(&mut self) {
        let Some(place) = self.to.sheet().first_scan() else { return };
        let is_program = |item: &&mut Item| matches!(item, Item::Unit(unit) if unit.kind == UnitKind::Program);
        let mut programs: Vec<&mut Item> = self.items.iter_mut().filter(is_program).collect();
        let [Item::Unit(unit)] = programs.as_mut_slice() else { return };
        let Body::Statements(list) = &mut unit.body else { return };
        let Some((flag, before)) = made(list) else { return };
        let is_plain = |name: &str| {
            let own = unit.sections.iter().filter(|s| s.section == Section::Local && s.retain != Retain::Retain);
            let decl = own.flat_map(|s| &s.vars).find(|d| matches!(d.names.as_slice(), [n] if n.is(name)));
            decl.is_some_and(|d| d.init.is_none() && d.address.is_none())
        };
        if !is_plain(&flag) || !is_plain(&before) {
            return;
        }
        list.drain(..2);
        let address = self.to.address(place);
        for section in &mut unit.sections {
            section.vars.retain(|d| !d.names.iter().any(|n| n.is(&before)));
            for decl in section.vars.iter_mut().filter(|d| d.names.iter().any(|n| n.is(&flag))) {
                decl.address = Some(Name { text: address.clone(), span: decl.names[0].span });
            }
        }
        let unit = unit.name.text.clone();
        let new = self.to.written(place);
        let reason = format!("`{flag}` is TRUE in the first scan; here that is {new}");
        self.entry(FIRST_SCAN, Grade::Exact, &unit, Some(&flag), reason, Some(29));
    }

    /// Declares what the flag is made from, and writes the two statements at the head of the unit that has it; if it is shared,
    /// of the first program.
    fn make(&mut self, flag: &Flag) {
        let span = flag.name.span;
        let before = format!("{}Before", flag.name.text);
        let own = self.writer(flag).map(|unit| unit.name.text.clone());
        for item in &mut self.items {
            match item {
                Item::Unit(unit) => {
                    if unit.name.text == flag.unit {
                        unit.sections.iter_mut().for_each(|section| declare(&mut section.vars, flag, &before));
                    }
                    if let (true, Body::Statements(list)) = (own.as_ref() == Some(&unit.name.text), &mut unit.body) {
                        list.splice(0..0, statements(&flag.name.text, &before, span));
                    }
                }
                Item::Globals(section) if flag.unit.is_empty() => declare(&mut section.vars, flag, &before),
                Item::Configuration(c) if flag.unit.is_empty() => {
                    c.globals.iter_mut().for_each(|section| declare(&mut section.vars, flag, &before));
                }
                Item::Globals(_) | Item::Configuration(_) | Item::Type(_) | Item::Envelope(_) => {}
            }
        }
    }

    /// The unit that writes the flag.
    fn writer(&self, flag: &Flag) -> Option<&Unit> {
        let mut units =
            self.items.iter().filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None });
        units.find(|unit| match flag.unit.is_empty() {
            true => unit.kind == UnitKind::Program,
            false => unit.name.text == flag.unit,
        })
    }

    /// Whether the two statements do just what the controller did: one program runs, and it is the one that writes the flag.
    fn is_exact(&self, flag: &Flag) -> bool {
        let is_program = |item: &&Item| matches!(item, Item::Unit(unit) if unit.kind == UnitKind::Program);
        self.items.iter().filter(is_program).count() == 1
            && self.writer(flag).is_some_and(|unit| unit.kind == UnitKind::Program)
    }
}

/// Declares what a flag is made from behind the flag.
fn declare(vars: &mut Vec<VarDecl>, flag: &Flag, before: &str) {
    if let Some(at) = vars.iter().position(|d| d.names.iter().any(|n| n.text == flag.name.text)) {
        let names = vec![Name { text: before.to_string(), span: flag.name.span }];
        let own = VarDecl { names, address: None, notes: Notes::default(), ..vars[at].clone() };
        vars.insert(at + 1, own);
    }
}

/// The names in `flag := NOT before; before := TRUE;` at the head of a list, if nothing else writes the one or mentions the other.
fn made(list: &[Stmt]) -> Option<(String, String)> {
    let [Stmt { kind: StmtKind::Assign(flag, value), .. }, Stmt { kind: StmtKind::Assign(before, on), .. }, rest @ ..] =
        list
    else {
        return None;
    };
    let (ExprKind::Name(flag), ExprKind::Name(before)) = (&flag.kind, &before.kind) else { return None };
    let ExprKind::Unary(UnaryOp::Not, inner) = &value.kind else { return None };
    let is_made = matches!(&inner.kind, ExprKind::Name(n) if n.is(&before.text)) && *on == Expr::truth(true, on.span);
    let mut is_alone = true;
    crate::model::each_statement(rest, &mut |stmt| {
        stmt.own(&mut |expr, mention| {
            let mut root = false;
            expr.roots(&mut |name| {
                is_alone &= !name.eq_ignore_ascii_case(&before.text);
                root |= name.eq_ignore_ascii_case(&flag.text);
            });
            is_alone &= !(root && mention != Mention::Read);
        });
    });
    (is_made && is_alone).then(|| (flag.text.clone(), before.text.clone()))
}

/// `flag := NOT before; before := TRUE;`
fn statements(flag: &str, before: &str, span: Span) -> [Stmt; 2] {
    let assign = |target: &str, value: Expr, notes: Notes| Stmt {
        kind: StmtKind::Assign(Expr::variable(target, span), value),
        span,
        notes,
    };
    let negated = Expr { kind: ExprKind::Unary(UnaryOp::Not, Box::new(Expr::variable(before, span))), span };
    [assign(flag, negated, Notes::default()), assign(before, Expr::truth(true, span), Notes::default())]
}
