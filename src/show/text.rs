//! Verdicts and ledgers as plain text.

use super::said::{Covered, PartSaid, RuleSaid, Said, Shown, StrengthSaid, Traces, VerdictKind, count, reads, said};
use crate::model::Project;
use crate::recheck::Recheck;
use crate::translate::Entry;
use crate::twin::{Cause, Share, Verdict};
use comfy_table::{CellAlignment, Table, presets};

/// A verdict, its first line the verdict itself.
#[must_use]
pub fn verdict(verdict: &Verdict) -> String {
    whole(&said(verdict))
}

/// Lines about limits that are shown; the headline of a large program should stay in sight.
const MOST_LIMITS: usize = 12;

/// All that a verdict says.
pub(super) fn whole(said: &Said) -> String {
    let mut out = format!("{}\n", headline(said));
    limits(&mut out, &said.limits);
    // Why nothing is decided may be long, with lines of its own; it stands by itself.
    let indent = if said.kind == VerdictKind::Undecided { "" } else { "  " };
    said.sentences.iter().for_each(|sentence| out.push_str(&format!("{indent}{sentence}\n")));
    said.proved.iter().enumerate().for_each(|(number, part)| proved_part(&mut out, number, part));
    for term in said.basis.iter().chain(&said.scope) {
        line(&mut out, term.name, &term.text);
    }
    if let Some(of) = &said.covered {
        covered(&mut out, of);
    }
    if let Some(of) = &said.strength {
        strength(&mut out, of);
    }
    for spread in &said.spreads {
        let text = format!("{} changed {} times, at most {} apart", spread.output, spread.changes, spread.worst);
        line(&mut out, "apart", &format!("{text}; by moments apart: {}", spread.bars));
    }
    if let Some(of) = &said.shown {
        shown(&mut out, of);
        let more = !(said.rules.is_empty() && said.unpaired.is_empty() && said.assumed.is_empty());
        out.push_str(if more { "\n" } else { "" });
    }
    said.rules.iter().for_each(|rule| out.push_str(&format!("  {}\n", rule.text)));
    said.unpaired.iter().for_each(|alone| out.push_str(&format!("  not paired: {alone}\n")));
    said.assumed.iter().for_each(|assumption| out.push_str(&format!("  assumed: {assumption}\n")));
    said.rules.iter().for_each(|rule| breach(&mut out, rule));
    out
}

/// The claim in capitals, and how far it goes.
pub(super) fn headline(said: &Said) -> String {
    format!("{}{}", said.claim.to_uppercase(), said.reach)
}

/// What became of a rule, and how it is broken.
pub(super) fn rule(rule: &RuleSaid) -> String {
    let mut out = format!("{}\n", rule.text);
    breach(&mut out, rule);
    out
}

fn breach(out: &mut String, rule: &RuleSaid) {
    if let Some((heading, of)) = &rule.shown {
        out.push_str(&format!("\n{heading}\n"));
        shown(out, of);
    }
}

fn line(out: &mut String, name: &str, text: &str) {
    let name = format!("{name}:");
    out.push_str(&format!("  {name:<9} {text}\n"));
}

/// What limits a verdict, each on a line below its headline.
fn limits(out: &mut String, limits: &[String]) {
    limits.iter().take(MOST_LIMITS).for_each(|limit| out.push_str(&format!("  LIMITED: {limit}\n")));
    if let Some(more) = limits.len().checked_sub(MOST_LIMITS).filter(|more| *more > 0) {
        out.push_str(&format!("  LIMITED: and in {more} more points; the report and the JSON name all\n"));
    }
}

/// What of it is proved, and under which conditions.
fn proved_part(out: &mut String, number: usize, part: &PartSaid) {
    let word = if number == 0 { "but" } else { "and" };
    out.push_str(&format!("  {word} {}{}{}", PartSaid::CLAIM.to_uppercase(), part.of, part.reach));
    out.push_str(if part.conditions.is_empty() { "\n" } else { ", if\n" });
    part.conditions.iter().for_each(|condition| out.push_str(&format!("    {condition}\n")));
}

