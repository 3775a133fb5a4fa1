//! Which trap a difference looks like. What was undone and made both agree comes first; then what the sheets of both sides and
//! the difference itself give reason for; then signs, each weak. It is a hint and says so.

use super::undo::Findings;
use super::{Explanation, Finding, Hint};
use crate::twin::{Scenario, What};

/// Titles and what mends them, by number.
const TRAPS: [(&str, &str); 30] = [
    ("ticks or a duration", "state the preset as a duration, or in ticks of the right length"),
    ("counting up or down", "read what is left as preset minus elapsed"),
    ("elapsed falls to zero or is kept", "use the retentive kind on both sides, or reset it where the input drops"),
    ("elapsed stops or runs on", "limit what is read to the preset"),
    ("the done bit at once or a scan later", "ask the done bit below the timer, or keep a copy for those above"),
    ("a timer that resets itself", "keep the order of the timer and of its contact"),
    ("counting an edge or a level", "put an edge in front of the count input, or take it away"),
    ("where a count stops", "limit the count as the old counter did"),
    ("equal, or at least", "ask for at least, not for equal"),
    ("count and reset together", "let the same of the two win on both sides"),
    ("two inputs or a direction", "derive both count inputs from the direction"),
    ("a preset changed below the block", "change the preset above the block on both sides"),
    ("set and reset together, or two writers", "make the same side dominant, and keep the order of the writers"),
    ("wired normally closed", "change the contact or the wiring, not both"),
    ("changes in the same scan", "decide what two changes at once mean, and write it once"),
    ("another numbering of points", "check the map of addresses"),
    ("protocol numbers are offset", "check the protocol map"),
    ("what survives loss of power", "declare it RETAIN on both sides, or on neither"),
    ("width, sign and overflow", "use a type of the same width and sign, and limit what may overflow"),
    ("windows that leave or share an instant", "make one end of each window inclusive, the other strict"),
    ("first or last decision wins", "keep the order in which decisions override each other"),
    ("a scan of delay for images", "copy inputs before and outputs behind the logic on both sides"),
    ("the end marker", "move what stands below the end marker, or leave it out"),
    ("an edge that is jumped over", "call the edge in every scan, and decide with its answer"),
    ("a timer that is not executed", "call the timer in every scan with its input as the condition"),
    ("a pulse shorter than a scan", "stretch the pulse, or catch it in the input card"),
    ("a box that is not enabled", "say what its outputs are when it is not enabled"),
    ("division, remainder and rounding", "say how negative numbers are divided and reals rounded"),
    ("initial values and first scans", "initialise both sides alike"),
    ("forced points", "release what is forced before comparing"),
];

/// What is known of a difference.
pub(super) struct Evidence<'e> {
    found: &'e Finding,
    findings: &'e Findings,
    /// Texts of the causes, left and right.
    texts: [String; 2],
    again: Option<u64>,
    /// They differ in the first scan, with all inputs at rest.
    at_rest: bool,
    /// Names of what the causes have read.
    read: Vec<String>,
    /// Values of the output, and what the causes have read and written.
    values: Vec<i128>,
}

impl<'e> Evidence<'e> {
    pub(super) fn new(
        scenario: &Scenario,
        found: &'e Finding,
        findings: &'e Findings,
        told: &Explanation,
        again: Option<u64>,
    ) -> Evidence<'e> {
        let text = |side: usize| told.causes[side].iter().map(|c| format!(" {} ", c.text)).collect::<String>();
        let cells = told.causes.iter().flatten().flat_map(|c| c.reads.iter().chain([&c.wrote]));
        Evidence {
            texts: [text(0), text(1)],
            values: cells.filter_map(|[_, value]| value.parse().ok()).collect(),
            read: told.causes.iter().flatten().flat_map(|c| &c.reads).map(|[name, _]| name.to_uppercase()).collect(),
            at_rest: found.scan == 0 && scenario.happenings() == 0,
            found,
            findings,
            again,
        }
    }

    fn any(&self, words: &[&str]) -> bool {
        self.texts.iter().any(|text| words.iter().any(|w| text.contains(w)))
    }

    /// Whether a pin of one of these names is read on the way.
    fn reads(&self, pins: &[&str]) -> bool {
        self.read.iter().any(|name| pins.iter().any(|pin| name.ends_with(pin)))
    }

    fn is_confirmed(&self, trap: u8) -> bool {
        self.findings.confirmed.iter().any(|c| c.trap == trap)
    }
}

