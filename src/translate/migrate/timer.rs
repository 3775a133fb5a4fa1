//! Timers: ticks and durations, elapsed up and down, and what the facts of the two sheets say is not the same.

use super::expr::{binary, constant, duration, field, function, int};
use super::facts::{Combine, Draft, Native, Scale};
use super::usage::Usage;
use crate::dialect::literal_duration;
use crate::model::ops::BinaryOp;
use crate::model::sheet::{
    Counting, Device, DeviceKind, DoneAt, Idle, Past, Phase, PresetUnit, ResetBy, Role, TimerFacts,
};
use crate::model::{Duration, Expr, ExprKind, LiteralValue, format_duration};
use crate::translate::Grade::{Approximate, Conditional};
use crate::translate::ledger::{
    DONE_LATER, NATIVE_DEVICE, NOT_EXECUTED, POWER_CYCLE, PRESET_CUT, READ_NUMBER, TICK_PHASE,
};
use std::collections::HashMap;

/// Takes a timer of one sheet to one of another; `None` if that has not the means.
pub(super) fn plan(name: &str, from: &Device, (number, to): (usize, &Device), usage: &Usage) -> Option<Native> {
    let (source, target) = (from.timer.as_ref()?, to.timer.as_ref()?);
    if from.kind != to.kind {
        return None;
    }
    let scale = Scale {
        from_duration: source.unit == PresetUnit::Duration,
        from_tick: tick(source)?,
        to_duration: target.unit == PresetUnit::Duration,
        to_tick: tick(target)?,
    };
    let mut drafts = Vec::new();
    let off = presets(name, scale, to, usage, &mut drafts)?;
    let combine = reset(from, to, source, target, usage)?;
    differences(source, target, scale, &mut drafts);
    retention(from, to, &mut drafts);
    let mut outputs = HashMap::new();
    outputs.insert(Role::Done, field(name, to.pins.get(&Role::Done)?));
    if usage.reads(from, Role::Elapsed) {
        outputs.insert(Role::Elapsed, elapsed(name, source, to, scale, usage, &mut drafts)?);
    }
    for role in [Role::Timing, Role::Enabled] {
        if usage.reads(from, role) {
            outputs.insert(role, status(name, role, from, to)?);
        }
    }
    let mismatches = drafts.iter().filter(|d| d.grade != crate::translate::Grade::Exact).count();
    // What fits exactly goes to the tick that is nearest to the old one; what does not, to the finest.
    let nearness = if off > 0 { scale.to_tick } else { (scale.to_tick - scale.from_tick).abs() };
    Some(Native { device: number, combine, scale: Some(scale), outputs, drafts, cost: (off, mismatches, nearness) })
}

fn tick(facts: &TimerFacts) -> Option<i64> {
    literal_duration(&facts.tick).map(Duration::nanos)
}

pub(super) fn said(nanos: i64) -> String {
    format_duration(Duration::from_nanos(nanos))
}

/// Compares elapsed time of the source with a constant, where that is plainer than reckoning it back: whole ticks are at
/// least `n` when the time is at least that of `n` ticks.
pub(super) fn compared(plan: &Native, op: BinaryOp, ticks: i64) -> Option<(BinaryOp, Expr)> {
    let scale = plan.scale.filter(|s| s.to_duration && !s.from_duration)?;
    let time = |ticks: i64| duration(ticks.saturating_mul(scale.from_tick));
    match op {
        BinaryOp::Ge | BinaryOp::Lt => Some((op, time(ticks))),
        BinaryOp::Gt => Some((BinaryOp::Ge, time(ticks.checked_add(1)?))),
        BinaryOp::Le => Some((BinaryOp::Lt, time(ticks.checked_add(1)?))),
        BinaryOp::Or
        | BinaryOp::Xor
        | BinaryOp::And
        | BinaryOp::Eq
        | BinaryOp::Ne
        | BinaryOp::Add
        | BinaryOp::Sub
        | BinaryOp::Mul
        | BinaryOp::Div
        | BinaryOp::Mod
        | BinaryOp::Power => None,
    }
}

