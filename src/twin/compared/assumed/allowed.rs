//! What scenarios may do where something is assumed: scan by scan, as the circuit does it.

use super::Assumption;
use crate::scan::Power;
use crate::twin::scenario::{Act, Change, tidy};
use crate::twin::{Scenario, Twin};

/// Inputs over the scans of a scenario, kept to what is assumed.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Allowed {
    one_change: bool,
    rest_first: bool,
    apart: Vec<(usize, usize)>,
    rest: Vec<i64>,
    /// What inputs were in the scan before.
    now: Vec<i64>,
    /// True before the scan after a power-up.
    is_first: bool,
    /// True until a scan after a power-up has run, which STOP puts off.
    is_unrun: bool,
    /// Between STOP and RUN, which a loss of power does not end.
    is_stopped: bool,
}

impl Allowed {
    pub(crate) fn new(twin: &Twin<'_>) -> Allowed {
        let rest: Vec<i64> = (0..twin.pairing.inputs.len()).map(|input| twin.resting(input)).collect();
        Allowed {
            one_change: twin.assumed.contains(&Assumption::OneChange),
            rest_first: twin.assumed.contains(&Assumption::RestFirst),
            apart: twin.apart(),
            now: rest.clone(),
            rest,
            is_first: true,
            is_unrun: true,
            is_stopped: false,
        }
    }

    /// After a scan in which inputs were these.
    pub(crate) fn after(twin: &Twin<'_>, now: Vec<i64>) -> Allowed {
        Allowed { now, is_first: false, is_unrun: false, ..Allowed::new(twin) }
    }

    /// Power is switched off and on before the next scan, or STOP or RUN is given.
    pub(crate) fn power(&mut self, power: Power) {
        match power {
            Power::Cycle | Power::Cold => (self.is_first, self.is_unrun) = (true, true),
            Power::Stop => self.is_stopped = true,
            Power::Run => self.is_stopped = false,
        }
    }

    /// What inputs are in the next scan if they are to be `given`. Where that keeps to what is assumed it is that.
    pub(crate) fn scan(&mut self, given: &[i64]) -> &[i64] {
        let rest = self.is_unrun && self.rest_first;
        if rest || self.is_first || !self.one_change {
            self.now.copy_from_slice(if rest { &self.rest } else { given });
            for input in 0..self.now.len() {
                let earlier = self.apart.iter().filter(|(_, later)| *later == input);
                if earlier.into_iter().any(|(earlier, _)| self.now[*earlier] & 1 == 1) {
                    self.now[input] = 0;
                }
            }
        } else {
            let changes = |input: &usize| given[*input] != self.now[*input] && !self.is_blocked(*input, given[*input]);
            if let Some(input) = (0..given.len()).find(changes) {
                self.now[input] = given[input];
            }
        }
        self.is_first = false;
        self.is_unrun &= self.is_stopped;
        &self.now
    }

    /// Whether an input may not become what it is to be, as another one is on.
    fn is_blocked(&self, input: usize, value: i64) -> bool {
        let other = |(a, b): &(usize, usize)| match input {
            input if input == *a => Some(*b),
            input if input == *b => Some(*a),
            _ => None,
        };
        value & 1 == 1 && self.apart.iter().filter_map(other).any(|other| self.now[other] & 1 == 1)
    }
}

/// Leads a scenario through what is assumed.
struct Mender {
    allowed: Allowed,
    /// What inputs are to be.
    wanted: Vec<i64>,
    lasting: bool,
    never_stopped: bool,
    /// True once something was not as it was said.
    differs: bool,
}

impl Mender {
    fn new(twin: &Twin<'_>) -> Mender {
        let allowed = Allowed::new(twin);
        Mender {
            wanted: allowed.rest.clone(),
            allowed,
            lasting: twin.assumed.contains(&Assumption::PowerStays),
            never_stopped: twin.assumed.contains(&Assumption::NeverStopped),
            differs: false,
        }
    }

    fn acts(&mut self, acts: &[Act], out: &mut Vec<Act>) {
        for act in acts {
            match act {
                Act::Set(change) => self.wanted[change.input] = change.value,
                Act::Power(power) => self.power(*power, out),
                Act::Wait(scans) => self.wait(*scans, out),
                Act::Repeat(times, body) => self.repeat(*times, body, out),
            }
        }
    }

    fn power(&mut self, power: Power, out: &mut Vec<Act>) {
        let is_dropped = match power {
            Power::Cycle | Power::Cold => self.lasting,
            Power::Stop | Power::Run => self.never_stopped,
        };
        self.differs |= is_dropped;
        if is_dropped {
            return;
        }
        self.allowed.power(power);
        out.push(Act::Power(power));
    }

    fn wait(&mut self, scans: u64, out: &mut Vec<Act>) {
        let mut left = scans;
        while left > 0 {
            let before = self.allowed.now.clone();
            let now = self.allowed.scan(&self.wanted);
            let changed = (0..now.len()).filter(|input| now[*input] != before[*input]);
            out.extend(changed.map(|input| Act::Set(Change { input, value: now[input] })));
            let is_settled = self.allowed.now == self.wanted;
            self.differs |= !is_settled;
            // What may not become what it is to be, as all of it has been tried, never does.
            let rests = is_settled || self.allowed.now == before;
            let scans = if rests { left } else { 1 };
            out.push(Act::Wait(scans));
            left -= scans;
        }
    }

    /// Rounds are alike once one ends as the one before.
    fn repeat(&mut self, times: u64, body: &[Act], out: &mut Vec<Act>) {
        let state = |mender: &Mender| (mender.allowed.clone(), mender.wanted.clone());
        for round in 0..times {
            let before = state(self);
            let mut list = Vec::new();
            self.acts(body, &mut list);
            if state(self) == before {
                out.push(Act::Repeat(times - round, list));
                return;
            }
            out.extend(list);
        }
    }
}

/// What is left of a scenario when it has to keep to what is assumed.
pub(super) fn mended(twin: &Twin<'_>, scenario: &Scenario) -> Scenario {
    let mut mender = Mender::new(twin);
    let mut acts = Vec::new();
    mender.acts(&scenario.acts, &mut acts);
    if !mender.differs {
        return scenario.clone();
    }
    tidy(&mut acts);
    Scenario { acts }
}

/// Whether a scenario keeps to what is assumed.
pub(super) fn keeps(twin: &Twin<'_>, scenario: &Scenario) -> bool {
    let mut mender = Mender::new(twin);
    mender.acts(&scenario.acts, &mut Vec::new());
    !mender.differs
}
