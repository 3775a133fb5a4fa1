//! One version by itself: rules and expectations that hold, are proved, or are broken by the shortest scenario there is.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::scan::{Controller, ScanTime, Stimulus};
use honest_twin::show::{self, Dossier};
use honest_twin::twin::script::{Script, play, read_table};
use honest_twin::twin::{Effort, Law, Rule, Scenario, Search, Stops, Twin, Verdict, Version, compare_twin};

/// Two blowers of a raceway: the standby one runs where the duty one fails, and a key that tests both.
fn blowers(standby: &str) -> Version {
    let text = format!(
        "PROGRAM Blowers
         VAR_INPUT Run, DutyFails, TestKey : BOOL; Code : DINT; END_VAR
         VAR_OUTPUT Duty, Standby, Alarm : BOOL; Failures : INT; END_VAR
         VAR Slow : TON; Before : BOOL; END_VAR
         Duty := Run AND NOT DutyFails;
         Standby := {standby};
         Slow(IN := DutyFails, PT := T#80ms);
         IF DutyFails AND NOT Before THEN Failures := Failures + 1; END_IF;
         Before := DutyFails;
         Alarm := Slow.Q;
         END_PROGRAM"
    );
    version("blowers", &text, Language::St)
}

fn asked<'v>(version: &'v Version, rules: &[Rule]) -> Twin<'v> {
    Twin::single(version).with_rules(rules.to_vec()).unwrap()
}

fn effort() -> Effort {
    Effort { scenarios: 400, scans: 300_000, ..Effort::default() }
}

fn words(verdict: &Verdict) -> &'static str {
    match verdict {
        Verdict::Tested(_) => "holds",
        Verdict::Proved(_) => "proved",
        Verdict::Broken(_) => "broken",
        Verdict::Undecided { .. } => "undecided",
        _ => "other",
    }
}

/// Each rule, what the search says, what the prover says, and of a broken one the scan in which it is at the earliest.
#[test]
fn rules_hold_are_proved_or_are_broken() {
    let after = |a: &str, b: &str, ms: i64| Rule::of(Law::After(a.into(), b.into(), Duration::from_millis(ms)));
    let lasts = |a: &str, ms: i64| Rule::of(Law::Lasts(a.into(), Duration::from_millis(ms)));
    let table: [(Rule, &str, &str, Option<u64>); 10] = [
        (Rule::never("Duty AND Standby"), "holds", "proved", None),
        (Rule::always("Run OR NOT Duty"), "holds", "proved", None),
        (Rule::never("Slow.Q AND NOT DutyFails"), "holds", "proved", None),
        // Power that is lost on the way starts the timer anew, and a STOP holds it.
        (after("DutyFails", "Alarm", 100), "broken", "broken", Some(11)),
        // The timer is done eight scans after the one that starts it.
        (after("DutyFails", "Alarm", 70), "broken", "broken", Some(8)),
        (Rule::never("Alarm"), "broken", "broken", Some(8)),
        (Rule::always("Duty"), "broken", "broken", Some(0)),
        (Rule::never("Failures > 2"), "broken", "broken", Some(4)),
        (lasts("Standby", 30), "broken", "broken", Some(1)),
        // One number among four thousand million, of which only the rule speaks.
        (Rule::never("Code = 123456 AND Duty AND Run"), "broken", "broken", Some(0)),
    ];
    let version = blowers("Run AND DutyFails");
    for (rule, searched, proved, scan) in table {
        let twin = asked(&version, std::slice::from_ref(&rule));
        for (verdict, wanted) in [
            (compare_twin(&twin, &effort(), |_| {}), searched),
            (prove(&twin, &Means { effort: effort(), ..Means::default() }, |_| true), proved),
        ] {
            assert_eq!(words(&verdict), wanted, "{}: {}", rule.name, show::verdict(&verdict));
            let broken = verdict.rules()[0].broken;
            assert_eq!(
                (broken[0].map(|b| b.scan.0), broken[1]),
                (scan, None),
                "{}: {}",
                rule.name,
                show::verdict(&verdict)
            );
            if wanted == "broken" {
                replays(&version, &verdict);
            }
        }
    }
}

