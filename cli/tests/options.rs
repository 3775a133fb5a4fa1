//! Each option of each command, as it should be given and as it should not: the exit status, and what is said.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_path_buf()
}

/// Calls the program in the root of the repository; exit status, and all it says.
fn call(args: &[String]) -> (i32, String) {
    let output = Command::cargo_bin("honest-twin").unwrap().current_dir(root()).args(args).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (output.status.code().unwrap(), text(output.stdout) + &text(output.stderr))
}

/// A call with its words parted by blanks, its exit status, and a part of what it says.
type Row = (&'static str, i32, &'static str);

/// `OUT` stands for a folder that is gone afterwards, `PAIR` for two versions of the rinse and little effort.
fn hold(rows: &[Row]) {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().to_str().unwrap();
    let mut wrong = String::new();
    for (line, status, part) in rows {
        let line = line.replace("PAIR", "demo/rinse.il demo/rinse_by_hand.st --scenarios 30 --faults 0");
        let args: Vec<String> = line.split(' ').map(|word| word.replace("OUT", out)).collect();
        let (found, said) = call(&args);
        if found != *status || !said.contains(part) {
            wrong.push_str(&format!("{line}: {found}, expected {status} and `{part}`\n{said}\n"));
        }
    }
    assert!(wrong.is_empty(), "{wrong}");
}

const CHECK: &[Row] = &[
    ("check demo/rinse.il", 0, "no problems in 1 file"),
    ("check demo/filter_by_hand.st --given LevelHigh", 0, "no problems"),
    ("check demo/rinse.il --given RinsePump", 2, "`RinsePump` is given from outside, and a program writes it as well"),
    ("check demo/rinse.il --shown Nobody", 2, "there is no variable `Nobody` that the outside could give or see"),
    ("check demo/rinse.il --from nowhere", 2, "there is no dialect `nowhere`; there are iec, octal-coil"),
    ("check demo/filter_old.il --tags demo/filter_tags.csv --save-tags OUT/tags.csv", 0, "no problems"),
    (
        "check demo/rinse.il --tags OUT/tags.csv",
        2,
        "a tag list names the addresses of a dialect; say which with --from",
    ),
    ("check demo/rinse.il --sheet demo/rinse.csv", 2, "cannot read demo/rinse.st"),
    ("check tests/problems/pasted.st --declare", 0, "VAR"),
    ("check demo/rinse.il --declare", 0, "every name is declared"),
    ("check demo/rinse.il --json", 0, "\"problems\": []"),
    ("check demo/none.st", 2, "cannot read demo/none.st"),
    ("check", 2, "required arguments were not provided"),
];

const TRANSLATE: &[Row] = &[
    ("translate demo/rinse.il --to st --exchange --unverified", 0, "<?xml version"),
    (
        "translate tests/problems/shifted.ld --to st --unverified",
        0,
        "shifted.ld:6: this line is shifted by a character",
    ),
    (
        "prove tests/problems/shifted.ld tests/problems/shifted.ld",
        0,
        "shifted.ld:6: this line is shifted by a character",
    ),
    ("check tests/problems/shifted.ld", 0, "H12 this line is shifted by a character"),
    ("run tests/problems/pasted_rungs.ld --for 20ms", 0, "pasted_rungs.ld:1: this text declares nothing"),
    ("translate demo/rinse.il --to pl", 2, "the languages are st, il, ld, fbd"),
    ("translate demo/rinse.il", 2, "--to <TO>"),
    ("translate demo/rinse.il --to st --faithful", 2, "--dialect <DIALECT>"),
    ("translate demo/rinse.il --to st --map demo/rinse.csv", 2, "--dialect <DIALECT>"),
    ("translate demo/rinse.il --to st --protocol OUT/p.csv", 2, "--dialect <DIALECT>"),
    ("translate demo/rinse.il --to st --save-map OUT/m.csv", 2, "--dialect <DIALECT>"),
    ("translate demo/rinse.il --to st --dialect nowhere", 2, "there is no dialect `nowhere`"),
    ("translate demo/rinse.il --to ld --ledger OUT/ledger.json --unverified --out OUT/rinse.ld", 0, ""),
    ("translate demo/rinse.il --to fbd --ledger OUT/none/ledger.txt --unverified", 2, "cannot write"),
    ("translate demo/rinse.il --to fbd --unverified --json", 0, "\"files\""),
    (
        "translate demo/filter_old.il --to il --dialect word-bit --map demo/rinse.csv --unverified",
        2,
        "line 1: there is no column `old`; the header is old,symbol,comment,new,why",
    ),
];

