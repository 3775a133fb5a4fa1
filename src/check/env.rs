//! What names stand for: units, types, globals, variables; collected first, so that order does not matter.

use super::meant::Compared;
use super::typed::{Code, EdgeVars, EnumDef, Origin, Place, Root, StructDef, TInit, TUnit, Ty, UnitId, Var};
use super::{Guessed, address_type};
use crate::model::sheet::Library;
use crate::model::{
    Arg, Edge, Elem, Item, Name, Plant, Project, Retain, Section, TypeDecl, Unit, UnitKind, VarDecl, VarSection,
};
use crate::source::{Code as ProblemCode, Diagnostic, Span, codes};
use std::collections::{HashMap, HashSet};

/// A name that is not declared, with what is known of it.
#[derive(Clone, Debug)]
pub(super) struct Guess {
    pub(super) unit: u32,
    pub(super) name: Name,
    pub(super) ty: Option<Ty>,
    /// Written to in some place.
    pub(super) written: bool,
    /// Fields and arguments seen on it.
    pub(super) pins: Vec<String>,
}

/// Reads and writes seen of a variable, for hints.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Use {
    pub(super) read: bool,
    /// How many places read it, and how many of those read the opposite.
    pub(super) reads: u32,
    pub(super) inverted: u32,
    pub(super) written: bool,
    /// Writes that happen in every scan: the first and the second place.
    pub(super) first_write: Option<Span>,
    pub(super) second_write: Option<Span>,
}

pub(super) struct Env<'p> {
    pub(super) problems: Vec<Diagnostic>,
    /// The conventions that the project is written by, if not the standard's.
    library: Option<&'p Library>,
    /// What stands in for the machine.
    plants: &'p [Plant],
    pub(super) units: Vec<TUnit>,
    /// The units as they were written, beside `units`.
    pub(super) written: Vec<&'p Unit>,
    pub(super) unit_names: HashMap<String, UnitId>,
    pub(super) type_decls: HashMap<String, &'p TypeDecl>,
    pub(super) types: HashMap<String, (Ty, TInit)>,
    pub(super) open_types: HashSet<String>,
    pub(super) enums: Vec<EnumDef>,
    pub(super) structs: Vec<StructDef>,
    /// Enumeration values by name; more than one enumeration may have it.
    pub(super) enum_values: HashMap<String, Vec<(u32, i64)>>,
    pub(super) globals: Vec<Var>,
    global_sections: Vec<&'p VarSection>,
    pub(super) global_names: HashMap<String, u32>,
    pub(super) guesses: Vec<Guess>,
    /// Names that unknown ones were compared with.
    pub(super) compared: Compared,
    assumed: Guessed,
    /// The unit whose body is being checked.
    pub(super) current: UnitId,
    pub(super) local_names: Vec<HashMap<String, u32>>,
    pub(super) uses: HashMap<(u32, Root), Use>,
    /// Calls seen, for recursion: caller and callee.
    pub(super) calls: Vec<(UnitId, UnitId, Span)>,
    /// Instances with initial values, for when all blocks are known: their unit (none for globals), declaration and type.
    instances: Vec<(Option<usize>, &'p VarDecl, Ty)>,
    pub(super) loops: u32,
    /// How many conditions and loops stand around the statement at hand.
    pub(super) guards: u32,
}

pub(super) fn key(name: &str) -> String {
    name.to_uppercase()
}

impl<'p> Env<'p> {
    pub(super) fn new(assumed: Guessed) -> Self {
        Env {
            problems: Vec::new(),
            library: None,
            plants: &[],
            units: Vec::new(),
            written: Vec::new(),
            unit_names: HashMap::new(),
            type_decls: HashMap::new(),
            types: HashMap::new(),
            open_types: HashSet::new(),
            enums: Vec::new(),
            structs: Vec::new(),
            enum_values: HashMap::new(),
            globals: Vec::new(),
            global_sections: Vec::new(),
            global_names: HashMap::new(),
            guesses: Vec::new(),
            compared: Compared::default(),
            assumed,
            current: UnitId(0),
            local_names: Vec::new(),
            uses: HashMap::new(),
            calls: Vec::new(),
            instances: Vec::new(),
            loops: 0,
            guards: 0,
        }
    }

    pub(super) fn error(&mut self, code: ProblemCode, span: Span, message: impl Into<String>) {
        self.problems.push(Diagnostic::error(code, span, message));
    }

