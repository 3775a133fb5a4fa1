//! Bits of 256 scenarios at a time, and the scans of a plan over them.

use super::algebra::Algebra;
use super::known::Known;
use super::net::{InputId, Whole};
use super::plan::{Kept, Place, Plan};
use super::registers;
use super::words::{self, Word};

/// A bit of each scenario.
pub(crate) type Plane = [u64; 4];

pub(crate) const NONE: Plane = [0; 4];
pub(crate) const ALL: Plane = [u64::MAX; 4];

/// How many scenarios.
pub(crate) const WIDE: usize = 256;

pub(crate) fn bit(plane: &Plane, lane: usize) -> bool {
    plane[lane / 64] >> (lane % 64) & 1 == 1
}

pub(crate) fn set_bit(plane: &mut Plane, lane: usize, value: bool) {
    let mask = 1u64 << (lane % 64);
    plane[lane / 64] = plane[lane / 64] & !mask | if value { mask } else { 0 };
}

/// Planes as an algebra.
pub(crate) struct Planes;

#[inline(always)]
fn zip(a: Plane, b: Plane, f: impl Fn(u64, u64) -> u64) -> Plane {
    [f(a[0], b[0]), f(a[1], b[1]), f(a[2], b[2]), f(a[3], b[3])]
}

impl Algebra for Planes {
    type Bit = Plane;

    #[inline(always)]
    fn constant(&mut self, value: bool) -> Plane {
        if value { ALL } else { NONE }
    }

    #[inline(always)]
    fn is_constant(&self, a: Plane, value: bool) -> bool {
        a == if value { ALL } else { NONE }
    }

    #[inline(always)]
    fn not(&mut self, a: Plane) -> Plane {
        zip(a, ALL, |x, y| x ^ y)
    }

    #[inline(always)]
    fn and(&mut self, a: Plane, b: Plane) -> Plane {
        zip(a, b, |x, y| x & y)
    }

    #[inline(always)]
    fn or(&mut self, a: Plane, b: Plane) -> Plane {
        zip(a, b, |x, y| x | y)
    }

    #[inline(always)]
    fn xor(&mut self, a: Plane, b: Plane) -> Plane {
        zip(a, b, |x, y| x ^ y)
    }

    #[inline(always)]
    fn mux(&mut self, c: Plane, a: Plane, b: Plane) -> Plane {
        let either = zip(a, b, |x, y| x ^ y);
        let chosen = zip(either, c, |x, y| x & y);
        zip(chosen, b, |x, y| x ^ y)
    }

    #[inline(always)]
    fn whole(&mut self, f: Whole, fails: bool, a: Word<'_, Plane>, b: Word<'_, Plane>, d: &mut [Plane]) {
        // Numbers are what functions take, so the bits of 64 scenarios are turned into their numbers, and back.
        for chunk in 0..WIDE / 64 {
            let mut values = to_numbers(a.bits.len(), |at| a.bit(at)[chunk]);
            let others = to_numbers(b.bits.len(), |at| b.bit(at)[chunk]);
            f.apply_each(fails, &mut values, &others);
            to_bits(values, d.len(), |at, bits| d[at][chunk] = bits);
        }
    }
}

/// The numbers that 64 scenarios hold, of whose bits each is told for all of them; 0 where there is none.
#[inline(always)]
pub(crate) fn to_numbers(bits: usize, bit: impl Fn(usize) -> u64) -> [u64; 64] {
    if bits == 0 {
        return [0; 64];
    }
    let mut out = std::array::from_fn(bit);
    turn(&mut out);
    out
}

/// Tells of the numbers of 64 scenarios the lowest bits, each for all of them.
#[inline(always)]
pub(crate) fn to_bits(mut values: [u64; 64], bits: usize, mut tell: impl FnMut(usize, u64)) {
    if bits == 1 {
        tell(0, values.iter().enumerate().fold(0, |all, (lane, value)| all | (value & 1) << lane));
        return;
    }
    turn(&mut values);
    values.into_iter().take(bits).enumerate().for_each(|(at, bits)| tell(at, bits));
}

/// Turns a square of bits: bit `i` of row `k` becomes bit `k` of row `i`. Blocks off the diagonal change places, half as
/// large each time.
#[inline(always)]
fn turn(rows: &mut [u64; 64]) {
    swap_blocks::<32>(rows, 0x0000_0000_ffff_ffff);
    swap_blocks::<16>(rows, 0x0000_ffff_0000_ffff);
    swap_blocks::<8>(rows, 0x00ff_00ff_00ff_00ff);
    swap_blocks::<4>(rows, 0x0f0f_0f0f_0f0f_0f0f);
    swap_blocks::<2>(rows, 0x3333_3333_3333_3333);
    swap_blocks::<1>(rows, 0x5555_5555_5555_5555);
}

/// Has blocks of so many rows and bits change places; `low` are the bits of the lower blocks.
#[inline(always)]
fn swap_blocks<const SIZE: usize>(rows: &mut [u64; 64], low: u64) {
    for both in rows.chunks_exact_mut(2 * SIZE) {
        let (upper, lower) = both.split_at_mut(SIZE);
        for (a, b) in upper.iter_mut().zip(lower) {
            let swapped = (*a >> SIZE ^ *b) & low;
            *a ^= swapped << SIZE;
            *b ^= swapped;
        }
    }
}

/// The number that a scenario holds.
pub(crate) fn number(word: Word<'_, Plane>, lane: usize) -> i64 {
    word.number(|plane| bit(&plane, lane))
}

