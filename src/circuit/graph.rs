//! An and-inverter graph: every bit is an input, or the AND of two others, each perhaps inverted.
//!
//! Nodes that read the same are one node, so what is built alike is alike.

use super::algebra::Algebra;
use super::net::Whole;
use super::words::Word;
use rustc_hash::FxHashMap;

/// A bit of a graph: a node, perhaps inverted.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct Bit(pub(crate) u32);

impl Bit {
    pub(crate) const FALSE: Bit = Bit(0);
    pub(crate) const TRUE: Bit = Bit(1);

    pub(crate) fn node(self) -> usize {
        (self.0 >> 1) as usize
    }

    pub(crate) fn is_inverted(self) -> bool {
        self.0 & 1 == 1
    }

    pub(crate) fn not(self) -> Bit {
        Bit(self.0 ^ 1)
    }

    /// Inverted if `by`.
    pub(crate) fn flip(self, by: bool) -> Bit {
        Bit(self.0 ^ u32::from(by))
    }

    fn of(node: usize) -> Bit {
        Bit((node as u32) << 1)
    }
}

/// Nodes in an order in which each comes after what it reads. Node 0 is FALSE.
#[derive(Clone, Debug)]
pub(crate) struct Graph {
    /// What a node reads; `None` for FALSE and for inputs.
    nodes: Vec<Option<(Bit, Bit)>>,
    table: FxHashMap<(Bit, Bit), Bit>,
}

impl Graph {
    pub(crate) fn new() -> Graph {
        Graph { nodes: vec![None], table: FxHashMap::default() }
    }

    pub(crate) fn len(&self) -> usize {
        self.nodes.len()
    }

    /// What a node reads, if it is an AND.
    pub(crate) fn reads(&self, node: usize) -> Option<(Bit, Bit)> {
        self.nodes[node]
    }

    pub(crate) fn input(&mut self) -> Bit {
        self.nodes.push(None);
        Bit::of(self.nodes.len() - 1)
    }

    /// The AND of two bits, if that is a bit which is there already.
    pub(crate) fn known(&self, a: Bit, b: Bit) -> Result<Bit, (Bit, Bit)> {
        let (a, b) = if a <= b { (a, b) } else { (b, a) };
        if a == Bit::FALSE || a == b.not() {
            return Ok(Bit::FALSE);
        }
        if a == Bit::TRUE || a == b {
            return Ok(b);
        }
        // One level down: x AND (x AND y) is that; x AND (NOT x AND y) is FALSE; x AND NOT (NOT x AND y) is x.
        for (x, other) in [(a, b), (b, a)] {
            if let Some((p, q)) = self.nodes[other.node()] {
                let (same, opposite) = (p == x || q == x, p == x.not() || q == x.not());
                match (other.is_inverted(), same, opposite) {
                    (false, true, _) => return Ok(other),
                    (false, _, true) => return Ok(Bit::FALSE),
                    (true, _, true) => return Ok(x),
                    _ => {}
                }
            }
        }
        self.table.get(&(a, b)).copied().ok_or((a, b))
    }

    /// The AND of two bits.
    pub(crate) fn and(&mut self, a: Bit, b: Bit) -> Bit {
        match self.known(a, b) {
            Ok(bit) => bit,
            Err(reads) => {
                self.nodes.push(Some(reads));
                let bit = Bit::of(self.nodes.len() - 1);
                self.table.insert(reads, bit);
                bit
            }
        }
    }

    /// Nothing is added any more: what is the same is not asked for.
    pub(crate) fn close(&mut self) {
        self.table = FxHashMap::default();
    }

    /// From now on the AND of two bits is another bit that is the same.
    pub(crate) fn merge(&mut self, reads: (Bit, Bit), same: Bit) {
        self.table.insert(reads, same);
    }
}

/// A graph that is only written down; what an unknown function gives is free.
impl Algebra for Graph {
    type Bit = Bit;

    fn constant(&mut self, value: bool) -> Bit {
        Bit::FALSE.flip(value)
    }

    fn is_constant(&self, a: Bit, value: bool) -> bool {
        a == Bit::FALSE.flip(value)
    }

    fn not(&mut self, a: Bit) -> Bit {
        a.not()
    }

    fn and(&mut self, a: Bit, b: Bit) -> Bit {
        Graph::and(self, a, b)
    }

    fn whole(&mut self, _: Whole, _: bool, _: Word<'_, Bit>, _: Word<'_, Bit>, d: &mut [Bit]) {
        d.iter_mut().for_each(|bit| *bit = self.input());
    }
}
