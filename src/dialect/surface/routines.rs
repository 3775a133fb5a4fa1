//! Blocks that were routines go back into the list of their program.

use crate::model::sheet::{Routines, Separator, Sheet};
use crate::model::{
    Block, Body, CoilForm, Drive, ElementKind, Expr, ExprKind, Feed, Instr, InstrKind, Item, Name, Notes, Section,
    TypeSpec, Unit, UnitKind, When, Wire,
};
use crate::source::Span;
use std::collections::HashSet;

/// The blocks that can be written as routines, in capital letters: without variables, and with one instance that all share.
pub(super) fn blocks(items: &[Item], sheet: &Sheet) -> HashSet<String> {
    if sheet.routines.is_none() {
        return HashSet::new();
    }
    let globals = items.iter().filter_map(|item| if let Item::Globals(section) = item { Some(section) } else { None });
    let mut shared: HashSet<String> = HashSet::new();
    for decl in globals.filter(|section| section.section == Section::Global).flat_map(|section| &section.vars) {
        if let (TypeSpec::Named(block), [name]) = (&decl.spec, decl.names.as_slice())
            && name.is(&Routines::instance(&block.text))
        {
            shared.insert(block.text.to_uppercase());
        }
    }
    let units = items.iter().filter_map(|item| if let Item::Unit(unit) = item { Some(unit) } else { None });
    units
        .filter(|unit| unit.kind == UnitKind::FunctionBlock && unit.sections.is_empty())
        .map(|unit| unit.name.text.to_uppercase())
        .filter(|name| shared.contains(name))
        .collect()
}

/// Puts them into the list of the program of their file, and takes their instances out of the globals.
pub(super) fn join(items: &mut Vec<Item>, blocks: &HashSet<String>, sheet: &Sheet) {
    let Some(routines) = sheet.routines.as_ref().filter(|_| !blocks.is_empty()) else { return };
    let is_list = |unit: &Unit| matches!(unit.body, Body::Instructions(_));
    let mut programs: HashSet<u32> = HashSet::new();
    for item in items.iter() {
        if let Item::Unit(unit) = item
            && unit.kind == UnitKind::Program
            && is_list(unit)
        {
            programs.insert(unit.name.span.file.0);
        }
    }
    let goes = |unit: &Unit| {
        is_list(unit) && blocks.contains(&unit.name.text.to_uppercase()) && programs.contains(&unit.name.span.file.0)
    };
    let mut gone: Vec<Unit> = Vec::new();
    items.retain(|item| match item {
        Item::Unit(unit) if goes(unit) => {
            gone.push(unit.clone());
            false
        }
        Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => true,
    });
    for item in items.iter_mut() {
        match item {
            Item::Unit(Unit { kind: UnitKind::Program, name, body: Body::Instructions(list), .. }) => {
                let file = name.span.file;
                gone.iter().filter(|unit| unit.name.span.file == file).for_each(|unit| write(unit, routines, list));
            }
            Item::Globals(section) => section.vars.retain(|decl| {
                let of = |unit: &Unit| decl.names.iter().any(|name| name.is(&Routines::instance(&unit.name.text)));
                !gone.iter().any(of)
            }),
            Item::Unit(_) | Item::Type(_) | Item::Configuration(_) | Item::Envelope(_) => {}
        }
    }
    items.retain(|item| !matches!(item, Item::Globals(section) if section.vars.is_empty() && section.tail.is_empty()));
}

fn write(unit: &Unit, routines: &Routines, list: &mut Vec<Instr>) {
    let Body::Instructions(own) = &unit.body else { return };
    let span = unit.name.span;
    let worded = |word: &str, operands: Vec<Expr>, notes: Notes| {
        let kind = InstrKind::Worded { word: Name::new(word, span), operands, apart: Separator::Comma, list: None };
        Instr { label: None, kind, span, notes }
    };
    let notes = Notes { blank_before: true, ..unit.notes.clone() };
    list.push(worded(&routines.begin, vec![said(&unit.name.text, span)], notes));
    list.extend(own.iter().cloned());
    list.push(worded(&routines.end, Vec::new(), Notes::default()));
}

/// A routine as it stands behind a word or above a coil.
fn said(block: &str, span: Span) -> Expr {
    Expr { kind: ExprKind::Name(Name::new(Routines::written(block), span)), span }
}

/// The block of an instance that stands for a routine.
fn block_of<'e>(instance: &'e Expr, blocks: &HashSet<String>) -> Option<&'e str> {
    let ExprKind::Name(name) = &instance.kind else { return None };
    Routines::block_of(&name.text).filter(|block| blocks.contains(&block.to_uppercase()))
}

/// A call of a routine in the words of the sheet; `None` if it is none, or has no word for when it is called.
pub(super) fn call(kind: &InstrKind, blocks: &HashSet<String>, sheet: &Sheet) -> Option<InstrKind> {
    let (routines, InstrKind::Call(when, call)) = (sheet.routines.as_ref()?, kind) else { return None };
    let block = block_of(&call.callee, blocks).filter(|_| call.args.is_empty())?;
    let word = match when {
        When::Always => routines.call.as_ref()?,
        When::IfTrue => routines.call_if.as_ref()?,
        When::IfFalse => return None,
    };
    let operands = vec![said(block, call.span)];
    let word = Name::new(word.clone(), call.span);
    Some(InstrKind::Worded { word, operands, apart: Separator::Comma, list: None })
}

/// The box of a routine as a coil with the word of the sheet; `None` if it is none, or more than a coil can say.
pub(super) fn coil(block: &Block, span: Span, blocks: &HashSet<String>, sheet: &Sheet) -> Option<ElementKind> {
    let routines = sheet.routines.as_ref()?;
    let name = block_of(block.instance.as_ref()?, blocks)?;
    let from = only_enabled(block)?;
    let always = routines.call.as_ref().filter(|_| from == Wire::RAIL);
    let word = Name::new(always.or(routines.call_if.as_ref())?.clone(), span);
    let drive = Some(Drive { word, below: None });
    Some(ElementKind::Coil { form: CoilForm::Plain, target: said(name, span), from, drive })
}

/// The wire at the EN of a box that has nothing else; the rail if it has not even that.
fn only_enabled(block: &Block) -> Option<Wire> {
    if block.outputs.iter().any(|pin| pin.to.is_some() || pin.target.is_some()) {
        return None;
    }
    let mut wired = block.inputs.iter().filter(|pin| pin.feed != Feed::Open);
    match (wired.next(), wired.next()) {
        (Some(pin), None) if !pin.negated && pin.name.as_ref().is_some_and(|n| n.is("EN")) => match pin.feed {
            Feed::Wire(wire) => Some(wire),
            Feed::Open | Feed::Value(_) => None,
        },
        (None, None) => Some(Wire::RAIL),
        _ => None,
    }
}
