//! The circuit of both versions, laid out for 256 lanes: what is the same for whoever runs it, whatever each lane is given.

use crate::circuit::{ALL, Algebra, Cone, Gate, InputId, NONE, Node, Plan, Plane, Planes, Simulator, Unfit, plan};
use crate::scan::ScanTime;
use crate::twin::both::{Both, Outset};
use crate::twin::{Timing, Tolerance, Twin};
use fastrand::Rng;
use std::collections::HashMap;
use std::sync::Arc;

/// Bits of a circuit that cost as much as an operation of the tape, in all lanes together; and of one so large that its bits are not
/// at hand when their turn comes, whole or in pieces.
const BITS_AN_OPERATION: u64 = 4;
const BITS_OF_A_LARGE_ONE: u64 = 2;

/// Bits from which on a circuit is run in pieces: more do not fit into the memory that is near to a core.
const MOST_AT_ONCE: usize = 32_000;

/// Register bits that are enough for a piece: with what is computed from them they fit into the memory that is nearest to a core.
const ENOUGH: usize = 160;

/// Some of what both versions agree in, with all that has to do with it.
pub(in crate::twin) struct Piece {
    pub(in crate::twin) plan: Arc<Plan>,
    /// The numbers of the claims of [`Both::fine`] that it is about.
    pub(in crate::twin) claims: Vec<usize>,
    /// The bits that are TRUE while they agree; none is one that is always FALSE.
    fine: Vec<Option<usize>>,
    /// The bit that is TRUE where a loop runs more rounds than the circuit holds, if one may.
    beyond: Option<usize>,
    /// What a scan of all lanes costs, in operations of the tape.
    scan_cost: u64,
}

impl Piece {
    /// What a scan of all lanes costs, in operations of the tape.
    pub(in crate::twin) fn scan_cost(&self) -> u64 {
        self.scan_cost
    }
}

/// What a scan costs where so many bits cost as much as an operation of the tape.
fn cost(plan: &Plan, worth: u64) -> u64 {
    1 + (plan.bits + plan.slow()) as u64 / worth
}

/// Both versions as a plan, and where in it they agree.
pub(in crate::twin) struct Laid {
    pub(in crate::twin) whole: Piece,
    /// True if power is never lost.
    pub(in crate::twin) lasting: bool,
    /// The inputs that select seeded faults.
    pub(in crate::twin) selectors: Vec<InputId>,
    /// Of each claim which of those, by number, it hangs on, be it many scans later.
    pub(in crate::twin) touched: Vec<Plane>,
    dt: Option<InputId>,
    time: ScanTime,
    /// Of each claim that they agree in the bit that is TRUE while they do.
    claims: Vec<Option<usize>>,
}

/// How the scan times of all lanes go on, and which lanes did what the circuit does not hold.
pub(in crate::twin) struct Course {
    chance: Rng,
    passed: i64,
    scan: usize,
    beyond: Plane,
}

/// The scan time of versions that a circuit can be laid out of.
///
/// # Errors
/// Why there can be none, in one sentence.
pub(in crate::twin) fn scan_time<'t>(twin: &'t Twin<'_>) -> Result<&'t ScanTime, String> {
    let Timing::Lockstep(time) = &twin.timing else {
        return Err("versions that scan each on its own are not compared by it".to_string());
    };
    // The circuit does not hold as many changes as may wait for a counterpart.
    if twin.pairing.outputs.iter().any(|p| p.tolerance != Tolerance::Exact) {
        return Err("outputs that need not agree in every scan are not compared by it".to_string());
    }
    Ok(time)
}

/// Of each claim which of the first 256 selectors it hangs on.
fn touched(both: &Both, claims: &[Node]) -> Vec<Plane> {
    let mut out = vec![NONE; claims.len()];
    for (word, some) in both.selectors.chunks(64).enumerate().take(NONE.len()) {
        let bit: HashMap<InputId, u64> = some.iter().enumerate().map(|(at, id)| (*id, 1 << at)).collect();
        let begins = |gate| if let Gate::Input(id) = gate { bit.get(&id).copied().unwrap_or(0) } else { 0 };
        let hangs = both.net.hangs_on(begins);
        out.iter_mut().zip(claims).for_each(|(out, claim)| out[word] = hangs[claim.0 as usize]);
    }
    out
}

impl Course {
    /// The lanes in which a loop has run more rounds than the circuit holds.
    pub(in crate::twin) fn beyond(&self) -> Plane {
        self.beyond
    }
}

