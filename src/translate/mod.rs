//! Translation from language to language, whole projects at a time: names, order, comments and network boundaries
//! stay; a ledger tells what is not one to one.
//!
//! A translation is text. Whoever wants to know what it is worth reads it back and compares
//! ; nothing here is compared from memory.

mod ledger;
mod literals;
pub mod migrate;
mod names;
mod to_diagram;
mod to_il;
mod to_st;

pub use ledger::*;
pub use migrate::{AddressMap, MapRow, MigrateError, Migration, Mode, migrate, protocol_map};

use crate::check::Checked;
use crate::check::typed::{TStmt, TStmtKind, TUnit, Ty, UnitId, Var};
use crate::check::walk::each_statement;
use crate::dialect;
use crate::lang::{Form, Language, Unwritable, language_of, read_project, write_exchange, write_file};
use crate::model::{Body, Item, Name, Notes, Project, Retain, Section, TypeSpec, Unit, UnitKind, VarDecl, VarSection};
use crate::source::{Diagnostics, FileId, Source, Span};
use names::Namer;
use std::collections::{HashMap, HashSet};

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
    /// Variables that were added and keep their values from scan to scan.
    kept: Vec<(String, TypeSpec)>,
    /// Variables that are needed no more.
    removed: Vec<String>,
    ledger: Vec<Entry>,
}

/// Translates a project into a language. Bodies that are in it already are written as they are.
///
/// Between instruction list, ladder and function block diagram the way leads over structured text, which is read
/// and checked like any other before it is taken further.
///
/// # Errors
/// Everything the language cannot say; then nothing is written.
pub fn translate(checked: &Checked, to: Language) -> Result<Translation, Vec<Unwritable>> {
    translate_as(checked, to, Form::Text(to))
}

/// Like [`translate`], with the files in a form: text, or the exchange format with bodies in that language.
///
/// # Errors
/// Everything the language or the form cannot say; then nothing is written.
pub fn translate_as(checked: &Checked, to: Language, form: Form) -> Result<Translation, Vec<Unwritable>> {
    let project = checked.project();
    // A file of the exchange format may hold bodies in several languages.
    let languages: Vec<Vec<Language>> = (0..project.sources.len())
        .map(|file| {
            let items = project.items_of(FileId(file as u32));
            items
                .filter_map(|item| if let Item::Unit(unit) = item { Some(language_of(&unit.body)) } else { None })
                .collect()
        })
        .collect();
    let is_direct = |from: &Language| *from == to || *from == Language::St || to == Language::St;
    if languages.iter().flatten().all(is_direct) {
        return direct(checked, &vec![(to, form); languages.len()]);
    }
    let first: Vec<(Language, Form)> = languages
        .iter()
        .map(|all| match all.first() {
            Some(from) if all.iter().all(|l| l == from && is_direct(l)) => (*from, Form::Text(*from)),
            _ => (Language::St, Form::Text(Language::St)),
        })
        .collect();
    let halfway = direct(checked, &first)?;
    let files = halfway.files.into_iter().zip(first.into_iter().map(|(_, form)| form)).collect();
    let (between, problems) = match &project.library {
        Some(library) => dialect::read_project_in(files, library),
        None => read_project(files),
    };
    let between = match crate::check::verify(between, problems) {
        (Some(between), _) => between,
        (None, problems) => return Err(not_halfway(checked, &problems, to)),
    };
    let mut out = direct(&between, &vec![(to, form); languages.len()])?;
    for (file, source) in out.files.iter_mut().zip(&project.sources) {
        file.name = with_ending(&source.name, form);
    }
    // What the second half says is about the text in between: the unit is what both have.
    for entry in &mut out.ledger {
        let unit = project.items.iter().find(|i| matches!(i, Item::Unit(u) if u.name.text == entry.unit));
        entry.source = unit.map_or(entry.source, Item::span);
    }
    let mut first = halfway.ledger;
    without_passing(&mut first, &mut out.ledger);
    out.ledger.splice(0..0, first);
    Ok(out)
}

