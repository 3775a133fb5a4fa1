//! What a user takes for granted of the outside: search, circuit, prover and certificate keep to it alike.

use crate::common::{asked, version};
use fastrand::Rng;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::scan::ScanTime;
use honest_twin::show;
use honest_twin::twin::script::{Script, play};
use honest_twin::twin::{Assumption, Effort, Leaf, Rule, Scenario, Timing, Twin, Verdict, Version, compare_twin};

/// A raceway's inlet: two gates that are given by hand, the water's height, and what a program makes of them.
fn inlet(name: &str, body: &str) -> Version {
    let text = format!(
        "PROGRAM Inlet
         VAR_INPUT Fill, Drain, Key : BOOL; Height : INT; END_VAR
         VAR_OUTPUT Pump : BOOL; Steps : INT; END_VAR
         VAR Seen, Held : BOOL; Slow : TON; END_VAR
         {body}
         END_PROGRAM"
    );
    version(name, &text, Language::St)
}

fn effort() -> Effort {
    Effort { scenarios: 200, scans: 100_000, ..Effort::default() }
}

fn assuming<'v>(twin: Twin<'v>, assumed: &[&str]) -> Twin<'v> {
    let mut twin = twin;
    assumed.iter().for_each(|text| twin.assume(Assumption::read(text).unwrap()).unwrap());
    twin
}

/// Two bodies that differ unless something is assumed.
const PAIRS: [(&[&str], &str, &str); 6] = [
    (&["never-both=Fill+Drain"], "Pump := Fill AND NOT Drain;", "Pump := Fill;"),
    (
        // In the first scan after power-up all may change, so that is at rest.
        &["one-change", "rest-first"],
        "IF Fill AND NOT Seen THEN Steps := Steps + 1; END_IF; Pump := Drain AND NOT Held; Seen := Fill; Held := Drain;",
        "IF Fill AND NOT Seen AND NOT (Drain AND NOT Held) THEN Steps := Steps + 1; END_IF;
         Pump := Drain AND NOT Held; Seen := Fill; Held := Drain;",
    ),
    (
        // What a loss of power forgets on one side only.
        &["power-stays"],
        "",
        "",
    ),
    (&["rest-first"], "Pump := Fill AND Seen; Seen := TRUE;", "Pump := Fill;"),
    (
        &["scan-multiple=20ms"],
        "Slow(IN := Fill, PT := T#60ms); Pump := Slow.Q;",
        "Slow(IN := Fill, PT := T#50ms); Pump := Slow.Q;",
    ),
    (&["rest-first"], "Pump := Height > 3 AND Seen; Seen := TRUE;", "Pump := Height > 3;"),
];

fn pair(number: usize) -> [Version; 2] {
    let (assumed, left, right) = PAIRS[number];
    if assumed != ["power-stays"] {
        return [inlet("left", left), inlet("right", right)];
    }
    let with = |name: &str, kind: &str| {
        let text = format!(
            "PROGRAM Inlet VAR_INPUT Fill, Drain, Key : BOOL; Height : INT; END_VAR
             VAR_OUTPUT Pump : BOOL; Steps : INT; END_VAR VAR {kind} Held : BOOL; END_VAR
             Held := Held OR Fill; Pump := Held; END_PROGRAM"
        );
        version(name, &text, Language::St)
    };
    [with("left", "RETAIN"), with("right", "")]
}

fn timed<'v>(versions: &'v [Version; 2], assumed: &[&str]) -> Twin<'v> {
    let mut twin = Twin::new(&versions[0], &versions[1]);
    if assumed[0].starts_with("scan") {
        let [low, high, step] = [5_000_000, 45_000_000, 1].map(Duration::from_nanos);
        twin.timing = Timing::Lockstep(ScanTime::Range { low, high, step, seed: 1 });
    }
    twin
}

