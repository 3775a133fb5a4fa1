//! What scenarios drawn by chance do not meet and the solver does: arithmetic that must come out at one number, codes of several
//! digits, the top of a long word. Each pair has a neighbour in which nothing differs, of which the solver says so.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, compare_solving, finish_solving, prove};
use honest_twin::show;
use honest_twin::twin::{Activity, Effort, Rule, Search, Stops, Twin, Verdict, Version, compare_twin};

/// What it is about, variables, statements of both, and of each side what it gives to `Open`.
type Pair = (&'static str, &'static str, &'static str, [&'static str; 2]);

const PAIRS: &[Pair] = &[
    (
        "a sum of two inputs",
        "VAR_INPUT Flow, Level : INT; END_VAR",
        "",
        ["Flow + Level = 12345 AND Flow > 100 AND Level > 100", "FALSE"],
    ),
    (
        "a product of two inputs",
        "VAR_INPUT Flow, Level : DINT; END_VAR",
        "",
        ["Flow * Level = 9991 AND Flow > 1 AND Level > 1", "FALSE"],
    ),
    ("a square", "VAR_INPUT Flow : DINT; END_VAR", "", ["Flow * Flow = 2371600 AND Flow < 0", "FALSE"]),
    ("a polynomial", "VAR_INPUT Flow : DINT; END_VAR", "", ["Flow * Flow * Flow + 7 * Flow = 912766", "FALSE"]),
    ("two remainders at once", "VAR_INPUT Flow : INT; END_VAR", "", ["Flow MOD 97 = 13 AND Flow MOD 89 = 40", "FALSE"]),
    (
        "a code of four digits",
        "VAR_INPUT Key : BOOL; Digit : USINT (0..9); END_VAR VAR Edge : R_TRIG; Code : DINT; END_VAR",
        "Edge(CLK := Key); IF Edge.Q THEN Code := Code * 10 + Digit; END_IF;",
        ["Code = 4711", "FALSE"],
    ),
    (
        "the top bit of a long word",
        "VAR_INPUT Marks : LWORD; END_VAR",
        "",
        ["(Marks AND 16#8000_0000_0000_00FF) = 16#8000_0000_0000_00A5", "FALSE"],
    ),
    ("the top half of a long word", "VAR_INPUT Marks : LWORD; END_VAR", "", ["SHR(Marks, 32) = 16#CAFE_F00D", "FALSE"]),
    (
        "a product of a converted time",
        "VAR_INPUT Flow : INT; END_VAR",
        "",
        ["INT_TO_TIME(Flow) * 7 = T#86s471ms", "FALSE"],
    ),
    (
        "a sum behind a count",
        "VAR_INPUT Key, Drain : BOOL; Flow, Level : INT; END_VAR VAR Shots : CTU; END_VAR",
        "Shots(CU := Key, R := Drain, PV := 20);",
        ["Shots.Q AND Flow + Level = 12345 AND Flow > 100 AND Level > 100", "FALSE"],
    ),
    (
        "a sum behind a timer",
        "VAR_INPUT Key : BOOL; Flow, Level : INT; END_VAR VAR Soak : TON; END_VAR",
        "Soak(IN := Key, PT := T#2s);",
        ["Soak.Q AND Flow - Level = 23456 AND Level < -100", "FALSE"],
    ),
    (
        "one of two sums",
        "VAR_INPUT Flow, Level, Size : INT; END_VAR",
        "",
        [
            "Flow + Level = 12345 AND Level + Size = -2345 AND Level > 100",
            "Flow + Level = 12345 AND Level + Size = -2346 AND Level > 100",
        ],
    ),
];

fn sides(pair: &Pair) -> [Version; 2] {
    let (_, variables, body, opens) = pair;
    [("old", opens[0]), ("new", opens[1])].map(|(name, opens)| {
        let text =
            format!("PROGRAM P\n{variables}\nVAR_OUTPUT Open : BOOL; END_VAR\n{body}\nOpen := {opens};\nEND_PROGRAM\n");
        version(name, &text, Language::St)
    })
}

fn effort() -> Effort {
    Effort { scenarios: 300, scans: 60_000, ..Effort::default() }
}

