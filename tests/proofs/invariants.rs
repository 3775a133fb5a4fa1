//! What a proof rests on: for each kind of fact a pair of versions that agree because of it, and a neighbour in which it
//! fails. The pair is proved by the prover alone, without a search, and its certificate confirmed; the neighbour is never
//! proved, and with a search it is different.

use crate::common::extent::Extent;
use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, Stage, prove, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::show;
use honest_twin::twin::{Effort, Rule, Twin, Verdict, Version};

/// What two versions share.
struct Pair {
    /// The fact that makes them agree.
    fact: &'static str,
    /// Inputs and outputs of both.
    points: &'static str,
    /// Variables and statements.
    left: [&'static str; 2],
    right: [&'static str; 2],
    /// Statements of the right one in which the fact fails.
    wrong: &'static str,
}

const PAIRS: &[Pair] = &[
    Pair {
        fact: "a bit that is never set",
        points: "VAR_INPUT Low, Key : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR",
        left: ["VAR Test : BOOL; END_VAR", "Test := Test AND Key; Alarm := Low OR Test;"],
        right: ["", "Alarm := Low;"],
        wrong: "Alarm := Low OR Key;",
    },
    Pair {
        fact: "bits that are alike",
        points: "VAR_INPUT Call, Quit : BOOL; END_VAR VAR_OUTPUT Rinse : BOOL; END_VAR",
        left: ["VAR Due : BOOL; END_VAR", "Due := (Due OR Call) AND NOT Quit; Rinse := Due;"],
        right: [
            "VAR Wanted : BOOL; END_VAR",
            "IF Quit THEN Wanted := FALSE; ELSIF Call THEN Wanted := TRUE; END_IF; Rinse := Wanted;",
        ],
        wrong: "IF Call THEN Wanted := TRUE; ELSIF Quit THEN Wanted := FALSE; END_IF; Rinse := Wanted;",
    },
    Pair {
        fact: "bits that are opposite",
        points: "VAR_INPUT Call, Quit : BOOL; END_VAR VAR_OUTPUT Rinse : BOOL; END_VAR",
        left: ["VAR Due : BOOL; END_VAR", "Due := (Due OR Call) AND NOT Quit; Rinse := Due;"],
        right: ["VAR Idle : BOOL := TRUE; END_VAR", "Idle := (Idle AND NOT Call) OR Quit; Rinse := NOT Idle;"],
        wrong: "Idle := (Idle OR Quit) AND NOT Call; Rinse := NOT Idle;",
    },
    Pair {
        fact: "numbers that are alike",
        points: "VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Doses : INT; END_VAR",
        left: [
            "VAR N : INT; Was : BOOL; END_VAR",
            "IF Feed AND NOT Was AND N < 500 THEN N := N + 1; END_IF; Was := Feed; Doses := N;",
        ],
        right: [
            "VAR M : DINT; E : R_TRIG; END_VAR",
            "E(CLK := Feed); IF E.Q THEN M := MIN(M + 1, 500); END_IF; Doses := DINT_TO_INT(M);",
        ],
        wrong: "E(CLK := Feed); IF E.Q THEN M := MIN(M + 1, 501); END_IF; Doses := DINT_TO_INT(M);",
    },
    Pair {
        fact: "one number counts up as the other counts down",
        points: "VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Empty : BOOL; END_VAR",
        left: ["VAR N : INT; END_VAR", "IF Feed AND N < 40 THEN N := N + 1; END_IF; Empty := N = 40;"],
        right: [
            "VAR Left : INT := 40; END_VAR",
            "IF Feed AND Left > 0 THEN Left := Left - 1; END_IF; Empty := Left = 0;",
        ],
        wrong: "IF Feed AND Left > 1 THEN Left := Left - 1; END_IF; Empty := Left = 1;",
    },
    Pair {
        fact: "one number is so many times the other",
        points: "VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Enough : BOOL; END_VAR",
        left: ["VAR N : INT; END_VAR", "IF Feed AND N < 60 THEN N := N + 1; END_IF; Enough := N >= 45;"],
        right: [
            "VAR Grams : INT; END_VAR",
            "IF Feed AND Grams < 1500 THEN Grams := Grams + 25; END_IF; Enough := Grams >= 1125;",
        ],
        wrong: "IF Feed AND Grams < 1500 THEN Grams := Grams + 25; END_IF; Enough := Grams > 1125;",
    },
    Pair {
        fact: "a number is never more than its limit",
        points: "VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Over : BOOL; END_VAR",
        left: [
            "VAR N : INT; END_VAR",
            "IF Feed AND N < 20 THEN N := N + 1; ELSIF NOT Feed THEN N := 0; END_IF; Over := N > 20;",
        ],
        right: ["VAR N : INT; END_VAR", "N := 0; Over := FALSE;"],
        wrong: "N := 0; Over := Feed;",
    },
    Pair {
        fact: "one number stops where the other goes on",
        points: "VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Alarm : BOOL; END_VAR",
        left: [
            "VAR N : INT; END_VAR",
            "IF NOT Low THEN N := 0; ELSIF N < 12 THEN N := N + 1; END_IF; Alarm := N >= 12;",
        ],
        right: [
            "VAR N : INT; END_VAR",
            "IF NOT Low THEN N := 0; ELSIF N < 900 THEN N := N + 1; END_IF; Alarm := N >= 12;",
        ],
        wrong: "IF NOT Low THEN N := 0; ELSIF N < 900 THEN N := N + 1; END_IF; Alarm := N > 12;",
    },
    Pair {
        fact: "a step number says which bits are on",
        points: "VAR_INPUT Next, Home : BOOL; END_VAR VAR_OUTPUT Spray, Drain : BOOL; END_VAR",
        left: [
            "VAR Step : INT; Was : BOOL; END_VAR",
            "IF Home THEN Step := 0; ELSIF Next AND NOT Was THEN Step := (Step + 1) MOD 3; END_IF; Was := Next;
             Spray := Step = 1; Drain := Step = 2;",
        ],
        right: [
            "VAR Rest : BOOL := TRUE; A, B, Was, Push, T : BOOL; END_VAR",
            "Push := Next AND NOT Was; Was := Next;
             IF Home THEN Rest := TRUE; A := FALSE; B := FALSE;
             ELSIF Push THEN T := B; B := A; A := Rest; Rest := T; END_IF;
             Spray := A; Drain := B;",
        ],
        wrong: "Push := Next AND NOT Was; Was := Next;
             IF Home THEN Rest := TRUE; A := FALSE;
             ELSIF Push THEN T := B; B := A; A := Rest; Rest := T; END_IF;
             Spray := A; Drain := B;",
    },
    Pair {
        fact: "what does not run stands at zero",
        points: "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Late : BOOL; END_VAR",
        left: ["VAR T : TON; END_VAR", "T(IN := Run, PT := T#200ms); Late := T.Q;"],
        right: ["VAR T : TON; END_VAR", "T(IN := Run, PT := T#200ms); Late := T.Q AND Run AND T.ET >= T#200ms;"],
        wrong: "T(IN := Run, PT := T#200ms); Late := T.Q AND T.ET > T#200ms;",
    },
    Pair {
        fact: "a time is so many scans",
        points: "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Late : BOOL; END_VAR",
        left: ["VAR T : TON; END_VAR", "T(IN := Run, PT := T#200ms); Late := T.Q;"],
        right: [
            "VAR N : INT := -1; END_VAR",
            "IF NOT Run THEN N := -1; ELSIF N < 20 THEN N := N + 1; END_IF; Late := N >= 20;",
        ],
        wrong: "IF NOT Run THEN N := -1; ELSIF N < 20 THEN N := N + 1; END_IF; Late := N >= 19;",
    },
    Pair {
        fact: "timers of one start in other units",
        points: "VAR_INPUT Run : BOOL; END_VAR VAR_OUTPUT Late : BOOL; END_VAR",
        left: ["VAR T : TON; END_VAR", "T(IN := Run, PT := T#1m30s); Late := T.Q;"],
        right: ["VAR U : TON; END_VAR", "U(IN := Run, PT := T#90000ms); Late := U.Q AND Run;"],
        wrong: "U(IN := Run, PT := T#90010ms); Late := U.Q AND Run;",
    },
    Pair {
        fact: "where one bit is on another is",
        points: "VAR_INPUT Duty, Fails : BOOL; END_VAR VAR_OUTPUT Blow, Standby : BOOL; END_VAR",
        left: [
            "VAR Asked, Helps : BOOL; END_VAR",
            "IF Duty THEN Asked := TRUE; END_IF; IF Asked AND Fails THEN Helps := TRUE; END_IF; Blow := Asked; Standby := Helps;",
        ],
        right: [
            "VAR Asked, Helps : BOOL; END_VAR",
            "IF Duty THEN Asked := TRUE; END_IF; IF Asked AND Fails THEN Helps := TRUE; END_IF; Blow := Asked OR Helps; Standby := Helps AND Asked;",
        ],
        wrong: "IF Duty THEN Asked := TRUE; END_IF; IF Fails THEN Helps := TRUE; END_IF; Blow := Asked OR Helps; Standby := Helps;",
    },
    Pair {
        fact: "a word of bits is what single bits were",
        points: "VAR_INPUT Hot, Cold, Dirty : BOOL; END_VAR VAR_OUTPUT Any : BOOL; Code : BYTE; END_VAR",
        left: [
            "VAR Kept : BYTE; END_VAR",
            "Kept := Kept OR SEL(Hot, BYTE#0, BYTE#1) OR SEL(Cold, BYTE#0, BYTE#2) OR SEL(Dirty, BYTE#0, BYTE#4);
             Code := Kept; Any := Kept <> 0;",
        ],
        right: [
            "VAR H, C, D : BOOL; END_VAR",
            "H := H OR Hot; C := C OR Cold; D := D OR Dirty; Any := H OR C OR D;
             Code := SEL(H, BYTE#0, BYTE#1) OR SEL(C, BYTE#0, BYTE#2) OR SEL(D, BYTE#0, BYTE#4);",
        ],
        wrong: "H := H OR Hot; C := C OR Cold; D := D OR Dirty; Any := H OR C;
             Code := SEL(H, BYTE#0, BYTE#1) OR SEL(C, BYTE#0, BYTE#2) OR SEL(D, BYTE#0, BYTE#4);",
    },
    Pair {
        fact: "a ring of places goes round with its number",
        points: "VAR_INPUT Take : BOOL; Weight : INT; END_VAR VAR_OUTPUT Oldest : INT; END_VAR",
        left: [
            "VAR R : ARRAY[0..2] OF INT; Place : INT; END_VAR",
            "IF Take THEN R[Place] := Weight; Place := (Place + 1) MOD 3; END_IF; Oldest := R[Place];",
        ],
        right: ["VAR A, B, C : INT; END_VAR", "IF Take THEN A := B; B := C; C := Weight; END_IF; Oldest := A;"],
        wrong: "IF Take THEN A := B; B := Weight; C := Weight; END_IF; Oldest := A;",
    },
];

fn of(pair: &Pair, name: &str, [variables, body]: [&str; 2]) -> Version {
    version(name, &format!("PROGRAM P {} {variables} {body} END_PROGRAM", pair.points), Language::St)
}

fn alone() -> Means {
    Means { effort: Effort { scenarios: 0, ..Effort::default() }, ..Means::default() }
}

#[test]
fn each_kind_of_fact_has_a_pair_that_is_proved_by_it() {
    let mut open = Vec::new();
    for pair in PAIRS {
        let (left, right) = (of(pair, "left", pair.left), of(pair, "right", pair.right));
        let twin = Twin::new(&left, &right);
        let (verdict, certificate) = prove_certified(&twin, &alone(), |_| true);
        match (&verdict, certificate) {
            (Verdict::Proved(proved), Some(certificate)) => {
                assert!(proved.facts > 0 || proved.bits == 0, "{}: it rests on nothing", pair.fact);
                let checked = recheck(&certificate.miter, &certificate.certificate);
                assert!(checked.is_ok(), "{}: {checked:?}", pair.fact);
            }
            (Verdict::Undecided { .. }, _) => open.push(format!("{}: {}", pair.fact, show::verdict(&verdict))),
            _ => panic!("{}: {}", pair.fact, show::verdict(&verdict)),
        }
    }
    assert!(open.is_empty(), "{}", open.join("\n"));
}

#[test]
fn where_the_fact_fails_nothing_is_proved() {
    for pair in Extent::asked().one_in(3, PAIRS) {
        let (left, wrong) = (of(pair, "left", pair.left), of(pair, "wrong", [pair.right[0], pair.wrong]));
        let twin = Twin::new(&left, &wrong);
        let verdict = prove(&twin, &alone(), |_| true);
        assert!(!matches!(verdict, Verdict::Proved(_)), "{}: {}", pair.fact, show::verdict(&verdict));
        let verdict = prove(&twin, &Means::default(), |_| true);
        assert!(matches!(verdict, Verdict::Different(_)), "{}: {}", pair.fact, show::verdict(&verdict));
    }
}

/// The same facts as rules that one version keeps by itself, and does not keep.
#[test]
fn rules_rest_on_facts_too() {
    let rows: &[(&str, &str, &str)] = &[
        ("N <= 20", "IF On AND N < 20 THEN N := N + 1; END_IF;", "IF On AND N <= 20 THEN N := N + 1; END_IF;"),
        (
            "N >= 0",
            "IF On THEN N := 5; ELSIF N > 0 THEN N := N - 1; END_IF;",
            "IF On THEN N := 5; ELSE N := N - 1; END_IF;",
        ),
        ("A <> B", "A := On; B := NOT A;", "B := NOT A; A := On;"),
        ("NOT (A AND B)", "A := On AND NOT B; B := NOT On AND NOT A;", "A := On AND NOT B; B := On AND NOT A OR Off;"),
        (
            "N MOD 2 = 0",
            "IF On AND N < 30 THEN N := N + 2; END_IF;",
            "IF On AND N < 30 THEN N := N + 2; ELSIF Off THEN N := 7; END_IF;",
        ),
        (
            "A OR N = 0",
            "A := On; IF On THEN N := 3; ELSE N := 0; END_IF;",
            "IF On THEN N := 3; ELSIF Off THEN N := 0; END_IF; A := On;",
        ),
    ];
    for (rule, keeps, breaks) in rows {
        let one = |name: &str, body: &str| {
            let text = format!(
                "PROGRAM P VAR_INPUT On, Off : BOOL; END_VAR VAR_OUTPUT A : BOOL; B : BOOL := TRUE; N : INT; END_VAR
                 {body} END_PROGRAM"
            );
            version(name, &text, Language::St)
        };
        let (kept, broken) = (one("kept", keeps), one("broken", breaks));
        let twin = Twin::single(&kept).with_rules(vec![Rule::always(rule)]).unwrap();
        let (verdict, certificate) = prove_certified(&twin, &alone(), |_| true);
        assert!(matches!(verdict, Verdict::Proved(_)), "{rule}: {}", show::verdict(&verdict));
        let certificate = certificate.unwrap();
        assert!(recheck(&certificate.miter, &certificate.certificate).is_ok(), "{rule}");
        let twin = Twin::single(&broken).with_rules(vec![Rule::always(rule)]).unwrap();
        let verdict = prove(&twin, &alone(), |_| true);
        assert!(!matches!(verdict, Verdict::Proved(_)), "{rule}: {}", show::verdict(&verdict));
        let verdict = prove(&twin, &Means::default(), |_| true);
        assert!(matches!(verdict, Verdict::Broken(_)), "{rule}: {}", show::verdict(&verdict));
    }
}

/// Laws of reals: those that hold of every value, what is not a number and signed zeros included, are proved without a
/// search; what only holds of numbers on paper never is.
#[test]
fn laws_of_reals() {
    let rows: &[(&str, &str, bool)] = &[
        ("x + y", "y + x", true),
        ("x * y", "y * x", true),
        ("(x * y) + z", "z + (y * x)", true),
        ("SEL(x > y, z, x)", "SEL(y < x, z, x)", true),
        ("SEL(x >= y, z, x)", "SEL(y <= x, z, x)", true),
        ("SEL(x = y, z, x)", "SEL(y = x, z, x)", true),
        ("SEL(x <> y, z, x)", "SEL(y <> x, z, x)", true),
        ("x - y", "y - x", false),
        ("x / y", "y / x", false),
        ("(x + y) + z", "x + (y + z)", false),
        ("(x * y) * z", "x * (y * z)", false),
        ("x * (y + z)", "x * y + x * z", false),
        ("x + 0.0", "x", false),
        ("x - x", "0.0", false),
        ("x * 0.0", "0.0", false),
        ("x / x", "1.0", false),
        ("x - y", "-(y - x)", false),
        ("SEL(x < y, z, x)", "SEL(NOT (x >= y), z, x)", false),
        ("SEL(x = x, z, y)", "y", false),
        ("x / 3.0", "x * (1.0 / 3.0)", false),
    ];
    let extent = Extent::asked();
    for real in ["REAL", "LREAL"] {
        // The two have the same laws; of the longer one a sample is asked.
        let every = if real == "REAL" { 1 } else { 4 };
        for (left, right, holds) in extent.one_in(4, rows.iter().step_by(every)) {
            let one = |name: &str, value: &str| {
                let text = format!(
                    "PROGRAM P VAR_INPUT x, y, z : {real}; END_VAR VAR_OUTPUT o : {real}; END_VAR o := {value}; END_PROGRAM"
                );
                version(name, &text, Language::St)
            };
            let (left_version, right_version) = (one("left", left), one("right", right));
            // Conditions under which they might agree are not asked for.
            let go_on = |stage| stage != Stage::Conditions;
            let verdict = prove(&Twin::new(&left_version, &right_version), &alone(), go_on);
            let proved = matches!(verdict, Verdict::Proved(_));
            assert_eq!(proved, *holds, "{real}: {left} beside {right}: {}", show::verdict(&verdict));
        }
    }
}
