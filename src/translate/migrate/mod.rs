//! From one dialect to another: addresses by a map, timers and counters by the target's own means or carried along.
//!
//! The way leads over structured text: the program is translated to it (if it is in another language), its devices are
//! planned one by one, its text is rewritten and read again in the target's conventions; from there it goes on to the
//! language that is asked for. So what is said here about a device is said once for all languages.

mod carry;
mod counter;
mod devices;
mod edge;
mod expr;
mod facts;
mod first;
mod map;
mod points;
mod protocol;
mod rewrite;
mod timer;
mod usage;

pub use map::{AddressMap, MapRow};
pub use protocol::protocol_map;

use super::{Entry, Translation, translate, translate_as};
use crate::check::{Checked, verify};
use crate::dialect::{self, read_project_in};
use crate::lang::{Form, Language, Unwritable, read_project, write_file};
use crate::model::sheet::{Library, Sheet};
use crate::model::{Body, Item, Project};
use crate::source::{Diagnostics, FileId, Source, Span};
use std::sync::Arc;

/// How devices come over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mode {
    /// The target's own timers and counters, wherever it has the means; what is not the same is in the ledger.
    Native,
    /// The source's blocks come along in full and behave as they did, to the scan.
    Faithful,
}

/// A project in another dialect.
#[derive(Clone, Debug)]
pub struct Migration {
    /// The files, and what is not one to one.
    pub translation: Translation,
    /// Every address, old and new.
    pub map: AddressMap,
    /// The project as it was read back, in the target's conventions and language.
    pub checked: Checked,
}

/// Why a project could not be taken to another dialect.
#[derive(Clone, Debug, thiserror::Error)]
pub enum MigrateError {
    /// The language cannot say it.
    #[error("{}", .0.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))]
    Unwritable(Vec<Unwritable>),
    /// The map cannot be followed.
    #[error("the map: {}", .0.join("; "))]
    Map(Vec<String>),
    /// What was written does not read back: a fault of the translator.
    #[error("what was written does not read back: {}", first_of(.0))]
    Unreadable(Diagnostics, Vec<Source>),
}

fn first_of(problems: &Diagnostics) -> &str {
    let error = problems.0.iter().find(|p| p.severity == crate::source::Severity::Error);
    error.map_or("no reason", |p| p.message.as_str())
}

/// The conventions of one side. The standard's own are those of a project without a library.
#[derive(Clone)]
struct Side {
    library: Arc<Library>,
    is_standard: bool,
}

impl Side {
    fn of(project: &Project) -> Side {
        match &project.library {
            Some(library) => Side { library: Arc::clone(library), is_standard: false },
            None => Side::standard(),
        }
    }

    fn standard() -> Side {
        // The shipped sheet of the standard is sound, which a test sees to; an empty one stands in for none.
        let library = dialect::library("iec").unwrap_or_else(|| Arc::new(dialect::empty()));
        Side { library, is_standard: true }
    }

    fn target(library: &Arc<Library>) -> Side {
        Side { library: Arc::clone(library), is_standard: library.sheet.name == "iec" }
    }

    fn sheet(&self) -> &Sheet {
        &self.library.sheet
    }

    /// The place in the sheet of an address as the checker knows it.
    fn locate(&self, address: &str) -> Option<(usize, u32)> {
        if self.is_standard { self.sheet().locate(address).ok() } else { self.sheet().parse_known(address) }
    }

    /// The address as the checker knows it.
    fn address(&self, at: (usize, u32)) -> String {
        if self.is_standard { self.written(at) } else { self.sheet().known(at.0, at.1) }
    }

    /// The address as programs write it.
    fn written(&self, at: (usize, u32)) -> String {
        self.sheet().areas.get(at.0).and_then(|a| a.parsed.write(at.1)).unwrap_or_default()
    }

    fn read(&self, files: Vec<(Source, Form)>) -> (Project, Diagnostics) {
        if self.is_standard { read_project(files) } else { read_project_in(files, &self.library) }
    }
}

