//! Where in a text the bodies of its units are, seen from its lines: for languages whose bodies are not read as tokens of
//! the standard.

use crate::model::sheet::Listing;
use crate::source::{FileId, Source, Span};

const UNIT_BEGINS: &[&str] = &["PROGRAM", "FUNCTION", "FUNCTION_BLOCK"];
pub(super) const UNIT_ENDS: &[&str] = &["END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK"];

#[derive(Clone, Copy, PartialEq, Eq)]
enum BodyState {
    Outside,
    Configuration,
    /// Behind the head of a unit, between its sections.
    Head,
    Section,
    Body,
}

/// What the lines of a text show.
#[derive(Debug)]
pub(super) struct Outline {
    /// The bodies of its units; the whole text if it is nothing but a body.
    pub(super) bodies: Vec<Span>,
    /// No line begins or ends a unit or declares anything: the text is a fragment.
    pub(super) is_fragment: bool,
}

/// Finds the bodies of a text; lines that a listing passes over say nothing.
pub(super) fn outline(file: FileId, source: &Source, listing: Option<&Listing>) -> Outline {
    let mut bodies = Vec::new();
    let mut state = BodyState::Outside;
    let (mut offset, mut begin, mut depth) = (0u32, 0u32, 0usize);
    let (mut is_fragment, mut anything) = (true, false);
    for line in source.text.split_inclusive('\n') {
        let start = offset;
        offset += line.len() as u32;
        let inside = depth > 0;
        depth = (depth + line.matches("(*").count()).saturating_sub(line.matches("*)").count());
        let line = line.trim_start_matches('\u{feff}').trim_start();
        let word: String = line.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
        let word = word.to_ascii_uppercase();
        let is_head = listing.is_some_and(|l| l.heads.iter().any(|h| line.starts_with(h.as_str())));
        if inside || is_head || line.is_empty() || line.starts_with("(*") || line.starts_with("//") {
            continue;
        }
        anything |= !line.starts_with('{');
        is_fragment &= !belongs_to_units(&word);
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
    let is_fragment = is_fragment && anything;
    if is_fragment {
        bodies = vec![Span { file, start: 0, end: offset }];
    }
    Outline { bodies, is_fragment }
}

/// True for words with which no statement, instruction or drawing begins.
fn belongs_to_units(word: &str) -> bool {
    let words =
        ["TYPE", "END_TYPE", "CONFIGURATION", "END_CONFIGURATION", "END_VAR", "CLASS", "INTERFACE", "NAMESPACE"];
    UNIT_BEGINS.contains(&word) || UNIT_ENDS.contains(&word) || words.contains(&word) || is_section(word)
}

fn is_section(word: &str) -> bool {
    matches!(
        word,
        "VAR" | "VAR_INPUT" | "VAR_OUTPUT" | "VAR_IN_OUT" | "VAR_TEMP" | "VAR_EXTERNAL" | "VAR_GLOBAL" | "VAR_CONFIG"
    )
}

/// A unit's head may have a section on its own line.
fn section_state(line: &str) -> BodyState {
    let opens = line.split_whitespace().any(|w| w.to_ascii_uppercase().starts_with("VAR"));
    if opens { BodyState::Section } else { BodyState::Head }
}

fn ends_section(line: &str) -> bool {
    line.split(|c: char| !(c.is_alphanumeric() || c == '_')).any(|w| w.eq_ignore_ascii_case("END_VAR"))
}
