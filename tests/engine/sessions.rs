//! Sessions as people have them, act by act, with what was said (each was read); and what holds of every session.

use fastrand::Rng;
use honest_twin::dialect::{self, Tags, read_project_tagged};
use honest_twin::lang::{Form, PlantFile, join_plant};
use honest_twin::model::{Duration, Value};
use honest_twin::scan::{Controller, Direction, ScanTime, Stimulus, Trace, run_stimulus};
use honest_twin::session::{Session, Told};
use honest_twin::show;
use honest_twin::twin::script::{Script, play};
use honest_twin::twin::{Timing, Twin};
use honest_twin::{Checked, Source, Version, check, read_project};
use std::path::Path;

/// A project of one file of the standard with a plant, as its plant file says.
fn with_plant(path: &str, plant: &str) -> Version {
    let read = |path: &str| Source::new(path, std::fs::read_to_string(path).unwrap());
    let (mut project, problems) = read_project(vec![(read(path), Form::of_file(path).unwrap())]);
    assert!(!problems.has_errors(), "{problems:?}");
    let said = PlantFile::read(&std::fs::read_to_string(plant).unwrap()).unwrap();
    let beside = |file: &String| Path::new(plant).with_file_name(file).to_str().unwrap().to_string();
    let files = said.files.iter().map(beside).map(|file| (read(&file), Form::of_file(&file).unwrap())).collect();
    let problems = join_plant(&mut project, &said, files);
    assert!(!problems.has_errors(), "{problems:?}");
    Version::new(Path::new(path).file_name().unwrap().to_str().unwrap(), check(project).unwrap()).unwrap()
}

/// A project of one file, in its dialect, with the tag list if there is one.
fn checked(path: &str, tags: Option<&str>) -> Checked {
    let text = std::fs::read_to_string(path).unwrap();
    let form = Form::of_file(path).unwrap();
    let source = Source::new(path, text.as_str());
    let Some(name) = dialect::said(&text).filter(|name| *name != "iec") else {
        let (project, problems) = read_project(vec![(source, form)]);
        assert!(!problems.has_errors(), "{problems:?}");
        return check(project).unwrap();
    };
    let library = dialect::library(name).unwrap();
    let tags = tags.map(|path| Tags::read(&std::fs::read_to_string(path).unwrap(), &library.sheet).unwrap());
    let tags = tags.unwrap_or_default();
    let (project, problems) = read_project_tagged(vec![(source, form)], &library, &tags);
    assert!(!problems.has_errors(), "{problems:?}");
    check(project).unwrap().outside_by(&tags)
}

fn version(path: &str, tags: Option<&str>) -> Version {
    let name = Path::new(path).file_name().unwrap().to_str().unwrap();
    Version::new(name, checked(path, tags)).unwrap()
}

fn fixed(millis: i64) -> ScanTime {
    ScanTime::Fixed(Duration::from_millis(millis))
}

fn session(left: &Version, right: Option<&Version>, time: ScanTime) -> Session {
    let mut twin = right.map_or_else(|| Twin::single(left), |right| Twin::new(left, right));
    twin.timing = Timing::Lockstep(time);
    Session::new(twin).unwrap()
}

/// What a file of acts is about: the lines that say so stand at its beginning.
fn of_acts(text: &str) -> Session {
    let said = |word: &str| {
        text.lines().find_map(|line| line.strip_prefix("# ")?.strip_prefix(word)?.strip_prefix(' ').map(str::trim))
    };
    let left = match said("plant") {
        Some(plant) => with_plant(said("project").unwrap(), plant),
        None => version(said("project").unwrap(), said("tags")),
    };
    // The second version stands as it is; where both are at terminals, they are of the standard and of the old controller.
    let right = said("beside").map(|path| version(path, None));
    let time = said("scan").map_or(10, |time| time.trim_end_matches("ms").parse().unwrap());
    session(&left, right.as_ref(), fixed(time))
}

/// The session as the line mode writes it; files that are saved with their text.
fn transcript(text: &str) -> String {
    let mut session = of_acts(text);
    let mut out = String::new();
    for line in text.lines().filter(|line| !line.trim().is_empty()) {
        out.push_str(&format!("> {line}\n"));
        match session.line(line) {
            Ok(told) => {
                if let Told::Save { text, .. } = &told {
                    text.lines().for_each(|line| out.push_str(&format!("  | {line}\n")));
                }
                out.push_str(&show::told(&mut session, &told));
            }
            Err(why) => out.push_str(&format!("  not done: {why}\n")),
        }
    }
    out
}

