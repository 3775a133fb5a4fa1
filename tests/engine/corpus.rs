//! Programs of the trade, each in all forms (`prog.st`, `.il`, `.ld`, `.fbd`, `.xml`), with a stimulus, the trace it
//! must give and the verdict: every ordered pair of forms runs over all of them.

use crate::common::{checked, exchanged, machine, trace, translated, version};
use honest_twin::lang::{Form, LANGUAGES, Language};
use honest_twin::twin::{Effort, Verdict, compare};
use std::path::PathBuf;

struct Program {
    name: String,
    /// Each form with its text.
    forms: Vec<(Form, String)>,
    /// The language of the bodies in the document.
    exchanged: Language,
    stimulus: String,
    expected: String,
    verdict: String,
}

fn corpus() -> Vec<Program> {
    let mut folders: Vec<PathBuf> = std::fs::read_dir("tests/corpus").unwrap().map(|e| e.unwrap().path()).collect();
    folders.sort();
    folders
        .into_iter()
        .map(|folder| {
            let read = |name: &str| std::fs::read_to_string(folder.join(name)).unwrap();
            let mut forms: Vec<(Form, String)> =
                LANGUAGES.iter().map(|l| (Form::Text(*l), read(&format!("prog.{}", l.ending())))).collect();
            let document = read("prog.xml");
            let exchanged = if document.contains("<FBD>") { Language::Fbd } else { Language::Ld };
            forms.push((Form::Exchange, document));
            Program {
                name: folder.file_name().unwrap().to_string_lossy().to_string(),
                forms,
                exchanged,
                stimulus: read("stim.csv"),
                expected: read("expect.csv"),
                verdict: read("verdict").trim().to_string(),
            }
        })
        .collect()
}

impl Program {
    fn scans(&self) -> u64 {
        self.expected.lines().count() as u64 - 1
    }

    fn write(&self, text: &str, from: Form, to: Form) -> String {
        match to {
            Form::Text(language) => translated(&self.name, text, from, language),
            Form::Exchange => exchanged(&self.name, text, from, self.exchanged),
        }
    }

    fn trace(&self, text: &str, form: Form) -> String {
        let (trace, fault) = trace(&machine(&self.name, text, form), &self.stimulus, self.scans());
        assert_eq!(fault, None, "{}", self.name);
        trace
    }
}

fn ending(form: Form) -> &'static str {
    if let Form::Text(language) = form { language.ending() } else { "xml" }
}

#[test]
fn every_form_gives_the_trace_and_is_written_as_it_stands() {
    for program in corpus() {
        for (form, text) in &program.forms {
            let name = format!("{}.{}", program.name, ending(*form));
            assert_eq!(program.trace(text, *form), program.expected, "{name}");
            assert_eq!(program.write(text, *form, *form), *text, "{name} is written differently");
        }
    }
}

#[test]
fn every_pair_of_forms_keeps_the_trace() {
    let (mut pairs, mut skipped) = (0, 0);
    for program in corpus() {
        for (from, text) in &program.forms {
            for (to, _) in program.forms.iter().filter(|(to, _)| to != from) {
                let name = format!("{}: {} to {}", program.name, ending(*from), ending(*to));
                let out = program.write(text, *from, *to);
                assert_eq!(program.trace(&out, *to), program.expected, "{name}\n{out}");
                assert_eq!(program.write(&out, *to, *to), out, "{name} is not stable");
                pairs += 1;
            }
        }
        skipped += usize::from(program.forms.len() != 5);
    }
    println!("{pairs} translations in {} programs, {skipped} skipped", corpus().len());
    assert_eq!((pairs, skipped), (corpus().len() * 20, 0));
    assert!(corpus().len() >= 24);
}

#[test]
fn verdicts_hold() {
    let effort = Effort { scenarios: 40, scans: 8_000, ..Effort::default() };
    for program in corpus() {
        let text = |form: Form| program.forms.iter().find(|(f, _)| *f == form).unwrap().1.clone();
        let left = version("st", &text(Form::Text(Language::St)), Language::St);
        for (form, text) in &program.forms {
            let right = honest_twin::Version::new(ending(*form), checked(&program.name, text, *form)).unwrap();
            let verdict = compare(&left, &right, &effort, |_| {});
            let word = match verdict {
                Verdict::Tested(_) => "same",
                Verdict::Different(_) => "different",
                _ => "undecided",
            };
            assert_eq!(word, program.verdict, "{}.{}", program.name, ending(*form));
        }
    }
}

/// A drawing that goes to text and comes back is the same drawing, rung by rung, not merely one that does the same.
#[test]
fn drawings_come_back_in_the_same_shape() {
    let mut other = Vec::new();
    let mut count = 0;
    for program in corpus() {
        for (form, text) in program.forms.iter().filter(|(f, _)| matches!(f, Form::Text(l) if l.is_drawn())) {
            let there = program.write(text, *form, Form::Text(Language::St));
            let back = program.write(&there, Form::Text(Language::St), *form);
            count += 1;
            if back != *text {
                other.push(format!("{}.{}", program.name, ending(*form)));
            }
        }
    }
    println!("{} of {count} drawings come back character by character; not {other:?}", count - other.len());
    insta::assert_debug_snapshot!(other);
}