#[test]
fn what_chance_does_not_meet_is_solved() {
    let mut by_chance = 0;
    for pair in PAIRS {
        let [old, new] = sides(pair);
        let twin = Twin::new(&old, &new);
        by_chance += usize::from(matches!(compare_twin(&twin, &effort(), |_| {}), Verdict::Different(_)));
        let verdict = compare_solving(&twin, &effort(), |_| {});
        let Verdict::Different(difference) = &verdict else { panic!("{}: {}", pair.0, show::verdict(&verdict)) };
        assert_eq!(difference.name, "Open", "{}", pair.0);
        println!("{}: {} scans, {:?}", pair.0, difference.scenario.scans(), difference.explanation.script);
        // Either side against itself: the same, and the solver has looked as well.
        let same = compare_solving(&Twin::new(&new, &new), &effort(), |_| {});
        let Verdict::Tested(tested) = &same else { panic!("{}: {}", pair.0, show::verdict(&same)) };
        let solved = tested.solver.unwrap();
        assert_eq!((solved.from_power_up, solved.open, solved.proved), (12, 0, 1), "{}: {solved:?}", pair.0);
        let said = show::verdict(&same);
        assert!(said.contains("solver:   the output is proved the same as long as no STOP is given\n"), "{said}");
    }
    println!("{by_chance} of {} are met by chance as well", PAIRS.len());
    assert!(by_chance * 2 < PAIRS.len(), "{by_chance}");
}

/// Where little of the effort does not find what differs, it says that it gave up, or claims no more scans than there are before.
#[test]
fn less_effort_claims_less() {
    let mut found = [0, 0, 0];
    for pair in PAIRS {
        let [old, new] = sides(pair);
        let twin = Twin::new(&old, &new);
        let all = Effort::default().work;
        let verdicts = [all / 1_000_000, all / 10_000, all].map(|work| {
            let effort = Effort { scenarios: 8, scans: 4_000, work, faults: 0, ..Effort::default() };
            compare_solving(&twin, &effort, |_| {})
        });
        let first = verdicts.iter().find_map(|verdict| match verdict {
            Verdict::Different(difference) => Some(difference.scan.0),
            _ => None,
        });
        for (found, verdict) in found.iter_mut().zip(&verdicts) {
            match verdict {
                Verdict::Different(_) => *found += 1,
                Verdict::Tested(tested) => {
                    let solved = tested.solver.unwrap_or_default();
                    let is_honest = first.is_none_or(|scan| solved.from_power_up as u64 <= scan) && solved.proved == 0;
                    assert!(is_honest, "{}: {solved:?}, and it differs in scan {first:?}", pair.0);
                }
                other => {
                    panic!("{}: {}", pair.0, show::verdict(other))
                }
            }
        }
    }
    println!("{found:?} of {} found with more and more effort", PAIRS.len());
    assert!(found.is_sorted() && found[0] < found[2] && found[2] >= 10, "{found:?}");
}

/// From power-up twelve scans reach no door that takes two seconds; from a state that scenarios reached one scan does.
#[test]
fn states_that_were_reached_are_asked_from() {
    for title in ["a sum behind a count", "a sum behind a timer"] {
        let pair = PAIRS.iter().find(|p| p.0 == title).unwrap();
        let [old, new] = sides(pair);
        let twin = Twin::new(&old, &new);
        let mut steps = Vec::new();
        let verdict = compare_solving(&twin, &effort(), |p| steps.push((p.step, p.done, p.of)));
        let Verdict::Different(difference) = &verdict else { panic!("{title}: {}", show::verdict(&verdict)) };
        assert!(difference.scenario.scans() > 12, "{title}: {:?}", difference.explanation.script);
        assert!(steps.iter().any(|(step, _, of)| *step == Activity::Solving && *of > 1), "{title}: {steps:?}");
    }
}