const RUN: &[Row] = &[
    ("run demo/rinse.il --for 50ms --watch Rinses", 0, "scan,time_ms,LevelHigh"),
    ("run demo/fresh_water.st --for 50ms --plant demo/plants/raceway.toml", 0, "Raceway.Loss"),
    ("run demo/fresh_water.st --for 50ms --plant demo/plants/raceway.st", 0, "Raceway.Loss"),
    ("run demo/fresh_water.st --for 50ms --plant demo/rinse.csv", 2, "the ending names the language"),
    ("run demo/fresh_water.st --for 50ms --plant demo/filter.toml", 2, "unknown field"),
    ("run demo/fresh_water.st --for 50ms --plant demo/fresh_water.st", 1, "`FreshWaterValve` is declared twice"),
    ("run demo/rinse.il --for 5", 2, "a duration needs a unit"),
    ("run demo/rinse.il --scan 0ms", 2, "a scan takes some time"),
    ("run demo/rinse.il --scan 12ms..8ms", 2, "a range of scan times goes from the shorter to the longer"),
    ("run demo/rinse.il --scan 8ms..12ms --scans 3", 0, "0,0,0"),
    ("run demo/rinse.il --scans ten", 2, "invalid digit"),
    ("run demo/rinse.il --scans 1000000000000", 2, "scans are more than is kept at once"),
    ("run demo/rinse.il --for 2000000h", 2, "scans are more than is kept at once"),
    ("run demo/rinse.il --for 1s --scan 1ns", 2, "scans are more than is kept at once"),
    ("run demo/rinse.il --scans 2 --watch Nothing", 2, "there is no variable `Nothing` to watch"),
    ("run demo/rinse.il --scans 2 --force Nothing=1", 2, "there is no variable `Nothing` to force"),
    ("run demo/rinse.il --scans 2 --force LevelHigh=5", 2, "`5` is not a value of `LevelHigh`"),
    ("run demo/rinse.il --scans 2 --force RinsePump=1", 0, "1,10,,0,0,0,0,1"),
    ("run demo/rinse.il --scans 3 --stimulus demo/rinse.il", 2, "line 1: no line begins with `(*`"),
    ("run demo/rinse.il --scenario demo/none.scenario", 2, "cannot read demo/none.scenario"),
    ("run demo/rinse.il --scans 3 --json", 0, "\"scans\": 3"),
    ("run demo/rinse.il --scans 2 --trace OUT/none/x.csv", 2, "cannot write"),
    ("run demo/rinse.il --scans 2 --trace OUT/x.csv", 0, ""),
    ("run demo/rinse.il --scans 2 --given Alarm", 2, "a program writes it as well"),
    ("run demo/rinse.il --scans 2 --shown Rinses", 0, "Rinses"),
    ("run demo/filter_old.il --tags demo/rinse.csv --scans 1", 2, "demo/rinse.csv"),
    ("run demo/rinse.il --from octal-coil --scans 1", 1, "the list has no `LASTLINE`"),
    ("run demo/rinse.il --sheet OUT/none.toml --scans 1", 2, "cannot read"),
];

