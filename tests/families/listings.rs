//! Lists as old controllers print them (`tests/listings`): read unedited, run, drawn, said in every language, and moved to
//! other families.

use honest_twin::check::{Checked, verify};
use honest_twin::dialect::rack::protocol_place;
use honest_twin::dialect::{LIBRARIES, library, read_library, read_project_in};
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::model::sheet::Library;
use honest_twin::show;
use honest_twin::source::{Diagnostic, Source};
use honest_twin::translate::{Grade, Mode, migrate, translate};
use honest_twin::twin::{Effort, Verdict, Version, compare};
use std::fmt::Write;
use std::sync::Arc;
use toml::{Table, Value};

const FAMILIES: &[&str] = &["octal-coil", "byte-bit", "word-bit", "point-block", "status-word", "flat-register"];

/// The shipped sheet of a family with the layout of its lists.
fn family(name: &str) -> Arc<Library> {
    let layout = std::fs::read_to_string(format!("tests/listings/{name}/layout.toml")).unwrap();
    with_layout(name, &layout).unwrap_or_else(|problems| panic!("{name}: {problems:#?}"))
}

pub(crate) fn with_layout(name: &str, layout: &str) -> Result<Arc<Library>, Vec<Diagnostic>> {
    let shipped = LIBRARIES.iter().find(|l| l.name == name).unwrap();
    let mut sheet: Table = shipped.sheet.parse().unwrap();
    merge(&mut sheet, layout.parse().unwrap());
    let sheet = Source::new(format!("{name}.toml"), toml::to_string(&sheet).unwrap());
    read_library(&sheet, &Source::new(format!("{name}.st"), shipped.blocks)).map(Arc::new).map_err(|p| p.0)
}

/// What the second says goes into the first: tables by their keys, lists of tables by their names.
fn merge(into: &mut Table, from: Table) {
    for (key, value) in from {
        match (into.get_mut(&key), value) {
            (Some(Value::Table(old)), Value::Table(new)) => merge(old, new),
            (Some(Value::Array(old)), Value::Array(new)) => {
                for item in new {
                    let name = item.get("name").cloned();
                    match old.iter_mut().find(|o| name.is_some() && o.get("name") == name.as_ref()) {
                        Some(Value::Table(old)) => merge(old, item.as_table().cloned().unwrap()),
                        Some(_) | None => old.push(item),
                    }
                }
            }
            (_, value) => {
                into.insert(key, value);
            }
        }
    }
}

fn lists(family: &str) -> Vec<(String, String)> {
    let files = std::fs::read_dir(format!("tests/listings/{family}")).unwrap().map(|f| f.unwrap().path());
    let lists = files.filter(|p| p.extension().is_some_and(|e| e == "il"));
    let mut out: Vec<_> = lists
        .map(|p| (p.file_stem().unwrap().to_string_lossy().to_string(), std::fs::read_to_string(&p).unwrap()))
        .collect();
    out.sort();
    out
}

pub(crate) fn read(library: &Arc<Library>, name: &str, text: &str, language: Language) -> Result<Checked, String> {
    let source = Source::new(format!("{name}.{}", language.ending()), text);
    let (project, found) = read_project_in(vec![(source.clone(), language)], library);
    let (checked, all) = verify(project, found);
    checked.ok_or_else(|| said(&all.0, &source))
}

fn said(problems: &[Diagnostic], source: &Source) -> String {
    let line = |p: &Diagnostic| {
        let place = source.line_column(p.span.start);
        format!("{}:{} {} {}\n", place.line, place.column, p.code.0, p.message)
    };
    problems.iter().map(line).collect()
}

fn version(name: &str, checked: Checked) -> Version {
    Version::new(name, checked).unwrap()
}

fn effort() -> Effort {
    Effort { scenarios: 100, scans: 40_000, faults: 0, ..Effort::default() }
}

#[test]
fn lists_are_said_in_every_language_of_their_own_family() {
    let mut ways = 0;
    for family_name in FAMILIES {
        let library = family(family_name);
        let mut out = String::new();
        for (name, text) in lists(family_name) {
            let source =
                read(&library, &name, &text, Language::Il).unwrap_or_else(|p| panic!("{family_name}/{name}\n{p}"));
            let old = version("old", source.clone());
            for &language in LANGUAGES {
                let written = translate(&source, language).unwrap().files[0].text.clone();
                let again = read(&library, &name, &written, language)
                    .unwrap_or_else(|p| panic!("{family_name}/{name} as {language:?}\n{p}\n{written}"));
                let verdict = compare(&old, &version("new", again), &effort(), |_| {});
                let told = show::verdict(&verdict);
                assert!(matches!(verdict, Verdict::Tested(_)), "{family_name}/{name}\n{written}\n{told}");
                let _ = writeln!(out, "=== {name} as {}\n{written}", language.title());
                ways += 1;
            }
        }
        insta::assert_snapshot!(format!("list_of_{family_name}"), out);
    }
    assert_eq!(ways, 48);
}

