//! Where everything lies in memory, and what it holds at power-up.

use crate::check::Checked;
use crate::check::typed::{ArrayTy, TInit, TUnit, Ty, UnitId, Var};
use crate::model::{Retain, Section};
use indexmap::IndexSet;

/// Most slots of a project: 16 million, 128 MiB.
const MOST_SLOTS: u64 = 1 << 24;

/// Sizes and offsets, in slots.
pub(super) struct Layout<'c> {
    checked: &'c Checked,
    units: Vec<(Vec<u32>, u64)>,
    structs: Vec<(Vec<u32>, u64)>,
}

/// Memory while it is laid out.
#[derive(Default)]
pub(super) struct Memory {
    pub(super) image: Vec<i64>,
    pub(super) retained: Vec<bool>,
    pub(super) watches: Vec<u32>,
    pub(super) texts: IndexSet<String>,
}

impl Memory {
    pub(super) fn text(&mut self, text: &str) -> i64 {
        if let Some(at) = self.texts.get_index_of(text) {
            return at as i64;
        }
        self.texts.insert_full(text.to_string()).0 as i64
    }

    pub(super) fn grow(&mut self, size: u32) -> u32 {
        let at = self.image.len() as u32;
        self.image.resize(self.image.len() + size as usize, 0);
        self.retained.resize(self.image.len(), false);
        at
    }
}

impl<'c> Layout<'c> {
    /// Lays out all types and units. `None` if they need more memory than there is.
    pub(super) fn new(checked: &'c Checked) -> Option<Self> {
        let mut layout = Layout { checked, units: Vec::new(), structs: Vec::new() };
        layout.units = vec![(Vec::new(), u64::MAX); checked.units.len()];
        layout.structs = vec![(Vec::new(), u64::MAX); checked.structs.len()];
        let mut total = 0u64;
        for index in 0..checked.units.len() {
            total = total.saturating_add(layout.unit_size(UnitId(index as u32)));
        }
        (total <= MOST_SLOTS).then_some(layout)
    }

    pub(super) fn unit_size(&mut self, id: UnitId) -> u64 {
        if self.units[id.0 as usize].1 == u64::MAX {
            let checked = self.checked;
            let laid = self.lay(&checked.unit(id).vars);
            self.units[id.0 as usize] = laid;
        }
        self.units[id.0 as usize].1
    }

    fn lay(&mut self, vars: &[Var]) -> (Vec<u32>, u64) {
        let mut offsets = Vec::new();
        let mut size = 0u64;
        for var in vars {
            offsets.push(size.min(u64::from(u32::MAX)) as u32);
            // What lives elsewhere takes no room: a VAR_IN_OUT is the caller's, an external is global.
            if var.section != Section::InOut && var.global.is_none() {
                size = size.saturating_add(self.size(&var.ty));
            }
        }
        (offsets, size)
    }

    /// Slots that a value of a type takes.
    pub(super) fn size(&mut self, ty: &Ty) -> u64 {
        match ty {
            Ty::Array(array) => array.len().saturating_mul(self.size(&array.of)),
            Ty::Struct(id) => {
                if self.structs[*id as usize].1 == u64::MAX {
                    let checked = self.checked;
                    let laid = self.lay(&checked.structs[*id as usize].fields);
                    self.structs[*id as usize] = laid;
                }
                self.structs[*id as usize].1
            }
            Ty::Block(unit) => self.unit_size(*unit),
            Ty::Elem(_)
            | Ty::Text(_)
            | Ty::Range(..)
            | Ty::Enum(_)
            | Ty::Watch
            | Ty::LitInt
            | Ty::LitReal
            | Ty::Unknown(_) => 1,
        }
    }

    /// Offset of a variable within its unit.
    pub(super) fn offset(&self, unit: UnitId, var: u32) -> u32 {
        self.units[unit.0 as usize].0[var as usize]
    }

