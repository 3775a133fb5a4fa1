//! Translation from language to language, whole projects at a time: names, order, comments and network boundaries
//! stay; a ledger tells what is not one to one.
//!
//! A translation is text. Whoever wants to know what it is worth reads it back and compares
//! ; nothing here is compared from memory.

mod ledger;
mod names;
mod to_il;
mod to_st;

pub use ledger::{ADDED_VARIABLE, Entry, Grade, KEPT_FOR_FAULT, NEGATION, STEP_LOOP, UNREACHABLE_KEPT};

use crate::check::Checked;
use crate::check::typed::{TUnit, Ty};
use crate::lang::{Language, Unwritable, write_file};
use crate::model::{Body, Item, Name, Notes, Project, Retain, Section, TypeSpec, Unit, UnitKind, VarDecl, VarSection};
use crate::source::{FileId, Source, Span};
use names::Namer;

/// A project in another language.
#[derive(Clone, Debug)]
pub struct Translation {
    /// The files, in the order of the sources; names carry the language's ending.
    pub files: Vec<Source>,
    /// What is not one to one.
    pub ledger: Vec<Entry>,
}

/// What a body's translation adds to its unit.
struct Translated {
    body: Body,
    /// Variables that were added, with their types.
    added: Vec<(String, TypeSpec)>,
    ledger: Vec<Entry>,
}

/// Translates a project into a language. Bodies that are in it already are written as they are.
///
/// # Errors
/// Everything the language cannot say; then nothing is written.
pub fn translate(checked: &Checked, to: Language) -> Result<Translation, Vec<Unwritable>> {
    let project = checked.project();
    let mut ledger = Vec::new();
    let mut items = Vec::new();
    for item in &project.items {
        items.push(match item {
            Item::Unit(unit) => Item::Unit(translate_unit(checked, unit, to, &mut ledger)),
            other => other.clone(),
        });
    }
    let mut files = Vec::new();
    for (index, source) in project.sources.iter().enumerate() {
        let own = items.iter().filter(|i| i.span().file == FileId(index as u32));
        files.push(Source::new(with_ending(&source.name, to), write_file(own, to)?));
    }
    Ok(Translation { files, ledger })
}

fn with_ending(name: &str, language: Language) -> String {
    let stem = match Language::of_file(name) {
        Some(old) => &name[..name.len() - old.ending().len() - 1],
        None => name,
    };
    format!("{stem}.{}", language.ending())
}

fn translate_unit(checked: &Checked, unit: &Unit, to: Language, ledger: &mut Vec<Entry>) -> Unit {
    let typed = checked.units.iter().find(|u| u.span == unit.name.span);
    let Some(typed) = typed else { return unit.clone() };
    let context = Context { checked, unit, typed };
    let namer = Namer::new(unit, project_names(checked.project()));
    let translated = match (&unit.body, to) {
        (Body::Statements(list), Language::Il) => to_il::body(&context, namer, list),
        (Body::Instructions(list), Language::St) => to_st::body(&context, namer, list),
        _ => return unit.clone(),
    };
    ledger.extend(translated.ledger);
    let mut out = Unit { body: translated.body, ..unit.clone() };
    if !translated.added.is_empty() {
        out.sections.push(added_section(unit, translated.added));
    }
    out
}

/// The section for variables that translation adds.
fn added_section(unit: &Unit, added: Vec<(String, TypeSpec)>) -> VarSection {
    let span = unit.name.span;
    let section = if unit.kind == UnitKind::Function { Section::Local } else { Section::Temp };
    let vars = added
        .into_iter()
        .map(|(text, spec)| VarDecl {
            names: vec![Name { text, span }],
            address: None,
            edge: None,
            spec,
            init: None,
            notes: Notes::default(),
        })
        .collect();
    VarSection {
        section,
        retain: Retain::Unsaid,
        constant: false,
        vars,
        span,
        notes: Notes::default(),
        tail: Vec::new(),
    }
}

fn project_names(project: &Project) -> impl Iterator<Item = String> + '_ {
    let of_item = |item: &Item| -> Vec<String> {
        match item {
            Item::Type(decl) => {
                let mut names = vec![decl.name.text.clone()];
                if let TypeSpec::Enum(_, values, _) = &decl.spec {
                    names.extend(values.iter().map(|(n, _)| n.text.clone()));
                }
                names
            }
            Item::Unit(unit) => vec![unit.name.text.clone()],
            Item::Globals(section) => globals(std::slice::from_ref(section)),
            Item::Configuration(c) => globals(&c.globals),
        }
    };
    project.items.iter().flat_map(of_item)
}

fn globals(sections: &[VarSection]) -> Vec<String> {
    sections.iter().flat_map(|s| &s.vars).flat_map(|v| &v.names).map(|n| n.text.clone()).collect()
}

/// What the translators know of the unit at hand.
struct Context<'c> {
    checked: &'c Checked,
    unit: &'c Unit,
    typed: &'c TUnit,
}

impl Context<'_> {
    /// A type as it stands in a declaration.
    fn spec(&self, ty: &Ty, span: Span) -> TypeSpec {
        match ty.elem() {
            Some(elem) => TypeSpec::Elem(elem, span),
            None => TypeSpec::Named(Name { text: self.checked.type_name(ty), span }),
        }
    }

    /// The type of a variable of the unit, or of a global, by its name.
    fn variable_type(&self, name: &str) -> Option<&Ty> {
        let own = self.typed.vars.iter().find(|v| v.name.eq_ignore_ascii_case(name));
        own.or_else(|| self.checked.globals.iter().find(|v| v.name.eq_ignore_ascii_case(name))).map(|v| &v.ty)
    }

    fn entry(&self, code: &'static str, grade: Grade, source: Span, target: Option<String>, reason: String) -> Entry {
        Entry { code, grade, unit: self.unit.name.text.clone(), source, target, reason, trap: None }
    }
}
