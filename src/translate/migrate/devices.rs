//! Devices: for each instance of the source the target's best means, its number there, and what the ledger says of it.

use super::facts::{Combine, Native};
use super::{AddressMap, MapRow, Mode, Work, counter, edge, timer, usage};
use crate::dialect::rack;
use crate::model::sheet::{Device, Holds, PowerUp, Role};
use crate::model::{Item, Name, Retain, TypeSpec, Unit, UnitKind, VarDecl};
use crate::translate::Grade;
use crate::translate::ledger::CARRIED_BLOCK;
use std::collections::HashSet;

/// An instance of one of the source's devices.
#[derive(Clone, Debug)]
pub(super) struct Instance {
    /// The unit that declares it; empty: global.
    pub(super) unit: String,
    pub(super) name: String,
    /// The device, by its place in the source's sheet.
    pub(super) device: usize,
    /// It is declared to survive a power cycle.
    pub(super) kept: bool,
    /// The place it had, if it had one.
    pub(super) old: Option<(usize, u32)>,
    /// What takes over; `None`: its block comes along.
    pub(super) native: Option<Native>,
    /// The place it gets, if it gets one.
    pub(super) new: Option<(usize, u32)>,
    comment: String,
}

impl Work {
    /// Plans every instance of a device, and gives those that need one a number.
    pub(super) fn devices(&mut self, map: Option<&AddressMap>) -> Result<(), Vec<String>> {
        let mut found = self.instances();
        found.sort_by(|a, b| (a.old.is_none(), a.old, &a.name).cmp(&(b.old.is_none(), b.old, &b.name)));
        let mut taken = self.words_in_use();
        let mut problems = Vec::new();
        let mut wishes: Vec<Option<(usize, u32)>> = Vec::new();
        for instance in &found {
            let old = instance.old.map(|at| self.from.written(at)).unwrap_or_default();
            let row = map.and_then(|m| m.find(&old, &instance.name)).filter(|r| !r.new.is_empty());
            wishes.push(match row.map(|r| self.to.sheet().locate(&r.new)) {
                Some(Ok(at)) => Some(at),
                Some(Err(error)) => {
                    problems.push(format!("for `{}`: {}", instance.name, error.message));
                    None
                }
                None => None,
            });
        }
        if !problems.is_empty() {
            return Err(problems);
        }
        // Those that the map places come first, so that nobody else takes their numbers.
        for wished in [true, false] {
            for (instance, wish) in found.iter_mut().zip(&wishes).filter(|(_, w)| w.is_some() == wished) {
                self.plan(instance, *wish, &mut taken);
                if let Some(wish) = wish.filter(|_| instance.native.is_some() && instance.new != *wish) {
                    problems.push(format!("`{}` cannot be {}", instance.name, self.to.written(wish)));
                }
            }
        }
        if !problems.is_empty() {
            return Err(problems);
        }
        for instance in &found {
            self.say(instance);
        }
        self.names = found;
        Ok(())
    }

    fn instances(&mut self) -> Vec<Instance> {
        let from = self.from.clone();
        let mut out = Vec::new();
        self.each_declaration(|unit, retain, decl| {
            let kept = retain == Retain::Retain;
            let TypeSpec::Named(block) = &decl.spec else { return };
            let old = decl.address.as_ref().and_then(|a| from.locate(&a.text));
            let Some(device) = device_of(from.sheet(), decl, block, old) else { return };
            let comments = decl.notes.leading.iter().chain(&decl.notes.trailing).map(|c| c.text.clone());
            let comment = comments.collect::<Vec<_>>().join(" ");
            for name in &decl.names {
                let (unit, name) = (unit.to_string(), name.text.clone());
                out.push(Instance { unit, name, device, kept, old, native: None, new: None, comment: comment.clone() });
            }
        });
        out
    }

    /// Registers that variables stand in.
    fn words_in_use(&mut self) -> HashSet<(usize, u32)> {
        let to = self.to.clone();
        let mut out = HashSet::new();
        self.each_declaration(|_, _, decl| {
            out.extend(
                decl.address
                    .as_ref()
                    .filter(|_| !matches!(decl.spec, TypeSpec::Named(_)))
                    .and_then(|a| to.locate(&a.text)),
            );
        });
        out
    }

