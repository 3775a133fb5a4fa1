//! States of a system that occur: scenarios as they are drawn, run in lanes of the circuit and looked at now and then.

use super::system::{System, What};
use crate::circuit::{ALL, InputId, LANES, NONE, Place, Plane, Simulator, bit};
use crate::twin::Stimuli;
use rayon::prelude::*;
use std::collections::BTreeSet;
use std::sync::Arc;

/// Words of 64 states each that facts are sought in.
pub(super) const WORDS: usize = 48;

/// Batches of scenarios that they come from, each twice as long as the one before.
const BATCHES: u64 = 6;

/// Steps of the plan that the longest of them runs, at most, as [`crate::circuit::Plan::work`] counts them, and how many go with one step
/// of the solver.
const STEPS: u64 = 200_000_000;
const STEPS_A_WORK: u64 = 60;

/// Scans of the longest, at least; and where work is limited.
const LEAST: u64 = 400;
const LEAST_WITHIN: u64 = 32;

/// What pairs of outputs did in states that occur, by their numbers.
#[derive(Default)]
pub(super) struct Watched {
    /// Those whose left side moved, of those that are in the plan.
    pub(super) moving: BTreeSet<usize>,
    /// Those that did not agree.
    pub(super) parted: BTreeSet<usize>,
}

impl System {
    /// States that occur, with what is given in them: for each register bit, then for each free bit of each input, what
    /// it is in 64 states a word.
    pub(super) fn states(&self, stimuli: &Stimuli) -> Vec<Vec<u64>> {
        self.occurring(stimuli, (STEPS / self.steps()).clamp(LEAST, self.most_scans()))
    }

    /// As [`System::states`] where a proof may take so much work, as [`super::Means::work`] counts it: a part of it is for states, so
    /// that scenarios are shorter. With the work that they took; none where that is not enough for any.
    pub(super) fn states_within(&self, stimuli: &Stimuli, work: Option<u64>) -> Option<(Vec<Vec<u64>>, u64)> {
        let Some(work) = work else { return Some((self.states(stimuli), 0)) };
        const PART: u64 = 4;
        // All batches together are twice as long as the longest.
        let affordable = (work / PART).saturating_mul(STEPS_A_WORK) / 2 / self.steps();
        if affordable < LEAST_WITHIN {
            return None;
        }
        let scans = affordable.min((STEPS / self.steps()).max(LEAST_WITHIN)).min(self.most_scans());
        Some((self.occurring(stimuli, scans), 2 * scans * self.steps() / STEPS_A_WORK))
    }

    /// How much it is to lay it out, as [`super::Means::work`] counts it.
    pub(super) fn laying_out(&self) -> u64 {
        const A_BIT: u64 = 5;
        A_BIT * self.plan.bits as u64
    }

    fn steps(&self) -> u64 {
        self.plan.work().max(1) as u64
    }

    fn most_scans(&self) -> u64 {
        if self.is_conditional { 4_000 } else { 12_000 }
    }

    /// The same, of scenarios of which the longest has so many scans.
    fn occurring(&self, stimuli: &Stimuli, scans: u64) -> Vec<Vec<u64>> {
        let each = WORDS as u64 / BATCHES;
        // Short, longer and long: what is quick and what is slow. The longest first, so that all end together.
        let order: Vec<u64> = (0..BATCHES).rev().collect();
        let batches = order
            .into_par_iter()
            .with_max_len(1)
            .map(|batch| self.batch(stimuli, batch, each, (scans >> (BATCHES - 1 - batch)).max(each + 1)));
        let mut batches: Vec<Vec<Vec<u64>>> = batches.collect();
        let mut out = batches.pop().unwrap_or_default();
        for batch in batches.into_iter().rev() {
            out.iter_mut().zip(batch).for_each(|(all, more)| all.extend(more));
        }
        out
    }

