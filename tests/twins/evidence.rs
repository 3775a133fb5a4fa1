//! What a verdict rests on: shrunk scenarios are minimal, a search goes on where it was cut off, rules, tolerance,
//! scenarios as text, strength, explanations, and what is written beside a verdict.

use crate::common::pages::found::pairs;
use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Direction, ScanTime, Stimulus, Trace, run_stimulus};
use honest_twin::show::{self, Dossier};
use honest_twin::twin::script::{Script, play, read_table};
use honest_twin::twin::{
    Difference, Effort, Law, Mapping, Rule, Search, SearchState, Tested, Tolerance, Twin, Verdict, Version, compare,
    compare_twin, traces,
};

fn st(name: &str, inputs: &str, outputs: &str, rest: &str) -> Version {
    let text = format!("PROGRAM Main\nVAR_INPUT {inputs} END_VAR\nVAR_OUTPUT {outputs} END_VAR\n{rest}\nEND_PROGRAM\n");
    version(name, &text, Language::St)
}

fn tested(verdict: Verdict) -> Tested {
    match verdict {
        Verdict::Tested(tested) => *tested,
        other => panic!("{}", show::verdict(&other)),
    }
}

fn different(verdict: Verdict) -> Difference {
    match verdict {
        Verdict::Different(difference) => *difference,
        other => panic!("{}", show::verdict(&other)),
    }
}

/// Whether both versions show the same outputs on a stimulus, judged by the scan engine alone.
fn differ(versions: &[Version; 2], stimulus: &Stimulus, scans: u64) -> bool {
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let [a, b] = [0, 1].map(|side: usize| {
        let machine = versions[side].machine();
        let trace = run_stimulus(&mut Controller::new(machine), stimulus, &time, scans, &[]);
        let outputs: Vec<usize> = (0..trace.names.len())
            .filter(|c| machine.point(machine.find(&trace.names[*c]).unwrap()).direction == Direction::Output)
            .collect();
        trace.rows().map(|r| outputs.iter().map(|c| r.2[*c].to_string()).collect::<Vec<_>>()).collect::<Vec<_>>()
    });
    a != b
}

#[test]
fn shrunk_scenarios_are_minimal() {
    let (mut looked, mut events) = (0, 0);
    for level in ["easy", "fair", "nasty"] {
        for pair in pairs(level).into_iter().filter(|p| !p.is_same()) {
            let versions = pair.versions();
            let effort = Effort { scenarios: 20_000, ..Effort::default() };
            let d = different(compare(&versions[0], &versions[1], &effort, |_| {}));
            if d.happenings > 60 || d.scan.0 > 40_000 {
                continue;
            }
            let whole = Stimulus::read(&d.stimulus, versions[0].machine()).unwrap();
            assert!(differ(&versions, &whole, d.scan.0 + 1), "{}: it does not replay", pair.title);
            looked += 1;
            for event in 0..whole.events.len() {
                let count = whole.events[event].set.len() + usize::from(whole.events[event].power.is_some());
                for part in 0..count {
                    let mut less = whole.clone();
                    let here = &mut less.events[event];
                    if part < here.set.len() {
                        here.set.remove(part);
                    } else {
                        here.power = None;
                    }
                    events += 1;
                    assert!(
                        !differ(&versions, &less, d.scan.0 + 1),
                        "{}: without event {event}.{part} it differs all the same:\n{}",
                        pair.title,
                        d.stimulus
                    );
                }
            }
        }
    }
    println!("{looked} shrunk scenarios, {events} events, each needed");
    assert!(looked >= 25, "{looked}");
}

fn blower() -> [Version; 2] {
    let vars = "VAR T : TON; N : INT; E : R_TRIG; END_VAR";
    let body = "T(IN := Low, PT := T#300ms); E(CLK := T.Q); IF E.Q AND N < 40 THEN N := N + 1; END_IF; Alarm := T.Q AND NOT Ack; Count := N;";
    let other = "T(IN := Low, PT := T#300ms); E(CLK := T.Q); IF E.Q AND N <= 39 THEN N := N + 1; END_IF; Alarm := NOT (NOT T.Q OR Ack); Count := N;";
    let make =
        |name: &str, body: &str| st(name, "Low, Ack : BOOL;", "Alarm : BOOL; Count : INT;", &format!("{vars}\n{body}"));
    [make("old", body), make("new", other)]
}

