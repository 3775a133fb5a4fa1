//! Every reader of what comes from outside: texts it is glad of, and what is done with any other. Whoever adds a reader adds it here; the
//! tests change such texts (`nearly.rs`), and `fuzz/fuzz_targets/any.rs` has them changed by coverage.

use super::nearly::Kind;
use crate::common::version;
use honest_twin::dialect::{self, LIBRARIES, Tags, read_library, read_project_tagged};
use honest_twin::lang::{Form, LANGUAGES, Language, PlantFile, read_project};
use honest_twin::model::Duration;
use honest_twin::protocol::{Numbers, Served, Writable, frame};
use honest_twin::prove::{Means, prove_certified};
use honest_twin::recheck::recheck;
use honest_twin::scan::{Controller, ScanTime, Stimulus, Trace, run_stimulus};
use honest_twin::session::Session;
use honest_twin::show::{self, Timing};
use honest_twin::source::Source;
use honest_twin::translate::AddressMap;
use honest_twin::twin::file::TwinFile;
use honest_twin::twin::script::{Script, play, read_table};
use honest_twin::twin::{Assumption, Effort, Rule, Search, SearchState, Twin, Version};

/// What is done with what was read.
pub(crate) type Meet = Box<dyn Fn(&[u8])>;

/// A reader: its name, texts it is glad of, and what is done with any other.
pub(crate) struct Reader {
    pub(crate) name: &'static str,
    pub(crate) kind: Kind,
    pub(crate) seeds: Vec<Vec<u8>>,
    pub(crate) meet: Meet,
}

/// All of them.
pub(crate) fn readers() -> impl Iterator<Item = Reader> {
    sources().chain(tables()).chain(said()).chain(kept())
}

fn of_text(name: &'static str, seeds: Vec<String>, meet: impl Fn(&str) + 'static) -> Reader {
    let seeds = seeds.into_iter().map(String::into_bytes).collect();
    Reader { name, kind: Kind::Text, seeds, meet: Box::new(move |bytes| meet(&String::from_utf8_lossy(bytes))) }
}

/// What is done with a text beside the heater.
fn beside_heater(meet: fn(&str, &Version)) -> impl Fn(&str) {
    let heater = heater();
    move |text| meet(text, &heater)
}

/// All files of a folder and those in it that end so, a few at most.
fn files(folder: &str, ending: &str) -> Vec<String> {
    let mut out = Vec::new();
    let mut open = vec![std::path::PathBuf::from(folder)];
    while let Some(at) = open.pop() {
        let mut inside: Vec<_> = std::fs::read_dir(at).unwrap().map(|entry| entry.unwrap().path()).collect();
        inside.sort();
        for path in inside {
            if path.is_dir() {
                open.push(path);
            } else if path.extension().is_some_and(|found| found == ending) {
                out.push(std::fs::read_to_string(path).unwrap());
            }
        }
    }
    assert!(!out.is_empty(), "{folder} has no .{ending}");
    out.retain(|text| text.len() < 20_000);
    out.truncate(40);
    out
}

/// The heater of the hatchery: something of each kind.
fn heater() -> Version {
    let text =
        "PROGRAM Heater VAR_INPUT Key, Door : BOOL; Degrees : INT; Name : STRING; Level : REAL; Pause : TIME; END_VAR
        VAR_OUTPUT Heat, Lamp : BOOL; Sum : DINT; END_VAR
        VAR Setpoint AT %MW20 : INT := 7; Step : (Rest, Warm, Hot); T : TON; Kept : ARRAY [1..3] OF INT; END_VAR
        Heat := Key AND NOT Door AND Degrees < Setpoint; Lamp := Step = Hot OR Name = 'trout'; Sum := Sum + Degrees;
        IF Heat THEN Step := Warm; END_IF; T(IN := Heat, PT := Pause); Kept[2] := Degrees; END_PROGRAM";
    version("heater", text, Language::St)
}

const SCAN: ScanTime = ScanTime::Fixed(Duration::from_millis(10));

/// Sources: read, checked, translated, and ten scans of them run.
fn sources() -> impl Iterator<Item = Reader> {
    let forms = [("st", "st"), ("il", "il"), ("ld", "ld"), ("fbd", "fbd"), ("xml", "xml")];
    forms.into_iter().map(|(name, ending)| {
        let mut seeds = if ending == "xml" { Vec::new() } else { files("tests/corpus", ending) };
        if ending == "xml" {
            let plain = files("tests/corpus", "fbd");
            seeds.extend(plain.iter().take(12).filter_map(|text| exchanged(text)));
        }
        of_text(name, seeds, move |text| {
            let form = Form::of_file(&format!("any.{ending}")).unwrap();
            let (project, problems) = read_project(vec![(Source::new("any", text), form)]);
            let (checked, _) = honest_twin::check::verify(project, problems);
            let Some(checked) = checked else { return };
            for to in LANGUAGES {
                let _ = honest_twin::translate(&checked, *to);
            }
            if let Ok(machine) = honest_twin::Machine::new(&checked) {
                let mut controller = Controller::new(&machine);
                controller.set_loop_limit(2_000);
                let _ = run_stimulus(&mut controller, &Stimulus::default(), &SCAN, 10, &[]);
            }
        })
    })
}

