//! What a run has seen of a program: of each operation its outcomes, and how close comparisons came.
//!
//! A condition counts as tried when each of its operands has decided it alone (the tables of MC/DC, operator by
//! operator); a branch when it was taken and when it was not.

use super::Machine;
use super::op::Op;
use crate::source::Span;

/// Outcomes of operations, by their numbers.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub(crate) struct Seen {
    /// A bit for each outcome.
    pub(crate) outcomes: Vec<u8>,
    /// Of comparisons: 65 less the bits of the smallest distance between the two sides; 0 if never compared.
    pub(crate) near: Vec<u8>,
}

const fn bit(a: i64, b: i64) -> u8 {
    1 << (((a != 0) as u8) << 1 | (b != 0) as u8)
}

impl Seen {
    pub(crate) fn new(operations: usize) -> Seen {
        Seen { outcomes: vec![0; operations], near: vec![0; operations] }
    }

    #[inline(always)]
    pub(super) fn look(&mut self, m: &[i64], at: usize, op: Op) {
        let get = |slot: u32| m[slot as usize];
        self.outcomes[at] |= match op {
            Op::And { a, b, .. }
            | Op::Or { a, b, .. }
            | Op::Xor { a, b, .. }
            | Op::AndNot { a, b, .. }
            | Op::OrNot { a, b, .. } => bit(get(a), get(b)),
            Op::Eq { a, b, .. }
            | Op::Ne { a, b, .. }
            | Op::Lt { a, b, .. }
            | Op::Le { a, b, .. }
            | Op::LtUnsigned { a, b, .. }
            | Op::LeUnsigned { a, b, .. }
            | Op::Min { a, b, .. }
            | Op::Max { a, b, .. } => {
                let (a, b) = (get(a), get(b));
                let near = 1 + a.abs_diff(b).leading_zeros() as u8;
                self.near[at] = self.near[at].max(near);
                1 << (a.cmp(&b) as i8 + 1)
            }
            Op::JumpIf { c, .. } | Op::JumpUnless { c, .. } | Op::MoveIf { c, .. } => 1 << u8::from(get(c) != 0),
            Op::Move { a, .. } | Op::NotBool { a, .. } => 1 << u8::from(get(a) != 0),
            Op::Add { .. }
            | Op::Sub { .. }
            | Op::Mul { .. }
            | Op::Div { .. }
            | Op::Mod { .. }
            | Op::Real { .. }
            | Op::ScaleTime { .. }
            | Op::Shift { .. }
            | Op::One { .. }
            | Op::Jump { .. }
            | Op::Back { .. }
            | Op::Bound { .. }
            | Op::Index { .. }
            | Op::Load { .. }
            | Op::Store { .. }
            | Op::Copy { .. }
            | Op::LoadBlock { .. }
            | Op::StoreBlock { .. }
            | Op::Restart { .. }
            | Op::RestartAt { .. }
            | Op::Since { .. }
            | Op::FirstScan { .. }
            | Op::ScanTime { .. }
            | Op::Ticks { .. }
            | Op::Text { .. }
            | Op::Cut { .. }
            | Op::End => 1,
        };
    }

    /// Adds what another has seen; true if any outcome was new, or a comparison came closer.
    pub(crate) fn learn(&mut self, other: &Seen) -> bool {
        let mut news = false;
        for (mine, theirs) in self.outcomes.iter_mut().zip(&other.outcomes) {
            news |= *mine | *theirs != *mine;
            *mine |= *theirs;
        }
        for (mine, theirs) in self.near.iter_mut().zip(&other.near) {
            news |= *mine < *theirs;
            *mine = (*mine).max(*theirs);
        }
        news
    }
}

/// What there is to see at one place.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, serde::Serialize, serde::Deserialize, schemars::JsonSchema,
)]
#[serde(rename_all = "lowercase")]
pub enum Want {
    /// The statement or instruction runs.
    Runs,
    /// The condition is TRUE, or FALSE.
    Is(bool),
    /// The left operand alone keeps it from being what it would be without it.
    Left,
    /// The right operand alone does.
    Right,
    /// The branch is taken, or not.
    Branch(bool),
}

/// One thing there is to see.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Goal {
    /// The statement or instruction.
    pub(crate) span: Span,
    /// The expression; in a shipped block, a place in its text.
    pub(crate) expr: Span,
    pub(crate) want: Want,
    /// Inside a block that is shipped.
    pub(crate) inside: bool,
    first: u32,
    /// One more than the last operation of it.
    end: u32,
    mask: u8,
}

