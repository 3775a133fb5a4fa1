//! How much is tried: an effort by its name, what ends a search, that the same effort tries the same, and that it is the same
//! work for small programs and for large ones.

use crate::common::version;
use honest_twin::lang::Language;
use honest_twin::show;
use honest_twin::twin::file::TwinFile;
use honest_twin::twin::{Activity, Effort, Ended, Progress, Search, Tested, Twin, Verdict, Version, compare_twin};

/// A text, and how many hundredths of the default it names.
const NAMED: &[(&str, Option<u64>)] = &[
    ("quick", Some(10)),
    ("default", Some(100)),
    ("deep", Some(3_000)),
    ("1", Some(100)),
    ("2.5", Some(250)),
    ("0.01", Some(1)),
    ("10000", Some(1_000_000)),
    ("0.001", None),
    ("0", None),
    ("-3", None),
    ("10001", None),
    ("Deep", None),
    ("", None),
    ("inf", None),
    ("NaN", None),
    ("10 s", None),
];

#[test]
fn efforts_have_names() {
    for (name, percent) in NAMED {
        let sizes = |e: Effort| (e.scenarios, e.scans, e.work);
        let found = Effort::named(name).map(sizes);
        assert_eq!(found, percent.map(Effort::sized).map(sizes), "{name:?}");
        let file = TwinFile::read(&format!("[[version]]\nfiles = [\"a.st\"]\n[effort]\nlevel = \"{name}\"\n")).unwrap();
        match file.effort(&Effort { seed: 9, ..Effort::default() }) {
            Ok(effort) => assert_eq!((Some(sizes(effort.clone())), effort.seed), (found, 9), "{name:?}"),
            Err(why) => {
                assert!(percent.is_none(), "{name:?}: {why}");
                assert!(why.to_string().starts_with("level is `quick`, `default`, `deep` or"), "{why}");
            }
        }
    }
}

/// So many latches, each with an input of its own and a timer.
fn latches(count: usize) -> Version {
    let list = |what: &str| (0..count).map(|n| format!("{what}{n}")).collect::<Vec<_>>().join(", ");
    let body: String = (0..count)
        .map(|n| {
            format!(
                "T{n}(IN := In{n} OR Out{n}, PT := T#{}ms);\nOut{n} := T{n}.Q AND NOT In{};\n",
                20 + n,
                (n + 1) % count
            )
        })
        .collect();
    let text = format!(
        "PROGRAM P\nVAR_INPUT {} : BOOL; END_VAR\nVAR_OUTPUT {} : BOOL; END_VAR\nVAR {} : TON; END_VAR\n{body}END_PROGRAM\n",
        list("In"),
        list("Out"),
        list("T"),
    );
    version("latches", &text, Language::St)
}

/// What takes a circuit longer than its bits tell is paid for: of products of wide numbers, of quotients and of real numbers it runs
/// fewer scans with the same effort.
#[test]
fn a_circuit_of_products_runs_fewer_scans() {
    let wide = |ty: &str, operation: &str, first: &str| {
        let list = |what: &str| (0..100).map(|n| format!("{what}{n}")).collect::<Vec<_>>().join(", ");
        // Each version has doses of its own: what hangs on inputs alone is computed for both at once.
        let body: String = (0..100).map(|n| format!("Dose{n} := Dose{n} {operation} Feed{n};\n")).collect();
        let text = format!(
            "PROGRAM P\nVAR_INPUT {} : {ty}; END_VAR\nVAR_OUTPUT {} : {ty} := {first}; END_VAR\n{body}END_PROGRAM\n",
            list("Feed"),
            list("Dose"),
        );
        let version = version("doses", &text, Language::St);
        let found = tested(&Twin::new(&version, &version), &Effort { faults: 0, ..Effort::sized(10) });
        println!("{ty} {operation}: {} scans", found.wide);
        found.wide
    };
    let sums = wide("INT", "+", "1");
    // By their bits alone they would be as many: there the scans are used up first.
    for (ty, operation, first) in [("LINT", "*", "1"), ("LREAL", "+", "1.5"), ("REAL", "*", "1.5")] {
        let scans = wide(ty, operation, first);
        assert!(scans > 0 && scans * 4 < sums, "{ty} {operation}: {scans} scans beside {sums}");
    }
}

fn tested(twin: &Twin<'_>, effort: &Effort) -> Tested {
    match compare_twin(twin, effort, |_| {}) {
        Verdict::Tested(tested) => *tested,
        other => panic!("{}", show::verdict(&other)),
    }
}

