//! What is said of changes, once.

use crate::changes::{Change, Changes, GroupVerdict, Overall, Reach, UnitChange, UnitState, UnitVerdict};
use crate::show::said::count;

/// What is claimed on the whole, in capitals as far as the claim goes.
pub(super) fn headline(changes: &Changes) -> String {
    let [left, right] = &changes.versions;
    match changes.stood.overall {
        Overall::Nothing => format!("NOTHING CHANGED between {left} and {right}"),
        Overall::NothingThatRuns => "NOTHING CHANGED THAT RUNS".to_string(),
        Overall::Changed => "CHANGED; whether it matters was not asked".to_string(),
        Overall::Proved => "CHANGED, AND PROVED TO DO THE SAME for every input sequence of any length".to_string(),
        Overall::Tested => "CHANGED, and no scenario that was tried tells the difference".to_string(),
        Overall::Different => match changes.stood.shown.as_ref().and_then(|shown| shown.output.as_deref()) {
            Some(output) => format!("CHANGED, AND DIFFERENT: {output} first"),
            None => "CHANGED, AND DIFFERENT".to_string(),
        },
        Overall::Undecided => "CHANGED; whether it matters is UNDECIDED".to_string(),
    }
}

/// What limits the claim.
pub(super) fn limits(changes: &Changes) -> Vec<String> {
    let mut out = Vec::new();
    let addresses: usize = changes
        .changes
        .iter()
        .filter(|c| matches!(c.kind, crate::changes::Kind::Address | crate::changes::Kind::Protocol))
        .count();
    let judged = matches!(changes.stood.overall, Overall::Proved | Overall::Tested | Overall::Different);
    if addresses > 0 && judged {
        let moved = count(addresses as u64, "point");
        out.push(format!(
            "behaviour is told by names: the wires of {moved} that stand elsewhere are taken to move along"
        ));
    }
    if !changes.stood.why.is_empty() {
        out.extend(changes.stood.why.lines().map(str::to_string));
    }
    out
}

/// The changes of a group in a line: `3 changes: 2 value, 1 branch`.
pub(super) fn group(of: &GroupVerdict) -> String {
    if of.changes == 0 {
        return "no change".to_string();
    }
    let kinds: Vec<String> = of.kinds.iter().map(|(kind, number)| format!("{number} {}", kind.word())).collect();
    format!("{}: {}", count(of.changes as u64, "change"), kinds.join(", "))
}

/// A unit with what became of it.
pub(super) fn unit(of: &UnitChange) -> String {
    let name = match &of.names {
        [Some(old), Some(new)] if !old.eq_ignore_ascii_case(new) => format!("{old}, now {new}"),
        [Some(name), _] | [None, Some(name)] => name.clone(),
        [None, None] => String::new(),
    };
    let language = match of.languages {
        [Some(old), Some(new)] if old != new => format!("{}, now {}", old.title(), new.title()),
        [Some(only), _] | [None, Some(only)] => only.title().to_string(),
        [None, None] => String::new(),
    };
    format!("{} {name} ({language})", of.kind)
}

/// What became of a unit.
pub(super) const fn state(of: UnitState) -> &'static str {
    match of {
        UnitState::Same => "the same",
        UnitState::Texts => "other texts only",
        UnitState::Renamed => "renamed",
        UnitState::Changed => "changed",
        UnitState::OnlyLeft => "removed",
        UnitState::OnlyRight => "added",
    }
}

/// What a verdict says of a unit by itself.
pub(super) fn verdict(of: &UnitVerdict) -> String {
    let with = if of.with.is_empty() { String::new() } else { format!(" with {}", of.with.join(" and ")) };
    match of.outcome {
        Overall::Nothing | Overall::NothingThatRuns | Overall::Changed => String::new(),
        Overall::Proved => format!("by itself{with} proved to do the same"),
        Overall::Tested => format!("by itself{with} no scenario that was tried tells the difference"),
        Overall::Different => match (&of.output, &of.values, of.scan) {
            (Some(output), Some([left, right]), Some(scan)) => {
                format!(
                    "by itself{with} different: {output} is {left} on the left and {right} on the right in scan {scan}"
                )
            }
            _ => format!("by itself{with} different: {}", of.why),
        },
        Overall::Undecided => {
            let why = of.why.lines().next().unwrap_or_default();
            format!("by itself{with} undecided: {why}")
        }
    }
}

/// What a change is, in a few words: `value, network 3`.
pub(super) fn title(change: &Change) -> String {
    let network = change.sides.iter().flatten().find_map(|spot| spot.network);
    let subject = match (change.subject.as_str(), network) {
        ("network", Some(network)) => format!("network {network}"),
        ("", Some(network)) => format!("network {network}"),
        (subject, Some(network)) => format!("{subject} in network {network}"),
        (subject, None) => subject.to_string(),
    };
    format!("{} {}: {subject}", change.group.word(), change.kind.word())
}

/// Outputs that are named in one line at most.
const MOST_NAMED: usize = 12;

/// Names in a row; of very many only the first.
pub(super) fn named(names: &[String]) -> String {
    let more = names.len().saturating_sub(MOST_NAMED);
    let first = names.iter().take(MOST_NAMED).cloned().collect::<Vec<_>>().join(", ");
    if more == 0 { first } else { format!("{first} and {more} more") }
}

/// What a change can reach.
pub(super) fn reach(of: &Reach) -> String {
    match of {
        Reach::Nothing => String::new(),
        Reach::Outputs(names) if names.is_empty() => "reaches no output".to_string(),
        Reach::Outputs(names) => format!("may reach {}", named(names)),
        Reach::Everything(why) => format!("may reach every output: {why}"),
    }
}

/// Changes as rows of a table: number, what, how, what it may reach.
pub(in crate::show) fn rows(changes: &Changes) -> Vec<[String; 4]> {
    let how = |change: &Change| match (&change.sides, change.note.is_empty()) {
        (_, false) => change.note.clone(),
        ([Some(left), Some(right)], true) => format!("{} became {}", left.text, right.text),
        ([Some(only), None] | [None, Some(only)], true) => only.text.clone(),
        ([None, None], true) => String::new(),
    };
    let unit = |change: &Change| change.unit.as_ref().map_or(String::new(), |unit| format!("{unit}, "));
    let each = changes.changes.iter().map(|change| {
        [change.number.to_string(), format!("{}{}", unit(change), title(change)), how(change), reach(&change.reach)]
    });
    each.collect()
}
