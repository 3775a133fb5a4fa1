//! The ledger: each of its codes is reached, says why in a sentence, and is true. What it calls exact or carried is seen to
//! do the same; what differs is foretold by the name of the output in which it shows.

use crate::common::checked;
use crate::common::dialects::{families, programs, read_in};
use honest_twin::check::Checked;
use honest_twin::dialect::library;
use honest_twin::lang::{Form, Language};
use honest_twin::translate::{Entry, Grade, Mode, foretold, migrate, translate};
use honest_twin::twin::{Effort, Twin, Verdict, Version, compare_twin};
use std::collections::BTreeMap;

/// All codes of `translate::ledger`.
const CODES: [&str; 23] = [
    "L01", "L02", "L03", "L04", "L05", "L06", "L10", "L11", "L12", "L13", "L14", "L15", "L16", "L17", "L18", "L19",
    "L20", "L21", "L22", "L23", "L24", "L25", "L26",
];

fn effort() -> Effort {
    Effort { scenarios: 200, scans: 60_000, faults: 0, ..Effort::default() }
}

/// What a program is about, its text and language, the language it is written in, and the codes that it must raise.
type Row = (&'static str, Language, &'static str, Language, &'static [&'static str]);

const BETWEEN_LANGUAGES: &[Row] = &[
    (
        "a value that CASE compares more than once",
        Language::St,
        "PROGRAM P VAR_INPUT Level : INT; END_VAR VAR_OUTPUT Rate : INT; END_VAR
         CASE Level / 10 OF 0: Rate := 1; 1, 2: Rate := 2; 3..5: Rate := 4; ELSE Rate := 0; END_CASE; END_PROGRAM",
        Language::Il,
        &["L01"],
    ),
    (
        "a shared part that needs a name",
        Language::St,
        "PROGRAM P VAR_INPUT Level, Add : INT; END_VAR VAR_OUTPUT Dose : INT; END_VAR
         Dose := (Level + Add) * (Level - Add); END_PROGRAM",
        Language::Il,
        &[],
    ),
    (
        "two branches that jump into each other",
        Language::Il,
        "PROGRAM P\nVAR_INPUT Low, Ack : BOOL; END_VAR\nVAR_OUTPUT Alarm : BOOL; N : INT; END_VAR
         LD 0\nST N\nLD Low\nJMPC inner\nouter:\nLD N\nADD 1\nST N\nGE 5\nJMPC done\ninner:\nLD N\nADD 2\nST N\nLT 9\nJMPC outer
         done:\nLD N\nGT 6\nST Alarm\nEND_PROGRAM",
        Language::St,
        &["L02"],
    ),
    (
        "code behind a jump",
        Language::Il,
        "PROGRAM P\nVAR_INPUT Low : BOOL; END_VAR\nVAR_OUTPUT Alarm : BOOL; END_VAR
         LD Low\nST Alarm\nJMP end\nLDN Low\nST Alarm\nend:\nLD Low\nST Alarm\nEND_PROGRAM",
        Language::St,
        &[],
    ),
    (
        "an operand that can fault and whose value nobody uses",
        Language::Il,
        "PROGRAM P\nVAR_INPUT Flow, Tanks : INT; END_VAR\nVAR_OUTPUT Share : INT; END_VAR
         LD Flow\nDIV Tanks\nLD Flow\nST Share\nEND_PROGRAM",
        Language::St,
        &["L04"],
    ),
    (
        "a minus sign",
        Language::St,
        "PROGRAM P VAR_INPUT Flow : INT; END_VAR VAR_OUTPUT Back : INT; END_VAR Back := -Flow; END_PROGRAM",
        Language::Fbd,
        &["L05"],
    ),
    (
        "a memory of the scan before",
        Language::St,
        "PROGRAM P VAR_INPUT Rinse : BOOL; END_VAR VAR_OUTPUT Count : INT; END_VAR VAR Before : BOOL; END_VAR
         IF Rinse AND NOT Before THEN Count := Count + 1; END_IF; Before := Rinse; END_PROGRAM",
        Language::Ld,
        &["L06"],
    ),
];

fn told(entries: &[Entry]) -> String {
    entries.iter().map(|e| format!("    {} {}: {}\n", e.code, e.grade.word(), e.reason)).collect()
}

