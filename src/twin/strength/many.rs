//! A scenario with all faults at once: the circuit of both versions, where the right one holds the faults behind selectors, and
//! each lane has one of them set.

use super::weave::Woven;
use crate::circuit::{ALL, Algebra, InputId, NONE, Plane, Planes, Simulator, bit, set_bit};
use crate::scan::{Machine, PointId, Power};
use crate::twin::both::Outset;
use crate::twin::laid::{self, Course, Laid, Piece};
use crate::twin::run::Waits;
use crate::twin::scenario::{Leaf, Scenario};
use crate::twin::wide::{plane_of, rest};
use crate::twin::{Twin, Version};
use std::borrow::Cow;
use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

/// How many faults run at once.
pub(super) const LANES: usize = 256;

/// What a scenario did with all lanes at once.
pub(super) struct Ran {
    /// The lanes, of those that were open, in which it shows the fault.
    pub(super) found: Plane,
    /// The lanes in which a loop runs more rounds than the circuit holds: of these it tells nothing from there on.
    pub(super) beyond: Plane,
    /// How many scans that took, and how many operations of the tape all of them are worth.
    pub(super) scans: u64,
    pub(super) work: u64,
}

/// The circuit, ready to run; of each lane it has the input that selects its fault.
pub(super) struct Many<'t> {
    /// The twin whose right version has the faults woven into it, and the points that select them.
    twin: Twin<'t>,
    selectors: Vec<PointId>,
    laid: Laid,
    /// Where it is run in pieces those that have to do with a fault, and the lanes of their faults; nothing else can show it.
    pieces: Option<Vec<(Piece, Plane)>>,
    /// What selects the fault of each lane, as it is given to all lanes.
    selected: HashMap<InputId, Plane>,
    rest: Vec<i64>,
}

impl<'t> Many<'t> {
    /// The circuit of a twin whose right version has faults woven into it; those that are behind no selector are left out.
    ///
    /// # Errors
    /// Why there is none, in one sentence.
    pub(super) fn new(twin: &'t Twin<'_>, woven: Woven) -> Result<Many<'t>, String> {
        laid::scan_time(twin)?;
        let version = Version::new(twin.right.name.clone(), woven.checked).map_err(|e| e.to_string())?;
        let Some(faulty) = with_selectors(twin, version) else {
            return Err("with the faults in it the version has other points".to_string());
        };
        let machine = &faulty.machines()[1];
        let selectors: Vec<PointId> = woven.selectors.iter().flatten().filter_map(|name| machine.find(name)).collect();
        let outset = Outset { selectors: selectors.clone(), ..Outset::of(twin) };
        let laid = Laid::new(&faulty, &outset)?;
        let lane_of = |(lane, id): (usize, &InputId)| {
            let mut own = NONE;
            set_bit(&mut own, lane, true);
            (*id, own)
        };
        let selected: HashMap<InputId, Plane> = laid.selectors.iter().take(LANES).enumerate().map(lane_of).collect();
        let with_lanes = |piece: Piece| {
            let lanes = piece.claims.iter().fold(NONE, |all, claim| Planes.or(all, laid.touched[*claim]));
            (piece, lanes)
        };
        let with_faults = |pieces: Vec<Piece>| {
            pieces.into_iter().map(with_lanes).filter(|(_, lanes)| *lanes != NONE).collect::<Vec<_>>()
        };
        Ok(Many { pieces: laid.pieces().map(with_faults), selected, rest: rest(twin), twin: faulty, selectors, laid })
    }

    /// The numbers of the outputs that the fault of a lane has to do with, if it is known.
    pub(super) fn outputs(&self, lane: usize) -> Option<BTreeSet<usize>> {
        // Of one version the claims are its rules. A loop that goes on longer than was laid out may do anything.
        let is_known = !self.twin.is_single() && !self.laid.may_go_beyond();
        let outputs = self.laid.touched.iter().take(self.twin.pairing.outputs.len()).enumerate();
        is_known.then(|| outputs.filter(|(_, lanes)| bit(lanes, lane)).map(|(output, _)| output).collect())
    }

    /// Whether the tape shows the fault of a lane in a scenario, every scan of it run.
    pub(super) fn shows(&self, lane: usize, scenario: &Scenario) -> bool {
        let mut twin = self.twin.clone();
        let select = |version: &mut Cow<'_, Version>| {
            let version = version.to_mut();
            version.machine = version.machine.beginning_with(self.selectors[lane], 1);
        };
        select(&mut twin.right);
        if twin.is_single() {
            select(&mut twin.left);
        }
        super::shows(&twin, scenario, Waits::Whole)
    }

    /// The pieces that have to do with faults that are still open, and the lanes of these.
    fn open(&self, open: Plane) -> Vec<(&Piece, Plane)> {
        let Some(pieces) = &self.pieces else { return vec![(&self.laid.whole, open)] };
        let all = pieces.iter().map(|(piece, lanes)| (piece, Planes.and(*lanes, open)));
        all.filter(|(_, lanes)| *lanes != NONE).collect()
    }

    /// What a scan of the lanes that are still open costs, in operations of the tape.
    pub(super) fn scan_cost(&self, open: Plane) -> u64 {
        self.open(open).iter().map(|(piece, _)| piece.scan_cost()).sum::<u64>().max(1)
    }

    /// Runs a scenario in the lanes that are still open, for so many scans at most. One with STOP or a cold start in it is none
    /// for the circuit.
    pub(super) fn run(&self, scenario: &Scenario, open: Plane, most: u64) -> Ran {
        let mut out = Ran { found: NONE, beyond: NONE, scans: 0, work: 0 };
        for (piece, open) in self.open(open) {
            let ran = self.run_piece(piece, scenario, open, most);
            out.found = Planes.or(out.found, ran.found);
            out.beyond = Planes.or(out.beyond, ran.beyond);
            out.scans = out.scans.max(ran.scans);
            out.work += ran.work;
        }
        out
    }

    fn run_piece(&self, piece: &Piece, scenario: &Scenario, open: Plane, most: u64) -> Ran {
        let mut simulator = Simulator::new(Arc::clone(&piece.plan));
        simulator.give(|id| self.selected.get(&id).map(std::slice::from_ref));
        let timed = usize::from(self.laid.is_timed());
        let give = |simulator: &mut Simulator, input: usize, value: i64| {
            if let Some((bits, _)) = simulator.input(InputId((input + timed) as u32)) {
                bits.iter_mut().enumerate().for_each(|(at, bit)| *bit = plane_of(value >> at.min(63) & 1 == 1));
            }
        };
        let own: Vec<u32> = piece.plan.inputs.iter().map(|(id, _)| id.0).collect();
        for input in own.into_iter().filter_map(|id| (id as usize).checked_sub(timed)) {
            self.rest.get(input).into_iter().for_each(|value| give(&mut simulator, input, *value));
        }
        let (mut course, mut found, mut scan) = (self.laid.course(), NONE, 0);
        let ran = |found: Plane, course: &Course, scans: u64| Ran {
            found,
            beyond: course.beyond(),
            scans,
            work: scans * piece.scan_cost(),
        };
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
                    return ran(found, &course, scan);
                }
                let parts = self.laid.scan(piece, &mut simulator, &mut course);
                found = Planes.or(found, Planes.and(parts, open));
                simulator.advance();
                scan += 1;
            }
        }
        ran(found, &course, scan)
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
