//! `try`: versions under one's hands, an act a line or on a full screen.

use crate::args::Try;
use crate::case::{Case, Wish};
use crate::{Outcome, files, problems};
use honest_twin::session::{Session, Told};
use honest_twin::show;
use honest_twin::twin::Twin;
use std::io::{BufRead, IsTerminal, Write};
use std::path::Path;

pub(crate) fn run(args: &Try, json: bool) -> Result<Outcome, String> {
    let Some(twin) = twin(args, json)? else { return Ok(Outcome::Found) };
    let session = Session::new(twin).map_err(|e| e.to_string())?;
    let by_hand = std::io::stdin().is_terminal() && std::io::stdout().is_terminal();
    if by_hand && !args.lines && !json {
        return crate::screen::run(session, args);
    }
    lines(session, args, json, by_hand)
}

/// Reads what is tried. Problems are shown; `None` if they are errors.
pub(crate) fn twin(args: &Try, json: bool) -> Result<Option<Twin<'static>>, String> {
    let held = args.held();
    let wish = Wish::of_try(args, &held);
    let Some(case) = Case::read(&wish, json)? else { return Ok(None) };
    let other = usize::from(case.versions.len() > 1);
    case.twin(&wish, other).map(|twin| Some(twin.into_owned()))
}

/// What an act wants of the outside is done, and what came of it is said.
pub(crate) fn answered(session: &mut Session, args: &Try, told: Told) -> Result<Told, String> {
    match told {
        Told::Save { ref path, ref text, .. } => {
            files::write(Path::new(path), text)?;
            Ok(told)
        }
        Told::ReadAgain => {
            let read = twin(args, false)?.ok_or("what was read has problems; the session goes on with what it had")?;
            session.reread(read).map_err(|e| e.to_string())
        }
        told => Ok(told),
    }
}

/// Whether something was seen that ends with another exit status.
#[derive(Default)]
struct Seen {
    wrong: bool,
    found: bool,
}

/// An act a line, until there are no more.
fn lines(mut session: Session, args: &Try, json: bool, by_hand: bool) -> Result<Outcome, String> {
    let mut seen = Seen::default();
    for (number, line) in std::io::stdin().lock().split(b'\n').enumerate() {
        let line = line.map_err(|e| format!("cannot read the acts: {e}"))?;
        let line = String::from_utf8_lossy(&line);
        if !by_hand && !json && !line.trim().is_empty() {
            problems::say(&format!("> {}\n", cut(line.trim_end())));
        }
        let told = session.line(&line).map_err(|e| e.to_string());
        let told = told.and_then(|told| answered(&mut session, args, told));
        let ends = matches!(told, Ok(Told::Quit));
        match told {
            Ok(told) => {
                if let Told::Ran(ran) = &told {
                    seen.found |= !ran.missed.is_empty() || !ran.faults.is_empty() || ran.parted.is_some();
                }
                if json {
                    say_line(&serde_json::json!({ "line": number + 1, "told": told }))?;
                } else {
                    problems::say(&show::told(&mut session, &told));
                }
            }
            Err(what) => {
                seen.wrong = true;
                if json {
                    say_line(&serde_json::json!({ "line": number + 1, "error": cut(&what) }))?;
                } else {
                    problems::say(&format!("  not done (line {}): {}\n", number + 1, cut(&what)));
                }
            }
        }
        if ends {
            break;
        }
        if by_hand {
            let _ = std::io::stdout().flush();
        }
    }
    if session.is_open() {
        seen.wrong = true;
        problems::say("  not done: no `end` ends the repetition\n");
    }
    Ok(match seen {
        Seen { wrong: true, .. } => Outcome::Wrong,
        Seen { found: true, .. } => Outcome::Found,
        Seen { .. } => Outcome::Done,
    })
}

/// Characters of a line or a sentence that are said.
const SAID: usize = 1_000;

/// A text without what is too much of it.
fn cut(text: &str) -> String {
    if text.chars().count() <= SAID { text.to_string() } else { text.chars().take(SAID).chain("...".chars()).collect() }
}

/// A value on a line of its own.
fn say_line(value: &serde_json::Value) -> Result<(), String> {
    let text = serde_json::to_string(value).map_err(|e| e.to_string())?;
    problems::say(&format!("{text}\n"));
    Ok(())
}
