//! Differences that someone knows of and agrees to: the search and the proof go on behind them, and the verdict says so.

use crate::check::{Probe, probe};
use crate::circuit::{Net, Node, Scanned, influenced};
use crate::scan::{BuildError, Controller, Machine, PointId};
use crate::twin::{Tolerance, Twin};
use serde::Serialize;
use std::collections::HashSet;
use std::fmt;

/// A difference that is known and agreed to: some outputs are not compared in some scans.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Known {
    /// Where it comes from: a code of a ledger, or what someone has found out.
    pub why: String,
    /// An expression: where it is TRUE at the end of a scan on either version, the outputs are not compared in that scan. In
    /// no scan if there is none.
    pub when: Option<String>,
    /// The outputs, by their names on the left; all if it is empty.
    pub outputs: Vec<String>,
}

impl fmt::Display for Known {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.outputs.as_slice() {
            [] => write!(f, "outputs are not compared")?,
            [one] => write!(f, "{one} is not compared")?,
            several => write!(f, "{} are not compared", several.join(", "))?,
        }
        if let Some(when) = &self.when {
            write!(f, " in a scan that ends with {when}")?;
        }
        write!(f, ", as is known")?;
        if self.why.is_empty() { Ok(()) } else { write!(f, ": {}", self.why) }
    }
}

/// What is asked of both versions for a known difference: the outputs, all if none is named, and the probes.
#[derive(Clone, Debug)]
pub(in crate::twin) struct Masked {
    outputs: Vec<String>,
    /// The number of the probe on each side; none where it is not asked.
    probes: [Option<usize>; 2],
    always: bool,
}

/// The slots of a variable or of an instance, with those beside it that have no name.
fn slots_of(machine: &Machine, variable: &str) -> Vec<u32> {
    let is_own = |name: &str| {
        let mut parts = name.split(['.', '[']);
        parts.any(|part| part.eq_ignore_ascii_case(variable)) || name.eq_ignore_ascii_case(variable)
    };
    let mut named: Vec<(u32, bool)> = machine.points().iter().map(|point| (point.slot, is_own(&point.name))).collect();
    named.sort_unstable();
    let slots = machine.tape().image.len() as u32;
    let mut out = Vec::new();
    for (at, (slot, _)) in named.iter().enumerate().filter(|(_, (_, own))| *own) {
        let before = at.checked_sub(1).map_or(0, |before| named[before].0 + 1);
        let behind = named.get(at + 1).map_or(slots, |(next, _)| *next);
        out.extend(before.min(*slot)..behind.max(slot + 1));
    }
    out
}

impl Masked {
    fn is_about(&self, name: &str) -> bool {
        self.outputs.is_empty() || self.outputs.iter().any(|output| output.eq_ignore_ascii_case(name))
    }
}

/// Why known differences cannot be agreed to.
#[derive(Clone, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum KnownError {
    /// No output that is compared has that name.
    #[error("`{0}` is no output that is compared")]
    NoOutput(String),
    /// The condition can be asked of neither version.
    #[error("`{0}` can be asked of neither version: {1}")]
    Unasked(String, String),
    /// The output need not agree in every scan anyhow.
    #[error(
        "`{0}` is compared within a tolerance; a known difference is agreed of outputs that are compared exactly, in lockstep"
    )]
    Tolerant(String),
    /// One version by itself differs from nothing.
    #[error("one version by itself has no difference that could be known")]
    Single,
    /// Too large with what is asked.
    #[error(transparent)]
    Build(#[from] BuildError),
}