/// How the steps and registers of a plan are done, found once for all who run it.
#[derive(Clone, Debug)]
pub(super) struct Ways {
    /// Of each step whether an operand is a constant.
    known: Vec<Option<Known>>,
    /// Of registers of one bit that take a bit which is computed, both bits.
    single: Vec<[u32; 2]>,
    /// Other registers that take what is computed.
    computed: Vec<Kept>,
    /// Those that take what stands before: constants, inputs, other registers.
    before: Vec<Kept>,
}

impl Plan {
    fn ways(&self) -> &Ways {
        self.ways.get_or_init(|| {
            let first = self.steps.iter().map(|step| step.d.at).min().unwrap_or(u32::MAX);
            let (all, before): (Vec<Kept>, Vec<Kept>) = self.registers.iter().partition(|kept| kept.next.at >= first);
            let is_single = |kept: &Kept| kept.place.width == 1 && kept.next.width == 1;
            let (single, computed): (Vec<Kept>, Vec<Kept>) = all.into_iter().partition(is_single);
            let single = single.iter().map(|kept| [kept.place.at, kept.next.at]).collect();
            Ways { known: Known::of_all(self), single, computed, before }
        })
    }
}

/// Runs a plan, scan by scan, in 256 scenarios at a time.
#[derive(Clone)]
pub(crate) struct Simulator {
    plan: std::sync::Arc<Plan>,
    bits: Vec<Plane>,
    /// What registers hold next that take it from one another, while they are given it.
    held: Vec<Plane>,
}

impl Simulator {
    /// All scenarios just powered up.
    pub(crate) fn new(plan: std::sync::Arc<Plan>) -> Simulator {
        let mut bits = vec![NONE; plan.bits];
        words::begin(&mut Planes, &plan, &mut bits);
        let mut simulator = Simulator { plan, bits, held: Vec::new() };
        simulator.power_up();
        simulator
    }

    /// Every register as at the first power-up.
    pub(crate) fn power_up(&mut self) {
        for kept in &self.plan.registers {
            for at in 0..kept.place.width {
                let set = kept.init >> at & 1 == 1;
                self.bits[kept.place.at as usize + usize::from(at)] = if set { ALL } else { NONE };
            }
        }
    }

    /// Switches power off and on in the scenarios of a mask.
    pub(crate) fn power_cycle(&mut self, mask: Plane) {
        for kept in self.plan.registers.iter().filter(|k| !k.retained) {
            for at in 0..kept.place.width {
                let set = kept.init >> at & 1 == 1;
                let plane = &mut self.bits[kept.place.at as usize + usize::from(at)];
                *plane = zip(*plane, mask, |x, m| if set { x | m } else { x & !m });
            }
        }
    }

    /// The planes of an input, lowest bit first, in its unit; none if it does not matter.
    pub(crate) fn input(&mut self, id: InputId) -> Option<(&mut [Plane], Place)> {
        let place = &self.plan.input_place(id)?;
        let at = place.at as usize;
        Some((&mut self.bits[at..at + usize::from(place.width)], *place))
    }

    /// Gives inputs that matter the planes of a number each, lowest bit first, of which the last stands for all above it; those that are
    /// given nothing stay as they are.
    pub(crate) fn give<'a>(&mut self, given: impl Fn(InputId) -> Option<&'a [Plane]>) {
        for (id, place) in &self.plan.inputs {
            let Some(planes) = given(*id) else { continue };
            let last = planes.last().copied().unwrap_or(NONE);
            let own = &mut self.bits[place.at as usize..place.at as usize + usize::from(place.width)];
            own.iter_mut().enumerate().for_each(|(at, bit)| *bit = planes.get(at).copied().unwrap_or(last));
        }
    }

    pub(crate) fn plane(&self, at: usize) -> Plane {
        self.bits[at]
    }

    pub(crate) fn planes(&self, place: Place) -> &[Plane] {
        &self.bits[place.at as usize..place.at as usize + usize::from(place.width)]
    }

    /// The number a scenario holds at a place, in its unit.
    pub(crate) fn number(&self, place: Place, lane: usize) -> i64 {
        number(Word::at(&self.bits, place, NONE), lane)
    }

    pub(crate) fn set_number(&mut self, place: Place, lane: usize, value: i64) {
        for at in 0..usize::from(place.width) {
            set_bit(&mut self.bits[place.at as usize + at], lane, value >> at & 1 == 1);
        }
    }

    /// Sets one bit at a place in all scenarios.
    pub(crate) fn set_plane(&mut self, place: Place, at: u8, plane: Plane) {
        self.bits[place.at as usize + usize::from(at)] = plane;
    }

    /// Computes everything from inputs and registers.
    pub(crate) fn compute(&mut self) {
        registers::compute(&self.plan, &self.plan.ways().known, &mut self.bits);
    }

    /// Gives registers what comes next.
    pub(crate) fn advance(&mut self) {
        let Simulator { plan, bits, held } = self;
        let Ways { single, computed, before, .. } = plan.ways();
        held.clear();
        for kept in before {
            let next = Word::at(bits, kept.next, NONE);
            held.extend((0..usize::from(kept.place.width)).map(|at| next.bit(at)));
        }
        single.iter().for_each(|[at, from]| bits[*at as usize] = bits[*from as usize]);
        for kept in computed {
            let (at, from) = (kept.place.at as usize, kept.next.at as usize);
            let (width, given) = (usize::from(kept.place.width), usize::from(kept.next.width));
            let both = width.min(given);
            let last = Word::at(bits, kept.next, NONE).last();
            let (registers, steps) = bits.split_at_mut(from);
            registers[at..at + both].copy_from_slice(&steps[..both]);
            registers[at + both..at + width].fill(last);
        }
        let mut held = held.as_slice();
        for kept in before {
            let (at, width) = (kept.place.at as usize, usize::from(kept.place.width));
            let (own, rest) = held.split_at(width);
            bits[at..at + width].copy_from_slice(own);
            held = rest;
        }
    }
}
