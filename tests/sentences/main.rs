//! What is said of mistakes, a row for each: where, with which code, in which words, and what would do.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

mod drawings;
mod files;
mod statements;

use honest_twin::check::verify;
use honest_twin::lang::{Form, Language, read_project};
use honest_twin::source::{Severity, Source};

/// A text with mistakes, and what is said of it: `line:column kind code: sentence / what else belongs to it | what would do`.
struct Row {
    text: String,
    form: Form,
    said: &'static [&'static str],
}

fn program(language: Language, variables: &str, body: &str, said: &'static [&'static str]) -> Row {
    let text = format!("PROGRAM P\nVAR {variables} END_VAR\n{body}\nEND_PROGRAM\n");
    Row { text, form: Form::Text(language), said }
}

fn statements(variables: &str, body: &str, said: &'static [&'static str]) -> Row {
    program(Language::St, variables, body, said)
}

fn list(variables: &str, body: &str, said: &'static [&'static str]) -> Row {
    program(Language::Il, variables, body, said)
}

fn ladder(variables: &str, body: &str, said: &'static [&'static str]) -> Row {
    program(Language::Ld, variables, body, said)
}

fn blocks(variables: &str, body: &str, said: &'static [&'static str]) -> Row {
    program(Language::Fbd, variables, body, said)
}

fn file(text: &str, said: &'static [&'static str]) -> Row {
    Row { text: text.to_string(), form: Form::Text(Language::St), said }
}

fn document(text: &str, said: &'static [&'static str]) -> Row {
    Row { text: text.to_string(), form: Form::Exchange, said }
}

fn said(row: &Row) -> Vec<String> {
    let source = Source::new("hatchery", row.text.clone());
    let (project, read) = read_project(vec![(source.clone(), row.form)]);
    let all = verify(project, read).1;
    let line = |p: &honest_twin::source::Diagnostic| {
        let at = source.line_column(p.span.start);
        let kind = if p.severity == Severity::Error { "error" } else { "warning" };
        let more: String = p.related.iter().map(|(_, why)| format!(" / {why}")).collect();
        let help = p.help.as_ref().map_or(String::new(), |help| format!(" | {help}"));
        format!("{}:{} {kind} {}: {}{more}{help}", at.line, at.column, p.code.0, p.message)
    };
    all.0.iter().map(line).collect()
}

fn hold(rows: &[Row]) {
    for row in rows {
        assert_eq!(said(row), row.said, "of\n{}", row.text);
    }
}

#[test]
fn statements_and_lists() {
    hold(&statements::rows());
}

#[test]
fn files_and_declarations() {
    hold(&files::rows());
}

#[test]
fn drawings() {
    hold(&drawings::rows());
}
/// What is too deep or too long is told, however far it goes.
#[test]
fn depth_has_a_bound() {
    let deep = format!("n := {}1{};", "(".repeat(300), ")".repeat(300));
    let long = format!("n := n{};", ".a".repeat(300));
    hold(&[
        statements("n : INT;", &deep, &["3:105 error R05: nested more than 100 deep"]),
        statements("n : INT;", &long, &["3:207 error R05: too many fields and indices behind one name"]),
    ]);
}
