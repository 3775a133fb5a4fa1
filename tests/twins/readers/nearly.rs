//! Texts, trees of data and binary files that are nearly right: of a text words are taken out, doubled, moved, swapped, put in from
//! another text or from a list of unpleasant ones; of data in a tree the tree is changed, of a binary file its bytes. The tests draw such
//! changes by chance, and `fuzz/fuzz_targets/any.rs` by what they reach.

use fastrand::Rng;
use serde_json::Value as Json;

/// What is changed of what a reader reads.
#[derive(Clone, Copy)]
pub(crate) enum Kind {
    /// Its words.
    Text,
    /// Its tree of data.
    Tree,
    /// Its bytes, and the words of its first line.
    Bytes,
}

/// Something nearly right, of something right; `other` lends words. What is no text has its bytes changed, and what is no tree its
/// words.
pub(crate) fn changed(rng: &mut Rng, kind: Kind, own: &[u8], other: &[u8]) -> Vec<u8> {
    let text = std::str::from_utf8(own).ok();
    let words = |rng: &mut Rng| {
        let other = std::str::from_utf8(other).ok()?;
        Some(reworded(rng, text?, other).into_bytes())
    };
    let changed = match kind {
        Kind::Text => words(rng),
        Kind::Tree => text.and_then(|text| regrown(rng, text)).map(String::into_bytes).or_else(|| words(rng)),
        Kind::Bytes => None,
    };
    changed.unwrap_or_else(|| rewritten(rng, own))
}

/// What is put in place of a word.
const UNPLEASANT: &[&str] = &[
    "",
    "0",
    "-1",
    "1",
    "255",
    "65536",
    "4294967296",
    "18446744073709551616",
    "-9223372036854775808",
    "1e308",
    "1e-400",
    "NaN",
    "T#0s",
    "T#-1ms",
    "T#106751d",
    "9999999999h",
    "1ns",
    "\u{0}",
    "\u{feff}",
    "å",
    "\u{1F41F}",
    "\"",
    "'",
    "`",
    "(*",
    "*)",
    "//",
    "[",
    "]",
    "{",
    "}",
    "(",
    ")",
    ";",
    ",",
    ":",
    ":=",
    "=>",
    "..",
    "=",
    "#",
    "@",
    "%",
    "\\",
    "\n",
    "\r\n",
    "\t",
    "END_IF",
    "END_PROGRAM",
    "<",
    ">",
    "</",
    "<![CDATA[",
    "&lt;",
    "&x;",
    "$scope",
    "$end",
    "|",
    "---",
    "+",
    "repeat 3 times\n",
    "end\n",
];

/// Words, blanks and signs.
fn words(text: &str) -> Vec<&str> {
    let kind = |c: char| match c {
        c if c.is_alphanumeric() || c == '_' => 0,
        '\n' => 1,
        c if c.is_whitespace() => 2,
        _ => 3,
    };
    let mut out = Vec::new();
    let mut from = 0;
    let mut last = None;
    for (at, c) in text.char_indices() {
        let own = kind(c);
        if last.is_some_and(|last| last != own || own == 3 || own == 1) {
            out.push(&text[from..at]);
            from = at;
        }
        last = Some(own);
    }
    out.push(&text[from..]);
    out
}

