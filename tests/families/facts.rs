//! What sheets say of their devices is true: the blocks are run and measured. And a sheet that lies is caught, with the acts
//! that show it.

use crate::common::dialects::families;
use honest_twin::check::verify;
use honest_twin::dialect::{LIBRARIES, library, read_library, read_project_in};
use honest_twin::facts::{Untrue, untrue};
use honest_twin::lang::{Language, read_project};
use honest_twin::model::Duration;
use honest_twin::model::sheet::Library;
use honest_twin::scan::ScanTime;
use honest_twin::session::Session;
use honest_twin::source::Source;
use honest_twin::twin::{Timing, Twin, Version};
use std::fmt::Write;
use std::sync::Arc;
use toml::{Table, Value};

#[test]
fn shipped_sheets_say_what_their_blocks_do() {
    let mut devices = 0;
    for name in families() {
        let library = library(name).unwrap();
        let found = untrue(&library);
        assert!(found.is_empty(), "{name}: {found:#?}");
        devices += library.sheet.devices.len();
    }
    assert!(devices >= 40, "{devices}");
}

/// A family with one fact of one of its devices changed (`key` is `timer.past`), and with its blocks changed.
fn changed(name: &str, device: &str, key: &str, to: Value, blocks: [&str; 2]) -> Arc<Library> {
    let shipped = LIBRARIES.iter().find(|l| l.name == name).unwrap();
    let mut sheet: Table = shipped.sheet.parse().unwrap();
    let devices = sheet["device"].as_array_mut().unwrap();
    let found = devices.iter_mut().find(|d| d["name"].as_str() == Some(device)).unwrap();
    let mut table = found.as_table_mut().unwrap();
    let (path, last) = key.rsplit_once('.').map_or((None, key), |(path, last)| (Some(path), last));
    if let Some(path) = path {
        table = table[path].as_table_mut().unwrap();
    }
    if !last.is_empty() {
        table.insert(last.to_string(), to);
    }
    let text = if blocks[0].is_empty() {
        shipped.blocks.to_string()
    } else {
        shipped.blocks.replacen(blocks[0], blocks[1], 1)
    };
    assert!(blocks[0].is_empty() || text != shipped.blocks, "{name}: no `{}`", blocks[0]);
    let sheet = Source::new("mine.toml", toml::to_string(&sheet).unwrap());
    Arc::new(read_library(&sheet, &Source::new("mine.st", text)).unwrap_or_else(|p| panic!("{p:#?}")))
}

fn word(text: &str) -> Value {
    Value::String(text.to_string())
}

/// The acts are those of scenarios, and a session on the same program does them.
fn replay(library: &Arc<Library>, lie: &Untrue) {
    let files = vec![(Source::new("bench.st", lie.program.as_str()), Language::St)];
    let (project, problems) = match library.sheet.name.as_str() {
        "iec" => read_project(files),
        _ => read_project_in(files, library),
    };
    let version = Version::new("bench", verify(project, problems).0.unwrap()).unwrap();
    let mut twin = Twin::single(&version);
    twin.timing = Timing::Lockstep(ScanTime::Fixed(Duration::from_nanos(lie.scan_nanos)));
    let mut session = Session::new(twin).unwrap();
    for act in &lie.acts {
        session.line(act).unwrap_or_else(|e| panic!("{act}: {e}"));
    }
}

