//! The tape: a flat list of compact operations over 64-bit slots.
//!
//! Every operand is a slot number; constants have slots of their own that nothing writes. Calls are laid out in
//! line, each instance on its own slots, so there are no frames and no stack.

use super::fused::Fused;
use super::op::{Area, Op, Slot};
use crate::source::Span;
use std::collections::HashSet;

/// One dimension of an array.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Dimension {
    pub(crate) low: i64,
    pub(crate) high: i64,
    pub(crate) stride: i64,
}

/// How far an offset into an array may reach: it is 0 to `most`, in steps of `step`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Reach {
    pub(crate) most: i64,
    pub(crate) step: i64,
}

impl Reach {
    /// After one more index.
    pub(crate) fn beyond(self, dim: Dimension) -> Reach {
        Reach {
            most: self.most + (dim.high - dim.low) * dim.stride,
            step: crate::model::ops::gcd(self.step, dim.stride),
        }
    }
}

/// A compiled project.
#[derive(Clone, Debug)]
pub(crate) struct Tape {
    pub(crate) code: Vec<Op>,
    /// The statement or instruction each operation comes from.
    pub(crate) spans: Vec<Span>,
    /// What each operation is asked for, beside `code`.
    pub(crate) asked: Vec<Asked>,
    /// Slots that hold constants.
    pub(crate) constants: HashSet<Slot>,
    /// Slots of intermediate values: each is written before it is read.
    pub(crate) temporaries: HashSet<Slot>,
    /// Variables that a CASE selects by: step variables.
    pub(crate) selectors: Vec<Slot>,
    /// Expressions that are asked from outside: where each begins, and the slot of its value.
    pub(crate) probes: Vec<(u32, Slot)>,
    /// What runs in a scan, in order.
    pub(crate) entries: Vec<Entry>,
    /// Where the code of the user's own programs ends; what is behind belongs to plants and probes.
    pub(crate) own_end: u32,
    /// Memory that outlasts everything, as it is not the controller's: that of plants.
    pub(crate) lasting: Vec<std::ops::Range<Slot>>,
    /// Memory at power-up.
    pub(crate) image: Vec<i64>,
    pub(crate) retained: Vec<bool>,
    /// Slots of stopwatches.
    pub(crate) watches: std::collections::BTreeSet<Slot>,
    pub(crate) ranges: Vec<(i64, i64)>,
    pub(crate) dimensions: Vec<Dimension>,
    pub(crate) blocks: Vec<(Slot, u32)>,
    /// Of each operation that reads or writes memory moved by an offset, by its place: how far that reaches.
    pub(crate) reaches: std::collections::HashMap<u32, Reach>,
    pub(crate) texts: Vec<String>,
    /// The slots that are read, once that was asked.
    pub(super) read: std::sync::OnceLock<HashSet<Slot>>,
    /// The same in fewer steps, once a run was not watched.
    pub(super) fused: std::sync::OnceLock<Fused>,
}

impl Tape {
    /// For each operation whether anything it reads can vary, as far as the straight code before it tells.
    pub(crate) fn decides(&self) -> Vec<bool> {
        let landings = self.landings();
        let mut fixed = self.constants.clone();
        let mut out = Vec::with_capacity(self.code.len());
        for (at, op) in self.code.iter().enumerate() {
            if landings[at] {
                fixed.clone_from(&self.constants);
            }
            out.push(op.operands().any(|slot| !fixed.contains(&slot)));
            match (op, op.footprint().writes) {
                (Op::Move { a, d }, _) if fixed.contains(a) => {
                    fixed.insert(*d);
                }
                (_, Some(Area::Slot(slot) | Area::Watch(slot))) => {
                    fixed.remove(&slot);
                }
                (_, Some(_)) => fixed.clone_from(&self.constants),
                (_, None) => {}
            }
        }
        out
    }

    /// For each operation whether another one may jump to it.
    pub(super) fn landings(&self) -> Vec<bool> {
        let mut out = vec![false; self.code.len() + 1];
        for to in self.code.iter().filter_map(|op| op.footprint().leads.landing()) {
            out[to as usize] = true;
        }
        out
    }

    /// For each slot whether any operation may write it.
    pub(crate) fn written(&self) -> Vec<bool> {
        let mut out = vec![false; self.image.len()];
        for (at, op) in self.code.iter().enumerate() {
            if let Some(area) = op.footprint().writes {
                self.span(at as u32, area).for_each(|slot| out[slot as usize] = true);
            }
        }
        out
    }

    /// The slots that any operation of the programs may read.
    pub(crate) fn read(&self) -> &HashSet<Slot> {
        self.read.get_or_init(|| {
            let mut out = HashSet::new();
            for (at, op) in self.code.iter().enumerate().take(self.entries_end() as usize) {
                let access = op.footprint();
                for area in access.reads.into_iter().flatten() {
                    out.extend(self.span(at as u32, area));
                }
                out.extend(access.reads.into_iter().chain([access.writes]).flatten().filter_map(Area::offset));
            }
            out
        })
    }

    /// The same in fewer steps.
    pub(super) fn fused(&self) -> &Fused {
        self.fused.get_or_init(|| Fused::of(self))
    }

    /// The slots that an area of the operation at a place may be, wherever its offset leads; within memory.
    pub(super) fn span(&self, at: u32, area: Area) -> std::ops::Range<Slot> {
        let (first, count) = area.unmoved(&self.blocks);
        let far = if area.offset().is_some() { self.reach(at).most } else { 0 };
        let end = i64::from(first) + i64::from(count) + far;
        first..end.min(self.image.len() as i64) as Slot
    }

    /// How far the offset of the operation at a place reaches; nowhere if it has none.
    pub(crate) fn reach(&self, at: u32) -> Reach {
        self.reaches.get(&at).copied().unwrap_or_default()
    }

    /// Where the programs end and the probes begin.
    pub(crate) fn entries_end(&self) -> u32 {
        self.probes.first().map_or(self.code.len() as u32, |(start, _)| *start)
    }
}

/// The expression that an operation computes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Asked {
    /// Its place; in the text of a shipped block it is that of the block.
    pub(crate) span: Span,
    /// True if its operands, or what it decides by, are BOOL.
    pub(crate) logical: bool,
}

/// A program's place on the tape.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Entry {
    pub(crate) start: u32,
    /// Nanoseconds between releases; 0 runs in each scan.
    pub(crate) interval: i64,
}
