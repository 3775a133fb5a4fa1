//! What becomes of one device in each family, a row for each: the block that is chosen, its preset, and what the ledger says.
//! Each row is also run beside its source, and what differs must have been foretold.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

#[path = "../common/mod.rs"]
mod common;

mod counters;
mod others;
mod timers;

use common::checked;
use honest_twin::dialect::library;
use honest_twin::lang::Language;
use honest_twin::translate::{Mode, foretold, migrate};
use honest_twin::twin::{Effort, Twin, Verdict, Version, compare_twin};

/// What is migrated: a title, its variables and its body in the standard's own conventions.
type Device = (&'static str, &'static str, &'static str);
/// The title of a device, a family, and what is written there: declarations of devices, the body, the ledger.
type Row = (&'static str, &'static str, &'static str);

fn planned(device: &Device, family: &str) -> String {
    let (title, variables, body) = device;
    let text = format!(
        "PROGRAM P\nVAR_INPUT Run, Reset : BOOL; END_VAR\nVAR_OUTPUT On : BOOL; N : INT; END_VAR\nVAR {variables} END_VAR\n\
         {body}\nEND_PROGRAM\n"
    );
    let source = checked(title, &text, Language::St);
    let st = (Language::St, Language::St.into());
    let done = migrate(&source, &library(family).unwrap(), st, Mode::Native, None)
        .unwrap_or_else(|e| panic!("{title} in {family}: {e}"));
    let written = &done.translation.files[0].text;
    let (head, body) = written.rsplit_once("END_VAR\n").unwrap_or(("", written));
    let blocks = &library(family).unwrap().sheet.devices;
    let is_device = |line: &&str| blocks.iter().any(|d| line.contains(&format!(": {}", d.block)));
    let mut out: String = head.lines().filter(is_device).map(|line| format!("{}\n", line.trim())).collect();
    out.push_str(body.trim_matches('\n').trim_end().trim_end_matches("END_PROGRAM").trim_end());
    for entry in &done.translation.ledger {
        out.push_str(&format!("\n{} {}: {}", entry.code, entry.grade.word(), entry.reason));
    }
    let versions = [("source", &source), ("target", &done.checked)];
    let versions = versions.map(|(name, checked)| Version::new(name, checked.clone()).unwrap());
    let effort = Effort { scenarios: 100, scans: 30_000, faults: 0, ..Effort::default() };
    match compare_twin(&Twin::new(&versions[0], &versions[1]), &effort, |_| {}) {
        Verdict::Tested(_) => {}
        Verdict::Different(d) => {
            let named: Vec<_> = foretold(&done.translation.ledger).collect();
            assert!(!named.is_empty(), "{title} in {family}: {} differs, and nothing foretells it\n{out}", d.name);
            out.push_str("\nit differs, as foretold");
        }
        other => panic!("{title} in {family}: {}", honest_twin::show::verdict(&other)),
    }
    out
}

/// Holds rows to what they say; what differs is printed as it would have to stand here.
fn hold(devices: &[Device], rows: &[Row]) {
    let mut wrong = 0;
    for (title, family, expected) in rows {
        let device = devices.iter().find(|(t, ..)| t == title).unwrap_or_else(|| panic!("no device `{title}`"));
        let found = planned(device, family);
        if found.trim() != expected.trim() {
            wrong += 1;
            println!("<<<{title}/{family}\n{found}\n>>>");
        }
    }
    assert_eq!(wrong, 0, "of {} rows", rows.len());
}
