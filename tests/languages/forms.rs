//! The vectors, random programs and random lists in all four languages, along every way between them.

use crate::common::{exchanged, machine, trace, translated};
use honest_twin::lang::{Form, LANGUAGES, Language};

/// The text in another language; what is written is stable: read and written again it is the same.
fn stably(name: &str, text: &str, from: Language, to: Language) -> String {
    let out = translated(name, text, from, to);
    let again = translated(name, &out, to, to);
    assert!(out == again, "{name}: {} is not stable\n{out}\n--- and again ---\n{again}", to.ending());
    out
}

/// Translates along a way and compares the trace of each stop with the first.
fn travel(name: &str, text: &str, way: &[Language], stimulus: &str, scans: u64) {
    let expected = trace(&machine(name, text, way[0]), stimulus, scans);
    let mut here = text.to_string();
    for pair in way.windows(2) {
        let next = stably(name, &here, pair[0], pair[1]);
        let found = trace(&machine(name, &next, pair[1]), stimulus, scans);
        assert!(
            expected == found,
            "{name}: {} to {}\n{text}\n--- {} ---\n{here}\n--- {} ---\n{next}\n{}",
            pair[0].ending(),
            pair[1].ending(),
            pair[0].ending(),
            pair[1].ending(),
            first_difference(&expected, &found),
        );
        here = next;
    }
}

fn first_difference(a: &(String, Option<String>), b: &(String, Option<String>)) -> String {
    let lines = a.0.lines().zip(b.0.lines()).find(|(a, b)| a != b);
    format!("{}\n{lines:?}\n{:?} {:?}", a.0.lines().next().unwrap_or_default(), a.1, b.1)
}

/// Ways that together take every step from one language to another.
fn ways() -> Vec<Vec<Language>> {
    let mut out = Vec::new();
    for &first in LANGUAGES.iter().filter(|l| **l != Language::St) {
        out.push(vec![Language::St, first, Language::St]);
        for &second in LANGUAGES.iter().filter(|l| **l != Language::St && **l != first) {
            out.push(vec![Language::St, first, second]);
        }
    }
    out
}

#[test]
fn vectors_keep_their_traces_in_every_language() {
    let mut counts = (0, 0);
    for entry in std::fs::read_dir("tests/vectors").unwrap() {
        let folder = entry.unwrap().path();
        if !folder.is_dir() {
            continue;
        }
        let name = folder.file_name().unwrap().to_string_lossy().to_string();
        let text = std::fs::read_to_string(folder.join("prog.st")).unwrap();
        let stimulus = std::fs::read_to_string(folder.join("stim.csv")).unwrap();
        for way in ways() {
            travel(&name, &text, &way, &stimulus, 120);
            counts.1 += way.len() - 1;
        }
        counts.0 += 1;
    }
    println!("{} vectors, {} translations, none skipped", counts.0, counts.1);
    assert_eq!(counts.0, 24);
}

/// Programs that once came out wrong: a false coil beside a false contact, an IF with nothing in it, an empty network, a
/// negated output that goes nowhere, a call that parted a network, two coils before a cut, an unused value that several
/// feed.
const ONCE_WRONG: &[u64] = &[1083, 2236, 3247, 3693, 4364, 5093, 20852];

#[test]
fn random_programs_keep_their_traces_in_every_language() {
    let count: u64 = std::env::var("HONEST_TWIN_PROGRAMS").ok().and_then(|v| v.parse().ok()).unwrap_or(54);
    let first: u64 = std::env::var("HONEST_TWIN_SEED").ok().and_then(|v| v.parse().ok()).unwrap_or(0);
    for seed in (first..first + count).chain(ONCE_WRONG.iter().copied()) {
        let program = crate::common::programs::random(seed);
        for way in ways() {
            travel(&format!("seed {seed}"), &program.text, &way, &program.stimulus, 40);
        }
    }
    println!("{} programs, {} ways each, none skipped", count as usize + ONCE_WRONG.len(), ways().len());
}

