//! Changes as one page that needs nothing else: filters and links work without scripts.

use super::text::near;
use super::words;
use crate::changes::{Change, Changes, LineState, Row, UnitChange, UnitState};
use crate::check::Checked;
use crate::show::drawing::{Marks, drawn};
use crate::show::{Dossier, WriteError, digest};
use serde::Serialize;

/// Width of a drawing, two of which stand side by side.
const WIDTH: u32 = 570;

/// Networks of one unit that are drawn; of more the lines are there.
const MOST_DRAWN: usize = 60;

#[derive(Serialize)]
struct Page {
    title: String,
    date: Option<String>,
    tool: String,
    call: String,
    versions: [String; 2],
    kind: &'static str,
    headline: String,
    limits: Vec<String>,
    groups: Vec<[String; 2]>,
    units: Vec<UnitRow>,
    beside: Vec<ChangeRow>,
    touched: Vec<(String, Vec<usize>)>,
    untouched: Vec<String>,
    alone: [Vec<String>; 2],
    why: Option<String>,
    scenario: Vec<String>,
    files: Vec<[String; 3]>,
}

#[derive(Serialize)]
struct UnitRow {
    id: String,
    title: String,
    state: &'static str,
    is_same: bool,
    verdict: String,
    outcome: String,
    scenario: Vec<String>,
    changes: Vec<ChangeRow>,
    ledger: Vec<[String; 4]>,
    /// Pictures side by side, with the numbers of the networks.
    drawings: Vec<Drawing>,
    undrawn: usize,
    /// Lines side by side.
    lines: Vec<LineRow>,
}

#[derive(Serialize)]
struct Drawing {
    state: &'static str,
    numbers: [Option<usize>; 2],
    pictures: [Option<String>; 2],
}

#[derive(Serialize)]
struct LineRow {
    state: &'static str,
    sign: &'static str,
    change: Option<usize>,
    cells: [Option<LineCell>; 2],
    /// So many lines that are the same were left out here.
    skipped: usize,
}

#[derive(Serialize)]
struct LineCell {
    number: usize,
    depth: usize,
    text: String,
}

#[derive(Serialize)]
struct ChangeRow {
    number: usize,
    group: &'static str,
    title: String,
    left: Option<[String; 2]>,
    right: Option<[String; 2]>,
    note: String,
    reach: String,
}

/// Changes as HTML.
///
/// # Errors
/// If the page cannot be made, which is a mistake of ours.
pub fn page(changes: &Changes, left: &Checked, right: &Checked, dossier: &Dossier) -> Result<String, WriteError> {
    let mut environment = minijinja::Environment::new();
    environment.set_auto_escape_callback(|_| minijinja::AutoEscape::Html);
    environment.add_template("page", include_str!("page.html")).map_err(WriteError::new)?;
    let page = environment.get_template("page").map_err(WriteError::new)?;
    page.render(minijinja::value::Serde(content(changes, [left, right], dossier))).map_err(WriteError::new)
}

fn content(changes: &Changes, sides: [&Checked; 2], dossier: &Dossier) -> Page {
    let marks = [0, 1].map(|side| Marks::of(changes, side));
    let files = sides.iter().zip(&changes.versions).flat_map(|(checked, name)| {
        checked.project().sources.iter().map(|s| [name.clone(), s.name.clone(), digest(&s.text)])
    });
    Page {
        title: dossier.title.clone(),
        date: dossier.date.clone(),
        tool: dossier.tool.clone(),
        call: dossier.call.clone(),
        versions: changes.versions.clone(),
        kind: kind(changes),
        headline: words::headline(changes),
        limits: words::limits(changes),
        groups: changes.stood.groups.iter().map(|g| [g.group.word().to_string(), words::group(g)]).collect(),
        units: changes.units.iter().enumerate().map(|(at, unit)| row(at, unit, changes, sides, &marks)).collect(),
        beside: changes.changes.iter().filter(|change| change.unit.is_none()).map(change_row).collect(),
        touched: changes.outputs.touched.clone(),
        untouched: changes.outputs.untouched.clone(),
        alone: changes.outputs.alone.clone(),
        why: changes.outputs.why.clone(),
        scenario: changes.stood.shown.as_ref().map_or(Vec::new(), |shown| shown.scenario.clone()),
        files: files.collect(),
    }
}

fn kind(changes: &Changes) -> &'static str {
    use crate::changes::Overall;
    match changes.stood.overall {
        Overall::Nothing | Overall::NothingThatRuns | Overall::Proved => "proved",
        Overall::Tested => "tested",
        Overall::Different => "different",
        Overall::Changed | Overall::Undecided => "undecided",
    }
}

