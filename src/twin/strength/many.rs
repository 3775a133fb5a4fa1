//! A scenario with all faults at once: the circuit of both versions, where the right one holds the faults behind selectors, and
//! each lane has one of them set.

use super::weave::Woven;
use crate::circuit::{ALL, Algebra, InputId, NONE, Plane, Planes, Simulator, set_bit};
use crate::scan::{Machine, PointId, Power};
use crate::twin::both::Outset;
use crate::twin::laid::{self, Laid};
use crate::twin::scenario::{Leaf, Scenario};
use crate::twin::wide::{plane_of, rest};
use crate::twin::{Twin, Version};
use std::borrow::Cow;
use std::sync::Arc;

/// How many faults run at once.
pub(super) const LANES: usize = 256;

/// What a scenario did with all lanes at once.
pub(super) struct Ran {
    /// The lanes, of those that were open, in which it shows the fault.
    pub(super) found: Plane,
    /// The lanes in which a loop runs more rounds than the circuit holds: of these it tells nothing from there on.
    pub(super) beyond: Plane,
    /// How many scans that took.
    pub(super) scans: u64,
}

/// The circuit, ready to run; of each lane it has the input that selects its fault.
pub(super) struct Many {
    laid: Laid,
    rest: Vec<i64>,
}

impl Many {
    /// The circuit of a twin whose right version has faults woven into it; those that are behind no selector are left out.
    ///
    /// # Errors
    /// Why there is none, in one sentence.
    pub(super) fn new(twin: &Twin<'_>, woven: Woven) -> Result<Many, String> {
        laid::scan_time(twin)?;
        let version = Version::new(twin.right.name.clone(), woven.checked).map_err(|e| e.to_string())?;
        let Some(faulty) = with_selectors(twin, version) else {
            return Err("with the faults in it the version has other points".to_string());
        };
        let machine = &faulty.machines()[1];
        let selectors = woven.selectors.iter().flatten().filter_map(|name| machine.find(name)).collect();
        let outset = Outset { selectors, ..Outset::of(twin) };
        Ok(Many { laid: Laid::new(&faulty, &outset)?, rest: rest(twin) })
    }

    /// What a scan of all lanes costs, in operations of the tape.
    pub(super) fn scan_cost(&self) -> u64 {
        self.laid.scan_cost()
    }

    /// Runs a scenario in the lanes that are still open, for so many scans at most. One with STOP or a cold start in it is none
    /// for the circuit.
    pub(super) fn run(&self, scenario: &Scenario, open: Plane, most: u64) -> Ran {
        let mut simulator = Simulator::new(Arc::clone(&self.laid.whole.plan));
        for (lane, id) in self.laid.selectors.iter().enumerate() {
            if let Some((_, place)) = simulator.input(*id) {
                simulator.set_number(place, lane, 1);
            }
        }
        let timed = usize::from(self.laid.is_timed());
        let give = |simulator: &mut Simulator, input: usize, value: i64| {
            if let Some((bits, _)) = simulator.input(InputId((input + timed) as u32)) {
                bits.iter_mut().enumerate().for_each(|(at, bit)| *bit = plane_of(value >> at.min(63) & 1 == 1));
            }
        };
        self.rest.iter().enumerate().for_each(|(input, value)| give(&mut simulator, input, *value));
        let (mut course, mut found, mut scan) = (self.laid.course(), NONE, 0);
        for leaf in scenario.leaves() {
            let scans = match leaf {
                Leaf::Set(change) => {
                    give(&mut simulator, change.input, change.value);
                    0
                }
                Leaf::Power(Power::Cycle) => {
                    if !self.laid.lasting && scan > 0 {
                        simulator.power_cycle(ALL);
                    }
                    0
                }
                Leaf::Power(Power::Cold | Power::Stop | Power::Run) => break,
                Leaf::Wait(scans) => scans,
            };
            for _ in 0..scans {
                let over = Planes.or(found, course.beyond());
                if scan == most || Planes.and(open, Planes.not(over)) == NONE {
                    return Ran { found, beyond: course.beyond(), scans: scan };
                }
                let parts = self.laid.scan(&self.laid.whole, &mut simulator, &mut course);
                found = Planes.or(found, Planes.and(parts, open));
                simulator.advance();
                scan += 1;
            }
        }
        Ran { found, beyond: course.beyond(), scans: scan }
    }
}

/// The twin with another right version that has more inputs, which no pair speaks of. Of one version by itself that one.
fn with_selectors<'t>(twin: &Twin<'t>, version: Version) -> Option<Twin<'t>> {
    let by_name = |was: &Machine, point: PointId| version.machine.find(&was.point(point).name);
    let mut pairing = twin.pairing.clone();
    for pair in pairing.inputs.iter_mut().chain(&mut pairing.outputs) {
        pair.right = by_name(&twin.right.machine, pair.right)?;
        if twin.is_single() {
            pair.left = by_name(&twin.left.machine, pair.left)?;
        }
    }
    let left = if twin.is_single() { Cow::Owned(version.clone()) } else { twin.left.clone() };
    let plain = Twin {
        left,
        right: Cow::Owned(version),
        pairing,
        rules: Vec::new(),
        probes: Vec::new(),
        unasked: Vec::new(),
        judged: Vec::new(),
        ..twin.clone()
    };
    let rules = if twin.is_single() { twin.rules.clone() } else { Vec::new() };
    match rules.is_empty() && twin.pairing.known.is_empty() {
        true => Some(plain),
        false => plain.with_rules(rules).ok(),
    }
}

/// The lanes of so many faults.
pub(super) fn lanes(count: usize) -> Plane {
    let mut out = NONE;
    (0..count.min(LANES)).for_each(|lane| set_bit(&mut out, lane, true));
    out
}

/// Whether all points that a scenario drives are given to both.
pub(super) fn is_for_circuit(scenario: &Scenario) -> bool {
    !scenario.is_stopped()
}