    /// States of one batch of scenarios, the first of them that at power-up.
    fn batch(&self, stimuli: &Stimuli, batch: u64, each: u64, length: u64) -> Vec<Vec<u64>> {
        let free: usize = self.given().map(|(.., count)| count).sum();
        let mut out = vec![Vec::with_capacity(WORDS); self.bits.len() + free];
        let mut feed = stimuli.feed(0x5EED + batch);
        let mut simulator = Simulator::new(Arc::clone(&self.plan));
        let mut looks: Vec<u64> = (0..each).map(|n| n * (length - 1) / each.max(1)).collect();
        // Scenarios in which something assumed was broken, from then on.
        let mut broken = NONE;
        for scan in 0..length {
            // Then where it stands is looked at in place of where it would have come to.
            if stimuli.halt.has_rung() && looks.first() != Some(&scan) {
                continue;
            }
            let power = stimuli.next(&mut feed, scan);
            if power != NONE {
                simulator.power_cycle(power);
            }
            self.give(&mut simulator, &mut feed);
            self.note_broken(&simulator, &mut broken);
            if looks.first() == Some(&scan) {
                looks.remove(0);
                let word = (0..4).map(|w| (w + scan as usize) % 4).min_by_key(|w| broken[*w].count_ones());
                self.look(&mut simulator, word.unwrap_or_default(), &broken, &mut out);
            }
            simulator.compute();
            simulator.advance();
        }
        out
    }

    /// What the pairs of outputs do in states that occur.
    pub(super) fn watch(&self, stimuli: &Stimuli) -> Watched {
        let scans = (50_000_000 / self.plan.work().max(1)).clamp(LEAST as usize, 3_000);
        let mut feed = stimuli.feed(0x5EED);
        let mut simulator = Simulator::new(Arc::clone(&self.plan));
        let mut broken = NONE;
        // Pairs with a place of what they show, or of whether they agree.
        let shown: Vec<(usize, Place)> = self.shown.iter().enumerate().filter_map(|(n, p)| Some((n, (*p)?))).collect();
        let agree = self.goals.iter().filter_map(|goal| match (goal.what, goal.at) {
            (What::Output(number), Some(at)) => Some((number, Place { at: at as u32, width: 1, signed: false })),
            _ => None,
        });
        let agree: Vec<(usize, Place)> = agree.collect();
        let look = |simulator: &Simulator, places: &[(usize, Place)], out: &mut Vec<Plane>| {
            out.clear();
            places.iter().for_each(|(_, place)| out.extend(simulator.planes(*place)));
        };
        let (mut first, mut now, mut same) = (Vec::new(), Vec::new(), Vec::new());
        let mut out = Watched::default();
        for scan in (0..scans as u64).take_while(|_| !stimuli.halt.has_rung()) {
            let power = stimuli.next(&mut feed, scan);
            if power != NONE {
                simulator.power_cycle(power);
            }
            self.give(&mut simulator, &mut feed);
            simulator.compute();
            look(&simulator, &shown, &mut now);
            look(&simulator, &agree, &mut same);
            // A scan that ends in what is not assumed does not count.
            simulator.advance();
            self.note_broken(&simulator, &mut broken);
            let other = |a: &Plane, b: &Plane| (0..4).any(|w| (a[w] ^ b[w]) & !broken[w] != 0);
            for ((number, _), same) in agree.iter().zip(&same) {
                if other(same, &ALL) {
                    out.parted.insert(*number);
                }
            }
            if scan == 0 {
                first.clone_from(&now);
            }
            let mut at = 0;
            for (number, place) in &shown {
                let bits = at..at + usize::from(place.width);
                at = bits.end;
                if now[bits.clone()].iter().zip(&first[bits]).any(|(a, b)| other(a, b)) {
                    out.moving.insert(*number);
                }
            }
        }
        out
    }

    /// Notes the scenarios in which a number is beyond what is assumed.
    fn note_broken(&self, simulator: &Simulator, broken: &mut Plane) {
        for (register, most) in self.numbers() {
            let place = self.plan.registers[register].place;
            let planes = simulator.planes(place);
            let (digits, sign) = planes.split_at(planes.len() - usize::from(place.signed));
            for (word, broken) in broken.iter_mut().enumerate() {
                // From the lowest bit on: where a number and the limit differ the higher bit decides.
                let mut above = 0;
                for (at, digit) in digits.iter().enumerate() {
                    let is_set = at < 63 && most >> at & 1 == 1;
                    above = if is_set { above & digit[word] } else { above | digit[word] };
                }
                // A limit of more bits than the number has is not passed.
                let is_wider = digits.len() < 63 && most >> digits.len() != 0;
                let above = if is_wider { 0 } else { above };
                *broken |= above | sign.first().map_or(0, |s| s[word]);
            }
        }
    }

    pub(super) fn give(&self, simulator: &mut Simulator, feed: &mut crate::twin::Feed) {
        feed.give(simulator, self.dt.iter().chain(&self.standing).count());
        // What comes later than a scan does is one after STOP and RUN; at power-up nobody stands still but for that.
        for (id, usual) in [(self.dt, self.times.1), (self.standing, 0)] {
            if let Some(id) = id {
                self.give_time(simulator, feed, id, usual);
            }
        }
    }