    fn plan(&self, instance: &mut Instance, wish: Option<(usize, u32)>, taken: &mut HashSet<(usize, u32)>) {
        if self.mode == Mode::Faithful {
            return;
        }
        let from = &declared(&self.from.sheet().devices[instance.device], instance.kept);
        let block = self.source_block(&from.block);
        let usage = usage::of(&self.items, &instance.unit, &instance.name, from, block);
        if usage.opaque {
            return;
        }
        let numbered_here = self.may_be_numbered(&instance.unit);
        let mut plans: Vec<Native> = Vec::new();
        for (number, to) in self.to.sheet().devices.iter().enumerate() {
            if to.numbers.is_some() && !numbered_here {
                continue;
            }
            let to = &declared(to, from.retained);
            let candidate = (number, to);
            let plan = timer::plan(&instance.name, from, candidate, &usage)
                .or_else(|| counter::plan(&instance.name, from, candidate, &usage))
                .or_else(|| edge::plan(&instance.name, from, candidate, &usage));
            let plan = plan.filter(|p| p.combine == Combine::Each || !usage.reads_inputs(from));
            plans.extend(plan.filter(|_| has_inputs(from, to, &usage)));
        }
        plans.sort_by_key(|p| p.cost);
        for plan in plans {
            let to = &self.to.sheet().devices[plan.device];
            let place = if to.numbers.is_some() { self.number(to, wish, taken) } else { None };
            if to.numbers.is_some() && place.is_none() {
                continue;
            }
            if let Some(place) = place {
                taken.extend((0..run(to)).map(|i| (place.0, place.1 + i)));
            }
            instance.new = place;
            instance.native = Some(plan);
            return;
        }
    }

    /// True for a unit of which there is one instance, so that a number stands for one device.
    fn may_be_numbered(&self, unit: &str) -> bool {
        unit.is_empty()
            || self
                .items
                .iter()
                .any(|i| matches!(i, Item::Unit(u) if u.name.text == unit && u.kind == UnitKind::Program))
    }

    /// A free number for a device: the one wished for, or the first.
    fn number(
        &self,
        device: &Device,
        wish: Option<(usize, u32)>,
        taken: &HashSet<(usize, u32)>,
    ) -> Option<(usize, u32)> {
        let numbers = device.numbers.as_ref()?;
        let (area, of) = self.to.sheet().area(&numbers.area)?;
        let first_scan = self.to.sheet().first_scan();
        let free = |at: &u32| {
            (0..run(device)).all(|i| {
                let here = (area, at + i);
                let keeps = of.holds == Holds::Device || of.is_retained(at + i) == device.retained;
                !taken.contains(&here) && keeps && Some(here) != first_scan
            }) && rack::lacks(self.to.sheet(), area, *at).is_none()
        };
        let fits = |at: &u32| (numbers.first..=numbers.last).contains(at);
        match wish {
            Some((wished, at)) => (wished == area && fits(&at) && free(&at)).then_some((area, at)),
            None => (numbers.first..=numbers.last).find(free).map(|at| (area, at)),
        }
    }

    fn say(&mut self, instance: &Instance) {
        let from = self.from.sheet().devices[instance.device].clone();
        let old = instance.old.map(|at| self.from.written(at)).unwrap_or_default();
        let new = instance.new.map(|at| self.to.written(at)).unwrap_or_default();
        let why = match &instance.native {
            Some(plan) => {
                let to = self.to.sheet().devices[plan.device].clone();
                for draft in &plan.drafts {
                    let reason = if draft.reason.starts_with('`') {
                        draft.reason.clone()
                    } else {
                        format!("`{}`: {}", instance.name, draft.reason)
                    };
                    self.entry(draft.code, draft.grade, &instance.unit, Some(&instance.name), reason, draft.trap);
                }
                to.name
            }
            None => {
                let reason = format!(
                    "`{}`: the {} {} comes along as the block `{}`",
                    instance.name,
                    self.from.sheet().name,
                    from.name,
                    from.block
                );
                self.entry(CARRIED_BLOCK, Grade::Carried, &instance.unit, Some(&instance.name), reason, None);
                format!("the block {} comes along", from.block)
            }
        };
        if !old.is_empty() || !new.is_empty() {
            let (symbol, comment) = (instance.name.clone(), instance.comment.clone());
            self.map.rows.push(MapRow { old, symbol, comment, new, why });
        }
    }