/// What was seen of both versions, as a table, and what was not.
fn covered(out: &mut String, of: &Covered) {
    let share = |s: &Share| if s.of == 0 { "-".to_string() } else { format!("{} of {}", s.met, s.of) };
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    table.set_header(["seen".to_string()].iter().chain(&of.versions));
    for (word, shares) in &of.rows {
        table.add_row([(*word).to_string()].into_iter().chain(shares.iter().map(share)));
    }
    table.to_string().lines().for_each(|l| out.push_str(&format!("  {}\n", l.trim())));
    of.lines.iter().for_each(|l| out.push_str(&format!("  {l}\n")));
}

fn strength(out: &mut String, of: &StrengthSaid) {
    line(out, "strength", &of.sentence);
    of.missed.iter().for_each(|fault| out.push_str(&format!("  not found: {fault}\n")));
}

/// A scenario, why it does what it does, and the scans around it.
fn shown(out: &mut String, of: &Shown) {
    out.push_str("\nThe scenario:\n");
    of.script.iter().for_each(|line| out.push_str(&format!("  {line}\n")));
    out.push_str("\nWhy:\n");
    for side in &of.sides {
        if side.causes.is_empty() {
            out.push_str(&format!("  {}: {}\n", side.version, super::said::NO_CAUSE));
        }
        for (number, cause) in side.causes.iter().enumerate() {
            let head = if number == 0 { format!("{}:", side.version) } else { "because".to_string() };
            out.push_str(&format!("  {head} {}\n", because(cause)));
        }
    }
    of.parting.iter().chain(&of.afterwards).for_each(|line| out.push_str(&format!("  {line}\n")));
    for hint in &of.hints {
        out.push_str(&format!("  looks like trap {} ({}): {}\n", hint.trap, hint.title, hint.why));
        out.push_str(&format!("      to mend it, {}\n", hint.mend));
    }
    out.push_str(&format!("\n{}:\n", of.traces.title));
    traces(&of.traces).lines().for_each(|line| out.push_str(&format!("  {}\n", line.trim_end())));
}

/// A cause on a line, and what it read on another.
fn because(cause: &Cause) -> String {
    let with = if cause.reads.is_empty() { String::new() } else { format!("\n      with {}", reads(&cause.reads)) };
    let [name, value] = &cause.wrote;
    format!("{name} = {value} in scan {}, by {}: {}{with}", cause.scan.0, cause.place, cause.text)
}

fn traces(traces: &Traces) -> String {
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    let head = ["scan".to_string(), "ms".to_string()].into_iter();
    table.set_header(head.chain(traces.columns.iter().cloned()).chain([String::new()]));
    for row in &traces.rows {
        let head = [row.scan.to_string(), row.at.clone()].into_iter();
        table.add_row(head.chain(row.cells.iter().cloned()).chain([row.mark.to_string()]));
    }
    table.column_iter_mut().for_each(|column| column.set_cell_alignment(CellAlignment::Right));
    table.to_string()
}

/// What a check of a certificate came to, as text.
#[must_use]
pub fn recheck(r: &Recheck) -> String {
    let mut out = format!(
        "CONFIRMED: {} facts hold at power-up, every step keeps them, and they suffice\n  of one scan with {} latches, \
         {} inputs, {} gates\n",
        r.facts, r.latches, r.inputs, r.gates
    );
    r.goals.iter().for_each(|goal| out.push_str(&format!("  follows: {goal}\n")));
    if r.constraints > 0 {
        out.push_str(&format!(
            "  assumed, not checked: {} constraints (an unknown function gives the same for the same)\n",
            r.constraints
        ));
    }
    for words in &r.assumed {
        out.push_str(&format!("  assumed, as a constraint: {words}\n"));
    }
    out.push_str(&format!("  certificate.aig: none of {} outputs can be TRUE\n", r.outputs));
    out.push_str("  not checked: that the circuit is that of the two programs\n");
    out
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