/// Rules are asked of scans that run, in the search as in the proof: a controller that is switched on in STOP breaks none, nor does
/// one for which inputs change while it is stopped.
#[test]
fn what_does_not_run_breaks_no_rule() {
    let version = blowers("Run AND DutyFails");
    let time = ScanTime::Fixed(Duration::from_millis(10));
    for (rule, text, is_broken) in [
        (
            "Duty OR Standby OR NOT Run",
            "set Run on\nstop\nwait 50ms\nrun\nwait 50ms\npower cycle\nstop\nwait 50ms",
            false,
        ),
        ("Duty OR Standby OR NOT Run", "wait 10ms\nstop\nset Run on\nwait 50ms\nrun\nwait 50ms", false),
        ("Duty OR NOT Run", "wait 10ms\nstop\nset Run on\nset DutyFails on\nwait 50ms\nrun\nwait 50ms", true),
        ("Duty OR NOT Run", "stop\nset Run on\nset DutyFails on\nwait 50ms\nrun\nwait 50ms", true),
    ] {
        let mut twin = asked(&version, &[Rule::always(rule)]);
        let played = play(&Script::read("start", text).unwrap(), &[&version], &time).unwrap();
        twin.given.push(Scenario::of_stimulus(&played.stimulus, &twin, played.scans()));
        let verdict = compare_twin(&twin, &Effort { scenarios: 1, ..effort() }, |_| {});
        assert_eq!(matches!(verdict, Verdict::Broken(_)), is_broken, "{text}: {}", show::verdict(&verdict));
    }
    let twin = asked(&version, &[Rule::always("Duty OR Standby OR NOT Run")]);
    let verdict = prove(&twin, &Means { effort: effort(), ..Means::default() }, |_| true);
    let Verdict::Proved(proved) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    assert_eq!(proved.stops, Stops::Included);
    for seed in 2..6 {
        let verdict = compare_twin(&twin, &Effort { seed, ..effort() }, |_| {});
        assert!(matches!(verdict, Verdict::Tested(_)), "{}", show::verdict(&verdict));
    }
}

/// What a verdict prints breaks the rule when it is played by hand: the last row is that of the breach.
fn replays(version: &Version, verdict: &Verdict) {
    let breach = verdict.rules()[0].breach.as_deref().unwrap();
    let stimulus = Stimulus::read(&breach.stimulus, version.machine()).unwrap();
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let mut controller = Controller::new(version.machine());
    for at in time.clock().take(breach.scan.0 as usize + 1) {
        for event in stimulus.events.iter().filter(|event| event.at == at.0) {
            if let Some(power) = event.power {
                controller.power(power, at);
            }
            event.set.iter().for_each(|(point, value)| controller.set(*point, value).unwrap());
        }
        controller.scan(at);
    }
    let last = breach.rows.last().unwrap();
    assert_eq!(last.scan, breach.scan);
    for (name, value) in breach.names.iter().zip(&last.values) {
        let point = version.machine().find(name).unwrap();
        assert_eq!(controller.get(point).to_string(), *value, "{name} in {}", show::verdict(verdict));
    }
    let script = Script::read("again", &breach.script.join("\n")).unwrap();
    let played = play(&script, &[version], &time).unwrap();
    assert_eq!(played.scans(), breach.scan.0 + 1, "{}", breach.script.join("\n"));
}

#[test]
fn a_broken_rule_is_told_with_values_causes_and_trace() {
    let version = blowers("Run AND (DutyFails OR TestKey)");
    let rules = [Rule::never("Duty AND Standby"), Rule::never("Alarm AND NOT DutyFails")];
    let verdict = compare_twin(&asked(&version, &rules), &effort(), |_| {});
    insta::assert_snapshot!("one_version_breaks_a_rule", show::verdict(&verdict));
    let json: serde_json::Value = serde_json::to_value(&verdict).unwrap();
    assert_eq!(json["verdict"], "broken");
    assert_eq!(json["pairing"]["single"], true);
    assert_eq!(json["rules"][0]["breach"]["values"][0], serde_json::json!(["Duty", "TRUE"]));
    let twin = asked(&version, &rules);
    let junit = show::junit(&twin, &verdict, &[]).unwrap();
    assert!(junit.contains("tests=\"2\" failures=\"1\""), "{junit}");
    let page = show::report(&twin, &verdict, &show::Dossier::default()).unwrap();
    for word in ["Broken: rule never Duty AND Standby in scan 0", "What was driven", "set TestKey on"] {
        assert!(page.contains(word), "{word} is not on the page");
    }
    assert!(!page.contains("beside"), "a page about one version speaks of another");
}

