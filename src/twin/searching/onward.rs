//! From a moment on: the shortest way on in which two versions part.

use crate::scan::Controller;
use crate::twin::generate::{Generator, Input, Manner};
use crate::twin::run::{Run, Waits};
use crate::twin::scenario::{Act, Change};
use crate::twin::shrink::shrink;
use crate::twin::timing::Pace;
use crate::twin::{Halt, Scenario, Twin};
use fastrand::Rng;

/// Where both versions stand.
pub(crate) struct Now<'c> {
    pub(crate) controllers: &'c [Controller; 2],
    pub(crate) pace: &'c Pace,
    /// What each input is given now, by its pair.
    pub(crate) inputs: Vec<i64>,
}

/// What came of looking.
#[derive(Clone, Debug)]
pub(crate) struct Onward {
    /// What happens from there on, down to the scan in which they part; none if nothing was found.
    pub(crate) scenario: Option<Scenario>,
    /// How many ways on were tried.
    pub(crate) tried: u64,
    /// Scans of them together.
    pub(crate) scans: u64,
}

/// A way on lasts this long at most, where no wait is longer.
const LONGEST: u64 = 200_000;

/// Looks for a way on in which the versions part, `most` scans in all: nothing at all, one input that changes, then what the
/// programs make worth trying. What is found is made as short as it can be.
pub(crate) fn onward(twin: &Twin<'_>, now: &Now<'_>, halt: &Halt, most: u64) -> Onward {
    let fork = || [now.controllers[0].fork(), now.controllers[1].fork()];
    let shows = |scenario: &Scenario, waits: Waits| {
        let mut run = Run::onward(twin, fork(), now.pace.clone(), waits);
        run.play(scenario, |_, _, _| {}).map(|found| found.scan)
    };
    let generator = Generator::new(twin, LONGEST);
    let (mut tried, mut scans) = (0, 0);
    let drawn = (0..).map(|number: u64| {
        let chance = Rng::with_seed(0x9E37_79B9_7F4A_7C15_u64.wrapping_add(number));
        generator.draw(chance, if number % 4 == 3 { Manner::Restless } else { Manner::Deliberate })
    });
    for scenario in single(&generator, &now.inputs).into_iter().chain(drawn) {
        if scans >= most || halt.has_rung() {
            break;
        }
        if !twin.allows(&scenario) {
            tried += 1;
            scans += 1;
            continue;
        }
        let mut run = Run::onward(twin, fork(), now.pace.clone(), Waits::Leaping);
        let found = run.play(&scenario, |_, _, _| {});
        tried += 1;
        scans += run.run.max(1);
        if found.is_some() && shows(&scenario, Waits::Whole).is_some() {
            return Onward { scenario: Some(shrink(twin, scenario, &shows)), tried, scans };
        }
    }
    Onward { scenario: None, tried, scans }
}

/// Waiting for as long as a preset takes; and that after one input has changed.
fn single(generator: &Generator, now: &[i64]) -> Vec<Scenario> {
    let mut waits: Vec<u64> = std::iter::once(2).chain(generator.holds.iter().copied()).collect();
    waits.sort_unstable();
    waits.dedup();
    let longest = waits.last().copied().unwrap_or(2);
    let mut out = vec![Scenario { acts: vec![Act::Wait(longest)] }];
    for (input, kind) in generator.inputs.iter().enumerate() {
        let others: Vec<i64> = match kind {
            Input::Bool => vec![i64::from(now.get(input) != Some(&1))],
            Input::Number { good, .. } | Input::Real { good, .. } => good.iter().copied().take(8).collect(),
        };
        for value in others {
            let set = Act::Set(Change { input, value });
            out.push(Scenario { acts: vec![set, Act::Wait(longest)] });
        }
    }
    out
}
