//! `changes`: what changed between two projects, and whether it matters.

use super::compare::save_stimulus;
use crate::args::{Changes as Args, lasting};
use crate::case::{Case, Wish};
use crate::{Outcome, evidence, files, interrupt, problems};
use honest_twin::changes::{Changes, Overall, Standing, UnitVerdict, changes};
use honest_twin::model::Duration as Span;
use honest_twin::prove::{Means, compare_solving, prove};
use honest_twin::show;
use honest_twin::twin::{Effort, Halt, Twin, Verdict, Version, compare_twin};
use indicatif::ProgressBar;
use owo_colors::OwoColorize;
use serde::Serialize;
use std::path::Path;
use std::sync::LazyLock;
use std::time::{Duration, Instant};

pub(crate) fn run(args: &Args, json: bool) -> Result<Outcome, String> {
    let wish: Wish<'_> = args.into();
    let Some(case) = Case::read(&wish, json)? else { return Ok(Outcome::Wrong) };
    let [left, right] = case.versions.as_slice() else {
        return Err("changes are told between two versions; this twin file has not two".to_string());
    };
    let names = sides(args, &case);
    let mut found = changes([&names[0], &names[1]], left.checked(), right.checked());
    let passed = passed(&case, &wish, &found)?;
    if args.affected {
        passed.iter().filter(|(_, is)| *is).for_each(|(path, _)| problems::say(&format!("{path}\n")));
        return Ok(Outcome::Done);
    }
    if !args.unverified && found.any_runs() {
        judge(args, &case, &wish, &mut found)?;
    }
    deliver(args, &case, &found)?;
    if json {
        problems::say_json(&Answer { changes: &found, scenarios: &passed })?;
    } else {
        problems::say(&coloured(&found));
        if args.lines {
            problems::say(&format!("\n{}", show::difference(&found, left.checked(), right.checked())));
        }
        told(&passed);
    }
    Ok(match found.stood.overall {
        Overall::Nothing | Overall::NothingThatRuns | Overall::Proved | Overall::Tested => Outcome::Done,
        Overall::Changed | Overall::Different => Outcome::Found,
        Overall::Undecided => Outcome::Undecided,
    })
}

/// What is said to machines: the changes, and which scenarios pass through them.
#[derive(Serialize)]
struct Answer<'a> {
    #[serde(flatten)]
    changes: &'a Changes,
    /// Each scenario on file with whether it passes through what changed.
    scenarios: &'a [(String, bool)],
}

/// What both sides are called: their paths, or their names in a twin file.
fn sides(args: &Args, case: &Case) -> [String; 2] {
    match &args.right {
        Some(right) => [&args.left, right].map(|path| path.display().to_string()),
        None => [0, 1].map(|side: usize| case.versions[side].name().to_string()),
    }
}

/// The scenarios that are named, each with whether it passes through what changed.
fn passed(case: &Case, wish: &Wish<'_>, found: &Changes) -> Result<Vec<(String, bool)>, String> {
    let mut twin = ready(case, wish, found)?;
    let given = case.play(&mut twin)?;
    // What is forced is in no scenario's acts, so it is not known what it passes by.
    let each = given
        .played
        .iter()
        .map(|(path, scenario, forced)| (path.display().to_string(), *forced || found.is_passed(&twin, scenario)));
    Ok(each.collect())
}

fn told(passed: &[(String, bool)]) {
    for (is, words) in [(true, "pass through what changed"), (false, "do not, and are left out")] {
        let names: Vec<&str> = passed.iter().filter(|(_, own)| *own == is).map(|(path, _)| path.as_str()).collect();
        if !names.is_empty() {
            problems::say(&format!("Scenarios that {words}: {}\n", names.join(", ")));
        }
    }
}

/// Both versions, with what goes by another name paired.
fn ready<'c>(case: &'c Case, wish: &Wish<'_>, found: &Changes) -> Result<Twin<'c>, String> {
    let mut twin = case.twin(wish, 1)?;
    found.pair(&mut twin).map_err(|e| e.to_string())?;
    Ok(twin)
}

