//! Table.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]
mod common;
use common::dialects::{families, programs, read_in};
use honest_twin::dialect::library;
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove};
use honest_twin::scan::ScanTime;
use honest_twin::translate::{Grade, Mode, migrate};
use honest_twin::twin::{Effort, Timing, Twin, Verdict, Version};

#[test]
fn table() {
    let only = std::env::var("ONLY").unwrap_or_default();
    let mut number = 0;
    for from in families() {
        for (program, text, language) in programs(from) {
            let source = read_in(from, &program, &text, language);
            let left = Version::new("source", source.clone()).unwrap();
            for to in families().filter(|to| *to != from) {
                for mode in [Mode::Native, Mode::Faithful] {
                    let target: Language = LANGUAGES[number % LANGUAGES.len()];
                    number += 1;
                    let title = format!("{from}/{program} to {to}, {mode:?}, {}", target.ending());
                    if !title.contains(&only) {
                        continue;
                    }
                    let migrated =
                        migrate(&source, &library(to).unwrap(), (target, target.into()), mode, None).unwrap();
                    let right = Version::new("target", migrated.checked.clone()).unwrap();
                    let ledger = &migrated.translation.ledger;
                    let grade = |g| ledger.iter().filter(|e| e.grade == g).count();
                    let grades = format!(
                        "exact {} cond {} approx {} carried {} lost {}",
                        grade(Grade::Exact),
                        grade(Grade::Conditional),
                        grade(Grade::Approximate),
                        grade(Grade::Carried),
                        grade(Grade::Lost)
                    );
                    let codes: Vec<&str> = ledger.iter().filter(|e| e.grade != Grade::Exact).map(|e| e.code).collect();
                    let mut twin = Twin::new(&left, &right);
                    twin.timing = Timing::Lockstep(ScanTime::Range {
                        low: Duration::from_millis(1),
                        high: Duration::from_millis(250),
                        seed: 1,
                    });
                    let means = Means { effort: Effort { scenarios: 0, ..Effort::default() }, ..Means::default() };
                    let begun = std::time::Instant::now();
                    let verdict = prove(&twin, &means, |_| begun.elapsed().as_secs() < 60);
                    let text = match &verdict {
                        Verdict::Proved(_) => "PROVED".into(),
                        v => honest_twin::show::verdict(v).replace('\n', " "),
                    };
                    println!("{title} | {grades} {} | {:.1}s {text}", codes.join(","), begun.elapsed().as_secs_f64());
                }
            }
        }
    }
}
