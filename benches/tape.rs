//! Scans per second of the tape and of the circuit for 10, 100 and 1000 rungs, beside the same logic as straight Rust,
//! in one run.
//!
//! `cargo bench --bench tape`. The ratios are what counts; the machine's mood moves all sides, so each runs in turn, several
//! times: the best rate of each side is told, and of the ratios of the rounds the middle one. Of the circuit only the scans are
//! timed, 256 scenarios in each: inputs are given there one by one, which is not how a search gives them.
#![allow(clippy::unwrap_used, clippy::print_stdout, reason = "a benchmark prints its figures")]

use honest_twin::check::check;
use honest_twin::circuit::{LANES, Lanes};
use honest_twin::lang::{Language, read_project};
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::scan::{Controller, Machine};
use honest_twin::source::Source;
use std::fmt::Write;
use std::hint::black_box;
use std::time;

const SCAN: i64 = 10_000_000;

/// How often each side runs.
const ROUNDS: usize = 15;

/// Ten kinds of rungs in turn: six of logic, a timer, a counter, arithmetic, a decision.
fn program(rungs: usize) -> String {
    let mut vars = String::new();
    let mut outputs = String::new();
    let mut body = String::new();
    for i in 0..rungs {
        let before = i.saturating_sub(1);
        let _ = match i % 10 {
            0..=5 => writeln!(body, "q{i} := (a OR q{i}) AND NOT (b AND q{before}) XOR c;"),
            6 => {
                let _ = writeln!(vars, "t{i} : TON;");
                writeln!(body, "t{i}(IN := q{before}, PT := T#200ms); q{i} := t{i}.Q;")
            }
            7 => {
                let _ = writeln!(vars, "c{i} : CTU;");
                writeln!(body, "c{i}(CU := q{before}, R := c, PV := 50); q{i} := c{i}.Q;")
            }
            8 => writeln!(body, "n{i} := n{i} * 3 + level; q{i} := n{i} > 100;"),
            _ => writeln!(body, "IF q{before} THEN n{i} := n{i} + 1; ELSE n{i} := level; END_IF; q{i} := n{i} > 7;"),
        };
        let _ = writeln!(vars, "n{i} : INT;");
        let _ = writeln!(outputs, "q{i} : BOOL;");
    }
    let inputs = "VAR_INPUT a, b, c : BOOL; level : INT; END_VAR";
    format!("PROGRAM P {inputs} VAR_OUTPUT\n{outputs}END_VAR VAR\n{vars}END_VAR\n{body}END_PROGRAM\n")
}

#[derive(Clone, Default)]
struct Rung {
    q: bool,
    n: i16,
    memory: bool,
    start: i64,
    elapsed: i64,
    count: i16,
}

/// The same rungs as straight Rust, compiled by itself: put into its callers, it is a fifth faster or slower with what stands around
/// it. So it is with where its loop comes to lie in memory; it is there several times, and `PLACE` moves it on by some bytes.
#[inline(never)]
fn scan_rust<const PLACE: u8>(rungs: &mut [Rung], a: bool, b: bool, c: bool, level: i16, now: i64) {
    for byte in 0..PLACE {
        black_box(byte);
    }
    for i in 0..rungs.len() {
        let before = rungs[i.saturating_sub(1)].q;
        let r = &mut rungs[i];
        match i % 10 {
            0..=5 => r.q = ((a | r.q) & !(b & before)) ^ c,
            6 => {
                if before {
                    if !r.memory {
                        r.start = now;
                    }
                    r.elapsed = (now - r.start).min(200_000_000);
                    r.q = r.elapsed >= 200_000_000;
                } else {
                    r.q = false;
                    r.elapsed = 0;
                }
                r.memory = before;
            }
            7 => {
                if c {
                    r.count = 0;
                } else if before && !r.memory && r.count < i16::MAX {
                    r.count += 1;
                }
                r.memory = before;
                r.q = r.count >= 50;
            }
            8 => {
                r.n = r.n.wrapping_mul(3).wrapping_add(level);
                r.q = r.n > 100;
            }
            _ => {
                r.n = if before { r.n.wrapping_add(1) } else { level };
                r.q = r.n > 7;
            }
        }
    }
}

/// A scan in straight Rust: of these rungs, with these inputs, at this time.
type Straight = fn(&mut [Rung], bool, bool, bool, i16, i64);

/// In each round the next one is the measure.
const PLACES: [Straight; 5] = [scan_rust::<0>, scan_rust::<1>, scan_rust::<2>, scan_rust::<3>, scan_rust::<4>];

fn inputs(scan: u64) -> (bool, bool, bool, i16) {
    let x = scan.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 40;
    (x & 3 == 0, x & 12 == 0, x & 0xF0 == 0, (x >> 8) as i16 & 63)
}

