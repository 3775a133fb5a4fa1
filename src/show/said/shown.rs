//! The scenario that shows a difference or breaks a rule, its causes, and the scans around it.

use super::reads;
use crate::twin::{Breach, BreachRow, Cause, Difference, Hint, ScanRow};

/// A scenario and why it does what it does.
pub(in crate::show) struct Shown {
    /// The scenario as lines that can be played.
    pub(in crate::show) script: Vec<String>,
    pub(in crate::show) sides: Vec<ShownSide>,
    /// Where two versions part; what a rule read, if that is not said elsewhere.
    pub(in crate::show) parting: Option<String>,
    /// What happens if everything stays as it is.
    pub(in crate::show) afterwards: Option<String>,
    pub(in crate::show) hints: Vec<Hint>,
    pub(in crate::show) traces: Traces,
}

/// The causes in one version, from the output or the rule back.
pub(in crate::show) struct ShownSide {
    pub(in crate::show) version: String,
    pub(in crate::show) causes: Vec<Cause>,
}

/// The last scans.
pub(in crate::show) struct Traces {
    /// What the cells hold.
    pub(in crate::show) title: &'static str,
    pub(in crate::show) columns: Vec<String>,
    pub(in crate::show) rows: Vec<TraceRow>,
}

/// A scan of them.
pub(in crate::show) struct TraceRow {
    pub(in crate::show) scan: u64,
    /// Its moment, in milliseconds.
    pub(in crate::show) at: String,
    pub(in crate::show) cells: Vec<String>,
    /// Where it differs or breaks.
    pub(in crate::show) mark: &'static str,
}

/// Columns that are all shown; of more only those that move or matter.
const FEW: usize = 10;

pub(super) fn difference(d: &Difference) -> Shown {
    let e = &d.explanation;
    let side =
        |(version, causes): (&String, &Vec<Cause>)| ShownSide { version: version.clone(), causes: causes.clone() };
    Shown {
        script: e.script.clone(),
        sides: d.versions.iter().zip(&e.causes).map(side).collect(),
        parting: Some(e.parting.clone()),
        afterwards: e.afterwards.clone(),
        hints: e.hints.clone(),
        traces: both(d),
    }
}

pub(super) fn breach(breach: &Breach) -> Shown {
    let script = match breach.script.is_empty() {
        true => vec!["nothing happens".to_string()],
        false => breach.script.clone(),
    };
    Shown {
        script,
        sides: vec![ShownSide { version: breach.version.clone(), causes: breach.causes.clone() }],
        parting: Some(format!("the rule reads {}", reads(&breach.values))),
        afterwards: None,
        hints: Vec::new(),
        traces: one(breach),
    }
}

/// Rows with a cell for each name, without the columns that tell nothing.
fn traces(
    title: &'static str,
    names: Vec<&String>,
    mut rows: Vec<TraceRow>,
    matters: impl Fn(usize) -> bool,
) -> Traces {
    let moves = |column: usize| rows.iter().any(|row| row.cells[column] != rows[0].cells[column]);
    let columns: Vec<usize> =
        (0..names.len()).filter(|column| names.len() <= FEW || moves(*column) || matters(*column)).collect();
    for row in &mut rows {
        row.cells = columns.iter().map(|column| row.cells[*column].clone()).collect();
    }
    Traces { title, columns: columns.iter().map(|column| names[*column].clone()).collect(), rows }
}

fn both(d: &Difference) -> Traces {
    let inputs = d.pairing.inputs.len();
    let names = d.pairing.inputs.iter().chain(&d.pairing.outputs).map(|pair| &pair.name).collect();
    let cell = |[left, right]: &[String; 2]| if left == right { left.clone() } else { format!("{left} | {right}") };
    let row = |row: &ScanRow| TraceRow {
        scan: row.scan.0,
        at: row.at.0.milliseconds_text(),
        cells: row.inputs.iter().cloned().chain(row.outputs.iter().map(cell)).collect(),
        mark: if row.outputs.iter().any(|[left, right]| left != right) { "<- differs" } else { "" },
    };
    let matters = |column: usize| {
        column.checked_sub(inputs).is_some_and(|o| d.rows.iter().any(|row| row.outputs[o][0] != row.outputs[o][1]))
    };
    traces("Both traces, left | right", names, d.rows.iter().map(row).collect(), matters)
}

fn one(breach: &Breach) -> Traces {
    let row = |row: &BreachRow| TraceRow {
        scan: row.scan.0,
        at: row.at.0.milliseconds_text(),
        cells: row.values.clone(),
        mark: if row.scan == breach.scan { "<- broken" } else { "" },
    };
    let is_read = |column: usize| breach.values.iter().any(|[name, _]| *name == breach.names[column]);
    traces("The trace", breach.names.iter().collect(), breach.rows.iter().map(row).collect(), is_read)
}
