//! `dialects`: list, describe, lay side by side, start one.

use crate::args::Dialects;
use crate::{Outcome, files, problems};
use honest_twin::facts::{Untrue, untrue};
use honest_twin::model::sheet::Library;
use honest_twin::show;
use honest_twin::source::Diagnostics;
use std::path::Path;
use std::sync::Arc;

pub(crate) fn run(args: &Dialects, json: bool) -> Result<Outcome, String> {
    let known = files::Known::read(&args.sheet)?;
    if let Some(family) = &args.from {
        let [name] = args.names.as_slice() else {
            return Err("name the new dialect: dialects NAME --from FAMILY".to_string());
        };
        return start(name, &*known.find(family)?);
    }
    let found = args.names.iter().map(|name| known.find(name)).collect::<Result<Vec<_>, String>>()?;
    if args.verify {
        let all = if found.is_empty() { known.all().collect() } else { found };
        return verify(&all, json);
    }
    if json {
        let all: Vec<_> = if found.is_empty() { known.all().collect() } else { found };
        problems::say_json(&all.iter().map(|l| &l.sheet).collect::<Vec<_>>())?;
        return Ok(Outcome::Done);
    }
    let text = match found.as_slice() {
        [] => {
            let all: Vec<_> = known.all().collect();
            let list = show::dialect_list(all.iter().map(AsRef::as_ref));
            format!(
                "{list}\nThey are families, not products: `dialects NAME --from FAMILY` starts one for the controller on the bench.\n"
            )
        }
        [one] if args.blocks => format!("{}\n{}", show::dialect(one), one.source.text),
        [one] => show::dialect(one),
        [left, right, ..] => show::dialects_beside(left, right),
    };
    problems::say(&text);
    Ok(Outcome::Done)
}

/// Runs the blocks of sheets and says what their facts are worth.
fn verify(all: &[Arc<Library>], json: bool) -> Result<Outcome, String> {
    let found: Vec<(&Arc<Library>, Vec<Untrue>)> = all.iter().map(|library| (library, untrue(library))).collect();
    if json {
        let each = found
            .iter()
            .map(|(library, untrue)| serde_json::json!({ "dialect": library.sheet.name, "untrue": untrue }));
        problems::say_json(&each.collect::<Vec<_>>())?;
    }
    for (library, untrue) in found.iter().filter(|_| !json) {
        let devices = library.sheet.devices.len();
        if untrue.is_empty() {
            problems::say(&format!(
                "{}: what it says of its {devices} devices was measured and is so\n",
                library.sheet.name
            ));
        } else {
            let list = untrue.iter().map(|u| u.diagnostic(library)).collect();
            problems::show(&Diagnostics(list), std::slice::from_ref(&library.text), false)?;
        }
    }
    Ok(if found.iter().all(|(_, untrue)| untrue.is_empty()) { Outcome::Done } else { Outcome::Found })
}

/// Writes a copy of a family under a new name.
fn start(name: &str, family: &Library) -> Result<Outcome, String> {
    let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    if !name.starts_with(|c: char| c.is_ascii_lowercase()) || !name.chars().all(plain) {
        return Err(format!("`{name}`: a dialect's name is small letters, digits and `-`"));
    }
    if files::Known::read(&[])?.find(name).is_ok() {
        return Err(format!("`{name}` is a shipped family; take another name"));
    }
    let (sheet, blocks) = (format!("{name}.toml"), format!("{name}.st"));
    for path in [&sheet, &blocks] {
        if Path::new(path).exists() {
            return Err(format!("{path} is there already; it was left alone"));
        }
    }
    let text =
        family.text.text.replacen(&format!("name = \"{}\"", family.sheet.name), &format!("name = \"{name}\""), 1);
    files::write(Path::new(&sheet), text)?;
    files::write(Path::new(&blocks), &family.source.text)?;
    problems::say(&format!(
        "wrote {sheet} and {blocks}, from {}\nEdit them, then: honest-twin dialects {name} --sheet {sheet}\n",
        family.sheet.name
    ));
    Ok(Outcome::Done)
}