    /// Puts the new types and addresses into the declarations.
    pub(super) fn declare(&mut self) {
        let (to, names) = (self.to.clone(), self.names.clone());
        let find = |unit: &str, name: &Name| names.iter().find(|i| i.unit == unit && name.is(&i.name));
        let each = |unit: &str, sections: &mut Vec<crate::model::VarSection>| {
            for section in sections.iter_mut() {
                let mut out: Vec<VarDecl> = Vec::new();
                for decl in std::mem::take(&mut section.vars) {
                    if !decl.names.iter().any(|n| find(unit, n).is_some()) {
                        out.push(decl);
                        continue;
                    }
                    // Each instance may go another way.
                    for (position, name) in decl.names.iter().enumerate() {
                        let mut one = VarDecl { names: vec![name.clone()], ..decl.clone() };
                        if position > 0 {
                            one.notes = crate::model::Notes::default();
                        }
                        if let Some(instance) = find(unit, name) {
                            redeclare(&mut one, instance, &to);
                        }
                        out.push(one);
                    }
                }
                section.vars = out;
            }
            retain_by_place(sections, &names, unit, &to);
        };
        for item in &mut self.items {
            match item {
                Item::Unit(unit) => each(&unit.name.text.clone(), &mut unit.sections),
                Item::Globals(section) => {
                    let mut sections = vec![section.clone()];
                    each("", &mut sections);
                    if let [only] = sections.as_slice() {
                        *section = only.clone();
                    }
                }
                Item::Configuration(c) => each("", &mut c.globals),
                Item::Type(_) | Item::Envelope(_) => {}
            }
        }
    }

    pub(super) fn source_block(&self, name: &str) -> Option<&Unit> {
        let find = |i: &'_ Item| matches!(i, Item::Unit(u) if u.name.is(name));
        self.from
            .library
            .items
            .iter()
            .find(|i| find(i))
            .and_then(|i| if let Item::Unit(u) = i { Some(u) } else { None })
    }
}

/// A device that is declared, not numbered, survives a power cycle if its declaration says so.
fn declared(device: &Device, kept: bool) -> Device {
    let mut out = device.clone();
    if device.numbers.is_none() && kept {
        out.retained = true;
        // One that counts no input of its very first call still does not.
        if let Some(counter) = out.counter.as_mut().filter(|c| c.power_up == PowerUp::Counts) {
            counter.power_up = PowerUp::Remembered;
        }
    }
    out
}

/// True if the target has all inputs of the source that a program reads back.
fn has_inputs(from: &Device, to: &Device, usage: &usage::Usage) -> bool {
    let read = |role: &Role, pin: &String| role.is_input() && usage.read.contains(&pin.to_uppercase());
    from.pins.iter().filter(|(role, pin)| read(role, pin)).all(|(role, _)| to.pins.contains_key(role))
}

fn run(device: &Device) -> u32 {
    device.registers.len().max(1) as u32
}

/// The device that a declaration is an instance of.
fn device_of(
    sheet: &crate::model::sheet::Sheet,
    decl: &VarDecl,
    block: &Name,
    old: Option<(usize, u32)>,
) -> Option<usize> {
    let fits = |d: &Device| block.is(&d.block);
    sheet.devices.iter().position(|d| {
        fits(d)
            && match old {
                Some((area, index)) => d.has_number(&sheet.areas[area].name, index),
                None => crate::dialect::settles(decl.init.as_ref(), d),
            }
    })
}

fn redeclare(decl: &mut VarDecl, instance: &Instance, to: &super::Side) {
    let span = decl.names[0].span;
    decl.address = instance.new.map(|at| Name { text: to.address(at), span });
    let Some(plan) = &instance.native else { return };
    let device = &to.sheet().devices[plan.device];
    decl.spec = TypeSpec::Named(Name { text: device.block.clone(), span });
    decl.init = crate::dialect::settings(device, span);
}

/// A device with a number survives the power if its number does; sections follow.
fn retain_by_place(sections: &mut Vec<crate::model::VarSection>, names: &[Instance], unit: &str, to: &super::Side) {
    let mut out: Vec<crate::model::VarSection> = Vec::new();
    for mut section in std::mem::take(sections) {
        let moved = |decl: &VarDecl| {
            let instance = names.iter().find(|i| i.unit == unit && decl.names[0].is(&i.name))?;
            let plan = instance.native.as_ref()?;
            instance.new?;
            let keeps = to.sheet().devices[plan.device].retained;
            (keeps != (section.retain == Retain::Retain)).then_some(keeps)
        };
        let (other, own): (Vec<VarDecl>, Vec<VarDecl>) = section.vars.iter().cloned().partition(|d| moved(d).is_some());
        let keeps = other.first().and_then(moved);
        section.vars = own;
        let retain = if keeps == Some(true) { Retain::Retain } else { Retain::Unsaid };
        let also = crate::model::VarSection {
            vars: other,
            retain,
            notes: crate::model::Notes::default(),
            tail: Vec::new(),
            ..section.clone()
        };
        if !section.vars.is_empty() || !section.tail.is_empty() {
            out.push(section);
        }
        if !also.vars.is_empty() {
            out.push(also);
        }
    }
    *sections = out;
}
