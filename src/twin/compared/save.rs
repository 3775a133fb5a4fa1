//! A comparison written down as the twin file that does it again.

use crate::model::{Duration, format_duration};
use crate::scan::ScanTime;
use crate::twin::file::FileVersion;
use crate::twin::pair::{NO_INPUTS, Pair, reading_word};
use crate::twin::{Assumption, Effort, Known, Law, Mapping, Timing, Tolerance, Twin, scenario};

/// The twin file that a comparison would have meant: versions as they were read (`versions` says how, left and right), pairs
/// and what becomes of their values, ranges, tolerances, what was agreed to, and rules. Scenarios and plants are named as files.
#[must_use]
pub fn write(
    twin: &Twin<'_>,
    versions: &[&FileVersion],
    [scenarios, plants]: [&[String]; 2],
    effort: &Effort,
) -> String {
    let mut out = String::new();
    let own = match &twin.timing {
        Timing::Lockstep(time) => {
            out.push_str(&format!("scan = \"{}\"\nmode = \"lockstep\"\n", scan(time)));
            [None, None]
        }
        Timing::Free(times) => {
            out.push_str("mode = \"free\"\n");
            times.each_ref().map(|time| Some(scan(time)))
        }
    };
    list(&mut out, "leave", left_out(twin));
    list(&mut out, "agree", agreed(twin));
    let assumed: Vec<String> = twin.assumed.iter().map(Assumption::text).collect();
    list(&mut out, "assume", assumed.iter().map(String::as_str));
    list(&mut out, "scenarios", scenarios.iter().map(String::as_str));
    list(&mut out, "plants", plants.iter().map(String::as_str));
    out.push('\n');
    for ((version, said), own) in twin.versions().into_iter().zip(versions).zip(own) {
        out.push_str(&format!("[[version]]\nname = {}\n", quoted(&version.name)));
        list(&mut out, "files", said.files.iter().map(String::as_str));
        list(&mut out, "sheets", said.sheets.iter().map(String::as_str));
        list(&mut out, "given", said.given.iter().map(String::as_str));
        list(&mut out, "shown", said.shown.iter().map(String::as_str));
        list(&mut out, "retain", said.retain.iter().map(String::as_str));
        for (key, value) in
            [("dialect", &said.dialect), ("tags", &said.tags), ("program", &said.program), ("scan", &own)]
        {
            if let Some(value) = value {
                out.push_str(&format!("{key} = {}\n", quoted(value)));
            }
        }
        out.push('\n');
    }
    // One version by itself pairs nothing.
    for pair in twin.pairing.inputs.iter().chain(&twin.pairing.outputs).filter(|_| !twin.is_single()) {
        out.push_str(&paired(twin, pair));
    }
    out.push_str(&inputs(twin));
    out.push_str("[tolerance]\ndefault = \"exact\"\n");
    for pair in &twin.pairing.outputs {
        if let Tolerance::Within(time) = pair.tolerance {
            out.push_str(&format!("{} = \"{}\"\n", quoted(&pair.name), format_duration(time)));
        }
    }
    out.push('\n');
    twin.pairing.known.iter().for_each(|known| out.push_str(&agreed_to(known)));
    twin.rules.iter().for_each(|rule| out.push_str(&law(&rule.name, &rule.law)));
    out.push_str(&format!(
        "[effort]\nscenarios = {}\nscans = {}\nwork = {}\nseed = {}\nfaults = {}\n",
        effort.scenarios, effort.scans, effort.work, effort.seed, effort.faults
    ));
    out
}

fn quoted(text: &str) -> String {
    toml::Value::String(text.to_string()).to_string()
}

/// A list of texts, if there are any.
fn list<'t>(out: &mut String, key: &str, texts: impl IntoIterator<Item = &'t str>) {
    let all: Vec<String> = texts.into_iter().map(quoted).collect();
    if !all.is_empty() {
        out.push_str(&format!("{key} = [{}]\n", all.join(", ")));
    }
}

fn scan(time: &ScanTime) -> String {
    match time {
        ScanTime::Range { low, high, .. } => format!("{}..{}", format_duration(*low), format_duration(*high)),
        ScanTime::Fixed(_) | ScanTime::Given(_) => format_duration(time.longest()),
    }
}

/// Pairs that were taken apart by saying so.
fn left_out<'t>(twin: &'t Twin<'_>) -> Vec<&'t str> {
    twin.pairing.alone.iter().filter(|alone| alone.is_left_out()).map(|alone| alone.name.as_str()).collect()
}

fn agreed<'t>(twin: &'t Twin<'_>) -> Vec<&'t str> {
    let alone = twin.pairing.alone.iter().filter(|alone| alone.agreed && !alone.is_left_out());
    // What has moved is paired by hand here, which settles it.
    let mut out: Vec<&str> = alone.map(|alone| alone.name.as_str()).collect();
    if twin.pairing.closed {
        out.push(NO_INPUTS);
    }
    out
}

fn paired(twin: &Twin<'_>, pair: &Pair) -> String {
    let [left, right] = twin.versions();
    let (a, b) = (&left.machine.point(pair.left).name, &right.machine.point(pair.right).name);
    let how = match pair.mapping {
        Mapping::Same => String::new(),
        Mapping::Inverted => "inverted = true\n".to_string(),
        Mapping::Scaled(by, 1) => format!("scale = \"{by}\"\n"),
        Mapping::Scaled(by, over) => format!("scale = \"{by}/{over}\"\n"),
        Mapping::Number | Mapping::Bits | Mapping::Name => {
            format!("reading = \"{}\"\n", reading_word(pair.mapping).unwrap_or_default())
        }
    };
    format!("[[pair]]\nleft = {}\nright = {}\n{how}\n", quoted(a), quoted(b))
}

/// Values of inputs at rest, and ranges.
fn inputs(twin: &Twin<'_>) -> String {
    let text = |pair: &Pair, slot: i64| scenario::value(twin, pair.left, slot).cell();
    let mut out = String::new();
    for (table, line) in [
        ("rest", &(|pair: &Pair| pair.rest.map(|rest| text(pair, rest))) as &dyn Fn(&Pair) -> Option<String>),
        ("range", &|pair| pair.range.map(|(low, high)| format!("{}..{}", text(pair, low), text(pair, high)))),
    ] {
        let lines: Vec<String> = twin
            .pairing
            .inputs
            .iter()
            .filter_map(|pair| Some(format!("{} = {}\n", quoted(&pair.name), quoted(&line(pair)?))))
            .collect();
        if !lines.is_empty() {
            out.push_str(&format!("[{table}]\n{}\n", lines.concat()));
        }
    }
    out
}

fn agreed_to(known: &Known) -> String {
    let mut out = format!("[[known]]\nwhy = {}\n", quoted(&known.why));
    if let Some(when) = &known.when {
        out.push_str(&format!("when = {}\n", quoted(when)));
    }
    list(&mut out, "outputs", known.outputs.iter().map(String::as_str));
    out + "\n"
}

fn law(name: &str, law: &Law) -> String {
    let time = |time: &Duration| quoted(&format_duration(*time));
    let what = match law {
        Law::Always(text) => format!("always = {}\n", quoted(text)),
        Law::Never(text) => format!("never = {}\n", quoted(text)),
        Law::After(text, then, within) => {
            format!("after = {}\nthen = {}\nwithin = {}\n", quoted(text), quoted(then), time(within))
        }
        Law::Lasts(text, least) => format!("lasts = {}\nat_least = {}\n", quoted(text), time(least)),
    };
    format!("[[rule]]\nname = {}\n{what}\n", quoted(name))
}
