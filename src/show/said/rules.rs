//! What became of rules and of what scenarios expect.

use super::shown::{self, Shown};
use crate::twin::RuleResult;

/// A rule, and how it is broken.
pub(in crate::show) struct RuleSaid {
    /// What messages call it.
    pub(in crate::show) label: String,
    /// What became of it.
    pub(in crate::show) text: String,
    pub(in crate::show) is_broken: bool,
    /// True if no version could be asked.
    pub(in crate::show) is_unasked: bool,
    /// How it is broken: a heading, and the scenario. Nothing where the whole verdict is about this scenario.
    pub(in crate::show) shown: Option<(String, Shown)>,
}

/// All rules; `told` is the one whose scenario the verdict shows already.
pub(super) fn rules(list: &[RuleResult], versions: &[String; 2], told: Option<&RuleResult>) -> Vec<RuleSaid> {
    let is_told = |rule: &RuleResult| told.is_some_and(|told| std::ptr::eq(told, rule));
    let one = |rule: &RuleResult| RuleSaid {
        label: rule.label(),
        text: rule_text(rule, versions),
        is_broken: !rule.holds(),
        is_unasked: rule.holds() && rule.unasked.len() == 2,
        shown: rule.breach.as_deref().filter(|_| !is_told(rule)).map(|breach| {
            let label = super::capital(&rule.label());
            (format!("{label} is broken by {} {}", breach.version, when(rule)), shown::breach(breach))
        }),
    };
    list.iter().map(one).collect()
}

/// The scan in which a rule is broken first, and its moment.
pub(super) fn when(rule: &RuleResult) -> String {
    let Some(first) = rule.broken.iter().flatten().min_by_key(|broken| broken.scan) else { return String::new() };
    format!("in scan {} ({})", first.scan.0, super::since_power_up(first.at))
}

fn rule_text(rule: &RuleResult, versions: &[String; 2]) -> String {
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
        .filter_map(|(b, version)| b.map(|b| format!("{version} breaks it in scan {}", b.scan.0)))
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
