//! Operators and functions of every type against exact arithmetic, done here in 128 bits: all pairs of values where both
//! have 8 bits, the edges of every other type and the values beside them. Tape and circuit are asked the same.

use crate::common::machine;
use honest_twin::circuit::{LANES, Lanes};
use honest_twin::lang::Language;
use honest_twin::model::functions::{Faults, Function, RealFunction, Shift, SideEffect, TypeRule};
use honest_twin::model::ops::{BinaryOp, FaultKind};
use honest_twin::model::{Duration, Elem, Family, Instant, Value};
use honest_twin::scan::Controller;
use proptest::prelude::*;

type Exact = Box<dyn Fn(&[i128]) -> Result<i128, FaultKind>>;

/// One expression over inputs `a`, `b` and `c`, and what it must give.
struct Case {
    inputs: Vec<Elem>,
    text: String,
    result: Elem,
    exact: Exact,
}

fn case(
    inputs: &[Elem],
    text: impl Into<String>,
    result: Elem,
    exact: impl Fn(&[i128]) -> Result<i128, FaultKind> + 'static,
) -> Case {
    Case { inputs: inputs.to_vec(), text: text.into(), result, exact: Box::new(exact) }
}

/// The lowest bits of a number, as a type has them.
fn wrap(elem: Elem, number: i128) -> i128 {
    let shape = elem.shape().unwrap();
    let size = 1i128 << shape.bits;
    let low = number.rem_euclid(size);
    if shape.signed && low >= size / 2 { low - size } else { low }
}

fn limits(elem: Elem) -> (i128, i128) {
    elem.shape().unwrap().range()
}

/// All values of 8 bits; of other types the ends, zero, powers of two, and what is beside them.
fn values(elem: Elem) -> Vec<i128> {
    let (low, high) = limits(elem);
    if high - low < 256 {
        return (low..=high).collect();
    }
    let powers = [7, 8, 15, 16, 31, 32, 62, 63].map(|n| 1i128 << n);
    let marks = [0, 3, 10, 1_000_000, low, high].into_iter().chain(powers);
    let mut out: Vec<i128> = marks.flat_map(|n| [n - 1, n, n + 1, -n]).filter(|n| (low..=high).contains(n)).collect();
    out.sort_unstable();
    out.dedup();
    out
}

fn value(elem: Elem, number: i128) -> Value {
    match elem.family() {
        Family::Bool => Value::Bool(number != 0),
        Family::Time => Value::Time(Duration::from_nanos(number as i64)),
        Family::Bits | Family::Int => Value::Int(number),
        Family::Real | Family::Text => unreachable!("whole types only"),
    }
}

fn number(value: &Value) -> i128 {
    match value {
        Value::Bool(b) => i128::from(*b),
        Value::Int(n) => *n,
        Value::Time(t) => t.nanos().into(),
        Value::Real(_) | Value::Enum(..) | Value::Text(_) => unreachable!("whole types only"),
    }
}

fn program(case: &Case) -> String {
    let names = ["a", "b", "c"];
    let inputs: String =
        case.inputs.iter().zip(names).map(|(elem, name)| format!("{name} : {}; ", elem.name())).collect();
    format!(
        "PROGRAM P VAR_INPUT {inputs} END_VAR VAR_OUTPUT r : {}; END_VAR r := {}; END_PROGRAM",
        case.result.name(),
        case.text
    )
}

/// Every combination of the inputs' values.
fn combinations(case: &Case) -> Vec<Vec<i128>> {
    case.inputs.iter().fold(vec![Vec::new()], |all, elem| {
        let values = values(*elem);
        // Of three inputs every few will do.
        let step = if case.inputs.len() > 2 { 1 + values.len() / 12 } else { 1 };
        let longer = |row: &Vec<i128>| {
            values.iter().step_by(step).map(|v| row.iter().copied().chain([*v]).collect()).collect::<Vec<Vec<i128>>>()
        };
        all.iter().flat_map(longer).collect()
    })
}