/// A text with a few of its words changed; `other` lends some.
fn reworded(rng: &mut Rng, text: &str, other: &str) -> String {
    let mut list = words(text);
    let theirs = words(other);
    for _ in 0..rng.usize(1..5) {
        let at = rng.usize(0..=list.len());
        let far = if rng.u8(..4) == 0 { 60 } else { 3 };
        let run = rng.usize(1..=far);
        let end = (at + run).min(list.len());
        match rng.u8(..9) {
            0 => drop(list.drain(at..end)),
            1 => {
                let own = list[at..end].to_vec();
                let most = if rng.u8(..6) == 0 { 200 } else { 3 };
                let times = rng.usize(1..=most);
                list.splice(at..at, own.repeat(times));
            }
            2 if !list.is_empty() => {
                let (a, b) = (rng.usize(..list.len()), rng.usize(..list.len()));
                list.swap(a, b);
            }
            3 => {
                let moved: Vec<&str> = list.drain(at..end).collect();
                let to = rng.usize(0..=list.len());
                list.splice(to..to, moved);
            }
            4 => {
                let from = rng.usize(..theirs.len());
                let lent = theirs[from..(from + run).min(theirs.len())].to_vec();
                list.splice(at..end, lent);
            }
            5 => list.truncate(at),
            6 if at < list.len() => list[at] = list[rng.usize(..list.len())],
            _ if at < list.len() => list[at] = UNPLEASANT[rng.usize(..UNPLEASANT.len())],
            _ => list.push(UNPLEASANT[rng.usize(..UNPLEASANT.len())]),
        }
    }
    list.concat()
}

/// A part of a tree of data, by its number.
fn part<'t>(tree: &'t mut Json, left: &mut usize) -> Option<&'t mut Json> {
    if *left == 0 {
        return Some(tree);
    }
    *left -= 1;
    match tree {
        Json::Array(list) => list.iter_mut().find_map(|inner| part(inner, left)),
        Json::Object(map) => map.values_mut().find_map(|inner| part(inner, left)),
        Json::Null | Json::Bool(_) | Json::Number(_) | Json::String(_) => None,
    }
}

fn size(tree: &Json) -> usize {
    1 + match tree {
        Json::Array(list) => list.iter().map(size).sum(),
        Json::Object(map) => map.values().map(size).sum(),
        Json::Null | Json::Bool(_) | Json::Number(_) | Json::String(_) => 0,
    }
}

/// A tree of data with a few of its parts changed.
fn regrown(rng: &mut Rng, text: &str) -> Option<String> {
    let mut tree: Json = serde_json::from_str(text).ok()?;
    for _ in 0..rng.usize(1..4) {
        let number = rng.usize(..size(&tree));
        let Some(part) = part(&mut tree, &mut number.clone()) else { continue };
        let numbers = [0, 1, -1, i64::from(u32::MAX), i64::MAX, i64::MIN];
        match (rng.u8(..5), &mut *part) {
            (0, Json::Object(map)) if !map.is_empty() => {
                let key = map.keys().nth(rng.usize(..map.len())).unwrap().clone();
                map.remove(&key);
            }
            (0 | 1, Json::Array(list)) if !list.is_empty() => {
                let own = list[rng.usize(..list.len())].clone();
                list.extend(std::iter::repeat_n(own, rng.usize(1..40)));
            }
            (2, Json::Array(list)) => list.clear(),
            (1, _) => *part = Json::Null,
            (2, _) => *part = Json::String(UNPLEASANT[rng.usize(..UNPLEASANT.len())].to_string()),
            _ => *part = Json::from(numbers[rng.usize(..numbers.len())]),
        }
    }
    Some(tree.to_string())
}

/// A binary file with a few of its bytes changed, or with words of its first line.
fn rewritten(rng: &mut Rng, bytes: &[u8]) -> Vec<u8> {
    let line = bytes.iter().position(|byte| *byte == b'\n').unwrap_or(bytes.len());
    let (head, rest) = bytes.split_at(line);
    let mut rest = rest.to_vec();
    if let Ok(head) = std::str::from_utf8(head)
        && rng.bool()
    {
        return [reworded(rng, head, head).into_bytes(), rest].concat();
    }
    for _ in 0..rng.usize(1..4) {
        let at = rng.usize(0..=rest.len());
        match rng.u8(..4) {
            0 => rest.truncate(at),
            1 if at < rest.len() => rest[at] = rng.u8(..),
            2 if at < rest.len() => drop(rest.drain(at..(at + rng.usize(1..9)).min(rest.len()))),
            _ => {
                drop(rest.splice(
                    at..at,
                    (0..rng.usize(1..9)).map(|_| b"0123 \n\xff\x80"[rng.usize(..8)]).collect::<Vec<u8>>(),
                ))
            }
        }
    }
    [head.to_vec(), rest].concat()
}