/// From the states that scenarios reached only what is not proved is asked; what differs among it is found, and nothing is claimed of
/// what a STOP does.
#[test]
fn what_is_proved_is_not_asked_from_states() {
    let program = |clock: &str, door: &str| {
        format!(
            "PROGRAM P
             VAR_INPUT Key, Drain : BOOL; Flow, Level : INT; END_VAR
             VAR_OUTPUT Pump, Warn, Due, Open : BOOL; END_VAR
             VAR Soak, Hold : TON; Cool : TOF; n, s, m : INT; END_VAR
             Soak(IN := Key AND NOT Drain, PT := T#2s);
             Pump := Soak.Q AND NOT Drain;
             Cool(IN := Flow > 20, PT := T#3s);
             IF Flow > 100 THEN Warn := TRUE; ELSIF Drain OR NOT Cool.Q THEN Warn := FALSE; END_IF;
             {clock}
             Hold(IN := Key, PT := T#2s);
             Open := {door};
             END_PROGRAM"
        )
    };
    let ticks = "IF Key AND n < 600 THEN n := n + 1; END_IF; Due := n > 130;";
    let minutes = "IF Key AND m < 10 THEN s := s + 1; IF s > 59 THEN s := 0; m := m + 1; END_IF; END_IF; Due := m * 60 + s > 130;";
    let sum = "Hold.Q AND Flow - Level = 23456 AND Level < -100";
    let [old, other, door] = [(ticks, "Key"), (minutes, "NOT (NOT Key)"), (ticks, sum)]
        .map(|(clock, door)| version("v", &program(clock, door), Language::St));
    // The count is the same in another form, which takes facts that are not sought here.
    let verdict = compare_solving(&Twin::new(&old, &other), &effort(), |_| {});
    let Verdict::Tested(tested) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    let solved = tested.solver.unwrap();
    assert!(solved.proved == 3 && solved.states > 2 && solved.open == 0, "{solved:?}");
    let said = show::verdict(&verdict);
    assert!(
        said.contains("solver:   3 of 4 outputs are proved the same as long as no STOP is given; no inputs part the others within 12"),
        "{said}"
    );
    // A tenth of the effort asks less and proves as much; a hundredth does not pay for all of that.
    for (share, proved) in [(10, 3..=3), (100, 1..=3)] {
        let little = Effort { work: Effort::default().work / share, ..effort() };
        let verdict = compare_solving(&Twin::new(&old, &other), &little, |_| {});
        let Verdict::Tested(tested) = &verdict else { panic!("{}", show::verdict(&verdict)) };
        let less = tested.solver.unwrap();
        assert!(less.states < solved.states && proved.contains(&less.proved), "1/{share} of the effort: {less:?}");
    }

    let closed = version("v", &program(ticks, "FALSE"), Language::St);
    let verdict = compare_solving(&Twin::new(&door, &closed), &effort(), |_| {});
    let Verdict::Different(difference) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert!(difference.name == "Open" && difference.scenario.scans() > 12, "{:?}", difference.explanation.script);

    // A STOP parts a timer from a count of scans, and nothing else does: what is said of it does not speak of STOP.
    let [timer, count] = ["timer", "count"].map(|name| {
        let body = if name == "timer" { "Soak(IN := TRUE, PT := T#2s); Pump := Soak.Q;" } else { "IF n < 201 THEN n := n + 1; END_IF; Pump := n > 200;" };
        let text = format!("PROGRAM P VAR_INPUT Key : BOOL; END_VAR VAR_OUTPUT Pump : BOOL; END_VAR VAR Soak : TON; n : INT; END_VAR {body} END_PROGRAM");
        version(name, &text, Language::St)
    });
    let twin = Twin::new(&timer, &count);
    let said = show::verdict(&compare_solving(&twin, &effort(), |_| {}));
    let is_told = said.contains("solver:   the output is proved the same as long as no STOP is given\n");
    assert!(said.starts_with("DIFFERENT") || is_told, "{said}");
    let verdict = prove(&twin, &Means::default(), |_| true);
    let is_claimed = matches!(&verdict, Verdict::Proved(proved) if proved.stops != Stops::Excluded);
    assert!(!is_claimed, "{}", show::verdict(&verdict));
}

/// A rule of one version is put before the solver too, and a search that was ended asks nothing more.
#[test]
fn rules_are_asked_and_a_halt_is_kept() {
    let [old, _] = sides(&PAIRS[0]);
    let twin = Twin::single(&old).with_rules(vec![Rule::never("Open")]).unwrap();
    let verdict = compare_solving(&twin, &effort(), |_| {});
    assert!(matches!(verdict, Verdict::Broken(_)), "{}", show::verdict(&verdict));

    let [old, new] = sides(&PAIRS[0]);
    let twin = Twin::new(&old, &new);
    let mut search = Search::new(&twin, &effort());
    search.step();
    twin.halt.ring();
    let verdict = finish_solving(search, &twin, &effort(), |_| {});
    assert!(matches!(verdict, Verdict::Tested(_)), "{}", show::verdict(&verdict));
}

/// Of a program of thousands of rungs each part of the circuit is asked by itself.
#[test]
fn a_large_program_is_asked_part_by_part() {
    const RUNGS: usize = 6_000;
    let program = |doors: [&str; 2]| {
        let names = |word: &str| (0..RUNGS).map(|n| format!("{word}{n}, ")).collect::<String>();
        let rung = |n: usize| match n % 1_000 {
            500 => format!("Open := Open OR {}; Pump{n} := Probe{} AND Seen;\n", doors[usize::from(n > 3_000)], n % 40),
            _ => {
                let [a, b, c, d, e, f] = [40, 37, 31, 29, 23, 19].map(|by| format!("Probe{}", n % by));
                format!(
                    "Pump{n} := ({a} OR Pump{n} AND NOT {b}) AND NOT ({c} AND Seen OR {d} AND NOT {e} AND NOT {f});\n"
                )
            }
        };
        let probes: String = (0..40).map(|n| format!("Probe{n}, ")).collect();
        format!(
            "PROGRAM P VAR_INPUT {probes}Last : BOOL; Flow, Level : INT; END_VAR VAR_OUTPUT {}Open : BOOL; END_VAR
             VAR Seen : BOOL; END_VAR\n{}Seen := Last; END_PROGRAM",
            names("Pump"),
            (0..RUNGS).map(rung).collect::<String>()
        )
    };
    let door = "(Seen AND Flow + Level = 12345 AND Flow > 100 AND Level > 100)";
    let [old, same, new] =
        [["FALSE", door], [door, "FALSE"], ["FALSE", "FALSE"]].map(|doors| version("v", &program(doors), Language::St));
    assert!(old.machine().operations() * 2 > 60_000, "{} operations", old.machine().operations());
    let effort = Effort { scenarios: 2, faults: 0, ..effort() };
    let verdict = compare_solving(&Twin::new(&old, &new), &effort, |_| {});
    let Verdict::Different(difference) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert_eq!((difference.name.as_str(), difference.scenario.scans()), ("Open", 2));

    let mut steps = Vec::new();
    let verdict = compare_solving(&Twin::new(&old, &same), &effort, |p| steps.push((p.step, p.of)));
    assert!(steps.iter().any(|(step, of)| *step == Activity::Solving && *of > 3), "in parts: {:?}", steps.last());
    let said = show::verdict(&verdict);
    assert!(said.contains("solver:   no inputs part them within 12 scans of power-up\n"), "{said}");

    // With less work it answers for some of the outputs, and says for how many; with next to none for none.
    let mut unanswered = Vec::new();
    for part in [1, 200, 100_000] {
        let effort = Effort { work: Effort::default().work / part, ..effort.clone() };
        let verdict = compare_solving(&Twin::new(&old, &same), &effort, |_| {});
        let Verdict::Tested(tested) = &verdict else { panic!("{part}: {}", show::verdict(&verdict)) };
        let (solved, said) = (tested.solver.unwrap(), show::verdict(&verdict));
        let outputs = tested.pairing.outputs().len();
        let answered = (outputs - solved.unanswered).to_string();
        let answered = [&answered[..answered.len().saturating_sub(3)], &answered[answered.len().saturating_sub(3)..]];
        let line = match outputs - solved.unanswered {
            0 => "solver:   from 1 state it gave up\n".to_string(),
            all if all == outputs => "solver:   no inputs part them within 12 scans of power-up\n".to_string(),
            _ => format!(
                "solver:   no inputs part {} of 6,001 outputs within 12 scans of power-up, on the others it gave up\n",
                answered.join(",").trim_start_matches(',')
            ),
        };
        assert!(said.contains(&line), "{part}: {line}{said}");
        assert_eq!(solved.from_power_up > 0, solved.unanswered < outputs, "{part}: {solved:?}");
        unanswered.push(solved.unanswered);
    }
    println!("{unanswered:?} of 6,001 outputs unanswered with less and less effort");
    assert!(
        unanswered[0] == 0 && 0 < unanswered[1] && unanswered[1] < 6_001 && unanswered[2] == 6_001,
        "{unanswered:?}"
    );
}
