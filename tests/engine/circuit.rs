//! The circuit and the tape are two machines of one meaning: here each checks the other, on the corpus, on the
//! programs of all families, on programs drawn at random, and on those that provers have stumbled over.
//!
//! `HONEST_TWIN_PROGRAMS` says how many are drawn (300 if absent), `HONEST_TWIN_SEED` with which to begin.

use crate::common::dialects::{families, programs, read_in};
use crate::common::mutated;
use crate::common::programs::random;
use crate::common::{asked, machine};
use honest_twin::circuit::{LANES, Lanes, Unfit};
use honest_twin::lang::{LANGUAGES, Language, read_project};
use honest_twin::model::{Duration, Elem, Instant, Value};
use honest_twin::scan::{Controller, Direction, Machine, Point, PointId, PointType};
use honest_twin::source::Source;

const SCAN: Duration = Duration::from_millis(10);

/// A value of a point: mostly near zero, now and then anything.
fn value(point: &Point, rng: &mut fastrand::Rng) -> Value {
    let wild = rng.u8(..8) == 0;
    match &point.ty {
        PointType::Elem(Elem::Bool) => Value::Bool(rng.bool()),
        PointType::Elem(elem) if elem.is_real() => {
            Value::Real(if wild { 1e30 } else { f64::from(rng.i16(-40..40)) / 4.0 })
        }
        PointType::Elem(elem) if elem.is_time() => Value::Time(Duration::from_millis(rng.i64(-5..400))),
        PointType::Elem(elem) => {
            let (low, high) = elem.shape().unwrap().range();
            let near = i128::from(rng.i16(-3..60)).clamp(low, high);
            Value::Int(if wild { i128::from(rng.i64(..)).rem_euclid(high - low + 1) + low } else { near })
        }
        PointType::Range(elem, low, high) => Value::from_slot(*elem, rng.i64(low..=high)),
        PointType::Enum(values) => {
            let (name, number) = &values[rng.usize(..values.len())];
            Value::Enum(*number, Some(name.clone()))
        }
        PointType::Text => panic!("strings have no circuit"),
    }
}

/// Some controllers in lanes, beside as many on the tape. Gives how many ended with a fault.
pub(crate) fn beside(name: &str, machine: &Machine, scans: u64) -> Result<u32, Unfit> {
    let mut lanes = Lanes::new(machine, SCAN)?;
    let mut rng = fastrand::Rng::with_seed(scans ^ name.len() as u64);
    let looked_at = [0, 1, 63, 64, 130, LANES - 1];
    let mut controllers: Vec<Controller> = looked_at.iter().map(|_| Controller::new(machine)).collect();
    let mut beyond = [false; 6];
    let points: Vec<(PointId, Point)> = machine.points_of(Direction::Input).map(|(id, p)| (id, p.clone())).collect();
    for scan in 0..scans {
        let at = Instant(Duration::from_nanos(SCAN.nanos() * scan as i64));
        for (lane, controller) in looked_at.iter().zip(&mut controllers) {
            // Each at its own pace, so that timers get through in some of them.
            let calm = 1 << (lane % 7);
            for (id, point) in points.iter().filter(|_| rng.u32(..calm + 1) == 0).collect::<Vec<_>>() {
                let value = value(point, &mut rng);
                lanes.set(*id, *lane, &value).unwrap();
                controller.set(*id, &value).unwrap();
            }
            if scan > 0 && rng.u8(..40) == 0 {
                lanes.power_cycle(*lane);
                controller.power_cycle(at);
            }
        }
        lanes.scan();
        for (number, (lane, controller)) in looked_at.iter().zip(&mut controllers).enumerate() {
            controller.scan(at);
            beyond[number] |= lanes.is_beyond(*lane);
            if beyond[number] {
                continue;
            }
            let faults = (controller.fault().map(|f| f.kind), lanes.fault(*lane));
            assert_eq!(faults.0, faults.1, "{name}: fault in scan {scan}, lane {lane}");
            for (id, point) in machine.points_of(Direction::Output) {
                // What nothing has written since power-up is not looked at.
                if faults.0.is_some() {
                    continue;
                }
                let (tape, circuit) = (controller.get(id), lanes.get(id, *lane).unwrap());
                let same = tape == circuit
                    || matches!((&tape, &circuit), (Value::Real(a), Value::Real(b)) if a.is_nan() && b.is_nan());
                assert!(same, "{name}: {} in scan {scan}, lane {lane}: tape {tape}, circuit {circuit}", point.name);
            }
        }
    }
    Ok(controllers.iter().filter(|c| c.fault().is_some()).count() as u32)
}

#[test]
fn the_corpus_runs_alike_on_both() {
    for folder in std::fs::read_dir("tests/corpus").unwrap().chain(std::fs::read_dir("tests/vectors").unwrap()) {
        let folder = folder.unwrap().path();
        for language in LANGUAGES {
            let Ok(text) = std::fs::read_to_string(folder.join(format!("prog.{}", language.ending()))) else {
                continue;
            };
            let name = format!("{} {}", folder.display(), language.ending());
            beside(&name, &machine("prog", &text, *language), 200).unwrap_or_else(|e| panic!("{name}: {e}"));
        }
    }
}

