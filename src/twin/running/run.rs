//! Two controllers on one scenario, until they part.

use crate::model::{Duration, Family, Instant, Value};
use crate::scan::{Controller, Moment, PointType, Power};
use crate::twin::matching::Matcher;
use crate::twin::rules::Watch;
use crate::twin::running::leap::Leaps;
use crate::twin::scenario::{Leaf, Scenario};
use crate::twin::timing::Pace;
use crate::twin::{Change, Mapping, Tolerance, Twin, What};

/// Where two versions part.
#[derive(Clone, Debug, PartialEq)]
pub(in crate::twin) struct Finding {
    /// The scan; where each side has a scan time of its own, the moment of the scenario.
    pub(in crate::twin) scan: u64,
    pub(in crate::twin) at: Instant,
    pub(in crate::twin) what: What,
}

/// Whether long waits are run scan by scan.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::twin) enum Waits {
    /// Every scan is run.
    Whole,
    /// Where in a long wait nothing but time seems to go on, one long scan stands for many; where the same goes on again and
    /// again, numbers are counted on. What is found so is a guess until every scan was run.
    Leaping,
}

/// Waits of fewer scans are run whole: leaping costs some scans as well.
const LONG: u64 = 2_000;

/// Scans run at each end of a leap.
const EDGE: u64 = 12;

/// Both controllers and what watches them.
pub(in crate::twin) struct Run<'t> {
    pub(in crate::twin) twin: &'t Twin<'t>,
    pub(in crate::twin) controllers: [Controller; 2],
    waits: Waits,
    pub(super) pace: Pace,
    /// Where each side scans on its own: when its next scan begins.
    own: Option<[Pace; 2]>,
    pub(in crate::twin) matcher: Option<Matcher>,
    pub(in crate::twin) watch: Watch,
    pub(super) scan: u64,
    /// Scans that were really run.
    pub(in crate::twin) run: u64,
    /// Rounds of loops in them, on both sides.
    pub(in crate::twin) rounds: u64,
    /// The scan that is looked at closely, and what it did; only in lockstep.
    pub(in crate::twin) closely: Option<u64>,
    pub(in crate::twin) moments: Option<[Moment; 2]>,
}

impl<'t> Run<'t> {
    pub(in crate::twin) fn new(twin: &'t Twin<'t>, waits: Waits) -> Run<'t> {
        let controllers = [Controller::new(&twin.left.machine), Controller::new(&twin.right.machine)];
        let is_free = matches!(twin.timing, crate::twin::Timing::Free(_));
        let tolerant = is_free || twin.pairing.outputs.iter().any(|p| p.tolerance != Tolerance::Exact);
        let mut run = Run {
            controllers,
            waits: if tolerant { Waits::Whole } else { waits },
            pace: twin.timing.pace(),
            own: is_free.then(|| [0, 1].map(|side| Pace::of(twin.timing.of(side)))),
            matcher: None,
            watch: Watch::new(twin),
            scan: 0,
            run: 0,
            rounds: 0,
            closely: None,
            moments: None,
            twin,
        };
        for (input, pair) in twin.pairing.inputs.iter().enumerate() {
            // What is the same on both sides has its initial value already.
            if pair.rest.is_some() || pair.mapping != Mapping::Same {
                let value = pair.rest.unwrap_or_else(|| run.controllers[0].get_slot(pair.left));
                run.set(Change { input, value });
            }
        }
        run.matcher = tolerant.then(|| Matcher::new(twin, &run.controllers));
        run
    }

    /// As [`Run::new`], from where controllers stand; scans are counted from here.
    pub(in crate::twin) fn onward(
        twin: &'t Twin<'t>,
        controllers: [Controller; 2],
        pace: Pace,
        waits: Waits,
    ) -> Run<'t> {
        Run { controllers, pace, ..Run::new(twin, waits) }
    }

    /// Runs a scenario until the versions part; `each` sees the controllers after every scan.
    pub(in crate::twin) fn play(
        &mut self,
        scenario: &Scenario,
        mut each: impl FnMut(&mut [Controller; 2], u64, Instant),
    ) -> Option<Finding> {
        for leaf in scenario.leaves() {
            let found = match leaf {
                Leaf::Set(change) => {
                    self.set(change);
                    None
                }
                Leaf::Power(power) => {
                    self.power(power);
                    None
                }
                Leaf::Wait(scans) => self.wait(scans, &mut each),
            };
            if found.is_some() {
                return found;
            }
        }
        self.settle(&mut each)
    }

    pub(in crate::twin) fn set(&mut self, change: Change) {
        sets(self.twin, &mut self.controllers, change.input, change.value);
    }

    pub(in crate::twin) fn power(&mut self, power: Power) {
        let now = Instant(Duration::from_nanos(self.pace.now()));
        self.controllers.iter_mut().for_each(|controller| controller.power(power, now));
    }

    pub(in crate::twin) fn wait(
        &mut self,
        scans: u64,
        each: &mut impl FnMut(&mut [Controller; 2], u64, Instant),
    ) -> Option<Finding> {
        let mut left = scans;
        let mut leaps = Leaps::default();
        while left > 0 && !self.twin.halt.has_rung() {
            if self.waits == Waits::Leaping && left > LONG && left != scans {
                let leapt = self.leap(&mut leaps, left - EDGE);
                self.scan += leapt;
                left -= leapt;
            }
            for _ in 0..left.min(EDGE) {
                if self.twin.halt.has_rung() {
                    break;
                }
                if let Some(found) = self.tick(each) {
                    return Some(found);
                }
                left -= 1;
            }
        }
        None
    }

    /// One scan on both sides; where they scan on their own, all that begin before the next moment.
    fn tick(&mut self, each: &mut impl FnMut(&mut [Controller; 2], u64, Instant)) -> Option<Finding> {
        let at = Instant(Duration::from_nanos(self.pace.now()));
        let scan = self.scan;
        self.pace.tick();
        self.scan += 1;
        self.run += 1;
        match &mut self.own {
            // One version by itself runs once.
            None if self.twin.is_single() && self.closely != Some(scan) => self.controllers[0].scan(at),
            None if self.closely == Some(scan) => {
                self.moments = Some(self.controllers.each_mut().map(|controller| controller.scan_closely(at)));
            }
            None => self.controllers.iter_mut().for_each(|c| c.scan(at)),
            Some(own) => {
                for (side, pace) in own.iter_mut().enumerate() {
                    while pace.now() < self.pace.now() {
                        self.controllers[side].scan(Instant(Duration::from_nanos(pace.now())));
                        pace.tick();
                        if let Some(matcher) = &mut self.matcher {
                            matcher.observe(self.twin, &self.controllers[side], side, pace.now());
                        }
                    }
                }
            }
        }
        if self.own.is_none()
            && let Some(matcher) = &mut self.matcher
        {
            for side in 0..2 {
                matcher.observe(self.twin, &self.controllers[side], side, self.pace.now());
            }
        }
        self.rounds += self.controllers.iter().map(Controller::rounds).sum::<u64>();
        self.watch.after(&mut self.controllers, scan, at, self.pace.now());
        each(&mut self.controllers, scan, at);
        let what = match &self.matcher {
            None => self.parted(),
            Some(_) => self.fault_apart().or_else(|| self.matched()),
        };
        what.map(|what| Finding { scan, at, what })
    }

    /// After the last act: as long as a counterpart may be late.
    fn settle(&mut self, each: &mut impl FnMut(&mut [Controller; 2], u64, Instant)) -> Option<Finding> {
        let late = self.matcher.as_ref().map_or(0, Matcher::longest);
        let scans = if late > 0 { late / self.pace.step().max(1) + 2 } else { 0 };
        for _ in 0..scans {
            if let Some(found) = self.tick(each) {
                return Some(found);
            }
        }
        None
    }

    fn matched(&mut self) -> Option<What> {
        let now = self.own.as_ref().map_or(self.pace.now(), |own| own[0].now().min(own[1].now()));
        self.matcher.as_mut()?.judge(now).map(What::Output)
    }

    fn fault_apart(&self) -> Option<What> {
        if self.twin.is_single() {
            return None;
        }
        let faults = [self.controllers[0].fault(), self.controllers[1].fault()];
        (faults[0].map(|f| f.kind) != faults[1].map(|f| f.kind)).then_some(What::Fault(faults))
    }

    /// How the controllers differ now, if they do.
    fn parted(&mut self) -> Option<What> {
        if let Some(fault) = self.fault_apart() {
            return Some(fault);
        }
        // What nothing has written since power-up is not compared.
        let running = self.controllers.iter().all(Controller::has_run);
        let (twin, controllers) = (self.twin, &mut self.controllers);
        let apart = |n: &usize| differs(twin, controllers, *n) && !twin.is_known(controllers, *n);
        let found = if running { (0..twin.pairing.outputs.len()).find(apart) } else { None };
        found.map(What::Output)
    }
}

