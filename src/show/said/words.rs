//! Numbers and lists in words.

/// Names that are listed before the rest is only counted.
const MOST_NAMES: usize = 12;

pub(in crate::show) fn names<'a>(list: impl Iterator<Item = &'a str>) -> String {
    let list: Vec<&str> = list.collect();
    match list.len() {
        0 => "nothing".to_string(),
        n if n > MOST_NAMES => format!("{}, and {} more", list[..MOST_NAMES].join(", "), n - MOST_NAMES),
        _ => list.join(", "),
    }
}

/// Names and their values, as a rule or a statement read them.
pub(in crate::show) fn reads(values: &[[String; 2]]) -> String {
    let each: Vec<String> = values.iter().map(|[name, value]| format!("{name} = {value}")).collect();
    if each.is_empty() { "nothing that has a name".to_string() } else { each.join(", ") }
}

/// `1 scan`, `2,000 scans`, `3 entries`.
pub(in crate::show) fn count(number: u64, word: &str) -> String {
    let grouped = grouped(number);
    match (number, word.strip_suffix('y')) {
        (1, _) => format!("1 {word}"),
        (_, Some(stem)) => format!("{grouped} {stem}ies"),
        _ => format!("{grouped} {word}s"),
    }
}

/// `2,000`.
pub(in crate::show) fn grouped(number: u64) -> String {
    let digits = number.to_string();
    let mut grouped = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    grouped
}

pub(in crate::show) fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}
