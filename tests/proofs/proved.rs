//! What is proved, proved under conditions, different and undecided, by kind: `docs/proved.md`, made by running it all.
//! What must be proved is asserted besides. All of it takes minutes: `HONEST_TWIN_ALL=1 cargo test --test proofs proved::` runs it,
//! `HONEST_TWIN_WRITE=1` writes the page anew. Without either a sample is run, another one each time, and held against
//! the page.

use crate::common::dialects::{families, programs, read_in};
use crate::common::extent::Extent;
use crate::common::pages::{found::pairs, hold};
use crate::common::version;
use honest_twin::dialect::library;
use honest_twin::lang::LANGUAGES;
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove};
use honest_twin::scan::ScanTime;
use honest_twin::show;
use honest_twin::translate::{Grade, Mode, migrate};
use honest_twin::twin::{Effort, ProvedPart, Timing, Twin, Verdict, Version};
use rayon::prelude::*;
use std::collections::BTreeMap;
use std::fmt::Write;

/// What became of one pair of versions.
struct Case {
    kind: String,
    title: String,
    /// What the ledger foretells: codes and grades.
    ledger: String,
    verdict: Verdict,
}

/// Every scan takes a time of its own. Differences are looked for in so many scenarios.
fn decide(left: &Version, right: &Version, scenarios: u64) -> Verdict {
    let time = ScanTime::Range {
        low: Duration::from_millis(1),
        high: Duration::from_millis(250),
        step: Duration::from_nanos(1),
        seed: 1,
    };
    let mut twin = Twin::new(left, right);
    twin.timing = Timing::Lockstep(time);
    let usual = Effort::default();
    // As many scans as it takes to carry counters past their limits.
    let scans = if scenarios > 0 { 2_500_000 } else { 0 };
    let effort = Effort { scenarios, scans, ..usual };
    let means = Means { effort, ..Means::default() };
    prove(&twin, &means, |_| true)
}

/// Each program of the corpus in each pair of languages.
fn corpus(extent: Extent) -> Vec<Case> {
    let mut folders: Vec<_> = std::fs::read_dir("tests/corpus").unwrap().map(|f| f.unwrap().path()).collect();
    folders.sort();
    let each = extent.one_in(8, folders);
    let each = each.par_iter().flat_map_iter(|folder| {
        let versions = LANGUAGES.iter().map(|language| {
            let text = std::fs::read_to_string(folder.join(format!("prog.{}", language.ending()))).unwrap();
            (language, version(language.ending(), &text, *language))
        });
        let versions: Vec<_> = versions.collect();
        let mut out = Vec::new();
        for (at, (one, left)) in versions.iter().enumerate() {
            for (other, right) in &versions[at + 1..] {
                out.push(Case {
                    kind: format!("{} and {}", one.ending(), other.ending()),
                    title: folder.file_name().unwrap().to_string_lossy().to_string(),
                    ledger: String::new(),
                    verdict: decide(left, right, 0),
                });
            }
        }
        out
    });
    each.collect()
}

/// Each program of each family in each other family, in one of two modes; by what the ledger says of it at worst.
fn migrations(extent: Extent, mode: Mode) -> Vec<Case> {
    let mut all = Vec::new();
    for from in families() {
        for (program, text, language) in programs(from) {
            for to in families().filter(|to| *to != from) {
                let target = LANGUAGES[all.len() % LANGUAGES.len()];
                all.push((from, program.clone(), text.clone(), language, to, target));
            }
        }
    }
    let each = extent.one_in(12, all).into_par_iter().map(|(from, program, text, language, to, target)| {
        let source = read_in(from, &program, &text, language);
        let left = Version::new("source", source.clone()).unwrap();
        let migrated = migrate(&source, &library(to).unwrap(), (target, target.into()), mode, None).unwrap();
        let right = Version::new("target", migrated.checked.clone()).unwrap();
        let warned =
            migrated.translation.ledger.iter().filter(|e| e.grade != Grade::Exact && e.grade != Grade::Carried);
        // A place that was not kept is no difference of what the program does.
        let warned: Vec<_> = warned.filter(|e| e.grade != Grade::Lost).collect();
        let grade = if warned.iter().any(|e| e.grade == Grade::Approximate) {
            "approximate"
        } else if warned.is_empty() {
            "exact"
        } else {
            "conditional"
        };
        let mut codes: Vec<&str> = warned.iter().map(|e| e.code).collect();
        codes.dedup();
        Case {
            kind: grade.to_string(),
            title: format!("{from}/{program} to {to}"),
            ledger: codes.join(" "),
            verdict: decide(&left, &right, if grade == "exact" { 0 } else { 400 }),
        }
    });
    each.collect()
}

/// Pairs written by hand, which are the same or differ.
fn by_hand(extent: Extent) -> Vec<Case> {
    let all: Vec<_> = ["easy", "fair", "nasty"].into_iter().flat_map(pairs).collect();
    let each = extent.one_in(12, all);
    let each = each.par_iter().map(|pair| {
        let [left, right] = pair.versions();
        Case {
            kind: if pair.is_same() { "the same" } else { "different" }.to_string(),
            title: pair.title.clone(),
            ledger: String::new(),
            verdict: decide(&left, &right, if pair.is_same() { 400 } else { Effort::default().scenarios }),
        }
    });
    each.collect()
}

