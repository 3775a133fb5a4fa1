//! Every reader of what comes from outside, with texts that are nearly right: those of the repository and those that the library
//! writes, with words taken out, doubled, moved, swapped, put in from another text or from a list of unpleasant ones. Of data in a tree
//! the tree is changed, of a binary file its bytes. Nothing panics, and each text is done with in a few seconds.
//!
//! `HONEST_TWIN_SECONDS=600 cargo test --release --test twins readers -- --nocapture` goes on for so long with each reader and says how
//! many texts it had; `HONEST_TWIN_READER` names one, `HONEST_TWIN_SEED` draws another lot.

mod list;

use fastrand::Rng;
use list::readers;
use serde_json::Value as Json;
use std::time::{Duration as Span, Instant};

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
fn regrown(rng: &mut Rng, text: &str) -> String {
    let mut tree: Json = serde_json::from_str(text).unwrap();
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
    tree.to_string()
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

fn asked<T: std::str::FromStr>(name: &str) -> Option<T> {
    std::env::var(name).ok()?.parse().ok()
}

#[test]
fn nothing_that_is_nearly_right_does_harm() {
    let seconds = asked::<u64>("HONEST_TWIN_SECONDS");
    let only = asked::<String>("HONEST_TWIN_READER");
    let seed = asked("HONEST_TWIN_SEED").unwrap_or(5);
    for reader in readers().filter(|reader| only.as_ref().is_none_or(|only| reader.name == only)) {
        reader.seeds.iter().for_each(|seed| (reader.meet)(seed));
        let mut rng = Rng::with_seed(seed);
        let begun = Instant::now();
        let mut count = 0u64;
        while seconds.map_or(count < 60, |seconds| begun.elapsed() < Span::from_secs(seconds)) {
            let own = &reader.seeds[rng.usize(..reader.seeds.len())];
            let other = &reader.seeds[rng.usize(..reader.seeds.len())];
            let changed = match (reader.name, std::str::from_utf8(own), std::str::from_utf8(other)) {
                ("state", Ok(own), _) => regrown(&mut rng, own).into_bytes(),
                ("certificate" | "frames", ..) => rewritten(&mut rng, own),
                (_, Ok(own), Ok(other)) => reworded(&mut rng, own, other).into_bytes(),
                _ => rewritten(&mut rng, own),
            };
            let since = Instant::now();
            let met = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| (reader.meet)(&changed)));
            let text = String::from_utf8_lossy(&changed);
            assert!(met.is_ok(), "{} panics at number {count}:\n{text}", reader.name);
            assert!(
                since.elapsed() < Span::from_secs(20),
                "{} takes {:?} at number {count}:\n{text}",
                reader.name,
                since.elapsed()
            );
            count += 1;
        }
        println!("{:<12} {count} texts in {:.0} s", reader.name, begun.elapsed().as_secs_f64());
    }
}
