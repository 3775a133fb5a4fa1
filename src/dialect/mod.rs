//! Dialects: conventions as data. Here so far: the blocks of the open standard, as structured text.

use crate::lang::{Language, read_file};
use crate::model::Project;
use crate::source::{FileId, Limits, Source};
use std::sync::LazyLock;

/// The file that shipped blocks stand in; no file of a user has this number.
pub(crate) const BUILT_IN: FileId = FileId(u32::MAX);

/// The text of the standard's function blocks in the `iec` dialect: what a timer, counter, latch or edge does, in
/// full.
pub const IEC_BLOCKS: &str = include_str!("blocks/iec.st");

static STANDARD: LazyLock<Project> = LazyLock::new(|| {
    let source = Source::new("blocks/iec.st", IEC_BLOCKS);
    let (items, _) = read_file(BUILT_IN, &source, Language::St, Limits::default());
    Project { sources: vec![source], items }
});

/// The standard's function blocks.
pub(crate) fn standard_blocks() -> &'static Project {
    &STANDARD
}
