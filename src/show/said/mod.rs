//! What a verdict says, once. The terminal, the page and the build server each lay the same sentences out in their own way
//! and add none about what is claimed.

mod coverage;
mod rules;
mod same;
mod shown;
mod words;

pub(super) use coverage::Covered;
pub(super) use rules::RuleSaid;
use rules::when;
pub(super) use shown::{Shown, ShownSide, Traces};
pub(super) use words::{capital, count, names, reads};

use crate::model::{Duration, Instant, format_duration};
use crate::twin::{Alone, Difference, Pairing, ProvedPart, RulesBroken, Stops, Verdict};
use serde::Serialize;

/// The kinds of verdict, as a page marks them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum VerdictKind {
    Proved,
    Tested,
    Different,
    Broken,
    Undecided,
}

/// A term and what is said of it: `found`, `by the solver`.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(super) struct Term {
    pub(super) name: &'static str,
    pub(super) text: String,
}

impl Term {
    pub(super) fn new(name: &'static str, text: impl Into<String>) -> Term {
        Term { name, text: text.into() }
    }
}

/// What a verdict says.
pub(super) struct Said {
    pub(super) kind: VerdictKind,
    /// What is claimed: `Proved the same`.
    pub(super) claim: String,
    /// How far the claim goes, right behind it: ` for every input sequence of any length, ...`.
    pub(super) reach: String,
    /// What limits it: points without a partner, terminals that were exchanged.
    pub(super) limits: Vec<String>,
    /// What explains the claim, in whole sentences.
    pub(super) sentences: Vec<String>,
    /// What it rests on.
    pub(super) basis: Vec<Term>,
    /// What of it is proved though the whole is not.
    pub(super) proved: Vec<PartSaid>,
    /// What was compared and driven.
    pub(super) scope: Vec<Term>,
    pub(super) covered: Option<Covered>,
    pub(super) strength: Option<StrengthSaid>,
    /// How far apart outputs got that need not agree in every scan.
    pub(super) spreads: Vec<SpreadSaid>,
    /// The scenario of a difference or of the first broken rule.
    pub(super) shown: Option<Shown>,
    pub(super) rules: Vec<RuleSaid>,
    /// Points without a partner that limit nothing.
    pub(super) unpaired: Vec<String>,
    pub(super) assumed: Vec<String>,
    /// What a reader has to know about verdicts of this kind.
    pub(super) closing: &'static str,
}

/// A part that is proved.
pub(super) struct PartSaid {
    /// In which outputs, if not in all: ` in Alarm, Lamp`.
    pub(super) of: String,
    /// How far the claim goes, right behind that.
    pub(super) reach: &'static str,
    /// Outputs of the part.
    pub(super) outputs: Vec<String>,
    pub(super) conditions: Vec<String>,
}

impl PartSaid {
    /// What is claimed of a part.
    pub(super) const CLAIM: &'static str = "Proved the same";
}

/// What is said of a version in which nothing wrote what differs or what a rule reads.
pub(super) const NO_CAUSE: &str = "nothing wrote it so far: it is given, or as it is at power-up";

/// How many of the seeded faults were found.
pub(super) struct StrengthSaid {
    pub(super) sentence: String,
    /// VerdictKind, place, text, and whether it was found.
    pub(super) faults: Vec<[String; 4]>,
    /// Lines about those that were not found.
    pub(super) missed: Vec<String>,
}

/// How far apart the changes of an output got.
#[derive(Clone, Debug, Serialize)]
pub(super) struct SpreadSaid {
    pub(super) output: String,
    pub(super) changes: u64,
    pub(super) worst: String,
    /// How many changes were how many moments apart, from 0 on.
    pub(super) bars: String,
}

/// How far a proof goes.
fn for_every(stops: Stops) -> &'static str {
    match stops {
        Stops::Included => " for every input sequence of any length, STOP and RUN included",
        Stops::AfterFirstScan => {
            " for every input sequence of any length, STOP and RUN included but between power-up and the first scan"
        }
        Stops::Excluded => " for every input sequence of any length, as long as no STOP is given",
    }
}

const DIFFERS: &str =
    "A difference is certain: its scenario was replayed scan by scan, from its text, before it was shown.";

/// What a verdict says.
pub(super) fn said(verdict: &Verdict) -> Said {
    match verdict {
        Verdict::Proved(proved) => same::proved(proved),
        Verdict::Tested(tested) => same::tested(tested),
        Verdict::Different(difference) => different(difference),
        Verdict::Broken(rules) => broken(rules),
        Verdict::Undecided { reason, proved, versions, rules } => Said {
            sentences: vec![reason.clone()],
            proved: parts(proved),
            rules: rules::rules(rules, versions, None),
            ..Said::new(VerdictKind::Undecided, "Undecided".to_string(), String::new())
        },
    }
}

