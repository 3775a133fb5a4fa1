//! The tape: a flat list of compact operations over 64-bit slots.
//!
//! Every operand is a slot number; constants have slots of their own that nothing writes. Calls are laid out in
//! line, each instance on its own slots, so there are no frames and no stack.

use crate::model::functions::{RealFunction, Shift};
use crate::model::ops::BinaryOp;
use crate::model::{Elem, IntShape};
use crate::source::Span;

/// A slot number.
pub(super) type Slot = u32;

/// An operation with one operand that is not worth a code of its own.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum One {
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
pub(super) enum Op {
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
    pub(super) fn target(self) -> Option<Slot> {
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
pub(super) struct Dimension {
    pub(super) low: i64,
    pub(super) high: i64,
    pub(super) stride: i64,
}

/// A compiled project.
#[derive(Debug)]
pub(crate) struct Tape {
    pub(super) code: Vec<Op>,
    /// The statement or instruction each operation comes from.
    pub(super) spans: Vec<Span>,
    /// What each operation is asked for, beside `code`.
    pub(super) asked: Vec<Asked>,
    /// Slots that hold constants.
    pub(super) constants: std::collections::HashSet<Slot>,
    /// Variables that a CASE selects by: step variables.
    pub(super) selectors: Vec<Slot>,
    /// Expressions that are asked from outside: where each begins, and the slot of its value.
    pub(super) probes: Vec<(u32, Slot)>,
    pub(super) entries: Vec<Entry>,
    /// Memory at power-up.
    pub(super) image: Vec<i64>,
    pub(super) retained: Vec<bool>,
    /// Slots of stopwatches.
    pub(super) watches: Vec<Slot>,
    pub(super) ranges: Vec<(i64, i64)>,
    pub(super) dimensions: Vec<Dimension>,
    pub(super) blocks: Vec<(Slot, u32)>,
    pub(super) texts: Vec<String>,
}

impl Tape {
    /// For each operation whether anything it reads can vary, as far as the straight code before it tells.
    pub(super) fn decides(&self) -> Vec<bool> {
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

    /// Where the programs end and the probes begin.
    pub(super) fn entries_end(&self) -> u32 {
        self.probes.first().map_or(self.code.len() as u32, |(start, _)| *start)
    }
}

/// The expression that an operation computes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Asked {
    /// Its place; in the text of a shipped block it is that of the block.
    pub(super) span: Span,
    /// True if its operands, or what it decides by, are BOOL.
    pub(super) logical: bool,
}

/// A program's place on the tape.
#[derive(Clone, Copy, Debug)]
pub(super) struct Entry {
    pub(super) start: u32,
    /// Nanoseconds between releases; 0 runs in each scan.
    pub(super) interval: i64,
}
