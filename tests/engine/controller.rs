//! The machine as a whole: power, STOP and RUN, forces, faults and cyclic programs, beside a model of the same program in
//! straight Rust that is driven by the same happenings; and what its calls say of names and values that are none.

use crate::common::{checked, machine, version};
use fastrand::Rng;
use honest_twin::lang::Language;
use honest_twin::model::{Duration, Elem, Family, Instant, ScanNumber, Value};
use honest_twin::scan::{Controller, Direction, Machine, PointError, Power, ScanTime, Stimulus, Trace, run_stimulus};
use honest_twin::show;
use honest_twin::twin::script::{Script, play};

/// The feeder: doses are counted at rising edges and kept over power, the day's share is not; an alarm is late by 35 ms.
const FEEDER: &str = "PROGRAM Feeder
    VAR_INPUT Dose : BOOL; Low : BOOL; Share : INT := 7; END_VAR
    VAR_OUTPUT Alarm : BOOL; Total : DINT; Today : INT; Copy : INT; END_VAR
    VAR RETAIN Kept : DINT; END_VAR
    VAR Was : BOOL; Late : TON; END_VAR
    IF Dose AND NOT Was THEN Kept := Kept + Share; Today := Today + 1; END_IF;
    Was := Dose;
    Late(IN := Low, PT := T#35ms);
    Alarm := Late.Q; Total := Kept; Copy := Share;
    END_PROGRAM";

/// What the feeder should do, said in Rust without a tape, an image or slots.
#[derive(Clone, Default)]
struct Model {
    dose: bool,
    low: bool,
    share: i64,
    kept: i64,
    today: i64,
    was: bool,
    low_since: Option<i64>,
    stopped: bool,
    /// What the outside sees: Alarm, Total, Today, Copy.
    seen: (bool, i64, i64, i64),
    /// What Today and Share are forced to.
    forced: (Option<i64>, Option<i64>),
    powered: i64,
}

impl Model {
    fn scan(&mut self, at: i64) {
        if self.stopped {
            return;
        }
        let now = at - self.powered;
        let share = self.forced.1.unwrap_or(self.share);
        if self.dose && !self.was {
            self.kept += share;
            self.today += 1;
        }
        if let Some(held) = self.forced.0 {
            self.today = held;
        }
        self.was = self.dose;
        self.low_since = if self.low { self.low_since.or(Some(now)) } else { None };
        let alarm = self.low_since.is_some_and(|since| now - since >= 35_000_000);
        self.seen = (alarm, self.kept, self.today, share);
    }

    fn power(&mut self, at: i64) {
        *self = Model {
            dose: self.dose,
            low: self.low,
            share: self.share,
            kept: self.kept,
            stopped: self.stopped,
            forced: self.forced,
            powered: at,
            today: self.forced.0.unwrap_or(0),
            ..Model::default()
        };
        self.seen = (false, 0, self.today, 0);
    }
}

fn seen(controller: &Controller) -> (bool, i64, i64, i64) {
    let number = |name: &str| match controller.get_named(name).unwrap() {
        Value::Int(number) => number as i64,
        other => panic!("{name} is {other:?}"),
    };
    let alarm = controller.get_named("Alarm").unwrap() == Value::Bool(true);
    (alarm, number("Total"), number("Today"), number("Copy"))
}

/// One thing that happens to both.
fn happen(rng: &mut Rng, controller: &mut Controller, model: &mut Model, at: i64) -> String {
    let set = |controller: &mut Controller, name: &str, value: Value| controller.set_named(name, &value).unwrap();
    let point = |controller: &Controller, name: &str| controller.machine().find(name).unwrap();
    match rng.u8(..14) {
        0..=3 => {
            model.dose = rng.bool();
            set(controller, "Dose", Value::Bool(model.dose));
            format!("Dose {}", model.dose)
        }
        4..=6 => {
            model.low = rng.u8(..4) > 0;
            set(controller, "low", Value::Bool(model.low));
            format!("Low {}", model.low)
        }
        7 => {
            model.share = rng.i64(-40..40);
            set(controller, "SHARE", Value::Int(model.share.into()));
            format!("Share {}", model.share)
        }
        8 => {
            model.power(at);
            controller.power_cycle(Instant(Duration::from_nanos(at)));
            "power cycle".to_string()
        }
        9 => {
            model.stopped = rng.bool();
            if model.stopped {
                controller.stop()
            } else {
                controller.run()
            }
            format!("stopped {}", model.stopped)
        }
        10 => {
            let value = rng.i64(100..200);
            model.forced.0 = Some(value);
            model.today = value;
            controller.force(point(controller, "Today"), &Value::Int(value.into())).unwrap();
            format!("force Today {value}")
        }
        11 => {
            model.forced.0 = None;
            controller.release(point(controller, "Today"));
            "release Today".to_string()
        }
        12 => {
            let value = rng.i64(50..60);
            model.forced.1 = Some(value);
            controller.force(point(controller, "Share"), &Value::Int(value.into())).unwrap();
            format!("force Share {value}")
        }
        _ => {
            model.forced.1 = None;
            controller.release(point(controller, "Share"));
            "release Share".to_string()
        }
    }
}

#[test]
fn whatever_happens_the_machine_does_what_the_model_does() {
    let machine = machine("feeder", FEEDER, Language::St);
    let mut alarms = 0;
    for seed in 0..300 {
        let mut rng = Rng::with_seed(seed);
        let mut controller = Controller::new(&machine);
        let mut model = Model { share: 7, ..Model::default() };
        let (mut at, mut diary) = (0, Vec::new());
        for scan in 0..120 {
            for _ in 0..rng.u8(..3) {
                diary.push(format!("{scan}: {}", happen(&mut rng, &mut controller, &mut model, at)));
            }
            controller.scan(Instant(Duration::from_nanos(at)));
            model.scan(at);
            assert_eq!(seen(&controller), model.seen, "seed {seed}, scan {scan}\n{}", diary.join("\n"));
            alarms += u32::from(model.seen.0);
            at += rng.i64(1_000_000..20_000_000);
        }
        assert_eq!(controller.fault(), None);
    }
    assert!(alarms > 500, "{alarms} scans with an alarm");
}

#[test]
fn names_and_values_that_are_none_are_refused() {
    let machine = machine("feeder", FEEDER, Language::St);
    let mut controller = Controller::new(&machine);
    let none = PointError::Unknown("Depth".to_string());
    assert_eq!(controller.set_named("Depth", &Value::Bool(true)), Err(none.clone()));
    assert_eq!(controller.get_named("Depth"), Err(none.clone()));
    assert_eq!(none.to_string(), "there is no variable `Depth`");
    for (name, value) in [
        ("Dose", Value::Int(2)),
        ("Dose", Value::Real(1.0)),
        ("Share", Value::Int(40_000)),
        ("Share", Value::Bool(true)),
        ("Share", Value::Real(1.5)),
        ("Share", Value::Text("7".to_string())),
    ] {
        let point = machine.find(name).unwrap();
        let Err(said) = controller.set(point, &value) else { panic!("{name} takes {value:?}") };
        assert_eq!(said, PointError::Value { name: name.to_string(), value: value.to_string() }, "{value:?}");
        assert_eq!(controller.force(point, &value), Err(said), "{value:?}");
        // What is refused changes nothing.
        assert_eq!(controller.get_named("Share").unwrap(), Value::Int(7));
    }
    for (text, why) in [
        ("Depth=1", "there is no variable `Depth` to force"),
        ("Share=deep", "`deep` is not a value of `Share`"),
        ("Share=", "`` is not a value of `Share`"),
        ("Dose=2", "`2` is not a value of `Dose`"),
        ("", "there is no variable `` to force"),
    ] {
        assert_eq!(machine.force(text).unwrap_err().to_string(), why, "{text}");
    }
    let (point, value) = machine.force(" share = -3 ").unwrap();
    assert_eq!((point, value), (machine.find("Share").unwrap(), Some(Value::Int(-3))));
    assert_eq!(machine.force("Share").unwrap().1, None);
}

/// Of every type whole numbers are taken up to its ends and no further, by a point that is free and by one that is forced, which
/// shows what it was given when it is released.
#[test]
fn whole_numbers_are_taken_to_the_ends_of_their_type() {
    for elem in Elem::ALL.into_iter().filter(|elem| matches!(elem.family(), Family::Int | Family::Bits)) {
        let text = format!("PROGRAM P VAR_INPUT Flow : {}; END_VAR END_PROGRAM", elem.name());
        let machine = machine("ends", &text, Language::St);
        let flow = machine.find("Flow").unwrap();
        let (low, high) = elem.shape().unwrap().range();
        for is_forced in [false, true] {
            let mut controller = Controller::new(&machine);
            if is_forced {
                controller.force(flow, &Value::Int(1)).unwrap();
            }
            for number in [high, low, low - 1, high + 1, i128::MAX, i128::MIN, high - 1] {
                let fits = (low..=high).contains(&number);
                assert_eq!(controller.set(flow, &Value::Int(number)).is_ok(), fits, "{elem:?} {number}");
                let shown = if is_forced { Value::Int(1) } else { Value::Int(if fits { number } else { low }) };
                assert_eq!(controller.get(flow), shown, "{elem:?} {number}");
            }
            controller.release(flow);
            assert_eq!(controller.get(flow), Value::Int(high - 1), "{elem:?}");
        }
    }
}

/// A fault names its kind, place and scan; the machine stands from then on, and starts anew with power.
#[test]
fn a_fault_stands_until_power_is_cycled() {
    let rows = [
        ("Out := 100 / In;", 0, "division by zero", "100 / In"),
        ("Out := List[In];", 9, "index", "List[In]"),
        ("Range := In;", 77, "range", "Range := In"),
        ("WHILE In > 3 DO Out := 1; END_WHILE;", 4, "loop", "WHILE"),
        ("Out := REAL_TO_INT(1.0e4 * INT_TO_REAL(In));", 5, "range", "REAL_TO_INT"),
    ];
    for (body, bad, kind, place) in rows {
        let text = format!(
            "PROGRAM P VAR_INPUT In : INT := 1; END_VAR VAR_OUTPUT Out : INT; Scans : INT; END_VAR
             VAR List : ARRAY[0..5] OF INT; Range : INT (0..50); END_VAR
             {body} Scans := Scans + 1; END_PROGRAM"
        );
        let source = checked("p", &text, Language::St);
        let machine = Machine::new(&source).unwrap();
        let mut controller = Controller::new(&machine);
        let tick = |controller: &mut Controller, n: i64| controller.scan(Instant(Duration::from_millis(10 * n)));
        (0..3).for_each(|n| tick(&mut controller, n));
        assert_eq!(controller.get_named("Scans").unwrap(), Value::Int(3), "{body}");
        controller.set_named("In", &Value::Int(bad)).unwrap();
        tick(&mut controller, 3);
        let fault = controller.fault().unwrap_or_else(|| panic!("{body} does not fault"));
        assert_eq!(fault.scan, ScanNumber(3), "{body}");
        assert!(fault.kind.to_string().contains(kind), "{body}: {}", fault.kind);
        let at = source.project().sources[0].slice(fault.span);
        assert!(at.contains(place), "{body}: `{at}`");
        // Outputs hold what the last whole scan gave them; nothing runs any more, and RUN does not help.
        controller.set_named("In", &Value::Int(1)).unwrap();
        controller.run();
        tick(&mut controller, 4);
        assert_eq!((controller.get_named("Scans").unwrap(), controller.fault()), (Value::Int(3), Some(fault)));
        controller.power_cycle(Instant(Duration::from_millis(50)));
        tick(&mut controller, 5);
        assert_eq!((controller.get_named("Scans").unwrap(), controller.fault()), (Value::Int(1), None), "{body}");
    }
}

/// Programs with an interval run when it has passed, counted from power-up, however long scans take.
#[test]
fn programs_with_an_interval() {
    let text = "PROGRAM Slow VAR_OUTPUT N : INT; END_VAR N := N + 1; END_PROGRAM
        PROGRAM Fast VAR_OUTPUT M : INT; END_VAR M := M + 1; END_PROGRAM
        CONFIGURATION C RESOURCE R ON PLC
        TASK Often(INTERVAL := T#20ms, PRIORITY := 1); TASK Rare(INTERVAL := T#70ms, PRIORITY := 2);
        PROGRAM a WITH Often : Fast; PROGRAM b WITH Rare : Slow;
        END_RESOURCE END_CONFIGURATION";
    let machine = machine("p", text, Language::St);
    for scan in [1, 5, 7, 10, 20, 33, 70, 150] {
        let mut controller = Controller::new(&machine);
        let (mut fast, mut slow) = (0, 0);
        let (mut next_fast, mut next_slow) = (0, 0);
        for n in 0..200 {
            let at = n * scan;
            controller.scan(Instant(Duration::from_millis(at)));
            if at >= next_fast {
                fast += 1;
                next_fast = (at / 20 + 1) * 20;
            }
            if at >= next_slow {
                slow += 1;
                next_slow = (at / 70 + 1) * 70;
            }
            let of = |name: &str| controller.get_named(name).unwrap();
            assert_eq!((of("a.M"), of("b.N")), (Value::Int(fast), Value::Int(slow)), "{scan} ms, scan {n}");
        }
    }
}

fn run(machine: &Machine, stimulus: &Stimulus, scans: u64) -> Trace {
    let time = ScanTime::Fixed(Duration::from_millis(10));
    run_stimulus(&mut Controller::new(machine), stimulus, &time, scans, &[])
}

/// A stimulus drawn at random.
fn drawn(rng: &mut Rng, machine: &Machine) -> String {
    let mut out = "time_ms,Dose,Low,Share,@controller,@force\n".to_string();
    let mut at = 0;
    for _ in 0..rng.u8(1..20) {
        at += rng.u32(1..60);
        let maybe = |rng: &mut Rng, text: String| if rng.bool() { text } else { String::new() };
        let (dose, low, share) = (rng.u8(..2), rng.u8(..2), rng.i16(-50..50));
        let dose = maybe(rng, dose.to_string());
        let low = maybe(rng, low.to_string());
        let share = maybe(rng, share.to_string());
        let power = ["", "", "", "power-cycle", "stop", "run", "stop power-cycle run"][rng.usize(..7)];
        let force = ["", "", "", "Share=5", "Share", "Today=9;Share=2", "Today"][rng.usize(..7)];
        out.push_str(&format!("{at}.{:06},{dose},{low},{share},{power},{force}\n", rng.u32(..1_000_000)));
    }
    assert!(machine.find("Share").is_some());
    out
}

/// A stimulus is written as it was read; a trace is a stimulus that gives the same trace; so is a wave.
#[test]
fn stimuli_traces_and_waves_replay() {
    let feeder = version("feeder", FEEDER, Language::St);
    let machine = feeder.machine();
    for seed in 0..200 {
        let mut rng = Rng::with_seed(seed);
        let text = drawn(&mut rng, machine);
        let stimulus = Stimulus::read(&text, machine).unwrap();
        assert_eq!(Stimulus::read(&stimulus.write(machine), machine).unwrap(), stimulus, "{text}");
        let trace = run(machine, &stimulus, 100);
        let written = trace.write();
        let again = run(machine, &Stimulus::from_trace(&written, machine).unwrap(), 100);
        assert_eq!(again.write(), written, "{text}");
        // A wave has signals only, so what happened to the controller is not in it.
        let only_inputs: String =
            text.lines().map(|line| line.splitn(5, ',').take(4).collect::<Vec<_>>().join(",") + "\n").collect();
        let plain = run(machine, &Stimulus::read(&only_inputs, machine).unwrap(), 100);
        let wave = show::vcd(std::slice::from_ref(&plain), &["feeder"]).unwrap();
        let replayed = run(machine, &Stimulus::from_vcd(&wave, machine).unwrap(), 100);
        assert_eq!(replayed.write(), plain.write(), "{only_inputs}\n{wave}");
    }
}

/// A wave of scopes in scopes is refused before anything goes into them.
#[test]
fn a_wave_is_not_nested_without_end() {
    let machine = machine("feeder", FEEDER, Language::St);
    let wave = |depth: usize| {
        let (down, up) = ("$scope module a $end\n".repeat(depth), "$upscope $end\n".repeat(depth));
        format!("$timescale 1ms $end\n{down}$var wire 1 ! Dose $end\n{up}$enddefinitions $end\n#0\n1!\n")
    };
    assert!(Stimulus::from_vcd(&wave(200), &machine).is_ok());
    for depth in [257, 200_000] {
        let error = Stimulus::from_vcd(&wave(depth), &machine).unwrap_err();
        assert_eq!(error.what, "scopes are nested more than 256 deep");
    }
}

#[test]
fn what_is_wrong_with_a_stimulus_is_said_with_its_row() {
    let machine = machine("feeder", FEEDER, Language::St);
    let rows: &[(&str, u64, &str)] = &[
        ("", 1, "the first column is `time_ms`"),
        ("Dose,time_ms\n1,0\n", 1, "the first column is `time_ms`"),
        ("time_ms,Depth\n0,1\n", 1, "there is no input `Depth`; the inputs are Dose, Low, Share"),
        ("time_ms,Alarm\n0,1\n", 1, "`Alarm` is not an input"),
        ("time_ms,Dose\nsoon,1\n", 2, "`soon` is not a time in milliseconds"),
        ("time_ms,Dose\n-1,1\n", 2, "`-1` is not a time in milliseconds"),
        ("time_ms,Dose\n20,1\n10,0\n", 3, "times must not fall"),
        ("time_ms,Dose\n0,2\n", 2, "`2` is not a value of `Dose`"),
        ("time_ms,Share\n0,1\n10,99999\n", 3, "`99999` is not a value of `Share`"),
        ("time_ms,Dose\n0,1,0\n", 2, "3 cells, but the header has 2"),
        ("time_ms,@controller\n0,reset\n", 2, "`reset` is none of power-cycle, cold-start, stop and run"),
        ("time_ms,@force\n0,Depth=1\n", 2, "there is no variable `Depth` to force"),
        ("time_ms,@force\n0,Share=x\n", 2, "`x` is not a value of `Share`"),
    ];
    for (text, row, why) in rows {
        let said = Stimulus::read(text, &machine).unwrap_err();
        assert_eq!((said.row, said.what.as_str()), (*row, *why), "{text}");
        assert_eq!(said.to_string(), format!("row {row}: {why}"));
    }
    for text in ["", "scan,time_ms\n", "scan,time_ms,Dose\n0,zero,1\n", "a,b\n0,0\n"] {
        // What is no trace is refused or holds nothing, and never panics.
        if let Ok(read) = Stimulus::from_trace(text, &machine) {
            assert!(read.events.iter().all(|event| event.set.is_empty()), "{text}");
        }
    }
}

/// Words of power are written as they are read.
#[test]
fn words_of_power() {
    for power in [Power::Cycle, Power::Stop, Power::Run] {
        let machine = machine("feeder", FEEDER, Language::St);
        let text = format!("time_ms,Dose,@controller\n0,1,\n30,,{}\n", power.word());
        let stimulus = Stimulus::read(&text, &machine).unwrap();
        assert_eq!(stimulus.events[1].power, Some(power));
    }
}

/// Points are listed inputs first, then outputs, then the rest, each found by its name in any case.
#[test]
fn points_are_found_by_name_and_direction() {
    let machine = machine("feeder", FEEDER, Language::St);
    let order: Vec<u8> = machine
        .points()
        .iter()
        .map(|point| match point.direction {
            Direction::Input => 0,
            Direction::Output => 1,
            Direction::Internal => 2,
        })
        .collect();
    assert!(order.is_sorted() && order.contains(&2), "{order:?}");
    for point in machine.points() {
        let found = machine.find(&point.name.to_uppercase()).unwrap();
        assert_eq!(machine.point(found).name, point.name);
        assert_eq!(machine.find(&format!("{}x", point.name)), None);
    }
    assert!(machine.operations() > 10);
}

/// What a program expects is judged at the scan in which it is asked, whatever a scan takes.
#[test]
fn expectations_within_a_time_hold_for_every_scan_time() {
    let feeder = version("feeder", FEEDER, Language::St);
    for within in [20, 30, 34, 35, 60] {
        for scan in [1, 5, 7] {
            let text = format!("set Low on\nexpect Alarm within {within}ms\n");
            let played =
                play(&Script::read("s", &text).unwrap(), &[&feeder], &ScanTime::Fixed(Duration::from_millis(scan)))
                    .unwrap();
            // A time is rounded up to whole scans.
            let scans = |time: i64| (time + scan - 1) / scan;
            assert_eq!(played.failures.is_empty(), scans(within) >= scans(35), "{within} ms, {scan} ms");
        }
    }
}
