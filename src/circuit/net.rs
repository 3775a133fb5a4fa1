//! The net: one scan as operations on whole numbers, each computed once from others, with registers between scans.
//!
//! A number is what a slot of the tape holds, so every gate has the meaning that the tape's operation of that name
//! has. Equal gates are one gate; what is constant is computed here.

use crate::model::functions::{self, RealFunction, Shift};
use crate::model::ops::{self, BinaryOp, Precision};
use crate::model::{Elem, IntShape};
use rustc_hash::FxHashMap;
use std::collections::HashSet;

/// A gate's number; a gate reads only gates of lower numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct Node(pub(crate) u32);

/// Number of a register.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct RegId(pub(crate) u32);

/// Number of an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct InputId(pub(crate) u32);

/// A function that is not taken apart into bits: the same unknown wherever it stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Whole {
    Real { op: BinaryOp, precision: Precision },
    ScaleTime(BinaryOp),
    NegateReal,
    AbsReal,
    Function(RealFunction, Precision),
    Convert(Elem, Elem),
    Truncate(Elem),
}

impl Whole {
    /// Its value, or `None` if it faults.
    pub(crate) fn apply(self, a: i64, b: i64) -> Option<i64> {
        let real = |x: f64| ops::round(Precision::Double, x).to_bits() as i64;
        match self {
            Whole::Real { op, precision } => Some(ops::real(op, precision, a, b)),
            Whole::ScaleTime(op) => ops::scale_time(op, a, b).ok(),
            Whole::NegateReal => Some(real(-f64::from_bits(a as u64))),
            Whole::AbsReal => Some(real(f64::from_bits(a as u64).abs())),
            Whole::Function(f, precision) => {
                Some(real(ops::round(precision, functions::real(f, f64::from_bits(a as u64)))))
            }
            Whole::Convert(from, to) => functions::convert(from, to, a).ok(),
            Whole::Truncate(to) => functions::truncate(to, a).ok(),
        }
    }

    /// Makes of each number its value with another one, 0 where it faults; or whether it does.
    pub(crate) fn apply_each(self, fails: bool, values: &mut [u64; 64], others: &[u64; 64]) {
        for (value, other) in values.iter_mut().zip(others) {
            let given = self.apply(*value as i64, *other as i64);
            *value = if fails { u64::from(given.is_none()) } else { given.unwrap_or_default() as u64 };
        }
    }

    /// True if it has a value for every operand.
    pub(crate) fn never_faults(self) -> bool {
        match self {
            Whole::Real { .. } | Whole::NegateReal | Whole::AbsReal | Whole::Function(..) => true,
            Whole::Convert(_, to) => to.is_real(),
            Whole::ScaleTime(_) | Whole::Truncate(_) => false,
        }
    }
}

/// What a gate computes. BOOL is 0 or 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Gate {
    Const(i64),
    Input(InputId),
    Reg(RegId),
    And(Node, Node),
    Or(Node, Node),
    Xor(Node, Node),
    Add(IntShape, Node, Node),
    Sub(IntShape, Node, Node),
    Mul(IntShape, Node, Node),
    /// Towards zero; anything where the divisor is 0.
    Div(IntShape, Node, Node),
    /// The sign of the dividend; 0 where the divisor is 0.
    Mod(IntShape, Node, Node),
    /// A stopwatch and the time since the last scan; it does not wrap.
    Advance(Node, Node),
    Wrap(IntShape, Node),
    Eq(Node, Node),
    Less(Node, Node),
    /// As [`Gate::Less`] of the patterns as 64 bits without sign.
    Below(Node, Node),
    /// `Mux(c, a, b)`: `a` if `c`, else `b`.
    Mux(Node, Node, Node),
    Min(Node, Node),
    Max(Node, Node),
    /// By a number that is not negative.
    Shift(Shift, IntShape, Node, Node),
    Whole(Whole, Node, Node),
    /// Whether that faults.
    Fails(Whole, Node, Node),
}

impl Gate {
    /// The gates it reads.
    pub(crate) fn operands(self) -> impl Iterator<Item = Node> {
        use Gate::*;
        let list = match self {
            Const(_) | Input(_) | Reg(_) => [None; 3],
            Wrap(_, a) => [Some(a), None, None],
            And(a, b)
            | Or(a, b)
            | Xor(a, b)
            | Advance(a, b)
            | Eq(a, b)
            | Less(a, b)
            | Below(a, b)
            | Min(a, b)
            | Max(a, b) => [Some(a), Some(b), None],
            Add(_, a, b) | Sub(_, a, b) | Mul(_, a, b) | Div(_, a, b) | Mod(_, a, b) => [Some(a), Some(b), None],
            Shift(_, _, a, b) | Whole(_, a, b) | Fails(_, a, b) => [Some(a), Some(b), None],
            Mux(c, a, b) => [Some(c), Some(a), Some(b)],
        };
        list.into_iter().flatten()
    }

