//! From numbers to bits: which bits each gate needs, and in which order they are computed.

use super::net::{Gate, InputId, Net, Node, RegId, Whole};
use super::planes::Ways;
use super::range::{Range, Ranges, ranges};
use super::unit::{Units, is_tick, units};
use crate::model::IntShape;
use crate::model::functions::Shift;
use rustc_hash::FxHashMap;
use std::collections::HashMap;
use std::sync::OnceLock;

/// The bits of a number: where they begin, how many, and whether the last one is a sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Place {
    pub(crate) at: u32,
    pub(crate) width: u8,
    pub(crate) signed: bool,
}

/// What is computed from bits.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Act {
    And,
    Or,
    Xor,
    Add,
    Sub,
    Mul,
    Div(IntShape),
    Mod(IntShape),
    Copy,
    Eq,
    Less,
    Below,
    Mux,
    Min,
    Max,
    Shift(Shift, IntShape),
    Whole(Whole),
    Fails(Whole),
}

/// One step: `d` of `a`, `b` and `c`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Step {
    pub(crate) act: Act,
    pub(crate) d: Place,
    pub(crate) a: Place,
    pub(crate) b: Place,
    pub(crate) c: Place,
}

/// Bits that a function of numbers takes as long as: of each lane the number is made of its bits, and its bits of the number.
const A_FUNCTION: usize = 2_000;

impl Step {
    /// What it takes longer than its bits tell, in bits: of what is multiplied or divided half of all pairs of bits, each with each.
    fn slow(&self) -> Option<usize> {
        let [d, a, b] = [self.d, self.a, self.b].map(|place| usize::from(place.width));
        match self.act {
            Act::Mul => Some(d * b.max(1) / 2),
            Act::Div(_) | Act::Mod(_) => Some(a.max(1) * b.max(1)),
            Act::Whole(_) | Act::Fails(_) => Some(A_FUNCTION),
            Act::And
            | Act::Or
            | Act::Xor
            | Act::Add
            | Act::Sub
            | Act::Copy
            | Act::Eq
            | Act::Less
            | Act::Below
            | Act::Mux
            | Act::Min
            | Act::Max
            | Act::Shift(..) => None,
        }
    }

    /// True if it is a function that is not taken apart into bits.
    pub(crate) fn is_whole(&self) -> bool {
        matches!(self.act, Act::Whole(_) | Act::Fails(_))
    }

    /// What joins its bits, if it is one bit of one bit each.
    pub(crate) fn logic(&self) -> Option<Logic> {
        let one = |p: Place| p.width == 1;
        let logic = match self.act {
            Act::And => Logic::And,
            Act::Or => Logic::Or,
            Act::Xor => Logic::Xor,
            Act::Mux => Logic::Mux,
            Act::Add
            | Act::Sub
            | Act::Mul
            | Act::Div(_)
            | Act::Mod(_)
            | Act::Copy
            | Act::Eq
            | Act::Less
            | Act::Below
            | Act::Min
            | Act::Max
            | Act::Shift(..)
            | Act::Whole(_)
            | Act::Fails(_) => return None,
        };
        let are_bits = one(self.d) && one(self.a) && one(self.b) && (logic != Logic::Mux || one(self.c));
        are_bits.then_some(logic)
    }
}

/// How single bits are joined.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Logic {
    And,
    Or,
    Xor,
    Mux,
}

/// Steps of one kind that stand together.
#[derive(Clone, Debug)]
pub(crate) struct Run {
    pub(crate) steps: std::ops::Range<usize>,
    /// What joins their bits, if all of them are single bits.
    pub(crate) logic: Option<Logic>,
}

/// A register and its bits.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Kept {
    pub(crate) id: RegId,
    pub(crate) place: Place,
    pub(crate) next: Place,
    /// What it counts.
    pub(crate) unit: i64,
    /// What it holds at power-up, in its unit.
    pub(crate) init: i64,
    pub(crate) retained: bool,
    /// True if what it holds at power-up is never read.
    pub(crate) unread: bool,
    /// The smallest and the largest it can hold, in its unit.
    pub(crate) least: i64,
    pub(crate) most: i64,
}

