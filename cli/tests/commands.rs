//! The commands as a user calls them: what they print, what they write, how they end.
#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use assert_cmd::Command;
use std::fs;
use std::path::{Path, PathBuf};
use tempfile::TempDir;

const OLD: &str = "demo/rinse.il";
const BY_HAND: &str = "demo/rinse_by_hand.st";

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_path_buf()
}

/// Calls the program in the root of the repository; exit status, standard output, standard error.
fn call(args: &[&str]) -> (i32, String, String) {
    let output = Command::cargo_bin("honest-twin").unwrap().current_dir(root()).args(args).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    (output.status.code().unwrap(), text(output.stdout), text(output.stderr))
}

#[test]
fn the_demo_migrates_and_finds_both_mistakes() {
    let (status, out, _) = call(&["demo"]);
    assert_eq!(status, 0, "{out}");
    assert!(out.contains("RinseTime(IN := Rinsing, PT := T#20s);"), "{out}");
    assert!(out.contains("TALLY80,RinseCount,keeps its count over the power,,up counter"), "{out}");
    assert_eq!(out.matches("SAME IN EVERY SCENARIO TRIED (tested, not proved)").count(), 2, "{out}");
    assert_eq!(out.matches("DIFFERENT: ").count(), 2, "{out}");
    // The count that asks for equality, then, with that mended, the tick.
    assert!(out.contains("(after 2s"), "{out}");
    assert!(out.contains("ServiceDue := RinseCount.CV = 6"), "{out}");
}

#[test]
fn dialects_are_listed_described_and_started() {
    let (status, out, _) = call(&["dialects"]);
    assert!(status == 0 && out.contains("octal-coil") && out.contains("flat-register"), "{out}");
    let (_, out, _) = call(&["dialects", "octal-coil", "word-bit"]);
    assert!(out.contains("shows what is left"), "{out}");
    let folder = TempDir::new().unwrap();
    let start = |args: &[&str]| {
        let output = Command::cargo_bin("honest-twin").unwrap().current_dir(folder.path()).args(args).output().unwrap();
        (
            output.status.code().unwrap(),
            String::from_utf8(output.stdout).unwrap() + &String::from_utf8(output.stderr).unwrap(),
        )
    };
    assert_eq!(start(&["dialects", "bench-one", "--from", "octal-coil"]).0, 0);
    assert_eq!(start(&["dialects", "bench-one", "--from", "octal-coil"]).0, 2, "it is there already");
    // One's own controller: its inputs are called EYE, and its program is read by that.
    let sheet = folder.path().join("bench-one.toml");
    let text = fs::read_to_string(&sheet).unwrap().replace("pattern = \"INLET{point}\"", "pattern = \"EYE{point}\"");
    fs::write(&sheet, text).unwrap();
    fs::write(folder.path().join("old.il"), "LD EYE17\nST DELAY0, 5\nLD DELAY0\nST OUTLET0\nLASTLINE\n").unwrap();
    let (status, out) = start(&[
        "translate",
        "old.il",
        "--from",
        "bench-one",
        "--sheet",
        "bench-one.toml",
        "--to",
        "st",
        "--dialect",
        "iec",
    ]);
    assert_eq!(status, 0, "{out}");
    assert!(out.contains("EYE17 AT %IX1.7 : BOOL;") && out.contains("PT := T#500ms"), "{out}");
    let (status, out) = start(&["check", "old.il", "--from", "octal-coil"]);
    assert!(status == 1 && out.contains("unknown name `EYE17`"), "{out}");
}

#[test]
fn a_migration_writes_its_maps_and_reads_them_back() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_string();
    let (map, protocol, new) = (path("map.csv"), path("protocol.csv"), path("new.il"));
    let old =
        ["translate", "demo/filter_old.il", "--tags", "demo/filter_tags.csv", "--to", "il", "--dialect", "word-bit"];
    let out = [old.as_slice(), &["--save-map", &map, "--protocol", &protocol, "--out", &new]].concat();
    let (status, _, said) = call(&out);
    // Elapsed time runs in common ticks there, which the ledger foretells and the comparison finds.
    assert!(status == 1 && said.contains("L13 approximate") && said.contains("up to 100ms early"), "{said}");
    let text = fs::read_to_string(&map).unwrap();
    assert!(text.contains("INLET3,ScreenBlocked,pressure switch over the screen,SIG000.03,the same point"), "{text}");
    assert!(fs::read_to_string(&protocol).unwrap().contains("LevelHigh,INLET0,discrete inputs,0,1,SIG000.00"));
    fs::write(&map, text.replace("SIG000.03", "SIG007.15")).unwrap();
    let (_, out, _) = call(&[old.as_slice(), &["--map", &map, "--unverified"]].concat());
    assert!(out.contains("ScreenBlocked AT SIG007.15"), "{out}");
    // The left one's tags are not asked of the right one, which is the standard's.
    let (status, out, _) =
        call(&["compare", "demo/filter_old.il", "demo/filter_by_hand.st", "--tags", "demo/filter_tags.csv"]);
    assert!(status == 1 && out.contains("RinseCount.CV = 6"), "{out}");
    // Faithfully there is no difference.
    let (status, _, said) = call(&[old.as_slice(), &["--faithful"]].concat());
    assert!(status == 0 && said.contains("carried") && said.contains("SAME IN EVERY SCENARIO"), "{said}");
}