impl Goal {
    pub(crate) fn is_met(&self, seen: &Seen) -> bool {
        seen.outcomes[self.first as usize..self.end as usize].iter().any(|o| o & self.mask != 0)
    }
}

impl Machine {
    /// Everything there is to see, in the order of the tape: statements first, then conditions and branches.
    pub(crate) fn goals(&self) -> Vec<Goal> {
        let tape = &self.tape;
        let mut out: Vec<Goal> = Vec::new();
        let end = tape.own_end as usize;
        let mut statements = std::collections::BTreeMap::new();
        for (at, op) in tape.code[..end].iter().enumerate() {
            let span = tape.spans[at];
            if !op.only_jumps() && !crate::dialect::is_built_in(span.file) {
                statements.entry(span).or_insert((at, at)).1 = at;
            }
        }
        for (span, (first, last)) in statements {
            let (first, end) = (first as u32, last as u32 + 1);
            out.push(Goal { span, expr: span, want: Want::Runs, inside: false, first, end, mask: 0xff });
        }
        let decides = tape.decides();
        for (at, op) in tape.code[..end].iter().enumerate() {
            let asked = tape.asked[at];
            // What is constant, as a box right at the rail, has nothing to decide.
            if !asked.logical || !decides[at] || crate::dialect::is_built_in(tape.spans[at].file) {
                continue;
            }
            let inside = crate::dialect::is_built_in(asked.span.file);
            for (want, mask) in wants(*op) {
                let (first, end) = (at as u32, at as u32 + 1);
                out.push(Goal { span: tape.spans[at], expr: asked.span, want: *want, inside, first, end, mask: *mask });
            }
        }
        out
    }

    /// Slots of step variables.
    pub(crate) fn steps(&self) -> Vec<u32> {
        let named = self.points.iter().filter(|p| matches!(p.ty, super::PointType::Enum(_))).map(|p| p.slot);
        let mut out: Vec<u32> = self.tape.selectors.iter().copied().chain(named).collect();
        out.sort_unstable();
        out.dedup();
        out
    }
}

/// Outcomes that a condition has to show, each with its bits.
const fn wants(op: Op) -> &'static [(Want, u8)] {
    match op {
        Op::And { .. } => &[(Want::Is(true), 8), (Want::Left, 2), (Want::Right, 4)],
        Op::Or { .. } => &[(Want::Is(false), 1), (Want::Left, 4), (Want::Right, 2)],
        Op::AndNot { .. } => &[(Want::Is(true), 4), (Want::Left, 1), (Want::Right, 8)],
        Op::OrNot { .. } => &[(Want::Is(false), 2), (Want::Left, 8), (Want::Right, 1)],
        Op::Xor { .. } => &[(Want::Is(false), 9), (Want::Left, 4), (Want::Right, 2)],
        Op::Lt { .. } | Op::LtUnsigned { .. } => &[(Want::Is(true), 1), (Want::Is(false), 6)],
        Op::Le { .. } | Op::LeUnsigned { .. } => &[(Want::Is(true), 3), (Want::Is(false), 4)],
        Op::Eq { .. } => &[(Want::Is(true), 2), (Want::Is(false), 5)],
        Op::Ne { .. } => &[(Want::Is(true), 5), (Want::Is(false), 2)],
        Op::Move { .. } => &[(Want::Is(true), 2), (Want::Is(false), 1)],
        Op::NotBool { .. } => &[(Want::Is(true), 1), (Want::Is(false), 2)],
        Op::JumpIf { .. } | Op::JumpUnless { .. } => &[(Want::Branch(true), 2), (Want::Branch(false), 1)],
        Op::MoveIf { .. }
        | Op::Min { .. }
        | Op::Max { .. }
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
        | Op::Back { .. }
        | Op::Bound { .. }
        | Op::Index { .. }
        | Op::Load { .. }
        | Op::Store { .. }
        | Op::Copy { .. }
        | Op::LoadBlock { .. }
        | Op::StoreBlock { .. }
        | Op::Restart { .. }
        | Op::RestartAt { .. }
        | Op::Since { .. }
        | Op::FirstScan { .. }
        | Op::ScanTime { .. }
        | Op::Ticks { .. }
        | Op::Text { .. }
        | Op::Cut { .. }
        | Op::End => &[],
    }
}
