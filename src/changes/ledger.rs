//! Entries of the ledger of a translation or a migration, beside the networks to which they belong.

use super::tree::Node;
use super::{Both, LedgerLine};
use crate::dialect;
use crate::lang::{Form, Language};
use crate::model::sheet::Library;
use crate::source::Span;
use crate::translate::{Entry, Mode, migrate, translate};
use std::collections::HashMap;
use std::sync::Arc;

/// What our own translation of the left says, by language: once for each that is needed.
#[derive(Default)]
pub(super) struct Ledgers(HashMap<Language, Vec<Entry>>);

impl Ledgers {
    /// What is not one to one of a unit on its way to the language and the conventions of the right.
    pub(super) fn of(&mut self, both: &Both<'_>, unit: &str, nodes: &[Node], to: Language) -> Vec<LedgerLine> {
        let project = both.sides[0].project();
        let entries = self.0.entry(to).or_insert_with(|| entries(both, to));
        let own = entries.iter().filter(|entry| entry.unit.eq_ignore_ascii_case(unit));
        own.map(|entry| LedgerLine {
            code: entry.code.to_string(),
            grade: entry.grade.word().to_string(),
            place: project.place(entry.source),
            network: network(nodes, entry.source),
            reason: entry.reason.clone(),
        })
        .collect()
    }
}

/// Whether both sides are written by different sheets.
pub(super) fn is_migration(both: &Both<'_>) -> bool {
    let name = |side: usize| both.sides[side].project().library.as_ref().map(|library| library.sheet.name.clone());
    name(0) != name(1)
}

fn entries(both: &Both<'_>, to: Language) -> Vec<Entry> {
    let left = both.sides[0];
    if !is_migration(both) {
        return translate(left, to).map_or_else(|_| Vec::new(), |translation| translation.ledger);
    }
    let own: Option<Arc<Library>> = both.sides[1].project().library.clone();
    let Some(target) = own.or_else(|| dialect::library("iec")) else { return Vec::new() };
    let migration = migrate(left, &target, (to, Form::Text(to)), Mode::Native, None);
    migration.map_or_else(|_| Vec::new(), |migration| migration.translation.ledger)
}

/// The network, counted from 1, in which a place lies.
fn network(nodes: &[Node], place: Span) -> Option<usize> {
    let holds = |span: &Span| span.file == place.file && span.start <= place.start && place.end <= span.end;
    nodes.iter().find(|node| node.spans().iter().any(holds)).map(|node| node.network + 1)
}