#[test]
fn compare_tells_the_statement_and_a_scenario_that_replays() {
    let folder = TempDir::new().unwrap();
    let stimulus = folder.path().join("difference.csv");
    let (status, out, _) = call(&["compare", OLD, BY_HAND, "--stimulus", stimulus.to_str().unwrap()]);
    assert_eq!(status, 1, "{out}");
    let scan = out.split(" in scan ").nth(1).and_then(|rest| rest.split(' ').next()).unwrap();
    let scan: usize = scan.parse().unwrap();
    let scans = (scan + 1).to_string();
    let lines: Vec<Vec<String>> = [OLD, BY_HAND]
        .iter()
        .map(|file| {
            let (status, out, _) = call(&["run", file, "--stimulus", stimulus.to_str().unwrap(), "--scans", &scans]);
            assert_eq!(status, 0);
            out.lines().map(str::to_string).collect()
        })
        .collect();
    assert_eq!(lines[0][..=scan], lines[1][..=scan], "the same up to the scan before");
    assert_ne!(lines[0][scan + 1], lines[1][scan + 1], "and different in the scan that was named");
}

#[test]
fn translate_writes_a_file_that_compares_the_same() {
    let folder = TempDir::new().unwrap();
    let (text, ledger) = (folder.path().join("rinse.st"), folder.path().join("ledger.json"));
    let (status, _, err) =
        call(&["translate", OLD, "--to", "st", "--out", text.to_str().unwrap(), "--ledger", ledger.to_str().unwrap()]);
    assert_eq!(status, 0, "{err}");
    assert!(err.contains("read back and compared: SAME"), "{err}");
    assert_eq!(fs::read_to_string(ledger).unwrap(), "[]");
    let (status, out, _) = call(&["compare", OLD, text.to_str().unwrap(), "--scenarios", "500"]);
    assert_eq!(status, 0, "{out}");
    let (status, out, _) = call(&["check", text.to_str().unwrap()]);
    assert_eq!((status, out.as_str()), (0, "no problems in 1 file\n"));
}

#[test]
fn several_files_make_one_project() {
    let folder = TempDir::new().unwrap();
    let block = "FUNCTION_BLOCK Heat VAR_INPUT Cold : BOOL; END_VAR VAR_OUTPUT On : BOOL; END_VAR On := Cold; END_FUNCTION_BLOCK";
    let program = "PROGRAM Tank VAR_INPUT Cold : BOOL; END_VAR VAR_OUTPUT Heater : BOOL; END_VAR VAR h : Heat; END_VAR
        CAL h(Cold := Cold, On => Heater)
        END_PROGRAM";
    fs::write(folder.path().join("heat.st"), block).unwrap();
    fs::write(folder.path().join("tank.il"), program).unwrap();
    let (status, out, err) = call(&["run", folder.path().to_str().unwrap(), "--scans", "1"]);
    assert_eq!((status, out.as_str()), (0, "scan,time_ms,Cold,Heater\n0,0,0,0\n"), "{err}");
    let written = TempDir::new().unwrap();
    let (status, _, err) =
        call(&["translate", folder.path().to_str().unwrap(), "--to", "st", "--out", written.path().to_str().unwrap()]);
    assert_eq!(status, 0, "{err}");
    assert!(fs::read_to_string(written.path().join("tank.st")).unwrap().contains("h(Cold := Cold, On => Heater);"));
}

