//! What a scan computes of registers alone, as facts: a bit that one version keeps is what the other computes of what it keeps; a running
//! sum is the sum of what was kept; two ways of computing come to the same in every state that is reached.
//!
//! A register holds one thing before a scan and another after it. What is computed of either is computed here of what the
//! registers hold in one state, so a fact speaks of one state, as all the others do.

use super::facts::{Claim, Fact, Guard};
use super::induct::Groups;
use super::solve::Budget;
use super::sweep::Sweep;
use super::system::System;
use crate::circuit::{Act, Algebra, Bit, Graph, Place, Plan, Step, run};
use std::collections::{BTreeSet, HashMap, HashSet};

/// Facts at most: of two ways of computing, and of what is never, or always, so.
const MOST: [usize; 2] = [250, 80];

/// Nodes at most in the graph of all that is computed.
const MOST_NODES: usize = 30_000;

/// Steps at most that one side of a fact takes, and registers.
const MOST_STEPS: usize = 200;
const MOST_REGISTERS: usize = 64;

/// A bit that is computed of registers. Its bits have numbers of their own.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Computed {
    /// Registers, and where their bits stand.
    registers: Vec<(usize, Place)>,
    constants: Vec<(u32, bool)>,
    steps: Vec<Step>,
    bits: u32,
    at: u32,
}

impl Computed {
    fn constant(value: bool) -> Computed {
        Computed { registers: Vec::new(), constants: vec![(0, value)], steps: Vec::new(), bits: 1, at: 0 }
    }

    /// What it is if it is a constant.
    pub(super) fn is_always(&self) -> Option<bool> {
        self.constants.iter().find(|(at, _)| *at == self.at).map(|(_, value)| *value)
    }

    /// The bit, over the bits of each register.
    pub(super) fn bit(&self, g: &mut impl Algebra<Bit = Bit>, words: &[Vec<Bit>]) -> Bit {
        self.over(g, |register, at| words[register][at])
    }

    /// What it is where registers hold these values.
    pub(super) fn shows(&self, value: impl Fn(usize) -> i64) -> bool {
        let bit = |register: usize, at: usize| Bit::FALSE.flip(value(register) >> at & 1 == 1);
        self.over(&mut Graph::new(), bit) == Bit::TRUE
    }

    fn over(&self, g: &mut impl Algebra<Bit = Bit>, bit: impl Fn(usize, usize) -> Bit) -> Bit {
        let mut bits = vec![Bit::FALSE; self.bits as usize];
        for (at, value) in &self.constants {
            bits[*at as usize] = g.constant(*value);
        }
        for (register, place) in &self.registers {
            for at in 0..usize::from(place.width) {
                bits[place.at as usize + at] = bit(*register, at);
            }
        }
        self.steps.iter().for_each(|step| run(g, step, &mut bits));
        bits[self.at as usize]
    }

    pub(super) fn registers(&self) -> impl Iterator<Item = usize> {
        self.registers.iter().map(|(register, _)| *register)
    }

    pub(super) fn renumbered(&self, to: &[usize]) -> Computed {
        let registers = self.registers.iter().map(|(register, place)| (to[*register], *place)).collect();
        Computed { registers, ..self.clone() }
    }

    /// In words, with the names of registers.
    pub(super) fn words(&self, name: impl Fn(usize) -> String) -> String {
        /// Steps at most that are told one by one.
        const TOLD: usize = 12;
        if self.steps.len() > TOLD {
            let of: Vec<String> = self.registers().map(name).collect();
            return format!("a bit that is computed of {}", of.join(", "));
        }
        self.told(Place { at: self.at, width: 1, signed: false }, &name)
    }

