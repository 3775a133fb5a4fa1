//! Counters: which way they count, where they end, when they are done.

use super::expr::{binary, constant, field, function, int};
use super::facts::{Combine, Draft, Native};
use super::timer::retention;
use super::usage::Usage;
use crate::model::Expr;
use crate::model::ops::BinaryOp;
use crate::model::sheet::{
    CounterFacts, Counting, Device, DeviceKind, DoneWhen, Limit, PowerUp, ResetBy, Role, Trigger,
};
use crate::translate::Grade::{Conditional, Exact};
use crate::translate::ledger::{
    COUNT_DIRECTION, COUNT_LIMIT, DONE_COMPARED, NATIVE_DEVICE, POWER_UP_INPUT, READ_NUMBER,
};
use std::collections::HashMap;

/// Takes a counter of one sheet to one of another; `None` if that has not the means.
pub(super) fn plan(name: &str, from: &Device, (number, to): (usize, &Device), usage: &Usage) -> Option<Native> {
    let (source, target) = (from.counter.as_ref()?, to.counter.as_ref()?);
    let combine = direction(from, to, usage)?;
    if source.trigger != target.trigger || source.trigger == Trigger::EveryScan && combine != Combine::Each {
        return None;
    }
    for role in [Role::Reset, Role::Load] {
        if usage.gives(from, role) && !to.pins.contains_key(&role) {
            return None;
        }
    }
    if source.reset != ResetBy::None && usage.gives(from, Role::Reset) && target.reset == ResetBy::None {
        return None;
    }
    if usage.reads(from, Role::Overflowed) && !to.pins.contains_key(&Role::Overflowed) {
        return None;
    }
    let constants: Vec<Option<i64>> = usage.presets.iter().map(constant).collect();
    if constants.iter().flatten().any(|p| *p > target.most_preset || *p < 0) {
        return None;
    }
    let mut drafts = Vec::new();
    if constants.contains(&None) && source.most_preset > target.most_preset {
        let reason = format!("its preset is a variable; the same as long as that is at most {}", target.most_preset);
        drafts.push(Draft::new(COUNT_LIMIT, Conditional, 8, reason));
    }
    differences(source, target, combine, &mut drafts);
    retention(from, to, &mut drafts);
    let mut all = usage.presets.iter();
    let preset = all.next().filter(|first| all.all(|p| p == *first)).cloned();
    let ends = Ends { name, from, to, source, target, preset };
    let outputs = ends.outputs(usage, &mut drafts)?;
    let reason = format!("`{name}` became a `{}`: {}", to.block, to.name);
    let mismatches = drafts.len();
    drafts.insert(0, Draft { code: NATIVE_DEVICE, grade: Exact, reason, trap: None });
    // A counter of the same kind before one that can do more.
    let nearness = i64::from(from.kind != to.kind) + i64::from(from.retained != to.retained);
    Some(Native { device: number, combine, scale: None, outputs, drafts, cost: (0, mismatches, nearness) })
}

/// How the count inputs go over.
fn direction(from: &Device, to: &Device, usage: &Usage) -> Option<Combine> {
    let has = |d: &Device, role| d.pins.contains_key(&role);
    match (from.kind, to.kind) {
        (DeviceKind::CountDown, DeviceKind::CountDown) => Some(Combine::Each),
        (DeviceKind::CountDown, _) | (_, DeviceKind::CountDown) => None,
        _ => {
            let down = usage.gives(from, Role::Down);
            let way = usage.gives(from, Role::Direction);
            match (down, way) {
                (false, false) => Some(Combine::Each),
                (true, _) if has(to, Role::Down) => Some(Combine::Each),
                (_, true) if has(to, Role::Direction) => Some(Combine::Each),
                (true, _) if has(to, Role::Direction) && !usage.apart(from, Role::Count, Role::Down) => {
                    Some(Combine::ToDirection)
                }
                (_, true) if has(to, Role::Down) && !usage.apart(from, Role::Count, Role::Direction) => {
                    Some(Combine::FromDirection)
                }
                _ => None,
            }
        }
    }
}

fn differences(source: &CounterFacts, target: &CounterFacts, combine: Combine, drafts: &mut Vec<Draft>) {
    if source.power_up != target.power_up {
        let does = |p: PowerUp| match p {
            PowerUp::Counts => "counts one",
            PowerUp::Ignored => "counts none",
            PowerUp::Remembered => "counts one only if it was off before the power went",
        };
        let reason = format!(
            "an input that is on when it first executes {}, where it {} before",
            does(target.power_up),
            does(source.power_up).replace("counts", "counted")
        );
        drafts.push(Draft::new(POWER_UP_INPUT, Conditional, 7, reason));
    }
    match combine {
        Combine::ToDirection => drafts.push(Draft::new(
            COUNT_DIRECTION,
            Conditional,
            11,
            "one count input with a direction: an edge of one input while the other is on is not counted",
        )),
        Combine::FromDirection => drafts.push(Draft::new(
            COUNT_DIRECTION,
            Conditional,
            11,
            "two count inputs: a direction that turns while the count input is on counts once more",
        )),
        Combine::Each | Combine::GateReset | Combine::SetWins | Combine::ResetWins => {}
    }
}