/// Takes a project to the conventions of `target`, in a language and form.
///
/// `map` says where addresses go; what it does not name is placed automatically, and the map that comes back has it all.
///
/// # Errors
/// [`MigrateError`]; then nothing is written.
pub fn migrate(
    checked: &Checked,
    target: &Arc<Library>,
    (language, form): (Language, Form),
    mode: Mode,
    map: Option<&AddressMap>,
) -> Result<Migration, MigrateError> {
    let (from, to) = (Side::of(checked.project()), Side::target(target));
    let (text, mut ledger) = as_text(checked, &from)?;
    let mut work = Work {
        from: from.clone(),
        to: to.clone(),
        mode,
        ledger: Vec::new(),
        items: text.project().items.clone(),
        map: AddressMap::default(),
        names: Vec::new(),
    };
    work.forget_dialect();
    work.points(map).map_err(MigrateError::Map)?;
    work.devices(map).map_err(MigrateError::Map)?;
    work.rewrite();
    work.carry();
    work.rename();
    work.rename_units();
    place(&mut work.ledger, checked);
    ledger.append(&mut work.ledger);
    let (between, problems) = to.read(written(&work, text.project(), &to)?);
    let sources = between.sources.clone();
    let between = match verify(between, problems) {
        (Some(between), _) => between,
        (None, problems) => return Err(MigrateError::Unreadable(problems, sources)),
    };
    let mut translation = translate_as(&between, language, form).map_err(MigrateError::Unwritable)?;
    place(&mut translation.ledger, checked);
    ledger.append(&mut translation.ledger);
    translation.ledger = ledger;
    for (file, source) in translation.files.iter_mut().zip(&checked.project().sources) {
        file.name = super::with_ending(&source.name, form);
    }
    let (back, problems) = to.read(translation.files.iter().map(|f| (f.clone(), form)).collect());
    let sources = back.sources.clone();
    match verify(back, problems) {
        (Some(back), _) => Ok(Migration { translation, map: work.map, checked: back.outside_as_in(checked) }),
        (None, problems) => Err(MigrateError::Unreadable(problems, sources)),
    }
}

/// The project as structured text, in its own conventions.
fn as_text(checked: &Checked, from: &Side) -> Result<(Checked, Vec<Entry>), MigrateError> {
    let is_text = |i: &Item| !matches!(i, Item::Unit(u) if !matches!(u.body, Body::Statements(_)));
    if checked.project().items.iter().all(is_text) {
        return Ok((checked.clone(), Vec::new()));
    }
    let translation = translate(checked, Language::St).map_err(MigrateError::Unwritable)?;
    let files = translation.files.into_iter().map(|f| (f, Form::Text(Language::St))).collect();
    let (project, problems) = from.read(files);
    let sources = project.sources.clone();
    match verify(project, problems) {
        (Some(text), _) => Ok((text, translation.ledger)),
        (None, problems) => Err(MigrateError::Unreadable(problems, sources)),
    }
}

/// The rewritten project as files of structured text.
fn written(work: &Work, project: &Project, to: &Side) -> Result<Vec<(Source, Form)>, MigrateError> {
    let items = if to.is_standard { work.items.clone() } else { dialect::surface::items(&work.items, &to.library) };
    let mut files = Vec::new();
    for (index, source) in project.sources.iter().enumerate() {
        let own = items.iter().filter(|i| i.span().file == FileId(index as u32));
        let text = write_file(own, Language::St).map_err(MigrateError::Unwritable)?;
        files.push((Source::new(source.name.clone(), text), Form::Text(Language::St)));
    }
    Ok(files)
}

/// Entries about a text in between are about the unit in the source.
fn place(ledger: &mut [Entry], checked: &Checked) {
    for entry in ledger {
        let items = &checked.project().items;
        let unit = items.iter().find(|i| matches!(i, Item::Unit(u) if u.name.text == entry.unit));
        let owner = unit.or(items.first());
        let own = owner.zip(entry.target.as_ref()).and_then(|(item, name)| declared_at(item, name));
        entry.source = own.or(owner.map(Item::span)).unwrap_or(entry.source);
    }
}

/// Where a variable of a unit is declared, or first mentioned.
fn declared_at(item: &Item, name: &str) -> Option<Span> {
    let sections = match item {
        Item::Unit(unit) => unit.sections.as_slice(),
        Item::Globals(section) => std::slice::from_ref(section),
        Item::Type(_) | Item::Configuration(_) | Item::Envelope(_) => &[],
    };
    sections.iter().flat_map(|s| &s.vars).flat_map(|v| &v.names).find(|n| n.is(name)).map(|n| n.span)
}

/// A migration under way: the items are those of the source as structured text until they are rewritten.
struct Work {
    from: Side,
    to: Side,
    mode: Mode,
    ledger: Vec<Entry>,
    items: Vec<Item>,
    map: AddressMap,
    /// What becomes of names, by unit (empty: global).
    names: Vec<devices::Instance>,
}

impl Work {
    /// The source's word for its dialect does not come along.
    fn forget_dialect(&mut self) {
        let own = dialect::pragma(&self.from.sheet().name);
        for item in &mut self.items {
            let notes = match item {
                Item::Unit(unit) => &mut unit.notes,
                Item::Globals(section) => &mut section.notes,
                Item::Configuration(c) => &mut c.notes,
                Item::Type(t) => &mut t.above,
                Item::Envelope(_) => continue,
            };
            notes.leading.retain(|c| *c != own);
        }
    }

    fn entry(
        &mut self,
        code: &'static str,
        grade: super::Grade,
        unit: &str,
        target: Option<&str>,
        reason: String,
        trap: Option<u8>,
    ) {
        let span = Span { file: FileId(0), start: 0, end: 0 };
        let (unit, target) = (unit.to_string(), target.map(str::to_string));
        self.ledger.push(Entry { code, grade, unit, source: span, target, reason, trap });
    }
}
