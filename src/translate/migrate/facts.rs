//! A plan for one device: how its pins go over, and what is not the same.

use crate::model::Expr;
use crate::model::sheet::Role;
use crate::translate::Grade;
use std::collections::HashMap;

/// What the ledger will say of a device, but for the names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Draft {
    pub(super) code: &'static str,
    pub(super) grade: Grade,
    pub(super) reason: String,
    pub(super) trap: Option<u8>,
}

impl Draft {
    pub(super) fn new(code: &'static str, grade: Grade, trap: u8, reason: impl Into<String>) -> Draft {
        Draft { code, grade, reason: reason.into(), trap: Some(trap) }
    }
}

/// How several inputs become others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Combine {
    /// Each becomes the one of its role.
    Each,
    /// The target has no reset: the input is held off while it is on.
    GateReset,
    /// Up and down become a count input and a direction.
    ToDirection,
    /// A count input and a direction become up and down.
    FromDirection,
    /// Set wins in the source, reset in the target.
    SetWins,
    /// Reset wins in the source, set in the target.
    ResetWins,
}

/// How a preset is converted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Scale {
    /// The source takes durations.
    pub(super) from_duration: bool,
    /// Nanoseconds of a tick of the source, or of what durations are cut to.
    pub(super) from_tick: i64,
    pub(super) to_duration: bool,
    pub(super) to_tick: i64,
}

/// A device of the target that takes over.
#[derive(Clone, Debug)]
pub(super) struct Native {
    /// Its place in the target's sheet.
    pub(super) device: usize,
    pub(super) combine: Combine,
    /// `None`: presets are numbers on both sides.
    pub(super) scale: Option<Scale>,
    /// What reading an output of the source becomes, by the role of the output.
    pub(super) outputs: HashMap<Role, Expr>,
    /// What is not the same.
    pub(super) drafts: Vec<Draft>,
    /// The smaller, the better: how far off, how many differences, how coarse the ticks are the wrong way.
    pub(super) cost: (i64, usize, i64),
}
