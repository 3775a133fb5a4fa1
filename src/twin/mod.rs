//! Two versions side by side: pairing, scenarios, comparison, shrinking, explanation, and the verdict.
//!
//! A [`Twin`] says what is compared: two versions, which point of one belongs to which of the other, how they share time,
//! how exactly they must agree, and rules that hold on both. [`compare`] tries scenarios, each drawn from a seed and
//! a number, so that the same call tries the same; what covers something new is kept and bred from. A verdict never
//! claims more than it knows: [`Verdict::Tested`] says how much was tried and how strong it was;
//! [`Verdict::Different`] holds a scenario that was replayed, from the very text that is printed, before anyone sees
//! it.

mod compared;
mod generation;
mod running;
mod scenarios;
mod searching;
mod strength;
mod telling;

pub use compared::file;
use compared::{alone, assumed, errors, known, pair, reading, save, terminals, timing};
use generation::{generate, vocabulary};
use running::{both, coverage, laid, matching, monitor, rules, run, wide};
pub use scenarios::script;
use scenarios::{replay, scenario, texts};
use searching::{effort, onward, search, shrink, trial};
use telling::{breach, difference, explain, verdict};

pub use alone::Alone;
pub use assumed::Assumption;
pub use breach::{Breach, BreachRow, Judged};
pub use coverage::{Coverage, CoveragePlace, Share};
pub use difference::{Difference, ScanRow, Side, Unmet, What, WrittenBy};
pub use effort::{Activity, Effort, Ended, Guidance, Progress};
pub use errors::{AssumeError, FileError, PairError, ResumeError, TimeError};
pub use explain::{Cause, Explanation, Hint};
pub use known::{Known, KnownError};
pub use matching::Spread;
pub use pair::{NO_INPUTS, Pair, Pairing, Tolerance};
pub use reading::Mapping;
pub(crate) use replay::moves;
pub use replay::{controllers, traces};
pub use rules::{Broken, Law, Rule, RuleResult};
pub use scenario::{Act, Change, Leaf, Leaves, Scenario};
pub(crate) use search::searched;
pub use search::{Search, SearchState, compare, compare_twin};
pub use strength::{Mutation, SeededFault, Strength, strength};
pub use terminals::Moved;
pub use timing::Timing;
pub use verdict::{Proved, ProvedPart, RulesBroken, Solved, Stops, Tested, Verdict};

pub(crate) use assumed::Allowed;
pub(crate) use both::{Begin, Both, Outset, is_whole};
pub(crate) use difference::shown;
pub(crate) use onward::{Now, onward};
pub(crate) use run::{pair_agrees, sets};
pub(crate) use strength::{faulty, without_rules};
pub(crate) use timing::Pace;
pub(crate) use wide::{Feed, Stimuli, rest as at_rest};

use crate::check::{Checked, Probe, probe};
use crate::model::Value;
use crate::scan::ScanTime;
use crate::scan::{BuildError, Machine, PointId};
use std::borrow::Cow;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// A version that takes part in a comparison: a project, and what it was compiled to.
#[derive(Clone, Debug)]
pub struct Version {
    pub(crate) name: String,
    pub(crate) checked: Arc<Checked>,
    pub(crate) machine: Machine,
    /// What its rules ask.
    pub(crate) probes: Vec<Probe>,
}

/// The numbers of a rule's probes on one side, or why it cannot be asked there.
type Asked = Result<Vec<usize>, String>;

/// A version with a machine that can be asked.
#[derive(Clone)]
struct Asking {
    version: Version,
    /// Of each rule.
    rules: Vec<Asked>,
    /// Of each known difference the number of its condition's probe.
    known: Vec<Option<usize>>,
}

impl Version {
    /// Compiles a checked project for comparison.
    ///
    /// # Errors
    /// [`BuildError`] if it has no program or is too large.
    pub fn new(name: impl Into<String>, checked: Checked) -> Result<Version, BuildError> {
        let machine = Machine::new(&checked)?;
        Ok(Version { name: name.into(), checked: Arc::new(checked), machine, probes: Vec::new() })
    }

