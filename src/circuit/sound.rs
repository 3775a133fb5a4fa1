//! Nets drawn at random, run gate by gate beside what is made of them: ranges hold, units divide, stopwatches that stop are
//! not noticed, quotients that are kept as dividends give the same, and so do the bits of the plan.
#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use super::algebra::Algebra;
use super::known::Known;
use super::net::{Gate, InputId, Net, Node, RegId, Whole};
use super::plan::{Act, Place, Plan, Step, plan};
use super::planes::{NONE, Plane, Planes, Simulator, WIDE, bit, number};
use super::quotient::undivided;
use super::range::ranges;
use super::registers;
use super::unit::units;
use super::words::{self, Word};
use crate::model::functions::Shift;
use crate::model::ops::{BinaryOp, Precision};
use crate::model::{Elem, IntShape};
use fastrand::Rng;
use std::sync::Arc;

const SHAPES: [IntShape; 4] = [
    IntShape { bits: 8, signed: true },
    IntShape { bits: 8, signed: false },
    IntShape { bits: 16, signed: true },
    IntShape::LONG,
];

/// Nanoseconds of a scan.
const SCAN: i64 = 10_000_000;

const LANES: usize = 6;

struct Drawn {
    net: Net,
    /// What is looked at.
    asked: Vec<Node>,
    rng: Rng,
    numbers: Vec<Node>,
    bools: Vec<Node>,
    times: Vec<Node>,
}

impl Drawn {
    fn of(list: &[Node], rng: &mut Rng) -> Node {
        list[rng.usize(..list.len())]
    }

    /// Inputs, registers, a stopwatch and a counter of ticks, and gates over all of them.
    fn new(seed: u64) -> Drawn {
        let mut net = Net::default();
        let bools = vec![net.input((0, 1), 1), net.input((0, 1), 1)];
        let numbers = vec![net.input((-128, 127), 1), net.input((0, 200), 1)];
        let mut drawn = Drawn { net, asked: Vec::new(), rng: Rng::with_seed(seed), numbers, bools, times: Vec::new() };
        let kept: Vec<RegId> = (0..3).map(|number| drawn.register(number)).collect();
        drawn.stopwatch();
        for _ in 0..20 + seed % 15 {
            drawn.gate();
        }
        for (number, id) in kept.into_iter().enumerate() {
            let shape = SHAPES[number % 3];
            let value = Drawn::of(&drawn.numbers, &mut drawn.rng);
            drawn.net.registers[id.0 as usize].next = drawn.net.add(Gate::Wrap(shape, value));
        }
        let last = drawn.bools.iter().rev().take(4).chain(drawn.numbers.iter().rev().take(6)).copied();
        drawn.asked = last.collect();
        drawn
    }

    fn register(&mut self, number: usize) -> RegId {
        let init = i64::from(self.rng.i8(0..20));
        let (id, node) = self.net.register(init, number == 0, false);
        self.numbers.push(node);
        id
    }

    /// A stopwatch that an input restarts, compared with a preset and, now and then, shown in ticks.
    fn stopwatch(&mut self) {
        let (id, node) = self.net.register(0, false, false);
        self.net.registers[id.0 as usize].stopwatch = true;
        let scan = self.net.constant(SCAN);
        let zero = self.net.constant(0);
        let since = self.net.add(Gate::Advance(node, scan));
        let restart = self.bools[0];
        self.net.registers[id.0 as usize].next = self.net.mux(restart, zero, since);
        let preset = self.net.constant(SCAN * self.rng.i64(2..30));
        let waits = self.net.add(Gate::Less(since, preset));
        self.bools.push(waits);
        self.times.push(since);
        let tick = self.net.constant(SCAN * self.rng.i64(1..4));
        let ticks = self.net.add(Gate::Div(IntShape::LONG, since, tick));
        if self.rng.bool() {
            let ticks = self.net.add(Gate::Wrap(IntShape { bits: 16, signed: true }, ticks));
            // What is remembered of it is a quotient.
            let (kept, shown) = self.net.register(0, false, false);
            self.net.registers[kept.0 as usize].next = self.net.mux(self.bools[1], shown, ticks);
            self.numbers.push(shown);
        }
    }