/// The time that a constant preset means, in nanoseconds.
fn span(scale: Scale, preset: i64) -> i64 {
    let preset = preset.max(0);
    if scale.from_duration {
        preset / scale.from_tick * scale.from_tick
    } else {
        preset.saturating_mul(scale.from_tick)
    }
}

/// Holds the presets against the target; gives how far off the worst of them is.
fn presets(name: &str, scale: Scale, to: &Device, usage: &Usage, drafts: &mut Vec<Draft>) -> Option<i64> {
    let (target, block) = (to.timer.as_ref()?, &to.block);
    let mut worst = 0;
    let unit = |ticks: i64| format!("{ticks} ticks of {}", said(scale.from_tick));
    for preset in &usage.presets {
        let Some(value) = constant(preset) else {
            variable_preset(name, scale, target, drafts);
            continue;
        };
        let time = span(scale, value);
        let ticks = time / scale.to_tick;
        if ticks > target.most {
            return None;
        }
        let off = time - ticks * scale.to_tick;
        worst = worst.max(off);
        let old = if scale.from_duration { said(time) } else { format!("{} ({})", unit(value), said(time)) };
        let new = if scale.to_duration {
            said(ticks * scale.to_tick)
        } else {
            format!("{ticks} ticks of {}", said(scale.to_tick))
        };
        if off > 0 {
            let reason = format!("`{name}` became a `{block}`: {old} became {new}, which is {} short", said(off));
            drafts.push(Draft::new(PRESET_CUT, Approximate, 1, reason));
        } else {
            let reason = format!("`{name}` became a `{block}`: {old} became {new}");
            drafts.push(Draft { code: NATIVE_DEVICE, grade: crate::translate::Grade::Exact, reason, trap: Some(1) });
        }
    }
    Some(worst)
}

fn variable_preset(name: &str, scale: Scale, target: &TimerFacts, drafts: &mut Vec<Draft>) {
    let divides = scale.from_tick % scale.to_tick == 0;
    if !divides {
        let reason = format!("`{name}`: its preset is a variable, and is cut to whole {}", said(scale.to_tick));
        drafts.push(Draft::new(PRESET_CUT, Approximate, 1, reason));
    } else if !scale.to_duration && (scale.from_duration || scale.from_tick > scale.to_tick) {
        let reason = format!(
            "`{name}`: its preset is a variable; the same as long as it is at most {}",
            said(target.most.min(32_767).saturating_mul(scale.to_tick))
        );
        drafts.push(Draft::new(PRESET_CUT, Conditional, 19, reason));
    }
}

/// A preset of the source as one of the target.
pub(super) fn convert(scale: Scale, preset: Expr) -> Expr {
    if let Some(value) = constant(&preset) {
        let ticks = span(scale, value) / scale.to_tick;
        return if scale.to_duration { duration(ticks * scale.to_tick) } else { int(ticks) };
    }
    let millis = |tick: i64| int(tick / 1_000_000);
    match (scale.from_duration, scale.to_duration) {
        (false, true) => binary(BinaryOp::Mul, duration(scale.from_tick), preset),
        (false, false) if scale.from_tick == scale.to_tick => preset,
        (false, false) if scale.from_tick > scale.to_tick => {
            binary(BinaryOp::Mul, preset, int(scale.from_tick / scale.to_tick))
        }
        (false, false) => binary(BinaryOp::Div, preset, int(scale.to_tick / scale.from_tick)),
        (true, true) if scale.from_tick <= 1_000_000 => preset,
        (true, true) => cut(preset, scale.from_tick),
        (true, false) => {
            let ticks = binary(BinaryOp::Div, function("TIME_TO_LINT", vec![preset]), millis(scale.to_tick));
            function("LINT_TO_INT", vec![ticks])
        }
    }
}

