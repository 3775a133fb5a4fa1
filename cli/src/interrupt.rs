//! Ending early: by a time limit, or by the interrupt key (Ctrl-C). The first interrupt ends what is being tried with what is known
//! so far, the second one ends at once.

use crate::args::lasting;
use crate::problems;
use honest_twin::model;
use honest_twin::twin::Halt;
use std::process;
use std::time::{Duration, Instant};

/// The exit status of what a signal ended: 128 and the number of SIGINT.
const INTERRUPTED: i32 = 130;

/// How soon a bell is heard by those that it is rung for.
const HEARD: Duration = Duration::from_millis(50);

/// From now on an interrupt rings a bell instead of ending the process.
#[expect(clippy::exit, reason = "whoever asks twice waits for nothing any more")]
pub(crate) fn bell() -> Halt {
    let bell = Halt::default();
    let rung = bell.clone();
    let heard = move || {
        let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build();
        // Where signals cannot be heard, an interrupt ends the process as it always does.
        let Ok(runtime) = runtime else { return };
        runtime.block_on(async {
            if tokio::signal::ctrl_c().await.is_err() {
                return;
            }
            rung.ring();
            problems::warn("interrupted: it ends with what is known so far; once more ends it at once\n");
            if tokio::signal::ctrl_c().await.is_ok() {
                process::exit(INTERRUPTED);
            }
        });
    };
    std::thread::spawn(heard);
    bell
}

/// Halts a twin when the bell rings, or after a time.
pub(crate) fn halt_with(halt: &Halt, bell: &Halt, limit: Option<model::Duration>) {
    let (halt, bell) = (halt.clone(), bell.clone());
    let end = limit.map(|limit| Instant::now() + lasting(limit));
    std::thread::spawn(move || {
        while !halt.has_rung() {
            if bell.has_rung() || end.is_some_and(|end| Instant::now() >= end) {
                halt.ring();
            }
            std::thread::sleep(HEARD);
        }
    });
}