#[test]
fn a_rule_that_breaks_in_a_comparison_is_told_in_the_same_detail() {
    let [old, new] = ["Run AND (DutyFails OR TestKey)", "Run AND (TestKey OR DutyFails)"].map(blowers);
    let twin = Twin::new(&old, &new).with_rules(vec![Rule::never("Duty AND Standby")]).unwrap();
    for verdict in [compare_twin(&twin, &effort(), |_| {}), prove(&twin, &Means::default(), |_| true)] {
        let breach = verdict.rules()[0].breach.as_deref().unwrap();
        assert_eq!((breach.scan.0, breach.happenings), (0, 2), "{}", show::verdict(&verdict));
        assert!(show::verdict(&verdict).contains("Rule never Duty AND Standby is broken by"), "{verdict:?}");
        assert_eq!(breach.values, [["Duty", "TRUE"], ["Standby", "TRUE"]].map(|v| v.map(String::from)));
        assert!(breach.causes.iter().any(|cause| cause.text.starts_with("Standby :=")), "{:?}", breach.causes);
        // The page tells what each cause has read, as the text does.
        let page = show::report(&twin, &verdict, &Dossier::default()).unwrap();
        let reads = breach.causes.iter().find(|cause| !cause.reads.is_empty()).unwrap();
        let [name, value] = &reads.reads[0];
        assert!(page.contains(&format!("with {name} = {value}")), "{page}");
    }
}

/// What a cause has written is told as it was then, not as it is at the end of the scan.
#[test]
fn a_value_that_was_read_before_it_was_written_again_is_told_as_it_was_read() {
    let text = "PROGRAM Doses VAR_INPUT Feed : BOOL; END_VAR VAR_OUTPUT Dose : INT; END_VAR VAR Step : INT; END_VAR
        IF Feed THEN Step := 5; END_IF; Dose := Step; Step := 7; END_PROGRAM";
    let version = version("doses", text, Language::St);
    let verdict = compare_twin(&asked(&version, &[Rule::never("Dose = 5")]), &effort(), |_| {});
    let breach = verdict.rules()[0].breach.as_deref().unwrap();
    let step = breach.causes.iter().find(|cause| cause.wrote[0] == "Step").unwrap();
    assert_eq!((step.wrote[1].as_str(), step.text.as_str()), ("5", "Step := 5"), "{:?}", breach.causes);
}

#[test]
fn scenarios_that_expect_something_are_judged() {
    let version = blowers("Run AND DutyFails");
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let good =
        Script::read("failover", "set Run on\nwait 20ms\nexpect Duty\nset DutyFails on\nwait 50ms\nexpect Standby")
            .unwrap();
    let bad = Script::read("impatient", "set DutyFails on\nwait 50ms\nexpect Alarm").unwrap();
    let forced = Script::read("by hand", "force Alarm to on\nwait 20ms\nexpect NOT Alarm").unwrap();
    let table =
        read_table("shift.csv", "time_ms,Run,DutyFails,Duty,@for_ms\n0,1,0,1,50\n50,1,1,1,50\n", version.machine())
            .unwrap();
    let silent = Script::read("silent", "set Run on\nwait 20ms").unwrap();
    for (script, wanted, scan) in [
        (&good, "holds", None),
        (&bad, "broken", Some(4)),
        (&forced, "broken", Some(1)),
        (&table, "broken", Some(9)),
        (&silent, "undecided", None),
    ] {
        let mut twin = Twin::single(&version);
        let played = play(script, &[&version], &time).unwrap();
        let judged = twin.judge(script, &played);
        twin.judged.extend(judged);
        let scenario = honest_twin::twin::Scenario::of_stimulus(&played.stimulus, &twin, played.scans());
        twin.given.push(scenario);
        let verdict = compare_twin(&twin, &effort(), |_| {});
        assert_eq!(words(&verdict), wanted, "{}: {}", script.name, show::verdict(&verdict));
        let first = verdict.rules().first().and_then(|rule| rule.broken[0]);
        assert_eq!(first.map(|broken| broken.scan.0), scan, "{}: {}", script.name, show::verdict(&verdict));
        // What was forced is in no stimulus, so nothing is shown that would not replay.
        let is_shown = verdict.rules().iter().any(|rule| rule.breach.is_some());
        assert_eq!(is_shown, scan.is_some() && script.name != forced.name, "{}", show::verdict(&verdict));
    }
}

