//! The conventions that both projects are written by: sheets, cards and blocks.

use super::{Both, Cause, Group, Kind};
use crate::model::sheet::Library;
use serde_json::Value;
use std::sync::Arc;

/// What of the sheets differs.
pub(super) fn told(both: &mut Both<'_>) {
    let libraries = both.sides.map(|checked| checked.project().library.clone());
    let name = |library: &Option<Arc<Library>>| library.as_ref().map_or("iec".to_string(), |l| l.sheet.name.clone());
    let names = libraries.each_ref().map(name);
    if names[0] != names[1] {
        let note = format!("{} became {}", names[0], names[1]);
        let told = both.tell((Group::Points, Kind::Sheet), None, "dialect");
        told.note(note).cause(Cause::Everything("the dialect is another one"));
        return;
    }
    let [Some(left), Some(right)] = libraries else { return };
    let values = [&left, &right].map(|library| serde_json::to_value(&library.sheet).unwrap_or_default());
    let mut rows = Vec::new();
    differences(&mut rows, String::new(), [Some(&values[0]), Some(&values[1])]);
    for (path, old, new) in rows {
        let is_card = path.starts_with("card");
        let kind = if is_card { Kind::Card } else { Kind::Sheet };
        // What is said for those who choose says nothing of a scan.
        let is_word = path == "title" || path == "about";
        let group = if is_word { Group::Texts } else { Group::Points };
        let note = format!("{old} became {new}");
        let told = both.tell((group, kind), None, path);
        told.note(note);
        if !is_word && !is_card {
            told.cause(Cause::Everything("the sheet changed"));
        }
    }
    if left.source.text != right.source.text {
        let told = both.tell((Group::Points, Kind::Sheet), None, "blocks");
        told.note("the blocks of the sheet have another text").cause(Cause::Everything("the sheet's blocks changed"));
    }
}

/// Values that differ, with their paths: members of lists go by their names where they have one.
fn differences(out: &mut Vec<(String, String, String)>, path: String, sides: [Option<&Value>; 2]) {
    let text = |value: Option<&Value>| match value {
        Some(Value::String(text)) => text.clone(),
        Some(value) => value.to_string(),
        None => "nothing".to_string(),
    };
    let below = |key: &str| if path.is_empty() { key.to_string() } else { format!("{path} {key}") };
    match sides {
        [Some(a), Some(b)] if a == b => {}
        [Some(Value::Object(a)), Some(Value::Object(b))] => {
            for (key, value) in a {
                differences(out, below(key), [Some(value), b.get(key)]);
            }
            for (key, value) in b.iter().filter(|(key, _)| !a.contains_key(*key)) {
                differences(out, below(key), [None, Some(value)]);
            }
        }
        [Some(Value::Array(a)), Some(Value::Array(b))] if a.iter().chain(b).all(|value| named(value).is_some()) => {
            let find = |list: &'_ [Value], name: &str| list.iter().position(|value| named(value) == Some(name));
            for value in a {
                let name = named(value).unwrap_or_default();
                differences(out, below(name), [Some(value), find(b, name).map(|at| &b[at])]);
            }
            for value in b {
                let name = named(value).unwrap_or_default();
                if find(a, name).is_none() {
                    differences(out, below(name), [None, Some(value)]);
                }
            }
        }
        [a, b] => out.push((path, text(a), text(b))),
    }
}

fn named(value: &Value) -> Option<&str> {
    value.get("name").and_then(Value::as_str)
}
