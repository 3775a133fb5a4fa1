//! Pages as text, made by running.

pub mod dialects;
pub mod found;
pub mod idioms;
pub mod traps;

use std::path::Path;

/// Holds pages under `docs` to what running gives, or writes them anew.
pub fn hold(files: Vec<(String, String)>) {
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
