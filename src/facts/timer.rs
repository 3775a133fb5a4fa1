//! Timers on the bench.

use super::bench::{Bench, Rig};
use super::{Claims, reset_by};
use crate::dialect::literal_duration;
use crate::model::sheet::{Counting, DeviceKind, DoneAt, Idle, Past, Phase, PresetUnit, ResetBy, TimerFacts};
use crate::model::{Duration, format_duration};

/// Scans within which everything that is waited for must happen.
const PATIENCE: i64 = 20_000;

/// A timer with a preset of eight units: ticks, or tenths of a second.
struct Measured<'m> {
    rig: &'m Rig<'m>,
    kind: DeviceKind,
    /// Nanoseconds of a unit of the preset.
    unit: i64,
    /// The preset, as the bench takes it.
    preset: i64,
    /// Nanoseconds of a scan: a tenth of a unit.
    scan: i64,
}

pub(super) fn measure(rig: &Rig<'_>, facts: &TimerFacts, claims: &mut Claims<'_>) {
    let unit = if rig.takes_time { PresetUnit::Duration } else { PresetUnit::Ticks };
    claims.hold("timer.unit", &facts.unit, &unit, &rig.bench(super::bench::TEN_MS));
    let Some(tick) = literal_duration(&facts.tick).map(Duration::nanos).filter(|t| *t > 0) else { return };
    let (kind, bench) = kind(rig);
    let Some(kind) = kind else {
        claims.add("kind", &rig.device.kind, "is no timer that comes to an end".to_string(), Some(&bench));
        return;
    };
    claims.hold("kind", &rig.device.kind, &kind, &bench);
    let unit = if rig.takes_time { TENTH } else { tick };
    let preset = if rig.takes_time { 8 * TENTH } else { 8 };
    let at = Measured { rig, kind, unit, preset, scan: (unit / 10).max(1) };
    if kind != rig.device.kind {
        return;
    }
    if !lengths(&at, facts, tick, claims) {
        return;
    }
    at.counting(facts, claims);
    at.done(facts, claims);
    at.idle(facts, claims);
    at.resets(facts, claims);
    at.keeps(claims);
    at.longest(facts, tick, claims);
}

/// Nanoseconds.
const MILLISECOND: i64 = 1_000_000;
/// Nanoseconds of a tenth of a second.
const TENTH: i64 = 100_000_000;

/// What kind of timer it is, by what it does with an input that is on for a while, off, and on again; with the bench that
/// shows it. What the sheet says of its ticks is not believed here.
fn kind<'r>(rig: &'r Rig<'r>) -> (Option<DeviceKind>, Bench<'r>) {
    let bench = || {
        let mut bench = rig.bench(MILLISECOND);
        bench.preset(if rig.takes_time { 8 * TENTH } else { 8 });
        bench.scans(3);
        bench.set("Input", true);
        bench
    };
    let mut first = bench();
    first.scans(2);
    let at_once = first.done();
    let length = (0..PATIENCE).find(|_| {
        first.scans(1);
        first.done() != at_once
    });
    match (at_once, length) {
        // It is on at once: it ends by itself, or not as long as the input is on.
        (true, Some(_)) => (Some(DeviceKind::Pulse), first),
        (true, None) => (Some(DeviceKind::OffDelay), first),
        (false, None) => (None, first),
        (false, Some(length)) => {
            // Five eighths, a pause, and five again: only what is kept comes to an end.
            let mut second = bench();
            second.scans(length * 5 / 8);
            second.set("Input", false);
            second.scans(length / 8 + 1);
            second.set("Input", true);
            second.scans(length * 5 / 8);
            let kind = if second.done() { DeviceKind::Retentive } else { DeviceKind::OnDelay };
            (Some(kind), second)
        }
    }
}