    fn told(&self, place: Place, name: &impl Fn(usize) -> String) -> String {
        // A number of no bits is zero.
        if place.width == 0 {
            return "0".to_string();
        }
        let within = |whole: Place| (whole.at..whole.at + u32::from(whole.width)).contains(&place.at);
        let part = |whole: Place, words: String| match whole.width {
            width if width == place.width && whole.at == place.at => words,
            _ if place.width == 1 => format!("bit {} of {words}", place.at - whole.at),
            _ => format!(
                "bits {} to {} of {words}",
                place.at - whole.at,
                place.at - whole.at + u32::from(place.width) - 1
            ),
        };
        if let Some((register, whole)) = self.registers.iter().find(|(_, whole)| within(*whole)) {
            return part(*whole, name(*register));
        }
        if let Some(step) = self.steps.iter().find(|step| within(step.d)) {
            return part(step.d, self.step_words(step, name));
        }
        let own = self.constants.iter().filter(|(at, _)| (place.at..place.at + u32::from(place.width)).contains(at));
        let value = own.fold(0i64, |value, (at, is)| value | i64::from(*is) << (at - place.at));
        let sign = place.signed && place.width > 0 && value >> (place.width - 1) & 1 == 1;
        match (place.width, value) {
            (1, 0) if !place.signed => "FALSE".to_string(),
            (1, _) if !place.signed => "TRUE".to_string(),
            (width, value) if sign && width < 64 => (value - (1 << width)).to_string(),
            (_, value) => value.to_string(),
        }
    }

    fn step_words(&self, step: &Step, name: &impl Fn(usize) -> String) -> String {
        let [a, b, c] = [step.a, step.b, step.c].map(|place| self.told(place, name));
        let sign = match step.act {
            Act::And => "AND",
            Act::Or => "OR",
            Act::Xor if step.logic().is_some() && b == "TRUE" => return format!("NOT {a}"),
            Act::Xor => "XOR",
            Act::Add => "+",
            Act::Sub => "-",
            Act::Mul => "*",
            Act::Div(_) => "/",
            Act::Mod(_) => "MOD",
            Act::Eq => "=",
            Act::Less | Act::Below => "<",
            Act::Copy => return a,
            Act::Mux => return format!("({a} where {c}, else {b})"),
            Act::Min => return format!("MIN({a}, {b})"),
            Act::Max => return format!("MAX({a}, {b})"),
            Act::Shift(..) => return format!("({a} shifted by {b})"),
            Act::Whole(_) | Act::Fails(_) => return format!("an unknown function of {a} and {b}"),
        };
        format!("({a} {sign} {b})")
    }
}

/// Which state a scan computes something of.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    /// That before it.
    Before,
    /// That which it leaves.
    After,
}

/// What a bit of a plan is computed from.
#[derive(Clone, Copy, PartialEq, Eq)]
enum From {
    /// Something else than registers.
    Elsewhere,
    Constant,
    Register(usize, u32),
    Step(usize),
}

/// What a scan computes of registers alone.
struct Alone<'p> {
    plan: &'p Plan,
    from: Vec<From>,
    /// The steps, in order.
    steps: Vec<usize>,
}

