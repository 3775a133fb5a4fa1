//! Every file of every command fails to be written once, as on a disk that is full: then nothing that was there is lost, nothing is
//! half there, and one line says what could not be written. A debug build fails where HONEST_TWIN_FAILING_WRITE says.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::time::Duration;
use tempfile::TempDir;

const OLD: &str = "PROGRAM Rinse VAR_INPUT Level AT %I0.0 : BOOL; Hand AT %I0.1 : BOOL; END_VAR\n\
    VAR_OUTPUT Valve AT %Q0.0 : BOOL; END_VAR VAR T : TON; END_VAR\n\
    T(IN := Level, PT := T#30ms); Valve := T.Q OR Hand;\nEND_PROGRAM\n";

/// What is called, and how many files it writes at least.
const CALLS: &[(&str, usize)] = &[
    ("check old.st --save-tags places.csv", 1),
    ("translate old.st --to ld --out out.ld --ledger ledger.json", 2),
    (
        "translate filter.il --tags tags.csv --to il --dialect word-bit --out out.il --save-map map.csv --protocol numbers.csv",
        3,
    ),
    ("translate folder --to il --out lists --ledger ledger.txt", 3),
    ("run old.st --for 200ms --trace trace.csv", 1),
    ("draw old.st --out old.svg", 1),
    ("draw old.st --beside new.st --out both.png", 1),
    (
        "compare old.st new.st --effort 0.01 --faults 0 --stimulus found.csv --report found.html --evidence all --save pair.toml",
        10,
    ),
    ("compare old.st old.st --effort 0.01 --faults 0 --state state.json", 1),
    ("prove old.st old.st --certificate proof --report proof.html", 3),
    ("changes old.st new.st --report changes.html --junit changes.xml", 2),
    ("dialects own --from octal-coil", 2),
];

/// All files under a folder.
fn files(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut out = BTreeMap::new();
    let mut open = vec![folder.to_path_buf()];
    while let Some(at) = open.pop() {
        for entry in fs::read_dir(at).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                open.push(path);
            } else {
                out.insert(path.strip_prefix(folder).unwrap().display().to_string(), fs::read(&path).unwrap());
            }
        }
    }
    out
}

fn sources() -> TempDir {
    let folder = TempDir::new().unwrap();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    put("old.st", OLD);
    for (name, from) in [("filter.il", "filter_old.il"), ("tags.csv", "filter_tags.csv")] {
        fs::copy(Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo").join(from), folder.path().join(name)).unwrap();
    }
    put("new.st", &OLD.replace("T#30ms", "T#40ms"));
    ["folder", "lists"].into_iter().for_each(|name| fs::create_dir(folder.path().join(name)).unwrap());
    put("folder/rinse.st", OLD);
    put("folder/doses.st", "FUNCTION Doses : INT VAR_INPUT n : INT; END_VAR Doses := n + 1; END_FUNCTION\n");
    folder
}

fn call(folder: &Path, line: &str, failing: usize) -> (Option<i32>, String) {
    let mut command = Command::cargo_bin("honest-twin").unwrap();
    command.current_dir(folder).args(line.split(' ')).timeout(Duration::from_secs(120));
    let output = command.env("HONEST_TWIN_FAILING_WRITE", failing.to_string()).output().unwrap();
    (output.status.code(), String::from_utf8([output.stdout, output.stderr].concat()).unwrap())
}

#[test]
fn each_write_fails_once_and_leaves_what_was_there() {
    for (line, least) in CALLS {
        let whole = sources();
        let before = files(whole.path());
        let (status, said) = call(whole.path(), line, 0);
        let whole = files(whole.path());
        let written: Vec<&String> = whole.keys().filter(|name| !before.contains_key(*name)).collect();
        assert!(written.len() >= *least, "{line} ({status:?}) writes {written:?}\n{said}");
        // A state is written more than once, so there is no last number that is known beforehand.
        for number in 1..=written.len() {
            let folder = sources();
            // What the call would write is there already, but for what says how it goes on, and what is never written over.
            let is_fresh = |name: &str| name == "state.json" || name == "own.toml" || name == "own.st";
            for name in written.iter().filter(|name| !is_fresh(name)) {
                fs::create_dir_all(folder.path().join(name).parent().unwrap()).unwrap();
                fs::write(folder.path().join(name), "as it was\n").unwrap();
            }
            let (status, said) = call(folder.path(), line, number);
            assert_eq!(status, Some(2), "{line}, write {number}\n{said}");
            let told: Vec<&str> = said.lines().filter(|l| l.contains("cannot write")).collect();
            assert_eq!(told.len(), 1, "{line}, write {number}\n{said}");
            for (name, found) in files(folder.path()) {
                let is_whole = whole.get(&name) == Some(&found);
                assert!(is_whole || found == b"as it was\n", "{line}, write {number}: {name} is half there\n{said}");
            }
        }
    }
}
