//! What may be so all at once: bits of registers, and bounds of numbers.

use super::facts::{constant, whole, word};
use super::system::System;
use crate::circuit::{Algebra, Bit, less};

/// One thing that may be so. Registers are numbers into the plan; bounds are counted in their units.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Literal {
    /// A bit of a register is this.
    Bit { register: usize, at: u8, is: bool },
    /// A number is so much or more.
    Least { register: usize, c: i64 },
    /// A number is so much or less.
    Most { register: usize, c: i64 },
}

impl Literal {
    pub(super) fn register(&self) -> usize {
        match *self {
            Literal::Bit { register, .. } | Literal::Least { register, .. } | Literal::Most { register, .. } => {
                register
            }
        }
    }

    fn holds(&self, value: i64) -> bool {
        match *self {
            // What is stored is sign-extended, so that bits behind its width are those of its sign.
            Literal::Bit { at, is, .. } => (value >> at & 1 == 1) == is,
            Literal::Least { c, .. } => value >= c,
            Literal::Most { c, .. } => value <= c,
        }
    }

    /// Whether another one is so wherever this one is.
    fn implies(self, other: Literal) -> bool {
        match (self, other) {
            (Literal::Least { register, c }, Literal::Least { register: of, c: least }) => register == of && c >= least,
            (Literal::Most { register, c }, Literal::Most { register: of, c: most }) => register == of && c <= most,
            (Literal::Bit { .. } | Literal::Least { .. } | Literal::Most { .. }, _) => self == other,
        }
    }

    /// The same of registers that have other numbers.
    fn renumbered(self, to: &[usize]) -> Literal {
        match self {
            Literal::Bit { register, at, is } => Literal::Bit { register: to[register], at, is },
            Literal::Least { register, c } => Literal::Least { register: to[register], c },
            Literal::Most { register, c } => Literal::Most { register: to[register], c },
        }
    }

    /// As a bit, over the bits of each register.
    pub(super) fn bit(self, g: &mut impl Algebra<Bit = Bit>, system: &System, bits: &[Vec<Bit>]) -> Bit {
        match self {
            Literal::Bit { register, at, is } => bits[register][usize::from(at)].flip(!is),
            Literal::Least { register, c } => less(g, word(system, bits, register), whole(&constant(c, 64))).not(),
            Literal::Most { register, c } => less(g, whole(&constant(c, 64)), word(system, bits, register)).not(),
        }
    }
}

/// Several of them, all at once; in order, each once.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Cube(Vec<Literal>);

impl Cube {
    pub(super) fn new(mut literals: Vec<Literal>) -> Cube {
        literals.sort_unstable();
        literals.dedup();
        Cube(literals)
    }

    pub(super) fn literals(&self) -> &[Literal] {
        &self.0
    }

    /// Whether all of it is so.
    pub(super) fn holds(&self, value: impl Fn(usize) -> i64) -> bool {
        self.0.iter().all(|literal| literal.holds(value(literal.register())))
    }

    pub(super) fn renumbered(&self, to: &[usize]) -> Cube {
        Cube::new(self.0.iter().map(|literal| literal.renumbered(to)).collect())
    }

    pub(super) fn registers(&self) -> impl Iterator<Item = usize> {
        self.0.iter().map(Literal::register)
    }

    /// Without one of its literals.
    pub(super) fn without(&self, at: usize) -> Cube {
        let others = self.0.iter().enumerate().filter(|(n, _)| *n != at);
        Cube(others.map(|(_, literal)| *literal).collect())
    }

    /// Whether whatever is in the other is in this one, as far as the literals tell.
    pub(super) fn contains(&self, other: &Cube) -> bool {
        self.0.iter().all(|mine| other.0.iter().any(|theirs| theirs.implies(*mine)))
    }

    pub(super) fn bit(&self, g: &mut impl Algebra<Bit = Bit>, system: &System, bits: &[Vec<Bit>]) -> Bit {
        self.0.iter().fold(Bit::TRUE, |all, literal| {
            let bit = literal.bit(g, system, bits);
            g.and(all, bit)
        })
    }
}
