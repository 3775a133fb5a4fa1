//! What the outside does with variables whose declarations do not say it: a register that a panel writes, a bit that a
//! model of the plant sets, a count that a panel shows.

use super::Checked;
use super::env::normal_address;
use super::typed::{Ty, UnitId, Var};
use crate::dialect::Tags;
use crate::model::{Outside, Section};

impl Checked {
    /// The project with a variable of a program, or a global, that the outside gives or sees. It goes by its name or by its
    /// address, as the program writes that.
    ///
    /// # Errors
    /// If there is no such variable, or if it is a constant or an instance of a function block.
    pub fn outside(mut self, name: &str, what: Outside) -> Result<Checked, String> {
        let library = self.project.library.clone();
        let is_meant = |var: &Var| {
            let written = var.address.as_ref().map(|address| {
                let of_dialect = library.as_ref().and_then(|library| library.sheet.written(address));
                of_dialect.unwrap_or_else(|| normal_address(address))
            });
            var.name.eq_ignore_ascii_case(name) || written.is_some_and(|w| w.eq_ignore_ascii_case(&normal(name)))
        };
        let mut found = Vec::new();
        for var in self.reachable().filter(|var| is_meant(var)) {
            match (&var.ty, var.constant) {
                (_, true) => return Err(format!("`{}` is a constant, which no outside gives or changes", var.name)),
                (Ty::Block(_), false) => {
                    return Err(format!("`{}` is an instance, which writes its own parts; name a variable", var.name));
                }
                _ => {}
            }
            var.section = match what {
                Outside::Given => Section::Input,
                Outside::Shown => Section::Output,
            };
            found.push((var.name.clone(), what));
        }
        if found.is_empty() {
            return Err(format!("there is no variable `{name}` that the outside could give or see"));
        }
        self.outside.extend(found);
        Ok(self)
    }

    /// The project with all that the outside gives or sees in another one, where it has the names.
    #[must_use]
    pub fn outside_as_in(self, other: &Checked) -> Checked {
        let said = other.outside.iter();
        said.fold(self, |checked, (name, what)| checked.clone().outside(name, *what).unwrap_or(checked))
    }

    /// The project with what the outside gives and sees by a tag list, as far as it has that.
    #[must_use]
    pub fn outside_by(self, tags: &Tags) -> Checked {
        let said = tags.rows.iter().filter_map(|tag| tag.outside.map(|what| (&tag.address, what)));
        said.fold(self, |checked, (address, what)| checked.clone().outside(address, what).unwrap_or(checked))
    }

    /// Variables of the programs that run, and globals.
    pub(super) fn reachable(&mut self) -> impl Iterator<Item = &mut Var> {
        let programs: Vec<UnitId> = self.programs.iter().map(|p| p.unit).collect();
        let units = self.units.iter_mut().enumerate().filter(move |(n, _)| programs.contains(&UnitId(*n as u32)));
        units.flat_map(|(_, unit)| &mut unit.vars).filter(|var| var.global.is_none()).chain(&mut self.globals)
    }
}

/// An address of the standard in its usual spelling; any other name as it is.
fn normal(name: &str) -> String {
    if name.starts_with('%') { normal_address(name) } else { name.to_string() }
}
