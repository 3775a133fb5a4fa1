//! Pairs that were once proved the same and are not, each with the verdict that is right; and what guards against the next.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, prove};
use honest_twin::show;
use honest_twin::twin::file::TwinFile;
use honest_twin::twin::{Effort, Mapping, Twin, Verdict, Version, compare_twin};

/// A door that no search opens: one number in four thousand million does.
const GATE: &str = "(k XOR SHL(k, 13) XOR SHR(k, 7)) = DWORD#16#5A17C3E9";

/// What is right: it differs, which some search or the solver shows; it differs, which only the solver shows, so that a
/// search may call it tested; it is the same; or nothing can be said.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Right {
    Differs,
    DiffersBehindTheDoor,
    Same,
    Undecided,
}

fn program(inputs: &str, outputs: &str, variables: &str, body: &str) -> String {
    format!(
        "PROGRAM Hatchery VAR_INPUT {inputs} END_VAR VAR_OUTPUT {outputs} END_VAR VAR {variables} END_VAR
         {body} END_PROGRAM"
    )
}

fn st(name: &str, text: &str) -> Version {
    version(name, text, Language::St)
}

fn judged(name: &str, twin: &Twin<'_>, right: Right) {
    judged_by(name, twin, right, Effort { scenarios: 400, scans: 100_000, ..Effort::default() });
}

fn judged_by(name: &str, twin: &Twin<'_>, right: Right, effort: Effort) {
    let compared = compare_twin(twin, &effort, |_| {});
    let text = show::verdict(&compared);
    let as_it_should_be = match right {
        Right::Differs => matches!(compared, Verdict::Different(_)),
        Right::DiffersBehindTheDoor => matches!(compared, Verdict::Tested(_) | Verdict::Different(_)),
        Right::Same => matches!(compared, Verdict::Tested(_)),
        Right::Undecided => matches!(compared, Verdict::Undecided { .. }),
    };
    assert!(as_it_should_be, "{name}, compared: {text}");
    let proved = prove(twin, &Means { effort, conditions: false, ..Means::default() }, |_| true);
    let text = show::verdict(&proved);
    let as_it_should_be = match right {
        Right::Differs | Right::DiffersBehindTheDoor => matches!(proved, Verdict::Different(_)),
        Right::Same => matches!(proved, Verdict::Proved(_)),
        Right::Undecided => matches!(proved, Verdict::Undecided { .. }),
    };
    assert!(as_it_should_be, "{name}, proved: {text}");
    // An output that a replay has shown to differ is not proved the same without a condition.
    if let Verdict::Different(difference) = &proved {
        let always = difference.proved.iter().filter(|part| part.conditions.is_empty());
        assert!(always.into_iter().all(|part| !part.outputs.contains(&difference.name)), "{name}: {text}");
    }
}

/// Programs that differ in their bodies alone.
fn judge(name: &str, head: [&str; 3], bodies: [&str; 2], right: Right) {
    let [left, other] = bodies.map(|body| program(head[0], head[1], head[2], body));
    let (left, other) = (st("left", &left), st("right", &other));
    judged(name, &Twin::new(&left, &other), right);
}

#[test]
fn two_arrays_read_with_one_index_have_each_their_own_reach() {
    let library = "FUNCTION_BLOCK Trough VAR_IN_OUT p : INT; END_VAR VAR_INPUT k : INT; END_VAR
         VAR b : ARRAY[0..3] OF INT; x : INT; END_VAR
         IF k >= 0 AND k < 4 THEN x := b[k]; END_IF; p := p + 1; END_FUNCTION_BLOCK
         FUNCTION Pick : INT VAR_INPUT k : INT; END_VAR VAR b : ARRAY[0..3] OF INT := [1, 2, 3, 4]; END_VAR
         IF k >= 0 AND k < 4 THEN Pick := b[k]; ELSE Pick := 9; END_IF; END_FUNCTION ";
    let case = |name: &str, body: &dyn Fn(u32) -> String, right: Right| {
        let text = |most: u32| {
            let head = program("i : INT; k : DWORD;", "o : INT;", "a : ARRAY[0..9] OF INT; f : Trough;", &body(most));
            st(if most == 10 { "left" } else { "right" }, &format!("{library}{head}"))
        };
        let (left, other) = (text(10), text(4));
        judged(name, &Twin::new(&left, &other), right);
    };
    let within = |most: u32| format!("i >= 0 AND i < {most}");
    let shared = |most: u32| format!("IF {} THEN f(p := a[i], k := i); END_IF; o := a[7];", within(most));
    let picked = |most: u32| format!("IF {} THEN a[i] := Pick(i); END_IF; o := a[7];", within(most));
    case("shared", &shared, Right::Differs);
    case("picked", &picked, Right::Differs);
    let behind = |inner: &dyn Fn(u32) -> String, most: u32| {
        let (first, last) = inner(most).rsplit_once("END_IF;").map(|(a, b)| (a.to_string(), b.to_string())).unwrap();
        format!("IF {GATE} THEN {first} END_IF; END_IF; {last}")
    };
    case("shared behind the door", &|most| behind(&shared, most), Right::DiffersBehindTheDoor);
    case("picked behind the door", &|most| behind(&picked, most), Right::DiffersBehindTheDoor);
}

