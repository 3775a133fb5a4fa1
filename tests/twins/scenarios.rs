//! Scenarios: what is done is seen by a scan before it is judged, and what is found is told.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::{Duration, Elem, Value};
use honest_twin::prove::{Means, prove};
use honest_twin::scan::{Controller, ScanTime, Stimulus, run_stimulus};
use honest_twin::show;
use honest_twin::twin::script::{Played, Script, play, read_table};
use honest_twin::twin::{Effort, Tolerance, Twin, Verdict, Version, compare_twin};

/// A drum filter: the rinse follows the level, the key counts, the count survives the power.
fn filter() -> Version {
    let text = "PROGRAM Filter VAR_INPUT Key : BOOL; Level : INT; END_VAR VAR_OUTPUT Rinse : BOOL; Count : INT; END_VAR
        VAR RETAIN Kept : INT; END_VAR VAR Edge : R_TRIG; END_VAR
        Edge(CLK := Key); IF Edge.Q THEN Kept := Kept + 1; END_IF; Rinse := Level > 30; Count := Kept; END_PROGRAM";
    version("filter", text, Language::St)
}

fn played(script: &str) -> Played {
    let filter = filter();
    play(&Script::read("trial", script).unwrap(), &[&filter], &ScanTime::Fixed(Duration::from_millis(10))).unwrap()
}

fn failures(script: &str) -> Vec<String> {
    played(script).failures.iter().map(|f| format!("{} (scan {}): {}", f.line, f.scan.0, f.what)).collect()
}

#[test]
fn what_is_expected_is_judged_after_a_scan_that_saw_what_was_done() {
    for (script, asked) in [
        ("set Level to 40\nexpect Rinse", 1),
        ("set Level to 40\nwait 50ms\nset Level to 0\nexpect NOT Rinse", 1),
        ("hold Key\nexpect Count = 1\ndrop Key\nexpect NOT Key", 2),
        // Before the scan after power-up the outputs are at their initial values.
        ("press Key for 20ms\nwait 20ms\npower cycle\nexpect Count = 1", 1),
        ("set Level to 40\nwait 20ms\nforce Rinse to off\nexpect NOT Rinse", 1),
        ("set Level to 40\nexpect Count unchanged for 50ms", 1),
    ] {
        let played = played(script);
        let told: Vec<&str> = played.failures.iter().map(|f| f.what.as_str()).collect();
        assert!(told.is_empty() && played.asked == asked, "{script}: {told:?}");
    }
}

#[test]
fn a_key_that_is_let_go_is_seen_so_before_it_is_pressed_again() {
    for script in [
        "hold Key\nwait 30ms\ndrop Key\npress Key for 30ms\nexpect Count = 2",
        "press Key for 30ms\npress Key for 30ms\npress Key for 30ms\nexpect Count = 3",
        "repeat 3 times\n  press Key for 20ms\nend\nexpect Count = 3",
    ] {
        assert_eq!(failures(script), [""; 0], "{script}");
    }
}

#[test]
fn an_expectation_that_is_not_met_tells_what_was_found_and_when() {
    assert_eq!(
        failures("set Level to 12\nexpect Rinse\nexpect Level > 20 AND Rinse within 30ms"),
        [
            "2 (scan 0): expected Rinse; found Rinse = FALSE",
            "3 (scan 3): expected Level > 20 AND Rinse by now; found Level = 12, Rinse = FALSE",
        ]
    );
}

/// A forced input that is released is again what it is given, be that given before or meanwhile.
#[test]
fn a_released_input_is_what_it_is_given() {
    let filter = filter();
    let mut controller = Controller::new(filter.machine());
    let level = filter.machine().find("Level").unwrap();
    controller.set(level, &Value::Int(10)).unwrap();
    controller.force(level, &Value::Int(99)).unwrap();
    assert_eq!(controller.get(level), Value::Int(99));
    controller.force(level, &Value::Int(98)).unwrap();
    controller.release(level);
    assert_eq!(controller.get(level), Value::Int(10));
    controller.force(level, &Value::Int(99)).unwrap();
    controller.set(level, &Value::Int(20)).unwrap();
    assert_eq!(controller.get(level), Value::Int(99));
    controller.release(level);
    assert_eq!(controller.get(level), Value::Int(20));
    let script = "set Level to 12\nforce Level to 60\nexpect Rinse\nrelease Level\nexpect NOT Rinse";
    assert_eq!(failures(script), [""; 0]);
}

