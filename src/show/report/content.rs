//! What stands on the page: what the verdict says, laid out, and what only a page has: drawings, diagrams, digests.

use super::{Dossier, Named, named};
use crate::changes::Changes;
use crate::model::format_duration;
use crate::show::changed::rows;
use crate::show::said::{self, Covered, RuleSaid, Said, SpreadSaid, Term, VerdictKind, capital, count, said};
use crate::show::{Live, Page, Timing, draw, timing};
use crate::twin::script::Failure;
use crate::twin::{Cause, Mapping, Scenario, Tolerance, Twin, Verdict, controllers, traces};
use serde::Serialize;

/// Lines of what was not seen.
const MOST_UNMET: usize = 40;

/// Scans that a timing diagram shows at most, and those beyond the difference.
const SCANS: u64 = 400;
const BEYOND: u64 = 12;

#[derive(Serialize)]
pub(super) struct Content {
    /// True of one version by itself.
    single: bool,
    title: String,
    date: Option<String>,
    tool: String,
    call: String,
    kind: VerdictKind,
    headline: String,
    sentences: Vec<String>,
    limits: Vec<String>,
    versions: Vec<Named>,
    basis: Vec<Term>,
    difference: Option<Shown>,
    timing: Option<String>,
    timing_title: &'static str,
    drawings: Vec<String>,
    pairs: Vec<[String; 5]>,
    alone: Vec<String>,
    coverage: Vec<CoverageRow>,
    unmet: Vec<[String; 4]>,
    unmet_more: usize,
    strength: Option<Strong>,
    spreads: Vec<SpreadSaid>,
    rules: Vec<RuleLine>,
    failures: Vec<String>,
    asked: Option<String>,
    /// What changed between both texts: number, what, note, what it may reach.
    changed: Vec<[String; 4]>,
    untouched: Vec<String>,
    ledger: Vec<[String; 3]>,
    map: Vec<Vec<String>>,
    assumptions: Vec<String>,
    closing: &'static str,
}

#[derive(Serialize)]
struct Shown {
    script: Vec<String>,
    replay: Option<String>,
    sides: Vec<ShownSide>,
    /// What is said of a side without causes.
    no_cause: &'static str,
    /// Where two versions part, and what comes of it; what a rule read.
    parting: Option<String>,
    hints: Vec<crate::twin::Hint>,
}

#[derive(Serialize)]
struct ShownSide {
    version: String,
    causes: Vec<Cause>,
}

#[derive(Serialize)]
struct CoverageRow {
    word: &'static str,
    shares: Vec<CoverageShare>,
}

#[derive(Serialize)]
struct CoverageShare {
    met: usize,
    of: usize,
    percent: usize,
}

#[derive(Serialize)]
struct Strong {
    sentence: String,
    faults: Vec<[String; 4]>,
}

#[derive(Serialize)]
struct RuleLine {
    text: String,
    heading: String,
    /// How it is broken, where the page is not about that as a whole.
    shown: Option<Shown>,
}

pub(super) fn content(twin: &Twin<'_>, verdict: &Verdict, dossier: &Dossier) -> Content {
    let said = said(verdict);
    let asked = (dossier.asked > 0).then(|| {
        let met = dossier.asked - dossier.failures.len().min(dossier.asked);
        format!("{met} of {} of the scenarios were met.", count(dossier.asked as u64, "expectation"))
    });
    let ledger = dossier.ledger.iter().map(|e| [e.code.to_string(), e.grade.word().to_string(), e.reason.clone()]);
    let (timing_title, timing) = diagrams(twin, verdict);
    Content {
        single: twin.is_single(),
        title: dossier.title.clone(),
        date: dossier.date.clone(),
        tool: dossier.tool.clone(),
        call: dossier.call.clone(),
        kind: said.kind,
        headline: said.headline(),
        sentences: sentences(&said),
        versions: twin.versions().into_iter().take(twin.pairing.versions()).map(named).collect(),
        difference: said.shown.as_ref().map(|of| Shown { replay: Some(replay(twin)), ..shown(of) }),
        timing,
        timing_title,
        drawings: drawings(twin, verdict),
        pairs: pairs(twin),
        // A verdict has said what limits it; where nothing is decided all that has no partner is told.
        limits: if said.kind == VerdictKind::Undecided { twin.pairing.limits() } else { said.limits },
        alone: twin.pairing.alone.iter().map(ToString::to_string).collect(),
        coverage: said.covered.as_ref().map_or(Vec::new(), coverage),
        unmet_more: said.covered.as_ref().map_or(0, |of| of.unmet.len().saturating_sub(MOST_UNMET)),
        unmet: said.covered.map_or(Vec::new(), |of| of.unmet.into_iter().take(MOST_UNMET).collect()),
        strength: said.strength.map(|s| Strong {
            sentence: format!(
                "Faults as people make them were seeded, one at a time, and the same scenarios tried: {}. What was not found \
                 and is not proved harmless makes no difference all the same, or is a hole in what was tried.",
                s.sentence
            ),
            faults: s.faults,
        }),
        spreads: said.spreads,
        basis: said.basis,
        rules: said.rules.iter().map(rule).collect(),
        failures: dossier.failures.iter().map(failure).collect(),
        asked,
        changed: dossier.changes.as_ref().map_or(Vec::new(), rows),
        untouched: dossier.changes.as_ref().map_or(Vec::new(), |changes| changes.outputs.untouched.clone()),
        ledger: ledger.chain(dossier.changes.iter().flat_map(ledger_lines)).collect(),
        map: dossier.map.as_deref().map_or(Vec::new(), table),
        assumptions: said.assumed,
        closing: said.closing,
    }
}

