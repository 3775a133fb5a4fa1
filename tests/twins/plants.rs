//! Machines with plants before the search and the prover: what holds only because the plant answers, what breaks because it
//! does, and what a verdict says of it.

use honest_twin::lang::{Form, PlantFile, join_plant, read_project};
use honest_twin::model::Project;
use honest_twin::prove::{Means, prove, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::twin::{Effort, Rule, Twin, Verdict, Version, compare_twin};

fn source(path: &str) -> (Source, Form) {
    (Source::new(path, std::fs::read_to_string(path).unwrap()), Form::of_file(path).unwrap())
}

fn version(program: &str, plant: Option<(&str, &str)>) -> Version {
    let (mut project, problems): (Project, _) = read_project(vec![source(program)]);
    assert!(!problems.has_errors());
    if let Some((file, program)) = plant {
        let problems = join_plant(&mut project, &PlantFile::read(file).unwrap(), vec![source(program)]);
        assert!(!problems.has_errors(), "{problems:?}");
    }
    Version::new(program, honest_twin::check::check(project).unwrap()).unwrap()
}

const RACEWAY: &str = "demo/plants/raceway.st";
const SOUND: &str = "files = [\"raceway.st\"]\nevery = \"100ms\"\n";

fn raceway(program: &str, file: &str) -> Version {
    version(program, Some((file, RACEWAY)))
}

fn effort() -> Effort {
    Effort { scenarios: 400, scans: 400_000, faults: 24, ..Effort::default() }
}

/// A rule that the plant keeps is proved for whatever else happens; without it, with a float that hangs, or with a program
/// that waits for the wrong thing it is broken, and shown.
#[test]
fn a_rule_may_hold_only_because_the_plant_answers() {
    let rule = || vec![Rule::never("Overflow")];
    let verdict = |version: &Version| {
        let twin = Twin::single(version).with_rules(rule()).unwrap();
        prove(&twin, &Means::default(), |_| true)
    };
    let sound = raceway("demo/fresh_water.st", SOUND);
    let proved = verdict(&sound);
    let Verdict::Proved(found) = &proved else { panic!("{}", show::verdict(&proved)) };
    let said = "the plant answers as Raceway (demo/plants/raceway.st:3) does: it gives FloatLow and FloatTop, and sees FreshWater";
    assert!(found.assumptions.iter().any(|line| line == said), "{:?}", found.assumptions);
    let late = raceway("demo/fresh_water.st", &format!("{SOUND}delay = \"500ms\"\n"));
    assert!(matches!(verdict(&late), Verdict::Proved(_)), "{}", show::verdict(&verdict(&late)));
    let hangs = raceway("demo/fresh_water.st", &format!("{SOUND}[sensors]\nFloatLow = {{ stuck = true }}\n"));
    let timed = raceway("demo/fresh_water_timed.st", SOUND);
    for (what, version) in [("hangs", hangs), ("timed", timed), ("alone", version("demo/fresh_water.st", None))] {
        let found = verdict(&version);
        assert!(matches!(found, Verdict::Broken(_)), "{what}: {}", show::verdict(&found));
    }
    // The certificate of the proof is that of machine and plant together.
    let twin = Twin::single(&sound).with_rules(rule()).unwrap();
    let (_, certificate) = prove_certified(&twin, &Means::default(), |_| true);
    let certificate = certificate.unwrap();
    assert!(certificate.assumptions.contains(said), "{}", certificate.assumptions);
    let checked = recheck(&certificate.miter, &certificate.certificate);
    assert!(checked.is_ok(), "{checked:?}");
}

/// Two versions, each with a raceway of its own: they part where the water does, and only with the plant is that seen so soon.
#[test]
fn versions_are_compared_each_with_its_own_plant() {
    let [old, new] = ["demo/fresh_water.st", "demo/fresh_water_timed.st"].map(|program| raceway(program, SOUND));
    let twin = Twin::new(&old, &new);
    let verdict = compare_twin(&twin, &effort(), |_| {});
    let Verdict::Different(difference) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert!(difference.assumed.iter().any(|line| line.starts_with("the plant answers as Raceway")));
    // The plant's inputs that nobody gives are driven, those that are wired are not.
    let inputs: Vec<&str> = twin.pairing.inputs().iter().map(|pair| pair.name.as_str()).collect();
    assert_eq!(inputs, ["Service", "Raceway.Loss"]);
    let twin = Twin::new(&old, &old);
    let verdict = compare_twin(&twin, &effort(), |_| {});
    let Verdict::Tested(tested) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    // Faults are seeded into the program, not into the plant, and what is seen is the program.
    let strength = tested.strength.as_ref().unwrap();
    assert!(!strength.faults.is_empty());
    assert!(strength.faults.iter().all(|fault| fault.place.starts_with("demo/fresh_water.st")), "{strength:?}");
    assert!(tested.coverage[0].places.iter().all(|place| place.place.starts_with("demo/fresh_water.st")));
}

/// Rules ask for what the plant has, and for what sensors show of it.
#[test]
fn rules_speak_of_the_plant() {
    let program = raceway("demo/fresh_water.st", SOUND);
    let ask = |rule: &str| {
        let twin = Twin::single(&program).with_rules(vec![Rule::always(rule)]).unwrap();
        compare_twin(&twin, &effort(), |_| {})
    };
    for (rule, holds) in [
        ("Raceway.Level <= 1000", true),
        ("Raceway.Level < 660", false),
        ("NOT (FloatLow AND FloatTop)", true),
        ("FreshWater OR Raceway.Level > 300", false),
    ] {
        assert_eq!(matches!(ask(rule), Verdict::Tested(_)), holds, "{rule}: {}", show::verdict(&ask(rule)));
    }
    let unknown = ask("Raceway.Depth > 0");
    let Verdict::Undecided { reason, .. } = &unknown else { panic!("{}", show::verdict(&unknown)) };
    assert!(reason.contains("Depth"), "{reason}");
}