/// Asks of a ledger that it is true: without an entry that foretells a difference nothing differs, and with one the output
/// that differs is named.
fn is_true(title: &str, source: &Checked, target: &Checked, entries: &[Entry]) -> bool {
    let versions = [("source", source), ("target", target)].map(|(n, c)| Version::new(n, c.clone()).unwrap());
    let twin = Twin::new(&versions[0], &versions[1]);
    match compare_twin(&twin, &effort(), |_| {}) {
        Verdict::Different(d) => {
            let named: Vec<_> = foretold(entries).collect();
            assert!(
                !named.is_empty(),
                "{title}: {} differs, and the ledger does not say so\n{}",
                d.name,
                told(entries)
            );
            true
        }
        Verdict::Tested(_) => false,
        other => panic!("{title}: {}", honest_twin::show::verdict(&other)),
    }
}

#[test]
fn between_languages() {
    let mut out = String::new();
    for (title, from, text, to, codes) in BETWEEN_LANGUAGES {
        let source = checked("p", text, *from);
        let done = translate(&source, *to).unwrap();
        let entries = &done.ledger;
        for code in *codes {
            assert!(entries.iter().any(|e| e.code == *code), "{title}: no {code}\n{}", told(entries));
        }
        let target = checked("p", &done.files[0].text, *to);
        let differs = is_true(title, &source, &target, entries);
        assert!(!differs, "{title}: between languages nothing differs");
        out.push_str(&format!(
            "{title}, {} to {}\n{}{}\n",
            from.ending(),
            to.ending(),
            told(entries),
            done.files[0].text
        ));
    }
    insta::assert_snapshot!(out);
}

/// Each entry stands at a place of its source, in a sentence, and its code has one weight or is told in several.
#[test]
fn every_code_is_reached_and_says_why() {
    // Of each code: the first reason for each weight, and how often it was raised.
    let mut first: BTreeMap<(&str, Grade), (String, usize)> = BTreeMap::new();
    let mut note = |title: &str, source: &Checked, entries: &[Entry]| {
        for entry in entries {
            let text = &source.project().sources[entry.source.file.0 as usize].text;
            assert!(text.get(entry.source.start as usize..entry.source.end as usize).is_some(), "{title}: {entry:?}");
            let reason = entry.reason.trim();
            assert!(!reason.is_empty() && !reason.ends_with('.') && !reason.contains('\n'), "{title}: {reason:?}");
            assert!(entry.trap.is_none_or(|trap| (1..=30).contains(&trap)), "{title}: {entry:?}");
            first.entry((entry.code, entry.grade)).or_insert_with(|| (format!("{title}: {reason}"), 0)).1 += 1;
        }
    };
    for (title, from, text, to, _) in BETWEEN_LANGUAGES {
        let source = checked("p", text, *from);
        note(title, &source, &translate(&source, *to).unwrap().ledger);
    }
    for from in families() {
        for (program, text, language) in programs(from) {
            let source = read_in(from, &program, &text, language);
            for to in families().filter(|to| *to != from) {
                for mode in [Mode::Native, Mode::Faithful] {
                    let form = (Language::St, Form::from(Language::St));
                    let done = migrate(&source, &library(to).unwrap(), form, mode, None).unwrap();
                    note(&format!("{from}/{program} to {to}"), &source, &done.translation.ledger);
                }
            }
        }
    }
    let missing: Vec<&&str> = CODES.iter().filter(|code| !first.keys().any(|(c, _)| c == *code)).collect();
    let unknown: Vec<_> = first.keys().filter(|(code, _)| !CODES.contains(code)).collect();
    let table: String = first
        .iter()
        .map(|((code, grade), (reason, times))| format!("{code} {} ({times} times) {reason}\n", grade.word()))
        .collect();
    println!("{table}");
    assert!(unknown.is_empty(), "codes that nobody has listed: {unknown:?}");
    assert!(missing.is_empty(), "codes that nothing raises: {missing:?}\n{table}");
    insta::assert_snapshot!(table);
}

/// A project that is written in its own language again has an empty ledger, and so has one that is plain.
#[test]
fn what_is_one_to_one_has_no_entry() {
    let text = "PROGRAM P VAR_INPUT A, B : BOOL; END_VAR VAR_OUTPUT Q : BOOL; END_VAR Q := A AND NOT B; END_PROGRAM";
    let source = checked("p", text, Language::St);
    for to in [Language::St, Language::Il, Language::Ld, Language::Fbd] {
        let done = translate(&source, to).unwrap();
        assert!(done.ledger.is_empty(), "{to:?}: {}", told(&done.ledger));
        let back = translate(&checked("p", &done.files[0].text, to), Language::St).unwrap();
        assert!(back.ledger.is_empty(), "{to:?}: {}", told(&back.ledger));
        assert_eq!(back.files[0].text, translate(&source, Language::St).unwrap().files[0].text, "{to:?}");
    }
}
