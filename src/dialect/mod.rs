//! Dialects: conventions as data. A sheet (TOML) says how things are written and which block a written thing stands
//! for; the blocks say in structured text what it does. Nothing about a particular dialect stands in Rust.
//!
//! - [`library`] gives a shipped one, [`read_library`] reads one of the user's own, [`LIBRARIES`] lists what is shipped.
//! - `resolve` takes a text that was read in a dialect to what the checker knows (addresses become located variables,
//!   numbered devices become instances of blocks), `surface` takes it back for writing.

mod place;
pub mod rack;
mod read;
mod resolve;
pub(crate) mod surface;
mod tags;
mod verify;
mod walk;

pub(crate) use place::place_in_sheet;
pub use read::read_library;
pub(crate) use resolve::name_of;
pub use resolve::{read_project_in, read_project_tagged};
pub(crate) use surface::{pragma, settings, settles};
pub use tags::{Tag, Tags, tags};
pub(crate) use verify::literal_duration;

use crate::lang::{Language, read_file};
use crate::model::Project;
use crate::model::sheet::Library;
use crate::source::{FileId, Limits, Source};
use std::sync::{Arc, LazyLock};

/// The file that shipped blocks stand in; no file of a user has this number.
pub(crate) const BUILT_IN: FileId = FileId(u32::MAX);

/// True for places in blocks, the standard's or a dialect's.
pub(crate) const fn is_built_in(file: FileId) -> bool {
    file.0 >= Library::FILE.0
}

/// The text of an expression on one line, be it in a project or in a shipped block.
pub(crate) fn excerpt(project: &Project, span: crate::source::Span) -> String {
    balanced(if span.file == BUILT_IN { STANDARD_SOURCE.excerpt(span) } else { project.excerpt(span) })
}

/// An expression's place leaves out the parentheses around its first and last operand; in a text by itself they are
/// missed.
fn balanced(text: String) -> String {
    let (mut open, mut missing) = (0usize, 0usize);
    for letter in text.chars() {
        match letter {
            '(' => open += 1,
            ')' if open == 0 => missing += 1,
            ')' => open -= 1,
            _ => {}
        }
    }
    if open + missing == 0 { text } else { format!("{}{text}{}", "(".repeat(missing), ")".repeat(open)) }
}

static STANDARD_SOURCE: LazyLock<Source> = LazyLock::new(|| Source::new("blocks/iec.st", IEC_BLOCKS));

/// The text of the standard's function blocks in the `iec` dialect: what a timer, counter, latch or edge does, in
/// full.
pub const IEC_BLOCKS: &str = include_str!("blocks/iec.st");

static STANDARD: LazyLock<Project> = LazyLock::new(|| {
    let source = Source::new("blocks/iec.st", IEC_BLOCKS);
    let (items, _) = read_file(BUILT_IN, &source, Language::St, Limits::default());
    Project { sources: vec![source], items, ..Project::default() }
});

/// The standard's function blocks.
pub(crate) fn standard_blocks() -> &'static Project {
    &STANDARD
}

/// A library that has nothing.
pub(crate) fn empty() -> Library {
    let sheet = crate::model::sheet::Sheet {
        name: "none".to_string(),
        title: String::new(),
        about: String::new(),
        scan: crate::model::sheet::ScanRules::default(),
        numbers: crate::model::sheet::NumberRules::default(),
        names: crate::model::sheet::NameRules::default(),
        areas: Vec::new(),
        cards: Vec::new(),
        words: indexmap::IndexMap::new(),
        listing: crate::model::sheet::Listing::default(),
        routines: None,
        devices: Vec::new(),
    };
    Library { sheet, text: Source::new("none", ""), source: Source::new("none", ""), items: Vec::new() }
}

/// A sheet with its blocks, as texts.
#[derive(Clone, Copy, Debug)]
pub struct Shipped {
    /// Its name.
    pub name: &'static str,
    /// The sheet.
    pub sheet: &'static str,
    /// The blocks.
    pub blocks: &'static str,
}

macro_rules! shipped {
    ($($name:literal),*) => {
        &[$(Shipped {
            name: $name,
            sheet: include_str!(concat!("sheets/", $name, ".toml")),
            blocks: include_str!(concat!("blocks/", $name, ".st")),
        }),*]
    };
}

/// The families that are shipped. They are families of our own; a user copies one and edits it.
pub const LIBRARIES: &[Shipped] =
    shipped!("iec", "octal-coil", "byte-bit", "word-bit", "point-block", "status-word", "flat-register");

static READ: LazyLock<Vec<Arc<Library>>> = LazyLock::new(|| {
    let read = |s: &Shipped| {
        let sheet = Source::new(format!("sheets/{}.toml", s.name), s.sheet);
        let blocks = Source::new(format!("blocks/{}.st", s.name), s.blocks);
        read_library(&sheet, &blocks).ok().map(Arc::new)
    };
    LIBRARIES.iter().filter_map(read).collect()
});

/// A shipped family by its name.
#[must_use]
pub fn library(name: &str) -> Option<Arc<Library>> {
    READ.iter().find(|l| l.sheet.name == name).cloned()
}

/// The dialect that a text says it is written in: `{dialect NAME}` in its first line that is not blank.
#[must_use]
pub fn said(text: &str) -> Option<&str> {
    let first = text.lines().map(str::trim).find(|l| !l.is_empty())?;
    let name = first.strip_prefix("{dialect ")?.split('}').next()?.trim();
    (!name.is_empty()).then_some(name)
}
