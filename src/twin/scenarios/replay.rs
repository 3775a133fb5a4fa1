//! A scenario once more, to be looked at: what both versions did, and how they stand at its end.

use crate::model::{Instant, ScanNumber};
use crate::scan::{Controller, Direction, Moment, PointId, Power, Trace};
use crate::twin::run::{Run, Waits};
use crate::twin::{Leaf, Scenario, Twin};
use std::hash::{DefaultHasher, Hash, Hasher};

/// What both versions did in a scenario and some scans beyond it, at most the last `most` scans of it: all inputs and
/// outputs, those of the right by the names of their partners on the left. Where the versions scan on their own there is
/// a row for each moment of the scenario.
#[must_use]
pub fn traces(twin: &Twin<'_>, scenario: &Scenario, beyond: u64, most: u64) -> [Trace; 2] {
    let points: [Vec<(PointId, String)>; 2] = [columns(twin, 0), columns(twin, 1)];
    let mut traces = points.each_ref().map(|list| Trace::of(list.iter().map(|(_, name)| name.clone()).collect()));
    let from = scenario.scans().saturating_sub(most.max(1));
    let mut run = Run::new(twin, Waits::Whole);
    let mut row = |controllers: &mut [Controller; 2], scan: u64, at: Instant| {
        if scan < from {
            return;
        }
        for side in 0..2 {
            let values = points[side].iter().map(|(p, _)| controllers[side].get(*p));
            traces[side].push(ScanNumber(scan), at, values);
        }
    };
    // Playing ends where they part; what follows is run all the same.
    if run.play(scenario, &mut row).is_some() {
        (0..beyond).for_each(|_| {
            run.wait(1, &mut row);
        });
    } else {
        run.wait(beyond, &mut row);
    }
    let powers = powers(scenario, from, traces[0].scans().len());
    traces.iter_mut().for_each(|trace| trace.powers.clone_from(&powers));
    traces
}

/// Whether any of some points of both versions is ever something else at the end of a scan than it is where nothing happens, or
/// the versions part in a scenario.
pub(crate) fn moves(twin: &Twin<'_>, scenario: &Scenario, points: [&[PointId]; 2]) -> bool {
    let held = |controllers: &[Controller; 2]| {
        let mut hasher = DefaultHasher::new();
        for (side, list) in points.iter().enumerate() {
            list.iter().for_each(|point| controllers[side].get_slot(*point).hash(&mut hasher));
        }
        hasher.finish()
    };
    // What is held at rest after each scan.
    let mut rest = Vec::new();
    Run::new(twin, Waits::Whole).wait(
        scenario.scans(),
        &mut |controllers: &mut [Controller; 2], _: u64, _: Instant| {
            rest.push(held(controllers));
        },
    );
    let (mut scan, mut moved) = (0, false);
    let parted = Run::new(twin, Waits::Whole).play(scenario, |controllers, _, _| {
        moved |= rest.get(scan).is_some_and(|rest| *rest != held(controllers));
        scan += 1;
    });
    // At rest they may part sooner than the scenario ends; of what came behind nothing is known.
    moved || parted.is_some() || (scan > rest.len())
}

/// What happens to the controllers in a scenario, with the rows of a trace that begins with a scan.
fn powers(scenario: &Scenario, from: u64, rows: usize) -> Vec<(usize, Power)> {
    let (mut scan, mut out) = (0, Vec::new());
    for leaf in scenario.leaves() {
        match leaf {
            Leaf::Wait(scans) => scan += scans,
            Leaf::Power(power) if scan >= from => out.push(((scan - from) as usize, power)),
            Leaf::Power(_) | Leaf::Set(_) => {}
        }
    }
    out.retain(|(row, _)| *row < rows);
    out
}

/// Both controllers after the last scan of a scenario, and what that scan did; of versions that scan on their own that is not
/// told.
#[must_use]
pub fn controllers(twin: &Twin<'_>, scenario: &Scenario) -> ([Controller; 2], Option<[Moment; 2]>) {
    let mut run = Run::new(twin, Waits::Whole);
    run.closely = scenario.scans().checked_sub(1);
    run.play(scenario, |_, _, _| {});
    (run.controllers, run.moments)
}

/// Inputs and outputs of a side, with the names of their partners on the left.
fn columns(twin: &Twin<'_>, side: usize) -> Vec<(PointId, String)> {
    let machine = if side == 0 { &twin.left.machine } else { &twin.right.machine };
    let pairs = || twin.pairing.inputs.iter().chain(&twin.pairing.outputs);
    let name = |id: PointId, own: &str| {
        let partner = pairs().find(|p| side == 1 && p.right == id);
        match partner {
            Some(pair) if pair.unwired => format!("{own} at its own terminal"),
            Some(pair) => pair.name.clone(),
            None => own.to_string(),
        }
    };
    [Direction::Input, Direction::Output]
        .into_iter()
        .flat_map(|d| machine.points_of(d))
        .map(|(id, point)| (id, name(id, &point.name)))
        .collect()
}