/// What one half of a way adds and the other takes away is in neither text, and nothing is said of it.
fn without_passing(first: &mut Vec<Entry>, second: &mut Vec<Entry>) {
    second.retain(|gone| {
        let is_it = |added: &Entry| {
            let name =
                added.target.as_ref().filter(|_| added.code == ledger::ADDED_VARIABLE && added.unit == gone.unit);
            name.is_some_and(|name| gone.reason.starts_with(&format!("`{name}` is gone")))
        };
        let added = first.iter().position(|entry| gone.code == ledger::EDGE_MEMORY && is_it(entry));
        if let Some(added) = added {
            first.remove(added);
        }
        added.is_none()
    });
}

/// The text between two languages could not be read: a fault of the translator, said as one.
fn not_halfway(checked: &Checked, problems: &Diagnostics, language: Language) -> Vec<Unwritable> {
    let first = problems.0.iter().find(|p| p.severity == crate::source::Severity::Error);
    let said = first.map_or("no reason", |p| p.message.as_str());
    let span = checked.project().items.first().map_or(Span { file: FileId(0), start: 0, end: 0 }, Item::span);
    vec![Unwritable { what: format!("the structured text on the way ({said})"), span, language }]
}

/// Translates each file into its language and form, in one step.
fn direct(checked: &Checked, to: &[(Language, Form)]) -> Result<Translation, Vec<Unwritable>> {
    let project = checked.project();
    let mut ledger = Vec::new();
    let mut items = Vec::new();
    for item in &project.items {
        items.push(match item {
            Item::Unit(unit) => {
                let to = to.get(unit.name.span.file.0 as usize).map_or(language_of(&unit.body), |(to, _)| *to);
                Item::Unit(translate_unit(checked, unit, to, &mut ledger))
            }
            other @ (Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_)) => other.clone(),
        });
    }
    if let Some(library) = &project.library {
        if to.iter().any(|(_, form)| *form == Form::Exchange) {
            let what =
                format!("a program in the dialect {}, as a document of the exchange format,", library.sheet.name);
            let span = items.first().map_or(Span { file: FileId(0), start: 0, end: 0 }, Item::span);
            let language = to.first().map_or(Language::St, |(language, _)| *language);
            return Err(vec![Unwritable { what, span, language }]);
        }
        items = dialect::surface::items(&items, library);
    }
    let mut files = Vec::new();
    for (index, (source, (_, form))) in project.sources.iter().zip(to).enumerate() {
        let own = items.iter().filter(|i| i.span().file == FileId(index as u32));
        let name = with_ending(&source.name, *form);
        let text = match form {
            Form::Text(language) => write_file(own, *language)?,
            Form::Exchange => write_exchange(own, &name)?,
        };
        files.push(Source::new(name, text));
    }
    Ok(Translation { files, ledger })
}

fn with_ending(name: &str, form: Form) -> String {
    let stem = match (Form::of_file(name), name.rsplit_once('.')) {
        (Some(_), Some((stem, _))) => stem,
        _ => name,
    };
    let ending = match form {
        Form::Text(language) => language.ending(),
        Form::Exchange => "xml",
    };
    format!("{stem}.{ending}")
}

fn translate_unit(checked: &Checked, unit: &Unit, to: Language, ledger: &mut Vec<Entry>) -> Unit {
    let typed = checked.units.iter().find(|u| u.span == unit.name.span);
    let Some(typed) = typed else { return unit.clone() };
    let context = Context::new(checked, unit, typed);
    let namer = Namer::new(unit, project_names(checked.project()));
    let translated = match (&unit.body, to) {
        (Body::Statements(list), Language::Il) => to_il::body(&context, namer, list),
        (Body::Instructions(list), Language::St) => to_st::body(&context, namer, list),
        (Body::Ladder(list) | Body::Blocks(list), Language::St) => to_st::networks(&context, namer, list),
        (Body::Statements(list), Language::Ld | Language::Fbd) => to_diagram::body(&context, namer, list, to),
        _ => return unit.clone(),
    };
    ledger.extend(translated.ledger);
    let mut out = Unit { body: translated.body, ..unit.clone() };
    let removed: HashSet<String> = translated.removed.iter().map(|name| name.to_ascii_uppercase()).collect();
    if !removed.is_empty() {
        for section in &mut out.sections {
            section.vars.iter_mut().for_each(|v| v.names.retain(|n| !removed.contains(&n.text.to_ascii_uppercase())));
            section.vars.retain(|v| !v.names.is_empty());
        }
        out.sections.retain(|s| !s.vars.is_empty() || !s.tail.is_empty());
    }
    let passing = if unit.kind == UnitKind::Function { Section::Local } else { Section::Temp };
    for (section, added) in [(passing, translated.added), (Section::Local, translated.kept)] {
        if !added.is_empty() {
            out.sections.push(added_section(unit, section, added));
        }
    }
    out
}

