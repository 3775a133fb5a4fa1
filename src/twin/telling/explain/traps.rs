//! Which trap a difference looks like: signs, each weak, the strongest first. It is a hint and says so.

use super::{Explanation, Finding, Hint, at_once};
use crate::check::typed::{TInit, TUnit, Ty};
use crate::scan::Power;
use crate::twin::scenario::{Leaf, Scenario};
use crate::twin::vocabulary::Vocabulary;
use crate::twin::{Timing, Twin, Version, What};

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
    twin: &'e Twin<'e>,
    found: &'e Finding,
    /// Texts of the causes, left and right.
    texts: [String; 2],
    at_once: usize,
    /// They differ in the first scan, and nothing was changed before it.
    at_rest: bool,
    powered: bool,
    holds: bool,
    presses: u64,
    again: Option<u64>,
    own: [Vocabulary; 2],
    values: Vec<i128>,
}

impl<'e> Evidence<'e> {
    pub(super) fn new(
        twin: &'e Twin<'e>,
        scenario: &Scenario,
        found: &'e Finding,
        told: &Explanation,
        again: Option<u64>,
    ) -> Evidence<'e> {
        let text = |side: usize| {
            let words = |c: &super::Cause| {
                let names: Vec<&str> = c.reads.iter().map(|[name, _]| name.as_str()).collect();
                format!(" {} {} ", c.text, names.join(" "))
            };
            told.causes[side].iter().map(words).collect::<String>()
        };
        let leaves = || scenario.leaves().take(10_000);
        let cells = told.causes.iter().flatten().flat_map(|c| c.reads.iter().chain([&c.wrote]));
        Evidence {
            texts: [text(0), text(1)],
            at_once: at_once(scenario),
            at_rest: found.scan == 0 && !leaves().any(|l| matches!(l, Leaf::Set(_))),
            powered: leaves().any(|l| matches!(l, Leaf::Power(Power::Cycle | Power::Cold))),
            holds: leaves().any(|l| matches!(l, Leaf::Wait(n) if n > 1)),
            presses: leaves().filter(|l| matches!(l, Leaf::Set(c) if c.value != 0)).count() as u64,
            own: [Vocabulary::of([&twin.left, &twin.left]), Vocabulary::of([&twin.right, &twin.right])],
            values: cells.filter_map(|[_, value]| value.parse().ok()).collect(),
            twin,
            found,
            again,
        }
    }

    fn both(&self, test: impl Fn(&str) -> bool) -> [bool; 2] {
        [test(&self.texts[0]), test(&self.texts[1])]
    }

    fn any(&self, words: &[&str]) -> bool {
        let has = |text: &str| words.iter().any(|w| text.contains(w));
        self.both(has).contains(&true)
    }

    /// The blocks whose instances the causes name, as far as their texts tell.
    fn kinds(&self, side: usize) -> Vec<&'e TUnit> {
        let version: &'e Version = if side == 0 { &self.twin.left } else { &self.twin.right };
        let own = version.checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        let mut out = Vec::new();
        for var in own.chain(&version.checked.globals) {
            if let Ty::Block(unit) = &var.ty
                && self.texts[side].to_uppercase().contains(&var.name.to_uppercase())
            {
                out.push(version.checked.unit(*unit));
            }
        }
        out
    }

    fn names(&self, side: usize) -> Vec<&'e str> {
        self.kinds(side).into_iter().map(|u| u.name.as_str()).collect()
    }

    fn any_kind(&self, test: fn(&TUnit) -> bool) -> bool {
        self.kinds(0).into_iter().chain(self.kinds(1)).any(test)
    }

    fn retained(&self, side: usize) -> usize {
        let version: &Version = if side == 0 { &self.twin.left } else { &self.twin.right };
        let vars = version.checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        let kept = vars.chain(&version.checked.globals).filter(|v| v.retain == crate::model::Retain::Retain);
        kept.count()
    }

    fn initial(&self, side: usize) -> Vec<(String, TInit)> {
        let version: &Version = if side == 0 { &self.twin.left } else { &self.twin.right };
        let vars = version.checked.units.iter().filter(|u| !u.built_in).flat_map(|u| &u.vars);
        vars.map(|v| (v.name.to_uppercase(), v.init.clone())).collect()
    }
}

/// Measures time: it has a stopwatch, or a time is given to it.
fn is_timer(unit: &TUnit) -> bool {
    unit.vars.iter().any(|v| v.ty == Ty::Watch || v.ty.elem().is_some_and(crate::model::Elem::is_time))
}

