//! Whether a change matters: each changed unit by itself, and the whole.

use crate::edit::{Edit, make};
use crate::edits::{items, read};
use crate::kinds::project;
use crate::oracle::differing;
use honest_twin::changes::{Changes, Overall, Standing, UnitVerdict, changes};
use honest_twin::check::Checked;
use honest_twin::lang::{LANGUAGES, write_file};
use honest_twin::prove::{Means, prove};
use honest_twin::show;
use honest_twin::twin::{Effort, Scenario, Twin, Verdict, Version};

fn decided(found: &Changes, left: &Checked, right: &Checked) -> Verdict {
    let versions =
        [("left", left), ("right", right)].map(|(name, checked)| Version::new(name, checked.clone()).unwrap());
    let mut twin = Twin::new(&versions[0], &versions[1]);
    found.pair(&mut twin).unwrap();
    let effort = Effort { scenarios: 400, faults: 0, ..Effort::default() };
    prove(&twin, &Means { effort, conditions: false, ..Means::default() }, |_| true)
}

/// Asks of both sides as a whole and of each changed unit by itself.
fn judged(left: &Checked, right: &Checked) -> Changes {
    let mut found = changes(["left", "right"], left, right);
    if !found.any_runs() {
        return found;
    }
    let whole = decided(&found, left, right);
    found.judge(&whole);
    for stand in found.stands(left, right) {
        match stand {
            Standing::Whole(unit) => found.judge_unit(&unit, UnitVerdict::of(&whole, Vec::new())),
            Standing::Apart(stand) => {
                let verdict = decided(&found, left, &stand.checked);
                found.judge_unit(&stand.units[0], UnitVerdict::of(&verdict, stand.with));
            }
            Standing::Together { unit, why } => found.judge_unit(&unit, UnitVerdict::together(why)),
        }
    }
    found
}

const AIR: &str = "PROGRAM Air VAR_INPUT Low, Fault : BOOL; END_VAR VAR_OUTPUT Duty, Standby : BOOL; END_VAR\n";
const FEED: &str =
    "PROGRAM Feed VAR_INPUT Due, Night : BOOL; END_VAR VAR_OUTPUT Screw : BOOL; END_VAR VAR Dose : TP; END_VAR\n";

fn hall(air: &str, feed: &str) -> Checked {
    project(&[("hall.st", &format!("{AIR}{air}\nEND_PROGRAM\n{FEED}{feed}\nEND_PROGRAM"))])
}

const AIR_BODY: &str = "Duty := NOT Fault; Standby := Fault OR Low;";
const FEED_BODY: &str = "Dose(IN := Due AND NOT Night, PT := T#4s); Screw := Dose.Q;";

#[test]
fn each_unit_is_judged_by_itself() {
    let left = hall(AIR_BODY, FEED_BODY);
    let right = hall("Duty := NOT Fault; Standby := NOT (Duty AND NOT Low);", &FEED_BODY.replace("4s", "5s"));
    let found = judged(&left, &right);
    let outcome = |name: &str| {
        found.units.iter().find(|unit| unit.name() == name).and_then(|unit| unit.verdict.as_ref()).unwrap()
    };
    assert_eq!(found.stood.overall, Overall::Different);
    assert_eq!(outcome("Air").outcome, Overall::Proved);
    let feed = outcome("Feed");
    assert_eq!((feed.outcome, feed.output.as_deref()), (Overall::Different, Some("Feed.Screw")));
    assert!(!feed.scenario.is_empty());
    let text = show::changes_text(&found);
    assert!(text.starts_with("CHANGED, AND DIFFERENT: Feed.Screw first\n"), "{text}");
    assert!(text.contains("by itself proved to do the same"), "{text}");
    assert!(text.contains("Untouched by all that changed: Air.Duty\n"), "{text}");
}

/// A unit that needs a declaration of the right is judged with it; one that is not on both sides says so.
#[test]
fn what_a_unit_needs_comes_with_it() {
    let both = |global: &str, air: &str, feed: &str| {
        let text = format!("{global}{AIR}{air}\nEND_PROGRAM\n{FEED}{feed}\nEND_PROGRAM");
        project(&[("hall.st", &text.replace("END_VAR\nDuty", "END_VAR VAR_EXTERNAL Paused : BOOL; END_VAR\nDuty"))])
    };
    let left = project(&[("hall.st", &format!("{AIR}Standby := Fault;\nEND_PROGRAM\n{FEED}{FEED_BODY}\nEND_PROGRAM"))]);
    let right = both(
        "VAR_GLOBAL Paused : BOOL; END_VAR\n",
        "Duty := Paused; Standby := Fault;",
        &FEED_BODY.replace("4s", "5s"),
    );
    let found = judged(&left, &right);
    let air = found.units.iter().find(|unit| unit.name() == "Air").unwrap().verdict.as_ref().unwrap();
    assert_eq!(
        (air.outcome, air.with.as_slice()),
        (Overall::Proved, ["what the right declares".to_string()].as_slice())
    );
    let gone = project(&[("hall.st", &format!("{FEED}{}\nEND_PROGRAM", FEED_BODY.replace("4s", "5s")))]);
    let found = judged(&left, &gone);
    let air = found.units.iter().find(|unit| unit.name() == "Air").unwrap().verdict.as_ref().unwrap();
    assert_eq!((air.outcome, air.why.as_str()), (Overall::Undecided, "only one side has it"));
}

