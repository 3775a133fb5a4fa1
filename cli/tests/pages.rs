//! Pages of `docs` that are run line by line: files are written as they stand, commands are called, and what a page shows of
//! an answer must be in it, in that order.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test may fail loudly")]

use assert_cmd::Command;

use std::fs;
use std::path::Path;
use tempfile::TempDir;

/// The text of a page cut into fenced blocks: the line above each, its kind, and its lines.
fn blocks(page: &str) -> Vec<(String, String, Vec<String>)> {
    let mut out = Vec::new();
    let mut above = String::new();
    let mut lines = page.lines();
    while let Some(line) = lines.next() {
        if let Some(kind) = line.strip_prefix("```") {
            let inside: Vec<String> = lines.by_ref().take_while(|l| *l != "```").map(str::to_string).collect();
            out.push((std::mem::take(&mut above), kind.to_string(), inside));
        } else if !line.is_empty() {
            above = line.to_string();
        }
    }
    out
}

/// Calls one command of a page and looks for what the page shows of it.
fn call(folder: &Path, command: &str, shown: &[String]) {
    // What stands in quotes is one word.
    let parts = command.split('"').enumerate();
    let words = parts.flat_map(|(number, part)| match number % 2 {
        0 => part.split(' ').filter(|word| !word.is_empty()).collect(),
        _ => vec![part],
    });
    let args = words.skip(1);
    let output = Command::cargo_bin("honest-twin").unwrap().current_dir(folder).args(args).output().unwrap();
    let text = [output.stdout, output.stderr].map(|bytes| String::from_utf8(bytes).unwrap()).concat();
    let mut rest = text.lines();
    for line in shown {
        match line.strip_prefix("exit ") {
            Some(status) => {
                assert_eq!(output.status.code().map(|c| c.to_string()).as_deref(), Some(status), "{command}\n{text}")
            }
            None => assert!(rest.any(|l| l.contains(line.trim())), "{command}: no line `{line}` (any more) in\n{text}"),
        }
    }
}

#[test]
fn every_line_of_the_page_on_points() {
    let page = fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs/points.md")).unwrap();
    let folder = TempDir::new().unwrap();
    let (mut files, mut calls) = (0, 0);
    for (above, kind, lines) in blocks(&page) {
        if kind == "sh" {
            for part in lines.join("\n").split("$ ").filter(|part| !part.is_empty()) {
                let (command, shown) = part.split_once('\n').unwrap();
                let shown: Vec<String> = shown.lines().map(str::to_string).collect();
                assert!(shown.last().is_some_and(|l| l.starts_with("exit ")), "{command}");
                call(folder.path(), command, &shown);
                calls += 1;
            }
        } else {
            let name = above
                .strip_prefix('`')
                .and_then(|n| n.strip_suffix("`:"))
                .unwrap_or_else(|| panic!("a name for {lines:?}"));
            fs::write(folder.path().join(name), lines.join("\n") + "\n").unwrap();
            files += 1;
        }
    }
    assert!(files >= 8 && calls >= 10, "{files} files, {calls} calls");
}
