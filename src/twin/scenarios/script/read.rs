//! Reading a scenario, line by line.

use super::{Deed, Lapse, Line, Script, ScriptError, When};
use crate::lang::read_duration;
use crate::scan::Power;

/// Most times that anything is done.
const MOST: u64 = 10_000_000;

/// Repetitions within repetitions, at most.
const DEEPEST: usize = 16;

pub(super) fn script(name: &str, text: &str) -> Result<Script, ScriptError> {
    let mut open: Vec<(usize, u64, Vec<Line>)> = Vec::new();
    let mut lines = Vec::new();
    for (index, raw) in text.lines().enumerate() {
        let number = index + 1;
        let fail = |what: String| ScriptError { line: number, what };
        let line = raw.split('#').next().unwrap_or("").trim();
        let words: Vec<&str> = line.split_whitespace().collect();
        match words.as_slice() {
            [] => {}
            ["repeat", times, "times" | "time"] => {
                if open.len() >= DEEPEST {
                    return Err(fail(format!("more than {DEEPEST} repetitions in each other")));
                }
                let times = count(times).map_err(fail)?;
                open.push((number, times, std::mem::take(&mut lines)));
            }
            ["end"] => {
                let Some((at, times, outer)) = open.pop() else {
                    return Err(fail("there is no `repeat` that this ends".to_string()));
                };
                let body = std::mem::replace(&mut lines, outer);
                lines.push(Line { number: at, deed: Deed::Repeat(times, body) });
            }
            _ => lines.push(Line { number, deed: deed(line, &words).map_err(fail)? }),
        }
    }
    match open.pop() {
        Some((line, ..)) => Err(ScriptError { line, what: "no `end` ends this repetition".to_string() }),
        None => Ok(Script { name: name.to_string(), lines }),
    }
}

fn count(word: &str) -> Result<u64, String> {
    match word.parse::<u64>() {
        Ok(n) if n <= MOST => Ok(n),
        _ => Err(format!("`{word}` is not a number of times up to {MOST}")),
    }
}

/// `2s`, `1m30s`, `2 s`, `3 scans`.
fn lapse(words: &[&str]) -> Result<Lapse, String> {
    match words {
        [n, "scan" | "scans"] => n.parse().map(Lapse::Scans).map_err(|_| format!("`{n}` is no number of scans")),
        [] => Err("how long is missing".to_string()),
        words => {
            let joined = words.concat();
            match read_duration(&joined) {
                Ok(time) if time.nanos() >= 0 => Ok(Lapse::Time(time)),
                Ok(_) => Err(format!("`{joined}` is a time below zero")),
                Err(why) => Err(why.to_string()),
            }
        }
    }
}

/// The text before and behind a word that stands by itself, the last one that does.
fn split<'l>(line: &'l str, word: &str) -> Option<(&'l str, &'l str)> {
    let at = line.rmatch_indices(word).map(|(at, _)| at).find(|at| {
        let before = line[..*at].chars().next_back().is_none_or(char::is_whitespace);
        let behind = line[at + word.len()..].chars().next().is_none_or(char::is_whitespace);
        before && behind
    })?;
    Some((line[..at].trim(), line[at + word.len()..].trim()))
}

fn words_of(text: &str) -> Vec<&str> {
    text.split_whitespace().collect()
}

fn value(word: &str) -> String {
    match word {
        "on" => "1".to_string(),
        "off" => "0".to_string(),
        other => other.to_string(),
    }
}

fn deed(line: &str, words: &[&str]) -> Result<Deed, String> {
    Ok(match words {
        ["set", name, "to", word] | ["set", name, word @ ("on" | "off")] => Deed::Set((*name).to_string(), value(word)),
        ["hold", name] => Deed::Set((*name).to_string(), "1".to_string()),
        ["drop", name] => Deed::Set((*name).to_string(), "0".to_string()),
        ["press", name, rest @ ..] => press(name, rest)?,
        ["wait", "until", ..] => {
            let rest = line["wait".len()..].trim_start()["until".len()..].trim();
            match split(rest, "at most") {
                Some((expr, most)) if !expr.is_empty() => Deed::Until(expr.to_string(), lapse(&words_of(most))?),
                _ => return Err("say how long to wait: wait until EXPRESSION at most TIME".to_string()),
            }
        }
        ["wait", rest @ ..] => Deed::Wait(lapse(rest)?),
        ["ramp", name, "from", from, "to", to, "in", rest @ ..] => Deed::Ramp {
            name: (*name).to_string(),
            from: (*from).to_string(),
            to: (*to).to_string(),
            over: lapse(rest)?,
        },
        ["toggle", name] => Deed::Toggle((*name).to_string()),
        ["write", name, "to", word] => Deed::Write((*name).to_string(), value(word)),
        ["cold", "start"] => Deed::Power(Power::Cold),
        ["force", name, "to", word] => Deed::Force((*name).to_string(), value(word)),
        ["release", name] => Deed::Release((*name).to_string()),
        ["power", "cycle"] => Deed::Power(Power::Cycle),
        ["power", "off", "for", rest @ ..] => Deed::Off(lapse(rest)?),
        ["stop"] => Deed::Power(Power::Stop),
        ["run"] => Deed::Power(Power::Run),
        ["expect", ..] => expect(line["expect".len()..].trim())?,
        [first, ..] => return Err(unknown(first)),
        [] => return Err("nothing".to_string()),
    })
}

