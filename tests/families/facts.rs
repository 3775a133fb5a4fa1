//! What sheets say of their devices is true: the blocks are run and measured.

use crate::common::dialects::families;
use honest_twin::check::verify;
use honest_twin::dialect::library;
use honest_twin::dialect::read_project_in;
use honest_twin::lang::{Language, read_duration, read_project};
use honest_twin::model::sheet::{
    Counting, Device, DeviceKind, DoneAt, DoneWhen, Idle, Library, Limit, Past, Phase, PowerUp, PresetUnit, Role,
    Trigger,
};
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::scan::{Controller, Machine};
use honest_twin::source::Source;
use std::sync::Arc;

/// A device by itself, with inputs for its conditions and one that jumps over it.
struct Bench {
    controller: Controller,
    scan: i64,
    now: i64,
}

impl Bench {
    fn new(library: &Arc<Library>, device: &Device, preset: &str, number: &str, scan: i64) -> Bench {
        let pin = |role: Role| device.pins.get(&role).cloned();
        let main = pin(Role::Run).or(pin(Role::Count)).unwrap();
        let read = pin(Role::Elapsed).or(pin(Role::Value)).unwrap();
        let reset = pin(Role::Reset).map_or(String::new(), |p| format!(", {p} := Reset"));
        let load = pin(Role::Load).map_or(String::new(), |p| format!(", {p} := Load"));
        let set: Vec<String> = device.set.iter().map(|(p, v)| format!("{p} := {v}")).collect();
        let init = if set.is_empty() { String::new() } else { format!(" := ({})", set.join(", ")) };
        let text = format!(
            "PROGRAM Main\nVAR_INPUT Input, Skip, Reset, Load : BOOL; END_VAR\n\
             VAR_OUTPUT Done : BOOL; Number : {number}; END_VAR\nVAR D : {}{init}; END_VAR\n\
             IF NOT Skip THEN D({main} := Input, {} := {preset}{reset}{load}); END_IF;\n\
             Done := D.{}; Number := D.{read};\nEND_PROGRAM\n",
            device.block,
            pin(Role::Preset).unwrap(),
            pin(Role::Done).unwrap(),
        );
        let files = vec![(Source::new("bench.st", text), Language::St)];
        let (project, problems) =
            if library.sheet.name == "iec" { read_project(files) } else { read_project_in(files, library) };
        let (checked, all) = verify(project, problems);
        let machine = Machine::new(&checked.unwrap_or_else(|| panic!("{:#?}", all.0))).unwrap();
        Bench { controller: Controller::new(&machine), scan, now: 0 }
    }

    fn set(&mut self, name: &str, on: bool) {
        self.controller.set_named(name, &Value::Bool(on)).unwrap();
    }

    fn scans(&mut self, count: i64) {
        for _ in 0..count {
            self.controller.scan(Instant(Duration::from_millis(self.now)));
            self.now += self.scan;
        }
    }

    fn pulses(&mut self, count: i64) {
        for _ in 0..count {
            self.set("Input", true);
            self.scans(1);
            self.set("Input", false);
            self.scans(1);
        }
    }

    fn done(&self) -> bool {
        self.controller.get_named("Done").unwrap() == Value::Bool(true)
    }

    fn number(&self) -> i64 {
        match self.controller.get_named("Number").unwrap() {
            Value::Int(n) => n as i64,
            Value::Time(t) => t.millis(),
            other => panic!("{other:?}"),
        }
    }
}

