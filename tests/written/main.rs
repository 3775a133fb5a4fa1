//! How each form of a program is written in the other languages, a row for each: what a translation reads like is as much a
//! promise as what it does. Each row is also run beside its source.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

#[path = "../common/mod.rs"]
mod common;

mod blocks;
mod circuits;
mod currents;
mod decisions;
mod jumps;
mod ladders;
mod lists;
mod texts;
mod tours;

use common::{checked, version};
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Verdict, Version, compare};
use std::collections::HashSet;

/// What the row is about, the body as it stands, and the body that is written, behind the variables that it needs besides.
type Row = (&'static str, &'static str, &'static str);

/// The names that rows speak of.
const NAMES: &str = "VAR_INPUT
    Low, High, Rinse, Ack : BOOL;
    Flow, Level, Size : INT;
    Share : REAL;
    Span : TIME;
    Marks : WORD;
END_VAR
VAR_OUTPUT
    Valve, Alarm, Heat : BOOL;
    Count, Sum : INT;
    Mean : REAL;
    Left : TIME;
    Bits : WORD;
END_VAR
VAR
    Soak : TON;
    Drain : TOF;
    Puff : TP;
    Seen : R_TRIG;
    Gone : F_TRIG;
    Shots : CTU;
    Stock : CTD;
    Latch : SR;
    Hold : RS;
    i : INT;
    Mem : BOOL;
    Tank : ARRAY[0..3] OF INT;
END_VAR
";

fn program(body: &str) -> String {
    format!("PROGRAM P\n{NAMES}{body}\nEND_PROGRAM\n")
}

/// The lines of declarations, and what stands behind them.
fn parts(text: &str) -> (Vec<String>, String) {
    let (names, body) = text.rsplit_once("END_VAR\n").unwrap();
    let body = body.trim_end().strip_suffix("END_PROGRAM").unwrap();
    let names = names.lines().map(|line| line.trim().to_string()).collect();
    (names, body.trim_matches('\n').trim_end().to_string())
}

/// A body with nothing in it that the language takes.
fn nothing(language: Language) -> &'static str {
    match language {
        Language::St => ";",
        Language::Il => "LD Low\nST Mem",
        Language::Ld | Language::Fbd => "",
    }
}

/// A body in another language, with the declarations it needs besides above it, and its ledger below.
fn written(title: &str, body: &str, from: Language, to: Language) -> String {
    let source = checked(title, &program(body), from);
    let done = translate(&source, to).unwrap();
    let text = &done.files[0].text;
    let (names, body) = parts(text);
    let empty = translate(&checked("empty", &program(nothing(from)), from), to).unwrap().files[0].text.clone();
    let known: HashSet<String> = parts(&empty).0.into_iter().collect();
    let mut out: String = names.iter().filter(|n| !known.contains(*n)).map(|n| format!("{n}\n")).collect();
    out.push_str(&body);
    for entry in &done.ledger {
        out.push_str(&format!("\n{} {}", entry.code, entry.grade.word()));
    }
    let left = Version::new("source", source).unwrap();
    let right = version("written", text, to);
    let effort = Effort { scenarios: 64, scans: 6_000, faults: 0, ..Effort::default() };
    let verdict = compare(&left, &right, &effort, |_| {});
    assert!(matches!(verdict, Verdict::Tested(_)), "{title}: {}\n{text}", show::verdict(&verdict));
    out
}

/// Holds each row to what it says; what differs is printed as it would have to stand here.
fn hold(rows: &[Row], from: Language, to: Language) {
    let mut wrong = 0;
    for (title, body, expected) in rows {
        let found = written(title, body, from, to);
        if found.trim() != expected.trim() {
            wrong += 1;
            println!("<<<{title}\n{found}\n>>>");
        }
    }
    assert_eq!(wrong, 0, "of {} rows from {} to {}", rows.len(), from.ending(), to.ending());
}
