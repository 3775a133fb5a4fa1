//! How the commands grow with the program: generated programs of 100, 1,000 and 10,000 rungs, each step by itself, and how
//! many times longer ten times the rungs take. The reference is the step itself on a tenth of the program, in the same run.
//!
//! `cargo bench --bench scale`, or with a number at the end the most rungs: `cargo bench --bench scale -- 100000`.
#![allow(clippy::print_stdout, clippy::unwrap_used, clippy::panic, reason = "a benchmark prints")]

mod common;

use common::program::program;
use honest_twin::changes::changes;
use honest_twin::check::{Checked, verify};
use honest_twin::lang::{Form, Language, read_project};
use honest_twin::model::{Duration, Instant};
use honest_twin::prove::{Means, compare_solving, prove};
use honest_twin::scan::{Controller, Machine};
use honest_twin::show::{self, Page};
use honest_twin::source::Source;
use honest_twin::translate::translate_as;
use honest_twin::twin::{Effort, Twin, Verdict, Version};
use std::time::Instant as Clock;

/// Read and checked; every problem but hints is a mistake of this file.
fn checked(text: &str, form: Form, ending: &str) -> Checked {
    let (project, problems) = read_project(vec![(Source::new(format!("hatchery.{ending}"), text), form)]);
    let (checked, all) = verify(project, problems);
    checked.unwrap_or_else(|| panic!("{:?}", all.0.first()))
}

/// One step: its name, the most rungs that it is asked of, and what it does with a program and its text.
type Step = (&'static str, usize, fn(&Checked, &str) -> usize);

const ANY: usize = usize::MAX;

const STEPS: &[Step] = &[
    ("read and check", ANY, |_, text| checked(text, Language::St.into(), "st").warnings().0.len()),
    ("to instruction list", ANY, |source, _| written(source, Language::Il, Language::Il.into())),
    ("to ladder", ANY, |source, _| written(source, Language::Ld, Language::Ld.into())),
    ("to function blocks", ANY, |source, _| written(source, Language::Fbd, Language::Fbd.into())),
    ("to the exchange format", ANY, |source, _| written(source, Language::St, Form::Exchange)),
    ("ladder read back", ANY, |source, _| {
        let text = translate_as(source, Language::Ld, Language::Ld.into()).unwrap().files[0].text.clone();
        checked(&text, Language::Ld.into(), "ld").project().sources[0].text.len()
    }),
    ("draw", ANY, |source, _| show::draw(source, Page::default(), None).len()),
    ("ten changes", ANY, |source, text| {
        let (lines, mut seen) = (text.lines().count(), 0);
        let changed: Vec<String> = text
            .lines()
            .enumerate()
            .map(|(at, line)| match line.contains(" AND NOT ") && at * 10 / lines >= seen {
                true => {
                    seen += 1;
                    line.replace(" AND NOT ", " OR NOT ")
                }
                false => line.to_string(),
            })
            .collect();
        let right = checked(&changed.join("\n"), Language::St.into(), "st");
        let found = changes(["left", "right"], source, &right);
        assert!((8..=10).contains(&found.changes.len()), "{:?}", found.changes.len());
        show::changes_text(&found).len()
    }),
    ("compile", ANY, |source, _| Machine::new(source).unwrap().operations()),
    ("a machine-second", ANY, |source, _| {
        let mut controller = Controller::new(&Machine::new(source).unwrap());
        (0..100).for_each(|n| controller.scan(Instant(Duration::from_millis(10 * n))));
        controller.machine().operations()
    }),
    ("compare", 10_000, |source, text| {
        let [left, right] = [version(source.clone()), version(otherwise(text))];
        match compare_solving(&Twin::new(&left, &right), &Effort { faults: 64, ..Effort::default() }, |_| {}) {
            Verdict::Tested(tested) => tested.scenarios as usize,
            other => panic!("{}", show::verdict(&other)),
        }
    }),
    ("prove", 10_000, |source, text| {
        let [left, right] = [version(source.clone()), version(otherwise(text))];
        match prove(&Twin::new(&left, &right), &Means::default(), |_| true) {
            Verdict::Proved(proved) => proved.questions as usize,
            other => panic!("{}", show::verdict(&other)),
        }
    }),
];

fn version(checked: Checked) -> Version {
    Version::new("hatchery", checked).unwrap()
}

/// The same program in other words.
fn otherwise(text: &str) -> Checked {
    let line = |line: &str| match line.strip_suffix(';').and_then(|line| line.split_once(" := (")) {
        Some((name, rest)) if rest.contains(") AND NOT ") => {
            let (holds, breaks) = rest.split_once(") AND NOT ").unwrap();
            format!("{name} := NOT ({breaks} OR NOT ({holds}));\n")
        }
        _ => format!("{line}\n"),
    };
    checked(&text.lines().map(line).collect::<String>(), Language::St.into(), "st")
}

fn written(source: &Checked, language: Language, form: Form) -> usize {
    translate_as(source, language, form).unwrap().files.iter().map(|file| file.text.len()).sum()
}

/// The most memory that was held so far, in MB; 0 where the system does not tell.
fn peak() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:")).unwrap_or_default();
    line.split_whitespace().next().and_then(|kb| kb.parse::<u64>().ok()).unwrap_or(0) / 1024
}

/// What a step takes at each size, in seconds: the sizes in turn, several times, and of each the quickest, as whatever else the machine
/// does only makes one slower.
fn quickest(step: fn(&Checked, &str) -> usize, sources: &[Checked], programs: &[String]) -> Vec<f64> {
    let mut all = vec![f64::INFINITY; sources.len()];
    let begun = Clock::now();
    for round in 0..30 {
        if round > 0 && begun.elapsed().as_secs_f64() > 5.0 {
            break;
        }
        for ((source, text), best) in sources.iter().zip(programs).zip(&mut all) {
            // Short steps are repeated.
            let turn = Clock::now();
            loop {
                let one = Clock::now();
                std::hint::black_box(step(source, text));
                *best = best.min(one.elapsed().as_secs_f64());
                if turn.elapsed().as_secs_f64() > 0.03 {
                    break;
                }
            }
        }
    }
    all
}

fn main() {
    let most = std::env::args().filter_map(|a| a.parse::<usize>().ok()).next_back().unwrap_or(10_000);
    let sizes: Vec<usize> = [100, 1_000, 10_000, 100_000].into_iter().filter(|n| *n <= most).collect();
    let programs: Vec<String> = sizes.iter().map(|n| program(*n)).collect();
    let sources: Vec<Checked> = programs.iter().map(|text| checked(text, Language::St.into(), "st")).collect();
    print!("{:<24}", "seconds");
    sizes.iter().for_each(|n| print!("{n:>10}{:>8}", ""));
    println!();
    for (name, most, step) in STEPS {
        print!("{name:<24}");
        let within = sizes.iter().filter(|size| *size <= most).count();
        let all = quickest(*step, &sources[..within], &programs[..within]);
        for (number, took) in all.iter().enumerate() {
            let before = number.checked_sub(1).map(|before| all[before]);
            let growth = before.map_or(String::new(), |before| format!("x{:.1}", took / before));
            print!("{took:>10.4}{growth:>8}");
        }
        println!();
    }
    println!("most memory: {} MB", peak());
}
