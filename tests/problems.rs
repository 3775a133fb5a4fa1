//! What is said about texts with mistakes in them: every problem, at its place, with what would mend it.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

use honest_twin::check::{declarations, verify};
use honest_twin::lang::{Language, read_project};
use honest_twin::source::{Diagnostics, Source};
use std::fmt::Write;
use std::fs;
use std::path::Path;

fn source(name: &str) -> (Source, Language) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/problems").join(name);
    (Source::new(name, fs::read_to_string(path).unwrap()), Language::of_file(name).unwrap())
}

fn listed(source: &Source, problems: &Diagnostics) -> String {
    let mut out = String::new();
    for p in &problems.0 {
        let at = source.line_column(p.span.start);
        let mark = if p.severity == honest_twin::source::Severity::Error { "" } else { " (warning)" };
        let _ =
            writeln!(out, "{}:{} {}{mark} {} [{}]", at.line, at.column, p.code.0, p.message, source.excerpt(p.span));
        for (span, why) in &p.related {
            let _ = writeln!(out, "    line {}: {why}", source.line_column(span.start).line);
        }
        if let Some(help) = &p.help {
            let _ = writeln!(out, "    {help}");
        }
    }
    out
}

/// Everything that reading and checking finds.
fn problems(name: &str) -> String {
    let (source, language) = source(name);
    let (project, read) = read_project(vec![(source.clone(), language)]);
    listed(&source, &verify(project, read).1)
}

#[test]
fn checking_structured_text() {
    insta::assert_snapshot!(problems("many.st"));
}

#[test]
fn reading_goes_on_behind_mistakes() {
    insta::assert_snapshot!(problems("recovery.st"));
}

#[test]
fn checking_instruction_list() {
    insta::assert_snapshot!(problems("many.il"));
}

#[test]
fn pasted_code_gets_its_declarations() {
    let (source, language) = source("pasted.st");
    let (project, _) = read_project(vec![(source, language)]);
    let mut out = String::new();
    for d in declarations(&project) {
        let _ = writeln!(
            out,
            "{} : {};{} {}",
            d.name,
            d.ty,
            if d.sure { "" } else { " (guess)" },
            d.note.unwrap_or_default()
        );
    }
    insta::assert_snapshot!(out);
}

#[test]
fn hints_of_structured_text() {
    insta::assert_snapshot!(problems("hints.st"));
}

#[test]
fn hints_of_instruction_list() {
    insta::assert_snapshot!(problems("hints.il"));
}

#[test]
fn structures_in_the_current_result() {
    insta::assert_snapshot!(problems("structures.il"));
}
