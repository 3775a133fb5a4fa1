//! `prove`: two versions the same for every input sequence, or a scenario in which they differ.

use super::compare::{coloured, outcome};
use crate::args::Prove;
use crate::case::{Case, Given};
use crate::evidence::{self, Wanted};
use crate::{Outcome, problems};
use honest_twin::prove::{Means, Stage, prove};
use honest_twin::twin::Effort;
use indicatif::ProgressBar;
use std::time::{Duration, Instant};

pub(crate) fn run(args: &Prove, json: bool) -> Result<Outcome, String> {
    let compared = args.compared();
    let Some(case) = Case::read(&compared, json)? else { return Ok(Outcome::Wrong) };
    if case.versions.len() > 2 {
        return Err("a proof is about two versions; this twin file has more".to_string());
    }
    let twin = case.twin(&compared, 1)?;
    let bar = ProgressBar::new_spinner();
    bar.enable_steady_tick(Duration::from_millis(200));
    let begun = Instant::now();
    let limit = Duration::from_nanos(args.time_limit.nanos().max(0) as u64);
    let means = Means { effort: Effort { faults: 0, ..case.effort.clone() }, ..Means::default() };
    let verdict = prove(&twin, &means, |stage| {
        bar.set_message(match stage {
            Stage::Searching => "looking for a difference".to_string(),
            Stage::Facts(facts) => format!("asking of {facts} facts which every scan keeps"),
            Stage::Outputs(done) => format!("outputs proved: {done} of {}", twin.pairing.outputs.len()),
        });
        begun.elapsed() < limit
    });
    bar.finish_and_clear();
    let given = Given::default();
    let wanted = Wanted { report: args.report.as_deref(), evidence: None, number: None };
    evidence::write(&wanted, &case, &twin, &verdict, &given)?;
    if json {
        problems::say_json(&verdict)?;
    } else {
        problems::say(&coloured(&verdict));
        problems::say(&format!("  it took {:.1} s\n", begun.elapsed().as_secs_f64()));
    }
    Ok(outcome(&verdict))
}
