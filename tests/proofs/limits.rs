//! A proof that may take only so much work: what it has no work left for it does not claim, and what it claims others can check.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::show;
use honest_twin::twin::{Effort, Twin, Verdict};

/// What it is about, variables, statements, and what gives `Due`: two forms that are the same, and one that is not.
type Case = (&'static str, &'static str, &'static str, [&'static str; 3]);

const CASES: &[Case] = &[
    (
        "counts that go on together",
        "VAR_INPUT Key, Drain : BOOL; END_VAR VAR Shots : CTU; n : INT; END_VAR",
        "Shots(CU := Key, R := Drain, PV := 20); IF Key AND n < 600 THEN n := n + 1; END_IF;",
        ["n > 130 OR Shots.Q", "NOT (NOT Shots.Q AND n <= 130)", "n > 131 OR Shots.Q"],
    ),
    (
        "steps in a CASE",
        "VAR_INPUT Key : BOOL; END_VAR VAR s, n : INT; END_VAR",
        "n := n + 1;
         CASE s OF
         0: IF Key AND n > 3 THEN s := 1; n := 0; END_IF;
         1: IF NOT Key THEN s := 2; n := 0; END_IF;
         2: IF n > 5 THEN s := 3; n := 0; END_IF;
         3: s := 0;
         END_CASE;",
        ["s = 2 AND n > 4", "n >= 5 AND NOT (s <> 2)", "s = 2 AND n > 5"],
    ),
    (
        "sums of real numbers",
        "VAR_INPUT Flow, Rate : REAL; END_VAR VAR Sum : REAL; END_VAR",
        "Sum := LIMIT(-100.0, Sum + Flow * 0.5, 100.0);",
        ["Sum + Rate > 20.5", "20.5 < Rate + Sum", "Sum + Rate >= 20.5"],
    ),
    (
        "quotients of inputs",
        "VAR_INPUT Flow, Size : INT; END_VAR VAR Last : INT; END_VAR",
        "IF Size <> 0 THEN Last := Flow / Size + Flow MOD 7; END_IF;",
        ["Last > 12", "NOT (Last <= 12)", "Last > 13"],
    ),
    (
        "products of 64 bits",
        "VAR_INPUT Flow : LINT; Size : LINT (0..7); END_VAR VAR Last : LINT; END_VAR",
        "Last := Flow * Size;",
        ["Last + LINT#3 > LINT#40", "LINT#40 < LINT#3 + Last", "Last + LINT#3 > LINT#41"],
    ),
    (
        "a timer and a latch",
        "VAR_INPUT Key, Drain : BOOL; END_VAR VAR Soak : TON; Wet : SR; END_VAR",
        "Soak(IN := Key, PT := T#2s); Wet(S1 := Soak.Q, R := Drain);",
        ["Wet.Q1 AND NOT Drain", "NOT (Drain OR NOT Wet.Q1)", "Wet.Q1 OR Drain"],
    ),
];

/// Work from none to more than any of them takes, and without a limit.
const WORK: [Option<u64>; 7] = [Some(0), Some(100), Some(1_000), Some(10_000), Some(100_000), Some(100_000_000), None];

/// The prover alone, with so much work.
fn means(work: Option<u64>) -> Means {
    let effort = Effort { scenarios: 0, ..Effort::default() };
    Means { effort, work, conflicts: 500, conditions: false, directed: false }
}

#[test]
fn less_work_claims_less() {
    let mut proved = [0; WORK.len()];
    for (title, variables, body, dues) in CASES {
        let [old, new, other] = dues.map(|due| {
            let text = format!("PROGRAM P {variables} VAR_OUTPUT Due : BOOL; END_VAR {body} Due := {due}; END_PROGRAM");
            version("v", &text, Language::St)
        });
        for (number, work) in WORK.into_iter().enumerate() {
            let (verdict, certificate) = prove_certified(&Twin::new(&old, &new), &means(work), |_| true);
            match &verdict {
                Verdict::Proved(_) => {
                    let certificate = certificate.unwrap();
                    let checked = recheck(&certificate.miter, &certificate.certificate);
                    assert!(checked.is_ok(), "{title}, {work:?}: {checked:?}");
                    proved[number] += 1;
                }
                Verdict::Undecided { reason, .. } => {
                    assert!(certificate.is_none() && work.is_some(), "{title}, {work:?}: {reason}");
                    let is_refused = reason == "versions so large take more than the work that a proof may take";
                    assert!(is_refused || reason.contains("0 of 1 outputs are proved"), "{title}, {work:?}: {reason}");
                    assert!(is_refused || work != Some(0), "{title}: {reason}");
                }
                other => {
                    panic!("{title}, {work:?}: {}", show::verdict(other))
                }
            }
            // What differs is proved the same by none of them, with some work or much.
            if !matches!(work, Some(10_000 | 100_000_000)) {
                continue;
            }
            let (verdict, certificate) = prove_certified(&Twin::new(&old, &other), &means(work), |_| true);
            assert!(!matches!(verdict, Verdict::Proved(_)), "{title}, {work:?}: {}", show::verdict(&verdict));
            assert!(certificate.is_none(), "{title}, {work:?}");
        }
    }
    println!("{proved:?} of {} proved with {WORK:?}", CASES.len());
    let [none, .., much, all] = proved;
    assert_eq!((none, much, all), (0, CASES.len(), CASES.len()), "{proved:?}");
}
