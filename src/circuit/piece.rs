//! A piece of a plan: some of its inputs, registers and steps, with bits of their own, so that a thousand pieces together are as large as
//! the plan is.

use super::plan::{Kept, Place, Plan, Step};
use std::collections::BTreeMap;

/// Where the bits of a plan stand in a piece of it.
#[derive(Default)]
pub(crate) struct Moved {
    /// By where they begin, bits that stand one behind the other: how many, and where they begin in the piece.
    blocks: BTreeMap<u32, (u32, u32)>,
    bits: u32,
}

impl Moved {
    /// Gives bits a place.
    fn add(&mut self, at: u32, width: u32) {
        self.blocks.insert(at, (width, self.bits));
        self.bits += width;
    }

    /// Where a bit stands in the piece; none if it has none there.
    pub(crate) fn bit(&self, at: u32) -> Option<u32> {
        let (first, (width, there)) = self.blocks.range(..=at).next_back()?;
        (at - first < *width).then_some(there + (at - first))
    }

    /// Where a number stands. What is read in a piece is in it; a number of no bits stands anywhere.
    fn place(&self, place: Place) -> Place {
        let at = if place.width == 0 { Some(0) } else { self.bit(place.at) };
        debug_assert!(at.is_some(), "{place:?} is read and not given");
        Place { at: at.unwrap_or_default(), ..place }
    }
}

impl Plan {
    /// Only some of the inputs, registers and steps, by their numbers, and where their bits stand now. Constants are there as far as steps
    /// read them or as they are `asked` for.
    pub(crate) fn piece(&self, [inputs, registers, steps]: [&[usize]; 3], asked: &[usize]) -> (Plan, Moved) {
        let inputs: Vec<_> = inputs.iter().map(|n| self.inputs[*n]).collect();
        let registers: Vec<_> = registers.iter().map(|n| self.registers[*n]).collect();
        let steps: Vec<Step> = steps.iter().map(|n| self.steps[*n]).collect();
        let asked = asked.iter().map(|at| Place { at: *at as u32, width: 1, signed: false });
        let read = steps.iter().flat_map(|step| [step.a, step.b, step.c]).chain(asked);
        let read = read.chain(registers.iter().map(|kept| kept.next));
        let mut moved = Moved::default();
        let constants = self.read_constants(read, &mut moved);
        let given = inputs.iter().map(|(_, place)| *place).chain(registers.iter().map(|kept| kept.place));
        for place in given.chain(steps.iter().map(|step| step.d)).filter(|place| place.width > 0) {
            moved.add(place.at, u32::from(place.width));
        }
        let at = |place: Place| moved.place(place);
        let own = |s: Step| Step { d: at(s.d), a: at(s.a), b: at(s.b), c: at(s.c), ..s };
        let mut plan = Plan::of(moved.bits as usize, constants, steps.into_iter().map(own).collect());
        plan.inputs = inputs.into_iter().map(|(id, place)| (id, at(place))).collect();
        plan.name_inputs(|id| self.input_unit(id));
        plan.registers =
            registers.iter().map(|kept| Kept { place: at(kept.place), next: at(kept.next), ..*kept }).collect();
        debug_assert_eq!(plan.verify(), Ok(()), "an invariant of a piece");
        (plan, moved)
    }

    /// The constant bits that are read, which come first.
    fn read_constants(&self, read: impl Iterator<Item = Place>, moved: &mut Moved) -> Vec<bool> {
        let is_constant = |place: &Place| place.width > 0 && (place.at as usize) < self.constants.len();
        let mut spans: Vec<(u32, u32)> =
            read.filter(is_constant).map(|place| (place.at, place.at + u32::from(place.width))).collect();
        spans.sort_unstable();
        let mut out = Vec::new();
        let mut add = |(first, end): (u32, u32)| {
            moved.add(first, end - first);
            out.extend_from_slice(&self.constants[first as usize..end as usize]);
        };
        let mut open: Option<(u32, u32)> = None;
        for (first, end) in spans {
            match &mut open {
                // What overlaps is one.
                Some(span) if first < span.1 => span.1 = span.1.max(end),
                _ => {
                    if let Some(span) = open.replace((first, end)) {
                        add(span);
                    }
                }
            }
        }
        if let Some(span) = open {
            add(span);
        }
        out
    }
}
