//! Programs of the size that machines have, through every command, and thousands of problems in one of them.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::path::Path;

/// Status, output and messages of a call in a folder.
fn call(folder: &Path, args: &[&str]) -> (i32, String, String) {
    let output = Command::cargo_bin("honest-twin").unwrap().current_dir(folder).args(args).output().unwrap();
    let text = |bytes: &[u8]| String::from_utf8(bytes.to_vec()).unwrap();
    (output.status.code().unwrap(), text(&output.stdout), text(&output.stderr))
}

/// Of thousands of problems the first are told in full and the others counted; JSON names all.
#[test]
fn many_problems_are_counted() {
    let folder = tempfile::tempdir().unwrap();
    let mut text = String::from("PROGRAM P\nVAR_INPUT Low : BOOL; END_VAR\nVAR_OUTPUT Alarm : BOOL; END_VAR\nVAR\n");
    (0..300).for_each(|n| text.push_str(&format!("    Spare{n} : INT;\n")));
    text.push_str("END_VAR\n");
    (0..120).for_each(|n| text.push_str(&format!("Alarm := Depth{n};\n")));
    text.push_str("END_PROGRAM\n");
    std::fs::write(folder.path().join("many.st"), &text).unwrap();
    let (status, _, told) = call(folder.path(), &["check", "many.st"]);
    assert_eq!((status, told.matches("unknown name `Depth").count()), (1, 50), "{told}");
    assert!(told.contains("and 70 more errors") && told.contains("--json names them all"), "{told}");
    // Each stands at its line.
    assert!(told.contains("many.st:306:10") && told.contains("many.st:355:10"), "{told}");
    assert!(told.ends_with("120 errors, 0 warnings\n"), "{told}");
    let (_, all, _) = call(folder.path(), &["--json", "check", "many.st"]);
    assert_eq!(all.matches("unknown name `Depth").count(), 120);
    // Hints are counted by their kind: here variables that nothing reads or writes.
    let unused: String = text.lines().filter(|line| !line.contains("Depth")).map(|line| format!("{line}\n")).collect();
    std::fs::write(folder.path().join("hints.st"), unused).unwrap();
    let (status, _, told) = call(folder.path(), &["check", "hints.st"]);
    assert_eq!(status, 0, "{told}");
    assert!(told.contains(" more of H"), "{told}");
}

/// Latches, timers, counters and sums, 40 inputs and an output for each rung.
fn program(rungs: usize) -> String {
    let probe = |n: usize| format!("Probe{}", n * 7 % 40);
    let mut inputs: String = (0..40).map(|n| format!("    Probe{n} : BOOL;\n")).collect();
    let (mut outputs, mut vars, mut body) = (String::new(), String::new(), String::new());
    for n in 0..rungs {
        let (a, b) = (probe(n), probe(n + 3));
        outputs.push_str(&format!("    Out{n} : {};\n", if n % 4 == 3 { "INT" } else { "BOOL" }));
        body.push_str(&match n % 4 {
            0 => format!("    Out{n} := ({a} OR Out{n}) AND NOT {b};\n"),
            1 => {
                vars.push_str(&format!("    Late{n} : TON;\n"));
                format!(
                    "    Late{n}(IN := {a} AND NOT {b}, PT := T#{}ms);\n    Out{n} := Late{n}.Q;\n",
                    50 + n % 90 * 10
                )
            }
            2 => {
                vars.push_str(&format!("    Was{n} : BOOL;\n"));
                format!("    Out{n} := {a} AND NOT Was{n};\n    Was{n} := {a};\n")
            }
            _ => format!("    IF {a} THEN\n        Out{n} := LIMIT(0, Out{n} + 1, 1000);\n    END_IF;\n"),
        });
    }
    inputs.insert_str(0, "PROGRAM Hatchery\nVAR_INPUT\n");
    format!("{inputs}END_VAR\nVAR_OUTPUT\n{outputs}END_VAR\nVAR\n{vars}END_VAR\n{body}END_PROGRAM\n")
}

/// A thousand rungs go there and back through every language, are drawn and run; nothing in it is done for each pair of
/// rungs, or this would take minutes.
#[test]
fn a_thousand_rungs_go_through_every_command() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    std::fs::write(at.join("hatchery.st"), program(1_000)).unwrap();
    let good = |args: &[&str]| {
        let (status, out, told) = call(at, args);
        assert_eq!(status, 0, "{args:?}\n{out}\n{told}");
        (out, told)
    };
    good(&["check", "hatchery.st"]);
    for (language, file) in [("il", "h.il"), ("ld", "h.ld"), ("fbd", "h.fbd"), ("st", "h.xml"), ("ld", "drawn.xml")] {
        good(&["translate", "hatchery.st", "--to", language, "--unverified", "--out", file]);
        good(&["check", file]);
        good(&["translate", file, "--to", "st", "--unverified", "--out", "back.st"]);
    }
    // Edge memories of the text are edge contacts of the ladder.
    let ladder = std::fs::read_to_string(at.join("h.ld")).unwrap();
    assert_eq!(ladder.matches("|P|").count() + ladder.matches("(P)").count(), 250, "edges");
    // It takes several pages, of which the last is told.
    let (told, _) = good(&["draw", "h.ld", "--out", "h.svg"]);
    let last = told.trim_end().rsplit(' ').next().unwrap();
    assert!(std::fs::read_to_string(at.join(last)).unwrap().contains("Out999"), "{told}");
    let (trace, _) = good(&["run", "hatchery.st", "--scans", "20"]);
    assert_eq!(trace.lines().count(), 21);
    let (out, _) = good(&["compare", "hatchery.st", "h.il", "--scenarios", "20", "--faults", "0"]);
    assert!(out.starts_with("SAME IN EVERY SCENARIO TRIED"), "{out}");
}
