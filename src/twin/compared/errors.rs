//! What can be wrong with what a comparison is told.

use crate::lang::DurationError;
use crate::model::{Duration, format_duration};
use crate::scan::BuildError;
use crate::twin::KnownError;

/// Why points are not paired, agreed to or left out.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PairError {
    /// A version has no point of that name.
    #[error("{version} has no `{name}`")]
    NoPoint {
        /// The version.
        version: String,
        /// The name.
        name: String,
    },
    /// Two points that are not both inputs or both outputs.
    #[error("`{0}` and `{1}` are not both inputs or both outputs")]
    Direction(String, String),
    /// Two points whose types may be read in several ways, or in none.
    #[error("`{}` is {} and `{}` is {}: {asks}", names[0], types[0], names[1], types[1])]
    Reading {
        /// Their names.
        names: [String; 2],
        /// Their types.
        types: [String; 2],
        /// What has to be said.
        asks: String,
    },
    /// Two points whose types do not go together in the way that was said.
    #[error("the types of `{}` and `{}` do not go together so: {} and {}", names[0], names[1], types[0], types[1])]
    Types {
        /// Their names.
        names: [String; 2],
        /// Their types.
        types: [String; 2],
    },
    /// An output that is not compared.
    #[error("`{0}` is not compared")]
    NotCompared(String),
    /// A point that is agreed to be without a partner, and is not.
    #[error("`{name}` is not without a partner; without one: {there_is}")]
    NotAlone {
        /// Its name.
        name: String,
        /// Those that are, or `none is`.
        there_is: String,
    },
    /// A point that is left out, and is not paired.
    #[error("`{0}` is to be left out, but it is not paired")]
    NotPaired(String),
    /// A map that is none, or its first line that is wrong.
    #[error("map{}: {why}", line.map_or(String::new(), |line| format!(", line {line}")))]
    Map {
        /// The line, from 1; none if the whole is wrong.
        line: Option<usize>,
        /// What is wrong.
        why: String,
    },
}

/// Why something cannot be assumed.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum AssumeError {
    /// A text that says nothing that can be assumed.
    #[error(
        "`{0}` is nothing that can be assumed; there is one-change, never-both=NAME+NAME, power-stays, never-stopped, \
         rest-first, scan-multiple=5ms"
    )]
    Unknown(String),
    /// Two inputs are wanted.
    #[error("`{0}`: two inputs are named, as in never-both=Fill+Drain")]
    TwoNames(String),
    /// No time.
    #[error(transparent)]
    Time(#[from] DurationError),
    /// An input that is not driven.
    #[error("`{0}` is no input that is driven")]
    NotDriven(String),
    /// An input that is not BOOL.
    #[error("`{0}` is not BOOL")]
    NotBool(String),
    /// An input and itself.
    #[error("`{0}` and `{1}` are one input")]
    OneInput(String, String),
    /// Inputs at rest break it.
    #[error("`{0}` and `{1}` are both on at rest")]
    BothAtRest(String, String),
    /// No scan time is such a multiple.
    #[error("no scan time is a multiple of {}", format_duration(*.0))]
    NoMultiple(Duration),
    /// A scan that takes no time.
    #[error("a scan takes some time")]
    NoTime,
}

/// What is wrong with a scan time or a tolerance.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TimeError {
    /// No duration.
    #[error(transparent)]
    Duration(#[from] DurationError),
    /// A scan that takes no time, or less.
    #[error("a scan takes some time")]
    Nothing,
    /// A time that outputs may be apart, below zero.
    #[error("a time that outputs may be apart is not below zero")]
    BelowZero,
    /// A range from the longer to the shorter.
    #[error("a range of scan times goes from the shorter to the longer")]
    Backwards,
}

/// What is wrong with a twin file.
#[derive(Clone, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum FileError {
    /// It is no TOML, or says what a twin file does not; as the reader says it, with the place.
    #[error("{0}")]
    Toml(String),
    /// It names no version.
    #[error("a twin file names one version or more: [[version]]")]
    NoVersion,
    /// It pairs points of one version.
    #[error("one version by itself has nothing to pair")]
    OneVersion,
    /// A mode that there is not.
    #[error("mode is `lockstep` or `free`, not `{0}`")]
    Mode(String),
    /// A level of effort that there is not.
    #[error("level is `quick`, `default`, `deep` or so many times the default, from 0.01 to 10000, not `{0}`")]
    Level(String),
    /// In lockstep two scan times.
    #[error("in lockstep both versions have the same scan time; mode = \"free\" lets them differ")]
    Lockstep,
    /// A time that is none.
    #[error(transparent)]
    Time(#[from] TimeError),
    /// A rule that says nothing, or two things.
    #[error("rule {number} {why}")]
    Rule {
        /// Its number, from 1.
        number: usize,
        /// What is wrong.
        why: String,
    },
    /// A pair that says what cannot be.
    #[error("`{left}`: {why}")]
    Pair {
        /// The name on the left.
        left: String,
        /// What is wrong.
        why: String,
    },
    /// What is said of an input.
    #[error("{0}")]
    Input(String),
    /// A tolerance of an output that is not compared.
    #[error("tolerance: there is no paired output `{0}`")]
    Tolerance(String),
    /// Points that cannot be paired so.
    #[error(transparent)]
    Pairing(#[from] PairError),
    /// What is known.
    #[error("known: {0}")]
    Known(#[from] KnownError),
    /// What is assumed.
    #[error("assume {0}: {1}")]
    Assume(String, AssumeError),
    /// Too large with what is asked.
    #[error(transparent)]
    Build(#[from] BuildError),
}

/// Why what was written down of a search is of no use.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ResumeError {
    /// It belongs to other versions.
    #[error("what was written down is of other versions")]
    OtherVersions,
    /// A scenario in it gives an input that there is not, a value that it does not hold, or goes on for ever.
    #[error("a scenario that was written down cannot be run on these versions")]
    Scenario,
    /// There are no parts.
    #[error("there is nothing to join")]
    Nothing,
}
