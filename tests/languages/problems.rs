//! What is said about texts with mistakes in them: every problem, at its place, with what would mend it.

use honest_twin::check::{declarations, verify};
use honest_twin::dialect::{library, read_project_in};
use honest_twin::lang::{Language, read_project};
use honest_twin::source::{Diagnostics, Source};
use std::fmt::Write;
use std::fs;
use std::path::Path;

fn source(name: &str) -> (Source, Language) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/problems").join(name);
    (Source::new(name, fs::read_to_string(path).unwrap()), Language::of_file(name).unwrap())
}

fn listed(source: &Source, problems: &Diagnostics) -> String {
    let mut out = String::new();
    for p in &problems.0 {
        let at = source.line_column(p.span.start);
        let mark = if p.severity == honest_twin::source::Severity::Error { "" } else { " (warning)" };
        let _ =
            writeln!(out, "{}:{} {}{mark} {} [{}]", at.line, at.column, p.code.0, p.message, source.excerpt(p.span));
        for (span, why) in &p.related {
            let _ = writeln!(out, "    line {}: {why}", source.line_column(span.start).line);
        }
        if let Some(help) = &p.help {
            let _ = writeln!(out, "    {help}");
        }
    }
    out
}

/// Everything that reading and checking finds.
fn problems(name: &str) -> String {
    let (source, language) = source(name);
    let (project, read) = read_project(vec![(source.clone(), language)]);
    listed(&source, &verify(project, read).1)
}

#[test]
fn checking_structured_text() {
    insta::assert_snapshot!(problems("many.st"));
}

#[test]
fn reading_goes_on_behind_mistakes() {
    insta::assert_snapshot!(problems("recovery.st"));
}

#[test]
fn checking_instruction_list() {
    insta::assert_snapshot!(problems("many.il"));
}

#[test]
fn pasted_code_gets_its_declarations() {
    let (source, language) = source("pasted.st");
    let (project, _) = read_project(vec![(source, language)]);
    let mut out = String::new();
    for d in declarations(&project) {
        let _ = writeln!(
            out,
            "{} : {};{} {}",
            d.name,
            d.ty,
            if d.sure { "" } else { " (guess)" },
            d.note.unwrap_or_default()
        );
    }
    insta::assert_snapshot!(out);
}

#[test]
fn hints_of_structured_text() {
    insta::assert_snapshot!(problems("hints.st"));
}

#[test]
fn hints_of_instruction_list() {
    insta::assert_snapshot!(problems("hints.il"));
}

#[test]
fn structures_in_the_current_result() {
    insta::assert_snapshot!(problems("structures.il"));
}

/// A family (`iec` is the standard itself), a language, what stands in the program, and the hint that is wanted, if any.
const HINTED: [(&str, Language, &str, &str); 16] = [
    (
        "iec",
        Language::St,
        "T1(IN := Key, PT := T#2s); T1(IN := Lid, PT := T#3s); Lamp := T1.Q; Horn := StopKey;",
        TWICE,
    ),
    (
        "iec",
        Language::St,
        "IF Lid THEN T1(PT := T#2s); ELSE T1(PT := T#3s); END_IF; Lamp := T1.Q; Horn := StopKey;",
        "",
    ),
    ("iec", Language::St, "T1(IN := Key, PT := T#2s); T1(IN := Lid, PT := T#2s); Lamp := T1.Q; Horn := StopKey;", ""),
    ("iec", Language::St, "T1(IN := Key, PT := T#1.5ms); Lamp := T1.Q; Horn := StopKey;", PART),
    (
        "iec",
        Language::St,
        "T1(IN := Key, PT := T#-5s); Lamp := T1.Q; Horn := StopKey;",
        "H10 a preset of this timer is 0 to T#24d",
    ),
    ("iec", Language::St, "C1(CU := Key, R := NOT StopKey, PV := 6); Lamp := C1.Q; Horn := Lid;", ""),
    ("iec", Language::St, "L1(S1 := Key, R := NOT StopKey); Lamp := L1.Q1; Horn := Lid;", ""),
    (
        "iec",
        Language::St,
        "IF Key THEN Lamp := TRUE; END_IF; IF NOT StopKey THEN Lamp := FALSE; END_IF; Horn := Lid;",
        "",
    ),
    ("iec", Language::St, "Lamp := Key AND NOT StopKey; Horn := Lid;", INVERTED),
    ("iec", Language::Ld, "", ""),
    ("iec", Language::Ld, "    +--<RETURN>  |\n", "H03 no scan reaches this network"),
    ("iec", Language::Ld, "    | StopKey    Horn    |\n    +---|/|-------(R)----+\n", ""),
    ("iec", Language::Ld, "    | StopKey    Horn    |\n    +---|/|-------(S)----+\n", INVERTED),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nST DELAY0, 8\nLD INLET1\nST DELAY0, 20\nLD DELAY0\nST OUTLET0\nLASTLINE\n",
        "H09 `DELAY0`",
    ),
    (
        "octal-coil",
        Language::Il,
        "LD INLET0\nST DELAY0, -8\nLD DELAY0\nST OUTLET0\nLASTLINE\n",
        "H10 a preset of this timer is 0 to 32767",
    ),
    (
        "word-bit",
        Language::Il,
        "READ SIG000.00\nRUNOUT DUE000, 12000\nREAD DUE000\nWRITE CMD000.00\nFINISH\n",
        "H10 a preset of this timer is 0 to 9999",
    ),
];

