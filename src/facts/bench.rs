//! A device by itself, with a switch at each of its inputs and one that jumps over it.

use crate::check::verify;
use crate::dialect::read_project_in;
use crate::lang::{Language, read_project};
use crate::model::sheet::{Device, Library, Role};
use crate::model::{Duration, Instant, Item, Section, Value};
use crate::scan::{Controller, Machine};
use crate::source::Source;
use std::sync::Arc;

/// Nanoseconds of a scan where nothing hangs on them.
pub(super) const TEN_MS: i64 = 10_000_000;

/// A device in a program that drives it.
pub(super) struct Rig<'d> {
    pub(super) device: &'d Device,
    machine: Machine,
    pub(super) text: String,
    /// The preset is a duration.
    pub(super) takes_time: bool,
}

/// The switches, each with the role of the input at which it is.
const SWITCHES: &[(Role, &str)] = &[
    (Role::Run, "Input"),
    (Role::Count, "Input"),
    (Role::Set, "Set"),
    (Role::Reset, "Reset"),
    (Role::Load, "Load"),
    (Role::Down, "Down"),
    (Role::Direction, "Upward"),
];

impl<'d> Rig<'d> {
    /// Builds it; fails with what is wrong with the program.
    pub(super) fn new(library: &Arc<Library>, device: &'d Device) -> Result<Rig<'d>, String> {
        let pin = |role: Role| device.pins.get(&role);
        let preset = pin(Role::Preset).and_then(|p| pin_type(library, device, Section::Input, p));
        let number = pin(Role::Elapsed).or(pin(Role::Value));
        let shown = number.and_then(|p| pin_type(library, device, Section::Output, p));
        let mut args: Vec<String> =
            SWITCHES.iter().filter_map(|(role, switch)| Some(format!("{} := {switch}", pin(*role)?))).collect();
        args.extend(pin(Role::Preset).map(|p| format!("{p} := Preset")));
        let set: Vec<String> = device.set.iter().map(|(pin, value)| format!("{pin} := {value}")).collect();
        let init = if set.is_empty() { String::new() } else { format!(" := ({})", set.join(", ")) };
        let retain = if device.retained { " RETAIN" } else { "" };
        let declared =
            |word: &str, ty: &Option<String>| ty.as_ref().map_or(String::new(), |t| format!(" {word} : {t};"));
        let done = pin(Role::Done).ok_or("it has no pin for `done`")?;
        let text = format!(
            "PROGRAM Bench\nVAR_INPUT Input, Set, Reset, Load, Down, Skip : BOOL; Upward : BOOL := TRUE;{} END_VAR\n\
             VAR_OUTPUT Done : BOOL;{} END_VAR\nVAR{retain} Device : {}{init}; END_VAR\n\
             IF NOT Skip THEN Device({}); END_IF;\nDone := Device.{done};{}\nEND_PROGRAM\n",
            declared("Preset", &preset),
            declared("Number", &shown),
            device.block,
            args.join(", "),
            number.map_or(String::new(), |n| format!(" Number := Device.{n};")),
        );
        let files = vec![(Source::new("bench.st", text.as_str()), Language::St)];
        let (project, problems) =
            if library.sheet.name == "iec" { read_project(files) } else { read_project_in(files, library) };
        let (checked, all) = verify(project, problems);
        let first = || all.0.first().map_or_else(String::new, |p| p.message.clone());
        let machine = Machine::new(&checked.ok_or_else(first)?).map_err(|e| e.to_string())?;
        let takes_time = preset.is_some_and(|t| t.to_ascii_uppercase().ends_with("TIME"));
        Ok(Rig { device, machine, text, takes_time })
    }

    /// A bench on which nothing has happened yet; a scan takes so many nanoseconds.
    pub(super) fn bench(&self, scan: i64) -> Bench<'_> {
        let scan = scan.max(1);
        Bench { rig: self, controller: Controller::new(&self.machine), scan, now: 0, acts: Vec::new(), waited: 0 }
    }
}