/// Puts both sides as a whole before the prover and the search, then each changed unit by itself.
fn judge(args: &Args, case: &Case, wish: &Wish<'_>, found: &mut Changes) -> Result<(), String> {
    let bar = ProgressBar::new_spinner();
    bar.enable_steady_tick(Duration::from_millis(200));
    let [left, right] = [&case.versions[0], &case.versions[1]];
    let stands = found.stands(left.checked(), right.checked());
    let apart = stands.iter().filter(|stand| matches!(stand, Standing::Apart(_))).count();
    let share = Span::from_nanos(args.time_limit.nanos() / (apart as i64 + 1));
    bar.set_message("both sides as a whole");
    let bell = interrupt::bell();
    let whole = decide(&ready(case, wish, found)?, share, &case.effort, &bell);
    save_stimulus(args.held.stimulus.as_deref(), &whole)?;
    found.judge(&whole);
    for stand in stands {
        match stand {
            Standing::Whole(unit) => found.judge_unit(&unit, UnitVerdict::of(&whole, Vec::new())),
            Standing::Together { unit, why } => found.judge_unit(&unit, UnitVerdict::together(why)),
            Standing::Apart(stand) => {
                let unit = stand.units.join(", ");
                bar.set_message(format!("{unit} by itself"));
                let name = format!("{} with {unit} of the right", left.name());
                let verdict = match Version::new(name, stand.checked) {
                    Ok(version) => {
                        let mixed = case.against(version);
                        UnitVerdict::of(&decide(&ready(&mixed, wish, found)?, share, &case.effort, &bell), stand.with)
                    }
                    Err(why) => UnitVerdict::together(why.to_string()),
                };
                found.judge_unit(&unit, verdict);
            }
        }
    }
    bar.finish_and_clear();
    Ok(())
}

/// The part of the usual effort with which a difference is looked for before anything is proved.
static FIRST_EFFORT: LazyLock<Effort> = LazyLock::new(|| Effort::named("0.05").unwrap_or_default());

/// A proof, or a difference; where there is neither, what a search says.
fn decide(twin: &Twin<'_>, limit: Span, effort: &Effort, bell: &Halt) -> Verdict {
    let begun = Instant::now();
    let span = lasting(limit);
    interrupt::halt_with(&twin.halt, bell, Some(limit));
    // What differs shows soon as a rule; then nothing needs to be proved.
    let first = Effort { faults: 0, seed: effort.seed, ..FIRST_EFFORT.clone() };
    if let different @ Verdict::Different(_) = compare_twin(twin, &first, |_| {}) {
        return different;
    }
    let means = Means { effort: Effort { faults: 0, ..effort.clone() }, conditions: false, ..Means::default() };
    let verdict = prove(twin, &means, |_| begun.elapsed() < span);
    match verdict {
        Verdict::Undecided { .. } if twin.pairing.objection().is_none() && begun.elapsed() < span => {
            match compare_solving(twin, effort, |_| {}) {
                // No scenario tells them apart; that there is no proof stands beside it.
                Verdict::Undecided { .. } => verdict,
                searched => searched,
            }
        }
        decided => decided,
    }
}

fn deliver(args: &Args, case: &Case, found: &Changes) -> Result<(), String> {
    if let Some(path) = &args.held.report {
        let dossier = evidence::dossier(format!("What changed: {}", case.title));
        let [left, right] = [0, 1].map(|side: usize| case.versions[side].checked());
        let page = show::changes_page(found, left, right, &dossier).map_err(|e| e.to_string())?;
        files::write(path, page)?;
    }
    let cases = |path: &Path| files::write(path, show::changes_junit(found).map_err(|e| e.to_string())?);
    args.junit.as_deref().map_or(Ok(()), cases)
}

/// The first line set off; colour is dropped where there is no terminal.
fn coloured(found: &Changes) -> String {
    let text = show::changes_text(found);
    let (first, rest) = text.split_once('\n').unwrap_or((&text, ""));
    let first = match found.stood.overall {
        Overall::Nothing | Overall::NothingThatRuns | Overall::Proved => first.bold().green().to_string(),
        Overall::Tested => first.bold().to_string(),
        Overall::Different => first.bold().yellow().to_string(),
        Overall::Changed | Overall::Undecided => first.bold().magenta().to_string(),
    };
    format!("{first}\n{rest}")
}
