//! Blocks of the standard in function block diagrams: what becomes a latch or an edge block, and what looks like one and is none.

use crate::common::{checked, version};
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Verdict, compare};

/// What is drawn: the language it comes from, declarations beside the points, the body, and the blocks that it must have.
type Row = (&'static str, Language, &'static str, &'static str, &'static [&'static str]);

const ROWS: &[Row] = &[
    (
        "set, then reset",
        Language::St,
        "",
        "IF Low THEN Alarm := TRUE; END_IF; IF Ack THEN Alarm := FALSE; END_IF;",
        &["RS"],
    ),
    (
        "reset, then set",
        Language::St,
        "",
        "IF Ack THEN Alarm := FALSE; END_IF; IF Low THEN Alarm := TRUE; END_IF;",
        &["SR"],
    ),
    (
        "set by a rise",
        Language::St,
        "VAR M : BOOL; END_VAR",
        "IF Low AND NOT M THEN Alarm := TRUE; END_IF; M := Low; IF Ack THEN Alarm := FALSE; END_IF;",
        &["R_TRIG", "RS"],
    ),
    (
        "a memory that is a latch",
        Language::St,
        "VAR Keep : BOOL; END_VAR",
        "IF Low AND NOT Key THEN Keep := TRUE; END_IF; IF Ack OR Key THEN Keep := FALSE; END_IF; Alarm := Keep AND Low;",
        &["RS"],
    ),
    (
        "coils of a ladder",
        Language::Ld,
        "",
        "
    |  Low   Key   Alarm  |
    +--| |---|/|----(S)---+

    |  Ack   Alarm  |
    +--| |----(R)---+
",
        &["RS"],
    ),
    ("instructions", Language::Il, "", "LD Low\nS Alarm\nLD Ack\nR Alarm\n", &["RS"]),
    (
        "a contact that asks for a rise",
        Language::Ld,
        "",
        "
    |  Low   Key   Alarm  |
    +--|P|---| |----( )---+
",
        &["R_TRIG"],
    ),
    (
        "a contact that asks for a fall: the block answers in its first call",
        Language::Ld,
        "",
        "
    |  Low   Key   Alarm  |
    +--|N|---| |----( )---+
",
        &[],
    ),
    ("set twice", Language::St, "", "IF Low THEN Alarm := TRUE; END_IF; IF Key THEN Alarm := TRUE; END_IF;", &[]),
    (
        "written a third time",
        Language::St,
        "",
        "IF Low THEN Alarm := TRUE; END_IF; IF Ack THEN Alarm := FALSE; END_IF; IF Key THEN Alarm := NOT Alarm; END_IF;",
        &[],
    ),
    (
        "a reset that asks for what is set",
        Language::St,
        "",
        "IF Low THEN Alarm := TRUE; END_IF; IF Ack AND Alarm THEN Alarm := FALSE; END_IF;",
        &[],
    ),
    (
        "on to begin with",
        Language::St,
        "VAR Keep : BOOL := TRUE; END_VAR",
        "IF Low THEN Keep := TRUE; END_IF; IF Ack THEN Keep := FALSE; END_IF; Alarm := Keep;",
        &[],
    ),
    (
        "kept over a loss of power",
        Language::St,
        "VAR RETAIN Keep : BOOL; END_VAR",
        "IF Low THEN Keep := TRUE; END_IF; IF Ack THEN Keep := FALSE; END_IF; Alarm := Keep;",
        &[],
    ),
    (
        "something between the two",
        Language::St,
        "",
        "IF Low THEN Alarm := TRUE; END_IF; Lamp := Alarm; IF Ack THEN Alarm := FALSE; END_IF;",
        &[],
    ),
    (
        "located, so that others may write it",
        Language::St,
        "VAR Keep AT %MX0.1 : BOOL; END_VAR",
        "IF Low THEN Keep := TRUE; END_IF; IF Ack THEN Keep := FALSE; END_IF; Alarm := Keep;",
        &[],
    ),
    (
        "a memory that is asked twice",
        Language::St,
        "VAR M : BOOL; END_VAR",
        "Alarm := Low AND NOT M; Lamp := M; M := Low;",
        &[],
    ),
    (
        "a memory that is written under a condition",
        Language::St,
        "VAR M : BOOL; END_VAR",
        "Alarm := Low AND NOT M; IF Key THEN M := Low; END_IF;",
        &[],
    ),
];

fn program(vars: &str, body: &str) -> String {
    format!(
        "PROGRAM P\nVAR_INPUT Low, Ack, Key : BOOL; END_VAR\nVAR_OUTPUT Alarm, Lamp : BOOL; END_VAR\n{vars}\n{body}\nEND_PROGRAM\n"
    )
}

/// What is drawn has the blocks that it must have, no others, and does the same; so does what is made of it in every language.
#[test]
fn latches_and_edges_are_blocks_where_that_is_the_same() {
    for (title, from, vars, body, blocks) in ROWS {
        let text = program(vars, body);
        let drawn = translate(&checked("p", &text, *from), Language::Fbd).unwrap().files[0].text.to_string();
        for block in ["R_TRIG", "RS", "SR", "F_TRIG"] {
            let declared = drawn.contains(&format!(": {block};"));
            assert_eq!(declared, blocks.contains(&block), "{title}: {block}\n{drawn}");
        }
        let source = version("source", &text, *from);
        for to in [Language::Fbd, Language::St, Language::Il, Language::Ld] {
            let there = translate(&checked("p", &drawn, Language::Fbd), to).unwrap().files[0].text.to_string();
            let verdict = compare(
                &source,
                &version("drawn", &there, to),
                &Effort { scenarios: 150, ..Effort::default() },
                |_| {},
            );
            assert!(matches!(verdict, Verdict::Tested(_)), "{title}\n{there}\n{}", show::verdict(&verdict));
        }
    }
}

/// What one half of a way adds and the other takes away is in neither text: the ledger says only what is there.
#[test]
fn the_ledger_names_nothing_that_neither_text_has() {
    for (title, from, vars, body, _) in ROWS {
        for to in [Language::Fbd, Language::Ld, Language::Il, Language::St] {
            let text = program(vars, body);
            let done = translate(&checked("p", &text, *from), to).unwrap();
            for entry in &done.ledger {
                let names = entry.reason.split('`').skip(1).step_by(2);
                let known = |name: &str| text.contains(name) || done.files[0].text.contains(name);
                assert!(names.clone().any(known), "{title} to {to:?}: {} {}", entry.code, entry.reason);
            }
        }
    }
}

/// In a ladder what a box answers as BOOL goes to a coil, a number to the variable itself; with EN the box keeps its outputs.
#[test]
fn answers_of_boxes_are_coils() {
    let vars = "VAR T : TON; Left : TIME; END_VAR";
    for (body, coils) in [
        ("T(IN := Low, PT := T#1s, Q => Alarm, ET => Left);", 1),
        ("T(IN := Low, PT := T#1s, Q => Alarm); Lamp := T.Q;", 2),
        ("T(IN := Low, PT := T#1s, ET => Left); Lamp := Left > T#300ms;", 1),
        ("IF Key THEN T(IN := Low, PT := T#1s, Q => Alarm); END_IF;", 0),
    ] {
        let text = program(vars, body);
        let ladder = translate(&checked("p", &text, Language::St), Language::Ld).unwrap().files[0].text.to_string();
        assert_eq!(ladder.matches("( )").count(), coils, "{ladder}");
        let [left, right] = [version("text", &text, Language::St), version("ladder", &ladder, Language::Ld)];
        let verdict = compare(&left, &right, &Effort { scenarios: 150, ..Effort::default() }, |_| {});
        assert!(matches!(verdict, Verdict::Tested(_)), "{ladder}\n{}", show::verdict(&verdict));
    }
}
