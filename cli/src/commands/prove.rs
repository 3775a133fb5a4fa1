//! `prove`: two versions the same for every input sequence, or a scenario in which they differ.

use super::compare::{coloured, outcome, save_stimulus};
use crate::args::{Prove, lasting};
use crate::case::{Case, Given};
use crate::evidence::{self, Wanted};
use crate::{Outcome, files, interrupt, problems};
use honest_twin::prove::{Certificate, Means, Stage, prove_certified};
use honest_twin::recheck::{Doubt, recheck};
use honest_twin::show;
use honest_twin::twin::{Effort, Verdict};
use indicatif::ProgressBar;
use std::path::Path;
use std::time::{Duration, Instant};

pub(crate) fn run(args: &Prove, json: bool) -> Result<Outcome, String> {
    if let Some(folder) = &args.recheck {
        return recheck_folder(folder, json);
    }
    let wish = args.into();
    let Some(case) = Case::read(&wish, json)? else { return Ok(Outcome::Wrong) };
    if case.versions.len() > 2 {
        return Err("a proof is about two versions; this twin file has more".to_string());
    }
    let twin = case.twin(&wish, case.versions.len() - 1)?;
    let bar = ProgressBar::new_spinner();
    bar.enable_steady_tick(Duration::from_millis(200));
    let begun = Instant::now();
    let limit = lasting(args.time_limit);
    let means = Means { effort: Effort { faults: 0, ..case.effort.clone() }, ..Means::default() };
    // What takes long by itself looks at the clock too.
    interrupt::halt_with(&twin.halt, &interrupt::bell(), Some(args.time_limit));
    let (verdict, certificate) = prove_certified(&twin, &means, |stage| {
        bar.set_message(match stage {
            Stage::Searching => "looking for a difference".to_string(),
            Stage::Conditions => "looking for conditions under which they agree".to_string(),
            Stage::Facts(facts) => format!("asking of {facts} facts which every scan keeps"),
            Stage::Directed(goals) => format!("following back from states that break one of {goals} goals"),
            Stage::Goals(done) => format!("proved: {done} of {}", twin.pairing.outputs().len() + 2),
        });
        begun.elapsed() < limit
    });
    bar.finish_and_clear();
    save_stimulus(args.held.stimulus.as_deref(), &verdict)?;
    let given = Given::default();
    let wanted = Wanted { report: args.held.report.as_deref(), evidence: None, number: None };
    evidence::write(&wanted, &case, &twin, &verdict, &given)?;
    if json {
        problems::say_json(&verdict)?;
    } else {
        problems::say(&coloured(&verdict));
        problems::say(&format!("  it took {:.1} s\n", begun.elapsed().as_secs_f64()));
    }
    match (&args.certificate, &certificate) {
        (Some(folder), Some(certificate)) => {
            save(certificate, folder)?;
            let of = if matches!(verdict, Verdict::Proved(_)) { "" } else { " of the most that is proved" };
            let there = folder.display();
            problems::warn(&format!("certificate{of} in {there}; check it by: honest-twin prove --recheck {there}\n"));
        }
        (Some(_), None) => problems::warn("there is no certificate: only a proof has one\n"),
        (None, _) => {}
    }
    Ok(outcome(&verdict))
}

fn save(certificate: &Certificate, folder: &Path) -> Result<(), String> {
    std::fs::create_dir_all(folder).map_err(|e| format!("cannot make {}: {e}", folder.display()))?;
    certificate.files().into_iter().try_for_each(|(name, bytes)| files::write(&folder.join(name), bytes))
}

/// Checks what was written by `--certificate`.
fn recheck_folder(folder: &Path, json: bool) -> Result<Outcome, String> {
    let read = |name: &str| files::bytes(&folder.join(name));
    let (miter, certificate) = (read("miter.aig")?, read("certificate.aig")?);
    match recheck(&miter, &certificate) {
        Ok(checked) if json => problems::say_json(&checked)?,
        Ok(checked) => {
            problems::say(&show::recheck(&checked));
            let assumed = files::read(&folder.join("assumptions.txt"))?;
            assumed.lines().for_each(|line| problems::say(&format!("  assumed: {line}\n")));
        }
        Err(doubt @ Doubt::Unreadable { .. }) => return Err(doubt.to_string()),
        Err(doubt) => {
            problems::say(&format!("NOT CONFIRMED: {doubt}\n"));
            return Ok(Outcome::Found);
        }
    }
    Ok(Outcome::Done)
}