    /// The same of other operands.
    pub(crate) fn over(self, at: impl Fn(Node) -> Node) -> Gate {
        use Gate::*;
        match self {
            Const(_) | Input(_) | Reg(_) => self,
            And(a, b) => And(at(a), at(b)),
            Or(a, b) => Or(at(a), at(b)),
            Xor(a, b) => Xor(at(a), at(b)),
            Add(s, a, b) => Add(s, at(a), at(b)),
            Sub(s, a, b) => Sub(s, at(a), at(b)),
            Mul(s, a, b) => Mul(s, at(a), at(b)),
            Div(s, a, b) => Div(s, at(a), at(b)),
            Mod(s, a, b) => Mod(s, at(a), at(b)),
            Advance(a, b) => Advance(at(a), at(b)),
            Wrap(s, a) => Wrap(s, at(a)),
            Eq(a, b) => Eq(at(a), at(b)),
            Less(a, b) => Less(at(a), at(b)),
            Below(a, b) => Below(at(a), at(b)),
            Mux(c, a, b) => Mux(at(c), at(a), at(b)),
            Min(a, b) => Min(at(a), at(b)),
            Max(a, b) => Max(at(a), at(b)),
            Shift(k, s, a, b) => Shift(k, s, at(a), at(b)),
            Whole(f, a, b) => Whole(f, at(a), at(b)),
            Fails(f, a, b) => Fails(f, at(a), at(b)),
        }
    }

    /// Its value from those of its operands; `None` for what is given from outside, and for what faults.
    pub(crate) fn value(self, get: impl Fn(Node) -> i64) -> Option<i64> {
        use Gate::*;
        Some(match self {
            Const(value) => value,
            Input(_) | Reg(_) => return None,
            And(a, b) => get(a) & get(b),
            Or(a, b) => get(a) | get(b),
            Xor(a, b) => get(a) ^ get(b),
            Add(s, a, b) => ops::add(s, get(a), get(b)),
            Sub(s, a, b) => ops::sub(s, get(a), get(b)),
            Mul(s, a, b) => ops::mul(s, get(a), get(b)),
            Div(s, a, b) => ops::div(s, get(a), get(b)).ok()?,
            Mod(s, a, b) => ops::modulo(s, get(a), get(b)),
            Advance(a, b) => get(a).saturating_add(get(b)),
            Wrap(s, a) => s.wrap(get(a)),
            Eq(a, b) => i64::from(get(a) == get(b)),
            Less(a, b) => i64::from(get(a) < get(b)),
            Below(a, b) => i64::from((get(a) as u64) < (get(b) as u64)),
            Mux(c, a, b) => get(if get(c) != 0 { a } else { b }),
            Min(a, b) => get(a).min(get(b)),
            Max(a, b) => get(a).max(get(b)),
            Shift(k, s, a, n) => functions::shift(k, s, get(a), get(n)).ok()?,
            Whole(f, a, b) => f.apply(get(a), get(b))?,
            Fails(f, a, b) => i64::from(f.apply(get(a), get(b)).is_none()),
        })
    }
}

/// What is given from outside in each scan.
#[derive(Clone, Debug)]
pub(crate) struct Input {
    /// Smallest and largest value.
    pub(crate) range: (i64, i64),
    /// Every value is a multiple of it.
    pub(crate) step: i64,
}

/// What a register is, if it is no variable.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Role {
    /// A variable, or something that only the circuit has.
    #[default]
    Plain,
    /// Whether the next scan is the first after power-up.
    FirstScan,
    /// Whether any scan has run since the very first power-up.
    HasBegun,
    /// The fault that has stopped the program; 0 for none.
    Fault,
    /// What the outside saw last of an output.
    Held,
    /// What a free input was in the scan before, by its number.
    Given(u32),
    /// Whether the next scan is the first after power-up, of both versions together.
    AfterPower,
}

