//! Hands on a machine's program: 1,000 rungs under a session, paced as the full screen paces them. A frame lets scans go by, looks
//! closely at the last one, and draws what a screen of 50 rows holds; the goal is fifty frames a second. The reference is the
//! controller by itself on the same scans, in the same run.
//!
//! `cargo bench --bench hands`
#![allow(clippy::print_stdout, clippy::unwrap_used, clippy::panic, reason = "a benchmark prints")]

mod common;

use common::program::program;
use honest_twin::check::verify;
use honest_twin::lang::{Language, read_project};
use honest_twin::model::{Duration, Instant};
use honest_twin::scan::Controller;
use honest_twin::session::Session;
use honest_twin::show::{self, Live, Which};
use honest_twin::source::Source;
use honest_twin::translate::translate;
use honest_twin::twin::{Twin, Version};
use std::time::Instant as Clock;

/// Read, checked and compiled, in a language.
fn version(text: &str, language: Language) -> Version {
    let (project, problems) =
        read_project(vec![(Source::new(format!("hatchery.{}", language.ending()), text), language)]);
    let (checked, all) = verify(project, problems);
    Version::new("hatchery", checked.unwrap_or_else(|| panic!("{:?}", all.0.first()))).unwrap()
}

/// Networks that a screen may hold.
const SCREEN: usize = 26;

fn frame(session: &mut Session, scans: u64, at: usize) -> usize {
    session.pass(scans).unwrap();
    let moments = session.moments().unwrap().map(<[_]>::to_vec);
    let stands = session.stands();
    let version = session.versions().next().unwrap().clone();
    let which = Which { networks: Some((at + 1..at + 1 + SCREEN).collect()), ..Which::default() };
    let mut live = Live::new(session.controller(0), "");
    live.moment = moments.as_ref().and_then(|moments| moments.first());
    show::rows(version.checked(), &which, Some(&live), 100).len() + stands.points.len()
}

fn main() {
    let text = program(1_000);
    let structured = version(&text, Language::St);
    let ladder = translate(structured.checked(), Language::Ld).unwrap().files[0].text.clone();
    let ladder = version(&ladder, Language::Ld);
    for (name, version) in [("structured text", &structured), ("ladder", &ladder)] {
        let mut session = Session::new(Twin::single(version)).unwrap();
        session.line("hold Probe3").unwrap();
        let scans_a_frame = 2;
        let frames = 300;
        let begin = Clock::now();
        let mut rows = 0;
        for number in 0..frames {
            rows += frame(&mut session, scans_a_frame, number % 900);
        }
        let framed = begin.elapsed().as_secs_f64();
        let mut controller = Controller::new(version.machine());
        let begin = Clock::now();
        for scan in 0..frames as i64 * scans_a_frame as i64 {
            controller.scan(Instant(Duration::from_millis(10 * scan)));
        }
        let bare = begin.elapsed().as_secs_f64();
        println!(
            "{name}: {:.0} frames a second of {scans_a_frame} scans, {rows} rows and values; {:.0} times the bare scans",
            f64::from(frames as u32) / framed,
            framed / bare
        );
    }
    // An hour of 10 ms, then anywhere in it.
    let small = version(&program(20), Language::St);
    for (name, version, hours) in [("20 rungs", &small, 1.0), ("1,000 rungs", &structured, 0.1)] {
        let mut session = Session::new(Twin::single(version)).unwrap();
        session.line("hold Probe3").unwrap();
        let begin = Clock::now();
        session.line(&format!("wait {} scans", (360_000.0 * hours) as u64)).unwrap();
        let gone = begin.elapsed().as_secs_f64();
        let mut worst: f64 = 0.0;
        for share in [0.999, 0.5, 0.01, 0.73, 0.98] {
            let to = (360_000.0 * hours * share) as u64;
            let (word, by) = match session.scans() {
                here if here > to => ("back", here - to),
                here => ("forward", to - here),
            };
            let begin = Clock::now();
            session.line(&format!("{word} {by} scans")).unwrap();
            worst = worst.max(begin.elapsed().as_secs_f64());
        }
        println!("{name}: {hours} h of machine time in {gone:.2} s; anywhere in it within {worst:.3} s");
    }
}