/// A duration, cut to a multiple.
fn cut(value: Expr, tick: i64) -> Expr {
    let count = binary(BinaryOp::Div, function("TIME_TO_LINT", vec![value]), int(tick / 1_000_000));
    binary(BinaryOp::Mul, duration(tick), count)
}

fn reset(from: &Device, to: &Device, source: &TimerFacts, target: &TimerFacts, usage: &Usage) -> Option<Combine> {
    if source.reset == ResetBy::None || !usage.gives(from, Role::Reset) {
        return Some(Combine::Each);
    }
    if target.reset != ResetBy::None && to.pins.contains_key(&Role::Reset) {
        return Some(Combine::Each);
    }
    let together = !usage.apart(from, Role::Run, Role::Reset);
    (from.kind == DeviceKind::OnDelay && together).then_some(Combine::GateReset)
}

fn differences(source: &TimerFacts, target: &TimerFacts, scale: Scale, drafts: &mut Vec<Draft>) {
    let coarse = |facts: &TimerFacts, tick: i64| if facts.phase == Phase::Common { tick } else { 0 };
    let (old, new) = (coarse(source, scale.from_tick), coarse(target, scale.to_tick));
    if old != new {
        let reason = match (old, new) {
            (0, _) => format!("its ticks run on through the scans, so it is done up to {} early", said(new)),
            (_, 0) => {
                format!("its ticks begin with it, where they ran on through the scans: done up to {} late", said(old))
            }
            _ => format!(
                "ticks of {} where they were of {}: done up to {} early or {} late",
                said(new),
                said(old),
                said(new),
                said(old)
            ),
        };
        drafts.push(Draft::new(TICK_PHASE, Approximate, 1, reason));
    }
    if source.done != target.done {
        let when = if source.done == DoneAt::Once { "later" } else { "earlier" };
        let reason = format!("its done bit changes one scan {when}");
        drafts.push(Draft::new(DONE_LATER, Approximate, 5, reason));
    }
    if source.idle != target.idle {
        let does = |idle: Idle| if idle == Idle::GoesOn { "goes on" } else { "stands still" };
        let reason = format!(
            "in a scan that does not execute it (it is jumped over) it {}, where it {} before",
            does(target.idle),
            if source.idle == Idle::GoesOn { "went on" } else { "stood still" }
        );
        drafts.push(Draft::new(NOT_EXECUTED, Conditional, 25, reason));
    }
}

pub(super) fn retention(from: &Device, to: &Device, drafts: &mut Vec<Draft>) {
    let reason = match (from.retained, to.retained) {
        (true, false) => "it loses its state over a power cycle, and kept it before",
        (false, true) => "it keeps its state over a power cycle, and did not before",
        (true, true) if from.kind.is_timer() => "both keep their time over a power cycle, each in its own way",
        // The other devices have nothing but their number and what they saw last, and keep both.
        (true, true) | (false, false) => return,
    };
    drafts.push(Draft::new(POWER_CYCLE, Conditional, 18, reason));
}

