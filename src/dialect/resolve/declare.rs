//! Declarations: those that give an address a name, and those that a dialect leaves out.

use super::{At, Holding, Resolver, section_of};
use crate::dialect::settings;
use crate::model::sheet::{Holds, MemoryArea};
use crate::model::{
    Comment, CommentKind, Elem, Expr, Init, Item, Name, Notes, Retain, Section, TypeSpec, UnitKind, VarDecl, VarSection,
};
use crate::source::{Diagnostic, Span, codes};
use std::collections::HashMap;

impl Resolver<'_> {
    /// Notes which addresses have names, and writes the addresses as the checker knows them.
    pub(super) fn declared(&mut self, items: &mut [Item]) {
        let mut first: HashMap<At, (String, Span)> = HashMap::new();
        for item in items {
            let (unit, sections) = match item {
                Item::Unit(unit) => (unit.name.text.clone(), &mut unit.sections),
                Item::Globals(section) => {
                    let mut sections = vec![section.clone()];
                    self.sections(&mut sections, "", &mut first);
                    // A section of globals is one item; what is retained in it stays together.
                    if let [only] = sections.as_slice() {
                        *section = only.clone();
                    } else {
                        let message =
                            "addresses that survive the power and others need VAR_GLOBAL sections of their own";
                        self.error(codes::ADDRESS, section.span, message);
                        section.vars = sections.into_iter().flat_map(|s| s.vars).collect();
                    }
                    continue;
                }
                Item::Configuration(c) => (String::new(), &mut c.globals),
                Item::Type(_) | Item::Envelope(_) => continue,
            };
            self.sections(sections, &unit, &mut first);
        }
    }

    fn sections(&mut self, sections: &mut Vec<VarSection>, unit: &str, first: &mut HashMap<At, (String, Span)>) {
        let mut out = Vec::new();
        for mut section in std::mem::take(sections) {
            let mut kept = Vec::new();
            let mut retained = Vec::new();
            for mut decl in std::mem::take(&mut section.vars) {
                self.length(&decl);
                let keeps = self.declaration(&mut decl, &section, unit, first);
                if unit.is_empty() {
                    let kind = self.kind_declared(&decl);
                    self.globals.extend(decl.names.iter().map(|n| (n.text.to_uppercase(), kind)));
                }
                if keeps && section.retain != Retain::Retain { retained.push(decl) } else { kept.push(decl) }
            }
            let all_retained = kept.is_empty() && !retained.is_empty();
            let also = VarSection { vars: retained, retain: Retain::Retain, ..section.clone() };
            if !all_retained {
                section.vars = kept;
                out.push(section);
            }
            if !also.vars.is_empty() {
                let notes = if all_retained { also.notes.clone() } else { Notes::default() };
                let tail = if all_retained { also.tail.clone() } else { Vec::new() };
                out.push(VarSection { notes, tail, ..also });
            }
        }
        *sections = out;
    }

    /// Warns of a name that the controller would cut.
    fn length(&mut self, decl: &VarDecl) {
        let most = self.sheet.names.length;
        for name in decl.names.iter().filter(|n| n.text.chars().count() > most) {
            let message =
                format!("`{}` is longer than the {most} characters that {} keeps", name.text, self.sheet.name);
            self.problems.push(Diagnostic::warning(codes::NAME_LENGTH, name.span, message));
        }
    }

    /// One declaration; true if what it declares is kept over a power cycle because of where it is.
    fn declaration(
        &mut self,
        decl: &mut VarDecl,
        section: &VarSection,
        unit: &str,
        first: &mut HashMap<At, (String, Span)>,
    ) -> bool {
        let Some(address) = decl.address.clone() else { return false };
        let Some(at) = self.locate(&address) else {
            decl.address = None;
            return false;
        };
        let area = &self.sheet.areas[at.0];
        let Some(name) = decl.names.first().cloned() else { return false };
        if let Some((other, span)) = first.insert(at, (name.text.clone(), address.span)) {
            let message = format!("`{}` is given to `{other}` and to `{}`", address.text, name.text);
            self.problems
                .push(Diagnostic::error(codes::ADDRESS, address.span, message).related(span, "first given here"));
        }
        let mut keeps = area.is_retained(at.1);
        let in_registers = if let TypeSpec::Named(block) = &decl.spec
            && area.holds == Holds::Word
        {
            self.sheet
                .devices
                .iter()
                .position(|d| block.is(&d.block) && d.numbers.as_ref().is_some_and(|n| n.area == area.name))
        } else {
            None
        };
        if let Some(device) = in_registers {
            self.runs.insert(at, (device, address.span));
            if decl.init.is_none() {
                decl.init = settings(self.device(device), address.span);
            }
        }
        // Without a name of its own it is called like its address.
        if name.text == address.text {
            decl.names[0].text = super::name_of(&area.parsed.write(at.1).unwrap_or_default());
        }
        let name = decl.names[0].clone();
        if area.holds == Holds::Device {
            let Some(device) = self.device_of(at) else {
                self.error(codes::ADDRESS, address.span, format!("the sheet has no device `{}`", address.text));
                return false;
            };
            keeps = self.device(device).retained;
            if !self.settle(decl, device, address.span) {
                decl.address = None;
                return keeps;
            }
        }
        if !keeps && section.retain == Retain::Retain {
            let message =
                format!("what stands at `{}` does not survive the power; {}", address.text, retained_ranges(area));
            self.error(codes::ADDRESS, address.span, message);
        }
        if decl.init.is_none() && self.tags.find(at).is_some_and(|tag| tag.normally_closed) {
            decl.init = Some(Init::Expr(Expr::truth(true, address.span)));
        }
        self.named.insert(at, (name.text, unit.to_string()));
        decl.address = Some(Name { text: self.sheet.known(at.0, at.1), span: address.span });
        keeps
    }

    /// A declared device must be what its number is; what the number settles becomes initial values.
    fn settle(&mut self, decl: &mut VarDecl, device: usize, span: Span) -> bool {
        let of = self.device(device);
        if self.kind_of(&decl.spec) == Holding::Other || !matches!(&decl.spec, TypeSpec::Named(n) if n.is(&of.block)) {
            let message = format!("this number is {}: its type is `{}`", of.kind.a_word(), of.block);
            self.error(codes::ADDRESS, span, message);
            return false;
        }
        if decl.init.is_none() {
            decl.init = settings(of, span);
        }
        true
    }

    /// Declares what is used without a declaration: in the program, where there is one, or for all. A point belongs to the
    /// project, so what a function block or one of several programs uses is one for all, and is seen from outside.
    pub(super) fn declare_used(&mut self, items: &mut Vec<Item>) {
        let mut used: Vec<(At, super::Used)> = std::mem::take(&mut self.used).into_iter().collect();
        used.sort_by_key(|(at, _)| *at);
        let mut shared: Vec<VarSection> = Vec::new();
        let alone = only_program(items);
        for (at, used) in used {
            let area = &self.sheet.areas[at.0];
            let keeps = used.device.map_or(area.is_retained(at.1), |d| self.device(d).retained);
            let retain = if keeps { Retain::Retain } else { Retain::Unsaid };
            let span = used.span;
            let (spec, init) = match used.device {
                Some(device) => {
                    let block = Name { text: self.device(device).block.clone(), span };
                    (TypeSpec::Named(block), settings(self.device(device), span))
                }
                None if area.holds == Holds::Bit => (TypeSpec::Elem(Elem::Bool, span), None),
                None => (TypeSpec::Elem(Elem::from_name(&self.sheet.numbers.word).unwrap_or(Elem::Int), span), None),
            };
            let tag = self.tags.find(at);
            let decl = VarDecl {
                names: vec![Name { text: used.name.clone(), span }],
                address: Some(Name { text: self.sheet.known(at.0, at.1), span }),
                edge: None,
                spec,
                init: tag.filter(|t| t.normally_closed).map(|_| Init::Expr(Expr::truth(true, span))).or(init),
                notes: tag.map_or_else(Notes::default, |t| said(&t.comment)),
            };
            let owner = match (used.units.as_slice(), alone) {
                ([only], Some(program)) => items.get_mut(program).and_then(|item| {
                    if let Item::Unit(unit) = item
                        && unit.name.text == *only
                    {
                        Some(unit)
                    } else {
                        None
                    }
                }),
                _ => None,
            };
            match owner {
                Some(unit) => add(&mut unit.sections, section_of(area.role), retain, decl),
                None => add(&mut shared, Section::Global, retain, decl),
            }
        }
        items.splice(0..0, shared.into_iter().map(Item::Globals));
    }
}

