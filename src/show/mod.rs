//! Results as values to be shown: text for a terminal, drawings as SVG. The command line decides about colour.

mod dialects;
mod drawing;
mod text;
mod timing;

pub use dialects::{dialect, dialect_list, dialects_beside};
pub use drawing::{Live, Page, beside, draw, terminal};
pub use text::{ledger, verdict};
pub use timing::{Timing, Track, timing};
