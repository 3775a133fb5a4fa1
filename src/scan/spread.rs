//! How far a change spreads: from operations and slots that are not what they were to all that may be computed otherwise
//! by it, over as many scans as it takes.
//!
//! An operation is reached if it reads what is reached, or if whether it runs hangs on what is reached; then what it
//! writes is reached. Variables are followed without regard to the order of what writes them, so nothing is missed that
//! a later scan brings; slots of intermediate values, which every statement uses anew, are followed along the paths.
//! Where an operation is reached that may stop the program, all is: whatever comes behind it does not run.

use super::op::{Area, Footprint, Leads, Op, Slot};
use super::tape::Tape;
use std::collections::{BTreeMap, HashMap};

/// Changes, one in each bit.
pub(crate) type Bits = u64;

/// Where changes begin.
#[derive(Clone, Debug, Default)]
pub(crate) struct Seeds {
    /// Of each operation of the tape the changes that it is a part of.
    pub(crate) operations: Vec<Bits>,
    /// Slots that hold something else before any operation runs.
    pub(crate) slots: Vec<(Slot, Bits)>,
}

impl Seeds {
    /// The slots that operations read or write in which a change begins, and those that hold something else.
    pub(crate) fn handled(&self, tape: &Tape) -> Vec<Slot> {
        let changed = (0..tape.code.len()).filter(|at| self.operations.get(*at).is_some_and(|bits| *bits != 0));
        let areas = changed.flat_map(|at| {
            let footprint = tape.code[at].footprint();
            footprint.reads.into_iter().chain([footprint.writes]).flatten().map(move |area| (at as u32, area))
        });
        let slots = areas.flat_map(|(at, area)| tape.span(at, area));
        slots.chain(self.slots.iter().map(|(slot, _)| *slot)).collect()
    }
}

/// What changes reach.
#[derive(Clone, Debug)]
pub(crate) struct Reached {
    /// Of each slot the changes that reach it.
    pub(crate) slots: Vec<Bits>,
    /// Changes that reach everything.
    pub(crate) all: Bits,
    /// The first operation by which one of those does.
    pub(crate) stops: Option<u32>,
}

impl Op {
    /// Whether it may stop the program, as far as its operands tell.
    fn may_stop(self, tape: &Tape) -> bool {
        let constant = |slot: Slot| tape.constants.contains(&slot).then(|| tape.image[slot as usize]);
        match self {
            Op::Div { b, .. } => constant(b).is_none_or(|value| value == 0),
            Op::Shift { b, .. } => constant(b).is_none_or(|value| value < 0),
            Op::ScaleTime { .. } | Op::Bound { .. } | Op::Index { .. } | Op::Back { .. } => true,
            Op::One { f, .. } => match f {
                super::One::Negate(_) | super::One::Not(_) | super::One::Abs(_) | super::One::Real(..) => false,
                super::One::Convert(..) | super::One::Truncate(_) | super::One::FromBcd(_) | super::One::ToBcd(..) => {
                    true
                }
            },
            Op::Move { .. }
            | Op::MoveIf { .. }
            | Op::NotBool { .. }
            | Op::And { .. }
            | Op::Or { .. }
            | Op::Xor { .. }
            | Op::AndNot { .. }
            | Op::OrNot { .. }
            | Op::Add { .. }
            | Op::Sub { .. }
            | Op::Mul { .. }
            | Op::Mod { .. }
            | Op::Eq { .. }
            | Op::Ne { .. }
            | Op::Lt { .. }
            | Op::Le { .. }
            | Op::LtUnsigned { .. }
            | Op::LeUnsigned { .. }
            | Op::Min { .. }
            | Op::Max { .. }
            | Op::Real { .. }
            | Op::Jump { .. }
            | Op::JumpIf { .. }
            | Op::JumpUnless { .. }
            | Op::Load { .. }
            | Op::Store { .. }
            | Op::Copy { .. }
            | Op::LoadBlock { .. }
            | Op::StoreBlock { .. }
            | Op::Restart { .. }
            | Op::RestartAt { .. }
            | Op::Since { .. }
            | Op::FirstScan { .. }
            | Op::ScanTime { .. }
            | Op::Ticks { .. }
            | Op::Text { .. }
            | Op::Cut { .. }
            | Op::End => false,
        }
    }
}

/// What changes reach on a tape.
pub(crate) fn spread(tape: &Tape, seeds: &Seeds) -> Reached {
    let mut follow = Follow {
        tape,
        seeds,
        ends: regions(tape),
        loops: loops(tape),
        landings: tape.landings(),
        out: Reached { slots: vec![0; tape.image.len()], all: 0, stops: None },
        arriving: HashMap::new(),
        repeated: HashMap::new(),
        grown: false,
    };
    for (slot, bits) in &seeds.slots {
        follow.out.slots[*slot as usize] |= bits;
    }
    loop {
        follow.grown = false;
        follow.pass();
        if !follow.grown {
            return follow.out;
        }
    }
}

/// Of each jump that leads forward where what hangs on it ends: from there on all paths have come together. Between a jump
/// and that place lies all that may run or not run by it, and sometimes more.
fn regions(tape: &Tape) -> HashMap<u32, u32> {
    let forward = |at: usize| match tape.code[at].footprint().leads {
        Leads::Jump(to) | Leads::Branch(to) => Some(to),
        Leads::On | Leads::Back(_) | Leads::End => None,
    };
    let jumps: Vec<u32> = (0..tape.code.len()).filter(|at| forward(*at).is_some()).map(|at| at as u32).collect();
    let mut ends: HashMap<u32, u32> = HashMap::new();
    for (number, at) in jumps.iter().enumerate().rev() {
        let mut end = forward(*at as usize).unwrap_or(*at);
        let mut next = number + 1;
        while let Some(inner) = jumps.get(next).filter(|inner| **inner < end) {
            let inner_end = ends[inner];
            end = end.max(inner_end);
            // All jumps up to there end there or before.
            next = jumps.partition_point(|jump| *jump < inner_end).max(next + 1);
        }
        ends.insert(*at, end);
    }
    ends
}

