//! The engine: power, retention, forces, faults, tasks, jitter, and the corners of arithmetic.

use crate::common::{checked, machine, trace};
use honest_twin::lang::Language::{self, Il, St};
use honest_twin::lang::read_project;
use honest_twin::model::{Duration, Instant, Value};
use honest_twin::scan::{Controller, Machine, ScanTime};
use honest_twin::source::Source;

fn at(ms: i64) -> Instant {
    Instant(Duration::from_millis(ms))
}

fn value(controller: &Controller, name: &str) -> String {
    controller.get_named(name).unwrap().to_string()
}

/// Runs a body once with outputs of the given declarations and returns the values of `names`.
fn once(declarations: &str, body: &str, names: &[&str]) -> Vec<String> {
    let text = format!("PROGRAM P\nVAR\n{declarations}\nEND_VAR\n{body}\nEND_PROGRAM\n");
    let machine = machine("once", &text, St);
    let mut controller = Controller::new(&machine);
    controller.scan(at(0));
    assert_eq!(controller.fault(), None, "{body}");
    names.iter().map(|n| value(&controller, n)).collect()
}

#[test]
fn arithmetic_follows_the_rules() {
    let rows: &[(&str, &str, &str)] = &[
        ("INT", "32767 + INT#1", "-32768"),
        ("SINT", "SINT#-128 / SINT#-1", "-128"),
        ("INT", "-7 / 2", "-3"),
        ("INT", "INT#-7 MOD 3", "-1"),
        ("INT", "INT#7 MOD 0", "0"),
        ("USINT", "USINT#3 - 4", "255"),
        ("ULINT", "ULINT#18446744073709551615 / 2", "9223372036854775807"),
        ("BOOL", "ULINT#18446744073709551615 > 1", "1"),
        ("INT", "WORD_TO_INT(16#FFFF)", "-1"),
        ("SINT", "INT_TO_SINT(300)", "44"),
        ("DINT", "REAL_TO_DINT(2.5)", "2"),
        ("DINT", "REAL_TO_DINT(3.5)", "4"),
        ("DINT", "TRUNC(-3.9)", "-3"),
        ("WORD", "ROL(WORD#16#8001, 1)", "3"),
        ("WORD", "SHL(WORD#16#8001, 16)", "0"),
        ("BYTE", "NOT BYTE#16#0F", "240"),
        ("INT", "LIMIT(5, 3, 2)", "2"),
        ("TIME", "T#1.5s * 3", "4500"),
        ("TIME", "T#1m - T#90s", "-30000"),
        ("DINT", "TIME_TO_DINT(T#2s)", "2000"),
        ("INT", "WORD_BCD_TO_INT(16#1234)", "1234"),
        ("WORD", "INT_TO_BCD_WORD(1234)", "4660"),
        ("BOOL", "LT(1, 2, 3)", "1"),
        ("INT", "2 + 3 * 4 - 20 / 5", "10"),
        ("LREAL", "2.0 ** 3", "8"),
        ("BOOL", "TRUE OR TRUE AND FALSE", "1"),
        ("BOOL", "NOT TRUE OR TRUE", "1"),
        ("LINT", "SINT#-1", "-1"),
    ];
    for (ty, expression, want) in rows {
        let got = once(&format!("x : {ty};"), &format!("x := {expression};"), &["x"]);
        assert_eq!(got[0], *want, "{expression}");
    }
}

#[test]
fn loops_and_choices() {
    let got = once(
        "i, sum, down : INT; d : DINT; s : STRING[3]; same : BOOL;",
        "FOR i := 1 TO 10 DO IF i = 3 THEN CONTINUE; END_IF; IF i > 5 THEN EXIT; END_IF; sum := sum + i; END_FOR;
         FOR down := 5 TO 1 BY -2 DO d := d * 10 + down; END_FOR;
         s := 'trout'; same := s = 'tro';",
        &["i", "sum", "down", "d", "s", "same"],
    );
    assert_eq!(got, ["6", "12", "-1", "531", "tro", "1"]);
}

