//! The public parts of the model, the engine and the sheets by themselves: laws that hold of all values, and facts that
//! are asked in passing elsewhere.

use crate::common::{checked, machine};
use honest_twin::check::probe;
use honest_twin::dialect::{LIBRARIES, library};
use honest_twin::lang::{Language, read_duration, write_exchange, write_file};
use honest_twin::model::ops::{self, BinaryOp};
use honest_twin::model::{Body, Duration, Elem, Family, Instant, Item, Value, format_duration};
use honest_twin::scan::{Controller, Machine, PointType, Power};
use honest_twin::source::Source;
use honest_twin::translate::Grade;
use honest_twin::twin::{Act, Change, Scenario};
use proptest::prelude::*;
use std::cmp::Ordering;
use std::sync::Arc;

/// Widening is an order: each type widens to itself, not to and fro between two, and on through a third; two types that
/// join do so whichever is named first, to the narrower of what both widen to.
#[test]
fn widening_is_an_order() {
    for a in Elem::ALL {
        assert!(a.widens_to(a) && a.join(a) == Some(a), "{}", a.name());
        assert_eq!(Elem::from_name(&a.name().to_lowercase()), Some(a));
        for b in Elem::ALL {
            assert!(a == b || !(a.widens_to(b) && b.widens_to(a)), "{} and {}", a.name(), b.name());
            assert_eq!(a.join(b), b.join(a));
            if a.widens_to(b) {
                assert_eq!(a.join(b), Some(b));
                // Nothing that is given is lost: all whole values of the narrower are values of the wider.
                if let (Some(narrow), Some(wide)) = (a.shape(), b.shape()) {
                    assert!(wide.range().0 <= narrow.range().0 && narrow.range().1 <= wide.range().1);
                }
                for c in Elem::ALL.into_iter().filter(|c| b.widens_to(*c)) {
                    assert!(a.widens_to(c), "{} to {} to {}", a.name(), b.name(), c.name());
                }
            }
        }
    }
}

/// A type is of one family, and the questions about it agree.
#[test]
fn families_and_questions_agree() {
    for elem in Elem::ALL {
        let asked = [elem.is_integer(), elem.is_real(), elem.is_time(), elem.is_bits()];
        assert_eq!(asked.iter().filter(|is| **is).count(), 1, "{}", elem.name());
        assert_eq!(elem.is_number(), elem.is_integer() || elem.is_real());
        assert_eq!(elem.is_real(), elem.shape().is_none());
        let family = match elem.family() {
            Family::Bool => elem == Elem::Bool,
            Family::Bits => elem.is_bits() && elem != Elem::Bool,
            Family::Int => elem.is_integer(),
            Family::Real => elem.is_real(),
            Family::Time => elem.is_time(),
            Family::Text => false,
        };
        assert!(family, "{}", elem.name());
        assert_eq!(PointType::Elem(elem).family(), elem.family());
        assert_eq!(PointType::Elem(elem).to_string(), elem.name());
        assert_eq!(elem.shape().is_some_and(|s| s.is_unsigned_64()), matches!(elem, Elem::Ulint | Elem::Lword));
    }
    let range = PointType::Range(Elem::Int, -3, 9);
    assert_eq!((range.to_string().as_str(), range.elem()), ("INT (-3..9)", Some(Elem::Int)));
    assert_eq!((range.parse("9").is_some(), range.parse("10").is_some()), (true, false));
    let phases = PointType::Enum(Arc::new(vec![("Rest".to_string(), 0), ("Rinse".to_string(), 4)]));
    assert_eq!((phases.to_string().as_str(), phases.family()), ("(Rest, Rinse)", Family::Int));
    assert_eq!(phases.parse("rinse"), Some(Value::Enum(4, Some("Rinse".to_string()))));
    assert_eq!((phases.parse("4"), phases.parse("1")), (phases.parse("Rinse"), None));
    assert_eq!(PointType::Text.parse("water"), Some(Value::Text("water".to_string())));
}

