//! Routines of a list become function blocks without pins, each with one instance that all share: what they say of points
//! and devices is said of those of the project.

use crate::model::sheet::Routines;
use crate::model::{
    Body, Expr, ExprKind, Head, Instr, InstrKind, Item, Name, Notes, Retain, Section, TypeSpec, Unit, UnitKind,
    VarDecl, VarSection, When,
};
use crate::source::{Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

/// Takes the routines out of the lists of a project, and declares their instances.
pub(super) fn split(items: &mut Vec<Item>, routines: &Routines, problems: &mut Vec<Diagnostic>) {
    let mut found: Vec<Unit> = Vec::new();
    for item in items.iter_mut() {
        if let Item::Unit(Unit { kind: UnitKind::Program, body: Body::Instructions(list), .. }) = item {
            found.extend(take(list, routines, problems));
        }
    }
    let mut first: HashMap<String, Span> = HashMap::new();
    found.retain(|unit| {
        let name = &unit.name;
        let other = first.get(&name.text.to_uppercase()).copied();
        if let Some(span) = other {
            let message = format!("there are two routines `{}`", Routines::written(&name.text));
            problems.push(Diagnostic::error(codes::DUPLICATE, name.span, message).related(span, "the first one"));
        } else {
            first.insert(name.text.to_uppercase(), name.span);
        }
        other.is_none()
    });
    found.extend(unknown(items, &found, problems));
    if !found.is_empty() {
        let (vars, span, notes) = (found.iter().map(instance).collect(), found[0].name.span, Notes::default());
        let (section, retain) = (Section::Global, Retain::Unsaid);
        let globals = VarSection { section, retain, constant: false, vars, span, notes, tail: Vec::new() };
        items.insert(0, Item::Globals(globals));
        items.extend(found.into_iter().map(Item::Unit));
    }
}

/// Reports calls of routines that there are not; each stands for an empty one, so that nothing else is found wrong with it.
fn unknown(items: &[Item], found: &[Unit], problems: &mut Vec<Diagnostic>) -> Vec<Unit> {
    let units =
        items.iter().filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None }).chain(found);
    let mut known: HashSet<String> = units.clone().map(|unit| unit.name.text.to_uppercase()).collect();
    let mut out = Vec::new();
    for unit in units {
        let Body::Instructions(list) = &unit.body else { continue };
        let declared = |name: &Name| unit.sections.iter().flat_map(|s| &s.vars).any(|v| v.names.contains(name));
        for name in list.iter().filter_map(callee).filter(|name| !declared(name)) {
            let Some(block) = Routines::block_of(&name.text) else { continue };
            if known.insert(block.to_uppercase()) {
                let message = format!("there is no routine `{}`", Routines::written(block));
                problems.push(Diagnostic::error(codes::DIALECT, name.span, message));
                out.push(Unit {
                    body: Body::Instructions(Vec::new()),
                    ..routine(Name::new(block, name.span), Notes::default())
                });
            }
        }
    }
    out
}

fn callee(instr: &Instr) -> Option<&Name> {
    let InstrKind::Call(_, call) = &instr.kind else { return None };
    if let ExprKind::Name(name) = &call.callee.kind { Some(name) } else { None }
}

fn instance(unit: &Unit) -> VarDecl {
    let span = unit.name.span;
    VarDecl {
        names: vec![Name::new(Routines::instance(&unit.name.text), span)],
        address: None,
        edge: None,
        spec: TypeSpec::Named(Name::new(unit.name.text.clone(), span)),
        init: None,
        notes: Notes::default(),
    }
}

/// Takes the routines out of one list.
fn take(list: &mut Vec<Instr>, routines: &Routines, problems: &mut Vec<Diagnostic>) -> Vec<Unit> {
    let mut found: Vec<(Unit, Vec<Instr>)> = Vec::new();
    let mut rest = Vec::new();
    let mut open = false;
    for instr in std::mem::take(list) {
        if let InstrKind::Worded { word, operands, .. } = &instr.kind {
            if word.is(&routines.begin) {
                if open {
                    let message = format!("a routine begins in another one; `{}` ends that", routines.end);
                    problems.push(Diagnostic::error(codes::DIALECT, word.span, message));
                }
                if let Some(Expr { kind: ExprKind::Name(name), .. }) = operands.first() {
                    found.push((routine(name.clone(), instr.notes.clone()), Vec::new()));
                    open = true;
                }
                continue;
            }
            if word.is(&routines.end) {
                if !open {
                    problems.push(Diagnostic::error(codes::DIALECT, word.span, "no routine is open here"));
                }
                // What is said at the end of a routine stays with it, and a label there is a place to go to.
                let says = instr.label.is_some() || !instr.notes.leading.is_empty() || !instr.notes.trailing.is_empty();
                if let (true, true, Some((_, own))) = (open, says, found.last_mut()) {
                    own.push(Instr { kind: InstrKind::Return(When::Always), ..instr.clone() });
                }
                open = false;
                continue;
            }
        }
        match found.last_mut() {
            Some((_, own)) if open => own.push(instr),
            Some(_) | None => rest.push(instr),
        }
    }
    if let (true, Some((last, _))) = (open, found.last()) {
        let message = format!("this routine has no `{}`", routines.end);
        problems.push(Diagnostic::error(codes::DIALECT, last.name.span, message));
    }
    *list = rest;
    found.into_iter().map(|(unit, own)| Unit { body: Body::Instructions(own), ..unit }).collect()
}

fn routine(name: Name, notes: Notes) -> Unit {
    let (kind, body) = (UnitKind::FunctionBlock, Body::Instructions(Vec::new()));
    Unit { kind, name, result: None, sections: Vec::new(), body, notes, head: Head::Written }
}
