//! Where the drawings of a file are: its declarations are read as in every language, its bodies are not.

use super::{Style, read};
use crate::lang::bodies::UNIT_ENDS;
use crate::lang::cursor::Cursor;
use crate::model::Network;
use crate::source::{Diagnostic, Source, Span, codes};

/// A file whose bodies are drawings.
#[derive(Debug)]
pub(crate) struct Drawn<'s> {
    source: &'s Source,
    bodies: Vec<Span>,
}

/// The text with blanks in place of its bodies, and those for whoever reads them.
pub(crate) fn declarations<'s>(source: &'s Source, bodies: &[Span]) -> (Source, Drawn<'s>) {
    let mut text = String::with_capacity(source.text.len());
    let mut at = 0;
    for body in bodies {
        text.push_str(&source.text[at..body.start as usize]);
        for c in source.slice(*body).chars() {
            let blank = if c == '\n' { '\n' } else { ' ' };
            text.extend(std::iter::repeat_n(blank, c.len_utf8()));
        }
        at = body.end as usize;
    }
    text.push_str(&source.text[at..]);
    (Source::new(source.name.clone(), text), Drawn { source, bodies: bodies.to_vec() })
}

/// Reads the drawings between the cursor's last token and this one, and takes the end word.
pub(crate) fn networks(cursor: &mut Cursor<'_>, end: &str, style: Style) -> Vec<Network> {
    while !cursor.is_end() && !cursor.at_word(end) && !cursor.at_any(UNIT_ENDS) {
        let message = format!("{} stands where a drawing or `{end}` is expected", cursor.found());
        let span = cursor.bump().span;
        cursor.problem(Diagnostic::error(codes::EXPECTED, span, message));
    }
    let here = cursor.span();
    // What stands at the beginning of a text has nothing before it: then the text is a fragment.
    let before = if cursor.at == 0 { 0 } else { cursor.last_span().end };
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
    if !(cursor.eat_word(end) || (end.is_empty() && cursor.is_end())) {
        let message = format!("expected `{end}`, found {}", cursor.found());
        cursor.problem(Diagnostic::error(codes::EXPECTED, here, message));
        cursor.eat(crate::lang::token::Tok::Word);
    }
    networks
}
