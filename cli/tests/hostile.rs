//! What a careless or hostile user brings, through the command line: each call ends by itself, with an exit status of ours and
//! a short answer, and leaves what was there.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::fs;
use std::path::Path;
use std::time::Duration;
use tempfile::TempDir;

/// Status and all that is said; a call that does not end fails.
fn call(folder: &Path, args: &[&str]) -> (i32, String) {
    let mut command = Command::cargo_bin("honest-twin").unwrap();
    let output = command.current_dir(folder).args(args).timeout(Duration::from_secs(120)).output().unwrap();
    let said = [output.stdout, output.stderr].concat();
    let status =
        output.status.code().unwrap_or_else(|| panic!("{args:?} was ended: {}", String::from_utf8_lossy(&said)));
    (status, String::from_utf8(said).unwrap())
}

/// A call of files that are written first: its status, a part of what is said, and at most so many bytes.
fn hold(files: &[(&str, String)], args: &[&str], status: i32, part: &str, most: usize) {
    let folder = TempDir::new().unwrap();
    for (name, text) in files {
        fs::write(folder.path().join(name), text).unwrap();
    }
    let (found, said) = call(folder.path(), args);
    let shown: String = said.chars().take(2_000).collect();
    assert!(found == status && said.contains(part), "{args:?}: {found}, expected {status} and `{part}`\n{shown}");
    assert!(said.len() <= most, "{args:?} says {} bytes\n{shown}", said.len());
    assert!(!said.contains("panicked"), "{shown}");
}

const HEAD: &str = "PROGRAM P VAR_INPUT a : BOOL; n : INT; END_VAR VAR_OUTPUT q : INT; END_VAR ";

fn program(body: &str) -> String {
    format!("{HEAD}\n{body}\nEND_PROGRAM\n")
}

/// Of a line of megabytes the part around the place is shown.
#[test]
fn long_lines_are_shown_around_the_place() {
    let long = "q := n; ".repeat(500_000);
    let in_one_line = |body: &str| format!("{HEAD}{long}{body} {long}END_PROGRAM\n");
    let files = [("long.st", in_one_line("q := nothing;"))];
    hold(&files, &["check", "long.st"], 1, "unknown name `nothing`", 4_000);
    hold(&[("long.st", in_one_line("q := := n;"))], &["check", "long.st"], 1, "long.st:1:", 4_000);
    let letters = format!("{HEAD} (* {} *) q := nothing; END_PROGRAM", "å".repeat(200_000));
    hold(&[("wide.st", letters)], &["check", "wide.st"], 1, "unknown name `nothing`", 6_000);
    // A place that is itself megabytes.
    let name = "x".repeat(3_000_000);
    hold(&[("name.st", program(&format!("q := {name};")))], &["check", "name.st"], 1, "name.st:2:", 12_000);
    hold(
        &[("name.st", program(&format!("{name} := {name} + {name};")))],
        &["--json", "check", "name.st"],
        1,
        "\"line\": 2",
        20_000_000,
    );
    let rule = format!("{name} AND {name}");
    let files = [
        ("p.st", program("q := n;")),
        ("t.toml", format!("[[version]]\nfiles = [\"p.st\"]\n[[rule]]\nname = \"r\"\nnever = \"{rule}\"\n")),
    ];
    hold(&files, &["compare", "t.toml"], 3, "rule", 20_000_000);
}

/// Only files are read: a pipe may never say anything, a folder is no list of tags.
#[cfg(unix)]
#[test]
fn pipes_and_devices_are_not_waited_for() {
    let folder = TempDir::new().unwrap();
    fs::write(folder.path().join("p.st"), program("q := n;")).unwrap();
    assert!(std::process::Command::new("mkfifo").arg(folder.path().join("pipe.st")).status().unwrap().success());
    fs::write(folder.path().join("t.toml"), "[[version]]\nfiles = [\"pipe.st\"]\n[[version]]\nfiles = [\"p.st\"]\n")
        .unwrap();
    for args in [
        vec!["check", "pipe.st"],
        vec!["compare", "t.toml"],
        vec!["changes", "p.st", "pipe.st"],
        vec!["run", "p.st", "--stimulus", "pipe.st"],
        vec!["run", "p.st", "--stimulus", "/dev/zero"],
        vec!["prove", "p.st", "p.st", "--map", "/dev/zero"],
    ] {
        let (status, said) = call(folder.path(), &args);
        assert_eq!((status, said.contains("it is no file")), (2, true), "{args:?}: {said}");
    }
    // What is written to a device is written to it.
    let (status, _) = call(folder.path(), &["run", "p.st", "--scans", "3", "--trace", "/dev/null"]);
    assert_eq!(status, 0);
}

