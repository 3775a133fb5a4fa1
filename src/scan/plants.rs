//! Which point of a machine each variable of a plant is wired to.

use super::compile::BuildError;
use super::layout::{Layout, Memory};
use super::op::Slot;
use super::points::{self, Direction, Point, PointId, PointType};
use crate::check::Checked;
use crate::check::typed::Var;
use crate::model::{Elem, Family, Plant, Section, Sensor};
use std::collections::HashMap;
use std::ops::Range;

/// A plant as it is wired, in names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Wired {
    /// What its variables go by.
    pub name: String,
    /// The file of its program.
    pub file: String,
    /// The inputs of the machine that it gives, in its order.
    pub gives: Vec<String>,
    /// What of the machine it sees.
    pub sees: Vec<String>,
}

/// One wire.
pub(super) struct Lead {
    /// The plant's variable.
    pub(super) plant: Slot,
    /// The machine's point.
    pub(super) machine: Slot,
    /// The types it leads from and to.
    pub(super) types: [PointType; 2],
    /// What the variable was in runs before, the last one first.
    pub(super) before: Vec<Slot>,
    pub(super) faults: Faults,
}

/// The points by which the outside breaks a sensor.
#[derive(Default)]
pub(super) struct Faults {
    pub(super) stuck: Option<Slot>,
    pub(super) bounce: Option<Slot>,
    pub(super) noise: Option<Slot>,
    pub(super) late: Option<Slot>,
}

/// A plant that is wired.
pub(super) struct Wires {
    pub(super) base: Slot,
    pub(super) delay: u32,
    /// From the plant to inputs.
    pub(super) given: Vec<Lead>,
    /// From outputs to the plant.
    pub(super) seen: Vec<Lead>,
    /// Its memory and the inputs it gives, which power of the controller does not touch.
    pub(super) memory: Vec<Range<Slot>>,
    pub(super) told: Wired,
}

/// Where a project's memory is laid out.
pub(super) struct Laid<'l, 'c> {
    pub(super) checked: &'c Checked,
    pub(super) layout: &'l mut Layout<'c>,
    pub(super) memory: &'l mut Memory,
    pub(super) globals: &'l [Slot],
}

/// Wires the plants of a project. Points that are wired are not given from outside any more; what nobody gives a plant is.
pub(super) fn wire(laid: &mut Laid<'_, '_>, points: &mut Vec<Point>) -> Result<Vec<Wires>, BuildError> {
    let checked = laid.checked;
    let mut out = Vec::new();
    let mut taken: HashMap<PointId, String> = HashMap::new();
    let names = points::names(points);
    let mut added = Vec::new();
    for (plant, run) in checked.project().plants.iter().zip(&checked.plants) {
        let unit = checked.unit(run.unit);
        let base = laid.globals[run.global as usize];
        let size = laid.layout.unit_size(run.unit) as u32;
        let mut wiring = Wiring { plant, points, names: &names, taken: &mut taken, added: &mut added, laid };
        wiring.known(&unit.vars)?;
        let (mut given, mut seen) = (Vec::new(), Vec::new());
        let mut told = Wired {
            name: plant.name.text.clone(),
            file: checked.project().place(plant.name.span),
            gives: Vec::new(),
            sees: Vec::new(),
        };
        for var in &unit.vars {
            let lead = match var.section {
                Section::Output => wiring.given(var)?.map(|(lead, name)| (&mut given, lead, &mut told.gives, name)),
                Section::Input => wiring.seen(var)?.map(|(lead, name)| (&mut seen, lead, &mut told.sees, name)),
                Section::InOut | Section::Local | Section::Temp | Section::External | Section::Global => None,
            };
            if let Some((leads, lead, names, name)) = lead {
                leads.push(lead);
                names.push(name);
            }
        }
        let stages = given.iter().filter_map(|lead| Some(*lead.before.first()?..lead.before.last()? + 1));
        // A sensor that is stuck shows what it showed.
        let shown = given.iter().map(|lead| lead.machine..lead.machine + 1);
        let memory: Vec<Range<Slot>> = stages.chain(shown).chain(std::iter::once(base..base + size)).collect();
        memory.iter().cloned().flatten().for_each(|slot| laid.memory.retained[slot as usize] = true);
        out.push(Wires { base, delay: plant.settings.delay, given, seen, memory, told });
    }
    points.extend(added);
    points::sort(points);
    Ok(out)
}

struct Wiring<'w, 'l, 'c> {
    plant: &'w Plant,
    points: &'w mut Vec<Point>,
    names: &'w HashMap<String, PointId>,
    /// Inputs that have a wire, each with the plant that gives it.
    taken: &'w mut HashMap<PointId, String>,
    /// Points that the wires add.
    added: &'w mut Vec<Point>,
    laid: &'w mut Laid<'l, 'c>,
}

