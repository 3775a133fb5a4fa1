//! A scan over planes, compiled for the widest registers that the processor has.

use super::algebra::Algebra;
use super::known::Known;
use super::plan::Plan;
use super::planes::{Plane, Planes};
use super::words;
use pulp::{Arch, Simd, WithSimd, cast};

/// Computes all steps of a plan, whose operands are known as said.
pub(super) fn compute(plan: &Plan, known: &[Option<Known>], bits: &mut [Plane]) {
    #[cfg(any(target_arch = "x86", target_arch = "x86_64"))]
    if let Arch::V4(simd) = Arch::new() {
        Simd::vectorize(simd, Computing { algebra: Registers(*simd), plan, known, bits });
    } else if let Arch::V3(simd) = Arch::new() {
        Simd::vectorize(simd, Computing { algebra: Registers(simd), plan, known, bits });
    } else {
        words::run_each(&mut Planes, plan, bits, &known);
    }
    #[cfg(not(any(target_arch = "x86", target_arch = "x86_64")))]
    Arch::new().dispatch(Computing { algebra: Planes, plan, known, bits });
}

/// A scan and what joins its planes.
struct Computing<'s, A> {
    algebra: A,
    plan: &'s Plan,
    known: &'s [Option<Known>],
    bits: &'s mut [Plane],
}

impl<A: Algebra<Bit = Plane>> WithSimd for Computing<'_, A> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(mut self, _: S) {
        words::run_each(&mut self.algebra, self.plan, self.bits, &self.known);
    }
}

/// Planes as an algebra, each in one register of 256 bits. That it stays there is not left to the compiler, which takes a plane apart
/// into its four numbers in some loops.
#[cfg(any(target_arch = "x86", target_arch = "x86_64"))]
struct Registers(pulp::x86::V3);

#[cfg(any(target_arch = "x86", target_arch = "x86_64"))]
impl Algebra for Registers {
    type Bit = Plane;

    #[inline(always)]
    fn constant(&mut self, value: bool) -> Plane {
        Planes.constant(value)
    }

    #[inline(always)]
    fn is_constant(&self, a: Plane, value: bool) -> bool {
        Planes.is_constant(a, value)
    }

    #[inline(always)]
    fn not(&mut self, a: Plane) -> Plane {
        self.xor(a, super::planes::ALL)
    }

    #[inline(always)]
    fn and(&mut self, a: Plane, b: Plane) -> Plane {
        cast!(self.0.and_u64x4(cast!(a), cast!(b)))
    }

    #[inline(always)]
    fn or(&mut self, a: Plane, b: Plane) -> Plane {
        cast!(self.0.or_u64x4(cast!(a), cast!(b)))
    }

    #[inline(always)]
    fn xor(&mut self, a: Plane, b: Plane) -> Plane {
        cast!(self.0.xor_u64x4(cast!(a), cast!(b)))
    }

    #[inline(always)]
    fn mux(&mut self, c: Plane, a: Plane, b: Plane) -> Plane {
        let either = self.xor(a, b);
        let chosen = self.and(either, c);
        self.xor(chosen, b)
    }

    #[inline(always)]
    fn whole(
        &mut self,
        f: super::net::Whole,
        fails: bool,
        a: words::Word<'_, Plane>,
        b: words::Word<'_, Plane>,
        d: &mut [Plane],
    ) {
        Planes.whole(f, fails, a, b, d);
    }
}