/// A project in the exchange format.
fn exchanged(text: &str) -> Option<String> {
    let (project, problems) = read_project(vec![(Source::new("any.fbd", text), Language::Fbd)]);
    let (checked, _) = honest_twin::check::verify(project, problems);
    let written = honest_twin::translate::translate_as(&checked?, Language::Fbd, Form::Exchange).ok()?;
    Some(written.files.into_iter().next()?.text)
}

/// Tables: stimuli, traces, sequence tables, tags, maps.
fn tables() -> Vec<Reader> {
    let stimulus = "time_ms,@controller,@force,@write,Key,Degrees,Name,Level,Pause\n0,,,,1,20,trout,1.5,100\n\
        50.5,power-cycle,Setpoint=3;Heat,,0,-4,\"a,b\",NaN,0.25\n90,stop,,Setpoint=9,,,,,\n120,run,Heat=1,,1,,=1,-1e30,\n";
    let trace = {
        let heater = heater();
        let stimulus = Stimulus::read(stimulus, heater.machine()).unwrap();
        run_stimulus(&mut Controller::new(heater.machine()), &stimulus, &SCAN, 30, &[]).write()
    };
    let table = "step,duration,Key,Degrees,expect\n1,100ms,on,4,Heat\n2,1s,off,,NOT Heat\n".to_string();
    let family = dialect::library("octal-coil").unwrap();
    let sheet = family.sheet.clone();
    let tags = std::fs::read_to_string("demo/filter_tags.csv").unwrap();
    let map = "old,symbol,comment,new,why\nX0,Low,\"float, low\",%I0.0,by hand\n,Door,=1+1,%I0.1,\n".to_string();
    let read_tags = move |text: &str| {
        let Ok(tags) = Tags::read(text, &sheet) else { return };
        assert_eq!(Tags::read(&Tags::write(&tags.rows), &sheet).unwrap().rows, tags.rows, "{text}");
        let source = Source::new("any.il", "LD X0\nOUT Y0\n");
        let _ = read_project_tagged(vec![(source, Language::Il)], &family, &tags);
    };
    vec![
        of_text(
            "stimulus",
            vec![stimulus.to_string()],
            beside_heater(|text, heater| {
                let Ok(read) = Stimulus::read(text, heater.machine()) else { return };
                let again = Stimulus::read(&read.write(heater.machine()), heater.machine());
                assert!(again.is_ok(), "{text}");
                let _: Trace = run_stimulus(&mut Controller::new(heater.machine()), &read, &SCAN, 20, &[]);
            }),
        ),
        of_text(
            "trace",
            vec![trace],
            beside_heater(|text, heater| {
                let _ = Stimulus::from_trace(text, heater.machine());
                if let Ok(timing) = Timing::read(text) {
                    let _ = (show::timing_text(&timing, 80), show::timing(&timing, 600));
                }
            }),
        ),
        of_text(
            "table",
            vec![table, std::fs::read_to_string("demo/filter_sequence.csv").unwrap()],
            beside_heater(|text, heater| {
                let read = read_table("any", text, heater.machine());
                if let Ok(script) = read
                    && !text.lines().any(is_long)
                {
                    let _ = play(&script, &[heater], &SCAN);
                }
            }),
        ),
        of_text("tags", vec![tags], read_tags),
        of_text("map", vec![map], |text| {
            let Ok(map) = AddressMap::read(text) else { return };
            assert_eq!(AddressMap::read(&map.write()).unwrap(), map, "{text}");
        }),
    ]
}

