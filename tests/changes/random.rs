//! Random programs with loops, arrays, functions, blocks and faults, each with an edit, in four languages: no output that is
//! called untouched is ever reached, whatever runs beside what changed; and a program beside itself has no changes.

use crate::common::{mutated, programs, translated};
use crate::edit::{Edit, make};
use crate::edits::{items, read};
use crate::oracle::differing;
use fastrand::Rng;
use honest_twin::changes::{Overall, Reach, changes};
use honest_twin::check::Checked;
use honest_twin::lang::{LANGUAGES, Language, write_file};

/// Edits of what runs.
const RUNNING: [Edit; 9] = [
    Edit::Value,
    Edit::Form,
    Edit::Branch,
    Edit::Operand,
    Edit::Operator,
    Edit::Move,
    Edit::RemovePart,
    Edit::Initial,
    Edit::Type,
];

fn rounds(usual: u64) -> u64 {
    std::env::var("HONEST_TWIN_EDITS").ok().and_then(|n| n.parse().ok()).unwrap_or(usual)
}

/// What was seen of pairs: how many there were, outputs that are untouched, pairs that differ, and those in which a change
/// may reach everything.
#[derive(Default, Debug)]
struct Seen {
    pairs: usize,
    untouched: usize,
    differ: usize,
    everything: usize,
}

impl Seen {
    fn hold(&mut self, left: &Checked, right: &Checked, about: &str) {
        let found = changes(["left", "right"], left, right);
        let reached = differing(left, right, 3, 150);
        for output in &reached {
            assert!(!found.outputs.untouched.contains(output), "{output} is reached: {about}\n{:?}", found.changes);
        }
        // Where nothing changed that runs nothing differs.
        assert!(found.any_runs() || reached.is_empty(), "{reached:?}: {about}\n{:?}", found.changes);
        self.pairs += 1;
        self.untouched += found.outputs.untouched.len();
        self.differ += usize::from(!reached.is_empty());
        let all = |reach: &Reach| matches!(reach, Reach::Everything(_));
        self.everything += usize::from(found.changes.iter().any(|change| all(&change.reach)));
    }
}

/// A random program in a language.
fn program(seed: u64, language: Language) -> String {
    let text = programs::random(seed).text;
    match language {
        Language::St => text,
        Language::Il | Language::Ld | Language::Fbd => translated("p", &text, Language::St, language),
    }
}

#[test]
fn edits_of_random_programs_reach_nothing_untouched() {
    let mut seen = Seen::default();
    for seed in 0..rounds(16) {
        for language in LANGUAGES {
            let text = program(seed, *language);
            for (number, edit) in RUNNING.iter().enumerate() {
                let before = items(&text, *language);
                let mut after = before.clone();
                let mut rng = Rng::with_seed(seed * 100 + number as u64);
                if !make(*edit, &mut after, &mut rng) {
                    continue;
                }
                let write = |items: &[honest_twin::model::Item]| write_file(items.iter(), *language).unwrap();
                let (before, after) = (write(&before), write(&after));
                let (Some(left), Some(right)) = (read(&before, *language), read(&after, *language)) else { continue };
                seen.hold(&left, &right, &format!("{edit:?}, seed {seed}\n{before}\n{after}"));
            }
        }
    }
    println!("{seen:?}");
    assert!(seen.pairs > 100 && seen.differ > 15 && seen.untouched > 50, "{seen:?}");
}

/// Programs of what provers have stumbled over, each with a change in it.
#[test]
fn changes_of_mutated_programs_reach_nothing_untouched() {
    let mut seen = Seen::default();
    for seed in 0..rounds(40) {
        let [left, right] = mutated::pair(seed, seed % 4 == 0);
        let (Some(left), Some(right)) = (read(&left, Language::St), read(&right, Language::St)) else { continue };
        seen.hold(&left, &right, &format!("seed {seed}"));
    }
    println!("{seen:?}");
    assert!(seen.pairs > 20 && seen.differ > 5, "{seen:?}");
}

/// A program beside itself, and beside itself as our writer lays it out: the same, or nothing but layout.
#[test]
fn a_program_is_what_it_is() {
    for seed in 0..rounds(12) {
        for language in LANGUAGES {
            let text = program(seed, *language);
            let own = read(&text, *language).unwrap();
            let found = changes(["left", "right"], &own, &own);
            assert_eq!((found.changes.len(), found.stood.overall), (0, Overall::Nothing), "{:?}", found.changes);
            let written = write_file(items(&text, *language).iter(), *language).unwrap();
            let laid = changes(["left", "right"], &own, &read(&written, *language).unwrap());
            assert!(!laid.any_runs(), "seed {seed} {language:?}: {:?}", laid.changes);
            assert!(laid.outputs.touched.is_empty(), "{:?}", laid.outputs);
        }
    }
}

/// Of two programs that have nothing to do with each other something is told, each thing once.
#[test]
fn strangers_are_told_apart() {
    for seed in 0..rounds(10) {
        let [left, right] = [seed, seed + 1].map(|seed| read(&program(seed, Language::St), Language::St).unwrap());
        Seen::default().hold(&left, &right, &format!("seeds {seed} and {}", seed + 1));
        let back = changes(["right", "left"], &right, &left);
        assert!(back.changes.iter().all(|change| change.sides.iter().any(Option::is_some) || !change.note.is_empty()));
        let numbers: Vec<usize> = back.changes.iter().map(|change| change.number).collect();
        assert_eq!(numbers, (1..=back.changes.len()).collect::<Vec<_>>());
        let in_units: usize = back.units.iter().map(|unit| unit.changes.len()).sum();
        let beside = back.changes.iter().filter(|change| change.unit.is_none()).count();
        assert_eq!(in_units + beside, back.changes.len(), "each change is told once");
    }
}

/// The same body in two languages: what is the same, written as structured text, is proved the same elsewhere; here no output
/// may be called untouched that differs, and none differs.
#[test]
fn translations_are_told_as_another_language() {
    for seed in (0..rounds(8)).filter(|seed| seed % 8 != 0) {
        let text = read(&program(seed, Language::St), Language::St).unwrap();
        for language in [Language::Il, Language::Ld, Language::Fbd] {
            let other = read(&program(seed, language), language).unwrap();
            let found = changes(["text", "other"], &text, &other);
            let kinds = found.changes.iter().filter(|change| change.kind == honest_twin::changes::Kind::Language);
            assert!(kinds.count() > 0, "seed {seed} {language:?}: {:?}", found.changes);
            assert_eq!(differing(&text, &other, 2, 60).len(), 0, "seed {seed} {language:?}");
        }
    }
}
