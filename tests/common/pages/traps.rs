//! The thirty traps: for each a pair of programs, the scenario that separates them, both traces, the ledger.

use crate::common::dialects::read_in;
use honest_twin::check::Checked;
use honest_twin::dialect::library;
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, ScanTime, Stimulus, Trace, run_stimulus};
use honest_twin::show::{self, Timing};
use honest_twin::translate::{Entry, Grade, Mode, migrate};
use honest_twin::twin::{Effort, Verdict, Version, compare};
use serde::Deserialize;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Trap {
    title: String,
    about: String,
    /// The dialect that the left program is migrated to, for the ledger.
    ledger: Option<String>,
    /// Where the twin cannot find the scenario by itself: it is given.
    stimulus: Option<String>,
    scans: Option<u64>,
    /// Milliseconds of a scan on the right, if it is another.
    right_scan: Option<i64>,
    /// What is forced on the right.
    force: Option<String>,
    left: Program,
    right: Program,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Program {
    note: String,
    dialect: String,
    language: String,
    text: String,
}

impl Program {
    fn checked(&self, name: &str) -> Checked {
        let language = Language::of_file(&format!("x.{}", self.language)).unwrap();
        read_in(&self.dialect, name, &self.text, language)
    }
}

/// What is shown of a trap.
struct Seen {
    stimulus: String,
    traces: [Trace; 2],
    said: String,
}

/// `traps.md` with its pictures.
pub fn page() -> Vec<(String, String)> {
    let mut files = Vec::new();
    let mut text = String::from(
        "# The thirty traps, run\n\n\
         What makes two programs that look the same behave differently: for each trap two small programs, the shortest\n\
         scenario in which they part, both traces laid over each other, and what the ledger says of a migration that meets\n\
         it. This page is made by running it all (`tests/twins/pages.rs`, from `tests/traps`), and a test holds it.\n\n\
         Blue is the left program, orange and dashed the right one; where they differ the ground is tinted.\n",
    );
    for number in 1..=30u8 {
        let path = format!("{}/tests/traps/{number:02}.toml", env!("CARGO_MANIFEST_DIR"));
        let trap: Trap = toml::from_str(&std::fs::read_to_string(&path).unwrap()).unwrap();
        let (section, picture) = section(number, &trap);
        text.push_str(&section);
        files.push((format!("traps/{number:02}.svg"), picture));
    }
    files.push(("traps.md".to_string(), text));
    files
}

/// The two versions of a trap, if the twin finds what separates them by itself.
pub fn versions(number: u8) -> Option<[Version; 2]> {
    let path = format!("{}/tests/traps/{number:02}.toml", env!("CARGO_MANIFEST_DIR"));
    let trap: Trap = toml::from_str(&std::fs::read_to_string(&path).unwrap()).unwrap();
    let version = |program: &Program, name: &str| Version::new(name, program.checked(name)).unwrap();
    trap.stimulus.is_none().then(|| [version(&trap.left, "left"), version(&trap.right, "right")])
}

fn section(number: u8, trap: &Trap) -> (String, String) {
    let (left, right) = (trap.left.checked("left"), trap.right.checked("right"));
    let seen = match &trap.stimulus {
        Some(stimulus) => given(trap, stimulus, &left, &right),
        None => found(number, &left, &right),
    };
    let mut out = format!("\n## {number}. {}\n\n{}\n\n", trap.title, trap.about);
    for (side, program) in [("Left", &trap.left), ("Right", &trap.right)] {
        out.push_str(&format!("{side}, in `{}`: {}\n\n```\n{}```\n\n", program.dialect, program.note, program.text));
    }
    out.push_str(&format!("The scenario:\n\n```\n{}```\n\n", seen.stimulus));
    out.push_str(&format!("![trap {number}](traps/{number:02}.svg)\n\n{}\n", seen.said));
    out.push_str(&match &trap.ledger {
        Some(to) => ledger(number, &left, to),
        None => {
            "\nThe ledger has nothing to say: a translation keeps the order and the operators of a program, and with \
                 them what it does here.\n"
                .to_string()
        }
    });
    let timing = Timing::of(&seen.traces[0], &[]).beside(&seen.traces[1], [&trap.left.note, &trap.right.note]);
    let timing = Timing { caption: format!("{number}. {}", trap.title), ..timing };
    (out, show::timing(&timing, 900))
}

/// The scenario that the twin finds and shrinks, run a little beyond the difference.
fn found(number: u8, left: &Checked, right: &Checked) -> Seen {
    let versions = [("left", left), ("right", right)].map(|(n, c)| Version::new(n, c.clone()).unwrap());
    let verdict = compare(&versions[0], &versions[1], &Effort { scenarios: 2_000, ..Effort::default() }, |_| {});
    let Verdict::Different(difference) = verdict else {
        panic!("trap {number}: {}", show::verdict(&verdict));
    };
    let scans = (difference.scan.0 + 1) * 3 / 2 + 4;
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let traces = [0, 1].map(|side: usize| {
        let stimulus = Stimulus::read(&difference.stimulus, versions[side].machine()).unwrap();
        let mut controller = Controller::new(versions[side].machine());
        run_stimulus(&mut controller, &stimulus, &time, scans, &[])
    });
    let text = show::verdict(&Verdict::Different(difference.clone()));
    let head: Vec<&str> = text.lines().take(3).collect();
    let e = &difference.explanation;
    let hints: Vec<String> =
        e.hints.iter().map(|h| format!("  looks like trap {} ({}): {}", h.trap, h.title, h.why)).collect();
    let why = std::iter::once(format!("  {}", e.parting)).chain(hints).collect::<Vec<_>>().join("\n");
    let said = format!("The verdict and its explanation:\n\n```\n{}\n{why}\n```", head.join("\n"));
    Seen { stimulus: difference.stimulus.clone(), traces, said }
}

/// A scenario that is given, with what is particular to the right side.
fn given(trap: &Trap, stimulus: &str, left: &Checked, right: &Checked) -> Seen {
    let scans = trap.scans.unwrap_or(40);
    let run = |checked: &Checked, scan: i64, scans: u64, force: Option<&String>| {
        let version = Version::new("", checked.clone()).unwrap();
        let stimulus = Stimulus::read(stimulus, version.machine()).unwrap();
        let mut controller = Controller::new(version.machine());
        if let Some((name, value)) = force.and_then(|f| f.split_once('=')) {
            let point = version.machine().find(name).unwrap();
            controller.force(point, &version.machine().parse(point, value).unwrap()).unwrap();
        }
        run_stimulus(&mut controller, &stimulus, &ScanTime::Fixed(Duration::from_millis(scan)), scans, &[])
    };
    let first = run(left, 10, scans, None);
    let own = trap.right_scan.unwrap_or(10);
    let mut second = run(right, own, scans * 10 / own as u64, trap.force.as_ref());
    if own != 10 {
        // Between its scans the outside sees what the last one left.
        let mut seen = Trace::of(second.names.clone());
        for (scan, at) in first.scans() {
            let last = second.scans().iter().rposition(|(_, t)| t.0 <= at.0).unwrap();
            seen.push(*scan, *at, (0..second.names.len()).map(|column| second.at(last, column).unwrap().clone()));
        }
        second = seen;
    }
    let apart = first.rows().zip(second.rows()).find(|(a, b)| a.2 != b.2).expect("they part");
    let said = format!("They part in scan {}, and the scenario is given, not found.", apart.0.0.0);
    Seen { stimulus: stimulus.trim_start().to_string(), traces: [first, second], said }
}

/// What the ledger says of the left program's migration, and whether it comes true.
fn ledger(number: u8, left: &Checked, to: &str) -> String {
    let st = (Language::St, Language::St.into());
    let migrated = migrate(left, &library(to).unwrap(), st, Mode::Native, None).unwrap();
    let versions = [("source", left.clone()), ("target", migrated.checked)].map(|(n, c)| Version::new(n, c).unwrap());
    let verdict = compare(&versions[0], &versions[1], &Effort { scenarios: 300, ..Effort::default() }, |_| {});
    let ours = |e: &&Entry| e.trap == Some(number) || e.grade == Grade::Carried;
    let entries: Vec<&Entry> = migrated.translation.ledger.iter().filter(ours).collect();
    // Where points go is for the map to say; it keeps what survives the power among its like.
    assert!(!entries.is_empty() || [16, 18].contains(&number), "trap {number}: {:#?}", migrated.translation.ledger);
    let mut out = format!("\nTaken to `{to}` by the tool, the ledger says of the left program:\n\n");
    for entry in &entries {
        out.push_str(&format!("- {} {}: {}\n", entry.code, entry.grade.word(), entry.reason));
    }
    if entries.is_empty() {
        let rows = migrated.map.rows.iter().filter(|r| !r.new.is_empty());
        let rows: Vec<String> = rows.map(|r| format!("{} is {}", r.old, r.new)).collect();
        out.push_str(&format!("- nothing; the map says {}\n", rows.join(", ")));
    }
    let foretold =
        migrated.translation.ledger.iter().any(|e| matches!(e.grade, Grade::Conditional | Grade::Approximate));
    out.push_str(match verdict {
        Verdict::Tested(_) => "\nRead back and run beside it: the same in every scenario tried.\n",
        Verdict::Different(_) if foretold => "\nRead back and run beside it: different, as the ledger foretells.\n",
        _ => panic!("trap {number}: {}", show::verdict(&verdict)),
    });
    out
}
