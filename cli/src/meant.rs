//! What is meant by the words behind options.

use honest_twin::lang::{DurationError, LANGUAGES, Language};
use honest_twin::model::Duration;
use honest_twin::scan::ScanTime;
use honest_twin::twin::{Effort, TimeError};

pub(crate) fn language(text: &str) -> Result<Language, String> {
    let found = LANGUAGES.iter().copied().find(|l| l.ending().eq_ignore_ascii_case(text));
    found.ok_or_else(|| {
        let known: Vec<&str> = LANGUAGES.iter().map(|l| l.ending()).collect();
        format!("the languages are {}", known.join(", "))
    })
}

pub(crate) fn effort(text: &str) -> Result<Box<Effort>, String> {
    Effort::named(text).map(Box::new).ok_or_else(|| {
        "an effort is quick, default, deep, or so many times the default, from 0.01 to 10000".to_string()
    })
}

pub(crate) fn duration(text: &str) -> Result<Duration, DurationError> {
    honest_twin::lang::read_duration(text)
}

pub(crate) fn scan_time(text: &str) -> Result<ScanTime, TimeError> {
    honest_twin::twin::file::read_scan_time(text)
}

/// `2/3` is the second of three parts.
pub(crate) fn shard(text: &str) -> Result<(u64, u64), String> {
    let parts = text.split_once('/').and_then(|(k, n)| Some((k.parse::<u64>().ok()?, n.parse::<u64>().ok()?)));
    match parts {
        Some((k, n)) if (1..=n).contains(&k) => Ok((k - 1, n)),
        _ => Err("a part is written K/N, from 1/N to N/N".to_string()),
    }
}