#[test]
fn a_search_that_was_cut_off_goes_on() {
    let [old, new] = blower();
    let twin = Twin::new(&old, &new);
    let effort = Effort { scenarios: 600, ..Effort::default() };
    let mut whole = Search::new(&twin, &effort);
    while whole.step() {}
    let mut first = Search::new(&twin, &effort);
    for _ in 0..4 {
        assert!(first.step());
    }
    // What is on disk when the process is killed.
    let text = serde_json::to_string(first.state()).unwrap();
    drop(first);
    let state: SearchState = serde_json::from_str(&text).unwrap();
    assert_eq!(state.scenarios(), 256);
    let mut second = Search::resume(&twin, &effort, state).unwrap();
    while second.step() {}
    assert_eq!(show::verdict(&whole.verdict()), show::verdict(&second.verdict()));
    // Another pair's state is refused.
    let other = st("other", "A : BOOL;", "B : BOOL;", "B := A;");
    let others = Twin::new(&other, &other);
    let refused = Search::resume(&others, &effort, second.state().clone());
    assert!(refused.is_err());
}

#[test]
fn parts_of_a_search_are_joined() {
    let [old, new] = blower();
    let twin = Twin::new(&old, &new);
    let effort = |part| Effort { scenarios: 300, shard: (part, 3), ..Effort::default() };
    let states: Vec<SearchState> = (0..3)
        .map(|part| {
            let mut search = Search::new(&twin, &effort(part));
            while search.step() {}
            search.state().clone()
        })
        .collect();
    let each: Vec<u64> = states.iter().map(SearchState::scenarios).collect();
    assert_eq!(each, [100, 100, 100]);
    let most = Effort { scenarios: 300, ..Effort::default() };
    let joined = tested(Search::merged(&twin, &most, states.clone()).unwrap().verdict());
    assert_eq!(joined.scenarios, 300);
    for state in states {
        let alone = tested(Search::resume(&twin, &most, state).unwrap().verdict());
        assert!(joined.coverage[0].conditions().met >= alone.coverage[0].conditions().met);
        assert!(joined.scans > alone.scans);
    }
}

#[test]
fn rules_hold_or_tell_who_breaks_them() {
    let outputs = "Duty, Standby : BOOL;";
    let left = st("old", "Run, Fault : BOOL;", outputs, "Duty := Run AND NOT Fault; Standby := Run AND Fault;");
    let right = st(
        "new",
        "Run, Fault : BOOL;",
        outputs,
        "VAR Extra : BOOL; END_VAR\nDuty := Run AND NOT Fault; Standby := Run AND Fault; Extra := Run;",
    );
    let rule = |name: &str, law: Law| Rule { name: name.to_string(), law };
    let rules = vec![
        rule("never both", Law::Never("Duty AND Standby".to_string())),
        rule("always one", Law::Always("Duty OR Standby".to_string())),
        rule("lasts", Law::Lasts("Duty".to_string(), Duration::from_millis(30))),
        rule("after", Law::After("Fault".to_string(), "Standby".to_string(), Duration::from_millis(20))),
        rule("only new", Law::Never("Extra AND Fault".to_string())),
    ];
    let twin = Twin::new(&left, &right).with_rules(rules).unwrap();
    let verdict = compare_twin(&twin, &Effort { scenarios: 300, ..Effort::default() }, |_| {});
    let text = show::verdict(&verdict);
    let lines: Vec<&str> = text.lines().filter(|l| l.trim().starts_with("rule ")).collect();
    insta::assert_snapshot!(lines.join("\n"));
    let tested = tested(verdict);
    assert!(tested.rules[1].breach.is_some(), "what breaks a rule is shown");
}

