//! A row for each way in which two projects can differ, with all that is told of it: group, kind, subject, note, reach.

use honest_twin::changes::{Change, Changes, Overall, Reach, UnitState, changes};
use honest_twin::check::{Checked, check};
use honest_twin::dialect::{Tags, library, read_library, read_project_tagged};
use honest_twin::lang::{Language, read_project};
use honest_twin::model::Outside;
use honest_twin::source::Source;
use std::sync::Arc;

pub(crate) fn project(files: &[(&str, &str)]) -> Checked {
    let files =
        files.iter().map(|(name, text)| (Source::new(*name, *text), Language::of_file(name).unwrap())).collect();
    let (project, problems) = read_project(files);
    assert!(!problems.has_errors(), "{problems:?}");
    check(project).unwrap_or_else(|problems| panic!("{problems:?}"))
}

pub(crate) fn told(found: &Changes) -> Vec<String> {
    let line = |change: &Change| {
        let reach = match &change.reach {
            Reach::Nothing => "nothing".to_string(),
            Reach::Outputs(names) => format!("[{}]", names.join(" ")),
            Reach::Everything(_) => "everything".to_string(),
        };
        let parts = [change.group.word(), change.kind.word(), &change.subject, &change.note, &reach];
        parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" / ")
    };
    found.changes.iter().map(line).collect()
}

const HEAD: &str =
    "PROGRAM Hall VAR_INPUT Low, Key : BOOL; n : INT; END_VAR VAR_OUTPUT Pump, Alarm : BOOL; m : INT; END_VAR";

/// Declarations and body before and after, and what is told.
const ROWS: &[(&str, &str, &[&str])] = &[
    ("Pump := Low;", "Pump := Low;", &[]),
    ("Pump := Low;", "pump  :=  low ;", &["texts / layout / layout / in one place / nothing"]),
    ("Pump := Low; // by hand", "Pump := Low; // by float", &["texts / comment / statement / nothing"]),
    ("Pump := (Low);", "Pump := Low;", &["texts / layout / layout / in one place / nothing"]),
    ("m := 60; Pump := Low;", "m := 16#3C; Pump := Low;", &["texts / layout / layout / in one place / nothing"]),
    ("m := 60;", "m := 61;", &["logic / value / statement / 60 became 61 / [m]"]),
    ("Pump := Low;", "Pump := NOT Low;", &["logic / form / statement / with NOT / [Pump]"]),
    (
        "Pump := Low AND Key;",
        "Pump := NOT (Low AND Key);",
        &["logic / form / statement / Low AND Key became NOT (Low AND Key) / [Pump]"],
    ),
    ("Pump := Low;", "Pump := Key;", &["logic / operand / statement / Low became Key / [Pump]"]),
    ("Pump := Low AND Key;", "Pump := Low OR Key;", &["logic / operator / statement / AND became OR / [Pump]"]),
    ("Pump := Low;", "Pump := Low AND Key;", &["logic / branch / statement / [Pump]"]),
    ("Pump := Low AND Key OR Pump;", "Pump := Low AND (Key OR Pump);", &["logic / branch / statement / [Pump]"]),
    ("Pump := Low; Alarm := Key;", "Alarm := Key; Pump := Low;", &["logic / moved / statement / [Alarm]"]),
    (
        "Pump := Low;",
        "IF Key THEN Pump := Low; END_IF;",
        &["logic / added / statement / [Pump]", "logic / moved / statement / [Pump]"],
    ),
    ("IF Key THEN Pump := Low; END_IF; Alarm := Key;", "Alarm := Key;", &["logic / removed / statement / [Pump]"]),
    (
        "IF Key THEN Pump := Low; END_IF;",
        "IF Key AND Low THEN Pump := Low; END_IF;",
        &["logic / branch / statement / [Pump]"],
    ),
    (
        "IF Key THEN Pump := Low; END_IF;",
        "IF Key THEN Pump := Low; ELSE Pump := FALSE; END_IF;",
        &["logic / added / statement / [Pump]"],
    ),
    (
        "CASE n OF 1: m := 5; 2: m := 7; END_CASE;",
        "CASE n OF 1: m := 5; 2, 3: m := 7; END_CASE;",
        &["logic / branch / statement / [m]"],
    ),
    ("Alarm := Low; m := n / 2;", "Alarm := Low; m := n / 3;", &["logic / value / statement / 2 became 3 / [m]"]),
    (
        "m := n / (n - 1); Alarm := Low;",
        "m := n / (n - 2); Alarm := Low;",
        &["logic / value / statement / 1 became 2 / everything"],
    ),
    ("RETURN; Pump := Low;", "Pump := Low;", &["logic / removed / statement / [Pump]"]),
];

