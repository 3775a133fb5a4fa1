//! The timers and counters of a version, with what they are for and what they show.

use super::questions::sides;
use crate::check::Checked;
use crate::check::typed::Ty;
use crate::dialect;
use crate::lang::read_duration;
use crate::model::sheet::{self, DeviceKind, Library, PresetUnit, Role};
use crate::model::{Duration, Value, format_duration};
use crate::scan::{Controller, PointId};
use crate::twin::Twin;
use serde::Serialize;
use std::collections::HashSet;
use std::sync::Arc;

/// A timer or counter.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Device {
    /// The version.
    pub side: usize,
    /// The instance, by its path.
    pub name: String,
    /// Its address, in a dialect whose timers and counters have numbers.
    pub address: Option<String>,
    /// What it is.
    #[serde(skip)]
    pub(super) kind: DeviceKind,
    pub(super) done: Option<PointId>,
    pub(super) value: Option<PointId>,
    pub(super) preset: Option<PointId>,
    /// How long a tick is, if it counts ticks.
    pub(super) tick: Option<Duration>,
}

/// What a device shows.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Shown {
    /// The version.
    pub side: usize,
    /// The instance.
    pub name: String,
    /// Its address, if it has one.
    pub address: Option<String>,
    /// In words: `on-delay timer`.
    pub kind: &'static str,
    /// Whether it is done, if it tells.
    pub done: Option<bool>,
    /// Elapsed time or count, and the preset: `5s of 20s`, `3 of 6`, `45 of 80 ticks of 100ms`.
    pub reading: String,
    /// The same as time, of what counts ticks: `4s500ms of 8s`.
    pub as_time: Option<String>,
}

/// Of devices of two versions that show the same those of the first.
pub(super) fn once(mut list: Vec<Shown>) -> Vec<Shown> {
    let key = |shown: &Shown| (shown.name.clone(), shown.kind, shown.done, shown.reading.clone());
    let first: HashSet<_> = list.iter().filter(|shown| shown.side == 0).map(key).collect();
    list.retain(|shown| shown.side == 0 || !first.contains(&key(shown)));
    list
}

impl Device {
    /// The slots that tell what it shows.
    pub(super) fn slots(&self, controllers: &[Controller]) -> [Option<i64>; 3] {
        [self.done, self.value, self.preset].map(|point| Some(controllers[self.side].get_slot(point?)))
    }

    /// What it shows now.
    pub(super) fn shown(&self, controllers: &[Controller]) -> Shown {
        let controller = &controllers[self.side];
        let value = |point: Option<PointId>| point.map(|point| controller.get(point));
        let reading = match (value(self.value), value(self.preset)) {
            (Some(value), Some(preset)) => format!("{} of {}", value.said(), preset.said()),
            (Some(value), None) => value.said(),
            (None, Some(preset)) => format!("preset {}", preset.said()),
            (None, None) => String::new(),
        };
        let as_time = self.tick.map(|tick| {
            let time = |point: Option<PointId>| match point.map(|point| controller.get(point)) {
                Some(Value::Int(ticks)) => {
                    Some(format_duration(Duration::from_nanos(tick.nanos().saturating_mul(ticks as i64))))
                }
                _ => None,
            };
            let times = [time(self.value), time(self.preset)];
            times.into_iter().flatten().collect::<Vec<String>>().join(" of ")
        });
        let ticks = self.tick.map_or(String::new(), |tick| format!(" ticks of {}", format_duration(tick)));
        Shown {
            side: self.side,
            name: self.name.clone(),
            address: self.address.clone(),
            kind: self.kind.word(),
            done: self.done.map(|point| controller.get(point) == Value::Bool(true)),
            reading: reading + &ticks,
            as_time,
        }
    }
}

/// The timers and counters of all versions.
pub(super) fn devices(twin: &Twin<'_>, controllers: &[Controller]) -> Vec<Device> {
    let mut out = Vec::new();
    for ((side, version), controller) in sides(twin).enumerate().zip(controllers) {
        let checked = version.checked();
        let own: Option<Arc<Library>> = checked.project().library.clone().or_else(|| dialect::library("iec"));
        let Some(library) = own else { continue };
        let mut finder = Finder { side, checked, library: &library, controller, out: &mut out };
        for var in &checked.globals {
            finder.variable(&var.ty, var.name.clone(), var.address.as_deref());
        }
        let several = checked.programs.len() > 1;
        for program in &checked.programs {
            for var in checked.unit(program.unit).vars.iter().filter(|v| v.global.is_none() && !v.is_hidden()) {
                let name = if several { format!("{}.{}", program.instance, var.name) } else { var.name.clone() };
                finder.variable(&var.ty, name, var.address.as_deref());
            }
        }
    }
    out
}

struct Finder<'f> {
    side: usize,
    checked: &'f Checked,
    library: &'f Library,
    controller: &'f Controller,
    out: &'f mut Vec<Device>,
}

impl Finder<'_> {
    fn variable(&mut self, ty: &Ty, name: String, address: Option<&str>) {
        let Ty::Block(unit) = ty else { return };
        let unit = self.checked.unit(*unit);
        let sheet = &self.library.sheet;
        let at = address.and_then(|known| sheet.parse_known(known));
        let fits = |device: &&sheet::Device| {
            device.block.eq_ignore_ascii_case(&unit.name)
                && at.is_none_or(|(area, index)| device.has_number(&sheet.areas[area].name, index))
        };
        match sheet.devices.iter().find(fits) {
            Some(device) if device.kind.is_timer() || device.kind.is_counter() => {
                let device = self.device(device, name, address);
                self.out.push(device);
            }
            Some(_) => {}
            None => {
                for var in unit.vars.iter().filter(|v| v.global.is_none() && !v.is_hidden()) {
                    self.variable(&var.ty, format!("{name}.{}", var.name), None);
                }
            }
        }
    }

    fn device(&self, device: &sheet::Device, name: String, address: Option<&str>) -> Device {
        let pin = |role: Role| self.controller.machine().find(&format!("{name}.{}", device.pins.get(&role)?));
        let ticks = device.timer.as_ref().filter(|facts| facts.unit == PresetUnit::Ticks);
        let tick = ticks.and_then(|facts| facts.tick.split_once('#').and_then(|(_, text)| read_duration(text).ok()));
        Device {
            side: self.side,
            address: address.map(|known| crate::check::written_address(Some(self.library), known)),
            kind: device.kind,
            done: pin(Role::Done),
            value: pin(Role::Elapsed).or_else(|| pin(Role::Value)),
            preset: pin(Role::Preset),
            tick,
            name,
        }
    }
}
