//! How translations read: there and back, as snapshots that a person has read; nothing of the comments is lost.

use crate::common::{checked, version};
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Verdict, compare};
use std::fs;
use std::path::Path;

/// The words of all comments, sorted.
fn comments(text: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    let mut rest = text;
    while let Some((at, end)) = ["(*", "/*", "//"].iter().filter_map(|o| rest.find(o).map(|at| (at, *o))).min() {
        let close = match end {
            "(*" => "*)",
            "/*" => "*/",
            _ => "\n",
        };
        let inner = &rest[at + 2..];
        let length = inner.find(close).unwrap();
        words.extend(inner[..length].split_whitespace().map(str::to_string));
        rest = &inner[length..];
    }
    words.sort();
    words
}

/// Translates, compares, and gives the text with its ledger.
fn there(name: &str, text: &str, from: Language, to: Language) -> (String, String) {
    let source = checked(name, text, from);
    let translation = translate(&source, to).unwrap();
    let written = translation.files[0].text.clone();
    assert_eq!(comments(text), comments(&written), "{name}: comments\n{written}");
    let effort = Effort { scenarios: 300, scans: 60_000, ..Effort::default() };
    let verdict = compare(&version("left", text, from), &version("right", &written, to), &effort, |_| {});
    assert!(matches!(verdict, Verdict::Tested(_)), "{name}: {}\n{written}", show::verdict(&verdict));
    (written, show::ledger(&translation.ledger, source.project()))
}

fn there_and_back(file: &str) -> String {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/translation").join(file);
    let text = fs::read_to_string(path).unwrap();
    let from = Language::of_file(file).unwrap();
    let to = if from == Language::St { Language::Il } else { Language::St };
    let (other, first) = there(file, &text, from, to);
    let (back, second) = there(file, &other, to, from);
    format!("{other}\n===== {first}\n{back}\n===== {second}")
}

#[test]
fn heater_from_text() {
    insta::assert_snapshot!(there_and_back("heater.st"));
}

#[test]
fn rinse_from_list() {
    insta::assert_snapshot!(there_and_back("rinse.il"));
}

#[test]
fn blowers_from_text() {
    insta::assert_snapshot!(there_and_back("blowers.st"));
}

#[test]
fn feeder_from_list() {
    insta::assert_snapshot!(there_and_back("feeder.il"));
}
