//! Random programs beside the same with a change: whatever is proved the same is run on the scan engine, behind the door as
//! well, and must be the same there. `HONEST_TWIN_PAIRS=2000 cargo test --test twins mutated::` tries more,
//! from `HONEST_TWIN_SEED` on, each for `HONEST_TWIN_PATIENCE` milliseconds at most.

use crate::common::mutated::{INPUTS, KEY, pair};
use crate::common::{asked, version};
use fastrand::Rng;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::prove::{Means, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::scan::Controller;
use honest_twin::source::Source;
use honest_twin::twin::{Effort, Mapping, Stops, Twin, Verdict, Version};
use rayon::prelude::*;

fn quick() -> Means {
    let effort = Effort { scenarios: 24, scans: 4_000, ..Effort::default() };
    Means { conflicts: 1_000, effort, conditions: false, ..Means::default() }
}

fn value(rng: &mut Rng, name: &str) -> Value {
    let near = |rng: &mut Rng| i128::from([-1, 0, 1, 2, 3, 4, 5, 7, 9, 10, 11, 15, 99, 100, 4500][rng.usize(0..15)]);
    match name {
        "b0" | "b1" => Value::Bool(rng.bool()),
        "i" | "j" if rng.u8(0..4) > 0 => Value::Int(near(rng)),
        "i" | "j" => Value::Int(rng.i16(..).into()),
        "w" => Value::Int(if rng.bool() { i128::from(rng.u16(..)) } else { near(rng).max(0) }),
        "u" if rng.bool() => Value::Int(u64::MAX as i128 - near(rng).max(0)),
        "u" => Value::Int(if rng.bool() { i128::from(rng.u64(..)) } else { near(rng).max(0) }),
        "l" => Value::Int(if rng.bool() { i128::from(rng.i64(..)) } else { near(rng) }),
        "k" => Value::Int(if rng.u8(0..8) > 0 { KEY.into() } else { rng.u32(..).into() }),
        _ => Value::Enum([0, 1, 5][rng.usize(0..3)], None),
    }
}

/// The first scan in which two versions are not the same on the engine, in scenarios that open the door.
fn parts(versions: [&Version; 2], outputs: &[(String, String, i128)], seed: u64, stops: Stops) -> Option<String> {
    for scenario in 0..40 {
        let mut rng = Rng::with_seed(seed ^ (scenario << 32));
        let mut controllers = versions.map(|v| Controller::new(v.machine()));
        let mut has_run = false;
        for scan in 0..40 {
            let at = Instant(Duration::from_millis(10 * scan));
            for name in INPUTS {
                if rng.u8(0..3) == 0 || scan == 0 {
                    let given = value(&mut rng, name);
                    controllers.iter_mut().for_each(|c| c.set_named(name, &given).unwrap());
                }
            }
            if rng.u8(0..20) == 0 {
                controllers.iter_mut().for_each(|c| c.power_cycle(at));
                has_run = false;
            }
            let may_stop = match stops {
                Stops::Included => true,
                Stops::AfterFirstScan => has_run,
                Stops::Excluded => false,
            };
            let wants_stop = rng.u8(0..8) == 0;
            // Power that was lost in STOP takes them to before the first scan, where they may not be stopped.
            let goes_on = rng.u8(0..8) == 0 || !may_stop;
            controllers.iter_mut().for_each(|c| match (wants_stop && may_stop, goes_on) {
                (true, _) => c.stop(),
                (false, true) => c.run(),
                (false, false) => {}
            });
            controllers.iter_mut().for_each(|c| c.scan(at));
            has_run |= !controllers[0].is_stopped();
            let faults = controllers.each_ref().map(|c| c.fault().map(|f| f.kind));
            if faults[0] != faults[1] {
                return Some(format!("a fault in scan {scan} of scenario {scenario}"));
            }
            for (left, right, by) in outputs {
                let [a, b] = [controllers[0].get_named(left).unwrap(), controllers[1].get_named(right).unwrap()];
                let number = |v: &Value| if let Value::Int(n) = v { Some(*n) } else { None };
                let same = if *by == 1 { a == b } else { number(&a).map(|n| n * by) == number(&b) };
                if !same {
                    return Some(format!("{left} in scan {scan} of scenario {scenario}: {a} and {b}"));
                }
            }
        }
    }
    None
}

fn read(name: &str, text: &str) -> Option<Version> {
    let (project, problems) = read_project(vec![(Source::new(name, text), Language::St)]);
    if problems.has_errors() {
        return None;
    }
    Version::new(name, honest_twin::check::check(project).ok()?).ok()
}

#[derive(Default)]
struct Counts {
    proved: u32,
    different: u32,
    other: u32,
    unfit: u32,
}

#[test]
fn what_is_proved_of_changed_programs_is_so() {
    let most: u64 = asked("HONEST_TWIN_PAIRS").unwrap_or(16);
    let first: u64 = asked("HONEST_TWIN_SEED").unwrap_or_default();
    let patience = std::time::Duration::from_millis(asked("HONEST_TWIN_PATIENCE").unwrap_or(4_000));
    let judged = (first..first + most).into_par_iter().map(|seed| {
        let gated = seed % 2 == 1;
        let [old, new] = pair(seed, gated);
        // To be looked at by hand.
        if let Ok(folder) = std::env::var("HONEST_TWIN_KEEP") {
            std::fs::write(format!("{folder}/{seed}.old.st"), &old).unwrap();
            std::fs::write(format!("{folder}/{seed}.new.st"), &new).unwrap();
        }
        let mut counts = Counts::default();
        // A change may make no program of it.
        let (Some(left), Some(right)) = (read("old", &old), read("new", &new)) else {
            counts.unfit += 1;
            return counts;
        };
        let mut twin = Twin::new(&left, &right);
        let mut outputs: Vec<(String, String, i128)> =
            ["ob", "oc", "oi", "ow", "ol", "ou", "om"].map(|o| (o.to_string(), o.to_string(), 1)).to_vec();
        // Of some an output is scaled on its way.
        if seed % 16 == 3 {
            twin.pairing.pair([&left, &right], ["oi", "ol"], Mapping::Scaled(10, 1)).unwrap();
            outputs.retain(|(left, ..)| left != "oi" && left != "ol");
            outputs.push(("oi".into(), "ol".into(), 10));
            twin.pairing.agree("ol").unwrap();
            twin.pairing.agree("oi").unwrap();
        }
        // What takes long is left undecided: this is about what is proved.
        let (done, halt) = (std::sync::mpsc::channel::<()>(), twin.halt.clone());
        std::thread::spawn(move || {
            let _ = done.1.recv_timeout(patience);
            halt.ring();
        });
        let (verdict, certificate) = prove_certified(&twin, &quick(), |_| true);
        drop(done.0);
        match verdict {
            Verdict::Proved(proved) => {
                counts.proved += 1;
                let apart = parts([&left, &right], &outputs, seed, proved.stops);
                assert_eq!(apart, None, "a false proof, seed {seed}:\n{old}\n----\n{new}");
                if seed % 8 < 2 {
                    let certificate = certificate.unwrap();
                    let checked = recheck(&certificate.miter, &certificate.certificate);
                    assert!(checked.is_ok(), "seed {seed}: {checked:?}");
                }
            }
            Verdict::Different(_) => counts.different += 1,
            Verdict::Undecided { reason, .. } => {
                assert!(!reason.contains("do not agree"), "seed {seed}: {reason}\n{old}\n----\n{new}");
                counts.other += 1;
            }
            _ => counts.other += 1,
        }
        counts
    });
    let all = judged.reduce(Counts::default, |a, b| Counts {
        proved: a.proved + b.proved,
        different: a.different + b.different,
        other: a.other + b.other,
        unfit: a.unfit + b.unfit,
    });
    let Counts { proved, different, other, unfit } = all;
    println!(
        "{most} pairs: {proved} proved, none falsely; {different} different; {other} undecided; {unfit} no program"
    );
    // How many are proved in the time that each has is told, and not asked for.
    assert!(different > 0);
}

/// A certificate with one thing changed is not confirmed, or still a proof by another checker. Here: goals and constraints
/// that a forger would write.
#[test]
fn forged_certificates_are_not_confirmed() {
    let text = |most: u32| {
        format!(
            "PROGRAM Service VAR_INPUT Rinse : BOOL; Level : INT; END_VAR VAR_OUTPUT Due, Low : BOOL; END_VAR
             VAR Count : INT; Edge : R_TRIG; END_VAR
             Edge(CLK := Rinse); IF Edge.Q AND Count < 1000 THEN Count := Count + 1; END_IF;
             Due := Count >= {most}; Low := Level < 30; END_PROGRAM"
        )
    };
    let (left, right) = (version("old", &text(3), Language::St), version("new", &text(3), Language::St));
    let (_, certificate) = prove_certified(&Twin::new(&left, &right), &Means::default(), |_| true);
    let certificate = certificate.unwrap();
    let (miter, combinational) = (certificate.miter.clone(), certificate.certificate.clone());
    assert!(recheck(&miter, &combinational).is_ok());
    let head = String::from_utf8_lossy(&miter[..miter.iter().position(|b| *b == b'\n').unwrap()]).to_string();
    let counts: Vec<usize> = head.split(' ').skip(1).map(|n| n.parse().unwrap()).collect();
    let (latches, outputs, bad) = (counts[2], counts[3], counts[5]);
    let body = &miter[head.len() + 1..];
    let lines: Vec<&[u8]> = body.split(|b| *b == b'\n').collect();
    let first = latches + outputs;
    let mut tried = 0;
    for goal in 0..bad {
        for literal in 2..140u32 {
            // The goal is an input or a latch, and a constraint says that it is never so.
            let mut forged = Vec::new();
            let header = [counts.iter().take(6).map(usize::to_string).collect::<Vec<_>>().join(" "), "1".to_string()];
            forged.extend(format!("aig {}\n", header.join(" ")).into_bytes());
            for (number, line) in lines.iter().enumerate().take(first + bad) {
                let own = format!("{literal}");
                forged.extend(if number == first + goal { own.as_bytes() } else { line });
                forged.push(b'\n');
            }
            forged.extend(format!("{}\n", literal ^ 1).into_bytes());
            let rest: usize = lines.iter().take(first + bad).map(|line| line.len() + 1).sum();
            forged.extend(&body[rest..]);
            let checked = recheck(&forged, &combinational);
            assert!(checked.is_err(), "goal {goal} as {literal}: {checked:?}");
            tried += 1;
        }
    }
    println!("{tried} forged certificates, none confirmed");
    assert!(tried >= 500);
}
