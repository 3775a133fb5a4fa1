//! Proofs: what is the same is proved, what is different never is, not even by a prover that has searched for nothing.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

mod common;

use common::pages::found::pairs;
use honest_twin::prove::{Means, prove};
use honest_twin::show;
use honest_twin::twin::{Effort, Twin, Verdict};

/// Nothing but the prover: no scenario is tried.
fn alone() -> Means {
    Means { effort: Effort { scenarios: 0, ..Effort::default() }, ..Means::default() }
}

#[test]
fn what_differs_is_never_proved() {
    let (mut proved, mut same) = (0, 0);
    for level in ["easy", "fair", "nasty"] {
        for pair in pairs(level) {
            let [left, right] = pair.versions();
            let verdict = prove(&Twin::new(&left, &right), &alone(), |_| true);
            let text = show::verdict(&verdict);
            if pair.is_same() {
                same += 1;
                proved += u32::from(matches!(verdict, Verdict::Proved(_)));
                if !matches!(verdict, Verdict::Proved(_)) {
                    println!("{}: {text}", pair.title);
                }
            } else {
                assert!(!matches!(verdict, Verdict::Proved(_)), "{}: {text}", pair.title);
            }
        }
    }
    println!("{proved} of {same} pairs that are the same are proved");
}
