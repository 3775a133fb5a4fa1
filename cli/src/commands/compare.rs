//! `compare`: two versions or more beside each other; and `merge`, for what was tried in parts.

use crate::args::{Call, Command, Compare, Merge};
use crate::case::Case;
use crate::evidence::{self, Wanted, shown};
use crate::{Outcome, files, interrupt, problems};
use clap::Parser;
use honest_twin::prove::{Means, compare_solving, finish_solving, settle_faults};
use honest_twin::show::{self, Timing};
use honest_twin::twin::file::FileVersion;
use honest_twin::twin::script::Failure;
use honest_twin::twin::{Activity, Effort, Halt, Progress, Scenario, Search, SearchState, Twin, Verdict, file, traces};
use indicatif::{ProgressBar, ProgressStyle};
use owo_colors::OwoColorize;
use serde::{Deserialize, Serialize};
use std::path::Path;
use std::time::{Duration, Instant};

pub(crate) fn run(args: &Compare, json: bool) -> Result<Outcome, String> {
    let Some(case) = Case::read(&args.into(), json)? else { return Ok(Outcome::Wrong) };
    let several = case.versions.len() > 2;
    if several && args.state.is_some() {
        return Err("`--state` keeps what two versions have tried; this twin file has more".to_string());
    }
    let mut worst = Outcome::Done;
    // An interrupt ends all comparisons of the call.
    let bell = interrupt::bell();
    let others = if case.versions.len() == 1 { 0..1 } else { 1..case.versions.len() };
    for other in others {
        let number = several.then_some(other + 1);
        let outcome = one(args, &case, (other, number), &bell, json)?;
        worst = if outcome == Outcome::Done { worst } else { outcome };
    }
    Ok(worst)
}

/// The first version and another one.
fn one(
    args: &Compare,
    case: &Case,
    (other, number): (usize, Option<usize>),
    bell: &Halt,
    json: bool,
) -> Result<Outcome, String> {
    let mut twin = case.twin(&args.into(), other)?;
    if let Some(path) = &args.save {
        let sources = case.sources_of(other, path);
        let versions: Vec<&FileVersion> = sources.iter().collect();
        files::write(
            path,
            file::write(&twin, &versions, [&case.scenario_files(path), &case.plant_files(path)], &case.effort),
        )?;
    }
    let given = case.play(&mut twin)?;
    interrupt::halt_with(&twin.halt, bell, args.time_limit);
    let (verdict, took) = match &args.state {
        Some(path) => (kept(path, &twin, &case.effort)?, None),
        None => {
            let (verdict, took) = timed(&twin, &case.effort);
            (verdict, Some(took))
        }
    };
    save_stimulus(args.held.stimulus.as_deref(), &verdict)?;
    let verdict = settled(&twin, &case.effort, verdict);
    let wanted = Wanted { report: args.held.report.as_deref(), evidence: args.evidence.as_deref(), number };
    evidence::write(&wanted, case, &twin, &verdict, &given)?;
    if json {
        problems::say_json(&Answer { verdict: &verdict, asked: given.asked, failures: &given.failures })?;
    } else {
        if let Some(number) = number {
            let [left, right] = twin.versions().map(|v| v.name());
            problems::say(&format!("{left} and version {number}, {right}:\n"));
        }
        problems::say(&coloured(&verdict));
        if let Verdict::Different(difference) = &verdict {
            problems::say(&over_time(&twin, &difference.scenario));
        }
        if let (Verdict::Tested(tested), Some(took)) = (&verdict, took) {
            problems::say(&speed(tested.scans + tested.wide, took, twin.is_single()));
        }
        problems::say(&problems::first_of(&given.failures, |f| {
            let at = honest_twin::model::format_duration(f.at.0);
            format!("  not met: {}, line {}, {}: {} (scan {}, {at})\n", f.scenario, f.line, f.version, f.what, f.scan.0)
        }));
        if given.asked > 0 {
            let met = given.asked - given.failures.len();
            problems::say(&format!("  expectations met: {met} of {}\n", given.asked));
        }
    }
    Ok(match outcome(&verdict) {
        Outcome::Done if !given.failures.is_empty() => Outcome::Found,
        other => other,
    })
}

/// Writes the scenario that shows a difference or breaks a rule where that is wanted.
pub(crate) fn save_stimulus(path: Option<&Path>, verdict: &Verdict) -> Result<(), String> {
    let (Some(path), Some((script, stimulus))) = (path, shown(verdict)) else { return Ok(()) };
    let lines = path.extension().is_none_or(|e| !e.eq_ignore_ascii_case("csv"));
    let script = script.join("\n") + "\n";
    files::write(path, if lines { &script } else { stimulus })
}