#[test]
fn each_way_to_differ_is_told() {
    for (before, after, expected) in ROWS {
        let side = |body: &str| project(&[("p.st", &format!("{HEAD}\n{body}\nEND_PROGRAM"))]);
        let found = changes(["before", "after"], &side(before), &side(after));
        assert_eq!(told(&found), *expected, "{before} | {after}");
    }
}

/// Whole projects before and after.
const PROJECTS: &[(&str, &str, &[&str])] = &[
    (
        "PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR VAR old : BOOL; END_VAR\nold := a; q := old;\nEND_PROGRAM",
        "PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR VAR fresh : BOOL; END_VAR\nfresh := a; q := fresh;\nEND_PROGRAM",
        &["texts / renamed / old / old became fresh / nothing"],
    ),
    (
        "VAR_GLOBAL stock : INT; END_VAR PROGRAM P VAR_EXTERNAL stock : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\nq := stock;\nEND_PROGRAM",
        "VAR_GLOBAL trout : INT; END_VAR PROGRAM P VAR_EXTERNAL trout : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\nq := trout;\nEND_PROGRAM",
        &["texts / renamed / stock / stock became trout / nothing"],
    ),
    (
        "TYPE Mode : (Rest, Rinse); END_TYPE PROGRAM P VAR_OUTPUT q : Mode; END_VAR\nq := Rinse;\nEND_PROGRAM",
        "TYPE Mode : (Rest, Jet); END_TYPE PROGRAM P VAR_OUTPUT q : Mode; END_VAR\nq := Jet;\nEND_PROGRAM",
        &["texts / renamed / Rinse / Rinse became Jet / nothing"],
    ),
    (
        "TYPE Mode : (Rest, Rinse); END_TYPE PROGRAM P VAR_OUTPUT q : Mode; END_VAR\nq := Rinse;\nEND_PROGRAM",
        "TYPE Mode : (Rest, Rinse := 4); END_TYPE PROGRAM P VAR_OUTPUT q : Mode; END_VAR\nq := Rinse;\nEND_PROGRAM",
        &["data / type / Mode / with := 4 / everything"],
    ),
    (
        "FUNCTION_BLOCK Dose VAR_INPUT go : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR\nq := go;\nEND_FUNCTION_BLOCK\nPROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR VAR d : Dose; END_VAR\nd(go := a); q := d.q;\nEND_PROGRAM",
        "FUNCTION_BLOCK Portion VAR_INPUT start : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR\nq := start;\nEND_FUNCTION_BLOCK\nPROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR VAR d : Portion; END_VAR\nd(start := a); q := d.q;\nEND_PROGRAM",
        &[
            "texts / renamed / FUNCTION_BLOCK / Dose became Portion / nothing",
            "texts / renamed / go / go became start / nothing",
        ],
    ),
    (
        "FUNCTION Less : INT VAR_INPUT a, b : INT; END_VAR\nLess := a - b;\nEND_FUNCTION\nPROGRAM P VAR_INPUT x, y : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\nq := Less(x, y);\nEND_PROGRAM",
        "FUNCTION Less : INT VAR_INPUT b, a : INT; END_VAR\nLess := a - b;\nEND_FUNCTION\nPROGRAM P VAR_INPUT x, y : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\nq := Less(x, y);\nEND_PROGRAM",
        &["data / order / inputs and outputs / a, b became b, a / everything"],
    ),
    (
        "PROGRAM P VAR_INPUT a AT %IX0.1 : BOOL; END_VAR VAR_OUTPUT q AT %QX0.1 : BOOL; END_VAR\nq := a;\nEND_PROGRAM",
        "PROGRAM P VAR_INPUT a AT %IX0.1 : BOOL := TRUE; END_VAR VAR_OUTPUT q AT %QX0.2 : BOOL; END_VAR\nq := a;\nEND_PROGRAM",
        &["points / wiring / a / the usual became TRUE / [q]", "points / address / q / %QX0.1 became %QX0.2 / [q]"],
    ),
    (
        "PROGRAM P VAR CONSTANT limit : INT := 4; END_VAR VAR_INPUT n : INT; END_VAR VAR_OUTPUT q, o : BOOL; END_VAR\nq := n > limit; o := n > 3;\nEND_PROGRAM",
        "PROGRAM P VAR CONSTANT limit : INT := 5; END_VAR VAR_INPUT n : INT; END_VAR VAR_OUTPUT q, o : BOOL; END_VAR\nq := n > limit; o := n > 3;\nEND_PROGRAM",
        &["data / initial value / limit / 4 became 5 / [q]"],
    ),
    (
        "PROGRAM P VAR CONSTANT last : INT := 4; END_VAR VAR a : ARRAY[0..last] OF INT; END_VAR VAR_INPUT n : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\na[2] := n; q := a[2];\nEND_PROGRAM",
        "PROGRAM P VAR CONSTANT last : INT := 5; END_VAR VAR a : ARRAY[0..last] OF INT; END_VAR VAR_INPUT n : INT; END_VAR VAR_OUTPUT q : INT; END_VAR\na[2] := n; q := a[2];\nEND_PROGRAM",
        &["data / initial value / last / 4 became 5 / everything"],
    ),
    (
        "PROGRAM A VAR_OUTPUT q : BOOL; END_VAR\nq := TRUE;\nEND_PROGRAM PROGRAM B VAR_OUTPUT r : BOOL; END_VAR\nr := TRUE;\nEND_PROGRAM",
        "PROGRAM B VAR_OUTPUT r : BOOL; END_VAR\nr := TRUE;\nEND_PROGRAM PROGRAM A VAR_OUTPUT q : BOOL; END_VAR\nq := TRUE;\nEND_PROGRAM",
        &["timing / sequence / programs / A, B became B, A / everything"],
    ),
    (
        "PROGRAM A VAR_OUTPUT q : BOOL; END_VAR\nq := TRUE;\nEND_PROGRAM",
        "PROGRAM A VAR_OUTPUT q : BOOL; END_VAR\nq := TRUE;\nEND_PROGRAM FUNCTION Spare : INT\nSpare := 3;\nEND_FUNCTION",
        &["logic / added / FUNCTION / []"],
    ),
];

