//! What several tests share: from text to a machine, and runs side by side.
#![allow(dead_code, unreachable_pub, reason = "each test uses its part")]

pub mod dialects;
pub mod extent;
pub mod mutated;
pub mod pages;
pub mod programs;

use honest_twin::check::{Checked, check};
use honest_twin::lang::{Form, Language, read_project};
use honest_twin::model::Duration;
use honest_twin::scan::{Controller, Machine, ScanTime, Stimulus, run_stimulus};
use honest_twin::source::Source;
use honest_twin::translate::{translate, translate_as};
use honest_twin::twin::Version;

/// What a variable of the environment asks of a long run, if it is given and can be read.
pub fn asked<T: std::str::FromStr>(variable: &str) -> Option<T> {
    std::env::var(variable).ok()?.parse().ok()
}

/// Reads and checks a text; panics with the problems.
pub fn checked(name: &str, text: &str, form: impl Into<Form>) -> Checked {
    let form = form.into();
    let ending = if let Form::Text(language) = form { language.ending() } else { "xml" };
    let (project, problems) = read_project(vec![(Source::new(format!("{name}.{ending}"), text), form)]);
    assert!(!problems.has_errors(), "{name}: {}\n{text}", shown(&problems.0, text));
    check(project).unwrap_or_else(|p| panic!("{name}: {}\n{text}", shown(&p.0, text)))
}

fn shown(problems: &[honest_twin::source::Diagnostic], text: &str) -> String {
    let source = Source::new("", text);
    let errors = problems.iter().filter(|p| p.severity == honest_twin::source::Severity::Error);
    errors
        .take(5)
        .map(|p| {
            format!("{:?} {}: {} [{}]\n", source.line_column(p.span.start), p.code.0, p.message, source.slice(p.span))
        })
        .collect()
}

pub fn translated(name: &str, text: &str, from: impl Into<Form>, to: Language) -> String {
    translate(&checked(name, text, from), to).unwrap().files[0].text.clone()
}

/// The text in the exchange format, with bodies in a language.
pub fn exchanged(name: &str, text: &str, from: impl Into<Form>, to: Language) -> String {
    translate_as(&checked(name, text, from), to, Form::Exchange).unwrap().files[0].text.clone()
}

pub fn machine(name: &str, text: &str, form: impl Into<Form>) -> Machine {
    Machine::new(&checked(name, text, form)).unwrap()
}

pub fn version(name: &str, text: &str, language: Language) -> Version {
    Version::new(name, checked(name, text, language)).unwrap()
}

/// The outputs of a run as CSV, and the kind of the fault that ended it.
pub fn trace(machine: &Machine, stimulus: &str, scans: u64) -> (String, Option<String>) {
    let stimulus = Stimulus::read(stimulus, machine).unwrap();
    let mut controller = Controller::new(machine);
    let time = ScanTime::Fixed(Duration::from_millis(10));
    let text = run_stimulus(&mut controller, &stimulus, &time, scans, &[]).write();
    (text, controller.fault().map(|f| format!("{} in scan {}", f.kind, f.scan.0)))
}