    /// Offset and type of a field of a structure or block.
    pub(super) fn field(&mut self, ty: &Ty, field: u32) -> (u32, Ty) {
        self.size(ty);
        match ty {
            Ty::Struct(id) => (
                self.structs[*id as usize].0[field as usize],
                self.checked.structs[*id as usize].fields[field as usize].ty.clone(),
            ),
            Ty::Block(unit) => (self.offset(*unit, field), self.checked.unit(*unit).vars[field as usize].ty.clone()),
            Ty::Elem(_)
            | Ty::Text(_)
            | Ty::Range(..)
            | Ty::Enum(_)
            | Ty::Array(_)
            | Ty::Watch
            | Ty::LitInt
            | Ty::LitReal
            | Ty::Unknown(_) => (0, Ty::Unknown(None)),
        }
    }

    /// Strides of an array's dimensions, in slots.
    pub(super) fn strides(&mut self, array: &ArrayTy) -> Vec<i64> {
        let mut stride = self.size(&array.of) as i64;
        let mut out: Vec<i64> = array
            .bounds
            .iter()
            .rev()
            .map(|(low, high)| {
                let this = stride;
                stride *= high - low + 1;
                this
            })
            .collect();
        out.reverse();
        out
    }

    /// Writes the initial values of a unit's variables.
    pub(super) fn init_unit(&mut self, memory: &mut Memory, unit: UnitId, at: u32, retained: bool) {
        let checked = self.checked;
        let unit_: &TUnit = checked.unit(unit);
        for (number, var) in unit_.vars.iter().enumerate() {
            if var.section == Section::InOut || var.global.is_some() {
                continue;
            }
            let keeps = match var.retain {
                Retain::Retain => true,
                Retain::NonRetain => false,
                Retain::Unsaid => retained,
            };
            let at = at + self.offset(unit, number as u32);
            self.init(memory, &var.ty, &var.init, at, keeps);
        }
    }

    /// Writes an initial value.
    pub(super) fn init(&mut self, memory: &mut Memory, ty: &Ty, init: &TInit, at: u32, retained: bool) {
        let checked = self.checked;
        match ty {
            Ty::Array(array) => {
                let size = self.size(&array.of) as u32;
                for element in 0..array.len() as u32 {
                    let value = if let TInit::Array(values) = init {
                        values.get(element as usize).unwrap_or(&TInit::Default)
                    } else {
                        &TInit::Default
                    };
                    self.init(memory, &array.of, value, at + element * size, retained);
                }
            }
            Ty::Struct(id) => {
                for (number, field) in checked.structs[*id as usize].fields.iter().enumerate() {
                    let (offset, _) = self.field(ty, number as u32);
                    let value = given(init, number as u32).unwrap_or(&field.init);
                    self.init(memory, &field.ty, value, at + offset, retained);
                }
            }
            Ty::Block(unit) => {
                self.init_unit(memory, *unit, at, retained);
                if let TInit::Struct(fields) = init {
                    for (number, value) in fields {
                        let (offset, ty) = self.field(ty, *number);
                        self.init(memory, &ty, value, at + offset, retained);
                    }
                }
            }
            Ty::Elem(_)
            | Ty::Text(_)
            | Ty::Range(..)
            | Ty::Enum(_)
            | Ty::Watch
            | Ty::LitInt
            | Ty::LitReal
            | Ty::Unknown(_) => {
                memory.image[at as usize] = match init {
                    TInit::Slot(slot) => *slot,
                    TInit::Text(text) => memory.text(text),
                    _ if matches!(ty, Ty::Text(_)) => memory.text(""),
                    TInit::Default | TInit::Array(_) | TInit::Struct(_) => 0,
                };
                memory.retained[at as usize] = retained;
                if *ty == Ty::Watch {
                    memory.watches.push(at);
                }
            }
        }
    }
}

fn given(init: &TInit, field: u32) -> Option<&TInit> {
    if let TInit::Struct(fields) = init { fields.iter().find(|(f, _)| *f == field).map(|(_, v)| v) } else { None }
}
