//! A difference, ready to be shown: the scenario, both traces around it, who wrote what, and why.

use crate::lang::statement_at;
use crate::model::{Duration, Instant, ScanNumber};
use crate::scan::{Controller, Fault, PointType, Stimulus};
use crate::twin::explain::{self, Explanation};
use crate::twin::run::{Finding, Run, Waits, parts};
use crate::twin::scenario::{Scenario, value_of};
use crate::twin::shrink::shrink;
use crate::twin::{Effort, Pairing, ProvedPart, RuleResult, Twin, Verdict, Version, matching, searched};
use serde::Serialize;

/// Rows shown before the first differing scan.
const BEFORE: u64 = 5;

/// Scans before the difference of which everything is written down, to tell its causes.
const REMEMBERED: u64 = 2_000;

/// What differs.
#[derive(Clone, Debug, PartialEq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum What {
    /// Number of the pair in [`Pairing::outputs`].
    Output(usize),
    /// Faults, left and right, that are not the same.
    Fault([Option<Fault>; 2]),
}

/// One version's part in a difference.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Side {
    /// The version's name.
    pub version: String,
    /// The value of the differing output, as in a trace; or the fault.
    pub value: String,
    /// The statement or instruction that wrote it last, if one did.
    pub writer: Option<WrittenBy>,
}

/// A statement or instruction.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct WrittenBy {
    /// `file:line`.
    pub place: String,
    /// Its text, on one line.
    pub text: String,
}

/// A change that has no counterpart on the other side, where changes may be apart.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Unmet {
    /// The version that changed.
    pub version: String,
    /// What it changed to, as the second version has it.
    pub value: String,
    /// When the scan ended in which it did.
    pub at: Instant,
    /// How near its counterpart had to be: `within 50ms`.
    pub tolerance: String,
}

/// One scan of both traces.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct ScanRow {
    /// The scan.
    pub scan: ScanNumber,
    /// When it began.
    pub at: Instant,
    /// Inputs, in the order of the pairing.
    pub inputs: Vec<String>,
    /// Outputs, left and right, in the order of the pairing.
    pub outputs: Vec<[String; 2]>,
}

/// Two versions part.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Difference {
    /// The names of both versions.
    pub versions: [String; 2],
    /// What was compared.
    pub pairing: Pairing,
    /// What differs first.
    pub what: What,
    /// Its name.
    pub name: String,
    /// The first scan in which it does.
    pub scan: ScanNumber,
    /// When that scan began.
    pub at: Instant,
    /// Both versions.
    pub sides: [Side; 2],
    /// Where changes may be apart, those of this output that are the first without a counterpart: of one side or of each.
    pub unmet: Vec<Unmet>,
    /// What happens, as stimulus CSV for the left version; where the names are the same, for either.
    pub stimulus: String,
    /// What happens, as acts.
    pub scenario: Scenario,
    /// How many single things happen in it.
    pub happenings: u64,
    /// The scan time, in words.
    pub scan_time: String,
    /// The scans around the difference, that one last.
    pub rows: Vec<ScanRow>,
    /// The scenario in words, the causes, and the trap.
    pub explanation: Explanation,
    /// What became of the rules until then.
    pub rules: Vec<RuleResult>,
    /// Scenarios run until it was found.
    pub scenarios: u64,
    /// Scans run on each side until it was found.
    pub scans: u64,
    /// What of it is proved, if that was sought and found.
    pub proved: Vec<ProvedPart>,
    /// What was assumed of the outside, in words: the scenario keeps to it.
    pub assumed: Vec<String>,
}

/// A scenario that is said to show a difference, or of one version to break a rule: replayed, shrunk and told; `None` if the
/// scan engine shows none.
pub(crate) fn shown(twin: &Twin<'_>, scenario: &Scenario) -> Option<Verdict> {
    if twin.is_single() {
        let twin = Twin { given: vec![scenario.clone()], ..twin.clone() };
        let verdict = searched(&twin, &Effort { scenarios: 1, ..Effort::default() });
        return matches!(verdict, Verdict::Broken(_)).then_some(verdict);
    }
    let found = parts(twin, scenario, Waits::Whole)?;
    let shows = |s: &Scenario, waits| parts(twin, s, waits).map(|f| f.scan);
    let shortest = shrink(twin, scenario.cut(found.scan + 1), &shows);
    describe(twin, &shortest, 0, 0).map(|difference| Verdict::Different(Box::new(difference)))
}

