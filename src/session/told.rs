//! What an act did, as values: how it reads is for `show` to say.

use super::carry::Kept;
use super::devices::Shown;
use super::parted::Parted;
use crate::model::{Duration, Instant};
use crate::scan::Measure;
use serde::Serialize;

/// What came of a line.
#[derive(Clone, Debug, Serialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Told {
    /// Nothing: the line is blank, a comment, or more lines belong to it.
    Nothing,
    /// Time went by, or something changed before the next scan.
    Ran(Box<Ran>),
    /// Where things stand.
    Stands(Box<Stands>),
    /// Another moment was gone to.
    Went(Box<Went>),
    /// Rungs are to be shown: which of which units.
    Show(Vec<Selection>),
    /// What signals did.
    Measured(Vec<Measure>),
    /// Why a variable is what it is, the last cause first.
    Why(Vec<Reason>),
    /// The text of a file that is to be written.
    Save {
        /// Its name.
        path: String,
        /// What it is: a scenario, a stimulus, a sequence table.
        what: &'static str,
        /// Its text.
        text: String,
    },
    /// The sources are to be read anew and handed to [`crate::session::Session::reread`].
    ReadAgain,
    /// They were.
    Reread(Vec<Kept>),
    /// What a search from here has found.
    Searched(Searched),
    /// One sentence.
    Said(String),
    /// The acts there are, each with its forms and what it does.
    Help(Vec<[String; 2]>),
    /// The session is over.
    Quit,
}

/// What happened between two moments.
#[derive(Clone, Debug, Serialize)]
pub struct Ran {
    /// When the first scan began.
    pub from: Option<Instant>,
    /// When the last scan began.
    pub to: Option<Instant>,
    /// How many scans went by.
    pub scans: u64,
    /// Points that are other than before, or were in between.
    pub moved: Vec<Moved>,
    /// Timers and counters that show something else than before.
    pub devices: Vec<Shown>,
    /// Variables that are held from now on, or no more, and inputs that the next scan sees.
    pub notes: Vec<String>,
    /// How many expectations were asked, of all versions together.
    pub asked: usize,
    /// Those that were not met.
    pub missed: Vec<String>,
    /// Where the versions began to differ.
    pub parted: Option<Parted>,
    /// A program that was stopped by a fault: the version, what, and where.
    pub faults: Vec<String>,
    /// True if it was ended from outside before its time.
    pub halted: bool,
}

/// How a point has changed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Moved {
    /// The version.
    pub side: usize,
    /// Its name.
    pub name: String,
    /// What it was.
    pub before: String,
    /// What it is.
    pub after: String,
    /// Whether it is a BOOL.
    pub is_bool: bool,
    /// How often it changed.
    pub changes: u64,
    /// When it changed first.
    pub first: Instant,
    /// When it changed last.
    pub last: Instant,
    /// How long it was TRUE, of a BOOL.
    pub on: Duration,
}

/// A point as it stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Standing {
    /// The version.
    pub side: usize,
    /// `input`, `output`, `watched`.
    pub what: &'static str,
    /// Its name.
    pub name: String,
    /// Its address, if it has one.
    pub address: Option<String>,
    /// Its value.
    pub value: String,
    /// Whether it is forced.
    pub forced: bool,
    /// True of an input that is wired closed at rest: it is TRUE where nothing happens.
    pub rests_on: bool,
}

/// Where things stand.
#[derive(Clone, Debug, Serialize)]
pub struct Stands {
    /// When the last scan began.
    pub at: Option<Instant>,
    /// How many scans there were.
    pub scans: u64,
    /// Whether the controllers are stopped.
    pub stopped: bool,
    /// Inputs, outputs and what is watched.
    pub points: Vec<Standing>,
    /// Timers and counters.
    pub devices: Vec<Shown>,
    /// What is held: `force RinsePump to 1`, `change RinseTime.PT to 5000`.
    pub held: Vec<String>,
    /// Programs that a fault has stopped.
    pub faults: Vec<String>,
}

/// What is other at a moment that was gone to than where one came from.
#[derive(Clone, Debug, Serialize)]
pub struct Went {
    /// When the last scan before it began.
    pub at: Option<Instant>,
    /// How many scans there were until then.
    pub scans: u64,
    /// Points that hold something else: the version, the name, what it held, what it holds.
    pub points: Vec<(usize, String, String, String)>,
    /// Timers and counters that show something else.
    pub devices: Vec<Shown>,
    /// What is held there.
    pub held: Vec<String>,
}

/// Rungs to be shown.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Selection {
    /// The unit, by its name.
    pub unit: String,
    /// Its networks, counted from 1; none for all.
    pub networks: Option<Vec<usize>>,
    /// Only those in which this variable stands.
    pub naming: Option<String>,
}

/// Why a variable has its value.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Reason {
    /// The version.
    pub side: usize,
    /// How many causes stand between it and what was asked for.
    pub depth: usize,
    /// The variable.
    pub name: String,
    /// Its value.
    pub value: String,
    /// The scan it was written in, with the place and the text of the statement; none if nothing wrote it lately.
    pub written: Option<(u64, String, String)>,
    /// What that read, with values.
    pub reads: Vec<[String; 2]>,
}

/// What a search from a moment on has found.
#[derive(Clone, Debug, Serialize)]
pub struct Searched {
    /// The way on in which the versions part, line by line; none if none was found.
    pub lines: Option<Vec<String>>,
    /// How many ways were tried.
    pub tried: u64,
    /// Scans of them together.
    pub scans: u64,
}
