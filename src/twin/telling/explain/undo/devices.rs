//! What the blocks of a version are, by the sheet of its dialect: their kinds, their facts, and the fields of their pins.

use crate::check::Checked;
use crate::check::typed::{PathStep, Place, TExpr, TKind, Ty, UnitId};
use crate::dialect;
use crate::model::sheet::{CounterFacts, Device, DeviceKind, EdgeFacts, LatchFacts, Role, TimerFacts};
use std::collections::HashMap;

/// What a sheet says of a block.
#[derive(Clone, Debug)]
pub(super) struct Known {
    pub(super) kind: DeviceKind,
    pub(super) timer: Option<TimerFacts>,
    pub(super) counter: Option<CounterFacts>,
    pub(super) latch: Option<LatchFacts>,
    pub(super) edge: Option<EdgeFacts>,
    /// Of each pin the number and the type of its field.
    pins: HashMap<Role, (u32, Ty)>,
}

impl Known {
    /// The number of a pin's field.
    pub(super) fn field(&self, role: Role) -> Option<u32> {
        self.pins.get(&role).map(|(field, _)| *field)
    }

    /// The pin that a field is.
    pub(super) fn role(&self, field: u32) -> Option<Role> {
        self.pins.iter().find(|(_, (own, _))| *own == field).map(|(role, _)| *role)
    }

    /// A pin of an instance, as a value that is read.
    pub(super) fn read(&self, instance: &Place, role: Role) -> Option<TExpr> {
        let (field, ty) = self.pins.get(&role)?;
        let mut place = Place { ty: ty.clone(), ..instance.clone() };
        place.steps.push(PathStep::Field(*field));
        Some(TExpr { kind: TKind::Read(place), ty: ty.clone(), span: instance.span })
    }
}

/// The devices among the blocks of a version.
#[derive(Clone, Debug, Default)]
pub(super) struct Devices(HashMap<u32, Known>);

impl Devices {
    /// By the version's own dialect, or by the standard's.
    pub(super) fn of(checked: &Checked) -> Devices {
        let standard = dialect::library("iec");
        let own = checked.project().library.as_deref();
        let sheets = || own.into_iter().chain(standard.as_deref()).map(|library| &library.sheet);
        let mut out = HashMap::new();
        for (number, unit) in checked.units.iter().enumerate().filter(|(_, unit)| unit.built_in) {
            let is_it = |device: &&Device| device.block.eq_ignore_ascii_case(&unit.name);
            let Some(device) = sheets().find_map(|sheet| sheet.devices.iter().find(is_it)) else { continue };
            let field = |pin: &String| unit.vars.iter().position(|var| var.name.eq_ignore_ascii_case(pin));
            let pins = device.pins.iter().filter_map(|(role, pin)| {
                let field = field(pin)?;
                Some((*role, (field as u32, unit.vars[field].ty.clone())))
            });
            let known = Known {
                kind: device.kind,
                timer: device.timer.clone(),
                counter: device.counter.clone(),
                latch: device.latch.clone(),
                edge: device.edge.clone(),
                pins: pins.collect(),
            };
            out.insert(number as u32, known);
        }
        Devices(out)
    }

    /// What a block is, if a sheet says so.
    pub(super) fn get(&self, unit: UnitId) -> Option<&Known> {
        self.0.get(&unit.0)
    }

    /// What an instance is.
    pub(super) fn of_type(&self, ty: &Ty) -> Option<&Known> {
        if let Ty::Block(unit) = ty { self.get(*unit) } else { None }
    }
}