    /// Gives a time, mostly of those that are usual.
    fn give_time(&self, simulator: &mut Simulator, feed: &mut crate::twin::Feed, id: InputId, usual: i64) {
        let Some(at) = self.plan.inputs.iter().position(|(i, _)| *i == id) else { return };
        let (low, latest) = self.ranges[at];
        // What comes later comes now and then, sooner rather than later.
        let high = latest.min(usual / self.outside[at].unit);
        let mut between = feed.rng.i64(low..=high);
        if high < latest && feed.rng.u8(0..8) == 0 {
            between = (high + (1i64 << feed.rng.u8(0..52))).min(latest);
        }
        // A quarter at the longest always: what is slow gets through there.
        let pinned: Plane = [u64::MAX, 0, 0, 0];
        let (first, second) = ([0; 4].map(|_: u64| feed.rng.u64(..)), [0; 4].map(|_: u64| feed.rng.u64(..)));
        let plane = |value: i64, bit: usize| if value >> bit & 1 == 1 { ALL } else { NONE };
        if let Some((bits, _)) = simulator.input(id) {
            for (bit, out) in bits.iter_mut().enumerate() {
                let (l, h, b) = (plane(low, bit), plane(high, bit), plane(between, bit));
                *out = [0, 1, 2, 3].map(|w: usize| {
                    let drawn = (first[w] & l[w]) | (!first[w] & ((second[w] & h[w]) | (!second[w] & b[w])));
                    (pinned[w] & h[w]) | (!pinned[w] & drawn)
                });
            }
        }
    }

    /// States, and those that come after them by so many scans, in each of which what was given in one state is given in another.
    pub(super) fn further(&self, states: &[Vec<u64>], scans: usize) -> Vec<Vec<u64>> {
        let words = states.first().map_or(0, Vec::len);
        let (kept, given) = states.split_at(self.bits.len());
        let mut out = kept.to_vec();
        for first in (0..words).step_by(4) {
            let mut simulator = Simulator::new(Arc::clone(&self.plan));
            // What is left of the lanes repeats the last states.
            let plane = |row: &[u64], from: usize| -> Plane { [0, 1, 2, 3].map(|w| row[(from + w).min(words - 1)]) };
            for ((register, at), row) in self.bits.iter().zip(kept) {
                simulator.set_plane(self.plan.registers[*register].place, *at, plane(row, first));
            }
            for scan in 0..scans {
                // Words apart by a number that shares nothing with theirs, so that all of them come by.
                let from = (first + scan * 7) % words;
                let mut rows = given.iter();
                for (place, range, count) in self.given() {
                    let free: Vec<Plane> = rows.by_ref().take(count).map(|row| plane(row, from)).collect();
                    for lane in 0..LANES {
                        let above = free.iter().enumerate().map(|(at, plane)| u64::from(bit(plane, lane)) << at);
                        let above = above.fold(0, |all, bit| all | bit) as i64;
                        simulator.set_number(place, lane, range.0.wrapping_add(above).min(range.1));
                    }
                }
                simulator.compute();
                simulator.advance();
                for ((register, at), row) in self.bits.iter().zip(&mut out) {
                    let plane = simulator.planes(self.plan.registers[*register].place)[usize::from(*at)];
                    row.extend(&plane[..4.min(words - first)]);
                }
            }
        }
        out
    }

    /// Adds what 64 scenarios show. In place of one that is broken the first one that is not is taken; if all are, nothing.
    fn look(&self, simulator: &mut Simulator, word: usize, broken: &Plane, out: &mut [Vec<u64>]) {
        let Some(sound) = (0..64).find(|lane| broken[word] >> lane & 1 == 0) else { return };
        let mend = |w: u64| if w >> sound & 1 == 1 { w | broken[word] } else { w & !broken[word] };
        let mut at = 0;
        for (register, bit) in &self.bits {
            out[at].push(mend(simulator.planes(self.plan.registers[*register].place)[usize::from(*bit)][word]));
            at += 1;
        }
        for (place, range, count) in self.given() {
            let mut words = vec![0u64; count];
            for lane in 0..64 {
                let free = simulator.number(place, word * 64 + lane).wrapping_sub(range.0);
                words.iter_mut().enumerate().for_each(|(bit, w)| *w |= (free as u64 >> bit & 1) << lane);
            }
            for w in words {
                out[at].push(mend(w));
                at += 1;
            }
        }
    }
}
