//! What a search has found, as a verdict.

use super::Search;
use crate::model::{Duration, format_duration};
use crate::twin::run::Waits;
use crate::twin::shrink::shrink;
use crate::twin::{Coverage, RuleResult, RulesBroken, Scenario, Tested, Timing, Verdict, breach, describe_pair};

impl Search<'_> {
    /// The verdict on one version that breaks a rule.
    pub(super) fn broken(&self) -> Verdict {
        let rules = self.rules();
        let versions = [self.twin.left.name.clone(), self.twin.right.name.clone()];
        if rules.iter().all(RuleResult::holds) {
            let reason = "a rule was seen broken, but its scenario does not replay; please report this";
            return Verdict::undecided(self.twin, reason.to_string(), rules);
        }
        Verdict::Broken(Box::new(RulesBroken {
            versions,
            pairing: self.twin.pairing.clone(),
            rules,
            scan_time: self.twin.timing.words(),
            scenarios: self.state.scenarios,
            scans: self.state.scans,
            assumptions: self.assumptions(),
        }))
    }

    /// The verdict on what was tried so far; undecided where nothing was.
    #[must_use]
    pub fn verdict(&self) -> Verdict {
        match self.so_far() {
            Verdict::Tested(tested) if tested.scans == 0 => Verdict::undecided(
                self.twin,
                "nothing was run: no scenario was asked for, or no time was left".to_string(),
                Vec::new(),
            ),
            other @ (Verdict::Tested(_)
            | Verdict::Proved(_)
            | Verdict::Different(_)
            | Verdict::Broken(_)
            | Verdict::Undecided { .. }) => other,
        }
    }

    /// What was found; that nothing was, if nothing was run.
    pub(super) fn so_far(&self) -> Verdict {
        if let Some(verdict) = &self.verdict {
            return verdict.clone();
        }
        // It may have been found before, by a search that goes on or by another part.
        if self.is_broken() {
            return self.broken();
        }
        if let Some(objection) = self.twin.pairing.unsettled_objection() {
            return Verdict::undecided(self.twin, objection, self.rules());
        }
        let state = &self.state;
        let changes = |side: u8| state.transitions.iter().filter(|(s, ..)| *s == side).count();
        let never_changed = self.twin.pairing.outputs.iter().zip(&state.changed).filter(|(_, c)| !**c);
        Verdict::Tested(Box::new(Tested {
            versions: [self.twin.left.name.clone(), self.twin.right.name.clone()],
            ended: self.ended(),
            scenarios: state.scenarios,
            scans: state.scans,
            wide: state.wide.saturating_sub(state.lost),
            no_circuit: self.no_circuit(),
            solver: None,
            machine_time: Duration::from_nanos(state.machine_time),
            power_cycles: state.power_cycles,
            seed: self.effort.seed,
            kept: state.kept.len(),
            coverage: [0, 1].map(|side| {
                // One version by itself is seen once.
                let of = if self.twin.is_single() { 0 } else { side };
                Coverage::of(self.twin.versions()[side], &state.seen[of], changes(of as u8))
            }),
            never_changed: never_changed.map(|(p, _)| p.name.clone()).collect(),
            faults: state.faults,
            spreads: state.spreads.clone(),
            rules: self.rules(),
            sample: self.sample(),
            strength: None,
            assumptions: self.assumptions(),
            pairing: self.twin.pairing.clone(),
        }))
    }

    /// Why there is no circuit, in one sentence. After the bell none is laid out to tell.
    fn no_circuit(&self) -> Option<String> {
        if self.state.lost > 0 && self.state.wide <= self.state.lost {
            return Some("a loop runs more rounds than it holds".to_string());
        }
        let wide = if self.twin.halt.has_rung() { self.wide.get() } else { Some(self.wide()) };
        wide.and_then(|wide| wide.as_ref().err().cloned())
    }

    /// Of the scenarios that were kept and can be seen at a glance, the one in which most happens.
    fn sample(&self) -> Scenario {
        let short = self.state.kept.iter().filter(|s| (4..=160).contains(&s.scans()));
        short.max_by_key(|s| s.happenings().min(24)).cloned().unwrap_or_default()
    }

    pub(super) fn rules(&self) -> Vec<RuleResult> {
        let each = self.twin.rules.iter().zip(&self.state.broken).zip(&self.twin.unasked).enumerate();
        each.map(|(number, ((rule, broken), unasked))| {
            let first = broken.iter().flatten().min_by_key(|(b, _)| b.scan);
            let shortest = first.map(|(_, scenario)| {
                shrink(self.twin, scenario.clone(), &|s, waits| {
                    breach::broken(self.twin, s, number, waits).iter().flatten().map(|b| b.scan.0).min()
                })
            });
            // Where it is broken is told of the scenario that is shown.
            let broken = shortest.as_ref().map(|scenario| breach::broken(self.twin, scenario, number, Waits::Whole));
            let elsewhere = self.state.broken[number].each_ref().map(|b| b.as_ref().map(|(b, _)| *b));
            let both = broken.unwrap_or_default();
            RuleResult {
                name: rule.name.clone(),
                expected: false,
                broken: [both[0].or(elsewhere[0]), both[1].or(elsewhere[1])],
                proved: [false; 2],
                breach: shortest.and_then(|s| breach::told(self.twin, &s, number)).map(Box::new),
                unasked: unasked.clone(),
            }
        })
        // Beside a comparison expectations are told by whoever played them.
        .chain(self.twin.judged.iter().filter(|_| self.twin.is_single()).map(breach::Judged::result))
        .collect()
    }

    fn assumptions(&self) -> Vec<String> {
        let how = if matches!(self.twin.timing, Timing::Lockstep(_)) { "in lockstep" } else { "each on its own" };
        let mut out = vec![
            match self.twin.is_single() {
                true => self.twin.timing.words(),
                false => format!("both versions scan {how}, {}", self.twin.timing.words()),
            },
            "at most 100,000 rounds of loops in one scan".to_string(),
        ];
        for pair in self.twin.pairing.inputs.iter().chain(&self.twin.pairing.outputs) {
            out.extend(describe_pair(self.twin, pair));
        }
        out.extend(self.twin.granted());
        let mended = self.twin.given.iter().filter(|given| !self.twin.allows(given)).count();
        if mended > 0 {
            out.push(format!("of {mended} given scenarios only what keeps to that was tried"));
        }
        let words = |list: &mut dyn Iterator<Item = i64>| -> Vec<String> {
            list.map(|t| format!("T#{}", format_duration(Duration::from_nanos(t)))).collect()
        };
        let unreached = words(&mut self.generator.unreached.iter().copied());
        if !unreached.is_empty() {
            out.push(format!("no scenario lasted as long as {}; a longer --scan reaches it", unreached.join(", ")));
        }
        if self.state.unconfirmed > 0 {
            let count = self.state.unconfirmed;
            out.push(format!(
                "the circuit saw {count} differences that do not replay and do not count; please report this"
            ));
        }
        if !self.generator.far.is_empty() && !self.twin.is_only_given() {
            out.push("where in a long wait nothing but time goes on, one scan stood for many".into());
        }
        out
    }
}
