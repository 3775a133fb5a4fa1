//! What stands where an index says: a ring beside numbers that move on by a place, a queue beside one that is kept otherwise.
//!
//! Where an index has one value two places hold the same; where it has another value, two others do. A queue has two indexes, as its
//! first entry and how many wait, and a place is told by both.

use super::facts::{Claim, Fact, Guard, Held};
use super::seek::{Values, keep_sound};
use super::system::System;
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;
use std::collections::hash_map::Entry;

/// Facts at most.
const MOST: usize = 1_500;

/// Values that an index has at most, and two indexes together.
const MOST_VALUES: usize = 64;
const MOST_OF_TWO: usize = 256;

/// How far the values of an index lie apart at most; others are what is measured.
const MOST_SPAN: u64 = 255;

/// Registers at most that may be indexes, of those that have the fewest values; and that may be one of two.
const MOST_INDEXES: usize = 12;
const MOST_PAIRED: usize = 6;

/// Bits of wider registers at most that are looked at as places.
const MOST_BITS: usize = 128;

/// Scans at most that are run on from states that were seen, and numbers at most that registers hold in all of them together: of more
/// than some 1,300 registers nothing is read off.
const MOST_SCANS: usize = 16;
const MOST_SEEN: usize = 4_000_000;

/// States in which a value must occur for anything to be read off them.
const ENOUGH: usize = 8;

/// A register of few values.
struct Index {
    register: usize,
    /// The states in which it has each of its values.
    states: BTreeMap<i64, Vec<usize>>,
}

impl Index {
    fn of(values: &Values, register: usize) -> Option<Index> {
        let mut states: BTreeMap<i64, Vec<usize>> = BTreeMap::new();
        for (state, value) in values.of[register].iter().enumerate() {
            states.entry(*value).or_default().push(state);
            let span =
                states.last_key_value().zip(states.first_key_value()).map(|(last, first)| last.0.abs_diff(*first.0));
            if states.len() > MOST_VALUES || span.is_some_and(|span| span > MOST_SPAN) {
                return None;
            }
        }
        states.retain(|_, states| states.len() >= ENOUGH);
        (states.len() > 1).then_some(Index { register, states })
    }
}

/// What is the same in some states.
struct Alike {
    guard: Guard,
    /// Of each place the first one that holds the same; of what does not move, itself.
    first: Vec<usize>,
    /// Of each index what it is, if it does not move.
    stands: Vec<Option<i64>>,
}

impl Alike {
    fn new(values: &Values, (places, indexes): (&[Held], &[usize]), guard: Guard, chosen: &[usize]) -> Alike {
        let mut first: Vec<usize> = (0..places.len()).collect();
        let mut seen: FxHashMap<Vec<i64>, usize> = FxHashMap::default();
        for (number, place) in places.iter().enumerate() {
            let held: Vec<i64> = chosen.iter().map(|state| place.of(values.of[place.register][*state])).collect();
            if held.iter().all(|value| *value == held[0]) {
                continue;
            }
            match seen.entry(held) {
                Entry::Vacant(entry) => _ = entry.insert(number),
                Entry::Occupied(entry) => first[number] = *entry.get(),
            }
        }
        let stands = indexes.iter().map(|index| {
            let value = values.of[*index][chosen[0]];
            chosen.iter().all(|state| values.of[*index][*state] == value).then_some(value)
        });
        Alike { guard, first, stands: stands.collect() }
    }

    /// What it says that none of others does.
    fn beyond(&self, others: &[&Alike], places: &[Held], indexes: &[usize]) -> Vec<Fact> {
        let guard = self.guard;
        let is_told = |u: usize, v: usize| others.iter().any(|other| other.first[u] == other.first[v]);
        let pairs = self.first.iter().copied().enumerate().filter(|(v, u)| u != v && !is_told(*u, *v));
        // Of bits of two numbers nothing is said, as there are too many.
        let wanted = pairs.filter(|(_, u)| places[*u].bit.is_none());
        let same = wanted.map(|(v, u)| Fact { guard, claim: Claim::Alike(places[u], places[v]) });
        let stands = indexes.iter().zip(&self.stands).enumerate().filter_map(|(number, (index, value))| {
            let is_new = guard.all().all(|(of, _)| of != *index) && others.iter().all(|o| o.stands[number].is_none());
            value.filter(|_| is_new).map(|c| Fact { guard, claim: Claim::Constant { u: *index, c } })
        });
        same.chain(stands).collect()
    }
}