impl Alone<'_> {
    fn of(plan: &Plan, of: Of) -> Alone<'_> {
        let mut from = vec![From::Elsewhere; plan.bits];
        from[..plan.constants.len()].fill(From::Constant);
        for (number, kept) in plan.registers.iter().enumerate() {
            let place = if of == Of::Before { kept.place } else { kept.next };
            if (place.at as usize) < plan.constants.len() || place.width > kept.place.width {
                continue;
            }
            for at in 0..u32::from(place.width) {
                from[(place.at + at) as usize] = From::Register(number, at);
            }
        }
        let mut steps = Vec::new();
        for (number, step) in plan.steps.iter().enumerate() {
            let is_known = |place: Place| bits_of(place).all(|bit| from[bit] != From::Elsewhere);
            let is_new = bits_of(step.d).all(|bit| from[bit] == From::Elsewhere);
            let is_whole = step.is_whole();
            if is_new && !is_whole && [step.a, step.b, step.c].into_iter().all(is_known) {
                bits_of(step.d).for_each(|bit| from[bit] = From::Step(number));
                steps.push(number);
            }
        }
        Alone { plan, from, steps }
    }

    /// All of it in a graph, over the bits of each register: each bit that a step gives, and where it stands.
    fn laid_out(&self, g: &mut Sweep, words: &[Vec<Bit>]) -> Vec<(usize, Bit)> {
        let mut bits = vec![Bit::FALSE; self.plan.bits];
        for (at, from) in self.from.iter().enumerate() {
            match from {
                From::Constant => bits[at] = g.constant(self.plan.constants[at]),
                From::Register(register, bit) => bits[at] = words[*register][*bit as usize],
                From::Elsewhere | From::Step(_) => {}
            }
        }
        let mut out = Vec::new();
        for step in self.steps.iter().map(|n| &self.plan.steps[*n]) {
            if g.graph.len() > MOST_NODES {
                break;
            }
            run(g, step, &mut bits);
            out.extend(bits_of(step.d).map(|at| (at, bits[at])));
        }
        out
    }

    /// What a bit is computed of, by itself; none if that is too much.
    fn computed(&self, at: usize) -> Option<Computed> {
        let mut steps = BTreeSet::new();
        let mut waiting = vec![at];
        while let Some(bit) = waiting.pop() {
            if let From::Step(number) = self.from[bit]
                && steps.insert(number)
            {
                let step = &self.plan.steps[number];
                waiting.extend([step.a, step.b, step.c].into_iter().flat_map(bits_of));
            }
            if steps.len() > MOST_STEPS {
                return None;
            }
        }
        let mut packed =
            Packed { alone: self, bits: 0, registers: Vec::new(), constants: Vec::new(), given: HashMap::new() };
        let mut own = Vec::new();
        for number in steps {
            let step = self.plan.steps[number];
            let [a, b, c] = [step.a, step.b, step.c].map(|place| packed.place(place));
            let d = packed.new_place(step.d);
            packed.given.insert(number, d.at);
            own.push(Step { a: a?, b: b?, c: c?, d, ..step });
        }
        let at = packed.place(Place { at: at as u32, width: 1, signed: false })?.at;
        let Packed { bits, registers, constants, .. } = packed;
        (registers.len() <= MOST_REGISTERS).then_some(Computed { registers, constants, steps: own, bits, at })
    }
}

fn bits_of(place: Place) -> std::ops::Range<usize> {
    place.at as usize..place.at as usize + usize::from(place.width)
}

/// Numbers of bits that are a computed bit's own.
struct Packed<'a> {
    alone: &'a Alone<'a>,
    bits: u32,
    registers: Vec<(usize, Place)>,
    constants: Vec<(u32, bool)>,
    /// Of each step where its bits begin.
    given: HashMap<usize, u32>,
}

impl Packed<'_> {
    fn new_place(&mut self, like: Place) -> Place {
        let at = self.bits;
        self.bits += u32::from(like.width);
        Place { at, ..like }
    }

    /// Where the bits of a place stand here; none if they are not of one piece.
    fn place(&mut self, place: Place) -> Option<Place> {
        if place.width == 0 {
            return Some(Place { at: 0, ..place });
        }
        let first = place.at as usize;
        let from = |bit: usize| self.alone.from[bit];
        match from(first) {
            From::Elsewhere => None,
            From::Constant => {
                let there = self.new_place(place);
                for (bit, at) in bits_of(place).zip(there.at..) {
                    self.constants.push((at, *self.alone.plan.constants.get(bit)?));
                }
                Some(there)
            }
            From::Register(register, offset) => {
                let is_one = bits_of(place).zip(offset..).all(|(bit, at)| from(bit) == From::Register(register, at));
                let known = self.registers.iter().find(|(r, _)| *r == register).map(|(_, place)| place.at);
                let begin = match known.filter(|_| is_one) {
                    Some(begin) => begin,
                    None if is_one => {
                        let whole = self.new_place(self.alone.plan.registers[register].place);
                        self.registers.push((register, whole));
                        whole.at
                    }
                    None => return None,
                };
                Some(Place { at: begin + offset, ..place })
            }
            From::Step(number) => {
                let is_one = bits_of(place).all(|bit| from(bit) == From::Step(number));
                let begin = self.given.get(&number).filter(|_| is_one)?;
                Some(Place { at: begin + (place.at - self.alone.plan.steps[number].d.at), ..place })
            }
        }
    }
}