impl Wiring<'_, '_, '_> {
    fn wrong<T>(&self, message: &str) -> Result<T, BuildError> {
        Err(BuildError::Plant(format!("plant {}: {message}", self.plant.name.text)))
    }

    /// What the settings name, the plant has.
    fn known(&self, vars: &[Var]) -> Result<(), BuildError> {
        let settings = &self.plant.settings;
        let is = |name: &str, wanted: &[Section]| {
            vars.iter().any(|v| v.name.eq_ignore_ascii_case(name) && wanted.contains(&v.section))
        };
        if let Some(name) = settings.wires.keys().find(|name| !is(name, &[Section::Input, Section::Output])) {
            return self.wrong(&format!("it has no input or output `{name}` to wire"));
        }
        match settings.sensors.keys().find(|name| !is(name, &[Section::Output])) {
            Some(name) => self.wrong(&format!("it has no output `{name}` that a sensor could measure")),
            None => Ok(()),
        }
    }

    /// The point of a variable of the plant; none of what is no single value.
    fn own(&self, var: &Var) -> Option<PointId> {
        self.names.get(&format!("{}.{}", self.plant.name.text, var.name).to_uppercase()).copied()
    }

    /// The point that a variable is wired to, and whether the settings say so.
    fn other(&self, var: &Var) -> Result<Option<(PointId, bool)>, BuildError> {
        let said = self.plant.settings.wires.iter().find(|(own, _)| own.eq_ignore_ascii_case(&var.name));
        let find = |name: &String| self.names.get(&name.to_uppercase()).copied();
        match said {
            None => Ok(find(&var.name).map(|id| (id, false))),
            Some((own, names)) => match names.iter().find_map(find) {
                Some(id) => Ok(Some((id, true))),
                None => self.wrong(&format!("`{own}` is wired to `{}`, which there is not", names.join("` or `"))),
            },
        }
    }

    fn point(&self, id: PointId) -> &Point {
        &self.points[id.0 as usize]
    }

    /// From an output of the plant to an input of the machine.
    fn given(&mut self, var: &Var) -> Result<Option<(Lead, String)>, BuildError> {
        let sensor = self.plant.settings.sensors.iter().find(|(name, _)| name.eq_ignore_ascii_case(&var.name));
        let sensor = sensor.map(|(_, sensor)| *sensor);
        let unwired = |this: &Self| match sensor {
            Some(_) => this.wrong(&format!("`{}` has a sensor and is wired to no input", var.name)),
            None => Ok(None),
        };
        let (Some(own), Some((other, said))) = (self.own(var), self.other(var)?) else { return unwired(self) };
        let name = self.point(other).name.clone();
        if let Some(first) = self.taken.get(&other) {
            return self.wrong(&format!("`{name}` is given by plant {first} already"));
        }
        if self.point(other).direction != Direction::Input {
            return match said {
                true => self.wrong(&format!("`{}` is wired to `{name}`, which is no input", var.name)),
                false => unwired(self),
            };
        }
        let mut lead = self.lead(own, other)?;
        self.taken.insert(other, self.plant.name.text.clone());
        self.points[other.0 as usize].direction = Direction::Internal;
        let sensor = sensor.unwrap_or_default();
        self.break_by(&sensor, &mut lead, &name)?;
        let stages = self.plant.settings.delay + sensor.late;
        let first = self.laid.memory.grow(stages);
        let initial = self.laid.memory.image[lead.plant as usize];
        self.laid.memory.image[first as usize..].fill(initial);
        lead.before = (first..first + stages).collect();
        Ok(Some((lead, name)))
    }

    /// From an output of the machine to an input of the plant. What is not wired is given from outside.
    fn seen(&mut self, var: &Var) -> Result<Option<(Lead, String)>, BuildError> {
        let Some(own) = self.own(var) else { return Ok(None) };
        let other = self.other(var)?.filter(|(id, said)| *said || self.point(*id).direction == Direction::Output);
        let Some((other, _)) = other else {
            self.points[own.0 as usize].direction = Direction::Input;
            return Ok(None);
        };
        let lead = self.lead(other, own)?;
        let name = self.point(other).name.clone();
        Ok(Some((Lead { plant: lead.machine, machine: lead.plant, ..lead }, name)))
    }

    /// A wire between two points; the first is taken for the plant's.
    fn lead(&self, from: PointId, to: PointId) -> Result<Lead, BuildError> {
        let [a, b] = [from, to].map(|id| self.point(id));
        let number = |ty: &PointType| match (ty.family(), ty.elem()) {
            (Family::Int | Family::Bits | Family::Real, Some(elem)) => elem != Elem::Bool,
            (Family::Bool | Family::Time | Family::Text | Family::Int | Family::Bits | Family::Real, _) => false,
        };
        if a.ty == PointType::Text || (a.ty != b.ty && !(number(&a.ty) && number(&b.ty))) {
            return self.wrong(&format!("`{}` is {} and `{}` is {}", a.name, a.ty, b.name, b.ty));
        }
        let types = [a.ty.clone(), b.ty.clone()];
        Ok(Lead { plant: a.slot, machine: b.slot, types, before: Vec::new(), faults: Faults::default() })
    }

    /// Adds the points by which a sensor is broken.
    fn break_by(&mut self, sensor: &Sensor, lead: &mut Lead, input: &str) -> Result<(), BuildError> {
        let of = lead.types[1].elem().filter(|_| lead.types[1].family() != Family::Real);
        if sensor.bounce && of != Some(Elem::Bool) {
            return self.wrong(&format!("`{input}` is no BOOL, which a contact that bounces is"));
        }
        let noisy = of.and_then(Elem::shape).filter(|shape| !shape.is_unsigned_64());
        if sensor.noise > 0 && (noisy.is_none() || of == Some(Elem::Bool)) {
            return self
                .wrong(&format!("`{input}` is no whole number of at most 63 bits, to which noise could be added"));
        }
        let bool = || PointType::Elem(Elem::Bool);
        let mut add = |is: bool, fault: &str, ty: PointType| {
            is.then(|| {
                let slot = self.laid.memory.grow(1);
                let (name, direction) = (format!("{input}.{fault}"), Direction::Input);
                self.added.push(Point { name, direction, ty, address: None, is_part: false, slot });
                slot
            })
        };
        lead.faults = Faults {
            stuck: add(sensor.stuck, "stuck", bool()),
            bounce: add(sensor.bounce, "bounce", bool()),
            noise: add(sensor.noise > 0, "noise", PointType::Range(Elem::Dint, -sensor.noise, sensor.noise)),
            late: add(sensor.late > 0, "late", bool()),
        };
        Ok(())
    }
}