/// Without what is assumed they differ, with it they are the same and proved so, with a certificate that holds it as a
/// constraint.
#[test]
fn what_is_assumed_decides() {
    for (number, (assumed, ..)) in PAIRS.iter().enumerate() {
        let versions = pair(number);
        let plain = timed(&versions, assumed);
        let verdict = compare_twin(&plain, &effort(), |_| {});
        assert!(matches!(verdict, Verdict::Different(_)), "{assumed:?}: {}", show::verdict(&verdict));
        let twin = assuming(timed(&versions, assumed), assumed);
        let verdict = compare_twin(&twin, &effort(), |_| {});
        let Verdict::Tested(tested) = &verdict else { panic!("{assumed:?}: {}", show::verdict(&verdict)) };
        let words: Vec<String> = assumed.iter().map(|text| Assumption::read(text).unwrap().words()).collect();
        let all_in = |list: &[String]| words.iter().all(|words| list.contains(words));
        assert!(all_in(&tested.assumptions), "{:?}", tested.assumptions);
        assert!(!tested.assumptions.iter().any(|a| a.contains("please report")), "{:?}", tested.assumptions);
        let (verdict, certificate) = prove_certified(&twin, &Means { effort: effort(), ..Means::default() }, |_| true);
        let Verdict::Proved(proved) = &verdict else { panic!("{assumed:?}: {}", show::verdict(&verdict)) };
        assert!(all_in(&proved.assumptions), "{:?}", proved.assumptions);
        let certificate = certificate.unwrap();
        let lines: Vec<String> = certificate.assumptions.lines().map(String::from).collect();
        assert!(all_in(&lines), "{lines:?}");
        let checked = recheck(&certificate.miter, &certificate.certificate).unwrap();
        // A multiple is in the numbers that a scan time may be, not a constraint.
        let expected = if assumed[0].starts_with("scan") { 0 } else { words.len() };
        assert_eq!(checked.assumed.len(), expected, "{:?}", checked.assumed);
        assert!(checked.assumed.iter().all(|said| words.contains(said)), "{:?}", checked.assumed);
        keep(&format!("{number}.aig"), &certificate.miter);
    }
}

/// Leaves a graph to the independent checker, where one asks for it.
fn keep(name: &str, graph: &[u8]) {
    if let Ok(folder) = std::env::var("HONEST_TWIN_ASSUMED") {
        std::fs::write(std::path::Path::new(&folder).join(name), graph).unwrap();
    }
}

/// Whatever bit is changed in a graph with assumptions: most changes are refused, and what is confirmed all the same is left
/// to the independent checker.
#[test]
fn changed_graphs_with_assumptions_are_refused_or_proved_by_others() {
    let (mut accepted, mut all) = (0, 0);
    for number in [0, 2, 3] {
        let versions = pair(number);
        let twin = assuming(timed(&versions, PAIRS[number].0), PAIRS[number].0);
        let (_, certificate) = prove_certified(&twin, &Means { effort: effort(), ..Means::default() }, |_| true);
        let certificate = certificate.unwrap();
        let graph = &certificate.miter;
        // Names are what people read; what is checked is before them.
        let end = graph.windows(3).position(|w| w == b"i0 ").unwrap();
        for bit in 0..8 * end {
            let mut changed = graph.clone();
            changed[bit / 8] ^= 1 << (bit % 8);
            all += 1;
            if recheck(&changed, &certificate.certificate).is_ok() {
                accepted += 1;
                keep(&format!("changed-{number}-{bit}.aig"), &changed);
            }
        }
    }
    println!("{accepted} of {all} changed graphs are confirmed");
    assert!(accepted * 5 < all, "{accepted} of {all}");
}

