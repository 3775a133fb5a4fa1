//! Two versions side by side: pairing, scenarios, lockstep comparison, shrinking, and the verdict.
//!
//! A verdict never claims more than it knows. [`Verdict::Tested`] says how much was tried; [`Verdict::Different`]
//! holds a scenario that was replayed, from the very text that is printed, before anyone sees it.

mod compare;
mod difference;
mod generate;
mod pair;
mod scenario;
mod shrink;
mod vocabulary;

pub use compare::{Effort, Progress, Tested, Verdict, compare};
pub use difference::{Difference, Row, Side, What, Writer};
pub use pair::{Pair, Pairing};
pub use scenario::{Change, Scenario, Step};

use crate::check::Checked;
use crate::scan::{BuildError, Machine};

/// A version that takes part in a comparison.
#[derive(Clone, Debug)]
pub struct Version {
    /// What messages call it.
    pub name: String,
    /// The project.
    pub checked: Checked,
    /// The project, compiled.
    pub machine: Machine,
}

impl Version {
    /// Compiles a checked project for comparison.
    ///
    /// # Errors
    /// [`BuildError`] if it has no program or is too large.
    pub fn new(name: impl Into<String>, checked: Checked) -> Result<Version, BuildError> {
        let machine = Machine::new(&checked)?;
        Ok(Version { name: name.into(), checked, machine })
    }
}