fn row(at: usize, unit: &UnitChange, changes: &Changes, sides: [&Checked; 2], marks: &[Marks; 2]) -> UnitRow {
    let is_drawn = unit.languages.iter().flatten().all(|language| language.is_drawn());
    let shows_lines = !is_drawn && unit.languages[0] == unit.languages[1];
    let (drawings, undrawn) = if shows_lines { (Vec::new(), 0) } else { drawings(unit, sides, marks) };
    UnitRow {
        id: format!("unit-{}", at + 1),
        title: words::unit(unit),
        state: words::state(unit.state),
        is_same: unit.state == UnitState::Same,
        verdict: unit.verdict.as_ref().map_or(String::new(), words::verdict),
        outcome: unit.verdict.as_ref().map_or(String::new(), |verdict| format!("{:?}", verdict.outcome).to_lowercase()),
        scenario: unit.verdict.as_ref().map_or(Vec::new(), |verdict| verdict.scenario.clone()),
        changes: unit.changes.iter().filter_map(|number| changes.change(*number)).map(change_row).collect(),
        ledger: unit
            .ledger
            .iter()
            .map(|e| {
                let network = e.network.map_or(String::new(), |network| network.to_string());
                [e.code.clone(), e.grade.clone(), network, e.reason.clone()]
            })
            .collect(),
        drawings,
        undrawn,
        lines: if shows_lines { lines(&unit.rows) } else { Vec::new() },
    }
}

const fn word(state: LineState) -> (&'static str, &'static str) {
    match state {
        LineState::Same => ("same", ""),
        LineState::Changed => ("changed", "~"),
        LineState::Moved => ("moved", ">"),
        LineState::Gone => ("gone", "-"),
        LineState::New => ("new", "+"),
    }
}

/// The networks that changed, side by side; of bodies in two languages all there are, in the order of the left.
fn drawings(unit: &UnitChange, sides: [&Checked; 2], marks: &[Marks; 2]) -> (Vec<Drawing>, usize) {
    let picture = |side: usize, network: Option<usize>| {
        let name = unit.names[side].as_ref()?;
        drawn(sides[side], name, network?, WIDTH, &marks[side])
    };
    let in_two = unit.languages[0] != unit.languages[1];
    let pairs: Vec<(LineState, [Option<usize>; 2])> = match in_two {
        true => side_by_side(unit, sides),
        false => {
            let changed = unit.rows.iter().filter(|row| row.state != LineState::Same);
            changed.map(|row| (row.state, row.cells.each_ref().map(|c| c.as_ref().map(|c| c.network)))).collect()
        }
    };
    let undrawn = pairs.len().saturating_sub(MOST_DRAWN);
    let draw = |(state, numbers): (LineState, [Option<usize>; 2])| Drawing {
        state: if in_two { "beside" } else { word(state).0 },
        numbers,
        pictures: [picture(0, numbers[0]), picture(1, numbers[1])],
    };
    (pairs.into_iter().take(MOST_DRAWN).map(draw).collect(), undrawn)
}

/// Networks of bodies in two languages, by their order.
fn side_by_side(unit: &UnitChange, sides: [&Checked; 2]) -> Vec<(LineState, [Option<usize>; 2])> {
    let count = |side: usize| {
        unit.names[side].as_ref().map_or(0, |name| {
            let which = crate::show::Which { unit: Some(name.clone()), ..crate::show::Which::default() };
            crate::show::networks(sides[side], &which).len()
        })
    };
    let (left, right) = (count(0), count(1));
    let number = |at: usize, of: usize| (at < of).then_some(at + 1);
    (0..left.max(right)).map(|at| (LineState::Changed, [number(at, left), number(at, right)])).collect()
}

fn lines(rows: &[Row]) -> Vec<LineRow> {
    let mut out: Vec<LineRow> = Vec::new();
    let mut skipped = 0;
    for (row, near) in rows.iter().zip(near(rows)) {
        if !near {
            skipped += 1;
            continue;
        }
        let (state, sign) = word(row.state);
        let cells = row.cells.each_ref().map(|cell| {
            cell.as_ref().map(|cell| LineCell { number: cell.number, depth: cell.depth, text: cell.text.clone() })
        });
        out.push(LineRow { state, sign, change: row.change, cells, skipped: std::mem::take(&mut skipped) });
    }
    out
}

fn change_row(change: &Change) -> ChangeRow {
    let side = |side: usize| change.sides[side].as_ref().map(|spot| [spot.place.clone(), spot.text.clone()]);
    ChangeRow {
        number: change.number,
        group: change.group.word(),
        title: words::title(change),
        left: side(0),
        right: side(1),
        note: change.note.clone(),
        reach: words::reach(&change.reach),
    }
}