/// Where each loop begins and ends.
fn loops(tape: &Tape) -> Vec<(u32, u32)> {
    let back = |(at, op): (usize, &Op)| match op.footprint().leads {
        Leads::Back(to) => Some((to, at as u32)),
        Leads::On | Leads::Jump(_) | Leads::Branch(_) | Leads::End => None,
    };
    tape.code.iter().enumerate().filter_map(back).collect()
}

struct Follow<'t> {
    tape: &'t Tape,
    seeds: &'t Seeds,
    ends: HashMap<u32, u32>,
    loops: Vec<(u32, u32)>,
    landings: Vec<bool>,
    out: Reached,
    /// What intermediate values hold where a jump arrives.
    arriving: HashMap<u32, HashMap<Slot, Bits>>,
    /// Of the beginning of a loop the end of what hangs on whether it is run again, and on what that hangs.
    repeated: HashMap<u32, (u32, Bits)>,
    grown: bool,
}

impl Follow<'_> {
    /// Over the tape once, in its order.
    fn pass(&mut self) {
        let mut values: HashMap<Slot, Bits> = HashMap::new();
        // What the operation at hand hangs on, by where that ends.
        let mut hanging: BTreeMap<u32, Bits> = BTreeMap::new();
        for at in 0..self.tape.entries_end() {
            while hanging.first_key_value().is_some_and(|(end, _)| *end <= at) {
                hanging.pop_first();
            }
            if let Some((end, bits)) = self.repeated.get(&at) {
                *hanging.entry(*end).or_default() |= bits;
            }
            if self.landings[at as usize] {
                for (slot, bits) in self.arriving.get(&at).into_iter().flatten() {
                    *values.entry(*slot).or_default() |= bits;
                }
            }
            let op = self.tape.code[at as usize];
            let footprint = op.footprint();
            let own = self.seeds.operations.get(at as usize).copied().unwrap_or(0);
            let bits = own | hanging.values().fold(0, |all, bits| all | bits) | self.taken(at, footprint, &values);
            if bits & !self.out.all != 0 && op.may_stop(self.tape) {
                self.out.stops.get_or_insert(at);
                self.out.all |= bits;
            }
            if let Some(area) = footprint.writes {
                self.written(at, area, bits, &mut values);
            }
            self.lead(at, footprint.leads, bits, &mut values, &mut hanging);
        }
    }

    /// What reaches the operands of an operation.
    fn taken(&self, at: u32, footprint: Footprint, values: &HashMap<Slot, Bits>) -> Bits {
        let of = |slot: Slot| values.get(&slot).copied().unwrap_or(0) | self.out.slots[slot as usize];
        let areas = footprint.reads.into_iter().flatten();
        let read = areas.clone().flat_map(|area| self.tape.span(at, area)).fold(0, |all, slot| all | of(slot));
        let offsets = areas.chain(footprint.writes).filter_map(Area::offset);
        offsets.fold(read, |all, slot| all | of(slot))
    }

    fn written(&mut self, at: u32, area: Area, bits: Bits, values: &mut HashMap<Slot, Bits>) {
        for slot in self.tape.span(at, area) {
            if !self.tape.temporaries.contains(&slot) {
                let held = &mut self.out.slots[slot as usize];
                self.grown |= *held | bits != *held;
                *held |= bits;
            } else if matches!(area, Area::Slot(_) | Area::Watch(_)) && self.always_writes(at) {
                // What it held before is gone.
                values.insert(slot, bits);
            } else {
                *values.entry(slot).or_default() |= bits;
            }
        }
    }

    /// False of an operation that may leave its slot as it was.
    fn always_writes(&self, at: u32) -> bool {
        !matches!(self.tape.code[at as usize], Op::MoveIf { .. })
    }

    fn lead(
        &mut self,
        at: u32,
        leads: Leads,
        bits: Bits,
        values: &mut HashMap<Slot, Bits>,
        hanging: &mut BTreeMap<u32, Bits>,
    ) {
        if let Some(to) = leads.landing() {
            let there = self.arriving.entry(to).or_default();
            for (slot, bits) in values.iter().filter(|(_, bits)| **bits != 0) {
                let held = there.entry(*slot).or_default();
                self.grown |= to <= at && *held | bits != *held;
                *held |= bits;
            }
        }
        match leads {
            Leads::On => {}
            Leads::Branch(_) | Leads::Jump(_) if bits != 0 => {
                let end = self.ends.get(&at).copied().unwrap_or(at);
                *hanging.entry(end).or_default() |= bits;
                // It may end a loop that it stands in: then it decides of all that the loop does once more.
                for (start, last) in &self.loops {
                    if *start <= at && at <= *last && end > *last {
                        let (reach, held) = self.repeated.entry(*start).or_default();
                        self.grown |= *held | bits != *held || end > *reach;
                        (*reach, *held) = ((*reach).max(end), *held | bits);
                    }
                }
            }
            Leads::Branch(_) | Leads::Jump(_) | Leads::Back(_) | Leads::End => {}
        }
        match leads {
            // What stands behind it is reached by other ways only.
            Leads::Jump(_) | Leads::Back(_) | Leads::End => values.clear(),
            Leads::On | Leads::Branch(_) => {}
        }
    }
}