#[test]
fn a_sheet_that_lies_is_caught() {
    let lies: Vec<(&str, &str, &str, Value)> = vec![
        ("octal-coil", "on-delay, ticks of 100 ms", "timer.past", word("runs-on")),
        ("octal-coil", "on-delay, ticks of 10 ms", "timer.tick", word("T#100ms")),
        ("octal-coil", "on-delay, ticks of 100 ms", "timer.unit", word("duration")),
        ("octal-coil", "retentive on-delay, ticks of 100 ms", "kind", word("on-delay")),
        ("octal-coil", "retentive on-delay, ticks of 100 ms", "retained", Value::Boolean(false)),
        ("octal-coil", "up counter", "counter.limit", word("most")),
        ("octal-coil", "up counter", "counter.power-up", word("ignored")),
        ("octal-coil", "up counter", "counter.reset", word("input")),
        ("octal-coil", "counter with a direction", "counter.limit", word("wraps")),
        ("octal-coil", "counter with a direction", "counter.least", Value::Integer(0)),
        ("byte-bit", "on-delay", "timer.idle", word("goes-on")),
        ("byte-bit", "on-delay", "timer.tick", word("T#50ms")),
        ("byte-bit", "off-delay", "kind", word("pulse")),
        ("byte-bit", "up counter", "counter.most", Value::Integer(9999)),
        ("byte-bit", "latch, set wins", "latch.wins", word("reset")),
        ("byte-bit", "rising edge", "edge.first", Value::Boolean(true)),
        ("byte-bit", "rising edge", "kind", word("fall")),
        ("word-bit", "on-delay, ticks of 100 ms", "timer.counts", word("up")),
        ("word-bit", "on-delay, ticks of 100 ms", "timer.phase", word("own")),
        ("word-bit", "on-delay, ticks of 100 ms", "timer.most", Value::Integer(40000)),
        ("word-bit", "counter towards zero", "counter.counts", word("up")),
        ("point-block", "up counter", "counter.done", word("at-least")),
        ("point-block", "pulse, ticks of 10 ms", "timer.reset", word("none")),
        ("status-word", "on-delay, ticks of 10 ms", "timer.done", word("once")),
        ("status-word", "counter of both directions", "counter.power-up", word("counts")),
        ("flat-register", "counter of scans", "counter.trigger", word("rise")),
        ("iec", "on-delay", "timer.idle", word("stands-still")),
        ("iec", "down counter", "counter.least", Value::Integer(0)),
    ];
    let mut out = String::new();
    for (name, device, key, to) in lies {
        let library = changed(name, device, key, to, ["", ""]);
        let found = untrue(&library);
        let lie = found.iter().find(|u| u.device == device && (u.fact == key || key == "kind")).unwrap_or_else(|| {
            panic!("{name}, {device}, {key}: {found:#?}");
        });
        // Nothing is said of what is true; what follows from the lie may be.
        assert!(found.iter().all(|u| u.device == device), "{name}, {device}, {key}: {found:#?}");
        assert_eq!(lie.diagnostic(&library).code.0, "D04");
        replay(&library, lie);
        let _ = writeln!(out, "{name}: {}\n    {}", lie.diagnostic(&library).message, lie.acts.join("; "));
    }
    insta::assert_snapshot!(out);
}

/// The other way round: the sheet is left alone and a block does something else than before.
#[test]
fn a_block_that_is_changed_makes_its_sheet_untrue() {
    let changes = [
        ("octal-coil", "on-delay, ticks of 100 ms", "INT_TO_LINT(MAX(PRESET, 0))));", "LINT#30000));"),
        ("octal-coil", "up counter", "COIL AND NOT Was AND COUNT < PRESET", "COIL AND COUNT < PRESET"),
        (
            "octal-coil",
            "up counter",
            "DONE := COUNT >= PRESET;\nEND_FUNCTION_BLOCK\n\n(* Counter with one",
            "DONE := COUNT = PRESET - 1;\nEND_FUNCTION_BLOCK\n\n(* Counter with one",
        ),
        (
            "byte-bit",
            "on-delay",
            "ELSIF SINCE(Call) = SCAN_TIME() THEN\n        Sum := Sum + SCAN_TIME();",
            "ELSE\n        Sum := Sum + SINCE(Call);",
        ),
    ];
    for (name, device, from, to) in changes {
        let library = changed(name, device, "", Value::Boolean(true), [from, to]);
        let found = untrue(&library);
        assert!(found.iter().any(|u| u.device == device), "{name}, {from}: {found:#?}");
    }
}
