//! When scans begin.

use crate::model::{Duration, Instant};

/// How long a scan takes.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub enum ScanTime {
    /// Always the same.
    Fixed(Duration),
    /// Drawn anew for each scan, both ends included; the same seed draws the same times.
    Range {
        /// Shortest.
        low: Duration,
        /// Longest.
        high: Duration,
        /// Each is the shortest and so many of these more; 1 ns for any.
        step: Duration,
        /// What the drawing starts from.
        seed: u64,
    },
    /// Given one by one; the last one repeats.
    Given(Vec<Duration>),
}

/// The moments at which scans begin: 0, then one scan time later each.
#[derive(Debug)]
pub struct Clock<'a> {
    time: &'a ScanTime,
    random: fastrand::Rng,
    next: Instant,
    count: usize,
}

impl ScanTime {
    /// Starts at zero.
    #[must_use]
    pub fn clock(&self) -> Clock<'_> {
        let seed = if let ScanTime::Range { seed, .. } = self { *seed } else { 0 };
        Clock { time: self, random: fastrand::Rng::with_seed(seed), next: Instant::default(), count: 0 }
    }

    /// How long scan number `count` takes; a range is drawn from.
    pub(crate) fn length(&self, count: usize, random: &mut fastrand::Rng) -> Duration {
        match self {
            ScanTime::Fixed(time) => *time,
            ScanTime::Range { low, high, step, .. } => {
                let (low, high) = (low.nanos().min(high.nanos()), low.nanos().max(high.nanos()));
                let step = step.nanos().max(1);
                Duration::from_nanos(low + random.i64(0..=(high - low) / step) * step)
            }
            ScanTime::Given(times) => times.get(count).or(times.last()).copied().unwrap_or(Duration::ZERO),
        }
    }

    /// The longest one scan may take.
    #[must_use]
    pub fn longest(&self) -> Duration {
        match self {
            ScanTime::Fixed(time) => *time,
            ScanTime::Range { high, .. } => *high,
            ScanTime::Given(times) => times.iter().copied().max().unwrap_or(Duration::ZERO),
        }
    }
}

impl Iterator for Clock<'_> {
    type Item = Instant;

    fn next(&mut self) -> Option<Instant> {
        let now = self.next;
        let scan = self.time.length(self.count, &mut self.random);
        self.count += 1;
        self.next = now.after(scan);
        Some(now)
    }
}
