//! `run`: scan by scan, with a trace.

use crate::args::Run;
use crate::case::{Course, scans_within};
use crate::{Outcome, files, problems};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Direction, Measure, Trace, measures, run_stimulus};
use honest_twin::show;
use honest_twin::twin::Version;

/// Most cells of a trace as a text within JSON.
const MOST_CELLS: usize = 20_000_000;

/// Signals that are told of in the terminal, at most.
const MOST_TOLD: usize = 40;

pub(crate) fn run(args: &Run, json: bool) -> Result<Outcome, String> {
    let Some(checked) = files::checked(&args.files, &args.written, &args.plants.plant, json)? else {
        return Ok(Outcome::Found);
    };
    let version = Version::new("the program", checked).map_err(|e| e.to_string())?;
    let machine = version.machine();
    let Course { stimulus, played } = Course::read(args.stimulus.as_deref(), &args.force, &version, &args.scan)?;
    let mut watch = Vec::new();
    for name in &args.watch {
        let found = machine.find_all(name);
        if found.is_empty() {
            return Err(format!("there is no variable `{name}` to watch"));
        }
        watch.extend(found);
    }
    let scans = match (args.scans, args.span, &played) {
        (Some(scans), ..) => scans,
        (None, Some(span), _) => scans_within(&args.scan, span),
        (None, None, Some(played)) => played.scans(),
        (None, None, None) => scans_within(&args.scan, stimulus.length().plus(Duration::from_millis(1_000))),
    };
    let most = Trace::MOST_SCANS;
    if scans > most as u64 {
        return Err(format!(
            "{scans} scans are more than is kept at once; {most} scans are not: run it in parts, or with a longer --scan"
        ));
    }
    let mut controller = Controller::new(machine);
    let trace = run_stimulus(&mut controller, &stimulus, &args.scan, scans, &watch);
    let rows = trace.scans().len();
    if (rows as u64) < scans {
        return Err(format!(
            "within {rows} scans the values have changed {} times in all, which is what is kept at once: run it in parts, with a longer --scan, or --watch less",
            Trace::MOST_VALUES
        ));
    }
    let told = if args.changes { &trace.changes() } else { &trace };
    let [rows, signals] = [told.scans().len(), told.names.len()];
    if json && rows.saturating_mul(signals) > MOST_CELLS {
        return Err(format!(
            "{rows} rows of {signals} signals are too long a text for JSON: leave --json away, or tell --changes only"
        ));
    }
    // What a person wants to know: what the outputs, and what was watched, did.
    let is_input = |name: &str| machine.find(name).is_some_and(|p| machine.point(p).direction == Direction::Input);
    let seen: Vec<Measure> = measures(&trace).into_iter().filter(|measure| !is_input(&measure.name)).collect();
    match &args.trace {
        Some(path) => files::write_by(path, |out| told.write_to(out))?,
        None if json => {}
        None => problems::say_by(|out| told.write_to(out)),
    }
    let fault = controller.fault();
    let (asked, failures) = played.map_or((0, Vec::new()), |played| (played.asked, played.failures));
    if json {
        let all = serde_json::json!({ "scans": scans, "trace": told.write(), "fault": fault, "asked": asked, "failures": failures, "seen": seen });
        problems::say_json(&all)?;
    } else {
        let more = seen.len().saturating_sub(MOST_TOLD);
        let words = show::measures(&seen[..seen.len() - more]);
        let more = if more > 0 { format!("and {more} more; --json tells all\n") } else { String::new() };
        problems::warn(&format!("{words}\n{more}"));
        problems::warn(&problems::first_of(&failures, |f| {
            format!("not met: line {}: {} (scan {})\n", f.line, f.what, f.scan.0)
        }));
        if asked > 0 {
            problems::warn(&format!("expectations met: {} of {asked}\n", asked - failures.len()));
        }
    }
    let Some(fault) = fault else {
        return Ok(if failures.is_empty() { Outcome::Done } else { Outcome::Found });
    };
    if !json {
        let project = version.checked().project();
        problems::warn(&format!(
            "fault in scan {}: {} at {}: {}\n",
            fault.scan.0,
            fault.kind,
            project.place(fault.span),
            project.excerpt(fault.span)
        ));
    }
    Ok(Outcome::Found)
}
