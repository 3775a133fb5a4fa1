//! The smallest and largest value that each gate can have: from it comes how many bits it needs.
//!
//! Registers begin with what they hold at power-up and grow with what comes next, until nothing grows; what goes on
//! growing is taken to the next constant of the program, then to the next power of two. Any result is sound: it holds
//! at power-up and each scan keeps it.

use super::net::{Gate, Net, Node};
use crate::model::IntShape;

/// Both ends included.
pub(crate) type Range = (i64, i64);

const ALL: Range = (i64::MIN, i64::MAX);

/// Rounds in which registers grow by what comes, then to constants of the program; after these to powers of two.
const EXACT: usize = 4;
const BY_CONSTANTS: usize = 40;

/// Ranges of all gates, and of all registers.
pub(crate) struct Ranges {
    pub(crate) gates: Vec<Range>,
    pub(crate) registers: Vec<Range>,
}

impl Ranges {
    pub(crate) fn of(&self, node: Node) -> Range {
        self.gates[node.0 as usize]
    }

    /// Whether all values of a gate are those of a shape, so that it is not wrapped.
    pub(super) fn fits(&self, node: Node, s: IntShape) -> bool {
        let ((low, high), (least, most)) = (self.of(node), shape(s));
        least <= low && high <= most
    }
}

/// Finds the ranges of a net.
pub(crate) fn ranges(net: &Net) -> Ranges {
    let mut marks: Vec<i64> =
        net.gates.iter().filter_map(|g| if let Gate::Const(k) = g { Some(*k) } else { None }).collect();
    let beside: Vec<i64> = marks.iter().flat_map(|k| [k.saturating_sub(1), k.saturating_add(1)]).collect();
    marks.extend(beside);
    marks.sort_unstable();
    marks.dedup();
    let mut out = Ranges {
        gates: vec![(0, 0); net.gates.len()],
        registers: net.registers.iter().map(|r| (r.init, r.init)).collect(),
    };
    let mut stale = Stale::all(net);
    for round in 0.. {
        stale.renew(net, &mut out);
        let mut grew = false;
        for (number, register) in net.registers.iter().enumerate() {
            let next = out.gates[register.next.0 as usize];
            let (low, high) = out.registers[number];
            let lower = if round < EXACT { next.0 } else { down(&marks, next.0, round) };
            let higher = if round < EXACT { next.1 } else { up(&marks, next.1, round) };
            let grown = (if next.0 < low { lower } else { low }, if next.1 > high { higher } else { high });
            if grown != (low, high) {
                out.registers[number] = grown;
                stale.register(number);
                grew = true;
            }
        }
        if !grew {
            break;
        }
    }
    // What was taken too far comes back, as far as one more look tells.
    for _ in 0..2 {
        for (number, register) in net.registers.iter().enumerate() {
            let next = out.gates[register.next.0 as usize];
            let (low, high) = out.registers[number];
            let back = (low.max(next.0.min(register.init)), high.min(next.1.max(register.init)));
            if back != (low, high) {
                out.registers[number] = back;
                stale.register(number);
            }
        }
        stale.renew(net, &mut out);
    }
    out
}

/// The gates whose ranges are to be found anew, as something that they read has another range now. Most rounds change little of
/// a large net.
struct Stale {
    /// A bit for each gate.
    gates: Vec<u64>,
    /// How many gates there are.
    count: usize,
    /// Of each gate, and behind them of each register, where the gates that read it begin in the list of all of these.
    starts: Vec<u32>,
    users: Vec<u32>,
}