#[test]
fn quotients_of_sixty_four_bits_without_a_sign_are_another_division() {
    let head = ["k : DWORD; x : ULINT;", "o : BOOL; l : LINT;", ""];
    let pairs = [
        ("o := ULINT_TO_LINT(x / 2) < 5;", "o := ULINT_TO_LINT(x) < 10;"),
        ("o := 4 < ULINT_TO_LINT(x / 2);", "o := 9 < ULINT_TO_LINT(x);"),
        ("o := MIN(ULINT_TO_LINT(x / 2), LINT#7) = 7;", "o := ULINT_TO_LINT(x) / 2 >= 7;"),
    ];
    for (left, right) in pairs {
        judge(left, head, [left, right], Right::Differs);
        let behind = [left, right].map(|body| format!("IF {GATE} THEN {body} END_IF;"));
        judge(left, head, [&behind[0], &behind[1]], Right::DiffersBehindTheDoor);
    }
    judge("the same sign", ["x : LINT;", "o : BOOL;", ""], ["o := x / 2 < 5;", "o := x < 10;"], Right::Same);
    let head = ["x : ULINT;", "l : LINT;", ""];
    let bodies = ["l := ULINT_TO_LINT(x / 3) / 5;", "l := ULINT_TO_LINT(x) / 15;"];
    let [left, right] = bodies.map(|body| st(&body[..4], &program(head[0], head[1], head[2], body)));
    let effort = Effort { scenarios: 400, ..Effort::default() };
    let verdict = compare_twin(&Twin::new(&left, &right), &effort, |_| {});
    assert!(matches!(verdict, Verdict::Different(_)), "{}", show::verdict(&verdict));
}

#[test]
fn laws_of_bool_are_not_those_of_words() {
    let head = ["b : BOOL; w : WORD; k : DWORD;", "wo : WORD;", ""];
    let split = "wo := (w AND BOOL_TO_WORD(b)) OR (w AND BOOL_TO_WORD(NOT b));";
    let rest = "wo := BOOL_TO_WORD(b) OR (w AND BOOL_TO_WORD(NOT b));";
    judge("split", head, [split, "wo := w;"], Right::Differs);
    judge("rest", head, [rest, "wo := BOOL_TO_WORD(b) OR w;"], Right::Differs);
    judge("one bit", head, [split, "wo := w AND WORD#1;"], Right::Same);
    let behind = [split, "wo := w;"].map(|body| format!("IF {GATE} THEN {body} END_IF;"));
    judge("split behind the door", head, [&behind[0], &behind[1]], Right::DiffersBehindTheDoor);
}

#[test]
fn large_arrays_lose_no_choice() {
    let head = ["i, j : INT; k : DWORD;", "o : INT;", "m : ARRAY[0..99, 0..99] OF INT;"];
    let read = format!("m[60, 50] := 7; IF {GATE} THEN o := m[LIMIT(0, i, 99), LIMIT(0, j, 99)]; END_IF;");
    let none = format!("m[60, 50] := 7; IF {GATE} THEN o := 0; END_IF;");
    judge("two dimensions", head, [&read, &none], Right::DiffersBehindTheDoor);
    let head = ["i : INT; k : DWORD;", "o : INT;", "m : ARRAY[0..8000] OF INT;"];
    let read = format!("m[7777] := 7; IF {GATE} THEN o := m[LIMIT(0, i, 8000)]; END_IF;");
    let none = format!("m[7777] := 7; IF {GATE} THEN o := 0; END_IF;");
    judge("one dimension", head, [&read, &none], Right::DiffersBehindTheDoor);
    // What is larger than a circuit may be is no proof either.
    let head = ["i : DINT; v : INT;", "o : INT;", "m : ARRAY[0..900000] OF INT;"];
    let body = |more: &str| format!("m[LIMIT(0, i, 900000)] := v; o := m[LIMIT(0, i, 900000)] {more};");
    let [left, right] = ["", "+ 0"].map(|more| st("large", &program(head[0], head[1], head[2], &body(more))));
    let effort = Effort { scenarios: 8, scans: 200, ..Effort::default() };
    let verdict = prove(&Twin::new(&left, &right), &Means { effort, ..Means::default() }, |_| true);
    assert!(matches!(verdict, Verdict::Undecided { .. }), "{}", show::verdict(&verdict));
}

