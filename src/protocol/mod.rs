//! The open protocol (Modbus TCP) without sockets and without a clock: bytes in, bytes out. Which point stands at which number,
//! what a request is answered, and a machine that is served.
//!
//! [`Numbers`] says where a project's points are. A [`Served`] machine runs scan by scan and [answers](Served::answer) requests
//! in between; what clients write it keeps, so that [the session can be replayed](Served::scenario). [`frame`] cuts a stream of
//! bytes into requests. Sockets and the clock are the caller's.

mod codec;
mod frame;
mod numbers;
mod pdu;
mod served;
mod shadow;

pub use codec::Coded;
pub use frame::{Cut, Frame, MOST_OF_A_FRAME, Malformed, frame};
pub use numbers::{MIRROR, Number, Numbers, NumbersError, Table};
pub use pdu::{Exception, Tables, answer};
pub use served::{Arrived, Served, Writable};
pub use shadow::{Apart, Begin, Poll, Sample, Shadow, ShadowError, Shadowed};
