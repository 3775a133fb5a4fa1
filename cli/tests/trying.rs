//! `try` from a pipe: what is said, what is written, how it ends.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_path_buf()
}

/// Calls `try` with acts on standard input; exit status, and all it says.
fn tried(args: &[&str], acts: &str) -> (i32, String) {
    let mut command = Command::cargo_bin("honest-twin").unwrap();
    let output = command.current_dir(root()).arg("try").args(args).write_stdin(acts).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (output.status.code().unwrap(), text(output.stdout) + &text(output.stderr))
}

#[test]
fn acts_come_from_a_pipe_and_are_answered_each() {
    let acts = "hold LevelHigh\nwait 5s\n# a comment\nexpect RinsePump\nquit\nscan\n";
    let (status, out) = tried(&["demo/rinse.il"], acts);
    assert_eq!(status, 0, "{out}");
    let parts = [
        "> hold LevelHigh\n  LevelHigh is on from the next scan on",
        "500 scans, to 4s990ms",
        "4s990ms of 20s",
        "  met\n",
    ];
    let mut rest = out.as_str();
    for part in parts {
        let at = rest.find(part).unwrap_or_else(|| panic!("{part}\n{out}"));
        rest = &rest[at + part.len()..];
    }
    assert!(!out.contains("> scan"), "what stands behind `quit` is not done: {out}");
    // The same in gives the same out, bit for bit.
    assert_eq!(tried(&["demo/rinse.il"], acts).1, out);
}

#[test]
fn the_exit_status_tells_what_was_seen() {
    let rows: &[(&[&str], &str, i32, &str)] = &[
        (&["demo/rinse.il"], "scan\n", 0, "1 scan, to 0s"),
        (&["demo/rinse.il"], "expect Alarm\n", 1, "NOT MET: expected Alarm; found Alarm = FALSE"),
        (&["demo/rinse.il"], "skan\nscan\n", 2, "not done (line 1): no act begins with `skan`; did you mean `scan`?"),
        (&["demo/rinse.il"], "repeat 2 times\nwait 1s\n", 2, "no `end` ends the repetition"),
        (&["demo/rinse.il"], "repeat 2 times\nnow\nend\n", 2, "`now` is not repeated"),
        (
            &["demo/rinse.il", "--beside", "demo/rinse_by_hand.st"],
            "press TestKey 6 times, 50ms on, 50ms off\n",
            1,
            "THE VERSIONS DIFFER: ServiceDue, after scan 50 at 500ms",
        ),
        (&["demo/filter.toml"], "press TestKey 7 times, 50ms on, 50ms off\n", 1, "moved by hand: FALSE, written at"),
        (&["demo/none.il"], "", 2, "cannot read demo/none.il"),
        (&["tests/problems/pasted.st"], "", 1, "error"),
        (&["demo/rinse.il", "--scan", "8ms..12ms"], "wait 10 scans\n", 0, "10 scans, to"),
        (&["demo/rinse.il", "--lines"], "now\n", 0, "power is on, no scan has run"),
        (&["demo/filter_old.il", "--tags", "demo/filter_tags.csv"], "set INLET0 on\nscan\n", 0, "RinseTime DELAY0"),
        (&["demo/rinse.il", "--right-from", "octal-coil"], "scan\n", 0, "1 scan"),
        (&[], "", 2, "required arguments were not provided"),
        (
            &["demo/rinse.il"],
            "wait 1000000h\nnow\n",
            2,
            "an act lasts 10000000 scans at most; what was done until then stands",
        ),
        (
            &["demo/rinse.il"],
            "repeat 10000000 times\npress TestKey for 1h\nend\n",
            2,
            "what was done until then stands",
        ),
        (&["demo/rinse.il"], "set \u{202e} on\nwatch *\nscan\n", 2, "there is no input `\u{202e}`"),
    ];
    for (args, acts, status, part) in rows {
        let (found, out) = tried(args, acts);
        assert!(
            found == *status && out.contains(part),
            "{args:?} {acts:?}: {found}, expected {status} and `{part}`\n{out}"
        );
    }
}

#[test]
fn what_comes_in_is_bounded() {
    let call = |acts: Vec<u8>| {
        let mut command = Command::cargo_bin("honest-twin").unwrap();
        let output = command.current_dir(root()).args(["try", "demo/rinse.il"]).write_stdin(acts).output().unwrap();
        (output.status.code().unwrap(), output.stdout.len(), String::from_utf8(output.stderr).unwrap())
    };
    // No text at all, a line of two million letters, brackets without end.
    let rows = [
        (0..=255).cycle().take(20_000).collect::<Vec<u8>>(),
        [b"set ".to_vec(), vec![b'A'; 2_000_000], b" on\n".to_vec()].concat(),
        [b"expect ".to_vec(), vec![b'('; 50_000], b"\n".to_vec()].concat(),
        b"repeat 9999999 times\n".repeat(40),
    ];
    for acts in rows {
        let (status, said, err) = call(acts.clone());
        assert_eq!((status, err.as_str()), (2, ""), "{}", String::from_utf8_lossy(&acts[..40]));
        assert!(said < 300_000, "{said}");
    }
}

