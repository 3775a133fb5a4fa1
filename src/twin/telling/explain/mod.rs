//! A difference in the words of the trade: the scenario, the causes on both sides back to where they part, and which
//! of the thirty traps it looks like.

mod traps;
mod undo;

use crate::lang::statement_at;
use crate::model::ScanNumber;
use crate::scan::{Link, PointId, PointType, Read};
use crate::twin::difference::What;
use crate::twin::run::{Finding, Run, Waits};
use crate::twin::scenario::{Scenario, value_of};
use crate::twin::{Timing, Tolerance, Twin, script};
use serde::Serialize;
use std::collections::{HashSet, VecDeque};

/// One statement on the way to a value.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Cause {
    /// The scan in which it ran.
    pub scan: ScanNumber,
    /// `file:line`.
    pub place: String,
    /// Its text, on one line.
    pub text: String,
    /// What it wrote, and what that became.
    pub wrote: [String; 2],
    /// What it read: name and value.
    pub reads: Vec<[String; 2]>,
}

/// A trap that a difference looks like.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Hint {
    /// Its number in docs/traps.md.
    pub trap: u8,
    /// Its title there.
    pub title: String,
    /// What points to it.
    pub why: String,
    /// What would mend it.
    pub mend: String,
}

/// Why two versions part.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Explanation {
    /// The scenario as lines that can be played.
    pub script: Vec<String>,
    /// The causes, left and right, from the output back.
    pub causes: [Vec<Cause>; 2],
    /// Where they part, in a sentence.
    pub parting: String,
    /// What happens if everything stays as it is.
    pub afterwards: Option<String>,
    /// Traps it looks like, the likeliest first.
    pub hints: Vec<Hint>,
}

/// Most steps back.
const MOST_CAUSES: usize = 8;

/// Scans looked at behind the difference.
const AFTERWARDS: u64 = 300;

pub(in crate::twin) fn explain(twin: &Twin<'_>, run: &Run<'_>, scenario: &Scenario, found: &Finding) -> Explanation {
    let mut out = Explanation { script: script::lines(twin, scenario), ..Explanation::default() };
    if let What::Output(index) = &found.what {
        let pair = &twin.pairing.outputs[*index];
        let parting = chain(twin, run, [pair.left, pair.right], &mut out.causes);
        out.parting = match pair.unwired {
            true => format!("in {} nothing stands at the terminal of {}", twin.right.name, pair.name),
            false => parting,
        };
        if pair.unwired {
            out.causes[1].clear();
        }
    } else {
        out.parting = "one of them stops with a fault".to_string();
    }
    let again = agrees_again(twin, scenario);
    out.afterwards = match again {
        Some(1) => Some("one scan later they agree again".to_string()),
        Some(n) => Some(format!("{n} scans later they agree again, if nothing else happens")),
        None if is_exact(twin) => Some(format!("{AFTERWARDS} scans later they still differ, if nothing else happens")),
        None => None,
    };
    let findings = undo::findings(twin, scenario, found);
    out.hints = traps::hints(&traps::Evidence::new(scenario, found, &findings, &out, again));
    out
}

/// What wrote some points last on one side, and what wrote that which they read, nearest first.
pub(in crate::twin) fn causes(twin: &Twin<'_>, run: &Run<'_>, side: usize, points: &[PointId]) -> Vec<Cause> {
    let version = twin.versions()[side];
    let Some(journal) = run.controllers[side].journal() else { return Vec::new() };
    let mut out: Vec<Cause> = Vec::new();
    let mut due: VecDeque<(PointId, usize)> = points.iter().map(|point| (*point, journal.len())).collect();
    let mut seen = HashSet::new();
    while let Some((point, before)) = due.pop_front() {
        if out.len() == MOST_CAUSES {
            break;
        }
        let Some(link) = journal.why(&version.machine, point, before) else { continue };
        // A statement is told once, as it ran last.
        if !seen.insert(link.span) {
            continue;
        }
        due.extend(link.reads.iter().map(|read| (read.point, read.before)));
        out.push(cause(twin, side, &link, point, run));
    }
    out
}

fn is_exact(twin: &Twin<'_>) -> bool {
    let exact = twin.pairing.outputs.iter().all(|p| p.tolerance == Tolerance::Exact);
    exact && matches!(twin.timing, Timing::Lockstep(_))
}

/// After how many scans both agree again when nothing else happens.
fn agrees_again(twin: &Twin<'_>, scenario: &Scenario) -> Option<u64> {
    if !is_exact(twin) {
        return None;
    }
    let mut run = Run::new(twin, Waits::Leaping);
    run.play(scenario, |_, _, _| {})?;
    (1..=AFTERWARDS).find(|_| run.wait(1, &mut |_, _, _| {}).is_none())
}

