//! Routines: parts of a list without parameters that share all points and devices; read, said in every language, moved to
//! the open standard and home again.

use crate::listings::{read, with_layout};
use fastrand::Rng;
use honest_twin::check::Checked;
use honest_twin::dialect::library;
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::model::sheet::Library;
use honest_twin::show;
use honest_twin::translate::{Mode, migrate, translate};
use honest_twin::twin::{Effort, Verdict, Version, compare};
use std::fmt::Write;
use std::sync::Arc;

/// The words of a family, as far as the lists here need them.
struct Words {
    family: &'static str,
    load: [&'static str; 2],
    ops: [&'static str; 3],
    store: &'static str,
    latch: [&'static str; 2],
    drive: &'static str,
    end: &'static str,
    input: fn(usize) -> String,
    output: fn(usize) -> String,
    bit: fn(usize) -> String,
    timer: fn(usize) -> String,
}

const FAMILIES: [Words; 3] = [
    Words {
        family: "octal-coil",
        load: ["LD", "LDN"],
        ops: ["AND", "ANDN", "OR"],
        store: "ST",
        latch: ["S", "R"],
        drive: "ST",
        end: "LASTLINE",
        input: |n| format!("INLET{n}"),
        output: |n| format!("OUTLET{n}"),
        bit: |n| format!("FLAG{n}"),
        timer: |n| format!("DELAY{n}"),
    },
    Words {
        family: "word-bit",
        load: ["READ", "READNOT"],
        ops: ["BOTH", "BOTHNOT", "EITHER"],
        store: "WRITE",
        latch: ["CATCH", "DROP"],
        drive: "RUNOUT",
        end: "FINISH",
        input: |n| format!("SIG000.{n:02}"),
        output: |n| format!("CMD000.{n:02}"),
        bit: |n| format!("MARK000.{n:02}"),
        timer: |n| format!("DUE{n:03}"),
    },
    Words {
        family: "point-block",
        load: ["FROM", "FROMN"],
        ops: ["ALSO", "ALSON", "ORELSE"],
        store: "INTO",
        latch: ["HOLD", "FREE"],
        drive: "TRIGGER",
        end: "STOPHERE",
        input: |n| format!("PTIN{}", n + 1),
        output: |n| format!("PTOUT{}", n + 1),
        bit: |n| format!("PTBIT{}", n + 1),
        timer: |n| format!("TBLOCK{}", n + 1),
    },
];

const ROUTINES: &str = "[routines]\nbegin = 'PART'\nend = 'PARTEND'\ncall = 'DOPART'\ncall-if = 'DOPARTIF'\n";

fn sheet(words: &Words) -> Arc<Library> {
    with_layout(words.family, ROUTINES).unwrap_or_else(|p| panic!("{p:#?}"))
}

/// Some instructions; `callable` are the routines that may be called from here.
fn piece(rng: &mut Rng, words: &Words, callable: std::ops::Range<usize>, out: &mut String) {
    let mention = |rng: &mut Rng| match rng.u8(..4) {
        0 | 1 => (words.input)(rng.usize(..4)),
        2 => (words.bit)(rng.usize(..4)),
        _ => (words.output)(rng.usize(..3)),
    };
    let _ = writeln!(out, "    {} {}", words.load[rng.usize(..2)], mention(rng));
    for _ in 0..rng.usize(..3) {
        let _ = writeln!(out, "    {} {}", words.ops[rng.usize(..3)], mention(rng));
    }
    let target = if rng.bool() { (words.bit)(rng.usize(..4)) } else { (words.output)(rng.usize(..3)) };
    match rng.u8(..6) {
        0 => drop(writeln!(out, "    {} {target}", words.latch[rng.usize(..2)])),
        1 => {
            let timer = (words.timer)(rng.usize(..3));
            let _ = writeln!(out, "    {} {timer}, {}", words.drive, rng.u8(2..9));
            let _ = writeln!(out, "    {} {timer}\n    {} {target}", words.load[0], words.store);
        }
        2 | 3 if !callable.is_empty() => {
            let word = if rng.bool() { "DOPART" } else { "DOPARTIF" };
            let _ = writeln!(out, "    {word} {}", rng.usize(callable));
        }
        _ => drop(writeln!(out, "    {} {target}", words.store)),
    }
}

fn random(seed: u64, words: &Words) -> String {
    let mut rng = Rng::with_seed(seed);
    let count = rng.usize(1..4);
    let mut out = String::new();
    for _ in 0..rng.usize(3..8) {
        piece(&mut rng, words, 0..count, &mut out);
    }
    // Each is called at least by the main part.
    for routine in 0..count {
        let _ = writeln!(out, "    {} {}\n    DOPARTIF {routine}", words.load[0], (words.input)(routine));
    }
    let _ = writeln!(out, "    {}", words.end);
    for routine in 0..count {
        let _ = writeln!(out, "PART {routine}");
        for _ in 0..rng.usize(1..5) {
            piece(&mut rng, words, routine + 1..count, &mut out);
        }
        out.push_str("PARTEND\n");
    }
    out
}

fn version(name: &str, checked: &Checked) -> Version {
    Version::new(name, checked.clone()).unwrap()
}

fn same(left: &Checked, right: &Checked, title: &str) {
    let effort = Effort { scenarios: 40, scans: 8_000, faults: 0, ..Effort::default() };
    let verdict = compare(&version("old", left), &version("new", right), &effort, |_| {});
    assert!(matches!(verdict, Verdict::Tested(_)), "{title}\n{}", show::verdict(&verdict));
}

#[test]
fn random_projects_of_routines_go_out_and_come_home() {
    let mut ways = 0;
    for words in &FAMILIES {
        let own = sheet(words);
        for seed in 0..12 {
            let text = random(seed, words);
            let title = format!("{} {seed}\n{text}", words.family);
            let source = read(&own, "main", &text, Language::Il).unwrap_or_else(|p| panic!("{title}\n{p}"));
            for &language in LANGUAGES {
                let written = translate(&source, language).unwrap().files[0].text.clone();
                let again =
                    read(&own, "main", &written, language).unwrap_or_else(|p| panic!("{title}\n{written}\n{p}"));
                same(&source, &again, &format!("{title}\n{written}"));
                ways += 1;
            }
            let list = translate(&source, Language::Il).unwrap().files[0].text.clone();
            assert!(list.contains("PART") && !list.contains("FUNCTION_BLOCK"), "{list}");
            let st = (Language::St, Language::St.into());
            let out = migrate(&source, &library("iec").unwrap(), st, Mode::Faithful, None)
                .unwrap_or_else(|e| panic!("{title}\n{e}"));
            same(&source, &out.checked, &format!("{title}\n{}", out.translation.files[0].text));
            ways += 1;
        }
    }
    println!("{ways} ways");
    assert_eq!(ways, 180);
}

#[test]
fn a_routine_reads_as_it_was_written() {
    let words = &FAMILIES[0];
    let own = sheet(words);
    let text = "; the duty blower, then what both need\n    LD INLET0\n    DOPARTIF 12\n    DOPART Alarm\n    LASTLINE\n\
                (* duty and standby *)\nPART 12\n    LDN INLET1\n    JMPC Out\n    LD INLET2\n    ST DELAY0, 20\n    LD DELAY0\n\
                    ST OUTLET0\nOut:\n    LD OUTLET0\n    ST FLAG3\nPARTEND\nPART Alarm\n    LDN FLAG3\n    ST OUTLET1\nPARTEND\n";
    let text = text.replace("; the duty blower, then what both need\n", "(* the duty blower, then what both need *)\n");
    let source = read(&own, "blowers", &text, Language::Il).unwrap_or_else(|p| panic!("{p}"));
    let mut out = String::new();
    for &language in LANGUAGES {
        let _ = writeln!(out, "=== {}\n{}", language.title(), translate(&source, language).unwrap().files[0].text);
    }
    let st = (Language::St, Language::St.into());
    let moved = migrate(&source, &library("iec").unwrap(), st, Mode::Native, None).unwrap();
    let _ = writeln!(out, "=== iec\n{}", moved.translation.files[0].text);
    insta::assert_snapshot!(out);
}

#[test]
fn what_is_wrong_with_routines_is_said_at_its_place() {
    let own = sheet(&FAMILIES[0]);
    let cases = [
        "LD INLET0\nDOPARTIF 7\nLASTLINE\n",
        "LD INLET0\nDOPART\nLASTLINE\n",
        "LD INLET0\nDOPART 1\nLASTLINE\nPART 1\nLD INLET1\nST OUTLET0\n",
        "DOPART 1\nLASTLINE\nPART 1\nDOPART 1\nPARTEND\n",
        "DOPART 1\nLASTLINE\nPART 1\nDOPART 2\nPARTEND\nPART 2\nDOPART 1\nPARTEND\n",
        "DOPART 1\nLASTLINE\nPART 1\nPART 2\nPARTEND\n",
        "DOPART 1\nLASTLINE\nPARTEND\n",
        "DOPART 1\nLASTLINE\nPART 1\nLD INLET0\nST OUTLET0\nPARTEND\nPART 1\nPARTEND\n",
        "LD INLET0\nJMPC Inside\nDOPART 1\nLASTLINE\nPART 1\nInside:\nLD INLET0\nST OUTLET0\nPARTEND\n",
    ];
    let mut out = String::new();
    for text in cases {
        let _ = writeln!(out, "--- {}", text.escape_debug());
        out.push_str(&read(&own, "main", text, Language::Il).err().unwrap_or_else(|| "read\n".to_string()));
    }
    insta::assert_snapshot!(out);
}

/// What a routine writes is read behind it, in a ladder too, where a coil would run behind the contacts of its rung.
#[test]
fn a_routine_runs_before_what_stands_behind_it() {
    let own = sheet(&FAMILIES[0]);
    let text = "    LD INLET0\n    JMPCN Past\n    DOPART 1\n    LD FLAG3\n    AND INLET1\n    ST OUTLET0\nPast:\n    LD FLAG3\n    ST OUTLET1\n\
                    LASTLINE\nPART 1\n    LD INLET2\n    ST FLAG3\nPARTEND\n";
    let source = read(&own, "main", text, Language::Il).unwrap_or_else(|p| panic!("{p}"));
    for &language in LANGUAGES {
        let written = translate(&source, language).unwrap().files[0].text.clone();
        let again = read(&own, "main", &written, language).unwrap_or_else(|p| panic!("{written}\n{p}"));
        same(&source, &again, &written);
    }
}
