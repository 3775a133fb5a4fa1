//! A run that nothing watches does several operations in one step; one in which a variable is forced does them one by one, so that the
//! force holds. Both are the same run: every variable in every scan, and the fault that ends it.

use crate::common::{machine, programs};
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::scan::{Controller, Direction, Machine, ScanTime, Stimulus, run_stimulus};

/// Names and rows of a run, and its fault. If `forced`, an input that nothing reads is held where it is.
fn run(machine: &Machine, stimulus: &str, scans: u64, forced: bool) -> (String, String) {
    let stimulus = Stimulus::read(stimulus, machine).unwrap();
    let mut controller = Controller::new(machine);
    if forced {
        controller.force(machine.find("Spare").unwrap(), &Value::Bool(false)).unwrap();
    }
    let all: Vec<_> = machine.points_of(Direction::Internal).map(|(id, _)| id).collect();
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let trace = run_stimulus(&mut controller, &stimulus, &time, scans, &all);
    (trace.write(), format!("{:?}", controller.fault()))
}

/// Both runs are the same.
fn agree(name: &str, text: &str, stimulus: &str, scans: u64, language: Language) -> bool {
    let (before, program) = text.split_at(text.find("PROGRAM ").unwrap());
    let spare = format!("{before}{}", program.replacen("VAR_INPUT", "VAR_INPUT Spare : BOOL;", 1));
    let machine = machine(name, &spare, language);
    let [fused, single] = [false, true].map(|forced| run(&machine, stimulus, scans, forced));
    assert_eq!(fused.1, single.1, "{name}: the fault\n{text}");
    let apart = fused.0.lines().zip(single.0.lines()).find(|(a, b)| a != b);
    assert_eq!(apart, None, "{name}\n{}\n{text}", fused.0.lines().next().unwrap_or_default());
    assert_eq!(fused.0.lines().count(), single.0.lines().count(), "{name}\n{text}");
    fused.1 != "None"
}

#[test]
fn random_programs_run_the_same_in_steps_and_one_by_one() {
    let faults = (700..900).filter(|seed| {
        let program = programs::random(*seed);
        agree(&format!("seed {seed}"), &program.text, &program.stimulus, 60, Language::St)
    });
    // Some of them end by a fault, most do not.
    assert!((1..150).contains(&faults.count()));
}

/// Operations that lie beside each other where a jump comes in, where one leads back, where a program ends; faults between such.
const SHAPES: &[&str] = &[
    "q := a AND NOT b; r := NOT q; q := r XOR a; r := q OR NOT b;",
    "IF a THEN q := b; END_IF; r := q; IF r THEN q := NOT a; ELSIF b THEN q := a; ELSE r := b; END_IF; q := q;",
    "WHILE n < 5 AND NOT (n = 3) DO n := n + 1; q := a; r := b; END_WHILE; n := n - 4; q := n > 2;",
    "REPEAT n := n + 1; q := NOT q; r := q; UNTIL n > 9 END_REPEAT; n := 0;",
    "FOR n := 1 TO 4 DO IF n = 2 AND a THEN CONTINUE; END_IF; IF n = 3 AND b THEN EXIT; END_IF; q := NOT q; END_FOR;",
    "CASE n OF 0: q := a; 1, 2: q := b; r := a; 3..5: RETURN; ELSE n := -1; END_CASE; n := n + 1; r := q;",
    "t(IN := a AND NOT b, PT := T#30ms); q := t.Q; r := t.Q AND a; c(CU := q, R := b, PV := 2); r := c.Q OR r;",
    "q := a; r := b; n := n + 1; n := 12 / (6 - n); q := r; r := n > 3;",
    "n := MAX(n, 3); n := MIN(n + 1, 9); q := n >= 9; r := n <= 3; q := q <> r; r := q = a;",
    "WHILE a DO q := NOT q; r := q; END_WHILE;",
];

#[test]
fn shapes_run_the_same_in_steps_and_one_by_one_in_each_language() {
    let stimulus = "time_ms,a,b\n0,1,0\n30,0,1\n60,1,1\n90,1,0\n170,0,0\n200,1,0\n";
    for (number, body) in SHAPES.iter().enumerate() {
        let vars =
            "VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT q, r : BOOL; n : INT; END_VAR VAR t : TON; c : CTU; END_VAR";
        let text = format!("PROGRAM P {vars} {body} END_PROGRAM");
        for language in LANGUAGES {
            let text = crate::common::translated(&format!("shape {number}"), &text, Language::St, *language);
            agree(&format!("shape {number}"), &text, stimulus, 30, *language);
        }
    }
}

/// Integer types: bits, and whether they have a sign.
const INTEGERS: &[(&str, u32, bool)] = &[
    ("SINT", 8, true),
    ("INT", 16, true),
    ("DINT", 32, true),
    ("LINT", 64, true),
    ("USINT", 8, false),
    ("UINT", 16, false),
    ("UDINT", 32, false),
    ("ULINT", 64, false),
];

/// A number as a type holds it that turns over at its ends.
fn turned(number: i128, bits: u32, signed: bool) -> i128 {
    let low = if signed { -(1i128 << (bits - 1)) } else { 0 };
    low + (number - low).rem_euclid(1i128 << bits)
}

#[test]
fn sums_and_products_turn_over_at_the_ends_of_each_type() {
    for (name, bits, signed) in INTEGERS {
        let body =
            "IF a THEN n := n * 3 + 7; ELSE n := n - 5; END_IF; m := n * n - k; k := m + n; q := m > k; r := n = k;";
        let vars = format!("VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q, r : BOOL; n, m, k : {name}; END_VAR");
        let text = format!("PROGRAM P {vars} {body} END_PROGRAM");
        agree(name, &text, "time_ms,a\n0,1\n300,0\n330,1\n", 60, Language::St);

        let machine = machine(name, &text, Language::St);
        let mut controller = Controller::new(&machine);
        let held = |number: i128| turned(number, *bits, *signed);
        let (mut n, mut k) = (0, 0);
        for scan in 0..200i64 {
            let a = scan % 7 != 0;
            controller.set_named("a", &Value::Bool(a)).unwrap();
            controller.scan(Instant(Duration::from_millis(10 * scan)));
            n = if a { held(held(n * 3) + 7) } else { held(n - 5) };
            let m = held(held(n.wrapping_mul(n)) - k);
            k = held(m + n);
            for (variable, expected) in [("n", n), ("m", m), ("k", k)] {
                let found = controller.get_named(variable).unwrap();
                assert_eq!(found, Value::Int(expected), "{name}, {variable} after scan {scan}");
            }
            assert_eq!(controller.get_named("q"), Ok(Value::Bool(m > k)), "{name} after scan {scan}");
        }
    }
}