#[test]
fn sessions_read_as_they_did() {
    let mut files: Vec<_> = std::fs::read_dir("tests/sessions").unwrap().map(|e| e.unwrap().path()).collect();
    files.retain(|path| path.extension().is_some_and(|e| e == "acts"));
    files.sort();
    assert!(files.len() >= 14);
    for path in files {
        let name = path.file_stem().unwrap().to_str().unwrap().to_string();
        insta::assert_snapshot!(name, transcript(&std::fs::read_to_string(&path).unwrap()));
    }
}

/// Acts at random, of all kinds that let time go by or change something.
fn acts(rng: &mut Rng, version: &Version, count: usize) -> Vec<String> {
    let machine = version.machine();
    let inputs: Vec<(String, bool)> = machine
        .points_of(Direction::Input)
        .map(|(_, point)| (point.name.clone(), point.ty.to_string() == "BOOL"))
        .collect();
    let others: Vec<String> = machine
        .points()
        .iter()
        .filter(|p| p.direction != Direction::Input && p.ty.to_string() == "BOOL" && !p.name.contains('.'))
        .map(|p| p.name.clone())
        .collect();
    let mut out = Vec::new();
    for _ in 0..count {
        let (input, is_bool) = inputs[rng.usize(..inputs.len())].clone();
        let act = match rng.u32(0..14) {
            0 | 1 if is_bool => format!("toggle {input}"),
            2 | 3 if is_bool => format!("press {input} for {}ms", rng.u32(1..40) * 10),
            4 if is_bool => format!("press {input} {} times, 20ms on, 30ms off", rng.u32(1..6)),
            5 if is_bool => format!("force {input} to {}", if rng.bool() { "on" } else { "off" }),
            6 => format!("release {input}"),
            7 if !others.is_empty() => format!("force {} to on", others[rng.usize(..others.len())]),
            8 if !others.is_empty() => format!("release {}", others[rng.usize(..others.len())]),
            9 if !others.is_empty() => format!("write {} to on", others[rng.usize(..others.len())]),
            10 => ["power cycle", "cold start", "stop", "run"][rng.usize(..4)].to_string(),
            _ if !is_bool => format!("set {input} to {}", rng.i32(-20..200)),
            _ => format!("wait {} scans", rng.u32(1..300)),
        };
        out.push(act);
    }
    out.push("wait 3 scans".to_string());
    out
}

const PROJECTS: &[(&str, Option<&str>)] = &[
    ("demo/rinse.il", None),
    ("demo/raceway.ld", None),
    ("demo/rinse_by_hand.st", None),
    ("demo/filter_old.il", Some("demo/filter_tags.csv")),
];

/// Everything that a version shows.
fn all(session: &Session) -> Vec<Value> {
    let controller = session.controller(0);
    controller.machine().find_all("*").into_iter().map(|point| controller.get(point)).collect()
}

#[test]
fn back_and_forward_lead_to_the_very_same() {
    let mut met = 0;
    for (number, (path, tags)) in PROJECTS.iter().enumerate() {
        let version = version(path, *tags);
        for seed in 0..12 {
            let mut rng = Rng::with_seed(100 * number as u64 + seed);
            let time = if seed % 3 == 2 {
                ScanTime::Range {
                    low: Duration::from_millis(4),
                    high: Duration::from_millis(17),
                    step: Duration::from_millis(1),
                    seed,
                }
            } else {
                fixed(10)
            };
            let mut session = session(&version, None, time);
            let mut seen = vec![(all(&session), 0, None)];
            for act in acts(&mut rng, &version, 30) {
                session.line(&act).unwrap();
                // Behind a wait nothing has happened yet that the next scan will see.
                if act.starts_with("wait") {
                    seen.push((all(&session), session.scans(), session.at()));
                }
            }
            let end = seen.last().unwrap().clone();
            for _ in 0..20 {
                let scans = rng.u64(0..=end.1);
                if scans < session.scans() {
                    session.line(&format!("back {} scans", session.scans() - scans)).unwrap();
                } else if scans > session.scans() {
                    session.line(&format!("forward {} scans", scans - session.scans())).unwrap();
                }
                assert_eq!(session.scans(), scans);
                if let Some((values, ..)) = seen.iter().find(|(_, at, _)| *at == scans) {
                    assert_eq!(&all(&session), values, "{path} seed {seed} scan {scans}");
                    met += 1;
                }
            }
            for (values, scans, _) in seen.iter().rev() {
                session.line("back to start").unwrap_or(Told::Nothing);
                if *scans > 0 {
                    session.line(&format!("forward {scans} scans")).unwrap();
                    assert_eq!(&all(&session), values, "{path} seed {seed} scan {scans}");
                    met += 1;
                }
            }
            session.line("forward to end").unwrap_or(Told::Nothing);
            assert_eq!((all(&session), session.scans(), session.at()), end, "{path} seed {seed}");
        }
    }
    assert!(met > 300, "{met}");
}

