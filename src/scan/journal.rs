//! A journal of what ran, and from it the answer to "why has this variable this value?".

use super::op::{Area, Leads, Op, Slot};
use super::run::{Watch, written};
use super::tape::Tape;
use super::{Machine, PointId};
use crate::source::Span;
use std::collections::{BTreeMap, HashMap, HashSet};

/// What ran, in order.
#[derive(Default)]
pub(crate) struct Journal {
    pub(super) scan: u64,
    entries: Vec<Ran>,
    forced: Vec<(Slot, i64)>,
}

/// One operation that ran.
#[derive(Clone, Copy)]
pub(super) struct Ran {
    scan: u64,
    pub(super) at: u32,
    /// What it read, in the order of its operands.
    read: [(Slot, i64); 3],
    /// The first slot it wrote, how many, and what the first became.
    wrote: Option<(Slot, u32, i64)>,
}

impl Ran {
    /// The slots it read, and what they held.
    pub(super) fn reads(&self) -> impl Iterator<Item = (Slot, i64)> {
        self.read.into_iter().filter(|(slot, _)| *slot != NONE)
    }

    /// The slots it wrote.
    pub(super) fn written(&self) -> impl Iterator<Item = Slot> {
        self.wrote.into_iter().flat_map(|(first, count, _)| first..first + count)
    }

    /// What it wrote.
    pub(super) fn result(&self) -> Option<i64> {
        self.wrote.map(|(_, _, value)| value)
    }
}

/// Entries that a journal keeps at most; older ones go.
const MOST_ENTRIES: usize = 1 << 20;

/// No slot.
const NONE: Slot = Slot::MAX;

impl Journal {
    pub(super) fn new(forced: &[(Slot, i64)]) -> Journal {
        Journal { forced: forced.to_vec(), ..Journal::default() }
    }
}

impl Journal {
    /// These are forced from now on.
    pub(super) fn hold(&mut self, forced: &[(Slot, i64)]) {
        self.forced = forced.to_vec();
    }

    /// What ran in a scan, as far as it is kept.
    pub(super) fn of_scan(&self, scan: u64) -> impl Iterator<Item = &Ran> {
        self.entries.iter().filter(move |ran| ran.scan == scan)
    }
}

impl Watch for Journal {
    fn before(&mut self, memory: &[i64], at: usize, op: &Op) {
        if self.entries.len() >= MOST_ENTRIES {
            self.entries.drain(..MOST_ENTRIES / 2);
        }
        let mut read = [(NONE, 0); 3];
        // Of what lies behind an offset, what it holds and the offset; of the rest, what is known beforehand.
        let moved = op.footprint().reads[0].and_then(|area| match area {
            Area::Moved { .. } => Some(area.moved(&[], memory).0),
            Area::Slot(_)
            | Area::Watch(_)
            | Area::Run(..)
            | Area::Like { .. }
            | Area::MovedWatch { .. }
            | Area::Block { .. } => None,
        });
        for (to, slot) in read.iter_mut().zip(moved.into_iter().chain(op.operands())) {
            *to = (slot, memory.get(slot as usize).copied().unwrap_or(0));
        }
        self.entries.push(Ran { scan: self.scan, at: at as u32, read, wrote: None });
    }

    fn after(&mut self, tape: &Tape, memory: &mut [i64], _: usize, op: &Op) {
        for (slot, value) in &self.forced {
            memory[*slot as usize] = *value;
        }
        if let (Some(ran), Some((first, count))) = (self.entries.last_mut(), written(tape, memory, *op)) {
            ran.wrote = Some((first, count, memory[first as usize]));
        }
    }
}

/// A variable that was read on the way to a value.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Read {
    pub(crate) point: PointId,
    pub(crate) value: i64,
    /// Where in the journal; what is older explains it.
    pub(crate) before: usize,
}

/// Why a variable has its value: the statement that wrote it last, and what it read.
#[derive(Clone, Debug)]
pub(crate) struct Link {
    pub(crate) scan: u64,
    pub(crate) span: Span,
    /// What it became then; `None` if it was copied together with others.
    pub(crate) value: Option<i64>,
    pub(crate) reads: Vec<Read>,
}

/// Most operations looked at for one link.
const MOST_STEPS: usize = 4_000;

impl Journal {
    /// How much there is.
    pub(crate) fn len(&self) -> usize {
        self.entries.len()
    }

    /// What wrote a point last before a place in the journal, and what that rested on. `None` if nothing wrote it
    /// since the journal began.
    pub(crate) fn why(&self, machine: &Machine, point: PointId, before: usize) -> Option<Link> {
        let slot = machine.point(point).slot;
        let names = machine.slot_points();
        let last = self.writer(slot, before)?;
        let span = machine.tape.spans[self.entries[last].at as usize];
        // A call writes the instance's own fields; what it rests on is what it is given.
        let own = machine.point(point).name.rsplit_once('.').map(|(instance, _)| format!("{instance}."));
        let mut reads: BTreeMap<PointId, Read> = BTreeMap::new();
        let mut open = vec![last];
        let mut seen: HashSet<usize> = HashSet::new();
        while let Some(at) = open.pop() {
            if !seen.insert(at) || seen.len() > MOST_STEPS {
                continue;
            }
            open.extend(self.guards(&machine.tape, at));
            for (slot, value) in self.entries[at].read.into_iter().filter(|(s, _)| *s != NONE) {
                let name = names.get(&slot);
                let inner =
                    name.is_some_and(|p| own.as_ref().is_some_and(|o| machine.point(*p).name.starts_with(o.as_str())));
                let writer = self.writer(slot, at);
                let same_statement = |w: &usize| {
                    let other = &self.entries[*w];
                    other.scan == self.entries[at].scan && machine.tape.spans[other.at as usize] == span
                };
                match name {
                    Some(point) if !inner => {
                        reads.entry(*point).or_insert(Read { point: *point, value, before: at });
                    }
                    // Fields of the instance at hand: as far as this very call has computed them.
                    Some(_) => open.extend(writer.filter(same_statement)),
                    None => open.extend(writer.filter(|w| self.entries[*w].scan == self.entries[at].scan)),
                }
            }
        }
        let value = self.entries[last].wrote.and_then(|(first, _, value)| (first == slot).then_some(value));
        Some(Link { scan: self.entries[last].scan, span, value, reads: reads.into_values().collect() })
    }

    /// The operation that wrote a slot last before a place in the journal.
    fn writer(&self, slot: Slot, before: usize) -> Option<usize> {
        self.entries[..before.min(self.entries.len())]
            .iter()
            .rposition(|ran| ran.wrote.is_some_and(|(first, count, _)| (first..first + count).contains(&slot)))
    }

    /// The innermost jump that would have led past an operation, had it been taken.
    fn guards(&self, tape: &Tape, at: usize) -> Option<usize> {
        let ran = &self.entries[at];
        let list = &self.entries[..at];
        let in_scan = list.iter().rev().take_while(|e| e.scan == ran.scan).take(MOST_STEPS);
        let found = in_scan.enumerate().find(|(_, e)| {
            e.at < ran.at && matches!(tape.code[e.at as usize].footprint().leads, Leads::Branch(to) if to > ran.at)
        });
        found.map(|(back, _)| at - 1 - back)
    }
}

impl Machine {
    /// Points by their slots.
    fn slot_points(&self) -> HashMap<Slot, PointId> {
        self.points.iter().enumerate().map(|(n, p)| (p.slot, PointId(n as u32))).collect()
    }
}