#[test]
fn what_is_used_up_first_ends_it() {
    let version = latches(4);
    let twin = Twin::new(&version, &version);
    let little = Effort { scenarios: 10, scans: 1_000, work: 1_000_000, ..Effort::default() };
    let rows = [
        (
            Effort { scenarios: 10_000, work: u64::MAX, ..little.clone() },
            Ended::Scans,
            "the scans of the effort were run",
        ),
        (
            Effort { scans: 10_000_000, work: u64::MAX, ..little.clone() },
            Ended::Scenarios,
            "all scenarios of the effort were tried",
        ),
        (
            Effort { scenarios: 10_000, scans: 10_000_000, work: 300_000, ..little.clone() },
            Ended::Work,
            "the work of the effort was used up",
        ),
    ];
    for (effort, ended, words) in rows {
        let found = tested(&twin, &effort);
        assert_eq!(found.ended, ended, "{effort:?}");
        let text = show::verdict(&Verdict::Tested(Box::new(found)));
        assert!(text.contains(&format!("  ended:    {words}\n")), "{text}");
    }
    // Whoever has a clock ends it; what was tried until then is told as that.
    let mut search = Search::new(&twin, &Effort { scenarios: 100_000, ..little });
    assert!(search.step());
    twin.halt.ring();
    assert!(!search.step());
    let Verdict::Tested(found) = search.verdict() else { panic!("{:?}", search.verdict()) };
    assert_eq!((found.ended, found.scenarios), (Ended::Halted, 64));
    assert!(show::verdict(&Verdict::Tested(found)).contains("it was ended before its effort was used up"));
}

/// A round that was cut short counts for nothing, so whoever goes on comes to where nobody had interrupted it.
#[test]
fn what_was_cut_short_is_done_anew() {
    let version = latches(6);
    let effort = Effort { scenarios: 640, faults: 0, ..Effort::default() };
    let whole = {
        let twin = Twin::new(&version, &version);
        let mut search = Search::new(&twin, &effort);
        while search.step() {}
        serde_json::to_string(search.state()).unwrap()
    };
    for pause in [0, 2, 7, 20] {
        let twin = Twin::new(&version, &version);
        let mut search = Search::new(&twin, &effort);
        assert!(search.step());
        let halt = twin.halt.clone();
        let rings = std::thread::spawn(move || {
            std::thread::sleep(std::time::Duration::from_millis(pause));
            halt.ring();
        });
        while search.step() {}
        rings.join().unwrap();
        let cut = search.state().clone();
        let twin = Twin::new(&version, &version);
        let mut search = Search::resume(&twin, &effort, cut).unwrap();
        while search.step() {}
        assert_eq!(serde_json::to_string(search.state()).unwrap(), whole, "after {pause} ms");
    }
}

#[test]
fn the_same_effort_tries_the_same() {
    let version = latches(6);
    let twin = Twin::new(&version, &version);
    let effort = Effort { faults: 20, work: 4_000_000, ..Effort::default() };
    let first = serde_json::to_string(&tested(&twin, &effort)).unwrap();
    for threads in [1, 3] {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        let again = pool.install(|| serde_json::to_string(&tested(&twin, &effort)).unwrap());
        assert!(first == again, "with {threads} threads\n{first}\n{again}");
    }
}

#[test]
fn a_large_program_has_the_same_work() {
    let work = 3_000_000;
    let mut scans = Vec::new();
    for size in [5, 50, 150] {
        let version = latches(size);
        let twin = Twin::new(&version, &version);
        let found = tested(&twin, &Effort { work, ..Effort::default() });
        assert_eq!(found.ended, Ended::Work, "{size} latches");
        let operations = 2 * version.machine().operations() as u64;
        // A round of scenarios is ended that was begun.
        let most = work + 64 * 40_000 * operations;
        assert!(found.scans * operations <= most, "{size} latches: {} scans of {operations}", found.scans);
        scans.push(found.scans);
    }
    println!("{scans:?} scans");
    assert!(scans[0] > scans[2], "{scans:?}");
}

