//! Everything that a program remembers, by paths: what no text can name among it, so that a program that was changed can go on
//! with the memory of the one before it.

use super::compile::{self, BuildError};
use super::layout::Layout;
use crate::check::Checked;
use crate::check::typed::{Ty, UnitId, Var};
use crate::model::Section;

/// One value that a program remembers.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Cell {
    /// Its path.
    pub(crate) path: String,
    /// Its type, as it is declared.
    pub(crate) ty: String,
    pub(crate) slot: u32,
    /// True of a STRING.
    pub(crate) is_text: bool,
    /// True of what no text can name.
    pub(crate) is_hidden: bool,
}

/// All that the programs and globals of a project remember; constants are not remembered.
///
/// # Errors
/// [`BuildError`] if it cannot run.
pub(crate) fn cells(checked: &Checked) -> Result<Vec<Cell>, BuildError> {
    let compiled = compile::compile(checked, &[])?;
    let layout = Layout::new(checked).ok_or(BuildError::Memory)?;
    let mut lister = Lister { checked, layout, out: Vec::new() };
    for (var, slot) in checked.globals.iter().zip(&compiled.globals).filter(|(var, _)| !var.constant) {
        lister.value(&var.ty, var.name.to_uppercase(), *slot, var.is_hidden());
    }
    for (program, base) in checked.programs.iter().zip(&compiled.programs) {
        lister.unit(program.unit, &format!("{}.", program.instance.to_uppercase()), *base, false);
    }
    Ok(lister.out)
}

struct Lister<'c> {
    checked: &'c Checked,
    layout: Layout<'c>,
    out: Vec<Cell>,
}

impl Lister<'_> {
    fn unit(&mut self, unit: UnitId, path: &str, base: u32, is_hidden: bool) {
        let vars: &[Var] = &self.checked.unit(unit).vars;
        self.layout.unit_size(unit);
        for (number, var) in vars.iter().enumerate() {
            if var.constant || var.global.is_some() || var.section == Section::InOut {
                continue;
            }
            let at = base + self.layout.offset(unit, number as u32);
            self.value(&var.ty.clone(), format!("{path}{}", var.name.to_uppercase()), at, is_hidden || var.is_hidden());
        }
    }

    fn value(&mut self, ty: &Ty, path: String, slot: u32, is_hidden: bool) {
        match ty {
            Ty::Array(array) => {
                let size = self.layout.size(&array.of) as u32;
                for element in 0..array.len() as u32 {
                    self.value(&array.of, format!("{path}[{element}]"), slot + element * size, is_hidden);
                }
            }
            Ty::Struct(id) => {
                let names: Vec<String> =
                    self.checked.structs[*id as usize].fields.iter().map(|f| f.name.to_uppercase()).collect();
                for (number, name) in names.iter().enumerate() {
                    let (offset, field) = self.layout.field(ty, number as u32);
                    self.value(&field, format!("{path}.{name}"), slot + offset, is_hidden);
                }
            }
            Ty::Block(unit) => self.unit(*unit, &format!("{path}."), slot, is_hidden),
            Ty::Elem(_) | Ty::Text(_) | Ty::Range(..) | Ty::Enum(_) | Ty::Watch => {
                let (ty, is_text) = (self.checked.type_name(ty), matches!(ty, Ty::Text(_)));
                self.out.push(Cell { path, ty, slot, is_text, is_hidden });
            }
            Ty::LitInt | Ty::LitReal | Ty::Unknown(_) => {}
        }
    }
}