const COMPARE: &[Row] = &[
    ("compare PAIR --seed 7", 1, "DIFFERENT: ServiceDue"),
    ("compare PAIR --seed x", 2, "invalid digit"),
    ("compare PAIR --scan 8ms..12ms", 1, "8ms to 12ms a scan"),
    ("compare PAIR --right-scan 20ms", 1, "DIFFERENT: "),
    ("compare PAIR --right-scan never", 2, "invalid value 'never' for '--right-scan"),
    ("compare PAIR --scans 100", 1, "DIFFERENT: ServiceDue"),
    ("compare PAIR --effort quick", 1, "DIFFERENT: ServiceDue"),
    ("compare PAIR --effort 0.5", 1, "DIFFERENT: ServiceDue"),
    ("compare PAIR --effort great", 2, "an effort is quick, default, deep, or so many times the default"),
    ("compare PAIR --effort 0", 2, "from 0.01 to 10000"),
    ("compare demo/rinse.il demo/rinse.il --effort 0.01 --faults 3", 0, "faults seeded into"),
    (
        "compare demo/rinse.il demo/rinse.il --effort deep --faults 0 --time-limit 1s",
        0,
        "it was ended before its effort was used up",
    ),
    ("compare PAIR --time-limit soon", 2, "`soon` is not a unit of time"),
    ("compare PAIR --agree Nobody", 2, "`Nobody` is not without a partner"),
    ("compare PAIR --within 5", 2, "a duration needs a unit"),
    // Behind what is known there is a second difference, which the solver finds.
    ("compare PAIR --known ServiceDue", 1, "DIFFERENT: RinsePump"),
    (
        "compare demo/rinse.il demo/rinse.il --scenarios 30 --faults 0 --known ServiceDue",
        0,
        "SAME BUT FOR WHAT IS KNOWN",
    ),
    ("compare PAIR --known Nobody", 2, "Nobody"),
    ("compare PAIR --assume nothing", 2, "`nothing` is nothing that can be assumed; there is one-change"),
    ("compare PAIR --assume never-both=LevelHigh+Nobody", 2, "Nobody"),
    (
        "compare demo/rinse.il --scenarios 30 --faults 0 --never Nobody",
        3,
        "rule never Nobody: rinse.il: unknown name `Nobody`",
    ),
    ("compare demo/rinse.il --scenarios 30 --faults 0", 2, "name another version, or a twin file"),
    ("compare PAIR --map OUT/none.csv", 2, "cannot read"),
    ("compare PAIR --shard 3/2", 2, "a part is written K/N, from 1/N to N/N"),
    ("compare PAIR --right-sheet demo/rinse.csv", 2, "cannot read demo/rinse.st"),
    ("compare PAIR --right-from nowhere", 2, "there is no dialect `nowhere`"),
    ("compare PAIR --right-tags OUT/none.csv", 2, "say which with --from"),
    ("compare PAIR --evidence OUT/evidence --report OUT/report.html --save OUT/saved.toml", 1, "DIFFERENT"),
    ("compare OUT/saved.toml --scenarios 30 --faults 0", 1, "DIFFERENT: ServiceDue"),
    ("compare PAIR --report OUT/none/report.html", 2, "cannot write"),
    ("compare PAIR --state OUT/none/state.json", 2, "cannot write"),
    ("compare PAIR --state OUT/state.json", 1, "DIFFERENT"),
    ("compare PAIR --stimulus OUT/none/s.csv", 2, "cannot write"),
    ("compare PAIR --json", 1, "\"verdict\": \"different\""),
    ("compare demo/rinse.il demo/rinse_by_hand.st --scenarios none", 2, "invalid digit"),
    ("compare demo/rinse.il demo/rinse_by_hand.st --faults some", 2, "invalid digit"),
    ("compare demo/rinse.il demo/rinse_by_hand.st demo/rinse.il", 2, "unexpected argument"),
    ("merge OUT/none.json", 2, "cannot read"),
    ("merge demo/rinse.csv", 2, "demo/rinse.csv: "),
];

const PROVE: &[Row] = &[
    ("prove demo/rinse.il demo/rinse_by_hand.st --time-limit 20s --scan 10ms", 1, "DIFFERENT: ServiceDue"),
    ("prove demo/rinse.il demo/rinse_by_hand.st --seed 3 --stimulus OUT/d.csv", 1, "PROVED THE SAME in Alarm"),
    ("prove demo/rinse.il demo/rinse_by_hand.st --time-limit soon", 2, "`soon` is not a unit of time"),
    ("prove --recheck OUT", 2, "cannot read"),
    ("prove demo/rinse.il demo/rinse.il --certificate OUT/proof", 0, "PROVED"),
    ("prove --recheck OUT/proof", 0, ""),
    ("prove demo/rinse.il --always Alarm", 1, "BROKEN"),
    ("prove demo/rinse.il", 2, "name another version, or a twin file"),
];