/// Both versions over time, in characters: what moves or differs.
fn over_time(twin: &Twin<'_>, scenario: &Scenario) -> String {
    let [left, right] = traces(twin, scenario, 6, 160);
    let sides = twin.versions().map(|v| v.name());
    let names: Vec<&str> =
        twin.pairing.inputs().iter().chain(twin.pairing.outputs()).map(|p| p.name.as_str()).collect();
    let mut drawn = Timing::of(&left, &names).beside(&right, sides);
    drawn.tracks.retain(|t| t.values.iter().chain(t.other.iter().flatten()).any(|v| Some(v) != t.values.first()));
    let lines = show::timing_text(&drawn, 100);
    let body: String = lines.lines().map(|l| format!("  {l}\n")).collect();
    format!("\nOver time; where they differ the second line is {}:\n{body}", sides[1])
}

/// How fast it was; the library has no clock, so this stands outside the verdict.
fn speed(scans: u64, took: Duration, single: bool) -> String {
    let seconds = took.as_secs_f64().max(0.001);
    let rate = scans as f64 / seconds / 1_000_000.0;
    let of = if single { "" } else { " of both sides" };
    let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    format!("  the scenarios took {seconds:.1} s on {cores} cores: {rate:.1} million scans{of} a second\n")
}

/// What is said to machines: the verdict, and what became of expectations.
#[derive(Serialize)]
struct Answer<'a> {
    #[serde(flatten)]
    verdict: &'a Verdict,
    asked: usize,
    failures: &'a [Failure],
}

/// What a search has tried, on disk.
#[derive(Serialize, Deserialize)]
struct Kept {
    /// The call, so that parts can be joined without saying it again.
    call: Vec<String>,
    /// Digest of both versions' texts.
    of: String,
    /// True when this part has nothing more to do.
    finished: bool,
    state: SearchState,
}

fn texts(twin: &Twin<'_>) -> String {
    let sources = twin.versions().into_iter().flat_map(|v| &v.checked().project().sources);
    show::digest(&sources.map(|s| s.text.as_str()).collect::<Vec<_>>().join("\u{0}"))
}

fn read_kept(path: &Path) -> Result<Kept, String> {
    serde_json::from_str(&files::read(path)?).map_err(|e| format!("{}: {e}", path.display()))
}

/// A search whose state is on disk: written every second or so, and gone on from if it is there.
fn kept(path: &Path, twin: &Twin<'_>, effort: &Effort) -> Result<Verdict, String> {
    let of = texts(twin);
    let mut search = if path.exists() {
        let kept = read_kept(path)?;
        if kept.of != of {
            return Err(format!("{} is what other texts have tried; name another file", path.display()));
        }
        Search::resume(twin, effort, kept.state).map_err(|e| format!("{}: {e}", path.display()))?
    } else {
        Search::new(twin, effort)
    };
    let bar = ProgressBar::new(effort.scenarios);
    let mut written = Instant::now();
    let write = |search: &Search<'_>, finished: bool| -> Result<(), String> {
        let call = std::env::args().collect();
        let kept = Kept { call, of: of.clone(), finished, state: search.state().clone() };
        let text = serde_json::to_string(&kept).map_err(|e| e.to_string())?;
        // Whoever is killed while writing leaves the last one as it was.
        files::write(path, text)
    };
    while search.step() {
        show_progress(&bar, search.progress());
        if written.elapsed() > Duration::from_secs(1) {
            write(&search, false)?;
            written = Instant::now();
        }
    }
    // Cut short, it has more to do: the same call goes on from here.
    write(&search, !twin.halt.has_rung())?;
    let part = effort.shard.1 > 1;
    // Strength is that of the whole; a part alone has not got it.
    let verdict =
        if part { search.verdict() } else { finish_solving(search, twin, effort, |p| show_progress(&bar, p)) };
    bar.finish_and_clear();
    Ok(verdict)
}

