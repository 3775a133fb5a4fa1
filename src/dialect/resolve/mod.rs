//! From a text as its dialect writes it to what the checker knows: addresses become located variables, numbered
//! devices become instances of blocks, instructions and coils that drive them become calls.

mod declare;
mod expr;
mod list;
mod networks;
mod routines;

use super::tags::Tags;
use super::walk::{self, Leaves, Want};
use crate::lang::{Form, nothing, read_written};
use crate::model::sheet::{AreaRole, Device, Holds, Library, Sheet};
use crate::model::{Body, Item, Name, Project, TypeSpec, Unit, VarDecl};
use crate::source::{Code, Diagnostic, Diagnostics, FileId, Limits, Source, Span, codes};
use indexmap::IndexMap;
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

/// An address: the area's place in the sheet, and the number in it.
pub(super) type At = (usize, u32);

/// Reads several texts as one project, written by the conventions of a library.
///
/// Addresses of the dialect become variables, named like the address unless the program names them; numbered devices
/// become instances of the dialect's blocks. The project keeps the library, so that it is written again in the
/// dialect's own way. For the open standard's own conventions see [`crate::lang::read_project`].
#[must_use]
pub fn read_project_in<F: Into<Form>>(files: Vec<(Source, F)>, library: &Arc<Library>) -> (Project, Diagnostics) {
    read_project_tagged(files, library, &Tags::default())
}

/// As [`read_project_in`], with a tag list: addresses that it names go by that name, unless the program declares
/// another.
#[must_use]
pub fn read_project_tagged<F: Into<Form>>(
    files: Vec<(Source, F)>,
    library: &Arc<Library>,
    tags: &Tags,
) -> (Project, Diagnostics) {
    let mut project = Project { library: Some(Arc::clone(library)), ..Project::default() };
    let mut problems = Diagnostics::default();
    for (index, (source, form)) in files.into_iter().enumerate() {
        let file = FileId(index as u32);
        let (items, found) = read_written(file, &source, form.into(), Limits::default(), Some(&library.sheet));
        problems.0.extend(nothing(file, &items, &found));
        project.items.extend(items);
        problems.0.extend(found);
        project.sources.push(source);
    }
    problems.0.extend(resolve(&mut project.items, library, tags));
    problems.settle();
    (project, problems)
}

/// Resolves the items of a project in place.
fn resolve(items: &mut Vec<Item>, library: &Library, tags: &Tags) -> Vec<Diagnostic> {
    let mut resolver = Resolver {
        sheet: &library.sheet,
        tags,
        problems: Vec::new(),
        named: HashMap::new(),
        used: IndexMap::new(),
        runs: BTreeMap::new(),
        unit: String::new(),
        types: HashMap::new(),
        globals: HashMap::new(),
    };
    if let Some(routines) = &library.sheet.routines {
        routines::split(items, routines, &mut resolver.problems);
    }
    resolver.declared(items);
    resolver.find_runs(items);
    for item in items.iter_mut() {
        if let Item::Unit(unit) = item {
            resolver.unit(unit);
        }
    }
    resolver.declare_used(items);
    resolver.problems
}

/// An address that programs mention without declaring it.
struct Used {
    name: String,
    device: Option<usize>,
    /// The units that do, by name.
    units: Vec<String>,
    span: Span,
}

struct Resolver<'s> {
    sheet: &'s Sheet,
    tags: &'s Tags,
    problems: Vec<Diagnostic>,
    /// Addresses that declarations give a name: the name, and the unit (empty: global).
    named: HashMap<At, (String, String)>,
    used: IndexMap<At, Used>,
    /// Devices in registers: the number of their first register, by area; which device, and where it is driven.
    runs: BTreeMap<At, (usize, Span)>,
    /// The unit at hand.
    unit: String,
    /// What the variables of the unit at hand hold.
    types: HashMap<String, Holding>,
    globals: HashMap<String, Holding>,
}

/// What a variable holds, as far as it matters here.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Holding {
    Bit,
    Word,
    /// An instance of the block of this device of the sheet.
    Device(usize),
    Other,
}

impl<'s> Resolver<'s> {
    fn error(&mut self, code: Code, span: Span, message: impl Into<String>) {
        self.problems.push(Diagnostic::error(code, span, message));
    }

    fn kind_of(&self, spec: &TypeSpec) -> Holding {
        match spec {
            TypeSpec::Elem(crate::model::Elem::Bool, _) => Holding::Bit,
            TypeSpec::Elem(..) | TypeSpec::Range(..) => Holding::Word,
            TypeSpec::Named(name) => {
                let device = self.sheet.devices.iter().position(|d| name.is(&d.block));
                device.map_or(Holding::Other, Holding::Device)
            }
            TypeSpec::String(..) | TypeSpec::Enum(..) | TypeSpec::Array(..) | TypeSpec::Struct(..) => Holding::Other,
        }
    }