/// Rows of a table lie on the axis of time: none drifts, whatever it settles and whatever a scan takes.
#[test]
fn rows_of_a_table_do_not_drift() {
    let filter = filter();
    for (scan, settle, length) in [(10, "0", 50), (10, "25", 105), (7, "3", 50), (10, "", 25), (40, "0", 50)] {
        let mut table = "step,@for_ms,@settle_ms,Level,Rinse\n".to_string();
        (0..20).for_each(|row| table.push_str(&format!("{row},{length},{settle},{},{}\n", 40 * (row % 2), row % 2)));
        let script = read_table("t.csv", &table, filter.machine()).unwrap();
        let played = play(&script, &[&filter], &ScanTime::Fixed(Duration::from_millis(scan))).unwrap();
        assert!(played.failures.is_empty(), "{scan} {settle} {length}: {:?}", played.failures);
        let changes: Vec<i64> = played.stimulus.events.iter().map(|e| e.at.nanos() / 1_000_000).collect();
        let due = |row: i64| (row * length + scan - 1) / scan * scan;
        assert_eq!(changes, (0..20).map(due).collect::<Vec<_>>(), "{scan} {settle} {length}");
    }
    // A row that begins later than at once begins then.
    let script = read_table("t.csv", "time_ms,Level,Rinse\n30,40,1\n60,0,0\n", filter.machine()).unwrap();
    let played = play(&script, &[&filter], &ScanTime::Fixed(Duration::from_millis(10))).unwrap();
    assert!(played.failures.is_empty() && played.stimulus.events[0].at == Duration::from_millis(30));
}

/// What a difference of less than a millisecond needs is written so that it replays, and read as it was written.
#[test]
fn times_below_a_millisecond_replay() {
    let text = |least: &str| {
        format!("PROGRAM P VAR_INPUT t : TIME; END_VAR VAR_OUTPUT o : BOOL; END_VAR o := t > T#{least}; END_PROGRAM")
    };
    let case = |least: [&str; 2]| {
        let [left, right] = least.map(|least| version("v", &text(least), Language::St));
        let twin = Twin::new(&left, &right);
        let verdict = prove(&twin, &Means::default(), |_| true);
        let Verdict::Different(difference) = verdict else { panic!("{}", show::verdict(&verdict)) };
        let stimulus = Stimulus::read(&difference.stimulus, left.machine()).unwrap();
        assert_eq!(stimulus.write(left.machine()), difference.stimulus);
        let script = Script::read("found", &difference.explanation.script.join("\n")).unwrap();
        let played = play(&script, &[&left, &right], &ScanTime::Fixed(Duration::from_millis(10))).unwrap();
        let [left, right] = [0, 1].map(|side| played.traces[side].rows().last().unwrap().2[1]);
        assert_ne!(left, right);
        difference.stimulus
    };
    // Whole milliseconds are kept whole, and fractions where they make the difference.
    assert!(!case(["5ms", "9ms"]).contains('.'), "whole milliseconds tell them apart");
    assert!(case(["5ms", "5ms500us"]).contains("5."), "it takes a fraction");
    for (text, nanos) in [("0.5", 500_000), ("-0.000001", -1), ("12", 12_000_000), ("3.25", 3_250_000)] {
        let value = Value::parse(Elem::Time, text).unwrap();
        assert_eq!((&value, value.cell()), (&Value::Time(Duration::from_nanos(nanos)), text.to_string()));
    }
    for wrong in ["", ".5", "1.", "1.0000001", "1,5", "--1", "1e3", "9223372036854775807"] {
        assert_eq!(Value::parse(Elem::Time, wrong).is_some(), wrong == "1.", "{wrong}");
    }
}

