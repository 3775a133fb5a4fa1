//! The acts that a session has beside those of scenarios: looking, going back, measuring, changing, saving.

use crate::lang::read_duration;
use crate::model::Duration;

/// How far to go.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Way {
    /// So many acts.
    Acts(usize),
    /// So many scans.
    Scans(u64),
    /// So much time.
    By(Duration),
    /// To a moment: behind the last scan that begins then or earlier.
    To(Duration),
    /// To where the session began, or to where it has come.
    End,
}

/// One act of a session.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Act {
    Scan(u64),
    Watch(Vec<String>),
    Unwatch(Vec<String>),
    Show(Vec<String>),
    Back(Way),
    Forward(Way),
    Measure(Vec<String>),
    Change(String, String),
    PutBack(Option<String>),
    Again,
    Save(String),
    Search,
    Now,
    Why(String),
    Help(Option<String>),
    Quit,
}

/// The forms of the acts, and what each is for.
pub(crate) const FORMS: &[(&str, &str, &str)] = &[
    ("scan", "scan, scan 5", "so many scans go by"),
    (
        "watch",
        "watch NAME, NAME; watch alone tells what is watched",
        "a point, a whole instance or array, or an address is told from now on",
    ),
    ("unwatch", "unwatch NAME, unwatch all", "it is told no more"),
    (
        "show",
        "show, show 3, show 3..5, show UNIT, show UNIT 3..5, show NAME",
        "rungs and networks with power and values, as the last scan executed them",
    ),
    ("now", "now", "where things stand: time, inputs, outputs, devices, what is watched and held"),
    ("why", "why NAME", "the statement that wrote it last, what that read, and so on"),
    (
        "back",
        "back, back 3 acts, back 10 scans, back 2s, back to 4.3s, back to start",
        "earlier: everything is as it was then",
    ),
    (
        "forward",
        "forward, forward 3 acts, forward 10 scans, forward 2s, forward to 4.3s, forward to end",
        "the same way on again",
    ),
    (
        "measure",
        "measure NAME, NAME; measure alone takes all outputs",
        "how often it rose, how long it was on, from rise to rise, least and most",
    ),
    ("change", "change NAME to VALUE", "a preset or a constant is held at another value"),
    ("put", "put back NAME, put back all", "it is what it was"),
    ("read", "read again", "the sources are read anew; memory of the same name and type is kept"),
    (
        "save",
        "save FILE.scenario, save FILE.csv (a stimulus), save FILE.table.csv (a sequence table)",
        "what was done so far, of a table with what was seen as what is expected",
    ),
    ("search", "search", "of two versions: the shortest way on from here in which they differ"),
    ("help", "help, help ACT", "what there is"),
    ("quit", "quit", "the end"),
];

/// Reads a line as an act of a session; none if it begins with no word of theirs.
///
/// # Errors
/// If it begins with one and goes on otherwise.
pub(super) fn act(line: &str) -> Result<Option<Act>, String> {
    let words: Vec<&str> = line.split_whitespace().collect();
    let names = |words: &[&str]| -> Vec<String> {
        let joined = words.join(" ");
        let parts = joined.split([',', ' ']).map(str::trim).filter(|name| !name.is_empty());
        parts.map(str::to_string).collect()
    };
    Ok(Some(match words.as_slice() {
        ["scan"] => Act::Scan(1),
        ["scan", count] => Act::Scan(number(count).ok_or_else(|| form("scan"))?),
        ["watch", rest @ ..] => Act::Watch(names(rest)),
        ["unwatch", "all"] => Act::Unwatch(Vec::new()),
        ["unwatch", first, rest @ ..] => Act::Unwatch(names(&[&[*first], rest].concat())),
        ["show", rest @ ..] => Act::Show(rest.iter().map(|w| (*w).to_string()).collect()),
        ["now"] => Act::Now,
        ["why", name] => Act::Why((*name).to_string()),
        ["back", rest @ ..] => Act::Back(way(rest, "start").ok_or_else(|| form("back"))?),
        ["forward", rest @ ..] => Act::Forward(way(rest, "end").ok_or_else(|| form("forward"))?),
        ["measure", rest @ ..] => Act::Measure(names(rest)),
        ["change", name, "to", value] => Act::Change((*name).to_string(), (*value).to_string()),
        ["put", "back", "all"] => Act::PutBack(None),
        ["put", "back", name] => Act::PutBack(Some((*name).to_string())),
        ["read", "again"] => Act::Again,
        ["save", path] => Act::Save((*path).to_string()),
        ["search"] => Act::Search,
        ["help"] => Act::Help(None),
        ["help", what] => Act::Help(Some((*what).to_string())),
        ["quit"] => Act::Quit,
        [word, ..] if FORMS.iter().any(|(known, ..)| known == word) => return Err(form(word)),
        _ => return Ok(None),
    }))
}

/// What would do in place of a form that there is not.
fn form(word: &str) -> String {
    let known = FORMS.iter().find(|(known, ..)| *known == word);
    known.map_or(String::new(), |(_, form, _)| format!("this form of `{word}` is not known; it is written {form}"))
}

fn number(word: &str) -> Option<u64> {
    word.parse().ok().filter(|n| (1..=10_000_000).contains(n))
}

fn way(words: &[&str], end: &str) -> Option<Way> {
    Some(match words {
        [] => Way::Acts(1),
        ["to", word] if *word == end => Way::End,
        ["to", rest @ ..] if !rest.is_empty() => Way::To(time(rest)?),
        [count, "act" | "acts"] => Way::Acts(number(count)? as usize),
        [count, "scan" | "scans"] => Way::Scans(number(count)?),
        rest => Way::By(time(rest)?),
    })
}

/// `2s`, `1m30s`, `4.3s`.
fn time(words: &[&str]) -> Option<Duration> {
    read_duration(&words.concat()).ok().filter(|time| *time >= Duration::ZERO)
}

/// What is wrong with a line that begins with no word of a session or of a scenario.
pub(super) fn unknown(line: &str) -> String {
    let word = line.split_whitespace().next().unwrap_or("");
    let all: Vec<&str> = super::words().collect();
    match all.iter().find(|known| strsim::damerau_levenshtein(known, word) <= 1) {
        Some(near) => format!("no act begins with `{word}`; did you mean `{near}`?"),
        None => format!("no act begins with `{word}`; acts begin with {}", all.join(", ")),
    }
}
