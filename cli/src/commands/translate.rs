//! `translate`: write a project in another language, read it back, and compare.

use crate::args::Translate;
use crate::{Outcome, files, problems};
use honest_twin::check::{Checked, verify as verify_read};
use honest_twin::dialect::read_project_in;
use honest_twin::lang::{Form, read_project};
use honest_twin::show;
use honest_twin::translate::{
    AddressMap, Entry, MigrateError, Migration, Mode, Translation, foretold, migrate, protocol_map, translate_as,
};
use honest_twin::twin::{Effort, Twin, Verdict, Version, compare_twin};
use std::path::{Path, PathBuf};

pub(crate) fn run(args: &Translate, json: bool) -> Result<Outcome, String> {
    let Some(checked) = files::checked(&args.files, &args.written, &[], json)? else { return Ok(Outcome::Found) };
    let is_exchange = |p: &PathBuf| p.extension().is_some_and(|e| e.eq_ignore_ascii_case("xml"));
    let exchange = args.exchange || args.out.as_ref().is_some_and(is_exchange);
    let form = if exchange { Form::Exchange } else { Form::Text(args.to) };
    let migrated = match &args.dialect {
        Some(name) => Some(migrated(args, &checked, name, form, json)?),
        None => None,
    };
    let translation = match &migrated {
        Some(migrated) => migrated.translation.clone(),
        None => translate_as(&checked, args.to, form).map_err(|list| {
            problems::first_of(&list, |u| format!("{}: {u}\n", checked.project().place(u.span))).trim_end().to_string()
        })?,
    };
    let verdict = match &migrated {
        _ if args.unverified => None,
        Some(migrated) => Some(compared(&checked, migrated.checked.clone(), &migrated.translation.ledger)?),
        None => Some(verify(&checked, &translation, form)?),
    };
    deliver(args, &translation, json)?;
    let ledger = show::ledger(&translation.ledger, checked.project());
    if let Some(path) = &args.ledger {
        let as_json = path.extension().is_some_and(|e| e.eq_ignore_ascii_case("json"));
        let text = if as_json {
            serde_json::to_string_pretty(&translation.ledger).map_err(|e| e.to_string())?
        } else {
            ledger.clone()
        };
        files::write(path, &text)?;
    }
    let map = migrated.as_ref().map(|m| &m.map);
    if json {
        let judged = || verdict.as_ref().and_then(|v| v.as_ref());
        let files: Vec<_> =
            translation.files.iter().map(|f| serde_json::json!({ "name": f.name, "text": f.text })).collect();
        problems::say_json(&serde_json::json!({
            "files": files, "ledger": translation.ledger, "map": map, "verdict": judged().map(|j| &j.verdict),
            "behind": judged().and_then(|j| j.behind.as_ref()),
        }))?;
    } else {
        problems::warn(&format!("{}{ledger}", if args.out.is_none() { "\n" } else { "" }));
        match &verdict {
            Some(Some(judged)) => problems::warn(&judged.text()),
            Some(None) => problems::warn("read back and checked; there is no PROGRAM to run\n"),
            None => {}
        }
    }
    Ok(match verdict.flatten().map(|judged| judged.verdict) {
        Some(Verdict::Different(_)) => Outcome::Found,
        Some(Verdict::Undecided { .. }) => Outcome::Undecided,
        _ => Outcome::Done,
    })
}

/// The project in another dialect, with its maps written where they are asked for.
fn migrated(args: &Translate, checked: &Checked, name: &str, form: Form, json: bool) -> Result<Migration, String> {
    let target = files::Known::read(&args.written.sheet)?.find(name)?;
    let map = match &args.map {
        Some(path) => Some(AddressMap::read(&files::read(path)?).map_err(|list| files::rows(path, &list))?),
        None => None,
    };
    let mode = if args.faithful { Mode::Faithful } else { Mode::Native };
    let migrated = match migrate(checked, &target, (args.to, form), mode, map.as_ref()) {
        Ok(migrated) => migrated,
        Err(MigrateError::Unreadable(found, sources)) => {
            problems::show(&found, &sources, json)?;
            return Err(
                "what was written does not read back without errors (see above); nothing was written".to_string()
            );
        }
        Err(error) => return Err(error.to_string()),
    };
    if let Some(path) = &args.save_map {
        files::write(path, migrated.map.write())?;
    }
    if let Some(path) = &args.protocol {
        let standard = files::Known::read(&[])?.find("iec")?;
        let from = checked.project().library.clone().unwrap_or(standard);
        files::write(path, protocol_map(&migrated.map, &from.sheet, &target.sheet))?;
    }
    Ok(migrated)
}