    /// What messages call it.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The project.
    #[must_use]
    pub fn checked(&self) -> &Checked {
        &self.checked
    }

    /// The project, compiled.
    #[must_use]
    pub fn machine(&self) -> &Machine {
        &self.machine
    }

    /// The same by another name.
    #[must_use]
    pub fn called(self, name: impl Into<String>) -> Version {
        Version { name: name.into(), ..self }
    }

    /// The version with a machine that can be asked the rules, and of each rule the numbers of its probes, or why it cannot
    /// be asked.
    fn asking(&self, rules: &[Rule], conditions: Vec<Option<Probe>>) -> Result<Asking, BuildError> {
        let mut probes = Vec::new();
        let mut known = Vec::new();
        for condition in conditions {
            known.push(condition.is_some().then_some(probes.len()));
            probes.extend(condition);
        }
        let mut asked = Vec::new();
        for rule in rules {
            let found: Result<Vec<_>, String> =
                rule.law.expressions().into_iter().map(|text| self.asked(text)).collect();
            asked.push(found.map(|found| {
                let first = probes.len();
                probes.extend(found);
                (first..probes.len()).collect()
            }));
        }
        let machine = Machine::with_probes(&self.checked, &probes)?;
        Ok(Asking { version: Version { machine, probes, ..self.clone() }, rules: asked, known })
    }

    fn asked(&self, text: &str) -> Result<Probe, String> {
        match probe(&self.checked, text) {
            Ok(found) if found.is_bool() => Ok(found),
            Ok(_) => Err(format!("{}: `{text}` is not BOOL", self.name)),
            Err(why) => Err(format!("{}: {why}", self.name)),
        }
    }
}

/// Ends what goes on with a twin, from another thread: whoever has a clock lets it ring. Clones are one and the same.
#[derive(Clone, Debug, Default)]
pub struct Halt(Arc<AtomicBool>);