impl Said {
    fn new(kind: VerdictKind, claim: String, reach: String) -> Said {
        let closing = match kind {
            VerdictKind::Proved => "A proof is worth what its assumptions are worth; they are printed with it.",
            VerdictKind::Tested => "Tested is not proved: a verdict claims no more than what it is said to rest on.",
            VerdictKind::Different => DIFFERS,
            VerdictKind::Broken => {
                "A broken rule is certain: its scenario was replayed scan by scan, from its text, before it was shown."
            }
            VerdictKind::Undecided => "Nothing was decided, and nothing is claimed of what is not said to be proved.",
        };
        Said {
            kind,
            claim,
            reach,
            limits: Vec::new(),
            sentences: Vec::new(),
            basis: Vec::new(),
            proved: Vec::new(),
            scope: Vec::new(),
            covered: None,
            strength: None,
            spreads: Vec::new(),
            shown: None,
            rules: Vec::new(),
            unpaired: Vec::new(),
            assumed: Vec::new(),
            closing,
        }
    }

    /// With what a pairing says: limits, what was compared and driven, and who has no partner.
    fn about(mut self, pairing: &Pairing) -> Said {
        self.limits = pairing.limits();
        if !pairing.single {
            let outputs = pairing.outputs.iter().map(|pair| pair.name.as_str());
            self.scope.push(Term::new("compared", names(outputs)));
        }
        let inputs = pairing.inputs.iter().map(|pair| pair.name.as_str());
        self.scope.push(Term::new("driven", names(inputs)));
        self.unpaired = unread(pairing).map(ToString::to_string).collect();
        self
    }

    /// The claim and how far it goes, on a line.
    pub(super) fn headline(&self) -> String {
        format!("{}{}", self.claim, self.reach)
    }
}

/// What a headline says where differences are known.
fn but_known(pairing: &Pairing) -> &'static str {
    if pairing.known.is_empty() { "" } else { " but for what is known" }
}

/// Inputs that nobody reads, so that they limit nothing.
fn unread(pairing: &Pairing) -> impl Iterator<Item = &Alone> {
    pairing.alone.iter().filter(|alone| !alone.agreed && alone.kind != "output")
}

fn parts(parts: &[ProvedPart]) -> Vec<PartSaid> {
    let part = |part: &ProvedPart| {
        let of = match part.others.is_empty() {
            true => String::new(),
            false => format!(" in {}", names(part.outputs.iter().map(String::as_str))),
        };
        PartSaid {
            of,
            reach: for_every(Stops::Excluded),
            outputs: part.outputs.clone(),
            conditions: part.conditions.clone(),
        }
    };
    parts.iter().map(part).collect()
}

fn different(d: &Difference) -> Said {
    let at = since_power_up(d.at);
    let side = |side: &crate::twin::Side| {
        let by = match &side.writer {
            Some(writer) => format!(", by {}: {}", writer.place, writer.text),
            None if d.pairing.is_unwired(&d.name) && side.version == d.versions[1] => String::new(),
            None => ", never written so far".to_string(),
        };
        format!("{}: {}{by}", side.version, side.value)
    };
    let unmet = d.unmet.iter().map(|u| {
        let at = format_duration(u.at.0);
        format!(
            "{}: {} changed to {} by {at}, and the other has no such change {}",
            u.version, d.name, u.value, u.tolerance
        )
    });
    let mut assumed = vec![format!("both versions scan at {}", d.scan_time)];
    assumed.extend(d.assumed.iter().cloned());
    let shrunk = format!("{} in {}", count(d.happenings, "change"), count(d.scan.0 + 1, "scan"));
    Said {
        sentences: d.sides.iter().map(side).chain(unmet).collect(),
        basis: vec![
            Term::new("found", found(d.scenarios, d.scans)),
            Term::new("shrunk", format!("to {shrunk}, replayed")),
        ],
        proved: parts(&d.proved),
        shown: Some(shown::difference(d)),
        rules: rules::rules(&d.rules, &d.versions, None),
        assumed,
        ..Said::new(
            VerdictKind::Different,
            "Different".to_string(),
            format!(": {} in scan {} ({at})", d.name, d.scan.0),
        )
        .about(&d.pairing)
    }
}

fn broken(b: &RulesBroken) -> Said {
    let first = b.first();
    let told = first.and_then(|rule| Some((rule, rule.breach.as_deref()?)));
    let reach = first.map_or(String::new(), |rule| format!(": {} {}", rule.label(), when(rule)));
    let mut out = Said::new(VerdictKind::Broken, "Broken".to_string(), reach).about(&b.pairing);
    out.basis.push(Term::new(
        "found",
        match first.is_some_and(|rule| rule.expected) {
            true => "in a scenario that was given".to_string(),
            false => found(b.scenarios, b.scans),
        },
    ));
    if let Some((_, breach)) = told {
        let shown = format!("{} in {}", count(breach.happenings, "change"), count(breach.scan.0 + 1, "scan"));
        out.sentences.push(format!("It reads {}.", reads(&breach.values)));
        out.basis.push(Term::new("shown", format!("by {shown}, replayed")));
        out.shown = Some(Shown { parting: None, ..shown::breach(breach) });
    }
    out.rules = rules::rules(&b.rules, &b.versions, told.map(|(rule, _)| rule));
    out.assumed.clone_from(&b.assumptions);
    out
}

/// A moment in words.
fn since_power_up(at: Instant) -> String {
    match at.0 {
        Duration::ZERO => "at power-up".to_string(),
        after => format!("after {}", format_duration(after)),
    }
}

/// How it was found.
fn found(scenarios: u64, scans: u64) -> String {
    match scenarios {
        0 => "by the solver".to_string(),
        number => format!("in scenario {number} after {}", count(scans, "scan")),
    }
}