/// How long it takes: the length of a tick, and where ticks begin. False if it never ends.
fn lengths(at: &Measured<'_>, facts: &TimerFacts, tick: i64, claims: &mut Claims<'_>) -> bool {
    let mut took: Vec<i64> = Vec::new();
    let mut bench = at.begin(3);
    for offset in 0..10 {
        bench = at.begin(3 + offset);
        let Some(time) = at.ends(&mut bench) else {
            claims.add("timer.tick", &facts.tick, "does not come to an end".to_string(), Some(&bench));
            return false;
        };
        took.push(time);
    }
    let (least, most) = (took.iter().min().copied().unwrap_or(0), took.iter().max().copied().unwrap_or(0));
    let phase = if most == least { Phase::Own } else { Phase::Common };
    claims.hold("timer.phase", &facts.phase, &phase, &bench);
    let mut twice = at.rig.bench(at.scan);
    twice.preset(2 * at.preset);
    at.start(&mut twice, 3);
    let longer = at.ends(&mut twice).unwrap_or(0);
    // Eight units more take eight ticks more; where ticks run on by themselves the beginning may be off by one.
    let measured = (longer - most) / 8;
    let off = (measured - at.unit).abs();
    if off > if phase == Phase::Own { 0 } else { at.unit / 8 + at.scan } {
        let what = format!("eight units more take {} more", format_duration(Duration::from_nanos(longer - most)));
        claims.add("timer.tick", &facts.tick, what, Some(&twice));
        return false;
    }
    // A millisecond is as fine as durations are given from outside; what is finer need not be cut.
    if at.rig.takes_time && tick > MILLISECOND {
        at.cut(facts, tick, claims);
    }
    true
}