const TWICE: &str = "H09 `T1` is driven twice in a scan, with two presets";
const PART: &str = "H10 this preset is no whole number of ticks of 1ms: it acts as T#1ms";
const INVERTED: &str = "H08 `StopKey` is TRUE at rest, as wired normally closed, and is read only inverted";

/// The program around it.
fn whole(language: Language, inside: &str) -> String {
    let inputs = "VAR_INPUT\n    Key, Lid : BOOL;\n    StopKey : BOOL := TRUE;\nEND_VAR";
    let outputs = "VAR_OUTPUT\n    Lamp, Horn : BOOL;\nEND_VAR";
    let [first, last] = [("Key", "Lamp"), ("Lid", "Horn")]
        .map(|(contact, coil)| format!("    |  {contact}       {coil}    |\n    +---| |-------( )----+\n"));
    match language {
        Language::Ld => format!("PROGRAM Filter\n{inputs}\n{outputs}\n\n{first}\n{inside}\n{last}END_PROGRAM\n"),
        Language::St => format!(
            "PROGRAM Filter\n{inputs}\n{outputs}\nVAR T1 : TON; C1 : CTU; L1 : SR; END_VAR\n{inside}\nEND_PROGRAM\n"
        ),
        Language::Il | Language::Fbd => inside.to_string(),
    }
}

#[test]
fn hints_about_devices_wiring_and_reach() {
    for (family, language, inside, wanted) in HINTED {
        let text = whole(language, inside);
        let source = Source::new("filter", text.clone());
        let files = vec![(source.clone(), language)];
        let (project, read) = match family {
            "iec" => read_project(files),
            family => read_project_in(files, &library(family).unwrap()),
        };
        let found = listed(&source, &verify(project, read).1);
        let lines =
            found.lines().filter_map(|line| line.split_once(' ')).map(|(_, rest)| rest.replace("(warning) ", ""));
        // What is not used, or written twice as well, is not what is asked here.
        let others = ["H01", "H02", "H04"];
        let hints: Vec<String> = lines
            .filter(|line| line.starts_with(['H', 'C', 'R']) && !others.iter().any(|code| line.starts_with(code)))
            .collect();
        assert_eq!(hints.len(), usize::from(!wanted.is_empty()), "{family}\n{text}\n{found}");
        assert!(hints.iter().all(|hint| hint.starts_with(wanted)), "{family}\n{text}\n{found}");
    }
}

