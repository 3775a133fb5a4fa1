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
    "q := a AND b OR NOT a AND r XOR q; r := (q OR a) AND NOT (b AND q) XOR r; q := q = (a AND NOT b AND r); n := n + 1;",
    "IF a AND NOT b OR q AND r THEN q := (a OR r) XOR (b AND q); r := q; q := NOT (q AND r); ELSE r := a <> (b OR q); END_IF;",
    "FOR n := 1 TO 3 DO q := q XOR a AND NOT r OR b; IF q AND (a OR r) AND NOT b THEN EXIT; END_IF; r := NOT q OR a; END_FOR;",
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

/// Of six inputs the combinations in which each is TRUE.
const INPUTS: [(&str, u64); 6] = [
    ("a", 0xaaaa_aaaa_aaaa_aaaa),
    ("b", 0xcccc_cccc_cccc_cccc),
    ("c", 0xf0f0_f0f0_f0f0_f0f0),
    ("d", 0xff00_ff00_ff00_ff00),
    ("e", 0xffff_0000_ffff_0000),
    ("f", 0xffff_ffff_0000_0000),
];

/// A BOOL expression over these inputs: its text, and the combinations in which it is TRUE.
fn expression(rng: &mut fastrand::Rng, depth: u32) -> (String, u64) {
    if depth == 0 || rng.u8(..8) == 0 {
        return match rng.u8(..24) {
            0 => ("TRUE".to_string(), u64::MAX),
            1 => ("FALSE".to_string(), 0),
            2 => ("bits.%X1".to_string(), INPUTS[1].1),
            _ => {
                let (name, table) = INPUTS[rng.usize(..6)];
                (name.to_string(), table)
            }
        };
    }
    let (left, x) = expression(rng, depth - 1);
    if rng.u8(..5) == 0 {
        return (format!("NOT ({left})"), !x);
    }
    let (right, y) = expression(rng, depth - 1);
    let (operator, table) = match rng.u8(..10) {
        0..=2 => ("AND", x & y),
        3 => ("AND NOT", x & !y),
        4..=5 => ("OR", x | y),
        6 => ("OR NOT", x | !y),
        7..=8 => ("XOR", x ^ y),
        _ => ("=", !(x ^ y)),
    };
    (format!("({left}) {operator} ({right})"), table)
}

/// Logic of BOOL values is looked up in tables, wherever it stands: each expression for each combination of its inputs, as the
/// expression is computed by itself; beside it a bit string joined with what was a BOOL.
#[test]
fn expressions_are_what_they_are_for_every_combination() {
    let mut rng = fastrand::Rng::with_seed(14);
    for number in 0..120u32 {
        let [(q, in_q), (r, in_r), (s, in_s), (t, in_t)] = [0; 4].map(|_| expression(&mut rng, 1 + number % 5));
        let text = format!(
            "PROGRAM P VAR_INPUT a, b, c, d, e, f : BOOL; END_VAR VAR_OUTPUT q, r, s : BOOL; n, m : BYTE; END_VAR
            VAR bits : WORD; END_VAR bits.%X1 := b; q := {q}; IF {r} THEN r := q; ELSE r := {s}; END_IF;
            s := (q OR r) AND NOT (q AND r AND a); n := BOOL_TO_BYTE({t}) OR BYTE#6; m := n AND BYTE#3; END_PROGRAM"
        );
        let languages = if number % 12 == 0 { LANGUAGES } else { &[Language::St, Language::Il] };
        for language in languages {
            let text = crate::common::translated("expressions", &text, Language::St, *language);
            let machine = machine("expressions", &text, *language);
            let mut controller = Controller::new(&machine);
            for combination in 0..64 {
                let is = |table: u64| table >> combination & 1 == 1;
                for (name, table) in INPUTS {
                    controller.set_named(name, &Value::Bool(is(table))).unwrap();
                }
                controller.scan(Instant(Duration::from_millis(10 * combination)));
                let r = if is(in_r) { is(in_q) } else { is(in_s) };
                let s = (is(in_q) || r) && !(is(in_q) && r && is(INPUTS[0].1));
                let n = i128::from(is(in_t)) | 6;
                let expected =
                    [Value::Bool(is(in_q)), Value::Bool(r), Value::Bool(s), Value::Int(n), Value::Int(n & 3)];
                let found = ["q", "r", "s", "n", "m"].map(|name| controller.get_named(name).unwrap());
                assert_eq!(found, expected, "{}, combination {combination}\n{text}", language.ending());
            }
        }
    }
}
