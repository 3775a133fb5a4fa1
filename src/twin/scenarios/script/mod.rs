//! Scenarios as text, as an engineer would say them: one line an act, `#` begins a comment.
//!
//! ```text
//! set LevelHigh on               an input from now on; `set Level to 12` for numbers and names of values
//! press TestKey for 200ms        on, then back to what it was
//! press TestKey 3 times, 50ms on, 50ms off
//! hold TestKey                   on until `drop TestKey`
//! toggle TestKey                 the other way than it is
//! wait 2s                        or `wait 3 scans`
//! wait until Rinse at most 5s    until it holds on every version; otherwise a failure
//! ramp Level from 0 to 100 in 10s
//! force Rinse to off             whatever the logic writes; `release Rinse` ends it
//! write Rinses to 5              once; the logic may write it again
//! power off for 2s               `power cycle` is shorter than a scan
//! cold start                     power off and on, and what is retained is lost as well
//! stop                           and `run`
//! expect Rinse                   now; any expression of structured text
//! expect Rinse within 5s         at some moment until then
//! expect NOT Rinse for 2s        in every scan until then
//! expect Count.CV unchanged for 1s
//! repeat 10 times
//!     press TestKey for 20ms
//! end
//! ```
//!
//! What an act needs no time for is seen by the next scan. Names are those of the first version.

pub(crate) mod perform;
pub(crate) mod play;
mod read;
mod table;
mod write;

pub use play::{Failure, Played, play};
pub use table::read_table;
pub(crate) use write::lines;

use crate::model::Duration;
use crate::scan::Power;

/// A time, or a number of scans.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Lapse {
    /// A time; the scans that begin within it.
    Time(Duration),
    /// Scans.
    Scans(u64),
}

/// How an expectation is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum When {
    /// It holds now, after the last scan.
    Now,
    /// It holds at some moment until then.
    Within(Lapse),
    /// It holds in every scan until then.
    For(Lapse),
}

/// One act.
#[derive(Clone, Debug, PartialEq)]
pub enum Deed {
    /// An input has a value from now on.
    Set(String, String),
    /// An input that is a BOOL has the other value from now on.
    Toggle(String),
    /// An input is on for a while, so many times, off for a while in between.
    Press {
        /// The input.
        name: String,
        /// How often.
        times: u64,
        /// How long it is on.
        on: Lapse,
        /// How long it is off, if it is pressed more than once.
        off: Lapse,
    },
    /// Time passes.
    Wait(Lapse),
    /// Time passes until an expression holds on every version.
    Until(String, Lapse),
    /// Time passes until a moment, counted from the beginning of the scenario; an expression, if there is one, is expected to
    /// hold in every scan that begins at `from` or later.
    Row {
        /// What is expected.
        expected: Option<String>,
        /// From when on.
        from: Duration,
        /// When it is over.
        until: Duration,
    },
    /// A number goes from one value to another.
    Ramp {
        /// The input.
        name: String,
        /// Its first value.
        from: String,
        /// Its last value.
        to: String,
        /// In what time.
        over: Lapse,
    },
    /// A variable reads a value whatever writes it.
    Force(String, String),
    /// That ends.
    Release(String),
    /// A variable is given a value once, before the next scan; the logic may write it again.
    Write(String, String),
    /// Something happens to the controllers.
    Power(Power),
    /// Power is off for a while.
    Off(Lapse),
    /// An expression is expected to hold.
    Expect(String, When),
    /// An expression is expected to keep its value.
    Unchanged(String, Lapse),
    /// Acts so many times.
    Repeat(u64, Vec<Line>),
}

/// An act with its line.
#[derive(Clone, Debug, PartialEq)]
pub struct Line {
    /// Its number in the text, from 1.
    pub number: usize,
    /// The act.
    pub deed: Deed,
}

/// A scenario as it was written.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Script {
    /// What messages call it.
    pub name: String,
    /// Its acts.
    pub lines: Vec<Line>,
}

/// What is wrong with a scenario, and in which line.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {what}")]
pub struct ScriptError {
    /// Line, from 1.
    pub line: usize,
    /// What is wrong.
    pub what: String,
}

impl Script {
    /// Reads a scenario.
    ///
    /// # Errors
    /// The first line that says nothing, with the forms there are.
    pub fn read(name: &str, text: &str) -> Result<Script, ScriptError> {
        read::script(name, text)
    }
}

/// The words that lines begin with.
pub(crate) fn words() -> impl Iterator<Item = &'static str> {
    read::FORMS.iter().map(|(word, _)| *word)
}

/// The forms of the lines there are, for whoever has mistaken one.
pub(crate) fn forms() -> impl Iterator<Item = (&'static str, &'static str)> {
    read::FORMS.iter().copied()
}