/// Runs a case on the tape and in the circuit, as many controllers at a time as there are lanes. Gives how many it ran.
fn check(case: &Case) -> usize {
    let text = program(case);
    let machine = machine("case", &text, Language::St);
    let inputs: Vec<_> = ["a", "b", "c"].iter().take(case.inputs.len()).map(|n| machine.find(n).unwrap()).collect();
    let result = machine.find("r").unwrap();
    let mut lanes = Lanes::new(&machine, Duration::from_millis(10)).unwrap();
    let mut controller = Controller::new(&machine);
    let all = combinations(case);
    for batch in all.chunks(LANES) {
        for (lane, row) in batch.iter().enumerate() {
            for ((point, elem), number) in inputs.iter().zip(&case.inputs).zip(row) {
                lanes.set(*point, lane, &value(*elem, *number)).unwrap();
            }
            lanes.power_cycle(lane);
        }
        lanes.scan();
        for (lane, row) in batch.iter().enumerate() {
            for ((point, elem), number) in inputs.iter().zip(&case.inputs).zip(row) {
                controller.set(*point, &value(*elem, *number)).unwrap();
            }
            controller.scan(Instant(Duration::from_millis(0)));
            let fault = controller.fault().map(|fault| fault.kind);
            let tape = fault.map_or_else(|| Ok(number(&controller.get(result))), Err);
            let circuit = lanes.fault(lane).map_or_else(|| Ok(number(&lanes.get(result, lane).unwrap())), Err);
            let exact = (case.exact)(row);
            assert_eq!((&tape, &circuit), (&exact, &exact), "{text}\nof {row:?}: tape, circuit | exact");
            if fault.is_some() {
                controller = Controller::new(&machine);
            }
        }
    }
    all.len()
}

const INTEGERS: [Elem; 8] =
    [Elem::Sint, Elem::Usint, Elem::Int, Elem::Uint, Elem::Dint, Elem::Udint, Elem::Lint, Elem::Ulint];
const BITS: [Elem; 5] = [Elem::Bool, Elem::Byte, Elem::Word, Elem::Dword, Elem::Lword];

fn compares(op: BinaryOp, a: i128, b: i128) -> i128 {
    i128::from(match op {
        BinaryOp::Eq => a == b,
        BinaryOp::Ne => a != b,
        BinaryOp::Lt => a < b,
        BinaryOp::Le => a <= b,
        BinaryOp::Gt => a > b,
        BinaryOp::Ge => a >= b,
        other => unreachable!("{} compares nothing", other.symbol()),
    })
}

fn operators(cases: &mut Vec<Case>) {
    let comparisons = BinaryOp::ALL.into_iter().filter(|op| op.is_comparison());
    for elem in INTEGERS.into_iter().chain(BITS).chain([Elem::Time, Elem::Ltime]) {
        for op in comparisons.clone() {
            let text = format!("a {} b", op.symbol());
            cases.push(case(&[elem, elem], text, Elem::Bool, move |v| Ok(compares(op, v[0], v[1]))));
        }
    }
    for elem in INTEGERS {
        cases.push(case(&[elem, elem], "a + b", elem, move |v| Ok(wrap(elem, v[0] + v[1]))));
        cases.push(case(&[elem, elem], "a - b", elem, move |v| Ok(wrap(elem, v[0] - v[1]))));
        cases.push(case(&[elem, elem], "a * b", elem, move |v| Ok(wrap(elem, v[0].wrapping_mul(v[1])))));
        cases.push(case(&[elem, elem], "a / b", elem, move |v| match v[1] {
            0 => Err(FaultKind::DivisionByZero),
            by => Ok(wrap(elem, v[0] / by)),
        }));
        cases.push(case(&[elem, elem], "a MOD b", elem, move |v| Ok(if v[1] == 0 { 0 } else { v[0] % v[1] })));
    }
    for elem in BITS {
        cases.push(case(&[elem, elem], "a AND b", elem, |v| Ok(v[0] & v[1])));
        cases.push(case(&[elem, elem], "a OR b", elem, |v| Ok(v[0] | v[1])));
        cases.push(case(&[elem, elem], "a XOR b", elem, |v| Ok(v[0] ^ v[1])));
        cases.push(case(&[elem], "NOT a", elem, move |v| Ok(wrap(elem, !v[0]))));
    }
    for elem in INTEGERS.into_iter().filter(|e| e.is_signed_integer()).chain([Elem::Time]) {
        cases.push(case(&[elem], "-a", elem, move |v| Ok(wrap(elem, -v[0]))));
    }
    let time = |v: i128| wrap(Elem::Time, v);
    cases.push(case(&[Elem::Time, Elem::Time], "a + b", Elem::Time, move |v| Ok(time(v[0] + v[1]))));
    cases.push(case(&[Elem::Time, Elem::Time], "a - b", Elem::Time, move |v| Ok(time(v[0] - v[1]))));
    cases.push(case(&[Elem::Time, Elem::Int], "a * b", Elem::Time, move |v| Ok(time(v[0] * v[1]))));
    cases.push(case(&[Elem::Time, Elem::Sint], "a / b", Elem::Time, move |v| match v[1] {
        0 => Err(FaultKind::DivisionByZero),
        by => Ok(time(v[0] / by)),
    }));
}

