//! The house rules that a compiler does not keep: arrows between rooms point one way, and files are of a size to read.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

use std::fs;
use std::path::{Path, PathBuf};

fn rust_files(folder: &Path, out: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            // What a package beside this one has built is nobody's to read.
            if !path.ends_with("target") {
                rust_files(&path, out);
            }
        } else if path.extension().is_some_and(|e| e == "rs") {
            out.push(path);
        }
    }
}

/// The rooms, each with those it may look into.
const ROOMS: &[(&str, &[&str])] = &[
    ("source", &[]),
    ("model", &["source"]),
    ("lang", &["source", "model"]),
    ("dialect", &["source", "model", "lang"]),
    ("check", &["source", "model", "lang", "dialect"]),
    ("translate", &["source", "model", "lang", "dialect", "check"]),
    ("scan", &["source", "model", "lang", "dialect", "check"]),
    ("facts", &["source", "model", "lang", "dialect", "check", "scan"]),
    ("circuit", &["source", "model", "check", "scan"]),
    ("twin", &["source", "model", "lang", "dialect", "check", "scan", "circuit"]),
    // The last two only in its test of broken provers.
    ("prove", &["source", "model", "check", "scan", "circuit", "twin", "lang", "recheck"]),
    // Knows nothing of what it checks.
    ("recheck", &[]),
    ("protocol", &["source", "model", "lang", "dialect", "check", "scan", "twin"]),
    ("session", &["source", "model", "lang", "dialect", "check", "scan", "twin"]),
    ("changes", &["protocol", "source", "model", "lang", "dialect", "check", "scan", "translate", "twin", "prove"]),
    (
        "show",
        &[
            "protocol",
            "source",
            "model",
            "lang",
            "dialect",
            "check",
            "scan",
            "translate",
            "twin",
            "session",
            "recheck",
            "changes",
        ],
    ),
];

#[test]
fn arrows_point_one_way() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut rooms: Vec<String> = fs::read_dir(&root)
        .unwrap()
        .map(|e| e.unwrap().path())
        .filter(|p| p.is_dir())
        .map(|p| p.file_name().unwrap().to_str().unwrap().to_string())
        .collect();
    rooms.sort();
    for room in rooms {
        let (_, allowed) =
            ROOMS.iter().find(|(name, _)| *name == room).unwrap_or_else(|| panic!("room {room} has no arrows"));
        let mut files = Vec::new();
        rust_files(&root.join(&room), &mut files);
        for file in files {
            let text = fs::read_to_string(&file).unwrap();
            for (at, _) in text.match_indices("crate::") {
                let rest = &text[at + "crate::".len()..];
                let other: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
                let is_room = ROOMS.iter().any(|(name, _)| *name == other);
                assert!(
                    !is_room || other == room || allowed.contains(&other.as_str()),
                    "{}: looks into {other}",
                    file.display()
                );
            }
        }
    }
}

#[test]
fn files_are_of_a_size_to_read() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    let mut files = Vec::new();
    for folder in ["src", "cli", "tests", "examples", "benches"] {
        rust_files(&root.join(folder), &mut files);
    }
    for file in files {
        let lines = fs::read_to_string(&file).unwrap().lines().count();
        assert!(lines <= 600, "{} has {lines} lines", file.display());
    }
}

/// Tests are to be a quarter to a third of the lines of Rust. The share is printed; it must not fall below what it has been.
#[test]
fn tests_are_a_share_of_the_lines() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    // Files of tests inside the rooms.
    let inner = [
        "flaws.rs",
        "sound.rs",
        "broken.rs",
        "rewrites.rs",
        "watched.rs",
        "monitored.rs",
        "invariants.rs",
        "woven.rs",
        "leapt.rs",
    ];
    let (mut all, mut tests) = (0, 0);
    for folder in ["src", "cli/src", "cli/tests", "tests", "examples", "benches", "fuzz"] {
        let mut files = Vec::new();
        rust_files(&root.join(folder), &mut files);
        for file in files {
            let lines = fs::read_to_string(&file).unwrap().lines().count();
            let is_inner = inner.iter().any(|name| file.ends_with(name));
            all += lines;
            tests += if folder.ends_with("tests") || is_inner { lines } else { 0 };
        }
    }
    println!("{tests} of {all} lines are tests: {:.1} %", 100.0 * tests as f64 / all as f64);
    assert!(tests * 1000 >= all * 250, "{tests} of {all} lines");
}