#[test]
fn scan_times_of_their_own_and_tolerance() {
    let make = |name: &str, body: &str| st(name, "Key : BOOL;", "Lamp : BOOL;", body);
    let slow = make("slow", "Lamp := Key;");
    let quick = make("quick", "Lamp := Key;");
    let times = [ScanTime::Fixed(Duration::from_millis(10)), ScanTime::Fixed(Duration::from_millis(7))];
    let effort = Effort { scenarios: 400, ..Effort::default() };
    // A key that is shorter than a scan of the slower side is lost there, and a lost pulse is a difference.
    let d = different(compare_twin(&Twin::new(&slow, &quick).free(times.clone()), &effort, |_| {}));
    assert!(d.explanation.hints.iter().any(|h| h.trap == 26), "{}", show::verdict(&Verdict::Different(Box::new(d))));
    // In lockstep a scan late is a difference, unless that much is allowed.
    let late = make("late", "VAR RETAIN M : BOOL; END_VAR\nLamp := M; M := Key;");
    assert!(matches!(compare(&slow, &late, &effort, |_| {}), Verdict::Different(_)));
    let mut twin = Twin::new(&slow, &late);
    // STOP may lie between the two, for five scans at most.
    twin.pairing.tolerate(None, Tolerance::Within(Duration::from_millis(60))).unwrap();
    let t = tested(compare_twin(&twin, &effort, |_| {}));
    let spread = &t.spreads[0];
    assert!(spread.changes > 1_000 && spread.worst <= Duration::from_millis(60), "{spread:?}");
    assert!(spread.histogram[1] * 10 > spread.changes * 8, "nearly every change is one scan late: {spread:?}");
    // Two scans late is too late.
    let later = make("later", "VAR RETAIN M, N : BOOL; END_VAR\nLamp := N; N := M; M := Key;");
    let mut twin = Twin::new(&slow, &later);
    twin.pairing.tolerate(Some("lamp"), Tolerance::Within(Duration::from_millis(10))).unwrap();
    assert!(
        twin.pairing.tolerate(Some("Key"), Tolerance::Exact).unwrap_err().to_string().contains("`Key` is not compared")
    );
    let d = different(compare_twin(&twin, &effort, |_| {}));
    assert!(d.unmet.iter().any(|u| u.version == "slow" && u.tolerance == "within 10ms"), "{:?}", d.unmet);
    let text = show::verdict(&Verdict::Different(Box::new(d)));
    assert!(text.contains("slow: Lamp changed to 1 by "), "{text}");
    assert!(text.contains("and the other has no such change within 10ms"), "{text}");
}

#[test]
fn pairs_may_be_inverted_and_scaled() {
    let left =
        st("old", "Closed : BOOL; Ticks : INT;", "Off : BOOL; Left : INT;", "Off := NOT Closed; Left := Ticks / 2;");
    let right = st("new", "Open : BOOL; Time : TIME;", "On : BOOL; Rest : TIME;", "On := NOT Open; Rest := Time / 2;");
    let versions = [&left, &right];
    let mut twin = Twin::new(&left, &right);
    assert!(twin.pairing.outputs().is_empty() && twin.pairing.alone().len() == 8);
    twin.pairing.pair(versions, ["Closed", "Open"], Mapping::Inverted).unwrap();
    twin.pairing.pair(versions, ["Off", "On"], Mapping::Inverted).unwrap();
    let tick = Mapping::Scaled(100_000_000, 1);
    twin.pairing.pair(versions, ["Ticks", "Time"], tick).unwrap().range = Some((0, 1000));
    twin.pairing.pair(versions, ["Left", "Rest"], tick).unwrap();
    // Half of an odd number of ticks is less in whole ticks than as a time.
    let d = different(compare_twin(&twin, &Effort::default(), |_| {}));
    assert_eq!(d.name, "Left");
    twin.pairing.leave("Left").unwrap();
    tested(compare_twin(&twin, &Effort { scenarios: 200, ..Effort::default() }, |_| {}));
    let wrong = twin.pairing.pair(versions, ["Off", "Open"], Mapping::Same).unwrap_err();
    assert_eq!(wrong.to_string(), "`Off` and `Open` are not both inputs or both outputs");
}

const RINSE: &str = "
# a rinse and what comes after
hold Level
expect Pump within 50ms
expect Pump for 1s
drop Level
wait until NOT Pump at most 3s
expect Pump unchanged for 500ms
press Key 3 times, 20ms on, 30ms off
expect Count = 3
repeat 2 times
    press Key for 10ms
    wait 2 scans
