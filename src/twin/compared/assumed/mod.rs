//! What a user takes for granted of the outside. Search, circuit and proof keep to it alike: no scenario is tried that
//! breaks it, and what is proved is proved of all that keep it.

mod allowed;
mod given;

pub(crate) use allowed::Allowed;
pub(in crate::twin) use given::{Given, given};

use crate::lang::read_duration;
use crate::model::{Duration, Elem, format_duration};
use crate::scan::{PointType, ScanTime};
use crate::twin::both::Begin;
use crate::twin::{AssumeError, Scenario, Timing, Twin};
use serde::Serialize;

/// What a user takes for granted of the outside.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Assumption {
    /// From one scan to the next at most one input changes; while power is off any may.
    OneChange,
    /// Two BOOL inputs are never TRUE in the same scan.
    NeverBoth(String, String),
    /// Power is never lost.
    PowerStays,
    /// The controllers are never put into STOP.
    NeverStopped,
    /// Inputs are at rest until the first scan after each power-up has run, which STOP may put off.
    RestFirst,
    /// Every scan takes a multiple of a time.
    ScanMultiple(Duration),
}

impl Assumption {
    /// Reads one as a call or a twin file says it: `one-change`, `never-both=Fill+Drain`, `power-stays`, `never-stopped`,
    /// `rest-first`, `scan-multiple=5ms`.
    ///
    /// # Errors
    /// If it is none of these, in one sentence.
    pub fn read(text: &str) -> Result<Assumption, AssumeError> {
        let (word, value) = text.split_once('=').map_or((text, None), |(word, value)| (word, Some(value.trim())));
        match (word.trim(), value) {
            ("one-change", None) => Ok(Assumption::OneChange),
            ("power-stays", None) => Ok(Assumption::PowerStays),
            ("never-stopped", None) => Ok(Assumption::NeverStopped),
            ("rest-first", None) => Ok(Assumption::RestFirst),
            ("scan-multiple", Some(time)) => {
                read_duration(time).map(Assumption::ScanMultiple).map_err(AssumeError::Time)
            }
            ("never-both", Some(names)) => match names.split_once('+') {
                Some((a, b)) => Ok(Assumption::NeverBoth(a.trim().to_string(), b.trim().to_string())),
                None => Err(AssumeError::TwoNames(text.to_string())),
            },
            _ => Err(AssumeError::Unknown(text.to_string())),
        }
    }

    /// As [`Assumption::read`] reads it.
    #[must_use]
    pub fn text(&self) -> String {
        match self {
            Assumption::OneChange => "one-change".to_string(),
            Assumption::NeverBoth(a, b) => format!("never-both={a}+{b}"),
            Assumption::PowerStays => "power-stays".to_string(),
            Assumption::NeverStopped => "never-stopped".to_string(),
            Assumption::RestFirst => "rest-first".to_string(),
            Assumption::ScanMultiple(time) => format!("scan-multiple={}", format_duration(*time)),
        }
    }

    /// In words.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Assumption::OneChange => "at most one input changes from one scan to the next".to_string(),
            Assumption::NeverBoth(a, b) => format!("{a} and {b} are never on together"),
            Assumption::PowerStays => "power stays on".to_string(),
            Assumption::NeverStopped => "no STOP is given".to_string(),
            Assumption::RestFirst => Begin::Rest.words().to_string(),
            Assumption::ScanMultiple(time) => format!("every scan takes a multiple of {}", format_duration(*time)),
        }
    }
}

