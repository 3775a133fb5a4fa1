//! Drawings as text: what ladder and function block diagram share.
//!
//! A drawing is made of lines of characters, in the standard's semigraphic manner:
//!
//! - `-` and `|` are wires, `+` joins them. Where `|` runs between two `-`, the wires cross without touching.
//!   Box-drawing characters are read as the plain ones.
//! - `| |` `|/|` `|P|` `|N|` are contacts, `|>=|` (and the other comparisons) compares what stands above with what
//!   stands below; `( )` `(/)` `(S)` `(R)` `(P)` `(N)` are coils. A name stands on the line above.
//! - A box is a rectangle of `+`, `-` and `|`. A word that touches its left side is an input, one that touches its right
//!   side an output, one that touches neither the function or type; an instance's name stands above. `o` between a
//!   wire and a box negates.
//! - A value or variable stands at the end of a wire: `T#20s --+PT`, `ET+-- Elapsed`.
//! - `>>label` jumps, `<RETURN>` returns. `>1>` at the right end of a wire goes on where `>1>` stands at the left end of
//!   one. A line of `~` cuts a drawing that is too wide; what is below runs after what is above.
//! - A name and a colon on a line of their own label the network below; comments above it are its title. A blank line
//!   or a comment ends a network.

mod body;
mod canvas;
mod join;
pub(crate) mod layout;
mod mend;
pub(crate) mod order;
pub(crate) mod paint;
mod parts;
mod place;
mod read;

pub(crate) use body::{Drawn, declarations, networks as body};
pub(crate) use paint::networks as write;
use read::networks as read;

/// Which of the two a drawing is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Style {
    /// Rails, contacts and coils; several contacts may feed one wire.
    Ladder,
    /// Boxes only; one output feeds one wire.
    Blocks,
}

impl Style {
    /// The language that is drawn so.
    pub(crate) const fn language(self) -> super::Language {
        match self {
            Style::Ladder => super::Language::Ld,
            Style::Blocks => super::Language::Fbd,
        }
    }
}
