//! Pages that are made by running what they are about: `docs/traps.md` and `docs/dialects`. This holds what stands
//! there; `HONEST_TWIN_WRITE=1 cargo test --test pages` writes it anew.
#![allow(clippy::unwrap_used, clippy::panic, clippy::print_stdout, reason = "a test may fail loudly")]

mod common;

use common::pages::{dialects, found, traps};
use std::path::Path;

fn hold(files: Vec<(String, String)>) {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("docs");
    let write = std::env::var_os("HONEST_TWIN_WRITE").is_some();
    let mut stale = Vec::new();
    for (name, text) in files {
        let path = docs.join(&name);
        if write {
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(&path, &text).unwrap();
        } else if std::fs::read_to_string(&path).ok().as_ref() != Some(&text) {
            stale.push(name);
        }
    }
    assert!(stale.is_empty(), "no longer what running gives: {stale:?}; write anew with HONEST_TWIN_WRITE=1 and read");
}

#[test]
fn the_thirty_traps() {
    hold(traps::page());
}

#[test]
fn a_page_for_each_dialect() {
    hold(dialects::pages());
}

#[test]
fn how_soon_differences_are_found() {
    hold(vec![("found.md".to_string(), found::page())]);
}

#[test]
fn the_schema_of_a_verdict() {
    hold(vec![("verdict.schema.json".to_string(), honest_twin::show::verdict_schema())]);
}