/// Gives both controllers a value of an input, as it sits in memory on the left.
pub(crate) fn sets(twin: &Twin<'_>, controllers: &mut [Controller; 2], input: usize, value: i64) {
    let pair = &twin.pairing.inputs[input];
    if pair.unwired {
        controllers[0].set_slot(pair.left, value);
        return;
    }
    if twin.left.machine.point(pair.left).ty == PointType::Text {
        let text = Value::Text(twin.texts.get(value));
        for (controller, point) in controllers.iter_mut().zip([pair.left, pair.right]) {
            if let Ok(slot) = controller.slot_value(point, &text) {
                controller.set_slot(point, slot);
            }
        }
        return;
    }
    // What the right type does not hold is given to neither.
    if let Some(right) = pair.right_of(twin.machines(), value) {
        controllers[0].set_slot(pair.left, value);
        controllers[1].set_slot(pair.right, right);
    }
}

/// Whether a pair of outputs agrees at the end of this scan; `None` if that is told later.
pub(crate) fn pair_agrees(twin: &Twin<'_>, controllers: &mut [Controller; 2], output: usize) -> Option<bool> {
    let is_exact = twin.pairing.outputs[output].tolerance == Tolerance::Exact;
    let running = controllers.iter().all(Controller::has_run);
    is_exact.then(|| !running || !differs(twin, controllers, output) || twin.is_known(controllers, output))
}

fn differs(twin: &Twin<'_>, controllers: &[Controller; 2], output: usize) -> bool {
    let ([left, right], pair) = (controllers, &twin.pairing.outputs[output]);
    if pair.unwired {
        return left.get_slot(pair.left) != 0;
    }
    match twin.left.machine.point(pair.left).ty.family() {
        Family::Text => left.get(pair.left) != right.get(pair.right),
        Family::Real => {
            // The same number, or both no number.
            let [a, b] = [left.get_slot(pair.left), right.get_slot(pair.right)].map(|s| f64::from_bits(s as u64));
            !(a == b || (a.is_nan() && b.is_nan()))
        }
        Family::Bool | Family::Bits | Family::Int | Family::Time => {
            pair.right_of(twin.machines(), left.get_slot(pair.left)) != Some(right.get_slot(pair.right))
        }
    }
}

/// Runs a scenario from power-up; where the versions part, if they do.
pub(in crate::twin) fn parts(twin: &Twin<'_>, scenario: &Scenario, waits: Waits) -> Option<Finding> {
    Run::new(twin, waits).play(scenario, |_, _, _| {})
}
