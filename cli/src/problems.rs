//! Showing problems at their places.

use honest_twin::source::{Diagnostic, Diagnostics, Severity, Source, Span};
use miette::{
    GraphicalReportHandler, LabeledSpan, MietteError, MietteSpanContents, SourceCode, SourceSpan, SpanContents,
};
use serde::Serialize;
use std::collections::BTreeMap;
use std::fmt;
use std::io::{BufWriter, Write};

/// A problem with its text, as the renderer wants it.
#[derive(Debug)]
struct Shown<'a> {
    problem: &'a Diagnostic,
    source: WholeLines<'a>,
}

/// Shows the lines a problem stands in, whole, and no others: ten problems should fit on a screen. Places are found by the
/// source's own table of lines, so that a problem costs the same wherever it stands.
#[derive(Debug)]
struct WholeLines<'a>(&'a Source);

impl SourceCode for WholeLines<'_> {
    fn read_span<'a>(
        &'a self,
        span: &SourceSpan,
        before: usize,
        _: usize,
    ) -> Result<Box<dyn SpanContents<'a> + 'a>, MietteError> {
        let text = &self.0.text;
        let (first, last) = (span.offset(), span.offset() + span.len());
        // Asked without context, it is the exact place that is wanted.
        let (start, end) = match before {
            0 => (first, last),
            _ => {
                let head = text.get(..first).ok_or(MietteError::OutOfBounds)?;
                let start = head.rfind('\n').map_or(0, |i| i + 1);
                let tail = text.get(last.max(start)..).ok_or(MietteError::OutOfBounds)?;
                let end = tail.find('\n').map_or(text.len(), |i| last.max(start) + i);
                // Of a line that is very long the part around the place.
                (start.max(near(text, first.saturating_sub(AROUND))), end.min(near(text, last.saturating_add(AROUND))))
            }
        };
        let shown = text.get(start..end).ok_or(MietteError::OutOfBounds)?;
        let place = self.0.line_column(start as u32);
        let (line, column) = (place.line as usize - 1, place.column as usize - 1);
        let lines = shown.lines().count();
        let span = SourceSpan::from(start..end);
        let name = self.0.name.clone();
        Ok(Box::new(MietteSpanContents::new_named(name, shown.as_bytes(), span, line, column, lines)))
    }
}

/// Bytes of a line that are shown on each side of a place, and bytes of a place.
const AROUND: usize = 400;

/// The beginning of the character in which a byte lies.
fn near(text: &str, at: usize) -> usize {
    let mut at = at.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// Characters of a message that are shown: what it quotes may be all of a file.
const MOST_OF_A_MESSAGE: usize = 1_000;

/// A message, line by line, each cut where it is very long.
fn short(message: &str) -> String {
    let one = |line: &str| match line.char_indices().nth(MOST_OF_A_MESSAGE) {
        Some((at, _)) => {
            let last: String = line.chars().rev().take(80).collect::<Vec<char>>().into_iter().rev().collect();
            format!("{} ... {last}", &line[..at])
        }
        None => line.to_string(),
    };
    message.split('\n').map(one).collect::<Vec<_>>().join("\n")
}

/// Of hints of one kind, and of errors, so many are shown before the rest is only counted.
const MOST_ALIKE: usize = 5;
const MOST_ERRORS: usize = 50;

/// The first of many lines, and how many more there are.
pub(crate) fn first_of<T>(all: &[T], line: impl Fn(&T) -> String) -> String {
    let shown: String = all.iter().take(MOST_ERRORS).map(line).collect();
    match all.len().saturating_sub(MOST_ERRORS) {
        0 => shown,
        more => format!("{shown}and {more} more\n"),
    }
}

/// The problems to be shown, and lines that count the others.
fn chosen(problems: &Diagnostics) -> (Vec<&Diagnostic>, String) {
    let (mut shown, mut counts) = (Vec::new(), BTreeMap::<&str, usize>::new());
    for problem in &problems.0 {
        let (kind, most) = match problem.severity {
            Severity::Error => ("errors", MOST_ERRORS),
            Severity::Warning => (problem.code.0, MOST_ALIKE),
        };
        let count = counts.entry(kind).or_default();
        *count += 1;
        if *count <= most {
            shown.push(problem);
        }
    }
    let rest = |(kind, count): (&str, usize)| match kind {
        "errors" => count.checked_sub(MOST_ERRORS).filter(|n| *n > 0).map(|n| format!("and {n} more errors\n")),
        code => count.checked_sub(MOST_ALIKE).filter(|n| *n > 0).map(|n| format!("and {n} more of {code}\n")),
    };
    let more: String = counts.into_iter().filter_map(rest).collect();
    (shown, if more.is_empty() { more } else { format!("{more}--json names them all\n") })
}

impl fmt::Display for Shown<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {}", self.problem.code.0, short(&self.problem.message))
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
        self.problem.help.as_ref().map(|help| Box::new(short(help)) as Box<dyn fmt::Display>)
    }

    fn source_code(&self) -> Option<&dyn SourceCode> {
        Some(&self.source)
    }

    fn labels(&self) -> Option<Box<dyn Iterator<Item = LabeledSpan> + '_>> {
        let whole = range(self.problem.span);
        let end = near(&self.source.0.text, whole.end.min(whole.start.saturating_add(AROUND)));
        let here = LabeledSpan::new_primary_with_span(None, whole.start..end.max(whole.start));
        let (file, start) = (self.problem.span.file, self.problem.span.start as usize);
        let text = &self.source.0.text;
        // One that stands far away in a very long line would bring all of that line with it.
        let is_seen = move |span: &Span| {
            let between = range(*span).start.min(start)..range(*span).end.max(start);
            span.file == file && text.get(between).is_some_and(|t| t.lines().all(|line| line.len() < 4 * AROUND))
        };
        let others = self.problem.related.iter().filter(move |(span, _)| is_seen(span));
        let others = others.map(|(span, why)| LabeledSpan::new_with_span(Some(short(why)), range(*span)));
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
    let (chosen, more) = chosen(problems);
    for problem in chosen {
        let Some(source) = sources.get(problem.span.file.0 as usize) else { continue };
        let source = WholeLines(source);
        handler.render_report(&mut text, &Shown { problem, source }).map_err(|e| e.to_string())?;
        text.push('\n');
    }
    let count = |severity, word: &str| match problems.count(severity) {
        1 => format!("1 {word}"),
        n => format!("{n} {word}s"),
    };
    let summary = format!("{}, {}\n", count(Severity::Error, "error"), count(Severity::Warning, "warning"));
    warn(&format!("{text}{more}{summary}"));
    Ok(())
}

/// Says something on standard output.
pub(crate) fn say(text: &str) {
    // A closed pipe is the reader's way to say that it has seen enough.
    let _ = anstream::stdout().write_all(text.as_bytes());
}

/// The same of what is not held as a whole.
pub(crate) fn say_by(content: impl Fn(&mut dyn Write) -> std::io::Result<()>) {
    let mut out = BufWriter::new(std::io::stdout().lock());
    let _ = content(&mut out).and_then(|()| out.flush());
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
        let _ = say_json(&serde_json::json!({ "error": short(message) }));
    } else {
        warn(&format!("honest-twin: {}\n", short(message)));
    }
}
