//! What is said of mistakes, a row for each: where, with which code, in which words, and what would do.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

mod dialects;
mod documents;
mod drawings;
mod expressions;
mod files;
mod lists;
mod networks;
mod statements;
mod units;

use honest_twin::check::verify;
use honest_twin::dialect::{LIBRARIES, library, read_library, read_project_in};
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
    all.0.iter().map(|problem| told(&source, problem)).collect()
}

/// A problem in one line.
fn told(source: &Source, p: &honest_twin::source::Diagnostic) -> String {
    let at = source.line_column(p.span.start);
    let kind = if p.severity == Severity::Error { "error" } else { "warning" };
    let more: String = p.related.iter().map(|(_, why)| format!(" / {why}")).collect();
    let help = p.help.as_ref().map_or(String::new(), |help| format!(" | {help}"));
    format!("{}:{} {kind} {}: {}{more}{help}", at.line, at.column, p.code.0, p.message)
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

/// Variables, a body, and what is said of it.
type Body = (&'static str, &'static str, &'static [&'static str]);
/// A file, and what is said of it.
type Text = (&'static str, &'static [&'static str]);

/// Holds a table to what it says; what differs is printed, all of it.
fn hold_table(name: &str, rows: impl Iterator<Item = Row>) {
    hold_found(name, rows.map(|row| (said(&row), row.said)));
}

fn hold_found(name: &str, rows: impl Iterator<Item = (Vec<String>, &'static [&'static str])>) {
    let mut wrong = 0;
    for (number, (found, expected)) in rows.enumerate() {
        if found != expected {
            wrong += 1;
            let lines: String = found.iter().map(|line| format!("{line}\n")).collect();
            println!("<<<{name} {number}\n{lines}>>>");
        }
    }
    assert_eq!(wrong, 0, "rows of {name}");
}

fn bodies(language: Language, table: &'static [Body]) -> impl Iterator<Item = Row> {
    table.iter().map(move |(variables, body, said)| program(language, variables, body, said))
}

#[test]
fn expressions() {
    hold_table("ST", bodies(Language::St, expressions::ST));
}

#[test]
fn lists() {
    hold_table("IL", bodies(Language::Il, lists::IL));
}

#[test]
fn units() {
    hold_table("FILES", units::FILES.iter().map(|(text, said)| file(text, said)));
}

#[test]
fn networks() {
    hold_table("LD", bodies(Language::Ld, networks::LD));
    hold_table("FBD", bodies(Language::Fbd, networks::FBD));
}

/// A document with these units.
fn paper(units: &str) -> String {
    format!(
        "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<project xmlns=\"http://www.plcopen.org/xml/tc6_0201\">\n\
         <types><dataTypes/><pous>\n{units}\n</pous></types>\n</project>\n"
    )
}

#[test]
fn documents() {
    let program = |interface: &str, body: &str| {
        let ports = "<inputVars><variable name=\"a\"><type><BOOL/></type></variable></inputVars>\
                     <outputVars><variable name=\"o\"><type><BOOL/></type></variable></outputVars>";
        paper(&format!(
            "<pou name=\"P\" pouType=\"program\"><interface>{ports}{interface}</interface>\n<body>{body}</body></pou>"
        ))
    };
    let docs = documents::DOCS.iter().map(|(interface, body, said)| document(&program(interface, body), said));
    hold_table("DOCS", docs);
    hold_table("POUS", documents::POUS.iter().map(|(units, said)| document(&paper(units), said)));
}

#[test]
fn dialects() {
    let rows = dialects::DIALECT.iter().map(|(family, language, text, said)| {
        let source = Source::new("hatchery", *text);
        let (project, read) = read_project_in(vec![(source.clone(), *language)], &library(family).unwrap());
        (verify(project, read).1.0.iter().map(|p| told(&source, p)).collect(), *said)
    });
    hold_found("DIALECT", rows);
}

#[test]
fn sheets() {
    let shipped = LIBRARIES.iter().find(|l| l.name == "octal-coil").unwrap();
    let rows = dialects::SHEET.iter().map(|(from, to, said)| {
        assert!(shipped.sheet.contains(from), "{from}");
        let sheet = Source::new("mine.toml", shipped.sheet.replacen(from, to, 1));
        let problems = read_library(&sheet, &Source::new("mine.st", shipped.blocks)).expect_err(to);
        // Places are lines of the sheet; what stands above the change keeps them.
        (problems.0.iter().map(|p| told(&sheet, p)).collect(), *said)
    });
    hold_found("SHEET", rows);
}