#[test]
fn ladders_go_through_the_exchange_format_and_are_drawn() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_string();
    let (document, ladder, picture, lines) = (path("rinse.xml"), path("rinse.ld"), path("live.png"), path("rinse.svg"));
    let (status, _, err) = call(&["translate", OLD, "--to", "ld", "--out", &document]);
    assert_eq!(status, 0, "{err}");
    assert!(err.contains("read back and compared: SAME"), "{err}");
    let (status, _, err) = call(&["translate", &document, "--to", "ld", "--out", &ladder]);
    assert_eq!(status, 0, "{err}");
    assert!(fs::read_to_string(&ladder).unwrap().contains("+IN TP Q|"));
    let (status, out, _) = call(&["compare", OLD, &document, "--scenarios", "300"]);
    assert_eq!(status, 0, "{out}");
    let (status, out, _) = call(&["draw", &ladder]);
    assert_eq!(status, 0);
    assert!(out.contains("┤IN TP Q│") && out.contains("┤/├"), "{out}");
    let trace = path("trace.csv");
    call(&["run", &ladder, "--stimulus", "demo/rinse.csv", "--scans", "80", "--trace", &trace]);
    let args = ["draw", &ladder, "--at", "60", "--stimulus", &trace, "--out", &picture];
    let (status, _, err) = call(&args);
    assert_eq!(status, 0, "{err}");
    assert!(fs::read(&picture).unwrap().starts_with(b"\x89PNG"));
    // What is taller than asked goes on in further files.
    let tall = format!("{}.svg", picture.trim_end_matches(".png"));
    let (status, out, err) = call(&["draw", "demo/raceway.ld", "--height", "400", "--out", &tall]);
    assert_eq!((status, err.as_str()), (0, ""), "{out}");
    let pages: usize = out.split(' ').next().and_then(|count| count.parse().ok()).unwrap_or_else(|| panic!("{out}"));
    assert!(pages > 1 && out.contains(" pages: "), "{out}");
    for page in 1..=pages {
        let text = std::fs::read_to_string(tall.replace(".svg", &format!("-{page}.svg"))).unwrap();
        assert!(text.starts_with("<svg"), "page {page}");
    }
    let (status, out, _) = call(&["--json", "draw", "demo/raceway.ld", "--height", "400"]);
    let json: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!((status, json["pages"].as_array().map(Vec::len)), (0, Some(pages)));
    let (status, _, err) = call(&["draw", "demo/raceway.ld", "--height", "399"]);
    assert!(status == 2 && err.contains("399"), "{err}");
    let (status, _, err) = call(&["draw", OLD, "--beside", &ladder, "--out", &lines]);
    assert_eq!(status, 0, "{err}");
    let svg = fs::read_to_string(&lines).unwrap();
    assert!(svg.starts_with("<svg") && svg.contains("ScreenBlocked"), "{svg}");
}

#[test]
fn problems_end_with_one_and_wrong_calls_with_two() {
    let many = "tests/problems/many.st";
    let (status, _, err) = call(&["check", many]);
    assert_eq!(status, 1);
    assert!(err.contains("did you mean `Pump`?") && err.contains("errors"), "{err}");
    for (args, says) in [
        (vec!["run", many], "errors"),
        (vec!["check", "nowhere.st"], "cannot read nowhere.st"),
        (vec!["check", "README.md"], "the ending names the language"),
        (vec!["compare", OLD], "name another version, or a twin file"),
        (vec!["prove", OLD], "name another version, or a twin file"),
        (
            vec!["compare", OLD, "--never", "Nothing", "--assume", "sunshine"],
            "`sunshine` is nothing that can be assumed",
        ),
        (vec!["compare", OLD, OLD, "--known", "Nothing"], "`Nothing` can be asked of neither version"),
        (vec!["compare", OLD, "--never", "Alarm", "--right-scan", "5ms"], "of a second version"),
        (vec!["compare", OLD, "--never", "Alarm", "--known", "Alarm"], "no difference that could be known"),
        (vec!["run", OLD, "--force", "TestKey"], "a force is written NAME=VALUE"),
        (vec!["draw", OLD, "--at", "3", "--force", "Nothing=1", "--out", "x.svg"], "no variable `Nothing` to force"),
        (vec!["translate", OLD, "--to", "wd"], "the languages are st, il, ld, fbd"),
        (vec!["draw", OLD, "--out", "drawing.txt"], "a drawing is written as .svg or .png"),
        (vec!["draw", OLD, "--beside", OLD], "name a picture with --out"),
        (vec!["run", OLD, "--scan", "0ms"], "a scan takes some time"),
        (vec!["run", OLD, "--watch", "Nothing"], "there is no variable `Nothing` to watch"),
        (vec!["run", OLD, "--stimulus", BY_HAND], "line 1: no line begins with"),
    ] {
        let (status, _, err) = call(&args);
        assert_eq!(status, if args[1] == many { 1 } else { 2 }, "{args:?}: {err}");
        assert!(err.contains(says), "{args:?}: {err}");
    }
}

