//! What is declared: variables with all that is said of them.

use super::token::{self, Token};
use super::tree::comments;
use crate::check::written_address;
use crate::model::{Edge, Name, Project, Retain, Section, VarSection};

/// A variable as it is declared.
#[derive(Clone, Debug)]
pub(super) struct Declared<'p> {
    pub(super) name: &'p Name,
    pub(super) section: Section,
    pub(super) retain: Retain,
    pub(super) constant: bool,
    pub(super) edge: Option<Edge>,
    /// As its program writes it.
    pub(super) address: Option<String>,
    pub(super) spec: Vec<Token>,
    pub(super) init: Vec<Token>,
    pub(super) comments: Vec<String>,
}

impl Declared<'_> {
    /// Its name in capitals.
    pub(super) fn key(&self) -> String {
        self.name.text.to_uppercase()
    }

    /// True for what a caller gives or sees, or a plant or a panel.
    pub(super) fn is_outer(&self) -> bool {
        match self.section {
            Section::Input | Section::Output | Section::InOut => true,
            Section::Local | Section::Temp | Section::External | Section::Global => false,
        }
    }
}

/// The variables of sections, in order.
pub(super) fn declared<'p>(project: &'p Project, sections: impl Iterator<Item = &'p VarSection>) -> Vec<Declared<'p>> {
    let mut out = Vec::new();
    for section in sections {
        for decl in &section.vars {
            let (mut spec, mut init) = (Vec::new(), Vec::new());
            token::spec(&mut spec, &decl.spec);
            decl.init.iter().for_each(|value| token::init(&mut init, value));
            let address =
                decl.address.as_ref().map(|address| written_address(project.library.as_deref(), &address.text));
            out.extend(decl.names.iter().map(|name| Declared {
                name,
                section: section.section,
                retain: section.retain,
                constant: section.constant,
                edge: decl.edge,
                address: address.clone(),
                spec: spec.clone(),
                init: init.clone(),
                comments: comments(decl.notes.leading.iter().chain(&decl.notes.trailing)),
            }));
        }
    }
    out
}

/// Comments of sections that belong to no variable.
pub(super) fn section_comments<'p>(sections: impl Iterator<Item = &'p VarSection>) -> Vec<String> {
    let each = sections
        .flat_map(|section| comments(section.notes.leading.iter().chain(&section.notes.trailing).chain(&section.tail)));
    each.collect()
}