/// Reading elapsed time of the source, from that of the target.
fn elapsed(
    name: &str,
    source: &TimerFacts,
    to: &Device,
    scale: Scale,
    usage: &Usage,
    drafts: &mut Vec<Draft>,
) -> Option<Expr> {
    let target = to.timer.as_ref()?;
    let down = source.counts == Counting::Down || target.counts == Counting::Down;
    let bounded = source.past == Past::Stops && target.past == Past::RunsOn;
    // With more than one preset nobody can tell which one is meant.
    let mut all = usage.presets.iter();
    let preset = all.next().filter(|first| all.all(|p| p == *first)).cloned();
    if (down || bounded) && preset.is_none() {
        return None;
    }
    let preset = preset.unwrap_or_else(|| int(0));
    let mut value = field(name, to.pins.get(&Role::Elapsed)?);
    if target.counts == Counting::Down {
        value = binary(BinaryOp::Sub, convert(scale, preset.clone()), value);
    }
    let millis = int(scale.from_tick / 1_000_000);
    value = match (scale.to_duration, scale.from_duration) {
        (true, false) => {
            let ticks = binary(BinaryOp::Div, function("TIME_TO_LINT", vec![value]), millis);
            let ticks = if target.past == Past::RunsOn { function("MIN", vec![ticks, int(32_767)]) } else { ticks };
            function("LINT_TO_INT", vec![ticks])
        }
        (true, true) if scale.from_tick > scale.to_tick => cut(value, scale.from_tick),
        (true, true) => value,
        (false, true) => binary(BinaryOp::Mul, duration(scale.to_tick), value),
        (false, false) if scale.to_tick < scale.from_tick => {
            binary(BinaryOp::Div, value, int(scale.from_tick / scale.to_tick))
        }
        (false, false) if scale.to_tick > scale.from_tick => {
            binary(BinaryOp::Mul, value, int(scale.to_tick / scale.from_tick))
        }
        (false, false) => value,
    };
    if scale.to_tick > scale.from_tick {
        let reason = format!(
            "its elapsed time moves in steps of {}, where they were {}",
            said(scale.to_tick),
            said(scale.from_tick)
        );
        drafts.push(Draft::new(READ_NUMBER, Approximate, 1, reason));
    }
    let bound = |value: Expr| {
        // A preset below zero is as one of zero; one that is written out is seen not to be.
        let is_positive = matches!(&preset.kind, ExprKind::Literal(l) if is_above_zero(&l.value));
        let zero = if scale.from_duration { duration(0) } else { int(0) };
        let most = if is_positive { preset.clone() } else { function("MAX", vec![preset.clone(), zero]) };
        function("MIN", vec![value, most])
    };
    if bounded {
        value = bound(value);
        let reason = "its elapsed time runs on past the preset; it is read as at most the preset, where it stayed";
        drafts.push(Draft::new(READ_NUMBER, crate::translate::Grade::Exact, 4, reason));
    } else if source.past == Past::RunsOn && target.past == Past::Stops {
        drafts.push(Draft::new(
            READ_NUMBER,
            Conditional,
            4,
            "its elapsed time stops at the preset, where it ran on past it",
        ));
    }
    if source.counts == Counting::Down {
        value = binary(BinaryOp::Sub, preset, value);
    }
    if down {
        let reason = "what is read of it is reckoned from the preset: before it first executes, and where the preset changes, that is not the same";
        drafts.push(Draft::new(READ_NUMBER, Conditional, 2, reason));
    }
    Some(value)
}

/// A status bit of the source, from what the target has.
fn status(name: &str, role: Role, from: &Device, to: &Device) -> Option<Expr> {
    if let Some(pin) = to.pins.get(&role) {
        return Some(field(name, pin));
    }
    match role {
        // The input as the block saw it last: the block's own input says so.
        Role::Enabled => Some(field(name, to.pins.get(&Role::Run)?)),
        Role::Timing if matches!(from.kind, DeviceKind::OnDelay) => {
            let run = field(name, to.pins.get(&Role::Run)?);
            Some(binary(BinaryOp::And, run, super::expr::not(field(name, to.pins.get(&Role::Done)?))))
        }
        Role::Run
        | Role::Preset
        | Role::Reset
        | Role::Count
        | Role::Down
        | Role::Direction
        | Role::Load
        | Role::Set
        | Role::Done
        | Role::AtZero
        | Role::Elapsed
        | Role::Value
        | Role::Timing
        | Role::Overflowed => None,
    }
}

fn is_above_zero(value: &LiteralValue) -> bool {
    match value {
        LiteralValue::Int(number) => *number > 0,
        LiteralValue::Time(nanos, _) => *nanos > 0,
        LiteralValue::Bool(_) | LiteralValue::Real(_) | LiteralValue::Text(_) => false,
    }
}