const CHANGES: &[Row] = &[
    ("changes demo/hatchery demo/hatchery_new --unverified", 1, "CHANGED; whether it matters was not asked"),
    ("changes demo/hatchery demo/hatchery_new --unverified --lines", 1, "┤IN TP Q│"),
    ("changes demo/hatchery demo/hatchery", 0, "NOTHING CHANGED between demo/hatchery and demo/hatchery"),
    ("changes demo/rinse.il demo/rinse_by_hand.st --time-limit 40s --effort quick", 1, "CHANGED, AND DIFFERENT"),
    ("changes demo/filter.toml --unverified", 1, "L10 exact in network 1"),
    ("changes demo/filter.toml --unverified --scenario demo/filter.scenario --affected", 0, "demo/filter.scenario"),
    ("changes demo/hatchery", 2, "name another version, or a twin file"),
    ("changes demo/hatchery demo/none.st", 2, "cannot read demo/none.st"),
    ("changes demo/hatchery demo/hatchery_new --affected", 2, "--scenario <SCENARIO>"),
    ("changes demo/hatchery demo/hatchery_new --unverified --json", 1, "\"kind\": \"branch\""),
    (
        "changes demo/hatchery demo/hatchery_new --unverified --report OUT/c.html --junit OUT/c.xml",
        1,
        "Untouched by all that changed: Air.DutyBlower, Air.OxygenAlarm, Feed.Screw",
    ),
    ("changes demo/hatchery demo/hatchery_new --unverified --report OUT/none/c.html", 2, "cannot write"),
    ("changes demo/rinse.il demo/rinse_by_hand.st --unverified --agree Nobody", 2, "`Nobody` is not without a partner"),
];

const DRAW: &[Row] = &[
    ("draw demo/raceway.ld --width 60", 0, "PROGRAM Raceway  (ladder)"),
    ("draw demo/raceway.ld --width wide", 2, "invalid"),
    ("draw demo/raceway.ld --at many", 2, "a moment is the number of a scan or a time"),
    ("draw demo/raceway.ld --at 3 --stimulus demo/raceway.csv", 0, "after scan 3 at 30ms"),
    ("draw demo/raceway.ld --at 2h --scan 1us", 2, "scans are run at most"),
    ("draw demo/raceway.ld --beside demo/raceway.ld", 2, "name a picture with --out"),
    ("draw demo/raceway.ld --at 3 --stimulus demo/raceway.csv --out OUT/scan.svg", 0, ""),
    ("draw demo/raceway.ld --out OUT/x.gif", 2, "a drawing is written as .svg or .png"),
    ("draw demo/raceway.ld --beside demo/none.ld --out OUT/two.svg", 2, "cannot read demo/none.ld"),
    ("draw demo/raceway.ld --json", 0, "\"svg\""),
];

const TRY: &[Row] = &[
    ("try demo/rinse.il --scan 0ms", 2, "a scan takes some time"),
    ("try demo/rinse.il --lines", 0, ""),
    ("try demo/rinse.il --beside demo/none.st", 2, "cannot read demo/none.st"),
    ("try demo/rinse.il --beside demo/rinse.il --right-sheet OUT/none.toml", 2, "cannot read"),
    (
        "try demo/rinse.il --beside demo/rinse.il --right-tags OUT/none.csv",
        2,
        "a tag list names the addresses of a dialect",
    ),
    ("try demo/rinse.il --given Alarm", 2, "a program writes it as well"),
    ("try demo/filter.toml --beside demo/rinse.il", 2, "a twin file names its versions"),
];

