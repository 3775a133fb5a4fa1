//! The languages: one room each with its reader, writer, words and limits, and a table that lists them.

mod cursor;
pub(crate) mod decl;
mod expr;
pub(crate) mod fbd;
pub(crate) mod grid;
pub(crate) mod il;
pub(crate) mod ld;
mod literal;
pub(crate) mod st;
mod token;
mod written;

pub(crate) use grid::Style as DrawnStyle;
pub use literal::read_duration;
pub(crate) use written::language_of;
pub use written::{Unwritable, write_file};

use crate::model::{Item, Project};
use crate::source::{Diagnostic, Diagnostics, FileId, Limits, Source, Span, codes};
use cursor::Cursor;

/// A language a body can be written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Language {
    /// Structured text.
    St,
    /// Instruction list.
    Il,
    /// Ladder.
    Ld,
    /// Function block diagram.
    Fbd,
}

/// The languages there are.
pub const LANGUAGES: &[Language] = &[Language::St, Language::Il, Language::Ld, Language::Fbd];

impl Language {
    /// The ending of its files, which is also its short name.
    #[must_use]
    pub const fn ending(self) -> &'static str {
        match self {
            Language::St => "st",
            Language::Il => "il",
            Language::Ld => "ld",
            Language::Fbd => "fbd",
        }
    }

    /// Its name in words.
    #[must_use]
    pub const fn title(self) -> &'static str {
        match self {
            Language::St => "structured text",
            Language::Il => "instruction list",
            Language::Ld => "ladder",
            Language::Fbd => "function block diagram",
        }
    }

    /// The language of a file, by its ending.
    #[must_use]
    pub fn of_file(name: &str) -> Option<Language> {
        let (_, ending) = name.rsplit_once('.')?;
        LANGUAGES.iter().copied().find(|l| l.ending().eq_ignore_ascii_case(ending))
    }

    /// True for the languages that are drawn.
    #[must_use]
    pub const fn is_drawn(self) -> bool {
        matches!(self, Language::Ld | Language::Fbd)
    }

    const fn body(self) -> decl::ReadBody {
        match self {
            Language::St => st::body,
            Language::Il => il::body,
            Language::Ld => ld::body,
            Language::Fbd => fbd::body,
        }
    }
}

/// Reads one text as file `file` of a project. Every problem is reported; what could be read comes back.
#[must_use]
pub fn read_file(file: FileId, source: &Source, language: Language, limits: Limits) -> (Vec<Item>, Vec<Diagnostic>) {
    if source.text.len() > limits.text_bytes {
        let span = Span { file, start: 0, end: 0 };
        let message = format!("the text has {} bytes; at most {} are read", source.text.len(), limits.text_bytes);
        return (Vec::new(), vec![Diagnostic::error(codes::LIMIT, span, message)]);
    }
    if language.is_drawn() {
        let (declared, drawn) = grid::declarations(file, source);
        let mut cursor = Cursor::new(file, &declared, limits);
        cursor.drawn = Some(&drawn);
        let items = decl::file(&mut cursor, language.body());
        return (items, cursor.problems);
    }
    let mut cursor = Cursor::new(file, source, limits);
    let items = decl::file(&mut cursor, language.body());
    (items, cursor.problems)
}

/// Reads several texts as one project, each in its language.
///
/// The project holds whatever could be read; it has a meaning only if there are no errors.
#[must_use]
pub fn read_project(files: Vec<(Source, Language)>) -> (Project, Diagnostics) {
    let mut project = Project::default();
    let mut problems = Diagnostics::default();
    for (index, (source, language)) in files.into_iter().enumerate() {
        let (items, found) = read_file(FileId(index as u32), &source, language, Limits::default());
        project.items.extend(items);
        problems.0.extend(found);
        project.sources.push(source);
    }
    problems.settle();
    (project, problems)
}