#[test]
fn lists_move_to_other_families() {
    let (mut same, mut foretold) = (0, 0);
    for (at, family_name) in FAMILIES.iter().enumerate() {
        let from = family(family_name);
        let other = FAMILIES[(at + 1) % FAMILIES.len()];
        for (name, text) in lists(family_name) {
            let source = read(&from, &name, &text, Language::Il).unwrap();
            let old = version("old", source.clone());
            for (to, mode) in
                [("iec", Mode::Native), ("iec", Mode::Faithful), (other, Mode::Native), (other, Mode::Faithful)]
            {
                let title = format!("{family_name}/{name} to {to}, {mode:?}");
                // Numbers only as well as letters: the target lays out its lists, too.
                let target = if to == "iec" { library(to).unwrap() } else { family(to) };
                let migrated = migrate(&source, &target, (Language::Il, Language::Il.into()), mode, None)
                    .unwrap_or_else(|e| panic!("{title}: {e}"));
                let verdict = compare(&old, &version("new", migrated.checked.clone()), &effort(), |_| {});
                let ledger = &migrated.translation.ledger;
                let warned =
                    ledger.iter().any(|e| matches!(e.grade, Grade::Conditional | Grade::Approximate | Grade::Lost));
                match verdict {
                    Verdict::Tested(_) => same += 1,
                    Verdict::Different(_) if warned && mode == Mode::Native => foretold += 1,
                    other => panic!("{title}\n{}\n{}", migrated.translation.files[0].text, show::verdict(&other)),
                }
            }
        }
    }
    println!("{same} the same, {foretold} different as foretold");
    assert_eq!(same + foretold, 48);
    assert!(same >= 36, "{same}");
}

/// Rungs that were typed as such a controller shows them.
#[test]
fn rungs_of_numbers_and_constants_end_with_the_marker() {
    let ladder = "
 |  00001     00002                         40010  |
 +---| |-------|/|--------------------------(WAIT)-+
 |                                          =15    |

 |  40010     00003                         01001  |
 +---| |---+---| |---------------------------( )---+
 |  02010  |                                       |
 +---| |---+                                       |

 +------------------------------------------(FINIS)-+

 |  00004                                   01002  |
 +---| |-------------------------------------( )---+
";
    let library = family("flat-register");
    let checked = read(&library, "basin", ladder, Language::Ld).unwrap_or_else(|p| panic!("{p}"));
    assert!(checked.warnings().0.iter().any(|w| w.code.0 == "H03"), "{:#?}", checked.warnings().0);
    let list = translate(&checked, Language::Il).unwrap().files[0].text.clone();
    insta::assert_snapshot!("typed_rungs_as_a_list", list);
}

#[test]
fn cards_have_their_own_numbers_in_the_protocol() {
    let library = family("octal-coil");
    let number = |address: &str| {
        let (area, index) = library.sheet.locate(address).unwrap();
        protocol_place(&library.sheet, area, index).map(|(_, number)| number)
    };
    let all = ["INLET0", "INLET17", "INLET40", "INLET47", "OUTLET0"].map(|address| number(address).unwrap());
    assert_eq!(all, [100, 115, 300, 307, 0]);
}

#[test]
fn what_is_wrong_with_a_layout_or_a_list_is_said_at_its_place() {
    let mut out = String::new();
    let sheets = [
        ("a radix", "[listing]\nconstants = { '#' = 7 }"),
        ("a sign", "[listing]\ncomments = [' ']"),
        ("a word", "[listing]\ncomments = ['(']"),
        ("numbers without a sign before constants", "[[area]]\nname = 'inputs'\npattern = '{point}'"),
        (
            "nothing between fields",
            "[[area]]\nname = 'inputs'\npattern = 'IN{point}{bit}'\nfields = { bit = { last = 7 } }",
        ),
        ("one run for two", "[[area]]\nname = 'outputs'\npattern = 'INLET{point}'"),
        ("a card beyond the protocol", "[[card]]\nname = 'k'\narea = 'inputs'\npoints = 16\nprotocol = 65530"),
    ];
    for (title, layout) in sheets {
        let problems = with_layout("octal-coil", layout).expect_err(title);
        let _ = writeln!(out, "--- {title}");
        for problem in problems {
            let _ = writeln!(out, "{} {}", problem.code.0, problem.message);
        }
    }
    let lists = [
        (
            "word-bit",
            "a join over a write",
            "READ SIG000.00\nWRITE CMD000.00\nREAD SIG000.01\nEITHERLAST\nWRITE CMD000.01\nFINISH",
        ),
        ("word-bit", "a join of one result", "READ SIG000.00\nEITHERLAST\nWRITE CMD000.00\nFINISH"),
        ("word-bit", "a step that is not there", "1 READ SIG000.00\n2 GOTOIF 9\n3 WRITE CMD000.00\n4 FINISH"),
        ("word-bit", "two values", "READ SIG000.00\nRUNOUT DUE000 #5 #6\nFINISH"),
        ("flat-register", "a number in no area", "LD 00001\nST 03000\nFINIS"),
        ("flat-register", "a constant without its sign", "LD 40001\nADD 5\nST 40001\nFINIS"),
        ("octal-coil", "a constant that is none", "00 LD SLOT1\n01 ADD #1F\n02 ST SLOT1\n03 LASTLINE"),
    ];
    for (name, title, text) in lists {
        let _ = writeln!(out, "--- {title}");
        match read(&family(name), "list", text, Language::Il) {
            Ok(_) => out.push_str("read\n"),
            Err(problems) => out.push_str(&problems),
        }
    }
    insta::assert_snapshot!(out);
}