/// What is read of a counter.
struct Ends<'e> {
    name: &'e str,
    from: &'e Device,
    to: &'e Device,
    source: &'e CounterFacts,
    target: &'e CounterFacts,
    preset: Option<Expr>,
}

impl Ends<'_> {
    fn outputs(&self, usage: &Usage, drafts: &mut Vec<Draft>) -> Option<HashMap<Role, Expr>> {
        let mut out = HashMap::new();
        if usage.reads(self.from, Role::Done) {
            out.insert(Role::Done, self.done(drafts)?);
        }
        if usage.reads(self.from, Role::Value) {
            out.insert(Role::Value, self.value(usage, drafts)?);
        }
        if usage.reads(self.from, Role::AtZero) {
            let own = self.to.pins.get(&Role::AtZero).map(|pin| field(self.name, pin));
            let value = field(self.name, self.to.pins.get(&Role::Value)?);
            out.insert(Role::AtZero, own.unwrap_or_else(|| binary(BinaryOp::Le, value, int(0))));
        }
        if let Some(pin) = self.to.pins.get(&Role::Overflowed) {
            out.insert(Role::Overflowed, field(self.name, pin));
        }
        Some(out)
    }

    fn done(&self, drafts: &mut Vec<Draft>) -> Option<Expr> {
        let own = field(self.name, self.to.pins.get(&Role::Done)?);
        if self.source.limit == Limit::Wraps || self.target.limit == Limit::Wraps {
            self.limits(drafts);
        }
        // A count that stays at the preset is equal and at least at once.
        let same = self.source.done == self.target.done
            || (self.source.limit == Limit::Preset && self.target.limit == Limit::Preset);
        if same || self.from.kind == DeviceKind::CountDown {
            return Some(own);
        }
        let value = field(self.name, self.to.pins.get(&Role::Value)?);
        let preset = self.preset.clone()?;
        let op = match self.source.done {
            DoneWhen::Equal if self.target.limit == Limit::Preset => {
                let reason = "it is done at its preset and beyond, where it was done at its preset only";
                drafts.push(Draft::new(DONE_COMPARED, Conditional, 9, reason));
                return Some(own);
            }
            DoneWhen::Equal => BinaryOp::Eq,
            DoneWhen::AtLeast => BinaryOp::Ge,
        };
        let positive = constant(&preset).is_some_and(|p| p > 0);
        let words = if op == BinaryOp::Eq { "equal to" } else { "at least" };
        let mut reason = format!("done is asked as a count {words} the preset");
        if !positive {
            reason.push_str("; the same once it has executed");
        }
        drafts.push(Draft::new(DONE_COMPARED, if positive { Exact } else { Conditional }, 9, reason));
        Some(binary(op, value, preset))
    }

    fn value(&self, usage: &Usage, drafts: &mut Vec<Draft>) -> Option<Expr> {
        let own = field(self.name, self.to.pins.get(&Role::Value)?);
        if self.from.kind == DeviceKind::CountDown {
            self.limits(drafts);
            return Some(own);
        }
        let mut value = own;
        let both = usage.gives(self.from, Role::Down) || usage.gives(self.from, Role::Direction);
        if self.target.counts == Counting::Down {
            value = binary(BinaryOp::Sub, self.preset.clone()?, value);
        }
        if self.source.limit == Limit::Preset && self.target.limit != Limit::Preset && !both {
            value = function("MIN", vec![value, self.preset.clone()?]);
            let reason = "its count goes on past the preset; it is read as at most the preset, where it stayed";
            drafts.push(Draft::new(COUNT_LIMIT, Exact, 8, reason));
            if self.target.limit == Limit::Wraps {
                self.limits(drafts);
            }
        } else {
            self.limits(drafts);
        }
        if self.source.counts == Counting::Down {
            value = binary(BinaryOp::Sub, self.preset.clone()?, value);
        }
        if self.source.counts == Counting::Down || self.target.counts == Counting::Down {
            let reason = "what is read of it is reckoned from the preset: before it first executes, and where the preset changes, that is not the same";
            drafts.push(Draft::new(READ_NUMBER, Conditional, 2, reason));
        }
        Some(value)
    }

    /// Says that the count ends elsewhere.
    fn limits(&self, drafts: &mut Vec<Draft>) {
        let words = |facts: &CounterFacts| match facts.limit {
            Limit::Preset => "stays at the preset".to_string(),
            Limit::Most => format!("stays at {} and {}", facts.least, facts.most),
            Limit::Wraps => format!("starts over beyond {}", facts.most),
        };
        let (old, new) = (words(self.source), words(self.target));
        if old != new && !drafts.iter().any(|d| d.code == COUNT_LIMIT && d.grade == Conditional) {
            let reason =
                format!("its count {new}, where it {}", old.replace("stays", "stayed").replace("starts", "started"));
            drafts.push(Draft::new(COUNT_LIMIT, Conditional, 8, reason));
        }
    }
}
