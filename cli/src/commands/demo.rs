//! `demo`: the whole job on the shipped hatchery.

use super::compare::{coloured, with_progress};
use crate::{Outcome, problems};
use honest_twin::check::{Checked, verify};
use honest_twin::lang::{Language, read_project};
use honest_twin::show;
use honest_twin::source::Source;
use honest_twin::translate::translate;
use honest_twin::twin::{Effort, Verdict, Version};
use owo_colors::OwoColorize;

const OLD: &str = include_str!("../../../demo/rinse.il");
const BY_HAND: &str = include_str!("../../../demo/rinse_by_hand.st");

pub(crate) fn run(json: bool) -> Result<Outcome, String> {
    let heading = |text: &str| {
        if !json {
            problems::say(&format!("\n{}\n\n", text.bold().underline()));
        }
    };
    let old = read(OLD, "demo/rinse.il", Language::Il)?;
    let translation = translate(&old, Language::St).map_err(|list| format!("{list:?}"))?;
    let text = &translation.files[0].text;
    heading("1. The old program: instruction list for the drum filter of a trout hatchery (demo/rinse.il)");
    if !json {
        problems::say(&body(OLD));
    }
    heading("2. Translated to structured text");
    if !json {
        problems::say(&body(text));
        problems::say(&format!("\n{}", show::ledger(&translation.ledger, old.project())));
    }
    let back = read(text, "rinse.st, translated", Language::St)?;
    let ladder = translate(&old, Language::Ld).map_err(|list| format!("{list:?}"))?;
    let drawn = read(&ladder.files[0].text, "rinse.ld, translated", Language::Ld)?;
    heading("3. And to ladder, for the crew that reads nothing else");
    if !json {
        problems::say(&rungs(&show::terminal(&drawn)));
    }
    heading("4. What was written, read back and run beside the old program: the text, then the ladder");
    let old = Version::new("rinse.il", old).map_err(|e| e.to_string())?;
    let new = Version::new("rinse.st, translated", back).map_err(|e| e.to_string())?;
    let effort = Effort::default();
    let first = with_progress(&old, &new, &effort);
    let rungs = Version::new("rinse.ld, translated", drawn).map_err(|e| e.to_string())?;
    let third = with_progress(&old, &rungs, &effort);
    if !json {
        problems::say(&format!("{}\n{}", coloured(&first), coloured(&third)));
    }
    heading("5. A version written by hand (demo/rinse_by_hand.st), beside the old program");
    let hand = read(BY_HAND, "demo/rinse_by_hand.st", Language::St)?;
    let hand = Version::new("rinse_by_hand.st", hand).map_err(|e| e.to_string())?;
    let second = with_progress(&old, &hand, &effort);
    if json {
        problems::say_json(
            &serde_json::json!({ "translation": text, "translated": first, "ladder": third, "by_hand": second
            }),
        )?;
    } else {
        problems::say(&coloured(&second));
        heading("What to look at");
        problems::say(NEXT);
    }
    let as_expected =
        matches!((&first, &third, &second), (Verdict::Tested(_), Verdict::Tested(_), Verdict::Different(_)));
    Ok(if as_expected { Outcome::Done } else { Outcome::Found })
}

const NEXT: &str = "\
The old counter is done when the count has reached its preset; the version by hand asks whether it is above it.
Six rinses tell them apart, and nobody presses a test key six times. Mend demo/rinse_by_hand.st and try again:

  honest-twin compare demo/rinse.il demo/rinse_by_hand.st
  honest-twin translate demo/rinse.il --to ld
  honest-twin draw demo/raceway.ld
  honest-twin draw demo/rinse.il --beside demo/rinse_by_hand.st --out beside.png
  honest-twin check demo/rinse_by_hand.st
  honest-twin run demo/rinse.il --stimulus demo/rinse.csv --for 30s --watch RinseTime.ET

(From a clone, `cargo run --release --` stands for `honest-twin`.)
";

fn read(text: &str, name: &str, language: Language) -> Result<Checked, String> {
    let (project, problems) = read_project(vec![(Source::new(name, text), language)]);
    let sources = project.sources.clone();
    let (checked, all) = verify(project, problems);
    if checked.is_none() {
        problems::show(&all, &sources, false)?;
    }
    checked.ok_or_else(|| format!("{name} has errors"))
}

/// The networks of a drawing, without its heading.
fn rungs(text: &str) -> String {
    text.split_once("\n\n").map_or(text, |(_, rungs)| rungs).trim_end().to_string() + "\n"
}

/// A program without its declarations.
fn body(text: &str) -> String {
    let start = text.rfind("END_VAR").map_or(0, |i| i + "END_VAR\n".len());
    text[start..].trim_matches('\n').to_string() + "\n"
}