/// What is said in words: scenarios, acts, twin files, plant files, assumptions, rules, waves.
fn said() -> Vec<Reader> {
    let script = "set Degrees to 4\nhold Key\nwait 50ms\nrepeat 3 times\n  press Door for 20ms\n  expect NOT Heat within 30ms\nend\n\
        force Heat to off\npower cycle\nexpect Sum = 0\nrelease Heat\n";
    let scripts = vec![script.to_string(), std::fs::read_to_string("demo/filter.scenario").unwrap()];
    let acts = "hold Key; wait 3 scans; look; back 2 scans; press Door for 20ms; watch Heat, T.ET; ask Degrees + 1; keep here; until Lamp\n";
    let waves = {
        let heater = heater();
        let mut controller = Controller::new(heater.machine());
        let trace = run_stimulus(&mut controller, &Stimulus::default(), &SCAN, 20, &[]);
        show::vcd(&[trace], &["heater"]).unwrap()
    };
    vec![
        of_text(
            "scenario",
            scripts,
            beside_heater(|text, heater| {
                if let Ok(script) = Script::read("any", text)
                    && text.len() < 600
                {
                    let _ = play(&script, &[heater], &SCAN);
                }
            }),
        ),
        of_text(
            "acts",
            vec![acts.to_string()],
            beside_heater(|text, heater| {
                let mut session = Session::new(Twin::single(heater)).unwrap();
                for line in text.split(['\n', ';']).take(60).filter(|line| !is_long(line)) {
                    let _ = session.line(line);
                }
            }),
        ),
        of_text("twin file", files("demo", "toml"), |text| {
            let _ = TwinFile::read(text);
        }),
        of_text("plant file", files("demo/plants", "toml"), |text| {
            let _ = PlantFile::read(text);
        }),
        of_text(
            "rule",
            vec!["Heat = FALSE OR Degrees < 7".to_string(), "one-change, Door: off until Key".to_string()],
            beside_heater(|text, heater| {
                let _ = Assumption::read(text);
                let _ = Twin::single(heater).with_rules(vec![Rule::always(text)]);
            }),
        ),
        of_text(
            "waves",
            vec![waves],
            beside_heater(|text, heater| {
                let _ = Stimulus::from_vcd(text, heater.machine());
            }),
        ),
    ]
}

/// A wait of hours is no mistake, but nothing to try a thousand times.
fn is_long(line: &str) -> bool {
    line.split(|c: char| !c.is_ascii_digit()).any(|number| number.len() > 4)
}

/// What the library itself has written: states, certificates, frames of the protocol; and sheets.
fn kept() -> Vec<Reader> {
    let state = {
        let heater = heater();
        let twin = Twin::new(&heater, &heater);
        let mut search = Search::new(&twin, &Effort { scenarios: 128, faults: 0, ..Effort::default() });
        while search.step() {}
        serde_json::to_string(search.state()).unwrap()
    };
    let of_state = {
        let heater = heater();
        move |text: &str| {
            let Ok(state) = serde_json::from_str::<SearchState>(text) else { return };
            let twin = Twin::new(&heater, &heater);
            let effort = Effort { scenarios: 192, scans: 4_000, faults: 0, ..Effort::default() };
            if let Ok(mut search) = Search::resume(&twin, &effort, state) {
                while search.step() {}
            }
        }
    };
    let latch = "PROGRAM P VAR_INPUT a : BOOL; END_VAR VAR_OUTPUT q : BOOL; END_VAR q := q XOR a; END_PROGRAM";
    let files: Vec<Vec<u8>> = {
        let [left, right] = ["left", "right"].map(|name| version(name, latch, Language::St));
        let (_, certificate) = prove_certified(&Twin::new(&left, &right), &Means::default(), |_| true);
        certificate
            .unwrap()
            .files()
            .into_iter()
            .filter(|(name, _)| name.ends_with(".aig"))
            .map(|(_, f)| f.to_vec())
            .collect()
    };
    let [miter, certificate] = [0, 1].map(|number: usize| files[number].clone());
    let frames: Vec<Vec<u8>> =
        ["000100000006010300000004", "00020000000601060000beef", "000300000009011000000001020017"]
            .iter()
            .map(|hex| (0..hex.len()).step_by(2).map(|at| u8::from_str_radix(&hex[at..at + 2], 16).unwrap()).collect())
            .collect();
    let heater = heater();
    let sheets = LIBRARIES.iter().map(|library| library.sheet.to_string()).collect();
    vec![
        Reader {
            name: "state",
            kind: Kind::Tree,
            seeds: vec![state.into_bytes()],
            meet: Box::new(move |bytes| of_state(&String::from_utf8_lossy(bytes))),
        },
        Reader {
            name: "certificate",
            kind: Kind::Bytes,
            seeds: files,
            meet: Box::new(move |bytes| {
                let _ = (recheck(bytes, &certificate), recheck(&miter, bytes));
            }),
        },
        Reader {
            name: "frames",
            kind: Kind::Bytes,
            seeds: frames,
            meet: Box::new(move |bytes| {
                let _ = frame(bytes);
                let numbers = Numbers::of(heater.checked(), heater.machine(), &["Setpoint".to_string()]).unwrap();
                let writable = Writable { coils: true, registers: true, inputs: true };
                let mut served = Served::new(&heater, numbers, writable, Duration::from_millis(10));
                let _ = served.answer(bytes.get(7..).unwrap_or(bytes));
                served.scan();
            }),
        },
        of_text("sheet", sheets, |text| {
            let blocks = LIBRARIES.iter().find(|library| library.name == "octal-coil").unwrap().blocks;
            if let Ok(library) = read_library(&Source::new("any.toml", text), &Source::new("any.st", blocks)) {
                let _ = show::dialect(&library);
            }
        }),
    ]
}
