//! What was seen of the points that are noted: each change with its scan, so that a table, a strip of time or a measure needs
//! no second run.

use crate::model::{Instant, Value};
use crate::scan::{Controller, PointId};

/// A point that is noted in every scan.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Noted {
    /// The version.
    pub(super) side: usize,
    pub(super) name: String,
    /// The point in the machine that runs now; none if that has no such point.
    pub(super) point: Option<PointId>,
    /// How many scans had run when it was noted first.
    pub(super) since: u64,
    /// What it held then.
    pub(super) first: i64,
}

/// A point has another value after a scan.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Turn {
    pub(super) scan: u64,
    pub(super) at: Instant,
    pub(super) noted: u32,
    pub(super) slot: i64,
}

/// Most changes that are kept; beyond them the older half goes.
const MOST_TURNS: usize = 4_000_000;

/// What was seen so far.
#[derive(Clone, Debug, Default)]
pub(super) struct Seen {
    pub(super) noted: Vec<Noted>,
    /// What each held when it was looked at last.
    last: Vec<i64>,
    turns: Vec<Turn>,
    /// Scans that have been seen: what runs once more after going back is not noted again.
    pub(super) until: u64,
    /// From which scan on changes are kept.
    pub(super) from: u64,
}

impl Seen {
    /// From now on a point is noted; gives its number.
    pub(super) fn note(&mut self, side: usize, name: &str, point: PointId, controller: &Controller) -> usize {
        if let Some(at) = self.number(side, name) {
            return at;
        }
        let (since, first) = (controller.scans(), controller.get_slot(point));
        self.noted.push(Noted { side, name: name.to_string(), point: Some(point), since, first });
        self.last.push(first);
        self.noted.len() - 1
    }

    pub(super) fn number(&self, side: usize, name: &str) -> Option<usize> {
        self.noted.iter().position(|noted| noted.side == side && noted.name == name)
    }

    /// After a scan: notes what has changed.
    pub(super) fn look(&mut self, controllers: &[Controller], scan: u64, at: Instant) {
        let is_new = scan >= self.until;
        for (number, noted) in self.noted.iter().enumerate() {
            let Some(point) = noted.point else { continue };
            let slot = controllers[noted.side].get_slot(point);
            if slot != self.last[number] {
                self.last[number] = slot;
                if is_new {
                    self.turns.push(Turn { scan, at, noted: number as u32, slot });
                }
            }
        }
        self.until = self.until.max(scan + 1);
        if self.turns.len() > MOST_TURNS {
            self.turns.drain(..MOST_TURNS / 2);
            self.from = self.turns.first().map_or(scan, |turn| turn.scan + 1);
        }
    }

    /// Finds the points by their names, in machines that are others now.
    pub(super) fn find(&mut self, controllers: &[Controller]) {
        for (number, noted) in self.noted.iter_mut().enumerate() {
            let Some(controller) = controllers.get(noted.side) else { continue };
            let was = noted.point;
            noted.point = controller.machine().find(&noted.name);
            if let (None, Some(point)) = (was, noted.point) {
                self.last[number] = controller.get_slot(point);
            }
        }
    }

    /// Looks again at where controllers stand, without noting it: at power-up, before anything has happened.
    pub(super) fn stand(&mut self, controllers: &[Controller]) {
        for (number, noted) in self.noted.iter().enumerate() {
            if let Some(point) = noted.point {
                self.last[number] = controllers[noted.side].get_slot(point);
            }
        }
    }

    /// What is beyond a scan never happened.
    pub(super) fn forget(&mut self, scan: u64) {
        let keep = self.turns.partition_point(|turn| turn.scan < scan);
        self.turns.truncate(keep);
        self.until = self.until.min(scan);
    }

    /// The changes in some scans.
    pub(super) fn between(&self, from: u64, until: u64) -> &[Turn] {
        let first = self.turns.partition_point(|turn| turn.scan < from);
        let last = self.turns.partition_point(|turn| turn.scan < until);
        &self.turns[first..last.max(first)]
    }

    /// What each noted point holds now.
    pub(super) fn values(&self) -> &[i64] {
        &self.last
    }

    /// A slot of a noted point as a value.
    pub(super) fn value(&self, controllers: &[Controller], number: usize, slot: i64) -> Value {
        let noted = &self.noted[number];
        let controller = &controllers[noted.side];
        noted.point.map_or(Value::Int(i128::from(slot)), |point| controller.value_of(point, slot))
    }
}
