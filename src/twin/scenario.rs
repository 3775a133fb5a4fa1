//! A scenario: what happens from outside, scan by scan.

use super::{Pairing, Version};
use crate::model::{Duration, Instant, Value};
use crate::scan::{Event, PointId, Power, ScanTime, Stimulus};

/// One input that changes. The value is a slot: both sides have the same type.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Change {
    /// Number of the pair in [`Pairing::inputs`].
    pub input: usize,
    /// The new value, as it sits in memory.
    pub value: i64,
}

/// What happens before one scan.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Step {
    /// The scan that sees it.
    pub scan: u64,
    /// Inputs that change.
    pub changes: Vec<Change>,
    /// What happens to the controller.
    pub power: Option<Power>,
}

/// Steps in order of their scans, at most one for each scan.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Scenario {
    /// How many scans it lasts.
    pub scans: u64,
    /// What happens.
    pub steps: Vec<Step>,
}

impl Scenario {
    /// As a stimulus for the left version; times are those at which the scans begin.
    #[must_use]
    pub fn stimulus(&self, version: &Version, pairing: &Pairing, time: &ScanTime) -> Stimulus {
        let starts: Vec<Instant> = time.clock().take(self.scans as usize + 1).collect();
        let point = |input: usize| -> PointId { pairing.inputs[input].left };
        let events = self.steps.iter().map(|step| Event {
            at: starts.get(step.scan as usize).map_or(Duration::ZERO, |i| i.0),
            set: step.changes.iter().map(|c| (point(c.input), self.value(version, point(c.input), c.value))).collect(),
            power: step.power,
        });
        Stimulus { events: events.collect() }
    }

    fn value(&self, version: &Version, point: PointId, slot: i64) -> Value {
        use crate::scan::PointType;
        match &version.machine.point(point).ty {
            PointType::Elem(elem) | PointType::Range(elem, ..) => Value::from_slot(*elem, slot),
            PointType::Enum(values) => {
                Value::Enum(slot, values.iter().find(|(_, v)| *v == slot).map(|(n, _)| n.clone()))
            }
            PointType::Text => Value::Text(String::new()),
        }
    }

    /// How many single things happen.
    #[must_use]
    pub fn happenings(&self) -> usize {
        self.steps.iter().map(|s| s.changes.len() + usize::from(s.power.is_some())).sum()
    }
}
