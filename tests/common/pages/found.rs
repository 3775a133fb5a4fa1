//! Fifty pairs of programs with the verdict they must get, and how long it takes to find the difference.

use crate::common::extent::Extent;
use crate::common::pages::hold;
use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::twin::{Effort, Guidance, Verdict, Version, compare};
use rayon::prelude::*;
use serde::Deserialize;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    pair: Vec<Pair>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pair {
    pub title: String,
    verdict: String,
    inputs: String,
    outputs: String,
    #[serde(default)]
    vars: String,
    #[serde(default)]
    left_vars: String,
    #[serde(default)]
    right_vars: String,
    left: String,
    right: String,
}

impl Pair {
    pub fn is_same(&self) -> bool {
        self.verdict == "same"
    }

    pub fn versions(&self) -> [Version; 2] {
        let text = |own: &str, body: &str| {
            let Pair { inputs, outputs, vars, .. } = self;
            let vars = if vars.is_empty() { String::new() } else { format!("VAR {vars} END_VAR\n") };
            format!(
                "PROGRAM Main\nVAR_INPUT {inputs} END_VAR\nVAR_OUTPUT {outputs} END_VAR\n{vars}{own}\n{body}\nEND_PROGRAM\n"
            )
        };
        [
            version("left", &text(&self.left_vars, &self.left), Language::St),
            version("right", &text(&self.right_vars, &self.right), Language::St),
        ]
    }
}

pub fn pairs(level: &str) -> Vec<Pair> {
    let path = format!("{}/tests/pairs/{level}.toml", env!("CARGO_MANIFEST_DIR"));
    toml::from_str::<File>(&std::fs::read_to_string(path).unwrap()).unwrap().pair
}

/// What scenarios without a thought are given at most.
const BLIND: u64 = 1_000_000;

/// The line of a pair, with the verdict that it must have.
fn line(pair: &Pair) -> String {
    let [left, right] = pair.versions();
    let guided = compare(&left, &right, &Effort { scenarios: 20_000, ..Effort::default() }, |_| {});
    assert_eq!(matches!(guided, Verdict::Tested(_)), pair.is_same(), "{}: {}", pair.title, show::verdict(&guided));
    match &guided {
        Verdict::Tested(tested) => format!("| {} | same | {} in all | | | |\n", pair.title, tested.scans),
        Verdict::Different(d) => {
            let blind = Effort { guidance: Guidance::Random, scans: BLIND, scenarios: 100_000, ..Effort::default() };
            let random = match compare(&left, &right, &blind, |_| {}) {
                Verdict::Different(r) => r.scans.to_string(),
                _ => "not found".to_string(),
            };
            let lasts = honest_twin::model::format_duration(d.at.0);
            format!("| {} | different | {} | {random} | {} | {lasts} |\n", pair.title, d.scans, changes(d))
        }
        _ => format!("| {} | undecided | | | | |\n", pair.title),
    }
}

/// `found.md`: the table, made by running it. Of a sample the lines must be those of the page.
pub fn holds() {
    let extent = Extent::asked();
    let mut text = String::from(
        "# How soon a difference is found\n\n\
         Fifty pairs of small programs of the hatchery (`tests/pairs`), the same or different in one thing, with the verdict that\n\
         `compare` gives. Made by running it (`tests/twins/pages.rs`), and held by a test: a wrong verdict fails it.\n\n\
         *Guided* is the search as it is; *at random* gives every input anything in every scan, at most a million scans. Numbers\n\
         are scans run on each side until the difference was seen first, before shrinking; a wait that was leapt over counts\n\
         the scans that were run. What the circuit runs beside is not counted in them.\n",
    );
    let page = std::fs::read_to_string(format!("{}/docs/found.md", env!("CARGO_MANIFEST_DIR"))).unwrap();
    for level in ["easy", "fair", "nasty"] {
        let lines: Vec<String> = extent.one_in(3, pairs(level)).par_iter().map(line).collect();
        if !extent.is_all() {
            assert!(lines.iter().all(|line| page.contains(line)), "not what the page says:\n{}", lines.concat());
        }
        text.push_str(&format!(
            "\n## {level}\n\n| pair | verdict | guided | at random | shrunk to | lasts |\n|---|---|---:|---:|---:|---:|\n{}",
            lines.concat()
        ));
    }
    if extent.is_all() {
        hold(vec![("found.md".to_string(), text)]);
    }
}

fn changes(d: &honest_twin::twin::Difference) -> String {
    if d.happenings == 1 { "1 change".to_string() } else { format!("{} changes", d.happenings) }
}