fn timer(library: &Arc<Library>, device: &Device) {
    let facts = device.timer.as_ref().unwrap();
    let title = format!("{}: {}", library.sheet.name, device.name);
    let tick = read_duration(&facts.tick[2..]).unwrap().millis();
    // A preset of eight units: ticks, or tenths of a second.
    let by_ticks = facts.unit == PresetUnit::Ticks;
    let unit = if by_ticks { tick } else { 100 };
    let (preset, number) = if by_ticks { ("8", "INT") } else { ("T#800ms", "TIME") };
    let full = if by_ticks { 8 } else { 800 };
    let scan = (unit / 10).max(1);
    let bench = || Bench::new(library, device, preset, number, scan);

    // At rest it shows nothing, or all that is left.
    let mut at = bench();
    at.scans(3);
    assert_eq!(at.number(), if facts.counts == Counting::Up { 0 } else { full }, "{title}: at rest");
    assert!(!at.done(), "{title}: done at rest");

    // From the change of the input to that of the done bit.
    let mut at = bench();
    at.scans(7);
    let waits = matches!(device.kind, DeviceKind::OnDelay | DeviceKind::Retentive);
    at.set("Input", true);
    at.scans(1);
    if device.kind == DeviceKind::OffDelay {
        at.scans(20);
        assert!(at.done(), "{title}: on while the input is");
        at.set("Input", false);
        at.scans(1);
    }
    let (began, mut took) = (at.now - scan, 0);
    while at.done() != waits && took < 20 * unit {
        at.scans(1);
        took = at.now - scan - began;
    }
    let late = if facts.done == DoneAt::NextScan { scan } else { 0 };
    let exact = 8 * unit + late;
    match facts.phase {
        Phase::Own => assert_eq!(took, exact, "{title}: how long"),
        Phase::Common => assert!((exact - tick..=exact).contains(&took) && took < exact, "{title}: how long: {took}"),
    }

    // Past the preset.
    let mut at = bench();
    at.set("Input", true);
    at.scans(3);
    if device.kind == DeviceKind::OffDelay {
        at.set("Input", false);
    }
    at.scans(16 * unit / scan);
    let beyond = at.number();
    match (facts.past, facts.counts) {
        (Past::Stops, Counting::Up) => assert_eq!(beyond, full, "{title}: past the preset"),
        (Past::Stops, Counting::Down) => assert_eq!(beyond, 0, "{title}: past the preset"),
        (Past::RunsOn, _) => assert!(beyond > full, "{title}: past the preset: {beyond}"),
    }

    // Not executed for longer than the preset.
    let mut at = bench();
    at.set("Input", true);
    at.scans(3);
    if device.kind == DeviceKind::OffDelay {
        at.set("Input", false);
        at.scans(1);
    }
    at.set("Skip", true);
    at.scans(12 * unit / scan);
    at.set("Skip", false);
    at.scans(2);
    assert_eq!(at.done() == waits, facts.idle == Idle::GoesOn, "{title}: not executed");
}

fn counter(library: &Arc<Library>, device: &Device) {
    let facts = device.counter.as_ref().unwrap();
    let title = format!("{}: {}", library.sheet.name, device.name);
    let shown = |n: i64, preset: i64| if facts.counts == Counting::Down { preset - n } else { n };
    let bench = |preset: i64| {
        let mut at = Bench::new(library, device, &preset.to_string(), "INT", 10);
        if device.kind == DeviceKind::CountDown {
            at.set("Load", true);
            at.scans(1);
            at.set("Load", false);
        }
        at.scans(1);
        at
    };
    // What makes it count.
    let mut at = bench(100);
    at.set("Input", true);
    at.scans(3);
    let counted = if facts.trigger == Trigger::Rise { 1 } else { 3 };
    assert_eq!(at.number(), shown(counted, 100), "{title}: what counts");
    // An input that is on from the beginning.
    if device.kind != DeviceKind::CountDown {
        let mut at = Bench::new(library, device, "100", "INT", 10);
        at.set("Input", true);
        at.scans(1);
        let counted = i64::from(facts.power_up != PowerUp::Ignored);
        assert_eq!(at.number(), shown(counted, 100), "{title}: power-up");
    }
    // At the preset and beyond.
    let mut at = bench(2);
    at.pulses(1);
    assert!(!at.done(), "{title}: done early");
    at.pulses(1);
    assert!(at.done(), "{title}: done at the preset");
    at.pulses(2);
    let counted = if facts.limit == Limit::Preset { 2 } else { 4 };
    let least = if device.kind == DeviceKind::CountDown { facts.least } else { i64::MIN };
    assert_eq!(at.number(), shown(counted, 2).max(least), "{title}: beyond the preset");
    assert_eq!(at.done(), facts.done == DoneWhen::AtLeast || facts.limit == Limit::Preset, "{title}: done beyond");
    if device.pins.contains_key(&Role::Reset) {
        at.set("Reset", true);
        at.pulses(2);
        assert_eq!(at.number(), shown(0, 2), "{title}: held by the reset");
    }
    // At the limit of its number.
    if facts.limit != Limit::Preset && device.kind != DeviceKind::CountDown {
        let mut at = bench(5);
        at.pulses(facts.most + 1);
        let end = if facts.limit == Limit::Most { facts.most } else { facts.least };
        assert_eq!(at.number(), end, "{title}: at the limit");
    }
}

#[test]
fn facts_are_true() {
    let (mut timers, mut counters) = (0, 0);
    for name in families() {
        let library = library(name).unwrap();
        for device in &library.sheet.devices {
            if device.timer.is_some() {
                timer(&library, device);
                timers += 1;
            }
            if device.counter.is_some() {
                counter(&library, device);
                counters += 1;
            }
        }
    }
    println!("{timers} timers and {counters} counters measured");
}
