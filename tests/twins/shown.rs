//! What a verdict looks like: as text, as a page and for a build server, for each kind of verdict; drawings, timing and
//! dialects as text.

use crate::common::{checked, version};
use honest_twin::dialect::{LIBRARIES, library};
use honest_twin::lang::Language;
use honest_twin::model::Duration;
use honest_twin::prove::{Means, prove};
use honest_twin::scan::{Controller, ScanTime, Stimulus, run_stimulus};
use honest_twin::show::{self, Dossier, Page, Timing};
use honest_twin::twin::{Effort, Rule, Twin, Verdict, Version, compare_twin};

/// The oxygen alarm of a raceway: late by a delay, and counted; `alarm` and `count` say how.
fn alarm(name: &str, delay: &str, count: &str) -> Version {
    let text = format!(
        "PROGRAM Oxygen
         VAR_INPUT Low, Quit : BOOL; END_VAR
         VAR_OUTPUT Alarm : BOOL; Alarms : INT; END_VAR
         VAR Late : TON; Before : BOOL; END_VAR
         Late(IN := Low, PT := {delay});
         Alarm := (Late.Q OR Alarm) AND NOT Quit;
         IF Alarm AND NOT Before THEN Alarms := {count}; END_IF;
         Before := Alarm;
         END_PROGRAM"
    );
    version(name, &text, Language::St)
}

fn effort(scenarios: u64) -> Effort {
    Effort { scenarios, faults: 0, ..Effort::default() }
}

