//! The readers of stimulus and trace.
#![no_main]

use honest_twin::{Language, Machine, Source, Stimulus, check, read_project};
use std::sync::LazyLock;

const PROGRAM: &str = "PROGRAM P VAR_INPUT a : BOOL; n : INT; t : TIME; END_VAR VAR_OUTPUT b : BOOL; END_VAR \
    b := a AND (n > 1); END_PROGRAM";

static MACHINE: LazyLock<Machine> = LazyLock::new(|| {
    let (project, _) = read_project(vec![(Source::new("p.st", PROGRAM), Language::St)]);
    Machine::new(&check(project).expect("it is right")).expect("it runs")
});

libfuzzer_sys::fuzz_target!(|data: &[u8]| {
    let text = String::from_utf8_lossy(data);
    let _ = Stimulus::read(&text, &MACHINE);
    let _ = Stimulus::from_trace(&text, &MACHINE);
});