#[test]
fn every_command_answers_as_json() {
    let json = |args: &[&str]| -> serde_json::Value {
        let (_, out, err) = call(args);
        serde_json::from_str(&out).unwrap_or_else(|e| unreadable(&format!("{args:?}: {e}\n{out}{err}")))
    };
    assert_eq!(json(&["--json", "compare", OLD, BY_HAND])["verdict"], "different");
    assert_eq!(json(&["--json", "compare", OLD, OLD, "--scenarios", "50"])["scenarios"], 50);
    assert_eq!(json(&["--json", "check", OLD])["problems"], serde_json::json!([]));
    assert_eq!(json(&["--json", "check", "tests/problems/many.st"])["problems"][0]["code"], "C03");
    assert_eq!(json(&["--json", "translate", OLD, "--to", "st"])["verdict"]["verdict"], "tested");
    assert_eq!(json(&["--json", "run", OLD, "--scans", "3"])["scans"], 3);
    assert_eq!(json(&["--json", "demo"])["by_hand_count_mended"]["name"], "RinsePump");
    assert!(json(&["--json", "check", "--declare", "tests/problems/pasted.st"])["declarations"][0]["sure"] == true);
    assert!(json(&["--json", "draw", "demo/raceway.ld"])["svg"].as_str().is_some_and(|s| s.starts_with("<svg")));
    assert_eq!(json(&["--json", "prove", OLD, OLD])["verdict"], "proved");
    assert_eq!(json(&["--json", "prove", OLD, BY_HAND])["verdict"], "different");
}

#[allow(clippy::panic, reason = "a test may fail loudly")]
fn unreadable(what: &str) -> serde_json::Value {
    panic!("{what}")
}

#[test]
fn declarations_can_be_pasted() {
    let (status, out, _) = call(&["check", "--declare", "tests/problems/pasted.st"]);
    assert_eq!(status, 0);
    let folder = TempDir::new().unwrap();
    let pasted = fs::read_to_string(root().join("tests/problems/pasted.st")).unwrap();
    let file = folder.path().join("pasted.st");
    fs::write(&file, pasted.replace("PROGRAM Pasted\n", &format!("PROGRAM Pasted\n{out}"))).unwrap();
    let (status, _, err) = call(&["check", file.to_str().unwrap()]);
    assert_eq!(status, 0, "{out}\n{err}");
}

#[test]
fn a_twin_file_says_everything() {
    let folder = TempDir::new().unwrap();
    let evidence = folder.path().join("evidence");
    let (status, out, err) = call(&["compare", "demo/filter.toml", "--evidence", evidence.to_str().unwrap()]);
    assert_eq!(status, 1, "{err}");
    assert!(out.contains("looks like trap 9") && out.contains("expectations met: 31 of 34"), "{out}");
    assert!(out.contains("rule a blocked screen raises the alarm at once: holds"), "{out}");
    let read = |name: &str| fs::read_to_string(evidence.join(name)).unwrap_or_else(|e| format!("{name}: {e}"));
    assert!(read("report.html").contains("Drum filter of raceway 2"));
    assert!(read("junit.xml").contains("<failure"));
    assert!(read("both.vcd").contains("$enddefinitions"));
    let verdict: serde_json::Value = serde_json::from_str(&read("verdict.json")).unwrap();
    assert_eq!(verdict["verdict"], "different");
    assert!(fs::read(evidence.join("timing.png")).unwrap().starts_with(b"\x89PNG"));
    // What was found replays as a scenario, and as the wave that was written of it.
    for file in ["difference.scenario", "difference.csv", "left.csv", "both.vcd"] {
        let path = evidence.join(file);
        let args = ["compare", "demo/filter.toml", "--scenario", path.to_str().unwrap(), "--scenarios", "1"];
        let (status, out, err) = call(&args);
        assert!(status == 1 && out.starts_with("DIFFERENT: ServiceDue"), "{file}: {out}{err}");
    }
    let (status, out, err) =
        call(&["run", "demo/filter_old.il", "--tags", "demo/filter_tags.csv", "--scenario", "demo/filter.scenario"]);
    assert!(status == 0 && out.starts_with("scan,time_ms") && err.contains("expectations met: 7 of 7"), "{err}");
}