#[test]
fn a_loop_that_is_too_long_is_a_fault_in_the_circuit_too() {
    let head = ["k : DWORD; n : INT;", "o : INT;", "i : DINT; j, x : INT;"];
    // A scan of so many rounds takes as long as hundreds of others.
    let slow = |name: &str, bodies: [&str; 2], right: Right| {
        let [left, other] = bodies.map(|body| st("v", &program(head[0], head[1], head[2], body)));
        let effort = Effort { scenarios: 4, scans: 100, ..Effort::default() };
        judged_by(name, &Twin::new(&left, &other), right, effort);
    };
    let body = |rounds: u32| {
        format!(
            "FOR i := 1 TO {rounds} DO ; END_FOR; x := 0;
             IF {GATE} AND n > 0 AND n < 60 THEN FOR j := 1 TO n DO x := x + 1; END_FOR; END_IF; o := x;"
        )
    };
    slow("ten rounds are left", [&body(99_990), &body(10)], Right::DiffersBehindTheDoor);
    slow("enough are left", [&body(2_000), &body(10)], Right::Same);
    let body = |rounds: u32| format!("FOR i := 1 TO {rounds} DO ; END_FOR; o := n;");
    slow("one too many", [&body(100_001), &body(10)], Right::Differs);
    slow("just enough", [&body(100_000), &body(10)], Right::Same);
}

#[test]
fn what_is_scaled_does_not_wrap() {
    let file = TwinFile::read(
        "[[version]]\nfiles = [\"l\"]\n[[version]]\nfiles = [\"r\"]\n[[pair]]\nleft = \"o\"\nright = \"o\"\nscale = \"10\"",
    )
    .unwrap();
    let text = |by: u32| format!("IF {GATE} THEN o := x * {by}; ELSE o := 0; END_IF;");
    let [left, right] = [1, 10].map(|by| st("v", &program("x : LINT; k : DWORD;", "o : LINT;", "", &text(by))));
    let twin = file.twin([&left, &right], [0, 1], [None, None], None).unwrap();
    // What is ten times as much as 64 bits hold has no counterpart on the right.
    judged("scaled output", &twin, Right::DiffersBehindTheDoor);
    // An input is given what both types hold, and that is said.
    let [left, right] = ["x : INT", "x : SINT"].map(|x| st("v", &program(&format!("{x};"), "o : INT;", "", "o := 0;")));
    let mut twin = Twin::new(&left, &right);
    twin.pairing.pair([&left, &right], ["x", "x"], Mapping::Scaled(10, 1)).unwrap();
    let verdict = prove(&twin, &Means::default(), |_| true);
    let text = show::verdict(&verdict);
    assert!(text.contains("x is given what both types hold: -12 to 12"), "{text}");
}

#[test]
fn a_proof_says_in_its_first_line_that_no_stop_is_given() {
    let head = ["x : BOOL;", "o : BOOL;", "f : TON; n : INT;"];
    let time = "f(IN := x, PT := T#50ms); o := f.Q;";
    let scans = "IF NOT x THEN n := 0; ELSIF n < 6 THEN n := n + 1; END_IF; o := n >= 6;";
    let [left, right] = [time, scans].map(|body| st("v", &program(head[0], head[1], head[2], body)));
    let twin = Twin::new(&left, &right);
    // The search gives STOP as well: with so many scenarios it parts them.
    let verdict = compare_twin(&twin, &Effort::default(), |_| {});
    assert!(matches!(verdict, Verdict::Different(_)), "{}", show::verdict(&verdict));
    let alone = Means { effort: Effort { scenarios: 0, ..Effort::default() }, ..Means::default() };
    let text = show::verdict(&prove(&twin, &alone, |_| true));
    assert!(text.lines().next().unwrap().contains("as long as no STOP is given"), "{text}");
}

