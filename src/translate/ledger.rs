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

impl Grade {
    /// True if what is written may do something else than the source.
    #[must_use]
    pub const fn foretells_difference(self) -> bool {
        match self {
            Grade::Conditional | Grade::Approximate | Grade::Lost => true,
            Grade::Exact | Grade::Carried => false,
        }
    }
}

/// What entries that foretell a difference name in the target, each with its code and reason.
pub fn foretold(ledger: &[Entry]) -> impl Iterator<Item = (&str, String)> {
    let named = ledger.iter().filter(|entry| entry.grade.foretells_difference());
    named.filter_map(|entry| Some((entry.target.as_deref()?, format!("{}: {}", entry.code, entry.reason))))
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
/// A timer, counter, latch or one-shot became one of the target's own.
pub const NATIVE_DEVICE: &str = "L10";
/// The source's block came along in full.
pub const CARRIED_BLOCK: &str = "L11";
/// A preset does not fit the target's ticks exactly.
pub const PRESET_CUT: &str = "L12";
/// Ticks begin elsewhere, or are coarser.
pub const TICK_PHASE: &str = "L13";
/// The done bit changes a scan earlier or later.
pub const DONE_LATER: &str = "L14";
/// A device that is not executed goes on, or stands still.
pub const NOT_EXECUTED: &str = "L15";
/// Elapsed time or a count is read in another way, or differs at its ends.
pub const READ_NUMBER: &str = "L16";
/// A count ends elsewhere.
pub const COUNT_LIMIT: &str = "L17";
/// Done is asked as a comparison.
pub const DONE_COMPARED: &str = "L18";
/// An input that is on at power-up.
pub const POWER_UP_INPUT: &str = "L19";
/// Two count inputs became one with a direction, or the other way round.
pub const COUNT_DIRECTION: &str = "L20";
/// What survives a power cycle.
pub const POWER_CYCLE: &str = "L21";
/// The dominant side of a latch is said with an expression.
pub const DOMINANT_SIDE: &str = "L22";
/// A variable has no address in the target.
pub const NO_PLACE: &str = "L23";
/// A function of the source's arithmetic came along.
pub const CARRIED_FUNCTION: &str = "L24";
/// A name was changed because it reads as an address of the target.
pub const RENAMED: &str = "L25";
/// The bit that is TRUE in the first scan is another one, or made by statements.
pub const FIRST_SCAN: &str = "L26";