fn press(name: &str, rest: &[&str]) -> Result<Deed, String> {
    let one = Lapse::Scans(1);
    let name = name.trim_end_matches(',').to_string();
    match rest {
        [] => Ok(Deed::Press { name, times: 1, on: one, off: one }),
        ["for", time @ ..] => Ok(Deed::Press { name, times: 1, on: lapse(time)?, off: one }),
        [times, "times" | "times,", pauses @ ..] => {
            let (times, text) = (count(times)?, pauses.join(" "));
            if text.is_empty() {
                return Ok(Deed::Press { name, times, on: one, off: one });
            }
            let parts: Vec<&str> = text.split(',').map(str::trim).filter(|p| !p.is_empty()).collect();
            let part = |word: &str| {
                let found = parts.iter().find_map(|p| p.strip_suffix(word));
                found.map_or(Ok(one), |time| lapse(&words_of(time)))
            };
            if !parts.iter().all(|p| p.ends_with(" on") || p.ends_with(" off")) {
                return Err("say: press NAME 3 times, 50ms on, 50ms off".to_string());
            }
            Ok(Deed::Press { name, times, on: part(" on")?, off: part(" off")? })
        }
        _ => Err("say: press NAME for TIME, or press NAME 3 times, 50ms on, 50ms off".to_string()),
    }
}

fn expect(rest: &str) -> Result<Deed, String> {
    let whole = |expr: &str| if expr.is_empty() { Err("expect what?".to_string()) } else { Ok(expr.to_string()) };
    if let Some((expr, time)) = split(rest, "unchanged for") {
        return Ok(Deed::Unchanged(whole(expr)?, lapse(&words_of(time))?));
    }
    if let Some((expr, time)) = split(rest, "within") {
        return Ok(Deed::Expect(whole(expr)?, When::Within(lapse(&words_of(time))?)));
    }
    if let Some((expr, time)) = split(rest, "for") {
        return Ok(Deed::Expect(whole(expr)?, When::For(lapse(&words_of(time))?)));
    }
    Ok(Deed::Expect(whole(rest)?, When::Now))
}

/// The words that lines begin with, and what stands behind them.
pub(super) const FORMS: &[(&str, &str)] = &[
    ("set", "set NAME on, set NAME off, set NAME to VALUE"),
    ("toggle", "toggle NAME"),
    ("press", "press NAME, press NAME for TIME, press NAME 3 times, 50ms on, 50ms off"),
    ("hold", "hold NAME"),
    ("drop", "drop NAME"),
    ("wait", "wait TIME, wait 3 scans, wait until EXPRESSION at most TIME"),
    ("ramp", "ramp NAME from VALUE to VALUE in TIME"),
    ("force", "force NAME to VALUE"),
    ("release", "release NAME"),
    ("write", "write NAME to VALUE"),
    ("power", "power cycle, power off for TIME"),
    ("cold", "cold start"),
    ("stop", "stop"),
    ("run", "run"),
    ("expect", "expect EXPRESSION, with `within TIME`, `for TIME` or `unchanged for TIME` behind it"),
    ("repeat", "repeat 10 times, then lines, then end"),
];

fn unknown(word: &str) -> String {
    let words = || FORMS.iter().map(|(word, _)| *word);
    if let Some((_, form)) = FORMS.iter().find(|(known, _)| *known == word) {
        return format!("this form of `{word}` is not known; it is written {form}");
    }
    match words().find(|w| strsim::damerau_levenshtein(w, word) <= 1) {
        Some(near) => format!("no line begins with `{word}`; did you mean `{near}`?"),
        None => {
            let all: Vec<&str> = words().collect();
            format!("no line begins with `{word}`; lines begin with {}", all.join(", "))
        }
    }
}