/// The values of a session's inputs and outputs, scan by scan.
fn trace_of(session: &mut Session) -> Vec<Vec<Value>> {
    let end = session.scans();
    let mut out = Vec::new();
    session.line("back to start").unwrap();
    for _ in 0..end {
        session.line("forward 1 scans").unwrap();
        let controller = session.controller(0);
        let points = [Direction::Input, Direction::Output].map(|d| controller.machine().points_of(d).map(|(id, _)| id));
        out.push(points.into_iter().flatten().map(|point| controller.get(point)).collect());
    }
    out
}

fn values(trace: &Trace) -> Vec<Vec<Value>> {
    trace.rows().map(|(_, _, values)| values.into_iter().cloned().collect()).collect()
}

#[test]
fn what_is_saved_replays_to_the_same_trace() {
    let (mut scenarios, mut stimuli) = (0, 0);
    for (path, tags) in PROJECTS {
        let version = version(path, *tags);
        for seed in 0..6 {
            let mut session = session(&version, None, fixed(10));
            for act in acts(&mut Rng::with_seed(seed), &version, 18) {
                session.line(&act).unwrap();
            }
            let Told::Save { text, .. } = session.line("save x.scenario").unwrap() else { panic!("a text") };
            let Told::Save { text: csv, .. } = session.line("save x.csv").unwrap() else { panic!("a text") };
            let seen = trace_of(&mut session);
            let played = play(&Script::read("x", &text).unwrap(), &[&version], &fixed(10)).unwrap();
            assert_eq!(values(&played.traces[0]), seen, "{path} seed {seed}\n{text}");
            scenarios += 1;
            let stimulus = Stimulus::read(&csv, version.machine()).unwrap();
            let mut controller = Controller::new(version.machine());
            let trace = run_stimulus(&mut controller, &stimulus, &fixed(10), seen.len() as u64, &[]);
            assert_eq!(values(&trace), seen, "{path} seed {seed}\n{csv}");
            // A trace is a stimulus too.
            let again = Stimulus::from_trace(&trace.write(), version.machine()).unwrap();
            let once_more =
                run_stimulus(&mut Controller::new(version.machine()), &again, &fixed(10), seen.len() as u64, &[]);
            assert_eq!(values(&once_more), seen, "{path} seed {seed}: the trace");
            stimuli += 1;
        }
    }
    assert_eq!((scenarios, stimuli), (24, 24));
}

#[test]
fn a_table_expects_what_was_seen_and_is_met() {
    let version = version("demo/raceway.ld", None);
    let mut session = session(&version, None, fixed(10));
    for line in [
        "set LidClosed on",
        "press FeedKey for 100ms",
        "wait 2s",
        "set Temp to 70",
        "wait 300ms",
        "hold LowOxygen",
        "wait 2500ms",
    ] {
        session.line(line).unwrap();
    }
    let Told::Save { text, what, .. } = session.line("save x.table.csv").unwrap() else { panic!("a text") };
    assert_eq!(what, "sequence table");
    let script = honest_twin::twin::script::read_table("x", &text, version.machine()).unwrap();
    let played = play(&script, &[&version], &fixed(10)).unwrap();
    assert!(played.asked >= 7 * 4, "{text}");
    assert!(played.failures.is_empty(), "{:?}\n{text}", played.failures);
    assert_eq!(values(&played.traces[0]), trace_of(&mut session), "{text}");
}

