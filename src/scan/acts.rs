//! The operations that only combine numbers in memory, or look at the clock: they are never a fault, and lead to the next one. Each is a
//! type, so that two of them can be made one step ([`fused`](super::fused)).

use super::op::{Op, Slot};
use crate::model::IntShape;
use crate::model::ops;

/// One of these operations: what it does to memory. Of `[d, a, b]` the first is written; an operation of one operand has it twice.
pub(super) trait Act {
    fn act(memory: &mut [i64], slots: [Slot; 3], now: i64);
}

/// The shapes that most programs reckon in; sums and products of the others are done one by one.
const INT: IntShape = IntShape { bits: 16, signed: true };
const DINT: IntShape = IntShape { bits: 32, signed: true };

/// A slot's content.
#[inline(always)]
fn at(memory: &[i64], slot: Slot) -> i64 {
    memory[slot as usize]
}

/// The operations, each with its value: of one operand, of two, or of the time.
macro_rules! acts {
    ($($name:ident: |$memory:ident, $a:ident, $b:ident, $now:ident| $value:expr;)*) => {
        $(
            pub(super) struct $name;

            impl Act for $name {
                #[inline(always)]
                fn act($memory: &mut [i64], [d, $a, $b]: [Slot; 3], $now: i64) {
                    $memory[d as usize] = $value;
                }
            }
        )*

        /// Which of them an operation is.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub(super) enum Kind {
            $($name,)*
        }

        impl Kind {
            /// What a user makes of the type that stands for it.
            pub(super) fn chosen<C: Choose>(self, choose: C) -> C::Chosen {
                match self {
                    $(Kind::$name => choose.of::<$name>(),)*
                }
            }
        }
    };
}

/// What is made of the type of an operation that is only known while running.
pub(super) trait Choose {
    type Chosen;
    fn of<A: Act>(self) -> Self::Chosen;
}

acts! {
    Move: |m, a, _b, _now| at(m, a);
    NotBool: |m, a, _b, _now| at(m, a) ^ 1;
    And: |m, a, b, _now| at(m, a) & at(m, b);
    Or: |m, a, b, _now| at(m, a) | at(m, b);
    Xor: |m, a, b, _now| at(m, a) ^ at(m, b);
    AndNot: |m, a, b, _now| at(m, a) & (at(m, b) ^ 1);
    OrNot: |m, a, b, _now| at(m, a) | (at(m, b) ^ 1);
    Eq: |m, a, b, _now| i64::from(at(m, a) == at(m, b));
    Ne: |m, a, b, _now| i64::from(at(m, a) != at(m, b));
    Lt: |m, a, b, _now| i64::from(ops::less(IntShape::LONG, at(m, a), at(m, b)));
    Le: |m, a, b, _now| i64::from(!ops::less(IntShape::LONG, at(m, b), at(m, a)));
    LtUnsigned: |m, a, b, _now| i64::from(ops::less(IntShape::WHOLE, at(m, a), at(m, b)));
    LeUnsigned: |m, a, b, _now| i64::from(!ops::less(IntShape::WHOLE, at(m, b), at(m, a)));
    AddInt: |m, a, b, _now| ops::add(INT, at(m, a), at(m, b));
    AddDint: |m, a, b, _now| ops::add(DINT, at(m, a), at(m, b));
    AddLong: |m, a, b, _now| ops::add(IntShape::LONG, at(m, a), at(m, b));
    SubInt: |m, a, b, _now| ops::sub(INT, at(m, a), at(m, b));
    SubDint: |m, a, b, _now| ops::sub(DINT, at(m, a), at(m, b));
    SubLong: |m, a, b, _now| ops::sub(IntShape::LONG, at(m, a), at(m, b));
    MulInt: |m, a, b, _now| ops::mul(INT, at(m, a), at(m, b));
    MulDint: |m, a, b, _now| ops::mul(DINT, at(m, a), at(m, b));
    Min: |m, a, b, _now| at(m, a).min(at(m, b));
    Max: |m, a, b, _now| at(m, a).max(at(m, b));
    Since: |m, a, _b, now| now - at(m, a);
    Restart: |m, _a, _b, now| now;
}

/// The kind of an operation and its slots, if it is one of these.
pub(super) const fn kind(op: Op) -> Option<(Kind, [Slot; 3])> {
    Some(match op {
        Op::Move { d, a } => (Kind::Move, [d, a, a]),
        Op::NotBool { d, a } => (Kind::NotBool, [d, a, a]),
        Op::And { d, a, b } => (Kind::And, [d, a, b]),
        Op::Or { d, a, b } => (Kind::Or, [d, a, b]),
        Op::Xor { d, a, b } => (Kind::Xor, [d, a, b]),
        Op::AndNot { d, a, b } => (Kind::AndNot, [d, a, b]),
        Op::OrNot { d, a, b } => (Kind::OrNot, [d, a, b]),
        Op::Eq { d, a, b } => (Kind::Eq, [d, a, b]),
        Op::Ne { d, a, b } => (Kind::Ne, [d, a, b]),
        Op::Lt { d, a, b } => (Kind::Lt, [d, a, b]),
        Op::Le { d, a, b } => (Kind::Le, [d, a, b]),
        Op::LtUnsigned { d, a, b } => (Kind::LtUnsigned, [d, a, b]),
        Op::LeUnsigned { d, a, b } => (Kind::LeUnsigned, [d, a, b]),
        Op::Add { s: INT, d, a, b } => (Kind::AddInt, [d, a, b]),
        Op::Add { s: DINT, d, a, b } => (Kind::AddDint, [d, a, b]),
        Op::Add { s: IntShape::LONG, d, a, b } => (Kind::AddLong, [d, a, b]),
        Op::Sub { s: INT, d, a, b } => (Kind::SubInt, [d, a, b]),
        Op::Sub { s: DINT, d, a, b } => (Kind::SubDint, [d, a, b]),
        Op::Sub { s: IntShape::LONG, d, a, b } => (Kind::SubLong, [d, a, b]),
        Op::Mul { s: INT, d, a, b } => (Kind::MulInt, [d, a, b]),
        Op::Mul { s: DINT, d, a, b } => (Kind::MulDint, [d, a, b]),
        Op::Min { d, a, b } => (Kind::Min, [d, a, b]),
        Op::Max { d, a, b } => (Kind::Max, [d, a, b]),
        Op::Since { d, a } => (Kind::Since, [d, a, a]),
        Op::Restart { d } => (Kind::Restart, [d, d, d]),
        Op::MoveIf { .. }
        | Op::Add { .. }
        | Op::Sub { .. }
        | Op::Mul { .. }
        | Op::Div { .. }
        | Op::Mod { .. }
        | Op::Real { .. }
        | Op::ScaleTime { .. }
        | Op::Shift { .. }
        | Op::One { .. }
        | Op::Jump { .. }
        | Op::JumpIf { .. }
        | Op::JumpUnless { .. }
        | Op::Back { .. }
        | Op::Bound { .. }
        | Op::Index { .. }
        | Op::Load { .. }
        | Op::Store { .. }
        | Op::Copy { .. }
        | Op::LoadBlock { .. }
        | Op::StoreBlock { .. }
        | Op::RestartAt { .. }
        | Op::FirstScan { .. }
        | Op::ScanTime { .. }
        | Op::Ticks { .. }
        | Op::Text { .. }
        | Op::Cut { .. }
        | Op::End => return None,
    })
}
