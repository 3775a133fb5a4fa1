//! Counters on the bench.

use super::bench::{Bench, Rig, TEN_MS};
use super::{Claims, reset_by};
use crate::model::sheet::{CounterFacts, Counting, DeviceKind, DoneWhen, Limit, PowerUp, ResetBy, Role, Trigger};

pub(super) fn measure(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    let before = claims.out.len();
    counts(rig, facts, claims);
    // What makes it count must be known before counts say anything.
    if claims.out.len() > before {
        return;
    }
    power_up(rig, facts, claims);
    at_the_preset(rig, facts, claims);
    resets(rig, facts, claims);
    limits(rig, facts, claims);
}

/// A counter that is ready: of one that counts down the preset is loaded.
fn ready<'r>(rig: &'r Rig<'r>, preset: i64) -> Bench<'r> {
    let mut bench = rig.bench(TEN_MS);
    bench.preset(preset);
    bench.scans(1);
    if rig.device.kind == DeviceKind::CountDown {
        bench.set("Load", true);
        bench.scans(1);
        bench.set("Load", false);
        bench.scans(1);
    }
    bench
}

/// How often it counts while its input is on, and which way the number runs.
fn counts(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    let mut bench = ready(rig, 100);
    let rest = bench.number();
    bench.set("Input", true);
    bench.scans(3);
    let moved = bench.number() - rest;
    let trigger = match moved.abs() {
        1 => Trigger::Rise,
        3 => Trigger::EveryScan,
        other => {
            let what = format!("counts {other} in three scans of an input that is on");
            claims.add("counter.trigger", &facts.trigger, what, Some(&bench));
            return;
        }
    };
    claims.hold("counter.trigger", &facts.trigger, &trigger, &bench);
    let counts = if moved > 0 { Counting::Up } else { Counting::Down };
    claims.hold("counter.counts", &facts.counts, &counts, &bench);
}

/// An input that is on when the counter first executes, and when the power comes back.
fn power_up(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    if rig.device.kind == DeviceKind::CountDown || facts.trigger == Trigger::EveryScan {
        return;
    }
    let mut bench = rig.bench(TEN_MS);
    bench.preset(100);
    bench.set("Input", true);
    bench.scans(1);
    let counted = |bench: &Bench<'_>| if facts.counts == Counting::Up { bench.number() } else { 100 - bench.number() };
    let first = counted(&bench);
    bench.power_cycle();
    bench.scans(1);
    let again = counted(&bench);
    let kept = if rig.device.retained { first } else { 0 };
    let power_up = match (first, again - kept) {
        (0, _) => PowerUp::Ignored,
        (_, 0) => PowerUp::Remembered,
        (_, _) => PowerUp::Counts,
    };
    claims.hold("counter.power-up", &facts.power_up, &power_up, &bench);
    if rig.device.retained && again < first {
        let what = format!("shows {} after a power cycle", bench.shown());
        claims.add("retained", &true, what, Some(&bench));
    }
}

/// Done at the preset, and beyond it.
fn at_the_preset(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    let mut bench = ready(rig, 2);
    bench.pulses("Input", 1);
    let early = bench.done();
    bench.pulses("Input", 1);
    if early || !bench.done() {
        let what = if early { "is done before the preset" } else { "is not done at the preset" };
        claims.add("counter.done", &facts.done, what.to_string(), Some(&bench));
        return;
    }
    let there = bench.number();
    bench.pulses("Input", 2);
    let stays = bench.number() == there;
    let by_limit = rig.device.kind == DeviceKind::CountDown && facts.least == 0;
    if stays != (facts.limit == Limit::Preset || by_limit) {
        let what = format!("shows {} two counts beyond the preset", bench.shown());
        claims.add("counter.limit", &facts.limit, what, Some(&bench));
    }
    let done = if bench.done() { DoneWhen::AtLeast } else { DoneWhen::Equal };
    if !stays {
        claims.hold("counter.done", &facts.done, &done, &bench);
    }
    let mut bench = ready(rig, facts.most_preset);
    let fits = bench.preset(facts.most_preset);
    bench.pulses("Input", 1);
    if !fits || (bench.done() && facts.most_preset > 1) {
        let what = if fits { "is done at the first count" } else { "its preset does not hold so much" };
        claims.add("counter.most-preset", &facts.most_preset, what.to_string(), Some(&bench));
    }
}

fn resets(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    let mut bench = ready(rig, 5);
    let rest = bench.number();
    let by = reset_by(rig.device);
    if by != facts.reset || by == ResetBy::None {
        claims.hold("counter.reset", &facts.reset, &by, &bench);
        return;
    }
    bench.pulses("Input", 3);
    bench.set("Reset", true);
    bench.pulses("Input", 2);
    if bench.number() != rest {
        let what = format!("shows {} while it is reset and counts", bench.shown());
        claims.add("counter.reset", &facts.reset, what, Some(&bench));
    }
}

/// At the ends of its number.
fn limits(rig: &Rig<'_>, facts: &CounterFacts, claims: &mut Claims<'_>) {
    // Counts are tried one by one, which a number of 32 bits does not bear.
    const MOST_TRIED: i64 = 70_000;
    if facts.limit == Limit::Preset {
        return;
    }
    let end = |claims: &mut Claims<'_>, bench: &Bench<'_>, limit: i64, other: i64, key: &str| {
        let measured = match bench.number() {
            n if n == limit => Limit::Most,
            n if n == other => Limit::Wraps,
            _ => {
                let what = format!("shows {} one count beyond it", bench.shown());
                claims.add(key, &limit, what, Some(bench));
                return;
            }
        };
        claims.hold("counter.limit", &facts.limit, &measured, bench);
    };
    if rig.device.kind != DeviceKind::CountDown && facts.most < MOST_TRIED && facts.trigger == Trigger::Rise {
        let mut bench = ready(rig, 5);
        bench.pulses("Input", facts.most + 1);
        end(claims, &bench, facts.most, facts.least, "counter.most");
    }
    let down = match rig.device.kind {
        DeviceKind::CountDown => "Input",
        DeviceKind::CountBoth if rig.device.pins.contains_key(&Role::Down) => "Down",
        DeviceKind::CountBoth => "Input",
        DeviceKind::CountUp
        | DeviceKind::OnDelay
        | DeviceKind::OffDelay
        | DeviceKind::Pulse
        | DeviceKind::Retentive
        | DeviceKind::Latch
        | DeviceKind::Rise
        | DeviceKind::Fall => return,
    };
    if facts.least > -MOST_TRIED {
        let mut bench = ready(rig, 5);
        bench.set("Upward", false);
        let from = bench.number();
        bench.pulses(down, from - facts.least + 1);
        end(claims, &bench, facts.least, facts.most, "counter.least");
    }
}
