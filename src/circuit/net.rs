//! The net: one scan as operations on whole numbers, each computed once from others, with registers between scans.
//!
//! A number is what a slot of the tape holds, so every gate has the meaning that the tape's operation of that name
//! has. Equal gates are one gate; what is constant is computed here.

use crate::model::functions::{self, RealFunction, Shift};
use crate::model::ops::{self, BinaryOp};
use crate::model::{Elem, IntShape};
use std::collections::HashMap;

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
    Real { op: BinaryOp, single: bool },
    ScaleTime(BinaryOp),
    NegateReal,
    AbsReal,
    Function(RealFunction, bool),
    Convert(Elem, Elem),
    Truncate(Elem),
}

impl Whole {
    /// Its value, or `None` if it faults.
    pub(crate) fn apply(self, a: i64, b: i64) -> Option<i64> {
        let real = |x: f64| x.to_bits() as i64;
        match self {
            Whole::Real { op, single } => Some(ops::real(op, single, a, b)),
            Whole::ScaleTime(op) => ops::scale_time(op, a, b).ok(),
            Whole::NegateReal => Some(real(-f64::from_bits(a as u64))),
            Whole::AbsReal => Some(real(f64::from_bits(a as u64).abs())),
            Whole::Function(f, single) => Some(real(ops::round(single, functions::real(f, f64::from_bits(a as u64))))),
            Whole::Convert(from, to) => functions::convert(from, to, a).ok(),
            Whole::Truncate(to) => functions::truncate(to, a).ok(),
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
}

/// Gates, registers and inputs.
#[derive(Clone, Debug, Default)]
pub(crate) struct Net {
    pub(crate) gates: Vec<Gate>,
    ids: HashMap<Gate, Node>,
    pub(crate) registers: Vec<Register>,
    pub(crate) inputs: Vec<Input>,
}

mod ways;

impl Net {
    pub(crate) fn gate(&self, node: Node) -> Gate {
        self.gates[node.0 as usize]
    }

    /// For each gate whether it matters for what is asked, in this scan or a later one.
    pub(crate) fn reached(&self, asked: &[Node]) -> Vec<bool> {
        let mut out = vec![false; self.gates.len()];
        let mut list = asked.to_vec();
        while let Some(node) = list.pop() {
            if std::mem::replace(&mut out[node.0 as usize], true) {
                continue;
            }
            match self.gate(node) {
                Gate::Reg(id) => list.push(self.registers[id.0 as usize].next),
                gate => list.extend(gate.operands()),
            }
        }
        out
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
        let node = self.put(Gate::Reg(id));
        self.registers.push(Register {
            init,
            next: node,
            retained,
            stopwatch: false,
            bool,
            unread: false,
            slot: None,
            per: 1,
        });
        (id, node)
    }

    pub(crate) fn as_constant(&self, node: Node) -> Option<i64> {
        if let Gate::Const(value) = self.gate(node) { Some(value) } else { None }
    }

    fn put(&mut self, gate: Gate) -> Node {
        if let Some(node) = self.ids.get(&gate) {
            return *node;
        }
        let node = Node(self.gates.len() as u32);
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
            Ok(node) => node,
            Err(gate) => self.put(gate),
        }
    }

    /// What is the same as a gate and simpler: a node, or else a gate in its usual form.
    fn simpler(&mut self, gate: Gate) -> Result<Node, Gate> {
        use Gate::*;
        let k = |n: Node| self.as_constant(n);
        // Operands that may be swapped stand in order, a constant last.
        let usual = |a: Node, b: Node| if k(a).is_some() || (k(b).is_none() && a > b) { (b, a) } else { (a, b) };
        Err(match gate {
            And(a, b) => {
                let (a, b) = usual(a, b);
                match k(b) {
                    Some(0) => return Ok(b),
                    Some(1) if self.is_bool(a) => return Ok(a),
                    _ if a == b => return Ok(a),
                    _ if self.opposite(a, b) => return Ok(self.bool(false)),
                    _ if self.implied(a, b) => return Ok(a),
                    _ if self.implied(b, a) => return Ok(b),
                    _ => And(a, b),
                }
            }
            Or(a, b) => {
                let (a, b) = usual(a, b);
                match k(b) {
                    Some(0) => return Ok(a),
                    Some(1) if self.is_bool(a) => return Ok(b),
                    _ if a == b => return Ok(a),
                    _ if self.opposite(a, b) => return Ok(self.bool(true)),
                    _ => return self.either(a, b),
                }
            }
            Xor(a, b) => {
                let (a, b) = usual(a, b);
                match (k(b), self.gate(a)) {
                    (Some(0), _) => return Ok(a),
                    (Some(x), Xor(c, d)) if k(d).is_some() => {
                        let rest = self.constant(x ^ k(d).unwrap_or_default());
                        return Ok(self.add(Xor(c, rest)));
                    }
                    _ if a == b => return Ok(self.constant(0)),
                    _ => Xor(a, b),
                }
            }
            Add(s, a, b) => {
                let (a, b) = usual(a, b);
                if k(b) == Some(0) { return Ok(self.add(Wrap(s, a))) } else { Add(s, a, b) }
            }
            Sub(s, a, b) if k(b) == Some(0) => return Ok(self.add(Wrap(s, a))),
            Mul(s, a, b) => {
                let (a, b) = usual(a, b);
                match k(b) {
                    Some(0) => return Ok(b),
                    Some(1) => return Ok(self.add(Wrap(s, a))),
                    _ => Mul(s, a, b),
                }
            }
            Wrap(IntShape { bits: 64, .. }, a) => return Ok(a),
            Wrap(_, a) if self.is_bool(a) => return Ok(a),
            Eq(a, b) => {
                let (a, b) = usual(a, b);
                match k(b) {
                    Some(1) if self.is_bool(a) => return Ok(a),
                    Some(0) if self.is_bool(a) => return Ok(self.not(a)),
                    _ if a == b => return Ok(self.bool(true)),
                    _ => Eq(a, b),
                }
            }
            Less(a, b) | Below(a, b) if a == b => return Ok(self.bool(false)),
            Min(a, b) | Max(a, b) if a == b => return Ok(a),
            Less(..) | Div(..) => return self.of_quotient(gate),
            Min(a, b) => {
                let (a, b) = usual(a, b);
                return self.of_quotient(Min(a, b));
            }
            Max(a, b) => {
                let (a, b) = usual(a, b);
                Max(a, b)
            }
            Mux(c, a, b) => return self.choice(c, a, b),
            Advance(a, b) if k(b) == Some(0) => return Ok(a),
            other => other,
        })
    }

    /// What is asked of a quotient is asked of its dividend, if the divisor is a constant above zero: then nobody has to
    /// divide what is large. Quotients are cut towards zero, so all of this holds of negative dividends too.
    fn of_quotient(&mut self, gate: Gate) -> Result<Node, Gate> {
        use Gate::*;
        let k = |n: Node| self.as_constant(n);
        let quotient = |n: Node| match self.gate(n) {
            Div(s, x, by) => k(by).filter(|by| *by > 0).map(|by| (s, x, by)),
            _ => None,
        };
        match gate {
            // x / a / b is x / ab.
            Div(s, a, b) => {
                if let (Some((_, x, first)), Some(second)) = (quotient(a), k(b).filter(|b| *b > 0))
                    && let Some(by) = first.checked_mul(second)
                {
                    let by = self.constant(by);
                    return self.simpler(Div(s, x, by)).or_else(|gate| Ok(self.put(gate)));
                }
            }
            // MIN(x / k, c) is MIN(x, ck) / k.
            Min(a, b) => {
                if let (Some((s, x, by)), Some(c)) = (quotient(a), k(b).filter(|c| *c >= 0))
                    && let Some(most) = c.checked_mul(by)
                {
                    let (most, by) = (self.constant(most), self.constant(by));
                    let least = self.add(Min(x, most));
                    return Ok(self.add(Div(s, least, by)));
                }
            }
            Less(a, b) => {
                // x / k < c is x < ck.
                if let (Some((_, x, by)), Some(c)) = (quotient(a), k(b).filter(|c| *c > 0))
                    && let Some(most) = c.checked_mul(by)
                {
                    let most = self.constant(most);
                    return Ok(self.add(Less(x, most)));
                }
                // c < x / k is NOT x < (c + 1)k.
                if let (Some(c), Some((_, x, by))) = (k(a).filter(|c| *c >= 0), quotient(b))
                    && let Some(most) = c.checked_add(1).and_then(|c| c.checked_mul(by))
                {
                    let most = self.constant(most);
                    let less = self.add(Less(x, most));
                    return Ok(self.not(less));
                }
            }
            _ => {}
        }
        Err(gate)
    }

    /// A or B, where they may be two ways of one condition.
    fn either(&mut self, a: Node, b: Node) -> Result<Node, Gate> {
        // p AND c OR p AND NOT c is p.
        if let (Gate::And(p, c), Gate::And(q, d)) = (self.gate(a), self.gate(b)) {
            for (p, c) in [(p, c), (c, p)] {
                for (q, d) in [(q, d), (d, q)] {
                    if p == q && self.opposite(c, d) {
                        return Ok(p);
                    }
                }
            }
        }
        // c OR p AND NOT c is c OR p.
        for (a, b) in [(a, b), (b, a)] {
            if let Gate::And(p, c) = self.gate(b) {
                for (p, c) in [(p, c), (c, p)] {
                    if self.opposite(a, c) {
                        return Ok(self.add(Gate::Or(a, p)));
                    }
                }
                if p == a || c == a {
                    return Ok(a);
                }
            }
        }
        self.ways(a, b)
    }

    fn choice(&mut self, c: Node, a: Node, b: Node) -> Result<Node, Gate> {
        if let Some(known) = self.as_constant(c) {
            return Ok(if known != 0 { a } else { b });
        }
        if a == b {
            return Ok(a);
        }
        // Not asked again what is known by then.
        let (a, b) = (self.given(a, c, true), self.given(b, c, false));
        if a == b {
            return Ok(a);
        }
        if let Some(positive) = self.negated(c) {
            return Ok(self.add(Gate::Mux(positive, b, a)));
        }
        // The smaller or larger of two is written as that.
        if let Gate::Less(x, y) = self.gate(c) {
            if (a, b) == (x, y) {
                return Ok(self.add(Gate::Min(x, y)));
            }
            if (a, b) == (y, x) {
                return Ok(self.add(Gate::Max(x, y)));
            }
        }
        if self.is_bool(a) && self.is_bool(b) {
            match (self.as_constant(a), self.as_constant(b)) {
                (Some(1), Some(0)) => return Ok(c),
                (Some(0), Some(1)) => return Ok(self.not(c)),
                (Some(1), _) => return Ok(self.add(Gate::Or(c, b))),
                (Some(0), _) => {
                    let not = self.not(c);
                    return Ok(self.add(Gate::And(not, b)));
                }
                (_, Some(0)) => return Ok(self.add(Gate::And(c, a))),
                (_, Some(1)) => {
                    let not = self.not(c);
                    return Ok(self.add(Gate::Or(not, a)));
                }
                _ => {}
            }
        }
        Err(Gate::Mux(c, a, b))
    }

    /// What a node is where a condition is known.
    fn given(&self, node: Node, condition: Node, holds: bool) -> Node {
        let mut node = node;
        while let Gate::Mux(c, a, b) = self.gate(node) {
            if c == condition {
                node = if holds { a } else { b };
            } else if self.opposite(c, condition) {
                node = if holds { b } else { a };
            } else {
                break;
            }
        }
        node
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

    /// The node this one is the NOT of.
    fn negated(&self, node: Node) -> Option<Node> {
        match self.gate(node) {
            Gate::Xor(a, one) if self.as_constant(one) == Some(1) && self.is_bool(a) => Some(a),
            _ => None,
        }
    }

    fn opposite(&self, a: Node, b: Node) -> bool {
        self.negated(a) == Some(b) || self.negated(b) == Some(a)
    }

    /// True if `a` is an AND of which `b` is a part.
    fn implied(&self, a: Node, b: Node) -> bool {
        matches!(self.gate(a), Gate::And(x, y) if (x == b || y == b) && self.is_bool(a) && self.is_bool(b))
    }

    /// True if it can be told at a glance that it is 0 or 1.
    pub(crate) fn is_bool(&self, node: Node) -> bool {
        let mut steps = 64;
        self.is_bool_within(node, &mut steps)
    }

    fn is_bool_within(&self, node: Node, steps: &mut u32) -> bool {
        if *steps == 0 {
            return false;
        }
        *steps -= 1;
        match self.gate(node) {
            Gate::Const(value) => value == 0 || value == 1,
            Gate::Eq(..) | Gate::Less(..) | Gate::Below(..) | Gate::Fails(..) => true,
            Gate::Input(input) => self.inputs[input.0 as usize].range == (0, 1),
            Gate::And(a, b) => self.is_bool_within(a, steps) || self.is_bool_within(b, steps),
            Gate::Or(a, b) | Gate::Xor(a, b) => self.is_bool_within(a, steps) && self.is_bool_within(b, steps),
            Gate::Mux(_, a, b) => self.is_bool_within(a, steps) && self.is_bool_within(b, steps),
            Gate::Wrap(_, a) => self.is_bool_within(a, steps),
            Gate::Reg(register) => self.registers.get(register.0 as usize).is_some_and(|r| r.bool),
            _ => false,
        }
    }
}
