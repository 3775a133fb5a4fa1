//! Facts that hold at power-up and that every scan keeps: bits that are constant, equal or opposite.
//!
//! They are sought in states that occur, taken for granted all together, and each is asked whether a scan keeps it. What
//! fails is let go, and all are asked again, until nothing fails.

use super::computed::computed;
use super::facts::{Fact, Guard};
use super::occurring::WORDS;
use super::placed::placed;
use super::seek::{seek, seek_logic};
use super::solve::Budget;
use super::sweep::{Same, Sweep};
use super::system::System;
use crate::circuit::{self, Algebra, Bit};
use std::collections::{HashMap, HashSet};

/// Register bits that are always the same, or always opposite. In the first group all are constant.
#[derive(Clone, Debug)]
pub(super) struct Groups {
    /// Of each group its bits, each with whether it is inverted; in the first whether it is TRUE.
    pub(super) groups: Vec<Vec<(usize, bool)>>,
    /// Of each register bit whether loss of power leaves it as it is. In all groups but the first they are of one kind:
    /// then loss of power keeps what is alike.
    retained: Vec<bool>,
    /// Of groups that were put together: what is in them.
    known: HashSet<Claim>,
}

/// A bit, and the bit that it is the same as, each perhaps inverted; without one it is FALSE.
pub(super) type Claim = ((usize, bool), Option<(usize, bool)>);

/// What induction came to.
pub(super) struct Induction {
    pub(super) groups: Groups,
    pub(super) facts: Vec<Fact>,
    /// The last round: what a scan makes of a state in which all facts hold. None where the work was spent before it was laid out; then
    /// there is no fact either.
    pub(super) round: Option<Round>,
    pub(super) rounds: u32,
    pub(super) asked: u64,
    pub(super) too_long: u64,
    /// Work that it has taken.
    pub(super) work: u64,
}

/// One scan from any state in which the facts hold.
pub(super) struct Round {
    pub(super) sweep: Sweep,
    /// All bits of the plan.
    pub(super) bits: Vec<Bit>,
    /// Each register bit before the scan, and after it.
    pub(super) now: Vec<Bit>,
    pub(super) next: Vec<Bit>,
    /// What stands for the registers: a bit of each group.
    pub(super) stand: Vec<Bit>,
    free: Vec<Bit>,
    /// Each fact about numbers after the scan.
    kept: Vec<Bit>,
}

impl Groups {
    /// What is alike in all states that were seen, at power-up, and in what loss of power does to it.
    pub(super) fn seen(system: &System, states: &[Vec<u64>]) -> Groups {
        let mut groups: Vec<Vec<(usize, bool)>> = vec![Vec::new()];
        let mut alike: HashMap<(Vec<u64>, bool), usize> = HashMap::new();
        for (bit, shown) in states.iter().enumerate().take(system.bits.len()) {
            let first = system.initial(bit);
            let flip = if first { u64::MAX } else { 0 };
            let shown: Vec<u64> = shown.iter().map(|w| w ^ flip).collect();
            if shown.iter().all(|w| *w == 0) {
                groups[0].push((bit, first));
                continue;
            }
            let number = *alike.entry((shown, system.is_retained(bit))).or_insert_with(|| {
                groups.push(Vec::new());
                groups.len() - 1
            });
            groups[number].push((bit, first));
        }
        let retained = (0..system.bits.len()).map(|bit| system.is_retained(bit)).collect();
        Groups { groups, retained, known: HashSet::new() }
    }

    /// Nothing is alike.
    pub(super) fn none(system: &System) -> Groups {
        let retained = (0..system.bits.len()).map(|bit| system.is_retained(bit)).collect();
        Groups { groups: vec![Vec::new()], retained, known: HashSet::new() }
    }

    /// Adds what is alike in a part, but for what is there already; `bits` are its bits' numbers here.
    pub(super) fn add(&mut self, part: &Groups, bits: &[usize]) {
        for (number, group) in part.groups.iter().enumerate() {
            let mut here = group.iter().map(|(bit, inverted)| (bits[*bit], *inverted));
            if number == 0 {
                for constant in here {
                    if self.known.insert((constant, None)) {
                        self.groups[0].push(constant);
                    }
                }
            } else if let Some(first) = here.next() {
                let rest = here.filter(|other| self.known.insert((*other, Some(first))));
                let group: Vec<(usize, bool)> = std::iter::once(first).chain(rest).collect();
                self.groups.push(group);
            }
        }
    }

