//! Changes in a terminal.

use super::words;
use crate::changes::{Change, Changes, Group, LineState, Row, UnitChange, UnitState};
use crate::check::Checked;
use crate::lang::Language;
use crate::show::said::count;
use crate::show::{Which, rows};

/// Changes of one kind and group that are told in full; of more the number.
const MOST_TOLD: usize = 60;

/// Lines of a scenario that are shown.
const MOST_LINES: usize = 40;

/// What changed, its first line the verdict.
#[must_use]
pub fn text(changes: &Changes) -> String {
    let mut out = format!("{}\n", words::headline(changes));
    words::limits(changes).iter().for_each(|line| out.push_str(&format!("  LIMITED: {line}\n")));
    for group in &changes.stood.groups {
        out.push_str(&format!("  {:<8}{}\n", group.group.word(), words::group(group)));
    }
    units(&mut out, changes);
    let beside = changes.changes.iter().filter(|change| change.unit.is_none());
    let beside: Vec<&Change> = beside.collect();
    if !beside.is_empty() {
        out.push_str("\nOutside programs, functions and blocks\n");
        list(&mut out, &beside);
    }
    reached(&mut out, changes);
    if let Some(shown) = &changes.stood.shown
        && !shown.scenario.is_empty()
    {
        out.push_str("\nThe shortest scenario that tells both sides apart:\n");
        scenario(&mut out, &shown.scenario);
    }
    out
}

fn scenario(out: &mut String, lines: &[String]) {
    lines.iter().take(MOST_LINES).for_each(|line| out.push_str(&format!("    {line}\n")));
    if lines.len() > MOST_LINES {
        out.push_str(&format!("    ... and {} more lines\n", lines.len() - MOST_LINES));
    }
}

fn units(out: &mut String, changes: &Changes) {
    for unit in changes.units.iter().filter(|unit| unit.state != UnitState::Same) {
        out.push_str(&format!("\n{}: {}\n", words::unit(unit), words::state(unit.state)));
        if let Some(verdict) = &unit.verdict {
            out.push_str(&format!("  {}\n", words::verdict(verdict)));
            if changes.stood.shown.as_ref().is_none_or(|shown| shown.scenario != verdict.scenario) {
                scenario(out, &verdict.scenario);
            }
        }
        let own: Vec<&Change> = unit.changes.iter().filter_map(|number| changes.change(*number)).collect();
        list(out, &own);
        for entry in &unit.ledger {
            let network = entry.network.map_or(String::new(), |network| format!(" in network {network}"));
            out.push_str(&format!("  {} {}{network}: {}\n", entry.code, entry.grade, entry.reason));
        }
    }
    let same: Vec<String> =
        changes.units.iter().filter(|unit| unit.state == UnitState::Same).map(|unit| unit.name().to_string()).collect();
    if !same.is_empty() && !changes.changes.is_empty() {
        out.push_str(&format!("\nThe same: {}\n", words::named(&same)));
    }
}

fn list(out: &mut String, changes: &[&Change]) {
    for change in changes.iter().take(MOST_TOLD) {
        one(out, change);
    }
    if changes.len() > MOST_TOLD {
        out.push_str(&format!(
            "  and {}, in the page and the JSON\n",
            count((changes.len() - MOST_TOLD) as u64, "more change")
        ));
    }
}

fn one(out: &mut String, change: &Change) {
    out.push_str(&format!("  {:>3}  {}", change.number, words::title(change)));
    let places: Vec<&str> = change.sides.iter().flatten().map(|spot| spot.place.as_str()).collect();
    if !places.is_empty() {
        out.push_str(&format!("   {}", places.join(" | ")));
    }
    out.push('\n');
    // What is all of a declaration is told by what became of what.
    let in_full = change.group == Group::Logic || change.note.is_empty();
    for (sign, spot) in [('-', &change.sides[0]), ('+', &change.sides[1])] {
        if let Some(spot) = spot.as_ref().filter(|_| in_full) {
            out.push_str(&format!("       {sign} {}\n", spot.text));
        }
    }
    let said: Vec<String> =
        [change.note.clone(), words::reach(&change.reach)].into_iter().filter(|text| !text.is_empty()).collect();
    if !said.is_empty() {
        out.push_str(&format!("       {}\n", said.join("; ")));
    }
}

