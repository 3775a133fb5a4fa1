//! Results as values to be shown: text for a terminal, drawings as SVG. The command line decides about colour.

mod breach;
mod dialects;
mod drawing;
mod junit;
mod report;
mod signals;
mod text;
mod timing;

pub use dialects::{dialect, dialect_list, dialects_beside};
pub use drawing::{Live, Page, beside, draw, terminal};
pub use junit::junit;
pub use report::{Dossier, digest, report};
pub use signals::{timing_text, vcd};
pub use text::{ledger, recheck, verdict};
pub use timing::{Timing, Track, timing};

/// The schema of a verdict as JSON (JSON Schema, 2020-12).
#[must_use]
pub fn verdict_schema() -> String {
    let schema = schemars::schema_for!(crate::twin::Verdict);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
