//! What stands on the page.

use super::single::{broken, holds};
use super::{Dossier, Named, named};
use crate::model::{Duration, format_duration};
use crate::show::breach;
use crate::show::text::{COVERED, but_known, count, rule_text};
use crate::show::{Live, Page, Timing, draw, timing};
use crate::twin::script::Failure;
use crate::twin::{
    Cause, Difference, Mapping, Proved, ProvedPart, RuleResult, Scenario, Tested, Tolerance, Twin, Verdict,
    controllers, traces,
};
use serde::Serialize;

/// Lines of what was not seen.
const MOST_UNMET: usize = 40;

/// Scans that a timing diagram shows at most, and those beyond the difference.
const SCANS: u64 = 400;
const BEYOND: u64 = 12;

#[derive(Default, Serialize)]
pub(super) struct Content {
    /// True of one version by itself.
    pub(super) single: bool,
    title: String,
    date: Option<String>,
    tool: String,
    call: String,
    pub(super) kind: &'static str,
    pub(super) headline: String,
    pub(super) sentences: Vec<String>,
    limits: Vec<String>,
    versions: Vec<Named>,
    pub(super) basis: Vec<[String; 2]>,
    pub(super) difference: Option<Shown>,
    pub(super) timing: Option<String>,
    pub(super) timing_title: &'static str,
    pub(super) drawings: Vec<String>,
    pub(super) pairs: Vec<[String; 5]>,
    alone: Vec<String>,
    coverage: Vec<Row>,
    unmet: Vec<[String; 4]>,
    unmet_more: usize,
    strength: Option<Strong>,
    spreads: Vec<[String; 4]>,
    pub(super) rules: Vec<RuleLine>,
    failures: Vec<String>,
    asked: Option<String>,
    ledger: Vec<[String; 3]>,
    map: Vec<Vec<String>>,
    pub(super) assumptions: Vec<String>,
    pub(super) closing: &'static str,
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

#[derive(Serialize)]
pub(super) struct Shown {
    pub(super) script: Vec<String>,
    pub(super) replay: String,
    pub(super) sides: Vec<ShownSide>,
    pub(super) parting: String,
    pub(super) afterwards: Option<String>,
    pub(super) hints: Vec<crate::twin::Hint>,
}

#[derive(Serialize)]
pub(super) struct ShownSide {
    pub(super) version: String,
    pub(super) causes: Vec<Cause>,
}

#[derive(Serialize)]
struct Row {
    word: &'static str,
    shares: Vec<Part>,
}

#[derive(Serialize)]
struct Part {
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
pub(super) struct RuleLine {
    text: String,
    scenario: Option<String>,
    /// What the rule read.
    read: Option<String>,
    /// Why it was that.
    because: Vec<String>,
}

pub(super) fn content(twin: &Twin<'_>, verdict: &Verdict, dossier: &Dossier) -> Content {
    let mut out = Content {
        title: dossier.title.clone(),
        date: dossier.date.clone(),
        tool: dossier.tool.clone(),
        call: dossier.call.clone(),
        versions: twin.versions().into_iter().take(twin.pairing.versions()).map(named).collect(),
        pairs: pairs(twin),
        limits: twin.pairing.limits(),
        alone: twin.pairing.alone.iter().map(ToString::to_string).collect(),
        failures: dossier.failures.iter().map(failure).collect(),
        asked: (dossier.asked > 0).then(|| {
            let met = dossier.asked - dossier.failures.len().min(dossier.asked);
            format!("{met} of {} of the scenarios were met.", count(dossier.asked as u64, "expectation"))
        }),
        ledger: dossier
            .ledger
            .iter()
            .map(|e| [e.code.to_string(), e.grade.word().to_string(), e.reason.clone()])
            .collect(),
        map: dossier.map.as_deref().map_or(Vec::new(), table),
        closing: "Tested is not proved: a verdict claims no more than what stands under \u{201c}what it rests on\u{201d}.",
        ..Content::default()
    };
    match verdict {
        Verdict::Proved(proved) => proven(&mut out, proved),
        Verdict::Tested(tested) => same(&mut out, twin, tested),
        Verdict::Different(difference) => {
            different(&mut out, twin, difference);
            out.sentences.extend(proved_parts(&difference.proved));
        }
        Verdict::Broken(rules) => broken(&mut out, twin, rules),
        Verdict::Undecided { reason, proved, versions, rules: list } => {
            out.kind = "undecided";
            out.headline = "Undecided".to_string();
            out.sentences = vec![reason.clone()];
            out.sentences.extend(proved_parts(proved));
            out.rules = rules(list, versions);
            out.closing = "Nothing was decided, and nothing is claimed.";
        }
    }
    if twin.is_single() {
        holds(&mut out);
    }
    out
}

/// What of it is proved, and under which conditions.
fn proved_parts(parts: &[ProvedPart]) -> impl Iterator<Item = String> {
    parts.iter().map(|part| {
        let of = if part.others.is_empty() { String::new() } else { format!(" in {}", part.outputs.join(", ")) };
        let conditions = match part.conditions.as_slice() {
            [] => String::new(),
            some => format!(" if {}", some.join(", and ")),
        };
        format!("They are proved the same{of}{conditions}.")
    })
}

fn proven(out: &mut Content, p: &Proved) {
    out.kind = "proved";
    out.headline = format!("Proved the same{}", but_known(&p.pairing).to_lowercase());
    out.sentences = vec![
        "For every input sequence of any length, from power-up, the paired outputs agree as exactly as is asked."
            .to_string(),
        "That holds under the assumptions below, and no further.".to_string(),
    ];
    let row = |word: &str, text: String| [word.to_string(), text];
    out.basis = vec![
        row("facts", format!("{} that hold at power-up and that every scan keeps", p.facts)),
        row("bits remembered by both", p.bits.to_string()),
        row("gates of one scan of both", p.gates.to_string()),
        row("questions to the solver", format!("{} in {}", p.questions, count(p.rounds.into(), "round"))),
    ];
    out.rules = rules(&p.rules, &p.versions);
    out.assumptions.clone_from(&p.assumptions);
    out.closing = "A proof is worth what its assumptions are worth; they are printed with it.";
}

fn same(out: &mut Content, twin: &Twin<'_>, t: &Tested) {
    out.kind = "tested";
    out.headline = format!("Same{} in every scenario tried", but_known(&t.pairing).to_lowercase());
    out.sentences = vec![format!(
        "Tested, not proved: {} were run on each side in {}, and no paired output ever differed.",
        count(t.scans, "scan"),
        count(t.scenarios, "scenario")
    )];
    if let Some(s) = &t.strength {
        out.sentences.push(format!(
            "The same effort finds {} of {} faults that were seeded into {}.",
            s.caught(),
            s.faults.len(),
            t.versions[1]
        ));
    }
    let row = |word: &str, text: String| [word.to_string(), text];
    out.basis = vec![
        row("scenarios", format!("{}, {} kept for what they covered", count(t.scenarios, "scenario"), t.kept)),
        row("scans on each side", count(t.scans, "scan")),
        row(
            "more by circuit",
            match &t.no_circuit {
                None => format!("{}, 256 scenarios at a time", count(t.wide, "scan")),
                Some(why) => format!("none: {why}"),
            },
        ),
        row("machine time on each side", format_duration(Duration::from_millis(t.machine_time / 1_000_000))),
        row("power cycles", t.power_cycles.to_string()),
        row("time", twin.timing.words()),
        row("seed", t.seed.to_string()),
    ];
    if t.faults > 0 {
        out.basis.push(row("both stopped with the same fault", count(t.faults, "scenario")));
    }
    for name in &t.never_changed {
        out.basis.push(row("never changed", format!("output {name}: nothing was learnt about it")));
    }
    covered(out, t);
    out.strength = t.strength.as_ref().map(|s| Strong {
        sentence: format!(
            "Faults as people make them were seeded into {}, one at a time, and the same scenarios tried: {} of {} were found. What \
             was not found and is not proved harmless makes no difference all the same, or is a hole in what was tried.",
            t.versions[1],
            s.caught(),
            s.faults.len()
        ),
        faults: s
            .faults
            .iter()
            .map(|f| {
                let found = match (f.caught, f.harmless) {
                    (true, _) => "yes",
                    (_, true) => "harmless, proved",
                    _ => "no",
                };
                [f.kind.words().to_string(), f.place.clone(), f.text.clone(), found.to_string()]
            })
            .collect(),
    });
    out.spreads = t
        .pairing
        .outputs
        .iter()
        .zip(&t.spreads)
        .map(|(p, s)| {
            let bars: Vec<String> = s.histogram.iter().map(ToString::to_string).collect();
            let worst = format_duration(Duration::from_nanos(s.worst));
            [p.name.clone(), s.changes.to_string(), worst, bars.join(" ")]
        })
        .collect();
    out.rules = rules(&t.rules, &t.versions);
    out.assumptions.clone_from(&t.assumptions);
    if t.sample.scans() > 0 {
        out.timing_title = "One of the scenarios, both versions over each other";
        out.timing = Some(diagram(twin, &t.sample, 0));
    }
}

pub(super) fn rules(list: &[RuleResult], versions: &[String; 2]) -> Vec<RuleLine> {
    let line = |rule: &RuleResult| RuleLine {
        text: capital(&rule_text(rule, versions)),
        scenario: rule.breach.as_ref().map(|breach| breach.script.join("\n")),
        read: rule.breach.as_ref().map(|breach| breach::read(breach)),
        because: rule.breach.iter().flat_map(|breach| &breach.causes).map(breach::because).collect(),
    };
    list.iter().map(line).collect()
}

fn covered(out: &mut Content, t: &Tested) {
    out.coverage = COVERED
        .iter()
        .map(|(word, of)| {
            let shares = t.coverage.iter().take(t.pairing.versions()).map(of).map(|s| Part {
                met: s.met,
                of: s.of,
                percent: (100 * s.met).checked_div(s.of).unwrap_or(0),
            });
            Row { word, shares: shares.collect() }
        })
        .collect();
    let all: Vec<[String; 4]> = t
        .versions
        .iter()
        .zip(&t.coverage)
        .take(t.pairing.versions())
        .flat_map(|(version, coverage)| {
            coverage.unmet().map(|p| [version.clone(), p.place.clone(), p.text.clone(), p.missing().to_string()])
        })
        .collect();
    out.unmet_more = all.len().saturating_sub(MOST_UNMET);
    out.unmet = all.into_iter().take(MOST_UNMET).collect();
}

fn different(out: &mut Content, twin: &Twin<'_>, d: &Difference) {
    let when =
        if d.at.0.nanos() == 0 { "at power-up".to_string() } else { format!("after {}", format_duration(d.at.0)) };
    out.kind = "different";
    out.closing =
        "A difference is certain: its scenario was replayed scan by scan, from its text, before it was shown.";
    out.headline = format!("Different: {} in scan {}, {when}", d.name, d.scan.0);
    out.sentences = d
        .sides
        .iter()
        .map(|side| match &side.writer {
            Some(writer) => format!("{}: {}, by {}: {}", side.version, side.value, writer.place, writer.text),
            None => format!("{}: {}, never written so far", side.version, side.value),
        })
        .chain(crate::show::text::unmet(d))
        .collect();
    out.basis = vec![
        ["found in".to_string(), format!("scenario {}, after {}", d.scenarios, count(d.scans, "scan"))],
        [
            "shrunk to".to_string(),
            format!("{} in {}, replayed", count(d.happenings, "change"), count(d.scan.0 + 1, "scan")),
        ],
        ["time".to_string(), d.scan_time.clone()],
    ];
    let e = &d.explanation;
    out.difference = Some(Shown {
        script: e.script.clone(),
        replay: replay(twin),
        sides: d
            .versions
            .iter()
            .zip(&e.causes)
            .map(|(version, causes)| ShownSide { version: version.clone(), causes: causes.clone() })
            .collect(),
        parting: capital(&e.parting),
        afterwards: e.afterwards.clone(),
        hints: e.hints.clone(),
    });
    out.timing_title = "Both versions over each other; where they differ the ground is tinted";
    out.timing = Some(diagram(twin, &d.scenario, BEYOND));
    let page = Page { width: 620 };
    out.drawings = controllers(twin, &d.scenario)
        .iter()
        .zip(twin.versions())
        .map(|(controller, version)| {
            let live = Live::new(controller, format!("scan {}", d.scan.0));
            draw(&version.checked, page, Some(&live))
        })
        .collect();
    out.rules = rules(&d.rules, &d.versions);
    out.assumptions = vec![format!("both versions scan at {}", twin.timing.words())];
    out.assumptions.extend(d.assumed.iter().cloned());
}

pub(super) fn diagram(twin: &Twin<'_>, scenario: &Scenario, beyond: u64) -> String {
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
            let right = twin.right.machine.point(p.right).name.clone();
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

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}
