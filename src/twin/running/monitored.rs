//! Watchers in a circuit beside those of the scan engine, on the same scenarios.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use crate::check::check;
use crate::circuit::{InputId, NONE, Plane, Simulator, plan};
use crate::lang::{Language, read_project};
use crate::model::{Duration, Instant};
use crate::scan::{Power, ScanTime};
use crate::source::Source;
use crate::twin::run::{Run, Waits};
use crate::twin::{Both, Change, Law, Outset, Rule, Timing, Tolerance, Twin, Version};
use fastrand::Rng;
use std::sync::Arc;

/// Feeders that show what they are given: one of them the first dose, the other the second.
fn feeder(name: &str, ty: &str, shows: &str, initial: &str) -> Version {
    let text = format!(
        "PROGRAM Feeder VAR_INPUT One, Two : {ty}; Stuck : BOOL; END_VAR VAR_OUTPUT Dose : {ty}{initial}; END_VAR
         VAR Zero : INT; END_VAR
         IF Stuck THEN Zero := 1 / Zero; END_IF; Dose := {shows}; END_PROGRAM"
    );
    let (project, _) = read_project(vec![(Source::new(name, text), Language::St)]);
    Version::new(name, check(project).unwrap()).unwrap()
}

/// A scan: what happens before it, what it is given, how long it takes.
struct Scan {
    power: bool,
    given: [i64; 3],
    time: Duration,
}

/// One dose follows the other by so many scans; now and then it is lost.
fn scans(rng: &mut Rng, values: i64) -> Vec<Scan> {
    let (calm, lag) = (rng.usize(1..12), rng.usize(0..4));
    let mut past = vec![0; lag + 1];
    let mut list = Vec::new();
    for _ in 0..60 {
        let mut one = past[0];
        if rng.usize(..calm) == 0 {
            one = rng.i64(0..=values);
        }
        past.insert(0, one);
        let mut two = past[rng.usize(0..=lag).max(rng.usize(0..=lag))];
        if rng.usize(..40) == 0 {
            two = rng.i64(0..=values);
        }
        let time = Duration::from_millis(10 * rng.i64(1..=5));
        list.push(Scan { power: rng.usize(..30) == 0, given: [one, two, i64::from(rng.usize(..60) == 0)], time });
    }
    list
}

/// In which scan the circuit says so first of each of its goals; what watches looks a scan later.
fn by_circuit(twin: &Twin<'_>, scans: &[Scan], of: impl Fn(&Both) -> crate::circuit::Node) -> Option<usize> {
    let time = |net: &mut crate::circuit::Net| net.input((10_000_000, 50_000_000), 10_000_000).into();
    let mut both = Both::new(twin, &Outset::default(), time).unwrap();
    let fine = of(&both);
    let plan = Arc::new(plan(&mut both.net, &[fine]));
    let at = plan.place(fine)?;
    let mut simulator = Simulator::new(Arc::clone(&plan));
    let last = scans.iter().map(|s| s.time).max();
    for (number, scan) in scans.iter().enumerate() {
        if scan.power {
            simulator.power_cycle([u64::MAX; 4]);
        }
        let passed = if number == 0 { last.unwrap_or_default() } else { scans[number - 1].time };
        let mut give = |input: usize, value: i64| {
            let id = InputId(input as u32);
            let value = value / plan.input_unit(id);
            if let Some((planes, _)) = simulator.input(id) {
                let plane = |bit: usize| -> Plane { if value >> bit & 1 == 1 { [u64::MAX; 4] } else { NONE } };
                planes.iter_mut().enumerate().for_each(|(bit, p)| *p = plane(bit));
            }
        };
        give(0, passed.nanos());
        scan.given.iter().enumerate().for_each(|(input, value)| give(input + 1, *value));
        simulator.compute();
        if simulator.number(at, 0) == 0 {
            return Some(number);
        }
        simulator.advance();
    }
    None
}