/// Of a case the column it stands in, and what is proved of it.
fn column(case: &Case) -> (usize, &[ProvedPart]) {
    let (first, parts) = match &case.verdict {
        Verdict::Proved(_) => return (0, &[]),
        Verdict::Different(difference) => (1, &difference.proved),
        Verdict::Undecided { proved, .. } => (4, proved),
        other => panic!("{}: {}", case.title, show::verdict(other)),
    };
    let further = match parts.last() {
        Some(last) if last.others.iter().all(|o| parts.iter().any(|p| p.outputs.contains(o))) => 0,
        Some(_) => 1,
        None => 2,
    };
    (first + further, parts)
}

const COLUMNS: [&str; 7] = [
    "proved",
    "different, proved under conditions",
    "different, some outputs proved",
    "different",
    "same when tested, proved under conditions",
    "same when tested, some outputs proved",
    "same when tested",
];

/// What is proved, in a cell of a table.
fn in_words(parts: &[ProvedPart]) -> String {
    let each = parts.iter().map(|part| {
        let of = if part.others.is_empty() { "all".to_string() } else { part.outputs.join(", ") };
        if part.conditions.is_empty() { of } else { format!("{of} if {}", part.conditions.join(" and ")) }
    });
    each.collect::<Vec<_>>().join("; ")
}

fn table(title: &str, cases: &[Case]) -> String {
    let mut rows: BTreeMap<&str, [usize; 7]> = BTreeMap::new();
    for case in cases {
        rows.entry(&case.kind).or_default()[column(case).0] += 1;
    }
    let mut out =
        format!("\n## {title}\n\n| | pairs | {} |\n|---|---|---|---|---|---|---|---|---|\n", COLUMNS.join(" | "));
    for (kind, counts) in rows {
        let cells: Vec<String> = counts.iter().map(|n| if *n == 0 { String::new() } else { n.to_string() }).collect();
        let _ = writeln!(out, "| {kind} | {} | {} |", counts.iter().sum::<usize>(), cells.join(" | "));
    }
    out
}

/// Each case of which the ledger warns.
fn details(cases: &[Case]) -> String {
    let mut out = String::from("\n| migration | the ledger warns of | verdict | proved of it |\n|---|---|---|---|\n");
    for row in rows(cases) {
        let _ = writeln!(out, "{row}");
    }
    out
}

fn rows(cases: &[Case]) -> impl Iterator<Item = String> {
    cases.iter().filter(|c| c.kind != "exact").map(|case| {
        let (column, parts) = column(case);
        let verdict = ["proved", "different", "same when tested"][column.div_ceil(3)];
        format!("| {} | {} | {verdict} | {} |", case.title, case.ledger, in_words(parts))
    })
}

#[test]
fn what_is_proved() {
    let extent = Extent::asked();
    let (corpus, faithful, native, by_hand) =
        (corpus(extent), migrations(extent, Mode::Faithful), migrations(extent, Mode::Native), by_hand(extent));
    let must = corpus.iter().chain(&faithful).chain(native.iter().filter(|c| c.kind == "exact"));
    let mut wrong = String::new();
    for case in must.filter(|c| !matches!(c.verdict, Verdict::Proved(_))) {
        let _ = writeln!(wrong, "{} ({}): {}", case.title, case.kind, show::verdict(&case.verdict));
    }
    for case in by_hand.iter().filter(|c| c.kind == "different" && !matches!(c.verdict, Verdict::Different(_))) {
        let _ = writeln!(wrong, "{} is different: {}", case.title, show::verdict(&case.verdict));
    }
    assert!(wrong.is_empty(), "{wrong}");
    if let Extent::Sample(_) = extent {
        let page = std::fs::read_to_string("docs/proved.md").unwrap();
        let missing: Vec<String> = rows(&native).filter(|row| !page.contains(row)).collect();
        assert!(missing.is_empty(), "docs/proved.md says otherwise: {missing:#?}");
        return;
    }
    let mut page = String::from(
        "# What is proved\n\nMade by `HONEST_TWIN_WRITE=1 cargo test --test proofs proved::`, which runs all of it. Every scan takes \
         a time of its own, from 1 ms to\n250 ms; power may be lost at any moment. A difference is always one that was \
         replayed; *undecided* means that a\nsearch found none and no proof was found. *Under conditions*: each output under some, not all of them under the \
         same.\n",
    );
    page.push_str(&table("Translations of the corpus, by pair of languages", &corpus));
    page.push_str(&table("Faithful migrations between families, by the worst that the ledger says", &faithful));
    page.push_str(&table("Native migrations between families, by the worst that the ledger says", &native));
    page.push_str(&table("Pairs written by hand, by what they are", &by_hand));
    page.push_str("\n## Native migrations that the ledger warns of\n");
    page.push_str(&details(&native));
    hold(vec![("proved.md".to_string(), page)]);
}
