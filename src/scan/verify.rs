//! What holds of every tape, checked: after each compilation in debug builds, and by tests.

use super::op::{Area, Footprint, Leads, Op, Slot};
use super::tape::Tape;

/// An invariant of the tape that does not hold, and at which operation.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub(crate) enum TapeFlaw {
    #[error("there are {code} operations, {spans} places and {asked} expressions")]
    Beside { code: usize, spans: usize, asked: usize },
    #[error("memory has {image} slots, and of {retained} it is said whether they are retained")]
    Memory { image: usize, retained: usize },
    #[error("operation {0} is no end, and a program or probe ends there")]
    Open(usize),
    #[error("operation {0} jumps out of its program or probe, or in the wrong direction")]
    Jump(usize),
    #[error("operation {0} names a range, dimension or block that there is not")]
    Number(usize),
    #[error("operation {0} reaches beyond memory")]
    Beyond(usize),
    #[error("operation {0} writes a constant")]
    Constant(usize),
    #[error("operation {0} takes slot {1} for a stopwatch, or a stopwatch for a number")]
    Watch(usize, Slot),
    #[error("operation {0} reads the intermediate value {1}, which is not written on every way there")]
    Unwritten(usize, Slot),
}

impl Tape {
    /// Checks the invariants.
    ///
    /// # Errors
    /// The first that does not hold.
    pub(crate) fn verify(&self) -> Result<(), TapeFlaw> {
        let code = self.code.len();
        if self.spans.len() != code || self.asked.len() != code {
            return Err(TapeFlaw::Beside { code, spans: self.spans.len(), asked: self.asked.len() });
        }
        if self.retained.len() != self.image.len() {
            return Err(TapeFlaw::Memory { image: self.image.len(), retained: self.retained.len() });
        }
        let mut sections: Vec<usize> = self.entries.iter().map(|entry| entry.start as usize).collect();
        sections.extend(self.probes.iter().map(|(start, _)| *start as usize));
        sections.push(code);
        // What gives inputs runs first and stands behind.
        sections.sort_unstable();
        for section in sections.windows(2) {
            self.section(section[0], section[1])?;
        }
        Ok(())
    }

    /// One program or probe, from its first operation to the one behind its last.
    fn section(&self, start: usize, end: usize) -> Result<(), TapeFlaw> {
        if start >= end || !matches!(self.code[end - 1], Op::End) {
            return Err(TapeFlaw::Open(end.saturating_sub(1)));
        }
        for at in start..end {
            let access = self.code[at].footprint();
            let is_right = match access.leads {
                Leads::On | Leads::End => true,
                Leads::Jump(to) | Leads::Branch(to) => (at + 1..end).contains(&(to as usize)),
                Leads::Back(to) => (start..=at).contains(&(to as usize)),
            };
            if !is_right {
                return Err(TapeFlaw::Jump(at));
            }
            self.numbers(at)?;
            self.areas(at, access)?;
        }
        self.intermediate(start, end)
    }

    fn numbers(&self, at: usize) -> Result<(), TapeFlaw> {
        let (number, count) = match self.code[at] {
            Op::Bound { range, .. } => (range, self.ranges.len()),
            Op::Index { dim, .. } => (dim, self.dimensions.len()),
            Op::LoadBlock { block, .. } | Op::StoreBlock { block, .. } => (block, self.blocks.len()),
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
            | Op::Div { .. }
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
            | Op::ScaleTime { .. }
            | Op::Shift { .. }
            | Op::One { .. }
            | Op::Jump { .. }
            | Op::JumpIf { .. }
            | Op::JumpUnless { .. }
            | Op::Back { .. }
            | Op::Load { .. }
            | Op::Store { .. }
            | Op::Copy { .. }
            | Op::Restart { .. }
            | Op::RestartAt { .. }
            | Op::Since { .. }
            | Op::FirstScan { .. }
            | Op::ScanTime { .. }
            | Op::Ticks { .. }
            | Op::Text { .. }
            | Op::Cut { .. }
            | Op::End => return Ok(()),
        };
        if (number as usize) < count { Ok(()) } else { Err(TapeFlaw::Number(at)) }
    }

