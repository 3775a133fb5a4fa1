//! `compare`: two versions in lockstep.

use crate::args::{Compare, Written};
use crate::{Outcome, files, problems};
use honest_twin::show;
use honest_twin::twin::{Effort, Verdict, Version, compare};
use indicatif::{ProgressBar, ProgressStyle};
use owo_colors::OwoColorize;
use std::path::PathBuf;

pub(crate) fn run(args: &Compare, json: bool) -> Result<Outcome, String> {
    let Some(right) = &args.right else {
        return Err("twin files are not there yet; name two versions: compare LEFT RIGHT".to_string());
    };
    if args.report.is_some() {
        return Err("`--report` is not there yet; `--json` has everything the verdict rests on".to_string());
    }
    let Some(left) = version(&args.left, &args.written, json)? else { return Ok(Outcome::Wrong) };
    let Some(right) = version(right, &files::other_side(&args.written, right), json)? else {
        return Ok(Outcome::Wrong);
    };
    let effort = Effort { scenarios: args.scenarios, scans: args.scans, seed: args.seed, time: args.scan.clone() };
    let verdict = with_progress(&left, &right, &effort);
    if let (Some(path), Verdict::Different(difference)) = (&args.stimulus, &verdict) {
        files::write(path, &difference.stimulus)?;
    }
    if json {
        problems::say_json(&verdict)?;
    } else {
        problems::say(&coloured(&verdict));
    }
    Ok(outcome(&verdict))
}

fn version(path: &PathBuf, written: &Written, json: bool) -> Result<Option<Version>, String> {
    let Some(checked) = files::checked(std::slice::from_ref(path), written, json)? else { return Ok(None) };
    let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().to_string();
    Version::new(name, checked).map(Some).map_err(|e| format!("{}: {e}", path.display()))
}

/// Compares with a progress bar, which is seen on a terminal only.
pub(crate) fn with_progress(left: &Version, right: &Version, effort: &Effort) -> Verdict {
    let style = ProgressStyle::with_template("  {bar:40} {pos} of {len} scenarios")
        .unwrap_or_else(|_| ProgressStyle::default_bar());
    let bar = ProgressBar::new(effort.scenarios).with_style(style);
    let verdict = compare(left, right, effort, |p| bar.set_position(p.done));
    bar.finish_and_clear();
    verdict
}

/// The verdict with its first line set off; colour is dropped where there is no terminal.
pub(crate) fn coloured(verdict: &Verdict) -> String {
    let text = show::verdict(verdict);
    let (first, rest) = text.split_once('\n').unwrap_or((&text, ""));
    let first = match verdict {
        Verdict::Tested(_) => first.bold().to_string(),
        Verdict::Different(_) => first.bold().yellow().to_string(),
        _ => first.bold().magenta().to_string(),
    };
    format!("{first}\n{rest}")
}

/// The exit status that goes with a verdict.
pub(crate) fn outcome(verdict: &Verdict) -> Outcome {
    match verdict {
        Verdict::Tested(_) => Outcome::Done,
        Verdict::Different(_) => Outcome::Found,
        _ => Outcome::Undecided,
    }
}