#[test]
fn the_twin_file_that_was_meant_does_the_same() {
    let folder = TempDir::new().unwrap();
    let twin = folder.path().join("twin.toml");
    let both =
        [OLD, BY_HAND].map(|f| fs::canonicalize(Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(f)).unwrap());
    let [old, new] = both.each_ref().map(|p| p.to_str().unwrap());
    let (first, said, _) = call(&["compare", old, new, "--save", twin.to_str().unwrap()]);
    let (second, again, err) = call(&["compare", twin.to_str().unwrap()]);
    assert_eq!((first, second), (1, 1), "{err}");
    let head = |text: &str| text.lines().take(12).map(str::to_string).collect::<Vec<_>>();
    assert_eq!(head(&said), head(&again));
    fs::write(&twin, "mode = \"sideways\"\n[[version]]\nfiles = []\n[[version]]\nfiles = []\n").unwrap();
    let (status, _, err) = call(&["compare", twin.to_str().unwrap()]);
    assert!(status == 2 && err.contains("mode is `lockstep` or `free`, not `sideways`"), "{err}");
}

/// What was said of versions and pairs is in the twin file that is saved, and that gives the same verdict.
#[test]
fn a_saved_twin_file_loses_nothing() {
    let folder = TempDir::new().unwrap();
    let file = |name: &str, text: &str| {
        let path = folder.path().join(name);
        fs::write(&path, text).unwrap();
        path.to_str().unwrap().to_string()
    };
    let program = |inputs: &str, least: u32| {
        format!(
            "PROGRAM P VAR_INPUT {inputs} END_VAR VAR Level AT %MW3 : INT; END_VAR VAR_OUTPUT o : BOOL; END_VAR
             o := Key AND Level > {least}; END_PROGRAM"
        )
    };
    let old = file("old.st", &program("Key : BOOL;", 30));
    let new = file("new.st", &program("Key : BOOL; Spare : BOOL;", 30));
    let tagged = root().join("demo/filter_old.il").to_str().unwrap().to_string();
    let tags = root().join("demo/filter_tags.csv").to_str().unwrap().to_string();
    let by_hand = root().join("demo/filter_by_hand.st").to_str().unwrap().to_string();
    let saved = folder.path().join("saved.toml").to_str().unwrap().to_string();
    for call_of in [
        vec![old.as_str(), &new, "--given", "Level", "--agree", "Spare", "--within", "30ms", "--scan", "5ms..20ms"],
        vec![tagged.as_str(), &by_hand, "--tags", &tags],
        vec![tagged.as_str(), &by_hand, "--tags", &tags, "--scan", "10ms", "--right-scan", "20ms"],
    ] {
        let quick = ["--scenarios", "60", "--faults", "0"];
        let first = call(&[&["compare"], call_of.as_slice(), &quick, &["--save", &saved]].concat());
        let again = call(&["compare", &saved]);
        let text = fs::read_to_string(&saved).unwrap();
        assert_eq!(first.0, again.0, "{}{}{}", first.2, again.2, text);
        let head = |out: &str| out.lines().take(8).map(str::to_string).collect::<Vec<_>>();
        assert_eq!(head(&first.1), head(&again.1), "{text}");
    }
}

