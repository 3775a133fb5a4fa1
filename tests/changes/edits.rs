//! Random edits on the corpus in four languages: each is told as what it is and nothing else is told, and no output that is
//! called untouched is ever reached by it.

use crate::edit::{EDITS, Edit, make, program, spare};
use crate::oracle::differing;
use fastrand::Rng;
use honest_twin::changes::{Change, changes};
use honest_twin::check::{Checked, check};
use honest_twin::lang::{LANGUAGES, Language, read_file, read_project, write_file};
use honest_twin::model::{Body, Elem, Item};
use honest_twin::source::{FileId, Limits, Source};
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

/// A configuration with two instances of the program, for edits of tasks.
const TASKS: &str = "\nCONFIGURATION Hall\n    RESOURCE Raceways ON Controller\n        \
    TASK Usual(INTERVAL := T#20ms, PRIORITY := 1);\n        TASK Slow(INTERVAL := T#100ms, PRIORITY := 2);\n        \
    PROGRAM First WITH Usual : Hatchery;\n        PROGRAM Second WITH Slow : Hatchery;\n    END_RESOURCE\n\
    END_CONFIGURATION\n";

fn corpus() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/corpus");
    let mut out: Vec<PathBuf> = fs::read_dir(root).unwrap().map(|entry| entry.unwrap().path()).collect();
    out.sort();
    out
}

/// What a reader makes of a text.
pub(crate) fn items(text: &str, language: Language) -> Vec<Item> {
    let source = Source::new("p", text);
    read_file(FileId(0), &source, language, Limits::default()).0
}

pub(crate) fn read(text: &str, language: Language) -> Option<Checked> {
    let (project, problems) = read_project(vec![(Source::new(format!("p.{}", language.ending()), text), language)]);
    if problems.has_errors() { None } else { check(project).ok() }
}

/// The text before and after an edit, both as our writer lays them out.
fn edited(text: &str, language: Language, edit: Edit, rng: &mut Rng) -> Option<[String; 2]> {
    let with_tasks = matches!(edit, Edit::Interval | Edit::Priority | Edit::Sequence);
    let text = if with_tasks { format!("{text}{TASKS}") } else { text.to_string() };
    let mut before = items(&text, language);
    let unit = program(&mut before);
    match edit {
        Edit::AddPart => unit.sections.push(spare(Elem::Bool)),
        Edit::Type | Edit::Class => unit.sections.push(spare(Elem::Int)),
        _ => {}
    }
    if edit == Edit::Move || edit == Edit::RemovePart {
        // A blank line belongs to its place, so none is there to change with what moves.
        match &mut unit.body {
            Body::Statements(list) => list.iter_mut().for_each(|s| s.notes.blank_before = false),
            Body::Instructions(list) => list.iter_mut().for_each(|i| i.notes.blank_before = false),
            Body::Ladder(_) | Body::Blocks(_) => {}
        }
    }
    let mut after = before.clone();
    if !make(edit, &mut after, rng) {
        return None;
    }
    let write = |items: &[Item]| write_file(items.iter(), language).ok();
    Some([write(&before)?, write(&after)?]).filter(|[a, b]| a != b)
}

fn said(list: &[Change]) -> Vec<String> {
    list.iter().map(|c| format!("{} {}: {} {}", c.group.word(), c.kind.word(), c.subject, c.note)).collect()
}

#[test]
fn each_edit_is_told_as_what_it_is_and_reaches_nothing_untouched() {
    let rounds: u64 = std::env::var("HONEST_TWIN_EDITS").ok().and_then(|n| n.parse().ok()).unwrap_or(2);
    let mut shares: BTreeMap<Edit, [usize; 2]> = BTreeMap::new();
    let (mut wrong, mut touched, mut untouched, mut differs) = (Vec::new(), 0, 0, 0);
    for (number, folder) in corpus().into_iter().enumerate() {
        for language in LANGUAGES {
            let text = fs::read_to_string(folder.join(format!("prog.{}", language.ending()))).unwrap();
            for (edit, round) in EDITS.iter().flat_map(|edit| (0..rounds).map(move |round| (*edit, round))) {
                let mut rng = Rng::with_seed(number as u64 * 1_000 + round);
                let Some([before, after]) = edited(&text, *language, edit, &mut rng) else { continue };
                let (Some(left), Some(right)) = (read(&before, *language), read(&after, *language)) else { continue };
                let found = changes(["before", "after"], &left, &right);
                let share = shares.entry(edit).or_default();
                share[1] += 1;
                let told: Vec<_> = found.changes.iter().map(|change| (change.group, change.kind)).collect();
                if told == vec![edit.told()] {
                    share[0] += 1;
                } else {
                    wrong.push(format!(
                        "{edit:?} {} {}: {:?}",
                        folder.display(),
                        language.ending(),
                        said(&found.changes)
                    ));
                }
                if round == 0 && edit != Edit::RenameProgram {
                    let reached = differing(&left, &right, 4, 400);
                    differs += usize::from(!reached.is_empty());
                    touched += found.outputs.touched.len();
                    untouched += found.outputs.untouched.len();
                    for output in &reached {
                        assert!(
                            !found.outputs.untouched.contains(output),
                            "{edit:?} reaches {output}:\n{before}\n{after}\n{:?}",
                            found.outputs
                        );
                    }
                }
            }
        }
    }
    for (edit, [right, all]) in &shares {
        println!("{edit:?}: {right} of {all} told as what they are and nothing else");
    }
    println!("{touched} outputs touched, {untouched} untouched; {differs} edits were seen to differ");
    let [right, all] = shares.values().fold([0, 0], |[a, b], [c, d]| [a + c, b + d]);
    wrong.sort();
    wrong.iter().for_each(|line| println!("{line}"));
    assert_eq!(shares.len(), EDITS.len(), "each kind is tried");
    assert!(right * 1000 >= all * 995, "{right} of {all}");
}

/// Outputs that nothing reaches are found: a tool that calls everything touched would pass the test above.
#[test]
fn what_hangs_on_nothing_that_changed_is_untouched() {
    let program = |preset: &str| {
        format!(
            "PROGRAM Hall VAR_INPUT Low, Key : BOOL; n : INT; END_VAR VAR_OUTPUT Alarm, Lamp, Pump : BOOL; m : INT; END_VAR\n\
             VAR Late : TON; a : ARRAY[0..3] OF INT; END_VAR\n\
             Late(IN := Low, PT := T#{preset}); Alarm := Late.Q;\n\
             Lamp := Key; IF Alarm THEN Pump := TRUE; END_IF;\n\
             m := a[2]; a[2] := n;\nEND_PROGRAM"
        )
    };
    let (left, right) = (read(&program("3s"), Language::St).unwrap(), read(&program("4s"), Language::St).unwrap());
    let found = changes(["before", "after"], &left, &right);
    let touched: Vec<&str> = found.outputs.touched.iter().map(|(name, _)| name.as_str()).collect();
    assert_eq!(touched, ["Alarm", "Pump"]);
    assert_eq!(found.outputs.untouched, ["Lamp", "M"].map(|n| if n == "M" { "m".to_string() } else { n.to_string() }));
}