#[test]
fn each_change_of_a_project_is_told() {
    for (before, after, expected) in PROJECTS {
        let found = changes(["before", "after"], &project(&[("p.st", before)]), &project(&[("p.st", after)]));
        assert_eq!(told(&found), *expected, "{before}\n{after}");
    }
}

#[test]
fn drawings_are_told_by_network_and_element() {
    let drawing = |rung: &str| {
        format!(
            "PROGRAM P\nVAR_INPUT\n    a, b : BOOL;\nEND_VAR\nVAR_OUTPUT\n    q : BOOL;\nEND_VAR\n\n{rung}END_PROGRAM\n"
        )
    };
    let plain = drawing("    (* Rinse *)\n    |   a        q    |\n    +--| |------( )---+\n");
    let rows: &[(&str, &[&str])] = &[
        (
            "    (* Rinse *)\n    |   a          q    |\n    +--| |--------( )---+\n",
            &["texts / layout / layout / in one place / nothing"],
        ),
        ("    (* Jet *)\n    |   a        q    |\n    +--| |------( )---+\n", &["texts / comment / network / nothing"]),
        (
            "    (* Rinse *)\n    |   a        q    |\n    +--|/|------( )---+\n",
            &["logic / form / network / | | became |/| / [q]"],
        ),
        (
            "    (* Rinse *)\n    |   b        q    |\n    +--| |------( )---+\n",
            &["logic / operand / network / a became b / [q]"],
        ),
        (
            "    (* Rinse *)\n    |   a        q    |\n    +--| |------(S)---+\n",
            &["logic / form / network / ( ) became (S) / [q]"],
        ),
        (
            "    (* Rinse *)\n    |   a        q    |\n    +--| |--+---( )---+\n    |   b   |         |\n    +--| |--+         |\n",
            &["logic / branch / network / [q]"],
        ),
    ];
    for (rung, expected) in rows {
        let found = changes(["l", "r"], &project(&[("p.ld", &plain)]), &project(&[("p.ld", &drawing(rung))]));
        assert_eq!(told(&found), *expected, "{rung}");
    }
}