/// STRING outputs within a tolerance are compared letter by letter, whatever numbers strings have on each side.
#[test]
fn strings_within_a_tolerance_are_told_apart() {
    let make = |name: &str, on: &str| {
        let text = format!(
            "PROGRAM P VAR_INPUT k : BOOL; END_VAR VAR_OUTPUT s : STRING; END_VAR VAR m : BOOL; other : STRING := 'spare'; END_VAR
             s := SEL(m, 'at rest', {on}); m := k; END_PROGRAM"
        );
        version(name, &text, Language::St)
    };
    let (rinse, drain) = (make("old", "'rinse'"), make("new", "'rinsf'"));
    let effort = Effort { scenarios: 60, scans: 6_000, faults: 0, ..Effort::default() };
    for (right, same) in [(&make("same", "'rinse'"), true), (&drain, false)] {
        let mut twin = Twin::new(&rinse, right);
        twin.pairing.tolerate(None, Tolerance::Within(Duration::from_millis(60))).unwrap();
        let verdict = compare_twin(&twin, &effort, |_| {});
        assert_eq!(matches!(verdict, Verdict::Tested(_)), same, "{}", show::verdict(&verdict));
        assert_eq!(matches!(verdict, Verdict::Different(_)), !same, "{}", show::verdict(&verdict));
    }
}

