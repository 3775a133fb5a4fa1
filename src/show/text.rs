//! Verdicts and ledgers as plain text.

use super::breach::{breaches, broken_text};
use crate::model::{Duration, Project, format_duration};
use crate::recheck::Recheck;
use crate::translate::Entry;
use crate::twin::{
    Alone, Coverage, Difference, Pairing, Place, Proved, ProvedPart, Row, RuleResult, Share, Spread, Tested, Tolerance,
    Verdict,
};
use comfy_table::{CellAlignment, Table, presets};

/// A verdict, its first line the verdict itself.
#[must_use]
pub fn verdict(verdict: &Verdict) -> String {
    let text = match verdict {
        Verdict::Proved(proved) => proved_text(proved),
        Verdict::Tested(tested) => tested_text(tested),
        Verdict::Different(difference) => different_text(difference),
        Verdict::Broken(broken) => return broken_text(broken),
        Verdict::Undecided { reason, proved, versions, rules } => {
            let rules: Vec<String> = rules.iter().map(|rule| format!("  {}\n", rule_text(rule, versions))).collect();
            format!("UNDECIDED\n{reason}\n{}{}", proved_parts(proved), rules.concat())
        }
    };
    text + &breaches(verdict.rules())
}

/// What of it is proved, and under which conditions.
fn proved_parts(parts: &[ProvedPart]) -> String {
    let mut out = String::new();
    for (number, part) in parts.iter().enumerate() {
        let word = if number == 0 { "but" } else { "and" };
        let of = if part.others.is_empty() {
            String::new()
        } else {
            format!(" in {}", names(part.outputs.iter().map(String::as_str)))
        };
        out.push_str(&format!("  {word} PROVED THE SAME{of} for every input sequence of any length"));
        out.push_str(if part.conditions.is_empty() { "\n" } else { " if\n" });
        part.conditions.iter().for_each(|condition| out.push_str(&format!("    {condition}\n")));
    }
    out
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

fn proved_text(p: &Proved) -> String {
    let is_exact = p.pairing.outputs.iter().all(|pair| pair.tolerance == Tolerance::Exact);
    let tolerance = if is_exact { "" } else { " WITHIN TOLERANCE" };
    let what = if p.pairing.single { "TO HOLD" } else { "THE SAME" };
    let but = but_known(&p.pairing);
    let mut out =
        format!("PROVED {what}{tolerance}{but} for every input sequence of any length, as long as no STOP is given\n");
    out.push_str(&limits(&p.pairing));
    let mut line = |text: String| {
        out.push_str("  ");
        out.push_str(&text);
        out.push('\n');
    };
    compared(&p.pairing).into_iter().for_each(&mut line);
    line(format!("driven:   {}", names(p.pairing.inputs.iter().map(|p| p.name.as_str()))));
    line(format!(
        "by {} about {} that {}; each holds at power-up and every scan keeps it",
        count(p.facts as u64, "fact"),
        count(p.bits as u64, "bit"),
        if p.pairing.single { "it remembers" } else { "both remember" }
    ));
    line(format!(
        "{} put before the solver in {}; one scan{} is {}",
        count(p.questions, "question"),
        count(p.rounds.into(), "round"),
        if p.pairing.single { "" } else { " of both" },
        count(p.gates as u64, "gate")
    ));
    p.rules.iter().for_each(|rule| line(rule_text(rule, &p.versions)));
    unread(&p.pairing).for_each(|alone| line(format!("not paired: {alone}")));
    p.assumptions.iter().for_each(|assumption| line(format!("assumed: {assumption}")));
    out
}

/// What a headline says where differences are known.
pub(super) fn but_known(pairing: &Pairing) -> &'static str {
    if pairing.known.is_empty() { "" } else { " BUT FOR WHAT IS KNOWN" }
}

/// What is compared, on a line; nothing of one version by itself.
fn compared(pairing: &Pairing) -> Option<String> {
    let outputs = pairing.outputs.iter().map(|pair| pair.name.as_str());
    (!pairing.single).then(|| format!("compared: {}", names(outputs)))
}

/// Inputs that nobody reads, so that they limit nothing.
fn unread(pairing: &Pairing) -> impl Iterator<Item = &Alone> {
    pairing.alone.iter().filter(|alone| !alone.agreed && alone.kind != "output")
}

/// Lines about limits that are shown; the headline of a large program should stay in sight.
const MOST_LIMITS: usize = 12;

/// What limits a verdict, each on a line below its headline.
pub(super) fn limits(pairing: &Pairing) -> String {
    let limits = pairing.limits();
    let mut out: String = limits.iter().take(MOST_LIMITS).map(|limit| format!("  LIMITED: {limit}\n")).collect();
    if let Some(more) = limits.len().checked_sub(MOST_LIMITS).filter(|more| *more > 0) {
        out.push_str(&format!("  LIMITED: and in {more} more points; the report and the JSON name all\n"));
    }
    out
}