#[test]
fn a_killed_comparison_goes_on() {
    let folder = TempDir::new().unwrap();
    let state = folder.path().join("state.json");
    let state = state.to_str().unwrap();
    let long =
        ["compare", OLD, OLD, "--faults", "0", "--scans", "4000000000", "--scenarios", "100000000", "--state", state];
    let mut child = std::process::Command::new(env!("CARGO_BIN_EXE_honest-twin"))
        .current_dir(Path::new(env!("CARGO_MANIFEST_DIR")).join(".."))
        .args(long)
        .stdout(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let begun = std::time::Instant::now();
    while !Path::new(state).exists() && begun.elapsed().as_secs() < 60 {
        std::thread::sleep(std::time::Duration::from_millis(50));
    }
    child.kill().unwrap();
    child.wait().unwrap();
    let kept: serde_json::Value = serde_json::from_str(&fs::read_to_string(state).unwrap()).unwrap();
    let tried = kept["state"]["scenarios"].as_u64().unwrap();
    assert!(tried > 0 && kept["finished"] == false);
    let more = (tried + 128).to_string();
    let (status, out, err) =
        call(&["--json", "compare", OLD, OLD, "--faults", "0", "--scenarios", &more, "--state", state]);
    assert_eq!(status, 0, "{err}");
    let answer: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!(answer["scenarios"].as_u64(), Some(tried + 128), "what was tried before counts");
    // Other texts are not gone on with.
    let (status, _, err) = call(&["compare", OLD, BY_HAND, "--state", state]);
    assert!(status == 2 && err.contains("other texts"), "{err}");
}

#[test]
fn parts_are_merged() {
    let folder = TempDir::new().unwrap();
    let states: Vec<String> =
        (1..=3).map(|k| folder.path().join(format!("{k}.json")).to_str().unwrap().to_string()).collect();
    for (number, state) in states.iter().enumerate() {
        let part = format!("{}/3", number + 1);
        let (status, _, err) = call(&["compare", OLD, OLD, "--scenarios", "300", "--shard", &part, "--state", state]);
        assert_eq!(status, 0, "{err}");
    }
    let report = folder.path().join("report.html");
    let (status, out, err) = call(&["merge", &states[0], &states[1], &states[2], "--report", report.to_str().unwrap()]);
    assert!(status == 0 && out.contains("in 300 scenarios") && out.contains("strength:"), "{out}{err}");
    assert!(fs::read_to_string(report).unwrap().contains("Same in every scenario tried"));
    let (status, _, err) = call(&["compare", OLD, OLD, "--shard", "4/3", "--state", &states[0]]);
    assert!(status == 2 && err.contains("from 1/N to N/N"), "{err}");
}

#[test]
fn a_certificate_is_written_and_checked_under_its_conditions() {
    let folder = TempDir::new().unwrap();
    let at = |name: &str| folder.path().join(name).to_str().unwrap().to_string();
    let feeder = |kind: &str| {
        format!(
            "PROGRAM Feeder VAR_INPUT Dose : BOOL; END_VAR VAR_OUTPUT Full : BOOL; END_VAR VAR {kind} Count : INT; END_VAR
             VAR Pulse : R_TRIG; END_VAR
             Pulse(CLK := Dose); IF Pulse.Q THEN Count := Count + 1; END_IF; Full := Count >= 5; END_PROGRAM"
        )
    };
    fs::write(at("old.st"), feeder("")).unwrap();
    fs::write(at("new.st"), feeder("RETAIN")).unwrap();
    let (old, new, proof) = (at("old.st"), at("new.st"), at("proof"));
    // They differ where power is lost, and are the same where it stays on: that is what the certificate is of.
    let (status, out, err) = call(&["prove", &old, &new, "--certificate", &proof]);
    assert_eq!(status, 1, "{out}");
    assert!(out.contains("but PROVED THE SAME") && out.contains("power stays on"), "{out}");
    assert!(err.contains("of the most that is proved"), "{err}");
    let (status, out, _) = call(&["prove", "--recheck", &proof]);
    assert_eq!(status, 0, "{out}");
    assert!(out.contains("CONFIRMED") && out.contains("assumed: power stays on"), "{out}");
    assert!(!out.contains("with power off and on"), "{out}");
    // What was changed is no certificate any more, and what is not there is a wrong call.
    fs::copy(at("proof/certificate.aig"), at("proof/miter.aig")).unwrap();
    assert_eq!(call(&["prove", "--recheck", &proof]).0, 1);
    assert_eq!(call(&["prove", "--recheck", &old]).0, 2);
    assert_eq!(call(&["prove", "--recheck", &proof, &old]).0, 2);
}

#[test]
fn what_has_no_partner_is_agreed_to_by_name() {
    let folder = TempDir::new().unwrap();
    let file = |name: &str, inputs: &str, level: &str| {
        let path = folder.path().join(name);
        let text = format!(
            "PROGRAM Filter VAR_INPUT Key : BOOL; {inputs} END_VAR VAR_OUTPUT Rinse : BOOL; END_VAR Rinse := Key{level}; END_PROGRAM"
        );
        fs::write(&path, text).unwrap();
        path.to_str().unwrap().to_string()
    };
    let (old, new) = (file("old.st", "", ""), file("new.st", "Hold : BOOL;", " AND NOT Hold"));
    for command in ["compare", "prove"] {
        let call = |more: &[&str]| call(&[&[command, &old, &new], more].concat());
        let (status, out, _) = call(&[]);
        assert!(status == 3 && out.contains("input Hold: only in new.st") && out.contains("--agree NAME"), "{out}");
        // With `Hold` at rest they are the same, and no verdict leaves that out.
        let (status, out, _) = call(&["--agree", "hold"]);
        let second = out.lines().nth(1).unwrap_or_default();
        assert_eq!(status, 0, "{out}");
        assert_eq!(second, "  LIMITED: input Hold: only in new.st; it keeps its value at rest, as was agreed", "{out}");
        let (status, _, err) = call(&["--agree", "Holt"]);
        assert!(status == 2 && err.contains("without one: Hold"), "{err}");
    }
    // Nothing tried is nothing said.
    let (status, out, _) = call(&["compare", &old, &old, "--scenarios", "0"]);
    assert!(status == 3 && out.contains("nothing was run"), "{out}");
}

/// One version by itself: what is asked of it holds, is proved, is broken, or cannot be asked.
#[test]
fn one_version_is_asked_rules_and_expectations() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let few = ["--scenarios", "60", "--faults", "0"];
    let with = |args: &[&str]| call(&args.iter().chain(&few).copied().collect::<Vec<_>>());
    let (status, out, err) = with(&["compare", BY_HAND, "--always", "NOT RinsePump OR RinsePump"]);
    assert_eq!((status, out.starts_with("HOLDS IN EVERY SCENARIO TRIED")), (0, true), "{out}{err}");
    let (status, out, _) = call(&["prove", BY_HAND, "--never", "RinsePump AND NOT RinsePump"]);
    assert_eq!((status, out.starts_with("PROVED TO HOLD for every input sequence")), (0, true), "{out}");
    let (script, stimulus) = (path("shown.scenario"), path("shown.csv"));
    for name in [&script, &stimulus] {
        let (status, out, _) = call(&["prove", BY_HAND, "--never", "RinsePump AND TestKey", "--stimulus", name]);
        assert_eq!((status, out.starts_with("BROKEN: rule never RinsePump AND TestKey in scan 0")), (1, true), "{out}");
        let (_, out, err) = call(&["run", BY_HAND, "--scenario", name, "--scans", "1", "--watch", "RinseTime.ET"]);
        assert_eq!(out.lines().next().unwrap().split(',').next_back(), Some("RinseTime.ET"), "{out}{err}");
        let pump = out.lines().next().unwrap().split(',').position(|name| name == "RinsePump").unwrap();
        assert_eq!(out.lines().nth(1).unwrap().split(',').nth(pump), Some("1"), "{out}");
    }
    let (status, out, _) = call(&["compare", BY_HAND, "--never", "Nothing"]);
    assert_eq!((status, out.starts_with("UNDECIDED")), (3, true), "{out}");
    let evidence = path("evidence");
    let (status, ..) = with(&["compare", BY_HAND, "--never", "RinsePump", "--evidence", &evidence]);
    assert_eq!(status, 1);
    for name in ["broken.scenario", "broken.csv", "trace.csv", "trace.vcd", "timing.png", "report.html", "junit.xml"] {
        assert!(folder.path().join("evidence").join(name).exists(), "{name}");
    }
    fs::write(folder.path().join("night.scenario"), "set TestKey on\nwait 50ms\nexpect NOT RinsePump\n").unwrap();
    let (status, out, _) = call(&["compare", BY_HAND, "--scenario", &path("night.scenario")]);
    assert_eq!((status, out.starts_with("BROKEN: night.scenario, line 3 in scan 4 (after 40ms)")), (1, true), "{out}");
}