#[test]
fn what_cannot_be_asked_is_undecided() {
    let version = blowers("Run AND DutyFails");
    for (rules, words) in [
        (vec![], "nothing is asked of it"),
        (vec![Rule::never("Missing")], "unknown name `Missing`"),
        (vec![Rule::never("Failures")], "is not BOOL"),
        (vec![Rule::never("Duty AND Standby"), Rule::always("Failures + 1")], "is not BOOL"),
    ] {
        let twin = asked(&version, &rules);
        for verdict in [compare_twin(&twin, &effort(), |_| {}), prove(&twin, &Means::default(), |_| true)] {
            let Verdict::Undecided { reason, .. } = &verdict else { panic!("{}", show::verdict(&verdict)) };
            assert!(reason.contains(words), "{reason}");
        }
    }
}

/// Faults are found where they break a rule; none is called harmless because no rule speaks of it.
#[test]
fn strength_is_that_of_the_rules() {
    let version = blowers("Run AND DutyFails");
    let effort = Effort { faults: 16, scenarios: 64, ..effort() };
    let caught = |rules: &[Rule]| {
        let twin = asked(&version, rules);
        let mut verdict = compare_twin(&twin, &effort, |_| {});
        let Verdict::Tested(tested) = &mut verdict else { panic!("{}", show::verdict(&verdict)) };
        let strength = tested.strength.as_mut().unwrap();
        honest_twin::prove::settle_faults(&twin, strength, &Means::default(), |_| {});
        assert_eq!(strength.harmless(), 0);
        strength.caught()
    };
    let weak = caught(&[Rule::always("Duty OR NOT Duty")]);
    let strong = caught(&[
        Rule::always("Duty = (Run AND NOT DutyFails)"),
        Rule::always("Standby = (Run AND DutyFails)"),
        Rule::never("Alarm AND NOT DutyFails"),
    ]);
    assert_eq!(weak, 0);
    assert!(strong > 4, "{strong}");
}

/// A proof about one version has a certificate that the checker of its own confirms.
#[test]
fn a_proof_about_one_version_is_certified() {
    let version = blowers("Run AND DutyFails");
    let twin = asked(&version, &[Rule::never("Duty AND Standby"), Rule::never("Slow.Q AND NOT DutyFails")]);
    let (verdict, certificate) = prove_certified(&twin, &Means::default(), |_| true);
    let certificate = certificate.unwrap_or_else(|| panic!("{}", show::verdict(&verdict)));
    let checked = recheck(&certificate.miter, &certificate.certificate).unwrap();
    let rules = checked.goals.iter().filter(|goal| goal.contains("rule")).count();
    assert_eq!(rules, 2, "{:?}", checked.goals);
    // One of the rules alone may be broken: the other one is still proved.
    let twin = asked(&version, &[Rule::never("Duty AND Standby"), Rule::never("Alarm")]);
    let verdict = prove(&twin, &Means::default(), |_| true);
    assert_eq!(words(&verdict), "broken");
    assert_eq!([0, 1].map(|n: usize| verdict.rules()[n].proved[0]), [true, false], "{}", show::verdict(&verdict));
}

/// A search that was written down, or made in parts, knows of a rule that was broken before.
#[test]
fn a_broken_rule_is_not_forgotten_between_searches() {
    let version = blowers("Run AND (DutyFails OR TestKey)");
    let twin = asked(&version, &[Rule::never("Duty AND Standby")]);
    let mut first = Search::new(&twin, &effort());
    while first.step() {}
    assert_eq!(words(&first.verdict()), "broken");
    let again = Search::resume(&twin, &effort(), first.state().clone()).unwrap();
    assert_eq!(words(&again.verdict()), "broken");
    let fresh = Search::new(&twin, &Effort { scenarios: 0, ..effort() }).state().clone();
    let both = Search::merged(&twin, &effort(), vec![fresh, first.state().clone()]).unwrap();
    assert_eq!(words(&both.verdict()), "broken");
    let other = blowers("Run");
    let other = asked(&other, &[Rule::never("Alarm"), Rule::never("Duty")]);
    assert!(Search::resume(&other, &effort(), first.state().clone()).is_err());
}