impl Stale {
    /// All gates, as nothing is known of any.
    fn all(net: &Net) -> Stale {
        let own = |gate: Gate| if let Gate::Reg(id) = gate { Some(net.gates.len() + id.0 as usize) } else { None };
        let read = |gate: Gate| gate.operands().map(|node| node.0 as usize).chain(own(gate));
        let mut starts = vec![0u32; net.gates.len() + net.registers.len() + 1];
        net.gates.iter().flat_map(|gate| read(*gate)).for_each(|node| starts[node + 1] += 1);
        (1..starts.len()).for_each(|at| starts[at] += starts[at - 1]);
        let mut next = starts.clone();
        let mut users = vec![0u32; starts.last().copied().unwrap_or(0) as usize];
        for (at, gate) in net.gates.iter().enumerate() {
            for node in read(*gate) {
                users[next[node] as usize] = at as u32;
                next[node] += 1;
            }
        }
        let mut gates = vec![u64::MAX; net.gates.len().div_ceil(64)];
        if let Some(last) = gates.last_mut().filter(|_| !net.gates.len().is_multiple_of(64)) {
            *last = (1 << (net.gates.len() % 64)) - 1;
        }
        Stale { gates, count: net.gates.len(), starts, users }
    }

    /// What reads a register is stale.
    fn register(&mut self, number: usize) {
        self.mark(self.count + number);
    }

    /// What reads a gate, or a register behind all gates, is stale.
    fn mark(&mut self, node: usize) {
        for user in &self.users[self.starts[node] as usize..self.starts[node + 1] as usize] {
            self.gates[*user as usize / 64] |= 1 << (user % 64);
        }
    }

    /// Finds the ranges of all stale gates anew. What a gate reads stands before it, so once is enough.
    fn renew(&mut self, net: &Net, out: &mut Ranges) {
        for word in 0..self.gates.len() {
            while self.gates[word] != 0 {
                let at = word * 64 + self.gates[word].trailing_zeros() as usize;
                self.gates[word] &= self.gates[word] - 1;
                let range = one(net, out, net.gates[at]);
                if out.gates[at] != range {
                    out.gates[at] = range;
                    self.mark(at);
                }
            }
        }
    }
}

fn down(marks: &[i64], value: i64, round: usize) -> i64 {
    if round < BY_CONSTANTS {
        let at = marks.partition_point(|m| *m <= value);
        if at > 0 {
            return marks[at - 1];
        }
    }
    (0..64).map(|bits| if bits == 63 { i64::MIN } else { -(1i64 << bits) }).find(|m| *m <= value).unwrap_or(i64::MIN)
}

fn up(marks: &[i64], value: i64, round: usize) -> i64 {
    if round < BY_CONSTANTS
        && let Some(mark) = marks.get(marks.partition_point(|m| *m < value))
    {
        return *mark;
    }
    (0..63).map(|bits| (1i64 << bits) - 1).find(|m| *m >= value).unwrap_or(i64::MAX)
}

/// The range of a gate from those of its operands.
fn one(net: &Net, out: &Ranges, gate: Gate) -> Range {
    let of = |n: Node| out.gates[n.0 as usize];
    match gate {
        Gate::Const(k) => (k, k),
        Gate::Input(id) => net.inputs[id.0 as usize].range,
        Gate::Reg(id) => out.registers[id.0 as usize],
        Gate::And(a, b) => match (of(a), of(b)) {
            ((0.., x), (0.., y)) => (0, x.min(y)),
            ((0.., x), _) | (_, (0.., x)) => (0, x),
            (a, b) => mask(a, b),
        },
        Gate::Or(a, b) | Gate::Xor(a, b) => mask(of(a), of(b)),
        Gate::Add(s, a, b) => add(s, of(a), of(b)).unwrap_or(shape(s)),
        Gate::Sub(s, a, b) => sub(s, of(a), of(b)).unwrap_or(shape(s)),
        Gate::Mul(s, a, b) => mul(s, of(a), of(b)).unwrap_or(shape(s)),
        Gate::Div(s, a, b) => div(s, of(a), of(b)),
        Gate::Mod(s, a, b) => modulo(s, of(a), of(b)),
        Gate::Advance(a, b) => {
            let (a, b) = (of(a), of(b));
            (a.0.saturating_add(b.0), a.1.saturating_add(b.1))
        }
        Gate::Wrap(s, a) => fits(s, (of(a).0.into(), of(a).1.into())).unwrap_or(shape(s)),
        Gate::Eq(a, b) => {
            let (a, b) = (of(a), of(b));
            if a.0 > b.1 || b.0 > a.1 { (0, 0) } else { bool(a.0 == a.1 && a == b, false) }
        }
        Gate::Less(a, b) => bool(of(a).1 < of(b).0, of(a).0 >= of(b).1),
        Gate::Below(..) | Gate::Fails(..) => (0, 1),
        Gate::Mux(c, a, b) => match of(c) {
            (0, 0) => of(b),
            (1.., _) => of(a),
            _ => (of(a).0.min(of(b).0), of(a).1.max(of(b).1)),
        },
        Gate::Min(a, b) => (of(a).0.min(of(b).0), of(a).1.min(of(b).1)),
        Gate::Max(a, b) => (of(a).0.max(of(b).0), of(a).1.max(of(b).1)),
        Gate::Shift(_, s, _, _) => shape(s),
        Gate::Whole(f, ..) => match f {
            super::net::Whole::Real { op, .. } if op.is_comparison() => (0, 1),
            super::net::Whole::Convert(_, to) | super::net::Whole::Truncate(to) => to.shape().map_or(ALL, shape),
            super::net::Whole::Real { .. }
            | super::net::Whole::ScaleTime(_)
            | super::net::Whole::NegateReal
            | super::net::Whole::AbsReal
            | super::net::Whole::Function(..) => ALL,
        },
    }
}