/// Where a bit that is looked at comes from.
#[derive(Clone, Copy)]
enum Looked {
    Constant,
    Register(usize),
    Computed(usize, usize),
}

/// What is computed of registers alone and is the same in all states that were seen, and at power-up.
pub(super) fn computed(system: &System, states: &[Vec<u64>], groups: &Groups, budget: &Budget) -> Vec<Fact> {
    let words = states.first().map_or(0, Vec::len) + 1;
    let mut sweep = Sweep::new(words, Budget { conflicts: budget.conflicts / 10, ..budget.clone() });
    let mut now = vec![Bit::FALSE; system.bits.len()];
    let mut looked: Vec<(Bit, Looked)> = vec![(Bit::FALSE, Looked::Constant)];
    for (number, group) in groups.groups.iter().enumerate() {
        let Some(&(first, inverted)) = group.first() else { continue };
        let bit = if number == 0 {
            Bit::FALSE
        } else {
            let power_up = if system.initial(first) { u64::MAX } else { 0 };
            let shown: Vec<u64> = states[first].iter().copied().chain([power_up]).collect();
            let bit = sweep.input(&shown);
            looked.push((bit, Looked::Register(first)));
            bit.flip(inverted)
        };
        for (member, inverted) in group {
            now[*member] = bit.flip(*inverted);
        }
    }
    let registers = system.words_of(&now);
    let both = [Of::Before, Of::After].map(|of| Alone::of(&system.plan, of));
    for (number, alone) in both.iter().enumerate() {
        let bits = alone.laid_out(&mut sweep, &registers);
        looked.extend(bits.into_iter().map(|(at, bit)| (bit, Looked::Computed(number, at))));
    }
    let source = |looked: Looked| match looked {
        Looked::Constant => Some(Computed::constant(false)),
        Looked::Register(bit) => {
            let (register, at) = system.bits[bit];
            both[0].computed(system.plan.registers[register].place.at as usize + usize::from(at))
        }
        Looked::Computed(number, at) => both[number].computed(at),
    };
    alike(system, &sweep, &looked, source)
}

/// Facts of bits that show the same: each with the first that does.
fn alike(
    system: &System,
    sweep: &Sweep,
    looked: &[(Bit, Looked)],
    source: impl Fn(Looked) -> Option<Computed>,
) -> Vec<Fact> {
    let mut seen = HashSet::new();
    let mut by_shown: HashMap<Vec<u64>, (bool, Option<Computed>)> = HashMap::new();
    let mut found = [Vec::new(), Vec::new()];
    for &(bit, from) in looked {
        // What is the same node is the same by itself.
        if !seen.insert(bit.node()) {
            continue;
        }
        let flip = sweep.shows(bit).next().is_some_and(|word| word & 1 == 1);
        let shown: Vec<u64> = sweep.shows(bit.flip(flip)).collect();
        let is_constant = shown.iter().all(|word| *word == 0);
        let found = &mut found[usize::from(is_constant)];
        if found.len() >= MOST[usize::from(is_constant)] {
            continue;
        }
        match by_shown.get(&shown) {
            None => {
                by_shown.insert(shown, (flip, source(from)));
            }
            Some((first, Some(one))) => {
                let claim = |other| Claim::Same { one: one.clone(), other, is_opposite: *first != flip };
                let fact = source(from).map(|other| Fact { guard: Guard::Always, claim: claim(other) });
                found.extend(fact.filter(|fact| is_of_one_kind(system, fact)));
            }
            Some((_, None)) => {}
        }
    }
    found.concat()
}

/// Whether loss of power takes all that a fact speaks of to where it began, or nothing of it.
fn is_of_one_kind(system: &System, fact: &Fact) -> bool {
    let mut kinds = fact.registers().map(|register| system.plan.registers[register].retained);
    let first = kinds.next();
    kinds.all(|kind| Some(kind) == first)
}
