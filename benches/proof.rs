//! How long a proof takes over 10, 100 and 1000 blocks (a latch, timers of two kinds, a counter), one side written by
//! hand in another way, every scan of another length.
//!
//! `cargo bench --bench proof`. How it grows is what counts: ten times the blocks should take ten times as long.
#![allow(clippy::unwrap_used, clippy::print_stdout, reason = "a benchmark prints its figures")]

use honest_twin::check::check;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove};
use honest_twin::scan::ScanTime;
use honest_twin::source::Source;
use honest_twin::twin::{Effort, Timing, Twin, Verdict, Version};
use std::fmt::Write;
use std::time;

/// Blocks in turn, each with two inputs of its own; on one side or on the other.
fn program(blocks: usize, other: bool) -> String {
    let (mut inputs, mut outputs, mut vars, mut body) = (String::new(), String::new(), String::new(), String::new());
    for i in 0..blocks {
        let _ = writeln!(inputs, "a{i}, b{i} : BOOL;");
        let _ = writeln!(outputs, "q{i} : BOOL;");
        let _ = match (i % 4, other) {
            (0, false) => writeln!(body, "q{i} := (a{i} OR q{i}) AND NOT b{i};"),
            (0, true) => writeln!(body, "IF b{i} THEN q{i} := FALSE; ELSIF a{i} THEN q{i} := TRUE; END_IF;"),
            (1 | 2, _) => {
                let _ = writeln!(vars, "t{i} : {};", if i % 4 == 1 { "TON" } else { "TOF" });
                let time = 200 + 10 * (i % 50);
                let is = if other { format!("NOT (b{i} OR NOT a{i})") } else { format!("a{i} AND NOT b{i}") };
                let done = if other { format!("NOT (NOT t{i}.Q)") } else { format!("t{i}.Q") };
                writeln!(body, "t{i}(IN := {is}, PT := T#{time}ms); q{i} := {done};")
            }
            (_, false) => {
                let _ = writeln!(vars, "c{i} : CTU;");
                writeln!(body, "c{i}(CU := a{i}, R := b{i}, PV := {}); q{i} := c{i}.Q;", 3 + i % 40)
            }
            (_, true) => {
                let _ = writeln!(vars, "n{i} : INT; m{i} : BOOL;");
                writeln!(
                    body,
                    "IF b{i} THEN n{i} := 0; ELSIF a{i} AND NOT m{i} AND n{i} < 32767 THEN n{i} := n{i} + 1; END_IF;\n\
                     m{i} := a{i}; q{i} := n{i} >= {};",
                    3 + i % 40
                )
            }
        };
    }
    format!("PROGRAM P VAR_INPUT\n{inputs}END_VAR VAR_OUTPUT\n{outputs}END_VAR VAR\n{vars}END_VAR\n{body}END_PROGRAM\n")
}

fn version(blocks: usize, other: bool) -> Version {
    let (project, _) = read_project(vec![(Source::new("bench.st", program(blocks, other)), Language::St)]);
    Version::new(if other { "other" } else { "one" }, check(project).unwrap()).unwrap()
}

/// The most memory this process has had, in MiB, where the system tells.
fn memory() -> String {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let peak = status.lines().find_map(|l| l.strip_prefix("VmHWM:"));
    peak.and_then(|p| p.trim().split(' ').next()?.parse::<u64>().ok()).map_or("?".into(), |k| (k / 1024).to_string())
}

fn main() {
    println!("{:>6} {:>8} {:>8} {:>10} {:>12}", "blocks", "s", "ratio", "questions", "peak MiB");
    let mut before = None;
    for blocks in [10usize, 100, 1000] {
        let (left, right) = (version(blocks, false), version(blocks, true));
        let mut twin = Twin::new(&left, &right);
        let (low, high) = (Duration::from_millis(1), Duration::from_millis(50));
        twin.timing = Timing::Lockstep(ScanTime::Range { low, high, step: Duration::from_nanos(1), seed: 1 });
        let means = Means { effort: Effort { scenarios: 0, ..Effort::default() }, ..Means::default() };
        let start = time::Instant::now();
        let verdict = prove(&twin, &means, |_| true);
        let took = start.elapsed().as_secs_f64();
        let Verdict::Proved(proved) = verdict else {
            println!("{blocks:>6} not proved after {took:.1} s: {}", honest_twin::show::verdict(&verdict));
            continue;
        };
        let ratio = before.map_or("-".to_string(), |b: f64| format!("{:.1}", took / b));
        println!("{blocks:>6} {took:>8.2} {ratio:>8} {:>10} {:>12}", proved.questions, memory());
        before = Some(took);
    }
}
