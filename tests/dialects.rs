//! Dialects: what is read in one, and what is written in one.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

use honest_twin::dialect::{LIBRARIES, read_library};
use honest_twin::source::Source;

#[test]
fn shipped_sheets_are_sound() {
    for shipped in LIBRARIES {
        let sheet = Source::new(shipped.name, shipped.sheet);
        let blocks = Source::new(shipped.name, shipped.blocks);
        if let Err(problems) = read_library(&sheet, &blocks) {
            panic!("{}: {:#?}", shipped.name, problems.0);
        }
    }
}
