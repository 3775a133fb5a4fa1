//! Reading a sheet with its blocks.

use super::verify::verify;
use crate::lang::{Language, read_file};
use crate::model::sheet::{Field, Library, Pattern, Piece, Sheet};
use crate::source::{Diagnostic, Diagnostics, FileId, Limits, Source, Span, codes};
use indexmap::IndexMap;

/// The file number of a sheet, and of its blocks, in the problems of [`read_library`].
const SHEET: FileId = FileId(0);
const BLOCKS: FileId = FileId(1);

/// Reads a sheet and its blocks.
///
/// # Errors
/// All problems, each at its place; file 0 is the sheet, file 1 the blocks. The blocks are read and compared with the
/// sheet, not checked: for that they are a project like any other.
pub fn read_library(sheet: &Source, blocks: &Source) -> Result<Library, Diagnostics> {
    let mut problems = Diagnostics::default();
    let (_, found) = read_file(BLOCKS, blocks, Language::St, Limits::default());
    problems.0.extend(found);
    let (items, _) = read_file(Library::FILE, blocks, Language::St, Limits::default());
    if sheet.text.len() > Limits::default().text_bytes {
        let message = "this sheet is too long to be one";
        problems.0.push(Diagnostic::error(codes::LIMIT, Span { file: SHEET, start: 0, end: 0 }, message));
        return Err(problems);
    }
    let mut read: Sheet = match toml::from_str(&sheet.text) {
        Ok(read) => read,
        Err(error) => {
            let range = error.span().unwrap_or(0..0);
            let span = Span { file: SHEET, start: range.start as u32, end: range.end as u32 };
            problems.0.push(Diagnostic::error(codes::SHEET, span, error.message().replace('\n', " ")));
            return Err(problems);
        }
    };
    let mut unread = Vec::new();
    for (number, area) in read.areas.iter_mut().enumerate() {
        match pattern(&area.pattern, &area.fields, !read.listing.constants.is_empty()) {
            Ok(parsed) => area.parsed = parsed,
            Err((path, message)) => unread.push((format!("area/{number}/{path}"), message)),
        }
    }
    problems.0.extend(verify(&read, &items, &sheet.text, SHEET, unread));
    problems.settle();
    if problems.has_errors() {
        return Err(problems);
    }
    Ok(Library { sheet: read, text: sheet.clone(), source: blocks.clone(), items })
}

/// Takes a pattern apart; what is wrong comes with the part of the area that it is about.
fn pattern(text: &str, fields: &IndexMap<String, Field>, numbers: bool) -> Result<Pattern, (String, String)> {
    let wrong = |message: String| Err(("pattern".to_string(), message));
    let mut pieces = Vec::new();
    let mut used = Vec::new();
    let mut rest = text;
    while let Some(open) = rest.find('{') {
        let (fixed, behind) = rest.split_at(open);
        let Some(close) = behind.find('}') else { return wrong(format!("`{behind}` has no closing brace")) };
        let name = &behind[1..close];
        let Some(field) = fields.get(name) else {
            return wrong(format!("there is no field `{name}`; the area has {}", list(fields.keys())));
        };
        if used.contains(&name) {
            return wrong(format!("the field `{name}` stands in it twice"));
        }
        if let (true, Some(Piece::Field(before))) = (fixed.is_empty(), pieces.last())
            && before.digits == 0
        {
            let message = "and the field before it, which has no fixed count of `digits`";
            return wrong(format!("nothing stands between `{{{name}}}` {message}"));
        }
        used.push(name);
        if !fixed.is_empty() {
            pieces.push(Piece::Fixed(fixed.to_string()));
        }
        pieces.push(Piece::Field(*field));
        rest = &behind[close + 1..];
    }
    if !rest.is_empty() {
        pieces.push(Piece::Fixed(rest.to_string()));
    }
    let fixed = |p: &Piece| if let Piece::Fixed(f) = p { f.clone() } else { String::new() };
    let begins = pieces.first().map(fixed).unwrap_or_default();
    let is_number = matches!(pieces.first(), Some(Piece::Field(_)));
    if is_number && !numbers {
        let message = "an address begins with a letter or %, so that it is not taken for a number; it may be a number where \
                       `listing.constants` says what stands in front of constants";
        return wrong(message.to_string());
    }
    if !is_number && !begins.starts_with(|c: char| c.is_ascii_alphabetic() || c == '%') {
        return wrong("an address begins with a letter, a % or a field".to_string());
    }
    let foreign = |c: char| !(c.is_ascii_alphanumeric() || matches!(c, '%' | '.' | '_'));
    if let Some(bad) = pieces.iter().flat_map(|p| fixed(p).chars().collect::<Vec<_>>()).find(|c| foreign(*c)) {
        return wrong(format!("`{bad}` cannot stand in an address; letters, digits, `.` and `_` can"));
    }
    if pieces.iter().any(|p| fixed(p).ends_with(|c: char| c.is_ascii_digit())) {
        return wrong("a digit in front of a field would be read as part of its number".to_string());
    }
    if let Some(unused) = fields.keys().find(|f| !used.contains(&f.as_str())) {
        return Err((format!("fields/{unused}"), format!("the pattern has no `{{{unused}}}`")));
    }
    if used.is_empty() {
        return wrong("an address needs a number: write a field in braces, `{number}`".to_string());
    }
    Ok(Pattern { pieces })
}

pub(super) fn list<'a>(names: impl Iterator<Item = &'a String>) -> String {
    let all: Vec<String> = names.map(|n| format!("`{n}`")).collect();
    if all.is_empty() { "none".to_string() } else { all.join(", ") }
}