    /// Parts what is not alike after a scan, as `value` tells of each bit. True if anything was.
    fn part(&mut self, value: impl Fn(usize) -> bool) -> bool {
        let mut news = Vec::new();
        for (number, group) in self.groups.iter_mut().enumerate() {
            let first = number > 0 && group.first().is_some_and(|(bit, inverted)| value(*bit) ^ inverted);
            let (stay, go): (Vec<_>, Vec<_>) =
                group.drain(..).partition(|(bit, inverted)| (value(*bit) ^ inverted) == first);
            *group = stay;
            let (kept, lost): (Vec<_>, Vec<_>) = go.into_iter().partition(|(bit, _)| self.retained[*bit]);
            news.extend([kept, lost].into_iter().filter(|g| !g.is_empty()));
        }
        let any = !news.is_empty();
        self.groups.extend(news);
        any
    }

    /// Lets one bit go from its group.
    fn release(&mut self, bit: usize) {
        self.groups.iter_mut().for_each(|group| group.retain(|(b, _)| *b != bit));
        self.groups.push(vec![(bit, false)]);
    }

    /// Of each register whether it has a bit that stands for itself.
    pub(super) fn own(&self, system: &System) -> Vec<bool> {
        let mut out = vec![false; system.plan.registers.len()];
        for (bit, _) in self.groups[1..].iter().filter_map(|g| g.first()) {
            out[system.bits[*bit].0] = true;
        }
        out
    }

    /// Each fact.
    pub(super) fn claims(&self) -> impl Iterator<Item = Claim> {
        let constant = self.groups[0].iter().map(|bit| (*bit, None));
        let alike = self.groups[1..].iter().flat_map(|g| g.iter().skip(1).map(|bit| (*bit, g.first().copied())));
        constant.chain(alike)
    }

    /// How many facts that is.
    pub(super) fn facts(&self) -> usize {
        self.claims().count()
    }
}

impl Round {
    /// Lays out a scan in which bits of a group are one bit; none where that takes more work than it may.
    pub(super) fn new(
        system: &System,
        groups: &Groups,
        facts: &[Fact],
        states: &[Vec<u64>],
        budget: &Budget,
    ) -> Option<Round> {
        let plan = &system.plan;
        let words = states.first().map_or(WORDS, Vec::len);
        let mut sweep = Sweep::new(words, budget.clone());
        let mut bits = vec![Bit::FALSE; plan.bits];
        circuit::begin(&mut sweep, plan, &mut bits);
        let (mut now, mut stand) = (vec![Bit::FALSE; system.bits.len()], Vec::new());
        for (number, group) in groups.groups.iter().enumerate() {
            let Some(&(first, inverted)) = group.first() else { continue };
            let bit = if number == 0 { Bit::FALSE } else { sweep.input(&states[first]).flip(inverted) };
            stand.push(bit);
            for (member, inverted) in group {
                now[*member] = bit.flip(*inverted);
            }
        }
        put_in_place(&mut sweep, system, facts, &mut now);
        for ((register, at), bit) in system.bits.iter().zip(&now) {
            bits[plan.registers[*register].place.at as usize + usize::from(*at)] = *bit;
        }
        let before = system.words_of(&now);
        let assumed = system.numbers_within(&mut sweep, &before);
        sweep.take(assumed);
        for fact in facts {
            let bit = fact.bit(&mut sweep, system, &before);
            sweep.take(bit);
        }
        let mut free = Vec::new();
        for (place, range, count) in system.given() {
            let own: Vec<Bit> = (0..count).map(|n| sweep.input(&states[system.bits.len() + free.len() + n])).collect();
            let (at, width) = (place.at as usize, usize::from(place.width));
            circuit::within(&mut sweep, &own, range, &mut bits[at..at + width]);
            free.extend(own);
        }
        if !circuit::run_while(&mut sweep, plan, &mut bits, |sweep| !sweep.is_spent()) {
            return None;
        }
        let next: Vec<Bit> = system.after(&bits).collect();
        let after = system.words_of(&next);
        let assumed = system.numbers_within(&mut sweep, &after);
        sweep.take(assumed);
        let kept = facts.iter().map(|fact| fact.bit(&mut sweep, system, &after)).collect();
        Some(Round { next, sweep, bits, now, stand, free, kept })
    }

