//! Plants: a machine with its plant does what the machine and the plant do that are run by themselves and wired by hand, on
//! the tape and in the circuit; and a row for each wire that cannot be.

use crate::circuit::beside;
use crate::common::checked;
use honest_twin::check::{Checked, check};
use honest_twin::lang::{Language, PlantFile, join_plant, read_project};
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::scan::{Controller, Direction, Machine, PointType};
use honest_twin::source::Source;
use std::collections::VecDeque;

const SCAN: Duration = Duration::from_millis(10);

/// A program with plants, each as its plant file says it and with the text of its program.
pub(crate) fn with_plants(text: &str, plants: &[(&str, &str)]) -> Result<Checked, String> {
    let (mut project, mut problems) = read_project(vec![(Source::new("machine.st", text), Language::St)]);
    for (file, program) in plants {
        let file = PlantFile::read(file).map_err(|e| e.to_string())?;
        problems.0.extend(join_plant(&mut project, &file, vec![(Source::new("plant.st", *program), Language::St)]).0);
    }
    let said = |list: &[honest_twin::source::Diagnostic]| list[0].message.clone();
    if problems.has_errors() {
        return Err(said(&problems.0));
    }
    check(project).map_err(|problems| said(&problems.0))
}

/// A plant with a machine of its own, and the sensors that may be wrong: name, how many runs late, how far off.
struct Case {
    plant: &'static str,
    machine: &'static str,
    /// Runs once in so many scans.
    every: usize,
    delay: usize,
    /// The machine's input, the plant's output, late, noise, and whether it bounces and sticks.
    sensors: &'static [(&'static str, usize, i64, bool, bool)],
}