#[test]
fn each_answer_is_a_line_of_json_where_that_is_asked() {
    let (status, out) =
        tried(&["demo/rinse.il", "--json"], "press TestKey for 50ms\nnow\nnonsense\nmeasure RinsePump\n");
    assert_eq!(status, 2, "{out}");
    let lines: Vec<serde_json::Value> = out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(lines.len(), 4);
    assert_eq!(lines[0]["told"]["ran"]["scans"], 5);
    assert_eq!(lines[0]["told"]["ran"]["moved"][0]["name"], "TestKey");
    assert_eq!(lines[1]["told"]["stands"]["points"][0]["what"], "input");
    assert!(lines[2]["error"].as_str().unwrap().contains("no act begins with `nonsense`"));
    assert_eq!(lines[3]["told"]["measured"][0]["rises"], 1);
}

#[test]
fn what_was_done_is_saved_and_runs_again() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_string();
    let acts = format!(
        "press TestKey 2 times, 100ms on, 100ms off\nforce Alarm to on\nwait 1s\nsave {}\nsave {}\nsave {}\nsave {}\n",
        path("a.scenario"),
        path("a.csv"),
        path("a.table.csv"),
        path("none/a.csv")
    );
    let (status, out) = tried(&["demo/rinse.il"], &acts);
    assert_eq!(status, 2, "{out}");
    assert!(out.contains("a scenario of 6 lines") && out.contains("cannot write"), "{out}");
    assert!(out.contains("a sequence table gives inputs and no more"), "{out}");
    let run = |file: &str| {
        let mut command = Command::cargo_bin("honest-twin").unwrap();
        let args = ["run", "demo/rinse.il", "--stimulus", file, "--scans", "140"];
        let output = command.current_dir(root()).args(args).output().unwrap();
        String::from_utf8(output.stdout).unwrap()
    };
    assert_eq!(run(&path("a.scenario")), run(&path("a.csv")));
    assert!(run(&path("a.csv")).contains("@force"));
}

#[test]
fn the_sources_are_read_again_while_it_runs() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("rinse.il");
    let text = std::fs::read_to_string(root().join("demo/rinse.il")).unwrap();
    std::fs::write(&file, &text).unwrap();
    let mut child = std::process::Command::new(env!("CARGO_BIN_EXE_honest-twin"))
        .args(["try", file.to_str().unwrap()])
        .stdin(std::process::Stdio::piped())
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let mut acts = child.stdin.take().unwrap();
    let mut said = std::io::BufReader::new(child.stdout.take().unwrap());
    let mut act = |line: &str, until: &str| {
        use std::io::{BufRead, Write};
        acts.write_all(format!("{line}\n").as_bytes()).unwrap();
        acts.flush().unwrap();
        let mut out = String::new();
        while !out.contains(until) {
            assert!(said.read_line(&mut out).unwrap() > 0, "{out}");
        }
        out
    };
    act("hold LevelHigh", "next scan on");
    act("wait 2s", "RinseCount");
    std::fs::write(&file, text.replace("T#20s", "T#3s")).unwrap();
    act("read again", "read again, ");
    act("wait until NOT RinsePump at most 1200ms", "  met");
    // What has mistakes does not take over.
    std::fs::write(&file, "PROGRAM Broken").unwrap();
    act("read again", "the session goes on with what it had");
    act("scan", "1 scan, to");
    drop(acts);
    assert_eq!(child.wait().unwrap().code(), Some(2));
}

#[test]
fn a_scan_is_drawn_in_the_terminal_by_number_and_by_time() {
    let call = |args: &[&str]| {
        let output = Command::cargo_bin("honest-twin").unwrap().current_dir(root()).args(args).output().unwrap();
        (
            output.status.code().unwrap(),
            String::from_utf8(output.stdout).unwrap() + &String::from_utf8(output.stderr).unwrap(),
        )
    };
    let (_, by_number) = call(&["draw", "demo/raceway.ld", "--at", "430", "--stimulus", "demo/raceway.csv"]);
    let (status, by_time) = call(&["draw", "demo/raceway.ld", "--at", "4.305s", "--stimulus", "demo/raceway.csv"]);
    assert_eq!((status, &by_time), (0, &by_number));
    assert!(by_time.contains("after scan 430 at 4s300ms") && by_time.contains("┫<┣━━━━━━(S)"), "{by_time}");
    assert!(
        call(&["draw", "demo/raceway.ld", "--at", "soon"]).1.contains("a moment is the number of a scan or a time")
    );
    assert!(call(&["draw", "demo/raceway.ld", "--at", "-5s"]).0 == 2);
    let (status, out) =
        call(&["run", "demo/rinse.il", "--scenario", "demo/filter.scenario", "--changes", "--watch", "RinseCount"]);
    assert_eq!(status, 0, "{out}");
    assert!(
        out.lines().count() < 40 && out.contains("RinseCount.CV") && out.contains("ServiceDue      rose once"),
        "{out}"
    );
    // A trace of changes replays to the trace that it was made of.
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("changes.csv");
    let file = path.to_str().unwrap();
    call(&["run", "demo/rinse.il", "--scenario", "demo/filter.scenario", "--changes", "--trace", file]);
    let whole = call(&["run", "demo/rinse.il", "--scenario", "demo/filter.scenario", "--scans", "2000"]).1;
    assert_eq!(
        call(&["run", "demo/rinse.il", "--stimulus", file, "--scans", "2000"]).1.lines().next(),
        whole.lines().next()
    );
    let rows = |text: &str| text.lines().filter(|line| line.starts_with("19")).map(str::to_string).collect::<Vec<_>>();
    assert_eq!(rows(&call(&["run", "demo/rinse.il", "--stimulus", file, "--scans", "2000"]).1), rows(&whole));
}
