//! Leaps over long waits beside every scan run: what both controllers hold in the end is the same.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

use super::run::{Run, Waits};
use crate::check::check;
use crate::lang::{Language, read_project};
use crate::scan::Controller;
use crate::source::Source;
use crate::twin::scenario::{Act, Change, Scenario};
use crate::twin::{Twin, Version};

fn version(body: &str) -> Version {
    let text = format!(
        "PROGRAM P VAR_INPUT Run, Key : BOOL; END_VAR VAR_OUTPUT Due : BOOL; Doses : INT; END_VAR
         VAR T, U : TON; P : TP; N, M : INT; Spent : TIME; Was : BOOL; END_VAR
         {body} END_PROGRAM"
    );
    let (project, _) = read_project(vec![(Source::new("p", text), Language::St)]);
    Version::new("p", check(project).unwrap()).unwrap()
}

/// What goes on while a key is held, for hours. Not here: what counts scans, of which one long scan counts one; there a leap is a
/// wrong guess.
const BODIES: [(&str, &str); 8] = [
    ("nothing", "Due := Run;"),
    ("one long timer", "T(IN := Run, PT := T#40m); Due := T.Q;"),
    (
        "minutes, counted",
        "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q AND N < 1000 THEN N := N + 1; END_IF; Doses := N; Due := N >= 60;",
    ),
    (
        "minutes, counted down and begun anew",
        "T(IN := Run AND NOT T.Q, PT := T#30s); IF T.Q THEN N := N - 1; IF N < 0 THEN N := 17; M := M + 1; END_IF; END_IF; Doses := M;",
    ),
    (
        "two timers that take turns",
        "T(IN := Run AND NOT U.Q, PT := T#40s); U(IN := T.Q, PT := T#25s); IF T.Q AND NOT Was THEN N := N + 3; END_IF; Was := T.Q; Doses := N;",
    ),
    (
        "two timers that know nothing of each other",
        "T(IN := Run AND NOT T.Q, PT := T#31s); U(IN := Run AND NOT U.Q, PT := T#47s);
         IF T.Q THEN N := N + 1; END_IF; IF U.Q THEN M := M + 1; END_IF; Due := N > 90 AND M > 60;",
    ),
    (
        "time that adds up",
        "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q THEN Spent := Spent + T#60s; END_IF; Due := Spent > T#90m;",
    ),
    (
        "a number that grows and one that is halved",
        "T(IN := Run AND NOT T.Q, PT := T#60s); IF T.Q THEN N := N + 1; M := N / 2; END_IF; Doses := M; Due := M >= 50;",
    ),
];

fn ends(twin: &Twin<'_>, scenario: &Scenario, waits: Waits) -> ([Vec<i64>; 2], u64) {
    let mut run = Run::new(twin, waits);
    assert!(run.play(scenario, |_, _, _| {}).is_none());
    (run.controllers.each_ref().map(Controller::numbers), run.run)
}

#[test]
fn a_leap_comes_to_where_every_scan_comes_to() {
    for (name, body) in BODIES {
        let version = version(body);
        let twin = Twin::new(&version, &version);
        for scans in [4_000, 100_000, 456_789] {
            let set = |input, value| Act::Set(Change { input, value });
            let scenario = Scenario { acts: vec![Act::Wait(3), set(0, 1), Act::Wait(scans), set(1, 1), Act::Wait(7)] };
            let (whole, all) = ends(&twin, &scenario, Waits::Whole);
            let (leapt, run) = ends(&twin, &scenario, Waits::Leaping);
            assert_eq!(leapt, whole, "{name}, {scans} scans");
            println!("{name}: {run} of {all} scans run");
            assert!(scans < 100_000 || run * 3 < all, "{name}: {run} of {all}");
        }
    }
}