/// Entries of a ledger that stand beside what changed.
fn ledger_lines(changes: &Changes) -> impl Iterator<Item = [String; 3]> + '_ {
    let entries = changes.units.iter().flat_map(|unit| unit.ledger.iter().map(move |entry| (unit, entry)));
    entries.map(|(unit, entry)| {
        let network = entry.network.map_or(String::new(), |network| format!(", network {network}"));
        let reason = format!("{}{network}: {}", unit.name(), entry.reason);
        [entry.code.clone(), entry.grade.clone(), reason]
    })
}

/// What stands below the headline: what explains it, what of it is proved, and how strong it is.
fn sentences(said: &Said) -> Vec<String> {
    let proved = said.proved.iter().map(|part| {
        let conditions = match part.conditions.as_slice() {
            [] => String::new(),
            some => format!(", if {}", some.join(", and ")),
        };
        format!("{}{}{}{conditions}.", said::PartSaid::CLAIM, part.of, part.reach)
    });
    let strength = said.strength.iter().map(|strength| format!("{}.", capital(&strength.sentence)));
    said.sentences.iter().cloned().chain(proved).chain(strength).collect()
}

fn shown(of: &said::Shown) -> Shown {
    let side = |side: &said::ShownSide| ShownSide { version: side.version.clone(), causes: side.causes.clone() };
    let parting: Vec<&str> = of.parting.iter().chain(&of.afterwards).map(String::as_str).collect();
    Shown {
        script: of.script.clone(),
        replay: None,
        sides: of.sides.iter().map(side).collect(),
        no_cause: said::NO_CAUSE,
        parting: (!parting.is_empty()).then(|| capital(&parting.join("; "))),
        hints: of.hints.clone(),
    }
}

fn rule(rule: &RuleSaid) -> RuleLine {
    let (heading, shown) = match &rule.shown {
        Some((heading, of)) => (heading.clone(), Some(shown(of))),
        None => (String::new(), None),
    };
    RuleLine { text: capital(&rule.text), heading, shown }
}

fn coverage(of: &Covered) -> Vec<CoverageRow> {
    let part = |s: &crate::twin::Share| {
        let percent = (100 * s.met).checked_div(s.of).unwrap_or(0);
        CoverageShare { met: s.met, of: s.of, percent }
    };
    of.rows.iter().map(|(word, shares)| CoverageRow { word, shares: shares.iter().map(part).collect() }).collect()
}

/// The diagram over time of what the page is about, and its title.
fn diagrams(twin: &Twin<'_>, verdict: &Verdict) -> (&'static str, Option<String>) {
    match verdict {
        Verdict::Tested(tested) if tested.sample.scans() > 0 => {
            let title = match twin.is_single() {
                true => "One of the scenarios",
                false => "One of the scenarios, both versions over each other",
            };
            (title, Some(diagram(twin, &tested.sample, 0)))
        }
        Verdict::Different(d) => {
            let title = "Both versions over each other; where they differ the ground is tinted";
            (title, Some(diagram(twin, &d.scenario, BEYOND)))
        }
        Verdict::Broken(b) => {
            let breach = b.first().and_then(|rule| rule.breach.as_deref());
            ("The scenario", breach.map(|breach| diagram(twin, &breach.scenario, BEYOND)))
        }
        Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Undecided { .. } => ("", None),
    }
}