#[test]
fn a_changed_program_goes_on_with_its_memory() {
    let text = std::fs::read_to_string("demo/rinse.il").unwrap();
    let of = |text: String| {
        let (project, problems) = read_project(vec![(Source::new("rinse.il", text), honest_twin::Language::Il)]);
        assert!(!problems.has_errors());
        Version::new("rinse.il", check(project).unwrap()).unwrap()
    };
    let (old, new) = (
        of(text.clone()),
        of(text.replace("T#20s", "T#3s").replace("    Rinses : INT; ", "    Rinses : INT;\n    Fresh : BOOL;")),
    );
    let mut session = session(&old, None, fixed(10));
    session.line("press TestKey 2 times, 100ms on, 100ms off").unwrap();
    session.line("hold LevelHigh").unwrap();
    session.line("wait 2s").unwrap();
    let Told::Reread(kept) = session.reread(Twin::single(&new)).unwrap() else { panic!("what was kept") };
    assert_eq!(
        (kept[0].anew.as_slice(), kept[0].lost.len(), kept[0].edges_anew),
        (&["DRUMFILTER.FRESH".to_string()][..], 0, false)
    );
    // The rinse that was under way has its new preset, the count is what it was, and the stopwatch went on.
    assert_eq!(session.controller(0).get_named("Rinses"), Ok(Value::Int(3)));
    session.line("wait until NOT RinsePump at most 1100ms").unwrap();
    assert_eq!(session.controller(0).get_named("RinsePump"), Ok(Value::Bool(false)));
    let end = all(&session);
    // Back to before the change the old program runs, and forward again the new one.
    session.line("back to 2s").unwrap();
    assert!(session.controller(0).get_named("Fresh").is_err());
    session.line("forward to end").unwrap();
    assert_eq!(all(&session), end);
}

#[test]
fn a_session_is_forked_and_each_goes_its_own_way() {
    let version = version("demo/rinse.il", None);
    let mut one = session(&version, None, fixed(10));
    one.line("press TestKey 3 times, 100ms on, 100ms off").unwrap();
    let mut other = one.fork();
    one.line("press TestKey for 100ms").unwrap();
    other.line("press ResetKey for 100ms").unwrap();
    let rinses = |session: &Session| session.controller(0).get_named("Rinses").unwrap();
    assert_eq!((rinses(&one), rinses(&other)), (Value::Int(4), Value::Int(0)));
    // What both have behind them is the same, and each goes back in its own.
    one.line("back to 300ms").unwrap();
    other.line("back to 300ms").unwrap();
    assert_eq!(all(&one), all(&other));
    other.line("forward to end").unwrap();
    assert_eq!((one.scans(), rinses(&other)), (31, Value::Int(0)));
}

#[test]
fn inputs_that_are_closed_at_rest_are_told_as_that() {
    let text = "PROGRAM Lid VAR_INPUT Closed : BOOL := TRUE; Key : BOOL; END_VAR VAR_OUTPUT Feed : BOOL; END_VAR
                Feed := Key AND Closed; END_PROGRAM";
    let (project, _) = read_project(vec![(Source::new("lid.st", text), honest_twin::Language::St)]);
    let version = Version::new("lid.st", check(project).unwrap()).unwrap();
    let session = session(&version, None, fixed(10));
    let rests: Vec<bool> = session.stands().points.iter().map(|point| point.rests_on).collect();
    assert_eq!(rests, [true, false, false]);
}

#[test]
fn going_back_after_an_hour_repeats_a_small_part_of_it() {
    let version = version("demo/rinse.il", None);
    let mut session = session(&version, None, fixed(10));
    session.line("hold LevelHigh").unwrap();
    session.line("wait 1h").unwrap();
    session.line("back 1 scans").unwrap();
    assert_eq!(session.scans(), 359_999);
    session.line("back to 1800s").unwrap();
    assert_eq!(session.scans(), 180_001);
    session.line("forward to end").unwrap();
    assert_eq!(session.scans(), 360_000);
}

