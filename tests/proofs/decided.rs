//! Pairs that are hard to decide: slow counts, numbers that keep an order, codes of many steps, STOP and RUN, REAL at the edges of
//! what it holds, strings beside the rest. `prove` decides each, and `docs/decided.md` is what running says.

use crate::common::extent::Extent;
use crate::common::pages::hold;
use crate::common::version;
use crate::kept::KEPT;
use crate::rings::RINGS;
use honest_twin::lang::Language;
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::prove::{Means, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::scan::Controller;
use honest_twin::show;
use honest_twin::twin::{Effort, Stops, Twin, Verdict, compare_twin};
use rayon::prelude::*;
use std::fmt::Write;

/// What it has to come to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Wanted {
    /// Proved the same, STOP and RUN included.
    Same,
    /// Proved the same as long as no STOP is given, and not the same with it.
    ButForStop,
    /// Proved the same with a STOP at any moment but at power-up, and not the same with that.
    ButAtPowerUp,
    Differs,
    /// Undecided but for an output that is proved.
    In(&'static str),
}

use Wanted::{ButAtPowerUp, ButForStop, Differs, In, Same};

/// What it is about, variables, statements of both sides, and what it has to come to.
pub(super) type Row = (&'static str, &'static str, [&'static str; 2], Wanted);

const GROUPS: &[(&str, &[Row])] = &[
    ("Slow counts", SLOW),
    ("Steps and ranges", STEPS),
    ("Numbers that keep an order", ORDER),
    ("Ways of many steps", WAYS),
    ("Kept, or computed of what is kept", KEPT),
    ("Rings and queues", RINGS),
    ("STOP and RUN", STOPS),
    ("REAL at its edges", REALS),
    ("Strings beside the rest", STRINGS),
];

const MINUTES: &str = "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Due : BOOL; END_VAR VAR T : TON; N : INT; END_VAR";

const SLOW: &[Row] = &[
    (
        "ten hours of minutes, at least or more",
        MINUTES,
        [
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q AND N < 1000 THEN N := N + 1; END_IF; Due := N >= 600;",
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q AND N < 1000 THEN N := N + 1; END_IF; Due := N > 600;",
        ],
        Differs,
    ),
    (
        "ten hours of minutes, said in two ways",
        MINUTES,
        [
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q AND N < 1000 THEN N := N + 1; END_IF; Due := N >= 600;",
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q AND N < 1000 THEN N := N + 1; END_IF; Due := N > 599;",
        ],
        Same,
    ),
    (
        "a day of five minutes, counted up and down",
        "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Due : BOOL; END_VAR VAR T : TON; N : INT := 288; M : INT; END_VAR",
        [
            "T(IN := Run AND NOT T.Q, PT := T#5m); IF T.Q AND M < 288 THEN M := M + 1; END_IF; Due := M = 288;",
            "T(IN := Run AND NOT T.Q, PT := T#5m); IF T.Q AND N > 1 THEN N := N - 1; END_IF; Due := N = 1;",
        ],
        Differs,
    ),
    (
        "blower changed every two hours, or one change later",
        "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Second : BOOL; END_VAR VAR T : TON; N : INT; END_VAR",
        [
            "T(IN := Run AND NOT T.Q, PT := T#30s); IF T.Q THEN N := (N + 1) MOD 480; END_IF; Second := N >= 240;",
            "T(IN := Run AND NOT T.Q, PT := T#30s); IF T.Q THEN N := (N + 1) MOD 480; END_IF; Second := N > 240;",
        ],
        Differs,
    ),
    (
        "hours of minutes in two counts",
        "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Due : BOOL; END_VAR VAR T : TON; N, H : INT; END_VAR",
        [
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q THEN N := N + 1; IF N >= 60 THEN N := 0;
             IF H < 100 THEN H := H + 1; END_IF; END_IF; END_IF; Due := H >= 5;",
            "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q THEN N := N + 1; IF N >= 60 THEN N := 0;
             IF H < 100 THEN H := H + 1; END_IF; END_IF; END_IF; Due := H >= 6;",
        ],
        Differs,
    ),
];

const RINSE: &str =
    "VAR_INPUT Go, Back : BOOL; END_VAR VAR_OUTPUT Rinse : BOOL; END_VAR VAR Step : INT; Count : INT; END_VAR";

const STEPS: &[Row] = &[
    (
        "a step of two, equal or at least",
        RINSE,
        [
            "IF Go AND Step = 0 THEN Step := 1; ELSIF Back AND Step = 1 THEN Step := 0; END_IF; Rinse := Step = 1;",
            "IF Go AND Step = 0 THEN Step := 1; ELSIF Back AND Step = 1 THEN Step := 0; END_IF; Rinse := Step >= 1;",
        ],
        Same,
    ),
    (
        "steps in tens",
        RINSE,
        [
            "CASE Step OF 0: IF Go THEN Step := 10; END_IF; 10: IF Back THEN Step := 20; END_IF; 20: Step := 0; END_CASE;
             Rinse := Step = 20;",
            "CASE Step OF 0: IF Go THEN Step := 10; END_IF; 10: IF Back THEN Step := 20; END_IF; 20: Step := 0; END_CASE;
             Rinse := Step > 10;",
        ],
        Same,
    ),
    (
        "a step that is left out on one side",
        RINSE,
        [
            "CASE Step OF 0: IF Go THEN Step := 10; END_IF; 10: IF Back THEN Step := 30; END_IF; 30: Step := 0; END_CASE;
             Rinse := Step = 30;",
            "CASE Step OF 0: IF Go THEN Step := 10; END_IF; 10: IF Back THEN Step := 30; END_IF; 30: Step := 0; END_CASE;
             Rinse := Step > 15 AND Step < 25;",
        ],
        Differs,
    ),
    (
        "a count kept between two ends",
        RINSE,
        [
            "IF Go AND Count < 500 THEN Count := Count + 1; END_IF; IF Back AND Count > 0 THEN Count := Count - 1; END_IF;
             Rinse := Count = 500;",
            "IF Go AND Count < 500 THEN Count := Count + 1; END_IF; IF Back AND Count > 0 THEN Count := Count - 1; END_IF;
             Rinse := Count >= 500;",
        ],
        Same,
    ),
    (
        "a count that can pass its end by one",
        RINSE,
        [
            "IF Go AND Count < 40 THEN Count := Count + 2; END_IF; IF Back AND Count > 0 THEN Count := Count - 1; END_IF;
             Rinse := Count = 40;",
            "IF Go AND Count < 40 THEN Count := Count + 2; END_IF; IF Back AND Count > 0 THEN Count := Count - 1; END_IF;
             Rinse := Count >= 40;",
        ],
        Differs,
    ),
    (
        "an off delay, and an on delay that was armed",
        "VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Heat : BOOL; END_VAR VAR F : TOF; T : TON; Armed : BOOL; END_VAR",
        [
            "F(IN := Low, PT := T#5s); Heat := F.Q;",
            "IF Low THEN Armed := TRUE; END_IF; T(IN := NOT Low, PT := T#5s); Heat := Armed AND NOT T.Q;",
        ],
        Same,
    ),
    (
        "a ring of four bits, and a count of four",
        "VAR_INPUT Key : BOOL; END_VAR VAR_OUTPUT Third : BOOL; END_VAR
         VAR A : BOOL := TRUE; B, C, D, Was : BOOL; N : INT; END_VAR",
        [
            "IF Key AND NOT Was THEN IF A THEN A := FALSE; B := TRUE; ELSIF B THEN B := FALSE; C := TRUE;
             ELSIF C THEN C := FALSE; D := TRUE; ELSE D := FALSE; A := TRUE; END_IF; END_IF; Was := Key; Third := C;",
            "IF Key AND NOT Was THEN N := (N + 1) MOD 4; END_IF; Was := Key; Third := N = 2;",
        ],
        Same,
    ),
    (
        "a limit that differs by one behind two counts",
        "VAR_INPUT Key, Hold, Back : BOOL; Level : INT; END_VAR VAR_OUTPUT Feed : BOOL; END_VAR VAR N, K : INT; END_VAR",
        [
            "IF Key AND NOT Back AND Level = 1234 AND N < 5 THEN N := N + 1; END_IF;
             IF N = 5 AND Back AND K < 7 THEN K := K + 1; END_IF; IF NOT Key THEN K := 0; END_IF;
             Feed := K > 6 AND Level > 100;",
            "IF Key AND NOT Back AND Level = 1234 AND N < 5 THEN N := N + 1; END_IF;
             IF N = 5 AND Back AND K < 7 THEN K := K + 1; END_IF; IF NOT Key THEN K := 0; END_IF;
             Feed := K > 6 AND Level >= 100;",
        ],
        Differs,
    ),
];

const LEVELS: &str = "VAR_INPUT Mark : BOOL; Level : INT; END_VAR VAR_OUTPUT Wrong : BOOL; END_VAR
     VAR High, Low, Mid : INT; END_VAR";
const TANKS: &str = "VAR_INPUT Fill, Drain : BOOL; END_VAR VAR_OUTPUT Full : BOOL; END_VAR VAR A, B, C : INT; END_VAR";

const ORDER: &[Row] = &[
    (
        "the lowest is not above the highest",
        LEVELS,
        [
            "IF Level > High THEN High := Level; END_IF; IF Level < Low THEN Low := Level; END_IF; Wrong := FALSE;",
            "IF Level > High THEN High := Level; END_IF; IF Level < Low THEN Low := Level; END_IF; Wrong := Low > High;",
        ],
        Same,
    ),
    (
        "what was marked lies between both",
        LEVELS,
        [
            "IF Level > High THEN High := Level; END_IF; IF Level < Low THEN Low := Level; END_IF;
             IF Mark THEN Mid := Level; END_IF; Wrong := FALSE;",
            "IF Level > High THEN High := Level; END_IF; IF Level < Low THEN Low := Level; END_IF;
             IF Mark THEN Mid := Level; END_IF; Wrong := Mid > High OR Mid < Low;",
        ],
        Same,
    ),
    (
        "what was marked before it was taken in may not",
        LEVELS,
        [
            "IF Mark THEN Mid := Level; END_IF; Wrong := FALSE; IF Level > High THEN High := Level; END_IF;",
            "IF Mark THEN Mid := Level; END_IF; Wrong := Mid > High; IF Level > High THEN High := Level; END_IF;",
        ],
        Differs,
    ),
    (
        "what came in is what is there and what went out",
        TANKS,
        [
            "IF Fill AND A < 50 THEN A := A + 1; B := B + 1; END_IF; IF Drain AND B > 0 THEN B := B - 1; C := C + 1; END_IF;
             Full := A = 50;",
            "IF Fill AND A < 50 THEN A := A + 1; B := B + 1; END_IF; IF Drain AND B > 0 THEN B := B - 1; C := C + 1; END_IF;
             Full := B + C = 50;",
        ],
        Same,
    ),
    (
        "two tanks hold no more than both have room for",
        TANKS,
        [
            "IF Fill AND A + B < 40 THEN A := A + 1; END_IF; IF Drain AND A > 0 THEN A := A - 1; B := B + 1; END_IF;
             Full := A + B = 40;",
            "IF Fill AND A + B < 40 THEN A := A + 1; END_IF; IF Drain AND A > 0 THEN A := A - 1; B := B + 1; END_IF;
             Full := A + B >= 40;",
        ],
        Same,
    ),
    (
        "one is never behind the other",
        TANKS,
        [
            "IF Fill AND A < 900 THEN A := A + 1; END_IF; IF Drain AND B < A THEN B := B + 1; END_IF; Full := A = B;",
            "IF Fill AND A < 900 THEN A := A + 1; END_IF; IF Drain AND B < A THEN B := B + 1; END_IF; Full := A <= B;",
        ],
        Same,
    ),
    (
        "one is never behind the other, until it starts anew",
        TANKS,
        [
            "IF Fill AND A < 90 THEN A := A + 1; END_IF; IF Drain AND B < A THEN B := B + 1; END_IF;
             IF A = 90 THEN A := 0; END_IF; Full := A = B;",
            "IF Fill AND A < 90 THEN A := A + 1; END_IF; IF Drain AND B < A THEN B := B + 1; END_IF;
             IF A = 90 THEN A := 0; END_IF; Full := A <= B;",
        ],
        Differs,
    ),
];

const CODE: &str = "VAR_INPUT Digit : INT; END_VAR VAR_OUTPUT Open : BOOL; END_VAR VAR Step : INT; Sum : DINT; END_VAR";

const WAYS: &[Row] = &[
    (
        "a code of fifteen digits",
        CODE,
        [
            "IF Step < 15 THEN IF Digit = 17 + 3 * Step THEN Step := Step + 1; ELSE Step := 0; END_IF; END_IF;
             Open := Step = 15;",
            "IF Step < 15 THEN IF Digit = 17 + 3 * Step THEN Step := Step + 1; ELSE Step := 0; END_IF; END_IF;
             Open := Step > 15;",
        ],
        Differs,
    ),
    (
        "a code of fifteen digits, of which the last is never asked",
        CODE,
        [
            "IF Step < 15 THEN IF Digit = 17 + 3 * Step THEN Step := Step + 1; ELSE Step := 0; END_IF; END_IF;
             Open := Step = 16;",
            "IF Step < 15 THEN IF Digit = 17 + 3 * Step THEN Step := Step + 1; ELSE Step := 0; END_IF; END_IF;
             Open := Step > 15;",
        ],
        Same,
    ),
    (
        "twenty doses with a code before each third",
        "VAR_INPUT Key : BOOL; Digit : INT; END_VAR VAR_OUTPUT Empty : BOOL; END_VAR VAR N : INT; END_VAR",
        [
            "IF N < 20 AND ((N MOD 3 = 2 AND Digit = 4711 + N) OR (N MOD 3 < 2 AND Key)) THEN N := N + 1; END_IF;
             Empty := N = 20;",
            "IF N < 20 AND ((N MOD 3 = 2 AND Digit = 4711 + N) OR (N MOD 3 < 2 AND Key)) THEN N := N + 1; END_IF;
             Empty := FALSE;",
        ],
        Differs,
    ),
    (
        "a door that one scan closes again",
        "VAR_INPUT Digit : INT; END_VAR VAR_OUTPUT Open : BOOL; END_VAR VAR A, B, C : BOOL; N : INT; END_VAR",
        [
            "C := B AND Digit = 900; B := A AND Digit = 901; A := Digit = 902; IF C AND N < 6 THEN N := N + 1; END_IF;
             Open := N > 4;",
            "C := B AND Digit = 900; B := A AND Digit = 901; A := Digit = 902; IF C AND N < 6 THEN N := N + 1; END_IF;
             Open := N > 5;",
        ],
        Differs,
    ),
];

const HOLD: &str = "VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR
     VAR T, U : TON; P : TP; N : INT; Was : BOOL; Since : STOPWATCH; END_VAR VAR RETAIN Kept : STOPWATCH; Went : BOOL; END_VAR";

const STOPS: &[Row] = &[
    (
        "a timer, and a count of scans",
        HOLD,
        [
            "T(IN := Low, PT := T#100ms); Alarm := T.Q;",
            "IF NOT Low THEN N := 0; ELSIF N < 11 THEN N := N + 1; END_IF; Alarm := N > 10;",
        ],
        ButForStop,
    ),
    (
        "a timer, and the same in two halves that count together",
        HOLD,
        [
            "T(IN := Low, PT := T#100ms); Alarm := T.Q;",
            "T(IN := Low, PT := T#100ms); U(IN := Low, PT := T#50ms); Alarm := T.Q AND U.Q;",
        ],
        Same,
    ),
    (
        "a pulse, and a pulse asked a statement later",
        HOLD,
        ["P(IN := Low, PT := T#1s); Alarm := P.Q;", "P(IN := Low, PT := T#1000ms); Was := P.Q; Alarm := Was;"],
        Same,
    ),
    (
        "two halves one behind the other",
        HOLD,
        [
            "T(IN := Low, PT := T#40ms); U(IN := T.Q, PT := T#40ms); Alarm := U.Q;",
            "T(IN := Low, PT := T#80ms); Alarm := T.Q;",
        ],
        ButForStop,
    ),
    (
        "a stopwatch that runs from power-up, and a timer that begins in the first scan",
        HOLD,
        ["Alarm := Low AND SINCE(Since) >= T#1s;", "T(IN := TRUE, PT := T#1s); Alarm := Low AND T.Q;"],
        ButAtPowerUp,
    ),
    (
        "two stopwatches that run from power-up",
        HOLD,
        [
            "Alarm := Low AND SINCE(Since) >= T#1s;",
            "IF SINCE(Since) > T#999ms THEN Was := TRUE; END_IF; Alarm := Low AND Was;",
        ],
        Same,
    ),
    (
        "a stopwatch that keeps its time over power, and one that the first scan restarts",
        HOLD,
        [
            "Alarm := Low AND SINCE(Kept) >= T#1s;",
            "IF NOT Went THEN Went := TRUE; RESTART(Kept); END_IF; Alarm := Low AND SINCE(Kept) >= T#1s;",
        ],
        ButAtPowerUp,
    ),
    ("no time at all", HOLD, ["Was := Low; Alarm := Was AND Low;", "Alarm := Low;"], Same),
];

const FLOWS: &str =
    "VAR_INPUT A, B, C : REAL; Key : BOOL; END_VAR VAR_OUTPUT Sum : REAL; Over : BOOL; END_VAR VAR N : INT; END_VAR";

const REALS: &[Row] = &[
    ("a sum in another order of brackets", FLOWS, ["Sum := (A + B) + C;", "Sum := A + (B + C);"], Differs),
    ("a sum the other way round", FLOWS, ["Sum := A + B;", "Sum := B + A;"], Same),
    ("a product the other way round", FLOWS, ["Over := A * B > 100.0;", "Over := B * A > 100.0;"], Same),
    ("a limit that is met or passed", FLOWS, ["Over := A > 12.5;", "Over := A >= 12.5;"], Differs),
    ("a square that is no number", FLOWS, ["Over := A * A >= 0.0;", "Over := TRUE;"], Differs),
    ("a half, and twice the other", FLOWS, ["Over := A * 0.5 > B;", "Over := A > B * 2.0;"], Differs),
    (
        "a count beside it",
        FLOWS,
        [
            "Sum := A * 2.0 / 3.0; IF Key AND N < 5 THEN N := N + 1; END_IF; Over := N = 5;",
            "Sum := A * 2.0 / 3.0; IF N < 5 AND Key THEN N := N + 1; END_IF; Over := N >= 5;",
        ],
        Same,
    ),
];

const TEXTS: &str =
    "VAR_INPUT Order : STRING; Key : BOOL; END_VAR VAR_OUTPUT Open, Second : BOOL; END_VAR VAR N : INT; END_VAR";

const STRINGS: &[Row] = &[
    (
        "an order that is read, and a count",
        TEXTS,
        [
            "Open := Order = 'RINSE'; IF Key AND N < 5 THEN N := N + 1; END_IF; Second := N = 5;",
            "Open := NOT (Order <> 'RINSE'); IF Key AND N < 5 THEN N := N + 1; END_IF; Second := N >= 5;",
        ],
        In("Second"),
    ),
    ("an order spelt otherwise", TEXTS, ["Open := Order = 'RINSE';", "Open := Order = 'RINSE ';"], Differs),
    (
        "an order that decides a count",
        TEXTS,
        [
            "IF Order = 'DOSE' AND N < 3 THEN N := N + 1; END_IF; Open := N = 3; Second := Key;",
            "IF Order = 'DOSE' AND N < 3 THEN N := N + 1; END_IF; Open := N >= 3; Second := NOT (NOT Key);",
        ],
        In("Second"),
    ),
    (
        "an order that decides a count too many",
        TEXTS,
        [
            "IF Order = 'DOSE' AND N < 9 THEN N := N + 1; END_IF; Open := N >= 3;",
            "IF Order = 'DOSE' AND N < 9 THEN N := N + 1; END_IF; Open := N >= 4;",
        ],
        Differs,
    ),
];

/// What becomes of a row, in a line of the page.
fn decided((title, head, bodies, wanted): &Row) -> Result<String, String> {
    let [old, new] = [("old", bodies[0]), ("new", bodies[1])]
        .map(|(name, body)| version(name, &format!("PROGRAM P\n{head}\n{body}\nEND_PROGRAM\n"), Language::St));
    let twin = Twin::new(&old, &new);
    // A search finds what a STOP at power-up parts; this is about what a proof says where none has.
    let scenarios = if *wanted == ButAtPowerUp { 1 } else { Effort::default().scenarios };
    let effort = Effort { scenarios, ..Effort::default() };
    let means = Means { effort, conditions: matches!(wanted, In(_)), ..Means::default() };
    let (verdict, certificate) = prove_certified(&twin, &means, |_| true);
    let said = show::verdict(&verdict);
    let scans = |scans: u64| if scans == 1 { "1 scan".to_string() } else { format!("{scans} scans") };
    let says = match (&verdict, wanted) {
        (Verdict::Proved(proved), Same) if proved.stops == Stops::Included => {
            "the same, STOP and RUN included".to_string()
        }
        (Verdict::Proved(proved), ButAtPowerUp) if proved.stops == Stops::AfterFirstScan => {
            "the same, STOP and RUN included but at power-up".to_string()
        }
        (Verdict::Proved(proved), ButForStop) if proved.stops == Stops::Excluded => {
            "the same as long as no STOP is given".to_string()
        }
        (Verdict::Different(difference), Differs) => format!("different after {}", scans(difference.scenario.scans())),
        (Verdict::Undecided { proved, .. }, In(output)) if proved.iter().any(|p| p.outputs == [*output]) => {
            format!("undecided, {output} the same")
        }
        _ => return Err(format!("{title}: {wanted:?} is wanted\n{said}")),
    };
    if let Some(certificate) = certificate {
        let checked = recheck(&certificate.miter, &certificate.certificate);
        assert!(checked.is_ok(), "{title}: {checked:?}");
    }
    Ok(format!("| {title} | {says} |\n"))
}

#[test]
fn hard_pairs_are_decided_rightly() {
    let mut page = "# Hard pairs, decided\n\nPairs of small programs on which a search by chance or a proof by induction alone gave up once: what \
                    `prove` says of each today. Made by running it (`tests/proofs/decided.rs`), which fails where a verdict is another; every \
                    certificate is checked again.\n"
        .to_string();
    let extent = Extent::asked();
    if !extent.is_all() {
        return some_are_decided_rightly(extent);
    }
    let (mut count, mut wrong) = (0, Vec::new());
    for (group, rows) in GROUPS {
        let lines: Vec<Result<String, String>> = rows.par_iter().map(decided).collect();
        wrong.extend(lines.iter().filter_map(|line| line.clone().err()));
        let lines: Vec<String> = lines.into_iter().flatten().collect();
        count += lines.len();
        write!(page, "\n## {group}\n\n| pair | verdict |\n|---|---|\n{}", lines.concat()).unwrap();
    }
    println!("{count} pairs");
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
    assert!(count >= 40);
    hold(vec![("decided.md".to_string(), page)]);
}

/// A sample of them, each as the page has it.
fn some_are_decided_rightly(extent: Extent) {
    let page = std::fs::read_to_string("docs/decided.md").unwrap();
    let rows = extent.one_in(4, GROUPS.iter().flat_map(|(_, rows)| rows.iter()));
    let found: Vec<Result<String, String>> = rows.into_par_iter().map(decided).collect();
    for line in found {
        let line = line.unwrap_or_else(|wrong| panic!("{wrong}"));
        assert!(page.contains(&line), "docs/decided.md does not have\n{line}");
    }
}

/// Power may be lost while a controller stands still before its first scan of all: what outlasts that knows of more time than what
/// does not, so that no proof takes in a STOP at power-up here.
#[test]
fn power_lost_before_the_first_scan_is_no_power_up_like_others() {
    let version = |watch: &str| {
        let body =
            format!("IF NOT Went THEN Went := TRUE; Was := SINCE({watch}) >= T#1s; END_IF; Alarm := Was AND Low;");
        version(watch, &format!("PROGRAM P\n{HOLD}\n{body}\nEND_PROGRAM\n"), Language::St)
    };
    let versions = ["Since", "Kept"].map(version);
    let twin = Twin::new(&versions[0], &versions[1]);
    let means = Means { effort: Effort { scenarios: 1, ..Effort::default() }, ..Means::default() };
    let (verdict, _) = prove_certified(&twin, &means, |_| true);
    let Verdict::Proved(proved) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert_eq!(proved.stops, Stops::AfterFirstScan, "{}", show::verdict(&verdict));
    let mut sides = versions.each_ref().map(|version| Controller::new(version.machine()));
    let at = |ms: i64| Instant(Duration::from_millis(ms));
    for side in &mut sides {
        side.set_named("Low", &Value::Bool(true)).unwrap();
        side.stop();
        side.scan(at(0));
        side.power_cycle(at(800));
        side.run();
        side.scan(at(1_200));
    }
    let alarms = sides.map(|side| side.get_named("Alarm").unwrap());
    assert_eq!(alarms, [Value::Bool(false), Value::Bool(true)]);
}

/// What is proved as long as no STOP is given, at power-up or at all, is not the same with it: the search shows that, and so would a proof that claims more.
#[test]
fn what_stop_parts_is_parted_by_a_search() {
    for (title, head, bodies, _) in STOPS.iter().filter(|row| row.3 != Same) {
        let [old, new] =
            bodies.map(|body| version("v", &format!("PROGRAM P\n{head}\n{body}\nEND_PROGRAM\n"), Language::St));
        let verdict = compare_twin(&Twin::new(&old, &new), &Effort::default(), |_| {});
        let Verdict::Different(difference) = &verdict else { panic!("{title}: {}", show::verdict(&verdict)) };
        assert!(difference.scenario.is_stopped(), "{title}: {:?}", difference.explanation.script);
    }
}

/// Where a search finds what only a STOP parts, the difference counts; beside it stands what is proved as long as none is given.
#[test]
fn what_only_a_stop_parts_is_proved_without_one() {
    let mut parted = 0;
    for (title, head, bodies, _) in STOPS.iter().filter(|row| row.3 == ButAtPowerUp) {
        let [old, new] =
            bodies.map(|body| version("v", &format!("PROGRAM P\n{head}\n{body}\nEND_PROGRAM\n"), Language::St));
        let (verdict, certificate) = prove_certified(&Twin::new(&old, &new), &Means::default(), |_| true);
        let Verdict::Different(difference) = &verdict else { panic!("{title}: {}", show::verdict(&verdict)) };
        assert!(difference.scenario.is_stopped(), "{title}: {:?}", difference.explanation.script);
        let [all] = difference.proved.as_slice() else { panic!("{title}: {:?}", difference.proved) };
        assert!(all.others.is_empty() && all.conditions.is_empty() && !all.outputs.is_empty(), "{title}: {all:?}");
        let told = "but PROVED THE SAME for every input sequence of any length, as long as no STOP is given\n";
        assert!(show::verdict(&verdict).contains(told), "{title}: {}", show::verdict(&verdict));
        let certificate = certificate.unwrap();
        assert!(certificate.assumptions.contains("not stopped and started again"), "{}", certificate.assumptions);
        assert!(recheck(&certificate.miter, &certificate.certificate).is_ok(), "{title}");
        parted += 1;
    }
    assert!(parted >= 2, "{parted}");
}
