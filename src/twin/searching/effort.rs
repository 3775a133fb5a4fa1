//! How much is tried: a budget of work, which is the same on every machine, and how far it is used up.

use crate::twin::Twin;
use serde::{Deserialize, Serialize};

/// Where scenarios come from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Guidance {
    /// From the programs' own constants, and from scenarios that covered something new.
    #[default]
    Guided,
    /// Every input anything in every scan; to measure what guidance is worth.
    Random,
}

/// How much to try. What is used up first ends a search: the scenarios, the scans or the work.
#[derive(Clone, Debug)]
pub struct Effort {
    /// How many scenarios.
    pub scenarios: u64,
    /// No new round of scenarios begins once this many scans have been run on each side.
    pub scans: u64,
    /// No new round begins once the scans have taken so many operations of both tapes. The circuit has half as many besides, and
    /// so have the seeded faults.
    pub work: u64,
    /// What the drawing starts from; the same seed tries the same, on any number of cores.
    pub seed: u64,
    /// Where scenarios come from.
    pub guidance: Guidance,
    /// How many faults to seed into the right version, to see whether the same scenarios would have caught them.
    pub faults: usize,
    /// Which part of the scenarios this is, from 0, and of how many parts.
    pub shard: (u64, u64),
}

/// Operations that the default effort pays for: some ten seconds on two cores.
const WORK: u64 = 1_000_000_000;

/// Scenarios of a round at most; kept ones are bred from in the next.
const ROUND: u64 = 64;

/// Operations that a round takes, more or less, and scans of one of its scenarios: where scans take long it has fewer of them.
const ROUND_WORK: u64 = WORK / 4;
const ROUND_SCANS: u64 = 400;
const LEAST: u64 = 6;

/// What a scan costs besides the operations of its tapes.
const A_SCAN: u64 = 100;

/// What a seeded fault costs before it is tried: the version is compiled anew.
pub(in crate::twin) const A_VERSION: u64 = 200;

/// Operations of the tape that laying out a circuit takes, for each operation that is laid out.
const A_CIRCUIT: u64 = 1_000;

impl Default for Effort {
    /// The whole of [`Effort::sized`], and no seeded faults.
    fn default() -> Self {
        Effort::sized(100)
    }
}

impl Effort {
    /// So many hundredths of the default effort, which is 4,000 scenarios, ten million scans, or a thousand million operations.
    #[must_use]
    pub fn sized(percent: u64) -> Effort {
        let part = |whole: u64| (whole / 100).saturating_mul(percent).max(1);
        Effort {
            scenarios: part(4_000),
            scans: part(10_000_000),
            work: part(WORK),
            seed: 1,
            guidance: Guidance::Guided,
            faults: 0,
            shard: (0, 1),
        }
    }

    /// An effort by its name: `quick` is a tenth of the default, `deep` thirty times as much, and a number so many times as
    /// much, from 0.01 to 10,000. `None` if it is none of these.
    #[must_use]
    pub fn named(name: &str) -> Option<Effort> {
        let percent = match name {
            "quick" => 10,
            "default" => 100,
            "deep" => 3_000,
            number => {
                let times: f64 = number.parse().ok()?;
                (0.01..=10_000.0).contains(&times).then(|| (times * 100.0).round() as u64)?
            }
        };
        Some(Effort::sized(percent))
    }

    /// What a scan of both versions costs.
    pub(in crate::twin) fn scan_cost(twin: &Twin<'_>) -> u64 {
        let [left, right] = twin.machines().map(|machine| machine.operations() as u64);
        A_SCAN + left + if twin.is_single() { 0 } else { right }
    }

    /// What laying out the circuit of both versions costs.
    pub(in crate::twin) fn circuit_cost(twin: &Twin<'_>) -> u64 {
        A_CIRCUIT * twin.machines().map(|machine| machine.operations() as u64).iter().sum::<u64>()
    }

    /// Scenarios of a round, of which there are several in the default effort: six at least, so that no core waits long. It hangs on the versions alone, so
    /// that a search that goes on with more effort goes on in the same rounds.
    pub(in crate::twin) fn round(twin: &Twin<'_>) -> u64 {
        (ROUND_WORK / (ROUND_SCANS * Effort::scan_cost(twin))).clamp(LEAST, ROUND)
    }

    /// Scans that a single scenario may last. Its long waits are leapt over; only if it seems to show a difference is all of it
    /// run, once.
    pub(in crate::twin) fn reach(&self, twin: &Twin<'_>) -> u64 {
        self.scans.min(self.affordable(twin).saturating_mul(4))
    }

    /// Scans of both versions that it pays for.
    pub(in crate::twin) fn affordable(&self, twin: &Twin<'_>) -> u64 {
        self.scans.min((self.work / Effort::scan_cost(twin)).max(1))
    }
}

/// What ended a search in which no difference was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
#[non_exhaustive]
pub enum Ended {
    /// All scenarios were tried.
    Scenarios,
    /// The scans that were asked for were run.
    Scans,
    /// The work was used up.
    Work,
    /// It was ended from outside, as by a time limit.
    Halted,
}

/// How far a comparison is.
#[derive(Clone, Copy, Debug)]
pub struct Progress {
    /// What is being done.
    pub step: Activity,
    /// So much is done: scenarios, or what uses them up; seeded faults that are settled.
    pub done: u64,
    /// To do.
    pub of: u64,
}

/// What a comparison is doing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Activity {
    /// Trying scenarios.
    Scenarios,
    /// Asking the solver.
    Solving,
    /// Seeding faults.
    Faults,
    /// Proving of faults that were not found that they make no difference.
    Harmless,
}