/// What lasts from scan to scan.
#[derive(Clone, Debug)]
pub(crate) struct Register {
    /// What it holds at power-up.
    pub(crate) init: i64,
    /// What it holds after a scan.
    pub(crate) next: Node,
    /// True if a power cycle leaves it as it is.
    pub(crate) retained: bool,
    /// True for the time since a stopwatch was restarted.
    pub(crate) stopwatch: bool,
    /// True if it is 0 or 1 by its type.
    pub(crate) bool: bool,
    /// True if it is not read in the first scan after power-up, so that what it holds at power-up does not matter.
    pub(crate) unread: bool,
    /// The version and the slot it stands for; none for what the engine keeps itself.
    pub(crate) slot: Option<(usize, u32)>,
    /// What it holds is so many times what the slot does, or a little more.
    pub(crate) per: i64,
    pub(crate) role: Role,
}

/// Gates, registers and inputs.
#[derive(Clone, Debug, Default)]
pub(crate) struct Net {
    pub(crate) gates: Vec<Gate>,
    /// Of each gate whether it is 0 or 1.
    bools: Vec<bool>,
    ids: FxHashMap<Gate, Node>,
    pub(crate) registers: Vec<Register>,
    pub(crate) inputs: Vec<Input>,
    /// Where it may be: inputs in place of what has no circuit, as what is computed from strings. They may be anything, so that
    /// what holds whatever they are holds of the programs; no more than that may be said of what hangs on them.
    pub(crate) unknown: Option<Vec<InputId>>,
}

mod rules;
#[cfg(test)]
pub(crate) mod watched;
mod ways;

pub(crate) use rules::Rewrite;

impl Net {
    pub(crate) fn gate(&self, node: Node) -> Gate {
        self.gates[node.0 as usize]
    }

    /// For each gate whether it matters for what is asked, in this scan or a later one.
    pub(crate) fn reached(&self, asked: &[Node]) -> Vec<bool> {
        self.reached_until(asked, |_| false)
    }

    /// As [`Net::reached`], but what stands behind a gate that `ends` does not matter for its sake.
    pub(super) fn reached_until(&self, asked: &[Node], ends: impl Fn(Node) -> bool) -> Vec<bool> {
        let mut out = vec![false; self.gates.len()];
        let mut list = asked.to_vec();
        while let Some(node) = list.pop() {
            if std::mem::replace(&mut out[node.0 as usize], true) || ends(node) {
                continue;
            }
            let gate = self.gate(node);
            list.extend(gate.operands());
            if let Gate::Reg(id) = gate {
                list.push(self.registers[id.0 as usize].next);
            }
        }
        out
    }

    /// The net without what does not matter for what is asked, and of each gate that does the one that it is there. Registers and
    /// inputs keep their numbers.
    pub(crate) fn without_others(&self, asked: &[Node]) -> (Net, Vec<Node>) {
        let mut live = self.reached(asked);
        // Numbers grow to the next of the program's constants: none of these is lost.
        self.gates.iter().zip(&mut live).for_each(|(gate, live)| *live |= matches!(gate, Gate::Const(_)));
        let mut out = Net {
            registers: self.registers.clone(),
            inputs: self.inputs.clone(),
            unknown: self.unknown.clone(),
            ..Net::default()
        };
        let mut same = vec![Node(0); self.gates.len()];
        for (number, gate) in self.gates.iter().enumerate().filter(|(number, _)| live[*number]) {
            same[number] = out.put(gate.over(|n| same[n.0 as usize]));
        }
        // What comes next in a register that does not matter does not either.
        out.registers.iter_mut().for_each(|register| register.next = same[register.next.0 as usize]);
        (out, same)
    }

    /// Of each gate the sets that it hangs on, as bits, in this scan or an earlier one; `begins` says which a gate is in itself.
    pub(crate) fn hangs_on(&self, begins: impl Fn(Gate) -> u64) -> Vec<u64> {
        let mut registers = vec![0u64; self.registers.len()];
        let mut out = vec![0u64; self.gates.len()];
        loop {
            for (number, gate) in self.gates.iter().enumerate() {
                let held = if let Gate::Reg(id) = gate { registers[id.0 as usize] } else { 0 };
                out[number] = gate.operands().fold(begins(*gate) | held, |all, node| all | out[node.0 as usize]);
            }
            let mut grows = false;
            for (register, hangs) in self.registers.iter().zip(&mut registers) {
                let all = *hangs | out[register.next.0 as usize];
                grows |= all != *hangs;
                *hangs = all;
            }
            if !grows {
                return out;
            }
        }
    }

    /// Of each gate whether it hangs on what is unknown.
    pub(crate) fn hangs_on_unknown(&self) -> Vec<bool> {
        let Some(unknown) = self.unknown.as_ref().filter(|unknown| !unknown.is_empty()) else {
            return vec![false; self.gates.len()];
        };
        let unknown: HashSet<InputId> = unknown.iter().copied().collect();
        let is_unknown = |gate| matches!(gate, Gate::Input(id) if unknown.contains(&id));
        self.hangs_on(|gate| u64::from(is_unknown(gate))).into_iter().map(|sets| sets != 0).collect()
    }

