//! Checking: names, types, widening, ranges, arguments; then hints. What passes becomes a [`Checked`] project,
//! the only thing that the engine, the writers of other languages and the comparison accept.

mod call;
mod coerce;
mod constant;
mod declare;
mod devices;
mod diagram;
mod env;
mod expr;
mod fragment;
mod hints;
mod init;
mod list;
mod meant;
mod outside;
mod probe;
mod reach;
mod recursion;
mod resets;
pub(crate) mod sites;
mod stmt;
mod tasks;
pub(crate) mod typed;
mod types;
pub(crate) mod walk;

pub(crate) use diagram::wire_name;
pub(crate) use meant::closest;
pub(crate) use outside::written_address;

pub use declare::{Declaration, declarations};
pub use probe::{Probe, ProbeError, probe};

use crate::dialect;
use crate::model::{Elem, Outside, Project, UnitKind};
use crate::source::Diagnostics;
use env::Env;
use std::collections::HashMap;
use std::sync::Arc;
use typed::{EnumDef, StructDef, TUnit, Ty, UnitId, Var};

/// A project that has a meaning: there is no way to get one but [`check`].
#[derive(Clone, Debug)]
pub struct Checked {
    project: Arc<Project>,
    pub(crate) units: Vec<TUnit>,
    pub(crate) globals: Vec<Var>,
    pub(crate) enums: Vec<EnumDef>,
    pub(crate) structs: Vec<StructDef>,
    /// The programs that run, in order.
    pub(crate) programs: Vec<RunProgram>,
    /// What stands in for the machine, in the order of the project's plants.
    pub(crate) plants: Vec<RunPlant>,
    warnings: Diagnostics,
    /// What the outside does with variables, beside what their declarations say.
    outside: Vec<(String, Outside)>,
}

/// Why what is said of a project from outside cannot be said of it.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NameError {
    /// No variable of that name or address to be given or shown.
    #[error("there is no variable `{0}` that the outside could give or see")]
    NoVariable(String),
    /// A constant.
    #[error("`{0}` is a constant, which no outside gives or changes")]
    Constant(String),
    /// An instance of a function block.
    #[error("`{0}` is an instance, which writes its own parts; name a variable")]
    Instance(String),
    /// No variable of that name to be retained.
    #[error("there is no variable `{0}` to retain")]
    NotRetained(String),
    /// No program of that name.
    #[error("there is no program `{0}`")]
    NoProgram(String),
}

/// A program as it runs.
#[derive(Clone, Debug)]
pub(crate) struct RunProgram {
    pub(crate) instance: String,
    pub(crate) unit: UnitId,
    /// Nanoseconds between releases; 0 runs in each scan.
    pub(crate) interval: i64,
}

/// A plant as it runs: an instance of a function block among the globals.
#[derive(Clone, Copy, Debug)]
pub(crate) struct RunPlant {
    pub(crate) global: u32,
    pub(crate) unit: UnitId,
}

impl Checked {
    /// The project it was made from.
    #[must_use]
    pub fn project(&self) -> &Project {
        &self.project
    }

    /// What a careful colleague would ask.
    #[must_use]
    pub fn warnings(&self) -> &Diagnostics {
        &self.warnings
    }

    /// Names of the programs that run, in order.
    pub fn programs(&self) -> impl Iterator<Item = &str> {
        self.programs.iter().map(|p| p.instance.as_str())
    }

    /// The project with variables of programs, or globals, that survive loss of power whatever their declarations say.
    ///
    /// # Errors
    /// The first name that there is not.
    pub fn retaining(mut self, names: &[String]) -> Result<Checked, NameError> {
        for name in names {
            let mut found = false;
            for var in self.reachable().filter(|v| v.name.eq_ignore_ascii_case(name)) {
                var.retain = crate::model::Retain::Retain;
                found = true;
            }
            if !found {
                return Err(NameError::NotRetained(name.clone()));
            }
        }
        Ok(self)
    }

