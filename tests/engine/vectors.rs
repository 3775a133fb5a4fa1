//! Programs with the traces they must give, computed by an independent evaluator (tests/vectors/README.md).

use crate::common::{checked, translated};
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Machine, ScanTime, Stimulus, run_stimulus};
use std::collections::HashMap;
use std::fs;
use std::path::{Path, PathBuf};

fn folders() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/vectors");
    let mut out: Vec<PathBuf> = fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).filter(|p| p.is_dir()).collect();
    out.sort();
    out
}

/// The cells of a trace by column and row.
fn columns(text: &str) -> HashMap<String, Vec<String>> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let names: Vec<String> = reader.headers().unwrap().iter().map(str::to_string).collect();
    let mut out: HashMap<String, Vec<String>> = names.iter().map(|n| (n.clone(), Vec::new())).collect();
    for record in reader.records() {
        for (name, cell) in names.iter().zip(record.unwrap().iter()) {
            out.get_mut(name).unwrap().push(cell.to_string());
        }
    }
    out
}

/// Runs a program on a folder's stimulus and compares with what is expected.
fn agrees(folder: &Path, name: &str, text: &str, language: Language) {
    let machine = Machine::new(&checked(name, text, language)).unwrap();
    let stimulus = Stimulus::read(&fs::read_to_string(folder.join("stim.csv")).unwrap(), &machine).unwrap();
    let expected = columns(&fs::read_to_string(folder.join("expect.csv")).unwrap());
    let scans = expected["scan"].len() as u64;
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let trace = run_stimulus(&mut Controller::new(&machine), &stimulus, &time, scans, &[]);
    let seen = columns(&trace.write());
    for (column, cells) in &expected {
        for (scan, (want, have)) in cells.iter().zip(&seen[column]).enumerate() {
            assert_eq!(want, have, "{name}: {column} in scan {scan}");
        }
    }
}

#[test]
fn every_program_gives_its_trace_as_it_is_and_translated() {
    let folders = folders();
    assert!(folders.len() >= 24);
    for folder in &folders {
        let name = folder.file_name().unwrap().to_str().unwrap();
        let text = fs::read_to_string(folder.join("prog.st")).unwrap();
        agrees(folder, name, &text, Language::St);
        let list = translated(name, &text, Language::St, Language::Il);
        agrees(folder, &format!("{name} as il"), &list, Language::Il);
        assert_eq!(translated(name, &list, Language::Il, Language::Il), list, "{name}: writing is not stable");
        let back = translated(name, &list, Language::Il, Language::St);
        agrees(folder, &format!("{name} and back"), &back, Language::St);
        assert_eq!(translated(name, &back, Language::St, Language::St), back, "{name}: writing is not stable");
    }
    println!("{0} of {0} programs give their trace in ST, in IL and back in ST", folders.len());
}
