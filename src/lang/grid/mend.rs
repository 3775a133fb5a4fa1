//! A drawing in which one line is shifted by a character. Where the network can be read with one line moved back, and means the
//! same however that is done, this is what it means; where it could mean several things, the line is named.

use super::canvas::{Canvas, Piece, TextRow};
use crate::model::Network;
use crate::source::Span;

/// Larger networks are not mended: whoever draws so much sees more than a line.
const MOST_ROWS: usize = 80;
/// So many ways to move a line are tried in one body, whatever is wrong with it.
pub(super) const MOST_TRIED: usize = 15_000;

/// What comes of moving one line of a network that cannot be read.
pub(super) enum Mended {
    /// It means this; the line that was moved.
    One(Vec<Network>, Span),
    /// It could mean several things; the line on which they hang.
    Several(Span),
    /// Nothing.
    Nothing,
}

/// Moves each line by a character, one at a time. `read` gives what a piece means if it has no problems.
/// `left` counts down how many more are tried.
pub(super) fn mend(piece: &Piece, left: &mut usize, mut read: impl FnMut(&Piece) -> Option<Vec<Network>>) -> Mended {
    let rows: usize = piece.strips.iter().map(|canvas| canvas.rows.len()).sum();
    if rows > MOST_ROWS {
        return Mended::Nothing;
    }
    let mut found: Vec<(Vec<Network>, Span)> = Vec::new();
    let mut other = piece.clone();
    for (strip, canvas) in piece.strips.iter().enumerate() {
        for row in 0..canvas.rows.len() {
            for moved in canvas.rows[row].moved() {
                match left.checked_sub(1) {
                    Some(less) => *left = less,
                    None => return Mended::Nothing,
                }
                other.strips[strip].rows[row] = moved;
                if let Some(networks) = read(&other).filter(|n| n.iter().any(|n| !n.elements.is_empty())) {
                    found.push((networks, line(canvas, row)));
                }
            }
            other.strips[strip].rows[row] = canvas.rows[row].clone();
        }
    }
    let Some((first, span)) = found.first().cloned() else { return Mended::Nothing };
    if found.iter().all(|(networks, _)| *networks == first) {
        return Mended::One(first, span);
    }
    // The line that most of them move.
    let times = |span: &Span| found.iter().filter(|(_, other)| other == span).count();
    let most = found.iter().map(|(_, span)| *span).max_by_key(times);
    Mended::Several(most.unwrap_or(span))
}

/// A line from its first character that is no blank to its last.
fn line(canvas: &Canvas, row: usize) -> Span {
    let chars = &canvas.rows[row].chars;
    let first = chars.iter().position(|c| *c != ' ').unwrap_or(0);
    canvas.span(row, first, chars.len())
}

impl TextRow {
    /// The line with a character of wire, or a blank, more or less at one of its places.
    fn moved(&self) -> Vec<TextRow> {
        let mut out = Vec::new();
        let mut at = 0;
        while at < self.chars.len() {
            let c = self.chars[at];
            let length = self.chars[at..].iter().take_while(|other| **other == c).count();
            if matches!(c, '-' | ' ') {
                let mut longer = self.clone();
                longer.chars.insert(at, c);
                longer.offsets.insert(at, self.offsets[at]);
                out.push(longer);
                if length > 1 {
                    let mut shorter = self.clone();
                    shorter.chars.remove(at);
                    shorter.offsets.remove(at);
                    out.push(shorter);
                }
            }
            at += length;
        }
        out
    }
}