/// Whether a scenario keeps to assumptions, told from its acts alone.
fn keeps(twin: &Twin<'_>, scenario: &Scenario) -> Result<(), String> {
    let inputs = twin.pairing.inputs();
    let at = |name: &str| inputs.iter().position(|pair| pair.name == name).unwrap();
    let mut now = vec![0; inputs.len()];
    let mut before = now.clone();
    let (mut first, mut unrun, mut stopped) = (true, true, false);
    for leaf in scenario.leaves() {
        match leaf {
            Leaf::Set(change) => now[change.input] = change.value,
            Leaf::Power(power) => {
                let word = format!("{power:?}");
                for assumption in twin.assumed() {
                    let is_broken = match assumption {
                        Assumption::PowerStays => word == "Cycle",
                        Assumption::NeverStopped => word != "Cycle",
                        _ => false,
                    };
                    if is_broken {
                        return Err(word);
                    }
                }
                first |= word == "Cycle";
                unrun |= word == "Cycle";
                stopped = (stopped || word == "Stop") && word != "Run";
            }
            Leaf::Wait(_) => {
                let changes = (0..now.len()).filter(|input| now[*input] != before[*input]).count();
                for assumption in twin.assumed() {
                    let is_broken = match assumption {
                        Assumption::OneChange => changes > 1 && !first,
                        Assumption::NeverBoth(a, b) => now[at(a)] == 1 && now[at(b)] == 1,
                        Assumption::RestFirst => unrun && now.iter().any(|value| *value != 0),
                        _ => false,
                    };
                    if is_broken {
                        return Err(assumption.words());
                    }
                }
                before.clone_from(&now);
                first = false;
                unrun &= stopped;
            }
        }
    }
    Ok(())
}

/// Programs that differ in many ways, under assumptions drawn anyhow: what is shown keeps to them, and what is proved is
/// not refuted by any scenario that does. `HONEST_TWIN_PAIRS` tries more, from `HONEST_TWIN_SEED` on.
#[test]
fn random_assumptions_are_kept_by_search_circuit_and_proof() {
    let all =
        ["one-change", "never-both=Fill+Drain", "never-both=Key+Fill", "power-stays", "never-stopped", "rest-first"];
    let parts = ["Fill", "Drain", "Key", "Height > 3", "Seen", "Held", "Pump", "Steps > 2"];
    let body = |rng: &mut Rng| {
        let mut part = || {
            let not = if rng.bool() { "NOT " } else { "" };
            format!("{not}({})", parts[rng.usize(0..parts.len())])
        };
        format!(
            "Seen := {} AND {}; Held := {} OR ({} AND Seen); Pump := {} XOR ({} AND Held);
             IF {} AND {} THEN Steps := (Steps + 1) MOD 5; END_IF;",
            part(),
            part(),
            part(),
            part(),
            part(),
            part(),
            part(),
            part()
        )
    };
    let (mut different, mut proved) = (0, 0);
    let (count, first) = (asked("HONEST_TWIN_PAIRS").unwrap_or(50), asked("HONEST_TWIN_SEED").unwrap_or_default());
    for seed in first..first + count {
        let mut rng = Rng::with_seed(seed);
        let left = body(&mut rng);
        let changed = ["Fill", "Drain", "Key"][rng.usize(0..3)];
        let guards =
            [format!("({changed} AND NOT Drain)"), format!("({changed} AND (Fill OR NOT Key))"), "Key".to_string()];
        let right = left.replacen(&format!("({changed})"), &guards[rng.usize(0..guards.len())], 1);
        let versions = [inlet("left", &left), inlet("right", &right)];
        let chosen: Vec<&str> = all.iter().copied().filter(|_| rng.bool()).collect();
        let twin = assuming(Twin::new(&versions[0], &versions[1]), &chosen);
        let verdict = prove(&twin, &Means { effort: effort(), conditions: false, ..Means::default() }, |_| true);
        let text = show::verdict(&verdict);
        assert!(!text.contains("please report"), "seed {seed}: {text}");
        match &verdict {
            Verdict::Different(difference) => {
                different += 1;
                keeps(&twin, &difference.scenario).unwrap_or_else(|why| panic!("seed {seed}: {why}\n{text}"));
                // The plain twin differs in that scenario too: what is assumed takes scenarios away and adds none.
                let mut plain = Twin::new(&versions[0], &versions[1]);
                plain.given.push(difference.scenario.clone());
                let again = compare_twin(&plain, &Effort { scenarios: 1, ..effort() }, |_| {});
                assert!(matches!(again, Verdict::Different(_)), "seed {seed}: {}", show::verdict(&again));
            }
            Verdict::Proved(_) => {
                proved += 1;
                for other in 2..5 {
                    let verdict = compare_twin(&twin, &Effort { seed: other, ..effort() }, |_| {});
                    assert!(matches!(verdict, Verdict::Tested(_)), "seed {seed}: {}", show::verdict(&verdict));
                    let Verdict::Tested(tested) = verdict else { continue };
                    assert!(
                        !tested.assumptions.iter().any(|a| a.contains("please report")),
                        "{:?}",
                        tested.assumptions
                    );
                }
            }
            _ => {}
        }
    }
    println!("{different} different, {proved} proved");
    assert!(different * 6 > count && proved * 6 > count, "{different} different, {proved} proved of {count}");
}

