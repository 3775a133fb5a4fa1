//! One scan as a circuit: the same meaning as the tape's, laid out as gates over bits.
//!
//! A program is followed once, along all its paths ([`build`](self)); what is found is a net of gates over whole
//! numbers with registers between scans. Ranges and units say how few bits each number needs, and the bits may be
//! anything that knows AND, OR and NOT: machine words run many scenarios at a time ([`Lanes`]), literals of an
//! and-inverter graph make what a proof is about.
//!
//! What the circuit finds is never reported as it is: the tape has to show it again.

mod algebra;
mod branch;
mod build;
mod cap;
mod cone;
mod effects;
#[cfg(test)]
mod flaws;
mod graph;
mod influence;
#[cfg(test)]
mod joined;
mod known;
mod lanes;
mod memory;
mod net;
mod piece;
mod plan;
mod planes;
mod quotient;
mod range;
mod registers;
#[cfg(test)]
mod sound;
mod unit;
mod verify;
mod words;

pub(crate) use algebra::Algebra;
pub use build::Unfit;
pub(crate) use build::{Passing, Probed, Scanned, Standing, Unread, add_version};
pub(crate) use cone::Cone;
pub(crate) use graph::{Bit, Graph};
pub(crate) use influence::influenced;
pub(crate) use lanes::limits;
pub use lanes::{LANES, Lanes};
pub(crate) use net::{Gate, InputId, Net, Node, RegId, Role, Whole};
#[cfg(test)]
pub(crate) use net::{Rewrite, watched};
pub(crate) use plan::{Act, Place, Plan, Step, plan};
pub(crate) use planes::{ALL, NONE, Plane, Planes, Simulator, bit, set_bit, to_bits, to_numbers};
pub(crate) use quotient::undivided;
pub(crate) use words::{Word, add, begin, equal, less, mul, run, run_all, run_while, within};