#[test]
fn two_versions_stop_where_they_part_and_a_search_finds_it_from_anywhere() {
    let (old, hand) = (version("demo/rinse.il", None), version("demo/rinse_by_hand.st", None));
    let mut session = session(&old, Some(&hand), fixed(10));
    session.line("press TestKey 5 times, 50ms on, 50ms off").unwrap();
    let Told::Searched(found) = session.line("search").unwrap() else { panic!("a search") };
    let lines = found.lines.unwrap();
    // One more rinse is all it takes.
    assert!(lines.len() <= 2, "{lines:?}");
    let mut told = Vec::new();
    for line in &lines {
        told.push(session.line(line).unwrap());
    }
    let parted =
        told.iter().find_map(|told| if let Told::Ran(ran) = told { ran.parted.clone() } else { None }).unwrap();
    assert_eq!(
        (parted.name.as_str(), parted.values.as_slice()),
        ("ServiceDue", &["TRUE".to_string(), "FALSE".to_string()][..])
    );
    assert!(parted.writers.iter().all(Option::is_some), "{parted:?}");
    // The same program beside itself: nothing is found, and that is no proof.
    let mut same = self::session(&old, Some(&old), fixed(10));
    let Told::Searched(found) = same.line("search").unwrap() else { panic!("a search") };
    assert!(found.lines.is_none() && found.tried > 50);
}

/// The page, made of sessions as they run.
fn page() -> String {
    let session = |name: &str| {
        let text = std::fs::read_to_string(format!("tests/sessions/{name}.acts")).unwrap();
        let said = transcript(&text);
        let from = said.lines().position(|line| line.starts_with("> ") && !line.starts_with("> # ")).unwrap();
        said.lines().skip(from).map(|line| line.to_string() + "\n").collect::<String>()
    };
    let mut help = String::new();
    let version = version("demo/rinse.il", None);
    let mut any = self::session(&version, None, fixed(10));
    let told = any.line("help").unwrap();
    show::told(&mut any, &told).lines().for_each(|line| help.push_str(&format!("{}\n", line.trim_end())));
    PAGE.replace("{ACTS}", &help)
        .replace("{COUNT}", &session("count_past_the_preset"))
        .replace("{PRESET}", &session("preset_changed_while_it_runs"))
        .replace("{EQUAL}", &session("overshoot_of_an_equal"))
}

const PAGE: &str = "# Under your hands

`honest-twin try FILE...` puts a project into a simulated controller that you drive: toggle an input, press a key, force a point, let
time go by, look at the rungs, and go back. `--beside FILE` puts another version next to it, which is given the same; time stops in the
first scan after which their outputs differ. A twin file (`.toml`) says both. This page is made by running.

In a terminal it fills the screen; `?` lists the keys, `Enter` takes an act in words. From a pipe, or with `--lines`, it takes an act a
line and answers each: only what has changed, with its time, and timers and counters with their presets. The same lines always give
the same answers. Exit status: 0; 1 if an expectation was not met, a fault stopped a program or the versions differ; 2 if an act could not be
done. `--json` answers each act with a line of JSON.

- An act that takes no time is seen by the next scan, as in [scenarios](scenarios.md); so `toggle` is followed by `scan` or `wait`.
- `back` and `forward` go along time, scan by scan if you like. Whatever is done after going back makes another time of what lay ahead.
- Rungs show what was executed in the last scan: a contact is heavy if it conducted *when it ran*, although its variable may have been
  written since. Values in text are those after the scan.
- `change` holds a preset or a constant at another value, until `put back`; `force` does that with any point. `write` gives a value once.
- `read again` takes the sources as they are now while the machine runs: what has the same name and type keeps its value, and the answer
  tells what is lost. What edge contacts remember is kept where the drawings have the same shape.
- `save` writes what was done as lines, as a stimulus, or as a sequence table that expects of each output what was seen; forced and
  changed values are lines and stimuli, but no table.
- `search` looks from here for the shortest way on in which two versions differ. That none was found is no proof; `prove` is for that.

## Acts

```text
{ACTS}```

## Past the preset, and back to none

`honest-twin try demo/rinse.il`

```text
{COUNT}```

## A preset that is changed while it runs

`honest-twin try demo/rinse.il`

```text
{PRESET}```

## Equal, or at least

`honest-twin try demo/filter_old.il --tags demo/filter_tags.csv --beside demo/filter_by_hand.st`

```text
{EQUAL}```
";

#[test]
fn the_page_is_what_running_gives() {
    let page = page();
    if std::env::var_os("HONEST_TWIN_WRITE").is_some() {
        std::fs::write("docs/try.md", &page).unwrap();
    }
    assert!(
        std::fs::read_to_string("docs/try.md").unwrap_or_default() == page,
        "docs/try.md is not what running gives: HONEST_TWIN_WRITE=1 writes it"
    );
}