impl Halt {
    /// From now on nothing new is begun; what is undecided then stays so.
    pub fn ring(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether it has rung.
    #[must_use]
    pub fn has_rung(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// What is compared, and how.
///
/// Rules are asked of both versions when they are given, so none can hold that never was:
/// ```compile_fail
/// # use honest_twin::twin::{Rule, Twin};
/// fn past_asking(twin: &mut Twin<'_>, rules: Vec<Rule>) {
///     twin.rules = rules;
/// }
/// ```
/// A version is one project, and pairs are found, named or agreed to, never dropped:
/// ```compile_fail
/// # use honest_twin::twin::{Twin, Version};
/// fn of_two(old: Version, new: Version) -> Version {
///     Version { name: "both".to_string(), ..new }
/// }
/// ```
/// ```compile_fail
/// # use honest_twin::twin::Twin;
/// fn dropped(twin: &mut Twin<'_>) {
///     twin.pairing.alone.clear();
/// }
/// ```
#[derive(Clone, Debug)]
pub struct Twin<'v> {
    /// One version; scenarios speak its names.
    pub(crate) left: Cow<'v, Version>,
    /// The other.
    pub(crate) right: Cow<'v, Version>,
    /// Which point belongs to which.
    pub pairing: Pairing,
    /// How they share time.
    pub timing: Timing,
    /// What must hold on both.
    pub(crate) rules: Vec<Rule>,
    /// What is taken for granted of the outside.
    pub(crate) assumed: Vec<Assumption>,
    /// Scenarios to try before any is drawn.
    pub given: Vec<Scenario>,
    /// Scenarios that expected something; of one version by itself the verdict holds what became of them.
    pub judged: Vec<Judged>,
    /// Ends the search or the proof before its time.
    pub halt: Halt,
    /// Strings that inputs are given.
    pub(crate) texts: texts::Texts,
    /// Strings that outputs have shown, so that two of them are the same where their numbers are.
    pub(crate) shown: texts::Texts,
    /// Numbers of the probes of each rule, left and right; none where it cannot be asked.
    probes: Vec<[Vec<usize>; 2]>,
    /// Rules that could not be asked of a version, and why.
    unasked: Vec<Vec<String>>,
    /// Differences that are known, as they are asked of both versions.
    masked: Vec<known::Masked>,
}

impl<'v> Twin<'v> {
    /// Both machines.
    pub(crate) fn machines(&self) -> [&Machine; 2] {
        [&self.left.machine, &self.right.machine]
    }

    /// Two versions, paired by name, in lockstep with 10 ms a scan, to be met exactly.
    #[must_use]
    pub fn new(left: &'v Version, right: &'v Version) -> Twin<'v> {
        Twin {
            pairing: Pairing::by_name(left, right),
            left: Cow::Borrowed(left),
            right: Cow::Borrowed(right),
            timing: Timing::default(),
            rules: Vec::new(),
            assumed: Vec::new(),
            given: Vec::new(),
            judged: Vec::new(),
            halt: Halt::default(),
            texts: texts::Texts::new([left, right]),
            shown: texts::Texts::default(),
            probes: Vec::new(),
            unasked: Vec::new(),
            masked: Vec::new(),
        }
    }

    /// One version by itself, with 10 ms a scan: nothing is compared, and what is asked are rules.
    #[must_use]
    pub fn single(version: &'v Version) -> Twin<'v> {
        Twin { pairing: Pairing::single(version), ..Twin::new(version, version) }
    }

    /// The same, on its own: it borrows no version.
    #[must_use]
    pub fn into_owned(self) -> Twin<'static> {
        let owned = |version: Cow<'v, Version>| Cow::Owned(version.into_owned());
        Twin {
            left: owned(self.left),
            right: owned(self.right),
            pairing: self.pairing,
            timing: self.timing,
            rules: self.rules,
            assumed: self.assumed,
            given: self.given,
            judged: self.judged,
            halt: self.halt,
            texts: self.texts,
            shown: self.shown,
            probes: self.probes,
            unasked: self.unasked,
            masked: self.masked,
        }
    }

    /// True of one version by itself.
    #[must_use]
    pub fn is_single(&self) -> bool {
        self.pairing.single
    }

    /// Lets each side scan at its own time. Outputs that must agree exactly so far need only agree within two scans of
    /// the slower side.
    #[must_use]
    pub fn free(mut self, times: [ScanTime; 2]) -> Twin<'v> {
        let usual = matching::usual(&times);
        for pair in self.pairing.outputs.iter_mut().filter(|p| p.tolerance == Tolerance::Exact) {
            pair.tolerance = usual;
        }
        self.timing = Timing::Free(times);
        self
    }

    /// Pairs what a map of addresses says, as `translate --save-map` writes it: the old point by its symbol or address,
    /// the new one by its.
    ///
    /// # Errors
    /// If the text is no such map.
    pub fn by_map(&mut self, text: &str) -> Result<(), PairError> {
        file::by_map(&mut self.pairing, [&self.left, &self.right], text)
    }

