//! `translate`: write a project in another language, read it back, and compare.

use crate::args::Translate;
use crate::{Outcome, files, problems};
use honest_twin::check::{Checked, verify as verify_read};
use honest_twin::lang::{Form, read_project};
use honest_twin::show;
use honest_twin::translate::{Translation, translate_as};
use honest_twin::twin::{Effort, Verdict, Version, compare};
use std::path::{Path, PathBuf};

pub(crate) fn run(args: &Translate, json: bool) -> Result<Outcome, String> {
    if args.dialect.is_some() {
        return Err("`--dialect` is not there yet; programs are written as the open standard has them".to_string());
    }
    let Some(checked) = files::checked(&args.files, json)? else { return Ok(Outcome::Found) };
    let is_exchange = |p: &PathBuf| p.extension().is_some_and(|e| e.eq_ignore_ascii_case("xml"));
    let exchange = args.exchange || args.out.as_ref().is_some_and(is_exchange);
    let form = if exchange { Form::Exchange } else { Form::Text(args.to) };
    let translation = translate_as(&checked, args.to, form).map_err(|list| {
        list.iter().map(|u| format!("{}: {u}", checked.project().place(u.span))).collect::<Vec<_>>().join("\n")
    })?;
    let verdict = if args.unverified { None } else { Some(verify(&checked, &translation, form)?) };
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
    if json {
        let files: Vec<_> =
            translation.files.iter().map(|f| serde_json::json!({ "name": f.name, "text": f.text })).collect();
        problems::say_json(&serde_json::json!({
            "files": files, "ledger": translation.ledger, "verdict": verdict.as_ref().and_then(|v| v.as_ref()),
        }))?;
    } else {
        problems::warn(&format!("{}{ledger}", if args.out.is_none() { "\n" } else { "" }));
        match &verdict {
            Some(Some(verdict)) => problems::warn(&format!("read back and compared: {}", show::verdict(verdict))),
            Some(None) => problems::warn("read back and checked; there is no PROGRAM to run\n"),
            None => {}
        }
    }
    Ok(match verdict {
        Some(Some(Verdict::Different(_))) => Outcome::Found,
        Some(Some(Verdict::Undecided { .. })) => Outcome::Undecided,
        _ => Outcome::Done,
    })
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
fn verify(source: &Checked, translation: &Translation, form: Form) -> Result<Option<Verdict>, String> {
    let written = translation.files.iter().map(|f| (f.clone(), form)).collect();
    let (project, read) = read_project(written);
    let sources = project.sources.clone();
    let (back, all) = verify_read(project, read);
    let Some(back) = back else {
        problems::show(&all, &sources, false)?;
        return Err("the translation does not read back without errors (see above); nothing was written".to_string());
    };
    if source.programs().next().is_none() {
        return Ok(None);
    }
    let left = Version::new("source", source.clone()).map_err(|e| e.to_string())?;
    let right = Version::new("translation", back).map_err(|e| e.to_string())?;
    let effort = Effort { scenarios: 1_000, scans: 300_000, ..Effort::default() };
    Ok(Some(compare(&left, &right, &effort, |_| {})))
}
