//! Results as values to be shown: text for a terminal, drawings as SVG. The command line decides about colour.

mod drawing;
mod text;

pub use drawing::{Live, Page, beside, draw, terminal};
pub use text::{ledger, verdict};