impl Laid {
    /// The circuit of a twin.
    ///
    /// # Errors
    /// Why there is none, in one sentence.
    pub(in crate::twin) fn new(twin: &Twin<'_>, outset: &Outset) -> Result<Laid, String> {
        let time = scan_time(twin)?;
        let fixed = if let ScanTime::Fixed(time) = time { Some(time.nanos()) } else { None };
        let mut both = Both::new(twin, outset, |net| match fixed {
            Some(time) => net.constant(time).into(),
            None => net.input((0, time.longest().nanos()), 1).into(),
        })
        .map_err(|e| e.to_string())?;
        if twin.halt.has_rung() {
            return Err(Unfit::Stopped.to_string());
        }
        let claims = both.fine(twin);
        let touched = touched(&both, &claims);
        let all = both.net.bool(true);
        let fine = claims.iter().fold(all, |all, claim| both.net.and(all, *claim));
        let asked: Vec<_> = [fine, both.beyond].into_iter().chain(claims.iter().copied()).collect();
        let plan = plan(&mut both.net, &asked);
        Ok(Laid {
            claims: claims.iter().map(|claim| plan.bit(*claim)).collect(),
            whole: Piece {
                claims: (0..claims.len()).collect(),
                fine: vec![plan.bit(fine)],
                beyond: plan.bit(both.beyond),
                scan_cost: cost(&plan, if plan.bits > MOST_AT_ONCE { BITS_OF_A_LARGE_ONE } else { BITS_AN_OPERATION }),
                plan: Arc::new(plan),
            },
            touched,
            lasting: outset.lasting,
            selectors: both.selectors,
            // Where it is no constant, time is the first of the inputs.
            dt: fixed.is_none().then_some(InputId(0)),
            time: time.clone(),
        })
    }

    /// All of a large circuit in pieces that have little to do with each other, each as small as one is run fastest; none if there is but
    /// one, or where what a lane does in one piece may have it count for nothing in all.
    pub(in crate::twin) fn pieces(&self) -> Option<Vec<Piece>> {
        let plan = &self.whole.plan;
        if plan.bits <= MOST_AT_ONCE || self.may_go_beyond() || self.claims.contains(&None) {
            return None;
        }
        let cones = plan.cones(&self.claims, ENOUGH);
        (cones.len() > 1).then(|| cones.iter().map(|cone| self.piece(cone)).collect())
    }

    /// Whether a loop may run more rounds than the circuit holds.
    pub(in crate::twin) fn may_go_beyond(&self) -> bool {
        self.whole.beyond.is_some()
    }

    fn piece(&self, cone: &Cone) -> Piece {
        let asked: Vec<usize> = cone.goals.iter().filter_map(|goal| self.claims[*goal]).collect();
        let (plan, moved) = self.whole.plan.piece([&cone.inputs, &cone.registers, &cone.steps], &asked);
        let fine = asked.iter().map(|at| moved.bit(*at as u32).map(|at| at as usize)).collect();
        let scan_cost = cost(&plan, BITS_OF_A_LARGE_ONE);
        Piece { plan: Arc::new(plan), claims: cone.goals.clone(), fine, beyond: None, scan_cost }
    }

    /// Whether the scan time is an input, before all others.
    pub(in crate::twin) fn is_timed(&self) -> bool {
        self.dt.is_some()
    }

    /// The beginning of a course.
    pub(in crate::twin) fn course(&self) -> Course {
        let seed = if let ScanTime::Range { seed, .. } = &self.time { *seed } else { 0 };
        Course { chance: Rng::with_seed(seed), passed: 0, scan: 0, beyond: NONE }
    }

    /// One scan of all lanes of a piece; gives those in which the versions part. What is remembered for the next scan is still to be
    /// advanced.
    pub(in crate::twin) fn scan(&self, piece: &Piece, simulator: &mut Simulator, course: &mut Course) -> Plane {
        if let Some(id) = self.dt {
            let passes = if course.scan == 0 { 0 } else { course.passed };
            course.passed = self.time.length(course.scan, &mut course.chance).nanos();
            if let Some((planes, place)) = simulator.input(id) {
                let value = passes / piece.plan.input_unit(id);
                let width = usize::from(place.width);
                let planes = planes.iter_mut().enumerate().take(width);
                planes.for_each(|(at, p)| *p = Planes.constant(value >> at & 1 == 1));
            }
        }
        course.scan += 1;
        simulator.compute();
        let look = |at: Option<usize>| at.map_or(NONE, |at| simulator.plane(at));
        course.beyond = Planes.or(course.beyond, look(piece.beyond));
        let fine = piece.fine.iter().fold(ALL, |fine, at| Planes.and(fine, look(*at)));
        Planes.not(Planes.or(fine, course.beyond))
    }
}