/// A run in the scan engine; `each` ends it.
fn by_engine<T>(twin: &Twin<'_>, scans: &[Scan], mut each: impl FnMut(&Run<'_>, bool) -> Option<T>) -> Option<T> {
    let mut run = Run::new(twin, Waits::Whole);
    for scan in scans {
        if scan.power {
            run.power(Power::Cycle);
        }
        for (input, value) in scan.given.iter().enumerate() {
            run.set(Change { input, value: *value });
        }
        let found = run.wait(1, &mut |_, _, _: Instant| {}).is_some();
        if let Some(out) = each(&run, found) {
            return Some(out);
        }
    }
    None
}

fn times(scans: &[Scan]) -> Timing {
    Timing::Lockstep(ScanTime::Given(scans.iter().map(|s| s.time).collect()))
}

#[test]
fn counterparts_are_as_far_apart_as_the_engine_says() {
    let mut rng = Rng::with_seed(6);
    let (mut alike, mut parted, mut more) = (0, 0, 0);
    for (ty, values, initial) in [("BOOL", 1, ""), ("INT", 3, ""), ("BOOL", 1, " := TRUE"), ("INT", 3, " := 2")] {
        let (left, right) = (feeder("one", ty, "One", ""), feeder("two", ty, "Two", initial));
        let mut twin = Twin::new(&left, &right);
        for _ in 0..400 {
            let scans = scans(&mut rng, values);
            let most = Duration::from_millis(10 * rng.i64(0..12));
            twin.timing = times(&scans);
            twin.pairing.outputs[0].tolerance = Tolerance::Within(most);
            let mut number = 0;
            let engine = by_engine(&twin, &scans, |_, found| {
                number += 1;
                found.then_some(number)
            });
            let circuit = by_circuit(&twin, &scans, |both| both.agree[0]);
            match (engine, circuit) {
                // The engine has seen the last scan; the circuit has not yet.
                (Some(at), None) => assert_eq!(at, scans.len(), "{ty} {most:?}"),
                (None, None) => alike += 1,
                (Some(engine), Some(circuit)) if engine == circuit => parted += 1,
                // More changes waited than the circuit holds: it may only be too careful.
                (engine, Some(circuit)) => {
                    assert!(engine.is_none_or(|at| circuit < at), "{ty} {most:?}: {engine:?} {circuit}");
                    more += 1;
                }
            }
        }
    }
    assert!(alike > 100 && parted > 500 && more < 200, "{alike} {parted} {more}");
}

#[test]
fn rules_with_times_are_broken_where_the_engine_says() {
    let mut rng = Rng::with_seed(7);
    let (mut kept, mut broken) = (0, 0);
    for _ in 0..300 {
        let most = Duration::from_millis(rng.i64(1..140));
        let rules = vec![
            Rule { name: "lasts".into(), law: Law::Lasts("One".into(), most) },
            Rule { name: "after".into(), law: Law::After("One".into(), "Two".into(), most) },
        ];
        let left = feeder("one", "BOOL", "One", "");
        let scans = scans(&mut rng, 1);
        let mut twin = Twin::new(&left, &left).with_rules(rules).unwrap();
        twin.timing = times(&scans);
        for rule in 0..2 {
            let mut number = 0;
            let engine = by_engine(&twin, &scans, |run, _| {
                number += 1;
                run.watch.broken()[rule][0].map(|_| number)
            });
            let circuit = by_circuit(&twin, &scans, |both| {
                both.rules.iter().find(|(number, side, _)| (*number, *side) == (rule, 0)).unwrap().2
            });
            match engine.filter(|at| *at < scans.len()) {
                None => kept += 1,
                Some(_) => broken += 1,
            }
            assert_eq!(engine.filter(|at| *at < scans.len()), circuit, "rule {rule} {most:?}");
        }
    }
    assert!(kept > 100 && broken > 100, "{kept} {broken}");
}
