//! The map of addresses, old and new: made automatically, written as CSV, edited, and read back.

use crate::source::{RowError, cells};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::collections::hash_map::Entry;

/// One address.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct MapRow {
    /// The address in the source's conventions; empty for a device that was declared there without one.
    pub old: String,
    /// The name it has in the program.
    pub symbol: String,
    /// The comment on it.
    pub comment: String,
    /// The address in the target's conventions; empty if it has none there.
    pub new: String,
    /// Why it went there.
    pub why: String,
}

/// Old and new addresses of a project.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct AddressMap {
    /// One row for each, in the order of the old addresses.
    pub rows: Vec<MapRow>,
}

impl AddressMap {
    /// Reads a map: CSV with the header `old,symbol,comment,new,why`, in any order; `comment` and `why` may be left out.
    ///
    /// # Errors
    /// Every row that is wrong.
    pub fn read(text: &str) -> Result<AddressMap, Vec<RowError>> {
        let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).flexible(true).from_reader(text.as_bytes());
        let headers = match reader.headers() {
            Ok(headers) => headers.clone(),
            Err(error) => return Err(vec![RowError::new(1, error.to_string())]),
        };
        let column = |name: &str| headers.iter().position(|h| h.eq_ignore_ascii_case(name));
        let mut problems = Vec::new();
        for needed in ["old", "symbol", "new"] {
            if column(needed).is_none() {
                problems.push(RowError::new(
                    1,
                    format!("there is no column `{needed}`; the header is old,symbol,comment,new,why"),
                ));
            }
        }
        for header in headers
            .iter()
            .filter(|h| !["old", "symbol", "comment", "new", "why"].iter().any(|k| k.eq_ignore_ascii_case(h)))
        {
            problems.push(RowError::new(1, format!("the column `{header}` means nothing in a map")));
        }
        if !problems.is_empty() {
            return Err(problems);
        }
        let mut rows: Vec<MapRow> = Vec::new();
        // In which row an address stands first, old and new.
        let mut known: [HashMap<String, usize>; 2] = Default::default();
        for (index, record) in reader.records().enumerate() {
            let record = match record {
                Ok(record) => record,
                Err(error) => {
                    problems.push(RowError::new(index as u64 + 2, error.to_string()));
                    continue;
                }
            };
            let line = record.position().map_or(index as u64 + 2, csv::Position::line);
            let cell = |name: &str| column(name).and_then(|c| record.get(c)).unwrap_or("").to_string();
            let row = MapRow {
                old: cell("old"),
                symbol: cell("symbol"),
                comment: cells::plain(&cell("comment")).to_string(),
                new: cell("new"),
                why: cells::plain(&cell("why")).to_string(),
            };
            if row.old.is_empty() && row.symbol.is_empty() {
                problems.push(RowError::new(line, "a row names an old address or a symbol"));
            }
            let [old, new] = &mut known;
            if let Some(first) = again(new, &row.new, rows.len()) {
                problems.push(RowError::new(
                    line,
                    format!("`{}` is given to `{}` already, in row {}", row.new, rows[first].key(), first + 1),
                ));
            }
            if let Some(first) = again(old, &row.old, rows.len()) {
                problems.push(RowError::new(line, format!("`{}` stands in row {} already", row.old, first + 1)));
            }
            rows.push(row);
        }
        if problems.is_empty() { Ok(AddressMap { rows }) } else { Err(problems) }
    }

    /// The map as CSV.
    #[must_use]
    pub fn write(&self) -> String {
        let mut writer = csv::Writer::from_writer(Vec::new());
        let header = writer.write_record(["old", "symbol", "comment", "new", "why"]);
        let rows = self.rows.iter().try_for_each(|r| {
            let [comment, why] = [&r.comment, &r.why].map(|text| cells::guarded(text));
            writer.write_record([&*r.old, &*r.symbol, &*comment, &*r.new, &*why])
        });
        let bytes = header.and(rows).ok().and_then(|()| writer.into_inner().ok());
        bytes.and_then(|b| String::from_utf8(b).ok()).unwrap_or_default()
    }

    /// The way home: new addresses become old ones.
    #[must_use]
    pub fn reversed(&self) -> AddressMap {
        let turn = |r: &MapRow| MapRow {
            old: r.new.clone(),
            new: r.old.clone(),
            symbol: r.symbol.clone(),
            comment: r.comment.clone(),
            why: "where it came from".to_string(),
        };
        AddressMap { rows: self.rows.iter().map(turn).collect() }
    }

    /// The row for an old address, or for a symbol.
    #[must_use]
    pub fn find(&self, old: &str, symbol: &str) -> Option<&MapRow> {
        let by_address = self.rows.iter().find(|r| !r.old.is_empty() && r.old.eq_ignore_ascii_case(old));
        by_address.or_else(|| self.rows.iter().find(|r| r.old.is_empty() && r.symbol.eq_ignore_ascii_case(symbol)))
    }
}

/// The row in which an address stands already; else it stands in this one from now on.
fn again(known: &mut HashMap<String, usize>, address: &str, row: usize) -> Option<usize> {
    if address.is_empty() {
        return None;
    }
    match known.entry(address.to_ascii_uppercase()) {
        Entry::Occupied(first) => Some(*first.get()),
        Entry::Vacant(free) => {
            free.insert(row);
            None
        }
    }
}

impl MapRow {
    fn key(&self) -> &str {
        if self.old.is_empty() { &self.symbol } else { &self.old }
    }
}
