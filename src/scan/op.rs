//! The operations of the tape, and beside them the one table of what each reads and writes and where it leads.

use crate::model::Elem;
use crate::model::IntShape;
use crate::model::functions::{RealFunction, Shift};
use crate::model::ops::{BinaryOp, Precision};

/// A slot number.
pub(crate) type Slot = u32;

/// An operation with one operand that is not worth a code of its own.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum One {
    Negate(Elem),
    Not(IntShape),
    Abs(Elem),
    Real(RealFunction, Precision),
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
        precision: Precision,
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

/// Slots that an operation reads or writes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Area {
    /// One slot.
    Slot(Slot),
    /// One slot that holds a stopwatch.
    Watch(Slot),
    /// So many slots, from the first on.
    Run(Slot, u32),
    /// As many slots as a block of the tape has, from the first on.
    Like { first: Slot, block: u32 },
    /// The slot that lies behind `base` by what `off` holds.
    Moved { base: Slot, off: Slot },
    /// As `Moved`, a slot that holds a stopwatch.
    MovedWatch { base: Slot, off: Slot },
    /// The slots of a block of the tape, moved by what `off` holds.
    Block { block: u32, off: Slot },
}

impl Area {
    /// The slot of the offset, which is read to find the area.
    pub(crate) fn offset(self) -> Option<Slot> {
        match self {
            Area::Slot(_) | Area::Watch(_) | Area::Run(..) | Area::Like { .. } => None,
            Area::Moved { off, .. } | Area::MovedWatch { off, .. } | Area::Block { off, .. } => Some(off),
        }
    }

    /// First slot and number of slots if the offset is 0.
    pub(crate) fn unmoved(self, blocks: &[(Slot, u32)]) -> (Slot, u32) {
        match self {
            Area::Slot(slot) | Area::Watch(slot) => (slot, 1),
            Area::Run(first, count) => (first, count),
            Area::Moved { base, .. } | Area::MovedWatch { base, .. } => (base, 1),
            Area::Like { first, block } => (first, block_at(blocks, block).1),
            Area::Block { block, .. } => block_at(blocks, block),
        }
    }

    /// First slot and number of slots, with memory as it is.
    pub(crate) fn moved(self, blocks: &[(Slot, u32)], memory: &[i64]) -> (Slot, u32) {
        let (first, count) = self.unmoved(blocks);
        let by = self.offset().map_or(0, |off| memory[off as usize]);
        ((i64::from(first) + by) as Slot, count)
    }
}

fn block_at(blocks: &[(Slot, u32)], number: u32) -> (Slot, u32) {
    blocks.get(number as usize).copied().unwrap_or_default()
}

/// Where an operation leads.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Leads {
    /// To the next operation.
    On,
    /// Always to another one, further on.
    Jump(u32),
    /// To another one further on, or to the next.
    Branch(u32),
    /// To one before it.
    Back(u32),
    /// Nowhere: the program or probe ends.
    End,
}

impl Leads {
    /// The operation it may jump to.
    pub(crate) fn landing(self) -> Option<u32> {
        match self {
            Leads::On | Leads::End => None,
            Leads::Jump(to) | Leads::Branch(to) | Leads::Back(to) => Some(to),
        }
    }
}

/// What an operation reads and writes, and where it leads.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Footprint {
    /// In the order of its operands.
    pub(crate) reads: [Option<Area>; 3],
    pub(crate) writes: Option<Area>,
    pub(crate) leads: Leads,
}

impl Footprint {
    const fn of(reads: [Option<Area>; 3], writes: Option<Area>) -> Footprint {
        Footprint { reads, writes, leads: Leads::On }
    }

    /// `d` of one operand.
    const fn one(d: Slot, a: Slot) -> Footprint {
        Footprint::of([Some(Area::Slot(a)), None, None], Some(Area::Slot(d)))
    }

    /// `d` of two operands.
    const fn two(d: Slot, a: Slot, b: Slot) -> Footprint {
        Footprint::of([Some(Area::Slot(a)), Some(Area::Slot(b)), None], Some(Area::Slot(d)))
    }

    const fn leads(condition: Option<Slot>, leads: Leads) -> Footprint {
        let condition = match condition {
            Some(slot) => Some(Area::Slot(slot)),
            None => None,
        };
        Footprint { reads: [condition, None, None], writes: None, leads }
    }
}

