//! Outputs that need not agree in every scan: the same sequence of values, each change near its counterpart.

use crate::model::{Duration, Family};
use crate::scan::Controller;
use crate::twin::{Tolerance, Twin};
use serde::{Deserialize, Serialize};
use std::collections::VecDeque;

/// How far apart the changes of an output got.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Spread {
    /// Changes that were matched.
    pub changes: u64,
    /// The furthest apart.
    pub worst: Duration,
    /// How many were apart by how much: less than one moment of the scenario, less than two, and so on; the last
    /// counts all beyond.
    pub histogram: Vec<u64>,
}

/// Bars of a histogram.
const BARS: usize = 16;

impl Spread {
    fn add(&mut self, apart: i64, step: i64) {
        self.histogram.resize(BARS, 0);
        self.changes += 1;
        self.worst = self.worst.max(Duration::from_nanos(apart));
        self.histogram[((apart / step.max(1)) as usize).min(BARS - 1)] += 1;
    }

    /// Adds what another has.
    pub fn join(&mut self, other: &Spread) {
        self.histogram.resize(BARS, 0);
        self.changes += other.changes;
        self.worst = self.worst.max(other.worst);
        self.histogram.iter_mut().zip(&other.histogram).for_each(|(a, b)| *a += b);
    }
}

/// One output: what it was last, and changes that have no counterpart yet.
struct Track {
    tolerance: i64,
    last: [Option<i64>; 2],
    open: [VecDeque<(i64, i64)>; 2],
    /// A value that has no counterpart, whatever comes.
    wrong: bool,
}

/// All outputs.
pub(in crate::twin) struct Matcher {
    tracks: Vec<Track>,
    step: i64,
    pub(in crate::twin) spreads: Vec<Spread>,
}

impl Matcher {
    pub(in crate::twin) fn new(twin: &Twin<'_>, controllers: &[Controller; 2]) -> Matcher {
        let track = |pair: &crate::twin::Pair| {
            let tolerance = if let Tolerance::Within(d) = pair.tolerance { d.nanos() } else { 0 };
            let start = [0, 1].map(|side: usize| Some(seen(twin, &controllers[side], side, pair)));
            // Where outputs are not the same before anything has run, the first value is a change from nothing.
            let last = if start[0] == start[1] { start } else { [None, None] };
            Track { tolerance, last, open: [VecDeque::new(), VecDeque::new()], wrong: false }
        };
        let tracks: Vec<Track> = twin.pairing.outputs.iter().map(track).collect();
        Matcher { spreads: vec![Spread::default(); tracks.len()], tracks, step: twin.timing.pace().step() }
    }

    /// The longest that a counterpart may be late, in nanoseconds.
    pub(in crate::twin) fn longest(&self) -> i64 {
        self.tracks.iter().map(|t| t.tolerance).max().unwrap_or(0)
    }

    /// After a scan of one side, which ended at `at`.
    pub(in crate::twin) fn observe(&mut self, twin: &Twin<'_>, controller: &Controller, side: usize, at: i64) {
        if !controller.has_run() {
            return;
        }
        for ((track, spread), pair) in self.tracks.iter_mut().zip(&mut self.spreads).zip(&twin.pairing.outputs) {
            let value = seen(twin, controller, side, pair);
            if track.last[side] != Some(value) {
                track.last[side] = Some(value);
                track.open[side].push_back((at, value));
            }
            while let ([Some(&(a, x)), Some(&(b, y))], false) =
                ([track.open[0].front(), track.open[1].front()], track.wrong)
            {
                let apart = a.abs_diff(b) as i64;
                if x != y || apart > track.tolerance {
                    track.wrong = true;
                    break;
                }
                spread.add(apart, self.step);
                track.open[0].pop_front();
                track.open[1].pop_front();
            }
        }
    }

    /// The first output that has parted, now that both sides have been seen up to `now`.
    pub(in crate::twin) fn judge(&self, now: i64) -> Option<usize> {
        self.tracks.iter().position(|track| {
            let late = track.open.iter().any(|o| o.front().is_some_and(|(at, _)| at + track.tolerance < now));
            track.wrong || late
        })
    }

    /// Of an output the oldest change of each side that has no counterpart: the side, when its scan ended, and the value
    /// as the right side has it.
    pub(in crate::twin) fn unmet(&self, output: usize) -> impl Iterator<Item = (usize, i64, i64)> {
        let open = self.tracks.get(output).into_iter().flat_map(|track| track.open.iter().enumerate());
        open.filter_map(|(side, open)| open.front().map(|(at, value)| (side, *at, *value)))
    }
}

/// An output's value, as the right side has it; of REALs the bits, with one zero and one NaN.
fn seen(twin: &Twin<'_>, controller: &Controller, side: usize, pair: &crate::twin::Pair) -> i64 {
    let point = if side == 0 { pair.left } else { pair.right };
    let slot = controller.get_slot(point);
    match controller.machine().point(point).ty.family() {
        Family::Real => {
            let value = f64::from_bits(slot as u64);
            if value == 0.0 {
                0
            } else if value.is_nan() {
                i64::MIN
            } else {
                slot
            }
        }
        Family::Text => {
            // Strings have numbers of their own on each side; here both sides have those of the twin.
            twin.shown.number(&controller.get(point).to_string())
        }
        Family::Bool | Family::Bits | Family::Int | Family::Time => match side {
            0 => pair.right_of(twin.machines(), slot).unwrap_or(i64::MIN),
            _ => slot,
        },
    }
}

/// A tolerance in words.
pub(in crate::twin) fn words(tolerance: Tolerance) -> String {
    match tolerance {
        Tolerance::Exact => "exact".to_string(),
        Tolerance::Within(d) => format!("within {}", crate::model::format_duration(d)),
    }
}

/// The tolerance that free running asks for where none is said: two scans of the slower side, one for the input that
/// is seen late and one for the output.
pub(in crate::twin) fn usual(times: &[crate::scan::ScanTime; 2]) -> Tolerance {
    let slowest = times.iter().map(|t| t.longest().nanos()).max().unwrap_or(0);
    Tolerance::Within(Duration::from_nanos(2 * slowest))
}