end
expect Count = 5
ramp Water from 0 to 10 in 100ms
expect Full
power off for 1s
expect Count = 0
force Pump to on
wait 50ms
expect Pump
release Pump
wait 1 scan
expect NOT Pump";

fn rinse(limit: i64) -> Version {
    st(
        "rinse.st",
        "Level, Key : BOOL; Water : INT;",
        "Pump, Full : BOOL; Count : INT;",
        &format!(
            "VAR T : TOF; C : CTU; END_VAR\nT(IN := Level, PT := T#2s); Pump := T.Q; C(CU := Key, PV := 9); Count := C.CV; Full := Water >= {limit};"
        ),
    )
}

#[test]
fn a_scenario_plays_on_every_version() {
    let script = Script::read("rinse", RINSE).unwrap();
    let (good, bad) = (rinse(10), rinse(11).called("other"));
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let played = play(&script, &[&good, &bad], &time).unwrap();
    let told: Vec<String> =
        played.failures.iter().map(|f| format!("{} line {}: {}", f.version, f.line, f.what)).collect();
    assert_eq!(told, ["other line 17: expected Full; found Full = FALSE"]);
    assert_eq!(played.asked, 20);
    // What was given is a stimulus that does the same, but for what was forced.
    let again = run_stimulus(&mut Controller::new(good.machine()), &played.stimulus, &time, 250, &[]);
    let first = |trace: &Trace| trace.rows().take(250).map(|row| format!("{row:?}")).collect::<Vec<_>>();
    assert_eq!(first(&again), first(&played.traces[0]));
}

#[test]
fn what_is_wrong_with_scenarios() {
    let version = rinse(10);
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let cases = [
        "prss Key",
        "press Key for ever",
        "press Key 3 times, often",
        "wait",
        "wait until Pump",
        "wait 1x",
        "repeat 3 times",
        "end",
        "repeat many times\nend",
        "expect",
        "expect Pump AND",
        "expect Nothing",
        "set Level",
        "set Nothing on",
        "set Water to full",
        "set Water to 99999",
        "ramp Water from a to b in 1s",
        "force Nothing to on",
        "power up",
        "expect Count",
        "hold Level now",
        "expect Pump within",
        "press Pump for 1s",
        "wait -1s",
    ];
    let mut told = String::new();
    for text in cases {
        let said = match Script::read("x", text).and_then(|s| play(&s, &[&version], &time)) {
            Ok(played) => format!("{} asked, {} not met", played.asked, played.failures.len()),
            Err(e) => e.to_string(),
        };
        told.push_str(&format!("{}\n    {said}\n", text.replace('\n', " / ")));
    }
    insta::assert_snapshot!(told);
}

#[test]
fn a_sequence_table_is_a_scenario() {
    let version = rinse(10);
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let table = "step,@for_ms,@settle_ms,Level,Water,Pump,Full,Count,@note\nrest,100,,0,0,0,0,0,\nrinse,500,20,1,,1,,,at once\nlong,3000,,0,12,0,1,,over by then\n";
    let played = play(&read_table("t.csv", table, version.machine()).unwrap(), &[&version], &time).unwrap();
    assert_eq!((played.asked, played.failures.len()), (6, 0), "{:?}", played.failures);
    let times = "time_ms,Level,Pump\n0,0,0\n200,1,0\n";
    let played = play(&read_table("t.csv", times, version.machine()).unwrap(), &[&version], &time).unwrap();
    let told: Vec<String> = played.failures.iter().map(|f| format!("line {}: {}", f.line, f.what)).collect();
    assert_eq!(told, ["line 3: expected NOT Pump; found Pump = TRUE"]);
    let wrong = |text: &str| read_table("t.csv", text, version.machine()).unwrap_err().to_string();
    assert_eq!(wrong("when,Level\n"), "line 1: the first column is `time_ms` or `step`");
    assert_eq!(wrong("step,Level\na,1\n"), "line 2: a step needs its length in `@for_ms`");
    assert_eq!(wrong("time_ms,Lever\n"), "line 1: there is no variable `Lever`");
    assert_eq!(wrong("time_ms,Level\n5,1\n5,0\n"), "line 2: a row lasts longer than no time, and times rise");
}