/// Prints are smudged: whatever is missing, doubled or torn off, the reader says what it finds, at places that there are.
#[test]
fn smudged_lists_are_read_or_refused() {
    const SMUDGES: &[&str] = &[
        "",
        "\u{c}",
        "\n",
        "\t",
        "(*",
        "*)",
        "'",
        "#",
        "=",
        ";",
        "9999999999999999999999",
        "é",
        "  ",
        "\r\n",
        "-",
        "%",
    ];
    let (mut read_well, mut refused) = (0, 0);
    for family_name in FAMILIES {
        let library = family(family_name);
        for (name, text) in lists(family_name) {
            let mut rng = fastrand::Rng::with_seed(3);
            for _ in 0..120 {
                let mut letters: Vec<char> = text.chars().collect();
                for _ in 0..rng.usize(1..4) {
                    let at = rng.usize(..letters.len());
                    let until = (at + rng.usize(..3)).min(letters.len());
                    letters.splice(at..until, SMUDGES[rng.usize(..SMUDGES.len())].chars());
                }
                let changed: String = letters.into_iter().collect();
                let source = Source::new(format!("{name}.il"), changed.as_str());
                let (project, found) = read_project_in(vec![(source, Language::Il)], &library);
                let (checked, all) = verify(project, found);
                for problem in &all.0 {
                    let place = (problem.span.start as usize, problem.span.end as usize);
                    let is_own = problem.span.file.0 == 0;
                    assert!(
                        !is_own || changed.get(place.0..place.1).is_some(),
                        "{place:?} {}\n{changed}",
                        problem.message
                    );
                }
                match checked {
                    Some(checked) => {
                        assert!(!translate(&checked, Language::St).unwrap().files[0].text.is_empty());
                        read_well += 1;
                    }
                    None => refused += 1,
                }
            }
        }
    }
    println!("{read_well} read, {refused} refused");
    assert!(read_well > 100 && refused > 100, "{read_well} read, {refused} refused");
}

/// A name that is no address is a mistake in a list of addresses, not a new point; an instance is declared by its pins.
#[test]
fn a_misspelt_address_is_no_new_input() {
    let library = family("octal-coil");
    let problems = read(&library, "list", "00 LD INLTE0\n01 ST OUTLET0\n02 LASTLINE\n", Language::Il).unwrap_err();
    assert_eq!(problems, "1:7 C01 unknown name `INLTE0`\n");
    let library = family("byte-bit");
    let text = "\n\n    CAL Wait(GO := SENSE0.0, SPAN := T#2s)\n    LD Wait.OUT\n    ST ACT0.0\n";
    let checked = read(&library, "list", text, Language::Il).unwrap();
    let said: Vec<&str> = checked.warnings().0.iter().map(|w| w.code.0).collect();
    assert!(said.contains(&"H11"), "{said:?}");
}

/// The same lists as somebody typed them as ladders: without a head, each rung as wide as it came out.
#[test]
fn typed_ladders_mean_what_the_lists_mean() {
    let mut read_ladders = 0;
    for family_name in FAMILIES {
        let library = family(family_name);
        for (name, list) in lists(family_name) {
            let path = format!("tests/listings/{family_name}/{name}.ld");
            let list = read(&library, &name, &list, Language::Il).unwrap();
            if std::env::var_os("HONEST_TWIN_TYPE").is_some() {
                std::fs::write(&path, &translate(&list, Language::Ld).unwrap().files[0].text).unwrap();
                continue;
            }
            let text = std::fs::read_to_string(&path).unwrap();
            let ladder = read(&library, &name, &text, Language::Ld).unwrap_or_else(|p| panic!("{path}\n{p}"));
            let verdict = compare(&version("list", list), &version("ladder", ladder.clone()), &effort(), |_| {});
            assert!(matches!(verdict, Verdict::Tested(_)), "{path}\n{}", show::verdict(&verdict));
            let form = (Language::Ld, Language::Ld.into());
            let moved = migrate(&ladder, &honest_twin::dialect::library("iec").unwrap(), form, Mode::Faithful, None);
            let moved = moved.unwrap_or_else(|why| panic!("{path}\n{why}"));
            let verdict = compare(&version("ladder", ladder), &version("iec", moved.checked), &effort(), |_| {});
            assert!(matches!(verdict, Verdict::Tested(_)), "{path}\n{}", show::verdict(&verdict));
            read_ladders += 1;
        }
    }
    assert_eq!(read_ladders, 12);
}