/// `run`, `draw` and `compare` take a stimulus, a trace, a wave, a scenario and a sequence table alike.
#[test]
fn what_happens_is_taken_in_every_form() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    put("a.csv", "time_ms,TestKey,@controller\n0,1,\n40,0,power-cycle\n");
    put("b.scenario", "set TestKey on\nwait 40ms\npower cycle\nset TestKey off\nwait 40ms\n");
    put("c.csv", "time_ms,TestKey,RinsePump\n0,1,1\n40,0,0\n");
    let (status, _, err) =
        call(&["run", BY_HAND, "--stimulus", &path("a.csv"), "--scans", "8", "--trace", &path("d.csv")]);
    assert_eq!(status, 0, "{err}");
    assert!(fs::read_to_string(folder.path().join("d.csv")).unwrap().starts_with("scan,time_ms,@controller,"));
    put(
        "e.vcd",
        "$timescale 1 ms $end $scope module m $end $var wire 1 ! TestKey $end $upscope $end $enddefinitions $end #0 1! #40 0! ",
    );
    for name in ["a.csv", "b.scenario", "c.csv", "d.csv", "e.vcd"] {
        let (status, out, err) =
            call(&["run", BY_HAND, "--stimulus", &path(name), "--scans", "8", "--force", "Alarm=1"]);
        assert_eq!(status, 0, "{name}: {out}{err}");
        let rows: Vec<Vec<&str>> = out.lines().map(|row| row.split(',').collect()).collect();
        let column = |name: &str| rows[0].iter().position(|cell| *cell == name).unwrap();
        let of = |name: &str| rows[1..].iter().map(|row| row[column(name)]).collect::<String>();
        assert_eq!(
            (of("TestKey"), of("RinsePump"), of("Alarm")),
            ("11110000".into(), "11110000".into(), "11111111".into()),
            "{name}\n{out}"
        );
        let args =
            ["draw", BY_HAND, "--at", "3", "--scenario", &path(name), "--force", "Alarm=1", "--out", &path("x.svg")];
        let (status, _, err) = call(&args);
        assert_eq!(status, 0, "{name}: {err}");
        let (status, out, err) =
            call(&["compare", BY_HAND, BY_HAND, "--scenario", &path(name), "--scenarios", "20", "--faults", "0"]);
        assert_eq!(status, 0, "{name}: {out}{err}");
    }
}

