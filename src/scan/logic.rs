//! Neighbouring operations on BOOL values as one look into a table, for the steps of runs that nothing watches
//! ([`fused`](super::fused)): whatever they join, of a few values there are few combinations, and for each it is known what comes out.

use super::acts::{Act, Choose, Kind, kind};
use super::op::{Area, Leads, Slot};
use super::tape::Tape;
use rustc_hash::FxHashMap;
use std::collections::BTreeSet;

/// How many values are joined at most: a table has a bit for each combination of them.
pub(super) const MOST: usize = 5;

/// Fewer operations are done as well one by one, or two at a time.
const FEWEST: usize = 3;

/// More operations are not looked at.
const LONGEST: usize = 32;

/// The last that reads a value, where that is not told.
const NOT_TOLD: u32 = u32::MAX;

/// Of each value the bits of a table for the combinations in which it is TRUE.
const TRUE_IN: [u32; MOST] = [0xaaaa_aaaa, 0xcccc_cccc, 0xf0f0_f0f0, 0xff00_ff00, 0xffff_0000];

/// Neighbouring operations of which only what the last one writes is read by others.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Joined {
    /// How many.
    pub(super) operations: usize,
    /// What the last one writes.
    pub(super) d: Slot,
    /// The values that they join.
    pub(super) values: Vec<Slot>,
    /// What comes out: for each combination a bit, whose number has bit `i` set where value `i` is TRUE.
    pub(super) table: u32,
}

/// Finds such operations on a tape.
pub(super) struct Joins<'t> {
    tape: &'t Tape,
    /// Where operations are that others jump to, or where programs begin.
    begins: &'t [bool],
    last_reads: Vec<u32>,
}

impl<'t> Joins<'t> {
    pub(super) fn of(tape: &'t Tape, begins: &'t [bool]) -> Joins<'t> {
        Joins { tape, begins, last_reads: last_reads(tape) }
    }

    /// As many operations as can be joined from a place on; none if they are too few.
    pub(super) fn from(&self, first: usize) -> Option<Joined> {
        let mut values: Vec<Slot> = Vec::new();
        let mut written: Vec<(Slot, u32)> = Vec::new();
        let mut found = None;
        // The last operation that reads what must not be read behind the joined ones.
        let mut read_until = 0;
        for at in (first..self.tape.code.len()).take(LONGEST) {
            if at > first && self.begins[at] || read_until == NOT_TOLD {
                break;
            }
            let Some((d, table)) = self.table(at, &mut values, &written) else { break };
            if at + 1 - first >= FEWEST && read_until <= at as u32 {
                found = Some(Joined { operations: at + 1 - first, d, values: values.clone(), table });
            }
            written.retain(|(slot, _)| *slot != d);
            written.push((d, table));
            read_until = read_until.max(self.last_reads[at]);
        }
        found
    }

    /// What an operation on BOOL values writes, and where; none if it is no such one, or there are too many values.
    fn table(&self, at: usize, values: &mut Vec<Slot>, written: &[(Slot, u32)]) -> Option<(Slot, u32)> {
        let (kind, [d, a, b]) = kind(self.tape.code[at])?;
        let is_logical = self.tape.asked[at].logical;
        // What is known to be TRUE or FALSE may have become the number 1 or 0, to be joined with bits of other kinds.
        let is_moved = || kind == Kind::Move && written.iter().any(|(slot, _)| *slot == a);
        if !(is_of_bools(kind, is_logical) || is_moved()) {
            return None;
        }
        let mut of = |slot: Slot| {
            if let Some((_, table)) = written.iter().find(|(own, _)| *own == slot) {
                return Some(*table);
            }
            if self.tape.constants.contains(&slot) {
                return Some(if self.tape.image[slot as usize] == 0 { 0 } else { u32::MAX });
            }
            let number = values.iter().position(|value| *value == slot).unwrap_or(values.len());
            if number == values.len() {
                values.push(slot);
            }
            TRUE_IN.get(number).copied()
        };
        let left = of(a)?;
        Some((d, kind.chosen(Table { left, right: of(b)? })))
    }
}