/// A verdict of each kind, with the twin it is about.
fn each(mut look: impl FnMut(&str, &Twin<'_>, &Verdict)) {
    let old = alarm("old", "T#80ms", "Alarms + 1");
    let same = alarm("same", "T#80ms", "1 + Alarms");
    let other = alarm("other", "T#90ms", "Alarms + 1");
    let wide = alarm("wide", "T#80ms", "LIMIT(0, Alarms + 1, 30000)");
    let twin = Twin::new(&old, &same);
    look("tested", &twin, &compare_twin(&twin, &effort(40), |_| ()));
    look("proved", &twin, &prove(&twin, &Means::default(), |_| true));
    let twin = Twin::new(&old, &other);
    look("different", &twin, &compare_twin(&twin, &effort(200), |_| ()));
    let twin = Twin::single(&old).with_rules(vec![Rule::never("Alarm AND Quit"), Rule::never("Alarms > 1")]).unwrap();
    look("broken", &twin, &compare_twin(&twin, &effort(400), |_| ()));
    let twin = Twin::new(&old, &wide);
    // What is told to stop at once has decided nothing.
    look("undecided", &twin, &prove(&twin, &Means { conflicts: 1, ..means() }, |_| false));
}

fn means() -> Means {
    Means { effort: effort(10), ..Means::default() }
}

/// A page without its marks: what it says, a line for each piece.
fn words(page: &str) -> String {
    let mut out = String::new();
    let mut rest = page;
    for (open, close) in [("<style", "</style>"), ("<script", "</script>")] {
        if rest.contains(open) && !rest.contains(close) {
            panic!("{open} is not closed");
        }
    }
    while let Some(at) = rest.find('<') {
        let text = rest[..at].trim();
        if !text.is_empty() {
            out.push_str(&text.split_whitespace().collect::<Vec<_>>().join(" "));
            out.push('\n');
        }
        let skip = ["style", "script", "svg"].into_iter().find(|tag| rest[at + 1..].starts_with(tag));
        let end = match skip {
            Some(tag) => rest[at..].find(&format!("</{tag}>")).map_or(rest.len(), |n| at + n),
            None => at,
        };
        rest = rest[end..].split_once('>').map_or("", |(_, rest)| rest);
    }
    out
}

/// The text of a verdict is read from a snapshot; the page and the report for a build server say the same headline, and
/// the latter a failure where, and only where, the versions differ or a rule is broken.
#[test]
fn verdicts_of_every_kind() {
    let mut out = String::new();
    let mut kinds = 0;
    each(|kind, twin, verdict| {
        let is_it = match verdict {
            Verdict::Tested(_) => kind == "tested",
            Verdict::Proved(_) => kind == "proved",
            Verdict::Different(_) => kind == "different",
            Verdict::Broken(_) => kind == "broken",
            Verdict::Undecided { .. } => kind == "undecided",
            _ => false,
        };
        let text = show::verdict(verdict);
        assert!(is_it, "{kind}: {text}");
        kinds += 1;
        out.push_str(&format!("--- {kind}\n{text}\n"));
        let junit = show::junit(twin, verdict, &[]).unwrap();
        assert_eq!(junit.contains("<failure"), kind == "different" || kind == "broken", "{kind}: {junit}");
        assert!(junit.starts_with("<?xml") && junit.contains("<testcase"), "{kind}: {junit}");
        let page = show::report(twin, verdict, &Dossier::default()).unwrap();
        let said = words(&page);
        assert!(said.contains("old"), "{kind}\n{said}");
        // Numbers, scans and statements in a headline are the same wherever it is said.
        let headline = text.lines().next().unwrap();
        let figures = |text: &str| -> Vec<String> {
            text.split(|c: char| !c.is_ascii_digit()).filter(|n| !n.is_empty()).map(ToString::to_string).collect()
        };
        for figure in figures(headline) {
            assert!(said.contains(&figure) && junit.contains(&figure), "{kind}: {figure} of `{headline}`\n{said}");
        }
        assert!(!page.contains("http://") || page.contains("www.w3.org"), "{kind}: nothing is fetched from elsewhere");
    });
    assert_eq!(kinds, 5);
    insta::assert_snapshot!(out);
}

#[test]
fn a_build_server_gets_a_case_for_each_output_and_rule() {
    let mut out = String::new();
    each(|kind, twin, verdict| out.push_str(&format!("--- {kind}\n{}\n", show::junit(twin, verdict, &[]).unwrap())));
    insta::assert_snapshot!(out);
}

#[test]
fn a_page_says_what_was_found() {
    let mut out = String::new();
    each(|kind, twin, verdict| {
        if kind == "different" {
            out = words(&show::report(twin, verdict, &Dossier::default()).unwrap());
        }
    });
    insta::assert_snapshot!(out);
}

#[test]
fn networks_timing_and_dialects_as_text() {
    let text = std::fs::read_to_string("demo/raceway.ld").unwrap();
    let raceway = checked("raceway", &text, Language::Ld);
    let mut out = show::terminal(&raceway);
    let old = alarm("old", "T#80ms", "Alarms + 1");
    let stimulus =
        Stimulus::read("time_ms,Low,Quit\n0,0,0\n20,1,0\n150,0,0\n180,0,1\n200,0,0\n", old.machine()).unwrap();
    let mut controller = Controller::new(old.machine());
    let trace = run_stimulus(&mut controller, &stimulus, &ScanTime::Fixed(Duration::from_millis(10)), 24, &[]);
    let timing = Timing::of(&trace, &["Low", "Quit", "Alarm", "Alarms"]);
    out.push_str(&show::timing_text(&timing, 100));
    insta::assert_snapshot!(out);
    // Pictures hold the names that the text does, at any width, and nothing that is no SVG.
    for width in [320, 800, 2000] {
        let picture = show::timing(&timing, width);
        assert!(
            ["Low", "Quit", "Alarm", "Alarms"].iter().all(|name| picture.contains(&format!("\n{name}\n"))),
            "{picture}"
        );
        assert!(picture.starts_with("<svg") && picture.trim_end().ends_with("</svg>"));
    }
    let drawn = show::draw(&raceway, Page::default(), None);
    for name in ["Demand", "BIsDuty"] {
        assert!(drawn.contains(name), "{name}");
    }
}

/// Each family is described in words, alone and beside each other, within a terminal's width.
#[test]
fn every_dialect_is_described() {
    let all: Vec<_> = LIBRARIES.iter().map(|shipped| library(shipped.name).unwrap()).collect();
    let list = show::dialect_list(all.iter().map(|l| &**l));
    for one in &all {
        assert!(list.contains(&one.sheet.name), "{list}");
        let text = show::dialect(one);
        assert!(text.starts_with(&format!("{}: {}", one.sheet.name, one.sheet.title)), "{text}");
        for other in &all {
            let beside = show::dialects_beside(one, other);
            let head = beside.lines().next().unwrap();
            assert!(head.contains(&one.sheet.name) && head.contains(&other.sheet.name), "{beside}");
            let width = beside.lines().map(|line| line.chars().count()).max();
            assert!(width <= Some(120), "{beside}");
        }
    }
}

/// A long program is drawn on pages: each network once, none of the pages taller than was asked, and all on one where it fits.
#[test]
fn long_programs_are_drawn_on_pages() {
    use honest_twin::show::{Page, draw, pages};
    let rungs: String = (0..90).map(|n| format!("// rinse {n}\nOut := Low AND NOT Out;\n\n")).collect();
    let list: String = (0..700).map(|_| "Out := Low OR Out;\n").collect();
    let text = |body: &str| {
        format!("PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT Out : BOOL; END_VAR\n{body}END_PROGRAM\n")
    };
    for (body, networks) in [(rungs, 90), (list, 3)] {
        let version = crate::common::version("long", &text(&body), Language::St);
        let checked = version.checked();
        assert_eq!(pages(checked, Page::default(), u32::MAX, None), [draw(checked, Page::default(), None)]);
        for tallest in [700, 3_000, 8_000] {
            let drawn = pages(checked, Page::default(), tallest, None);
            let height = |svg: &String| {
                let from = svg.find("height=\"").unwrap() + 8;
                svg[from..].split('"').next().unwrap().parse::<f64>().unwrap()
            };
            let single = if networks == 3 { 8_000.0 } else { 0.0 };
            assert!(drawn.iter().all(|svg| height(svg) <= f64::from(tallest).max(single) + 30.0), "{tallest}");
            assert!(drawn.len() > 1 || tallest == 8_000, "{} pages", drawn.len());
            let continued = drawn.iter().filter(|svg| svg.contains("continued")).count();
            assert_eq!(continued, drawn.len() - 1, "{tallest}");
            let shown: usize = drawn.iter().map(|svg| svg.matches("rinse").count()).sum();
            assert_eq!(shown, if networks == 90 { 90 } else { 0 }, "{tallest}");
        }
    }
}

/// Long sections of a report are folded, each that is opened is closed, and short ones stand open.
#[test]
fn long_sections_of_a_report_are_folded() {
    for (outputs, folded) in [(3, 0), (70, 1)] {
        let names: Vec<String> = (0..outputs).map(|n| format!("Out{n}")).collect();
        let body: String = names.iter().map(|name| format!("{name} := Low;\n")).collect();
        let text = format!(
            "PROGRAM P VAR_INPUT Low : BOOL; END_VAR VAR_OUTPUT {} : BOOL; END_VAR\n{body}END_PROGRAM\n",
            names.join(", ")
        );
        let [left, right] = ["old", "new"].map(|name| crate::common::version(name, &text, Language::St));
        let twin = Twin::new(&left, &right);
        let verdict = prove(&twin, &Means { conditions: false, ..Means::default() }, |_| true);
        let page = show::report(&twin, &verdict, &Dossier::default()).unwrap();
        assert_eq!(page.matches("<details>").count(), folded, "{outputs} outputs");
        assert_eq!(page.matches("</details>").count(), folded, "{outputs} outputs");
        assert_eq!(page.contains(&format!("{} points: too long to be shown at once", outputs + 1)), folded == 1);
        assert!(names.iter().all(|name| page.contains(name.as_str())));
    }
}