fn rate(scans: u64, run: impl FnOnce()) -> f64 {
    let start = time::Instant::now();
    run();
    scans as f64 / start.elapsed().as_secs_f64()
}

/// Scans of one scenario per second that the circuit makes, 256 at a time. All begin alike, and one goes on as the
/// straight Rust does, to be compared with it.
fn circuit(machine: &Machine, rungs: usize) -> f64 {
    let mut lanes = Lanes::new(machine, Duration::from_nanos(SCAN)).unwrap();
    let points: Vec<_> = ["a", "b", "c", "level"].iter().map(|n| machine.find(n).unwrap()).collect();
    let mut state = vec![Rung::default(); rungs];
    let scans = 60_000 / rungs as u64;
    let mut busy = time::Duration::ZERO;
    for first in (0..scans).step_by(32) {
        for lane in 0..LANES {
            let (a, b, c, level) = inputs(first + lane as u64 * 777);
            for (point, value) in points[..3].iter().zip([a, b, c]) {
                lanes.set(*point, lane, &Value::Bool(value)).unwrap();
            }
            lanes.set(points[3], lane, &Value::Int(i128::from(level))).unwrap();
        }
        let some = first..scans.min(first + 32);
        // To look at a clock takes as long as a rung, so it is looked at once for all of them.
        let start = time::Instant::now();
        some.clone().for_each(|_| lanes.scan());
        busy += start.elapsed();
        let (a, b, c, level) = inputs(first + 5 * 777);
        some.for_each(|scan| scan_rust::<0>(&mut state, a, b, c, level, scan as i64 * SCAN));
    }
    for (i, rung) in state.iter().enumerate() {
        let q = lanes.get(machine.find(&format!("q{i}")).unwrap(), 5);
        assert_eq!(q, Some(Value::Bool(rung.q)), "rung {i} of {rungs}, circuit");
    }
    (scans * LANES as u64) as f64 / busy.as_secs_f64()
}

fn main() {
    println!(
        "{:>6} {:>12} {:>14} {:>14} {:>16} {:>10} {:>14}",
        "rungs", "operations", "tape scans/s", "Rust scans/s", "circuit scans/s", "tape/Rust", "circuit/Rust"
    );
    for rungs in [10usize, 100, 1000] {
        let (project, _) = read_project(vec![(Source::new("bench.st", program(rungs)), Language::St)]);
        let machine = Machine::new(&check(project).unwrap()).unwrap();
        let mut best = [0.0f64; 3];
        let mut ratios = [Vec::new(), Vec::new()];
        for round in 0..ROUNDS {
            let rates =
                [by_tape_and_rust(&machine, rungs, PLACES[round % PLACES.len()]), [circuit(&machine, rungs), 0.0]]
                    .concat();
            ratios[0].push(rates[0] / rates[1]);
            ratios[1].push(rates[2] / rates[1]);
            best.iter_mut().zip(rates).for_each(|(best, rate)| *best = best.max(rate));
        }
        let [tape, rust, circuit] = best;
        let operations = machine.operations();
        let [by_tape, by_circuit] = ratios.map(median);
        println!(
            "{rungs:>6} {operations:>12} {tape:>14.0} {rust:>14.0} {circuit:>16.0} {by_tape:>10.3} {by_circuit:>14.2}"
        );
    }
}

/// The middle one of those of an odd number of rounds.
fn median(mut ratios: Vec<f64>) -> f64 {
    ratios.sort_by(f64::total_cmp);
    ratios[ratios.len() / 2]
}

/// Scans per second of the tape and of the straight Rust, one behind the other.
fn by_tape_and_rust(machine: &Machine, rungs: usize, scan_rust: Straight) -> [f64; 2] {
    let scans = 800_000 / rungs as u64;
    let points: Vec<_> = ["a", "b", "c", "level"].iter().map(|n| machine.find(n).unwrap()).collect();
    let mut controller = Controller::new(machine);
    let tape = rate(scans, || {
        for scan in 0..scans {
            let (a, b, c, level) = inputs(scan);
            for (point, value) in points[..3].iter().zip([a, b, c]) {
                controller.set(*point, &Value::Bool(value)).unwrap();
            }
            controller.set(points[3], &Value::Int(i128::from(level))).unwrap();
            controller.scan(Instant(Duration::from_nanos(scan as i64 * SCAN)));
        }
    });
    let mut state = vec![Rung::default(); rungs];
    let rust = rate(scans, || {
        for scan in 0..scans {
            let (a, b, c, level) = inputs(scan);
            scan_rust(black_box(&mut state), a, b, c, level, scan as i64 * SCAN);
        }
    });
    // Both computed the same, or the figures mean nothing.
    for (i, rung) in state.iter().enumerate() {
        let q = controller.get_named(&format!("q{i}")).unwrap();
        assert_eq!(q, Value::Bool(rung.q), "rung {i} of {rungs}");
    }
    [tape, rust]
}