/// Places in a mixed project are those of the side that they come from: what wrote a value is told at its own line.
#[test]
fn places_of_the_right_are_told_of_the_right() {
    let left = hall(AIR_BODY, FEED_BODY);
    let right = hall("Duty := NOT Fault;\n\n\nStandby := Fault;", &FEED_BODY.replace("4s", "5s"));
    let found = changes(["left", "right"], &left, &right);
    let stands = found.stands(&left, &right);
    let Some(Standing::Apart(air)) = stands.first() else { panic!("{stands:?}") };
    let Verdict::Different(difference) = decided(&found, &left, &air.checked) else { panic!("the same") };
    let writer = difference.sides[1].writer.as_ref().unwrap();
    assert_eq!((writer.place.as_str(), writer.text.as_str()), ("hall.st:5", "Standby := Fault"));
}

/// Renamed inputs and outputs are paired, so that a new name alone is no difference.
#[test]
fn new_names_are_paired() {
    let left = hall(AIR_BODY, FEED_BODY);
    let text = format!("{AIR}{AIR_BODY}\nEND_PROGRAM\n{FEED}{FEED_BODY}\nEND_PROGRAM");
    let right =
        project(&[("hall.st", &text.replace("Standby", "Second").replace("4s", "5s").replace("Night", "Dark"))]);
    let found = judged(&left, &right);
    assert_eq!(found.stood.overall, Overall::Different);
    assert_eq!(found.outputs.untouched, ["Air.Duty", "Air.Standby"]);
    assert_eq!(found.outputs.alone, [Vec::<String>::new(), Vec::new()]);
}

/// What a proof says of changed units agrees with what running both shows, on units with one change each.
#[test]
fn verdicts_agree_with_running_both() {
    let changed = [
        ("Fault OR Low", "Low OR Fault", true),
        ("Fault OR Low", "NOT (NOT Fault AND NOT Low)", true),
        ("Fault OR Low", "Fault AND Low", false),
        ("Fault OR Low", "Fault", false),
        ("NOT Fault; S", "NOT Fault AND NOT Fault; S", true),
        ("NOT Fault; S", "Fault; S", false),
    ];
    for (old, new, same) in changed {
        let (left, right) = (hall(AIR_BODY, FEED_BODY), hall(&AIR_BODY.replace(old, new), FEED_BODY));
        let found = judged(&left, &right);
        let expected = if same { Overall::Proved } else { Overall::Different };
        assert_eq!(found.stood.overall, expected, "{old} | {new}");
        let seen = differing(&left, &right, 12, 400);
        assert_eq!(seen.is_empty(), same, "{old} | {new}: {seen:?}");
        assert!(seen.iter().all(|output| !found.outputs.untouched.contains(output)));
    }
}

/// Random edits of the corpus: what is proved to do the same was never seen to differ, and what was seen to differ is said to
/// be different, or undecided.
#[test]
fn verdicts_of_random_edits_agree_with_running_both() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/corpus");
    let mut programs: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    programs.sort();
    let (mut proved, mut different, mut open) = (0, 0, 0);
    for (number, path) in programs.iter().enumerate() {
        let language = LANGUAGES[number % LANGUAGES.len()];
        let text = std::fs::read_to_string(path.join(format!("prog.{}", language.ending()))).unwrap();
        for edit in [Edit::Value, Edit::Form, Edit::Operator] {
            let before = items(&text, language);
            let mut after = before.clone();
            if !make(edit, &mut after, &mut fastrand::Rng::with_seed(number as u64)) {
                continue;
            }
            let write = |items: &[honest_twin::model::Item]| write_file(items.iter(), language).unwrap();
            let (Some(left), Some(right)) = (read(&write(&before), language), read(&write(&after), language)) else {
                continue;
            };
            let found = judged(&left, &right);
            let seen = differing(&left, &right, 6, 300);
            match found.stood.overall {
                Overall::Proved => {
                    proved += 1;
                    assert!(seen.is_empty(), "{edit:?} of {}: {seen:?}", path.display());
                }
                Overall::Different => {
                    different += 1;
                    // The output that differs first is none that is called untouched.
                    let output = found.stood.shown.as_ref().and_then(|shown| shown.output.clone()).unwrap_or_default();
                    assert!(!found.outputs.untouched.contains(&output), "{edit:?} of {}: {output}", path.display());
                }
                _ => open += 1,
            }
        }
    }
    println!("{proved} proved, {different} different, {open} open");
    assert!(different > 20 && open * 4 < proved + different, "{proved} proved, {different} different, {open} open");
}

/// Scenarios that pass by a change are told from those that pass through it.
#[test]
fn scenarios_pass_through_or_by() {
    let (left, right) = (hall(AIR_BODY, FEED_BODY), hall(AIR_BODY, &FEED_BODY.replace("4s", "5s")));
    let found = changes(["left", "right"], &left, &right);
    let versions =
        [("left", &left), ("right", &right)].map(|(name, checked)| Version::new(name, checked.clone()).unwrap());
    let twin = Twin::new(&versions[0], &versions[1]);
    let stimulus = |text: &str| {
        let stimulus = honest_twin::Stimulus::read(text, versions[0].machine()).unwrap();
        Scenario::of_stimulus(&stimulus, &twin, 100)
    };
    assert!(found.is_passed(&twin, &stimulus("time_ms,Feed.Due\n100,1\n")));
    assert!(!found.is_passed(&twin, &stimulus("time_ms,Air.Low,Air.Fault\n100,1,0\n200,1,1\n")));
    assert!(!found.is_passed(&twin, &stimulus("time_ms,Feed.Night\n")));
}
