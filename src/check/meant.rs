//! What may be meant by a name that is not there.

use std::cell::Cell;

/// Names that unknown ones are compared with in one check: of thousands of unknown names it would take minutes, and help nobody.
const MOST_COMPARED: usize = 1_000_000;

/// Names of what is there that one problem tells.
const MOST_TOLD: usize = 20;

/// How many names were compared with unknown ones so far.
#[derive(Default)]
pub(super) struct Compared(Cell<usize>);

impl Compared {
    /// The candidate closest to a name, if one is close; none once too many have been compared.
    pub(super) fn closest<I>(&self, name: &str, candidates: impl FnOnce() -> I) -> Option<String>
    where
        I: IntoIterator<Item: AsRef<str>>,
    {
        if self.0.get() >= MOST_COMPARED {
            return None;
        }
        closest(name, candidates().into_iter().inspect(|_| self.0.set(self.0.get() + 1)))
    }
}

/// The candidate closest to a name, if one is close.
pub(crate) fn closest(name: &str, candidates: impl Iterator<Item: AsRef<str>>) -> Option<String> {
    let lower = name.to_lowercase();
    let most = |c: &str| 1 + c.chars().count().min(name.chars().count()) / 4;
    let compared = candidates.filter_map(|candidate| {
        let c = candidate.as_ref();
        // What differs more in length than it may in all is not looked at.
        if c.len().abs_diff(name.len()) > 4 * most(c) {
            return None;
        }
        let distance = strsim::damerau_levenshtein(&lower, &c.to_lowercase());
        // Two names of one letter have nothing in common.
        (distance <= most(c) && distance < c.len().min(name.len()).max(1)).then_some((distance, candidate))
    });
    compared.min_by_key(|(distance, _)| *distance).map(|(_, c)| c.as_ref().to_string())
}

/// What something has, for an error that asks for another name.
pub(super) fn it_has<S: AsRef<str>>(names: &[S]) -> String {
    let told: Vec<&str> = names.iter().take(MOST_TOLD).map(AsRef::as_ref).collect();
    let more = match names.len().saturating_sub(MOST_TOLD) {
        0 => String::new(),
        more => format!(" and {more} more"),
    };
    format!("it has {}{more}", told.join(", "))
}
