//! Cells of tables that other programs open: a spreadsheet takes a cell that begins with certain characters as a formula and runs
//! it, whoever wrote it.

use std::borrow::Cow;

/// What a formula begins with; a tabulator or line break before it is passed over.
const BEGINS: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// What makes the rest of a cell text.
const MARK: char = '\'';

fn is_marked(cell: &str) -> bool {
    cell.strip_prefix(MARK).is_some_and(|rest| rest.starts_with(BEGINS) || is_marked(rest))
}

/// A text as a cell that no spreadsheet runs: one that begins as a formula does gets an apostrophe, which [`plain`] takes away
/// again.
pub(crate) fn guarded(text: &str) -> Cow<'_, str> {
    if text.starts_with(BEGINS) || is_marked(text) { format!("{MARK}{text}").into() } else { text.into() }
}

/// The text of a cell that [`guarded`] wrote, and of any other one.
pub(crate) fn plain(cell: &str) -> &str {
    if is_marked(cell) { &cell[MARK.len_utf8()..] } else { cell }
}

#[cfg(test)]
mod tests {
    use super::{guarded, plain};

    #[test]
    fn what_begins_as_a_formula_is_text_and_comes_back() {
        for text in ["", "feed", "=1+1", "@SUM(A1)", "-3 degrees", "+", "'quoted", "'=1", "''@x", "\t=2", "a=b"] {
            let cell = guarded(text);
            assert_eq!(plain(&cell), text, "{cell}");
            assert!(!cell.starts_with(['=', '+', '-', '@', '\t', '\r']), "{cell}");
        }
        // Cells that others wrote are taken as they stand, but for the mark.
        assert_eq!(["=1", "'x", "x"].map(plain), ["=1", "'x", "x"]);
    }
}