impl<'v> Twin<'v> {
    /// Agrees to differences that are known, in place of those it had.
    ///
    /// # Errors
    /// [`KnownError`]: a name that is no output, a condition that nobody can be asked, or outputs that need not agree in every
    /// scan.
    pub fn with_known(mut self, known: Vec<Known>) -> Result<Twin<'v>, KnownError> {
        if self.is_single() && !known.is_empty() {
            return Err(KnownError::Single);
        }
        for name in known.iter().flat_map(|known| &known.outputs) {
            if !self.pairing.outputs.iter().any(|pair| pair.name.eq_ignore_ascii_case(name)) {
                return Err(KnownError::NoOutput(name.clone()));
            }
        }
        for when in known.iter().filter_map(|known| known.when.as_ref()) {
            let sides = [&self.left, &self.right].map(|version| version.asked(when));
            if let [Err(why), Err(_)] = &sides {
                return Err(KnownError::Unasked(when.clone(), why.clone()));
            }
        }
        self.pairing.known = known;
        let rules = std::mem::take(&mut self.rules);
        let out = self.with_rules(rules)?;
        let is_masked = |name: &str| out.masked.iter().any(|masked| masked.is_about(name));
        let tolerant =
            out.pairing.outputs.iter().find(|pair| pair.tolerance != Tolerance::Exact && is_masked(&pair.name));
        match tolerant.map(|pair| pair.name.clone()) {
            Some(name) => Err(KnownError::Tolerant(name)),
            None => Ok(out),
        }
    }

    /// The compared outputs that hang on a variable of the right version, or on what an instance of that name holds, by
    /// their names on the left; `None` where that cannot be told.
    #[must_use]
    pub fn hanging_on(&self, variable: &str) -> Option<Vec<String>> {
        self.all_hanging_on(&[variable])?.pop()
    }

    /// As [`Twin::hanging_on`], of each of several variables.
    fn all_hanging_on(&self, variables: &[&str]) -> Option<Vec<Vec<String>>> {
        let machine = &self.right.machine;
        let sets: Vec<Vec<u32>> = variables.iter().map(|variable| slots_of(machine, variable)).collect();
        let names = |outputs: Vec<PointId>| {
            let outputs: HashSet<PointId> = outputs.into_iter().collect();
            let pairs = self.pairing.outputs.iter().filter(|pair| outputs.contains(&pair.right));
            pairs.map(|pair| pair.name.clone()).collect()
        };
        Some(influenced(machine, &sets).ok()?.into_iter().map(names).collect())
    }

    /// Known differences of the outputs that hang on variables of the right version, each with the reason why they may differ;
    /// nothing of one that no output hangs on.
    #[must_use]
    pub fn known_of<'n>(&self, variables: impl IntoIterator<Item = (&'n str, String)>) -> Vec<Known> {
        let (names, whys): (Vec<&str>, Vec<String>) = variables.into_iter().unzip();
        let outputs = self.all_hanging_on(&names).unwrap_or_default();
        let each = whys.into_iter().zip(outputs).filter(|(_, outputs)| !outputs.is_empty());
        each.map(|(why, outputs)| Known { why, when: None, outputs }).collect()
    }

    /// The conditions of known differences on a side, in order; none where it cannot be asked.
    pub(in crate::twin) fn conditions(&self, side: usize) -> Vec<Option<Probe>> {
        let version = self.versions()[side];
        let of = |known: &crate::twin::Known| known.when.as_ref().and_then(|when| probe(&version.checked, when).ok());
        self.pairing.known.iter().map(of).collect()
    }

    /// Known differences with the numbers that their conditions have among the probes of each side.
    pub(in crate::twin) fn masks(&self, probes: [Vec<Option<usize>>; 2]) -> Vec<Masked> {
        let each = self.pairing.known.iter().enumerate().map(|(number, known)| Masked {
            outputs: known.outputs.clone(),
            probes: [probes[0][number], probes[1][number]],
            always: known.when.is_none(),
        });
        each.collect()
    }

    /// Why known differences leave nothing to compare; `None` if they do not.
    pub(in crate::twin) fn known_objection(&self) -> Option<String> {
        let always = |name: &str| self.masked.iter().any(|masked| masked.always && masked.is_about(name));
        let none = !self.pairing.outputs.is_empty() && self.pairing.outputs.iter().all(|pair| always(&pair.name));
        none.then(|| "nothing is compared: of every output a difference is known".to_string())
    }

    /// Whether a pair of outputs is not compared at the end of this scan, as a difference is known.
    pub(in crate::twin) fn is_known(&self, controllers: &mut [Controller; 2], output: usize) -> bool {
        let name = &self.pairing.outputs[output].name;
        let mut about = self.masked.iter().filter(|masked| masked.is_about(name));
        about.any(|masked| {
            let mut sides = masked.probes.iter().zip(controllers.iter_mut());
            masked.always || sides.any(|(probe, side)| probe.is_some_and(|probe| side.ask(probe) == Some(1)))
        })
    }

    /// The same in the circuit: whether an output is not compared; `None` if it always is.
    pub(in crate::twin) fn known_node(&self, net: &mut Net, versions: [&Scanned; 2], output: usize) -> Option<Node> {
        let mut out = None;
        let name = &self.pairing.outputs[output].name;
        for masked in self.masked.iter().filter(|masked| masked.is_about(name)) {
            let mut here = net.bool(masked.always);
            for (probe, version) in masked.probes.iter().zip(versions) {
                let Some(probed) = probe.and_then(|probe| version.probes.get(probe).copied().flatten()) else {
                    continue;
                };
                let is = net.and(probed.has_value, probed.value);
                here = net.or(here, is);
            }
            out = Some(out.map_or(here, |other| net.or(other, here)));
        }
        out
    }
}
