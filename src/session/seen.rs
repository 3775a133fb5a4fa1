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
    /// What it held then, or when the changes that are kept begin.
    pub(super) first: i64,
}

/// A point has another value after a scan.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Turn {
    pub(super) scan: u64,
    pub(super) at: Instant,
    pub(super) slot: i64,
}

/// Most changes that are kept; beyond them those of the older half of the time go.
const MOST_TURNS: usize = 4_000_000;

/// What was seen so far.
#[derive(Clone, Debug, Default)]
pub(super) struct Seen {
    pub(super) noted: Vec<Noted>,
    /// What each held when it was looked at last.
    last: Vec<i64>,
    /// The changes of each, so that nobody looks through those of all.
    turns: Vec<Vec<Turn>>,
    /// How many there are of all together.
    count: usize,
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
        self.turns.push(Vec::new());
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
                    self.turns[number].push(Turn { scan, at, slot });
                    self.count += 1;
                }
            }
        }
        self.until = self.until.max(scan + 1);
        if self.count > MOST_TURNS {
            self.drop_before(self.from + (scan - self.from).div_ceil(2));
        }
    }

    /// Changes before a scan are not kept any more, but for what they led to.
    fn drop_before(&mut self, scan: u64) {
        for (list, noted) in self.turns.iter_mut().zip(&mut self.noted) {
            let old = list.partition_point(|turn| turn.scan < scan);
            noted.first = list.drain(..old).next_back().map_or(noted.first, |turn| turn.slot);
        }
        self.from = scan;
        self.count = self.turns.iter().map(Vec::len).sum();
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
        for list in &mut self.turns {
            list.truncate(list.partition_point(|turn| turn.scan < scan));
        }
        self.count = self.turns.iter().map(Vec::len).sum();
        self.until = self.until.min(scan);
    }

    /// The changes of a point in some scans.
    pub(super) fn between(&self, number: usize, from: u64, until: u64) -> &[Turn] {
        let list = &self.turns[number];
        let first = list.partition_point(|turn| turn.scan < from);
        let last = list.partition_point(|turn| turn.scan < until);
        &list[first..last.max(first)]
    }

    /// What a point held after so many scans.
    pub(super) fn after(&self, number: usize, scans: u64) -> i64 {
        self.between(number, 0, scans).last().map_or(self.noted[number].first, |turn| turn.slot)
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
