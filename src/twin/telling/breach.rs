//! A broken rule, ready to be shown: the scenario, the values that the rule reads, who wrote them, and the trace.

use crate::lang::read_expression;
use crate::model::{Instant, Mention, ScanNumber, Walk};
use crate::scan::{Controller, PointId, Stimulus};
use crate::source::FileId;
use crate::twin::explain::{Cause, causes};
use crate::twin::rules::Broken;
use crate::twin::run::{Run, Waits};
use crate::twin::script::{self, Played, Script};
use crate::twin::{RuleResult, Scenario, Twin, Version};
use serde::Serialize;

/// Rows of the trace up to the scan in which the rule is broken.
const ROWS: u64 = 8;

/// Scans before that one of which everything is written down, to tell causes.
const REMEMBERED: u64 = 2_000;

/// One scan of a version: the values under [`Breach::names`].
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct BreachRow {
    /// The scan.
    pub scan: ScanNumber,
    /// When it began.
    pub at: Instant,
    /// The values, as in a trace.
    pub values: Vec<String>,
}

/// How a version breaks a rule. It was replayed from [`Breach::stimulus`].
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Breach {
    /// The version that breaks it first.
    pub version: String,
    /// The first scan in which it does.
    pub scan: ScanNumber,
    /// When that scan began.
    pub at: Instant,
    /// What the rule reads: names and values at the end of that scan.
    pub values: Vec<[String; 2]>,
    /// What wrote these values, and what that read, back from there.
    pub causes: Vec<Cause>,
    /// What happens, as lines that can be played.
    pub script: Vec<String>,
    /// What happens, as stimulus CSV for the first version.
    pub stimulus: String,
    /// What happens, as acts.
    pub scenario: Scenario,
    /// How many single things happen in it.
    pub happenings: u64,
    /// Inputs, then what the rule reads beside them: the columns of [`Breach::rows`].
    pub names: Vec<String>,
    /// The last scans, that one at the end.
    pub rows: Vec<BreachRow>,
}

/// Where a scenario breaks a rule, left and right.
pub(in crate::twin) fn broken(twin: &Twin<'_>, scenario: &Scenario, rule: usize, waits: Waits) -> [Option<Broken>; 2] {
    let mut run = Run::new(twin, waits);
    run.play(scenario, |_, _, _| {});
    run.watch.broken()[rule]
}

/// Replays a scenario that breaks a rule from the text of its stimulus; `None` if that does not break it.
pub(in crate::twin) fn told(twin: &Twin<'_>, scenario: &Scenario, rule: usize) -> Option<Breach> {
    let (scenario, stimulus) = read_back(twin, scenario)?;
    let sides = broken(twin, &scenario, rule, Waits::Whole);
    let (side, found) =
        sides.into_iter().enumerate().filter_map(|(side, b)| Some((side, b?))).min_by_key(|(_, b)| b.scan)?;
    Some(shown(twin, side, found, &twin.rules[rule].law.expressions(), (scenario, stimulus)))
}

/// A scenario that was judged by what it expects of the left version: whether that was met, and how it was not.
#[derive(Clone, Debug)]
pub struct Judged {
    pub(in crate::twin) name: String,
    pub(in crate::twin) broken: Option<Broken>,
    pub(in crate::twin) breach: Option<Box<Breach>>,
}

impl Twin<'_> {
    /// What a scenario that was played expected of the left version, to stand among the rules; `None` if it expected nothing.
    #[must_use]
    pub fn judge(&self, script: &Script, played: &Played) -> Option<Judged> {
        if played.asked == 0 {
            return None;
        }
        let failure = played.failures.iter().find(|failure| failure.version == self.left.name);
        let line = failure.map_or(String::new(), |failure| format!(", line {}", failure.line));
        let broken = failure.map(|failure| Broken { scan: failure.scan, at: failure.at });
        let scenario = Scenario::of_stimulus(&played.stimulus, self, played.scans());
        // A stimulus does not say what is forced.
        let breach = broken.zip(failure).filter(|_| !played.forced).and_then(|(found, failure)| {
            let told = read_back(self, &scenario.cut(found.scan.0 + 1))?;
            Some(Box::new(shown(self, 0, found, &[&failure.expected], told)))
        });
        Some(Judged { name: format!("{}{line}", script.name), broken, breach })
    }
}