    /// What a register bit was in a state that the solver found.
    pub(super) fn before(&self, bit: usize, state: usize) -> bool {
        self.sweep.shows_in(self.now[bit], state)
    }

    /// What was given in a state that the solver found.
    fn state(&self, state: usize) -> impl Iterator<Item = bool> {
        self.now.iter().chain(&self.free).map(move |bit| self.sweep.shows_in(*bit, state))
    }
}

/// Puts in the place of a bit the one that it is the same as where a fact applies: in states in which the facts hold nothing is other
/// by that, and what reads the bit is the same as what reads the other without a question.
fn put_in_place(sweep: &mut Sweep, system: &System, facts: &[Fact], now: &mut [Bit]) {
    let mut first = vec![0; system.plan.registers.len()];
    for (number, (register, at)) in system.bits.iter().enumerate() {
        if *at == 0 {
            first[*register] = number;
        }
    }
    for fact in facts.iter().filter(|fact| fact.guard != Guard::Always) {
        let same = fact.same_bits(system);
        if same.is_empty() {
            continue;
        }
        let applies = fact.guard.bit(sweep, system, &system.words_of(now));
        for [one, other] in same.into_iter().map(|both| both.map(|(register, at)| first[register] + usize::from(at))) {
            now[other] = sweep.mux(applies, now[one], now[other]);
        }
    }
}

/// Which facts are sought.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Depth {
    /// Bits that are constant, alike or opposite.
    Alike,
    /// And what numbers say of each other.
    Numbers,
    /// And what stands where an index says. What is sought further does without.
    Placed,
    /// And what bits say of each other.
    Logic,
    /// And what numbers say of each other, two, three, or more in a sum.
    Relations,
    /// And what is computed of registers alone.
    Computed,
}

/// What holds in all states that were seen: what is alike, and facts; none if nothing is to be said of places and that was sought.
///
/// `parted` says of registers that they are known to stand for themselves, if that is known from before.
pub(super) fn sought(
    system: &System,
    states: &[Vec<u64>],
    budget: &Budget,
    depth: Depth,
    parted: &[bool],
) -> Option<(Groups, Vec<Fact>)> {
    let groups = Groups::seen(system, states);
    let mut own = groups.own(system);
    own.iter_mut().zip(parted).for_each(|(own, parted)| *own |= parted);
    let mut facts = Vec::new();
    if depth == Depth::Placed {
        let placed = placed(system, states, &own);
        if placed.is_empty() {
            return None;
        }
        // Of all that numbers say only what each index needs.
        facts.extend(seek(system, states, &own, depth).into_iter().filter(Fact::is_plain));
        facts.extend(placed);
    } else if depth >= Depth::Numbers {
        facts.extend(seek(system, states, &own, depth));
    }
    if depth >= Depth::Logic {
        facts.extend(seek_logic(system, states, &own));
    }
    if depth >= Depth::Computed {
        facts.extend(computed(system, states, &groups, budget));
    }
    Some((groups, facts))
}

/// Finds the facts that hold always. `None` if it was told to stop, or if there is nothing of that kind.
#[cfg(test)]
pub(super) fn induct(
    system: &System,
    states: Vec<Vec<u64>>,
    budget: &Budget,
    depth: Depth,
    go_on: impl FnMut(usize) -> bool,
) -> Option<Induction> {
    let sought = sought(system, &states, budget, depth, &[])?;
    settle(system, states, budget, sought, go_on)
}

