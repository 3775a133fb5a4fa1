//! What is to be seen in a drawing: boxes, contacts, coils, words; what is left over are wires.

use super::Style;
use super::canvas::{Canvas, is_name};
use crate::model::ops::BinaryOp;
use crate::model::{CoilForm, ContactForm};
use crate::source::{Diagnostic, codes};

/// A rectangle on the canvas; `right` and `bottom` belong to it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Area {
    pub(super) left: usize,
    pub(super) right: usize,
    pub(super) top: usize,
    pub(super) bottom: usize,
}

/// A word: a name, a value, a variable.
#[derive(Clone, Debug)]
pub(super) struct Text {
    pub(super) area: Area,
    /// Something stands at it already.
    pub(super) taken: bool,
}

#[derive(Clone, Debug)]
pub(super) enum Shape {
    Contact(ContactForm),
    Compare(BinaryOp),
    Coil(CoilForm),
    /// A coil with the word of a dialect in it.
    WordCoil(String),
    Box(Vec<BoxRow>),
    Jump,
    Return,
    /// `>1>`
    Connector,
}

/// One row inside a box.
#[derive(Clone, Debug, Default)]
pub(super) struct BoxRow {
    pub(super) row: usize,
    /// First and one past the last column of the words in it.
    pub(super) input: Option<(usize, usize)>,
    pub(super) middle: Option<(usize, usize)>,
    pub(super) output: Option<(usize, usize)>,
}

#[derive(Clone, Debug)]
pub(super) struct Part {
    pub(super) shape: Shape,
    pub(super) area: Area,
}

/// What a cell belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Cell {
    /// A blank or a wire.
    Free,
    Text(usize),
    Part(usize),
    /// `o` at a box: negated.
    Circle,
}

pub(super) struct Parts {
    pub(super) cells: Vec<Vec<Cell>>,
    pub(super) texts: Vec<Text>,
    pub(super) parts: Vec<Part>,
}

impl Parts {
    pub(super) fn cell(&self, row: usize, column: usize) -> Cell {
        self.cells.get(row).and_then(|r| r.get(column)).copied().unwrap_or(Cell::Free)
    }

    fn mark(&mut self, area: Area, cell: Cell) {
        for row in area.top..=area.bottom {
            for column in area.left..=area.right {
                if let Some(there) = self.cells.get_mut(row).and_then(|r| r.get_mut(column)) {
                    *there = cell;
                }
            }
        }
    }

    fn add(&mut self, shape: Shape, area: Area) {
        self.mark(area, Cell::Part(self.parts.len()));
        self.parts.push(Part { shape, area });
    }
}

/// Finds all parts.
pub(super) fn find(canvas: &Canvas, style: Style, problems: &mut Vec<Diagnostic>) -> Parts {
    let cells = canvas.rows.iter().map(|r| vec![Cell::Free; r.chars.len()]).collect();
    let mut parts = Parts { cells, texts: Vec::new(), parts: Vec::new() };
    for row in 0..canvas.rows.len() {
        for column in 0..canvas.rows[row].chars.len() {
            if canvas.at(row, column) == '+'
                && parts.cell(row, column) == Cell::Free
                && let Some((area, rows)) = rectangle(canvas, row, column)
            {
                parts.add(Shape::Box(rows), area);
            }
        }
    }
    for row in 0..canvas.rows.len() {
        symbols(canvas, style, row, &mut parts, problems);
    }
    parts
}

/// The box whose upper left corner is here, if there is one.
fn rectangle(canvas: &Canvas, top: usize, left: usize) -> Option<(Area, Vec<BoxRow>)> {
    let mut right = left + 1;
    while canvas.at(top, right) == '-' {
        right += 1;
    }
    if canvas.at(top, right) != '+' || right < left + 2 {
        return None;
    }
    let mut rows = Vec::new();
    for row in top + 1.. {
        let side = |column| matches!(canvas.at(row, column), '|' | '+');
        if !side(left) || !side(right) {
            return None;
        }
        if (left + 1..right).all(|c| canvas.at(row, c) == '-') {
            let named = rows.iter().any(|r: &BoxRow| r.middle.is_some() || r.input.is_some() || r.output.is_some());
            return named.then_some((Area { left, right, top, bottom: row }, rows));
        }
        rows.push(inside(canvas, row, left, right)?);
    }
    None
}