/// What an operator makes of types is the same as its effect says: comparisons give BOOL, the inverse of a comparison is
/// TRUE where it is FALSE, and only what may fault does.
#[test]
fn operators_keep_their_laws() {
    for op in BinaryOp::ALL {
        for order in [Ordering::Less, Ordering::Equal, Ordering::Greater] {
            match op.inverse() {
                Some(inverse) => assert_ne!(op.holds(order), inverse.holds(order), "{}", op.symbol()),
                None => assert!(!op.is_comparison() && !op.holds(order)),
            }
        }
        assert_eq!(op.inverse().and_then(BinaryOp::inverse), op.inverse().map(|_| op));
        assert!((1..=8).contains(&op.binding()));
        for left in Elem::ALL {
            for right in Elem::ALL {
                let Some(typing) = op.typing(left, right) else { continue };
                assert_eq!(
                    typing.result == Elem::Bool,
                    op.is_comparison() || (op.is_logic() && left == Elem::Bool && right == Elem::Bool)
                );
                assert!(typing.left == left || left.widens_to(typing.left) || typing.left == Elem::Lreal);
                let one = if typing.right.is_real() { 1.0f64.to_bits() as i64 } else { 1 };
                let first = if typing.left.is_real() { 1.0f64.to_bits() as i64 } else { 1 };
                let value = ops::apply(op, typing, first, one).unwrap();
                let shape = typing.result.shape();
                assert!(shape.is_none_or(|s| (s.range().0..=s.range().1).contains(&s.number(value))));
            }
        }
    }
    assert!(BinaryOp::Mul.typing(Elem::Time, Elem::Ulint).is_none(), "as the standard has it");
    assert!(BinaryOp::Add.typing(Elem::Time, Elem::Int).is_none());
    assert!(BinaryOp::And.typing(Elem::Int, Elem::Word).is_none());
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    /// A value of a type sits in one slot, which holds that value; as a cell it is read as itself.
    #[test]
    fn values_and_slots_are_one_to_one(raw in any::<i64>()) {
        for elem in Elem::ALL {
            let slot = match elem.shape() {
                Some(shape) => shape.wrap(raw),
                None => ops::round(ops::Precision::of(elem), raw as f64 / 8.0).to_bits() as i64,
            };
            let value = Value::from_slot(elem, slot);
            prop_assert_eq!(value.to_slot(elem), Some(slot), "{}", elem.name());
            prop_assert_eq!(Value::parse(elem, &value.cell()), Some(value.clone()), "{} {}", elem.name(), value.cell());
        }
    }

    /// What does not fit has no slot.
    #[test]
    fn what_does_not_fit_has_no_slot(number in any::<i64>()) {
        for elem in Elem::ALL.into_iter().filter(|e| e.is_integer() || e.is_bits()) {
            let (low, high) = elem.shape().unwrap().range();
            let fits = (low..=high).contains(&i128::from(number));
            prop_assert_eq!(Value::Int(number.into()).to_slot(elem).is_some(), fits);
        }
        prop_assert_eq!(Value::Bool(true).to_slot(Elem::Int), None);
        prop_assert_eq!(Value::Int(number.into()).to_slot(Elem::Time), None);
        prop_assert_eq!(Value::Text(String::new()).to_slot(Elem::Bool), None);
    }

    /// A duration is read as it is written, to the nanosecond.
    #[test]
    fn durations_are_read_as_they_are_written(nanos in 0..i64::MAX) {
        for nanos in [nanos, nanos % 1_000_000_007, nanos / 1_000_000 % 100_000 * 1_000_000] {
            let text = format_duration(Duration::from_nanos(nanos));
            prop_assert_eq!(read_duration(&text), Ok(Duration::from_nanos(nanos)), "{}", text);
        }
    }
}

/// The oxygen alarm, with a division that an input can make fail.
fn alarm() -> String {
    "PROGRAM Oxygen VAR_INPUT Low : BOOL; Share : INT; END_VAR VAR_OUTPUT Alarm : BOOL; Count : INT; END_VAR
     VAR i : INT; END_VAR
     Alarm := Low;
     IF Low THEN Count := Count + 1; END_IF;
     FOR i := 1 TO 20 DO Count := Count + 0; END_FOR;
     END_PROGRAM"
        .to_string()
}

#[test]
fn expressions_are_asked_between_scans() {
    let project = checked("oxygen", &alarm(), Language::St);
    let texts = ["Alarm AND Count > 1", "100 / Share", "Count + 1"];
    let probes: Vec<_> = texts.iter().map(|text| probe(&project, text).unwrap()).collect();
    assert_eq!(probes.iter().map(|p| p.is_bool()).collect::<Vec<_>>(), [true, false, false]);
    let machine = Machine::with_probes(&project, &probes).unwrap();
    let mut controller = Controller::new(&machine);
    controller.note_writers();
    controller.set_named("Low", &Value::Bool(true)).unwrap();
    let mut answers = Vec::new();
    for scan in 0..3 {
        controller.scan(Instant(Duration::from_millis(10 * scan)));
        answers.push([0, 1, 2].map(|number| controller.ask(number)));
    }
    assert_eq!(answers, [[Some(0), None, Some(2)], [Some(1), None, Some(3)], [Some(1), None, Some(4)]]);
    assert_eq!(controller.ask(3), None);
    assert_eq!(controller.fault(), None, "whoever asks does not stop the machine");
    // Who wrote it last is the statement, not the block around it.
    let source = Source::new("oxygen", alarm());
    let written = |name: &str| source.slice(controller.writer(machine.find(name).unwrap()).unwrap()).to_string();
    assert_eq!((written("Alarm").as_str(), written("Count").as_str()), ("Alarm := Low", "Count := Count + 0"));
    for (text, why) in [
        ("Nobody", "unknown name `Nobody`"),
        ("Low AND", "expected a value"),
        ("Low Low", "is more than one expression"),
        ("", "expected a value"),
    ] {
        let said = probe(&project, text).unwrap_err().to_string();
        assert!(said.contains(why), "{text}: {said}");
    }
}

