//! `check`: read and verify.

use crate::args::Check;
use crate::{Outcome, files, problems};
use honest_twin::check::{Declaration, declarations, verify};
use honest_twin::dialect::{self, Tags};
use honest_twin::model::Section;
use honest_twin::scan::{BuildError, Machine};
use honest_twin::source::Diagnostics;
use std::fmt::Write;

pub(crate) fn run(args: &Check, json: bool) -> Result<Outcome, String> {
    let (project, read) = files::project(&args.files, &args.written)?;
    if args.declare {
        return declare(&project, &read, json);
    }
    if let Some(path) = &args.save_tags {
        files::write(path, Tags::write(&dialect::tags(&project)))?;
    }
    let sources = project.sources.clone();
    let count = sources.len();
    let (checked, all) = verify(project, read);
    if let Some(checked) = checked {
        let checked = files::seen_outside(checked, &args.written)?;
        // What the outside gives no program may write.
        if !args.written.given.is_empty()
            && let Err(problem @ BuildError::InputWritten(_)) = Machine::new(&checked)
        {
            return Err(problem.to_string());
        }
    }
    if json {
        problems::say_json(&serde_json::json!({ "problems": problems::flat(&all, &sources) }))?;
    } else if all.0.is_empty() {
        problems::say(&format!("no problems in {count} file{}\n", if count == 1 { "" } else { "s" }));
    } else {
        problems::show(&all, &sources, false)?;
    }
    Ok(if all.has_errors() { Outcome::Found } else { Outcome::Done })
}

/// The declarations a project lacks, ready to paste.
fn declare(project: &honest_twin::model::Project, read: &Diagnostics, json: bool) -> Result<Outcome, String> {
    if read.has_errors() {
        problems::show(read, &project.sources, json)?;
        return Ok(Outcome::Found);
    }
    let lacking = declarations(project);
    if json {
        problems::say_json(&serde_json::json!({ "declarations": lacking }))?;
        return Ok(Outcome::Done);
    }
    if lacking.is_empty() {
        problems::say("every name is declared\n");
        return Ok(Outcome::Done);
    }
    let mut text = String::new();
    let mut units: Vec<&str> = lacking.iter().map(|d| d.unit.as_str()).collect();
    units.dedup();
    for unit in units {
        let _ = writeln!(text, "(* for {unit} *)");
        for (section, list) in by_section(&lacking, unit) {
            let _ = writeln!(text, "{section}");
            list.iter().for_each(|declaration| line(&mut text, declaration));
            text.push_str("END_VAR\n");
        }
    }
    problems::say(&text);
    Ok(Outcome::Done)
}

/// The declarations of a unit by their section, inputs first.
fn by_section<'d>(lacking: &'d [Declaration], unit: &str) -> Vec<(&'static str, Vec<&'d Declaration>)> {
    let of = |section| lacking.iter().filter(|d| d.unit == unit && d.section == section).collect::<Vec<_>>();
    let sections = [Section::Input, Section::Output, Section::Local].map(Section::word);
    sections.into_iter().map(|word| (word, of(word))).filter(|(_, list)| !list.is_empty()).collect()
}

fn line(text: &mut String, declaration: &Declaration) {
    let note = declaration.remark().map_or_else(String::new, |remark| format!("  (* {remark} *)"));
    let _ = writeln!(text, "    {} : {};{note}", declaration.name, declaration.ty);
}