    /// With rules, of both versions, in place of those it had. A rule that a version cannot be asked, because it has not its
    /// names or it is not BOOL, is reported as that.
    ///
    /// # Errors
    /// [`BuildError`] if a project is too large with what the rules ask.
    pub fn with_rules(mut self, rules: Vec<Rule>) -> Result<Twin<'v>, BuildError> {
        let left = self.left.asking(&rules, self.conditions(0))?;
        // One version by itself is asked once.
        let right = match self.is_single() {
            true => Asking { rules: rules.iter().map(|_| Ok(Vec::new())).collect(), ..left.clone() },
            false => self.right.asking(&rules, self.conditions(1))?,
        };
        self.masked = self.masks([left.known, right.known]);
        (self.left, self.right) = (Cow::Owned(left.version), Cow::Owned(right.version));
        let asked: Vec<[Asked; 2]> = left.rules.into_iter().zip(right.rules).map(|(a, b)| [a, b]).collect();
        self.unasked = asked.iter().map(|sides| sides.iter().filter_map(|s| s.clone().err()).collect()).collect();
        self.probes = asked.into_iter().map(|sides| sides.map(Result::unwrap_or_default)).collect();
        self.rules = rules;
        Ok(self)
    }

    /// Of one version by itself why its rules say nothing; `None` if they can be asked.
    pub(crate) fn unasked_objection(&self) -> Option<String> {
        if !self.is_single() {
            return None;
        }
        if self.rules.is_empty() && self.judged.is_empty() {
            return Some(
                "nothing is asked of it: a version by itself needs a rule, or a scenario that expects something".into(),
            );
        }
        let rules = self.rules.iter().zip(&self.unasked);
        let unasked = rules.flat_map(|(rule, why)| why.iter().map(|why| format!("rule {}: {why}", rule.name)));
        let unasked: Vec<String> = unasked.collect();
        (!unasked.is_empty()).then(|| format!("what cannot be asked of it is not decided\n{}", unasked.join("\n")))
    }

    /// True if only the scenarios that are given say something: one version is asked no rule.
    pub(crate) fn is_only_given(&self) -> bool {
        self.is_single() && self.rules.is_empty()
    }

    /// What is taken for granted: plants, and what is assumed of the outside.
    pub(crate) fn granted(&self) -> Vec<String> {
        let list = |names: &[String], empty: &str| match names {
            [] => empty.to_string(),
            [last] => last.clone(),
            [names @ .., last] => format!("{} and {last}", names.join(", ")),
        };
        let plants = self.left.machine.plants().iter().map(|plant| {
            let (gives, sees) = (list(&plant.gives, "nothing"), list(&plant.sees, "nothing"));
            format!("the plant answers as {} ({}) does: it gives {gives}, and sees {sees}", plant.name, plant.file)
        });
        plants.chain(self.assumed.iter().map(Assumption::words)).collect()
    }

    /// The rules.
    #[must_use]
    pub fn rules(&self) -> &[Rule] {
        &self.rules
    }

    /// A value of an input on the left, as scenarios hold it.
    pub(crate) fn slot(&self, left: PointId, value: &Value) -> Option<i64> {
        self.left.machine.point(left).ty.slot(value, |text| Some(self.texts.number(text)))
    }

    /// The value on the right that belongs to one on the left.
    pub(crate) fn partner_value(&self, pair: &Pair, left: &Value) -> Option<Value> {
        if pair.mapping == Mapping::Same {
            return Some(left.clone());
        }
        let slot = self.left.machine.point(pair.left).ty.slot(left, |_| None)?;
        let right = &self.right.machine.point(pair.right).ty;
        Some(right.value(pair.right_of(self.machines(), slot)?, |_| String::new()))
    }

    /// The versions, left and right.
    #[must_use]
    pub fn versions(&self) -> [&Version; 2] {
        [&self.left, &self.right]
    }
}

/// What is assumed of a pair, if anything.
pub(crate) fn describe_pair(twin: &Twin<'_>, pair: &Pair) -> Vec<String> {
    let show = |slot: i64| scenario::value(twin, pair.left, slot).to_string();
    let mut out = Vec::new();
    match pair.mapping {
        Mapping::Same => {}
        Mapping::Inverted => out.push(format!("{} is inverted on the right", pair.name)),
        Mapping::Scaled(by, 1) => out.push(format!("{} is {by} times as much on the right", pair.name)),
        Mapping::Scaled(by, over) => out.push(format!("{} is {by}/{over} of it on the right", pair.name)),
        Mapping::Number | Mapping::Bits | Mapping::Name => {
            let [left, right] = pair.types(twin.machines());
            let what = pair::reading_word(pair.mapping).unwrap_or_default();
            out.push(format!("{} is {left} on the left and {right} on the right, of the same {what}", pair.name));
        }
    }
    let is_input = twin.pairing.inputs.iter().any(|p| p.left == pair.left);
    if let (true, None, Some((low, high))) = (is_input, pair.range, both::narrowed(twin, pair)) {
        out.push(format!("{} is given what both types hold: {} to {}", pair.name, show(low), show(high)));
    }
    if pair.tolerance != Tolerance::Exact {
        out.push(format!("{} need only agree {}", pair.name, matching::words(pair.tolerance)));
    }
    if let Some((low, high)) = pair.range {
        out.push(format!("{} is between {} and {}", pair.name, show(low), show(high)));
    }
    out
}
