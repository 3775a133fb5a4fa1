//! What changed, marked in drawings: elements and lines on a ground with a heavy edge and a sign.

use super::picture::{CHAR, Ink, LINE, Picture};
use super::{Part, network_picture, parts, pieces, units};
use crate::changes::{Changes, LineState};
use crate::check::Checked;
use crate::lang::{il, st};
use crate::model::{Instr, Notes, Stmt};
use crate::source::Span;
use std::collections::HashMap;

/// How parts of one side stand to the other side, by their places.
#[derive(Clone, Debug, Default)]
pub(in crate::show) struct Marks(HashMap<Span, LineState>);

impl Marks {
    /// The marks of the left or the right side.
    pub(in crate::show) fn of(changes: &Changes, side: usize) -> Marks {
        Marks(changes.marks(side))
    }

    pub(super) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub(super) fn at(&self, span: Span) -> Option<LineState> {
        self.0.get(&span).copied()
    }

    /// A statement or what is in it.
    fn of_statement(&self, stmt: &Stmt) -> Option<LineState> {
        let mut found = self.at(stmt.span);
        crate::model::each_statement(std::slice::from_ref(stmt), &mut |inner| {
            found = found.or(self.at(inner.span).map(|_| LineState::Changed));
        });
        found
    }
}

/// Lines of text, those that changed on their ground.
pub(super) fn written(part: &Part<'_>, characters: usize, marks: &Marks) -> Picture {
    let mut rows: Vec<(String, Option<LineState>)> = Vec::new();
    let mut put = |text: String, state| rows.extend(text.lines().map(|line| (line.to_string(), state)));
    match part {
        Part::Drawn(..) => {}
        Part::Statements(list) => {
            for (number, stmt) in list.iter().enumerate() {
                let mut text = String::new();
                st::statements(&mut text, &[Stmt { notes: untitled(&stmt.notes, number), ..stmt.clone() }], 0);
                put(text, marks.of_statement(stmt));
            }
        }
        Part::Instructions(list) => {
            for (number, instr) in list.iter().enumerate() {
                let mut text = String::new();
                il::instructions(&mut text, &[Instr { notes: untitled(&instr.notes, number), ..instr.clone() }], 0);
                put(text, marks.at(instr.span));
            }
        }
    }
    let mut picture = Picture::new();
    let mut y = LINE / 2.0;
    for (line, state) in rows {
        for piece in pieces(&line, characters.saturating_sub(3).max(20)) {
            if let Some(state) = state {
                let width = piece.chars().count() as f64 * CHAR + 10.0;
                picture.changed((3.0, y - LINE / 2.0 + 1.0), (width, LINE - 2.0), state);
            }
            picture.text(8.0, y, &piece, Ink::Plain);
            y += LINE;
        }
    }
    picture
}

/// The first line of a part has its title above it.
fn untitled(notes: &Notes, number: usize) -> Notes {
    let mut out = notes.clone();
    out.blank_before = false;
    if number == 0 {
        out.leading.clear();
    }
    out
}

/// One network of a unit as a picture of its own, numbered from 1.
pub(in crate::show) fn drawn(
    checked: &Checked,
    unit: &str,
    network: usize,
    width: u32,
    marks: &Marks,
) -> Option<String> {
    let unit = units(checked).find(|own| own.name.is(unit))?;
    let parts = parts(unit);
    let number = network.checked_sub(1)?;
    let part = parts.get(number)?;
    let characters = ((f64::from(width) - 24.0) / CHAR) as usize;
    let mut page = Picture::new();
    let drawn = network_picture(part, number, &[], characters, None, marks);
    page.place(drawn, 10.0, 8.0, 1.0);
    Some(page.document(f64::from(width) - 12.0))
}