/// A trace says what happened to the controller and what was forced, so that whoever replays it sees the same: from the
/// scenario, from the stimulus of it, as text, and from the trace itself, as text.
#[test]
fn a_trace_replays_with_power_and_forces() {
    let text = "PROGRAM Feeder VAR_INPUT Feed, Key : BOOL; Dose : INT; END_VAR
        VAR_OUTPUT Auger, Alarm : BOOL; Fed : INT; END_VAR
        VAR Slow : TON; Before : BOOL; END_VAR VAR RETAIN Kept : INT; END_VAR
        Slow(IN := Feed, PT := T#40ms); Auger := Slow.Q AND NOT Alarm;
        IF Feed AND NOT Before THEN Fed := Fed + Dose; Kept := Kept + 1; END_IF; Before := Feed;
        Alarm := Key OR Kept > 6; END_PROGRAM";
    let version = version("feeder", text, Language::St);
    let machine = version.machine();
    let scripts = [
        "set Dose to 4\npress Feed 3 times, 50ms on, 20ms off\npower cycle\nset Feed on\nwait 60ms",
        "set Feed on\nwait 70ms\nforce Alarm to on\nwait 30ms\nrelease Alarm\nwait 30ms",
        "set Dose to 3\nforce Feed to on\nwait 60ms\nset Dose to 9\nrelease Feed\nwait 20ms\nset Feed on\nwait 60ms",
        "set Feed on\nwait 30ms\npower off for 50ms\nwait 60ms\nexpect Auger",
        "set Feed on\nwait 20ms\nstop\nwait 30ms\nrun\npower cycle\nwait 60ms",
        "force Fed to 7\npower cycle\nwait 30ms\nforce Fed to 8\nforce Key to on\nwait 20ms\nrelease Fed\npress Feed for 20ms\nwait 20ms",
        "repeat 3 times\n    press Feed for 50ms\n    power cycle\n    wait 20ms\nend",
    ];
    for time in [
        ScanTime::Fixed(Duration::from_millis(10)),
        ScanTime::Range {
            low: Duration::from_millis(7),
            high: Duration::from_millis(13),
            step: Duration::from_nanos(1),
            seed: 3,
        },
    ] {
        for script in scripts {
            let played = play(&Script::read("course", script).unwrap(), &[&version], &time).unwrap();
            let again = |stimulus: &Stimulus| {
                run_stimulus(&mut Controller::new(machine), stimulus, &time, played.scans(), &[]).write()
            };
            let wanted = played.traces[0].write();
            assert_eq!(again(&played.stimulus), wanted, "{script}");
            let stimulus = played.stimulus.write(machine);
            assert_eq!(again(&Stimulus::read(&stimulus, machine).unwrap()), wanted, "{script}\n{stimulus}");
            let values = |text: &str| {
                let rows = text.lines().map(|row| row.split(',').map(String::from).collect::<Vec<_>>());
                let rows: Vec<Vec<String>> = rows.collect();
                let kept: Vec<usize> = (0..rows[0].len()).filter(|c| !rows[0][*c].starts_with('@')).collect();
                rows.iter().map(|row| kept.iter().map(|c| row[*c].clone()).collect()).collect::<Vec<Vec<String>>>()
            };
            let traced = again(&Stimulus::from_trace(&wanted, machine).unwrap());
            assert_eq!(values(&traced), values(&wanted), "{script}\n{wanted}");
            let happens = script.contains("power") || script.contains("stop");
            assert_eq!(wanted.contains("@controller"), happens, "{wanted}");
            assert_eq!(wanted.contains("@force"), script.contains("force"), "{wanted}");
        }
    }
}

#[test]
fn what_cannot_be_forced_is_an_error_at_its_row() {
    let version = version(
        "feeder",
        "PROGRAM F VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Dose : INT; END_VAR Dose := 1; END_PROGRAM",
        Language::St,
    );
    for (text, words) in [
        ("time_ms,@force\n0,Nothing=1\n", "row 2: there is no variable `Nothing` to force"),
        ("time_ms,@force\n0,Dose=1\n10,Dose=much\n", "row 3: `much` is not a value of `Dose`"),
        ("time_ms,@controller\n0,power-cycle off\n", "row 2: `off` is none of power-cycle, cold-start, stop and run"),
    ] {
        assert_eq!(Stimulus::read(text, version.machine()).unwrap_err().to_string(), words);
    }
    let read =
        Stimulus::read("time_ms,@force,@controller\n0,Dose=3;Feed=1,stop run\n10,Dose,\n", version.machine()).unwrap();
    assert_eq!((read.events.len(), read.is_forced()), (3, true));
    assert_eq!(Stimulus::read(&read.write(version.machine()), version.machine()).unwrap(), read);
}

/// What lasts longer than a trace is kept is refused at its line before a scan of it, and whatever may end sooner is not.
#[test]
fn a_wait_that_no_trace_holds_is_refused_at_once() {
    let filter = filter();
    let by = |script: &Script, milliseconds: i64| {
        let time = ScanTime::Fixed(Duration::from_millis(milliseconds));
        play(script, &[&filter], &time).map(|played| played.asked).map_err(|error| (error.line, error.what))
    };
    let lasts = |line: usize, scans: u64| {
        let most = "of more than 10000000 scans from power-up no trace is kept";
        Err((line, format!("this lasts {scans} scans or more, and {most}")))
    };
    for (lines, expected) in [
        ("wait 28h", lasts(1, 10_080_000)),
        ("wait 1 scans\nrepeat 3 times\n    wait 10000000 scans\nend", lasts(3, 10_000_000)),
        ("press Key 2 times, 30h on, 10ms off", lasts(1, 10_800_000)),
        ("power off for 30h", lasts(1, 10_800_000)),
        ("ramp Level from 0 to 100 in 30h", lasts(1, 10_800_000)),
        ("wait 20ms\nexpect NOT Rinse for 30h", lasts(2, 10_800_000)),
        ("expect Level unchanged for 28h", lasts(1, 10_080_000)),
        ("wait 20ms\nset Level to 40\nexpect Rinse within 30h", Ok(1)),
        ("set Level to 40\nwait until Rinse at most 30h\nwait 10ms", Ok(1)),
    ] {
        assert_eq!(by(&Script::read("long", lines).unwrap(), 10), expected, "{lines}");
    }
    // The same wait in longer scans is short enough.
    assert_eq!(by(&Script::read("long", "wait 28h").unwrap(), 60_000), Ok(0));
    let rows = "step,@for_ms,Level,Rinse\nfirst,10,40,1\nrest,500500500,0,0\n";
    let table = read_table("t.csv", rows, filter.machine()).unwrap();
    assert_eq!(by(&table, 10), lasts(3, 50_050_050));
}