#[test]
fn faults_stop_the_scan_and_hold_the_outputs() {
    let rows = [
        ("Level / zero", "division by zero"),
        ("Doses[zero + 9]", "index out of bounds"),
        ("REAL_TO_INT(1.0E9 * INT_TO_REAL(zero + 1))", "value out of range"),
    ];
    for (expression, fault) in rows {
        let text = format!(
            "PROGRAM P VAR_INPUT zero : INT; END_VAR VAR_OUTPUT before, after : INT; END_VAR
             VAR Level : INT := 6; Doses : ARRAY [0..8] OF INT; t : INT; END_VAR
             before := before + 1;
             IF before = 3 THEN t := {expression}; END_IF;
             after := after + 1;
             END_PROGRAM"
        );
        let (seen, stopped) = trace(&machine("fault", &text, St), "time_ms,zero\n0,0\n", 5);
        let last: Vec<&str> = seen.lines().last().unwrap().split(',').collect();
        assert_eq!((last[3], last[4]), ("2", "2"), "{expression}: outputs hold those of the last whole scan\n{seen}");
        assert_eq!(stopped.unwrap(), format!("{fault} in scan 2"));
    }
    let (_, stopped) = trace(
        &machine("loop", "PROGRAM P VAR a : INT; END_VAR WHILE TRUE DO a := a + 1; END_WHILE; END_PROGRAM", St),
        "time_ms\n",
        2,
    );
    assert_eq!(stopped.unwrap(), "loop limit reached in scan 0");
}

const RETENTIVE: &str = "
PROGRAM Feeder
VAR_INPUT Feed : BOOL; END_VAR
VAR_OUTPUT Full : BOOL; END_VAR
VAR RETAIN
    Doses : CTU;
    Held : TON;
END_VAR
VAR
    Lost : CTU;
    First : BOOL;
    Firsts : INT;
