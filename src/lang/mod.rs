//! The languages: one room each with its reader, writer, words and limits, and a table that lists them.

mod bodies;
mod cursor;
pub(crate) mod decl;
pub(crate) mod exchange;
mod expr;
pub(crate) mod fbd;
pub(crate) mod grid;
pub(crate) mod il;
pub(crate) mod ld;
mod listing;
mod literal;
mod place;
mod plant;
pub(crate) mod st;
mod token;
mod written;

pub(crate) use cursor::is_reserved;
pub(crate) use grid::Style as DrawnStyle;
pub use literal::{DurationError, read_duration};
pub use place::statement_at;
pub(crate) use place::{Elements, element_words};
pub use plant::{PlantError, PlantFile, join_plant};
pub use written::{Unwritable, write_exchange, write_file};
pub(crate) use written::{body as body_text, language_of};

use crate::model::sheet::Sheet;
use crate::model::{Item, Project};
use crate::source::{Diagnostic, Diagnostics, FileId, Limits, Source, Span, codes};
use cursor::Cursor;
use token::Conventions;

/// A language a body can be written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize, schemars::JsonSchema)]
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

/// How a file is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Form {
    /// Declarations as text, and bodies in one language.
    Text(Language),
    /// The open XML exchange format, with bodies in any language.
    Exchange,
}

impl From<Language> for Form {
    fn from(language: Language) -> Form {
        Form::Text(language)
    }
}

impl Form {
    /// The form of a file, by its ending.
    #[must_use]
    pub fn of_file(name: &str) -> Option<Form> {
        let is_exchange = name.rsplit_once('.').is_some_and(|(_, ending)| ending.eq_ignore_ascii_case("xml"));
        if is_exchange { Some(Form::Exchange) } else { Language::of_file(name).map(Form::Text) }
    }
}

/// Reads one text as file `file` of a project. Every problem is reported; what could be read comes back.
#[must_use]
pub fn read_file(file: FileId, source: &Source, form: impl Into<Form>, limits: Limits) -> (Vec<Item>, Vec<Diagnostic>) {
    read_written(file, source, form.into(), limits, None)
}

/// As [`read_file`], for a text that may be written by the conventions of a sheet. What only they know is left as it
/// stands: addresses, and instructions in their own words.
pub(crate) fn read_written(
    file: FileId,
    source: &Source,
    form: Form,
    limits: Limits,
    sheet: Option<&Sheet>,
) -> (Vec<Item>, Vec<Diagnostic>) {
    if source.text.len() > limits.text_bytes {
        let span = Span { file, start: 0, end: 0 };
        let message = format!("the text has {} bytes; at most {} are read", source.text.len(), limits.text_bytes);
        return (Vec::new(), vec![Diagnostic::error(codes::LIMIT, span, message)]);
    }
    let language = match form {
        Form::Text(language) => language,
        Form::Exchange if sheet.is_some() => {
            let span = Span { file, start: 0, end: 0 };
            let message = "documents of the exchange format are read in the standard's own conventions only";
            return (Vec::new(), vec![Diagnostic::error(codes::UNSUPPORTED, span, message)]);
        }
        Form::Exchange => return exchange::read(file, source, limits),
    };
    let listing = sheet.map(|s| &s.listing).filter(|l| language == Language::Il && !l.is_standard());
    let bodies::Outline { bodies, is_fragment } = bodies::outline(file, source, listing);
    let lists = if listing.is_some() { bodies.as_slice() } else { &[] };
    let conventions = Conventions { sheet, lists, is_drawn: false };
    let read = |cursor: &mut Cursor<'_>| match is_fragment {
        true => vec![Item::Unit(decl::fragment(cursor, &source.name, language.body()))],
        false => decl::file(cursor, language.body()),
    };
    if language.is_drawn() {
        let (declared, drawn) = grid::declarations(source, &bodies);
        let mut cursor = Cursor::new(file, &declared, limits, conventions);
        cursor.drawn = Some(&drawn);
        return (read(&mut cursor), cursor.problems);
    }
    let mut cursor = Cursor::new(file, source, limits, conventions);
    (read(&mut cursor), cursor.problems)
}

/// A type as it is written in a declaration, at a place.
pub(crate) fn type_spec(text: &str, span: Span) -> Option<crate::model::TypeSpec> {
    let mut cursor = Cursor::standard(text, span.file, span.start, Limits::default());
    decl::spec(&mut cursor).ok().filter(|_| cursor.is_end() && cursor.problems.is_empty())
}

/// A literal of the standard as an expression at a place.
pub(crate) fn literal_expr(text: &str, span: Span) -> Option<crate::model::Expr> {
    let mut cursor = Cursor::standard(text, span.file, 0, Limits::default());
    let mut read = expr::simple(&mut cursor).ok().filter(|_| cursor.is_end() && cursor.problems.is_empty())?;
    read.span = span;
    Some(read)
}

/// An expression of structured text that stands by itself.
///
/// # Errors
/// What is wrong with it, in one sentence.
pub(crate) fn read_expression(text: &str, file: FileId) -> Result<crate::model::Expr, String> {
    let mut cursor = Cursor::standard(text, file, 0, Limits::default());
    let read = expr::read(&mut cursor);
    if let Some(problem) = cursor.problems.first() {
        return Err(problem.message.clone());
    }
    match read {
        Ok(_) if !cursor.is_end() => Err(format!("`{}` is more than one expression", text.trim())),
        Ok(expr) => Ok(expr),
        Err(_) => Err(format!("`{}` is no expression", text.trim())),
    }
}

/// Reads several texts as one project, each in its form.
///
/// The project holds whatever could be read; it has a meaning only if there are no errors.
#[must_use]
pub fn read_project<F: Into<Form>>(files: Vec<(Source, F)>) -> (Project, Diagnostics) {
    let mut project = Project::default();
    let mut problems = Diagnostics::default();
    for (index, (source, form)) in files.into_iter().enumerate() {
        let (items, found) = read_file(FileId(index as u32), &source, form, Limits::default());
        problems.0.extend(nothing(FileId(index as u32), &items, &found));
        project.items.extend(items);
        problems.0.extend(found);
        project.sources.push(source);
    }
    problems.settle();
    (project, problems)
}

/// That a file declares nothing is a problem of its own: nobody hands one over on purpose.
pub(crate) fn nothing(file: FileId, items: &[Item], found: &[Diagnostic]) -> Option<Diagnostic> {
    let span = Span { file, start: 0, end: 0 };
    (items.is_empty() && found.is_empty()).then(|| {
        Diagnostic::error(codes::EXPECTED, span, "this file declares nothing").help("is it the file that was meant?")
    })
}
