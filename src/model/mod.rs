//! What a project is: units, variables, types, statements and instructions, and what they mean.
//!
//! # The meaning, in short
//!
//! A controller repeats: read the inputs, run the program, publish the outputs. Everything in one scan sees the
//! same time and the same inputs; a write is visible to the logic at once and to the outside at the end of the
//! scan. Time is virtual and exact. Within a scan:
//!
//! - **Structured text** runs its statements in order. `IF` and `CASE` take the first branch that matches; `FOR`
//!   reads its limit and step once and is otherwise the loop one would write by hand: the control variable is
//!   incremented with the wrapping of its type and is left one step past the limit. Both sides of `AND` and `OR`
//!   are evaluated.
//! - **Instruction list** has one current result, typed by what was loaded. A parenthesis defers an operator
//!   until its end. `S` and `R` act only while the current result is TRUE. A call of a function block leaves the
//!   current result as it was; a function's value replaces it. An input operator (`IN timer`) is a call with that
//!   one input.
//! - **Ladder**: networks from top to bottom; in each, power flows from the left rail, elements run in the order of
//!   their columns and from the top within a column, and each wire has one value: TRUE if one of the contacts that
//!   feed it conducts. A coil's write is seen by what runs after it; a jump or return acts where it stands.
//! - **Function block diagram**: networks from top to bottom; in each, a block runs when all that feeds it is known,
//!   ties from the top; a wire that leads back carries the value of the previous evaluation. A value written at an
//!   input is read when the block runs.
//! - **EN and ENO**: with EN FALSE a box does not run, its outputs keep their values, and ENO is FALSE.
//! - **Values** are those of [`Elem`]; integers wrap at their declared width in two's complement, division
//!   truncates towards zero, a remainder has the sign of the dividend, `x MOD 0` is 0 and `x / 0` is a fault.
//!   [`ops`] holds each operator's type rule and effect, [`functions`] those of the standard functions; nothing
//!   else in the crate decides what an operator does.
//! - **Timers, counters, latches and edges are not operators.** They are function blocks in structured text
//!   (`dialect/blocks`), on top of a stopwatch: `RESTART(w)` starts it, `SINCE(w)` reads the time since.
//! - A **fault** (division by zero, index or value out of range, loop limit) ends the scan at its place; the
//!   outputs keep the values of the last whole scan and the program stays stopped until the power is cycled.
//!
//! This rests on IEC 61131-3, third edition, where that decides, and on the project's own choices where it does
//! not; see `docs/meaning.md`.

mod diagram;
mod edge;
mod expr;
pub mod functions;
mod instr;
pub mod ops;
mod plant;
pub mod sheet;
mod time;
mod tree;
mod types;
mod value;
mod visit;

pub use diagram::{
    Block, CoilForm, ContactForm, Drive, Element, ElementKind, Feed, InPin, Network, OutPin, Spot, Users, Wire, joined,
    usage,
};
pub use edge::Edge;
pub use instr::{FunctionForm, Instr, InstrKind, When};
pub use plant::{Plant, PlantSettings, Sensor};
pub use time::{Duration, Instant, ScanNumber};
pub use tree::*;
pub use types::{Elem, Family, IntShape, Outside};
pub use value::{Value, format_duration};
pub use visit::{Mention, Walk, each_statement, each_statement_mut};
