//! What an interrupt (Ctrl-C) leaves: a verdict of what is known so far, a state from which the search goes on, and files whole.
#![cfg(unix)]
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use std::fs;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};
use tempfile::TempDir;

fn begin(folder: &Path, args: &[&str]) -> Child {
    let mut command = Command::new(env!("CARGO_BIN_EXE_honest-twin"));
    command.current_dir(folder).args(args).stdout(Stdio::piped()).stderr(Stdio::piped());
    command.spawn().unwrap()
}

fn interrupt(child: &Child) {
    assert!(Command::new("kill").args(["-INT", &child.id().to_string()]).status().unwrap().success());
}

/// Status, what is said, what is warned of.
fn ended(child: Child) -> (Option<i32>, String, String) {
    let output = child.wait_with_output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (output.status.code(), text(output.stdout), text(output.stderr))
}

/// Feeders that count doses: enough to be busy with for a while.
fn feeders(folder: &Path, name: &str, dose: &str) {
    let one = |n: usize| {
        format!(
            "T{n}(IN := Feed AND NOT T{n}.Q, PT := T#{}s); IF T{n}.Q AND N{n} < 1000 THEN N{n} := N{n} + 1; END_IF;\n\
             Due{n} := N{n} {dose};\n",
            n + 3
        )
    };
    let all = |f: &dyn Fn(usize) -> String| (0..12).map(f).collect::<String>();
    let text = format!(
        "PROGRAM Feeders VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT {} END_VAR VAR {} END_VAR\n{}END_PROGRAM\n",
        all(&|n| format!("Due{n} : BOOL; ")),
        all(&|n| format!("T{n} : TON; N{n} : INT; ")),
        all(&one)
    );
    fs::write(folder.join(name), text).unwrap();
}

const LONG: [&str; 7] = ["compare", "old.st", "new.st", "--effort", "deep", "--faults", "0"];

/// What is said of a search in which no round came to its end.
const NOTHING: &str = "nothing was run: no scenario was asked for, or no time was left";

fn pair() -> TempDir {
    let folder = TempDir::new().unwrap();
    feeders(folder.path(), "old.st", ">= 600");
    feeders(folder.path(), "new.st", "> 599");
    folder
}

/// Waits until the process hears interrupts itself, where the system tells; else a while.
fn hears(child: &Child) {
    let begun = Instant::now();
    let status = format!("/proc/{}/status", child.id());
    let catches = |text: String| {
        let mask = text.lines().find_map(|line| line.strip_prefix("SigCgt:"))?;
        // Bit 1 is SIGINT.
        Some(u64::from_str_radix(mask.trim(), 16).ok()? & 0b10 != 0)
    };
    while let Some(false) = fs::read_to_string(&status).ok().and_then(catches) {
        assert!(begun.elapsed() < Duration::from_secs(60), "interrupts are not heard");
        sleep(Duration::from_millis(10));
    }
}

/// What a call says that is interrupted after a time.
fn interrupted_after(folder: &Path, args: &[&str], pause: Duration) -> (Option<i32>, String) {
    let child = begin(folder, args);
    hears(&child);
    sleep(pause);
    let asked = Instant::now();
    interrupt(&child);
    let (status, said, warned) = ended(child);
    let proved = said.starts_with("PROVED");
    assert!(proved || warned.contains("interrupted: it ends with what is known so far"), "{args:?}: {said}{warned}");
    assert!(asked.elapsed() < Duration::from_secs(20), "{args:?}: {:?}", asked.elapsed());
    (status, said)
}

#[test]
fn the_first_interrupt_ends_a_search_with_what_is_known() {
    let folder = pair();
    // How long a first round takes is the machine's affair.
    let pauses = (0..7).map(|doubled| Duration::from_millis(1_000 << doubled));
    let known = pauses.map(|pause| interrupted_after(folder.path(), &LONG, pause)).find(|(status, said)| {
        let nothing = said.contains(NOTHING);
        assert_eq!(*status, Some(if nothing { 3 } else { 0 }), "{said}");
        !nothing
    });
    let (_, said) = known.expect("no round came to its end");
    assert!(said.contains("it was ended before its effort was used up"), "{said}");
}

#[test]
fn the_first_interrupt_ends_a_proof_without_a_claim() {
    let folder = pair();
    let (status, said) = interrupted_after(folder.path(), &["prove", "old.st", "new.st"], Duration::from_millis(500));
    // It may have come to its end before.
    assert_eq!(status, Some(if said.starts_with("PROVED") { 0 } else { 3 }), "{said}");
}

#[test]
fn the_second_interrupt_ends_at_once() {
    let folder = pair();
    let child = begin(folder.path(), &LONG);
    hears(&child);
    interrupt(&child);
    sleep(Duration::from_millis(5));
    interrupt(&child);
    // It may have come to its end between the two, with a round done or without.
    let (status, said, _) = ended(child);
    assert!(status == Some(130) || status == Some(if said.contains(NOTHING) { 3 } else { 0 }), "{status:?}: {said}");
}

/// A kept search that is interrupted again and again comes to where nobody had interrupted it.
#[test]
fn a_kept_search_goes_on_to_the_same_end() {
    let folder = pair();
    let call = |state: &'static str| {
        ["compare", "old.st", "new.st", "--effort", "0.4", "--faults", "0", "--state", state].to_vec()
    };
    let (status, whole, _) = ended(begin(folder.path(), &call("whole.json")));
    assert_eq!(status, Some(0), "{whole}");
    let mut cut = 0;
    for pause in [700, 900, 1_100] {
        let child = begin(folder.path(), &call("cut.json"));
        sleep(Duration::from_millis(pause));
        interrupt(&child);
        ended(child);
        let kept: serde_json::Value =
            serde_json::from_str(&fs::read_to_string(folder.path().join("cut.json")).unwrap()).unwrap();
        cut += usize::from(kept["finished"] == false);
    }
    let (_, again, _) = ended(begin(folder.path(), &call("cut.json")));
    let state = |name: &str| -> serde_json::Value {
        let text = fs::read_to_string(folder.path().join(name)).unwrap();
        serde_json::from_str::<serde_json::Value>(&text).unwrap()["state"].clone()
    };
    assert_eq!(state("cut.json"), state("whole.json"), "interrupted {cut} times");
    assert_eq!(again, whole);
}
