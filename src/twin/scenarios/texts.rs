//! Strings that inputs are given: scenarios hold numbers, and a string has one among all that two versions know.

use crate::twin::Version;
use indexmap::IndexSet;
use std::sync::{Arc, Mutex};

/// Strings by number. Those of the left version come first, by the numbers that they have in its memory at power-up.
#[derive(Clone, Debug, Default)]
pub(crate) struct Texts(Arc<Mutex<IndexSet<String>>>);

impl Texts {
    /// All strings of both versions; each once more with another last letter, and the empty one: what is nearly the same.
    pub(in crate::twin) fn new(versions: [&Version; 2]) -> Texts {
        let mut all: IndexSet<String> = IndexSet::new();
        for version in versions {
            all.extend(version.machine.tape().texts.iter().cloned());
        }
        let near: Vec<String> = all.iter().filter_map(|text| near(text)).collect();
        all.extend(near);
        all.insert(String::new());
        Texts(Arc::new(Mutex::new(all)))
    }

    /// How many there are.
    pub(in crate::twin) fn len(&self) -> usize {
        self.0.lock().map_or(0, |all| all.len())
    }

    /// The string of a number.
    pub(in crate::twin) fn get(&self, number: i64) -> String {
        let number = usize::try_from(number).unwrap_or(usize::MAX);
        self.0.lock().ok().and_then(|all| all.get_index(number).cloned()).unwrap_or_default()
    }

    /// The number of a string; one that is not known yet is from now on.
    pub(in crate::twin) fn number(&self, text: &str) -> i64 {
        self.0.lock().map_or(0, |mut all| all.insert_full(text.to_string()).0 as i64)
    }
}

/// A string of the same length that differs in its last letter.
fn near(text: &str) -> Option<String> {
    let last = text.chars().next_back()?;
    let mut out = text.to_string();
    out.pop();
    out.push(if last == '?' { '!' } else { '?' });
    Some(out)
}
