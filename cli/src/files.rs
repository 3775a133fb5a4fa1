//! Files in, files out.

use crate::problems;
use honest_twin::check::{Checked, verify};
use honest_twin::lang::{Form, LANGUAGES, read_project};
use honest_twin::model::Project;
use honest_twin::source::{Diagnostics, Source};
use std::fs;
use std::path::{Path, PathBuf};

/// Reads the text of a file.
pub(crate) fn read(path: &Path) -> Result<String, String> {
    let bytes = fs::read(path).map_err(|e| format!("cannot read {}: {e}", path.display()))?;
    // Old tools write old encodings: what is no UTF-8 is taken as Latin-1, which comments survive.
    Ok(String::from_utf8(bytes).unwrap_or_else(|e| e.into_bytes().iter().map(|b| char::from(*b)).collect()))
}

/// Writes a file.
pub(crate) fn write(path: &Path, content: impl AsRef<[u8]>) -> Result<(), String> {
    fs::write(path, content).map_err(|e| format!("cannot write {}: {e}", path.display()))
}

/// The files that paths stand for: a folder stands for all files in it whose language is known.
fn expand(paths: &[PathBuf]) -> Result<Vec<PathBuf>, String> {
    let mut out = Vec::new();
    for path in paths {
        if !path.is_dir() {
            out.push(path.clone());
            continue;
        }
        let entries = fs::read_dir(path).map_err(|e| format!("cannot read {}: {e}", path.display()))?;
        let mut inside: Vec<PathBuf> = entries
            .filter_map(|e| e.ok().map(|e| e.path()))
            .filter(|p| p.is_file() && Form::of_file(&p.to_string_lossy()).is_some())
            .collect();
        inside.sort();
        if inside.is_empty() {
            return Err(format!("{} holds no file that ends in {}", path.display(), endings()));
        }
        out.extend(inside);
    }
    Ok(out)
}

fn endings() -> String {
    let list: Vec<String> = LANGUAGES.iter().map(|l| format!(".{}", l.ending())).collect();
    format!("{} or .xml", list.join(", "))
}

/// Reads files as one project.
pub(crate) fn project(paths: &[PathBuf]) -> Result<(Project, Diagnostics), String> {
    let mut files = Vec::new();
    for path in expand(paths)? {
        let name = path.to_string_lossy().to_string();
        let Some(form) = Form::of_file(&name) else {
            let ending = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
            return Err(match ending.as_deref() {
                Some("toml") => format!("{name}: twin files are not there yet; name two versions"),
                _ => format!("{name}: the ending names the language, and it is not {}", endings()),
            });
        };
        files.push((Source::new(name, read(&path)?), form));
    }
    Ok(read_project(files))
}

/// Reads and checks files as one project. Problems are shown; `None` if they are errors.
pub(crate) fn checked(paths: &[PathBuf], json: bool) -> Result<Option<Checked>, String> {
    let (project, problems) = project(paths)?;
    let sources = project.sources.clone();
    let (checked, all) = verify(project, problems);
    if checked.is_none() {
        problems::show(&all, &sources, json)?;
    }
    Ok(checked)
}
