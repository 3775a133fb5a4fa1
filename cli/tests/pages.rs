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
        } else if let Some(edit) = line.strip_prefix("- in `") {
            out.push((edit.to_string(), "edit".to_string(), Vec::new()));
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

/// An edit of a page: a file, what stands in it, and what it becomes, everywhere in the file.
fn edit(folder: &Path, line: &str) {
    let (name, change) = line.split_once("` `").unwrap();
    let (from, to) = change.trim_end_matches('`').split_once("` becomes `").unwrap();
    let path = folder.join(name);
    let text = fs::read_to_string(&path).unwrap();
    assert!(text.contains(from), "{line}");
    fs::write(&path, text.replace(from, to)).unwrap();
}

/// Runs a page of `docs`: how many files it has, and how many calls.
fn page(name: &str) -> (usize, usize) {
    let page = fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs").join(name)).unwrap();
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
            continue;
        }
        if kind == "edit" {
            edit(folder.path(), &above);
            continue;
        }
        let name = above.strip_prefix('`').and_then(|n| n.strip_suffix("`:"));
        let end = above.strip_prefix("At the end of `").and_then(|n| n.strip_suffix("`:"));
        let text = lines.join("\n") + "\n";
        match (name, end) {
            (Some(name), _) => fs::write(folder.path().join(name), text).unwrap(),
            (None, Some(name)) => {
                let path = folder.path().join(name);
                fs::write(&path, fs::read_to_string(&path).unwrap() + &text).unwrap();
            }
            (None, None) => panic!("a name for {lines:?}"),
        }
        files += 1;
    }
    (files, calls)
}

#[test]
fn every_line_of_the_page_on_points() {
    let (files, calls) = page("points.md");
    assert!(files >= 8 && calls >= 10, "{files} files, {calls} calls");
}

#[test]
fn every_line_of_the_page_on_listings() {
    let (files, calls) = page("listings.md");
    assert!(files >= 3 && calls >= 9, "{files} files, {calls} calls");
}

#[test]
fn every_line_of_the_page_on_plants() {
    let (files, calls) = page("plants.md");
    assert!(files >= 6 && calls >= 6, "{files} files, {calls} calls");
}

#[test]
fn every_line_of_the_page_on_serving() {
    let (files, calls) = page("serve.md");
    assert!(files >= 1 && calls >= 3, "{files} files, {calls} calls");
}

#[test]
fn every_line_of_the_page_on_changes() {
    let (files, calls) = page("changes.md");
    assert!(files >= 5 && calls >= 6, "{files} files, {calls} calls");
}
