//! Small programs of the trade, each in all four languages.

use crate::common::{checked, version};
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Verdict, compare};
use serde::Deserialize;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    idiom: Vec<Idiom>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Idiom {
    title: String,
    /// The ending of the language it is written in; structured text if nothing is said.
    language: Option<String>,
    text: String,
}

const LANGUAGES: [(Language, &str, &str); 4] = [
    (Language::St, "st", "Structured text"),
    (Language::Il, "il", "Instruction list"),
    (Language::Ld, "ld", "Ladder"),
    (Language::Fbd, "fbd", "Function blocks"),
];

/// `idioms.md`: every translation is read back and run beside what it was made of.
pub fn page() -> String {
    let path = format!("{}/tests/idioms/idioms.toml", env!("CARGO_MANIFEST_DIR"));
    let file: File = toml::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    let mut out = format!(
        "# {} small programs in four languages\n\n\
         How the tool says what people write every day. One of the four is the source, the others are its translations, each read\n\
         back and run beside it, the same in every scenario tried. Declarations are shown where they differ from the source's. This\n\
         page is made by running it all (`tests/twins/pages.rs`, from `tests/idioms`), and a test holds it.\n",
        file.idiom.len()
    );
    for idiom in &file.idiom {
        out.push_str(&format!("\n## {}\n", idiom.title));
        let source = idiom.language.as_deref().unwrap_or("st");
        let from = LANGUAGES.iter().find(|(_, ending, _)| *ending == source).unwrap().0;
        let own = local(&idiom.text);
        for (to, ending, word) in LANGUAGES {
            let text = if to == from { idiom.text.clone() } else { translated(idiom, from, to, ending) };
            let mark = if to == from { ", the source" } else { "" };
            let shown = if local(&text) == own && to != from { body(&text) } else { text.clone() };
            out.push_str(&format!("\n{word}{mark}:\n\n```\n{}\n```\n", shown.trim_matches('\n')));
        }
    }
    out
}

/// What a program declares beside its inputs and outputs.
fn local(text: &str) -> Option<&str> {
    text.split_once("END_VAR\nVAR\n").map(|(_, rest)| rest.rsplit_once("END_VAR").unwrap().0)
}

fn body(text: &str) -> String {
    let (_, body) = text.rsplit_once("END_VAR\n").unwrap();
    body.strip_suffix("END_PROGRAM\n").unwrap().to_string()
}

fn translated(idiom: &Idiom, from: Language, to: Language, ending: &str) -> String {
    let source = checked("idiom", &idiom.text, from);
    let written = translate(&source, to).unwrap_or_else(|why| panic!("{}: {why:?}", idiom.title));
    let text = written.files[0].text.to_string();
    let [left, right] = [version("source", &idiom.text, from), version(ending, &text, to)];
    let verdict = compare(&left, &right, &Effort { scenarios: 300, ..Effort::default() }, |_| {});
    assert!(matches!(verdict, Verdict::Tested(_)), "{}\n{text}\n{}", idiom.title, show::verdict(&verdict));
    text
}