/// The words of one row of a box; `None` if something else stands there, for then it is no box.
fn inside(canvas: &Canvas, row: usize, left: usize, right: usize) -> Option<BoxRow> {
    let mut out = BoxRow { row, ..BoxRow::default() };
    let mut at = left + 1;
    while at < right {
        let c = canvas.at(row, at);
        if c == ' ' {
            at += 1;
            continue;
        }
        let from = at;
        while at < right && (canvas.at(row, at).is_alphanumeric() || matches!(canvas.at(row, at), '_' | '&')) {
            at += 1;
        }
        if at == from {
            return None;
        }
        let place = match (from == left + 1, at == right) {
            (true, _) => &mut out.input,
            (false, true) => &mut out.output,
            (false, false) => &mut out.middle,
        };
        *place = Some((from, at));
    }
    Some(out)
}

/// Contacts, coils, jumps, circles and words of one row, from the left.
fn symbols(canvas: &Canvas, style: Style, row: usize, parts: &mut Parts, problems: &mut Vec<Diagnostic>) {
    let mut at = 0;
    while at < canvas.rows[row].chars.len() {
        if parts.cell(row, at) != Cell::Free {
            at += 1;
            continue;
        }
        let found = symbol(canvas, style, row, at);
        if let Some((shape, end)) = found {
            parts.add(shape, Area { left: at, right: end - 1, top: row, bottom: row });
            at = end;
            continue;
        }
        match canvas.at(row, at) {
            'o' | 'O' if touches_box(parts, canvas, row, at) => {
                parts.mark(Area { left: at, right: at, top: row, bottom: row }, Cell::Circle);
                at += 1;
            }
            _ if word_begins(canvas, row, at) => {
                let end = word_end(canvas, row, at);
                let area = Area { left: at, right: end - 1, top: row, bottom: row };
                parts.mark(area, Cell::Text(parts.texts.len()));
                parts.texts.push(Text { area, taken: false });
                at = end;
            }
            ' ' | '-' | '|' | '+' => at += 1,
            c => {
                let message = format!("`{c}` means nothing in a drawing");
                problems.push(Diagnostic::error(codes::CHARACTER, canvas.span(row, at, at + 1), message));
                at += 1;
            }
        }
    }
}

fn is_wire(c: char) -> bool {
    matches!(c, '-' | '+')
}

