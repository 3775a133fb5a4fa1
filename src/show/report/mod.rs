//! The report to hand over: one page that needs nothing else, verdict first.

mod content;

use super::WriteError;
use crate::changes::Changes;
use crate::translate::Entry;
use crate::twin::script::Failure;
use crate::twin::{Twin, Verdict};
use serde::Serialize;
use sha2::{Digest, Sha256};

/// What a report has beside the verdict.
#[derive(Clone, Debug, Default)]
pub struct Dossier {
    /// What stands above.
    pub title: String,
    /// When it was made, as it shall stand there; the library has no clock.
    pub date: Option<String>,
    /// Name and version of what made it.
    pub tool: String,
    /// How it was called.
    pub call: String,
    /// Entries of a ledger.
    pub ledger: Vec<Entry>,
    /// What changed between both texts, with the entries of a ledger where they are in two languages or dialects.
    pub changes: Option<Changes>,
    /// A map of addresses, as CSV.
    pub map: Option<String>,
    /// Expectations of scenarios that were played: how many were asked, and those not met.
    pub asked: usize,
    /// Those not met.
    pub failures: Vec<Failure>,
}

/// A version as a report names it.
#[derive(Clone, Debug, Serialize)]
struct Named {
    name: String,
    /// Files and the digests of their texts.
    files: Vec<[String; 2]>,
}

/// A report as HTML.
///
/// # Errors
/// If the page cannot be made, which is a mistake of ours.
pub fn report(twin: &Twin<'_>, verdict: &Verdict, dossier: &Dossier) -> Result<String, WriteError> {
    let mut environment = minijinja::Environment::new();
    environment.set_auto_escape_callback(|_| minijinja::AutoEscape::Html);
    environment.add_template("page", include_str!("page.html")).map_err(WriteError::new)?;
    let page = environment.get_template("page").map_err(WriteError::new)?;
    page.render(minijinja::value::Serde(content::content(twin, verdict, dossier))).map_err(WriteError::new)
}

/// SHA-256 of a text, as 64 hexadecimal digits.
#[must_use]
pub fn digest(text: &str) -> String {
    Sha256::digest(text.as_bytes()).iter().map(|byte| format!("{byte:02x}")).collect()
}

fn named(version: &crate::twin::Version) -> Named {
    let files = version.checked.project().sources.iter().map(|s| [s.name.clone(), digest(&s.text)]);
    Named { name: version.name.clone(), files: files.collect() }
}
