//! Results as values to be shown: text for a terminal, drawings as SVG. The command line decides about colour.

mod changed;
mod dialects;
mod drawing;
mod junit;
mod report;
mod said;
mod served;
mod signals;
mod text;
mod timing;
mod told;

pub use changed::{difference, junit as changes_junit, page as changes_page, text as changes_text};
pub use dialects::{dialect, dialect_list, dialects_beside};
pub use drawing::{Live, Page, Row, Tone, Which, beside, draw, networks, pages, rows, terminal};
pub use junit::junit;
pub use report::{Dossier, digest, report};
pub use served::{numbers, shadowed};
pub use signals::{timing_text, vcd};
pub use text::{ledger, recheck, verdict};
pub use timing::{Timing, Track, timing};
pub use told::{measures, stands, told};

/// A document that cannot be written: a name that its format does not allow, or a mistake of ours.
#[derive(Debug, thiserror::Error)]
#[error("it cannot be written: {0}")]
pub struct WriteError(Box<dyn std::error::Error + Send + Sync>);

impl WriteError {
    fn new(error: impl std::error::Error + Send + Sync + 'static) -> WriteError {
        WriteError(Box::new(error))
    }
}

/// The schema of a verdict as JSON (JSON Schema, 2020-12).
#[must_use]
pub fn verdict_schema() -> String {
    let schema = schemars::schema_for!(crate::twin::Verdict);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