/// The networks of the versions with power and values in the scan that shows a difference or breaks a rule.
fn drawings(twin: &Twin<'_>, verdict: &Verdict) -> Vec<String> {
    let (scenario, scan, page) = match verdict {
        Verdict::Different(d) => (&d.scenario, d.scan, Page { width: 620 }),
        Verdict::Broken(b) => match b.first().and_then(|rule| rule.breach.as_deref()) {
            Some(breach) => (&breach.scenario, breach.scan, Page { width: 1_116 }),
            None => return Vec::new(),
        },
        Verdict::Tested(_) | Verdict::Proved(_) | Verdict::Undecided { .. } => return Vec::new(),
    };
    let caption = format!("scan {}", scan.0);
    let (controllers, moments) = controllers(twin, scenario);
    let each = controllers.iter().zip(twin.versions()).take(twin.pairing.versions());
    each.enumerate()
        .map(|(side, (controller, version))| {
            let mut live = Live::new(controller, caption.clone());
            live.moment = moments.as_ref().map(|moments| &moments[side]);
            draw(&version.checked, page, Some(&live))
        })
        .collect()
}

/// On which versions the lines of a scenario mean the same.
fn replay(twin: &Twin) -> String {
    let [left, right] = twin.versions();
    let alike = twin.pairing.inputs.iter().all(|pair| {
        pair.mapping == Mapping::Same && right.machine.point(pair.right).name.eq_ignore_ascii_case(&pair.name)
    });
    let on = if alike { "either version".to_string() } else { format!("{}, whose names they are", left.name) };
    format!("These lines are a scenario: save them, and they replay on {on}.")
}

fn diagram(twin: &Twin<'_>, scenario: &Scenario, beyond: u64) -> String {
    let [left, right] = traces(twin, scenario, beyond, SCANS);
    let sides = [twin.left.name.as_str(), twin.right.name.as_str()];
    let names: Vec<&str> = twin.pairing.inputs.iter().chain(&twin.pairing.outputs).map(|p| p.name.as_str()).collect();
    let drawn = match twin.is_single() {
        true => Timing::of(&left, &[]),
        false => Timing::of(&left, &names).beside(&right, sides),
    };
    timing(&Timing { caption: scenario_words(scenario), ..drawn }, 1116)
}

fn scenario_words(scenario: &Scenario) -> String {
    format!("{} in {}", count(scenario.happenings(), "change"), count(scenario.scans(), "scan"))
}

fn pairs(twin: &Twin<'_>) -> Vec<[String; 5]> {
    let inputs = twin.pairing.inputs.iter().map(|p| ("input", p));
    let outputs = twin.pairing.outputs.iter().map(|p| ("output", p));
    inputs
        .chain(outputs)
        .map(|(kind, p)| {
            let mapping = match p.mapping {
                Mapping::Same => "the same".to_string(),
                Mapping::Inverted => "inverted".to_string(),
                Mapping::Scaled(by, 1) => format!("{by} times"),
                Mapping::Scaled(by, over) => format!("{by}/{over} of it"),
                Mapping::Number => "the same number".to_string(),
                Mapping::Bits => "the same bits".to_string(),
                Mapping::Name => "the same name".to_string(),
            };
            let agree = match (kind, p.tolerance) {
                ("input", _) => String::new(),
                (_, Tolerance::Exact) => "exactly".to_string(),
                (_, Tolerance::Within(d)) => format!("within {}", format_duration(d)),
            };
            let right = match twin.is_single() {
                true => String::new(),
                false => twin.right.machine.point(p.right).name.clone(),
            };
            [kind.to_string(), p.name.clone(), right, mapping, agree]
        })
        .collect()
}

fn failure(f: &Failure) -> String {
    format!(
        "{}, line {}, {}: {} (scan {}, {})",
        f.scenario,
        f.line,
        f.version,
        f.what,
        f.scan.0,
        format_duration(f.at.0)
    )
}

fn table(csv: &str) -> Vec<Vec<String>> {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(csv.as_bytes());
    reader.records().flatten().map(|r| r.iter().map(str::to_string).collect()).collect()
}