impl Twin<'_> {
    /// Takes something for granted, on top of what is taken for granted already.
    ///
    /// # Errors
    /// In one sentence, if a name is no BOOL input that is driven, if inputs at rest break it, or if no scan time is such a
    /// multiple.
    pub fn assume(&mut self, assumption: Assumption) -> Result<(), AssumeError> {
        if let Assumption::NeverBoth(a, b) = &assumption {
            let both = [self.switch(a)?, self.switch(b)?];
            if both[0] == both[1] {
                return Err(AssumeError::OneInput(a.clone(), b.clone()));
            }
            if both.iter().all(|input| self.resting(*input) != 0) {
                return Err(AssumeError::BothAtRest(a.clone(), b.clone()));
            }
        }
        if let Assumption::ScanMultiple(of) = &assumption {
            self.timing = multiple(&self.timing, *of)?;
        }
        if !self.assumed.contains(&assumption) {
            self.assumed.push(assumption);
        }
        Ok(())
    }

    /// What is taken for granted.
    #[must_use]
    pub fn assumed(&self) -> &[Assumption] {
        &self.assumed
    }

    /// The number of a BOOL input.
    fn switch(&self, name: &str) -> Result<usize, AssumeError> {
        let found = self.pairing.inputs.iter().position(|pair| pair.name.eq_ignore_ascii_case(name));
        let at = found.ok_or_else(|| AssumeError::NotDriven(name.to_string()))?;
        if let PointType::Elem(Elem::Bool) = &self.left.machine.point(self.pairing.inputs[at].left).ty {
            Ok(at)
        } else {
            Err(AssumeError::NotBool(name.to_string()))
        }
    }

    /// What an input is before anything happens, as it sits in memory on the left.
    pub(crate) fn resting(&self, input: usize) -> i64 {
        let pair = &self.pairing.inputs[input];
        let machine = &self.left.machine;
        pair.rest.unwrap_or_else(|| machine.initial(machine.point(pair.left)))
    }

    /// Inputs that are never on together, by the numbers of their pairs, the smaller first.
    pub(crate) fn apart(&self) -> Vec<(usize, usize)> {
        let pairs = self.assumed.iter().filter_map(|assumption| match assumption {
            Assumption::NeverBoth(a, b) => {
                let (a, b) = (self.switch(a).ok()?, self.switch(b).ok()?);
                Some((a.min(b), a.max(b)))
            }
            Assumption::OneChange
            | Assumption::PowerStays
            | Assumption::NeverStopped
            | Assumption::RestFirst
            | Assumption::ScanMultiple(_) => None,
        });
        pairs.collect()
    }

    /// The scenario if it keeps to what is assumed; else what is left of it when it has to.
    pub(crate) fn allowed(&self, scenario: Scenario) -> Scenario {
        if self.assumed.is_empty() { scenario } else { allowed::mended(self, &scenario) }
    }

    /// Whether a scenario keeps to what is assumed.
    pub(crate) fn allows(&self, scenario: &Scenario) -> bool {
        self.assumed.is_empty() || allowed::keeps(self, scenario)
    }
}

/// The timing in which every scan takes a multiple.
fn multiple(timing: &Timing, of: Duration) -> Result<Timing, AssumeError> {
    if of <= Duration::ZERO {
        return Err(AssumeError::NoTime);
    }
    Ok(match timing {
        Timing::Lockstep(time) => Timing::Lockstep(multiples(time, of)?),
        Timing::Free([left, right]) => Timing::Free([multiples(left, of)?, multiples(right, of)?]),
    })
}

fn multiples(time: &ScanTime, of: Duration) -> Result<ScanTime, AssumeError> {
    let none = || AssumeError::NoMultiple(of);
    let is_multiple = |time: &Duration| time.nanos() % of.nanos() == 0;
    match time {
        ScanTime::Fixed(length) if is_multiple(length) => Ok(time.clone()),
        ScanTime::Given(lengths) if lengths.iter().all(is_multiple) => Ok(time.clone()),
        ScanTime::Fixed(_) | ScanTime::Given(_) => Err(none()),
        ScanTime::Range { low, high, seed, .. } => {
            let (low, high) = (low.nanos().min(high.nanos()), low.nanos().max(high.nanos()));
            let low = (low.max(1) + of.nanos() - 1) / of.nanos() * of.nanos();
            let high = high / of.nanos() * of.nanos();
            let [low, high] = [low, high].map(Duration::from_nanos);
            if low > high { Err(none()) } else { Ok(ScanTime::Range { low, high, step: of, seed: *seed }) }
        }
    }
}