    pub(crate) fn constant(&mut self, value: i64) -> Node {
        self.put(Gate::Const(value))
    }

    pub(crate) fn bool(&mut self, value: bool) -> Node {
        self.constant(i64::from(value))
    }

    pub(crate) fn input(&mut self, range: (i64, i64), step: i64) -> Node {
        self.inputs.push(Input { range, step });
        self.put(Gate::Input(InputId(self.inputs.len() as u32 - 1)))
    }

    /// A register that keeps what it holds until it is said what comes next.
    pub(crate) fn register(&mut self, init: i64, retained: bool, bool: bool) -> (RegId, Node) {
        let id = RegId(self.registers.len() as u32);
        self.registers.push(Register {
            init,
            next: Node(0),
            retained,
            stopwatch: false,
            bool,
            unread: false,
            slot: None,
            per: 1,
            role: Role::Plain,
        });
        let node = self.put(Gate::Reg(id));
        self.registers[id.0 as usize].next = node;
        (id, node)
    }

    pub(crate) fn as_constant(&self, node: Node) -> Option<i64> {
        if let Gate::Const(value) = self.gate(node) { Some(value) } else { None }
    }

    /// The node of a gate, if it is there already.
    pub(super) fn found(&self, gate: Gate) -> Option<Node> {
        self.ids.get(&gate).copied()
    }

    /// The node of a gate as it is, and shared if it is there already.
    pub(crate) fn put(&mut self, gate: Gate) -> Node {
        if let Some(node) = self.ids.get(&gate) {
            return *node;
        }
        let node = Node(self.gates.len() as u32);
        self.bools.push(self.gives_bool(gate));
        self.gates.push(gate);
        self.ids.insert(gate, node);
        node
    }

    /// The node of a gate: computed if it is constant, and shared if it is there already.
    pub(crate) fn add(&mut self, gate: Gate) -> Node {
        if gate.operands().all(|n| self.as_constant(n).is_some())
            && let Some(value) = gate.value(|n| self.as_constant(n).unwrap_or_default())
        {
            return self.constant(value);
        }
        match self.simpler(gate) {
            Ok(simpler) => simpler.told(),
            Err(gate) => self.put(gate),
        }
    }

    pub(crate) fn not(&mut self, a: Node) -> Node {
        let one = self.constant(1);
        self.add(Gate::Xor(a, one))
    }

    pub(crate) fn and(&mut self, a: Node, b: Node) -> Node {
        self.add(Gate::And(a, b))
    }

    pub(crate) fn or(&mut self, a: Node, b: Node) -> Node {
        self.add(Gate::Or(a, b))
    }

    pub(crate) fn mux(&mut self, c: Node, a: Node, b: Node) -> Node {
        self.add(Gate::Mux(c, a, b))
    }

    pub(crate) fn equal(&mut self, a: Node, b: Node) -> Node {
        self.add(Gate::Eq(a, b))
    }

    /// True if it can be told from what it is made of that it is 0 or 1.
    pub(crate) fn is_bool(&self, node: Node) -> bool {
        self.bools[node.0 as usize]
    }

    /// Whether a gate is 0 or 1, from what is known of its operands.
    pub(super) fn gives_bool(&self, gate: Gate) -> bool {
        match gate {
            Gate::Const(value) => value == 0 || value == 1,
            Gate::Eq(..) | Gate::Less(..) | Gate::Below(..) | Gate::Fails(..) => true,
            Gate::Input(input) => self.inputs[input.0 as usize].range == (0, 1),
            Gate::And(a, b) => self.is_bool(a) || self.is_bool(b),
            Gate::Or(a, b) | Gate::Xor(a, b) => self.is_bool(a) && self.is_bool(b),
            Gate::Mux(_, a, b) => self.is_bool(a) && self.is_bool(b),
            Gate::Wrap(_, a) => self.is_bool(a),
            Gate::Reg(register) => self.registers.get(register.0 as usize).is_some_and(|r| r.bool),
            Gate::Whole(Whole::Real { op, .. }, ..) => op.is_comparison(),
            Gate::Whole(..)
            | Gate::Add(..)
            | Gate::Sub(..)
            | Gate::Mul(..)
            | Gate::Div(..)
            | Gate::Mod(..)
            | Gate::Advance(..)
            | Gate::Min(..)
            | Gate::Max(..)
            | Gate::Shift(..) => false,
        }
    }
}
