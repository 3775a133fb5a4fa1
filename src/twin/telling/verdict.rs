//! What a comparison found out.

use crate::model::Duration;
use crate::twin::{Coverage, Difference, Ended, Pairing, RuleResult, Scenario, Spread, Twin};
use serde::Serialize;

/// What a comparison found out.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase", tag = "verdict")]
#[non_exhaustive]
pub enum Verdict {
    /// No difference was found; how much was tried. This is no proof.
    Tested(Box<Tested>),
    /// They agree for every input sequence of any length.
    Proved(Box<Proved>),
    /// They differ; a replayed scenario shows it.
    Different(Box<Difference>),
    /// One version by itself breaks a rule; a replayed scenario shows it.
    Broken(Box<RulesBroken>),
    /// Nothing can be said.
    Undecided {
        /// Why.
        reason: String,
        /// What of it is proved, if anything was found.
        proved: Vec<ProvedPart>,
        /// The names of both versions.
        versions: [String; 2],
        /// What became of the rules, if scenarios were tried.
        rules: Vec<RuleResult>,
    },
}

impl Verdict {
    /// Nothing can be said, for this reason, but what became of the rules.
    pub(crate) fn undecided(twin: &Twin<'_>, reason: String, rules: Vec<RuleResult>) -> Verdict {
        let versions = [twin.left.name.clone(), twin.right.name.clone()];
        Verdict::Undecided { reason, proved: Vec::new(), versions, rules }
    }

    /// What became of the rules.
    #[must_use]
    pub fn rules(&self) -> &[RuleResult] {
        match self {
            Verdict::Tested(tested) => &tested.rules,
            Verdict::Proved(proved) => &proved.rules,
            Verdict::Different(difference) => &difference.rules,
            Verdict::Broken(broken) => &broken.rules,
            Verdict::Undecided { rules, .. } => rules,
        }
    }

    pub(crate) fn rules_mut(&mut self) -> &mut [RuleResult] {
        match self {
            Verdict::Tested(tested) => &mut tested.rules,
            Verdict::Proved(proved) => &mut proved.rules,
            Verdict::Different(difference) => &mut difference.rules,
            Verdict::Broken(broken) => &mut broken.rules,
            Verdict::Undecided { rules, .. } => rules,
        }
    }
}

/// One version by itself, and the rules it was asked, at least one of which it breaks.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct RulesBroken {
    /// The name of the version, twice.
    pub versions: [String; 2],
    /// What was driven.
    pub pairing: Pairing,
    /// What became of the rules; each that is broken has its [`crate::twin::Breach`].
    pub rules: Vec<RuleResult>,
    /// The scan time, in words.
    pub scan_time: String,
    /// Scenarios run until then; 0 if the solver found it.
    pub scenarios: u64,
    /// Scans run until then.
    pub scans: u64,
    /// What is assumed.
    pub assumptions: Vec<String>,
}

impl RulesBroken {
    /// The broken rule to be told first: the one that takes the fewest scans.
    #[must_use]
    pub fn first(&self) -> Option<&RuleResult> {
        // One whose scenario can be shown, if there is one.
        let broken = self.rules.iter().filter(|rule| !rule.holds());
        broken.min_by_key(|rule| (rule.breach.is_none(), rule.first()))
    }
}

/// What is proved of versions that do not agree, or not provably, in everything.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ProvedPart {
    /// Outputs that agree for every input sequence of any length.
    pub outputs: Vec<String>,
    /// Outputs of which that is not proved.
    pub others: Vec<String>,
    /// What that takes; nothing if it is always so.
    pub conditions: Vec<String>,
}

/// What [`Verdict::Proved`] rests on.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Proved {
    /// The names of both versions.
    pub versions: [String; 2],
    /// What was compared.
    pub pairing: Pairing,
    /// Facts about what both versions remember that hold at power-up and that every scan keeps.
    pub facts: usize,
    /// Rounds in which facts were let go, the last one included, in which none was.
    pub rounds: u32,
    /// Questions that were put before the solver.
    pub questions: u64,
    /// Bits that both versions remember together.
    pub bits: usize,
    /// Nodes of one scan of both.
    pub gates: usize,
    /// Whether it is proved of STOP and RUN as well, given to both.
    pub stops: Stops,
    /// What became of the rules; each says whether it is proved or only tested.
    pub rules: Vec<RuleResult>,
    /// What is assumed.
    pub assumptions: Vec<String>,
}

/// How far a proof takes in STOP and RUN, given to both versions.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stops {
    /// At any moment.
    Included,
    /// At any moment but between power-up and the first scan.
    AfterFirstScan,
    /// Not at all: it stands as long as no STOP is given.
    Excluded,
}

/// How far the solver has found that no inputs part the versions: all that can be given in so many scans.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Solved {
    /// Scans from power-up; 0 if it gave up there.
    pub from_power_up: usize,
    /// Outputs of a large program, which is asked part by part, of which nothing is said from power-up, as it gave up on their part.
    pub unanswered: usize,
    /// States that scenarios reached, from which it looked as well.
    pub states: usize,
    /// Scans from each of these.
    pub scans: usize,
    /// Where it gave up: from power-up or from a state.
    pub open: usize,
    /// Outputs that are proved the same in every scan as long as no STOP is given. From the states only the others were asked.
    pub proved: usize,
}

/// What [`Verdict::Tested`] rests on.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Tested {
    /// The names of both versions.
    pub versions: [String; 2],
    /// What was compared.
    pub pairing: Pairing,
    /// What ended the search.
    pub ended: Ended,
    /// Scenarios run.
    pub scenarios: u64,
    /// Scans run on each side.
    pub scans: u64,
    /// Scans run on each side by the circuit, 256 scenarios at a time, on top of those; what they cover is not noted.
    pub wide: u64,
    /// Why there is no circuit of the versions, if there is none.
    pub no_circuit: Option<String>,
    /// What the solver was asked, if it was.
    pub solver: Option<Solved>,
    /// Machine time that went by on each side.
    pub machine_time: Duration,
    /// Power cycles among them.
    pub power_cycles: u64,
    /// The seed the scenarios were drawn from.
    pub seed: u64,
    /// Scenarios that were kept because they covered something new.
    pub kept: usize,
    /// What was seen of each version.
    pub coverage: [Coverage; 2],
    /// Paired outputs that never changed in any scenario: nothing was learnt about them.
    pub never_changed: Vec<String>,
    /// Scenarios in which both sides stopped with the same fault.
    pub faults: u64,
    /// Of outputs that need not agree in every scan: how far apart their changes got, in the order of the pairing;
    /// empty if all had to agree exactly.
    pub spreads: Vec<Spread>,
    /// What became of the rules.
    pub rules: Vec<RuleResult>,
    /// One of the scenarios that were kept, to be looked at.
    pub sample: Scenario,
    /// Seeded faults, if any were tried.
    pub strength: Option<crate::twin::Strength>,
    /// What is assumed.
    pub assumptions: Vec<String>,
}