/// What was kept is looked at before it is believed.
#[test]
fn a_kept_search_that_was_tampered_with_is_refused() {
    let folder = TempDir::new().unwrap();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    put("a.st", &program("IF a THEN q := n; END_IF;"));
    put("b.st", &program("IF a THEN q := n + 0; END_IF;"));
    let compare = |scenarios: &str| {
        let args = ["compare", "a.st", "b.st", "--faults", "0", "--scenarios", scenarios, "--state", "kept.json"];
        call(folder.path(), &args)
    };
    assert_eq!(compare("20").0, 0);
    let kept =
        fs::read_to_string(folder.path().join("kept.json")).unwrap().replace("\"finished\":true", "\"finished\":false");
    assert!(kept.matches("\"input\":0").count() > 1, "{kept}");
    for (from, to) in [
        ("\"input\":0,", "\"input\":99,"),
        ("{\"set\":{\"input\":0,\"value\":1}}", "{\"set\":{\"input\":0,\"value\":77}}"),
        ("\"wait\":", "\"wait\":99999999999"),
    ] {
        let other = kept.replacen(from, to, 1);
        assert_ne!(other, kept, "{from}");
        put("kept.json", &other);
        let (status, said) = compare("40");
        let refused = said.contains("a scenario that was written down cannot be run on these versions");
        assert_eq!((status, refused), (2, true), "{from} {to}: {said}");
    }
    put("kept.json", &kept);
    assert_eq!(compare("40").0, 0, "as it was written it goes on");
    put("kept.json", &kept[..kept.len() / 2]);
    assert_eq!(compare("40").0, 2, "half of it is refused");
}

/// An output never takes the place of a source, and what cannot be written leaves what was there.
#[test]
fn what_is_there_stays() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name);
    let text = program("q := n;");
    fs::write(path("p.st"), &text).unwrap();
    fs::create_dir(path("inner")).unwrap();
    fs::write(path("inner/x.csv"), "keep").unwrap();
    for args in [
        vec!["translate", "p.st", "--to", "st", "--unverified", "--out", "p.st"],
        vec!["translate", "p.st", "--to", "st", "--unverified", "--out", "inner/../p.st"],
        vec!["run", "p.st", "--scans", "2", "--trace", "p.st"],
        vec!["compare", "p.st", "p.st", "--scenarios", "2", "--faults", "0", "--report", "p.st"],
        vec!["check", "p.st", "--save-tags", "p.st"],
    ] {
        let (status, said) = call(folder.path(), &args);
        assert_eq!((status, said.contains("it is a source that was read")), (2, true), "{args:?}: {said}");
        assert_eq!(fs::read_to_string(path("p.st")).unwrap(), text, "{args:?}");
    }
    // What is written takes the place of what was there, whole, and nothing is left beside it.
    for _ in 0..2 {
        assert_eq!(call(folder.path(), &["run", "p.st", "--scans", "3", "--trace", "inner/x.csv"]).0, 0);
    }
    assert!(fs::read_to_string(path("inner/x.csv")).unwrap().starts_with("scan,time_ms"));
    let names: Vec<String> =
        fs::read_dir(path("inner")).unwrap().map(|e| e.unwrap().file_name().to_string_lossy().to_string()).collect();
    assert_eq!(names, ["x.csv"]);
    // A folder that is not there, and one where a file should be.
    for out in ["none/x.csv", "inner"] {
        let (status, said) = call(folder.path(), &["run", "p.st", "--scans", "3", "--trace", out]);
        assert_eq!(
            (status, said.lines().filter(|line| line.contains("cannot write")).count()),
            (2, 1),
            "{out}: {said}"
        );
    }
}