/// Faults that there was no work for are told as not tried, and not as missed.
#[test]
fn what_was_not_tried_is_not_missed() {
    let version = latches(40);
    let twin = Twin::new(&version, &version);
    let mut seen: Vec<Progress> = Vec::new();
    let effort = Effort { faults: 30, work: 4_000_000, ..Effort::default() };
    let verdict = compare_twin(&twin, &effort, |p| seen.push(p));
    let Verdict::Tested(found) = &verdict else { panic!("{}", show::verdict(&verdict)) };
    let strength = found.strength.as_ref().unwrap();
    assert!(strength.untried > 0 && !strength.faults.is_empty(), "{strength:?}");
    assert_eq!(strength.untried + strength.faults.len(), 30);
    let words = format!("; {} more faults not tried: the effort or the time was used up", strength.untried);
    assert!(show::verdict(&verdict).contains(&words), "{}", show::verdict(&verdict));
    let faults: Vec<&Progress> = seen.iter().filter(|p| p.step == Activity::Faults).collect();
    assert!(!faults.is_empty() && faults.iter().all(|p| p.done <= p.of), "{seen:?}");
    // With all the work there is they are all tried, and most are found.
    let found = tested(&twin, &Effort { faults: 30, work: 400_000_000, scenarios: 300, ..Effort::default() });
    let strength = found.strength.unwrap();
    println!("{} of {} found", strength.caught(), strength.faults.len());
    assert_eq!((strength.untried, strength.faults.len()), (0, 30));
    assert!(strength.caught() >= 20, "{strength:?}");
}

/// A number of doses, one by one, in a loop of so many rounds more than `Few`.
fn doses(rounds: &str) -> Version {
    let text = format!(
        "PROGRAM Feeder\nVAR_INPUT Few : INT; On : BOOL; END_VAR\nVAR_OUTPUT Doses : DINT; END_VAR\nVAR n : INT; Most : INT; END_VAR\n\
         Most := {rounds};\nn := 0;\nWHILE n < Most DO\n    n := n + 1;\n    IF On THEN Doses := Doses + 1; END_IF;\nEND_WHILE;\nEND_PROGRAM\n"
    );
    version("feeder", &text, Language::St)
}

/// What the circuit does not hold it has not run, and no scan of that is counted.
#[test]
fn the_circuit_counts_what_it_holds() {
    let counted = |rounds: &str| {
        let version = doses(rounds);
        let found = tested(&Twin::new(&version, &version), &Effort { scenarios: 64, faults: 0, ..Effort::default() });
        let text = show::verdict(&Verdict::Tested(Box::new(found.clone())));
        (found.wide, text)
    };
    let [none, some, all] = ["LIMIT(80, Few, 90)", "LIMIT(0, Few, 90)", "LIMIT(0, Few, 20)"].map(counted);
    assert!(none.0 == 0 && none.1.contains("circuit:  none: a loop runs more rounds than it holds"), "{}", none.1);
    assert!(0 < some.0 && some.0 < all.0, "{} and {}", some.0, all.0);
    assert!(!some.1.contains("circuit:  none") && some.1.contains("256 scenarios at a time"), "{}", some.1);
}

/// A fault that makes a loop endless stops the controller in the first scan; the circuit does not hold such a loop, the tape does.
#[test]
fn endless_loops_are_found() {
    let version = doses("LIMIT(0, Few, 20)");
    let effort = Effort { scenarios: 64, faults: 60, ..Effort::default() };
    let strength = tested(&Twin::new(&version, &version), &effort).strength.unwrap();
    let endless = strength.faults.iter().filter(|fault| fault.text == "n := n + 1");
    let told: Vec<_> = endless.map(|fault| (fault.text.as_str(), fault.caught)).collect();
    assert!(!told.is_empty() && told.iter().all(|(_, caught)| *caught), "{told:?} of {:?}", strength.faults);
}

/// Of outputs that never changed the first few are named.
#[test]
fn what_never_moved_is_told_in_one_line() {
    let still = |count: usize| {
        let names = (0..count).map(|n| format!("Spare{n}")).collect::<Vec<_>>().join(", ");
        let list = if count == 0 { String::new() } else { format!("{names} : BOOL; ") };
        let text = format!(
            "PROGRAM P\nVAR_INPUT On : BOOL; END_VAR\nVAR_OUTPUT {list}Heat : BOOL; END_VAR\nHeat := On;\nEND_PROGRAM\n"
        );
        let version = version("heater", &text, Language::St);
        let found = tested(&Twin::new(&version, &version), &Effort { scenarios: 8, faults: 0, ..Effort::default() });
        assert_eq!(found.never_changed.len(), count);
        let text = show::verdict(&Verdict::Tested(Box::new(found)));
        text.lines().filter(|line| line.contains("unmoved:")).map(|line| line.trim().to_string()).collect::<Vec<_>>()
    };
    assert!(still(0).is_empty());
    assert_eq!(still(1), ["unmoved:  output Spare0 never changed: nothing was learnt about it"]);
    assert_eq!(still(2), ["unmoved:  outputs Spare0, Spare1 never changed: nothing was learnt about them"]);
    let many = still(300);
    assert_eq!(many.len(), 1);
    assert!(many[0].contains("Spare11, and 288 more never changed"), "{many:?}");
}
