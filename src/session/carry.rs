//! A changed program goes on with the memory of the one before it: what has the same name and the same type is kept.

use super::questions::sides;
use crate::scan::{Cell, Controller, cells};
use crate::twin::Twin;
use serde::Serialize;
use std::collections::{BTreeSet, HashMap};

/// What became of a version's memory.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Kept {
    /// The version.
    pub version: String,
    /// How many values were kept.
    pub kept: usize,
    /// Values that begin anew, as they are new or of another type.
    pub anew: Vec<String>,
    /// Values that are gone.
    pub lost: Vec<String>,
    /// True if what edge contacts and boxes of drawings remember begins anew, as the drawings are not of the same shape.
    pub edges_anew: bool,
}

/// The controller of the new program with the memory of the old one.
pub(super) fn carry(
    from: &Twin<'_>,
    to: &Twin<'_>,
    side: usize,
    old: &Controller,
    mut fresh: Controller,
) -> Result<(Controller, Kept), String> {
    let version = |twin: &Twin<'_>| sides(twin).nth(side).cloned().ok_or("there is no such version");
    let (before, after) = (version(from)?, version(to)?);
    let [was, is] = [&before, &after].map(|version| cells(version.checked()).map_err(|e| e.to_string()));
    let (was, is) = (was?, is?);
    let hidden = |list: &[Cell]| -> BTreeSet<String> {
        list.iter().filter(|cell| cell.is_hidden).map(|cell| cell.path.clone()).collect()
    };
    // Names of what drawings remember are numbers of networks and elements: they mean the same only if all are the same.
    let edges_anew = hidden(&was) != hidden(&is);
    let counts = |cell: &&Cell| !(cell.is_hidden && edges_anew);
    let known: HashMap<&str, &Cell> = was.iter().filter(counts).map(|cell| (cell.path.as_str(), cell)).collect();
    let there: BTreeSet<&str> = is.iter().map(|cell| cell.path.as_str()).collect();
    let (mut slots, mut anew) = (Vec::new(), Vec::new());
    for cell in is.iter().filter(counts) {
        match known.get(cell.path.as_str()).filter(|before| before.ty == cell.ty) {
            Some(before) => slots.push((cell.slot, before.slot, cell.is_text)),
            None => anew.push(cell.path.clone()),
        }
    }
    let gone = was.iter().filter(|cell| !cell.is_hidden && !there.contains(cell.path.as_str()));
    let lost = gone.map(|cell| cell.path.clone()).collect();
    fresh.carry_over(old, &slots);
    let kept = Kept { version: after.name().to_string(), kept: slots.len(), anew, lost, edges_anew };
    Ok((fresh, kept))
}