/// A link is written through: what it names changes, and it stays a link.
#[cfg(unix)]
#[test]
fn links_stay_links() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("p.st"), program("q := n;")).unwrap();
    fs::write(path("real.csv"), "old").unwrap();
    std::os::unix::fs::symlink(path("real.csv"), path("link.csv")).unwrap();
    assert_eq!(call(folder.path(), &["run", "p.st", "--scans", "3", "--trace", "link.csv"]).0, 0);
    assert!(fs::symlink_metadata(path("link.csv")).unwrap().file_type().is_symlink());
    assert!(fs::read_to_string(path("real.csv")).unwrap().starts_with("scan,time_ms"));
}

/// A twin file from elsewhere may name what lies anywhere: that is told. A link in a folder of sources is not followed out of it.
#[cfg(unix)]
#[test]
fn what_lies_outside_is_told_or_not_followed() {
    let folder = TempDir::new().unwrap();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    fs::create_dir_all(folder.path().join("project")).unwrap();
    put("far.st", &program("q := n;"));
    put("project/near.st", &program("q := n;"));
    put("project/pair.toml", "[[version]]\nfiles = [\"near.st\"]\n[[version]]\nfiles = [\"../far.st\"]\n");
    let (status, said) = call(folder.path(), &["prove", "project/pair.toml"]);
    assert!(status == 0 && said.contains("pair.toml: `../far.st` lies outside of its folder: "), "{said}");
    assert_eq!(said.matches("lies outside").count(), 1, "{said}");
    std::os::unix::fs::symlink("near.st", folder.path().join("project/same.st")).unwrap();
    let (status, said) = call(folder.path(), &["check", "project"]);
    assert!(status == 1 && said.contains("`P` is declared twice"), "{said}");
    std::os::unix::fs::symlink("../far.st", folder.path().join("project/link.st")).unwrap();
    let (status, said) = call(folder.path(), &["check", "project"]);
    assert!(status == 2 && said.contains("link.st is a link that leads out of its folder"), "{said}");
}

/// What comes out does not hang on how many cores there are, the folder, the language or the time zone.
#[test]
fn the_same_bytes_everywhere() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../demo");
    let file = |name: &str| demo.join(name).display().to_string();
    let [old, hand, ladder] = ["filter_old.il", "rinse_by_hand.st", "raceway.ld"].map(file);
    let (rinse, tags, twin) = (file("rinse.il"), file("filter_tags.csv"), file("filter.toml"));
    let elsewhere = TempDir::new().unwrap();
    let calls: &[&[&str]] = &[
        &["--json", "compare", &rinse, &hand, "--effort", "0.05", "--faults", "4"],
        &["--json", "compare", &twin, "--effort", "0.02", "--faults", "4"],
        &["--json", "prove", &ladder, &ladder],
        &["--json", "changes", &rinse, &hand],
        &["translate", &rinse, "--to", "fbd"],
        &["translate", &old, "--tags", &tags, "--to", "st", "--dialect", "word-bit", "--unverified"],
        &["run", &ladder, "--for", "300ms"],
        &["draw", &ladder],
        &["check", &hand],
    ];
    for args in calls {
        let answer = |folder: &Path, threads: &str, locale: &str, zone: &str| {
            let mut command = Command::cargo_bin("honest-twin").unwrap();
            command.current_dir(folder).args(*args).timeout(Duration::from_secs(120));
            command.env("RAYON_NUM_THREADS", threads).env("LC_ALL", locale).env("TZ", zone);
            let output = command.output().unwrap();
            (output.status.code(), String::from_utf8(output.stdout).unwrap())
        };
        let first = answer(&demo, "1", "C", "UTC");
        assert!(matches!(first.0, Some(0 | 1)) && first.1.len() > 20, "{args:?}: {first:?}");
        for (threads, locale, zone) in
            [("5", "tr_TR.UTF-8", "Pacific/Auckland"), ("2", "de_DE.UTF-8", "America/St_Johns")]
        {
            let again = answer(elsewhere.path(), threads, locale, zone);
            assert!(again == first, "{args:?} with {threads} threads, {locale}, {zone}\n{}\n{}", first.1, again.1);
        }
    }
}
