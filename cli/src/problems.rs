//! Showing problems at their places.

use honest_twin::source::{Diagnostic, Diagnostics, Severity, Source, Span};
use miette::{GraphicalReportHandler, LabeledSpan, MietteError, NamedSource, SourceCode, SourceSpan, SpanContents};
use serde::Serialize;
use std::fmt;
use std::io::Write;

/// A problem with its text, as the renderer wants it.
#[derive(Debug)]
struct Shown<'a> {
    problem: &'a Diagnostic,
    source: WholeLines,
}

/// Shows the lines a problem stands in, whole, and no others: ten problems should fit on a screen.
#[derive(Debug)]
struct WholeLines {
    text: String,
    source: NamedSource<String>,
}

impl SourceCode for WholeLines {
    fn read_span<'a>(
        &'a self,
        span: &SourceSpan,
        before: usize,
        _: usize,
    ) -> Result<Box<dyn SpanContents<'a> + 'a>, MietteError> {
        // Asked without context, it is the exact place that is wanted.
        if before == 0 {
            return self.source.read_span(span, 0, 0);
        }
        let start = self.text[..span.offset()].rfind('\n').map_or(0, |i| i + 1);
        let last = (span.offset() + span.len()).max(start);
        let end = self.text[last..].find('\n').map_or(self.text.len(), |i| last + i);
        self.source.read_span(&SourceSpan::from(start..end), 0, 0)
    }
}

impl fmt::Display for Shown<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {}", self.problem.code.0, self.problem.message)
    }
}

impl std::error::Error for Shown<'_> {}

impl miette::Diagnostic for Shown<'_> {
    fn severity(&self) -> Option<miette::Severity> {
        Some(match self.problem.severity {
            Severity::Error => miette::Severity::Error,
            Severity::Warning => miette::Severity::Warning,
        })
    }

    fn help<'b>(&'b self) -> Option<Box<dyn fmt::Display + 'b>> {
        self.problem.help.as_ref().map(|h| Box::new(h) as Box<dyn fmt::Display>)
    }

    fn source_code(&self) -> Option<&dyn SourceCode> {
        Some(&self.source)
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = LabeledSpan> + '_>> {
        let here = LabeledSpan::new_primary_with_span(None, range(self.problem.span));
        let file = self.problem.span.file;
        let others = self.problem.related.iter().filter(move |(span, _)| span.file == file);
        let others = others.map(|(span, why)| LabeledSpan::new_with_span(Some(why.clone()), range(*span)));
        Some(Box::new(std::iter::once(here).chain(others)))
    }
}

fn range(span: Span) -> std::ops::Range<usize> {
    span.start as usize..span.end as usize
}

/// A problem for machines.
#[derive(Serialize)]
pub(crate) struct Flat<'a> {
    code: &'a str,
    severity: Severity,
    file: &'a str,
    line: u32,
    column: u32,
    message: &'a str,
    help: Option<&'a str>,
}

/// Problems for machines.
pub(crate) fn flat<'a>(problems: &'a Diagnostics, sources: &'a [Source]) -> Vec<Flat<'a>> {
    let flatten = |problem: &'a Diagnostic| {
        let source = sources.get(problem.span.file.0 as usize)?;
        let place = source.line_column(problem.span.start);
        Some(Flat {
            code: problem.code.0,
            severity: problem.severity,
            file: &source.name,
            line: place.line,
            column: place.column,
            message: &problem.message,
            help: problem.help.as_deref(),
        })
    };
    problems.0.iter().filter_map(flatten).collect()
}

/// Shows problems on standard error, or as JSON on standard output.
pub(crate) fn show(problems: &Diagnostics, sources: &[Source], json: bool) -> Result<(), String> {
    if json {
        return say_json(&serde_json::json!({ "problems": flat(problems, sources) }));
    }
    let handler =
        GraphicalReportHandler::new().with_width(100).with_context_lines(1).with_links(false).with_cause_chain();
    let mut text = String::new();
    for problem in &problems.0 {
        let Some(source) = sources.get(problem.span.file.0 as usize) else { continue };
        let named = NamedSource::new(&source.name, source.text.clone());
        let source = WholeLines { text: source.text.clone(), source: named };
        handler.render_report(&mut text, &Shown { problem, source }).map_err(|e| e.to_string())?;
        text.push('\n');
    }
    let count = |severity, word: &str| match problems.count(severity) {
        1 => format!("1 {word}"),
        n => format!("{n} {word}s"),
    };
    let summary = format!("{}, {}\n", count(Severity::Error, "error"), count(Severity::Warning, "warning"));
    warn(&format!("{text}{summary}"));
    Ok(())
}

/// Says something on standard output.
pub(crate) fn say(text: &str) {
    // A closed pipe is the reader's way to say that it has seen enough.
    let _ = anstream::stdout().write_all(text.as_bytes());
}

/// Says something on standard error.
pub(crate) fn warn(text: &str) {
    let _ = anstream::stderr().write_all(text.as_bytes());
}

/// Says a value as JSON on standard output.
pub(crate) fn say_json(value: &impl Serialize) -> Result<(), String> {
    let text = serde_json::to_string_pretty(value).map_err(|e| e.to_string())?;
    say(&format!("{text}\n"));
    Ok(())
}

/// The call or a file was wrong.
pub(crate) fn complain(message: &str, json: bool) {
    if json {
        let _ = say_json(&serde_json::json!({ "error": message }));
    } else {
        warn(&format!("honest-twin: {message}\n"));
    }
}
