//! A program with all faults woven into it is what it was where none is selected, and what seeding makes of it where one is.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

use super::many;
use super::trials::circuit;
use super::weave::weave;
use super::{Mutation, seed, shows, with_fault};
use crate::check::{Checked, check};
use crate::circuit::bit;
use crate::lang::{Language, read_project};
use crate::model::{Duration, Instant};
use crate::scan::{Controller, Direction, Machine, PointId};
use crate::source::Source;
use crate::twin::run::Waits;
use crate::twin::{Effort, Search, Twin, Version};
use fastrand::Rng;

const SCAN: Duration = Duration::from_millis(10);

/// Programs with sites for each kind of fault, in each language.
const PROGRAMS: &[(&str, Language, &str)] = &[
    (
        "a drum filter in text",
        Language::St,
        "PROGRAM P
         VAR_INPUT High, Low, Key : BOOL; Flow : INT; END_VAR
         VAR_OUTPUT Pump, Due, Warn : BOOL; Rinses : INT; END_VAR
         VAR T : TON; C : CTU; E : R_TRIG; Sum : INT; Step : INT; END_VAR
         VAR RETAIN Kept : INT; END_VAR
         T(IN := High AND NOT Due, PT := T#50ms);
         Pump := T.Q OR (Key AND NOT Low);
         E(CLK := Pump);
         IF E.Q THEN Kept := Kept + 1; Rinses := Kept; END_IF;
         C(CU := Pump, R := Key, PV := 3);
         Due := C.Q;
         Sum := Sum + Flow;
         IF Sum > 200 THEN Sum := 0; Warn := TRUE; ELSIF Low THEN Warn := FALSE; ELSE Step := Step + 2; END_IF;
         CASE Step OF 0: Step := 3; 4..9: Step := Step - 3; ELSE Step := 1; END_CASE;
         END_PROGRAM",
    ),
    (
        "blowers in a list",
        Language::Il,
        "PROGRAM P\nVAR_INPUT Duty, Trip, Ack : BOOL; Load : INT; END_VAR\nVAR_OUTPUT One, Two, Alarm : BOOL; Hours : INT; END_VAR\n\
         VAR T : TOF; L : RS; END_VAR\n\
         LD Duty\nANDN Trip\nST One\nCAL T(IN := One, PT := T#30ms)\nLDN T.Q\nAND Duty\nS Two\nLD Trip\nOR( Two\nAND Ack\n)\nR Two\n\
         CAL L(S := Trip, R1 := Ack)\nLD L.Q1\nST Alarm\nLD One\nJMPCN off\nLD Hours\nADD Load\nST Hours\noff:\nLD Hours\nGT 500\n\
         JMPCN low\nLD 0\nST Hours\nlow:\nLD Duty\nEND_PROGRAM",
    ),
    (
        "a heater as a ladder",
        Language::Ld,
        "PROGRAM P\nVAR_INPUT Hot, Flow, Stop : BOOL; END_VAR\nVAR_OUTPUT Fault, Heat : BOOL; END_VAR\nVAR Wait : TON; END_VAR\n
|                         Wait             |
|  Hot  Flow           +--------+   Fault  |
+--| |---|/|-----------+IN TON Q+----(S)---+
|             T#40ms --+PT    ET|          |
|                      +--------+          |

|  Hot      Stop  Heat  |
+--|/|--+---|/|---( )---+
| Heat  |               |
+--| |--+               |

| Stop    Fault  |
+--|P|-----(R)---+
END_PROGRAM",
    ),
];

fn checked(text: &str, language: Language) -> Checked {
    let (project, problems) = read_project(vec![(Source::new(format!("p.{}", language.ending()), text), language)]);
    assert!(!problems.has_errors(), "{:?}\n{text}", problems.0);
    check(project).unwrap()
}

/// All faults there are.
fn all(checked: &Checked) -> Vec<(Mutation, usize)> {
    let sites = seed::sites(checked, SCAN);
    sites.iter().flat_map(|(kind, places)| (0..places.len()).map(|site| (*kind, site))).collect()
}

/// What the outputs are in a hundred scans of inputs drawn at random, and the fault that ended it.
fn outputs(machine: &Machine, selected: Option<&str>, seed: u64) -> (Vec<Vec<i64>>, Option<String>) {
    let mut rng = Rng::with_seed(seed);
    let mut controller = Controller::new(machine);
    if let Some(name) = selected {
        controller.set_slot(machine.find(name).unwrap(), 1);
    }
    let inputs: Vec<PointId> = machine
        .points_of(Direction::Input)
        .filter(|(_, point)| !point.name.starts_with("seeded"))
        .map(|(id, _)| id)
        .collect();
    let mut rows = Vec::new();
    for scan in 0..100 {
        for input in &inputs {
            let is_number = format!("{:?}", machine.point(*input).ty).contains("Int");
            let value = if is_number { rng.i64(-5..40) } else { i64::from(rng.bool()) };
            if rng.u8(0..4) == 0 {
                controller.set_slot(*input, value);
            }
        }
        if rng.u8(0..30) == 0 {
            controller.power_cycle(Instant(Duration::from_millis(scan * 10)));
        }
        controller.scan(Instant(Duration::from_millis(scan * 10)));
        rows.push(machine.points_of(Direction::Output).map(|(id, _)| controller.get_slot(id)).collect());
    }
    (rows, controller.fault().map(|fault| fault.kind.to_string()))
}

#[test]
fn woven_faults_are_the_seeded_ones() {
    let mut counts = [0; 2];
    for (title, language, text) in PROGRAMS {
        let source = checked(text, *language);
        let faults = all(&source);
        let woven = weave(&source, &faults, SCAN);
        let machine = Machine::new(&woven.checked).unwrap();
        let plain = Machine::new(&source).unwrap();
        for seed in 0..20 {
            assert_eq!(outputs(&machine, None, seed), outputs(&plain, None, seed), "{title}: no fault selected");
        }
        for ((kind, site), selector) in faults.iter().zip(&woven.selectors) {
            let Some(selector) = selector else {
                // What is retained is no choice of a scan, and a jump takes the current result with it.
                let is_known = matches!(kind, Mutation::Retention | Mutation::Dropped);
                assert!(is_known, "{title}: {kind:?} {site} is behind no selector");
                counts[1] += 1;
                continue;
            };
            let seeded = seed::seeded(&source, *kind, *site, SCAN).unwrap();
            let faulty = Machine::new(&seeded).unwrap();
            for seed in 0..20 {
                let (left, right) = (outputs(&machine, Some(selector), seed), outputs(&faulty, None, seed));
                assert_eq!(left, right, "{title}: {kind:?} {site}, seed {seed}");
            }
            counts[0] += 1;
        }
    }
    println!("{} faults woven, {} left to the tape", counts[0], counts[1]);
    assert!(counts[0] > 100 && counts[1] < 10, "{counts:?}");
}

/// Of each lane the circuit finds in a scenario what the tape finds of the seeded version.
#[test]
fn lanes_find_what_the_tape_finds() {
    let (mut same, mut found) = (0, 0);
    for (title, language, text) in PROGRAMS {
        let source = checked(text, *language);
        let faults: Vec<(Mutation, usize)> = all(&source).into_iter().take(many::LANES).collect();
        let version = Version::new("one", source.clone()).unwrap();
        let twin = Twin::new(&version, &version);
        let (many, lanes) = circuit(&twin, &faults).unwrap();
        let search = Search::new(&twin, &Effort::default());
        let scenarios: Vec<_> = (0..60).map(|number| search.scenario(number)).filter(|s| s.scans() < 4_000).collect();
        assert!(scenarios.len() > 20, "{title}");
        for scenario in scenarios.iter().filter(|s| many::is_for_circuit(s)) {
            let parts = many.run(scenario, many::lanes(lanes.len()), u64::MAX).found;
            for (lane, fault) in lanes.iter().enumerate() {
                let (kind, site) = faults[*fault];
                let seeded = seed::seeded(&source, kind, site, SCAN).unwrap();
                let faulty = Version::new("one", seeded).unwrap();
                let by_tape = shows(&with_fault(&twin, &faulty).unwrap(), scenario, Waits::Whole);
                assert_eq!(bit(&parts, lane), by_tape, "{title}: {kind:?} {site}\n{scenario:?}");
                // What is woven is confirmed on its own tape.
                assert_eq!(many.shows(lane, scenario), by_tape, "{title}: {kind:?} {site}\n{scenario:?}");
                same += 1;
                found += usize::from(by_tape);
            }
        }
    }
    println!("{same} trials of a lane, {found} of them find the fault");
    assert!(found * 10 > same, "{found} of {same}");
}

/// An output that a fault is said to have nothing to do with is the same with it and without.
#[test]
fn a_fault_changes_only_the_outputs_it_has_to_do_with() {
    let (mut apart, mut together) = (0, 0);
    for (title, language, text) in PROGRAMS {
        let source = checked(text, *language);
        let faults: Vec<(Mutation, usize)> = all(&source).into_iter().take(many::LANES).collect();
        let version = Version::new("one", source.clone()).unwrap();
        let twin = Twin::new(&version, &version);
        let (many, lanes) = circuit(&twin, &faults).unwrap();
        let plain: Vec<_> = (0..20).map(|seed| outputs(&version.machine, None, seed).0).collect();
        for (lane, fault) in lanes.iter().enumerate() {
            let (kind, site) = faults[*fault];
            let own = many.outputs(lane).unwrap();
            let faulty = Machine::new(&seed::seeded(&source, kind, site, SCAN).unwrap()).unwrap();
            let with_fault: Vec<_> = (0..20).map(|seed| outputs(&faulty, None, seed).0).collect();
            for output in 0..twin.pairing.outputs.len() {
                let column =
                    |runs: &[Vec<Vec<i64>>]| -> Vec<i64> { runs.iter().flatten().map(|row| row[output]).collect() };
                let is_same = column(&plain) == column(&with_fault);
                assert!(is_same || own.contains(&output), "{title}: {kind:?} {site} changes output {output}");
                apart += usize::from(!own.contains(&output));
                together += usize::from(own.contains(&output) && !is_same);
            }
        }
    }
    println!("{apart} outputs that faults have nothing to do with, {together} that they change");
    assert!(apart > 20 && together > 50, "{apart} and {together}");
}

/// Where the ways of a branch have come together again nothing hangs on what was asked: a fault in a statement has to do with its own
/// outputs, whatever branches stand before it and behind it.
#[test]
fn what_follows_a_branch_does_not_hang_on_it() {
    let source = checked(
        "PROGRAM P
         VAR_INPUT High, Low, Key : BOOL; Flow : INT; END_VAR
         VAR_OUTPUT Pump, Heat, Warn : BOOL; Step, Level : INT; Dose : BOOL; END_VAR
         VAR On : TON; Off : TOF; Pulse : TP; E : R_TRIG; END_VAR
         On(IN := High AND NOT Key, PT := T#50ms); Pump := On.Q;
         IF Low THEN Heat := TRUE; ELSIF High AND Key THEN Heat := FALSE; ELSIF Key THEN Heat := NOT Heat; END_IF;
         Off(IN := Low, PT := T#60ms); Pulse(IN := Key, PT := T#70ms); Warn := Off.Q OR Pulse.Q;
         CASE Step OF 0: IF High THEN Step := 10; END_IF; 10..19: IF Low THEN Step := 20; END_IF; ELSE Step := 0; END_CASE;
         Level := LIMIT(0, Level + Flow, 1000);
         E(CLK := High); IF E.Q THEN Dose := NOT Dose; END_IF;
         END_PROGRAM",
        Language::St,
    );
    // Another name, and another order, bring the outputs of other statements in, also for faults that stand beside them in the program.
    let is_own = |(kind, _): &(Mutation, usize)| !matches!(kind, Mutation::Name | Mutation::Moved);
    let faults: Vec<(Mutation, usize)> = all(&source).into_iter().filter(is_own).collect();
    let version = Version::new("one", source.clone()).unwrap();
    let twin = Twin::new(&version, &version);
    let (many, lanes) = circuit(&twin, &faults).unwrap();
    for (lane, fault) in lanes.iter().enumerate() {
        let own = many.outputs(lane).unwrap();
        assert_eq!(own.len(), 1, "{:?} has to do with outputs {own:?}", faults[*fault]);
    }
    assert!(lanes.len() > 30, "{}", lanes.len());
}