/// Of what may hold always all that does: what a scan does not keep is let go, until nothing is. `None` if it was told to
/// stop.
pub(super) fn settle(
    system: &System,
    mut states: Vec<Vec<u64>>,
    budget: &Budget,
    (mut groups, mut facts): (Groups, Vec<Fact>),
    mut go_on: impl FnMut(usize) -> bool,
) -> Option<Induction> {
    let (mut asked, mut too_long, mut work) = (0, 0, 0);
    let mut patience = budget.clone();
    for rounds in 1.. {
        if !go_on(groups.facts() + facts.len()) {
            return None;
        }
        let Some(mut round) = Round::new(system, &groups, &facts, &states, &patience) else {
            // Facts that not all were asked about are none.
            let (groups, facts, work) = (Groups::none(system), Vec::new(), work + patience.work.unwrap_or(0));
            return Some(Induction { groups, facts, round: None, rounds, asked, too_long, work });
        };
        let changed = keep(&mut groups, &mut facts, &mut round, &mut go_on)?;
        asked += round.sweep.asked;
        too_long += round.sweep.too_long;
        work += round.sweep.work;
        if !changed {
            // What the facts are for is asked with all that a question may take.
            round.sweep.budget = Budget { work: patience.work, ..budget.clone() };
            return Some(Induction { groups, facts, round: Some(round), rounds, asked, too_long, work });
        }
        patience.too_long = round.sweep.budget.too_long;
        patience.work = patience.work.map(|left| left.saturating_sub(round.sweep.work));
        learn(&mut states, &round);
    }
    None
}

/// Asks of each fact whether a scan keeps it, and lets go what it does not. True if anything was let go.
fn keep(
    groups: &mut Groups,
    facts: &mut Vec<Fact>,
    round: &mut Round,
    go_on: &mut impl FnMut(usize) -> bool,
) -> Option<bool> {
    let mut changed = false;
    let mut number = 0;
    // Of each fact about numbers whether it was not let go.
    let mut stands = vec![true; facts.len()];
    let lets_go = |stands: &mut [bool], round: &Round, state: usize| {
        for (stands, kept) in stands.iter_mut().zip(&round.kept) {
            *stands &= round.sweep.shows_in(*kept, state);
        }
    };
    while number < groups.groups.len() {
        let mut member = usize::from(number > 0);
        while member < groups.groups[number].len() {
            let group = &groups.groups[number];
            let (bit, inverted) = group[member];
            let expected = if number == 0 {
                Bit::FALSE.flip(inverted)
            } else {
                let (first, other) = group[0];
                round.next[first].flip(other ^ inverted)
            };
            match round.sweep.same(round.next[bit], expected) {
                Same::Yes => member += 1,
                Same::No(state) => {
                    groups.part(|bit| round.sweep.shows_in(round.next[bit], state));
                    lets_go(&mut stands, round, state);
                    changed = true;
                }
                Same::Unknown => {
                    groups.release(bit);
                    changed = true;
                }
            }
            if round.sweep.asked.is_multiple_of(64) && !go_on(groups.facts()) {
                return None;
            }
        }
        number += 1;
    }
    for fact in 0..facts.len() {
        if !stands[fact] {
            continue;
        }
        match round.sweep.never(round.kept[fact].not()) {
            Same::Yes => {}
            Same::No(state) => {
                groups.part(|bit| round.sweep.shows_in(round.next[bit], state));
                lets_go(&mut stands, round, state);
                // What the rest of the state was filled up with may show something else.
                stands[fact] = false;
            }
            Same::Unknown => stands[fact] = false,
        }
        if round.sweep.asked.is_multiple_of(64) && !go_on(groups.facts()) {
            return None;
        }
    }
    changed |= stands.iter().any(|s| !s);
    let mut stands = stands.into_iter();
    facts.retain(|_| stands.next().unwrap_or(false));
    Some(changed)
}

/// States that the solver found are states that facts may hold in; they save asking again.
fn learn(states: &mut [Vec<u64>], round: &Round) {
    /// Words of states at most.
    const MOST: usize = 96;
    for first in (round.sweep.first_state()..round.sweep.states).step_by(64) {
        if states.first().is_none_or(|s| s.len() >= MOST) {
            return;
        }
        let last = (first + 64).min(round.sweep.states);
        // What is left of a word repeats its first state.
        for lane in 0..64 {
            let state = if first + lane < last { first + lane } else { first };
            for (words, value) in states.iter_mut().zip(round.state(state)) {
                if lane == 0 {
                    words.push(0);
                }
                if let Some(word) = words.last_mut() {
                    *word |= u64::from(value) << lane;
                }
            }
        }
    }
}