/// Counts: it keeps a number and measures no time.
fn is_counter(unit: &TUnit) -> bool {
    !is_timer(unit) && unit.vars.iter().any(|v| v.ty.elem().is_some_and(|e| e.shape().is_some_and(|s| s.bits > 8)))
}

fn counters_or_timers(e: &Evidence<'_>) -> bool {
    e.any_kind(|u| is_timer(u) || is_counter(u))
}

fn is_edge(unit: &TUnit) -> bool {
    unit.name.contains("TRIG")
}

/// True for `=` that is no part of another sign.
fn asks_equal(text: &str) -> bool {
    let bytes = text.as_bytes();
    let near = |at: usize| bytes.get(at).copied().unwrap_or(b' ');
    let plain = |at: usize| !b":<>=".contains(&near(at.wrapping_sub(1))) && near(at + 1) != b'>';
    bytes.iter().enumerate().any(|(at, b)| *b == b'=' && plain(at)) || text.contains("EQ ")
}

fn asks_least(text: &str) -> bool {
    text.contains(">=") || text.contains("GE ") || text.contains(".Q")
}

/// Traps that fit, the likeliest first; at most three.
pub(super) fn hints(e: &Evidence<'_>) -> Vec<Hint> {
    let mut found: Vec<(u32, u8, String)> = Vec::new();
    for sign in [timing_signs, counting_signs, order_signs, value_signs] {
        sign(e, &mut found);
    }
    found.sort_by_key(|(weight, ..)| std::cmp::Reverse(*weight));
    found.dedup_by_key(|(_, trap, _)| *trap);
    let hint = |(_, trap, why): (u32, u8, String)| {
        let (title, mend) = TRAPS[usize::from(trap) - 1];
        Hint { trap, title: title.to_string(), why, mend: mend.to_string() }
    };
    found.into_iter().take(3).map(hint).collect()
}

type Signs = Vec<(u32, u8, String)>;

fn timing_signs(e: &Evidence<'_>, out: &mut Signs) {
    let only = |side: usize| e.own[side].times.iter().filter(move |t| **t > 0 && !e.own[1 - side].times.contains(t));
    let timers = e.any_kind(is_timer);
    for a in only(0) {
        for b in only(1) {
            let (low, high) = (*a.min(b), *a.max(b));
            if low > 0 && high % low == 0 && [10, 100, 1000].contains(&(high / low)) {
                let times = [low, high].map(|t| crate::model::format_duration(crate::model::Duration::from_nanos(t)));
                out.push((
                    if timers { 95 } else { 55 },
                    1,
                    format!("one side waits {}, the other {}", times[0], times[1]),
                ));
            }
        }
    }
    if let Timing::Free(_) = e.twin.timing {
        out.push((70, 26, "the scan times differ".to_string()));
    }
    match e.again {
        Some(1 | 2) if timers => {
            out.push((72, 5, "they differ for a scan, and a timer is among the causes".to_string()));
            out.push((50, 6, "they differ for a scan, and a timer is among the causes".to_string()));
        }
        Some(1) => out.push((55, 22, "they differ for one scan".to_string())),
        _ => {}
    }
    let presets: Vec<i64> = e.own.iter().flat_map(|v| v.times.iter().chain(&v.numbers)).copied().collect();
    let beyond = |v: &i128| *v > 0 && presets.iter().any(|p| *p > 1 && *v == i128::from(*p) + 1);
    if timers && e.values.iter().any(beyond) {
        out.push((80, 4, "one side has gone past a preset".to_string()));
    }
    if timers && e.found.scan == 0 {
        out.push((79, 2, "a timer shows another value before anything happens".to_string()));
    }
    if timers && e.names(0) != e.names(1) {
        out.push((57, 3, "the timers are of different kinds".to_string()));
    }
    if timers && e.presses > 1 {
        out.push((40, 3, "a timer is among the causes, and its input came more than once".to_string()));
    }
    let inside = e.both(|t| t.contains("IF ") || t.contains("JMP"));
    if timers && inside[0] != inside[1] {
        out.push((60, 25, "on one side the timer stands inside a decision".to_string()));
    }
}