    /// The plants as they run: their instances among the globals.
    pub(super) fn plants_run(&self) -> Vec<super::RunPlant> {
        let run = |plant: &Plant| {
            let global = *self.global_names.get(&key(&plant.name.text))?;
            Some(super::RunPlant { global, unit: *self.unit_names.get(&key(&plant.block.text))? })
        };
        self.plants.iter().filter_map(run).collect()
    }

    /// True of a global that a plant declares.
    pub(super) fn is_of_plant(&self, var: &Var) -> bool {
        let declares = |item: &Item| item.span().file == var.span.file;
        self.plants.iter().any(|plant| plant.items.iter().any(declares))
    }

    /// The sheet of the project's dialect.
    pub(super) fn sheet(&self) -> Option<&'p crate::model::sheet::Sheet> {
        self.library.map(|library| &library.sheet)
    }

    pub(super) fn collect(&mut self, project: &'p Project, built_in: &'static Project) {
        self.items(&project.items, false);
        // A plant is no logic of the user's that is compared, as a shipped block is none.
        project.plants.iter().for_each(|plant| self.items(&plant.items, true));
        self.plants = &project.plants;
        let library = project.library.as_deref();
        self.library = library;
        for item in library.iter().flat_map(|l| &l.items).chain(&built_in.items) {
            // A unit of the user's own takes the place of a shipped one.
            if let Item::Unit(unit) = item
                && !self.unit_names.contains_key(&key(&unit.name.text))
            {
                self.add_unit(unit, true);
            }
        }
    }

    fn items(&mut self, items: &'p [Item], built_in: bool) {
        for item in items {
            match item {
                Item::Unit(unit) => self.add_unit(unit, built_in),
                Item::Type(decl) => {
                    if let Some(first) = self.type_decls.insert(key(&decl.name.text), decl) {
                        self.duplicate(&decl.name, first.name.span);
                    }
                }
                Item::Globals(section) => self.global_sections.push(section),
                Item::Configuration(c) => self.global_sections.extend(&c.globals),
                Item::Envelope(_) => {}
            }
        }
    }

    fn add_unit(&mut self, unit: &'p Unit, built_in: bool) {
        let id = UnitId(self.units.len() as u32);
        if let Some(first) = self.unit_names.get(&key(&unit.name.text)) {
            let span = self.units[first.0 as usize].span;
            self.duplicate(&unit.name, span);
        } else {
            self.unit_names.insert(key(&unit.name.text), id);
        }
        self.units.push(TUnit {
            name: unit.name.text.clone(),
            kind: unit.kind,
            vars: Vec::new(),
            code: Code::Block(Vec::new()),
            span: unit.name.span,
            built_in,
        });
        self.written.push(unit);
        self.local_names.push(HashMap::new());
    }

    pub(super) fn duplicate(&mut self, name: &Name, first: Span) {
        self.problems.push(
            Diagnostic::error(codes::DUPLICATE, name.span, format!("`{}` is declared twice", name.text))
                .related(first, "first declared here"),
        );
    }

    /// Declares types, globals and the variables of all units.
    pub(super) fn signatures(&mut self) {
        let mut names: Vec<String> = self.type_decls.keys().cloned().collect();
        names.sort_unstable_by_key(|n| self.type_decls[n].name.span);
        for name in names {
            self.named_type(&name);
        }
        let built_in: Vec<usize> = (0..self.units.len()).filter(|i| self.units[*i].built_in).collect();
        self.variables_of(&built_in);
        for section in std::mem::take(&mut self.global_sections) {
            for var in self.section_vars(None, section) {
                let name = Name { text: var.name.clone(), span: var.span };
                if let Some(first) = self.global_names.insert(key(&var.name), self.globals.len() as u32) {
                    let span = self.globals[first as usize].span;
                    self.duplicate(&name, span);
                }
                self.globals.push(var);
            }
        }
        let own = |programs: bool| {
            let units = self.units.iter().enumerate().filter(move |(_, u)| !u.built_in);
            units.filter(move |(_, u)| (u.kind == UnitKind::Program) == programs).map(|(i, _)| i).collect::<Vec<_>>()
        };
        let (blocks, programs) = (own(false), own(true));
        self.variables_of(&blocks);
        self.variables_of(&programs);
        self.initial_instances();
        self.check_addresses();
    }

    /// Instances may be initialised field by field, which is looked at when all blocks are known.
    fn initial_instances(&mut self) {
        for (owner, decl, ty) in std::mem::take(&mut self.instances) {
            let Some(init) = &decl.init else { continue };
            self.current = UnitId(owner.unwrap_or_default() as u32);
            let init = self.init(init, &ty);
            for name in &decl.names {
                let vars = match owner {
                    Some(unit) => &mut self.units[unit].vars,
                    None => &mut self.globals,
                };
                vars.iter_mut().filter(|var| var.span == name.span).for_each(|var| var.init = init.clone());
            }
        }
    }

    fn variables_of(&mut self, units: &[usize]) {
        for &index in units {
            self.current = UnitId(index as u32);
            self.unit_vars(index);
        }
    }

    fn unit_vars(&mut self, index: usize) {
        let unit = self.written[index];
        if let Some(spec) = &unit.result {
            let ty = self.spec(spec);
            let var = Var {
                name: unit.name.text.clone(),
                ty: ty.0,
                section: Section::Output,
                init: ty.1,
                retain: Retain::Unsaid,
                constant: false,
                address: None,
                global: None,
                edge: None,
                span: unit.name.span,
                origin: Origin::Declared,
            };
            self.add_var(index, var);
        } else if unit.kind == UnitKind::Function && !self.units[index].built_in {
            self.problems.push(
                Diagnostic::error(codes::EXPECTED, unit.name.span, "a function needs a type for its value")
                    .help(format!("write `FUNCTION {} : BOOL`, or make it a FUNCTION_BLOCK", unit.name.text)),
            );
        }
        for section in &unit.sections {
            if unit.kind == UnitKind::Function && section.retain == Retain::Retain {
                self.error(
                    codes::WRITE,
                    section.span,
                    "a function keeps nothing from call to call, so nothing in it can be RETAIN",
                );
            }
            for mut var in self.section_vars(Some(index), section) {
                if section.section == Section::External {
                    var.global = self.global_names.get(&key(&var.name)).copied();
                    self.external(&var);
                }
                self.add_var(index, var);
            }
            for decl in &section.vars {
                if let Some(kind) = decl.edge {
                    self.edge_inputs(index, decl, section.section, kind);
                }
            }
        }
    }

    /// A name that is declared elsewhere is declared there, and of the same type.
    fn external(&mut self, var: &Var) {
        let Some(global) = var.global.map(|at| &self.globals[at as usize]) else {
            let message = format!("`{}` is external, but no VAR_GLOBAL declares it", var.name);
            self.error(codes::UNKNOWN_NAME, var.span, message);
            return;
        };
        if global.ty != var.ty && !global.ty.is_unknown() && !var.ty.is_unknown() {
            let (here, there) = (self.show(&var.ty), self.show(&global.ty));
            let first = global.span;
            let message = format!("`{}` is {here} here, but {there} where VAR_GLOBAL declares it", var.name);
            self.problems.push(Diagnostic::error(codes::TYPE, var.span, message).related(first, "declared here"));
        }
    }

    /// Gives inputs with R_EDGE or F_EDGE what they need beside them.
    fn edge_inputs(&mut self, index: usize, decl: &VarDecl, section: Section, kind: Edge) {
        let is_function = self.units[index].kind == UnitKind::Function;
        for name in &decl.names {
            let at = self.local_names[index].get(&key(&name.text)).copied();
            let Some(at) = at else { continue };
            let var = self.units[index].vars[at as usize].clone();
            if is_function || section != Section::Input || var.ty != Ty::BOOL {
                let message = "R_EDGE and F_EDGE stand behind BOOL inputs of programs and function blocks";
                self.error(codes::TYPE, name.span, message);
                continue;
            }
            let mut hidden = |what: &str| {
                let number = self.units[index].vars.len() as u32;
                let name = format!("{} {what}", var.name);
                let hidden = Var {
                    name,
                    section: Section::Local,
                    init: TInit::Default,
                    address: None,
                    origin: Origin::Between,
                    ..var.clone()
                };
                self.units[index].vars.push(hidden);
                number
            };
            let (seen, memory) = (hidden("edge"), hidden("edge memory"));
            self.units[index].vars[at as usize].edge = Some(EdgeVars { kind, seen, memory });
        }
    }

    fn add_var(&mut self, unit: usize, var: Var) {
        let number = self.units[unit].vars.len() as u32;
        if let Some(first) = self.local_names[unit].get(&key(&var.name)).copied() {
            let name = Name { text: var.name.clone(), span: var.span };
            let span = self.units[unit].vars[first as usize].span;
            self.duplicate(&name, span);
        } else {
            self.local_names[unit].insert(key(&var.name), number);
        }
        self.units[unit].vars.push(var);
    }

    /// Two names at one address would be one point of memory that two variables hold.
    fn check_addresses(&mut self) {
        let mut seen: HashMap<String, (String, Span)> = HashMap::new();
        let all: Vec<Var> = self.globals.iter().chain(self.units.iter().flat_map(|u| &u.vars)).cloned().collect();
        for var in all {
            let Some(address) = &var.address else { continue };
            let is_device = self.library.is_some() && matches!(var.ty, Ty::Block(_));
            match address_type(address) {
                _ if is_device => {}
                None => {
                    self.problems.push(
                        Diagnostic::error(codes::ADDRESS, var.span, format!("`{address}` is not an address"))
                            .help("an address is %, the area I, Q or M, a size X, B, W, D or L, and numbers with dots: %IX0.0"),
                    );
                }
                Some(elem) => {
                    let fits = var.ty.elem().and_then(Elem::shape).map(|s| s.bits) == elem.shape().map(|s| s.bits);
                    if !fits && !matches!(var.ty, Ty::Unknown(_) | Ty::Array(_)) && !elem_is_any(address) {
                        let message =
                            format!("`{}` does not have the width of {}", var.name, self.written_address(address));
                        self.error(codes::ADDRESS, var.span, message);
                    }
                }
            }
            let normal = normal_address(address);
            if let Some((other, first)) = seen.insert(normal, (var.name.clone(), var.span))
                && var.section != Section::External
                && self.library.is_none()
            {
                self.problems.push(
                    Diagnostic::error(
                        codes::ADDRESS,
                        var.span,
                        format!("{} is given to `{other}` and to `{}`", self.written_address(address), var.name),
                    )
                    .related(first, "first used here"),
                );
            }
        }
    }

    /// An address as the program writes it.
    fn written_address(&self, address: &str) -> String {
        let own = self.library.and_then(|l| l.sheet.written(address));
        own.unwrap_or_else(|| address.to_string())
    }

    /// Checks all bodies.
    pub(super) fn bodies(&mut self) {
        for index in 0..self.units.len() {
            self.current = UnitId(index as u32);
            self.loops = 0;
            let body = &self.written[index].body;
            self.units[index].code = match body {
                crate::model::Body::Statements(list) => Code::Block(self.block(list)),
                crate::model::Body::Instructions(list) => Code::List(self.instruction_list(list)),
                crate::model::Body::Ladder(list) | crate::model::Body::Blocks(list) => Code::List(self.networks(list)),
            };
        }
    }

    /// The variable a name stands for here, if it is one.
    pub(super) fn variable(&self, name: &str) -> Option<(Root, &Var)> {
        let unit = self.current.0 as usize;
        if let Some(&number) = self.local_names.get(unit)?.get(&key(name)) {
            let var = &self.units[unit].vars[number as usize];
            return match var.global {
                Some(global) => Some((Root::Global(global), &self.globals[global as usize])),
                None => Some((Root::Local(number), var)),
            };
        }
        // Constants and other globals are visible in every unit; VAR_EXTERNAL only makes that plain.
        let &global = self.global_names.get(&key(name))?;
        Some((Root::Global(global), &self.globals[global as usize]))
    }

    /// A direct address: the variable that has it, or a point that all units share.
    pub(super) fn address(&mut self, name: &Name) -> Option<Place> {
        let Some(elem) = address_type(&name.text) else {
            // In a dialect, what is left of its addresses has been reported where it was read.
            if self.library.is_some() {
                return None;
            }
            let message = format!("`{}` is not an address", name.text);
            self.error(codes::ADDRESS, name.span, message);
            return None;
        };
        let normal = normal_address(&name.text);
        let same = |var: &Var| var.address.as_deref().is_some_and(|a| normal_address(a) == normal);
        let place = |root, ty| Some(Place { root, steps: Vec::new(), ty, span: name.span });
        let unit = &self.units[self.current.0 as usize];
        if let Some(number) = unit.vars.iter().position(same) {
            return place(Root::Local(number as u32), unit.vars[number].ty.clone());
        }
        if let Some(number) = self.globals.iter().position(same) {
            return place(Root::Global(number as u32), self.globals[number].ty.clone());
        }
        let number = self.globals.len() as u32;
        self.globals.push(Var {
            name: name.text.clone(),
            ty: Ty::Elem(elem),
            section: Section::Global,
            init: TInit::Default,
            retain: Retain::Unsaid,
            constant: false,
            address: Some(name.text.clone()),
            global: None,
            edge: None,
            span: name.span,
            origin: Origin::Declared,
        });
        place(Root::Global(number), Ty::Elem(elem))
    }

    /// Reports a name that is not declared and keeps what becomes known of it.
    pub(super) fn unknown(&mut self, name: &Name) -> Ty {
        let unit = self.current.0;
        if let Some(ty) = self.assumed.get(&(unit, key(&name.text))).cloned() {
            return ty;
        }
        if let Some(at) = self.guesses.iter().position(|g| g.unit == unit && g.name == *name) {
            return Ty::Unknown(Some(at as u32));
        }
        let message = format!("unknown name `{}`", name.text);
        let mut problem = Diagnostic::error(codes::UNKNOWN_NAME, name.span, message);
        problem.help = match self.similar(&name.text) {
            Some(other) => Some(format!("did you mean `{other}`?")),
            None => Some(format!("declare it; `check --declare` writes the declaration of `{}`", name.text)),
        };
        self.problems.push(problem);
        self.guesses.push(Guess { unit, name: name.clone(), ty: None, written: false, pins: Vec::new() });
        Ty::Unknown(Some(self.guesses.len() as u32 - 1))
    }

    /// A declared name close to this one.
    fn similar(&self, name: &str) -> Option<String> {
        let unit = self.current.0 as usize;
        let locals = self.units[unit].vars.iter().map(|v| v.name.as_str());
        let globals = self.globals.iter().map(|v| v.name.as_str());
        let values = self.enums.iter().flat_map(|e| e.values.iter().map(|(n, _)| n.as_str()));
        self.compared.closest(name, || locals.chain(globals).chain(values))
    }

    /// Learns the type of an undeclared name.
    pub(super) fn learn(&mut self, from: &Ty, ty: &Ty) {
        if let Ty::Unknown(Some(at)) = from
            && let Some(guess) = self.guesses.get_mut(*at as usize)
            && guess.ty.is_none()
            && !ty.is_unknown()
            && !ty.is_untyped()
        {
            guess.ty = Some(ty.clone());
        }
    }

    /// Learns that an undeclared name has these fields or arguments.
    pub(super) fn learn_pins(&mut self, from: &Ty, args: &[Arg]) {
        let Ty::Unknown(Some(at)) = from else { return };
        let Some(guess) = self.guesses.get_mut(*at as usize) else { return };
        for arg in args {
            match arg {
                Arg::Input(name, _) | Arg::Output { name, .. } => guess.pins.push(key(&name.text)),
                Arg::Plain(_) => {}
            }
        }
    }

    /// The variables of a section. `owner` is their unit, or none for globals.
    fn section_vars(&mut self, owner: Option<usize>, section: &'p VarSection) -> Vec<Var> {
        let mut out = Vec::new();
        for decl in &section.vars {
            let (ty, default) = self.spec(&decl.spec);
            let init = match &decl.init {
                // Its block may stand further down.
                Some(_) if holds_instances(&ty) => {
                    self.instances.push((owner, decl, ty.clone()));
                    default
                }
                Some(init) => self.init(init, &ty),
                None => default,
            };
            for name in &decl.names {
                out.push(Var {
                    name: name.text.clone(),
                    ty: ty.clone(),
                    section: section.section,
                    init: init.clone(),
                    retain: section.retain,
                    constant: section.constant,
                    address: decl.address.as_ref().map(|a| a.text.clone()),
                    global: None,
                    edge: None,
                    span: name.span,
                    origin: Origin::Declared,
                });
            }
        }
        out
    }
}

fn holds_instances(ty: &Ty) -> bool {
    match ty {
        Ty::Block(_) => true,
        Ty::Array(array) => holds_instances(&array.of),
        Ty::Elem(_) | Ty::Text(_) | Ty::Range(..) | Ty::Enum(_) | Ty::Struct(_) => false,
        Ty::Watch | Ty::LitInt | Ty::LitReal | Ty::Unknown(_) => false,
    }
}

fn elem_is_any(address: &str) -> bool {
    // `%I0.0` without a size letter is a bit.
    address.chars().nth(2).is_some_and(|c| c.is_ascii_digit()) && !address.contains('.')
}

/// Addresses are the same whatever the case, and `%I0.0` is `%IX0.0`.
pub(super) fn normal_address(address: &str) -> String {
    let upper = address.to_ascii_uppercase();
    let bare = upper.chars().nth(2).is_some_and(|c| c.is_ascii_digit());
    if bare { format!("{}X{}", &upper[..2], &upper[2..]) } else { upper }
}