/// Each of two versions has a dialect, a tag list and a sheet of its own.
#[test]
fn each_side_says_what_it_is_written_in() {
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    put("old.il", "LD INLET0\nAND INLET1\nST OUTLET0\nLASTLINE\n");
    put("old.csv", "address,symbol,comment\nINLET0,Feed,\nINLET1,Lid,\nOUTLET0,Auger,\n");
    put("new.il", "READ SIG000.00\nBOTH SIG000.01\nWRITE CMD000.00\nFINISH\n");
    put("new.csv", "address,symbol,comment\nSIG000.00,Feed,\nSIG000.01,Lid,\nCMD000.00,Auger,\n");
    let both = [
        "--from",
        "octal-coil",
        "--tags",
        &path("old.csv"),
        "--right-from",
        "word-bit",
        "--right-tags",
        &path("new.csv"),
    ];
    let (old, new) = (path("old.il"), path("new.il"));
    let (status, out, err) = call(&["prove", &old, &new].into_iter().chain(both).collect::<Vec<_>>());
    assert_eq!((status, out.starts_with("PROVED THE SAME")), (0, true), "{out}{err}");
    assert!(out.contains("driven:   Feed, Lid"), "{out}");
    let saved = path("saved.toml");
    let args = ["compare", &old, &new, "--save", &saved, "--scenarios", "20", "--faults", "0"];
    let (status, ..) = call(&args.into_iter().chain(both).collect::<Vec<_>>());
    assert_eq!(status, 0);
    let (status, out, err) = call(&["compare", &saved]);
    assert_eq!(status, 0, "{out}{err}");
    let (status, _, err) = call(&["compare", &old, &new, "--from", "octal-coil"]);
    assert_eq!(status, 2, "{err}");
}

/// What differs only while a point is forced is told as an expectation that was not met, and ends with 1.
#[test]
fn a_difference_while_a_point_is_forced_ends_with_one() {
    let folder = TempDir::new().unwrap();
    let put = |name: &str, text: &str| fs::write(folder.path().join(name), text).unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let body = |rule: &str| {
        format!(
            "PROGRAM Heater VAR_INPUT Cold : BOOL; END_VAR VAR_OUTPUT Heat, Lamp : BOOL; END_VAR
             Heat := Cold; Lamp := {rule}; END_PROGRAM"
        )
    };
    put("old.st", &body("Heat"));
    put("new.st", &body("Cold"));
    put("plain.scenario", "set Cold on\nwait 30ms\n");
    put("forced.scenario", "set Cold on\nwait 30ms\nforce Heat to off\nwait 30ms\nrelease Heat\nwait 30ms\n");
    for (scenario, wanted) in [("plain.scenario", 0), ("forced.scenario", 1)] {
        let args = ["compare", &path("old.st"), &path("new.st"), "--scenario", &path(scenario), "--faults", "0"];
        let (status, out, err) = call(&args);
        assert_eq!(status, wanted, "{out}{err}");
        let told = out.contains("while a point is forced, Lamp differs");
        assert_eq!((told, out.starts_with("SAME IN EVERY SCENARIO")), (wanted == 1, true), "{out}");
    }
}
