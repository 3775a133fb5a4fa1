//! New names that clash with nothing.

use crate::model::{Body, Unit};
use std::collections::{HashMap, HashSet};

/// Hands out names that are free in one unit.
pub(super) struct Namer {
    used: HashSet<String>,
    /// The last number given to a base.
    last: HashMap<String, u32>,
}

impl Namer {
    pub(super) fn new(unit: &Unit, project_names: impl Iterator<Item = String>) -> Namer {
        let mut used: HashSet<String> = project_names.map(|n| n.to_uppercase()).collect();
        used.insert(unit.name.text.to_uppercase());
        for section in &unit.sections {
            for var in &section.vars {
                used.extend(var.names.iter().map(|n| n.text.to_uppercase()));
            }
        }
        if let Body::Instructions(list) = &unit.body {
            used.extend(list.iter().filter_map(|i| i.label.as_ref()).map(|l| l.text.to_uppercase()));
        }
        if let Body::Ladder(list) | Body::Blocks(list) = &unit.body {
            used.extend(list.iter().filter_map(|n| n.label.as_ref()).map(|l| l.text.to_uppercase()));
        }
        Namer { used, last: HashMap::new() }
    }

    /// `base1`, `base2`, ... the first that is free.
    pub(super) fn fresh(&mut self, base: &str) -> String {
        let last = self.last.entry(base.to_string()).or_default();
        loop {
            *last += 1;
            let name = format!("{base}{last}");
            if self.used.insert(name.to_uppercase()) {
                return name;
            }
        }
    }
}
