//! Programs of a thousand rungs and more: the circuit runs them in pieces, rounds are short, and what is found is made short again.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::ScanTime;
use honest_twin::show;
use honest_twin::twin::{Effort, Timing, Twin, Verdict, Version, compare_twin, strength};

/// Rungs of a hatchery: latches, delays, counters and sums over forty probes; one output a rung.
fn rungs(count: usize) -> Vec<String> {
    let rung = |n: usize| {
        let (a, b) = (format!("Probe{}", n * 7 % 40), format!("Probe{}", (n * 11 + 3) % 40));
        match n % 4 {
            0 => format!("Out{n} := ({a} OR Out{n}) AND NOT {b};\n"),
            1 => format!("Late{n}(IN := {a} AND NOT {b}, PT := T#{}ms);\nOut{n} := Late{n}.Q;\n", 50 + n % 60 * 10),
            2 => format!("Count{n}(CU := {a}, R := {b}, PV := {});\nOut{n} := Count{n}.Q;\n", 2 + n % 40),
            _ => format!(
                "IF {a} THEN Sum{n} := LIMIT(0, Sum{n} + {}, 500); END_IF;\nOut{n} := Sum{n} >= 100;\n",
                1 + n % 8
            ),
        }
    };
    (0..count).map(rung).collect()
}

/// A program of these rungs, one of them replaced.
fn program(rungs: &[String], [from, to]: [&str; 2]) -> Version {
    let names = |word: &str, by: usize, at: usize| {
        let all: Vec<String> = (at..rungs.len()).step_by(by).map(|n| format!("{word}{n}")).collect();
        all.join(", ")
    };
    let probes: Vec<String> = (0..40).map(|n| format!("Probe{n}")).collect();
    let body = rungs.concat();
    assert!(from.is_empty() || body.matches(from).count() == 1, "{from}");
    let body = if from.is_empty() { body } else { body.replace(from, to) };
    let text = format!(
        "PROGRAM P\nVAR_INPUT {} : BOOL; END_VAR\nVAR_OUTPUT {} : BOOL; END_VAR\nVAR {} : TON; {} : CTU; {} : INT; END_VAR
         {body}END_PROGRAM\n",
        probes.join(", "),
        names("Out", 1, 0),
        names("Late", 4, 1),
        names("Count", 4, 2),
        names("Sum", 4, 3)
    );
    version("v", &text, Language::St)
}

/// One rung of the old version, how the new one has it, the output that tells them apart, and how much happens at most in what
/// shows it.
const CHANGED: &[(&str, [&str; 2], &str, u64)] = &[
    ("the other contact", ["Out800 := (Probe0 OR Out800)", "Out800 := (NOT Probe0 OR Out800)"], "Out800", 1),
    ("a count one more", ["R := Probe1, PV := 20);\nOut1018", "R := Probe1, PV := 21);\nOut1018"], "Out1018", 41),
    ("a delay one tick longer", ["PT := T#540ms);\nOut1189", "PT := T#550ms);\nOut1189"], "Out1189", 3),
    ("a sum that stops too soon", ["Out203 := Sum203 >= 100", "Out203 := Sum203 > 100"], "Out203", 2),
];

#[test]
fn one_rung_of_a_thousand_is_found_and_told_shortly() {
    let rungs = rungs(1_200);
    let old = program(&rungs, ["", ""]);
    let times = [
        ScanTime::Fixed(Duration::from_millis(10)),
        ScanTime::Range {
            low: Duration::from_millis(5),
            high: Duration::from_millis(15),
            step: Duration::from_millis(1),
            seed: 7,
        },
    ];
    for (title, change, name, most) in CHANGED {
        let new = program(&rungs, *change);
        for time in &times {
            let mut twin = Twin::new(&old, &new);
            twin.timing = Timing::Lockstep(time.clone());
            let verdict = compare_twin(&twin, &Effort::default(), |_| {});
            let Verdict::Different(found) = &verdict else { panic!("{title}: {}", show::verdict(&verdict)) };
            let (happens, scans) = (found.scenario.happenings(), found.scenario.scans());
            println!("{title}, {time:?}: {happens} changes in {scans} scans");
            assert_eq!(found.name, *name, "{title}");
            assert!(happens <= *most, "{title}: {happens} changes are left");
        }
    }
}

/// Where nothing differs the circuit has run far more scans than the tape, and what it saw the tape has confirmed.
#[test]
fn the_circuit_runs_a_large_program_in_pieces() {
    let rungs = rungs(1_200);
    let [old, new] =
        [["", ""], ["Out800 := (Probe0 OR Out800)", "Out800 := (Out800 OR Probe0)"]].map(|c| program(&rungs, c));
    let twin = Twin::new(&old, &new);
    let run = || match compare_twin(&twin, &Effort::named("0.3").unwrap(), |_| {}) {
        Verdict::Tested(tested) => tested,
        other => panic!("{}", show::verdict(&other)),
    };
    let tested = run();
    println!("{} scans by tape, {} by circuit", tested.scans, tested.wide);
    assert!(tested.wide > 20 * tested.scans, "{} beside {}", tested.wide, tested.scans);
    assert!(!show::verdict(&Verdict::Tested(tested.clone())).contains("circuit saw"), "nothing unconfirmed");
    assert_eq!((tested.scans, tested.wide, tested.scenarios), {
        let t = run();
        (t.scans, t.wide, t.scenarios)
    });

    // Each fault that it has the work for is asked for itself, with the same answer each time; the rest are said to be open.
    let effort = Effort { faults: 40, ..Effort::named("0.3").unwrap() };
    let seeded = || strength(&twin, &effort, &[], |_| {});
    let strength = seeded();
    assert_eq!(strength, seeded());
    println!("{} of {} found, {} not tried", strength.caught(), strength.faults.len(), strength.untried);
    assert_eq!(strength.faults.len() + strength.untried, 40);
    assert!(strength.caught() * 10 > strength.faults.len() * 7, "{} of {}", strength.caught(), strength.faults.len());
}
