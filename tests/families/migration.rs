//! All ordered pairs of families: what is migrated faithfully is the same, and what is migrated natively is the same
//! but for what the ledger foretells.

use crate::common::dialects::{families, programs, read_in};
use honest_twin::dialect::library;
use honest_twin::lang::{LANGUAGES, Language};
use honest_twin::translate::{Grade, MapRow, Migration, Mode, migrate, translate};
use honest_twin::twin::{Effort, Verdict, Version, compare};

fn effort() -> Effort {
    let scenarios = std::env::var("HONEST_TWIN_SCENARIOS").ok().and_then(|n| n.parse().ok()).unwrap_or(150);
    Effort { scenarios, scans: scenarios * 400, ..Effort::default() }
}

fn told(migration: &Migration) -> String {
    let entries = migration.translation.ledger.iter().filter(|e| !matches!(e.grade, Grade::Exact));
    entries.map(|e| format!("    {} {} {}\n", e.code, e.grade.word(), e.reason)).collect()
}

fn only(name: &str) -> bool {
    std::env::var("HONEST_TWIN_ONLY").map_or(true, |o| name.contains(&o))
}

#[test]
fn every_pair_of_families() {
    let (mut pairs, mut same, mut foretold, mut idle, mut carried) = (0, 0, 0, 0, 0);
    let mut unforetold = Vec::new();
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
                    if !only(&title) {
                        continue;
                    }
                    let migrated = match migrate(&source, &library(to).unwrap(), (target, target.into()), mode, None) {
                        Ok(migrated) => migrated,
                        Err(error) => {
                            unforetold.push(format!("{title}: {error}\n{error:?}"));
                            continue;
                        }
                    };
                    let right = Version::new("target", migrated.checked.clone()).unwrap();
                    let verdict = compare(&left, &right, &effort(), |_| {});
                    pairs += 1;
                    let warned = migrated
                        .translation
                        .ledger
                        .iter()
                        .any(|e| matches!(e.grade, Grade::Conditional | Grade::Approximate | Grade::Lost));
                    carried += usize::from(migrated.translation.ledger.iter().any(|e| e.grade == Grade::Carried));
                    match verdict {
                        Verdict::Tested(tested) => {
                            assert!(tested.pairing.alone().is_empty(), "{title}: {:?}", tested.pairing.alone());
                            same += 1;
                            idle += usize::from(warned);
                        }
                        Verdict::Different(_) if warned && mode == Mode::Native => foretold += 1,
                        Verdict::Different(d) => unforetold.push(format!(
                            "{title}\n{}{}\n{}\n",
                            told(&migrated),
                            migrated.translation.files[0].text,
                            honest_twin::show::verdict(&Verdict::Different(d))
                        )),
                        other => panic!("{title}: {}", honest_twin::show::verdict(&other)),
                    }
                }
            }
        }
    }
    println!(
        "{pairs} migrations ({carried} carry a block): {same} the same ({idle} of them warned), {foretold} different as foretold, {} unforetold",
        unforetold.len()
    );
    assert!(unforetold.is_empty(), "unforetold:\n{}", unforetold.join("\n"));
}

/// Out and home again, by the map turned round: addresses and presets that were exact are what they were.
#[test]
fn out_and_home_again() {
    let (mut home, mut verbatim, mut points) = (0, 0, 0);
    let mut lost = Vec::new();
    for from in families() {
        for (program, text, language) in programs(from) {
            let source = read_in(from, &program, &text, language);
            let as_it_was = translate(&source, Language::St).unwrap().files[0].text.clone();
            for to in families().filter(|to| *to != from) {
                let title = format!("{from}/{program} to {to} and back");
                if !only(&title) {
                    continue;
                }
                let st = (Language::St, Language::St.into());
                let out = migrate(&source, &library(to).unwrap(), st, Mode::Native, None).unwrap();
                let map = out.map.reversed();
                let back = migrate(&out.checked, &library(from).unwrap(), st, Mode::Native, Some(&map))
                    .unwrap_or_else(|e| panic!("{title}: {e}\n{}\n{}", out.translation.files[0].text, map.write()));
                let carried = |name: &str| {
                    back.translation
                        .ledger
                        .iter()
                        .any(|e| e.grade == Grade::Carried && e.target.as_deref() == Some(name))
                };
                let there = |r: &&MapRow| !r.new.is_empty() && !r.old.is_empty() && !carried(&r.symbol);
                for row in out.map.rows.iter().filter(there) {
                    let again = back.map.rows.iter().find(|r| r.old == row.new);
                    let same = again.is_some_and(|r| r.new == row.old);
                    assert!(same, "{title}: {row:?} came back as {again:?}");
                    points += 1;
                }
                home += 1;
                let exact = |m: &Migration| m.translation.ledger.iter().all(|e| e.grade == Grade::Exact);
                let text = &back.translation.files[0].text;
                verbatim += usize::from(*text == as_it_was);
                if exact(&out) && exact(&back) && *text != as_it_was {
                    lost.push(format!("{title}:\n{as_it_was}\n{}\n{text}", out.translation.files[0].text));
                }
            }
        }
    }
    println!(
        "{home} round trips, {points} addresses restored, {verbatim} programs verbatim; {} exact ones not verbatim",
        lost.len()
    );
    assert!(lost.is_empty(), "{}", lost.join("\n"));
}