const DIALECTS: &[Row] = &[
    ("dialects octal-coil --blocks", 0, "octal-coil: octal points"),
    ("dialects octal-coil --json", 0, "\"name\": \"octal-coil\""),
    ("dialects octal-coil --verify", 0, "octal-coil: what it says of its 6 devices was measured and is so"),
    ("dialects --verify --json", 0, "\"untrue\": []"),
    ("dialects bench --verify --from octal-coil", 2, "cannot be used with"),
    ("dialects nowhere", 2, "there is no dialect `nowhere`"),
    ("dialects one two three", 2, "unexpected value 'three'"),
    ("dialects bench --from nowhere", 2, "there is no dialect `nowhere`"),
    ("dialects bench --sheet OUT/none.toml", 2, "cannot read"),
    ("serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms", 0, "serving at 127.0.0.1:"),
    (
        "serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms --also RinseTime.Q --writable coils,inputs",
        0,
        "written at 57344",
    ),
    ("serve demo/rinse.il --listen nowhere:0 --for 30ms", 2, "cannot listen at nowhere:0"),
    ("serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms --writable all", 2, "invalid value 'all'"),
    (
        "serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms --also Nothing",
        2,
        "there is no variable `Nothing` to serve",
    ),
    ("serve demo/rinse.il --listen 127.0.0.1:0 --scan 8ms..12ms", 2, "scans at one time"),
    ("serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms --record OUT/none/s.scenario", 2, "cannot write"),
    (
        "serve demo/rinse.il --listen 127.0.0.1:0 --for 30ms --trace OUT/s.csv --clients 2 --idle 1s --stepped",
        0,
        "0 scans",
    ),
    ("serve demo/fresh_water.st --listen 127.0.0.1:0 --for 30ms --plant demo/plants/raceway.toml", 0, "Raceway.Loss"),
    ("serve demo/filter_old.il --tags demo/filter_tags.csv --listen 127.0.0.1:0 --for 30ms", 0, "2048    Rinsing"),
    ("serve demo/rinse.il --from nowhere --listen 127.0.0.1:0", 2, "there is no dialect `nowhere`"),
    ("serve demo/rinse.il --sheet OUT/none.toml --listen 127.0.0.1:0", 2, "cannot read"),
    ("serve demo/rinse.il --given Alarm --listen 127.0.0.1:0", 2, "a program writes it as well"),
    ("serve demo/rinse.il --shown Rinses --listen 127.0.0.1:0 --for 30ms", 0, "Rinses"),
    ("shadow demo/rinse.il", 2, "--device <HOST:PORT>"),
    ("shadow demo/rinse.il --device nowhere.invalid:1502 --for 50ms", 2, "nowhere.invalid:1502: "),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --period 0ms", 2, "--period is the time between two polls"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --scan 8ms..12ms", 2, "as one time"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --only-record", 2, "--record <RECORD>"),
    (
        "shadow demo/rinse.il --device 127.0.0.1:1 --for 50ms --unit 3 --within 20ms --from-power-up",
        3,
        "nothing was read",
    ),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --for 50ms --record OUT/none/t.csv", 2, "cannot write"),
    (
        "shadow demo/rinse.il --device 127.0.0.1:1 --for 50ms --record OUT/t.csv --only-record",
        0,
        "nothing was held against",
    ),
    (
        "shadow demo/rinse.il --device 127.0.0.1:1 --for 50ms --record OUT/t.scenario",
        2,
        "nothing was read, or more polls",
    ),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --from nowhere", 2, "there is no dialect `nowhere`"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --sheet OUT/none.toml", 2, "cannot read"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --tags demo/rinse.csv", 2, "a tag list names the addresses"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --given Alarm", 2, "a program writes it as well"),
    ("shadow demo/rinse.il --device 127.0.0.1:1 --shown Rinses --for 50ms", 3, "UNDECIDED"),
    ("fly", 2, "unrecognized subcommand 'fly'"),
    ("--version", 0, "honest-twin "),
];

#[test]
fn reading_writing_and_drawing() {
    hold(CHECK);
    hold(TRANSLATE);
    hold(DRAW);
    hold(DIALECTS);
    hold(TRY);
}

#[test]
fn running_comparing_and_proving() {
    hold(RUN);
    hold(COMPARE);
    hold(PROVE);
    hold(CHANGES);
}

/// Whoever adds an option adds a row: each is given in a table here or in the tests beside this one.
#[test]
fn no_option_is_left_out() {
    let mut given: BTreeSet<String> = BTreeSet::new();
    let tables = [CHECK, TRANSLATE, RUN, COMPARE, PROVE, CHANGES, DRAW, DIALECTS, TRY];
    given.extend(tables.into_iter().flatten().flat_map(|(line, ..)| line.split(' ')).map(ToString::to_string));
    for file in ["commands.rs", "pages.rs", "serving.rs", "trying.rs"] {
        let text = std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests").join(file)).unwrap();
        given.extend(text.split(['"', ' ', '=']).map(ToString::to_string));
    }
    for command in [
        "check",
        "translate",
        "run",
        "compare",
        "merge",
        "prove",
        "changes",
        "draw",
        "dialects",
        "serve",
        "shadow",
        "try",
    ] {
        let (status, help) = call(&[command.to_string(), "--help".to_string()]);
        assert_eq!(status, 0, "{help}");
        let options = help.lines().filter_map(|line| {
            let line = line.trim_start();
            let word = line.split(' ').find(|word| word.starts_with("--")).filter(|_| line.starts_with('-'))?;
            Some(word.trim_end_matches(|c: char| !c.is_ascii_lowercase()).to_string())
        });
        for option in options.filter(|option| option != "--help") {
            assert!(given.contains(&option), "{command} {option} is given in no test");
        }
    }
}
