//! Drawings typed by hand: one line a character longer or shorter than it should be. What can mean one thing only is read as that;
//! otherwise the line is named, once.

use fastrand::Rng;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::{Body, Item, Network};
use honest_twin::source::{Severity, Source};
use std::collections::BTreeMap;

/// The networks of a drawing, the errors and the hints about it.
fn networks(text: &str, language: Language) -> (Vec<Network>, Vec<String>, usize) {
    let (project, problems) = read_project(vec![(Source::new(format!("d.{}", language.ending()), text), language)]);
    let mut out = Vec::new();
    for item in &project.items {
        if let Item::Unit(unit) = item
            && let Body::Ladder(list) | Body::Blocks(list) = &unit.body
        {
            out.extend(list.iter().cloned());
        }
    }
    let errors = problems.0.iter().filter(|p| p.severity == Severity::Error).map(|p| p.message.clone()).collect();
    (out, errors, problems.count(Severity::Warning))
}

/// Lines of the drawings themselves, by number.
fn drawn_lines(text: &str) -> Vec<usize> {
    let drawn =
        |line: &str| line.starts_with("    ") && (line.contains("--") || line.contains('|')) && !line.contains(':');
    text.lines().enumerate().filter(|(_, line)| drawn(line)).map(|(number, _)| number).collect()
}

/// One line with a character of wire or a blank more, or less.
fn shaken(text: &str, rng: &mut Rng, longer: bool) -> Option<String> {
    let lines = drawn_lines(text);
    let chosen = lines[rng.usize(..lines.len())];
    let line: Vec<char> = text.lines().nth(chosen)?.chars().collect();
    let places: Vec<usize> = (4..line.len() - 1)
        .filter(|at| matches!(line[*at], '-' | ' ') && (longer || line[*at + 1] == line[*at]))
        .collect();
    let at = *places.get(rng.usize(..places.len().max(1)))?;
    let mut changed = line.clone();
    if longer {
        changed.insert(at, line[at]);
    } else {
        changed.remove(at);
    }
    let changed: String = changed.into_iter().collect();
    let out: Vec<&str> =
        text.lines().enumerate().map(|(n, l)| if n == chosen { changed.as_str() } else { l }).collect();
    Some(out.join("\n") + "\n")
}

#[test]
fn a_line_that_is_shifted_is_read_where_it_can_mean_one_thing() {
    let mut told: BTreeMap<&str, usize> = BTreeMap::new();
    let mut all = 0;
    for folder in std::fs::read_dir("tests/corpus").unwrap() {
        let folder = folder.unwrap().path();
        for language in [Language::Ld, Language::Fbd] {
            let text = std::fs::read_to_string(folder.join(format!("prog.{}", language.ending()))).unwrap();
            let (meant, errors, _) = networks(&text, language);
            assert!(errors.is_empty());
            let mut rng = Rng::with_seed(7);
            for number in 0..10 {
                let Some(changed) = shaken(&text, &mut rng, number % 2 == 0) else { continue };
                let (read, errors, hints) = networks(&changed, language);
                all += 1;
                let kind = match (errors.len(), hints) {
                    (0, hints) if read == meant => {
                        if hints > 0 {
                            "read, with a hint"
                        } else {
                            "read as it was"
                        }
                    }
                    // It is another drawing, and a good one: nobody could tell.
                    (0, 0) => "read as another drawing",
                    (0, _) => "mended into another drawing",
                    (1, _) => "one message",
                    (_, _) => "several messages",
                };
                *told.entry(kind).or_default() += 1;
                assert!(errors.len() <= 9, "{errors:#?}\n{changed}");
            }
        }
    }
    println!("of {all}: {told:?}");
    let of = |kind: &str| told.get(kind).copied().unwrap_or(0);
    assert!(of("read, with a hint") + of("read as it was") > all * 6 / 10, "{told:?}");
    assert!(of("mended into another drawing") * 100 <= all, "{told:?}");
    assert!(of("several messages") * 20 <= all, "{told:?}");
}

#[test]
fn what_is_said_of_a_shifted_line() {
    let program = |drawing: &str| {
        format!(
            "PROGRAM Rinse\nVAR_INPUT Head, Low, Key : BOOL; END_VAR\nVAR_OUTPUT Pump : BOOL; END_VAR\n\n{drawing}\nEND_PROGRAM\n"
        )
    };
    let good = "    |  Head      Low    Pump  |\n    +--| |---+---|/|----( )---+\n    |  Pump  |                |\n    +--| |---+                |\n";
    let shifted = good.replace("    +--| |---+                |", "    +--| |----+                |");
    let (meant, ..) = networks(&program(good), Language::Ld);
    let (read, errors, hints) = networks(&program(&shifted), Language::Ld);
    assert!(errors.is_empty() && hints == 1 && read == meant, "{errors:?}");
    // Two lines are shifted: that is not mended, and few words are made of it.
    let worse = shifted.replace("    |  Pump  |  ", "    |  Pump |   ");
    let (_, errors, hints) = networks(&program(&worse), Language::Ld);
    assert!(hints == 0 && (1..=8).contains(&errors.len()), "{errors:?}");
}

/// A thousand networks that are broken beyond mending are told, and take no minutes.
#[test]
fn what_cannot_be_mended_is_not_tried_for_ever() {
    let broken = "    |  Head      Low    Pump  |\n    +--| |---+  -|/|--  ( )---+\n    |  Pump  |                |\n    +--| |--  +                |\n\n";
    let text = format!(
        "PROGRAM Rinse\nVAR_INPUT Head, Low : BOOL; END_VAR\nVAR_OUTPUT Pump : BOOL; END_VAR\n\n{}END_PROGRAM\n",
        broken.repeat(1000)
    );
    let (_, errors, hints) = networks(&text, Language::Ld);
    assert!(hints == 0 && errors.len() > 100, "{hints} {}", errors.len());
}
