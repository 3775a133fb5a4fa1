//! What each operation of the tape does to the net. The meaning is that of `scan/run.rs`, told once more in gates;
//! `tests/circuit.rs` runs both on the corpus and on programs drawn at random.

use super::build::{Builder, MOST_GATES, Unfit};
use super::net::{Gate, Node, Whole};
use crate::model::functions::{Shift, time_unit};
use crate::model::ops::FaultKind;
use crate::model::{Elem, IntShape};
use crate::scan::{Dimension, One, Op, Reach};
use std::collections::HashMap;

/// Where to go on.
pub(super) enum Effect {
    On,
    Jump { when: Node, to: u32 },
    Back { to: u32 },
    End,
}

impl Builder<'_> {
    /// What the operation at a place of the tape does.
    pub(super) fn effect(&mut self, at: u32) -> Result<Effect, Unfit> {
        let op = self.tape.code[at as usize];
        match op {
            Op::Jump { to } => return Ok(Effect::Jump { when: self.net.bool(true), to }),
            Op::JumpIf { c, to } => return Ok(Effect::Jump { when: self.condition(c), to }),
            Op::JumpUnless { c, to } => {
                let c = self.condition(c);
                return Ok(Effect::Jump { when: self.net.not(c), to });
            }
            Op::Back { to } => return Ok(Effect::Back { to }),
            Op::End => return Ok(Effect::End),
            Op::Text { .. } | Op::Cut { .. } => return Err(Unfit::Text),
            Op::Copy { .. }
            | Op::LoadBlock { .. }
            | Op::StoreBlock { .. }
            | Op::Store { .. }
            | Op::RestartAt { .. }
            | Op::Load { .. }
            | Op::Index { .. }
            | Op::Bound { .. } => self.moving(at, op),
            Op::Ticks { d, a } => {
                let base = self.read(a);
                let base = self.net.as_constant(base).ok_or(Unfit::Base)?;
                let ticks = if base > 0 { self.ticks_of(base) } else { self.net.constant(0) };
                let most = self.net.constant(i64::from(i32::MAX));
                let node = self.net.add(Gate::Min(ticks, most));
                self.memory.set(d, node);
            }
            _ => {
                if let Some(d) = op.target() {
                    let node = self.value(op);
                    self.memory.set(d, node);
                }
            }
        }
        Ok(Effect::On)
    }

    /// A BOOL that is jumped by.
    fn condition(&mut self, slot: u32) -> Node {
        let node = self.read(slot);
        self.truth(node)
    }

    /// Whether a number is not 0.
    fn truth(&mut self, node: Node) -> Node {
        let zero = self.net.constant(0);
        let is_zero = self.net.equal(node, zero);
        self.net.not(is_zero)
    }

    /// The value that an operation writes.
    fn value(&mut self, op: Op) -> Node {
        let two = |b: &mut Self, x: u32, y: u32| (b.read(x), b.read(y));
        let gate = match op {
            Op::Move { a, .. } | Op::Since { a, .. } => return self.read(a),
            Op::MoveIf { d, c, a } => {
                let (c, a, old) = (self.condition(c), self.read(a), self.read(d));
                Gate::Mux(c, a, old)
            }
            Op::NotBool { a, .. } => {
                let a = self.read(a);
                return self.net.not(a);
            }
            Op::And { a, b, .. } => pair(Gate::And, two(self, a, b)),
            Op::Or { a, b, .. } => pair(Gate::Or, two(self, a, b)),
            Op::Xor { a, b, .. } => pair(Gate::Xor, two(self, a, b)),
            Op::AndNot { a, b, .. } => {
                let (a, b) = two(self, a, b);
                Gate::And(a, self.net.not(b))
            }
            Op::OrNot { a, b, .. } => {
                let (a, b) = two(self, a, b);
                Gate::Or(a, self.net.not(b))
            }
            Op::Add { s, a, b, .. } => pair(|a, b| Gate::Add(s, a, b), two(self, a, b)),
            Op::Sub { s, a, b, .. } => pair(|a, b| Gate::Sub(s, a, b), two(self, a, b)),
            Op::Mul { s, a, b, .. } => pair(|a, b| Gate::Mul(s, a, b), two(self, a, b)),
            Op::Mod { s, a, b, .. } => pair(|a, b| Gate::Mod(s, a, b), two(self, a, b)),
            Op::Div { s, a, b, .. } => {
                let (a, b) = two(self, a, b);
                let nonzero = self.truth(b);
                let zero = self.net.not(nonzero);
                self.fault_if(FaultKind::DivisionByZero, zero);
                Gate::Div(s, a, b)
            }
            Op::Eq { a, b, .. } => pair(Gate::Eq, two(self, a, b)),
            Op::Ne { a, b, .. } => {
                let (a, b) = two(self, a, b);
                let equal = self.net.equal(a, b);
                return self.net.not(equal);
            }
            Op::Lt { a, b, .. } => pair(Gate::Less, two(self, a, b)),
            Op::LtUnsigned { a, b, .. } => pair(Gate::Below, two(self, a, b)),
            Op::Le { a, b, .. } => {
                let (a, b) = two(self, a, b);
                let more = self.net.add(Gate::Less(b, a));
                return self.net.not(more);
            }
            Op::LeUnsigned { a, b, .. } => {
                let (a, b) = two(self, a, b);
                let more = self.net.add(Gate::Below(b, a));
                return self.net.not(more);
            }
            Op::Min { a, b, .. } => pair(Gate::Min, two(self, a, b)),
            Op::Max { a, b, .. } => pair(Gate::Max, two(self, a, b)),
            Op::Shift { k, s, a, b, .. } => {
                let (a, n) = two(self, a, b);
                let zero = self.net.constant(0);
                let negative = self.net.add(Gate::Less(n, zero));
                self.fault_if(FaultKind::OutOfRange, negative);
                Gate::Shift(k, s, a, n)
            }
            Op::Real { op, single, a, b, .. } => {
                let (a, b) = two(self, a, b);
                Gate::Whole(Whole::Real { op, single }, a, b)
            }
            Op::ScaleTime { op, a, b, .. } => {
                let (a, b) = two(self, a, b);
                return self.whole(Whole::ScaleTime(op), a, b);
            }
            Op::One { f, a, .. } => {
                let a = self.read(a);
                return self.one(f, a);
            }
            Op::Restart { .. } => return self.net.constant(0),
            Op::FirstScan { .. } => return self.now.first_scan,
            Op::ScanTime { .. } => return self.now.since_last,
            _ => return self.net.constant(0),
        };
        self.net.add(gate)
    }

    /// A function that is not taken apart; what it faults at ends the scan.
    fn whole(&mut self, f: Whole, a: Node, b: Node) -> Node {
        if !f.never_faults() {
            let fails = self.net.add(Gate::Fails(f, a, b));
            self.fault_if(FaultKind::OutOfRange, fails);
        }
        self.net.add(Gate::Whole(f, a, b))
    }

    fn one(&mut self, f: One, a: Node) -> Node {
        let zero = self.net.constant(0);
        match f {
            One::Negate(elem) => match elem.shape() {
                Some(s) => self.net.add(Gate::Sub(s, zero, a)),
                None => self.whole(Whole::NegateReal, a, zero),
            },
            One::Not(s) => {
                let ones = self.net.constant(-1);
                let flipped = self.net.add(Gate::Xor(a, ones));
                self.net.add(Gate::Wrap(s, flipped))
            }
            One::Abs(elem) => match elem.shape() {
                Some(s) if s.signed => {
                    let negative = self.net.add(Gate::Less(a, zero));
                    let negated = self.net.add(Gate::Sub(s, zero, a));
                    self.net.mux(negative, negated, a)
                }
                Some(_) => a,
                None => self.whole(Whole::AbsReal, a, zero),
            },
            One::Real(f, single) => self.whole(Whole::Function(f, single), a, zero),
            One::Convert(from, to) => self.convert(from, to, a),
            One::Truncate(to) => self.whole(Whole::Truncate(to), a, zero),
            One::FromBcd(to) => self.number_of_digits(to, a),
            One::ToBcd(_, to) => self.digits_of_number(to, a),
        }
    }

    fn convert(&mut self, from: Elem, to: Elem, a: Node) -> Node {
        let zero = self.net.constant(0);
        let (Some(of), Some(shape)) = (from.shape(), to.shape()) else {
            return if from == to { a } else { self.whole(Whole::Convert(from, to), a, zero) };
        };
        let unit = time_unit;
        match (from.is_time(), to.is_time()) {
            (true, true) => a,
            (true, false) => {
                let unit = self.net.constant(unit(from));
                let number = self.net.add(Gate::Div(IntShape::LONG, a, unit));
                self.net.add(Gate::Wrap(shape, number))
            }
            (false, true) => {
                let most = i64::MAX / unit(to);
                // Of 64 bits without sign what looks negative is too large as well.
                let least = if of.is_unsigned_64() { 0 } else { -most - i64::from(unit(to) == 1) };
                self.outside(a, least, most);
                let unit = self.net.constant(unit(to));
                self.net.add(Gate::Mul(IntShape::LONG, a, unit))
            }
            (false, false) => self.net.add(Gate::Wrap(shape, a)),
        }
    }

    /// A fault unless a number lies in a range.
    fn outside(&mut self, a: Node, low: i64, high: i64) {
        self.fault_outside(FaultKind::OutOfRange, a, low, high);
    }

    fn fault_outside(&mut self, kind: FaultKind, a: Node, low: i64, high: i64) {
        if low > i64::MIN {
            let low = self.net.constant(low);
            let below = self.net.add(Gate::Less(a, low));
            self.fault_if(kind, below);
        }
        if high < i64::MAX {
            let high = self.net.constant(high);
            let above = self.net.add(Gate::Less(high, a));
            self.fault_if(kind, above);
        }
    }

    /// Decimal digits of four bits each to a number.
    fn number_of_digits(&mut self, to: Elem, a: Node) -> Node {
        let (nine, ten, low) = (self.net.constant(9), self.net.constant(10), self.net.constant(15));
        let mut number = self.net.constant(0);
        for digit in (0..16).rev() {
            let by = self.net.constant(4 * digit);
            let moved = self.net.add(Gate::Shift(Shift::Shr, BITS, a, by));
            let value = self.net.and(moved, low);
            let wrong = self.net.add(Gate::Less(nine, value));
            self.fault_if(FaultKind::OutOfRange, wrong);
            let tens = self.net.add(Gate::Mul(IntShape::LONG, number, ten));
            number = self.net.add(Gate::Add(IntShape::LONG, tens, value));
        }
        let (least, most) = to.shape().map_or((0, 0), IntShape::range);
        self.outside(number, least.max(i64::MIN.into()) as i64, most.min(i64::MAX.into()) as i64);
        number
    }

    /// A number to decimal digits of four bits each.
    fn digits_of_number(&mut self, to: Elem, a: Node) -> Node {
        let digits = to.shape().map_or(0, |s| i64::from(s.bits) / 4);
        let most = 10i64.checked_pow(digits as u32).map_or(i64::MAX, |n| n - 1);
        self.outside(a, 0, most);
        let ten = self.net.constant(10);
        let (mut rest, mut value) = (a, self.net.constant(0));
        for digit in 0..digits {
            let least = self.net.add(Gate::Mod(IntShape::LONG, rest, ten));
            let by = self.net.constant(4 * digit);
            let moved = self.net.add(Gate::Shift(Shift::Shl, BITS, least, by));
            value = self.net.or(value, moved);
            rest = self.net.add(Gate::Div(IntShape::LONG, rest, ten));
        }
        value
    }

    /// What copies, checks and selects.
    fn moving(&mut self, at: u32, op: Op) {
        let reach = self.tape.reach(at);
        match op {
            Op::Bound { a, range } => {
                let (low, high) = self.tape.ranges[range as usize];
                let a = self.read(a);
                self.fault_outside(FaultKind::OutOfRange, a, low, high);
            }
            Op::Index { d, a, dim } => {
                let Dimension { low, high, stride } = self.tape.dimensions[dim as usize];
                let (offset, index) = (self.read(d), self.read(a));
                self.fault_outside(FaultKind::Index, index, low, high);
                let (low_node, by) = (self.net.constant(low), self.net.constant(stride));
                let place = self.net.add(Gate::Sub(IntShape::LONG, index, low_node));
                let place = self.net.add(Gate::Mul(IntShape::LONG, place, by));
                let sum = self.net.add(Gate::Add(IntShape::LONG, offset, place));
                self.memory.set(d, sum);
            }
            Op::Copy { d, a, n } => {
                let nodes: Vec<Node> = (a..a + n).map(|slot| self.read(slot)).collect();
                (d..).zip(nodes).for_each(|(slot, node)| self.memory.set(slot, node));
            }
            Op::Load { d, base, off } => {
                let off = self.read(off);
                let node = self.select(base, off, reach);
                self.memory.set(d, node);
            }
            Op::LoadBlock { d, off, block } => {
                let (base, n) = self.tape.blocks[block as usize];
                let off = self.read(off);
                let nodes: Vec<Node> = (base..base + n).map(|slot| self.select(slot, off, reach)).collect();
                (d..).zip(nodes).for_each(|(slot, node)| self.memory.set(slot, node));
            }
            Op::Store { base, off, a } => {
                let (off, value) = (self.read(off), self.read(a));
                self.spread(base, off, value, reach);
            }
            Op::StoreBlock { a, off, block } => {
                let (base, n) = self.tape.blocks[block as usize];
                let off = self.read(off);
                let values: Vec<Node> = (a..a + n).map(|slot| self.read(slot)).collect();
                (base..).zip(values).for_each(|(slot, value)| self.spread(slot, off, value, reach));
            }
            Op::RestartAt { base, off } => {
                let (off, zero) = (self.read(off), self.net.constant(0));
                self.spread(base, off, zero, reach);
            }
            _ => {}
        }
    }

    /// The slots that `base + offset` may be, each with the condition that it is.
    fn choices(&mut self, base: u32, offset: Node, reach: Reach) -> Vec<(u32, Node)> {
        if let Some(value) = self.net.as_constant(offset) {
            return vec![(base + value as u32, self.net.bool(true))];
        }
        let mut out = Vec::new();
        for at in (0..=reach.most).step_by(reach.step.max(1) as usize) {
            // What is too large is refused when the next operation comes.
            if self.net.gates.len() > MOST_GATES {
                break;
            }
            let number = self.net.constant(at);
            out.push((base + at as u32, self.net.equal(offset, number)));
        }
        out
    }

    fn select(&mut self, base: u32, offset: Node, reach: Reach) -> Node {
        let choices = self.choices(base, offset, reach);
        let values: Vec<Node> = choices.iter().map(|(slot, _)| self.read(*slot)).collect();
        let mut often: HashMap<Node, usize> = HashMap::new();
        values.iter().for_each(|value| *often.entry(*value).or_default() += 1);
        // One of the choices is right; what most of them hold needs no condition.
        let Some(usual) = often.into_iter().max_by_key(|(node, count)| (*count, *node)).map(|(node, _)| node) else {
            return self.net.constant(0);
        };
        let mut node = usual;
        for ((_, when), value) in choices.into_iter().zip(values).rev().filter(|(_, value)| *value != usual) {
            node = self.net.mux(when, value, node);
        }
        node
    }

    fn spread(&mut self, base: u32, offset: Node, value: Node, reach: Reach) {
        for (slot, when) in self.choices(base, offset, reach) {
            let old = self.read(slot);
            let node = self.net.mux(when, value, old);
            self.memory.set(slot, node);
        }
    }
}

/// LWORD.
const BITS: IntShape = IntShape { bits: 64, signed: false };

fn pair(gate: impl Fn(Node, Node) -> Gate, (a, b): (Node, Node)) -> Gate {
    gate(a, b)
}