#[test]
fn what_has_no_partner_is_not_silently_held() {
    let level = |ty: &str, body: &str| program(&format!("x : BOOL; level : {ty};"), "pump, alarm : BOOL;", "", body);
    let low = "pump := x; alarm := level > 100;";
    let bits = "pump := x; alarm := WORD_TO_INT(level) > ";
    let case = |name: &str, texts: [&str; 2], right: Right| {
        let [left, other] = texts.map(|text| st("v", text));
        judged(name, &Twin::new(&left, &other), right);
    };
    case("word", [&level("INT", low), &level("WORD", &format!("{bits} 900;"))], Right::Differs);
    case("word, the same", [&level("INT", low), &level("WORD", &format!("{bits} 100;"))], Right::Same);
    case("wider", [&level("INT", low), &level("DINT", low)], Right::Same);
    // Two readings: the number or the bits.
    case("sign", [&level("INT", low), &level("UINT", low)], Right::Undecided);
    let none = program("x : BOOL;", "pump, alarm : BOOL;", "", "pump := x; alarm := FALSE;");
    case("one side only", [&level("INT", low), &none], Right::Undecided);
    case("unread", [&level("INT", "pump := x; alarm := FALSE;"), &none], Right::Same);
    case("nothing", ["PROGRAM P VAR_OUTPUT o : BOOL; END_VAR o := TRUE; END_PROGRAM"; 2], Right::Undecided);
    let [left, right] = ["Key", "GoKey"]
        .map(|key| st("v", &program(&format!("{key} : BOOL;"), "Lamp : BOOL;", "", &format!("Lamp := {key};"))));
    let mut twin = Twin::new(&left, &right);
    judged("two names", &twin, Right::Undecided);
    let objection = twin.pairing.objection().unwrap();
    assert!(objection.contains("`GoKey` in v may be meant"), "{objection}");
    // Whoever agrees is told what was agreed to.
    twin.pairing.agree("Key").unwrap();
    judged("one of two agreed", &twin, Right::Undecided);
    twin.pairing.agree("gokey").unwrap();
    let verdict = prove(&twin, &Means::default(), |_| true);
    assert!(show::verdict(&verdict).contains("LIMITED: input Key: only in v"), "{}", show::verdict(&verdict));
    assert!(!show::verdict(&verdict).contains("may be meant"), "what is agreed to needs no hint");
    assert!(twin.pairing.agree("Lamp").unwrap_err().to_string().contains("without one: Key, GoKey"));
    twin.pairing.pair([&left, &right], ["Key", "GoKey"], Mapping::Same).unwrap();
    judged("paired", &twin, Right::Same);
}

#[test]
fn an_output_of_one_version_limits_the_verdict() {
    let text = |outputs: &str, more: &str| program("x : BOOL;", outputs, "", &format!("pump := x; {more}"));
    let (left, right) =
        (st("old", &text("pump : BOOL;", "")), st("new", &text("pump, pumps : BOOL;", "pumps := NOT x;")));
    let twin = Twin::new(&left, &right);
    let effort = Effort { scenarios: 50, scans: 2_000, ..Effort::default() };
    let compared = show::verdict(&compare_twin(&twin, &effort, |_| {}));
    let proved = show::verdict(&prove(&twin, &Means { effort, ..Means::default() }, |_| true));
    for text in [compared, proved] {
        // At once below the headline, so that nobody takes one for the other.
        let second = text.lines().nth(1).unwrap();
        assert_eq!(second, "  LIMITED: output pumps: only in new, so it is not compared", "{text}");
    }
}

/// What asks for a reading is told it in a twin file, and the verdict follows it.
#[test]
fn a_twin_file_says_how_a_value_is_read() {
    let text = |ty: &str, than: &str| {
        program(&format!("level : {ty};"), "low : BOOL;", "", &format!("low := level < {than};"))
    };
    // -1 is 65,535 where it is read by its bits, and is not given where it is read as a number.
    let (left, right) = (st("old", &text("INT", "-5")), st("new", &text("UINT", "0")));
    let case = |reading: &str, right_one: Right| {
        let file = format!(
            "[[version]]\nfiles = [\"old.st\"]\n[[version]]\nfiles = [\"new.st\"]\n\
             [[pair]]\nleft = \"level\"\nright = \"level\"\n{reading}"
        );
        let file = TwinFile::read(&file).unwrap();
        let twin = file.twin([&left, &right], [0, 1], [None, None], None).map_err(|e| e.to_string())?;
        judged(reading, &twin, right_one);
        Ok::<(), String>(())
    };
    case("reading = \"bits\"", Right::Differs).unwrap();
    case("reading = \"number\"", Right::Same).unwrap();
    for (wrong, says) in [
        ("reading = \"name\"", "do not go together so: INT and UINT"),
        ("reading = \"letters\"", "`number`, `bits` or `name`"),
        ("", "reading = "),
    ] {
        let refusal = case(wrong, Right::Same).unwrap_err();
        assert!(refusal.contains(says), "{wrong}: {refusal}");
    }
}

