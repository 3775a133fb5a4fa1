//! Nothing read from outside panics, overflows the stack, or runs away.

use crate::common::extent::Extent;
use crate::common::programs::random;
use honest_twin::check::{check, declarations};
use honest_twin::lang::{Form, LANGUAGES, Language, read_project};
use honest_twin::scan::{Machine, Stimulus};
use honest_twin::source::Source;
use proptest::prelude::*;

/// Everything a text can meet: reading, checking, declaring, compiling, translating.
fn survives(text: &str) {
    for &language in LANGUAGES {
        let (project, problems) = read_project(vec![(Source::new("text", text), language)]);
        let _ = declarations(&project);
        if problems.has_errors() {
            let _ = check(project);
            continue;
        }
        if let Ok(checked) = check(project) {
            let _ = Machine::new(&checked);
            for &to in LANGUAGES {
                let _ = honest_twin::translate::translate(&checked, to);
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: if Extent::asked().is_all() { 300 } else { 100 }, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_text(text in "\\PC{0,200}") {
        survives(&text);
    }

    #[test]
    fn words_of_the_language_in_any_order(words in prop::collection::vec(prop::sample::select(WORDS), 0..60)) {
        survives(&format!("PROGRAM P VAR a : BOOL; t : TON; n : INT; END_VAR\n{}\nEND_PROGRAM", words.join(" ")));
    }

    #[test]
    fn a_program_with_a_piece_cut_out(seed in 0u64..60, from in 0usize..6000, length in 1usize..60) {
        let text = random(seed).text;
        let from = from % text.len();
        let cut = format!("{}{}", &text[..from], &text[(from + length).min(text.len())..]);
        survives(&cut);
    }

    #[test]
    fn any_stimulus(text in "(time_ms|[a-z0-9,@.\\-\n\"]){0,60}") {
        let machine = crate::common::machine("p", "PROGRAM P VAR_INPUT a : BOOL; n : INT; END_VAR VAR_OUTPUT b : BOOL; END_VAR b := a AND (n > 1); END_PROGRAM", Language::St);
        let _ = Stimulus::read(&text, &machine);
        let _ = Stimulus::read(&format!("time_ms,a,n\n{text}"), &machine);
    }
}

/// Programs of all families with a piece cut out or doubled: read, checked, written, migrated; nothing panics.
#[test]
fn changed_programs_of_dialects() {
    use crate::common::dialects::{families, programs};
    use honest_twin::dialect::{library, read_project_in};
    use honest_twin::translate::{Mode, migrate};
    let mut random = fastrand::Rng::with_seed(7);
    for family in families().filter(|f| *f != "iec") {
        let own = library(family).unwrap();
        for (name, text, language) in programs(family) {
            for round in 0..12 {
                let (from, length) = (random.usize(..text.len()), random.usize(1..9));
                let to = (from + length).min(text.len());
                let middle = if round % 2 == 0 { String::new() } else { text[from..to].repeat(2) };
                let changed = format!("{}{middle}{}", &text[..from], &text[to..]);
                let (project, problems) = read_project_in(vec![(Source::new(name.clone(), changed), language)], &own);
                if let (Some(checked), _) = honest_twin::check::verify(project, problems) {
                    let _ = Machine::new(&checked);
                    let _ = honest_twin::translate::translate(&checked, Language::Ld);
                    let st = (Language::St, Language::St.into());
                    let _ = migrate(&checked, &library("iec").unwrap(), st, Mode::Native, None);
                }
            }
        }
    }
}

const WORDS: &[&str] = &[
    "a",
    "n",
    "t",
    "IF",
    "THEN",
    "ELSE",
    "END_IF",
    ";",
    ":=",
    "(",
    ")",
    "CASE",
    "OF",
    "END_CASE",
    "1",
    "..",
    ":",
    "FOR",
    "TO",
    "BY",
    "DO",
    "END_FOR",
    "WHILE",
    "END_WHILE",
    "REPEAT",
    "UNTIL",
    "END_REPEAT",
    "\n",
    "LD",
    "ST",
    "AND",
    "AND(",
    "JMP",
    "JMPC",
    "L1:",
    "L1",
    "CAL",
    "T#1s",
    "16#FF",
    "NOT",
    "-",
    "+",
    "[",
    "]",
    ".",
    "Q",
    "=>",
    ",",
    "RET",
    "S",
    "R",
    "EXIT",
    "RETURN",
    "MAX",
    "SEL",
    "(*",
    "*)",
    "'x'",
    "%IX0.0",
    "INT#5",
    "Mode#A",
    "**",
    "<>",
];

/// Reads a deep or long program on a small stack, as a thread has it.
fn on_a_small_stack(text: String) {
    let thread = std::thread::Builder::new().stack_size(2 << 20).spawn(move || survives(&text)).unwrap();
    thread.join().unwrap();
}

#[test]
fn depth_is_bounded() {
    let program = |body: &str| format!("PROGRAM P\nVAR a : BOOL; n : INT; END_VAR\n{body}\nEND_PROGRAM\n");
    let deep = 5_000;
    on_a_small_stack(program(&format!("a := {}a{};", "(".repeat(deep), ")".repeat(deep))));
    on_a_small_stack(program(&format!("a := {}a;", "NOT ".repeat(deep))));
    on_a_small_stack(program(&format!("a := a{};", " OR a".repeat(deep))));
    on_a_small_stack(program(&format!("a := a{};", " OR a".repeat(240))));
    on_a_small_stack(program(&format!("n := {}n{};", "ABS(".repeat(deep), ")".repeat(deep))));
    on_a_small_stack(program(&format!("n := n{};", "[n".repeat(deep))));
    on_a_small_stack(program(&format!("n := n{};", ".n".repeat(deep))));
    on_a_small_stack(program(&format!("{}{}", "IF a THEN\n".repeat(deep), "END_IF;\n".repeat(deep))));
    on_a_small_stack(program(&format!("{}{}", "IF a THEN\n".repeat(90), "a := TRUE; END_IF;\n".repeat(90))));
    on_a_small_stack(program(&format!("LD a\n{}{}", "AND( a\n".repeat(deep), ")\n".repeat(deep))));
    on_a_small_stack(program(&format!("LD a\n{}{}ST a", "AND( a\n".repeat(90), ")\n".repeat(90))));
    on_a_small_stack(program(&format!("LD a\n{}ST a", "OR a\n".repeat(deep))));
    on_a_small_stack(format!("TYPE T : {}INT; END_TYPE", "ARRAY [1..2] OF ".repeat(deep)));
    on_a_small_stack(format!("TYPE T : {} END_TYPE", "STRUCT a : ".repeat(deep)));
    on_a_small_stack(format!("{}{}", "(*".repeat(deep), "*)".repeat(deep)));
}

#[test]
fn size_is_bounded() {
    on_a_small_stack("PROGRAM P VAR a : ARRAY [1..1000000000] OF INT; END_VAR END_PROGRAM".to_string());
    on_a_small_stack("PROGRAM P VAR a : ARRAY [1..1000000, 1..1000000] OF INT; END_VAR END_PROGRAM".to_string());
    let nested = "
        FUNCTION_BLOCK A VAR x : ARRAY [1..1000000] OF LINT; END_VAR END_FUNCTION_BLOCK
        FUNCTION_BLOCK B VAR x : ARRAY [1..1000000] OF A; END_VAR END_FUNCTION_BLOCK
        PROGRAM P VAR x : ARRAY [1..1000000] OF B; END_VAR END_PROGRAM";
    on_a_small_stack(nested.to_string());
    // Calls laid out in line: forty levels of two calls each would be a trillion operations.
    let mut doubling = "FUNCTION F0 : INT VAR_INPUT x : INT; END_VAR F0 := x; END_FUNCTION\n".to_string();
    for level in 1..40 {
        let below = level - 1;
        doubling.push_str(&format!(
            "FUNCTION F{level} : INT VAR_INPUT x : INT; END_VAR F{level} := F{below}(x) + F{below}(x + 1); END_FUNCTION\n"
        ));
    }
    doubling.push_str("PROGRAM P VAR n : INT; END_VAR n := F39(1); END_PROGRAM\n");
    on_a_small_stack(doubling);
}

/// Reads a text in a form and takes it as far as it goes.
fn survives_in(text: &str, form: Form) {
    let (project, problems) = read_project(vec![(Source::new("any", text), form)]);
    if let (Some(checked), _) = honest_twin::check::verify(project, problems) {
        let _ = Machine::new(&checked);
        for &to in LANGUAGES {
            let _ = honest_twin::translate::translate(&checked, to);
        }
        let _ = honest_twin::show::draw(&checked, honest_twin::show::Page::default(), None);
        let _ = honest_twin::show::terminal(&checked);
    }
}

fn pick(rng: &mut fastrand::Rng, of: &str) -> char {
    of.chars().nth(rng.usize(0..of.chars().count())).unwrap()
}

/// Files of the corpus with a few characters changed, lines swapped, and pieces of other files put in.
#[test]
fn changed_files_are_read_or_refused() {
    let mut files: Vec<(Form, String)> = Vec::new();
    for folder in std::fs::read_dir("tests/corpus").unwrap() {
        for file in std::fs::read_dir(folder.unwrap().path()).unwrap() {
            let path = file.unwrap().path();
            if let Some(form) = Form::of_file(&path.to_string_lossy()) {
                files.push((form, std::fs::read_to_string(path).unwrap()));
            }
        }
    }
    files.sort_by(|a, b| a.1.cmp(&b.1));
    let count = std::env::var("HONEST_TWIN_PROGRAMS").ok().and_then(|v| v.parse().ok()).unwrap_or(1_500);
    let seed = std::env::var("HONEST_TWIN_SEED").ok().and_then(|v| v.parse().ok()).unwrap_or(0);
    let mut rng = fastrand::Rng::with_seed(seed);
    for _ in 0..count {
        let (form, text) = &files[rng.usize(0..files.len())];
        let other: Vec<char> = files[rng.usize(0..files.len())].1.chars().collect();
        let mut chars: Vec<char> = text.chars().collect();
        for _ in 0..rng.usize(1..6) {
            let at = rng.usize(0..chars.len());
            match rng.u8(0..5) {
                0 => chars[at] = pick(&mut rng, "+-|()/<>=~o:'[]. \nPS1x&%#\t\u{2500}"),
                1 => drop(chars.remove(at)),
                2 => chars.insert(at, pick(&mut rng, "+-| >o")),
                3 => {
                    let from = rng.usize(0..other.len());
                    let piece = other[from..(from + rng.usize(1..80)).min(other.len())].to_vec();
                    chars.splice(at..at, piece);
                }
                _ => {
                    let to = (at + rng.usize(1..60)).min(chars.len());
                    chars.drain(at..to);
                }
            }
            if chars.is_empty() {
                break;
            }
        }
        survives_in(&chars.into_iter().collect::<String>(), *form);
    }
}

#[test]
fn documents_cannot_expand_or_nest_without_end() {
    let bomb = "<?xml version=\"1.0\"?><!DOCTYPE p [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;&a;&a;\">]>\
        <project>&b;</project>";
    let (_, problems) = read_project(vec![(Source::new("bomb.xml", bomb), Form::Exchange)]);
    assert!(problems.has_errors());
    let deep = 200_000;
    let nested = format!("<project>{}{}</project>", "<types>".repeat(deep), "</types>".repeat(deep));
    let arrays = format!(
        "<project><types><dataTypes><dataType name=\"T\"><baseType>{}<INT/>{}</baseType></dataType></dataTypes></types></project>",
        "<array><baseType>".repeat(2_000),
        "</baseType></array>".repeat(2_000)
    );
    let circle = "<project><types><pous><pou name=\"P\" pouType=\"program\"><interface/><body><FBD>\
        <connector name=\"a\" localId=\"1\"><connectionPointIn><connection refLocalId=\"2\"/></connectionPointIn></connector>\
        <continuation name=\"a\" localId=\"2\"><connectionPointOut/></continuation>\
        <outVariable localId=\"3\"><connectionPointIn><connection refLocalId=\"2\"/></connectionPointIn><expression>x</expression></outVariable>\
        </FBD></body></pou></pous></types></project>";
    for text in [nested, arrays, circle.to_string()] {
        let thread = std::thread::Builder::new().stack_size(2 << 20);
        thread.spawn(move || survives_in(&text, Form::Exchange)).unwrap().join().unwrap();
    }
}

#[test]
fn large_drawings_are_read() {
    // A thousand contacts in series, five hundred in parallel, and a page of nothing but joints.
    let series = format!("x := {};", vec!["a"; 240].join(" AND "));
    let parallel = format!("x := {};", vec!["a"; 240].join(" OR "));
    for body in [series, parallel] {
        let text = format!("PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT x : BOOL; END_VAR {body} END_PROGRAM");
        for to in [Language::Ld, Language::Fbd] {
            let drawing = crate::common::translated("large", &text, Language::St, to);
            survives_in(&drawing, to.into());
        }
    }
    let joints = "+".repeat(300) + "\n";
    survives_in(&format!("PROGRAM P\n{}END_PROGRAM\n", joints.repeat(200)), Form::Text(Language::Fbd));
    survives_in(&format!("PROGRAM P\n{}END_PROGRAM\n", joints.repeat(200)), Form::Text(Language::Ld));
}