/// A contact, coil, jump, return or connector that begins here, and where it ends.
fn symbol(canvas: &Canvas, style: Style, row: usize, at: usize) -> Option<(Shape, usize)> {
    let before = canvas.near(row, at, 0, -1);
    let between = |open: usize, close: char| {
        let end = (open + 1..open + 14).find(|c| canvas.at(row, *c) == close)?;
        Some((canvas.text(row, open + 1, end), end + 1))
    };
    match canvas.at(row, at) {
        '|' if style == Style::Ladder && is_wire(before) => {
            let (inner, end) = between(at, '|').filter(|(inner, _)| !inner.is_empty())?;
            if !is_wire(canvas.at(row, end)) {
                return None;
            }
            let shape = match inner.trim() {
                "" => Shape::Contact(ContactForm::Open),
                "/" => Shape::Contact(ContactForm::Closed),
                "P" | "p" => Shape::Contact(ContactForm::Rising),
                "N" | "n" => Shape::Contact(ContactForm::Falling),
                other => Shape::Compare(comparison(other)?),
            };
            Some((shape, end))
        }
        '(' if style == Style::Ladder => {
            let (inner, end) = between(at, ')')?;
            let word = inner.trim();
            let is_word = word.chars().count() > 1 && word.chars().all(char::is_alphanumeric);
            if is_word || word == "#" {
                return Some((Shape::WordCoil(word.to_string()), end));
            }
            let form = match word {
                "" => CoilForm::Plain,
                "/" => CoilForm::Negated,
                "S" | "s" => CoilForm::Set,
                "R" | "r" => CoilForm::Reset,
                "P" | "p" => CoilForm::Rising,
                "N" | "n" => CoilForm::Falling,
                _ => return None,
            };
            Some((Shape::Coil(form), end))
        }
        '>' if canvas.at(row, at + 1) == '>' => {
            let mut end = at + 2;
            while canvas.at(row, end).is_alphanumeric() || canvas.at(row, end) == '_' {
                end += 1;
            }
            is_name(&canvas.text(row, at + 2, end)).then_some((Shape::Jump, end))
        }
        '>' => {
            let (inner, end) = between(at, '>')?;
            let word = !inner.is_empty() && inner.chars().all(|c| c.is_alphanumeric() || c == '_');
            word.then_some((Shape::Connector, end))
        }
        '<' => {
            let (inner, end) = between(at, '>')?;
            inner.trim().eq_ignore_ascii_case("RETURN").then_some((Shape::Return, end))
        }
        _ => None,
    }
}

pub(super) fn comparison(symbol: &str) -> Option<BinaryOp> {
    [BinaryOp::Eq, BinaryOp::Ne, BinaryOp::Lt, BinaryOp::Le, BinaryOp::Gt, BinaryOp::Ge]
        .into_iter()
        .find(|op| op.symbol() == symbol)
}

fn touches_box(parts: &Parts, canvas: &Canvas, row: usize, at: usize) -> bool {
    let is_box = |cell| matches!(cell, Cell::Part(p) if matches!(parts.parts[p].shape, Shape::Box(_)));
    let right = is_box(parts.cell(row, at + 1)) && matches!(canvas.near(row, at, 0, -1), '-' | '+');
    let left = at > 0 && is_box(parts.cell(row, at - 1)) && matches!(canvas.at(row, at + 1), '-' | '+');
    left || right
}

fn word_begins(canvas: &Canvas, row: usize, at: usize) -> bool {
    let c = canvas.at(row, at);
    let sign = matches!(c, '-' | '+') && canvas.at(row, at + 1).is_ascii_digit() && canvas.near(row, at, 0, -1) == ' ';
    let constant = matches!(c, '#' | '=' | '$' | '!') && canvas.at(row, at + 1).is_ascii_digit();
    c.is_alphanumeric() || matches!(c, '_' | '%' | '\'') || sign || constant
}

/// Where a word ends: brackets and strings belong to it whatever stands in them.
fn word_end(canvas: &Canvas, row: usize, from: usize) -> usize {
    let chars = &canvas.rows[row].chars;
    let number = canvas.at(row, from).is_ascii_digit() || matches!(canvas.at(row, from), '-' | '+');
    let (mut at, mut depth, mut quoted, mut typed) = (from, 0u32, false, false);
    while at < chars.len() {
        let c = chars[at];
        let next_digit = canvas.at(row, at + 1).is_ascii_digit();
        let before = if at > from { chars[at - 1] } else { ' ' };
        typed |= c == '#';
        let belongs = match c {
            _ if quoted => {
                quoted = c != '\'' || before == '$';
                true
            }
            '\'' => {
                quoted = true;
                true
            }
            '[' => {
                depth += 1;
                true
            }
            ']' => {
                depth = depth.saturating_sub(1);
                true
            }
            _ if depth > 0 => true,
            '-' | '+' => {
                at == from || (next_digit && (before == '#' || (number && !typed && matches!(before, 'e' | 'E'))))
            }
            c => at == from || c.is_alphanumeric() || matches!(c, '_' | '.' | '#' | '%'),
        };
        if !belongs {
            break;
        }
        at += 1;
    }
    at
}
