//! A difference, ready to be shown: the scenario, both traces around it, and who wrote what.

use super::compare::{Rig, scan_text};
use super::scenario::Scenario;
use super::{Pairing, Version};
use crate::model::{Instant, ScanNumber};
use crate::scan::{Controller, Fault, Stimulus};
use serde::Serialize;

/// Rows shown before the first differing scan.
const BEFORE: u64 = 5;

/// What differs.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum What {
    /// Number of the pair in [`Pairing::outputs`].
    Output(usize),
    /// Faults, left and right, that are not the same.
    Fault([Option<Fault>; 2]),
}

/// One version's part in a difference.
#[derive(Clone, Debug, Serialize)]
pub struct Side {
    /// The version's name.
    pub version: String,
    /// The value of the differing output, as in a trace; or the fault.
    pub value: String,
    /// The statement or instruction that wrote it last, if one did.
    pub writer: Option<Writer>,
}

/// A statement or instruction.
#[derive(Clone, Debug, Serialize)]
pub struct Writer {
    /// `file:line`.
    pub place: String,
    /// Its text, on one line.
    pub text: String,
}

/// One scan of both traces.
#[derive(Clone, Debug, Serialize)]
pub struct Row {
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
#[derive(Clone, Debug, Serialize)]
pub struct Difference {
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
    /// What happens, as stimulus CSV for either version.
    pub stimulus: String,
    /// How many single things happen in it.
    pub happenings: usize,
    /// The scan time, in words.
    pub scan_time: String,
    /// The scans around the difference, that one last.
    pub rows: Vec<Row>,
    /// Scenarios run until it was found.
    pub scenarios: u64,
    /// Scans run on each side until it was found.
    pub scans: u64,
}

/// Replays a scenario from the text of its stimulus; `None` if that shows no difference.
pub(super) fn describe(rig: &Rig<'_>, scenario: &Scenario, scenarios: u64, scans: u64) -> Option<Difference> {
    let stimulus = scenario.stimulus(rig.left, rig.pairing, rig.time);
    let text = stimulus.write(&rig.left.machine);
    // What is printed is what is replayed: the text is read back, once for each side.
    let left = Stimulus::read(&text, &rig.left.machine).ok()?;
    let right = Stimulus::read(&text, &rig.right.machine).ok()?;
    let mut controllers = rig.fresh();
    controllers.iter_mut().for_each(Controller::note_writers);
    let (mut next_left, mut next_right) = (0, 0);
    let mut rows = Vec::new();
    for (scan, at) in (0..scenario.scans).zip(rig.time.clock()) {
        let [l, r] = &mut controllers;
        crate::scan::happen(l, &left, &mut next_left, at);
        crate::scan::happen(r, &right, &mut next_right, at);
        l.scan(at);
        r.scan(at);
        rows.push(row(rig, &controllers, scan, at));
        if rows.len() as u64 > BEFORE + 1 {
            rows.remove(0);
        }
        let Some(what) = rig.parted(&controllers) else { continue };
        let name = match &what {
            What::Output(index) => rig.pairing.outputs[*index].name.clone(),
            What::Fault(_) => "a fault".to_string(),
        };
        return Some(Difference {
            pairing: rig.pairing.clone(),
            name,
            scan: ScanNumber(scan),
            at,
            sides: [side(rig, &controllers, &what, 0), side(rig, &controllers, &what, 1)],
            stimulus: text,
            happenings: scenario.happenings(),
            scan_time: scan_text(rig.time),
            rows,
            scenarios,
            scans,
            what,
        });
    }
    None
}

fn row(rig: &Rig<'_>, controllers: &[Controller; 2], scan: u64, at: Instant) -> Row {
    let [left, right] = controllers;
    Row {
        scan: ScanNumber(scan),
        at,
        inputs: rig.pairing.inputs.iter().map(|p| left.get(p.left).to_string()).collect(),
        outputs: rig
            .pairing
            .outputs
            .iter()
            .map(|p| [left.get(p.left).to_string(), right.get(p.right).to_string()])
            .collect(),
    }
}

fn side(rig: &Rig<'_>, controllers: &[Controller; 2], what: &What, side: usize) -> Side {
    let version: &Version = if side == 0 { rig.left } else { rig.right };
    let controller = &controllers[side];
    let project = version.checked.project();
    let written = |span| Writer { place: project.place(span), text: project.excerpt(span) };
    let (value, writer) = match what {
        What::Output(index) => {
            let pair = &rig.pairing.outputs[*index];
            let point = if side == 0 { pair.left } else { pair.right };
            (controller.get(point).to_string(), controller.writer(point).map(written))
        }
        What::Fault(faults) => match faults[side] {
            Some(fault) => (fault.kind.to_string(), Some(written(fault.span))),
            None => ("no fault".to_string(), None),
        },
    };
    Side { version: version.name.clone(), value, writer }
}
