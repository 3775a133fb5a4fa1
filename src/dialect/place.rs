//! Where in a sheet something stands.

use crate::source::{FileId, Span};
use toml::de::{DeTable, DeValue};

/// A step into a sheet.
#[derive(Clone, Debug)]
pub(super) enum Segment {
    Key(String),
    Index(usize),
}

/// A path into a sheet: `area[2].fields.point` is written `area.2.fields.point` here.
pub(super) fn path(text: &str) -> Vec<Segment> {
    text.split('/').map(|s| s.parse().map_or_else(|_| Segment::Key(s.to_string()), Segment::Index)).collect()
}

/// A text of TOML with the places of its parts.
pub(super) struct Places<'t> {
    root: Option<DeTable<'t>>,
    file: FileId,
}

impl<'t> Places<'t> {
    pub(super) fn new(text: &'t str, file: FileId) -> Self {
        Places { root: DeTable::parse(text).ok().map(toml::Spanned::into_inner), file }
    }

    /// The place of a path; of its longest beginning that is there, if it is not.
    pub(super) fn find(&self, path: &[Segment]) -> Span {
        let mut range = 0..0;
        let mut at: Option<&DeValue<'t>> = None;
        for (depth, step) in path.iter().enumerate() {
            let next = match (step, at) {
                (Segment::Key(key), None) if depth == 0 => self.root.as_ref().and_then(|r| r.get(key.as_str())),
                (Segment::Key(key), Some(DeValue::Table(table))) => table.get(key.as_str()),
                (Segment::Index(index), Some(DeValue::Array(array))) => array.get(*index),
                _ => None,
            };
            let Some(next) = next else { break };
            range = next.span();
            at = Some(next.get_ref());
        }
        Span { file: self.file, start: range.start as u32, end: range.end as u32 }
    }
}

/// Where in the text of a library's sheet something stands; the sheet is file 0.
pub(crate) fn place_in_sheet(library: &crate::model::sheet::Library, at: &str) -> Span {
    Places::new(&library.text.text, FileId(0)).find(&path(at))
}