    fn areas(&self, at: usize, access: Footprint) -> Result<(), TapeFlaw> {
        let reach = self.reach(at as u32);
        let memory = self.image.len() as i64;
        for area in access.reads.into_iter().chain([access.writes]).flatten() {
            let (first, count) = area.unmoved(&self.blocks);
            let far = if area.offset().is_some() { reach.most } else { 0 };
            let has_offset = area.offset().is_none_or(|off| i64::from(off) < memory);
            if reach.most < 0 || i64::from(first) + i64::from(count) + far > memory || !has_offset {
                return Err(TapeFlaw::Beyond(at));
            }
            let fits = |slot: Slot| match area {
                // In a list a stopwatch may be the current result, from which SINCE takes it.
                Area::Watch(_) | Area::MovedWatch { .. } => self.is_watch(slot) || self.temporaries.contains(&slot),
                Area::Slot(_) => {
                    let is_kept = matches!(self.code[at], Op::Move { d, .. } if self.temporaries.contains(&d));
                    !self.is_watch(slot) || is_kept
                }
                // Whole instances are copied with their stopwatches, elements of an array without.
                Area::Run(..) | Area::Like { .. } | Area::Moved { .. } | Area::Block { .. } => true,
            };
            let steps = self.span(at as u32, area).step_by(reach.step.max(1) as usize);
            if let Some(slot) = steps.into_iter().find(|slot| !fits(*slot)) {
                return Err(TapeFlaw::Watch(at, slot));
            }
        }
        let written = access.writes.map(|area| self.span(at as u32, area));
        match written.into_iter().flatten().any(|slot| self.constants.contains(&slot)) {
            true => Err(TapeFlaw::Constant(at)),
            false => Ok(()),
        }
    }

    fn is_watch(&self, slot: Slot) -> bool {
        self.watches.contains(&slot)
    }

    /// Follows all ways at once: which intermediate values are written when an operation is reached.
    fn intermediate(&self, start: usize, end: usize) -> Result<(), TapeFlaw> {
        let mut ways: Vec<Option<Written>> = vec![None; end - start + 1];
        let mut here = Some(Written::default());
        for at in start..end {
            if let Some(way) = ways[at - start].take() {
                here = Some(here.map_or_else(|| way.clone(), |here| here.both(&way)));
            }
            // What nothing leads to is never run.
            let Some(written) = &mut here else { continue };
            let access = self.code[at].footprint();
            for area in access.reads.into_iter().flatten() {
                let (first, count) = area.unmoved(&self.blocks);
                let slots = (first..first + count).chain(area.offset());
                if let Some(slot) = slots.into_iter().find(|s| self.temporaries.contains(s) && !written.has(*s)) {
                    return Err(TapeFlaw::Unwritten(at, slot));
                }
            }
            if let Some((first, count)) = access.writes.map(|area| area.unmoved(&self.blocks)) {
                (first..first + count).filter(|s| self.temporaries.contains(s)).for_each(|s| written.add(s));
            }
            match access.leads {
                Leads::On | Leads::Back(_) => {}
                Leads::Jump(to) | Leads::Branch(to) => {
                    let way = &mut ways[to as usize - start];
                    *way = Some(way.as_ref().map_or_else(|| written.clone(), |way| way.both(written)));
                }
                Leads::End => {}
            }
            if matches!(access.leads, Leads::Jump(_) | Leads::Back(_) | Leads::End) {
                here = None;
            }
        }
        Ok(())
    }
}

/// Slots as bits, from the smallest one that was added.
#[derive(Clone, Debug, Default)]
struct Written(std::collections::BTreeMap<Slot, u64>);

impl Written {
    fn has(&self, slot: Slot) -> bool {
        self.0.get(&(slot / 64)).is_some_and(|bits| bits >> (slot % 64) & 1 == 1)
    }

    fn add(&mut self, slot: Slot) {
        *self.0.entry(slot / 64).or_default() |= 1 << (slot % 64);
    }

    fn both(&self, other: &Written) -> Written {
        Written(self.0.iter().filter_map(|(at, bits)| Some((*at, bits & other.0.get(at)?))).collect())
    }
}
