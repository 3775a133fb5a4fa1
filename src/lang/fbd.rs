//! Function block diagram: boxes and wires.

use super::cursor::Cursor;
use super::grid::{self, Style};
use crate::model::Body;

/// Reads the networks of a unit and its end word.
pub(crate) fn body(cursor: &mut Cursor<'_>, end: &str) -> Body {
    Body::Blocks(grid::body(cursor, end, Style::Blocks))
}