#[test]
fn every_family_runs_alike_on_both() {
    for family in families() {
        for (name, text, language) in programs(family) {
            let machine = Machine::new(&read_in(family, &name, &text, language)).unwrap();
            beside(&format!("{family}/{name}"), &machine, 200).unwrap_or_else(|e| panic!("{family}/{name}: {e}"));
        }
    }
}

#[test]
fn random_programs_run_alike_on_both() {
    let (count, first) = (asked("HONEST_TWIN_PROGRAMS").unwrap_or(300), asked("HONEST_TWIN_SEED").unwrap_or(1));
    let (mut faults, mut unfit) = (0, 0);
    for seed in first..first + count {
        let program = random(seed);
        match beside(&format!("seed {seed}\n{}", program.text), &machine("random", &program.text, Language::St), 120) {
            Ok(ended) => faults += ended,
            Err(_) => unfit += 1,
        }
    }
    println!("{count} programs, {unfit} without a circuit; {faults} controllers ended with the same fault");
    assert!(unfit * 10 < count, "most programs must have a circuit");
}

/// What provers have stumbled over: two arrays on one index, elements handed over, 64 bits of both signs, BOOL beside words,
/// arrays beyond every bound, loops, enumerations; open and behind a door, before and after a change.
#[test]
fn what_provers_stumble_over_runs_alike_on_both() {
    let count = std::env::var("HONEST_TWIN_PROGRAMS").ok().and_then(|v| v.parse().ok()).unwrap_or(60);
    let (mut read, mut faults, mut unfit) = (0, 0, 0);
    for seed in 0..count {
        // Here the door stands open: what is behind it would hardly ever run otherwise.
        for text in mutated::pair(seed, false) {
            let (project, problems) = read_project(vec![(Source::new("drawn", text.as_str()), Language::St)]);
            // A change may make no program of it.
            let Some(project) = (!problems.has_errors()).then(|| honest_twin::check::check(project).ok()).flatten()
            else {
                continue;
            };
            read += 1;
            match beside(&format!("seed {seed}\n{text}"), &Machine::new(&project).unwrap(), 60) {
                Ok(ended) => faults += ended,
                Err(_) => unfit += 1,
            }
        }
    }
    println!("{read} programs, {unfit} without a circuit; {faults} controllers ended with the same fault");
    assert!(read * 10 > count * 18 && unfit * 10 < read, "{read} read, {unfit} without a circuit");
}

/// A program in which each operator has a constant on one side, of one type.
fn with_constants(ty: &str, constants: &[&str]) -> String {
    let mut outputs = String::new();
    let mut body = String::new();
    for (number, constant) in constants.iter().enumerate() {
        let mut put = |kind: &str, ty: &str, value: String| {
            outputs.push_str(&format!("{kind}{number} : {ty}; "));
            body.push_str(&format!("{kind}{number} := {value};\n"));
        };
        let c = format!("{ty}#{constant}");
        for (name, operator) in [("plus", "+"), ("minus", "-"), ("times", "*")] {
            put(name, ty, format!("n {operator} {c}"));
            put(&format!("of_{name}"), ty, format!("{c} {operator} n"));
        }
        for (name, operator) in [("eq", "="), ("ne", "<>"), ("lt", "<"), ("le", "<="), ("gt", ">"), ("ge", ">=")] {
            put(name, "BOOL", format!("n {operator} {c}"));
            put(&format!("of_{name}"), "BOOL", format!("{c} {operator} n"));
        }
        for name in ["MIN", "MAX"] {
            put(name, ty, format!("{name}(n, {c})"));
            put(&format!("of_{name}"), ty, format!("{name}({c}, n)"));
        }
        put("either", ty, format!("SEL(x, n, {c})"));
        put("or_else", ty, format!("SEL(x, {c}, n)"));
        put("both", ty, format!("SEL(x, {c}, {ty}#{})", constants[0]));
        put("kept", ty, format!("SEL(x, kept{number}, {c})"));
    }
    format!("PROGRAM P VAR_INPUT x : BOOL; n : {ty}; END_VAR VAR_OUTPUT {outputs} END_VAR\n{body}END_PROGRAM\n")
}

/// In planes what is done with a constant goes its own way, so each operator is put beside the tape with constants on either side.
#[test]
fn constants_on_either_side_are_computed_as_the_tape_does() {
    let rows: &[(&str, &[&str])] = &[
        ("SINT", &["0", "1", "-1", "7", "127", "-128"]),
        ("USINT", &["0", "1", "3", "128", "255"]),
        ("INT", &["0", "1", "-1", "100", "-100", "32767", "-32768"]),
        ("UINT", &["0", "2", "1000", "65535"]),
        ("DINT", &["0", "5", "-5", "2147483647", "-2147483648"]),
        ("UDINT", &["1", "4294967295"]),
        ("LINT", &["0", "10", "-10", "9223372036854775807", "-9223372036854775807"]),
        ("ULINT", &["1", "9223372036854775807"]),
    ];
    for (ty, constants) in rows {
        let source = Source::new("constants.st", with_constants(ty, constants));
        let (project, problems) = read_project(vec![(source, Language::St)]);
        assert!(problems.0.is_empty(), "{ty}: {problems:?}");
        let machine = Machine::new(&honest_twin::check::check(project).unwrap()).unwrap();
        assert_eq!(beside(ty, &machine, 400).unwrap(), 0, "{ty}");
    }
}