/// The type of a block's pin, as it is declared.
fn pin_type(library: &Library, device: &Device, section: Section, pin: &str) -> Option<String> {
    let block = library.items.iter().find_map(|item| match item {
        Item::Unit(unit) if unit.name.is(&device.block) => Some(unit),
        Item::Unit(_) | Item::Type(_) | Item::Globals(_) | Item::Configuration(_) | Item::Envelope(_) => None,
    })?;
    let vars = block.sections.iter().filter(|s| s.section == section).flat_map(|s| &s.vars);
    let found = vars.into_iter().find(|v| v.names.iter().any(|n| n.is(pin)))?;
    Some(library.source.slice(spec_span(&found.spec)?).to_string())
}

fn spec_span(spec: &crate::model::TypeSpec) -> Option<crate::source::Span> {
    use crate::model::TypeSpec;
    match spec {
        TypeSpec::Elem(_, span) | TypeSpec::Range(_, _, _, span) => Some(*span),
        TypeSpec::Named(name) => Some(name.span),
        TypeSpec::String(..) | TypeSpec::Enum(..) | TypeSpec::Array(..) | TypeSpec::Struct(..) => None,
    }
}

/// A device under way.
pub(super) struct Bench<'r> {
    pub(super) rig: &'r Rig<'r>,
    controller: Controller,
    /// Nanoseconds.
    pub(super) scan: i64,
    pub(super) now: i64,
    acts: Vec<String>,
    /// Scans since the last act.
    waited: i64,
}

impl Bench<'_> {
    pub(super) fn set(&mut self, switch: &str, on: bool) {
        self.told();
        self.acts.push(format!("set {switch} {}", if on { "on" } else { "off" }));
        let _ = self.controller.set_named(switch, &Value::Bool(on));
    }

    /// Gives the preset: units of a timer that takes numbers, nanoseconds of one that takes durations. False if it does not
    /// fit.
    pub(super) fn preset(&mut self, value: i64) -> bool {
        self.told();
        let value =
            if self.rig.takes_time { Value::Time(Duration::from_nanos(value)) } else { Value::Int(i128::from(value)) };
        let fits = self.controller.set_named("Preset", &value).is_ok();
        if fits {
            self.acts.push(format!("set Preset to {}", value.said()));
        }
        fits
    }

    pub(super) fn scans(&mut self, count: i64) {
        for _ in 0..count {
            self.controller.scan(Instant(Duration::from_nanos(self.now)));
            self.now += self.scan;
        }
        self.waited += count;
    }

    /// The input comes and goes, a scan each.
    pub(super) fn pulses(&mut self, switch: &str, count: i64) {
        self.told();
        self.acts.push(format!("press {switch} {count} times"));
        for _ in 0..count {
            for on in [true, false] {
                let _ = self.controller.set_named(switch, &Value::Bool(on));
                self.controller.scan(Instant(Duration::from_nanos(self.now)));
                self.now += self.scan;
            }
        }
    }

    pub(super) fn power_cycle(&mut self) {
        self.told();
        self.acts.push("power cycle".to_string());
        self.controller.power_cycle(Instant(Duration::from_nanos(self.now)));
    }

    pub(super) fn done(&self) -> bool {
        self.controller.get_named("Done") == Ok(Value::Bool(true))
    }

    /// The number that is shown: ticks or a count, or nanoseconds.
    pub(super) fn number(&self) -> i64 {
        match self.controller.get_named("Number") {
            Ok(Value::Int(n)) => n as i64,
            Ok(Value::Time(t)) => t.nanos(),
            Ok(Value::Bool(_) | Value::Real(_) | Value::Enum(..) | Value::Text(_)) | Err(_) => 0,
        }
    }

    /// The number in words.
    pub(super) fn shown(&self) -> String {
        self.controller.get_named("Number").map_or_else(|_| String::new(), |value| value.said())
    }

    /// True if the program has stopped with a fault.
    pub(super) fn is_stopped(&self) -> bool {
        self.controller.fault().is_some()
    }

    fn told(&mut self) {
        self.acts.extend(self.wait());
        self.waited = 0;
    }

    fn wait(&self) -> Option<String> {
        let plural = if self.waited == 1 { "" } else { "s" };
        (self.waited > 0).then(|| format!("wait {} scan{plural}", self.waited))
    }

    /// What was done, an act a line.
    pub(super) fn acts(&self) -> Vec<String> {
        self.acts.iter().cloned().chain(self.wait()).collect()
    }
}