    /// What the variables of a declaration hold; the number of a device tells more than its block.
    fn kind_declared(&self, decl: &VarDecl) -> Holding {
        let kind = self.kind_of(&decl.spec);
        let at = decl.address.as_ref().and_then(|a| self.sheet.parse_known(&a.text));
        match (kind, at.and_then(|at| self.device_of(at))) {
            (Holding::Device(_), Some(numbered)) => Holding::Device(numbered),
            _ => kind,
        }
    }

    /// What a name of the unit at hand, or a global, holds.
    fn kind(&self, name: &str) -> Holding {
        let key = name.to_uppercase();
        self.types.get(&key).or_else(|| self.globals.get(&key)).copied().unwrap_or(Holding::Other)
    }

    fn device(&self, number: usize) -> &'s Device {
        &self.sheet.devices[number]
    }

    /// The place of an address in the sheet; what is wrong with it is reported at its very digit.
    fn locate(&mut self, name: &Name) -> Option<At> {
        match self.sheet.locate(&name.text) {
            Ok((area, index)) => {
                if let Some(why) = super::rack::lacks(self.sheet, area, index) {
                    self.error(codes::ADDRESS, name.span, format!("`{}`: {why}", name.text));
                }
                Some((area, index))
            }
            Err(error) => {
                let start = name.span.start + error.at as u32;
                let span = Span { start, end: start + error.length as u32, ..name.span };
                self.error(codes::ADDRESS, span, format!("in `{}`: {}", name.text, error.message));
                None
            }
        }
    }

    /// The variable that stands for an address in the unit at hand.
    fn variable(&mut self, at: At, device: Option<usize>, span: Span) -> String {
        if let Some((name, unit)) = self.named.get(&at).cloned() {
            if !unit.is_empty() && unit != self.unit {
                let address = self.sheet.areas[at.0].parsed.write(at.1).unwrap_or_default();
                let message = format!("`{address}` is `{name}` of `{unit}`; declare it in VAR_GLOBAL to share it");
                self.error(codes::ADDRESS, span, message);
            }
            return name;
        }
        let text = self.sheet.areas[at.0].parsed.write(at.1).unwrap_or_default();
        let unit = self.unit.clone();
        let tag = self.tags.find(at);
        let used = self.used.entry(at).or_insert_with(|| Used {
            name: tag.map_or_else(|| name_of(&text), |t| t.symbol.clone()),
            device,
            units: Vec::new(),
            span,
        });
        if !used.units.contains(&unit) {
            used.units.push(unit);
        }
        used.name.clone()
    }

    fn unit(&mut self, unit: &mut Unit) {
        self.unit = unit.name.text.clone();
        self.types.clear();
        for decl in unit.sections.iter().flat_map(|s| &s.vars) {
            let kind = self.kind_declared(decl);
            self.types.extend(decl.names.iter().map(|n| (n.text.to_uppercase(), kind)));
        }
        match &mut unit.body {
            Body::Statements(list) => walk::statements(self, list),
            Body::Instructions(list) => {
                self.ends(unit.kind, unit.name.span, list);
                self.list(list, Want::Bit);
            }
            Body::Ladder(list) | Body::Blocks(list) => {
                networks::without_end(list);
                list.iter_mut().for_each(|n| self.network(n));
            }
        }
    }

    /// The device at an address, or the one whose run of registers begins there.
    fn device_of(&self, at: At) -> Option<usize> {
        if let Holds::Device = self.sheet.areas[at.0].holds {
            self.sheet.device_at(at.0, at.1)
        } else {
            self.runs.get(&at).map(|(device, _)| *device)
        }
    }
}

/// A name for what has no other: the address, with `_` for what cannot stand in a name.
pub(crate) fn name_of(address: &str) -> String {
    let plain = address.trim_start_matches('%').chars();
    let name: String = plain.map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).collect();
    if name.starts_with(|c: char| c.is_ascii_digit()) { format!("At{name}") } else { name }
}

/// The section that a variable of an area stands in.
pub(super) const fn section_of(role: AreaRole) -> crate::model::Section {
    match role {
        AreaRole::Input => crate::model::Section::Input,
        AreaRole::Output => crate::model::Section::Output,
        AreaRole::Memory | AreaRole::Devices => crate::model::Section::Local,
    }
}