    fn gate(&mut self) {
        let rng = &mut self.rng;
        let s = SHAPES[rng.usize(..SHAPES.len())];
        let (x, y) = (Drawn::of(&self.numbers, rng), Drawn::of(&self.numbers, rng));
        let (p, q) = (Drawn::of(&self.bools, rng), Drawn::of(&self.bools, rng));
        let choice = rng.u8(..18);
        let constant = i64::from(rng.i8(..));
        // An operation of a type is given values of that type.
        let (a, b) = (self.net.add(Gate::Wrap(s, x)), self.net.add(Gate::Wrap(s, y)));
        let k = self.net.constant(s.wrap(constant));
        let by = self.net.constant(constant.rem_euclid(9) + 1);
        let amount = self.net.constant(constant.rem_euclid(10));
        let is_bool = choice < 7;
        let gate = match choice {
            0 => Gate::And(p, q),
            1 => Gate::Or(p, q),
            2 => Gate::Xor(p, q),
            3 => Gate::Eq(a, b),
            4 => Gate::Less(a, k),
            5 => Gate::Below(a, b),
            6 => Gate::Mux(p, q, self.bools[0]),
            7 => Gate::Add(s, a, b),
            8 => Gate::Sub(s, a, k),
            9 => Gate::Mul(s, a, k),
            10 => Gate::Div(s, a, by),
            11 => Gate::Mod(s, a, b),
            12 => Gate::Min(a, b),
            13 => Gate::Max(a, k),
            14 => Gate::And(a, b),
            15 => Gate::Shift(Shift::Shl, SHAPES[1], a, amount),
            16 => Gate::Mux(p, a, b),
            _ => Gate::Wrap(SHAPES[0], x),
        };
        let gate = if let Gate::Shift(k, shape, _, n) = gate {
            Gate::Shift(k, shape, self.net.add(Gate::Wrap(shape, x)), n)
        } else {
            gate
        };
        let node = self.net.add(gate);
        if is_bool { &mut self.bools } else { &mut self.numbers }.push(node);
    }
}

/// A net that runs gate by gate.
struct Run<'n> {
    net: &'n Net,
    registers: Vec<i64>,
    values: Vec<i64>,
}