/// Follows a value back on both sides as long as both read the same name with different values.
fn chain(twin: &Twin<'_>, run: &Run<'_>, points: [PointId; 2], causes: &mut [Vec<Cause>; 2]) -> String {
    let versions = twin.versions();
    let mut points = points;
    let mut before = [0, 1].map(|side: usize| run.controllers[side].journal().map_or(0, |j| j.len()));
    for _ in 0..MOST_CAUSES {
        let links: [Option<Link>; 2] = [0, 1].map(|side: usize| {
            let journal = run.controllers[side].journal()?;
            journal.why(&versions[side].machine, points[side], before[side])
        });
        for side in 0..2 {
            if let Some(link) = &links[side] {
                causes[side].push(cause(twin, side, link, points[side], run));
            }
        }
        let [Some(left), Some(right)] = &links else {
            let silent = if links[0].is_none() { 0 } else { 1 };
            let name = &versions[silent].machine.point(points[silent]).name;
            return format!("in {} nothing has written {name} so far", versions[silent].name);
        };
        match common(twin, left, right) {
            Some((a, b)) => {
                points = [a.point, b.point];
                before = [a.before, b.before];
            }
            None if left.scan != right.scan => {
                return format!("left wrote it in scan {}, right in scan {}", left.scan, right.scan);
            }
            None => return parting(twin, left, right),
        }
    }
    "the causes lead further back than is shown".to_string()
}

/// A variable of the same name that both have read with different values.
fn common<'l>(twin: &Twin<'_>, left: &'l Link, right: &'l Link) -> Option<(&'l Read, &'l Read)> {
    left.reads.iter().find_map(|a| {
        let name = &twin.left.machine.point(a.point).name;
        let partner = right.reads.iter().find(|b| {
            let same = twin.right.machine.point(b.point).name.eq_ignore_ascii_case(name);
            let pairs = twin.pairing.inputs.iter().chain(&twin.pairing.outputs);
            same || pairs.into_iter().any(|p| p.left == a.point && p.right == b.point)
        })?;
        (a.value != partner.value && text_of(twin, 0, a) != text_of(twin, 1, partner)).then_some((a, partner))
    })
}

fn parting(twin: &Twin<'_>, left: &Link, right: &Link) -> String {
    let only = |side: usize, own: &Link, other: &Link| -> Vec<String> {
        let (me, you) = if side == 0 { (&twin.left, &twin.right) } else { (&twin.right, &twin.left) };
        own.reads
            .iter()
            .filter(|r| {
                let name = &me.machine.point(r.point).name;
                !other.reads.iter().any(|o| you.machine.point(o.point).name.eq_ignore_ascii_case(name))
            })
            .map(|r| format!("{} = {}", me.machine.point(r.point).name, text_of(twin, side, r)))
            .take(4)
            .collect()
    };
    let (a, b) = (only(0, left, right), only(1, right, left));
    match (a.is_empty(), b.is_empty()) {
        (true, true) => "they part here: both read the same, and say something else".to_string(),
        (false, true) => format!("they part here: only left reads {}", a.join(", ")),
        (true, false) => format!("they part here: only right reads {}", b.join(", ")),
        (false, false) => format!("they part here: left reads {}; right reads {}", a.join(", "), b.join(", ")),
    }
}

fn text_of(twin: &Twin<'_>, side: usize, read: &Read) -> String {
    let version = if side == 0 { &twin.left } else { &twin.right };
    version.machine.point(read.point).ty.value(read.value, |_| "a text".to_string()).readable()
}

fn cause(twin: &Twin<'_>, side: usize, link: &Link, point: PointId, run: &Run<'_>) -> Cause {
    let version = if side == 0 { &twin.left } else { &twin.right };
    let project = version.checked.project();
    let name = |p: PointId| version.machine.point(p).name.clone();
    // What it became then, which later statements may have changed since.
    let ty = &version.machine.point(point).ty;
    let then = link.value.filter(|_| *ty != PointType::Text).map(|slot| value_of(ty, slot));
    let then = then.unwrap_or_else(|| run.controllers[side].get(point));
    Cause {
        scan: ScanNumber(link.scan),
        place: project.place(link.span),
        text: statement_at(project, link.span),
        wrote: [name(point), then.readable()],
        reads: link.reads.iter().take(10).map(|r| [name(r.point), text_of(twin, side, r)]).collect(),
    }
}