fn counting_signs(e: &Evidence<'_>, out: &mut Signs) {
    let equal = e.both(asks_equal);
    let least = e.both(asks_least);
    let counters = e.any_kind(is_counter) || e.any(&["+ 1", "CU ", "CD "]);
    if equal[0] != equal[1] && (counters || (equal[0] && least[1]) || (equal[1] && least[0])) {
        out.push((92, 9, "one side asks whether the count is equal, the other does not".to_string()));
    }
    let strict = e.both(|t| t.contains(" > ") || t.contains(" < ") || t.contains("GT ") || t.contains("LT "));
    if counters && strict[0] != strict[1] && equal == [false, false] {
        out.push((85, 9, "one side asks for more than the preset, the other for at least".to_string()));
    }
    if counters {
        let limits: &[i128] = &[9999, 10_000, 32_767, 65_535, -32_768, 32_768];
        if e.values.iter().any(|v| limits.contains(v)) {
            out.push((93, 8, "a count is at a limit".to_string()));
        }
        if e.at_once > 1 {
            out.push((75, 10, "count and another input change in the same scan".to_string()));
        }
        if e.at_once > 1 && e.names(0) != e.names(1) {
            out.push((76, 11, "the counters are of different kinds".to_string()));
        }
        if e.holds {
            out.push((45, 7, "a count input is on for more than one scan".to_string()));
        }
        out.push((30, 8, "a counter is among the causes".to_string()));
    }
    let edges = e.any(&["R_TRIG", "F_TRIG", "|P|", "|N|"]) || e.any_kind(is_edge);
    let inside = e.both(|t| t.contains("IF ") || t.contains("JMP"));
    if edges && inside[0] != inside[1] {
        out.push((78, 24, "on one side the edge stands inside a decision".to_string()));
    } else if edges {
        out.push((35, 24, "an edge is among the causes".to_string()));
    }
}

fn order_signs(e: &Evidence<'_>, out: &mut Signs) {
    let dominant =
        |side: usize| -> Vec<&str> { e.names(side).into_iter().filter(|k| matches!(*k, "SR" | "RS")).collect() };
    if dominant(0) != dominant(1) {
        out.push((96, 13, "one latch is set dominant, the other reset dominant".to_string()));
    }
    if e.at_once > 1 {
        out.push((58, 13, "two inputs change in the same scan".to_string()));
        out.push((42, 15, "two inputs change in the same scan".to_string()));
    }
    if e.found.scan == 0 && e.presses > 1 {
        out.push((60, 15, "two inputs are on in the same scan".to_string()));
    }
    let chained = e.twin.versions().map(|v| v.checked.project().sources.iter().any(|s| s.text.contains("ELSIF")));
    if chained[0] != chained[1] {
        out.push((
            if counters_or_timers(e) { 38 } else { 74 },
            21,
            "one side decides in a chain, the other in several statements".to_string(),
        ));
    }
    let negated = e.both(|t| t.contains("NOT ") || t.contains("|/|") || t.contains("LDN"));
    if e.found.scan == 0 && negated[0] != negated[1] {
        out.push((76, 14, "they differ at rest, and one side asks for the opposite".to_string()));
    }
    let enabled = e.both(|t| t.contains("EN ") || t.contains("EN:"));
    if enabled.contains(&true) {
        out.push((48, 27, "a box with EN is among the causes".to_string()));
    }
}

fn value_signs(e: &Evidence<'_>, out: &mut Signs) {
    if e.powered {
        let weight = if e.retained(0) == e.retained(1) { 66 } else { 90 };
        out.push((weight, 18, "the power has to be switched off and on".to_string()));
        out.push((44, 29, "the power has to be switched off and on".to_string()));
    }
    let same = e.initial(0) == e.initial(1);
    if e.at_rest || (e.found.scan == 0 && !same) {
        out.push((if same { 46 } else { 68 }, 29, "they differ in the very first scan".to_string()));
    }
    if e.any(&[" MOD ", " / ", "_TO_", "DIV", "REAL_", "TRUNC", "ROUND"]) {
        let negative = e.values.iter().any(|v| *v < 0);
        out.push((
            if negative { 94 } else { 65 },
            28,
            "a division, remainder or conversion is among the causes".into(),
        ));
    }
    if e.values.iter().any(|v| v.abs() >= 30_000) {
        out.push((62, 19, "a number is near the limit of its type".to_string()));
    }
    let strict = e.both(|t| t.contains(" < ") || t.contains(" > "));
    let inclusive = e.both(|t| t.contains("<=") || t.contains(">="));
    if (strict[0] && inclusive[1]) || (strict[1] && inclusive[0]) {
        out.push((64, 20, "one side compares strictly, the other inclusively".to_string()));
    }
    if matches!(e.found.what, What::Fault(_)) {
        out.push((40, 19, "one side stops with a fault".to_string()));
    }
}