/// A scan as steps over bits. Constants come first, then inputs and registers, then what is computed, in an order in
/// which every step finds what it needs before it.
#[derive(Clone, Debug)]
pub(crate) struct Plan {
    pub(crate) bits: usize,
    /// Constant bits, from the first on.
    pub(crate) constants: Vec<bool>,
    pub(crate) inputs: Vec<(InputId, Place)>,
    pub(crate) registers: Vec<Kept>,
    pub(crate) steps: Vec<Step>,
    /// All steps in their order.
    pub(crate) runs: Vec<Run>,
    places: FxHashMap<Node, Place>,
    units: FxHashMap<Node, i64>,
    /// Of each input, in their order, its bits and what they count.
    by_input: Vec<(InputId, Place, i64)>,
    /// What a simulator asks of it, once one did.
    pub(super) ways: OnceLock<Ways>,
}

impl Plan {
    /// True if some function in it is not taken apart into bits.
    pub(crate) fn has_whole(&self) -> bool {
        self.steps.iter().any(Step::is_whole)
    }

    /// How much there is to do in a scan, in bits.
    pub(crate) fn work(&self) -> usize {
        let quick = self.steps.iter().filter(|step| step.slow().is_none());
        self.bits + self.slow() + quick.map(|step| usize::from(step.d.width)).sum::<usize>() / 2
    }

    /// What in a scan takes longer than its bits tell, in bits.
    pub(crate) fn slow(&self) -> usize {
        self.steps.iter().filter_map(Step::slow).sum()
    }

    /// Steps over so many bits, of which the first are constants.
    pub(super) fn of(bits: usize, constants: Vec<bool>, steps: Vec<Step>) -> Plan {
        Plan {
            bits,
            constants,
            inputs: Vec::new(),
            registers: Vec::new(),
            runs: runs(&steps),
            steps,
            places: FxHashMap::default(),
            units: FxHashMap::default(),
            by_input: Vec::new(),
            ways: OnceLock::new(),
        }
    }

    /// The constants above zero that steps read, in the units they are counted in.
    pub(crate) fn constant_values(&self) -> Vec<i64> {
        let mut out: Vec<i64> = Vec::new();
        for place in self.steps.iter().flat_map(|s| [s.a, s.b, s.c]) {
            let (at, width) = (place.at as usize, usize::from(place.width));
            if width > 0 && !place.signed && at + width <= self.constants.len() {
                let bits = self.constants[at..at + width].iter().enumerate();
                out.push(bits.fold(0, |sum, (bit, set)| sum | i64::from(*set) << bit));
            }
        }
        out.retain(|value| *value > 0);
        out.sort_unstable();
        out.dedup();
        out
    }

    /// Has its inputs found by their numbers; what the bits of each count.
    pub(super) fn name_inputs(&mut self, unit: impl Fn(InputId) -> i64) {
        self.by_input = self.inputs.iter().map(|(id, place)| (*id, *place, unit(*id))).collect();
        self.by_input.sort_unstable_by_key(|(id, ..)| id.0);
    }

    fn by_input(&self, id: InputId) -> Option<&(InputId, Place, i64)> {
        self.by_input.binary_search_by_key(&id.0, |(id, ..)| id.0).ok().map(|at| &self.by_input[at])
    }

    /// What the bits of an input count.
    pub(crate) fn input_unit(&self, id: InputId) -> i64 {
        self.by_input(id).map_or(1, |(.., unit)| *unit)
    }

    /// The bits of an input, if it matters.
    pub(crate) fn input_place(&self, id: InputId) -> Option<Place> {
        self.by_input(id).map(|(_, place, _)| *place)
    }

    /// Where the bits of a gate are, if it is needed for what was asked.
    pub(crate) fn place(&self, node: Node) -> Option<Place> {
        self.places.get(&node).copied()
    }

    /// Where the bit of a gate is that is 0 or 1; none if it is 0.
    pub(crate) fn bit(&self, node: Node) -> Option<usize> {
        self.place(node).filter(|p| p.width > 0).map(|p| p.at as usize)
    }

