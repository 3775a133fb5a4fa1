//! Texts, places in them, and what there is to say about a place.
//!
//! Everything read from outside is a [`Source`]; everything made from it carries a [`Span`], so that every
//! problem, ledger entry and explanation can name the line it is about.

pub(crate) mod cells;
mod diagnostic;

pub use diagnostic::{Code, Diagnostic, Diagnostics, Severity, codes};

use serde::Serialize;
use std::sync::OnceLock;

/// Index of a source text within its project.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, schemars::JsonSchema)]
pub struct FileId(pub u32);

/// A range of bytes in one source text. `start <= end`, both on character boundaries.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, schemars::JsonSchema)]
pub struct Span {
    /// The text the range lies in.
    pub file: FileId,
    /// First byte.
    pub start: u32,
    /// One past the last byte.
    pub end: u32,
}

impl Span {
    /// The smallest range that covers both; `other` should lie in the same file.
    #[must_use]
    pub fn to(self, other: Span) -> Span {
        Span { file: self.file, start: self.start.min(other.start), end: self.end.max(other.end) }
    }
}

/// What is wrong with a row of a list that is read from outside: a tag list, a map, a trace.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {why}")]
pub struct RowError {
    /// Line, from 1; the header is line 1.
    pub line: u64,
    /// What is wrong, in a sentence.
    pub why: String,
}

impl RowError {
    pub(crate) fn new(line: u64, why: impl Into<String>) -> RowError {
        RowError { line, why: why.into() }
    }
}

/// A line and a column, both counted from 1; the column counts characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct LineColumn {
    /// Line, from 1.
    pub line: u32,
    /// Column in characters, from 1.
    pub column: u32,
}

/// One text with the name it is known by (a file name, or any word).
#[derive(Clone, Debug)]
pub struct Source {
    /// What messages call it.
    pub name: String,
    /// The text itself.
    pub text: String,
    /// Where lines begin, once somebody asked; who changes the text makes a new source.
    lines: OnceLock<Vec<usize>>,
}

impl PartialEq for Source {
    fn eq(&self, other: &Source) -> bool {
        (&self.name, &self.text) == (&other.name, &other.text)
    }
}

impl Eq for Source {}

impl Source {
    /// A text with the name it is known by.
    pub fn new(name: impl Into<String>, text: impl Into<String>) -> Source {
        Source { name: name.into(), text: text.into(), lines: OnceLock::new() }
    }

    /// Line and column of a byte offset; offsets past the end give the end.
    #[must_use]
    pub fn line_column(&self, offset: u32) -> LineColumn {
        let mut at = (offset as usize).min(self.text.len());
        while !self.text.is_char_boundary(at) {
            at -= 1;
        }
        let lines = self
            .lines
            .get_or_init(|| std::iter::once(0).chain(self.text.match_indices('\n').map(|(at, _)| at + 1)).collect());
        let line = lines.partition_point(|start| *start <= at);
        let start = lines[line.saturating_sub(1)];
        LineColumn { line: line as u32, column: self.text.get(start..at).map_or(0, |t| t.chars().count()) as u32 + 1 }
    }

    /// The text of a span, or an empty text if the span lies outside.
    #[must_use]
    pub fn slice(&self, span: Span) -> &str {
        self.text.get(span.start as usize..span.end as usize).unwrap_or("")
    }

    /// The lines a span touches, without their line ends, joined by one blank and cut at 160 characters.
    #[must_use]
    pub fn excerpt(&self, span: Span) -> String {
        let joined = self.slice(span).split_whitespace().collect::<Vec<_>>().join(" ");
        if joined.chars().count() <= 160 {
            return joined;
        }
        joined.chars().take(157).chain("...".chars()).collect()
    }
}

/// Bounds on what is read from outside, so that no text can exhaust the stack or run away.
#[derive(Clone, Copy, Debug)]
pub struct Limits {
    /// Largest text, in bytes.
    pub text_bytes: usize,
    /// Deepest nesting of one expression, counting each operator of a chain as one level.
    pub expression_depth: u32,
    /// Deepest nesting of statements, parentheses of instruction list and types.
    pub nesting: u32,
    /// Most problems reported for one file; the rest is counted.
    pub problems: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Limits { text_bytes: 64 << 20, expression_depth: 256, nesting: 100, problems: 200 }
    }
}