const CASES: &[Case] = &[
    Case {
        plant: "demo/plants/screen.st",
        machine: "PROGRAM M VAR_INPUT LevelHigh, Key : BOOL; Level : INT; END_VAR VAR_OUTPUT RinsePump, High : BOOL; END_VAR
            VAR Rinse : TON; END_VAR
            Rinse(IN := LevelHigh, PT := T#250ms); RinsePump := Rinse.Q OR Key; High := Level > 200; END_PROGRAM",
        every: 1,
        delay: 0,
        sensors: &[],
    },
    Case {
        plant: "demo/plants/screen.st",
        machine: "PROGRAM M VAR_INPUT LevelHigh : BOOL; Level : DINT; END_VAR VAR_OUTPUT RinsePump : BOOL; Sum : DINT; END_VAR
            RinsePump := LevelHigh OR Level > 250; Sum := Sum + Level; END_PROGRAM",
        every: 3,
        delay: 2,
        sensors: &[("LevelHigh", 4, 0, true, true), ("Level", 1, 7, false, true)],
    },
    Case {
        plant: "demo/plants/blower.st",
        machine: "PROGRAM M VAR_INPUT Key, PressureLow : BOOL; Oxygen : INT; END_VAR
            VAR_OUTPUT DutyBlower, StandbyBlower, Thin : BOOL; END_VAR VAR T : TON; END_VAR
            DutyBlower := Key; T(IN := Key AND PressureLow, PT := T#90ms); StandbyBlower := T.Q; Thin := Oxygen < 880;
            END_PROGRAM",
        every: 2,
        delay: 0,
        sensors: &[("PressureLow", 3, 0, false, true), ("Oxygen", 0, 40, false, false)],
    },
    Case {
        plant: "demo/plants/heater.st",
        machine: "PROGRAM M VAR_INPUT WaterTemperature : REAL; TooHot, Key : BOOL; END_VAR VAR_OUTPUT Heater, Hot : BOOL; END_VAR
            Heater := Key AND WaterTemperature < 860.5; Hot := TooHot; END_PROGRAM",
        every: 1,
        delay: 5,
        sensors: &[("TooHot", 2, 0, true, false)],
    },
    Case {
        plant: "demo/plants/feeder.st",
        machine: "PROGRAM M VAR_INPUT Turn, BinEmpty, Key : BOOL; END_VAR VAR_OUTPUT Screw : BOOL; Turns : INT; END_VAR
            VAR C : CTU; END_VAR
            C(CU := Turn, R := Key, PV := 5); Turns := C.CV; Screw := NOT C.Q AND NOT BinEmpty; END_PROGRAM",
        every: 4,
        delay: 1,
        sensors: &[("Turn", 0, 0, true, true)],
    },
    Case {
        plant: "demo/plants/raceway.st",
        machine: "PROGRAM M VAR_INPUT FloatLow, FloatTop, Key : BOOL; END_VAR VAR_OUTPUT FreshWater, Overflow : BOOL; END_VAR
            FreshWater := FloatLow AND NOT Key; Overflow := FloatTop; END_PROGRAM",
        every: 10,
        delay: 5,
        sensors: &[("FloatLow", 0, 0, false, true)],
    },
];

impl Case {
    fn file(&self) -> String {
        let mut out = "files = [\"plant.st\"]\nname = \"Plant\"\n".to_string();
        let time = |runs: usize| format!("{}ms", runs * self.every * 10);
        out.push_str(&format!("every = \"{}\"\n", time(1)));
        if self.delay > 0 {
            out.push_str(&format!("delay = \"{}\"\n", time(self.delay)));
        }
        out.push_str("[sensors]\n");
        for (name, late, noise, bounce, stuck) in self.sensors {
            let late = if *late > 0 { format!("late = \"{}\", ", time(*late)) } else { String::new() };
            out.push_str(&format!("{name} = {{ {late}noise = {noise}, bounce = {bounce}, stuck = {stuck} }}\n"));
        }
        out
    }
}

/// A value in another type, as the standard converts it.
fn converted(value: &Value, to: &PointType) -> Value {
    match (value, to) {
        (Value::Int(number), PointType::Elem(elem)) if elem.is_real() => Value::Real(*number as f64),
        (value, _) => value.clone(),
    }
}

/// What an input shows, by hand.
fn shown(
    history: &VecDeque<Value>,
    case: &Case,
    sensor: Option<&(&str, usize, i64, bool, bool)>,
    faults: &Faults,
) -> Value {
    let late = sensor.filter(|_| faults.late).map_or(0, |s| s.1);
    let value = history[case.delay + late].clone();
    match value {
        Value::Bool(value) => Value::Bool(value ^ faults.bounce),
        Value::Int(value) => Value::Int(value + i128::from(faults.noise)),
        other => other,
    }
}

#[derive(Clone, Default)]
struct Faults {
    late: bool,
    bounce: bool,
    stuck: bool,
    noise: i64,
}

fn random(ty: &PointType, rng: &mut fastrand::Rng) -> Value {
    match ty {
        PointType::Elem(elem) if *elem == honest_twin::model::Elem::Bool => Value::Bool(rng.bool()),
        PointType::Range(elem, low, high) => Value::from_slot(*elem, rng.i64(low..=high)),
        other => panic!("{other} is not drawn"),
    }
}

/// The machine and its plant by themselves, and everything they were given and showed.
struct ByHand {
    machine: Controller,
    plant: Controller,
    /// Of each output of the plant that is wired what it was, the last run first.
    history: Vec<(String, VecDeque<Value>)>,
}

impl ByHand {
    fn new(case: &Case, program: &str) -> ByHand {
        let [machine, plant] = [case.machine, program]
            .map(|text| Controller::new(&Machine::new(&checked("m", text, Language::St)).unwrap()));
        let wired = plant.machine().points_of(Direction::Output).filter(|(_, p)| {
            let input = machine.machine().find(&p.name);
            input.is_some_and(|id| machine.machine().point(id).direction == Direction::Input)
        });
        let history = wired
            .map(|(_, p)| {
                let memory = plant.machine().find(&p.name).unwrap();
                (p.name.clone(), vec![initial(&plant, memory); 40].into())
            })
            .collect();
        ByHand { machine, plant, history }
    }

    /// One scan of both.
    fn scan(&mut self, at: Instant, case: &Case, runs: bool, given: &[(String, Value)], faults: &[(String, Faults)]) {
        for (name, history) in &self.history {
            let sensor = case.sensors.iter().find(|s| s.0 == name);
            let faults = faults.iter().find(|f| f.0 == *name).map(|f| f.1.clone()).unwrap_or_default();
            if !faults.stuck {
                let id = self.machine.machine().find(name).unwrap();
                let ty = self.machine.machine().point(id).ty.clone();
                self.machine.set(id, &converted(&shown(history, case, sensor, &faults), &ty)).unwrap();
            }
        }
        for (name, value) in given {
            match name.strip_prefix("Plant.") {
                Some(own) => self.plant.set_named(own, value).unwrap(),
                None => self.machine.set_named(name, value).unwrap(),
            }
        }
        self.machine.scan(at);
        if runs {
            let inputs: Vec<String> =
                self.plant.machine().points_of(Direction::Input).map(|(_, p)| p.name.clone()).collect();
            for name in inputs {
                if let Ok(value) = self.machine.get_named(&name) {
                    self.plant.set_named(&name, &value).unwrap();
                }
            }
            self.plant.scan(at);
            for (name, history) in &mut self.history {
                history.push_front(self.plant.get_named(name).unwrap());
                history.pop_back();
            }
        }
    }
}

/// What an output holds before anything has run: a controller shows 0 until a scan is over, a plant what it begins with.
fn initial(plant: &Controller, point: honest_twin::scan::PointId) -> Value {
    let mut plant = plant.fork();
    plant.stop();
    plant.run();
    plant.power_cycle(Instant::default());
    plant.get(point)
}

#[test]
fn a_machine_with_its_plant_does_what_both_do_by_hand() {
    for (number, case) in CASES.iter().enumerate() {
        let program = std::fs::read_to_string(case.plant).unwrap();
        let both = Machine::new(&with_plants(case.machine, &[(&case.file(), &program)]).unwrap()).unwrap();
        let mut composed = Controller::new(&both);
        let mut hand = ByHand::new(case, &program);
        let mut rng = fastrand::Rng::with_seed(number as u64);
        let mut since_power = 0;
        let inputs: Vec<_> = both.points_of(Direction::Input).map(|(id, p)| (id, p.clone())).collect();
        let (mut faults, mut changes): (Vec<(String, Faults)>, usize) = (Vec::new(), 0);
        for scan in 0..4_000_i64 {
            let at = Instant(Duration::from_nanos(SCAN.nanos() * scan));
            let mut given = Vec::new();
            for (id, point) in inputs.iter().filter(|_| rng.u8(..40) == 0).collect::<Vec<_>>() {
                let value = random(&point.ty, &mut rng);
                composed.set(*id, &value).unwrap();
                let Some((sensor, fault)) = point.name.split_once('.').filter(|(sensor, _)| *sensor != "Plant") else {
                    given.push((point.name.clone(), value));
                    continue;
                };
                if !faults.iter().any(|f| f.0 == sensor) {
                    faults.push((sensor.to_string(), Faults::default()));
                }
                let entry = &mut faults.iter_mut().find(|f| f.0 == sensor).unwrap().1;
                match (fault, &value) {
                    ("stuck", Value::Bool(on)) => entry.stuck = *on,
                    ("bounce", Value::Bool(on)) => entry.bounce = *on,
                    ("late", Value::Bool(on)) => entry.late = *on,
                    ("noise", Value::Int(off)) => entry.noise = *off as i64,
                    other => panic!("{other:?}"),
                }
            }
            if scan > 0 && rng.u16(..500) == 0 {
                composed.power_cycle(at);
                hand.machine.power_cycle(at);
                since_power = 0;
            }
            composed.scan(at);
            hand.scan(at, case, since_power % case.every == 0, &given, &faults);
            since_power += 1;
            for (id, point) in hand.machine.machine().points_of(Direction::Output) {
                let (a, b) = (composed.get_named(&point.name).unwrap(), hand.machine.get(id));
                assert_eq!(a, b, "{}: {} in scan {scan}\n{}", case.plant, point.name, case.file());
                changes += usize::from(a != Value::Bool(false));
            }
            for (id, point) in hand.plant.machine().points_of(Direction::Output) {
                let (a, b) = (composed.get_named(&format!("Plant.{}", point.name)).unwrap(), hand.plant.get(id));
                assert_eq!(a, b, "{}: {} in scan {scan}", case.plant, point.name);
            }
        }
        assert!(changes > 100, "{}: something must go on", case.plant);
    }
}

#[test]
fn tape_and_circuit_agree_on_machines_with_plants() {
    for case in CASES {
        let program = std::fs::read_to_string(case.plant).unwrap();
        let both = Machine::new(&with_plants(case.machine, &[(&case.file(), &program)]).unwrap()).unwrap();
        beside(case.plant, &both, 1_500).unwrap_or_else(|e| panic!("{}: {e}", case.plant));
    }
}

/// What a plant remembers outlasts the loss of the controller's power, and a cold start: no bin is filled by that.
#[test]
fn power_of_the_controller_is_not_that_of_the_plant() {
    let program = std::fs::read_to_string("demo/plants/feeder.st").unwrap();
    let machine =
        "PROGRAM M VAR_OUTPUT Screw : BOOL; Count : INT; END_VAR Screw := TRUE; Count := Count + 1; END_PROGRAM";
    let both = Machine::new(&with_plants(machine, &[("files = [\"p\"]", &program)]).unwrap()).unwrap();
    let mut controller = Controller::new(&both);
    let at = |scan: i64| Instant(Duration::from_nanos(SCAN.nanos() * scan));
    (0..100).for_each(|scan| controller.scan(at(scan)));
    assert_eq!(controller.get_named("Feeder.BinWeight").unwrap(), Value::Int(4_750));
    controller.power_cycle(at(100));
    assert_eq!(controller.get_named("Feeder.BinWeight").unwrap(), Value::Int(4_750));
    controller.cold_start(at(100));
    assert_eq!(controller.get_named("Feeder.BinWeight").unwrap(), Value::Int(4_750));
    assert_eq!(controller.get_named("Count").unwrap(), Value::Int(0));
}

const PLANT: &str =
    "PROGRAM Water VAR_INPUT Valve : BOOL; Loss : INT; END_VAR VAR_OUTPUT Level : INT; Low : BOOL; END_VAR
    Level := Level + Loss; Low := Level < 5; END_PROGRAM";
const MACHINE: &str =
    "PROGRAM M VAR_INPUT Low, Key : BOOL; END_VAR VAR_OUTPUT Valve : BOOL; END_VAR VAR Own : BOOL; END_VAR
    Valve := Low AND NOT Key; Own := Valve; END_PROGRAM";

/// A plant file, and what is said of it, be it by its reader, by `check` or by the machine.
const WRONG: &[(&str, &str)] = &[
    ("name = \"X\"", "TOML parse error at line 1, column 1\n  |\n1 | name = \"X\"\n  | ^\nmissing field `files`"),
    ("files = []", "a plant file names the files of its program: files = [\"raceway.st\"]"),
    ("files = [\"a\"]\nevery = \"often\"", "every: `often` is not a unit of time; d, h, m, s, ms, us and ns are"),
    ("files = [\"a\"]\nevery = \"0ms\"", "every: a time above 0, as 100ms"),
    ("files = [\"a\"]\ndelay = \"5s\"", "delay: the plant needs a time of its own for that, as every = \"100ms\""),
    ("files = [\"a\"]\nevery = \"100ms\"\ndelay = \"250ms\"", "delay: a multiple of `every`"),
    ("files = [\"a\"]\nevery = \"1ms\"\ndelay = \"2s\"", "delay: at most 1000 times `every`"),
    (
        "files = [\"a\"]\n[sensors]\nLow = { noise = -1 }",
        "sensor `Low`: noise is how far a value may be off, 0 to 1,000,000",
    ),
    (
        "files = [\"a\"]\n[sensors]\nLow = { late = \"1s\" }",
        "sensor `Low`: late: the plant needs a time of its own for that, as every = \"100ms\"",
    ),
    ("files = [\"a\"]\nname = \"Valve\"", ""),
    ("files = [\"a\"]\n[wires]\nLvl = \"Low\"", "plant Water: it has no input or output `Lvl` to wire"),
    ("files = [\"a\"]\n[wires]\nLevel = \"Height\"", "plant Water: `Level` is wired to `Height`, which there is not"),
    (
        "files = [\"a\"]\n[wires]\nLevel = [\"Height\", \"Float\"]",
        "plant Water: `Level` is wired to `Height` or `Float`, which there is not",
    ),
    ("files = [\"a\"]\n[wires]\nLevel = \"Key\"", "plant Water: `Water.Level` is INT and `Key` is BOOL"),
    ("files = [\"a\"]\n[wires]\nLow = \"Own\"", "plant Water: `Low` is wired to `Own`, which is no input"),
    ("files = [\"a\"]\n[wires]\nLevel = \"Low\"", "plant Water: `Water.Level` is INT and `Low` is BOOL"),
    (
        "files = [\"a\"]\n[sensors]\nHigh = { stuck = true }",
        "plant Water: it has no output `High` that a sensor could measure",
    ),
    (
        "files = [\"a\"]\n[sensors]\nLevel = { stuck = true }",
        "plant Water: `Level` has a sensor and is wired to no input",
    ),
    (
        "files = [\"a\"]\n[sensors]\nLow = { noise = 3 }",
        "plant Water: `Low` is no whole number of at most 63 bits, to which noise could be added",
    ),
];

#[test]
fn what_is_wrong_with_a_plant_is_said() {
    for (file, expected) in WRONG {
        let said = match with_plants(MACHINE, &[(file, PLANT)]) {
            Err(said) => said,
            Ok(checked) => Machine::new(&checked).err().map_or(String::new(), |e| e.to_string()),
        };
        assert_eq!(&said, expected, "{file}");
    }
    let file = "files = [\"a\"]";
    let programs = [
        (
            "FUNCTION_BLOCK F VAR_INPUT a : BOOL; END_VAR ; END_FUNCTION_BLOCK",
            "a plant is a PROGRAM with VAR_INPUT and VAR_OUTPUT; there is none here",
        ),
        ("a := b;", "a plant is a PROGRAM with VAR_INPUT and VAR_OUTPUT; this text has no head"),
        ("PROGRAM A ; END_PROGRAM PROGRAM B ; END_PROGRAM", "a plant is one program, and this is another"),
        (
            "PROGRAM A VAR x AT %IX0.0 : BOOL; END_VAR ; END_PROGRAM",
            "a plant has no addresses; its inputs and outputs are wired by name",
        ),
        ("PROGRAM M ; END_PROGRAM", "`M` is declared twice"),
        ("PROGRAM A x := 1; END_PROGRAM", "unknown name `x`"),
    ];
    for (program, expected) in programs {
        assert_eq!(with_plants(MACHINE, &[(file, program)]).err().unwrap_or_default(), expected, "{program}");
    }
    // Two plants that give one input.
    let second = PLANT.replace("PROGRAM Water", "PROGRAM Rain");
    let both = with_plants(MACHINE, &[(file, PLANT), (file, &second)]).unwrap();
    assert_eq!(Machine::new(&both).unwrap_err().to_string(), "plant Rain: `Low` is given by plant Water already");
}
