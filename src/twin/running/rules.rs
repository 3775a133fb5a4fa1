//! Rules: what must hold in every scan, whichever version runs.

use crate::model::{Duration, Instant, ScanNumber, format_duration};
use crate::scan::Controller;
use crate::twin::{Breach, Twin};
use serde::{Deserialize, Serialize};

/// What a rule says. Expressions are structured text over the names of a version.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Law {
    /// The expression is TRUE at the end of every scan.
    Always(String),
    /// The expression is FALSE at the end of every scan.
    Never(String),
    /// Once the first has become TRUE, the second is TRUE at most so much later (unless the first has become FALSE by
    /// then).
    After(String, String, Duration),
    /// Once the expression has become TRUE it stays so for at least so long.
    Lasts(String, Duration),
}

impl Law {
    /// Whether it speaks of how long something takes: then a STOP that lasts breaks it whatever the program does.
    pub(crate) fn is_timed(&self) -> bool {
        match self {
            Law::Always(_) | Law::Never(_) => false,
            Law::After(..) | Law::Lasts(..) => true,
        }
    }
}

/// A rule.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Rule {
    /// What messages call it.
    pub name: String,
    /// What it says.
    pub law: Law,
}

impl Rule {
    /// That an expression is TRUE at the end of every scan.
    #[must_use]
    pub fn always(expression: &str) -> Rule {
        Rule::of(Law::Always(expression.to_string()))
    }

    /// That an expression is never TRUE at the end of a scan.
    #[must_use]
    pub fn never(expression: &str) -> Rule {
        Rule::of(Law::Never(expression.to_string()))
    }

    /// A rule that is called by what it says.
    #[must_use]
    pub fn of(law: Law) -> Rule {
        Rule { name: law.words(), law }
    }
}

impl Law {
    /// What it says, in words.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Law::Always(e) => format!("always {e}"),
            Law::Never(e) => format!("never {e}"),
            Law::After(a, b, t) => format!("{b} at most {} after {a}", format_duration(*t)),
            Law::Lasts(e, t) => format!("{e} lasts at least {}", format_duration(*t)),
        }
    }

    /// Its expressions.
    #[must_use]
    pub fn expressions(&self) -> Vec<&str> {
        match self {
            Law::Always(e) | Law::Never(e) | Law::Lasts(e, _) => vec![e],
            Law::After(a, b, _) => vec![a, b],
        }
    }
}

/// A scan in which a rule was broken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Broken {
    /// The scan.
    pub scan: ScanNumber,
    /// When it began.
    pub at: Instant,
}

/// Where one rule stands on one side.
#[derive(Clone, Debug, Default)]
struct RuleState {
    before: bool,
    since: i64,
    owed: Option<i64>,
    broken: Option<Broken>,
}

/// All rules on both sides, over one run.
#[derive(Clone, Debug, Default)]
pub(in crate::twin) struct Watch {
    rules: Vec<(Law, [Vec<usize>; 2], [RuleState; 2])>,
}

impl Watch {
    pub(in crate::twin) fn new(twin: &Twin<'_>) -> Watch {
        let rules = twin.rules.iter().zip(&twin.probes).map(|(r, p)| (r.law.clone(), p.clone(), Default::default()));
        Watch { rules: rules.collect() }
    }

    /// Looks at both sides after a scan, which ended at `end`.
    pub(in crate::twin) fn after(&mut self, controllers: &mut [Controller; 2], scan: u64, at: Instant, end: i64) {
        for (law, probes, states) in &mut self.rules {
            for ((controller, probes), state) in controllers.iter_mut().zip(probes).zip(states) {
                // In STOP no scan runs, be it before the first or later; what a fault has stopped breaks no rule any more.
                let is_asked = controller.has_run() && !controller.is_stopped() && controller.fault().is_none();
                if state.broken.is_some() || probes.is_empty() || !is_asked {
                    continue;
                }
                let values: Vec<Option<bool>> = probes.iter().map(|p| controller.ask(*p).map(|v| v != 0)).collect();
                if state.step(law, &values, end) {
                    state.broken = Some(Broken { scan: ScanNumber(scan), at });
                }
            }
        }
    }

    /// Where each rule was broken, left and right.
    pub(in crate::twin) fn broken(&self) -> Vec<[Option<Broken>; 2]> {
        self.rules.iter().map(|(_, _, [left, right])| [left.broken, right.broken]).collect()
    }
}

impl RuleState {
    /// One scan on; true if the rule is broken now. A value that cannot be computed breaks no rule.
    fn step(&mut self, law: &Law, values: &[Option<bool>], now: i64) -> bool {
        let first = values.first().copied().flatten();
        let is = first.unwrap_or(self.before);
        let rises = is && !self.before;
        let falls = !is && self.before;
        self.before = is;
        match law {
            Law::Always(_) => first == Some(false),
            Law::Never(_) => first == Some(true),
            Law::Lasts(_, least) => {
                if rises {
                    self.since = now;
                }
                falls && now - self.since < least.nanos()
            }
            Law::After(_, _, most) => {
                if rises {
                    self.owed = Some(now);
                }
                if !is || values.get(1).copied().flatten() == Some(true) {
                    self.owed = None;
                }
                self.owed.is_some_and(|since| now - since > most.nanos())
            }
        }
    }
}

/// What became of a rule.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct RuleResult {
    /// Its name.
    pub name: String,
    /// True of what a scenario expects, which was played and not searched for.
    pub expected: bool,
    /// Left and right: in which scan it was broken first.
    pub broken: [Option<Broken>; 2],
    /// Left and right: whether it is proved for every input sequence of any length.
    pub proved: [bool; 2],
    /// The shortest scenario that breaks it, replayed, if one was found.
    pub breach: Option<Box<Breach>>,
    /// Versions on which it could not be asked, and why.
    pub unasked: Vec<String>,
}

impl RuleResult {
    /// What messages call it.
    #[must_use]
    pub fn label(&self) -> String {
        if self.expected { self.name.clone() } else { format!("rule {}", self.name) }
    }

    /// True if no version broke it.
    #[must_use]
    pub fn holds(&self) -> bool {
        self.broken.iter().all(Option::is_none)
    }

    /// The scan of the side that broke it first.
    #[must_use]
    pub fn first(&self) -> Option<ScanNumber> {
        self.broken.iter().flatten().map(|b| b.scan).min()
    }
}
