//! The bit that is TRUE in the first scan: read in every language, of its own dialect and elsewhere, and never written.

use crate::common::dialects::read_in;
use honest_twin::check::Checked;
use honest_twin::dialect::library;
use honest_twin::lang::{Form, Language};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, ScanTime, Stimulus, run_stimulus};
use honest_twin::show;
use honest_twin::translate::{Grade, Mode, migrate, translate};
use honest_twin::twin::{Effort, Tested, Verdict, Version, compare};

/// Two families that have the bit: the family, a list that resets a count and lights a lamp by it, and the lamp.
const LISTS: [(&str, &str, &str); 2] = [
    (
        "octal-coil",
        "LD FLAG799\nR TALLY0\nLD INLET0\nST TALLY0, 2\nLD TALLY0\nOR FLAG799\nST OUTLET0\nLASTLINE\n",
        "OUTLET0",
    ),
    ("byte-bit", "LD NOTE199.7\nS NOTE3.1\nLD SENSE0.0\nR NOTE3.1\nLD NOTE3.1\nST ACT0.0\n", "ACT0.0"),
];

fn version(name: &str, checked: &Checked) -> Version {
    Version::new(name, checked.clone()).unwrap()
}

fn same(title: &str, left: &Checked, right: &Checked) -> Tested {
    let [left, right] = [version("source", left), version(title, right)];
    match compare(&left, &right, &Effort { scenarios: 200, ..Effort::default() }, |_| {}) {
        Verdict::Tested(tested) => *tested,
        other => panic!("{title}: {}", show::verdict(&other)),
    }
}

#[test]
fn it_is_on_in_the_first_scan_after_power_up_and_in_no_other() {
    let checked = read_in("octal-coil", "flag", "LD FLAG799\nST OUTLET0\nLASTLINE\n", Language::Il);
    assert!(checked.warnings().0.is_empty(), "{:?}", checked.warnings().0);
    let version = version("flag", &checked);
    let stimulus = Stimulus::read("time_ms,@controller\n30,power-cycle\n60,stop\n70,run\n", version.machine()).unwrap();
    let mut controller = Controller::new(version.machine());
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let trace = run_stimulus(&mut controller, &stimulus, &time, 9, &[]);
    let on: Vec<bool> = trace.column(0).map(|value| value.to_string() == "1").collect();
    assert_eq!(on, [true, false, false, true, false, false, false, false, false]);
}

#[test]
fn it_comes_along_into_every_language_and_family() {
    for (family, list, lamp) in LISTS {
        let source = read_in(family, "flag", list, Language::Il);
        for to in [Language::St, Language::Ld, Language::Fbd] {
            let text = translate(&source, to).unwrap().files[0].text.to_string();
            let back = read_in(family, "flag", &text, to);
            assert!(same(&format!("{family} {to:?}"), &source, &back).scans > 1_000, "{text}");
            assert_eq!(text.matches("{dialect").count(), 1, "{text}");
        }
        for target in ["iec", "octal-coil", "byte-bit", "word-bit", "point-block", "status-word", "flat-register"] {
            if target == family {
                continue;
            }
            let form = (Language::St, Form::Text(Language::St));
            let moved = migrate(&source, &library(target).unwrap(), form, Mode::Faithful, None).unwrap();
            let text = &moved.translation.files[0].text;
            let entries: Vec<_> = moved.translation.ledger.iter().filter(|e| e.code == "L26").collect();
            assert!(matches!(entries.as_slice(), [entry] if entry.grade == Grade::Exact), "{target}: {entries:?}");
            let has_own = library(target).unwrap().sheet.first_scan().is_some();
            assert_eq!(text.contains("Before := TRUE"), !has_own, "{target}: {text}");
            assert!(!text.contains(&format!("dialect {family}")), "{target}: {text}");
            same(&format!("{family} to {target}, {lamp}"), &source, &moved.checked);
        }
    }
}