/// What is the same where one index, or two, have each of their values; nothing if for most values no places are.
fn each_told(each: Vec<Vec<Fact>>) -> Vec<Fact> {
    let is_place = |fact: &Fact| matches!(fact.claim, Claim::Alike(..));
    let telling = each.iter().filter(|facts| facts.iter().any(is_place)).count();
    if telling * 2 < each.len() { Vec::new() } else { each.concat() }
}

/// Numbers that registers hold in all states that were seen.
fn seen(system: &System, states: &[Vec<u64>]) -> usize {
    (states.first().map_or(0, Vec::len) * 64 * system.plan.registers.len()).max(1)
}

/// Scans that are run on from states that were seen.
fn scans(system: &System, states: &[Vec<u64>]) -> usize {
    (MOST_SEEN / seen(system, states)).min(MOST_SCANS)
}

/// The work that it takes to seek all that, as [`super::Means::work`] counts it.
pub(super) fn price(system: &System, states: &[Vec<u64>]) -> u64 {
    seen(system, states) as u64 * (1 + scans(system, states)) as u64
}

/// Whether any register may be an index.
fn has_index(system: &System, states: &[Vec<u64>], own: &[bool]) -> bool {
    let values = Values::new(system, states);
    (0..own.len()).any(|r| own[r] && system.plan.registers[r].place.width > 1 && Index::of(&values, r).is_some())
}

/// What places hold the same where an index, or two, have some value, in states that occur; and what other indexes are there.
pub(super) fn placed(system: &System, states: &[Vec<u64>], own: &[bool]) -> Vec<Fact> {
    if seen(system, states) > MOST_SEEN || !has_index(system, states, own) {
        return Vec::new();
    }
    // Of many pairs of values each must be seen.
    let values = Values::new(system, &system.further(states, scans(system, states)));
    let moves = |r: &usize| own[*r] && values.of[*r].iter().any(|v| *v != values.of[*r][0]);
    let width = |r: usize| system.plan.registers[r].place.width;
    let moving: Vec<usize> = (0..own.len()).filter(moves).collect();
    let wide = || moving.iter().copied().filter(|r| width(*r) > 1);
    let mut indexes: Vec<Index> = wide().filter_map(|register| Index::of(&values, register)).collect();
    indexes.sort_by_key(|index| index.states.len());
    indexes.truncate(MOST_INDEXES);
    let numbers: Vec<usize> = indexes.iter().map(|index| index.register).collect();
    let whole = moving.iter().map(|register| Held { register: *register, bit: None });
    let has_bits = moving.iter().any(|register| width(*register) == 1);
    // What has a sign is no string of bits.
    let strings = wide().filter(|register| has_bits && !system.plan.registers[*register].place.signed);
    let bits = strings.flat_map(|register| (0..width(register)).map(move |at| Held { register, bit: Some(at) }));
    let places: Vec<Held> = whole.chain(bits.take(MOST_BITS)).collect();
    let alike = |guard, chosen: &[usize]| Alike::new(&values, (&places, &numbers), guard, chosen);
    let of_one: Vec<Vec<Alike>> = indexes
        .iter()
        .map(|index| index.states.iter().map(|(at, s)| alike(Guard::Where((index.register, *at)), s)).collect())
        .collect();
    let mut found = Vec::new();
    for each in &of_one {
        found.extend(each_told(each.iter().map(|alike| alike.beyond(&[], &places, &numbers)).collect()));
    }
    for (second, b) in indexes.iter().enumerate().take(MOST_PAIRED) {
        for (first, a) in indexes[..second].iter().enumerate() {
            if found.len() >= MOST || a.states.len() * b.states.len() > MOST_OF_TWO {
                continue;
            }
            let mut each = Vec::new();
            for ((x, of_x), told_x) in a.states.iter().zip(&of_one[first]) {
                for ((y, of_y), told_y) in b.states.iter().zip(&of_one[second]) {
                    let both: Vec<usize> = of_x.iter().copied().filter(|s| of_y.binary_search(s).is_ok()).collect();
                    if both.len() >= ENOUGH {
                        let guard = Guard::Both((a.register, *x), (b.register, *y));
                        each.push(alike(guard, &both).beyond(&[told_x, told_y], &places, &numbers));
                    }
                }
            }
            found.extend(each_told(each));
        }
    }
    found.truncate(MOST);
    keep_sound(system, &mut found);
    found
}