fn bool(surely: bool, never: bool) -> Range {
    match (surely, never) {
        (true, _) => (1, 1),
        (_, true) => (0, 0),
        _ => (0, 1),
    }
}

/// What a slot of a shape can hold.
pub(super) fn shape(s: IntShape) -> Range {
    let (low, high) = s.range();
    if s.bits == 64 { ALL } else { (low as i64, high as i64) }
}

/// The range of numbers if no number in it wraps.
fn fits(s: IntShape, (low, high): (i128, i128)) -> Option<Range> {
    let (least, most) = shape(s);
    (low >= least.into() && high <= most.into()).then_some((low as i64, high as i64))
}

/// All that fits the bits of both.
fn mask(a: Range, b: Range) -> Range {
    let least = a.0.min(b.0);
    let most = a.1.max(b.1).max(!least.min(-1));
    let ones = if most <= 0 { 0 } else { (u64::MAX >> (most as u64).leading_zeros()) as i64 };
    (if least < 0 { !ones } else { 0 }, ones)
}

/// The exact range of a sum that never wraps.
pub(super) fn add(s: IntShape, a: Range, b: Range) -> Option<Range> {
    fits(s, (i128::from(a.0) + i128::from(b.0), i128::from(a.1) + i128::from(b.1)))
}

pub(super) fn sub(s: IntShape, a: Range, b: Range) -> Option<Range> {
    fits(s, (i128::from(a.0) - i128::from(b.1), i128::from(a.1) - i128::from(b.0)))
}

pub(super) fn mul(s: IntShape, a: Range, b: Range) -> Option<Range> {
    let all = [a.0, a.1].map(|x| [b.0, b.1].map(|y| i128::from(x) * i128::from(y)));
    let all = all.as_flattened();
    fits(s, (all.iter().copied().min().unwrap_or(0), all.iter().copied().max().unwrap_or(0)))
}

fn div(s: IntShape, a: Range, b: Range) -> Range {
    let plain = !s.is_unsigned_64() || (a.0 >= 0 && b.0 >= 0);
    if plain && b.0 > 0 {
        let all = [a.0 / b.0, a.0 / b.1, a.1 / b.0, a.1 / b.1];
        return (all.iter().copied().min().unwrap_or(0), all.iter().copied().max().unwrap_or(0));
    }
    if plain && a.0 >= 0 && b.0 >= 0 { (0, a.1) } else { shape(s) }
}

fn modulo(s: IntShape, a: Range, b: Range) -> Range {
    if s.is_unsigned_64() && (a.0 < 0 || b.0 < 0) {
        return ALL;
    }
    let most = b.0.unsigned_abs().max(b.1.unsigned_abs()).saturating_sub(1).min(i64::MAX as u64) as i64;
    (if a.0 < 0 { (-most).max(a.0) } else { 0 }, if a.1 > 0 { most.min(a.1) } else { 0 })
}
