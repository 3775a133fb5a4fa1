//! Ladder: rungs between two rails.

use super::cursor::Cursor;
use super::grid::{self, Style};
use crate::model::Body;

/// Reads the rungs of a unit and its end word.
pub(crate) fn body(cursor: &mut Cursor<'_>, end: &str) -> Body {
    Body::Ladder(grid::body(cursor, end, Style::Ladder))
}