fn tested_text(t: &Tested) -> String {
    let single = t.pairing.single;
    let what = if single { "HOLDS" } else { "SAME" };
    let but = but_known(&t.pairing);
    let mut out = format!("{what}{but} IN EVERY SCENARIO TRIED (tested, not proved)\n");
    out.push_str(&limits(&t.pairing));
    let mut line = |text: String| {
        out.push_str("  ");
        out.push_str(&text);
        out.push('\n');
    };
    line(format!(
        "{} in {}, {} among them (seed {}): {} of machine time",
        count(t.scans, "scan"),
        count(t.scenarios, "scenario"),
        count(t.power_cycles, "power cycle"),
        t.seed,
        format_duration(Duration::from_millis(t.machine_time / 1_000_000))
    ));
    if t.wide > 0 {
        line(format!("{} more by circuit, 256 scenarios at a time", count(t.wide, "scan")));
    }
    if let Some(why) = &t.no_circuit {
        line(format!("none by circuit: {why}"));
    }
    compared(&t.pairing).into_iter().for_each(&mut line);
    line(format!("driven:   {}", names(t.pairing.inputs.iter().map(|p| p.name.as_str()))));
    covered(t).lines().for_each(|l| line(l.to_string()));
    if let Some(strength) = &t.strength {
        let (caught, all) = (strength.caught(), strength.faults.len());
        let harmless = strength.harmless();
        let rest = if harmless > 0 { format!("; {harmless} more are proved harmless") } else { String::new() };
        let by = if single { "the rules find" } else { "the same effort finds" };
        line(format!("strength: {by} {caught} of {all} faults seeded into {}{rest}", t.versions[1]));
        for fault in strength.survivors().take(SHOWN) {
            line(format!("  not found: {} in {}: {}", fault.kind.words(), fault.place, fault.text));
        }
        let holes = all - caught - harmless;
        if holes > SHOWN {
            line(format!("  not found: {} more", holes - SHOWN));
        }
    }
    t.rules.iter().for_each(|rule| line(rule_text(rule, &t.versions)));
    for name in &t.never_changed {
        line(format!("output {name} never changed: nothing was learnt about it"));
    }
    if t.faults > 0 {
        let who = if single { "it stopped with a fault" } else { "both stopped with the same fault" };
        line(format!("{who} in {}", count(t.faults, "scenario")));
    }
    for (pair, spread) in t.pairing.outputs.iter().zip(&t.spreads) {
        line(spread_text(&pair.name, spread));
    }
    unread(&t.pairing).for_each(|alone| line(format!("not paired: {alone}")));
    t.assumptions.iter().for_each(|assumption| line(format!("assumed: {assumption}")));
    out
}

/// Lines of a kind that are shown before the rest is only counted.
const SHOWN: usize = 6;

/// What was seen of both versions, as a table, and what was not.
fn covered(t: &Tested) -> String {
    let share = |s: Share| if s.of == 0 { "-".to_string() } else { format!("{} of {}", s.met, s.of) };
    let sides = || t.versions.iter().zip(&t.coverage).take(t.pairing.versions());
    let row = |word: &str, cells: Vec<String>| [word.to_string()].into_iter().chain(cells).collect::<Vec<_>>();
    let mut table = Table::new();
    table.load_preset(presets::NOTHING);
    table.set_header(row("seen", sides().map(|(version, _)| version.clone()).collect()));
    for (word, of) in COVERED {
        table.add_row(row(word, sides().map(|(_, coverage)| share(of(coverage))).collect()));
    }
    let mut out: String = table.to_string().lines().map(|l| format!("{}\n", l.trim())).collect();
    for (version, coverage) in sides() {
        let all: Vec<&Place> = coverage.unmet().filter(|p| !p.inside).collect();
        let inside = coverage.unmet().filter(|p| p.inside).count();
        for place in all.iter().take(SHOWN) {
            out.push_str(&format!("not seen in {version}: {}: {} {}\n", place.place, place.text, place.missing()));
        }
        if all.len() > SHOWN {
            out.push_str(&format!("not seen in {version}: {} more\n", all.len() - SHOWN));
        }
        if inside > 0 {
            out.push_str(&format!("not seen in {version}: {} inside blocks\n", count(inside as u64, "outcome")));
        }
    }
    out
}

/// How something is counted of coverage.
type Counts = fn(&Coverage) -> Share;

/// What is counted of coverage, with its words.
pub(super) const COVERED: &[(&str, Counts)] = &[
    ("statements run", Coverage::statements),
    ("conditions decided", Coverage::conditions),
    ("branches both ways", Coverage::branches),
    ("inside blocks", Coverage::blocks),
];

