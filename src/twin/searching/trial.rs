//! One scenario of a search: run on both sides, with everything noted that is learnt from it.

use crate::scan::{Controller, Seen};
use crate::twin::rules::Broken;
use crate::twin::run::{Finding, Run, Waits};
use crate::twin::{Scenario, Spread, Twin};
use std::collections::BTreeSet;

/// What one scenario showed.
pub(in crate::twin) struct Trial {
    pub(in crate::twin) scenario: Scenario,
    pub(in crate::twin) found: Option<Finding>,
    pub(in crate::twin) seen: [Seen; 2],
    pub(in crate::twin) transitions: BTreeSet<(u8, u32, i64, i64)>,
    pub(in crate::twin) changed: Vec<bool>,
    pub(in crate::twin) scans: u64,
    pub(in crate::twin) rounds: u64,
    pub(in crate::twin) time: i64,
    pub(in crate::twin) fault: bool,
    pub(in crate::twin) spreads: Vec<Spread>,
    pub(in crate::twin) broken: Vec<[Option<Broken>; 2]>,
}

/// Runs one scenario and looks at everything.
pub(in crate::twin) fn trial(twin: &Twin<'_>, scenario: Scenario, waits: Waits) -> Trial {
    let mut run = Run::new(twin, waits);
    for (controller, version) in run.controllers.iter_mut().zip(twin.versions()) {
        controller.look(Seen::new(version.machine.operations()));
    }
    let steps = twin.versions().map(|v| v.machine.steps());
    let values = |c: &[Controller; 2]| -> [Vec<i64>; 2] {
        [0, 1].map(|side: usize| steps[side].iter().map(|s| c[side].slot(*s)).collect())
    };
    let first: Vec<i64> = twin.pairing.outputs.iter().map(|p| run.controllers[0].get_slot(p.left)).collect();
    let mut changed = vec![false; first.len()];
    let mut before = values(&run.controllers);
    let mut transitions = BTreeSet::new();
    let mut end = 0;
    let found = run.play(&scenario, |controllers, _, at| {
        end = at.0.nanos();
        for (index, pair) in twin.pairing.outputs.iter().enumerate() {
            changed[index] |= controllers[0].get_slot(pair.left) != first[index];
        }
        for side in 0..2 {
            for (number, slot) in steps[side].iter().enumerate() {
                let now = controllers[side].slot(*slot);
                let old = std::mem::replace(&mut before[side][number], now);
                if old != now && transitions.len() < 4096 {
                    transitions.insert((side as u8, number as u32, old, now));
                }
            }
        }
    });
    let [left, right] = &mut run.controllers;
    Trial {
        found,
        fault: left.fault().is_some(),
        seen: [left.seen(), right.seen()],
        transitions,
        changed,
        scans: run.run,
        rounds: run.rounds,
        time: end,
        spreads: run.matcher.take().map_or(Vec::new(), |m| m.spreads),
        broken: run.watch.broken(),
        scenario,
    }
}
