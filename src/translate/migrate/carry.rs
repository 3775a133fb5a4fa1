//! Blocks and functions of the source's dialect that the rewritten project still names: they come along in full.

use super::Work;
use crate::model::{Body, ExprKind, Item, Name, Notes, TypeSpec, Unit, UnitKind, VarSection, Walk};
use crate::source::{FileId, Span};
use crate::translate::Grade;
use crate::translate::ledger::CARRIED_FUNCTION;
use std::collections::BTreeSet;

impl Work {
    /// Adds what is named and is nowhere else.
    pub(super) fn carry(&mut self) {
        if self.from.sheet().name == self.to.sheet().name {
            return;
        }
        let mut added: BTreeSet<String> = BTreeSet::new();
        loop {
            let named = self.named();
            let wanted =
                |unit: &&Unit| named.contains(&unit.name.text.to_uppercase()) && !added.contains(&unit.name.text);
            let next = self.from.library.items.iter().find_map(|item| {
                if let Item::Unit(unit) = item
                    && wanted(&unit)
                    && !self.declares(&unit.name)
                {
                    Some(unit.clone())
                } else {
                    None
                }
            });
            let Some(mut unit) = next else { return };
            added.insert(unit.name.text.clone());
            if self.to.is_standard && self.from.is_standard {
                continue;
            }
            if unit.kind == UnitKind::Function {
                let reason = format!("the function `{}` of {} comes along", unit.name.text, self.from.sheet().name);
                self.entry(CARRIED_FUNCTION, Grade::Carried, "", Some(&unit.name.text), reason, Some(19));
            }
            self.settle(&mut unit);
            self.items.insert(0, Item::Unit(unit));
        }
    }

    fn declares(&self, name: &Name) -> bool {
        self.items.iter().any(|i| matches!(i, Item::Unit(u) if u.name == *name))
    }

    /// Makes a unit one of the first file.
    fn settle(&mut self, unit: &mut Unit) {
        let span = Span { file: FileId(0), start: 0, end: 0 };
        unit.name.span = span;
        let mut notes: Notes = unit.notes.clone();
        notes.blank_before = true;
        // The first block of a file has the heading of the file above its own words.
        let heading = notes.leading.len().saturating_sub(1);
        notes.leading.drain(..heading);
        unit.notes = notes;
        for section in &mut unit.sections {
            section.span = span;
        }
    }

    /// Names of types and functions that the project mentions, in capital letters.
    fn named(&mut self) -> BTreeSet<String> {
        let mut out = BTreeSet::new();
        let mut types = |sections: &[VarSection]| {
            for decl in sections.iter().flat_map(|s| &s.vars) {
                type_names(&decl.spec, &mut out);
            }
        };
        for item in &self.items {
            match item {
                Item::Unit(unit) => types(&unit.sections),
                Item::Globals(section) => types(std::slice::from_ref(section)),
                Item::Configuration(c) => types(&c.globals),
                Item::Type(_) | Item::Envelope(_) => {}
            }
        }
        for item in &self.items {
            match item {
                Item::Type(decl) => type_names(&decl.spec, &mut out),
                Item::Unit(Unit { body: Body::Statements(list), .. }) => {
                    for stmt in list {
                        stmt.walk(&mut |e, _| {
                            if let ExprKind::Call(call) = &e.kind
                                && let ExprKind::Name(name) = &call.callee.kind
                            {
                                out.insert(name.text.to_uppercase());
                            }
                            Walk::Into
                        });
                    }
                }
                Item::Unit(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => {}
            }
        }
        out
    }
}

fn type_names(spec: &TypeSpec, out: &mut BTreeSet<String>) {
    match spec {
        TypeSpec::Named(name) => {
            out.insert(name.text.to_uppercase());
        }
        TypeSpec::Array(_, of, _) => type_names(of, out),
        TypeSpec::Struct(fields, _) => fields.iter().for_each(|f| type_names(&f.spec, out)),
        TypeSpec::Elem(..) | TypeSpec::String(..) | TypeSpec::Range(..) | TypeSpec::Enum(..) => {}
    }
}