pub(super) fn rule_text(rule: &RuleResult, versions: &[String; 2]) -> String {
    // One version by itself has its name twice.
    let single = versions[0] == versions[1];
    let mut out = format!("{}: ", rule.label());
    if rule.expected {
        let first = rule.first().map(|scan| format!("{} does not do what is expected in scan {}", versions[0], scan.0));
        return out + &first.unwrap_or_else(|| "all that it expects is met".to_string());
    }
    let broken: Vec<String> = rule
        .broken
        .iter()
        .zip(versions)
        .filter_map(|(b, version)| b.map(|b| format!("{version} breaks it in scan {}", b.scan)))
        .collect();
    out.push_str(&match broken.len() {
        0 if rule.unasked.len() == 2 => "could not be asked".to_string(),
        0 => match rule.proved {
            [true, _] | [_, true] if single => "proved to hold in every scan".to_string(),
            [true, true] => "proved to hold in every scan of both".to_string(),
            [false, false] => "holds in every scan tried".to_string(),
            [left, _] => {
                let [proved, tried] = if left { [&versions[0], &versions[1]] } else { [&versions[1], &versions[0]] };
                format!("proved to hold in every scan of {proved}; holds in every scan tried of {tried}")
            }
        },
        2 => format!("both break it: {}", broken.join(", ")),
        _ => broken.join(", "),
    });
    for why in &rule.unasked {
        out.push_str(&format!("; not asked: {why}"));
    }
    out
}

fn spread_text(name: &str, spread: &Spread) -> String {
    let worst = format_duration(Duration::from_nanos(spread.worst));
    let bars: Vec<String> = spread.histogram.iter().map(ToString::to_string).collect();
    let end = bars.iter().rposition(|b| b != "0").map_or(0, |n| n + 1);
    format!(
        "apart: {name} changed {} times, at most {worst} apart; by moments apart: {}",
        spread.changes,
        bars[..end].join(" ")
    )
}

/// The changes that have no counterpart, a line each.
pub(super) fn unmet(d: &Difference) -> Vec<String> {
    let line = |u: &crate::twin::Unmet| {
        let at = format_duration(u.at.0);
        format!(
            "{}: {} changed to {} by {at}, and the other has no such change {}",
            u.version, d.name, u.value, u.tolerance
        )
    };
    d.unmet.iter().map(line).collect()
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
            None if d.pairing.is_unwired(&d.name) && side.version == d.versions[1] => out.push('\n'),
            None => out.push_str(", never written so far\n"),
        }
    }
    for line in unmet(d) {
        out.push_str(&format!("  {line}\n"));
    }
    let how = match d.scenarios {
        0 => "found by the solver".to_string(),
        number => format!("found in scenario {number} after {}", count(d.scans, "scan")),
    };
    out.push_str(&format!(
        "  {how}; shrunk to {} and {}, replayed, {}\n",
        count(d.happenings, "change"),
        count(d.scan.0 + 1, "scan"),
        d.scan_time
    ));
    out.push_str(&limits(&d.pairing));
    out.push_str(&proved_parts(&d.proved));
    out.push_str("\nThe scenario:\n");
    for line in &d.explanation.script {
        out.push_str(&format!("  {line}\n"));
    }
    out.push_str(&explained(d));
    out.push_str("\nBoth traces, left | right:\n");
    for line in table(d).lines() {
        out.push_str(&format!("  {}\n", line.trim_end()));
    }
    for rule in &d.rules {
        out.push_str(&format!("  {}\n", rule_text(rule, &d.versions)));
    }
    unread(&d.pairing).for_each(|alone| out.push_str(&format!("  not paired: {alone}\n")));
    d.assumed.iter().for_each(|assumption| out.push_str(&format!("  assumed: {assumption}\n")));
    out
}

/// Why they part: the causes on both sides, and what it looks like.
fn explained(d: &Difference) -> String {
    let e = &d.explanation;
    let mut out = String::from("\nWhy:\n");
    for (causes, version) in e.causes.iter().zip(&d.versions) {
        for (number, cause) in causes.iter().enumerate() {
            let head = if number == 0 { format!("{version}:") } else { "because".to_string() };
            out.push_str(&format!(
                "  {head} {} = {} in scan {}, by {}: {}\n",
                cause.wrote[0], cause.wrote[1], cause.scan, cause.place, cause.text
            ));
            if !cause.reads.is_empty() {
                let reads: Vec<String> = cause.reads.iter().map(|[n, v]| format!("{n} = {v}")).collect();
                out.push_str(&format!("      with {}\n", reads.join(", ")));
            }
        }
    }
    out.push_str(&format!("  {}\n", e.parting));
    if let Some(afterwards) = &e.afterwards {
        out.push_str(&format!("  {afterwards}\n"));
    }
    for hint in &e.hints {
        out.push_str(&format!("  looks like trap {} ({}): {}\n", hint.trap, hint.title, hint.why));
        out.push_str(&format!("      to mend it, {}\n", hint.mend));
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

pub(super) fn names<'a>(list: impl Iterator<Item = &'a str>) -> String {
    let list: Vec<&str> = list.collect();
    match list.len() {
        0 => "nothing".to_string(),
        n if n > 12 => format!("{}, and {} more", list[..12].join(", "), n - 12),
        _ => list.join(", "),
    }
}

/// `1 scan`, `2,000 scans`, `3 entries`.
pub(super) fn count(number: u64, word: &str) -> String {
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
