//! Programs with the traces they must give, computed by an independent evaluator (tests/vectors/README.md).

use honest_twin::check::check;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Machine, ScanTime, Stimulus, run_stimulus};
use honest_twin::source::Source;
use std::collections::HashMap;
use std::fs;
use std::path::{Path, PathBuf};

fn folders() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/vectors");
    let mut out: Vec<PathBuf> = fs::read_dir(root).unwrap().map(|e| e.unwrap().path()).filter(|p| p.is_dir()).collect();
    out.sort();
    out
}

fn machine(name: &str, text: &str, language: Language) -> Machine {
    let (project, problems) = read_project(vec![(Source::new(name, text), language)]);
    assert!(!problems.has_errors(), "{name}: {problems:#?}\n{text}");
    let checked = check(project).unwrap_or_else(|p| panic!("{name}: {p:#?}\n{text}"));
    Machine::new(&checked).unwrap()
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
    let machine = machine(name, text, language);
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
fn every_program_gives_its_trace() {
    let folders = folders();
    assert!(folders.len() >= 24);
    for folder in &folders {
        let text = fs::read_to_string(folder.join("prog.st")).unwrap();
        agrees(folder, &folder.display().to_string(), &text, Language::St);
    }
    println!("{} of {} programs give their trace as structured text", folders.len(), folders.len());
}
