//! The page about one version by itself: the rules it was asked.

use super::content::{Content, Shown, ShownSide, diagram, rules};
use crate::show::text::count;
use crate::show::{Live, Page, breach, draw};
use crate::twin::{RulesBroken, Twin, controllers};

/// Scans that the diagram shows beyond the one in which a rule is broken.
const BEYOND: u64 = 12;

/// A version that breaks a rule.
pub(super) fn broken(out: &mut Content, twin: &Twin<'_>, b: &RulesBroken) {
    out.kind = "different";
    out.closing =
        "A broken rule is certain: its scenario was replayed scan by scan, from its text, before it was shown.";
    out.rules = rules(&b.rules, &b.versions);
    out.assumptions.clone_from(&b.assumptions);
    let Some(rule) = b.first() else { return };
    out.headline = format!("Broken: {} {}", rule.label(), breach::when(rule));
    let Some(first) = rule.breach.as_deref() else { return };
    out.sentences = vec![format!("It reads {}.", breach::read(first))];
    let found = match b.scenarios {
        _ if rule.expected => "a scenario that was given".to_string(),
        0 => "the solver".to_string(),
        number => format!("scenario {number}, after {}", count(b.scans, "scan")),
    };
    let size = format!("{} in {}", count(first.happenings, "change"), count(first.scan.0 + 1, "scan"));
    out.basis = [("found in", found), ("shown by", format!("{size}, replayed")), ("time", b.scan_time.clone())]
        .map(|(word, text)| [word.to_string(), text])
        .into();
    out.difference = Some(Shown {
        script: first.script.clone(),
        replay: "These lines are a scenario: save them, and they replay.".to_string(),
        sides: vec![ShownSide { version: first.version.clone(), causes: first.causes.clone() }],
        parting: format!("The rule reads {}", breach::read(first)),
        afterwards: None,
        hints: Vec::new(),
    });
    out.timing_title = "The scenario";
    out.timing = Some(diagram(twin, &first.scenario, BEYOND));
    let [controller, _] = controllers(twin, &first.scenario);
    let live = Live::new(&controller, format!("scan {}", first.scan.0));
    out.drawings = vec![draw(&twin.left.checked, Page { width: 1_116 }, Some(&live))];
}

/// What is said otherwise of one version that keeps its rules.
pub(super) fn holds(out: &mut Content) {
    out.single = true;
    out.pairs.iter_mut().for_each(|row| row[2].clear());
    match out.kind {
        "proved" => {
            out.headline = "Proved to hold".to_string();
            out.sentences[0] =
                "For every input sequence of any length, from power-up, every rule holds in every scan.".to_string();
        }
        "tested" => {
            out.headline = "Holds in every scenario tried".to_string();
            out.timing_title = "One of the scenarios";
            if let Some(first) = out.sentences.first_mut() {
                *first = first
                    .replace(" on each side", "")
                    .replace("no paired output ever differed", "no rule was ever broken");
            }
        }
        _ => {}
    }
}
