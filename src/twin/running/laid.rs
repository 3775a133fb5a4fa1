//! The circuit of both versions, laid out for 256 lanes: what is the same for whoever runs it, whatever each lane is given.

use crate::circuit::{Algebra, InputId, NONE, Node, Plan, Plane, Planes, Simulator, Unfit, plan};
use crate::scan::ScanTime;
use crate::twin::both::{Both, Outset};
use crate::twin::{Timing, Tolerance, Twin};
use fastrand::Rng;
use std::sync::Arc;

/// Both versions as a plan, and where in it they agree.
pub(in crate::twin) struct Laid {
    pub(in crate::twin) plan: Arc<Plan>,
    /// True if power is never lost.
    pub(in crate::twin) lasting: bool,
    /// The inputs that select seeded faults.
    pub(in crate::twin) selectors: Vec<InputId>,
    dt: Option<InputId>,
    time: ScanTime,
    fine: Node,
    beyond: Node,
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
        let fine = both.fine(twin);
        let beyond = both.beyond;
        let plan = plan(&mut both.net, &[fine, beyond]);
        Ok(Laid {
            plan: Arc::new(plan),
            lasting: outset.lasting,
            selectors: both.selectors,
            // Where it is no constant, time is the first of the inputs.
            dt: fixed.is_none().then_some(InputId(0)),
            time: time.clone(),
            fine,
            beyond,
        })
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

    /// One scan of all lanes; gives those in which the versions part. What is remembered for the next scan is still to be
    /// advanced.
    pub(in crate::twin) fn scan(&self, simulator: &mut Simulator, course: &mut Course) -> Plane {
        if let Some(id) = self.dt {
            let passes = if course.scan == 0 { 0 } else { course.passed };
            course.passed = self.time.length(course.scan, &mut course.chance).nanos();
            if let Some((planes, place)) = simulator.input(id) {
                let value = passes / self.plan.input_unit(id);
                let width = usize::from(place.width);
                let planes = planes.iter_mut().enumerate().take(width);
                planes.for_each(|(at, p)| *p = Planes.constant(value >> at & 1 == 1));
            }
        }
        course.scan += 1;
        simulator.compute();
        let look = |node| self.plan.place(node).and_then(|p| simulator.planes(p).first()).copied().unwrap_or(NONE);
        course.beyond = Planes.or(course.beyond, look(self.beyond));
        Planes.not(Planes.or(look(self.fine), course.beyond))
    }
}