impl<'n> Run<'n> {
    fn new(net: &'n Net) -> Run<'n> {
        Run { net, registers: net.registers.iter().map(|r| r.init).collect(), values: Vec::new() }
    }

    fn scan(&mut self, inputs: &[i64]) {
        self.values.clear();
        for gate in &self.net.gates {
            let value = match (gate, gate.value(|n| self.values[n.0 as usize])) {
                (Gate::Input(id), _) => inputs[id.0 as usize],
                (Gate::Reg(id), _) => self.registers[id.0 as usize],
                (_, value) => value.unwrap(),
            };
            self.values.push(value);
        }
        for (register, kept) in self.net.registers.iter().zip(&mut self.registers) {
            *kept = self.values[register.next.0 as usize];
        }
    }

    fn of(&self, node: Node) -> i64 {
        self.values[node.0 as usize]
    }
}

/// What inputs are given, scan by scan; they rest now and then.
fn given(net: &Net, rng: &mut Rng, scans: usize) -> Vec<Vec<i64>> {
    let mut now: Vec<i64> = net.inputs.iter().map(|input| input.range.0.max(0)).collect();
    (0..scans)
        .map(|_| {
            for (value, input) in now.iter_mut().zip(&net.inputs) {
                if rng.u8(..3) == 0 {
                    *value = rng.i64(input.range.0..=input.range.1);
                }
            }
            now.clone()
        })
        .collect()
}

#[test]
fn what_is_made_of_a_net_does_the_same() {
    let (mut quotients, mut caps, mut narrow) = (0, 0, 0);
    for seed in 0..400 {
        let Drawn { net, asked, mut rng, .. } = Drawn::new(seed);
        assert_eq!(net.verify(), Ok(()));
        let range = ranges(&net);
        let unit = units(&net, &range, &net.reached(&asked));
        let live = net.reached(&asked);
        let other = undivided(&net);
        let mut planned = net.clone();
        let bits = Arc::new(plan(&mut planned, &asked));
        caps += usize::from(planned.gates.len() > net.gates.len());
        quotients += usize::from(other.is_some());
        narrow += usize::from((0..net.gates.len()).any(|n| live[n] && unit.of(Node(n as u32)) == SCAN));
        let mut simulator = Simulator::new(Arc::clone(&bits));
        let stories: Vec<Vec<Vec<i64>>> = (0..LANES).map(|_| given(&net, &mut rng, 60)).collect();
        let mut runs: Vec<Run<'_>> = stories.iter().map(|_| Run::new(&net)).collect();
        let mut others: Option<Vec<Run<'_>>> =
            other.as_ref().map(|(o, _)| stories.iter().map(|_| Run::new(o)).collect());
        for scan in 0..60 {
            for (lane, story) in stories.iter().enumerate() {
                for (number, value) in story[scan].iter().enumerate() {
                    let id = InputId(number as u32);
                    if let Some((_, place)) = simulator.input(id) {
                        simulator.set_number(place, lane, value / bits.input_unit(id));
                    }
                }
            }
            simulator.compute();
            for (lane, run) in runs.iter_mut().enumerate() {
                run.scan(&stories[lane][scan]);
                for (number, gate) in net.gates.iter().enumerate().filter(|(n, _)| live[*n]) {
                    let (node, value) = (Node(number as u32), run.values[number]);
                    let (low, high) = range.of(node);
                    assert!((low..=high).contains(&value), "seed {seed}: {gate:?} is {value}, not {low} to {high}");
                    let divides = net.as_constant(node).is_some() || value % unit.of(node) == 0;
                    assert!(divides, "seed {seed}: {gate:?} is {value}, in units of {}", unit.of(node));
                    assert!(!net.is_bool(node) || value == 0 || value == 1, "seed {seed}: {gate:?} is {value}");
                }
                for node in &asked {
                    let place = bits.place(*node).unwrap();
                    let found = simulator.number(place, lane) * bits.unit(*node);
                    assert_eq!(found, run.of(*node), "seed {seed}, scan {scan}: {:?} in bits", net.gate(*node));
                }
                if let (Some(others), Some((_, same))) = (&mut others, &other) {
                    others[lane].scan(&stories[lane][scan]);
                    for node in &asked {
                        let found = others[lane].of(same[node.0 as usize]);
                        assert_eq!(
                            found,
                            run.of(*node),
                            "seed {seed}, scan {scan}: {:?} of quotients",
                            net.gate(*node)
                        );
                    }
                }
            }
            simulator.advance();
        }
    }
    // All that is to be tested came up.
    assert!(quotients > 30 && caps > 50 && narrow > 50, "{quotients} quotients, {caps} caps, {narrow} units");
}

/// A function of whole numbers over 256 scenarios gives each of them what it gives by itself, whatever widths its operands
/// and its result have.
#[test]
fn functions_of_numbers_are_done_for_each_scenario_by_itself() {
    let mut rng = Rng::with_seed(21);
    let all = [
        Whole::Real { op: BinaryOp::Add, precision: Precision::Single },
        Whole::Real { op: BinaryOp::Div, precision: Precision::Double },
        Whole::Real { op: BinaryOp::Lt, precision: Precision::Double },
        Whole::ScaleTime(BinaryOp::Mul),
        Whole::NegateReal,
        Whole::Convert(Elem::Lint, Elem::Lreal),
        Whole::Convert(Elem::Lreal, Elem::Int),
    ];
    let plane = |rng: &mut Rng| -> Plane { std::array::from_fn(|_| rng.u64(..)) };
    for round in 0..400 {
        let f = all[round % all.len()];
        let mut widths = || rng.usize(1..=64);
        let (wide, other, given) = (widths(), widths(), widths());
        let a: Vec<Plane> = (0..wide).map(|_| plane(&mut rng)).collect();
        let b: Vec<Plane> = (0..other).map(|_| plane(&mut rng)).collect();
        let word = |bits, signed| Word { bits, signed, zero: NONE };
        let (a, b) = (word(&a, rng.bool()), word(&b, rng.bool()));
        let fails = rng.bool();
        let mut out = vec![NONE; given];
        Planes.whole(f, fails, a, b, &mut out);
        for lane in 0..WIDE {
            let value = f.apply(number(a, lane), number(b, lane));
            let value = if fails { i64::from(value.is_none()) } else { value.unwrap_or_default() };
            for (at, plane) in out.iter().enumerate() {
                assert_eq!(bit(plane, lane), value >> at & 1 == 1, "{f:?}, bit {at} of scenario {lane}");
            }
        }
    }
}

/// Constant bits, and behind them bits that may be anything.
const CONSTANTS: u32 = 96;
const FREE: u32 = 400;

/// A step of numbers that are constants or may be anything, each of any width.
fn step(rng: &mut Rng, act: Act, at: u32) -> Step {
    let bit = Place { at: CONSTANTS + rng.u32(..FREE), width: 1, signed: false };
    if rng.bool() && matches!(act, Act::And | Act::Or | Act::Xor | Act::Mux) {
        return Step { act, d: Place { at, ..bit }, a: bit, b: Place { at: CONSTANTS, ..bit }, c: bit };
    }
    let mut place = |most: u8| {
        let (width, signed) = (rng.u8(..=most), rng.bool());
        let at = if rng.u8(..3) == 0 { rng.u32(..CONSTANTS - 63) } else { CONSTANTS + rng.u32(..FREE - 63) };
        // A sign is a bit of its own.
        Place { at, width: width.max(u8::from(signed)), signed }
    };
    let (a, b) = (place(33), place(if matches!(act, Act::Shift(..)) { 7 } else { 33 }));
    let b = Place { signed: b.signed && !matches!(act, Act::Shift(..)), ..b };
    let width = if matches!(act, Act::Eq | Act::Less | Act::Below) { 1 } else { place(40).width.max(1) };
    Step { act, d: Place { at, width, signed: false }, a, b, c: bit }
}

/// A processor without wide registers computes the same as one that has them, and a constant that is known beforehand is no other
/// number than one that is not: each kind of step, with numbers of all widths.
#[test]
fn steps_are_the_same_in_registers_of_any_width() {
    let shape = IntShape { bits: 32, signed: true };
    let acts = [Act::And, Act::Or, Act::Xor, Act::Copy, Act::Add, Act::Sub, Act::Mul, Act::Div(shape), Act::Mod(shape)];
    let others = [Act::Eq, Act::Less, Act::Below, Act::Mux, Act::Min, Act::Max];
    let shifts = [Shift::Shl, Shift::Shr, Shift::Rol, Shift::Ror].map(|kind| Act::Shift(kind, shape));
    let acts: Vec<Act> = acts.into_iter().chain(others).chain(shifts).collect();
    let mut rng = Rng::with_seed(5);
    for round in 0..200 {
        let (mut steps, mut bits) = (Vec::new(), CONSTANTS + FREE);
        for _ in 0..60 {
            let act = acts[rng.usize(..acts.len())];
            let step = step(&mut rng, act, bits);
            bits += u32::from(step.d.width);
            steps.push(step);
        }
        let plan = Plan::of(bits as usize, (0..CONSTANTS).map(|_| rng.bool()).collect(), steps);
        let mut begin: Vec<Plane> = (0..bits).map(|_| std::array::from_fn(|_| rng.u64(..))).collect();
        words::begin(&mut Planes, &plan, &mut begin);
        let known = Known::of_all(&plan);
        let [mut plain, mut in_registers, mut with_known] = [0; 3].map(|_| begin.clone());
        words::run_all(&mut Planes, &plan, &mut plain);
        registers::compute(&plan, &known, &mut in_registers);
        words::run_each(&mut Planes, &plan, &mut with_known, &known.as_slice());
        for (step, known) in plan.steps.iter().zip(&known) {
            let of = |bits: &[Plane]| bits[step.d.at as usize..][..usize::from(step.d.width)].to_vec();
            assert_eq!(of(&plain), of(&in_registers), "round {round}: {step:?}, {known:?}");
            assert_eq!(of(&plain), of(&with_known), "round {round}: {step:?}, {known:?}");
        }
    }
}
