//! What the outside does with variables whose declarations do not say it: a register that a panel writes, a bit that a
//! model of the plant sets, a count that a panel shows.

use super::env::normal_address;
use super::typed::{Ty, UnitId, Var};
use super::{Checked, NameError};
use crate::dialect::Tags;
use crate::model::sheet::Library;
use crate::model::{Outside, Section};
use crate::source::codes;

impl Checked {
    /// The project with a variable of a program, or a global, that the outside gives or sees. It goes by its name or by its
    /// address, as the program writes that.
    ///
    /// # Errors
    /// If there is no such variable, or if it is a constant or an instance of a function block.
    pub fn outside(mut self, name: &str, what: Outside) -> Result<Checked, NameError> {
        self.mark(name, what)?;
        Ok(self)
    }

    /// What the outside gives and sees beside what declarations say, by the names of variables, in the order in which it was
    /// said.
    pub(crate) fn said_outside(&self) -> &[(String, Outside)] {
        &self.outside
    }

    /// The project run as another one is: with the same given and shown, retained beside what declarations say, and only those
    /// programs running that run there.
    pub(crate) fn run_as(self, other: &Checked) -> Checked {
        let mut out = self.outside_as_in(other);
        let retained: Vec<String> = other
            .clone()
            .reachable()
            .filter(|var| var.retain == crate::model::Retain::Retain)
            .map(|var| var.name.to_uppercase())
            .collect();
        // What is declared otherwise here is what changed; what was said from outside goes for both.
        for var in out.reachable().filter(|var| var.retain == crate::model::Retain::Unsaid) {
            if retained.contains(&var.name.to_uppercase()) && !declared_retained(&other.project, &var.name) {
                var.retain = crate::model::Retain::Retain;
            }
        }
        out.programs.retain(|program| other.programs.iter().any(|own| own.instance == program.instance));
        out
    }

    /// Marks a variable; where it cannot be marked nothing is changed.
    fn mark(&mut self, name: &str, what: Outside) -> Result<(), NameError> {
        let library = self.project.library.clone();
        let wanted = normal(name);
        let is_at = |address: &String| written_address(library.as_deref(), address).eq_ignore_ascii_case(&wanted);
        let mut meant: Vec<&mut Var> = self
            .reachable()
            .filter(|var| var.name.eq_ignore_ascii_case(name) || var.address.as_ref().is_some_and(is_at))
            .collect();
        if meant.is_empty() {
            return Err(NameError::NoVariable(name.to_string()));
        }
        for var in &meant {
            if var.constant {
                return Err(NameError::Constant(var.name.clone()));
            }
            if matches!(var.ty, Ty::Block(_)) {
                return Err(NameError::Instance(var.name.clone()));
            }
        }
        for var in &mut meant {
            var.section = match what {
                Outside::Given => Section::Input,
                Outside::Shown => Section::Output,
            };
        }
        let marked: Vec<_> = meant.iter().map(|var| (var.name.clone(), what)).collect();
        self.outside.extend(marked);
        Ok(())
    }

    /// The project with all that the outside gives or sees in another one, where it has the names.
    #[must_use]
    pub fn outside_as_in(mut self, other: &Checked) -> Checked {
        for (name, what) in &other.outside {
            // What there is not is nothing to mark.
            let _ = self.mark(name, *what);
        }
        self
    }

    /// The project with what the outside gives and sees by a tag list, as far as it has that.
    #[must_use]
    pub fn outside_by(mut self, tags: &Tags) -> Checked {
        for (tag, what) in tags.rows.iter().filter_map(|tag| tag.outside.map(|what| (tag, what))) {
            let _ = self.mark(&tag.address, what);
        }
        self
    }

    /// The project with what the outside gives and sees by the sheet that it is written by.
    pub(super) fn outside_by_sheet(mut self) -> Checked {
        let Some(library) = self.project.library.clone() else { return self };
        let marked = |var: &mut Var| {
            let address = library.sheet.written(var.address.as_ref()?)?;
            let (area, index) = library.sheet.locate(&address).ok()?;
            Some((address, library.sheet.areas[area].outside(index)?, var.span))
        };
        let all: Vec<_> = self.reachable().filter_map(marked).collect();
        for (address, what, span) in all {
            if self.mark(&address, what).is_ok() && what == Outside::Given {
                // It is written after all: by the outside.
                self.warnings.0.retain(|hint| hint.code != codes::NEVER_WRITTEN || hint.span != span);
            }
        }
        self
    }

    /// Variables of the programs that run, and globals.
    pub(super) fn reachable(&mut self) -> impl Iterator<Item = &mut Var> {
        let programs: Vec<UnitId> = self.programs.iter().map(|p| p.unit).collect();
        let units = self.units.iter_mut().enumerate().filter(move |(n, _)| programs.contains(&UnitId(*n as u32)));
        units.flat_map(|(_, unit)| &mut unit.vars).filter(|var| var.global.is_none()).chain(&mut self.globals)
    }
}

/// Whether a project's own declarations say that a variable is retained.
fn declared_retained(project: &crate::model::Project, name: &str) -> bool {
    use crate::model::{Item, Retain, VarSection};
    let says = |section: &VarSection| {
        section.retain == Retain::Retain && section.vars.iter().flat_map(|decl| &decl.names).any(|own| own.is(name))
    };
    project.items.iter().any(|item| match item {
        Item::Unit(unit) => unit.sections.iter().any(says),
        Item::Globals(section) => says(section),
        Item::Configuration(configuration) => configuration.globals.iter().any(says),
        Item::Type(_) | Item::Envelope(_) => false,
    })
}

/// An address as a program writes it: in its dialect's way, or in the standard's usual spelling.
pub(crate) fn written_address(library: Option<&Library>, address: &str) -> String {
    let of_dialect = library.and_then(|library| library.sheet.written(address));
    of_dialect.unwrap_or_else(|| normal_address(address))
}

/// An address of the standard in its usual spelling; any other name as it is.
fn normal(name: &str) -> String {
    if name.starts_with('%') { normal_address(name) } else { name.to_string() }
}
