//! Seeded faults that no scenario has found: the solver is asked for one, as the comparison asks it, and the prover whether there is
//! none.

use super::ahead::{is_asked, share};
use super::forward::{Ahead, Start, forward};
use super::proviso::{Proviso, may_stop};
use super::solve::Budget;
use super::system::System;
use super::{Means, attempt, guard, only};
use crate::twin::{Activity, Assumption, Progress, SeededFault, Stimuli, Strength, Twin, faulty, without_rules};
use rayon::prelude::*;

/// Operations of all faulty versions together that are put before the solver and the prover.
const MOST_OPERATIONS: usize = 600_000;

/// Conflicts that one question about a seeded fault may take, of so many that other questions may; after each attempt that failed it
/// is less.
const A_FAULT: u64 = 10;

/// Work on all faults together that goes with the default effort, as [`Means::work`] counts it. Most take
/// little: each of a round may take as much as the whole round would, were what is left shared among the rounds that are left.
const WORK: u64 = 30_000_000;

/// Faults that are put before the prover side by side before it is looked how many of them have failed.
const ROUND: usize = 4;

/// Of seeded faults that no scenario has found: asks the solver for a scenario from power-up, as [`compare_solving`] asks it of the
/// versions themselves, and proves of the others that they make no difference, where that can be proved.
///
/// Of one version by itself nothing is asked: what breaks no rule may still be a fault. Of a large program only some are put before
/// the prover, and all together they take a share of the effort; what it cannot settle within that stays open.
///
/// [`compare_solving`]: super::compare_solving
pub fn settle_faults(twin: &Twin<'_>, strength: &mut Strength, means: &Means, mut progress: impl FnMut(Progress)) {
    if twin.is_single() {
        return;
    }
    let (mut failed, mut left) = (0, share(&means.effort, WORK));
    let size = twin.right.machine().operations().max(1);
    let open: Vec<&mut SeededFault> = strength.faults.iter_mut().filter(|f| !f.caught).collect();
    // Where they are too many, some of each kind.
    let (all, most) = (open.len(), (MOST_OPERATIONS / size).clamp(1, open.len().max(1)));
    let mut number = 0..;
    let is_asked = |_: &&mut SeededFault| number.next().is_some_and(|number: usize| number * most % all < most);
    let mut asked: Vec<&mut SeededFault> = open.into_iter().filter(is_asked).collect();
    let of = asked.len() as u64;
    for (done, round) in asked.chunks_mut(ROUND).enumerate() {
        progress(Progress { step: Activity::Harmless, done: (done * ROUND) as u64, of });
        if twin.halt.has_rung() || left == 0 {
            return;
        }
        let conflicts = means.conflicts / A_FAULT / (1 + failed);
        let rounds = (of as usize).div_ceil(ROUND) - done;
        let work = Some(left / rounds.max(round.len()) as u64);
        let means = Means { directed: false, conflicts, work, ..means.clone() };
        left = left.saturating_sub(round.par_iter_mut().map(|fault| settle_one(twin, fault, &means)).sum());
        failed += round.iter().filter(|fault| !fault.caught && !fault.harmless).count() as u64;
    }
}

/// Tells what becomes of a fault, within some work; gives the work that it took. The fault is harmless if it is proved to make no
/// difference whatever happens that scenarios have in them, STOP and RUN among it: what only a STOP shows makes one.
fn settle_one(twin: &Twin<'_>, fault: &mut SeededFault, means: &Means) -> u64 {
    let Some(right) = faulty(twin, fault) else { return 0 };
    let asked = without_rules(twin, &right);
    // Of what the fault has nothing to do with there is nothing to ask.
    let asked = match &fault.outputs {
        Some(outputs) => only(&asked, outputs),
        None => asked,
    };
    let Ok(system) = System::new(&asked, &[]) else { return 0 };
    let mut work = system.laying_out();
    let left = |work: u64| means.work.map(|most| most.saturating_sub(work));
    // As the comparison asks from power-up.
    if is_asked(twin) && left(work) != Some(0) {
        let halt = twin.halt.clone();
        let budget = Budget { conflicts: means.conflicts, work: means.work, halt, ..Budget::default() }.after(work);
        let (ahead, taken) = forward(&asked, &system, &Start::power_up(&system), &budget);
        work += taken;
        fault.caught = matches!(ahead, Ahead::Found(_));
        if fault.caught {
            return work;
        }
    }
    let mut is_proved = |provisos: &[Proviso]| {
        let made = attempt(&asked, &Means { work: left(work), ..means.clone() }, provisos, &mut |_| true);
        work += match &made {
            Ok(found) => found.work,
            Err(missing) => missing.work,
        };
        made.is_ok()
    };
    fault.harmless = if asked.assumed().contains(&Assumption::NeverStopped) {
        is_proved(&[])
    } else {
        // Circuit and engine are put side by side where no STOP is part of it.
        may_stop(&asked)
            && is_proved(&[Proviso::Stops])
            && guard::scenarios(&asked, &system, &Stimuli::new(&asked)).is_none()
    };
    work
}
