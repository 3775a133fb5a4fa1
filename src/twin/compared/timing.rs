//! How two versions share time: the same scan times, or each its own.

use crate::model::Duration;
use crate::scan::ScanTime;
use serde::Serialize;

/// Scan times of both sides.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Timing {
    /// Both scan at the same moments.
    Lockstep(ScanTime),
    /// Each at its own scan time, compared on the axis of time.
    Free([ScanTime; 2]),
}

impl Default for Timing {
    /// 10 ms a scan, in lockstep.
    fn default() -> Self {
        Timing::Lockstep(ScanTime::Fixed(Duration::from_millis(10)))
    }
}

impl Timing {
    /// The moments at which a scenario's acts can happen: scans in lockstep, else the shorter of the two scan times.
    pub(in crate::twin) fn pace(&self) -> Pace {
        match self {
            Timing::Lockstep(time) => Pace::of(time),
            Timing::Free(times) => {
                let shortest = times.iter().map(|t| shortest(t).nanos()).min().unwrap_or(1);
                Pace::of(&ScanTime::Fixed(Duration::from_nanos(shortest)))
            }
        }
    }

    /// The longest time between two such moments.
    pub(in crate::twin) fn longest(&self) -> Duration {
        match self {
            Timing::Lockstep(time) => time.longest(),
            Timing::Free(_) => Duration::from_nanos(self.pace().step()),
        }
    }

    /// The scan time of a side.
    pub(in crate::twin) fn of(&self, side: usize) -> &ScanTime {
        match self {
            Timing::Lockstep(time) => time,
            Timing::Free(times) => &times[side],
        }
    }
}

fn shortest(time: &ScanTime) -> Duration {
    match time {
        ScanTime::Fixed(time) => *time,
        ScanTime::Range { low, high, .. } => *low.min(high),
        ScanTime::Given(times) => times.iter().copied().filter(|t| *t > Duration::ZERO).min().unwrap_or_default(),
    }
}

/// A clock that can leap.
#[derive(Clone, Debug)]
pub(crate) struct Pace {
    time: ScanTime,
    random: fastrand::Rng,
    now: i64,
    count: usize,
}

impl Pace {
    pub(crate) fn of(time: &ScanTime) -> Pace {
        let seed = if let ScanTime::Range { seed, .. } = time { *seed } else { 0 };
        Pace { time: time.clone(), random: fastrand::Rng::with_seed(seed), now: 0, count: 0 }
    }

    /// Nanoseconds since the scenario began.
    pub(crate) fn now(&self) -> i64 {
        self.now
    }

    /// To the next scan; as [`crate::scan::Clock`] counts.
    pub(crate) fn tick(&mut self) {
        let scan = self.time.length(self.count, &mut self.random).nanos();
        self.count += 1;
        self.now = self.now.saturating_add(scan);
    }

    /// So many scans on, to the very moment at which that one begins.
    pub(crate) fn skip(&mut self, scans: u64) {
        if let ScanTime::Fixed(time) = &self.time {
            self.now = self.now.saturating_add(time.nanos().saturating_mul(scans as i64));
            self.count += scans as usize;
        } else {
            (0..scans).for_each(|_| self.tick());
        }
    }

    /// So many scans on, roughly: how long they take on average.
    pub(in crate::twin) fn leap(&mut self, scans: u64) {
        if let ScanTime::Range { low, high, .. } = &self.time {
            let mean = (low.nanos() + high.nanos()) / 2;
            self.now = self.now.saturating_add(mean.saturating_mul(scans as i64));
        } else {
            self.skip(scans)
        }
    }

    /// Scans to a moment, as far as that can be told beforehand; at least one.
    pub(in crate::twin) fn scans_until(&self, moment: i64) -> u64 {
        if let ScanTime::Fixed(time) = &self.time
            && time.nanos() > 0
        {
            let left = (moment - self.now).max(0);
            (left / time.nanos() + i64::from(left % time.nanos() != 0)).max(1) as u64
        } else {
            1
        }
    }

    /// A typical step.
    pub(in crate::twin) fn step(&self) -> i64 {
        match &self.time {
            ScanTime::Fixed(time) => time.nanos(),
            ScanTime::Range { low, high, .. } => (low.nanos() + high.nanos()) / 2,
            ScanTime::Given(times) => times.last().map_or(0, |t| t.nanos()),
        }
    }
}

/// A scan time in words.
pub(in crate::twin) fn words(time: &ScanTime) -> String {
    use crate::model::format_duration;
    match time {
        ScanTime::Fixed(time) => format!("{} a scan", format_duration(*time)),
        ScanTime::Range { low, high, .. } => {
            format!("{} to {} a scan, drawn once", format_duration(*low), format_duration(*high))
        }
        ScanTime::Given(_) => "scan times as recorded".to_string(),
    }
}

impl Timing {
    /// Both scan times in words.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Timing::Lockstep(time) => words(time),
            Timing::Free([left, right]) => format!("left {}, right {}", words(left), words(right)),
        }
    }
}