    /// What the bits of a gate count.
    pub(crate) fn unit(&self, node: Node) -> i64 {
        self.units.get(&node).copied().unwrap_or(1)
    }
}

/// Lets the net stop its stopwatches, and lays out all that is needed for `asked`.
pub(crate) fn plan(net: &mut Net, asked: &[Node]) -> Plan {
    let first = ranges(net);
    // Only of what matters: where a temporary joins two paths, a time may seem to meet a count.
    let live = net.reached(asked);
    let counted = units(net, &first, &live);
    super::cap::cap_stopwatches(net, &first, &counted, &live, asked);
    let ranges = ranges(net);
    let units = units(net, &ranges, &net.reached(asked));
    let mut planner = Planner {
        net,
        ranges: &ranges,
        units: &units,
        constants: Vec::new(),
        shared: FxHashMap::default(),
        places: FxHashMap::default(),
        next: 0,
    };
    let plan = planner.plan(asked);
    debug_assert_eq!((net.verify(), plan.verify()), (Ok(()), Ok(())), "an invariant of the net or the plan");
    plan
}

/// All steps, those of one kind that stand together as one.
fn runs(steps: &[Step]) -> Vec<Run> {
    let mut runs: Vec<Run> = Vec::new();
    for (at, step) in steps.iter().enumerate() {
        let logic = step.logic();
        let is_alike = |run: &Run| {
            let [act, other] = [step, &steps[run.steps.start]].map(|step| std::mem::discriminant(&step.act));
            run.logic == logic && act == other
        };
        match runs.last_mut() {
            Some(run) if is_alike(run) => run.steps.end = at + 1,
            _ => runs.push(Run { steps: at..at + 1, logic }),
        }
    }
    runs
}

struct Planner<'n> {
    net: &'n Net,
    ranges: &'n Ranges,
    units: &'n Units,
    constants: Vec<bool>,
    shared: FxHashMap<(i64, u8, bool), Place>,
    places: FxHashMap<Node, Place>,
    next: u32,
}

/// How many bits a range needs, and whether one of them is a sign.
fn width((low, high): Range) -> (u8, bool) {
    let bits = |value: i64| 64 - (if value < 0 { !value } else { value }).leading_zeros() as u8;
    let width = bits(low).max(bits(high));
    if low < 0 { (width + 1, true) } else { (width, false) }
}

