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
        &[],
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
        if !first.map_or(traps.is_empty(), |trap| traps.contains(&trap)) {
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

/// What a pair of versions is said to look like: the traps in the order in which they are named, with why.
fn said(versions: [&honest_twin::twin::Version; 2]) -> Option<Vec<(u8, String)>> {
    let twin = Twin::new(versions[0], versions[1]);
    let verdict = compare_twin(&twin, &Effort { faults: 0, ..Effort::default() }, |_| {});
    let Verdict::Different(d) = &verdict else { return None };
    Some(d.explanation.hints.iter().map(|hint| (hint.trap, hint.why.clone())).collect())
}

/// The traps that the pairs of tests/pairs are about; of most it is none of the thirty.
const DUE: &[(&str, &[u8])] = &[
    ("A contact of the other type", &[14]),
    ("The other side of a latch dominant", &[13]),
    ("Counting the level of a key", &[7]),
    ("Below or at most", &[20]),
    ("Equal to six, or at least", &[9]),
    ("The lamp above its timer", &[5]),
    ("Set and reset in the other order", &[13]),
    ("A dose count that survives, and one that does not", &[18]),
    ("A key that is on at power-up counts, or not", &[29]),
    ("A preset changed below the timer", &[12]),
    ("Half of a negative temperature", &[28]),
    ("Windows that leave an instant", &[20]),
    ("Three keys at once", &[15]),
    ("A timer that resets itself, asked before and after", &[6]),
    ("A count that ends at 9999", &[8]),
    ("Loss of power in the middle of a dose", &[18]),
    ("A word that wraps, and one that stays", &[19]),
    ("Twenty-four hours of a blower, hour by hour", &[9]),
    ("A sum that overflows", &[19]),
    ("An edge in a branch that is left and entered again", &[24]),
];

/// Of each trap its pair, and of each of the fifty pairs that differ: the hints that are given are those that are due, and
/// no others.
#[test]
fn hints_are_those_that_are_due() {
    let traps =
        (1..=30u8).filter_map(|n| Some((format!("trap {n}"), vec![n], crate::common::pages::traps::versions(n)?)));
    let levels = ["easy", "fair", "nasty"].into_iter().flat_map(crate::common::pages::found::pairs);
    let pairs = levels.filter(|pair| !pair.is_same()).map(|pair| {
        let due = DUE.iter().find(|(title, _)| *title == pair.title).map_or(Vec::new(), |(_, due)| due.to_vec());
        (pair.title.clone(), due, pair.versions())
    });
    let (mut out, mut wrong, mut found) = (String::new(), Vec::new(), 0);
    for (title, due, [left, right]) in traps.chain(pairs) {
        let hints = said([&left, &right]);
        found += usize::from(hints.is_some());
        let hints = hints.unwrap_or_default();
        if hints.is_empty() == due.is_empty() && hints.iter().all(|(trap, _)| due.contains(trap)) {
            let hints: Vec<String> = hints.iter().map(|(trap, why)| format!("{trap}, {why}")).collect();
            out.push_str(&format!(
                "{title}: {}\n",
                if hints.is_empty() { "none".to_string() } else { hints.join("; ") }
            ));
        } else {
            wrong.push(format!("{title}: {hints:?}, due {due:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(found >= 60, "{found} differences were found");
    insta::assert_snapshot!(out);
}