/// A STOP puts off the first scan that runs, and with it the scan in which inputs are at rest: a scenario that stops at
/// power-up shows no difference that the proof rules out.
#[test]
fn inputs_are_at_rest_until_a_scan_has_run() {
    let versions = pair(3);
    let starts = [
        ("stop\nwait 10ms\nrun\nset Fill on\nwait 10ms", false),
        ("stop\nset Fill on\nwait 10ms\nrun\nwait 10ms", false),
        ("wait 10ms\nset Fill on\nwait 10ms\nstop\npower cycle\nwait 10ms\nrun\nwait 10ms", false),
        ("wait 10ms\npower cycle\nstop\nrun\nset Fill on\nwait 10ms", false),
        ("stop\nwait 10ms\nrun\nwait 10ms\nset Fill on\nwait 10ms", true),
        ("wait 10ms\nstop\nset Fill on\nwait 10ms\nrun\nwait 10ms", true),
    ];
    for (text, is_kept) in starts {
        let script = Script::read("start", text).unwrap();
        let time = ScanTime::Fixed(Duration::from_millis(10));
        let played = play(&script, &[&versions[0], &versions[1]], &time).unwrap();
        let mut twin = Twin::new(&versions[0], &versions[1]);
        twin.given.push(Scenario::of_stimulus(&played.stimulus, &twin, played.scans()));
        let once = Effort { scenarios: 1, ..effort() };
        let plain = compare_twin(&twin, &once, |_| {});
        assert!(is_kept || matches!(plain, Verdict::Different(_)), "{text}: {}", show::verdict(&plain));
        let twin = assuming(twin, &["rest-first"]);
        let verdict = compare_twin(&twin, &once, |_| {});
        let told = show::verdict(&verdict);
        assert!(matches!(verdict, Verdict::Tested(_)), "{text}: {told}");
        assert_eq!(told.contains("of 1 given scenarios only what keeps to that was tried"), !is_kept, "{text}: {told}");
    }
    let twin = assuming(Twin::new(&versions[0], &versions[1]), &["rest-first"]);
    for seed in 1..9 {
        let verdict = compare_twin(&twin, &Effort { seed, ..effort() }, |_| {});
        assert!(matches!(verdict, Verdict::Tested(_)), "{}", show::verdict(&verdict));
    }
}

