//! What a comparison says of versions that are the same, and of versions in which one operator was changed.

use crate::common::extent::Extent;
use crate::common::{translated, version};
use honest_twin::lang::Language;
use honest_twin::model::Elem;
use honest_twin::scan::{Direction, PointType};
use honest_twin::twin::{Effort, Verdict, Version, compare};
use std::fs;
use std::path::Path;

fn programs() -> Vec<(String, String)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/vectors");
    let mut out: Vec<(String, String)> = fs::read_dir(root)
        .unwrap()
        .map(|e| e.unwrap().path())
        .filter(|p| p.is_dir())
        .map(|p| {
            let name = p.file_name().unwrap().to_str().unwrap().to_string();
            (name, fs::read_to_string(p.join("prog.st")).unwrap())
        })
        .collect();
    out.sort();
    out
}

fn effort(scenarios: u64) -> Effort {
    Effort { scenarios, scans: 20_000, ..Effort::default() }
}

#[test]
fn every_vector_program_is_the_same_as_its_translation() {
    for (name, text) in programs() {
        let list = translated(&name, &text, Language::St, Language::Il);
        let verdict =
            compare(&version("st", &text, Language::St), &version("il", &list, Language::Il), &effort(200), |_| {});
        assert!(matches!(verdict, Verdict::Tested(_)), "{name}: {}", honest_twin::show::verdict(&verdict));
    }
}

const CHANGES: &[(&str, &str)] = &[
    (" AND ", " OR "),
    (" OR ", " AND "),
    (" XOR ", " OR "),
    (" + ", " - "),
    (" - ", " + "),
    (" * ", " + "),
    (" <= ", " > "),
    (" >= ", " < "),
    (" <> ", " = "),
    (" < ", " >= "),
    (" > ", " <= "),
    ("NOT (", "("),
];

/// Changes operator number `which` of all operators in the text.
fn changed(text: &str, which: usize) -> Option<String> {
    let mut places: Vec<(usize, &(&str, &str))> =
        CHANGES.iter().flat_map(|c| text.match_indices(c.0).map(move |(at, _)| (at, c))).collect();
    places.sort_by_key(|(at, _)| *at);
    let (at, (from, to)) = places.get(which)?;
    Some(format!("{}{to}{}", &text[..*at], &text[at + from.len()..]))
}

/// An independent witness: the outputs on a stimulus of its own, everything changing all the time.
fn outputs(version: &Version, seed: u64) -> String {
    let mut rng = fastrand::Rng::with_seed(seed);
    let inputs: Vec<_> = version.machine().points_of(Direction::Input).collect();
    let mut text = String::from("time_ms");
    inputs.iter().for_each(|(_, p)| text.push_str(&format!(",{}", p.name)));
    for row in 0..150 {
        text.push_str(&format!("\n{}", row * 10));
        for (_, point) in &inputs {
            let value = match point.ty {
                PointType::Elem(Elem::Bool) => rng.i32(0..2),
                PointType::Elem(Elem::Word) => rng.i32(0..70),
                _ => rng.i32(-9..12),
            };
            text.push_str(&if rng.u8(0..3) == 0 { format!(",{value}") } else { ",".to_string() });
        }
    }
    crate::common::trace(version.machine(), &text, 150).0
}

#[test]
fn one_changed_operator_is_found_and_named() {
    let (mut programs_told, mut visible, mut found, mut same, mut missed) = (0, 0, 0, 0, Vec::new());
    let extent = Extent::asked();
    let all = extent.one_in(3, programs());
    for (name, text) in &all {
        let left = version("original", text, Language::St);
        let mut told = false;
        // Operators spread over the program, until one matters: these programs are random, and much in them is not
        // seen from outside whatever it does.
        let operators = (0..).take_while(|n| changed(text, *n).is_some()).count();
        let chosen = (0..20).map(|n| n * operators / 20);
        for (which, mutant) in chosen.filter_map(|which| Some((which, changed(text, which)?))) {
            if told {
                break;
            }
            let right = version("changed", &mutant, Language::St);
            let witnessed = (0..6).any(|seed| outputs(&left, seed) != outputs(&right, seed));
            visible += u32::from(witnessed);
            match compare(&left, &right, &effort(250), |_| {}) {
                Verdict::Different(d) => {
                    told = true;
                    found += u32::from(witnessed);
                    assert!(d.sides.iter().any(|s| s.writer.is_some()), "{name}: no statement is named");
                    assert!(d.sides[0].value != d.sides[1].value, "{name}");
                }
                _ if witnessed => missed.push(format!("{name}, change {which}")),
                _ => same += 1,
            }
        }
        programs_told += u32::from(told);
    }
    println!("{programs_told} of {} programs are told from a changed version", all.len());
    println!(
        "{found} of {visible} changes that a witness sees are found; {same} are seen by neither; missed: {missed:?}"
    );
    if extent.is_all() {
        assert!(found * 10 >= visible * 9 && programs_told >= 22);
    } else {
        // Of a few programs one more or less is no news.
        assert!(found * 10 + 10 >= visible * 9 && programs_told as usize * 10 + 10 >= 7 * all.len());
    }
}
