//! Ending early: by a time limit, or by the interrupt key (Ctrl-C). The first interrupt ends what is being tried with what is known
//! so far, the second one ends at once.

use crate::problems;
use honest_twin::model;
use honest_twin::twin::Halt;
use std::process;
use std::time::Duration;

/// The exit status of what a signal ended: 128 and the number of SIGINT.
const INTERRUPTED: i32 = 130;

/// From now on an interrupt rings a twin's bell instead of ending the process.
#[expect(clippy::exit, reason = "whoever asks twice waits for nothing any more")]
pub(crate) fn ring_on_interrupt(halt: &Halt) {
    let halt = halt.clone();
    let heard = move || {
        let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build();
        // Where signals cannot be heard, an interrupt ends the process as it always does.
        let Ok(runtime) = runtime else { return };
        runtime.block_on(async {
            if tokio::signal::ctrl_c().await.is_err() {
                return;
            }
            halt.ring();
            problems::warn("interrupted: it ends with what is known so far; once more ends it at once\n");
            if tokio::signal::ctrl_c().await.is_ok() {
                process::exit(INTERRUPTED);
            }
        });
    };
    std::thread::spawn(heard);
}

/// Rings a twin's bell after a time, or when another one rings that is for several of them.
pub(crate) fn ring_after_or_with(halt: &Halt, limit: model::Duration, all: &Halt) {
    ring_after(halt, limit);
    let (halt, all) = (halt.clone(), all.clone());
    std::thread::spawn(move || {
        while !halt.has_rung() {
            if all.has_rung() {
                halt.ring();
            }
            std::thread::sleep(Duration::from_millis(50));
        }
    });
}

/// Rings a twin's bell after a time.
pub(crate) fn ring_after(halt: &Halt, limit: model::Duration) {
    let halt = halt.clone();
    let limit = Duration::from_nanos(limit.nanos().max(0) as u64);
    std::thread::spawn(move || {
        std::thread::sleep(limit);
        halt.ring();
    });
}