impl Measured<'_> {
    fn begin(&self, before: i64) -> Bench<'_> {
        let mut bench = self.rig.bench(self.scan);
        bench.preset(self.preset);
        self.start(&mut bench, before);
        bench
    }

    /// Starts the timer: its input comes, or comes and goes.
    fn start(&self, bench: &mut Bench<'_>, before: i64) {
        bench.scans(before);
        bench.set("Input", true);
        bench.scans(1);
        if self.kind == DeviceKind::OffDelay {
            bench.scans(2);
            bench.set("Input", false);
            bench.scans(1);
        }
    }

    /// The done bit while the timer has not ended.
    fn waiting(&self) -> bool {
        match self.kind {
            DeviceKind::OffDelay | DeviceKind::Pulse => true,
            DeviceKind::OnDelay
            | DeviceKind::Retentive
            | DeviceKind::CountUp
            | DeviceKind::CountDown
            | DeviceKind::CountBoth
            | DeviceKind::Latch
            | DeviceKind::Rise
            | DeviceKind::Fall => false,
        }
    }

    /// Nanoseconds from the start to the end.
    fn ends(&self, bench: &mut Bench<'_>) -> Option<i64> {
        let began = bench.now;
        for _ in 0..PATIENCE {
            if bench.done() != self.waiting() {
                return Some(bench.now - began);
            }
            bench.scans(1);
        }
        None
    }

    /// Durations are cut to whole ticks.
    fn cut(&self, facts: &TimerFacts, tick: i64, claims: &mut Claims<'_>) {
        let mut bench = self.rig.bench((tick / 10).max(1));
        bench.preset(10 * tick + tick / 2);
        self.start(&mut bench, 3);
        let late = if facts.done == DoneAt::NextScan { bench.scan } else { 0 };
        let whole = 10 * tick + late;
        match self.ends(&mut bench) {
            Some(took) if took == whole => {}
            Some(took) => {
                let what =
                    format!("a preset of ten and a half ticks takes {}", format_duration(Duration::from_nanos(took)));
                claims.add("timer.tick", &facts.tick, what, Some(&bench));
            }
            None => claims.add("timer.tick", &facts.tick, "does not come to an end".to_string(), Some(&bench)),
        }
    }

    fn counting(&self, facts: &TimerFacts, claims: &mut Claims<'_>) {
        let mut bench = self.begin(3);
        bench.scans(15);
        let early = bench.number();
        bench.scans(30);
        let counts = if bench.number() >= early { Counting::Up } else { Counting::Down };
        claims.hold("timer.counts", &facts.counts, &counts, &bench);
        bench.scans(160);
        let goal = if counts == Counting::Up { self.preset } else { 0 };
        let past = if bench.number() == goal { Past::Stops } else { Past::RunsOn };
        if past != facts.past {
            let what = format!("shows {} when twice the preset has passed", bench.shown());
            claims.add("timer.past", &facts.past, what, Some(&bench));
        }
    }

    /// Whether the done bit changes when the number gets to its goal, or a scan later.
    fn done(&self, facts: &TimerFacts, claims: &mut Claims<'_>) {
        let goal = if facts.counts == Counting::Up { self.preset } else { 0 };
        let mut bench = self.begin(3);
        let mut reached = None;
        for scan in 0..PATIENCE {
            let there = if facts.counts == Counting::Up { bench.number() >= goal } else { bench.number() <= goal };
            if there && reached.is_none() {
                reached = Some(scan);
            }
            if bench.done() != self.waiting() {
                let late = reached.map_or(0, |first| scan - first);
                let at = if late == 0 { DoneAt::Once } else { DoneAt::NextScan };
                claims.hold("timer.done", &facts.done, &at, &bench);
                return;
            }
            bench.scans(1);
        }
    }

    /// Not executed for longer than the preset.
    fn idle(&self, facts: &TimerFacts, claims: &mut Claims<'_>) {
        let mut bench = self.begin(3);
        bench.scans(3);
        bench.set("Skip", true);
        bench.scans(120);
        bench.set("Skip", false);
        bench.scans(2);
        let idle = if bench.done() == self.waiting() { Idle::StandsStill } else { Idle::GoesOn };
        claims.hold("timer.idle", &facts.idle, &idle, &bench);
    }

    fn resets(&self, facts: &TimerFacts, claims: &mut Claims<'_>) {
        let mut bench = self.begin(3);
        let by = reset_by(self.rig.device);
        if by != facts.reset {
            claims.hold("timer.reset", &facts.reset, &by, &bench);
            return;
        }
        if by == ResetBy::None || self.kind == DeviceKind::OffDelay {
            return;
        }
        bench.scans(40);
        bench.set("Reset", true);
        bench.scans(2);
        let rest = if facts.counts == Counting::Up { 0 } else { self.preset };
        if bench.number() != rest || bench.done() {
            let what = format!("shows {} while it is reset", bench.shown());
            claims.add("timer.reset", &facts.reset, what, Some(&bench));
        }
    }

    /// What was elapsed survives the power, or does not.
    fn keeps(&self, claims: &mut Claims<'_>) {
        if self.kind != DeviceKind::Retentive {
            return;
        }
        let mut bench = self.begin(3);
        bench.scans(40);
        bench.set("Input", false);
        bench.scans(1);
        let before = bench.number();
        bench.power_cycle();
        bench.scans(1);
        claims.hold("retained", &self.rig.device.retained, &(bench.number() == before), &bench);
    }

    /// The largest preset is one that it can wait for.
    fn longest(&self, facts: &TimerFacts, tick: i64, claims: &mut Claims<'_>) {
        let length = facts.most.saturating_mul(tick);
        let preset = if self.rig.takes_time { length } else { facts.most };
        let scan = (length / 400).max(tick);
        let mut bench = self.rig.bench(scan);
        let fits = bench.preset(preset);
        self.start(&mut bench, 3);
        bench.scans(200);
        let early = bench.done() != self.waiting();
        bench.scans(220);
        let ended = bench.done() != self.waiting();
        if !fits || early || !ended || bench.is_stopped() {
            let what = match (fits, early) {
                (false, _) => "its preset does not hold so much",
                (true, true) => "it ends before half of that is over",
                (true, false) => "it has not ended when that is over",
            };
            claims.add("timer.most", &facts.most, what.to_string(), Some(&bench));
        }
    }
}
