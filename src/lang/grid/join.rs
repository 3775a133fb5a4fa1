//! Which cells of a drawing are one wire, and where a wire ends in the air.

use super::Style;
use super::canvas::Canvas;
use super::parts::{Cell, Parts, Shape};
use crate::source::{Diagnostic, codes};
use std::collections::HashMap;

/// Most blanks between a wire's end and the value or variable that stands at it.
const REACH: usize = 3;

/// A wire before it has a number.
pub(super) type Net = usize;

/// The left rail and the right rail of a strip.
pub(super) const LEFT: Net = 0;
pub(super) const RIGHT: Net = 1;

/// The wires of one strip.
pub(super) struct Wires {
    width: usize,
    parent: Vec<usize>,
    /// Words at the right end of a wire, and at the left end.
    pub(super) behind: HashMap<usize, Net>,
    pub(super) before: HashMap<usize, Net>,
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Axis {
    Across,
    Down,
}

impl Wires {
    fn id(&self, row: usize, column: usize, axis: Axis) -> usize {
        2 + (row * self.width + column) * 2 + usize::from(axis == Axis::Down)
    }

    pub(super) fn root(&self, mut at: usize) -> Net {
        while self.parent[at] != at {
            at = self.parent[at];
        }
        at
    }

    pub(super) fn join(&mut self, a: usize, b: usize) {
        let (a, b) = (self.root(a), self.root(b));
        // The rails stay their own roots.
        self.parent[a.max(b)] = a.min(b);
    }

    /// The wire through a cell from left to right.
    pub(super) fn across(&self, row: usize, column: usize) -> Net {
        self.root(self.id(row, column, Axis::Across))
    }

    pub(super) fn size(&self) -> usize {
        self.parent.len()
    }
}

struct Joiner<'c> {
    canvas: &'c Canvas,
    parts: &'c mut Parts,
    wires: Wires,
    left: Option<usize>,
    right: Option<usize>,
    problems: &'c mut Vec<Diagnostic>,
}

/// Joins the wires of a strip and reports every loose end.
pub(super) fn wires(canvas: &Canvas, style: Style, parts: &mut Parts, problems: &mut Vec<Diagnostic>) -> Wires {
    let width = canvas.rows.iter().map(|r| r.chars.len()).max().unwrap_or(0) + 1;
    let count = 2 + canvas.rows.len() * width * 2;
    let wires = Wires { width, parent: (0..count).collect(), behind: HashMap::new(), before: HashMap::new() };
    let (left, right) = if style == Style::Ladder { rails(canvas, parts, problems) } else { (None, None) };
    let mut joiner = Joiner { canvas, parts, wires, left, right, problems };
    for row in 0..canvas.rows.len() {
        for column in 0..canvas.rows[row].chars.len() {
            if joiner.is_wire(row, column) {
                joiner.cell(row, column);
            }
        }
    }
    joiner.wires
}

/// The columns of the rails.
fn rails(canvas: &Canvas, parts: &Parts, problems: &mut Vec<Diagnostic>) -> (Option<usize>, Option<usize>) {
    let first = |row: usize| canvas.rows[row].chars.iter().position(|c| *c != ' ');
    let left = (0..canvas.rows.len()).filter_map(first).min();
    let Some(left) = left else { return (None, None) };
    for row in 0..canvas.rows.len() {
        if first(row).is_some() && !matches!(canvas.at(row, left), '|' | '+') {
            let message = "each line of a rung begins at the left rail, with `|` or `+`";
            let at = first(row).unwrap_or(left);
            problems.push(Diagnostic::error(codes::DRAWING, canvas.span(row, at, at + 1), message));
        }
    }
    let last = canvas.rows.iter().map(|r| r.chars.len()).max().unwrap_or(0).saturating_sub(1);
    let there: Vec<usize> = (0..canvas.rows.len()).filter(|r| canvas.at(*r, last) != ' ').collect();
    let is_rail = there.iter().all(|r| matches!(canvas.at(*r, last), '|' | '+') && parts.cell(*r, last) == Cell::Free);
    let right = (is_rail && last > left && there.len() * 2 > canvas.rows.len()).then_some(last);
    (Some(left), right)
}

