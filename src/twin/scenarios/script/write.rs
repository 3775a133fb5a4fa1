//! A found scenario as lines, so that it reads as one would say it, and can be read back.

use crate::model::{Duration, Elem, format_duration};
use crate::scan::{PointType, Power, ScanTime};
use crate::twin::scenario::{Act, Change, Scenario, value};
use crate::twin::{Timing, Twin};

/// The lines of a scenario. Times are written where all scans are equally long, numbers of scans elsewhere.
pub(crate) fn lines(twin: &Twin<'_>, scenario: &Scenario) -> Vec<String> {
    let mut out = Vec::new();
    let mut now: Vec<i64> = twin.pairing.inputs.iter().map(|p| p.rest.unwrap_or(0)).collect();
    block(twin, &scenario.acts, "", &mut now, &mut out);
    out
}

fn lapse(twin: &Twin<'_>, scans: u64) -> String {
    let step = match &twin.timing {
        Timing::Lockstep(ScanTime::Fixed(time)) => Some(time.nanos()),
        Timing::Lockstep(_) => None,
        Timing::Free(_) => Some(twin.timing.longest().nanos()),
    };
    match step {
        Some(step) => format_duration(Duration::from_nanos(step.saturating_mul(scans as i64))),
        None if scans == 1 => "1 scan".to_string(),
        None => format!("{scans} scans"),
    }
}

fn name<'t>(twin: &'t Twin<'_>, input: usize) -> &'t str {
    &twin.pairing.inputs[input].name
}

fn is_bool(twin: &Twin<'_>, input: usize) -> bool {
    let pair = &twin.pairing.inputs[input];
    twin.left.machine.point(pair.left).ty == PointType::Elem(Elem::Bool)
}

fn set(twin: &Twin<'_>, change: Change) -> String {
    let name = name(twin, change.input);
    if is_bool(twin, change.input) {
        return format!("set {name} {}", if change.value != 0 { "on" } else { "off" });
    }
    format!("set {name} to {}", value(twin, twin.pairing.inputs[change.input].left, change.value).cell())
}

/// On for so many scans and off again: the input, and how long.
fn press(twin: &Twin<'_>, acts: &[Act], now: &[i64]) -> Option<(usize, u64)> {
    match acts {
        [Act::Set(on), Act::Wait(scans), Act::Set(off), ..]
            if on.input == off.input
                && is_bool(twin, on.input)
                && on.value == 1
                && off.value == 0
                && now[on.input] == 0 =>
        {
            Some((on.input, *scans))
        }
        _ => None,
    }
}

fn block(twin: &Twin<'_>, acts: &[Act], indent: &str, now: &mut Vec<i64>, out: &mut Vec<String>) {
    let mut at = 0;
    while let Some(act) = acts.get(at) {
        if let Some((input, scans)) = press(twin, &acts[at..], now) {
            out.push(format!("{indent}press {} for {}", name(twin, input), lapse(twin, scans)));
            at += 3;
            continue;
        }
        match act {
            Act::Set(change) => {
                now[change.input] = change.value;
                out.push(format!("{indent}{}", set(twin, *change)));
            }
            Act::Power(power) => out.push(format!(
                "{indent}{}",
                match power {
                    Power::Cycle => "power cycle",
                    Power::Cold => "cold start",
                    Power::Stop => "stop",
                    Power::Run => "run",
                }
            )),
            Act::Wait(scans) => out.push(format!("{indent}wait {}", lapse(twin, *scans))),
            Act::Repeat(times, body) => match (press(twin, body, now), body.as_slice()) {
                (Some((input, on)), [_, _, _, Act::Wait(off)]) => out.push(format!(
                    "{indent}press {} {times} times, {} on, {} off",
                    name(twin, input),
                    lapse(twin, on),
                    lapse(twin, *off)
                )),
                _ => {
                    out.push(format!("{indent}repeat {times} times"));
                    block(twin, body, &format!("{indent}    "), now, out);
                    out.push(format!("{indent}end"));
                }
            },
        }
        at += 1;
    }
}