/// Replays a scenario from the text of its stimulus; `None` if that shows no difference.
pub(in crate::twin) fn describe(
    twin: &Twin<'_>,
    scenario: &Scenario,
    scenarios: u64,
    scans: u64,
) -> Option<Difference> {
    let text = scenario.stimulus(twin).write(&twin.left.machine);
    // What is printed is what is replayed: the text is read back.
    let read = Stimulus::read(&text, &twin.left.machine).ok()?;
    let scenario = Scenario::of_stimulus(&read, twin, scenario.scans()).folded(scenario);
    let finding = parts(twin, &scenario, Waits::Whole)?;
    let mut run = Run::new(twin, Waits::Whole);
    let from = finding.scan.saturating_sub(REMEMBERED);
    let mut rows = Vec::new();
    let found = run.play(&scenario, |controllers, scan, at| {
        if scan + 1 == from || (scan == 0 && from == 0) {
            controllers.iter_mut().for_each(Controller::keep_journal);
        }
        if scan + BEFORE >= finding.scan {
            rows.push(row(twin, controllers, scan, at));
        }
    })?;
    // A journal that begins with the first scan has to be there before it.
    if from == 0 {
        run = Run::new(twin, Waits::Whole);
        run.controllers.iter_mut().for_each(Controller::keep_journal);
        run.play(&scenario, |_, _, _| {})?;
    }
    Some(told(twin, &run, &scenario, found, (text, rows), (scenarios, scans)))
}

fn told(
    twin: &Twin<'_>,
    run: &Run<'_>,
    scenario: &Scenario,
    found: Finding,
    (stimulus, rows): (String, Vec<ScanRow>),
    (scenarios, scans): (u64, u64),
) -> Difference {
    let name = match &found.what {
        What::Output(index) => twin.pairing.outputs[*index].name.clone(),
        What::Fault(_) => "a fault".to_string(),
    };
    Difference {
        versions: [twin.left.name.clone(), twin.right.name.clone()],
        pairing: twin.pairing.clone(),
        name,
        scan: ScanNumber(found.scan),
        at: found.at,
        sides: [0, 1].map(|side| self::side(twin, run, &found.what, side)),
        unmet: unmet(twin, run, &found.what),
        explanation: explain::explain(twin, run, scenario, &found),
        stimulus,
        happenings: scenario.happenings(),
        scenario: scenario.clone(),
        scan_time: twin.timing.words(),
        rows,
        rules: Vec::new(),
        scenarios,
        scans,
        proved: Vec::new(),
        assumed: twin.granted(),
        what: found.what,
    }
}

fn unmet(twin: &Twin<'_>, run: &Run<'_>, what: &What) -> Vec<Unmet> {
    let (What::Output(index), Some(matcher)) = (what, &run.matcher) else { return Vec::new() };
    let pair = &twin.pairing.outputs[*index];
    let ty = &twin.right.machine.point(pair.right).ty;
    let each = matcher.unmet(*index).map(|(side, at, value)| Unmet {
        version: twin.versions()[side].name.clone(),
        value: if *ty == PointType::Text { "another text".to_string() } else { value_of(ty, value).to_string() },
        at: Instant(Duration::from_nanos(at)),
        tolerance: matching::words(pair.tolerance),
    });
    each.collect()
}

fn row(twin: &Twin<'_>, controllers: &[Controller; 2], scan: u64, at: Instant) -> ScanRow {
    let [left, right] = controllers;
    let pairs = &twin.pairing;
    ScanRow {
        scan: ScanNumber(scan),
        at,
        inputs: pairs.inputs.iter().map(|p| left.get(p.left).to_string()).collect(),
        outputs: pairs
            .outputs
            .iter()
            .map(|p| {
                let there = if p.unwired { "0".to_string() } else { right.get(p.right).to_string() };
                [left.get(p.left).to_string(), there]
            })
            .collect(),
    }
}

fn side(twin: &Twin<'_>, run: &Run<'_>, what: &What, side: usize) -> Side {
    let version: &Version = if side == 0 { &twin.left } else { &twin.right };
    let controller = &run.controllers[side];
    let project = version.checked.project();
    let written = |span| WrittenBy { place: project.place(span), text: statement_at(project, span) };
    let (value, writer) = match what {
        What::Output(index) => {
            let pair = &twin.pairing.outputs[*index];
            let point = if side == 0 { pair.left } else { pair.right };
            if pair.unwired && side == 1 {
                let value = "nothing stands at that terminal".to_string();
                return Side { version: version.name.clone(), value, writer: None };
            }
            let why = controller.journal().and_then(|j| j.why(&version.machine, point, j.len()));
            (controller.get(point).to_string(), why.map(|w| written(w.span)))
        }
        What::Fault(faults) => match faults[side] {
            Some(fault) => (fault.kind.to_string(), Some(written(fault.span))),
            None => ("no fault".to_string(), None),
        },
    };
    Side { version: version.name.clone(), value, writer }
}