impl Joiner<'_> {
    fn is_wire(&self, row: usize, column: usize) -> bool {
        self.parts.cell(row, column) == Cell::Free && matches!(self.canvas.at(row, column), '-' | '|' | '+')
    }

    fn wire(&self, row: usize, column: usize, down: isize, right: isize) -> char {
        match (row.checked_add_signed(down), column.checked_add_signed(right)) {
            (Some(r), Some(c)) if self.is_wire(r, c) => self.canvas.at(r, c),
            _ => ' ',
        }
    }

    fn is_rail(&self, column: usize) -> bool {
        Some(column) == self.left || Some(column) == self.right
    }

    /// `|` between two horizontal wires, or `-` between two vertical ones: they do not touch.
    fn crosses(&self, row: usize, column: usize) -> bool {
        match self.canvas.at(row, column) {
            '|' => {
                !self.is_rail(column)
                    && matches!(self.wire(row, column, 0, -1), '-' | '+')
                    && matches!(self.wire(row, column, 0, 1), '-' | '+')
            }
            '-' => self.wire(row, column, -1, 0) == '|' && self.wire(row, column, 1, 0) == '|',
            _ => false,
        }
    }

    fn cell(&mut self, row: usize, column: usize) {
        use Axis::{Across, Down};
        let c = self.canvas.at(row, column);
        let id = |wires: &Wires, axis| wires.id(row, column, axis);
        let (across, down) = (id(&self.wires, Across), id(&self.wires, Down));
        if self.is_rail(column) {
            let rail = if Some(column) == self.left { LEFT } else { RIGHT };
            self.wires.join(rail, across);
            self.wires.join(rail, down);
            return;
        }
        let crosses = self.crosses(row, column);
        if !crosses {
            self.wires.join(across, down);
        }
        let mut ends = 0;
        if c != '|' || crosses {
            ends += u32::from(self.sideways(row, column, 1)) + u32::from(self.sideways(row, column, -1));
        }
        if c != '-' || crosses {
            ends += u32::from(self.upright(row, column, 1)) + u32::from(self.upright(row, column, -1));
        }
        if c == '+' && ends < 2 {
            self.loose(row, column);
        }
    }

    fn loose(&mut self, row: usize, column: usize) {
        let span = self.canvas.span(row, column, column + 1);
        self.problems.push(Diagnostic::error(codes::DRAWING, span, "this wire ends in the air"));
    }

    fn meets(&mut self, row: usize, column: usize) {
        let span = self.canvas.span(row, column, column + 1);
        self.problems.push(
            Diagnostic::error(codes::DRAWING, span, "this wire runs into another without joining it")
                .help("write `+` where wires join; where they cross, let `|` stand between two `-`"),
        );
    }

    /// Joins a cell to its neighbour on the left or right; false if nothing is there for it.
    fn sideways(&mut self, row: usize, column: usize, step: isize) -> bool {
        let c = self.canvas.at(row, column);
        let Some(other) = column.checked_add_signed(step) else {
            if c == '-' {
                self.loose(row, column);
            }
            return false;
        };
        match self.parts.cell(row, other) {
            Cell::Part(part) => return self.at_part(row, column, part),
            Cell::Circle => return true,
            Cell::Text(text) => return self.at_text(row, column, step, text),
            Cell::Free => {}
        }
        let there = self.canvas.at(row, other);
        let joins = matches!(there, '-' | '+') || self.is_rail(other) || (there == '|' && self.crosses(row, other));
        if joins && self.is_wire(row, other) {
            let (a, b) = (self.wires.id(row, column, Axis::Across), self.wires.id(row, other, Axis::Across));
            self.wires.join(a, b);
            return true;
        }
        if c == '+' {
            return false;
        }
        if there == '|' {
            self.meets(row, column);
            return false;
        }
        for blanks in 1..=REACH as isize {
            let Some(far) = column.checked_add_signed(step * (blanks + 1)) else { break };
            if let Cell::Text(text) = self.parts.cell(row, far) {
                return self.at_text(row, column, step, text);
            }
            if self.canvas.at(row, far) != ' ' {
                break;
            }
        }
        self.loose(row, column);
        false
    }

    fn at_part(&mut self, row: usize, column: usize, part: usize) -> bool {
        let part = &self.parts.parts[part];
        let edge = row == part.area.top || row == part.area.bottom;
        if matches!(part.shape, Shape::Box(_)) && edge {
            let span = self.canvas.span(row, column, column + 1);
            self.problems.push(
                Diagnostic::error(codes::DRAWING, span, "this wire runs against the edge of a box, where no pin is")
                    .help("pins are on the lines between the upper and the lower edge"),
            );
        }
        true
    }

    fn at_text(&mut self, row: usize, column: usize, step: isize, text: usize) -> bool {
        if self.canvas.at(row, column) == '+' {
            return false;
        }
        self.parts.texts[text].taken = true;
        let net = self.wires.id(row, column, Axis::Across);
        if step > 0 {
            self.wires.behind.insert(text, net)
        } else {
            self.wires.before.insert(text, net)
        };
        true
    }

    /// Joins a cell to the one above or below.
    fn upright(&mut self, row: usize, column: usize, step: isize) -> bool {
        let c = self.canvas.at(row, column);
        let there = self.wire(row, column, step, 0);
        let other = row.checked_add_signed(step);
        let crossing = there == '-' && other.is_some_and(|r| self.crosses(r, column));
        if let Some(other) = other.filter(|_| matches!(there, '|' | '+') || crossing) {
            let (a, b) = (self.wires.id(row, column, Axis::Down), self.wires.id(other, column, Axis::Down));
            self.wires.join(a, b);
            return true;
        }
        if c == '|' {
            if there == '-' { self.meets(row, column) } else { self.loose(row, column) }
        }
        false
    }
}