fn deliver(args: &Translate, translation: &Translation, json: bool) -> Result<(), String> {
    match &args.out {
        None if json => Ok(()),
        None => {
            for file in &translation.files {
                if translation.files.len() > 1 {
                    problems::say(&format!("(* {} *)\n", file.name));
                }
                problems::say(&file.text);
            }
            Ok(())
        }
        Some(out) if out.is_dir() => {
            for file in &translation.files {
                let name = Path::new(&file.name).file_name().unwrap_or_default();
                files::write(&out.join(name), &file.text)?;
            }
            Ok(())
        }
        Some(out) => match translation.files.as_slice() {
            [only] => files::write(out, &only.text),
            _ => {
                Err(format!("{} files need a folder to go to, and {} is none", translation.files.len(), out.display()))
            }
        },
    }
}

/// Judges the text that was written: it is read with the target's reader, checked, and run beside the source.
/// `None` if there is nothing that runs.
fn verify(source: &Checked, translation: &Translation, form: Form) -> Result<Option<Judged>, String> {
    let written = translation.files.iter().map(|f| (f.clone(), form)).collect();
    let (project, read) = match &source.project().library {
        Some(library) => read_project_in(written, library),
        None => read_project(written),
    };
    let sources = project.sources.clone();
    let (back, all) = verify_read(project, read);
    let Some(back) = back else {
        problems::show(&all, &sources, false)?;
        return Err("the translation does not read back without errors (see above); nothing was written".to_string());
    };
    compared(source, back, &translation.ledger)
}

/// Runs what was read back beside the source. `None` if there is nothing that runs.
fn compared(source: &Checked, back: Checked, ledger: &[Entry]) -> Result<Option<Judged>, String> {
    if source.programs().next().is_none() {
        return Ok(None);
    }
    let left = Version::new("source", source.clone()).map_err(|e| e.to_string())?;
    let right = Version::new("translation", back.outside_as_in(source)).map_err(|e| e.to_string())?;
    let effort = Effort { scenarios: 1_000, scans: 300_000, ..Effort::default() };
    let twin = Twin::new(&left, &right);
    let verdict = compare_twin(&twin, &effort, |_| {});
    let known = twin.known_of(foretold(ledger));
    // Behind what the ledger foretells the search goes on.
    let behind = match &verdict {
        Verdict::Different(_) if !known.is_empty() => {
            let twin = twin.with_known(known).map_err(|e| e.to_string())?;
            Some(compare_twin(&twin, &effort, |_| {}))
        }
        _ => None,
    };
    Ok(Some(Judged { verdict, behind }))
}

/// What running it beside the source came to.
struct Judged {
    verdict: Verdict,
    /// Where that is a difference and the ledger foretells some: the rest of what is compared.
    behind: Option<Verdict>,
}

impl Judged {
    /// In words: what the ledger foretells is no news, and what differs beside it is.
    fn text(&self) -> String {
        let whole = format!("read back and compared: {}", show::verdict(&self.verdict));
        match &self.behind {
            None => whole,
            Some(behind @ (Verdict::Tested(_) | Verdict::Proved(_))) => {
                format!("{whole}\nThe ledger foretells that; nothing else differs: {}", show::verdict(behind))
            }
            Some(behind @ Verdict::Different(_)) => {
                format!("{whole}\nBehind what the ledger foretells there is more: {}", show::verdict(behind))
            }
            Some(behind) => {
                format!(
                    "{whole}\nThe ledger foretells differences; of the rest nothing is known: {}",
                    show::verdict(behind)
                )
            }
        }
    }
}
