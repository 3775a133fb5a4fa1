//! What a difference is said to look like: for each kind of mistake a pair that has it, and the trap that is named first. All
//! that is said of each stands in a snapshot, to be read.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::ScanTime;
use honest_twin::twin::{Effort, Twin, Verdict, compare_twin};

/// What is wrong, the traps that may be named first, variables, and the two bodies.
type Row = (&'static str, &'static [u8], &'static str, [&'static str; 2]);

const ROWS: &[Row] = &[
    (
        "a preset in ticks of another length",
        &[1],
        "VAR T : TON; END_VAR",
        ["T(IN := Low, PT := T#300ms); Alarm := T.Q;", "T(IN := Low, PT := T#3s); Alarm := T.Q;"],
    ),
    (
        "a timer of another kind",
        &[2, 3, 6],
        "VAR T : TON; U : TOF; END_VAR",
        ["T(IN := Low, PT := T#100ms); Alarm := T.Q;", "U(IN := Low, PT := T#100ms); Alarm := U.Q;"],
    ),
    (
        "a count that is asked for equal",
        &[9],
        "VAR N : INT; E : R_TRIG; END_VAR",
        [
            "E(CLK := Low); IF E.Q THEN N := N + 1; END_IF; Alarm := N = 3;",
            "E(CLK := Low); IF E.Q THEN N := N + 1; END_IF; Alarm := N >= 3;",
        ],
    ),
    (
        "more than the preset beside at least the preset",
        &[9, 20],
        "VAR N : INT; E : R_TRIG; END_VAR",
        [
            "E(CLK := Low); IF E.Q THEN N := N + 1; END_IF; Alarm := N > 3;",
            "E(CLK := Low); IF E.Q THEN N := N + 1; END_IF; Alarm := N >= 3;",
        ],
    ),
    (
        "a count input that is on for more than one scan",
        &[7, 24, 25, 8],
        "VAR N : INT; E : R_TRIG; END_VAR",
        ["E(CLK := Low); IF E.Q THEN N := N + 1; END_IF; Doses := N;", "IF Low THEN N := N + 1; END_IF; Doses := N;"],
    ),
    (
        "the other side of a latch wins",
        &[13],
        "VAR S : SR; R : RS; END_VAR",
        ["S(S1 := Low, R := Key); Alarm := S.Q1;", "R(S := Low, R1 := Key); Alarm := R.Q1;"],
    ),
    ("an input that is asked for the opposite", &[14], "", ["Alarm := Low;", "Alarm := NOT Low;"]),
    (
        "a value that survives the power",
        &[18],
        "VAR N : INT; END_VAR VAR RETAIN K : INT; END_VAR",
        [
            "IF Low AND N < 9 THEN N := N + 1; END_IF; K := 0; Doses := N;",
            "IF Low AND K < 9 THEN K := K + 1; END_IF; N := 0; Doses := K;",
        ],
    ),
    (
        "a window that is strict at one end",
        &[20],
        "",
        ["Alarm := Level > 5 AND Level < 20;", "Alarm := Level >= 5 AND Level <= 20;"],
    ),
    (
        "a chain of decisions beside several",
        &[21],
        "",
        [
            "IF Low THEN Doses := 1; ELSIF Key THEN Doses := 2; ELSE Doses := 0; END_IF;",
            "Doses := 0; IF Low THEN Doses := 1; END_IF; IF Key THEN Doses := 2; END_IF;",
        ],
    ),
    (
        "an edge that is not looked at in every scan",
        &[22, 24],
        "VAR E : R_TRIG; END_VAR",
        [
            "E(CLK := Low); Alarm := E.Q AND Key;",
            "IF Key THEN E(CLK := Low); Alarm := E.Q; ELSE Alarm := FALSE; END_IF;",
        ],
    ),
    (
        "a timer that is not executed",
        &[25, 5, 6],
        "VAR T : TON; END_VAR",
        [
            "T(IN := Low, PT := T#100ms); Alarm := T.Q AND Key;",
            "IF Key THEN T(IN := Low, PT := T#100ms); Alarm := T.Q; ELSE Alarm := FALSE; END_IF;",
        ],
    ),
    (
        "a division that rounds another way",
        &[28],
        "",
        ["Doses := Level / 4;", "Doses := REAL_TO_INT(INT_TO_REAL(Level) / 4.0);"],
    ),
    (
        "another value to begin with",
        &[29],
        "VAR N : INT; M : INT := 1; END_VAR",
        ["Doses := N; IF Low THEN N := 5; M := 5; END_IF;", "Doses := M; IF Low THEN N := 5; M := 5; END_IF;"],
    ),
    (
        "what is decided a scan later",
        &[14, 22],
        "VAR Mid : BOOL; END_VAR",
        ["Mid := Low AND NOT Key; Alarm := Mid;", "Alarm := Mid; Mid := Low AND NOT Key;"],
    ),
    (
        "a number that overflows",
        &[19, 28],
        "VAR D : DINT; END_VAR",
        ["Alarm := Level + Level > 30000;", "D := Level; D := D + D; Alarm := D > 30000;"],
    ),
];

#[test]
fn a_difference_looks_like_the_mistake_that_was_made() {
    let (mut out, mut wrong) = (String::new(), Vec::new());
    for (mistake, traps, variables, bodies) in ROWS {
        let [left, right] = [("old", bodies[0]), ("new", bodies[1])].map(|(name, body)| {
            let points =
                "VAR_INPUT Low, Key : BOOL; Level : INT; END_VAR VAR_OUTPUT Alarm : BOOL; Doses : INT; END_VAR";
            version(name, &format!("PROGRAM P {points} {variables} {body} END_PROGRAM"), Language::St)
        });
        let twin = Twin::new(&left, &right);
        let verdict = compare_twin(&twin, &Effort { faults: 0, ..Effort::default() }, |_| {});
        let Verdict::Different(d) = &verdict else { panic!("{mistake}: {}", honest_twin::show::verdict(&verdict)) };
        out.push_str(&format!("{mistake}: {}\n", d.explanation.script.join("; ")));
        for hint in &d.explanation.hints {
            out.push_str(&format!("    {} {}: {}; to mend it, {}\n", hint.trap, hint.title, hint.why, hint.mend));
            assert!((1..=30).contains(&hint.trap) && !hint.why.is_empty() && !hint.mend.is_empty());
        }
        let first = d.explanation.hints.first().map(|hint| hint.trap);
        if !first.is_some_and(|trap| traps.contains(&trap)) {
            wrong.push(format!(
                "{mistake}: {first:?} first, not one of {traps:?}\n{}",
                honest_twin::show::verdict(&verdict)
            ));
        }
    }
    assert!(wrong.is_empty(), "{}\n{out}", wrong.join("\n"));
    insta::assert_snapshot!(out);
}

/// Versions that scan at times of their own look like that, whatever else is the matter.
#[test]
fn other_scan_times_are_named() {
    let text = "PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT N : INT; END_VAR
        IF Low AND N < 1000 THEN N := N + 1; END_IF; END_PROGRAM";
    let [left, right] = ["old", "new"].map(|name| version(name, text, Language::St));
    let times = [10, 35].map(|ms| ScanTime::Fixed(Duration::from_millis(ms)));
    let verdict = compare_twin(&Twin::new(&left, &right).free(times), &Effort::default(), |_| {});
    let Verdict::Different(d) = &verdict else { panic!("{}", honest_twin::show::verdict(&verdict)) };
    assert!(d.explanation.hints.iter().any(|hint| hint.trap == 26), "{:?}", d.explanation.hints);
}
