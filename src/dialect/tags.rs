//! Tag lists: the symbols that an old controller's programs go by, address by address.

use crate::model::sheet::{AreaRole, Holds, Sheet};
use crate::model::{Expr, Init, Item, Outside, Project};
use crate::source::{RowError, cells};
use std::collections::HashMap;

/// One address with its name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Tag {
    /// As it is written in the list.
    pub address: String,
    /// The name.
    pub symbol: String,
    /// What it is, in words.
    pub comment: String,
    /// An input whose device is wired normally closed: it reads TRUE at rest.
    pub normally_closed: bool,
    /// What the outside does with it, where its area does not say: a register that a panel writes, say.
    pub outside: Option<Outside>,
}

/// A tag list.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Tags {
    /// Its rows, in order.
    pub rows: Vec<Tag>,
    at: HashMap<(usize, u32), usize>,
}

impl Tags {
    /// Reads a tag list: CSV with the columns `address`, `symbol`, and if wanted `comment` and `wiring` (`NC` for a device
    /// that is wired normally closed, `NO` or nothing for any other) and `outside` (`given` for what a panel or the plant writes, `shown` for what
    /// they read), in any order. Other columns are passed over.
    ///
    /// # Errors
    /// Every row that is wrong.
    pub fn read(text: &str, sheet: &Sheet) -> Result<Tags, Vec<RowError>> {
        let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).flexible(true).from_reader(text.as_bytes());
        let headers = reader.headers().map_err(|e| vec![RowError::new(1, e.to_string())])?.clone();
        let column = |name: &str| headers.iter().position(|h| h.eq_ignore_ascii_case(name));
        let (Some(address), Some(symbol)) = (column("address"), column("symbol")) else {
            return Err(vec![RowError::new(1, "a tag list has the columns `address` and `symbol`")]);
        };
        let (comment, wiring, outside) = (column("comment"), column("wiring"), column("outside"));
        let mut tags = Tags::default();
        let mut names: HashMap<String, u64> = HashMap::new();
        let mut problems = Vec::new();
        for (index, record) in reader.records().enumerate() {
            let record = match record {
                Ok(record) => record,
                Err(error) => {
                    problems.push(RowError::new(index as u64 + 2, error.to_string()));
                    continue;
                }
            };
            let line = record.position().map_or(index as u64 + 2, csv::Position::line);
            let cell = |column: Option<usize>| column.and_then(|c| record.get(c)).unwrap_or("").to_string();
            let tag = Tag {
                address: cell(Some(address)),
                symbol: cell(Some(symbol)),
                comment: cells::plain(&cell(comment)).to_string(),
                normally_closed: cell(wiring).eq_ignore_ascii_case("NC"),
                outside: match cell(outside).to_lowercase().as_str() {
                    "given" => Some(Outside::Given),
                    "shown" => Some(Outside::Shown),
                    "" => None,
                    other => {
                        problems
                            .push(RowError::new(line, format!("the outside has it `given` or `shown`, not `{other}`")));
                        None
                    }
                },
            };
            if tag.symbol.is_empty() {
                continue;
            }
            if let Some(why) = not_a_name(&tag.symbol, sheet) {
                problems.push(RowError::new(line, why));
            }
            if let Some(first) = names.insert(tag.symbol.to_uppercase(), line) {
                problems.push(RowError::new(line, format!("`{}` is a name in line {first} already", tag.symbol)));
            }
            if !["", "NO", "NC"].iter().any(|w| cell(wiring).eq_ignore_ascii_case(w)) {
                problems.push(RowError::new(line, format!("a device is wired NO or NC, not `{}`", cell(wiring))));
            }
            match sheet.locate(&tag.address) {
                Err(error) => problems.push(RowError::new(line, format!("in `{}`: {}", tag.address, error.message))),
                Ok(at) => {
                    let area = &sheet.areas[at.0];
                    if tag.normally_closed && (area.role != AreaRole::Input || area.holds != Holds::Bit) {
                        problems
                            .push(RowError::new(line, format!("`{}` is no input; only inputs are wired", tag.address)));
                    }
                    if let Some(first) = tags.at.insert(at, tags.rows.len()) {
                        let other = &tags.rows[first].symbol;
                        problems.push(RowError::new(line, format!("`{}` has the name `{other}` already", tag.address)));
                    }
                }
            }
            tags.rows.push(tag);
        }
        if problems.is_empty() { Ok(tags) } else { Err(problems) }
    }

    /// The tag of a place.
    #[must_use]
    pub fn find(&self, at: (usize, u32)) -> Option<&Tag> {
        self.at.get(&at).and_then(|row| self.rows.get(*row))
    }

    /// A tag list as CSV.
    #[must_use]
    pub fn write(rows: &[Tag]) -> String {
        let mut writer = csv::Writer::from_writer(Vec::new());
        let header = writer.write_record(["address", "symbol", "comment", "wiring", "outside"]);
        let rows = rows.iter().try_for_each(|t| {
            let wiring = if t.normally_closed { "NC" } else { "" };
            let outside = match t.outside {
                Some(Outside::Given) => "given",
                Some(Outside::Shown) => "shown",
                None => "",
            };
            writer.write_record([&t.address, &t.symbol, &*cells::guarded(&t.comment), wiring, outside])
        });
        let bytes = header.and(rows).ok().and_then(|()| writer.into_inner().ok());
        bytes.and_then(|b| String::from_utf8(b).ok()).unwrap_or_default()
    }
}

fn not_a_name(symbol: &str, sheet: &Sheet) -> Option<String> {
    let begins = symbol.starts_with(|c: char| c.is_alphabetic() || c == '_');
    if !begins || !symbol.chars().all(|c| c.is_alphanumeric() || c == '_') {
        return Some(format!("`{symbol}` cannot be a name: letters, digits and `_`, and no digit first"));
    }
    if crate::lang::is_reserved(symbol) {
        return Some(format!("`{symbol}` is a word of the language"));
    }
    (sheet.address_length(symbol) == Some(symbol.len())).then(|| format!("`{symbol}` is an address itself"))
}

/// The tag list of a project: every address that a variable has, with its name and comment.
#[must_use]
pub fn tags(project: &Project) -> Vec<Tag> {
    let sections = project.items.iter().flat_map(|item| match item {
        Item::Unit(unit) => unit.sections.iter().collect::<Vec<_>>(),
        Item::Globals(section) => vec![section],
        Item::Configuration(c) => c.globals.iter().collect(),
        Item::Type(_) | Item::Envelope(_) => Vec::new(),
    });
    let mut out = Vec::new();
    for decl in sections.flat_map(|s| &s.vars) {
        let Some(address) = &decl.address else { continue };
        let written = project.library.as_ref().and_then(|l| l.sheet.written(&address.text));
        let comments = decl.notes.leading.iter().chain(&decl.notes.trailing).map(|c| c.text.clone());
        out.push(Tag {
            address: written.unwrap_or_else(|| address.text.clone()),
            symbol: decl.names.first().map_or(String::new(), |n| n.text.clone()),
            comment: comments.collect::<Vec<_>>().join(" "),
            outside: None,
            normally_closed: matches!(&decl.init, Some(Init::Expr(e)) if *e == Expr::truth(true, e.span)),
        });
    }
    out
}