/// Blocks that reach themselves by an instance that all share, directly and through others; a chain that does not is fine.
#[test]
fn no_block_reaches_itself_through_a_shared_instance() {
    let project = |blocks: &[(&str, &str)]| {
        let globals: String = blocks.iter().map(|(name, _)| format!("    Run{name} : {name};\n")).collect();
        let units: String = blocks
            .iter()
            .map(|(name, calls)| {
                let body: String = calls.split_whitespace().map(|to| format!("    Run{to}();\n")).collect();
                format!("FUNCTION_BLOCK {name}\n{body}END_FUNCTION_BLOCK\n")
            })
            .collect();
        format!("VAR_GLOBAL\n{globals}END_VAR\n{units}PROGRAM Main\n    Run{}();\nEND_PROGRAM\n", blocks[0].0)
    };
    let said = |blocks: &[(&str, &str)]| -> Vec<String> {
        let text = project(blocks);
        let (read, problems) = read_project(vec![(Source::new("circle.st", text), Language::St)]);
        let found = verify(read, problems).1;
        found.0.iter().filter(|p| p.code.0 == "C08").map(|p| p.message.clone()).collect()
    };
    assert_eq!(said(&[("A", "B C"), ("B", "C"), ("C", "D"), ("D", "")]), Vec::<String>::new());
    assert_eq!(said(&[("A", "A")]), ["`A` reaches itself here"]);
    assert_eq!(said(&[("A", "B"), ("B", "C"), ("C", "B")]), ["`C` reaches itself here", "`B` reaches itself here"]);
    // Two circles that share nothing, and a block that hangs on both.
    let two = said(&[("A", "B D"), ("B", "C"), ("C", "B"), ("D", "E"), ("E", "F"), ("F", "D")]);
    assert_eq!(two.len(), 5, "{two:?}");
    // A thousand blocks in a row are no circle, and found to be none at once.
    let names: Vec<String> = (0..1000).map(|n| format!("Part{n}")).collect();
    let chain: Vec<(&str, &str)> =
        (0..1000).map(|n| (names[n].as_str(), names.get(n + 1).map_or("", String::as_str))).collect();
    assert_eq!(said(&chain), Vec::<String>::new());
}

/// What reading and checking a text finds.
fn found(text: &str) -> Diagnostics {
    let (project, read) = read_project(vec![(Source::new("p.st", text), Language::St)]);
    verify(project, read).1
}

/// Labels of a CASE that an earlier one has taken are those that a comparison of each with each finds.
#[test]
fn labels_that_were_taken_before() {
    let mut rng = fastrand::Rng::with_seed(7);
    for _ in 0..300 {
        let mut ranges: Vec<(i64, i64)> = Vec::new();
        let (mut branches, mut expected) = (String::new(), 0);
        for _ in 0..rng.usize(1..24) {
            let low = rng.i64(-40..40);
            let high = low + [0, 0, 1, 5, 30][rng.usize(0..5)];
            expected += usize::from(ranges.iter().any(|taken| taken.0 <= high && low <= taken.1));
            ranges.push((low, high));
            let label = if low == high { low.to_string() } else { format!("{low}..{high}") };
            branches.push_str(&format!("{label}: Dose := {low};\n"));
        }
        let text = format!(
            "PROGRAM P VAR_INPUT Key : INT; END_VAR VAR_OUTPUT Dose : INT; END_VAR\nCASE Key OF\n{branches}END_CASE;\nEND_PROGRAM\n"
        );
        let taken = found(&text).0.iter().filter(|p| p.message.contains("an earlier branch takes")).count();
        assert_eq!(taken, expected, "{text}");
    }
}

/// Of a block with many inputs an error names the first ones, or the one that was meant.
#[test]
fn of_many_names_some_are_told() {
    let inputs: String = (0..60).map(|n| format!("Probe{n} : INT; ")).collect();
    let block = format!("FUNCTION_BLOCK Raceway VAR_INPUT {inputs}END_VAR END_FUNCTION_BLOCK\n");
    let call = |name: &str| {
        found(&format!("{block}PROGRAM P VAR r : Raceway; END_VAR\nr({name} := 1);\nEND_PROGRAM\n")).0[0].help.clone()
    };
    let help = call("Depth").unwrap();
    assert!(help.starts_with("it has Probe0, Probe1,") && help.ends_with("Probe19 and 40 more"), "{help}");
    assert_eq!(call("Probe_59").unwrap(), "did you mean `Probe59`?");
}