/// The same body in another language is the same, written as structured text; another one is told line by line.
#[test]
fn two_languages_are_held_against_each_other_as_text() {
    let text = "PROGRAM P VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR\nq := a AND NOT b;\nEND_PROGRAM";
    let list = "PROGRAM P VAR_INPUT a, b : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR\nLD a\nANDN b\nST q\nEND_PROGRAM";
    let found = changes(["st", "il"], &project(&[("p.st", text)]), &project(&[("p.il", list)]));
    assert_eq!(told(&found), ["logic / language / body / the same, written as structured text / [q]"]);
    let other = list.replace("ANDN", "AND");
    let found = changes(["st", "il"], &project(&[("p.st", text)]), &project(&[("p.il", &other)]));
    assert_eq!(
        told(&found),
        ["logic / form / statement / without NOT / [q]", "logic / language / body / both as structured text / [q]"]
    );
}

const OLD: &str = "{dialect octal-coil}\nLD INLET0\nSTORE OUTLET0\nEND\n";

fn listed(text: &str, tags: &str, own: Option<Arc<honest_twin::model::sheet::Library>>) -> Checked {
    let library = own.unwrap_or_else(|| library("octal-coil").unwrap());
    let tags = Tags::read(tags, &library.sheet).unwrap();
    let (project, problems) = read_project_tagged(vec![(Source::new("old.il", text), Language::Il)], &library, &tags);
    assert!(!problems.has_errors(), "{problems:?}");
    check(project).unwrap_or_else(|problems| panic!("{problems:?}")).outside_by(&tags)
}