impl Judged {
    /// Among the rules.
    pub(in crate::twin) fn result(&self) -> RuleResult {
        RuleResult {
            name: self.name.clone(),
            expected: true,
            broken: [self.broken, None],
            proved: [false; 2],
            breach: self.breach.clone(),
            unasked: Vec::new(),
        }
    }
}

/// A scenario as the text of its stimulus says it, and that text: what is printed is what is replayed.
fn read_back(twin: &Twin<'_>, scenario: &Scenario) -> Option<(Scenario, String)> {
    let stimulus = scenario.stimulus(twin).write(&twin.left.machine);
    let read = Stimulus::read(&stimulus, &twin.left.machine).ok()?;
    Some((Scenario::of_stimulus(&read, twin, scenario.scans()).folded(scenario), stimulus))
}

/// What a side shows of expressions in a scan of a scenario.
fn shown(
    twin: &Twin<'_>,
    side: usize,
    found: Broken,
    expressions: &[&str],
    (scenario, stimulus): (Scenario, String),
) -> Breach {
    let version = twin.versions()[side];
    let reads = reads(version, expressions);
    let columns = columns(twin, side, &reads);
    let from = found.scan.0.saturating_sub(REMEMBERED);
    let mut run = Run::new(twin, Waits::Whole);
    if from == 0 {
        run.controllers[side].keep_journal();
    }
    let mut rows = Vec::new();
    run.play(&scenario, |controllers, scan, at| {
        if scan + 1 == from {
            controllers[side].keep_journal();
        }
        if scan + ROWS > found.scan.0 {
            let values = columns.iter().map(|point| controllers[side].get(*point).to_string());
            rows.push(BreachRow { scan: ScanNumber(scan), at, values: values.collect() });
        }
    });
    let name = |point: &PointId| version.machine.point(*point).name.clone();
    let value = |controller: &Controller, point: &PointId| controller.get(*point).readable();
    Breach {
        version: version.name.clone(),
        scan: found.scan,
        at: found.at,
        values: reads.iter().map(|point| [name(point), value(&run.controllers[side], point)]).collect(),
        causes: causes(twin, &run, side, &reads),
        script: script::lines(twin, &scenario),
        stimulus,
        happenings: scenario.happenings(),
        scenario,
        names: columns.iter().map(name).collect(),
        rows,
    }
}

/// The points that expressions read, each once, in the order in which they stand there.
fn reads(version: &Version, expressions: &[&str]) -> Vec<PointId> {
    let mut out: Vec<PointId> = Vec::new();
    for text in expressions {
        let Ok(expression) = read_expression(text, FileId(0)) else { continue };
        expression.walk(Mention::Read, &mut |part, _| {
            let written = text.get(part.span.start as usize..part.span.end as usize);
            let Some(point) = written.and_then(|name| version.machine.find(name)) else { return Walk::Into };
            if !out.contains(&point) {
                out.push(point);
            }
            Walk::Past
        });
    }
    out
}

/// The inputs of a side, then what a rule reads beside them.
fn columns(twin: &Twin<'_>, side: usize, reads: &[PointId]) -> Vec<PointId> {
    let inputs = twin.pairing.inputs.iter().map(|pair| if side == 0 { pair.left } else { pair.right });
    let mut out: Vec<PointId> = inputs.collect();
    let others: Vec<PointId> = reads.iter().copied().filter(|point| !out.contains(point)).collect();
    out.extend(others);
    out
}