/// Values that nobody uses, though computing them may be a fault; of each type, from boxes and from wires that meet.
const UNUSED: &[&str] = &[
    "IF (a AND b) OR MUX(LIMIT(0, i, 1), b, a) THEN END_IF; q := a;",
    "IF (a AND b) OR MUX(i, b, a) THEN END_IF;",
    "IF (a AND b) = MUX(LIMIT(0, i, 1), b, a) THEN END_IF; q := a;",
    "IF i > 3 THEN IF a OR (SEL(a, b, q) AND (i / i = 2)) THEN END_IF; END_IF; q := b;",
    "IF (a AND b) OR (i / i = 2) OR (i MOD i = 3) OR b THEN END_IF;",
    "IF a AND b THEN ; END_IF; IF i > 3 THEN END_IF; q := a;",
    "IF (a AND b) OR (b AND NOT a) OR i > 3 OR MUX(i, b, a) THEN END_IF; q := i = 1;",
    "IF a XOR MUX(i, b, q) THEN q := NOT q; END_IF; IF MUX(i, a, b) OR (i / 0 = 1) THEN END_IF;",
    "WHILE (a AND b) OR MUX(i, b, a) DO EXIT; END_WHILE; q := b;",
    "IF r / 2.0 > MUX(i, r, 3.5) THEN END_IF; q := r > 2.0;",
    "IF a THEN IF MUX(i, t, T#1s) > T#3s THEN END_IF; END_IF; q := b;",
    "CASE i / i OF 1: IF SEL(a, b, q) THEN END_IF; END_CASE; q := NOT q;",
];

#[test]
fn values_that_nobody_uses_keep_their_types_and_faults() {
    let stimulus =
        "time_ms,a,b,i,r,t\n0,1,1,1,1.5,500\n30,0,1,1,-2.0,4000\n60,1,0,0,7.25,0\n90,1,1,1,0.0,1\n120,1,1,7,0.0,1\n";
    let vars = "VAR_INPUT a, b : BOOL; i : INT := 1; r : REAL; t : TIME; END_VAR VAR_OUTPUT q : BOOL; END_VAR";
    for (number, body) in UNUSED.iter().enumerate() {
        let text = format!("PROGRAM P {vars} {body} END_PROGRAM");
        for way in ways() {
            travel(&format!("number {number}"), &text, &way, stimulus, 20);
        }
        exchange(&format!("number {number}"), &text, stimulus, 20);
    }
}

#[test]
fn conditions_without_effect_are_not_lost() {
    let drawn = |body: &str| {
        let text = format!("PROGRAM P VAR_INPUT a, b : BOOL; i : INT; END_VAR {body} END_PROGRAM");
        translated("unused", &text, Language::St, Language::Ld)
    };
    let both = drawn("IF a AND b THEN ; END_IF; IF i > 3 THEN END_IF;");
    let meeting = drawn("IF (a AND b) OR i > 3 OR MUX(i, b, a) THEN END_IF;");
    for (text, parts) in [(both, 2), (meeting, 3)] {
        let shown = ["+--| |---| |--+", "+--|>|--+"].map(|part| text.contains(part));
        assert_eq!(shown, [true, true], "{text}");
        // Each is a network by itself.
        assert_eq!(text.split("\n\n").filter(|part| part.starts_with("    |")).count(), parts, "{text}");
    }
}

/// The bodies of a text without the declarations: the exchange format writes each variable by itself.
fn body(text: &str) -> String {
    text.rsplit_once("END_VAR").map_or(text, |(_, body)| body).to_string()
}

/// In the exchange format and back: the same trace, the same text, and the document written again is the same.
fn exchange(name: &str, text: &str, stimulus: &str, scans: u64) {
    let expected = trace(&machine(name, text, Language::St), stimulus, scans);
    for &language in LANGUAGES {
        let as_text = translated(name, text, Language::St, language);
        let document = exchanged(name, &as_text, language, language);
        let again = exchanged(name, &document, Form::Exchange, language);
        assert!(document == again, "{name}: the document in {} is not stable", language.ending());
        let found = trace(&machine(name, &document, Form::Exchange), stimulus, scans);
        assert!(expected == found, "{name}: {} in the exchange format\n{as_text}\n{document}", language.ending());
        let text_again = translated(name, &document, Form::Exchange, Language::St);
        let found = trace(&machine(name, &text_again, Language::St), stimulus, scans);
        assert!(expected == found, "{name}: {} from the exchange format to text\n{document}", language.ending());
        let back = translated(name, &document, Form::Exchange, language);
        assert_eq!(body(&as_text), body(&back), "{name}: {} through the exchange format", language.ending());
    }
}

#[test]
fn vectors_pass_through_the_exchange_format() {
    for entry in std::fs::read_dir("tests/vectors").unwrap() {
        let folder = entry.unwrap().path();
        if folder.is_dir() {
            let text = std::fs::read_to_string(folder.join("prog.st")).unwrap();
            let stimulus = std::fs::read_to_string(folder.join("stim.csv")).unwrap();
            exchange(&folder.file_name().unwrap().to_string_lossy(), &text, &stimulus, 120);
        }
    }
    println!("24 vectors as documents in four languages, none skipped");
}

#[test]
fn random_programs_pass_through_the_exchange_format() {
    for seed in 0..20 {
        let program = crate::common::programs::random(seed);
        exchange(&format!("seed {seed}"), &program.text, &program.stimulus, 40);
    }
}
