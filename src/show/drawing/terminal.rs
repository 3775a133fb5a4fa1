//! A drawing in a terminal: the text of the drawing with box characters.

use crate::check::Checked;
use crate::lang::grid::paint;
use crate::lang::{DrawnStyle as Style, language_of};
use crate::model::{Body, Item, Network};

/// The bodies of all units, drawn with box characters; text stays as it is.
#[must_use]
pub fn terminal(checked: &Checked) -> String {
    let mut out = String::new();
    for item in &checked.project().items {
        let Item::Unit(unit) = item else { continue };
        out.push_str(&format!("{} {}  ({})\n\n", unit.kind.word(), unit.name.text, language_of(&unit.body).title()));
        match &unit.body {
            Body::Ladder(list) => networks(&mut out, list, Style::Ladder),
            Body::Blocks(list) => networks(&mut out, list, Style::Blocks),
            body @ (Body::Statements(_) | Body::Instructions(_)) => crate::lang::body_text(&mut out, body),
        }
        out.push('\n');
    }
    out
}

fn networks(out: &mut String, list: &[Network], style: Style) {
    for (number, network) in list.iter().enumerate() {
        let title: Vec<&str> = network.notes.leading.iter().map(|c| c.text.as_str()).collect();
        let label = network.label.as_ref().map_or(String::new(), |l| format!(" {}:", l.text));
        let heading = format!("{:>3}{label}  {}", number + 1, title.join(" / "));
        out.push_str(heading.trim_end());
        out.push('\n');
        if !network.elements.is_empty() {
            let lines: Vec<Vec<char>> = paint::lines(network, style).iter().map(|l| l.chars().collect()).collect();
            for row in 0..lines.len() {
                out.push_str("    ");
                out.extend((0..lines[row].len()).map(|column| boxed(&lines, row, column)));
                out.push('\n');
            }
        }
        out.push('\n');
    }
}

/// The box character for a plain one.
fn boxed(lines: &[Vec<char>], row: usize, column: usize) -> char {
    let at = |down: isize, right: isize| {
        let row = row.checked_add_signed(down)?;
        lines.get(row)?.get(column.checked_add_signed(right)?).copied()
    };
    let c = lines[row][column];
    let (left, right) = (at(0, -1), at(0, 1));
    match c {
        // A sign or a date is no wire.
        '-' if right.is_some_and(|r| r.is_ascii_digit()) || left == Some('#') => '-',
        '-' => '─',
        '|' => {
            let wired = |c: Option<char>| matches!(c, Some('-' | '+'));
            let symbol = |c: Option<char>| matches!(c, Some(' ' | '/' | 'P' | 'N' | '<' | '>' | '='));
            let closes = |step: isize| (1..6).any(|n| at(0, step * n) == Some('|') && wired(at(0, step * (n + 1))));
            match (wired(left), wired(right)) {
                (true, false) if symbol(right) && closes(1) => '┤',
                (false, true) if symbol(left) && closes(-1) => '├',
                _ => '│',
            }
        }
        '+' => {
            let across = |c: Option<char>| matches!(c, Some('-' | '+' | 'o'));
            let upright = |c: Option<char>| matches!(c, Some('|' | '+'));
            match (across(left), across(right), upright(at(-1, 0)), upright(at(1, 0))) {
                (true, true, true, true) => '┼',
                (true, true, false, true) => '┬',
                (true, true, true, false) => '┴',
                (false, true, true, true) => '├',
                (true, false, true, true) => '┤',
                (false, true, false, true) => '┌',
                (true, false, false, true) => '┐',
                (false, true, true, false) => '└',
                (true, false, true, false) => '┘',
                (true, true, false, false) => '─',
                _ => '│',
            }
        }
        'o' if matches!(right, Some('+')) || matches!(left, Some('+')) => '○',
        other => other,
    }
}
