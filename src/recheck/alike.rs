//! Latches that are the same wherever the facts hold: a fact may say just that, and then both are one literal.

use super::read::Aig;
use super::solve::{Lit, Questions};

/// What stands for a latch: another one, or itself, or FALSE (none); and whether inverted.
type End = (Option<usize>, bool);

/// Of each latch what stands for it.
pub(super) struct Alike(Vec<End>);

impl Alike {
    /// Reads off the facts of a graph what is the same.
    pub(super) fn new(aig: &Aig) -> Alike {
        let mut out = Alike((0..aig.latches.len()).map(|n| (Some(n), false)).collect());
        for output in &aig.outputs {
            if let Some((a, b)) = apart(aig, *output) {
                out.join(a, b);
            }
        }
        out
    }

    /// What stands for a latch in the end.
    pub(super) fn of(&self, latch: usize) -> End {
        let (mut at, mut inverted) = (latch, false);
        loop {
            match self.0[at] {
                (None, flip) => return (None, inverted ^ flip),
                (Some(next), flip) if next == at => return (Some(at), inverted ^ flip),
                (Some(next), flip) => (at, inverted) = (next, inverted ^ flip),
            }
        }
    }

    /// A literal for each latch; those that are the same have one.
    pub(super) fn literals(&self, questions: &mut Questions) -> Vec<Lit> {
        let own: Vec<Lit> = self.0.iter().map(|_| questions.fresh()).collect();
        (0..own.len())
            .map(|latch| match self.of(latch) {
                (Some(end), flip) => own[end].flip(flip),
                (None, flip) => Lit::FALSE.flip(flip),
            })
            .collect()
    }

    /// Two are the same: each a latch, or FALSE, perhaps inverted.
    fn join(&mut self, a: End, b: End) {
        let end = |(latch, flip): End| match latch {
            Some(latch) => {
                let (end, inverted) = self.of(latch);
                (end, inverted ^ flip)
            }
            None => (None, flip),
        };
        // The later one is the earlier one; a contradiction is left to the solver.
        let (low, high) = match (end(a), end(b)) {
            (low @ (x, _), high @ (y, _)) if x < y => (low, high),
            (high @ (x, _), low @ (y, _)) if y < x => (low, high),
            _ => return,
        };
        if let (Some(latch), flip) = high {
            self.0[latch] = (low.0, low.1 ^ flip);
        }
    }
}

/// What is the same where a literal is FALSE: it is a latch, or an exclusive OR of two.
fn apart(aig: &Aig, literal: u32) -> Option<(End, End)> {
    let latch = |literal: u32| {
        let number = ((literal >> 1) as usize).checked_sub(1 + aig.inputs)?;
        (number < aig.latches.len()).then_some((Some(number), literal & 1 == 1))
    };
    if let Some(bit) = latch(literal) {
        return Some((bit, (None, false)));
    }
    let reads = |literal: u32| aig.gates.get(((literal >> 1) as usize).checked_sub(aig.first_gate())?).copied();
    // Either is `a AND b`, with `NOT a AND NOT b` beside it, and both are FALSE: then `a` is the opposite of `b`; or
    // that is inverted.
    let [x, y] = reads(literal)?;
    if x & 1 == 0 || y & 1 == 0 {
        return None;
    }
    let ([a, b], [c, d]) = (reads(x)?, reads(y)?);
    let crossed = (a == c ^ 1 && b == d ^ 1) || (a == d ^ 1 && b == c ^ 1);
    // The literal is TRUE where a and b differ, or, inverted, where they are the same.
    let ((a, flip), b) = (latch(a)?, latch(b)?);
    crossed.then_some(((a, flip ^ (literal & 1 == 1)), b))
}