impl Op {
    /// What it reads and writes, and where it leads: the one table that everything asks which follows values or paths.
    pub(crate) const fn footprint(self) -> Footprint {
        use Area::{Block, Like, Moved, MovedWatch, Run, Watch};
        match self {
            Op::Move { d, a }
            | Op::NotBool { d, a }
            | Op::One { d, a, .. }
            | Op::Ticks { d, a }
            | Op::Cut { d, a, .. } => Footprint::one(d, a),
            Op::MoveIf { d, c, a } => {
                Footprint::of([Some(Area::Slot(c)), Some(Area::Slot(a)), Some(Area::Slot(d))], Some(Area::Slot(d)))
            }
            Op::And { d, a, b }
            | Op::Or { d, a, b }
            | Op::Xor { d, a, b }
            | Op::AndNot { d, a, b }
            | Op::OrNot { d, a, b }
            | Op::Add { d, a, b, .. }
            | Op::Sub { d, a, b, .. }
            | Op::Mul { d, a, b, .. }
            | Op::Div { d, a, b, .. }
            | Op::Mod { d, a, b, .. }
            | Op::Eq { d, a, b }
            | Op::Ne { d, a, b }
            | Op::Lt { d, a, b }
            | Op::Le { d, a, b }
            | Op::LtUnsigned { d, a, b }
            | Op::LeUnsigned { d, a, b }
            | Op::Min { d, a, b }
            | Op::Max { d, a, b }
            | Op::Real { d, a, b, .. }
            | Op::ScaleTime { d, a, b, .. }
            | Op::Shift { d, a, b, .. }
            | Op::Text { d, a, b, .. } => Footprint::two(d, a, b),
            Op::Jump { to } => Footprint::leads(None, Leads::Jump(to)),
            Op::JumpIf { c, to } | Op::JumpUnless { c, to } => Footprint::leads(Some(c), Leads::Branch(to)),
            Op::Back { to } => Footprint::leads(None, Leads::Back(to)),
            Op::End => Footprint::leads(None, Leads::End),
            Op::Bound { a, .. } => Footprint::of([Some(Area::Slot(a)), None, None], None),
            Op::Index { d, a, .. } => Footprint::two(d, a, d),
            Op::Load { d, base, off } => Footprint::of([Some(Moved { base, off }), None, None], Some(Area::Slot(d))),
            Op::Store { base, off, a } => Footprint::of([Some(Area::Slot(a)), None, None], Some(Moved { base, off })),
            Op::Copy { d, a, n } => Footprint::of([Some(Run(a, n)), None, None], Some(Run(d, n))),
            Op::LoadBlock { d, off, block } => {
                Footprint::of([Some(Block { block, off }), None, None], Some(Like { first: d, block }))
            }
            Op::StoreBlock { a, off, block } => {
                Footprint::of([Some(Like { first: a, block }), None, None], Some(Block { block, off }))
            }
            Op::Restart { d } => Footprint::of([None; 3], Some(Watch(d))),
            Op::RestartAt { base, off } => Footprint::of([None; 3], Some(MovedWatch { base, off })),
            Op::Since { d, a } => Footprint::of([Some(Watch(a)), None, None], Some(Area::Slot(d))),
            Op::FirstScan { d } | Op::ScanTime { d } => Footprint::of([None; 3], Some(Area::Slot(d))),
        }
    }

    /// True for operations that are never marked as run: they only say where to go on.
    pub(super) const fn only_jumps(self) -> bool {
        match self.footprint().leads {
            Leads::On => false,
            Leads::Jump(_) | Leads::Branch(_) | Leads::Back(_) | Leads::End => true,
        }
    }

    /// The slots whose values it takes, as far as they are known beforehand: of a run the first, of what is moved the
    /// offset. A stopwatch is not among them.
    pub(super) fn operands(self) -> impl Iterator<Item = Slot> {
        let Footprint { reads, writes, .. } = self.footprint();
        let value = |area: Area| match area {
            Area::Slot(slot) | Area::Run(slot, _) | Area::Like { first: slot, .. } => Some(slot),
            Area::Watch(_) => None,
            Area::Moved { off, .. } | Area::MovedWatch { off, .. } | Area::Block { off, .. } => Some(off),
        };
        reads.into_iter().flatten().filter_map(value).chain(writes.and_then(Area::offset))
    }

    /// The slot it writes, if it is one and known beforehand.
    pub(crate) const fn target(self) -> Option<Slot> {
        match self.footprint().writes {
            Some(Area::Slot(slot) | Area::Watch(slot)) => Some(slot),
            None => None,
            Some(
                Area::Run(..) | Area::Like { .. } | Area::Moved { .. } | Area::MovedWatch { .. } | Area::Block { .. },
            ) => None,
        }
    }
}
