//! A page for each family: what its sheet says, and for every timer kind what its blocks do, run.

use crate::common::dialects::families;
use honest_twin::check::verify;
use honest_twin::dialect::{library, read_project_in};
use honest_twin::lang::{Language, read_duration, read_project};
use honest_twin::model::Duration;
use honest_twin::model::sheet::{Device, Library, PresetUnit, Role};
use honest_twin::scan::{Controller, Machine, ScanTime, Stimulus, run_stimulus};
use honest_twin::show::{self, Timing};
use honest_twin::source::Source;
use std::sync::Arc;

/// `dialects/NAME.md` with the timing diagrams of its timers.
pub fn pages() -> Vec<(String, String)> {
    let mut files = Vec::new();
    let mut index = String::from(
        "# Dialects\n\nFamilies of conventions, with names of our own; made from the sheets by `tests/twins/pages.rs`. \
         `honest-twin dialects NAME --from FAMILY` starts\none of your own. The schema is in [`../sheets.md`](../sheets.md).\n\n",
    );
    for name in families() {
        let library = library(name).unwrap();
        index.push_str(&format!("- [`{name}`]({name}.md): {}\n", library.sheet.title));
        let mut page = format!("# `{name}`\n\n```\n{}```\n", show::dialect(&library));
        let mut drawn: Vec<(&str, &str)> = Vec::new();
        for device in library.sheet.devices.iter().filter(|d| d.kind.is_timer()) {
            let tick = device.timer.as_ref().unwrap().tick.as_str();
            if drawn.contains(&(device.block.as_str(), tick)) {
                continue;
            }
            drawn.push((&device.block, tick));
            let file = format!("{name}-{}-{}.svg", device.block.to_lowercase().replace('_', "-"), &tick[2..]);
            page.push_str(&format!("\n## {}\n\n![{}]({file})\n", device.name, device.name));
            files.push((format!("dialects/{file}"), diagram(&library, device)));
        }
        page.push_str(&format!("\n## The blocks\n\n```\n{}```\n", library.source.text));
        files.push((format!("dialects/{name}.md"), page));
    }
    files.push(("dialects/README.md".to_string(), index));
    files
}

/// A timer with a preset of five ticks (or half a second), driven for longer and shorter than that.
fn diagram(library: &Arc<Library>, device: &Device) -> String {
    let facts = device.timer.as_ref().unwrap();
    let tick = read_duration(&facts.tick[2..]).unwrap().millis();
    let by_duration = facts.unit == PresetUnit::Duration;
    let unit = if by_duration { 100 } else { tick };
    let preset = if by_duration { "T#500ms".to_string() } else { "5".to_string() };
    let number = if by_duration { "TIME" } else { "INT" };
    let pin = |role: Role| device.pins[&role].as_str();
    let set: Vec<String> = device.set.iter().map(|(p, v)| format!("{p} := {v}")).collect();
    let init = if set.is_empty() { String::new() } else { format!(" := ({})", set.join(", ")) };
    let text = format!(
        "PROGRAM Main\nVAR_INPUT\n    Input : BOOL;\nEND_VAR\nVAR_OUTPUT\n    Done : BOOL;\n    Elapsed : {number};\nEND_VAR\n\
         VAR\n    D : {}{init};\nEND_VAR\n    D({} := Input, {} := {preset});\n    Done := D.{};\n    Elapsed := D.{};\nEND_PROGRAM\n",
        device.block,
        pin(Role::Run),
        pin(Role::Preset),
        pin(Role::Done),
        pin(Role::Elapsed)
    );
    let files = vec![(Source::new("diagram.st", text), Language::St)];
    let (project, problems) =
        if library.sheet.name == "iec" { read_project(files) } else { read_project_in(files, library) };
    let (checked, all) = verify(project, problems);
    let machine = Machine::new(&checked.unwrap_or_else(|| panic!("{:#?}", all.0))).unwrap();
    // On for eight ticks, off for eight, on for two, off for one, on for six.
    let mut stimulus = String::from("time_ms,Input\n0,0\n");
    for (at, value) in [(2, 1), (10, 0), (18, 1), (20, 0), (21, 1), (27, 0)] {
        stimulus.push_str(&format!("{},{value}\n", at * unit));
    }
    let scan = (unit / 10).max(1);
    let stimulus = Stimulus::read(&stimulus, &machine).unwrap();
    let mut controller = Controller::new(&machine);
    let time = ScanTime::Fixed(Duration::from_millis(scan));
    let scans = (36 * unit / scan) as u64;
    let trace = run_stimulus(&mut controller, &stimulus, &time, scans, &[]);
    let caption = format!("{}: {}, preset {}", library.sheet.name, device.name, preset.replace("T#", ""));
    show::timing(&Timing { caption, ..Timing::of(&trace, &[]) }, 900)
}
