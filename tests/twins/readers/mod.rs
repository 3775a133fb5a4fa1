//! Every reader of what comes from outside, with texts that are nearly right (`nearly.rs`): those of the repository and those that the
//! library writes, changed. Nothing panics, and each text is done with in a few seconds.
//!
//! `HONEST_TWIN_SECONDS=600 cargo test --release --test twins readers -- --nocapture` goes on for so long with each reader and says how
//! many texts it had; `HONEST_TWIN_READER` names one, `HONEST_TWIN_SEED` draws another lot.

mod list;
mod nearly;

use crate::common::asked;
use fastrand::Rng;
use list::readers;
use std::time::{Duration as Span, Instant};

#[test]
fn nothing_that_is_nearly_right_does_harm() {
    let seconds = asked::<u64>("HONEST_TWIN_SECONDS");
    let only = asked::<String>("HONEST_TWIN_READER");
    let seed = asked("HONEST_TWIN_SEED").unwrap_or(5);
    for reader in readers().filter(|reader| only.as_ref().is_none_or(|only| reader.name == only)) {
        reader.seeds.iter().for_each(|seed| (reader.meet)(seed));
        let mut rng = Rng::with_seed(seed);
        let begun = Instant::now();
        let mut count = 0u64;
        while seconds.map_or(count < 60, |seconds| begun.elapsed() < Span::from_secs(seconds)) {
            let own = &reader.seeds[rng.usize(..reader.seeds.len())];
            let other = &reader.seeds[rng.usize(..reader.seeds.len())];
            let changed = nearly::changed(&mut rng, reader.kind, own, other);
            let since = Instant::now();
            let met = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| (reader.meet)(&changed)));
            let text = String::from_utf8_lossy(&changed);
            assert!(met.is_ok(), "{} panics at number {count}:\n{text}", reader.name);
            assert!(
                since.elapsed() < Span::from_secs(20),
                "{} takes {:?} at number {count}:\n{text}",
                reader.name,
                since.elapsed()
            );
            count += 1;
        }
        println!("{:<12} {count} texts in {:.0} s", reader.name, begun.elapsed().as_secs_f64());
    }
}