/// Of each call of a block where its callee begins, and the block.
fn callees(typed: &HashMap<Span, &TStmt>) -> HashMap<(FileId, u32), UnitId> {
    let called = |stmt: &&TStmt| {
        let TStmtKind::Call(call) = &stmt.kind else { return None };
        Some(((stmt.span.file, stmt.span.start), call.unit))
    };
    typed.values().filter_map(called).collect()
}

/// Finds typed statements by their place.
fn index<'t>(block: &'t [TStmt], out: &mut HashMap<Span, &'t TStmt>) {
    each_statement(block, &mut |stmt| {
        out.insert(stmt.span, stmt);
    });
}

/// The section for variables that translation adds.
fn added_section(unit: &Unit, section: Section, added: Vec<(String, TypeSpec)>) -> VarSection {
    let span = unit.name.span;
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
            Item::Envelope(_) => Vec::new(),
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
    /// Variables of the unit by their names in capitals, and globals behind them.
    variables: HashMap<String, &'c Var>,
}

impl<'c> Context<'c> {
    fn new(checked: &'c Checked, unit: &'c Unit, typed: &'c TUnit) -> Context<'c> {
        let mut variables = HashMap::new();
        for var in typed.vars.iter().chain(&checked.globals) {
            variables.entry(var.name.to_ascii_uppercase()).or_insert(var);
        }
        Context { checked, unit, typed, variables }
    }

    /// A variable of the unit, or a global, by its name.
    fn variable(&self, name: &str) -> Option<&'c Var> {
        self.variables.get(&name.to_ascii_uppercase()).copied()
    }

    /// A type as it stands in a declaration.
    fn spec(&self, ty: &Ty, span: Span) -> TypeSpec {
        match ty.elem() {
            Some(elem) => TypeSpec::Elem(elem, span),
            None => TypeSpec::Named(Name { text: self.checked.type_name(ty), span }),
        }
    }

    /// The type of a variable of the unit, or of a global, by its name.
    fn variable_type(&self, name: &str) -> Option<&Ty> {
        self.variable(name).map(|v| &v.ty)
    }

    /// True for the name of a program, function or function block of the project.
    fn is_unit(&self, name: &str) -> bool {
        self.checked.units.iter().any(|u| u.name.eq_ignore_ascii_case(name))
    }

    /// True if a unit touches nothing but its own variables and what is passed to it.
    fn is_closed(&self, name: &str) -> bool {
        let unit = self.checked.units.iter().find(|u| u.name.eq_ignore_ascii_case(name));
        let shares = |u: &TUnit| u.kind == UnitKind::Function && u.vars.iter().any(|v| v.section == Section::InOut);
        unit.is_some_and(|u| u.built_in || (self.checked.globals.is_empty() && !shares(u)))
    }

    /// The type of a function of the project.
    fn function_type(&self, name: &str) -> Option<TypeSpec> {
        let unit = self.checked.units.iter().find(|u| u.name.eq_ignore_ascii_case(name))?;
        unit.vars.first().map(|v| self.spec(&v.ty, v.span))
    }

    /// The entry for a variable that was added.
    fn added_entry(&self, name: &str, why: &str, span: Span) -> Entry {
        let reason = format!("`{name}` was added: {why}");
        self.entry(ADDED_VARIABLE, Grade::Exact, span, Some(name.to_string()), reason)
    }

    fn entry(&self, code: &'static str, grade: Grade, source: Span, target: Option<String>, reason: String) -> Entry {
        Entry { code, grade, unit: self.unit.name.text.clone(), source, target, reason, trap: None }
    }
}