#[test]
fn tags_sheets_cards_and_the_outside_are_points() {
    let shipped = honest_twin::dialect::LIBRARIES.iter().find(|l| l.name == "octal-coil").unwrap();
    let own = |change: &dyn Fn(&str) -> String| {
        let (sheet, blocks) = (Source::new("s.toml", change(shipped.sheet)), Source::new("s.st", shipped.blocks));
        Some(Arc::new(read_library(&sheet, &blocks).unwrap_or_else(|problems| panic!("{problems:?}"))))
    };
    let end = library("octal-coil").unwrap().sheet.scan.end.clone().unwrap_or_default();
    let load = OLD.replace("LD", &word("LD")).replace("STORE", &word("ST")).replace("END", &end);
    let plain = listed(&load, "address,symbol\nINLET0,Low\n", None);
    let same = |right: Checked| told(&changes(["l", "r"], &plain, &right));
    assert_eq!(same(listed(&load, "address,symbol\nINLET0,Low\n", own(&str::to_string))), Vec::<String>::new());
    assert_eq!(
        same(listed(&load, "address,symbol,comment,wiring\nINLET0,Low,,NC\n", None)),
        ["points / wiring / Low / the usual became TRUE / [OUTLET0]"]
    );
    assert_eq!(
        same(listed(&load, "address,symbol\nINLET0,Float\n", None)),
        ["texts / renamed / Low / Low became Float / nothing"]
    );
    let titled = same(listed(
        &load,
        "address,symbol\nINLET0,Low\n",
        own(&|text| text.replacen("title = \"", "title = \"Our ", 1)),
    ));
    assert_eq!(titled.len(), 1, "{titled:?}");
    assert!(titled[0].starts_with("texts / sheet / title"), "{titled:?}");
    let card = "\n[[card]]\nname = \"slot 1\"\narea = \"inputs\"\npoints = 16\n";
    let with_card = own(&|text| format!("{text}{}", card.replace("inputs", input_area(text))));
    let carded = same(listed(&load, "address,symbol\nINLET0,Low\n", with_card));
    assert!(carded.iter().all(|line| line.starts_with("points / card / card slot 1")), "{carded:?}");
    assert!(!carded.is_empty());
    let outside = |what| {
        let other = plain.clone().outside("OUTLET0", what).unwrap();
        told(&changes(["l", "r"], &plain, &other))
    };
    // What a program writes cannot be given: that cannot be compiled, so nothing is known to be untouched.
    assert_eq!(
        outside(Outside::Given),
        ["points / outside / OUTLET0 / neither given nor shown became given from outside / everything"]
    );
    assert_eq!(
        outside(Outside::Shown),
        ["points / outside / OUTLET0 / neither given nor shown became shown outside / [OUTLET0]"]
    );
    let standard = project(&[(
        "p.st",
        "PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT OUTLET0 : BOOL; END_VAR\nOUTLET0 := Low;\nEND_PROGRAM",
    )]);
    let moved = changes(["l", "r"], &plain, &standard);
    assert!(told(&moved).contains(&"points / sheet / dialect / octal-coil became iec / everything".to_string()));
    assert_eq!(moved.outputs.untouched, Vec::<String>::new());
}

/// The word of the dialect's list for an operator of the standard.
fn word(of: &str) -> String {
    let library = library("octal-coil").unwrap();
    let found = library.sheet.words.iter().find(|(_, to)| to.as_str() == of).map(|(word, _)| word.clone());
    found.unwrap_or_else(|| of.to_string())
}

/// The name of the area of inputs in a sheet's text.
fn input_area(text: &str) -> &str {
    let at = text.find("role = \"input\"").unwrap();
    let name = text[..at].rfind("name = \"").unwrap() + "name = \"".len();
    text[name..].split('"').next().unwrap()
}

#[test]
fn states_of_units_and_of_the_whole() {
    let text =
        |body: &str| format!("PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR\n{body}\nEND_PROGRAM");
    let of = |a: &str, b: &str| {
        let found = changes(["l", "r"], &project(&[("p.st", &text(a))]), &project(&[("p.st", &text(b))]));
        (found.units[0].state, found.stood.overall, found.any_runs())
    };
    assert_eq!(of("q := a;", "q := a;"), (UnitState::Same, Overall::Nothing, false));
    assert_eq!(of("q := a;", "q := a; // rest"), (UnitState::Texts, Overall::NothingThatRuns, false));
    assert_eq!(of("q := a;", "q := NOT a;"), (UnitState::Changed, Overall::Changed, true));
    let [left, right] = ["P", "Rinse"]
        .map(|name| project(&[("p.st", &text("q := a;").replace("PROGRAM P", &format!("PROGRAM {name}")))]));
    let found = changes(["l", "r"], &left, &right);
    assert_eq!((found.units[0].state, found.stood.overall), (UnitState::Renamed, Overall::NothingThatRuns));
}