fn functions(cases: &mut Vec<Case>) {
    for elem in INTEGERS {
        cases.push(case(&[elem], "ABS(a)", elem, move |v| Ok(wrap(elem, v[0].abs()))));
        cases.push(case(&[elem, elem], "MAX(a, b)", elem, |v| Ok(v[0].max(v[1]))));
        cases.push(case(&[elem, elem], "MIN(a, b)", elem, |v| Ok(v[0].min(v[1]))));
        cases.push(case(&[elem, elem, elem], "LIMIT(a, b, c)", elem, |v| Ok(v[1].max(v[0]).min(v[2]))));
        cases.push(case(&[Elem::Bool, elem, elem], "SEL(a, b, c)", elem, |v| Ok(v[1 + v[0] as usize])));
        cases.push(case(&[Elem::Sint, elem, elem], "MUX(a, b, c)", elem, |v| match v[0] {
            0 | 1 => Ok(v[1 + v[0] as usize]),
            _ => Err(FaultKind::OutOfRange),
        }));
    }
    for elem in BITS.into_iter().filter(|e| *e != Elem::Bool) {
        let bits = i128::from(elem.shape().unwrap().bits);
        let in_range = |v: &[i128]| if v[1] < 0 { Err(FaultKind::OutOfRange) } else { Ok(v[1]) };
        let shl = move |a: i128, n: i128| if n >= bits { 0 } else { wrap(elem, a << n) };
        let shr = move |a: i128, n: i128| if n >= bits { 0 } else { a >> n };
        let two = [elem, Elem::Sint];
        cases.push(case(&two, "SHL(a, b)", elem, move |v| Ok(shl(v[0], in_range(v)?))));
        cases.push(case(&two, "SHR(a, b)", elem, move |v| Ok(shr(v[0], in_range(v)?))));
        cases.push(case(&two, "ROL(a, b)", elem, move |v| {
            let n = in_range(v)? % bits;
            Ok(shl(v[0], n) | shr(v[0], bits - n))
        }));
        cases.push(case(&two, "ROR(a, b)", elem, move |v| {
            let n = in_range(v)? % bits;
            Ok(shr(v[0], n) | shl(v[0], bits - n))
        }));
        cases.push(case(&[elem], format!("{}_BCD_TO_ULINT(a)", elem.name()), Elem::Ulint, |v| {
            let digits = (0..16).rev().map(|digit| v[0] >> (4 * digit) & 15);
            digits.clone().all(|d| d < 10).then(|| digits.fold(0, |n, d| n * 10 + d)).ok_or(FaultKind::OutOfRange)
        }));
        cases.push(case(&[Elem::Lint], format!("LINT_TO_BCD_{}(a)", elem.name()), elem, move |v| {
            if v[0] < 0 || v[0] >= 10i128.pow(bits as u32 / 4) {
                return Err(FaultKind::OutOfRange);
            }
            Ok((0..16).fold(0, |sum, digit| sum | (v[0] / 10i128.pow(digit) % 10) << (4 * digit)))
        }));
    }
    for from in INTEGERS.into_iter().chain(BITS) {
        for to in INTEGERS.into_iter().chain(BITS).filter(|to| *to != from) {
            let text = format!("{}_TO_{}(a)", from.name(), to.name());
            cases.push(case(&[from], text, to, move |v| Ok(wrap(to, v[0]))));
        }
        // TIME is whole milliseconds there, LTIME nanoseconds.
        for (time, unit) in [(Elem::Time, 1_000_000), (Elem::Ltime, 1)] {
            let text = format!("{}_TO_{}(a)", from.name(), time.name());
            cases.push(case(&[from], text, time, move |v| match v[0] * unit {
                ns if wrap(Elem::Ltime, ns) == ns => Ok(ns),
                _ => Err(FaultKind::OutOfRange),
            }));
            let text = format!("{}_TO_{}(a)", time.name(), from.name());
            cases.push(case(&[time], text, from, move |v| Ok(wrap(from, v[0] / unit))));
        }
    }
}

