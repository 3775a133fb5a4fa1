//! What is claimed of two projects: group by group, unit by unit, and on the whole.

use super::{Change, Changes, GROUPS, Group, Kind, Reach, UnitChange, UnitState};
use crate::twin::{Difference, Verdict};
use schemars::JsonSchema;
use serde::Serialize;
use std::collections::BTreeMap;

/// What is claimed on the whole.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Overall {
    /// Nothing at all changed.
    #[default]
    Nothing,
    /// Nothing changed that runs: comments, layout, names.
    NothingThatRuns,
    /// What runs changed; whether that matters was not asked.
    Changed,
    /// What runs changed, and does the same for every input sequence of any length.
    Proved,
    /// What runs changed, and no scenario that was tried tells the difference.
    Tested,
    /// They do not do the same.
    Different,
    /// What runs changed, and nothing can be said.
    Undecided,
}

/// How many changes a group has.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct GroupVerdict {
    /// The group.
    pub group: Group,
    /// How many changes.
    pub changes: usize,
    /// Of which kinds.
    pub kinds: Vec<(Kind, usize)>,
}

/// What is claimed.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Stood {
    /// On the whole.
    pub overall: Overall,
    /// Why it is undecided; empty if it is not.
    pub why: String,
    /// Of each group.
    pub groups: Vec<GroupVerdict>,
    /// The shortest scenario in which both sides as a whole part, if they do.
    pub shown: Option<UnitVerdict>,
}

/// Whether a changed unit matters.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct UnitVerdict {
    /// What is claimed.
    pub outcome: Overall,
    /// What was taken from the right beside the unit.
    pub with: Vec<String>,
    /// Why it is undecided; empty if it is not.
    pub why: String,
    /// The output that differs first.
    pub output: Option<String>,
    /// Its values, left and right.
    pub values: Option<[String; 2]>,
    /// In which scan.
    pub scan: Option<u64>,
    /// The shortest scenario that shows it, line by line.
    pub scenario: Vec<String>,
}

impl UnitVerdict {
    /// What a verdict says of a change.
    #[must_use]
    pub fn of(verdict: &Verdict, with: Vec<String>) -> UnitVerdict {
        let plain =
            |outcome: Overall, why: String| UnitVerdict { with: with.clone(), ..UnitVerdict::plain(outcome, why) };
        match verdict {
            Verdict::Proved(_) => plain(Overall::Proved, String::new()),
            Verdict::Tested(_) => plain(Overall::Tested, String::new()),
            Verdict::Different(difference) => UnitVerdict { with: with.clone(), ..UnitVerdict::different(difference) },
            Verdict::Broken(_) => plain(Overall::Different, "a rule is broken".to_string()),
            Verdict::Undecided { reason, .. } => plain(Overall::Undecided, reason.clone()),
        }
    }

    fn different(difference: &Difference) -> UnitVerdict {
        UnitVerdict {
            output: Some(difference.name.clone()),
            values: Some(difference.sides.each_ref().map(|side| side.value.clone())),
            scan: Some(difference.scan.0),
            scenario: difference.explanation.script.clone(),
            ..UnitVerdict::plain(Overall::Different, String::new())
        }
    }

    /// A unit of which nothing can be said by itself.
    #[must_use]
    pub fn together(why: impl Into<String>) -> UnitVerdict {
        UnitVerdict::plain(Overall::Undecided, why.into())
    }

    /// One that no scenario shows.
    fn plain(outcome: Overall, why: String) -> UnitVerdict {
        UnitVerdict { outcome, with: Vec::new(), why, output: None, values: None, scan: None, scenario: Vec::new() }
    }
}

impl Changes {
    /// Counts changes by groups, and says what is known without a prover.
    pub(super) fn stand(&mut self) {
        let count = |group: Group| {
            let mut kinds: BTreeMap<Kind, usize> = BTreeMap::new();
            let own = self.changes.iter().filter(|change| change.group == group);
            own.for_each(|change| *kinds.entry(change.kind).or_default() += 1);
            GroupVerdict { group, changes: kinds.values().sum(), kinds: kinds.into_iter().collect() }
        };
        self.stood.groups = GROUPS.iter().map(|group| count(*group)).collect();
        self.stood.overall = match (self.changes.is_empty(), self.any_runs()) {
            (true, _) => Overall::Nothing,
            (false, false) => Overall::NothingThatRuns,
            (false, true) => Overall::Changed,
        };
    }

    /// Takes what a comparison or a proof said of both projects as a whole.
    pub fn judge(&mut self, verdict: &Verdict) {
        let said = UnitVerdict::of(verdict, Vec::new());
        self.stood.overall = match (said.outcome, self.any_runs()) {
            // A rule that is broken on both sides, or an assumption, is no change.
            (Overall::Proved | Overall::Tested | Overall::Undecided, false) => self.stood.overall,
            (outcome, _) => outcome,
        };
        self.stood.why.clone_from(&said.why);
        self.stood.shown = Some(said).filter(|said| said.outcome == Overall::Different);
    }

    /// Takes what was said of a unit by itself.
    pub fn judge_unit(&mut self, unit: &str, verdict: UnitVerdict) {
        if let Some(own) = self.units.iter_mut().find(|own| own.name() == unit) {
            own.verdict = Some(verdict);
        }
    }
}

/// What became of a unit, by its changes.
pub(super) fn state(unit: &UnitChange, changes: &[Change]) -> UnitState {
    match unit.state {
        UnitState::OnlyLeft | UnitState::OnlyRight => return unit.state,
        UnitState::Same | UnitState::Texts | UnitState::Renamed | UnitState::Changed => {}
    }
    let own = || unit.changes.iter().filter_map(|number| changes.get(number - 1));
    let renamed = own().any(|change| change.kind == Kind::Renamed && change.subject == unit.kind);
    match (own().all(|change| change.group == Group::Texts), renamed, unit.changes.is_empty()) {
        (_, _, true) => UnitState::Same,
        (true, true, _) => UnitState::Renamed,
        (true, false, _) => UnitState::Texts,
        (false, _, _) => UnitState::Changed,
    }
}

impl Change {
    /// True of what is a part of what runs.
    #[must_use]
    pub fn runs(&self) -> bool {
        self.reach != Reach::Nothing
    }
}