#[test]
fn the_limit_of_loops_is_the_callers() {
    let machine = machine("oxygen", &alarm(), Language::St);
    for (limit, faults) in [(19, true), (21, false)] {
        let mut controller = Controller::new(&machine);
        controller.set_loop_limit(limit);
        controller.scan(Instant(Duration::from_millis(0)));
        assert_eq!(controller.fault().is_some(), faults, "{limit}");
    }
}

/// Sheets answer what is asked of them: each device knows its numbers and its kind, each word leads to an operator and
/// back, each area's first address is written as it is read.
#[test]
fn sheets_answer_both_ways() {
    for shipped in LIBRARIES {
        let library = library(shipped.name).unwrap();
        let sheet = &library.sheet;
        for device in &sheet.devices {
            assert!(!(device.kind.is_timer() && device.kind.is_counter()), "{}", device.block);
            assert!(device.kind.a_word().ends_with(device.kind.word()) && device.kind.a_word().starts_with('a'));
            assert!(!device.has_number("no area", 0));
            for role in device.pins.keys() {
                assert!(!role.word().is_empty());
            }
        }
        for (number, area) in sheet.areas.iter().enumerate() {
            for index in 0..400 {
                let known = sheet.known(number, index);
                assert_eq!(sheet.parse_known(&known), Some((number, index)), "{}: {known}", sheet.name);
                // Of areas that are not so large, or in which not every number is one, there is nothing to write.
                let Some(written) = sheet.written(&known) else { continue };
                assert_eq!(sheet.locate(&written).map_err(|e| e.message), Ok((number, index)), "{written}");
                assert_eq!(sheet.address_length(&written), Some(written.len()), "{}: {written}", sheet.name);
                if let Some(device) = sheet.device_at(number, index) {
                    assert!(sheet.devices[device].has_number(&area.name, index));
                }
            }
        }
    }
}

#[test]
fn scenarios_weigh_and_grades_foretell() {
    let set = |value: i64| Act::Set(Change { input: 0, value });
    let short = Scenario { acts: vec![set(1), Act::Wait(1)] };
    let stop = [Act::Power(Power::Stop), Act::Wait(100), Act::Power(Power::Run), Act::Wait(1)];
    let first = [set(1), Act::Wait(1), Act::Power(Power::Cycle), set(0), Act::Wait(200)];
    let long = Scenario { acts: first.into_iter().chain(stop).collect() };
    let pressed = Scenario { acts: vec![Act::Repeat(10_000, vec![set(1), Act::Wait(1), set(0), Act::Wait(1)])] };
    assert!(pressed.weight() < long.weight(), "a repetition is read once");
    assert!(short.weight() < long.weight() && !short.is_stopped() && long.is_stopped());
    assert_eq!((short.power_cycles(), long.power_cycles()), (0, 1));
    let grades = [Grade::Exact, Grade::Carried, Grade::Conditional, Grade::Approximate, Grade::Lost];
    assert_eq!(grades.map(Grade::foretells_difference), [false, false, true, true, true]);
}

/// A drawing is the same net list however its wires are numbered, and what is tidied stays so.
#[test]
fn networks_are_tidied_once() {
    let text = std::fs::read_to_string("demo/raceway.ld").unwrap();
    let project = checked("raceway", &text, Language::Ld);
    for item in &project.project().items {
        let Item::Unit(unit) = item else { continue };
        let Body::Ladder(networks) = &unit.body else { panic!("a ladder") };
        for network in networks {
            let tidied = network.clone().tidied();
            assert_eq!(tidied.clone().tidied(), tidied);
            let (fed, taken) = tidied.usage();
            // What is taken is fed: by an element, or by the rail.
            for wire in taken.keys() {
                assert!(fed.contains_key(wire) || *wire == honest_twin::model::Wire::RAIL, "{wire:?}");
            }
        }
    }
    let items = project.project().items.iter();
    assert_eq!(write_file(items.clone(), Language::Ld).unwrap(), text);
    assert!(write_file(items.clone(), Language::St).is_err(), "a ladder is no structured text");
    assert!(write_exchange(items, "raceway").unwrap().starts_with("<?xml"));
}