/// A halt rings at any moment: nothing is claimed of what was not looked at.
#[test]
fn what_is_halted_is_undecided() {
    let text = |most: u32| {
        program(
            "x : BOOL; k : DWORD;",
            "o : BOOL;",
            "n : DINT;",
            &format!("IF x AND {GATE} THEN n := n + 1; END_IF; o := n > {most};"),
        )
    };
    let (left, right) = (st("old", &text(3)), st("new", &text(4)));
    let twin = Twin::new(&left, &right);
    twin.halt.ring();
    let verdict = prove(&twin, &Means::default(), |_| true);
    assert!(matches!(verdict, Verdict::Undecided { .. }), "{}", show::verdict(&verdict));
    let verdict = compare_twin(&twin, &Effort::default(), |_| {});
    let text = show::verdict(&verdict);
    assert!(!text.contains("PROVED") && !text.contains("SAME IN EVERY SCENARIO TRIED"), "{text}");
}

#[test]
fn enumerations_with_other_numbers_are_asked_about() {
    let text = |values: &str| {
        format!(
            "TYPE Mode : ({values}); END_TYPE PROGRAM P VAR_INPUT x, y : BOOL; END_VAR VAR_OUTPUT m : Mode; END_VAR
             IF x THEN m := Rinse; ELSIF y THEN m := Fault; ELSE m := Idle; END_IF; END_PROGRAM"
        )
    };
    let (left, right) = (st("old", &text("Idle, Rinse, Fault")), st("new", &text("Idle, Fault, Rinse")));
    let mut twin = Twin::new(&left, &right);
    judged("asked", &twin, Right::Undecided);
    let objection = twin.pairing.objection().unwrap();
    assert!(objection.contains("Rinse is 1 here and 2 there"), "{objection}");
    assert!(objection.contains("reading = \"number\" or \"name\""), "{objection}");
    twin.pairing.pair([&left, &right], ["m", "m"], Mapping::Name).unwrap();
    judged("by name", &twin, Right::Same);
    twin.pairing.pair([&left, &right], ["m", "m"], Mapping::Number).unwrap();
    judged("by number", &twin, Right::Differs);
}

#[test]
fn a_condition_that_is_broken_from_the_beginning_proves_nothing() {
    let head = ["x : BOOL;", "o : BOOL; q : INT;", "n : INT := 500;"];
    let body = |shown: &str| format!("IF x AND n < 32000 THEN n := n + 1; END_IF; o := {shown}; q := n;");
    judge("counts from 500", head, [&body("n > 20"), &body("n > 21 AND x")], Right::Differs);
}

#[test]
fn times_from_numbers_without_a_sign_fault_alike() {
    let head = ["x : ULINT;", "o : TIME;", ""];
    let bodies = [
        "o := ULINT_TO_TIME(x);",
        "IF x > 9223372036854 THEN o := LINT_TO_TIME(LINT#9223372036855); END_IF; o := LINT_TO_TIME(ULINT_TO_LINT(x));",
    ];
    judge("beyond what a time holds", head, bodies, Right::Same);
}

#[test]
fn strings_and_real_constants_are_tried() {
    let text = |word: &str| {
        let body = format!("o := tank = '{word}';");
        st(word, &program("tank : STRING;", "o : BOOL;", "", &body))
    };
    let (left, right) = (text("trout"), text("troux"));
    let verdict = compare_twin(&Twin::new(&left, &right), &Effort::default(), |_| {});
    assert!(matches!(verdict, Verdict::Different(_)), "{}", show::verdict(&verdict));
    // Twenty constants, each changed by 1 to 5 %.
    let mut found = 0;
    for number in 0..20u32 {
        let constant = 0.37 * 1.9f64.powi(number as i32 / 2) * if number.is_multiple_of(2) { 1.0 } else { -1.0 };
        let changed = constant * (1.0 + 0.01 * f64::from(1 + number % 5));
        let read = |limit: f64| {
            let body = format!("o := t * 1.5 + 0.25 > REAL#{limit:.6} * 1.5 + 0.25 AND on;");
            st("limit", &program("t : REAL; on : BOOL;", "o : BOOL;", "", &body))
        };
        let (left, right) = (read(constant), read(changed));
        let verdict = compare_twin(&Twin::new(&left, &right), &Effort::default(), |_| {});
        found += u32::from(matches!(verdict, Verdict::Different(_)));
    }
    println!("{found} of 20 changed constants found");
    assert!(found >= 19, "{found} of 20");
}