/// Hints that are given at most.
const MOST_HINTS: usize = 3;

/// Traps that fit, the likeliest first.
pub(super) fn hints(e: &Evidence<'_>) -> Vec<Hint> {
    let undone = |in_program: bool| {
        let fits = e.findings.confirmed.iter().filter(move |c| c.in_program == in_program);
        fits.map(|c| (c.trap, format!("{} both agree, here and in other scenarios", c.words)))
    };
    let mut found: Vec<Reason> = undone(true).collect();
    if found.is_empty() {
        found = reasons(e);
        found.extend(undone(false));
    }
    if found.is_empty() {
        found = signs(e);
    }
    let mut out: Vec<Hint> = Vec::new();
    for (trap, why) in found {
        let (title, mend) = TRAPS[usize::from(trap) - 1];
        if out.len() < MOST_HINTS && !out.iter().any(|hint| hint.trap == trap) {
            out.push(Hint { trap, title: title.to_string(), why, mend: mend.to_string() });
        }
    }
    out
}

/// A trap, and what points to it.
type Reason = (u8, String);

/// What the devices of both sides, and the way in which the outputs differ, give reason for.
fn reasons(e: &Evidence<'_>) -> Vec<Reason> {
    let mut out: Vec<Reason> = Vec::new();
    let short = e.findings.late || matches!(e.again, Some(1 | 2));
    let negative = e.values.iter().any(|v| *v < 0);
    if negative && e.any(DIVISIONS) {
        out.push((28, "a negative number is divided or converted".to_string()));
    }
    for (trap, why) in &e.findings.facts {
        let fits = match trap {
            2 | 4 => e.reads(&["ET", "ELAPSED", "LEFT"]),
            5 => short,
            7..=9 => e.is_confirmed(*trap),
            29 => e.found.scan == 0,
            _ => true,
        };
        if fits {
            out.push((*trap, (*why).to_string()));
        }
    }
    if e.findings.restarts {
        out.push((6, "a timer among the causes starts itself over".to_string()));
    }
    if e.values.iter().any(|v| LIMITS.contains(v)) && out.is_empty() {
        let trap = if e.findings.facts.iter().any(|(trap, _)| *trap == 8) { 8 } else { 19 };
        out.push((trap, "a number is at the limit of its type".to_string()));
    }
    if e.findings.late && !e.findings.timers {
        out.push((22, "one side does the same a scan later".to_string()));
    }
    out
}

/// Words of divisions, remainders and conversions.
const DIVISIONS: &[&str] = &[" MOD ", " / ", "_TO_", "DIV", "TRUNC", "ROUND"];

/// Ends of what a register or four digits hold.
const LIMITS: &[i128] = &[9_999, 32_767, 65_535, -32_768, 2_147_483_647, -2_147_483_648];

/// Signs of what was not undone, or could not be.
fn signs(e: &Evidence<'_>) -> Vec<Reason> {
    let mut out: Vec<Reason> = Vec::new();
    if e.any(DIVISIONS) {
        out.push((28, "a division, remainder or conversion is among the causes".to_string()));
    }
    if e.values.iter().any(|v| v.abs() >= 30_000) || matches!(e.found.what, What::Fault(_)) {
        out.push((19, "a number is near the limit of its type".to_string()));
    }
    if e.at_rest && e.findings.begins {
        out.push((29, "they differ before anything happens".to_string()));
    }
    if e.any(&["EN ", "EN:"]) {
        out.push((27, "a box with EN is among the causes".to_string()));
    }
    out
}
