//! What happened, in order, so that it can happen again.

use crate::scan::Power;

/// Something that happens before a scan. Names are those of the first version that has them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Happening {
    /// An input has a value from now on.
    Set(String, String),
    /// A variable is given a value once.
    Write(String, String),
    /// A variable is held at a value.
    Force(String, String),
    /// It is held no more.
    Release(String),
    /// A preset or a constant is held at another value.
    Change(String, String),
    /// It is what it was.
    PutBack(String),
    /// Something happens to the controllers.
    Power(Power),
    /// The programs are those of another number.
    Program(usize),
}

/// One entry of the log.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Entry {
    /// The scan before which it happens.
    pub(super) scan: u64,
    pub(super) what: Happening,
}

/// A moment: so many scans have run, and so many entries of the log have happened.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Position {
    pub(super) scan: u64,
    pub(super) log: usize,
}

/// A variable that is held, and how.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Held {
    pub(super) name: String,
    pub(super) value: String,
    /// True of a preset or constant that was changed, which is put back.
    pub(super) is_change: bool,
}

/// What is held after some entries.
pub(super) fn held(entries: &[Entry]) -> Vec<Held> {
    let mut out: Vec<Held> = Vec::new();
    for entry in entries {
        match &entry.what {
            Happening::Force(name, value) | Happening::Change(name, value) => {
                out.retain(|held| held.name != *name);
                let is_change = matches!(entry.what, Happening::Change(..));
                out.push(Held { name: name.clone(), value: value.clone(), is_change });
            }
            Happening::Release(name) | Happening::PutBack(name) => out.retain(|held| held.name != *name),
            Happening::Set(..) | Happening::Write(..) | Happening::Power(_) | Happening::Program(_) => {}
        }
    }
    out
}
