//! Differences that are known and agreed to: search and proof go on behind them, and say what else differs.

use crate::common::dialects::{families, programs, read_in};
use crate::common::version;
use honest_twin::dialect::library;
use honest_twin::lang::Language;
use honest_twin::prove::{Means, prove, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::show;
use honest_twin::translate::{Mode, foretold, migrate};
use honest_twin::twin::file::{FileVersion, TwinFile, write};
use honest_twin::twin::{Effort, Known, Twin, Verdict, Version, compare_twin};

/// A water heater: the pump follows the key, the alarm a timer, steps are counted.
fn heater(name: &str, body: &str) -> Version {
    let text = format!(
        "PROGRAM Heater
         VAR_INPUT Key, Cold, Door : BOOL; END_VAR
         VAR_OUTPUT Heat, Pump, Alarm : BOOL; Steps : INT; END_VAR
         VAR Slow : TON; Edge : R_TRIG; Own : BOOL; END_VAR
         {body}
         END_PROGRAM"
    );
    version(name, &text, Language::St)
}

const OLD: &str = "Heat := Cold AND NOT Door; Pump := Key; Slow(IN := Cold, PT := T#50ms); Alarm := Slow.Q;
    Edge(CLK := Key); IF Edge.Q THEN Steps := Steps + 1; END_IF;";

fn effort() -> Effort {
    Effort { scenarios: 200, scans: 100_000, ..Effort::default() }
}

fn known(when: &str, outputs: &[&str]) -> Known {
    let when = if when.is_empty() { None } else { Some(when.to_string()) };
    Known { why: "found in the field".to_string(), when, outputs: outputs.iter().map(ToString::to_string).collect() }
}

/// What is changed in the old program, what is known of it, and what differs beside it.
#[test]
fn what_is_known_is_passed_over_and_the_next_difference_is_told() {
    type Case<'c> = (&'c [(&'c str, &'c str)], Vec<Known>, Option<&'c str>);
    let table: [Case<'_>; 9] = [
        (&[], vec![], None),
        (&[("Pump := Key", "Pump := Key AND NOT Door")], vec![], Some("Pump")),
        (&[("Pump := Key", "Pump := Key AND NOT Door")], vec![known("Door", &["Pump"])], None),
        (&[("Pump := Key", "Pump := Key AND NOT Door")], vec![known("Door", &[])], None),
        (&[("Pump := Key", "Pump := Key AND NOT Door")], vec![known("Door AND Cold", &["Pump"])], Some("Pump")),
        (&[("Pump := Key", "Pump := Key AND NOT Door")], vec![known("", &["Pump"])], None),
        (
            &[("Pump := Key", "Pump := Key AND NOT Door"), ("T#50ms", "T#60ms")],
            vec![known("Door", &["Pump"])],
            Some("Alarm"),
        ),
        // The condition is asked of the version that has its names.
        (
            &[("Pump := Key", "Own := Door AND Cold; Pump := Key AND NOT Own"), ("Slow(", "(* *) Slow(")],
            vec![known("Own", &["Pump"])],
            None,
        ),
        (
            &[("Pump := Key", "Pump := Key AND NOT Door"), ("T#50ms", "T#60ms")],
            vec![known("Door", &["Pump"]), known("Slow.ET >= T#50ms", &["Alarm"])],
            None,
        ),
    ];
    for (changes, list, wanted) in table {
        let body = changes.iter().fold(OLD.to_string(), |body, (from, to)| body.replacen(from, to, 1));
        let [old, new] = [heater("old", OLD), heater("new", &body)];
        let twin = Twin::new(&old, &new).with_known(list.clone()).unwrap();
        let searched = compare_twin(&twin, &effort(), |_| {});
        let (proved, certificate) = prove_certified(&twin, &Means { effort: effort(), ..Means::default() }, |_| true);
        for verdict in [&searched, &proved] {
            let text = show::verdict(verdict);
            let differs =
                if let Verdict::Different(difference) = verdict { Some(difference.name.as_str()) } else { None };
            assert_eq!(differs, wanted, "{list:?}\n{text}");
            assert!(!text.contains("please report"), "{text}");
            let but = !list.is_empty() && wanted.is_none();
            assert_eq!(text.lines().next().unwrap().contains("BUT FOR WHAT IS KNOWN"), but, "{text}");
            assert!(list.iter().all(|known| text.contains(&format!("LIMITED: {known}"))), "{text}");
        }
        if wanted.is_none() {
            assert!(matches!(searched, Verdict::Tested(_)) && matches!(proved, Verdict::Proved(_)));
            let certificate = certificate.unwrap();
            recheck(&certificate.miter, &certificate.certificate).unwrap();
            assert!(list.iter().all(|known| certificate.assumptions.contains(&known.to_string())));
        }
    }
}

#[test]
fn what_cannot_be_known_is_an_error_or_leaves_nothing() {
    let [old, new] = [heater("old", OLD), heater("new", OLD)];
    for (list, words) in [
        (vec![known("", &["Nothing"])], "`Nothing` is no output that is compared"),
        (vec![known("", &["Key"])], "`Key` is no output that is compared"),
        (vec![known("Missing", &["Pump"])], "`Missing` can be asked of neither version"),
        (vec![known("Steps", &["Pump"])], "is not BOOL"),
    ] {
        let why = Twin::new(&old, &new).with_known(list).unwrap_err().to_string();
        assert!(why.contains(words), "{why}");
    }
    let why = Twin::single(&old).with_known(vec![known("Door", &[])]).unwrap_err().to_string();
    assert_eq!(why, "one version by itself has no difference that could be known");
    let twin = Twin::new(&old, &new).with_known(vec![known("", &[])]).unwrap();
    for verdict in [compare_twin(&twin, &effort(), |_| {}), prove(&twin, &Means::default(), |_| true)] {
        let Verdict::Undecided { reason, .. } = &verdict else { panic!("{}", show::verdict(&verdict)) };
        assert!(reason.contains("nothing is compared"), "{reason}");
    }
    let mut twin = Twin::new(&old, &new);
    let within = honest_twin::twin::Tolerance::Within(honest_twin::model::Duration::from_millis(20));
    twin.pairing.tolerate(Some("Pump"), within).unwrap();
    let why = twin.with_known(vec![known("Door", &["Pump"])]).unwrap_err().to_string();
    assert!(why.contains("within a tolerance"), "{why}");
}

/// A twin file says what is known and assumed, and what is saved says it again.
#[test]
fn twin_files_hold_what_is_known_and_assumed() {
    let [old, new] = [heater("old", OLD), heater("new", &OLD.replace("Pump := Key", "Pump := Key AND NOT Door"))];
    let text = "assume = [\"never-both=Key+Cold\", \"power-stays\"]
        [[version]]\nfiles = [\"old.st\"]\n[[version]]\nfiles = [\"new.st\"]
        [[known]]\nwhy = \"a door switch was added\"\nwhen = \"Door\"\noutputs = [\"Pump\"]\n";
    let file = TwinFile::read(text).unwrap();
    let twin = file.twin([&old, &new], [0, 1], [None, None], None).unwrap();
    let said: Vec<FileVersion> =
        ["old.st", "new.st"].map(|name| FileVersion { files: vec![name.to_string()], ..FileVersion::default() }).into();
    let saved = write(
        &twin,
        &said.iter().collect::<Vec<_>>(),
        [&["night.scenario".to_string()], &["screen.toml".to_string()]],
        &effort(),
    );
    let again = TwinFile::read(&saved).unwrap();
    assert_eq!(again.scenarios, ["night.scenario"]);
    assert_eq!(again.plants, ["screen.toml"]);
    assert_eq!(again.assume, file.assume);
    let twice = again.twin([&old, &new], [0, 1], [None, None], None).unwrap();
    assert_eq!(twice.pairing.known(), twin.pairing.known(), "{saved}");
    assert_eq!(twice.assumed(), twin.assumed(), "{saved}");
}

/// The outputs that hang on a variable, by what is computed from what.
#[test]
fn outputs_hang_on_what_they_are_computed_from() {
    let body = "Heat := Cold AND NOT Door; Own := Key OR (Own AND Cold); Pump := Own; Slow(IN := Cold, PT := T#50ms);
        IF Slow.Q THEN Alarm := TRUE; END_IF; Edge(CLK := Own); IF Edge.Q THEN Steps := Steps + 1; END_IF;";
    let version = heater("one", body);
    let twin = Twin::new(&version, &version);
    for (variable, wanted) in [
        ("Slow", &["Alarm"][..]),
        ("Own", &["Pump", "Steps"]),
        ("Edge", &["Steps"]),
        ("Steps", &["Steps"]),
        ("Heat", &[]),
        ("Nothing", &[]),
    ] {
        assert_eq!(twin.hanging_on(variable).unwrap(), wanted, "{variable}");
    }
}

/// Native migrations between families: what differs is foretold, and behind what the ledger names nothing else does.
#[test]
fn behind_what_a_ledger_foretells_nothing_else_differs() {
    let (mut different, mut the_same_behind, mut nothing_left) = (0, 0, 0);
    let mut number = 0;
    for from in families() {
        for (program, text, language) in programs(from) {
            let source = read_in(from, &program, &text, language);
            let left = Version::new("source", source.clone()).unwrap();
            for to in families().filter(|to| *to != from) {
                number += 1;
                if number % 3 != 0 {
                    continue;
                }
                let target = (Language::Il, Language::Il.into());
                let migrated = migrate(&source, &library(to).unwrap(), target, Mode::Native, None).unwrap();
                let right = Version::new("target", migrated.checked.clone()).unwrap();
                let twin = Twin::new(&left, &right);
                let verdict = compare_twin(&twin, &effort(), |_| {});
                let Verdict::Different(_) = &verdict else { continue };
                different += 1;
                let list = twin.known_of(foretold(&migrated.translation.ledger));
                let title = format!("{from}/{program} to {to}");
                assert!(!list.is_empty(), "{title}: {}", show::verdict(&verdict));
                match compare_twin(&twin.with_known(list).unwrap(), &effort(), |_| {}) {
                    Verdict::Tested(_) => the_same_behind += 1,
                    Verdict::Undecided { .. } => nothing_left += 1,
                    other => panic!("{title}: {}", show::verdict(&other)),
                }
            }
        }
    }
    println!("{different} different: {the_same_behind} the same behind it, {nothing_left} with nothing left");
    assert!(the_same_behind > 0 && different > 20);
}