    /// The project with only one of its programs running.
    ///
    /// # Errors
    /// If there is none of that name.
    pub fn running_only(mut self, program: &str) -> Result<Checked, NameError> {
        self.programs.retain(|p| p.instance.eq_ignore_ascii_case(program));
        if self.programs.is_empty() { Err(NameError::NoProgram(program.to_string())) } else { Ok(self) }
    }

    pub(crate) fn unit(&self, id: UnitId) -> &TUnit {
        &self.units[id.0 as usize]
    }

    /// A type as it is written in a declaration.
    pub(crate) fn type_name(&self, ty: &Ty) -> String {
        types::name(ty, &self.enums, &self.structs, |id| self.unit(id).name.clone())
    }
}

/// Checks a project.
///
/// # Errors
/// All problems found, hints included, in the order of their places, if at least one of them is an error.
pub fn check(project: Project) -> Result<Checked, Diagnostics> {
    let (project, said) = fragment::complete(project);
    let (checked, mut problems, _) = run(&project, HashMap::new());
    // While something else is wrong, what a text was taken for helps nobody.
    if !problems.has_errors() {
        problems.0.extend(said);
    }
    problems.settle();
    if problems.has_errors() {
        return Err(problems);
    }
    Ok(Checked { project: Arc::new(project), warnings: problems, ..checked }.outside_by_sheet())
}

/// Checks what was read, and gives all problems of both together: those of reading, errors, and hints. Hints about
/// what is used are left out while something could not be read. A project with errors gives no [`Checked`].
#[must_use]
pub fn verify(project: Project, read: Diagnostics) -> (Option<Checked>, Diagnostics) {
    let unreadable = read.has_errors();
    let mut all = read;
    let checked = match check(project) {
        Ok(checked) => {
            all.0.extend(checked.warnings.0.iter().filter(|_| !unreadable).cloned());
            Some(checked).filter(|_| !unreadable)
        }
        Err(found) => {
            all.0.extend(found.0);
            None
        }
    };
    all.settle();
    (checked, all)
}

type Guessed = HashMap<(u32, String), Ty>;

/// One pass of the checker, with types assumed for names that are not declared.
fn run(project: &Project, assumed: Guessed) -> (Checked, Diagnostics, Vec<env::Guess>) {
    let built_in = dialect::standard_blocks();
    let mut env = Env::new(assumed);
    env.collect(project, built_in);
    env.signatures();
    recursion::check(&mut env);
    env.bodies();
    let programs = env.programs(project);
    let plants = env.plants_run();
    hints::check(&mut env);
    devices::check(&mut env, project.library.as_deref());
    let checked = Checked {
        project: Arc::new(Project::default()),
        units: env.units,
        globals: env.globals,
        enums: env.enums,
        structs: env.structs,
        programs,
        plants,
        outside: Vec::new(),
        warnings: Diagnostics::default(),
    };
    (checked, Diagnostics(env.problems), env.guesses)
}

fn is_program(unit: &TUnit) -> bool {
    unit.kind == UnitKind::Program && !unit.built_in
}

/// The size letter of a direct address: `%IX0.0`, `%QW3`, `%I0.0`.
fn address_type(address: &str) -> Option<Elem> {
    let mut letters = address.strip_prefix('%')?.chars().map(|c| c.to_ascii_uppercase());
    letters.next().filter(|c| matches!(c, 'I' | 'Q' | 'M'))?;
    let size = letters.next()?;
    let digits: String = match size {
        'X' | 'B' | 'W' | 'D' | 'L' => letters.collect(),
        _ => std::iter::once(size).chain(letters).collect(),
    };
    let well_formed = !digits.is_empty()
        && digits.split('.').all(|part| !part.is_empty() && part.chars().all(|c| c.is_ascii_digit()));
    well_formed.then_some(match size {
        'B' => Elem::Byte,
        'W' => Elem::Word,
        'D' => Elem::Dword,
        'L' => Elem::Lword,
        _ => Elem::Bool,
    })
}
