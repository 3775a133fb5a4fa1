//! Verdicts and ledgers as plain text.

use crate::model::{Project, format_duration};
use crate::translate::Entry;
use crate::twin::{Difference, Row, Tested, Verdict};
use comfy_table::{CellAlignment, Table, presets};

/// A verdict, its first line the verdict itself.
#[must_use]
pub fn verdict(verdict: &Verdict) -> String {
    match verdict {
        Verdict::Tested(tested) => tested_text(tested),
        Verdict::Different(difference) => different_text(difference),
        Verdict::Undecided { reason } => format!("UNDECIDED\n{reason}\n"),
    }
}

fn tested_text(t: &Tested) -> String {
    let mut out = String::from("SAME IN EVERY SCENARIO TRIED (tested, not proved)\n");
    let mut line = |text: String| {
        out.push_str(&text);
        out.push('\n');
    };
    line(format!(
        "  {} in {}, {} among them (seed {})",
        count(t.scans, "scan"),
        count(t.scenarios, "scenario"),
        count(t.power_cycles, "power cycle"),
        t.seed
    ));
    line(format!("  compared: {}", names(t.pairing.outputs.iter().map(|p| p.name.as_str()))));
    line(format!("  driven:   {}", names(t.pairing.inputs.iter().map(|p| p.name.as_str()))));
    let [(a, all_a), (b, all_b)] = t.statements;
    line(format!("  code run: left {a} of {all_a}, right {b} of {all_b} statements and instructions"));
    for (side, list) in ["left", "right"].iter().zip(&t.never_ran) {
        for place in list.iter().take(6) {
            line(format!("  never ran ({side}): {place}"));
        }
        if list.len() > 6 {
            line(format!("  never ran ({side}): {} more", list.len() - 6));
        }
    }
    for name in &t.never_changed {
        line(format!("  output {name} never changed: nothing was learnt about it"));
    }
    if t.faults > 0 {
        line(format!("  both stopped with the same fault in {}", count(t.faults, "scenario")));
    }
    for alone in &t.pairing.alone {
        line(format!("  not paired: {alone}"));
    }
    for assumption in &t.assumptions {
        line(format!("  assumed: {assumption}"));
    }
    out
}

fn different_text(d: &Difference) -> String {
    let [left, right] = &d.sides;
    let mut out = format!(
        "DIFFERENT: {} in scan {} ({})\n",
        d.name,
        d.scan.0,
        if d.at.0.nanos() == 0 { "at power-up".to_string() } else { format!("after {}", format_duration(d.at.0)) }
    );
    for side in [left, right] {
        out.push_str(&format!("  {}: {}", side.version, side.value));
        match &side.writer {
            Some(writer) => out.push_str(&format!(", by {}: {}\n", writer.place, writer.text)),
            None => out.push_str(", never written so far\n"),
        }
    }
    out.push_str(&format!(
        "  found in scenario {} after {}; shrunk to {} and {}, replayed, {}\n",
        d.scenarios,
        count(d.scans, "scan"),
        count(d.happenings as u64, "change"),
        count(d.scan.0 + 1, "scan"),
        d.scan_time
    ));
    out.push_str("\nThe scenario, as a stimulus:\n");
    for line in d.stimulus.lines() {
        out.push_str(&format!("  {line}\n"));
    }
    out.push_str("\nBoth traces, left | right:\n");
    for line in table(d).lines() {
        out.push_str(&format!("  {}\n", line.trim_end()));
    }
    for alone in &d.pairing.alone {
        out.push_str(&format!("  not paired: {alone}\n"));
    }
    out
}

/// The scans around the difference; of many points only those that move or differ.
fn table(d: &Difference) -> String {
    let moving = |cell: &dyn Fn(&Row) -> String| {
        let mut cells = d.rows.iter().map(cell);
        let first = cells.next();
        cells.any(|c| Some(c) != first)
    };
    let few = d.pairing.inputs.len() + d.pairing.outputs.len() <= 10;
    let inputs: Vec<usize> =
        (0..d.pairing.inputs.len()).filter(|i| few || moving(&|r: &Row| r.inputs[*i].clone())).collect();
    let outputs: Vec<usize> = (0..d.pairing.outputs.len())
        .filter(|o| {
            few || moving(&|r: &Row| r.outputs[*o].join("|"))
                || d.rows.iter().any(|r| r.outputs[*o][0] != r.outputs[*o][1])
        })
        .collect();
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    let mut header = vec!["scan".to_string(), "ms".to_string()];
    header.extend(inputs.iter().map(|i| d.pairing.inputs[*i].name.clone()));
    header.extend(outputs.iter().map(|o| d.pairing.outputs[*o].name.clone()));
    header.push(String::new());
    table.set_header(header);
    for row in &d.rows {
        let mut cells = vec![row.scan.0.to_string(), row.at.0.millis().to_string()];
        cells.extend(inputs.iter().map(|i| row.inputs[*i].clone()));
        let mut differs = false;
        for o in &outputs {
            let [a, b] = &row.outputs[*o];
            differs |= a != b;
            cells.push(if a == b { a.clone() } else { format!("{a} | {b}") });
        }
        cells.push(if differs { "<- differs".to_string() } else { String::new() });
        table.add_row(cells);
    }
    for column in table.column_iter_mut() {
        column.set_cell_alignment(CellAlignment::Right);
    }
    table.to_string()
}

/// A ledger; `project` is the source.
#[must_use]
pub fn ledger(entries: &[Entry], project: &Project) -> String {
    if entries.is_empty() {
        return "ledger: everything is one to one\n".to_string();
    }
    let mut out = format!("ledger: {}\n", count(entries.len() as u64, "entry"));
    for entry in entries {
        out.push_str(&format!(
            "  {} {:<11} {}  {}\n",
            entry.code,
            entry.grade.word(),
            project.place(entry.source),
            entry.reason
        ));
    }
    out
}

fn names<'a>(list: impl Iterator<Item = &'a str>) -> String {
    let list: Vec<&str> = list.collect();
    match list.len() {
        0 => "nothing".to_string(),
        n if n > 12 => format!("{}, and {} more", list[..12].join(", "), n - 12),
        _ => list.join(", "),
    }
}

/// `1 scan`, `2,000 scans`, `3 entries`.
fn count(number: u64, word: &str) -> String {
    let digits = number.to_string();
    let mut grouped = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    match (number, word.strip_suffix('y')) {
        (1, _) => format!("1 {word}"),
        (_, Some(stem)) => format!("{grouped} {stem}ies"),
        _ => format!("{grouped} {word}s"),
    }
}