/// Where the only program stands that runs, if it runs once.
fn only_program(items: &[Item]) -> Option<usize> {
    let mut programs = items.iter().enumerate().filter_map(|(at, item)| {
        if let Item::Unit(unit) = item
            && unit.kind == UnitKind::Program
        {
            Some(at)
        } else {
            None
        }
    });
    let instances: usize = items
        .iter()
        .map(|item| if let Item::Configuration(configuration) = item { configuration.programs.len() } else { 0 })
        .sum();
    programs.next().filter(|_| programs.next().is_none() && instances <= 1)
}

/// Adds a declaration to the section of its kind that was made for such declarations; makes one if there is none.
fn add(sections: &mut Vec<VarSection>, section: Section, retain: Retain, decl: VarDecl) {
    let span = decl.names.first().map_or(Span { file: crate::source::FileId(0), start: 0, end: 0 }, |n| n.span);
    let fits = |s: &&mut VarSection| {
        s.section == section && s.retain == retain && !s.constant && s.vars.iter().all(|v| v.address.is_some())
    };
    match sections.iter_mut().find(fits) {
        Some(found) => found.vars.push(decl),
        None => sections.push(VarSection {
            section,
            retain,
            constant: false,
            vars: vec![decl],
            span,
            notes: Notes::default(),
            tail: Vec::new(),
        }),
    }
}

/// A comment behind a declaration.
fn said(text: &str) -> Notes {
    let comment = Comment { kind: CommentKind::Paren, text: text.replace("*)", "* )") };
    Notes { trailing: if text.is_empty() { Vec::new() } else { vec![comment] }, ..Notes::default() }
}

fn retained_ranges(area: &MemoryArea) -> String {
    let write = |n: u32| area.parsed.write(n).unwrap_or_default();
    let ranges: Vec<String> = area.retained.iter().map(|(a, b)| format!("{} to {}", write(*a), write(*b))).collect();
    if ranges.is_empty() { "nothing in this area does".to_string() } else { format!("{} do", ranges.join(", ")) }
}
