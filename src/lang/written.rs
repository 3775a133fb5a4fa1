//! Writing what a file declares, in one language; and the helpers all writers share.

use super::grid::{self, Style};
use super::{Language, decl, il, st};
use crate::model::{Body, Comment, CommentKind, Item, Notes};
use crate::source::Span;

/// Something the language asked for cannot say.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{what} cannot be written in {}", .language.title())]
pub struct Unwritable {
    /// What it is.
    pub what: String,
    /// Where it stands in the source.
    pub span: Span,
    /// The language it was to be written in.
    pub language: Language,
}

/// Writes the items of one file. Bodies must already be in that language; translation makes them so.
///
/// # Errors
/// Everything that stands in another language; then nothing is written.
pub fn write_file<'a>(
    items: impl Iterator<Item = &'a Item> + Clone,
    language: Language,
) -> Result<String, Vec<Unwritable>> {
    let foreign: Vec<Unwritable> = items
        .clone()
        .filter_map(|item| {
            if let Item::Unit(unit) = item
                && language_of(&unit.body) != language
            {
                Some(Unwritable {
                    what: format!(
                        "{} {}, a body in {},",
                        unit.kind.word(),
                        unit.name.text,
                        language_of(&unit.body).title()
                    ),
                    span: unit.name.span,
                    language,
                })
            } else {
                None
            }
        })
        .collect();
    if !foreign.is_empty() {
        return Err(foreign);
    }
    let mut out = String::new();
    for item in items {
        if !out.is_empty() {
            out.push('\n');
        }
        decl::item(&mut out, item);
    }
    Ok(out)
}

/// Writes the items of one file in the exchange format, bodies in whatever language they are; `name` is the file's.
///
/// # Errors
/// Everything the format has no word for; then nothing is written.
pub fn write_exchange<'a>(
    items: impl Iterator<Item = &'a Item> + Clone,
    name: &str,
) -> Result<String, Vec<Unwritable>> {
    super::exchange::write(items, name)
}

/// The language a body is in.
pub(crate) const fn language_of(body: &Body) -> Language {
    match body {
        Body::Statements(_) => Language::St,
        Body::Instructions(_) => Language::Il,
        Body::Ladder(_) => Language::Ld,
        Body::Blocks(_) => Language::Fbd,
    }
}

/// Writes a body.
pub(crate) fn body(out: &mut String, body: &Body) {
    match body {
        Body::Statements(list) => st::statements(out, list, 1),
        Body::Instructions(list) => il::instructions(out, list, 1),
        Body::Ladder(list) => grid::write(out, list, Style::Ladder),
        Body::Blocks(list) => grid::write(out, list, Style::Blocks),
    }
}

/// A comment with its delimiters.
pub(super) fn comment(comment: &Comment) -> String {
    let text = &comment.text;
    match comment.kind {
        CommentKind::Paren => format!("(* {text} *)"),
        CommentKind::Slash => format!("/* {text} */"),
        CommentKind::Line => format!("// {text}").trim_end().to_string(),
        CommentKind::Pragma => format!("{{{text}}}"),
    }
}

/// A blank line if one stood there (and something stands above), then the comments above.
pub(super) fn leading(out: &mut String, notes: &Notes, indent: &str) {
    if notes.blank_before && !out.is_empty() && !out.ends_with("\n\n") {
        out.push('\n');
    }
    comments(out, &notes.leading, indent);
}

/// Comments on lines of their own.
pub(super) fn comments(out: &mut String, list: &[Comment], indent: &str) {
    for c in list {
        out.push_str(indent);
        out.push_str(&comment(c));
        out.push('\n');
    }
}

/// The comments behind something, each after a blank, and the line's end. Only the last may be a line comment.
pub(super) fn end_line(out: &mut String, notes: &Notes) {
    let last = notes.trailing.len().saturating_sub(1);
    for (index, c) in notes.trailing.iter().enumerate() {
        out.push_str("  ");
        let kind = if index < last && c.kind == CommentKind::Line { CommentKind::Paren } else { c.kind };
        out.push_str(&comment(&Comment { kind, text: c.text.clone() }));
    }
    out.push('\n');
}