impl Planner<'_> {
    fn plan(&mut self, asked: &[Node]) -> Plan {
        let needed = self.scheduled(self.needed(asked));
        // Constants are found while steps are made; they are laid out first, so their number is counted twice.
        self.pass(&needed, asked);
        let (constants, shared) = (std::mem::take(&mut self.constants), std::mem::take(&mut self.shared));
        self.places.clear();
        self.constants = constants;
        self.shared = shared;
        self.next = self.constants.len() as u32;
        let (inputs, registers, steps) = self.pass(&needed, asked);
        let runs = runs(&steps);
        let units = self.places.keys().map(|n| (*n, self.unit(*n))).collect();
        let input = |node: &Node| if let Gate::Input(id) = self.net.gate(*node) { Some((id, *node)) } else { None };
        let nodes: HashMap<InputId, Node> = needed.iter().filter_map(input).collect();
        let mut plan = Plan {
            bits: self.next as usize,
            constants: std::mem::take(&mut self.constants),
            inputs,
            registers,
            steps,
            runs,
            places: std::mem::take(&mut self.places),
            units,
            by_input: Vec::new(),
            ways: OnceLock::new(),
        };
        plan.name_inputs(|id| nodes.get(&id).map_or(1, |node| self.unit(*node)));
        plan
    }

    fn unit(&self, node: Node) -> i64 {
        if self.net.as_constant(node).is_some() { 1 } else { self.units.of(node) }
    }

    /// Gates that matter for what is asked, in this scan or a later one, in order.
    fn needed(&self, asked: &[Node]) -> Vec<Node> {
        let seen = self.net.reached_until(asked, |node| self.fixed(node).is_some());
        (0..seen.len()).filter(|at| seen[*at]).map(|at| Node(at as u32)).collect()
    }

    /// Gates in an order in which many of one kind stand together, each after what it reads.
    fn scheduled(&self, needed: Vec<Node>) -> Vec<Node> {
        let kind = |node: Node| (std::mem::discriminant(&self.net.gate(node)), self.ranges.of(node) == (0, 1));
        let mut kinds: Vec<_> = Vec::new();
        let mut number = |node: Node| {
            let kind = kind(node);
            kinds.iter().position(|k| *k == kind).unwrap_or_else(|| {
                kinds.push(kind);
                kinds.len() - 1
            })
        };
        let mut waits = vec![0usize; self.net.gates.len()];
        let mut users: Vec<Vec<Node>> = vec![Vec::new(); self.net.gates.len()];
        let mut ready: Vec<std::collections::VecDeque<Node>> = Vec::new();
        let put = |ready: &mut Vec<std::collections::VecDeque<Node>>, number: usize, node: Node| {
            ready.resize_with(ready.len().max(number + 1), Default::default);
            ready[number].push_back(node);
        };
        let mut among = vec![false; self.net.gates.len()];
        needed.iter().for_each(|node| among[node.0 as usize] = true);
        for node in &needed {
            let reads = || self.net.gate(*node).operands().filter(|n| among[n.0 as usize]);
            let count = reads().count();
            if count == 0 || self.fixed(*node).is_some() {
                put(&mut ready, number(*node), *node);
            } else {
                waits[node.0 as usize] = count;
                reads().for_each(|n| users[n.0 as usize].push(*node));
            }
        }
        let mut out = Vec::with_capacity(needed.len());
        while let Some((most, _)) =
            ready.iter().enumerate().max_by_key(|(_, list)| list.len()).filter(|(_, l)| !l.is_empty())
        {
            while let Some(node) = ready[most].pop_front() {
                out.push(node);
                for user in std::mem::take(&mut users[node.0 as usize]) {
                    let left = &mut waits[user.0 as usize];
                    *left -= 1;
                    if *left == 0 {
                        put(&mut ready, number(user), user);
                    }
                }
            }
        }
        out
    }

    /// The value of a gate that can have but one.
    fn fixed(&self, node: Node) -> Option<i64> {
        let (low, high) = self.ranges.of(node);
        (low == high).then_some(low)
    }

    /// The range in units.
    fn counted(&self, node: Node) -> Range {
        let (low, high) = self.ranges.of(node);
        let unit = self.unit(node);
        (low.div_euclid(unit) + i64::from(low.rem_euclid(unit) != 0), high.div_euclid(unit))
    }

    fn constant(&mut self, value: i64) -> Place {
        let (width, signed) = width((value, value));
        if let Some(place) = self.shared.get(&(value, width, signed)) {
            return *place;
        }
        let place = Place { at: self.constants.len() as u32, width, signed };
        self.constants.extend((0..width).map(|bit| value >> bit & 1 == 1));
        self.shared.insert((value, width, signed), place);
        place
    }

    /// Where an operand's bits are, counted in a unit.
    fn operand(&mut self, node: Node, unit: i64) -> Place {
        match self.fixed(node) {
            Some(value) => self.constant(value / unit),
            None => self.places.get(&node).copied().unwrap_or(Place { at: 0, width: 0, signed: false }),
        }
    }

    fn new_place(&mut self, node: Node) -> Place {
        let (width, signed) = width(self.counted(node));
        let place = Place { at: self.next, width, signed };
        self.next += u32::from(width);
        self.places.insert(node, place);
        place
    }

    #[allow(clippy::type_complexity, reason = "three lists of one pass")]
    fn pass(&mut self, needed: &[Node], asked: &[Node]) -> (Vec<(InputId, Place)>, Vec<Kept>, Vec<Step>) {
        let mut inputs = Vec::new();
        let mut registers = Vec::new();
        for node in needed {
            // What is fixed has no bits, what is computed gets them below.
            if self.fixed(*node).is_some() {
                continue;
            }
            if let Gate::Input(id) = self.net.gate(*node) {
                inputs.push((id, self.new_place(*node)));
            } else if let Gate::Reg(id) = self.net.gate(*node) {
                registers.push((*node, id, self.new_place(*node)));
            }
        }
        let mut steps = Vec::new();
        for node in needed {
            let gate = self.net.gate(*node);
            if self.fixed(*node).is_none() && !matches!(gate, Gate::Input(_) | Gate::Reg(_)) {
                let step = self.step(*node, gate);
                steps.push(step);
            }
        }
        for node in asked {
            if let Some(value) = self.fixed(*node) {
                let place = self.constant(value / self.unit(*node));
                self.places.insert(*node, place);
            }
        }
        let kept = registers
            .into_iter()
            .map(|(node, id, place)| {
                let register = &self.net.registers[id.0 as usize];
                let unit = self.unit(node);
                let next = self.operand(register.next, unit);
                Kept {
                    id,
                    place,
                    next,
                    unit,
                    init: register.init / unit,
                    retained: register.retained,
                    unread: register.unread,
                    least: self.counted(node).0,
                    most: self.counted(node).1,
                }
            })
            .collect();
        (inputs, kept, steps)
    }

    fn step(&mut self, node: Node, gate: Gate) -> Step {
        let nothing = Place { at: 0, width: 0, signed: false };
        let unit = self.unit(node);
        let met = |p: &Self, a: Node, b: Node| if p.fixed(a).is_some() { p.unit(b) } else { p.unit(a) };
        // What a step does, its operands, and the unit of each.
        let (act, list): (Act, Vec<(Node, i64)>) = match gate {
            Gate::And(a, b) => (Act::And, vec![(a, 1), (b, 1)]),
            Gate::Or(a, b) => (Act::Or, vec![(a, 1), (b, 1)]),
            Gate::Xor(a, b) => (Act::Xor, vec![(a, 1), (b, 1)]),
            Gate::Add(_, a, b) | Gate::Advance(a, b) => (Act::Add, vec![(a, unit), (b, unit)]),
            Gate::Sub(_, a, b) => (Act::Sub, vec![(a, unit), (b, unit)]),
            Gate::Mul(_, a, b) => {
                let tick = self.net.as_constant(b).is_some_and(is_tick);
                (Act::Mul, vec![(a, if tick { 1 } else { unit }), (b, if tick { unit } else { 1 })])
            }
            Gate::Div(s, a, b) => (Act::Div(s), vec![(a, self.unit(a)), (b, self.unit(a))]),
            Gate::Mod(s, a, b) => (Act::Mod(s), vec![(a, unit), (b, unit)]),
            Gate::Wrap(_, a) => (Act::Copy, vec![(a, unit)]),
            Gate::Eq(a, b) => (Act::Eq, vec![(a, met(self, a, b)), (b, met(self, a, b))]),
            Gate::Less(a, b) => (Act::Less, vec![(a, met(self, a, b)), (b, met(self, a, b))]),
            Gate::Below(a, b) => (Act::Below, vec![(a, 1), (b, 1)]),
            Gate::Mux(c, a, b) => (Act::Mux, vec![(a, unit), (b, unit), (c, 1)]),
            Gate::Min(a, b) => (Act::Min, vec![(a, unit), (b, unit)]),
            Gate::Max(a, b) => (Act::Max, vec![(a, unit), (b, unit)]),
            Gate::Shift(k, s, a, b) => (Act::Shift(k, s), vec![(a, 1), (b, 1)]),
            Gate::Whole(f, a, b) => (Act::Whole(f), vec![(a, 1), (b, 1)]),
            Gate::Fails(f, a, b) => (Act::Fails(f), vec![(a, 1), (b, 1)]),
            Gate::Const(_) | Gate::Input(_) | Gate::Reg(_) => (Act::Copy, Vec::new()),
        };
        let places: Vec<Place> = list.into_iter().map(|(n, unit)| self.operand(n, unit)).collect();
        let place = |n: usize| places.get(n).copied().unwrap_or(nothing);
        Step { act, d: self.new_place(node), a: place(0), b: place(1), c: place(2) }
    }
}
