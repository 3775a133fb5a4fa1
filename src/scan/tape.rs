//! The tape: a flat list of compact operations over 64-bit slots.
//!
//! Every operand is a slot number; constants have slots of their own that nothing writes. Calls are laid out in
//! line, each instance on its own slots, so there are no frames and no stack.

use crate::model::functions::{RealFunction, Shift};
use crate::model::ops::BinaryOp;
use crate::model::{Elem, IntShape};
use crate::source::Span;

/// A slot number.
pub(crate) type Slot = u32;

/// An operation with one operand that is not worth a code of its own.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum One {
    Negate(Elem),
    Not(IntShape),
    Abs(Elem),
    Real(RealFunction, bool),
    Convert(Elem, Elem),
    Truncate(Elem),
    FromBcd(Elem),
    ToBcd(Elem, Elem),
}

/// An operation. `d` is written, the others are read.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Op {
    Move {
        d: Slot,
        a: Slot,
    },
    /// `d := a` if `c`.
    MoveIf {
        d: Slot,
        c: Slot,
        a: Slot,
    },
    NotBool {
        d: Slot,
        a: Slot,
    },
    And {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Or {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Xor {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    AndNot {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    OrNot {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Add {
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Sub {
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Mul {
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Div {
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Mod {
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Eq {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Ne {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Lt {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Le {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    LtUnsigned {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    LeUnsigned {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Min {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Max {
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Real {
        op: BinaryOp,
        single: bool,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    ScaleTime {
        op: BinaryOp,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    Shift {
        k: Shift,
        s: IntShape,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    One {
        f: One,
        d: Slot,
        a: Slot,
    },
    Jump {
        to: u32,
    },
    JumpIf {
        c: Slot,
        to: u32,
    },
    JumpUnless {
        c: Slot,
        to: u32,
    },
    /// A jump backwards; counted against the loop limit.
    Back {
        to: u32,
    },
    /// A fault unless `a` lies in range number `range`.
    Bound {
        a: Slot,
        range: u32,
    },
    /// `d := d + (a - low) * stride` of dimension number `dim`; a fault if `a` is outside.
    Index {
        d: Slot,
        a: Slot,
        dim: u32,
    },
    /// `d := memory[base + off]`.
    Load {
        d: Slot,
        base: Slot,
        off: Slot,
    },
    /// `memory[base + off] := a`.
    Store {
        base: Slot,
        off: Slot,
        a: Slot,
    },
    /// Copies `n` slots.
    Copy {
        d: Slot,
        a: Slot,
        n: u32,
    },
    /// Copies block number `block` (base and length), moved by `off`, to `d`.
    LoadBlock {
        d: Slot,
        off: Slot,
        block: u32,
    },
    /// Copies from `a` to block number `block`, moved by `off`.
    StoreBlock {
        a: Slot,
        off: Slot,
        block: u32,
    },
    Restart {
        d: Slot,
    },
    RestartAt {
        base: Slot,
        off: Slot,
    },
    Since {
        d: Slot,
        a: Slot,
    },
    FirstScan {
        d: Slot,
    },
    ScanTime {
        d: Slot,
    },
    /// Ticks of a base of `a` nanoseconds that fell since the start of the previous scan.
    Ticks {
        d: Slot,
        a: Slot,
    },
    Text {
        op: BinaryOp,
        d: Slot,
        a: Slot,
        b: Slot,
    },
    /// `d := a` cut to `length` characters.
    Cut {
        d: Slot,
        a: Slot,
        length: u32,
    },
    End,
}

impl Op {
    /// True for operations that are never marked as run: they only say where to go on.
    pub(super) fn only_jumps(self) -> bool {
        matches!(self, Op::Jump { .. } | Op::JumpIf { .. } | Op::JumpUnless { .. } | Op::Back { .. } | Op::End)
    }

    /// The slots it reads, if they are known beforehand.
    pub(super) fn operands(self) -> [Option<Slot>; 3] {
        match self {
            Op::Move { a, .. }
            | Op::NotBool { a, .. }
            | Op::One { a, .. }
            | Op::Index { a, .. }
            | Op::Bound { a, .. }
            | Op::Ticks { a, .. }
            | Op::Cut { a, .. }
            | Op::Copy { a, .. }
            | Op::StoreBlock { a, .. }
            | Op::Store { a, .. } => [Some(a), None, None],
            Op::MoveIf { d, c, a } => [Some(c), Some(a), Some(d)],
            Op::And { a, b, .. }
            | Op::Or { a, b, .. }
            | Op::Xor { a, b, .. }
            | Op::AndNot { a, b, .. }
            | Op::OrNot { a, b, .. }
            | Op::Add { a, b, .. }
            | Op::Sub { a, b, .. }
            | Op::Mul { a, b, .. }
            | Op::Div { a, b, .. }
            | Op::Mod { a, b, .. }
            | Op::Eq { a, b, .. }
            | Op::Ne { a, b, .. }
            | Op::Lt { a, b, .. }
            | Op::Le { a, b, .. }
            | Op::LtUnsigned { a, b, .. }
            | Op::LeUnsigned { a, b, .. }
            | Op::Min { a, b, .. }
            | Op::Max { a, b, .. }
            | Op::Real { a, b, .. }
            | Op::ScaleTime { a, b, .. }
            | Op::Shift { a, b, .. }
            | Op::Text { a, b, .. } => [Some(a), Some(b), None],
            Op::JumpIf { c, .. } | Op::JumpUnless { c, .. } => [Some(c), None, None],
            _ => [None; 3],
        }
    }

    /// The slot it writes, if that is known beforehand.
    pub(crate) fn target(self) -> Option<Slot> {
        match self {
            Op::Move { d, .. }
            | Op::MoveIf { d, .. }
            | Op::NotBool { d, .. }
            | Op::And { d, .. }
            | Op::Or { d, .. }
            | Op::Xor { d, .. }
            | Op::AndNot { d, .. }
            | Op::OrNot { d, .. }
            | Op::Add { d, .. }
            | Op::Sub { d, .. }
            | Op::Mul { d, .. }
            | Op::Div { d, .. }
            | Op::Mod { d, .. }
            | Op::Eq { d, .. }
            | Op::Ne { d, .. }
            | Op::Lt { d, .. }
            | Op::Le { d, .. }
            | Op::LtUnsigned { d, .. }
            | Op::LeUnsigned { d, .. }
            | Op::Min { d, .. }
            | Op::Max { d, .. }
            | Op::Real { d, .. }
            | Op::ScaleTime { d, .. }
            | Op::Shift { d, .. }
            | Op::One { d, .. }
            | Op::Index { d, .. }
            | Op::Load { d, .. }
            | Op::Restart { d }
            | Op::Since { d, .. }
            | Op::FirstScan { d }
            | Op::ScanTime { d }
            | Op::Ticks { d, .. }
            | Op::Text { d, .. }
            | Op::Cut { d, .. } => Some(d),
            _ => None,
        }
    }
}

/// One dimension of an array.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Dimension {
    pub(crate) low: i64,
    pub(crate) high: i64,
    pub(crate) stride: i64,
}

/// How far an offset into an array may reach: it is 0 to `most`, in steps of `step`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Reach {
    pub(crate) most: i64,
    pub(crate) step: i64,
}

impl Reach {
    /// After one more index.
    pub(crate) fn beyond(self, dim: Dimension) -> Reach {
        Reach {
            most: self.most + (dim.high - dim.low) * dim.stride,
            step: crate::model::ops::gcd(self.step, dim.stride),
        }
    }
}

/// A compiled project.
#[derive(Debug)]
pub(crate) struct Tape {
    pub(crate) code: Vec<Op>,
    /// The statement or instruction each operation comes from.
    pub(crate) spans: Vec<Span>,
    /// What each operation is asked for, beside `code`.
    pub(crate) asked: Vec<Asked>,
    /// Slots that hold constants.
    pub(crate) constants: std::collections::HashSet<Slot>,
    /// Slots of intermediate values: each is written before it is read.
    pub(crate) temporaries: std::collections::HashSet<Slot>,
    /// Variables that a CASE selects by: step variables.
    pub(crate) selectors: Vec<Slot>,
    /// Expressions that are asked from outside: where each begins, and the slot of its value.
    pub(crate) probes: Vec<(u32, Slot)>,
    pub(crate) entries: Vec<Entry>,
    /// Memory at power-up.
    pub(crate) image: Vec<i64>,
    pub(crate) retained: Vec<bool>,
    /// Slots of stopwatches.
    pub(crate) watches: Vec<Slot>,
    pub(crate) ranges: Vec<(i64, i64)>,
    pub(crate) dimensions: Vec<Dimension>,
    pub(crate) blocks: Vec<(Slot, u32)>,
    /// Of each operation that reads or writes memory moved by an offset, by its place: how far that reaches.
    pub(crate) reaches: std::collections::HashMap<u32, Reach>,
    pub(crate) texts: Vec<String>,
    /// The slots that are read, once that was asked.
    pub(super) read: std::sync::OnceLock<std::collections::HashSet<Slot>>,
}

impl Tape {
    /// For each operation whether anything it reads can vary, as far as the straight code before it tells.
    pub(crate) fn decides(&self) -> Vec<bool> {
        let mut landings = vec![false; self.code.len() + 1];
        for op in &self.code {
            if let Op::Jump { to } | Op::JumpIf { to, .. } | Op::JumpUnless { to, .. } | Op::Back { to } = op {
                landings[*to as usize] = true;
            }
        }
        let mut fixed = self.constants.clone();
        let mut out = Vec::with_capacity(self.code.len());
        for (at, op) in self.code.iter().enumerate() {
            if landings[at] {
                fixed.clone_from(&self.constants);
            }
            let read = op.operands();
            out.push(read.iter().flatten().any(|slot| !fixed.contains(slot)));
            match (op, op.target()) {
                (Op::Move { a, d }, _) if fixed.contains(a) => {
                    fixed.insert(*d);
                }
                (_, Some(d)) => {
                    fixed.remove(&d);
                }
                (op, None) if !op.only_jumps() => fixed.clone_from(&self.constants),
                _ => {}
            }
        }
        out
    }

    /// For each slot whether any operation may write it.
    pub(crate) fn written(&self) -> Vec<bool> {
        let mut out = vec![false; self.image.len()];
        let mut mark = |first: Slot, count: i64| {
            let end = (i64::from(first) + count).min(out.len() as i64) as usize;
            out[first as usize..end].fill(true);
        };
        for (at, op) in self.code.iter().enumerate() {
            let far = self.reach(at as u32).most;
            match *op {
                Op::Store { base, .. } | Op::RestartAt { base, .. } => mark(base, far + 1),
                Op::StoreBlock { block, .. } => {
                    let (base, count) = self.blocks[block as usize];
                    mark(base, far + i64::from(count));
                }
                Op::Copy { d, n, .. } => mark(d, n.into()),
                Op::LoadBlock { d, block, .. } => mark(d, self.blocks[block as usize].1.into()),
                _ => {}
            }
            if let Some(d) = op.target() {
                mark(d, 1);
            }
        }
        out
    }

    /// The slots that any operation of the programs may read.
    pub(crate) fn read(&self) -> &std::collections::HashSet<Slot> {
        self.read.get_or_init(|| {
            let mut out = std::collections::HashSet::new();
            let mut mark = |first: Slot, count: i64| out.extend(first..(i64::from(first) + count) as Slot);
            for (at, op) in self.code.iter().enumerate().take(self.entries_end() as usize) {
                let far = self.reach(at as u32).most;
                match *op {
                    Op::Load { base, off, .. } => {
                        mark(off, 1);
                        mark(base, far + 1);
                    }
                    Op::LoadBlock { off, block, .. } => {
                        mark(off, 1);
                        let (base, count) = self.blocks[block as usize];
                        mark(base, far + i64::from(count));
                    }
                    Op::Copy { a, n, .. } => mark(a, n.into()),
                    Op::StoreBlock { a, block, .. } => mark(a, self.blocks[block as usize].1.into()),
                    Op::Since { a, .. } => mark(a, 1),
                    op => op.operands().into_iter().flatten().for_each(|slot| mark(slot, 1)),
                }
            }
            out
        })
    }

    /// How far the offset of the operation at a place reaches; nowhere if it has none.
    pub(crate) fn reach(&self, at: u32) -> Reach {
        self.reaches.get(&at).copied().unwrap_or_default()
    }

    /// Where the programs end and the probes begin.
    pub(crate) fn entries_end(&self) -> u32 {
        self.probes.first().map_or(self.code.len() as u32, |(start, _)| *start)
    }
}

/// The expression that an operation computes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Asked {
    /// Its place; in the text of a shipped block it is that of the block.
    pub(crate) span: Span,
    /// True if its operands, or what it decides by, are BOOL.
    pub(crate) logical: bool,
}

/// A program's place on the tape.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Entry {
    pub(crate) start: u32,
    /// Nanoseconds between releases; 0 runs in each scan.
    pub(crate) interval: i64,
}
