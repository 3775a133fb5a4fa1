//! Programs of the families, in `tests/dialects`.

use honest_twin::check::{Checked, verify};
use honest_twin::dialect::{LIBRARIES, library, read_project_in};
use honest_twin::lang::{Language, read_project};
use honest_twin::source::Source;
use honest_twin::twin::Version;

pub fn families() -> impl Iterator<Item = &'static str> {
    LIBRARIES.iter().map(|l| l.name)
}

/// The programs of a family: name, text, language.
pub fn programs(family: &str) -> Vec<(String, String, Language)> {
    let folder = format!("{}/tests/dialects/{family}", env!("CARGO_MANIFEST_DIR"));
    let mut out: Vec<(String, String, Language)> = std::fs::read_dir(&folder)
        .unwrap()
        .map(|e| e.unwrap().path())
        .map(|p| {
            let name = p.file_stem().unwrap().to_str().unwrap().to_string();
            let language = Language::of_file(p.to_str().unwrap()).unwrap();
            (name, std::fs::read_to_string(&p).unwrap(), language)
        })
        .collect();
    out.sort_by(|a, b| a.0.cmp(&b.0));
    out
}

/// Reads and checks a program written in a family.
pub fn read_in(family: &str, name: &str, text: &str, language: Language) -> Checked {
    let files = vec![(Source::new(format!("{name}.{}", language.ending()), text), language)];
    let (project, problems) =
        if family == "iec" { read_project(files) } else { read_project_in(files, &library(family).unwrap()) };
    let (checked, all) = verify(project, problems);
    let said: Vec<String> = all.0.iter().map(|p| format!("{} {}", p.code.0, p.message)).collect();
    checked.unwrap_or_else(|| panic!("{family}/{name}: {said:#?}\n{text}"))
}

/// Versions of one dialect whose points stand at these addresses.
pub fn wired(family: &'static str, left: &str, right: &str) -> [Version; 2] {
    [("old", left), ("new", right)].map(|(name, text)| {
        let source = if family == "iec" {
            super::checked(name, text, Language::St)
        } else {
            read_in(family, name, text, Language::St)
        };
        Version::new(name, source).unwrap()
    })
}