fn reached(out: &mut String, changes: &Changes) {
    let outputs = &changes.outputs;
    if outputs.touched.is_empty() && outputs.untouched.is_empty() && outputs.why.is_none() {
        return;
    }
    out.push('\n');
    if let Some(why) = &outputs.why {
        out.push_str(&format!("No output is untouched: {why}\n"));
    } else if !outputs.touched.is_empty() {
        out.push_str("Outputs that a change may reach:\n");
        for (name, numbers) in outputs.touched.iter().take(MOST_TOLD) {
            let numbers: Vec<String> = numbers.iter().map(ToString::to_string).collect();
            let by = if numbers.is_empty() { String::new() } else { format!(" (by {})", numbers.join(", ")) };
            out.push_str(&format!("  {name}{by}\n"));
        }
        if outputs.touched.len() > MOST_TOLD {
            out.push_str(&format!("  and {}\n", count((outputs.touched.len() - MOST_TOLD) as u64, "more output")));
        }
    }
    if !outputs.untouched.is_empty() {
        out.push_str(&format!("Untouched by all that changed: {}\n", words::named(&outputs.untouched)));
    }
    for (side, names) in ["left", "right"].iter().zip(&outputs.alone).filter(|(_, names)| !names.is_empty()) {
        out.push_str(&format!("Outputs of the {side} only: {}\n", words::named(names)));
    }
}

/// Lines around a change that are shown with it.
const AROUND: usize = 3;

/// Both bodies of each changed unit line by line, with signs in front: `-` left only, `+` right only, `~` changed, `>` moved.
/// What is the same is shown where it stands near a change. Of drawings the networks that changed are drawn.
#[must_use]
pub fn difference(changes: &Changes, left: &Checked, right: &Checked) -> String {
    let mut out = String::new();
    for unit in &changes.units {
        let near = near(&unit.rows);
        if near.iter().all(|near| !near) {
            continue;
        }
        out.push_str(&format!("{}\n", words::unit(unit)));
        if unit.languages[0].is_some_and(Language::is_drawn) && unit.languages[0] == unit.languages[1] {
            let changed = unit.rows.iter().filter(|row| row.state != LineState::Same);
            changed.for_each(|row| drawn(&mut out, unit, row, [left, right]));
            continue;
        }
        let mut last = true;
        for (row, near) in unit.rows.iter().zip(near) {
            if near {
                line(&mut out, row);
            } else if last {
                out.push_str("      ...\n");
            }
            last = near;
        }
        out.push('\n');
    }
    out
}

/// Of each row whether it is changed or stands near one that is.
pub(super) fn near(rows: &[Row]) -> Vec<bool> {
    let mut out = vec![false; rows.len()];
    for at in (0..rows.len()).filter(|at| rows[*at].state != LineState::Same) {
        let end = (at + AROUND + 1).min(rows.len());
        out[at.saturating_sub(AROUND)..end].fill(true);
    }
    out
}

/// Characters of a line of a drawing.
const WIDTH: usize = 92;

/// A network that changed, as both sides draw it.
fn drawn(out: &mut String, unit: &UnitChange, row: &Row, sides: [&Checked; 2]) {
    for (side, checked) in sides.into_iter().enumerate() {
        let (Some(cell), Some(name)) = (&row.cells[side], &unit.names[side]) else { continue };
        let sign = match (row.state, side) {
            (LineState::Moved, 0) => continue,
            (LineState::Moved, _) => '>',
            (LineState::Same | LineState::Changed | LineState::Gone | LineState::New, 0) => '-',
            (LineState::Same | LineState::Changed | LineState::Gone | LineState::New, _) => '+',
        };
        let which = Which { unit: Some(name.clone()), networks: Some(vec![cell.network]), naming: None };
        let rows = rows(checked, &which, None, WIDTH);
        // The unit has been named.
        let own = rows.iter().filter(|row| row.network.is_some()).map(crate::show::Row::text);
        own.filter(|text| !text.is_empty()).for_each(|text| out.push_str(&format!("     {sign} {text}\n")));
        out.push('\n');
    }
}

fn line(out: &mut String, row: &Row) {
    let number = row.change.map_or(String::new(), |number| number.to_string());
    let mut put = |sign: char, side: usize| {
        if let Some(cell) = &row.cells[side] {
            out.push_str(&format!("{number:>4} {sign} {}{}\n", "    ".repeat(cell.depth), cell.text));
        }
    };
    match row.state {
        LineState::Same => put(' ', 0),
        LineState::Moved => put('>', 1),
        LineState::Gone => put('-', 0),
        LineState::New => put('+', 1),
        LineState::Changed => {
            put('-', 0);
            put('+', 1);
        }
    }
}