/// Whether an operation is on BOOL values, where its expression tells that its operands are. (A bit string is joined by the same
/// operations as a BOOL, and anything is moved by the same one.)
const fn is_of_bools(kind: Kind, is_logical: bool) -> bool {
    match kind {
        Kind::NotBool | Kind::AndNot | Kind::OrNot => true,
        Kind::Move | Kind::And | Kind::Or | Kind::Xor => is_logical,
        Kind::Eq
        | Kind::Ne
        | Kind::Lt
        | Kind::Le
        | Kind::LtUnsigned
        | Kind::LeUnsigned
        | Kind::AddInt
        | Kind::AddDint
        | Kind::AddLong
        | Kind::SubInt
        | Kind::SubDint
        | Kind::SubLong
        | Kind::MulInt
        | Kind::MulDint
        | Kind::Min
        | Kind::Max
        | Kind::Since
        | Kind::Restart => false,
    }
}

/// What both operands are in each combination.
struct Table {
    left: u32,
    right: u32,
}

impl Choose for Table {
    /// What comes out.
    type Chosen = u32;

    fn of<A: Act>(self) -> u32 {
        (0..32).fold(0, |table, combination| {
            let bit = |of: u32| i64::from(of >> combination & 1);
            let mut memory = [0, bit(self.left), bit(self.right)];
            A::act(&mut memory, [0, 1, 2], 0);
            table | u32::from(memory[0] != 0) << combination
        })
    }
}

/// Of each operation the last one that may read what it writes, if that is an intermediate value: itself if none does. Of other
/// operations it is [`NOT_TOLD`].
fn last_reads(tape: &Tape) -> Vec<u32> {
    let temporaries: BTreeSet<Slot> = tape.temporaries.iter().copied().collect();
    let landings = tape.landings();
    let mut out = vec![NOT_TOLD; tape.code.len()];
    // Intermediate values that are read from here on, with the last operation that may; where others jump to, those of that place.
    let mut read: Vec<(Slot, u32)> = Vec::new();
    let mut from: FxHashMap<u32, Vec<(Slot, u32)>> = FxHashMap::default();
    for at in (0..tape.code.len()).rev() {
        let access = tape.code[at].footprint();
        match access.leads {
            Leads::On => {}
            // Each is written before it is read, in every scan.
            Leads::End => read.clear(),
            Leads::Jump(to) => read = from.get(&to).cloned().unwrap_or_default(),
            Leads::Branch(to) => {
                for (slot, last) in from.get(&to).into_iter().flatten() {
                    match read.iter_mut().find(|(own, _)| own == slot) {
                        Some((_, own)) => *own = (*own).max(*last),
                        None => read.push((*slot, *last)),
                    }
                }
            }
            // What is before it is not known yet.
            Leads::Back(_) => read = temporaries.iter().map(|slot| (*slot, NOT_TOLD)).collect(),
        }
        if let Some(Area::Slot(d)) = access.writes
            && temporaries.contains(&d)
        {
            let known = read.iter().position(|(slot, _)| *slot == d);
            out[at] = known.map_or(at as u32, |known| read.swap_remove(known).1);
        }
        let areas = || access.reads.into_iter().flatten();
        let spans = areas().map(|area| tape.span(at as u32, area));
        let offsets = areas().chain(access.writes).filter_map(Area::offset).map(|slot| slot..slot + 1);
        for slot in spans.chain(offsets).flat_map(|span| temporaries.range(span)) {
            if !read.iter().any(|(own, _)| own == slot) {
                read.push((*slot, at as u32));
            }
        }
        if landings[at] {
            from.insert(at as u32, read.clone());
        }
    }
    out
}
