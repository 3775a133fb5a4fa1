//! Where the drawings of a file are: its declarations are read as in every language, its bodies are not.

use super::{Style, read};
use crate::lang::cursor::Cursor;
use crate::model::Network;
use crate::source::{Diagnostic, FileId, Source, Span, codes};

/// A file whose bodies are drawings.
#[derive(Debug)]
pub(crate) struct Drawn<'s> {
    source: &'s Source,
    bodies: Vec<Span>,
}

const UNIT_BEGINS: &[&str] = &["PROGRAM", "FUNCTION", "FUNCTION_BLOCK"];
const UNIT_ENDS: &[&str] = &["END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK"];

#[derive(Clone, Copy, PartialEq, Eq)]
enum BodyState {
    Outside,
    Configuration,
    /// Behind the head of a unit, between its sections.
    Head,
    Section,
    Body,
}

/// The text with blanks in place of its bodies, and where those are.
pub(crate) fn declarations(file: FileId, source: &Source) -> (Source, Drawn<'_>) {
    let mut bodies = Vec::new();
    let mut state = BodyState::Outside;
    let (mut offset, mut begin, mut depth) = (0u32, 0u32, 0usize);
    for line in source.text.split_inclusive('\n') {
        let start = offset;
        offset += line.len() as u32;
        let inside = depth > 0;
        depth = (depth + line.matches("(*").count()).saturating_sub(line.matches("*)").count());
        let line = line.trim_start_matches('\u{feff}').trim_start();
        let word: String = line.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
        let word = word.to_ascii_uppercase();
        let bare = inside || line.is_empty() || line.starts_with("(*") || line.starts_with("//");
        if bare {
            continue;
        }
        state = match state {
            BodyState::Outside if UNIT_BEGINS.contains(&word.as_str()) => {
                begin = offset;
                if ends_section(line) { BodyState::Head } else { section_state(line) }
            }
            BodyState::Outside if word == "CONFIGURATION" => BodyState::Configuration,
            BodyState::Configuration if word == "END_CONFIGURATION" => BodyState::Outside,
            BodyState::Section if ends_section(line) => {
                begin = offset;
                BodyState::Head
            }
            BodyState::Head | BodyState::Body if UNIT_ENDS.contains(&word.as_str()) => {
                bodies.push(Span { file, start: begin, end: start });
                BodyState::Outside
            }
            BodyState::Head if word.starts_with("VAR") => {
                if ends_section(line) {
                    begin = offset;
                    BodyState::Head
                } else {
                    BodyState::Section
                }
            }
            BodyState::Head => BodyState::Body,
            other @ (BodyState::Outside | BodyState::Configuration | BodyState::Section | BodyState::Body) => other,
        };
    }
    if matches!(state, BodyState::Body) {
        bodies.push(Span { file, start: begin, end: offset });
    }
    let mut text = String::with_capacity(source.text.len());
    let mut at = 0;
    for body in &bodies {
        text.push_str(&source.text[at..body.start as usize]);
        for c in source.slice(*body).chars() {
            let blank = if c == '\n' { '\n' } else { ' ' };
            text.extend(std::iter::repeat_n(blank, c.len_utf8()));
        }
        at = body.end as usize;
    }
    text.push_str(&source.text[at..]);
    (Source::new(source.name.clone(), text), Drawn { source, bodies })
}

/// A unit's head may have a section on its own line.
fn section_state(line: &str) -> BodyState {
    let opens = line.split_whitespace().any(|w| w.to_ascii_uppercase().starts_with("VAR"));
    if opens { BodyState::Section } else { BodyState::Head }
}

fn ends_section(line: &str) -> bool {
    line.split(|c: char| !(c.is_alphanumeric() || c == '_')).any(|w| w.eq_ignore_ascii_case("END_VAR"))
}

/// Reads the drawings between the cursor's last token and this one, and takes the end word.
pub(crate) fn networks(cursor: &mut Cursor<'_>, end: &str, style: Style) -> Vec<Network> {
    while !cursor.is_end() && !cursor.at_word(end) && !cursor.at_any(UNIT_ENDS) {
        let message = format!("{} stands where a drawing or `{end}` is expected", cursor.found());
        let span = cursor.bump().span;
        cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
    }
    let here = cursor.span();
    let before = cursor.last_span().end;
    let body = cursor.drawn.and_then(|drawn| {
        let found = drawn.bodies.iter().find(|b| b.start >= before && b.end <= here.start && here.file == b.file);
        found.map(|body| (drawn.source, *body))
    });
    let mut found = Vec::new();
    let limits = (cursor.limits, cursor.sheet);
    let networks = body.map_or(Vec::new(), |(source, body)| read(source, body, style, limits, &mut found));
    for problem in found {
        cursor.problem(problem);
    }
    if !cursor.eat_word(end) {
        let message = format!("expected `{end}`, found {}", cursor.found());
        cursor.problem(Diagnostic::error(codes::EXPECTED, here, message));
        cursor.eat(crate::lang::token::Tok::Word);
    }
    networks
}
