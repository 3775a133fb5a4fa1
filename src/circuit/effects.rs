//! What each operation of the tape does to the net. The meaning is that of `scan/run.rs`, told once more in gates;
//! `tests/engine/circuit.rs` runs both on the corpus and on programs drawn at random.

use super::build::{Builder, MOST_GATES, Unfit};
use super::net::{Gate, Node, Whole};
use crate::model::functions::{Shift, time_unit};
use crate::model::ops::FaultKind;
use crate::model::{Elem, Family, IntShape};
use crate::scan::{Dimension, One, Op, Reach};
use std::collections::HashMap;

/// Where to go on.
pub(super) enum Onward {
    On,
    Jump { when: Node, to: u32 },
    Back { to: u32 },
    End,
}

impl Builder<'_> {
    /// What the operation at a place of the tape does.
    #[expect(clippy::too_many_lines, reason = "one arm for each operation, so that none is forgotten")]
    pub(super) fn effect(&mut self, at: u32) -> Result<Onward, Unfit> {
        let (op, reach) = (self.tape.code[at as usize], self.tape.reach(at));
        match op {
            Op::Jump { to } => return Ok(Onward::Jump { when: self.net.bool(true), to }),
            Op::JumpIf { c, to } => return Ok(Onward::Jump { when: self.condition(c), to }),
            Op::JumpUnless { c, to } => {
                let c = self.condition(c);
                return Ok(Onward::Jump { when: self.net.not(c), to });
            }
            Op::Back { to } => return Ok(Onward::Back { to }),
            Op::End => return Ok(Onward::End),
            Op::Text { d, .. } | Op::Cut { d, .. } => {
                let unknown = self.unknown(d)?;
                self.memory.set(d, unknown);
            }
            Op::Move { d, a } | Op::Since { d, a } => {
                let node = self.read(a);
                self.memory.set(d, node);
            }
            Op::MoveIf { d, c, a } => {
                let (c, a, old) = (self.condition(c), self.read(a), self.read(d));
                self.set(d, Gate::Mux(c, a, old));
            }
            Op::NotBool { d, a } => {
                let node = self.read(a);
                self.set_not(d, node);
            }
            Op::And { d, a, b } => self.two(d, a, b, Gate::And),
            Op::Or { d, a, b } => self.two(d, a, b, Gate::Or),
            Op::Xor { d, a, b } => self.two(d, a, b, Gate::Xor),
            Op::AndNot { d, a, b } => {
                let (a, b) = (self.read(a), self.read(b));
                let gate = Gate::And(a, self.net.not(b));
                self.set(d, gate);
            }
            Op::OrNot { d, a, b } => {
                let (a, b) = (self.read(a), self.read(b));
                let gate = Gate::Or(a, self.net.not(b));
                self.set(d, gate);
            }
            Op::Add { s, d, a, b } => self.two(d, a, b, |a, b| Gate::Add(s, a, b)),
            Op::Sub { s, d, a, b } => self.two(d, a, b, |a, b| Gate::Sub(s, a, b)),
            Op::Mul { s, d, a, b } => self.two(d, a, b, |a, b| Gate::Mul(s, a, b)),
            Op::Mod { s, d, a, b } => self.two(d, a, b, |a, b| Gate::Mod(s, a, b)),
            Op::Div { s, d, a, b } => {
                let by = self.condition(b);
                let zero = self.net.not(by);
                self.fault_if(FaultKind::DivisionByZero, zero);
                self.two(d, a, b, |a, b| Gate::Div(s, a, b));
            }
            Op::Eq { d, a, b } => self.two(d, a, b, Gate::Eq),
            Op::Ne { d, a, b } => self.not_two(d, a, b, Gate::Eq),
            Op::Lt { d, a, b } => self.two(d, a, b, Gate::Less),
            Op::Le { d, a, b } => self.not_two(d, b, a, Gate::Less),
            Op::LtUnsigned { d, a, b } => self.two(d, a, b, Gate::Below),
            Op::LeUnsigned { d, a, b } => self.not_two(d, b, a, Gate::Below),
            Op::Min { d, a, b } => self.two(d, a, b, Gate::Min),
            Op::Max { d, a, b } => self.two(d, a, b, Gate::Max),
            Op::Shift { k, s, d, a, b } => {
                let (n, zero) = (self.read(b), self.net.constant(0));
                let negative = self.net.add(Gate::Less(n, zero));
                self.fault_if(FaultKind::OutOfRange, negative);
                self.two(d, a, b, |a, n| Gate::Shift(k, s, a, n));
            }
            Op::Real { op, precision, d, a, b } => {
                self.two(d, a, b, |a, b| Gate::Whole(Whole::Real { op, precision }, a, b))
            }
            Op::ScaleTime { op, d, a, b } => {
                let (a, b) = (self.read(a), self.read(b));
                let node = self.whole(Whole::ScaleTime(op), a, b);
                self.memory.set(d, node);
            }
            Op::One { f, d, a } => {
                let a = self.read(a);
                let node = self.one(f, a);
                self.memory.set(d, node);
            }
            Op::Bound { a, range } => self.bound(a, self.tape.ranges[range as usize]),
            Op::Index { d, a, dim } => self.index(d, a, self.tape.dimensions[dim as usize]),
            Op::Load { d, base, off } => {
                let off = self.read(off);
                let node = self.select(base, off, reach);
                self.memory.set(d, node);
            }
            Op::Store { base, off, a } => {
                let (off, value) = (self.read(off), self.read(a));
                self.spread(base, off, value, reach);
            }
            Op::Copy { d, a, n } => self.copy(d, a, n),
            Op::LoadBlock { d, off, block } => self.load_block(d, off, self.tape.blocks[block as usize], reach),
            Op::StoreBlock { a, off, block } => self.store_block(a, off, self.tape.blocks[block as usize], reach),
            Op::Restart { d } => {
                let zero = self.net.constant(0);
                self.memory.set(d, zero);
            }
            Op::RestartAt { base, off } => {
                let (off, zero) = (self.read(off), self.net.constant(0));
                self.spread(base, off, zero, reach);
            }
            Op::FirstScan { d } => self.memory.set(d, self.now.first_scan),
            Op::ScanTime { d } => self.memory.set(d, self.now.since_last),
            Op::Ticks { d, a } => {
                let base = self.read(a);
                let base = self.net.as_constant(base).ok_or(Unfit::Base)?;
                let ticks = if base > 0 { self.ticks_of(base) } else { self.net.constant(0) };
                let most = self.net.constant(i64::from(i32::MAX));
                self.set(d, Gate::Min(ticks, most));
            }
        }
        Ok(Onward::On)
    }

    /// A slot becomes what a gate gives.
    fn set(&mut self, d: u32, gate: Gate) {
        let node = self.net.add(gate);
        self.memory.set(d, node);
    }

    fn set_not(&mut self, d: u32, node: Node) {
        let not = self.net.not(node);
        self.memory.set(d, not);
    }

    /// A slot becomes what a gate of two others gives.
    fn two(&mut self, d: u32, a: u32, b: u32, gate: impl Fn(Node, Node) -> Gate) {
        let gate = gate(self.read(a), self.read(b));
        self.set(d, gate);
    }

    /// A slot becomes the opposite of what a gate of two others gives.
    fn not_two(&mut self, d: u32, a: u32, b: u32, gate: impl Fn(Node, Node) -> Gate) {
        let gate = gate(self.read(a), self.read(b));
        let node = self.net.add(gate);
        self.set_not(d, node);
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
            One::Real(f, precision) => self.whole(Whole::Function(f, precision), a, zero),
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
        match (from.family(), to.family()) {
            (Family::Time, Family::Time) => a,
            (Family::Time, _) => {
                let unit = self.net.constant(unit(from));
                let number = self.net.add(Gate::Div(IntShape::LONG, a, unit));
                self.net.add(Gate::Wrap(shape, number))
            }
            (_, Family::Time) => {
                let most = i64::MAX / unit(to);
                // Of 64 bits without sign what looks negative is too large as well.
                let least = if of.is_unsigned_64() { 0 } else { -most - i64::from(unit(to) == 1) };
                self.outside(a, least, most);
                let unit = self.net.constant(unit(to));
                self.net.add(Gate::Mul(IntShape::LONG, a, unit))
            }
            (_, _) => self.net.add(Gate::Wrap(shape, a)),
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
            let moved = self.net.add(Gate::Shift(Shift::Shr, IntShape::WHOLE, a, by));
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
            let moved = self.net.add(Gate::Shift(Shift::Shl, IntShape::WHOLE, least, by));
            value = self.net.or(value, moved);
            rest = self.net.add(Gate::Div(IntShape::LONG, rest, ten));
        }
        value
    }

    /// A fault unless a slot's value lies in a range.
    fn bound(&mut self, a: u32, (low, high): (i64, i64)) {
        let a = self.read(a);
        self.fault_outside(FaultKind::OutOfRange, a, low, high);
    }

    /// Adds how far an index leads into an array to the offset that `d` holds.
    fn index(&mut self, d: u32, a: u32, Dimension { low, high, stride }: Dimension) {
        let (offset, index) = (self.read(d), self.read(a));
        self.fault_outside(FaultKind::Index, index, low, high);
        let (low_node, by) = (self.net.constant(low), self.net.constant(stride));
        let place = self.net.add(Gate::Sub(IntShape::LONG, index, low_node));
        let place = self.net.add(Gate::Mul(IntShape::LONG, place, by));
        self.set(d, Gate::Add(IntShape::LONG, offset, place));
    }

    fn copy(&mut self, d: u32, a: u32, n: u32) {
        let nodes: Vec<Node> = (a..a + n).map(|slot| self.read(slot)).collect();
        (d..).zip(nodes).for_each(|(slot, node)| self.memory.set(slot, node));
    }

    fn load_block(&mut self, d: u32, off: u32, (base, n): (u32, u32), reach: Reach) {
        let off = self.read(off);
        let nodes: Vec<Node> = (base..base + n).map(|slot| self.select(slot, off, reach)).collect();
        (d..).zip(nodes).for_each(|(slot, node)| self.memory.set(slot, node));
    }

    fn store_block(&mut self, a: u32, off: u32, (base, n): (u32, u32), reach: Reach) {
        let off = self.read(off);
        let values: Vec<Node> = (a..a + n).map(|slot| self.read(slot)).collect();
        (base..).zip(values).for_each(|(slot, value)| self.spread(slot, off, value, reach));
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