/// `merge`
pub(crate) fn merge(args: &Merge, json: bool) -> Result<Outcome, String> {
    let mut parts = Vec::new();
    for path in &args.states {
        let kept = read_kept(path)?;
        if !kept.finished {
            return Err(format!("{} is not finished; call it again to go on", path.display()));
        }
        parts.push(kept);
    }
    let Some(first) = parts.first() else { return Err("name the parts".to_string()) };
    let call = Call::try_parse_from(&first.call).map_err(|e| e.to_string())?;
    let Command::Compare(compare) = &call.command else { return Err("these are no parts of a comparison".to_string()) };
    let Some(case) = Case::read(&compare.into(), json)? else { return Ok(Outcome::Wrong) };
    let mut twin = case.twin(&compare.into(), 1)?;
    let of = texts(&twin);
    if let Some(at) = parts.iter().position(|p| p.of != of) {
        return Err(format!("{} has tried other texts than there are now", args.states[at].display()));
    }
    let given = case.play(&mut twin)?;
    let effort = Effort { shard: (0, 1), ..case.effort.clone() };
    let search =
        Search::merged(&twin, &effort, parts.into_iter().map(|p| p.state).collect()).map_err(|e| e.to_string())?;
    let bar = ProgressBar::new(effort.scenarios);
    let verdict = finish_solving(search, &twin, &effort, |p| show_progress(&bar, p));
    bar.finish_and_clear();
    let verdict = settled(&twin, &effort, verdict);
    let wanted = Wanted { report: args.report.as_deref(), evidence: args.evidence.as_deref(), number: None };
    evidence::write(&wanted, &case, &twin, &verdict, &given)?;
    if json {
        problems::say_json(&Answer { verdict: &verdict, asked: given.asked, failures: &given.failures })?;
    } else {
        problems::say(&coloured(&verdict));
    }
    Ok(outcome(&verdict))
}

/// With each seeded fault that was not found proved harmless, where that can be proved.
fn settled(twin: &Twin<'_>, effort: &Effort, mut verdict: Verdict) -> Verdict {
    let bar = ProgressBar::new(0);
    if let Verdict::Tested(tested) = &mut verdict
        && let Some(strength) = &mut tested.strength
    {
        let means = Means { effort: effort.clone(), ..Means::default() };
        settle_faults(twin, strength, &means, |p| show_progress(&bar, p));
    }
    bar.finish_and_clear();
    verdict
}

/// Compares with a progress bar, which is seen on a terminal only.
pub(crate) fn with_progress(twin: &Twin<'_>, effort: &Effort) -> Verdict {
    settled(twin, effort, timed(twin, effort).0)
}

/// As [`with_progress`], with the time that the scenarios took, seeded faults aside.
fn timed(twin: &Twin<'_>, effort: &Effort) -> (Verdict, Duration) {
    let bar = ProgressBar::new(effort.scenarios);
    let begun = Instant::now();
    let mut scenarios = None;
    let verdict = compare_solving(twin, effort, |p| {
        if p.step != Activity::Scenarios {
            scenarios.get_or_insert_with(|| begun.elapsed());
        }
        show_progress(&bar, p);
    });
    bar.finish_and_clear();
    (verdict, scenarios.unwrap_or_else(|| begun.elapsed()))
}

fn show_progress(bar: &ProgressBar, progress: Progress) {
    let words = match progress.step {
        Activity::Scenarios => "  {bar:40} {pos} of {len} scenarios",
        Activity::Solving => "  {bar:40} {pos} of {len} states put before the solver",
        Activity::Faults => "  {bar:40} {pos} of {len} seeded faults",
        Activity::Harmless => "  {bar:40} {pos} of {len} faults put before the prover",
    };
    if bar.length() != Some(progress.of) || bar.position() == 0 || progress.done < bar.position() {
        bar.set_style(ProgressStyle::with_template(words).unwrap_or_else(|_| ProgressStyle::default_bar()));
        bar.set_length(progress.of);
    }
    bar.set_position(progress.done);
}

/// The verdict with its first line set off; colour is dropped where there is no terminal.
pub(crate) fn coloured(verdict: &Verdict) -> String {
    let text = show::verdict(verdict);
    let (first, rest) = text.split_once('\n').unwrap_or((&text, ""));
    let first = match verdict {
        Verdict::Proved(_) => first.bold().green().to_string(),
        Verdict::Tested(_) => first.bold().to_string(),
        Verdict::Different(_) | Verdict::Broken(_) => first.bold().yellow().to_string(),
        _ => first.bold().magenta().to_string(),
    };
    format!("{first}\n{rest}")
}

/// The exit status that goes with a verdict.
pub(crate) fn outcome(verdict: &Verdict) -> Outcome {
    match verdict {
        // What is the same on both sides may break a rule on both.
        Verdict::Proved(_) | Verdict::Tested(_) if verdict.rules().iter().any(|rule| !rule.holds()) => Outcome::Found,
        Verdict::Proved(_) | Verdict::Tested(_) => Outcome::Done,
        Verdict::Different(_) | Verdict::Broken(_) => Outcome::Found,
        _ => Outcome::Undecided,
    }
}
