//! `run`: scan by scan, with a trace.

use crate::args::Run;
use crate::case::{self, Either, scans_within};
use crate::{Outcome, files, problems};
use honest_twin::check::Checked;
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Machine, Stimulus, run_stimulus};
use honest_twin::twin::Version;
use honest_twin::twin::script::play;
use std::path::Path;

pub(crate) fn run(args: &Run, json: bool) -> Result<Outcome, String> {
    let Some(checked) = files::checked(&args.files, &args.written, json)? else { return Ok(Outcome::Found) };
    if let Some(path) = &args.scenario {
        return played(args, path, checked, json);
    }
    let machine = Machine::new(&checked).map_err(|e| e.to_string())?;
    let stimulus = match &args.stimulus {
        Some(path) => Stimulus::read(&files::read(path)?, &machine).map_err(|e| format!("{}: {e}", path.display()))?,
        None => Stimulus::default(),
    };
    let mut watch = Vec::new();
    for name in &args.watch {
        watch.push(machine.find(name).ok_or_else(|| format!("there is no variable `{name}` to watch"))?);
    }
    let mut controller = Controller::new(&machine);
    for force in &args.force {
        let (name, value) = force.split_once('=').ok_or_else(|| format!("`{force}`: a force is written NAME=VALUE"))?;
        let point = machine.find(name).ok_or_else(|| format!("there is no variable `{name}` to force"))?;
        let value = machine.parse(point, value).ok_or_else(|| format!("`{value}` is not a value of `{name}`"))?;
        controller.force(point, &value).map_err(|e| e.to_string())?;
    }
    let scans = args.scans.unwrap_or_else(|| {
        let span = args.span.unwrap_or_else(|| stimulus.length().plus(Duration::from_millis(1_000)));
        scans_within(&args.scan, span)
    });
    let trace = run_stimulus(&mut controller, &stimulus, &args.scan, scans, &watch);
    let text = trace.write();
    match &args.trace {
        Some(path) => files::write(path, &text)?,
        None if json => {}
        None => problems::say(&text),
    }
    let fault = controller.fault();
    if json {
        problems::say_json(&serde_json::json!({ "scans": scans, "trace": text, "fault": fault }))?;
    }
    let Some(fault) = fault else { return Ok(Outcome::Done) };
    if !json {
        let project = checked.project();
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

/// Plays a scenario and says which of its expectations were not met.
fn played(args: &Run, path: &Path, checked: Checked, json: bool) -> Result<Outcome, String> {
    let version = Version::new("the program", checked).map_err(|e| e.to_string())?;
    let Either::Script(script) = case::scenario(path, &version)? else {
        return Err(format!("{} expects nothing; give it as --stimulus", path.display()));
    };
    let played = play(&script, &[&version], &args.scan).map_err(|e| format!("{}: {e}", path.display()))?;
    let text = played.traces.first().map_or(String::new(), honest_twin::scan::Trace::write);
    match &args.trace {
        Some(path) => files::write(path, &text)?,
        None if json => {}
        None => problems::say(&text),
    }
    if json {
        let all = serde_json::json!({ "trace": text, "asked": played.asked, "failures": played.failures });
        problems::say_json(&all)?;
    } else {
        for f in &played.failures {
            problems::warn(&format!("not met: line {}: {} (scan {})\n", f.line, f.what, f.scan.0));
        }
        let met = played.asked - played.failures.len();
        problems::warn(&format!("expectations met: {met} of {}\n", played.asked));
    }
    Ok(if played.failures.is_empty() { Outcome::Done } else { Outcome::Found })
}