#[test]
fn whole_types_are_computed_exactly_by_tape_and_circuit() {
    let mut cases = Vec::new();
    operators(&mut cases);
    functions(&mut cases);
    let run: usize = cases.iter().map(check).sum();
    assert!(cases.len() > 400 && run > 1_000_000, "{} cases, {run} runs", cases.len());
}

/// What a REAL or LREAL expression of two inputs gives on the tape.
fn real(text: &str, elem: Elem, result: Elem, a: f64, b: f64) -> Result<Value, FaultKind> {
    let text = format!(
        "PROGRAM P VAR_INPUT a, b : {}; END_VAR VAR_OUTPUT r : {}; END_VAR r := {text}; END_PROGRAM",
        elem.name(),
        result.name()
    );
    let machine = machine("real", &text, Language::St);
    let mut controller = Controller::new(&machine);
    controller.set_named("a", &Value::Real(a)).unwrap();
    controller.set_named("b", &Value::Real(b)).unwrap();
    controller.scan(Instant(Duration::from_millis(0)));
    controller.fault().map_or_else(|| Ok(controller.get_named("r").unwrap()), |fault| Err(fault.kind))
}

fn same(a: f64, b: f64) -> bool {
    a == b || a.is_nan() && b.is_nan()
}

/// Numbers of all sizes, and what is not a finite number.
fn any_real() -> impl Strategy<Value = f64> {
    prop_oneof![
        4 => -1e4..1e4f64,
        2 => any::<f64>(),
        1 => prop::sample::select(vec![0.0, -0.0, 0.5, 1.5, 2.5, -0.5, 1e300, f64::INFINITY, f64::NAN, f64::MIN_POSITIVE]),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn real_is_single_and_lreal_is_double(a in any_real(), b in any_real()) {
        let (x, y) = (a as f32, b as f32);
        for (op, single, double) in [("+", x + y, a + b), ("-", x - y, a - b), ("*", x * y, a * b), ("/", x / y, a / b)] {
            let text = format!("a {op} b");
            let Ok(Value::Real(r)) = real(&text, Elem::Real, Elem::Real, a, b) else { panic!("{text}") };
            prop_assert!(same(r, f64::from(single)), "REAL {a} {op} {b} is {r}, not {single}");
            let Ok(Value::Real(r)) = real(&text, Elem::Lreal, Elem::Lreal, a, b) else { panic!("{text}") };
            prop_assert!(same(r, double), "LREAL {a} {op} {b} is {r}, not {double}");
        }
        for (op, is) in [("=", a == b), ("<>", a != b), ("<", a < b), ("<=", a <= b), (">", a > b), (">=", a >= b)] {
            prop_assert_eq!(real(&format!("a {op} b"), Elem::Lreal, Elem::Bool, a, b), Ok(Value::Bool(is)));
        }
    }

    #[test]
    fn reals_become_integers_by_halves_to_even_or_not_at_all(a in any_real()) {
        for elem in [Elem::Sint, Elem::Uint, Elem::Dint, Elem::Lint, Elem::Ulint] {
            let (low, high) = limits(elem);
            let whole = |r: f64| {
                let number = r as i128;
                (r.is_finite() && r.abs() < 1e30 && (low..=high).contains(&number)).then_some(number)
            };
            for (text, exact) in [("TO", whole(a.round_ties_even())), ("TRUNC", whole(a.trunc()))] {
                let text = format!("LREAL_{text}_{}(a)", elem.name());
                prop_assert_eq!(real(&text, Elem::Lreal, elem, a, 0.0), exact.map(Value::Int).ok_or(FaultKind::OutOfRange));
            }
        }
    }

    /// No sequence of letters makes the table of names panic, and a name leads to a function of that name.
    #[test]
    fn names_lead_to_functions_and_back(name in "(LREAL|INT|WORD|TIME|BOOL)?(_TO_|_TRUNC_|_BCD_TO_|_TO_BCD_|TO_)?(LINT|UINT|DWORD|REAL)?") {
        if let Some(function) = Function::from_name(&name) {
            prop_assert_eq!(function.name(), name);
        }
    }
}

fn all_functions() -> Vec<Function> {
    let named = Function::names().map(|name| Function::from_name(name).unwrap());
    let pairs = || Elem::ALL.into_iter().flat_map(|from| Elem::ALL.map(|to| (from, to)));
    let converted = pairs().map(|(from, to)| Function::Convert(Some(from), to));
    let truncated = pairs().filter(|(_, to)| to.is_integer()).map(|(from, to)| Function::Truncate(Some(from), to));
    let bits = |elem: Elem| elem.family() == Family::Bits;
    let digits = pairs().filter(move |(from, to)| bits(*from) && to.is_integer());
    let digits = digits.flat_map(|(bits, whole)| [Function::FromBcd(bits, whole), Function::ToBcd(whole, bits)]);
    named.chain(converted).chain(truncated).chain(digits).chain([Function::Convert(None, Elem::Int)]).collect()
}

/// What a row says is what a call does: a value of the type it names, and no fault where it says there is none.
#[test]
fn rows_are_true() {
    for function in all_functions() {
        let row = function.row();
        assert_eq!(Function::from_name(&function.name()), Some(function), "{}", function.name());
        assert_eq!(
            function.name().to_lowercase().parse::<String>().ok().and_then(|n| Function::from_name(&n)),
            Some(function)
        );
        assert_eq!(row.effect == SideEffect::Restarts, function == Function::Restart);
        if let Some(name) = row.parameters.name(0) {
            assert_eq!(row.parameters.position(&name.to_lowercase()), Some(0), "{}", function.name());
        }
        let may = match function {
            Function::Operator(op) => matches!(op, BinaryOp::Div | BinaryOp::Mul),
            Function::Real(RealFunction::Sqrt | RealFunction::Ln) | Function::Abs | Function::Sel => false,
            Function::Mux | Function::Shift(Shift::Rol) | Function::Truncate(..) => true,
            Function::Convert(..) | Function::FromBcd(..) | Function::ToBcd(..) => true,
            Function::Shift(_) => true,
            Function::Real(_) | Function::Max | Function::Min | Function::Limit | Function::Move => false,
            Function::Not | Function::Since | Function::Restart | Function::FirstScan => false,
            Function::Ticks | Function::ScanTime => false,
        };
        assert_eq!(row.faults != Faults::Never, may, "{}", function.name());
        let is_operator = matches!(row.rule, TypeRule::Operator(_));
        assert_eq!(is_operator, matches!(function, Function::Operator(_)));
    }
    for no_name in
        ["REAL_BCD_TO_INT", "INT_TO_BCD_REAL", "BOOL_BCD_TO_INT", "REAL_TRUNC_WORD", "_TO_INT", "INT_TO_", "TO_", ""]
    {
        assert_eq!(Function::from_name(no_name), None, "{no_name}");
    }
}
