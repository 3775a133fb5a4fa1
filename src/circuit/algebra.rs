//! What a bit may be: anything that can be joined by AND, OR, XOR and NOT.

use super::net::Whole;
use super::words::Word;

/// An algebra of bits. Machine words make it run many scenarios at a time; literals of a graph make it a circuit
/// that can be proved about.
pub(crate) trait Algebra {
    /// A bit.
    type Bit: Copy;

    fn constant(&mut self, value: bool) -> Self::Bit;
    /// True if a bit is surely of this value.
    fn is_constant(&self, a: Self::Bit, value: bool) -> bool;
    fn not(&mut self, a: Self::Bit) -> Self::Bit;
    fn and(&mut self, a: Self::Bit, b: Self::Bit) -> Self::Bit;

    fn or(&mut self, a: Self::Bit, b: Self::Bit) -> Self::Bit {
        let (a, b) = (self.not(a), self.not(b));
        let neither = self.and(a, b);
        self.not(neither)
    }

    fn xor(&mut self, a: Self::Bit, b: Self::Bit) -> Self::Bit {
        let (not_a, not_b) = (self.not(a), self.not(b));
        let (left, right) = (self.and(a, not_b), self.and(not_a, b));
        self.or(left, right)
    }

    /// `a` if `c`, else `b`.
    fn mux(&mut self, c: Self::Bit, a: Self::Bit, b: Self::Bit) -> Self::Bit {
        let not = self.not(c);
        let (left, right) = (self.and(c, a), self.and(not, b));
        self.or(left, right)
    }

    /// The value of a function that is not taken apart, or whether it fails.
    fn whole(&mut self, f: Whole, fails: bool, a: Word<'_, Self::Bit>, b: Word<'_, Self::Bit>, d: &mut [Self::Bit]);
}