#[test]
fn waves_go_out_and_come_back() {
    let [old, new] = blower();
    let twin = Twin::new(&old, &new);
    let t = tested(compare_twin(&twin, &Effort { scenarios: 200, ..Effort::default() }, |_| {}));
    let both = traces(&twin, &t.sample, 0, 1_000);
    let text = show::vcd(&both, &["old", "new"]).unwrap();
    let stimulus = Stimulus::from_vcd(&text, old.machine()).unwrap();
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let scans = both[0].scans().len() as u64;
    // Power cycles are no signals.
    if t.sample.power_cycles() == 0 {
        let again = run_stimulus(&mut Controller::new(old.machine()), &stimulus, &time, scans, &[]);
        assert!(again.rows().eq(both[0].rows()));
    }
    assert!(Stimulus::from_vcd("$enddefinitions $end\n", old.machine()).is_err());
    assert!(Stimulus::from_vcd("no wave", old.machine()).is_err());
}

#[test]
fn seeded_faults_are_found() {
    let [old, new] = blower();
    let verdict = compare(&old, &new, &Effort { scenarios: 1_000, faults: 30, ..Effort::default() }, |_| {});
    let strength = tested(verdict).strength.unwrap();
    let lost: Vec<String> = strength.survivors().map(|f| format!("{}: {}", f.kind.words(), f.text)).collect();
    println!("{} of {} found; not found: {lost:#?}", strength.caught(), strength.faults.len());
    assert!(strength.faults.len() >= 12 && strength.caught() * 10 >= strength.faults.len() * 8, "{lost:#?}");
}

#[test]
fn a_report_needs_nothing_else() {
    let [old, new] = blower();
    let twin = Twin::new(&old, &new);
    let verdict = compare_twin(&twin, &Effort { scenarios: 200, faults: 4, ..Effort::default() }, |_| {});
    let dossier = Dossier { title: "Blowers <A & B>".to_string(), ..Dossier::default() };
    let page = show::report(&twin, &verdict, &dossier).unwrap();
    for part in ["Blowers &lt;A &amp; B&gt;", "Same in every scenario tried", "Coverage", "Strength", "SHA-256", "<svg"]
    {
        assert!(page.contains(part), "{part}");
    }
    for outside in ["src=\"http", "href=\"http", "@import", "<script", "url("] {
        assert!(!page.contains(outside), "{outside}");
    }
    let junit = show::junit(&twin, &verdict, &[]).unwrap();
    assert!(junit.contains("<testcase") && junit.contains("failures=\"0\""), "{junit}");
    let late = "Alarm := T.Q AND NOT Ack; T(IN := Low, PT := T#300ms);";
    let broken =
        st("broken", "Low, Ack : BOOL;", "Alarm : BOOL; Count : INT;", &format!("VAR T : TON; END_VAR {late}"));
    let twin = Twin::new(&old, &broken);
    let verdict = compare_twin(&twin, &Effort::default(), |_| {});
    let page = show::report(&twin, &verdict, &dossier).unwrap();
    for part in ["Different: Alarm", "The shortest scenario", "Why", "Looks like", "Both drawings"] {
        assert!(page.contains(part), "{part}");
    }
    assert!(show::junit(&twin, &verdict, &[]).unwrap().contains("<failure message=\"DIFFERENT: Alarm"));
}

/// How often the explanation of a trap's pair names that trap among its three.
#[test]
fn explanations_name_the_trap() {
    let (mut first, mut among, mut all, mut missed) = (0, 0, 0, Vec::new());
    for number in 1..=30u8 {
        let Some(versions) = crate::common::pages::traps::versions(number) else { continue };
        let verdict = compare(&versions[0], &versions[1], &Effort { scenarios: 2_000, ..Effort::default() }, |_| {});
        let Verdict::Different(d) = &verdict else { continue };
        all += 1;
        let hints: Vec<u8> = d.explanation.hints.iter().map(|h| h.trap).collect();
        first += u32::from(hints.first() == Some(&number));
        if hints.contains(&number) {
            among += 1;
        } else {
            missed.push((number, hints));
        }
        assert!(!d.explanation.parting.is_empty() && !d.explanation.script.is_empty());
    }
    println!("of {all} traps {first} are named first, {among} among the three; not named: {missed:?}");
    assert!(among * 3 >= all * 2 - 3, "{missed:?}");
}