/// A given scenario that breaks what is assumed is tried as far as it keeps to it, and that is told.
#[test]
fn a_given_scenario_is_tried_as_far_as_it_is_allowed() {
    let version = inlet("one", "Pump := Fill AND Drain; Steps := 0;");
    for (assumed, is_broken) in [(&[][..], true), (&["never-both=Fill+Drain"][..], false)] {
        let mut twin = Twin::single(&version).with_rules(vec![Rule::never("Pump")]).unwrap();
        twin = assuming(twin, assumed);
        let text = "time_ms,Fill,Drain\n0,1,1\n50,0,0\n";
        let stimulus = honest_twin::scan::Stimulus::read(text, version.machine()).unwrap();
        let given = Scenario::of_stimulus(&stimulus, &twin, 10);
        twin.given.push(given);
        let verdict = compare_twin(&twin, &effort(), |_| {});
        assert_eq!(matches!(verdict, Verdict::Broken(_)), is_broken, "{}", show::verdict(&verdict));
        let told = show::verdict(&verdict).contains("of 1 given scenarios only what keeps to that was tried");
        assert_eq!(told, !is_broken, "{}", show::verdict(&verdict));
    }
}

#[test]
fn what_cannot_be_assumed_is_an_error() {
    let version = inlet("one", "Pump := Fill;");
    for (text, words) in [
        ("never", "`never` is nothing that can be assumed; there is one-change,"),
        ("never-both=Fill", "two inputs are named"),
        ("never-both=Fill+Height", "`Height` is not BOOL"),
        ("never-both=Fill+Pump", "`Pump` is no input that is driven"),
        ("never-both=Fill+fill", "are one input"),
        ("scan-multiple=3ms", "no scan time is a multiple of 3ms"),
        ("scan-multiple=0ms", "a scan takes some time"),
        ("scan-multiple=soon", "soon"),
        ("one-change=3", "is nothing that can be assumed"),
    ] {
        let mut twin = Twin::new(&version, &version);
        let why = Assumption::read(text).and_then(|assumption| twin.assume(assumption)).unwrap_err();
        assert!(why.to_string().contains(words), "{text}: {why}");
    }
    for text in
        ["one-change", "never-both=Fill+Drain", "power-stays", "never-stopped", "rest-first", "scan-multiple=5ms"]
    {
        assert_eq!(Assumption::read(text).unwrap().text(), text);
    }
}

/// A constraint that is not what it is called is refused, or the independent checker would be asked to believe it.
#[test]
fn constraints_of_something_else_are_refused() {
    let versions = pair(0);
    let twin = assuming(timed(&versions, PAIRS[0].0), PAIRS[0].0);
    let (_, certificate) = prove_certified(&twin, &Means { effort: effort(), ..Means::default() }, |_| true);
    let certificate = certificate.unwrap();
    let text = String::from_utf8_lossy(&certificate.miter).into_owned();
    assert!(text.contains("\nc0 assumed: Fill and Drain are never on together\n"), "{text}");
    // Without its name a constraint is taken for one about unknown functions, which it is not.
    let find = |bytes: &[u8], what: &[u8]| bytes.windows(what.len()).position(|w| w == what).unwrap();
    let mut unnamed = certificate.miter.clone();
    let at = find(&unnamed, b"c0 assumed");
    unnamed[at + 3..at + 10].copy_from_slice(b"imagine");
    assert!(recheck(&unnamed, &certificate.certificate).is_err());
    // A constraint that is always FALSE allows nothing, and proves nothing.
    let head = text.lines().next().unwrap().to_string();
    let lines: Vec<&[u8]> = certificate.miter.split(|b| *b == b'\n').collect();
    let counts: Vec<usize> = head.split(' ').skip(1).map(|n| n.parse().unwrap()).collect();
    let (latches, outputs, bad) = (counts[2], counts[3], counts[5]);
    let line = 1 + latches + outputs + bad;
    let mut forged: Vec<Vec<u8>> = lines.iter().map(|line| line.to_vec()).collect();
    for (literal, is_refused) in [("0", true), ("1", false)] {
        forged[line] = literal.as_bytes().to_vec();
        let found = recheck(&forged.join(&b'\n'), &certificate.certificate);
        // What is always TRUE assumes nothing: then it is the goal that does not follow, or the certificate that suffices.
        assert!(found.is_err() || !is_refused, "{literal}: {found:?}");
    }
}