END_VAR
    Doses(CU := Feed, PV := 3);
    Lost(CU := Feed, PV := 3);
    Held(IN := Feed, PT := T#100ms);
    IF FIRST_SCAN() THEN Firsts := Firsts + 1; END_IF;
    Full := Doses.Q;
END_PROGRAM
";

#[test]
fn a_power_cycle_keeps_what_is_retained() {
    let machine = machine("retentive", RETENTIVE, St);
    let mut c = Controller::new(&machine);
    for scan in 0..5 {
        c.set_named("Feed", &Value::Bool(scan % 2 == 1)).unwrap();
        c.scan(at(scan * 10));
    }
    assert_eq!((value(&c, "Doses.CV"), value(&c, "Lost.CV")), ("2".into(), "2".into()));
    c.set_named("Feed", &Value::Bool(true)).unwrap();
    c.scan(at(50));
    c.scan(at(80));
    assert_eq!(value(&c, "Held.ET"), "30");
    c.power_cycle(at(1000));
    assert_eq!(value(&c, "Lost.CV"), "0");
    c.scan(at(1000));
    // The retained timer goes on from where it stood (its input stayed on); the retained counter sees no new edge.
    assert_eq!(
        (value(&c, "Doses.CV"), value(&c, "Lost.CV"), value(&c, "Firsts")),
        ("3".into(), "1".into(), "1".into())
    );
    let elapsed: i64 = value(&c, "Held.ET").parse().unwrap();
    assert!(elapsed >= 30, "{elapsed}");
}

#[test]
fn stop_freezes_and_run_goes_on() {
    let text = "PROGRAM P VAR_OUTPUT n : INT; END_VAR n := n + 1; END_PROGRAM";
    let (seen, _) = trace(&machine("stop", text, St), "time_ms,@controller\n20,stop\n50,run\n", 8);
    let counts: Vec<&str> = seen.lines().skip(1).map(|l| l.rsplit(',').next().unwrap()).collect();
    assert_eq!(counts, ["1", "2", "2", "2", "2", "3", "4", "5"]);
}

#[test]
fn a_forced_variable_reads_its_value_whatever_writes_it() {
    let text = "PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT b, c : BOOL; END_VAR b := a; c := b; END_PROGRAM";
    for (language, text) in [(St, text.to_string()), (Il, crate::common::translated("force", text, St, Il))] {
        let machine = machine("force", &text, language);
        let mut c = Controller::new(&machine);
        let b = machine.find("b").unwrap();
        c.force(b, &Value::Bool(true)).unwrap();
        c.scan(at(0));
        assert_eq!((value(&c, "b"), value(&c, "c")), ("1".into(), "1".into()));
        c.release(b);
        c.scan(at(10));
        assert_eq!((value(&c, "b"), value(&c, "c")), ("0".into(), "0".into()));
    }
}

#[test]
fn programs_run_in_order_and_by_their_intervals() {
    let text = "
        PROGRAM Fast VAR_EXTERNAL Shared : INT; END_VAR Shared := Shared + 1; END_PROGRAM
        PROGRAM Slow VAR_EXTERNAL Shared : INT; END_VAR VAR_OUTPUT Seen : INT; END_VAR Seen := Shared; END_PROGRAM
        CONFIGURATION Hatchery
            VAR_GLOBAL Shared : INT; END_VAR
            TASK Often(INTERVAL := T#10ms, PRIORITY := 1);
            TASK Seldom(INTERVAL := T#40ms, PRIORITY := 2);
            PROGRAM f WITH Often : Fast;
            PROGRAM s WITH Seldom : Slow;
        END_CONFIGURATION";
    let machine = machine("tasks", text, St);
    let mut c = Controller::new(&machine);
    let seen: Vec<String> = (0..9)
        .map(|scan| {
            c.scan(at(scan * 10));
            value(&c, "s.Seen")
        })
        .collect();
    assert_eq!(seen, ["1", "1", "1", "1", "5", "5", "5", "5", "9"]);
}

#[test]
fn jitter_is_drawn_from_its_range_and_repeats() {
    let time = ScanTime::Range {
        low: Duration::from_millis(8),
        high: Duration::from_millis(12),
        step: Duration::from_nanos(1),
        seed: 7,
    };
    let draw = || time.clock().take(200).map(|i| i.0.millis()).collect::<Vec<_>>();
    let starts = draw();
    assert_eq!(starts, draw());
    assert!(starts.windows(2).all(|w| (7..=12).contains(&(w[1] - w[0]))));
    assert!(starts[199] != 199 * 8 && starts[199] != 199 * 12);
}

#[test]
fn blocks_in_arrays_and_by_reference() {
    let text = "
        FUNCTION_BLOCK Adder VAR_IN_OUT Sum : INT; END_VAR VAR_INPUT By : INT; END_VAR VAR Calls : INT; END_VAR
        VAR_OUTPUT Total : INT; END_VAR
            Sum := Sum + By; Calls := Calls + 1; Total := Calls;
        END_FUNCTION_BLOCK
        PROGRAM P VAR a : ARRAY [1..3] OF Adder; sums : ARRAY [1..3] OF INT; i : INT; ok : INT; END_VAR
            FOR i := 1 TO 3 DO a[i](Sum := sums[4 - i], By := i); a[i](Sum := sums[i], By := 10); END_FOR;
            ok := a[2].Total;
        END_PROGRAM"
        .replace("By :", "Step :")
        .replace("+ By;", "+ Step;");
    let machine = machine("arrays", &text, St);
    let mut c = Controller::new(&machine);
    c.scan(at(0));
    let values: Vec<String> = ["sums[1]", "sums[2]", "sums[3]", "ok"].iter().map(|n| value(&c, n)).collect();
    assert_eq!(values, ["13", "12", "11", "2"]);
}

#[test]
fn edge_inputs_are_true_for_one_call() {
    let text = "
        FUNCTION_BLOCK Counter VAR_INPUT Up : BOOL R_EDGE; Down : BOOL F_EDGE; END_VAR
        VAR_OUTPUT Ups, Downs : INT; END_VAR
            IF Up THEN Ups := Ups + 1; END_IF;
            IF Down THEN Downs := Downs + 1; END_IF;
        END_FUNCTION_BLOCK
        PROGRAM P VAR_INPUT a : BOOL; Start : BOOL R_EDGE; END_VAR VAR_OUTPUT u, d, s : INT; END_VAR VAR c : Counter; END_VAR
            c(Up := a, Down := a, Ups => u, Downs => d);
            IF Start THEN s := s + 1; END_IF;
        END_PROGRAM";
    for (language, text) in [(St, text.to_string()), (Il, crate::common::translated("edges", text, St, Il))] {
        let stimulus = "time_ms,a,Start\n10,1,1\n40,0,\n60,1,\n80,,0\n90,,1\n";
        let (seen, _) = trace(&machine("edges", &text, language), stimulus, 11);
        // F_EDGE answers TRUE in a first call with FALSE, as F_TRIG does.
        assert!(seen.ends_with("10,100,1,1,2,2,2\n"), "{seen}");
    }
}

#[test]
fn located_points_are_inputs_and_outputs() {
    let text = "PROGRAM P VAR Level AT %IX0.3 : BOOL; Pump AT %QX1.0 : BOOL; END_VAR
        Pump := Level AND NOT %IX0.4; %MW2 := %MW2 + WORD#0; %QB7 := BYTE#5; END_PROGRAM"
        .replace("%MW2 := %MW2 + WORD#0;", "%MW2 := NOT %MW2;");
    let (seen, _) = trace(&machine("located", &text, St), "time_ms,Level,%IX0.4\n0,1,0\n10,,1\n", 2);
    assert_eq!(seen, "scan,time_ms,%IX0.4,Level,%QB7,Pump\n0,0,0,1,5,1\n1,10,1,1,5,0\n");
}

#[test]
fn a_project_of_blocks_only_does_not_run() {
    let checked = checked("blocks", "FUNCTION_BLOCK B VAR a : BOOL; END_VAR a := NOT a; END_FUNCTION_BLOCK", St);
    assert_eq!(Machine::new(&checked).unwrap_err().to_string(), "there is no PROGRAM to run");
}

/// The elapsed time of a pulse falls in the very call in which the pulse ends, if the input is FALSE then; while it is TRUE
/// the time stays (SEMANTICS section 3).
#[test]
fn the_time_of_a_pulse_falls_with_its_end() {
    let text = "PROGRAM P VAR_INPUT i : BOOL; END_VAR VAR_OUTPUT q : BOOL; e : TIME; END_VAR VAR t : TP; END_VAR
        t(IN := i, PT := T#30ms); q := t.Q; e := t.ET; END_PROGRAM";
    let machine = machine("pulse", text, Language::St);
    for (stimulus, expected) in [
        ("time_ms,i\n0,1\n10,0\n", "0,1,1,0|1,0,1,10|2,0,1,20|3,0,0,0|4,0,0,0"),
        ("time_ms,i\n0,1\n40,0\n", "0,1,1,0|1,1,1,10|2,1,1,20|3,1,0,30|4,0,0,0"),
    ] {
        let (trace, _) = trace(&machine, stimulus, 5);
        let rows: Vec<String> = trace
            .lines()
            .skip(1)
            .map(|row| {
                row.split(',').enumerate().filter(|(n, _)| *n != 1).map(|(_, cell)| cell).collect::<Vec<_>>().join(",")
            })
            .collect();
        assert_eq!(rows.join("|"), expected);
    }
}

/// What is selected among strings is as long as the longest of them.
#[test]
fn strings_that_are_selected_are_whole() {
    let text = "PROGRAM P VAR_INPUT b : BOOL; n : INT; END_VAR VAR_OUTPUT s, u : STRING; END_VAR
        s := SEL(b, 'a', 'drum filter'); u := MUX(n, 'x', 'yy', 'zzz'); END_PROGRAM";
    let (trace, _) = trace(&machine("select", text, Language::St), "time_ms,b,n\n0,0,0\n10,1,1\n20,1,2\n", 3);
    assert!(trace.ends_with("0,0,0,0,a,x\n1,10,1,1,drum filter,yy\n2,20,1,2,drum filter,zzz\n"), "{trace}");
}

#[test]
fn a_file_that_declares_nothing_is_a_problem() {
    for (text, language) in
        [("", Language::St), ("  \n", Language::Il), ("(* later *)\n", Language::St), ("", Language::Ld)]
    {
        let (_, problems) = read_project(vec![(Source::new("main", text), language)]);
        let told: Vec<&str> = problems.0.iter().map(|p| p.message.as_str()).collect();
        assert_eq!(told, ["this file declares nothing"], "{text:?} as {}", language.ending());
    }
}

/// An instance that is read and never called says nothing of the machine; whichever way it is called, it is called.
#[test]
fn instances_that_are_never_called_are_told() {
    let hints = |text: &str, language: Language| -> Vec<String> {
        checked("main", text, language).warnings().0.iter().map(|hint| hint.message.clone()).collect()
    };
    let told = "`t` is read but never called: its outputs stay at their initial values";
    let head = "PROGRAM P\nVAR_INPUT i : BOOL; END_VAR\nVAR_OUTPUT o : BOOL; END_VAR\nVAR t : TON; END_VAR\n";
    for (body, language, expected) in [
        ("o := t.Q OR i;", St, &[told][..]),
        ("t(IN := i, PT := T#1s); o := t.Q;", St, &[]),
        ("LD t.Q\nOR i\nST o\n", Il, &[told]),
        ("CAL t(IN := i, PT := T#1s)\nLD t.Q\nST o\n", Il, &[]),
        ("LD i\nIN t\nLD t.Q\nST o\n", Il, &[]),
    ] {
        assert_eq!(hints(&format!("{head}{body}\nEND_PROGRAM\n"), language), expected, "{body}");
    }
    for drawn in [Language::Ld, Language::Fbd] {
        let text = crate::common::translated(
            "main",
            &format!("{head}t(IN := i, PT := T#1s); o := t.Q;\nEND_PROGRAM\n"),
            St,
            drawn,
        );
        assert_eq!(hints(&text, drawn), [""; 0], "{text}");
    }
}
