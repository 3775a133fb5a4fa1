//! The ledger: everything in a translation that is not one to one, with its reason.

use crate::source::Span;
use serde::Serialize;

/// How much a difference weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Grade {
    /// Said in another way, the same for every input.
    Exact,
    /// The same unless a condition holds that the reason names.
    Conditional,
    /// Different by an amount that the reason names.
    Approximate,
    /// The source's own block came along.
    Carried,
    /// Could not be said; it is gone.
    Lost,
}

impl Grade {
    /// The word for it.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Grade::Exact => "exact",
            Grade::Conditional => "conditional",
            Grade::Approximate => "approximate",
            Grade::Carried => "carried",
            Grade::Lost => "lost",
        }
    }
}

/// One entry.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Entry {
    /// Stable code, `L` and two digits.
    pub code: &'static str,
    /// How much it weighs.
    pub grade: Grade,
    /// The unit it happened in.
    pub unit: String,
    /// The place in the source.
    pub source: Span,
    /// The name in the target by which it is found there.
    pub target: Option<String>,
    /// The reason, in one sentence.
    pub reason: String,
    /// The trap of the trade it belongs to, if it is one.
    pub trap: Option<u8>,
}

/// A variable was added to hold a value that the target language cannot keep in an expression.
pub const ADDED_VARIABLE: &str = "L01";
/// Jumps without the shape of a branch or loop became a loop over numbered steps.
pub const STEP_LOOP: &str = "L02";
/// Code that no scan reaches was kept behind a condition that is never true.
pub const UNREACHABLE_KEPT: &str = "L03";
/// A value that nothing uses is still computed, because computing it can fault.
pub const KEPT_FOR_FAULT: &str = "L04";
/// A minus sign became a multiplication by -1.
pub const NEGATION: &str = "L05";
/// A variable that remembered the value of the scan before became an edge contact or coil.
pub const EDGE_MEMORY: &str = "L06";
