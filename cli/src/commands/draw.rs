//! `draw`: rungs and networks, in the terminal, as SVG or as PNG.

use crate::args::{At, Draw};
use crate::case::{Course, scans_within};
use crate::{Outcome, files, pictures, problems};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Moment, run_up_to};
use honest_twin::show::{self, Live, Page, Timing, Which};
use honest_twin::twin::Version;
use std::path::Path;

pub(crate) fn run(args: &Draw, json: bool) -> Result<Outcome, String> {
    if args.project.extension().is_some_and(|e| e.eq_ignore_ascii_case("csv")) {
        return trace(args, json);
    }
    let Some(checked) = files::checked(std::slice::from_ref(&args.project), &args.written, &[], json)? else {
        return Ok(Outcome::Found);
    };
    let page = Page { width: args.width };
    let pages = match &args.beside {
        Some(other) => {
            if args.at.is_some() {
                return Err("`--at` shows one version; draw the other by itself".to_string());
            }
            let Some(right) = files::checked(
                std::slice::from_ref(other),
                &files::other_side(&args.written, &args.other, other),
                &[],
                json,
            )?
            else {
                return Ok(Outcome::Found);
            };
            let names = [&args.project, other].map(|p| p.display().to_string());
            let names = [names[0].as_str(), names[1].as_str()];
            let changes = honest_twin::changes::changes(names, &checked, &right);
            vec![show::beside(&changes, &checked, &right, names, page)]
        }
        None => match args.at {
            Some(at) => {
                let version = Version::new("the program", checked.clone()).map_err(|e| e.to_string())?;
                let mut controller = Controller::new(version.machine());
                let (caption, moment) = until(args, at, &version, &mut controller)?;
                let live = Live::new(&controller, caption).executed(&moment);
                if args.out.is_none() && !json {
                    let rows = show::rows(&checked, &Which::default(), Some(&live), TERMINAL);
                    rows.iter().for_each(|row| problems::say(&format!("{}\n", row.text())));
                    return Ok(Outcome::Done);
                }
                show::pages(&checked, page, args.height, Some(&live))
            }
            None => show::pages(&checked, page, args.height, None),
        },
    };
    match &args.out {
        None if args.beside.is_some() => {
            return Err("in the terminal one version is drawn; name a picture with --out".to_string());
        }
        None if json => match pages.as_slice() {
            [drawing] => problems::say_json(&serde_json::json!({ "svg": drawing }))?,
            many => problems::say_json(&serde_json::json!({ "pages": many }))?,
        },
        None => problems::say(&show::terminal(&checked)),
        Some(out) => deliver_all(out, &pages)?,
    }
    Ok(Outcome::Done)
}

/// Writes pages: one under the name that was given, several with a number behind it.
fn deliver_all(out: &Path, pages: &[String]) -> Result<(), String> {
    if let [drawing] = pages {
        return deliver(out, drawing);
    }
    let digits = pages.len().to_string().len();
    let name = |number: usize| {
        let stem = out.file_stem().unwrap_or_default().to_string_lossy();
        let ending = out.extension().unwrap_or_default().to_string_lossy();
        out.with_file_name(format!("{stem}-{number:0digits$}.{ending}"))
    };
    for (drawing, number) in pages.iter().zip(1..) {
        deliver(&name(number), drawing)?;
    }
    problems::say(&format!("{} pages: {} to {}\n", pages.len(), name(1).display(), name(pages.len()).display()));
    Ok(())
}

/// A trace as a timing diagram; another one laid over it.
fn trace(args: &Draw, json: bool) -> Result<Outcome, String> {
    let read = |path: &Path| Timing::read(&files::read(path)?).map_err(|e| format!("{}: {e}", path.display()));
    let mut timing = read(&args.project)?;
    timing.caption = args.project.display().to_string();
    if let Some(other) = &args.beside {
        timing = timing.over(read(other)?, [&args.project, other].map(|p| p.to_str().unwrap_or("")));
    }
    let drawing = show::timing(&timing, args.width);
    match &args.out {
        None if json => problems::say_json(&serde_json::json!({ "svg": drawing }))?,
        None => problems::say(&show::timing_text(&timing, 100)),
        Some(out) => deliver(out, &drawing)?,
    }
    Ok(Outcome::Done)
}

/// Characters of a line in the terminal.
const TERMINAL: usize = 100;

/// Most scans until then.
const MOST_SCANS: u64 = 10_000_000;

/// Runs up to and with a scan, and says which that was, and what it did.
fn until(args: &Draw, at: At, version: &Version, controller: &mut Controller) -> Result<(String, Moment), String> {
    let Course { stimulus, .. } = Course::read(args.stimulus.as_deref(), &args.force, version, &args.scan)?;
    let scan = match at {
        At::Scan(scan) => scan,
        At::Time(time) => scans_within(&args.scan, time.plus(Duration::from_nanos(1))).saturating_sub(1),
    };
    if scan >= MOST_SCANS {
        return Err(format!("--at: {MOST_SCANS} scans are run at most"));
    }
    let moment = run_up_to(controller, &stimulus, &args.scan, scan);
    if let Some(fault) = controller.fault() {
        return Ok((format!("scan {}, where it stopped: {}", fault.scan.0, fault.kind), moment));
    }
    let at = args
        .scan
        .clock()
        .nth(scan as usize)
        .map_or(String::new(), |at| format!(" at {}", honest_twin::model::format_duration(at.0)));
    Ok((format!("scan {scan}{at}"), moment))
}

/// Writes a drawing as its file's ending asks.
fn deliver(out: &Path, svg: &str) -> Result<(), String> {
    match out.extension().map(|e| e.to_string_lossy().to_ascii_lowercase()).as_deref() {
        Some("svg") => files::write(out, svg),
        Some("png") => files::write(out, pictures::png(svg)?),
        _ => Err(format!("{}: a drawing is written as .svg or .png", out.display())),
    }
}
