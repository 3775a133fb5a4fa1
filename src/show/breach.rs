//! Broken rules as plain text: the scenario, why, and the trace.

use super::text::{count, limits, names, rule_text};
use crate::model::{Duration, format_duration};
use crate::twin::{Breach, Cause, RuleResult, RulesBroken};
use comfy_table::{CellAlignment, Table, presets};

/// Columns that are all shown; of more only those that move.
const FEW: usize = 10;

/// The verdict on one version that breaks a rule.
pub(super) fn broken_text(b: &RulesBroken) -> String {
    let Some(rule) = b.first() else { return String::from("BROKEN\n") };
    let mut out = format!("BROKEN: {} {}\n", rule.label(), when(rule));
    let how = match b.scenarios {
        _ if rule.expected => "as it was played".to_string(),
        0 => "found by the solver".to_string(),
        number => format!("found in scenario {number} after {}", count(b.scans, "scan")),
    };
    let shrunk = rule.breach.as_deref().map_or(String::new(), |breach| format!("{}, ", shrunk(breach)));
    out.push_str(&format!("  {how}; {shrunk}{}\n", b.scan_time));
    out.push_str(&limits(&b.pairing));
    out.push_str(&rule.breach.as_deref().map_or(String::new(), detail));
    out.push('\n');
    for rule in &b.rules {
        out.push_str(&format!("  {}\n", rule_text(rule, &b.versions)));
    }
    out.push_str(&format!("  driven: {}\n", names(b.pairing.inputs.iter().map(|p| p.name.as_str()))));
    b.assumptions.iter().for_each(|assumption| out.push_str(&format!("  assumed: {assumption}\n")));
    out
}

/// How rules are broken beside a comparison, one after the other; empty if none is.
pub(super) fn breaches(rules: &[RuleResult]) -> String {
    let broken = rules.iter().filter_map(|rule| Some((rule, rule.breach.as_deref()?)));
    let each = broken.map(|(rule, breach)| {
        let head = format!("\nRule {} is broken by {} {}", rule.name, breach.version, when(rule));
        format!("{head}\n  {}\n{}", shrunk(breach), detail(breach))
    });
    each.collect()
}

/// The scan, and its moment.
pub(super) fn when(rule: &RuleResult) -> String {
    let Some(first) = rule.broken.iter().flatten().min_by_key(|broken| broken.scan) else { return String::new() };
    let after = match first.at {
        0 => "at power-up".to_string(),
        at => format!("after {}", format_duration(Duration::from_nanos(at))),
    };
    format!("in scan {} ({after})", first.scan)
}

fn shrunk(breach: &Breach) -> String {
    let scans = count(breach.scan.0 + 1, "scan");
    format!("shown by {} in {scans}, replayed", count(breach.happenings, "change"))
}

/// What the rule read, in words.
pub(super) fn read(breach: &Breach) -> String {
    let values: Vec<String> = breach.values.iter().map(|[name, value]| format!("{name} = {value}")).collect();
    if values.is_empty() { "nothing that has a name".to_string() } else { values.join(", ") }
}

/// A cause on a line, and what it read.
pub(super) fn because(cause: &Cause) -> String {
    let reads: Vec<String> = cause.reads.iter().map(|[name, value]| format!("{name} = {value}")).collect();
    let with = if reads.is_empty() { String::new() } else { format!("\n      with {}", reads.join(", ")) };
    let [name, value] = &cause.wrote;
    format!("{name} = {value} in scan {}, by {}: {}{with}", cause.scan, cause.place, cause.text)
}

fn detail(breach: &Breach) -> String {
    let mut out = format!("  it reads {}\n\nThe scenario:\n", read(breach));
    if breach.script.is_empty() {
        out.push_str("  nothing happens\n");
    }
    breach.script.iter().for_each(|line| out.push_str(&format!("  {line}\n")));
    out.push_str("\nWhy:\n");
    if breach.causes.is_empty() {
        out.push_str("  nothing has written what the rule reads: it is given, or as it is at power-up\n");
    }
    breach.causes.iter().for_each(|cause| out.push_str(&format!("  {}\n", because(cause))));
    out.push_str("\nThe trace:\n");
    table(breach).lines().for_each(|line| out.push_str(&format!("  {}\n", line.trim_end())));
    out
}

/// The last scans; of many points only those that move, and what the rule reads.
fn table(breach: &Breach) -> String {
    let moves = |column: usize| breach.rows.iter().any(|row| row.values[column] != breach.rows[0].values[column]);
    let is_read = |column: usize| breach.values.iter().any(|[name, _]| *name == breach.names[column]);
    let few = breach.names.len() <= FEW;
    let columns: Vec<usize> =
        (0..breach.names.len()).filter(|column| few || moves(*column) || is_read(*column)).collect();
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    let head = ["scan".to_string(), "ms".to_string()].into_iter();
    let head = head.chain(columns.iter().map(|column| breach.names[*column].clone()));
    table.set_header(head.chain([String::new()]));
    for row in &breach.rows {
        let mut cells = vec![row.scan.0.to_string(), row.at.0.milliseconds_text()];
        cells.extend(columns.iter().map(|column| row.values[*column].clone()));
        cells.push(if row.scan == breach.scan { "<- broken" } else { "" }.to_string());
        table.add_row(cells);
    }
    table.column_iter_mut().for_each(|column| column.set_cell_alignment(CellAlignment::Right));
    table.to_string()
}
