//! Provers that are broken on purpose, from within: what they claim must be caught by what is outside of them.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use super::guard;
use super::induct::{Depth, Induction, Round, induct};
use super::solve::Budget;
use super::system::System;
use super::{Certificate, Means, open_goals};
use crate::check::check;
use crate::circuit::{Rewrite, watched};
use crate::lang::{Language, read_project};
use crate::recheck::{Doubt, recheck};
use crate::source::Source;
use crate::twin::{Stimuli, Twin, Version};
use std::sync::Arc;

fn version(name: &str, text: &str) -> Version {
    let (project, _) = read_project(vec![(Source::new(name, text), Language::St)]);
    Version::new(name, check(project).unwrap()).unwrap()
}

/// Rinses: after so many the drum filter is due for service. `kind` says whether loss of power forgets them.
fn rinses(name: &str, most: u32, kind: &str) -> Version {
    let text = format!(
        "PROGRAM Service VAR_INPUT Rinse : BOOL; END_VAR VAR_OUTPUT Due : BOOL; END_VAR VAR {kind} Count : INT; END_VAR
         VAR Edge : R_TRIG; END_VAR
         Edge(CLK := Rinse); IF Edge.Q AND Count < 1000 THEN Count := Count + 1; END_IF; Due := Count >= {most};
         END_PROGRAM"
    );
    version(name, &text)
}

/// What the checker says of what a prover claims, if it claims a proof.
fn doubt(twin: &Twin<'_>, believed: &System, mut found: Induction) -> Option<Doubt> {
    if !open_goals(believed, &mut found, |_| true).unwrap().is_empty() {
        return None;
    }
    // As always the circuit is laid out anew for the certificate.
    let proof = believed.joined(&[(believed.all(), found)]);
    let certificate = Certificate::new(&System::new(twin, &[]).unwrap(), &proof, &[]);
    Some(recheck(&certificate.miter, &certificate.certificate).expect_err("a wrong proof is confirmed"))
}

fn budget(conflicts: u64) -> Budget {
    Budget { conflicts, ..Budget::default() }
}

fn induced(system: &System, twin: &Twin<'_>) -> Induction {
    induct(system, system.states(&Stimuli::new(twin)), &budget(Means::default().conflicts), Depth::Alike, |_| true)
        .unwrap()
}

#[test]
fn a_fact_taken_without_a_check_is_caught() {
    let (left, right) = (rinses("old", 400, ""), rinses("new", 401, ""));
    let twin = Twin::new(&left, &right);
    let system = System::new(&twin, &[]).unwrap();
    // What was seen in a few states is taken for true: that neither ever counted so far.
    let states: Vec<Vec<u64>> = system.states(&Stimuli::new(&twin)).iter().map(|words| vec![words[0] & 1]).collect();
    let groups = super::induct::Groups::seen(&system, &states);
    let round = Round::new(&system, &groups, &[], &states, &budget(1000));
    let found = Induction { groups, facts: Vec::new(), round, rounds: 1, asked: 0, too_long: 0, work: 0 };
    let doubt = doubt(&twin, &system, found).expect("the broken prover claims a proof");
    assert!(matches!(doubt, Doubt::NotKept(_)), "{doubt}");
    // One that is not broken claims none.
    assert!(!open_goals(&system, &mut induced(&system, &twin), |_| true).unwrap().is_empty());
}

#[test]
fn a_dropped_transition_is_caught() {
    let cases = [
        // One forgets at loss of power what the other keeps: that power can be lost is dropped.
        (rinses("old", 3, ""), rinses("new", 3, "RETAIN"), true),
        // They count to different ends: that they count at all is dropped.
        (rinses("old", 3, ""), rinses("new", 4, ""), false),
    ];
    for (left, right, power) in cases {
        let twin = Twin::new(&left, &right);
        let mut broken = System::new(&twin, &[]).unwrap();
        let plan = Arc::make_mut(&mut broken.plan);
        for kept in &mut plan.registers {
            if power {
                kept.retained = true;
            } else {
                kept.next = kept.place;
            }
        }
        let found = induced(&broken, &twin);
        let doubt = doubt(&twin, &broken, found).expect("the broken prover claims a proof");
        assert!(matches!(doubt, Doubt::NotKept(_)), "{doubt}");
    }
}

/// A law of BOOL that is applied to words, as if its condition did not count: the engine does not say the same, so nothing is
/// claimed.
#[test]
fn a_rewrite_broken_on_purpose_is_caught_by_the_engine() {
    let words = |name: &str, value: &str| {
        let text = format!(
            "PROGRAM Feeder VAR_INPUT b : BOOL; w : WORD; END_VAR VAR_OUTPUT wo : WORD; END_VAR wo := {value}; END_PROGRAM"
        );
        version(name, &text)
    };
    let (left, right) = (words("old", "(w AND BOOL_TO_WORD(b)) OR (w AND BOOL_TO_WORD(NOT b))"), words("new", "w"));
    let twin = Twin::new(&left, &right);
    let stimuli = Stimuli::new(&twin);
    let sound = System::new(&twin, &[]).unwrap();
    assert_eq!(guard::scenarios(&twin, &sound, &stimuli), None);
    let broken = watched::breaking(Rewrite::OrSplit, || System::new(&twin, &[]).unwrap());
    let said = guard::scenarios(&twin, &broken, &stimuli).expect("the broken circuit is believed");
    assert!(said.contains("whether wo agrees"), "{said}");
}
